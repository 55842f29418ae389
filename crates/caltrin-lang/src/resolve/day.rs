//! The game's day: clock, hours, phases, sun and moon.

use std::rc::Rc;

use caltrin_core::curve::Easing;
use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{Clock, Constant, Dial, ExprId, Op, Subject};
use caltrin_core::program_builder::Owner;
use caltrin_core::program_builder::day::{Alternatives, Change, Lean, Phase, PhaseFault};
use caltrin_core::program_builder::sky::{Sky, SunPath};
use caltrin_core::quantity::{Hours, Seconds};
use caltrin_core::semantic_error::SemanticError;

use super::call::Arguments;
use super::{
    Item, Resolver, child_of, expressions, is_expression, name_of, span, token_span, tokens,
};
use crate::ast;
use crate::diagnostic::Diagnostic;
use crate::syntax::{Node, SyntaxKind, Token};

/// Named values of hours, phases, sun, moon or modes.
#[derive(Debug, Default)]
pub(super) struct Parts {
    /// What it is, for messages: `sun`, `hours` ...
    pub what: &'static str,
    /// Its full name, for modes.
    pub title: String,
    /// The weight of each mode at the last transition.
    pub left: Vec<ExprId>,
    /// The value of the name alone, if it has one.
    pub whole: Option<ExprId>,
    /// Each name and value.
    pub values: Vec<(String, ExprId)>,
    /// The alternatives for `pick`.
    pub alternatives: Option<Alternatives>,
    /// The sun or moon itself.
    pub(super) sky: Option<Sky>,
}

/// One line of a declaration in braces: its first word, and its values.
struct PropertyLine {
    word: Token,
    node: Node,
    values: Vec<Node>,
}

impl PropertyLine {
    /// Its value as it is written, without spaces.
    fn text(&self) -> String {
        let text: String = self.values.iter().map(|value| value.text().to_string()).collect();
        text.split_whitespace().collect()
    }
}

/// Month and day as ISO 8601 writes them, `11-20`.
fn calendar_date(text: &str) -> Option<[u32; 2]> {
    let (month, day) = text.split_once('-')?;
    let number = |part: &str| {
        let plain = (1..=2).contains(&part.len()) && part.bytes().all(|b| b.is_ascii_digit());
        part.parse().ok().filter(|_| plain)
    };
    Some([number(month)?, number(day)?])
}

impl Resolver {
    /// `clock { day 35min; start 15:40; rate 1 }`
    pub(super) fn clock(&mut self, node: &Node) {
        let mut clock = Clock { day: Seconds(0.0), start: Hours(12.0), rate: 1.0 };
        let (mut day, mut whole) = (None, true);
        for line in self.lines(node, &["day", "start", "rate"], "a clock") {
            let (kind, help) = match line.word.text() {
                "day" => (ValueKind::Time, "write the length of the game's day, as in `day 24min`"),
                "start" => (ValueKind::Hour, "write the hour at the start, as in `start 15:40`"),
                _ => (ValueKind::Number, "write the initial rate, as in `rate 2`"),
            };
            let Some(v) = self.known_number(&line, kind, help) else {
                whole = false;
                continue;
            };
            match line.word.text() {
                "day" => day = Some(v),
                "start" => clock.start = Hours(v),
                _ => clock.rate = v,
            }
        }
        let Some(day) = day else {
            if !whole {
                return;
            }
            let message = "a clock needs the length of the game's day";
            self.tell(
                Diagnostic::error(span(node), message)
                    .help("write `clock { day 24min; start 12:00 }`"),
            );
            return;
        };
        clock.day = Seconds(day);
        let made = self.builder.set_clock(clock);
        self.fits(made, node);
    }

