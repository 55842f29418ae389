//! Making a program: every expression is checked for kind and pace as it is made, and folded where
//! all of it is known. The lightbook's resolver and the Rust builder both go through here.

use std::collections::BTreeMap;

use crate::curve::{Curve, CurveFault, Easing, Stop};
use crate::kernel;
use crate::kind::{Kind, Pace, Photometry, Scope};
use crate::misfit::Misfit;
use crate::program::{
    Behaviour, BehaviourId, Channel, Constant, CurveId, Domain, Drive, Expr, ExprId, Field, Level,
    Light, LightId, LightKind, MOST_LAMPS, NamedCurve, Op, Parameter, Program, Signal, SignalId,
    Site, Size, Space, Start, Subject, Table, TableId, Turn, Wave,
};
use crate::quantity::{Place, Seconds, Seed};
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
    /// Whether an index of each scope can be asked for, from the outermost placing to the lamp.
    indexed: Vec<Scope>,
    ordinals: FxHashMap<String, u32>,
    parameters: Vec<(String, Kind)>,
    limits: Vec<Pace>,
}

impl Owner {
    fn new(path: String, scope: Scope, indexed: Vec<Scope>) -> Self {
        Owner {
            path,
            property: String::new(),
            scope,
            indexed,
            ordinals: FxHashMap::default(),
            parameters: Vec::new(),
            limits: Vec::new(),
        }
    }

    /// For a signal of the book (or anything else of which there is one).
    pub fn book(name: &str) -> Self {
        Owner::new(name.to_owned(), Scope::Book, Vec::new())
    }

    /// For a light. `pinned` is a seed of its own, which keeps its chance through a new name.
    pub fn light(name: &str, size: Size, pinned: Option<u32>) -> Self {
        Owner::placed(name, size, pinned, &[])
    }

    /// For a light that lies in placings of these sizes, outermost first.
    pub fn placed(name: &str, size: Size, pinned: Option<u32>, placings: &[Size]) -> Self {
        let path = pinned.map_or_else(|| name.to_owned(), |seed| format!("#{seed}"));
        let mut indexed = Self::placings(placings);
        if size != Size::One {
            indexed.push(Scope::Lamp);
        }
        Owner::new(path, Scope::Lamp, indexed)
    }

    /// For what belongs to each placing of a fitting, `placings` deep.
    pub fn placing(path: &str, placings: &[Size]) -> Self {
        let scope = placings.len().checked_sub(1).map_or(Scope::Book, |n| Scope::Placing(n as u8));
        Owner::new(path.to_owned(), scope, Self::placings(placings))
    }

    fn placings(sizes: &[Size]) -> Vec<Scope> {
        let many = sizes.iter().enumerate().filter(|(_, size)| **size != Size::One);
        many.map(|(n, _)| Scope::Placing(n as u8)).collect()
    }

