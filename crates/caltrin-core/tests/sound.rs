//! What is heard in samples, against plain twins of the textbook's definitions.

use caltrin_core::quantity::Seconds;
use caltrin_core::sound::{
    Band, Envelope, Follower, Hearing, LEVEL_STEPS, Listener, Marks, Measure, Playing, STEPS,
    STEPS_A_SPECTRUM, SoundFault, TABLE_ERROR, TICKS,
};
use proptest::prelude::*;

/// Draws in -1..1, the same each time.
fn noise(seed: u32) -> impl Iterator<Item = f32> {
    let mut x = seed.wrapping_mul(2_654_435_761).max(1);
    std::iter::repeat_with(move || {
        x ^= x << 13;
        x ^= x >> 17;
        x ^= x << 5;
        (f64::from(x) / f64::from(u32::MAX) * 2.0 - 1.0) as f32
    })
}

fn heard(rate: u32, channels: usize, samples: &[f32], own: &[Band]) -> Hearing {
    let mut listener = Listener::new(rate, channels, own).unwrap();
    listener.hear(samples).unwrap();
    listener.finish().unwrap()
}

/// The samples of a step, as (first, one after the last).
fn step(rate: u32, n: usize, frames: usize) -> (usize, usize) {
    let at = |n: usize| (n as u64 * u64::from(rate) / u64::from(STEPS)) as usize;
    (at(n), at(n + 1).min(frames))
}

#[test]
fn level_and_peak_are_what_the_textbook_says() {
    for (rate, channels) in [(8_000, 1), (44_100, 2), (48_000, 2), (22_050, 5)] {
        let frames = rate as usize / 3 + 7;
        let samples: Vec<f32> = noise(rate)
            .take(frames * channels)
            .enumerate()
            .map(|(n, v)| {
                v * ((n / channels) as f32 * 1e-3).sin() * (1.0 / (1 + n % channels) as f32)
            })
            .collect();
        let heard = heard(rate, channels, &samples, &[]);
        let steps = heard.steps();
        assert_eq!(steps, (frames * STEPS as usize).div_ceil(rate as usize), "{rate}");
        let of = |n: usize, channel: usize| {
            let (from, to) = step(rate, n, frames);
            let of_channel = samples.iter().skip(channel).step_by(channels);
            of_channel.take(to).skip(from).map(|v| f64::from(*v)).collect::<Vec<_>>()
        };
        let square = |n: usize| {
            let mean =
                |c: usize| of(n, c).iter().map(|v| v * v).sum::<f64>() / of(n, c).len() as f64;
            (0..channels).map(mean).fold(0.0, f64::max)
        };
        let (levels, peaks) = (heard.measured(Measure::Level), heard.measured(Measure::Peak));
        for n in 0..steps {
            let from = n.saturating_sub(LEVEL_STEPS / 2);
            let to = (n + LEVEL_STEPS / 2).min(steps);
            let level = ((from..to).map(square).sum::<f64>() / (to - from) as f64).sqrt();
            assert!((levels[n] - level).abs() < 1e-6, "{rate}: {n}: {} is {level}", levels[n]);
            let peak =
                (0..channels).flat_map(|c| of(n, c)).fold(0.0, |top: f64, v| top.max(v.abs()));
            assert!((peaks[n] - peak).abs() < 1e-9, "{rate}: {n}");
        }
    }
}

