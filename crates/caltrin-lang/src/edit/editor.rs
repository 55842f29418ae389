//! Edits made from operations on a book.

use std::ops::Range;

use caltrin_core::color::Rgb;
use caltrin_core::kind::Kind;
use caltrin_core::program::Constant;

use super::value::{self, color_as_written, hour_as_written, number_as_written};
use super::{Edit, EditError, Edits, Replacement, layout};
use crate::ast::{
    self, AstNode, Body, Curve, Decl, Property, SequenceStep, Stop, child, children, token_span,
    tokens,
};
use crate::grammar::Keyword;
use crate::names::{NameKind, Names, Occurrence};
use crate::parser::{Parse, parse};
use crate::syntax::{Node, SyntaxKind, Token, is_reserved, lex};
use crate::words;

/// Makes edits of one text. A range in an operation is that of a node: its bytes without spaces
/// around it. Declarations are named as in the book; what is in a fitting has the fitting's name and
/// a dot before it.
#[derive(Clone, Debug)]
pub struct Editor {
    text: String,
    parse: Parse,
    tree: Node,
    /// Whether edits are checked and laid out one by one.
    checks: bool,
}

impl Editor {
    /// Reads a text.
    pub fn of(text: &str) -> Self {
        let parse = parse(text);
        let tree = parse.tree();
        Editor { text: text.to_owned(), parse, tree, checks: true }
    }

    /// Makes one edit of several operations on the text, which must change different places. Lines are laid
    /// out once for all of them.
    ///
    /// # Errors
    /// Those of the operations; [`EditError::Conflict`] if two change the same place.
    pub fn together(
        &self,
        operations: impl IntoIterator<Item = impl FnOnce(&Editor) -> Result<Edit, EditError>>,
    ) -> Result<Edit, EditError> {
        let bare = Editor { checks: false, ..self.clone() };
        let mut whole = Edit::new(&self.text, Vec::new())?;
        for operation in operations {
            whole = whole.merge(&operation(&bare)?)?;
        }
        let ends = whole.replacements().first().zip(whole.replacements().last());
        let Some(at) = ends.map(|(first, last)| first.range.start..last.range.end) else {
            return Ok(whole);
        };
        self.checked(whole, at)
    }

    /// The text.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// The untyped tree.
    pub fn tree(&self) -> &Node {
        &self.tree
    }

    // ---- Values

    /// Replaces a number, in base units (1 for 100%, seconds, meters, degrees ...), and keeps its
    /// unit. A negative number gets a sign, if one can stand there. The range is that of the number, with
    /// or without its sign.
    ///
    /// # Errors
    /// If the range is not a number.
    pub fn set_number(&self, at: Range<usize>, to: f64) -> Result<Edit, EditError> {
        let at = self.without_sign(at);
        let token = self.literal(&at, SyntaxKind::Number)?;
        let sign = signed(&token);
        let new = number_as_written(token.text(), to.abs(), false)?;
        let range = match &sign {
            Some(sign) => token_span(sign).start..at.end,
            None => at,
        };
        let new = if to < 0.0 { format!("-{new}") } else { new };
        self.checked(Edit::replace(&self.text, range.clone(), &new)?, range)
    }

    /// Replaces a time of day.
    ///
    /// # Errors
    /// If the range is not an hour, or the new one is not from 0 to 24.
    pub fn set_hour(&self, at: Range<usize>, to: f64) -> Result<Edit, EditError> {
        self.literal(&at, SyntaxKind::Hour)?;
        self.checked(Edit::replace(&self.text, at.clone(), &hour_as_written(to)?)?, at)
    }

    /// Replaces a color, linear Rec. 709, from 0 to 1.
    ///
    /// # Errors
    /// If the range is not a color.
    pub fn set_color(&self, at: Range<usize>, to: Rgb) -> Result<Edit, EditError> {
        self.set_color_text(at, &color_as_written(to))
    }

    /// Replaces a color by a text such as `2400K` or `oklch(70% 0.15 40deg)`.
    ///
    /// # Errors
    /// If the range is not a color, or the text is not one.
    pub fn set_color_text(&self, at: Range<usize>, to: &str) -> Result<Edit, EditError> {
        let old = self.text.get(at.clone()).ok_or(EditError::BadRanges)?;
        let is_call = self.node::<ast::ColorCall>(&at).is_some();
        let is_color = matches!(value::read(old), Some((_, Kind::Color)));
        if !is_call && !is_color {
            return Err(EditError::Missing("color"));
        }
        match crate::resolve::value(to) {
            Ok((Constant::Vector(_), Kind::Color)) => {}
            Ok((_, kind)) => {
                return Err(EditError::Invalid(format!("expected a color, found {kind}")));
            }
            Err(why) => return Err(EditError::Invalid(why)),
        }
        self.checked(Edit::replace(&self.text, at.clone(), to)?, at)
    }

    /// Replaces a point of three numbers, in meters; equal components stay as they are written.
    ///
    /// # Errors
    /// If the range is not a point of numbers.
    pub fn set_point(&self, at: Range<usize>, to: [f64; 3]) -> Result<Edit, EditError> {
        let point = self.node::<ast::Parenthesized>(&at).ok_or(EditError::Missing("point"))?;
        let values = point.values();
        if values.len() != 3 {
            return Err(EditError::Missing("point"));
        }
        let mut replacements = Vec::new();
        for (value, to) in values.iter().zip(to) {
            let (range, literal, now) = number_of(value).ok_or(EditError::Missing("point"))?;
            if now != to {
                let new = number_as_written(&literal, to.abs(), false)?;
                let text = if to < 0.0 { format!("-{new}") } else { new };
                replacements.push(Replacement { range, text });
            }
        }
        self.checked(Edit::new(&self.text, replacements)?, at)
    }

