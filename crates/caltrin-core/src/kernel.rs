//! The exact kernel: the few operations that every export repeats bit for bit.
//!
//! Only IEEE double `+ - * / sqrt floor`, comparisons and 32-bit integer mixing are used, always in
//! the order written here. The files under `caltrin-export/src/*/kernel.*` say the same in the
//! other languages; a change here is a change there.

/// Largest moment that a run can reach, in seconds either side of its start (about 31 years).
pub const LAST_MOMENT: f64 = 1e9;
/// Values nearer to zero than this are zero when they leave the kernel.
pub const SMALLEST: f64 = 1e-30;
/// How many bursts, and pauses between them, a table of bursts has before it starts again.
pub const PAIRS: u32 = 64;
/// Distinct from the edge draws of the same key: the level draws.
const LEVELS: u32 = 0x68E3_1DA4;
/// From the key of one octave to that of the next.
pub(crate) const OCTAVE: u32 = 0x9E37_79B9;
/// Distinct from both: the draw that shifts where a chance begins.
const PHASE: u32 = 0x9E37_79B9;

/// Mixes 32 bits so that each input bit reaches each output bit. One-to-one, and 0 stays 0.
#[inline(always)]
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
#[inline(always)]
pub fn draw(key: u32, n: u32) -> u32 {
    scramble(scramble(n.wrapping_add(key)) ^ key)
}

/// A draw as a number in `0..1` (1 excluded), in steps of 2^-24.
#[inline(always)]
pub fn to_unit(bits: u32) -> f64 {
    f64::from(bits >> 8) * (1.0 / 16_777_216.0)
}

/// 1.5 times 2^52: added and taken away again it rounds to a whole number.
const MAGIC: f64 = 6_755_399_441_055_744.0;

/// CSS `steps()` at `u`: the number of steps, the jumps before the first of them, and all jumps.
#[inline]
pub fn ease_steps(u: f64, steps: f64, first: f64, jumps: f64) -> f64 {
    let s = (round_down(u * steps) + first) / jumps;
    if s > 1.0 { 1.0 } else { s }
}

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

/// The shift of a chance along its own cells, in `0..1`.
#[inline(always)]
pub fn chance_phase(key: u32) -> f64 {
    to_unit(scramble(key.wrapping_add(PHASE)))
}

/// A level in `0..1` that is drawn again after random times, at any moment `t` (seconds).
///
/// With intervals between `a` and `b`: `rate = 2 / (a + b)` in 1/s and
/// `jitter = (b - a) / (2 (a + b))`, from 0 to 0.5.
#[inline(always)]
pub fn held_level(t: f64, key: u32, rate: f64, jitter: f64) -> f64 {
    let x = t * rate + chance_phase(key);
    let n = round_down(x + 0.5);
    let f = x - n;
    let i = cell_index(n);
    let cell = i.wrapping_sub(u32::from(f < cell_edge(key, i, jitter)));
    to_unit(draw(key ^ LEVELS, cell))
}

/// `lo` at 0, `hi` at 1, and never outside of the two.
#[inline(always)]
pub fn lerp(lo: f64, hi: f64, s: f64) -> f64 {
    let v = lo + (hi - lo) * s;
    if lo <= hi { clamp(v, lo, hi) } else { clamp(v, hi, lo) }
}

