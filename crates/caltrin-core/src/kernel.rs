//! The exact kernel: the few operations that every export repeats to the bit.
//!
//! Only IEEE double `+ - * / sqrt floor`, comparisons and 32-bit integer mixing are used, always in
//! the order written here. The files under `caltrin-export/src/*/kernel.*` say the same in the
//! other languages; a change here is a change there.

/// Largest moment that a run can reach, in seconds either side of its start (about 31 years).
pub const LAST_MOMENT: f64 = 1e9;
/// Values nearer to zero than this are zero when they leave the kernel.
pub const SMALLEST: f64 = 1e-30;
/// Told apart from the edge draws of the same key: the level draws.
const LEVELS: u32 = 0x68E3_1DA4;
/// Told apart from both: the draw that shifts where a chance begins.
const PHASE: u32 = 0x9E37_79B9;

/// Mixes 32 bits so that each input bit reaches each output bit. One-to-one, and 0 stays 0.
#[inline]
pub fn scramble(mut x: u32) -> u32 {
    x ^= x >> 16;
    x = x.wrapping_mul(0x21f0_aaad);
    x ^= x >> 15;
    x = x.wrapping_mul(0x735a_2d97);
    x ^ (x >> 15)
}

/// The key of one place of chance under a seed (or under the key of the call that holds it).
#[inline]
pub fn chance_key(seed: u32, place: u32) -> u32 {
    scramble((scramble(seed.wrapping_add(0x9E37_79B9)) ^ place).wrapping_add(0x85EB_CA6B))
}

/// The key of one lamp of an array. One-to-one in `index`; lamp 0 keeps the key itself, so a single
/// light that becomes an array keeps its flicker.
#[inline]
pub fn lamp_key(key: u32, index: u32) -> u32 {
    key ^ scramble(index)
}

/// The `n`-th draw of a key: 32 even bits.
#[inline]
pub fn draw(key: u32, n: u32) -> u32 {
    scramble(scramble(n.wrapping_add(key)) ^ key)
}

/// A draw as a number in `0..1` (1 excluded), in steps of 2^-24.
#[inline]
pub fn to_unit(bits: u32) -> f64 {
    f64::from(bits >> 8) * (1.0 / 16_777_216.0)
}

/// The largest whole number not above `x`, for `|x|` below 2^51.
#[inline]
pub fn round_down(x: f64) -> f64 {
    const MAGIC: f64 = 6_755_399_441_055_744.0;
    let r = (x + MAGIC) - MAGIC;
    if r > x { r - 1.0 } else { r }
}

/// A whole number `n` as a wrapping 32-bit index; negative numbers wrap downwards.
#[inline]
pub fn cell_index(n: f64) -> u32 {
    // Below 2^51, so it fits; cutting a whole number to its low bits is wrapping it.
    n as i64 as u32
}

/// The shift of a chance along its own cells, in `0..1`.
#[inline]
pub fn chance_phase(key: u32) -> f64 {
    to_unit(scramble(key.wrapping_add(PHASE)))
}

/// A level in `0..1` that is drawn again after random times, at any moment `t` (seconds).
///
/// With intervals between `a` and `b`: `rate = 2 / (a + b)` in 1/s and
/// `jitter = (b - a) / (2 (a + b))`, from 0 to 0.5.
#[inline]
pub fn held_level(t: f64, key: u32, rate: f64, jitter: f64) -> f64 {
    let x = t * rate + chance_phase(key);
    let n = round_down(x + 0.5);
    let f = x - n;
    let i = cell_index(n);
    let h = draw(key, i);
    let edge = if i & 1 == 0 {
        jitter * (2.0 * to_unit(h) - 1.0)
    } else if h >> 31 != 0 {
        jitter
    } else {
        -jitter
    };
    let cell = if f >= edge { i } else { i.wrapping_sub(1) };
    to_unit(draw(key ^ LEVELS, cell))
}

/// `lo` at 0, `hi` at 1, and never outside of the two.
#[inline]
pub fn between(lo: f64, hi: f64, s: f64) -> f64 {
    let v = lo + (hi - lo) * s;
    if lo <= hi { within(v, lo, hi) } else { within(v, hi, lo) }
}

/// `v` kept inside `lo..hi`.
#[inline]
pub fn within(v: f64, lo: f64, hi: f64) -> f64 {
    let v = if v < lo { lo } else { v };
    if v > hi { hi } else { v }
}

/// The smaller of two numbers.
#[inline]
pub fn least(a: f64, b: f64) -> f64 {
    if b < a { b } else { a }
}

/// The larger of two numbers.
#[inline]
pub fn greatest(a: f64, b: f64) -> f64 {
    if b > a { b } else { a }
}

