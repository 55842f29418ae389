//! Strips above the lanes of a day: the sky with sun and moon, and the phases.

use caltrin_core::program::ExprId;
use caltrin_core::quantity::Hours;
use caltrin_core::run::State;
use caltrin_core::{Run, ValidatedProgram};

use crate::columns::{day_moments, day_state, shown};
use crate::font::Fonts;
use crate::look;
use crate::scale;
use crate::shape::{Anchor, Frame, Shape};

/// The height of a strip of sky, and of one of phases.
const STRIP: (f32, f32) = (74.0, 24.0);
/// Between strips.
const GAP: f32 = 6.0;

/// The color of the sky by the altitude of the sun, in degrees: an illustration, not a measurement.
const TONES: [(f32, [f32; 3]); 7] = [
    (-18.0, [11.0, 16.0, 24.0]),
    (-9.0, [20.0, 30.0, 50.0]),
    (-4.0, [52.0, 58.0, 82.0]),
    (0.0, [138.0, 104.0, 84.0]),
    (4.0, [150.0, 138.0, 122.0]),
    (12.0, [112.0, 146.0, 166.0]),
    (45.0, [132.0, 172.0, 194.0]),
];

/// Sun or moon over a day.
struct Way {
    name: String,
    heights: Vec<f32>,
    /// Of a moon, its illuminated fraction at noon.
    lit: Option<f32>,
    /// The altitude at which it rises and sets, in degrees.
    horizon: f32,
}

/// Phases over a day.
#[derive(PartialEq)]
struct DayBand {
    name: String,
    parts: Vec<String>,
    /// The phase with the largest weight in each column.
    most: Vec<usize>,
    /// Their blended tint, if they have tints.
    tints: Option<Vec<[u8; 3]>>,
}

/// The sky of each run.
pub(crate) struct Sky {
    runs: Vec<(Vec<Way>, Vec<DayBand>)>,
}

impl Sky {
    /// Samples sun, moon and phases of each run in this many columns.
    pub(crate) fn look(checked: &ValidatedProgram, starts: &[State], columns: usize) -> Sky {
        let program = checked.program();
        let mut wanted: Vec<ExprId> = Vec::new();
        for body in program.bodies() {
            wanted.push(body.height);
            wanted.extend(body.lit);
        }
        for phases in program.phases() {
            wanted.extend(phases.parts.iter().map(|(.., weight)| *weight));
            wanted.extend(phases.tint);
        }
        let Some((probe, id)) = checked.probe(&wanted) else { return Sky { runs: Vec::new() } };
        let runs = starts.iter().map(|start| {
            let mut run = Run::from_state(&probe, day_state(program, start));
            let width = run.width(id);
            let mut values = vec![0.0; width * columns];
            run.read_moments((id, 0), &day_moments(columns), 0..width, &mut values);
            let mut at = 0;
            let mut next = |wide: usize| {
                let from = at;
                at += wide;
                values.chunks(width.max(1)).map(move |row| &row[from..from + wide])
            };
            let mut ways = Vec::new();
            for body in program.bodies() {
                let heights = next(1).map(|v| v[0]).collect();
                let lit = body.lit.and_then(|_| next(1).nth(columns / 2)).map(|v| v[0]);
                let horizon = body.horizon as f32;
                ways.push(Way { name: body.name.clone(), heights, lit, horizon });
            }
            let mut bands: Vec<DayBand> = Vec::new();
            for phases in program.phases() {
                let count = phases.parts.len();
                let heaviest = |weights: &[f32]| {
                    let order = |a: &usize, b: &usize| weights[*a].total_cmp(&weights[*b]);
                    (0..weights.len()).max_by(order).unwrap_or(0)
                };
                let most = next(count).map(heaviest).collect();
                let color = |v: &[f32]| shown([v[0], v[1], v[2]], 1.0);
                let tints = phases.tint.map(|_| next(3).map(color).collect());
                let parts = phases.parts.iter().map(|(name, ..)| name.clone()).collect();
                bands.push(DayBand { name: phases.name.clone(), parts, most, tints });
            }
            (ways, bands)
        });
        let mut runs: Vec<(Vec<Way>, Vec<DayBand>)> = runs.collect();
        // Phases that are alike in all runs stand there once, below the last.
        let last = runs.len().saturating_sub(1);
        if (1..runs.len()).all(|n| runs[n].1 == runs[0].1) {
            for (_, bands) in &mut runs[..last] {
                bands.clear();
            }
        }
        Sky { runs }
    }

