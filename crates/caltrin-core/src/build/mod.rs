//! The builder: the same programs as a lightbook makes, from Rust, with kinds checked by the
//! compiler.
//!
//! ```
//! use caltrin_core::build::{Book, Light, held, lumens, number};
//! use caltrin_core::quantity::{Seconds, Seed, ms};
//!
//! let mut book = Book::new("Slipway", Seed(7));
//! let flicker = held(number(0.8), number(1.0), ms(70.0)..=ms(210.0));
//! book.light(Light::point("lantern").intensity(lumens(700.0) * flicker));
//! let checked = book.check().unwrap();
//!
//! let mut run = caltrin_core::Run::new(&checked);
//! run.advance(Seconds(1.5));
//! let lantern = checked.program().light_named("lantern").unwrap();
//! let mut lamp = [0.0];
//! run.read(lantern, 0, &mut lamp);
//! assert!((560.0..=700.0).contains(&lamp[0]));
//! ```

mod book;
pub mod day;
pub mod event;
mod light;
mod lower;
pub mod scene;
pub mod script;
pub mod sound;

use std::marker::PhantomData;
use std::ops::{Add, Div, Mul, Neg, RangeInclusive, Sub};
use std::rc::Rc;

use crate::color::Rgb;
use crate::curve::Easing;
use crate::kind::{Kind as AnyKind, Photometry};
use crate::program::{
    BehaviorId, Constant, EventId, ExprId, InputId, SignalId, SoundId, Start, Turn, Wave,
};
use crate::program_builder::Track;
use crate::program_builder::day::Alternatives;
use crate::program_builder::event::Replay;
use crate::program_builder::sound::Asked;
use crate::pure::Pure;
use crate::quantity::{Degrees, Hertz, Kelvin, Seconds};

pub use book::{Book, Refusal, Viewpoint};
pub use light::{Instances, Light, Output, Placed};

/// Value kinds as types.
pub mod kinds {
    use super::{AnyKind, Photometry};

    use crate::color::Rgb;
    use crate::program::Constant;

