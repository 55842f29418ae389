//! Curves: stops of position and value, and how each stop is reached.

use std::sync::Arc;

use crate::baked_easing::{BakedEasing, MOST_ERROR};
use crate::interval::Interval;
use crate::kernel;
use crate::quantity::{Place, Seconds};

/// How a stop is reached from the one before it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Easing {
    /// The old value holds until the stop's moment.
    Jump,
    /// In a straight line.
    Linear,
    /// Soft at both ends: `3u^2 - 2u^3`.
    Smooth,
    /// A CSS `cubic-bezier(x1, y1, x2, y2)`; `x1` and `x2` lie in 0..1.
    Bezier([f64; 4]),
    /// A CSS `steps(n, position)`: this many equal steps.
    Steps(u32, StepPosition),
}

/// Where the steps of [`Easing::Steps`] jump, as CSS Easing Functions defines it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum StepPosition {
    /// At the start of each step: the first value is skipped.
    Start,
    /// At the end of each step: the last value is reached only at the stop.
    #[default]
    End,
    /// At neither end: both values are held for a step.
    None,
    /// At both ends: neither value is held.
    Both,
}

impl StepPosition {
    /// By the names of CSS, such as `jump-start`.
    pub fn named(name: &str) -> Option<StepPosition> {
        match name {
            "jump-start" | "start" => Some(StepPosition::Start),
            "jump-end" | "end" => Some(StepPosition::End),
            "jump-none" => Some(StepPosition::None),
            "jump-both" => Some(StepPosition::Both),
            _ => None,
        }
    }

    /// How many jumps come before the first step, and how many there are in all, of a number of steps.
    pub fn jumps(self, steps: u32) -> [f64; 2] {
        let steps = f64::from(steps);
        match self {
            StepPosition::Start => [1.0, steps],
            StepPosition::End => [0.0, steps],
            StepPosition::None => [0.0, steps - 1.0],
            StepPosition::Both => [1.0, steps + 1.0],
        }
    }
}

/// Most steps of [`Easing::Steps`].
pub const MOST_STEPS: u32 = 1000;

impl Easing {
    /// The easing names of CSS Easing Functions with their published control values.
    pub const CSS: [(&str, Easing); 4] = [
        ("ease", Easing::Bezier([0.25, 0.1, 0.25, 1.0])),
        ("ease-in", Easing::Bezier([0.42, 0.0, 1.0, 1.0])),
        ("ease-out", Easing::Bezier([0.0, 0.0, 0.58, 1.0])),
        ("ease-in-out", Easing::Bezier([0.42, 0.0, 0.58, 1.0])),
    ];

    /// The easing of that name: `jump`, `linear`, `smooth` or one of CSS.
    pub fn named(name: &str) -> Option<Easing> {
        match name {
            "jump" => Some(Easing::Jump),
            "linear" => Some(Easing::Linear),
            "smooth" => Some(Easing::Smooth),
            _ => Self::CSS.iter().find(|(css, _)| *css == name).map(|(_, easing)| *easing),
        }
    }

    /// Its polynomials, if it is a Bezier easing that has some.
    pub fn baked(self) -> Option<Arc<BakedEasing>> {
        match self {
            Easing::Bezier(controls) => BakedEasing::of(controls),
            Easing::Jump | Easing::Linear | Easing::Smooth | Easing::Steps(..) => None,
        }
    }

    /// The eased ratio at `u` from 0 to 1.
    pub fn at(self, u: f64) -> f64 {
        self.at_with(u, self.baked().as_deref())
    }

    /// The same with what [`Easing::baked`] gave, for many places.
    #[inline]
    pub fn at_with(self, u: f64, baked: Option<&BakedEasing>) -> f64 {
        match self {
            Easing::Jump => {
                if u < 1.0 {
                    0.0
                } else {
                    1.0
                }
            }
            Easing::Linear => u,
            Easing::Smooth => kernel::ease_smooth(u),
            Easing::Bezier([x1, y1, x2, y2]) => {
                let s = match baked {
                    Some(baked) => baked.at(u),
                    None => kernel::ease_bezier(u, x1, y1, x2, y2),
                };
                if self.overshoots() { s } else { kernel::clamp(s, 0.0, 1.0) }
            }
            Easing::Steps(steps, position) => {
                let [first, jumps] = position.jumps(steps);
                kernel::ease_steps(u, f64::from(steps), first, jumps)
            }
        }
    }

    /// The least and the greatest eased ratio.
    pub fn bounds(self) -> Interval {
        let whole = Interval { lo: 0.0, hi: 1.0 };
        match self {
            // A Bezier curve lies in the hull of its control values; the margin is that of its polynomials.
            Easing::Bezier([_, y1, _, y2]) if self.overshoots() => {
                let hull = Interval { lo: y1.min(y2).min(0.0), hi: y1.max(y2).max(1.0) };
                Interval { lo: hull.lo - MOST_ERROR, hi: hull.hi + MOST_ERROR }
            }
            Easing::Bezier(_)
            | Easing::Jump
            | Easing::Linear
            | Easing::Smooth
            | Easing::Steps(..) => whole,
        }
    }

