//! An easing that overshoots where nothing can go beyond its two ends.

use caltrin_core::Checked;
use caltrin_core::program::Subject;

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C15",
    title: "an easing is clipped",
    explanation: "The easing goes below 0 or above 1 on its way, but a window, a switch, modes or a step of a sequence say how far on something is, \
        which is never less than off nor more than on: the curve is cut flat there. An easing that overshoots shows in curves, \
        ramps and `map`; here choose one that stays within, or let the level drive a ramp that overshoots.",
};

pub(crate) fn look(checked: &Checked) -> Vec<Finding> {
    let program = checked.program();
    let each = program.clipped().iter().map(|name| {
        let is_own = |known: &str| known == name || known.starts_with(&format!("{name}."));
        let signal = program.signals().find(|(_, signal)| is_own(&signal.name));
        let subject = signal.map_or(Subject::Book, |(id, _)| Subject::Signal(id));
        let message = format!("an easing of `{name}` overshoots and is kept within 0 and 1");
        let help = "take one that stays within, such as `smooth` or `ease-in-out`";
        Finding::new(&RULE, checked, subject, message, help)
    });
    each.collect()
}
