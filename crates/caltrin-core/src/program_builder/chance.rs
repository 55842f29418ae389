//! Randomness, waves and time: random values, periodic values, and values at another time.

use crate::curve::Easing;
use crate::kernel;
use crate::kind::{ChangeRate, InstanceLevel, Kind};
use crate::program::{Constant, CurveId, Domain, ExprId, Op, Site, Start, Turn, Wave};
use crate::quantity::{Place, Seconds};
use crate::semantic_error::SemanticError;

use super::{Owner, ProgramBuilder, Track, Use, draws_of};

impl ProgramBuilder {
    /// Counts a call of a random function. Called before its arguments are lowered, so that calls
    /// are counted in reading order.
    pub fn use_of(&self, owner: &mut Owner, callee: &str) -> Use {
        Use(owner.step(callee))
    }

    pub(super) fn site(&mut self, owner: &Owner, path: &Use) -> Site {
        let mut place = 0u32;
        for byte in path.0.bytes() {
            place = kernel::scramble((place ^ u32::from(byte)).wrapping_add(0x9E37_79B9));
        }
        while self.sites.get(&place).is_some_and(|known| *known != path.0) {
            place = kernel::scramble(place.wrapping_add(1));
        }
        self.sites.insert(place, path.0.clone());
        Site { place, scope: owner.scope }
    }

    /// A random level 0..1, sampled again after random times between `shortest` and `longest`.
    /// `over` is the fraction of that time spent moving to it.
    pub fn held(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        [shortest, longest]: [ExprId; 2],
        over: Option<ExprId>,
    ) -> Result<ExprId, SemanticError> {
        if let Some(part) = over {
            self.expect(part, Kind::Number)?;
            self.hold_to(owner, part, ChangeRate::Fixed, "the part over which a level is reached")?;
        }
        for time in [shortest, longest] {
            self.expect(time, Kind::Time)?;
            self.hold_to(owner, time, ChangeRate::Constant, "the time between draws")?;
        }
        self.rising(shortest, longest)?;
        if let Some(v) = self.scalar(shortest)
            && v < 0.0
        {
            return Err(SemanticError::NegativeTime(v));
        }
        if let Some(v) = self.scalar(longest)
            && v < 2e-6
        {
            return Err(SemanticError::TooShort(v));
        }
        let site = self.site(owner, place);
        let op = match over {
            Some(part) => Op::SmoothHold(shortest, longest, part, site),
            None => Op::SampleAndHold(shortest, longest, site),
        };
        Ok(self.push(op, Kind::Number, ChangeRate::Flowing, owner.scope, true))
    }

    /// A random level 0..1 for each value of a counter: the count-th second of a level held for a
    /// second each. `what` names the call for its random key.
    pub(super) fn random_per_count(
        &mut self,
        owner: &mut Owner,
        what: &str,
        count: ExprId,
    ) -> Result<ExprId, SemanticError> {
        let place = self.use_of(owner, what);
        self.level_per_count(owner, &place, count)
    }

    /// [`Self::random_per_count`] of a call that was counted.
    fn level_per_count(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        count: ExprId,
    ) -> Result<ExprId, SemanticError> {
        let second = self.number(1.0, Kind::Time)?;
        let level = self.held(owner, place, [second, second], None)?;
        let moment = self.multiply(second, count)?;
        self.derived(Op::Moment(level, moment), Kind::Number)
    }