    /// The lines of a block. Unknown and duplicate words are errors.
    fn lines(&mut self, node: &Node, known: &[&str], what: &str) -> Vec<PropertyLine> {
        let mut lines: Vec<PropertyLine> = Vec::new();
        for property in node.children().filter(|child| child.kind() == SyntaxKind::Property) {
            let Some(word) = tokens(&property).next() else { continue };
            let values =
                child_of(&property, SyntaxKind::Range).map_or(Vec::new(), |r| expressions(&r));
            if !known.contains(&word.text()) {
                let message = format!("{what} has no `{}`", word.text());
                let told = Diagnostic::error(token_span(&word), message);
                self.tell(match self.nearest(word.text(), known.iter().copied()) {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None => told.help(format!("it has {}", known.join(", "))),
                });
                continue;
            }
            if lines.iter().any(|line| line.word.text() == word.text()) {
                let message = format!("duplicate `{}`", word.text());
                self.tell(Diagnostic::error(span(&property), message));
                continue;
            }
            lines.push(PropertyLine { word, node: property, values });
        }
        lines
    }

    fn one_value(&mut self, line: &PropertyLine, kind: ValueKind, help: &str) -> Option<ExprId> {
        let [value] = &line.values[..] else {
            let message = format!("`{}` takes one value", line.word.text());
            self.tell(Diagnostic::error(span(&line.node), message).help(help));
            return None;
        };
        let mut owner = Owner::book("");
        let id = self.expression(value, &mut owner)?;
        if self.builder.kind(id) != kind {
            let message = format!("expected {kind}, found {}", self.builder.kind(id));
            self.tell(Diagnostic::error(span(value), message).help(help));
            return None;
        }
        Some(id)
    }

    fn known_number(&mut self, line: &PropertyLine, kind: ValueKind, help: &str) -> Option<f64> {
        let id = self.one_value(line, kind, help)?;
        match self.program().constant(id) {
            Some(Constant::Scalar(v)) => Some(v),
            _ => {
                let message = format!("`{}` must be constant", line.word.text());
                self.tell(Diagnostic::error(span(&line.node), message));
                None
            }
        }
    }

    /// The transition at an hour: `over 00:40 before smooth`.
    fn change(&mut self, node: Option<&Node>) -> Option<(Change, Easing)> {
        let mut change = Change { over: Hours(0.0), lean: Lean::Across };
        let Some(node) = node else { return Some((change, Easing::Smooth)) };
        let value = node.children().find(is_expression)?;
        let mut owner = Owner::book("");
        let id = self.expression(&value, &mut owner)?;
        if self.builder.kind(id) != ValueKind::Hour {
            let found = self.builder.kind(id);
            let message = format!("expected a span of the clock, found {found}");
            self.tell(Diagnostic::error(span(&value), message).help("write `over 00:40`"));
            return None;
        }
        let Some(Constant::Scalar(over)) = self.program().constant(id) else {
            let message = "the length of a transition must be constant";
            self.tell(Diagnostic::error(span(&value), message));
            return None;
        };
        change.over = Hours(over);
        for word in tokens(node).skip(1) {
            change.lean = match word.text() {
                "before" => Lean::Before,
                "after" => Lean::After,
                _ => Lean::Across,
            };
        }
        let easing = match child_of(node, SyntaxKind::Easing) {
            Some(easing) => self.easing(&easing)?,
            None => Easing::Smooth,
        };
        Some((change, easing))
    }

