//! Lanes of sounds: the waveform, three bands below it, and the onsets.

use caltrin_core::ValidatedProgram;
use caltrin_core::program::{Depth, ExprId, LightId, Op, Program, Sound, TableId};
use caltrin_core::quantity::Seconds;
use caltrin_core::run::State;
use caltrin_core::sound::{Band, Hearing, Marks, Measure, STEPS};
use rustc_hash::FxHashSet;

use crate::columns::values_at;
use crate::font::Fonts;
use crate::look;
use crate::shape::{Anchor, Frame, Ink, Reading, Shape};

/// The height of a sound's lane if there are many lanes, and the gap below it.
const TALL: f32 = 44.0;
const LOW: f32 = 30.0;
const GAP: f32 = 4.0;
/// The height of a band's ribbon.
const RIBBON: f32 = 5.0;

/// Maximum number of sounds that are shown.
const MOST: usize = 8;

/// The inks of low, mid and high.
pub(crate) const BANDS: [(&str, Ink); 3] =
    [("low", look::MORE), ("mid", look::INK), ("high", look::LESS)];

/// The columns of a sound.
pub(crate) struct SoundLane {
    name: String,
    about: String,
    /// The peak and the level, relative to the sound's maximum.
    peaks: Vec<f32>,
    levels: Vec<f32>,
    /// Low, mid and high, each relative to its own maximum.
    bands: [Vec<f32>; 3],
    /// Columns with onsets, and their strengths.
    marks: Vec<(usize, f32)>,
}

impl SoundLane {
    /// The range of positions of a sound in each column; `None` where it does not play.
    pub fn of(name: &str, about: String, hearing: &Hearing, places: &[Option<(f64, f64)>]) -> Self {
        let loudest = |all: &[f64]| all.iter().copied().fold(1e-9, f64::max);
        let span = |all: &[f64], (from, to): (f64, f64)| {
            let at = |place: f64| (place * f64::from(STEPS)).floor().max(0.0) as usize;
            let (from, to) = (at(from), at(to).max(at(from) + 1));
            all.get(from.min(all.len())..to.min(all.len())).map(<[f64]>::to_vec).unwrap_or_default()
        };
        let most = |all: &[f64], top: f64| {
            let of = |place: &Option<(f64, f64)>| match place {
                Some(place) => (span(all, *place).into_iter().fold(0.0, f64::max) / top) as f32,
                None => 0.0,
            };
            places.iter().map(of).collect::<Vec<f32>>()
        };
        let peaks = hearing.measured(Measure::Peak);
        let levels = hearing.measured(Measure::Level);
        let top = loudest(&peaks);
        let bands = Band::NAMED.map(|(_, band)| {
            let all = hearing.measured(Measure::Band(band));
            most(&all, loudest(&all))
        });
        let mut begins = hearing.marks(Marks::Onsets);
        let notes = begins.is_empty();
        if notes {
            begins = hearing.marks(Marks::SourceNotes);
        }
        let mut marks = Vec::new();
        for (column, place) in places.iter().enumerate() {
            let Some((from, to)) = place else { continue };
            let first = begins.partition_point(|mark| mark.at < *from);
            for mark in begins[first..].iter().take_while(|mark| mark.at < *to).take(1) {
                marks.push((column, if notes { 1.0 } else { mark.value as f32 }));
            }
        }
        let (peaks, levels) = (most(&peaks, top), most(&levels, top));
        SoundLane { name: name.to_owned(), about, peaks, levels, bands, marks }
    }

    /// Draws it in a frame, with its name on the left.
    pub fn draw(&self, frame: Frame, left: f32, fonts: &Fonts, shapes: &mut Vec<Shape>) {
        let name = fonts.fitted(&self.name, 13.0, true, left - 36.0);
        let at = (24.0, frame.y + 14.0);
        shapes.push(Shape::words(at, 13.0, true, look::INK, Anchor::Start, name));
        let about = fonts.fitted(&self.about, 11.0, false, left - 36.0);
        let at = (24.0, frame.y + 29.0);
        shapes.push(Shape::words(at, 11.0, false, look::QUIET, Anchor::Start, about));
        let ribbon = if frame.h < TALL { RIBBON - 2.0 } else { RIBBON };
        let tall = frame.h - 3.0 * (ribbon + 1.0);
        let wave = Frame { h: tall, ..frame };
        shapes.push(Shape::Box(wave, look::BAND));
        let middle = wave.y + tall / 2.0;
        let bars = |all: &[f32]| {
            let bar = |v: &f32| {
                let reach = (v.min(1.0) * tall / 2.0).max(if *v > 0.0 { 0.5 } else { 0.0 });
                (middle - reach, middle + reach)
            };
            all.iter().map(bar).collect::<Vec<_>>()
        };
        shapes.push(Shape::Bars(wave, bars(&self.peaks), look::FOCUS.alpha(90)));
        shapes.push(Shape::Bars(wave, bars(&self.levels), look::FOCUS.alpha(190)));
        // Where they crowd they only stand at the upper edge.
        let crowd = self.marks.len() * 12 > self.peaks.len();
        let reach = if crowd { (tall * 0.2).min(5.0) } else { tall };
        for (column, strength) in &self.marks {
            let x = frame.x + frame.w * (*column as f32 + 0.5) / self.peaks.len().max(1) as f32;
            let ink = look::MORE.alpha(90 + (165.0 * strength.clamp(0.0, 1.0)) as u8);
            shapes.push(Shape::Line((x, wave.y), (x, wave.y + reach), 1.0, ink));
        }
        for (n, (band, (_, ink))) in self.bands.iter().zip(BANDS).enumerate() {
            let y = wave.y + tall + 1.0 + (ribbon + 1.0) * n as f32;
            let frame = Frame { y, h: ribbon, ..frame };
            let colors = band.iter().map(|v| mixed(look::BAND, ink, *v)).collect();
            shapes.push(Shape::Ribbon(frame, colors));
        }
    }

