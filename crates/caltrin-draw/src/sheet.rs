//! The sheet: a ruler, and a lane per light with its ribbon, intensity and range.

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use caltrin_check::Finding;
use caltrin_core::ValidatedProgram;
use caltrin_core::kind::ChangeRate;
use caltrin_core::program::{
    Channel, Constant, EventId, Field, Given, InputId, LaneValue, Light, LightId, LightKind, Size,
    Subject,
};
use caltrin_core::quantity::{Hours, Seconds};
use caltrin_core::rehearsal::Player;
use caltrin_core::run::{Heard, State};

use crate::bands::Bands;
use crate::columns::{Along, Column, Lamp, Window, look_at_all, shown};
use crate::curves;
use crate::day::Sky;
use crate::font::Fonts;
use crate::look;
use crate::scale;
use crate::shape::{Anchor, Frame, Ink, Picture, Reading, Readings, Shape};
use crate::sounds::SoundLanes;

/// The options of a sheet.
#[derive(Clone, Debug, PartialEq)]
pub struct SheetOptions {
    /// First time, in seconds.
    pub from: Seconds,
    /// Last time, in seconds; `None` shows two periods of the longest curve.
    pub to: Option<Seconds>,
    /// The seeds and inputs of the runs that are shown. With several, each light has a lane for
    /// each, which shows other random values. Empty for the book's own.
    pub starts: Vec<State>,
    /// The titles of the runs, if they differ in more than their seeds.
    pub labels: Vec<String>,
    /// An input with one component as the horizontal axis instead of time, from its minimum to its
    /// maximum, at the first time.
    pub over: Option<InputId>,
    /// Whether the horizontal axis is the 24 hours of the game's day instead of time, with sun,
    /// moon and phases above the lanes. No effect for a book without a clock.
    pub day: bool,
    /// Index of the rehearsal that is played, if any; no effect if the horizontal axis is not time.
    pub rehearsal: Option<usize>,
    /// Whether the curves that the lights play are drawn below them, with their stops and easings.
    pub curves: bool,
    /// Width of the drawing in pixels, 480 to 8192.
    pub width: u32,
    /// Height of a lane in pixels, 14 to 400; `None` to fit the lanes to a screen.
    pub lane: Option<u32>,
    /// The lights; `None` for all.
    pub lights: Option<Vec<LightId>>,
    /// Channels besides intensity and color that have their own lanes, below their lights.
    pub channels: Vec<&'static Channel>,
    /// For each of `lights`, the index of the one lamp that is shown; `None` or missing for all
    /// lamps.
    pub lamps: Vec<Option<u32>>,
}

impl Default for SheetOptions {
    fn default() -> Self {
        SheetOptions {
            from: Seconds(0.0),
            to: None,
            starts: Vec::new(),
            labels: Vec::new(),
            over: None,
            day: false,
            rehearsal: None,
            curves: true,
            width: 1280,
            lane: None,
            lights: None,
            channels: Vec::new(),
            lamps: Vec::new(),
        }
    }
}

/// With more events than this, they have no line through all lanes.
const OFTEN: usize = 12;

/// Maximum height of a lane, for few lights.
const TALL: f32 = 200.0;
const USUAL_LANE: f32 = 96.0;
/// Maximum total height of a light's ribbons.
const RIBBON: f32 = 26.0;
/// Minimum and maximum width of the column of names.
const LABELS: (f32, f32) = (218.0, 340.0);
const RIGHT: f32 = 24.0;
const TOP: f32 = 96.0;
/// The height of the line in which the names of events stand.
const FLAGS: f32 = 18.0;
const BOTTOM: f32 = 34.0;
/// From one line of the legend to the next.
const LEGEND: f32 = 16.0;
/// The height that a sheet of few lights fills.
const USUAL: f32 = 800.0;

struct Lane<'a> {
    id: LightId,
    light: &'a Light,
    /// The only lamp that it shows, if not all.
    lamp: Option<u32>,
    /// The field that it shows.
    value: LaneValue,
    /// Whether that is a channel besides strength and color.
    is_channel: bool,
    /// The run that it shows, if there are several.
    run: Option<String>,
    /// Minimum and maximum of the value in all runs.
    seen: (f32, f32),
    lamps: Vec<Lamp>,
    frame: Frame,
}

