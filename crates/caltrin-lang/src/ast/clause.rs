//! Lines and parts of declarations.

use super::{Decl, Expr, Path, Span, child, children, nodes, token_of, tokens};
use crate::syntax::{SyntaxKind, Token};

nodes! {
    /// The braces of a light, output, place, wall or post.
    Body = Body;
    /// `intensity 600lm`, `position (0m, 0m, 0m), (5m, 0m, 0m)`
    Property = Property;
    /// `except [3] { color 2700K }`
    Exception = Except;
    /// `to 50%`, after the values of a property.
    Preposition = Preposition;
    /// `floor = 85%`, with `in 0..4` for an event.
    Parameter = Parameter;
    /// `450ms 82% smooth` in a curve.
    Stop = Stop;
    /// `length 7.3s smooth` in a curve.
    CurveLength = CurveLength;
    /// `smooth`, `cubic-bezier(...)`, `steps(3)`
    Easing = Easing;
    /// `over 00:40 before smooth`
    Over = Over;
    /// `every 4s..9s`, `after 2s from docks`, `at 17:30`, `when swell above 80%`
    EventSource = EventSource;
    /// `swell above 80% rearm below 60% for 2s`
    Condition = Condition;
    /// `rearm below 60%`
    Rearm = Rearm;
    /// `off at cut over 60ms` in a switch.
    SwitchLine = SwitchLine;
    /// `starts at docks` in a sound.
    SoundLine = SoundLine;
    /// `calm -> alarm at storm over 2s`
    Rule = Rule;
    /// `dim with power to 3%`
    GroupLine = GroupLine;
    /// `mast`, `quay[2].glow`, with the channel in a sequence.
    LightPath = LightPath;
    /// `2s gangway.intensity 400cd smooth`, or a time and several lines in braces.
    SequenceStep = SequenceStep;
    /// What happens at a time of a sequence.
    SequenceLine = SequenceLine;
    /// `night from 21:30 over 01:00 tint #0d1420`
    Phase = Phase;
    /// `3s ferry_docks`, `20s expect mast.intensity above 900lm`
    RehearsalLine = RehearsalLine;
}

impl Body {
    /// The declarations in it.
    pub fn declarations(&self) -> impl Iterator<Item = Decl> {
        children(&self.0)
    }

    /// Its properties.
    pub fn properties(&self) -> impl Iterator<Item = Property> {
        children(&self.0)
    }

    /// The exceptions of single lamps or instances.
    pub fn exceptions(&self) -> impl Iterator<Item = Exception> {
        children(&self.0)
    }

    /// The closing brace.
    pub fn end(&self) -> Option<Token> {
        tokens(&self.0).filter(|token| token.kind() == SyntaxKind::BraceClose).last()
    }
}

impl Property {
    /// Its first word.
    pub fn word(&self) -> Option<Token> {
        tokens(&self.0).next()
    }

    /// Its values, separated by commas.
    pub fn values(&self) -> impl Iterator<Item = Span> {
        children(&self.0)
    }

    /// What follows its values.
    pub fn prepositions(&self) -> impl Iterator<Item = Preposition> {
        children(&self.0)
    }
}

impl Preposition {
    /// Its word.
    pub fn word(&self) -> Option<Token> {
        tokens(&self.0).next()
    }

    /// Its value.
    pub fn value(&self) -> Option<Span> {
        child(&self.0)
    }
}

impl Exception {
    /// The index, as it is written.
    pub fn index(&self) -> Option<Token> {
        let size = self.0.children().find(|child| child.kind() == SyntaxKind::Size)?;
        token_of(&size, SyntaxKind::Number)
    }

    /// Its properties.
    pub fn properties(&self) -> impl Iterator<Item = Property> {
        children(&self.0)
    }
}

impl Parameter {
    /// Its name.
    pub fn name(&self) -> Option<Token> {
        token_of(&self.0, SyntaxKind::Name)
    }

    /// Its default.
    pub fn default(&self) -> Option<Expr> {
        child(&self.0)
    }

    /// Its range.
    pub fn bounds(&self) -> Option<Span> {
        child(&self.0)
    }
}

impl Stop {
    /// The sign of its position: `+` for one relative to the previous stop, `-` for a negative one.
    pub fn sign(&self) -> Option<Token> {
        let first = tokens(&self.0).next()?;
        matches!(first.kind(), SyntaxKind::Plus | SyntaxKind::Sign).then_some(first)
    }

    /// Its position: a time, an hour or another quantity.
    pub fn position(&self) -> Option<Token> {
        tokens(&self.0).find(|token| matches!(token.kind(), SyntaxKind::Number | SyntaxKind::Hour))
    }

    /// Its values, one for each column.
    pub fn values(&self) -> impl Iterator<Item = Expr> {
        children(&self.0)
    }

    /// How it is reached.
    pub fn easing(&self) -> Option<Easing> {
        child(&self.0)
    }
}

impl Over {
    /// The duration.
    pub fn duration(&self) -> Option<Expr> {
        child(&self.0)
    }

