//! Declarations: values, signals, behaviors, lights, outputs.

use caltrin_core::kind::{ChangeRate, Kind as ValueKind};
use caltrin_core::program::{
    CHANNELS, Channel, Constant, ExprId, Field, LightId, LightKind, MOST_LAMPS, Size, Subject,
};
use caltrin_core::program_builder::{Array, Owner};
use caltrin_core::semantic_error::SemanticError;

use super::{
    Around, Item, Resolver, child_of, expressions, is_expression, name_of, span, spark, token_of,
    token_span, tokens,
};
use crate::ast;
use crate::diagnostic::Diagnostic;
use crate::syntax::{Node, SyntaxKind};
use crate::words;

/// The channels of a light, the node of each field, and the radius of its offset.
type Driven = (Vec<(Channel, Vec<ExprId>)>, Vec<(Field, Node)>, Option<f64>);

impl Resolver {
    /// `color`, `value` or `signal` of the book.
    pub(super) fn named(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let value = node.children().find(is_expression)?;
        let mut owner = Owner::book(name.text());
        let id = self.expression(&value, &mut owner)?;
        let what = tokens(node).next()?;
        if what.text() == "signal" {
            let made = self.builder.define_signal(name.text(), id);
            let signal = self.fits(made, &value)?;
            self.note(Subject::Signal(signal), node);
            return Some(Item::Signal(signal));
        }
        self.constant_value(what.text(), &value, id)?;
        Some(Item::Value(id))
    }

    /// Checks that a `color` or `value` is constant, and a `color` a color.
    fn constant_value(&mut self, what: &str, value: &Node, id: ExprId) -> Option<()> {
        if words::spelled(what) == "color" {
            let fits = self.builder.expect(id, ValueKind::Color);
            self.fits(fits, value)?;
        }
        if self.program().constant(id).is_none() {
            let what_not = match self.program().expr(id).change_rate {
                ChangeRate::Fixed => "is redrawn for each run, lamp or instance",
                _ => "changes",
            };
            let message = format!("a `{what}` must be constant, but this {what_not}");
            self.tell(
                Diagnostic::error(span(value), message)
                    .help(format!("write `signal` instead of `{what}`")),
            );
            return None;
        }
        Some(())
    }

    /// A name inside a light or behavior.
    pub(super) fn local(&mut self, node: &Node, owner: &mut Owner) {
        let Some(name) = name_of(node) else { return };
        owner.property(name.text());
        let made = node.children().find(is_expression).and_then(|value| {
            let id = self.expression(&value, owner)?;
            let what = tokens(node).next()?;
            if what.text() != "signal" {
                self.constant_value(what.text(), &value, id)?;
            }
            self.builder.name_local(id, name.text());
            Some(id)
        });
        owner.property("");
        if self.locals.contains_key(name.text()) {
            let message = format!("duplicate name `{}`", name.text());
            self.tell(Diagnostic::error(token_span(&name), message));
        }
        self.locals.insert(name.text().to_owned(), Item::value(made));
    }

    /// Signals, values, inputs, events, switches and modes inside of a light or output.
    fn inner_names(&mut self, body: &Node, path: &str, owner: &mut Owner) {
        for child in self.body_in_order(body) {
            match child.kind() {
                SyntaxKind::NamedDecl => self.local(&child, owner),
                SyntaxKind::InputDecl => self.local_input(&child, owner),
                SyntaxKind::EventDecl | SyntaxKind::SwitchDecl | SyntaxKind::ModesDecl => {
                    self.local_happens(&child, owner);
                }
                SyntaxKind::SendDecl => {
                    self.sends(&child, owner, Some(path));
                }
                _ => {}
            }
        }
    }

    /// An input of each instance or lamp.
    pub(super) fn local_input(&mut self, node: &Node, owner: &mut Owner) {
        let made = self.input(node, owner);
        let Some(name) = name_of(node) else { return };
        if let Some(id) = made {
            self.builder.name_local(id, name.text());
        }
        if self.locals.insert(name.text().to_owned(), Item::value(made)).is_some() {
            let message = format!("duplicate name `{}`", name.text());
            self.tell(Diagnostic::error(token_span(&name), message));
        }
    }