#[test]
fn bands_are_what_a_plain_transform_gives() {
    let rate = 8_000u32;
    let samples: Vec<f32> = noise(7).take(4_000).collect();
    let asked = Band::Own(300.0, 900.0);
    let heard = heard(rate, 1, &samples, &[asked]);
    let size = 256;
    let window = |n: usize| 0.5 - 0.5 * (std::f64::consts::TAU * n as f64 / size as f64).cos();
    let energy: f64 = (0..size).map(|n| window(n) * window(n)).sum();
    let bin = f64::from(rate) / size as f64;
    for look in [0usize, 3, 20, 37] {
        let middle = (2 * look + 1) * STEPS_A_SPECTRUM * rate as usize / (2 * STEPS as usize);
        let at = |n: usize| {
            let place = (middle + n) as i64 - size as i64 / 2;
            usize::try_from(place).ok().and_then(|p| samples.get(p)).map_or(0.0, |v| f64::from(*v))
        };
        let power = |k: usize| {
            let (mut re, mut im) = (0.0, 0.0);
            for n in 0..size {
                let turn = std::f64::consts::TAU * (k * n % size) as f64 / size as f64;
                re += at(n) * window(n) * turn.cos();
                im -= at(n) * window(n) * turn.sin();
            }
            re * re + im * im
        };
        for band in [Band::Low, Band::Mid, Band::High, asked] {
            let [lo, hi] = band.edges().map(|edge| edge.0);
            let sum: f64 = (1..size / 2)
                .map(|k| {
                    let (from, to) = ((k as f64 - 0.5) * bin, (k as f64 + 0.5) * bin);
                    power(k) * ((to.min(hi) - from.max(lo)) / bin).clamp(0.0, 1.0)
                })
                .sum();
            let level = (2.0 * sum / (size as f64 * energy)).sqrt();
            let found = heard.measured(Measure::Band(band))[STEPS_A_SPECTRUM * look];
            assert!((found - level).abs() < 1e-6, "{band:?} at {look}: {found} is {level}");
        }
    }
}

#[test]
fn a_pure_tone_is_in_its_band_with_its_level() {
    let rate = 48_000;
    for (frequency, band) in [(100.0, Band::Low), (800.0, Band::Mid), (5_000.0, Band::High)] {
        let tone: Vec<f32> = (0..rate)
            .map(|n| {
                (std::f64::consts::TAU * frequency * f64::from(n) / f64::from(rate)).sin() as f32
                    * 0.5
            })
            .collect();
        let heard = heard(rate, 1, &tone, &[]);
        for (name, other) in Band::NAMED {
            let level = heard.measured(Measure::Band(other))[STEPS as usize / 2];
            let wanted = if other == band { 0.5f64.sqrt() * 0.5 } else { 0.0 };
            assert!((level - wanted).abs() < 4e-3, "{frequency} Hz in {name}: {level}");
        }
    }
}

#[test]
fn one_loud_side_is_not_lost() {
    let tone: Vec<f32> = noise(3).take(9_600).collect();
    let silent_left: Vec<f32> = tone.iter().flat_map(|v| [0.0, *v]).collect();
    let turned: Vec<f32> = tone.iter().flat_map(|v| [*v, -v]).collect();
    let alone = heard(48_000, 1, &tone, &[]);
    for both in [silent_left, turned] {
        let both = heard(48_000, 2, &both, &[]);
        for measure in [Measure::Level, Measure::Peak, Measure::Band(Band::Mid)] {
            for (a, b) in alone.measured(measure).iter().zip(both.measured(measure)) {
                assert!((a - b).abs() < 1e-6, "{measure:?}: {a} {b}");
            }
        }
    }
}

#[test]
fn it_does_not_matter_in_what_pieces_samples_come() {
    let samples: Vec<f32> = noise(11).take(30_000).collect();
    let whole = heard(11_025, 2, &samples, &[]);
    for size in [2usize, 46, 1_024, 7_770] {
        let mut listener = Listener::new(11_025, 2, &[]).unwrap();
        samples.chunks(size).for_each(|piece| listener.hear(piece).unwrap());
        assert_eq!(listener.finish().unwrap(), whole, "{size}");
    }
}

