//! The part of the kernel that exports contain too. `caltrin-export` reads this very file
//! ([`super::SOURCE`]) and prints what it holds in every language, so each function is written once.
//!
//! It is written in a small part of Rust: constants, functions of `f64`, `u32` (which wraps), `usize` (counts and
//! positions), `bool` and slices of numbers; `let` with one name, assignments, `if`, `while`, `for` over a range,
//! `break` and `return`. The first paragraph of a comment goes into the exports.

use super::{cell_index, round_down};

/// Largest moment that a run can reach, in seconds either side of its start (about 31 years).
pub const LAST_MOMENT: f64 = 1e9;
/// Values nearer to zero than this are zero when they leave the kernel.
pub const SMALLEST: f64 = 1e-30;
/// Later than every moment of a run.
pub const NEVER: f64 = 2e9;
/// Largest number of single precision.
pub const LARGEST: f64 = 3.4028234663852886e38;
/// Separates the draws of levels from those of edges.
pub const LEVELS: u32 = 0x68e3_1da4;
/// From the key of one octave to that of the next; also separates the draws of phases.
pub const OCTAVE: u32 = 0x9e37_79b9;
/// Last moment of a day, in hours.
pub const LAST_HOUR: f64 = 23.999999999999996;
/// How often a condition without a solvable moment is sampled, in a second.
pub const LOOKS: f64 = 120.0;

/// Mixes 32 bits; one-to-one, and 0 stays 0.
#[inline(always)]
pub fn scramble(mut x: u32) -> u32 {
    x ^= x >> 16;
    x = x.wrapping_mul(0x21f0_aaad);
    x ^= x >> 15;
    x = x.wrapping_mul(0x735a_2d97);
    x ^ (x >> 15)
}

/// Key of one random place under a seed, or under another key.
#[inline]
pub fn chance_key(seed: u32, place: u32) -> u32 {
    scramble((scramble(seed.wrapping_add(OCTAVE)) ^ place).wrapping_add(0x85eb_ca6b))
}

/// Key of one lamp of an array. Lamp 0 keeps the key.
///
/// One-to-one in `lamp`; a single light that becomes an array keeps its flicker.
#[inline]
pub fn lamp_key(key: u32, lamp: u32) -> u32 {
    key ^ scramble(lamp)
}

/// The `n`-th random draw of a key: 32 even bits.
#[inline(always)]
pub fn draw(key: u32, n: u32) -> u32 {
    scramble(scramble(n.wrapping_add(key)) ^ key)
}

/// A draw as a number from 0 to 1 (excluded), in steps of 2^-24.
#[inline(always)]
pub fn to_unit(bits: u32) -> f64 {
    f64::from(bits >> 8) * (1.0 / 16777216.0)
}

/// The smaller of two numbers.
#[inline(always)]
pub fn min(a: f64, b: f64) -> f64 {
    if b < a { b } else { a }
}

/// The larger of two numbers.
#[inline(always)]
pub fn max(a: f64, b: f64) -> f64 {
    if b > a { b } else { a }
}

/// `v` limited to `lo..hi`.
#[inline(always)]
pub fn clamp(v: f64, lo: f64, hi: f64) -> f64 {
    let above = if v < lo { lo } else { v };
    if above > hi { hi } else { above }
}

/// `lo` at 0, `hi` at 1, and never outside of the two.
#[inline(always)]
pub fn lerp(lo: f64, hi: f64, s: f64) -> f64 {
    let v = lo + (hi - lo) * s;
    if lo <= hi { clamp(v, lo, hi) } else { clamp(v, hi, lo) }
}

/// A part of a whole; 0 of a whole that is not above 0.
#[inline]
pub fn share(part: f64, whole: f64) -> f64 {
    if whole > 0.0 { part / whole } else { 0.0 }
}

/// The square root of `x`; 0 of what is below 0.
#[inline]
pub fn root(x: f64) -> f64 {
    let kept = if x > 0.0 { x } else { 0.0 };
    kept.sqrt()
}

/// A number without its sign.
#[inline]
pub fn absolute(x: f64) -> f64 {
    if x < 0.0 { -x } else { x }
}

/// The largest whole number not above `x`.
#[inline]
pub fn whole_below(x: f64) -> f64 {
    round_down(x)
}