    /// `input name = default in lo..hi`
    pub(super) fn input(&mut self, node: &Node, owner: &mut Owner) -> Option<ExprId> {
        let name = name_of(node)?;
        owner.property(name.text());
        let value = node.children().find(is_expression)?;
        let default = self.expression(&value, owner)?;
        let range = match child_of(node, SyntaxKind::Range) {
            None => None,
            Some(range) => match &expressions(&range)[..] {
                [lo, hi] => {
                    let (lo, hi) = (self.expression(lo, owner), self.expression(hi, owner));
                    Some((range, [lo?, hi?]))
                }
                _ => {
                    let message = "the bounds of an input must be a range, as in `in 0%..100%`";
                    self.tell(Diagnostic::error(span(&range), message));
                    return None;
                }
            },
        };
        owner.property("");
        let place = match &range {
            Some((range, _)) if self.builder.is_known(default) => range.clone(),
            _ => value,
        };
        let made = self.builder.define_input(owner, name.text(), default, range.map(|(_, r)| r));
        let (id, value) = self.fits(made, &place)?;
        self.note(Subject::Input(id), node);
        Some(value)
    }

    pub(super) fn behavior(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let mut owner = Owner::behavior(name.text());
        let mut defaults = Vec::new();
        for parameter in child_of(node, SyntaxKind::Parameters).iter().flat_map(Node::children) {
            let word = tokens(&parameter).find(|t| t.kind() == SyntaxKind::Name)?;
            let value = parameter.children().find(is_expression)?;
            let default = self.expression(&value, &mut owner)?;
            let made = self.builder.parameter(&mut owner, word.text(), default);
            let id = self.fits(made, &value)?;
            if self.locals.insert(word.text().to_owned(), Item::Value(id)).is_some() {
                let message = format!("duplicate parameter `{}`", word.text());
                self.tell(Diagnostic::error(token_span(&word), message));
            }
            defaults.push(default);
        }
        let mut gives = node.children().find(is_expression);
        for child in self.body_in_order(node) {
            match child.kind() {
                SyntaxKind::NamedDecl => self.local(&child, &mut owner),
                SyntaxKind::Gives => gives = child.children().find(is_expression),
                _ => {}
            }
        }
        owner.property("");
        let Some(gives) = gives else {
            let message = format!("`{}` has no value", name.text());
            self.tell(
                Diagnostic::error(token_span(&name), message)
                    .help("end it with a line such as `gives held(80%..100%, every 70ms..210ms)`"),
            );
            return None;
        };
        let value = self.expression(&gives, &mut owner)?;
        let made = self.builder.define_behavior(name.text(), owner, &defaults, value);
        let id = self.fits(made, &gives)?;
        self.note(Subject::Behavior(id), node);
        Some(Item::Behavior(id))
    }

    pub(super) fn light(&mut self, node: &Node, around: &Around) -> Option<Item> {
        let name = name_of(node)?;
        let size = self.size(node);
        let kind = self.light_kind(node);
        let body = child_of(node, SyntaxKind::Body)?;
        let path = format!("{}{}", around.path, name.text());
        let mut owner = self.lamp_owner(&body, &path, size, around);
        let kept = self.locals.clone();
        if node.kind() == SyntaxKind::SparkDecl {
            self.begin_spark(node, &body, &path, size, &mut owner)?;
        }
        let made = self.channels(&path, &body, kind, around, &mut owner);
        self.locals = kept;
        let spark = self.spark.take();
        let (mut driven, places, ball) = made?;
        if let Some(spark) = spark {
            self.finish_spark(spark, node, &mut owner, &mut driven)?;
        }
        self.sequenced(&path, kind, &owner, (around, size), &mut driven)?;
        self.grouped(&path, &owner, (around, size), &mut driven, node)?;
        let array = Array { size: size?, instances: around.instances.clone(), ball };
        // A duplicate name was reported when the names were gathered.
        let made = match self.builder.define_light(&path, kind?, &array, &driven) {
            Err(SemanticError::NameTaken(_)) if around.instances.is_empty() => return None,
            made => made,
        };
        let place = places
            .iter()
            .find(|(field, _)| *field == Field::Color)
            .filter(|_| matches!(made, Err(SemanticError::BlackLamp)))
            .map_or_else(|| node.clone(), |(_, place)| place.clone());
        let id = match made {
            Ok(id) => id,
            Err(error) => {
                let range = if place == *node { token_span(&name) } else { span(&place) };
                self.tell(Diagnostic::error(range, error.to_string()));
                return None;
            }
        };
        self.notes_for_light(id, node, &places);
        self.tagged(id, &body)?;
        Some(Item::Light)
    }

