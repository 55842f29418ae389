//! The kernel as it stands in exported Rust files.

//: scramble
/// Mixes 32 bits; one-to-one.
fn scramble(mut x: u32) -> u32 {
    x ^= x >> 16;
    x = x.wrapping_mul(0x21f0_aaad);
    x ^= x >> 15;
    x = x.wrapping_mul(0x735a_2d97);
    x ^ (x >> 15)
}

//: chance_key
/// The key of one place of chance under a seed, or under another key.
fn chance_key(seed: u32, place: u32) -> u32 {
    scramble((scramble(seed.wrapping_add(0x9e37_79b9)) ^ place).wrapping_add(0x85eb_ca6b))
}

//: lamp_key
/// The key of one lamp of an array; lamp 0 keeps the key.
fn lamp_key(key: u32, index: u32) -> u32 {
    key ^ scramble(index)
}

//: draw
/// The `n`-th draw of a key.
fn draw(key: u32, n: u32) -> u32 {
    scramble(scramble(n.wrapping_add(key)) ^ key)
}

//: to_unit
/// 0..1, 1 excluded, in steps of 2^-24.
fn to_unit(bits: u32) -> f64 {
    f64::from(bits >> 8) * (1.0 / 16_777_216.0)
}

//: round_down
/// The largest whole number not above `x`, for `|x|` below 2^51.
fn round_down(x: f64) -> f64 {
    let r = (x + 6_755_399_441_055_744.0) - 6_755_399_441_055_744.0;
    if r > x { r - 1.0 } else { r }
}

//: cell_index
/// A whole number as a wrapping 32-bit index.
fn cell_index(n: f64) -> u32 {
    n as i64 as u32
}

//: chance_phase
/// Where a chance begins along its own cells, 0..1.
fn chance_phase(key: u32) -> f64 {
    to_unit(scramble(key.wrapping_add(0x9e37_79b9)))
}

//: within
fn within(v: f64, lo: f64, hi: f64) -> f64 {
    let v = if v < lo { lo } else { v };
    if v > hi { hi } else { v }
}

//: between
/// `lo` at 0, `hi` at 1, never outside of the two.
fn between(lo: f64, hi: f64, s: f64) -> f64 {
    let v = lo + (hi - lo) * s;
    if lo <= hi { within(v, lo, hi) } else { within(v, hi, lo) }
}

//: least
fn least(a: f64, b: f64) -> f64 {
    if b < a { b } else { a }
}

//: greatest
fn greatest(a: f64, b: f64) -> f64 {
    if b > a { b } else { a }
}

//: share
fn share(part: f64, whole: f64) -> f64 {
    if whole > 0.0 { part / whole } else { 0.0 }
}

//: held_level
/// A level 0..1 drawn again after random times between `a` and `b` seconds:
/// `rate = 2 / (a + b)`, `jitter = (b - a) / (2 (a + b))`.
fn held_level(t: f64, key: u32, rate: f64, jitter: f64) -> f64 {
    let x = t * rate + chance_phase(key);
    let n = round_down(x + 0.5);
    let i = cell_index(n);
    let h = draw(key, i);
    let drawn = jitter * (2.0 * to_unit(h) - 1.0);
    let fixed = if h >> 31 != 0 { jitter } else { -jitter };
    let edge = if i & 1 != 0 { fixed } else { drawn };
    let cell = if x - n >= edge { i } else { i.wrapping_sub(1) };
    to_unit(draw(key ^ 0x68e3_1da4, cell))
}

//: ease_smooth
fn ease_smooth(u: f64) -> f64 {
    let s = u * u * (3.0 - 2.0 * u);
    if s > 1.0 { 1.0 } else { s }
}

//: ease_bezier
/// CSS `cubic-bezier(x1, y1, x2, y2)` at `u`: Laguerre's method inside a bracket.
fn ease_bezier(u: f64, x1: f64, y1: f64, x2: f64, y2: f64) -> f64 {
    let (cx, cy) = (3.0 * x1, 3.0 * y1);
    let (bx, by) = (3.0 * (x2 - x1) - cx, 3.0 * (y2 - y1) - cy);
    let (ax, ay) = (1.0 - cx - bx, 1.0 - cy - by);
    if u <= 0.0 {
        return 0.0;
    }
    if u >= 1.0 {
        return 1.0;
    }
    let (mut lo, mut hi, mut s) = (0.0, 1.0, u);
    for _ in 0..8 {
        let e = ((ax * s + bx) * s + cx) * s - u;
        if e == 0.0 {
            break;
        }
        if e < 0.0 {
            lo = s;
        } else {
            hi = s;
        }
        let d = (3.0 * ax * s + 2.0 * bx) * s + cx;
        let q: f64 = 4.0 * d * d - 6.0 * e * (6.0 * ax * s + 2.0 * bx);
        let w = s - 3.0 * e / (d + (if q > 0.0 { q } else { 0.0 }).sqrt());
        s = if lo <= w && w <= hi { w } else { 0.5 * (lo + hi) };
    }
    ((ay * s + by) * s + cy) * s
}

//: wrap_time
/// Where `t` stands in a turn that starts again and again.
fn wrap_time(t: f64, period: f64) -> f64 {
    let x = t - round_down(t / period) * period;
    if x < 0.0 {
        x + period
    } else if x >= period {
        x - period
    } else {
        x
    }
}

//: fold_time
/// Where `t` stands in a turn that plays there and back.
fn fold_time(t: f64, period: f64) -> f64 {
    let x = wrap_time(t, 2.0 * period);
    if x > period { 2.0 * period - x } else { x }
}

//: clean_moment
/// Not-a-number is 0; nothing lies beyond 1e9 s.
fn clean_moment(t: f64) -> f64 {
    if t < -1e-30 || t > 1e-30 { t.clamp(-1e9, 1e9) } else { 0.0 }
}

//: to_single
/// No negative zero, no subnormal.
fn to_single(v: f64) -> f32 {
    (if v < 1e-30 && v > -1e-30 { 0.0 } else { v }) as f32
}

//: to_output
/// No negative zero, no subnormal, no infinity.
fn to_output(v: f64) -> f32 {
    let v = if v < 1e-30 && v > -1e-30 { 0.0 } else { v };
    within(v, -f64::from(f32::MAX), f64::from(f32::MAX)) as f32
}
//: end
