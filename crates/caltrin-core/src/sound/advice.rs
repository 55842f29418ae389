//! What would suit a sound: settings to begin with, read off its level.

use super::{Band, Envelope, Follower, Hearing, Marks, Measure, Playing, STEPS};
use crate::quantity::Seconds;

/// Settings that suit a sound.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Advice {
    /// The level that all but the quietest tenth lies above, and the one that the loudest tenth lies above, as parts of
    /// the loudest.
    pub quiet: f64,
    /// See `quiet`.
    pub loud: f64,
    /// How fast a light should rise with it: as the sound itself does.
    pub attack: Seconds,
    /// How fast it should fall.
    pub release: Seconds,
    /// A level that loud parts rise above, and one below which they are over; none where the sound hardly changes.
    pub threshold: Option<[f64; 2]>,
    /// How often what follows it so passes that, played once.
    pub passed: usize,
    /// A gate that keeps out what is always there; none where there is silence in between.
    pub gate: Option<f64>,
    /// The band in which the sound changes most, and by how much of its loudest.
    pub band: Band,
    /// See `band`.
    pub moves: f64,
}

/// Below how great a change a sound has no loud and quiet parts.
const STEADY: f64 = 0.15;

/// Time constants to begin with, where a sound has no rise or fall to read them off.
const USUAL: [Seconds; 2] = [Seconds(0.015), Seconds(0.25)];

impl Hearing {
    /// What would suit it.
    pub fn advice(&self) -> Advice {
        let level = self.targets(Measure::Level, None, 0.0);
        let [quiet, loud] = [0.1, 0.9].map(|part| quantile(&level, part));
        // Loud parts may be short: what they reach counts then, however little of the time they take.
        let top = quantile(&level, 0.99);
        let range = top - quiet;
        let [low, high] = [quiet + 0.2 * range, quiet + 0.8 * range];
        let found =
            if range > STEADY { turns(&level, low, high) } else { [Vec::new(), Vec::new()] };
        // From a fifth to four fifths takes ln 4 time constants.
        let time = |all: &[usize], least: f64, most: f64, default: Seconds| match middle(all) {
            Some(steps) => {
                let seconds = steps as f64 / f64::from(STEPS) / 4f64.ln();
                Seconds(seconds.clamp(least, most))
            }
            None => default,
        };
        let whole =
            |seconds: Seconds, step: f64| Seconds((seconds.0 / step).round().max(1.0) * step);
        let threshold = (range > STEADY).then(|| {
            let percent = |v: f64| (v * 20.0).round() / 20.0;
            [percent(quiet + 0.6 * range), percent(quiet + 0.35 * range)]
        });
        let gate = (0.01..0.3).contains(&quiet).then(|| (quiet * 150.0).ceil() / 100.0);
        let moves = |band: Band| {
            let all = self.targets(Measure::Band(band), None, 0.0);
            // A band without anything in it does not move.
            let share = self.measured(Measure::Band(band)).into_iter().fold(0.0, f64::max);
            let most = self.measured(Measure::Level).into_iter().fold(1e-9, f64::max);
            let counts = (share / most / 0.1).min(1.0);
            (quantile(&all, 0.99) - quantile(&all, 0.1)) * counts
        };
        let (band, moves) = Band::NAMED
            .iter()
            .map(|(_, band)| (*band, moves(*band)))
            .fold((Band::Low, -1.0), |best, next| if next.1 > best.1 + 1e-6 { next } else { best });
        let attack = whole(time(&found[0], 0.005, 0.3, USUAL[0]), 0.005);
        let release = whole(time(&found[1], 0.04, 2.0, USUAL[1]), 0.01);
        let passed = threshold.map_or(0, |[above, again]| {
            let targets = self.targets(Measure::Level, None, gate.unwrap_or(0.0));
            let follower = Follower { attack, release };
            let once = Envelope::of(follower, &targets, self.length(), Playing::Once);
            once.map_or(0, |once| once.crossings(above, Some(again), Playing::Once).len())
        });
        Advice { quiet, loud, attack, release, threshold, passed, gate, band, moves }
    }

    /// How many onsets it has in a minute.
    pub fn onsets_a_minute(&self) -> f64 {
        self.marks(Marks::Onsets).len() as f64 * 60.0 / self.length().0
    }
}

/// The level that a part of all lie below.
fn quantile(all: &[f64], part: f64) -> f64 {
    let mut sorted = all.to_vec();
    sorted.sort_by(f64::total_cmp);
    let at = ((sorted.len().saturating_sub(1)) as f64 * part).round() as usize;
    sorted.get(at).copied().unwrap_or(0.0)
}

/// How many steps the climb to each loud part takes, from a fifth of its way to four fifths, and each fall from high to
/// low.
fn turns(level: &[f64], low: f64, high: f64) -> [Vec<usize>; 2] {
    let (mut rises, mut falls) = (Vec::new(), Vec::new());
    let (mut armed, mut above) = (true, None);
    for (n, v) in level.iter().enumerate() {
        if *v >= high {
            above = Some(n);
            if armed {
                rises.push(climb(&level[..=n], high - low));
                armed = false;
            }
        } else if *v <= low {
            falls.extend(above.take().map(|since| n - since));
            armed = true;
        }
    }
    [rises, falls]
}

/// How long the climb took that ends a list of levels.
fn climb(level: &[f64], range: f64) -> usize {
    let top = level.len() - 1;
    let mut foot = top;
    // Back to its foot: where it was higher before, something else came to an end.
    for n in (top.saturating_sub(STEPS as usize)..top).rev() {
        if level[n] < level[foot] {
            foot = n;
        } else if level[n] > level[foot] + 0.1 * range {
            break;
        }
    }
    let at = |part: f64| level[foot] + part * (level[top] - level[foot]);
    let from = (foot..=top).rev().find(|n| level[*n] <= at(0.2)).unwrap_or(foot);
    let to = (from..=top).find(|n| level[*n] >= at(0.8)).unwrap_or(top);
    to - from
}

fn middle(all: &[usize]) -> Option<usize> {
    let mut sorted = all.to_vec();
    sorted.sort_unstable();
    sorted.get(sorted.len() / 2).copied()
}
