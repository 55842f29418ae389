//! The kinds of tokens and nodes.

/// All kinds: an enumeration, and the list that turns a number into one.
macro_rules! kinds {
    ($($kind:ident,)*) => {
        /// Every kind of token and node in a lightbook's tree.
        #[allow(missing_docs, reason = "each name says what it is; docs/language.md has the grammar")]
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
        #[repr(u16)]
        pub enum SyntaxKind {
            $($kind,)*
        }

        /// Kinds by number, for conversion from `rowan`.
        pub(crate) const KINDS: &[SyntaxKind] = &[$(SyntaxKind::$kind,)*];
    };
}

// First tokens, then nodes.
kinds! {
    Blank, LineEnd, Comment, Hour, Number, Hash, Text, OpenText, Name, HyphenWord, BraceOpen,
    BraceClose, ParenOpen, ParenClose, BracketOpen, BracketClose, Comma, Semicolon, Equals, DotDot,
    Dot, Arrow, Plus, Minus, Sign, Star, Slash, Stray, Unread, End,

    Book, Header, SeedDecl, NoticesDecl, NamedDecl, InputDecl, CurveDecl, Stop, CurveLength, Easing,
    BehaviorDecl, Parameters, Parameter, Gives, LightDecl, SparkDecl, Size, Body, Property, Range,
    Literal, ColorCall, Path, Call, Arguments, Argument, Binary, Unary, Bracketed, If, Compare,
    UseDecl, SpaceDecl, FittingDecl, PlaceDecl, OutputDecl, WallDecl, PostDecl, EyeDecl, BackdropDecl, ClockDecl,
    ChoiceDecl, HoursDecl, PhasesDecl, Phase, Over, Tint, SunDecl, MoonDecl, EventDecl, EventSource,
    OneAtATime, Condition, Rearm, MarkBound, SwitchDecl, SoundDecl, SoundLine, SwitchLine, SendDecl,
    ModesDecl, ModeList, Rule, GroupDecl, GroupLights, GroupLine, LightPath, SequenceDecl,
    SequenceStep, SequenceLine, Ends, RehearsalDecl, RehearsalLine, Expect, Except, Columns, Blend,
    Preposition, Broken,
}

impl SyntaxKind {
    /// Whether it is whitespace.
    pub fn is_trivia(self) -> bool {
        matches!(self, SyntaxKind::Blank | SyntaxKind::Comment)
    }
}
