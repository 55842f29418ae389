//! Flicker that is faster than the frame rate.

use caltrin_core::ValidatedProgram;
use caltrin_core::bounds::RangeQuery;
use caltrin_core::program::{ExprId, Op, Subject};
use rustc_hash::FxHashSet;

use crate::walk::{Owned, below, short};
use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C08",
    title: "faster than frames",
    explanation: "At 30 frames a second a frame lasts 33 ms. Shorter levels fall between frames: \
        only some of them are seen, and it looks different at 60 frames a second. Make the \
        longest time 40 ms or more, or a wave's period 70 ms or more.",
};

/// One frame at 30 a second, in seconds.
const FRAME: f64 = 1.0 / 30.0;

pub(crate) fn look(checked: &ValidatedProgram, all: &Owned) -> Vec<Finding> {
    let program = checked.program();
    let mut ranges = RangeQuery::new(program);
    let mut findings = Vec::new();
    for &(subject, ref own) in all {
        let light = match subject {
            Subject::Drive(light, _) => Some(light),
            Subject::Signal(_) => None,
            _ => continue,
        };
        // What a moment is snapped to is a grid, not a turn.
        let grids: FxHashSet<ExprId> = own
            .iter()
            .filter_map(|id| match program.expr(*id).op {
                Op::Moment(_, moment) => Some(moment),
                _ => None,
            })
            .flat_map(|moment| below(program, moment))
            .collect();
        for id in own.iter().copied().filter(|id| !grids.contains(id)) {
            let op = &program.expr(id).op;
            let (what, time, least) = match op {
                Op::SampleAndHold(_, longest, _) | Op::SmoothHold(_, longest, ..) => {
                    ("levels that last", ranges.bounds(light, *longest).part(0).hi, FRAME)
                }
                Op::Looped(_, _, _, period) => {
                    ("periods of", ranges.bounds(light, *period).part(0).hi, 2.0 * FRAME)
                }
                _ => continue,
            };
            if time < least {
                let message = format!(
                    "{what} at most {}ms fall between frames at 30 frames a second",
                    short(time * 1000.0)
                );
                let help = format!("make it {}ms or more", short((least * 1050.0).round()));
                findings.push(Finding::new(&RULE, checked, subject, message, help));
                break;
            }
        }
    }
    findings
}
