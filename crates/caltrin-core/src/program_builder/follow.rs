//! What goes with values that the game sets: followed with a delay, at a pace, by nearness, since something happened.
//!
//! A value that changes only when something happens is remembered as it was at its last change. What follows from it
//! is a function of the time since, so that frames change nothing.

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

/// How a value is remembered.
struct Last {
    /// What it was at its last change.
    value: ExprId,
    /// When that was.
    since: ExprId,
    /// Whether it has been remembered at all.
    begun: ExprId,
}

impl ProgramBuilder {
    /// The name of what a use of a function remembers.
    pub(super) fn title(place: &Use) -> String {
        let words: Vec<&str> = place.0.split('/').filter(|word| !word.is_empty()).collect();
        words.join(".")
    }

    /// The name of what a use of a function remembers that has no chance.
    pub fn title_of(&mut self, owner: &mut Owner, callee: &str) -> String {
        Self::title(&self.use_of(owner, callee))
    }

    /// What of a value is remembered must change only when something happens, and know no caller.
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

    /// Whose it is what is remembered of a value: the book's, where the value is.
    fn home_of(&mut self, owner: &Owner, value: ExprId) -> Result<EventOwner, SemanticError> {
        match self.program.expr(value).scope {
            InstanceLevel::Book => Ok(self.go_home(EventOwner::BOOK)),
            InstanceLevel::Instance(_) | InstanceLevel::Lamp => self.at_home(owner),
        }
    }

    /// Remembers a value as it is at each of its changes, and what goes with it: a name, what it means, its kind and
    /// bounds, and its new value, made of how the first was remembered.
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

    /// A value that rises and falls toward another one with a delay: after each time of attack or release it is nearer
    /// by all but 1/e. It begins there.
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

    /// A value as it would be if time went by as fast as another one says: 1 as it does, 0 it stands still.
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

    /// 1 where two points lie closer than one length, 0 where they lie farther apart than another, and between those
    /// what lies between.
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

    /// A value whose time counts from another moment: from the start of the run until that has come.
    pub fn since(&mut self, value: ExprId, moment: ExprId) -> Result<ExprId, SemanticError> {
        let (now, before_all) = (self.now(), self.number(BEFORE_ALL, Kind::Time)?);
        let begun = self.above(moment, before_all)?;
        let none = self.number(0.0, Kind::Time)?;
        let from = self.select(begun, moment, none)?;
        let then = self.subtract(now, from)?;
        self.at_moment(value, then)
    }

    /// When a mode was entered: told by an event, and by how much it counted then. Going back into one that has not faded
    /// out keeps its moment.
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

    /// Defines an event that happens each time that the clock comes to show an hour, as it goes or as the game drives
    /// it; a clock that is set jumps.
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
