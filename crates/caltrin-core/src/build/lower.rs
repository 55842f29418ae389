//! From trees of values to the builder.

use std::rc::Rc;

use crate::program::{Constant, ExprId, Turn};
use crate::program_builder::{Owner, ProgramBuilder, Track};
use crate::semantic_error::SemanticError;
use rustc_hash::FxHashMap;

use super::{AnyKind, Function, Node, Play, Tree};

/// A value that stands where one could not be made.
pub(super) fn nothing(kind: AnyKind) -> Constant {
    match kind {
        AnyKind::Color | AnyKind::Point => Constant::Vector([1.0; 3]),
        AnyKind::OnOff => Constant::OnOff(false),
        AnyKind::Number
        | AnyKind::Hour
        | AnyKind::Time
        | AnyKind::Rate
        | AnyKind::Angle
        | AnyKind::Length
        | AnyKind::Strength(_) => Constant::Scalar(0.0),
    }
}

/// Lowers the values of one property; `known` keeps what the same owner made before.
pub(super) fn lower_all(
    builder: &mut ProgramBuilder,
    owner: &mut Owner,
    property: &str,
    values: &[Node],
    known: &mut FxHashMap<*const Tree, ExprId>,
) -> Result<Vec<ExprId>, SemanticError> {
    owner.property(property);
    let mut lowering = Lowering::new(builder, owner);
    lowering.property = property;
    lowering.known = std::mem::take(known);
    let made = values.iter().map(|value| lowering.lower(value)).collect();
    *known = std::mem::take(&mut lowering.known);
    made
}

pub(super) fn lower_input(
    builder: &mut ProgramBuilder,
    owner: &Owner,
    name: &str,
    default: Constant,
    kind: AnyKind,
    bounds: Option<[f64; 2]>,
) -> Result<ExprId, SemanticError> {
    let finite = |v: &f64| v.is_finite();
    let numbers = match default {
        Constant::Scalar(v) => vec![v],
        Constant::Vector(v) => v.to_vec(),
        Constant::OnOff(_) => Vec::new(),
    };
    if !numbers.iter().chain(bounds.iter().flatten()).all(finite) {
        return Err(SemanticError::NotFinite);
    }
    let ends = bounds.map(|ends| ends.map(|v| builder.constant(Constant::Scalar(v), kind)));
    let default = builder.constant(default, kind);
    builder.define_input(owner, name, default, ends).map(|(_, value)| value)
}

/// Turns trees into expressions of a builder; one tree becomes one expression, however often used.
pub(super) struct Lowering<'a> {
    pub(super) builder: &'a mut ProgramBuilder,
    pub(super) owner: &'a mut Owner,
    pub(super) property: &'a str,
    pub(super) parameters: Vec<ExprId>,
    pub(super) known: FxHashMap<*const Tree, ExprId>,
    /// What lies beneath a sequence.
    pub(super) base: Option<ExprId>,
}

impl<'a> Lowering<'a> {
    pub(super) fn new(builder: &'a mut ProgramBuilder, owner: &'a mut Owner) -> Self {
        let (parameters, known) = (Vec::new(), FxHashMap::default());
        Lowering { builder, owner, property: "", parameters, known, base: None }
    }

    pub(super) fn lower(&mut self, node: &Node) -> Result<ExprId, SemanticError> {
        if let Some(known) = self.known.get(&Rc::as_ptr(node)) {
            return Ok(*known);
        }
        let id = self.make(node)?;
        self.known.insert(Rc::as_ptr(node), id);
        Ok(id)
    }

    pub(super) fn two(
        &mut self,
        a: &Node,
        b: &Node,
        make: fn(&mut ProgramBuilder, ExprId, ExprId) -> Result<ExprId, SemanticError>,
    ) -> Result<ExprId, SemanticError> {
        let (a, b) = (self.lower(a)?, self.lower(b)?);
        make(self.builder, a, b)
    }

