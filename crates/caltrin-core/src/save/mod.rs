//! A run's state as bytes, for save games: the same on every machine and in every exported
//! language, checked when loaded, and loaded into a changed book as far as it still has the same
//! things.
//!
//! The format is described in `docs/saves.md`.

mod fields;

use thiserror::Error;

pub use fields::{SavedField, SavedKind, SavedPlace, key_of};

use crate::kernel::{clamp, clean_moment, scramble};
use crate::program::Program;
use crate::quantity::{Hours, Seconds, Seed};
use crate::run::State;

/// The first word of a save: `CALT`.
pub const MARK: u32 = 0x544c_4143;
/// The version of the format.
pub const VERSION: u32 = 1;
/// The number of bytes before the first field.
pub const HEAD: usize = 16;
/// Numbers of a field, in the highest byte of its second word.
pub const NUMBERS: u32 = 1;
/// Words of a field, in the highest byte of its second word.
pub const WORDS: u32 = 2;
/// Options of a field, in the highest byte of its second word.
pub const OPTIONS: u32 = 3;
/// What the kind of a field is kept times.
pub const KINDS: u32 = 1 << 24;

/// Why bytes are not a saved state.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum LoadError {
    /// They are not a save, are truncated, or were changed.
    #[error("these bytes are not a complete saved state")]
    NotAState,
    /// Their format is of another version.
    #[error("this state was saved in version {0} of the format, and this is version {VERSION}")]
    OtherVersion(u32),
}

/// A state that was loaded.
#[derive(Clone, Debug, PartialEq)]
pub struct Loaded {
    /// The state.
    pub state: State,
    /// Keys of the fields of the save that the program does not have, or has fewer of.
    pub dropped: Vec<u32>,
    /// Names of the program's fields that stood at an option that the program does not have.
    pub unknown: Vec<String>,
    /// Names of the program's fields that the save does not have: they are as at the start.
    pub fresh: Vec<String>,
}

impl SavedKind {
    /// What stands in the highest byte of a field's second word.
    pub fn code(&self) -> u32 {
        match self {
            SavedKind::Number => NUMBERS,
            SavedKind::Word => WORDS,
            SavedKind::Option(_) => OPTIONS,
        }
    }

    /// How many bytes each value takes.
    pub fn bytes(&self) -> usize {
        if *self == SavedKind::Number { 8 } else { 4 }
    }
}

impl SavedField {
    /// How many bytes it takes.
    pub fn bytes(&self) -> usize {
        8 + self.kind.bytes() * self.count as usize
    }

    /// The nearest number that it can be; its first one for what is not finite.
    fn clean(&self, v: f64) -> f64 {
        if v.is_finite() { clamp(v, self.bounds.lo, self.bounds.hi) } else { self.first }
    }
}

/// What tells saves of one layout from those of another: a hash of the keys, kinds and counts, in whatever order.
pub fn layout(fields: &[SavedField]) -> u32 {
    let mut fields: Vec<&SavedField> = fields.iter().collect();
    fields.sort_by_key(|field| field.key);
    fields.into_iter().fold(scramble(VERSION), |sum, field| {
        scramble(scramble(sum ^ field.key) ^ (field.kind.code() * KINDS + field.count))
    })
}

/// A sum of all words after the head of a save, by which one that was changed is known.
///
/// # Panics
/// If the bytes are fewer than the head.
pub fn sum_of(bytes: &[u8]) -> u32 {
    bytes[HEAD..].chunks_exact(4).fold(MARK, |sum, four| scramble(sum ^ word_at(four, 0)))
}

fn word_at(bytes: &[u8], at: usize) -> u32 {
    let mut four = [0; 4];
    four.copy_from_slice(&bytes[at..at + 4]);
    u32::from_le_bytes(four)
}

/// A field of a save, not yet known to any program.
struct Found<'b> {
    key: u32,
    code: u32,
    values: &'b [u8],
    each: usize,
}

impl Found<'_> {
    fn count(&self) -> usize {
        self.values.len() / self.each
    }
}

/// The fields of a save, in its order.
fn parse(bytes: &[u8]) -> Result<Vec<Found<'_>>, LoadError> {
    let whole = bytes.len() >= HEAD && bytes.len().is_multiple_of(4);
    if !whole || word_at(bytes, 0) != MARK {
        return Err(LoadError::NotAState);
    }
    if word_at(bytes, 4) != VERSION {
        return Err(LoadError::OtherVersion(word_at(bytes, 4)));
    }
    let (mut all, mut rest) = (Vec::new(), &bytes[HEAD..]);
    while !rest.is_empty() {
        let (head, after) = rest.split_at_checked(8).ok_or(LoadError::NotAState)?;
        let (key, second) = (word_at(head, 0), word_at(head, 4));
        let (code, count) = (second / KINDS, (second % KINDS) as usize);
        let each = if code == NUMBERS { 8 } else { 4 };
        let (values, after) = after.split_at_checked(each * count).ok_or(LoadError::NotAState)?;
        all.push(Found { key, code, values, each });
        rest = after;
    }
    if word_at(bytes, 12) != sum_of(bytes) {
        return Err(LoadError::NotAState);
    }
    Ok(all)
}

