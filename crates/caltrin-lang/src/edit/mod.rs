//! Changes of a book's text as data.
//!
//! An [`Edit`] is a list of replaced ranges and the hash of the text that they were made for. It is
//! applied to exactly that text, has an inverse, and can be merged with another edit of the same
//! text or rebased onto its result. [`Editor`] makes edits from operations: numbers, colors, stops,
//! channels, names. Every byte that an operation does not concern stays.

mod editor;
mod layout;
mod value;
mod written;

use std::collections::BTreeMap;
use std::ops::Range;

use thiserror::Error;

pub use editor::{Editor, rename};
pub(crate) use value::read as literal_value;
pub use value::{color_as_written, number_as_written, unit_size};
pub use written::{CurveText, ScriptLine, ScriptText, StopText, StopValue};

/// The hash of a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct TextHash(u128);

impl TextHash {
    /// The hash of a text: the first 16 bytes of its BLAKE3 hash.
    pub fn of(text: &str) -> Self {
        let mut first = [0; 16];
        first.copy_from_slice(&blake3::hash(text.as_bytes()).as_bytes()[..16]);
        TextHash(u128::from_le_bytes(first))
    }
}

impl std::fmt::Display for TextHash {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{:032x}", self.0)
    }
}

impl std::str::FromStr for TextHash {
    type Err = EditError;

    fn from_str(text: &str) -> Result<Self, EditError> {
        let digits = text.len() == 32 && text.bytes().all(|b| b.is_ascii_hexdigit());
        match u128::from_str_radix(text, 16) {
            Ok(hash) if digits => Ok(TextHash(hash)),
            _ => Err(EditError::BadHash),
        }
    }
}

/// Why an edit cannot be made or applied.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum EditError {
    /// The text is not the one that the edit was made for.
    #[error("the text has changed since this edit was made")]
    Stale,
    /// Two edits change the same place.
    #[error("another edit changes the same place")]
    Conflict,
    /// A range that is not in the text, or ranges that overlap.
    #[error("the ranges of an edit must be in the text and must not overlap")]
    BadRanges,
    /// A hash that is not 32 hexadecimal digits.
    #[error("a text hash has 32 hexadecimal digits")]
    BadHash,
    /// There is nothing of the wanted kind there.
    #[error("there is no {0} here")]
    Missing(&'static str),
    /// The result would not be a book any more.
    #[error("{0}")]
    Invalid(String),
}

/// A range of a text and what replaces it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Replacement {
    /// Bytes of the text; empty to insert.
    pub range: Range<usize>,
    /// The new text; empty to remove.
    pub text: String,
}

/// A change of one text: ranges in its order, with what replaces them.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edit {
    made_for: TextHash,
    length: usize,
    replacements: Vec<Replacement>,
}

impl Edit {
    /// Makes an edit of a text. Replacements that change nothing are left out.
    ///
    /// # Errors
    /// If ranges overlap, are not in the text, or split a character.
    pub fn new(text: &str, replacements: Vec<Replacement>) -> Result<Edit, EditError> {
        let mut replacements = replacements;
        for Replacement { range, .. } in &replacements {
            let split = !text.is_char_boundary(range.start) || !text.is_char_boundary(range.end);
            if range.start > range.end || range.end > text.len() || split {
                return Err(EditError::BadRanges);
            }
        }
        replacements.retain(|new| text[new.range.clone()] != new.text);
        replacements.sort_by_key(|new| (new.range.start, new.range.end));
        if replacements.windows(2).any(|two| clash(&two[0].range, &two[1].range)) {
            return Err(EditError::BadRanges);
        }
        Ok(Edit { made_for: TextHash::of(text), length: text.len(), replacements })
    }

    /// Makes an edit that replaces one range.
    ///
    /// # Errors
    /// As [`Edit::new`].
    pub fn replace(text: &str, range: Range<usize>, new: &str) -> Result<Edit, EditError> {
        Edit::new(text, vec![Replacement { range, text: new.to_owned() }])
    }

    /// The smallest edit of whole lines, each without what both have in common, that turns a text
    /// into another.
    pub fn between(text: &str, other: &str) -> Edit {
        let replacements = layout::difference(text, other);
        Edit { made_for: TextHash::of(text), length: text.len(), replacements }
    }

    /// The hash of the text that it was made for.
    pub fn made_for(&self) -> TextHash {
        self.made_for
    }

    /// The replaced ranges, in the order of the text.
    pub fn replacements(&self) -> &[Replacement] {
        &self.replacements
    }

    /// Whether it changes nothing.
    pub fn is_empty(&self) -> bool {
        self.replacements.is_empty()
    }

    /// The text with the edit applied.
    ///
    /// # Errors
    /// If it is not the text that the edit was made for.
    pub fn apply(&self, text: &str) -> Result<String, EditError> {
        if text.len() != self.length || TextHash::of(text) != self.made_for {
            return Err(EditError::Stale);
        }
        let mut out = String::with_capacity(text.len());
        let mut at = 0;
        for Replacement { range, text: new } in &self.replacements {
            out.push_str(&text[at..range.start]);
            out.push_str(new);
            at = range.end;
        }
        out.push_str(&text[at..]);
        Ok(out)
    }