    /// Replaces `on` or `off`.
    ///
    /// # Errors
    /// If the range is neither.
    pub fn set_on(&self, at: Range<usize>, to: bool) -> Result<Edit, EditError> {
        match self.text.get(at.clone()) {
            Some("on" | "off") => {}
            _ => return Err(EditError::Missing("`on` or `off`")),
        }
        self.checked(Edit::replace(&self.text, at.clone(), if to { "on" } else { "off" })?, at)
    }

    /// Replaces a whole expression by a text.
    ///
    /// # Errors
    /// If the range is not an expression, or the text cannot stand there.
    pub fn set_expression(&self, at: Range<usize>, to: &str) -> Result<Edit, EditError> {
        self.node::<ast::Expr>(&at).ok_or(EditError::Missing("value"))?;
        self.checked(Edit::replace(&self.text, at.clone(), to)?, at)
    }

    /// Puts an expression into a call: `clamp(` before it, and `, to 0..1)` after it.
    ///
    /// # Errors
    /// As [`Editor::set_expression`].
    pub fn wrap(&self, at: Range<usize>, function: &str, rest: &str) -> Result<Edit, EditError> {
        self.node::<ast::Expr>(&at).ok_or(EditError::Missing("value"))?;
        let replacements = vec![
            Replacement { range: at.start..at.start, text: format!("{function}(") },
            Replacement { range: at.end..at.end, text: format!("{rest})") },
        ];
        self.checked(Edit::new(&self.text, replacements)?, at)
    }

    /// Replaces, adds or (with `None`) removes the easing of a stop or of a line of a sequence.
    ///
    /// # Errors
    /// If the range is neither, or the text is not an easing.
    pub fn set_easing(&self, at: Range<usize>, to: Option<&str>) -> Result<Edit, EditError> {
        let stop = self.node::<Stop>(&at).map(|stop| (stop.easing(), stop.syntax().clone()));
        let line = || self.node::<ast::SequenceLine>(&at);
        let line = || line().map(|line| (line.easing(), line.syntax().clone()));
        let (easing, node) = stop.or_else(line).ok_or(EditError::Missing("stop or step"))?;
        let edit = match (easing, to) {
            (Some(easing), Some(to)) => Edit::replace(&self.text, easing.range(), to)?,
            (Some(easing), None) => {
                let range = easing.range();
                let before = self.text[..range.start].trim_end().len();
                Edit::replace(&self.text, before..range.end, "")?
            }
            (None, Some(to)) => {
                let end = ast::span(&node).end;
                Edit::replace(&self.text, end..end, &format!(" {to}"))?
            }
            (None, None) => Edit::new(&self.text, Vec::new())?,
        };
        self.checked(edit, at)
    }

    // ---- Curves

    /// Adds a stop to a curve, in its order. The position is in base units; the values are texts,
    /// one for each column.
    ///
    /// # Errors
    /// If there is no such curve, or the stop cannot stand there.
    pub fn add_stop(
        &self,
        curve: &str,
        position: f64,
        values: &[&str],
        easing: Option<&str>,
    ) -> Result<Edit, EditError> {
        let curve = self.curve(curve)?;
        let stops = placed(&curve);
        let like = stops.first().ok_or(EditError::Missing("stop"))?;
        let token = like.0.position().ok_or(EditError::Missing("stop"))?;
        let mut text = position_as_written(&token, position)?;
        text.push_str(&format!(" {}", values.join(", ")));
        if let Some(easing) = easing {
            text.push_str(&format!(" {easing}"));
        }
        let before = stops.iter().rev().find(|(_, at)| *at <= position).map(|(stop, _)| stop);
        // What follows relative to the previous stop must not move.
        let next = stops.iter().find(|(_, at)| *at > position);
        if next.is_some_and(|(stop, _)| stop.sign().is_some_and(|sign| sign.text() == "+")) {
            let message = "the next stop is relative to the previous one; write its position first";
            return Err(EditError::Invalid(message.to_owned()));
        }
        let edit = match before {
            Some(stop) => self.statement_after(stop.syntax(), &text)?,
            None => self.statement_before(like.0.syntax(), &text)?,
        };
        self.checked(edit, curve.range())
    }

    /// Moves a stop, counted from 0, to a position in base units. Its unit stays; stops relative to
    /// it move with it.
    ///
    /// # Errors
    /// If there is no such stop, or it would pass another.
    pub fn move_stop(&self, curve: &str, n: usize, position: f64) -> Result<Edit, EditError> {
        let curve = self.curve(curve)?;
        let stops = placed(&curve);
        let (stop, _) = stops.get(n).ok_or(EditError::Missing("stop"))?;
        let before = n.checked_sub(1).map(|n| stops[n].1);
        let passes = before.is_some_and(|before| position < before);
        // The one after a relative stop moves too.
        let after =
            stops.get(n + 1).filter(|(stop, _)| stop.sign().is_none_or(|s| s.text() != "+"));
        if passes || after.is_some_and(|(_, after)| position > *after) {
            return Err(EditError::Invalid("a stop cannot pass another".to_owned()));
        }
        let token = stop.position().ok_or(EditError::Missing("stop"))?;
        let relative = stop.sign().is_some_and(|sign| sign.text() == "+");
        let written = match relative {
            true => position_as_written(&token, position - before.unwrap_or(0.0))?,
            false => position_as_written(&token, position)?,
        };
        let (start, text) = match stop.sign() {
            Some(sign) if relative => (token_span(&sign).start, format!("+{written}")),
            Some(sign) => (token_span(&sign).start, written),
            None => (token_span(&token).start, written),
        };
        let range = start..token_span(&token).end;
        self.checked(Edit::replace(&self.text, range, &text)?, curve.range())
    }

