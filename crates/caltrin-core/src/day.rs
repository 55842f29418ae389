//! What follows the hour of the game's day: windows, phases, sun and moon. All of it is pure in what the
//! clock shows, made of the draft's own operations.

use crate::curve::{Curve, CurveFault, Easing, Stop};
use crate::draft::{Draft, Track};
use crate::kind::Kind;
use crate::misfit::Misfit;
use crate::program::{
    Body, Clock, Constant, CurveId, Dial, Domain, ExprId, NamedCurve, Op, Phases, Start, Subject,
    Turn, Wave,
};
use crate::pure::Pure;
use crate::quantity::{Hours, Place};
use rustc_hash::FxHashSet;

/// Days from one new moon to the next, on average.
pub const LUNATION: f64 = 29.530_588;

/// Where the change at an hour lies.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Lean {
    /// It is done by the hour.
    Before,
    /// It is halfway at the hour.
    #[default]
    Across,
    /// It begins at the hour.
    After,
}

impl Lean {
    /// How long before its hour a change that takes so long begins.
    fn lead(self, over: f64) -> f64 {
        match self {
            Lean::Before => over,
            Lean::Across => over * 0.5,
            Lean::After => 0.0,
        }
    }
}

/// A change at an hour.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Change {
    /// How long it takes.
    pub over: Hours,
    /// Where it lies.
    pub lean: Lean,
}

/// A phase of the day in the making.
#[derive(Clone, Debug, PartialEq)]
pub struct Phase {
    /// The book's name for it.
    pub name: String,
    /// The hour from which on it is.
    pub from: ExprId,
    /// How it is come to.
    pub change: Change,
    /// Its own tint.
    pub tint: Option<ExprId>,
}

/// What phases, or another list of alternatives, give.
#[derive(Clone, Debug, PartialEq)]
pub struct Alternatives {
    /// Their names in the book's order.
    pub names: Vec<String>,
    /// How much each counts, 0 to 1; all together 1.
    pub weights: Vec<ExprId>,
    /// Whether it is the one at hand.
    pub at_hand: Vec<ExprId>,
}

/// How the book says where the sun stands.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum SunPath {
    /// By a place on earth and a day of the year.
    Earth {
        /// Degrees north.
        latitude: ExprId,
        /// Degrees east.
        longitude: ExprId,
        /// The day of the year; 1 is the first of January.
        date: ExprId,
        /// The year, 1950 to 2050.
        year: f64,
        /// How many hours the clock is ahead of UT; `None` for the place's own mean time.
        zone: Option<f64>,
    },
    /// By the hours at which it rises and sets.
    Hours {
        /// When it rises.
        rises: ExprId,
        /// When it sets.
        sets: ExprId,
        /// Its greatest height by day.
        highest: ExprId,
        /// Its least height by night, below 0.
        lowest: ExprId,
        /// How long it is light before and after.
        twilight: Hours,
    },
}