    /// The total height.
    pub(crate) fn height(&self) -> f32 {
        let each = self.runs.iter().map(|(ways, bands)| {
            let sky = if ways.is_empty() { 0.0 } else { STRIP.0 + GAP };
            sky + bands.len() as f32 * (STRIP.1 + GAP)
        });
        let all: f32 = each.sum();
        if all > 0.0 { all + GAP } else { 0.0 }
    }

    /// Draws it from a vertical position down; `names` are those of the runs, if there are several.
    pub(crate) fn draw(
        &self,
        names: &[String],
        (labels, plot, top): (f32, f32, f32),
        fonts: &Fonts,
        shapes: &mut Vec<Shape>,
    ) {
        let mut y = top;
        for (n, (ways, bands)) in self.runs.iter().enumerate() {
            let name = names.get(n).map_or("", String::as_str);
            if !ways.is_empty() {
                let frame = Frame { x: labels, y, w: plot, h: STRIP.0 };
                strip(ways, name, frame, fonts, shapes);
                y += STRIP.0 + GAP;
            }
            for band in bands {
                let frame = Frame { x: labels, y, w: plot, h: STRIP.1 };
                phases(band, if ways.is_empty() { name } else { "" }, frame, fonts, shapes);
                y += STRIP.1 + GAP;
            }
        }
    }
}

/// The sky by the sun's altitude, and the paths of sun and moon.
fn strip(ways: &[Way], run: &str, frame: Frame, fonts: &Fonts, shapes: &mut Vec<Shape>) {
    let sun = ways.iter().find(|way| way.lit.is_none());
    if let Some(sun) = sun {
        let tones = sun.heights.iter().map(|height| tone(*height)).collect();
        shapes.push(Shape::Ribbon(frame, tones));
    } else {
        shapes.push(Shape::Box(frame, look::BAND));
    }
    let far = ways.iter().flat_map(|way| &way.heights).fold(20.0f32, |far, h| far.max(h.abs()));
    let y_of = |height: f32| frame.y + frame.h * 0.5 - height / far * (frame.h * 0.5 - 4.0);
    let horizon = y_of(0.0);
    let ends = ((frame.x, horizon), (frame.x + frame.w, horizon));
    shapes.push(Shape::Line(ends.0, ends.1, 1.0, look::INK.alpha(90)));
    for way in ways {
        let ink = if way.lit.is_some() { look::MOON } else { look::SUN };
        let mut before = way.heights.first().map_or(horizon, |h| y_of(*h));
        let line: Vec<(f32, f32)> = way
            .heights
            .iter()
            .map(|height| {
                let from = std::mem::replace(&mut before, y_of(*height));
                (from.min(before) - 0.8, from.max(before) + 0.8)
            })
            .collect();
        // A dark edge keeps the line apart from any sky.
        shapes.push(Shape::Bars(frame, widened(&line), look::GROUND.alpha(150)));
        let line = if way.lit.is_some() { dashed(line) } else { line };
        shapes.push(Shape::Bars(frame, line, ink));
        // A disc where it stands highest.
        let highest =
            (0..way.heights.len()).max_by(|a, b| way.heights[*a].total_cmp(&way.heights[*b]));
        if let Some(n) = highest {
            let x = frame.x + (n as f32 + 0.5) / way.heights.len() as f32 * frame.w;
            shapes.push(Shape::Disc((x, y_of(way.heights[n])), 4.5, look::GROUND.alpha(150)));
            shapes.push(Shape::Disc((x, y_of(way.heights[n])), 3.5, ink));
        }
    }
    let room = frame.x - 34.0;
    let mut y = frame.y + 13.0;
    if !run.is_empty() {
        let run = fonts.fitted_name(run, 13.0, true, room);
        shapes.push(Shape::words((24.0, y), 13.0, true, look::INK, Anchor::Start, run));
        y += 15.0;
    }
    for way in ways.iter().take(2) {
        let ink = if way.lit.is_some() { look::MOON } else { look::SUN };
        let name = fonts.fitted_name(&way.name, 13.0, true, room * 0.5);
        let wide = fonts.width(&name, 13.0, true);
        shapes.push(Shape::words((24.0, y), 13.0, true, ink, Anchor::Start, name));
        let lit = way.lit.map_or(String::new(), |lit| {
            format!("{}% lit", scale::short(f64::from((lit * 100.0).round())))
        });
        let highest = way.heights.iter().fold(f32::MIN, |a, b| a.max(*b));
        let most = format!("highest {} deg", scale::short(f64::from(highest.round())));
        let beside = if lit.is_empty() { most } else { format!("{lit}, {most}") };
        let beside = fonts.fitted(&beside, 11.0, false, room - wide - 8.0);
        let place = (24.0 + wide + 8.0, y);
        shapes.push(Shape::words(place, 11.0, false, look::QUIET, Anchor::Start, beside));
        let crossings = fonts.fitted(&crossings(&way.heights, way.horizon), 12.0, false, room);
        y += 15.0;
        shapes.push(Shape::words((24.0, y), 12.0, false, look::QUIET, Anchor::Start, crossings));
        y += 16.0;
    }
}