    /// Moves several stops of a curve at once, each by its number from 0 to a position in base units.
    ///
    /// # Errors
    /// As [`Editor::move_stop`].
    pub fn move_stops(&self, curve: &str, moves: &[(usize, f64)]) -> Result<Edit, EditError> {
        let stops = placed(&self.curve(curve)?);
        let mut moves = moves.to_vec();
        moves.sort_by_key(|(n, _)| *n);
        // Those that go back make room for those before them from the front, the others from the end.
        let back = |(n, to): &(usize, f64)| stops.get(*n).is_some_and(|(_, at)| to < at);
        let (first, rest): (Vec<_>, Vec<_>) = moves.into_iter().partition(back);
        let mut whole = Edit::new(&self.text, Vec::new())?;
        let mut now = self.clone();
        for (n, to) in first.into_iter().chain(rest.into_iter().rev()) {
            let next = now.move_stop(curve, n, to)?;
            whole = whole.then(&next, &self.text)?;
            now = Editor { checks: self.checks, ..Editor::of(&whole.apply(&self.text)?) };
        }
        Ok(whole)
    }

    /// Removes a stop, counted from 0.
    ///
    /// # Errors
    /// If there is no such stop, or it is the last one.
    pub fn remove_stop(&self, curve: &str, n: usize) -> Result<Edit, EditError> {
        let curve = self.curve(curve)?;
        let stops: Vec<Stop> = curve.stops().collect();
        let stop = stops.get(n).ok_or(EditError::Missing("stop"))?;
        if stops.len() == 1 {
            return Err(EditError::Invalid("a curve has at least one stop".to_owned()));
        }
        let next = stops.get(n + 1).and_then(Stop::sign);
        if next.is_some_and(|sign| sign.text() == "+") {
            let message = "the next stop is relative to this one; write its position first";
            return Err(EditError::Invalid(message.to_owned()));
        }
        self.checked(self.without(stop.syntax())?, curve.range())
    }

    /// Adds a copy of a stop at another position.
    ///
    /// # Errors
    /// As [`Editor::add_stop`].
    pub fn duplicate_stop(&self, curve: &str, n: usize, position: f64) -> Result<Edit, EditError> {
        let stop = self.curve(curve)?.stops().nth(n).ok_or(EditError::Missing("stop"))?;
        let values: Vec<String> = stop.values().map(|value| value.text()).collect();
        let values: Vec<&str> = values.iter().map(String::as_str).collect();
        let easing = stop.easing().map(|easing| easing.text());
        self.add_stop(curve, position, &values, easing.as_deref())
    }

    /// Replaces all stops of a curve: their positions in base units, the texts of their values, one for each
    /// column, and their easings.
    ///
    /// # Errors
    /// If there is no such curve, it would have no stop, or a stop cannot be written.
    pub fn set_stops(
        &self,
        curve: &str,
        stops: &[(f64, Vec<String>, Option<String>)],
    ) -> Result<Edit, EditError> {
        let curve = self.curve(curve)?;
        let old: Vec<Stop> = curve.stops().collect();
        let (Some(first), Some(last)) = (old.first(), old.last()) else {
            return Err(EditError::Missing("stop"));
        };
        let like = first.position().ok_or(EditError::Missing("position"))?;
        if stops.is_empty() {
            return Err(EditError::Invalid("a curve needs a stop".to_owned()));
        }
        let written = stops.iter().map(|(position, values, easing)| {
            let position = position_as_written(&like, *position)?;
            let easing = easing.iter().map(|easing| format!(" {easing}"));
            Ok(format!("{position} {}{}", values.join(", "), easing.collect::<String>()))
        });
        let written = written.collect::<Result<Vec<_>, EditError>>()?;
        let start = first.range().start;
        let between = match self.starts_line(start) {
            true => format!("{}{}", self.line_break(), self.indent(start)),
            false => "; ".to_owned(),
        };
        let range = start..last.range().end;
        self.checked(Edit::replace(&self.text, range, &written.join(&between))?, curve.range())
    }

    /// Sets the length of a curve in seconds: the time in which it leads back to its first value; none to
    /// end it with its last stop.
    ///
    /// # Errors
    /// If there is no such curve, or the length cannot be written.
    pub fn set_length(&self, curve: &str, to: Option<f64>) -> Result<Edit, EditError> {
        let curve = self.curve(curve)?;
        let edit = match (curve.length(), to) {
            (Some(length), None) => self.without(length.syntax())?,
            (None, None) => Edit::new(&self.text, Vec::new())?,
            (Some(length), Some(to)) => {
                let time = length.time().ok_or(EditError::Missing("time"))?;
                let new = number_as_written(time.text(), to, false)?;
                Edit::replace(&self.text, token_span(&time), &new)?
            }
            (None, Some(to)) => {
                let new = number_as_written("1s", to, false)?;
                self.statement_in(curve.syntax(), &format!("length {new}"))?
            }
        };
        self.checked(edit, curve.range())
    }

