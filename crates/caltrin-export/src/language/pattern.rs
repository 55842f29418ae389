//! Patterns of a language: text with slots in braces, as in `{a} + {b}`.

use std::fmt;

use crate::document::Document;

/// A piece of a pattern.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Piece {
    /// Text.
    Text(String),
    /// A slot.
    Slot(String),
}

/// A pattern.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct Pattern {
    pub(super) pieces: Vec<Piece>,
}

/// What a slot has around it, which says how tightly its expression must bind.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Around {
    /// Brackets or commas: anything may stand there.
    Closed,
    /// An operator's sign on its left, on its right, or on both.
    Operator {
        /// Whether it is the left operand.
        first: bool,
    },
    /// A point follows, or a bracket that opens: only what binds tightest may stand there.
    Called,
}

impl Pattern {
    /// Reads a pattern. A brace that begins no slot stands for itself; `{=` is a brace where a slot would begin.
    pub fn read(text: &str) -> Pattern {
        let mut pieces = Vec::new();
        let mut plain = String::new();
        let mut rest = text;
        while let Some(at) = rest.find('{') {
            plain.push_str(&rest[..at]);
            let inner = &rest[at + 1..];
            if let Some(after) = inner.strip_prefix('=') {
                plain.push('{');
                rest = after;
                continue;
            }
            let end =
                inner.find(|c: char| !c.is_ascii_lowercase() && c != '_').unwrap_or(inner.len());
            if end > 0 && inner[end..].starts_with('}') {
                if !plain.is_empty() {
                    pieces.push(Piece::Text(std::mem::take(&mut plain)));
                }
                pieces.push(Piece::Slot(inner[..end].to_owned()));
                rest = &inner[end + 1..];
            } else {
                plain.push('{');
                rest = inner;
            }
        }
        plain.push_str(rest);
        if !plain.is_empty() {
            pieces.push(Piece::Text(plain));
        }
        Pattern { pieces }
    }

    /// The names of its slots, in order.
    pub fn slots(&self) -> impl Iterator<Item = &str> {
        self.pieces.iter().filter_map(|piece| match piece {
            Piece::Slot(name) => Some(name.as_str()),
            Piece::Text(_) => None,
        })
    }

    /// Its text with texts in its slots.
    pub fn fill(&self, values: &[(&str, &str)]) -> String {
        let piece = |piece: &Piece| match piece {
            Piece::Text(text) => text.clone(),
            Piece::Slot(name) => {
                let value = values.iter().find(|(slot, _)| slot == name);
                value.map_or(String::new(), |(_, value)| (*value).to_owned())
            }
        };
        self.pieces.iter().map(piece).collect()
    }

    /// A document with documents in its slots. Where `breaks`, a blank before an operator becomes a line break if
    /// need be, and what stands between braces or after a comma goes on a line of its own.
    pub(super) fn document(
        &self,
        indent: usize,
        breaks: bool,
        mut slot: impl FnMut(&str) -> Document,
    ) -> Document {
        let mut parts: Vec<Document> = Vec::new();
        // Parts of open braces.
        let mut open: Vec<Vec<Document>> = Vec::new();
        for (n, piece) in self.pieces.iter().enumerate() {
            let text = match piece {
                Piece::Slot(name) => {
                    parts.push(slot(name));
                    continue;
                }
                Piece::Text(text) => text.as_str(),
            };
            for (k, line) in text.split('\n').enumerate() {
                if k > 0 {
                    parts.push(Document::Line);
                }
                let mut line = line;
                if breaks && k == 0 {
                    if let (Some(rest), false) = (line.strip_prefix(" }"), open.is_empty()) {
                        let inner = Document::Parts(std::mem::take(&mut parts)).indented(indent);
                        parts = open.pop().unwrap_or_default();
                        parts.extend([inner, Document::Blank, Document::text("}")]);
                        line = rest;
                    } else if let (Some(rest), true) = (line.strip_prefix(' '), n > 0) {
                        if rest.starts_with('{') {
                            parts.push(Document::text(" "));
                        } else {
                            parts.push(Document::Blank);
                        }
                        line = rest;
                    }
                }
                if let (true, Some(before)) = (breaks, line.strip_suffix("{ ")) {
                    parts.push(Document::text(format!("{before}{{")));
                    open.push(std::mem::take(&mut parts));
                    parts.push(Document::Blank);
                } else if !line.is_empty() {
                    parts.push(Document::text(line));
                }
            }
        }
        Document::Parts(parts)
    }

    /// Whether what stands around a slot keeps its operands together wherever it stands.
    pub(super) fn encloses(&self, slot: &str) -> bool {
        let pieces = self.pieces.iter().enumerate();
        let mut own = pieces.filter(|(_, piece)| **piece == Piece::Slot(slot.to_owned()));
        own.all(|(n, _)| self.around(n) == Around::Closed)
    }

    /// What stands around the n-th piece, which is a slot.
    pub(super) fn around(&self, n: usize) -> Around {
        let text = |piece: Option<&Piece>| match piece {
            Some(Piece::Text(text)) => text.trim().to_owned(),
            Some(Piece::Slot(_)) | None => String::new(),
        };
        let before = n.checked_sub(1).map_or(String::new(), |n| text(self.pieces.get(n)));
        let after = text(self.pieces.get(n + 1));
        let opened = before.ends_with(['(', '[', ',', '{']) || before.ends_with("if");
        let closed = after.starts_with([')', ']', ',', '}', '{', ';']);
        if after.starts_with(['.', '[', '(']) {
            return Around::Called;
        }
        if opened && closed {
            return Around::Closed;
        }
        Around::Operator { first: before.is_empty() || opened }
    }

    /// The signs beside the n-th piece, which is a slot.
    pub(super) fn signs(&self, n: usize) -> [String; 2] {
        let sign = |text: &str, last: bool| {
            let mut words = text.split(' ').filter(|word| !word.is_empty());
            let word = if last { words.next_back() } else { words.next() };
            word.unwrap_or_default().to_owned()
        };
        let text = |piece: Option<&Piece>, last: bool| match piece {
            Some(Piece::Text(text)) => sign(text, last),
            Some(Piece::Slot(_)) | None => String::new(),
        };
        let before = n.checked_sub(1).map_or(String::new(), |n| text(self.pieces.get(n), true));
        [before, text(self.pieces.get(n + 1), false)]
    }
}

impl fmt::Display for Pattern {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for piece in &self.pieces {
            match piece {
                Piece::Text(text) => f.write_str(text)?,
                Piece::Slot(name) => write!(f, "{{{name}}}")?,
            }
        }
        Ok(())
    }
}

impl<'de> serde::Deserialize<'de> for Pattern {
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        Ok(Pattern::read(&String::deserialize(from)?))
    }
}
