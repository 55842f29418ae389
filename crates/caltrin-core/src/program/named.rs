//! What a book names besides its lights: curves, signals, behaviors, inputs, choices, and what belongs to
//! its day.

use std::sync::Arc;

use super::{Constant, Domain, ExprId, InputId, Level, Light, Size, TableId};
use crate::curve::Curve;
use crate::interval::Interval;
use crate::kind::{ChangeRate, InstanceLevel, Kind};
use crate::quantity::{Hours, Seconds};
use crate::sound::Hearing;

/// A curve with its name.
#[derive(Clone, Debug, PartialEq)]
pub struct NamedCurve {
    /// The book's name for the column that it belongs to.
    pub title: String,
    /// Its own name: the column's, with what part of a color or point it is.
    pub name: String,
    /// The kind of its values.
    pub kind: Kind,
    /// What its places are.
    pub domain: Domain,
    /// Its stops.
    pub curve: Curve,
    /// Whether a sequence or a rhythm made it, so that it has no name in the book.
    pub led: bool,
}

/// Numbers that the program looks up.
#[derive(Clone, Debug, PartialEq)]
pub struct Table {
    /// What it is, for names in exported code.
    pub name: String,
    /// What it holds, two or more.
    pub entries: Entries,
}

/// What a table holds.
#[derive(Clone, Debug, PartialEq)]
pub enum Entries {
    /// Numbers.
    Numbers(Vec<f64>),
    /// Places and levels of an envelope, packed (see [`crate::sound::Envelope::words`]).
    Words(Vec<u32>),
}

impl Table {
    /// Its numbers, if it holds any.
    pub fn numbers(&self) -> &[f64] {
        match &self.entries {
            Entries::Numbers(all) => all,
            Entries::Words(_) => &[],
        }
    }

    /// Its packed words, if it holds any.
    pub fn words(&self) -> &[u32] {
        match &self.entries {
            Entries::Words(all) => all,
            Entries::Numbers(_) => &[],
        }
    }

    /// How many entries it has.
    pub fn count(&self) -> usize {
        self.numbers().len() + self.words().len()
    }

    /// How much memory it takes in exported code.
    pub fn bytes(&self) -> usize {
        8 * self.numbers().len() + 4 * self.words().len()
    }
}

/// A sound that a book names, for pictures of it.
#[derive(Clone, Debug, PartialEq)]
pub struct Sound {
    /// The book's name for it.
    pub name: String,
    /// Its file; empty where the game gives its levels.
    pub file: String,
    /// What it is like.
    pub hearing: Arc<Hearing>,
    /// Whether it loops.
    pub loops: bool,
    /// How far it has come, in seconds from its start; of one that loops within the current turn.
    pub place: ExprId,
    /// Whether it plays, where that is not always so.
    pub plays: Option<ExprId>,
    /// The tables of what follows it.
    pub followed: Vec<TableId>,
}

/// One value over time that all who use it share.
#[derive(Clone, Debug, PartialEq)]
pub struct Signal {
    /// The book's name for it.
    pub name: String,
    /// Its value.
    pub value: ExprId,
}

/// A value that the game sets while it runs; a knob that the designer leaves open until it does.
#[derive(Clone, Debug, PartialEq)]
pub struct Input {
    /// The book's name for it; in an instance or light with that one's name in front, as in
    /// `quay.draft`.
    pub name: String,
    /// The kind of its value, in the units that the space gives out.
    pub kind: Kind,
    /// Its value until the game sets it.
    pub default: Constant,
    /// The bounds that what the game sets is kept within, each part of a color or point alike.
    pub bounds: Interval,
    /// Whether there is one, or one for each instance or lamp.
    pub size: Size,
    /// The instances that they lie in, outermost first.
    pub levels: Vec<Level>,
    /// Whose it is: the book's, an instance's or a lamp's.
    pub scope: InstanceLevel,
    /// What it means, where events write it and not the game: what a run remembers of them.
    pub kept: Option<&'static str>,
}