    pub(super) fn make(&mut self, node: &Node) -> Result<ExprId, SemanticError> {
        match &**node {
            Tree::Constant(Constant::Scalar(v), kind) => self.builder.number(*v, *kind),
            Tree::Constant(constant, kind) => Ok(self.builder.constant(*constant, *kind)),
            Tree::Index => self.builder.index(self.owner),
            Tree::Parameter(n) => Ok(self.parameters[*n]),
            Tree::Signal(id) => Ok(self.builder.signal(*id)),
            Tree::Negate(a) => {
                let a = self.lower(a)?;
                self.builder.negate(a)
            }
            Tree::Not(a) => {
                let a = self.lower(a)?;
                self.builder.not(a)
            }
            Tree::Pure(function, values) => {
                let mut all = Vec::with_capacity(values.len());
                for value in values {
                    all.push(self.lower(value)?);
                }
                self.builder.function(*function, &all)
            }
            Tree::Add(a, b) => self.two(a, b, ProgramBuilder::add),
            Tree::Subtract(a, b) => self.two(a, b, ProgramBuilder::subtract),
            Tree::Multiply(a, b) => self.two(a, b, ProgramBuilder::multiply),
            Tree::Divide(a, b) => self.two(a, b, ProgramBuilder::divide),
            Tree::Min(a, b) => self.two(a, b, ProgramBuilder::min),
            Tree::Max(a, b) => self.two(a, b, ProgramBuilder::max),
            Tree::Above(a, b) => self.two(a, b, ProgramBuilder::above),
            Tree::And(a, b) => self.two(a, b, ProgramBuilder::and),
            Tree::Or(a, b) => self.two(a, b, ProgramBuilder::or),
            Tree::Clamp(v, lo, hi) => {
                let (v, lo, hi) = (self.lower(v)?, self.lower(lo)?, self.lower(hi)?);
                self.builder.clamp(v, lo, hi)
            }
            Tree::Lerp(a, b, s) => {
                let (a, b, s) = (self.lower(a)?, self.lower(b)?, self.lower(s)?);
                self.builder.lerp(a, b, s, false)
            }
            Tree::Select(c, a, b) => {
                let (c, a, b) = (self.lower(c)?, self.lower(a)?, self.lower(b)?);
                self.builder.select(c, a, b)
            }
            Tree::Function(function, operands) => self.function(*function, operands),
            Tree::Pulse(at, lasts) => super::event::lower_pulse(self.builder, *at, *lasts),
            Tree::Heard(sound, name, asked) => {
                super::sound::lower_heard(self.builder, self.owner, (*sound, name), *asked)
            }
            Tree::Given(_, value) => Ok(*value),
            Tree::Base => self.base.ok_or(SemanticError::NoBase),
            Tree::Follow(value, times) => {
                let place = self.builder.use_of(self.owner, "follow");
                let value = self.lower(value)?;
                let times = [self.lower(&times[0])?, self.lower(&times[1])?];
                self.builder.followed(self.owner, &place, value, times)
            }
            Tree::ChangeRate(value, by) => {
                let place = self.builder.use_of(self.owner, "pace");
                let (value, by) = (self.lower(value)?, self.lower(by)?);
                self.builder.paced(self.owner, &place, value, by)
            }
            Tree::Near(points, lengths, easing) => {
                let points = [self.lower(&points[0])?, self.lower(&points[1])?];
                let lengths = [self.lower(&lengths[0])?, self.lower(&lengths[1])?];
                self.builder.near(points, lengths, *easing)
            }
            Tree::Since(value, event) => {
                let value = self.lower(value)?;
                let moment = self.builder.program().event(*event).last_value;
                self.builder.since(value, moment)
            }
            Tree::PlayedAt(track, at, again, before) => {
                let before = match before {
                    Some(before) => Some(self.lower(before)?),
                    None => None,
                };
                match at {
                    Some(at) => {
                        let title = self.builder.title_of(self.owner, "play");
                        self.builder.played(&title, track, (*at, *again), before)
                    }
                    None => Ok(self.builder.constant(nothing(track.kind), track.kind)),
                }
            }
            Tree::Played(track, play) => self.played(track, *play),
            Tree::Rhythm(times, start) => {
                let place = self.builder.use_of(self.owner, "rhythm");
                let (levels, length) = self.builder.rhythm(self.property, times)?;
                let none = None;
                let at =
                    self.builder.turning(self.owner, &place, length, none, Turn::Loop, *start)?;
                self.builder.track_at(&levels, at)
            }
            Tree::Ramp(track, place) => {
                let place = self.lower(place)?;
                self.builder.track_at(track, place)
            }
            Tree::HourIn(hour, from, to) => {
                let (hour, from, to) = (self.lower(hour)?, self.lower(from)?, self.lower(to)?);
                self.builder.hour_in(hour, [from, to])
            }
            Tree::Pick(of, values) => {
                let values: Result<Vec<ExprId>, SemanticError> =
                    values.iter().map(|value| self.lower(value)).collect();
                self.builder.pick(of, &values?)
            }
            Tree::Made(id) => Ok(*id),
            Tree::Input(name, default, kind, bounds) => {
                lower_input(self.builder, self.owner, name, *default, *kind, *bounds)
            }
            Tree::Call(behavior, name, arguments) => {
                let place = self.builder.use_of(self.owner, name);
                let mut lowered = Vec::new();
                for argument in arguments {
                    lowered.push(argument.as_ref().map(|a| self.lower(a)).transpose()?);
                }
                self.builder.call(self.owner, &place, *behavior, &lowered)
            }
            Tree::Named(name, value) => {
                self.owner.property(name);
                let value = self.lower(value);
                self.owner.property(self.property);
                let value = value?;
                self.builder.name_local(value, name);
                Ok(value)
            }
        }
    }

