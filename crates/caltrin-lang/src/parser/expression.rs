//! Expressions and calls.

use super::{DEEPEST_EXPRESSION, MOST_OPERATORS, Parser};
use crate::diagnostic::Diagnostic;
use crate::syntax::{SyntaxKind, is_reserved};
use crate::words;

impl Parser<'_> {
    pub(super) fn range(&mut self) {
        self.open(SyntaxKind::Range);
        self.expression();
        if self.peek() == SyntaxKind::DotDot {
            self.bump();
            self.expression();
        }
        self.close();
    }

    pub(super) fn expression(&mut self) {
        let mark = self.mark();
        if self.depth > DEEPEST_EXPRESSION {
            let token = self.ahead(0);
            self.tell(
                Diagnostic::error(token.start..token.end, "this expression is nested too deeply")
                    .help("name parts of it with `signal` or `value`"),
            );
            self.skip_statement();
            return;
        }
        if self.depth == 0 {
            self.links = 0;
        }
        self.depth += 1;
        if self.word(0) == "if" {
            self.open_at(mark, SyntaxKind::If);
            self.bump();
            self.expression();
            if self.keyword("then") {
                self.expression();
                if self.keyword("else") {
                    self.expression();
                }
            }
            self.close();
        } else {
            self.chain(0);
        }
        self.depth -= 1;
    }

    pub(super) fn keyword(&mut self, word: &str) -> bool {
        if self.word(0) == word {
            self.bump();
            true
        } else {
            self.expected(&format!("`{word}`"));
            false
        }
    }

    /// Operators of one level or more: 0 or, 1 and, 2 not and comparisons, 3 + -, 4 * /.
    pub(super) fn chain(&mut self, level: u8) {
        if level == 2 {
            self.comparison();
            return;
        }
        let mark = self.mark();
        let operand = |p: &mut Self| if level == 4 { p.unary() } else { p.chain(level + 1) };
        operand(self);
        loop {
            let joins = match level {
                0 => self.word(0) == "or",
                1 => self.word(0) == "and",
                3 => matches!(self.peek(), SyntaxKind::Plus | SyntaxKind::Minus),
                _ => matches!(self.peek(), SyntaxKind::Star | SyntaxKind::Slash),
            };
            if !joins {
                break;
            }
            self.links += 1;
            if self.links > MOST_OPERATORS {
                let token = self.ahead(0);
                self.tell(
                    Diagnostic::error(token.start..token.end, "this expression is too long")
                        .help("name parts of it with `signal` or `value`"),
                );
                self.skip_statement();
                break;
            }
            self.open_at(mark, SyntaxKind::Binary);
            self.bump();
            operand(self);
            self.close();
        }
    }

    fn comparison(&mut self) {
        let mark = self.mark();
        if self.word(0) == "not" {
            self.open_at(mark, SyntaxKind::Unary);
            self.bump();
            self.depth += 1;
            if self.depth > DEEPEST_EXPRESSION {
                self.expression()
            } else {
                self.comparison()
            }
            self.depth -= 1;
            self.close();
            return;
        }
        self.chain(3);
        let is = self.word(0) == "is";
        let verb = self.word(usize::from(is)).to_owned();
        match verb.as_str() {
            "above" | "below" => {
                self.open_at(mark, SyntaxKind::Compare);
                if is {
                    self.bump();
                }
                self.bump();
                self.chain(3);
                self.close();
            }
            "in" if is => {
                self.open_at(mark, SyntaxKind::Compare);
                self.bump();
                self.bump();
                self.range();
                self.close();
            }
            "on" | "off" if is => {
                self.open_at(mark, SyntaxKind::Compare);
                self.bump();
                self.bump();
                self.close();
            }
            word if is && !word.is_empty() && !is_reserved(word) => {
                self.open_at(mark, SyntaxKind::Compare);
                self.bump();
                self.bump();
                self.close();
            }
            _ if is => {
                self.bump();
                self.expected("`above`, `below`, `in`, `on`, `off` or a name");
            }
            _ => {}
        }
    }

    fn unary(&mut self) {
        let mark = self.mark();
        if matches!(self.peek(), SyntaxKind::Sign | SyntaxKind::Plus) {
            self.open_at(mark, SyntaxKind::Unary);
            self.bump();
            self.depth += 1;
            if self.depth > DEEPEST_EXPRESSION {
                self.expression()
            } else {
                self.unary()
            }
            self.depth -= 1;
            self.close();
        } else {
            self.atom();
        }
    }

    fn atom(&mut self) {
        let mark = self.mark();
        match self.peek() {
            SyntaxKind::Number | SyntaxKind::Hour | SyntaxKind::Hash | SyntaxKind::Text => {
                self.open(SyntaxKind::Literal);
                self.bump();
                self.close();
            }
            SyntaxKind::ParenOpen => self.bracketed(),
            SyntaxKind::Name if matches!(self.word(0), "on" | "off") => {
                self.open(SyntaxKind::Literal);
                self.bump();
                self.close();
            }
            SyntaxKind::Name if is_reserved(self.word(0)) => self.expected("a value"),
            SyntaxKind::Name
                if words::COLOR_FUNCTIONS.contains(&self.word(0)) && self.touches_bracket(0) =>
            {
                self.spelling();
                self.color_call();
            }
            SyntaxKind::Name => {
                // `curve.column`; an adjacent parenthesis makes it a call.
                let mut steps = 0;
                while self.ahead(2 * steps + 1).kind == SyntaxKind::Dot
                    && self.ahead(2 * steps + 2).kind == SyntaxKind::Name
                {
                    steps += 1;
                }
                let called = self.touches_bracket(2 * steps);
                if called && steps == 0 {
                    self.called();
                }
                self.open_at(mark, if called { SyntaxKind::Call } else { SyntaxKind::Path });
                for _ in 0..=2 * steps {
                    self.bump();
                }
                if called {
                    self.arguments();
                } else if self.rehearses {
                    self.indices();
                }
                self.close();
            }
            _ => self.expected("a value"),
        }
    }

    /// The rest of `mast[3].intensity` or `quay[2].lamp[0].door`.
    fn indices(&mut self) {
        loop {
            if self.peek() == SyntaxKind::BracketOpen {
                self.bump();
                if self.expect(SyntaxKind::Number, "which of them, counted from 0") {
                    self.expect(SyntaxKind::BracketClose, "`]`");
                }
            } else if self.peek() == SyntaxKind::Dot && self.ahead(1).kind == SyntaxKind::Name {
                self.bump();
                self.bump();
            } else {
                return;
            }
        }
    }

    fn bracketed(&mut self) {
        self.open(SyntaxKind::Bracketed);
        self.bump();
        self.expression();
        while self.peek() == SyntaxKind::Comma {
            self.bump();
            if self.peek() == SyntaxKind::ParenClose {
                break;
            }
            self.expression();
        }
        self.expect(SyntaxKind::ParenClose, "`)`");
        self.close();
    }

    /// `rgb(96 140 60)`, `oklch(70% 0.15 drawn(0deg..360deg))` or `color(srgb-linear 0.1 0.2 0.3)`, as in CSS Color 4.
    fn color_call(&mut self) {
        self.open(SyntaxKind::ColorCall);
        let space = self.word(0) == "color";
        self.bump();
        self.bump();
        while !space && !matches!(self.peek(), SyntaxKind::ParenClose | SyntaxKind::Slash) {
            let before = self.at;
            self.unary();
            if self.peek() == SyntaxKind::Comma {
                self.bump();
            }
            if self.at == before {
                break;
            }
        }
        while !matches!(
            self.peek(),
            SyntaxKind::ParenClose | SyntaxKind::BraceClose | SyntaxKind::LineEnd | SyntaxKind::End
        ) {
            self.bump();
        }
        self.expect(SyntaxKind::ParenClose, "`)`");
        self.close();
    }

    pub(super) fn arguments(&mut self) {
        self.open(SyntaxKind::Arguments);
        self.bump();
        while !matches!(self.peek(), SyntaxKind::ParenClose | SyntaxKind::End | SyntaxKind::LineEnd)
        {
            let before = self.at;
            self.argument();
            if self.peek() == SyntaxKind::Comma {
                self.bump();
            } else if self.at == before || self.peek() != SyntaxKind::ParenClose {
                break;
            }
        }
        self.expect(SyntaxKind::ParenClose, "`,` or `)`");
        self.close();
    }

    pub(super) fn argument(&mut self) {
        self.open(SyntaxKind::Argument);
        let steps = self.word(0) == "steps" && self.touches_bracket(0);
        if self.peek() == SyntaxKind::HyphenWord || steps {
            self.open(SyntaxKind::Range);
            self.easing();
            self.close();
        } else {
            if self.names_argument() {
                self.bump();
            }
            self.range();
        }
        self.close();
    }

    /// A word is an argument's name if a value follows it.
    fn names_argument(&self) -> bool {
        if self.peek() != SyntaxKind::Name || self.touches_bracket(0) {
            return false;
        }
        if matches!(self.word(0), "if" | "not") {
            return false;
        }
        match self.ahead(1).kind {
            SyntaxKind::Number
            | SyntaxKind::Hour
            | SyntaxKind::Hash
            | SyntaxKind::Text
            | SyntaxKind::ParenOpen => true,
            // `x -y` is more likely a difference with a missing space than a name and a value.
            SyntaxKind::Sign => {
                is_reserved(self.word(0)) || self.ahead(2).kind == SyntaxKind::Number
            }
            SyntaxKind::Name => {
                let next = self.word(1);
                !is_reserved(next) || matches!(next, "on" | "off" | "if" | "not")
            }
            _ => false,
        }
    }
}
