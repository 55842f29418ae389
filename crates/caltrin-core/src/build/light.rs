//! Builders of lights, outputs and instances.

use std::ops::RangeInclusive;

use crate::kind::Kind as AnyKind;
use crate::program::{Constant, EventId, ExprId, LightKind, Size};
use crate::program_builder::Owner;
use crate::quantity::{Meters, Seconds};
use crate::semantic_error::SemanticError;
use rustc_hash::FxHashMap;

use super::book::Book;
use super::event::{Event, Switch, Turns};
use super::kinds::{self, Angle, Color, Kind, Length, Number, OnOff, Point, Scalar};
use super::lower::lower_all;
use super::scene::Group;
use super::{Node, Tree, Value, index, make};

/// Builds a light.
#[derive(Debug)]
pub struct Light {
    pub(super) name: String,
    pub(super) kind: LightKind,
    pub(super) size: Size,
    pub(super) seed: Option<u32>,
    pub(super) ball: Option<f64>,
    pub(super) driven: Vec<(&'static str, Vec<Node>)>,
    pub(super) groups: Vec<Group>,
}

impl Light {
    pub(super) fn new(name: &str, kind: LightKind) -> Self {
        let (name, size) = (name.to_owned(), Size::One);
        let (driven, groups) = (Vec::new(), Vec::new());
        Light { name, kind, size, seed: None, ball: None, driven, groups }
    }

    /// A point light: shines in all directions.
    pub fn point(name: &str) -> Self {
        Light::new(name, LightKind::Point)
    }

    /// A spotlight: shines into a cone.
    pub fn spot(name: &str) -> Self {
        Light::new(name, LightKind::Spot)
    }

    /// An area light: shines from a surface.
    pub fn area(name: &str) -> Self {
        Light::new(name, LightKind::Area)
    }

    /// A directional light: parallel rays everywhere.
    pub fn directional(name: &str) -> Self {
        Light::new(name, LightKind::Directional)
    }

    /// An ambient light.
    pub fn ambient(name: &str) -> Self {
        Light::new(name, LightKind::Ambient)
    }

    /// An array with this many lamps.
    pub fn many(mut self, lamps: u32) -> Self {
        self.size = Size::Many(lamps);
        self
    }

    /// An open array: the game sets the number of lamps.
    pub fn open(mut self) -> Self {
        self.size = Size::Open;
        self
    }

    /// An explicit seed, which keeps the random values when the light is renamed.
    pub fn seed(mut self, seed: u32) -> Self {
        self.seed = Some(seed);
        self
    }

    /// Names a part of this light; all channels that use it share one value.
    pub fn part<K: Kind>(name: &str, value: Value<K>) -> Value<K> {
        make(Tree::Named(name.to_owned(), value.node))
    }

    /// Adds an input of each lamp, clamped to a range. Clones of the value are the same input.
    pub fn input<K: Scalar>(name: &str, default: f64, bounds: RangeInclusive<f64>) -> Value<K> {
        let ends = Some([*bounds.start(), *bounds.end()]);
        make(Tree::Input(name.to_owned(), Constant::Scalar(default), K::KIND, ends))
    }

    /// Adds an input of each lamp without a range: a color, a point, or on or off.
    pub fn plain_input<K: Kind>(name: &str, default: K::Stop) -> Value<K> {
        make(Tree::Input(name.to_owned(), K::constant(default), K::KIND, None))
    }

    /// Adds the light to a group; call it for the innermost group first.
    pub fn in_group(mut self, group: &Group) -> Self {
        self.groups.push(group.clone());
        self
    }

    pub(super) fn drive(mut self, channel: &'static str, values: Vec<Node>) -> Self {
        self.driven.push((channel, values));
        self
    }

    /// The intensity: lm or cd (point, spot, area), lx (directional, ambient), or a factor.
    pub fn intensity<K: kinds::Strength>(self, value: Value<K>) -> Self {
        self.drive("intensity", vec![value.node])
    }

    /// The color.
    pub fn color(self, value: Value<Color>) -> Self {
        self.drive("color", vec![value.node])
    }

    /// The reach: full intensity up to `inner`, zero from `outer` on.
    pub fn reach(self, inner: Value<Length>, outer: Value<Length>) -> Self {
        self.drive("reach", vec![inner.node, outer.node])
    }

    /// The distance from which there is no light.
    pub fn outer_reach(self, outer: Value<Length>) -> Self {
        self.drive("reach", vec![outer.node])
    }

    /// The full angles of the cone.
    pub fn cone(self, inner: Value<Angle>, outer: Value<Angle>) -> Self {
        self.drive("cone", vec![inner.node, outer.node])
    }

    /// The position; of an array, the position of its first lamp if a step is added.
    pub fn position(self, value: Value<Point>) -> Self {
        self.drive("position", vec![value.node])
    }

    /// The falloff exponent: 2 is the inverse square.
    pub fn falloff(self, power: Value<Number>) -> Self {
        self.drive("falloff", vec![power.node])
    }

    /// A displacement from its position.
    pub fn offset(self, by: Value<Point>) -> Self {
        self.drive("offset", vec![by.node])
    }

    /// Declares the ball that the offset must stay within.
    pub fn ball(mut self, radius: Meters) -> Self {
        self.ball = Some(radius.0);
        self
    }

    /// The direction that the light points in; its length does not matter.
    pub fn aim(self, direction: Value<Point>) -> Self {
        self.drive("aim", vec![direction.node])
    }

