//! Definitions of curves, inputs, choices, signals, behaviors, lights and outputs.

use crate::curve::{Curve, CurveFault, Easing, Stop};
use crate::interval::Interval;
use crate::kernel;
use crate::kind::{ChangeRate, InstanceLevel, Kind};
use crate::program::{
    Behavior, BehaviorId, Channel, Choice, ChoiceId, Constant, CurveId, Depth, Domain, Drive,
    ExprId, Field, Input, InputId, Light, LightId, LightKind, NamedCurve, Op, Parameter, Reference,
    Signal, SignalId, Size, Subject,
};
use crate::quantity::{Place, Seconds};
use crate::semantic_error::SemanticError;

use crate::program::MOST_TAGS;

use super::day::Alternatives;
use super::{Array, DEEPEST, MOST_PARAMETERS, MOST_SLOTS, Owner, ProgramBuilder, Track, Use};

impl ProgramBuilder {
    /// Defines an input of the owner and returns its value: one for the book, each instance or each
    /// lamp. Ordered kinds have a range that the game's values are clamped to; colors are clamped
    /// to 0..1, points to a thousand kilometers.
    pub fn define_input(
        &mut self,
        owner: &Owner,
        name: &str,
        default: ExprId,
        range: Option<[ExprId; 2]>,
    ) -> Result<(InputId, ExprId), SemanticError> {
        let kind = self.kind(default);
        let known =
            |builder: &Self, id| builder.program.constant(id).ok_or(SemanticError::InputMoves);
        let mut default = known(self, default)?;
        let mut bounds = match range {
            Some(_) if !kind.is_scalar() => return Err(SemanticError::InputRange(kind)),
            Some(ends) => {
                for end in ends {
                    self.expect(end, kind)?;
                    known(self, end)?;
                }
                let [lo, hi] = ends.map(|end| self.scalar(end).unwrap_or_default());
                if lo > hi {
                    return Err(SemanticError::FallingRange { lo, hi });
                }
                Interval { lo, hi }
            }
            None => match kind {
                Kind::Color | Kind::OnOff => Interval { lo: 0.0, hi: 1.0 },
                Kind::Point => Interval { lo: -1e6, hi: 1e6 },
                _ => return Err(SemanticError::InputWithoutRange(name.to_owned())),
            },
        };
        let (inside, lo, hi) = (|v: &f64| bounds.lo <= *v && *v <= bounds.hi, bounds.lo, bounds.hi);
        let fits = match &default {
            Constant::Scalar(v) => inside(v),
            Constant::Vector(v) => v.iter().all(inside),
            Constant::OnOff(_) => true,
        };
        if !fits {
            return Err(SemanticError::InputOutside { lo, hi, unit: kind.unit() });
        }
        // The game says lengths, places and strengths in its own units and axes.
        let unit = self.program.space.unit_of(kind);
        let stands = kind == Kind::Point && self.program.space.up != self.written_up;
        bounds = Interval { lo: lo / unit, hi: hi / unit };
        default = match default {
            Constant::Scalar(v) => Constant::Scalar(v / unit),
            Constant::Vector(v) if stands => {
                Constant::Vector(self.program.space.up.stand(v.map(|v| v / unit)))
            }
            Constant::Vector(v) => Constant::Vector(v.map(|v| v / unit)),
            Constant::OnOff(on) => Constant::OnOff(on),
        };
        let (size, levels) = owner.array.laid_out()?;
        if size == Size::Open {
            return Err(SemanticError::OpenInput);
        }
        let scope = if size == Size::One { InstanceLevel::Book } else { owner.scope };
        let slots = kind.width() as u64 * u64::from(size.shown());
        self.input_slots += slots;
        if self.input_slots > MOST_SLOTS {
            return Err(SemanticError::TooManyInputs(MOST_SLOTS));
        }
        let name = format!("{}{name}", owner.within);
        if !self.names.insert(name.clone()) {
            return Err(SemanticError::NameTaken(name));
        }
        let id = InputId(self.program.inputs.len() as u32);
        let input = Input { name, kind, default, bounds, size, levels, scope, kept: None };
        self.program.inputs.push(input);
        self.program.order.push(Subject::Input(id));
        let value = self.push(Op::Input(id), kind, ChangeRate::Stepwise, scope, false);
        Ok((id, self.as_written(value)?))
    }

