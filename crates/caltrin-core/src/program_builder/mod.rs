//! The program builder: checks the kind and change rate of each expression as it is added, and
//! folds constants. Both the lightbook's resolver and the Rust builder use it.

mod blend;
mod by_hour;
mod chance;
pub mod condition;
pub mod day;
mod define;
pub mod event;
mod fold;
mod follow;
pub mod group;
pub mod modes;
mod notice;
mod owner;
pub mod sequence;
pub mod sky;
pub mod sound;
pub mod spark;
mod view;

use std::collections::BTreeMap;

use crate::kernel::{self, PAIRS};
use crate::kind::{ChangeRate, InstanceLevel, Kind};
use crate::program::{
    Anchors, Constant, CurveId, Dial, Domain, EventId, EventOwner, Expr, ExprId, NOTICE_CAPACITIES,
    NOTICE_CAPACITY, Op, Program, Rehearsal, SignalId, Space, Start, Turn, Up, Wanted,
};
use crate::quantity::Seed;
use crate::semantic_error::SemanticError;
use rustc_hash::{FxHashMap, FxHashSet};

use sky::{Beams, Crossing};

pub use notice::{Sender, Sending};
pub use owner::{Array, Owner, Use};

/// Maximum number of parameters of a behavior.
pub const MOST_PARAMETERS: usize = 16;
/// Maximum depth of calls between behaviors.
const DEEPEST: u32 = 64;

/// One column of a curve: a scalar curve per component.
#[derive(Clone, Debug, PartialEq)]
pub struct Track {
    /// The kind of its values.
    pub kind: Kind,
    /// The kind of its positions.
    pub domain: Domain,
    /// Whether colors are blended in linear light.
    pub linear: bool,
    /// One curve per component of a value.
    pub curves: Vec<CurveId>,
}

/// Prefix sums of uniform random numbers in 0..1, starting at 0; rounded to four digits, which
/// keeps exported tables short.
fn draws_of(name: &str) -> Vec<f64> {
    let key = kernel::chance_key(name.len() as u32, PAIRS);
    let mut sum = 0.0f64;
    let draws = (0..PAIRS).map(|n| {
        sum += (kernel::to_unit(kernel::draw(key, n)) * 1e4).round();
        sum / 1e4
    });
    std::iter::once(0.0).chain(draws).collect()
}

/// Builds a program.
#[derive(Clone, Debug)]
pub struct ProgramBuilder {
    program: Program,
    /// The up axis of the book's points.
    written_up: Up,
    /// Overrides of the book's space.
    wanted: Wanted,
    sites: FxHashMap<u32, String>,
    /// Total number of components of all inputs.
    input_slots: u64,
    /// The owner of new events.
    home: EventOwner,
    /// The names of all lights and inputs.
    names: FxHashSet<String>,
    depths: Vec<u32>,
    /// The expanded size of a call of each behavior: at the current time, and at another time,
    /// where the signals that it uses are evaluated again.
    behavior_costs: Vec<[u64; 2]>,
    /// The expanded size of each signal at another time.
    signal_costs: Vec<u64>,
    /// The curves of sunlight and moonlight.
    beams: Beams,
    /// Conditions of events that depend on the hour only.
    by_hour: FxHashMap<EventId, HourCause>,
    /// Hours at which a sun crosses an altitude.
    crossings: FxHashMap<ExprId, Crossing>,
    /// Whether a sun stays below or above an altitude all day, by the names of the sun and the
    /// altitude.
    stays: Vec<(String, ExprId)>,
    /// The curves of sequences.
    layer_curves: Vec<sequence::NamedStops>,
    /// The playback of each sound.
    playbacks: Vec<sound::Playback>,
    /// Expressions that depend on sounds only, and the envelope that they follow.
    heard: FxHashMap<ExprId, sound::Heard>,
}

/// Maximum total number of components of all inputs.
const MOST_SLOTS: u64 = 1 << 20;

/// Maximum number of walls and posts.
const MOST_SOLIDS: usize = 10_000;
/// The most eyes of a book, and the most backdrops.
const MOST_VIEWS: usize = 64;

/// Maximum number of operations that one light may expand to.
const MOST_STEPS: u64 = 20_000;

/// Maximum number of pairs of expressions in one structural comparison.
const MOST_COMPARED: u32 = 256;

/// The condition of an event that depends on the hour only.
#[derive(Clone, Copy, Debug)]
pub(crate) enum HourCause {
    /// The clock reaches an hour.
    Hour(f64),
    /// A condition becomes true; it is rearmed by another condition.
    Condition(ExprId, Option<ExprId>),
}

