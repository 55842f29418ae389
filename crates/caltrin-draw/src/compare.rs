//! Compares two books, or two lights, on the same lanes.

use caltrin_core::color::Rgb;
use caltrin_core::program::{LaneValue, Light, LightId, Size};
use caltrin_core::quantity::{Hours, Seconds};
use caltrin_core::run::State;
use caltrin_core::trace::LampTrace;
use caltrin_core::{ValidatedProgram, trace};

use crate::columns::{Along, Lamp, Window, day_trace, look_at_all, shown};
use crate::font::Fonts;
use crate::look;
use crate::scale;
use crate::shape::{Anchor, Frame, Ink, Picture, Shape};

/// One side of a comparison.
#[derive(Clone, Debug)]
pub struct Side<'a> {
    /// Its title: a file, a revision, a light.
    pub name: String,
    /// Its book.
    pub checked: &'a ValidatedProgram,
    /// Its seed and inputs.
    pub start: State,
}

impl Side<'_> {
    /// Index of the rehearsal with this name, if the book has one.
    fn rehearsal(&self, name: Option<&str>) -> Option<usize> {
        let all = self.checked.program().rehearsals();
        all.iter().position(|rehearsal| Some(rehearsal.name.as_str()) == name)
    }

    /// The values of one lamp at each time that is compared.
    fn trace(&self, id: LightId, index: u32, options: &CompareOptions) -> LampTrace {
        let moments = options.moments();
        if !options.day {
            let rehearsal = self.rehearsal(options.rehearsal.as_deref());
            let rehearsal = rehearsal.map(|n| &self.checked.program().rehearsals()[n]);
            return LampTrace::rehearsed(
                self.checked,
                (&self.start, rehearsal),
                id,
                index,
                &moments,
            );
        }
        day_trace(self.checked, &self.start, (id, index), MOMENTS)
    }
}

impl CompareOptions {
    fn moments(&self) -> Vec<Seconds> {
        let (from, span) = match self.day {
            true => (0.0, 86_400.0),
            false => (self.from.0, self.to.0 - self.from.0),
        };
        (0..MOMENTS).map(|n| Seconds(from + span * n as f64 / (MOMENTS - 1) as f64)).collect()
    }

    /// Formats a time: seconds, or the hour.
    fn words(&self, moment: usize) -> String {
        let moment = self.moments()[moment];
        match self.day {
            true => Hours((moment.0 / 3600.0).min(23.99)).to_clock(),
            false => format!("{} s", scale::short((moment.0 * 100.0).round() / 100.0)),
        }
    }
}

/// The options of a comparison.
#[derive(Clone, Debug)]
pub struct CompareOptions {
    /// First time, in seconds.
    pub from: Seconds,
    /// Last time, in seconds.
    pub to: Seconds,
    /// Width of the drawing in pixels, 480 to 8192.
    pub width: u32,
    /// One light of each side; `None` compares all lights by name.
    pub pair: Option<(LightId, LightId)>,
    /// Name of the rehearsal that is played on both sides; a side without it runs without a
    /// rehearsal.
    pub rehearsal: Option<String>,
    /// Whether the 24 hours of the game's day are compared instead of the span; no effect if a side
    /// has no clock.
    pub day: bool,
}

/// The result for a light.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Came {
    /// It exists on the second side only.
    Added,
    /// It exists on the first side only.
    Removed,
    /// Its values are equal at all samples.
    Same,
    /// Its values differ.
    Changed,
}

/// The result for one light, with text and figures.
#[derive(Clone, Debug, PartialEq)]
pub struct Change {
    /// The light.
    pub light: String,
    /// The result.
    pub came: Came,
    /// The changes, one sentence each.
    pub words: Vec<String>,
}

const TOP: f32 = 96.0;
const RIGHT: f32 = 24.0;
const LANE: f32 = 132.0;
/// Number of times at which every field is compared.
const MOMENTS: usize = 240;

/// How the lights of two sides differ, in the order of the second side.
pub fn changes(a: &Side<'_>, b: &Side<'_>, options: &CompareOptions) -> Vec<Change> {
    let pairs = pairs(a, b, options.pair);
    pairs.into_iter().map(|pair| change(a, b, pair, options)).collect()
}