/// Draws a sheet. The cost is proportional to the number of lights and the width.
pub fn sheet(checked: &ValidatedProgram, findings: &[Finding], options: &SheetOptions) -> Picture {
    let fonts = Fonts::new();
    let program = checked.program();
    let ids: Vec<LightId> = match &options.lights {
        Some(ids) => ids.clone(),
        None => program.lights().map(|(id, _)| id).collect(),
    };
    // A lamp that is not there leaves its light as it is.
    let chosen: Vec<(LightId, Option<u32>)> = ids
        .iter()
        .enumerate()
        .map(|(n, id)| {
            let lamp = options.lamps.get(n).copied().flatten();
            let light = program.light(*id);
            let there = |lamp: &u32| light.size == Size::Open || *lamp < light.size.shown();
            (*id, lamp.filter(there))
        })
        .collect();
    let values: Vec<Shows> = chosen
        .iter()
        .flat_map(|(id, lamp)| {
            let light = program.light(*id);
            let own = light.lane_values().into_iter().map(|value| (value, false));
            let more = options.channels.iter().flat_map(|channel| light.channel_values(channel));
            let all = own.chain(more.map(|value| (value, true)));
            all.map(|(value, is_channel)| Shows { id: *id, lamp: *lamp, value, is_channel })
        })
        .collect();
    let starts = match &options.starts[..] {
        [] => vec![State::start(program)],
        starts => starts.to_vec(),
    };
    let width = options.width.clamp(480, 8192);
    let to = options.to.unwrap_or(Seconds(options.from.0 + usual_span(checked)));
    let to = Seconds(to.0.max(options.from.0 + 1e-3));
    let longest = values
        .iter()
        .map(|shows| {
            let light = program.light(shows.id);
            let name = format!("{}.{}", light.name, light.value_name(shows.value));
            let name = if shows.names_value(light) { &name } else { &light.name };
            fonts.width(name, 15.0, true) + 120.0
        })
        .fold(0.0, f32::max);
    let labels: Vec<String> = starts
        .iter()
        .enumerate()
        .map(|(n, start)| match options.labels.get(n) {
            Some(label) => label.clone(),
            None => format!("seed {}", start.seed.0),
        })
        .collect();
    let wide = labels.iter().map(|label| fonts.width(label, 15.0, true) + 10.0);
    let runs = if starts.len() > 1 { wide.fold(0.0, f32::max) } else { 0.0 };
    let longest = longest + runs;
    let names = labels;
    let labels = longest.clamp(LABELS.0, LABELS.1.min(width as f32 * 0.3).max(LABELS.0)).floor();
    let plot = width as f32 - labels - RIGHT;
    let count = values.len() * starts.len();
    let least = if count > 100 { 14.0 } else { 18.0 };
    let tallest = if count > 4 { USUAL_LANE } else { TALL };
    let drawn = if options.curves { curves::used(checked, &ids) } else { Vec::new() };
    let along_day = options.day && program.clock().is_some();
    let sky = along_day.then(|| Sky::look(checked, &starts, plot as usize));
    let happened = match options.over {
        None if !along_day => happened(checked, &starts[0], options.rehearsal, (options.from, to)),
        _ => Vec::new(),
    };
    let flags = if happened.is_empty() { 0.0 } else { FLAGS };
    let bands = match options.over {
        None if !along_day => {
            let columns = plot as usize;
            Bands::look(checked, &starts[0], options.rehearsal, (options.from, to), columns)
        }
        _ => Bands::none(),
    };
    let sounds = match options.over {
        None if !along_day => {
            let columns = plot as usize;
            let (lights, rehearsal) = (options.lights.as_deref(), options.rehearsal);
            let span = (options.from, to);
            SoundLanes::look(checked, lights, &starts[0], rehearsal, span, columns).beside(count)
        }
        _ => SoundLanes::none(),
    };
    let top =
        TOP + flags + bands.height() + sounds.height() + sky.as_ref().map_or(0.0, Sky::height);
    let room = USUAL - top - BOTTOM - curves::height(drawn.len(), width as f32);
    let height = (room / count.max(1) as f32).clamp(least, tallest).floor();
    let height = options.lane.map_or(height, |lane| lane.clamp(14, 400) as f32);
    let along = match options.over {
        _ if along_day => Along::Day,
        Some(id) => {
            let bounds = program.input(id).bounds;
            Along::Input(id, bounds.lo, bounds.hi, options.from)
        }
        None => Along::Time(options.from, to),
    };
    let place = Place { labels, plot, top, height };
    let mut lanes =
        look_at_lanes(checked, &values, (&starts, &names), (along, options.rehearsal), place);
    let foot = top + height * lanes.len() as f32;
    let mut legend = legend(&lanes, ids.len() < program.lights().len(), along, program.by_game());
    if let Some(more) = sounds.legend() {
        legend = format!("{legend} {more}");
    }
    let legend = fonts.wrapped(&legend, 12.0, false, width as f32 - 48.0);
    let mut sheet = Sheet { fonts, shapes: Vec::new(), width: width as f32, labels, plot, along };
    let lit = chosen.iter().filter(|(id, _)| program.light(*id).kind != LightKind::Output);
    let shown = |(id, lamp): &(LightId, Option<u32>)| {
        lamp.map_or(u64::from(program.light(*id).size.shown()), |_| 1)
    };
    let lamps: u64 = lit.clone().map(shown).sum();
    let outputs = ids.len() - lit.count();
    let about = sheet.head(
        checked,
        (ids.len() - outputs, lamps, outputs),
        (&starts, &names, options.rehearsal),
    );
    if let Some(sky) = &sky {
        let names = if starts.len() > 1 { &names[..] } else { &[] };
        sky.draw(names, (labels, plot, TOP), &sheet.fonts, &mut sheet.shapes);
    }
    // The runs of one light are drawn against one top, so that they can be compared.
    for n in 0..lanes.len() {
        let same = |lane: &&Lane<'_>| lane.id == lanes[n].id && lane.value == lanes[n].value;
        let own = lanes.iter().filter(same).flat_map(|lane| &lane.lamps);
        lanes[n].seen =
            own.flat_map(|lamp| &lamp.columns).fold((0.0f32, 0.0f32), |seen, column| {
                (seen.0.min(column.least), seen.1.max(column.most))
            });
    }
    let above = TOP + flags + bands.height();
    let mut readings = sounds.draw((labels, plot), above, &sheet.fonts, &mut sheet.shapes);
    for (n, lane) in lanes.iter().enumerate() {
        let (top, unit) = sheet.lane(checked, findings, lane, n);
        readings.push(reading(findings, lane, top, unit));
    }
    sheet.ruler(checked, foot);
    sheet.flags(checked, &happened, foot);
    bands.draw((labels, plot), TOP + flags, &sheet.fonts, &mut sheet.shapes);
    let below = curves::height(drawn.len(), width as f32);
    sheet.foot(&legend, foot, below);
    curves::draw(checked, &drawn, (foot, width as f32), &sheet.fonts, &mut sheet.shapes);
    Picture {
        width,
        height: (foot + below + BOTTOM + LEGEND * (legend.len() as f32 - 1.0)) as u32,
        ground: look::GROUND,
        title: format!("{}: timeline of {} lights", program.name(), ids.len()),
        shapes: sheet.shapes,
        readings: Some(Readings { lanes: readings, about, ..span_of(checked, along) }),
    }
}

