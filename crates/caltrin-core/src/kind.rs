//! What a value is (its kind), how often it changes (its change rate) and whose it is (its scope).

use std::fmt;

/// The photometric unit of a strength.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Photometry {
    /// Luminous flux, lm.
    Lumen,
    /// Luminous intensity, cd.
    Candela,
    /// Illuminance, lx.
    Lux,
}

impl Photometry {
    /// The unit's SI symbol.
    pub fn symbol(self) -> &'static str {
        match self {
            Photometry::Lumen => "lm",
            Photometry::Candela => "cd",
            Photometry::Lux => "lx",
        }
    }
}

/// The kind of a value. Values of two kinds never mix by accident.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Kind {
    /// A plain number or a percentage.
    Number,
    /// Seconds.
    Time,
    /// 1/s.
    Rate,
    /// Degrees.
    Angle,
    /// Meters.
    Length,
    /// A light's strength in one of the photometric units.
    Strength(Photometry),
    /// Linear light, three parts.
    Color,
    /// A place or a displacement in meters, three parts.
    Point,
    /// On or off.
    OnOff,
    /// An hour of the game's day, 0 to 24.
    Hour,
}

impl Kind {
    /// How many numbers a value of this kind is made of.
    pub fn width(self) -> usize {
        match self {
            Kind::Color | Kind::Point => 3,
            Kind::Number
            | Kind::Time
            | Kind::Rate
            | Kind::Angle
            | Kind::Length
            | Kind::Strength(_)
            | Kind::OnOff
            | Kind::Hour => 1,
        }
    }

    /// Whether values of this kind can be ordered and blended as one number.
    pub fn is_scalar(self) -> bool {
        !matches!(self, Kind::Color | Kind::Point | Kind::OnOff | Kind::Hour)
    }

    /// The unit that values are kept in, empty where there is none.
    pub fn unit(self) -> &'static str {
        match self {
            Kind::Time => "s",
            Kind::Rate => "Hz",
            Kind::Angle => "deg",
            Kind::Length | Kind::Point => "m",
            Kind::Strength(unit) => unit.symbol(),
            Kind::Hour => "h",
            Kind::Number | Kind::Color | Kind::OnOff => "",
        }
    }
}

impl fmt::Display for Kind {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Kind::Number => f.write_str("a number"),
            Kind::Time => f.write_str("a time"),
            Kind::Rate => f.write_str("a rate"),
            Kind::Angle => f.write_str("an angle"),
            Kind::Length => f.write_str("a length"),
            Kind::Strength(unit) => write!(f, "a strength in {}", unit.symbol()),
            Kind::Color => f.write_str("a color"),
            Kind::Point => f.write_str("a point"),
            Kind::OnOff => f.write_str("on or off"),
            Kind::Hour => f.write_str("an hour"),
        }
    }
}

/// How often a value changes, from never to always.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum ChangeRate {
    /// Known when the book is read.
    Constant,
    /// The same for a whole run, or for a lamp through a whole run.
    Fixed,
    /// Changes only when something happens.
    Stepwise,
    /// Changes with time.
    Flowing,
}

impl fmt::Display for ChangeRate {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            ChangeRate::Constant => "constant",
            ChangeRate::Fixed => "fixed for a run",
            ChangeRate::Stepwise => "changing at events",
            ChangeRate::Flowing => "changing with time",
        })
    }
}

/// Whose a value is: one for the book, one for each instance of a fitting, or one for each lamp.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum InstanceLevel {
    /// One for the whole book.
    Book,
    /// One for each instance of a fitting; the number counts how deep fittings lie in each other.
    Instance(u8),
    /// One for each lamp.
    Lamp,
}