/// What the sun, or the moon, gives: each value's name in the language, and the value.
#[derive(Clone, Debug, PartialEq)]
pub struct Sky {
    /// In the order of the documentation.
    pub values: Vec<(&'static str, ExprId)>,
    path: SunPath,
    hour: ExprId,
}

impl Sky {
    /// The value of that name.
    pub fn value(&self, name: &str) -> Option<ExprId> {
        self.values.iter().find(|(known, _)| *known == name).map(|(_, id)| *id)
    }
}

/// The curves of light from the sky, made when first asked for.
#[derive(Clone, Debug, Default)]
pub(crate) struct Beams {
    /// Colour and strength by the height that a beam comes from.
    beam: Option<(Track, CurveId)>,
    /// How bright the moon is by its age.
    moon: Option<CurveId>,
}

/// The beam of the sun by its height in degrees: linear colour, and its strength against that from
/// overhead. Extinction by air (Rayleigh) and a little haze (0.05 at 1 um) at 610, 550 and 465 nm, and
/// strength as 0.7^(m^0.678) after Meinel, for the air mass m of Kasten and Young (1989); fading out
/// as the disc sets.
pub const BEAM: [(f64, [f64; 3], f64); 13] = [
    (-1.0, [1.0, 0.068, 0.0001], 0.0),
    (-0.833, [1.0, 0.0794, 0.0001], 0.0),
    (0.0, [1.0, 0.1608, 0.0014], 0.0215),
    (1.0, [1.0, 0.2813, 0.0105], 0.0541),
    (2.0, [1.0, 0.3919, 0.0345], 0.0993),
    (3.0, [1.0, 0.4819, 0.0725], 0.1503),
    (5.0, [1.0, 0.6085, 0.1678], 0.2522),
    (8.0, [1.0, 0.7186, 0.3049], 0.3833),
    (12.0, [1.0, 0.7969, 0.4423], 0.5152),
    (20.0, [1.0, 0.8694, 0.6048], 0.6852),
    (35.0, [1.0, 0.9196, 0.7398], 0.85),
    (60.0, [1.0, 0.9459, 0.8188], 0.9643),
    (90.0, [1.0, 0.953, 0.841], 1.0),
];

/// How bright the moon is by how much of its month has passed, from new (0) to full (1), against the
/// full moon: 10^(-0.4 (0.026 a + 4e-9 a^4)) for the phase angle a, after Krisciunas and Schaefer
/// (1991).
pub const MOON: [(f64, f64); 11] = [
    (0.0, 0.0003),
    (0.1, 0.0016),
    (0.2, 0.0065),
    (0.3, 0.0193),
    (0.4, 0.0456),
    (0.5, 0.091),
    (0.6, 0.1615),
    (0.7, 0.2659),
    (0.8, 0.4197),
    (0.9, 0.6496),
    (1.0, 1.0),
];

/// Stands before the titles of curves that the library brings along, which have no line in the book.
const OWN: &str = "sky/";

/// The height of the sun's middle when its edge is seen at the horizon, as almanacs take it.
pub const HORIZON: f64 = -0.833;
/// The height of the sun at which civil twilight begins and ends.
pub const TWILIGHT: f64 = -6.0;

/// Which of these hours is the first after midnight, where they rise and pass midnight once at most; or
/// which one does not come after the one before it.
fn past_midnight(hours: &[f64]) -> Result<usize, usize> {
    let falls = |n: &usize| hours[*n] <= hours[n - 1];
    let falling: Vec<usize> = (1..hours.len()).filter(falls).collect();
    match falling[..] {
        [] => Ok(0),
        [n] if hours[n] < hours[n - 1] && hours[hours.len() - 1] < hours[0] => Ok(n),
        [n] if hours[n] == hours[n - 1] => Err(n),
        // Having passed midnight, they reach the first again.
        [n] => Err((n..hours.len()).find(|m| hours[*m] >= hours[0]).unwrap_or(n)),
        [_, again, ..] => Err(again),
    }
}

/// Days from noon of 1 January 2000 to the start of the day before 1 January of a year.
fn new_year(year: f64) -> f64 {
    let y = year - 1.0;
    let days = y * 365.0 + (y / 4.0).floor() - (y / 100.0).floor() + (y / 400.0).floor();
    days - 730_120.0 - 0.5
}

impl Draft {
    /// Gives the book its clock. To be called before anything that follows it is made.
    pub fn set_clock(&mut self, clock: Clock) -> Result<(), Misfit> {
        let Clock { day, start, rate } = clock;
        if !(1.0..=1e7).contains(&day.0) {
            return Err(Misfit::DayLength(day.0));
        }
        if !(0.0..24.0).contains(&start.0) {
            return Err(Misfit::NoHour(start.0));
        }
        if self.program().clock().is_some() {
            return Err(Misfit::SecondClock);
        }
        if rate.is_nan() || rate.abs() > crate::clock::MOST_RATE {
            return Err(Misfit::ClockRate(rate));
        }
        self.program_mut().clock = Some(clock);
        Ok(())
    }

    /// A function of numbers alone.
    fn pure(&mut self, of: Pure, all: &[ExprId], kind: Kind) -> Result<ExprId, Misfit> {
        debug_assert_eq!(all.len(), of.arguments(), "as many as it has");
        self.derived(Op::Pure(of, all.into()), kind)
    }

    /// A signal of this name for a value that many may use; what is known beforehand stays as it is.
    fn shared(&mut self, name: &str, value: ExprId) -> Result<ExprId, Misfit> {
        if self.is_known(value) {
            return Ok(value);
        }
        let signal = self.define_signal(name, value)?;
        Ok(self.signal(signal))
    }

    /// What the game's clock shows: the hour, or the number of days.
    pub fn clock(&mut self, dial: Dial) -> Result<ExprId, Misfit> {
        if self.program().clock().is_none() {
            return Err(Misfit::NoClock);
        }
        Ok(self.dial(dial))
    }

