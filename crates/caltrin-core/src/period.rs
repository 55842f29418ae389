//! Whether, and when, a value comes round again.

use crate::kind::Pace;
use crate::program::{Constant, Dial, ExprId, Op, Program, Turn};
use crate::quantity::Seconds;

/// When a value comes round again.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Period {
    /// It never changes during a run.
    Steady,
    /// Each time this has passed.
    Every(Seconds),
    /// Only after more than a day.
    Long,
    /// Never: it is played once.
    Once,
    /// Never: chance is in it.
    Chance,
}

impl Period {
    /// What comes round with both: chance is stronger than all, and two turns meet again when both
    /// are done.
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
    /// When an expression comes round again.
    pub fn period(&self, id: ExprId) -> Period {
        self.period_in(id, &[])
    }

    fn known(&self, id: ExprId, arguments: &[Option<f64>]) -> Option<f64> {
        match &self.expr(id).op {
            Op::Constant(Constant::Scalar(v)) => Some(*v),
            Op::Parameter(n) => arguments.get(*n).copied().flatten(),
            Op::Multiply(a, b) => Some(self.known(*a, arguments)? * self.known(*b, arguments)?),
            Op::Divide(a, b) => Some(self.known(*a, arguments)? / self.known(*b, arguments)?),
            _ => None,
        }
    }

    fn period_in(&self, id: ExprId, arguments: &[Option<f64>]) -> Period {
        let expr = self.expr(id);
        if expr.pace < Pace::Flowing && expr.parameters == 0 {
            return Period::Steady;
        }
        match &expr.op {
            Op::Now | Op::Clock(Dial::Days) => Period::Once,
            // Only on the way from one option to the next.
            Op::Weight(..) => Period::Steady,
            // It comes round with the day, as long as the game leaves the clock alone.
            Op::Clock(Dial::Hour) => match self.clock() {
                Some(clock) if clock.rate != 0.0 => {
                    Period::Every(Seconds((clock.day.0 / clock.rate).abs()))
                }
                _ => Period::Steady,
            },
            Op::Held(..) | Op::Soft(..) | Op::Drift(..) | Op::Burst(..) => Period::Chance,
            Op::Turned(turn, _, at, period) => {
                let turns = match turn {
                    Turn::Loop => 1.0,
                    Turn::Alternate => 2.0,
                };
                match (self.runs_with_time(*at), self.known(*period, arguments)) {
                    (true, Some(period)) => Period::Every(Seconds(period * turns)),
                    _ => self.period_in(*at, arguments),
                }
            }
            Op::Moment(value, moment) => self.bent(*value, *moment, arguments),
            Op::Signal(signal) => self.period(self.signal(*signal).value),
            Op::Call(behaviour, given, _) => {
                let inside: Vec<Option<f64>> =
                    given.iter().map(|a| self.known(*a, arguments)).collect();
                let body = self.period_in(self.behaviour(*behaviour).value, &inside);
                given.iter().fold(body, |all, a| all.with(self.period_in(*a, arguments)))
            }
            op => op
                .operands()
                .into_iter()
                .fold(Period::Steady, |all, e| all.with(self.period_in(e, arguments))),
        }
    }

    /// Whether a time is the run's own, shifted at most.
    fn runs_with_time(&self, at: ExprId) -> bool {
        match self.expr(at).op {
            Op::Now => true,
            Op::Add(a, b) => self.runs_with_time(a) && self.expr(b).pace < Pace::Flowing,
            Op::Subtract(a, b) => self.runs_with_time(a) && self.expr(b).pace < Pace::Flowing,
            Op::Within(a, ..) => self.runs_with_time(a),
            _ => false,
        }
    }

    /// The period of a value that is looked at at another moment: shifted, stretched or snapped.
    fn bent(&self, value: ExprId, moment: ExprId, arguments: &[Option<f64>]) -> Period {
        let inner = self.period_in(value, arguments);
        let moment = match self.expr(moment).op {
            Op::Within(inside, ..) => inside,
            _ => moment,
        };
        if self.runs_with_time(moment) {
            return inner;
        }
        match (self.expr(moment).op.clone(), inner) {
            (Op::Divide(now, by), Period::Every(period)) if self.runs_with_time(now) => {
                match self.known(by, arguments) {
                    Some(by) => Period::Every(Seconds((period.0 * by).abs())),
                    None => Period::Once,
                }
            }
            (Op::Subtract(now, passed), inner) if self.runs_with_time(now) => {
                inner.with(self.period_in(passed, arguments))
            }
            (_, inner) => inner,
        }
    }
}
