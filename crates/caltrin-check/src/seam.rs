//! A jump where a loop meets its start.

use std::collections::HashSet;

use caltrin_core::Checked;
use caltrin_core::program::Turn;

use crate::walk::{Owned, only_jumps, short, turning};
use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C04",
    title: "jump at the seam",
    explanation: "A loop whose last value differs from its first jumps at every turn, and viewers \
        notice it each time. Let the last stop have the first one's value, play it there and back \
        with `alternate`, or reach the end with `jump` if the step is the point.",
};

/// A step smaller than this share of the curve's range goes unnoticed.
const UNSEEN: f64 = 0.02;

pub(crate) fn look(checked: &Checked, all: &Owned) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for &(subject, ref own) in all {
        let mut told = HashSet::new();
        for found in own.iter().filter_map(|id| turning(program, *id)) {
            let curve = &program.curve(found.curve).curve;
            let (first, last) = (curve.at(found.from), curve.at(found.to));
            let bounds = curve.bounds();
            let seam = (last - first).abs() > UNSEEN * (bounds.hi - bounds.lo);
            if found.turn != Turn::Loop || !seam || only_jumps(program, found.curve) {
                continue;
            }
            let named = program.curve(found.curve);
            let name = &named.title;
            if !told.insert(name.clone()) {
                continue;
            }
            let whole = found.from == 0.0 && found.to == curve.length().0;
            let what = if whole { format!("`{name}`") } else { format!("this part of `{name}`") };
            let values = if *name == named.name {
                format!(" from {} to {}", short(last), short(first))
            } else {
                String::new()
            };
            let message = format!(
                "{what} jumps{values} where it starts again, every {}s",
                short(found.to - found.from)
            );
            let help = "end where it starts, or play it there and back with `alternate`";
            findings.push(
                Finding::new(&RULE, checked, subject, message, help).every(found.to - found.from),
            );
        }
    }
    findings
}
