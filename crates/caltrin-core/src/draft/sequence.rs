//! Sequences: scripted scenes that events start. A sequence lies over what its lights do of their own accord and
//! gives it back; what it remembers is when it started and when it was stopped.

use super::Draft;
use super::event::{BEFORE_ALL, LONGEST};
use crate::curve::Easing;
use crate::interval::Interval;
use crate::kind::Kind;
use crate::misfit::Misfit;
use crate::program::{Constant, EventId, ExprId, NEVER, Op, Source, Write};
use crate::quantity::Seconds;

/// Most sequences that may hold one channel of a light.
pub const MOST_LAYERS: usize = 3;

/// What a sequence does when it is started while it plays.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Again {
    /// It goes on.
    #[default]
    Ignore,
    /// It begins anew, from the levels that are on then.
    Restart,
}

/// When a sequence starts, ends and is stopped.
#[derive(Clone, Debug, PartialEq)]
pub struct Scene {
    /// What starts it.
    pub at: Vec<EventId>,
    /// What it does when it is started while it plays.
    pub again: Again,
    /// When everything of it is over, from its start.
    pub end: Seconds,
    /// Whether it keeps something for good.
    pub keeps: bool,
    /// What stops it, and how long it takes to give everything back.
    pub stops: Option<(Vec<EventId>, Seconds, Easing)>,
}

/// A sequence.
#[derive(Clone, Debug, PartialEq)]
pub struct Sequence {
    /// When it was started last.
    started: ExprId,
    /// When it was stopped last, and how long it takes then.
    stopped: Option<(ExprId, Seconds, Easing)>,
    /// How far it was when it began anew.
    left: Option<ExprId>,
}

/// A value that a sequence leads a channel to.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stop {
    /// When it is reached, from the start of the sequence.
    pub at: Seconds,
    /// The value.
    pub value: ExprId,
    /// How it is reached.
    pub easing: Easing,
}

/// What a sequence does with a channel.
#[derive(Clone, Debug, PartialEq)]
pub struct Layer {
    /// The values, in the order of time; one at the least.
    pub stops: Vec<Stop>,
    /// When it is given back, over which time and how; `None` where it is kept.
    pub returns: Option<(Seconds, Seconds, Easing)>,
}

impl Draft {
    /// Defines a sequence.
    pub fn define_sequence(&mut self, name: &str, scene: &Scene) -> Result<Sequence, Misfit> {
        let (started, start) =
            self.keep_moment((format!("{name}.started"), "s, when it was started"));
        let stop = scene.stops.as_ref().map(|(_, over, easing)| {
            let kept = self.keep_moment((format!("{name}.stopped"), "s, when it was stopped"));
            (kept, *over, *easing)
        });
        let long = Interval { lo: -4.0 * LONGEST * 1e3, hi: 4.0 * LONGEST * 1e3 };
        let left = (scene.again == Again::Restart || scene.keeps).then(|| {
            self.keep(
                (format!("{name}.left"), "s, how far it was when it began anew"),
                Kind::Time,
                Constant::Scalar(0.0),
                long,
            )
        });
        let sequence = Sequence {
            started: start,
            stopped: stop.map(|((_, value), over, easing)| (value, over, easing)),
            left: left.map(|(_, value)| value),
        };
        let now = self.now();
        let begun = self.begun(start)?;
        let end = self.number(scene.end.0, Kind::Time)?;
        let end = self.add(start, end)?;
        let mut plays = self.above(end, now)?;
        if let Some((stopped, over, _)) = sequence.stopped {
            let over = self.number(over.0, Kind::Time)?;
            let over = self.add(stopped, over)?;
            let fades = self.above(over, now)?;
            let is_stopped = self.is_stopped(&sequence, stopped)?;
            plays = self.choose(is_stopped, fades, plays)?;
        }
        let plays = self.and(begun, plays)?;
        let idle = self.not(plays)?;
        let mut sets = vec![(started, now)];
        if let Some((left, _)) = left {
            let passed = self.subtract(now, start)?;
            let mut holds = if scene.keeps { begun } else { plays };
            if let Some((stopped, ..)) = sequence.stopped {
                let is_stopped = self.is_stopped(&sequence, stopped)?;
                let goes_on = self.not(is_stopped)?;
                holds = self.and(holds, goes_on)?;
            }
            let none = self.number(0.0, Kind::Time)?;
            sets.push((left, self.choose(holds, passed, none)?));
        }
        let when = (scene.again == Again::Ignore).then_some(idle);
        for event in &scene.at {
            let write = Write { when, sets: sets.clone() };
            self.program.events[event.index()].writes.push(write);
        }
        if let (Some((events, ..)), Some(((stopped, value), ..))) = (&scene.stops, stop) {
            let is_stopped = self.is_stopped(&sequence, value)?;
            let goes_on = self.not(is_stopped)?;
            let mut when = self.and(begun, goes_on)?;
            if !scene.keeps {
                when = self.and(when, plays)?;
            }
            for event in events {
                let write = Write { when: Some(when), sets: vec![(stopped, now)] };
                self.program.events[event.index()].writes.push(write);
            }
        }
        Ok(sequence)
    }

