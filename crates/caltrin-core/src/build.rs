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

use std::fmt;
use std::marker::PhantomData;
use std::ops::{Add, Div, Mul, Neg, RangeInclusive, Sub};
use std::rc::Rc;

use crate::checked::{Checked, Problem};
use crate::color::Rgb;
use crate::curve::Easing;
use crate::draft::{Array, Draft, Owner, Track};
use crate::kind::{Kind as AnyKind, Photometry};
use crate::misfit::Misfit;
use crate::program::{
    BehaviourId, CHANNELS, Channel, Constant, Domain, ExprId, LightKind, Program, SignalId, Size,
    Space, Start, Subject, Turn, Wave,
};
use crate::quantity::{Degrees, Hertz, Kelvin, Metres, Place, Seconds, Seed};
use rustc_hash::FxHashMap;

/// The kinds of values as types.
pub mod kinds {
    use super::{AnyKind, Photometry};

    use crate::color::Rgb;
    use crate::program::Constant;

    /// A kind as a type.
    pub trait Kind: 'static {
        /// The same kind as a value.
        const KIND: AnyKind;
        /// What a value of it is written as at the stop of a curve: a number in its base unit, a
        /// colour, three metres, or on as true.
        type Stop: Copy;
        /// A stop's value.
        fn constant(stop: Self::Stop) -> Constant;
    }
    /// A kind of one number, which can be added, scaled and compared.
    pub trait Scalar: Kind {}
    /// A kind that a light's strength can have.
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
    kind!(/** Metres. */ Length, AnyKind::Length, f64, Constant::Scalar, Scalar);
    kind!(/** Lumens. */ Lumen, AnyKind::Strength(Photometry::Lumen), f64, Constant::Scalar, Scalar, Strength);
    kind!(/** Candelas. */ Candela, AnyKind::Strength(Photometry::Candela), f64, Constant::Scalar, Scalar, Strength);
    kind!(/** Lux. */ Lux, AnyKind::Strength(Photometry::Lux), f64, Constant::Scalar, Scalar, Strength);
    kind!(/** Linear light. */ Color, AnyKind::Color, Rgb, |c| Constant::Vector(c.0));
    kind!(/** A place in metres. */ Point, AnyKind::Point, [f64; 3], Constant::Vector);
    kind!(/** On or off. */ OnOff, AnyKind::OnOff, bool, Constant::OnOff);
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
    Least(Node, Node),
    Greatest(Node, Node),
    Within(Node, Node, Node),
    Between(Node, Node, Node),
    Above(Node, Node),
    And(Node, Node),
    Or(Node, Node),
    Not(Node),
    Choose(Node, Node, Node),
    Function(Function, Vec<Node>),
    Played(Rc<Track>, Play),
    /// The levels of a rhythm, how it starts, and the language's word for it.
    Rhythm(Vec<(bool, f64)>, Start),
    Ramp(Rc<Track>, Node),
    /// Made already: a signal of a placing.
    Made(ExprId),
    Call(BehaviourId, String, Vec<Option<Node>>),
    Named(String, Node),
}

/// A function of the language, with what of it is no operand.
#[derive(Clone, Copy, Debug)]
enum Function {
    /// Bounds, shortest and longest time.
    Held,
    /// Bounds, shortest and longest time, part.
    Soft,
    /// Bounds, rate.
    Drift(u32),
    /// Radius, rate.
    Wander(u32),
    /// Shortest and longest burst, shortest and longest pause.
    Bursts,
    /// Bounds, drawn once.
    Drawn,
    /// The list.
    OneOf,
    /// Shortest and longest time, then the list.
    OneOfEvery,
    /// Bounds, period, phase.
    Wave(Wave, Start),
    /// Bounds, period, phase, part that is on.
    Square(Start),
    /// Value, step.
    Later,
    /// Value, by.
    Shift,
    /// Value, factor.
    Stretch,
    /// Value, grid.
    Snap,
    /// Value, from, to.
    Map(Easing),
    /// Value, at, over.
    Edge,
    /// First, second, ratio, in linear light.
    MixLinear,
    /// Colour, angle.
    Hue,
    /// Colour, factor.
    Shade,
    /// Kelvins.
    Kelvin,
    /// The odd one, the usual one.
    Except(u32),
}

impl Function {
    /// The language's word for one that has chance, which its keys are made with.
    fn callee(self) -> Option<&'static str> {
        match self {
            Function::Held | Function::Soft => Some("held"),
            Function::Drift(_) => Some("drift"),
            Function::Wander(_) => Some("wander"),
            Function::Bursts => Some("bursts"),
            Function::Drawn | Function::OneOf | Function::OneOfEvery => Some("one"),
            Function::Wave(Wave::Sine, _) => Some("sine"),
            Function::Wave(Wave::Triangle, _) => Some("triangle"),
            Function::Wave(Wave::Saw, _) => Some("saw"),
            Function::Square(_) => Some("square"),
            Function::Later
            | Function::Shift
            | Function::Stretch
            | Function::Snap
            | Function::Map(_)
            | Function::Edge
            | Function::MixLinear
            | Function::Hue
            | Function::Shade
            | Function::Kelvin
            | Function::Except(_) => None,
        }
    }
}

/// How a curve is played.
#[derive(Clone, Copy, Debug)]
enum Play {
    Once,
    Turning(Turn, Start, Option<[f64; 2]>),
}

/// A value of one kind; cheap to clone, and clones are the same value, exactly in step.
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

