//! Messages as data: what is wrong, where, what was expected, and the nearest right thing. How
//! they look is the command's affair.

use std::ops::Range;

/// How grave a message is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Severity {
    /// Worth knowing; the book works.
    Warning,
    /// The book does not work.
    Error,
}

/// A place in the text with a few words.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Label {
    /// Which text: 0 is the book, others are those that it uses, in the order in which they were read.
    /// `None` until it is reported.
    pub source: Option<usize>,
    /// Bytes of the text.
    pub range: Range<usize>,
    /// What is to be said there; may be empty.
    pub text: String,
}

/// One message.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Diagnostic {
    /// How grave.
    pub severity: Severity,
    /// The stable code of a check; errors have none.
    pub code: Option<&'static str>,
    /// What is wrong, in lower case.
    pub message: String,
    /// Where: the first is the place itself, others are related places.
    pub labels: Vec<Label>,
    /// What to write instead, or what to know.
    pub help: Option<String>,
}

impl Diagnostic {
    /// An error at a place.
    pub fn error(range: Range<usize>, message: impl Into<String>) -> Self {
        Diagnostic {
            severity: Severity::Error,
            code: None,
            message: message.into(),
            labels: vec![Label { source: None, range, text: String::new() }],
            help: None,
        }
    }

    /// A finding of a check at a place.
    pub fn warning(code: &'static str, range: Range<usize>, message: impl Into<String>) -> Self {
        Diagnostic {
            severity: Severity::Warning,
            code: Some(code),
            ..Diagnostic::error(range, message)
        }
    }

    /// Words at the place itself.
    pub fn say(mut self, text: impl Into<String>) -> Self {
        if let Some(label) = self.labels.first_mut() {
            label.text = text.into();
        }
        self
    }

    /// A related place.
    pub fn also(mut self, range: Range<usize>, text: impl Into<String>) -> Self {
        self.labels.push(Label { source: None, range, text: text.into() });
        self
    }

    /// What to write instead.
    pub fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(help.into());
        self
    }

    /// Says which text the places are in that have none yet.
    pub fn in_source(mut self, source: usize) -> Self {
        for label in &mut self.labels {
            label.source.get_or_insert(source);
        }
        self
    }

    /// Which text it is in.
    pub fn source(&self) -> usize {
        self.labels.first().and_then(|label| label.source).unwrap_or(0)
    }

    /// Where it is.
    pub fn range(&self) -> Range<usize> {
        self.labels.first().map_or(0..0, |label| label.range.clone())
    }
}

/// Line and column of places in a text.
#[derive(Clone, Debug)]
pub struct Lines {
    starts: Vec<usize>,
}

impl Lines {
    /// Of this text.
    pub fn of(text: &str) -> Self {
        let ends = text.bytes().enumerate().filter(|(_, b)| *b == b'\n').map(|(n, _)| n + 1);
        Lines { starts: std::iter::once(0).chain(ends).collect() }
    }

    /// The line of a byte, from 1.
    pub fn line(&self, at: usize) -> u32 {
        self.starts.partition_point(|start| *start <= at) as u32
    }

    /// Line and column of a byte, both from 1; the column counts characters.
    pub fn position(&self, text: &str, at: usize) -> (u32, u32) {
        let line = self.line(at);
        let start = self.starts[line as usize - 1];
        let column = text.get(start..at).map_or(0, |before| before.chars().count());
        (line, column as u32 + 1)
    }

    /// The text of a line, from 1, without its end.
    pub fn text<'t>(&self, text: &'t str, line: u32) -> &'t str {
        let start = self.starts[line as usize - 1];
        let end = self.starts.get(line as usize).map_or(text.len(), |next| next - 1);
        text[start..end].trim_end_matches('\r')
    }
}
