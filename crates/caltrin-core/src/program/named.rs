//! Declarations of a book besides its lights: curves, signals, behaviors, inputs, events, choices
//! and the day.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::{Constant, Domain, ExprId, InputId, Level, Light, Size, TableId};
use crate::curve::Curve;
use crate::interval::Interval;
use crate::kind::{ChangeRate, InstanceLevel, Kind};
use crate::quantity::{Hours, Seconds};
use crate::sound::Hearing;

/// A named curve.
#[derive(Clone, Debug, PartialEq)]
pub struct NamedCurve {
    /// The name of its column in the book.
    pub title: String,
    /// Its own name: the column's, with the component of a color or point.
    pub name: String,
    /// The kind of its values.
    pub kind: Kind,
    /// The kind of its positions.
    pub domain: Domain,
    /// Its stops.
    pub curve: Curve,
    /// Whether a sequence or a rhythm created it, so that it has no name in the book.
    pub led: bool,
}

/// A lookup table.
#[derive(Clone, Debug, PartialEq)]
pub struct Table {
    /// Its name in exported code.
    pub name: String,
    /// Its entries, at least two.
    pub entries: Entries,
}

/// The entries of a table.
#[derive(Clone, Debug, PartialEq)]
pub enum Entries {
    /// Numbers.
    Numbers(Vec<f64>),
    /// Packed positions and levels of an envelope (see [`crate::sound::Envelope::words`]).
    Words(Vec<u32>),
}

impl Table {
    /// Its numbers; empty for packed words.
    pub fn numbers(&self) -> &[f64] {
        match &self.entries {
            Entries::Numbers(all) => all,
            Entries::Words(_) => &[],
        }
    }

    /// Its packed words; empty for numbers.
    pub fn words(&self) -> &[u32] {
        match &self.entries {
            Entries::Words(all) => all,
            Entries::Numbers(_) => &[],
        }
    }

    /// The number of entries.
    pub fn count(&self) -> usize {
        self.numbers().len() + self.words().len()
    }

    /// Its size in exported code, in bytes.
    pub fn bytes(&self) -> usize {
        8 * self.numbers().len() + 4 * self.words().len()
    }
}

/// A sound of a book, for drawings.
#[derive(Clone, Debug, PartialEq)]
pub struct Sound {
    /// Its name in the book.
    pub name: String,
    /// Its file; empty if the game sets its levels.
    pub file: String,
    /// Its analysis.
    pub hearing: Arc<Hearing>,
    /// Whether it loops.
    pub loops: bool,
    /// Its playback position in seconds; within the current repetition if it loops.
    pub place: ExprId,
    /// Whether it is playing, if it does not always play.
    pub plays: Option<ExprId>,
    /// The tables of the values that follow it.
    pub followed: Vec<TableId>,
}

/// A shared value over time.
#[derive(Clone, Debug, PartialEq)]
pub struct Signal {
    /// Its name in the book.
    pub name: String,
    /// Its value.
    pub value: ExprId,
}

/// A value that the game sets at run time.
#[derive(Clone, Debug, PartialEq)]
pub struct Input {
    /// Its name in the book; in an instance or light, prefixed with that name, as in `quay.draft`.
    pub name: String,
    /// The kind of its value, in the units of the book's space.
    pub kind: Kind,
    /// Its default.
    pub default: Constant,
    /// The range that the game's values are clamped to; for colors and points, the range of each
    /// component.
    pub bounds: Interval,
    /// Whether there is one, or one per instance or lamp.
    pub size: Size,
    /// The instances that contain it, outermost first.
    pub levels: Vec<Level>,
    /// The owner: the book, an instance or a lamp.
    pub scope: InstanceLevel,
    /// Its meaning, if it is state that events write, not the game.
    pub kept: Option<&'static str>,
}

impl Input {
    /// The number of them.
    pub fn count(&self) -> u32 {
        match self.size {
            Size::Many(n) => n,
            Size::One | Size::Open => 1,
        }
    }
}

/// A choice: the game selects one of several options.
#[derive(Clone, Debug, PartialEq)]
pub struct Choice {
    /// Its name in the book.
    pub name: String,
    /// The names of its options, at least two; the first is selected initially.
    pub options: Vec<String>,
    /// Duration of the transition; 0 is immediate.
    pub over: Seconds,
}

/// Maximum number of options of a choice.
pub const MOST_OPTIONS: usize = 64;

