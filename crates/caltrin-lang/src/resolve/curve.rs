//! Curves: stops, columns, ramps, and how values are reached.

use std::rc::Rc;

use caltrin_core::curve::{CurveFault, Easing, MOST_STEPS, StepPosition};
use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{Constant, Domain, Subject};
use caltrin_core::program_builder::{Owner, Track};
use caltrin_core::quantity::Place;
use caltrin_core::semantic_error::SemanticError;

use super::{
    Columns, Item, Resolver, child_of, expressions, is_expression, name_of, span, token_of,
    token_span, tokens,
};
use crate::diagnostic::Diagnostic;
use crate::literal;
use crate::syntax::{Node, SyntaxKind, Token};
use crate::words;

/// One line of a curve.
struct StopLine {
    at: Place,
    values: Vec<Constant>,
    easing: Easing,
    node: Node,
}

/// What the lines of a curve have in common, fixed by the first.
#[derive(Default)]
struct CurveShape {
    domain: Option<Domain>,
    kinds: Vec<(ValueKind, Node)>,
}

impl Resolver {
    pub(super) fn curve(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let names: Vec<Token> = child_of(node, SyntaxKind::Columns)
            .map(|columns| {
                tokens(&columns).filter(|t| t.kind() == SyntaxKind::Name).skip(1).collect()
            })
            .unwrap_or_default();
        let linear = self.blends_linear(node)?;
        let mut shape = CurveShape::default();
        let mut lines = Vec::new();
        let mut whole = true;
        for stop in node.children().filter(|child| child.kind() == SyntaxKind::Stop) {
            let made = self.lines_of_stop(&stop, names.len().max(1), &mut shape, lines.last());
            match made {
                Some(made) => lines.extend(made),
                None => whole = false,
            }
        }
        if !whole {
            return None;
        }
        let length = match child_of(node, SyntaxKind::CurveLength) {
            Some(length) => Some(self.curve_length(&length, shape.domain, &lines)?),
            None => None,
        };
        let domain = shape.domain.unwrap_or(Domain::Time);
        let columns = names.len().max(1);
        let mut tracks = Vec::with_capacity(columns);
        let mut all_stops = Vec::with_capacity(columns);
        let mut lasting = length.map(|_| [Vec::new(), Vec::new()]);
        for column in 0..columns {
            let kind = shape.kinds.get(column).map_or(ValueKind::Number, |(kind, _)| *kind);
            let stops: Vec<(Place, Constant, Easing)> =
                lines.iter().map(|line| (line.at, line.values[column], line.easing)).collect();
            let title = match names.get(column) {
                Some(column) => format!("{}.{}", name.text(), column.text()),
                None => name.text().to_owned(),
            };
            let made = match domain {
                Domain::Day => self.builder.define_day(&title, kind, linear, &stops),
                domain => self.builder.define_curve(&title, domain, kind, linear, &stops),
            };
            match made {
                Ok(track) => tracks.push(track),
                Err(error) => {
                    self.tell_curve(&error, &lines, &name);
                    return None;
                }
            }
            if let (Some((end, easing)), Some(lasting)) = (length, &mut lasting) {
                // Looping it leads back to the first value; otherwise it holds the last.
                let (first, last) = (stops[0].1, stops[stops.len() - 1].1);
                let ends = [(first, easing), (last, Easing::Jump)];
                for ((value, easing), tracks) in ends.into_iter().zip(lasting) {
                    let mut stops = stops.clone();
                    stops.push((end, value, easing));
                    let made = self.builder.define_curve(&title, domain, kind, linear, &stops);
                    tracks.push(self.fits(made, node)?);
                }
            }
            all_stops.push(stops);
        }
        let more = lasting.iter().flatten().flatten();
        let all: Vec<Track> = tracks.iter().chain(more).cloned().collect();
        for track in &all {
            for curve in &track.curves {
                self.note(Subject::Curve(*curve), node);
            }
        }
        let names = names.iter().map(|token| token.text().to_owned()).collect();
        let kinds = shape.kinds.iter().map(|(kind, _)| *kind).collect();
        let columns = Columns { names, tracks, stops: all_stops, domain, kinds, lasting };
        Some(Item::Curve(Rc::new(columns)))
    }

