//! A channel that moves from the start of a sequence because its first step is later.

use caltrin_core::ValidatedProgram;
use caltrin_core::program::Subject;

use crate::walk::short;
use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C18",
    title: "channel drifts from the start of a sequence",
    explanation: "The first step of this channel has no step before it, so the channel changes \
        over the whole time from the start of the sequence. Give the move a start of its own, as \
        in `5.5s..6.5s`, write `0s..` if the slow change is intended, or use `jump`.",
};

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for scene in program.scenes() {
        let how_far = format!("{}.at", scene.name);
        let signal = program.signals().find(|(_, signal)| signal.name == how_far);
        let subject = signal.map_or(Subject::Book, |(id, _)| Subject::Signal(id));
        for (channel, at) in &scene.drifts {
            let at = short(at.0);
            let message =
                format!("`{channel}` changes from the start of `{}` until {at}s", scene.name);
            let help = format!("write when the move starts, as in `0s..{at}s {channel} ...`");
            findings.push(Finding::new(&RULE, checked, subject, message, help));
        }
    }
    findings
}