/// Compares lights as [`changes`] does. The drawing shows the lights that changed; the list contains all.
pub fn compare(a: &Side<'_>, b: &Side<'_>, options: &CompareOptions) -> (Picture, Vec<Change>) {
    let pairs = pairs(a, b, options.pair);
    let mut changes: Vec<Change> = Vec::new();
    let mut drawn = Vec::new();
    for (first, second) in pairs {
        let change = change(a, b, (first, second), options);
        if let (Some(first), Some(second), Came::Changed) = (first, second, change.came) {
            drawn.push((first, second));
        }
        changes.push(change);
    }
    (picture(a, b, &drawn, &changes, options), changes)
}

/// Lights by name, in the order of the second side, then those that exist on the first side only.
fn pairs(
    a: &Side<'_>,
    b: &Side<'_>,
    pair: Option<(LightId, LightId)>,
) -> Vec<(Option<LightId>, Option<LightId>)> {
    if let Some((first, second)) = pair {
        return vec![(Some(first), Some(second))];
    }
    let (first, second) = (a.checked.program(), b.checked.program());
    let kept = second.lights().map(|(id, light)| (first.light_named(&light.name), Some(id)));
    let gone = first
        .lights()
        .filter(|(_, light)| second.light_named(&light.name).is_none())
        .map(|(id, _)| (Some(id), None));
    kept.chain(gone).collect()
}

/// Maximum number of sparks of a pool that are sampled.
const MOST_SPARKS: u32 = 64;

fn is_pool(side: &Side<'_>, id: LightId) -> bool {
    let program = side.checked.program();
    program.sparks().iter().any(|spark| spark.name == program.light(id).name)
}

/// Number of sparks of a pool that are sampled.
fn pool_of(side: &Side<'_>, id: LightId) -> u32 {
    side.checked.program().light(id).size.shown().min(MOST_SPARKS)
}

fn count(size: Size) -> String {
    match size {
        Size::One => "one lamp".to_owned(),
        Size::Many(n) => format!("{n} lamps"),
        Size::Open => "any number of lamps".to_owned(),
    }
}

fn change(
    a: &Side<'_>,
    b: &Side<'_>,
    pair: (Option<LightId>, Option<LightId>),
    options: &CompareOptions,
) -> Change {
    let (first, second) = match pair {
        (Some(first), Some(second)) => (first, second),
        (None, Some(id)) => {
            let light = b.checked.program().light(id);
            let words = vec![format!("{}, {}", light.kind.name(), count(light.size))];
            return Change { light: light.name.clone(), came: Came::Added, words };
        }
        (Some(id), None) => {
            let light = a.checked.program().light(id);
            return Change { light: light.name.clone(), came: Came::Removed, words: Vec::new() };
        }
        (None, None) => {
            return Change { light: String::new(), came: Came::Same, words: Vec::new() };
        }
    };
    let (before, after) = (a.checked.program().light(first), b.checked.program().light(second));
    let name = match before.name == after.name {
        true => after.name.clone(),
        false => format!("{} and {}", before.name, after.name),
    };
    let mut words = Vec::new();
    if before.kind != after.kind {
        words.push(format!("was {}, is {}", before.kind.name(), after.kind.name()));
    }
    if before.size != after.size {
        words.push(format!("had {}, has {}", count(before.size), count(after.size)));
    }
    fields(a, b, (first, second), options, &mut words);
    let came = if words.is_empty() { Came::Same } else { Came::Changed };
    Change { light: name, came, words }
}

