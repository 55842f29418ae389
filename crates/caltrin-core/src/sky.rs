//! The exact kernel of the day: hours, spans of hours, where sun and moon stand, and when the sun
//! crosses a height.
//!
//! The sky is after the approximate solar position of the Astronomical Almanac as J. J. Michalsky published it
//! (Solar Energy 40, 1988, pp. 227-235): good to 0.01 degrees from 1950 to 2050. Heights are
//! geometric, without the refraction of the air. As in [`crate::kernel`], only exact operations are
//! used, always in this order; the exported kernels say the same.

use crate::kernel::{clamp, max, round_down, sine_of_turns};

/// The last moment of a day, in hours.
pub const LAST_HOUR: f64 = 23.999_999_999_999_996;
/// Most days that a clock counts, either way.
pub const MOST_DAYS: f64 = 1e9;

/// How many whole days lie in a number of hours, from midnight on; below 0 before it.
#[inline]
pub fn days_of(hours: f64) -> f64 {
    round_down(hours / 24.0)
}

/// The hour of the day, 0 to 24 (24 excluded), after a number of hours from midnight on.
#[inline]
pub fn hour_of(hours: f64) -> f64 {
    clamp(hours - 24.0 * days_of(hours), 0.0, LAST_HOUR)
}

/// A span of hours: 0 outside, 1 inside. It opens from `start` on, for `rise` hours, and closes from
/// `end` on, for `fall` hours; over midnight where `end` comes first. One that is shorter than its opening, or
/// whose gap is shorter than its closing, only goes part of the way; where both ends meet it is 0.
#[inline]
pub fn hours_level(hour: f64, start: f64, rise: f64, end: f64, fall: f64) -> f64 {
    let passed = hour_of(hour - start);
    let open = hour_of(end - start);
    // How much of a closing is still to come, after it began.
    let left = |late: f64| if late < fall { 1.0 - late / fall } else { 0.0 };
    if passed >= rise {
        return if passed < open { 1.0 } else { left(passed - open) };
    }
    let up = passed / rise;
    if passed >= open {
        let lost = 1.0 - left(passed - open);
        return if up > lost { up - lost } else { 0.0 };
    }
    let level = up + left(passed - open + 24.0);
    if level < 1.0 { level } else { 1.0 }
}

/// How far the time between two hours has passed, 0 to 1, over midnight where `end` comes first. It stays
/// at 1 for half of the time outside, and at 0 for the other half.
#[inline]
pub fn through_level(hour: f64, start: f64, end: f64) -> f64 {
    let passed = hour_of(hour - start);
    let open = hour_of(end - start);
    if passed < open {
        return passed / open;
    }
    if passed - open < (24.0 - open) * 0.5 { 1.0 } else { 0.0 }
}

/// The angle of the point `(x, y)` as seen from the origin, counted from the x axis toward the y
/// axis: above -180 up to 180 degrees, 0 at the origin itself. Wrong by 1e-13 degrees at most.
pub fn arc_tangent(y: f64, x: f64) -> f64 {
    let ax = if x < 0.0 { -x } else { x };
    let ay = if y < 0.0 { -y } else { y };
    let (small, large) = if ay > ax { (ax, ay) } else { (ay, ax) };
    if large == 0.0 {
        return 0.0;
    }
    // Beyond tan 22.5 deg the angle is counted from 45 deg.
    let z = small / large;
    let far = z > 0.414_213_562_373_095;
    let z = if far { (z - 1.0) / (z + 1.0) } else { z };
    let u = z * z;
    let p = 2.878_903_358_695_536 + u * -1.450_427_173_154_637_2;
    let p = 4.396_608_313_130_339 + u * (-3.727_631_418_581_442_5 + u * p);
    let p = 6.366_162_033_833_398 + u * (-5.207_916_699_371_338 + u * p);
    let p = 11.459_155_890_227_322 + u * (-8.185_110_427_923_698 + u * p);
    let p = 57.295_779_513_082_266 + u * (-19.098_593_170_963_273 + u * p);
    let angle = if far { 45.0 + z * p } else { z * p };
    let angle = if ay > ax { 90.0 - angle } else { angle };
    let angle = if x < 0.0 { 180.0 - angle } else { angle };
    if y < 0.0 { -angle } else { angle }
}

/// The angle, -90 to 90 degrees, whose sine `x` is; what lies outside of -1..1 is taken as its ends.
/// Wrong by 1e-13 degrees at most.
pub fn arc_sine(x: f64) -> f64 {
    let x = clamp(x, -1.0, 1.0);
    arc_tangent(x, ((1.0 - x) * (1.0 + x)).sqrt())
}

/// A direction on the compass, 0 (north) to 360 degrees over east, of its parts to the east and
/// north.
pub fn compass(east: f64, north: f64) -> f64 {
    let angle = arc_tangent(east, north);
    if angle < 0.0 { angle + 360.0 } else { angle }
}

