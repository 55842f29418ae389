//! What a sound is like over time: pure computation on samples.
//!
//! 1. A [`Listener`] takes samples as they come, of any rate and up to [`MOST_CHANNELS`] channels, and makes a
//!    [`Hearing`]: the level, the peak, three bands and the onsets of the sound, [`STEPS`] a second.
//! 2. A [`Measure`] of it, gated and scaled, is what a light follows ([`Hearing::targets`]).
//! 3. A [`Follower`] smooths that with attack and release; an [`Envelope`] is what comes out, as few straight lines
//!    as stay within [`TABLE_ERROR`] of it.
//!
//! Of several channels the loudest counts, step by step: one loud side is not lost among quiet ones.

mod advice;
mod envelope;
mod listen;
mod onset;
mod spectrum;

use std::sync::{Mutex, PoisonError};

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::quantity::{Hertz, Seconds};

pub use advice::Advice;
pub use envelope::{Crossing, Envelope, Follower, Playing, SHORTEST, TABLE_ERROR, TICKS};
pub use listen::Listener;

/// How many steps a second of sound is sampled in.
pub const STEPS: u32 = 240;

/// How many spectra are made of a second; each counts for [`STEPS_A_SPECTRUM`].
pub const SPECTRA: u32 = STEPS / STEPS_A_SPECTRUM as u32;

/// How many steps one spectrum counts for; its window lies around the middle of them.
pub const STEPS_A_SPECTRUM: usize = 3;

/// How many steps the level is taken over (RMS): 25 ms, half of them before the current step.
pub const LEVEL_STEPS: usize = 6;

/// Longest sound: places in tables have 24 bits.
pub const LONGEST: Seconds = Seconds(70.0 * 60.0);

/// How long an onset counts as a full level.
pub const ONSET_LASTS: Seconds = Seconds(0.05);

/// Most channels of a sound.
pub const MOST_CHANNELS: usize = 32;

/// The lowest and highest frequency of a band that a book may ask for, in Hz.
pub const FREQUENCIES: [f64; 2] = [20.0, 20_000.0];

/// Why samples are no sound.
#[derive(Clone, Copy, Debug, PartialEq, Error)]
pub enum SoundFault {
    /// There are none.
    #[error("it has no samples")]
    Empty,
    /// Too many channels, or none.
    #[error("it has {0} channels, expected 1 to {MOST_CHANNELS}")]
    Channels(usize),
    /// A rate that no sound has.
    #[error("its sample rate is {0} Hz, expected 1,000 to 768,000 Hz")]
    Rate(u32),
    /// A sample that is not a finite number.
    #[error("it has a sample that is not a number, at {:.3} s", .0.0)]
    NoNumber(Seconds),
    /// It goes on for too long.
    #[error("it is longer than 70 minutes")]
    TooLong,
}

/// A range of frequencies.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub enum Band {
    /// 20 to 250 Hz.
    Low,
    /// 250 to 2,000 Hz.
    Mid,
    /// 2,000 to 20,000 Hz.
    High,
    /// Edges of one's own, in Hz, within [`FREQUENCIES`].
    Own(f64, f64),
}

impl Band {
    /// The three that every sound is heard in, with their names.
    pub const NAMED: [(&'static str, Band); 3] =
        [("low", Band::Low), ("mid", Band::Mid), ("high", Band::High)];

    /// Its lowest and highest frequency.
    pub fn edges(self) -> [Hertz; 2] {
        let [lo, hi] = match self {
            Band::Low => [20.0, 250.0],
            Band::Mid => [250.0, 2_000.0],
            Band::High => [2_000.0, 20_000.0],
            Band::Own(lo, hi) => [lo, hi],
        };
        [Hertz(lo), Hertz(hi)]
    }
}

/// What of a sound is measured, step by step.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub enum Measure {
    /// The root of the mean square over [`LEVEL_STEPS`] around the step; a sine as loud as can be has 0.707.
    Level,
    /// The greatest sample of the step, sign apart.
    Peak,
    /// The level of a band alone.
    Band(Band),
    /// For [`ONSET_LASTS`] after each onset how strong it is, else 0.
    Onsets,
}

/// A moment of a sound at which something begins.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Mark {
    /// When, from the sound's start, in seconds.
    pub at: f64,
    /// Of an onset how loud it is against the loudest of the sound, 0 to 1; of a note its number, 0 to 127; of a beat
    /// its place in the bar, from 1.
    pub value: f64,
}

impl Mark {
    /// When, from the sound's start.
    pub fn moment(&self) -> Seconds {
        Seconds(self.at)
    }
}

/// The kinds of moments that a sound is known to have.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum Marks {
    /// Where something begins to sound.
    Onsets,
    /// The beats of music that says what they are.
    Beats,
    /// The notes of music that says what they are.
    SourceNotes,
}