/// The nearest whole number; the larger of two that are equally near.
#[inline]
pub fn whole_nearest(x: f64) -> f64 {
    round_down(x + 0.5)
}

/// Where the cells of a key begin, from 0 to 1.
#[inline(always)]
pub fn chance_phase(key: u32) -> f64 {
    to_unit(scramble(key.wrapping_add(OCTAVE)))
}

/// Where cell `i` of a held level begins, from `i`: at most `jitter` either way.
#[inline(always)]
pub fn cell_edge(key: u32, i: u32, jitter: f64) -> f64 {
    let bits = draw(key, i);
    let drawn = jitter * (2.0 * to_unit(bits) - 1.0);
    let steady = if bits >> 31 != 0 { jitter } else { -jitter };
    if i & 1 != 0 { steady } else { drawn }
}

/// A level from 0 to 1 that is drawn again after random times between `a` and `b` seconds: `rate` is 2 / (a + b),
/// `jitter` is (b - a) / (2 (a + b)).
#[inline(always)]
pub fn held_level(t: f64, key: u32, rate: f64, jitter: f64) -> f64 {
    let x = t * rate + chance_phase(key);
    let n = round_down(x + 0.5);
    let i = cell_index(n);
    let early: u32 = if x - n < cell_edge(key, i, jitter) { 1 } else { 0 };
    to_unit(draw(key ^ LEVELS, i.wrapping_sub(early)))
}

/// A level from 0 to 1 that is drawn again `rate` times a second: `held_level` without jitter.
#[inline(always)]
pub fn steady_level(t: f64, key: u32, rate: f64) -> f64 {
    let i = cell_index(round_down(t * rate + chance_phase(key)));
    to_unit(draw(key ^ LEVELS, i))
}

/// Soft start and end, from 0 to 1.
#[inline(always)]
pub fn ease_smooth(u: f64) -> f64 {
    let s = u * u * (3.0 - 2.0 * u);
    if s > 1.0 { 1.0 } else { s }
}

/// CSS `steps()` at `u`, from the number of steps, the jumps before the first of them, and all jumps.
#[inline]
pub fn ease_steps(u: f64, steps: f64, first: f64, jumps: f64) -> f64 {
    let s = (round_down(u * steps) + first) / jumps;
    if s > 1.0 { 1.0 } else { s }
}

/// CSS `cubic-bezier(ax, ay, bx, by)` at `u`, by eight steps of Laguerre's method in a shrinking bracket.
///
/// `ax` and `bx` lie in 0..1.
#[inline]
pub fn ease_bezier(u: f64, ax: f64, ay: f64, bx: f64, by: f64) -> f64 {
    if u <= 0.0 {
        return 0.0;
    }
    if u >= 1.0 {
        return 1.0;
    }
    let x1 = 3.0 * ax;
    let x2 = 3.0 * (bx - ax) - x1;
    let x3 = 1.0 - x1 - x2;
    let mut lo = 0.0;
    let mut hi = 1.0;
    let mut s = u;
    for _ in 0..8 {
        let e = ((x3 * s + x2) * s + x1) * s - u;
        if e == 0.0 {
            break;
        }
        if e < 0.0 {
            lo = s;
        } else {
            hi = s;
        }
        let d = (3.0 * x3 * s + 2.0 * x2) * s + x1;
        let q = 4.0 * d * d - 6.0 * e * (6.0 * x3 * s + 2.0 * x2);
        let w = s - 3.0 * e / (d + root(q));
        s = if lo <= w && w <= hi { w } else { 0.5 * (lo + hi) };
    }
    let once = 3.0 * ay;
    let twice = 3.0 * (by - ay) - once;
    let thrice = 1.0 - once - twice;
    ((thrice * s + twice) * s + once) * s
}

/// Places from 0 to 1 drawn apart at both ends, so that what starts or ends like a root goes on evenly.
#[inline]
pub fn spread_ends(u: f64) -> f64 {
    let before = u < 0.5;
    let side = if before { u } else { 1.0 - u };
    let v = 0.5 * root(2.0 * side);
    if before { v } else { 1.0 - v }
}

