//! The program: what a lightbook or the builder comes to, and what everything after reads.
//!
//! An expression refers only to expressions made before it, signals and behaviours likewise, so a
//! program has no cycles and can be walked in the order of its ids. Vectors (colours, points) are
//! values like any other; only the printers and the evaluator take them apart.

use std::borrow::Cow;
use std::collections::BTreeMap;

use smallvec::{SmallVec, smallvec};

use crate::bounds::Interval;
use crate::curve::{Curve, Easing};
use crate::kernel;
use crate::kind::{Kind, Pace, Scope};
use crate::pure::Pure;
use crate::quantity::{Hours, Seconds, Seed};

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
    /// A table of numbers.
    TableId
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
id!(
    /// An input: a value that the game sets.
    InputId
);
id!(
    /// A choice that the game makes.
    ChoiceId
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

/// A place of chance: all its draws come from its number, whose chance it is, and what it is called
/// with.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Site {
    /// Told apart from every other place.
    pub place: u32,
    /// Whether all share one chance, or each placing or lamp has its own.
    pub scope: Scope,
}

/// What the places of a curve's stops are.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Domain {
    /// Seconds: it plays.
    Time,
    /// Hours of the game's day: it follows the clock, and goes on at midnight where it ends.
    Day,
    /// Values of a kind: a ramp that such a value drives.
    Ramp(Kind),
}

/// What the clock gives.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Dial {
    /// The hour of the day, 0 to 24.
    Hour,
    /// How many days have begun since the run's first, which is 0.
    Days,
}

/// The shape of a wave; each turn goes from 0 to 1 and back, lowest where the turn starts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Wave {
    /// As a sine goes.
    Sine,
    /// Up and down in straight lines.
    Triangle,
    /// Up in a straight line, down at once.
    Saw,
}

impl Wave {
    /// The kernel's function for it.
    pub fn function(self) -> fn(f64) -> f64 {
        match self {
            Wave::Sine => kernel::sine_level,
            Wave::Triangle => kernel::triangle_level,
            Wave::Saw => kernel::saw_level,
        }
    }
}

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
    /// What the game's clock shows: the run's, at whatever moment it is looked at.
    Clock(Dial),
    /// The index, from 0, of the lamp in its array, or of the placing in its own.
    Index(Scope),
    /// A parameter of the behaviour that this expression stands in.
    Parameter(usize),
    /// A signal's value.
    Signal(SignalId),
    /// What the game has set an input to: of the book, of this placing, or of this lamp.
    Input(InputId),
    /// Whether the game has chosen this option, counted from 0.
    Chosen(ChoiceId, u32),
    /// How much this option counts, 0 to 1, on the way from one to the next; the run's, at whatever moment it
    /// is looked at.
    Weight(ChoiceId, u32),
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
    /// The first at 0 of the third, the second at 1, and never outside of the two; colours and
    /// points part by part.
    Between(ExprId, ExprId, ExprId),
    /// Whether the first is above the second.
    Above(ExprId, ExprId),
    /// Whether two numbers are the same.
    Same(ExprId, ExprId),
    /// Whether both are on.
    And(ExprId, ExprId),
    /// Whether one is on.
    Or(ExprId, ExprId),
    /// Whether it is off.
    Not(ExprId),
    /// The second where the first is on, else the third.
    Choose(ExprId, ExprId, ExprId),
    /// A point or a colour of its three parts.
    Parts(ExprId, ExprId, ExprId),
    /// A level 0..1 drawn again after random times, of a mean rate and a jitter (see
    /// [`crate::kernel::held_level`]).
    Held(ExprId, ExprId, Site),
    /// The same, each level reached softly over a part (the third) of its time.
    Soft(ExprId, ExprId, ExprId, Site),
    /// A level 0..1 that drifts smoothly, of a rate and a number of octaves.
    Drift(ExprId, u32, Site),
    /// 1 while a burst lasts, else 0: the shortest and longest burst, the shortest and longest pause,
    /// and the tables of their draws.
    Burst([ExprId; 4], [TableId; 2], Site),
    /// A displacement in a ball, of three numbers in -1..1 and the radius.
    InBall([ExprId; 3], ExprId),
    /// A chance in 0..1 drawn once.
    Phase(Site),
    /// A time turned into a place in a period. A scattered start is already in the time; it is
    /// kept here for the checks.
    Turned(Turn, Start, ExprId, ExprId),
    /// A curve's value at a time.
    Curve(CurveId, ExprId),
    /// A wave's level 0..1 at a number of turns.
    Wave(Wave, ExprId),
    /// 1 for the first part (the second operand, 0..1) of each turn, then 0.
    Square(ExprId, ExprId),
    /// A number in 0..1 eased.
    Eased(Easing, ExprId),
    /// A table's value at a place, counted in entries from 0.
    Table(TableId, ExprId),
    /// The first as it is at another moment, the second.
    Moment(ExprId, ExprId),
    /// The root of a cone response of a colour: 0 long, 1 middle, 2 short.
    ConeRoot(u8, ExprId),
    /// The colour of three roots of cone responses.
    FromCones(ExprId, ExprId, ExprId),
    /// A function of numbers alone.
    Pure(Pure, SmallVec<[ExprId; 5]>),
    /// The direction of a point from the origin, of length 1; -z where there is none.
    Heading(ExprId),
    /// A point of axes with the other one up, in axes with this one up.
    Stood(ExprId, Up),
    /// The largest part of a colour.
    Brightest(ExprId),
    /// The colour with its brightest part at 1.
    BrightestAtOne(ExprId),
}

