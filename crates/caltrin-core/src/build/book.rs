//! The lightbook builder.

use std::fmt;
use std::marker::PhantomData;
use std::ops::RangeInclusive;
use std::rc::Rc;

use crate::color::Rgb;
use crate::curve::Easing;
use crate::program::{
    Backdrop, BehaviorId, CHANNELS, Channel, Constant, Domain, ExprId, Eye, Fog, Form, Program,
    Size, Space, Subject,
};
use crate::program_builder::spark::Sparking;
use crate::program_builder::{Array, Owner, ProgramBuilder, Track};
use crate::quantity::{Degrees, Meters, Place, Seconds, Seed};
use crate::semantic_error::SemanticError;
use crate::validated::{Problem, ValidatedProgram};
use rustc_hash::FxHashMap;

use super::kinds::{Color, Kind, Scalar};
use super::light::{Instances, Light, Output, Placed};
use super::lower::{Lowering, lower_all, lower_input, nothing};
use super::scene::Pool;
use super::script::Scripted;
use super::{Behavior, Curve, Node, Ramp, Recipe, Tree, Value, make};

/// A viewpoint of [`Book::eye`].
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Viewpoint<'a> {
    /// Its name.
    pub name: &'a str,
    /// Where it is.
    pub at: [f64; 3],
    /// A point that it looks at.
    pub toward: [f64; 3],
    /// The angle between the left and the right edge of its picture, 5 to 150 degrees.
    pub field: Degrees,
    /// The output that gives the visual range in fog, or a number of which 1 is 50 m.
    pub fog: Option<&'a str>,
    /// The output that gives the color of fog.
    pub fog_color: Option<&'a str>,
    /// The output that gives the color of the sky.
    pub sky: Option<&'a str>,
}

/// An error in what the builder was given.
#[derive(Clone, Debug, PartialEq)]
pub struct Refusal {
    /// Where the error is, such as ``light `mast`, intensity``.
    pub place: String,
    /// What is wrong.
    pub error: SemanticError,
}

impl fmt::Display for Refusal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.place, self.error)
    }
}

impl std::error::Error for Refusal {}

/// Builds a lightbook.
#[derive(Debug)]
pub struct Book {
    pub(super) builder: ProgramBuilder,
    pub(super) refused: Vec<Refusal>,
    /// The sequences that drive channels of its lights.
    pub(super) scripts: Vec<Scripted>,
}

impl Book {
    /// An empty book.
    pub fn new(name: &str, seed: Seed) -> Self {
        Book { builder: ProgramBuilder::new(name, seed), refused: Vec::new(), scripts: Vec::new() }
    }

    /// Sets how many notices may wait until the game takes them, 8 to 1024; 32 by default. Call it before the first notice is
    /// declared.
    pub fn notice_capacity(&mut self, count: u32) {
        self.builder.set_notice_capacity(count);
    }

    pub(super) fn refuse(&mut self, place: &str, error: SemanticError) {
        self.refused.push(Refusal { place: place.to_owned(), error });
    }

    /// Adds a curve over seconds: time, value and easing of each stop. The first easing is not
    /// used. Colors are blended in OKLab.
    pub fn curve<K: Kind>(
        &mut self,
        name: &str,
        stops: impl IntoIterator<Item = (Seconds, K::Stop, Easing)>,
    ) -> Curve<K> {
        let stops = stops.into_iter().map(|(at, value, easing)| (Place(at.0), value, easing));
        Curve { track: self.track::<K>(name, Domain::Time, stops), kind: PhantomData }
    }

    /// Adds a curve of colors that are blended in linear light.
    pub fn linear_curve(
        &mut self,
        name: &str,
        stops: impl IntoIterator<Item = (Seconds, Rgb, Easing)>,
    ) -> Curve<Color> {
        let stops = stops.into_iter().map(|(at, value, easing)| (Place(at.0), value, easing));
        let track = self.blended::<Color>(name, Domain::Time, true, stops);
        Curve { track, kind: PhantomData }
    }

    /// Sets the coordinate system of positions. Call this before adding lights.
    pub fn space(&mut self, space: Space) {
        self.builder.set_space(space);
    }

