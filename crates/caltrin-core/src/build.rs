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
use crate::curve::{Easing, Stop};
use crate::draft::{Draft, Owner};
use crate::kind::{Kind as AnyKind, Photometry};
use crate::misfit::Misfit;
use crate::program::{
    BehaviourId, CHANNELS, Channel, Constant, CurveId, ExprId, LightKind, Program, SignalId, Size,
    Start, Subject, Turn,
};
use crate::quantity::{Degrees, Kelvin, Seconds, Seed};
use rustc_hash::FxHashMap;

/// The kinds of values as types.
pub mod kinds {
    use super::{AnyKind, Photometry};

    /// A kind as a type.
    pub trait Kind: 'static {
        /// The same kind as a value.
        const KIND: AnyKind;
    }
    /// A kind of one number, which can be added, scaled and compared.
    pub trait Scalar: Kind {}
    /// A kind that a light's strength can have.
    pub trait Strength: Scalar {}

    macro_rules! kind {
        ($(#[$doc:meta])* $name:ident, $kind:expr $(, $more:ident)*) => {
            $(#[$doc])*
            #[derive(Debug)]
            pub enum $name {}
            impl Kind for $name {
                const KIND: AnyKind = $kind;
            }
            $(impl $more for $name {})*
        };
    }
    kind!(/** A plain number. */ Number, AnyKind::Number, Scalar, Strength);
    kind!(/** Seconds. */ Time, AnyKind::Time, Scalar);
    kind!(/** Degrees. */ Angle, AnyKind::Angle, Scalar);
    kind!(/** Metres. */ Length, AnyKind::Length, Scalar);
    kind!(/** Lumens. */ Lumen, AnyKind::Strength(Photometry::Lumen), Scalar, Strength);
    kind!(/** Candelas. */ Candela, AnyKind::Strength(Photometry::Candela), Scalar, Strength);
    kind!(/** Lux. */ Lux, AnyKind::Strength(Photometry::Lux), Scalar, Strength);
    kind!(/** Linear light. */ Color, AnyKind::Color);
    kind!(/** A place in metres. */ Point, AnyKind::Point);
    kind!(/** On or off. */ OnOff, AnyKind::OnOff);
}

use kinds::{Angle, Candela, Color, Kind, Length, Lumen, Lux, Number, OnOff, Point, Scalar, Time};

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
    Held([Node; 2], [Node; 2]),
    Once(CurveId),
    Turning(CurveId, Turn, Start),
    Call(BehaviourId, String, Vec<Option<Node>>),
    Named(String, Node),
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
    make(Tree::Held([lo.node, hi.node], [shortest.node, longest.node]))
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

/// A curve of a book.
#[derive(Debug)]
pub struct Curve<K> {
    id: CurveId,
    kind: PhantomData<K>,
}

impl<K> Clone for Curve<K> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<K> Copy for Curve<K> {}

impl<K: Scalar> Curve<K> {
    /// Played once from the start of the run; it rests at its last stop.
    pub fn once(self) -> Value<K> {
        make(Tree::Once(self.id))
    }

    /// Played again and again.
    pub fn looped(self, start: Start) -> Value<K> {
        make(Tree::Turning(self.id, Turn::Loop, start))
    }

    /// Played there and back.
    pub fn alternating(self, start: Start) -> Value<K> {
        make(Tree::Turning(self.id, Turn::Alternate, start))
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
    driven: Vec<(&'static str, Vec<Node>)>,
}

impl Light {
    fn new(name: &str, kind: LightKind) -> Self {
        Light { name: name.to_owned(), kind, size: Size::One, seed: None, driven: Vec::new() }
    }

    /// Shines to all sides.
    pub fn point(name: &str) -> Self {
        Light::new(name, LightKind::Point)
    }

    /// Shines into a cone.
    pub fn spot(name: &str) -> Self {
        Light::new(name, LightKind::Spot)
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

    /// Its strength: lm or cd (point, spot), lx (ambient), or a factor.
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

    /// Where the first lamp of an array is, and the step to the next.
    pub fn row(self, first: Value<Point>, step: Value<Point>) -> Self {
        self.position(first + step * index())
    }
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
    pub fn curve<K: Scalar>(
        &mut self,
        name: &str,
        stops: impl IntoIterator<Item = (Seconds, f64, Easing)>,
    ) -> Curve<K> {
        let stops: Vec<Stop> =
            stops.into_iter().map(|(at, value, easing)| Stop { at, value, easing }).collect();
        let id = self.draft.define_curve(name, K::KIND, stops).unwrap_or_else(|misfit| {
            self.refuse(&format!("curve `{name}`"), misfit);
            let stand_in =
                [0.0, 1.0].map(|at| Stop { at: Seconds(at), value: 0.0, easing: Easing::Linear });
            self.draft
                .define_curve(name, K::KIND, stand_in.to_vec())
                .expect("two stops make a curve")
        });
        Curve { id, kind: PhantomData }
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
            let nothing = match K::KIND {
                AnyKind::Color | AnyKind::Point => Constant::Vector([1.0; 3]),
                AnyKind::OnOff => Constant::OnOff(false),
                _ => Constant::Scalar(0.0),
            };
            let stand_in = self.draft.constant(nothing, K::KIND);
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
        let place = format!("light `{}`", light.name);
        if let Err((channel, misfit)) = self.lower_light(light) {
            let place = channel.map_or(place.clone(), |channel| format!("{place}, {channel}"));
            self.refuse(&place, misfit);
        }
    }

    fn lower_light(&mut self, light: Light) -> Result<(), (Option<&'static str>, Misfit)> {
        let mut owner = Owner::light(&light.name, light.size, light.seed);
        let mut known = FxHashMap::default();
        let mut driven: Vec<(Channel, Vec<ExprId>)> = Vec::new();
        for (name, values) in &light.driven {
            owner.property(name);
            let mut lowered = Vec::new();
            for value in values {
                let mut lowering = Lowering::new(&mut self.draft, &mut owner);
                lowering.property = name;
                lowering.known = std::mem::take(&mut known);
                let made = lowering.lower(value);
                known = std::mem::take(&mut lowering.known);
                lowered.push(made.map_err(|misfit| (Some(*name), misfit))?);
            }
            let channel = CHANNELS.iter().find(|channel| channel.name == *name);
            driven.extend(channel.map(|channel| (*channel, lowered)));
        }
        self.draft
            .define_light(&light.name, light.kind, light.size, &driven)
            .map(|_| ())
            .map_err(|misfit| (None, misfit))
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
            format!("light `{}`, {}", program.light(id).name, field.name())
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
                self.draft.between(a, b, s)
            }
            Tree::Choose(c, a, b) => {
                let (c, a, b) = (self.lower(c)?, self.lower(a)?, self.lower(b)?);
                self.draft.choose(c, a, b)
            }
            Tree::Held([lo, hi], [shortest, longest]) => {
                let place = self.draft.use_of(self.owner, "held");
                let range = [self.lower(lo)?, self.lower(hi)?];
                let every = [self.lower(shortest)?, self.lower(longest)?];
                self.draft.held(self.owner, &place, range, every)
            }
            Tree::Once(curve) => Ok(self.draft.once(*curve)),
            Tree::Turning(curve, turn, start) => {
                let name = match turn {
                    Turn::Loop => "loop",
                    Turn::Alternate => "alternate",
                };
                let place = self.draft.use_of(self.owner, name);
                self.draft.turning(self.owner, &place, *curve, *turn, *start)
            }
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
}