/// An easing at `u`, 0 to 1, that is kept as polynomials of the fifth degree: six numbers for each of `pieces` of one
/// length, the highest power first.
#[inline]
pub fn ease_baked(u: f64, table: &[f64], pieces: usize) -> f64 {
    let x = u * pieces as f64;
    let cell = x as usize;
    let piece = if cell < pieces { cell } else { pieces - 1 };
    let f = x - piece as f64;
    let at = 6 * piece;
    let mut s = table[at];
    s = s * f + table[at + 1];
    s = s * f + table[at + 2];
    s = s * f + table[at + 3];
    s = s * f + table[at + 4];
    s * f + table[at + 5]
}

/// Position of `t` in a turn of `period` seconds that starts again and again.
#[inline]
pub fn wrap_time(t: f64, period: f64) -> f64 {
    let x = t - round_down(t / period) * period;
    let under = if x >= period { x - period } else { x };
    if x < 0.0 { x + period } else { under }
}

/// Position of `t` in a turn of `period` seconds that plays there and back.
#[inline]
pub fn fold_time(t: f64, period: f64) -> f64 {
    let x = wrap_time(t, 2.0 * period);
    if x > period { 2.0 * period - x } else { x }
}

/// A level from 0 to 1 that passes smoothly through draws at whole numbers `x`.
#[inline(always)]
pub fn noise(x: f64, key: u32) -> f64 {
    let n = round_down(x);
    let f = x - n;
    let i = cell_index(n);
    let eased = f * f * f * (f * (6.0 * f - 15.0) + 10.0);
    let s = if eased > 1.0 { 1.0 } else { eased };
    let a = to_unit(draw(key, i));
    let b = to_unit(draw(key, i.wrapping_add(1)));
    a + (b - a) * s
}

/// A level from 0 to 1 that drifts smoothly: `rate` draws a second, and for each octave after the first one of
/// half the depth and twice the rate.
#[inline]
pub fn drift_level(t: f64, key: u32, rate: f64, octaves: usize) -> f64 {
    let mut x = t * rate + chance_phase(key);
    let mut k = key;
    let mut sum = noise(x, k);
    let mut total = 1.0;
    for _ in 1..octaves {
        x = 2.0 * x + 0.37;
        k = k.wrapping_add(OCTAVE);
        sum = 2.0 * sum + noise(x, k);
        total = 2.0 * total + 1.0;
    }
    sum / total
}

/// As `held_level`, but each level is reached softly over a `part` of its time.
#[inline(always)]
pub fn soft_level(t: f64, key: u32, rate: f64, jitter: f64, part: f64) -> f64 {
    let x = t * rate + chance_phase(key);
    let n = round_down(x + 0.5);
    let nearest = cell_index(n);
    let since_nearest = x - n - cell_edge(key, nearest, jitter);
    let i = if since_nearest >= 0.0 { nearest } else { nearest.wrapping_sub(1) };
    let edge = cell_edge(key, i, jitter);
    let passed = if since_nearest >= 0.0 { since_nearest } else { x - n + 1.0 - edge };
    let soft = part * (1.0 + cell_edge(key, i.wrapping_add(1), jitter) - edge);
    let to = to_unit(draw(key ^ LEVELS, i));
    let from = to_unit(draw(key ^ LEVELS, i.wrapping_sub(1)));
    let way = from + (to - from) * ease_smooth(passed / soft);
    if passed >= soft { to } else { way }
}

/// When the `n`-th burst or pause of a turn ends, in seconds, by running sums of even draws.
#[inline]
pub fn burst_edge(
    n: usize,
    on_lo: f64,
    on_hi: f64,
    off_lo: f64,
    off_hi: f64,
    on_sums: &[f64],
    off_sums: &[f64],
) -> f64 {
    let begun = (n + 1) / 2;
    let ended = n / 2;
    let on = on_lo * begun as f64 + (on_hi - on_lo) * on_sums[begun];
    on + (off_lo * ended as f64 + (off_hi - off_lo) * off_sums[ended])
}