    /// `choice region { coast, hills } over 8s`
    pub(super) fn choice(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let options: Vec<String> = tokens(node)
            .skip_while(|token| token.kind() != SyntaxKind::BraceOpen)
            .filter(|token| token.kind() == SyntaxKind::Name)
            .map(|token| token.text().to_owned())
            .collect();
        let mut over = Seconds(0.0);
        if let Some(part) = child_of(node, SyntaxKind::Over) {
            let value = part.children().find(is_expression)?;
            let mut owner = Owner::book("");
            let id = self.expression(&value, &mut owner)?;
            let fits = self.builder.expect(id, ValueKind::Time);
            self.fits(fits, &value)?;
            match self.program().constant(id) {
                Some(Constant::Scalar(v)) => over = Seconds(v),
                _ => {
                    let message = "the length of a transition must be constant";
                    self.tell(Diagnostic::error(span(&value), message));
                    return None;
                }
            }
            let lean = tokens(&part).nth(1).map(|word| token_span(&word));
            let easing = child_of(&part, SyntaxKind::Easing).map(|easing| span(&easing));
            if let Some(range) = lean.or(easing) {
                let message = "the transition of a choice starts when it is chosen";
                self.tell(Diagnostic::error(range, message).help("remove this"));
                return None;
            }
        }
        let made = self.builder.define_choice(name.text(), &options, over);
        // A duplicate name was reported when the names were gathered.
        if matches!(&made, Err(SemanticError::NameTaken(taken)) if taken == name.text()) {
            return None;
        }
        let (id, all) = self.fits(made, node)?;
        self.note(Subject::Choice(id), node);
        let values = all.names.iter().cloned().zip(all.weights.iter().copied()).collect();
        let parts = Parts { what: "choice", values, alternatives: Some(all), ..Parts::default() };
        Some(Item::Parts(Rc::new(parts)))
    }

    /// `hours open from 06:00 to 20:00 over 00:40 before`
    pub(super) fn hours(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let ends: Vec<Node> = node.children().filter(is_expression).collect();
        let mut owner = Owner::book("");
        let (from, to) = (ends.first()?, ends.get(1)?);
        let made = (self.expression(from, &mut owner), self.expression(to, &mut owner));
        let (start, end) = (made.0?, made.1?);
        for (id, place) in [(start, from), (end, to)] {
            let fits = self.builder.expect(id, ValueKind::Hour);
            self.fits(fits, place)?;
        }
        let over = child_of(node, SyntaxKind::Over);
        let (change, easing) = self.change(over.as_ref())?;
        let place = over.unwrap_or_else(|| node.clone());
        let made = self.builder.define_hours(name.text(), [start, end], change, easing);
        let place =
            if matches!(made, Err(SemanticError::HoursTooShort { .. })) { &place } else { node };
        let [level, through] = self.fits(made, place)?;
        self.note_signals(node, &[level, through]);
        let values = vec![("through".to_owned(), through)];
        let parts = Parts { what: "span of hours", whole: Some(level), values, ..Parts::default() };
        Some(Item::Parts(Rc::new(parts)))
    }

    /// Stores the source lines of signals.
    fn note_signals(&mut self, node: &Node, values: &[ExprId]) {
        for value in values {
            if let Op::Signal(signal) = self.program().expr(*value).op {
                self.note(Subject::Signal(signal), node);
            }
        }
    }

    /// `phases mood { night from 21:30 over 01:00 before tint #0d1420 ... }`
    pub(super) fn phases(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let lines: Vec<Node> = node.children().filter(|c| c.kind() == SyntaxKind::Phase).collect();
        let mut phases: Vec<Phase> = Vec::with_capacity(lines.len());
        let mut owner = Owner::book("");
        let mut whole = true;
        for line in &lines {
            let phase = self.phase(line, &mut owner);
            let Some(phase) = phase else {
                whole = false;
                continue;
            };
            let known = phases.iter().any(|other| other.name == phase.name);
            if known || phase.name == "tint" {
                let message = match known {
                    true => format!("duplicate phase `{}`", phase.name),
                    false => {
                        "a phase cannot be called `tint`, which is the blended color of all phases"
                            .to_owned()
                    }
                };
                self.tell(Diagnostic::error(span(line), message));
                whole = false;
                continue;
            }
            phases.push(phase);
        }
        if !whole {
            return None;
        }
        let (all, tint) = match self.builder.define_phases(name.text(), &phases) {
            Ok(made) => made,
            Err(PhaseFault { phase, error }) => {
                let place = match error {
                    SemanticError::TooFewPhases | SemanticError::NoClock => node,
                    _ => lines.get(phase).unwrap_or(node),
                };
                self.fits::<()>(Err(error), place);
                return None;
            }
        };
        self.note_named(name.text(), node);
        let mut values: Vec<(String, ExprId)> =
            all.names.iter().cloned().zip(all.weights.iter().copied()).collect();
        values.extend(tint.map(|tint| ("tint".to_owned(), tint)));
        for (value, line) in all.weights.iter().zip(&lines) {
            self.note_signals(line, &[*value]);
        }
        self.note_signals(node, &tint.map_or(Vec::new(), |tint| vec![tint]));
        let parts = Parts { what: "phases", values, alternatives: Some(all), ..Parts::default() };
        Some(Item::Parts(Rc::new(parts)))
    }

