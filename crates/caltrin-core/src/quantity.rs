//! Quantities as types: no bare `f64` stands for a time or a length in a public signature.

use std::fmt;

macro_rules! quantity {
    ($(#[$doc:meta])* $name:ident, $unit:literal) => {
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, PartialEq, PartialOrd)]
        pub struct $name(pub f64);

        impl fmt::Display for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                write!(f, "{}{}", self.0, $unit)
            }
        }
    };
}

quantity!(
    /// A time or a moment of the run, in seconds.
    Seconds, "s"
);
quantity!(
    /// An hour of the game's day, 0 to 24, or a span of it in hours.
    Hours, "h"
);
quantity!(
    /// How often, in 1/s.
    Hertz, "Hz"
);
quantity!(
    /// A length, in meters.
    Meters, "m"
);
quantity!(
    /// An angle, in degrees.
    Degrees, "deg"
);
quantity!(
    /// A color temperature, in kelvin.
    Kelvin, "K"
);
quantity!(
    /// Luminous flux, in lumens.
    Lumens, "lm"
);
quantity!(
    /// Luminous intensity, in candelas.
    Candelas, "cd"
);
quantity!(
    /// Illuminance, in lux.
    Lux, "lx"
);

quantity!(
    /// Where a stop stands on a curve: in seconds on a curve that plays, in the base unit of its kind
    /// on a ramp.
    Place, ""
);

impl Hours {
    /// As a clock shows it: `06:10`, or `06:10:30` where it is not on the minute; rounded to seconds,
    /// and `24:00` for the end of the day.
    pub fn to_clock(self) -> String {
        let seconds = (self.0 * 3600.0).round();
        let sign = if seconds < 0.0 { "-" } else { "" };
        let seconds = seconds.abs() as u64;
        let (hours, minutes, seconds) = (seconds / 3600, seconds / 60 % 60, seconds % 60);
        match seconds {
            0 => format!("{sign}{hours:02}:{minutes:02}"),
            _ => format!("{sign}{hours:02}:{minutes:02}:{seconds:02}"),
        }
    }
}

/// The seed that every chance of a run comes from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Seed(pub u32);

/// `ms` milliseconds.
pub fn ms(ms: f64) -> Seconds {
    Seconds(ms / 1000.0)
}