#[test]
fn onsets_are_found_within_one_step() {
    let rate = 22_050usize;
    let struck = [0.25, 0.9, 1.37, 1.62, 2.4];
    for (name, level) in [("in silence", 0.0f32), ("in rain", 0.01)] {
        let mut samples: Vec<f32> = noise(5).take(3 * rate).map(|v| v * level).collect();
        for (n, at) in struck.iter().enumerate() {
            let from = (at * rate as f64) as usize;
            for (k, v) in samples[from..].iter_mut().enumerate().take(rate / 3) {
                let t = k as f32 / rate as f32;
                let pitch = 300.0 + 170.0 * n as f32;
                *v += (t * pitch * std::f32::consts::TAU).sin() * 0.7 * (-t * 12.0).exp();
            }
        }
        let heard = heard(rate as u32, 1, &samples, &[]);
        // The rain begins too.
        let all = heard.marks(Marks::Onsets).iter().map(|mark| mark.at);
        let found: Vec<f64> = all.filter(|at| *at > 0.0).collect();
        assert_eq!(found.len(), struck.len(), "{name}: {found:?}");
        for (found, at) in found.iter().zip(struck) {
            assert!((found - at).abs() <= 1.0 / f64::from(STEPS), "{name}: {found} is {at}");
        }
    }
    // Nothing begins in a hum, or in rain that goes on.
    let hum: Vec<f32> = (0..3 * rate).map(|n| (n as f32 * 0.03).sin() * 0.4).collect();
    let rain: Vec<f32> = noise(9).take(3 * rate).map(|v| v * 0.3).collect();
    for going_on in [hum, rain] {
        let heard = heard(rate as u32, 1, &going_on, &[]);
        let found = heard.marks(Marks::Onsets);
        assert!(found.iter().all(|mark| mark.at < 0.05), "{found:?}");
    }
}

/// A one-pole filter in small steps, as the textbook has it.
fn plain(targets: &[f64], from: f64, attack: f64, release: f64, parts: usize) -> Vec<f64> {
    let dt = 1.0 / (f64::from(STEPS) * parts as f64);
    let mut y = from;
    let mut out = vec![from];
    for target in targets {
        for _ in 0..parts {
            let time = if *target > y { attack } else { release };
            y += (target - y) * (1.0 - (-dt / time).exp());
            out.push(y);
        }
    }
    out
}

fn levels() -> impl Strategy<Value = Vec<f64>> {
    // What holds for a while and jumps, as the levels of sounds do.
    prop::collection::vec((0.0f64..=1.0, 1usize..40), 1..12)
        .prop_map(|runs| runs.into_iter().flat_map(|(v, n)| std::iter::repeat_n(v, n)).collect())
}

