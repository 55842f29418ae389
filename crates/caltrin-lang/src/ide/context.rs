//! What stands around a place in a half-written text: the blocks and calls that are open, and the
//! statement so far. It reads tokens alone.

use std::ops::Range;

use crate::syntax::{Lexed, SyntaxKind, lex};

/// A call that is open.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct OpenCall<'t> {
    /// What is called; empty for plain parentheses.
    pub callee: &'t str,
    /// Its first argument, if it is a single name.
    pub first: Option<&'t str>,
    /// How many commas stand before the place.
    pub argument: usize,
    /// The first word of the argument that is being written.
    pub word: Option<&'t str>,
    /// How many words and signs the argument that is being written has.
    pub length: usize,
}

/// What stands around a place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Context<'t> {
    /// The bytes of the word that is being written, up to the place.
    pub prefix: Range<usize>,
    /// The words of the statements of all open braces, outermost first.
    pub blocks: Vec<Vec<&'t str>>,
    /// The words and signs of the statement before the prefix.
    pub statement: Vec<(SyntaxKind, &'t str)>,
    /// The open parentheses of the statement, outermost first.
    pub calls: Vec<OpenCall<'t>>,
    /// Whether the place is in a comment.
    pub comment: bool,
    /// The text in quotes that is being written, up to the place.
    pub quoted: Option<&'t str>,
    /// The digits that touch the prefix, as in `45m`.
    pub digits: bool,
}

impl<'t> Context<'t> {
    /// The context of a byte of a text.
    pub fn at(text: &'t str, at: usize) -> Self {
        let at = (0..=at.min(text.len())).rev().find(|n| text.is_char_boundary(*n)).unwrap_or(0);
        let (tokens, _) = lex(&text[..at]);
        Context::of(text, &tokens, at)
    }

    /// Of the tokens before a place.
    pub fn of(text: &'t str, tokens: &[Lexed], at: usize) -> Self {
        let said = |token: &Lexed| &text[token.start..token.end];
        let mut context = Context {
            prefix: at..at,
            blocks: Vec::new(),
            statement: Vec::new(),
            calls: Vec::new(),
            comment: false,
            quoted: None,
            digits: false,
        };
        let last = tokens.last().filter(|last| last.end == at);
        let mut tokens = tokens;
        if let Some(last) = last {
            match last.kind {
                SyntaxKind::Comment => context.comment = true,
                SyntaxKind::OpenText => {
                    context.quoted = Some(said(last).trim_start_matches('"'));
                    tokens = &tokens[..tokens.len() - 1];
                }
                SyntaxKind::Name | SyntaxKind::HyphenWord | SyntaxKind::Hash => {
                    context.prefix = last.start..at;
                    tokens = &tokens[..tokens.len() - 1];
                }
                SyntaxKind::Number => {
                    let unit =
                        said(last).trim_start_matches(|c: char| !c.is_alphabetic() && c != '%');
                    context.prefix = at - unit.len()..at;
                    context.digits = true;
                    tokens = &tokens[..tokens.len() - 1];
                }
                _ => {}
            }
        }
        for (n, token) in tokens.iter().enumerate() {
            let touches = n > 0 && tokens[n - 1].end == token.start;
            context.step(token.kind, said(token), touches);
        }
        context
    }

    fn step(&mut self, kind: SyntaxKind, text: &'t str, touches: bool) {
        match kind {
            SyntaxKind::Blank | SyntaxKind::Comment => return,
            SyntaxKind::LineEnd | SyntaxKind::Semicolon => {
                self.statement.clear();
                self.calls.clear();
                return;
            }
            SyntaxKind::BraceOpen => {
                let words = self.statement.iter().map(|(_, text)| *text).collect();
                self.blocks.push(words);
                self.statement.clear();
                self.calls.clear();
                return;
            }
            SyntaxKind::BraceClose => {
                self.blocks.pop();
                self.statement.clear();
                self.calls.clear();
                return;
            }
            SyntaxKind::ParenOpen => {
                let callee = match self.statement.last() {
                    Some((SyntaxKind::Name | SyntaxKind::HyphenWord, name)) if touches => name,
                    _ => "",
                };
                if let Some(call) = self.calls.last_mut() {
                    call.length += 1;
                }
                let (first, argument, word, length) = (None, 0, None, 0);
                self.calls.push(OpenCall { callee, first, argument, word, length });
            }
            SyntaxKind::ParenClose => {
                self.calls.pop();
            }
            SyntaxKind::Comma => {
                if let Some(call) = self.calls.last_mut() {
                    call.argument += 1;
                    (call.word, call.length) = (None, 0);
                }
            }
            _ => {
                if let Some(call) = self.calls.last_mut() {
                    if call.length == 0 && kind == SyntaxKind::Name {
                        call.word = Some(text);
                        if call.argument == 0 {
                            call.first = Some(text);
                        }
                    }
                    call.length += 1;
                }
            }
        }
        self.statement.push((kind, text));
    }

    /// The first word of the statement.
    pub fn first(&self) -> Option<&'t str> {
        self.statement.first().map(|(_, text)| *text)
    }

    /// The word or sign before the prefix.
    pub fn before(&self) -> Option<(SyntaxKind, &'t str)> {
        self.statement.last().copied()
    }

    /// The first word of the innermost block.
    pub fn block(&self) -> Option<&'t str> {
        self.blocks.last().and_then(|words| words.first().copied())
    }

    /// The names of the path that ends before the prefix: `sun` in `sun.hei`.
    pub fn path(&self) -> Vec<&'t str> {
        let mut names = Vec::new();
        let mut rest = &self.statement[..];
        while let [before @ .., (SyntaxKind::Dot, _)] = rest {
            // `quay[2].glow`: the index does not matter.
            let mut before = before;
            while let [more @ .., (SyntaxKind::BracketClose, _)] = before {
                let open = more.iter().rposition(|(kind, _)| *kind == SyntaxKind::BracketOpen);
                before = &more[..open.unwrap_or(0)];
            }
            match before {
                [more @ .., (SyntaxKind::Name, name)] => {
                    names.insert(0, *name);
                    rest = more;
                }
                _ => break,
            }
        }
        names
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(text: &str) -> Context<'_> {
        Context::at(text, text.len())
    }

    #[test]
    fn blocks_calls_and_words_are_found_in_half_a_book() {
        let context =
            at("lightbook \"A\"\nlight mast[8] spot {\n  intensity 3lm * held(80%..100%, ev");
        assert_eq!(context.block(), Some("light"));
        assert_eq!(context.calls.len(), 1);
        let call = &context.calls[0];
        assert_eq!((call.callee, call.argument, call.word), ("held", 1, None));
        assert_eq!(context.prefix.len(), 2);
        let context = at("lightbook \"A\"\nsignal s = pick(region, co");
        assert_eq!(context.calls[0].first, Some("region"));
        assert_eq!(at("a { b { c } d { e").blocks, [vec!["a"], vec!["d"]]);
        assert_eq!(at("x = sun.he").path(), ["sun"]);
        assert_eq!(at("return quay[2].glow.").path(), ["quay", "glow"]);
        assert!(at("x // wh").comment);
        assert_eq!(at("use \"st").quoted, Some("st"));
        let context = at("every 45m");
        assert!(context.digits && context.prefix.len() == 1);
    }
}
