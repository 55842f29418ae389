//! The parser: from text to a lossless tree. It never fails; what it cannot read lies in
//! [`Kind::Broken`] nodes, and each mistake is told once.

use rowan::{Checkpoint, GreenNodeBuilder, Language};

use crate::diagnostic::Diagnostic;
use crate::syntax::{DEEPEST, Kind, Lexed, Lightbook, MOST_TOKENS, Node, Unread, is_reserved, lex};
use crate::words;

/// A tree and the mistakes of form in it.
#[derive(Clone, Debug)]
pub struct Parse {
    green: rowan::GreenNode,
    /// Mistakes of form, in the order of the text.
    pub diagnostics: Vec<Diagnostic>,
}

impl Parse {
    /// The root, a [`Kind::Book`].
    pub fn tree(&self) -> Node {
        Node::new_root(self.green.clone())
    }
}

/// How many operators and brackets may lie within each other in one expression.
const DEEPEST_EXPRESSION: usize = 160;
/// How many operators one expression may have.
const MOST_OPERATORS: usize = 400;
/// Beyond this many mistakes of form the rest is not told.
const MOST_MISTAKES: usize = 200;

/// Parses a lightbook.
pub fn parse(text: &str) -> Parse {
    let (tokens, unread) = lex(text);
    let mut parser = Parser {
        text,
        tokens,
        at: 0,
        builder: GreenNodeBuilder::new(),
        diagnostics: Vec::new(),
        depth: 0,
        links: 0,
    };
    parser.book();
    if let Some(unread) = unread {
        parser.tell_unread(unread);
    }
    Parse { green: parser.builder.finish(), diagnostics: parser.diagnostics }
}

/// What stands around a declaration.
#[derive(Clone, Copy, PartialEq)]
enum Around {
    Book,
    Light,
    Behaviour,
    Fitting,
}

struct Parser<'t> {
    text: &'t str,
    tokens: Vec<Lexed>,
    at: usize,
    builder: GreenNodeBuilder<'static>,
    diagnostics: Vec<Diagnostic>,
    depth: usize,
    links: usize,
}

