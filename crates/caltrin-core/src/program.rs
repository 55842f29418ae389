//! The program: what a lightbook or the builder comes to, and what everything after reads.
//!
//! An expression refers only to expressions made before it, signals and behaviours likewise, so a
//! program has no cycles and can be walked in the order of its ids. Vectors (colours, points) are
//! values like any other; only the printers and the evaluator take them apart.

use std::collections::BTreeMap;

use crate::curve::Curve;
use crate::kind::{Kind, Pace, Scope};
use crate::quantity::Seed;

macro_rules! id {
    ($(#[$doc:meta])* $name:ident) => {
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub struct $name(pub(crate) u32);

        impl $name {
            /// Its place in the program's list.
            pub fn index(self) -> usize {
                self.0 as usize
            }
        }
    };
}

id!(
    /// An expression.
    ExprId
);
id!(
    /// A curve.
    CurveId
);
id!(
    /// A signal.
    SignalId
);
id!(
    /// A behaviour.
    BehaviourId
);
id!(
    /// A light or an array of lights.
    LightId
);

/// A value that is known when the book is read, in the base unit of its kind.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Constant {
    /// Every kind that is one number.
    Scalar(f64),
    /// A colour or a point.
    Vector([f64; 3]),
    /// On is true.
    OnOff(bool),
}

/// A place of chance: all its draws come from this number and what it is called with.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Site(pub u32);

/// How a curve's time is made from the run's.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Turn {
    /// Starts again at its start.
    Loop,
    /// Plays there and back.
    Alternate,
}

/// Whether the copies of a turning curve start together or each at its own place.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Start {
    /// All at the start of the run, and nobody said whether that is meant.
    Unsaid,
    /// All at the start of the run, as meant.
    Together,
    /// Each shifted by its own chance.
    Scattered,
}

/// What an expression does. Operands are made before it.
#[derive(Clone, Debug, PartialEq)]
pub enum Op {
    /// A known value.
    Constant(Constant),
    /// The run's time.
    Now,
    /// The lamp's index in its array, from 0.
    Index,
    /// A parameter of the behaviour that this expression stands in.
    Parameter(usize),
    /// A signal's value.
    Signal(SignalId),
    /// A behaviour's value, with an argument for each parameter, and a place of chance if it has
    /// any chance in it.
    Call(BehaviourId, Vec<ExprId>, Option<Site>),
    /// The sign turned; numbers and points.
    Negate(ExprId),
    /// The sum; two of one kind.
    Add(ExprId, ExprId),
    /// The difference; two of one kind.
    Subtract(ExprId, ExprId),
    /// The product; kinds as the language says. A vector stands on the left.
    Multiply(ExprId, ExprId),
    /// The quotient; kinds as the language says.
    Divide(ExprId, ExprId),
    /// The smaller.
    Least(ExprId, ExprId),
    /// The larger.
    Greatest(ExprId, ExprId),
    /// The first kept inside the second and third.
    Within(ExprId, ExprId, ExprId),
    /// The first at 0 of the third, the second at 1, and never outside of the two.
    Between(ExprId, ExprId, ExprId),
    /// Whether the first is above the second.
    Above(ExprId, ExprId),
    /// Whether both are on.
    And(ExprId, ExprId),
    /// Whether one is on.
    Or(ExprId, ExprId),
    /// Whether it is off.
    Not(ExprId),
    /// The second where the first is on, else the third.
    Choose(ExprId, ExprId, ExprId),
    /// A point of three lengths.
    Point(ExprId, ExprId, ExprId),
    /// A level 0..1 drawn again after random times, of a mean rate and a jitter (see
    /// [`crate::kernel::held_level`]).
    Held(ExprId, ExprId, Site),
    /// A chance in 0..1 drawn once.
    Phase(Site),
    /// A time turned into a place in a period. A scattered start is already in the time; it is
    /// kept here for the checks.
    Turned(Turn, Start, ExprId, ExprId),
    /// A curve's value at a time.
    Curve(CurveId, ExprId),
    /// The largest part of a colour.
    Brightest(ExprId),
    /// The colour with its brightest part at 1.
    BrightestAtOne(ExprId),
}

