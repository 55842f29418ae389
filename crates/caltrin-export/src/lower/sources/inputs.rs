/// Returns the type of an input: `number`, `color`, `point` or `flag`.
pub fn input_kind(index: u32) -> &str {
    if outside(index, INPUTS) { "" } else { INPUT_KINDS[index] }
}

/// Returns the unit of an input; empty for plain numbers, colors and flags.
pub fn input_unit(index: u32) -> &str {
    if outside(index, INPUTS) { "" } else { INPUT_UNITS[index] }
}

/// Returns the smallest value that an input accepts.
pub fn input_min(index: u32) -> f64 {
    if outside(index, INPUTS) { 0.0 } else { INPUT_MIN[index] }
}

/// Returns the largest value that an input accepts.
pub fn input_max(index: u32) -> f64 {
    if outside(index, INPUTS) { 0.0 } else { INPUT_MAX[index] }
}
