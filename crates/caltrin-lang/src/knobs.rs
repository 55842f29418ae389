//! What may be changed by what is seen: the literals that feed a light, channel, output, curve or
//! signal, through signals, behaviors, fittings and used books. It reads the typed tree alone.

use std::ops::Range;

use caltrin_core::kind::Kind;
use caltrin_core::program::Constant;
use rustc_hash::FxHashSet;

use crate::ast::{self, AstNode, Decl, HasName, child, children, span, token_span, tokens};
use crate::edit::literal_value;
use crate::grammar::Keyword;
use crate::names::{DefinitionId, NameKind, Names, is_option};
use crate::parser::Parse;
use crate::syntax::{Node, SyntaxKind, Token};

/// A literal that feeds what was asked for.
#[derive(Clone, Debug, PartialEq)]
pub struct Knob {
    /// The index of its text: 0 is the book.
    pub source: usize,
    /// Its bytes, with its sign; those of a whole color or point.
    pub range: Range<usize>,
    /// As it is written.
    pub text: String,
    /// Its kind.
    pub kind: Kind,
    /// Its unit as it is written, such as `%` or `ms`; empty if it has none.
    pub unit: String,
    /// Its value in base units: 1 for 100%, seconds, meters; colors in linear Rec. 709.
    pub value: Constant,
    /// The range of a slider for it, in base units: the bounds of an input, else a guess that holds
    /// the value; each component of a point has it.
    pub bounds: [f64; 2],
    /// A fitting step in that range.
    pub step: f64,
    /// What it is in: the channel, signal, behavior and argument, from the outside in.
    pub path: Vec<String>,
}

/// A stop of a curve that feeds what was asked for.
#[derive(Clone, Debug, PartialEq)]
pub struct StopKnob {
    /// The index of its text.
    pub source: usize,
    /// The bytes of the whole stop.
    pub range: Range<usize>,
    /// The bytes of its position, without a sign.
    pub position: Range<usize>,
    /// The bytes of each value.
    pub values: Vec<Range<usize>>,
    /// The bytes of its easing.
    pub easing: Option<Range<usize>>,
}

/// A curve that feeds what was asked for.
#[derive(Clone, Debug, PartialEq)]
pub struct CurveKnob {
    /// Its name.
    pub name: String,
    /// Its stops, in their order.
    pub stops: Vec<StopKnob>,
}

/// Everything that feeds a subject.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Knobs {
    /// The literals, those nearest to the subject first.
    pub literals: Vec<Knob>,
    /// The curves.
    pub curves: Vec<CurveKnob>,
}

/// Finds what feeds a subject, by its name: a light, output, curve, signal, input, switch ... of the
/// book, `instance.light` for what is in an instance of a fitting. `channel` is a channel of a light
/// or a value of an output; all of them if it is `None`. The texts are the book, then those that it
/// uses.
///
/// Sequences and groups that lead or dim a light feed it too. `None` if nothing has that name.
pub fn knobs<'a>(
    texts: impl IntoIterator<Item = &'a Parse>,
    subject: &str,
    channel: Option<&str>,
) -> Option<Knobs> {
    let texts: Vec<&Parse> = texts.into_iter().collect();
    let names = Names::of(texts.iter().copied());
    let mut finder = Finder {
        trees: texts.iter().map(|text| text.tree()).collect(),
        names: &names,
        seen: FxHashSet::default(),
        path: Vec::new(),
        clock_found: false,
        found: Knobs::default(),
    };
    finder.subject(subject, channel)?;
    Some(finder.found)
}

struct Finder<'n> {
    trees: Vec<Node>,
    names: &'n Names,
    seen: FxHashSet<DefinitionId>,
    path: Vec<String>,
    clock_found: bool,
    found: Knobs,
}