    /// Converts a value from the game's units and axes to those of the book.
    pub(super) fn as_written(&mut self, value: ExprId) -> Result<ExprId, SemanticError> {
        let kind = self.kind(value);
        let unit = self.program.space.unit_of(kind);
        let stands = kind == Kind::Point && self.program.space.up != self.written_up;
        let value = match stands {
            true => self.derived(Op::ChangeUp(value, self.written_up), kind)?,
            false => value,
        };
        if unit == 1.0 {
            return Ok(value);
        }
        let unit = self.number(unit, Kind::Number)?;
        self.multiply(value, unit)
    }

    /// Defines a choice: the game selects one of its options, initially the first. The transition
    /// to another takes a time or is immediate.
    pub fn define_choice(
        &mut self,
        name: &str,
        options: &[String],
        over: Seconds,
    ) -> Result<(ChoiceId, Alternatives), SemanticError> {
        if !(2..=crate::program::MOST_OPTIONS).contains(&options.len()) {
            return Err(SemanticError::Options(options.len()));
        }
        if let Some(n) = (1..options.len()).find(|n| options[..*n].contains(&options[*n])) {
            return Err(SemanticError::NameTaken(options[n].clone()));
        }
        if over.0 != 0.0 && !(1e-3..=1e6).contains(&over.0) {
            return Err(SemanticError::NoPeriod { what: "the time of a change", lo: over.0 });
        }
        if !self.names.insert(name.to_owned()) {
            return Err(SemanticError::NameTaken(name.to_owned()));
        }
        let id = ChoiceId(self.program.choices.len() as u32);
        let choice = Choice { name: name.to_owned(), options: options.to_vec(), over };
        self.program.choices.push(choice);
        self.program.order.push(Subject::Choice(id));
        let (mut weights, mut at_hand) = (Vec::new(), Vec::new());
        for option in 0..options.len() as u32 {
            let op = Op::IsChosen(id, option);
            let chosen =
                self.push(op, Kind::OnOff, ChangeRate::Stepwise, InstanceLevel::Book, false);
            at_hand.push(chosen);
            weights.push(if over.0 == 0.0 {
                let (one, none) =
                    (self.number(1.0, Kind::Number)?, self.number(0.0, Kind::Number)?);
                self.select(chosen, one, none)?
            } else {
                let op = Op::Weight(id, option);
                self.push(op, Kind::Number, ChangeRate::Flowing, InstanceLevel::Book, false)
            });
        }
        Ok((id, Alternatives { names: options.to_vec(), weights, at_hand }))
    }

    /// A curve's value at a position; a constant position gives a constant.
    pub fn curve_at(&mut self, curve: CurveId, at: ExprId) -> ExprId {
        let kind = self.program.curve(curve).kind;
        if let Some(v) = self.scalar(at) {
            let v = self.program.curve(curve).curve.at(v);
            return self.constant(Constant::Scalar(v), kind);
        }
        self.push(Op::Curve(curve, at), kind, ChangeRate::Constant, InstanceLevel::Book, false)
    }

    /// A value of any kind from its scalar curves: see [`ProgramBuilder::define_curve`].
    pub fn track_at(&mut self, track: &Track, at: ExprId) -> Result<ExprId, SemanticError> {
        let mut parts = Vec::with_capacity(3);
        for curve in &track.curves {
            parts.push(self.curve_at(*curve, at));
        }
        match (track.kind, &parts[..]) {
            (Kind::OnOff, [level]) => {
                let half = self.number(0.5, Kind::Number)?;
                self.above(*level, half)
            }
            (Kind::Color, [l, m, s]) if !track.linear => self.color_of_cones([*l, *m, *s]),
            (Kind::Color | Kind::Point, [x, y, z]) => {
                self.derived(Op::Parts(*x, *y, *z), track.kind)
            }
            (_, [v, ..]) => Ok(*v),
            (_, []) => Err(SemanticError::Curve(CurveFault::TooFew)),
        }
    }

