//! Lamps of an array that repeat one curve at the same time, without a sign that this is intended.

use caltrin_core::ValidatedProgram;
use caltrin_core::kind::InstanceLevel;
use caltrin_core::program::{ExprId, Op, Program, Size, Start, Subject};
use rustc_hash::FxHashSet;

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C01",
    title: "copies in unison",
    explanation: "A curve has no random part, so all lamps of an array that repeat it do so at \
        the same moment. Viewers notice this at once if it is not intended. Write `scatter` in \
        the call to give each lamp a random phase, or `together` if unison is intended.",
};

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for (id, light) in program.lights() {
        if matches!(light.size, Size::One | Size::Many(1)) {
            continue;
        }
        for drive in &light.drives {
            if let Some(word) = unsaid(program, drive.value) {
                let subject = Subject::Drive(id, drive.field);
                let message = format!("all lamps of `{}` run in unison", light.name);
                let help = format!(
                    "write `scatter` in the call{word} for a random phase per lamp, or \
                         `together` if unison is intended"
                );
                findings.push(Finding::new(&RULE, checked, subject, message, help));
            }
        }
    }
    findings
}

/// The curves that a light plays itself with the default start. Signals are shared on purpose, and
/// values delayed from lamp to lamp are not in unison.
fn unsaid(program: &Program, value: ExprId) -> Option<String> {
    // With the behavior in which each stands, if it is in one.
    let (mut open, mut seen) = (vec![(value, None)], FxHashSet::default());
    let mut found = None;
    while let Some((id, within)) = open.pop() {
        if !seen.insert(id) {
            continue;
        }
        let op = &program.expr(id).op;
        let place =
            within.map_or(String::new(), |of| format!(" in `{}`", program.behavior(of).name));
        match op {
            Op::Curve(curve, at) if turns_unsaid(program, *at) => {
                return Some(format!(" that plays `{}`{place}", program.curve(*curve).title));
            }
            Op::Looped(_, Start::Unsaid, ..) => found = Some(place),
            Op::Call(behavior, ..) => {
                open.push((program.behavior(*behavior).value, Some(*behavior)));
            }
            Op::Moment(_, moment) if program.expr(*moment).scope > InstanceLevel::Book => continue,
            _ => {}
        }
        open.extend(op.operands().into_iter().map(|id| (id, within)));
    }
    found
}

fn turns_unsaid(program: &Program, at: ExprId) -> bool {
    match program.expr(at).op {
        Op::Looped(_, Start::Unsaid, ..) => true,
        Op::Add(_, turned) => turns_unsaid(program, turned),
        _ => false,
    }
}