    /// The owner of a light or output; a seed in it replaces its name in random keys.
    fn lamp_owner(
        &mut self,
        body: &Node,
        path: &str,
        size: Option<Size>,
        around: &Around,
    ) -> Owner {
        let pinned = ast::child(body).and_then(|seed: ast::Seed| self.seed(&seed));
        let size = size.unwrap_or(Size::One);
        // In a fitting, a seed replaces the name within each instance.
        match pinned {
            Some(seed) if !around.path.is_empty() => {
                let path = format!("{}#{seed}", around.path);
                Owner::placed(&path, size, None, &around.instances)
            }
            pinned => Owner::placed(path, size, pinned, &around.instances),
        }
    }

    /// Adds the tags of a light: `tags actors, scenery`.
    fn tagged(&mut self, light: LightId, body: &Node) -> Option<()> {
        let mut tags = Vec::new();
        for line in body.children().filter(is_tags) {
            for value in line.children().flat_map(|range| expressions(&range)) {
                let mut names = tokens(&value);
                let name = names.next().filter(|_| value.kind() == SyntaxKind::Path);
                let (Some(name), None) = (name, names.next()) else {
                    let message = "expected the name of a tag";
                    self.tell(
                        Diagnostic::error(span(&value), message)
                            .help("write `tags actors, scenery`"),
                    );
                    return None;
                };
                if tags.iter().any(|tag| tag == name.text()) {
                    let message = format!("duplicate tag `{}`", name.text());
                    self.tell(Diagnostic::error(token_span(&name), message));
                    return None;
                }
                tags.push(name.text().to_owned());
            }
        }
        let made = self.builder.tag_light(light, &tags);
        self.fits(made, body)
    }

    /// The channels of a light, the node of each field, and the radius of its offset.
    fn channels(
        &mut self,
        path: &str,
        body: &Node,
        kind: Option<LightKind>,
        around: &Around,
        owner: &mut Owner,
    ) -> Option<Driven> {
        let mut driven: Vec<(Channel, Vec<ExprId>)> = Vec::new();
        let mut places: Vec<(Field, Node)> = Vec::new();
        let mut ball = None;
        let mut whole = true;
        self.inner_names(body, path, owner);
        let mut placed = self.own_place(body, kind, around, owner);
        let own = self.spark.is_some();
        let of_spark = |node: &Node| own && spark::is_own(node) || is_tags(node);
        for child in body.children().filter(|c| c.kind() == SyntaxKind::Property && !of_spark(c)) {
            let made = match placed.take_if(|(node, _)| *node == child) {
                Some((_, made)) => made,
                None => self.property(&child, kind, owner),
            };
            let Some((channel, values)) = made else {
                whole = false;
                continue;
            };
            if driven.iter().any(|(other, _)| other.name == channel.name) {
                let error = SemanticError::DrivenTwice(channel.name).to_string();
                self.tell(Diagnostic::error(span(&child), error));
                whole = false;
            }
            match self.ball(&child, &channel, owner) {
                Some(stated) => ball = stated.or(ball),
                None => whole = false,
            }
            for field in channel.fields {
                places.push((*field, child.clone()));
            }
            driven.push((channel, values));
        }
        for child in body.children().filter(|c| c.kind() == SyntaxKind::Except) {
            whole &= self.exception(&child, kind, owner, &mut driven).is_some();
        }
        self.here = None;
        if let Some(at) = around.position {
            whole &= self.placed_at(at, kind, body, &mut driven).is_some();
        }
        let position = driven.iter().find(|(channel, _)| channel.name == "position");
        if let Some((_, values)) = position.filter(|_| owner.is_single()) {
            self.positions.extend(values.last().map(|position| (path.to_owned(), *position)));
        }
        whole.then_some((driven, places, ball))
    }

