//! A curve that is played by an event that repeats before the curve ends.

use std::collections::HashSet;

use caltrin_core::program::{CurveId, EventId, EventSource, Op, Program};
use caltrin_core::quantity::Seconds;
use caltrin_core::{Run, ValidatedProgram};

use crate::walk::{Owned, lights_of, short};
use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C16",
    title: "curve restarts before its end",
    explanation: "The event that plays the curve occurs again before the curve has ended, and \
        the curve restarts from wherever it is: viewers see a jump, and never the end. Make the \
        event wait longer than the curve lasts, or write `again finish` or `again add` in \
        `play`.",
};

/// Duration of the simulation of the event, in seconds.
const WATCHED: f64 = 60.0;

pub(crate) fn look(checked: &ValidatedProgram, all: &Owned) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    let mut told = HashSet::new();
    for (subject, own) in all {
        for (curve, event) in own.iter().filter_map(|id| played(program, *id)) {
            let described = program.event(event);
            if described.source != EventSource::Every || lights_of(program, *subject).is_empty() {
                continue;
            }
            // What comes after the last change of the curve is not missed.
            let stops = program.curve(curve).curve.stops();
            let last = stops[stops.len() - 1].value;
            let end = stops.iter().rposition(|stop| stop.value != last);
            let Some(end) = end.map(|n| stops[n + 1].at.0) else { continue };
            let Some(gap) = shortest_gap(checked, event).filter(|gap| *gap < end - 1e-6) else {
                continue;
            };
            let name = &program.curve(curve).title;
            if !told.insert((name.clone(), event)) {
                continue;
            }
            let message = format!(
                "`{}` occurs again after {}s, but its curve `{name}` takes {}s",
                described.name,
                short(gap),
                short(end)
            );
            let help = format!(
                "make it wait {}s or longer, or write `again finish` in `play`",
                short(end)
            );
            findings.push(Finding::new(&RULE, checked, *subject, message, help));
        }
    }
    findings
}

/// The curve that an expression plays from an event that restarts it.
fn played(program: &Program, id: caltrin_core::program::ExprId) -> Option<(CurveId, EventId)> {
    let Op::Curve(curve, at) = program.expr(id).op else { return None };
    let Op::Max(passed, _) = program.expr(at).op else { return None };
    let Op::Subtract(now, start) = program.expr(passed).op else { return None };
    let Op::Input(kept) = program.expr(start).op else { return None };
    let is_now = matches!(program.expr(now).op, Op::Now);
    Some((curve, program.event_kept_in(kept).filter(|_| is_now)?))
}

/// The shortest time between two occurrences of an event in the first minute, in seconds.
fn shortest_gap(checked: &ValidatedProgram, event: EventId) -> Option<f64> {
    let mut run = Run::new(checked);
    run.listen();
    run.advance(Seconds(WATCHED));
    let heard = run.heard();
    let at: Vec<f64> = heard
        .iter()
        .filter(|heard| heard.event == event && heard.index == 0)
        .map(|heard| heard.at.0)
        .collect();
    at.windows(2).map(|pair| pair[1] - pair[0]).reduce(f64::min)
}