impl Marks {
    /// All, by what a book calls one of them.
    pub const NAMED: [(&'static str, Marks); 3] =
        [("onset", Marks::Onsets), ("beat", Marks::Beats), ("note", Marks::SourceNotes)];
}

/// That a file breaks off before the end of its sound.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Cut {
    /// How much is missing, in seconds.
    pub missing: Option<f64>,
}

impl Cut {
    /// The message about a file of which so much can be read.
    pub fn message(self, file: &str, readable: Seconds) -> String {
        let rest = match self.missing {
            Some(missing) => format!("{missing:.2} s are missing"),
            None => "the rest is missing".to_owned(),
        };
        format!("`{file}` is truncated: {:.2} s can be read, {rest}", readable.0)
    }
}

/// What a sound is like over time.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Hearing {
    length: f64,
    /// The mean square of each step.
    squares: Vec<f32>,
    /// The greatest sample of each step.
    peaks: Vec<f32>,
    /// The level of low, mid and high, [`SPECTRA`] a second.
    bands: [Vec<f32>; 3],
    /// The same of bands that were asked for.
    own: Vec<(Band, Vec<f32>)>,
    onsets: Vec<Mark>,
    beats: Vec<Mark>,
    notes: Vec<Mark>,
    cut: Option<Cut>,
    /// The envelopes that were made of it.
    #[serde(skip)]
    made: Made,
}

/// Envelopes that were made before: a book that is read again follows its sounds as before. They follow from the
/// rest, so a copy begins without, and they distinguish nothing.
#[derive(Debug, Default)]
struct Made(Mutex<Vec<(Following, Option<Envelope>)>>);

/// What an envelope is made for.
type Following = (Measure, Option<f64>, f64, Follower, Playing);

/// Most envelopes of one sound that are kept.
const MOST_MADE: usize = 64;

impl Clone for Made {
    fn clone(&self) -> Self {
        Made::default()
    }
}

impl PartialEq for Made {
    fn eq(&self, _: &Self) -> bool {
        true
    }
}

impl Hearing {
    /// What comes out of a follower of a measure: [`Envelope::of`] of [`Hearing::targets`]. It is made once.
    pub fn envelope(
        &self,
        (measure, full, gate): (Measure, Option<f64>, f64),
        follower: Follower,
        playing: Playing,
    ) -> Option<Envelope> {
        let asked = (measure, full, gate, follower, playing);
        let kept = || self.made.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((_, known)) = kept().iter().find(|(known, _)| *known == asked) {
            return known.clone();
        }
        let targets = self.targets(measure, full, gate);
        let made = Envelope::of(follower, &targets, self.length(), playing);
        let mut kept = kept();
        if kept.len() == MOST_MADE {
            kept.remove(0);
        }
        kept.push((asked, made.clone()));
        made
    }

    /// What music of notes is like, which has no samples: its length, a level 0..1 for each step, the same of what
    /// low, mid and high notes give, and its notes and beats.
    pub fn of_notes(
        length: Seconds,
        levels: Vec<f32>,
        bands: [Vec<f32>; 3],
        notes: Vec<Mark>,
        beats: Vec<Mark>,
    ) -> Self {
        let squares = levels.iter().map(|v| v * v).collect();
        let onsets = Vec::new();
        let bands = bands.map(|band| band.into_iter().step_by(STEPS_A_SPECTRUM).collect());
        Hearing {
            length: length.0,
            squares,
            peaks: levels,
            bands,
            own: Vec::new(),
            onsets,
            beats,
            notes,
            cut: None,
            made: Made::default(),
        }
    }

    /// Whether it is what could have been heard in some sound, in these bands of one's own: lengths that agree, finite
    /// levels, marks in order within the sound. To be asked of one that comes from a file.
    pub fn is_sound(&self, own: &[Band]) -> bool {
        let lasts = |at: f64| (0.0..=self.length).contains(&at);
        if !(self.length > 0.0 && self.length <= LONGEST.0 + 1.0) {
            return false;
        }
        // The last step may be in part, or one for a note at the very end.
        let steps = (self.length * f64::from(STEPS)).ceil() as usize;
        let count = self.squares.len();
        if count.abs_diff(steps) > 1 || count == 0 || self.peaks.len() != count {
            return false;
        }
        let is_level = |v: &f32| v.is_finite() && *v >= 0.0;
        let looks = count.div_ceil(STEPS_A_SPECTRUM);
        let bands = self.bands.iter().chain(self.own.iter().map(|(_, looks)| looks));
        let are_marks = |marks: &[Mark], is_value: fn(f64) -> bool| {
            marks.iter().all(|mark| lasts(mark.at) && is_value(mark.value))
                && marks.is_sorted_by(|a, b| a.at <= b.at)
        };
        self.squares.iter().chain(&self.peaks).all(is_level)
            && bands
                .clone()
                .all(|all| (looks - 1..=looks).contains(&all.len()) && all.iter().all(is_level))
            && self.own.iter().map(|(band, _)| *band).eq(own.iter().copied())
            && are_marks(&self.onsets, |v| (0.0..=1.0).contains(&v))
            && are_marks(&self.beats, |v| (1.0..=255.0).contains(&v) && v.fract() == 0.0)
            && are_marks(&self.notes, |v| (0.0..=127.0).contains(&v) && v.fract() == 0.0)
            && self.cut.is_none_or(|cut| cut.missing.is_none_or(|v| v.is_finite() && v >= 0.0))
    }