    pub(super) fn played(&mut self, track: &Track, play: Play) -> Result<ExprId, SemanticError> {
        let at = match play {
            Play::Once => self.builder.now(),
            Play::Turning(turn, start, part) => {
                let name = match turn {
                    Turn::Loop => "loop",
                    Turn::Alternate => "alternate",
                };
                let place = self.builder.use_of(self.owner, name);
                let length = self.builder.program().curve(track.curves[0]).curve.length();
                let part = match part {
                    Some([from, to]) => Some([
                        self.builder.number(from, AnyKind::Time)?,
                        self.builder.number(to, AnyKind::Time)?,
                    ]),
                    None => None,
                };
                self.builder.turning(self.owner, &place, length, part, turn, start)?
            }
        };
        self.builder.track_at(track, at)
    }

    pub(super) fn function(
        &mut self,
        function: Function,
        operands: &[Node],
    ) -> Result<ExprId, SemanticError> {
        let place = self.builder.use_of(self.owner, function.callee().unwrap_or_default());
        let mut all = Vec::with_capacity(operands.len());
        for operand in operands {
            all.push(self.lower(operand)?);
        }
        let (builder, owner) = (&mut *self.builder, &mut *self.owner);
        match (function, &all[..]) {
            (Function::SampleAndHold, &[lo, hi, a, b]) => {
                let level = builder.held(owner, &place, [a, b], None)?;
                builder.rising(lo, hi)?;
                builder.lerp(lo, hi, level, false)
            }
            (Function::SmoothHold, &[lo, hi, a, b, over]) => {
                let level = builder.held(owner, &place, [a, b], Some(over))?;
                builder.rising(lo, hi)?;
                builder.lerp(lo, hi, level, false)
            }
            (Function::Drift(octaves), &[lo, hi, rate]) => {
                let level = builder.drift(owner, &place, rate, f64::from(octaves))?;
                builder.rising(lo, hi)?;
                builder.lerp(lo, hi, level, false)
            }
            (Function::Wander(octaves), &[radius, rate]) => {
                builder.wander(owner, &place, radius, rate, f64::from(octaves))
            }
            (Function::Bursts, &[a, b, c, d]) => builder.bursts(owner, &place, [a, b], [c, d]),
            (Function::Drawn, &[lo, hi]) => {
                let level = builder.drawn(owner, &place)?;
                builder.rising(lo, hi)?;
                builder.lerp(lo, hi, level, false)
            }
            (Function::OneOf, list) => {
                let level = builder.drawn(owner, &place)?;
                builder.one_of(level, list)
            }
            (Function::OneOfEvery, [a, b, list @ ..]) => {
                let level = builder.held(owner, &place, [*a, *b], None)?;
                builder.one_of(level, list)
            }
            (Function::Wave(wave, start), &[lo, hi, every, phase]) => {
                let turns = builder.turns(owner, &place, every, Some(phase), start)?;
                let level = builder.wave(wave, turns)?;
                builder.lerp(lo, hi, level, false)
            }
            (Function::Square(start), &[lo, hi, every, phase, on]) => {
                let turns = builder.turns(owner, &place, every, Some(phase), start)?;
                let level = builder.square(turns, on)?;
                builder.lerp(lo, hi, level, false)
            }
            (Function::LaterEach, &[value, each]) => builder.later_each(owner, value, each),
            (Function::Later, &[value, by]) => builder.later(value, by),
            (Function::Stretch, &[value, by]) => builder.stretched(value, by),
            (Function::Stepped, &[value, every]) => builder.stepped(value, every),
            (Function::Map(easing), &[v, a, b, c, d]) => builder.map(v, [a, b], [c, d], easing),
            (Function::Threshold, &[v, at, over]) => builder.threshold(v, at, over),
            (Function::MixLinear, &[a, b, by]) => builder.lerp(a, b, by, true),
            (Function::Hue, &[color, by]) => builder.turn_hue(color, by),
            (Function::Scaled, &[color, by]) => builder.scaled(color, by),
            (Function::Kelvin, &[kelvins]) => builder.kelvin(kelvins),
            (Function::Except(n), &[odd, default]) => {
                let odd_one = builder.is_index(owner, n)?;
                builder.select(odd_one, odd, default)
            }
            // Each function is made above with as many operands as it takes.
            (function, operands) => {
                unreachable!("{function:?} with {} operands", operands.len())
            }
        }
    }
}
