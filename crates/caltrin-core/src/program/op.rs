//! Operations and expressions.

use smallvec::{SmallVec, smallvec};

use super::{BehaviorId, ChoiceId, CurveId, ExprId, InputId, SignalId, TableId, Up};
use crate::curve::Easing;
use crate::kernel;
use crate::kind::{ChangeRate, InstanceLevel, Kind};
use crate::pure::Pure;
use crate::quantity::Hours;

/// A constant, in the base unit of its kind.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Constant {
    /// Any kind with one component.
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

/// A random stream, determined by its number, its owner and the arguments of calls.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Site {
    /// Unique number.
    pub place: u32,
    /// Whether all share one stream, or each instance or lamp has its own.
    pub scope: InstanceLevel,
}

/// The kind of position of a curve's stops.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Domain {
    /// Seconds: the curve plays.
    Time,
    /// Hours of the game's day: the curve follows the clock and wraps at midnight.
    Day,
    /// Values of a kind: a ramp evaluated at such a value.
    Ramp(Kind),
}

/// The values of the clock.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Dial {
    /// The hour of the day, 0 to 24.
    Hour,
    /// The day count; the first day of the run is 0.
    Days,
}

/// The shape of a wave; each period goes from 0 to 1 and back, lowest at its start.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Wave {
    /// A sine.
    Sine,
    /// A triangle.
    Triangle,
    /// A sawtooth: rises linearly, falls immediately.
    Saw,
}

impl Wave {
    /// The kernel function.
    pub fn function(self) -> fn(f64) -> f64 {
        match self {
            Wave::Sine => kernel::sine_level,
            Wave::Triangle => kernel::triangle_level,
            Wave::Saw => kernel::saw_level,
        }
    }
}

/// How a curve repeats.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Turn {
    /// Loops.
    Loop,
    /// Plays forward and backward alternately.
    Alternate,
}

/// The start phase of copies of a periodic value.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Start {
    /// All at the start of the run, by default.
    Unsaid,
    /// All at the start of the run, explicitly.
    Together,
    /// Each with its own random offset.
    Scattered,
}

