//! Tokens and nodes of the lightbook language, and the lexer.

use logos::Logos;

/// Every kind of token and node in a lightbook's tree.
#[allow(missing_docs, reason = "each name says what it is; docs/language.md has the grammar")]
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
#[repr(u16)]
pub enum Kind {
    Blank,
    LineEnd,
    Comment,
    Hour,
    Number,
    Hash,
    Text,
    OpenText,
    Name,
    HyphenWord,
    BraceOpen,
    BraceClose,
    ParenOpen,
    ParenClose,
    BracketOpen,
    BracketClose,
    Comma,
    Semicolon,
    Equals,
    DotDot,
    Dot,
    Arrow,
    Plus,
    Minus,
    Sign,
    Star,
    Slash,
    Stray,
    Unread,
    End,

    Book,
    Header,
    SeedDecl,
    NamedDecl,
    InputDecl,
    CurveDecl,
    Stop,
    Easing,
    BehaviorDecl,
    Parameters,
    Parameter,
    Gives,
    LightDecl,
    SparkDecl,
    Size,
    Body,
    Property,
    Range,
    Literal,
    ColorCall,
    Path,
    Call,
    Arguments,
    Argument,
    Binary,
    Unary,
    Bracketed,
    If,
    Compare,
    UseDecl,
    SpaceDecl,
    FittingDecl,
    PlaceDecl,
    OutputDecl,
    WallDecl,
    PostDecl,
    ClockDecl,
    ChoiceDecl,
    HoursDecl,
    PhasesDecl,
    Phase,
    Over,
    Tint,
    SunDecl,
    MoonDecl,
    EventDecl,
    EventSource,
    Condition,
    Rearm,
    MarkBound,
    SwitchDecl,
    SoundDecl,
    SoundLine,
    SwitchLine,
    SendDecl,
    ModesDecl,
    ModeList,
    Rule,
    GroupDecl,
    GroupLights,
    GroupLine,
    LightPath,
    SequenceDecl,
    SequenceStep,
    SequenceLine,
    Ends,
    RehearsalDecl,
    RehearsalLine,
    Expect,
    Except,
    Columns,
    Blend,
    Preposition,
    Broken,
    Last,
}

impl Kind {
    /// Whether it is only space between words.
    pub fn is_trivia(self) -> bool {
        matches!(self, Kind::Blank | Kind::Comment)
    }
}

/// The tree's language, for `rowan`.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Lightbook {}

/// Kinds by number, for the way back from `rowan`.
const KINDS: [Kind; Kind::Last as usize] = {
    use Kind::*;
    [
        Blank,
        LineEnd,
        Comment,
        Hour,
        Number,
        Hash,
        Text,
        OpenText,
        Name,
        HyphenWord,
        BraceOpen,
        BraceClose,
        ParenOpen,
        ParenClose,
        BracketOpen,
        BracketClose,
        Comma,
        Semicolon,
        Equals,
        DotDot,
        Dot,
        Arrow,
        Plus,
        Minus,
        Sign,
        Star,
        Slash,
        Stray,
        Unread,
        End,
        Book,
        Header,
        SeedDecl,
        NamedDecl,
        InputDecl,
        CurveDecl,
        Stop,
        Easing,
        BehaviorDecl,
        Parameters,
        Parameter,
        Gives,
        LightDecl,
        SparkDecl,
        Size,
        Body,
        Property,
        Range,
        Literal,
        ColorCall,
        Path,
        Call,
        Arguments,
        Argument,
        Binary,
        Unary,
        Bracketed,
        If,
        Compare,
        UseDecl,
        SpaceDecl,
        FittingDecl,
        PlaceDecl,
        OutputDecl,
        WallDecl,
        PostDecl,
        ClockDecl,
        ChoiceDecl,
        HoursDecl,
        PhasesDecl,
        Phase,
        Over,
        Tint,
        SunDecl,
        MoonDecl,
        EventDecl,
        EventSource,
        Condition,
        Rearm,
        MarkBound,
        SwitchDecl,
        SoundDecl,
        SoundLine,
        SwitchLine,
        SendDecl,
        ModesDecl,
        ModeList,
        Rule,
        GroupDecl,
        GroupLights,
        GroupLine,
        LightPath,
        SequenceDecl,
        SequenceStep,
        SequenceLine,
        Ends,
        RehearsalDecl,
        RehearsalLine,
        Expect,
        Except,
        Columns,
        Blend,
        Preposition,
        Broken,
    ]
};

impl rowan::Language for Lightbook {
    type Kind = Kind;

    fn kind_from_raw(raw: rowan::SyntaxKind) -> Kind {
        KINDS[raw.0 as usize]
    }

    fn kind_to_raw(kind: Kind) -> rowan::SyntaxKind {
        rowan::SyntaxKind(kind as u16)
    }
}

/// A node of the lossless tree.
pub type Node = rowan::SyntaxNode<Lightbook>;
/// A token of the lossless tree.
pub type Token = rowan::SyntaxToken<Lightbook>;

/// Words that can never be names.
pub const RESERVED: [&str; 25] = [
    "above", "after", "again", "and", "at", "below", "by", "else", "every", "for", "from", "if",
    "in", "is", "not", "of", "off", "on", "or", "over", "send", "since", "then", "to", "when",
];

/// Whether a word can never be a name.
pub fn is_reserved(word: &str) -> bool {
    RESERVED.contains(&word)
}

/// Words with hyphens, all that there are.
const HYPHEN_WORDS: [&str; 4] = ["ease-in-out", "ease-in", "ease-out", "cubic-bezier"];
/// How deep brackets may nest.
pub const DEEPEST: usize = 64;
/// How many tokens a lightbook may have.
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

