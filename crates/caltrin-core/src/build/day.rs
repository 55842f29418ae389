//! What follows the game's day, from Rust: clock, curves by the hour, spans of hours, phases, choices, sun and
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
    /// Whether it lies between two hours, over midnight where the second comes first.
    pub fn is_in(self, from: Self, to: Self) -> Value<OnOff> {
        make(Tree::HourIn(self.node, from.node, to.node))
    }
}

/// A span of hours of the day.
#[derive(Clone, Debug)]
pub struct OpenHours {
    /// 0 outside, 1 inside.
    pub open: Value<Number>,
    /// How far the time through it has passed, 0 to 1.
    pub through: Value<Number>,
}

/// A phase of the day: its name, the hour from which on it is, its transition, and its tint.
#[derive(Clone, Debug)]
pub struct Phase {
    name: String,
    from: Hours,
    change: Change,
    tint: Option<Rgb>,
}

impl Phase {
    /// From an hour on, without a transition.
    pub fn new(name: &str, from: Hours) -> Self {
        let change = Change { over: Hours(0.0), lean: day::Lean::Across };
        Phase { name: name.to_owned(), from, change, tint: None }
    }

    /// With a transition over a span of the clock.
    pub fn over(mut self, over: Hours, lean: day::Lean) -> Self {
        self.change = Change { over, lean };
        self
    }

    /// With a tint of its own.
    pub fn tint(mut self, tint: Rgb) -> Self {
        self.tint = Some(tint);
        self
    }
}

/// Phases of the day, or the options of a choice: names to pick values by.
#[derive(Clone, Debug)]
pub struct Alternate {
    of: Rc<Alternatives>,
    tint: Option<ExprId>,
}

impl Alternate {
    pub(super) fn of(all: Alternatives) -> Self {
        Alternate { of: Rc::new(all), tint: None }
    }

    /// How much one of the names counts, 0 to 1; nothing for a name that there is not.
    pub fn weight(&self, name: &str) -> Value<Number> {
        let found = self.of.names.iter().position(|known| known == name);
        found.map_or_else(|| number(0.0), |n| make(Tree::Made(self.of.weights[n])))
    }

    /// Whether one of the names is active.
    pub fn is(&self, name: &str) -> Value<OnOff> {
        let found = self.of.names.iter().position(|known| known == name);
        found.map_or_else(|| super::on_off(false), |n| make(Tree::Made(self.of.at_hand[n])))
    }

    /// A value for each of these names, `others` for the rest, blended by how much each counts.
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

    /// The tints of all phases, blended; white where they have none.
    pub fn tint(&self) -> Value<Color> {
        self.tint.map_or_else(|| super::rgb(Rgb([1.0; 3])), |tint| make(Tree::Made(tint)))
    }
}

/// How the sun goes.
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
    /// As seen from a latitude (degrees north) on a day of the year, 1 for the first of January; the clock is
    /// the place's own mean time, the year 2025.
    pub fn earth(latitude: Value<Angle>, date: Value<Number>) -> Self {
        let ends = Ends::Earth { latitude, longitude: scalar(0.0), date };
        SunPath { ends, twilight: Hours(0.0), year: 2025.0, zone: None }
    }

    /// By the hours at which it rises and sets, 50 degrees high at most, and as low by night, with half an
    /// hour of twilight.
    pub fn hours(rises: Value<Hour>, sets: Value<Hour>) -> Self {
        let ends = Ends::Hours { rises, sets, highest: scalar(50.0), lowest: scalar(-50.0) };
        SunPath { ends, twilight: Hours(0.5), year: 2025.0, zone: None }
    }

    /// A longitude (degrees east); without effect on a path by hours.
    pub fn at_longitude(mut self, east: Value<Angle>) -> Self {
        if let Ends::Earth { longitude, .. } = &mut self.ends {
            *longitude = east;
        }
        self
    }

    /// A year, 1950 to 2050, and how many hours the clock is ahead of UT.
    pub fn in_year(mut self, year: u16, zone: Option<f64>) -> Self {
        (self.year, self.zone) = (f64::from(year), zone);
        self
    }

    /// The greatest height by day and the least by night; without effect on a path on earth.
    pub fn between(mut self, most: Degrees, least: Degrees) -> Self {
        if let Ends::Hours { highest, lowest, .. } = &mut self.ends {
            (*highest, *lowest) = (scalar(most.0), scalar(least.0));
        }
        self
    }

    /// How long it is light before it rises and after it sets; without effect on a path on earth.
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
    /// Its height above the horizon, without refraction.
    height: Angle,
    /// Its direction on the compass: 0 north, 90 east.
    azimuth: Angle,
    /// The direction in which it shines, of length 1.
    aim: Point,
    /// Whether any of it is above the horizon, as almanacs count.
    up: OnOff,
    /// When it rises.
    rise: Hour,
    /// When it sets.
    set: Hour,
    /// When it stands highest.
    noon: Hour,
    /// When civil twilight begins.
    dawn: Hour,
    /// When civil twilight ends.
    dusk: Hour,
    /// How light the sky is: 0 from 6 degrees below the horizon on, 1 from 6 above.
    daylight: Number,
    /// The color of its light by its height.
    color: Color,
    /// The strength of its light by its height, 1 overhead.
    strength: Number,
});

values!(Moon {
    /// Its height above the horizon, without refraction.
    height: Angle,
    /// Its direction on the compass: 0 north, 90 east.
    azimuth: Angle,
    /// The direction in which it shines, of length 1.
    aim: Point,
    /// Whether any of it is above the horizon.
    up: OnOff,
    /// How much of its disc is lit.
    lit: Number,
    /// The color of its light by its height.
    color: Color,
    /// The strength of its light by its height and age, 1 for a full moon overhead.
    strength: Number,
});

impl Book {
    /// Gives the book its clock. To be called before what follows the hour is made.
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

    /// The hour that the game's clock shows.
    pub fn hour(&mut self) -> Value<Hour> {
        let made = self.builder.clock(Dial::Hour);
        self.made("hour", made)
    }

    /// How many days the game's clock has counted since the start of the run.
    pub fn days(&mut self) -> Value<Number> {
        let made = self.builder.clock(Dial::Days);
        self.made("days", made)
    }

    /// A curve by the hour, at the hour that it is: see [`crate::program_builder::ProgramBuilder::define_day`].
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

    /// A span of hours of the day with soft edges.
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

    /// Phases of the day, in its order.
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

    /// One of a few names, which the game chooses: the first until it does. From one to the next it goes
    /// softly, over a time or at once.
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

    /// Stands where alternatives could not be made: the first of them, always.
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

    /// The sun on its path; its values are signals called after it.
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

    /// The moon of a sun, so many days after it was new; opposite the sun where no age is given.
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