/// The horizontal axis as readings.
fn span_of(checked: &ValidatedProgram, along: Along) -> Readings {
    let (span, unit) = match along {
        Along::Time(from, to) => ((from.0, to.0), "s".to_owned()),
        Along::Day => ((0.0, 24.0), "clock".to_owned()),
        Along::Input(id, lo, hi, _) => ((lo, hi), unit_along(checked, id)),
    };
    Readings { span, unit, about: String::new(), lanes: Vec::new() }
}

fn reading(findings: &[Finding], lane: &Lane<'_>, top: f32, unit: String) -> Reading {
    let first = lane.lamps.first();
    let columns = first.map_or(&[][..], |lamp| &lamp.columns);
    let found = findings.iter().filter(|finding| finding.lights.contains(&lane.id));
    let mut codes: Vec<&str> = found.map(|finding| finding.rule.code).collect();
    codes.sort_unstable();
    codes.dedup();
    Reading {
        frame: lane.frame,
        name: lane.name(),
        unit,
        top,
        levels: columns.iter().map(|c| [c.least, c.mean, c.most]).collect(),
        colors: columns.iter().map(|c| shown(c.light, top)).collect(),
        findings: codes,
    }
}

/// The content of a lane.
#[derive(Clone, Copy)]
struct Shows {
    id: LightId,
    /// The only lamp, if not all.
    lamp: Option<u32>,
    value: LaneValue,
    is_channel: bool,
}

impl Shows {
    /// Whether the value's name stands beside the light's.
    fn names_value(&self, light: &Light) -> bool {
        self.is_channel
            || (light.kind == LightKind::Output && !light.value_name(self.value).is_empty())
    }
}

impl Lane<'_> {
    fn shows(&self) -> Shows {
        Shows { id: self.id, lamp: self.lamp, value: self.value, is_channel: self.is_channel }
    }

    /// The light's name, with the size of its array, the value and the run's seed if there are several.
    fn name(&self) -> String {
        let name = match (self.light.size, self.lamp) {
            (Size::One, _) => self.light.name.clone(),
            (Size::Many(n), None) => format!("{}[{n}]", self.light.name),
            (Size::Many(n), Some(lamp)) => format!("{}[{lamp}] of {n}", self.light.name),
            (Size::Open, None) => format!("{}[]", self.light.name),
            (Size::Open, Some(lamp)) => format!("{}[{lamp}]", self.light.name),
        };
        let name = match self.shows().names_value(self.light) {
            true => format!("{name}.{}", self.light.value_name(self.value)),
            false => name,
        };
        match &self.run {
            Some(run) => format!("{name} {run}"),
            None => name,
        }
    }

    /// Its lower and upper end: 0 and the guaranteed top, unless that lies far above all that is seen.
    fn ends(&self, checked: &ValidatedProgram) -> (f32, f32) {
        let bounds = self.bounds(checked);
        let (least, seen) = self.seen;
        let top = match bounds {
            Some(bounds) if (bounds.hi as f32) <= seen * 1.5 => (bounds.hi as f32).max(seen),
            _ => seen,
        };
        // Of what stays dark, its bound says what there could be.
        let bound = bounds.map_or(1.0, |bounds| bounds.hi as f32);
        let top = match (top > 0.0, bound > 0.0) {
            (true, _) => top,
            (false, true) => bound,
            (false, false) if least < 0.0 => 0.0,
            (false, false) => 1.0,
        };
        (least, top)
    }

    /// The guaranteed range of the value.
    fn bounds(&self, checked: &ValidatedProgram) -> Option<caltrin_core::interval::Interval> {
        let (field, part) = self.value.level?;
        checked.bounds(self.id, field).map(|bounds| bounds.part(part))
    }

    /// The unit of the value; none for a ratio, `-` for a number that is none.
    fn unit<'a>(&self, checked: &'a ValidatedProgram) -> Cow<'a, str> {
        let Some((field, _)) = self.value.level else { return Cow::Borrowed("") };
        match (field.facts().given, self.light.drive(field)) {
            (Given::Plain, _) => Cow::Borrowed("-"),
            (Given::Unit, Some(value)) => {
                let program = checked.program();
                program.space().symbol(program.expr(value).kind)
            }
            (Given::Unit, None) => Cow::Borrowed(""),
        }
    }
}