    /// A value kind as a type.
    pub trait Kind: 'static {
        /// The same kind as a run-time value.
        const KIND: AnyKind;
        /// The Rust type of a curve stop: a number in the base unit, a color, three meters, or a
        /// bool.
        type Stop: Copy;
        /// Converts a curve stop to a constant.
        fn constant(stop: Self::Stop) -> Constant;
    }
    /// A kind with one component that can be added, scaled and compared.
    pub trait Scalar: Kind {}
    /// A kind that a light's intensity can have.
    pub trait Strength: Scalar {}

    macro_rules! kind {
        ($(#[$doc:meta])* $name:ident, $kind:expr, $stop:ty, $constant:expr $(, $more:ident)*) => {
            $(#[$doc])*
            #[derive(Debug)]
            pub enum $name {}
            impl Kind for $name {
                const KIND: AnyKind = $kind;
                type Stop = $stop;
                fn constant(stop: $stop) -> Constant {
                    let constant: fn($stop) -> Constant = $constant;
                    constant(stop)
                }
            }
            $(impl $more for $name {})*
        };
    }
    kind!(/** A plain number. */ Number, AnyKind::Number, f64, Constant::Scalar, Scalar, Strength);
    kind!(/** Seconds. */ Time, AnyKind::Time, f64, Constant::Scalar, Scalar);
    kind!(/** Degrees. */ Angle, AnyKind::Angle, f64, Constant::Scalar, Scalar);
    kind!(/** Meters. */ Length, AnyKind::Length, f64, Constant::Scalar, Scalar);
    kind!(/** Lumens. */ Lumen, AnyKind::Strength(Photometry::Lumen), f64, Constant::Scalar, Scalar, Strength);
    kind!(/** Candelas. */ Candela, AnyKind::Strength(Photometry::Candela), f64, Constant::Scalar, Scalar, Strength);
    kind!(/** Lux. */ Lux, AnyKind::Strength(Photometry::Lux), f64, Constant::Scalar, Scalar, Strength);
    kind!(/** Linear light. */ Color, AnyKind::Color, Rgb, |c| Constant::Vector(c.0));
    kind!(/** A place in meters. */ Point, AnyKind::Point, [f64; 3], Constant::Vector);
    kind!(/** On or off. */ OnOff, AnyKind::OnOff, bool, Constant::OnOff);
    kind!(/** An hour of the game's day, 0 to 24. */ Hour, AnyKind::Hour, f64, Constant::Scalar);
    kind!(/** 1/s. */ Rate, AnyKind::Rate, f64, Constant::Scalar, Scalar);
}

use kinds::{
    Angle, Candela, Color, Kind, Length, Lumen, Lux, Number, OnOff, Point, Rate, Scalar, Time,
};

type Node = Rc<Tree>;

#[derive(Debug)]
enum Tree {
    Constant(Constant, AnyKind),
    Index,
    Parameter(usize),
    Signal(SignalId),
    Negate(Node),
    Add(Node, Node),
    Subtract(Node, Node),
    Multiply(Node, Node),
    Divide(Node, Node),
    Min(Node, Node),
    Max(Node, Node),
    Clamp(Node, Node, Node),
    Lerp(Node, Node, Node),
    Above(Node, Node),
    And(Node, Node),
    Or(Node, Node),
    Not(Node),
    Select(Node, Node, Node),
    Function(Function, Vec<Node>),
    Pure(Pure, Vec<Node>),
    Played(Rc<Track>, Play),
    /// A pulse that an event starts.
    Pulse(Option<EventId>, Seconds),
    /// A value analyzed from a sound.
    Heard(Option<SoundId>, String, Asked),
    /// A curve started by an event, its policy when the event repeats, and its value before the
    /// first.
    PlayedAt(Rc<Track>, Option<EventId>, Replay, Option<Node>),
    /// The most recent value of an event's parameter.
    Given(InputId, ExprId),
    /// A smoothed value with attack and release times.
    Follow(Node, [Node; 2]),
    /// A value with its own playback rate.
    ChangeRate(Node, Node),
    /// Proximity of two points, between two lengths.
    Near([Node; 2], [Node; 2], Easing),
    /// The value under a sequence.
    Base,
    /// Time counted from an event.
    Since(Node, EventId),
    /// The levels of a rhythm, its start phase, and the language's word for it.
    Rhythm(Vec<(bool, f64)>, Start),
    Ramp(Rc<Track>, Node),
    /// Whether an hour is within a span of hours.
    HourIn(Node, Node, Node),
    /// One value for each alternative.
    Pick(Rc<Alternatives>, Vec<Node>),
    /// An existing expression: a signal of an instance.
    Made(ExprId),
    Call(BehaviorId, String, Vec<Option<Node>>),
    Named(String, Node),
    /// An input of each lamp: name, default and range.
    Input(String, Constant, AnyKind, Option<[f64; 2]>),
}

/// A function of the language with its constant arguments.
#[derive(Clone, Copy, Debug)]
enum Function {
    /// Range, shortest and longest time.
    SampleAndHold,
    /// Range, shortest and longest time, fraction of the time spent moving.
    SmoothHold,
    /// Range, rate.
    Drift(u32),
    /// Radius, rate.
    Wander(u32),
    /// Shortest and longest burst, shortest and longest pause.
    Bursts,
    /// Range; one random value.
    Drawn,
    /// The list.
    OneOf,
    /// Shortest and longest time, then the list.
    OneOfEvery,
    /// Range, period, phase.
    Wave(Wave, Start),
    /// Range, period, phase, duty cycle.
    Square(Start),
    /// Value, step.
    LaterEach,
    /// Value, by.
    Later,
    /// Value, factor.
    Stretch,
    /// Value, grid.
    Stepped,
    /// Value, from, to.
    Map(Easing),
    /// Value, at, over.
    Threshold,
    /// First, second, ratio, in linear light.
    MixLinear,
    /// Color, angle.
    Hue,
    /// Color, factor.
    Scaled,
    /// Kelvins.
    Kelvin,
    /// The exception, the default.
    Except(u32),
}

impl Function {
    /// The language's word for a random function; its random keys are derived from it.
    fn callee(self) -> Option<&'static str> {
        match self {
            Function::SampleAndHold | Function::SmoothHold => Some("held"),
            Function::Drift(_) => Some("drift"),
            Function::Wander(_) => Some("wander"),
            Function::Bursts => Some("bursts"),
            Function::Drawn | Function::OneOf | Function::OneOfEvery => Some("one"),
            Function::Wave(Wave::Sine, _) => Some("sine"),
            Function::Wave(Wave::Triangle, _) => Some("triangle"),
            Function::Wave(Wave::Saw, _) => Some("saw"),
            Function::Square(_) => Some("square"),
            Function::LaterEach
            | Function::Later
            | Function::Stretch
            | Function::Stepped
            | Function::Map(_)
            | Function::Threshold
            | Function::MixLinear
            | Function::Hue
            | Function::Scaled
            | Function::Kelvin
            | Function::Except(_) => None,
        }
    }
}

