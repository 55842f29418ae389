//! Switches and modes that depend on the hour only: at the start of a run and after the clock is
//! set, they have the state in which the last day would have left them.
//!
//! The hours at which their events occur are computed once, here: those of events at an hour are
//! known, and a condition on values of the hour is sampled through a day. They determine the state
//! after each hour. The state at the book's initial hour becomes the default of the run's state; an
//! internal event writes the others when the game sets the clock.

use rustc_hash::FxHashMap;

use super::modes::{Cause, Rule};
use super::{HourCause, ProgramBuilder};
use crate::kind::Kind;
use crate::program::{
    ByHour, Constant, Dial, Event, EventId, EventOwner, EventSource, ExprId, InputId, Op, Subject,
    Write,
};
use crate::semantic_error::SemanticError;
use crate::sky::hour_of;

/// Samples per day of a condition; shorter periods may be missed.
const LOOKS: usize = 2 * 24 * 60;

/// Precision of the hour of a change, in hours.
const CLOSE: f64 = 1e-7;

/// How long before an hour the clock counts as having reached it, in hours: as
/// [`crate::clock::ClockState::strikes`].
const PASSED: f64 = 1e-9;

/// Maximum number of consecutive changes of mode at one hour.
const MOST_STEPS: usize = 64;

/// The hours of a day at which a condition becomes true and false.
#[derive(Clone, Debug, Default)]
struct Edges {
    at_midnight: bool,
    rises: Vec<f64>,
    falls: Vec<f64>,
}

impl Edges {
    fn all(&self) -> impl Iterator<Item = f64> {
        self.rises.iter().chain(&self.falls).copied()
    }

    /// Whether it is true at an hour.
    fn holds(&self, hour: f64) -> bool {
        let last = |all: &[f64]| all.iter().copied().rfind(|at| *at <= hour + PASSED);
        match (last(&self.rises), last(&self.falls)) {
            (None, None) => self.at_midnight,
            (rise, fall) => rise > fall,
        }
    }
}

impl ProgramBuilder {
    /// The value of an expression at an hour, if it depends on the hour only.
    fn at_hour(
        &self,
        id: ExprId,
        hour: f64,
        seen: &mut FxHashMap<ExprId, Option<Constant>>,
    ) -> Option<Constant> {
        if let Some(known) = seen.get(&id) {
            return *known;
        }
        let op = &self.program().expr(id).op;
        let value = match op {
            Op::Clock(Dial::Hour) => Some(Constant::Scalar(hour)),
            Op::Signal(signal) => self.at_hour(self.program().signal(*signal).value, hour, seen),
            Op::Curve(curve, at) => match self.at_hour(*at, hour, seen) {
                Some(Constant::Scalar(at)) => {
                    Some(Constant::Scalar(self.program().curve(*curve).curve.at(at)))
                }
                _ => None,
            },
            op => {
                for operand in op.operands() {
                    self.at_hour(operand, hour, seen);
                }
                self.fold_with(op, |id| seen.get(&id).copied().flatten())
            }
        };
        seen.insert(id, value);
        value
    }

    fn holds_at(&self, condition: ExprId, hour: f64) -> Option<bool> {
        match self.at_hour(condition, hour, &mut FxHashMap::default()) {
            Some(Constant::OnOff(on)) => Some(on),
            _ => None,
        }
    }

    /// The hours at which a condition becomes true and false, if it depends on the hour only.
    fn edges(&self, condition: ExprId) -> Option<Edges> {
        let mut edges = Edges { at_midnight: self.holds_at(condition, 0.0)?, ..Edges::default() };
        let mut before = (0.0, edges.at_midnight);
        for n in 1..=LOOKS {
            let hour = 24.0 * n as f64 / LOOKS as f64;
            let holds = match n {
                LOOKS => edges.at_midnight,
                _ => self.holds_at(condition, hour)?,
            };
            if holds != before.1 {
                let (mut lo, mut hi) = (before.0, hour);
                while hi - lo > CLOSE {
                    let middle = 0.5 * (lo + hi);
                    match self.holds_at(condition, middle)? == holds {
                        true => hi = middle,
                        false => lo = middle,
                    }
                }
                if holds { &mut edges.rises } else { &mut edges.falls }.push(hour_of(hi));
            }
            before = (hour, holds);
        }
        for all in [&mut edges.rises, &mut edges.falls] {
            all.sort_by(f64::total_cmp);
        }
        Some(edges)
    }