impl Finder<'_> {
    fn subject(&mut self, subject: &str, channel: Option<&str>) -> Option<()> {
        let mut parts = subject.split('.');
        let head = self.names.of_book(parts.next()?)?;
        let mut chain = vec![head];
        for part in parts {
            chain.push(self.names.member(*chain.last()?, part)?);
        }
        let own = *chain.last()?;
        self.path.push(subject.to_owned());
        self.declared(own, channel);
        // Where the instance stands, and what its parameters are there.
        for outer in chain.iter().rev().skip(1) {
            self.declared(*outer, None);
        }
        self.led(subject, &chain, channel);
        self.path.pop();
        Some(())
    }

    /// What stands in the declaration of a definition.
    fn declared(&mut self, id: DefinitionId, channel: Option<&str>) {
        if channel.is_none() && !self.seen.insert(id) {
            return;
        }
        let Some((source, node)) = self.node(id) else { return };
        let Some(decl) = Decl::cast(node.clone()) else {
            // A parameter has its default, a mark the line that it is.
            return self.node_in(&node, source);
        };
        match &decl {
            Decl::Light(_)
            | Decl::Spark(_)
            | Decl::Output(_)
            | Decl::Place(_)
            | Decl::Wall(_)
            | Decl::Post(_)
            | Decl::Eye(_) => {
                self.body(&decl, source, channel);
            }
            Decl::Curve(curve) => self.curve(curve, source),
            Decl::Sun(_) => {
                self.clock();
                self.node_in(&node, source);
            }
            Decl::Moon(moon) => {
                self.clock();
                // A moon that names no sun goes with the one called `sun`.
                let sun = moon.sun().map_or("sun".to_owned(), |sun| sun.text().to_owned());
                self.node_in(&node, source);
                if let Some(sun) = self.names.of_book(&sun) {
                    self.follow(sun);
                }
            }
            // Only those parts of a fitting that are asked for feed anything.
            Decl::Fitting(_) | Decl::Rehearsal(_) => {}
            _ => self.node_in(&node, source),
        }
    }

    /// The clock, which feeds what depends on the hour.
    fn clock(&mut self) {
        if std::mem::replace(&mut self.clock_found, true) {
            return;
        }
        for source in 0..self.trees.len() {
            let clock: Option<ast::Clock> = child(&self.trees[source]);
            if let Some(clock) = clock {
                self.path.push("clock".to_owned());
                self.node_in(clock.syntax(), source);
                self.path.pop();
                return;
            }
        }
    }

    fn body(&mut self, decl: &Decl, source: usize, channel: Option<&str>) {
        let node = decl.syntax();
        if let Some(value) = child::<ast::Expr>(node).filter(|_| matches!(decl, Decl::Output(_))) {
            self.node_in(value.syntax(), source);
        }
        if matches!(decl, Decl::Spark(_)) {
            children::<ast::Path>(node).for_each(|path| self.node_in(path.syntax(), source));
        }
        let Some(body) = child::<ast::Body>(node) else { return };
        let exceptions: Vec<ast::Exception> = body.exceptions().collect();
        let odd = exceptions.iter().flat_map(|odd| odd.properties().collect::<Vec<_>>());
        let all: Vec<ast::Property> = body.properties().chain(odd).collect();
        for line in all {
            let Some(word) = line.word() else { continue };
            // Where a lamp is can matter to every other channel, and so can the life of sparks.
            let shared = matches!(word.text(), "position" | "lives" | "overflow");
            // A dark color dims; `color` and `intensity` feed each other.
            let pair = |a: &str, b: &str| word.text() == a && channel == Some(b);
            let paired = pair("color", "intensity") || pair("intensity", "color");
            if channel.is_none_or(|channel| channel == word.text()) || shared || paired {
                self.path.push(word.text().to_owned());
                self.node_in(line.syntax(), source);
                self.path.pop();
            }
        }
    }

    fn curve(&mut self, curve: &ast::Curve, source: usize) {
        let name = curve.name().map_or(String::new(), |name| name.text().to_owned());
        let stops = curve.stops().filter_map(|stop| {
            Some(StopKnob {
                source,
                range: stop.range(),
                position: token_span(&stop.position()?),
                values: stop.values().map(|value| value.range()).collect(),
                easing: stop.easing().map(|easing| easing.range()),
            })
        });
        let stops = stops.collect();
        self.found.curves.push(CurveKnob { name, stops });
        self.node_in(curve.syntax(), source);
    }

    /// Sequences and groups that name a light, or an instance around it.
    fn led(&mut self, subject: &str, chain: &[DefinitionId], channel: Option<&str>) {
        let holders: Vec<(usize, Decl)> = self
            .trees
            .iter()
            .enumerate()
            .flat_map(|(n, tree)| {
                children::<Decl>(tree).map(move |decl| (n, decl)).collect::<Vec<_>>()
            })
            .collect();
        let mut groups: FxHashSet<String> = FxHashSet::default();
        let mut open: Vec<String> = subject
            .match_indices('.')
            .map(|(at, _)| subject[..at].to_owned())
            .chain([subject.to_owned()])
            .collect();
        let heads: Vec<DefinitionId> = chain.to_vec();
        while let Some(name) = open.pop() {
            for (source, decl) in &holders {
                let Decl::Group(group) = decl else { continue };
                let own = group.name().map_or(String::new(), |name| name.text().to_owned());
                let names = group.lights().iter().any(|path| path_text(path) == name);
                if names && groups.insert(own.clone()) {
                    self.path.push(own.clone());
                    group.lines().for_each(|line| self.node_in(line.syntax(), *source));
                    self.path.pop();
                    open.push(own);
                }
            }
        }
        for (source, decl) in &holders {
            let Decl::Sequence(sequence) = decl else { continue };
            let own = sequence.name().map_or(String::new(), |name| name.text().to_owned());
            let mut leads = false;
            for step in sequence.steps() {
                for line in step.lines() {
                    let Some(path) = line.channel() else { continue };
                    let at = path.names().filter_map(|name| self.at(*source, &name));
                    let at: Vec<DefinitionId> = at.collect();
                    let word = path.names().last().map_or(String::new(), |w| w.text().to_owned());
                    let is_it = !at.is_empty() && heads.starts_with(&at)
                        || at.len() == heads.len() + 1 && at.starts_with(&heads);
                    let of_channel = channel.is_none_or(|channel| {
                        channel == word || word == "color" || word == "intensity"
                    });
                    if is_it && of_channel {
                        leads = true;
                        self.path.extend([own.clone(), word]);
                        self.node_in(line.syntax(), *source);
                        self.path.truncate(self.path.len() - 2);
                    }
                }
            }
            if leads {
                self.path.push(own);
                self.times(sequence, *source);
                self.path.pop();
            }
        }
    }

    /// When a sequence starts, and the times of its steps.
    fn times(&mut self, sequence: &ast::Sequence, source: usize) {
        sequence.events().for_each(|event| self.node_in(event.syntax(), source));
        for (n, step) in sequence.steps().enumerate() {
            self.path.push(format!("step {}", n + 1));
            for time in step.times() {
                self.literal(&time, source, None);
            }
            self.path.pop();
            for line in step.lines().filter(|line| line.channel().is_none()) {
                self.node_in(line.syntax(), source);
            }
        }
        let ends = sequence.syntax().children().filter(|c| c.kind() == SyntaxKind::Ends);
        ends.for_each(|end| self.node_in(&end, source));
    }

    fn at(&self, source: usize, name: &Token) -> Option<DefinitionId> {
        let range = token_span(name);
        let found = self.names.at(source, range.start)?;
        (found.range == range).then_some(found.definition)
    }

    /// The literals and names in a node.
    fn node_in(&mut self, node: &Node, source: usize) {
        match node.kind() {
            SyntaxKind::ColorCall => return self.color(node, source),
            SyntaxKind::Bracketed if self.point(node, source) => return,
            SyntaxKind::Path if is_option(&ast::Path(node.clone())) => return,
            SyntaxKind::LightPath => return,
            SyntaxKind::Path if self.named_color(node, source) => return,
            _ => {}
        }
        for part in node.children_with_tokens() {
            match part {
                rowan::NodeOrToken::Node(inner) => {
                    let named = ast::Argument::cast(inner.clone()).and_then(|a| a.name());
                    let named = named.map(|name| name.text().to_owned());
                    let depth = self.path.len();
                    self.path.extend(named);
                    self.node_in(&inner, source);
                    self.path.truncate(depth);
                }
                rowan::NodeOrToken::Token(token) => match token.kind() {
                    SyntaxKind::Number | SyntaxKind::Hour | SyntaxKind::Hash => {
                        let bounds = bounds_of(node);
                        self.literal(&token, source, bounds);
                        if token.kind() == SyntaxKind::Hour {
                            self.clock();
                        }
                    }
                    SyntaxKind::Name => {
                        if matches!(token.text(), "on" | "off") {
                            let starts = tokens(node).next().is_some_and(|w| w.text() == "starts");
                            if node.kind() == SyntaxKind::Literal || starts {
                                self.literal(&token, source, None);
                            }
                        } else if let Some(id) = self.at(source, &token) {
                            self.follow(id);
                        } else if matches!(token.text(), "hour" | "days") {
                            self.clock();
                        }
                    }
                    _ => {}
                },
            }
        }
    }

    /// What a name stands for feeds what names it.
    fn follow(&mut self, id: DefinitionId) {
        let definition = self.names.definition(id);
        let name = definition.name.clone();
        self.path.push(name);
        match definition.kind {
            NameKind::Column
            | NameKind::ChoiceOption
            | NameKind::Mode
            | NameKind::Phase
            | NameKind::OutputValue
            | NameKind::Notice => {}
            NameKind::Mark => {
                // A mark occurs when its sequence says.
                if let Some((source, node)) = self.node(id)
                    && let Some(sequence) = node.ancestors().find_map(ast::Sequence::cast)
                    && self.seen.insert(id)
                {
                    self.times(&sequence, source);
                }
            }
            NameKind::Parameter => {
                self.declared(id, None);
                self.given(id);
            }
            NameKind::Declared(_) => self.declared(id, None),
        }
        self.path.pop();
    }

    /// What the instances of a fitting give one of its parameters.
    fn given(&mut self, parameter: DefinitionId) {
        let definition = self.names.definition(parameter);
        let Some(parent) = definition.parent else { return };
        if self.names.definition(parent).kind != NameKind::Declared(Keyword::Fitting) {
            return;
        }
        let places: Vec<(usize, Range<usize>)> = self
            .names
            .places(parameter)
            .filter(|place| !place.defines)
            .map(|place| (place.source, place.range.clone()))
            .collect();
        for (source, range) in places {
            let token = self.trees[source].token_at_offset((range.start as u32).into());
            let line = token.right_biased().and_then(|t| t.parent()).and_then(ast::Property::cast);
            if let Some(line) =
                line.filter(|line| line.word().is_some_and(|w| token_span(&w) == range))
            {
                line.values().for_each(|value| self.node_in(value.syntax(), source));
            }
        }
    }

    /// The node that defines a name.
    fn node(&self, id: DefinitionId) -> Option<(usize, Node)> {
        let definition = self.names.definition(id);
        let tree = self.trees.get(definition.source)?;
        let token = tree.token_at_offset((definition.range.start as u32).into()).right_biased()?;
        let node = token.parent_ancestors().find(|node| span(node) == definition.whole)?;
        Some((definition.source, node))
    }

    fn literal(&mut self, token: &Token, source: usize, bounds: Option<[f64; 2]>) {
        if let Some(knob) = literal_knob(token, source, bounds, &self.path) {
            self.push(knob);
        }
    }

    fn push(&mut self, knob: Knob) {
        let known = |other: &Knob| other.source == knob.source && other.range == knob.range;
        if !self.found.literals.iter().any(known) {
            self.found.literals.push(knob);
        }
    }

    /// A color that is a call: one knob if all its components are numbers.
    fn color(&mut self, node: &Node, source: usize) {
        let range = span(node);
        let text = ast::ColorCall(node.clone()).text();
        match crate::resolve::value(&text) {
            Ok((value, kind)) => self.color_knob(source, (range, text), (value, kind)),
            // Its components vary.
            Err(_) => node.children().for_each(|inner| self.node_in(&inner, source)),
        }
    }

    fn color_knob(
        &mut self,
        source: usize,
        (range, text): (Range<usize>, String),
        (value, kind): (Constant, Kind),
    ) {
        self.push(Knob {
            source,
            range,
            text,
            kind,
            unit: String::new(),
            value,
            bounds: [0.0, 1.0],
            step: 1.0 / 255.0,
            path: self.path.clone(),
        });
    }

    /// A point of numbers as one knob.
    fn point(&mut self, node: &Node, source: usize) -> bool {
        let values = ast::Parenthesized(node.clone()).values();
        let parts: Option<Vec<f64>> = values.iter().map(number).collect();
        let Some([x, y, z]) = parts.as_deref().and_then(|parts| <[f64; 3]>::try_from(parts).ok())
        else {
            return false;
        };
        let most = x.abs().max(y.abs()).max(z.abs());
        let (bounds, step) = guessed(-most, Kind::Length, None);
        self.push(Knob {
            source,
            range: span(node),
            text: ast::Parenthesized(node.clone()).text(),
            kind: Kind::Point,
            unit: "m".to_owned(),
            value: Constant::Vector([x, y, z]),
            bounds,
            step,
            path: self.path.clone(),
        });
        true
    }

    /// A color by its name in CSS.
    fn named_color(&mut self, node: &Node, source: usize) -> bool {
        let path = ast::Path(node.clone());
        let (Some(name), 1) = (path.head(), path.names().count()) else { return false };
        if self.at(source, &name).is_some() {
            return false;
        }
        let Some((value, kind)) = literal_value(name.text()) else { return false };
        let written = (token_span(&name), name.text().to_owned());
        self.color_knob(source, written, (value, kind));
        true
    }
}

