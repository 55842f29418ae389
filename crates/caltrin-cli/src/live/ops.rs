//! What a hand can do to a text, as the page sends it, and what it can take hold of.

use std::ops::Range;

use caltrin::core::kind::Kind;
use caltrin::core::program::Constant;
use caltrin::edit::{Edit, EditError, Editor, ScriptText, StopValue, TextHash, unit_size};
use caltrin::lang::knobs::{Knob, Knobs};
use serde::Deserialize;
use serde_json::{Value, json};

/// An operation on a text. Ranges are bytes of the text that the edit is made for; numbers are in base units.
#[derive(Clone, Debug, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Op {
    /// A number.
    Number { at: [usize; 2], to: f64 },
    /// A time of day.
    Hour { at: [usize; 2], to: f64 },
    /// A color, as a text such as `#ffcc88` or `2400K`.
    Color { at: [usize; 2], to: String },
    /// A point of three numbers.
    Point { at: [usize; 2], to: [f64; 3] },
    /// `on` or `off`.
    On { at: [usize; 2], to: bool },
    /// A whole expression.
    Expression { at: [usize; 2], to: String },
    /// The easing of a stop or step; none to remove it.
    Easing { at: [usize; 2], to: Option<String> },
    /// Positions of stops, by their numbers from 0.
    MoveStops { curve: String, to: Vec<(usize, f64)> },
    /// A new stop.
    AddStop { curve: String, position: f64, values: Vec<String>, easing: Option<String> },
    /// A stop less.
    RemoveStop { curve: String, n: usize },
    /// A stop again at another position.
    DuplicateStop { curve: String, n: usize, position: f64 },
    /// All stops of a curve.
    Stops { curve: String, stops: Vec<(f64, Vec<String>, Option<String>)> },
    /// A line of a declaration.
    Line { of: String, word: String, to: String },
    /// A line of a declaration less.
    RemoveLine { of: String, word: String },
    /// The value of a line times an expression.
    Times { of: String, word: String, by: String },
    /// The seed of a light.
    Seed { of: String, to: u32 },
    /// Another book is used.
    Use { file: String },
    /// The length of a curve in seconds; none to end it with its last stop.
    Length { curve: String, to: Option<f64> },
    /// A line of one lamp of an array.
    Exception { of: String, index: u32, word: String, to: String },
    /// A declaration more.
    Declaration { text: String, after: Option<String> },
    /// A declaration again under another name, moved by so many meters.
    Duplicate { name: String, copy: String, by: [f64; 3] },
    /// A declaration less.
    RemoveDeclaration { name: String },
    /// The time of a step or of a line of a rehearsal.
    Time { at: [usize; 2], to: f64 },
    /// A line of a rehearsal more.
    RehearsalLine { of: String, at: f64, text: String },
    /// A stock behavior in place of an expression.
    Stock { at: [usize; 2], to: String },
    /// All of the text.
    Text { to: String },
    /// The text as it is formatted.
    Format {},
}

fn range([start, end]: [usize; 2]) -> Range<usize> {
    start..end
}

/// The edit that some operations on a text make together.
///
/// # Errors
/// If one of them cannot be done, or two change the same place.
pub fn edit_of(text: &str, ops: &[Op]) -> Result<Edit, EditError> {
    // All of a text needs no tree.
    if let [Op::Text { to }] = ops {
        return Ok(Edit::between(text, to));
    }
    let editor = Editor::of(text);
    // Stops are named by their numbers, so each of these is made for what the ones before leave.
    let by_number = |op: &Op| {
        matches!(op, Op::RemoveStop { .. } | Op::AddStop { .. } | Op::DuplicateStop { .. })
    };
    let places = ops.iter().filter(|op| !by_number(op));
    let mut whole = editor.together(places.map(|op| move |editor: &Editor| one(editor, op)))?;
    for op in ops.iter().filter(|op| by_number(op)) {
        let next = one(&Editor::of(&whole.apply(text)?), op)?;
        whole = whole.then(&next, text)?;
    }
    Ok(whole)
}

fn one(editor: &Editor, op: &Op) -> Result<Edit, EditError> {
    match op {
        Op::Number { at, to } => editor.set_number(range(*at), *to),
        Op::Hour { at, to } => editor.set_hour(range(*at), *to),
        Op::Color { at, to } => editor.set_color_text(range(*at), to),
        Op::Point { at, to } => editor.set_point(range(*at), *to),
        Op::On { at, to } => editor.set_on(range(*at), *to),
        Op::Expression { at, to } => editor.set_expression(range(*at), to),
        Op::Easing { at, to } => editor.set_easing(range(*at), to.as_deref()),
        Op::MoveStops { curve, to } => editor.move_stops(curve, to),
        Op::AddStop { curve, position, values, easing } => {
            let values: Vec<&str> = values.iter().map(String::as_str).collect();
            editor.add_stop(curve, *position, &values, easing.as_deref())
        }
        Op::RemoveStop { curve, n } => editor.remove_stop(curve, *n),
        Op::DuplicateStop { curve, n, position } => editor.duplicate_stop(curve, *n, *position),
        Op::Stops { curve, stops } => editor.set_stops(curve, stops),
        Op::Line { of, word, to } => editor.set_line(of, word, to),
        Op::RemoveLine { of, word } => editor.remove_line(of, word),
        Op::Times { of, word, by } => editor.multiply_line(of, word, by),
        Op::Seed { of, to } => editor.set_seed(of, *to),
        Op::Use { file } => editor.use_book(file),
        Op::Length { curve, to } => editor.set_length(curve, *to),
        Op::Exception { of, index, word, to } => editor.set_exception(of, *index, word, to),
        Op::Declaration { text, after } => editor.add_declaration(text, after.as_deref()),
        Op::Duplicate { name, copy, by } => editor.duplicate_declaration(name, copy, *by),
        Op::RemoveDeclaration { name } => editor.remove_declaration(name),
        Op::Time { at, to } => editor.move_in_time(range(*at), *to),
        Op::RehearsalLine { of, at, text } => editor.add_rehearsal_line(of, *at, text),
        Op::Stock { at, to } => editor.call_stock(range(*at), to),
        Op::Text { to } => Ok(Edit::between(editor.text(), to)),
        Op::Format {} => editor.format(0..editor.text().len()),
    }
}

