//! The exact kernel: the few operations that every export repeats bit for bit.
//!
//! Only IEEE double `+ - * / sqrt floor`, comparisons and 32-bit integer mixing are used, always in
//! the order written. What exports contain is written once, in `kernel/exported.rs`; here is the rest: the two
//! operations that each language has its own way for, and views of the same functions for arrays and lanes.

// It keeps to what every language can say.
#[allow(
    clippy::approx_constant,
    clippy::assign_op_pattern,
    clippy::excessive_precision,
    clippy::manual_div_ceil,
    clippy::manual_is_multiple_of,
    clippy::manual_range_contains,
    clippy::precedence,
    clippy::too_many_arguments
)]
mod exported;

// Functions of the same name below, with slices in place of a table and its last index, hide these.
pub use exported::*;

/// The text of the functions that exports contain too, in a small part of Rust.
pub const SOURCE: &str = include_str!("exported.rs");

/// How many bursts, and pauses between them, a table of bursts has before it starts again.
pub const PAIRS: u32 = 64;

/// 1.5 times 2^52: added and taken away again it rounds to a whole number.
const MAGIC: f64 = 6_755_399_441_055_744.0;

/// The largest whole number not above `x`, for `|x|` below 2^51.
#[inline(always)]
pub fn round_down(x: f64) -> f64 {
    let r = (x + MAGIC) - MAGIC;
    if r > x { r - 1.0 } else { r }
}

/// A whole number `n` as a wrapping 32-bit index; negative numbers wrap downwards. For `|n|` below
/// 2^51.
#[inline(always)]
pub fn cell_index(n: f64) -> u32 {
    // Added to the magic number, a whole number stands in the low bits as two's complement. Unlike a
    // conversion this is one vector instruction.
    (n + MAGIC).to_bits() as u32
}

/// A level from 0 to 1 that drifts smoothly: `rate` draws a second, and for each octave after
/// the first one of half the depth and twice the rate.
#[inline]
pub fn drift_level(t: f64, key: u32, rate: f64, octaves: u32) -> f64 {
    exported::drift_level(t, key, rate, octaves as usize)
}

/// 1 while a burst lasts, else 0. Bursts last `on[0]` to `on[1]` seconds, the pauses after them
/// `off[0]` to `off[1]`. `on_sums` and `off_sums` are running sums of even draws, one more than there
/// are pairs (a power of two), from 0.
#[inline]
pub fn burst_level(
    t: f64,
    key: u32,
    [on_lo, on_hi]: [f64; 2],
    [off_lo, off_hi]: [f64; 2],
    on_sums: &[f64],
    off_sums: &[f64],
) -> f64 {
    let pairs = on_sums.len() - 1;
    exported::burst_level(t, key, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums, pairs)
}

/// When the `n`-th burst or pause of a turn ends, in seconds from the turn's start.
#[inline]
pub fn burst_edge(n: usize, on: [f64; 2], off: [f64; 2], on_sums: &[f64], off_sums: &[f64]) -> f64 {
    exported::burst_edge(n, on[0], on[1], off[0], off[1], on_sums, off_sums)
}

/// [`burst_level`] among edges that are known, for many lanes; `pairs` is a power of two.
#[inline(always)]
pub fn burst_among(t: f64, key: u32, pairs: usize, edge: impl Fn(usize) -> f64) -> f64 {
    let whole = edge(2 * pairs);
    let x = t / whole + chance_phase(key);
    let n = round_down(x);
    let first = draw(key, cell_index(n)) as usize % pairs;
    let u = (x - n) * whole + edge(2 * first);
    let u = if u >= whole { u - whole } else { u };
    // The last edge that is not above `u`.
    let (mut last, mut step) = (0, pairs);
    while step > 0 {
        last += step * usize::from(u >= edge(last + step));
        step /= 2;
    }
    if last % 2 == 0 { 1.0 } else { 0.0 }
}

/// The value of a table at place `x`, in straight lines between its entries; the ends go on.
#[inline]
pub fn table_level(x: f64, table: &[f64]) -> f64 {
    exported::table_level(x, table, table.len() - 1)
}

/// The level, 0 to 1, at position `x` of an envelope with two or more entries: words of a position (upper 24 bits)
/// and a level in 1/255 (lower 8 bits), linear between them.
#[inline]
pub fn envelope_level(x: f64, envelope: &[u32]) -> f64 {
    exported::envelope_level(x, envelope, envelope.len() - 1)
}

