//! Diagnostics as data: what is wrong, where, what was expected, and a suggestion. The command
//! formats them.

use std::ops::Range;

/// The severity of a diagnostic.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Severity {
    /// The book is valid.
    Warning,
    /// The book is invalid.
    Error,
}

/// A source location with a label.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Label {
    /// Index of the file: 0 is the book, others are imported books in the order in which they were
    /// read. `None` until it is reported.
    pub source: Option<usize>,
    /// Byte range in the text.
    pub range: Range<usize>,
    /// The label; may be empty.
    pub text: String,
}

/// A diagnostic.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Diagnostic {
    /// The severity.
    pub severity: Severity,
    /// The stable code of a check; `None` for errors.
    pub code: Option<&'static str>,
    /// What is wrong, in lower case.
    pub message: String,
    /// The locations: the first is the primary one, others are related.
    pub labels: Vec<Label>,
    /// Help: what to write instead, or further information.
    pub help: Option<String>,
}

impl Diagnostic {
    /// Creates an error at a location.
    pub fn error(range: Range<usize>, message: impl Into<String>) -> Self {
        Diagnostic {
            severity: Severity::Error,
            code: None,
            message: message.into(),
            labels: vec![Label { source: None, range, text: String::new() }],
            help: None,
        }
    }

    /// Creates a finding of a check at a location.
    pub fn warning(code: &'static str, range: Range<usize>, message: impl Into<String>) -> Self {
        Diagnostic {
            severity: Severity::Warning,
            code: Some(code),
            ..Diagnostic::error(range, message)
        }
    }

    /// Sets the label of the primary location.
    pub fn say(mut self, text: impl Into<String>) -> Self {
        if let Some(label) = self.labels.first_mut() {
            label.text = text.into();
        }
        self
    }

    /// Adds a related location.
    pub fn also(mut self, range: Range<usize>, text: impl Into<String>) -> Self {
        self.labels.push(Label { source: None, range, text: text.into() });
        self
    }

    /// Adds help.
    pub fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(help.into());
        self
    }

    /// Sets the file of locations that have none yet.
    pub fn in_source(mut self, source: usize) -> Self {
        for label in &mut self.labels {
            label.source.get_or_insert(source);
        }
        self
    }

    /// The file of the primary location.
    pub fn source(&self) -> usize {
        self.labels.first().and_then(|label| label.source).unwrap_or(0)
    }

    /// The byte range of the primary location.
    pub fn range(&self) -> Range<usize> {
        self.labels.first().map_or(0..0, |label| label.range.clone())
    }
}

/// Lines and columns of a text.
#[derive(Clone, Debug)]
pub struct Lines {
    starts: Vec<usize>,
}

impl Lines {
    /// Creates an index of a text.
    pub fn of(text: &str) -> Self {
        let ends = text.bytes().enumerate().filter(|(_, b)| *b == b'\n').map(|(n, _)| n + 1);
        Lines { starts: std::iter::once(0).chain(ends).collect() }
    }

    /// The line of a byte offset, from 1.
    pub fn line(&self, at: usize) -> u32 {
        self.starts.partition_point(|start| *start <= at) as u32
    }

    /// Line and column of a byte offset, both from 1; columns count characters.
    pub fn position(&self, text: &str, at: usize) -> (u32, u32) {
        let line = self.line(at);
        let start = self.starts[line as usize - 1];
        let column = text.get(start..at).map_or(0, |before| before.chars().count());
        (line, column as u32 + 1)
    }

    /// The text of a line, from 1, without its line ending.
    pub fn text<'t>(&self, text: &'t str, line: u32) -> &'t str {
        let start = self.starts[line as usize - 1];
        let end = self.starts.get(line as usize).map_or(text.len(), |next| next - 1);
        text[start..end].trim_end_matches('\r')
    }
}
