//! A name that nothing uses, and a light that does nothing.

use caltrin_core::ValidatedProgram;
use caltrin_core::program::Subject;

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C10",
    title: "unused",
    explanation: "A signal, curve, behavior, fitting, color or value that nothing uses has no \
        effect and is not exported. It is often a misspelled name or the rest of an experiment: \
        use it or remove it. A light without channels is reported here too.",
};

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let idle = checked.program().lights().filter(|(_, light)| light.drives.is_empty());
    idle.map(|(id, light)| {
        let message = format!("the light `{}` has no channels", light.name);
        let help = "add a channel such as `intensity 400lm`, or remove it";
        Finding::new(&RULE, checked, Subject::Light(id), message, help)
    })
    .collect()
}
