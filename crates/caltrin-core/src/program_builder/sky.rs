//! Sun and moon: position, intensity and color by the clock.

use super::{ProgramBuilder, Track};
use crate::curve::{Curve, Easing, Stop};
use crate::kind::Kind;
use crate::program::{
    Body, Constant, CurveId, Depth, Dial, Domain, ExprId, NamedCurve, Op, Start, Subject, Turn,
    Wave,
};
use crate::pure::Pure;
use crate::quantity::{Hours, Place};
use crate::semantic_error::SemanticError;

/// Days from one new moon to the next, on average.
pub const LUNATION: f64 = 29.530_588;

/// The path of the sun.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum SunPath {
    /// By a location on earth and a day of the year.
    Earth {
        /// Degrees north.
        latitude: ExprId,
        /// Degrees east.
        longitude: ExprId,
        /// The day of the year; 1 is January 1.
        date: ExprId,
        /// The year, 1950 to 2050.
        year: f64,
        /// The clock's offset from UT in hours; `None` for local mean time.
        zone: Option<f64>,
    },
    /// By the hours of sunrise and sunset.
    Hours {
        /// The hour of sunrise.
        rises: ExprId,
        /// The hour of sunset.
        sets: ExprId,
        /// The highest altitude by day.
        highest: ExprId,
        /// The lowest altitude by night, below 0.
        lowest: ExprId,
        /// The duration of twilight.
        twilight: Hours,
    },
}

impl SunPath {
    /// The altitude at which a body rises and sets, in degrees: as almanacs define it or, by hours,
    /// 0.
    pub fn horizon(self) -> f64 {
        match self {
            SunPath::Earth { .. } => HORIZON,
            SunPath::Hours { .. } => 0.0,
        }
    }
}

