//! An intensity that can be negative.

use caltrin_core::ValidatedProgram;
use caltrin_core::program::{Field, Subject};

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C03",
    title: "strength below zero",
    explanation: "A negative strength subtracts light in some engines and is clamped in others. \
        Keep it at zero or above, for example with `max(0lm, ...)` or `clamp(..., to 0%..100%)`.",
};

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for (id, light) in program.lights() {
        if let Some(bounds) = checked.bounds(id, Field::Intensity)
            && bounds.part(0).lo < 0.0
        {
            let kind = light.drive(Field::Intensity).map(|value| program.expr(value).kind);
            let unit = kind.map_or("", |kind| kind.unit());
            let subject = Subject::Drive(id, Field::Intensity);
            let message = format!(
                "the strength of `{}` can fall to {:.4}{unit}",
                light.name,
                bounds.part(0).lo
            );
            let help = format!("keep it at 0 or above with `max(0{unit}, ...)`");
            findings.push(Finding::new(&RULE, checked, subject, message, help));
        }
    }
    findings
}