/// A constant, as the page takes it: a number, three of them, or a truth.
pub fn constant(value: Constant) -> Value {
    match value {
        Constant::Scalar(v) => json!(v),
        Constant::Vector(v) => json!(v),
        Constant::OnOff(on) => json!(on),
    }
}

fn kind(kind: Kind) -> &'static str {
    match kind {
        Kind::Color => "color",
        Kind::Point => "point",
        Kind::OnOff => "on",
        Kind::Hour => "hour",
        Kind::Time => "time",
        Kind::Number | Kind::Rate | Kind::Angle | Kind::Length | Kind::Strength(_) => "number",
    }
}

/// A literal, in a file that the page can change.
pub fn knob(found: &Knob, file: Option<String>) -> Value {
    let Knob { range, text, unit, value, bounds, step, path, .. } = found;
    json!({
        "file": file,
        "at": [range.start, range.end],
        "text": text,
        "kind": kind(found.kind),
        "unit": unit,
        "size": unit_size(text.trim_start_matches('-')),
        "base": found.kind.unit(),
        "value": constant(*value),
        "bounds": bounds,
        "step": step,
        "path": path,
    })
}

/// The literals and curves that feed something. `files` are the files of the texts, by their index; those of a text that the page cannot
/// change have none.
pub fn knobs(found: &Knobs, files: &[Option<String>]) -> Value {
    let file = |source: usize| files.get(source).cloned().flatten();
    let literals: Vec<Value> =
        found.literals.iter().map(|one| knob(one, file(one.source))).collect();
    let curves: Vec<&str> = found.curves.iter().map(|curve| curve.name.as_str()).collect();
    json!({ "literals": literals, "curves": curves })
}

/// Sequences or rehearsals of a text as they are written.
fn scripts(file: &str, found: &[ScriptText]) -> Vec<Value> {
    let each = found.iter().map(|script| {
        let lines = script.lines.iter().map(|line| {
            json!({
                "at": [line.range.start, line.range.end],
                "from": line.from,
                "to": line.to,
                "end": line.end.as_ref().map(|end| [end.start, end.end]),
                "relative": line.relative,
                "text": line.text,
            })
        });
        let lines: Vec<Value> = lines.collect();
        let at = [script.range.start, script.range.end];
        json!({ "file": file, "name": script.name, "at": at, "lines": lines })
    });
    each.collect()
}

/// What of a text is changed by its own hands: curves, sequences and rehearsals, as they are written.
#[derive(Default)]
pub struct TextParts {
    pub curves: Vec<Value>,
    pub sequences: Vec<Value>,
    pub rehearsals: Vec<Value>,
    pub backdrops: Vec<Value>,
}

impl TextParts {
    /// Adds those of a text.
    pub fn take(&mut self, file: &str, text: &str) {
        let editor = Editor::of(text);
        self.curves.extend(curves(file, text, &editor));
        self.sequences.extend(scripts(file, &editor.sequences()));
        self.rehearsals.extend(scripts(file, &editor.rehearsals()));
        self.backdrops.extend(editor.backdrops().iter().map(|backdrop| {
            let points = backdrop.points.iter().map(|point| written(text, point));
            let at = [backdrop.range.start, backdrop.range.end];
            json!({ "file": file, "picture": backdrop.picture, "at": at, "points": points.collect::<Vec<_>>() })
        }));
    }
}

/// A value with its bytes.
fn written(text: &str, StopValue { range, value }: &StopValue) -> Value {
    json!({
        "at": [range.start, range.end],
        "text": text[range.clone()],
        "kind": value.map(|(_, of)| kind(of)),
        "base": value.map(|(_, of)| of.unit()),
        "value": value.map(|(value, _)| constant(value)),
    })
}

/// The curves of a text as they are written.
fn curves(file: &str, text: &str, editor: &Editor) -> Vec<Value> {
    let each = editor.curves().into_iter().map(|curve| {
        let stops = curve.stops.iter().map(|stop| {
            let values = stop.values.iter().map(|value| written(text, value));
            json!({
                "at": [stop.range.start, stop.range.end],
                "position": stop.position,
                "values": values.collect::<Vec<_>>(),
                "easing": stop.easing,
            })
        });
        let stops: Vec<Value> = stops.collect();
        let of = curve.stops.first().map(|stop| stop.kind);
        json!({
            "file": file,
            "name": curve.name,
            "at": [curve.range.start, curve.range.end],
            "columns": curve.columns,
            "length": curve.length,
            "domain": of.map(kind),
            "base": of.map(Kind::unit),
            "stops": stops,
        })
    });
    each.collect()
}

/// A text for the page.
pub fn text(name: &str, text: &str) -> Value {
    json!({ "name": name, "text": text, "hash": TextHash::of(text).to_string() })
}
