//! Sequences: scripted scenes that events start. A sequence overrides channels of lights and
//! releases them; its state is when it started and when it was stopped.

use super::event::BEFORE_ALL;
use super::{ProgramBuilder, Track};
use crate::curve::Easing;
use crate::interval::Interval;
use crate::kernel::LAST_MOMENT;
use crate::kind::Kind;
use crate::program::{Constant, CurveId, Domain, EventId, EventSource, ExprId, NEVER};
use crate::quantity::{Place, Seconds};
use crate::semantic_error::SemanticError;

/// Maximum number of sequences that drive one channel of a light.
pub const MOST_LAYERS: usize = 3;

/// Policy of a sequence that is started while it plays.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Again {
    /// The start is ignored.
    #[default]
    Ignore,
    /// The sequence restarts from the current levels.
    Restart,
}

/// The start, end and stop of a sequence.
#[derive(Clone, Debug, PartialEq)]
pub struct Timeline {
    /// The events that start it.
    pub at: Vec<EventId>,
    /// The policy if it is started while it plays.
    pub again: Again,
    /// Its end, in seconds since its start.
    pub end: Seconds,
    /// Whether it keeps a channel permanently.
    pub keeps: bool,
    /// The times at which a value is reached, since its start.
    pub moments: Vec<Seconds>,
    /// The events that stop it, and how long it takes to release all channels.
    pub stops: Option<(Vec<EventId>, Seconds, Easing)>,
}

/// A sequence.
#[derive(Clone, Debug, PartialEq)]
pub struct Sequence {
    name: String,
    /// Time of its last start.
    started: ExprId,
    /// Time of its last stop, and the duration of the release.
    stopped: Option<(ExprId, Seconds, Easing)>,
    /// Its position and weight when it restarted.
    left: Option<(ExprId, Option<ExprId>)>,
    /// Its position in seconds; negative before its first start.
    at: ExprId,
    /// The weight that remains since it was stopped.
    holds: Option<ExprId>,
}

/// A step: a value that a sequence moves a channel to.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SequenceStop {
    /// When it is reached, since the start of the sequence.
    pub at: Seconds,
    /// The value.
    pub value: ExprId,
    /// The easing of the move.
    pub easing: Easing,
}

/// A curve's name, its stops and the curve itself.
pub(super) type NamedStops = (String, Vec<(Place, Constant, Easing)>, Track);

/// The weight of a layer.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Weight {
    /// By the position of the sequence; `None` is full weight.
    curve: Option<CurveId>,
    /// Whether the weight is full immediately at the start of the sequence.
    at_once: bool,
}

/// A sequence's override of a channel: see [`ProgramBuilder::define_layer`].
#[derive(Clone, Debug, PartialEq)]
pub struct Layer {
    stops: Vec<SequenceStop>,
    weight: Weight,
    /// The curve of the steps, if all of them are constant.
    curve: Option<Track>,
}