/// Soft start and end: `u` from 0 to 1 gives `3u^2 - 2u^3`.
#[inline]
pub fn ease_smooth(u: f64) -> f64 {
    let s = u * u * (3.0 - 2.0 * u);
    if s > 1.0 { 1.0 } else { s }
}

/// The CSS `cubic-bezier(x1, y1, x2, y2)` easing at `u` from 0 to 1; `x1` and `x2` lie in 0..1.
///
/// The curve's parameter is found by eight steps of Laguerre's method inside a shrinking bracket.
#[inline]
pub fn ease_bezier(u: f64, x1: f64, y1: f64, x2: f64, y2: f64) -> f64 {
    if u <= 0.0 {
        return 0.0;
    }
    if u >= 1.0 {
        return 1.0;
    }
    let cx = 3.0 * x1;
    let bx = 3.0 * (x2 - x1) - cx;
    let ax = 1.0 - cx - bx;
    let mut lo = 0.0;
    let mut hi = 1.0;
    let mut s = u;
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
        let q = 4.0 * d * d - 6.0 * e * (6.0 * ax * s + 2.0 * bx);
        let w = s - 3.0 * e / (d + (if q > 0.0 { q } else { 0.0 }).sqrt());
        s = if lo <= w && w <= hi { w } else { 0.5 * (lo + hi) };
    }
    let cy = 3.0 * y1;
    let by = 3.0 * (y2 - y1) - cy;
    let ay = 1.0 - cy - by;
    ((ay * s + by) * s + cy) * s
}

/// Where `t` stands in a turn of `period` seconds that starts again and again.
#[inline]
pub fn wrap_time(t: f64, period: f64) -> f64 {
    let x = t - round_down(t / period) * period;
    if x < 0.0 {
        x + period
    } else if x >= period {
        x - period
    } else {
        x
    }
}

/// Where `t` stands in a turn of `period` seconds that plays there and back.
#[inline]
pub fn fold_time(t: f64, period: f64) -> f64 {
    let x = wrap_time(t, 2.0 * period);
    if x > period { 2.0 * period - x } else { x }
}

/// A moment as the kernel takes it: not-a-number is 0, and nothing lies beyond [`LAST_MOMENT`].
#[inline]
pub fn clean_moment(t: f64) -> f64 {
    // Not-a-number is above nothing.
    if t.abs() > SMALLEST { within(t, -LAST_MOMENT, LAST_MOMENT) } else { 0.0 }
}