impl State {
    /// The state as bytes, of the program that it is a state of. How long they are depends on the
    /// program alone: 16 bytes, and for each of [`Program::saved_fields`] 8 and its values.
    pub fn to_bytes(&self, program: &Program) -> Vec<u8> {
        let (fields, starts) = (program.saved_fields(), self.starts(program));
        let mut out =
            Vec::with_capacity(HEAD + fields.iter().map(SavedField::bytes).sum::<usize>());
        for word in [MARK, VERSION, layout(&fields), 0] {
            out.extend(word.to_le_bytes());
        }
        for field in &fields {
            out.extend(field.key.to_le_bytes());
            out.extend((field.kind.code() * KINDS + field.count).to_le_bytes());
            for n in 0..field.count as usize {
                let value = self.saved(&starts, field, n);
                match &field.kind {
                    SavedKind::Number => out.extend(value.to_le_bytes()),
                    SavedKind::Word => out.extend((value as u32).to_le_bytes()),
                    SavedKind::Option(keys) => out.extend(keys[value as usize].to_le_bytes()),
                }
            }
        }
        let sum = sum_of(&out);
        out[12..HEAD].copy_from_slice(&sum.to_le_bytes());
        out
    }

    /// Loads a state that [`State::to_bytes`] or the exported code saved, of this program or of one
    /// that was changed since: what both have is taken, all else is as at the start. Numbers out of
    /// range are clamped; options that the program does not have, and what is not a number, are as
    /// at the start.
    ///
    /// # Errors
    /// If the bytes are not a complete save, or of another version of the format.
    pub fn from_bytes(program: &Program, bytes: &[u8]) -> Result<Loaded, LoadError> {
        let fields = program.saved_fields();
        let mut state = State::start(program);
        let starts = state.starts(program);
        let mut numbers = state.inputs.numbers().to_vec();
        let (mut dropped, mut unknown) = (Vec::new(), Vec::new());
        let mut taken = vec![false; fields.len()];
        for found in parse(bytes)? {
            let known = fields.iter().position(|field| field.key == found.key);
            let known = known.filter(|n| fields[*n].kind.code() == found.code);
            let Some(which) = known else {
                dropped.push(found.key);
                continue;
            };
            let field = &fields[which];
            taken[which] = true;
            if found.count() > field.count as usize {
                dropped.push(found.key);
            }
            for n in 0..found.count().min(field.count as usize) {
                let word = word_at(found.values, n * found.each);
                let value = match &field.kind {
                    SavedKind::Number => {
                        let high = word_at(found.values, n * 8 + 4);
                        f64::from_bits(u64::from(high) << 32 | u64::from(word))
                    }
                    SavedKind::Word => f64::from(word),
                    SavedKind::Option(keys) => match keys.iter().position(|key| *key == word) {
                        Some(option) => option as f64,
                        None => {
                            unknown.push(field.name.clone());
                            continue;
                        }
                    },
                };
                state.take(&starts, (field, n), field.clean(value), &mut numbers);
            }
        }
        state.inputs.take_numbers(numbers);
        let fresh = fields.iter().zip(&taken).filter(|(_, taken)| !**taken);
        let fresh = fresh.map(|(field, _)| field.name.clone()).collect();
        Ok(Loaded { state, dropped, unknown, fresh })
    }

    /// Where the numbers of each input begin, and how many parts each has.
    fn starts(&self, program: &Program) -> Vec<(usize, usize)> {
        let each = program.inputs().scan(0, |at, (_, input)| {
            let here = *at;
            *at += crate::bytecode::slots(input) as usize;
            Some((here, input.kind.width()))
        });
        each.collect()
    }

    /// Which of all numbers of inputs it is.
    fn slot(starts: &[(usize, usize)], field: &SavedField, n: usize) -> usize {
        let SavedPlace::Input(id, part) = field.place else { return 0 };
        let (start, width) = starts[id.index()];
        start + n * width + part
    }

    /// A value that is saved.
    fn saved(&self, starts: &[(usize, usize)], field: &SavedField, n: usize) -> f64 {
        let clock = &self.clock;
        match field.place {
            SavedPlace::Now => self.now.0,
            SavedPlace::Seed => f64::from(self.seed.0),
            SavedPlace::ClockHour => clock.shown.hour.0,
            SavedPlace::ClockDays => clock.shown.days,
            SavedPlace::ClockSince => clock.since.0,
            SavedPlace::ClockRate => clock.rate,
            SavedPlace::ClockFrom => clock.from.0,
            SavedPlace::Chosen(id) => f64::from(self.choices[id.index()].chosen),
            SavedPlace::Since(id) => self.choices[id.index()].since.0,
            SavedPlace::Weight(id, option) => self.choices[id.index()].from[option as usize],
            SavedPlace::Input(..) => self.inputs.numbers()[State::slot(starts, field, n)],
        }
    }

    /// Takes a value that was saved; those of inputs into `numbers`.
    fn take(
        &mut self,
        starts: &[(usize, usize)],
        (field, n): (&SavedField, usize),
        value: f64,
        numbers: &mut [f64],
    ) {
        let clock = &mut self.clock;
        match field.place {
            SavedPlace::Now => self.now = Seconds(clean_moment(value)),
            SavedPlace::Seed => self.seed = Seed(value as u32),
            SavedPlace::ClockHour => clock.shown.hour = Hours(value),
            SavedPlace::ClockDays => clock.shown.days = value,
            SavedPlace::ClockSince => clock.since = Seconds(value),
            SavedPlace::ClockRate => clock.rate = value,
            SavedPlace::ClockFrom => clock.from = Hours(value),
            SavedPlace::Chosen(id) => self.choices[id.index()].chosen = value as u32,
            SavedPlace::Since(id) => self.choices[id.index()].since = Seconds(value),
            SavedPlace::Weight(id, n) => self.choices[id.index()].from[n as usize] = value,
            SavedPlace::Input(..) => numbers[State::slot(starts, field, n)] = value,
        }
    }
}