/// The events between two times, in the first of the runs that are shown.
fn happened(
    checked: &ValidatedProgram,
    start: &State,
    rehearsal: Option<usize>,
    (from, to): (Seconds, Seconds),
) -> Vec<Heard> {
    let program = checked.program();
    if program.events().len() == 0 {
        return Vec::new();
    }
    let rehearsal = rehearsal.and_then(|n| program.rehearsals().get(n));
    let mut player = Player::new(checked, start.clone(), rehearsal);
    let mut all = player.events(to);
    all.retain(|heard| heard.at.0 >= from.0);
    all
}

/// Two periods of the longest curve, between 10 and 60 seconds.
fn usual_span(checked: &ValidatedProgram) -> f64 {
    let program = checked.program();
    let longest = program
        .order()
        .iter()
        .filter_map(|subject| match subject {
            Subject::Curve(id) => Some(program.curve(*id).curve.length().0),
            _ => None,
        })
        .fold(0.0, f64::max);
    (2.0 * longest).clamp(10.0, 60.0).ceil()
}

fn look_at_lanes<'a>(
    checked: &'a ValidatedProgram,
    chosen: &[Shows],
    (starts, names): (&[State], &[String]),
    (along, rehearsal): (Along, Option<usize>),
    Place { labels, plot, top, height }: Place,
) -> Vec<Lane<'a>> {
    let program = checked.program();
    // Of sparks all are evaluated, and the brightest is shown.
    let sparks = |id: &LightId| {
        let light = program.light(*id);
        let found = program.sparks().iter().any(|spark| spark.name == light.name);
        found.then(|| light.size.shown().min(MOST_SPARKS_SHOWN))
    };
    let lamps_of = |id: &LightId, lamp: Option<u32>| match lamp {
        Some(lamp) => lamp..lamp + 1,
        None => 0..sparks(id).unwrap_or_else(|| ribbons(program.light(*id), height).0),
    };
    // The runs of one light stand below each other.
    let shown: Vec<(Shows, &State)> =
        chosen.iter().flat_map(|shows| starts.iter().map(|start| (*shows, start))).collect();
    let wanted: Vec<(&State, LightId, u32, LaneValue)> = shown
        .iter()
        .flat_map(|(shows, start)| {
            let lamps = lamps_of(&shows.id, shows.lamp);
            lamps.map(|lamp| (*start, shows.id, lamp, shows.value))
        })
        .collect();
    let columns = plot as usize;
    let each = match along {
        // About 150 moments a second, so that no flicker is missed; fewer where there are many lamps.
        Along::Time(from, to) => {
            let dense = (150.0 * (to.0 - from.0) / columns as f64).ceil() as usize;
            let affordable = (3_000_000 / (columns * wanted.len().max(1))).max(2);
            dense.clamp(1, 12).min(affordable)
        }
        // Enough that flicker comes out as its mean and range.
        Along::Day => (2_000_000 / (columns * wanted.len().max(1))).clamp(2, 8),
        Along::Input(..) => 1,
    };
    let window = Window { along, columns, each, rehearsal };
    let mut looked = look_at_all(checked, &wanted, window).into_iter();
    shown
        .iter()
        .enumerate()
        .map(|(n, (shows, _))| {
            let (id, lamp) = (&shows.id, &shows.lamp);
            let light = program.light(*id);
            let lamps = lamps_of(id, *lamp).len();
            let run = names.get(n % starts.len()).filter(|_| starts.len() > 1).cloned();
            Lane {
                id: *id,
                light,
                lamp: *lamp,
                value: shows.value,
                is_channel: shows.is_channel,
                run,
                seen: (0.0, 0.0),
                lamps: match sparks(id) {
                    Some(_) => {
                        let all = looked.by_ref().take(lamps).collect();
                        Lamp::brightest(all).into_iter().collect()
                    }
                    None => looked.by_ref().take(lamps).collect(),
                },
                frame: Frame { x: labels, y: top + height * n as f32, w: plot, h: height },
            }
        })
        .collect()
}

/// Maximum number of sparks of a pool in a sheet.
const MOST_SPARKS_SHOWN: u32 = 64;

/// The layout of the lanes of a sheet.
#[derive(Clone, Copy)]
struct Place {
    /// The right edge of the column of names.
    labels: f32,
    /// Width of a lane.
    plot: f32,
    /// Top of the first lane.
    top: f32,
    /// Height of a lane.
    height: f32,
}

/// How many lamps of a light have a ribbon of their own in a lane of this height, and how tall all
/// ribbons are together. Large arrays get more room, two pixels a lamp at the least.
fn ribbons(light: &Light, height: f32) -> (u32, f32) {
    let (inner, lamps) = (height - 6.0, light.size.shown());
    if height < 34.0 {
        return (1, 4.0);
    }
    let share = if lamps > 8 { 0.45 } else { 0.3 };
    let most = if lamps > 8 { RIBBON.max(2.5 * lamps as f32) } else { RIBBON };
    let tall = (inner * share).min(most).max(4.0).floor();
    let shown = if height < 40.0 { 1 } else { (tall / 2.0) as u32 };
    (lamps.min(shown.max(1)), tall)
}

struct Sheet {
    fonts: Fonts,
    shapes: Vec<Shape>,
    width: f32,
    labels: f32,
    plot: f32,
    along: Along,
}

impl Sheet {
    fn text(&mut self, (x, y): (f32, f32), size: f32, ink: Ink, anchor: Anchor, words: &str) {
        self.words((x, y), size, false, ink, anchor, words);
    }

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