    /// The position of the lamp, resolved before its other channels if one of them depends on it.
    #[expect(clippy::type_complexity, reason = "it is what `property` gives, with where it stands")]
    fn own_place(
        &mut self,
        body: &Node,
        kind: Option<LightKind>,
        around: &Around,
        owner: &mut Owner,
    ) -> Option<(Node, Option<(Channel, Vec<ExprId>)>)> {
        let is_near = |node: &Node| {
            node.kind() == SyntaxKind::Call
                && tokens(node).next().is_some_and(|token| token.text() == "near")
        };
        if !body.descendants().any(|node| is_near(&node) || aim_target(&node).is_some()) {
            return None;
        }
        let says = |node: &Node| {
            let word = tokens(node).next();
            node.kind() == SyntaxKind::Property
                && word.is_some_and(|word| word.text() == "position")
        };
        self.here = around.position;
        let node = body.children().find(says)?;
        let made = self.property(&node, kind, owner);
        let default = made.as_ref().and_then(|(_, values)| values.last().copied())?;
        let mut at = default;
        for exception in body.children().filter(|child| child.kind() == SyntaxKind::Except) {
            let Some(odd) = exception.children().find(says) else { continue };
            let index = self.exception_index(&exception)?;
            let (_, odd) = self.property(&odd, kind, owner)?;
            let is_odd = self.builder.is_index(owner, index).ok()?;
            at = self.builder.select(is_odd, *odd.last()?, at).ok()?;
        }
        if let Some(around) = around.position {
            at = self.builder.add(around, at).ok()?;
        }
        self.here = Some(at);
        Some((node, made))
    }

    /// The stated maximum of an offset: `offset ... to 5cm`. `None` for an error.
    fn ball(&mut self, node: &Node, channel: &Channel, owner: &mut Owner) -> Option<Option<f64>> {
        let mut radius = None;
        if aim_target(node).is_some() {
            return Some(None);
        }
        for part in node.children().filter(|c| c.kind() == SyntaxKind::Preposition) {
            let word = tokens(&part).next()?;
            let value = child_of(&part, SyntaxKind::Range).and_then(|r| expressions(&r).pop())?;
            if channel.name != "offset" || word.text() != "to" {
                let message = format!("`{}` takes no `{}`", channel.name, word.text());
                self.tell(Diagnostic::error(token_span(&word), message));
                return None;
            }
            let id = self.expression(&value, owner)?;
            let fits = self.builder.expect(id, ValueKind::Length);
            self.fits(fits, &value)?;
            match self.program().constant(id) {
                Some(Constant::Scalar(v)) if v > 0.0 => radius = Some(v),
                _ => {
                    let message = "the maximum of an offset must be a constant length above 0";
                    self.tell(Diagnostic::error(span(&value), message).help("write `to 5cm`"));
                    return None;
                }
            }
        }
        Some(radius)
    }

    /// `except [3] { ... }`: the values of one lamp.
    fn exception(
        &mut self,
        node: &Node,
        kind: Option<LightKind>,
        owner: &mut Owner,
        driven: &mut [(Channel, Vec<ExprId>)],
    ) -> Option<()> {
        let number = self.exception_index(node)?;
        for child in node.children().filter(|c| c.kind() == SyntaxKind::Property) {
            let (channel, odd) = self.property(&child, kind, owner)?;
            let default = driven.iter_mut().find(|(other, _)| other.name == channel.name);
            let Some((_, default)) = default.filter(|(_, default)| default.len() == odd.len())
            else {
                // A default value with an error was reported already.
                let said = node.parent().is_some_and(|body| {
                    body.children()
                        .filter(|c| c.kind() == SyntaxKind::Property)
                        .filter_map(|c| tokens(&c).next())
                        .any(|word| words::spelled(word.text()) == channel.name)
                });
                if said {
                    return None;
                }
                let message = format!("the other lamps do not set `{}`", channel.name);
                self.tell(
                    Diagnostic::error(span(&child), message)
                        .help("`except` can only change a channel that the light drives"),
                );
                return None;
            };
            let mut mixed = Vec::with_capacity(odd.len());
            for (default, odd) in default.iter().zip(odd) {
                let is_odd = self.builder.is_index(owner, number);
                let is_odd = self.fits(is_odd, node)?;
                let made = self.builder.select(is_odd, odd, *default);
                mixed.push(self.fits(made, &child)?);
            }
            *default = mixed;
        }
        Some(())
    }

