//! Rehearsals: scripted actions of the game, and expectations.

use std::ops::Range;

use caltrin_core::clock::MOST_RATE;
use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{
    Constant, Deed, EventId, EventSource, Expectation, Expected, Field, Level, LightId, LightKind,
    Rehearsal, Relation, Size, Which,
};
use caltrin_core::program_builder::Owner;
use caltrin_core::quantity::{Hours, Seconds};

use super::call::Arguments;
use super::{
    Item, Resolver, child_of, expressions, is_expression, name_of, span, token_of, token_span,
    tokens,
};
use crate::diagnostic::Diagnostic;
use crate::literal;
use crate::syntax::{Node, SyntaxKind, Token};
use crate::words;

/// Maximum duration of a rehearsal.
const LONGEST: f64 = 86_400.0;

impl Resolver {
    /// `rehearsal evening { clock 16:20; 3s docks; 42s expect mast.intensity below 250lm; 60s end }`
    pub(super) fn rehearsal(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let mut rehearsal = Rehearsal {
            name: name.text().to_owned(),
            clock: None,
            deeds: Vec::new(),
            expectations: Vec::new(),
            end: Seconds(0.0),
        };
        let mut ended = false;
        let mut whole = true;
        for line in node.children().filter(|child| child.kind() == SyntaxKind::RehearsalLine) {
            whole &= self.rehearsal_line(&line, &mut rehearsal, &mut ended).is_some();
        }
        if !whole {
            return None;
        }
        rehearsal.deeds.sort_by(|a, b| a.0.0.total_cmp(&b.0.0));
        let told = rehearsal.expectations.iter().map(|expectation| expectation.to.0);
        let last = rehearsal.deeds.iter().map(|(at, _)| at.0).chain(told).fold(0.0, f64::max);
        if !ended {
            rehearsal.end = Seconds(last + 1.0);
        } else if rehearsal.end.0 < last {
            let message = format!("it ends at {} s, but has lines up to {last} s", rehearsal.end.0);
            self.tell(Diagnostic::error(token_span(&name), message));
            return None;
        }
        self.note_named(name.text(), node);
        self.builder.rehearse(rehearsal);
        Some(Item::Rehearsal)
    }

    fn rehearsal_line(
        &mut self,
        line: &Node,
        rehearsal: &mut Rehearsal,
        ended: &mut bool,
    ) -> Option<()> {
        let first = tokens(line).next()?;
        if first.kind() == SyntaxKind::Name {
            rehearsal.clock = Some(self.rehearsed_hour(line)?);
            return Some(());
        }
        let at = self.rehearsed_moment(&first)?;
        let word = tokens(line).nth(1);
        match word.as_ref().map(|word| word.text()) {
            Some("end") => {
                (rehearsal.end, *ended) = (at, true);
                return Some(());
            }
            Some("clock") => {
                let deed = match tokens(line).nth(2)?.text() {
                    "rate" => Deed::ClockRate(self.rehearsed_rate(line)?),
                    "drive" => Deed::DriveClock(self.rehearsed_hour(line)?),
                    _ => Deed::Clock(self.rehearsed_hour(line)?),
                };
                rehearsal.deeds.push((at, deed));
                return Some(());
            }
            _ => {}
        }
        if let Some(expect) = child_of(line, SyntaxKind::Expect) {
            rehearsal.expectations.push(self.expectation(&expect, line, at)?);
            return Some(());
        }
        let values: Vec<Node> = line.children().filter(is_expression).collect();
        let deed = match &values[..] {
            [call] if call.kind() == SyntaxKind::Call => self.rehearsed_call(call)?,
            [path] => self.rehearsed_event(path)?,
            [path, value] => self.rehearsed_setting(path, value)?,
            _ => return None,
        };
        rehearsal.deeds.push((at, deed));
        Some(())
    }

    fn rehearsed_moment(&mut self, token: &Token) -> Option<Seconds> {
        match literal::number(token.text()) {
            Ok((Constant::Scalar(v), ValueKind::Time)) if (0.0..=LONGEST).contains(&v) => {
                Some(Seconds(v))
            }
            Ok(_) => {
                let message = format!("a moment of a rehearsal must be within 0s..{LONGEST}s");
                self.tell(
                    Diagnostic::error(token_span(token), message)
                        .help("write it as `3s` or `2min`"),
                );
                None
            }
            Err(fault) => {
                self.tell_literal(token_span(token), fault);
                None
            }
        }
    }