/// An event.
#[derive(Clone, Debug, PartialEq)]
pub struct Event {
    /// Its name in the book.
    pub name: String,
    /// Its source.
    pub source: EventSource,
    /// The input with the time of its last occurrence; negative [`NEVER`] before the first.
    pub last: InputId,
    /// The value of that input.
    pub last_value: ExprId,
    /// Its parameters, in order.
    pub values: Vec<InputId>,
    /// The time of its next occurrence, computed from the run's state; [`NEVER`] for none, and
    /// `None` if only the game fires it.
    pub due: Option<ExprId>,
    /// Its writes. All are evaluated before the first is written.
    pub writes: Vec<Write>,
    /// The owner; an event of an instance or lamp exists once per instance or lamp.
    pub home: EventOwner,
}

impl Event {
    /// Its name, with the index where each instance or lamp has its own: `mast[3].fault`
    pub fn name_at(&self, index: u32) -> String {
        match (self.home.many(), self.name.rsplit_once('.')) {
            (Some(_), Some((of, own))) => format!("{of}[{index}].{own}"),
            _ => self.name.clone(),
        }
    }

    /// Its writes per instance or lamp: the owner, and the writes. Inner levels come first, since
    /// they may depend on outer ones.
    pub fn spread(&self) -> Vec<(&EventOwner, Vec<usize>)> {
        let mut found: Vec<(&EventOwner, Vec<usize>)> = Vec::new();
        for (n, write) in self.writes.iter().enumerate() {
            let Some(home) = &write.each else { continue };
            match found.iter_mut().find(|(known, _)| *known == home) {
                Some((_, which)) => which.push(n),
                None => found.push((home, vec![n])),
            }
        }
        found.sort_by_key(|(home, _)| std::cmp::Reverse(home.scope));
        found
    }
}

/// The owner of an event: the book, or each instance or lamp.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct EventOwner {
    /// The number of them, in all instances together.
    pub size: Size,
    /// The instances that contain it, outermost first.
    pub levels: Vec<Level>,
    /// The book, an instance or a lamp.
    pub scope: InstanceLevel,
}

impl EventOwner {
    /// The book.
    pub const BOOK: EventOwner =
        EventOwner { size: Size::One, levels: Vec::new(), scope: InstanceLevel::Book };

    /// The number of them.
    pub fn count(&self) -> u32 {
        self.many().unwrap_or(1)
    }

    /// The number of them, if they have an index.
    pub fn many(&self) -> Option<u32> {
        match self.size {
            Size::Many(n) => Some(n),
            Size::One | Size::Open => None,
        }
    }

    /// Whether it is an instance that contains others.
    pub fn is_around(&self, others: &EventOwner) -> bool {
        let InstanceLevel::Instance(n) = self.scope else {
            return self.scope == InstanceLevel::Book;
        };
        let depth = usize::from(n) + 1;
        let sizes =
            |home: &EventOwner| home.levels.iter().take(depth).map(|l| l.size).collect::<Vec<_>>();
        others.levels.len() >= depth && others.scope > self.scope && sizes(self) == sizes(others)
    }

    /// The owner as an array of lamps without values.
    pub fn light(&self, name: &str) -> Light {
        Light { size: self.size, levels: self.levels.clone(), ..Light::alone(name, Vec::new()) }
    }
}

/// Maximum number of parameters of an event.
pub const MOST_VALUES: usize = 8;

/// The source of an event.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum EventSource {
    /// The game fires it.
    Game,
    /// Repeats at random intervals.
    Every,
    /// A time after another event, or after the start of the run.
    After,
    /// The clock reaches an hour.
    Hour,
    /// A condition becomes true.
    When,
    /// A sound reaches one of several positions.
    Sound,
    /// Internal: it has no name in the book, and nothing else responds to it.
    Within,
    /// A sample of a condition, 120 times a second; also internal.
    Look,
    /// The game sets the clock; state that depends on the hour only is updated.
    Set,
}

impl EventSource {
    /// Whether it may occur at the same time as an action of the game.
    pub fn follows(self) -> bool {
        matches!(
            self,
            EventSource::When | EventSource::Within | EventSource::Hour | EventSource::Sound
        )
    }

    /// Whether it is internal.
    pub fn is_own(self) -> bool {
        matches!(self, EventSource::Within | EventSource::Look | EventSource::Set)
    }
}

/// State that depends on the hour only.
#[derive(Clone, Debug, PartialEq)]
pub struct ByHour {
    /// The hours at which states start; the last one lasts until the first.
    pub from: Vec<(f64, usize)>,
    /// The values stored in each state.
    pub states: Vec<Vec<(InputId, Constant)>>,
}