    /// A curve by the hour: see [`Draft::define_curve`]. Stops rise, once over midnight at most, and what
    /// lies between the last and the first goes on over midnight; the first stop's easing serves there.
    pub fn define_day(
        &mut self,
        name: &str,
        kind: Kind,
        linear: bool,
        stops: &[(Place, Constant, Easing)],
    ) -> Result<Track, Misfit> {
        if self.program().clock().is_none() {
            return Err(Misfit::NoClock);
        }
        if let Some((at, ..)) = stops.iter().find(|(at, ..)| !(0.0..24.0).contains(&at.0)) {
            return Err(Misfit::NoHour(at.0));
        }
        let hours: Vec<f64> = stops.iter().map(|(at, ..)| at.0).collect();
        let midnight = past_midnight(&hours).map_err(Misfit::DayOrder)?;
        let mut day = stops.to_vec();
        day.rotate_left(midnight);
        if let (Some(first), Some(last)) = (day.first().copied(), day.last().copied())
            && day.len() > 1
        {
            day.insert(0, (Place(last.0.0 - 24.0), last.1, Easing::Linear));
            day.push((Place(first.0.0 + 24.0), first.1, first.2));
        }
        let count = stops.len();
        let written = |n: usize| (n + count - 1 + midnight) % count;
        self.define_curve(name, Domain::Day, kind, linear, &day).map_err(|misfit| match misfit {
            Misfit::Curve(CurveFault::TooClose(n)) => {
                Misfit::Curve(CurveFault::TooClose(written(n)))
            }
            Misfit::Curve(CurveFault::Range(n)) => Misfit::Curve(CurveFault::Range(written(n))),
            other => other,
        })
    }

    /// A curve by the hour, at the hour that it is.
    pub fn day_now(&mut self, track: &Track) -> Result<ExprId, Misfit> {
        let hour = self.clock(Dial::Hour)?;
        self.track_at(track, hour)
    }

    /// A window of the day, 0 outside and 1 inside, and how far the time through it has passed, as signals.
    /// Both ends change as `change` says, eased.
    pub fn define_window(
        &mut self,
        name: &str,
        [from, to]: [ExprId; 2],
        change: Change,
        easing: Easing,
    ) -> Result<[ExprId; 2], Misfit> {
        for end in [from, to] {
            self.expect(end, Kind::Hour)?;
        }
        let over = change.over.0;
        if let (Some(from), Some(to)) = (self.scalar(from), self.scalar(to)) {
            let open = crate::sky::hour_of(to - from);
            if open == 0.0 {
                return Err(Misfit::EmptyWindow);
            }
            let least = open.min(24.0 - open);
            if over > least {
                return Err(Misfit::WindowEdges { over: Hours(over), least: Hours(least) });
            }
        }
        let hour = self.clock(Dial::Hour)?;
        let lead = self.number(change.lean.lead(over), Kind::Hour)?;
        let (start, end) = (self.hours_before(from, lead)?, self.hours_before(to, lead)?);
        let over = self.number(over, Kind::Hour)?;
        let level = self.pure(Pure::Window, &[hour, start, over, end, over], Kind::Number)?;
        let level = self.eased(level, easing)?;
        let through = self.pure(Pure::Through, &[hour, from, to], Kind::Number)?;
        Ok([self.shared(name, level)?, self.shared(&format!("{name}.through"), through)?])
    }

    /// Whether an hour lies between two, over midnight where the second comes first.
    pub fn hour_in(&mut self, hour: ExprId, [from, to]: [ExprId; 2]) -> Result<ExprId, Misfit> {
        for end in [hour, from, to] {
            self.expect(end, Kind::Hour)?;
        }
        let none = self.number(0.0, Kind::Hour)?;
        let inside = self.pure(Pure::Window, &[hour, from, none, to, none], Kind::Number)?;
        let half = self.number(0.5, Kind::Number)?;
        self.above(inside, half)
    }