/// 1 while a burst lasts, else 0. Bursts last `on_lo` to `on_hi` seconds, the pauses after them `off_lo` to `off_hi`;
/// the running sums have an entry more than there are `pairs`.
///
/// `pairs` is a power of two. Each turn of the tables begins at another pair, drawn from the key.
#[inline]
pub fn burst_level(
    t: f64,
    key: u32,
    on_lo: f64,
    on_hi: f64,
    off_lo: f64,
    off_hi: f64,
    on_sums: &[f64],
    off_sums: &[f64],
    pairs: usize,
) -> f64 {
    let whole = burst_edge(2 * pairs, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums);
    let x = t / whole + chance_phase(key);
    let n = round_down(x);
    let first = 2 * (draw(key, cell_index(n)) as usize % pairs);
    let passed =
        (x - n) * whole + burst_edge(first, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums);
    let u = if passed >= whole { passed - whole } else { passed };
    let mut last: usize = 0;
    let mut step = pairs;
    while step > 0 {
        if u >= burst_edge(last + step, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums) {
            last += step;
        }
        step = step / 2;
    }
    if last % 2 == 0 { 1.0 } else { 0.0 }
}

/// The value of a table at position `x`, linear between its entries 0 to `last`; the ends go on.
#[inline]
pub fn table_level(x: f64, table: &[f64], last: usize) -> f64 {
    let kept = clamp(x, 0.0, last as f64);
    let cell = kept as usize;
    let i = if cell < last { cell } else { last - 1 };
    lerp(table[i], table[i + 1], kept - i as f64)
}

/// The level, 0 to 1, at position `x` of an envelope with entries 0 to `last`: linear between positions (upper 24
/// bits) and levels in 1/255 (lower 8 bits); the ends go on.
#[inline]
pub fn envelope_level(x: f64, envelope: &[u32], last: usize) -> f64 {
    let mut low: usize = 0;
    let mut high = last;
    while high - low > 1 {
        let middle = (low + high) / 2;
        if f64::from(envelope[middle] >> 8) <= x {
            low = middle;
        } else {
            high = middle;
        }
    }
    let from = f64::from(envelope[low] >> 8);
    let to = f64::from(envelope[high] >> 8);
    let a = f64::from(envelope[low] & 255);
    let b = f64::from(envelope[high] & 255);
    lerp(a, b, clamp((x - from) / (to - from), 0.0, 1.0)) / 255.0
}

/// The first of the rising positions 0 to `last` that lies after `x`, or never.
#[inline]
pub fn next_place(x: f64, places: &[f64], last: usize) -> f64 {
    let mut low: usize = 0;
    let mut high = last + 1;
    while low < high {
        let middle = (low + high) / 2;
        if places[middle] > x {
            high = middle;
        } else {
            low = middle + 1;
        }
    }
    if low <= last {
        return places[low];
    }
    NEVER
}

/// One coordinate of a displacement within a ball of radius 1, from three numbers in -1..1 of which `a` is that
/// coordinate's.
#[inline]
pub fn in_ball(a: f64, b: f64, c: f64) -> f64 {
    let bb = b * b;
    let cc = c * c;
    a * (1.0 - 0.5 * bb - 0.5 * cc + bb * cc * (1.0 / 3.0)).sqrt() * 0.9999997615814209
}

/// One coordinate of a direction of length 1; `still` where there is no direction.
#[inline]
pub fn heading(part: f64, x: f64, y: f64, z: f64, still: f64) -> f64 {
    let length = (x * x + y * y + z * z).sqrt();
    if length > 1e-9 { part / length } else { still }
}

/// The sine of `x` turns, to 4e-14.
#[inline]
pub fn sine_of_turns(x: f64) -> f64 {
    let turn = x - round_down(x + 0.5);
    let upper = if turn > 0.25 { 0.5 - turn } else { turn };
    let r = if upper < -0.25 { -0.5 - upper } else { upper };
    let q = r * r;
    let high = 42.057963877218654 + q * (-15.079294941101859 + q * 3.655084043208931);
    let low = 81.60524903205786 + q * (-76.70584112984776 + q * high);
    clamp(r * (6.283185307177229 + q * (-41.34170223898956 + q * low)), -1.0, 1.0)
}

/// A sine wave from 0 to 1, lowest at whole turns `x`.
#[inline]
pub fn sine_level(x: f64) -> f64 {
    0.5 + 0.5 * sine_of_turns(x - 0.25)
}

