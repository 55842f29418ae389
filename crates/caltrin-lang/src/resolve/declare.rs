//! Declarations: values, signals, curves, behaviours, lights.

use caltrin_core::curve::{CurveFault, Easing, Stop};
use caltrin_core::draft::Owner;
use caltrin_core::kind::{Kind as ValueKind, Pace};
use caltrin_core::misfit::Misfit;
use caltrin_core::program::{
    CHANNELS, Channel, Constant, ExprId, Field, LightKind, MOST_LAMPS, Size, Subject,
};
use caltrin_core::quantity::Seconds;

use super::{
    Item, Resolver, child_of, expressions, is_expression, name_of, span, token_of, token_span,
    tokens,
};
use crate::diagnostic::Diagnostic;
use crate::literal;
use crate::syntax::{Kind, Node};
use crate::words;

impl Resolver<'_> {
    /// `color`, `value` or `signal` of the book.
    pub(super) fn named(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let value = node.children().find(is_expression)?;
        let mut owner = Owner::book(name.text());
        let id = self.expression(&value, &mut owner)?;
        let what = tokens(node).next()?;
        if what.text() == "signal" {
            let made = self.draft.define_signal(name.text(), id);
            let signal = self.fits(made, &value)?;
            self.note(Subject::Signal(signal), node);
            return Some(Item::Signal(signal));
        }
        self.constant_value(what.text(), &value, id)?;
        Some(Item::Value(id))
    }

    /// What `color` and `value` want: a colour, and something known beforehand.
    fn constant_value(&mut self, what: &str, value: &Node, id: ExprId) -> Option<()> {
        if what == "color" {
            let fits = self.draft.expect(id, ValueKind::Color);
            self.fits(fits, value)?;
        }
        if self.program().constant(id).is_none() {
            let message = format!("`{what}` names something that never changes, but this does");
            self.tell(
                Diagnostic::error(span(value), message)
                    .help(format!("write `signal` instead of `{what}`")),
            );
            return None;
        }
        Some(())
    }

    /// A name inside a light or behaviour.
    fn local(&mut self, node: &Node, owner: &mut Owner) {
        let Some(name) = name_of(node) else { return };
        owner.property(name.text());
        let made = node.children().find(is_expression).and_then(|value| {
            let id = self.expression(&value, owner)?;
            let what = tokens(node).next()?;
            if what.text() != "signal" {
                self.constant_value(what.text(), &value, id)?;
            }
            self.draft.name_local(id, name.text());
            Some(id)
        });
        owner.property("");
        if self.locals.contains_key(name.text()) {
            let message = format!("the name `{}` is taken twice", name.text());
            self.tell(Diagnostic::error(token_span(&name), message));
        }
        self.locals.insert(name.text().to_owned(), made);
    }

    pub(super) fn curve(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let mut owner = Owner::book(name.text());
        let mut stops = Vec::new();
        let mut places = Vec::new();
        let mut kind: Option<(ValueKind, Node)> = None;
        let mut whole = true;
        for stop in node.children().filter(|child| child.kind() == Kind::Stop) {
            match self.stop(&stop, &mut owner, &mut kind, stops.is_empty()) {
                Some(read) => {
                    stops.push(read);
                    places.push(stop);
                }
                None => whole = false,
            }
        }
        if !whole {
            return None;
        }
        let kind = kind.map_or(ValueKind::Number, |(kind, _)| kind);
        let id = match self.draft.define_curve(name.text(), kind, stops) {
            Ok(id) => id,
            Err(misfit) => {
                let place = match &misfit {
                    Misfit::Curve(
                        CurveFault::Order(n) | CurveFault::TooClose(n) | CurveFault::Range(n),
                    ) => span(&places[*n]),
                    _ => token_span(&name),
                };
                let mut told = Diagnostic::error(place, misfit.to_string());
                if let Misfit::Curve(CurveFault::Order(n)) = &misfit {
                    told = told.also(span(&places[n - 1]), "the stop before it");
                }
                self.tell(told);
                return None;
            }
        };
        self.note(Subject::Curve(id), node);
        Some(Item::Curve(id))
    }

    fn stop(
        &mut self,
        node: &Node,
        owner: &mut Owner,
        kind: &mut Option<(ValueKind, Node)>,
        first: bool,
    ) -> Option<Stop> {
        let at = self.stop_position(node)?;
        let values = expressions(node);
        let value = values.first()?;
        if let Some(more) = values.get(1) {
            let message = "curves with columns are not part of this version; one value a stop";
            self.tell(Diagnostic::error(span(more), message));
            return None;
        }
        let id = self.expression(value, owner)?;
        let found = self.draft.kind(id);
        if !found.is_scalar() {
            let message =
                format!("a curve in this version has numbers at its stops, found {found}");
            self.tell(Diagnostic::error(span(value), message));
            return None;
        }
        match kind {
            None => *kind = Some((found, value.clone())),
            Some((kind, place)) if *kind != found => {
                let message = format!("expected {kind} like the first stop, found {found}");
                let first = span(place);
                self.tell(Diagnostic::error(span(value), message).also(first, "the first stop"));
                return None;
            }
            Some(_) => {}
        }
        let Some(Constant::Scalar(number)) = self.program().constant(id) else {
            let message = "a stop's value must be known when the book is read";
            self.tell(
                Diagnostic::error(span(value), message)
                    .help("multiply the whole curve by what changes, where it is used"),
            );
            return None;
        };
        let easing = match child_of(node, Kind::Easing) {
            None => Easing::Linear,
            Some(easing) if first => {
                self.tell(
                    Diagnostic::error(span(&easing), "the first stop is not reached from anywhere")
                        .help("an easing says how a stop is reached; move it to the next stop"),
                );
                return None;
            }
            Some(easing) => self.easing(&easing)?,
        };
        Some(Stop { at, value: number, easing })
    }

    fn stop_position(&mut self, node: &Node) -> Option<Seconds> {
        let sign = token_of(node, Kind::Sign).is_some();
        let token = tokens(node).find(|t| matches!(t.kind(), Kind::Number | Kind::Hour))?;
        let range = token_span(&token);
        if token.kind() == Kind::Hour {
            let fault = literal::hour(token.text());
            self.tell_literal(range, fault);
            return None;
        }
        match literal::number(token.text()) {
            Ok((Constant::Scalar(v), ValueKind::Time)) => Some(Seconds(if sign { -v } else { v })),
            Ok((_, ValueKind::Number)) if token.text() == "0" => {
                self.tell(
                    Diagnostic::error(range, "a position needs its unit")
                        .help("did you mean `0s`?"),
                );
                None
            }
            Ok((_, kind)) => {
                let message = format!("expected a time such as `450ms`, found {kind}");
                let help = "ramps over other kinds are not part of this version";
                self.tell(Diagnostic::error(range, message).help(help));
                None
            }
            Err(fault) => {
                self.tell_literal(range, fault);
                None
            }
        }
    }

    pub(super) fn easing(&mut self, node: &Node) -> Option<Easing> {
        let word = tokens(node).next()?;
        let arguments = child_of(node, Kind::Arguments);
        if word.text() == "cubic-bezier" {
            let Some(arguments) = arguments else {
                let message = "`cubic-bezier` needs its four numbers";
                self.tell(
                    Diagnostic::error(token_span(&word), message)
                        .help("write it as `cubic-bezier(0.2, 0.8, 0.4, 1)`"),
                );
                return None;
            };
            let values = self.numbers(&arguments)?;
            let [x1, y1, x2, y2] = values[..] else {
                let message = format!("`cubic-bezier` takes 4 numbers, found {}", values.len());
                self.tell(Diagnostic::error(span(&arguments), message));
                return None;
            };
            if !(0.0..=1.0).contains(&x1) || !(0.0..=1.0).contains(&x2) {
                let message = "the first and third number of `cubic-bezier` lie in 0..1";
                self.tell(Diagnostic::error(span(&arguments), message));
                return None;
            }
            return Some(Easing::Bezier([x1, y1, x2, y2]));
        }
        if let Some(easing) = Easing::named(word.text()) {
            if let Some(arguments) = arguments {
                let message = format!("`{}` takes nothing in brackets", word.text());
                self.tell(Diagnostic::error(span(&arguments), message));
                return None;
            }
            return Some(easing);
        }
        let message = format!("there is no easing `{}`", word.text());
        let diagnostic = Diagnostic::error(token_span(&word), message);
        let diagnostic = match words::nearest(word.text(), words::EASINGS) {
            Some(near) => diagnostic.help(format!("did you mean `{near}`?")),
            None => diagnostic
                .help(format!("easings are {} and cubic-bezier(...)", words::EASINGS.join(", "))),
        };
        self.tell(diagnostic);
        None
    }

    fn numbers(&mut self, arguments: &Node) -> Option<Vec<f64>> {
        let mut owner = Owner::book("");
        let mut numbers = Vec::new();
        for argument in arguments.descendants().filter(|n| n.kind() == Kind::Range) {
            let value = argument.children().find(is_expression)?;
            let id = self.expression(&value, &mut owner)?;
            let fits = self.draft.expect(id, ValueKind::Number);
            self.fits(fits, &value)?;
            match self.program().constant(id) {
                Some(Constant::Scalar(v)) => numbers.push(v),
                _ => {
                    let message = "expected a plain number";
                    self.tell(Diagnostic::error(span(&value), message));
                    return None;
                }
            }
        }
        Some(numbers)
    }

    pub(super) fn behaviour(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let mut owner = Owner::behaviour(name.text());
        let mut defaults = Vec::new();
        for parameter in child_of(node, Kind::Parameters).iter().flat_map(Node::children) {
            let word = tokens(&parameter).find(|t| t.kind() == Kind::Name)?;
            let value = parameter.children().find(is_expression)?;
            let default = self.expression(&value, &mut owner)?;
            let made = self.draft.parameter(&mut owner, word.text(), default);
            let id = self.fits(made, &value)?;
            if self.locals.insert(word.text().to_owned(), Some(id)).is_some() {
                let message = format!("the parameter `{}` is there twice", word.text());
                self.tell(Diagnostic::error(token_span(&word), message));
            }
            defaults.push(default);
        }
        let mut gives = node.children().find(is_expression);
        for child in node.children() {
            match child.kind() {
                Kind::NamedDecl => self.local(&child, &mut owner),
                Kind::Gives => gives = child.children().find(is_expression),
                Kind::SeedDecl => {
                    let message = "a seed stands in the book or in a light";
                    self.tell(Diagnostic::error(span(&child), message));
                }
                _ => {}
            }
        }
        owner.property("");
        let Some(gives) = gives else {
            let message = format!("`{}` gives nothing", name.text());
            self.tell(
                Diagnostic::error(token_span(&name), message)
                    .help("end it with a line such as `gives held(80%..100%, every 70ms..210ms)`"),
            );
            return None;
        };
        let value = self.expression(&gives, &mut owner)?;
        let made = self.draft.define_behaviour(name.text(), owner, &defaults, value);
        let id = self.fits(made, &gives)?;
        self.note(Subject::Behaviour(id), node);
        Some(Item::Behaviour(id))
    }

    pub(super) fn light(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let size = self.size(node);
        let kind = self.light_kind(node);
        let body = child_of(node, Kind::Body)?;
        let seeds: Vec<Node> = body.children().filter(|c| c.kind() == Kind::SeedDecl).collect();
        let pinned = seeds.first().and_then(|seed| self.seed(seed));
        let mut owner = Owner::light(name.text(), size.unwrap_or(Size::One), pinned);
        let mut driven: Vec<(Channel, Vec<ExprId>)> = Vec::new();
        let mut places: Vec<(Field, Node)> = Vec::new();
        let mut whole = true;
        for child in body.children().filter(|c| c.kind() == Kind::NamedDecl) {
            self.local(&child, &mut owner);
        }
        for child in body.children().filter(|c| c.kind() == Kind::Property) {
            match self.property(&child, kind, &mut owner) {
                Some((channel, values)) => {
                    if driven.iter().any(|(other, _)| other.name == channel.name) {
                        let misfit = Misfit::DrivenTwice(channel.name).to_string();
                        self.tell(Diagnostic::error(span(&child), misfit));
                        whole = false;
                    }
                    for field in channel.fields {
                        places.push((*field, child.clone()));
                    }
                    driven.push((channel, values));
                }
                None => whole = false,
            }
        }
        let (size, kind) = (size?, kind?);
        if !whole {
            return None;
        }
        // A name taken twice was told when the names were gathered.
        let made = match self.draft.define_light(name.text(), kind, size, &driven) {
            Err(Misfit::NameTaken(_)) => return None,
            made => made,
        };
        let place = places
            .iter()
            .find(|(field, _)| *field == Field::Color)
            .filter(|_| matches!(made, Err(Misfit::BlackLamp)))
            .map_or_else(|| node.clone(), |(_, place)| place.clone());
        let id = match made {
            Ok(id) => id,
            Err(misfit) => {
                let range = if place == *node { token_span(&name) } else { span(&place) };
                self.tell(Diagnostic::error(range, misfit.to_string()));
                return None;
            }
        };
        self.notes_for_light(id, node, &places);
        Some(Item::Light)
    }

    fn size(&mut self, node: &Node) -> Option<Size> {
        let Some(size) = child_of(node, Kind::Size) else { return Some(Size::One) };
        let Some(number) = token_of(&size, Kind::Number) else { return Some(Size::Open) };
        let digits: String = number.text().chars().filter(|c| *c != '_').collect();
        match digits.parse::<u32>() {
            Ok(n) if (1..=MOST_LAMPS).contains(&n) => Some(Size::Many(n)),
            _ => {
                let message =
                    format!("an array has 1 to {MOST_LAMPS} lamps, found `{}`", number.text());
                self.tell(
                    Diagnostic::error(token_span(&number), message)
                        .help("`mast[]` is an array of as many as the game makes"),
                );
                None
            }
        }
    }

    fn light_kind(&mut self, node: &Node) -> Option<LightKind> {
        let word = tokens(node).filter(|t| t.kind() == Kind::Name).nth(2)?;
        match word.text() {
            "point" => Some(LightKind::Point),
            "spot" => Some(LightKind::Spot),
            "ambient" => Some(LightKind::Ambient),
            other => {
                let diagnostic = if words::LATER_LIGHTS.contains(&other) {
                    let message = format!("`{other}` lights are not part of this version");
                    Diagnostic::error(token_span(&word), message)
                } else {
                    let message = format!("there is no kind of light `{other}`");
                    let told = Diagnostic::error(token_span(&word), message);
                    match words::nearest(other, words::LIGHTS) {
                        Some(near) => told.help(format!("did you mean `{near}`?")),
                        None => told.help("kinds of light are point, spot and ambient"),
                    }
                };
                self.tell(diagnostic);
                None
            }
        }
    }

    fn property(
        &mut self,
        node: &Node,
        kind: Option<LightKind>,
        owner: &mut Owner,
    ) -> Option<(Channel, Vec<ExprId>)> {
        let word = tokens(node).next()?;
        let Some(channel) = CHANNELS.iter().find(|channel| channel.name == word.text()) else {
            let told = if words::LATER_CHANNELS.contains(&word.text()) {
                let message = format!("`{}` is not part of this version", word.text());
                Diagnostic::error(token_span(&word), message)
            } else {
                let message = format!("a light has no `{}`", word.text());
                let told = Diagnostic::error(token_span(&word), message);
                let names = CHANNELS.iter().map(|channel| channel.name);
                match words::nearest(word.text(), names.clone()) {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None => {
                        let names: Vec<&str> = names.collect();
                        told.help(format!("channels are {}", names.join(", ")))
                    }
                }
            };
            self.tell(told);
            return None;
        };
        owner.property(channel.name);
        if let Some(kind) = kind
            && !channel.lights.contains(&kind)
        {
            let misfit = Misfit::NoSuchChannel { kind, channel: channel.name };
            self.tell(Diagnostic::error(token_span(&word), misfit.to_string()));
            return None;
        }
        let ranges: Vec<Node> = node.children().filter(|c| c.kind() == Kind::Range).collect();
        let values = if channel.fields == [Field::Position] {
            self.position(&ranges, owner)?
        } else {
            self.channel_range(channel, &ranges, owner)?
        };
        if let Some(kind) = kind {
            let skipped = channel.fields.len() - values.len();
            for (field, (id, place)) in channel.fields.iter().skip(skipped).zip(&values) {
                let fits = self.draft.expect_field(kind, *field, *id);
                self.fits(fits, place)?;
            }
        }
        Some((*channel, values.into_iter().map(|(id, _)| id).collect()))
    }

    /// One value, or inner and outer where the channel has both.
    fn channel_range(
        &mut self,
        channel: &Channel,
        ranges: &[Node],
        owner: &mut Owner,
    ) -> Option<Vec<(ExprId, Node)>> {
        let range = ranges.first()?;
        if let Some(more) = ranges.get(1) {
            let message = format!("`{}` takes one value", channel.name);
            self.tell(Diagnostic::error(span(more), message));
            return None;
        }
        let values = expressions(range);
        if values.len() > channel.fields.len() {
            let message = format!("`{}` takes one value, found a range", channel.name);
            let mut told = Diagnostic::error(span(range), message);
            if channel.name == "intensity" {
                told = told.help("a level that moves in a range is `held(lo..hi, every a..b)`");
            }
            self.tell(told);
            return None;
        }
        let mut made = Vec::new();
        for value in values {
            made.push((self.expression(&value, owner)?, value));
        }
        if let [(lo, _), (hi, _)] = made[..] {
            let rising = self.draft.rising(lo, hi);
            self.fits(rising, range)?;
        }
        (!made.is_empty()).then_some(made)
    }

    /// A point; in an array a step from lamp to lamp may follow.
    fn position(&mut self, ranges: &[Node], owner: &mut Owner) -> Option<Vec<(ExprId, Node)>> {
        let mut points = Vec::new();
        for range in ranges {
            let values = expressions(range);
            let [value] = &values[..] else {
                let message = "expected a point such as `(0m, 6m, 0m)`, found a range";
                self.tell(Diagnostic::error(span(range), message));
                return None;
            };
            let id = self.expression(value, owner)?;
            let fits = self.draft.expect_field(LightKind::Point, Field::Position, id);
            self.fits(fits, value)?;
            points.push((id, value.clone()));
        }
        match &points[..] {
            [_] => Some(points),
            [(first, place), (step, step_place)] => {
                let index = self.draft.index(owner);
                let index = self.fits(index, step_place)?;
                let moved = self.draft.multiply(*step, index);
                let moved = self.fits(moved, step_place)?;
                let made = self.draft.add(*first, moved);
                let made = self.fits(made, place)?;
                Some(vec![(made, place.clone())])
            }
            [.., (_, last)] => {
                let message = "`position` takes the first lamp's point and the step to the next";
                self.tell(Diagnostic::error(span(last), message));
                None
            }
            [] => None,
        }
    }

    /// Whether an expression may stand where only what is known for a run may.
    pub(super) fn expect_pace(
        &mut self,
        owner: &mut Owner,
        id: ExprId,
        place: &Node,
        limit: Pace,
        role: &str,
    ) -> Option<()> {
        let held = self.draft.hold_to(owner, id, limit, role);
        self.fits(held, place)
    }
}