/// The literal at a byte of a text: a number, a time of day, a color as `#rrggbb`, or `on` and `off`.
pub fn literal_at(text: &Parse, at: usize) -> Option<Knob> {
    let tree = text.tree();
    if at > usize::from(tree.text_range().end()) {
        return None;
    }
    let is_literal = |token: &Token| match token.kind() {
        SyntaxKind::Number | SyntaxKind::Hour | SyntaxKind::Hash => true,
        SyntaxKind::Name => matches!(token.text(), "on" | "off"),
        _ => false,
    };
    // Between two tokens it is the one that is a literal; a sign belongs to its number.
    let touched = || tree.token_at_offset((at as u32).into());
    let after_sign = || touched().find(|token| token.kind() == SyntaxKind::Sign)?.next_token();
    let token = touched().find(is_literal).or_else(|| after_sign().filter(is_literal))?;
    let node = token.parent()?;
    literal_knob(&token, 0, bounds_of(&node), &[])
}

/// The bounds of an input whose default a literal is.
fn bounds_of(literal: &Node) -> Option<[f64; 2]> {
    let input = ast::Input::cast(literal.parent()?)?;
    let ends = input.bounds()?.values();
    let [lo, hi] = &ends[..] else { return None };
    Some([number(lo)?, number(hi)?])
}