    /// A call of a behavior. Missing arguments take their defaults.
    pub fn call(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        behavior: BehaviorId,
        arguments: &[Option<ExprId>],
    ) -> Result<ExprId, SemanticError> {
        let called = self.program.behavior(behavior).clone();
        if arguments.len() > called.parameters.len() {
            return Err(SemanticError::TooManyArguments {
                behavior: called.name,
                most: called.parameters.len(),
            });
        }
        let mut filled = Vec::with_capacity(called.parameters.len());
        for (n, parameter) in called.parameters.iter().enumerate() {
            let argument = arguments.get(n).copied().flatten().unwrap_or(parameter.default);
            self.expect(argument, self.kind(parameter.default))?;
            let role = format!("`{}` of `{}`", parameter.name, called.name);
            self.hold_to(owner, argument, parameter.limit, &role)?;
            filled.push(argument);
        }
        let body = self.program.expr(called.value);
        let (kind, change_rate, chancy) = (body.kind, body.change_rate, body.chancy);
        let site = chancy.then(|| self.site(owner, place));
        let scope = if chancy { owner.scope } else { InstanceLevel::Book };
        Ok(self.push(Op::Call(behavior, filled, site), kind, change_rate, scope, chancy))
    }

    /// Names an expression inside a light or behavior for exported code.
    pub fn name_local(&mut self, id: ExprId, name: &str) {
        if self.program.constant(id).is_none() {
            self.program.locals.entry(id).or_insert_with(|| name.to_owned());
        }
    }

    /// Defines a column of a curve, whose values have one kind: a scalar curve for each component.
    /// Colors are stored as the cube roots of their cone responses, so that interpolation blends in
    /// OKLab, unless `linear`.
    pub fn define_curve(
        &mut self,
        name: &str,
        domain: Domain,
        kind: Kind,
        linear: bool,
        stops: &[(Place, Constant, Easing)],
    ) -> Result<Track, SemanticError> {
        let (suffixes, width): (&[&str], usize) = match kind {
            Kind::Color if linear => (&["_r", "_g", "_b"], 3),
            Kind::Color => (&["_l", "_m", "_s"], 3),
            Kind::Point => (&["_x", "_y", "_z"], 3),
            _ => (&[""], 1),
        };
        if domain == Domain::Time && stops.first().is_some_and(|(at, ..)| at.0 < 0.0) {
            return Err(SemanticError::Curve(CurveFault::BeforeStart));
        }
        let mut curves = Vec::with_capacity(width);
        for (part, suffix) in suffixes.iter().enumerate() {
            let values = stops.iter().map(|(at, value, easing)| Stop {
                at: *at,
                value: match (value, kind) {
                    (Constant::Scalar(v), _) => *v,
                    (Constant::OnOff(on), _) => f64::from(u8::from(*on)),
                    (Constant::Vector(v), Kind::Color) if !linear => kernel::cone_root(part, *v),
                    (Constant::Vector(v), _) => v[part],
                },
                // On and off have nothing between them.
                easing: if kind == Kind::OnOff { Easing::Jump } else { *easing },
            });
            let curve = Curve::new(values.collect()).map_err(SemanticError::Curve)?;
            let id = CurveId(self.program.curves.len() as u32);
            let (title, name) = (name.to_owned(), format!("{name}{suffix}"));
            let kind = if kind.is_scalar() { kind } else { Kind::Number };
            let kind = if width > 1 && suffixes[0] == "_x" { Kind::Length } else { kind };
            self.program.curves.push(NamedCurve { title, name, kind, domain, curve, led: false });
            self.program.order.push(Subject::Curve(id));
            curves.push(id);
        }
        Ok(Track { kind, domain, linear, curves })
    }

    /// Defines a signal.
    pub fn define_signal(&mut self, name: &str, value: ExprId) -> Result<SignalId, SemanticError> {
        self.expect_small([value])?;
        self.signal_costs.push(self.unfolded([value], true));
        let id = SignalId(self.program.signals.len() as u32);
        self.program.signals.push(Signal { name: name.to_owned(), value });
        self.program.order.push(Subject::Signal(id));
        Ok(id)
    }

