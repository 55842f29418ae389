//! The sheet: a ruler, and a lane a light with its ribbon, its strength and its bounds.

use std::borrow::Cow;

use caltrin_check::Finding;
use caltrin_core::Checked;
use caltrin_core::kind::Pace;
use caltrin_core::program::{Field, Light, LightId, LightKind, Size, Subject};
use caltrin_core::quantity::{Seconds, Seed};

use crate::columns::{Column, Lamp, Window, look_at_all, shown};
use crate::font::Fonts;
use crate::look;
use crate::scale;
use crate::shape::{Anchor, Frame, Ink, Picture, Shape, Text};

/// What a sheet shows.
#[derive(Clone, Debug, PartialEq)]
pub struct SheetOptions {
    /// First moment.
    pub from: Seconds,
    /// Last moment; `None` frames two turns of the longest curve.
    pub to: Option<Seconds>,
    /// The run's seed; `None` for the book's own.
    pub seed: Option<Seed>,
    /// Width of the picture in pixels, 480 to 8192.
    pub width: u32,
    /// Height of a lane in pixels, 14 to 400; `None` to fit the lanes to a screen.
    pub lane: Option<u32>,
    /// Which lights; `None` for all.
    pub lights: Option<Vec<LightId>>,
}

impl Default for SheetOptions {
    fn default() -> Self {
        SheetOptions {
            from: Seconds(0.0),
            to: None,
            seed: None,
            width: 1280,
            lane: None,
            lights: None,
        }
    }
}

/// The height of a lane at most: of a few lights each may be tall.
const TALL: f32 = 200.0;
const USUAL_LANE: f32 = 96.0;
/// The height of all of a light's ribbons at most.
const RIBBON: f32 = 26.0;
/// Width of the column of names, at the least and at the most.
const LABELS: (f32, f32) = (218.0, 340.0);
const RIGHT: f32 = 24.0;
const TOP: f32 = 96.0;
const BOTTOM: f32 = 34.0;
/// From one line of the legend to the next.
const LEGEND: f32 = 16.0;
/// The height that a sheet of few lights fills.
const USUAL: f32 = 800.0;

struct Lane<'a> {
    id: LightId,
    light: &'a Light,
    lamps: Vec<Lamp>,
    frame: Frame,
}

/// Draws a sheet. Costs in proportion to lights and width.
pub fn sheet(checked: &Checked, findings: &[Finding], options: &SheetOptions) -> Picture {
    let fonts = Fonts::new();
    let program = checked.program();
    let ids: Vec<LightId> = match &options.lights {
        Some(ids) => ids.clone(),
        None => program.lights().map(|(id, _)| id).collect(),
    };
    let seed = options.seed.unwrap_or(program.seed());
    let width = options.width.clamp(480, 8192);
    let to = options.to.unwrap_or(Seconds(options.from.0 + usual_span(checked)));
    let to = Seconds(to.0.max(options.from.0 + 1e-3));
    let longest = ids
        .iter()
        .map(|id| fonts.width(&program.light(*id).name, 15.0, true) + 120.0)
        .fold(0.0, f32::max);
    let labels = longest.clamp(LABELS.0, LABELS.1.min(width as f32 * 0.3).max(LABELS.0)).floor();
    let plot = width as f32 - labels - RIGHT;
    let least = if ids.len() > 100 { 14.0 } else { 18.0 };
    let tallest = if ids.len() > 4 { USUAL_LANE } else { TALL };
    let height = ((USUAL - TOP - BOTTOM) / ids.len().max(1) as f32).clamp(least, tallest).floor();
    let height = options.lane.map_or(height, |lane| lane.clamp(14, 400) as f32);
    let lanes = look_at_lanes(checked, &ids, seed, (options.from, to), (labels, plot, height));
    let foot = TOP + height * lanes.len() as f32;
    let legend = legend(&lanes, ids.len() < program.lights().len());
    let legend = fonts.wrapped(&legend, 12.0, false, width as f32 - 48.0);
    let mut sheet = Sheet {
        fonts,
        shapes: Vec::new(),
        width: width as f32,
        labels,
        plot,
        span: (options.from, to),
    };
    let lit = ids.iter().filter(|id| program.light(**id).kind != LightKind::Output);
    let lamps: u64 = lit.clone().map(|id| u64::from(program.light(*id).size.shown())).sum();
    let outputs = ids.len() - lit.count();
    sheet.head(checked, (ids.len() - outputs, lamps, outputs), (options.from, to), seed);
    for (n, lane) in lanes.iter().enumerate() {
        sheet.lane(checked, findings, lane, n);
    }
    sheet.ruler((options.from, to), foot);
    sheet.foot(&legend, foot);
    Picture {
        width,
        height: (foot + BOTTOM + LEGEND * (legend.len() as f32 - 1.0)) as u32,
        ground: look::GROUND,
        title: format!("{}: timeline of {} lights", program.name(), ids.len()),
        shapes: sheet.shapes,
    }
}