/// The fields that differ, with figures.
fn fields(
    a: &Side<'_>,
    b: &Side<'_>,
    (first, second): (LightId, LightId),
    options: &CompareOptions,
    words: &mut Vec<String>,
) {
    let (before, after) = (a.checked.program().light(first), b.checked.program().light(second));
    let (names, others) = (trace::headings(a.checked, first), trace::headings(b.checked, second));
    for (_, name) in names.iter().filter(|(_, name)| !others.iter().any(|(_, n)| n == name)) {
        words.push(match options.pair {
            Some(_) => format!("only {} drives {name}", a.name),
            None => format!("no longer drives {name}"),
        });
    }
    for (_, name) in others.iter().filter(|(_, name)| !names.iter().any(|(_, n)| n == name)) {
        words.push(match options.pair {
            Some(_) => format!("only {} drives {name}", b.name),
            None => format!("now drives {name}"),
        });
    }
    // Of sparks any may live; of an array the first lamps are sampled.
    let most = if is_pool(a, first) || is_pool(b, second) { MOST_SPARKS } else { 8 };
    let lamps = before.size.shown().min(after.size.shown()).min(most);
    let traces = |side: &Side<'_>, id: LightId| -> Vec<LampTrace> {
        (0..lamps).map(|n| side.trace(id, n, options)).collect()
    };
    let (old, new) = (traces(a, first), traces(b, second));
    for (at, (field, name)) in names.iter().enumerate() {
        let Some(to) = others.iter().position(|(_, other)| other == name) else { continue };
        // What is reported of a color is reported once, of all its parts.
        if let Some(color) = name.strip_suffix(".r") {
            let part = |n: usize| Differs::between((&old, at + n), (&new, to + n)).most;
            if (0..3).any(|n| part(n) > 0.0) {
                words.push(colors(color, &old, &new, (at, to), options.pair.is_some()));
            }
            continue;
        }
        if names[..at].iter().any(|(other, head)| other == field && head.ends_with(".r")) {
            continue;
        }
        let differs = Differs::between((&old, at), (&new, to));
        if differs.most == 0.0 {
            continue;
        }
        let unit = unit_of(b.checked, after, *field);
        words.push(differs.words(name, &unit, (a, b), options));
        let bounds = [(a, first), (b, second)].map(|(side, id)| {
            side.checked.bounds(id, *field).filter(|_| !name.contains('.')).map(|b| b.part(0))
        });
        if let [Some(old), Some(new)] = bounds
            && old != new
            && (old.lo < old.hi || new.lo < new.hi)
        {
            let range = |b: caltrin_core::interval::Interval| {
                format!("{}..{}", scale::short_pair(b.lo, &unit), scale::with_unit(b.hi, &unit))
            };
            words.push(match options.pair {
                Some(_) => {
                    format!("{name}: {} in {}, {} in {}", a.name, range(old), b.name, range(new))
                }
                None => format!("{name}: stayed in {}, stays in {}", range(old), range(new)),
            });
        }
    }
}

/// The difference of one component between two sides, over all lamps and times.
struct Differs {
    mean: [f64; 2],
    /// Whether it is constant on both sides.
    still: bool,
    most: f64,
    lamp: usize,
    moment: usize,
    lamps: usize,
}

impl Differs {
    fn between((old, at): (&[LampTrace], usize), (new, to): (&[LampTrace], usize)) -> Differs {
        let start = (f64::from(old[0].at(0)[at]), f64::from(new[0].at(0)[to]));
        let mut found = Differs {
            mean: [0.0; 2],
            still: true,
            most: 0.0,
            lamp: 0,
            moment: 0,
            lamps: old.len(),
        };
        for (lamp, (old, new)) in old.iter().zip(new).enumerate() {
            for moment in 0..MOMENTS {
                let (x, y) = (f64::from(old.at(moment)[at]), f64::from(new.at(moment)[to]));
                found.mean[0] += x;
                found.mean[1] += y;
                found.still &= (x, y) == start;
                if (y - x).abs() > found.most {
                    (found.most, found.lamp, found.moment) = ((y - x).abs(), lamp, moment);
                }
            }
        }
        let all = (MOMENTS * old.len()) as f64;
        found.mean = found.mean.map(|sum| sum / all);
        found
    }