impl Op {
    /// The expressions that this one is made of, in order.
    pub fn operands(&self) -> SmallVec<[ExprId; 4]> {
        match self {
            Op::Constant(_)
            | Op::Now
            | Op::Clock(_)
            | Op::Index(_)
            | Op::Parameter(_)
            | Op::Signal(_)
            | Op::Input(_)
            | Op::Chosen(..)
            | Op::Weight(..)
            | Op::Phase(_) => SmallVec::new(),
            Op::Burst(all, ..) => SmallVec::from_slice(all),
            Op::Pure(_, all) => SmallVec::from_slice(all),
            Op::Call(_, args, _) => SmallVec::from_slice(args),
            Op::Negate(a)
            | Op::Not(a)
            | Op::Curve(_, a)
            | Op::Drift(a, ..)
            | Op::Wave(_, a)
            | Op::Eased(_, a)
            | Op::Table(_, a)
            | Op::ConeRoot(_, a)
            | Op::Heading(a)
            | Op::Stood(a, _)
            | Op::Brightest(a)
            | Op::BrightestAtOne(a) => smallvec![*a],
            Op::Add(a, b)
            | Op::Subtract(a, b)
            | Op::Multiply(a, b)
            | Op::Divide(a, b)
            | Op::Least(a, b)
            | Op::Greatest(a, b)
            | Op::Above(a, b)
            | Op::Same(a, b)
            | Op::And(a, b)
            | Op::Or(a, b)
            | Op::Held(a, b, _)
            | Op::Square(a, b)
            | Op::Moment(a, b)
            | Op::Turned(_, _, a, b) => smallvec![*a, *b],
            Op::Within(a, b, c)
            | Op::Between(a, b, c)
            | Op::Choose(a, b, c)
            | Op::Soft(a, b, c, _)
            | Op::FromCones(a, b, c)
            | Op::Parts(a, b, c) => {
                smallvec![*a, *b, *c]
            }
            Op::InBall([a, b, c], radius) => smallvec![*a, *b, *c, *radius],
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
    /// The book's name for the column that it belongs to.
    pub title: String,
    /// Its own name: the column's, with what part of a colour or point it is.
    pub name: String,
    /// The kind of its values.
    pub kind: Kind,
    /// What its places are.
    pub domain: Domain,
    /// Its stops.
    pub curve: Curve,
}

/// Numbers that the program looks up.
#[derive(Clone, Debug, PartialEq)]
pub struct Table {
    /// What it is, for names in exported code.
    pub name: String,
    /// At least two.
    pub values: Vec<f64>,
}

/// One value over time that all who use it share.
#[derive(Clone, Debug, PartialEq)]
pub struct Signal {
    /// The book's name for it.
    pub name: String,
    /// Its value.
    pub value: ExprId,
}

/// A value that the game sets while it runs; a knob that the designer leaves open until it does.
#[derive(Clone, Debug, PartialEq)]
pub struct Input {
    /// The book's name for it; in a placing or light with that one's name in front, as in
    /// `quay.draught`.
    pub name: String,
    /// The kind of its value, in the units that the space gives out.
    pub kind: Kind,
    /// Its value until the game sets it.
    pub default: Constant,
    /// The bounds that what the game sets is kept within, each part of a colour or point alike.
    pub bounds: Interval,
    /// Whether there is one, or one for each placing or lamp.
    pub size: Size,
    /// Whose it is: the book's, a placing's or a lamp's.
    pub scope: Scope,
}

impl Input {
    /// How many there are.
    pub fn count(&self) -> u32 {
        match self.size {
            Size::Many(n) => n,
            Size::One | Size::Open => 1,
        }
    }
}

/// One of a few names, which the game chooses.
#[derive(Clone, Debug, PartialEq)]
pub struct Choice {
    /// The book's name for it.
    pub name: String,
    /// The names of its options, two or more; the first is at hand until the game chooses.
    pub options: Vec<String>,
    /// How long it takes to go from one to the next; 0 for at once.
    pub over: Seconds,
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

/// What is read: the kinds of light, as glTF's punctual lights name them, area and ambient light, and
/// outputs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum LightKind {
    /// Shines from a point to all sides.
    Point,
    /// Shines from a point into a cone.
    Spot,
    /// Shines from a surface.
    Area,
    /// Shines from one direction everywhere.
    Directional,
    /// Light from everywhere.
    Ambient,
    /// No lamp: named values for the game.
    Output,
}

impl LightKind {
    /// The language's word for it.
    pub fn name(self) -> &'static str {
        match self {
            LightKind::Point => "point",
            LightKind::Spot => "spot",
            LightKind::Area => "area",
            LightKind::Directional => "directional",
            LightKind::Ambient => "ambient",
            LightKind::Output => "output",
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
    /// A value of an output, counted from 0; [`Light::field_name`] knows its name.
    Named(u8),
}

impl Field {
    /// Its name in tables and exported code; `value` for what an output names itself.
    pub fn name(self) -> &'static str {
        match self {
            Field::Intensity => "intensity",
            Field::Color => "color",
            Field::ReachInner => "reach_inner",
            Field::ReachOuter => "reach_outer",
            Field::ConeInner => "cone_inner",
            Field::ConeOuter => "cone_outer",
            Field::Falloff => "falloff",
            Field::Position => "position",
            Field::Offset => "offset",
            Field::Aim => "aim",
            Field::Shadows => "shadows",
            Field::Named(_) => "value",
        }
    }
}

/// The names of the parts of a value of this kind; none where it is one number.
pub fn parts_of(kind: Kind) -> &'static [&'static str] {
    match kind {
        Kind::Color => &["r", "g", "b"],
        Kind::Point => &["x", "y", "z"],
        Kind::Number
        | Kind::Time
        | Kind::Rate
        | Kind::Angle
        | Kind::Length
        | Kind::Strength(_)
        | Kind::OnOff
        | Kind::Hour => &[],
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

use LightKind::{Ambient, Area, Directional, Point, Spot};

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

/// A field that the book drives. What a light does not name is not driven.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Drive {
    /// Which field.
    pub field: Field,
    /// Its value.
    pub value: ExprId,
    /// The kind of its value.
    pub kind: Kind,
}

impl Drive {
    /// How many numbers the field is made of.
    pub fn width(&self) -> usize {
        self.kind.width()
    }
}

/// A level of an array within arrays: a placing of a fitting that has lamps, or placings, in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Level {
    /// How many placings there are side by side.
    pub size: Size,
    /// How many lamps of this light lie in each.
    pub lamps: u32,
}

/// A light, or an array of lights with one description.
#[derive(Clone, Debug, PartialEq)]
pub struct Light {
    /// The book's name for it.
    pub name: String,
    /// What kind of lamp.
    pub kind: LightKind,
    /// How many, in all placings together.
    pub size: Size,
    /// The placings that it lies in, outermost first; none for a light of the book itself. The lamps
    /// of one placing are neighbours.
    pub levels: Vec<Level>,
    /// What is driven, in the order of [`CHANNELS`].
    pub drives: Vec<Drive>,
    /// The colour as the book says it, before its darkness went into the strength.
    pub stated_color: Option<ExprId>,
    /// The radius, in metres, that the book states for the offset.
    pub ball: Option<f64>,
    /// The names of an output's values, if it has more than one.
    pub names: Vec<String>,
}

impl Light {
    /// How many numbers a lamp of this light has.
    pub fn width(&self) -> usize {
        self.drives.iter().map(Drive::width).sum()
    }

