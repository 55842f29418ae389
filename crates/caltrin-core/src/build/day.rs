//! Time of day in the builder: clock, curves by the hour, spans of hours, phases, choices, sun and
//! moon.

use std::rc::Rc;

use super::kinds::{Angle, Color, Hour, Kind, Number, OnOff, Point};
use super::lower::{Lowering, nothing};
use super::{Book, Tree, Value, make, number, scalar};
use crate::color::Rgb;
use crate::curve::Easing;
use crate::program::{Clock, Dial, ExprId};
use crate::program_builder::Owner;
use crate::program_builder::day::{self, Alternatives, Change};
use crate::program_builder::sky::{self, Sky};
use crate::quantity::{Degrees, Hours, Place, Seconds};
use crate::semantic_error::SemanticError;

/// An hour of the day.
pub fn hour(v: Hours) -> Value<Hour> {
    scalar(v.0)
}

impl Value<Hour> {
    /// Whether the hour is between two hours; the span crosses midnight if `to` is earlier than
    /// `from`.
    pub fn is_in(self, from: Self, to: Self) -> Value<OnOff> {
        make(Tree::HourIn(self.node, from.node, to.node))
    }
}

/// A span of hours of the day.
#[derive(Clone, Debug)]
pub struct OpenHours {
    /// 0 outside the span, 1 inside.
    pub open: Value<Number>,
    /// Progress through the span, 0 to 1.
    pub through: Value<Number>,
}

/// A phase of the day: its name, start hour, transition and tint.
#[derive(Clone, Debug)]
pub struct Phase {
    name: String,
    from: Hours,
    change: Change,
    tint: Option<Rgb>,
}

impl Phase {
    /// Creates a phase that starts at an hour, without a transition.
    pub fn new(name: &str, from: Hours) -> Self {
        let change = Change { over: Hours(0.0), lean: day::Lean::Across };
        Phase { name: name.to_owned(), from, change, tint: None }
    }

    /// Sets the duration of the transition, in time of the clock.
    pub fn over(mut self, over: Hours, lean: day::Lean) -> Self {
        self.change = Change { over, lean };
        self
    }

    /// Sets the tint of the phase.
    pub fn tint(mut self, tint: Rgb) -> Self {
        self.tint = Some(tint);
        self
    }
}

/// Phases of the day, or the options of a choice.
#[derive(Clone, Debug)]
pub struct Alternate {
    of: Rc<Alternatives>,
    tint: Option<ExprId>,
}

impl Alternate {
    pub(super) fn of(all: Alternatives) -> Self {
        Alternate { of: Rc::new(all), tint: None }
    }

    /// The weight of a name, 0 to 1; 0 for an unknown name.
    pub fn weight(&self, name: &str) -> Value<Number> {
        let found = self.of.names.iter().position(|known| known == name);
        found.map_or_else(|| number(0.0), |n| make(Tree::Made(self.of.weights[n])))
    }

    /// Whether a name is active; off for an unknown name.
    pub fn is(&self, name: &str) -> Value<OnOff> {
        let found = self.of.names.iter().position(|known| known == name);
        found.map_or_else(|| super::on_off(false), |n| make(Tree::Made(self.of.at_hand[n])))
    }

    /// Blends one value for each of these names, and `others` for the rest, by their weights.
    pub fn pick<K: Kind, const N: usize>(
        &self,
        named: [(&str, Value<K>); N],
        others: Value<K>,
    ) -> Value<K> {
        let of_name = |name: &String| {
            let found = named.iter().find(|(known, _)| known == name);
            found.map_or_else(|| others.node.clone(), |(_, value)| value.node.clone())
        };
        let values = self.of.names.iter().map(of_name).collect();
        make(Tree::Pick(self.of.clone(), values))
    }