    /// The name of the book, and a line on what is shown, which is given back.
    fn head(
        &mut self,
        checked: &ValidatedProgram,
        (lights, lamps, outputs): (usize, u64, usize),
        (starts, names, rehearsal): (&[State], &[String], Option<usize>),
    ) -> String {
        let most = self.width - 48.0;
        let name = self.fonts.fitted(checked.program().name(), 24.0, true, most);
        self.words((24.0, 38.0), 24.0, true, look::INK, Anchor::Start, &name);
        let plural = |n: u64, one: &str| {
            if n == 1 { format!("1 {one}") } else { format!("{n} {one}s") }
        };
        let outputs = match outputs {
            0 => String::new(),
            n => format!(", {}", plural(n as u64, "output")),
        };
        let span = match self.along {
            Along::Time(from, to) => {
                let hours = match (checked.program().clock(), starts) {
                    (Some(_), [first, ..]) => {
                        // As the game turns it, where a rehearsal is played.
                        let rehearsal =
                            rehearsal.and_then(|n| checked.program().rehearsals().get(n));
                        let mut player = Player::new(checked, first.clone(), rehearsal);
                        let [a, b] = [from, to].map(|t| {
                            player.advance(t);
                            player
                                .run()
                                .clock()
                                .map_or(String::new(), |shown| shown.hour.to_clock())
                        });
                        format!(", {} to {}", on_the_minute(&a), on_the_minute(&b))
                    }
                    _ => String::new(),
                };
                format!("{} s to {} s{hours}", scale::short(from.0), scale::short(to.0))
            }
            Along::Day => match checked.program().clock() {
                Some(clock) => {
                    let day = match clock.day.0 {
                        day if day >= 60.0 => format!("{} min", scale::short(day / 60.0)),
                        day => format!("{} s", scale::short(day)),
                    };
                    format!("the 24 hours of its day, which lasts {day}")
                }
                None => String::new(),
            },
            Along::Input(id, _, _, at) => {
                let input = checked.program().input(id);
                format!("over {} at {} s", input.name, scale::short(at.0))
            }
        };
        let mut seeds: Vec<String> = starts.iter().map(|start| start.seed.0.to_string()).collect();
        seeds.dedup();
        let named = names.iter().any(|name| !name.starts_with("seed "));
        let runs = match (named, seeds.len()) {
            (true, _) => format!("   \u{2022}   {}", names.join(", ")),
            (false, _) => String::new(),
        };
        let about = format!(
            "{}, {}{outputs}   \u{2022}   {span}   \u{2022}   seed{} {}{runs}",
            plural(lights as u64, "light"),
            plural(lamps, "lamp"),
            if seeds.len() > 1 { "s" } else { "" },
            seeds.join(", ")
        );
        let shown = self.fonts.fitted(&about, 14.0, false, most);
        self.text((24.0, 62.0), 14.0, look::QUIET, Anchor::Start, &shown);
        about
    }

    /// What happens, each as a flag at its moment, with its name where there is room.
    fn flags(&mut self, checked: &ValidatedProgram, happened: &[Heard], foot: f32) {
        let Along::Time(from, to) = self.along else { return };
        let span = (to.0 - from.0).max(1e-12);
        let mut taken: Vec<(f32, f32)> = Vec::new();
        let mut counts: BTreeMap<EventId, usize> = BTreeMap::new();
        for heard in happened {
            *counts.entry(heard.event).or_default() += 1;
        }
        let often = |event: EventId| counts.get(&event).is_some_and(|count| *count > OFTEN);
        // Of many in one place one is seen.
        let mut drawn = BTreeSet::new();
        // What happens to one lamp of many, or again and again, has its name where the others leave room, and no
        // line through all lanes.
        let own = |heard: &&Heard| {
            checked.program().event(heard.event).home.many().is_some() || often(heard.event)
        };
        let (owned, shared): (Vec<&Heard>, Vec<&Heard>) = happened.iter().partition(own);
        for (heard, own) in
            shared.into_iter().map(|h| (h, false)).chain(owned.into_iter().map(|h| (h, true)))
        {
            let x = self.labels + ((heard.at.0 - from.0) / span) as f32 * self.plot;
            if own && !drawn.insert((x * 4.0) as i32) {
                continue;
            }
            let name = &checked.program().event(heard.event).name_at(heard.index);
            let wide = self.fonts.width(name, 11.0, false) + 8.0;
            let fits = x + wide < self.labels + self.plot + RIGHT
                && taken.iter().all(|(from, to)| x >= *to || x + wide <= *from);
            let end = if fits && !own { foot } else { TOP + 4.0 };
            self.shapes.push(Shape::Line((x, TOP), (x, end), 1.0, look::FOCUS.alpha(90)));
            if fits {
                self.text((x + 4.0, TOP + 11.0), 11.0, look::FOCUS, Anchor::Start, name);
                taken.push((x, x + wide));
            }
        }
    }