impl Input {
    /// How many there are.
    pub fn count(&self) -> u32 {
        match self.size {
            Size::Many(n) => n,
            Size::One | Size::Open => 1,
        }
    }
}

/// One of a few names, which the game chooses.
#[derive(Clone, Debug, PartialEq)]
pub struct Choice {
    /// The book's name for it.
    pub name: String,
    /// The names of its options, two or more; the first is active until the game chooses.
    pub options: Vec<String>,
    /// How long it takes to go from one to the next; 0 for at once.
    pub over: Seconds,
}

/// Most options that a choice may have.
pub const MOST_OPTIONS: usize = 64;

/// Something that happens at an instant.
#[derive(Clone, Debug, PartialEq)]
pub struct Event {
    /// The book's name for it.
    pub name: String,
    /// What it comes from.
    pub source: EventSource,
    /// The moment of the last time that it happened; [`NEVER`] below 0 before the first.
    pub last: InputId,
    /// The value of that.
    pub last_value: ExprId,
    /// What it comes with each time that the game fires it, in the order in which it is given.
    pub values: Vec<InputId>,
    /// When it happens next by itself, made of what the run remembers; [`NEVER`] for not at all, and nothing
    /// where only the game fires it.
    pub due: Option<ExprId>,
    /// What it changes. All is evaluated before any of it is written.
    pub writes: Vec<Write>,
    /// Whose it is: there is one for each instance or lamp where it is theirs.
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

    /// What it writes for each instance or lamp: whose that is, and which writes. What lies deeper comes first: it
    /// may look at what is around it.
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

/// Whose something is that happens: the book's, or each instance's or lamp's own.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct EventOwner {
    /// How many there are, in all instances together.
    pub size: Size,
    /// The instances that they lie in, outermost first.
    pub levels: Vec<Level>,
    /// The book's, an instance's or a lamp's.
    pub scope: InstanceLevel,
}

impl EventOwner {
    /// The book's own.
    pub const BOOK: EventOwner =
        EventOwner { size: Size::One, levels: Vec::new(), scope: InstanceLevel::Book };

    /// How many there are.
    pub fn count(&self) -> u32 {
        self.many().unwrap_or(1)
    }

    /// How many there are, if there is an index.
    pub fn many(&self) -> Option<u32> {
        match self.size {
            Size::Many(n) => Some(n),
            Size::One | Size::Open => None,
        }
    }

    /// Whether it is an instance that others lie in.
    pub fn is_around(&self, others: &EventOwner) -> bool {
        let InstanceLevel::Instance(n) = self.scope else {
            return self.scope == InstanceLevel::Book;
        };
        let depth = usize::from(n) + 1;
        let sizes =
            |home: &EventOwner| home.levels.iter().take(depth).map(|l| l.size).collect::<Vec<_>>();
        others.levels.len() >= depth && others.scope > self.scope && sizes(self) == sizes(others)
    }

    /// As an array of lamps without a value, for what is made for each of them.
    pub fn light(&self, name: &str) -> Light {
        Light { size: self.size, levels: self.levels.clone(), ..Light::alone(name, Vec::new()) }
    }
}

/// Most values that an event comes with.
pub const MOST_VALUES: usize = 8;

/// What an event comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum EventSource {
    /// The game fires it.
    Game,
    /// Again and again, after times drawn by chance.
    Every,
    /// Some time after another, or after the start of the run.
    After,
    /// The clock comes to show an hour.
    Hour,
    /// A condition that becomes so.
    When,
    /// A sound comes to one of a few places.
    Sound,
    /// The book's own means: it has no name in the book, and nothing else responds to it.
    Within,
    /// A look at a condition, every 1/120 s; the book's own means too.
    Look,
    /// The game sets the clock: what only the hour decides is set with it.
    Set,
}

impl EventSource {
    /// Whether it may happen at the very moment at which the game does something.
    pub fn follows(self) -> bool {
        matches!(
            self,
            EventSource::When | EventSource::Within | EventSource::Hour | EventSource::Sound
        )
    }

