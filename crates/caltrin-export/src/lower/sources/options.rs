/// The index of the choice that has a name; CHOICES if none has it.
pub fn choice_named(name: &str) -> u32 {
    for n in 0..CHOICES {
        if same_text(CHOICE_NAMES[n], name) {
            return n;
        }
    }
    CHOICES
}

/// Its name.
pub fn choice_name(choice: u32) -> &str {
    if outside(choice, CHOICES) { "" } else { CHOICE_NAMES[choice] }
}

/// How many options it has.
pub fn choice_options(choice: u32) -> u32 {
    if outside(choice, CHOICES) { 0 } else { OPTION_STARTS[choice as usize + 1].wrapping_sub(OPTION_STARTS[choice]) }
}

/// The name of an option of a choice.
pub fn option_name(choice: u32, option: u32) -> &str {
    if outside(option, choice_options(choice)) {
        return "";
    }
    OPTION_NAMES[OPTION_STARTS[choice].wrapping_add(option)]
}

/// The index of the option of a choice that has a name; as many as there are if none has it.
pub fn option_named(choice: u32, name: &str) -> u32 {
    let count = choice_options(choice);
    for n in 0..count {
        if same_text(option_name(choice, n), name) {
            return n;
        }
    }
    count
}