/// How far the sun is on its way through the year, in turns from the spring equinox: `days` after noon of
/// 1 January 2000 in UT.
pub fn sun_way(days: f64) -> f64 {
    let anomaly = 0.993_133_333_333_333_3 + days * 0.002_737_778_611_111_111;
    let mean = 0.779_055_555_555_555_5 + days * 0.002_737_909_333_333_333_3;
    let ahead = sine_of_turns(anomaly) * 0.005_319_444_444_444_444;
    mean + ahead + sine_of_turns(anomaly + anomaly) * 0.000_055_555_555_555_555_56
}

/// How far the axis of the earth leans, in turns: `days` as for [`sun_way`].
pub fn axis_tilt(days: f64) -> f64 {
    0.065_108_333_333_333_33 - days * 0.000_000_001_111_111_111
}

/// How far the sky has turned over a longitude in degrees, in turns: `days` as for [`sun_way`].
pub fn sky_turn(days: f64, longitude: f64) -> f64 {
    0.779_057_273_25 + days * 1.002_737_909_350_795 + longitude / 360.0
}

/// Part `part` (0 east, 1 up, 2 south) of the direction, of length 1, to the sun, or to what runs
/// `ahead` turns before it on its way through the year, as seen from a latitude and longitude in degrees:
/// `days` as for [`sun_way`].
pub fn sky_part(part: f64, days: f64, ahead: f64, latitude: f64, longitude: f64) -> f64 {
    let (way, tilt) = (sun_way(days) + ahead, axis_tilt(days));
    let across = sine_of_turns(way);
    let x = sine_of_turns(way + 0.25);
    let y = sine_of_turns(tilt + 0.25) * across;
    let z = sine_of_turns(tilt) * across;
    let sky = sky_turn(days, longitude);
    let (sine, cosine) = (sine_of_turns(sky), sine_of_turns(sky + 0.25));
    if part == 0.0 {
        return clamp(y * cosine - x * sine, -1.0, 1.0);
    }
    let meridian = x * cosine + y * sine;
    let (low, high) = (sine_of_turns(latitude / 360.0), sine_of_turns(latitude / 360.0 + 0.25));
    let v = if part == 1.0 { low * z + high * meridian } else { low * meridian - high * z };
    clamp(v, -1.0, 1.0)
}

/// The hour, 0 to 24, at which the sun crosses a height, of which the sine is given: on its way up
/// where `side` is -1, down where it is 1, highest where it is 0. `days` is the start of the clock's
/// day, as for [`sun_way`]. Where the sun stays below, it is the hour at which it stands highest; where
/// it stays above, that at which it stands lowest.
pub fn sun_hour(side: f64, days: f64, latitude: f64, longitude: f64, sine: f64) -> f64 {
    let (low, high) = (sine_of_turns(latitude / 360.0), sine_of_turns(latitude / 360.0 + 0.25));
    let mut hour = 12.0;
    let mut aim = 0.0;
    let mut pass = 0;
    while pass < 4 {
        let now = days + hour / 24.0;
        let (way, tilt) = (sun_way(now), axis_tilt(now));
        let across = sine_of_turns(way);
        let x = sine_of_turns(way + 0.25);
        let y = sine_of_turns(tilt + 0.25) * across;
        let z = sine_of_turns(tilt) * across;
        // From where it stands, in turns past its highest, on to where it is to stand: first to its
        // highest on this day, then to the height.
        let past = sky_turn(now, longitude) - arc_tangent(y, x) / 360.0;
        let left = aim - past;
        hour += 24.0 * (left - round_down(left + 0.5));
        let flat = ((1.0 - z) * (1.0 + z)).sqrt();
        let share = clamp((sine - low * z) / max(high * flat, 1e-12), -1.0, 1.0);
        aim = side * (0.25 - arc_sine(share) / 360.0);
        pass += 1;
    }
    hour_of(hour)
}

/// Whether the sun crosses a height on a day: -1 where it stays below, 1 where it stays above, 0 where it
/// crosses it, 0.5 (either sign) where it only rises or only sets; arguments as for [`sun_hour`]. One that comes within a few minutes of not crossing it counts as not crossing.
pub fn sun_stays(days: f64, latitude: f64, longitude: f64, sine: f64) -> f64 {
    let noon = sun_hour(0.0, days, latitude, longitude, sine);
    let (low, high) = (sine_of_turns(latitude / 360.0), sine_of_turns(latitude / 360.0 + 0.25));
    let mut stays = 0.0;
    let mut side = -1.0;
    while side < 2.0 {
        let hour = sun_hour(side, days, latitude, longitude, sine);
        let apart = hour_of(side * (hour - noon));
        // What is all but a day after noon is just before it.
        let apart = if apart > 18.0 { apart - 24.0 } else { apart };
        let now = days + (noon + side * apart) / 24.0;
        let z = sine_of_turns(axis_tilt(now)) * sine_of_turns(sun_way(now));
        let flat = ((1.0 - z) * (1.0 + z)).sqrt();
        let share = (sine - low * z) / max(high * flat, 1e-12);
        if share > 0.9999 {
            stays -= 1.0;
        } else if share < -0.9999 {
            stays += 1.0;
        }
        side += 2.0;
    }
    stays * 0.5
}