    // ---- Channels and declarations

    /// Sets a channel of a light or output, a line of a place, clock, sun, space, wall or post: its
    /// values are replaced, or the line is added.
    ///
    /// # Errors
    /// If there is no such declaration, or the value cannot stand there.
    pub fn set_line(&self, of: &str, word: &str, values: &str) -> Result<Edit, EditError> {
        let decl = self.decl(of)?;
        let block = block(&decl).ok_or(EditError::Missing("block"))?;
        let known = children::<Property>(&block).find(|line| is_line(line, word));
        let edit = match known {
            Some(line) => {
                let name = line.word().ok_or(EditError::Missing("line"))?;
                let start = token_span(&name).end;
                let values_at = self.text[start..].len() - self.text[start..].trim_start().len();
                Edit::replace(&self.text, start + values_at..line.range().end, values)?
            }
            None => self.statement_in(&block, &format!("{word} {values}"))?,
        };
        self.checked(edit, decl.range())
    }

    /// Removes a line that [`Editor::set_line`] sets.
    ///
    /// # Errors
    /// If there is no such line.
    pub fn remove_line(&self, of: &str, word: &str) -> Result<Edit, EditError> {
        let decl = self.decl(of)?;
        let block = block(&decl).ok_or(EditError::Missing("block"))?;
        let mut lines = children::<Property>(&block);
        let line = lines.find(|line| is_line(line, word)).ok_or(EditError::Missing("line"))?;
        self.checked(self.without(line.syntax())?, decl.range())
    }

    /// Multiplies the value of a line by an expression: `intensity 6200lm` by `rhythm(...)` becomes
    /// `intensity 6200lm * rhythm(...)`.
    ///
    /// # Errors
    /// If there is no such line with a single value, or the expression cannot stand there.
    pub fn multiply_line(&self, of: &str, word: &str, by: &str) -> Result<Edit, EditError> {
        let decl = self.decl(of)?;
        let block = block(&decl).ok_or(EditError::Missing("block"))?;
        let line = children::<Property>(&block).find(|line| is_line(line, word));
        let values: Vec<_> = line.iter().flat_map(Property::values).collect();
        let [value] = &values[..] else { return Err(EditError::Missing("line with a value")) };
        let parts = value.values();
        let [value] = &parts[..] else { return Err(EditError::Missing("line with one value")) };
        let at = value.range();
        let is_product =
            |of: &ast::Binary| of.operator().is_some_and(|sign| matches!(sign.text(), "*" | "/"));
        let loose = match value {
            ast::Expr::Binary(binary) => !is_product(binary),
            ast::Expr::If(_) => true,
            _ => false,
        };
        let mut replacements =
            vec![Replacement { range: at.end..at.end, text: format!(" * {by}") }];
        if loose {
            replacements[0].text.insert(0, ')');
            replacements.insert(0, Replacement { range: at.start..at.start, text: "(".to_owned() });
        }
        self.checked(Edit::new(&self.text, replacements)?, at)
    }

    /// Sets the seed of a light, which then keeps its random values whatever else changes.
    ///
    /// # Errors
    /// If there is no such light.
    pub fn set_seed(&self, of: &str, to: u32) -> Result<Edit, EditError> {
        let decl = self.decl(of)?;
        let block = block(&decl).ok_or(EditError::Missing("block"))?;
        let seed: Option<ast::Seed> = child(&block);
        let edit = match seed.as_ref().and_then(ast::Seed::number) {
            Some(number) => Edit::replace(&self.text, token_span(&number), &to.to_string())?,
            None => self.statement_in(&block, &format!("seed {to}"))?,
        };
        self.checked(edit, decl.range())
    }

    /// Adds an exception for one lamp or instance, or a line to the one that it has.
    ///
    /// # Errors
    /// If there is no such declaration, or the value cannot stand there.
    pub fn set_exception(
        &self,
        of: &str,
        index: u32,
        word: &str,
        values: &str,
    ) -> Result<Edit, EditError> {
        let decl = self.decl(of)?;
        let block = block(&decl).ok_or(EditError::Missing("block"))?;
        let edit = match exception(&block, index) {
            None => {
                let text = format!("except [{index}] {{ {word} {values} }}");
                self.statement_in(&block, &text)?
            }
            Some(odd) => match odd.properties().find(|line| is_line(line, word)) {
                Some(line) => Edit::replace(&self.text, line.range(), &format!("{word} {values}"))?,
                None => self.statement_in(odd.syntax(), &format!("{word} {values}"))?,
            },
        };
        self.checked(edit, decl.range())
    }

    /// Removes the exception of one lamp or instance.
    ///
    /// # Errors
    /// If there is none.
    pub fn remove_exception(&self, of: &str, index: u32) -> Result<Edit, EditError> {
        let decl = self.decl(of)?;
        let block = block(&decl).ok_or(EditError::Missing("block"))?;
        let odd = exception(&block, index).ok_or(EditError::Missing("exception"))?;
        self.checked(self.without(odd.syntax())?, decl.range())
    }

    /// Adds a declaration after another, or at the end of the book.
    ///
    /// # Errors
    /// If there is no such declaration, or the text is not one.
    pub fn add_declaration(&self, text: &str, after: Option<&str>) -> Result<Edit, EditError> {
        let edit = match after {
            Some(name) => self.statement_after(self.decl(name)?.syntax(), text)?,
            None => {
                let end = self.text.len();
                let gap = if self.text.ends_with('\n') || self.text.is_empty() { "" } else { "\n" };
                Edit::replace(&self.text, end..end, &format!("{gap}{text}\n"))?
            }
        };
        let at = self.text.len();
        self.checked(edit, at..at)
    }