/// How a curve plays.
#[derive(Clone, Copy, Debug)]
enum Play {
    Once,
    Turning(Turn, Start, Option<[f64; 2]>),
}

/// A value of one kind. Cloning is cheap, and clones are the same value: they stay in sync.
#[derive(Debug)]
pub struct Value<K> {
    node: Node,
    kind: PhantomData<K>,
}

impl<K> Clone for Value<K> {
    fn clone(&self) -> Self {
        of(self.node.clone())
    }
}

fn of<K>(node: Node) -> Value<K> {
    Value { node, kind: PhantomData }
}

fn make<K>(tree: Tree) -> Value<K> {
    of(Rc::new(tree))
}

fn scalar<K: Kind>(v: f64) -> Value<K> {
    make(Tree::Constant(Constant::Scalar(v), K::KIND))
}

/// A plain number.
pub fn number(v: f64) -> Value<Number> {
    scalar(v)
}

/// A time.
pub fn time(v: Seconds) -> Value<Time> {
    scalar(v.0)
}

/// An angle.
pub fn angle(v: Degrees) -> Value<Angle> {
    scalar(v.0)
}

/// A length in meters.
pub fn meters(v: f64) -> Value<Length> {
    scalar(v)
}

/// Luminous flux.
pub fn lumens(v: f64) -> Value<Lumen> {
    scalar(v)
}

/// Luminous intensity.
pub fn candelas(v: f64) -> Value<Candela> {
    scalar(v)
}

/// Illuminance.
pub fn lux(v: f64) -> Value<Lux> {
    scalar(v)
}

/// An 8-bit sRGB color, as `0xrrggbb`.
pub fn srgb(rrggbb: u32) -> Value<Color> {
    let [_, r, g, b] = rrggbb.to_be_bytes();
    rgb(Rgb::from_srgb8(r, g, b))
}

/// A color in linear light.
pub fn rgb(v: Rgb) -> Value<Color> {
    make(Tree::Constant(Constant::Vector(v.0), AnyKind::Color))
}

/// The color of a black body, in kelvins.
pub fn kelvin(v: f64) -> Value<Color> {
    rgb(Rgb::from_kelvin(Kelvin(v)))
}

/// A position, in meters.
pub fn point(x: f64, y: f64, z: f64) -> Value<Point> {
    make(Tree::Constant(Constant::Vector([x, y, z]), AnyKind::Point))
}

/// The lamp's index in its array, from 0.
pub fn index() -> Value<Number> {
    make(Tree::Index)
}

/// A random level from a range, sampled again after random times from `every`.
pub fn held<K: Scalar>(lo: Value<K>, hi: Value<K>, every: RangeInclusive<Seconds>) -> Value<K> {
    held_every(lo, hi, time(*every.start()), time(*every.end()))
}

/// [`held`] with times that can be parameters of a behavior.
pub fn held_every<K: Scalar>(
    lo: Value<K>,
    hi: Value<K>,
    shortest: Value<Time>,
    longest: Value<Time>,
) -> Value<K> {
    function(Function::SampleAndHold, [lo.node, hi.node, shortest.node, longest.node])
}

fn function<K>(function: Function, operands: impl Into<Vec<Node>>) -> Value<K> {
    make(Tree::Function(function, operands.into()))
}

/// [`held`] with smooth transitions; each takes the fraction `over` (0..1) of its level's time.
pub fn held_softly<K: Scalar>(
    lo: Value<K>,
    hi: Value<K>,
    every: RangeInclusive<Seconds>,
    over: Value<Number>,
) -> Value<K> {
    let (shortest, longest) = (time(*every.start()).node, time(*every.end()).node);
    function(Function::SmoothHold, [lo.node, hi.node, shortest, longest, over.node])
}