    fn phase(&mut self, line: &Node, owner: &mut Owner) -> Option<Phase> {
        let name = tokens(line).next()?.text().to_owned();
        let hour = line.children().find(is_expression)?;
        let from = self.expression(&hour, owner)?;
        let fits = self.builder.expect(from, ValueKind::Hour);
        self.fits(fits, &hour)?;
        let over = child_of(line, SyntaxKind::Over);
        if let Some(easing) = over.as_ref().and_then(|over| child_of(over, SyntaxKind::Easing)) {
            let message = "transitions of phases are always smooth";
            self.tell(Diagnostic::error(span(&easing), message).help("remove it"));
            return None;
        }
        let (change, _) = self.change(over.as_ref())?;
        let tint = match child_of(line, SyntaxKind::Tint) {
            None => None,
            Some(tint) => {
                let value = tint.children().find(is_expression)?;
                let id = self.expression(&value, owner)?;
                let fits = self.builder.expect(id, ValueKind::Color);
                self.fits(fits, &value)?;
                Some(id)
            }
        };
        Some(Phase { name, from, change, tint })
    }

    /// `sun { latitude 54deg; date 324 }` or `sun { rises 07:40; sets 16:10; highest 18deg }`
    pub(super) fn sun(&mut self, node: &Node) -> Option<Item> {
        const EARTH: [&str; 5] = ["latitude", "longitude", "date", "year", "zone"];
        const HOURS: [&str; 5] = ["rises", "sets", "highest", "lowest", "twilight"];
        let name = name_of(node)?;
        let known = [EARTH, HOURS].concat();
        let lines = self.lines(node, &known, "a sun");
        let by_hours = lines.iter().any(|line| HOURS.contains(&line.word.text()));
        let by_earth = lines.iter().find(|line| EARTH.contains(&line.word.text()));
        if let (true, Some(line)) = (by_hours, by_earth) {
            let message = "a sun has either hours or a place on earth, not both";
            self.tell(Diagnostic::error(span(&line.node), message).help(
                "use either `rises`, `sets`, `highest`, `lowest` or `latitude`, `longitude`, `date`",
            ));
            return None;
        }
        let path = if by_hours {
            self.path_by_hours(node, &lines)
        } else {
            self.path_by_earth(node, &lines)
        };
        let made = self.builder.define_sun(name.text(), path?);
        let error = made.as_ref().err();
        let place = error.and_then(|error| place_of(error, &lines)).unwrap_or_else(|| node.clone());
        let sky = self.fits(made, &place)?;
        self.note_named(name.text(), node);
        self.sky(node, "sun", sky)
    }