    /// What a picture shows as its level: its strength, or an output's first value of one number or
    /// on or off.
    pub fn level(&self) -> Option<Field> {
        let shown = |drive: &&Drive| match self.kind {
            LightKind::Output => drive.width() == 1,
            _ => drive.field == Field::Intensity,
        };
        self.drives.iter().find(shown).map(|drive| drive.field)
    }

    /// What a picture shows as its colour.
    pub fn hue(&self) -> Option<Field> {
        let shown = |drive: &&Drive| drive.kind == Kind::Color;
        self.drives.iter().find(shown).map(|drive| drive.field)
    }

    /// The name of a field in tables and exported code.
    pub fn field_name(&self, field: Field) -> &str {
        match field {
            Field::Named(n) => self.names.get(usize::from(n)).map_or("value", String::as_str),
            field => field.name(),
        }
    }

    /// How many lamps, side by side, share an index of this scope, and after how many it starts
    /// again.
    pub fn share(&self, scope: Scope) -> Share {
        let many = |size| match size {
            Size::Many(n) => Some(n),
            Size::One => Some(1),
            Size::Open => None,
        };
        match scope {
            Scope::Placing(n) => {
                let level = self.levels.get(usize::from(n)).copied();
                let level = level.unwrap_or(Level { size: Size::One, lamps: 1 });
                Share { lamps: level.lamps, of: if n == 0 { None } else { many(level.size) } }
            }
            Scope::Lamp | Scope::Book => {
                Share { lamps: 1, of: self.levels.last().map(|level| level.lamps) }
            }
        }
    }

