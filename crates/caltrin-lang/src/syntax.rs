//! Tokens and nodes of the lightbook language, and the lexer.

use logos::Logos;

use crate::syntax_kind::KINDS;
pub use crate::syntax_kind::SyntaxKind;

/// The tree's language, for `rowan`.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Lightbook {}

impl rowan::Language for Lightbook {
    type Kind = SyntaxKind;

    fn kind_from_raw(raw: rowan::SyntaxKind) -> SyntaxKind {
        KINDS[raw.0 as usize]
    }

    fn kind_to_raw(kind: SyntaxKind) -> rowan::SyntaxKind {
        rowan::SyntaxKind(kind as u16)
    }
}

/// A node of the lossless tree.
pub type Node = rowan::SyntaxNode<Lightbook>;
/// A token of the lossless tree.
pub type Token = rowan::SyntaxToken<Lightbook>;

/// Reserved words.
pub const RESERVED: [&str; 25] = [
    "above", "after", "again", "and", "at", "below", "by", "else", "every", "for", "from", "if",
    "in", "is", "not", "of", "off", "on", "or", "over", "send", "since", "then", "to", "when",
];

/// Whether a word is reserved.
pub fn is_reserved(word: &str) -> bool {
    RESERVED.contains(&word)
}

/// All words with hyphens.
const HYPHEN_WORDS: [&str; 8] = [
    "ease-in-out",
    "ease-in",
    "ease-out",
    "cubic-bezier",
    "jump-start",
    "jump-end",
    "jump-none",
    "jump-both",
];
/// Maximum nesting depth of brackets.
pub const DEEPEST: usize = 64;
/// Maximum number of tokens of a lightbook.
pub const MOST_TOKENS: usize = 1_000_000;

#[derive(Logos, Clone, Copy, Debug, PartialEq)]
enum Raw {
    #[regex(r"[ \t\r\u{feff}]+")]
    Blank,
    #[token("\n")]
    LineEnd,
    #[regex(r"//[^\n]*", allow_greedy = true)]
    Comment,
    #[regex(r"[0-9]+:[0-9]+(:[0-9]+)?")]
    Hour,
    #[regex(r"[0-9](_?[0-9])*(\.[0-9](_?[0-9])*)?([eE][+-]?[0-9]+)?[a-zA-Z%µ]*")]
    Number,
    #[regex(r"#[0-9A-Za-z_]*")]
    Hash,
    #[regex("\"[^\"\n]*\"")]
    Text,
    #[regex("\"[^\"\n]*")]
    OpenText,
    #[regex(r"[\p{XID_Start}_]\p{XID_Continue}*")]
    Name,
    #[token("{")]
    BraceOpen,
    #[token("}")]
    BraceClose,
    #[token("(")]
    ParenOpen,
    #[token(")")]
    ParenClose,
    #[token("[")]
    BracketOpen,
    #[token("]")]
    BracketClose,
    #[token(",")]
    Comma,
    #[token(";")]
    Semicolon,
    #[token("=")]
    Equals,
    #[token("..")]
    DotDot,
    #[token(".")]
    Dot,
    #[token("->")]
    Arrow,
    #[token("+")]
    Plus,
    #[token("-")]
    Minus,
    #[token("*")]
    Star,
    #[token("/")]
    Slash,
}

/// A token and its byte range.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Lexed {
    /// Its kind.
    pub kind: SyntaxKind,
    /// Start, as a byte offset.
    pub start: usize,
    /// End, as a byte offset.
    pub end: usize,
}

/// Why the rest of a text was not read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Unread {
    /// Brackets nest deeper than [`DEEPEST`].
    TooDeep,
    /// More tokens than [`MOST_TOKENS`].
    TooLong,
}

/// Splits a text into tokens that cover all of it. Line breaks that do not end a statement become
/// whitespace, and a unary minus becomes [`SyntaxKind::Sign`]. Never fails.
pub fn lex(text: &str) -> (Vec<Lexed>, Option<Unread>) {
    let mut tokens: Vec<Lexed> = Vec::with_capacity(text.len() / 4);
    let mut depth = 0usize;
    let mut unread = None;
    let mut lexer = Raw::lexer(text);
    let mut start = 0;
    while let Some(raw) = lexer.next() {
        let mut end = lexer.span().end;
        let kind = match raw {
            Ok(Raw::Name) => match hyphen_word(&text[start..]) {
                Some(length) => {
                    lexer.bump(start + length - end);
                    end = start + length;
                    SyntaxKind::HyphenWord
                }
                None => SyntaxKind::Name,
            },
            Ok(raw) => plain(raw),
            Err(()) => SyntaxKind::Stray,
        };
        match kind {
            SyntaxKind::ParenOpen | SyntaxKind::BracketOpen | SyntaxKind::BraceOpen => depth += 1,
            SyntaxKind::ParenClose | SyntaxKind::BracketClose | SyntaxKind::BraceClose => {
                depth = depth.saturating_sub(1);
            }
            _ => {}
        }
        if depth > DEEPEST || tokens.len() >= MOST_TOKENS {
            unread = Some(if depth > DEEPEST { Unread::TooDeep } else { Unread::TooLong });
            tokens.push(Lexed { kind: SyntaxKind::Unread, start, end: text.len() });
            break;
        }
        match tokens.last_mut() {
            // A run of strange characters is one token, and so one message.
            Some(last) if kind == SyntaxKind::Stray && last.kind == SyntaxKind::Stray => {
                last.end = end
            }
            _ => tokens.push(Lexed { kind, start, end }),
        }
        start = end;
    }
    settle_line_ends(text, &mut tokens);
    settle_signs(&mut tokens);
    (tokens, unread)
}