/// Smooth noise within a range, with 1 to 6 octaves.
pub fn drift<K: Scalar>(lo: Value<K>, hi: Value<K>, rate: Value<Rate>, octaves: u32) -> Value<K> {
    function(Function::Drift(octaves), [lo.node, hi.node, rate.node])
}

/// A smooth random displacement within a ball, with 1 to 6 octaves.
pub fn wander(radius: Value<Length>, rate: Value<Rate>, octaves: u32) -> Value<Point> {
    function(Function::Wander(octaves), [radius.node, rate.node])
}

/// 1 during a burst, otherwise 0. Bursts and pauses have random durations from `on` and `off`.
pub fn bursts(on: RangeInclusive<Seconds>, off: RangeInclusive<Seconds>) -> Value<Number> {
    let ends = [on.start(), on.end(), off.start(), off.end()];
    function(Function::Bursts, ends.map(|end| time(*end).node))
}

/// A random value from a range, chosen once per run and lamp. Colors are blended in OKLab.
pub fn drawn<K: Kind>(lo: Value<K>, hi: Value<K>) -> Value<K> {
    function(Function::Drawn, [lo.node, hi.node])
}

/// A random item of a list, chosen once per run and lamp.
pub fn one_of<K: Kind>(all: impl IntoIterator<Item = Value<K>>) -> Value<K> {
    function(Function::OneOf, all.into_iter().map(|v| v.node).collect::<Vec<_>>())
}

/// A random item of a list, chosen again after random times from `every`.
pub fn one_of_every<K: Kind>(
    every: RangeInclusive<Seconds>,
    all: impl IntoIterator<Item = Value<K>>,
) -> Value<K> {
    let mut operands = vec![time(*every.start()).node, time(*every.end()).node];
    operands.extend(all.into_iter().map(|v| v.node));
    function(Function::OneOfEvery, operands)
}

/// A periodic wave within a range, lowest at the start of each period. `phase`, in turns, delays
/// it.
pub fn wave<K: Scalar>(
    shape: Wave,
    lo: Value<K>,
    hi: Value<K>,
    every: Value<Time>,
    phase: Value<Number>,
    start: Start,
) -> Value<K> {
    function(Function::Wave(shape, start), [lo.node, hi.node, every.node, phase.node])
}

/// A square wave: `hi` for the first fraction `on` (0..1) of each period, then `lo`.
pub fn square<K: Scalar>(
    lo: Value<K>,
    hi: Value<K>,
    every: Value<Time>,
    phase: Value<Number>,
    on: Value<Number>,
    start: Start,
) -> Value<K> {
    function(Function::Square(start), [lo.node, hi.node, every.node, phase.node, on.node])
}

/// A repeating pattern of 1 (on) and 0 (off) with these durations, as beacons have.
pub fn rhythm(times: impl IntoIterator<Item = (bool, Seconds)>, start: Start) -> Value<Number> {
    make(Tree::Rhythm(times.into_iter().map(|(on, time)| (on, time.0)).collect(), start))
}

/// A rate.
pub fn rate(v: Hertz) -> Value<Rate> {
    scalar(v.0)
}

/// On or off.
pub fn on_off(on: bool) -> Value<OnOff> {
    make(Tree::Constant(Constant::OnOff(on), AnyKind::OnOff))
}

/// The color of a black body at a varying temperature in kelvins.
pub fn kelvin_of(kelvins: Value<Number>) -> Value<Color> {
    function(Function::Kelvin, [kelvins.node])
}

/// A function of numbers only, such as [`Pure::Root`].
///
/// # Panics
/// If the number of values differs from the number of its arguments.
pub fn of_numbers<const N: usize>(function: Pure, values: [Value<Number>; N]) -> Value<Number> {
    assert_eq!(N, function.arguments(), "a value for each argument");
    make(Tree::Pure(function, values.map(|value| value.node).into()))
}

impl Value<Color> {
    /// Rotates the hue in OKLab.
    pub fn turn_hue(self, by: Value<Angle>) -> Self {
        function(Function::Hue, [self.node, by.node])
    }

    /// Scales the color in linear light.
    pub fn scaled(self, by: Value<Number>) -> Self {
        function(Function::Scaled, [self.node, by.node])
    }