    /// The phases of the day: each lasts until the next begins, the last until the first. Changes are
    /// smooth and must not meet. How much each counts is a signal, and so is the tint of them all, if
    /// they have tints.
    pub fn define_phases(
        &mut self,
        name: &str,
        phases: &[Phase],
    ) -> Result<(Alternatives, Option<ExprId>), PhaseFault> {
        let whole = |misfit| PhaseFault { phase: 0, misfit };
        if phases.len() < 2 {
            return Err(whole(Misfit::TooFewPhases));
        }
        let hour = self.clock(Dial::Hour).map_err(whole)?;
        let mut hours = Vec::with_capacity(phases.len());
        for (n, phase) in phases.iter().enumerate() {
            let at = |misfit| PhaseFault { phase: n, misfit };
            self.expect(phase.from, Kind::Hour).map_err(at)?;
            hours.push(self.scalar(phase.from).ok_or(at(Misfit::PhaseMoves))?);
        }
        let next = |n: usize| (n + 1) % phases.len();
        past_midnight(&hours).map_err(|n| PhaseFault { phase: n, misfit: Misfit::PhaseOrder })?;
        let (mut weights, mut at_hand) = (Vec::new(), Vec::new());
        for n in 0..phases.len() {
            let at = |misfit| PhaseFault { phase: next(n), misfit };
            let lasts = crate::sky::hour_of(hours[next(n)] - hours[n]);
            let [own, after] = [n, next(n)].map(|n| phases[n].change);
            let leads = [own, after].map(|change| change.lean.lead(change.over.0));
            if own.over.0 - leads[0] + leads[1] > lasts + 1e-9 {
                return Err(at(Misfit::PhasesMeet));
            }
            let level = |draft: &mut Draft, [rise, fall]: [f64; 2], [lead, next_lead]: [f64; 2]| {
                let all = [hours[n] - lead, rise, hours[next(n)] - next_lead, fall];
                let mut made = [hour; 5];
                for (made, v) in made[1..].iter_mut().zip(all) {
                    *made = draft.number(v, Kind::Hour)?;
                }
                draft.pure(Pure::Window, &made, Kind::Number)
            };
            let weight = level(self, [own.over.0, after.over.0], leads).map_err(at)?;
            let weight = self.eased(weight, Easing::Smooth).map_err(at)?;
            let path = format!("{name}.{}", phases[n].name);
            weights.push(self.shared(&path, weight).map_err(at)?);
            let inside = level(self, [0.0, 0.0], [0.0, 0.0]).map_err(at)?;
            let half = self.number(0.5, Kind::Number).map_err(at)?;
            at_hand.push(self.above(inside, half).map_err(at)?);
        }
        let names: Vec<String> = phases.iter().map(|phase| phase.name.clone()).collect();
        let all = Alternatives { names, weights, at_hand };
        let tints: Vec<ExprId> = phases.iter().filter_map(|phase| phase.tint).collect();
        let tint = match tints.len() {
            0 => None,
            n if n == phases.len() => {
                let tint = self.pick(&all, &tints).map_err(whole)?;
                Some(self.shared(&format!("{name}.tint"), tint).map_err(whole)?)
            }
            _ => {
                let phase = phases.iter().position(|phase| phase.tint.is_none()).unwrap_or(0);
                return Err(PhaseFault { phase, misfit: Misfit::SomeTints });
            }
        };
        let parts = phases.iter().zip(hours).zip(&all.weights);
        let parts = parts.map(|((phase, hour), weight)| (phase.name.clone(), Hours(hour), *weight));
        let kept = Phases { name: name.to_owned(), parts: parts.collect(), tint };
        self.program_mut().phases.push(kept);
        Ok((all, tint))
    }

    /// A blend of a value for each alternative by how much each counts; colours in OKLab. On or off is
    /// that of the one at hand.
    pub fn pick(&mut self, of: &Alternatives, values: &[ExprId]) -> Result<ExprId, Misfit> {
        let first = *values.first().ok_or(Misfit::NotFinite)?;
        let kind = self.kind(first);
        for value in values {
            self.expect(*value, kind)?;
        }
        if values.iter().all(|value| *value == first) {
            return Ok(first);
        }
        match kind {
            Kind::OnOff | Kind::Hour => {
                let mut made = *values.last().ok_or(Misfit::NotFinite)?;
                for (value, at_hand) in values.iter().zip(&of.at_hand).rev().skip(1) {
                    made = self.choose(*at_hand, *value, made)?;
                }
                Ok(made)
            }
            Kind::Point => self.weighted(&of.weights, values),
            Kind::Color => {
                let mut roots = Vec::with_capacity(3);
                for cone in 0..3 {
                    let mut each = Vec::with_capacity(values.len());
                    for value in values {
                        each.push(self.derived(Op::ConeRoot(cone, *value), Kind::Number)?);
                    }
                    roots.push(self.weighted_inside(&of.weights, &each)?);
                }
                self.derived(Op::FromCones(roots[0], roots[1], roots[2]), Kind::Color)
            }
            _ => self.weighted_inside(&of.weights, values),
        }
    }

