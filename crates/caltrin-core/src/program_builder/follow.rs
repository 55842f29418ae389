//! Values that follow what the game sets: smoothing, playback rate, proximity, time since an event.
//!
//! The state of a value that changes only at events is its value at the last change. The result is
//! a function of the time since then, so the frame rate does not affect it.

use super::event::BEFORE_ALL;
use super::{HourCause, Owner, ProgramBuilder, Use};
use crate::bounds::RangeAnalysis;
use crate::curve::Easing;
use crate::interval::Interval;
use crate::kernel::LAST_MOMENT;
use crate::kind::{ChangeRate, InstanceLevel, Kind};
use crate::program::{Constant, EventId, EventOwner, EventSource, ExprId, Op, Write};
use crate::pure::Pure;
use crate::quantity::Hours;
use crate::semantic_error::SemanticError;

/// The state of a followed value.
struct Last {
    /// The value at its last change.
    value: ExprId,
    /// The time of its last change.
    since: ExprId,
    /// Whether it was stored at all.
    begun: ExprId,
}

impl ProgramBuilder {
    /// The name of the state of a function call.
    pub(super) fn title(place: &Use) -> String {
        let words: Vec<&str> = place.0.split('/').filter(|word| !word.is_empty()).collect();
        words.join(".")
    }

    /// The name of the state of a function call without randomness.
    pub fn title_of(&mut self, owner: &mut Owner, callee: &str) -> String {
        Self::title(&self.use_of(owner, callee))
    }

    /// Checks that a stored value changes only at events and does not depend on a caller.
    pub(super) fn expect_led(&self, value: ExprId, role: &str) -> Result<(), SemanticError> {
        let expr = self.program.expr(value);
        if expr.parameters != 0 {
            return Err(SemanticError::KeptInBehavior(role.to_owned()));
        }
        match expr.change_rate {
            found if found > ChangeRate::Stepwise => {
                let (role, limit) = (role.to_owned(), ChangeRate::Stepwise);
                Err(SemanticError::TooLively { role, limit, found })
            }
            _ => Ok(()),
        }
    }

    /// The owner of a value's state: the book, if the value is the book's.
    fn home_of(&mut self, owner: &Owner, value: ExprId) -> Result<EventOwner, SemanticError> {
        match self.program.expr(value).scope {
            InstanceLevel::Book => Ok(self.go_home(EventOwner::BOOK)),
            InstanceLevel::Instance(_) | InstanceLevel::Lamp => self.at_home(owner),
        }
    }

    /// Stores a value at each of its changes, together with further state: a name, its meaning,
    /// kind and range, and its new value, computed from the previous state.
    fn remember(
        &mut self,
        name: &str,
        value: ExprId,
        (bounds, first): (Interval, f64),
        more: impl FnOnce(&mut Self, &Last) -> Result<(ExprId, Vec<Write>), SemanticError>,
    ) -> Result<ExprId, SemanticError> {
        let kind = self.kind(value);
        let (kept, kept_value) = self.keep(
            (format!("{name}.value"), "its value at the last change"),
            kind,
            Constant::Scalar(first),
            bounds,
        );
        let (since, since_value) =
            self.keep_moment((format!("{name}.since"), "s, when that occurred"));
        let before_all = self.number(BEFORE_ALL, Kind::Time)?;
        let begun = self.above(since_value, before_all)?;
        let last = Last { value: kept_value, since: since_value, begun };
        let (made, writes) = more(self, &last)?;
        let same = self.derived(Op::Equal(value, kept_value), Kind::OnOff)?;
        let known = self.and(begun, same)?;
        let differs = self.not(known)?;
        let now = self.now();
        let due = self.due_where(differs, now)?;
        let mut all = vec![Write::own(None, vec![(kept, value), (since, now)])];
        all.extend(writes);
        self.within_book((&format!("{name}.changes"), EventSource::Within), due, all)?;
        Ok(made)
    }

    /// A value smoothed with attack and release: the difference shrinks to 1/e within each of these
    /// times. It starts at its target.
    pub fn followed(
        &mut self,
        owner: &Owner,
        place: &Use,
        value: ExprId,
        [attack, release]: [ExprId; 2],
    ) -> Result<ExprId, SemanticError> {
        self.expect_scalar(value)?;
        self.expect_led(value, "the input of `follow`")?;
        for time in [attack, release] {
            self.known_time(time, "the time of attack or release")?;
        }
        let bounds = RangeAnalysis::new(&self.program).loose(value).part(0);
        if !bounds.is_finite() {
            return Err(SemanticError::NotFinite);
        }
        let home = self.home_of(owner, value)?;
        let (name, kind) = (Self::title(place), self.kind(value));
        let means = "the level reached at that time";
        let (from, from_value) =
            self.keep((format!("{name}.from"), means), kind, Constant::Scalar(bounds.lo), bounds);
        let made = self.remember(&name, value, (bounds, bounds.lo), |builder, last| {
            let now = builder.now();
            let passed = builder.subtract(now, last.since)?;
            let rises = builder.above(last.value, from_value)?;
            let time = builder.select(rises, attack, release)?;
            let times = builder.divide(passed, time)?;
            let left = builder.derived(Op::Pure(Pure::Decay, [times][..].into()), Kind::Number)?;
            let level = builder.lerp(last.value, from_value, left, false)?;
            let level = builder.select(last.begun, level, value)?;
            Ok((level, vec![Write::own(None, vec![(from, level)])]))
        });
        self.go_home(home);
        made
    }