    /// Adds a copy of a declaration under another name after it, with the points of its `position` or
    /// `along` moved by so many meters along the axes of the book.
    ///
    /// # Errors
    /// If there is no such declaration, or the new name cannot stand there.
    pub fn duplicate_declaration(
        &self,
        name: &str,
        copy: &str,
        by: [f64; 3],
    ) -> Result<Edit, EditError> {
        let decl = self.decl(name)?;
        let (node, range) = (decl.syntax(), decl.range());
        let name = token_span(&decl.name().ok_or(EditError::Missing("name"))?);
        let block = block(&decl);
        let lines = block.iter().flat_map(children::<Property>);
        let mut moves = Vec::new();
        for line in lines.filter(|line| is_line(line, "position") || is_line(line, "along")) {
            // Of an array the second of two points is a distance.
            let points: Vec<_> = line.values().flat_map(|value| value.values()).collect();
            let distance = is_line(&line, "position") && points.len() == 2;
            moves.extend(points.iter().take(if distance { 1 } else { points.len() }).cloned());
        }
        let moves = moves.iter().filter_map(|point| {
            let point = ast::Parenthesized::cast(point.syntax().clone())?;
            let parts: Vec<_> =
                point.values().iter().map(|part| Some(number_of(part)?.2)).collect();
            let [Some(x), Some(y), Some(z)] = parts[..] else { return None };
            let to = [x + by[0], y + by[1], z + by[2]];
            let at = point.range();
            Some(move |editor: &Editor| editor.set_point(at, to))
        });
        let moved = self.together(moves)?.apply(&self.text)?;
        let end = range.end + moved.len() - self.text.len();
        let mut text = moved[range.start..end].to_owned();
        text.replace_range(name.start - range.start..name.end - range.start, copy);
        // What stands on several lines stands apart.
        if text.contains('\n') {
            text.insert_str(0, self.line_break());
        }
        self.checked(self.statement_after(node, &text)?, range.end..range.end)
    }

    /// Removes a declaration.
    ///
    /// # Errors
    /// If there is no such declaration.
    pub fn remove_declaration(&self, name: &str) -> Result<Edit, EditError> {
        let decl = self.decl(name)?;
        let at = decl.range().start;
        self.checked(self.without(decl.syntax())?, at..at)
    }

    /// Adds `use "file"` before the first declaration, if the book does not use that file.
    ///
    /// # Errors
    /// If the book has no first line.
    pub fn use_book(&self, file: &str) -> Result<Edit, EditError> {
        let book = ast::Book::cast(self.tree.clone()).ok_or(EditError::Missing("book"))?;
        if book.used().any(|used| used == file) {
            return Edit::new(&self.text, Vec::new());
        }
        let text = format!("use \"{file}\"");
        let last = children::<ast::Use>(&self.tree).last().map(|used| used.syntax().clone());
        let header = || self.tree.children().find(|node| node.kind() == SyntaxKind::Header);
        let after = last.or_else(header).ok_or(EditError::Missing("first line"))?;
        let end = ast::span(&after).end;
        self.checked(self.statement_after(&after, &text)?, end..end)
    }

    /// Replaces an expression by a call of a stock behavior, and adds `use "stock"` if the book does
    /// not use it.
    ///
    /// # Errors
    /// As [`Editor::set_expression`] and [`Editor::use_book`].
    pub fn call_stock(&self, at: Range<usize>, call: &str) -> Result<Edit, EditError> {
        let called = self.set_expression(at, call)?;
        let after = Editor::of(&called.apply(&self.text)?);
        called.then(&after.use_book("stock")?, &self.text)
    }

    // ---- Time

    /// Moves a step of a sequence or a line of a rehearsal to a time in seconds. Its unit stays; a
    /// step relative to the previous one stays relative. A step with a start and an end keeps its
    /// duration.
    ///
    /// # Errors
    /// If the range is neither.
    pub fn move_in_time(&self, at: Range<usize>, to: f64) -> Result<Edit, EditError> {
        if let Some(line) = self.node::<ast::RehearsalLine>(&at) {
            let time = line.time().ok_or(EditError::Missing("time"))?;
            let new = number_as_written(time.text(), to, false)?;
            return self.checked(Edit::replace(&self.text, token_span(&time), &new)?, at);
        }
        let step = self.node::<SequenceStep>(&at).ok_or(EditError::Missing("step"))?;
        let times = step.times();
        let first = times.first().ok_or(EditError::Missing("time"))?;
        let old = seconds(first).ok_or(EditError::Missing("time"))?;
        let relative = step.sign().is_some_and(|sign| sign.text() == "+");
        // A relative step counts from the one before it.
        let to = match relative {
            true => to - (self.step_at(&at).ok_or(EditError::Missing("step"))? - old),
            false => to,
        };
        let mut replacements = Vec::new();
        for time in &times {
            let moved = seconds(time).ok_or(EditError::Missing("time"))? + to - old;
            let text = number_as_written(time.text(), moved, false)?;
            replacements.push(Replacement { range: token_span(time), text });
        }
        self.checked(Edit::new(&self.text, replacements)?, at)
    }