    /// The edit that turns the result back into the text that this was made for.
    ///
    /// # Errors
    /// If it is not the text that the edit was made for.
    pub fn inverse(&self, text: &str) -> Result<Edit, EditError> {
        let after = self.apply(text)?;
        let (mut grown, mut replacements) = (0isize, Vec::with_capacity(self.replacements.len()));
        for Replacement { range, text: new } in &self.replacements {
            let start = range.start.wrapping_add_signed(grown);
            let back = text[range.clone()].to_owned();
            replacements.push(Replacement { range: start..start + new.len(), text: back });
            grown += new.len() as isize - range.len() as isize;
        }
        Ok(Edit { made_for: TextHash::of(&after), length: after.len(), replacements })
    }

    /// Both edits of one text as one.
    ///
    /// # Errors
    /// [`EditError::Stale`] if they were made for different texts, [`EditError::Conflict`] if they
    /// change the same place. The order of the two does not matter.
    pub fn merge(&self, other: &Edit) -> Result<Edit, EditError> {
        if self.made_for != other.made_for || self.length != other.length {
            return Err(EditError::Stale);
        }
        let mut replacements = self.replacements.clone();
        replacements.extend(other.replacements.iter().cloned());
        replacements.sort_by_key(|new| (new.range.start, new.range.end));
        if replacements.windows(2).any(|two| touch(&two[0].range, &two[1].range)) {
            return Err(EditError::Conflict);
        }
        Ok(Edit { replacements, ..self.clone() })
    }

    /// The same edit for the text that another edit of the same text gives: what it does if the
    /// other comes first.
    ///
    /// # Errors
    /// As [`Edit::merge`]; also if `text` is not the one that both were made for.
    pub fn rebase(&self, other: &Edit, text: &str) -> Result<Edit, EditError> {
        self.merge(other)?;
        let after = other.apply(text)?;
        let moved = |at: usize| {
            let before = other.replacements.iter().take_while(|new| new.range.start < at);
            let grown = before.map(|new| new.text.len() as isize - new.range.len() as isize);
            at.wrapping_add_signed(grown.sum())
        };
        let each = self.replacements.iter().map(|new| {
            let start = moved(new.range.start);
            Replacement { range: start..start + new.range.len(), text: new.text.clone() }
        });
        let replacements = each.collect();
        Ok(Edit { made_for: TextHash::of(&after), length: after.len(), replacements })
    }

    /// This edit, then one of its result, as one edit of `text`.
    ///
    /// # Errors
    /// If `text` is not the one that this edit was made for, or `next` was not made for its result.
    pub fn then(&self, next: &Edit, text: &str) -> Result<Edit, EditError> {
        next.apply(&self.apply(text)?)?;
        let mut pieces = vec![Piece::Kept(0..text.len())];
        cut(&mut pieces, &self.replacements);
        cut(&mut pieces, &next.replacements);
        let (mut at, mut replacements) = (0, Vec::new());
        let mut new = String::new();
        for piece in pieces.into_iter().chain([Piece::Kept(text.len()..text.len())]) {
            match piece {
                Piece::New(text) => new.push_str(&text),
                Piece::Kept(kept) => {
                    if kept.start > at || !new.is_empty() {
                        let text = std::mem::take(&mut new);
                        replacements.push(Replacement { range: at..kept.start, text });
                    }
                    at = kept.end;
                }
            }
        }
        Edit::new(text, replacements)
    }
}

/// A part of an edited text.
enum Piece {
    /// Bytes of the original text.
    Kept(Range<usize>),
    New(String),
}

impl Piece {
    fn len(&self) -> usize {
        match self {
            Piece::Kept(range) => range.len(),
            Piece::New(text) => text.len(),
        }
    }

    fn split(self, at: usize) -> (Piece, Piece) {
        match self {
            Piece::Kept(range) => {
                let middle = range.start + at;
                (Piece::Kept(range.start..middle), Piece::Kept(middle..range.end))
            }
            Piece::New(mut text) => {
                let rest = text.split_off(at);
                (Piece::New(text), Piece::New(rest))
            }
        }
    }
}

/// Replaces ranges of the text that pieces make.
fn cut(pieces: &mut Vec<Piece>, replacements: &[Replacement]) {
    let mut old = std::mem::take(pieces).into_iter();
    let mut rest = old.next();
    let mut at = 0;
    // Moves pieces up to a place to the front, or drops them.
    let mut advance = |to: usize, keep: bool, pieces: &mut Vec<Piece>| {
        while at < to {
            let Some(piece) = rest.take().or_else(|| old.next()) else { return };
            let here = piece.len().min(to - at);
            let (first, after) = piece.split(here);
            if keep && first.len() > 0 {
                pieces.push(first);
            }
            rest = Some(after).filter(|after| after.len() > 0);
            at += here;
        }
    };
    for Replacement { range, text } in replacements {
        advance(range.start, true, pieces);
        pieces.push(Piece::New(text.clone()));
        advance(range.end, false, pieces);
    }
    advance(usize::MAX, true, pieces);
}

/// Whether two ranges, the first starting first, cannot both be replaced.
fn clash(first: &Range<usize>, second: &Range<usize>) -> bool {
    second.start < first.end || first == second
}

/// Whether two edits of these ranges could depend on their order: they overlap, or one inserts at an
/// end of the other.
fn touch(first: &Range<usize>, second: &Range<usize>) -> bool {
    let inserts = first.is_empty() || second.is_empty();
    second.start < first.end || inserts && second.start == first.end || first == second
}

/// Edits of several texts: the book, those that it uses, and files of rehearsals, by their index.
pub type Edits = BTreeMap<usize, Edit>;