    /// Adds a parameter to a behavior that is being defined. Its default must be constant.
    pub fn parameter(
        &mut self,
        owner: &mut Owner,
        name: &str,
        default: ExprId,
    ) -> Result<ExprId, SemanticError> {
        let n = owner.parameters.len();
        if n == MOST_PARAMETERS {
            return Err(SemanticError::TooManyParameters(MOST_PARAMETERS));
        }
        let expr = self.program.expr(default);
        if expr.change_rate > ChangeRate::Constant {
            return Err(SemanticError::TooLively {
                role: format!("the default of `{name}`"),
                limit: ChangeRate::Constant,
                found: expr.change_rate,
            });
        }
        let kind = expr.kind;
        owner.parameters.push((name.to_owned(), kind));
        owner.limits.push(ChangeRate::Flowing);
        Ok(self.push(Op::Parameter(n), kind, ChangeRate::Constant, InstanceLevel::Book, false))
    }

    /// Defines a behavior that was lowered under `owner`, with the defaults of its parameters in
    /// order.
    pub fn define_behavior(
        &mut self,
        name: &str,
        owner: Owner,
        defaults: &[ExprId],
        value: ExprId,
    ) -> Result<BehaviorId, SemanticError> {
        let cost = self.expect_small([value])?;
        let depth = 1 + self.deepest_call(value);
        if depth > DEEPEST {
            return Err(SemanticError::TooLarge(u64::from(DEEPEST)));
        }
        let parameters = owner
            .parameters
            .into_iter()
            .zip(owner.limits)
            .zip(defaults)
            .map(|(((name, _), limit), default)| Parameter { name, default: *default, limit })
            .collect();
        let id = BehaviorId(self.program.behaviors.len() as u32);
        self.behavior_costs.push([cost, self.unfolded([value], true)]);
        self.program.behaviors.push(Behavior { name: name.to_owned(), parameters, value });
        self.program.order.push(Subject::Behavior(id));
        self.depths.push(depth);
        Ok(id)
    }

    pub(super) fn deepest_call(&self, id: ExprId) -> u32 {
        let depths = self.program.reads([id], Depth::Own).filter_map(|read| match read {
            Reference::Behavior(behavior) => Some(self.depths[behavior.index()]),
            _ => None,
        });
        depths.max().unwrap_or(0)
    }

    /// Rejects a value that a field of a light of this kind cannot have.
    pub fn expect_field(
        &self,
        kind: LightKind,
        field: Field,
        value: ExprId,
    ) -> Result<(), SemanticError> {
        let found = self.kind(value);
        match field.wanted(kind, found) {
            Some(wanted) => Err(SemanticError::WrongKind { wanted: wanted.to_owned(), found }),
            None => Ok(()),
        }
    }

    /// Defines a light. Each channel has one value, or an inner and an outer one if it has two
    /// fields; a single value for such a channel is the outer one.
    ///
    /// The color is scaled so that its largest component is 1; the factor goes into the intensity.
    /// Only an ambient light's tint keeps its brightness.
    pub fn define_light(
        &mut self,
        name: &str,
        kind: LightKind,
        array: &Array,
        driven: &[(Channel, Vec<ExprId>)],
    ) -> Result<LightId, SemanticError> {
        let mut drives: Vec<Drive> = Vec::new();
        for (channel, values) in driven {
            if !channel.lights.contains(&kind) {
                return Err(SemanticError::NoSuchChannel { kind, channel: channel.name });
            }
            let skipped = channel.fields.len().saturating_sub(values.len());
            for (field, value) in channel.fields.iter().skip(skipped).zip(values) {
                self.expect_field(kind, *field, *value)?;
                if drives.iter().any(|drive| drive.field == *field) {
                    return Err(SemanticError::DrivenTwice(channel.name));
                }
                let value = match field {
                    Field::Aim => {
                        let aim = self.heading(*value)?;
                        self.stood(aim)?
                    }
                    _ => self.given_out(*value)?,
                };
                drives.push(Drive { field: *field, value, kind: self.kind(value) });
            }
        }
        drives.sort_by_key(|drive| drive.field);
        let stated_color =
            drives.iter().find(|drive| drive.field == Field::Color).map(|drive| drive.value);
        if let Some(color) = stated_color
            && kind != LightKind::Ambient
        {
            self.move_darkness(&mut drives, color)?;
        }
        self.read(name, kind, array, drives, Vec::new(), stated_color)
    }