/// A length in metres.
pub fn metres(v: f64) -> Value<Length> {
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

/// An 8-bit sRGB colour, as `0xrrggbb`.
pub fn srgb(rrggbb: u32) -> Value<Color> {
    let [_, r, g, b] = rrggbb.to_be_bytes();
    rgb(Rgb::from_srgb8(r, g, b))
}

/// A colour in linear light.
pub fn rgb(v: Rgb) -> Value<Color> {
    make(Tree::Constant(Constant::Vector(v.0), AnyKind::Color))
}

/// The colour of a black body.
pub fn kelvin(v: f64) -> Value<Color> {
    rgb(Rgb::from_kelvin(Kelvin(v)))
}

/// A place, in metres.
pub fn point(x: f64, y: f64, z: f64) -> Value<Point> {
    make(Tree::Constant(Constant::Vector([x, y, z]), AnyKind::Point))
}

/// The lamp's index in its array, from 0.
pub fn index() -> Value<Number> {
    make(Tree::Index)
}

/// A level between two bounds, drawn again after random times of this range.
pub fn held<K: Scalar>(lo: Value<K>, hi: Value<K>, every: RangeInclusive<Seconds>) -> Value<K> {
    held_every(lo, hi, time(*every.start()), time(*every.end()))
}

/// [`held`] with times that are parameters of a behaviour.
pub fn held_every<K: Scalar>(
    lo: Value<K>,
    hi: Value<K>,
    shortest: Value<Time>,
    longest: Value<Time>,
) -> Value<K> {
    function(Function::Held, [lo.node, hi.node, shortest.node, longest.node])
}

fn function<K>(function: Function, operands: impl Into<Vec<Node>>) -> Value<K> {
    make(Tree::Function(function, operands.into()))
}

/// [`held`] whose levels are each reached softly over a part (0..1) of their time.
pub fn held_softly<K: Scalar>(
    lo: Value<K>,
    hi: Value<K>,
    every: RangeInclusive<Seconds>,
    over: Value<Number>,
) -> Value<K> {
    let (shortest, longest) = (time(*every.start()).node, time(*every.end()).node);
    function(Function::Soft, [lo.node, hi.node, shortest, longest, over.node])
}

/// A level that drifts smoothly between two bounds, with 1 to 6 octaves.
pub fn drift<K: Scalar>(lo: Value<K>, hi: Value<K>, rate: Value<Rate>, octaves: u32) -> Value<K> {
    function(Function::Drift(octaves), [lo.node, hi.node, rate.node])
}

/// A displacement that wanders smoothly and never leaves a ball, with 1 to 6 octaves.
pub fn wander(radius: Value<Length>, rate: Value<Rate>, octaves: u32) -> Value<Point> {
    function(Function::Wander(octaves), [radius.node, rate.node])
}

/// 1 while a burst lasts, else 0; bursts and the pauses between them last a time of these ranges.
pub fn bursts(on: RangeInclusive<Seconds>, off: RangeInclusive<Seconds>) -> Value<Number> {
    let ends = [on.start(), on.end(), off.start(), off.end()];
    function(Function::Bursts, ends.map(|end| time(*end).node))
}

/// A value between two bounds, drawn once for the run and each lamp. Colours are blended in OKLab.
pub fn drawn<K: Kind>(lo: Value<K>, hi: Value<K>) -> Value<K> {
    function(Function::Drawn, [lo.node, hi.node])
}

/// One of a list, drawn once for the run and each lamp.
pub fn one_of<K: Kind>(all: impl IntoIterator<Item = Value<K>>) -> Value<K> {
    function(Function::OneOf, all.into_iter().map(|v| v.node).collect::<Vec<_>>())
}

/// One of a list, drawn again after random times of this range.
pub fn one_of_every<K: Kind>(
    every: RangeInclusive<Seconds>,
    all: impl IntoIterator<Item = Value<K>>,
) -> Value<K> {
    let mut operands = vec![time(*every.start()).node, time(*every.end()).node];
    operands.extend(all.into_iter().map(|v| v.node));
    function(Function::OneOfEvery, operands)
}

/// A wave between two bounds, lowest at the start of each period; `phase` (in turns) starts it later
/// in its turn.
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

/// High for the first part `on` (0..1) of each period, then low.
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

/// 1 and 0 (on is 1) for these times in turn, again and again, as beacons have.
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

/// The colour of a black body at a number of kelvins that varies.
pub fn kelvin_of(kelvins: Value<Number>) -> Value<Color> {
    function(Function::Kelvin, [kelvins.node])
}

impl Value<Color> {
    /// With its hue turned in OKLab.
    pub fn turn_hue(self, by: Value<Angle>) -> Self {
        function(Function::Hue, [self.node, by.node])
    }

    /// Darker or brighter in linear light.
    pub fn shade(self, by: Value<Number>) -> Self {
        function(Function::Shade, [self.node, by.node])
    }

    /// This at 0, `other` at 1, blended in OKLab.
    pub fn mix(self, other: Self, by: Value<Number>) -> Self {
        make(Tree::Between(self.node, other.node, by.node))
    }

    /// This at 0, `other` at 1, blended in linear light.
    pub fn mix_linear(self, other: Self, by: Value<Number>) -> Self {
        function(Function::MixLinear, [self.node, other.node, by.node])
    }
}

impl Value<Point> {
    /// This at 0, `other` at 1, straight between them.
    pub fn mix(self, other: Self, by: Value<Number>) -> Self {
        make(Tree::Between(self.node, other.node, by.node))
    }
}

impl<K: Kind> Value<K> {
    /// From lamp to lamp so much later: a chase.
    pub fn later(self, each: Value<Time>) -> Self {
        function(Function::Later, [self.node, each.node])
    }

    /// As it was so long ago.
    pub fn shift(self, by: Value<Time>) -> Self {
        function(Function::Shift, [self.node, by.node])
    }

    /// So many times as long.
    pub fn stretch(self, by: Value<Number>) -> Self {
        function(Function::Stretch, [self.node, by.node])
    }

    /// Changing only at multiples of a time.
    pub fn snap(self, every: Value<Time>) -> Self {
        function(Function::Snap, [self.node, every.node])
    }

    /// Another value for the lamp (or placing) of this index.
    pub fn except(self, index: u32, odd: Self) -> Self {
        function(Function::Except(index), [odd.node, self.node])
    }
}

impl<K: Scalar> Value<K> {
    /// From one range to another; outside of the first it stays at the ends of the second.
    pub fn map<T: Kind>(self, from: [Self; 2], to: [Value<T>; 2], easing: Easing) -> Value<T> {
        let [a, b] = from;
        let [c, d] = to;
        function(Function::Map(easing), [self.node, a.node, b.node, c.node, d.node])
    }

    /// A soft threshold: 0 below, 1 above, softly over a width.
    pub fn edge(self, at: Self, over: Self) -> Value<Number> {
        function(Function::Edge, [self.node, at.node, over.node])
    }
}

/// One of two values.
pub fn choose<K: Kind>(on: Value<OnOff>, then: Value<K>, otherwise: Value<K>) -> Value<K> {
    make(Tree::Choose(on.node, then.node, otherwise.node))
}

impl<K: Scalar> Value<K> {
    /// The smaller of the two.
    pub fn min(self, other: Self) -> Self {
        make(Tree::Least(self.node, other.node))
    }

    /// The larger of the two.
    pub fn max(self, other: Self) -> Self {
        make(Tree::Greatest(self.node, other.node))
    }

    /// Kept inside a range.
    pub fn clamp(self, lo: Self, hi: Self) -> Self {
        make(Tree::Within(self.node, lo.node, hi.node))
    }

    /// This at 0, `other` at 1.
    pub fn mix(self, other: Self, by: Value<Number>) -> Self {
        make(Tree::Between(self.node, other.node, by.node))
    }

    /// Whether it is above `other`.
    pub fn above(self, other: Self) -> Value<OnOff> {
        make(Tree::Above(self.node, other.node))
    }

    /// How many times `other` goes into it.
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

/// Kinds that can be added and turned in sign.
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

/// A curve of a book that plays.
#[derive(Clone, Debug)]
pub struct Curve<K> {
    track: Rc<Track>,
    kind: PhantomData<K>,
}

impl<K: Kind> Curve<K> {
    /// Played once from the start of the run; it rests at its last stop.
    pub fn once(&self) -> Value<K> {
        make(Tree::Played(self.track.clone(), Play::Once))
    }

    /// Played again and again.
    pub fn looped(&self, start: Start) -> Value<K> {
        make(Tree::Played(self.track.clone(), Play::Turning(Turn::Loop, start, None)))
    }

    /// Played there and back.
    pub fn alternating(&self, start: Start) -> Value<K> {
        make(Tree::Played(self.track.clone(), Play::Turning(Turn::Alternate, start, None)))
    }

    /// A part of it played again and again.
    pub fn part_looped(&self, part: RangeInclusive<Seconds>, start: Start) -> Value<K> {
        let part = Some([part.start().0, part.end().0]);
        make(Tree::Played(self.track.clone(), Play::Turning(Turn::Loop, start, part)))
    }
}

/// A curve of a book that a value drives.
#[derive(Clone, Debug)]
pub struct Ramp<D, K> {
    track: Rc<Track>,
    kind: PhantomData<(D, K)>,
}

impl<D: Scalar, K: Kind> Ramp<D, K> {
    /// Its value where `place` is.
    pub fn at(&self, place: Value<D>) -> Value<K> {
        make(Tree::Ramp(self.track.clone(), place.node))
    }
}

/// A behaviour of a book.
#[derive(Debug)]
pub struct Behaviour<K> {
    id: BehaviourId,
    name: String,
    parameters: Vec<String>,
    kind: PhantomData<K>,
}

impl<K: Kind> Behaviour<K> {
    /// A use of it with its defaults: a copy of its own, with its own chance.
    pub fn call(&self) -> Call<'_, K> {
        Call { behaviour: self, arguments: vec![None; self.parameters.len()] }
    }
}

/// A use of a behaviour whose arguments are being given.
#[derive(Debug)]
pub struct Call<'a, K> {
    behaviour: &'a Behaviour<K>,
    arguments: Vec<Option<Node>>,
}

