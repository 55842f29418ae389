//! Time of day: curves by the hour, spans of hours, phases and choices. All of them are pure
//! functions of the clock.

use super::sky::Crossing;
use super::{ProgramBuilder, Track};
use crate::curve::{CurveFault, Easing};
use crate::kind::Kind;
use crate::program::{Clock, Constant, Dial, Domain, ExprId, Op, Phases};
use crate::pure::Pure;
use crate::quantity::{Hours, Place};
use crate::semantic_error::SemanticError;

/// How a transition is aligned with its hour.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Lean {
    /// It ends at the hour.
    Before,
    /// It is centered on the hour.
    #[default]
    Across,
    /// It starts at the hour.
    After,
}

impl Lean {
    /// How long before its hour a transition of this duration starts.
    fn lead(self, over: f64) -> f64 {
        match self {
            Lean::Before => over,
            Lean::Across => over * 0.5,
            Lean::After => 0.0,
        }
    }
}

/// A transition at an hour.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Change {
    /// Its duration.
    pub over: Hours,
    /// Its alignment.
    pub lean: Lean,
}

/// A phase of the day to define.
#[derive(Clone, Debug, PartialEq)]
pub struct Phase {
    /// Its name in the book.
    pub name: String,
    /// The hour at which it starts.
    pub from: ExprId,
    /// Its transition.
    pub change: Change,
    /// Its own tint.
    pub tint: Option<ExprId>,
}

/// The values of phases or another list of alternatives.
#[derive(Clone, Debug, PartialEq)]
pub struct Alternatives {
    /// Their names in the book's order.
    pub names: Vec<String>,
    /// The weight of each, 0 to 1; the sum is 1.
    pub weights: Vec<ExprId>,
    /// Whether each is the current one.
    pub at_hand: Vec<ExprId>,
}

/// The first of these hours after midnight, if they ascend and cross midnight at most once;
/// otherwise the one that is not after the hour before it. Two may be equal where that is a jump.
fn past_midnight(hours: &[f64], jumps: bool) -> Result<usize, usize> {
    let falls = |n: &usize| hours[*n] < hours[n - 1] || (hours[*n] == hours[n - 1] && !jumps);
    let falling: Vec<usize> = (1..hours.len()).filter(falls).collect();
    match falling[..] {
        [] => Ok(0),
        [n] if hours[n] < hours[n - 1] && hours[hours.len() - 1] < hours[0] => Ok(n),
        [n] if hours[n] == hours[n - 1] => Err(n),
        // Having passed midnight, they reach the first again.
        [n] => Err((n..hours.len()).find(|m| hours[*m] >= hours[0]).unwrap_or(n)),
        [_, again, ..] => Err(again),
    }
}

impl ProgramBuilder {
    /// Sets the clock of the book. Call this before defining anything that depends on it.
    pub fn set_clock(&mut self, clock: Clock) -> Result<(), SemanticError> {
        let Clock { day, start, rate } = clock;
        if !(1.0..=1e7).contains(&day.0) {
            return Err(SemanticError::DayLength(day.0));
        }
        if !(0.0..24.0).contains(&start.0) {
            return Err(SemanticError::NoHour(start.0));
        }
        if self.program().clock().is_some() {
            return Err(SemanticError::SecondClock);
        }
        if rate.is_nan() || rate.abs() > crate::clock::MOST_RATE {
            return Err(SemanticError::ClockRate(rate));
        }
        self.program_mut().clock = Some(clock);
        Ok(())
    }

    /// A function of numbers only, applied to plain numbers.
    pub fn function(&mut self, of: Pure, all: &[ExprId]) -> Result<ExprId, SemanticError> {
        for argument in all {
            self.expect(*argument, Kind::Number)?;
        }
        self.pure(of, all, Kind::Number)
    }

    /// A function of numbers only.
    pub(super) fn pure(
        &mut self,
        of: Pure,
        all: &[ExprId],
        kind: Kind,
    ) -> Result<ExprId, SemanticError> {
        debug_assert_eq!(all.len(), of.arguments(), "as many as it has");
        self.derived(Op::Pure(of, all.into()), kind)
    }

    /// A signal with this name for a value with several uses; a constant stays a constant.
    pub(super) fn shared(&mut self, name: &str, value: ExprId) -> Result<ExprId, SemanticError> {
        if self.is_known(value) {
            return Ok(value);
        }
        let signal = self.define_signal(name, value)?;
        Ok(self.signal(signal))
    }