    /// Whether the eased ratio can leave 0..1, so that a value may go beyond its two stops.
    pub fn overshoots(self) -> bool {
        match self {
            Easing::Bezier([_, y1, _, y2]) => {
                !(0.0..=1.0).contains(&y1) || !(0.0..=1.0).contains(&y2)
            }
            Easing::Jump | Easing::Linear | Easing::Smooth | Easing::Steps(..) => false,
        }
    }
}

/// One stop of a curve.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stop {
    /// Where it stands.
    pub at: Place,
    /// The value there, in the base unit of the curve's kind.
    pub value: f64,
    /// How it is reached; the first stop's is never used.
    pub easing: Easing,
}

/// Why a list of stops is not a curve.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum CurveFault {
    /// Fewer than two stops.
    TooFew,
    /// More than [`MOST_STOPS`].
    TooMany(usize),
    /// A stop stands before the one before it, or is the third at its place; the index is the later one's.
    Order(usize),
    /// The first stop of a curve that plays lies before 0 s.
    BeforeStart,
    /// Two stops are closer than a millionth; the index is the later one's.
    TooClose(usize),
    /// A position, value or control value is not finite or is out of its range.
    Range(usize),
}

/// Most stops of a curve.
pub const MOST_STOPS: usize = 1000;

/// Values of one kind at places in rising order, two or more.
#[derive(Clone, Debug, PartialEq)]
pub struct Curve {
    stops: Vec<Stop>,
    /// The polynomials of each stop's easing.
    baked: Vec<Option<Arc<BakedEasing>>>,
}

impl Curve {
    /// A curve of these stops.
    ///
    /// Two stops at one place are a jump there: the first is what the curve comes to, the second what it goes on
    /// from, and the easing of the second counts for nothing.
    pub fn new(mut stops: Vec<Stop>) -> Result<Self, CurveFault> {
        if stops.len() < 2 {
            return Err(CurveFault::TooFew);
        }
        if stops.len() > MOST_STOPS {
            return Err(CurveFault::TooMany(stops.len()));
        }
        for (n, stop) in stops.iter().enumerate() {
            let controls_fit = match stop.easing {
                Easing::Bezier(c) => {
                    c.iter().all(|v| v.is_finite() && v.abs() <= 1e6)
                        && (0.0..=1.0).contains(&c[0])
                        && (0.0..=1.0).contains(&c[2])
                }
                Easing::Steps(steps, position) => {
                    let least = if position == StepPosition::None { 2 } else { 1 };
                    (least..=MOST_STEPS).contains(&steps)
                }
                Easing::Jump | Easing::Linear | Easing::Smooth => true,
            };
            if !stop.at.0.is_finite() || !stop.value.is_finite() || !controls_fit {
                return Err(CurveFault::Range(n));
            }
        }
        for n in 1..stops.len() {
            let apart = stops[n].at.0 - stops[n - 1].at.0;
            let is_third = n > 1 && stops[n].at == stops[n - 2].at;
            if apart < 0.0 || is_third {
                return Err(CurveFault::Order(n));
            }
            if apart == 0.0 {
                stops[n].easing = Easing::Jump;
            } else if apart < 1e-6 {
                return Err(CurveFault::TooClose(n));
            }
        }
        let baked = stops.iter().map(|stop| stop.easing.baked()).collect();
        Ok(Curve { stops, baked })
    }

    /// The stops in rising order, two or more.
    pub fn stops(&self) -> &[Stop] {
        &self.stops
    }

    /// The place of the last stop: how long one play lasts.
    pub fn length(&self) -> Seconds {
        Seconds(self.stops[self.stops.len() - 1].at.0)
    }

    /// The value at a position; before the first stop its value, after the last stop its value.
    /// Costs a search among the stops.
    #[inline]
    pub fn at(&self, x: f64) -> f64 {
        let next = if self.stops.len() <= 16 {
            self.stops.iter().position(|stop| x < stop.at.0).unwrap_or(self.stops.len())
        } else {
            self.stops.partition_point(|stop| stop.at.0 <= x)
        };
        if next == 0 {
            return self.stops[0].value;
        }
        if next == self.stops.len() {
            return self.stops[next - 1].value;
        }
        let (from, to) = (&self.stops[next - 1], &self.stops[next]);
        let u = (x - from.at.0) / (to.at.0 - from.at.0);
        match to.easing {
            Easing::Jump => from.value,
            Easing::Linear => kernel::lerp(from.value, to.value, u),
            Easing::Smooth => kernel::lerp(from.value, to.value, kernel::ease_smooth(u)),
            Easing::Steps(..) | Easing::Bezier(_) => {
                let s = to.easing.at_with(u, self.baked[next].as_deref());
                if to.easing.overshoots() {
                    from.value + (to.value - from.value) * s
                } else {
                    kernel::lerp(from.value, to.value, s)
                }
            }
        }
    }