impl<K: Kind> Call<'_, K> {
    /// Gives a parameter another value. One that the behaviour does not have is told by
    /// [`Book::check`].
    pub fn with<A: Kind>(mut self, parameter: &str, value: Value<A>) -> Self {
        match self.behaviour.parameters.iter().position(|name| name == parameter) {
            Some(n) => self.arguments[n] = Some(value.node),
            None => self.arguments.push(Some(value.node)),
        }
        self
    }

    /// The value.
    pub fn value(self) -> Value<K> {
        make(Tree::Call(self.behaviour.id, self.behaviour.name.clone(), self.arguments))
    }
}

/// A behaviour in the making.
#[derive(Debug)]
pub struct Recipe {
    parameters: Vec<(String, Node)>,
}

impl Recipe {
    /// A parameter with its default.
    pub fn parameter<K: Kind>(&mut self, name: &str, default: Value<K>) -> Value<K> {
        self.parameters.push((name.to_owned(), default.node));
        make(Tree::Parameter(self.parameters.len() - 1))
    }

    /// A named part, shared by all that use it.
    pub fn part<K: Kind>(&mut self, name: &str, value: Value<K>) -> Value<K> {
        make(Tree::Named(name.to_owned(), value.node))
    }
}

/// A light in the making.
#[derive(Debug)]
pub struct Light {
    name: String,
    kind: LightKind,
    size: Size,
    seed: Option<u32>,
    ball: Option<f64>,
    driven: Vec<(&'static str, Vec<Node>)>,
}

impl Light {
    fn new(name: &str, kind: LightKind) -> Self {
        let (name, size) = (name.to_owned(), Size::One);
        Light { name, kind, size, seed: None, ball: None, driven: Vec::new() }
    }