    /// The hour or the day count of the game's clock.
    pub fn clock(&mut self, dial: Dial) -> Result<ExprId, SemanticError> {
        if self.program().clock().is_none() {
            return Err(SemanticError::NoClock);
        }
        Ok(self.dial(dial))
    }

    /// A curve over the hours of the day: see [`ProgramBuilder::define_curve`]. Stops ascend and
    /// cross midnight at most once. From the last stop the curve continues over midnight to the
    /// first, with the first stop's easing.
    pub fn define_day(
        &mut self,
        name: &str,
        kind: Kind,
        linear: bool,
        stops: &[(Place, Constant, Easing)],
    ) -> Result<Track, SemanticError> {
        if self.program().clock().is_none() {
            return Err(SemanticError::NoClock);
        }
        if let Some((at, ..)) = stops.iter().find(|(at, ..)| !(0.0..24.0).contains(&at.0)) {
            return Err(SemanticError::NoHour(at.0));
        }
        let hours: Vec<f64> = stops.iter().map(|(at, ..)| at.0).collect();
        let midnight = past_midnight(&hours, true).map_err(SemanticError::DayOrder)?;
        let mut day = stops.to_vec();
        day.rotate_left(midnight);
        if let (Some(first), Some(last)) = (day.first().copied(), day.last().copied())
            && day.len() > 1
        {
            day.insert(0, (Place(last.0.0 - 24.0), last.1, Easing::Linear));
            day.push((Place(first.0.0 + 24.0), first.1, first.2));
        }
        let count = stops.len();
        let written = |n: usize| (n + count - 1 + midnight) % count;
        self.define_curve(name, Domain::Day, kind, linear, &day).map_err(|error| match error {
            SemanticError::Curve(CurveFault::TooClose(n)) => {
                SemanticError::Curve(CurveFault::TooClose(written(n)))
            }
            SemanticError::Curve(CurveFault::Range(n)) => {
                SemanticError::Curve(CurveFault::Range(written(n)))
            }
            other => other,
        })
    }

    /// A curve over the hours of the day, evaluated at the current hour.
    pub fn day_now(&mut self, track: &Track) -> Result<ExprId, SemanticError> {
        let hour = self.clock(Dial::Hour)?;
        self.track_at(track, hour)
    }

    /// A span of hours, 0 outside and 1 inside, and the progress through it, as signals. `change`
    /// describes the transitions at both ends.
    pub fn define_hours(
        &mut self,
        name: &str,
        [from, to]: [ExprId; 2],
        change: Change,
        easing: Easing,
    ) -> Result<[ExprId; 2], SemanticError> {
        for end in [from, to] {
            self.expect(end, Kind::Hour)?;
        }
        let over = change.over.0;
        let crossings = [from, to].map(|end| self.crossing(end));
        if let (Some(from), Some(to)) = (self.scalar(from), self.scalar(to)) {
            let open = crate::sky::hour_of(to - from);
            // Where the sun does not rise, or hardly does, its hours meet.
            let by_sun = crossings.iter().all(Option::is_some);
            if open == 0.0 && !by_sun {
                return Err(SemanticError::EmptyHours);
            }
            let least = open.min(24.0 - open);
            if over > least && !by_sun {
                return Err(SemanticError::HoursTooShort {
                    over: Hours(over),
                    least: Hours(least),
                });
            }
        }
        let hour = self.clock(Dial::Hour)?;
        let lead = self.number(change.lean.lead(over), Kind::Hour)?;
        let (start, end) = (self.hours_before(from, lead)?, self.hours_before(to, lead)?);
        let over = self.number(over, Kind::Hour)?;
        let level = self.pure(Pure::OpenHours, &[hour, start, over, end, over], Kind::Number)?;
        self.note_clip(name, [easing]);
        let level = self.eased_inside(level, easing)?;
        let through = self.pure(Pure::Through, &[hour, from, to], Kind::Number)?;
        let [level, through] = match self.all_day(&crossings)? {
            None => [level, through],
            Some([open, closed]) => {
                let day = self.number(24.0, Kind::Hour)?;
                let passed = self.derived(Op::Subtract(hour, from), Kind::Hour)?;
                let passed = self.round_the_clock(passed, day)?;
                let passed = self.derived(Op::Divide(passed, day), Kind::Number)?;
                let through = self.select(open, passed, through)?;
                [self.always(level, [open, closed])?, through]
            }
        };
        Ok([self.shared(name, level)?, self.shared(&format!("{name}.through"), through)?])
    }

