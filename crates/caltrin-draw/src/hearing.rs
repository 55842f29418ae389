//! The drawing of a sound: waveform, level, followed level, bands and onsets.

use caltrin_core::sound::{
    Advice, Band, Envelope, Follower, Hearing, Marks, Measure, Playing, STEPS,
};

use crate::font::Fonts;
use crate::look;
use crate::scale;
use crate::shape::{Anchor, Frame, Ink, Picture, Reading, Readings, Shape};
use crate::sounds::{BANDS, SoundLane};

const WIDTH: f32 = 1280.0;
const LABELS: f32 = 218.0;
const PLOT: f32 = WIDTH - LABELS - 24.0;
const TOP: f32 = 96.0;
const WAVE: f32 = 150.0;
const LANE: f32 = 110.0;
const GAP: f32 = 8.0;

/// A lane with a curve: its name, its subtitle, and its level in each column.
struct Lane {
    name: String,
    about: String,
    ink: Ink,
    levels: Vec<f64>,
}

/// Draws the analysis of a sound and, below its level, the level followed with the suggested attack
/// and release.
pub fn hearing(name: &str, heard: &Hearing, advice: &Advice) -> Picture {
    let fonts = Fonts::new();
    let mut shapes = Vec::new();
    let columns = PLOT as usize;
    let length = heard.length().0;
    let step = length / columns as f64;
    let places: Vec<_> =
        (0..columns).map(|n| Some((step * n as f64, step * (n + 1) as f64))).collect();
    let words =
        |at, size, bold, ink, text: &str| Shape::words(at, size, bold, ink, Anchor::Start, text);
    let title = fonts.fitted(name, 27.0, true, WIDTH - 48.0);
    shapes.push(words((24.0, 39.0), 27.0, true, look::INK, &title));
    let about = format!("{length:.2} s, {} onsets", heard.marks(Marks::Onsets).len());
    shapes.push(words((24.0, 62.0), 13.5, false, look::QUIET, &about));
    let mut y = TOP;
    let frame = Frame { x: LABELS, y, w: PLOT, h: WAVE };
    let wave = SoundLane::of("samples", "peak samples and level".to_owned(), heard, &places);
    wave.draw(frame, LABELS, &fonts, &mut shapes);
    let mut x = 24.0;
    for (text, ink) in [("ribbons:", look::QUIET)].into_iter().chain(BANDS) {
        shapes.push(words((x, frame.y + WAVE - 4.0), 11.0, false, ink, text));
        x += fonts.width(text, 11.0, false) + 6.0;
    }
    let mut readings = vec![wave.reading(frame)];
    y += WAVE + GAP;
    for (n, lane) in lanes(heard, advice, columns).into_iter().enumerate() {
        let frame = Frame { x: LABELS, y, w: PLOT, h: LANE };
        if n.is_multiple_of(2) {
            shapes.push(Shape::Box(Frame { x: 0.0, w: WIDTH, ..frame }, look::BAND));
        }
        shapes.push(words((24.0, y + 20.0), 15.0, true, look::INK, &lane.name));
        for (line, text) in
            fonts.wrapped(&lane.about, 12.0, false, LABELS - 40.0).iter().enumerate()
        {
            shapes.push(words(
                (24.0, y + 38.0 + 15.0 * line as f32),
                12.0,
                false,
                look::QUIET,
                text,
            ));
        }
        let foot = y + LANE - 4.0;
        let height = |v: f64| foot - (LANE - 12.0) * v.clamp(0.0, 1.0) as f32;
        let bars = lane.levels.iter().map(|v| (height(*v), foot)).collect();
        shapes.push(Shape::Bars(frame, bars, lane.ink.alpha(110)));
        let tops = lane.levels.windows(2).map(|pair| {
            let (a, b) = (height(pair[0]), height(pair[1]));
            (a.min(b) - 0.7, a.max(b) + 0.7)
        });
        let tops = tops.chain(lane.levels.last().map(|v| (height(*v) - 0.7, height(*v) + 0.7)));
        shapes.push(Shape::Bars(frame, tops.collect(), lane.ink));
        if n == 0
            && let Some([above, again]) = advice.threshold
        {
            for (v, text) in [(above, "above"), (again, "rearm below")] {
                let y = height(v);
                shapes.push(Shape::Line((LABELS, y), (LABELS + PLOT, y), 1.0, look::BOUND));
                let text = format!("{text} {}%", scale::short(v * 100.0));
                let at = (LABELS + PLOT - 6.0, y - 4.0);
                shapes.push(Shape::words(at, 11.0, false, look::QUIET, Anchor::End, text));
            }
        }
        readings.push(Reading {
            frame,
            name: lane.name,
            unit: String::new(),
            top: 1.0,
            levels: lane.levels.iter().map(|v| [*v as f32; 3]).collect(),
            colors: vec![[lane.ink.0[0], lane.ink.0[1], lane.ink.0[2]]; columns],
            findings: Vec::new(),
        });
        y += LANE;
    }
    let step = scale::step(length, (PLOT / 84.0) as usize);
    for n in 0..=(length / step + 1e-9).floor() as i64 {
        let v = n as f64 * step;
        let x = LABELS + (v / length) as f32 * PLOT;
        shapes.push(Shape::Line((x, TOP - 6.0), (x, y), 1.0, look::GRID));
        let mark = scale::moment(v, step);
        let x = x.min(WIDTH - 6.0 - fonts.width(&mark, 12.0, false) / 2.0);
        shapes.push(Shape::words((x, TOP - 11.0), 12.0, false, look::QUIET, Anchor::Middle, mark));
    }
    let legend = "Levels are relative to the maximum of each lane. Vertical lines: onsets or notes, brighter if stronger.";
    shapes.push(words((24.0, y + 22.0), 12.0, false, look::QUIET, legend));
    Picture {
        width: WIDTH as u32,
        height: (y + 36.0) as u32,
        ground: look::GROUND,
        title: format!("{name}: audio analysis"),
        shapes,
        readings: Some(Readings {
            span: (0.0, length),
            unit: "s".to_owned(),
            about,
            lanes: readings,
        }),
    }
}