    /// Shines to all sides.
    pub fn point(name: &str) -> Self {
        Light::new(name, LightKind::Point)
    }

    /// Shines into a cone.
    pub fn spot(name: &str) -> Self {
        Light::new(name, LightKind::Spot)
    }

    /// Shines from a surface.
    pub fn area(name: &str) -> Self {
        Light::new(name, LightKind::Area)
    }

    /// Shines from one direction everywhere.
    pub fn directional(name: &str) -> Self {
        Light::new(name, LightKind::Directional)
    }

    /// Light from everywhere.
    pub fn ambient(name: &str) -> Self {
        Light::new(name, LightKind::Ambient)
    }

    /// An array of that many lamps.
    pub fn many(mut self, lamps: u32) -> Self {
        self.size = Size::Many(lamps);
        self
    }

    /// As many lamps as the game makes.
    pub fn open(mut self) -> Self {
        self.size = Size::Open;
        self
    }

    /// A seed of its own, which keeps its chance through a new name.
    pub fn seed(mut self, seed: u32) -> Self {
        self.seed = Some(seed);
        self
    }

    /// A named part of this light, shared by all channels that use it.
    pub fn part<K: Kind>(name: &str, value: Value<K>) -> Value<K> {
        make(Tree::Named(name.to_owned(), value.node))
    }

    fn drive(mut self, channel: &'static str, values: Vec<Node>) -> Self {
        self.driven.push((channel, values));
        self
    }

    /// Its strength: lm or cd (point, spot, area), lx (directional, ambient), or a factor.
    pub fn intensity<K: kinds::Strength>(self, value: Value<K>) -> Self {
        self.drive("intensity", vec![value.node])
    }

    /// Its colour.
    pub fn color(self, value: Value<Color>) -> Self {
        self.drive("color", vec![value.node])
    }

    /// Up to where it is full, and from where on there is none.
    pub fn reach(self, inner: Value<Length>, outer: Value<Length>) -> Self {
        self.drive("reach", vec![inner.node, outer.node])
    }

    /// From where on there is none.
    pub fn outer_reach(self, outer: Value<Length>) -> Self {
        self.drive("reach", vec![outer.node])
    }

    /// Full angles of the cone.
    pub fn cone(self, inner: Value<Angle>, outer: Value<Angle>) -> Self {
        self.drive("cone", vec![inner.node, outer.node])
    }

    /// Where it is; of an array, where its first lamp is if a step is added.
    pub fn position(self, value: Value<Point>) -> Self {
        self.drive("position", vec![value.node])
    }

    /// The power of the distance by which it falls: 2 is the inverse square.
    pub fn falloff(self, power: Value<Number>) -> Self {
        self.drive("falloff", vec![power.node])
    }

    /// A displacement from its position.
    pub fn offset(self, by: Value<Point>) -> Self {
        self.drive("offset", vec![by.node])
    }

    /// States the ball that the offset is meant to stay in.
    pub fn ball(mut self, radius: Metres) -> Self {
        self.ball = Some(radius.0);
        self
    }

    /// Where it points, as a displacement from where it is; its length does not matter.
    pub fn aim(self, direction: Value<Point>) -> Self {
        self.drive("aim", vec![direction.node])
    }

    /// Whether it casts shadows.
    pub fn shadows(self, on: Value<OnOff>) -> Self {
        self.drive("shadows", vec![on.node])
    }

    /// Where the first lamp of an array is, and the step to the next.
    pub fn row(self, first: Value<Point>, step: Value<Point>) -> Self {
        self.position(first + step * index())
    }
}

/// Values for the game that are no lamp, in the making.
#[derive(Debug)]
pub struct Output {
    name: String,
    size: Size,
    values: Vec<(Option<String>, Node)>,
}

impl Output {
    /// One value of that name.
    pub fn of<K: Kind>(name: &str, value: Value<K>) -> Self {
        let values = vec![(None, value.node)];
        Output { name: name.to_owned(), size: Size::One, values }
    }

    /// Several values, given with [`Output::value`].
    pub fn new(name: &str) -> Self {
        Output { name: name.to_owned(), size: Size::One, values: Vec::new() }
    }

    /// An array of that many.
    pub fn many(mut self, count: u32) -> Self {
        self.size = Size::Many(count);
        self
    }

    /// Adds a named value.
    pub fn value<K: Kind>(mut self, name: &str, value: Value<K>) -> Self {
        self.values.push((Some(name.to_owned()), value.node));
        self
    }
}

/// Placings of a fitting: how many, and where.
#[derive(Debug)]
pub struct Placing {
    name: String,
    size: Size,
    position: Option<Node>,
}

impl Placing {
    /// One placing.
    pub fn new(name: &str) -> Self {
        Placing { name: name.to_owned(), size: Size::One, position: None }
    }

    /// That many placings.
    pub fn many(mut self, count: u32) -> Self {
        self.size = Size::Many(count);
        self
    }