    /// Its readings.
    pub fn reading(&self, frame: Frame) -> Reading {
        let levels = self.peaks.iter().zip(&self.levels);
        Reading {
            frame,
            name: format!("{} (sound)", self.name),
            unit: String::new(),
            top: 1.0,
            levels: levels.map(|(peak, level)| [0.0, *level, *peak]).collect(),
            colors: self.levels.iter().map(|v| mixed(look::BAND, look::FOCUS, *v)).collect(),
            findings: Vec::new(),
        }
    }
}

/// A color between two, approximately perceptually uniform.
fn mixed(from: Ink, to: Ink, part: f32) -> [u8; 3] {
    let (Ink([a, b, c, _]), Ink([x, y, z, _])) = (from, to);
    let part = part.clamp(0.0, 1.0).sqrt();
    [(a, x), (b, y), (c, z)].map(|(from, to)| {
        (f32::from(from) + (f32::from(to) - f32::from(from)) * part).round() as u8
    })
}

/// The tables that lights follow, directly or through signals and behaviors.
fn followed(program: &Program, lights: &[LightId]) -> FxHashSet<TableId> {
    let drives = lights.iter().flat_map(|id| &program.light(*id).drives);
    let met = program.walk(drives.map(|drive| drive.value), Depth::Whole);
    let envelopes = met.filter_map(|(_, expr)| match expr.op {
        Op::Envelope(table, _) => Some(table),
        _ => None,
    });
    envelopes.collect()
}

/// All sounds of a timeline.
pub(crate) struct SoundLanes {
    lanes: Vec<SoundLane>,
    tall: f32,
}

impl SoundLanes {
    /// No sounds.
    pub fn none() -> Self {
        SoundLanes { lanes: Vec::new(), tall: TALL }
    }

    /// Samples the positions of the sounds that these lights follow, in this many columns; of all
    /// sounds if all lights are shown.
    pub fn look(
        checked: &ValidatedProgram,
        lights: Option<&[LightId]>,
        start: &State,
        rehearsal: Option<usize>,
        (from, to): (Seconds, Seconds),
        columns: usize,
    ) -> Self {
        let program = checked.program();
        let tables = lights.map(|ids| followed(program, ids));
        let meant = |sound: &&Sound| {
            let heard =
                |tables: &FxHashSet<TableId>| sound.followed.iter().any(|t| tables.contains(t));
            !sound.file.is_empty() && tables.as_ref().is_none_or(heard)
        };
        let sounds: Vec<_> = program.sounds().iter().filter(meant).take(MOST).collect();
        let wanted: Vec<ExprId> =
            sounds.iter().flat_map(|sound| [Some(sound.place), sound.plays]).flatten().collect();
        let step = (to.0 - from.0) / columns.max(1) as f64;
        let moments: Vec<Seconds> =
            (0..=columns).map(|n| Seconds(from.0 + step * n as f64)).collect();
        let Some(found) = values_at(checked, &wanted, (start, rehearsal), &moments) else {
            return SoundLanes::none();
        };
        let mut found = found.into_iter();
        let mut column = || found.next().unwrap_or_default();
        let lanes = sounds.into_iter().map(|sound| {
            let place = column();
            let plays = sound.plays.map(|_| column());
            let length = sound.hearing.length().0;
            let places: Vec<Option<(f64, f64)>> = (0..columns)
                .map(|n| {
                    let on = plays.as_ref().is_none_or(|plays| plays[n + 1] > 0.5);
                    let (from, to) = (f64::from(place[n]), f64::from(place[n + 1]));
                    // It came round, was set or began in this column.
                    let from = if to < from || to - from > 20.0 * step { to - step } else { from };
                    Some((from.max(0.0), to)).filter(|_| on && from < length)
                })
                .collect();
            let how = if sound.loops { ", repeats" } else { "" };
            let about = format!("sound, {length:.1} s{how}");
            SoundLane::of(&sound.name, about, &sound.hearing, &places)
        });
        // A sound that does not play here has nothing to show.
        let sounds = |lane: &SoundLane| lane.peaks.iter().any(|v| *v > 0.0);
        SoundLanes { lanes: lanes.filter(sounds).collect(), tall: TALL }
    }

    /// Same for a drawing with this many other lanes.
    pub fn beside(self, others: usize) -> Self {
        SoundLanes { tall: if others > 12 { LOW } else { TALL }, ..self }
    }

    /// Their total height.
    pub fn height(&self) -> f32 {
        (self.tall + GAP) * self.lanes.len() as f32
    }

    /// Draws them from a vertical position down, and returns their readings.
    pub fn draw(
        &self,
        (labels, plot): (f32, f32),
        top: f32,
        fonts: &Fonts,
        shapes: &mut Vec<Shape>,
    ) -> Vec<Reading> {
        let mut readings = Vec::with_capacity(self.lanes.len());
        for (n, lane) in self.lanes.iter().enumerate() {
            let y = top + (self.tall + GAP) * n as f32;
            let frame = Frame { x: labels, y, w: plot, h: self.tall };
            lane.draw(frame, labels, fonts, shapes);
            readings.push(lane.reading(frame));
        }
        readings
    }

    /// The legend of the lanes.
    pub fn legend(&self) -> Option<String> {
        let some =
            "Sounds: peak and level, below them low, mid and high; vertical lines at onsets.";
        (!self.lanes.is_empty()).then(|| some.to_owned())
    }
}
