//! Words of earlier versions and other spellings: what the parser does when it meets one.
//!
//! It reads an old word as the current one, so that nothing else in the book is reported because of it, and keeps
//! where it is: [`super::Parse::renamed`]. Reading a book reports old words; the formatter replaces them.

use std::ops::Range;

use super::Parser;
use crate::diagnostic::Diagnostic;
use crate::words;

/// A word that has a current form.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Renamed {
    /// The bytes of the word.
    pub range: Range<usize>,
    /// What replaces it.
    pub word: &'static str,
    /// The old and the current phrase; none for a spelling that is accepted as it is.
    pub phrase: Option<[&'static str; 2]>,
}

impl Renamed {
    /// The error for it, unless it is an accepted spelling.
    pub fn diagnostic(&self) -> Option<Diagnostic> {
        let [old, new] = self.phrase?;
        let message = format!("`{old}` is now written `{new}`");
        let help = format!("write `{new}`; `caltrin fmt` updates the whole book");
        Some(Diagnostic::error(self.range.clone(), message).help(help))
    }
}

/// A text with the current forms of its words.
pub fn updated(text: &str, renamed: &[Renamed]) -> String {
    let mut out = String::with_capacity(text.len());
    let mut end = 0;
    for word in renamed {
        out.push_str(&text[end..word.range.start]);
        out.push_str(word.word);
        end = word.range.end;
    }
    out.push_str(&text[end..]);
    out
}

impl Parser<'_> {
    /// The word that comes `skip` words from here is an old one.
    pub(super) fn old_word(&mut self, skip: usize, word: &'static str, phrase: [&'static str; 2]) {
        let token = self.ahead(skip);
        self.renamed.push(Renamed { range: token.start..token.end, word, phrase: Some(phrase) });
    }

    /// The next word may be an accepted spelling of another.
    pub(super) fn spelling(&mut self) {
        let token = self.ahead(0);
        let text = &self.text[token.start..token.end];
        if let Some((_, word)) = words::SPELLINGS.into_iter().find(|(other, _)| *other == text) {
            self.renamed.push(Renamed { range: token.start..token.end, word, phrase: None });
        }
    }

    /// The next word is the name of a function that is called.
    pub(super) fn called(&mut self) {
        let token = self.ahead(0);
        let text = &self.text[token.start..token.end];
        if let Some((old, word)) = words::OLD_FUNCTIONS.into_iter().find(|(old, _)| *old == text) {
            self.old_word(0, word, [old, word]);
        }
    }
}
