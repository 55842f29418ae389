//! The place: its axes and units, and what is solid in it.

use std::borrow::Cow;

use super::Constant;
use crate::kind::Kind;

/// Something solid in the place, for pictures of it: it casts shadows there and is not given out. In
/// meters, y up, whatever the book's axes.
#[derive(Clone, Debug, PartialEq)]
pub struct Solid {
    /// The book's name for it.
    pub name: String,
    /// Its form.
    pub form: Form,
}

/// The form of something solid. It stands upright.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Form {
    /// A thin wall between two points of its foot.
    Wall {
        /// One end of its foot.
        from: [f64; 3],
        /// The other end.
        to: [f64; 3],
        /// How high it is, above 0.
        height: f64,
    },
    /// A round post.
    Post {
        /// The middle of its foot.
        at: [f64; 3],
        /// How thick it is, above 0.
        radius: f64,
        /// How high it is, above 0.
        height: f64,
    },
}

/// Which axis points up.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Up {
    /// As in glTF.
    #[default]
    Y,
    /// With y pointing forward instead.
    Z,
}

impl Up {
    /// Which part of a point of the other axes each part of a point is, and whether its sign is turned.
    pub fn parts(self) -> [(usize, bool); 3] {
        match self {
            // What was forward, -z, is y.
            Up::Z => [(0, false), (2, true), (1, false)],
            Up::Y => [(0, false), (2, false), (1, true)],
        }
    }

    /// A point of the other axes.
    pub fn stand(self, point: [f64; 3]) -> [f64; 3] {
        self.parts().map(|(part, turned)| if turned { 0.0 - point[part] } else { point[part] })
    }
}

/// What an export wants otherwise than the book's space has it.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Wanted {
    /// Which axis is up.
    pub up: Option<Up>,
    /// The length of the unit, in meters.
    pub unit: Option<f64>,
    /// What every strength in lm, cd or lx is multiplied by.
    pub factor: Option<f64>,
}

/// How the book's places are meant and given out.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Space {
    /// Which axis is up in what is given out: that of the book's points, unless an export wants it
    /// otherwise.
    pub up: Up,
    /// The length of the unit that lengths and points are given out in, in meters.
    pub unit: f64,
    /// What strengths in lm, cd or lx are multiplied by.
    pub factor: f64,
}

impl Default for Space {
    fn default() -> Self {
        Space { up: Up::Y, unit: 1.0, factor: 1.0 }
    }
}

impl Space {
    /// What one of a game's units of this kind is: in meters, or in the unit of a strength.
    pub fn unit_of(self, kind: Kind) -> f64 {
        match kind {
            Kind::Length | Kind::Point => self.unit,
            Kind::Strength(_) => 1.0 / self.factor,
            _ => 1.0,
        }
    }

    /// A value in base units as the game gives it: in the units and of the axes that are given out already.
    pub fn scaled(self, kind: Kind, value: Constant) -> Constant {
        let unit = self.unit_of(kind);
        match value {
            Constant::Scalar(v) => Constant::Scalar(v / unit),
            Constant::Vector(v) => Constant::Vector(v.map(|v| v / unit)),
            Constant::OnOff(on) => Constant::OnOff(on),
        }
    }

    /// The unit that a light's or an output's values of this kind are given out in, as it is written
    /// after a number; empty where there is none.
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