impl Op {
    /// The expressions that this one is made of, in order.
    pub fn operands(&self) -> Vec<ExprId> {
        match self {
            Op::Constant(_) | Op::Now | Op::Index | Op::Parameter(_) | Op::Signal(_) => Vec::new(),
            Op::Phase(_) => Vec::new(),
            Op::Call(_, args, _) => args.clone(),
            Op::Negate(a)
            | Op::Not(a)
            | Op::Curve(_, a)
            | Op::Brightest(a)
            | Op::BrightestAtOne(a) => vec![*a],
            Op::Add(a, b)
            | Op::Subtract(a, b)
            | Op::Multiply(a, b)
            | Op::Divide(a, b)
            | Op::Least(a, b)
            | Op::Greatest(a, b)
            | Op::Above(a, b)
            | Op::And(a, b)
            | Op::Or(a, b)
            | Op::Held(a, b, _)
            | Op::Turned(_, _, a, b) => vec![*a, *b],
            Op::Within(a, b, c)
            | Op::Between(a, b, c)
            | Op::Choose(a, b, c)
            | Op::Point(a, b, c) => {
                vec![*a, *b, *c]
            }
        }
    }
}

/// An expression with what is known of it.
#[derive(Clone, Debug, PartialEq)]
pub struct Expr {
    /// What it does.
    pub op: Op,
    /// The kind of its value.
    pub kind: Kind,
    /// How often it changes, parameters apart.
    pub pace: Pace,
    /// Whose it is, parameters apart.
    pub scope: Scope,
    /// Whether a chance of its own (not a signal's) is in it.
    pub chancy: bool,
    /// The parameters that it depends on, one bit each.
    pub parameters: u32,
}

/// A curve with its name.
#[derive(Clone, Debug, PartialEq)]
pub struct NamedCurve {
    /// The book's name for it.
    pub name: String,
    /// The kind of its values.
    pub kind: Kind,
    /// Its stops.
    pub curve: Curve,
}

/// One value over time that all who use it share.
#[derive(Clone, Debug, PartialEq)]
pub struct Signal {
    /// The book's name for it.
    pub name: String,
    /// Its value.
    pub value: ExprId,
}

/// A parameter of a behaviour.
#[derive(Clone, Debug, PartialEq)]
pub struct Parameter {
    /// The book's name for it.
    pub name: String,
    /// Its value where a call does not give one; it fixes the kind.
    pub default: ExprId,
    /// The liveliest pace that an argument may have.
    pub limit: Pace,
}

/// A recipe: each use gets its own copy and its own chance.
#[derive(Clone, Debug, PartialEq)]
pub struct Behaviour {
    /// The book's name for it.
    pub name: String,
    /// Its parameters in order.
    pub parameters: Vec<Parameter>,
    /// What it gives.
    pub value: ExprId,
}

/// The kinds of light, as glTF's punctual lights name them, and ambient light.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum LightKind {
    /// Shines from a point to all sides.
    Point,
    /// Shines from a point into a cone.
    Spot,
    /// Light from everywhere.
    Ambient,
}

impl LightKind {
    /// The language's word for it.
    pub fn name(self) -> &'static str {
        match self {
            LightKind::Point => "point",
            LightKind::Spot => "spot",
            LightKind::Ambient => "ambient",
        }
    }
}

/// How many lamps a light has.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Size {
    /// One lamp, without an index.
    One,
    /// An array of that many.
    Many(u32),
    /// As many as the game makes: every index can be read.
    Open,
}

impl Size {
    /// How many lamps a picture or a trace shows: an open array is seen by its first four.
    pub fn shown(self) -> u32 {
        match self {
            Size::One => 1,
            Size::Many(n) => n,
            Size::Open => 4,
        }
    }
}

/// Most lamps that one array may have.
pub const MOST_LAMPS: u32 = 1_000_000;

/// A field of a lamp: a channel, or one side of a channel that is a range.
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
    /// Where the lamp is, m.
    Position,
}

impl Field {
    /// Its name in tables and exported code.
    pub fn name(self) -> &'static str {
        match self {
            Field::Intensity => "intensity",
            Field::Color => "color",
            Field::ReachInner => "reach_inner",
            Field::ReachOuter => "reach_outer",
            Field::ConeInner => "cone_inner",
            Field::ConeOuter => "cone_outer",
            Field::Position => "position",
        }
    }

    /// The names of its parts where it is made of more than one number.
    pub fn parts(self) -> &'static [&'static str] {
        match self {
            Field::Color => &["r", "g", "b"],
            Field::Position => &["x", "y", "z"],
            Field::Intensity
            | Field::ReachInner
            | Field::ReachOuter
            | Field::ConeInner
            | Field::ConeOuter => &[],
        }
    }

    /// How many numbers it is made of.
    pub fn width(self) -> usize {
        self.parts().len().max(1)
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

use LightKind::{Ambient, Point, Spot};

/// Every channel, in the order of a lamp's fields.
pub const CHANNELS: [Channel; 5] = [
    Channel { name: "intensity", fields: &[Field::Intensity], lights: &[Point, Spot, Ambient] },
    Channel { name: "color", fields: &[Field::Color], lights: &[Point, Spot, Ambient] },
    Channel {
        name: "reach",
        fields: &[Field::ReachInner, Field::ReachOuter],
        lights: &[Point, Spot],
    },
    Channel { name: "cone", fields: &[Field::ConeInner, Field::ConeOuter], lights: &[Spot] },
    Channel { name: "position", fields: &[Field::Position], lights: &[Point, Spot] },
];

/// A field that the book drives. What a light does not name is not driven.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Drive {
    /// Which field.
    pub field: Field,
    /// Its value.
    pub value: ExprId,
}