impl ByHour {
    /// The values stored at an hour.
    pub fn at(&self, hour: Hours) -> &[(InputId, Constant)] {
        // An hour that is shown all but exactly has come.
        let passed = self.from.iter().rfind(|(from, _)| *from - 1e-9 <= hour.0);
        passed.or(self.from.last()).map_or(&[], |(_, state)| &self.states[*state])
    }
}

/// A write of an event to the run's state.
#[derive(Clone, Debug, PartialEq)]
pub struct Write {
    /// The condition.
    pub when: Option<ExprId>,
    /// The input that is written, and its value at the time of the event.
    pub sets: Vec<(InputId, ExprId)>,
    /// The owner of the written state, if an event of the book writes that of each instance or
    /// lamp.
    pub each: Option<EventOwner>,
    /// The notice that is sent.
    pub sends: Option<Sends>,
    /// The index that is written, if it is not the event's own.
    pub slot: Option<ExprId>,
}

/// A notice to send.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Sends {
    /// Its index in [`super::Program::notices`].
    pub line: u32,
    /// The index of its text.
    pub text: ExprId,
    /// The lamp or instance that it comes from; `None` for the one that the event occurs for.
    pub lamp: Option<u32>,
    /// Its values: indices in [`super::Program::notice_values`], in that order, and their
    /// expressions.
    pub values: Vec<(usize, ExprId)>,
}

impl Sends {
    /// The expressions that it evaluates: its text and values.
    pub fn looks_at(&self) -> impl Iterator<Item = ExprId> {
        std::iter::once(self.text).chain(self.values.iter().map(|(_, value)| *value))
    }
}

impl Write {
    /// A write to state of the event's owner, or of the book.
    pub fn own(when: Option<ExprId>, sets: Vec<(InputId, ExprId)>) -> Self {
        Write { when, sets, each: None, sends: None, slot: None }
    }

    /// The expressions that it evaluates: its condition, values, notice and index.
    pub fn looks_at(&self) -> impl Iterator<Item = ExprId> {
        let values = self.sets.iter().map(|(_, value)| *value);
        let sends = self.sends.iter().flat_map(Sends::looks_at);
        self.when.into_iter().chain(values).chain(sends).chain(self.slot)
    }
}

/// A notice that the book sends to the game.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Notice {
    /// Its name in the book; several notices may have the same name.
    pub name: String,
    /// Its texts, of which a random one is sent, never the same twice in a row; may be empty.
    pub texts: Vec<String>,
    /// The light or instance that it comes from; empty if none.
    pub from: String,
    /// The names of its values, in the order of [`super::Program::notice_values`].
    pub values: Vec<String>,
}

/// A value that notices carry. All notices that have a value of this name share it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NoticeValue {
    /// Its name in the book.
    pub name: String,
    /// Its kind.
    pub kind: Kind,
    /// The value of each queued notice, in the units and axes of the book's space; zeros or off if
    /// the notice does not have it.
    pub kept: InputId,
}

/// Default capacity of the queue of notices.
pub const NOTICE_CAPACITY: u32 = 32;

/// Smallest and largest capacity of the queue of notices.
pub const NOTICE_CAPACITIES: std::ops::RangeInclusive<u32> = 8..=1024;

/// Maximum number of texts of a notice.
pub const MOST_TEXTS: usize = 64;

/// Maximum number of notices.
pub const MOST_NOTICES: usize = 1000;

/// Maximum number of different values that the notices of a book have.
pub const MOST_NOTICE_VALUES: usize = 32;

impl Notice {
    /// Packs a notice into one number: its index, the index of its text, and the lamp or instance.
    pub fn packed(line: u32, text: f64, lamp: u32) -> f64 {
        (f64::from(line) * MOST_TEXTS as f64 + text) * Self::LAMPS + f64::from(lamp)
    }

    /// Larger than any lamp's index.
    pub(crate) const LAMPS: f64 = 1_048_576.0;

    /// Unpacks a notice.
    pub fn unpacked(packed: f64) -> [u32; 3] {
        let rest = (packed / Self::LAMPS).floor();
        let line = (rest / MOST_TEXTS as f64).floor();
        let text = rest - line * MOST_TEXTS as f64;
        [line as u32, text as u32, (packed - rest * Self::LAMPS) as u32]
    }
}

/// A pool of short-lived lights that an event spawns.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Spark {
    /// Their name in the book.
    pub name: String,
    /// The start time of each.
    pub born: InputId,
    /// The lifetime of each.
    pub length: InputId,
    /// Whether the oldest is replaced if the pool is full.
    pub oldest: bool,
}