impl ProgramBuilder {
    /// Creates an empty program with a name and seed.
    pub fn new(name: &str, seed: Seed) -> Self {
        ProgramBuilder {
            program: Program {
                name: name.to_owned(),
                seed,
                notice_capacity: NOTICE_CAPACITY,
                space: Space::default(),
                clock: None,
                phases: Vec::new(),
                modes: Vec::new(),
                states: Vec::new(),
                anchors: Anchors::default(),
                scenes: Vec::new(),
                tags: Vec::new(),
                bodies: Vec::new(),
                exprs: Vec::new(),
                curves: Vec::new(),
                tables: Vec::new(),
                signals: Vec::new(),
                behaviors: Vec::new(),
                inputs: Vec::new(),
                choices: Vec::new(),
                events: Vec::new(),
                notices: Vec::new(),
                notice_values: Vec::new(),
                queue: None,
                set_event: None,
                by_hour: Vec::new(),
                by_game: Vec::new(),
                clipped: Vec::new(),
                sparks: Vec::new(),
                sounds: Vec::new(),
                rehearsals: Vec::new(),
                lights: Vec::new(),
                solids: Vec::new(),
                eyes: Vec::new(),
                backdrops: Vec::new(),
                order: Vec::new(),
                locals: BTreeMap::new(),
                blends: BTreeMap::new(),
                hues: BTreeMap::new(),
            },
            written_up: Up::Y,
            wanted: Wanted::default(),
            sites: FxHashMap::default(),
            input_slots: 0,
            home: EventOwner::BOOK,
            names: FxHashSet::default(),
            depths: Vec::new(),
            behavior_costs: Vec::new(),
            signal_costs: Vec::new(),
            beams: Beams::default(),
            by_hour: FxHashMap::default(),
            crossings: FxHashMap::default(),
            stays: Vec::new(),
            layer_curves: Vec::new(),
            playbacks: Vec::new(),
            heard: FxHashMap::default(),
        }
    }

    /// Returns the program, not validated.
    pub fn finish(self) -> Program {
        self.program
    }

    /// Adds a rehearsal, which does not affect evaluation or exports.
    pub fn rehearse(&mut self, rehearsal: Rehearsal) {
        self.program.rehearsals.push(rehearsal);
    }

    /// The program built so far.
    pub fn program(&self) -> &Program {
        &self.program
    }

    /// Sets the book's name.
    pub fn set_name(&mut self, name: &str) {
        name.clone_into(&mut self.program.name);
    }

    /// Sets the capacity of the queue of notices, before the first notice is declared; limited to [`NOTICE_CAPACITIES`].
    pub fn set_notice_capacity(&mut self, count: u32) {
        self.program.notice_capacity =
            count.clamp(*NOTICE_CAPACITIES.start(), *NOTICE_CAPACITIES.end());
    }

    /// Sets the book's seed.
    pub fn set_seed(&mut self, seed: Seed) {
        self.program.seed = seed;
    }

    /// Sets the coordinate system of the book's positions. Call this before defining lights and
    /// inputs.
    pub fn set_space(&mut self, space: Space) {
        self.written_up = space.up;
        let Wanted { up, unit, factor } = self.wanted;
        self.program.space = Space {
            up: up.unwrap_or(space.up),
            unit: unit.unwrap_or(space.unit),
            factor: factor.unwrap_or(space.factor),
        };
    }

    /// Sets overrides of the book's space.
    pub fn set_wanted(&mut self, wanted: Wanted) {
        self.wanted = wanted;
        self.set_space(Space { up: self.written_up, ..Space::default() });
    }

    /// The kind of an expression.
    pub fn kind(&self, id: ExprId) -> Kind {
        self.program.expr(id).kind
    }

    /// Whether an expression is constant.
    pub fn is_known(&self, id: ExprId) -> bool {
        self.program.constant(id).is_some()
    }

