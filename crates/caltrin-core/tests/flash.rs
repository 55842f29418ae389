//! Flashes against a table of cases made by hand, and against a slow twin.

use caltrin_core::flash::{FlashSample, flashes};

const RED: [f64; 3] = [1.0, 0.0, 0.0];
const BLACK: [f64; 3] = [0.0, 0.0, 0.0];
const WHITE: [f64; 3] = [1.0, 1.0, 1.0];
const GREEN: [f64; 3] = [0.0, 1.0, 0.0];
const BLUE: [f64; 3] = [0.0, 0.0, 1.0];

/// Steps of luminance: how many samples at 120 a second, and which value.
fn steps(all: &[(usize, f64)]) -> Vec<FlashSample> {
    let values = all.iter().flat_map(|(count, value)| vec![*value; *count]);
    let sample = |(n, value)| FlashSample::of_luminance(n as f64 / 120.0, value);
    values.enumerate().map(sample).collect()
}

/// The same of colors.
fn colors(all: &[(usize, [f64; 3])]) -> Vec<FlashSample> {
    let values = all.iter().flat_map(|(count, value)| vec![*value; *count]);
    let sample = |(n, value)| FlashSample::of_color(n as f64 / 120.0, value);
    values.enumerate().map(sample).collect()
}

/// A square wave of so many samples a half, for so many halves.
fn square(half: usize, halves: usize, lo: f64, hi: f64) -> Vec<FlashSample> {
    let all: Vec<(usize, f64)> =
        (0..halves).map(|n| (half, if n % 2 == 0 { lo } else { hi })).collect();
    steps(&all)
}

fn alternating(half: usize, halves: usize, a: [f64; 3], b: [f64; 3]) -> Vec<FlashSample> {
    let all: Vec<(usize, [f64; 3])> =
        (0..halves).map(|n| (half, if n % 2 == 0 { a } else { b })).collect();
    colors(&all)
}

/// From one value to another in so many samples.
fn ramp(count: usize, from: f64, to: f64) -> Vec<(usize, f64)> {
    (0..count).map(|n| (1, from + (to - from) * (n + 1) as f64 / count as f64)).collect()
}