    /// Defines an output: values for the game that are not a light. A value without a name is the
    /// only one.
    pub fn define_output(
        &mut self,
        name: &str,
        array: &Array,
        values: &[(Option<String>, ExprId)],
    ) -> Result<LightId, SemanticError> {
        let mut drives = Vec::with_capacity(values.len());
        for (n, (_, value)) in values.iter().enumerate() {
            let (value, field) = (self.given_out(*value)?, Field::Named(n as u8));
            drives.push(Drive { field, value, kind: self.kind(value) });
        }
        let names = values.iter().filter_map(|(name, _)| name.clone()).collect();
        self.read(name, LightKind::Output, array, drives, names, None)
    }

    /// Converts a point to the axes of the book's space.
    pub(super) fn stood(&mut self, value: ExprId) -> Result<ExprId, SemanticError> {
        let up = self.program.space.up;
        match self.kind(value) {
            Kind::Point if up != self.written_up => {
                self.derived(Op::ChangeUp(value, up), Kind::Point)
            }
            _ => Ok(value),
        }
    }

    /// Converts a length, point or intensity to the unit and axes of the book's space.
    pub(super) fn given_out(&mut self, value: ExprId) -> Result<ExprId, SemanticError> {
        let value = self.stood(value)?;
        let unit = self.program.space.unit_of(self.kind(value));
        if unit == 1.0 {
            return Ok(value);
        }
        let unit = self.number(unit, Kind::Number)?;
        self.divide(value, unit)
    }

    pub(super) fn read(
        &mut self,
        name: &str,
        kind: LightKind,
        array: &Array,
        drives: Vec<Drive>,
        names: Vec<String>,
        stated_color: Option<ExprId>,
    ) -> Result<LightId, SemanticError> {
        let (size, levels) = array.laid_out()?;
        if !self.names.insert(name.to_owned()) {
            return Err(SemanticError::NameTaken(name.to_owned()));
        }
        self.expect_small(drives.iter().map(|drive| drive.value))?;
        let id = LightId(self.program.lights.len() as u32);
        self.program.lights.push(Light {
            name: name.to_owned(),
            kind,
            size,
            levels,
            drives,
            stated_color,
            ball: array.ball,
            names,
            tags: 0,
        });
        self.program.order.push(Subject::Light(id));
        Ok(id)
    }

    /// Adds tags to a light; their meaning is up to the game.
    pub fn tag_light(&mut self, id: LightId, tags: &[String]) -> Result<(), SemanticError> {
        for tag in tags {
            let known = self.program.tags.iter().position(|known| known == tag);
            let bit = known.unwrap_or(self.program.tags.len());
            if bit >= MOST_TAGS {
                return Err(SemanticError::TooManyTags(MOST_TAGS));
            }
            if known.is_none() {
                self.program.tags.push(tag.clone());
            }
            self.program.lights[id.index()].tags |= 1 << bit;
        }
        Ok(())
    }

    pub(super) fn move_darkness(
        &mut self,
        drives: &mut [Drive],
        color: ExprId,
    ) -> Result<(), SemanticError> {
        let brightest = self.derived(Op::MaxComponent(color), Kind::Number)?;
        if self.scalar(brightest) == Some(0.0) {
            return Err(SemanticError::BlackLamp);
        }
        let full = self.scalar(brightest) == Some(1.0);
        for drive in drives {
            match drive.field {
                Field::Color if !full => {
                    drive.value = self.derived(Op::NormalizedColor(color), Kind::Color)?;
                }
                Field::Intensity if !full => {
                    drive.value = self.multiply(drive.value, brightest)?;
                }
                _ => {}
            }
        }
        Ok(())
    }
}
