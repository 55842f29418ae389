//! A level that is never visible, or a part of the book that is clamped away.

use caltrin_core::ValidatedProgram;
use caltrin_core::bounds::RangeQuery;
use caltrin_core::interval::Interval;
use caltrin_core::program::{ExprId, Field, LightId, Op, Program, Subject};

use crate::walk::{Owned, short};
use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C07",
    title: "never visible",
    explanation: "The guaranteed ranges show that a part of the book has no effect: a lamp whose \
        strength is never above zero, a condition that is always or never true, or a range that \
        its value never enters. The default cause is an omitted unit, or a limit left over from an \
        earlier version.",
};

pub(crate) fn look(checked: &ValidatedProgram, all: &Owned) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for (id, light) in program.lights() {
        if let Some(bounds) = checked.bounds(id, Field::Intensity)
            && bounds.part(0).hi <= 0.0
            && bounds.part(0).lo < bounds.part(0).hi
        {
            let message = format!("`{}` never shines: its strength is never above 0", light.name);
            let subject = Subject::Drive(id, Field::Intensity);
            let help = "check its signs and limits";
            findings.push(Finding::new(&RULE, checked, subject, message, help));
        }
    }
    let mut ranges = RangeQuery::new(program);
    for &(subject, ref own) in all {
        let light = match subject {
            Subject::Drive(light, _) => Some(light),
            Subject::Signal(_) => None,
            // What a behavior does depends on its arguments.
            _ => continue,
        };
        if let Some((message, help)) =
            own.iter().find_map(|id| cut_off(program, &mut ranges, light, *id))
        {
            findings.push(Finding::new(&RULE, checked, subject, message, help));
        }
    }
    findings
}

fn cut_off(
    program: &Program,
    ranges: &mut RangeQuery<'_>,
    light: Option<LightId>,
    id: ExprId,
) -> Option<(String, &'static str)> {
    let mut of = |id: ExprId| ranges.bounds(light, id).part(0);
    let range = |i: Interval| match i.lo == i.hi {
        true => short(i.lo),
        false => format!("{}..{}", short(i.lo), short(i.hi)),
    };
    // What is known when the book is read may be a value that somebody tries out.
    let known = |id: ExprId| program.constant(id).is_some();
    match program.expr(id).op {
        Op::Above(a, b) if !(known(a) && known(b)) => {
            let (a, b) = (of(a), of(b));
            let (never, always) = (a.hi <= b.lo, a.lo > b.hi);
            (never || always).then(|| {
                let how = if never { "never" } else { "always" };
                let message = format!("{} is {how} above {}", range(a), range(b));
                (message, "the condition has no effect; check its limits and units")
            })
        }
        Op::Clamp(v, lo, hi) if !known(v) => {
            let (v, lo, hi) = (of(v), of(lo), of(hi));
            (v.hi <= lo.lo || v.lo >= hi.hi).then(|| {
                let kept = Interval { lo: lo.lo, hi: hi.hi };
                let message = format!("{} is always outside of {}", range(v), range(kept));
                (message, "all of it is clamped; check the limits and units")
            })
        }
        _ => None,
    }
}