    fn words(
        &self,
        name: &str,
        unit: &str,
        (a, b): (&Side<'_>, &Side<'_>),
        options: &CompareOptions,
    ) -> String {
        let [before, after] = self.mean.map(|v| scale::with_unit(v, unit));
        // A share says something of what has a zero of its own, not of a place.
        let is_place = [".x", ".y", ".z"].iter().any(|part| name.ends_with(part));
        let share = match self.mean[0] {
            from if from > 0.0 && !is_place => {
                format!(" ({:+.0}%)", (self.mean[1] / from - 1.0) * 100.0)
            }
            _ => String::new(),
        };
        let is_pair = options.pair.is_some();
        if self.still {
            return match is_pair {
                true => format!("{name}: {} {before}, {} {after}{share}", a.name, b.name),
                false => format!("{name}: was {before}, is {after}{share}"),
            };
        }
        let lamp = if self.lamps > 1 { format!(" in lamp {}", self.lamp) } else { String::new() };
        let means = match is_pair {
            true => format!("on average {} {before}, {} {after}", a.name, b.name),
            false => format!("on average {before} before, {after} after"),
        };
        format!(
            "{name}: {means}{share}; differs most, by {}, at {}{lamp}",
            scale::with_unit(self.most, unit),
            options.words(self.moment)
        )
    }
}

/// The mean color of both sides, as 8-bit sRGB.
fn colors(
    name: &str,
    old: &[LampTrace],
    new: &[LampTrace],
    (at, to): (usize, usize),
    is_pair: bool,
) -> String {
    let mean = |traces: &[LampTrace], at: usize| {
        let mut sum = [0.0f64; 3];
        for moment in traces.iter().flat_map(|trace| (0..MOMENTS).map(|n| trace.at(n))) {
            for (sum, part) in sum.iter_mut().zip(&moment[at..at + 3]) {
                *sum += f64::from(*part);
            }
        }
        let all = (MOMENTS * traces.len()) as f64;
        let [r, g, b] = Rgb(sum.map(|v| v / all)).to_srgb8();
        format!("#{r:02x}{g:02x}{b:02x}")
    };
    match is_pair {
        true => format!("{name}: on average {} and {}", mean(old, at), mean(new, to)),
        false => format!("{name}: on average {} before, {} after", mean(old, at), mean(new, to)),
    }
}

fn unit_of(
    checked: &ValidatedProgram,
    light: &Light,
    field: caltrin_core::program::Field,
) -> String {
    use caltrin_core::program::Given;
    let kind = light.drives.iter().find(|drive| drive.field == field).map(|drive| drive.kind);
    match (field.facts().given, kind) {
        (Given::Plain, _) | (_, None) => String::from("-"),
        (Given::Unit, Some(kind)) => checked.program().space().symbol(kind).into_owned(),
    }
}

