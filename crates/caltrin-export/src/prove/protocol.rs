//! What a prover reads and writes: samples as doubles, and values as singles, little-endian.

use caltrin_core::ValidatedProgram;

use super::cases::{Act, Asked, Verb, game_events};
use crate::plan::Plan;

/// The samples as a prover reads them: moment, seed, whether the run goes on, the inputs and acts that are exported, and
/// what events come with.
pub(super) fn samples(checked: &ValidatedProgram, plan: &Plan, asked: &[Asked]) -> Vec<u8> {
    let mut bytes = Vec::with_capacity(asked.len() * 24);
    for asked in asked {
        let goes_on = f64::from(u8::from(asked.goes_on));
        let head = [asked.moment, f64::from(asked.seed.0), goes_on];
        bytes.extend(head.into_iter().flat_map(f64::to_le_bytes));
        let mut given = asked.inputs.iter();
        for (id, input) in checked.program().given() {
            let exported = plan.inputs.iter().any(|planned| planned.id == id);
            let slots = input.kind.width() * input.count() as usize;
            let own = given.by_ref().take(slots).flat_map(|v| v.to_le_bytes());
            bytes.extend(own.filter(|_| exported));
        }
        for Act { verb, at, to } in asked.acts.iter().filter(|_| plan.has_acts()) {
            // Choices are counted among those that are exported.
            let which = *to as usize / 1000;
            let planned = plan.choices.iter().position(|choice| choice.id.index() == which);
            // So are events.
            let fired = game_events(checked).nth(which).and_then(|(_, event)| {
                plan.fired().position(|(_, planned)| planned.name == event.name)
            });
            let (verb, to) = match (*verb, planned) {
                (Verb::Fire, _) => match fired {
                    Some(n) => (Verb::Fire, (n * 1000) as f64 + *to % 1000.0),
                    None => (Verb::Leave, 0.0),
                },
                (Verb::Choose, Some(n)) => (Verb::Choose, (n * 1000) as f64 + *to % 1000.0),
                (Verb::Choose, None) => (Verb::Leave, 0.0),
                (Verb::Input(n), _) => {
                    let set =
                        checked.program().given().nth(n as usize).and_then(|(id, _)| {
                            plan.given().position(|(_, planned)| planned.id == id)
                        });
                    match set.filter(|_| plan.follows()) {
                        Some(n) => (Verb::Input(n as u32), *to),
                        None => (Verb::Leave, 0.0),
                    }
                }
                (verb, _) => (verb, *to),
            };
            let all = [f64::from(verb.number()), *at, to];
            bytes.extend(all.iter().flat_map(|v| v.to_le_bytes()));
        }
        let room = asked.given.iter().copied().chain(std::iter::repeat(0.0));
        bytes.extend(room.take(plan.most_given()).flat_map(f64::to_le_bytes));
    }
    bytes
}

/// The bits of the values that a prover wrote.
pub(super) fn found(bytes: &[u8]) -> Vec<u32> {
    bytes.chunks_exact(4).map(|b| u32::from_le_bytes([b[0], b[1], b[2], b[3]])).collect()
}
