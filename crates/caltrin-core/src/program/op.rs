//! What an expression does, and what is known of it.

use smallvec::{SmallVec, smallvec};

use super::{BehaviorId, ChoiceId, CurveId, ExprId, InputId, SignalId, TableId, Up};
use crate::curve::Easing;
use crate::kernel;
use crate::kind::{ChangeRate, InstanceLevel, Kind};
use crate::pure::Pure;
use crate::quantity::Hours;

/// A value that is known when the book is read, in the base unit of its kind.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Constant {
    /// Every kind that is one number.
    Scalar(f64),
    /// A color or a point.
    Vector([f64; 3]),
    /// On is true.
    OnOff(bool),
}

impl Constant {
    /// The bits of its components, padded with 0. Distinguishes 0 from -0.
    pub fn bits(self) -> [u64; 3] {
        match self {
            Constant::Scalar(v) => [v.to_bits(), 0, 0],
            Constant::Vector(v) => v.map(f64::to_bits),
            Constant::OnOff(on) => [u64::from(on), 0, 0],
        }
    }
}

/// A place of chance: all its draws come from its number, whose chance it is, and what it is called
/// with.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Site {
    /// Distinct from every other place.
    pub place: u32,
    /// Whether all share one chance, or each instance or lamp has its own.
    pub scope: InstanceLevel,
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
    /// All at the start of the run, and it is not declared whether that is intended.
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
    /// What the game's clock shows: the run's, at whatever moment it is evaluated.
    Clock(Dial),
    /// The index, from 0, of the lamp in its array, or of the instance in its own.
    Index(InstanceLevel),
    /// A parameter of the behavior that this expression stands in.
    Parameter(usize),
    /// A signal's value.
    Signal(SignalId),
    /// What the game has set an input to: of the book, of this instance, or of this lamp.
    Input(InputId),
    /// Whether the game has chosen this option, counted from 0.
    IsChosen(ChoiceId, u32),
    /// How much this option counts, 0 to 1, on the way from one to the next; the run's, at whatever moment it
    /// is evaluated.
    Weight(ChoiceId, u32),
    /// A behavior's value, with an argument for each parameter, and a place of chance if it has
    /// any chance in it.
    Call(BehaviorId, Vec<ExprId>, Option<Site>),
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
    Min(ExprId, ExprId),
    /// The larger.
    Max(ExprId, ExprId),
    /// The first kept inside the second and third.
    Clamp(ExprId, ExprId, ExprId),
    /// The first at 0 of the third, the second at 1, and never outside of the two; colors and
    /// points part by part.
    Lerp(ExprId, ExprId, ExprId),
    /// Whether the first is above the second.
    Above(ExprId, ExprId),
    /// Whether two numbers are the same.
    Equal(ExprId, ExprId),
    /// Whether both are on.
    And(ExprId, ExprId),
    /// Whether one is on.
    Or(ExprId, ExprId),
    /// Whether it is off.
    Not(ExprId),
    /// The second where the first is on, else the third.
    Select(ExprId, ExprId, ExprId),
    /// A point or a color of its three parts.
    Parts(ExprId, ExprId, ExprId),
    /// A level 0..1 drawn again after random times, of a mean rate and a jitter (see
    /// [`crate::kernel::held_level`]).
    SampleAndHold(ExprId, ExprId, Site),
    /// The same, each level reached softly over a part (the third) of its time.
    SmoothHold(ExprId, ExprId, ExprId, Site),
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
    Looped(Turn, Start, ExprId, ExprId),
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
    /// The level of an envelope at a place, in [`crate::sound::TICKS`] a second.
    Envelope(TableId, ExprId),
    /// The first of a table's places after another one; [`super::NEVER`] where there is none.
    NextPlace(TableId, ExprId),
    /// The first as it is at another moment, the second.
    Moment(ExprId, ExprId),
    /// The root of a cone response of a color: 0 long, 1 middle, 2 short.
    ConeRoot(u8, ExprId),
    /// The color of three roots of cone responses.
    FromCones(ExprId, ExprId, ExprId),
    /// A function of numbers alone.
    Pure(Pure, SmallVec<[ExprId; 5]>),
    /// The direction of a point from the origin, of length 1; -z where there is none.
    Direction(ExprId),
    /// A point of axes with the other one up, in axes with this one up.
    ChangeUp(ExprId, Up),
    /// The largest part of a color.
    MaxComponent(ExprId),
    /// The color with its brightest part at 1.
    NormalizedColor(ExprId),
    /// How far two points lie apart.
    Distance(ExprId, ExprId),
    /// Which spark of a pool the next one is: the lowest that does not live, else the oldest, or as many as there are for
    /// none.
    FreeSpark(u32),
    /// The first moment after another at which the clock comes to show an hour; [`super::NEVER`] if it does not.
    NextHour(Hours, ExprId),
}

