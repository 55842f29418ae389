//! Rehearsals: actions of the game and expectations of the lights.

use super::{ChoiceId, Constant, EventId, ExprId, Field, InputId, LightId};
use crate::quantity::{Hours, Seconds};

/// A range of indices of an array; index 0 without an array.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Which {
    /// The index of the first.
    pub first: u32,
    /// The number of indices.
    pub count: u32,
}

impl Which {
    /// Their indices.
    pub fn indices(self) -> std::ops::Range<u32> {
        self.first..self.first.saturating_add(self.count)
    }
}

/// An action of the game.
#[derive(Clone, Debug, PartialEq)]
pub enum Deed {
    /// Fires an event of these instances or lamps with these arguments, in order; missing ones have
    /// their defaults.
    Fire(EventId, Which, Vec<Option<Constant>>),
    /// Sets an input of these instances or lamps.
    Set(InputId, Which, Constant),
    /// Selects an option of a choice, by index.
    Choose(ChoiceId, u32),
    /// Sets the clock.
    Clock(Hours),
    /// Drives the clock to an hour and holds it there.
    DriveClock(Hours),
    /// Sets the rate of the clock.
    ClockRate(f64),
}

/// The expected value, in the units of the book's space.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Relation {
    /// Greater than this.
    Above(f64),
    /// Less than this.
    Below(f64),
    /// Within this range, both ends included.
    Within(f64, f64),
    /// On, or off.
    On(bool),
}

/// The subject of an expectation.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Expected {
    /// No light flashes more than three times in a second (see [`crate::flash`]), within the interval or, at a single
    /// time, until the end of the rehearsal.
    Safe,
    /// A condition is on.
    Value(ExprId),
    /// A notice was sent this many times in the interval or, at a single time, since the start.
    Sent {
        /// Index of a notice in [`super::Program::notices`]; all notices with its name count.
        notice: u32,
        /// Minimum and maximum count.
        times: [u32; 2],
    },
    /// A field of one lamp, or of every lamp, of a light.
    Lamps {
        /// The light.
        light: LightId,
        /// The field: one number, or on or off.
        field: Field,
        /// The lamps, all of which must meet it.
        which: Which,
        /// The expected value.
        relation: Relation,
    },
}

/// An expectation over an interval; both times are equal for a single time. Comparison ignores the
/// source line.
#[derive(Clone, Debug)]
pub struct Expectation {
    /// Start, in seconds.
    pub from: Seconds,
    /// End, in seconds.
    pub to: Seconds,
    /// The subject.
    pub what: Expected,
    /// The source text.
    pub words: String,
    /// Index of its source file: 0 is the book.
    pub source: usize,
    /// Line number, from 1.
    pub line: u32,
}

impl PartialEq for Expectation {
    fn eq(&self, other: &Self) -> bool {
        (self.from, self.to, self.what) == (other.from, other.to, other.what)
    }
}

/// A rehearsal: deeds in order of time, and expectations.
#[derive(Clone, Debug, PartialEq)]
pub struct Rehearsal {
    /// Its name in the book.
    pub name: String,
    /// The hour at which it starts; `None` for the clock's initial hour.
    pub clock: Option<Hours>,
    /// The deeds, with their times.
    pub deeds: Vec<(Seconds, Deed)>,
    /// The expectations, in the book's order.
    pub expectations: Vec<Expectation>,
    /// Its end, in seconds.
    pub end: Seconds,
}