    /// Blends in OKLab: `self` at 0, `other` at 1.
    pub fn mix(self, other: Self, by: Value<Number>) -> Self {
        make(Tree::Lerp(self.node, other.node, by.node))
    }

    /// Blends in linear light: `self` at 0, `other` at 1.
    pub fn mix_linear(self, other: Self, by: Value<Number>) -> Self {
        function(Function::MixLinear, [self.node, other.node, by.node])
    }
}

impl Value<Point> {
    /// Interpolates linearly: `self` at 0, `other` at 1.
    pub fn mix(self, other: Self, by: Value<Number>) -> Self {
        make(Tree::Lerp(self.node, other.node, by.node))
    }
}

impl<K: Kind> Value<K> {
    /// Delays each lamp by `each` more than the lamp before it: a chase.
    pub fn later_each(self, each: Value<Time>) -> Self {
        function(Function::LaterEach, [self.node, each.node])
    }

    /// Delays the value.
    pub fn later(self, by: Value<Time>) -> Self {
        function(Function::Later, [self.node, by.node])
    }

    /// Stretches the value in time by a factor.
    pub fn stretch(self, by: Value<Number>) -> Self {
        function(Function::Stretch, [self.node, by.node])
    }

    /// Samples the value at multiples of a time and holds it in between.
    pub fn stepped(self, every: Value<Time>) -> Self {
        function(Function::Stepped, [self.node, every.node])
    }

    /// Replaces the value for the lamp (or instance) at this index.
    pub fn except(self, index: u32, odd: Self) -> Self {
        function(Function::Except(index), [odd.node, self.node])
    }
}

impl<K: Scalar> Value<K> {
    /// Maps one range to another and clamps to the ends.
    pub fn map<T: Kind>(self, from: [Self; 2], to: [Value<T>; 2], easing: Easing) -> Value<T> {
        let [a, b] = from;
        let [c, d] = to;
        function(Function::Map(easing), [self.node, a.node, b.node, c.node, d.node])
    }

    /// A smooth threshold: 0 below, 1 above, with a transition of width `over`.
    pub fn threshold(self, at: Self, over: Self) -> Value<Number> {
        function(Function::Threshold, [self.node, at.node, over.node])
    }
}

/// Selects one of two values.
pub fn select<K: Kind>(on: Value<OnOff>, then: Value<K>, otherwise: Value<K>) -> Value<K> {
    make(Tree::Select(on.node, then.node, otherwise.node))
}

impl<K: Scalar> Value<K> {
    /// The smaller of the two.
    pub fn min(self, other: Self) -> Self {
        make(Tree::Min(self.node, other.node))
    }

    /// The larger of the two.
    pub fn max(self, other: Self) -> Self {
        make(Tree::Max(self.node, other.node))
    }

    /// Clamps to a range.
    pub fn clamp(self, lo: Self, hi: Self) -> Self {
        make(Tree::Clamp(self.node, lo.node, hi.node))
    }

    /// Interpolates linearly: `self` at 0, `other` at 1.
    pub fn mix(self, other: Self, by: Value<Number>) -> Self {
        make(Tree::Lerp(self.node, other.node, by.node))
    }

    /// Whether the value is greater than `other`.
    pub fn above(self, other: Self) -> Value<OnOff> {
        make(Tree::Above(self.node, other.node))
    }

    /// The quotient of two values of one kind, as a number.
    pub fn ratio(self, other: Self) -> Value<Number> {
        make(Tree::Divide(self.node, other.node))
    }
}

impl Value<OnOff> {
    /// Whether both are on.
    pub fn and(self, other: Self) -> Self {
        make(Tree::And(self.node, other.node))
    }

    /// Whether one or both are on.
    pub fn or(self, other: Self) -> Self {
        make(Tree::Or(self.node, other.node))
    }
}

impl std::ops::Not for Value<OnOff> {
    type Output = Self;
    fn not(self) -> Self {
        make(Tree::Not(self.node))
    }
}

/// Kinds that can be added and negated.
pub trait Additive: Kind {}
impl<K: Scalar> Additive for K {}
impl Additive for Point {}

impl<K: Additive> Add for Value<K> {
    type Output = Self;
    fn add(self, other: Self) -> Self {
        make(Tree::Add(self.node, other.node))
    }
}

