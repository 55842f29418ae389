//! Expressions: kinds, units and names.

use std::ops::Range;

use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{Constant, Domain, ExprId};
use caltrin_core::program_builder::Owner;
use caltrin_core::semantic_error::SemanticError;

use super::{Item, Resolver, Span, child_of, expressions, span, token_span, tokens};
use crate::diagnostic::Diagnostic;
use crate::literal::{self, Fault};
use crate::syntax::{Node, SyntaxKind, Token};
use crate::words;

/// Maximum nesting depth of expressions.
const DEEPEST: usize = 640;

/// A suggestion for a range with a unit at one end only, such as `60..110deg`.
fn unit_left_out(error: &SemanticError, place: &Node) -> Option<String> {
    let SemanticError::WrongKind { found: ValueKind::Number, .. } = error else { return None };
    let range = place.parent().filter(|parent| parent.kind() == SyntaxKind::Range)?;
    let written = |node: &Node| node.text().to_string().trim().to_owned();
    let unit = range.children().find(|end| end != place).and_then(|end| {
        let text = written(&end);
        let digits = text.trim_end_matches(|c: char| c.is_ascii_alphabetic() || c == '%');
        let plain = digits.chars().all(|c| c.is_ascii_digit() || matches!(c, '.' | '_' | '-'));
        (plain && !digits.is_empty()).then(|| text[digits.len()..].to_owned())
    })?;
    let own = written(place);
    let bare = own.chars().all(|c| c.is_ascii_digit() || matches!(c, '.' | '_' | '-'));
    (bare && !unit.is_empty())
        .then(|| format!("both ends of a range need a unit: write `{own}{unit}` here"))
}

/// A suggestion for a point of three plain numbers: with units, or as a color if one is expected.
fn bare_point(node: &Node) -> Option<String> {
    let parts = expressions(node);
    let written: Vec<String> =
        parts.iter().map(|part| part.text().to_string().trim().to_owned()).collect();
    let values: Vec<f64> =
        written.iter().filter_map(|part| part.replace('_', "").parse().ok()).collect();
    let ([a, b, c], [x, y, z]) = (&written[..], &values[..]) else { return None };
    let mut above = node.ancestors().skip(1).filter_map(|above| tokens(&above).next());
    if above.next().is_some_and(|word| words::spelled(word.text()) == "color") {
        let color = literal::color_of([a, b, c], [*x, *y, *z]);
        return color.map(|color| format!("write `{color}`"));
    }
    Some(format!("write `({a}m, {b}m, {c}m)`"))
}

impl Resolver {
    /// Reports an error at a node, or returns the value.
    pub(super) fn fits<T>(&mut self, made: Result<T, SemanticError>, place: &Node) -> Option<T> {
        match made {
            Ok(made) => Some(made),
            Err(error) => {
                let mut told = Diagnostic::error(span(place), error.to_string());
                if let Some(help) = unit_left_out(&error, place) {
                    told = told.help(help);
                } else if let Some(help) = self.help_for(&error) {
                    told = told.help(help);
                }
                self.tell(told);
                None
            }
        }
    }

