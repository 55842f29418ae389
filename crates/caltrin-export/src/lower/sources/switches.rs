/// The index of the switch that has a name; as many as there are if none has it.
pub fn switch_named(name: &str) -> u32 {
    for n in 0..SWITCHES {
        if same_text(SWITCH_NAMES[n], name) {
            return n;
        }
    }
    SWITCHES
}

/// Its name.
pub fn switch_name(switch_index: u32) -> &str {
    if outside(switch_index, SWITCHES) { "" } else { SWITCH_NAMES[switch_index] }
}

/// How many there are: one for each instance or lamp; 1 if it has no index.
pub fn switch_count(switch_index: u32) -> u32 {
    if outside(switch_index, SWITCHES) { 0 } else { SWITCH_COUNTS[switch_index] }
}