    /// The index of the one of `count` equal parts of 0 to 1 that contains a level.
    pub(super) fn part_of(&mut self, level: ExprId, count: u32) -> Result<ExprId, SemanticError> {
        let (none, one) = (self.number(0.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        if count == 1 {
            return Ok(none);
        }
        let (most, count) = (f64::from(count) - 1.0, self.number(f64::from(count), Kind::Number)?);
        let most = self.number(most, Kind::Number)?;
        let scaled = self.multiply(level, count)?;
        let rest = Op::Looped(Turn::Loop, Start::Together, scaled, one);
        let rest = self.derived(rest, Kind::Number)?;
        let part = self.subtract(scaled, rest)?;
        self.clamp(part, none, most)
    }

    /// [`Self::part_of`] without the part with the index `last`; with it if `last` is negative.
    /// `count` is at least 2.
    pub(super) fn another_part(
        &mut self,
        level: ExprId,
        last: ExprId,
        count: u32,
    ) -> Result<ExprId, SemanticError> {
        let any = self.part_of(level, count)?;
        // One of the others: indices from the last one on are moved up by one.
        let other = self.part_of(level, count - 1)?;
        let one = self.number(1.0, Kind::Number)?;
        let moved = self.add(other, one)?;
        let before = self.above(last, other)?;
        let other = self.select(before, other, moved)?;
        let none = self.number(0.0, Kind::Number)?;
        let first = self.above(none, last)?;
        self.select(first, any, other)
    }

    /// Smooth noise, 0..1.
    pub fn drift(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        rate: ExprId,
        octaves: f64,
    ) -> Result<ExprId, SemanticError> {
        self.expect(rate, Kind::Rate)?;
        self.hold_to(owner, rate, ChangeRate::Fixed, "the rate")?;
        if !(1.0..=6.0).contains(&octaves) || octaves.fract() != 0.0 {
            return Err(SemanticError::Octaves(octaves));
        }
        let site = self.site(owner, place);
        let op = Op::Drift(rate, octaves as u32, site);
        Ok(self.push(op, Kind::Number, ChangeRate::Flowing, owner.scope, true))
    }

    /// A smooth random displacement within a ball.
    pub fn wander(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        radius: ExprId,
        rate: ExprId,
        octaves: f64,
    ) -> Result<ExprId, SemanticError> {
        self.expect(radius, Kind::Length)?;
        self.hold_to(owner, radius, ChangeRate::Flowing, "the radius")?;
        let (two, one) = (self.number(2.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        let mut parts = Vec::with_capacity(3);
        for axis in ["x", "y", "z"] {
            let place = Use(format!("{}/{axis}", place.0));
            let level = self.drift(owner, &place, rate, octaves)?;
            let double = self.multiply(level, two)?;
            parts.push(self.subtract(double, one)?);
        }
        self.derived(Op::InBall([parts[0], parts[1], parts[2]], radius), Kind::Point)
    }

    /// 1 during a burst, otherwise 0. Durations are uniformly distributed in their ranges and come
    /// from tables; the key selects where each cycle starts in them.
    pub fn bursts(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        on: [ExprId; 2],
        off: [ExprId; 2],
    ) -> Result<ExprId, SemanticError> {
        for times in [on, off] {
            for time in times {
                self.expect(time, Kind::Time)?;
                self.hold_to(owner, time, ChangeRate::Constant, "a time of `bursts`")?;
            }
            self.rising(times[0], times[1])?;
        }
        let tables = ["bursts_on", "bursts_off"].map(|name| self.table(name, || draws_of(name)));
        let site = self.site(owner, place);
        let op = Op::Burst([on[0], on[1], off[0], off[1]], tables, site);
        Ok(self.push(op, Kind::Number, ChangeRate::Flowing, owner.scope, true))
    }

    /// A random level 0..1, chosen once per run and lamp; in a notice, each time it is sent.
    pub fn drawn(&mut self, owner: &mut Owner, place: &Use) -> Result<ExprId, SemanticError> {
        if let Some(count) = owner.redrawn {
            return self.level_per_count(owner, place, count);
        }
        Ok(self.drawn_once(owner, place))
    }

    fn drawn_once(&mut self, owner: &Owner, place: &Use) -> ExprId {
        let site = self.site(owner, place);
        self.push(Op::Phase(site), Kind::Number, ChangeRate::Fixed, owner.scope, true)
    }

    /// An item of a list, selected by a level 0..1 (1 excluded).
    pub fn one_of(&mut self, level: ExprId, all: &[ExprId]) -> Result<ExprId, SemanticError> {
        let mut made = *all.last().ok_or(SemanticError::NotFinite)?;
        let count = all.len() as f64;
        for (n, v) in all.iter().enumerate().rev().skip(1) {
            let end = self.number((n + 1) as f64 / count, Kind::Number)?;
            let before = self.above(end, level)?;
            made = self.select(before, *v, made)?;
        }
        Ok(made)
    }

    /// The phase of the run in a period, 0..1, plus `phase` in turns.
    pub fn turns(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        every: ExprId,
        phase: Option<ExprId>,
        start: Start,
    ) -> Result<ExprId, SemanticError> {
        self.expect(every, Kind::Time)?;
        self.hold_to(owner, every, ChangeRate::Fixed, "a period")?;
        let at = self.started(owner, place, every, start)?;
        let turned = self.derived(Op::Looped(Turn::Loop, start, at, every), Kind::Time)?;
        let turns = self.divide_unchecked(turned, every);
        match phase {
            Some(phase) => {
                self.expect(phase, Kind::Number)?;
                self.add(turns, phase)
            }
            None => Ok(turns),
        }
    }

    /// A quotient; validation proves that its divisor is greater than 0.
    pub(super) fn divide_unchecked(&mut self, a: ExprId, b: ExprId) -> ExprId {
        self.push(Op::Divide(a, b), Kind::Number, ChangeRate::Constant, InstanceLevel::Book, false)
    }

    /// A wave's level 0..1 at a phase in turns.
    pub fn wave(&mut self, wave: Wave, turns: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(turns, Kind::Number)?;
        self.derived(Op::Wave(wave, turns), Kind::Number)
    }

    /// 1 for the first fraction `on` of each period, then 0.
    pub fn square(&mut self, turns: ExprId, on: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(turns, Kind::Number)?;
        self.expect(on, Kind::Number)?;
        self.derived(Op::Square(turns, on), Kind::Number)
    }

    /// The run's time, with a random offset within `whole` if the start is scattered.
    pub(super) fn started(
        &mut self,
        owner: &Owner,
        place: &Use,
        whole: ExprId,
        start: Start,
    ) -> Result<ExprId, SemanticError> {
        let now = self.now();
        if start != Start::Scattered {
            return Ok(now);
        }
        let phase = self.drawn_once(owner, place);
        let shift = self.multiply(whole, phase)?;
        self.add(now, shift)
    }

    /// A phase, advanced and wrapped.
    pub fn turned_on(
        &mut self,
        at: ExprId,
        by: ExprId,
        period: ExprId,
    ) -> Result<ExprId, SemanticError> {
        let moved = self.add(at, by)?;
        self.derived(Op::Looped(Turn::Loop, Start::Together, moved, period), Kind::Time)
    }

    /// A value at another time.
    pub fn at_moment(&mut self, value: ExprId, moment: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(moment, Kind::Time)?;
        let expr = self.program.expr(value);
        if expr.change_rate < ChangeRate::Flowing && expr.parameters == 0 {
            return Ok(value);
        }
        let lo = self.number(-kernel::LAST_MOMENT, Kind::Time)?;
        let hi = self.number(kernel::LAST_MOMENT, Kind::Time)?;
        let kept = self.derived(Op::Clamp(moment, lo, hi), Kind::Time)?;
        let kind = self.kind(value);
        self.derived(Op::Moment(value, kept), kind)
    }

    /// A value delayed by `by`; a negative delay looks ahead.
    pub fn later(&mut self, value: ExprId, by: ExprId) -> Result<ExprId, SemanticError> {
        let now = self.now();
        let then = self.subtract(now, by)?;
        self.at_moment(value, then)
    }

    /// A value delayed by `each` more from lamp to lamp.
    pub fn later_each(
        &mut self,
        owner: &Owner,
        value: ExprId,
        each: ExprId,
    ) -> Result<ExprId, SemanticError> {
        let by = self.times_index(owner, each)?;
        self.later(value, by)
    }

    /// A time per lamp, multiplied by the lamp's index.
    pub fn times_index(&mut self, owner: &Owner, each: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(each, Kind::Time)?;
        let index = self.index(owner)?;
        self.multiply(each, index)
    }

    /// A value stretched in time by the factor `by`.
    pub fn stretched(&mut self, value: ExprId, by: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(by, Kind::Number)?;
        let now = self.now();
        let then = self.divide(now, by)?;
        self.at_moment(value, then)
    }

    /// A value sampled at multiples of a time.
    pub fn stepped(&mut self, value: ExprId, every: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(every, Kind::Time)?;
        let now = self.now();
        let turned = Op::Looped(Turn::Loop, Start::Together, now, every);
        let passed = self.derived(turned, Kind::Time)?;
        let then = self.subtract(now, passed)?;
        self.at_moment(value, then)
    }

    /// A curve played once from the start of the run.
    pub fn once(&mut self, curve: CurveId) -> ExprId {
        let now = self.now();
        self.curve_at(curve, now)
    }

    /// A curve of 1 (on) and 0 (off) with these durations, in seconds, and its length.
    pub fn rhythm(
        &mut self,
        name: &str,
        times: &[(bool, f64)],
    ) -> Result<(Track, Seconds), SemanticError> {
        let level = |on: bool| Constant::Scalar(f64::from(u8::from(on)));
        let mut end = 0.0;
        let mut stops = Vec::with_capacity(times.len() + 1);
        for (on, length) in times {
            if !length.is_finite() || *length < 1e-3 {
                return Err(SemanticError::NoPeriod { what: "a time of a rhythm", lo: *length });
            }
            stops.push((Place(end), level(*on), Easing::Jump));
            end += length;
        }
        let first = times.first().is_some_and(|(on, _)| *on);
        stops.push((Place(end), level(first), Easing::Jump));
        let name = format!("{name}_rhythm");
        let track = self.define_curve(&name, Domain::Time, Kind::Number, false, &stops)?;
        for curve in &track.curves {
            self.program.curves[curve.index()].led = true;
        }
        Ok((track, Seconds(end)))
    }

    /// The position in a looping curve or part of a curve; `place` is used if the start is
    /// scattered.
    pub fn turning(
        &mut self,
        owner: &Owner,
        place: &Use,
        length: Seconds,
        part: Option<[ExprId; 2]>,
        turn: Turn,
        start: Start,
    ) -> Result<ExprId, SemanticError> {
        let mut bounds = [0.0, length.0];
        if let Some([from, to]) = part {
            for (bound, v) in bounds.iter_mut().zip([from, to]) {
                self.expect(v, Kind::Time)?;
                *bound = self.scalar(v).ok_or(SemanticError::TooLively {
                    role: "a part of a curve".to_owned(),
                    limit: ChangeRate::Constant,
                    found: ChangeRate::Fixed,
                })?;
            }
            self.rising(from, to)?;
            let [from, to] = bounds;
            if from < 0.0 || to > length.0 || to - from < 1e-3 {
                return Err(SemanticError::PartOutside { length: length.0, from, to });
            }
        }
        let [from, to] = bounds;
        let period = self.number(to - from, Kind::Time)?;
        let whole = match turn {
            Turn::Loop => period,
            Turn::Alternate => self.number(2.0 * (to - from), Kind::Time)?,
        };
        let at = self.started(owner, place, whole, start)?;
        let turned = self.derived(Op::Looped(turn, start, at, period), Kind::Time)?;
        if from == 0.0 {
            return Ok(turned);
        }
        let from = self.number(from, Kind::Time)?;
        self.add(from, turned)
    }
}