/// An operation. Its operands have smaller IDs.
#[derive(Clone, Debug, PartialEq)]
pub enum Op {
    /// A constant.
    Constant(Constant),
    /// The run's time.
    Now,
    /// The game's clock at the run's time, even if evaluated at another time.
    Clock(Dial),
    /// The index, from 0, of the lamp in its array, or of the instance in its own.
    Index(InstanceLevel),
    /// A parameter of the behavior that contains this expression.
    Parameter(usize),
    /// A signal's value.
    Signal(SignalId),
    /// The value of an input of the book, this instance or this lamp.
    Input(InputId),
    /// Whether the option with this index is selected.
    IsChosen(ChoiceId, u32),
    /// The weight of an option, 0 to 1, at the run's time, even if evaluated at another time.
    Weight(ChoiceId, u32),
    /// A call of a behavior, with an argument per parameter, and a random stream if it is random.
    Call(BehaviorId, Vec<ExprId>, Option<Site>),
    /// Negation; numbers and points.
    Negate(ExprId),
    /// The sum of two values of one kind.
    Add(ExprId, ExprId),
    /// The difference of two values of one kind.
    Subtract(ExprId, ExprId),
    /// The product; kinds as the language defines. A vector is the left operand.
    Multiply(ExprId, ExprId),
    /// The quotient; kinds as the language defines.
    Divide(ExprId, ExprId),
    /// The smaller.
    Min(ExprId, ExprId),
    /// The larger.
    Max(ExprId, ExprId),
    /// The first, clamped to the second and third.
    Clamp(ExprId, ExprId, ExprId),
    /// Interpolates from the first to the second by the third, clamped to both; colors and points
    /// per component.
    Lerp(ExprId, ExprId, ExprId),
    /// Whether the first is greater than the second.
    Above(ExprId, ExprId),
    /// Whether two numbers are equal.
    Equal(ExprId, ExprId),
    /// Whether both are on.
    And(ExprId, ExprId),
    /// Whether at least one is on.
    Or(ExprId, ExprId),
    /// Whether it is off.
    Not(ExprId),
    /// The second if the first is on, otherwise the third.
    Select(ExprId, ExprId, ExprId),
    /// A point or color from its three components.
    Parts(ExprId, ExprId, ExprId),
    /// A random level 0..1, sampled again after random times, with a mean rate and a jitter (see
    /// [`crate::kernel::held_level`]).
    SampleAndHold(ExprId, ExprId, Site),
    /// Same, with smooth transitions over a fraction (the third) of the time.
    SmoothHold(ExprId, ExprId, ExprId, Site),
    /// Smooth noise 0..1, with a rate and a number of octaves.
    Drift(ExprId, u32, Site),
    /// 1 during a burst, otherwise 0: the shortest and longest burst, the shortest and longest
    /// pause, and the tables of random numbers.
    Burst([ExprId; 4], [TableId; 2], Site),
    /// A displacement in a ball, from three numbers in -1..1 and the radius.
    InBall([ExprId; 3], ExprId),
    /// A random number in 0..1, chosen once.
    Phase(Site),
    /// Converts a time to a position in a period. The offset of a scattered start is already in the
    /// time; it is stored here for the checks.
    Looped(Turn, Start, ExprId, ExprId),
    /// A curve's value at a time.
    Curve(CurveId, ExprId),
    /// A wave's level 0..1 at a phase in turns.
    Wave(Wave, ExprId),
    /// 1 for the first fraction (the second operand, 0..1) of each period, then 0.
    Square(ExprId, ExprId),
    /// Applies an easing to a number in 0..1.
    Eased(Easing, ExprId),
    /// A table's value at a position, in entries from 0.
    Table(TableId, ExprId),
    /// The level of an envelope at a position, in [`crate::sound::TICKS`] per second.
    Envelope(TableId, ExprId),
    /// The first entry of a table after a position; [`super::NEVER`] if there is none.
    NextPlace(TableId, ExprId),
    /// The first operand at another time, the second operand.
    Moment(ExprId, ExprId),
    /// The cube root of a cone response of a color: 0 long, 1 middle, 2 short.
    ConeRoot(u8, ExprId),
    /// The color of three cube roots of cone responses.
    FromCones(ExprId, ExprId, ExprId),
    /// A function of numbers only.
    Pure(Pure, SmallVec<[ExprId; 5]>),
    /// The direction of a point from the origin, a unit vector; -z for the origin.
    Direction(ExprId),
    /// Converts a point from the axes with the other up axis.
    ChangeUp(ExprId, Up),
    /// The largest component of a color.
    MaxComponent(ExprId),
    /// The color scaled so that its largest component is 1.
    NormalizedColor(ExprId),
    /// The distance of two points.
    Distance(ExprId, ExprId),
    /// The index of the next spark of a pool: the first that is not alive, otherwise the oldest, or
    /// the size of the pool for none.
    FreeSpark(u32),
    /// The first time after another at which the clock reaches an hour; [`super::NEVER`] if it does
    /// not.
    NextHour(Hours, ExprId),
}

/// The operands of an operation, borrowed like the operation; `$iter` is `iter` or `iter_mut`.
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
    /// The operands, in order.
    pub fn operands(&self) -> SmallVec<[ExprId; 4]> {
        let all: SmallVec<[&ExprId; 4]> = operands!(self, iter);
        all.into_iter().copied().collect()
    }

    /// The same operation with other operands, of the same number.
    pub fn on(&self, others: &[ExprId]) -> Op {
        let mut op = self.clone();
        let all: SmallVec<[&mut ExprId; 4]> = operands!(&mut op, iter_mut);
        for (operand, other) in all.into_iter().zip(others) {
            *operand = *other;
        }
        op
    }
}

/// An expression and its properties.
#[derive(Clone, Debug, PartialEq)]
pub struct Expr {
    /// The operation.
    pub op: Op,
    /// The kind of its value.
    pub kind: Kind,
    /// How often it changes, not counting parameters.
    pub change_rate: ChangeRate,
    /// The level that it belongs to, not counting parameters.
    pub scope: InstanceLevel,
    /// Whether it contains randomness of its own (not a signal's).
    pub chancy: bool,
    /// The parameters that it depends on, as bits.
    pub parameters: u32,
}