fn plain(raw: Raw) -> SyntaxKind {
    match raw {
        Raw::Blank => SyntaxKind::Blank,
        Raw::LineEnd => SyntaxKind::LineEnd,
        Raw::Comment => SyntaxKind::Comment,
        Raw::Hour => SyntaxKind::Hour,
        Raw::Number => SyntaxKind::Number,
        Raw::Hash => SyntaxKind::Hash,
        Raw::Text => SyntaxKind::Text,
        Raw::OpenText => SyntaxKind::OpenText,
        Raw::Name => SyntaxKind::Name,
        Raw::BraceOpen => SyntaxKind::BraceOpen,
        Raw::BraceClose => SyntaxKind::BraceClose,
        Raw::ParenOpen => SyntaxKind::ParenOpen,
        Raw::ParenClose => SyntaxKind::ParenClose,
        Raw::BracketOpen => SyntaxKind::BracketOpen,
        Raw::BracketClose => SyntaxKind::BracketClose,
        Raw::Comma => SyntaxKind::Comma,
        Raw::Semicolon => SyntaxKind::Semicolon,
        Raw::Equals => SyntaxKind::Equals,
        Raw::DotDot => SyntaxKind::DotDot,
        Raw::Dot => SyntaxKind::Dot,
        Raw::Arrow => SyntaxKind::Arrow,
        Raw::Plus => SyntaxKind::Plus,
        Raw::Minus => SyntaxKind::Minus,
        Raw::Star => SyntaxKind::Star,
        Raw::Slash => SyntaxKind::Slash,
    }
}

fn hyphen_word(text: &str) -> Option<usize> {
    let word = HYPHEN_WORDS.iter().find(|word| text.starts_with(**word))?;
    let goes_on = text[word.len()..].starts_with(|c: char| c.is_alphanumeric() || c == '_');
    (!goes_on).then_some(word.len())
}

/// Turns line breaks inside `( )` and `[ ]`, and after an operator, into whitespace. To limit the
/// effect of an unclosed bracket, a brace or a line that starts like a declaration ends it.
fn settle_line_ends(text: &str, tokens: &mut [Lexed]) {
    let mut depth = 0usize;
    let mut after_operator = false;
    for n in 0..tokens.len() {
        match tokens[n].kind {
            SyntaxKind::ParenOpen | SyntaxKind::BracketOpen => depth += 1,
            SyntaxKind::ParenClose | SyntaxKind::BracketClose => depth = depth.saturating_sub(1),
            SyntaxKind::BraceOpen | SyntaxKind::BraceClose => depth = 0,
            SyntaxKind::LineEnd => {
                if depth > 0 && starts_declaration(text, &tokens[n + 1..]) {
                    depth = 0;
                }
                if depth > 0 || after_operator {
                    tokens[n].kind = SyntaxKind::Blank;
                    continue;
                }
            }
            _ => {}
        }
        if !tokens[n].kind.is_trivia() {
            after_operator = matches!(
                tokens[n].kind,
                SyntaxKind::Comma
                    | SyntaxKind::DotDot
                    | SyntaxKind::Arrow
                    | SyntaxKind::Equals
                    | SyntaxKind::Plus
                    | SyntaxKind::Minus
                    | SyntaxKind::Star
                    | SyntaxKind::Slash
            );
        }
    }
}

fn starts_declaration(text: &str, rest: &[Lexed]) -> bool {
    let mut words = rest.iter().filter(|t| !t.kind.is_trivia());
    let first = words.next();
    let second = words.next();
    match (first, second) {
        (Some(first), Some(second)) => {
            let word = &text[first.start..first.end];
            first.kind == SyntaxKind::Name
                && second.kind == SyntaxKind::Name
                && crate::words::DECLARATIONS.contains(&word)
        }
        _ => false,
    }
}

fn settle_signs(tokens: &mut [Lexed]) {
    for n in 0..tokens.len() {
        if tokens[n].kind != SyntaxKind::Minus {
            continue;
        }
        let blank_after =
            tokens.get(n + 1).is_none_or(|t| t.kind.is_trivia() || t.kind == SyntaxKind::LineEnd);
        let sign_before = n == 0
            || matches!(
                tokens[n - 1].kind,
                SyntaxKind::Blank
                    | SyntaxKind::LineEnd
                    | SyntaxKind::Plus
                    | SyntaxKind::Minus
                    | SyntaxKind::Sign
                    | SyntaxKind::Star
                    | SyntaxKind::Slash
                    | SyntaxKind::DotDot
                    | SyntaxKind::Comma
                    | SyntaxKind::Equals
                    | SyntaxKind::ParenOpen
                    | SyntaxKind::BracketOpen
                    | SyntaxKind::BraceOpen
            );
        if !blank_after && sign_before {
            tokens[n].kind = SyntaxKind::Sign;
        }
    }
}