    /// For the body of a behaviour. Its parameters are told with [`Draft::parameter`].
    pub fn behaviour(name: &str) -> Self {
        Owner::new(name.to_owned(), Scope::Lamp, Vec::new())
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

/// How many lamps a light has, and in which placings they lie.
#[derive(Clone, Debug, PartialEq)]
pub struct Array {
    /// Its own array; in a fitting that of one placing.
    pub size: Size,
    /// The sizes of the placings that it lies in, outermost first.
    pub placings: Vec<Size>,
    /// The radius, in metres, that is stated for its offset.
    pub ball: Option<f64>,
}

impl Array {
    /// Of the book itself.
    pub fn of(size: Size) -> Self {
        Array { size, placings: Vec::new(), ball: None }
    }

    /// All lamps together, and the levels that they lie in.
    fn laid_out(&self) -> Result<(Size, Vec<Level>), Misfit> {
        let mut lamps = 1u64;
        let mut open = false;
        let mut levels = Vec::new();
        let all: Vec<Size> = self.placings.iter().chain([&self.size]).copied().collect();
        for (n, size) in all.iter().enumerate().rev() {
            if n < self.placings.len() {
                levels.push(Level { size: *size, lamps: lamps as u32 });
            }
            match size {
                Size::One => {}
                Size::Many(many) => lamps *= u64::from(*many),
                // Only the outermost can be open.
                Size::Open if n == 0 => open = true,
                Size::Open => return Err(Misfit::OpenInside),
            }
            if lamps == 0 || lamps > u64::from(MOST_LAMPS) {
                return Err(Misfit::ArraySize(lamps));
            }
        }
        levels.reverse();
        let single = all.iter().all(|size| *size == Size::One);
        let size = match (open, single) {
            (true, _) => Size::Open,
            (false, true) => Size::One,
            (false, false) => Size::Many(lamps as u32),
        };
        Ok((size, levels))
    }
}

/// One column of a curve: the scalar curves that its values are made of.
#[derive(Clone, Debug, PartialEq)]
pub struct Track {
    /// The kind of its values.
    pub kind: Kind,
    /// What its places are.
    pub domain: Domain,
    /// Whether colours are blended in linear light.
    pub linear: bool,
    /// One for each number of a value.
    pub curves: Vec<CurveId>,
}

/// How many bursts a table has.
pub const PAIRS: u32 = 64;

/// Running sums of even draws in 0..1, from 0; four digits each, so that they are short in print.
fn draws_of(name: &str) -> Vec<f64> {
    let key = kernel::chance_key(name.len() as u32, PAIRS);
    let mut sum = 0.0f64;
    let draws = (0..PAIRS).map(|n| {
        sum += (kernel::to_unit(kernel::draw(key, n)) * 1e4).round();
        sum / 1e4
    });
    std::iter::once(0.0).chain(draws).collect()
}

/// A program in the making.
#[derive(Clone, Debug)]
pub struct Draft {
    program: Program,
    sites: FxHashMap<u32, String>,
    /// The names of all lights.
    names: FxHashSet<String>,
    depths: Vec<u32>,
    /// What the calls of each behaviour unfold into: at the moment at hand, and at another one, where
    /// the signals that it uses are made again.
    behaviour_costs: Vec<[u64; 2]>,
    /// What each signal unfolds into at another moment.
    signal_costs: Vec<u64>,
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
                space: Space::default(),
                exprs: Vec::new(),
                curves: Vec::new(),
                tables: Vec::new(),
                signals: Vec::new(),
                behaviours: Vec::new(),
                lights: Vec::new(),
                order: Vec::new(),
                locals: BTreeMap::new(),
            },
            sites: FxHashMap::default(),
            names: FxHashSet::default(),
            depths: Vec::new(),
            behaviour_costs: Vec::new(),
            signal_costs: Vec::new(),
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

    /// Sets how places are given out. To be called before lights are defined.
    pub fn set_space(&mut self, space: Space) {
        self.program.space = space;
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

    fn flag(&self, id: ExprId) -> Option<bool> {
        match self.program.constant(id) {
            Some(Constant::OnOff(on)) => Some(on),
            _ => None,
        }
    }

    fn push(&mut self, op: Op, kind: Kind, pace: Pace, scope: Scope, chancy: bool) -> ExprId {
        let (mut pace, mut scope, mut chancy, mut parameters) = (pace, scope, chancy, 0);
        for operand in op.operands() {
            let expr = self.program.expr(operand);
            pace = pace.max(expr.pace);
            scope = scope.max(expr.scope);
            chancy |= expr.chancy;
            parameters |= expr.parameters;
        }
        if let Op::Parameter(n) = op {
            parameters |= 1 << n;
        }
        let id = ExprId(self.program.exprs.len() as u32);
        self.program.exprs.push(Expr { op, kind, pace, scope, chancy, parameters });
        id
    }

    /// How many steps expressions unfold into. Each is made once, and so is a signal for all who use it,
    /// but a behaviour anew for each call; at `another` moment everything is made again.
    fn unfolded(&self, roots: impl IntoIterator<Item = ExprId>, another: bool) -> u64 {
        let mut open: Vec<ExprId> = roots.into_iter().collect();
        let (mut seen, mut signals) = (FxHashSet::default(), FxHashSet::default());
        let mut steps = 0u64;
        while let Some(id) = open.pop() {
            if !seen.insert(id) {
                continue;
            }
            steps = steps.saturating_add(1);
            let op = &self.program.expr(id).op;
            match op {
                Op::Call(behaviour, ..) => {
                    let cost = self.behaviour_costs[behaviour.index()][usize::from(another)];
                    steps = steps.saturating_add(cost);
                }
                Op::Signal(signal) if another && signals.insert(*signal) => {
                    steps = steps.saturating_add(self.signal_costs[signal.index()]);
                }
                Op::Moment(value, moment) => {
                    steps = steps.saturating_add(self.unfolded([*value], true));
                    open.push(*moment);
                    continue;
                }
                _ => {}
            }
            open.extend(op.operands());
        }
        steps
    }

    /// Refuses what unfolds into too much.
    fn expect_small(&self, roots: impl IntoIterator<Item = ExprId>) -> Result<u64, Misfit> {
        match self.unfolded(roots, false) {
            steps if steps > MOST_STEPS => Err(Misfit::TooLarge(MOST_STEPS)),
            steps => Ok(steps),
        }
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

    /// The index of the lamp in its array or, where there is none, of the innermost placing in its.
    pub fn index(&mut self, owner: &Owner) -> Result<ExprId, Misfit> {
        let scope = owner.indexed.last().ok_or(Misfit::NoArray)?;
        Ok(self.push(Op::Index(*scope), Kind::Number, Pace::Fixed, *scope, false))
    }

    /// Whether the index is `n`: for the odd one out.
    pub fn is_index(&mut self, owner: &Owner, n: u32) -> Result<ExprId, Misfit> {
        let index = self.index(owner)?;
        let n = self.number(f64::from(n), Kind::Number)?;
        self.derived(Op::Same(index, n), Kind::OnOff)
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

    /// `a` at `s` = 0, `b` at `s` = 1, never outside of the two. Colours are blended in OKLab, or in
    /// linear light if `linear`.
    pub fn between(
        &mut self,
        a: ExprId,
        b: ExprId,
        s: ExprId,
        linear: bool,
    ) -> Result<ExprId, Misfit> {
        self.expect(s, Kind::Number)?;
        let kind = match (self.kind(a), self.kind(b)) {
            (Kind::Color, Kind::Color) if !linear => {
                let mut roots = Vec::with_capacity(3);
                for cone in 0..3 {
                    let from = self.derived(Op::ConeRoot(cone, a), Kind::Number)?;
                    let to = self.derived(Op::ConeRoot(cone, b), Kind::Number)?;
                    roots.push(self.derived(Op::Between(from, to, s), Kind::Number)?);
                }
                return self.color_of_cones([roots[0], roots[1], roots[2]]);
            }
            (kind @ (Kind::Color | Kind::Point), other) if kind == other => kind,
            _ => self.ordered(a, b, "blend")?,
        };
        self.derived(Op::Between(a, b, s), kind)
    }

    /// A number eased; what is below 0 or above 1 is taken as 0 or 1.
    pub fn eased(&mut self, u: ExprId, easing: Easing) -> Result<ExprId, Misfit> {
        self.expect(u, Kind::Number)?;
        let (lo, hi) = (self.number(0.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        let u = self.derived(Op::Within(u, lo, hi), Kind::Number)?;
        match easing {
            Easing::Linear => Ok(u),
            easing => self.derived(Op::Eased(easing, u), Kind::Number),
        }
    }

    /// From one range to another: `from` at one end gives `to` at the same end; outside it stays.
    pub fn map(
        &mut self,
        v: ExprId,
        from: [ExprId; 2],
        to: [ExprId; 2],
        easing: Easing,
    ) -> Result<ExprId, Misfit> {
        let passed = self.subtract(v, from[0])?;
        let whole = self.subtract(from[1], from[0])?;
        self.rising(from[0], from[1])?;
        let u = self.divide(passed, whole)?;
        let u = self.eased(u, easing)?;
        if easing.overshoots() && self.kind(to[0]).is_scalar() {
            // Beyond both ends, as the easing says.
            let span = self.subtract(to[1], to[0])?;
            let span = self.multiply(span, u)?;
            return self.add(to[0], span);
        }
        self.between(to[0], to[1], u, false)
    }

    /// A soft threshold: 0 below, 1 above, softly over the width `over` around `at`.
    pub fn edge(&mut self, v: ExprId, at: ExprId, over: ExprId) -> Result<ExprId, Misfit> {
        let kind = self.ordered(v, at, "compare")?;
        self.expect(over, kind)?;
        let half = self.number(0.5, Kind::Number)?;
        let half = self.multiply(over, half)?;
        let from = self.subtract(at, half)?;
        let passed = self.subtract(v, from)?;
        let u = self.divide(passed, over)?;
        self.eased(u, Easing::Smooth)
    }

    fn color_of_cones(&mut self, [l, m, s]: [ExprId; 3]) -> Result<ExprId, Misfit> {
        self.derived(Op::FromCones(l, m, s), Kind::Color)
    }

    /// A colour with its hue turned by an angle, in OKLab: lightness and chroma stay.
    pub fn turn_hue(&mut self, color: ExprId, angle: ExprId) -> Result<ExprId, Misfit> {
        self.expect(color, Kind::Color)?;
        self.expect(angle, Kind::Angle)?;
        // OKLab's axes a and b from the roots of the cone responses, and back.
        const A: [f64; 3] = [1.977_998_495_1, -2.428_592_205, 0.450_593_709_9];
        const B: [f64; 3] = [0.025_904_037_1, 0.782_771_766_2, -0.808_675_766];
        const BACK: [[f64; 2]; 3] = [
            [0.396_337_777_4, 0.215_803_757_3],
            [-0.105_561_345_8, -0.063_854_172_8],
            [-0.089_484_177_5, -1.291_485_548],
        ];
        let mut roots = Vec::with_capacity(3);
        for cone in 0..3 {
            roots.push(self.derived(Op::ConeRoot(cone, color), Kind::Number)?);
        }
        let a = self.weighed(&roots, &A)?;
        let b = self.weighed(&roots, &B)?;
        let full = self.number(360.0, Kind::Angle)?;
        let turns = self.divide(angle, full)?;
        let quarter = self.number(0.25, Kind::Number)?;
        // A wave is lowest at whole turns: sine and cosine lie a quarter and a half turn on.
        let on = self.add(turns, quarter)?;
        let sine = self.full_wave(on)?;
        let on = self.add(on, quarter)?;
        let cosine = self.full_wave(on)?;
        let one = self.number(1.0, Kind::Number)?;
        let less = self.subtract(cosine, one)?;
        // What turning adds to a and b.
        let (ac, bs) = (self.multiply(a, less)?, self.multiply(b, sine)?);
        let da = self.subtract(ac, bs)?;
        let (as_, bc) = (self.multiply(a, sine)?, self.multiply(b, less)?);
        let db = self.add(as_, bc)?;
        let mut turned = Vec::with_capacity(3);
        for (root, back) in roots.into_iter().zip(BACK) {
            let moved = self.weighed(&[da, db], &back)?;
            turned.push(self.add(root, moved)?);
        }
        self.color_of_cones([turned[0], turned[1], turned[2]])
    }

    fn weighed(&mut self, all: &[ExprId], weights: &[f64]) -> Result<ExprId, Misfit> {
        let mut sum: Option<ExprId> = None;
        for (v, weight) in all.iter().zip(weights) {
            let weight = self.number(*weight, Kind::Number)?;
            let part = self.multiply(*v, weight)?;
            sum = Some(match sum {
                Some(sum) => self.add(sum, part)?,
                None => part,
            });
        }
        sum.ok_or(Misfit::NotFinite)
    }

    /// A sine in -1..1, lowest at whole turns.
    fn full_wave(&mut self, turns: ExprId) -> Result<ExprId, Misfit> {
        let level = self.derived(Op::Wave(Wave::Sine, turns), Kind::Number)?;
        let (two, one) = (self.number(2.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        let double = self.multiply(level, two)?;
        self.subtract(double, one)
    }

    /// A colour made darker or brighter in linear light.
    pub fn shade(&mut self, color: ExprId, by: ExprId) -> Result<ExprId, Misfit> {
        self.expect(color, Kind::Color)?;
        self.expect(by, Kind::Number)?;
        self.derived(Op::Multiply(color, by), Kind::Color)
    }

    /// The colour of a black body at a number of kelvins that varies; what lies outside of
    /// [`crate::color::COLDEST`] and [`crate::color::HOTTEST`] is taken as those.
    pub fn kelvin(&mut self, kelvins: ExprId) -> Result<ExprId, Misfit> {
        use crate::color::{COLDEST, HOTTEST, Rgb};
        self.expect(kelvins, Kind::Number)?;
        if let Some(v) = self.scalar(kelvins) {
            let kelvin = crate::quantity::Kelvin(v.clamp(COLDEST.0, HOTTEST.0));
            return Ok(self.constant(Constant::Vector(Rgb::from_kelvin(kelvin).0), Kind::Color));
        }
        // Evenly in reciprocal temperature, where the colour changes most evenly.
        const ENTRIES: usize = 256;
        let (first, last) = (1e6 / HOTTEST.0, 1e6 / COLDEST.0);
        let step = (last - first) / (ENTRIES - 1) as f64;
        let mut tables = Vec::with_capacity(3);
        for (part, name) in ["kelvin_red", "kelvin_green", "kelvin_blue"].into_iter().enumerate() {
            tables.push(self.table(name, || {
                let at = |n: usize| crate::quantity::Kelvin(1e6 / (first + step * n as f64));
                // Seven digits are plenty, and stay short in print.
                let short = |v: f64| (v * 1e7).round() / 1e7;
                (0..ENTRIES).map(|n| short(crate::color::black_body(at(n))[part])).collect()
            }));
        }
        let lo = self.number(COLDEST.0, Kind::Number)?;
        let hi = self.number(HOTTEST.0, Kind::Number)?;
        let kept = self.derived(Op::Within(kelvins, lo, hi), Kind::Number)?;
        let million = self.number(1e6 / step, Kind::Number)?;
        let start = self.number(first / step, Kind::Number)?;
        let mired = self.divide(million, kept)?;
        let place = self.subtract(mired, start)?;
        let mut parts = Vec::with_capacity(3);
        for table in tables {
            let part = self.derived(Op::Table(table, place), Kind::Number)?;
            let nothing = self.number(0.0, Kind::Number)?;
            parts.push(self.derived(Op::Greatest(part, nothing), Kind::Number)?);
        }
        let color = self.derived(Op::Parts(parts[0], parts[1], parts[2]), Kind::Color)?;
        self.derived(Op::BrightestAtOne(color), Kind::Color)
    }

    /// The table of that name, made if there is none yet.
    fn table(&mut self, name: &str, make: impl FnOnce() -> Vec<f64>) -> TableId {
        let known = self.program.tables.iter().position(|table| table.name == name);
        let at = known.unwrap_or_else(|| {
            self.program.tables.push(Table { name: name.to_owned(), values: make() });
            self.program.tables.len() - 1
        });
        TableId(at as u32)
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
        // What is known of one side decides, or leaves the other.
        match (self.flag(a), self.flag(b)) {
            (Some(false), _) | (_, Some(true)) => return Ok(a),
            (_, Some(false)) | (Some(true), _) => return Ok(b),
            (None, None) => {}
        }
        self.derived(Op::And(a, b), Kind::OnOff)
    }

    /// Whether one or both are on.
    pub fn or(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, Misfit> {
        self.expect(a, Kind::OnOff)?;
        self.expect(b, Kind::OnOff)?;
        match (self.flag(a), self.flag(b)) {
            (Some(true), _) | (_, Some(false)) => return Ok(a),
            (_, Some(true)) | (Some(false), _) => return Ok(b),
            (None, None) => {}
        }
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
        if let Some(on) = self.flag(condition) {
            return Ok(if on { a } else { b });
        }
        let kind = self.kind(a);
        self.derived(Op::Choose(condition, a, b), kind)
    }

    /// A point of three lengths.
    pub fn point(&mut self, x: ExprId, y: ExprId, z: ExprId) -> Result<ExprId, Misfit> {
        for part in [x, y, z] {
            self.expect(part, Kind::Length)?;
        }
        self.derived(Op::Parts(x, y, z), Kind::Point)
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

    fn site(&mut self, owner: &Owner, path: &Use) -> Site {
        let mut place = 0u32;
        for byte in path.0.bytes() {
            place = kernel::scramble((place ^ u32::from(byte)).wrapping_add(0x9E37_79B9));
        }
        while self.sites.get(&place).is_some_and(|known| *known != path.0) {
            place = kernel::scramble(place.wrapping_add(1));
        }
        self.sites.insert(place, path.0.clone());
        Site { place, scope: owner.scope }
    }

    /// A level 0..1, drawn again after random times between `shortest` and `longest`; reached softly
    /// over a part of its time if `over` says so.
    pub fn held(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        [shortest, longest]: [ExprId; 2],
        over: Option<ExprId>,
    ) -> Result<ExprId, Misfit> {
        if let Some(part) = over {
            self.expect(part, Kind::Number)?;
            self.hold_to(owner, part, Pace::Fixed, "the part over which a level is reached")?;
        }
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
        let site = self.site(owner, place);
        let op = match over {
            Some(part) => Op::Soft(shortest, longest, part, site),
            None => Op::Held(shortest, longest, site),
        };
        Ok(self.push(op, Kind::Number, Pace::Flowing, owner.scope, true))
    }

    /// A level that drifts smoothly, 0..1.
    pub fn drift(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        rate: ExprId,
        octaves: f64,
    ) -> Result<ExprId, Misfit> {
        self.expect(rate, Kind::Rate)?;
        self.hold_to(owner, rate, Pace::Fixed, "the rate")?;
        if !(1.0..=6.0).contains(&octaves) || octaves.fract() != 0.0 {
            return Err(Misfit::Octaves(octaves));
        }
        let site = self.site(owner, place);
        let op = Op::Drift(rate, octaves as u32, site);
        Ok(self.push(op, Kind::Number, Pace::Flowing, owner.scope, true))
    }

    /// A displacement that wanders smoothly and never leaves a ball.
    pub fn wander(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        radius: ExprId,
        rate: ExprId,
        octaves: f64,
    ) -> Result<ExprId, Misfit> {
        self.expect(radius, Kind::Length)?;
        self.hold_to(owner, radius, Pace::Flowing, "the radius")?;
        let (two, one) = (self.number(2.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        let mut parts = Vec::with_capacity(3);
        for axis in ["x", "y", "z"] {
            let place = Use(format!("{}/{axis}", place.0));
            let level = self.drift(owner, &place, rate, octaves)?;
            let double = self.multiply(level, two)?;
            parts.push(self.subtract(double, one)?);
        }
        self.derived(Op::InBall([parts[0], parts[1], parts[2]], radius), Kind::Point)
    }

    /// 1 while a burst lasts, else 0. Both kinds of time are drawn evenly between their bounds; the
    /// draws come from tables, the key says where in them each turn begins.
    pub fn bursts(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        on: [ExprId; 2],
        off: [ExprId; 2],
    ) -> Result<ExprId, Misfit> {
        for times in [on, off] {
            for time in times {
                self.expect(time, Kind::Time)?;
                self.hold_to(owner, time, Pace::Constant, "a time of `bursts`")?;
            }
            self.rising(times[0], times[1])?;
        }
        let tables = ["bursts_on", "bursts_off"].map(|name| self.table(name, || draws_of(name)));
        let site = self.site(owner, place);
        let op = Op::Burst([on[0], on[1], off[0], off[1]], tables, site);
        Ok(self.push(op, Kind::Number, Pace::Flowing, owner.scope, true))
    }

    /// A level 0..1 drawn once, for the run and each lamp.
    pub fn drawn(&mut self, owner: &Owner, place: &Use) -> ExprId {
        let site = self.site(owner, place);
        self.push(Op::Phase(site), Kind::Number, Pace::Fixed, owner.scope, true)
    }

    /// One of a list, by a level 0..1 (1 excluded).
    pub fn one_of(&mut self, level: ExprId, all: &[ExprId]) -> Result<ExprId, Misfit> {
        let mut made = *all.last().ok_or(Misfit::NotFinite)?;
        let count = all.len() as f64;
        for (n, v) in all.iter().enumerate().rev().skip(1) {
            let end = self.number((n + 1) as f64 / count, Kind::Number)?;
            let before = self.above(end, level)?;
            made = self.choose(before, *v, made)?;
        }
        Ok(made)
    }

    /// Where the run stands in a turn of a period, 0..1; `phase` turns on from there.
    pub fn turns(
        &mut self,
        owner: &mut Owner,
        place: &Use,
        every: ExprId,
        phase: Option<ExprId>,
        start: Start,
    ) -> Result<ExprId, Misfit> {
        self.expect(every, Kind::Time)?;
        self.hold_to(owner, every, Pace::Fixed, "a period")?;
        let at = self.started(owner, place, every, start)?;
        let turned = self.derived(Op::Turned(Turn::Loop, start, at, every), Kind::Time)?;
        let turns = self.divide_unchecked(turned, every);
        match phase {
            Some(phase) => {
                self.expect(phase, Kind::Number)?;
                self.add(turns, phase)
            }
            None => Ok(turns),
        }
    }

    /// A quotient whose divisor is shown to be above 0 by validation.
    fn divide_unchecked(&mut self, a: ExprId, b: ExprId) -> ExprId {
        self.push(Op::Divide(a, b), Kind::Number, Pace::Constant, Scope::Book, false)
    }

    /// A wave's level 0..1 at a number of turns.
    pub fn wave(&mut self, wave: Wave, turns: ExprId) -> Result<ExprId, Misfit> {
        self.expect(turns, Kind::Number)?;
        self.derived(Op::Wave(wave, turns), Kind::Number)
    }

    /// 1 for the first part `on` of each turn, then 0.
    pub fn square(&mut self, turns: ExprId, on: ExprId) -> Result<ExprId, Misfit> {
        self.expect(turns, Kind::Number)?;
        self.expect(on, Kind::Number)?;
        self.derived(Op::Square(turns, on), Kind::Number)
    }

    /// The run's time, shifted by a chance if the start is scattered over `whole`.
    fn started(
        &mut self,
        owner: &Owner,
        place: &Use,
        whole: ExprId,
        start: Start,
    ) -> Result<ExprId, Misfit> {
        let now = self.now();
        if start != Start::Scattered {
            return Ok(now);
        }
        let phase = self.drawn(owner, place);
        let shift = self.multiply(whole, phase)?;
        self.add(now, shift)
    }

    /// A place in a period, moved on and wrapped again.
    pub fn turned_on(&mut self, at: ExprId, by: ExprId, period: ExprId) -> Result<ExprId, Misfit> {
        let moved = self.add(at, by)?;
        self.derived(Op::Turned(Turn::Loop, Start::Together, moved, period), Kind::Time)
    }

    /// A value as it is at another moment.
    pub fn at_moment(&mut self, value: ExprId, moment: ExprId) -> Result<ExprId, Misfit> {
        self.expect(moment, Kind::Time)?;
        let expr = self.program.expr(value);
        if expr.pace < Pace::Flowing && expr.parameters == 0 {
            return Ok(value);
        }
        let lo = self.number(-kernel::LAST_MOMENT, Kind::Time)?;
        let hi = self.number(kernel::LAST_MOMENT, Kind::Time)?;
        let kept = self.derived(Op::Within(moment, lo, hi), Kind::Time)?;
        let kind = self.kind(value);
        self.derived(Op::Moment(value, kept), kind)
    }

    /// A value as it was `by` ago, or will be if `by` is below 0.
    pub fn shifted(&mut self, value: ExprId, by: ExprId) -> Result<ExprId, Misfit> {
        let now = self.now();
        let then = self.subtract(now, by)?;
        self.at_moment(value, then)
    }

    /// A value that comes `each` later from lamp to lamp.
    pub fn later(&mut self, owner: &Owner, value: ExprId, each: ExprId) -> Result<ExprId, Misfit> {
        self.expect(each, Kind::Time)?;
        let index = self.index(owner)?;
        let by = self.multiply(each, index)?;
        self.shifted(value, by)
    }

    /// A value that takes `by` times as long.
    pub fn stretched(&mut self, value: ExprId, by: ExprId) -> Result<ExprId, Misfit> {
        self.expect(by, Kind::Number)?;
        let now = self.now();
        let then = self.divide(now, by)?;
        self.at_moment(value, then)
    }

    /// A value that changes only at multiples of a time.
    pub fn snapped(&mut self, value: ExprId, every: ExprId) -> Result<ExprId, Misfit> {
        self.expect(every, Kind::Time)?;
        let now = self.now();
        let turned = Op::Turned(Turn::Loop, Start::Together, now, every);
        let passed = self.derived(turned, Kind::Time)?;
        let then = self.subtract(now, passed)?;
        self.at_moment(value, then)
    }

    /// The direction of a point from the origin, of length 1.
    pub fn heading(&mut self, point: ExprId) -> Result<ExprId, Misfit> {
        self.expect(point, Kind::Point)?;
        self.derived(Op::Heading(point), Kind::Point)
    }

    /// A curve played once from the start of the run.
    pub fn once(&mut self, curve: CurveId) -> ExprId {
        let now = self.now();
        self.curve_at(curve, now)
    }

    /// A curve of 1 and 0 (on is 1) for these times, in seconds, and how long it is.
    pub fn rhythm(
        &mut self,
        name: &str,
        times: &[(bool, f64)],
    ) -> Result<(Track, Seconds), Misfit> {
        let level = |on: bool| Constant::Scalar(f64::from(u8::from(on)));
        let mut end = 0.0;
        let mut stops = Vec::with_capacity(times.len() + 1);
        for (on, length) in times {
            if !length.is_finite() || *length < 1e-3 {
                return Err(Misfit::NoPeriod { what: "a time of a rhythm", lo: *length });
            }
            stops.push((Place(end), level(*on), Easing::Jump));
            end += length;
        }
        let first = times.first().is_some_and(|(on, _)| *on);
        stops.push((Place(end), level(first), Easing::Jump));
        let name = format!("{name}_rhythm");
        let track = self.define_curve(&name, Domain::Time, Kind::Number, false, &stops)?;
        Ok((track, Seconds(end)))
    }

    /// The place in a curve, or in a part of it, that is played again and again; `place` is used where
    /// the start is scattered.
    pub fn turning(
        &mut self,
        owner: &Owner,
        place: &Use,
        length: Seconds,
        part: Option<[ExprId; 2]>,
        turn: Turn,
        start: Start,
    ) -> Result<ExprId, Misfit> {
        let mut bounds = [0.0, length.0];
        if let Some([from, to]) = part {
            for (bound, v) in bounds.iter_mut().zip([from, to]) {
                self.expect(v, Kind::Time)?;
                *bound = self.scalar(v).ok_or(Misfit::TooLively {
                    role: "a part of a curve".to_owned(),
                    limit: Pace::Constant,
                    found: Pace::Fixed,
                })?;
            }
            self.rising(from, to)?;
            let [from, to] = bounds;
            if from < 0.0 || to > length.0 || to - from < 1e-3 {
                return Err(Misfit::PartOutside { length: length.0, from, to });
            }
        }
        let [from, to] = bounds;
        let period = self.number(to - from, Kind::Time)?;
        let whole = match turn {
            Turn::Loop => period,
            Turn::Alternate => self.number(2.0 * (to - from), Kind::Time)?,
        };
        let at = self.started(owner, place, whole, start)?;
        let turned = self.derived(Op::Turned(turn, start, at, period), Kind::Time)?;
        if from == 0.0 {
            return Ok(turned);
        }
        let from = self.number(from, Kind::Time)?;
        self.add(from, turned)
    }

    /// A curve's value at a place; what is known is computed.
    pub fn curve_at(&mut self, curve: CurveId, at: ExprId) -> ExprId {
        let kind = self.program.curve(curve).kind;
        if let Some(v) = self.scalar(at) {
            let v = self.program.curve(curve).curve.at(v);
            return self.constant(Constant::Scalar(v), kind);
        }
        self.push(Op::Curve(curve, at), kind, Pace::Constant, Scope::Book, false)
    }

    /// A value of any kind from the scalar curves that it is made of: see [`Draft::define_curve`].
    pub fn track_at(&mut self, track: &Track, at: ExprId) -> Result<ExprId, Misfit> {
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
            (_, []) => Err(Misfit::Curve(CurveFault::TooFew)),
        }
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
        let site = chancy.then(|| self.site(owner, place));
        let scope = if chancy { owner.scope } else { Scope::Book };
        Ok(self.push(Op::Call(behaviour, filled, site), kind, pace, scope, chancy))
    }

    /// Names an expression inside a light or behaviour, so that printed code can use the name.
    pub fn name_local(&mut self, id: ExprId, name: &str) {
        if self.program.constant(id).is_none() {
            self.program.locals.entry(id).or_insert_with(|| name.to_owned());
        }
    }

    /// Defines a column of a curve, all of whose values are of one kind: a scalar curve for each number
    /// that a value is made of. Colours are kept as the roots of their cone responses, so that
    /// what lies between is blended in OKLab, unless `linear`.
    pub fn define_curve(
        &mut self,
        name: &str,
        domain: Domain,
        kind: Kind,
        linear: bool,
        stops: &[(Place, Constant, Easing)],
    ) -> Result<Track, Misfit> {
        let (suffixes, width): (&[&str], usize) = match kind {
            Kind::Color if linear => (&["_r", "_g", "_b"], 3),
            Kind::Color => (&["_l", "_m", "_s"], 3),
            Kind::Point => (&["_x", "_y", "_z"], 3),
            _ => (&[""], 1),
        };
        if domain == Domain::Time && stops.first().is_some_and(|(at, ..)| at.0 < 0.0) {
            return Err(Misfit::Curve(CurveFault::BeforeStart));
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
            let curve = Curve::new(values.collect()).map_err(Misfit::Curve)?;
            let id = CurveId(self.program.curves.len() as u32);
            let (title, name) = (name.to_owned(), format!("{name}{suffix}"));
            let kind = if kind.is_scalar() { kind } else { Kind::Number };
            let kind = if width > 1 && suffixes[0] == "_x" { Kind::Length } else { kind };
            self.program.curves.push(NamedCurve { title, name, kind, domain, curve });
            self.program.order.push(Subject::Curve(id));
            curves.push(id);
        }
        Ok(Track { kind, domain, linear, curves })
    }

    /// Defines a signal.
    pub fn define_signal(&mut self, name: &str, value: ExprId) -> Result<SignalId, Misfit> {
        self.expect_small([value])?;
        self.signal_costs.push(self.unfolded([value], true));
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
        let cost = self.expect_small([value])?;
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
        self.behaviour_costs.push([cost, self.unfolded([value], true)]);
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
                (LightKind::Ambient | LightKind::Directional, Kind::Strength(Photometry::Lux)) => {
                    Ok(())
                }
                (LightKind::Ambient | LightKind::Directional, _) => {
                    wrong("a strength in lx, or a number as a factor")
                }
                (_, Kind::Strength(Photometry::Lumen | Photometry::Candela)) => Ok(()),
                _ => wrong("a strength in lm or cd, or a number as a factor"),
            },
            Field::Color if found == Kind::Color => Ok(()),
            Field::Color => wrong("a color such as `#ffc37a` or `2100K`"),
            Field::ReachInner | Field::ReachOuter if found == Kind::Length => Ok(()),
            Field::ReachInner | Field::ReachOuter => wrong("a length such as `14m`"),
            Field::ConeInner | Field::ConeOuter if found == Kind::Angle => Ok(()),
            Field::ConeInner | Field::ConeOuter => wrong("an angle such as `50deg`"),
            Field::Falloff if found == Kind::Number => Ok(()),
            Field::Falloff => wrong("a number; `2` is the inverse square"),
            Field::Position | Field::Offset | Field::Aim if found == Kind::Point => Ok(()),
            Field::Position => wrong("a point such as `(0m, 6m, 0m)`"),
            Field::Offset => wrong("a displacement such as `wander(radius 3cm, rate 4Hz)`"),
            Field::Aim => wrong("a direction such as `(0m, -1m, 0m)`"),
            Field::Shadows if found == Kind::OnOff => Ok(()),
            Field::Shadows => wrong("on or off"),
            Field::Named(_) => Ok(()),
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
        array: &Array,
        driven: &[(Channel, Vec<ExprId>)],
    ) -> Result<LightId, Misfit> {
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
                let value = match field {
                    Field::Aim => self.heading(*value)?,
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

    /// Defines an output: values for the game that are no lamp. A value without a name is the only one.
    pub fn define_output(
        &mut self,
        name: &str,
        array: &Array,
        values: &[(Option<String>, ExprId)],
    ) -> Result<LightId, Misfit> {
        let mut drives = Vec::with_capacity(values.len());
        for (n, (_, value)) in values.iter().enumerate() {
            let (value, field) = (self.given_out(*value)?, Field::Named(n as u8));
            drives.push(Drive { field, value, kind: self.kind(value) });
        }
        let names = values.iter().filter_map(|(name, _)| name.clone()).collect();
        self.read(name, LightKind::Output, array, drives, names, None)
    }

    /// A length or point in the unit that the space gives out.
    fn given_out(&mut self, value: ExprId) -> Result<ExprId, Misfit> {
        let unit = self.program.space.unit;
        if unit == 1.0 || !matches!(self.kind(value), Kind::Length | Kind::Point) {
            return Ok(value);
        }
        let unit = self.number(unit, Kind::Number)?;
        self.divide(value, unit)
    }

    fn read(
        &mut self,
        name: &str,
        kind: LightKind,
        array: &Array,
        drives: Vec<Drive>,
        names: Vec<String>,
        stated_color: Option<ExprId>,
    ) -> Result<LightId, Misfit> {
        let (size, levels) = array.laid_out()?;
        if !self.names.insert(name.to_owned()) {
            return Err(Misfit::NameTaken(name.to_owned()));
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
        });
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
                (Vector(a), Vector(b), Scalar(s)) => {
                    Some(Vector([0, 1, 2].map(|n| kernel::between(a[n], b[n], s))))
                }
                _ => None,
            },
            Op::Above(a, b) => match (known(a)?, known(b)?) {
                (Scalar(a), Scalar(b)) => Some(OnOff(a > b)),
                _ => None,
            },
            Op::Same(a, b) => match (known(a)?, known(b)?) {
                (Scalar(a), Scalar(b)) => Some(OnOff(a == b)),
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
            Op::Parts(x, y, z) => match (known(x)?, known(y)?, known(z)?) {
                (Scalar(x), Scalar(y), Scalar(z)) => Some(Vector([x, y, z])),
                _ => None,
            },
            Op::Wave(wave, x) => one(x, wave.function()),
            Op::Square(x, on) => two(x, on, kernel::square_level),
            Op::Eased(easing, u) => match known(u)? {
                Scalar(u) => Some(Scalar(easing.at(u))),
                _ => None,
            },
            Op::Table(table, x) => match known(x)? {
                Scalar(x) => {
                    Some(Scalar(kernel::table_level(x, &self.program.table(*table).values)))
                }
                _ => None,
            },
            Op::ConeRoot(cone, c) => match known(c)? {
                Vector(c) => Some(Scalar(kernel::cone_root(usize::from(*cone), c))),
                _ => None,
            },
            Op::FromCones(l, m, s) => match (known(l)?, known(m)?, known(s)?) {
                (Scalar(l), Scalar(m), Scalar(s)) => {
                    Some(Vector([0, 1, 2].map(|part| kernel::light_of(part, [l, m, s]))))
                }
                _ => None,
            },
            Op::Heading(point) => match known(point)? {
                Vector(p) => Some(Vector(kernel::direction(p))),
                _ => None,
            },
            Op::Moment(value, _) => known(value),
            Op::Brightest(c) => match known(c)? {
                Vector([r, g, b]) => Some(Scalar(kernel::greatest(kernel::greatest(r, g), b))),
                _ => None,
            },
            Op::BrightestAtOne(c) => match known(c)? {
                Vector(v) => Some(Vector(crate::color::Rgb(v).brightest_at_one().0)),
                _ => None,
            },
            Op::Now
            | Op::Index(_)
            | Op::Parameter(_)
            | Op::Signal(_)
            | Op::Call(..)
            | Op::Held(..)
            | Op::Soft(..)
            | Op::Drift(..)
            | Op::Burst(..)
            | Op::InBall(..)
            | Op::Phase(_)
            | Op::Turned(..)
            | Op::Curve(..) => None,
        }
    }
}
