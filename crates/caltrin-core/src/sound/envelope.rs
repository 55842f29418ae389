//! What a light follows, smoothed, and as few straight lines as come close to it.

use super::STEPS;
use crate::kernel;
use crate::quantity::Seconds;

/// How finely places in an envelope are kept: so many a second, 16 to a step.
pub const TICKS: u32 = 16 * STEPS;

/// How far the lines of an envelope lie from what they stand for at the most, as a part of full.
pub const TABLE_ERROR: f64 = 0.01;

/// How far they lie from it at ticks; a line may begin so far away, and comes nearer from there.
const FITTED: f64 = 0.92 * TABLE_ERROR;

/// How far they lie from it between ticks.
const BETWEEN: f64 = 0.97 * TABLE_ERROR;

/// The shortest time of attack or release that ticks are fine enough for.
pub const SHORTEST: Seconds = Seconds(2e-3);

/// Below this time a curve bends between ticks, and is evaluated there too.
const BENDS: f64 = 8e-3;

/// In how many parts of a tick.
const PARTS: usize = 8;

/// Levels are kept in so many parts of full.
const LEVELS: f64 = 255.0;

/// Where a decaying level is over.
const OVER: f64 = 0.002;

const TICKS_A_STEP: usize = (TICKS / STEPS) as usize;

/// Follows a level that jumps from step to step: after each time of attack (or, where it falls, of release) it is
/// nearer by all but 1/e, as a one-pole filter is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Follower {
    /// How fast it rises.
    pub attack: Seconds,
    /// How fast it falls.
    pub release: Seconds,
}

impl Follower {
    fn left(self, rises: bool, passed: f64) -> f64 {
        kernel::decay(passed / if rises { self.attack.0 } else { self.release.0 })
    }

    /// Where it has come at the end of each step, from a level on.
    pub fn levels(self, targets: &[f64], from: f64) -> Vec<f64> {
        let step = 1.0 / f64::from(STEPS);
        let (up, down) = (self.left(true, step), self.left(false, step));
        let mut level = from;
        let next = |target: &f64| {
            level = target + (level - target) * if *target > level { up } else { down };
            level
        };
        targets.iter().map(next).collect()
    }

    /// The level at which a sound that loops for ever comes to its start.
    pub fn round(self, targets: &[f64], length: Seconds) -> f64 {
        let Some((last, others)) = targets.split_last() else { return 0.0 };
        let part = length.0 - others.len() as f64 / f64::from(STEPS);
        let mut from = 0.0;
        for _ in 0..1000 {
            let level = self.levels(others, from).last().copied().unwrap_or(from);
            let end = last + (level - last) * self.left(*last > level, part);
            if (end - from).abs() < 1e-9 {
                return end;
            }
            from = end;
        }
        from
    }
}

/// How a sound goes on where it ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Playing {
    /// It is silent then.
    Once,
    /// It begins again, and always has.
    Round,
    /// It begins again; before its first turn there was silence.
    FirstTurn,
}

/// A level over the time of a sound, in straight lines: a compact table.
#[derive(Clone, Debug, PartialEq)]
pub struct Envelope {
    words: Vec<u32>,
}

/// Where an envelope passes a threshold on its way up.
pub type Crossing = Seconds;

impl Envelope {
    /// What comes out of a follower of these levels, a step each, to [`TABLE_ERROR`]. Of a first turn only as much as
    /// differs from later ones; `None` where nothing does.
    pub fn of(
        follower: Follower,
        targets: &[f64],
        length: Seconds,
        playing: Playing,
    ) -> Option<Envelope> {
        let round = match playing {
            Playing::Once => 0.0,
            Playing::Round | Playing::FirstTurn => follower.round(targets, length),
        };
        let from = if playing == Playing::Round { round } else { 0.0 };
        let mut curve = Curve::new(follower, targets, from);
        let mut later = Curve::new(follower, targets, round);
        let end = (length.0 * f64::from(TICKS)).ceil() as usize;
        let mut words = vec![packed(0, nearest(curve.at(0)))];
        let mut line = Segment::new(0, nearest(curve.at(0)));
        let mut tick = 0;
        let bends = follower.attack.0.min(follower.release.0) < BENDS;
        loop {
            tick += 1;
            let y = curve.at(tick);
            let goes_on =
                (!bends || line.passes_between(tick, &mut curve)) && line.reaches(tick, y);
            let over = match playing {
                Playing::Once => curve.is_past_end(tick) && y < OVER,
                Playing::Round => tick >= end,
                Playing::FirstTurn => tick >= end || (y - later.at(tick)).abs() < OVER,
            };
            // A sound that is over leaves nothing.
            let ends =
                over && line.last.0 == tick && (playing != Playing::Once || line.last.1 == 0);
            if ends || !goes_on || (over && line.last.0 < tick) {
                // The next tick can always be reached, however the curve bends.
                let (at, level) = match line.last {
                    (at, _) if at == line.from.0 => (at + 1, nearest(curve.at(at + 1))),
                    last => last,
                };
                words.push(packed(at, level));
                line = Segment::new(at, level);
                tick = at;
            }
            if ends {
                break;
            }
        }
        if playing == Playing::FirstTurn && tick <= 1 {
            return None;
        }
        Some(Envelope { words })
    }

    /// The places (in [`TICKS`] a second, upper 24 bits) and levels (0 to 255, lower 8 bits) that the lines go through.
    pub fn words(&self) -> &[u32] {
        &self.words
    }

