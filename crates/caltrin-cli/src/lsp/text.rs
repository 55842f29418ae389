//! Texts as the protocol sees them: lines, columns in code units, and files as URIs.

use std::path::{Path, PathBuf};

use lsp_types::{Position, Range, TextDocumentContentChangeEvent, Uri};
use url::Url;

/// How columns are counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Columns {
    /// In bytes.
    Utf8,
    /// In 16-bit code units, as clients count if nothing else was agreed on.
    Utf16,
}

/// A text with the starts of its lines.
#[derive(Clone, Debug)]
pub struct Document {
    pub text: String,
    pub version: i32,
    starts: Vec<usize>,
}

impl Document {
    pub fn new(text: String, version: i32) -> Self {
        let ends = text.match_indices('\n').map(|(n, _)| n + 1);
        let starts = std::iter::once(0).chain(ends).collect();
        Document { text, version, starts }
    }

    /// The byte of a position. One beyond a line is its end, one beyond the text the text's end.
    pub fn offset(&self, position: Position, columns: Columns) -> usize {
        let Some(start) = self.starts.get(position.line as usize).copied() else {
            return self.text.len();
        };
        let next = self.starts.get(position.line as usize + 1);
        let line = &self.text[start..next.copied().unwrap_or(self.text.len())];
        let line = line.trim_end_matches(['\n', '\r']);
        let mut left = position.character as usize;
        for (n, c) in line.char_indices() {
            let size = match columns {
                Columns::Utf8 => c.len_utf8(),
                Columns::Utf16 => c.len_utf16(),
            };
            // Half a character counts as its start.
            if left < size {
                return start + n;
            }
            left -= size;
        }
        start + line.len()
    }

    /// The position of a byte.
    pub fn position(&self, at: usize, columns: Columns) -> Position {
        let at = at.min(self.text.len());
        let line = self.starts.partition_point(|start| *start <= at) - 1;
        let before = &self.text[self.starts[line]..at];
        let character = match columns {
            Columns::Utf8 => before.len(),
            Columns::Utf16 => before.encode_utf16().count(),
        };
        Position { line: line as u32, character: character as u32 }
    }

    pub fn range(&self, range: std::ops::Range<usize>, columns: Columns) -> Range {
        Range { start: self.position(range.start, columns), end: self.position(range.end, columns) }
    }

    pub fn bytes(&self, range: Range, columns: Columns) -> std::ops::Range<usize> {
        let start = self.offset(range.start, columns);
        start..self.offset(range.end, columns).max(start)
    }

    /// Applies the changes of one notification, in their order.
    pub fn change(
        &mut self,
        changes: Vec<TextDocumentContentChangeEvent>,
        version: i32,
        columns: Columns,
    ) {
        for change in changes {
            let text = match change.range {
                None => change.text,
                Some(range) => {
                    let mut text = std::mem::take(&mut self.text);
                    let old =
                        Document { text: String::new(), version, starts: self.starts.clone() };
                    let at = Document { text: text.clone(), ..old }.bytes(range, columns);
                    text.replace_range(at, &change.text);
                    text
                }
            };
            *self = Document::new(text, version);
        }
        self.version = version;
    }
}

/// The file of a URI, if it is one.
pub fn path_of(uri: &Uri) -> Option<PathBuf> {
    Url::parse(uri.as_str()).ok()?.to_file_path().ok()
}

/// The URI of a file.
pub fn uri_of(path: &Path) -> Option<Uri> {
    let absolute = std::path::absolute(path).ok()?;
    Url::from_file_path(absolute).ok()?.as_str().parse().ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn positions_count_code_units_and_wrong_ones_are_clamped() {
        let document = Document::new("aé\r\n😀b\n".to_owned(), 1);
        for (at, utf8, utf16) in [
            (0, (0, 0), (0, 0)),
            (3, (0, 3), (0, 2)),
            (5, (1, 0), (1, 0)),
            (9, (1, 4), (1, 2)),
            (11, (2, 0), (2, 0)),
        ] {
            let of = |(line, character): (u32, u32)| Position { line, character };
            assert_eq!(document.position(at, Columns::Utf8), of(utf8));
            assert_eq!(document.position(at, Columns::Utf16), of(utf16));
            assert_eq!(document.offset(of(utf8), Columns::Utf8), at);
            assert_eq!(document.offset(of(utf16), Columns::Utf16), at);
        }
        let at = |line, character| document.offset(Position { line, character }, Columns::Utf16);
        assert_eq!([at(0, 99), at(99, 0), at(1, 1), at(1, u32::MAX)], [3, 11, 5, 10]);
    }

    #[test]
    fn changes_apply_in_their_order() {
        let mut document = Document::new("one two".to_owned(), 1);
        let change = |start: u32, end: u32, text: &str| TextDocumentContentChangeEvent {
            range: Some(Range {
                start: Position { line: 0, character: start },
                end: Position { line: 0, character: end },
            }),
            range_length: None,
            text: text.to_owned(),
        };
        document.change(vec![change(0, 3, "1\n"), change(0, 1, "x")], 2, Columns::Utf16);
        assert_eq!(document.text, "x\n two");
        assert_eq!(document.version, 2);
        assert_eq!(document.position(3, Columns::Utf8).line, 1);
    }
}
