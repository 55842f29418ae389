//! A period that viewers notice.

use std::collections::{HashMap, HashSet};

use caltrin_core::ValidatedProgram;
use caltrin_core::kind::ChangeRate;
use caltrin_core::period::{Period, Periods};
use caltrin_core::program::{Constant, ExprId, Op, Program, Subject, Turn};
use caltrin_core::quantity::Seconds;

use crate::walk::{Owned, only_jumps, short, turning};
use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C05",
    title: "noticeable period",
    explanation: "Viewers notice a loop that repeats in whole or half seconds, or in less than a \
        second, as a beat. Odd lengths and uneven dips hide the repetition, and so do two curves \
        of different lengths multiplied. Rhythms, waves and curves that only jump are meant to \
        be counted and are not reported.",
};

/// A shorter period is noticed whatever its length.
const SHORT: f64 = 1.0;
/// A longer period is not noticed.
const LONG: f64 = 12.0;

pub(crate) fn look(checked: &ValidatedProgram, all: &Owned) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    let mut periods = Periods::new(program);
    for &(subject, ref own) in all {
        let mut told = HashSet::new();
        // Two turns of different lengths hide each other; chance does not hide a turn.
        let root = root_of(program, subject);
        let scales = root.map(|root| scales(program, root)).unwrap_or_default();
        let hidden = match root.map(|root| periods.period(root)) {
            Some(Period::Every(Seconds(whole))) => !is_noticed(whole),
            Some(Period::Long) => true,
            _ => false,
        };
        for id in own.iter().filter(|_| !hidden) {
            let Some(found) = turning(program, *id) else { continue };
            let once = found.to - found.from;
            let own = if found.turn == Turn::Alternate { 2.0 * once } else { once };
            let Some(period) =
                scales.get(id).copied().unwrap_or(Some(1.0)).map(|scale| own * scale)
            else {
                continue;
            };
            let named = program.curve(found.curve);
            let name = &named.title;
            if !is_noticed(period) || only_jumps(program, found.curve) || !told.insert(name.clone())
            {
                continue;
            }
            let why = if period < SHORT { "such a short period" } else { "such a round period" };
            let message =
                format!("`{name}` repeats every {}s; viewers notice {why}", short(period));
            let better = if period < SHORT { 3.7 } else { period + 0.3 };
            let help = format!("an odd length such as {}s hides it", short(better));
            findings.push(Finding::new(&RULE, checked, subject, message, help));
        }
    }
    findings
}

/// Whether viewers notice a period: it is short, or round and not long.
fn is_noticed(period: f64) -> bool {
    let halves = period * 2.0;
    period < SHORT || ((halves - halves.round()).abs() < 1e-6 && period <= LONG)
}

/// The root expression of a signal, behavior or field.
fn root_of(program: &Program, subject: Subject) -> Option<ExprId> {
    match subject {
        Subject::Signal(id) => Some(program.signal(id).value),
        Subject::Behavior(id) => Some(program.behavior(id).value),
        Subject::Drive(id, field) => {
            let drives = &program.light(id).drives;
            drives.iter().find(|drive| drive.field == field).map(|drive| drive.value)
        }
        _ => None,
    }
}

/// The factor by which each expression under another is stretched in time; `None` if time is
/// changed in another way.
fn scales(program: &Program, root: ExprId) -> HashMap<ExprId, Option<f64>> {
    let (mut open, mut found) = (vec![(root, Some(1.0))], HashMap::new());
    while let Some((id, scale)) = open.pop() {
        if found.contains_key(&id) {
            continue;
        }
        found.insert(id, scale);
        let op = &program.expr(id).op;
        if let Op::Moment(value, moment) = op {
            let inside = scale.zip(stretched(program, *moment)).map(|(a, b)| a * b);
            open.extend([(*value, inside), (*moment, scale)]);
        } else {
            open.extend(op.operands().into_iter().map(|operand| (operand, scale)));
        }
    }
    found
}

/// The factor by which a time is stretched: 1 if it is only offset.
fn stretched(program: &Program, moment: ExprId) -> Option<f64> {
    let still = |id: ExprId| program.expr(id).change_rate < ChangeRate::Flowing;
    match program.expr(moment).op {
        Op::Now => Some(1.0),
        Op::Clamp(inside, ..) => stretched(program, inside),
        Op::Add(a, b) | Op::Subtract(a, b) if still(b) => stretched(program, a),
        Op::Divide(a, by) => match program.constant(by) {
            Some(Constant::Scalar(by)) => Some(stretched(program, a)? * by.abs()),
            _ => None,
        },
        _ => None,
    }
}