    /// The index after `except`.
    pub(super) fn exception_index(&mut self, node: &Node) -> Option<u32> {
        let size = child_of(node, SyntaxKind::Size)?;
        let number = token_of(&size, SyntaxKind::Number);
        let index = number.as_ref().and_then(|number| number.text().parse().ok());
        if index.is_none() {
            let message = "`except` needs an index, counted from 0";
            self.tell(Diagnostic::error(span(&size), message).help("write `except [2] { ... }`"));
        }
        index
    }

    /// Adds the position of the instance to that of the lamp.
    fn placed_at(
        &mut self,
        at: ExprId,
        kind: Option<LightKind>,
        body: &Node,
        driven: &mut Vec<(Channel, Vec<ExprId>)>,
    ) -> Option<()> {
        let position = CHANNELS.iter().find(|channel| channel.name == "position")?;
        if let Some((_, own)) = driven.iter_mut().find(|(channel, _)| channel.name == "position") {
            let made = self.builder.add(at, own[0]);
            own[0] = self.fits(made, body)?;
        } else if kind.is_some_and(|kind| position.lights.contains(&kind)) {
            driven.push((*position, vec![at]));
        }
        Some(())
    }

    /// An output: one value, or several with names.
    pub(super) fn output(&mut self, node: &Node, around: &Around) -> Option<Item> {
        let name = name_of(node)?;
        let size = self.size(node)?;
        let path = format!("{}{}", around.path, name.text());
        let mut values: Vec<(Option<String>, ExprId)> = Vec::new();
        let mut places = Vec::new();
        if let Some(value) = node.children().find(is_expression) {
            let mut owner = Owner::placed(&path, size, None, &around.instances);
            owner.property("value");
            values.push((None, self.expression(&value, &mut owner)?));
            places.push((Field::Named(0), node.clone()));
        } else {
            let body = child_of(node, SyntaxKind::Body)?;
            let mut owner = self.lamp_owner(&body, &path, Some(size), around);
            let kept = self.locals.clone();
            let whole = self.output_values((&path, &body), &mut owner, &mut values, &mut places);
            self.locals = kept;
            whole?;
        }
        if values.is_empty() {
            let message = format!("`{}` has no value", name.text());
            self.tell(
                Diagnostic::error(token_span(&name), message)
                    .help("write `output fog = 20%`, or one line per value, as in `{ level 20% }`"),
            );
            return None;
        }
        let array = Array { size, instances: around.instances.clone(), ball: None };
        let id = match self.builder.define_output(&path, &array, &values) {
            Ok(id) => id,
            Err(SemanticError::NameTaken(_)) if around.instances.is_empty() => return None,
            Err(error) => {
                self.tell(Diagnostic::error(token_span(&name), error.to_string()));
                return None;
            }
        };
        self.notes_for_light(id, node, &places);
        Some(Item::Light)
    }

    fn output_values(
        &mut self,
        (path, body): (&str, &Node),
        owner: &mut Owner,
        values: &mut Vec<(Option<String>, ExprId)>,
        places: &mut Vec<(Field, Node)>,
    ) -> Option<()> {
        const MOST: usize = 32;
        self.inner_names(body, path, owner);
        for child in body.children() {
            match child.kind() {
                SyntaxKind::Property => {}
                SyntaxKind::Except => {
                    let message = "an output has no `except`; use `if`";
                    self.tell(Diagnostic::error(span(&child), message));
                    return None;
                }
                _ => continue,
            }
            let word = tokens(&child).next()?;
            if values.iter().any(|(name, _)| name.as_deref() == Some(word.text())) {
                let message = format!("duplicate value `{}`", word.text());
                self.tell(Diagnostic::error(token_span(&word), message));
                return None;
            }
            if values.len() == MOST {
                let message = format!("an output can have at most {MOST} values");
                self.tell(Diagnostic::error(token_span(&word), message));
                return None;
            }
            owner.property(word.text());
            let range = child_of(&child, SyntaxKind::Range)?;
            let nodes = expressions(&range);
            let [value] = &nodes[..] else {
                let message = format!("`{}` takes one value, found a range", word.text());
                self.tell(Diagnostic::error(span(&range), message));
                return None;
            };
            let id = self.expression(value, owner)?;
            places.push((Field::Named(values.len() as u8), child.clone()));
            values.push((Some(word.text().to_owned()), id));
        }
        Some(())
    }

