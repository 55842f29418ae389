//! A lamp colour so dark that the lamp gives much less than the strength that is written.

use caltrin_core::Checked;
use caltrin_core::program::{Constant, LightKind, Subject};

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C02",
    title: "dark lamp color",
    explanation: "A lamp's color is scaled until its brightest part is full, and what it lacked goes \
        into the strength, so the lamp gives less than the number that is written for it. A color \
        whose brightest part is below a quarter of full light is more often a paint than a lamp: \
        choose the hue at full brightness and say how strong the lamp is with its intensity.",
};

/// Brightest part, in linear light, below which a colour is called dark.
const DARK: f64 = 0.25;

pub(crate) fn look(checked: &Checked) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for (id, light) in program.lights() {
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