    /// The same of a file that breaks off.
    #[must_use]
    pub fn cut_short(self, cut: Option<Cut>) -> Self {
        Hearing { cut, ..self }
    }

    /// Whether the file breaks off before its end.
    pub fn cut(&self) -> Option<Cut> {
        self.cut
    }

    /// How long the sound is.
    pub fn length(&self) -> Seconds {
        Seconds(self.length)
    }

    /// How many steps it has, the last of them perhaps in part.
    pub fn steps(&self) -> usize {
        self.squares.len()
    }

    /// The greatest sample of each step, sign apart.
    pub fn peaks(&self) -> &[f32] {
        &self.peaks
    }

    /// Moments at which something begins, in order.
    pub fn marks(&self, which: Marks) -> &[Mark] {
        match which {
            Marks::Onsets => &self.onsets,
            Marks::Beats => &self.beats,
            Marks::SourceNotes => &self.notes,
        }
    }

    /// Whether a measure can be had of it: a band of one's own only where it was asked for.
    pub fn has(&self, measure: Measure) -> bool {
        match measure {
            Measure::Band(band @ Band::Own(..)) => self.own.iter().any(|(known, _)| *known == band),
            Measure::Band(_) | Measure::Level | Measure::Peak | Measure::Onsets => true,
        }
    }

    /// A measure of each step, 0 to 1 (a peak may be a little above); all 0 where [`Hearing::has`] says no.
    pub fn measured(&self, measure: Measure) -> Vec<f64> {
        let count = self.steps();
        let spread = |looks: &[f32]| {
            let last = looks.len().saturating_sub(1);
            (0..count)
                .map(|n| looks.get((n / STEPS_A_SPECTRUM).min(last)).map_or(0.0, |v| f64::from(*v)))
                .collect()
        };
        match measure {
            Measure::Level => (0..count)
                .map(|n| {
                    let from = n.saturating_sub(LEVEL_STEPS / 2);
                    let to = (n + LEVEL_STEPS / 2).min(count);
                    let sum: f64 = self.squares[from..to].iter().map(|v| f64::from(*v)).sum();
                    (sum / (to - from) as f64).sqrt()
                })
                .collect(),
            Measure::Peak => self.peaks.iter().map(|v| f64::from(*v)).collect(),
            Measure::Band(Band::Low) => spread(&self.bands[0]),
            Measure::Band(Band::Mid) => spread(&self.bands[1]),
            Measure::Band(Band::High) => spread(&self.bands[2]),
            Measure::Band(band) => {
                let found = self.own.iter().find(|(known, _)| *known == band);
                spread(found.map_or(&[][..], |(_, looks)| looks))
            }
            Measure::Onsets => {
                let mut all = vec![0.0; count];
                let lasts = (ONSET_LASTS.0 * f64::from(STEPS)) as usize;
                // Notes have numbers and no strength.
                let notes = self.notes.iter().map(|mark| (mark.at, 1.0));
                let onsets = self.onsets.iter().map(|mark| (mark.at, mark.value));
                for (at, strength) in onsets.chain(notes) {
                    let from = (at * f64::from(STEPS)).round() as usize;
                    let to = (from + lasts).min(count);
                    all[from.min(to)..to].iter_mut().for_each(|v| *v = strength);
                }
                all
            }
        }
    }

    /// What a light follows, 0 to 1 in each step: a measure over a level that counts as full, the loudest of the sound
    /// where none is given, and 0 where less than the gate is left.
    pub fn targets(&self, measure: Measure, full: Option<f64>, gate: f64) -> Vec<f64> {
        let mut all = self.measured(measure);
        let full = full.unwrap_or_else(|| all.iter().copied().fold(0.0, f64::max));
        for v in &mut all {
            let level = if full > 0.0 { (*v / full).min(1.0) } else { 0.0 };
            *v = if level < gate { 0.0 } else { level };
        }
        all
    }
}