    pub(super) fn size(&mut self, node: &Node) -> Option<Size> {
        let Some(size) = child_of(node, SyntaxKind::Size) else { return Some(Size::One) };
        let Some(number) = token_of(&size, SyntaxKind::Number) else { return Some(Size::Open) };
        let digits: String = number.text().chars().filter(|c| *c != '_').collect();
        match digits.parse::<u32>() {
            Ok(n) if (1..=MOST_LAMPS).contains(&n) => Some(Size::Many(n)),
            _ => {
                let message =
                    format!("an array has 1 to {MOST_LAMPS} lamps, found `{}`", number.text());
                self.tell(
                    Diagnostic::error(token_span(&number), message)
                        .help("write `mast[]` for an array whose size the game sets"),
                );
                None
            }
        }
    }

    fn light_kind(&mut self, node: &Node) -> Option<LightKind> {
        let word = tokens(node).filter(|t| t.kind() == SyntaxKind::Name).nth(2)?;
        match word.text() {
            "point" => Some(LightKind::Point),
            "spot" => Some(LightKind::Spot),
            "area" => Some(LightKind::Area),
            "directional" => Some(LightKind::Directional),
            "ambient" => Some(LightKind::Ambient),
            other => {
                let message = format!("there is no kind of light `{other}`");
                let told = Diagnostic::error(token_span(&word), message);
                self.tell(match self.nearest(other, words::LIGHTS) {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None => {
                        told.help("kinds of light are point, spot, area, directional and ambient")
                    }
                });
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
        let Some(channel) =
            CHANNELS.iter().find(|channel| channel.name == words::spelled(word.text()))
        else {
            let message = format!("a light has no `{}`", word.text());
            let told = Diagnostic::error(token_span(&word), message);
            let names = CHANNELS.iter().map(|channel| channel.name);
            let told = match self.nearest(word.text(), names.clone()) {
                Some(near) => told.help(format!("did you mean `{near}`?")),
                None if words::instead(word.text()).is_some() => {
                    told.help(words::instead(word.text()).unwrap_or_default())
                }
                None => {
                    let names: Vec<&str> = names.collect();
                    told.help(format!("channels are {}", names.join(", ")))
                }
            };
            self.tell(told);
            return None;
        };
        owner.property(channel.name);
        if let Some(kind) = kind
            && !channel.lights.contains(&kind)
        {
            let error = SemanticError::NoSuchChannel { kind, channel: channel.name };
            self.tell(Diagnostic::error(token_span(&word), error.to_string()));
            return None;
        }
        let ranges: Vec<Node> = node.children().filter(|c| c.kind() == SyntaxKind::Range).collect();
        let values = if channel.fields == [Field::Position] {
            self.position(&ranges, owner)?
        } else if let Some(target) = aim_target(node) {
            vec![(self.aim_at(&target, owner)?, target)]
        } else {
            self.channel_range(channel, &ranges, owner)?
        };
        if let Some(kind) = kind {
            let skipped = channel.fields.len() - values.len();
            for (field, (id, place)) in channel.fields.iter().skip(skipped).zip(&values) {
                let fits = self.builder.expect_field(kind, *field, *id);
                self.fits(fits, place)?;
            }
        }
        Some((*channel, values.into_iter().map(|(id, _)| id).collect()))
    }

    /// `aim at walker`: the displacement from the lamp to a point, or to the position of a light.
    fn aim_at(&mut self, target: &Node, owner: &mut Owner) -> Option<ExprId> {
        let Some(here) = self.here else {
            let message = "`aim at` needs the light's own position";
            self.tell(Diagnostic::error(span(target), message).help(
                "add `position (0m, 6m, 0m)`, or write a direction, as in `aim (0m, -1m, 0m)`",
            ));
            return None;
        };
        let (point, place) = match self.position_of_light(target) {
            Some(point) => (point?, target.clone()),
            None => self.single(target, owner)?,
        };
        let fits = self.builder.expect(point, ValueKind::Point);
        self.fits(fits, &place)?;
        let made = self.builder.subtract(point, here);
        self.fits(made, target)
    }

    /// The position of the light that a value names; `None` if it names no light, `Some(None)` for an error.
    #[expect(clippy::option_option, reason = "no light, and a reported error, are two things")]
    fn position_of_light(&mut self, target: &Node) -> Option<Option<ExprId>> {
        let values = expressions(target);
        let [path] = &values[..] else { return None };
        let first = tokens(path).next().filter(|_| path.kind() == SyntaxKind::Path)?;
        match self.item(first.text()) {
            Some(Item::Light) => {}
            Some(Item::Broken) => return Some(None),
            _ => return None,
        }
        let name: String = tokens(path).map(|token| token.text().to_owned()).collect();
        if let Some(position) = self.positions.get(&name) {
            return Some(Some(*position));
        }
        let message = format!("`{name}` is not a single light with a position");
        self.tell(Diagnostic::error(span(path), message).help("write the point instead"));
        Some(None)
    }

    /// One value, or inner and outer for channels that have both.
    pub(super) fn channel_range(
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
                told = told.help("for a random level write `held(lo..hi, every a..b)`");
            }
            self.tell(told);
            return None;
        }
        let mut made = Vec::new();
        for value in values {
            made.push((self.expression(&value, owner)?, value));
        }
        if let [(lo, _), (hi, _)] = made[..] {
            let rising = self.builder.rising(lo, hi);
            self.fits(rising, range)?;
        }
        (!made.is_empty()).then_some(made)
    }