    pub(crate) fn scalar(&self, id: ExprId) -> Option<f64> {
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

    fn push(
        &mut self,
        op: Op,
        kind: Kind,
        change_rate: ChangeRate,
        scope: InstanceLevel,
        chancy: bool,
    ) -> ExprId {
        let (mut change_rate, mut scope, mut chancy, mut parameters) =
            (change_rate, scope, chancy, 0);
        for operand in op.operands() {
            let expr = self.program.expr(operand);
            change_rate = change_rate.max(expr.change_rate);
            scope = scope.max(expr.scope);
            chancy |= expr.chancy;
            parameters |= expr.parameters;
        }
        if let Op::Parameter(n) = op {
            parameters |= 1 << n;
        }
        let id = ExprId(self.program.exprs.len() as u32);
        self.program.exprs.push(Expr { op, kind, change_rate, scope, chancy, parameters });
        id
    }

    /// The number of operations that expressions expand to. A shared expression or signal counts
    /// once, a behavior once per call; at `another` time everything counts again.
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
                Op::Call(behavior, ..) => {
                    let cost = self.behavior_costs[behavior.index()][usize::from(another)];
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

    /// Rejects expressions that expand to too many operations.
    fn expect_small(&self, roots: impl IntoIterator<Item = ExprId>) -> Result<u64, SemanticError> {
        match self.unfolded(roots, false) {
            steps if steps > MOST_STEPS => Err(SemanticError::TooLarge(MOST_STEPS)),
            steps => Ok(steps),
        }
    }

    /// Records that an easing under this name is clamped to its ends, if it overshoots.
    pub(crate) fn note_clip(
        &mut self,
        name: &str,
        easings: impl IntoIterator<Item = crate::curve::Easing>,
    ) {
        let overshoots = easings.into_iter().any(crate::curve::Easing::overshoots);
        if overshoots && !self.program.clipped.iter().any(|known| known == name) {
            self.program.clipped.push(name.to_owned());
        }
    }

    /// Whether two expressions are structurally equal. At most [`MOST_COMPARED`] pairs are compared, so that building a
    /// program stays linear in its size; larger expressions count as different.
    fn is_same(&self, a: ExprId, b: ExprId) -> bool {
        let mut open = vec![(a, b)];
        for _ in 0..MOST_COMPARED {
            let Some((a, b)) = open.pop() else { return true };
            if a == b {
                continue;
            }
            let [a, b] = [a, b].map(|id| self.program.expr(id));
            let [of_a, of_b] = [a, b].map(|expr| expr.op.operands());
            let same_op = match (&a.op, &b.op) {
                (Op::Constant(a), Op::Constant(b)) => a.bits() == b.bits(),
                _ => of_a.len() == of_b.len() && a.op.on(&of_b) == b.op,
            };
            if a.kind != b.kind || !same_op {
                return false;
            }
            open.extend(of_a.into_iter().zip(of_b));
        }
        open.is_empty()
    }

    /// Adds an expression whose change rate and level come from its operands.
    pub(crate) fn derived(&mut self, op: Op, kind: Kind) -> Result<ExprId, SemanticError> {
        // What is compared with itself is known.
        let known = match op {
            Op::Above(a, b) if self.is_same(a, b) => Some(false),
            Op::Equal(a, b) if self.is_same(a, b) => Some(true),
            _ => None,
        };
        if let Some(known) = known {
            return Ok(self.constant(Constant::OnOff(known), kind));
        }
        if let Some(folded) = self.fold(&op) {
            let finite = match folded {
                Constant::Scalar(v) => v.is_finite(),
                Constant::Vector(v) => v.iter().all(|v| v.is_finite()),
                Constant::OnOff(_) => true,
            };
            return if finite {
                Ok(self.constant(folded, kind))
            } else {
                Err(SemanticError::NotFinite)
            };
        }
        Ok(self.push(op, kind, ChangeRate::Constant, InstanceLevel::Book, false))
    }

    /// A constant in the base unit of its kind. Must be finite.
    pub fn constant(&mut self, value: Constant, kind: Kind) -> ExprId {
        self.push(Op::Constant(value), kind, ChangeRate::Constant, InstanceLevel::Book, false)
    }

    /// A constant with one component, if it is finite.
    pub fn number(&mut self, value: f64, kind: Kind) -> Result<ExprId, SemanticError> {
        if value.is_finite() {
            Ok(self.constant(Constant::Scalar(value), kind))
        } else {
            Err(SemanticError::NotFinite)
        }
    }

    /// The program built so far, for additions.
    pub(crate) fn program_mut(&mut self) -> &mut Program {
        &mut self.program
    }

    /// The curves of sunlight and moonlight.
    pub(crate) fn beams(&mut self) -> &mut Beams {
        &mut self.beams
    }

    /// The values of the book's clock, if it has one.
    pub(crate) fn dial(&mut self, dial: Dial) -> ExprId {
        let kind = match dial {
            Dial::Hour => Kind::Hour,
            Dial::Days => Kind::Number,
        };
        self.push(Op::Clock(dial), kind, ChangeRate::Flowing, InstanceLevel::Book, false)
    }

    /// Converts a point from axes with y up to the axes of the book.
    pub(crate) fn stood_as_written(&mut self, point: ExprId) -> Result<ExprId, SemanticError> {
        match self.written_up {
            Up::Y => Ok(point),
            Up::Z => self.derived(Op::ChangeUp(point, Up::Z), Kind::Point),
        }
    }

    /// Wraps an hour to 0 up to one `day`.
    pub(crate) fn round_the_clock(
        &mut self,
        at: ExprId,
        day: ExprId,
    ) -> Result<ExprId, SemanticError> {
        self.derived(Op::Looped(Turn::Loop, Start::Together, at, day), Kind::Hour)
    }

    /// The run's time.
    pub fn now(&mut self) -> ExprId {
        self.push(Op::Now, Kind::Time, ChangeRate::Flowing, InstanceLevel::Book, false)
    }

    /// The index of the lamp in its array or, without an array, of the innermost instance.
    pub fn index(&mut self, owner: &Owner) -> Result<ExprId, SemanticError> {
        let scope = owner.indexed.last().ok_or(SemanticError::NoArray)?;
        Ok(self.push(Op::Index(*scope), Kind::Number, ChangeRate::Fixed, *scope, false))
    }

    /// Whether the index is `n`, for exceptions.
    pub fn is_index(&mut self, owner: &Owner, n: u32) -> Result<ExprId, SemanticError> {
        let index = self.index(owner)?;
        let n = self.number(f64::from(n), Kind::Number)?;
        self.derived(Op::Equal(index, n), Kind::OnOff)
    }

    /// A signal's value.
    pub fn signal(&mut self, id: SignalId) -> ExprId {
        let value = self.program.expr(self.program.signal(id).value);
        let (kind, change_rate, scope) = (value.kind, value.change_rate, value.scope);
        if let Op::Constant(c) = value.op {
            return self.constant(c, kind);
        }
        self.push(Op::Signal(id), kind, change_rate, scope, false)
    }

    /// Rejects an expression of another kind than expected.
    pub fn expect(&self, id: ExprId, wanted: Kind) -> Result<(), SemanticError> {
        let found = self.kind(id);
        if found == wanted {
            Ok(())
        } else {
            Err(SemanticError::WrongKind { wanted: wanted.to_string(), found })
        }
    }

    /// Rejects an expression with more than one component.
    pub fn expect_scalar(&self, id: ExprId) -> Result<(), SemanticError> {
        let found = self.kind(id);
        if found.is_scalar() {
            Ok(())
        } else {
            Err(SemanticError::WrongKind {
                wanted: "a value that can be ordered".to_owned(),
                found,
            })
        }
    }

    /// Rejects an expression that changes more often than its context allows. Parameters in it have
    /// the same limit at each call.
    pub fn hold_to(
        &self,
        owner: &mut Owner,
        id: ExprId,
        limit: ChangeRate,
        role: &str,
    ) -> Result<(), SemanticError> {
        let expr = self.program.expr(id);
        if expr.change_rate > limit {
            return Err(SemanticError::TooLively {
                role: role.to_owned(),
                limit,
                found: expr.change_rate,
            });
        }
        for (n, held) in owner.limits.iter_mut().enumerate() {
            if expr.parameters & (1 << n) != 0 {
                *held = (*held).min(limit);
            }
        }
        Ok(())
    }

    /// Negation.
    pub fn negate(&mut self, a: ExprId) -> Result<ExprId, SemanticError> {
        match self.kind(a) {
            kind @ (Kind::Color | Kind::OnOff) => Err(SemanticError::WrongKind {
                wanted: "a number or a point".to_owned(),
                found: kind,
            }),
            kind => self.derived(Op::Negate(a), kind),
        }
    }

    fn alike(&self, a: ExprId, b: ExprId, verb: &'static str) -> Result<Kind, SemanticError> {
        let (left, right) = (self.kind(a), self.kind(b));
        if left != right || matches!(left, Kind::Color | Kind::OnOff) {
            return Err(SemanticError::NoArithmetic { verb, left, right });
        }
        Ok(left)
    }

    /// The sum of two values of one kind.
    pub fn add(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, SemanticError> {
        let kind = self.alike(a, b, "add")?;
        self.derived(Op::Add(a, b), kind)
    }

    /// The difference of two values of one kind.
    pub fn subtract(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, SemanticError> {
        let kind = self.alike(a, b, "subtract")?;
        self.derived(Op::Subtract(a, b), kind)
    }

    /// The product: a number with anything but a color, or a time with a rate.
    pub fn multiply(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, SemanticError> {
        let (left, right) = (self.kind(a), self.kind(b));
        match (left, right) {
            (Kind::Color | Kind::OnOff, _) | (_, Kind::Color | Kind::OnOff) => {
                Err(SemanticError::NoArithmetic { verb: "multiply", left, right })
            }
            (kind, Kind::Number) => self.derived(Op::Multiply(a, b), kind),
            (Kind::Number, Kind::Point) => self.derived(Op::Multiply(b, a), Kind::Point),
            (Kind::Number, kind) => self.derived(Op::Multiply(a, b), kind),
            (Kind::Time, Kind::Rate) | (Kind::Rate, Kind::Time) => {
                self.derived(Op::Multiply(a, b), Kind::Number)
            }
            _ => Err(SemanticError::NoArithmetic { verb: "multiply", left, right }),
        }
    }

    /// The quotient: by a number, of two values of one kind, or a number by a time or rate.
    pub fn divide(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, SemanticError> {
        let (left, right) = (self.kind(a), self.kind(b));
        if self.scalar(b) == Some(0.0) {
            return Err(SemanticError::DivisionByZero { lo: 0.0, hi: 0.0 });
        }
        let kind = match (left, right) {
            (Kind::Color | Kind::OnOff, _) => None,
            (kind, Kind::Number) => Some(kind),
            (Kind::Number, Kind::Time) => Some(Kind::Rate),
            (Kind::Number, Kind::Rate) => Some(Kind::Time),
            (x, y) if x == y && x.is_scalar() => Some(Kind::Number),
            _ => None,
        };
        let kind = kind.ok_or(SemanticError::NoArithmetic { verb: "divide", left, right })?;
        self.derived(Op::Divide(a, b), kind)
    }

    fn ordered(&self, a: ExprId, b: ExprId, verb: &'static str) -> Result<Kind, SemanticError> {
        let (left, right) = (self.kind(a), self.kind(b));
        if left == right && left.is_scalar() {
            Ok(left)
        } else {
            Err(SemanticError::NoArithmetic { verb, left, right })
        }
    }

    /// The smaller of two values of one kind.
    pub fn min(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, SemanticError> {
        let kind = self.ordered(a, b, "compare")?;
        self.derived(Op::Min(a, b), kind)
    }

    /// The larger of two values of one kind.
    pub fn max(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, SemanticError> {
        let kind = self.ordered(a, b, "compare")?;
        self.derived(Op::Max(a, b), kind)
    }

    /// `v` clamped to `lo..hi`.
    pub fn clamp(&mut self, v: ExprId, lo: ExprId, hi: ExprId) -> Result<ExprId, SemanticError> {
        let kind = self.ordered(v, lo, "compare")?;
        self.ordered(v, hi, "compare")?;
        self.rising(lo, hi)?;
        self.derived(Op::Clamp(v, lo, hi), kind)
    }

    /// Whether `a` is greater than `b`.
    pub fn above(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, SemanticError> {
        self.ordered(a, b, "compare")?;
        self.derived(Op::Above(a, b), Kind::OnOff)
    }

    /// Whether both are on.
    pub fn and(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, SemanticError> {
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
    pub fn or(&mut self, a: ExprId, b: ExprId) -> Result<ExprId, SemanticError> {
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
    pub fn not(&mut self, a: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(a, Kind::OnOff)?;
        self.derived(Op::Not(a), Kind::OnOff)
    }

    /// `a` if `condition` is on, otherwise `b`; both of one kind.
    pub fn select(
        &mut self,
        condition: ExprId,
        a: ExprId,
        b: ExprId,
    ) -> Result<ExprId, SemanticError> {
        self.expect(condition, Kind::OnOff)?;
        self.expect(b, self.kind(a))?;
        if let Some(on) = self.flag(condition) {
            return Ok(if on { a } else { b });
        }
        // Where nothing depends on the condition, what it looks at is not evaluated.
        if self.is_same(a, b) {
            return Ok(a);
        }
        let kind = self.kind(a);
        self.derived(Op::Select(condition, a, b), kind)
    }

    /// A point of three lengths.
    pub fn point(&mut self, x: ExprId, y: ExprId, z: ExprId) -> Result<ExprId, SemanticError> {
        for part in [x, y, z] {
            self.expect(part, Kind::Length)?;
        }
        self.derived(Op::Parts(x, y, z), Kind::Point)
    }

    /// Rejects a constant range that is reversed.
    pub fn rising(&self, lo: ExprId, hi: ExprId) -> Result<(), SemanticError> {
        match (self.scalar(lo), self.scalar(hi)) {
            (Some(lo), Some(hi)) if lo > hi => Err(SemanticError::FallingRange { lo, hi }),
            _ => Ok(()),
        }
    }

    /// The direction of a point from the origin, as a unit vector.
    pub fn heading(&mut self, point: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(point, Kind::Point)?;
        self.derived(Op::Direction(point), Kind::Point)
    }
}