/// Maximum size of a pool.
pub const MOST_SPARKS: u32 = 256;

/// The queue of notices in a run's state.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Queue {
    /// The time at which each was sent.
    pub moments: InputId,
    /// Each notice, packed.
    pub packed: InputId,
    /// The position of its lamp at that time, in the units and axes of the book's space; zeros if
    /// unknown.
    pub positions: InputId,
    /// Index of the oldest notice.
    pub first: InputId,
    /// The number of them.
    pub count: InputId,
    /// The number of dropped notices.
    pub dropped: InputId,
}

/// Later than any time; negated, earlier than any time.
pub const NEVER: f64 = 2e9;

/// A parameter of a behavior.
#[derive(Clone, Debug, PartialEq)]
pub struct Parameter {
    /// Its name in the book.
    pub name: String,
    /// Its default, which determines its kind.
    pub default: ExprId,
    /// The maximum change rate of an argument.
    pub limit: ChangeRate,
}

/// A behavior: each call has its own copy and its own random values.
#[derive(Clone, Debug, PartialEq)]
pub struct Behavior {
    /// Its name in the book.
    pub name: String,
    /// Its parameters in order.
    pub parameters: Vec<Parameter>,
    /// Its value.
    pub value: ExprId,
}

/// Phases of the day, for drawings.
#[derive(Clone, Debug, PartialEq)]
pub struct Phases {
    /// Their name in the book.
    pub name: String,
    /// The name, start hour and weight of each, in the order of the day.
    pub parts: Vec<(String, Hours, ExprId)>,
    /// Their blended tint, if they have tints.
    pub tint: Option<ExprId>,
}

/// A transition of modes that occurs when a condition becomes true.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Leads {
    /// Index of the source mode; `None` for any.
    pub from: Option<usize>,
    /// Index of the target mode.
    pub to: usize,
    /// The condition.
    pub when: ExprId,
}

/// Modes, for drawings.
#[derive(Clone, Debug, PartialEq)]
pub struct Modes {
    /// Their name in the book.
    pub name: String,
    /// The name and weight, 0 to 1, of each.
    pub parts: Vec<(String, ExprId)>,
    /// The transitions at conditions without a duration.
    pub leads: Vec<Leads>,
}

/// A switch, or modes: what events change and the run keeps, one or one for each instance or lamp.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NamedState {
    /// Its name in the book; in an instance or light, prefixed with that name.
    pub name: String,
    /// The modes; empty for a switch.
    pub options: Vec<String>,
    /// The mode at the start; of a switch, 1 if it starts on.
    pub start: usize,
    /// Whether there is one, or one per instance or lamp.
    pub size: Size,
}

/// A sequence, for drawings.
#[derive(Clone, Debug, PartialEq)]
pub struct Scene {
    /// Its name in the book.
    pub name: String,
    /// Its position in seconds; negative before its first start.
    pub at: ExprId,
    /// Its end; `None` if it keeps a channel permanently.
    pub end: Option<Seconds>,
    /// The weight that remains since it was stopped, if it can be stopped.
    pub holds: Option<ExprId>,
    /// Channels that move from the start of the sequence because their first step is later, with
    /// the time of that step.
    pub drifts: Vec<(String, Seconds)>,
}

/// The sun or the moon, for drawings of the day.
#[derive(Clone, Debug, PartialEq)]
pub struct Body {
    /// Its name in the book.
    pub name: String,
    /// Of a moon, its illuminated fraction.
    pub lit: Option<ExprId>,
    /// Its altitude above the horizon.
    pub height: ExprId,
    /// The altitude at which it rises and sets, in degrees: 0 on a path by hours.
    pub horizon: f64,
}

/// The clock of the book; the game may set, stop, scale and drive it (see [`crate::clock`]).
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Clock {
    /// Duration of a day of the game at rate 1, in seconds.
    pub day: Seconds,
    /// The hour at the start of a run.
    pub start: Hours,
    /// The initial rate: 1 is normal, 0 stops the clock, negative rates run it backward.
    pub rate: f64,
}

impl Clock {
    /// Hours per second at rate 1.
    pub fn pace(self) -> f64 {
        24.0 / self.day.0
    }
}

/// What tells the program's state apart where its own name does not suffice.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Anchors {
    /// Beginnings of names that count something in the book, and what they are saved as.
    pub renamed: BTreeMap<String, String>,
    /// What indices count, in words; with another list the state begins anew.
    pub counted: BTreeMap<InputId, String>,
    /// Indices that are saved by what they stand for.
    pub options: BTreeMap<InputId, Vec<String>>,
}
