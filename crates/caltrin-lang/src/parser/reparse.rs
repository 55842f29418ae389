//! Parsing of a changed text: statements of the book that the change does not touch keep their trees.

use std::ops::Range;

use rowan::{GreenNode, GreenNodeBuilder, Language, NodeOrToken};

use super::{Parse, Parser, Renamed};
use crate::syntax::{Lightbook, MOST_TOKENS, SyntaxKind, lex};

impl Parse {
    /// Parses a text that was made from this one by a change: as [`super::parse`] would, but only the
    /// statements of the book around the change are read again.
    pub fn edited(&self, before: &str, text: &str) -> Parse {
        self.spliced(before, text).unwrap_or_else(|| super::parse(text))
    }

    /// `None` if the change may matter to other statements.
    fn spliced(&self, before: &str, text: &str) -> Option<Parse> {
        let [head, tail] = unchanged(before.as_bytes(), text.as_bytes());
        let [start, end] = self.statements(head, before.len() - tail)?;
        // Statements with errors can reach into those that follow.
        let touched = start.at..end.at;
        let clean = |range: Range<usize>| touched.start <= range.start && range.end <= touched.end;
        if !self.diagnostics.iter().all(|told| told.labels.iter().all(|l| clean(l.range.clone()))) {
            return None;
        }
        let middle = start.at..text.len() - (before.len() - end.at);
        let (mut tokens, unread) = lex(&text[middle.clone()]);
        let count = self.tokens + tokens.len();
        if unread.is_some() || count >= MOST_TOKENS || !closes(&tokens) {
            return None;
        }
        for token in &mut tokens {
            (token.start, token.end) = (token.start + middle.start, token.end + middle.start);
        }
        let mut parser = Parser::new(text, tokens);
        let read = parser.statements();
        if end.at < before.len() && !ends_line(&read) {
            return None;
        }
        let green = self.green.splice_children(
            start.child..end.child,
            read.children().map(|child| child.to_owned()).collect::<Vec<_>>(),
        );
        let moved = |renamed: &Renamed| {
            let range = &renamed.range;
            let shift = |at: usize| at + middle.end - end.at;
            Renamed { range: shift(range.start)..shift(range.end), ..renamed.clone() }
        };
        let first = self.renamed.iter().take_while(|one| one.range.start < start.at).cloned();
        let last = self.renamed.iter().filter(|one| one.range.start >= end.at).map(moved);
        let renamed = first.chain(std::mem::take(&mut parser.renamed)).chain(last).collect();
        Some(Parse { green, diagnostics: parser.diagnostics, renamed, tokens: count })
    }

    /// The statements of the book around the bytes from `head` to `tail`: where the first begins, and
    /// where what follows the last begins. `None` within the first statement of a book, its name.
    fn statements(&self, head: usize, tail: usize) -> Option<[Boundary; 2]> {
        let (mut at, mut named, mut start) = (0, false, None);
        for (n, child) in self.green.children().enumerate() {
            let from = at;
            at += usize::from(child.text_len());
            named |= child.kind() == Lightbook::kind_to_raw(SyntaxKind::Header);
            if !(named && is_line_end(&child)) {
                continue;
            }
            let boundary = Boundary { at, child: n + 1 };
            if at <= head {
                start = Some(boundary);
            } else if from >= tail {
                return Some([start?, boundary]);
            }
        }
        Some([start?, Boundary { at, child: self.green.children().len() }])
    }
}

/// A place between two children of a book.
#[derive(Clone, Copy)]
struct Boundary {
    at: usize,
    child: usize,
}

type Child<'g> = NodeOrToken<&'g rowan::GreenNodeData, &'g rowan::GreenTokenData>;

fn is_line_end(child: &Child<'_>) -> bool {
    child.kind() == Lightbook::kind_to_raw(SyntaxKind::LineEnd)
}

fn ends_line(read: &GreenNode) -> bool {
    read.children().last().is_none_or(|last| is_line_end(&last))
}

/// How many bytes at the start and at the end of two texts are the same, without overlap.
pub(crate) fn unchanged(before: &[u8], after: &[u8]) -> [usize; 2] {
    let same = before.iter().zip(after).take_while(|(a, b)| a == b).count();
    let most = before.len().min(after.len()) - same;
    let ends = before.iter().rev().zip(after.iter().rev()).take(most);
    [same, ends.take_while(|(a, b)| a == b).count()]
}

/// Whether every bracket is closed.
fn closes(tokens: &[crate::syntax::Lexed]) -> bool {
    let mut open = 0i64;
    let mut least = 0;
    for token in tokens {
        match token.kind {
            SyntaxKind::ParenOpen | SyntaxKind::BracketOpen | SyntaxKind::BraceOpen => open += 1,
            SyntaxKind::ParenClose | SyntaxKind::BracketClose | SyntaxKind::BraceClose => {
                open -= 1;
                least = open.min(least);
            }
            _ => {}
        }
    }
    open == 0 && least == 0
}

impl Parser<'_> {
    /// The statements of a book, without its name.
    fn statements(&mut self) -> GreenNode {
        self.builder.start_node(Lightbook::kind_to_raw(SyntaxKind::Book));
        self.declarations();
        self.builder.finish_node();
        std::mem::replace(&mut self.builder, GreenNodeBuilder::new()).finish()
    }
}
