//! A curve that plays once and ends in the middle of its range.

use std::collections::HashSet;

use caltrin_core::ValidatedProgram;
use caltrin_core::program::{Domain, Op};

use crate::walk::{Owned, short};
use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C06",
    title: "still after its last stop",
    explanation: "A curve that is played once holds its last value for the rest of the run. If \
        that is neither the lowest nor the highest value of the curve, the light often looks \
        stuck in the middle of a movement: a stop is missing, or the curve was meant to continue \
        with `loop` or `alternate`.",
};

pub(crate) fn look(checked: &ValidatedProgram, all: &Owned) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for &(subject, ref own) in all {
        let mut told = HashSet::new();
        for &id in own {
            let Op::Curve(curve, at) = program.expr(id).op else { continue };
            let named = program.curve(curve);
            if !matches!(program.expr(at).op, Op::Now) || named.domain != Domain::Time {
                continue;
            }
            let name = &named.title;
            let stops = named.curve.stops();
            let bounds = named.curve.bounds();
            let margin = 0.05 * (bounds.hi - bounds.lo);
            let end = stops[stops.len() - 1];
            let inside = end.value > bounds.lo + margin && end.value < bounds.hi - margin;
            // A color or point is not a level; it may well end anywhere.
            if !inside || *name != named.name || !told.insert(name.clone()) {
                continue;
            }
            let message = format!(
                "`{name}` holds {} after {}s, in the middle of its range",
                short(end.value),
                short(end.at.0)
            );
            let help = "add the missing last stop, or continue with `loop` or `alternate`";
            findings.push(Finding::new(&RULE, checked, subject, message, help));
        }
    }
    findings
}