    fn path_by_earth(&mut self, node: &Node, lines: &[PropertyLine]) -> Option<SunPath> {
        let find = |word: &str| lines.iter().find(|line| line.word.text() == word);
        let help = "write `sun { latitude 54deg; date 324 }`, or `sun { rises 07:40; sets 16:10; highest 18deg }`";
        let (Some(latitude), Some(date)) = (find("latitude"), find("date")) else {
            let message = "a sun needs its `latitude` and the `date`, or the hours at which it rises and sets";
            self.tell(Diagnostic::error(span(node), message).help(help));
            return None;
        };
        let latitude = self.one_value(latitude, ValueKind::Angle, "write `latitude 54deg`");
        let leap = find("year").is_some_and(|line| {
            let year: Option<u32> = line.text().parse().ok();
            year.is_some_and(|year| year % 4 == 0 && (year % 100 != 0 || year % 400 == 0))
        });
        let date = match calendar_date(&date.text()) {
            Some([month, day]) => self.day_of_year(&date.node, [month, day], leap),
            None => self.one_value(
                date,
                ValueKind::Number,
                "write the day of the year, as in `date 324`, or month and day, as in `date 11-20`",
            ),
        };
        let longitude = match find("longitude") {
            Some(line) => self.one_value(line, ValueKind::Angle, "write `longitude -1deg`"),
            None => self.builder.number(0.0, ValueKind::Angle).ok(),
        };
        let year = match find("year") {
            Some(line) => self.known_number(line, ValueKind::Number, "write `year 2026`"),
            None => Some(2025.0),
        };
        let zone = match find("zone") {
            Some(line) => {
                let help = "write how many hours the clock is ahead of UT, as in `zone 1`";
                Some(self.known_number(line, ValueKind::Number, help)?)
            }
            None => None,
        };
        Some(SunPath::Earth {
            latitude: latitude?,
            longitude: longitude?,
            date: date?,
            year: year?,
            zone,
        })
    }

    /// The day of the year, from 1, of a month and its day.
    fn day_of_year(&mut self, line: &Node, [month, day]: [u32; 2], leap: bool) -> Option<ExprId> {
        const DAYS: [u32; 12] = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
        let in_month = |n: usize| DAYS[n] + u32::from(n == 1 && leap);
        let at = usize::try_from(month).ok().and_then(|month| month.checked_sub(1));
        let Some(at) = at.filter(|at| *at < 12 && (1..=in_month(*at)).contains(&day)) else {
            let message = format!("`{month:02}-{day:02}` is not a date");
            let help =
                "write month and day, as in `date 11-20`; February has 29 days in a leap `year`";
            self.tell(Diagnostic::error(span(line), message).help(help));
            return None;
        };
        let date = (0..at).map(in_month).sum::<u32>() + day;
        self.builder.number(f64::from(date), ValueKind::Number).ok()
    }

    fn path_by_hours(&mut self, node: &Node, lines: &[PropertyLine]) -> Option<SunPath> {
        let find = |word: &str| lines.iter().find(|line| line.word.text() == word);
        let (Some(rises), Some(sets)) = (find("rises"), find("sets")) else {
            let message = "a sun with hours needs both `rises` and `sets`";
            self.tell(
                Diagnostic::error(span(node), message)
                    .help("write `sun { rises 07:40; sets 16:10; highest 18deg }`"),
            );
            return None;
        };
        let rises = self.one_value(rises, ValueKind::Hour, "write `rises 07:40`");
        let sets = self.one_value(sets, ValueKind::Hour, "write `sets 16:10`");
        let mut heights = Vec::with_capacity(2);
        for (word, default) in [("highest", 50.0), ("lowest", -50.0)] {
            heights.push(match find(word) {
                Some(line) => {
                    let help = format!("write `{word} {default}deg`");
                    self.one_value(line, ValueKind::Angle, &help)
                }
                None => self.builder.number(default, ValueKind::Angle).ok(),
            });
        }
        let twilight = match find("twilight") {
            Some(line) => self.known_number(line, ValueKind::Hour, "write `twilight 00:40`")?,
            None => 0.5,
        };
        let twilight = Hours(twilight);
        let (rises, sets) = (rises?, sets?);
        Some(SunPath::Hours { rises, sets, highest: heights[0]?, lowest: heights[1]?, twilight })
    }

