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
    /// How often, in 1/s.
    Hertz, "Hz"
);
quantity!(
    /// A length, in metres.
    Metres, "m"
);
quantity!(
    /// An angle, in degrees.
    Degrees, "deg"
);
quantity!(
    /// A colour temperature, in kelvin.
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

/// The seed that every chance of a run comes from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Seed(pub u32);

/// `ms` milliseconds.
pub fn ms(ms: f64) -> Seconds {
    Seconds(ms / 1000.0)
}