fn literal_knob(
    token: &Token,
    source: usize,
    bounds: Option<[f64; 2]>,
    path: &[String],
) -> Option<Knob> {
    let (mut value, kind) = literal_value(token.text())?;
    let sign = token.prev_token().filter(|before| before.kind() == SyntaxKind::Sign);
    let mut range = token_span(token);
    let mut text = token.text().to_owned();
    if let (Some(sign), Constant::Scalar(v)) = (&sign, value) {
        range.start = token_span(sign).start;
        text.insert(0, '-');
        value = Constant::Scalar(-v);
    }
    let unit: String = match token.kind() {
        SyntaxKind::Number => {
            token.text().trim_start_matches(|c: char| !c.is_alphabetic() && c != '%').to_owned()
        }
        _ => String::new(),
    };
    let (bounds, step) = match value {
        Constant::Scalar(v) => guessed(v, kind, bounds),
        Constant::Vector(_) | Constant::OnOff(_) => ([0.0, 1.0], 1.0 / 255.0),
    };
    Some(Knob { source, range, text, kind, unit, value, bounds, step, path: path.to_vec() })
}

/// A light's path as it is written, without indices.
fn path_text(path: &ast::LightPath) -> String {
    let names: Vec<String> = path.names().map(|name| name.text().to_owned()).collect();
    names.join(".")
}