    /// Adds a line to a rehearsal at a time in seconds: after those that are earlier or at the same time.
    ///
    /// # Errors
    /// If there is no such rehearsal, or the text cannot stand there.
    pub fn add_rehearsal_line(
        &self,
        rehearsal: &str,
        at: f64,
        text: &str,
    ) -> Result<Edit, EditError> {
        let decl = self.decl(rehearsal)?;
        let Decl::Rehearsal(script) = &decl else {
            return Err(EditError::Missing("rehearsal of that name"));
        };
        let text = format!("{} {text}", number_as_written("1s", at, true)?);
        let time = |line: &ast::RehearsalLine| line.time().as_ref().and_then(seconds);
        let lines: Vec<_> = script.lines().collect();
        let is_before = |line: &&ast::RehearsalLine| time(line).is_none_or(|time| time <= at);
        let edit = match (lines.iter().rfind(is_before), lines.first()) {
            (Some(line), _) => self.statement_after(line.syntax(), &text)?,
            (None, Some(first)) => self.statement_before(first.syntax(), &text)?,
            (None, None) => self.statement_in(decl.syntax(), &text)?,
        };
        self.checked(edit, decl.range())
    }

    /// The moment of a step in its sequence.
    fn step_at(&self, at: &Range<usize>) -> Option<f64> {
        let lines = self.sequences().into_iter().flat_map(|sequence| sequence.lines);
        lines.into_iter().find(|line| line.range == *at).map(|line| line.from)
    }

    // ---- Format

    /// Formats the lines that a range touches.
    ///
    /// # Errors
    /// The first syntax error, if there is one.
    pub fn format(&self, range: Range<usize>) -> Result<Edit, EditError> {
        if let Some(error) = self.parse.diagnostics.first() {
            return Err(EditError::Invalid(error.message.clone()));
        }
        Edit::new(&self.text, layout::formatting(&self.text, &range))
    }

    // ---- Pieces

    /// The node of a type with exactly this range.
    fn node<T: AstNode>(&self, at: &Range<usize>) -> Option<T> {
        if at.start > at.end || at.end > self.text.len() {
            return None;
        }
        let start = self.tree.token_at_offset((at.start as u32).into()).right_biased()?;
        let mut around = start.parent_ancestors().filter_map(T::cast);
        around.find(|node| node.range() == *at)
    }

    /// A range without the sign that it starts with.
    fn without_sign(&self, at: Range<usize>) -> Range<usize> {
        let rest = self.text.get(at.clone()).and_then(|text| text.strip_prefix('-'));
        rest.map_or(at.clone(), |rest| at.end - rest.trim_start().len()..at.end)
    }

    fn literal(&self, at: &Range<usize>, kind: SyntaxKind) -> Result<Token, EditError> {
        let missing = match kind {
            SyntaxKind::Hour => EditError::Missing("hour"),
            _ => EditError::Missing("number"),
        };
        if at.end > self.text.len() {
            return Err(missing);
        }
        let token = self.tree.token_at_offset((at.start as u32).into()).right_biased();
        token.filter(|t| t.kind() == kind && token_span(t) == *at).ok_or(missing)
    }

    /// A declaration by its name; `fitting.light` for what is in a fitting.
    fn decl(&self, name: &str) -> Result<Decl, EditError> {
        let mut parts = name.split('.');
        let head = parts.next().unwrap_or_default();
        let named = |decl: &Decl, name: &str| decl.name().is_some_and(|own| own.text() == name);
        let clock = |decl: &Decl| {
            let word = decl.declaration().keyword;
            matches!(word, Keyword::Clock | Keyword::Space) && decl.declaration().word == head
        };
        let mut found = children::<Decl>(&self.tree).find(|decl| named(decl, head) || clock(decl));
        for part in parts {
            let inner: Vec<Decl> = match found {
                Some(Decl::Fitting(fitting)) => fitting.declarations().collect(),
                _ => Vec::new(),
            };
            found = inner.into_iter().find(|decl| named(decl, part));
        }
        found.ok_or(EditError::Missing("declaration of that name"))
    }

    fn curve(&self, name: &str) -> Result<Curve, EditError> {
        match self.decl(name)? {
            Decl::Curve(curve) => Ok(curve),
            _ => Err(EditError::Missing("curve of that name")),
        }
    }

    /// Whether only spaces stand before a place in its line.
    fn starts_line(&self, at: usize) -> bool {
        let line = self.text[..at].rfind('\n').map_or(0, |end| end + 1);
        self.text[line..at].trim().is_empty()
    }

    /// The spaces at the start of the line of a place.
    fn indent(&self, at: usize) -> &str {
        let line = self.text[..at].rfind('\n').map_or(0, |end| end + 1);
        let rest = &self.text[line..];
        &rest[..rest.len() - rest.trim_start_matches([' ', '\t']).len()]
    }

    /// The end of the line of a place, before its line end.
    fn line_end(&self, at: usize) -> usize {
        let end = self.text[at..].find('\n').map_or(self.text.len(), |end| at + end);
        at + self.text[at..end].trim_end_matches('\r').len()
    }

