//! An easing that overshoots where its result is clamped to its ends.

use caltrin_core::ValidatedProgram;
use caltrin_core::program::Subject;

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C15",
    title: "clipped easing",
    explanation: "The easing goes below 0 or above 1, but hours, a switch, modes or a step of \
        a sequence measure progress, which is limited to 0..1: the curve is clipped. Use an \
        easing that stays within 0..1, or let the level drive a ramp that overshoots. Overshoot \
        is visible in curves, ramps and `map`.",
};

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let program = checked.program();
    let each = program.clipped().iter().map(|name| {
        let is_own = |known: &str| known == name || known.starts_with(&format!("{name}."));
        let signal = program.signals().find(|(_, signal)| is_own(&signal.name));
        let subject = signal.map_or(Subject::Book, |(id, _)| Subject::Signal(id));
        let message = format!("an easing of `{name}` overshoots and is clipped to 0..1");
        let help = "use one that stays within 0..1, such as `smooth` or `ease-in-out`";
        Finding::new(&RULE, checked, subject, message, help)
    });
    each.collect()
}
