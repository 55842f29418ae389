/// The index of the sequence that has a name; as many as there are if none has it.
pub fn sequence_named(name: &str) -> u32 {
    for n in 0..SEQUENCES {
        if same_text(SEQUENCE_NAMES[n], name) {
            return n;
        }
    }
    SEQUENCES
}

/// Its name.
pub fn sequence_name(sequence: u32) -> &str {
    if outside(sequence, SEQUENCES) { "" } else { SEQUENCE_NAMES[sequence] }
}

/// How many there are: one for each instance or lamp; 1 if it has no index.
pub fn sequence_count(sequence: u32) -> u32 {
    if outside(sequence, SEQUENCES) { 0 } else { SEQUENCE_COUNTS[sequence] }
}
