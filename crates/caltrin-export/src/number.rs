//! Numbers as text: the shortest form that parses to the same value, accepted by every target.

/// A double: at most 17 digits, always with a point or an exponent.
pub fn double(v: f64) -> String {
    let (plain, short) = (format!("{v:?}"), format!("{v:e}"));
    if v != 0.0 && short.len() + 2 < plain.len() { short } else { plain }
}

/// A single, without a suffix. It parses to the same value directly and via a double.
pub fn single(v: f32) -> String {
    let short = format!("{v:?}");
    let through_double = short.parse::<f64>().is_ok_and(|wide| wide as f32 == v);
    if through_double { short } else { format!("{:?}", f64::from(v)) }
}

/// A 32-bit word without a suffix: counts are decimal, large keys hexadecimal.
pub fn word(v: u32) -> String {
    if v < 0x1_0000 { v.to_string() } else { format!("0x{v:08x}") }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn printed_numbers_read_back_the_same() {
        let mut x = 1u64;
        for _ in 0..200_000 {
            x = x.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            let wide = f64::from_bits(x);
            if wide.is_finite() {
                let text = double(wide);
                assert_eq!(text.parse::<f64>().unwrap().to_bits(), wide.to_bits());
                assert!(text.contains(['.', 'e']), "{text}");
                assert!(text.chars().filter(char::is_ascii_digit).count() <= 21, "{text}");
            }
            let narrow = f32::from_bits((x >> 32) as u32);
            if narrow.is_finite() {
                let text = single(narrow);
                assert_eq!(text.parse::<f32>().unwrap().to_bits(), narrow.to_bits());
                assert_eq!((text.parse::<f64>().unwrap() as f32).to_bits(), narrow.to_bits());
            }
        }
    }
}