    fn help_for(&self, error: &SemanticError) -> Option<&'static str> {
        match error {
            SemanticError::WrongKind { found: ValueKind::OnOff, .. } => {
                Some("write `if ... then ... else ...` to choose between values")
            }
            SemanticError::NoArithmetic {
                left: ValueKind::Strength(_),
                right: ValueKind::Strength(_),
                ..
            } => Some("a strength times a number is a strength; omit the unit on one side"),
            SemanticError::NoArithmetic { left, right, .. }
                if *left == ValueKind::Color || *right == ValueKind::Color =>
            {
                Some("colors have no arithmetic; multiply the intensity instead")
            }
            SemanticError::NoArithmetic { verb: "compare", left: ValueKind::Hour, .. } => {
                Some("compare with a range, as in `hour is in 20:00..05:00`")
            }
            SemanticError::NoArithmetic { left: ValueKind::Hour, .. }
            | SemanticError::NoArithmetic { right: ValueKind::Hour, .. } => {
                Some("hours have no arithmetic; use a curve of hours instead")
            }
            SemanticError::NoClock => Some("add one: `clock { day 24min; start 12:00 }`"),
            SemanticError::PhasesMeet => {
                Some("shorten it with `over`, or move it with `before` or `after`")
            }
            _ => None,
        }
    }

    pub(super) fn tell_literal(&mut self, range: Range<usize>, fault: Fault) {
        let told = Diagnostic::error(range, fault.message);
        self.tell(match fault.help {
            Some(help) => told.help(help),
            None => told,
        });
    }

    /// The expression of a node; `None` if an error in it was reported.
    pub(super) fn expression(&mut self, node: &Node, owner: &mut Owner) -> Option<ExprId> {
        if self.depth >= DEEPEST {
            self.tell(
                Diagnostic::error(span(node), "this expression is nested too deeply")
                    .help("name parts of it with `signal` or `value`"),
            );
            return None;
        }
        self.depth += 1;
        let made = self.make(node, owner);
        self.depth -= 1;
        if let Some(id) = made {
            let source = self.source;
            self.source_map.keep(id, || Span { source, range: span(node) });
        }
        made
    }

    fn make(&mut self, node: &Node, owner: &mut Owner) -> Option<ExprId> {
        match node.kind() {
            SyntaxKind::Literal => self.literal(node),
            SyntaxKind::ColorCall => self.color_call(node, owner),
            SyntaxKind::Path => self.path(node),
            SyntaxKind::Call => self.call(node, owner),
            SyntaxKind::Unary => self.unary(node, owner),
            SyntaxKind::Binary => self.binary(node, owner),
            SyntaxKind::Bracketed => self.bracketed(node, owner),
            SyntaxKind::If => {
                let [condition, then, otherwise] = self.several(node, owner)?;
                let fits = self.builder.expect(condition.0, ValueKind::OnOff);
                self.fits(fits, &condition.1)?;
                let fits = self.builder.expect(otherwise.0, self.builder.kind(then.0));
                self.fits(fits, &otherwise.1)?;
                let made = self.builder.select(condition.0, then.0, otherwise.0);
                self.fits(made, node)
            }
            SyntaxKind::Compare => self.compare(node, owner),
            _ => None,
        }
    }

    /// The `N` values of a node; `None` if the parser reported a missing one.
    pub(super) fn several<const N: usize>(
        &mut self,
        node: &Node,
        owner: &mut Owner,
    ) -> Option<[(ExprId, Node); N]> {
        let nodes = expressions(node);
        // All are evaluated, so that all errors are reported.
        let made: Vec<Option<(ExprId, Node)>> =
            nodes.into_iter().map(|n| Some((self.expression(&n, owner)?, n))).collect();
        let made: Option<Vec<_>> = made.into_iter().collect();
        made?.try_into().ok()
    }

    pub(super) fn constant(&mut self, read: literal::Read, range: Range<usize>) -> Option<ExprId> {
        match read {
            Ok((constant, kind)) => Some(self.builder.constant(constant, kind)),
            Err(fault) => {
                self.tell_literal(range, fault);
                None
            }
        }
    }

    fn literal(&mut self, node: &Node) -> Option<ExprId> {
        let token = tokens(node).next()?;
        let range = token_span(&token);
        match token.kind() {
            SyntaxKind::Number => self.constant(literal::number(token.text()), range),
            SyntaxKind::Hash => self.constant(literal::hash_color(token.text()), range),
            SyntaxKind::Hour => self.constant(literal::hour(token.text()), range),
            SyntaxKind::Name => {
                let on = token.text() == "on";
                Some(self.builder.constant(Constant::OnOff(on), ValueKind::OnOff))
            }
            _ => {
                self.tell(Diagnostic::error(range, "expected a value, found a text"));
                None
            }
        }
    }

    fn path(&mut self, node: &Node) -> Option<ExprId> {
        let name = tokens(node).next()?;
        let column = tokens(node).nth(2);
        if let (Some(Item::Value(id)), true) = (self.locals.get(name.text()), column.is_none()) {
            return Some(*id);
        }
        let Some(item) = self.item(name.text()).cloned() else {
            if let Some(made) = self.dial(node) {
                return made;
            }
            if let (Some(color), None) = (self.named_color(name.text()), &column) {
                return Some(color);
            }
            self.unknown(&name, false);
            return None;
        };
        match item.clone() {
            Item::Parts(parts) => return self.part(&parts, &name, column.as_ref()),
            Item::Curve(columns) if columns.tracks[0].domain == Domain::Day => {
                let track = self.column(&columns, &name, column.as_ref())?;
                let made = self.builder.day_now(&track);
                return self.fits(made, node);
            }
            _ => {}
        }
        let range = token_span(&name);
        let wrong =
            |message: String, help: String| Some(Diagnostic::error(range, message).help(help));
        let word = name.text();
        let told = match &item {
            Item::Value(_) | Item::Signal(_) if column.is_some() => {
                wrong(format!("`{word}` has no parts"), "only curves have columns".to_owned())
            }
            Item::Value(id) => return Some(*id),
            Item::Switch(switch) if column.is_none() => {
                return Some(switch.level);
            }
            Item::Switch(_) => wrong(
                format!("`{word}` has no parts"),
                format!("write `{word}` for how far it is on, or `{word} is on`"),
            ),
            Item::Sound(_) => wrong(
                format!("`{word}` is a sound, not a value"),
                format!("follow it, as in `follow({word}, attack 15ms, release 280ms)`"),
            ),
            Item::Event(id) if column.is_some() => {
                let (id, column) = (*id, column?);
                return self.given(id, &name, &column);
            }
            Item::Event(_) => wrong(
                format!("`{word}` is an event, not a value"),
                format!("write what it does, as in `pulse(at {word}, lasts 200ms)`"),
            ),
            Item::Signal(id) => {
                let id = *id;
                return Some(self.builder.signal(id));
            }
            Item::Broken | Item::Parts(_) | Item::Sends => None,
            Item::Curve(columns) => match columns.tracks[0].domain {
                Domain::Time => wrong(
                    format!("`{word}` is a curve and must be played"),
                    format!("write `loop({word})`, `once({word})` or `alternate({word})`"),
                ),
                Domain::Day => None,
                Domain::Ramp(kind) => wrong(
                    format!("`{word}` is a ramp and needs {kind} to drive it"),
                    format!("write `{word}(x)`"),
                ),
            },
            Item::Rehearsal => wrong(
                format!("`{word}` is a rehearsal, not a value"),
                format!("play it with `--rehearsal {word}`"),
            ),
            Item::Sequence => wrong(
                format!("`{word}` is a sequence, not a value"),
                "use a mark in it as an event".to_owned(),
            ),
            Item::Group => wrong(
                format!("`{word}` is a group, not a value"),
                "use the value that dims it".to_owned(),
            ),
            Item::Fitting => wrong(
                format!("`{word}` is a fitting, not a value"),
                format!("place its lights with `place name of {word}`"),
            ),
            Item::Behavior(_) => wrong(
                format!("`{word}` is a behavior and needs parentheses"),
                format!("write `{word}()`"),
            ),
            Item::Scenery => wrong(
                format!("`{word}` is a wall, post or eye, not a value"),
                "name a number with `value`".to_owned(),
            ),
            Item::Light => wrong(
                format!("`{word}` is a light, not a value"),
                "share a value between lights with a `signal`".to_owned(),
            ),
        };
        if let Some(told) = told {
            self.tell(told);
        }
        None
    }

    /// Reports an unknown name, with the nearest known one.
    pub(super) fn unknown(&mut self, name: &Token, called: bool) {
        let word = name.text();
        let what = if called { "function or behavior" } else { "name" };
        let told = Diagnostic::error(token_span(name), format!("there is no {what} `{word}`"));
        if !self.suggests() {
            self.tell(told);
            return;
        }
        let functions = words::functions().filter(|_| called);
        let known: Vec<&str> = self
            .locals
            .keys()
            .map(String::as_str)
            .chain(self.names.keys().map(String::as_str))
            .chain(functions)
            .collect();
        let mut sorted = known;
        sorted.sort_unstable();
        let told = match self.nearest(word, sorted) {
            Some(near) if called && words::is_function(near) => {
                let as_in = words::example(near).map(|call| format!(", as in `{call}`"));
                told.help(format!("did you mean `{near}`{}?", as_in.unwrap_or_default()))
            }
            Some(near) => told.help(format!("did you mean `{near}`?")),
            None if word == "sun" => {
                told.help("declare one, as in `sun { latitude 54deg; date 324 }`")
            }
            None if words::instead(word).is_some() => {
                told.help(words::instead(word).unwrap_or_default())
            }
            None if word == "moon" => told.help("declare one, as in `moon { age 9 }`"),
            None if matches!(word, "hour" | "days") => {
                told.help("add a clock, as in `clock { day 24min; start 12:00 }`")
            }
            None if words::is_function(word) => {
                told.help(format!("`{word}` is a function: write `{word}(...)`"))
            }
            None => told,
        };
        self.tell(told);
    }

    fn unary(&mut self, node: &Node, owner: &mut Owner) -> Option<ExprId> {
        let [(value, place)] = self.several(node, owner)?;
        let sign = tokens(node).next()?;
        let made = match sign.text() {
            "not" => self.builder.not(value),
            "-" => self.builder.negate(value),
            _ => Ok(value),
        };
        self.fits(made, &place)
    }

    fn binary(&mut self, node: &Node, owner: &mut Owner) -> Option<ExprId> {
        let [(left, left_place), (right, right_place)] = self.several(node, owner)?;
        let sign = tokens(node).next()?;
        if matches!(sign.text(), "and" | "or") {
            for (id, place) in [(left, &left_place), (right, &right_place)] {
                let fits = self.builder.expect(id, ValueKind::OnOff);
                self.fits(fits, place)?;
            }
        }
        let made = match sign.text() {
            "+" => self.builder.add(left, right),
            "-" => self.builder.subtract(left, right),
            "*" => self.builder.multiply(left, right),
            "/" => self.builder.divide(left, right),
            "and" => self.builder.and(left, right),
            _ => self.builder.or(left, right),
        };
        self.fits(made, node)
    }

    fn bracketed(&mut self, node: &Node, owner: &mut Owner) -> Option<ExprId> {
        let parts = expressions(node);
        if let [inner] = &parts[..] {
            return self.expression(inner, owner);
        }
        if parts.len() != 3 {
            if !parts.is_empty() {
                let message = format!("a point has three components, found {}", parts.len());
                self.tell(
                    Diagnostic::error(span(node), message).help("write it as `(0m, 6m, 0m)`"),
                );
            }
            return None;
        }
        if let Some(help) = bare_point(node) {
            let message = "the components of a point are lengths, found plain numbers";
            self.tell(Diagnostic::error(span(node), message).help(help));
            return None;
        }
        let parts: [(ExprId, Node); 3] = self.several(node, owner)?;
        for (part, place) in &parts {
            let fits = self.builder.expect(*part, ValueKind::Length);
            self.fits(fits, place)?;
        }
        let [x, y, z] = parts.map(|(id, _)| id);
        let made = self.builder.point(x, y, z);
        self.fits(made, node)
    }

    fn compare(&mut self, node: &Node, owner: &mut Owner) -> Option<ExprId> {
        let words: Vec<Token> = tokens(node).collect();
        let verb = words.last()?.text().to_owned();
        if verb == "on" || verb == "off" {
            if let Some(is_on) = self.switch_is_on(node) {
                let made = if verb == "on" { Ok(is_on) } else { self.builder.not(is_on) };
                return self.fits(made, node);
            }
            let [(value, place)] = self.several(node, owner)?;
            let fits = self.builder.expect(value, ValueKind::OnOff);
            self.fits(fits, &place)?;
            let made = if verb == "on" { Ok(value) } else { self.builder.not(value) };
            return self.fits(made, node);
        }
        if let Some(range) = child_of(node, SyntaxKind::Range) {
            let [(value, _)] = self.several(node, owner)?;
            let bounds = expressions(&range);
            let [lo, hi] = &bounds[..] else {
                let message = "`is in` needs a range such as `20%..60%`";
                self.tell(Diagnostic::error(span(&range), message));
                return None;
            };
            let (lo, hi) = (self.expression(lo, owner)?, self.expression(hi, owner)?);
            if self.builder.kind(value) == ValueKind::Hour {
                for (id, place) in [(lo, &bounds[0]), (hi, &bounds[1])] {
                    let fits = self.builder.expect(id, ValueKind::Hour);
                    self.fits(fits, place)?;
                }
                let made = self.builder.hour_in(value, [lo, hi]);
                return self.fits(made, node);
            }
            let rising = self.builder.rising(lo, hi);
            self.fits(rising, &range)?;
            // In a range means neither above its end nor below its start.
            let over = self.builder.above(value, hi);
            let over = self.fits(over, node)?;
            let under = self.builder.above(lo, value);
            let under = self.fits(under, node)?;
            let outside = self.builder.or(over, under);
            let outside = self.fits(outside, node)?;
            let made = self.builder.not(outside);
            return self.fits(made, node);
        }
        if expressions(node).len() == 1 {
            return self.is_at_hand(node);
        }
        let [(left, _), (right, _)] = self.several(node, owner)?;
        let made = if verb == "above" {
            self.builder.above(left, right)
        } else {
            self.builder.above(right, left)
        };
        self.fits(made, node)
    }
}
