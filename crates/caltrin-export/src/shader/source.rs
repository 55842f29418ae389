/// Smallest exponent of 2 in single precision.
const LOWEST_POWER: f64 = -126.0;
/// Largest exponent of 2 in single precision.
const HIGHEST_POWER: f64 = 127.0;
/// Largest number that is converted to fixed point.
const LARGEST_FIXED: f64 = 2147483520.0;
/// Largest factor of fixed_times.
const LARGEST_FACTOR: f64 = 65535.99609375;

/// The upper 32 bits of a product of words, by their halves.
pub fn upper_product(a: u32, b: u32) -> u32 {
    let a_low = a & 65535;
    let a_high = a >> 16;
    let b_low = b & 65535;
    let b_high = b >> 16;
    let carried = a_low.wrapping_mul(b_low) >> 16;
    let first = a_high.wrapping_mul(b_low).wrapping_add(carried);
    let second = a_low.wrapping_mul(b_high).wrapping_add(first & 65535);
    a_high.wrapping_mul(b_high).wrapping_add(first >> 16).wrapping_add(second >> 16)
}

/// The sum of two fixed-point numbers.
pub fn fixed_sum(a: Fixed, b: Fixed) -> Fixed {
    let part = part_of(a).wrapping_add(part_of(b));
    let carried: u32 = if part < part_of(a) { 1 } else { 0 };
    to_fixed(whole_of(a).wrapping_add(whole_of(b)).wrapping_add(carried), part)
}

/// The difference of two fixed-point numbers.
pub fn fixed_difference(a: Fixed, b: Fixed) -> Fixed {
    let borrowed: u32 = if part_of(a) < part_of(b) { 1 } else { 0 };
    let part = part_of(a).wrapping_sub(part_of(b));
    to_fixed(whole_of(a).wrapping_sub(whole_of(b)).wrapping_sub(borrowed), part)
}

/// A fixed-point number with the opposite sign.
pub fn fixed_opposite(a: Fixed) -> Fixed {
    fixed_difference(to_fixed(0, 0), a)
}

/// Whether one fixed-point number is below another.
pub fn fixed_below(a: Fixed, b: Fixed) -> bool {
    let apart = fixed_difference(a, b);
    whole_of(apart) >> 31 != 0
}

/// A fixed-point number limited to `lo..hi`.
pub fn fixed_clamped(a: Fixed, lo: Fixed, hi: Fixed) -> Fixed {
    if fixed_below(a, lo) {
        return lo;
    }
    if fixed_below(hi, a) {
        return hi;
    }
    a
}

/// A fixed-point number times a factor of 16 bits before the point and 48 after it.
pub fn fixed_scaled(a: Fixed, high: u32, low: u32) -> Fixed {
    let whole = whole_of(a);
    let part = part_of(a);
    let first = upper_product(part, low);
    let second = whole.wrapping_mul(low).wrapping_add(first);
    let mut over: u32 = if second < first { 1 } else { 0 };
    let third = part.wrapping_mul(high).wrapping_add(second);
    if third < second {
        over = over.wrapping_add(1);
    }
    let fourth = upper_product(whole, low).wrapping_add(over);
    let mut up: u32 = if fourth < over { 1 } else { 0 };
    let fifth = upper_product(part, high).wrapping_add(fourth);
    if fifth < fourth {
        up = up.wrapping_add(1);
    }
    let sixth = whole.wrapping_mul(high).wrapping_add(fifth);
    if sixth < fifth {
        up = up.wrapping_add(1);
    }
    let top = upper_product(whole, high).wrapping_add(up);
    let shifted = to_fixed(
        (sixth >> 16).wrapping_add(top.wrapping_mul(65536)),
        (third >> 16).wrapping_add(sixth.wrapping_mul(65536)),
    );
    if whole >> 31 == 0 {
        return shifted;
    }
    fixed_difference(
        shifted,
        to_fixed((low >> 16).wrapping_add(high.wrapping_mul(65536)), low.wrapping_mul(65536)),
    )
}

