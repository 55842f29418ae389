//! What events do.

use crate::plan::{EventPlan, Plan};

/// What `advance` gives where something happens by itself, in words.
pub const ALL_DONE: &str = " Returns false if events are left for the next call.";

/// What a run keeps of what happens by itself, in words.
pub const DUE: &str = "s, the earliest moment at which something can occur by itself; recomputed after each action of the game";

/// What `settle` does, in words.
pub const SETTLES: &str =
    "Processes events that are due at this moment, after an action of the game and at moment 0.";

/// What an event is, in words, with the units of what the game gives it.
pub fn describe_event(plan: &Plan, event: &EventPlan) -> String {
    if event.by_clock {
        return "State that depends on the hour alone, after the clock was set".to_owned();
    }
    if event.due.is_some() {
        return "Event, occurs by itself".to_owned();
    }
    let each = event.values.iter().map(|place| {
        let input = &plan.inputs[*place];
        let name = input.name.rsplit('.').next().unwrap_or_default();
        let bounds = match input.suffixes {
            [] if !input.flag => format!(", {}..{}", input.bounds.lo, input.bounds.hi),
            _ => String::new(),
        };
        format!("{name} ({}{bounds})", input.unit)
    });
    match event.values.len() {
        0 => "Event, fired by the game".to_owned(),
        _ => format!("Event, fired by the game with {}", each.collect::<Vec<_>>().join(", ")),
    }
}

/// The numbers that the game gives an event, in their order: the input's place and part among
/// [`crate::plan::Plan::inputs`], and what the argument is called in the book.
pub fn given(plan: &Plan, event: &EventPlan) -> Vec<(usize, usize, String)> {
    let each = event.values.iter().flat_map(|place| {
        let input = &plan.inputs[*place];
        let own = input.name.rsplit('.').next().unwrap_or_default();
        (0..input.default.len()).map(move |part| {
            let suffix = input.suffixes.get(part).map_or(String::new(), |s| format!("_{s}"));
            (*place, part, format!("{own}{suffix}"))
        })
    });
    each.collect()
}
