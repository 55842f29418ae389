//! The period of a value.

use rustc_hash::FxHashMap;

use crate::kind::ChangeRate;
use crate::program::{BehaviorId, Constant, Dial, ExprId, Op, Program, Turn};
use crate::quantity::Seconds;

/// The period of a value.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Period {
    /// It never changes during a run.
    Steady,
    /// It repeats with this period.
    Every(Seconds),
    /// Its period is longer than a day.
    Long,
    /// It does not repeat: it plays once.
    Once,
    /// It does not repeat: it is random.
    Chance,
}

impl Period {
    /// The period of a combination: randomness takes precedence, and two periods repeat after their
    /// least common multiple.
    fn with(self, other: Period) -> Period {
        use Period::{Chance, Every, Long, Once, Steady};
        match (self, other) {
            (Chance, _) | (_, Chance) => Chance,
            (Once, _) | (_, Once) => Once,
            (Long, _) | (_, Long) => Long,
            (Steady, other) | (other, Steady) => other,
            (Every(a), Every(b)) => meet(a, b),
        }
    }
}

/// A day, in microseconds.
const DAY: u64 = 86_400_000_000;

fn meet(a: Seconds, b: Seconds) -> Period {
    let micros = |s: Seconds| (s.0 * 1e6).round().max(1.0) as u64;
    let (a, b) = (micros(a), micros(b));
    let (mut x, mut y) = (a, b);
    while y != 0 {
        (x, y) = (y, x % y);
    }
    match (a / x).checked_mul(b) {
        Some(both) if both <= DAY => Period::Every(Seconds(both as f64 / 1e6)),
        _ => Period::Long,
    }
}

impl Program {
    /// The period of an expression.
    pub fn period(&self, id: ExprId) -> Period {
        Periods::new(self).period(id)
    }
}

/// The periods of many expressions, each computed once per set of arguments.
#[derive(Debug)]
pub struct Periods<'a> {
    program: &'a Program,
    /// The arguments of calls, if constant; frame 0 is outside all behaviors.
    frames: Vec<(BehaviorId, Vec<Option<f64>>)>,
    known: FxHashMap<(usize, ExprId), Period>,
}

impl<'a> Periods<'a> {
    /// Creates an empty table.
    pub fn new(program: &'a Program) -> Self {
        Periods { program, frames: Vec::new(), known: FxHashMap::default() }
    }

    /// The period of an expression.
    pub fn period(&mut self, id: ExprId) -> Period {
        self.of(id, 0)
    }

    /// The frame of a call.
    fn frame(&mut self, behavior: BehaviorId, arguments: Vec<Option<f64>>) -> usize {
        let call = (behavior, arguments);
        let found = self.frames.iter().position(|known| *known == call);
        1 + found.unwrap_or_else(|| {
            self.frames.push(call);
            self.frames.len() - 1
        })
    }

    /// A number, if it is constant.
    fn number(&self, id: ExprId, frame: usize) -> Option<f64> {
        match &self.program.expr(id).op {
            Op::Constant(Constant::Scalar(v)) => Some(*v),
            Op::Parameter(n) => self.frames.get(frame.checked_sub(1)?)?.1.get(*n).copied()?,
            Op::Multiply(a, b) => Some(self.number(*a, frame)? * self.number(*b, frame)?),
            Op::Divide(a, b) => Some(self.number(*a, frame)? / self.number(*b, frame)?),
            _ => None,
        }
    }

    fn of(&mut self, id: ExprId, frame: usize) -> Period {
        let program = self.program;
        let expr = program.expr(id);
        if expr.change_rate < ChangeRate::Flowing && expr.parameters == 0 {
            return Period::Steady;
        }
        if let Some(known) = self.known.get(&(frame, id)) {
            return *known;
        }
        let period = match &expr.op {
            Op::Now | Op::Clock(Dial::Days) => Period::Once,
            // Only on the way from one option to the next.
            Op::Weight(..) => Period::Steady,
            // It repeats with the day, as long as the game leaves the clock alone.
            Op::Clock(Dial::Hour) => match program.clock() {
                Some(clock) if clock.rate != 0.0 => {
                    Period::Every(Seconds((clock.day.0 / clock.rate).abs()))
                }
                _ => Period::Steady,
            },
            Op::SampleAndHold(..) | Op::SmoothHold(..) | Op::Drift(..) | Op::Burst(..) => {
                Period::Chance
            }
            Op::Looped(turn, _, at, period) => {
                let turns = match turn {
                    Turn::Loop => 1.0,
                    Turn::Alternate => 2.0,
                };
                match (self.runs_with_time(*at), self.number(*period, frame)) {
                    (true, Some(period)) => Period::Every(Seconds(period * turns)),
                    _ => self.of(*at, frame),
                }
            }
            Op::Moment(value, moment) => self.bent(*value, *moment, frame),
            Op::Signal(signal) => self.of(program.signal(*signal).value, 0),
            Op::Call(behavior, given, _) => {
                let inside = given.iter().map(|a| self.number(*a, frame)).collect();
                let inside = self.frame(*behavior, inside);
                let body = self.of(program.behavior(*behavior).value, inside);
                given.iter().fold(body, |all, a| all.with(self.of(*a, frame)))
            }
            op => {
                op.operands().into_iter().fold(Period::Steady, |all, e| all.with(self.of(e, frame)))
            }
        };
        self.known.insert((frame, id), period);
        period
    }

    /// Whether a time is the run's time, at most with an offset.
    fn runs_with_time(&self, at: ExprId) -> bool {
        let program = self.program;
        match program.expr(at).op {
            Op::Now => true,
            Op::Add(a, b) => {
                self.runs_with_time(a) && program.expr(b).change_rate < ChangeRate::Flowing
            }
            Op::Subtract(a, b) => {
                self.runs_with_time(a) && program.expr(b).change_rate < ChangeRate::Flowing
            }
            Op::Clamp(a, ..) => self.runs_with_time(a),
            _ => false,
        }
    }

    /// The period of a value evaluated at another time: delayed, stretched or sampled.
    fn bent(&mut self, value: ExprId, moment: ExprId, frame: usize) -> Period {
        let program = self.program;
        let inner = self.of(value, frame);
        let moment = match program.expr(moment).op {
            Op::Clamp(inside, ..) => inside,
            _ => moment,
        };
        if self.runs_with_time(moment) {
            return inner;
        }
        match (&program.expr(moment).op, inner) {
            (Op::Divide(now, by), Period::Every(period)) if self.runs_with_time(*now) => {
                match self.number(*by, frame) {
                    Some(by) => Period::Every(Seconds((period.0 * by).abs())),
                    None => Period::Once,
                }
            }
            (Op::Subtract(now, passed), inner) if self.runs_with_time(*now) => {
                inner.with(self.of(*passed, frame))
            }
            (_, inner) => inner,
        }
    }
}
