//! Making a program: every expression is checked for kind and pace as it is made, and folded where
//! all of it is known. The lightbook's resolver and the Rust builder both go through here.

use std::collections::BTreeMap;

use crate::curve::{Curve, Stop};
use crate::kernel;
use crate::kind::{Kind, Pace, Photometry, Scope};
use crate::misfit::Misfit;
use crate::program::{
    Behaviour, BehaviourId, Channel, Constant, CurveId, Drive, Expr, ExprId, Field, Light, LightId,
    LightKind, MOST_LAMPS, NamedCurve, Op, Parameter, Program, Signal, SignalId, Site, Size, Start,
    Subject, Turn,
};
use crate::quantity::Seed;
use rustc_hash::{FxHashMap, FxHashSet};

/// Most parameters of a behaviour.
pub const MOST_PARAMETERS: usize = 16;
/// How deep behaviours may call each other.
const DEEPEST: u32 = 64;

/// Who an expression is made for: its path feeds the key of each chance in it.
#[derive(Clone, Debug)]
pub struct Owner {
    path: String,
    property: String,
    scope: Scope,
    lamps: Option<Size>,
    ordinals: FxHashMap<String, u32>,
    parameters: Vec<(String, Kind)>,
    limits: Vec<Pace>,
}

impl Owner {
    fn new(path: String, scope: Scope, lamps: Option<Size>) -> Self {
        Owner {
            path,
            property: String::new(),
            scope,
            lamps,
            ordinals: FxHashMap::default(),
            parameters: Vec::new(),
            limits: Vec::new(),
        }
    }

    /// For a signal of the book (or anything else of which there is one).
    pub fn book(name: &str) -> Self {
        Owner::new(name.to_owned(), Scope::Book, None)
    }

    /// For a light. `pinned` is a seed of its own, which keeps its chance through a new name.
    pub fn light(name: &str, size: Size, pinned: Option<u32>) -> Self {
        let path = pinned.map_or_else(|| name.to_owned(), |seed| format!("#{seed}"));
        Owner::new(path, Scope::Lamp, Some(size))
    }

    /// For the body of a behaviour. Its parameters are told with [`Draft::parameter`].
    pub fn behaviour(name: &str) -> Self {
        Owner::new(name.to_owned(), Scope::Lamp, None)
    }

    /// Turns to another property (a channel, or a name inside a light or behaviour).
    pub fn property(&mut self, name: &str) {
        name.clone_into(&mut self.property);
    }

    /// Counts one more use of `callee` and gives its path.
    fn step(&mut self, callee: &str) -> String {
        let place = format!("{}/{}/{callee}", self.path, self.property);
        let ordinal = self.ordinals.entry(place.clone()).or_insert(0);
        let path = format!("{place}/{ordinal}");
        *ordinal += 1;
        path
    }
}

/// A use of a function with chance, counted before its arguments are made.
#[derive(Clone, Debug)]
pub struct Use(String);

/// A program in the making.
#[derive(Clone, Debug)]
pub struct Draft {
    program: Program,
    sites: FxHashMap<u32, String>,
    /// The names of all lights.
    names: FxHashSet<String>,
    depths: Vec<u32>,
    /// What each expression unfolds into, by its id.
    costs: Vec<u64>,
}

/// Most steps that one light may unfold into.
const MOST_STEPS: u64 = 20_000;

impl Draft {
    /// An empty program of that name and seed.
    pub fn new(name: &str, seed: Seed) -> Self {
        Draft {
            program: Program {
                name: name.to_owned(),
                seed,
                exprs: Vec::new(),
                curves: Vec::new(),
                signals: Vec::new(),
                behaviours: Vec::new(),
                lights: Vec::new(),
                order: Vec::new(),
                locals: BTreeMap::new(),
            },
            sites: FxHashMap::default(),
            names: FxHashSet::default(),
            depths: Vec::new(),
            costs: Vec::new(),
        }
    }

    /// What has been made, not yet validated.
    pub fn finish(self) -> Program {
        self.program
    }

    /// What has been made so far.
    pub fn program(&self) -> &Program {
        &self.program
    }

    /// Sets the book's name.
    pub fn set_name(&mut self, name: &str) {
        name.clone_into(&mut self.program.name);
    }

    /// Sets the book's seed.
    pub fn set_seed(&mut self, seed: Seed) {
        self.program.seed = seed;
    }