    /// The least and the greatest value that the curve can take.
    pub fn bounds(&self) -> Interval {
        let mut all = Interval::of(self.stops[0].value);
        for pair in self.stops.windows(2) {
            let (from, to) = (pair[0].value, pair[1].value);
            all = all.join(Interval::of(to));
            if let Easing::Bezier([_, y1, _, y2]) = pair[1].easing
                && pair[1].easing.overshoots()
            {
                // A Bezier curve lies in the hull of its control values; the margin is that of its polynomials.
                let margin = (to - from).abs() * MOST_ERROR;
                for y in [y1, y2, 0.0, 1.0] {
                    let reach = from + (to - from) * y;
                    all = all.join(Interval { lo: reach - margin, hi: reach + margin });
                }
            }
        }
        all
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn stop(at: f64, value: f64, easing: Easing) -> Stop {
        Stop { at: Place(at), value, easing }
    }

    #[test]
    fn a_jump_happens_at_its_moment_and_not_before() {
        let curve =
            Curve::new(vec![stop(0.0, 1.0, Easing::Linear), stop(0.5, 0.2, Easing::Jump)]).unwrap();
        assert_eq!(curve.at(0.5f64.next_down()), 1.0);
        assert_eq!(curve.at(0.5), 0.2);
        assert_eq!(curve.at(-1.0), 1.0);
        assert_eq!(curve.at(9.0), 0.2);
    }

    #[test]
    fn two_stops_at_one_place_are_a_jump_there() {
        let overshoot = Easing::Bezier([0.3, -0.8, 0.6, 1.9]);
        let curve = Curve::new(vec![
            stop(0.0, 0.2, Easing::Linear),
            stop(1.0, 0.8, Easing::Smooth),
            stop(1.0, 0.1, overshoot),
            stop(3.0, 0.3, Easing::Linear),
            stop(3.0, 0.9, Easing::Linear),
        ])
        .unwrap();
        assert!((curve.at(1.0f64.next_down()) - 0.8).abs() < 1e-9);
        assert_eq!([curve.at(1.0), curve.at(2.0), curve.at(3.0)], [0.1, 0.2, 0.9]);
        assert_eq!(curve.bounds(), Interval { lo: 0.1, hi: 0.9 });
    }

    #[test]
    fn few_and_many_stops_are_searched_alike() {
        let easings = [Easing::Linear, Easing::Smooth, Easing::Jump, Easing::CSS[0].1];
        let stops: Vec<Stop> = (0..40u32)
            .map(|n| stop(f64::from(n) * 0.3, f64::from(n * 7 % 11), easings[n as usize % 4]))
            .collect();
        let long = Curve::new(stops.clone()).unwrap();
        for n in 0..3000 {
            let x = f64::from(n) * 0.0041;
            let whole = (x / 0.3).floor() as usize;
            if whole + 1 < stops.len() {
                let short = Curve::new(stops[whole..=whole + 1].to_vec()).unwrap();
                if x >= stops[whole].at.0 && x < stops[whole + 1].at.0 {
                    assert_eq!(long.at(x).to_bits(), short.at(x).to_bits(), "{x}");
                }
            }
        }
    }

    #[test]
    fn a_curve_never_leaves_its_bounds() {
        let overshoot = Easing::Bezier([0.3, -0.8, 0.6, 1.9]);
        let curve = Curve::new(vec![
            stop(0.0, 0.1, Easing::Linear),
            stop(0.7, 0.7, overshoot),
            stop(1.1, 0.3, Easing::Smooth),
            stop(1.9, 0.9, Easing::Linear),
        ])
        .unwrap();
        let bounds = curve.bounds();
        assert!(bounds.lo < 0.1 && bounds.hi > 0.9);
        for n in 0..1_000_000 {
            let v = curve.at(f64::from(n) * 2e-6);
            assert!(bounds.lo <= v && v <= bounds.hi, "{v}");
        }
    }

    #[test]
    fn stops_that_make_no_curve_are_refused() {
        let linear = Easing::Linear;
        let one = vec![stop(0.0, 1.0, linear)];
        assert_eq!(Curve::new(one), Err(CurveFault::TooFew));
        let back = vec![stop(0.0, 1.0, linear), stop(1.0, 1.0, linear), stop(0.9, 0.0, linear)];
        assert_eq!(Curve::new(back), Err(CurveFault::Order(2)));
        let thrice = [0.2, 0.5, 0.8].map(|value| stop(1.0, value, linear));
        assert_eq!(Curve::new(thrice.into()), Err(CurveFault::Order(2)));
        let many = (0..1001).map(|n| stop(f64::from(n), 1.0, linear)).collect();
        assert_eq!(Curve::new(many), Err(CurveFault::TooMany(1001)));
        let steep =
            vec![stop(0.0, 1.0, linear), stop(1.0, 1.0, Easing::Bezier([1.5, 0.0, 0.0, 0.0]))];
        assert_eq!(Curve::new(steep), Err(CurveFault::Range(1)));
    }
}