fn picture(
    a: &Side<'_>,
    b: &Side<'_>,
    drawn: &[(LightId, LightId)],
    changes: &[Change],
    options: &CompareOptions,
) -> Picture {
    let fonts = Fonts::new();
    let width = options.width.clamp(480, 8192) as f32;
    let labels = (width * 0.24).clamp(180.0, 320.0).floor();
    let plot = width - labels - RIGHT;
    let along = match options.day {
        true => Along::Day,
        false => Along::Time(options.from, options.to),
    };
    let window = |side: &Side<'_>| Window {
        along,
        columns: plot as usize,
        each: 4,
        rehearsal: side.rehearsal(options.rehearsal.as_deref()),
    };
    let first = |side: &Side<'_>, id: LightId| {
        let values = side.checked.program().light(id).lane_values();
        values.first().copied().unwrap_or(LaneValue { level: None, hue: None })
    };
    // Of a pool of sparks the brightest at each moment is drawn.
    let look = |side: &Side<'_>, ids: &[LightId]| -> Vec<Lamp> {
        let lamps = |id: LightId| if is_pool(side, id) { pool_of(side, id) } else { 1 };
        let wanted: Vec<_> = ids
            .iter()
            .flat_map(|id| (0..lamps(*id)).map(|n| (&side.start, *id, n, first(side, *id))))
            .collect();
        let mut found = look_at_all(side.checked, &wanted, window(side)).into_iter();
        let each = ids
            .iter()
            .filter_map(|id| Lamp::brightest(found.by_ref().take(lamps(*id) as usize).collect()));
        each.collect()
    };
    let (before, after): (Vec<LightId>, Vec<LightId>) = drawn.iter().copied().unzip();
    let (old, new) = (look(a, &before), look(b, &after));
    let mut page = Page { fonts, shapes: Vec::new(), width, labels, plot };
    let title = b.checked.program().name();
    let name = page.fonts.fitted(title, 24.0, true, width - 48.0);
    page.words((24.0, 38.0), 24.0, true, look::INK, Anchor::Start, &name);
    let same = changes.iter().filter(|change| change.came == Came::Same).count();
    let about = format!(
        "upper: {}   \u{2022}   lower: {}   \u{2022}   {} changed, {} added, {} removed, {same} the same",
        a.name,
        b.name,
        changes.iter().filter(|change| change.came == Came::Changed).count(),
        changes.iter().filter(|change| change.came == Came::Added).count(),
        changes.iter().filter(|change| change.came == Came::Removed).count(),
    );
    let about = page.fonts.fitted(&about, 14.0, false, width - 48.0);
    page.words((24.0, 62.0), 14.0, false, look::QUIET, Anchor::Start, &about);
    for (n, ((first, second), (old, new))) in drawn.iter().zip(old.iter().zip(&new)).enumerate() {
        let frame = Frame { x: labels, y: TOP + LANE * n as f32, w: plot, h: LANE };
        let lights = (a.checked.program().light(*first), b.checked.program().light(*second));
        let field = lights.1.level();
        let unit = field.map_or(String::new(), |field| unit_of(b.checked, lights.1, field));
        let name = match lights.0.name == lights.1.name {
            true => lights.1.name.clone(),
            false => format!("{} / {}", lights.0.name, lights.1.name),
        };
        let change = changes.iter().filter(|change| change.came == Came::Changed).nth(n);
        page.lane(n, frame, (old, new), (&name, &unit), change);
    }
    let foot = TOP + LANE * drawn.len() as f32;
    page.ruler(options, foot);
    let legend = if drawn.is_empty() {
        "All common lights are identical over this span.".to_owned()
    } else {
        match options.pair {
            Some(_) => format!(
                "Ribbons: {first} above, {second} below. Curves of lamp 0: {first} dim, {second} bright. Bars: up where {second} is higher, down where it is lower.",
                first = a.name,
                second = b.name
            ),
            None => "Ribbons: before above, after below. Curves of lamp 0: before dim, after bright. Bars: up where the level is higher than before, down where it is lower."
                .to_owned(),
        }
    };
    let lines = page.fonts.wrapped(&legend, 12.0, false, width - 48.0);
    for (n, line) in lines.iter().enumerate() {
        let y = foot + 22.0 + 16.0 * n as f32;
        page.words((24.0, y), 12.0, false, look::QUIET, Anchor::Start, line);
    }
    Picture {
        width: width as u32,
        height: (foot + 30.0 + 16.0 * lines.len() as f32) as u32,
        ground: look::GROUND,
        title: format!("{title}: {} and {} compared", a.name, b.name),
        shapes: page.shapes,
        readings: None,
    }
}

struct Page {
    fonts: Fonts,
    shapes: Vec<Shape>,
    width: f32,
    labels: f32,
    plot: f32,
}

impl Page {
    fn words(
        &mut self,
        at: (f32, f32),
        size: f32,
        bold: bool,
        ink: Ink,
        anchor: Anchor,
        words: &str,
    ) {
        self.shapes.push(Shape::words(at, size, bold, ink, anchor, words));
    }