/// Two turns of the longest curve, from 10 to 60 seconds.
fn usual_span(checked: &Checked) -> f64 {
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
    checked: &'a Checked,
    ids: &[LightId],
    seed: Seed,
    (from, to): (Seconds, Seconds),
    (labels, plot, height): (f32, f32, f32),
) -> Vec<Lane<'a>> {
    let program = checked.program();
    let lamps_of = |id: &LightId| ribbons(program.light(*id), height).0;
    let wanted: Vec<(LightId, u32)> =
        ids.iter().flat_map(|id| (0..lamps_of(id)).map(|lamp| (*id, lamp))).collect();
    // About 150 moments a second, so that no flicker is missed; fewer where there are many lamps.
    let columns = plot as usize;
    let dense = (150.0 * (to.0 - from.0) / columns as f64).ceil() as usize;
    let affordable = (3_000_000 / (columns * wanted.len().max(1))).max(2);
    let window = Window { from, to, columns, each: dense.clamp(1, 12).min(affordable) };
    let mut looked = look_at_all(checked, seed, &wanted, window).into_iter();
    ids.iter()
        .enumerate()
        .map(|(n, id)| {
            let light = program.light(*id);
            let lamps = lamps_of(id) as usize;
            Lane {
                id: *id,
                light,
                lamps: looked.by_ref().take(lamps).collect(),
                frame: Frame { x: labels, y: TOP + height * n as f32, w: plot, h: height },
            }
        })
        .collect()
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
    span: (Seconds, Seconds),
}

impl Sheet {
    fn text(&mut self, (x, y): (f32, f32), size: f32, ink: Ink, anchor: Anchor, words: &str) {
        self.words((x, y), size, false, ink, anchor, words);
    }

    fn words(
        &mut self,
        (x, y): (f32, f32),
        size: f32,
        bold: bool,
        ink: Ink,
        anchor: Anchor,
        words: &str,
    ) {
        let words = words.to_owned();
        self.shapes.push(Shape::Text(Text { x, y, size, bold, anchor, ink, words }));
    }

    fn head(
        &mut self,
        checked: &Checked,
        (lights, lamps, outputs): (usize, u64, usize),
        (from, to): (Seconds, Seconds),
        seed: Seed,
    ) {
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
        let about = format!(
            "{}, {}{outputs}   \u{2022}   {} s to {} s   \u{2022}   seed {}",
            plural(lights as u64, "light"),
            plural(lamps, "lamp"),
            scale::short(from.0),
            scale::short(to.0),
            seed.0
        );
        let about = self.fonts.fitted(&about, 14.0, false, most);
        self.text((24.0, 62.0), 14.0, look::QUIET, Anchor::Start, &about);
    }

    /// Marks at the top, and a thin line through all lanes at each.
    fn ruler(&mut self, (from, to): (Seconds, Seconds), foot: f32) {
        let span = to.0 - from.0;
        let step = scale::step(span, (self.plot / 84.0) as usize);
        let first = (from.0 / step - 1e-9).ceil() as i64;
        let last = (to.0 / step + 1e-9).floor() as i64;
        for n in first..=last {
            let t = n as f64 * step;
            let x = self.labels + ((t - from.0) / span) as f32 * self.plot;
            self.shapes.push(Shape::Line((x, TOP - 6.0), (x, foot), 1.0, look::GRID));
            let words = scale::moment(t, step);
            // A mark at an edge keeps its words inside the picture.
            let half = self.fonts.width(&words, 12.0, false) / 2.0;
            let x = x.min(self.width - 6.0 - half);
            self.text((x, TOP - 11.0), 12.0, look::QUIET, Anchor::Middle, &words);
        }
    }

    fn lane(&mut self, checked: &Checked, findings: &[Finding], lane: &Lane<'_>, n: usize) {
        let frame = lane.frame;
        if n.is_multiple_of(2) {
            let band = Frame { x: 0.0, w: self.width, ..frame };
            self.shapes.push(Shape::Box(band, look::BAND));
        }
        let level = lane.light.level();
        let bounds = level.and_then(|f| checked.bounds(lane.id, f)).map(|b| b.part(0));
        let seen = lane.lamps.iter().fold(0.0f32, |most, lamp| most.max(lamp.most));
        // The lane reaches up to its bound, unless that lies far above all that is seen.
        let top = match bounds {
            Some(bounds) if (bounds.hi as f32) <= seen * 1.5 => (bounds.hi as f32).max(seen),
            _ => seen,
        };
        let top = if top > 0.0 { top } else { 1.0 };
        let inner = Frame { y: frame.y + 3.0, h: frame.h - 6.0, ..frame };
        let ribbon = ribbons(lane.light, frame.h).1;
        let gap = if frame.h < 34.0 { 1.0 } else { 3.0 };
        self.ribbons(lane, Frame { h: ribbon, ..inner }, top);
        let under = Frame { y: inner.y + ribbon + gap, h: inner.h - ribbon - gap, ..inner };
        if let Some(first) = lane.lamps.first() {
            self.curve(lane, first, under, top, bounds);
        }
        self.marks(findings, lane, under);
        self.label(checked, findings, lane, top);
    }