/// A number that is written as a literal.
fn number(value: &ast::Expr) -> Option<f64> {
    let of = |value: &ast::Expr| match value {
        ast::Expr::Literal(literal) => match literal_value(literal.token()?.text())? {
            (Constant::Scalar(v), _) => Some(v),
            _ => None,
        },
        _ => None,
    };
    match value {
        ast::Expr::Unary(unary) if tokens(unary.syntax()).next()?.kind() == SyntaxKind::Sign => {
            Some(-of(&unary.operand()?)?)
        }
        value => of(value),
    }
}

/// The range and step of a slider for a number.
fn guessed(value: f64, kind: Kind, bounds: Option<[f64; 2]>) -> ([f64; 2], f64) {
    let [lo, hi] = bounds.unwrap_or_else(|| match kind {
        Kind::Hour => [0.0, 24.0],
        Kind::Number if (0.0..=1.0).contains(&value) => [0.0, 1.0],
        Kind::Angle if (0.0..=90.0).contains(&value) => [0.0, 180.0],
        Kind::Angle if value.abs() <= 360.0 => [-360.0, 360.0],
        _ => {
            let most = if value == 0.0 { 1.0 } else { rounded_up(1.5 * value.abs()) };
            [if value < 0.0 { -most } else { 0.0 }, most]
        }
    });
    let step = match kind {
        Kind::Hour => 1.0 / 12.0,
        _ if hi > lo => rounded_up((hi - lo) / 500.0),
        _ => 0.0,
    };
    ([lo, hi], step)
}

/// The next of 1, 2 or 5 times a power of ten.
fn rounded_up(value: f64) -> f64 {
    let exponent = value.log10().floor();
    let power = 10f64.powf(exponent);
    let first = [1u8, 2, 5, 10].into_iter().find(|n| f64::from(*n) * power >= value * (1.0 - 1e-9));
    // Read as text, it is the nearest number.
    format!("{}e{exponent}", first.unwrap_or(10)).parse().unwrap_or(value)
}
