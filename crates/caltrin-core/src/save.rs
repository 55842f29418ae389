//! A run's state as bytes, for save games: small, identical on every machine, and validated when
//! loaded.

use thiserror::Error;

use crate::choice::ChoiceState;
use crate::clock::{ClockState, MOST_RATE, Shown};
use crate::kernel;
use crate::program::Program;
use crate::quantity::{Hours, Seconds, Seed};
use crate::run::State;
use crate::sky::{LAST_HOUR, MOST_DAYS};

/// The first bytes of a saved state.
const MARK: &[u8] = b"caltrin state 1\n";

/// Why bytes are not a state of a program.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum LoadError {
    /// They are not a saved state, or are truncated.
    #[error("these bytes are not a complete saved state")]
    NotAState,
    /// They belong to a program with other inputs, events or choices.
    #[error("this state was saved from another lightbook or another version of it")]
    OtherProgram,
}

/// Reads numbers from bytes.
struct Reader<'a>(&'a [u8]);

impl Reader<'_> {
    fn take<const N: usize>(&mut self) -> Result<[u8; N], LoadError> {
        let (head, rest) = self.0.split_first_chunk::<N>().ok_or(LoadError::NotAState)?;
        self.0 = rest;
        Ok(*head)
    }

    fn word(&mut self) -> Result<u32, LoadError> {
        Ok(u32::from_le_bytes(self.take()?))
    }

    /// Reads a number and clamps it to a range.
    fn number(&mut self, lo: f64, hi: f64) -> Result<f64, LoadError> {
        let v = f64::from_le_bytes(self.take()?);
        if v.is_nan() { Err(LoadError::NotAState) } else { Ok(v.clamp(lo, hi)) }
    }

    /// Reads a count, which must be the expected one.
    fn count(&mut self, wanted: usize) -> Result<(), LoadError> {
        match self.word()? as usize == wanted {
            true => Ok(()),
            false => Err(LoadError::OtherProgram),
        }
    }
}

impl State {
    /// Returns the state as little-endian bytes: 76 bytes, 8 for each stored number, and for each
    /// choice 16 plus 8 per option.
    pub fn to_bytes(&self) -> Vec<u8> {
        let mut out = MARK.to_vec();
        let clock = self.clock;
        out.extend(self.seed.0.to_le_bytes());
        for v in [
            self.now.0,
            clock.since.0,
            clock.shown.days,
            clock.shown.hour.0,
            clock.rate,
            clock.from.0,
        ] {
            out.extend(v.to_le_bytes());
        }
        out.extend((self.inputs.numbers().len() as u32).to_le_bytes());
        out.extend(self.inputs.numbers().iter().flat_map(|v| v.to_le_bytes()));
        out.extend((self.choices.len() as u32).to_le_bytes());
        for choice in &self.choices {
            out.extend(choice.chosen.to_le_bytes());
            out.extend(choice.since.0.to_le_bytes());
            out.extend((choice.from.len() as u32).to_le_bytes());
            out.extend(choice.from.iter().flat_map(|v| v.to_le_bytes()));
        }
        out
    }

    /// Loads a state that [`State::to_bytes`] saved, of the same program. Numbers out of range,
    /// which no run writes, are clamped.
    ///
    /// # Errors
    /// If the bytes are not a saved state, or belong to another program.
    pub fn from_bytes(program: &Program, bytes: &[u8]) -> Result<State, LoadError> {
        let mut reader = Reader(bytes.strip_prefix(MARK).ok_or(LoadError::NotAState)?);
        let last = 2.0 * kernel::LAST_MOMENT;
        let mut state = State::start(program).with_seed(Seed(reader.word()?));
        state.now = Seconds(kernel::clean_moment(reader.number(-last, last)?));
        state.clock = ClockState {
            since: Seconds(reader.number(-last, last)?),
            shown: Shown {
                days: reader.number(-MOST_DAYS, MOST_DAYS)?,
                hour: Hours(reader.number(0.0, LAST_HOUR)?),
            },
            rate: reader.number(-MOST_RATE, MOST_RATE)?,
            from: Hours(reader.number(0.0, LAST_HOUR)?),
        };
        reader.count(state.inputs.numbers().len())?;
        let mut numbers = Vec::with_capacity(state.inputs.numbers().len());
        for (_, input) in program.inputs() {
            for _ in 0..crate::bytecode::slots(input) {
                numbers.push(reader.number(input.bounds.lo, input.bounds.hi)?);
            }
        }
        state.inputs.take_numbers(numbers);
        reader.count(state.choices.len())?;
        for choice in &mut state.choices {
            let chosen = reader.word()?;
            let since = Seconds(reader.number(-last, last)?);
            reader.count(choice.from.len())?;
            let mut from = Vec::with_capacity(choice.from.len());
            for _ in 0..choice.from.len() {
                from.push(reader.number(0.0, 1.0)?);
            }
            if chosen as usize >= from.len() {
                return Err(LoadError::NotAState);
            }
            *choice = ChoiceState { chosen, since, from };
        }
        if reader.0.is_empty() { Ok(state) } else { Err(LoadError::NotAState) }
    }
}