    /// Marks at the top, and a thin line through all lanes at each.
    fn ruler(&mut self, checked: &ValidatedProgram, foot: f32) {
        let (from, to) = match self.along {
            Along::Time(from, to) => (from.0, to.0),
            Along::Day => (0.0, 24.0),
            Along::Input(_, lo, hi, _) => (lo, hi),
        };
        let span = (to - from).max(1e-12);
        let step = match self.along {
            Along::Day => scale::hours(self.plot, 56.0),
            _ => scale::step(span, (self.plot / 84.0) as usize),
        };
        let first = (from / step - 1e-9).ceil() as i64;
        let last = (to / step + 1e-9).floor() as i64;
        for n in first..=last {
            let v = n as f64 * step;
            let x = self.labels + ((v - from) / span) as f32 * self.plot;
            self.shapes.push(Shape::Line((x, TOP - 6.0), (x, foot), 1.0, look::GRID));
            let words = match self.along {
                Along::Time(..) => scale::moment(v, step),
                Along::Day => Hours(v).to_clock(),
                Along::Input(id, ..) => scale::with_unit(v, &unit_along(checked, id)),
            };
            // A mark at an edge keeps its words inside the picture.
            let half = self.fonts.width(&words, 12.0, false) / 2.0;
            let x = x.min(self.width - 6.0 - half);
            self.text((x, TOP - 11.0), 12.0, look::QUIET, Anchor::Middle, &words);
        }
    }

    /// Draws a lane, and returns its upper end with the unit.
    fn lane(
        &mut self,
        checked: &ValidatedProgram,
        findings: &[Finding],
        lane: &Lane<'_>,
        n: usize,
    ) -> (f32, String) {
        let frame = lane.frame;
        if n.is_multiple_of(2) {
            let band = Frame { x: 0.0, w: self.width, ..frame };
            self.shapes.push(Shape::Box(band, look::BAND));
        }
        let bounds = lane.bounds(checked);
        let ends = lane.ends(checked);
        let top = ends.1;
        let inner = Frame { y: frame.y + 3.0, h: frame.h - 6.0, ..frame };
        let ribbon = ribbons(lane.light, frame.h).1;
        let gap = if frame.h < 34.0 { 1.0 } else { 3.0 };
        let under = match (lane.value.level, lane.is_channel) {
            // What nothing dims is all color.
            (None, _) if lane.value.hue.is_some() => {
                self.ribbons(lane, inner, top);
                Frame { y: inner.y + inner.h, h: 0.0, ..inner }
            }
            // A length or an angle has no color.
            (_, true) => inner,
            _ => {
                self.ribbons(lane, Frame { h: ribbon, ..inner }, top);
                Frame { y: inner.y + ribbon + gap, h: inner.h - ribbon - gap, ..inner }
            }
        };
        if let Some(first) = lane.lamps.first().filter(|_| under.h > 0.0) {
            self.curve(lane, first, under, ends, bounds);
        }
        self.marks(findings, lane, under);
        self.label(checked, findings, lane, ends);
        (top, lane.unit(checked).into_owned())
    }

    /// The times at which findings are visible: a thin line with a head at each.
    fn marks(&mut self, findings: &[Finding], lane: &Lane<'_>, frame: Frame) {
        let Along::Time(from, to) = self.along else { return };
        let (from, to) = (from.0, to.0);
        let found = findings.iter().filter(|finding| finding.lights.contains(&lane.id));
        for period in found.filter_map(|finding| finding.every) {
            let apart = (period.0 / (to - from)) as f32 * frame.w;
            // Closer than this they would hide the curve.
            if apart < 8.0 {
                continue;
            }
            let first = (from / period.0).ceil().max(1.0);
            let mut t = first * period.0;
            while t <= to {
                let x = frame.x + ((t - from) / (to - from)) as f32 * frame.w;
                let (top, foot) = (frame.y, frame.y + frame.h);
                self.shapes.push(Shape::Line((x, top), (x, foot), 1.0, look::WARN.alpha(150)));
                let head = Frame { x: x - 2.5, y: top, w: 5.0, h: 5.0 };
                self.shapes.push(Shape::Box(head, look::WARN));
                t += period.0;
            }
        }
    }

    fn ribbons(&mut self, lane: &Lane<'_>, frame: Frame, top: f32) {
        let each = frame.h / lane.lamps.len().max(1) as f32;
        for (n, lamp) in lane.lamps.iter().enumerate() {
            let strip = Frame { y: frame.y + each * n as f32, h: each, ..frame };
            let colors = lamp.columns.iter().map(|c| shown(c.light, top)).collect();
            self.shapes.push(Shape::Ribbon(strip, colors));
        }
    }