    /// Where it is.
    pub fn position(mut self, value: Value<Point>) -> Self {
        self.position = Some(value.node);
        self
    }

    /// Where the first is, and the step to the next.
    pub fn row(self, first: Value<Point>, step: Value<Point>) -> Self {
        self.position(first + step * index())
    }
}

/// Inside of a placing.
#[derive(Debug)]
pub struct Placed<'b> {
    book: &'b mut Book,
    path: String,
    placings: Vec<Size>,
    position: Option<ExprId>,
    owner: Owner,
}

impl Placed<'_> {
    /// A signal of each placing: all its lights that use it are in step, and no other placing's.
    pub fn signal<K: Kind>(&mut self, name: &str, value: Value<K>) -> Value<K> {
        let mut known = FxHashMap::default();
        let one = [value.node.clone()];
        match lower_all(&mut self.book.draft, &mut self.owner, name, &one, &mut known) {
            Ok(made) => {
                self.book.draft.name_local(made[0], name);
                make(Tree::Made(made[0]))
            }
            Err(misfit) => {
                self.book.refuse(&format!("signal `{}{name}`", self.path), misfit);
                value
            }
        }
    }

    /// Adds a light to each placing. Its position counts from the placing's.
    pub fn light(&mut self, light: Light) {
        self.book.add_light(light, &self.path, &self.placings, self.position);
    }

    /// Places lights inside of each placing.
    pub fn place(&mut self, placing: Placing, describe: impl FnOnce(&mut Placed<'_>)) {
        let (path, placings) = (self.path.clone(), self.placings.clone());
        self.book.add_placing(placing, &path, &placings, self.position, describe);
    }
}

/// A value that stands where one could not be made.
fn nothing(kind: AnyKind) -> Constant {
    match kind {
        AnyKind::Color | AnyKind::Point => Constant::Vector([1.0; 3]),
        AnyKind::OnOff => Constant::OnOff(false),
        AnyKind::Number
        | AnyKind::Time
        | AnyKind::Rate
        | AnyKind::Angle
        | AnyKind::Length
        | AnyKind::Strength(_) => Constant::Scalar(0.0),
    }
}

/// Lowers the values of one property; `known` keeps what the same owner made before.
fn lower_all(
    draft: &mut Draft,
    owner: &mut Owner,
    property: &str,
    values: &[Node],
    known: &mut FxHashMap<*const Tree, ExprId>,
) -> Result<Vec<ExprId>, Misfit> {
    owner.property(property);
    let mut lowering = Lowering::new(draft, owner);
    lowering.property = property;
    lowering.known = std::mem::take(known);
    let made = values.iter().map(|value| lowering.lower(value)).collect();
    *known = std::mem::take(&mut lowering.known);
    made
}

/// Something that the builder was asked for and that cannot be.
#[derive(Clone, Debug, PartialEq)]
pub struct Refusal {
    /// Where, in words: ``light `mast`, intensity``.
    pub place: String,
    /// What is wrong.
    pub misfit: Misfit,
}

impl fmt::Display for Refusal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.place, self.misfit)
    }
}

impl std::error::Error for Refusal {}

/// A lightbook in the making.
#[derive(Debug)]
pub struct Book {
    draft: Draft,
    refused: Vec<Refusal>,
}

impl Book {
    /// An empty book.
    pub fn new(name: &str, seed: Seed) -> Self {
        Book { draft: Draft::new(name, seed), refused: Vec::new() }
    }

    fn refuse(&mut self, place: &str, misfit: Misfit) {
        self.refused.push(Refusal { place: place.to_owned(), misfit });
    }

    /// A curve in seconds: position, value and how it is reached. The first easing is not used.
    /// Colours are blended in OKLab.
    pub fn curve<K: Kind>(
        &mut self,
        name: &str,
        stops: impl IntoIterator<Item = (Seconds, K::Stop, Easing)>,
    ) -> Curve<K> {
        let stops = stops.into_iter().map(|(at, value, easing)| (Place(at.0), value, easing));
        Curve { track: self.track::<K>(name, Domain::Time, stops), kind: PhantomData }
    }

    /// A curve of colours that are blended in linear light.
    pub fn linear_curve(
        &mut self,
        name: &str,
        stops: impl IntoIterator<Item = (Seconds, Rgb, Easing)>,
    ) -> Curve<Color> {
        let stops = stops.into_iter().map(|(at, value, easing)| (Place(at.0), value, easing));
        let track = self.blended::<Color>(name, Domain::Time, true, stops);
        Curve { track, kind: PhantomData }
    }

    /// Says how places are given out. To be called before lights are added.
    pub fn space(&mut self, space: Space) {
        self.draft.set_space(space);
    }

    /// A ramp: places in the base unit of its kind, values and how they are reached.
    pub fn ramp<D: Scalar, K: Kind>(
        &mut self,
        name: &str,
        stops: impl IntoIterator<Item = (Place, K::Stop, Easing)>,
    ) -> Ramp<D, K> {
        let track = self.track::<K>(name, Domain::Ramp(D::KIND), stops.into_iter());
        Ramp { track, kind: PhantomData }
    }

    fn track<K: Kind>(
        &mut self,
        name: &str,
        domain: Domain,
        stops: impl Iterator<Item = (Place, K::Stop, Easing)>,
    ) -> Rc<Track> {
        self.blended::<K>(name, domain, false, stops)
    }

