/// Returns the number of instances or lamps of the WHAT; 1 if it has no index.
pub fn one_count(index: u32) -> u32 {
    if outside(index, ALL) { 0 } else { COUNTS[index] }
}