/// The first of places in rising order that lies after `x`; [`NEVER`], which no moment reaches, if there is none.
#[inline]
pub fn next_place(x: f64, places: &[f64]) -> f64 {
    match places.len() {
        0 => NEVER,
        count => exported::next_place(x, places, count - 1),
    }
}

/// The direction of a point from the origin, of length 1; -z, as glTF points, where there is none.
#[inline]
pub fn direction([x, y, z]: [f64; 3]) -> [f64; 3] {
    [heading(x, x, y, z, 0.0), heading(y, x, y, z, 0.0), heading(z, x, y, z, -1.0)]
}

/// The lowest of these that does not live at a moment: it began then and lives so long. Where all do, the oldest or,
/// where that makes no room, how many there are.
pub fn free_slot(born: &[f64], length: &[f64], oldest: bool, now: f64) -> u32 {
    let mut first = 0;
    for n in 0..born.len() {
        if born[n] + length[n] <= now {
            return n as u32;
        }
        if born[n] < born[first] {
            first = n;
        }
    }
    if oldest { first as u32 } else { born.len() as u32 }
}

/// The way back from cone responses to linear light.
const LIGHTS: [[f64; 3]; 3] = [
    [4.0767416621, -3.3077115913, 0.2309699292],
    [-1.2684380046, 2.6097574011, -0.3413193965],
    [-0.0041960863, -0.7034186147, 1.7076147010],
];

/// What light of one color gives each root of a cone response gives back to one part (0 red, 1 green, 2 blue), times the
/// root cubed; see [`light_of`].
pub(crate) fn light_share(part: usize, cone: usize) -> f64 {
    LIGHTS[part][cone]
}

/// The cube root of one cone response (0 long, 1 middle, 2 short) of linear light. Blending these is
/// blending in OKLab, since what follows them there is linear.
#[inline]
pub fn cone_root(cone: usize, [r, g, b]: [f64; 3]) -> f64 {
    match cone {
        0 => exported::cone_l(r, g, b),
        1 => exported::cone_m(r, g, b),
        _ => exported::cone_s(r, g, b),
    }
}

/// One part (0 red, 1 green, 2 blue) of linear light from the roots of its cone responses; never
/// below 0.
#[inline]
pub fn light_of(part: usize, [l, m, s]: [f64; 3]) -> f64 {
    match part {
        0 => exported::light_r(l, m, s),
        1 => exported::light_g(l, m, s),
        _ => exported::light_b(l, m, s),
    }
}

#[cfg(test)]
mod tests {
    use super::exported::LEVELS;
    use super::*;

    #[test]
    fn the_published_check_values_of_the_mixing_come_out() {
        assert_eq!(scramble(1), 0x86d2_fa73);
        assert_eq!(chance_key(1, 2), 0xa573_49bb);
        assert_eq!(draw(chance_key(1, 2), 0), 0xc870_3d8c);
    }