/// A triangle wave from 0 to 1, lowest at whole turns `x`.
#[inline]
pub fn triangle_level(x: f64) -> f64 {
    let r = x - round_down(x);
    if r < 0.5 { 2.0 * r } else { 2.0 - 2.0 * r }
}

/// A sawtooth wave: rises from 0 to 1 with each turn `x`, then falls back at once.
#[inline]
pub fn saw_level(x: f64) -> f64 {
    x - round_down(x)
}

/// A square wave: 1 for the first part `on` of each turn `x`, then 0.
#[inline]
pub fn square_level(x: f64, on: f64) -> f64 {
    if x - round_down(x) < on { 1.0 } else { 0.0 }
}

/// Whole days in a number of hours from midnight on; below 0 before it.
#[inline]
pub fn days_of(hours: f64) -> f64 {
    round_down(hours / 24.0)
}

/// Hour of the day, 0 to 24 (excluded), after a number of hours from midnight on.
#[inline]
pub fn hour_of(hours: f64) -> f64 {
    clamp(hours - 24.0 * days_of(hours), 0.0, LAST_HOUR)
}

/// What is left of a fall of `fall` hours that began `late` hours ago: 1 to 0.
#[inline]
pub fn hours_left(late: f64, fall: f64) -> f64 {
    if late < fall { 1.0 - late / fall } else { 0.0 }
}

/// 0 outside and 1 inside of a span of hours: it opens from `start` on, for `rise` hours, and closes from `end` on,
/// for `fall` hours.
///
/// Over midnight where `end` comes first. One that is shorter than its opening, or whose gap is shorter than its
/// closing, only goes part of the way; where both ends meet it is 0.
#[inline]
pub fn hours_level(hour: f64, start: f64, rise: f64, end: f64, fall: f64) -> f64 {
    let passed = hour_of(hour - start);
    let open = hour_of(end - start);
    if passed >= rise {
        return if passed < open { 1.0 } else { hours_left(passed - open, fall) };
    }
    let risen = passed / rise;
    if passed >= open {
        let lost = 1.0 - hours_left(passed - open, fall);
        return if risen > lost { risen - lost } else { 0.0 };
    }
    let level = risen + hours_left(passed - open + 24.0, fall);
    if level < 1.0 { level } else { 1.0 }
}

/// How far the time from hour `start` to hour `end` has passed, 0 to 1.
///
/// Over midnight where `end` comes first. It stays at 1 for half of the time outside, and at 0 for the other half.
#[inline]
pub fn through_level(hour: f64, start: f64, end: f64) -> f64 {
    let passed = hour_of(hour - start);
    let open = hour_of(end - start);
    if passed < open {
        return passed / open;
    }
    if passed - open < (24.0 - open) * 0.5 { 1.0 } else { 0.0 }
}

/// The angle of the point (x, y) from the x axis toward the y axis, in degrees above -180 to 180; 0 at the origin.
///
/// Wrong by 1e-13 degrees at most.
pub fn arc_tangent(y: f64, x: f64) -> f64 {
    let ax = if x < 0.0 { -x } else { x };
    let ay = if y < 0.0 { -y } else { y };
    let steep = ay > ax;
    let shorter = if steep { ax } else { ay };
    let longer = if steep { ay } else { ax };
    if longer == 0.0 {
        return 0.0;
    }
    let ratio = shorter / longer;
    let steeper = ratio > 0.414213562373095;
    let z = if steeper { (ratio - 1.0) / (ratio + 1.0) } else { ratio };
    let u = z * z;
    let a = 2.878903358695536 + u * -1.4504271731546372;
    let b = 4.396608313130339 + u * (-3.7276314185814425 + u * a);
    let c = 6.366162033833398 + u * (-5.207916699371338 + u * b);
    let d = 11.459155890227322 + u * (-8.185110427923698 + u * c);
    let p = 57.295779513082266 + u * (-19.098593170963273 + u * d);
    let part = if steeper { 45.0 + z * p } else { z * p };
    let half = if steep { 90.0 - part } else { part };
    let angle = if x < 0.0 { 180.0 - half } else { half };
    if y < 0.0 { -angle } else { angle }
}

