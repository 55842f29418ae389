/// The index of the event of the game that has a name; EVENTS if none has it.
pub fn event_named(name: &str) -> u32 {
    for n in 0..EVENTS {
        if same_text(EVENT_NAMES[n], name) {
            return n;
        }
    }
    EVENTS
}

/// Its name.
pub fn event_name(event: u32) -> &str {
    if outside(event, EVENTS) { "" } else { EVENT_NAMES[event] }
}

/// How many there are: one for each instance or lamp; 1 if it has no index.
pub fn event_count(event: u32) -> u32 {
    if outside(event, EVENTS) { 0 } else { EVENT_COUNTS[event] }
}

/// How many numbers it comes with.
pub fn event_values(event: u32) -> u32 {
    if outside(event, EVENTS) { 0 } else { EVENT_VALUES[event] }
}
