//! What provers do before they read: the game's inputs and acts.

use super::{ChoiceNames, FileNames, InputNames};
use crate::plan::{InputPlan, Plan};
use crate::target::ACTS;

/// The lines of a prover that set all inputs. `each` writes the line of one, which counts `n` through
/// all of its instances or lamps; it is reported the places of its values among all that are read.
pub fn prover_sets(
    plan: &Plan,
    names: &FileNames,
    each: impl Fn(&InputPlan, &InputNames, Vec<String>) -> String,
) -> String {
    let (mut before, mut out) = (0, String::new());
    for (n, input) in plan.given() {
        let names = &names.inputs[n];
        let width = input.default.len();
        let slots = (0..width).map(|part| format!("{width} * n + {}", before + part)).collect();
        out.push_str(&each(input, names, slots));
        out.push('\n');
        before += input.slots();
    }
    out
}

/// The part of a prover in which the game acts; `each` writes the line that makes a choice,
/// `fires` that which fires an event, counted among those that the game fires, told whether each lamp has its own, `sets` that which sets an input,
/// all parts of its first alike.
pub fn prover_acts(
    plan: &Plan,
    names: &FileNames,
    source: &str,
    each: impl Fn(usize, &ChoiceNames) -> String,
    fires: impl Fn(usize, (&str, bool), &mut dyn Iterator<Item = (usize, bool)>) -> String,
    sets: impl Fn(usize, &InputPlan, &InputNames) -> String,
) -> String {
    let mut out = String::new();
    for line in source.lines().filter(|_| plan.has_acts()) {
        if line.contains("CHOICES") {
            for (n, names) in names.choices.iter().enumerate() {
                out.push_str(&each(n, names));
                out.push('\n');
            }
            for (n, (place, event)) in plan.fired().enumerate() {
                // Which of the numbers that are given each is; of on and off, whether that is not 0.
                let each = event.values.iter().zip(&event.offsets).flat_map(|(place, offset)| {
                    let input = &plan.inputs[*place];
                    (0..input.default.len()).map(move |part| (offset + part, input.flag))
                });
                let mut flags = each.collect::<Vec<_>>().into_iter();
                let act = (names.events[place].act.as_str(), event.count.is_some());
                out.push_str(&fires(n, act, &mut flags));
                out.push('\n');
            }
            for (n, (place, input)) in plan.given().enumerate().filter(|_| plan.follows()) {
                out.push_str(&sets(n, input, &names.inputs[place]));
                out.push('\n');
            }
        } else if plan.clock.is_some() || !line.to_lowercase().contains("clock") {
            out.push_str(line);
            out.push('\n');
        }
    }
    out.replace("ACTS", &ACTS.to_string())
}