    /// Adds a ramp: position in the base unit of its kind, value and easing of each stop.
    pub fn ramp<D: Scalar, K: Kind>(
        &mut self,
        name: &str,
        stops: impl IntoIterator<Item = (Place, K::Stop, Easing)>,
    ) -> Ramp<D, K> {
        let track = self.track::<K>(name, Domain::Ramp(D::KIND), stops.into_iter());
        Ramp { track, kind: PhantomData }
    }

    pub(super) fn track<K: Kind>(
        &mut self,
        name: &str,
        domain: Domain,
        stops: impl Iterator<Item = (Place, K::Stop, Easing)>,
    ) -> Rc<Track> {
        self.blended::<K>(name, domain, false, stops)
    }

    pub(super) fn blended<K: Kind>(
        &mut self,
        name: &str,
        domain: Domain,
        linear: bool,
        stops: impl Iterator<Item = (Place, K::Stop, Easing)>,
    ) -> Rc<Track> {
        let stops: Vec<_> =
            stops.map(|(at, value, easing)| (at, K::constant(value), easing)).collect();
        let track = self.builder.define_curve(name, domain, K::KIND, linear, &stops);
        Rc::new(track.unwrap_or_else(|error| {
            self.refuse(&format!("curve `{name}`"), error);
            let nothing = nothing(K::KIND);
            let stand_in = [0.0, 1.0].map(|at| (Place(at), nothing, Easing::Linear));
            self.builder
                .define_curve(name, domain, K::KIND, false, &stand_in)
                .expect("two stops make a curve")
        }))
    }

    /// Adds an input: a value that the game sets, clamped to a range.
    pub fn input<K: Scalar>(
        &mut self,
        name: &str,
        default: f64,
        bounds: RangeInclusive<f64>,
    ) -> Value<K> {
        let ends = Some([*bounds.start(), *bounds.end()]);
        self.add_input(&Owner::book(name), "", name, Constant::Scalar(default), ends)
    }

    /// Adds an input without a range: a color, a point, or on or off.
    pub fn plain_input<K: Kind>(&mut self, name: &str, default: K::Stop) -> Value<K> {
        self.add_input(&Owner::book(name), "", name, K::constant(default), None)
    }

    pub(super) fn add_input<K: Kind>(
        &mut self,
        owner: &Owner,
        path: &str,
        name: &str,
        default: Constant,
        bounds: Option<[f64; 2]>,
    ) -> Value<K> {
        match lower_input(&mut self.builder, owner, name, default, K::KIND, bounds) {
            Ok(made) => make(Tree::Made(made)),
            Err(error) => {
                self.refuse(&format!("input `{path}{name}`"), error);
                make(Tree::Constant(nothing(K::KIND), K::KIND))
            }
        }
    }

    /// Adds a thin wall between two points of its base, in meters, for drawings of the place.
    pub fn wall(&mut self, name: &str, from: [f64; 3], to: [f64; 3], height: Meters) {
        self.solid(name, Form::Wall { from, to, height: height.0 });
    }

    /// Adds a round post, in meters, for drawings of the place.
    pub fn post(&mut self, name: &str, at: [f64; 3], radius: Meters, height: Meters) {
        self.solid(name, Form::Post { at, radius: radius.0, height: height.0 });
    }

    /// Adds a viewpoint, in meters, for drawings of the place. Its outputs are those that were added before.
    pub fn eye(&mut self, eye: Viewpoint<'_>) {
        let mut missing = None;
        let mut output = |path: &str| {
            let found = self.builder.output_value(path);
            if found.is_none() {
                missing = Some(path.to_owned());
            }
            found
        };
        let color = eye.fog_color.and_then(&mut output);
        let fog = eye.fog.and_then(&mut output).map(|range| Fog { range, color });
        let sky = eye.sky.and_then(&mut output);
        let made = match missing {
            Some(path) => Err(SemanticError::NoOutput(path)),
            None => self.builder.add_eye(Eye {
                name: eye.name.to_owned(),
                at: eye.at,
                toward: eye.toward,
                field: eye.field.0,
                fog,
                sky,
            }),
        };
        if let Err(error) = made {
            self.refuse(&format!("eye `{}`", eye.name), error);
        }
    }

    /// Adds a picture in the place, in meters, for drawings of it: `file` in the folder of the book, between two
    /// opposite corners.
    pub fn backdrop(&mut self, file: &str, from: [f64; 3], to: [f64; 3]) {
        if let Err(error) = self.builder.add_backdrop(Backdrop { file: file.to_owned(), from, to })
        {
            self.refuse(&format!("backdrop `{file}`"), error);
        }
    }