    /// The blended tints of all phases; white for phases without a tint.
    pub fn tint(&self) -> Value<Color> {
        self.tint.map_or_else(|| super::rgb(Rgb([1.0; 3])), |tint| make(Tree::Made(tint)))
    }
}

/// The path of the sun.
#[derive(Clone, Debug)]
pub struct SunPath {
    ends: Ends,
    twilight: Hours,
    year: f64,
    zone: Option<f64>,
}

#[derive(Clone, Debug)]
enum Ends {
    Earth { latitude: Value<Angle>, longitude: Value<Angle>, date: Value<Number> },
    Hours { rises: Value<Hour>, sets: Value<Hour>, highest: Value<Angle>, lowest: Value<Angle> },
}

impl SunPath {
    /// The path at a latitude (degrees north) on a day of the year (1 is January 1). By default the
    /// clock shows local mean time and the year is 2025.
    pub fn earth(latitude: Value<Angle>, date: Value<Number>) -> Self {
        let ends = Ends::Earth { latitude, longitude: scalar(0.0), date };
        SunPath { ends, twilight: Hours(0.0), year: 2025.0, zone: None }
    }

    /// The path with these hours of sunrise and sunset. By default its highest altitude is 50
    /// degrees, its lowest -50 degrees, and twilight lasts half an hour.
    pub fn hours(rises: Value<Hour>, sets: Value<Hour>) -> Self {
        let ends = Ends::Hours { rises, sets, highest: scalar(50.0), lowest: scalar(-50.0) };
        SunPath { ends, twilight: Hours(0.5), year: 2025.0, zone: None }
    }

    /// Sets the longitude (degrees east); no effect on a path by hours.
    pub fn at_longitude(mut self, east: Value<Angle>) -> Self {
        if let Ends::Earth { longitude, .. } = &mut self.ends {
            *longitude = east;
        }
        self
    }

    /// Sets the year, 1950 to 2050, and the clock's offset from UT in hours.
    pub fn in_year(mut self, year: u16, zone: Option<f64>) -> Self {
        (self.year, self.zone) = (f64::from(year), zone);
        self
    }

    /// Sets the highest altitude by day and the lowest by night; no effect on a path by latitude.
    pub fn between(mut self, most: Degrees, least: Degrees) -> Self {
        if let Ends::Hours { highest, lowest, .. } = &mut self.ends {
            (*highest, *lowest) = (scalar(most.0), scalar(least.0));
        }
        self
    }

    /// Sets the duration of twilight; no effect on a path by latitude.
    pub fn twilight(mut self, twilight: Hours) -> Self {
        self.twilight = twilight;
        self
    }
}

/// The sun of a book.
#[derive(Clone, Debug)]
pub struct Sun {
    sky: Option<Sky>,
}

/// The moon of a book.
#[derive(Clone, Debug)]
pub struct Moon {
    sky: Option<Sky>,
}

fn value<K: Kind>(sky: &Option<Sky>, name: &str) -> Value<K> {
    let found = sky.as_ref().and_then(|sky| sky.value(name));
    found.map_or_else(|| make(Tree::Constant(nothing(K::KIND), K::KIND)), |id| make(Tree::Made(id)))
}