    /// The hours of a day at which an event occurs, in order; `None` if it depends on anything
    /// else.
    fn hours_of(&self, event: EventId) -> Option<Vec<f64>> {
        match *self.by_hour.get(&event)? {
            HourCause::Hour(hour) => Some(vec![hour]),
            HourCause::Condition(is, again) => {
                let is = self.edges(is)?;
                let Some(again) = again else { return Some(is.rises) };
                let again = self.edges(again)?;
                // Two days: the first one finds out whether it can happen at midnight.
                let mut all: Vec<(f64, bool)> = is.rises.iter().map(|at| (*at, true)).collect();
                all.extend(again.rises.iter().map(|at| (*at, false)));
                all.sort_by(|a, b| a.0.total_cmp(&b.0));
                let mut armed = again.at_midnight;
                let mut found = Vec::new();
                for day in 0..2 {
                    for (at, happens) in &all {
                        if !happens {
                            armed = true;
                        } else if armed {
                            armed = again.holds(*at);
                            if day == 1 {
                                found.push(*at);
                            }
                        }
                    }
                }
                Some(found)
            }
        }
    }

    /// Whether an event's condition is true all day, so that it never becomes true.
    fn holds_all_day(&self, event: EventId) -> bool {
        match self.by_hour.get(&event) {
            Some(HourCause::Condition(is, _)) => {
                self.edges(*is).is_some_and(|edges| edges.at_midnight && edges.all().count() == 0)
            }
            _ => false,
        }
    }

    /// The states of a switch and the hours at which they start (1 is on), if they depend on the
    /// hour only.
    pub(super) fn switch_by_hour(
        &self,
        starts: bool,
        lines: &[super::event::Turned],
    ) -> Option<Vec<(f64, usize)>> {
        let mut all: Vec<(f64, usize)> = Vec::new();
        for (n, line) in lines.iter().enumerate() {
            all.extend(self.hours_of(line.at)?.into_iter().map(|hour| (hour, n)));
        }
        if lines.is_empty() {
            return None;
        }
        if all.is_empty() {
            let held = lines.iter().rev().find(|line| self.holds_all_day(line.at));
            return Some(vec![(0.0, usize::from(held.and_then(|line| line.to).unwrap_or(starts)))]);
        }
        all.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut on = starts;
        let mut states = Vec::new();
        for _ in 0..2 {
            states.clear();
            for (hour, n) in &all {
                on = lines[*n].to.unwrap_or(!on);
                states.push((*hour, usize::from(on)));
            }
        }
        Some(states)
    }

    /// The modes and the hours at which they start, if they depend on the hour only.
    pub(super) fn modes_by_hour(&self, count: usize, rules: &[Rule]) -> Option<Vec<(f64, usize)>> {
        let mut at: FxHashMap<EventId, Vec<f64>> = FxHashMap::default();
        let mut when: Vec<Option<Edges>> = Vec::new();
        for rule in rules {
            when.push(match rule.cause {
                Cause::At(event) => {
                    at.insert(event, self.hours_of(event)?);
                    None
                }
                Cause::When(condition) if condition.lasts.is_none() => {
                    Some(self.edges(condition.is)?)
                }
                Cause::When(_) | Cause::After(_) => return None,
            });
        }
        let mut hours: Vec<f64> = at.values().flatten().copied().collect();
        hours.extend(when.iter().flatten().flat_map(Edges::all));
        hours.push(0.0);
        hours.sort_by(f64::total_cmp);
        hours.dedup();
        let mut mode = 0;
        let goes =
            |rule: &Rule, mode: usize| rule.to != mode && rule.from.is_none_or(|from| from == mode);
        let mut states = Vec::new();
        for _ in 0..count + 1 {
            states.clear();
            for hour in &hours {
                let happens = |event: &EventId| at.get(event).is_some_and(|all| all.contains(hour));
                let turned = rules.iter().find(|rule| {
                    matches!(&rule.cause, Cause::At(event) if happens(event)) && goes(rule, mode)
                });
                mode = turned.map_or(mode, |rule| rule.to);
                let mut steps = 0;
                while let Some((rule, _)) = rules.iter().zip(&when).find(|(rule, edges)| {
                    goes(rule, mode) && edges.as_ref().is_some_and(|edges| edges.holds(*hour))
                }) {
                    mode = rule.to;
                    steps += 1;
                    if steps > MOST_STEPS {
                        return None;
                    }
                }
                states.push((*hour, mode));
            }
        }
        Some(states)
    }