/// A light, or an array of lights with one description.
#[derive(Clone, Debug, PartialEq)]
pub struct Light {
    /// The book's name for it.
    pub name: String,
    /// What kind of lamp.
    pub kind: LightKind,
    /// How many.
    pub size: Size,
    /// What is driven, in the order of [`CHANNELS`].
    pub drives: Vec<Drive>,
    /// The colour as the book says it, before its darkness went into the strength.
    pub stated_color: Option<ExprId>,
}

impl Light {
    /// How many numbers a lamp of this light has.
    pub fn width(&self) -> usize {
        self.drives.iter().map(|drive| drive.field.width()).sum()
    }

    /// What drives a field, if anything does.
    pub fn drive(&self, field: Field) -> Option<ExprId> {
        self.drives.iter().find(|drive| drive.field == field).map(|drive| drive.value)
    }
}

/// Something of the program that has a name or a line in the book.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Subject {
    /// The whole book.
    Book,
    /// A curve.
    Curve(CurveId),
    /// A signal.
    Signal(SignalId),
    /// A behaviour.
    Behaviour(BehaviourId),
    /// A light.
    Light(LightId),
    /// One field of a light.
    Drive(LightId, Field),
}

/// The program, made by [`crate::draft::Draft`] and read by everyone after.
#[derive(Clone, Debug, PartialEq)]
pub struct Program {
    pub(crate) name: String,
    pub(crate) seed: Seed,
    pub(crate) exprs: Vec<Expr>,
    pub(crate) curves: Vec<NamedCurve>,
    pub(crate) signals: Vec<Signal>,
    pub(crate) behaviours: Vec<Behaviour>,
    pub(crate) lights: Vec<Light>,
    pub(crate) order: Vec<Subject>,
    pub(crate) locals: BTreeMap<ExprId, String>,
}

impl Program {
    /// The lightbook's name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The book's own seed.
    pub fn seed(&self) -> Seed {
        self.seed
    }

    /// An expression.
    pub fn expr(&self, id: ExprId) -> &Expr {
        &self.exprs[id.index()]
    }

    /// A curve.
    pub fn curve(&self, id: CurveId) -> &NamedCurve {
        &self.curves[id.index()]
    }

    /// A signal.
    pub fn signal(&self, id: SignalId) -> &Signal {
        &self.signals[id.index()]
    }

    /// A behaviour.
    pub fn behaviour(&self, id: BehaviourId) -> &Behaviour {
        &self.behaviours[id.index()]
    }

    /// A light.
    pub fn light(&self, id: LightId) -> &Light {
        &self.lights[id.index()]
    }

    /// All lights with their ids, in the book's order.
    pub fn lights(&self) -> impl ExactSizeIterator<Item = (LightId, &Light)> {
        self.lights.iter().enumerate().map(|(n, light)| (LightId(n as u32), light))
    }

    /// The light of that name.
    pub fn light_named(&self, name: &str) -> Option<LightId> {
        self.lights().find(|(_, light)| light.name == name).map(|(id, _)| id)
    }

    /// Curves, signals, behaviours and lights, each after all that it uses.
    pub fn order(&self) -> &[Subject] {
        &self.order
    }

    /// The name that the book gives to a part of a light or behaviour, if it gives one.
    pub fn local_name(&self, id: ExprId) -> Option<&str> {
        self.locals.get(&id).map(String::as_str)
    }

    /// How many expressions there are; ids count from 0.
    pub fn expr_count(&self) -> usize {
        self.exprs.len()
    }

    /// The constant that an expression is, if it is one.
    pub fn constant(&self, id: ExprId) -> Option<Constant> {
        match self.expr(id).op {
            Op::Constant(c) => Some(c),
            _ => None,
        }
    }
}
