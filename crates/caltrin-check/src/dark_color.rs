//! A color so dark that the lamp emits much less than its written intensity.

use caltrin_core::ValidatedProgram;
use caltrin_core::kernel::light_of;
use caltrin_core::program::{Constant, ExprId, LightKind, Op, Program, Subject};

use crate::walk::below;
use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C02",
    title: "dark lamp color",
    explanation: "A lamp's color is scaled until its brightest component is 1, and the \
        difference goes into the strength, so the lamp gives less light than its intensity \
        states. A color whose brightest component is below a quarter of full is more often a \
        surface color than a light color: choose the hue at full brightness and set the strength \
        with the intensity. A random color between a dark and a bright one makes the strength \
        random too.",
};

/// A color is dark if its largest component, in linear light, is below this.
const DARK: f64 = 0.25;

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for (id, light) in program.lights() {
        if let Some([darkest, full]) = light.stated_color.and_then(|color| drawn(program, color))
            && light.kind != LightKind::Ambient
            && darkest < DARK * full
        {
            let subject = Subject::Drive(id, caltrin_core::program::Field::Color);
            let message = format!(
                "the color of `{}` varies between {:.0}% and {:.0}% of full, and so does its strength",
                light.name,
                darkest * 100.0,
                full * 100.0
            );
            let help =
                "choose both ends at full brightness, and vary the intensity if that is intended";
            findings.push(Finding::new(&RULE, checked, subject, message, help));
        }
        let stated = light.stated_color.and_then(|color| program.constant(color));
        if let Some(Constant::Vector([r, g, b])) = stated
            && light.kind != LightKind::Ambient
        {
            let brightest = r.max(g).max(b);
            if brightest < DARK {
                let subject = Subject::Drive(id, caltrin_core::program::Field::Color);
                let message = format!(
                    "`{}` gives only {:.0}% of its strength in this dark color",
                    light.name,
                    brightest * 100.0
                );
                let help =
                    "choose the hue at full brightness, and lower the intensity instead".to_owned();
                findings.push(Finding::new(&RULE, checked, subject, message, help));
            }
        }
    }
    findings
}

/// Minimum and maximum of the largest component of both ends of a random color between two
/// constants.
fn drawn(program: &Program, color: ExprId) -> Option<[f64; 2]> {
    below(program, color).into_iter().find_map(|id| {
        let Op::FromCones(l, m, s) = program.expr(id).op else { return None };
        let mut ends = [[0.0; 3]; 2];
        let mut level = None;
        for (cone, root) in [l, m, s].into_iter().enumerate() {
            let Op::Lerp(from, to, at) = program.expr(root).op else { return None };
            level = Some(at);
            for (end, id) in [from, to].into_iter().enumerate() {
                let Some(Constant::Scalar(root)) = program.constant(id) else { return None };
                ends[end][cone] = root;
            }
        }
        let chance = |id: &ExprId| {
            matches!(
                program.expr(*id).op,
                Op::SampleAndHold(..) | Op::SmoothHold(..) | Op::Drift(..) | Op::Phase(_)
            )
        };
        below(program, level?).iter().any(chance).then(|| {
            let bright = ends.map(|end| (0..3).map(|part| light_of(part, end)).fold(0.0, f64::max));
            [bright[0].min(bright[1]), bright[0].max(bright[1])]
        })
    })
}