    fn blended<K: Kind>(
        &mut self,
        name: &str,
        domain: Domain,
        linear: bool,
        stops: impl Iterator<Item = (Place, K::Stop, Easing)>,
    ) -> Rc<Track> {
        let stops: Vec<_> =
            stops.map(|(at, value, easing)| (at, K::constant(value), easing)).collect();
        let track = self.draft.define_curve(name, domain, K::KIND, linear, &stops);
        Rc::new(track.unwrap_or_else(|misfit| {
            self.refuse(&format!("curve `{name}`"), misfit);
            let nothing = nothing(K::KIND);
            let stand_in = [0.0, 1.0].map(|at| (Place(at), nothing, Easing::Linear));
            self.draft
                .define_curve(name, domain, K::KIND, false, &stand_in)
                .expect("two stops make a curve")
        }))
    }

    /// A signal: one shared value.
    pub fn signal<K: Kind>(&mut self, name: &str, value: Value<K>) -> Value<K> {
        let mut owner = Owner::book(name);
        let made = Lowering::new(&mut self.draft, &mut owner)
            .lower(&value.node)
            .and_then(|id| self.draft.define_signal(name, id));
        match made {
            Ok(id) => make(Tree::Signal(id)),
            Err(misfit) => {
                self.refuse(&format!("signal `{name}`"), misfit);
                value
            }
        }
    }

    /// A behaviour: a recipe whose parameters are told to the [`Recipe`].
    pub fn behaviour<K: Kind>(
        &mut self,
        name: &str,
        recipe: impl FnOnce(&mut Recipe) -> Value<K>,
    ) -> Behaviour<K> {
        let mut told = Recipe { parameters: Vec::new() };
        let value = recipe(&mut told);
        let names = told.parameters.iter().map(|(name, _)| name.clone()).collect();
        let id = self.lower_behaviour(name, &told, &value.node).unwrap_or_else(|misfit| {
            self.refuse(&format!("behaviour `{name}`"), misfit);
            let stand_in = self.draft.constant(nothing(K::KIND), K::KIND);
            self.draft
                .define_behaviour(name, Owner::behaviour(name), &[], stand_in)
                .expect("a constant makes a behaviour")
        });
        Behaviour { id, name: name.to_owned(), parameters: names, kind: PhantomData }
    }

    fn lower_behaviour(
        &mut self,
        name: &str,
        told: &Recipe,
        value: &Node,
    ) -> Result<BehaviourId, Misfit> {
        let mut owner = Owner::behaviour(name);
        let (mut defaults, mut parameters) = (Vec::new(), Vec::new());
        for (parameter, default) in &told.parameters {
            let default = Lowering::new(&mut self.draft, &mut owner).lower(default)?;
            parameters.push(self.draft.parameter(&mut owner, parameter, default)?);
            defaults.push(default);
        }
        let mut lowering = Lowering::new(&mut self.draft, &mut owner);
        lowering.parameters = parameters;
        let value = lowering.lower(value)?;
        self.draft.define_behaviour(name, owner, &defaults, value)
    }

    /// Adds a light.
    pub fn light(&mut self, light: Light) {
        self.add_light(light, "", &[], None);
    }

    fn add_light(&mut self, light: Light, path: &str, placings: &[Size], at: Option<ExprId>) {
        let name = format!("{path}{}", light.name);
        if let Err((channel, misfit)) = self.lower_light(light, &name, placings, at) {
            let place = format!("light `{name}`");
            let place = channel.map_or(place.clone(), |channel| format!("{place}, {channel}"));
            self.refuse(&place, misfit);
        }
    }

    fn lower_light(
        &mut self,
        light: Light,
        name: &str,
        placings: &[Size],
        at: Option<ExprId>,
    ) -> Result<(), (Option<&'static str>, Misfit)> {
        let mut owner = Owner::placed(name, light.size, light.seed, placings);
        let mut known = FxHashMap::default();
        let mut driven: Vec<(Channel, Vec<ExprId>)> = Vec::new();
        let mut placed = at;
        for (channel, values) in &light.driven {
            let mut lowered = lower_all(&mut self.draft, &mut owner, channel, values, &mut known)
                .map_err(|misfit| (Some(*channel), misfit))?;
            if let ("position", Some(at)) = (*channel, placed.take_if(|_| *channel == "position")) {
                let own = lowered[0];
                lowered[0] = self.draft.add(at, own).map_err(|misfit| (Some(*channel), misfit))?;
            }
            let channel = CHANNELS.iter().find(|known| known.name == *channel);
            driven.extend(channel.map(|channel| (*channel, lowered)));
        }
        // Where a placing is, its lights are, unless they have no place at all.
        let position = CHANNELS.iter().find(|channel| channel.name == "position");
        if let (Some(at), Some(position)) = (placed, position)
            && position.lights.contains(&light.kind)
        {
            driven.push((*position, vec![at]));
        }
        let array = Array { size: light.size, placings: placings.to_vec(), ball: light.ball };
        self.draft
            .define_light(name, light.kind, &array, &driven)
            .map(|_| ())
            .map_err(|misfit| (None, misfit))
    }

    /// Adds an output.
    pub fn output(&mut self, output: Output) {
        let name = output.name.clone();
        let mut owner = Owner::light(&name, output.size, None);
        let mut known = FxHashMap::default();
        let mut values = Vec::new();
        for (field, value) in &output.values {
            let property = field.as_deref().unwrap_or("value");
            let one = [value.clone()];
            match lower_all(&mut self.draft, &mut owner, property, &one, &mut known) {
                Ok(made) => values.push((field.clone(), made[0])),
                Err(misfit) => self.refuse(&format!("output `{name}`, {property}"), misfit),
            }
        }
        if let Err(misfit) = self.draft.define_output(&name, &Array::of(output.size), &values) {
            self.refuse(&format!("output `{name}`"), misfit);
        }
    }

