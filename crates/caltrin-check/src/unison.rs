//! Lamps of an array that repeat one curve at the same time, and nobody said that this is meant.

use std::collections::HashSet;

use caltrin_core::Checked;
use caltrin_core::program::{ExprId, Op, Program, Size, Start, Subject};

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C01",
    title: "copies in unison",
    explanation: "A curve holds no chance, so every lamp of an array that repeats it does so at the \
        same moment. People notice this at once when it is not meant. Write `scatter` in the call \
        to give each lamp a start of its own, or `together` to say that unison is what you want.",
};

pub(crate) fn look(checked: &Checked) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for (id, light) in program.lights() {
        if matches!(light.size, Size::One | Size::Many(1)) {
            continue;
        }
        for drive in &light.drives {
            if let Some(word) = unsaid(program, drive.value) {
                findings.push(Finding {
                    rule: &RULE,
                    subject: Subject::Drive(id, drive.field),
                    message: format!("all lamps of `{}` repeat this curve in unison", light.name),
                    help: format!(
                        "write `{word}, scatter)` for a start of each lamp's own, or `{word}, \
                         together)` if unison is meant"
                    ),
                });
            }
        }
    }
    findings
}

/// The call of a turning curve whose start was left open, as far as it is the light's own: a
/// signal is one thing that all share, and so is meant.
fn unsaid(program: &Program, value: ExprId) -> Option<String> {
    let (mut open, mut seen) = (vec![value], HashSet::new());
    while let Some(id) = open.pop() {
        if !seen.insert(id) {
            continue;
        }
        let op = &program.expr(id).op;
        if let Op::Curve(curve, at) = op
            && let Op::Turned(turn, Start::Unsaid, ..) = program.expr(*at).op
        {
            let name = &program.curve(*curve).name;
            return Some(match turn {
                caltrin_core::program::Turn::Loop => format!("loop({name}"),
                caltrin_core::program::Turn::Alternate => format!("alternate({name}"),
            });
        }
        if let Op::Call(behaviour, ..) = op {
            open.push(program.behaviour(*behaviour).value);
        }
        open.extend(op.operands());
    }
    None
}