    /// `length 7.3s smooth`: where the curve ends, and how a loop leads back from the last stop to the first value.
    fn curve_length(
        &mut self,
        node: &Node,
        domain: Option<Domain>,
        lines: &[StopLine],
    ) -> Option<(Place, Easing)> {
        let token = token_of(node, SyntaxKind::Number)?;
        let range = token_span(&token);
        let length = match literal::number(token.text()) {
            Ok((Constant::Scalar(v), ValueKind::Time)) if domain == Some(Domain::Time) => v,
            Ok(_) => {
                let message = "only a curve in seconds has a length, which is a time";
                self.tell(Diagnostic::error(range, message).help("write `length 7.3s`"));
                return None;
            }
            Err(fault) => {
                self.tell_literal(range, fault);
                return None;
            }
        };
        let last = lines.last().map_or(0.0, |line| line.at.0);
        if length <= last {
            let message = format!("the length must be after the last stop, which is at {last}s");
            self.tell(Diagnostic::error(range, message));
            return None;
        }
        let easing = match child_of(node, SyntaxKind::Easing) {
            Some(easing) => self.easing(&easing)?,
            None => Easing::Linear,
        };
        Some((Place(length), easing))
    }

    /// The stops that one line of a curve makes: its own, or those of another curve at an offset.
    fn lines_of_stop(
        &mut self,
        node: &Node,
        columns: usize,
        shape: &mut CurveShape,
        before: Option<&StopLine>,
    ) -> Option<Vec<StopLine>> {
        let values = expressions(node);
        if let [path] = &values[..]
            && path.kind() == SyntaxKind::Path
            && let Some(name) = tokens(path).next()
            && let Some(Item::Curve(inserted)) = self.item(name.text()).cloned()
        {
            return self.inserted(node, (path, &inserted), columns, shape, before);
        }
        Some(vec![self.line(node, columns, shape, before)?])
    }

    /// `2.4s dip`: the stops of another curve, from this position on.
    fn inserted(
        &mut self,
        node: &Node,
        (path, curve): (&Node, &Columns),
        columns: usize,
        shape: &mut CurveShape,
        before: Option<&StopLine>,
    ) -> Option<Vec<StopLine>> {
        let at = self.stop_place(node, shape, before)?;
        let wanted = shape.domain.unwrap_or(Domain::Time);
        let kinds: Vec<ValueKind> = shape.kinds.iter().map(|(kind, _)| *kind).collect();
        let fits = curve.domain == wanted
            && wanted != Domain::Day
            && curve.stops.len() == columns
            && (kinds.is_empty() || kinds == curve.kinds);
        if !fits {
            let text = path.text().to_string();
            let message = format!("the stops of `{}` do not fit into this curve", text.trim());
            self.tell(
                Diagnostic::error(span(path), message).help(
                    "both need the same columns, kinds of values and positions, but not hours",
                ),
            );
            return None;
        }
        if shape.kinds.is_empty() {
            shape.kinds = curve.kinds.iter().map(|kind| (*kind, path.clone())).collect();
        }
        let easing = match child_of(node, SyntaxKind::Easing) {
            Some(easing) => self.easing(&easing)?,
            None => Easing::Linear,
        };
        let lines = (0..curve.stops[0].len()).map(|n| {
            let (place, _, own) = curve.stops[0][n];
            StopLine {
                at: Place(at.0 + place.0 - curve.stops[0][0].0.0),
                values: curve.stops.iter().map(|stops| stops[n].1).collect(),
                easing: if n == 0 { easing } else { own },
                node: node.clone(),
            }
        });
        Some(lines.collect())
    }

    fn blends_linear(&mut self, node: &Node) -> Option<bool> {
        let Some(blend) = child_of(node, SyntaxKind::Blend) else { return Some(false) };
        let word = tokens(&blend).nth(1)?;
        match word.text() {
            "linear" => Some(true),
            "oklab" => Some(false),
            other => {
                let message = format!("colors cannot be blended in `{other}`");
                self.tell(
                    Diagnostic::error(token_span(&word), message)
                        .help("omit it for OKLab, or write `blend linear` for linear light"),
                );
                None
            }
        }
    }

