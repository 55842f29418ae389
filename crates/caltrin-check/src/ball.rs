//! An offset that can leave its declared ball.

use caltrin_core::ValidatedProgram;
use caltrin_core::bounds::RangeQuery;
use caltrin_core::program::{Field, Subject};

use crate::walk::short;
use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C09",
    title: "displacement exceeds its maximum",
    explanation: "`offset ... to` states how far the light may move, and the expression can go \
        further: a stop of a curve lies outside, or several displacements add up. Shadows would \
        then start outside of the flame or the lamp.",
};

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let program = checked.program();
    let mut ranges = RangeQuery::new(program);
    let mut findings = Vec::new();
    for (id, light) in program.lights() {
        let (Some(ball), Some(offset)) = (light.ball, light.drive(Field::Offset)) else { continue };
        // The offset is given out in the space's unit.
        let reach = ranges.reach(Some(id), offset) * program.space().unit;
        if reach > ball * (1.0 + 1e-6) {
            let message = format!(
                "the offset of `{}` can reach {}m, but its stated maximum is {}m",
                light.name,
                short(reach),
                short(ball)
            );
            let subject = Subject::Drive(id, Field::Offset);
            let help = "make it smaller, or state the larger maximum";
            findings.push(Finding::new(&RULE, checked, subject, message, help));
        }
    }
    findings
}
