//! An event that a sound never fires.

use caltrin_core::ValidatedProgram;
use caltrin_core::program::{Constant, EventSource, NEVER, Subject};

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C13",
    title: "event never occurs",
    explanation: "Nothing in the sound is loud, high or low enough for this event: its threshold \
        is never crossed, or no onset, note or beat matches. A follower with a slow attack stays \
        below the level of the sound. `caltrin hear` suggests a threshold; `caltrin sheet` shows \
        the level.",
};

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let program = checked.program();
    let never = program.events().filter(|(_, event)| {
        let due = event.due.and_then(|due| program.constant(due));
        event.source == EventSource::Sound && due == Some(Constant::Scalar(NEVER))
    });
    never
        .map(|(id, event)| {
            let message =
                format!("`{}` never occurs: nothing in the sound triggers it", event.name);
            let help = "lower the threshold, or let the follower rise faster";
            Finding::new(&RULE, checked, Subject::Event(id), message, help)
        })
        .collect()
}