    pub(super) fn solid(&mut self, name: &str, form: Form) {
        if let Err(error) = self.builder.add_solid(name, form) {
            self.refuse(name, error);
        }
    }

    /// Adds a signal: one shared value.
    pub fn signal<K: Kind>(&mut self, name: &str, value: Value<K>) -> Value<K> {
        let mut owner = Owner::book(name);
        let made = Lowering::new(&mut self.builder, &mut owner)
            .lower(&value.node)
            .and_then(|id| self.builder.define_signal(name, id));
        match made {
            Ok(id) => make(Tree::Signal(id)),
            Err(error) => {
                self.refuse(&format!("signal `{name}`"), error);
                value
            }
        }
    }

    /// Adds a behavior. `recipe` adds its parameters to the [`Recipe`] and returns its value.
    pub fn behavior<K: Kind>(
        &mut self,
        name: &str,
        recipe: impl FnOnce(&mut Recipe) -> Value<K>,
    ) -> Behavior<K> {
        let mut told = Recipe { parameters: Vec::new() };
        let value = recipe(&mut told);
        let names = told.parameters.iter().map(|(name, _)| name.clone()).collect();
        let id = self.lower_behavior(name, &told, &value.node).unwrap_or_else(|error| {
            self.refuse(&format!("behavior `{name}`"), error);
            let stand_in = self.builder.constant(nothing(K::KIND), K::KIND);
            self.builder
                .define_behavior(name, Owner::behavior(name), &[], stand_in)
                .expect("a constant makes a behavior")
        });
        Behavior { id, name: name.to_owned(), parameters: names, kind: PhantomData }
    }

    pub(super) fn lower_behavior(
        &mut self,
        name: &str,
        told: &Recipe,
        value: &Node,
    ) -> Result<BehaviorId, SemanticError> {
        let mut owner = Owner::behavior(name);
        let (mut defaults, mut parameters) = (Vec::new(), Vec::new());
        for (parameter, default) in &told.parameters {
            let default = Lowering::new(&mut self.builder, &mut owner).lower(default)?;
            parameters.push(self.builder.parameter(&mut owner, parameter, default)?);
            defaults.push(default);
        }
        let mut lowering = Lowering::new(&mut self.builder, &mut owner);
        lowering.parameters = parameters;
        let value = lowering.lower(value)?;
        self.builder.define_behavior(name, owner, &defaults, value)
    }

    /// Adds a light.
    pub fn light(&mut self, light: Light) {
        self.add_light(light, "", &[], None);
    }

    pub(super) fn add_light(
        &mut self,
        light: Light,
        path: &str,
        instances: &[Size],
        at: Option<ExprId>,
    ) {
        let name = format!("{path}{}", light.name);
        if let Err((channel, error)) = self.lower_light(light, &name, instances, at, None) {
            let place = format!("light `{name}`");
            let place = channel.map_or(place.clone(), |channel| format!("{place}, {channel}"));
            self.refuse(&place, error);
        }
    }

