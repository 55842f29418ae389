//! The exact kernel of the day: hours, spans of hours, where sun and moon stand, and when the sun
//! crosses a height.
//!
//! The sky is after the approximate solar position of the Astronomical Almanac as J. J. Michalsky published it
//! (Solar Energy 40, 1988, pp. 227-235): good to 0.01 degrees from 1950 to 2050. Heights are
//! geometric, without the refraction of the air. The functions are a part of
//! the exact [`crate::kernel`].

pub use crate::kernel::{
    LAST_HOUR, arc_sine, arc_tangent, axis_tilt, compass, days_of, hour_of, hours_level, sky_part,
    sky_turn, sun_hour, sun_stays, sun_way, through_level,
};

/// Most days that a clock counts, either way.
pub const MOST_DAYS: f64 = 1e9;