    fn rehearsed_hour(&mut self, line: &Node) -> Option<Hours> {
        let token = token_of(line, SyntaxKind::Hour)?;
        if self.program().clock().is_none() {
            self.no_clock(token_span(&token));
            return None;
        }
        match literal::hour(token.text()) {
            Ok((Constant::Scalar(v), _)) => Some(Hours(v)),
            Ok(_) => None,
            Err(fault) => {
                self.tell_literal(token_span(&token), fault);
                None
            }
        }
    }

    /// `clock rate 4`
    fn rehearsed_rate(&mut self, line: &Node) -> Option<f64> {
        let value = line.children().find(is_expression)?;
        if self.program().clock().is_none() {
            self.no_clock(span(&value));
            return None;
        }
        match self.known(&value, ValueKind::Number)? {
            Constant::Scalar(rate) if rate.abs() <= MOST_RATE => Some(rate),
            _ => {
                let message =
                    format!("the rate of a clock must be within -{MOST_RATE}..{MOST_RATE}");
                self.tell(Diagnostic::error(span(&value), message));
                None
            }
        }
    }

    fn no_clock(&mut self, place: Range<usize>) {
        self.tell(
            Diagnostic::error(place, "the book has no clock")
                .help("add one: `clock { day 24min; start 12:00 }`"),
        );
    }

    /// An event that the game fires.
    fn rehearsed_event(&mut self, path: &Node) -> Option<Deed> {
        if path.kind() != SyntaxKind::Path {
            let message = "expected an event fired by the game, or an input and its value";
            self.tell(
                Diagnostic::error(span(path), message)
                    .help("write `3s ferry_docks` or `20s swell = 90%`"),
            );
            return None;
        }
        let (event, which) = self.fired(path)?;
        let described = self.program().event(event);
        if described.due.is_some() {
            let message = format!("`{}` occurs by itself and cannot be fired", described.name);
            self.tell(Diagnostic::error(span(path), message));
            return None;
        }
        Some(Deed::Fire(event, which, Vec::new()))
    }

    /// The event that a path names: the book's, or that of one instance or lamp or of all, as in `pit[2].door`.
    fn fired(&mut self, path: &Node) -> Option<(EventId, Which)> {
        let first = tokens(path).next()?;
        if !matches!(self.item(first.text()), Some(Item::Light)) {
            return Some((self.event_of(path)?, Which { first: 0, count: 1 }));
        }
        let (name, indices) = self.indexed(path)?;
        let Some(event) = self.program().event_named(&name) else {
            let own = format!("{}.", first.text());
            let known: Vec<String> = self
                .program()
                .events()
                .filter(|(_, event)| event.name.starts_with(&own) && !event.source.is_own())
                .map(|(_, event)| event.name.clone())
                .collect();
            let told = Diagnostic::error(span(path), format!("there is no event `{name}`"));
            self.tell(match self.nearest(&name, known.iter().map(String::as_str)) {
                Some(near) => told.help(format!("did you mean `{near}`?")),
                None => told.help("declare it inside the light, as in `event door`"),
            });
            return None;
        };
        let home = self.program().event(event).home.clone();
        let which = self.which_of(path, (&home.levels, home.size), &indices)?;
        Some((event, which))
    }

    /// An event with values: `rocket(place (3m, 1m, 0m), tint #ff8000)`
    fn rehearsed_call(&mut self, call: &Node) -> Option<Deed> {
        let mut arguments = Arguments::of(call)?;
        let callee = arguments.callee.clone();
        let item = self.names.get(callee.text()).map(|n| self.entries[*n].item.clone());
        let Some(Item::Event(event)) = item else {
            let message = format!("`{}` is not an event fired by the game", callee.text());
            self.tell(Diagnostic::error(token_span(&callee), message));
            return None;
        };
        let described = self.program().event(event).clone();
        if described.source != EventSource::Game {
            let message = format!("`{}` occurs by itself and cannot be fired", described.name);
            self.tell(Diagnostic::error(token_span(&callee), message));
            return None;
        }
        let mut given = vec![None; described.values.len()];
        for (slot, id) in given.iter_mut().zip(&described.values) {
            let input = self.program().input(*id).clone();
            let name = input.name.rsplit('.').next().unwrap_or_default().to_owned();
            let Some(range) = arguments.named(&name) else { continue };
            let value = expressions(&range).pop()?;
            let value = self.known(&value, input.kind)?;
            *slot = Some(self.program().space().scaled(input.kind, value));
        }
        if let Some(more) = arguments.left.first() {
            let names: Vec<String> = described
                .values
                .iter()
                .map(|id| self.program().input(*id).name.clone())
                .filter_map(|name| Some(name.rsplit('.').next()?.to_owned()))
                .collect();
            let message = format!("`{}` has no such value", described.name);
            let told = Diagnostic::error(span(&more.range), message);
            self.tell(match names.is_empty() {
                true => told,
                false => told.help(format!("it has {}", names.join(", "))),
            });
            return None;
        }
        Some(Deed::Fire(event, Which { first: 0, count: 1 }, given))
    }