impl ProgramBuilder {
    /// Defines a sequence.
    pub fn define_sequence(
        &mut self,
        name: &str,
        scene: &Timeline,
    ) -> Result<Sequence, SemanticError> {
        let (started, start) = self.keep_moment((format!("{name}.started"), "s, when it started"));
        let stop = scene.stops.as_ref().map(|(_, over, easing)| {
            // Before the moment that stands for never having been started.
            let kept = self.keep(
                (format!("{name}.stopped"), "s, when it stopped"),
                Kind::Time,
                Constant::Scalar(-1.25 * NEVER),
                Interval { lo: -1.25 * NEVER, hi: LAST_MOMENT },
            );
            (kept, *over, *easing)
        });
        let left = (scene.again == Again::Restart || scene.keeps).then(|| {
            let left = self.keep(
                (format!("{name}.left"), "s, its position when it restarted"),
                Kind::Time,
                Constant::Scalar(0.0),
                Interval { lo: -1.0, hi: 2.0 * NEVER },
            );
            let held = stop.is_some().then(|| {
                self.keep(
                    (format!("{name}.held"), "how much it held at that time"),
                    Kind::Number,
                    Constant::Scalar(1.0),
                    Interval { lo: 0.0, hi: 1.0 },
                )
            });
            (left, held)
        });
        let mut sequence = Sequence {
            name: name.to_owned(),
            started: start,
            stopped: stop.map(|((_, value), over, easing)| (value, over, easing)),
            left: left.map(|((_, left), held)| (left, held.map(|(_, held)| held))),
            at: start,
            holds: None,
        };
        sequence.at = self.how_far(&sequence, scene)?;
        if let Some((stopped, over, easing)) = sequence.stopped {
            let is_stopped = self.is_stopped(&sequence, stopped)?;
            let one = self.number(1.0, Kind::Number)?;
            let faded = self.faded(one, 0.0, stopped, over, easing)?;
            let holds = self.select(is_stopped, faded, one)?;
            sequence.holds = Some(self.shared(&format!("{name}.holds"), holds)?);
        }
        self.program.scenes.push(crate::program::Scene {
            name: name.to_owned(),
            at: sequence.at,
            end: (!scene.keeps).then_some(scene.end),
            holds: sequence.holds,
            drifts: Vec::new(),
        });
        let now = self.now();
        let begun = self.begun(start)?;
        let end = self.number(scene.end.0, Kind::Time)?;
        let end = self.add(start, end)?;
        let mut plays = self.above(end, now)?;
        if let Some((stopped, over, _)) = sequence.stopped {
            let over = self.number(over.0, Kind::Time)?;
            let over = self.add(stopped, over)?;
            let fades = self.above(over, now)?;
            let is_stopped = self.is_stopped(&sequence, stopped)?;
            plays = self.select(is_stopped, fades, plays)?;
        }
        let plays = self.and(begun, plays)?;
        let idle = self.not(plays)?;
        let mut sets = vec![(started, now)];
        if let Some(((left, _), held)) = left {
            sets.push((left, sequence.at));
            sets.extend(held.zip(sequence.holds).map(|((held, _), holds)| (held, holds)));
        }
        let when = (scene.again == Again::Ignore).then_some(idle);
        for event in &scene.at {
            self.write_at(*event, when, sets.clone())?;
        }
        if let (Some((events, ..)), Some(((stopped, value), ..))) = (&scene.stops, stop) {
            let is_stopped = self.is_stopped(&sequence, value)?;
            let goes_on = self.not(is_stopped)?;
            let when = if scene.keeps { begun } else { plays };
            let when = self.and(when, goes_on)?;
            for event in events {
                self.write_at(*event, Some(when), vec![(stopped, now)])?;
            }
        }
        Ok(sequence)
    }

    fn begun(&mut self, start: ExprId) -> Result<ExprId, SemanticError> {
        let before_all = self.number(BEFORE_ALL, Kind::Time)?;
        self.above(start, before_all)
    }

    /// Whether a sequence was stopped since it started.
    fn is_stopped(
        &mut self,
        sequence: &Sequence,
        stopped: ExprId,
    ) -> Result<ExprId, SemanticError> {
        let before = self.above(sequence.started, stopped)?;
        self.not(before)
    }

    /// Defines an event that occurs at a time of a sequence.
    pub fn define_mark(
        &mut self,
        name: &str,
        sequence: &Sequence,
        at: Seconds,
    ) -> Result<EventId, SemanticError> {
        let source = if at.0 == 0.0 { EventSource::When } else { EventSource::After };
        let (id, last) = self.new_event(name, source)?;
        let time = self.number(at.0, Kind::Time)?;
        let due = self.add(sequence.started, time)?;
        let begun = self.begun(sequence.started)?;
        let ahead = self.above(due, last)?;
        let mut waits = self.and(begun, ahead)?;
        if let Some((stopped, ..)) = sequence.stopped {
            let is_stopped = self.is_stopped(sequence, stopped)?;
            let goes_on = self.not(is_stopped)?;
            waits = self.and(waits, goes_on)?;
        }
        let never = self.number(NEVER, Kind::Time)?;
        let due = self.select(waits, due, never)?;
        self.program.events[id.index()].due = Some(due);
        Ok(id)
    }

