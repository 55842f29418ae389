//! Transitions of modes that flip back and forth.

use caltrin_core::ValidatedProgram;
use caltrin_core::program::{Constant, ExprId, Leads, Op, Program, Subject};

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C12",
    title: "rules flip back and forth",
    explanation: "Two rules lead from one mode to another and back, and both conditions can be \
        true at once. The modes then change every 1/120 s as long as that lasts. Leave a gap \
        between the thresholds, as in `when swell above 50%` and back `when swell below 40%`, or \
        require one of them to last, as in `for 2s`.",
};

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let program = checked.program();
    let mut found = Vec::new();
    for modes in program.modes() {
        let name = |n: usize| modes.parts[n].0.as_str();
        for (n, there) in modes.leads.iter().enumerate() {
            for back in &modes.leads[n + 1..] {
                let Some((from, to)) = circle(*there, *back) else { continue };
                if !meet(program, there.when, back.when) {
                    continue;
                }
                let message =
                    format!("rules flip between `{}` and `{}` every 1/120 s", name(from), name(to));
                let help =
                    "leave a gap between their thresholds, or require one to last with `for`";
                let subject = program
                    .signals()
                    .find(|(_, signal)| signal.name == format!("{}.{}", modes.name, name(from)));
                let subject = subject.map_or(Subject::Book, |(id, _)| Subject::Signal(id));
                found.push(Finding::new(&RULE, checked, subject, message, help));
            }
        }
    }
    found
}

/// The two modes between which two transitions flip back and forth.
fn circle(there: Leads, back: Leads) -> Option<(usize, usize)> {
    let leads = |rule: Leads, from: usize| rule.to != from && rule.from.is_none_or(|f| f == from);
    (leads(there, back.to) && leads(back, there.to)).then_some((back.to, there.to))
}

/// The range of one value for which a condition is true: the value, and the range.
fn said(program: &Program, when: ExprId) -> Option<(ExprId, f64, f64)> {
    let known = |id: ExprId| match program.constant(id) {
        Some(Constant::Scalar(v)) => Some(v),
        _ => None,
    };
    match program.expr(when).op {
        Op::Above(a, b) => match (known(a), known(b)) {
            (None, Some(bound)) => Some((a, bound, f64::INFINITY)),
            (Some(bound), None) => Some((b, f64::NEG_INFINITY, bound)),
            _ => None,
        },
        _ => None,
    }
}

/// Whether both can be true at the same time, as far as can be determined.
fn meet(program: &Program, a: ExprId, b: ExprId) -> bool {
    if a == b {
        return true;
    }
    match (said(program, a), said(program, b)) {
        (Some((x, lo, hi)), Some((y, low, high))) => x == y && lo.max(low) < hi.min(high),
        _ => false,
    }
}
