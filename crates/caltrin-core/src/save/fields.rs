//! What a saved run keeps of a program: fields by names that stay when the book changes around
//! them.

use std::collections::BTreeSet;

use crate::clock::MOST_RATE;
use crate::interval::Interval;
use crate::kernel::{LAST_HOUR, LAST_MOMENT, scramble};
use crate::kind::Kind;
use crate::program::{ChoiceId, Constant, Input, InputId, NOTICE_CAPACITY, Program};
use crate::sky::MOST_DAYS;

/// How a value is saved.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum SavedKind {
    /// A double.
    Number,
    /// A word of 32 bits; on is 1.
    Word,
    /// An index, saved as the key of the option that it stands for.
    Option(Vec<u32>),
}

/// Where a run has a value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SavedPlace {
    /// The moment of the run.
    Now,
    /// The seed.
    Seed,
    /// The hour at which the clock was last set.
    ClockHour,
    /// The number of days at that time.
    ClockDays,
    /// When it was set.
    ClockSince,
    /// Its rate.
    ClockRate,
    /// The hour that it was moved from.
    ClockFrom,
    /// The option of a choice.
    Chosen(ChoiceId),
    /// When it was chosen.
    Since(ChoiceId),
    /// How much one of its options counted then.
    Weight(ChoiceId, u32),
    /// A part of an input, or of state that events write.
    Input(InputId, usize),
}

/// A value of a run that is saved, or one of each instance or lamp.
#[derive(Clone, Debug, PartialEq)]
pub struct SavedField {
    /// What it is found by in a save: a hash of its name and kind, different for each field.
    pub key: u32,
    /// Its name; no other field of the program has the same.
    pub name: String,
    /// How it is saved.
    pub kind: SavedKind,
    /// How many there are.
    pub count: u32,
    /// What it is kept within.
    pub bounds: Interval,
    /// What it is at the start of a run.
    pub first: f64,
    /// Where the run has it.
    pub place: SavedPlace,
}

/// A hash of text.
pub fn key_of(text: &str) -> u32 {
    text.bytes().fold(scramble(0x7e57_ab1e), |key, byte| scramble(key ^ u32::from(byte)))
}

/// What stands for a kind in the hash of a name. Part of the format: it never changes.
fn tag(kind: Kind) -> String {
    match kind {
        Kind::Number => "number".to_owned(),
        Kind::Time => "time".to_owned(),
        Kind::Rate => "rate".to_owned(),
        Kind::Angle => "angle".to_owned(),
        Kind::Length => "length".to_owned(),
        Kind::Strength(unit) => format!("strength {}", unit.symbol()),
        Kind::Color => "color".to_owned(),
        Kind::Point => "point".to_owned(),
        Kind::OnOff => "flag".to_owned(),
        Kind::Hour => "hour".to_owned(),
    }
}

/// The fields of a program on their way.
struct Listing {
    all: Vec<SavedField>,
    keys: BTreeSet<u32>,
}

impl Listing {
    fn add(
        &mut self,
        (name, kept): (String, &str),
        (kind, count): (SavedKind, u32),
        (first, bounds): (f64, [f64; 2]),
        place: SavedPlace,
    ) {
        let mut text = format!("{name}: {kept}");
        let mut key = key_of(&text);
        // Two names seldom have the same hash.
        while !self.keys.insert(key) {
            text.push('\'');
            key = key_of(&text);
        }
        let bounds = Interval { lo: bounds[0], hi: bounds[1] };
        self.all.push(SavedField { key, name, kind, count, bounds, first, place });
    }
}