impl<K: Additive> Sub for Value<K> {
    type Output = Self;
    fn sub(self, other: Self) -> Self {
        make(Tree::Subtract(self.node, other.node))
    }
}

impl<K: Additive> Neg for Value<K> {
    type Output = Self;
    fn neg(self) -> Self {
        make(Tree::Negate(self.node))
    }
}

impl<K: Additive> Mul<Value<Number>> for Value<K> {
    type Output = Self;
    fn mul(self, factor: Value<Number>) -> Self {
        make(Tree::Multiply(self.node, factor.node))
    }
}

impl<K: Additive> Div<Value<Number>> for Value<K> {
    type Output = Self;
    fn div(self, divisor: Value<Number>) -> Self {
        make(Tree::Divide(self.node, divisor.node))
    }
}

/// A curve of a book, played over time.
#[derive(Clone, Debug)]
pub struct Curve<K> {
    track: Rc<Track>,
    kind: PhantomData<K>,
}

impl<K: Kind> Curve<K> {
    /// Plays once from the start of the run, then holds its last value.
    pub fn once(&self) -> Value<K> {
        make(Tree::Played(self.track.clone(), Play::Once))
    }

    /// Loops.
    pub fn looped(&self, start: Start) -> Value<K> {
        make(Tree::Played(self.track.clone(), Play::Turning(Turn::Loop, start, None)))
    }

    /// Plays forward and backward alternately.
    pub fn alternating(&self, start: Start) -> Value<K> {
        make(Tree::Played(self.track.clone(), Play::Turning(Turn::Alternate, start, None)))
    }

    /// Loops a part of the curve.
    pub fn part_looped(&self, part: RangeInclusive<Seconds>, start: Start) -> Value<K> {
        let part = Some([part.start().0, part.end().0]);
        make(Tree::Played(self.track.clone(), Play::Turning(Turn::Loop, start, part)))
    }
}

/// A curve of a book, evaluated at a value.
#[derive(Clone, Debug)]
pub struct Ramp<D, K> {
    track: Rc<Track>,
    kind: PhantomData<(D, K)>,
}

impl<D: Scalar, K: Kind> Ramp<D, K> {
    /// The curve's value at `place`.
    pub fn at(&self, place: Value<D>) -> Value<K> {
        make(Tree::Ramp(self.track.clone(), place.node))
    }
}

/// A behavior of a book.
#[derive(Debug)]
pub struct Behavior<K> {
    id: BehaviorId,
    name: String,
    parameters: Vec<String>,
    kind: PhantomData<K>,
}

impl<K: Kind> Behavior<K> {
    /// A call with default arguments and its own random values.
    pub fn call(&self) -> Call<'_, K> {
        Call { behavior: self, arguments: vec![None; self.parameters.len()] }
    }
}

/// A behavior call; its arguments can be set.
#[derive(Debug)]
pub struct Call<'a, K> {
    behavior: &'a Behavior<K>,
    arguments: Vec<Option<Node>>,
}

impl<K: Kind> Call<'_, K> {
    /// Sets an argument. [`Book::check`] reports an unknown parameter.
    pub fn with<A: Kind>(mut self, parameter: &str, value: Value<A>) -> Self {
        match self.behavior.parameters.iter().position(|name| name == parameter) {
            Some(n) => self.arguments[n] = Some(value.node),
            None => self.arguments.push(Some(value.node)),
        }
        self
    }

    /// The value.
    pub fn value(self) -> Value<K> {
        make(Tree::Call(self.behavior.id, self.behavior.name.clone(), self.arguments))
    }
}

/// Builds a behavior.
#[derive(Debug)]
pub struct Recipe {
    parameters: Vec<(String, Node)>,
}

impl Recipe {
    /// Adds a parameter with its default.
    pub fn parameter<K: Kind>(&mut self, name: &str, default: Value<K>) -> Value<K> {
        self.parameters.push((name.to_owned(), default.node));
        make(Tree::Parameter(self.parameters.len() - 1))
    }

    /// Names a part of the behavior; all uses of it share one value.
    pub fn part<K: Kind>(&mut self, name: &str, value: Value<K>) -> Value<K> {
        make(Tree::Named(name.to_owned(), value.node))
    }
}