    #[test]
    fn powers_are_those_of_the_library() {
        let mut worst = 0.0f64;
        for n in 0..200_000u32 {
            let unit = |k: u32| to_unit(draw(k, n));
            let x = if n % 2 == 0 { unit(1) } else { two_to(60.0 * unit(1) - 30.0) };
            let y = if n % 3 == 0 { unit(2) } else { 16.0 * unit(2) };
            let (found, wanted) = (to_power(x, y), x.powf(y));
            worst = worst.max((found / wanted - 1.0).abs());
            assert!(x > 1.0 || found <= 1.0, "{x} to the power of {y}: {found}");
        }
        assert!(worst < 1e-12, "{worst:e}");
        for (x, y, wanted) in [(0.0, 0.0, 1.0), (0.0, 2.0, 0.0), (1.0, 16.0, 1.0), (1e9, 0.0, 1.0)]
        {
            assert_eq!(to_power(x, y), wanted, "{x} to the power of {y}");
        }
        assert!(
            (to_power(3.0, 2.0) - 9.0).abs() < 1e-12
                && (decay(1.0) - (-1.0f64).exp()).abs() < 1e-13
        );
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
    fn a_steady_level_is_a_held_one_without_jitter() {
        for n in 0..40_000u32 {
            let key = scramble(n);
            let rate = [0.25, 1.0, 5.0, 16.666_666_666_666_668, 400.0][n as usize % 5];
            // At edges, next to them, between them, and far away.
            let cell = f64::from(n % 2000) - 1000.0;
            let edge = (cell - chance_phase(key)) / rate;
            let t = match n % 4 {
                0 => edge,
                1 => f64::from_bits(edge.to_bits() ^ 1),
                2 => edge + to_unit(scramble(n ^ 0x5eed)) / rate,
                _ => 1e9 * (2.0 * to_unit(key) - 1.0),
            };
            let (steady, held) = (steady_level(t, key, rate), held_level(t, key, rate, 0.0));
            assert_eq!(steady.to_bits(), held.to_bits(), "{t} {key} {rate}");
        }
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

    #[test]
    fn noise_meets_its_draws_and_never_leaves_them() {
        for key in [1, 77, 0xdead_beef] {
            for n in -50..50 {
                let x = f64::from(n);
                assert_eq!(noise(x, key), to_unit(draw(key, n as u32)));
                let (a, b) = (noise(x, key), noise(x + 1.0, key));
                for step in 0..200 {
                    let v = noise(x + f64::from(step) / 200.0, key);
                    assert!(a.min(b) <= v && v <= a.max(b), "{v} between {a} and {b}");
                }
            }
        }
    }

    #[test]
    fn a_drift_of_one_octave_is_noise_and_more_octaves_stay_within_0_and_1() {
        let key = chance_key(3, 4);
        let (mut least, mut most) = (1.0f64, 0.0f64);
        for n in 0..300_000u32 {
            let t = (f64::from(n) - 150_000.0) * 0.137;
            assert_eq!(drift_level(t, key, 0.7, 1), noise(t * 0.7 + chance_phase(key), key));
            for octaves in 2..=6 {
                let v = drift_level(t, key, 0.7, octaves);
                assert!((0.0..1.0).contains(&v), "{v}");
                (least, most) = (least.min(v), most.max(v));
            }
        }
        assert!(least < 0.1 && most > 0.9, "{least} {most}: it uses its range");
    }

    #[test]
    fn a_soft_level_goes_from_one_level_to_the_next_and_then_stays() {
        let (rate, jitter, key) = (2.0 / 0.4, 0.25, 99);
        for n in 0..400_000u32 {
            let t = f64::from(n) * 0.000_37 - 40.0;
            let (held, soft) =
                (held_level(t, key, rate, jitter), soft_level(t, key, rate, jitter, 0.4));
            // The level before this one, found by walking back.
            let mut back = t;
            let before = loop {
                back -= 0.01;
                let level = held_level(back, key, rate, jitter);
                if level != held {
                    break level;
                }
            };
            let (lo, hi) = (held.min(before), held.max(before));
            assert!(lo <= soft && soft <= hi, "{soft} between {lo} and {hi} at {t}");
            // With nothing to soften it is the held level itself.
            assert_eq!(soft_level(t, key, rate, jitter, 0.0), held);
        }
    }

    #[test]
    fn bursts_and_pauses_lie_between_their_bounds() {
        let sums: Vec<f64> = (0..=64u32)
            .scan(0.0, |sum, n| {
                let before = *sum;
                *sum += to_unit(draw(5, n));
                Some(before)
            })
            .collect();
        let (on, off) = ([0.05, 0.4], [0.3, 2.0]);
        let level = |t| burst_level(t, 1234, on, off, &sums, &sums);
        let (step, mut since, mut before) = (0.001, None, level(0.0));
        let (mut bursts, mut longest, mut shortest) = (0, 0.0f64, f64::MAX);
        for n in 0..2_000_000u32 {
            let t = f64::from(n) * step;
            let now = level(t);
            assert!(now == 0.0 || now == 1.0);
            if now != before {
                if let Some(begun) = since {
                    let lasted: f64 = t - begun;
                    let [lo, hi] = if before == 1.0 { on } else { off };
                    assert!(lo - 2.0 * step <= lasted && lasted <= hi + 2.0 * step, "{lasted}");
                    if before == 1.0 {
                        bursts += 1;
                        (longest, shortest) = (longest.max(lasted), shortest.min(lasted));
                    }
                }
                (since, before) = (Some(t), now);
            }
        }
        assert!(
            bursts > 1000 && longest > 0.38 && shortest < 0.07,
            "{bursts} {longest} {shortest}"
        );
    }

    #[test]
    fn no_displacement_leaves_the_ball() {
        let mut farthest = 0.0f64;
        for n in 0..4_000_000u32 {
            let [x, y, z] = [1, 2, 3].map(|key| 2.0 * to_unit(draw(key, n)) - 1.0);
            // A quarter of them on the cube's own edges.
            let x = if n % 4 == 0 { x.signum() } else { x };
            let y = if n % 8 == 0 { y.signum() } else { y };
            let p = [in_ball(x, y, z), in_ball(y, z, x), in_ball(z, x, y)];
            farthest = farthest.max(p.iter().map(|v| v * v).sum::<f64>().sqrt());
        }
        assert!(farthest <= 1.0 && farthest > 0.999, "{farthest}");
    }

    #[test]
    fn waves_are_what_the_library_gives() {
        for n in -100_000..100_000 {
            let x = f64::from(n) * 0.000_73;
            let plain = libm::sin(std::f64::consts::TAU * x);
            assert!((sine_of_turns(x) - plain).abs() < 1e-12, "{x}");
            let turn = x - x.floor();
            assert!(
                (sine_level(x) - (0.5 - 0.5 * libm::cos(std::f64::consts::TAU * x))).abs() < 1e-12
            );
            assert!((triangle_level(x) - (1.0 - (2.0 * turn - 1.0).abs())).abs() < 1e-12);
            assert_eq!(saw_level(x), turn);
            assert_eq!(square_level(x, 0.3), if turn < 0.3 { 1.0 } else { 0.0 });
        }
        assert_eq!([sine_level(0.0), sine_level(0.5)], [0.0, 1.0]);
    }

    #[test]
    fn cube_roots_are_what_the_library_gives() {
        let mut x = 1e-30;
        while x < 1e6 {
            let (ours, plain) = (cube_root(x), libm::cbrt(x));
            assert!((ours - plain).abs() <= plain * 1e-15, "{x}: {ours} {plain}");
            x *= 1.000_7;
        }
        assert_eq!(cube_root(0.0), 0.0);
    }

    /// OKLab as its author published it, straight from linear light and back.
    fn oklab([r, g, b]: [f64; 3]) -> [f64; 3] {
        let l = libm::cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
        let m = libm::cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
        let s = libm::cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
        [
            0.2104542553 * l + 0.7936177850 * m - 0.0040720468 * s,
            1.9779984951 * l - 2.4285922050 * m + 0.4505937099 * s,
            0.0259040371 * l + 0.7827717662 * m - 0.8086757660 * s,
        ]
    }

    #[test]
    fn blending_cone_roots_is_blending_in_oklab() {
        for n in 0..20_000u32 {
            let color = |key: u32| [0, 1, 2].map(|part| to_unit(draw(key + part, n)));
            let (from, to, share) = (color(10), color(20), to_unit(draw(30, n)));
            let roots = |c| [0, 1, 2].map(|cone| cone_root(cone, c));
            let (a, b) = (roots(from), roots(to));
            let mid: [f64; 3] = std::array::from_fn(|i| lerp(a[i], b[i], share));
            let light = [0, 1, 2].map(|part| light_of(part, mid));
            // What was cut off below 0 lies outside of Rec. 709 and cannot be compared.
            if light.iter().all(|v| *v > 0.0) {
                let (ours, x, y) = (oklab(light), oklab(from), oklab(to));
                for i in 0..3 {
                    let plain = x[i] + (y[i] - x[i]) * share;
                    assert!((ours[i] - plain).abs() < 1e-6, "{ours:?} {plain}");
                }
            }
            for (part, v) in from.iter().enumerate() {
                assert!((light_of(part, a) - v).abs() < 1e-6);
            }
        }
    }

    #[test]
    fn directions_have_length_1() {
        for n in 0..100_000u32 {
            let p = [1, 2, 3].map(|key| 200.0 * (to_unit(draw(key, n)) - 0.5));
            let d = direction(p);
            let length = d.iter().map(|v| v * v).sum::<f64>().sqrt();
            assert!((length - 1.0).abs() < 1e-14, "{p:?}");
        }
        assert_eq!(direction([0.0; 3]), [0.0, 0.0, -1.0]);
    }

    #[test]
    fn a_table_goes_straight_between_its_entries() {
        let table = [1.0, 3.0, -1.0, 0.5];
        for (x, wanted) in [
            (-9.0, 1.0),
            (0.0, 1.0),
            (0.5, 2.0),
            (1.0, 3.0),
            (2.75, 0.125),
            (3.0, 0.5),
            (99.0, 0.5),
        ] {
            assert_eq!(table_level(x, &table), wanted, "{x}");
        }
    }
}