    fn curve(
        &mut self,
        lane: &Lane<'_>,
        lamp: &Lamp,
        frame: Frame,
        (low, top): (f32, f32),
        bounds: Option<caltrin_core::interval::Interval>,
    ) {
        let ink = if lane.is_channel { look::INK } else { lamp_ink(&lamp.columns) };
        let high = (top - low).max(f32::MIN_POSITIVE);
        let y = |v: f32| frame.y + frame.h * (1.0 - ((v - low) / high).clamp(0.0, 1.0));
        let (floor, columns) = (y(0.0), &lamp.columns);
        let filled = columns.iter().map(|c| (y(c.least), floor)).collect();
        self.shapes.push(Shape::Bars(frame, filled, ink.alpha(70)));
        if columns.iter().any(|c| c.most - c.least > high * 0.002) {
            let band = columns.iter().map(|c| (y(c.most), y(c.least))).collect();
            self.shapes.push(Shape::Bars(frame, band, ink.alpha(120)));
        }
        // The mean as a line that also joins each column to the one before it.
        let mut before = columns.first().map_or(floor, |c| y(c.mean));
        let line = columns
            .iter()
            .map(|c| {
                let from = std::mem::replace(&mut before, y(c.mean));
                (from.min(before) - 0.6, from.max(before) + 0.6)
            })
            .collect();
        self.shapes.push(Shape::Bars(frame, line, ink));
        if !lamp.living.is_empty() && !lane.is_channel {
            let pool = lane.light.size.shown().max(1) as f32;
            let y = |living: u32| frame.y + frame.h * (1.0 - living as f32 / pool);
            let mut before = lamp.living.first().map_or(floor, |living| y(*living));
            let line = lamp.living.iter().map(|living| {
                let from = std::mem::replace(&mut before, y(*living));
                (from.min(before) - 0.6, from.max(before) + 0.6)
            });
            self.shapes.push(Shape::Bars(frame, line.collect(), look::FOCUS));
        }
        if let Some(bounds) = bounds.filter(|_| lane.frame.h >= 34.0) {
            for v in [bounds.lo, bounds.hi] {
                let level = v as f32;
                if level > low
                    && level != 0.0
                    && level <= top + 1e-4 * high
                    && bounds.lo < bounds.hi
                {
                    self.dashes(frame, y(level));
                }
            }
        }
    }

    fn dashes(&mut self, frame: Frame, y: f32) {
        let mut x = frame.x;
        while x < frame.x + frame.w {
            let end = (x + 3.0).min(frame.x + frame.w);
            self.shapes.push(Shape::Line((x, y), (end, y), 1.0, look::BOUND));
            x += 9.0;
        }
    }

    fn label(
        &mut self,
        checked: &ValidatedProgram,
        findings: &[Finding],
        lane: &Lane<'_>,
        (low, top): (f32, f32),
    ) {
        let (frame, light) = (lane.frame, lane.light);
        let found: Vec<&Finding> =
            findings.iter().filter(|finding| finding.lights.contains(&lane.id)).collect();
        let name = lane.name();
        let unit = lane.unit(checked);
        let unit = &*unit;
        let with_unit = |v: f64| scale::with_unit(v, unit);
        let has_level = lane.value.level.is_some();
        let full = match (has_level, low < 0.0 && frame.h < 34.0) {
            (false, _) => String::new(),
            (true, false) => with_unit(f64::from(top)),
            (true, true) => {
                format!(
                    "{}..{}",
                    scale::short_pair(f64::from(low), unit),
                    with_unit(f64::from(top))
                )
            }
        };
        if frame.h < 34.0 {
            let size = (frame.h * 0.66).clamp(10.0, 13.0);
            let middle = frame.y + frame.h / 2.0 + size * 0.35;
            let right = self.fonts.width(&full, 11.0, false);
            let most = self.labels - 24.0 - 10.0 - right - 8.0;
            let name = self.fonts.fitted_name(&name, size, true, most);
            self.words((24.0, middle), size, true, look::INK, Anchor::Start, &name);
            self.text((self.labels - 10.0, middle), 11.0, look::QUIET, Anchor::End, &full);
            return;
        }
        let right = self.fonts.width(&full, 11.0, false);
        let most = self.labels - 24.0 - 10.0 - right - 8.0;
        let name = self.fonts.fitted_name(&name, 15.0, true, most);
        self.words((24.0, frame.y + 18.0), 15.0, true, look::INK, Anchor::Start, &name);
        self.text((self.labels - 10.0, frame.y + 18.0), 11.0, look::QUIET, Anchor::End, &full);
        let zero = if low < 0.0 { with_unit(f64::from(low)) } else { "0".to_owned() };
        if has_level || lane.value.hue.is_none() {
            let foot = (self.labels - 10.0, frame.y + frame.h - 4.0);
            self.text(foot, 11.0, look::QUIET, Anchor::End, &zero);
        }
        let living = lane.lamps.first().and_then(|lamp| lamp.living.iter().max());
        let what = match living {
            Some(living) => format!("pool of {} sparks, up to {living} live", light.size.shown()),
            None => about(light),
        };
        let mut lines = vec![(what, look::QUIET)];
        let bounds = lane.bounds(checked);
        if let Some(bounds) = bounds {
            let words = if bounds.lo == bounds.hi {
                format!("steady at {}", with_unit(bounds.lo))
            } else {
                format!("stays in {}..{}", scale::short_pair(bounds.lo, unit), with_unit(bounds.hi))
            };
            lines.push((words, look::QUIET));
            // The strength is what the color leaves of the number that is written.
            if let Some(left) = left_by_color(checked, light).filter(|_| !lane.is_channel) {
                let words =
                    format!("color leaves {:.0}% of {}", left * 100.0, with_unit(bounds.hi / left));
                lines.push((words, look::QUIET));
            }
        } else if lane.value.hue.is_some() && (light.kind == LightKind::Output || lane.is_channel) {
            lines.push(("a color".to_owned(), look::QUIET));
        } else if light.kind != LightKind::Output {
            lines.push(("strength left to the game".to_owned(), look::QUIET));
        }
        let moving = if lane.is_channel { Vec::new() } else { moving(checked, light) };
        if !moving.is_empty() {
            lines.push((format!("also moves: {}", moving.join(", ")), look::QUIET));
        }
        let mut codes: Vec<&str> = Vec::new();
        for finding in found {
            if codes.contains(&finding.rule.code) {
                continue;
            }
            codes.push(finding.rule.code);
            let place = codes.len() - 1;
            lines.insert(
                place,
                (format!("{} {}", finding.rule.code, finding.rule.title), look::WARN),
            );
        }
        let mut y = frame.y + 34.0;
        for (words, ink) in lines {
            if y > frame.y + frame.h - 4.0 {
                break;
            }
            let words = self.fonts.fitted(&words, 12.0, false, self.labels - 34.0);
            self.text((24.0, y), 12.0, ink, Anchor::Start, &words);
            y += 15.0;
        }
    }