    /// `moon { age 9 }`, `moon luna of helios { age 9 }`
    pub(super) fn moon(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let lines = self.lines(node, &["age"], "a moon");
        let (word, place) = match ast::Moon(node.clone()).sun() {
            Some(token) => (token.text().to_owned(), token_span(&token)),
            None => ("sun".to_owned(), span(node)),
        };
        let item = self.names.get(&word).map(|n| self.entries[*n].item.clone());
        let sun = match item {
            Some(Item::Broken) => return None,
            Some(Item::Parts(parts)) if parts.what == "sun" => parts,
            _ => {
                let message = format!("a moon needs a sun, and there is no sun `{word}`");
                self.tell(
                    Diagnostic::error(place, message)
                        .help("declare one, as in `sun { latitude 54deg; date 324 }`"),
                );
                return None;
            }
        };
        let age = match lines.first() {
            Some(line) => {
                let help = "write its age in days since new moon, as in `age 9`";
                Some(self.one_value(line, ValueKind::Number, help)?)
            }
            None => None,
        };
        let made = self.builder.define_moon(name.text(), sun.sky.as_ref()?, age);
        let sky = self.fits(made, node)?;
        self.note_named(name.text(), node);
        self.sky(node, "moon", sky)
    }

    /// The values of sun or moon.
    fn sky(&mut self, node: &Node, what: &'static str, sky: Sky) -> Option<Item> {
        let values = sky.values.iter().map(|(part, value)| ((*part).to_owned(), *value));
        let values: Vec<(String, ExprId)> = values.collect();
        let ids: Vec<ExprId> = values.iter().map(|(_, value)| *value).collect();
        self.note_signals(node, &ids);
        let parts = Parts { what, values, sky: Some(sky), ..Parts::default() };
        Some(Item::Parts(Rc::new(parts)))
    }

    /// The value of a path such as `sun.height`.
    pub(super) fn part(
        &mut self,
        parts: &Parts,
        name: &Token,
        column: Option<&Token>,
    ) -> Option<ExprId> {
        let word = name.text();
        let known: Vec<&str> = parts.values.iter().map(|(part, _)| part.as_str()).collect();
        let all =
            known.iter().map(|part| format!("`{word}.{part}`")).collect::<Vec<_>>().join(", ");
        let told = match (column, parts.whole) {
            (None, Some(whole)) => return Some(whole),
            (None, None) => {
                let message = format!("`{word}` is {} and has several values", article(parts.what));
                let told = Diagnostic::error(token_span(name), message);
                match &parts.alternatives {
                    Some(of) => {
                        let first = of.names.first().map_or("", String::as_str);
                        told.help(format!(
                            "write `pick({word}, {first} ..., others ...)`, `{word} is {first}`, or one of {all}"
                        ))
                    }
                    None => told.help(format!("write one of {all}")),
                }
            }
            (Some(column), _) => {
                let found = parts.values.iter().find(|(part, _)| part == column.text());
                if let Some((_, value)) = found {
                    return Some(*value);
                }
                let message = format!("`{word}` has no `{}`", column.text());
                let told = Diagnostic::error(token_span(column), message);
                match self.nearest(column.text(), known.iter().copied()) {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None => told.help(format!("it has {}", known.join(", "))),
                }
            }
        };
        self.tell(told);
        None
    }

    /// `hour` and `days`, unless the book declares that name.
    pub(super) fn dial(&mut self, node: &Node) -> Option<Option<ExprId>> {
        let mut words = tokens(node);
        let dial = match (words.next()?.text(), words.next()) {
            ("hour", None) => Dial::Hour,
            ("days", None) => Dial::Days,
            _ => return None,
        };
        let made = self.builder.clock(dial);
        Some(self.fits(made, node))
    }

    /// The alternatives that a path names, for `pick`.
    pub(super) fn alternatives(&mut self, path: &Node) -> Option<(Token, Alternatives)> {
        let name = tokens(path).next().filter(|_| path.kind() == SyntaxKind::Path);
        let bare = tokens(path).nth(1).is_none();
        let item = name.as_ref().and_then(|name| self.item(name.text()));
        match (name, item) {
            (Some(_), Some(Item::Broken)) => None,
            (Some(name), Some(Item::Parts(parts))) if bare && parts.alternatives.is_some() => {
                Some((name, parts.alternatives.clone()?))
            }
            _ => {
                let message = "expected the name of `phases`, of `modes` or of a `choice`";
                self.tell(Diagnostic::error(span(path), message));
                None
            }
        }
    }

