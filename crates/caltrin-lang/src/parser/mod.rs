//! The parser: from text to a lossless tree. It never fails; unreadable text becomes
//! [`SyntaxKind::Broken`] nodes, and each error is reported once.

mod declare;
mod expression;
mod renamed;
mod reparse;

use rowan::{Checkpoint, GreenNodeBuilder, Language};

use crate::diagnostic::Diagnostic;
use crate::syntax::{
    DEEPEST, Lexed, Lightbook, MOST_TOKENS, Node, SyntaxKind, Unread, is_reserved, lex,
};
use crate::words;
pub use renamed::{Renamed, updated};
pub(crate) use reparse::unchanged;

/// A tree and the syntax errors in it.
#[derive(Clone, Debug)]
pub struct Parse {
    green: rowan::GreenNode,
    /// Syntax errors, in the order of the text.
    pub diagnostics: Vec<Diagnostic>,
    /// Words that have a current form, in the order of the text.
    pub renamed: Vec<Renamed>,
    /// At least as many tokens as the text has.
    tokens: usize,
}

impl Parse {
    /// The root, a [`SyntaxKind::Book`].
    pub fn tree(&self) -> Node {
        Node::new_root(self.green.clone())
    }

    /// Syntax errors, and words of earlier versions.
    pub fn reported(&self) -> impl Iterator<Item = Diagnostic> + '_ {
        let old = self.renamed.iter().filter_map(Renamed::diagnostic);
        self.diagnostics.iter().cloned().chain(old)
    }
}

/// Maximum nesting depth of an expression.
const DEEPEST_EXPRESSION: usize = 160;
/// Maximum number of operators of an expression.
const MOST_OPERATORS: usize = 400;
/// Maximum number of reported syntax errors.
const MOST_MISTAKES: usize = 200;

/// Parses a lightbook.
pub fn parse(text: &str) -> Parse {
    let (tokens, unread) = lex(text);
    let count = tokens.len();
    let mut parser = Parser::new(text, tokens);
    parser.book();
    if let Some(unread) = unread {
        parser.tell_unread(unread);
    }
    Parse {
        green: parser.builder.finish(),
        diagnostics: parser.diagnostics,
        renamed: parser.renamed,
        tokens: count,
    }
}

struct Parser<'t> {
    text: &'t str,
    tokens: Vec<Lexed>,
    at: usize,
    builder: GreenNodeBuilder<'static>,
    diagnostics: Vec<Diagnostic>,
    renamed: Vec<Renamed>,
    depth: usize,
    links: usize,
    /// Whether a rehearsal is being parsed, in which paths can have indices.
    rehearses: bool,
}

impl<'t> Parser<'t> {
    fn new(text: &'t str, tokens: Vec<Lexed>) -> Self {
        Parser {
            text,
            tokens,
            at: 0,
            builder: GreenNodeBuilder::new(),
            diagnostics: Vec::new(),
            renamed: Vec::new(),
            depth: 0,
            links: 0,
            rehearses: false,
        }
    }
}