/// The operands of an operation, borrowed like the operation itself; `$iter` is `iter` or `iter_mut`.
macro_rules! operands {
    ($op:expr, $iter:ident) => {
        match $op {
            Op::Constant(_)
            | Op::Now
            | Op::Clock(_)
            | Op::Index(_)
            | Op::Parameter(_)
            | Op::Signal(_)
            | Op::Input(_)
            | Op::IsChosen(..)
            | Op::Weight(..)
            | Op::FreeSpark(_)
            | Op::Phase(_) => SmallVec::new(),
            Op::Burst(all, ..) => all.$iter().collect(),
            Op::Pure(_, all) => all.$iter().collect(),
            Op::Call(_, args, _) => args.$iter().collect(),
            Op::Negate(a)
            | Op::Not(a)
            | Op::Curve(_, a)
            | Op::Drift(a, ..)
            | Op::Wave(_, a)
            | Op::Eased(_, a)
            | Op::Table(_, a)
            | Op::Envelope(_, a)
            | Op::NextPlace(_, a)
            | Op::ConeRoot(_, a)
            | Op::Direction(a)
            | Op::ChangeUp(a, _)
            | Op::MaxComponent(a)
            | Op::NextHour(_, a)
            | Op::NormalizedColor(a) => smallvec![a],
            Op::Add(a, b)
            | Op::Subtract(a, b)
            | Op::Multiply(a, b)
            | Op::Divide(a, b)
            | Op::Min(a, b)
            | Op::Max(a, b)
            | Op::Above(a, b)
            | Op::Equal(a, b)
            | Op::And(a, b)
            | Op::Or(a, b)
            | Op::SampleAndHold(a, b, _)
            | Op::Square(a, b)
            | Op::Moment(a, b)
            | Op::Distance(a, b)
            | Op::Looped(_, _, a, b) => smallvec![a, b],
            Op::Clamp(a, b, c)
            | Op::Lerp(a, b, c)
            | Op::Select(a, b, c)
            | Op::SmoothHold(a, b, c, _)
            | Op::FromCones(a, b, c)
            | Op::Parts(a, b, c) => smallvec![a, b, c],
            Op::InBall([a, b, c], radius) => smallvec![a, b, c, radius],
        }
    };
}

impl Op {
    /// The expressions that this one is made of, in order.
    pub fn operands(&self) -> SmallVec<[ExprId; 4]> {
        let all: SmallVec<[&ExprId; 4]> = operands!(self, iter);
        all.into_iter().copied().collect()
    }

    /// The same operation with other operands, one for each.
    pub fn on(&self, others: &[ExprId]) -> Op {
        let mut op = self.clone();
        let all: SmallVec<[&mut ExprId; 4]> = operands!(&mut op, iter_mut);
        for (operand, other) in all.into_iter().zip(others) {
            *operand = *other;
        }
        op
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
    pub change_rate: ChangeRate,
    /// Whose it is, parameters apart.
    pub scope: InstanceLevel,
    /// Whether a chance of its own (not a signal's) is in it.
    pub chancy: bool,
    /// The parameters that it depends on, one bit each.
    pub parameters: u32,
}
