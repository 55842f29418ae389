//! Ranges of numbers.

/// A range of numbers, both ends included.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Interval {
    /// Nothing lies below.
    pub lo: f64,
    /// Nothing lies above.
    pub hi: f64,
}

impl Interval {
    /// Just this number.
    pub fn of(v: f64) -> Self {
        Interval { lo: v, hi: v }
    }

    /// The smallest interval around both.
    pub fn join(self, other: Self) -> Self {
        Interval { lo: self.lo.min(other.lo), hi: self.hi.max(other.hi) }
    }

    pub(crate) fn hull(values: &[f64]) -> Self {
        values.iter().fold(Interval { lo: f64::INFINITY, hi: f64::NEG_INFINITY }, |all, v| {
            // A product of 0 and something unbounded is reported as unbounded.
            if v.is_nan() {
                Interval { lo: f64::NEG_INFINITY, hi: f64::INFINITY }
            } else {
                all.join(Interval::of(*v))
            }
        })
    }

    pub(crate) fn corners(self, other: Self, f: impl Fn(f64, f64) -> f64) -> Self {
        Self::hull(&[
            f(self.lo, other.lo),
            f(self.lo, other.hi),
            f(self.hi, other.lo),
            f(self.hi, other.hi),
        ])
    }

    pub(crate) fn is_finite(self) -> bool {
        self.lo.is_finite() && self.hi.is_finite()
    }
}