    fn lane(
        &mut self,
        n: usize,
        frame: Frame,
        (old, new): (&Lamp, &Lamp),
        (name, unit): (&str, &str),
        change: Option<&Change>,
    ) {
        if n.is_multiple_of(2) {
            self.shapes.push(Shape::Box(Frame { x: 0.0, w: self.width, ..frame }, look::BAND));
        }
        let top = old.most.max(new.most);
        let top = if top > 0.0 { top } else { 1.0 };
        for (lamp, y) in [(old, frame.y + 4.0), (new, frame.y + 18.0)] {
            let strip = Frame { y, h: 12.0, ..frame };
            let colors = lamp.columns.iter().map(|c| shown(c.light, top)).collect();
            self.shapes.push(Shape::Ribbon(strip, colors));
        }
        let curve = Frame { y: frame.y + 36.0, h: 52.0, ..frame };
        self.line(old, curve, top, look::QUIET.alpha(170));
        self.line(new, curve, top, look::INK);
        // The difference, against its own greatest, so that a small one is seen too.
        let apart: Vec<f32> =
            old.columns.iter().zip(&new.columns).map(|(a, b)| b.mean - a.mean).collect();
        let most = apart.iter().fold(0.0f32, |most, v| most.max(v.abs()));
        let zero = frame.y + 110.0;
        let high = 16.0;
        self.shapes.push(Shape::Line((frame.x, zero), (frame.x + frame.w, zero), 1.0, look::GRID));
        if most > 0.0 {
            let bars = Frame { y: zero - high, h: 2.0 * high, ..frame };
            let side = |sign: f32| -> Vec<(f32, f32)> {
                apart
                    .iter()
                    .map(|v| {
                        let long = (v * sign).max(0.0) / most * high;
                        if sign > 0.0 { (zero - long, zero) } else { (zero, zero + long) }
                    })
                    .collect()
            };
            self.shapes.push(Shape::Bars(bars, side(1.0), look::MORE));
            self.shapes.push(Shape::Bars(bars, side(-1.0), look::LESS));
        }
        let edge = self.labels - 10.0;
        let full = scale::with_unit(f64::from(top), unit);
        let right = self.fonts.width(&full, 11.0, false);
        let shown = self.fonts.fitted_name(name, 15.0, true, edge - 24.0 - right - 10.0);
        self.words((24.0, frame.y + 18.0), 15.0, true, look::INK, Anchor::Start, &shown);
        self.words((edge, frame.y + 44.0), 11.0, false, look::QUIET, Anchor::End, &full);
        let apart = format!("\u{b1}{}", scale::with_unit(f64::from(most), unit));
        self.words((edge, zero + 4.0), 11.0, false, look::QUIET, Anchor::End, &apart);
        let mut y = frame.y + 36.0;
        let room = self.labels - 34.0 - right - 14.0;
        for line in change.iter().flat_map(|change| &change.words) {
            for line in self.fonts.wrapped(line, 12.0, false, room) {
                if y > frame.y + LANE - 30.0 {
                    return;
                }
                let line = self.fonts.fitted(&line, 12.0, false, room);
                self.words((24.0, y), 12.0, false, look::QUIET, Anchor::Start, &line);
                y += 15.0;
            }
        }
    }

    fn line(&mut self, lamp: &Lamp, frame: Frame, top: f32, ink: Ink) {
        let y = |v: f32| frame.y + frame.h * (1.0 - (v / top).clamp(0.0, 1.0));
        let mut before = lamp.columns.first().map_or(frame.y, |c| y(c.mean));
        let line = lamp
            .columns
            .iter()
            .map(|c| {
                let from = std::mem::replace(&mut before, y(c.mean));
                (from.min(before) - 0.6, from.max(before) + 0.6)
            })
            .collect();
        self.shapes.push(Shape::Bars(frame, line, ink));
    }

    fn ruler(&mut self, options: &CompareOptions, foot: f32) {
        let (from, to) = match options.day {
            true => (0.0, 24.0),
            false => (options.from.0, options.to.0),
        };
        let span = (to - from).max(1e-12);
        let step = match options.day {
            true => scale::hours(self.plot, 56.0),
            false => scale::step(span, (self.plot / 84.0) as usize),
        };
        for n in (from / step - 1e-9).ceil() as i64..=(to / step + 1e-9).floor() as i64 {
            let t = n as f64 * step;
            let x = self.labels + ((t - from) / span) as f32 * self.plot;
            self.shapes.push(Shape::Line((x, TOP - 6.0), (x, foot), 1.0, look::GRID));
            let words = if options.day { Hours(t).to_clock() } else { scale::moment(t, step) };
            let half = self.fonts.width(&words, 12.0, false) / 2.0;
            let x = x.min(self.width - 6.0 - half);
            self.words((x, TOP - 11.0), 12.0, false, look::QUIET, Anchor::Middle, &words);
        }
    }
}