macro_rules! values {
    ($of:ident { $($(#[$doc:meta])* $name:ident: $kind:ty,)* }) => {
        impl $of {
            $($(#[$doc])*
            pub fn $name(&self) -> Value<$kind> {
                value(&self.sky, stringify!($name))
            })*
        }
    };
}

values!(Sun {
    /// The altitude above the horizon, without refraction.
    height: Angle,
    /// The azimuth: 0 is north, 90 is east.
    azimuth: Angle,
    /// The direction that its light travels in; a unit vector.
    aim: Point,
    /// Whether it is above the horizon, as almanacs define sunrise and sunset.
    up: OnOff,
    /// The hour of sunrise.
    rise: Hour,
    /// The hour of sunset.
    set: Hour,
    /// The hour of the highest altitude.
    noon: Hour,
    /// The hour of civil dawn.
    dawn: Hour,
    /// The hour of civil dusk.
    dusk: Hour,
    /// Daylight: 0 below -6 degrees of altitude, 1 above 6 degrees.
    daylight: Number,
    /// The color of its light at its altitude.
    color: Color,
    /// The intensity of its light at its altitude; 1 overhead.
    strength: Number,
});

values!(Moon {
    /// The altitude above the horizon, without refraction.
    height: Angle,
    /// The azimuth: 0 is north, 90 is east.
    azimuth: Angle,
    /// The direction that its light travels in; a unit vector.
    aim: Point,
    /// Whether it is above the horizon.
    up: OnOff,
    /// The illuminated fraction of its disc.
    lit: Number,
    /// The color of its light at its altitude.
    color: Color,
    /// The intensity of its light by altitude and age; 1 for a full moon overhead.
    strength: Number,
});

impl Book {
    /// Sets the clock of the book. Call this before adding anything that depends on the hour.
    pub fn clock(&mut self, clock: Clock) {
        if let Err(error) = self.builder.set_clock(clock) {
            self.refuse("clock", error);
        }
    }

    fn made<K: Kind>(&mut self, place: &str, made: Result<ExprId, SemanticError>) -> Value<K> {
        match made {
            Ok(id) => make(Tree::Made(id)),
            Err(error) => {
                self.refuse(place, error);
                make(Tree::Constant(nothing(K::KIND), K::KIND))
            }
        }
    }

    /// The hour of the game's clock.
    pub fn hour(&mut self) -> Value<Hour> {
        let made = self.builder.clock(Dial::Hour);
        self.made("hour", made)
    }

    /// The number of days that the game's clock has counted since the start of the run.
    pub fn days(&mut self) -> Value<Number> {
        let made = self.builder.clock(Dial::Days);
        self.made("days", made)
    }

    /// Adds a curve over the hours of the day, evaluated at the current hour: see
    /// [`crate::program_builder::ProgramBuilder::define_day`].
    pub fn day_curve<K: Kind>(
        &mut self,
        name: &str,
        stops: impl IntoIterator<Item = (Hours, K::Stop, Easing)>,
    ) -> Value<K> {
        let stops: Vec<_> = stops
            .into_iter()
            .map(|(at, v, easing)| (Place(at.0), K::constant(v), easing))
            .collect();
        let track = self.builder.define_day(name, K::KIND, false, &stops);
        let made = track.and_then(|track| self.builder.day_now(&track));
        self.made(&format!("curve `{name}`"), made)
    }

    fn known<K: Kind>(&mut self, name: &str, value: &Value<K>) -> Result<ExprId, SemanticError> {
        let mut owner = Owner::book(name);
        Lowering::new(&mut self.builder, &mut owner).lower(&value.node)
    }

    /// Adds a span of hours of the day with smooth edges.
    pub fn open_hours(
        &mut self,
        name: &str,
        from: Value<Hour>,
        to: Value<Hour>,
        change: Change,
        easing: Easing,
    ) -> OpenHours {
        let ends = self.known(name, &from).and_then(|from| Ok([from, self.known(name, &to)?]));
        let made = ends.and_then(|ends| self.builder.define_hours(name, ends, change, easing));
        match made {
            Ok([open, through]) => {
                OpenHours { open: make(Tree::Made(open)), through: make(Tree::Made(through)) }
            }
            Err(error) => {
                self.refuse(&format!("hours `{name}`"), error);
                OpenHours { open: number(0.0), through: number(0.0) }
            }
        }
    }

    /// Adds the phases of the day, in order.
    pub fn phases(&mut self, name: &str, phases: &[Phase]) -> Alternate {
        let mut lowered = Vec::with_capacity(phases.len());
        for Phase { name, from, change, tint } in phases {
            let from = self.builder.constant(crate::program::Constant::Scalar(from.0), Hour::KIND);
            let tint = tint.map(|tint| self.builder.constant(Color::constant(tint), Color::KIND));
            lowered.push(day::Phase { name: name.clone(), from, change: *change, tint });
        }
        match self.builder.define_phases(name, &lowered) {
            Ok((of, tint)) => Alternate { of: Rc::new(of), tint },
            Err(day::PhaseFault { phase, error }) => {
                let phase = phases.get(phase).map_or("", |phase| phase.name.as_str());
                self.refuse(&format!("phase `{name}.{phase}`"), error);
                self.alternate_of(phases.iter().map(|phase| phase.name.clone()).collect())
            }
        }
    }

    /// Adds a choice: the game selects one of these options, initially the first. The transition to
    /// another takes a time, or is immediate.
    pub fn choice(&mut self, name: &str, options: &[&str], over: Seconds) -> Alternate {
        let options: Vec<String> = options.iter().map(|option| (*option).to_owned()).collect();
        match self.builder.define_choice(name, &options, over) {
            Ok((_, of)) => Alternate { of: Rc::new(of), tint: None },
            Err(error) => {
                self.refuse(&format!("choice `{name}`"), error);
                self.alternate_of(options)
            }
        }
    }

    /// A stand-in for rejected alternatives: the first of them, always.
    pub(super) fn alternate_of(&mut self, names: Vec<String>) -> Alternate {
        let first = |n: usize| if n == 0 { 1.0 } else { 0.0 };
        let constant = |builder: &mut crate::program_builder::ProgramBuilder, v| {
            builder.constant(crate::program::Constant::Scalar(v), Number::KIND)
        };
        let flag = |builder: &mut crate::program_builder::ProgramBuilder, on| {
            builder.constant(crate::program::Constant::OnOff(on), OnOff::KIND)
        };
        let weights = (0..names.len()).map(|n| constant(&mut self.builder, first(n))).collect();
        let at_hand = (0..names.len()).map(|n| flag(&mut self.builder, n == 0)).collect();
        Alternate { of: Rc::new(Alternatives { names, weights, at_hand }), tint: None }
    }

    /// Adds the sun on its path. Its values are signals named after it.
    pub fn sun(&mut self, name: &str, path: &SunPath) -> Sun {
        let lowered = match &path.ends {
            Ends::Earth { latitude, longitude, date } => (|| {
                Ok(sky::SunPath::Earth {
                    latitude: self.known(name, latitude)?,
                    longitude: self.known(name, longitude)?,
                    date: self.known(name, date)?,
                    year: path.year,
                    zone: path.zone,
                })
            })(),
            Ends::Hours { rises, sets, highest, lowest } => (|| {
                Ok(sky::SunPath::Hours {
                    rises: self.known(name, rises)?,
                    sets: self.known(name, sets)?,
                    highest: self.known(name, highest)?,
                    lowest: self.known(name, lowest)?,
                    twilight: path.twilight,
                })
            })(),
        };
        match lowered.and_then(|path| self.builder.define_sun(name, path)) {
            Ok(sky) => Sun { sky: Some(sky) },
            Err(error) => {
                self.refuse(&format!("sun `{name}`"), error);
                Sun { sky: None }
            }
        }
    }

    /// Adds the moon of a sun at an age in days since new moon; opposite the sun if no age is
    /// given.
    pub fn moon(&mut self, name: &str, sun: &Sun, age: Option<Value<Number>>) -> Moon {
        let age = age.map(|age| self.known(name, &age)).transpose();
        // What is wrong with the sun was reported.
        let Some(sky) = &sun.sky else { return Moon { sky: None } };
        match age.and_then(|age| self.builder.define_moon(name, sky, age)) {
            Ok(sky) => Moon { sky: Some(sky) },
            Err(error) => {
                self.refuse(&format!("moon `{name}`"), error);
                Moon { sky: None }
            }
        }
    }
}
