//! Traversal of a program: the owners of expressions, and the lights that use them.

use caltrin_core::program::{
    CurveId, Depth, ExprId, Field, LightId, Op, Program, Reference, Subject,
};
use rustc_hash::FxHashSet;

/// Expressions by the signal, behavior or field that contains them.
pub(crate) type Owned = [(Subject, Vec<ExprId>)];

/// The expressions of each signal, behavior and field, without those of the signals and behaviors
/// that they use.
pub(crate) fn owned(program: &Program) -> Vec<(Subject, Vec<ExprId>)> {
    let mut all = Vec::new();
    for subject in program.order() {
        match subject {
            Subject::Signal(id) => all.push((*subject, below(program, program.signal(*id).value))),
            Subject::Behavior(id) => {
                all.push((*subject, below(program, program.behavior(*id).value)));
            }
            Subject::Light(id) => {
                // A part of a light that several of its fields use is reported at one. What the color is made
                // of is also in the strength, so the color comes first.
                let mut seen = FxHashSet::default();
                let mut drives = program.light(*id).drives.clone();
                drives.sort_by_key(|drive| drive.field != Field::Color);
                for drive in &drives {
                    let own = below(program, drive.value);
                    let own = own.into_iter().filter(|id| seen.insert(*id)).collect();
                    all.push((Subject::Drive(*id, drive.field), own));
                }
            }
            Subject::Book
            | Subject::Curve(_)
            | Subject::Input(_)
            | Subject::Choice(_)
            | Subject::Sound(_)
            | Subject::Event(_)
            | Subject::Drive(..) => {}
        }
    }
    all
}

/// An expression and its operands, recursively, without those of signals and behaviors.
pub(crate) fn below(program: &Program, root: ExprId) -> Vec<ExprId> {
    program.walk([root], Depth::Own).map(|(id, _)| id).collect()
}

/// The lights on which something is visible.
pub(crate) fn lights_of(program: &Program, subject: Subject) -> Vec<LightId> {
    match subject {
        Subject::Light(id) | Subject::Drive(id, _) => vec![id],
        Subject::Book => Vec::new(),
        Subject::Curve(_)
        | Subject::Signal(_)
        | Subject::Behavior(_)
        | Subject::Input(_)
        | Subject::Choice(_)
        | Subject::Sound(_)
        | Subject::Event(_) => program
            .lights()
            .filter(|(_, light)| {
                light.drives.iter().any(|drive| reaches(program, drive.value, subject))
            })
            .map(|(id, _)| id)
            .collect(),
    }
}

fn reaches(program: &Program, root: ExprId, subject: Subject) -> bool {
    program.reads([root], Depth::Whole).any(|read| match read {
        Reference::Signal(id) => subject == Subject::Signal(id),
        Reference::Behavior(id) => subject == Subject::Behavior(id),
        Reference::Curve(id) => subject == Subject::Curve(id),
        Reference::Input(id) => {
            let kept = program.event_kept_in(id);
            subject == Subject::Input(id) || kept.is_some_and(|id| subject == Subject::Event(id))
        }
        Reference::Choice(id) => subject == Subject::Choice(id),
        Reference::Table(_) => false,
    })
}

/// A periodic curve: the curve of its first component, how it repeats, and the part that is played.
pub(crate) struct Turning {
    pub curve: CurveId,
    pub turn: caltrin_core::program::Turn,
    pub from: f64,
    pub to: f64,
}

/// The periodic curve that an expression plays, if any.
pub(crate) fn turning(program: &Program, id: ExprId) -> Option<Turning> {
    let Op::Curve(curve, at) = program.expr(id).op else { return None };
    let scalar = |id: ExprId| match program.constant(id) {
        Some(caltrin_core::program::Constant::Scalar(v)) => Some(v),
        _ => None,
    };
    let (from, turned) = match program.expr(at).op {
        Op::Add(from, turned) => (scalar(from)?, turned),
        _ => (0.0, at),
    };
    match program.expr(turned).op {
        Op::Looped(turn, _, _, period) => {
            Some(Turning { curve, turn, from, to: from + scalar(period)? })
        }
        _ => None,
    }
}

/// Whether a curve consists of jumps only, so that its steps are intended.
pub(crate) fn only_jumps(program: &Program, curve: CurveId) -> bool {
    let stops = program.curve(curve).curve.stops();
    stops[1..].iter().all(|stop| stop.easing == caltrin_core::curve::Easing::Jump)
}

/// Formats a number with few digits.
pub(crate) fn short(v: f64) -> String {
    let text = format!("{v:.3}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    text.to_owned()
}