    /// Whether a span between two hours of the sun is open, and whether it is closed, on a whole
    /// day without sunrise or sunset.
    fn all_day(
        &mut self,
        ends: &[Option<Crossing>; 2],
    ) -> Result<Option<[ExprId; 2]>, SemanticError> {
        let [Some(from), Some(to)] = ends else { return Ok(None) };
        if from.rises == to.rises {
            return Ok(None);
        }
        // It does not begin where the sun never crosses the first height, nor end where it never crosses the second.
        let (begins, ends) = (self.stays(from)?, self.stays(to)?);
        let [above, below] = [0.75, -0.75].map(|v| self.number(v, Kind::Number));
        let (above, below) = (above?, below?);
        let (closed, open) = match from.rises {
            true => (self.above(below, begins)?, self.above(ends, above)?),
            false => (self.above(begins, above)?, self.above(below, ends)?),
        };
        Ok(Some([open, closed]))
    }

    /// A level that is 1 if everything is open, otherwise 0 if everything is closed.
    fn always(
        &mut self,
        level: ExprId,
        [open, closed]: [ExprId; 2],
    ) -> Result<ExprId, SemanticError> {
        let (none, full) = (self.number(0.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        let level = self.select(open, full, level)?;
        self.select(closed, none, level)
    }

    /// Whether an hour is between two; the span crosses midnight if the second is earlier.
    pub fn hour_in(
        &mut self,
        hour: ExprId,
        [from, to]: [ExprId; 2],
    ) -> Result<ExprId, SemanticError> {
        for end in [hour, from, to] {
            self.expect(end, Kind::Hour)?;
        }
        let crossings = [from, to].map(|end| self.crossing(end));
        let none = self.number(0.0, Kind::Hour)?;
        let inside = self.pure(Pure::OpenHours, &[hour, from, none, to, none], Kind::Number)?;
        let inside = match self.all_day(&crossings)? {
            None => inside,
            Some(all_day) => self.always(inside, all_day)?,
        };
        let half = self.number(0.5, Kind::Number)?;
        self.above(inside, half)
    }

    /// The phases of the day: each lasts until the next starts, the last until the first.
    /// Transitions are smooth and must not overlap. The weight of each is a signal, and so is their
    /// common tint, if they have tints.
    pub fn define_phases(
        &mut self,
        name: &str,
        phases: &[Phase],
    ) -> Result<(Alternatives, Option<ExprId>), PhaseFault> {
        let whole = |error| PhaseFault { phase: 0, error };
        if phases.len() < 2 {
            return Err(whole(SemanticError::TooFewPhases));
        }
        let hour = self.clock(Dial::Hour).map_err(whole)?;
        let mut hours = Vec::with_capacity(phases.len());
        for (n, phase) in phases.iter().enumerate() {
            let at = |error| PhaseFault { phase: n, error };
            self.expect(phase.from, Kind::Hour).map_err(at)?;
            hours.push(self.scalar(phase.from).ok_or(at(SemanticError::PhaseMoves))?);
        }
        let next = |n: usize| (n + 1) % phases.len();
        past_midnight(&hours, false)
            .map_err(|n| PhaseFault { phase: n, error: SemanticError::PhaseOrder })?;
        let (mut weights, mut at_hand) = (Vec::new(), Vec::new());
        for n in 0..phases.len() {
            let at = |error| PhaseFault { phase: next(n), error };
            let lasts = crate::sky::hour_of(hours[next(n)] - hours[n]);
            let [own, after] = [n, next(n)].map(|n| phases[n].change);
            let leads = [own, after].map(|change| change.lean.lead(change.over.0));
            if own.over.0 - leads[0] + leads[1] > lasts + 1e-9 {
                return Err(at(SemanticError::PhasesMeet));
            }
            let level = |builder: &mut ProgramBuilder,
                         [rise, fall]: [f64; 2],
                         [lead, next_lead]: [f64; 2]| {
                let all = [hours[n] - lead, rise, hours[next(n)] - next_lead, fall];
                let mut made = [hour; 5];
                for (made, v) in made[1..].iter_mut().zip(all) {
                    *made = builder.number(v, Kind::Hour)?;
                }
                builder.pure(Pure::OpenHours, &made, Kind::Number)
            };
            let weight = level(self, [own.over.0, after.over.0], leads).map_err(at)?;
            let weight = self.eased(weight, Easing::Smooth).map_err(at)?;
            let path = format!("{name}.{}", phases[n].name);
            weights.push(self.shared(&path, weight).map_err(at)?);
            let inside = level(self, [0.0, 0.0], [0.0, 0.0]).map_err(at)?;
            let half = self.number(0.5, Kind::Number).map_err(at)?;
            at_hand.push(self.above(inside, half).map_err(at)?);
        }
        let names: Vec<String> = phases.iter().map(|phase| phase.name.clone()).collect();
        let all = Alternatives { names, weights, at_hand };
        let tints: Vec<ExprId> = phases.iter().filter_map(|phase| phase.tint).collect();
        let tint = match tints.len() {
            0 => None,
            n if n == phases.len() => {
                let tint = self.pick(&all, &tints).map_err(whole)?;
                Some(self.shared(&format!("{name}.tint"), tint).map_err(whole)?)
            }
            _ => {
                let phase = phases.iter().position(|phase| phase.tint.is_none()).unwrap_or(0);
                return Err(PhaseFault { phase, error: SemanticError::SomeTints });
            }
        };
        let parts = phases.iter().zip(hours).zip(&all.weights);
        let parts = parts.map(|((phase, hour), weight)| (phase.name.clone(), Hours(hour), *weight));
        let kept = Phases { name: name.to_owned(), parts: parts.collect(), tint };
        self.program_mut().phases.push(kept);
        Ok((all, tint))
    }

    /// Blends one value for each alternative by their weights, colors in OKLab. On or off is taken
    /// from the current alternative.
    pub fn pick(&mut self, of: &Alternatives, values: &[ExprId]) -> Result<ExprId, SemanticError> {
        let first = *values.first().ok_or(SemanticError::NotFinite)?;
        let kind = self.kind(first);
        for value in values {
            self.expect(*value, kind)?;
        }
        if values.iter().all(|value| *value == first) {
            return Ok(first);
        }
        match kind {
            Kind::OnOff | Kind::Hour => {
                let mut made = *values.last().ok_or(SemanticError::NotFinite)?;
                for (value, at_hand) in values.iter().zip(&of.at_hand).rev().skip(1) {
                    made = self.select(*at_hand, *value, made)?;
                }
                Ok(made)
            }
            Kind::Point => self.weighted(&of.weights, values),
            Kind::Color => {
                let mut roots = Vec::with_capacity(3);
                for cone in 0..3 {
                    let mut each = Vec::with_capacity(values.len());
                    for value in values {
                        each.push(self.cone_root(cone, *value)?);
                    }
                    roots.push(self.weighted_inside(&of.weights, &each)?);
                }
                let blend = self.color_of_cones([roots[0], roots[1], roots[2]])?;
                self.program_mut().blends.insert(blend, values.to_vec());
                Ok(blend)
            }
            _ => self.weighted_inside(&of.weights, values),
        }
    }

    fn weighted(&mut self, weights: &[ExprId], values: &[ExprId]) -> Result<ExprId, SemanticError> {
        let mut sum: Option<ExprId> = None;
        for (value, weight) in values.iter().zip(weights) {
            let zero = matches!(self.program().constant(*value), Some(Constant::Scalar(0.0)));
            if zero {
                continue;
            }
            let one = matches!(self.program().constant(*value), Some(Constant::Scalar(1.0)));
            let part = match one && self.kind(*value) == Kind::Number {
                true => *weight,
                false => self.multiply(*value, *weight)?,
            };
            sum = Some(match sum {
                Some(sum) => self.add(sum, part)?,
                None => part,
            });
        }
        sum.ok_or(SemanticError::NotFinite)
    }

    /// Same for numbers, clamped to their range regardless of rounding.
    fn weighted_inside(
        &mut self,
        weights: &[ExprId],
        values: &[ExprId],
    ) -> Result<ExprId, SemanticError> {
        if values
            .iter()
            .all(|v| self.scalar(*v).is_some() && self.scalar(*v) == self.scalar(values[0]))
        {
            return Ok(values[0]);
        }
        if let ([first, second], [_, weight]) = (values, weights) {
            let kind = self.kind(*first);
            return self.derived(Op::Lerp(*first, *second, *weight), kind);
        }
        let sum = self.weighted(weights, values)?;
        let (mut lo, mut hi) = (values[0], values[0]);
        for value in &values[1..] {
            lo = self.min(lo, *value)?;
            hi = self.max(hi, *value)?;
        }
        if self.is_known(lo) && self.is_known(hi) {
            return self.clamp(sum, lo, hi);
        }
        let sum = self.max(sum, lo)?;
        self.min(sum, hi)
    }
}

/// An error in one of the phases.
#[derive(Clone, Debug, PartialEq)]
pub struct PhaseFault {
    /// Index of the phase.
    pub phase: usize,
    /// The error.
    pub error: SemanticError,
}