    fn line_break(&self) -> &'static str {
        let first = self.text.find('\n').unwrap_or(0);
        if self.text[..first].ends_with('\r') { "\r\n" } else { "\n" }
    }

    /// Adds a statement after another: on a line of its own if the other has one.
    fn statement_after(&self, node: &Node, text: &str) -> Result<Edit, EditError> {
        let range = ast::span(node);
        let end = self.line_end(range.end);
        // A comment after it stays with it.
        let rest = self.text[range.end..end].trim_start();
        if self.starts_line(range.start) && (rest.is_empty() || rest.starts_with("//")) {
            let new = format!("{}{}{text}", self.line_break(), self.indent(range.start));
            return Edit::replace(&self.text, end..end, &new);
        }
        Edit::replace(&self.text, range.end..range.end, &format!("; {text}"))
    }

    fn statement_before(&self, node: &Node, text: &str) -> Result<Edit, EditError> {
        let start = ast::span(node).start;
        let new = match self.starts_line(start) {
            true => format!("{text}{}{}", self.line_break(), self.indent(start)),
            false => format!("{text}; "),
        };
        Edit::replace(&self.text, start..start, &new)
    }

    /// Adds a statement at the end of a block.
    fn statement_in(&self, block: &Node, text: &str) -> Result<Edit, EditError> {
        let brace = tokens(block).filter(|token| token.kind() == SyntaxKind::BraceClose).last();
        let Some(brace) = brace else {
            // A declaration without braces, such as `place row of pen`, gets some.
            let end =
                block.parent().map_or_else(|| ast::span(block).end, |decl| ast::span(&decl).end);
            return Edit::replace(&self.text, end..end, &format!(" {{ {text} }}"));
        };
        let at = token_span(&brace).start;
        let last = block.children().filter(|child| child.kind() != SyntaxKind::Size).last();
        match last {
            Some(last) if !self.starts_line(at) => {
                let end = ast::span(&last).end;
                Edit::replace(&self.text, end..end, &format!("; {text}"))
            }
            Some(last) => {
                let like = ast::span(&last).start;
                let indent = match self.starts_line(like) {
                    true => self.indent(like).to_owned(),
                    false => format!("{}  ", self.indent(at)),
                };
                let start = at - self.indent(at).len();
                Edit::replace(
                    &self.text,
                    start..start,
                    &format!("{indent}{text}{}", self.line_break()),
                )
            }
            None if self.starts_line(at) => {
                let start = at - self.indent(at).len();
                let new = format!("{}  {text}{}", self.indent(at), self.line_break());
                Edit::replace(&self.text, start..start, &new)
            }
            None => {
                let before = self.text[..at].trim_end().len();
                Edit::replace(&self.text, before..at, &format!(" {text} "))
            }
        }
    }

    /// Removes a statement: its whole line if it has one, else it and one separator.
    fn without(&self, node: &Node) -> Result<Edit, EditError> {
        let range = ast::span(node);
        let end = self.line_end(range.end);
        let rest = self.text[range.end..end].trim_start();
        if self.starts_line(range.start) && (rest.is_empty() || rest.starts_with("//")) {
            let start = range.start - self.indent(range.start).len();
            let after = self.text[end..].find('\n').map_or(self.text.len(), |n| end + n + 1);
            return Edit::replace(&self.text, start..after, "");
        }
        let after = &self.text[range.end..];
        let spaces = after.len() - after.trim_start_matches([' ', '\t']).len();
        let range = match after[spaces..].strip_prefix(';') {
            Some(rest) => {
                let more = rest.len() - rest.trim_start_matches([' ', '\t']).len();
                range.start..range.end + spaces + 1 + more
            }
            None => {
                let before = self.text[..range.start].trim_end();
                let before = before.strip_suffix(';').unwrap_or(before);
                before.trim_end().len()..range.end
            }
        };
        Edit::replace(&self.text, range, "")
    }

    /// Checks that an edit makes no new syntax error, and formats the lines of a declaration around
    /// it if they were formatted before.
    fn checked(&self, edit: Edit, at: Range<usize>) -> Result<Edit, EditError> {
        if !self.checks {
            return Ok(edit);
        }
        let after = edit.apply(&self.text)?;
        let parsed = parse(&after);
        if parsed.diagnostics.len() > self.parse.diagnostics.len() {
            let known = &self.parse.diagnostics;
            let new = parsed
                .diagnostics
                .iter()
                .find(|new| !known.iter().any(|k| k.message == new.message));
            let message =
                new.or(parsed.diagnostics.last()).map_or(String::new(), |d| d.message.clone());
            return Err(EditError::Invalid(message));
        }
        let around = self.around(&at);
        if !parsed.diagnostics.is_empty() || !layout::is_formatted(&self.text, &around) {
            return Ok(edit);
        }
        let grown = after.len() as isize - self.text.len() as isize;
        let around = around.start..around.end.saturating_add_signed(grown).min(after.len());
        let tidy = Edit::new(&after, layout::formatting(&after, &around))?;
        edit.then(&tidy, &self.text)
    }

    /// The bytes of the declaration of the book around a range.
    fn around(&self, at: &Range<usize>) -> Range<usize> {
        let decls = self.tree.children().map(|child| ast::span(&child));
        let mut found = decls.filter(|decl| decl.start <= at.start && at.end <= decl.end);
        found.next().unwrap_or_else(|| at.clone())
    }
}