/// Converts a number to fixed point.
pub fn fixed_of(x: f64) -> Fixed {
    let size = min(absolute(x), LARGEST_FIXED);
    let whole = round_down(size);
    let fixed = to_fixed(cell_index(whole), cell_index((size - whole) * 4294967296.0));
    if x < 0.0 {
        return fixed_opposite(fixed);
    }
    fixed
}

/// A fixed-point number times a number below 65536.
pub fn fixed_times(a: Fixed, x: f64) -> Fixed {
    let size = min(absolute(x), LARGEST_FACTOR);
    let whole = round_down(size);
    let rest = (size - whole) * 65536.0;
    let high = cell_index(whole).wrapping_mul(65536).wrapping_add(cell_index(round_down(rest)));
    let scaled = fixed_scaled(a, high, cell_index((rest - round_down(rest)) * 4294967296.0));
    if x < 0.0 {
        return fixed_opposite(scaled);
    }
    scaled
}

/// Converts fixed point to a number.
pub fn number_of(a: Fixed) -> f64 {
    let below = whole_of(a) >> 31 != 0;
    let opposite = fixed_opposite(a);
    let whole = if below { whole_of(opposite) } else { whole_of(a) };
    let part = if below { part_of(opposite) } else { part_of(a) };
    let size = f64::from(whole) + f64::from(part) * (1.0 / 4294967296.0);
    if below { -size } else { size }
}

/// The fraction of a fixed-point number, in steps of 2^-24.
pub fn fraction_of(a: Fixed) -> f64 {
    to_unit(part_of(a))
}

/// A fixed-point number rounded down.
pub fn fixed_whole(a: Fixed) -> Fixed {
    to_fixed(whole_of(a), 0)
}

/// The phase of a key's cells.
pub fn cells_from(key: u32) -> Fixed {
    to_fixed(0, (scramble(key.wrapping_add(OCTAVE)) >> 8).wrapping_mul(256))
}

/// A level from 0 to 1 that is drawn again in each cell `x`, whose edges are moved by at most `jitter`.
pub fn held_level(x: Fixed, key: u32, jitter: f64) -> f64 {
    let middle = to_fixed(0, 2147483648);
    let near = fixed_sum(fixed_sum(x, cells_from(key)), middle);
    let i = whole_of(near);
    let early: u32 = if fraction_of(near) - 0.5 < cell_edge(key, i, jitter) { 1 } else { 0 };
    to_unit(draw(key ^ LEVELS, i.wrapping_sub(early)))
}

/// A level from 0 to 1 that is drawn again in each cell `x`.
pub fn steady_level(x: Fixed, key: u32) -> f64 {
    let at = fixed_sum(x, cells_from(key));
    to_unit(draw(key ^ LEVELS, whole_of(at)))
}

/// As `held_level`, but each level is reached softly over a `part` of its cell.
pub fn soft_level(x: Fixed, key: u32, jitter: f64, part: f64) -> f64 {
    let middle = to_fixed(0, 2147483648);
    let near = fixed_sum(fixed_sum(x, cells_from(key)), middle);
    let nearest = whole_of(near);
    let off = fraction_of(near) - 0.5;
    let since_nearest = off - cell_edge(key, nearest, jitter);
    let i = if since_nearest >= 0.0 { nearest } else { nearest.wrapping_sub(1) };
    let edge = cell_edge(key, i, jitter);
    let passed = if since_nearest >= 0.0 { since_nearest } else { off + 1.0 - edge };
    let soft = part * (1.0 + cell_edge(key, i.wrapping_add(1), jitter) - edge);
    let to = to_unit(draw(key ^ LEVELS, i));
    let from = to_unit(draw(key ^ LEVELS, i.wrapping_sub(1)));
    if passed >= soft {
        return to;
    }
    from + (to - from) * ease_smooth(passed / soft)
}

/// A level from 0 to 1 that passes smoothly through random at whole numbers `x`.
pub fn noise(x: Fixed, key: u32) -> f64 {
    let f = fraction_of(x);
    let i = whole_of(x);
    let eased = f * f * f * (f * (6.0 * f - 15.0) + 10.0);
    let s = if eased > 1.0 { 1.0 } else { eased };
    let a = to_unit(draw(key, i));
    let b = to_unit(draw(key, i.wrapping_add(1)));
    a + (b - a) * s
}

