//! Onsets of made-up sounds whose starts are known: none is missed, none is false, each lies within 10 ms.

use std::f64::consts::TAU;

use caltrin_core::sound::{Listener, Marks};
use proptest::prelude::*;

/// Noise in -1..1, the same for the same seed.
fn noise(seed: u32) -> impl FnMut() -> f64 {
    let mut x = seed.wrapping_mul(2_654_435_761).max(1);
    move || {
        x ^= x << 13;
        x ^= x >> 17;
        x ^= x << 5;
        f64::from(x) / f64::from(u32::MAX) * 2.0 - 1.0
    }
}

/// A sound in the making.
struct Take {
    rate: f64,
    samples: Vec<f64>,
}

impl Take {
    fn new(rate: u32, seconds: f64) -> Self {
        let rate = f64::from(rate);
        Take { rate, samples: vec![0.0; (rate * seconds) as usize] }
    }

    /// Adds to every sample from `at` for `lasts` what the time since then gives.
    fn add(&mut self, at: f64, lasts: f64, mut of: impl FnMut(f64) -> f64) {
        let from = (at * self.rate).round() as usize;
        let count = (lasts * self.rate).round() as usize;
        let rate = self.rate;
        for (n, v) in self.samples.iter_mut().skip(from).take(count).enumerate() {
            *v += of(n as f64 / rate);
        }
    }

    fn room(&mut self, level: f64) {
        let mut draw = noise(99);
        self.samples.iter_mut().for_each(|v| *v += draw() * level);
    }

    fn onsets(&self) -> Vec<f64> {
        let samples: Vec<f32> = self.samples.iter().map(|v| *v as f32).collect();
        let mut listener = Listener::new(self.rate as u32, 1, &[]).unwrap();
        listener.hear(&samples).unwrap();
        let hearing = listener.finish().unwrap();
        hearing.marks(Marks::Onsets).iter().map(|mark| mark.at).collect()
    }
}

/// A gate with straight fades.
fn gate(t: f64, lasts: f64, fade: f64) -> f64 {
    let up = if fade > 0.0 { (t / fade).min(1.0) } else { 1.0 };
    let down = if fade > 0.0 { ((lasts - t) / fade).clamp(0.0, 1.0) } else { 1.0 };
    up.min(down)
}

fn assert_starts(name: &str, take: &Take, starts: &[f64]) {
    let found = take.onsets();
    let near = |a: f64, all: &[f64]| all.iter().any(|b| (a - b).abs() <= 0.010);
    let missed: Vec<_> = starts.iter().filter(|at| !near(**at, &found)).collect();
    let wrong: Vec<_> = found.iter().filter(|at| !near(**at, starts)).collect();
    assert!(
        missed.is_empty() && wrong.is_empty() && found.len() == starts.len(),
        "{name}: missed {missed:?}, false {wrong:?}; found {found:?}"
    );
}

const RATES: [u32; 3] = [22_050, 44_100, 48_000];
/// Silence, and a room 66 and 46 dB below full.
const ROOMS: [f64; 3] = [0.0, 0.0005, 0.005];
const FADES: [f64; 4] = [0.0, 0.002, 0.005, 0.02];

/// Each rate with each room.
fn takes(seconds: f64) -> impl Iterator<Item = (String, Take, f64)> {
    RATES.into_iter().flat_map(move |rate| {
        ROOMS.map(|room| (format!("{rate} Hz, room {room}"), Take::new(rate, seconds), room))
    })
}

#[test]
fn a_tone_begins_once_however_it_ends() {
    for (name, mut take, room) in takes(1.4) {
        take.room(room);
        let quiet = take.samples.clone();
        for pitch in [110.0, 440.0, 1_000.0, 3_700.0] {
            for fade in FADES {
                for strength in [0.9, 0.3] {
                    take.samples.clone_from(&quiet);
                    take.add(0.5, 0.3, |t| strength * (TAU * pitch * t).sin() * gate(t, 0.3, fade));
                    assert_starts(&format!("{name}: {pitch} Hz, {fade} s"), &take, &[0.5]);
                }
            }
        }
    }
}

#[test]
fn an_alarm_of_twelve_beeps_has_twelve_onsets() {
    for (name, mut take, room) in takes(4.0) {
        take.room(room);
        let quiet = take.samples.clone();
        let starts: Vec<f64> = (0..12).map(|n| 0.2 + 0.3 * f64::from(n)).collect();
        for fade in FADES {
            take.samples.clone_from(&quiet);
            for at in &starts {
                take.add(*at, 0.12, |t| 0.6 * (TAU * 2_100.0 * t).sin() * gate(t, 0.12, fade));
            }
            assert_starts(&format!("{name}, {fade} s"), &take, &starts);
        }
    }
}

#[test]
fn a_step_down_or_up_in_pitch_is_an_onset_and_the_end_is_not() {
    for (name, mut take, room) in takes(2.0) {
        take.room(room);
        let tones = [(0.3, 700.0), (0.7, 960.0), (1.1, 540.0)];
        for (at, pitch) in tones {
            take.add(at, 0.4, |t| 0.5 * (TAU * pitch * t).sin() * gate(t, 0.4, 0.003));
        }
        assert_starts(&name, &take, &tones.map(|(at, _)| at));
    }
}

