//! Rehearsals: what the game would do, and what is expected of the lights.

use super::{ChoiceId, Constant, EventId, ExprId, Field, InputId, LightId};
use crate::quantity::{Hours, Seconds};

/// Some of an array, side by side; the only one where there is no array.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Which {
    /// The index of the first.
    pub first: u32,
    /// How many.
    pub count: u32,
}

impl Which {
    /// Their indices.
    pub fn indices(self) -> std::ops::Range<u32> {
        self.first..self.first.saturating_add(self.count)
    }
}

/// Something that the game does.
#[derive(Clone, Debug, PartialEq)]
pub enum Deed {
    /// It fires an event, that of these instances or lamps, with these values in their order; those that are left out
    /// are at their defaults.
    Fire(EventId, Which, Vec<Option<Constant>>),
    /// It sets an input: that of these instances or lamps.
    Set(InputId, Which, Constant),
    /// It makes a choice, counted from 0.
    Choose(ChoiceId, u32),
    /// It sets its clock.
    Clock(Hours),
    /// It drives its clock to an hour, where the clock then stays.
    DriveClock(Hours),
    /// It sets the rate of its clock.
    ClockRate(f64),
}

/// How a number is expected to be, in the units that are given out.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Relation {
    /// Above this.
    Above(f64),
    /// Below this.
    Below(f64),
    /// Neither below the first nor above the second.
    Within(f64, f64),
    /// On, or off.
    On(bool),
}

/// What is expected.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Expected {
    /// That this is on.
    Value(ExprId),
    /// That a notice has been sent so often, from this moment on or, where it is for a moment only, from the start.
    Sent {
        /// The notice, by its name: places among [`super::Program::notices`] have it.
        notice: u32,
        /// How often at the least and at the most.
        times: [u32; 2],
    },
    /// A field of one lamp, or of every lamp, of a light.
    Lamps {
        /// The light.
        light: LightId,
        /// The field: one number, or on or off.
        field: Field,
        /// Which lamps: each of them.
        which: Which,
        /// How it is expected to be.
        relation: Relation,
    },
}

/// An expectation: from one moment to another, the same if it is for a moment only. Two are the same wherever
/// they stand.
#[derive(Clone, Debug)]
pub struct Expectation {
    /// The first moment.
    pub from: Seconds,
    /// The last moment.
    pub to: Seconds,
    /// What.
    pub what: Expected,
    /// The book's words for it.
    pub words: String,
    /// Which of the texts that were read it stands in: 0 is the book.
    pub source: usize,
    /// Its line there, counted from 1.
    pub line: u32,
}

impl PartialEq for Expectation {
    fn eq(&self, other: &Self) -> bool {
        (self.from, self.to, self.what) == (other.from, other.to, other.what)
    }
}

/// What the game would do, in the order of time, and what is expected then.
#[derive(Clone, Debug, PartialEq)]
pub struct Rehearsal {
    /// The book's name for it.
    pub name: String,
    /// The hour at which it begins; `None` for the clock's own start.
    pub clock: Option<Hours>,
    /// What the game does.
    pub deeds: Vec<(Seconds, Deed)>,
    /// What is expected, in the book's order.
    pub expectations: Vec<Expectation>,
    /// When it ends.
    pub end: Seconds,
}