    /// The position of a sequence. At the exact time of a step, that step's position is reached
    /// regardless of rounding, because times are compared, not durations.
    fn how_far(&mut self, sequence: &Sequence, scene: &Timeline) -> Result<ExprId, SemanticError> {
        let (now, started) = (self.now(), sequence.started);
        let mut moment = now;
        if let Some((stopped, ..)) = sequence.stopped {
            let is_stopped = self.is_stopped(sequence, stopped)?;
            let frozen = self.min(now, stopped)?;
            moment = self.select(is_stopped, frozen, now)?;
        }
        let none = self.number(0.0, Kind::Time)?;
        let passed = self.subtract(moment, started)?;
        let mut reached: Option<ExprId> = None;
        let moments: Vec<f64> =
            scene.moments.iter().map(|at| at.0).filter(|at| *at > 0.0).collect();
        for (n, at) in moments.iter().enumerate().rev() {
            let time = self.number(*at, Kind::Time)?;
            let due = self.add(started, time)?;
            let ahead = self.above(due, moment)?;
            let before = match n.checked_sub(1) {
                Some(n) => self.number(moments[n], Kind::Time)?,
                None => none,
            };
            reached = Some(self.select(ahead, before, reached.unwrap_or(time))?);
        }
        let far = self.max(passed, reached.unwrap_or(none))?;
        let begun = self.begun(started)?;
        let never = self.number(-1.0, Kind::Time)?;
        let far = self.select(begun, far, never)?;
        self.shared(&format!("{}.at", sequence.name), far)
    }

    /// Whether one of several sequences started last; of those that started at the same time, the
    /// last in the book wins.
    pub fn started_last(&mut self, of: &[&Sequence], n: usize) -> Result<ExprId, SemanticError> {
        let mut last = self.constant(Constant::OnOff(true), Kind::OnOff);
        for (m, other) in of.iter().enumerate().filter(|(m, _)| *m != n) {
            let above = if m < n {
                let below = self.above(other.started, of[n].started)?;
                self.not(below)?
            } else {
                self.above(of[n].started, other.started)?
            };
            last = self.and(last, above)?;
        }
        Ok(last)
    }

    /// The value of a channel with a sequence over it.
    pub fn over(
        &mut self,
        sequence: &Sequence,
        layer: &Layer,
        base: ExprId,
    ) -> Result<ExprId, SemanticError> {
        let first = layer.stops.first().ok_or(SemanticError::NotFinite)?.at;
        let mut under = base;
        if let Some((left, held)) = sequence.left.filter(|_| first.0 > 0.0) {
            // Begun again, it comes from where it was.
            let mut before = self.led(layer, base, left, held)?;
            if let Some(holds) = sequence.holds.filter(|_| self.kind(base) != Kind::OnOff) {
                before = self.lerp(base, before, holds, false)?;
            }
            let none = self.number(0.0, Kind::Time)?;
            let first = self.number(first.0, Kind::Time)?;
            let (anew, early) = (self.above(left, none)?, self.above(first, sequence.at)?);
            let anew = self.and(anew, early)?;
            under = self.select(anew, before, base)?;
        }
        self.led(layer, under, sequence.at, sequence.holds)
    }

    /// The value of a layer at a position of its sequence.
    fn led(
        &mut self,
        layer: &Layer,
        base: ExprId,
        at: ExprId,
        holds: Option<ExprId>,
    ) -> Result<ExprId, SemanticError> {
        let (one, nothing) = (self.number(1.0, Kind::Number)?, self.number(0.0, Kind::Number)?);
        let mut weight = match layer.weight.curve {
            Some(curve) => self.curve_at(curve, at),
            None => one,
        };
        if layer.weight.at_once {
            let none = self.number(0.0, Kind::Time)?;
            let before = self.above(none, at)?;
            weight = self.select(before, nothing, weight)?;
        }
        if let Some(holds) = holds {
            weight = self.multiply(weight, holds)?;
        }
        let value = match &layer.curve {
            Some(track) => self.track_at(track, at)?,
            None => self.through_stops(layer, at)?,
        };
        if self.kind(base) == Kind::OnOff {
            let half = self.number(0.5, Kind::Number)?;
            let led = self.above(weight, half)?;
            return self.select(led, value, base);
        }
        self.lerp(base, value, weight, false)
    }

    /// The value of steps that are not constant.
    fn through_stops(&mut self, layer: &Layer, at: ExprId) -> Result<ExprId, SemanticError> {
        let mut value = layer.stops.last().ok_or(SemanticError::NotFinite)?.value;
        for pair in layer.stops.windows(2).rev() {
            let [before, stop] = [pair[0], pair[1]];
            let end = self.number(stop.at.0, Kind::Time)?;
            let ahead = self.above(end, at)?;
            let hard = stop.easing == Easing::Jump || self.kind(value) == Kind::OnOff;
            let reaches = if hard || before.value == stop.value {
                before.value
            } else {
                let begins = self.number(before.at.0, Kind::Time)?;
                let passed = self.subtract(at, begins)?;
                let lasts = self.number(stop.at.0 - before.at.0, Kind::Time)?;
                let u = self.divide(passed, lasts)?;
                let u = self.eased(u, stop.easing)?;
                self.lerp(before.value, stop.value, u, false)?
            };
            value = self.select(ahead, reaches, value)?;
        }
        Ok(value)
    }