proptest! {
    #[test]
    fn a_follower_is_a_one_pole_filter(
        targets in levels(), attack in 1e-3f64..0.5, release in 1e-3f64..2.0, from in 0.0f64..1.0,
    ) {
        let follower = Follower { attack: Seconds(attack), release: Seconds(release) };
        let found = follower.levels(&targets, from);
        for (a, b) in found.iter().zip(plain(&targets, from, attack, release, 1).into_iter().skip(1)) {
            prop_assert!((a - b).abs() < 1e-6);
        }
    }

    #[test]
    fn a_table_stays_within_one_part_in_a_hundred(
        targets in levels(),
        attack in prop_oneof![2e-3f64..9e-3, 2e-3f64..0.3],
        release in prop_oneof![2e-3f64..9e-3, 2e-3f64..1.0],
    ) {
        let follower = Follower { attack: Seconds(attack), release: Seconds(release) };
        let length = Seconds(targets.len() as f64 / f64::from(STEPS));
        for playing in [Playing::Once, Playing::Round] {
            let from = if playing == Playing::Round { follower.round(&targets, length) } else { 0.0 };
            let envelope = Envelope::of(follower, &targets, length, playing).unwrap();
            // Four looks a tick.
            let parts = 4 * (TICKS / STEPS) as usize;
            for (n, y) in plain(&targets, from, attack, release, parts).into_iter().enumerate() {
                let place = n as f64 / (f64::from(STEPS) * parts as f64);
                let found = envelope.at(Seconds(place));
                prop_assert!((found - y).abs() <= TABLE_ERROR, "{place} s: {found} is {y}");
            }
        }
        // What has ended leaves nothing.
        let once = Envelope::of(follower, &targets, length, Playing::Once).unwrap();
        prop_assert_eq!(once.at(Seconds(1e6)), 0.0);
        let rises = |pair: &[u32]| pair[0] >> 8 < pair[1] >> 8;
        prop_assert!(once.words().windows(2).all(rises));
    }

    #[test]
    fn a_crossing_is_where_the_level_leaves_the_threshold(targets in levels(), above in 0.1f64..0.9) {
        let follower = Follower { attack: Seconds(0.02), release: Seconds(0.1) };
        let length = Seconds(targets.len() as f64 / f64::from(STEPS));
        let envelope = Envelope::of(follower, &targets, length, Playing::Once).unwrap();
        let again = above * 0.5;
        let found = envelope.crossings(above, Some(again), Playing::Once);
        for at in &found {
            prop_assert!(envelope.at(Seconds(at.0 - 1e-9)) <= above + 1e-6);
            // Or a peak that is over by then lies in between.
            let corners = envelope.words().iter().map(|word| f64::from(word >> 8) / f64::from(TICKS));
            let mut peaks = corners.filter(|place| (at.0 - 1e-9..at.0 + 1e-6).contains(place));
            let after = envelope.at(Seconds(at.0 + 1e-6)) > above;
            prop_assert!(after || peaks.any(|place| envelope.at(Seconds(place)) > above), "{at:?}");
        }
        // A walk through the corners of all lines, and a little between them, counts as many.
        let (mut armed, mut count) = (true, 0);
        let corners: Vec<f64> = envelope.words().iter().map(|word| f64::from(word >> 8)).collect();
        let walk = corners.windows(2).flat_map(|pair| {
            (0..8).map(move |n| pair[0] + (pair[1] - pair[0]) * f64::from(n) / 8.0)
        });
        for place in walk {
            let level = envelope.at(Seconds(place / f64::from(TICKS)));
            if armed && level > above {
                (armed, count) = (false, count + 1);
            }
            armed |= level < again;
        }
        prop_assert_eq!(count, found.len());
    }
}

#[test]
fn a_sound_that_goes_round_has_no_seam_and_its_first_turn_meets_the_others() {
    let targets: Vec<f64> = (0..130).map(|n| if n % 60 < 17 { 0.9 } else { 0.05 }).collect();
    let follower = Follower { attack: Seconds(0.02), release: Seconds(0.6) };
    let length = Seconds(129.4 / f64::from(STEPS));
    let round = Envelope::of(follower, &targets, length, Playing::Round).unwrap();
    assert!((round.at(Seconds(0.0)) - round.at(length)).abs() < 2.0 * TABLE_ERROR);
    assert!(round.at(Seconds(0.0)) > 0.1);
    let first = Envelope::of(follower, &targets, length, Playing::FirstTurn).unwrap();
    assert_eq!(first.at(Seconds(0.0)), 0.0);
    assert!(first.end() <= length);
    assert!((first.at(first.end()) - round.at(first.end())).abs() < 2.0 * TABLE_ERROR);
}

#[test]
fn what_is_no_sound_is_refused() {
    assert_eq!(Listener::new(48_000, 1_000, &[]).unwrap_err(), SoundFault::Channels(1_000));
    assert_eq!(Listener::new(48_000, 0, &[]).unwrap_err(), SoundFault::Channels(0));
    assert_eq!(Listener::new(3, 1, &[]).unwrap_err(), SoundFault::Rate(3));
    let mut listener = Listener::new(1_000, 2, &[]).unwrap();
    let mut samples = vec![0.5; 4_000];
    samples[2_001] = f32::NAN;
    assert_eq!(listener.hear(&samples), Err(SoundFault::NoNumber(Seconds(1.0))));
    assert_eq!(Listener::new(48_000, 2, &[]).unwrap().finish(), Err(SoundFault::Empty));
    // Silence is a sound, and follows nothing.
    let silent = heard(48_000, 1, &[0.0; 4_800], &[]);
    assert_eq!(silent.targets(Measure::Level, None, 0.0), vec![0.0; 24]);
    assert!(silent.marks(Marks::Onsets).is_empty());
}