    fn tell_curve(&mut self, error: &SemanticError, lines: &[StopLine], name: &Token) {
        let place = match error {
            SemanticError::Curve(
                CurveFault::Order(n) | CurveFault::TooClose(n) | CurveFault::Range(n),
            ) if *n < lines.len() => span(&lines[*n].node),
            SemanticError::DayOrder(n) => span(&lines[*n].node),
            SemanticError::Curve(CurveFault::BeforeStart) => span(&lines[0].node),
            SemanticError::Curve(CurveFault::TooMany(_)) => {
                span(&lines[caltrin_core::curve::MOST_STOPS.min(lines.len() - 1)].node)
            }
            _ => token_span(name),
        };
        let mut told = Diagnostic::error(place, error.to_string());
        if *error == SemanticError::NoClock {
            told = told.help("add one: `clock { day 24min; start 12:00 }`");
        }
        if let SemanticError::Curve(CurveFault::Order(n)) | SemanticError::DayOrder(n) = error
            && (1..lines.len()).contains(n)
        {
            told = told.also(span(&lines[n - 1].node), "the stop before it");
        }
        self.tell(told);
    }

    fn line(
        &mut self,
        node: &Node,
        columns: usize,
        shape: &mut CurveShape,
        before: Option<&StopLine>,
    ) -> Option<StopLine> {
        let first = before.is_none();
        let at = self.stop_place(node, shape, before)?;
        let nodes = expressions(node);
        if nodes.len() != columns {
            let message = match columns {
                1 => format!("expected one value, found {}", nodes.len()),
                _ => format!("expected {columns} values, one per column, found {}", nodes.len()),
            };
            let told = Diagnostic::error(nodes.get(1).map_or(span(node), span), message);
            self.tell(if columns == 1 {
                told.help("several values per stop need names: start with `columns sky, light`")
            } else {
                told
            });
            return None;
        }
        let mut values = Vec::with_capacity(columns);
        for (column, value) in nodes.iter().enumerate() {
            let mut owner = Owner::book("");
            let id = self.expression(value, &mut owner)?;
            let found = self.builder.kind(id);
            match shape.kinds.get(column) {
                None => shape.kinds.push((found, value.clone())),
                Some((kind, before)) if *kind != found => {
                    let message = format!("expected {kind} as at the first stop, found {found}");
                    let before = span(before);
                    self.tell(
                        Diagnostic::error(span(value), message).also(before, "the first stop"),
                    );
                    return None;
                }
                Some(_) => {}
            }
            let Some(constant) = self.program().constant(id) else {
                let message = "the values of a curve must be constant";
                self.tell(
                    Diagnostic::error(span(value), message)
                        .help("draw the curve from 0% to 100% and scale its result"),
                );
                return None;
            };
            values.push(constant);
        }
        let easing = match child_of(node, SyntaxKind::Easing) {
            Some(easing) if first && shape.domain != Some(Domain::Day) => {
                let message = "the first stop cannot have an easing";
                self.tell(
                    Diagnostic::error(span(&easing), message)
                        .help("an easing describes the way to its stop; move it to the next one"),
                );
                return None;
            }
            Some(easing) => self.easing(&easing)?,
            None => Easing::Linear,
        };
        Some(StopLine { at, values, easing, node: node.clone() })
    }