    /// Places lights that belong together: `describe` says what lies in each placing. Signals made
    /// there are each placing's own.
    pub fn place(&mut self, placing: Placing, describe: impl FnOnce(&mut Placed<'_>)) {
        self.add_placing(placing, "", &[], None, describe);
    }

    fn add_placing(
        &mut self,
        placing: Placing,
        path: &str,
        around: &[Size],
        at: Option<ExprId>,
        describe: impl FnOnce(&mut Placed<'_>),
    ) {
        let path = format!("{path}{}", placing.name);
        let placings: Vec<Size> = around.iter().copied().chain([placing.size]).collect();
        let mut owner = Owner::placing(&path, &placings);
        let mut position = at;
        if let Some(value) = &placing.position {
            let mut known = FxHashMap::default();
            let one = [value.clone()];
            let made = lower_all(&mut self.draft, &mut owner, "position", &one, &mut known);
            let made = made.and_then(|made| match at {
                Some(at) => self.draft.add(at, made[0]),
                None => Ok(made[0]),
            });
            match made {
                Ok(made) => position = Some(made),
                Err(misfit) => self.refuse(&format!("placing `{path}`, position"), misfit),
            }
        }
        let path = format!("{path}.");
        describe(&mut Placed { book: self, path, placings, position, owner });
    }

    /// The program as far as it could be made, not validated, and what was refused.
    pub fn finish(self) -> (Program, Vec<Refusal>) {
        (self.draft.finish(), self.refused)
    }

    /// The checked program, or everything that is wrong with it.
    pub fn check(self) -> Result<Checked, Vec<Refusal>> {
        let (program, refused) = self.finish();
        if !refused.is_empty() {
            return Err(refused);
        }
        let named = program.clone();
        program.validate().map_err(|problems| {
            problems.into_iter().map(|problem| refusal(&named, problem)).collect()
        })
    }
}

fn refusal(program: &Program, problem: Problem) -> Refusal {
    let place = match problem.subject {
        Subject::Book => "book".to_owned(),
        Subject::Curve(id) => format!("curve `{}`", program.curve(id).name),
        Subject::Signal(id) => format!("signal `{}`", program.signal(id).name),
        Subject::Behaviour(id) => format!("behaviour `{}`", program.behaviour(id).name),
        Subject::Light(id) => format!("light `{}`", program.light(id).name),
        Subject::Drive(id, field) => {
            let light = program.light(id);
            format!("light `{}`, {}", light.name, light.field_name(field))
        }
    };
    Refusal { place, misfit: problem.misfit }
}

/// Turns trees into expressions of a draft; one tree becomes one expression, however often used.
struct Lowering<'a> {
    draft: &'a mut Draft,
    owner: &'a mut Owner,
    property: &'a str,
    parameters: Vec<ExprId>,
    known: FxHashMap<*const Tree, ExprId>,
}

impl<'a> Lowering<'a> {
    fn new(draft: &'a mut Draft, owner: &'a mut Owner) -> Self {
        Lowering { draft, owner, property: "", parameters: Vec::new(), known: FxHashMap::default() }
    }

    fn lower(&mut self, node: &Node) -> Result<ExprId, Misfit> {
        if let Some(known) = self.known.get(&Rc::as_ptr(node)) {
            return Ok(*known);
        }
        let id = self.make(node)?;
        self.known.insert(Rc::as_ptr(node), id);
        Ok(id)
    }

    fn two(
        &mut self,
        a: &Node,
        b: &Node,
        make: fn(&mut Draft, ExprId, ExprId) -> Result<ExprId, Misfit>,
    ) -> Result<ExprId, Misfit> {
        let (a, b) = (self.lower(a)?, self.lower(b)?);
        make(self.draft, a, b)
    }

    fn make(&mut self, node: &Node) -> Result<ExprId, Misfit> {
        match &**node {
            Tree::Constant(Constant::Scalar(v), kind) => self.draft.number(*v, *kind),
            Tree::Constant(constant, kind) => Ok(self.draft.constant(*constant, *kind)),
            Tree::Index => self.draft.index(self.owner),
            Tree::Parameter(n) => Ok(self.parameters[*n]),
            Tree::Signal(id) => Ok(self.draft.signal(*id)),
            Tree::Negate(a) => {
                let a = self.lower(a)?;
                self.draft.negate(a)
            }
            Tree::Not(a) => {
                let a = self.lower(a)?;
                self.draft.not(a)
            }
            Tree::Add(a, b) => self.two(a, b, Draft::add),
            Tree::Subtract(a, b) => self.two(a, b, Draft::subtract),
            Tree::Multiply(a, b) => self.two(a, b, Draft::multiply),
            Tree::Divide(a, b) => self.two(a, b, Draft::divide),
            Tree::Least(a, b) => self.two(a, b, Draft::least),
            Tree::Greatest(a, b) => self.two(a, b, Draft::greatest),
            Tree::Above(a, b) => self.two(a, b, Draft::above),
            Tree::And(a, b) => self.two(a, b, Draft::and),
            Tree::Or(a, b) => self.two(a, b, Draft::or),
            Tree::Within(v, lo, hi) => {
                let (v, lo, hi) = (self.lower(v)?, self.lower(lo)?, self.lower(hi)?);
                self.draft.within(v, lo, hi)
            }
            Tree::Between(a, b, s) => {
                let (a, b, s) = (self.lower(a)?, self.lower(b)?, self.lower(s)?);
                self.draft.between(a, b, s, false)
            }
            Tree::Choose(c, a, b) => {
                let (c, a, b) = (self.lower(c)?, self.lower(a)?, self.lower(b)?);
                self.draft.choose(c, a, b)
            }
            Tree::Function(function, operands) => self.function(*function, operands),
            Tree::Played(track, play) => self.played(track, *play),
            Tree::Rhythm(times, start) => {
                let place = self.draft.use_of(self.owner, "rhythm");
                let (levels, length) = self.draft.rhythm(self.property, times)?;
                let none = None;
                let at =
                    self.draft.turning(self.owner, &place, length, none, Turn::Loop, *start)?;
                self.draft.track_at(&levels, at)
            }
            Tree::Ramp(track, place) => {
                let place = self.lower(place)?;
                self.draft.track_at(track, place)
            }
            Tree::Made(id) => Ok(*id),
            Tree::Call(behaviour, name, arguments) => {
                let place = self.draft.use_of(self.owner, name);
                let mut lowered = Vec::new();
                for argument in arguments {
                    lowered.push(argument.as_ref().map(|a| self.lower(a)).transpose()?);
                }
                self.draft.call(self.owner, &place, *behaviour, &lowered)
            }
            Tree::Named(name, value) => {
                self.owner.property(name);
                let value = self.lower(value);
                self.owner.property(self.property);
                let value = value?;
                self.draft.name_local(value, name);
                Ok(value)
            }
        }
    }