    /// `knob = 30%`: an input or choice and its value.
    fn rehearsed_setting(&mut self, path: &Node, value: &Node) -> Option<Deed> {
        let (name, indices) = self.indexed(path)?;
        if let Some(choice) = self.program().choice_named(&name) {
            let options = self.program().choice(choice).options.clone();
            let word = value.text().to_string().trim().to_owned();
            let Some(option) = options.iter().position(|option| *option == word) else {
                let message = format!("`{name}` has no option `{word}`");
                self.tell(
                    Diagnostic::error(span(value), message)
                        .help(format!("it has {}", options.join(", "))),
                );
                return None;
            };
            return Some(Deed::Choose(choice, option as u32));
        }
        let Some(input) = self.program().input_named(&name) else {
            // An error in its light or instance was reported there.
            let whole = name.split('.').next().unwrap_or_default();
            if matches!(self.item(whole), Some(Item::Broken)) {
                return None;
            }
            let known: Vec<String> =
                self.program().given().map(|(_, input)| input.name.clone()).collect();
            let told =
                Diagnostic::error(span(path), format!("there is no input or choice `{name}`"));
            self.tell(match self.nearest(&name, known.iter().map(String::as_str)) {
                Some(near) => told.help(format!("did you mean `{near}`?")),
                None => told,
            });
            return None;
        };
        let kind = self.program().input(input).kind;
        let value = self.known(value, kind)?;
        // The game uses the units of its space.
        let value = self.program().space().scaled(kind, value);
        let described = self.program().input(input).clone();
        let which = self.which_of(path, (&described.levels, described.size), &indices)?;
        Some(Deed::Set(input, which, value))
    }

    /// A constant.
    fn known(&mut self, node: &Node, kind: ValueKind) -> Option<Constant> {
        let id = self.expression(node, &mut Owner::book(""))?;
        let fits = self.builder.expect(id, kind);
        self.fits(fits, node)?;
        let known = self.program().constant(id);
        if known.is_none() {
            let message = "values in a rehearsal must be constant";
            self.tell(Diagnostic::error(span(node), message).help("write it out"));
        }
        known
    }

    fn expectation(&mut self, node: &Node, line: &Node, at: Seconds) -> Option<Expectation> {
        let parts: Vec<Node> = node.children().filter(is_expression).collect();
        let sent = tokens(node).nth(2).is_some_and(|word| word.text() == "sent");
        let (expected, lasts) = match &parts[..] {
            [] if sent => (None, None),
            [lasts] if sent => (None, Some(lasts)),
            [expected] => (Some(expected), None),
            [expected, lasts] => (Some(expected), Some(lasts)),
            _ => return None,
        };
        let mut to = at;
        if let Some(lasts) = lasts {
            match self.known(lasts, ValueKind::Time)? {
                Constant::Scalar(v) if (0.0..=LONGEST).contains(&v) => to = Seconds(at.0 + v),
                _ => {
                    let message = format!("an expectation must last 0s to {LONGEST}s");
                    self.tell(Diagnostic::error(span(lasts), message));
                    return None;
                }
            }
        }
        let what = match expected {
            Some(expected) => self.expected(expected)?,
            None => self.expected_sent(node)?,
        };
        let lines = &self.lines[self.source];
        let words = node.text().to_string();
        let words = words.split_whitespace().collect::<Vec<_>>().join(" ");
        let line = lines.line(span(line).start);
        let source = self.source;
        Some(Expectation { from: at, to, what, words, source, line })
    }