    /// Defines a sequence's override of a channel, with this name: at least one step, in order of
    /// time, and the time, duration and easing of the release. Without a release it keeps the
    /// channel permanently.
    pub fn define_layer(
        &mut self,
        sequence: &Sequence,
        channel: &str,
        stops: Vec<SequenceStop>,
        returns: Option<(Seconds, Seconds, Easing)>,
    ) -> Result<Layer, SemanticError> {
        let first = *stops.first().ok_or(SemanticError::NotFinite)?;
        let kind = self.kind(first.value);
        for stop in &stops {
            self.expect(stop.value, kind)?;
        }
        let known: Option<Vec<(Place, Constant, Easing)>> = stops
            .iter()
            .map(|stop| {
                let value = self.program.constant(stop.value)?;
                Some((Place(stop.at.0), value, stop.easing))
            })
            .collect();
        let curve = match known {
            Some(known) if known.len() > 1 && kind != Kind::Hour => {
                let name = format!("{}_{}", sequence.name, channel.replace('.', "_"));
                Some(self.curve_of_stops(&name, kind, &known)?)
            }
            _ => None,
        };
        // How far on it is from what lies beneath to its own, and back, never leaves the two.
        let own = stops[1..].iter().filter(|_| curve.is_none()).map(|stop| stop.easing);
        let back = returns.map(|(.., easing)| easing);
        let to = Some(first.easing).filter(|_| first.at.0 > 0.0);
        let clipped: Vec<Easing> = own.chain(to).chain(back).collect();
        self.note_clip(&sequence.name, clipped);
        if first.at.0 > 0.0 && first.easing != Easing::Jump && kind != Kind::OnOff {
            let scene = self.program.scenes.iter_mut().find(|scene| scene.name == sequence.name);
            if let Some(scene) = scene
                && !scene.drifts.iter().any(|(known, _)| known == channel)
            {
                scene.drifts.push((channel.to_owned(), first.at));
            }
        }
        let level = |v: f64| Constant::Scalar(v);
        let mut places = Vec::with_capacity(4);
        if first.at.0 > 0.0 {
            places.push((Place(0.0), level(0.0), Easing::Linear));
        }
        let at_once = first.at.0 == 0.0;
        let easing = if at_once { Easing::Linear } else { first.easing };
        places.push((Place(first.at.0), level(1.0), easing));
        if let Some((at, over, easing)) = returns {
            if over.0 == 0.0 {
                places.push((Place(at.0), level(0.0), Easing::Jump));
            } else {
                if at.0 > first.at.0 {
                    places.push((Place(at.0), level(1.0), Easing::Linear));
                }
                places.push((Place(at.0 + over.0), level(0.0), easing));
            }
        }
        let curve_of_weight = match places.len() {
            1 => None,
            _ => {
                let name = format!("{}_weight", sequence.name);
                Some(self.weight_curve(&name, &places)?)
            }
        };
        let weight = Weight { curve: curve_of_weight, at_once };
        Ok(Layer { stops, weight, curve })
    }

    /// A curve of weights, shared by identical channels.
    fn weight_curve(
        &mut self,
        name: &str,
        places: &[(Place, Constant, Easing)],
    ) -> Result<CurveId, SemanticError> {
        Ok(self.curve_of_stops(name, Kind::Number, places)?.curves[0])
    }

    /// A curve with this name and these stops, created once.
    fn curve_of_stops(
        &mut self,
        name: &str,
        kind: Kind,
        places: &[(Place, Constant, Easing)],
    ) -> Result<Track, SemanticError> {
        let known = self
            .layer_curves
            .iter()
            .find(|(known, stops, track)| known == name && track.kind == kind && stops == places);
        if let Some((.., track)) = known {
            return Ok(track.clone());
        }
        let track = self.define_curve(name, Domain::Time, kind, false, places)?;
        for curve in &track.curves {
            self.program.curves[curve.index()].led = true;
        }
        self.layer_curves.push((name.to_owned(), places.to_vec(), track.clone()));
        Ok(track)
    }
}