    /// What drives a field, if anything does.
    pub fn drive(&self, field: Field) -> Option<ExprId> {
        self.drives.iter().find(|drive| drive.field == field).map(|drive| drive.value)
    }
}

/// How an index is made from a lamp's place among all lamps of its light: divided by `lamps`, then
/// counted round and round `of` if there is one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Share {
    /// Neighbours that have the same index.
    pub lamps: u32,
    /// How many indices there are before they start again; `None` where they never do.
    pub of: Option<u32>,
}

impl Share {
    /// Each lamp for itself.
    pub const LAMP: Share = Share { lamps: 1, of: None };

    /// The index of the `n`-th lamp.
    pub fn index(self, n: u32) -> u32 {
        let n = n / self.lamps;
        self.of.map_or(n, |of| n % of)
    }
}

/// Something solid in the place, for pictures of it: it casts shadows there and is not given out. In
/// metres, y up, whatever the book's axes.
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
    /// The length of the unit, in metres.
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
    /// The length of the unit that lengths and points are given out in, in metres.
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
    /// What one of a game's units of this kind is: in metres, or in the unit of a strength.
    pub fn unit_of(self, kind: Kind) -> f64 {
        match kind {
            Kind::Length | Kind::Point => self.unit,
            Kind::Strength(_) => 1.0 / self.factor,
            _ => 1.0,
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

/// Named parts of the day, for pictures of it.
#[derive(Clone, Debug, PartialEq)]
pub struct Phases {
    /// The book's name for them.
    pub name: String,
    /// Each one's name, the hour from which it is, and how much it counts; in the order of the day.
    pub parts: Vec<(String, Hours, ExprId)>,
    /// The blend of their tints, if they have any.
    pub tint: Option<ExprId>,
}

/// The sun or the moon, for pictures of the day.
#[derive(Clone, Debug, PartialEq)]
pub struct Body {
    /// The book's name for it.
    pub name: String,
    /// Of a moon, how much of it is lit.
    pub lit: Option<ExprId>,
    /// Its height above the horizon.
    pub height: ExprId,
}

/// The game's clock as the book has it; the game may set, stop, scale and drive it (see
/// [`crate::clock`]).
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Clock {
    /// How long a day of the game lasts, at rate 1.
    pub day: Seconds,
    /// The hour at the start of a run.
    pub start: Hours,
    /// How fast it goes at first: 1 as the length of the day says, 0 stands still, below 0 backwards.
    pub rate: f64,
}

impl Clock {
    /// How many hours pass in a second at rate 1.
    pub fn pace(self) -> f64 {
        24.0 / self.day.0
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
    /// An input.
    Input(InputId),
    /// A choice.
    Choice(ChoiceId),
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
    pub(crate) space: Space,
    pub(crate) clock: Option<Clock>,
    pub(crate) phases: Vec<Phases>,
    pub(crate) bodies: Vec<Body>,
    pub(crate) exprs: Vec<Expr>,
    pub(crate) curves: Vec<NamedCurve>,
    pub(crate) tables: Vec<Table>,
    pub(crate) signals: Vec<Signal>,
    pub(crate) behaviours: Vec<Behaviour>,
    pub(crate) inputs: Vec<Input>,
    pub(crate) choices: Vec<Choice>,
    pub(crate) lights: Vec<Light>,
    pub(crate) solids: Vec<Solid>,
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

    /// How places are meant and given out.
    pub fn space(&self) -> Space {
        self.space
    }

    /// The game's clock, if the book has one.
    pub fn clock(&self) -> Option<Clock> {
        self.clock
    }

    /// The phases of the day that the book names, in its order.
    pub fn phases(&self) -> &[Phases] {
        &self.phases
    }

    /// Suns and moons, in the book's order.
    pub fn bodies(&self) -> &[Body] {
        &self.bodies
    }

    /// An expression.
    pub fn expr(&self, id: ExprId) -> &Expr {
        &self.exprs[id.index()]
    }

    /// A curve.
    pub fn curve(&self, id: CurveId) -> &NamedCurve {
        &self.curves[id.index()]
    }

    /// A table.
    pub fn table(&self, id: TableId) -> &Table {
        &self.tables[id.index()]
    }

    /// A signal.
    pub fn signal(&self, id: SignalId) -> &Signal {
        &self.signals[id.index()]
    }

    /// All signals with their ids, in the book's order.
    pub fn signals(&self) -> impl ExactSizeIterator<Item = (SignalId, &Signal)> {
        self.signals.iter().enumerate().map(|(n, signal)| (SignalId(n as u32), signal))
    }

    /// A behaviour.
    pub fn behaviour(&self, id: BehaviourId) -> &Behaviour {
        &self.behaviours[id.index()]
    }

    /// An input.
    pub fn input(&self, id: InputId) -> &Input {
        &self.inputs[id.index()]
    }

    /// All inputs with their ids, in the book's order.
    pub fn inputs(&self) -> impl ExactSizeIterator<Item = (InputId, &Input)> {
        self.inputs.iter().enumerate().map(|(n, input)| (InputId(n as u32), input))
    }

    /// A choice.
    pub fn choice(&self, id: ChoiceId) -> &Choice {
        &self.choices[id.index()]
    }

    /// All choices with their ids, in the book's order.
    pub fn choices(&self) -> impl ExactSizeIterator<Item = (ChoiceId, &Choice)> {
        self.choices.iter().enumerate().map(|(n, choice)| (ChoiceId(n as u32), choice))
    }

    /// The choice of that name.
    pub fn choice_named(&self, name: &str) -> Option<ChoiceId> {
        self.choices().find(|(_, choice)| choice.name == name).map(|(id, _)| id)
    }

    /// The input of that name.
    pub fn input_named(&self, name: &str) -> Option<InputId> {
        self.inputs().find(|(_, input)| input.name == name).map(|(id, _)| id)
    }

    /// A light.
    pub fn light(&self, id: LightId) -> &Light {
        &self.lights[id.index()]
    }

    /// All lights with their ids, in the book's order.
    pub fn lights(&self) -> impl ExactSizeIterator<Item = (LightId, &Light)> {
        self.lights.iter().enumerate().map(|(n, light)| (LightId(n as u32), light))
    }

    /// What is solid in the place, for pictures of it.
    pub fn solids(&self) -> &[Solid] {
        &self.solids
    }

    /// The light of that name.
    pub fn light_named(&self, name: &str) -> Option<LightId> {
        self.lights().find(|(_, light)| light.name == name).map(|(id, _)| id)
    }

    /// Curves, signals, behaviours, inputs and lights, each after all that it uses.
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