/// `v` kept inside `lo..hi`.
#[inline(always)]
pub fn clamp(v: f64, lo: f64, hi: f64) -> f64 {
    let v = if v < lo { lo } else { v };
    if v > hi { hi } else { v }
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

/// Soft start and end: `u` from 0 to 1 gives `3u^2 - 2u^3`.
#[inline(always)]
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

/// A level that passes smoothly through draws at whole numbers `x`, in `0..1`.
#[inline(always)]
pub fn noise(x: f64, key: u32) -> f64 {
    let n = round_down(x);
    let f = x - n;
    let i = cell_index(n);
    let s = f * f * f * (f * (6.0 * f - 15.0) + 10.0);
    let s = if s > 1.0 { 1.0 } else { s };
    let a = to_unit(draw(key, i));
    let b = to_unit(draw(key, i.wrapping_add(1)));
    a + (b - a) * s
}

/// A level in `0..1` that drifts smoothly: `rate` draws a second (1/s), and for each octave after the
/// first one of half the depth and twice the rate on top.
#[inline]
pub fn drift_level(t: f64, key: u32, rate: f64, octaves: u32) -> f64 {
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

/// Where cell `i` of a held level begins, from `i`, in `-jitter..jitter`.
#[inline(always)]
pub fn cell_edge(key: u32, i: u32, jitter: f64) -> f64 {
    let h = draw(key, i);
    let drawn = jitter * (2.0 * to_unit(h) - 1.0);
    let fixed = if h >> 31 != 0 { jitter } else { -jitter };
    if i & 1 != 0 { fixed } else { drawn }
}

/// As [`held_level`], but each level is reached softly over a `part` (0..1) of its time.
#[inline(always)]
pub fn soft_level(t: f64, key: u32, rate: f64, jitter: f64, part: f64) -> f64 {
    let x = t * rate + chance_phase(key);
    let n = round_down(x + 0.5);
    let near = cell_index(n);
    let passed = x - n - cell_edge(key, near, jitter);
    let before = near.wrapping_sub(1);
    let i = if passed >= 0.0 { near } else { before };
    let edge = cell_edge(key, i, jitter);
    let passed = if passed >= 0.0 { passed } else { x - n + 1.0 - edge };
    let soft = part * (1.0 + cell_edge(key, i.wrapping_add(1), jitter) - edge);
    let to = to_unit(draw(key ^ LEVELS, i));
    let from = to_unit(draw(key ^ LEVELS, i.wrapping_sub(1)));
    let way = from + (to - from) * ease_smooth(passed / soft);
    // Both are computed, so that many lanes can be at once.
    if passed >= soft { to } else { way }
}

/// 1 while a burst lasts, else 0. Bursts last `on[0]` to `on[1]` seconds, the pauses after them
/// `off[0]` to `off[1]`. `on_sums` and `off_sums` are running sums of even draws, one more than there
/// are pairs (a power of two), from 0; each turn of the tables begins at another pair, drawn from the key.
#[inline]
pub fn burst_level(
    t: f64,
    key: u32,
    on: [f64; 2],
    off: [f64; 2],
    on_sums: &[f64],
    off_sums: &[f64],
) -> f64 {
    let edge = |n: usize| burst_edge(n, on, off, on_sums, off_sums);
    burst_among(t, key, on_sums.len() - 1, edge)
}

/// When the `n`-th burst or pause of a turn ends, in seconds from the turn's start.
#[inline]
pub fn burst_edge(n: usize, on: [f64; 2], off: [f64; 2], on_sums: &[f64], off_sums: &[f64]) -> f64 {
    let (begun, ended) = (n.div_ceil(2), n / 2);
    on[0] * begun as f64
        + (on[1] - on[0]) * on_sums[begun]
        + (off[0] * ended as f64 + (off[1] - off[0]) * off_sums[ended])
}

/// [`burst_level`] among edges that are known; `pairs` is a power of two.
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
    let last = table.len() - 1;
    let x = clamp(x, 0.0, last as f64);
    let i = round_down(x) as usize;
    let i = if i < last { i } else { last - 1 };
    lerp(table[i], table[i + 1], x - i as f64)
}

/// The level, 0 to 1, at place `x` of an envelope: words of a place (the upper 24 bits) and a level in parts of 255 (the
/// lower 8), in rising order and two or more, with straight lines between them; the ends go on.
#[inline]
pub fn envelope_level(x: f64, envelope: &[u32]) -> f64 {
    let (mut low, mut high) = (0, envelope.len() - 1);
    while high - low > 1 {
        let middle = (low + high) / 2;
        if f64::from(envelope[middle] >> 8) <= x {
            low = middle;
        } else {
            high = middle;
        }
    }
    let (from, to) = (f64::from(envelope[low] >> 8), f64::from(envelope[high] >> 8));
    let (a, b) = (f64::from(envelope[low] & 255), f64::from(envelope[high] & 255));
    lerp(a, b, clamp((x - from) / (to - from), 0.0, 1.0)) / 255.0
}

/// The first of places in rising order that lies after `x`; 2e9, which no moment reaches, if there is none.
#[inline]
pub fn next_place(x: f64, places: &[f64]) -> f64 {
    let (mut low, mut high) = (0, places.len());
    while low < high {
        let middle = (low + high) / 2;
        if places[middle] > x {
            high = middle;
        } else {
            low = middle + 1;
        }
    }
    if low < places.len() { places[low] } else { 2e9 }
}

/// One part of a displacement in a ball of radius 1, from three numbers in -1..1 of which the first
/// is that part's: the cube is pressed into the ball, and nothing comes out of it.
#[inline]
pub fn in_ball(a: f64, b: f64, c: f64) -> f64 {
    let (bb, cc) = (b * b, c * c);
    a * (1.0 - 0.5 * bb - 0.5 * cc + bb * cc * (1.0 / 3.0)).sqrt() * 0.999_999_761_581_420_9
}

/// One part of a direction of length 1; `still` where there is no direction.
#[inline]
pub fn heading(part: f64, x: f64, y: f64, z: f64, still: f64) -> f64 {
    let length = (x * x + y * y + z * z).sqrt();
    if length > 1e-9 { part / length } else { still }
}

/// The direction of a point from the origin, of length 1; -z, as glTF points, where there is none.
#[inline]
pub fn direction([x, y, z]: [f64; 3]) -> [f64; 3] {
    [heading(x, x, y, z, 0.0), heading(y, x, y, z, 0.0), heading(z, x, y, z, -1.0)]
}

/// The sine of `x` turns, to 4e-14.
#[inline]
pub fn sine_of_turns(x: f64) -> f64 {
    let r = x - round_down(x + 0.5);
    let r = if r > 0.25 { 0.5 - r } else { r };
    let r = if r < -0.25 { -0.5 - r } else { r };
    let q = r * r;
    let p = 42.057963877218654 + q * (-15.079294941101859 + q * 3.655084043208931);
    let p = 81.60524903205786 + q * (-76.70584112984776 + q * p);
    let v = r * (6.283185307177229 + q * (-41.34170223898956 + q * p));
    clamp(v, -1.0, 1.0)
}

/// A soft wave in 0..1 that is lowest at whole turns.
#[inline]
pub fn sine_level(x: f64) -> f64 {
    0.5 + 0.5 * sine_of_turns(x - 0.25)
}

/// A wave of straight lines in 0..1 that is lowest at whole turns.
#[inline]
pub fn triangle_level(x: f64) -> f64 {
    let r = x - round_down(x);
    if r < 0.5 { 2.0 * r } else { 2.0 - 2.0 * r }
}

/// Rises from 0 to 1 with each turn, and falls back at once.
#[inline]
pub fn saw_level(x: f64) -> f64 {
    x - round_down(x)
}

/// 1 for the first part `on` (0..1) of each turn, then 0.
#[inline]
pub fn square_level(x: f64, on: f64) -> f64 {
    if x - round_down(x) < on { 1.0 } else { 0.0 }
}

/// The square root of `x`; of what is below 0, 0.
#[inline]
pub fn root(x: f64) -> f64 {
    (if x > 0.0 { x } else { 0.0 }).sqrt()
}

/// How much is left of what falls to 1/e of itself again and again, after `x` such times: e to the power of `-x`, to
/// 1e-13 of it; 1 below 0, 0 from 700 on.
#[inline]
pub fn decay(x: f64) -> f64 {
    if x.is_nan() || x <= 0.0 {
        return 1.0;
    }
    if x >= 700.0 {
        return 0.0;
    }
    let twos = x * std::f64::consts::LOG2_E;
    let whole = round_down(twos + 0.5);
    let f = whole - twos;
    let mut p = 1.021147686687256e-07;
    for c in [
        1.325964614231444e-06,
        1.5252641585726547e-05,
        0.000154034337467768,
        0.0013333558259554714,
        0.009618129193941272,
        0.05550410866424362,
        0.24022650695640305,
        0.6931471805599538,
        1.0000000000000135,
    ] {
        p = p * f + c;
    }
    // Halved as often as there are whole ones; each is exact.
    let mut left = whole as u32;
    let mut half = 0.5;
    while left > 0 {
        if left & 1 == 1 {
            p *= half;
        }
        half *= half;
        left >>= 1;
    }
    if p < 1.0 { p } else { 1.0 }
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

/// How often a condition is sampled whose moment cannot be solved, in a second.
pub const LOOKS: f64 = 120.0;

/// The first whole number of 1/120 s after a moment.
#[inline]
pub fn next_look(t: f64) -> f64 {
    let n = round_down(t * LOOKS) + 1.0;
    let look = n / LOOKS;
    if look > t { look } else { (n + 1.0) / LOOKS }
}

/// The cube root of a number that is not below 0, to 4e-16 of it; 0 below [`SMALLEST`].
#[inline]
pub fn cube_root(x: f64) -> f64 {
    if x < SMALLEST {
        return 0.0;
    }
    let (mut x, mut scale) = (x, 1.0);
    while x >= 1.0 {
        x *= 0.125;
        scale *= 2.0;
    }
    while x < 0.125 {
        x *= 8.0;
        scale *= 0.5;
    }
    let mut y = 0.3812513196434336 + x * (1.0723022680799823 - 0.46946113360511893 * x);
    for _ in 0..2 {
        let c = y * y * y;
        y = y * (c + 2.0 * x) / (2.0 * c + x);
    }
    y * scale
}

/// The roots of the cone responses of linear light, as OKLab defines them.
const CONES: [[f64; 3]; 3] = [
    [0.4122214708, 0.5363325363, 0.0514459929],
    [0.2119034982, 0.6806995451, 0.1073969566],
    [0.0883024619, 0.2817188376, 0.6299787005],
];

/// The way back from cone responses to linear light.
const LIGHTS: [[f64; 3]; 3] = [
    [4.0767416621, -3.3077115913, 0.2309699292],
    [-1.2684380046, 2.6097574011, -0.3413193965],
    [-0.0041960863, -0.7034186147, 1.7076147010],
];

/// The cube root of one cone response (0 long, 1 middle, 2 short) of linear light. Blending these is
/// blending in OKLab, since what follows them there is linear.
#[inline]
pub fn cone_root(cone: usize, [r, g, b]: [f64; 3]) -> f64 {
    let [x, y, z] = CONES[cone];
    cube_root(x * r + y * g + z * b)
}

/// What light of one color gives each root of a cone response gives back to one part (0 red, 1 green, 2 blue), times the
/// root cubed; see [`light_of`].
pub(crate) fn light_share(part: usize, cone: usize) -> f64 {
    LIGHTS[part][cone]
}

/// One part (0 red, 1 green, 2 blue) of linear light from the roots of its cone responses; never
/// below 0.
#[inline]
pub fn light_of(part: usize, [l, m, s]: [f64; 3]) -> f64 {
    let [x, y, z] = LIGHTS[part];
    let v = x * (l * l * l) + y * (m * m * m) + z * (s * s * s);
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

/// A moment as the kernel takes it: not-a-number is 0, and nothing lies beyond [`LAST_MOMENT`].
#[inline]
pub fn clean_moment(t: f64) -> f64 {
    // Not-a-number is above nothing.
    if t.abs() > SMALLEST { clamp(t, -LAST_MOMENT, LAST_MOMENT) } else { 0.0 }
}

/// What the game sets an input to, as the kernel takes it: kept within its bounds, and what is no
/// finite number is the input's default, `fallback`.
#[inline]
pub fn clean_input(v: f64, lo: f64, hi: f64, fallback: f64) -> f64 {
    if !v.is_finite() {
        return fallback;
    }
    let v = if v.abs() > SMALLEST { v } else { 0.0 };
    clamp(v, lo, hi)
}

/// A value as it leaves the kernel: no negative zero, no subnormal, no infinity.
#[inline]
pub fn to_output(v: f64) -> f32 {
    let v = if v < SMALLEST && v > -SMALLEST { 0.0 } else { v };
    clamp(v, -f64::from(f32::MAX), f64::from(f32::MAX)) as f32
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