    /// Whether it is the book's own means, to which nothing outside responds.
    pub fn is_own(self) -> bool {
        matches!(self, EventSource::Within | EventSource::Look | EventSource::Set)
    }
}

/// What is kept of something that only the hour decides, hour by hour.
#[derive(Clone, Debug, PartialEq)]
pub struct ByHour {
    /// From which hour on it is in which state; the last one holds until the first.
    pub from: Vec<(f64, usize)>,
    /// What is kept in each state.
    pub states: Vec<Vec<(InputId, Constant)>>,
}

impl ByHour {
    /// What is kept at an hour.
    pub fn at(&self, hour: Hours) -> &[(InputId, Constant)] {
        // An hour that is shown all but exactly has come.
        let passed = self.from.iter().rfind(|(from, _)| *from - 1e-9 <= hour.0);
        passed.or(self.from.last()).map_or(&[], |(_, state)| &self.states[*state])
    }
}

/// What an event changes in what the run remembers.
#[derive(Clone, Debug, PartialEq)]
pub struct Write {
    /// Only if this is on.
    pub when: Option<ExprId>,
    /// What is written, and its value at the moment of the event.
    pub sets: Vec<(InputId, ExprId)>,
    /// Where an event of the book writes what each instance or lamp has: whose it is.
    pub each: Option<EventOwner>,
    /// The notice that is sent then.
    pub sends: Option<Sends>,
    /// Which one of many is written, where that is not the event's own.
    pub slot: Option<ExprId>,
}

/// A notice that is sent.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Sends {
    /// Which line sends it: its place in [`super::Program::notices`].
    pub line: u32,
    /// Which of its texts comes with it.
    pub text: ExprId,
    /// From which lamp or instance; `None` for the one to which it happens.
    pub lamp: Option<u32>,
}

impl Write {
    /// Of what is the event's own, or the book's.
    pub fn own(when: Option<ExprId>, sets: Vec<(InputId, ExprId)>) -> Self {
        Write { when, sets, each: None, sends: None, slot: None }
    }

    /// What it looks at: whether it is done, then its values, then what it sends, then where it is written.
    pub fn looks_at(&self) -> impl Iterator<Item = ExprId> {
        let values = self.sets.iter().map(|(_, value)| *value);
        let sends = self.sends.map(|sends| sends.text).into_iter().chain(self.slot);
        self.when.into_iter().chain(values).chain(sends)
    }
}

/// Notices that the book sends to the game.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Notice {
    /// The book's name for it; others may have the same.
    pub name: String,
    /// What comes with it: one of these by chance, never the same twice in a row. None for nothing.
    pub texts: Vec<String>,
    /// The light or instance that it comes from; empty for none.
    pub from: String,
}

/// Most notices that wait until the game takes them.
pub const MOST_WAITING: u32 = 32;

/// Most texts that one of a notice's comes from.
pub const MOST_TEXTS: usize = 64;

/// Most lines that send notices.
pub const MOST_NOTICES: usize = 1000;

impl Notice {
    /// One number for a notice: which line sends it, which of its texts, and from which lamp or instance.
    pub fn packed(line: u32, text: f64, lamp: u32) -> f64 {
        (f64::from(line) * MOST_TEXTS as f64 + text) * Self::LAMPS + f64::from(lamp)
    }

    /// Beyond the last lamp of any light.
    pub(crate) const LAMPS: f64 = 1_048_576.0;

    /// What was packed.
    pub fn unpacked(packed: f64) -> [u32; 3] {
        let rest = (packed / Self::LAMPS).floor();
        let line = (rest / MOST_TEXTS as f64).floor();
        let text = rest - line * MOST_TEXTS as f64;
        [line as u32, text as u32, (packed - rest * Self::LAMPS) as u32]
    }
}

/// Lights that an event makes and that live a short life, from a pool.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Spark {
    /// The book's name for them.
    pub name: String,
    /// When each began.
    pub born: InputId,
    /// How long each lives.
    pub length: InputId,
    /// Whether the oldest makes room where none is free.
    pub oldest: bool,
}