    /// `before`, `across` or `after`.
    pub fn lean(&self) -> Option<Token> {
        tokens(&self.0).nth(1)
    }

    /// The easing.
    pub fn easing(&self) -> Option<Easing> {
        child(&self.0)
    }
}

impl EventSource {
    /// `every`, `after`, `at` or `when`.
    pub fn word(&self) -> Option<Token> {
        tokens(&self.0).next()
    }

    /// The times of `every` and `after`.
    pub fn times(&self) -> Option<Span> {
        child(&self.0)
    }

    /// The hour of `at`.
    pub fn hour(&self) -> Option<Token> {
        token_of(&self.0, SyntaxKind::Hour)
    }

    /// The condition of `when`.
    pub fn condition(&self) -> Option<Condition> {
        child(&self.0)
    }

    /// The event that it counts from, or the mark of a sound.
    pub fn path(&self) -> Option<Path> {
        child(&self.0)
    }
}

impl Condition {
    /// What must hold.
    pub fn holds(&self) -> Option<Expr> {
        child(&self.0)
    }

    /// The level at which it is armed again.
    pub fn rearm(&self) -> Option<Rearm> {
        child(&self.0)
    }

    /// How long it must hold.
    pub fn duration(&self) -> Option<Expr> {
        children(&self.0).nth(1)
    }
}

impl Rearm {
    /// The level.
    pub fn level(&self) -> Option<Expr> {
        child(&self.0)
    }
}

impl SwitchLine {
    /// `starts`, `on`, `off` or `flip`.
    pub fn word(&self) -> Option<Token> {
        tokens(&self.0).next()
    }

    /// The events.
    pub fn events(&self) -> impl Iterator<Item = Path> {
        children(&self.0)
    }

    /// The fade.
    pub fn over(&self) -> Option<Over> {
        child(&self.0)
    }
}

impl SoundLine {
    /// `starts`, `stops`, `loops`, `once`, `speed` or `position`.
    pub fn word(&self) -> Option<Token> {
        tokens(&self.0).next()
    }
}

impl Rule {
    /// The source mode, or `any`.
    pub fn from(&self) -> Option<Token> {
        tokens(&self.0).find(|token| token.kind() == SyntaxKind::Name)
    }

    /// The target mode.
    pub fn to(&self) -> Option<Token> {
        tokens(&self.0).filter(|token| token.kind() == SyntaxKind::Name).nth(1)
    }

    /// The crossfade.
    pub fn over(&self) -> Option<Over> {
        child(&self.0)
    }
}

impl GroupLine {
    /// `dim` or `tint`.
    pub fn word(&self) -> Option<Token> {
        tokens(&self.0).next()
    }
}

impl LightPath {
    /// Its names, from left to right.
    pub fn names(&self) -> impl Iterator<Item = Token> {
        tokens(&self.0).filter(|token| token.kind() == SyntaxKind::Name)
    }
}

impl CurveLength {
    /// The time.
    pub fn time(&self) -> Option<Token> {
        token_of(&self.0, SyntaxKind::Number)
    }
}

impl SequenceStep {
    /// `+` for a time after the previous step.
    pub fn sign(&self) -> Option<Token> {
        let first = tokens(&self.0).next()?;
        matches!(first.kind(), SyntaxKind::Plus | SyntaxKind::Sign).then_some(first)
    }

    /// Its times: that at which it is reached, or the start and end of the move.
    pub fn times(&self) -> Vec<Token> {
        tokens(&self.0).filter(|token| token.kind() == SyntaxKind::Number).collect()
    }

    /// What happens then.
    pub fn lines(&self) -> impl Iterator<Item = SequenceLine> {
        children(&self.0)
    }
}

impl SequenceLine {
    /// `mark`, `keep` or `return`, if it is one of them.
    pub fn word(&self) -> Option<Token> {
        tokens(&self.0).next()
    }

    /// The name of a mark.
    pub fn mark(&self) -> Option<Token> {
        let mut words = tokens(&self.0);
        words.next().filter(|word| word.text() == "mark")?;
        words.next()
    }

    /// The channel that it leads.
    pub fn channel(&self) -> Option<LightPath> {
        child(&self.0).filter(|_| tokens(&self.0).next().is_none())
    }

    /// The value that is reached.
    pub fn value(&self) -> Option<Span> {
        child(&self.0)
    }

    /// How it is reached.
    pub fn easing(&self) -> Option<Easing> {
        child(&self.0)
    }
}

impl Phase {
    /// Its name.
    pub fn name(&self) -> Option<Token> {
        tokens(&self.0).next()
    }

    /// The hour at which it starts.
    pub fn from(&self) -> Option<Expr> {
        child(&self.0)
    }

    /// Its transition.
    pub fn over(&self) -> Option<Over> {
        child(&self.0)
    }

    /// Its tint.
    pub fn tint(&self) -> Option<Expr> {
        child(&self.0.children().find(|child| child.kind() == SyntaxKind::Tint)?)
    }
}

impl RehearsalLine {
    /// Its time.
    pub fn time(&self) -> Option<Token> {
        token_of(&self.0, SyntaxKind::Number)
    }
}
