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

//: clamp
fn clamp(v: f64, lo: f64, hi: f64) -> f64 {
    let v = if v < lo { lo } else { v };
    if v > hi { hi } else { v }
}

//: lerp
/// `lo` at 0, `hi` at 1, never outside of the two.
fn lerp(lo: f64, hi: f64, s: f64) -> f64 {
    let v = lo + (hi - lo) * s;
    if lo <= hi { clamp(v, lo, hi) } else { clamp(v, hi, lo) }
}

//: min
fn min(a: f64, b: f64) -> f64 {
    if b < a { b } else { a }
}

//: max
fn max(a: f64, b: f64) -> f64 {
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

//: ease_steps
/// CSS `steps()` at `u`: the number of steps, the jumps before the first of them, and all jumps.
fn ease_steps(u: f64, steps: f64, first: f64, jumps: f64) -> f64 {
    let s = (round_down(u * steps) + first) / jumps;
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

//: noise
/// Passes smoothly through draws at whole numbers `x`, 0..1.
fn noise(x: f64, key: u32) -> f64 {
    let n = round_down(x);
    let f = x - n;
    let i = cell_index(n);
    let s = f * f * f * (f * (6.0 * f - 15.0) + 10.0);
    let s = if s > 1.0 { 1.0 } else { s };
    let a = to_unit(draw(key, i));
    let b = to_unit(draw(key, i.wrapping_add(1)));
    a + (b - a) * s
}

//: drift_level
/// Drifts smoothly in 0..1, `rate` draws a second, and as many octaves.
fn drift_level(t: f64, key: u32, rate: f64, octaves: u32) -> f64 {
    let mut x = t * rate + chance_phase(key);
    let mut k = key;
    let mut sum = noise(x, k);
    let mut total = 1.0;
    for _ in 1..octaves {
        x = 2.0 * x + 0.37;
        k = k.wrapping_add(0x9e37_79b9);
        sum = 2.0 * sum + noise(x, k);
        total = 2.0 * total + 1.0;
    }
    sum / total
}

//: cell_edge
/// Where cell `i` of a held level begins, from `i`.
fn cell_edge(key: u32, i: u32, jitter: f64) -> f64 {
    let h = draw(key, i);
    let drawn = jitter * (2.0 * to_unit(h) - 1.0);
    let fixed = if h >> 31 != 0 { jitter } else { -jitter };
    if i & 1 != 0 { fixed } else { drawn }
}

//: soft_level
/// A held level, each reached softly over a part of its time.
fn soft_level(t: f64, key: u32, rate: f64, jitter: f64, part: f64) -> f64 {
    let x = t * rate + chance_phase(key);
    let n = round_down(x + 0.5);
    let near = cell_index(n);
    let past_near = x - n - cell_edge(key, near, jitter);
    let i = if past_near >= 0.0 { near } else { near.wrapping_sub(1) };
    let edge = cell_edge(key, i, jitter);
    let passed = if past_near >= 0.0 { past_near } else { x - n + 1.0 - edge };
    let soft = part * (1.0 + cell_edge(key, i.wrapping_add(1), jitter) - edge);
    let to = to_unit(draw(key ^ 0x68e3_1da4, i));
    if passed >= soft {
        return to;
    }
    let from = to_unit(draw(key ^ 0x68e3_1da4, i.wrapping_sub(1)));
    from + (to - from) * ease_smooth(passed / soft)
}

//: burst_level
/// 1 while a burst lasts, else 0. The sums are running sums of even draws, `pairs` + 1 of each.
#[allow(clippy::too_many_arguments)]
fn burst_level(
    t: f64,
    key: u32,
    on_lo: f64,
    on_hi: f64,
    off_lo: f64,
    off_hi: f64,
    on_sums: &[f64],
    off_sums: &[f64],
    pairs: u32,
) -> f64 {
    let (on_span, off_span) = (on_hi - on_lo, off_hi - off_lo);
    let edge = |n: u32| {
        let (begun, ended) = ((n + 1) / 2, n / 2);
        on_lo * f64::from(begun)
            + on_span * on_sums[begun as usize]
            + (off_lo * f64::from(ended) + off_span * off_sums[ended as usize])
    };
    let whole = edge(2 * pairs);
    let x = t / whole + chance_phase(key);
    let n = round_down(x);
    let first = draw(key, cell_index(n)) % pairs;
    let u = (x - n) * whole + edge(2 * first);
    let u = if u >= whole { u - whole } else { u };
    let (mut last, mut step) = (0, pairs);
    while step > 0 {
        last += step * u32::from(u >= edge(last + step));
        step /= 2;
    }
    if last % 2 == 0 { 1.0 } else { 0.0 }
}

//: table_level
/// A table's value at place `x`, straight between its entries 0 to `last`.
fn table_level(x: f64, table: &[f64], last: u32) -> f64 {
    let x = clamp(x, 0.0, f64::from(last));
    let i = round_down(x) as u32;
    let i = if i < last { i } else { last - 1 };
    lerp(table[i as usize], table[i as usize + 1], x - f64::from(i))
}

//: envelope_level
/// The level, 0 to 1, at place `x` of an envelope with entries 0 to `last`: straight lines between places (the upper 24
/// bits) and levels in parts of 255 (the lower 8).
fn envelope_level(x: f64, envelope: &[u32], last: u32) -> f64 {
    let (mut low, mut high) = (0, last as usize);
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

//: next_place
/// The first of the rising places 0 to `last` that lies after `x`; 2e9, which no moment reaches, if there is none.
fn next_place(x: f64, places: &[f64], last: u32) -> f64 {
    let (mut low, mut high) = (0, last as usize + 1);
    while low < high {
        let middle = (low + high) / 2;
        if places[middle] > x {
            high = middle;
        } else {
            low = middle + 1;
        }
    }
    if low <= last as usize { places[low] } else { 2e9 }
}

//: in_ball
/// One part of a displacement in a ball of radius 1, from three numbers in -1..1.
fn in_ball(a: f64, b: f64, c: f64) -> f64 {
    let (bb, cc) = (b * b, c * c);
    a * (1.0 - 0.5 * bb - 0.5 * cc + bb * cc * (1.0 / 3.0)).sqrt() * 0.9999997615814209
}

//: heading
/// One part of a direction of length 1; `still` where there is none.
fn heading(part: f64, x: f64, y: f64, z: f64, still: f64) -> f64 {
    let length = (x * x + y * y + z * z).sqrt();
    if length > 1e-9 { part / length } else { still }
}

//: sine_of_turns
fn sine_of_turns(x: f64) -> f64 {
    let r = x - round_down(x + 0.5);
    let r = if r > 0.25 { 0.5 - r } else { r };
    let r = if r < -0.25 { -0.5 - r } else { r };
    let q = r * r;
    let high = 42.057963877218654 + q * (-15.079294941101859 + q * 3.655084043208931);
    let low = 81.60524903205786 + q * (-76.70584112984776 + q * high);
    clamp(r * (6.283185307177229 + q * (-41.34170223898956 + q * low)), -1.0, 1.0)
}

//: sine_level
/// A wave 0..1, lowest at whole turns `x`.
fn sine_level(x: f64) -> f64 {
    0.5 + 0.5 * sine_of_turns(x - 0.25)
}

//: triangle_level
fn triangle_level(x: f64) -> f64 {
    let r = x - round_down(x);
    if r < 0.5 { 2.0 * r } else { 2.0 - 2.0 * r }
}

//: saw_level
fn saw_level(x: f64) -> f64 {
    x - round_down(x)
}

//: square_level
fn square_level(x: f64, on: f64) -> f64 {
    if x - round_down(x) < on { 1.0 } else { 0.0 }
}

//: days_of
/// Whole days in a number of hours.
fn days_of(hours: f64) -> f64 {
    round_down(hours / 24.0)
}

//: hour_of
/// The hour of the day, 24 excluded, after a number of hours from midnight on.
fn hour_of(hours: f64) -> f64 {
    clamp(hours - 24.0 * days_of(hours), 0.0, 23.999999999999996)
}

//: hours_level
/// 0 outside and 1 inside of a span of hours: opens from start on, closes from end on.
fn hours_level(hour: f64, start: f64, rise: f64, end: f64, fall: f64) -> f64 {
    let passed = hour_of(hour - start);
    let open = hour_of(end - start);
    let late = if passed < open { passed - open + 24.0 } else { passed - open };
    let left = if late < fall { 1.0 - late / fall } else { 0.0 };
    if passed >= rise {
        return if passed < open { 1.0 } else { left };
    }
    let up = passed / rise;
    if passed >= open {
        let lost = 1.0 - left;
        return if up > lost { up - lost } else { 0.0 };
    }
    let level = up + left;
    if level < 1.0 { level } else { 1.0 }
}

//: through_level
/// How far the time from one hour to another has passed, 0..1.
fn through_level(hour: f64, start: f64, end: f64) -> f64 {
    let passed = hour_of(hour - start);
    let open = hour_of(end - start);
    if passed < open {
        return passed / open;
    }
    if passed - open < (24.0 - open) * 0.5 { 1.0 } else { 0.0 }
}

//: arc_tangent
/// The angle of the point (x, y), in degrees.
fn arc_tangent(y: f64, x: f64) -> f64 {
    let ax = if x < 0.0 { -x } else { x };
    let ay = if y < 0.0 { -y } else { y };
    let steep = ay > ax;
    let small = if steep { ax } else { ay };
    let large = if steep { ay } else { ax };
    if large == 0.0 {
        return 0.0;
    }
    let ratio = small / large;
    let far = ratio > 0.414213562373095;
    let z = if far { (ratio - 1.0) / (ratio + 1.0) } else { ratio };
    let u = z * z;
    let a = 2.878903358695536 + u * -1.4504271731546372;
    let b = 4.396608313130339 + u * (-3.7276314185814425 + u * a);
    let c = 6.366162033833398 + u * (-5.207916699371338 + u * b);
    let d = 11.459155890227322 + u * (-8.185110427923698 + u * c);
    let p = 57.295779513082266 + u * (-19.098593170963273 + u * d);
    let part = if far { 45.0 + z * p } else { z * p };
    let half = if steep { 90.0 - part } else { part };
    let angle = if x < 0.0 { 180.0 - half } else { half };
    if y < 0.0 { -angle } else { angle }
}

//: arc_sine
/// The angle of a sine, -90..90 degrees.
fn arc_sine(x: f64) -> f64 {
    let kept = clamp(x, -1.0, 1.0);
    arc_tangent(kept, ((1.0 - kept) * (1.0 + kept)).sqrt())
}

//: compass
/// A direction on the compass, 0..360 degrees from north over east.
fn compass(east: f64, north: f64) -> f64 {
    let angle = arc_tangent(east, north);
    if angle < 0.0 { angle + 360.0 } else { angle }
}

//: sun_way
/// Turns of the sun on its way through the year, days after noon of 1 January 2000 in UT.
fn sun_way(days: f64) -> f64 {
    let anomaly = 0.9931333333333333 + days * 0.002737778611111111;
    let mean = 0.7790555555555555 + days * 0.0027379093333333333;
    let ahead = sine_of_turns(anomaly) * 0.005319444444444444;
    mean + ahead + sine_of_turns(anomaly + anomaly) * 0.00005555555555555556
}

//: axis_tilt
/// How far the axis of the earth leans, in turns.
fn axis_tilt(days: f64) -> f64 {
    0.06510833333333333 - days * 0.000000001111111111
}

//: sky_turn
/// How far the sky has turned over a longitude, in turns.
fn sky_turn(days: f64, longitude: f64) -> f64 {
    0.77905727325 + days * 1.002737909350795 + longitude / 360.0
}

//: sky_part
/// East (0), up (1) or south (2) of the direction to the sun, or to what runs ahead of it
/// (Michalsky 1988).
fn sky_part(part: f64, days: f64, ahead: f64, latitude: f64, longitude: f64) -> f64 {
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

//: sun_hour
/// The hour at which the sun passes a height, by its sine: rising (-1), highest (0), setting (1).
fn sun_hour(side: f64, days: f64, latitude: f64, longitude: f64, sine: f64) -> f64 {
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
        let left = aim - (sky_turn(now, longitude) - arc_tangent(y, x) / 360.0);
        let flat = ((1.0 - z) * (1.0 + z)).sqrt();
        let cosine = if high * flat > 1e-12 { high * flat } else { 1e-12 };
        let share = clamp((sine - low * z) / cosine, -1.0, 1.0);
        hour = hour + 24.0 * (left - round_down(left + 0.5));
        aim = side * (0.25 - arc_sine(share) / 360.0);
    }
    hour_of(hour)
}

//: sun_stays
/// Whether the sun stays below (-1) or above (1) a height on a day, by its sine.
fn sun_stays(days: f64, latitude: f64, longitude: f64, sine: f64) -> f64 {
    let noon = sun_hour(0.0, days, latitude, longitude, sine);
    let low = sine_of_turns(latitude / 360.0);
    let high = sine_of_turns(latitude / 360.0 + 0.25);
    let mut stays = 0.0;
    for side in [-1.0, 1.0] {
        let hour = sun_hour(side, days, latitude, longitude, sine);
        let after = hour_of(side * (hour - noon));
        let apart = if after > 18.0 { after - 24.0 } else { after };
        let now = days + (noon + side * apart) / 24.0;
        let z = sine_of_turns(axis_tilt(now)) * sine_of_turns(sun_way(now));
        let flat = ((1.0 - z) * (1.0 + z)).sqrt();
        let cosine = if high * flat > 1e-12 { high * flat } else { 1e-12 };
        let share = (sine - low * z) / cosine;
        if share > 0.9999 {
            stays -= 1.0;
        } else if share < -0.9999 {
            stays += 1.0;
        }
    }
    stays * 0.5
}

//: root
fn root(x: f64) -> f64 {
    (if x > 0.0 { x } else { 0.0 }).sqrt()
}

//: decay
/// What is left of what falls to 1/e of itself again and again, after `x` such times.
fn decay(x: f64) -> f64 {
    if x <= 0.0 {
        return 1.0;
    }
    if x >= 700.0 {
        return 0.0;
    }
    let twos = x * core::f64::consts::LOG2_E;
    let whole = round_down(twos + 0.5);
    let f = whole - twos;
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
    let (mut left, mut half) = (whole as u32, 0.5);
    while left > 0 {
        if left & 1 == 1 {
            p *= half;
        }
        half *= half;
        left >>= 1;
    }
    if p < 1.0 { p } else { 1.0 }
}

//: next_look
/// The first whole number of 1/120 s after a moment.
fn next_look(t: f64) -> f64 {
    let n = round_down(t * 120.0) + 1.0;
    let look = n / 120.0;
    if look > t { look } else { (n + 1.0) / 120.0 }
}

//: cube_root
fn cube_root(x: f64) -> f64 {
    if x < 1e-30 {
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

//: cone_l
/// The root of the long cones' response to linear light, as in OKLab.
fn cone_l(r: f64, g: f64, b: f64) -> f64 {
    cube_root(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b)
}

//: cone_m
/// The root of the middle cones' response to linear light, as in OKLab.
fn cone_m(r: f64, g: f64, b: f64) -> f64 {
    cube_root(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b)
}

//: cone_s
/// The root of the short cones' response to linear light, as in OKLab.
fn cone_s(r: f64, g: f64, b: f64) -> f64 {
    cube_root(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b)
}

//: light_r
/// Linear red from the roots of the cones' responses.
fn light_r(l: f64, m: f64, s: f64) -> f64 {
    let v = 4.0767416621 * (l * l * l) + -3.3077115913 * (m * m * m) + 0.2309699292 * (s * s * s);
    if v > 0.0 { v } else { 0.0 }
}

//: light_g
/// Linear green from the roots of the cones' responses.
fn light_g(l: f64, m: f64, s: f64) -> f64 {
    let v = -1.2684380046 * (l * l * l) + 2.6097574011 * (m * m * m) + -0.3413193965 * (s * s * s);
    if v > 0.0 { v } else { 0.0 }
}

//: light_b
/// Linear blue from the roots of the cones' responses.
fn light_b(l: f64, m: f64, s: f64) -> f64 {
    let v = -0.0041960863 * (l * l * l) + -0.7034186147 * (m * m * m) + 1.707614701 * (s * s * s);
    if v > 0.0 { v } else { 0.0 }
}

//: faded
/// On the way from one level to another since a moment, softly; then there to stay.
fn faded(from: f64, to: f64, since: f64, over: f64, now: f64) -> f64 {
    if now >= since + over {
        return to;
    }
    lerp(from, to, ease_smooth(clamp((now - since) / over, 0.0, 1.0)))
}

//: clean_moment
/// Not-a-number is 0; nothing lies beyond 1e9 s.
fn clean_moment(t: f64) -> f64 {
    if t > 1e-30 || t < -1e-30 { clamp(t, -1e9, 1e9) } else { 0.0 }
}

//: clean_input
/// What is not a finite number is `fallback`; the rest is kept within its bounds.
fn clean_input(v: f64, lo: f64, hi: f64, fallback: f64) -> f64 {
    if !v.is_finite() {
        return fallback;
    }
    let v = if v < -1e-30 || v > 1e-30 { v } else { 0.0 };
    clamp(v, lo, hi)
}

//: at_most
/// The place of what is read, also of a lamp beyond the last.
fn at_most(index: u32, last: u32) -> usize {
    (if index < last { index } else { last }) as usize
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
    clamp(v, -f64::from(f32::MAX), f64::from(f32::MAX)) as f32
}
//: end