    fn begun(&mut self, start: ExprId) -> Result<ExprId, Misfit> {
        let before_all = self.number(BEFORE_ALL, Kind::Time)?;
        self.above(start, before_all)
    }

    /// Whether a sequence has been stopped since it started.
    fn is_stopped(&mut self, sequence: &Sequence, stopped: ExprId) -> Result<ExprId, Misfit> {
        let before = self.above(sequence.started, stopped)?;
        let begun = self.begun(stopped)?;
        let after = self.not(before)?;
        self.and(begun, after)
    }

    /// Defines an event that happens at a moment of a sequence.
    pub fn define_mark(
        &mut self,
        name: &str,
        sequence: &Sequence,
        at: Seconds,
    ) -> Result<EventId, Misfit> {
        let source = if at.0 == 0.0 { Source::When } else { Source::After };
        let (id, last) = self.new_event(name, source)?;
        let time = self.number(at.0, Kind::Time)?;
        let due = self.add(sequence.started, time)?;
        let begun = self.begun(sequence.started)?;
        let ahead = self.above(due, last)?;
        let mut waits = self.and(begun, ahead)?;
        if let Some((stopped, ..)) = sequence.stopped {
            let is_stopped = self.is_stopped(sequence, stopped)?;
            let goes_on = self.not(is_stopped)?;
            waits = self.and(waits, goes_on)?;
        }
        let never = self.number(NEVER, Kind::Time)?;
        let due = self.choose(waits, due, never)?;
        self.program.events[id.index()].due = Some(due);
        Ok(id)
    }

    /// What a channel is with sequences over it, of which that which started last lies on top.
    pub fn layered(
        &mut self,
        layers: &[(&Sequence, Layer)],
        base: ExprId,
    ) -> Result<ExprId, Misfit> {
        if layers.len() > MOST_LAYERS {
            return Err(Misfit::TooManyLayers(MOST_LAYERS));
        }
        if let [(sequence, layer)] = layers {
            return self.over(sequence, layer, base);
        }
        // How many of the others lie beneath each.
        let (one, none) = (self.number(1.0, Kind::Number)?, self.number(0.0, Kind::Number)?);
        let mut ranks = Vec::with_capacity(layers.len());
        for (n, (own, _)) in layers.iter().enumerate() {
            let mut rank = none;
            for (m, (other, _)) in layers.iter().enumerate().filter(|(m, _)| *m != n) {
                // At one moment that which stands later lies on top.
                let above = match m < n {
                    true => {
                        let below = self.above(other.started, own.started)?;
                        self.not(below)?
                    }
                    false => self.above(own.started, other.started)?,
                };
                let step = self.choose(above, one, none)?;
                rank = self.add(rank, step)?;
            }
            ranks.push(rank);
        }
        let mut value = base;
        for level in 0..layers.len() {
            let nth = self.number(level as f64, Kind::Number)?;
            let mut made: Option<ExprId> = None;
            for ((sequence, layer), rank) in layers.iter().zip(&ranks).rev() {
                let over = self.over(sequence, layer, value)?;
                made = Some(match made {
                    None => over,
                    Some(others) => {
                        let same = self.derived(Op::Same(*rank, nth), Kind::OnOff)?;
                        self.choose(same, over, others)?
                    }
                });
            }
            value = made.unwrap_or(value);
        }
        Ok(value)
    }

