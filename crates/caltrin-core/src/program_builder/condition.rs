//! Conditions: events that occur when a condition becomes true.
//!
//! A condition on values that change only at events is exact: it is evaluated at those events. Any
//! other is sampled 120 times a second, independent of the frame rate. A condition fires at most
//! once in 1/120 s, so two conditions cannot trigger each other forever.

use super::{HourCause, ProgramBuilder};
use crate::interval::Interval;
use crate::kernel::LAST_MOMENT;
use crate::kind::{ChangeRate, Kind};
use crate::program::{Constant, EventId, EventSource, ExprId, NEVER, Op, Write};
use crate::pure::Pure;
use crate::semantic_error::SemanticError;

/// A trigger: a condition that becomes true, or has been true for a time.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Condition {
    /// On or off.
    pub is: ExprId,
    /// How long it must be true; `None` is immediate.
    pub lasts: Option<ExprId>,
}

/// A condition that changes only at events.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Watched {
    /// Whether it was true at the last sample.
    pub holds: ExprId,
    /// Since when it has been true or false.
    pub since: Option<ExprId>,
    /// How long it must be true.
    pub lasts: Option<ExprId>,
}

impl ProgramBuilder {
    /// The first sampling time after a given time.
    pub(super) fn next_look(&mut self, after: ExprId) -> Result<ExprId, SemanticError> {
        self.derived(Op::Pure(Pure::NextLook, [after][..].into()), Kind::Time)
    }

    /// A time if the condition is true, otherwise never; not before the current time.
    pub(super) fn due_where(&mut self, so: ExprId, at: ExprId) -> Result<ExprId, SemanticError> {
        let (now, never) = (self.now(), self.number(NEVER, Kind::Time)?);
        let at = match self.program.expr(at).op {
            Op::Now => at,
            _ => self.max(now, at)?,
        };
        self.select(so, at, never)
    }

    /// An internal event that the book fires itself.
    pub(super) fn within_book(
        &mut self,
        (name, source): (&str, EventSource),
        due: ExprId,
        writes: Vec<Write>,
    ) -> Result<(), SemanticError> {
        let (id, _) = self.new_event(name, source)?;
        let event = &mut self.program.events[id.index()];
        event.due = Some(due);
        event.writes.extend(writes);
        Ok(())
    }

    /// Turns a condition into one that changes only at events, by sampling if necessary, and stores
    /// since when it has been true if a duration is required.
    pub(super) fn watched(&mut self, name: &str, of: Condition) -> Result<Watched, SemanticError> {
        self.expect(of.is, Kind::OnOff)?;
        let exact = self.program.expr(of.is).change_rate <= ChangeRate::Stepwise;
        let Some(lasts) = of.lasts else {
            if exact {
                return Ok(Watched { holds: of.is, since: None, lasts: None });
            }
            let (holds, _) = self.looked_at(name, of.is, exact)?;
            return Ok(Watched { holds, since: None, lasts: None });
        };
        self.known_time(lasts, "how long a condition has to hold")?;
        let (holds, since) = self.looked_at(name, of.is, exact)?;
        Ok(Watched { holds, since: Some(since), lasts: Some(lasts) })
    }

    /// Whether a condition was true at its last sample, and since when it has had that value.
    fn looked_at(
        &mut self,
        name: &str,
        is: ExprId,
        exact: bool,
    ) -> Result<(ExprId, ExprId), SemanticError> {
        let unit = Interval { lo: 0.0, hi: 1.0 };
        let (seen, was) = self.keep(
            (format!("{name}.seen"), "whether the condition was true"),
            Kind::OnOff,
            Constant::OnOff(false),
            unit,
        );
        let (since, since_value) =
            self.keep_moment((format!("{name}.since"), "s, when that became true"));
        let (now, was_not, is_not) = (self.now(), self.not(was)?, self.not(is)?);
        let (begins, ends) = (self.and(is, was_not)?, self.and(is_not, was)?);
        let differs = self.or(begins, ends)?;
        let mut writes = Vec::with_capacity(2);
        let due = if exact {
            let look = self.next_look(since_value)?;
            self.due_where(differs, look)?
        } else {
            // The first look is at the start of the run.
            let bounds = Interval { lo: -LAST_MOMENT, hi: LAST_MOMENT };
            let (looked, looked_value) = self.keep(
                (format!("{name}.looked"), "s, when it was last sampled"),
                Kind::Time,
                Constant::Scalar(-1e-3),
                bounds,
            );
            writes.push(Write::own(None, vec![(looked, now)]));
            self.next_look(looked_value)?
        };
        writes.push(Write::own(Some(differs), vec![(seen, is), (since, now)]));
        let source = if exact { EventSource::Within } else { EventSource::Look };
        self.within_book((&format!("{name}.look"), source), due, writes)?;
        Ok((was, since_value))
    }

    /// When a sampled condition has been true for long enough, at the earliest at a given time;
    /// never if it is false or `so` is off.
    pub(super) fn due_when(
        &mut self,
        watched: Watched,
        so: ExprId,
        earliest: ExprId,
        from: Option<ExprId>,
    ) -> Result<ExprId, SemanticError> {
        let so = self.and(watched.holds, so)?;
        let mut at = earliest;
        if let (Some(since), Some(lasts)) = (watched.since, watched.lasts) {
            let since = match from {
                Some(from) => self.max(since, from)?,
                None => since,
            };
            let end = self.add(since, lasts)?;
            at = self.max(at, end)?;
        }
        self.due_where(so, at)
    }

    /// Defines an event that occurs when a condition becomes true; not if it is true from the
    /// start. It is rearmed when the condition is false, or when `again` is true.
    pub fn define_when(
        &mut self,
        name: &str,
        condition: Condition,
        again: Option<ExprId>,
    ) -> Result<EventId, SemanticError> {
        if condition.lasts.is_none()
            && let Some(known) = self.define_at_crossings(name, condition.is, again)
        {
            return known;
        }
        let watched = self.watched(name, condition)?;
        let back = match again {
            Some(again) => {
                let again = Condition { is: again, lasts: None };
                self.watched(&format!("{name}.again"), again)?.holds
            }
            None => self.not(watched.holds)?,
        };
        let (id, last) = self.new_event(name, EventSource::When)?;
        if condition.lasts.is_none() {
            self.by_hour.insert(id, HourCause::Condition(condition.is, again));
        }
        let (armed, is_armed) = self.keep(
            (format!("{name}.armed"), "whether it is armed"),
            Kind::OnOff,
            Constant::OnOff(false),
            Interval { lo: 0.0, hi: 1.0 },
        );
        let look = self.next_look(last)?;
        let due = self.due_when(watched, is_armed, look, None)?;
        let [off, on] = [false, true].map(|on| self.constant(Constant::OnOff(on), Kind::OnOff));
        let event = &mut self.program.events[id.index()];
        event.due = Some(due);
        event.writes[0].sets.push((armed, off));
        let is_not = self.not(is_armed)?;
        let waits = self.and(is_not, back)?;
        let now = self.now();
        let due = self.due_where(waits, now)?;
        let writes = vec![Write::own(None, vec![(armed, on)])];
        self.within_book((&format!("{name}.arms"), EventSource::Within), due, writes)?;
        Ok(id)
    }
}
