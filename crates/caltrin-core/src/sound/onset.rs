//! Where something begins to sound.

use super::{Mark, ONSET_LASTS, STEPS, STEPS_A_SPECTRUM};

/// How many spectra either side a rise is compared with: a quarter of a second.
const AROUND: usize = 20;

/// How many spectra there are at least between two onsets: 62 ms.
const GAP: usize = 5;

/// By how much more than usual around it bands have to rise, in octaves of power.
const LEAST: f32 = 0.8;

/// Below how much of the loudest an onset has to be louder than what was before.
const QUIET: f64 = 0.25;

/// Below how much of the loudest a sound that is there from the first step on is the room and no start: 30 dB.
const ROOM: f64 = 0.03;

/// Below which mean square nothing starts: 60 dB below full.
const FLOOR: f32 = 1e-6;

/// How many steps either side an onset may lie from where its spectrum does.
const NEAR: usize = 8;

/// How many steps the level may stay low within a climb: what swings 110 times a second is low for two in a row.
const SWING: usize = 3;

/// Onsets, found where spectra rise more than they do around, at the step at which the level leaves what it was.
/// `squares` has a mean square a step, `rises` one for every [`STEPS_A_SPECTRUM`].
pub(super) fn onsets(squares: &[f32], rises: &[f32]) -> Vec<Mark> {
    let loudest = squares.iter().copied().fold(0.0f32, f32::max);
    let mut found: Vec<Mark> = Vec::new();
    let mut sorted = Vec::with_capacity(2 * AROUND + 1);
    let mut last = None;
    for (n, rise) in rises.iter().enumerate() {
        if *rise <= LEAST {
            continue;
        }
        let around = |reach: usize| n.saturating_sub(reach)..(n + reach + 1).min(rises.len());
        let before = &rises[n.saturating_sub(GAP / 2)..n];
        let after = &rises[n + 1..(n + GAP / 2 + 1).min(rises.len())];
        let is_top = before.iter().all(|v| v < rise) && after.iter().all(|v| v <= rise);
        if !is_top || last.is_some_and(|last| n - last < GAP) {
            continue;
        }
        sorted.clear();
        sorted.extend_from_slice(&rises[around(AROUND)]);
        sorted.sort_by(f32::total_cmp);
        if *rise <= 1.5 * sorted[sorted.len() / 2] + LEAST {
            continue;
        }
        let step = began(squares, STEPS_A_SPECTRUM * n + STEPS_A_SPECTRUM / 2);
        let lasts = (ONSET_LASTS.0 * f64::from(STEPS)) as usize;
        let top =
            squares[step..(step + lasts).min(squares.len())].iter().copied().fold(0.0, f32::max);
        // Where the level falls something ends, however many frequencies that has.
        let earlier = squares[step.saturating_sub(lasts)..step].iter().copied().fold(0.0, f32::max);
        // Nor is the end of all of it a start.
        if step + lasts > squares.len() {
            continue;
        }
        if step > 0 && top < 0.8 * earlier {
            continue;
        }
        if top < FLOOR || falls(squares, step, top, earlier) {
            continue;
        }
        let value = if loudest > 0.0 { f64::from(top / loudest).sqrt() } else { 0.0 };
        // What is quiet and no louder than before is a change of color, if that.
        if value < QUIET && step > 0 && top < 1.3 * earlier {
            continue;
        }
        // A recording's hiss is there before anything begins.
        if step == 0 && value < ROOM {
            continue;
        }
        last = Some(n);
        let at = step as f64 / f64::from(STEPS);
        if found.last().is_none_or(|mark| mark.at < at) {
            found.push(Mark { at, value });
        }
    }
    found
}

/// Whether something ends at a step rather than begins: a tone that is cut off spreads over all frequencies, and
/// so its spectrum rises, but the power after it is a fraction of what was before, and nothing on the way is louder.
fn falls(squares: &[f32], step: usize, top: f32, earlier: f32) -> bool {
    let mean = |from: usize, to: usize| {
        let all = &squares[from.min(squares.len())..to.min(squares.len())];
        all.iter().sum::<f32>() / all.len().max(1) as f32
    };
    let before = mean(step.saturating_sub(NEAR), step);
    let after = mean(step + NEAR, step + 2 * NEAR);
    top < 1.3 * earlier && after < 0.25 * before
}

/// The step near this one at which the level leaves what it was before.
fn began(squares: &[f32], near: usize) -> usize {
    let near = near.min(squares.len() - 1);
    let (from, to) = (near.saturating_sub(NEAR), (near + NEAR).min(squares.len() - 1));
    let level = |n: usize| squares[n].sqrt();
    let top = (from..=to).max_by(|a, b| squares[*a].total_cmp(&squares[*b])).unwrap_or(near);
    // At the very start what was before is silence.
    let before = if from == 0 { 0.0 } else { (from..=top).map(level).fold(f32::MAX, f32::min) };
    let rise = level(top) - before;
    if rise < 0.2 * level(top) {
        return near;
    }
    // The last climb to the top: what lay as high before may have fallen again. A voice that comes out of quiet
    // swings on its way up.
    let is_up = |n: &usize| level(*n) > before + 0.25 * rise;
    let swing = if (from..from + SWING).any(|n| is_up(&n)) { 1 } else { SWING };
    let mut step = top;
    while let Some(earlier) = (step.saturating_sub(swing).max(from)..step).find(is_up) {
        step = earlier;
    }
    step
}