/// The angle whose sine is `x`, -90 to 90 degrees; `x` is limited to -1..1.
///
/// Wrong by 1e-13 degrees at most.
pub fn arc_sine(x: f64) -> f64 {
    let kept = clamp(x, -1.0, 1.0);
    arc_tangent(kept, ((1.0 - kept) * (1.0 + kept)).sqrt())
}

/// A compass direction, 0 (north) to 360 degrees over east.
pub fn compass(east: f64, north: f64) -> f64 {
    let angle = arc_tangent(east, north);
    if angle < 0.0 { angle + 360.0 } else { angle }
}

/// Turns of the sun on its way through the year, from the spring equinox: `days` after noon of 1 January 2000 in UT.
pub fn sun_way(days: f64) -> f64 {
    let anomaly = 0.9931333333333333 + days * 0.002737778611111111;
    let mean = 0.7790555555555555 + days * 0.0027379093333333333;
    let ahead = sine_of_turns(anomaly) * 0.005319444444444444;
    mean + ahead + sine_of_turns(anomaly + anomaly) * 0.00005555555555555556
}

/// Tilt of the earth's axis in turns, `days` as for `sun_way`.
pub fn axis_tilt(days: f64) -> f64 {
    0.06510833333333333 - days * 0.000000001111111111
}

/// How far the sky has turned over a longitude, in turns, `days` as for `sun_way`.
pub fn sky_turn(days: f64, longitude: f64) -> f64 {
    0.77905727325 + days * 1.002737909350795 + longitude / 360.0
}

/// East (0), up (1) or south (2) of the direction to the sun, or to what runs `ahead` turns before it (Michalsky
/// 1988).
///
/// As seen from a latitude and longitude in degrees; the direction has length 1. `days` as for [`sun_way`].
pub fn sky_part(part: f64, days: f64, ahead: f64, latitude: f64, longitude: f64) -> f64 {
    let way = sun_way(days) + ahead;
    let tilt = axis_tilt(days);
    let across = sine_of_turns(way);
    let x = sine_of_turns(way + 0.25);
    let y = sine_of_turns(tilt + 0.25) * across;
    let z = sine_of_turns(tilt) * across;
    let sky = sky_turn(days, longitude);
    let sine = sine_of_turns(sky);
    let cosine = sine_of_turns(sky + 0.25);
    if part == 0.0 {
        return clamp(y * cosine - x * sine, -1.0, 1.0);
    }
    let meridian = x * cosine + y * sine;
    let low = sine_of_turns(latitude / 360.0);
    let high = sine_of_turns(latitude / 360.0 + 0.25);
    let toward = if part == 1.0 { low * z + high * meridian } else { low * meridian - high * z };
    clamp(toward, -1.0, 1.0)
}

/// The hour at which the sun passes a height, given by its sine: rising (`side` -1), highest (0), setting (1).
///
/// `days` is the start of the clock's day, as for [`sun_way`]. Where the sun stays below, it is the hour at which it
/// stands highest; where it stays above, that at which it stands lowest.
pub fn sun_hour(side: f64, days: f64, latitude: f64, longitude: f64, sine: f64) -> f64 {
    let low = sine_of_turns(latitude / 360.0);
    let high = sine_of_turns(latitude / 360.0 + 0.25);
    let mut hour = 12.0;
    let mut aim = 0.0;
    for _ in 0..4 {
        let now = days + hour / 24.0;
        let way = sun_way(now);
        let tilt = axis_tilt(now);
        let across = sine_of_turns(way);
        let x = sine_of_turns(way + 0.25);
        let y = sine_of_turns(tilt + 0.25) * across;
        let z = sine_of_turns(tilt) * across;
        let past = sky_turn(now, longitude) - arc_tangent(y, x) / 360.0;
        let left = aim - past;
        hour += 24.0 * (left - round_down(left + 0.5));
        let flat = ((1.0 - z) * (1.0 + z)).sqrt();
        let part = clamp((sine - low * z) / max(high * flat, 1e-12), -1.0, 1.0);
        aim = side * (0.25 - arc_sine(part) / 360.0);
    }
    hour_of(hour)
}

