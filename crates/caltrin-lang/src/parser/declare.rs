//! Parsing of declarations and their clauses.

use rowan::Language;

use super::Parser;
use crate::diagnostic::Diagnostic;
use crate::grammar::{self, Around, Declaration, Keyword, Starts};
use crate::syntax::{Lightbook, SyntaxKind, is_reserved};
use crate::words;

impl Parser<'_> {
    pub(super) fn book(&mut self) {
        self.builder.start_node(Lightbook::kind_to_raw(SyntaxKind::Book));
        while matches!(self.peek(), SyntaxKind::LineEnd | SyntaxKind::Semicolon) {
            self.bump();
        }
        if self.word(0) == "rehearses" {
            self.open(SyntaxKind::Header);
            self.bump();
            self.expect(
                SyntaxKind::Text,
                "the book's file in quotes, as in `rehearses \"pier.caltrin\"`",
            );
            self.close();
            self.end_statement();
        } else if self.word(0) == "lightbook" {
            self.open(SyntaxKind::Header);
            self.bump();
            self.expect(SyntaxKind::Text, "the book's name in quotes, as in `lightbook \"Pier\"`");
            self.close();
            self.end_statement();
        } else if self.peek() == SyntaxKind::End {
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
        self.declarations();
        self.close();
    }

    /// All statements up to the end of the text.
    pub(super) fn declarations(&mut self) {
        while self.peek() != SyntaxKind::End {
            let before = self.at;
            self.declaration(Around::Book);
            if self.peek() == SyntaxKind::BraceClose {
                self.expected("a declaration");
                self.open(SyntaxKind::Broken);
                self.bump();
                self.close();
                self.end_statement();
            }
            debug_assert!(self.at > before || self.peek() == SyntaxKind::End, "no step forward");
        }
        self.trivia();
    }

    fn declaration(&mut self, around: Around) {
        if self.at_statement_end() && self.peek() != SyntaxKind::BraceClose {
            self.end_statement();
            return;
        }
        if matches!(self.word(0), "color" | "behavior") {
            self.spelling();
        }
        let old_hours = self.word(0) == "window" && self.word(2) == "from";
        if old_hours && around == Around::Book {
            self.old_word(0, "hours", ["window", "hours"]);
            self.hours();
            self.end_statement();
            return;
        }
        match grammar::declaration(self.word(0)) {
            Some(known) if known.inside.contains(&around) => self.declared(known),
            known => {
                self.misplaced(known, around);
                self.skip_statement();
            }
        }
        self.end_statement();
    }

    /// A declaration at its first word.
    fn declared(&mut self, known: &Declaration) {
        match known.keyword {
            Keyword::Seed => {
                self.with_one(known, SyntaxKind::Number, "a whole number such as `41`");
            }
            Keyword::Notices => {
                self.with_one(known, SyntaxKind::Number, "a whole number such as `64`");
            }
            Keyword::Use => {
                let wanted = "a file in quotes, as in `use \"lamps.caltrin\"`";
                self.with_one(known, SyntaxKind::Text, wanted);
            }
            Keyword::Space | Keyword::Clock => {
                self.open(known.node);
                self.bump();
                self.braces(known.noun, Self::property_line);
                self.close();
            }
            Keyword::Color | Keyword::Value | Keyword::Signal => self.named(),
            Keyword::Input => self.input(),
            Keyword::Curve => self.curve(),
            Keyword::Behavior => self.behavior(),
            Keyword::Fitting => self.fitting(),
            Keyword::Place => self.place(),
            Keyword::Light => self.light(),
            Keyword::Output => self.output(),
            Keyword::Wall | Keyword::Post => self.solid(known.node, known.noun),
            Keyword::Eye => self.eye(),
            Keyword::Backdrop => self.backdrop(),
            Keyword::Choice => self.choice(),
            Keyword::Hours => self.hours(),
            Keyword::Phases => self.phases(),
            Keyword::Sun | Keyword::Moon => self.sky(known.node, known.noun),
            Keyword::Event => self.event(),
            Keyword::Switch => self.switch(),
            Keyword::Modes => self.modes(),
            Keyword::Sound => self.sound(),
            Keyword::At => self.send(),
            Keyword::Group => self.group(),
            Keyword::Sequence => self.sequence(),
            Keyword::Spark => self.spark(),
            Keyword::Rehearsal => self.rehearsal(),
            Keyword::Gives => {
                self.open(known.node);
                self.bump();
                self.expression();
                self.close();
            }
        }
    }

    /// A declaration of its word and one token.
    fn with_one(&mut self, known: &Declaration, kind: SyntaxKind, wanted: &str) {
        self.open(known.node);
        self.bump();
        self.expect(kind, wanted);
        self.close();
    }

    /// Reports what cannot be declared here.
    fn misplaced(&mut self, found: Option<&Declaration>, around: Around) {
        let token = self.ahead(0);
        let word = self.word(0).to_owned();
        if let Some(found) = found.filter(|found| !found.elsewhere.is_empty()) {
            self.tell(Diagnostic::error(token.start..token.end, found.elsewhere));
            return;
        }
        let known: Vec<&str> = grammar::inside(around).map(|known| known.word).collect();
        if self.peek() == SyntaxKind::Name && !word.is_empty() {
            let message = match around {
                Around::Book => format!("no declaration starts with `{word}`"),
                Around::Light | Around::Behavior | Around::Fitting => {
                    format!("`{word}` cannot be declared here")
                }
            };
            let diagnostic = Diagnostic::error(token.start..token.end, message);
            let diagnostic = match words::nearest(&word, known.iter().copied()) {
                Some(near) => diagnostic.help(format!("did you mean `{near}`?")),
                None => diagnostic.help(
                    words::instead(&word)
                        .unwrap_or_else(|| format!("expected one of {}", known.join(", "))),
                ),
            };
            self.tell(diagnostic);
        } else {
            self.expected(&format!("a declaration ({})", known.join(", ")));
        }
    }

    /// `input swell = 20% in 0%..100%`
    fn input(&mut self) {
        self.open(SyntaxKind::InputDecl);
        self.bump();
        if self.name("input") && self.expect(SyntaxKind::Equals, "`=`") {
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
        self.open(SyntaxKind::NamedDecl);
        self.bump();
        if self.name(&what) && self.expect(SyntaxKind::Equals, "`=`") {
            self.expression();
        } else {
            self.skip_statement();
        }
        self.close();
    }

    /// A block in braces; `item` parses one line.
    fn braces(&mut self, what: &str, mut item: impl FnMut(&mut Self)) {
        if !self.expect(SyntaxKind::BraceOpen, &format!("`{{` and the {what}")) {
            self.skip_statement();
            return;
        }
        let opened = self.tokens[self.at - 1];
        loop {
            match self.peek() {
                SyntaxKind::BraceClose => {
                    self.bump();
                    break;
                }
                SyntaxKind::End => {
                    let message = format!("this {what} is never closed; expected `}}`");
                    self.tell(Diagnostic::error(opened.start..opened.end, message));
                    break;
                }
                SyntaxKind::LineEnd | SyntaxKind::Semicolon => self.bump(),
                _ => item(self),
            }
        }
    }

    fn curve(&mut self) {
        self.open(SyntaxKind::CurveDecl);
        self.bump();
        self.name("curve");
        if self.peek() == SyntaxKind::ParenOpen {
            self.expected("`{`; a curve has no parameters");
            self.skip_statement();
            self.close();
            return;
        }
        self.braces("list of stops", |p| {
            let head = p.ahead(1).kind == SyntaxKind::Name;
            if p.word(0) == "columns" && head {
                p.open(SyntaxKind::Columns);
                p.bump();
                p.name("column");
                while p.peek() == SyntaxKind::Comma {
                    p.bump();
                    p.name("column");
                }
                p.close();
            } else if p.word(0) == "blend" && head {
                p.open(SyntaxKind::Blend);
                p.bump();
                p.name("blend");
                p.close();
            } else if p.word(0) == "length" && p.ahead(1).kind == SyntaxKind::Number {
                p.open(SyntaxKind::CurveLength);
                p.bump();
                p.bump();
                if !p.at_statement_end() {
                    p.easing();
                }
                p.close();
            } else {
                p.stop();
            }
            p.end_statement();
        });
        self.close();
    }

    fn stop(&mut self) {
        self.open(SyntaxKind::Stop);
        if matches!(self.peek(), SyntaxKind::Sign | SyntaxKind::Plus) {
            self.bump();
        }
        match self.peek() {
            SyntaxKind::Number | SyntaxKind::Hour => {
                self.bump();
                self.expression();
                while self.peek() == SyntaxKind::Comma {
                    self.bump();
                    self.expression();
                }
                if !self.at_statement_end()
                    && matches!(self.peek(), SyntaxKind::Name | SyntaxKind::HyphenWord)
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

    pub(super) fn easing(&mut self) {
        self.open(SyntaxKind::Easing);
        let brackets = self.touches_bracket(0);
        self.bump();
        if brackets {
            self.arguments();
        }
        self.close();
    }

    fn behavior(&mut self) {
        self.open(SyntaxKind::BehaviorDecl);
        self.bump();
        self.name("behavior");
        if self.peek() == SyntaxKind::ParenOpen {
            self.parameters(false);
        }
        match self.peek() {
            SyntaxKind::Equals => {
                self.bump();
                self.expression();
            }
            SyntaxKind::BraceOpen => self.braces("behavior", |p| p.declaration(Around::Behavior)),
            _ => {
                self.expected("`=` and what the behavior gives");
                self.skip_statement();
            }
        }
        self.close();
    }

    fn parameters(&mut self, bounded: bool) {
        self.open(SyntaxKind::Parameters);
        self.bump();
        while self.peek() != SyntaxKind::ParenClose && self.peek() != SyntaxKind::End {
            self.open(SyntaxKind::Parameter);
            let fine = self.name("parameter")
                && self.expect(SyntaxKind::Equals, "`=` and a default; every parameter has one");
            if fine {
                self.expression();
                if bounded && self.word(0) == "in" {
                    self.bump();
                    self.range();
                }
            }
            self.close();
            if self.peek() == SyntaxKind::Comma {
                self.bump();
            } else {
                break;
            }
        }
        self.expect(SyntaxKind::ParenClose, "`)`");
        self.close();
    }

    /// `[8]` or `[]`, optional.
    fn size(&mut self) {
        if self.peek() != SyntaxKind::BracketOpen {
            return;
        }
        self.open(SyntaxKind::Size);
        self.bump();
        if self.peek() != SyntaxKind::BracketClose {
            self.expect(SyntaxKind::Number, "how many, as in `mast[8]`, or `]`");
        }
        self.expect(SyntaxKind::BracketClose, "`]`");
        self.close();
    }

    fn light(&mut self) {
        self.open(SyntaxKind::LightDecl);
        self.bump();
        self.name("light");
        self.size();
        if self.peek() == SyntaxKind::Name {
            self.bump();
        } else {
            self.expected("the kind of light: point, spot, area, directional or ambient");
        }
        self.open(SyntaxKind::Body);
        self.braces("light", Self::light_line);
        self.close();
        self.close();
    }

    /// `spark shell[6] point at rocket share 1 in 3 { lives 900ms..1.6s; ... }`
    fn spark(&mut self) {
        self.open(SyntaxKind::SparkDecl);
        self.bump();
        self.name("spark");
        self.size();
        if self.peek() == SyntaxKind::Name && self.word(0) != "at" {
            self.bump();
        } else {
            self.expected("the kind of light: point, spot or area");
        }
        if self.heard() && self.word(0) == "share" {
            self.bump();
            self.expect(SyntaxKind::Number, "how many, as in `share 1 in 3`");
            if self.keyword("in") {
                self.expect(SyntaxKind::Number, "of how many, as in `share 1 in 3`");
            }
        }
        self.open(SyntaxKind::Body);
        self.braces("spark", Self::light_line);
        self.close();
        self.close();
    }

    fn fitting(&mut self) {
        self.open(SyntaxKind::FittingDecl);
        self.bump();
        self.name("fitting");
        if self.peek() == SyntaxKind::ParenOpen {
            self.parameters(false);
        }
        self.braces("fitting", |p| p.declaration(Around::Fitting));
        self.close();
    }

    fn place(&mut self) {
        self.open(SyntaxKind::PlaceDecl);
        self.bump();
        self.name("place");
        self.size();
        if self.keyword("of") {
            self.name("fitting");
        }
        self.open(SyntaxKind::Body);
        if !self.at_statement_end() {
            self.braces("place", Self::property_line);
        }
        self.close();
        self.close();
    }

    /// `wall shed { ... }`, `post pile[4] { ... }`
    fn solid(&mut self, kind: SyntaxKind, what: &str) {
        self.open(kind);
        self.bump();
        self.name(what);
        self.size();
        self.open(SyntaxKind::Body);
        self.braces(what, Self::property_line);
        self.close();
        self.close();
    }

    /// `eye door { at ...; toward ...; field 70deg }`
    fn eye(&mut self) {
        self.open(SyntaxKind::EyeDecl);
        self.bump();
        self.name("eye");
        self.open(SyntaxKind::Body);
        self.braces("eye", Self::property_line);
        self.close();
        self.close();
    }

    /// `backdrop "deck.png" { from ...; to ... }`
    fn backdrop(&mut self) {
        self.open(SyntaxKind::BackdropDecl);
        self.bump();
        self.expect(SyntaxKind::Text, "a picture's file in quotes");
        self.open(SyntaxKind::Body);
        self.braces("backdrop", Self::property_line);
        self.close();
        self.close();
    }

    /// `choice region { coast, hills } over 8s`
    fn choice(&mut self) {
        self.open(SyntaxKind::ChoiceDecl);
        self.bump();
        self.name("choice");
        self.braces("list of options", |p| {
            if !p.name("option") && p.peek() != SyntaxKind::Comma {
                p.skip_statement();
            }
            if p.peek() == SyntaxKind::Comma {
                p.bump();
            } else if !p.at_statement_end() {
                p.expected("`,` or `}`");
                p.skip_statement();
            }
        });
        self.over();
        self.close();
    }

    /// `event docks, leaves`, `event fault every 25s..70s`, `event gong after 4s from docks`, `event high when
    /// swell above 80% rearm below 60%`: a declaration for each name.
    fn event(&mut self) {
        self.open(SyntaxKind::EventDecl);
        self.bump();
        let mut named = self.event_head();
        while named && self.peek() == SyntaxKind::Comma {
            self.close();
            self.open(SyntaxKind::EventDecl);
            self.bump();
            named = self.event_head();
        }
        if matches!(self.word(0), "every" | "after") {
            self.open(SyntaxKind::EventSource);
            self.bump();
            self.range();
            if matches!(self.word(0), "from" | "since") {
                self.bump();
                self.event_name();
            }
            self.one_at_a_time();
            self.close();
        } else if self.word(0) == "at" {
            self.open(SyntaxKind::EventSource);
            self.bump();
            if self.peek() == SyntaxKind::Name {
                self.marks();
            } else {
                let wanted = "an hour of the day, as in `at 17:30`, or a mark of a sound, as in `at horn.onset`";
                self.expect(SyntaxKind::Hour, wanted);
            }
            self.close();
        } else if self.word(0) == "when" {
            self.open(SyntaxKind::EventSource);
            self.bump();
            self.condition();
            self.close();
        } else if named && !self.at_statement_end() {
            self.expected("`every`, `after`, `at`, `when` or the end of the line");
            self.skip_statement();
        }
        self.close();
    }

    /// `one at a time`, or `one at a time repeating`, optional.
    fn one_at_a_time(&mut self) {
        const WORDS: [&str; 4] = ["one", "at", "a", "time"];
        if !WORDS.iter().enumerate().all(|(n, word)| self.word(n) == *word) {
            return;
        }
        self.open(SyntaxKind::OneAtATime);
        WORDS.iter().for_each(|_| self.bump());
        if self.word(0) == "repeating" {
            self.bump();
        }
        self.close();
    }

    /// Marks of a sound and their bounds: `horn.onset above 40%`, `tune.note above 59 below 72`
    fn marks(&mut self) {
        self.event_name();
        while matches!(self.word(0), "above" | "below") {
            self.open(SyntaxKind::MarkBound);
            self.bump();
            self.chain(3);
            self.close();
        }
    }

    /// `sound horn = "sounds/horn.wav" { starts at docks; stops at cut; loops; speed wind; position seek.to at seek }`
    fn sound(&mut self) {
        self.open(SyntaxKind::SoundDecl);
        self.bump();
        let named = self.name("sound");
        if named && self.expect(SyntaxKind::Equals, "`=` and a file in quotes, or `live`") {
            if self.word(0) == "live" {
                self.bump();
            } else {
                self.expect(
                    SyntaxKind::Text,
                    "a file in quotes, as in `\"sounds/horn.wav\"`, or `live`",
                );
            }
        }
        if self.peek() == SyntaxKind::BraceOpen {
            self.braces("sound", Self::sound_line);
        } else if !self.at_statement_end() {
            self.expected("`{` or the end of the line");
            self.skip_statement();
        }
        self.close();
    }

    fn sound_line(&mut self) {
        self.open(SyntaxKind::SoundLine);
        let whole = match self.word(0) {
            "starts" | "stops" => {
                self.bump();
                self.heard()
            }
            "loops" | "once" => {
                self.bump();
                true
            }
            "speed" => {
                self.bump();
                self.expression();
                true
            }
            "position" => {
                self.bump();
                self.expression();
                self.heard()
            }
            _ => {
                self.expected("`starts at`, `stops at`, `loops`, `once`, `speed` or `position`");
                false
            }
        };
        if !whole {
            self.skip_statement();
        }
        self.close();
        self.end_statement();
    }

    /// The name of an event and its parameters: `rocket(place = (0m, 0m, 0m), size = 1 in 0..4)`
    fn event_head(&mut self) -> bool {
        let named = self.name("event");
        if named && self.peek() == SyntaxKind::ParenOpen {
            self.parameters(true);
        }
        named
    }

    /// The path of an event; `warning.alarm` is that of an entered mode.
    fn event_name(&mut self) -> bool {
        self.open(SyntaxKind::Path);
        let mut named = self.name("event");
        while named && self.peek() == SyntaxKind::Dot {
            self.bump();
            named = self.name("event");
        }
        self.close();
        named
    }

    /// The names of events, with `at` before them.
    fn heard(&mut self) -> bool {
        let mut heard = self.keyword("at") && self.event_name();
        while heard && self.peek() == SyntaxKind::Comma {
            self.bump();
            heard = self.event_name();
        }
        heard
    }

    /// `swell above 80% rearm below 60% for 2s`
    fn condition(&mut self) {
        self.open(SyntaxKind::Condition);
        self.expression();
        if self.word(0) == "again" {
            match self.word(1) {
                "above" => self.old_word(0, "rearm", ["again above", "rearm above"]),
                _ => self.old_word(0, "rearm", ["again below", "rearm below"]),
            }
        }
        if matches!(self.word(0), "rearm" | "again") {
            self.open(SyntaxKind::Rearm);
            self.bump();
            if matches!(self.word(0), "above" | "below") {
                self.bump();
                self.expression();
            } else {
                self.expected("`above` or `below`");
            }
            self.close();
        }
        if self.word(0) == "for" {
            self.bump();
            self.expression();
        }
        self.close();
    }

    /// `modes warning { calm, alarm; calm -> alarm when swell above 80% over 400ms }`
    fn modes(&mut self) {
        self.open(SyntaxKind::ModesDecl);
        self.bump();
        self.name("list of modes");
        self.braces("list of modes", |p| {
            if p.ahead(1).kind == SyntaxKind::Arrow {
                p.rule();
            } else {
                p.open(SyntaxKind::ModeList);
                let mut named = p.name("mode");
                while named && p.peek() == SyntaxKind::Comma {
                    p.bump();
                    named = p.name("mode");
                }
                if !named {
                    p.skip_statement();
                }
                p.close();
            }
            p.end_statement();
        });
        self.close();
    }

    /// `calm -> watch when swell above 50% for 2s over 3s`
    fn rule(&mut self) {
        self.open(SyntaxKind::Rule);
        let whole = self.name("mode") && {
            self.bump();
            self.name("mode")
        };
        match self.word(0) {
            _ if !whole => self.skip_statement(),
            "at" => {
                if self.heard() {
                    self.over();
                } else {
                    self.skip_statement();
                }
            }
            "when" => {
                self.bump();
                self.condition();
                self.over();
            }
            "after" => {
                self.bump();
                self.expression();
                self.over();
            }
            _ => {
                self.expected(
                    "why: `at` and an event, `when` and a condition, or `after` and a time",
                );
                self.skip_statement();
            }
        }
        self.close();
    }

    /// `switch power { starts on; off at cut over 60ms; on at back, reset over 2s smooth }`
    fn switch(&mut self) {
        self.open(SyntaxKind::SwitchDecl);
        self.bump();
        self.name("switch");
        self.braces("switch", |p| {
            p.open(SyntaxKind::SwitchLine);
            match p.word(0) {
                "starts" => {
                    p.bump();
                    if matches!(p.word(0), "on" | "off") {
                        p.bump();
                    } else {
                        p.expected("`on` or `off`");
                        p.skip_statement();
                    }
                }
                "on" | "off" | "flip" => {
                    p.bump();
                    if p.heard() {
                        p.over();
                    } else {
                        p.skip_statement();
                    }
                }
                _ => {
                    p.expected("`starts`, `on at`, `off at` or `flip at`");
                    p.skip_statement();
                }
            }
            p.close();
            p.end_statement();
        });
        self.close();
    }

    /// `at fault send strike("strike_a" or "strike_b", loud drawn(40%..80%)) from mast[3]`
    fn send(&mut self) {
        self.open(SyntaxKind::SendDecl);
        if self.heard() && self.keyword("send") && self.name("notice") {
            if self.peek() == SyntaxKind::ParenOpen {
                self.contents();
            }
            if self.word(0) == "from" {
                self.bump();
                self.light_path();
            }
        } else {
            self.skip_statement();
        }
        self.close();
    }

    /// `("strike_a" or "strike_b", loud drawn(40%..80%), within 12m)`
    fn contents(&mut self) {
        self.bump();
        let texts = self.peek() == SyntaxKind::Text;
        if texts {
            self.bump();
            while self.word(0) == "or" {
                self.bump();
                if !self.expect(SyntaxKind::Text, "a text in quotes") {
                    break;
                }
            }
        }
        let mut more = !texts || self.peek() == SyntaxKind::Comma;
        while more {
            if self.peek() == SyntaxKind::Comma {
                self.bump();
            }
            if self.peek() != SyntaxKind::Name {
                self.expected("a text in quotes, or a name and a value, as in `loud 80%`");
                break;
            }
            self.argument();
            more = self.peek() == SyntaxKind::Comma;
        }
        let wanted = if texts { "`or`, `,` or `)`" } else { "`,` or `)`" };
        self.expect(SyntaxKind::ParenClose, wanted);
    }

    /// `mast`, `mast[3]`, `quay.glow`, `quay[2].glow`: a light, a light in an instance, or a group.
    fn light_path(&mut self) -> bool {
        self.open(SyntaxKind::LightPath);
        let mut named = self.name("light");
        while named && matches!(self.peek(), SyntaxKind::Dot | SyntaxKind::BracketOpen) {
            if self.peek() == SyntaxKind::Dot {
                self.bump();
                named = self.name("light");
            } else {
                self.bump();
                named = self.expect(SyntaxKind::Number, "which of them, counted from 0")
                    && self.expect(SyntaxKind::BracketClose, "`]`");
            }
        }
        self.close();
        named
    }

    fn light_paths(&mut self) -> bool {
        let mut named = self.light_path();
        while named && self.peek() == SyntaxKind::Comma {
            self.bump();
            named = self.light_path();
        }
        named
    }

    /// `group pier { lights mast, quay; dim with power to 3%; tint with power to #3a2413 }`
    fn group(&mut self) {
        self.open(SyntaxKind::GroupDecl);
        self.bump();
        self.name("group");
        self.braces("group", |p| {
            match p.word(0) {
                "lights" => {
                    p.open(SyntaxKind::GroupLights);
                    p.bump();
                    if !p.light_paths() {
                        p.skip_statement();
                    }
                    p.close();
                }
                "dim" | "tint" => {
                    p.open(SyntaxKind::GroupLine);
                    match (p.word(0), p.word(1)) {
                        ("dim", "by") => p.old_word(1, "with", ["dim by", "dim with"]),
                        ("tint", "by") => p.old_word(1, "with", ["tint by", "tint with"]),
                        _ => {}
                    }
                    p.bump();
                    let old = p.word(0) == "by";
                    if p.keyword(if old { "by" } else { "with" }) {
                        p.expression();
                        if p.word(0) == "to" {
                            p.bump();
                            p.expression();
                        }
                    } else {
                        p.skip_statement();
                    }
                    p.close();
                }
                _ => {
                    p.expected("`lights`, `dim with` or `tint with`");
                    p.skip_statement();
                }
            }
            p.end_statement();
        });
        self.close();
    }

    /// `sequence docking at ferry_docks again restart { 2s gangway.intensity 400cd smooth; 12s return over 1.5s }`
    fn sequence(&mut self) {
        self.open(SyntaxKind::SequenceDecl);
        self.bump();
        self.name("sequence");
        if !self.heard() {
            self.skip_statement();
            self.close();
            return;
        }
        if self.word(0) == "again" {
            self.bump();
            self.name("way to go on");
        }
        self.braces("sequence", |p| {
            if p.word(0) == "stops" {
                p.open(SyntaxKind::Ends);
                p.bump();
                if p.heard() {
                    p.over();
                } else {
                    p.skip_statement();
                }
                p.close();
                p.end_statement();
                return;
            }
            p.open(SyntaxKind::SequenceStep);
            if matches!(p.peek(), SyntaxKind::Plus | SyntaxKind::Sign) {
                p.bump();
            }
            let wanted = match p.word(0) {
                "keep" => "the moment when, as in `12s keep`",
                "return" => "the moment when, as in `12s return over 2s`",
                "mark" => "the moment when, as in `2s mark gate_opens`",
                _ => "a moment such as `2s`, or `stops at`",
            };
            let mut moment = p.expect(SyntaxKind::Number, wanted);
            if moment && p.peek() == SyntaxKind::DotDot {
                p.bump();
                moment = p.expect(SyntaxKind::Number, "the end of the move, as in `5.5s..6.5s`");
            }
            if !moment {
                p.skip_statement();
            } else if p.peek() == SyntaxKind::BraceOpen {
                p.braces("step", |p| {
                    p.sequence_line();
                    p.end_statement();
                });
            } else {
                p.sequence_line();
            }
            p.close();
            p.end_statement();
        });
        self.close();
    }

    /// `gangway.color #ffb000 smooth`, `mark gate_opens`, `keep`, `return gangway over 1.5s`
    fn sequence_line(&mut self) {
        self.open(SyntaxKind::SequenceLine);
        let word = self.word(0);
        let channel = matches!(self.ahead(1).kind, SyntaxKind::Dot | SyntaxKind::BracketOpen);
        match word {
            "mark" if !channel => {
                self.bump();
                self.name("mark");
            }
            "keep" if !channel => self.bump(),
            "return" if !channel => {
                self.bump();
                if !self.at_statement_end() && self.word(0) != "over" {
                    self.light_paths();
                }
                self.over();
            }
            _ => {
                if self.light_path() {
                    self.range();
                    if !self.at_statement_end()
                        && matches!(self.peek(), SyntaxKind::Name | SyntaxKind::HyphenWord)
                    {
                        self.easing();
                    }
                } else {
                    self.skip_statement();
                }
            }
        }
        self.close();
    }

    /// `rehearsal evening { clock 16:20; 3s docks; 20s swell = 90%; 42s expect mast.intensity below 250lm; 60s end }`
    fn rehearsal(&mut self) {
        self.open(SyntaxKind::RehearsalDecl);
        self.bump();
        self.name("rehearsal");
        self.rehearses = true;
        self.braces("rehearsal", |p| {
            p.open(SyntaxKind::RehearsalLine);
            if p.word(0) == "clock" {
                p.bump();
                p.expect(SyntaxKind::Hour, "an hour such as `16:20`");
            } else if p.expect(SyntaxKind::Number, "a moment such as `3s`, or `clock` and an hour")
            {
                match p.word(0) {
                    "end" => p.bump(),
                    "clock" => {
                        p.bump();
                        match p.word(0) {
                            "rate" => {
                                p.bump();
                                p.expression();
                            }
                            "drive" => {
                                p.bump();
                                p.expect(SyntaxKind::Hour, "an hour such as `16:20`");
                            }
                            _ => {
                                let wanted =
                                    "an hour such as `16:20`, `drive` and an hour, or `rate`";
                                p.expect(SyntaxKind::Hour, wanted);
                            }
                        }
                    }
                    "expect" => {
                        p.open(SyntaxKind::Expect);
                        p.bump();
                        if p.word(1) == "sent" {
                            p.bump();
                            p.bump();
                            p.range();
                        } else {
                            p.expression();
                        }
                        if p.word(0) == "for" {
                            p.bump();
                            p.expression();
                        }
                        p.close();
                    }
                    _ => {
                        p.expression();
                        if p.peek() == SyntaxKind::Equals {
                            p.bump();
                            p.expression();
                        }
                    }
                }
            } else {
                p.skip_statement();
            }
            p.close();
            p.end_statement();
        });
        self.rehearses = false;
        self.close();
    }

    /// `hours open from 06:00 to 20:00 over 00:40 before`
    fn hours(&mut self) {
        self.open(SyntaxKind::HoursDecl);
        self.bump();
        self.name("span of hours");
        if self.keyword("from") {
            self.expression();
            if self.keyword("to") {
                self.expression();
                self.over();
            }
        }
        self.close();
    }

    /// `over 00:40 before smooth`, optional.
    fn over(&mut self) {
        if self.word(0) != "over" {
            return;
        }
        self.open(SyntaxKind::Over);
        self.bump();
        self.expression();
        if matches!(self.word(0), "before" | "across" | "after") {
            self.bump();
        }
        let easing = matches!(self.peek(), SyntaxKind::Name | SyntaxKind::HyphenWord);
        if easing && self.word(0) != "tint" && !self.at_statement_end() {
            self.easing();
        }
        self.close();
    }

    /// `phases mood { night from 21:30 over 01:00 before tint #0d1420 ... }`
    fn phases(&mut self) {
        self.open(SyntaxKind::PhasesDecl);
        self.bump();
        self.name("list of phases");
        self.braces("list of phases", |p| {
            p.open(SyntaxKind::Phase);
            if p.name("phase") && p.keyword("from") {
                p.expression();
                p.over();
                if p.word(0) == "tint" {
                    p.open(SyntaxKind::Tint);
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
    fn sky(&mut self, kind: SyntaxKind, what: &str) {
        self.open(kind);
        self.bump();
        if self.peek() == SyntaxKind::Name && !is_reserved(self.word(0)) {
            self.bump();
        }
        if kind == SyntaxKind::MoonDecl && self.word(0) == "of" {
            self.bump();
            self.name("sun");
        }
        if kind == SyntaxKind::SunDecl || self.peek() == SyntaxKind::BraceOpen {
            self.braces(what, Self::property_line);
        }
        self.close();
    }

    fn output(&mut self) {
        self.open(SyntaxKind::OutputDecl);
        self.bump();
        self.name("output");
        self.size();
        if self.peek() == SyntaxKind::Equals {
            self.bump();
            self.expression();
        } else {
            self.open(SyntaxKind::Body);
            self.braces("output", Self::light_line);
            self.close();
        }
        self.close();
    }

    fn light_line(&mut self) {
        let named = self.ahead(1).kind == SyntaxKind::Name;
        let starts = grammar::declaration(self.word(0)).map(|known| known.starts);
        let declares = match starts.unwrap_or(Starts::Never) {
            Starts::Word => true,
            Starts::Named => named,
            Starts::Assigned => named && self.ahead(2).kind == SyntaxKind::Equals,
            Starts::Braced => self.ahead(2).kind == SyntaxKind::BraceOpen,
            Starts::Never => false,
        };
        if declares {
            self.declaration(Around::Light);
            return;
        }
        self.property_line();
    }

    /// A property, or an exception.
    fn property_line(&mut self) {
        if self.word(0) == "except" && self.ahead(1).kind == SyntaxKind::BracketOpen {
            self.open(SyntaxKind::Except);
            self.bump();
            self.size();
            self.braces("exception", Self::property_line);
            self.close();
        } else if self.peek() == SyntaxKind::Name {
            match (self.word(0), self.word(1)) {
                ("color", _) => self.spelling(),
                ("full", "oldest") => {
                    self.old_word(0, "overflow", ["full oldest", "overflow oldest"]);
                }
                ("full", "ignore") => {
                    self.old_word(0, "overflow", ["full ignore", "overflow ignore"]);
                }
                _ => {}
            }
            let aims_at = self.word(0) == "aim" && self.word(1) == "at";
            self.open(SyntaxKind::Property);
            self.bump();
            if !aims_at {
                self.range();
            }
            while self.peek() == SyntaxKind::Comma {
                self.bump();
                self.range();
            }
            while matches!(self.word(0), "by" | "to" | "over" | "from" | "at" | "every") {
                self.open(SyntaxKind::Preposition);
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
}
