//! Fields and channels: names, kinds, units and ranges.

use super::LightKind::{self, Ambient, Area, Directional, Point, Spot};
use crate::kind::{Kind, Photometry};

/// A field of a lamp: a channel, or one side of a channel that is a range; or a value of an output.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Field {
    /// Intensity, in the unit of its kind or as a factor.
    Intensity,
    /// Linear Rec. 709, largest component 1.
    Color,
    /// The distance up to which the light has full intensity, m.
    ReachInner,
    /// The distance from which there is no light, m.
    ReachOuter,
    /// Full angle of the cone's inner part, degrees.
    ConeInner,
    /// Full angle of the cone, degrees.
    ConeOuter,
    /// The falloff exponent: 2 is the inverse square.
    Falloff,
    /// Position, m.
    Position,
    /// Displacement from the position, m.
    Offset,
    /// Direction, a unit vector.
    Aim,
    /// Whether it casts shadows.
    Shadows,
    /// A value of an output, by index; [`super::Light::field_name`] returns its name.
    Named(u8),
}

/// The kinds of value that a field accepts.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Takes {
    /// A value of this kind, and a description of it.
    Only(Kind, &'static str),
    /// An intensity in the units of its kind of light, or a plain number as a factor.
    Strength,
    /// A value of any kind.
    Any,
}

/// The unit of a field's values.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Given {
    /// In the unit of its kind, in the book's space.
    Unit,
    /// As it is, without a unit.
    Plain,
}

/// The properties of a field.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Facts {
    /// Its name in tables and exported code.
    pub name: &'static str,
    /// The kinds of value that it accepts.
    pub takes: Takes,
    /// Its name in messages, minimum and maximum, if it has a range.
    pub range: Option<(&'static str, f64, f64)>,
    /// Whether its unit precedes its meaning.
    pub given: Given,
    /// Its meaning in a few words; empty if the name is enough.
    pub meaning: &'static str,
}

const LENGTH: Takes = Takes::Only(Kind::Length, "a length such as `14m`");
const ANGLE: Takes = Takes::Only(Kind::Angle, "an angle such as `50deg`");

impl Field {
    /// The properties of the field.
    #[rustfmt::skip]
    pub const fn facts(self) -> Facts {
        use Given::{Plain, Unit};
        const fn fact(name: &'static str, takes: Takes, range: Option<(&'static str, f64, f64)>, given: Given, meaning: &'static str) -> Facts {
            Facts { name, takes, range, given, meaning }
        }
        match self {
            Field::Intensity => fact("intensity", Takes::Strength, None, Unit, ""),
            Field::Color => fact("color", Takes::Only(Kind::Color, "a color such as `#ffc37a` or `2100K`"), None, Plain, "linear Rec. 709"),
            Field::ReachInner => fact("reach_inner", LENGTH, Some(("the inner reach", 0.0, 1e6)), Unit, "full light up to this distance"),
            Field::ReachOuter => fact("reach_outer", LENGTH, Some(("the outer reach", 1e-3, 1e6)), Unit, "no light from this distance on"),
            Field::ConeInner => fact("cone_inner", ANGLE, Some(("the inner cone", 0.0, 180.0)), Unit, "full angle, full light inside"),
            Field::ConeOuter => fact("cone_outer", ANGLE, Some(("the outer cone", 1e-3, 180.0)), Unit, "full angle, none from here on"),
            Field::Falloff => fact("falloff", Takes::Only(Kind::Number, "a number; `2` is the inverse square"), Some(("the falloff", 0.0, 16.0)), Plain, "exponent of the distance, 2 is the inverse square"),
            Field::Position => fact("position", Takes::Only(Kind::Point, "a point such as `(0m, 6m, 0m)`"), None, Unit, ""),
            Field::Offset => fact("offset", Takes::Only(Kind::Point, "a displacement such as `wander(radius 3cm, rate 4Hz)`"), None, Unit, "added to the position"),
            Field::Aim => fact("aim", Takes::Only(Kind::Point, "a direction such as `(0m, -1m, 0m)`"), None, Plain, "direction, of length 1"),
            Field::Shadows => fact("shadows", Takes::Only(Kind::OnOff, "on or off"), None, Plain, "whether the lamp casts shadows"),
            Field::Named(_) => fact("value", Takes::Any, None, Unit, ""),
        }
    }

    /// Its name in tables and exported code; `value` for values of outputs.
    pub fn name(self) -> &'static str {
        self.facts().name
    }

    /// Its channel; `None` for a value of an output.
    pub fn channel(self) -> Option<&'static Channel> {
        CHANNELS.iter().find(|channel| channel.fields.contains(&self))
    }

    /// The description of what it accepts in a light of this kind, if it does not accept the kind
    /// `found`.
    pub fn wanted(self, light: LightKind, found: Kind) -> Option<&'static str> {
        match self.facts().takes {
            Takes::Any => None,
            Takes::Only(kind, words) => (found != kind).then_some(words),
            Takes::Strength => {
                let (units, words) = match light {
                    Ambient | Directional => {
                        (&[Photometry::Lux][..], "a strength in lx, or a number as a factor")
                    }
                    _ => (
                        &[Photometry::Lumen, Photometry::Candela][..],
                        "a strength in lm or cd, or a number as a factor",
                    ),
                };
                let fits = match found {
                    Kind::Number => true,
                    Kind::Strength(unit) => units.contains(&unit),
                    _ => false,
                };
                (!fits).then_some(words)
            }
        }
    }
}

/// A channel of a light.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Channel {
    /// The language's word for it.
    pub name: &'static str,
    /// Its fields; two for a range from inner to outer.
    pub fields: &'static [Field],
    /// The kinds of light that have it.
    pub lights: &'static [LightKind],
}

/// Every channel, in the order of a lamp's fields.
pub const CHANNELS: [Channel; 9] = [
    Channel {
        name: "intensity",
        fields: &[Field::Intensity],
        lights: &[Point, Spot, Area, Directional, Ambient],
    },
    Channel {
        name: "color",
        fields: &[Field::Color],
        lights: &[Point, Spot, Area, Directional, Ambient],
    },
    Channel {
        name: "reach",
        fields: &[Field::ReachInner, Field::ReachOuter],
        lights: &[Point, Spot, Area],
    },
    Channel { name: "cone", fields: &[Field::ConeInner, Field::ConeOuter], lights: &[Spot] },
    Channel { name: "falloff", fields: &[Field::Falloff], lights: &[Point, Spot, Area] },
    Channel { name: "position", fields: &[Field::Position], lights: &[Point, Spot, Area] },
    Channel { name: "offset", fields: &[Field::Offset], lights: &[Point, Spot, Area] },
    Channel { name: "aim", fields: &[Field::Aim], lights: &[Spot, Area, Directional] },
    Channel {
        name: "shadows",
        fields: &[Field::Shadows],
        lights: &[Point, Spot, Area, Directional],
    },
];