fn lanes(heard: &Hearing, advice: &Advice, columns: usize) -> Vec<Lane> {
    let length = heard.length().0;
    let most = |all: &[f64]| -> Vec<f64> {
        let at = |n: usize| (n as f64 / columns as f64 * length * f64::from(STEPS)) as usize;
        let of = |n: usize| {
            let from = at(n).min(all.len().saturating_sub(1));
            let to = at(n + 1).max(from + 1).min(all.len());
            all[from..to].iter().copied().fold(0.0, f64::max)
        };
        (0..columns).map(of).collect()
    };
    let level = heard.targets(Measure::Level, None, 0.0);
    let follower = Follower { attack: advice.attack, release: advice.release };
    let mut lanes = vec![Lane {
        name: "level".to_owned(),
        about: "25 ms windows, relative to the maximum".to_owned(),
        ink: look::FOCUS,
        levels: most(&level),
    }];
    if let Some(envelope) = Envelope::of(follower, &level, heard.length(), Playing::Once) {
        let at =
            |n: usize| caltrin_core::quantity::Seconds((n as f64 + 0.5) / columns as f64 * length);
        lanes.push(Lane {
            name: "followed".to_owned(),
            about: format!(
                "attack {}ms, release {}ms; {} bytes as a table",
                scale::short(advice.attack.0 * 1e3),
                scale::short(advice.release.0 * 1e3),
                4 * envelope.words().len()
            ),
            ink: look::SUN,
            levels: (0..columns).map(|n| envelope.at(at(n))).collect(),
        });
    }
    for ((name, band), (_, ink)) in Band::NAMED.into_iter().zip(BANDS) {
        let [lo, hi] = band.edges().map(|edge| scale::short(edge.0));
        let levels = most(&heard.targets(Measure::Band(band), None, 0.0));
        let loudest = |measure| heard.measured(measure).into_iter().fold(0.0, f64::max);
        let share = loudest(Measure::Band(band)) / loudest(Measure::Level).max(1e-9);
        let about = match share {
            0.0 => format!("{lo} to {hi} Hz; silent"),
            share => format!(
                "{lo} to {hi} Hz; up to {}% of the maximum",
                scale::short((share * 1000.0).round() / 10.0)
            ),
        };
        lanes.push(Lane { name: name.to_owned(), about, ink, levels });
    }
    lanes
}