    /// The expected count of a notice: `strike sent 2`, `strike sent 1..4`
    fn expected_sent(&mut self, node: &Node) -> Option<Expected> {
        let name = tokens(node).nth(1)?;
        let notices = self.program().notices();
        let Some(notice) = notices.iter().position(|notice| notice.name == name.text()) else {
            let mut known: Vec<String> = Vec::new();
            for notice in notices {
                if !known.contains(&notice.name) {
                    known.push(notice.name.clone());
                }
            }
            let message = format!("there is no notice `{}`", name.text());
            let told = Diagnostic::error(token_span(&name), message);
            self.tell(match self.nearest(name.text(), known.iter().map(String::as_str)) {
                Some(near) => told.help(format!("did you mean `{near}`?")),
                None if known.is_empty() => told.help("send one, as in `at fault send strike`"),
                None => told.help(format!("the book sends {}", known.join(", "))),
            });
            return None;
        };
        let range = child_of(node, SyntaxKind::Range)?;
        let mut times = [0; 2];
        let ends = self.ends(&range, &mut Owner::book(""), true)?;
        for (slot, (end, place)) in times.iter_mut().zip(&ends) {
            match self.program().constant(*end) {
                Some(Constant::Scalar(v)) if v >= 0.0 && v.fract() == 0.0 && v <= 1e6 => {
                    *slot = v as u32;
                }
                _ => {
                    let message = "the count must be a whole number or a range of whole numbers";
                    self.tell(Diagnostic::error(span(place), message).help("write `sent 2`"));
                    return None;
                }
            }
        }
        Some(Expected::Sent { notice: notice as u32, times })
    }

    /// An expectation of a channel or value, or `safe` unless that is a name of the book.
    fn expected(&mut self, node: &Node) -> Option<Expected> {
        let is_safe = node.kind() == SyntaxKind::Path && node.text() == "safe";
        if is_safe && self.item("safe").is_none() {
            return Some(Expected::Safe);
        }
        let subject = match node.kind() {
            SyntaxKind::Compare => expressions(node).first().cloned(),
            _ => None,
        };
        let lamp = match &subject {
            Some(path) if path.kind() == SyntaxKind::Path => self.lamp_field(path)?,
            _ => None,
        };
        let Some((light, field, which)) = lamp else {
            let id = self.expression(node, &mut Owner::book(""))?;
            let fits = self.builder.expect(id, ValueKind::OnOff);
            self.fits(fits, node)?;
            return Some(Expected::Value(id));
        };
        let kind =
            self.program().light(light).drives.iter().find(|drive| drive.field == field)?.kind;
        let unit = self.program().space().unit_of(kind);
        let verb = tokens(node).last()?;
        let scalar = |constant: Constant| match constant {
            Constant::Scalar(v) => Some(v / unit),
            _ => None,
        };
        let relation = match verb.text() {
            "on" | "off" if kind == ValueKind::OnOff => Relation::On(verb.text() == "on"),
            _ if child_of(node, SyntaxKind::Range).is_some() => {
                let range = child_of(node, SyntaxKind::Range)?;
                let ends = expressions(&range);
                let [lo, hi] = &ends[..] else {
                    let message = "`is in` needs a range such as `20%..60%`";
                    self.tell(Diagnostic::error(span(&range), message));
                    return None;
                };
                Relation::Within(scalar(self.known(lo, kind)?)?, scalar(self.known(hi, kind)?)?)
            }
            "above" | "below" if kind.is_scalar() => {
                let than = expressions(node).get(1).cloned()?;
                let than = scalar(self.known(&than, kind)?)?;
                if verb.text() == "above" { Relation::Above(than) } else { Relation::Below(than) }
            }
            _ => {
                let message = format!("{kind} cannot be expected like this");
                self.tell(
                    Diagnostic::error(span(node), message)
                        .help("write `above`, `below` or `is in`; for a switch write `is on`"),
                );
                return None;
            }
        };
        Some(Expected::Lamps { light, field, which, relation })
    }

