//! Fields and channels: all that is to be known of each, in one place.

use super::LightKind::{self, Ambient, Area, Directional, Point, Spot};
use crate::kind::{Kind, Photometry};

/// A field of a lamp: a channel, or one side of a channel that is a range; or a value of an output.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Field {
    /// Strength, in the unit of its kind or as a factor.
    Intensity,
    /// Linear Rec. 709, brightest part 1.
    Color,
    /// Up to here the light is full, m.
    ReachInner,
    /// From here on there is none, m.
    ReachOuter,
    /// Full angle up to which the cone is full, degrees.
    ConeInner,
    /// Full angle from which on there is no light, degrees.
    ConeOuter,
    /// The power of the distance by which the light falls: 2 is the inverse square.
    Falloff,
    /// Where the lamp is, m.
    Position,
    /// A displacement from its position, m.
    Offset,
    /// Where it points, a direction of length 1.
    Aim,
    /// Whether it casts shadows.
    Shadows,
    /// A value of an output, counted from 0; [`super::Light::field_name`] knows its name.
    Named(u8),
}

/// What may drive a field.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Takes {
    /// A value of this kind; what to write, in words.
    Only(Kind, &'static str),
    /// A strength in the units of its kind of light, or a plain number as a factor.
    Strength,
    /// A value of any kind.
    Any,
}

/// In what a field's values are given out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Given {
    /// In the unit of its kind, in the book's space.
    Unit,
    /// As it is, without a unit.
    Plain,
}

/// All that is to be known of a field.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Facts {
    /// Its name in tables and exported code.
    pub name: &'static str,
    /// What may drive it.
    pub takes: Takes,
    /// Its name in messages, least and most, where it has bounds.
    pub range: Option<(&'static str, f64, f64)>,
    /// Whether a unit stands before its meaning.
    pub given: Given,
    /// What it means, in a few words; nothing where the name says it.
    pub meaning: &'static str,
}

const LENGTH: Takes = Takes::Only(Kind::Length, "a length such as `14m`");
const ANGLE: Takes = Takes::Only(Kind::Angle, "an angle such as `50deg`");

impl Field {
    /// All that is to be known of it.
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

    /// Its name in tables and exported code; `value` for what an output names itself.
    pub fn name(self) -> &'static str {
        self.facts().name
    }

    /// The channel that it belongs to; none for a value of an output.
    pub fn channel(self) -> Option<&'static Channel> {
        CHANNELS.iter().find(|channel| channel.fields.contains(&self))
    }

    /// What must be written for it in a light of this kind, if a value of the kind `found` may not drive it.
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

/// A channel: what a lightbook names in a light.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Channel {
    /// The language's word for it.
    pub name: &'static str,
    /// Its fields; two where it is a range from inner to outer.
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