/// The values of the sun or moon: the name in the language, and the value.
#[derive(Clone, Debug, PartialEq)]
pub struct Sky {
    /// In the order of the documentation.
    pub values: Vec<(&'static str, ExprId)>,
    path: SunPath,
    hour: ExprId,
}

impl Sky {
    /// The value with this name.
    pub fn value(&self, name: &str) -> Option<ExprId> {
        self.values.iter().find(|(known, _)| *known == name).map(|(_, id)| *id)
    }
}

/// The curves of sunlight and moonlight, created on first use.
#[derive(Clone, Debug, Default)]
pub(crate) struct Beams {
    /// Color and intensity by altitude.
    beam: Option<(Track, CurveId)>,
    /// The moon's intensity by its age.
    moon: Option<CurveId>,
}

/// Direct sunlight by altitude in degrees: linear color, and intensity relative to overhead.
/// Extinction by air (Rayleigh) and a little haze (0.05 at 1 um) at 610, 550 and 465 nm, and
/// intensity as 0.7^(m^0.678) after Meinel, for the air mass m of Kasten and Young (1989); fades
/// out as the disc sets.
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

/// The moon's intensity from new (0) to full (1), relative to the full moon: 10^(-0.4 (0.026 a +
/// 4e-9 a^4)) for the phase angle a, after Krisciunas and Schaefer (1991).
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

/// An hour at which the sun crosses an altitude.
#[derive(Clone, Debug)]
pub(crate) struct Crossing {
    /// The names of the sun and the altitude.
    name: String,
    /// Whether the sun is rising then, not setting.
    pub rises: bool,
    /// The start of the day, latitude, longitude and the sine of the altitude.
    of: [ExprId; 4],
}

/// The prefix of the titles of built-in curves, which have no line in the book.
const OWN: &str = "sky/";

/// The altitude of the sun's center when its upper edge is seen at the horizon, as almanacs define
/// it.
pub const HORIZON: f64 = -0.833;
/// The altitude of the sun at which civil twilight starts and ends.
pub const TWILIGHT: f64 = -6.0;

/// Days from noon of 1 January 2000 to the start of the day before 1 January of a year.
fn new_year(year: f64) -> f64 {
    let y = year - 1.0;
    let days = y * 365.0 + (y / 4.0).floor() - (y / 100.0).floor() + (y / 400.0).floor();
    days - 730_120.0 - 0.5
}

impl ProgramBuilder {
    /// The sun on its path. Each of its values is a signal named after it.
    pub fn define_sun(&mut self, name: &str, path: SunPath) -> Result<Sky, SemanticError> {
        let hour = self.clock(Dial::Hour)?;
        let mut values;
        let mut crossings = Vec::new();
        match path {
            SunPath::Earth { latitude, longitude, .. } => {
                let nothing = self.number(0.0, Kind::Number)?;
                values = self.by_earth(name, path, hour, nothing)?;
                let start = self.days(name, path, None)?;
                for (part, crossing, height) in [
                    ("rise", Pure::Rises, HORIZON),
                    ("set", Pure::Sets, HORIZON),
                    ("noon", Pure::Highest, 0.0),
                    ("dawn", Pure::Rises, TWILIGHT),
                    ("dusk", Pure::Sets, TWILIGHT),
                ] {
                    let sine = crate::kernel::sine_of_turns(height / 360.0);
                    let sine = self.number(sine, Kind::Number)?;
                    let all = [start, latitude, longitude, sine];
                    values.push((part, self.pure(crossing, &all, Kind::Hour)?));
                    if crossing != Pure::Highest {
                        let height = if height == HORIZON { "horizon" } else { "twilight" };
                        let name = format!("{name}.{height}");
                        crossings.push((
                            part,
                            Crossing { name, rises: crossing == Pure::Rises, of: all },
                        ));
                    }
                }
            }
            SunPath::Hours { rises, sets, highest, lowest, twilight } => {
                for end in [rises, sets] {
                    self.expect(end, Kind::Hour)?;
                }
                self.expect(highest, Kind::Angle)?;
                self.expect(lowest, Kind::Angle)?;
                if self.scalar(rises).is_some() && self.scalar(rises) == self.scalar(sets) {
                    return Err(SemanticError::EmptyHours);
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
        self.keep_body(name, path, &values);
        let sky = Sky { values, path, hour };
        for (part, crossing) in crossings {
            if let Some(at) = sky.value(part) {
                self.crossings.insert(at, crossing);
            }
        }
        Ok(sky)
    }

    /// Whether an hour is one at which the sun crosses an altitude.
    pub(super) fn crossing(&self, hour: ExprId) -> Option<Crossing> {
        self.crossings.get(&self.behind(hour)).cloned()
    }

    /// The crossing's own expression of an hour that is a signal's.
    fn behind(&self, hour: ExprId) -> ExprId {
        let Op::Signal(signal) = self.program().expr(hour).op else { return hour };
        let same = |known: &&ExprId| self.program().expr(**known).op == Op::Signal(signal);
        self.crossings.keys().find(same).copied().unwrap_or(hour)
    }

    /// Whether the sun stays below (-1) or above (1) the altitude of a crossing all day, as a
    /// signal.
    pub(super) fn stays(&mut self, crossing: &Crossing) -> Result<ExprId, SemanticError> {
        let known = self.stays.iter().find(|(name, _)| *name == crossing.name);
        if let Some((_, id)) = known {
            return Ok(*id);
        }
        let stays = self.pure(Pure::Stays, &crossing.of, Kind::Number)?;
        let stays = self.shared(&format!("{}.stays", crossing.name), stays)?;
        self.stays.push((crossing.name.clone(), stays));
        Ok(stays)
    }

    /// Records the sun or moon for drawings of the day.
    fn keep_body(&mut self, name: &str, path: SunPath, values: &[(&str, ExprId)]) {
        let value = |wanted: &str| values.iter().find(|(part, _)| *part == wanted).map(|(_, v)| *v);
        if let Some(height) = value("height") {
            let (name, lit, horizon) = (name.to_owned(), value("lit"), path.horizon());
            let body = Body { name, lit, height, horizon };
            self.program_mut().bodies.push(body);
        }
    }

    fn share_all(
        &mut self,
        name: &str,
        values: &mut [(&str, ExprId)],
    ) -> Result<(), SemanticError> {
        for (part, value) in values {
            if !matches!(self.program().expr(*value).op, Op::Signal(_)) {
                *value = self.shared(&format!("{name}.{part}"), *value)?;
            }
        }
        Ok(())
    }

    /// The moon of a sun, `age` days after new moon; opposite the sun if omitted. An age that
    /// depends on the day count advances continuously through each day. The moon follows the sun's
    /// path, with a delay that depends on its age. Its values are signals named after it.
    pub fn define_moon(
        &mut self,
        name: &str,
        sun: &Sky,
        age: Option<ExprId>,
    ) -> Result<Sky, SemanticError> {
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
        self.keep_body(name, sun.path, &values);
        Ok(Sky { values, path: sun.path, hour: sun.hour })
    }

    /// Whether a value depends on the clock's day count.
    fn counts_days(&self, root: ExprId) -> bool {
        let mut met = self.program().walk([root], Depth::Signals);
        met.any(|(_, expr)| expr.op == Op::Clock(Dial::Days))
    }

    /// Color and intensity of light from this altitude.
    fn beam(&mut self, height: ExprId) -> Result<(ExprId, ExprId), SemanticError> {
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
    ) -> Result<CurveId, SemanticError> {
        let stops = stops.iter().map(|(at, value)| Stop {
            at: Place(*at),
            value: *value,
            easing: Easing::Linear,
        });
        let curve = Curve::new(stops.collect()).map_err(SemanticError::Curve)?;
        let program = self.program_mut();
        let id = CurveId(program.curves.len() as u32);
        program.curves.push(NamedCurve {
            title: format!("{OWN}{name}"),
            name: name.to_owned(),
            kind: Kind::Number,
            domain: Domain::Ramp(domain),
            curve,
            led: false,
        });
        program.order.push(Subject::Curve(id));
        Ok(id)
    }

    /// Days since noon of January 1, 2000 in UT: at an hour of the clock, or at the start of its
    /// day, as a signal of the sun or moon.
    fn days(
        &mut self,
        name: &str,
        path: SunPath,
        hour: Option<ExprId>,
    ) -> Result<ExprId, SemanticError> {
        let SunPath::Earth { longitude, date, year, zone, .. } = path else {
            return self.number(0.0, Kind::Number);
        };
        // The place's own mean time is as far ahead as it lies to the east.
        let own = self.scalar(longitude).filter(|_| zone.is_none());
        let ahead = own.map_or(zone.unwrap_or(0.0) / 24.0, |longitude| longitude / 360.0);
        let start = self.number(new_year(year) - ahead, Kind::Number)?;
        // A day of the year is whole, whatever the game sets.
        let one = self.number(1.0, Kind::Number)?;
        let turned = Op::Looped(Turn::Loop, Start::Together, date, one);
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
    ) -> Result<Vec<(&'static str, ExprId)>, SemanticError> {
        let SunPath::Earth { latitude, longitude, date, year, zone } = path else {
            return Err(SemanticError::NotFinite);
        };
        self.expect(latitude, Kind::Angle)?;
        self.expect(longitude, Kind::Angle)?;
        self.expect(date, Kind::Number)?;
        for (id, what, most) in [(latitude, "a latitude", 90.0), (longitude, "a longitude", 180.0)]
        {
            if let Some(v) = self.scalar(id).filter(|v| v.abs() > most) {
                return Err(SemanticError::OutOfRange { what, lo: v, hi: v, least: -most, most });
            }
        }
        if let Some(v) = self.scalar(date).filter(|v| !(1.0..=366.0).contains(v)) {
            let what = "the day of the year";
            return Err(SemanticError::OutOfRange { what, lo: v, hi: v, least: 1.0, most: 366.0 });
        }
        if !(1950.0..=2050.0).contains(&year) || year.fract() != 0.0 {
            let what = "the year";
            return Err(SemanticError::OutOfRange {
                what,
                lo: year,
                hi: year,
                least: 1950.0,
                most: 2050.0,
            });
        }
        if let Some(v) = zone.filter(|v| !(-14.0..=14.0).contains(v)) {
            let what = "the zone";
            return Err(SemanticError::OutOfRange { what, lo: v, hi: v, least: -14.0, most: 14.0 });
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
        self.seen(height, azimuth, way, path.horizon())
    }

    /// Altitude and direction at an hour, on a path by hours.
    fn by_hours(
        &mut self,
        name: &str,
        path: SunPath,
        hour: ExprId,
    ) -> Result<Vec<(&'static str, ExprId)>, SemanticError> {
        let SunPath::Hours { rises, sets, highest, lowest, .. } = path else {
            return Err(SemanticError::NotFinite);
        };
        let by_day = self.hour_in(hour, [rises, sets])?;
        let day = self.pure(Pure::Through, &[hour, rises, sets], Kind::Number)?;
        let night = self.pure(Pure::Through, &[hour, sets, rises], Kind::Number)?;
        let (high, low) = (self.arch(day)?, self.arch(night)?);
        let (high, low) = (self.multiply(highest, high)?, self.multiply(lowest, low)?);
        let height = self.select(by_day, high, low)?;
        // From east over south to west by day, and back over north.
        let turn = self.select(by_day, day, night)?;
        let half_turn = self.number(180.0, Kind::Angle)?;
        let (east, west) = (self.number(90.0, Kind::Angle)?, self.number(270.0, Kind::Angle)?);
        let from = self.select(by_day, east, west)?;
        let turned = self.multiply(half_turn, turn)?;
        let along = self.add(from, turned)?;
        let full = self.number(360.0, Kind::Angle)?;
        let past = self.above(full, along)?;
        let back = self.subtract(along, full)?;
        let azimuth = self.select(past, along, back)?;
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
        self.seen(height, azimuth, way, path.horizon())
    }

    /// The values of a body at an altitude and azimuth: these, the direction of its light, and
    /// whether it is above the horizon.
    fn seen(
        &mut self,
        height: ExprId,
        azimuth: ExprId,
        way: ExprId,
        horizon: f64,
    ) -> Result<Vec<(&'static str, ExprId)>, SemanticError> {
        let aim = self.derived(Op::Negate(way), Kind::Point)?;
        let aim = self.stood_as_written(aim)?;
        let horizon = self.number(horizon, Kind::Angle)?;
        let up = self.above(height, horizon)?;
        Ok(vec![("height", height), ("azimuth", azimuth), ("aim", aim), ("up", up)])
    }

    /// Half a turn of a sine over 0 to 1.
    fn arch(&mut self, u: ExprId) -> Result<ExprId, SemanticError> {
        let half = self.number(0.5, Kind::Number)?;
        let turns = self.multiply(u, half)?;
        self.sine(turns, 0.25)
    }

    /// A sine of turns (`on` a quarter), or a cosine (half).
    fn sine(&mut self, turns: ExprId, on: f64) -> Result<ExprId, SemanticError> {
        let on = self.number(on, Kind::Number)?;
        let turns = self.add(turns, on)?;
        self.full_wave(turns)
    }

    /// The hour that is a number of hours before another.
    pub(super) fn hours_before(
        &mut self,
        hour: ExprId,
        lead: ExprId,
    ) -> Result<ExprId, SemanticError> {
        if self.scalar(lead) == Some(0.0) {
            return Ok(hour);
        }
        let earlier = self.derived(Op::Subtract(hour, lead), Kind::Hour)?;
        let day = self.number(24.0, Kind::Hour)?;
        self.round_the_clock(earlier, day)
    }

    fn halfway(&mut self, from: ExprId, to: ExprId) -> Result<ExprId, SemanticError> {
        let day = self.number(24.0, Kind::Hour)?;
        let span = self.derived(Op::Subtract(to, from), Kind::Hour)?;
        let span = self.round_the_clock(span, day)?;
        let half = self.number(0.5, Kind::Number)?;
        let half = self.multiply_hours(half, span)?;
        let middle = self.derived(Op::Add(from, half), Kind::Hour)?;
        self.round_the_clock(middle, day)
    }

    fn multiply_hours(&mut self, factor: ExprId, hours: ExprId) -> Result<ExprId, SemanticError> {
        self.derived(Op::Multiply(hours, factor), Kind::Hour)
    }
}