    pub(super) fn lower_light(
        &mut self,
        light: Light,
        name: &str,
        instances: &[Size],
        at: Option<ExprId>,
        spark: Option<(Sparking, Pool)>,
    ) -> Result<(), (Option<&'static str>, SemanticError)> {
        let mut owner = Owner::placed(name, light.size, light.seed, instances);
        let mut known = FxHashMap::default();
        let mut driven: Vec<(Channel, Vec<ExprId>)> = Vec::new();
        let mut placed = at;
        for (channel, values) in &light.driven {
            let mut lowered = lower_all(&mut self.builder, &mut owner, channel, values, &mut known)
                .map_err(|error| (Some(*channel), error))?;
            if let ("position", Some(at)) = (*channel, placed.take_if(|_| *channel == "position")) {
                let own = lowered[0];
                lowered[0] = self.builder.add(at, own).map_err(|error| (Some(*channel), error))?;
            }
            let channel = CHANNELS.iter().find(|known| known.name == *channel);
            driven.extend(channel.map(|channel| (*channel, lowered)));
        }
        // Where an instance is, its lights are, unless they have no place at all.
        let position = CHANNELS.iter().find(|channel| channel.name == "position");
        if let (Some(at), Some(position)) = (placed, position)
            && position.lights.contains(&light.kind)
        {
            driven.push((*position, vec![at]));
        }
        self.led(name, light.size, &mut driven)
            .map_err(|(channel, error)| (Some(channel), error))?;
        if let Some((making, pool)) = spark {
            let whole = |error| (None, error);
            let strength = driven.iter_mut().find(|(channel, _)| channel.name == "intensity");
            for value in strength.into_iter().flat_map(|(_, values)| values) {
                let none = self.builder.number(0.0, self.builder.kind(*value)).map_err(whole)?;
                let made = self.builder.select(making.lives_now, *value, none);
                *value = made.map_err(whole)?;
            }
            owner.property("spark");
            let told = (pool.share, pool.oldest);
            self.builder.finish_spark(&mut owner, making, told).map_err(whole)?;
        }
        for group in &light.groups {
            group.hold(&mut self.builder, &mut driven).map_err(|error| (None, error))?;
        }
        let array = Array { size: light.size, instances: instances.to_vec(), ball: light.ball };
        self.builder
            .define_light(name, light.kind, &array, &driven)
            .map(|_| ())
            .map_err(|error| (None, error))
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
            match lower_all(&mut self.builder, &mut owner, property, &one, &mut known) {
                Ok(made) => values.push((field.clone(), made[0])),
                Err(error) => self.refuse(&format!("output `{name}`, {property}"), error),
            }
        }
        if let Err(error) = self.builder.define_output(&name, &Array::of(output.size), &values) {
            self.refuse(&format!("output `{name}`"), error);
        }
    }

    /// Places instances of a fitting. `describe` adds the lights of each instance; signals added
    /// there exist once per instance.
    pub fn place(&mut self, instance: Instances, describe: impl FnOnce(&mut Placed<'_>)) {
        self.add_instances(instance, "", &[], None, describe);
    }

    pub(super) fn add_instances(
        &mut self,
        instance: Instances,
        path: &str,
        around: &[Size],
        at: Option<ExprId>,
        describe: impl FnOnce(&mut Placed<'_>),
    ) {
        let path = format!("{path}{}", instance.name);
        let instances: Vec<Size> = around.iter().copied().chain([instance.size]).collect();
        let mut owner = Owner::instance(&path, &instances);
        let mut position = at;
        if let Some(value) = &instance.position {
            let mut known = FxHashMap::default();
            let one = [value.clone()];
            let made = lower_all(&mut self.builder, &mut owner, "position", &one, &mut known);
            let made = made.and_then(|made| match at {
                Some(at) => self.builder.add(at, made[0]),
                None => Ok(made[0]),
            });
            match made {
                Ok(made) => position = Some(made),
                Err(error) => self.refuse(&format!("instance `{path}`, position"), error),
            }
        }
        let path = format!("{path}.");
        describe(&mut Placed { book: self, path, instances, position, owner });
    }

    /// The program as far as it could be built, not validated, and the errors.
    pub fn finish(self) -> (Program, Vec<Refusal>) {
        (self.builder.finish(), self.refused)
    }

    /// The validated program, or all errors in it.
    pub fn check(self) -> Result<ValidatedProgram, Vec<Refusal>> {
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

pub(super) fn refusal(program: &Program, problem: Problem) -> Refusal {
    let place = match problem.subject {
        Subject::Book => "book".to_owned(),
        Subject::Curve(id) => format!("curve `{}`", program.curve(id).name),
        Subject::Signal(id) => format!("signal `{}`", program.signal(id).name),
        Subject::Behavior(id) => format!("behavior `{}`", program.behavior(id).name),
        Subject::Input(id) => format!("input `{}`", program.input(id).name),
        Subject::Choice(id) => format!("choice `{}`", program.choice(id).name),
        Subject::Sound(id) => format!("sound `{}`", program.sound(id).name),
        Subject::Event(id) => format!("event `{}`", program.event(id).name),
        Subject::Light(id) => format!("light `{}`", program.light(id).name),
        Subject::Drive(id, field) => {
            let light = program.light(id);
            format!("light `{}`, {}", light.name, light.field_name(field))
        }
    };
    Refusal { place, error: problem.error }
}
