/// A count of a run as a whole number of at most so many, also of a run that was never started.
fn counted(count: f64, most: u32) -> u32 {
    if count > 0.0 && count < f64::from(most) {
        return cell_index(round_down(count));
    }
    if count > 0.0 { most } else { 0 }
}