/// Most sparks of a pool.
pub const MOST_SPARKS: u32 = 256;

/// Where a run keeps notices until the game takes them.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Queue {
    /// When each was sent.
    pub moments: InputId,
    /// What it was, packed.
    pub packed: InputId,
    /// Where its lamp was then, in the units and axes that the space gives out; zeros where the book does not say.
    pub positions: InputId,
    /// Where the oldest stands.
    pub first: InputId,
    /// How many there are.
    pub count: InputId,
    /// How many there was no room for.
    pub dropped: InputId,
}

/// Later than any moment; with its sign turned, before any.
pub const NEVER: f64 = 2e9;

/// A parameter of a behavior.
#[derive(Clone, Debug, PartialEq)]
pub struct Parameter {
    /// The book's name for it.
    pub name: String,
    /// Its value where a call does not give one; it fixes the kind.
    pub default: ExprId,
    /// The fastest change rate that an argument may have.
    pub limit: ChangeRate,
}

/// A recipe: each use gets its own copy and its own chance.
#[derive(Clone, Debug, PartialEq)]
pub struct Behavior {
    /// The book's name for it.
    pub name: String,
    /// Its parameters in order.
    pub parameters: Vec<Parameter>,
    /// What it gives.
    pub value: ExprId,
}

/// Named parts of the day, for pictures of it.
#[derive(Clone, Debug, PartialEq)]
pub struct Phases {
    /// The book's name for them.
    pub name: String,
    /// Each one's name, the hour from which it is, and how much it counts; in the order of the day.
    pub parts: Vec<(String, Hours, ExprId)>,
    /// The blend of their tints, if they have any.
    pub tint: Option<ExprId>,
}

/// A rule of modes that goes as soon as a condition is so.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Leads {
    /// From which mode, counted from 0; `None` for any.
    pub from: Option<usize>,
    /// To which.
    pub to: usize,
    /// The condition.
    pub when: ExprId,
}

/// Modes, for pictures of them.
#[derive(Clone, Debug, PartialEq)]
pub struct Modes {
    /// The book's name for them.
    pub name: String,
    /// Each one's name, and how much it counts, 0 to 1.
    pub parts: Vec<(String, ExprId)>,
    /// The rules that go as soon as a condition is so, without having to be so for a time.
    pub leads: Vec<Leads>,
}

/// A sequence, for pictures of it.
#[derive(Clone, Debug, PartialEq)]
pub struct Scene {
    /// The book's name for it.
    pub name: String,
    /// How far it is, in seconds; below 0 where it has never been started.
    pub at: ExprId,
    /// When all of it is over; `None` where something is kept for good.
    pub end: Option<Seconds>,
    /// How much of what it holds it has not given back since it was stopped, where it can be.
    pub holds: Option<ExprId>,
    /// Channels that change from its start on because their first value comes later, each with that moment.
    pub drifts: Vec<(String, Seconds)>,
}

/// The sun or the moon, for pictures of the day.
#[derive(Clone, Debug, PartialEq)]
pub struct Body {
    /// The book's name for it.
    pub name: String,
    /// Of a moon, how much of it is lit.
    pub lit: Option<ExprId>,
    /// Its height above the horizon.
    pub height: ExprId,
    /// The height at which it rises and sets, in degrees: 0 on a path by hours.
    pub horizon: f64,
}

/// The game's clock as the book has it; the game may set, stop, scale and drive it (see
/// [`crate::clock`]).
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Clock {
    /// How long a day of the game lasts, at rate 1.
    pub day: Seconds,
    /// The hour at the start of a run.
    pub start: Hours,
    /// How fast it goes at first: 1 as the length of the day says, 0 stands still, below 0 backwards.
    pub rate: f64,
}

impl Clock {
    /// How many hours pass in a second at rate 1.
    pub fn pace(self) -> f64 {
        24.0 / self.day.0
    }
}