/// Whether the sun stays below (-1) or above (1) a height all day, given by its sine; 0 where it crosses it, 0.5
/// (either sign) where it only rises or only sets.
///
/// Arguments as for [`sun_hour`]. One that comes within a few minutes of not crossing it counts as not crossing.
pub fn sun_stays(days: f64, latitude: f64, longitude: f64, sine: f64) -> f64 {
    let noon = sun_hour(0.0, days, latitude, longitude, sine);
    let low = sine_of_turns(latitude / 360.0);
    let high = sine_of_turns(latitude / 360.0 + 0.25);
    let mut stays = 0.0;
    let mut side = -1.0;
    while side < 2.0 {
        let hour = sun_hour(side, days, latitude, longitude, sine);
        let after = hour_of(side * (hour - noon));
        let apart = if after > 18.0 { after - 24.0 } else { after };
        let now = days + (noon + side * apart) / 24.0;
        let z = sine_of_turns(axis_tilt(now)) * sine_of_turns(sun_way(now));
        let flat = ((1.0 - z) * (1.0 + z)).sqrt();
        let part = (sine - low * z) / max(high * flat, 1e-12);
        if part > 0.9999 {
            stays -= 1.0;
        } else if part < -0.9999 {
            stays += 1.0;
        }
        side += 2.0;
    }
    stays * 0.5
}

/// 2 to the power of a number from -1020 to 1020, to 2e-14 of it.
#[inline]
pub fn two_to(x: f64) -> f64 {
    let whole = round_down(x + 0.5);
    let f = x - whole;
    let mut p = 1.021147686687256e-07;
    p = p * f + 1.325964614231444e-06;
    p = p * f + 1.5252641585726547e-05;
    p = p * f + 0.000154034337467768;
    p = p * f + 0.0013333558259554714;
    p = p * f + 0.009618129193941272;
    p = p * f + 0.05550410866424362;
    p = p * f + 0.24022650695640305;
    p = p * f + 0.6931471805599538;
    p = p * f + 1.0000000000000135;
    let mut left = absolute(whole) as usize;
    let mut factor = if whole < 0.0 { 0.5 } else { 2.0 };
    while left > 0 {
        if left % 2 == 1 {
            p *= factor;
        }
        factor *= factor;
        left = left / 2;
    }
    p
}

/// The logarithm to the base 2 of a number above 0, to 1e-15.
#[inline]
pub fn twos_in(x: f64) -> f64 {
    let mut part = x;
    let mut whole = 0.0;
    while part >= 1.4142135623730951 {
        part *= 0.5;
        whole += 1.0;
    }
    while part < 0.7071067811865476 {
        part *= 2.0;
        whole -= 1.0;
    }
    let s = (part - 1.0) / (part + 1.0);
    let q = s * s;
    let mut p = 0.058823529411764705;
    p = p * q + 0.06666666666666667;
    p = p * q + 0.07692307692307693;
    p = p * q + 0.09090909090909091;
    p = p * q + 0.1111111111111111;
    p = p * q + 0.14285714285714285;
    p = p * q + 0.2;
    p = p * q + 0.3333333333333333;
    p = p * q + 1.0;
    whole + 2.8853900817779268 * (s * p)
}

/// A number that is not below 0 to the power of one that is not below 0, to 1e-12 of it for powers up to 16; what is
/// at most 1 stays at most 1.
#[inline]
pub fn to_power(x: f64, y: f64) -> f64 {
    if y <= 0.0 {
        return 1.0;
    }
    if x < SMALLEST {
        return 0.0;
    }
    let twos = y * twos_in(x);
    if twos < -1000.0 {
        return 0.0;
    }
    let v = two_to(min(twos, 1000.0));
    if x <= 1.0 && v > 1.0 { 1.0 } else { v }
}

/// Exponential decay: e to the power of `-x`, to 1e-13 of it; 1 below 0, 0 from 700 on.
#[inline]
pub fn decay(x: f64) -> f64 {
    if x.is_nan() || x <= 0.0 {
        return 1.0;
    }
    if x >= 700.0 {
        return 0.0;
    }
    let p = two_to(-x * 1.4426950408889634);
    if p < 1.0 { p } else { 1.0 }
}