    fn weighted(&mut self, weights: &[ExprId], values: &[ExprId]) -> Result<ExprId, Misfit> {
        let mut sum: Option<ExprId> = None;
        for (value, weight) in values.iter().zip(weights) {
            let zero = matches!(self.program().constant(*value), Some(Constant::Scalar(0.0)));
            if zero {
                continue;
            }
            let one = matches!(self.program().constant(*value), Some(Constant::Scalar(1.0)));
            let part = match one && self.kind(*value) == Kind::Number {
                true => *weight,
                false => self.multiply(*value, *weight)?,
            };
            sum = Some(match sum {
                Some(sum) => self.add(sum, part)?,
                None => part,
            });
        }
        sum.ok_or(Misfit::NotFinite)
    }

    /// The same of numbers, kept inside of them whatever the rounding.
    fn weighted_inside(&mut self, weights: &[ExprId], values: &[ExprId]) -> Result<ExprId, Misfit> {
        if values
            .iter()
            .all(|v| self.scalar(*v).is_some() && self.scalar(*v) == self.scalar(values[0]))
        {
            return Ok(values[0]);
        }
        if let ([first, second], [_, weight]) = (values, weights) {
            let kind = self.kind(*first);
            return self.derived(Op::Between(*first, *second, *weight), kind);
        }
        let sum = self.weighted(weights, values)?;
        let (mut lo, mut hi) = (values[0], values[0]);
        for value in &values[1..] {
            lo = self.least(lo, *value)?;
            hi = self.greatest(hi, *value)?;
        }
        if self.is_known(lo) && self.is_known(hi) {
            return self.within(sum, lo, hi);
        }
        let sum = self.greatest(sum, lo)?;
        self.least(sum, hi)
    }

    /// The sun on its path: each of its values as a signal, called after it.
    pub fn define_sun(&mut self, name: &str, path: SunPath) -> Result<Sky, Misfit> {
        let hour = self.clock(Dial::Hour)?;
        let mut values;
        match path {
            SunPath::Earth { latitude, longitude, .. } => {
                let nothing = self.number(0.0, Kind::Number)?;
                values = self.by_earth(name, path, hour, nothing)?;
                let start = self.days(name, path, None)?;
                for (name, crossing, height) in [
                    ("rise", Pure::Rises, HORIZON),
                    ("set", Pure::Sets, HORIZON),
                    ("noon", Pure::Highest, 0.0),
                    ("dawn", Pure::Rises, TWILIGHT),
                    ("dusk", Pure::Sets, TWILIGHT),
                ] {
                    let sine = crate::kernel::sine_of_turns(height / 360.0);
                    let sine = self.number(sine, Kind::Number)?;
                    let all = [start, latitude, longitude, sine];
                    values.push((name, self.pure(crossing, &all, Kind::Hour)?));
                }
            }
            SunPath::Hours { rises, sets, highest, lowest, twilight } => {
                for end in [rises, sets] {
                    self.expect(end, Kind::Hour)?;
                }
                self.expect(highest, Kind::Angle)?;
                self.expect(lowest, Kind::Angle)?;
                if self.scalar(rises).is_some() && self.scalar(rises) == self.scalar(sets) {
                    return Err(Misfit::EmptyWindow);
                }
                values = self.by_hours(name, path, hour)?;
                let lead = self.number(twilight.0, Kind::Hour)?;
                let back = self.number(-twilight.0, Kind::Hour)?;
                values.push(("rise", rises));
                values.push(("set", sets));
                let noon = self.halfway(rises, sets)?;
                values.push(("noon", noon));
                values.push(("dawn", self.hours_before(rises, lead)?));
                values.push(("dusk", self.hours_before(sets, back)?));
            }
        }
        let height = values[0].1;
        let (color, strength) = self.beam(height)?;
        let ends = [TWILIGHT, -TWILIGHT].map(|v| self.number(v, Kind::Angle));
        let levels = [0.0, 1.0].map(|v| self.number(v, Kind::Number));
        let [from, to] = ends;
        let [dark, light] = levels;
        let daylight = self.map(height, [from?, to?], [dark?, light?], Easing::Smooth)?;
        values.extend([("daylight", daylight), ("color", color), ("strength", strength)]);
        self.share_all(name, &mut values)?;
        self.keep_body(name, &values);
        Ok(Sky { values, path, hour })
    }

    /// Keeps sun or moon for pictures of the day.
    fn keep_body(&mut self, name: &str, values: &[(&str, ExprId)]) {
        let value = |wanted: &str| values.iter().find(|(part, _)| *part == wanted).map(|(_, v)| *v);
        if let Some(height) = value("height") {
            let body = Body { name: name.to_owned(), lit: value("lit"), height };
            self.program_mut().bodies.push(body);
        }
    }

