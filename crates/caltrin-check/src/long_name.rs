//! A name that is too long for some compilers.

use caltrin_core::ValidatedProgram;
use caltrin_core::program::Subject;

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C17",
    title: "name too long for exported code",
    explanation: "C# rejects names of more than 512 characters, and exported code adds its own \
        words to the book's names, with a five-letter code for each character that is not ASCII. \
        Choose shorter names, also for the fitting and its instances: a light in a fitting \
        carries their names too.",
};

/// Maximum length of a name in code, with room for suffixes.
const LONGEST: usize = 440;

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for &subject in program.order() {
        let name = match subject {
            Subject::Signal(id) => &program.signal(id).name,
            Subject::Behavior(id) => &program.behavior(id).name,
            Subject::Curve(id) => &program.curve(id).name,
            Subject::Input(id) => &program.input(id).name,
            Subject::Event(id) => &program.event(id).name,
            Subject::Choice(id) => &program.choice(id).name,
            Subject::Light(id) => &program.light(id).name,
            Subject::Sound(id) => &program.sound(id).name,
            Subject::Drive(..) | Subject::Book => continue,
        };
        let letters: usize = name.chars().map(|c| if c.is_ascii() { 1 } else { 5 }).sum();
        if letters > LONGEST {
            let start: String = name.chars().take(24).collect();
            let message = format!(
                "a name that begins with `{start}` takes {letters} letters in exported code"
            );
            let help = format!("shorten it: {LONGEST} letters are safe in every language");
            findings.push(Finding::new(&RULE, checked, subject, message, help));
        }
    }
    findings
}