    /// The position of a stop; with a `+` it counts from the previous stop.
    fn stop_place(
        &mut self,
        node: &Node,
        shape: &mut CurveShape,
        before: Option<&StopLine>,
    ) -> Option<Place> {
        let relative = token_of(node, SyntaxKind::Plus);
        let sign = token_of(node, SyntaxKind::Sign).is_some();
        let token =
            tokens(node).find(|t| matches!(t.kind(), SyntaxKind::Number | SyntaxKind::Hour))?;
        let range = token_span(&token);
        let read = match token.kind() {
            SyntaxKind::Hour => literal::hour(token.text()),
            _ => literal::number(token.text()),
        };
        let (value, kind) = match read {
            Ok((Constant::Scalar(v), kind)) => (v, kind),
            Ok((_, kind)) => {
                let message = format!("{kind} is not a position on a curve");
                self.tell(
                    Diagnostic::error(range, message)
                        .help("positions are times, hours or other single numbers"),
                );
                return None;
            }
            Err(fault) => {
                self.tell_literal(range, fault);
                return None;
            }
        };
        let domain = match kind {
            ValueKind::Time => Domain::Time,
            ValueKind::Hour => Domain::Day,
            kind => Domain::Ramp(kind),
        };
        match shape.domain {
            None => shape.domain = Some(domain),
            Some(first) if first != domain => {
                let wanted = match first {
                    Domain::Time => "a time such as `450ms`".to_owned(),
                    Domain::Day => "an hour such as `06:10`".to_owned(),
                    Domain::Ramp(kind) => format!("{kind}"),
                };
                let message = format!("expected {wanted} as at the first stop, found {kind}");
                let told = Diagnostic::error(range, message);
                let left_away = matches!(first, Domain::Ramp(ValueKind::Number));
                self.tell(if left_away && domain == Domain::Time && value != 0.0 {
                    told.help("is the unit missing at the first stop? write `0s`")
                } else {
                    told
                });
                return None;
            }
            Some(_) => {}
        }
        match (relative, before) {
            (Some(_), Some(before)) if domain == Domain::Day => {
                Some(Place((before.at.0 + value).rem_euclid(24.0)))
            }
            (Some(_), Some(before)) => Some(Place(before.at.0 + value)),
            (Some(plus), None) => {
                let message = "the first stop has no stop before it";
                let help = format!("write `{}` without `+`", token.text());
                self.tell(Diagnostic::error(token_span(&plus), message).help(help));
                None
            }
            (None, _) => Some(Place(if sign { -value } else { value })),
        }
    }

    pub(super) fn easing(&mut self, node: &Node) -> Option<Easing> {
        let word = tokens(node).next()?;
        let arguments = child_of(node, SyntaxKind::Arguments);
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
                let message = "the first and third number of `cubic-bezier` must be within 0..1";
                self.tell(Diagnostic::error(span(&arguments), message));
                return None;
            }
            return Some(Easing::Bezier([x1, y1, x2, y2]));
        }
        if word.text() == "steps" {
            return self.steps(&word, arguments.as_ref());
        }
        if let Some(easing) = Easing::named(word.text()) {
            if let Some(arguments) = arguments {
                let message = format!("`{}` takes no arguments", word.text());
                self.tell(Diagnostic::error(span(&arguments), message));
                return None;
            }
            return Some(easing);
        }
        let message = format!("there is no easing `{}`", word.text());
        let diagnostic = Diagnostic::error(token_span(&word), message);
        let diagnostic = match self.nearest(word.text(), words::EASINGS) {
            Some(near) => diagnostic.help(format!("did you mean `{near}`?")),
            None => diagnostic.help(format!(
                "easings are {}, cubic-bezier(...) and steps(...)",
                words::EASINGS.join(", ")
            )),
        };
        self.tell(diagnostic);
        None
    }

    /// `steps(4)`, `steps(4, jump-start)`
    fn steps(&mut self, word: &Token, arguments: Option<&Node>) -> Option<Easing> {
        let place = arguments.map_or(token_span(word), span);
        let parts: Vec<String> = arguments
            .into_iter()
            .flat_map(|arguments| arguments.children())
            .filter(|child| child.kind() == SyntaxKind::Argument)
            .map(|argument| argument.text().to_string().trim().to_owned())
            .collect();
        let position = match parts.get(1) {
            Some(name) => StepPosition::named(name),
            None => Some(StepPosition::default()),
        };
        let count = parts.first().and_then(|count| count.parse().ok());
        let least = if position == Some(StepPosition::None) { 2 } else { 1 };
        match (count, position) {
            (Some(count), Some(position))
                if parts.len() < 3 && (least..=MOST_STEPS).contains(&count) =>
            {
                Some(Easing::Steps(count, position))
            }
            _ => {
                let message = format!(
                    "`steps` needs a whole number from {least} to {MOST_STEPS}, and where it jumps"
                );
                let help = "write `steps(4)`, or add `jump-start`, `jump-end`, `jump-none` or `jump-both`, as in `steps(4, jump-none)`";
                self.tell(Diagnostic::error(place, message).help(help));
                None
            }
        }
    }

    fn numbers(&mut self, arguments: &Node) -> Option<Vec<f64>> {
        let mut owner = Owner::book("");
        let mut numbers = Vec::new();
        for argument in arguments.descendants().filter(|n| n.kind() == SyntaxKind::Range) {
            let value = argument.children().find(is_expression)?;
            let id = self.expression(&value, &mut owner)?;
            let fits = self.builder.expect(id, ValueKind::Number);
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
}