    fn share_all(&mut self, name: &str, values: &mut [(&str, ExprId)]) -> Result<(), Misfit> {
        for (part, value) in values {
            if !matches!(self.program().expr(*value).op, Op::Signal(_)) {
                *value = self.shared(&format!("{name}.{part}"), *value)?;
            }
        }
        Ok(())
    }

    /// The moon of a sun, `age` days after it was new; opposite the sun where nothing is said. An age that
    /// goes with the number of days goes on through each of them. It runs on
    /// the sun's own way, as far behind as its age says. Its values are signals, called after it.
    pub fn define_moon(
        &mut self,
        name: &str,
        sun: &Sky,
        age: Option<ExprId>,
    ) -> Result<Sky, Misfit> {
        let age = match age {
            Some(age) => age,
            None => self.number(LUNATION * 0.5, Kind::Number)?,
        };
        self.expect(age, Kind::Number)?;
        let age = match self.counts_days(age) {
            // An age that goes with the days goes on through each of them.
            true => {
                let day = self.number(24.0, Kind::Number)?;
                let passed = self.derived(Op::Divide(sun.hour, day), Kind::Number)?;
                self.add(age, passed)?
            }
            false => age,
        };
        let month = self.number(LUNATION, Kind::Number)?;
        let ahead = self.divide(age, month)?;
        let mut values = match sun.path {
            SunPath::Earth { .. } => self.by_earth(name, sun.path, sun.hour, ahead)?,
            SunPath::Hours { .. } => {
                let day = self.number(24.0, Kind::Hour)?;
                let behind = self.multiply_hours(ahead, day)?;
                let hour = self.hours_before(sun.hour, behind)?;
                self.by_hours(name, sun.path, hour)?
            }
        };
        let lit = self.derived(Op::Wave(Wave::Sine, ahead), Kind::Number)?;
        let grown = self.derived(Op::Wave(Wave::Triangle, ahead), Kind::Number)?;
        let by_age = match self.beams().moon {
            Some(known) => known,
            None => self.plain_curve("moon_by_age", Kind::Number, &MOON)?,
        };
        self.beams().moon = Some(by_age);
        let full = self.curve_at(by_age, grown);
        let (color, strength) = self.beam(values[0].1)?;
        let strength = self.multiply(strength, full)?;
        values.extend([("lit", lit), ("color", color), ("strength", strength)]);
        self.share_all(name, &mut values)?;
        self.keep_body(name, &values);
        Ok(Sky { values, path: sun.path, hour: sun.hour })
    }

    /// Whether a value goes with the number of days that the clock has counted.
    fn counts_days(&self, root: ExprId) -> bool {
        let (mut open, mut seen) = (vec![root], FxHashSet::default());
        while let Some(id) = open.pop() {
            if seen.insert(id) {
                match &self.program().expr(id).op {
                    Op::Clock(Dial::Days) => return true,
                    Op::Signal(signal) => open.push(self.program().signal(*signal).value),
                    op => open.extend(op.operands()),
                }
            }
        }
        false
    }

    /// Colour and strength of a beam from this height.
    fn beam(&mut self, height: ExprId) -> Result<(ExprId, ExprId), Misfit> {
        let (color, strength) = match self.beams().beam.clone() {
            Some(known) => known,
            None => {
                let stops: Vec<(Place, Constant, Easing)> = BEAM
                    .iter()
                    .map(|(at, color, _)| (Place(*at), Constant::Vector(*color), Easing::Linear))
                    .collect();
                let domain = Domain::Ramp(Kind::Angle);
                let color = self.define_curve("beam_color", domain, Kind::Color, false, &stops)?;
                for id in &color.curves {
                    self.program_mut().curves[id.index()].title = format!("{OWN}beam_color");
                }
                let strengths = BEAM.map(|(at, _, strength)| (at, strength));
                let strength = self.plain_curve("beam_strength", Kind::Angle, &strengths)?;
                self.beams().beam = Some((color.clone(), strength));
                (color, strength)
            }
        };
        Ok((self.track_at(&color, height)?, self.curve_at(strength, height)))
    }

    fn plain_curve(
        &mut self,
        name: &str,
        domain: Kind,
        stops: &[(f64, f64)],
    ) -> Result<CurveId, Misfit> {
        let stops = stops.iter().map(|(at, value)| Stop {
            at: Place(*at),
            value: *value,
            easing: Easing::Linear,
        });
        let curve = Curve::new(stops.collect()).map_err(Misfit::Curve)?;
        let program = self.program_mut();
        let id = CurveId(program.curves.len() as u32);
        program.curves.push(NamedCurve {
            title: format!("{OWN}{name}"),
            name: name.to_owned(),
            kind: Kind::Number,
            domain: Domain::Ramp(domain),
            curve,
        });
        program.order.push(Subject::Curve(id));
        Ok(id)
    }

