//! Folding: what an operation comes to whose operands are all known.

use crate::kernel;
use crate::program::{Constant, ExprId, Op, Turn};

use super::ProgramBuilder;

impl ProgramBuilder {
    /// The value of an operation whose operands are all known.
    pub(super) fn fold(&self, op: &Op) -> Option<Constant> {
        self.fold_with(op, |id| self.program.constant(id))
    }

    /// The same with operands that are known otherwise.
    pub(super) fn fold_with(
        &self,
        op: &Op,
        known: impl Fn(ExprId) -> Option<Constant>,
    ) -> Option<Constant> {
        use Constant::{OnOff, Scalar, Vector};
        let known = |id: &ExprId| known(*id);
        let one = |id: &ExprId, f: fn(f64) -> f64| match known(id)? {
            Scalar(v) => Some(Scalar(f(v))),
            Vector(v) => Some(Vector(v.map(f))),
            OnOff(_) => None,
        };
        let two = |a: &ExprId, b: &ExprId, f: fn(f64, f64) -> f64| match (known(a)?, known(b)?) {
            (Scalar(a), Scalar(b)) => Some(Scalar(f(a, b))),
            (Vector(a), Scalar(b)) => Some(Vector(a.map(|a| f(a, b)))),
            (Vector(a), Vector(b)) => Some(Vector([0, 1, 2].map(|n| f(a[n], b[n])))),
            _ => None,
        };
        let flags = |a: &ExprId, b: &ExprId, f: fn(bool, bool) -> bool| match (known(a)?, known(b)?)
        {
            (OnOff(a), OnOff(b)) => Some(OnOff(f(a, b))),
            _ => None,
        };
        match op {
            Op::Constant(c) => Some(*c),
            Op::Negate(a) => one(a, |v| -v),
            Op::ChangeUp(a, up) => match known(a)? {
                Vector(v) => Some(Vector(up.stand(v))),
                _ => None,
            },
            Op::Add(a, b) => two(a, b, |a, b| a + b),
            Op::Subtract(a, b) => two(a, b, |a, b| a - b),
            Op::Multiply(a, b) => two(a, b, |a, b| a * b),
            Op::Divide(a, b) => two(a, b, |a, b| a / b),
            Op::Min(a, b) => two(a, b, kernel::min),
            Op::Max(a, b) => two(a, b, kernel::max),
            Op::Clamp(v, lo, hi) => match (known(v)?, known(lo)?, known(hi)?) {
                (Scalar(v), Scalar(lo), Scalar(hi)) => Some(Scalar(kernel::clamp(v, lo, hi))),
                _ => None,
            },
            Op::Lerp(a, b, s) => match (known(a)?, known(b)?, known(s)?) {
                (Scalar(a), Scalar(b), Scalar(s)) => Some(Scalar(kernel::lerp(a, b, s))),
                (Vector(a), Vector(b), Scalar(s)) => {
                    Some(Vector([0, 1, 2].map(|n| kernel::lerp(a[n], b[n], s))))
                }
                _ => None,
            },
            Op::Above(a, b) => match (known(a)?, known(b)?) {
                (Scalar(a), Scalar(b)) => Some(OnOff(a > b)),
                _ => None,
            },
            Op::Equal(a, b) => match (known(a)?, known(b)?) {
                (Scalar(a), Scalar(b)) => Some(OnOff(a == b)),
                _ => None,
            },
            Op::And(a, b) => flags(a, b, |a, b| a && b),
            Op::Or(a, b) => flags(a, b, |a, b| a || b),
            Op::Not(a) => match known(a)? {
                OnOff(v) => Some(OnOff(!v)),
                _ => None,
            },
            Op::Select(c, a, b) => match known(c)? {
                OnOff(on) => known(if on { a } else { b }),
                _ => None,
            },
            Op::Parts(x, y, z) => match (known(x)?, known(y)?, known(z)?) {
                (Scalar(x), Scalar(y), Scalar(z)) => Some(Vector([x, y, z])),
                _ => None,
            },
            Op::Looped(Turn::Loop, _, at, period) => two(at, period, kernel::wrap_time),
            Op::Pure(function, all) => {
                let known: Option<Vec<f64>> = all
                    .iter()
                    .map(|id| match known(id)? {
                        Scalar(v) => Some(v),
                        Vector(_) | OnOff(_) => None,
                    })
                    .collect();
                Some(Scalar(function.at(&known?)))
            }
            Op::Wave(wave, x) => one(x, wave.function()),
            Op::Square(x, on) => two(x, on, kernel::square_level),
            Op::Eased(easing, u) => match known(u)? {
                Scalar(u) => Some(Scalar(easing.at(u))),
                _ => None,
            },
            Op::Table(table, x) => match known(x)? {
                Scalar(x) => {
                    Some(Scalar(kernel::table_level(x, self.program.table(*table).numbers())))
                }
                _ => None,
            },
            Op::Envelope(table, x) => match known(x)? {
                Scalar(x) => {
                    Some(Scalar(kernel::envelope_level(x, self.program.table(*table).words())))
                }
                _ => None,
            },
            Op::NextPlace(table, x) => match known(x)? {
                Scalar(x) => {
                    Some(Scalar(kernel::next_place(x, self.program.table(*table).numbers())))
                }
                _ => None,
            },
            Op::ConeRoot(cone, c) => match known(c)? {
                Vector(c) => Some(Scalar(kernel::cone_root(usize::from(*cone), c))),
                _ => None,
            },
            Op::FromCones(l, m, s) => match (known(l)?, known(m)?, known(s)?) {
                (Scalar(l), Scalar(m), Scalar(s)) => {
                    Some(Vector([0, 1, 2].map(|part| kernel::light_of(part, [l, m, s]))))
                }
                _ => None,
            },
            Op::Direction(point) => match known(point)? {
                Vector(p) => Some(Vector(kernel::direction(p))),
                _ => None,
            },
            Op::Distance(a, b) => match (known(a)?, known(b)?) {
                (Vector(a), Vector(b)) => {
                    let [x, y, z] = [0, 1, 2].map(|n| (a[n] - b[n]) * (a[n] - b[n]));
                    Some(Scalar(kernel::root(x + y + z)))
                }
                _ => None,
            },
            Op::Moment(value, _) => known(value),
            Op::MaxComponent(c) => match known(c)? {
                Vector([r, g, b]) => Some(Scalar(kernel::max(kernel::max(r, g), b))),
                _ => None,
            },
            Op::NormalizedColor(c) => match known(c)? {
                Vector(v) => Some(Vector(crate::color::Rgb(v).brightest_at_one().0)),
                _ => None,
            },
            Op::Now
            | Op::NextHour(..)
            | Op::FreeSpark(_)
            | Op::Clock(_)
            | Op::IsChosen(..)
            | Op::Weight(..)
            | Op::Input(_)
            | Op::Index(_)
            | Op::Parameter(_)
            | Op::Signal(_)
            | Op::Call(..)
            | Op::SampleAndHold(..)
            | Op::SmoothHold(..)
            | Op::Drift(..)
            | Op::Burst(..)
            | Op::InBall(..)
            | Op::Phase(_)
            | Op::Looped(..)
            | Op::Curve(..) => None,
        }
    }
}