    /// What a channel is with a sequence over it.
    fn over(&mut self, sequence: &Sequence, layer: &Layer, base: ExprId) -> Result<ExprId, Misfit> {
        let (now, started) = (self.now(), sequence.started);
        let begun = self.begun(started)?;
        let mut moment = now;
        let mut stop = None;
        if let Some((stopped, over, easing)) = sequence.stopped {
            let is_stopped = self.is_stopped(sequence, stopped)?;
            let frozen = self.least(now, stopped)?;
            moment = self.choose(is_stopped, frozen, now)?;
            stop = Some((is_stopped, stopped, over, easing));
        }
        let mut from = base;
        if let Some(left) = sequence.left {
            let before = self.add(started, left)?;
            let before = self.played_over(started, layer, [base, base], before)?;
            let none = self.number(0.0, Kind::Time)?;
            let anew = self.above(left, none)?;
            from = self.choose(anew, before, base)?;
        }
        let mut value = self.played_over(started, layer, [base, from], moment)?;
        if let Some((is_stopped, stopped, over, easing)) = stop {
            let mut given_back = base;
            if over.0 > 0.0 {
                let time = self.number(over.0, Kind::Time)?;
                let end = self.add(stopped, time)?;
                let goes_on = self.above(end, now)?;
                let fades = self.towards([value, base], [now, stopped], over, easing)?;
                given_back = self.choose(goes_on, fades, base)?;
            }
            value = self.choose(is_stopped, given_back, value)?;
        }
        self.choose(begun, value, base)
    }

    /// From one value to another: how much of the time since a moment has passed at another, eased.
    fn towards(
        &mut self,
        [from, to]: [ExprId; 2],
        [at, since]: [ExprId; 2],
        over: Seconds,
        easing: Easing,
    ) -> Result<ExprId, Misfit> {
        if self.kind(from) == Kind::OnOff || from == to {
            return Ok(from);
        }
        let (passed, time) = (self.subtract(at, since)?, self.number(over.0, Kind::Time)?);
        let u = self.divide(passed, time)?;
        let u = self.eased(u, easing)?;
        self.between(from, to, u, false)
    }

    /// What a layer gives at a moment of the run, begun at another; `from` is what its first stop is reached from.
    fn played_over(
        &mut self,
        started: ExprId,
        layer: &Layer,
        [base, from]: [ExprId; 2],
        moment: ExprId,
    ) -> Result<ExprId, Misfit> {
        let after = |draft: &mut Self, time: f64| {
            let time = draft.number(time, Kind::Time)?;
            draft.add(started, time)
        };
        let last = layer.stops.last().ok_or(Misfit::NotFinite)?;
        let mut value = last.value;
        if let Some((at, over, easing)) = layer.returns {
            let begins = after(self, at.0)?;
            let mut back = base;
            if over.0 > 0.0 {
                let ends = after(self, at.0 + over.0)?;
                let goes_on = self.above(ends, moment)?;
                let fades = self.towards([value, base], [moment, begins], over, easing)?;
                back = self.choose(goes_on, fades, base)?;
            }
            let before = self.above(begins, moment)?;
            value = self.choose(before, value, back)?;
        }
        for n in (0..layer.stops.len()).rev() {
            let stop = layer.stops[n];
            let (begins, before) = match n.checked_sub(1) {
                Some(n) => (layer.stops[n].at.0, layer.stops[n].value),
                None => (0.0, from),
            };
            let lasts = stop.at.0 - begins;
            if lasts <= 0.0 {
                continue;
            }
            let reaches = match stop.easing {
                Easing::Jump => before,
                easing => {
                    let since = after(self, begins)?;
                    let ends = [before, stop.value];
                    self.towards(ends, [moment, since], Seconds(lasts), easing)?
                }
            };
            let end = after(self, stop.at.0)?;
            let ahead = self.above(end, moment)?;
            value = self.choose(ahead, reaches, value)?;
        }
        Ok(value)
    }
}