    /// The names of a path, and its indices with the number of names before each.
    fn indexed(&mut self, path: &Node) -> Option<(String, Vec<(usize, u32)>)> {
        let (mut name, mut indices, mut depth) = (String::new(), Vec::new(), 0);
        for token in tokens(path) {
            match token.kind() {
                SyntaxKind::Name => name.push_str(token.text()),
                SyntaxKind::Dot => {
                    name.push_str(token.text());
                    depth += 1;
                }
                SyntaxKind::Number => {
                    let Ok(number) = token.text().parse() else {
                        let message = "an index must be a whole number, counted from 0";
                        self.tell(Diagnostic::error(token_span(&token), message));
                        return None;
                    };
                    indices.push((depth, number));
                }
                _ => {}
            }
        }
        Some((name, indices))
    }

    /// Which lamps or instances the indices of a path mean: all without one; with one behind the last name that takes
    /// one, counted through all instances; else those of the instance, from the outermost on.
    fn which_of(
        &mut self,
        path: &Node,
        (levels, size): (&[Level], Size),
        indices: &[(usize, u32)],
    ) -> Option<Which> {
        let mut which = Which { first: 0, count: size.shown() };
        // How many there are behind each name, and how many lamps lie in each of those.
        let inner = levels.last().map_or(size.shown(), |level| level.lamps);
        let mut counts: Vec<(u32, u32)> =
            levels.iter().map(|level| (level.size.shown(), level.lamps)).collect();
        counts.push((inner, 1));
        let deepest = counts.iter().rposition(|(count, _)| *count > 1).unwrap_or(0);
        if let [(depth, index)] = indices
            && *depth == deepest
        {
            counts = vec![(1, 1); deepest];
            counts.push((which.count, 1));
            which.first = *index;
        } else {
            for (n, (depth, index)) in indices.iter().enumerate() {
                let skipped = indices[..n].last().map_or(0, |(before, _)| before + 1);
                let outer = counts.iter().take(*depth).skip(skipped);
                if outer.into_iter().any(|(count, _)| *count > 1) {
                    let message = "give the outer index too, as in `quay[2].lamp[0]`";
                    self.tell(Diagnostic::error(span(path), message));
                    return None;
                }
                which.first += index * counts.get(*depth).map_or(0, |(_, lamps)| *lamps);
            }
        }
        for (depth, found) in indices {
            match counts.get(*depth) {
                Some((count, lamps)) if found < count => which.count = *lamps,
                Some((count, _)) if *count > 1 => {
                    let last = count - 1;
                    let message = format!("it has index 0 to {last}, found {found}");
                    self.tell(Diagnostic::error(span(path), message));
                    return None;
                }
                _ => {
                    let message = "it is not an array and has no index";
                    self.tell(Diagnostic::error(span(path), message));
                    return None;
                }
            }
        }
        Some(which)
    }

    /// The light, field and lamp that a path names, if it begins with a light's name; nothing where an error in
    /// it was reported.
    #[expect(clippy::option_option, reason = "no light, and a reported error, are two things")]
    fn lamp_field(&mut self, path: &Node) -> Option<Option<(LightId, Field, Which)>> {
        let first = tokens(path).next()?;
        let item = self.names.get(first.text()).map(|entry| self.entries[*entry].item.clone());
        match item {
            Some(Item::Light) => {}
            Some(Item::Broken) => return None,
            _ => return Some(None),
        }
        let (name, indices) = self.indexed(path)?;
        // An output of one value goes by its name.
        let alone = self.program().light_named(&name).and_then(|light| {
            let described = self.program().light(light);
            let output = described.kind == LightKind::Output && described.drives.len() == 1;
            output.then(|| (light, described.drives[0].field))
        });
        let found = alone.or_else(|| {
            let (light, channel) = name.rsplit_once('.')?;
            let light = self.program().light_named(light)?;
            let described = self.program().light(light);
            let field = described.drives.iter().map(|drive| drive.field).find(|field| {
                let (name, channel) = (described.field_name(*field), words::spelled(channel));
                name == channel || name.strip_suffix("_outer") == Some(channel)
            });
            Some((light, field?))
        });
        let Some((light, field)) = found else {
            let message = format!("no light drives `{name}`");
            self.tell(
                Diagnostic::error(span(path), message)
                    .help("write the light and one of its channels, as in `mast.intensity`"),
            );
            return None;
        };
        let described = self.program().light(light);
        let (levels, size) = (described.levels.clone(), described.size);
        let which = self.which_of(path, (&levels, size), &indices)?;
        Some(Some((light, field, which)))
    }
}
