//! Events, switches and pulses in the builder.

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
    /// `None` if the event was rejected.
    id: Option<EventId>,
}

impl Event {
    /// A rejected event.
    pub(super) fn refused() -> Self {
        Event { id: None }
    }

    /// Its ID in the program; `None` if it was rejected.
    pub fn id(self) -> Option<EventId> {
        self.id
    }
}

/// The events that turn a switch on and off, and its fade times.
#[derive(Clone, Debug, Default)]
pub struct Turns {
    starts: bool,
    lines: Vec<(Event, Option<bool>, Seconds, Easing)>,
}

impl Turns {
    /// Creates a switch that is off at the start of the run.
    pub fn starting_off() -> Self {
        Turns::default()
    }

    /// Creates a switch that is on at the start of the run.
    pub fn starting_on() -> Self {
        Turns { starts: true, lines: Vec::new() }
    }

    /// An event turns the switch on, with a fade; 0 for immediately.
    pub fn on(mut self, at: Event, over: Seconds, easing: Easing) -> Self {
        self.lines.push((at, Some(true), over, easing));
        self
    }

    /// An event turns the switch off.
    pub fn off(mut self, at: Event, over: Seconds, easing: Easing) -> Self {
        self.lines.push((at, Some(false), over, easing));
        self
    }

    /// An event toggles the switch.
    pub fn flip(mut self, at: Event, over: Seconds, easing: Easing) -> Self {
        self.lines.push((at, None, over, easing));
        self
    }
}

/// A switch of a book.
#[derive(Clone, Debug)]
pub struct Switch {
    /// The switch's level, 0 to 1.
    pub level: Value<Number>,
    /// Whether the switch is on or fading in.
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

    /// Adds an event that the game fires.
    pub fn event(&mut self, name: &str) -> Event {
        let made = self.builder.define_event(name);
        self.event_of(name, made)
    }

    /// Adds an event that repeats at random intervals from this range.
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

    /// Adds an event that occurs a time after another event, or after the start of the run.
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

    /// Adds a switch that events control.
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

/// 1 for a time after each occurrence of an event, otherwise 0.
pub fn pulse(at: Event, lasts: Seconds) -> Value<Number> {
    make(Tree::Pulse(at.id, lasts))
}

impl<K: Kind> Curve<K> {
    /// Plays from the last occurrence of an event. The value is `before` until the first; without
    /// `before`, the curve must end at its first value.
    pub fn played_at(&self, at: Event, before: Option<Value<K>>) -> Value<K> {
        self.replayed_at(at, Replay::Restart, before)
    }

    /// [`Curve::played_at`] with a policy for events that occur while the curve plays.
    pub fn replayed_at(&self, at: Event, again: Replay, before: Option<Value<K>>) -> Value<K> {
        let before = before.map(|before| before.node);
        make(Tree::PlayedAt(Rc::clone(&self.track), at.id, again, before))
    }
}

/// Lowers a pulse; one of a rejected event is the constant 0.
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