    /// Days after noon of 1 January 2000 in UT: at an hour of the clock, or at the start of its day.
    /// It is a signal of the sun's or moon's.
    fn days(&mut self, name: &str, path: SunPath, hour: Option<ExprId>) -> Result<ExprId, Misfit> {
        let SunPath::Earth { longitude, date, year, zone, .. } = path else {
            return self.number(0.0, Kind::Number);
        };
        // The place's own mean time is as far ahead as it lies to the east.
        let own = self.scalar(longitude).filter(|_| zone.is_none());
        let ahead = own.map_or(zone.unwrap_or(0.0) / 24.0, |longitude| longitude / 360.0);
        let start = self.number(new_year(year) - ahead, Kind::Number)?;
        // A day of the year is whole, whatever the game sets.
        let one = self.number(1.0, Kind::Number)?;
        let turned = Op::Turned(Turn::Loop, Start::Together, date, one);
        let over = self.derived(turned, Kind::Number)?;
        let date = self.subtract(date, over)?;
        let mut days = self.add(date, start)?;
        if zone.is_none() && own.is_none() {
            let turn = self.number(360.0, Kind::Angle)?;
            let behind = self.divide(longitude, turn)?;
            days = self.subtract(days, behind)?;
        }
        match hour {
            Some(hour) => {
                let day = self.number(24.0, Kind::Number)?;
                let passed = self.derived(Op::Divide(hour, day), Kind::Number)?;
                let days = self.add(days, passed)?;
                self.shared(&format!("{name}.moment"), days)
            }
            None => self.shared(&format!("{name}.day"), days),
        }
    }

    fn by_earth(
        &mut self,
        name: &str,
        path: SunPath,
        hour: ExprId,
        ahead: ExprId,
    ) -> Result<Vec<(&'static str, ExprId)>, Misfit> {
        let SunPath::Earth { latitude, longitude, date, year, zone } = path else {
            return Err(Misfit::NotFinite);
        };
        self.expect(latitude, Kind::Angle)?;
        self.expect(longitude, Kind::Angle)?;
        self.expect(date, Kind::Number)?;
        for (id, what, most) in [(latitude, "a latitude", 90.0), (longitude, "a longitude", 180.0)]
        {
            if let Some(v) = self.scalar(id).filter(|v| v.abs() > most) {
                return Err(Misfit::OutOfRange { what, lo: v, hi: v, least: -most, most });
            }
        }
        if let Some(v) = self.scalar(date).filter(|v| !(1.0..=366.0).contains(v)) {
            let what = "the day of the year";
            return Err(Misfit::OutOfRange { what, lo: v, hi: v, least: 1.0, most: 366.0 });
        }
        if !(1950.0..=2050.0).contains(&year) || year.fract() != 0.0 {
            let what = "the year";
            return Err(Misfit::OutOfRange {
                what,
                lo: year,
                hi: year,
                least: 1950.0,
                most: 2050.0,
            });
        }
        if let Some(v) = zone.filter(|v| !(-14.0..=14.0).contains(v)) {
            let what = "the zone";
            return Err(Misfit::OutOfRange { what, lo: v, hi: v, least: -14.0, most: 14.0 });
        }
        let days = self.days(name, path, Some(hour))?;
        let all = [days, ahead, latitude, longitude];
        let east = self.pure(Pure::East, &all, Kind::Number)?;
        let up = self.pure(Pure::Up, &all, Kind::Number)?;
        let south = self.pure(Pure::South, &all, Kind::Number)?;
        let way = self.derived(Op::Parts(east, up, south), Kind::Point)?;
        let height = self.pure(Pure::ArcSine, &[up], Kind::Angle)?;
        let north = self.derived(Op::Negate(south), Kind::Number)?;
        let azimuth = self.pure(Pure::Compass, &[east, north], Kind::Angle)?;
        let height = self.shared(&format!("{name}.height"), height)?;
        let azimuth = self.shared(&format!("{name}.azimuth"), azimuth)?;
        self.seen(height, azimuth, way)
    }