    /// The line below the lanes, and the legend.
    fn foot(&mut self, legend: &[String], foot: f32, below: f32) {
        let (left, right) = ((self.labels, foot), (self.labels + self.plot, foot));
        self.shapes.push(Shape::Line(left, right, 1.0, look::GRID));
        let mut y = foot + below + 22.0;
        for line in legend {
            self.text((24.0, y), 12.0, look::QUIET, Anchor::Start, line);
            y += LEGEND;
        }
    }
}

/// The fraction of a lamp's intensity that a color darker than full leaves, if it is constant and
/// less than 1.
fn left_by_color(checked: &ValidatedProgram, light: &Light) -> Option<f64> {
    let stated = light.stated_color.and_then(|color| checked.program().constant(color));
    let Some(Constant::Vector([r, g, b])) = stated.filter(|_| light.kind != LightKind::Output)
    else {
        return None;
    };
    Some(r.max(g).max(b)).filter(|left| *left < 0.995 && *left > 0.0)
}

/// Formats an hour without seconds.
pub(crate) fn on_the_minute(clock: &str) -> &str {
    clock.get(..5).unwrap_or(clock)
}

/// The unit of an input that lies along the top; `-` for a number that goes far beyond a ratio.
fn unit_along(checked: &ValidatedProgram, id: InputId) -> String {
    let program = checked.program();
    let input = program.input(id);
    let ratio = input.bounds.lo.abs().max(input.bounds.hi.abs()) <= 10.0;
    match program.space().symbol(input.kind) {
        unit if unit.is_empty() && !ratio => "-".to_owned(),
        unit => unit.into_owned(),
    }
}

/// The legend of the marks on these lanes. `chosen` if not all of the book's lights are shown.
fn legend(lanes: &[Lane<'_>], chosen: bool, along: Along, by_game: &[String]) -> String {
    let folded = lanes
        .iter()
        .any(|lane| lane.lamp.is_none() && lane.light.size.shown() as usize > lane.lamps.len());
    let several = lanes.iter().any(|lane| lane.lamps.len() > 1);
    let mut words =
        "Ribbon: color times strength, relative to the lane's maximum, in sRGB".to_owned();
    if several && folded {
        words += ", one per lamp of an array, or its first lamps";
    } else if several {
        words += ", one per lamp of an array";
    }
    words += if several || folded { ". Curve: lamp 0, its" } else { ". Curve:" };
    words += " mean and range. Dashed: guaranteed range.";
    if lanes.iter().any(|lane| lane.lamps.iter().any(|lamp| !lamp.living.is_empty())) {
        words += " Sparks: the brightest at each moment and, in blue, the number alive.";
    }
    if along == Along::Day {
        words += " Each column covers several minutes of the day, with their flicker.";
    }
    if along == Along::Day && !by_game.is_empty() {
        words += " Drawn as at the start of a run, because they depend on more than the hour: ";
        words += &by_game[..by_game.len().min(4)].join(", ");
        words += if by_game.len() > 4 { " and others." } else { "." };
    }
    if chosen {
        words += " Not all lights are shown.";
    }
    words
}

fn about(light: &Light) -> String {
    let kind = light.kind.name();
    let what = if light.kind == LightKind::Output { "outputs" } else { "lamps" };
    match light.size {
        Size::One => kind.to_owned(),
        Size::Many(n) if light.kind == LightKind::Output => format!("{n} {what}"),
        Size::Many(n) => format!("{n} {kind} {what}"),
        Size::Open => format!("{kind}, any number of {what}"),
    }
}

/// The fields besides the intensity that change over time.
fn moving<'a>(checked: &ValidatedProgram, light: &'a Light) -> Vec<&'a str> {
    let program = checked.program();
    light
        .drives
        .iter()
        // The strength, and all values of an output, have lanes.
        .filter(|drive| !matches!(drive.field, Field::Intensity | Field::Named(_)))
        .filter(|drive| program.expr(drive.value).change_rate == ChangeRate::Flowing)
        .map(|drive| match drive.field.channel() {
            Some(channel) => channel.name,
            None => light.field_name(drive.field),
        })
        .fold(Vec::new(), |mut all, name| {
            if all.last() != Some(&name) {
                all.push(name);
            }
            all
        })
}

/// The ink of a lamp's curve: its mean color at full brightness, never too dark to be legible.
fn lamp_ink(columns: &[Column]) -> Ink {
    let mut sum = [0.0f32; 3];
    for column in columns {
        for (sum, v) in sum.iter_mut().zip(column.light) {
            *sum += v;
        }
    }
    let most = sum.iter().fold(0.0f32, |a, b| a.max(*b));
    if most <= 0.0 {
        return look::QUIET;
    }
    // A quarter of white keeps deep reds and blues legible on the dark ground.
    let [r, g, b] = shown(sum.map(|v| 0.8 * v + 0.2 * most), most);
    Ink([r, g, b, 255])
}