    /// A point; in an array, a point and the step from lamp to lamp, or a point for each lamp.
    pub(super) fn position(
        &mut self,
        ranges: &[Node],
        owner: &mut Owner,
    ) -> Option<Vec<(ExprId, Node)>> {
        let mut points = Vec::new();
        for range in ranges {
            let values = expressions(range);
            let [value] = &values[..] else {
                let message = "expected a point such as `(0m, 6m, 0m)`, found a range";
                self.tell(Diagnostic::error(span(range), message));
                return None;
            };
            let id = self.expression(value, owner)?;
            let fits = self.builder.expect_field(LightKind::Point, Field::Position, id);
            self.fits(fits, value)?;
            points.push((id, value.clone()));
        }
        match &points[..] {
            [_] => Some(points),
            [(first, place), (step, step_place)] => {
                let index = self.builder.index(owner);
                let index = self.fits(index, step_place)?;
                let moved = self.builder.multiply(*step, index);
                let moved = self.fits(moved, step_place)?;
                let made = self.builder.add(*first, moved);
                let made = self.fits(made, place)?;
                Some(vec![(made, place.clone())])
            }
            [(first, place), rest @ ..] => {
                // Three or more are a point each.
                let mut made = rest.last().map_or(*first, |(last, _)| *last);
                for (n, (point, place)) in points.iter().enumerate().rev().skip(1) {
                    let is_it = self.builder.is_index(owner, n as u32);
                    let is_it = self.fits(is_it, place)?;
                    let chosen = self.builder.select(is_it, *point, made);
                    made = self.fits(chosen, place)?;
                }
                Some(vec![(made, place.clone())])
            }
            [] => None,
        }
    }

    /// Checks the change rate of an expression.
    pub(super) fn expect_change_rate(
        &mut self,
        owner: &mut Owner,
        id: ExprId,
        place: &Node,
        limit: ChangeRate,
        role: &str,
    ) -> Option<()> {
        let held = self.builder.hold_to(owner, id, limit, role);
        self.fits(held, place)
    }
}

/// Whether a property is `tags actors, scenery`.
fn is_tags(node: &Node) -> bool {
    node.kind() == SyntaxKind::Property
        && tokens(node).next().is_some_and(|word| word.text() == "tags")
}

/// The target of a property `aim at walker`.
fn aim_target(node: &Node) -> Option<Node> {
    let aims = tokens(node).next().is_some_and(|word| word.text() == "aim");
    if node.kind() != SyntaxKind::Property || !aims || child_of(node, SyntaxKind::Range).is_some() {
        return None;
    }
    let target = child_of(node, SyntaxKind::Preposition)?;
    let at = tokens(&target).next().is_some_and(|word| word.text() == "at");
    child_of(&target, SyntaxKind::Range).filter(|_| at)
}