    /// Where the last line ends.
    pub fn end(&self) -> Seconds {
        Seconds(f64::from(self.words[self.words.len() - 1] >> 8) / f64::from(TICKS))
    }

    /// The level at a place of the sound, 0 to 1; the ends go on.
    pub fn at(&self, place: Seconds) -> f64 {
        kernel::envelope_level(place.0 * f64::from(TICKS), &self.words)
    }

    /// Where the level becomes greater than a threshold: not where it is so from the start, and again only after it
    /// was below `again` (or not above the threshold, without). A sound that loops is evaluated on a later turn.
    pub fn crossings(&self, above: f64, again: Option<f64>, playing: Playing) -> Vec<Crossing> {
        let turns = if playing == Playing::Once { 1 } else { 2 };
        let back = |level: f64| again.map_or(level <= above, |again| level < again);
        let mut armed = back(level_of(self.words[0]));
        let mut found = Vec::new();
        for _ in 0..turns {
            found.clear();
            for pair in self.words.windows(2) {
                let (a, b) = (level_of(pair[0]), level_of(pair[1]));
                if armed && b > above {
                    armed = false;
                    let part = if a > above { 0.0 } else { (above - a) / (b - a) };
                    let [from, to] = [pair[0], pair[1]].map(|word| f64::from(word >> 8));
                    let place = kernel::lerp(from, to, part) / f64::from(TICKS);
                    if found.last().is_none_or(|last: &Seconds| last.0 < place) {
                        found.push(Seconds(place));
                    }
                }
                armed |= back(b);
            }
        }
        found
    }
}

/// What a follower does between the ends of steps.
struct Curve<'a> {
    targets: &'a [f64],
    ends: Vec<f64>,
    from: f64,
    follower: Follower,
    /// How much is left after each part of a tick of a step, rising and falling.
    left: [[f64; TICKS_A_STEP * PARTS]; 2],
}

impl<'a> Curve<'a> {
    fn new(follower: Follower, targets: &'a [f64], from: f64) -> Self {
        let part = |rises: bool| {
            std::array::from_fn(|n| {
                follower.left(rises, n as f64 / (f64::from(TICKS) * PARTS as f64))
            })
        };
        let ends = follower.levels(targets, from);
        Curve { targets, ends, from, follower, left: [part(false), part(true)] }
    }

    fn is_past_end(&self, tick: usize) -> bool {
        tick >= self.targets.len() * TICKS_A_STEP
    }

    fn at(&mut self, tick: usize) -> f64 {
        self.within(tick, 0)
    }

    /// So many parts after a tick.
    fn within(&mut self, tick: usize, part: usize) -> f64 {
        let step = tick / TICKS_A_STEP;
        // After the sound there is silence.
        while self.ends.len() <= step {
            let level = self.ends.last().copied().unwrap_or(self.from);
            self.ends.push(level * self.follower.left(false, 1.0 / f64::from(STEPS)));
        }
        let level = if step == 0 { self.from } else { self.ends[step - 1] };
        let target = self.targets.get(step).copied().unwrap_or(0.0);
        let left = self.left[usize::from(target > level)][tick % TICKS_A_STEP * PARTS + part];
        target + (level - target) * left
    }
}

/// A line from a place on, and which slopes of it come near to all that it has passed.
struct Segment {
    from: (usize, f64),
    slopes: [f64; 2],
    /// Where it may end, as far as it has come.
    last: (usize, u32),
}

impl Segment {
    fn new(at: usize, level: u32) -> Self {
        let from = (at, f64::from(level) / LEVELS);
        Segment { from, slopes: [f64::MIN, f64::MAX], last: (at, level) }
    }

    /// Whether it can go on past a place, in ticks, at which it must be so near to a level.
    fn passes(&mut self, place: f64, y: f64, near: f64) -> bool {
        let passed = place - self.from.0 as f64;
        let slope = |level: f64| (level - self.from.1) / passed;
        self.slopes[0] = self.slopes[0].max(slope(y - near));
        self.slopes[1] = self.slopes[1].min(slope(y + near));
        self.slopes[0] <= self.slopes[1]
    }

    /// Whether it can go on past what lies before this tick and after the one before it.
    fn passes_between(&mut self, tick: usize, curve: &mut Curve<'_>) -> bool {
        (1..PARTS).all(|part| {
            let place = (tick - 1) as f64 + part as f64 / PARTS as f64;
            self.passes(place, curve.within(tick - 1, part), BETWEEN)
        })
    }

    /// Whether it can go on past this tick. Ends where a level that can be kept lies on one of its slopes.
    fn reaches(&mut self, tick: usize, y: f64) -> bool {
        if !self.passes(tick as f64, y, FITTED) {
            return false;
        }
        let passed = (tick - self.from.0) as f64;
        let [lo, hi] = self.slopes.map(|slope| (self.from.1 + slope * passed) * LEVELS);
        let (least, most) = (lo.ceil().max(0.0), hi.floor().min(LEVELS));
        if least <= most {
            self.last = (tick, (y * LEVELS).round().clamp(least, most) as u32);
        }
        true
    }
}

fn nearest(level: f64) -> u32 {
    (level * LEVELS).round().clamp(0.0, LEVELS) as u32
}

fn packed(tick: usize, level: u32) -> u32 {
    (tick as u32) << 8 | level
}

fn level_of(word: u32) -> f64 {
    f64::from(word & 255) / LEVELS
}