impl Parser<'_> {
    fn ahead(&self, skip: usize) -> Lexed {
        self.tokens[self.at..].iter().filter(|t| !t.kind.is_trivia()).nth(skip).copied().unwrap_or(
            Lexed { kind: SyntaxKind::End, start: self.text.len(), end: self.text.len() },
        )
    }

    fn peek(&self) -> SyntaxKind {
        self.ahead(0).kind
    }

    fn word(&self, skip: usize) -> &str {
        let token = self.ahead(skip);
        match token.kind {
            SyntaxKind::Name | SyntaxKind::HyphenWord => {
                words::spelled(&self.text[token.start..token.end])
            }
            _ => "",
        }
    }

    /// Whether a parenthesis follows the `n`-th next token without a space.
    fn touches_bracket(&self, n: usize) -> bool {
        let name = self.ahead(n);
        let next = self.ahead(n + 1);
        next.kind == SyntaxKind::ParenOpen && next.start == name.end
    }

    fn at_statement_end(&self) -> bool {
        matches!(
            self.peek(),
            SyntaxKind::LineEnd | SyntaxKind::Semicolon | SyntaxKind::BraceClose | SyntaxKind::End
        )
    }

    fn raw(&mut self) {
        let token = self.tokens[self.at];
        if token.kind == SyntaxKind::Name
            && self.at > 0
            && self.tokens[self.at - 1].kind == SyntaxKind::Dot
        {
            self.spelling();
        }
        let kind = Lightbook::kind_to_raw(token.kind);
        self.builder.token(kind, &self.text[token.start..token.end]);
        self.at += 1;
    }

    fn trivia(&mut self) {
        while self.at < self.tokens.len() && self.tokens[self.at].kind.is_trivia() {
            self.raw();
        }
    }

    fn bump(&mut self) {
        self.trivia();
        if self.at < self.tokens.len() {
            self.raw();
        }
    }

    fn open(&mut self, kind: SyntaxKind) {
        self.trivia();
        self.builder.start_node(Lightbook::kind_to_raw(kind));
    }

    fn mark(&mut self) -> Checkpoint {
        self.trivia();
        self.builder.checkpoint()
    }

    fn open_at(&mut self, mark: Checkpoint, kind: SyntaxKind) {
        self.builder.start_node_at(mark, Lightbook::kind_to_raw(kind));
    }

    fn close(&mut self) {
        self.builder.finish_node();
    }

    fn tell(&mut self, diagnostic: Diagnostic) {
        // A second error at the same word is not reported.
        let same = self.diagnostics.last().is_some_and(|last| last.range() == diagnostic.range());
        if self.diagnostics.len() < MOST_MISTAKES && !same {
            self.diagnostics.push(diagnostic);
        }
    }

    fn found(&self) -> String {
        let token = self.ahead(0);
        match token.kind {
            SyntaxKind::End => "the end of the book".to_owned(),
            SyntaxKind::LineEnd => "the end of the line".to_owned(),
            SyntaxKind::OpenText => "a text without a closing quote".to_owned(),
            SyntaxKind::Unread => "more than the parser can read".to_owned(),
            _ => {
                let text: String = self.text[token.start..token.end].chars().take(24).collect();
                format!("`{}`", text.escape_debug())
            }
        }
    }

    fn expected(&mut self, wanted: &str) {
        let token = self.ahead(0);
        let message = format!("expected {wanted}, found {}", self.found());
        // A line end is reported at the end of the line's last word.
        let range = match token.kind {
            SyntaxKind::LineEnd | SyntaxKind::End => {
                let end = self.tokens[..self.at]
                    .iter()
                    .rev()
                    .find(|t| !t.kind.is_trivia() && t.kind != SyntaxKind::LineEnd)
                    .map_or(token.start, |t| t.end);
                end..end
            }
            _ => token.start..token.end,
        };
        let mut diagnostic = Diagnostic::error(range, message);
        let (found, end) = (&self.text[token.start..token.end], wanted == "the end of the line");
        let help = match token.kind {
            _ if matches!(found, ">" | "<" | ">=" | "<=") => {
                Some("write `above` or `below`, as in `when swell above 50%`")
            }
            SyntaxKind::Stray => Some("names are made of letters, digits and `_`"),
            SyntaxKind::Name if end => {
                Some("separate statements on one line with `;` and names of a list with `,`")
            }
            SyntaxKind::BracketOpen if wanted.starts_with("`{` and") => {
                Some("the size follows the name, as in `light row[8] spot`")
            }
            SyntaxKind::Equals if wanted.starts_with("a value") => {
                Some("the value follows without a sign, as in `lamp.intensity 50lm`")
            }
            SyntaxKind::Name if found == "after" && wanted == "`at`" => Some(
                "name that moment, as in `event over after 3s from gust`, and write `off at over`",
            ),
            _ => None,
        };
        if let Some(help) = help {
            diagnostic = diagnostic.help(help);
        }
        if token.kind == SyntaxKind::Name
            && is_reserved(self.word(0))
            && wanted.starts_with("a name")
        {
            let word = self.word(0).to_owned();
            diagnostic = diagnostic.help(format!(
                "`{word}` is a word of the language; a name such as `{word}_` works"
            ));
        }
        self.tell(diagnostic);
    }

    fn tell_unread(&mut self, unread: Unread) {
        let Some(last) = self.tokens.last().copied() else { return };
        let message = match unread {
            Unread::TooDeep => {
                format!(
                    "brackets are nested more than {DEEPEST} deep; the rest of the book was not read"
                )
            }
            Unread::TooLong => {
                format!("the book has more than {MOST_TOKENS} tokens; the rest was not read")
            }
        };
        self.diagnostics.clear();
        let end = (last.start + 1..=last.end).find(|n| self.text.is_char_boundary(*n));
        self.tell(Diagnostic::error(last.start..end.unwrap_or(last.end), message));
    }

    /// Skips to the end of the statement, over whole blocks in braces.
    fn skip_statement(&mut self) {
        self.open(SyntaxKind::Broken);
        let mut depth = 0usize;
        loop {
            match self.peek() {
                SyntaxKind::End => break,
                SyntaxKind::LineEnd | SyntaxKind::Semicolon | SyntaxKind::BraceClose
                    if depth == 0 =>
                {
                    break;
                }
                SyntaxKind::BraceOpen => depth += 1,
                SyntaxKind::BraceClose => depth -= 1,
                _ => {}
            }
            self.bump();
        }
        self.close();
    }

    fn end_statement(&mut self) {
        if !self.at_statement_end() {
            let before = self.tokens[..self.at].last().map(|t| t.kind);
            if self.peek() == SyntaxKind::Sign && before != Some(SyntaxKind::LineEnd) {
                let token = self.ahead(0);
                let left = self.text[..token.start].trim_end();
                let left = left.rsplit(|c: char| c.is_whitespace()).next().unwrap_or(left);
                let right: String = self.text[token.end..]
                    .chars()
                    .take_while(|c| c.is_alphanumeric() || matches!(c, '_' | '.' | '%'))
                    .collect();
                self.tell(
                    Diagnostic::error(
                        token.start..token.end,
                        "this minus is a sign because no space follows it, and a sign is not possible here",
                    )
                    .help(format!("did you mean `{left} - {right}`?")),
                );
            } else {
                self.expected("the end of the line");
            }
            self.skip_statement();
        }
        while matches!(self.peek(), SyntaxKind::LineEnd | SyntaxKind::Semicolon) {
            self.bump();
        }
    }

    fn expect(&mut self, kind: SyntaxKind, wanted: &str) -> bool {
        if self.peek() == kind {
            self.bump();
            true
        } else {
            self.expected(wanted);
            false
        }
    }

    fn name(&mut self, what: &str) -> bool {
        if self.peek() == SyntaxKind::Name && !is_reserved(self.word(0)) {
            self.bump();
            true
        } else {
            self.expected(&format!("a name for this {what}"));
            // The word is taken for the name, so that the rest is parsed.
            if matches!(self.peek(), SyntaxKind::Name | SyntaxKind::Stray) {
                self.open(SyntaxKind::Broken);
                self.bump();
                self.close();
            }
            false
        }
    }
}