    /// Makes the hour determine stored state: the states, the hours at which they start, and the
    /// values stored in each.
    pub(super) fn settle_by_hour(
        &mut self,
        from: Vec<(f64, usize)>,
        states: Vec<Vec<(InputId, Constant)>>,
    ) -> Result<(), SemanticError> {
        let Some(clock) = self.program().clock() else { return Ok(()) };
        let by_hour = ByHour { from, states };
        for (id, value) in by_hour.at(clock.start) {
            self.program_mut().inputs[id.index()].default = *value;
        }
        let event = self.set_event();
        for (state, sets) in by_hour.states.iter().enumerate() {
            let Some(when) = self.in_state(&by_hour, state)? else { continue };
            let kept = |id: &InputId| self.program().input(*id).kind;
            let kinds: Vec<_> = sets.iter().map(|(id, _)| kept(id)).collect();
            let sets = sets.iter().zip(kinds);
            let sets: Vec<_> =
                sets.map(|((id, value), kind)| (*id, self.constant(*value, kind))).collect();
            self.write_at(event, Some(when), sets)?;
        }
        self.program_mut().by_hour.push(by_hour);
        Ok(())
    }

    /// Whether the hour is in a state; `None` if it never is.
    fn in_state(
        &mut self,
        by_hour: &ByHour,
        state: usize,
    ) -> Result<Option<ExprId>, SemanticError> {
        let count = by_hour.from.len();
        let hour = self.dial(Dial::Hour);
        let mut made: Option<ExprId> = None;
        // Hours at which nothing changes are no ends.
        let changes = |n: &usize| by_hour.from[(n + count - 1) % count].1 != by_hour.from[*n].1;
        let ends: Vec<usize> = (0..count).filter(changes).collect();
        if ends.is_empty() {
            let always = self.constant(Constant::OnOff(true), Kind::OnOff);
            return Ok((by_hour.from[0].1 == state).then_some(always));
        }
        for (n, place) in ends.iter().enumerate() {
            let (from, found) = by_hour.from[*place];
            if found != state {
                continue;
            }
            let to = by_hour.from[ends[(n + 1) % ends.len()]].0;
            let [start, end] = [from, to].map(|at| self.number((at - PASSED).max(0.0), Kind::Hour));
            let (start, end) = (start?, end?);
            let early = self.derived(Op::Above(start, hour), Kind::OnOff)?;
            let open = self.derived(Op::Above(end, hour), Kind::OnOff)?;
            let late = self.not(early)?;
            let inside = if from < to { self.and(late, open)? } else { self.or(late, open)? };
            made = Some(match made {
                Some(other) => self.or(other, inside)?,
                None => inside,
            });
        }
        Ok(made)
    }

    /// The event that the clock was set, created on first use.
    fn set_event(&mut self) -> EventId {
        if let Some(id) = self.program().set_event {
            return id;
        }
        let home = self.go_home(EventOwner::BOOK);
        let (last, last_value) =
            self.keep_moment(("clock.set.last".to_owned(), "s, when the clock was set last"));
        let id = EventId(self.program().events.len() as u32);
        let now = self.now();
        let event = Event {
            name: "clock.set".to_owned(),
            source: EventSource::Set,
            last,
            last_value,
            values: Vec::new(),
            due: None,
            writes: vec![Write::own(None, vec![(last, now)])],
            home: EventOwner::BOOK,
        };
        self.go_home(home);
        let program = self.program_mut();
        program.events.push(event);
        program.order.push(Subject::Event(id));
        program.set_event = Some(id);
        id
    }
}