/// A level from 0 to 1 that drifts smoothly, a draw in each cell `x`, and for each octave after the first one of half
/// the depth and twice the rate.
pub fn drift_level(x: Fixed, key: u32, octaves: usize) -> f64 {
    let mut at = fixed_sum(x, cells_from(key));
    let mut k = key;
    let mut sum = noise(at, k);
    let mut total = 1.0;
    for _ in 1..octaves {
        at = fixed_sum(fixed_sum(at, at), to_fixed(0, 1589137900));
        k = k.wrapping_add(OCTAVE);
        sum = 2.0 * sum + noise(at, k);
        total = 2.0 * total + 1.0;
    }
    sum / total
}

/// 1 while a burst lasts, else 0; `x` is turns of the tables, of `whole` seconds each.
pub fn burst_level(
    x: Fixed,
    whole: f64,
    key: u32,
    on_lo: f64,
    on_hi: f64,
    off_lo: f64,
    off_hi: f64,
    on_sums: &[f64],
    off_sums: &[f64],
    pairs: usize,
) -> f64 {
    let at = fixed_sum(x, cells_from(key));
    let drawn = draw(key, whole_of(at)) as usize;
    let first = 2 * (drawn % pairs);
    let begun = burst_edge(first, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums);
    let passed = fraction_of(at) * whole + begun;
    let u = if passed >= whole { passed - whole } else { passed };
    let mut last: usize = 0;
    let mut step = pairs;
    while step > 0 {
        if u >= burst_edge(last + step, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums) {
            last = last + step;
        }
        step = step / 2;
    }
    if last % 2 == 0 { 1.0 } else { 0.0 }
}

/// Position in a turn of `period` seconds that starts again with each whole number `x`.
pub fn wrap_time(x: Fixed, period: f64) -> f64 {
    fraction_of(x) * period
}

/// Position in a turn of `period` seconds that plays there and back with each whole number `x`.
pub fn fold_time(x: Fixed, period: f64) -> f64 {
    let at = fraction_of(x) * (2.0 * period);
    if at > period { 2.0 * period - at } else { at }
}

/// 2 to the power of a number from -126 to 127.
pub fn two_to(x: f64) -> f64 {
    let kept = clamp(x, LOWEST_POWER, HIGHEST_POWER);
    let whole = round_down(kept + 0.5);
    let f = kept - whole;
    let mut p = 1.5252641585726547e-05;
    p = p * f + 0.000154034337467768;
    p = p * f + 0.0013333558259554714;
    p = p * f + 0.009618129193941272;
    p = p * f + 0.05550410866424362;
    p = p * f + 0.24022650695640305;
    p = p * f + 0.6931471805599538;
    p = p * f + 1.0;
    let mut left = absolute(whole) as usize;
    let mut factor = if whole < 0.0 { 0.5 } else { 2.0 };
    while left > 0 {
        if left % 2 == 1 {
            p = p * factor;
        }
        left = left / 2;
        if left > 0 {
            factor = factor * factor;
        }
    }
    p
}

/// A number that is not below 0 to the power of one that is not below 0; what is at most 1 stays at most 1.
pub fn to_power(x: f64, y: f64) -> f64 {
    if y <= 0.0 {
        return 1.0;
    }
    if x < SMALLEST {
        return 0.0;
    }
    let twos = y * twos_in(x);
    if twos < LOWEST_POWER {
        return 0.0;
    }
    let v = two_to(twos);
    if x <= 1.0 && v > 1.0 { 1.0 } else { v }
}

/// Exponential decay: e to the power of `-x`; 1 below 0.
pub fn decay(x: f64) -> f64 {
    if x <= 0.0 {
        return 1.0;
    }
    if x >= 87.0 {
        return 0.0;
    }
    let p = two_to(-x * 1.4426950408889634);
    if p < 1.0 { p } else { 1.0 }
}