/// A dashed line, so that the moon's differs from the sun's in more than its color.
fn dashed(line: Vec<(f32, f32)>) -> Vec<(f32, f32)> {
    let gap = |n: usize, (top, foot): (f32, f32)| if n % 9 < 6 { (top, foot) } else { (top, top) };
    line.into_iter().enumerate().map(|(n, bar)| gap(n, bar)).collect()
}

fn widened(line: &[(f32, f32)]) -> Vec<(f32, f32)> {
    line.iter().map(|(top, foot)| (top - 1.2, foot + 1.2)).collect()
}

fn tone(height: f32) -> [u8; 3] {
    let next = TONES.iter().position(|(at, _)| height < *at);
    let mixed = match next {
        Some(0) => TONES[0].1,
        None => TONES[TONES.len() - 1].1,
        Some(n) => {
            let ((from, a), (to, b)) = (TONES[n - 1], TONES[n]);
            let share = (height - from) / (to - from);
            [0, 1, 2].map(|part| a[part] + (b[part] - a[part]) * share)
        }
    };
    mixed.map(|v| v.round() as u8)
}

/// The hours of rise and set, interpolated between the columns.
fn crossings(heights: &[f32], horizon: f32) -> String {
    let count = heights.len() as f32;
    let hour = |n: usize, from: f32, to: f32| {
        let share = (horizon - from) / (to - from);
        Hours((f64::from((n as f32 + 0.5 + share) / count * 24.0) * 60.0).round() / 60.0).to_clock()
    };
    let mut told = Vec::new();
    for (n, pair) in heights.windows(2).enumerate() {
        let [from, to] = [pair[0], pair[1]];
        if (from > horizon) != (to > horizon) {
            let verb = if to > horizon { "rises" } else { "sets" };
            told.push(format!("{verb} {}", hour(n, from, to)));
        }
    }
    match (told.is_empty(), heights.first().is_some_and(|h| *h > horizon)) {
        (false, _) => told.join(", "),
        (true, true) => "up all day".to_owned(),
        (true, false) => "below all day".to_owned(),
    }
}

/// The phases as a band with their names.
fn phases(band: &DayBand, run: &str, frame: Frame, fonts: &Fonts, shapes: &mut Vec<Shape>) {
    match &band.tints {
        Some(tints) => shapes.push(Shape::Ribbon(frame, tints.clone())),
        None => shapes.push(Shape::Box(frame, look::BAND)),
    }
    let count = band.most.len().max(1) as f32;
    let mut start = 0;
    for n in 1..=band.most.len() {
        if n < band.most.len() && band.most[n] == band.most[start] {
            continue;
        }
        let (from, to) =
            (frame.x + start as f32 / count * frame.w, frame.x + n as f32 / count * frame.w);
        if start > 0 {
            let line = ((from, frame.y), (from, frame.y + frame.h));
            shapes.push(Shape::Line(line.0, line.1, 1.0, look::INK.alpha(120)));
        }
        let name = fonts.fitted_name(&band.parts[band.most[start]], 12.0, true, to - from - 20.0);
        if !name.is_empty() && to - from > 30.0 {
            let wide = fonts.width(&name, 12.0, true);
            let middle = (from + to) / 2.0;
            let plate = Frame {
                x: middle - wide / 2.0 - 5.0,
                y: frame.y + 4.0,
                w: wide + 10.0,
                h: frame.h - 8.0,
            };
            shapes.push(Shape::Box(plate, look::GROUND.alpha(170)));
            let place = (middle, frame.y + frame.h / 2.0 + 4.5);
            shapes.push(Shape::words(place, 12.0, true, look::INK, Anchor::Middle, name));
        }
        start = n;
    }
    let label = if run.is_empty() { band.name.clone() } else { format!("{} {run}", band.name) };
    let label = fonts.fitted_name(&label, 13.0, true, frame.x - 34.0);
    let place = (24.0, frame.y + frame.h / 2.0 + 4.5);
    shapes.push(Shape::words(place, 13.0, true, look::INK, Anchor::Start, label));
}