    /// `mood is night`
    pub(super) fn is_at_hand(&mut self, node: &Node) -> Option<ExprId> {
        let path = expressions(node).first()?.clone();
        let word = tokens(node).last()?;
        let (name, of) = self.alternatives(&path)?;
        match of.names.iter().position(|known| known == word.text()) {
            Some(n) => Some(of.at_hand[n]),
            None => {
                self.no_such(&name, &of, &word);
                None
            }
        }
    }

    pub(super) fn no_such(&mut self, name: &Token, of: &Alternatives, word: &Token) {
        let message = format!("`{}` has no `{}`", name.text(), word.text());
        let told = Diagnostic::error(token_span(word), message);
        let near = self.nearest(word.text(), of.names.iter().map(String::as_str));
        self.tell(match near {
            Some(near) => told.help(format!("did you mean `{near}`?")),
            None => told.help(format!("it has {}", of.names.join(", "))),
        });
    }

    /// `pick(mood, night 20%, dawn 60%, others 100%)`
    pub(super) fn pick(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let Some(first) = arguments.plain() else {
            self.missing(
                arguments,
                "the choice, modes or phases first, as in `pick(mood, night 20%, others 100%)`",
            );
            return None;
        };
        let path = expressions(&first).first()?.clone();
        let (name, of) = self.alternatives(&path)?;
        let mut values: Vec<Option<ExprId>> = vec![None; of.names.len()];
        let mut others = None;
        let mut kind: Option<ValueKind> = None;
        for argument in std::mem::take(&mut arguments.left) {
            let Some(word) = argument.word else {
                let message = "each value follows its name, as in `night 20%`";
                self.tell(Diagnostic::error(span(&argument.range), message));
                return None;
            };
            let (value, place) = self.single(&argument.range, owner)?;
            match kind {
                Some(kind) => {
                    let fits = self.builder.expect(value, kind);
                    self.fits(fits, &place)?;
                }
                None => kind = Some(self.builder.kind(value)),
            }
            let slot = match of.names.iter().position(|known| known == word.text()) {
                Some(n) => &mut values[n],
                None if word.text() == "others" => &mut others,
                None => {
                    self.no_such(&name, &of, &word);
                    return None;
                }
            };
            if slot.replace(value).is_some() {
                let message = format!("duplicate `{}`", word.text());
                self.tell(Diagnostic::error(token_span(&word), message));
                return None;
            }
        }
        let missing: Vec<&str> = of
            .names
            .iter()
            .zip(&values)
            .filter(|(_, value)| value.is_none() && others.is_none())
            .map(|(name, _)| name.as_str())
            .collect();
        if !missing.is_empty() {
            let message = format!("`pick` has no value for {}", missing.join(", "));
            let node = arguments.node.clone();
            self.tell(
                Diagnostic::error(span(&node), message).help("name them, or add `others ...`"),
            );
            return None;
        }
        let values: Vec<ExprId> = values.into_iter().filter_map(|value| value.or(others)).collect();
        let made = self.builder.pick(&of, &values);
        let node = arguments.node.clone();
        self.fits(made, &node)
    }
}

fn place_of(error: &SemanticError, lines: &[PropertyLine]) -> Option<Node> {
    let SemanticError::OutOfRange { what, .. } = error else { return None };
    let word = match *what {
        "a latitude" => "latitude",
        "a longitude" => "longitude",
        "the day of the year" => "date",
        "the year" => "year",
        _ => "zone",
    };
    let line = lines.iter().find(|line| line.word.text() == word)?;
    Some(line.node.clone())
}

fn article(what: &str) -> String {
    if matches!(what, "phases" | "modes") { what.to_owned() } else { format!("a {what}") }
}
