//! What is written in a text, with the ranges that operations are made for.

use std::ops::Range;

use caltrin_core::kind::Kind;
use caltrin_core::program::Constant;

use super::editor::{Editor, placed, seconds};
use super::value;
use crate::ast::{self, AstNode, Curve, HasName, children, token_span};
use crate::syntax::Token;

impl Editor {
    /// The curves of the text.
    pub fn curves(&self) -> Vec<CurveText> {
        children::<Curve>(self.tree()).filter_map(|curve| curve_text(&curve)).collect()
    }

    /// The sequences of the text, with their steps.
    pub fn sequences(&self) -> Vec<ScriptText> {
        let each = children::<ast::Sequence>(self.tree()).filter_map(|sequence| {
            let mut now = 0.0;
            let lines = sequence.steps().filter_map(|step| {
                let times = step.times();
                let relative = step.sign().is_some_and(|sign| sign.text() == "+");
                let from = seconds(times.first()?)? + if relative { now } else { 0.0 };
                let to = match times.get(1) {
                    Some(end) => from + seconds(end)? - seconds(&times[0])?,
                    None => from,
                };
                now = to;
                let line = self.line(step.range(), &times, (from, to));
                Some(ScriptLine { relative, ..line })
            });
            let lines = lines.collect();
            let name = sequence.name()?.text().to_owned();
            Some(ScriptText { name, range: sequence.range(), lines })
        });
        each.collect()
    }

    /// The rehearsals of the text, with their lines that have a time.
    pub fn rehearsals(&self) -> Vec<ScriptText> {
        let each = children::<ast::Rehearsal>(self.tree()).filter_map(|rehearsal| {
            let lines = rehearsal.lines().filter_map(|line| {
                let time = line.time()?;
                let at = seconds(&time)?;
                Some(self.line(line.range(), &[time], (at, at)))
            });
            let lines = lines.collect();
            let name = rehearsal.name()?.text().to_owned();
            Some(ScriptText { name, range: rehearsal.range(), lines })
        });
        each.collect()
    }

    /// The backdrops of the text.
    pub fn backdrops(&self) -> Vec<BackdropText> {
        let each = children::<ast::Backdrop>(self.tree()).filter_map(|backdrop| {
            let lines: Vec<ast::Property> = backdrop.body()?.properties().collect();
            let point = |word: &str| {
                let line =
                    lines.iter().find(|line| line.word().is_some_and(|w| w.text() == word))?;
                let value = line.values().next()?.values().into_iter().next()?;
                Some(StopValue {
                    range: value.range(),
                    value: crate::resolve::value(&value.text()).ok(),
                })
            };
            let picture = ast::unquoted(&backdrop.file()?).to_owned();
            let points = [point("from")?, point("to")?];
            Some(BackdropText { picture, range: backdrop.range(), points })
        });
        each.collect()
    }

    fn line(&self, range: Range<usize>, times: &[Token], (from, to): (f64, f64)) -> ScriptLine {
        let spans: Vec<Range<usize>> = times.iter().map(token_span).collect();
        let after = spans.last().map_or(range.start, |time| time.end);
        let words: Vec<&str> = self.text()[after..range.end].split_whitespace().collect();
        ScriptLine {
            from,
            to,
            relative: false,
            end: spans.get(1).cloned(),
            text: words.join(" "),
            range,
        }
    }
}

/// A sequence or rehearsal as it is written.
#[derive(Clone, Debug, PartialEq)]
pub struct ScriptText {
    /// Its name.
    pub name: String,
    /// Its bytes.
    pub range: Range<usize>,
    /// Its steps or lines, in their order.
    pub lines: Vec<ScriptLine>,
}

/// A step of a sequence, or a line of a rehearsal.
#[derive(Clone, Debug, PartialEq)]
pub struct ScriptLine {
    /// Its bytes, for [`Editor::move_in_time`].
    pub range: Range<usize>,
    /// When it begins, in seconds from the start.
    pub from: f64,
    /// When it ends: the same, unless it has two times.
    pub to: f64,
    /// Whether its time counts from the line before it.
    pub relative: bool,
    /// The bytes of its second time.
    pub end: Option<Range<usize>>,
    /// What happens then, as it is written.
    pub text: String,
}

/// A backdrop as it is written.
#[derive(Clone, Debug, PartialEq)]
pub struct BackdropText {
    /// The file of its picture.
    pub picture: String,
    /// Its bytes.
    pub range: Range<usize>,
    /// Its two points.
    pub points: [StopValue; 2],
}

/// A curve as it is written.
#[derive(Clone, Debug, PartialEq)]
pub struct CurveText {
    /// Its name.
    pub name: String,
    /// Its bytes.
    pub range: Range<usize>,
    /// The names of its columns; none where there is only one.
    pub columns: Vec<String>,
    /// Its stops, in their order.
    pub stops: Vec<StopText>,
    /// Its length in seconds, where it is written.
    pub length: Option<f64>,
}

/// A value of a stop or backdrop as it is written.
#[derive(Clone, Debug, PartialEq)]
pub struct StopValue {
    /// Its bytes.
    pub range: Range<usize>,
    /// Of a literal, its value in base units and its kind.
    pub value: Option<(Constant, Kind)>,
}

/// A stop of a curve as it is written.
#[derive(Clone, Debug, PartialEq)]
pub struct StopText {
    /// Its bytes.
    pub range: Range<usize>,
    /// Its position in base units: seconds, hours, 1 for 100% ...
    pub position: f64,
    /// The kind of the position.
    pub kind: Kind,
    /// Its values, one for each column.
    pub values: Vec<StopValue>,
    /// The easing with which it is reached.
    pub easing: Option<String>,
}

fn curve_text(curve: &Curve) -> Option<CurveText> {
    let name = curve.name()?.text().to_owned();
    let stops = placed(curve).into_iter().filter_map(|(stop, position)| {
        let token = stop.position()?;
        let (_, kind) = value::read(token.text())?;
        let value = |value: ast::Expr| {
            let text = value.text();
            let signed = text.strip_prefix('-').and_then(value::read);
            let read = match signed {
                Some((Constant::Scalar(v), kind)) => Some((Constant::Scalar(-v), kind)),
                _ => value::read(&text).or_else(|| crate::resolve::value(&text).ok()),
            };
            StopValue { range: value.range(), value: read }
        };
        Some(StopText {
            range: stop.range(),
            position,
            kind,
            values: stop.values().map(value).collect(),
            easing: stop.easing().map(|easing| easing.text()),
        })
    });
    let columns = curve.columns().iter().map(|column| column.text().to_owned()).collect();
    let length = curve.length().and_then(|length| seconds(&length.time()?));
    Some(CurveText { name, range: curve.range(), columns, stops: stops.collect(), length })
}
