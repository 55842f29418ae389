/// The square root where there is no standard library, rounded as IEEE 754 rounds it; with the standard library its own
/// is used.
#[allow(dead_code)]
trait Root {
    fn sqrt(self) -> f64;
}

impl Root for f64 {
    fn sqrt(self) -> f64 {
        if self.is_nan() || self <= 0.0 || self == f64::INFINITY {
            return if self < 0.0 { f64::NAN } else { self };
        }
        // It is `part` times two to the power of `power`, which is even.
        let bits = self.to_bits();
        let (mut part, mut power) = (bits & 0x000f_ffff_ffff_ffff, (bits >> 52) as i32);
        if power == 0 {
            let shift = part.leading_zeros() - 11;
            part <<= shift;
            power = 1 - shift as i32;
        } else {
            part |= 0x0010_0000_0000_0000;
        }
        power -= 1075;
        if power % 2 != 0 {
            part *= 2;
            power -= 1;
        }
        // The root of the part with 54 bits, of which the last one rounds.
        let (mut left, mut root, mut bit) = (u128::from(part) << 54, 0u128, 1u128 << 106);
        while bit != 0 {
            if left >= root + bit {
                left -= root + bit;
                root = root / 2 + bit;
            } else {
                root /= 2;
            }
            bit /= 4;
        }
        let rounded = (root as u64 + 1) / 2;
        let biased = ((power - 54) / 2 + 1076) as u64;
        f64::from_bits((biased << 52) + (rounded - 0x0010_0000_0000_0000))
    }
}