/// A token and where it ends; it starts where the one before it ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Lexed {
    /// What it is.
    pub kind: Kind,
    /// Where it starts, in bytes.
    pub start: usize,
    /// Where it ends, in bytes.
    pub end: usize,
}

/// Why the rest of a text was left unread.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Unread {
    /// Brackets nest deeper than [`DEEPEST`].
    TooDeep,
    /// More tokens than [`MOST_TOKENS`].
    TooLong,
}

/// Splits a text into tokens that cover all of it. Line ends that do not end a statement come out
/// as blanks, and a minus that is a sign as [`Kind::Sign`]. Never fails.
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
                    Kind::HyphenWord
                }
                None => Kind::Name,
            },
            Ok(raw) => plain(raw),
            Err(()) => Kind::Stray,
        };
        match kind {
            Kind::ParenOpen | Kind::BracketOpen | Kind::BraceOpen => depth += 1,
            Kind::ParenClose | Kind::BracketClose | Kind::BraceClose => {
                depth = depth.saturating_sub(1);
            }
            _ => {}
        }
        if depth > DEEPEST || tokens.len() >= MOST_TOKENS {
            unread = Some(if depth > DEEPEST { Unread::TooDeep } else { Unread::TooLong });
            tokens.push(Lexed { kind: Kind::Unread, start, end: text.len() });
            break;
        }
        match tokens.last_mut() {
            // A run of strange characters is one token, and so one message.
            Some(last) if kind == Kind::Stray && last.kind == Kind::Stray => last.end = end,
            _ => tokens.push(Lexed { kind, start, end }),
        }
        start = end;
    }
    settle_line_ends(text, &mut tokens);
    settle_signs(&mut tokens);
    (tokens, unread)
}

fn plain(raw: Raw) -> Kind {
    match raw {
        Raw::Blank => Kind::Blank,
        Raw::LineEnd => Kind::LineEnd,
        Raw::Comment => Kind::Comment,
        Raw::Hour => Kind::Hour,
        Raw::Number => Kind::Number,
        Raw::Hash => Kind::Hash,
        Raw::Text => Kind::Text,
        Raw::OpenText => Kind::OpenText,
        Raw::Name => Kind::Name,
        Raw::BraceOpen => Kind::BraceOpen,
        Raw::BraceClose => Kind::BraceClose,
        Raw::ParenOpen => Kind::ParenOpen,
        Raw::ParenClose => Kind::ParenClose,
        Raw::BracketOpen => Kind::BracketOpen,
        Raw::BracketClose => Kind::BracketClose,
        Raw::Comma => Kind::Comma,
        Raw::Semicolon => Kind::Semicolon,
        Raw::Equals => Kind::Equals,
        Raw::DotDot => Kind::DotDot,
        Raw::Dot => Kind::Dot,
        Raw::Arrow => Kind::Arrow,
        Raw::Plus => Kind::Plus,
        Raw::Minus => Kind::Minus,
        Raw::Star => Kind::Star,
        Raw::Slash => Kind::Slash,
    }
}

fn hyphen_word(text: &str) -> Option<usize> {
    let word = HYPHEN_WORDS.iter().find(|word| text.starts_with(**word))?;
    let goes_on = text[word.len()..].starts_with(|c: char| c.is_alphanumeric() || c == '_');
    (!goes_on).then_some(word.len())
}

/// Turns line ends inside `( )` and `[ ]`, and after an operator, into blanks. A bracket that is
/// never closed must not swallow the rest of the book, so a brace or a line that starts like a
/// declaration ends it.
fn settle_line_ends(text: &str, tokens: &mut [Lexed]) {
    let mut depth = 0usize;
    let mut after_operator = false;
    for n in 0..tokens.len() {
        match tokens[n].kind {
            Kind::ParenOpen | Kind::BracketOpen => depth += 1,
            Kind::ParenClose | Kind::BracketClose => depth = depth.saturating_sub(1),
            Kind::BraceOpen | Kind::BraceClose => depth = 0,
            Kind::LineEnd => {
                if depth > 0 && starts_declaration(text, &tokens[n + 1..]) {
                    depth = 0;
                }
                if depth > 0 || after_operator {
                    tokens[n].kind = Kind::Blank;
                    continue;
                }
            }
            _ => {}
        }
        if !tokens[n].kind.is_trivia() {
            after_operator = matches!(
                tokens[n].kind,
                Kind::Comma
                    | Kind::DotDot
                    | Kind::Arrow
                    | Kind::Equals
                    | Kind::Plus
                    | Kind::Minus
                    | Kind::Star
                    | Kind::Slash
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
            first.kind == Kind::Name
                && second.kind == Kind::Name
                && crate::words::DECLARATIONS.contains(&word)
        }
        _ => false,
    }
}

fn settle_signs(tokens: &mut [Lexed]) {
    for n in 0..tokens.len() {
        if tokens[n].kind != Kind::Minus {
            continue;
        }
        let blank_after =
            tokens.get(n + 1).is_none_or(|t| t.kind.is_trivia() || t.kind == Kind::LineEnd);
        let sign_before = n == 0
            || matches!(
                tokens[n - 1].kind,
                Kind::Blank
                    | Kind::LineEnd
                    | Kind::Plus
                    | Kind::Minus
                    | Kind::Sign
                    | Kind::Star
                    | Kind::Slash
                    | Kind::DotDot
                    | Kind::Comma
                    | Kind::Equals
                    | Kind::ParenOpen
                    | Kind::BracketOpen
                    | Kind::BraceOpen
            );
        if !blank_after && sign_before {
            tokens[n].kind = Kind::Sign;
        }
    }
}