    /// Where what was found is seen: a thin line at each moment, with a head.
    fn marks(&mut self, findings: &[Finding], lane: &Lane<'_>, frame: Frame) {
        let (from, to) = (self.span.0.0, self.span.1.0);
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
        top: f32,
        bounds: Option<caltrin_core::bounds::Interval>,
    ) {
        let ink = lamp_ink(&lamp.columns);
        let y = |v: f32| frame.y + frame.h * (1.0 - (v / top).clamp(0.0, 1.0));
        let (floor, columns) = (y(0.0), &lamp.columns);
        let filled = columns.iter().map(|c| (y(c.least), floor)).collect();
        self.shapes.push(Shape::Bars(frame, filled, ink.alpha(70)));
        if columns.iter().any(|c| c.most - c.least > top * 0.002) {
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
        if let Some(bounds) = bounds.filter(|_| lane.frame.h >= 34.0) {
            for v in [bounds.lo, bounds.hi] {
                let level = v as f32;
                if level > 0.0 && level <= top * 1.0001 && bounds.lo < bounds.hi {
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

    fn label(&mut self, checked: &Checked, findings: &[Finding], lane: &Lane<'_>, top: f32) {
        let (frame, light) = (lane.frame, lane.light);
        let found: Vec<&Finding> =
            findings.iter().filter(|finding| finding.lights.contains(&lane.id)).collect();
        let name = match light.size {
            Size::One => light.name.clone(),
            Size::Many(n) => format!("{}[{n}]", light.name),
            Size::Open => format!("{}[]", light.name),
        };
        let level = light.level();
        let shown = level.and_then(|field| light.drive(field));
        let program = checked.program();
        let unit = shown
            .map_or(Cow::Borrowed(""), |value| program.space().symbol(program.expr(value).kind));
        let unit = &*unit;
        let with_unit = |v: f64| match unit {
            "" => format!("{}%", scale::short(v * 100.0)),
            unit => format!("{} {unit}", scale::short(v)),
        };
        let full = if shown.is_some() { with_unit(f64::from(top)) } else { String::new() };
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
        self.text(
            (self.labels - 10.0, frame.y + frame.h - 4.0),
            11.0,
            look::QUIET,
            Anchor::End,
            "0",
        );
        let mut lines = vec![(about(light), look::QUIET)];
        let bounds = level.and_then(|field| checked.bounds(lane.id, field));
        if let Some(bounds) = bounds.map(|b| b.part(0)) {
            let words = if bounds.lo == bounds.hi {
                format!("steady at {}", with_unit(bounds.lo))
            } else {
                format!("stays in {}..{}", scale::short_pair(bounds.lo, unit), with_unit(bounds.hi))
            };
            lines.push((words, look::QUIET));
        } else if light.kind != LightKind::Output {
            lines.push(("strength left to the game".to_owned(), look::QUIET));
        }
        let moving = moving(checked, light);
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
    fn foot(&mut self, legend: &[String], foot: f32) {
        let (left, right) = ((self.labels, foot), (self.labels + self.plot, foot));
        self.shapes.push(Shape::Line(left, right, 1.0, look::GRID));
        let mut y = foot + 22.0;
        for line in legend {
            self.text((24.0, y), 12.0, look::QUIET, Anchor::Start, line);
            y += LEGEND;
        }
    }
}

/// What the marks on these lanes mean. `chosen` if not all of the book's lights are shown.
fn legend(lanes: &[Lane<'_>], chosen: bool) -> String {
    let folded = lanes.iter().any(|lane| lane.light.size.shown() as usize > lane.lamps.len());
    let several = lanes.iter().any(|lane| lane.lamps.len() > 1);
    let mut words = "Ribbon: color at its strength against the lane's top, linear light shown as \
                     sRGB"
        .to_owned();
    if several && folded {
        words += ", one for each lamp of an array, or its first lamps";
    } else if several {
        words += ", one for each lamp of an array";
    }
    words += if several || folded { ". Curve: lamp 0, its" } else { ". Curve:" };
    words += " mean and range. Dashed: bounds it never leaves.";
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

/// The fields beside the strength that change with time.
fn moving<'a>(checked: &Checked, light: &'a Light) -> Vec<&'a str> {
    let program = checked.program();
    light
        .drives
        .iter()
        .filter(|drive| Some(drive.field) != light.level())
        .filter(|drive| program.expr(drive.value).pace == Pace::Flowing)
        .map(|drive| match drive.field {
            Field::ReachInner | Field::ReachOuter => "reach",
            Field::ConeInner | Field::ConeOuter => "cone",
            field => light.field_name(field),
        })
        .fold(Vec::new(), |mut all, name| {
            if all.last() != Some(&name) {
                all.push(name);
            }
            all
        })
}

/// The ink of a lamp's curve: its mean colour at full, never too dark to be read.
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
