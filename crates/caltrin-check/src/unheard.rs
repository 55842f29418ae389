//! An event to which nothing responds.

use caltrin_core::ValidatedProgram;
use caltrin_core::program::{EventId, ExprId, Program, Subject};

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C11",
    title: "nothing responds to an event",
    explanation: "No light, switch, rule, sequence, spark or notice depends on this event. It \
        changes nothing and is not exported, even if a rehearsal fires it. Use it, as in \
        `pulse(at ferry_docks, lasts 200ms)`, or remove it.",
};

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let program = checked.program();
    // One that no text has, or that nothing names, is reported elsewhere.
    let unheard = program.events().filter(|(id, event)| {
        let named = !event.source.is_own() && !event.name.contains('.');
        named && event.writes.len() == 1 && !is_heard(program, *id)
    });
    unheard
        .map(|(id, event)| {
            let message = format!("nothing responds to the event `{}`", event.name);
            let name = &event.name;
            let help = format!(
                "use it, as in `pulse(at {name}, lasts 1s)` or `at {name} send crash`, or remove it"
            );
            Finding::new(&RULE, checked, Subject::Event(id), message, help)
        })
        .collect()
}

/// Whether any output or event depends on it.
fn is_heard(program: &Program, id: EventId) -> bool {
    let event = program.event(id);
    let kept = |root: ExprId| {
        let inputs = program.inputs_in(root);
        inputs.contains(&event.last) || event.values.iter().any(|value| inputs.contains(value))
    };
    let lights = program.lights().flat_map(|(_, light)| light.drives.iter().map(|d| d.value));
    let others = program.events().filter(|(other, _)| *other != id).flat_map(|(_, other)| {
        let writes = other.writes.iter().flat_map(|write| write.looks_at());
        writes.chain(other.due)
    });
    lights.chain(others).any(kept)
}