#[test]
fn clicks_are_found() {
    let starts = [0.15, 0.4, 0.48, 0.9, 1.31, 1.7];
    for (name, mut take, room) in takes(2.0) {
        take.room(room);
        for (n, at) in starts.iter().enumerate() {
            let strength = 0.9 - 0.1 * n as f64;
            take.add(*at, 0.006, |t| strength * (TAU * 2_500.0 * t).cos() * (-t * 900.0).exp());
        }
        assert_starts(&name, &take, &starts);
    }
}

#[test]
fn drums_are_found() {
    let kicks = [0.1, 0.6, 1.1, 1.6];
    let snares = [0.35, 0.85, 1.35, 1.85];
    for (name, mut take, room) in takes(2.4) {
        take.room(room);
        for at in kicks {
            take.add(at, 0.22, |t| {
                0.9 * (TAU * (50.0 * t + 6.0 * (1.0 - (-t * 30.0).exp()))).sin() * (-t * 18.0).exp()
            });
        }
        for (n, at) in snares.iter().enumerate() {
            let mut draw = noise(n as u32 + 5);
            take.add(*at, 0.2, |t| 0.6 * draw() * (-t * 25.0).exp());
        }
        let mut starts = [kicks, snares].concat();
        starts.sort_by(f64::total_cmp);
        assert_starts(&name, &take, &starts);
    }
}

#[test]
fn noise_bursts_are_found() {
    let bursts = [(0.2, 0.15), (0.6, 0.05), (0.9, 0.4), (1.6, 0.1)];
    for (name, mut take, room) in takes(2.2) {
        take.room(room);
        let quiet = take.samples.clone();
        for fade in FADES {
            take.samples.clone_from(&quiet);
            for (n, (at, lasts)) in bursts.iter().enumerate() {
                let mut draw = noise(n as u32 + 31);
                take.add(*at, *lasts, |t| 0.5 * draw() * gate(t, *lasts, fade));
            }
            assert_starts(&format!("{name}, {fade} s"), &take, &bursts.map(|(at, _)| at));
        }
    }
}

#[test]
fn syllables_of_a_made_up_voice_are_found() {
    // When, how long, pitch, and the two loudest formants.
    let syllables = [
        (0.20, 0.18, 118.0, 700.0, 1_200.0),
        (0.55, 0.14, 126.0, 300.0, 2_300.0),
        (0.86, 0.25, 110.0, 500.0, 1_500.0),
        (1.35, 0.12, 131.0, 350.0, 800.0),
        (1.62, 0.30, 104.0, 650.0, 1_700.0),
    ];
    for (name, mut take, room) in takes(2.3) {
        take.room(room);
        for (at, lasts, pitch, first, second) in syllables {
            take.add(at, lasts, |t| {
                let near = |f: f64, formant: f64| 1.0 / (1.0 + ((f - formant) / 150.0).powi(2));
                let voice: f64 = (1..24)
                    .map(|n| {
                        let f = pitch * f64::from(n);
                        (near(f, first) + 0.5 * near(f, second) + 0.02) * (TAU * f * t).sin()
                    })
                    .sum();
                0.25 * voice * (t / 0.012).min(1.0) * ((lasts - t) / 0.05).clamp(0.0, 1.0)
            });
        }
        assert_starts(&name, &take, &syllables.map(|(at, ..)| at));
    }
}

#[test]
fn near_silence_has_no_onset_at_its_start() {
    for rate in RATES {
        for room in [1e-5, 1e-4, 1e-3] {
            let mut take = Take::new(rate, 1.0);
            take.room(room);
            assert_starts(&format!("{rate} Hz, {room} alone"), &take, &[]);
            take.add(0.5, 0.3, |t| 0.8 * (TAU * 600.0 * t).sin() * (-t * 6.0).exp());
            assert_starts(&format!("{rate} Hz, {room} before a bell"), &take, &[0.5]);
        }
    }
    // What is loud from its first sample on begins there.
    let mut take = Take::new(48_000, 1.0);
    take.add(0.0, 0.3, |t| 0.8 * (TAU * 600.0 * t).sin() * (-t * 6.0).exp());
    assert_starts("a bell at once", &take, &[0.0]);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]
    #[test]
    fn any_row_of_tones_has_as_many_onsets(
        tones in prop::collection::vec((0.08f64..0.4, 0.09f64..0.5, 200f64..5_000.0, 0.3f64..0.9, 0.0f64..0.01), 1..8),
        rate in prop::sample::select(&RATES[..]),
    ) {
        let mut take = Take::new(rate, 8.0);
        let (mut at, mut starts) = (0.1, Vec::new());
        for (lasts, pause, pitch, strength, fade) in tones {
            starts.push(at);
            take.add(at, lasts, |t| strength * (TAU * pitch * t).sin() * gate(t, lasts, fade));
            at += lasts + pause;
        }
        assert_starts("a row", &take, &starts);
    }
}