    /// Whether the light casts shadows.
    pub fn shadows(self, on: Value<OnOff>) -> Self {
        self.drive("shadows", vec![on.node])
    }

    /// The position of an array's first lamp, and the step to the next.
    pub fn row(self, first: Value<Point>, step: Value<Point>) -> Self {
        self.position(first + step * index())
    }
}

/// Builds an output: values for the game that are not a light.
#[derive(Debug)]
pub struct Output {
    pub(super) name: String,
    pub(super) size: Size,
    pub(super) values: Vec<(Option<String>, Node)>,
}

impl Output {
    /// An output with one value of the same name.
    pub fn of<K: Kind>(name: &str, value: Value<K>) -> Self {
        let values = vec![(None, value.node)];
        Output { name: name.to_owned(), size: Size::One, values }
    }

    /// An output with several values; add them with [`Output::value`].
    pub fn new(name: &str) -> Self {
        Output { name: name.to_owned(), size: Size::One, values: Vec::new() }
    }

    /// An array with this many elements.
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

/// Instances of a fitting: their number and positions.
#[derive(Debug)]
pub struct Instances {
    pub(super) name: String,
    pub(super) size: Size,
    pub(super) position: Option<Node>,
}

impl Instances {
    /// One instance.
    pub fn new(name: &str) -> Self {
        Instances { name: name.to_owned(), size: Size::One, position: None }
    }

    /// This many instances.
    pub fn many(mut self, count: u32) -> Self {
        self.size = Size::Many(count);
        self
    }

    /// The position.
    pub fn position(mut self, value: Value<Point>) -> Self {
        self.position = Some(value.node);
        self
    }

    /// The position of the first instance, and the step to the next.
    pub fn row(self, first: Value<Point>, step: Value<Point>) -> Self {
        self.position(first + step * index())
    }
}

/// Describes what an instance contains.
#[derive(Debug)]
pub struct Placed<'b> {
    pub(super) book: &'b mut Book,
    pub(super) path: String,
    pub(super) instances: Vec<Size>,
    pub(super) position: Option<ExprId>,
    pub(super) owner: Owner,
}

impl Placed<'_> {
    /// Adds a signal of each instance. The lights of one instance stay in sync; different instances
    /// do not.
    pub fn signal<K: Kind>(&mut self, name: &str, value: Value<K>) -> Value<K> {
        let mut known = FxHashMap::default();
        let one = [value.node.clone()];
        match lower_all(&mut self.book.builder, &mut self.owner, name, &one, &mut known) {
            Ok(made) => {
                self.book.builder.name_local(made[0], name);
                make(Tree::Made(made[0]))
            }
            Err(error) => {
                self.book.refuse(&format!("signal `{}{name}`", self.path), error);
                value
            }
        }
    }

    /// Adds an input of each instance, clamped to a range.
    pub fn input<K: Scalar>(
        &mut self,
        name: &str,
        default: f64,
        bounds: RangeInclusive<f64>,
    ) -> Value<K> {
        let ends = Some([*bounds.start(), *bounds.end()]);
        self.book.add_input(&self.owner, &self.path, name, Constant::Scalar(default), ends)
    }

    /// Adds an input of each instance without a range: a color, a point, or on or off.
    pub fn plain_input<K: Kind>(&mut self, name: &str, default: K::Stop) -> Value<K> {
        self.book.add_input(&self.owner, &self.path, name, K::constant(default), None)
    }

    /// Adds an event of each instance that the game fires.
    pub fn event(&mut self, name: &str) -> Event {
        let full = self.owner.own(name);
        self.at_home(&full, |book, _| book.builder.define_event(&full))
    }

    /// Adds an event of each instance that repeats at random intervals from this range,
    /// independently in each instance.
    pub fn event_every(&mut self, name: &str, shortest: Seconds, longest: Seconds) -> Event {
        let full = self.owner.own(name);
        self.owner.property(name);
        let made = self.at_home(&full, |book, owner| {
            let shortest = book.builder.number(shortest.0, AnyKind::Time)?;
            let longest = book.builder.number(longest.0, AnyKind::Time)?;
            book.builder.define_every(&full, owner, [shortest, longest], None)
        });
        self.owner.property("");
        made
    }

    /// Adds a switch of each instance.
    pub fn switch(&mut self, name: &str, turns: Turns) -> Switch {
        let full = self.owner.own(name);
        match self.book.builder.at_home(&self.owner) {
            Ok(before) => {
                let made = self.book.switch(&full, turns);
                self.book.builder.go_home(before);
                made
            }
            Err(error) => {
                self.book.refuse(&format!("switch `{full}`"), error);
                Switch { level: super::number(0.0), on: super::on_off(false) }
            }
        }
    }

    fn at_home(
        &mut self,
        name: &str,
        define: impl FnOnce(&mut Book, &mut Owner) -> Result<EventId, SemanticError>,
    ) -> Event {
        let made = self.book.builder.at_home(&self.owner).and_then(|before| {
            let made = define(self.book, &mut self.owner);
            self.book.builder.go_home(before);
            made
        });
        self.book.event_of(name, made)
    }

    /// Adds a light to each instance. Its position is relative to the instance.
    pub fn light(&mut self, light: Light) {
        self.book.add_light(light, &self.path, &self.instances, self.position);
    }

    /// Places instances of a fitting inside each instance.
    pub fn place(&mut self, instance: Instances, describe: impl FnOnce(&mut Placed<'_>)) {
        let (path, instances) = (self.path.clone(), self.instances.clone());
        self.book.add_instances(instance, &path, &instances, self.position, describe);
    }
}