    fn played(&mut self, track: &Track, play: Play) -> Result<ExprId, Misfit> {
        let at = match play {
            Play::Once => self.draft.now(),
            Play::Turning(turn, start, part) => {
                let name = match turn {
                    Turn::Loop => "loop",
                    Turn::Alternate => "alternate",
                };
                let place = self.draft.use_of(self.owner, name);
                let length = self.draft.program().curve(track.curves[0]).curve.length();
                let part = match part {
                    Some([from, to]) => Some([
                        self.draft.number(from, AnyKind::Time)?,
                        self.draft.number(to, AnyKind::Time)?,
                    ]),
                    None => None,
                };
                self.draft.turning(self.owner, &place, length, part, turn, start)?
            }
        };
        self.draft.track_at(track, at)
    }

    fn function(&mut self, function: Function, operands: &[Node]) -> Result<ExprId, Misfit> {
        let place = self.draft.use_of(self.owner, function.callee().unwrap_or_default());
        let mut all = Vec::with_capacity(operands.len());
        for operand in operands {
            all.push(self.lower(operand)?);
        }
        let (draft, owner) = (&mut *self.draft, &mut *self.owner);
        match (function, &all[..]) {
            (Function::Held, &[lo, hi, a, b]) => {
                let level = draft.held(owner, &place, [a, b], None)?;
                draft.rising(lo, hi)?;
                draft.between(lo, hi, level, false)
            }
            (Function::Soft, &[lo, hi, a, b, over]) => {
                let level = draft.held(owner, &place, [a, b], Some(over))?;
                draft.rising(lo, hi)?;
                draft.between(lo, hi, level, false)
            }
            (Function::Drift(octaves), &[lo, hi, rate]) => {
                let level = draft.drift(owner, &place, rate, f64::from(octaves))?;
                draft.rising(lo, hi)?;
                draft.between(lo, hi, level, false)
            }
            (Function::Wander(octaves), &[radius, rate]) => {
                draft.wander(owner, &place, radius, rate, f64::from(octaves))
            }
            (Function::Bursts, &[a, b, c, d]) => draft.bursts(owner, &place, [a, b], [c, d]),
            (Function::Drawn, &[lo, hi]) => {
                let level = draft.drawn(owner, &place);
                draft.rising(lo, hi)?;
                draft.between(lo, hi, level, false)
            }
            (Function::OneOf, list) => {
                let level = draft.drawn(owner, &place);
                draft.one_of(level, list)
            }
            (Function::OneOfEvery, [a, b, list @ ..]) => {
                let level = draft.held(owner, &place, [*a, *b], None)?;
                draft.one_of(level, list)
            }
            (Function::Wave(wave, start), &[lo, hi, every, phase]) => {
                let turns = draft.turns(owner, &place, every, Some(phase), start)?;
                let level = draft.wave(wave, turns)?;
                draft.between(lo, hi, level, false)
            }
            (Function::Square(start), &[lo, hi, every, phase, on]) => {
                let turns = draft.turns(owner, &place, every, Some(phase), start)?;
                let level = draft.square(turns, on)?;
                draft.between(lo, hi, level, false)
            }
            (Function::Later, &[value, each]) => draft.later(owner, value, each),
            (Function::Shift, &[value, by]) => draft.shifted(value, by),
            (Function::Stretch, &[value, by]) => draft.stretched(value, by),
            (Function::Snap, &[value, every]) => draft.snapped(value, every),
            (Function::Map(easing), &[v, a, b, c, d]) => draft.map(v, [a, b], [c, d], easing),
            (Function::Edge, &[v, at, over]) => draft.edge(v, at, over),
            (Function::MixLinear, &[a, b, by]) => draft.between(a, b, by, true),
            (Function::Hue, &[color, by]) => draft.turn_hue(color, by),
            (Function::Shade, &[color, by]) => draft.shade(color, by),
            (Function::Kelvin, &[kelvins]) => draft.kelvin(kelvins),
            (Function::Except(n), &[odd, usual]) => {
                let odd_one = draft.is_index(owner, n)?;
                draft.choose(odd_one, odd, usual)
            }
            // Each function is made above with as many operands as it takes.
            (function, operands) => {
                unreachable!("{function:?} with {} operands", operands.len())
            }
        }
    }
}
