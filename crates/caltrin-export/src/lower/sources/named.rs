/// Returns the index of the WHAT with this name, or CONSTANT if there is none.
pub fn one_named(name: &str) -> u32 {
    for n in 0..ALL {
        if same_text(NAMES[n], name) {
            return n;
        }
    }
    ALL
}

/// Returns the name of the WHAT, or an empty string if the index is out of range.
pub fn one_name(index: u32) -> &str {
    if outside(index, ALL) { "" } else { NAMES[index] }
}