/// The first multiple of 1/120 s after a moment.
#[inline]
pub fn next_look(t: f64) -> f64 {
    let n = round_down(t * LOOKS) + 1.0;
    let look = n / LOOKS;
    if look > t { look } else { (n + 1.0) / LOOKS }
}

/// The cube root of a number that is not below 0, to 4e-16 of it; 0 for what is all but 0.
#[inline]
pub fn cube_root(x: f64) -> f64 {
    if x < SMALLEST {
        return 0.0;
    }
    let mut part = x;
    let mut scale = 1.0;
    while part >= 1.0 {
        part *= 0.125;
        scale *= 2.0;
    }
    while part < 0.125 {
        part *= 8.0;
        scale *= 0.5;
    }
    let mut y = 0.3812513196434336 + part * (1.0723022680799823 - 0.46946113360511893 * part);
    for _ in 0..2 {
        let c = y * y * y;
        y = y * (c + 2.0 * part) / (2.0 * c + part);
    }
    y * scale
}

/// Root of the long cones' response to linear light, as in OKLab.
#[inline]
pub fn cone_l(r: f64, g: f64, b: f64) -> f64 {
    cube_root(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b)
}

/// Root of the middle cones' response to linear light, as in OKLab.
#[inline]
pub fn cone_m(r: f64, g: f64, b: f64) -> f64 {
    cube_root(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b)
}

/// Root of the short cones' response to linear light, as in OKLab.
#[inline]
pub fn cone_s(r: f64, g: f64, b: f64) -> f64 {
    cube_root(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b)
}

/// Linear red, not below 0, from the roots of the cones' responses.
#[inline]
pub fn light_r(l: f64, m: f64, s: f64) -> f64 {
    let v = 4.0767416621 * (l * l * l) - 3.3077115913 * (m * m * m) + 0.2309699292 * (s * s * s);
    if v > 0.0 { v } else { 0.0 }
}

/// Linear green, not below 0, from the roots of the cones' responses.
#[inline]
pub fn light_g(l: f64, m: f64, s: f64) -> f64 {
    let v = -1.2684380046 * (l * l * l) + 2.6097574011 * (m * m * m) - 0.3413193965 * (s * s * s);
    if v > 0.0 { v } else { 0.0 }
}

/// Linear blue, not below 0, from the roots of the cones' responses.
#[inline]
pub fn light_b(l: f64, m: f64, s: f64) -> f64 {
    let v = -0.0041960863 * (l * l * l) - 0.7034186147 * (m * m * m) + 1.707614701 * (s * s * s);
    if v > 0.0 { v } else { 0.0 }
}

/// On the way from one level to another: softly for `over` seconds since a moment, then there to stay.
#[inline]
pub fn faded(from: f64, to: f64, since: f64, over: f64, now: f64) -> f64 {
    if now >= since + over {
        return to;
    }
    lerp(from, to, ease_smooth(clamp((now - since) / over, 0.0, 1.0)))
}

/// A moment, limited to 1e9 s either way; 0 for what is not a number.
#[inline]
pub fn clean_moment(t: f64) -> f64 {
    if t.is_nan() || t >= -SMALLEST && t <= SMALLEST {
        return 0.0;
    }
    clamp(t, -LAST_MOMENT, LAST_MOMENT)
}

/// The value of an input, limited to its range; `fallback` for what is not a finite number.
#[inline]
pub fn clean_input(v: f64, lo: f64, hi: f64, fallback: f64) -> f64 {
    if !v.is_finite() {
        return fallback;
    }
    let kept = if v >= -SMALLEST && v <= SMALLEST { 0.0 } else { v };
    clamp(kept, lo, hi)
}

/// An index that is at most the last.
#[inline]
pub fn at_most(index: u32, last: u32) -> usize {
    (if index < last { index } else { last }) as usize
}

/// Single precision without negative zero and subnormals.
#[inline]
pub fn to_single(v: f64) -> f32 {
    (if v < SMALLEST && v > -SMALLEST { 0.0 } else { v }) as f32
}

/// Single precision without negative zero, subnormals and infinities.
#[inline]
pub fn to_output(v: f64) -> f32 {
    let kept = if v < SMALLEST && v > -SMALLEST { 0.0 } else { v };
    clamp(kept, -LARGEST, LARGEST) as f32
}