impl Parser<'_> {
    // --- looking ahead -------------------------------------------------------------------------

    fn ahead(&self, skip: usize) -> Lexed {
        self.tokens[self.at..]
            .iter()
            .filter(|t| !t.kind.is_trivia())
            .nth(skip)
            .copied()
            .unwrap_or(Lexed { kind: Kind::End, start: self.text.len(), end: self.text.len() })
    }

    fn peek(&self) -> Kind {
        self.ahead(0).kind
    }

    fn word(&self, skip: usize) -> &str {
        let token = self.ahead(skip);
        match token.kind {
            Kind::Name | Kind::HyphenWord => &self.text[token.start..token.end],
            _ => "",
        }
    }

    /// Whether an opening bracket comes after the `n`-th token from here, and touches it.
    fn touches_bracket(&self, n: usize) -> bool {
        let name = self.ahead(n);
        let next = self.ahead(n + 1);
        next.kind == Kind::ParenOpen && next.start == name.end
    }

    fn at_statement_end(&self) -> bool {
        matches!(self.peek(), Kind::LineEnd | Kind::Semicolon | Kind::BraceClose | Kind::End)
    }

    // --- building ------------------------------------------------------------------------------

    fn raw(&mut self) {
        let token = self.tokens[self.at];
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

    fn open(&mut self, kind: Kind) {
        self.trivia();
        self.builder.start_node(Lightbook::kind_to_raw(kind));
    }

    fn mark(&mut self) -> Checkpoint {
        self.trivia();
        self.builder.checkpoint()
    }

    fn open_at(&mut self, mark: Checkpoint, kind: Kind) {
        self.builder.start_node_at(mark, Lightbook::kind_to_raw(kind));
    }

    fn close(&mut self) {
        self.builder.finish_node();
    }

    // --- mistakes ------------------------------------------------------------------------------

    fn tell(&mut self, diagnostic: Diagnostic) {
        // What follows from a mistake at the same word is not told again.
        let same = self.diagnostics.last().is_some_and(|last| last.range() == diagnostic.range());
        if self.diagnostics.len() < MOST_MISTAKES && !same {
            self.diagnostics.push(diagnostic);
        }
    }

    fn found(&self) -> String {
        let token = self.ahead(0);
        match token.kind {
            Kind::End => "the end of the book".to_owned(),
            Kind::LineEnd => "the end of the line".to_owned(),
            Kind::OpenText => "a text without its closing quote".to_owned(),
            Kind::Unread => "more than can be read".to_owned(),
            _ => {
                let text: String = self.text[token.start..token.end].chars().take(24).collect();
                format!("`{}`", text.escape_debug())
            }
        }
    }

    fn expected(&mut self, wanted: &str) {
        let token = self.ahead(0);
        let message = format!("expected {wanted}, found {}", self.found());
        // A line end is pointed at where the line's last word ends.
        let range = match token.kind {
            Kind::LineEnd | Kind::End => {
                let end = self.tokens[..self.at]
                    .iter()
                    .rev()
                    .find(|t| !t.kind.is_trivia() && t.kind != Kind::LineEnd)
                    .map_or(token.start, |t| t.end);
                end..end
            }
            _ => token.start..token.end,
        };
        let mut diagnostic = Diagnostic::error(range, message);
        if token.kind == Kind::Stray {
            diagnostic = diagnostic.help("names are made of letters, digits and `_`");
        }
        if token.kind == Kind::Name && is_reserved(self.word(0)) && wanted.starts_with("a name") {
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
                format!("brackets nest more than {DEEPEST} deep; the rest of the book was not read")
            }
            Unread::TooLong => format!(
                "the book has more than {MOST_TOKENS} words and signs; the rest was not read"
            ),
        };
        self.diagnostics.clear();
        let end = (last.start + 1..=last.end).find(|n| self.text.is_char_boundary(*n));
        self.tell(Diagnostic::error(last.start..end.unwrap_or(last.end), message));
    }

    /// Skips to the end of the statement, over whole blocks in braces.
    fn skip_statement(&mut self) {
        self.open(Kind::Broken);
        let mut depth = 0usize;
        loop {
            match self.peek() {
                Kind::End => break,
                Kind::LineEnd | Kind::Semicolon | Kind::BraceClose if depth == 0 => break,
                Kind::BraceOpen => depth += 1,
                Kind::BraceClose => depth -= 1,
                _ => {}
            }
            self.bump();
        }
        self.close();
    }

    fn end_statement(&mut self) {
        if !self.at_statement_end() {
            let before = self.tokens[..self.at].last().map(|t| t.kind);
            if self.peek() == Kind::Sign && before != Some(Kind::LineEnd) {
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
                        "a minus that touches what follows it is a sign, and no sign can stand here",
                    )
                    .help(format!("did you mean `{left} - {right}`?")),
                );
            } else {
                self.expected("the end of the line");
            }
            self.skip_statement();
        }
        while matches!(self.peek(), Kind::LineEnd | Kind::Semicolon) {
            self.bump();
        }
    }

    fn expect(&mut self, kind: Kind, wanted: &str) -> bool {
        if self.peek() == kind {
            self.bump();
            true
        } else {
            self.expected(wanted);
            false
        }
    }

    fn name(&mut self, what: &str) -> bool {
        if self.peek() == Kind::Name && !is_reserved(self.word(0)) {
            self.bump();
            true
        } else {
            self.expected(&format!("a name for this {what}"));
            // A word that can be no name stands where the name belongs; what follows may be fine.
            if matches!(self.peek(), Kind::Name | Kind::Stray) {
                self.open(Kind::Broken);
                self.bump();
                self.close();
            }
            false
        }
    }

    // --- the book ------------------------------------------------------------------------------

    fn book(&mut self) {
        self.builder.start_node(Lightbook::kind_to_raw(Kind::Book));
        while matches!(self.peek(), Kind::LineEnd | Kind::Semicolon) {
            self.bump();
        }
        if self.word(0) == "lightbook" {
            self.open(Kind::Header);
            self.bump();
            self.expect(Kind::Text, "the book's name in quotes, as in `lightbook \"Pier\"`");
            self.close();
            self.end_statement();
        } else if self.peek() == Kind::End {
            self.tell(
                Diagnostic::error(0..0, "this lightbook is empty")
                    .help("a lightbook begins with its name: lightbook \"Pier\""),
            );
        } else {
            let token = self.ahead(0);
            let message = format!("expected `lightbook \"...\"` first, found {}", self.found());
            self.tell(
                Diagnostic::error(token.start..token.end, message)
                    .help("a lightbook begins with its name: lightbook \"Pier\""),
            );
        }
        while self.peek() != Kind::End {
            let before = self.at;
            self.declaration(Around::Book);
            if self.peek() == Kind::BraceClose {
                self.expected("a declaration");
                self.open(Kind::Broken);
                self.bump();
                self.close();
                self.end_statement();
            }
            debug_assert!(self.at > before || self.peek() == Kind::End, "no step forward");
        }
        self.trivia();
        self.close();
    }

    fn declaration(&mut self, around: Around) {
        if self.at_statement_end() && self.peek() != Kind::BraceClose {
            self.end_statement();
            return;
        }
        match self.word(0) {
            "seed" => {
                self.open(Kind::SeedDecl);
                self.bump();
                self.expect(Kind::Number, "a whole number such as `41`");
                self.close();
            }
            "color" | "value" | "signal" => self.named(),
            "input" if around != Around::Behaviour => self.input(),
            "use" if around == Around::Book => {
                self.open(Kind::UseDecl);
                self.bump();
                self.expect(Kind::Text, "a file in quotes, as in `use \"lamps.caltrin\"`");
                self.close();
            }
            "space" if around == Around::Book => {
                self.open(Kind::SpaceDecl);
                self.bump();
                self.braces("space", Self::property_line);
                self.close();
            }
            "curve" if around == Around::Book => self.curve(),
            "behaviour" if around == Around::Book => self.behaviour(),
            "fitting" if around == Around::Book => self.fitting(),
            "place" if matches!(around, Around::Book | Around::Fitting) => self.place(),
            "light" if matches!(around, Around::Book | Around::Fitting) => self.light(),
            "output" if matches!(around, Around::Book | Around::Fitting) => self.output(),
            "wall" if around == Around::Book => self.solid(Kind::WallDecl, "wall"),
            "post" if around == Around::Book => self.solid(Kind::PostDecl, "post"),
            "clock" if around == Around::Book => {
                self.open(Kind::ClockDecl);
                self.bump();
                self.braces("clock", Self::property_line);
                self.close();
            }
            "choice" if around == Around::Book => self.choice(),
            "window" if around == Around::Book => self.window(),
            "phases" if around == Around::Book => self.phases(),
            "sun" if around == Around::Book => self.sky(Kind::SunDecl, "sun"),
            "moon" if around == Around::Book => self.sky(Kind::MoonDecl, "moon"),
            "gives" if around == Around::Behaviour => {
                self.open(Kind::Gives);
                self.bump();
                self.expression();
                self.close();
            }
            _ => {
                self.unknown_declaration(around);
                self.skip_statement();
            }
        }
        self.end_statement();
    }

    fn unknown_declaration(&mut self, around: Around) {
        let token = self.ahead(0);
        let word = self.word(0).to_owned();
        let known: Vec<&str> = match around {
            Around::Book => words::DECLARATIONS.to_vec(),
            Around::Light => vec!["seed", "signal", "value", "color", "input"],
            Around::Behaviour => vec!["signal", "value", "color", "gives"],
            Around::Fitting => {
                vec!["signal", "value", "color", "input", "light", "output", "place"]
            }
        };
        if around == Around::Behaviour && word == "input" {
            let message = "a behaviour has parameters; what the game sets is declared around it";
            self.tell(Diagnostic::error(token.start..token.end, message));
            return;
        }
        if words::LATER.contains(&word.as_str()) {
            self.tell(Diagnostic::error(
                token.start..token.end,
                format!("`{word}` is not part of this version of the language"),
            ));
            return;
        }
        if self.peek() == Kind::Name && !word.is_empty() {
            let message = match around {
                Around::Book => format!("no declaration begins with `{word}`"),
                Around::Light | Around::Behaviour | Around::Fitting => {
                    format!("`{word}` cannot be declared here")
                }
            };
            let diagnostic = Diagnostic::error(token.start..token.end, message);
            let diagnostic = match words::nearest(&word, known.iter().copied()) {
                Some(near) => diagnostic.help(format!("did you mean `{near}`?")),
                None => diagnostic.help(format!("expected one of {}", known.join(", "))),
            };
            self.tell(diagnostic);
        } else {
            self.expected(&format!("a declaration ({})", known.join(", ")));
        }
    }

    /// `input swell = 20% in 0%..100%`
    fn input(&mut self) {
        self.open(Kind::InputDecl);
        self.bump();
        if self.name("input") && self.expect(Kind::Equals, "`=`") {
            self.expression();
            if self.word(0) == "in" {
                self.bump();
                self.range();
            }
        } else {
            self.skip_statement();
        }
        self.close();
    }

    fn named(&mut self) {
        let what = self.word(0).to_owned();
        self.open(Kind::NamedDecl);
        self.bump();
        if self.name(&what) && self.expect(Kind::Equals, "`=`") {
            self.expression();
        } else {
            self.skip_statement();
        }
        self.close();
    }

    /// The part in braces of something; `item` reads one line.
    fn braces(&mut self, what: &str, mut item: impl FnMut(&mut Self)) {
        if !self.expect(Kind::BraceOpen, &format!("`{{` and the {what}")) {
            self.skip_statement();
            return;
        }
        let opened = self.tokens[self.at - 1];
        loop {
            match self.peek() {
                Kind::BraceClose => {
                    self.bump();
                    break;
                }
                Kind::End => {
                    let message = format!("this {what} is never closed; expected `}}`");
                    self.tell(Diagnostic::error(opened.start..opened.end, message));
                    break;
                }
                Kind::LineEnd | Kind::Semicolon => self.bump(),
                _ => item(self),
            }
        }
    }

    fn curve(&mut self) {
        self.open(Kind::CurveDecl);
        self.bump();
        self.name("curve");
        if self.peek() == Kind::ParenOpen {
            self.expected("`{`; curves with parameters are not part of this version");
            self.skip_statement();
            self.close();
            return;
        }
        self.braces("list of stops", |p| {
            let head = p.ahead(1).kind == Kind::Name;
            if p.word(0) == "columns" && head {
                p.open(Kind::Columns);
                p.bump();
                p.name("column");
                while p.peek() == Kind::Comma {
                    p.bump();
                    p.name("column");
                }
                p.close();
            } else if p.word(0) == "blend" && head {
                p.open(Kind::Blend);
                p.bump();
                p.name("blend");
                p.close();
            } else {
                p.stop();
            }
            p.end_statement();
        });
        self.close();
    }

    fn stop(&mut self) {
        self.open(Kind::Stop);
        if self.peek() == Kind::Sign {
            self.bump();
        }
        match self.peek() {
            Kind::Number | Kind::Hour => {
                self.bump();
                self.expression();
                while self.peek() == Kind::Comma {
                    self.bump();
                    self.expression();
                }
                if !self.at_statement_end() && matches!(self.peek(), Kind::Name | Kind::HyphenWord)
                {
                    self.easing();
                }
            }
            _ => {
                self.expected("a stop: a position such as `450ms`, then a value");
                self.skip_statement();
            }
        }
        self.close();
    }

    fn easing(&mut self) {
        self.open(Kind::Easing);
        let brackets = self.touches_bracket(0);
        self.bump();
        if brackets {
            self.arguments();
        }
        self.close();
    }

    fn behaviour(&mut self) {
        self.open(Kind::BehaviourDecl);
        self.bump();
        self.name("behaviour");
        if self.peek() == Kind::ParenOpen {
            self.parameters();
        }
        match self.peek() {
            Kind::Equals => {
                self.bump();
                self.expression();
            }
            Kind::BraceOpen => self.braces("behaviour", |p| p.declaration(Around::Behaviour)),
            _ => {
                self.expected("`=` and what the behaviour gives");
                self.skip_statement();
            }
        }
        self.close();
    }

    fn parameters(&mut self) {
        self.open(Kind::Parameters);
        self.bump();
        while self.peek() != Kind::ParenClose && self.peek() != Kind::End {
            self.open(Kind::Parameter);
            let fine = self.name("parameter")
                && self.expect(Kind::Equals, "`=` and a default; every parameter has one");
            if fine {
                self.expression();
            }
            self.close();
            if self.peek() == Kind::Comma {
                self.bump();
            } else {
                break;
            }
        }
        self.expect(Kind::ParenClose, "`)`");
        self.close();
    }

    /// `[8]` or `[]`, if it is there.
    fn size(&mut self) {
        if self.peek() != Kind::BracketOpen {
            return;
        }
        self.open(Kind::Size);
        self.bump();
        if self.peek() != Kind::BracketClose {
            self.expect(Kind::Number, "how many, as in `mast[8]`, or `]`");
        }
        self.expect(Kind::BracketClose, "`]`");
        self.close();
    }

    fn light(&mut self) {
        self.open(Kind::LightDecl);
        self.bump();
        self.name("light");
        self.size();
        if self.peek() == Kind::Name {
            self.bump();
        } else {
            self.expected("the kind of light: point, spot, area, directional or ambient");
        }
        self.open(Kind::Body);
        self.braces("light", Self::light_line);
        self.close();
        self.close();
    }

    fn fitting(&mut self) {
        self.open(Kind::FittingDecl);
        self.bump();
        self.name("fitting");
        if self.peek() == Kind::ParenOpen {
            self.parameters();
        }
        self.braces("fitting", |p| p.declaration(Around::Fitting));
        self.close();
    }

    fn place(&mut self) {
        self.open(Kind::PlaceDecl);
        self.bump();
        self.name("place");
        self.size();
        if self.keyword("of") {
            self.name("fitting");
        }
        self.open(Kind::Body);
        if !self.at_statement_end() {
            self.braces("place", Self::property_line);
        }
        self.close();
        self.close();
    }

    /// `wall shed { ... }`, `post pile[4] { ... }`
    fn solid(&mut self, kind: Kind, what: &'static str) {
        self.open(kind);
        self.bump();
        self.name(what);
        self.size();
        self.open(Kind::Body);
        self.braces(what, Self::property_line);
        self.close();
        self.close();
    }

    /// `choice region { coast, hills } over 8s`
    fn choice(&mut self) {
        self.open(Kind::ChoiceDecl);
        self.bump();
        self.name("choice");
        self.braces("list of options", |p| {
            if !p.name("option") && p.peek() != Kind::Comma {
                p.skip_statement();
            }
            if p.peek() == Kind::Comma {
                p.bump();
            } else if !p.at_statement_end() {
                p.expected("`,` or `}`");
                p.skip_statement();
            }
        });
        self.over();
        self.close();
    }

    /// `window open from 06:00 to 20:00 over 00:40 before`
    fn window(&mut self) {
        self.open(Kind::WindowDecl);
        self.bump();
        self.name("window");
        if self.keyword("from") {
            self.expression();
            if self.keyword("to") {
                self.expression();
                self.over();
            }
        }
        self.close();
    }

    /// `over 00:40 before smooth`, if it is there.
    fn over(&mut self) {
        if self.word(0) != "over" {
            return;
        }
        self.open(Kind::Over);
        self.bump();
        self.expression();
        if matches!(self.word(0), "before" | "across" | "after") {
            self.bump();
        }
        let easing = matches!(self.peek(), Kind::Name | Kind::HyphenWord);
        if easing && self.word(0) != "tint" && !self.at_statement_end() {
            self.easing();
        }
        self.close();
    }

    /// `phases mood { night from 21:30 over 01:00 before tint #0d1420 ... }`
    fn phases(&mut self) {
        self.open(Kind::PhasesDecl);
        self.bump();
        self.name("list of phases");
        self.braces("list of phases", |p| {
            p.open(Kind::Phase);
            if p.name("phase") && p.keyword("from") {
                p.expression();
                p.over();
                if p.word(0) == "tint" {
                    p.open(Kind::Tint);
                    p.bump();
                    p.expression();
                    p.close();
                }
            } else {
                p.skip_statement();
            }
            p.close();
            p.end_statement();
        });
        self.close();
    }

    /// `sun { ... }`, `sun helios { ... }`, `moon luna of helios { ... }`
    fn sky(&mut self, kind: Kind, what: &'static str) {
        self.open(kind);
        self.bump();
        if self.peek() == Kind::Name && !is_reserved(self.word(0)) {
            self.bump();
        }
        if kind == Kind::MoonDecl && self.word(0) == "of" {
            self.bump();
            self.name("sun");
        }
        if kind == Kind::SunDecl || self.peek() == Kind::BraceOpen {
            self.braces(what, Self::property_line);
        }
        self.close();
    }

    fn output(&mut self) {
        self.open(Kind::OutputDecl);
        self.bump();
        self.name("output");
        self.size();
        if self.peek() == Kind::Equals {
            self.bump();
            self.expression();
        } else {
            self.open(Kind::Body);
            self.braces("output", Self::light_line);
            self.close();
        }
        self.close();
    }

    fn light_line(&mut self) {
        let declares = match self.word(0) {
            "choice" if self.ahead(2).kind == Kind::BraceOpen => true,
            "signal" | "value" | "color" | "input" => {
                self.ahead(1).kind == Kind::Name && self.ahead(2).kind == Kind::Equals
            }
            "seed" => true,
            "curve" | "behaviour" | "light" => self.ahead(1).kind == Kind::Name,
            word => words::LATER.contains(&word),
        };
        if declares {
            self.declaration(Around::Light);
            return;
        }
        self.property_line();
    }

    /// A property, or the properties of the odd one out.
    fn property_line(&mut self) {
        if self.word(0) == "except" && self.ahead(1).kind == Kind::BracketOpen {
            self.open(Kind::Except);
            self.bump();
            self.size();
            self.braces("exception", Self::property_line);
            self.close();
        } else if self.peek() == Kind::Name {
            self.open(Kind::Property);
            self.bump();
            self.range();
            while self.peek() == Kind::Comma {
                self.bump();
                self.range();
            }
            while matches!(self.word(0), "by" | "to" | "over" | "from" | "at" | "every") {
                self.open(Kind::Preposition);
                self.bump();
                self.range();
                self.close();
            }
            self.close();
        } else {
            self.expected("a property such as `intensity`, or `}`");
            self.skip_statement();
        }
        self.end_statement();
    }

    // --- expressions ---------------------------------------------------------------------------

    fn range(&mut self) {
        self.open(Kind::Range);
        self.expression();
        if self.peek() == Kind::DotDot {
            self.bump();
            self.expression();
        }
        self.close();
    }

    fn expression(&mut self) {
        let mark = self.mark();
        if self.depth > DEEPEST_EXPRESSION {
            let token = self.ahead(0);
            self.tell(
                Diagnostic::error(token.start..token.end, "this expression is nested too deeply")
                    .help("give parts of it a name with `signal` or `value`"),
            );
            self.skip_statement();
            return;
        }
        if self.depth == 0 {
            self.links = 0;
        }
        self.depth += 1;
        if self.word(0) == "if" {
            self.open_at(mark, Kind::If);
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

    fn keyword(&mut self, word: &str) -> bool {
        if self.word(0) == word {
            self.bump();
            true
        } else {
            self.expected(&format!("`{word}`"));
            false
        }
    }

    /// Operators of one level or more: 0 or, 1 and, 2 not and comparisons, 3 + -, 4 * /.
    fn chain(&mut self, level: u8) {
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
                3 => matches!(self.peek(), Kind::Plus | Kind::Minus),
                _ => matches!(self.peek(), Kind::Star | Kind::Slash),
            };
            if !joins {
                break;
            }
            self.links += 1;
            if self.links > MOST_OPERATORS {
                let token = self.ahead(0);
                self.tell(
                    Diagnostic::error(token.start..token.end, "this expression is too long")
                        .help("give parts of it a name with `signal` or `value`"),
                );
                self.skip_statement();
                break;
            }
            self.open_at(mark, Kind::Binary);
            self.bump();
            operand(self);
            self.close();
        }
    }

    fn comparison(&mut self) {
        let mark = self.mark();
        if self.word(0) == "not" {
            self.open_at(mark, Kind::Unary);
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
                self.open_at(mark, Kind::Compare);
                if is {
                    self.bump();
                }
                self.bump();
                self.chain(3);
                self.close();
            }
            "in" if is => {
                self.open_at(mark, Kind::Compare);
                self.bump();
                self.bump();
                self.range();
                self.close();
            }
            "on" | "off" if is => {
                self.open_at(mark, Kind::Compare);
                self.bump();
                self.bump();
                self.close();
            }
            word if is && !word.is_empty() && !is_reserved(word) => {
                self.open_at(mark, Kind::Compare);
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
        if matches!(self.peek(), Kind::Sign | Kind::Plus) {
            self.open_at(mark, Kind::Unary);
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
            Kind::Number | Kind::Hour | Kind::Hash | Kind::Text => {
                self.open(Kind::Literal);
                self.bump();
                self.close();
            }
            Kind::ParenOpen => self.bracketed(),
            Kind::Name if matches!(self.word(0), "on" | "off") => {
                self.open(Kind::Literal);
                self.bump();
                self.close();
            }
            Kind::Name if is_reserved(self.word(0)) => self.expected("a value"),
            Kind::Name if matches!(self.word(0), "rgb" | "color") && self.touches_bracket(0) => {
                self.color_call();
            }
            Kind::Name => {
                // `curve.column`; a bracket that touches it makes it a call.
                let mut steps = 0;
                while self.ahead(2 * steps + 1).kind == Kind::Dot
                    && self.ahead(2 * steps + 2).kind == Kind::Name
                {
                    steps += 1;
                }
                let called = self.touches_bracket(2 * steps);
                self.open_at(mark, if called { Kind::Call } else { Kind::Path });
                for _ in 0..=2 * steps {
                    self.bump();
                }
                if called {
                    self.arguments();
                }
                self.close();
            }
            _ => self.expected("a value"),
        }
    }

    fn bracketed(&mut self) {
        self.open(Kind::Bracketed);
        self.bump();
        self.expression();
        while self.peek() == Kind::Comma {
            self.bump();
            if self.peek() == Kind::ParenClose {
                break;
            }
            self.expression();
        }
        self.expect(Kind::ParenClose, "`)`");
        self.close();
    }

    /// `rgb(10 68 168)` and `color(srgb-linear 0.1 0.2 0.3)`, as in CSS Color.
    fn color_call(&mut self) {
        self.open(Kind::ColorCall);
        self.bump();
        self.bump();
        while !matches!(
            self.peek(),
            Kind::ParenClose | Kind::BraceClose | Kind::LineEnd | Kind::End
        ) {
            self.bump();
        }
        self.expect(Kind::ParenClose, "`)`");
        self.close();
    }

    fn arguments(&mut self) {
        self.open(Kind::Arguments);
        self.bump();
        while !matches!(self.peek(), Kind::ParenClose | Kind::End | Kind::LineEnd) {
            let before = self.at;
            self.argument();
            if self.peek() == Kind::Comma {
                self.bump();
            } else if self.at == before || self.peek() != Kind::ParenClose {
                break;
            }
        }
        self.expect(Kind::ParenClose, "`,` or `)`");
        self.close();
    }

    fn argument(&mut self) {
        self.open(Kind::Argument);
        if self.peek() == Kind::HyphenWord {
            self.open(Kind::Range);
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
        if self.peek() != Kind::Name || self.touches_bracket(0) {
            return false;
        }
        if matches!(self.word(0), "if" | "not") {
            return false;
        }
        match self.ahead(1).kind {
            Kind::Number | Kind::Hour | Kind::Hash | Kind::Text | Kind::ParenOpen => true,
            // `x -y` is more likely a difference with a blank missing than a name and a value.
            Kind::Sign => is_reserved(self.word(0)) || self.ahead(2).kind == Kind::Number,
            Kind::Name => {
                let next = self.word(1);
                !is_reserved(next) || matches!(next, "on" | "off" | "if" | "not")
            }
            _ => false,
        }
    }
}