    /// The kind of an expression.
    pub fn kind(&self, id: ExprId) -> Kind {
        self.program.expr(id).kind
    }

    fn scalar(&self, id: ExprId) -> Option<f64> {
        match self.program.constant(id) {
            Some(Constant::Scalar(v)) => Some(v),
            _ => None,
        }
    }

    fn push(&mut self, op: Op, kind: Kind, pace: Pace, scope: Scope, chancy: bool) -> ExprId {
        let (mut pace, mut scope, mut chancy, mut parameters) = (pace, scope, chancy, 0);
        let mut cost = 1u64;
        for operand in op.operands() {
            let expr = self.program.expr(operand);
            pace = pace.max(expr.pace);
            scope = scope.max(expr.scope);
            chancy |= expr.chancy;
            parameters |= expr.parameters;
            cost = cost.saturating_add(self.costs[operand.index()]);
        }
        match op {
            Op::Parameter(n) => parameters |= 1 << n,
            Op::Signal(signal) => {
                cost += self.costs[self.program.signal(signal).value.index()];
            }
            Op::Call(behaviour, ..) => {
                cost = cost
                    .saturating_add(self.costs[self.program.behaviour(behaviour).value.index()]);
            }
            _ => {}
        }
        let id = ExprId(self.program.exprs.len() as u32);
        self.program.exprs.push(Expr { op, kind, pace, scope, chancy, parameters });
        self.costs.push(cost);
        id
    }

    /// An expression whose pace and scope are those of its operands.
    fn derived(&mut self, op: Op, kind: Kind) -> Result<ExprId, Misfit> {
        if let Some(folded) = self.fold(&op) {
            let finite = match folded {
                Constant::Scalar(v) => v.is_finite(),
                Constant::Vector(v) => v.iter().all(|v| v.is_finite()),
                Constant::OnOff(_) => true,
            };
            return if finite { Ok(self.constant(folded, kind)) } else { Err(Misfit::NotFinite) };
        }
        Ok(self.push(op, kind, Pace::Constant, Scope::Book, false))
    }

    /// A known value, in the base unit of its kind. Must be finite.
    pub fn constant(&mut self, value: Constant, kind: Kind) -> ExprId {
        self.push(Op::Constant(value), kind, Pace::Constant, Scope::Book, false)
    }

    /// A number, or another kind of one number, if it is finite.
    pub fn number(&mut self, value: f64, kind: Kind) -> Result<ExprId, Misfit> {
        if value.is_finite() {
            Ok(self.constant(Constant::Scalar(value), kind))
        } else {
            Err(Misfit::NotFinite)
        }
    }

    /// The run's time.
    pub fn now(&mut self) -> ExprId {
        self.push(Op::Now, Kind::Time, Pace::Flowing, Scope::Book, false)
    }

    /// The lamp's index in its array; `0` for a single lamp.
    pub fn index(&mut self, owner: &Owner) -> Result<ExprId, Misfit> {
        match owner.lamps {
            Some(Size::Many(_) | Size::Open) => {
                Ok(self.push(Op::Index, Kind::Number, Pace::Fixed, Scope::Lamp, false))
            }
            Some(Size::One) | None => Err(Misfit::NoArray),
        }
    }

    /// A signal's value.
    pub fn signal(&mut self, id: SignalId) -> ExprId {
        let value = self.program.expr(self.program.signal(id).value);
        let (kind, pace, scope) = (value.kind, value.pace, value.scope);
        if let Op::Constant(c) = value.op {
            return self.constant(c, kind);
        }
        self.push(Op::Signal(id), kind, pace, scope, false)
    }

    /// Refuses an expression of another kind than wanted.
    pub fn expect(&self, id: ExprId, wanted: Kind) -> Result<(), Misfit> {
        let found = self.kind(id);
        if found == wanted {
            Ok(())
        } else {
            Err(Misfit::WrongKind { wanted: wanted.to_string(), found })
        }
    }

    /// Refuses an expression that is not of one number.
    pub fn expect_scalar(&self, id: ExprId) -> Result<(), Misfit> {
        let found = self.kind(id);
        if found.is_scalar() {
            Ok(())
        } else {
            Err(Misfit::WrongKind { wanted: "a value that can be ordered".to_owned(), found })
        }
    }