    /// A value played at a rate: 1 is normal speed, 0 stops it.
    pub fn paced(
        &mut self,
        owner: &Owner,
        place: &Use,
        value: ExprId,
        by: ExprId,
    ) -> Result<ExprId, SemanticError> {
        self.expect(by, Kind::Number)?;
        self.expect_led(by, "the pace of a value")?;
        let bounds = RangeAnalysis::new(&self.program).loose(by).part(0);
        if bounds.lo < -1e3 || bounds.hi > 1e3 {
            let (lo, hi) = (bounds.lo, bounds.hi);
            return Err(SemanticError::OutOfRange {
                what: "a pace",
                lo,
                hi,
                least: -1e3,
                most: 1e3,
            });
        }
        let home = self.home_of(owner, by)?;
        let name = Self::title(place);
        let times = Interval { lo: -LAST_MOMENT, hi: LAST_MOMENT };
        let (at, at_value) = self.keep(
            (format!("{name}.at"), "s, its scaled time at that moment"),
            Kind::Time,
            Constant::Scalar(0.0),
            times,
        );
        let then = self.remember(&name, by, (bounds, bounds.lo), |builder, last| {
            let now = builder.now();
            let since = builder.select(last.begun, last.since, now)?;
            let passed = builder.subtract(now, since)?;
            let gone = builder.multiply(last.value, passed)?;
            let then = builder.add(at_value, gone)?;
            let [lo, hi] =
                [builder.number(times.lo, Kind::Time)?, builder.number(times.hi, Kind::Time)?];
            let then = builder.clamp(then, lo, hi)?;
            Ok((then, vec![Write::own(None, vec![(at, then)])]))
        });
        self.go_home(home);
        self.at_moment(value, then?)
    }

    /// Proximity of two points: 1 within the first length, 0 beyond the second, eased in between.
    pub fn near(
        &mut self,
        [a, b]: [ExprId; 2],
        [full, none]: [ExprId; 2],
        easing: Easing,
    ) -> Result<ExprId, SemanticError> {
        for point in [a, b] {
            self.expect(point, Kind::Point)?;
        }
        for length in [full, none] {
            self.expect(length, Kind::Length)?;
        }
        let far = self.derived(Op::Distance(a, b), Kind::Length)?;
        let [one, zero] = [self.number(1.0, Kind::Number)?, self.number(0.0, Kind::Number)?];
        self.map(far, [full, none], [one, zero], easing)
    }

    /// A value whose time counts from another time, and from the start of the run before that.
    pub fn since(&mut self, value: ExprId, moment: ExprId) -> Result<ExprId, SemanticError> {
        let (now, before_all) = (self.now(), self.number(BEFORE_ALL, Kind::Time)?);
        let begun = self.above(moment, before_all)?;
        let none = self.number(0.0, Kind::Time)?;
        let from = self.select(begun, moment, none)?;
        let then = self.subtract(now, from)?;
        self.at_moment(value, then)
    }

    /// The time at which a mode was entered, from an event and the mode's weight then. Returning to
    /// a mode that has not faded out keeps its time.
    pub fn entered(
        &mut self,
        event: EventId,
        left: Option<ExprId>,
    ) -> Result<ExprId, SemanticError> {
        let described = self.program.event(event);
        let Some(left) = left else { return Ok(described.last_value) };
        let name = format!("{}.origin", described.name);
        let home = self.go_home(described.home.clone());
        let (origin, value) = self.keep_moment((name, "s, when that was measured"));
        let none = self.number(0.0, Kind::Number)?;
        let counts = self.above(left, none)?;
        let (faded, now) = (self.not(counts)?, self.now());
        let written = self.write_at(event, Some(faded), vec![(origin, now)]);
        self.go_home(home);
        written.map(|()| value)
    }

    /// Defines an event that occurs each time the clock reaches an hour, whether it runs or the
    /// game drives it. Setting the clock is a jump and does not fire it.
    pub fn define_at_hour(&mut self, name: &str, hour: Hours) -> Result<EventId, SemanticError> {
        if self.program.clock.is_none() {
            return Err(SemanticError::NoClock);
        }
        let (id, last) = self.new_event(name, EventSource::Hour)?;
        self.by_hour.insert(id, HourCause::Hour(hour.0));
        let after = self.next_look(last)?;
        let due = self.push(
            Op::NextHour(hour, after),
            Kind::Time,
            ChangeRate::Flowing,
            InstanceLevel::Book,
            false,
        );
        let now = self.now();
        let due = self.max(now, due)?;
        self.program.events[id.index()].due = Some(due);
        Ok(id)
    }
}
