/// Returns the number of values that an event takes.
pub fn event_value_count(index: u32) -> u32 {
    if outside(index, EVENTS) { 0 } else { EVENT_VALUES[index] }
}