impl Program {
    /// What a saved run keeps, in the order in which it is written. [`SavedPlace::Input`] stands for
    /// the inputs as well as for the state of events, switches, modes, sequences, sounds and notices.
    pub fn saved_fields(&self) -> Vec<SavedField> {
        use SavedKind::{Number, Option, Word};
        let mut listing = Listing { all: Vec::new(), keys: BTreeSet::new() };
        let mut one = |name: &str, kind, first, bounds, place| {
            let kept = if kind == Word { "word" } else { "number" };
            listing.add((name.to_owned(), kept), (kind, 1), (first, bounds), place);
        };
        let moments = [-LAST_MOMENT, LAST_MOMENT];
        one("run now", Number, 0.0, moments, SavedPlace::Now);
        let words = [0.0, f64::from(u32::MAX)];
        one("run seed", Word, f64::from(self.seed().0), words, SavedPlace::Seed);
        if let Some(clock) = self.clock() {
            let (start, hours) = (clock.start.0, [0.0, LAST_HOUR]);
            let (days, rates) = ([-MOST_DAYS, MOST_DAYS], [-MOST_RATE, MOST_RATE]);
            one("clock hour", Number, start, hours, SavedPlace::ClockHour);
            one("clock days", Number, 0.0, days, SavedPlace::ClockDays);
            one("clock since", Number, 0.0, moments, SavedPlace::ClockSince);
            one("clock rate", Number, clock.rate, rates, SavedPlace::ClockRate);
            one("clock from", Number, start, hours, SavedPlace::ClockFrom);
        }
        for (id, choice) in self.choices() {
            let name = |what: &str| format!("choice {}{what}", choice.name);
            let count = choice.options.len();
            let options = choice.options.iter().map(|option| key_of(option)).collect();
            let last = (count - 1) as f64;
            let chosen = SavedPlace::Chosen(id);
            listing.add((name(""), "option"), (Option(options), 1), (0.0, [0.0, last]), chosen);
            if choice.over.0 > 0.0 {
                let never = -2.0 * LAST_MOMENT;
                let since = (never, [never, LAST_MOMENT]);
                let place = SavedPlace::Since(id);
                listing.add((name(" since"), "number"), (Number, 1), since, place);
                for (n, option) in choice.options.iter().enumerate() {
                    let first = if n == 0 { 1.0 } else { 0.0 };
                    let place = SavedPlace::Weight(id, n as u32);
                    let named = (name(&format!(" from {option}")), "number");
                    listing.add(named, (Number, 1), (first, [0.0, 1.0]), place);
                }
            }
        }
        let waiting = self.waiting();
        for (id, input) in self.inputs() {
            self.save_input((id, input), &waiting, &mut listing);
        }
        listing.all
    }

    fn save_input(
        &self,
        (id, input): (InputId, &Input),
        waiting: &[(InputId, String)],
        listing: &mut Listing,
    ) {
        // The longest beginning that is saved under another name.
        let dots = input.name.rmatch_indices('.').map(|(at, _)| at);
        let mut starts = std::iter::once(input.name.len()).chain(dots).filter_map(|at| {
            let (start, rest) = input.name.split_at(at);
            self.anchors.renamed.get(start).map(|saved| format!("{saved}{rest}"))
        });
        let name = starts.next().unwrap_or_else(|| input.name.clone());
        let mut kept = tag(input.kind);
        let queued = waiting.iter().find(|(known, _)| *known == id).map(|(_, what)| what);
        if let Some(counted) = self.anchors.counted.get(&id).or(queued) {
            kept = format!("{kept}, {counted}");
        }
        let kind = match (self.anchors.options.get(&id), input.kind) {
            (Some(options), _) => {
                kept = "option".to_owned();
                SavedKind::Option(options.iter().map(|option| key_of(option)).collect())
            }
            (None, Kind::OnOff) => SavedKind::Word,
            (None, _) => SavedKind::Number,
        };
        let bounds = [input.bounds.lo, input.bounds.hi];
        let parts = match input.default {
            Constant::Scalar(v) => vec![("", v)],
            Constant::OnOff(on) => vec![("", f64::from(u8::from(on)))],
            Constant::Vector([x, y, z]) => match input.kind {
                Kind::Color => vec![(" red", x), (" green", y), (" blue", z)],
                _ => vec![(" x", x), (" y", y), (" z", z)],
            },
        };
        for (part, (suffix, first)) in parts.into_iter().enumerate() {
            listing.add(
                (format!("{name}{suffix}"), &kept),
                (kind.clone(), input.count()),
                (first, bounds),
                SavedPlace::Input(id, part),
            );
        }
    }

    /// What keeps the notices that wait: they are known by their line of the book, so that another
    /// list of notices leaves none waiting.
    fn waiting(&self) -> Vec<(InputId, String)> {
        let Some(queue) = self.queue() else { return Vec::new() };
        let lines = self.notices().iter();
        let lines = lines
            .map(|notice| format!("{}/{}/{}", notice.name, notice.from, notice.texts.join("/")));
        let mut lines = lines.collect::<Vec<_>>().join("|");
        // A queue of another size is another ring.
        if self.notice_capacity() != NOTICE_CAPACITY {
            lines = format!("{}|{lines}", self.notice_capacity());
        }
        let own = [queue.moments, queue.packed, queue.positions, queue.first, queue.count];
        let values = self.notice_values().iter().map(|value| value.kept);
        own.into_iter().chain(values).map(|id| (id, lines.clone())).collect()
    }
}
