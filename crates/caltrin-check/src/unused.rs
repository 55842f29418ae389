//! A name that nothing uses, and a light that does nothing.

use caltrin_core::Checked;
use caltrin_core::program::Subject;

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C10",
    title: "nothing uses it",
    explanation: "A signal, curve, behaviour, fitting, color or value that nothing uses changes nothing \
        and is not handed over. It is often the old spelling of something, or what is left of an \
        experiment: use it, or take it out. A light that drives no channel is told here too.",
};

pub(crate) fn look(checked: &Checked) -> Vec<Finding> {
    let idle = checked.program().lights().filter(|(_, light)| light.drives.is_empty());
    idle.map(|(id, light)| {
        let message = format!("the light `{}` drives nothing", light.name);
        let help = "give it a channel such as `intensity 400lm`, or take it out";
        Finding::new(&RULE, checked, Subject::Light(id), message, help)
    })
    .collect()
}