    /// Refuses an expression that changes more often than its place allows. Parameters in it are
    /// held to the same limit at each call.
    pub fn hold_to(
        &self,
        owner: &mut Owner,
        id: ExprId,
        limit: Pace,
        role: &str,
    ) -> Result<(), Misfit> {
        let expr = self.program.expr(id);
        if expr.pace > limit {
            return Err(Misfit::TooLively { role: role.to_owned(), limit, found: expr.pace });
        }
        for (n, held) in owner.limits.iter_mut().enumerate() {
            if expr.parameters & (1 << n) != 0 {
                *held = (*held).min(limit);
            }
        }
        Ok(())
    }

    /// Turned sign.
    pub fn negate(&mut self, a: ExprId) -> Result<ExprId, Misfit> {
        match self.kind(a) {
            kind @ (Kind::Color | Kind::OnOff) => {
                Err(Misfit::WrongKind { wanted: "a number or a point".to_owned(), found: kind })
            }
            kind => self.derived(Op::Negate(a), kind),
        }
    }

    fn alike(&self, a: ExprId, b: ExprId, verb: &'static str) -> Result<Kind, Misfit> {
        let (left, right) = (self.kind(a), self.kind(b));
        if left != right || matches!(left, Kind::Color | Kind::OnOff) {
            return Err(Misfit::NoArithmetic { verb, left, right });
        }
        Ok(left)
    }

