//! Events and what they drive, in the builder.

use std::rc::Rc;

use super::book::Book;
use super::kinds::{Kind, Number, OnOff};
use super::lower::nothing;
use super::{Curve, Tree, Value, make};
use crate::curve::Easing;
use crate::kind::Kind as AnyKind;
use crate::program::{EventId, ExprId};
pub use crate::program_builder::event::Replay;
use crate::program_builder::event::{Switch as Made, Turned};
use crate::program_builder::{Owner, ProgramBuilder};
use crate::quantity::Seconds;
use crate::semantic_error::SemanticError;

/// An event of a book.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Event {
    /// None where the event was refused.
    id: Option<EventId>,
}

impl Event {
    /// One that was refused.
    pub(super) fn refused() -> Self {
        Event { id: None }
    }

    /// Its id in the program; `None` where it was refused.
    pub fn id(self) -> Option<EventId> {
        self.id
    }
}

/// What turns a switch, and how it is reached.
#[derive(Clone, Debug, Default)]
pub struct Turns {
    starts: bool,
    lines: Vec<(Event, Option<bool>, Seconds, Easing)>,
}

impl Turns {
    /// It is off at the start of the run.
    pub fn starting_off() -> Self {
        Turns::default()
    }

    /// It is on at the start of the run.
    pub fn starting_on() -> Self {
        Turns { starts: true, lines: Vec::new() }
    }

    /// An event turns it on, over a time; 0 for at once.
    pub fn on(mut self, at: Event, over: Seconds, easing: Easing) -> Self {
        self.lines.push((at, Some(true), over, easing));
        self
    }

    /// An event turns it off.
    pub fn off(mut self, at: Event, over: Seconds, easing: Easing) -> Self {
        self.lines.push((at, Some(false), over, easing));
        self
    }

    /// An event turns it the other way.
    pub fn flip(mut self, at: Event, over: Seconds, easing: Easing) -> Self {
        self.lines.push((at, None, over, easing));
        self
    }
}

/// A switch of a book.
#[derive(Clone, Debug)]
pub struct Switch {
    /// How far it is on, 0 to 1.
    pub level: Value<Number>,
    /// Whether it is on, or on its way there.
    pub on: Value<OnOff>,
}

impl Book {
    pub(super) fn event_of(&mut self, name: &str, made: Result<EventId, SemanticError>) -> Event {
        match made {
            Ok(id) => Event { id: Some(id) },
            Err(error) => {
                self.refuse(&format!("event `{name}`"), error);
                Event { id: None }
            }
        }
    }

    /// An event that the game fires.
    pub fn event(&mut self, name: &str) -> Event {
        let made = self.builder.define_event(name);
        self.event_of(name, made)
    }

    /// An event that happens again and again, each time after a time between these two.
    pub fn event_every(&mut self, name: &str, shortest: Seconds, longest: Seconds) -> Event {
        let made = (|| {
            let ends = [
                self.builder.number(shortest.0, AnyKind::Time)?,
                self.builder.number(longest.0, AnyKind::Time)?,
            ];
            self.builder.define_every(name, &mut Owner::book(name), ends, None)
        })();
        self.event_of(name, made)
    }

    /// An event that happens some time after another, or after the start of the run.
    pub fn event_after(&mut self, name: &str, time: Seconds, from: Option<Event>) -> Event {
        let from = match from {
            // One that was refused is reported already.
            Some(Event { id: None }) => return Event { id: None },
            from => from.and_then(Event::id),
        };
        let made = (|| {
            let time = self.builder.number(time.0, AnyKind::Time)?;
            self.builder.define_after(name, time, from)
        })();
        self.event_of(name, made)
    }

    /// A switch that events turn.
    pub fn switch(&mut self, name: &str, turns: Turns) -> Switch {
        let lines = turns.lines.iter().filter_map(|(at, to, over, easing)| {
            Some(Turned { at: at.id?, to: *to, over: *over, easing: *easing })
        });
        match self.builder.define_switch(name, turns.starts, &lines.collect::<Vec<_>>()) {
            Ok(Made { level, on, .. }) => {
                Switch { level: make(Tree::Made(level)), on: make(Tree::Made(on)) }
            }
            Err(error) => {
                self.refuse(&format!("switch `{name}`"), error);
                Switch { level: super::number(0.0), on: super::on_off(turns.starts) }
            }
        }
    }
}

/// 1 for a time after each time that an event happens, otherwise 0.
pub fn pulse(at: Event, lasts: Seconds) -> Value<Number> {
    make(Tree::Pulse(at.id, lasts))
}

impl<K: Kind> Curve<K> {
    /// Played from the last time on that an event happened; `before` until then. Without it the curve must end
    /// where it starts.
    pub fn played_at(&self, at: Event, before: Option<Value<K>>) -> Value<K> {
        self.replayed_at(at, Replay::Restart, before)
    }

    /// The same with what it does when the event happens again meanwhile.
    pub fn replayed_at(&self, at: Event, again: Replay, before: Option<Value<K>>) -> Value<K> {
        let before = before.map(|before| before.node);
        make(Tree::PlayedAt(Rc::clone(&self.track), at.id, again, before))
    }
}

/// A pulse; of an event that was refused, nothing.
pub(super) fn lower_pulse(
    builder: &mut ProgramBuilder,
    at: Option<EventId>,
    lasts: Seconds,
) -> Result<ExprId, SemanticError> {
    match at {
        Some(at) => {
            let lasts = builder.number(lasts.0, AnyKind::Time)?;
            builder.pulse(at, lasts)
        }
        None => Ok(builder.constant(nothing(AnyKind::Number), AnyKind::Number)),
    }
}