    /// On a path by hours: height and direction at an hour.
    fn by_hours(
        &mut self,
        name: &str,
        path: SunPath,
        hour: ExprId,
    ) -> Result<Vec<(&'static str, ExprId)>, Misfit> {
        let SunPath::Hours { rises, sets, highest, lowest, .. } = path else {
            return Err(Misfit::NotFinite);
        };
        let by_day = self.hour_in(hour, [rises, sets])?;
        let day = self.pure(Pure::Through, &[hour, rises, sets], Kind::Number)?;
        let night = self.pure(Pure::Through, &[hour, sets, rises], Kind::Number)?;
        let (high, low) = (self.arch(day)?, self.arch(night)?);
        let (high, low) = (self.multiply(highest, high)?, self.multiply(lowest, low)?);
        let height = self.choose(by_day, high, low)?;
        // From east over south to west by day, and back over north.
        let turn = self.choose(by_day, day, night)?;
        let half_turn = self.number(180.0, Kind::Angle)?;
        let (east, west) = (self.number(90.0, Kind::Angle)?, self.number(270.0, Kind::Angle)?);
        let from = self.choose(by_day, east, west)?;
        let turned = self.multiply(half_turn, turn)?;
        let along = self.add(from, turned)?;
        let full = self.number(360.0, Kind::Angle)?;
        let past = self.above(full, along)?;
        let back = self.subtract(along, full)?;
        let azimuth = self.choose(past, along, back)?;
        let height = self.shared(&format!("{name}.height"), height)?;
        let azimuth = self.shared(&format!("{name}.azimuth"), azimuth)?;
        let turns = self.divide(azimuth, full)?;
        let (east, north) = (self.sine(turns, 0.25)?, self.sine(turns, 0.5)?);
        let rise = self.divide(height, full)?;
        let (up, flat) = (self.sine(rise, 0.25)?, self.sine(rise, 0.5)?);
        let x = self.multiply(flat, east)?;
        let north = self.multiply(flat, north)?;
        let z = self.negate(north)?;
        let way = self.derived(Op::Parts(x, up, z), Kind::Point)?;
        self.seen(height, azimuth, way)
    }

    /// What is seen of a body at this height, from this direction.
    fn seen(
        &mut self,
        height: ExprId,
        azimuth: ExprId,
        way: ExprId,
    ) -> Result<Vec<(&'static str, ExprId)>, Misfit> {
        let aim = self.derived(Op::Negate(way), Kind::Point)?;
        let aim = self.stood_as_written(aim)?;
        let horizon = self.number(HORIZON, Kind::Angle)?;
        let up = self.above(height, horizon)?;
        Ok(vec![("height", height), ("azimuth", azimuth), ("aim", aim), ("up", up)])
    }

    /// Half a turn of a sine over 0 to 1.
    fn arch(&mut self, u: ExprId) -> Result<ExprId, Misfit> {
        let half = self.number(0.5, Kind::Number)?;
        let turns = self.multiply(u, half)?;
        self.sine(turns, 0.25)
    }

    /// A sine of turns (`on` a quarter), or a cosine (half).
    fn sine(&mut self, turns: ExprId, on: f64) -> Result<ExprId, Misfit> {
        let on = self.number(on, Kind::Number)?;
        let turns = self.add(turns, on)?;
        self.full_wave(turns)
    }

    /// The hour so many hours before another.
    fn hours_before(&mut self, hour: ExprId, lead: ExprId) -> Result<ExprId, Misfit> {
        if self.scalar(lead) == Some(0.0) {
            return Ok(hour);
        }
        let earlier = self.derived(Op::Subtract(hour, lead), Kind::Hour)?;
        let day = self.number(24.0, Kind::Hour)?;
        self.round_the_clock(earlier, day)
    }

    fn halfway(&mut self, from: ExprId, to: ExprId) -> Result<ExprId, Misfit> {
        let day = self.number(24.0, Kind::Hour)?;
        let span = self.derived(Op::Subtract(to, from), Kind::Hour)?;
        let span = self.round_the_clock(span, day)?;
        let half = self.number(0.5, Kind::Number)?;
        let half = self.multiply_hours(half, span)?;
        let middle = self.derived(Op::Add(from, half), Kind::Hour)?;
        self.round_the_clock(middle, day)
    }

    fn multiply_hours(&mut self, factor: ExprId, hours: ExprId) -> Result<ExprId, Misfit> {
        self.derived(Op::Multiply(hours, factor), Kind::Hour)
    }
}

/// What is wrong with one of the phases.
#[derive(Clone, Debug, PartialEq)]
pub struct PhaseFault {
    /// Which one, in their order.
    pub phase: usize,
    /// What is wrong.
    pub misfit: Misfit,
}
