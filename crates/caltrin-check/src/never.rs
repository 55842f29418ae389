//! An event that a sound never brings about.

use caltrin_core::Checked;
use caltrin_core::program::{Constant, NEVER, Source, Subject};

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C13",
    title: "it never happens",
    explanation: "Nothing in the sound is loud, high or low enough for this event: its threshold is never passed, or none \
        of its onsets, notes or beats is meant. What a follower makes of a sound is lower than the sound itself where \
        its attack is slow. `caltrin hear` suggests a threshold; `caltrin sheet` shows the level.",
};

pub(crate) fn look(checked: &Checked) -> Vec<Finding> {
    let program = checked.program();
    let never = program.events().filter(|(_, event)| {
        let due = event.due.and_then(|due| program.constant(due));
        event.source == Source::Sound && due == Some(Constant::Scalar(NEVER))
    });
    never
        .map(|(id, event)| {
            let message =
                format!("`{}` never happens: nothing in the sound brings it about", event.name);
            let help = "lower the threshold, or let the follower rise faster";
            Finding::new(&RULE, checked, Subject::Event(id), message, help)
        })
        .collect()
}
