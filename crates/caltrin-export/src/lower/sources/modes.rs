/// The index of the modes that has a name; as many as there are if none has it.
pub fn modes_named(name: &str) -> u32 {
    for n in 0..ALL_MODES {
        if same_text(MODES_NAMES[n], name) {
            return n;
        }
    }
    ALL_MODES
}

/// Its name.
pub fn modes_name(modes: u32) -> &str {
    if outside(modes, ALL_MODES) { "" } else { MODES_NAMES[modes] }
}

/// How many there are: one for each instance or lamp; 1 if it has no index.
pub fn modes_count(modes: u32) -> u32 {
    if outside(modes, ALL_MODES) { 0 } else { MODES_COUNTS[modes] }
}

/// How many modes there are to be in.
pub fn modes_options(modes: u32) -> u32 {
    if outside(modes, ALL_MODES) { 0 } else { MODE_STARTS[modes as usize + 1].wrapping_sub(MODE_STARTS[modes]) }
}

/// The name of one of them.
pub fn mode_name(modes: u32, mode: u32) -> &str {
    if outside(mode, modes_options(modes)) {
        return "";
    }
    MODE_NAMES[MODE_STARTS[modes].wrapping_add(mode)]
}