/// A case: its name, its samples, the most general and red changes in any second, and whether it passes.
type Case = (&'static str, Vec<FlashSample>, usize, usize, bool);

#[test]
fn cases_made_by_hand() {
    let joined = |parts: &[Vec<(usize, f64)>]| steps(&parts.concat());
    let cases: Vec<Case> = vec![
        // Nothing happens.
        ("no sample", vec![], 0, 0, true),
        ("one sample", steps(&[(1, 0.5)]), 0, 0, true),
        ("steady", steps(&[(1200, 0.5)]), 0, 0, true),
        ("steady white", colors(&[(1200, WHITE)]), 0, 0, true),
        // One change: 0 to 1. Half a flash.
        ("on once", steps(&[(60, 0.0), (60, 1.0)]), 1, 0, true),
        ("on and off", steps(&[(60, 0.0), (60, 1.0), (60, 0.0)]), 2, 0, true),
        // 120 / (2 * 20) = 3 a second: changes 20 samples apart, 6 in a half-open second.
        ("3 a second", square(20, 60, 0.0, 1.0), 6, 0, true),
        // 120 / (2 * 15) = 4 a second: 8 changes.
        ("4 a second", square(15, 60, 0.0, 1.0), 8, 0, false),
        // 120 / (2 * 17) = 3.53 a second: changes 17 samples apart; 0, 17, ... 119 - 17 * 7 = 119 < 120: 8 changes.
        ("3.5 a second", square(17, 60, 0.0, 1.0), 8, 0, false),
        // 120 / (2 * 19) = 3.16: 19 * 6 = 114 < 120, so 7 changes, 3.5 flashes.
        ("3.2 a second", square(19, 60, 0.0, 1.0), 7, 0, false),
        ("1 a second", square(60, 20, 0.0, 1.0), 2, 0, true),
        ("60 a second", square(1, 600, 0.0, 1.0), 120, 0, false),
        // The size of a change: exactly 0.1 counts. 0.3 - 0.2 is 0.09999999999999998 in binary.
        ("exactly 0.1", square(15, 60, 0.2, 0.3), 8, 0, false),
        ("exactly 0.1, from 0", square(15, 60, 0.0, 0.1), 8, 0, false),
        ("exactly 0.1, 0.6 to 0.7", square(15, 60, 0.6, 0.7), 8, 0, false),
        ("0.0999", square(15, 60, 0.2, 0.2999), 0, 0, true),
        ("0.1001", square(15, 60, 0.2, 0.3001), 8, 0, false),
        // The darker state: 0.8 does not count, below does.
        ("darker is 0.8", square(15, 60, 0.8, 1.0), 0, 0, true),
        ("darker is 0.7999", square(15, 60, 0.7999, 1.0), 8, 0, false),
        ("darker is 0.8 by a sum", square(15, 60, 0.7 + 0.1, 1.0), 0, 0, true),
        ("darker is 0.9", square(15, 60, 0.9, 1.0), 0, 0, true),
        // Limited to 0..1: 1.0 and 3.0 are the same.
        ("above 1", square(15, 60, 1.0, 3.0), 0, 0, true),
        ("below 0", square(15, 60, -2.0, 0.0), 0, 0, true),
        // Ramps: one change however long.
        ("a ramp of 10 s", joined(&[ramp(1200, 0.0, 1.0)]), 1, 0, true),
        // Up and down in 15 samples each: 4 a second; each extreme is one sample long.
        (
            "triangle, 4 a second",
            joined(
                &(0..40)
                    .map(|n| if n % 2 == 0 { ramp(15, 0.0, 1.0) } else { ramp(15, 1.0, 0.0) })
                    .collect::<Vec<_>>(),
            ),
            8,
            0,
            false,
        ),
        (
            "triangle, 3 a second",
            joined(
                &(0..40)
                    .map(|n| if n % 2 == 0 { ramp(20, 0.0, 1.0) } else { ramp(20, 1.0, 0.0) })
                    .collect::<Vec<_>>(),
            ),
            6,
            0,
            true,
        ),
        // Slow ramps, of which one in 10 s reaches its end in the same second as the next begins.
        (
            "triangle of 10 s",
            joined(&[ramp(1200, 0.0, 1.0), ramp(1200, 1.0, 0.0), ramp(1200, 0.0, 1.0)]),
            1,
            0,
            true,
        ),
        // Staircases: in one direction they are one change.
        (
            "ten steps up",
            steps(&[
                (6, 0.0),
                (6, 0.1),
                (6, 0.2),
                (6, 0.3),
                (6, 0.4),
                (6, 0.5),
                (6, 0.6),
                (6, 0.7),
                (6, 0.8),
                (6, 0.9),
            ]),
            1,
            0,
            true,
        ),
        // Steps of 0.05 with reversals of 0.05: the reversals end nothing.
        (
            "a staircase with small reversals",
            steps(&[
                (6, 0.0),
                (6, 0.3),
                (6, 0.25),
                (6, 0.5),
                (6, 0.45),
                (6, 0.7),
                (6, 0.65),
                (6, 0.9),
            ]),
            1,
            0,
            true,
        ),
        // The same with reversals of 0.1: 0 to 0.3, to 0.2, to 0.5, to 0.4, to 0.7, to 0.6, to 0.9 are 7 changes.
        (
            "a staircase with reversals of 0.1",
            steps(&[
                (6, 0.0),
                (6, 0.3),
                (6, 0.2),
                (6, 0.5),
                (6, 0.4),
                (6, 0.7),
                (6, 0.6),
                (6, 0.9),
            ]),
            7,
            0,
            false,
        ),
        // A flicker of 0.09 on top of a steady 0.5 never counts.
        ("flicker of 0.09", square(2, 400, 0.455, 0.545), 0, 0, true),
        // A flicker of 0.09 on top of a slow wave of 1 a second: only the wave counts.
        (
            "flicker on a wave",
            (0..1200)
                .map(|n| {
                    let slow = if n / 60 % 2 == 0 { 0.2 } else { 0.7 };
                    let quick = if n % 4 < 2 { 0.0 } else { 0.09 };
                    FlashSample::of_luminance(n as f64 / 120.0, slow + quick)
                })
                .collect(),
            2,
            0,
            true,
        ),
        // Bursts: 4 flashes within 0.53 s and then nothing. 8 changes 8 samples apart.
        (
            "a burst",
            joined(&[vec![(120, 0.0)], [(8, 1.0), (8, 0.0)].repeat(4), vec![(240, 0.0)]]),
            8,
            0,
            false,
        ),
        // The burst lies across the full second: any second counts.
        (
            "a burst across a second",
            joined(&[vec![(104, 0.0)], [(8, 1.0), (8, 0.0)].repeat(4), vec![(240, 0.0)]]),
            8,
            0,
            false,
        ),
        // Three flashes, a pause of a second, three flashes.
        (
            "two bursts of 3",
            joined(&[
                [(8, 1.0), (8, 0.0)].repeat(3),
                vec![(120, 0.0)],
                [(8, 1.0), (8, 0.0)].repeat(3),
            ]),
            6,
            0,
            true,
        ),
        // Two and two flashes with half a second between: all 8 changes lie in 8 + 8 + 8 + 60 + 32 samples: 116 < 120.
        (
            "two bursts of 2",
            joined(&[
                vec![(60, 0.0)],
                [(8, 1.0), (8, 0.0)].repeat(2),
                vec![(60, 0.0)],
                [(8, 1.0), (8, 0.0)].repeat(2),
            ]),
            8,
            0,
            false,
        ),
        // A loop of a second whose seam jumps from 1 to 0: up slowly, down at once; 2 changes a second.
        ("a saw of 1 s", joined(&vec![ramp(120, 0.0, 1.0); 5]), 2, 0, true),
        // A loop of 0.3 s: 3.33 seams a second. Highest at samples 35, 71, 107, 143, lowest one later: 8 from 35 to 144.
        ("a saw of 0.3 s", joined(&vec![ramp(36, 0.0, 1.0); 20]), 8, 0, false),
        // A second that is seen through sums of 1/6: a change exactly a second after another is not in its second.
        (
            "3 a second by sums",
            {
                let mut t = 0.0;
                (0..120)
                    .map(|n| {
                        let sample = FlashSample::of_luminance(t, f64::from(n % 2));
                        t += 1.0 / 6.0;
                        sample
                    })
                    .collect()
            },
            6,
            0,
            true,
        ),
        // Rounding noise on a plateau does not move its date: 6 changes of a 3 Hz wave whose plateaus creep by 1e-12.
        (
            "creeping plateaus",
            (0..600)
                .map(|n| {
                    let value =
                        if n / 20 % 2 == 0 { 0.0 } else { 1.0 - 1e-10 + f64::from(n % 20) * 1e-12 };
                    FlashSample::of_luminance(f64::from(n) / 120.0, value)
                })
                .collect(),
            6,
            0,
            true,
        ),
        // Red. Luminance of red is 0.2126, so against black it is a general flash as well.
        ("red and black, 4 a second", alternating(15, 60, BLACK, RED), 8, 8, false),
        ("red and black, 3 a second", alternating(20, 60, BLACK, RED), 6, 6, true),
        // Grey of the luminance of red: no general change; u'v' of red is 0.26 from white's.
        ("red and equal grey, 4 a second", alternating(15, 60, [0.2126; 3], RED), 0, 8, false),
        ("red and equal grey, 3 a second", alternating(20, 60, [0.2126; 3], RED), 0, 6, true),
        // Green of the luminance of red.
        (
            "red and equal green, 4 a second",
            alternating(15, 60, [0.0, 0.2126 / 0.7152, 0.0], RED),
            0,
            8,
            false,
        ),
        // R / (R + G + B) is 0.8 and just below: 0.8 : 0.1 : 0.1 is 0.13 from white, too near; 0.8 : 0 : 0.2 is not red enough
        // a change either. From blue it is more than 0.2 away.
        (
            "0.8 of red and blue, 4 a second",
            alternating(15, 60, BLUE, [0.8, 0.1, 0.1]),
            8,
            8,
            false,
        ),
        (
            "0.79 of red and blue, 4 a second",
            alternating(15, 60, BLUE, [0.79, 0.105, 0.105]),
            8,
            0,
            false,
        ),
        // Two reds of one chromaticity: only luminance changes.
        ("dark and bright red", alternating(15, 60, [0.3, 0.0, 0.0], RED), 8, 0, false),
        (
            "dark and bright red, by less than 0.1",
            alternating(15, 60, [0.6, 0.0, 0.0], RED),
            0,
            0,
            true,
        ),
        // Saturated colors that are not red.
        (
            "green and blue of one luminance",
            alternating(15, 60, [0.0, 0.0722 / 0.7152, 0.0], BLUE),
            0,
            0,
            true,
        ),
        ("green and black", alternating(15, 60, GREEN, BLACK), 8, 0, false),
        // Into red from one color and out of it to another: green, red, blue, red: each is a red change, 12 samples each.
        // Luminance falls from green over red to blue and rises again: every 24 samples, and once more where the series ends
        // in red: 288, 312, 336, 360, 384, 396.
        (
            "green, red, blue, red",
            (0..400)
                .map(|n| {
                    let color = [GREEN, RED, BLUE, RED][n / 12 % 4];
                    FlashSample::of_color(n as f64 / 120.0, color)
                })
                .collect(),
            6,
            10,
            false,
        ),
        // A slow fade from white to red and back, 1 a second: red changes are dated at the reddest.
        (
            "white to red in ramps",
            (0..1201usize)
                .map(|n| {
                    let way = (n % 120) as f64 / 60.0;
                    let rest = if way < 1.0 { 1.0 - way } else { way - 1.0 };
                    FlashSample::of_color(n as f64 / 120.0, [1.0, rest, rest])
                })
                .collect(),
            2,
            2,
            true,
        ),
    ];
    assert!(cases.len() >= 40, "{}", cases.len());
    for (name, samples, general, red, passes) in cases {
        let found = flashes(&samples);
        let all = (found.general.most, found.red.most, found.passes());
        assert_eq!(all, (general, red, passes), "{name}");
    }
}

#[test]
fn the_worst_second_is_dated() {
    let mut all = vec![(120, 0.0)];
    all.extend([(10, 1.0), (10, 0.0)].repeat(4));
    all.push((300, 0.0));
    let found = flashes(&steps(&all));
    // Changes at 1 s, 1 s + 10/120, ...: the second begins with the first of them.
    assert_eq!((found.general.most, found.general.worst), (8, 1.0));
    assert_eq!((found.general.flashes(), found.flashes()), (4.0, 4.0));
    assert_eq!(found.largest, 1.0);
    assert!((found.safe_speed() - 0.75).abs() < 1e-12);
}

/// Changes by definition: the series is cut at each local extreme, and the smallest reversal below the threshold is taken out
/// until none is left.
fn slowly(values: &[f64]) -> usize {
    let mut turns: Vec<f64> = Vec::new();
    for value in values {
        match turns.as_slice() {
            [.., last] if last == value => {}
            [.., before, last] if (last > before) == (value > last) => {
                *turns.last_mut().unwrap() = *value
            }
            _ => turns.push(*value),
        }
    }
    loop {
        let sizes: Vec<f64> = turns.windows(2).map(|pair| (pair[1] - pair[0]).abs()).collect();
        let smallest = sizes.iter().copied().enumerate().min_by(|a, b| a.1.total_cmp(&b.1));
        let Some((at, size)) = smallest.filter(|(_, size)| *size < 0.1 - 1e-9) else { break };
        let _ = size;
        if at == 0 {
            turns.remove(0);
        } else if at + 2 == turns.len() {
            turns.pop();
        } else {
            turns.drain(at..at + 2);
        }
    }
    turns.windows(2).filter(|pair| pair[0].min(pair[1]) < 0.8 - 1e-9).count()
}

#[test]
fn changes_are_those_of_a_slow_twin() {
    let mut x = 7u64;
    let mut next = || {
        x = x.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (x >> 40) as f64 / 16_777_216.0
    };
    for n in 0..3_000 {
        let (count, size) = (2 + n % 60, [0.05, 0.15, 0.4, 1.0][n % 4]);
        let mut value = next();
        let values: Vec<f64> = (0..count)
            .map(|_| {
                value = (value + (next() - 0.5) * size).clamp(0.0, 1.0);
                value
            })
            .collect();
        let sample = |(n, v): (usize, &f64)| FlashSample::of_luminance(n as f64 / 120.0, *v);
        let samples: Vec<FlashSample> = values.iter().enumerate().map(sample).collect();
        assert_eq!(flashes(&samples).general.changes.len(), slowly(&values), "{values:?}");
    }
}