/// Renames what stands at a byte of one of the texts, in all of them: the book first, then the books
/// that it uses and files of rehearsals for it.
///
/// # Errors
/// If nothing with a name stands there, or the new name cannot stand for it everywhere.
pub fn rename(
    texts: &[&str],
    source: usize,
    at: usize,
    new_name: &str,
) -> Result<Edits, EditError> {
    let parses: Vec<Parse> = texts.iter().map(|text| parse(text)).collect();
    let names = Names::of(&parses);
    let found = names.at(source, at).ok_or(EditError::Missing("name"))?;
    let definition = names.definition(found.definition);
    let (tokens, _) = lex(new_name);
    let plain = tokens.len() == 1 && tokens[0].kind == SyntaxKind::Name;
    if !plain || is_reserved(new_name) {
        return Err(EditError::Invalid(format!("`{new_name}` cannot be a name")));
    }
    let called = matches!(definition.kind, NameKind::Declared(Keyword::Behavior | Keyword::Curve));
    if called && words::is_function(words::current(new_name)) {
        let message = format!("`{new_name}` is a function of the language; choose another name");
        return Err(EditError::Invalid(message));
    }
    let mut all: Vec<Vec<Replacement>> = vec![Vec::new(); texts.len()];
    for place in names.places(found.definition) {
        // A sun or moon without a name gets one after its word.
        let unnamed = place.defines && place.range.start == definition.whole.start;
        let unnamed = unnamed && matches!(definition.kind, NameKind::Declared(_));
        let (range, text) = match unnamed {
            true => (place.range.end..place.range.end, format!(" {new_name}")),
            false => (place.range.clone(), new_name.to_owned()),
        };
        all[place.source].push(Replacement { range, text });
    }
    // A moon that names no sun goes with the one called `sun`.
    let is_sun = definition.kind == NameKind::Declared(Keyword::Sun);
    if is_sun && definition.name == "sun" {
        for (n, parsed) in parses.iter().enumerate() {
            for moon in children::<ast::Moon>(&parsed.tree()).filter(|moon| moon.sun().is_none()) {
                let Some(name) = Decl::Moon(moon).name() else { continue };
                let end = token_span(&name).end;
                let text = format!(" of {new_name}");
                all[n].push(Replacement { range: end..end, text });
            }
        }
    }
    let mut edits = Edits::new();
    let mut after: Vec<Parse> = parses;
    for (n, replacements) in all.into_iter().enumerate() {
        if replacements.is_empty() {
            continue;
        }
        let edit = Edit::new(texts[n], replacements)?;
        after[n] = parse(&edit.apply(texts[n])?);
        edits.insert(n, edit);
    }
    // Every name must stand for the same as before.
    let renamed = Names::of(&after);
    let same = |names: &Names| -> Vec<_> {
        let of = |o: &&Occurrence| !is_sun || o.definition != found.definition;
        names.occurrences().iter().filter(of).map(|o| (o.source, o.definition, o.defines)).collect()
    };
    let siblings = names.definitions().filter(|(id, other)| {
        *id != found.definition && other.parent == definition.parent && other.name == new_name
    });
    if same(&names) != same(&renamed) || siblings.count() > 0 {
        return Err(EditError::Invalid(format!("`{new_name}` already stands for something here")));
    }
    Ok(edits)
}

/// The minus sign of a number, if nothing stands between.
fn signed(number: &Token) -> Option<Token> {
    let before = number.prev_token()?;
    (before.kind() == SyntaxKind::Sign).then_some(before)
}

/// The bytes of a number with its sign, its text without it, and its value.
fn number_of(value: &ast::Expr) -> Option<(Range<usize>, String, f64)> {
    let (negative, literal) = match value {
        ast::Expr::Literal(literal) => (false, literal.clone()),
        ast::Expr::Unary(unary) => match (unary.operator()?.text(), unary.operand()?) {
            ("-", ast::Expr::Literal(literal)) => (true, literal),
            _ => return None,
        },
        _ => return None,
    };
    let text = literal.text();
    let (Constant::Scalar(size), _) = value::read(&text)? else { return None };
    Some((value.range(), text, if negative { -size } else { size }))
}

pub(super) fn seconds(token: &Token) -> Option<f64> {
    match value::read(token.text())? {
        (Constant::Scalar(v), Kind::Time) => Some(v),
        _ => None,
    }
}

/// The stops of a curve with their positions in base units.
pub(super) fn placed(curve: &Curve) -> Vec<(Stop, f64)> {
    let mut at = 0.0;
    let mut all = Vec::new();
    for stop in curve.stops() {
        let Some(token) = stop.position() else { continue };
        let Some((Constant::Scalar(v), _)) = value::read(token.text()) else { continue };
        at = match stop.sign() {
            Some(sign) if sign.text() == "+" => at + v,
            Some(_) => -v,
            None => v,
        };
        all.push((stop, at));
    }
    all
}

/// A position in the unit of another.
fn position_as_written(like: &Token, position: f64) -> Result<String, EditError> {
    if like.kind() == SyntaxKind::Hour {
        return hour_as_written(position);
    }
    let sign = if position < 0.0 { "-" } else { "" };
    Ok(format!("{sign}{}", number_as_written(like.text(), position.abs(), false)?))
}

/// The block of a declaration.
fn block(decl: &Decl) -> Option<Node> {
    let body = child::<Body>(decl.syntax()).map(|body| body.syntax().clone());
    let own = || tokens(decl.syntax()).any(|token| token.kind() == SyntaxKind::BraceOpen);
    body.or_else(|| own().then(|| decl.syntax().clone()))
}

fn is_line(line: &Property, word: &str) -> bool {
    line.word().is_some_and(|own| words::spelled(own.text()) == word)
}

fn exception(block: &Node, index: u32) -> Option<ast::Exception> {
    let wanted = index.to_string();
    let mut all = children::<ast::Exception>(block);
    all.find(|odd| odd.index().is_some_and(|own| own.text() == wanted))
}