    /// The sum of two of one kind.
    pub fn add(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, Misfit> {
        let kind = self.alike(a, b, "add")?;
        self.derived(Op::Add(a, b), kind)
    }

    /// The difference of two of one kind.
    pub fn subtract(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, Misfit> {
        let kind = self.alike(a, b, "subtract")?;
        self.derived(Op::Subtract(a, b), kind)
    }

    /// The product: a number with anything but a colour, or a time with a rate.
    pub fn multiply(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, Misfit> {
        let (left, right) = (self.kind(a), self.kind(b));
        match (left, right) {
            (Kind::Color | Kind::OnOff, _) | (_, Kind::Color | Kind::OnOff) => {
                Err(Misfit::NoArithmetic { verb: "multiply", left, right })
            }
            (kind, Kind::Number) => self.derived(Op::Multiply(a, b), kind),
            (Kind::Number, Kind::Point) => self.derived(Op::Multiply(b, a), Kind::Point),
            (Kind::Number, kind) => self.derived(Op::Multiply(a, b), kind),
            (Kind::Time, Kind::Rate) | (Kind::Rate, Kind::Time) => {
                self.derived(Op::Multiply(a, b), Kind::Number)
            }
            _ => Err(Misfit::NoArithmetic { verb: "multiply", left, right }),
        }
    }

    /// The quotient: by a number, of two of one kind, or a number by a time or rate.
    pub fn divide(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, Misfit> {
        let (left, right) = (self.kind(a), self.kind(b));
        if self.scalar(b) == Some(0.0) {
            return Err(Misfit::DivisionByZero { lo: 0.0, hi: 0.0 });
        }
        let kind = match (left, right) {
            (Kind::Color | Kind::OnOff, _) => None,
            (kind, Kind::Number) => Some(kind),
            (Kind::Number, Kind::Time) => Some(Kind::Rate),
            (Kind::Number, Kind::Rate) => Some(Kind::Time),
            (x, y) if x == y && x.is_scalar() => Some(Kind::Number),
            _ => None,
        };
        let kind = kind.ok_or(Misfit::NoArithmetic { verb: "divide", left, right })?;
        self.derived(Op::Divide(a, b), kind)
    }

    fn ordered(&self, a: ExprId, b: ExprId, verb: &'static str) -> Result<Kind, Misfit> {
        let (left, right) = (self.kind(a), self.kind(b));
        if left == right && left.is_scalar() {
            Ok(left)
        } else {
            Err(Misfit::NoArithmetic { verb, left, right })
        }
    }

    /// The smaller of two of one kind.
    pub fn least(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, Misfit> {
        let kind = self.ordered(a, b, "compare")?;
        self.derived(Op::Least(a, b), kind)
    }

    /// The larger of two of one kind.
    pub fn greatest(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, Misfit> {
        let kind = self.ordered(a, b, "compare")?;
        self.derived(Op::Greatest(a, b), kind)
    }

    /// `v` kept inside `lo..hi`.
    pub fn within(&mut self, v: ExprId, lo: ExprId, hi: ExprId) -> Result<ExprId, Misfit> {
        let kind = self.ordered(v, lo, "compare")?;
        self.ordered(v, hi, "compare")?;
        self.rising(lo, hi)?;
        self.derived(Op::Within(v, lo, hi), kind)
    }

    /// `a` at `s` = 0, `b` at `s` = 1, never outside of the two.
    pub fn between(&mut self, a: ExprId, b: ExprId, s: ExprId) -> Result<ExprId, Misfit> {
        let kind = self.ordered(a, b, "blend")?;
        self.expect(s, Kind::Number)?;
        self.derived(Op::Between(a, b, s), kind)
    }

    /// Whether `a` is above `b`.
    pub fn above(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, Misfit> {
        self.ordered(a, b, "compare")?;
        self.derived(Op::Above(a, b), Kind::OnOff)
    }

    /// Whether both are on.
    pub fn and(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, Misfit> {
        self.expect(a, Kind::OnOff)?;
        self.expect(b, Kind::OnOff)?;
        self.derived(Op::And(a, b), Kind::OnOff)
    }

    /// Whether one or both are on.
    pub fn or(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, Misfit> {
        self.expect(a, Kind::OnOff)?;
        self.expect(b, Kind::OnOff)?;
        self.derived(Op::Or(a, b), Kind::OnOff)
    }

    /// Whether it is off.
    pub fn not(&mut self, a: ExprId) -> Result<ExprId, Misfit> {
        self.expect(a, Kind::OnOff)?;
        self.derived(Op::Not(a), Kind::OnOff)
    }

    /// `a` where `condition` is on, else `b`; both of one kind.
    pub fn choose(&mut self, condition: ExprId, a: ExprId, b: ExprId) -> Result<ExprId, Misfit> {
        self.expect(condition, Kind::OnOff)?;
        self.expect(b, self.kind(a))?;
        let kind = self.kind(a);
        self.derived(Op::Choose(condition, a, b), kind)
    }

    /// A point of three lengths.
    pub fn point(&mut self, x: ExprId, y: ExprId, z: ExprId) -> Result<ExprId, Misfit> {
        for part in [x, y, z] {
            self.expect(part, Kind::Length)?;
        }
        self.derived(Op::Point(x, y, z), Kind::Point)
    }

    /// Refuses a known range that falls.
    pub fn rising(&self, lo: ExprId, hi: ExprId) -> Result<(), Misfit> {
        match (self.scalar(lo), self.scalar(hi)) {
            (Some(lo), Some(hi)) if lo > hi => Err(Misfit::FallingRange { lo, hi }),
            _ => Ok(()),
        }
    }

    /// Counts a use of a function with chance. Called before its arguments are made, so that uses
    /// are counted in the order in which a reader meets them.
    pub fn use_of(&self, owner: &mut Owner, callee: &str) -> Use {
        Use(owner.step(callee))
    }

    fn site(&mut self, path: &Use) -> Site {
        let mut place = 0u32;
        for byte in path.0.bytes() {
            place = kernel::scramble((place ^ u32::from(byte)).wrapping_add(0x9E37_79B9));
        }
        while self.sites.get(&place).is_some_and(|known| *known != path.0) {
            place = kernel::scramble(place.wrapping_add(1));
        }
        self.sites.insert(place, path.0.clone());
        Site(place)
    }

    /// A level between two bounds, drawn again after random times between `shortest` and `longest`.
    pub fn held(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        [lo, hi]: [ExprId; 2],
        [shortest, longest]: [ExprId; 2],
    ) -> Result<ExprId, Misfit> {
        self.ordered(lo, hi, "draw between")?;
        self.rising(lo, hi)?;
        for time in [shortest, longest] {
            self.expect(time, Kind::Time)?;
            self.hold_to(owner, time, Pace::Constant, "the time between draws")?;
        }
        self.rising(shortest, longest)?;
        if let Some(v) = self.scalar(shortest)
            && v < 0.0
        {
            return Err(Misfit::NegativeTime(v));
        }
        if let Some(v) = self.scalar(longest)
            && v < 2e-6
        {
            return Err(Misfit::TooShort(v));
        }
        let site = self.site(place);
        let level = self.push(
            Op::Held(shortest, longest, site),
            Kind::Number,
            Pace::Flowing,
            owner.scope,
            true,
        );
        self.between(lo, hi, level)
    }

    /// A curve played once from the start of the run.
    pub fn once(&mut self, curve: CurveId) -> ExprId {
        let now = self.now();
        self.curve_at(curve, now)
    }

    /// A curve played again and again; `place` is used where the start is scattered.
    pub fn turning(
        &mut self,
        owner: &Owner,
        place: &Use,
        curve: CurveId,
        turn: Turn,
        start: Start,
    ) -> Result<ExprId, Misfit> {
        let length = self.program.curve(curve).curve.length().0;
        let period = self.number(length, Kind::Time)?;
        let mut at = self.now();
        if start == Start::Scattered {
            let whole = match turn {
                Turn::Loop => length,
                Turn::Alternate => 2.0 * length,
            };
            let site = self.site(place);
            let phase = self.push(Op::Phase(site), Kind::Number, Pace::Fixed, owner.scope, true);
            let whole = self.number(whole, Kind::Time)?;
            let shift = self.multiply(whole, phase)?;
            at = self.add(at, shift)?;
        }
        let turned = self.derived(Op::Turned(turn, start, at, period), Kind::Time)?;
        Ok(self.curve_at(curve, turned))
    }

    fn curve_at(&mut self, curve: CurveId, at: ExprId) -> ExprId {
        let kind = self.program.curve(curve).kind;
        self.push(Op::Curve(curve, at), kind, Pace::Flowing, Scope::Book, false)
    }

    /// A behaviour's value. Missing arguments take their defaults.
    pub fn call(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        behaviour: BehaviourId,
        arguments: &[Option<ExprId>],
    ) -> Result<ExprId, Misfit> {
        let called = self.program.behaviour(behaviour).clone();
        if arguments.len() > called.parameters.len() {
            return Err(Misfit::TooManyArguments {
                behaviour: called.name,
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
        let (kind, pace, chancy) = (body.kind, body.pace, body.chancy);
        let site = chancy.then(|| self.site(place));
        let scope = if chancy { owner.scope } else { Scope::Book };
        Ok(self.push(Op::Call(behaviour, filled, site), kind, pace, scope, chancy))
    }

    /// Names an expression inside a light or behaviour, so that printed code can use the name.
    pub fn name_local(&mut self, id: ExprId, name: &str) {
        if self.program.constant(id).is_none() {
            self.program.locals.entry(id).or_insert_with(|| name.to_owned());
        }
    }

    /// Defines a curve; all its values are of `kind`.
    pub fn define_curve(
        &mut self,
        name: &str,
        kind: Kind,
        stops: Vec<Stop>,
    ) -> Result<CurveId, Misfit> {
        let curve = Curve::new(stops).map_err(Misfit::Curve)?;
        let id = CurveId(self.program.curves.len() as u32);
        self.program.curves.push(NamedCurve { name: name.to_owned(), kind, curve });
        self.program.order.push(Subject::Curve(id));
        Ok(id)
    }

    /// Defines a signal.
    pub fn define_signal(&mut self, name: &str, value: ExprId) -> Result<SignalId, Misfit> {
        if self.costs[value.index()] > MOST_STEPS {
            return Err(Misfit::TooLarge(MOST_STEPS));
        }
        let id = SignalId(self.program.signals.len() as u32);
        self.program.signals.push(Signal { name: name.to_owned(), value });
        self.program.order.push(Subject::Signal(id));
        Ok(id)
    }

    /// Adds a parameter to a behaviour that is being made. Its default must be constant.
    pub fn parameter(
        &mut self,
        owner: &mut Owner,
        name: &str,
        default: ExprId,
    ) -> Result<ExprId, Misfit> {
        let n = owner.parameters.len();
        if n == MOST_PARAMETERS {
            return Err(Misfit::TooManyParameters(MOST_PARAMETERS));
        }
        let expr = self.program.expr(default);
        if expr.pace > Pace::Constant {
            return Err(Misfit::TooLively {
                role: format!("the default of `{name}`"),
                limit: Pace::Constant,
                found: expr.pace,
            });
        }
        let kind = expr.kind;
        owner.parameters.push((name.to_owned(), kind));
        owner.limits.push(Pace::Flowing);
        Ok(self.push(Op::Parameter(n), kind, Pace::Constant, Scope::Book, false))
    }

    /// Defines a behaviour made under `owner`, with the defaults of its parameters in order.
    pub fn define_behaviour(
        &mut self,
        name: &str,
        owner: Owner,
        defaults: &[ExprId],
        value: ExprId,
    ) -> Result<BehaviourId, Misfit> {
        if self.costs[value.index()] > MOST_STEPS {
            return Err(Misfit::TooLarge(MOST_STEPS));
        }
        let depth = 1 + self.deepest_call(value);
        if depth > DEEPEST {
            return Err(Misfit::TooLarge(u64::from(DEEPEST)));
        }
        let parameters = owner
            .parameters
            .into_iter()
            .zip(owner.limits)
            .zip(defaults)
            .map(|(((name, _), limit), default)| Parameter { name, default: *default, limit })
            .collect();
        let id = BehaviourId(self.program.behaviours.len() as u32);
        self.program.behaviours.push(Behaviour { name: name.to_owned(), parameters, value });
        self.program.order.push(Subject::Behaviour(id));
        self.depths.push(depth);
        Ok(id)
    }

    fn deepest_call(&self, id: ExprId) -> u32 {
        let (mut deepest, mut open) = (0, vec![id]);
        let mut seen = FxHashSet::default();
        while let Some(next) = open.pop() {
            if seen.insert(next) {
                let op = &self.program.expr(next).op;
                if let Op::Call(behaviour, ..) = op {
                    deepest = deepest.max(self.depths[behaviour.index()]);
                }
                open.extend(op.operands());
            }
        }
        deepest
    }

    /// Refuses what a field of a light of this kind cannot be driven with.
    pub fn expect_field(&self, kind: LightKind, field: Field, value: ExprId) -> Result<(), Misfit> {
        let wrong = |wanted: &str| {
            Err(Misfit::WrongKind { wanted: wanted.to_owned(), found: self.kind(value) })
        };
        let found = self.kind(value);
        match field {
            Field::Intensity => match (kind, found) {
                (_, Kind::Number) => Ok(()),
                (LightKind::Ambient, Kind::Strength(Photometry::Lux)) => Ok(()),
                (LightKind::Ambient, _) => wrong("a strength in lx, or a number as a factor"),
                (_, Kind::Strength(Photometry::Lumen | Photometry::Candela)) => Ok(()),
                _ => wrong("a strength in lm or cd, or a number as a factor"),
            },
            Field::Color if found == Kind::Color => Ok(()),
            Field::Color => wrong("a color such as `#ffc37a` or `2100K`"),
            Field::ReachInner | Field::ReachOuter if found == Kind::Length => Ok(()),
            Field::ReachInner | Field::ReachOuter => wrong("a length such as `14m`"),
            Field::ConeInner | Field::ConeOuter if found == Kind::Angle => Ok(()),
            Field::ConeInner | Field::ConeOuter => wrong("an angle such as `50deg`"),
            Field::Position if found == Kind::Point => Ok(()),
            Field::Position => wrong("a point such as `(0m, 6m, 0m)`"),
        }
    }

    /// Defines a light. Values come by channel: one, or inner and outer for a channel of two
    /// fields; a single value for such a channel is the outer one.
    ///
    /// The colour is scaled so that its brightest part is 1; the rest goes into the strength. Only
    /// an ambient light's tint keeps its darkness.
    pub fn define_light(
        &mut self,
        name: &str,
        kind: LightKind,
        size: Size,
        driven: &[(Channel, Vec<ExprId>)],
    ) -> Result<LightId, Misfit> {
        if let Size::Many(n) = size
            && (n == 0 || n > MOST_LAMPS)
        {
            return Err(Misfit::ArraySize(u64::from(n)));
        }
        if self.names.contains(name) {
            return Err(Misfit::NameTaken(name.to_owned()));
        }
        let mut drives: Vec<Drive> = Vec::new();
        for (channel, values) in driven {
            if !channel.lights.contains(&kind) {
                return Err(Misfit::NoSuchChannel { kind, channel: channel.name });
            }
            let skipped = channel.fields.len().saturating_sub(values.len());
            for (field, value) in channel.fields.iter().skip(skipped).zip(values) {
                self.expect_field(kind, *field, *value)?;
                if drives.iter().any(|drive| drive.field == *field) {
                    return Err(Misfit::DrivenTwice(channel.name));
                }
                drives.push(Drive { field: *field, value: *value });
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
        let cost =
            drives.iter().fold(0u64, |sum, d| sum.saturating_add(self.costs[d.value.index()]));
        if cost > MOST_STEPS {
            return Err(Misfit::TooLarge(MOST_STEPS));
        }
        let id = LightId(self.program.lights.len() as u32);
        let name = name.to_owned();
        self.names.insert(name.clone());
        self.program.lights.push(Light { name, kind, size, drives, stated_color });
        self.program.order.push(Subject::Light(id));
        Ok(id)
    }

    fn move_darkness(&mut self, drives: &mut [Drive], color: ExprId) -> Result<(), Misfit> {
        let brightest = self.derived(Op::Brightest(color), Kind::Number)?;
        if self.scalar(brightest) == Some(0.0) {
            return Err(Misfit::BlackLamp);
        }
        let full = self.scalar(brightest) == Some(1.0);
        for drive in drives {
            match drive.field {
                Field::Color if !full => {
                    drive.value = self.derived(Op::BrightestAtOne(color), Kind::Color)?;
                }
                Field::Intensity if !full => {
                    drive.value = self.multiply(drive.value, brightest)?;
                }
                _ => {}
            }
        }
        Ok(())
    }

    /// The value of an operation whose operands are all known.
    fn fold(&self, op: &Op) -> Option<Constant> {
        use Constant::{OnOff, Scalar, Vector};
        let known = |id: &ExprId| self.program.constant(*id);
        let one = |id: &ExprId, f: fn(f64) -> f64| match known(id)? {
            Scalar(v) => Some(Scalar(f(v))),
            Vector(v) => Some(Vector(v.map(f))),
            OnOff(_) => None,
        };
        let two = |a: &ExprId, b: &ExprId, f: fn(f64, f64) -> f64| match (known(a)?, known(b)?) {
            (Scalar(a), Scalar(b)) => Some(Scalar(f(a, b))),
            (Vector(a), Scalar(b)) => Some(Vector(a.map(|a| f(a, b)))),
            (Vector(a), Vector(b)) => Some(Vector([0, 1, 2].map(|n| f(a[n], b[n])))),
            _ => None,
        };
        let flags = |a: &ExprId, b: &ExprId, f: fn(bool, bool) -> bool| match (known(a)?, known(b)?)
        {
            (OnOff(a), OnOff(b)) => Some(OnOff(f(a, b))),
            _ => None,
        };
        match op {
            Op::Constant(c) => Some(*c),
            Op::Negate(a) => one(a, |v| -v),
            Op::Add(a, b) => two(a, b, |a, b| a + b),
            Op::Subtract(a, b) => two(a, b, |a, b| a - b),
            Op::Multiply(a, b) => two(a, b, |a, b| a * b),
            Op::Divide(a, b) => two(a, b, |a, b| a / b),
            Op::Least(a, b) => two(a, b, kernel::least),
            Op::Greatest(a, b) => two(a, b, kernel::greatest),
            Op::Within(v, lo, hi) => match (known(v)?, known(lo)?, known(hi)?) {
                (Scalar(v), Scalar(lo), Scalar(hi)) => Some(Scalar(kernel::within(v, lo, hi))),
                _ => None,
            },
            Op::Between(a, b, s) => match (known(a)?, known(b)?, known(s)?) {
                (Scalar(a), Scalar(b), Scalar(s)) => Some(Scalar(kernel::between(a, b, s))),
                _ => None,
            },
            Op::Above(a, b) => match (known(a)?, known(b)?) {
                (Scalar(a), Scalar(b)) => Some(OnOff(a > b)),
                _ => None,
            },
            Op::And(a, b) => flags(a, b, |a, b| a && b),
            Op::Or(a, b) => flags(a, b, |a, b| a || b),
            Op::Not(a) => match known(a)? {
                OnOff(v) => Some(OnOff(!v)),
                _ => None,
            },
            Op::Choose(c, a, b) => match known(c)? {
                OnOff(on) => known(if on { a } else { b }),
                _ => None,
            },
            Op::Point(x, y, z) => match (known(x)?, known(y)?, known(z)?) {
                (Scalar(x), Scalar(y), Scalar(z)) => Some(Vector([x, y, z])),
                _ => None,
            },
            Op::Brightest(c) => match known(c)? {
                Vector([r, g, b]) => Some(Scalar(kernel::greatest(kernel::greatest(r, g), b))),
                _ => None,
            },
            Op::BrightestAtOne(c) => match known(c)? {
                Vector(v) => Some(Vector(crate::color::Rgb(v).brightest_at_one().0)),
                _ => None,
            },
            Op::Now
            | Op::Index
            | Op::Parameter(_)
            | Op::Signal(_)
            | Op::Call(..)
            | Op::Held(..)
            | Op::Phase(_)
            | Op::Turned(..)
            | Op::Curve(..) => None,
        }
    }
}