/// A value as it leaves the kernel: no negative zero, no subnormal, no infinity.
#[inline]
pub fn to_output(v: f64) -> f32 {
    let v = if v < SMALLEST && v > -SMALLEST { 0.0 } else { v };
    within(v, -f64::from(f32::MAX), f64::from(f32::MAX)) as f32
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_published_check_values_of_the_mixing_come_out() {
        assert_eq!(scramble(1), 0x86d2_fa73);
        assert_eq!(chance_key(1, 2), 0xa573_49bb);
        assert_eq!(draw(chance_key(1, 2), 0), 0xc870_3d8c);
    }

    #[test]
    fn rounding_down_equals_the_library_floor() {
        let mut x = 0.3;
        for n in 0..200_000u32 {
            x = (x * 1.000_1 + f64::from(n) * 0.37) % 2e15;
            for v in [x, -x, x.floor(), -x.floor(), x / 1e9, -x / 1e9, 0.0, -0.25] {
                assert_eq!(round_down(v), v.floor(), "{v}");
            }
        }
    }

    #[test]
    fn cell_indices_wrap_like_integers() {
        for n in [0i64, 1, -1, 7, -7, 1 << 31, -(1 << 31), (1 << 32) + 5, -(1 << 32) - 5, 1 << 50] {
            assert_eq!(cell_index(n as f64), n as u32, "{n}");
        }
    }

    /// The plain meaning of a held level: walk the edges from one side and count.
    fn held_by_walking(t: f64, key: u32, rate: f64, jitter: f64) -> f64 {
        let phase = chance_phase(key);
        let edge = |n: i64| {
            let h = draw(key, n as u32);
            let j = if n & 1 == 0 {
                jitter * (2.0 * to_unit(h) - 1.0)
            } else if h >> 31 == 1 {
                jitter
            } else {
                -jitter
            };
            n as f64 + j
        };
        let x = t * rate + phase;
        let mut n = x.floor() as i64 - 3;
        while edge(n + 1) <= x {
            n += 1;
        }
        to_unit(draw(key ^ LEVELS, n as u32))
    }

    #[test]
    fn a_held_level_is_what_walking_its_edges_gives() {
        let (a, b) = (0.06, 0.24);
        let (rate, jitter) = (2.0 / (a + b), (b - a) / (2.0 * (a + b)));
        let mut differing = 0;
        for n in 0..100_000u32 {
            let t = (f64::from(n) - 50_000.0) * 0.0137;
            let key = chance_key(n % 7, 9);
            if held_level(t, key, rate, jitter) != held_by_walking(t, key, rate, jitter) {
                differing += 1;
            }
        }
        // The two differ in rounding only where a moment falls on an edge to the last bit.
        assert!(differing <= 1, "{differing} of 100000 differ");
    }

    #[test]
    fn held_intervals_lie_between_their_bounds() {
        let (a, b) = (0.05, 0.35);
        let (rate, jitter) = (2.0 / (a + b), (b - a) / (2.0 * (a + b)));
        let (mut last_change, mut level, mut seen) = (None, -1.0, 0);
        let (mut shortest, mut longest) = (f64::MAX, 0.0f64);
        let step = 0.000_1;
        for n in 0..2_000_000u32 {
            let t = f64::from(n) * step;
            let v = held_level(t, 77, rate, jitter);
            if v != level {
                if let Some(before) = last_change {
                    let length: f64 = t - before;
                    shortest = shortest.min(length);
                    longest = longest.max(length);
                    seen += 1;
                }
                last_change = Some(t);
                level = v;
            }
        }
        assert!(seen > 800, "{seen}");
        assert!(shortest > a - 2.0 * step && longest < b + 2.0 * step, "{shortest} {longest}");
        assert!(shortest < a + 0.01 && longest > b - 0.01, "{shortest} {longest}");
    }

    fn bezier_by_halving(u: f64, x1: f64, y1: f64, x2: f64, y2: f64) -> f64 {
        let at = |s: f64, a: f64, b: f64| {
            3.0 * (1.0 - s) * (1.0 - s) * s * a + 3.0 * (1.0 - s) * s * s * b + s * s * s
        };
        let (mut lo, mut hi) = (0.0, 1.0);
        for _ in 0..80 {
            let s = 0.5 * (lo + hi);
            if at(s, x1, x2) < u { lo = s } else { hi = s }
        }
        at(0.5 * (lo + hi), y1, y2)
    }

    #[test]
    fn css_easings_match_their_definition_to_1e_6() {
        let named = [
            [0.25, 0.1, 0.25, 1.0],
            [0.42, 0.0, 1.0, 1.0],
            [0.0, 0.0, 0.58, 1.0],
            [0.42, 0.0, 0.58, 1.0],
            [0.9, -1.5, 0.1, 2.5],
            [0.95, 0.0, 0.9, 0.5],
            [0.05, 1.0, 0.1, 1.0],
            [0.5, 0.3, 0.5, 0.7],
        ];
        for [x1, y1, x2, y2] in named {
            for n in 0..=20_000 {
                let u = f64::from(n) / 20_000.0;
                let (fast, plain) =
                    (ease_bezier(u, x1, y1, x2, y2), bezier_by_halving(u, x1, y1, x2, y2));
                assert!((fast - plain).abs() < 1e-6, "{x1} {y1} {x2} {y2} at {u}: {fast} {plain}");
            }
        }
    }

    #[test]
    fn turns_stay_inside_their_period_whatever_the_moment() {
        for n in -100_000..100_000 {
            for period in [0.45, 2.3, 7.0, 1e-4] {
                let t = f64::from(n) * 137.131_7;
                for x in [wrap_time(t, period), fold_time(t, period)] {
                    assert!((0.0..=period).contains(&x), "{x} of {period} at {t}");
                }
            }
        }
        assert_eq!(wrap_time(2.3, 2.3), 0.0);
        assert_eq!(fold_time(3.0, 2.0), 1.0);
    }

    #[test]
    fn what_is_not_finite_stops_at_the_door() {
        assert_eq!(clean_moment(f64::NAN), 0.0);
        assert_eq!(clean_moment(f64::INFINITY), LAST_MOMENT);
        assert_eq!(clean_moment(-0.0).to_bits(), 0);
        assert_eq!(clean_moment(1e-300), 0.0);
        assert_eq!(to_output(-0.0).to_bits(), 0);
        assert_eq!(to_output(1e300), f32::MAX);
        assert_eq!(to_output(-1e-31).to_bits(), 0);
    }

    #[test]
    fn no_two_lamps_of_an_array_share_a_key() {
        let mut keys: Vec<u32> = (0..200_000).map(|i| lamp_key(0xdead_beef, i)).collect();
        keys.sort_unstable();
        keys.dedup();
        assert_eq!(keys.len(), 200_000);
        assert_eq!(lamp_key(5, 0), 5);
    }
}
