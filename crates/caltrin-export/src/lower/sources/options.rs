/// Returns the number of options of the WHAT.
pub fn option_count(index: u32) -> u32 {
    if outside(index, ALL) {
        return 0;
    }
    STARTS[index as usize + 1].wrapping_sub(STARTS[index])
}

/// Returns the name of an option of the WHAT, or an empty string if an index is out of range.
pub fn option_name(index: u32, option: u32) -> &str {
    if outside(option, option_count(index)) {
        return "";
    }
    NAMES[STARTS[index].wrapping_add(option)]
}

/// Returns the index of the option with this name, or the number of options if there is none.
pub fn option_named(index: u32, name: &str) -> u32 {
    let count = option_count(index);
    for n in 0..count {
        if same_text(option_name(index, n), name) {
            return n;
        }
    }
    count
}
