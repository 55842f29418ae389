//! Coordinate system and units, walls and posts.

use std::borrow::Cow;

use super::{Constant, Field, LightId};
use crate::kind::Kind;

/// A wall or post, which casts shadows in drawings of the place and is not exported. In meters with
/// y up, regardless of the book's axes.
#[derive(Clone, Debug, PartialEq)]
pub struct Solid {
    /// The book's name for it.
    pub name: String,
    /// Its shape.
    pub form: Form,
}

/// The shape of a wall or post; both are vertical.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Form {
    /// A thin wall between two points of its base.
    Wall {
        /// One end of its base.
        from: [f64; 3],
        /// The other end.
        to: [f64; 3],
        /// Height, greater than 0.
        height: f64,
    },
    /// A round post.
    Post {
        /// Center of its base.
        at: [f64; 3],
        /// Radius, greater than 0.
        radius: f64,
        /// Height, greater than 0.
        height: f64,
    },
}

/// A viewpoint in the place, for drawings of it; not exported. In meters with y up, regardless of
/// the book's axes.
#[derive(Clone, Debug, PartialEq)]
pub struct Eye {
    /// The book's name for it.
    pub name: String,
    /// Where it is.
    pub at: [f64; 3],
    /// A point that it looks at; it is drawn in the middle of the picture.
    pub toward: [f64; 3],
    /// The angle between the left and the right edge of the picture, in degrees.
    pub field: f64,
    /// The fog that it sees.
    pub fog: Option<Fog>,
    /// The output that gives the color of the sky.
    pub sky: Option<OutputValue>,
}

/// Fog as an eye sees it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fog {
    /// The output for its density: the visual range, or a number; 1 is a visual range of [`THICK`].
    pub range: OutputValue,
    /// The output for its color; default: white.
    pub color: Option<OutputValue>,
}

/// The visual range for a fog output of 100%, in meters.
pub const THICK: f64 = 50.0;

/// A value of an output.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct OutputValue {
    /// The output.
    pub output: LightId,
    /// Which of its values.
    pub field: Field,
}

/// A picture that lies on the ground or stands upright, for drawings of the place; not exported. In meters with
/// y up, regardless of the book's axes.
///
/// With both points at one height it lies between two opposite corners, with its upper edge toward -z and its left
/// edge toward -x. Otherwise it stands: its left side is over `from`, its right side over `to`, and it reaches from the
/// lower to the higher of the two.
#[derive(Clone, Debug, PartialEq)]
pub struct Backdrop {
    /// The picture's file, in the folder of the book.
    pub file: String,
    /// One corner.
    pub from: [f64; 3],
    /// The opposite corner.
    pub to: [f64; 3],
}

impl Backdrop {
    /// Whether it lies on the ground or parallel to it.
    pub fn lies(&self) -> bool {
        self.from[1] == self.to[1]
    }

    /// Its left upper corner, and the vectors along its upper and its left edge.
    pub fn edges(&self) -> [[f64; 3]; 3] {
        let (from, to) = (self.from, self.to);
        if self.lies() {
            let corner = [from[0].min(to[0]), from[1], from[2].min(to[2])];
            let [wide, deep] = [0, 2].map(|n| (to[n] - from[n]).abs());
            return [corner, [wide, 0.0, 0.0], [0.0, 0.0, deep]];
        }
        let high = from[1].max(to[1]);
        let across = [to[0] - from[0], 0.0, to[2] - from[2]];
        [[from[0], high, from[2]], across, [0.0, -(to[1] - from[1]).abs(), 0.0]]
    }
}

/// The up axis.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Up {
    /// y is up, as in glTF.
    #[default]
    Y,
    /// z is up and y points forward.
    Z,
}

impl Up {
    /// Its letter: `y` or `z`.
    pub fn name(self) -> &'static str {
        match self {
            Up::Y => "y",
            Up::Z => "z",
        }
    }

    /// For each component, the component of the other axes that it is, and whether its sign is
    /// inverted.
    pub fn parts(self) -> [(usize, bool); 3] {
        match self {
            // What was forward, -z, is y.
            Up::Z => [(0, false), (2, true), (1, false)],
            Up::Y => [(0, false), (2, false), (1, true)],
        }
    }

    /// Converts a point of the other axes.
    pub fn stand(self, point: [f64; 3]) -> [f64; 3] {
        self.parts().map(|(part, turned)| if turned { 0.0 - point[part] } else { point[part] })
    }
}

/// An export's overrides of the book's space.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Wanted {
    /// The up axis.
    pub up: Option<Up>,
    /// The length of the unit, in meters.
    pub unit: Option<f64>,
    /// The factor for all intensities in lm, cd or lx.
    pub factor: Option<f64>,
}

/// The coordinate system and units of a book's values.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Space {
    /// The up axis of all values: that of the book's points, unless an export overrides it.
    pub up: Up,
    /// The unit of lengths and points, in meters.
    pub unit: f64,
    /// The factor for intensities in lm, cd or lx.
    pub factor: f64,
}

impl Default for Space {
    fn default() -> Self {
        Space { up: Up::Y, unit: 1.0, factor: 1.0 }
    }
}

impl Space {
    /// The size of one of the game's units of this kind: in meters, or in the unit of an intensity.
    pub fn unit_of(self, kind: Kind) -> f64 {
        match kind {
            Kind::Length | Kind::Point => self.unit,
            Kind::Strength(_) => 1.0 / self.factor,
            _ => 1.0,
        }
    }

    /// Converts a value from base units to the game's units; its axes are the game's already.
    pub fn scaled(self, kind: Kind, value: Constant) -> Constant {
        let unit = self.unit_of(kind);
        match value {
            Constant::Scalar(v) => Constant::Scalar(v / unit),
            Constant::Vector(v) => Constant::Vector(v.map(|v| v / unit)),
            Constant::OnOff(on) => Constant::OnOff(on),
        }
    }

    /// The unit of a light's or output's values of this kind, as written after a number; empty if
    /// there is none.
    pub fn symbol(self, kind: Kind) -> Cow<'static, str> {
        match kind {
            Kind::Length | Kind::Point => {}
            Kind::Strength(_) if self.factor != 1.0 => {
                return format!("{} x {}", kind.unit(), self.factor).into();
            }
            _ => return kind.unit().into(),
        }
        match self.unit {
            1.0 => "m".into(),
            1e-2 => "cm".into(),
            1e-3 => "mm".into(),
            unit => format!("x {unit} m").into(),
        }
    }
}
