//! A jump between the end and the start of a loop.

use std::collections::HashSet;

use caltrin_core::program::{Constant, Field, LightId, Op, Subject, Turn};
use caltrin_core::pure::Pure;
use caltrin_core::quantity::Hours;
use caltrin_core::{Run, ValidatedProgram};

use crate::walk::{Owned, lights_of, only_jumps, short, turning};
use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C04",
    title: "jump at the seam",
    explanation: "A loop whose last value differs from its first jumps on every repetition, and \
        viewers notice it each time. Give the last stop the value of the first, play the curve \
        forward and backward with `alternate`, or reach the end with `jump` if the step is \
        intended.",
};

/// A jump smaller than this fraction of the curve's range is not visible.
const UNSEEN: f64 = 0.02;

pub(crate) fn look(checked: &ValidatedProgram, all: &Owned) -> Vec<Finding> {
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
                "{what} jumps{values} where it repeats, every {}s",
                short(found.to - found.from)
            );
            let help = "end at the first value, or play it forward and backward with `alternate`";
            findings.push(
                Finding::new(&RULE, checked, subject, message, help).every(found.to - found.from),
            );
        }
    }
    findings.extend(hours(checked));
    findings
}

/// Lights that show the jump of a span's progress back to 0 while the span is closed.
fn hours(checked: &ValidatedProgram) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for (own, signal) in program.signals().filter(|(_, signal)| signal.name.ends_with(".through")) {
        let Op::Pure(Pure::Through, hours) = &program.expr(signal.value).op else { continue };
        let hour = |n: usize| match program.constant(*hours.get(n)?) {
            Some(Constant::Scalar(hour)) => Some(hour),
            _ => None,
        };
        let Some((start, end)) = hour(1).zip(hour(2)) else { continue };
        let open = (end - start).rem_euclid(24.0);
        let back = (end + 0.5 * (24.0 - open)).rem_euclid(24.0);
        let seen = lights_of(program, Subject::Signal(own));
        for (id, light) in program.lights() {
            if !seen.contains(&id) {
                continue;
            }
            let Some(jump) = jumps(checked, id, back) else { continue };
            let subject = Subject::Drive(id, light.drives[jump].field);
            let hour = Hours(back).to_clock();
            let message =
                format!("`{}` goes back to 0 at {hour}, and this jumps with it", signal.name);
            let name = signal.name.trim_end_matches(".through");
            let help = format!("multiply by `{name}`, or end at the first value");
            findings.push(Finding::new(&RULE, checked, subject, message, help));
        }
    }
    findings
}

/// The field of a light's first lamp that jumps at an hour, if any.
fn jumps(checked: &ValidatedProgram, id: LightId, hour: f64) -> Option<usize> {
    const BESIDE: f64 = 1e-5;
    let mut run = Run::new(checked);
    let mut read = |hour: f64| {
        run.set_clock(Hours(hour.rem_euclid(24.0)));
        let mut lamp = vec![0.0; run.width(id)];
        run.read(id, 0, &mut lamp);
        lamp
    };
    let (before, after) = (read(hour - BESIDE), read(hour + BESIDE));
    let light = checked.program().light(id);
    // What a lamp does while it is dark is not seen.
    if let Some(strength) = light.places(Field::Intensity)
        && before[strength.start] == 0.0
        && after[strength.start] == 0.0
    {
        return None;
    }
    let mut column = 0;
    for (n, drive) in light.drives.iter().enumerate() {
        for part in column..column + drive.width() {
            let (a, b) = (f64::from(before[part]), f64::from(after[part]));
            if (a - b).abs() > UNSEEN * a.abs().max(b.abs()) && (a - b).abs() > 1e-6 {
                return Some(n);
            }
        }
        column += drive.width();
    }
    None
}
