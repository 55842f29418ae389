/// The index of the input that has a name; INPUTS if none has it.
pub fn input_named(name: &str) -> u32 {
    for n in 0..INPUTS {
        if same_text(INPUT_NAMES[n], name) {
            return n;
        }
    }
    INPUTS
}

/// Its name.
pub fn input_name(input: u32) -> &str {
    if outside(input, INPUTS) { "" } else { INPUT_NAMES[input] }
}

/// What kind it is: `number`, `color`, `point` or `flag`.
pub fn input_kind(input: u32) -> &str {
    if outside(input, INPUTS) { "" } else { INPUT_KINDS[input] }
}

/// Its unit.
pub fn input_unit(input: u32) -> &str {
    if outside(input, INPUTS) { "" } else { INPUT_UNITS[input] }
}

/// How many there are: one for each instance or lamp; 1 if it has no index.
pub fn input_count(input: u32) -> u32 {
    if outside(input, INPUTS) { 0 } else { INPUT_COUNTS[input] }
}

/// The least value that it takes.
pub fn input_least(input: u32) -> f64 {
    if outside(input, INPUTS) { 0.0 } else { INPUT_LEAST[input] }
}

/// The greatest value that it takes.
pub fn input_most(input: u32) -> f64 {
    if outside(input, INPUTS) { 0.0 } else { INPUT_MOST[input] }
}
