/// Adds a value to a checksum.
fn checksum(sum: u32, value: f64) -> u32 {
    scramble(sum ^ high_bits(value) ^ low_bits(value))
}
