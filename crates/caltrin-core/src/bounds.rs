//! Bounds without sampling: the range that a value can take, by interval arithmetic.
//!
//! IEEE rounding is monotone, so the interval of an operation is the hull of the operation at the
//! ends of its operands' intervals; nothing the evaluator gives lies outside.

use std::collections::BTreeMap;

use crate::interval::Interval;
use crate::kernel::{self, LAST_MOMENT};
use crate::kind::{InstanceLevel, Kind};
use crate::program::{Constant, Dial, ExprId, LightId, NEVER, Op, Program, SignalId, Size};
use crate::semantic_error::SemanticError;
use crate::sky::{LAST_HOUR, MOST_DAYS};
use rustc_hash::FxHashMap;

/// The bounds of a value of any kind.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Bounds {
    /// Of a kind that is one number.
    Scalar(Interval),
    /// Of each part of a color or point.
    Vector([Interval; 3]),
    /// On or off.
    OnOff,
}

impl Bounds {
    /// The interval of part `n`; on or off counts as 0..1.
    pub fn part(self, n: usize) -> Interval {
        match self {
            Bounds::Scalar(i) => i,
            Bounds::Vector(v) => v[n],
            Bounds::OnOff => Interval { lo: 0.0, hi: 1.0 },
        }
    }

    fn map2(self, other: Self, f: impl Fn(Interval, Interval) -> Interval) -> Self {
        match (self, other) {
            (Bounds::Vector(a), b) => Bounds::Vector(std::array::from_fn(|n| f(a[n], b.part(n)))),
            (Bounds::Scalar(a), b) => Bounds::Scalar(f(a, b.part(0))),
            (Bounds::OnOff, _) => Bounds::OnOff,
        }
    }

    fn is_finite(self) -> bool {
        match self {
            Bounds::Scalar(i) => i.is_finite(),
            Bounds::Vector(v) => v.iter().all(|i| i.is_finite()),
            Bounds::OnOff => true,
        }
    }
}

/// The light whose roots of cone responses lie in these intervals, part by part.
fn light_between(roots: [Interval; 3]) -> [Interval; 3] {
    [0, 1, 2].map(|part| {
        let corners = [0, 1, 2, 3, 4, 5, 6, 7].map(|n| {
            let end = |i: usize| if n >> i & 1 == 0 { roots[i].lo } else { roots[i].hi };
            kernel::light_of(part, [end(0), end(1), end(2)])
        });
        let hull = Interval::hull(&corners);
        Interval { lo: (hull.lo - 1e-12).max(0.0), hi: hull.hi + 1e-12 }
    })
}

/// The colors between which another lies, as intervals of their roots, each once and in order, and how many blends lie in
/// one another.
#[derive(Clone, Debug, Default)]
struct Ends {
    colors: Vec<[Interval; 3]>,
    depth: u32,
}

impl Ends {
    /// Most colors that are kept apart.
    const MOST: usize = 16;

    fn one(roots: [Interval; 3]) -> Ends {
        Ends { colors: vec![roots], depth: 0 }
    }

    /// Those of both, unless there are too many.
    fn with(mut self, other: Ends) -> Option<Ends> {
        self.depth = self.depth.max(other.depth);
        self.colors.extend(other.colors);
        let bits = |end: &[Interval; 3]| end.map(|root| (root.lo.to_bits(), root.hi.to_bits()));
        self.colors.sort_by_key(bits);
        self.colors.dedup();
        (self.colors.len() <= Ends::MOST).then_some(self)
    }

    /// Those of a blend of these.
    fn blended(self) -> Ends {
        Ends { depth: self.depth + 1, ..self }
    }
}

/// The hull of the Bernstein coefficients of each part of the light of all blends of colors between these ends, which are
/// roots of cone responses.
fn coefficients(ends: &[[Interval; 3]]) -> [Interval; 3] {
    let mut all = [Interval { lo: f64::INFINITY, hi: f64::NEG_INFINITY }; 3];
    for i in 0..ends.len() {
        for j in i..ends.len() {
            for k in j..ends.len() {
                for (part, all) in all.iter_mut().enumerate() {
                    let (mut lo, mut hi) = (0.0, 0.0);
                    let roots = ends[i].iter().zip(&ends[j]).zip(&ends[k]);
                    for (cone, ((a, b), c)) in roots.enumerate() {
                        let product = a.corners(*b, |x, y| x * y).corners(*c, |x, y| x * y);
                        let share = kernel::light_share(part, cone);
                        lo += (share * product.lo).min(share * product.hi);
                        hi += (share * product.lo).max(share * product.hi);
                    }
                    *all = Interval { lo: all.lo.min(lo), hi: all.hi.max(hi) };
                }
            }
        }
    }
    all
}

/// The parts of a color whose brightest is brought to 1: each is largest where it is and the others are not.
fn at_one(parts: [Interval; 3]) -> [Interval; 3] {
    [0, 1, 2].map(|n| {
        let others = [parts[(n + 1) % 3], parts[(n + 2) % 3]];
        let (least, most) = (others[0].lo.max(others[1].lo), others[0].hi.max(others[1].hi));
        let share = |part: f64, others: f64, black: f64| {
            let whole = part.max(others);
            if whole > 1e-9 { (part / whole).clamp(0.0, 1.0) } else { black }
        };
        let (lo, hi) = (share(parts[n].lo, most, 0.0), share(parts[n].hi, least, 1.0));
        Interval { lo, hi }
    })
}

/// Where an expression is evaluated: in the open, or inside a call with these arguments.
struct CallFrame {
    number: usize,
    arguments: Vec<Bounds>,
    /// The outermost call that led here.
    call: Option<ExprId>,
    /// The light that is evaluated, if it is one.
    light: Option<LightId>,
}

/// Asks for the bounds of single expressions of a checked program, as its checks do. What was asked
/// once is known.
pub struct RangeQuery<'a> {
    analysis: RangeAnalysis<'a>,
    frames: BTreeMap<Option<LightId>, CallFrame>,
}

impl<'a> RangeQuery<'a> {
    /// Of a program.
    pub fn new(program: &'a Program) -> Self {
        RangeQuery { analysis: RangeAnalysis::new(program), frames: BTreeMap::new() }
    }

    fn with<T>(
        &mut self,
        light: Option<LightId>,
        ask: impl FnOnce(&mut RangeAnalysis<'a>, &CallFrame) -> T,
    ) -> T {
        let analysis = &mut self.analysis;
        let frame =
            self.frames.entry(light).or_insert_with(|| analysis.frame(Vec::new(), None, light));
        ask(analysis, frame)
    }

    /// The bounds of an expression of a light, or of a signal where `light` is `None`.
    pub fn bounds(&mut self, light: Option<LightId>, id: ExprId) -> Bounds {
        self.with(light, |analysis, frame| analysis.bounds(id, frame))
    }

    /// How far a point of a light can lie from the origin, in its unit.
    pub fn reach(&mut self, light: Option<LightId>, id: ExprId) -> f64 {
        self.with(light, |analysis, frame| analysis.reach(id, frame))
    }
}

/// Walks a program, finds bounds, and notes what can go wrong at which expression.
pub(crate) struct RangeAnalysis<'a> {
    program: &'a Program,
    signals: FxHashMap<SignalId, Bounds>,
    seen: FxHashMap<(usize, ExprId), Bounds>,
    ends: FxHashMap<(usize, ExprId), Option<Ends>>,
    /// Blends of colors by the roots that they are made of.
    blends: FxHashMap<[ExprId; 3], ExprId>,
    signal_ends: FxHashMap<SignalId, Option<Ends>>,
    frames: usize,
    faults: BTreeMap<ExprId, SemanticError>,
}

impl<'a> RangeAnalysis<'a> {
    pub(crate) fn new(program: &'a Program) -> Self {
        RangeAnalysis {
            program,
            signals: FxHashMap::default(),
            seen: FxHashMap::default(),
            ends: FxHashMap::default(),
            blends: blends_by_roots(program),
            signal_ends: FxHashMap::default(),
            frames: 0,
            faults: BTreeMap::new(),
        }
    }

    /// What was found wrong so far, by expression.
    pub(crate) fn into_faults(self) -> BTreeMap<ExprId, SemanticError> {
        self.faults
    }

    /// Looks at every behavior with its defaults, so that a fault in one is reported where it stands.
    pub(crate) fn look_at_behaviors(&mut self) {
        for behavior in &self.program.behaviors {
            let outside = self.frame(Vec::new(), None, None);
            let arguments =
                behavior.parameters.iter().map(|p| self.bounds(p.default, &outside)).collect();
            let frame = self.frame(arguments, None, None);
            self.bounds(behavior.value, &frame);
        }
    }

    pub(crate) fn signal(&mut self, id: SignalId) -> Bounds {
        if let Some(known) = self.signals.get(&id) {
            return *known;
        }
        let frame = self.frame(Vec::new(), None, None);
        let bounds = self.bounds(self.program.signal(id).value, &frame);
        self.signals.insert(id, bounds);
        bounds
    }

    /// Notes that a value leaves what the run can remember.
    pub(crate) fn outside(&mut self, id: ExprId, found: Interval, kept: Interval) {
        let frame = self.frame(Vec::new(), None, None);
        let (lo, hi, least, most) = (found.lo, found.hi, kept.lo, kept.hi);
        let what = "what an event writes";
        self.fault(id, &frame, SemanticError::OutOfRange { what, lo, hi, least, most });
    }

    /// The bounds of an expression that belongs to no light.
    pub(crate) fn loose(&mut self, id: ExprId) -> Bounds {
        let frame = self.frame(Vec::new(), None, None);
        self.bounds(id, &frame)
    }

    /// The bounds of each driven field of a light.
    pub(crate) fn light(&mut self, id: LightId) -> Vec<Bounds> {
        let frame = self.frame(Vec::new(), None, Some(id));
        let light = self.program.light(id);
        light.drives.iter().map(|drive| self.bounds(drive.value, &frame)).collect()
    }

    fn frame(
        &mut self,
        arguments: Vec<Bounds>,
        call: Option<ExprId>,
        light: Option<LightId>,
    ) -> CallFrame {
        self.frames += 1;
        CallFrame { number: self.frames, arguments, call, light }
    }

    /// The largest index of a scope.
    fn last_index(&self, scope: InstanceLevel, frame: &CallFrame) -> f64 {
        let Some(light) = frame.light else { return f64::from(u32::MAX) };
        let light = self.program.light(light);
        let share = light.share(scope);
        let all = match light.size {
            Size::One => 1,
            Size::Many(n) => n,
            Size::Open => u32::MAX,
        };
        let last = (all - 1) / share.lamps;
        f64::from(share.of.map_or(last, |of| last.min(of - 1)))
    }

    fn fault(&mut self, id: ExprId, frame: &CallFrame, error: SemanticError) {
        let depends = self.program.expr(id).parameters != 0;
        let place = if depends { frame.call.unwrap_or(id) } else { id };
        self.faults.entry(place).or_insert(error);
    }

    fn bounds(&mut self, id: ExprId, frame: &CallFrame) -> Bounds {
        if let Some(known) = self.seen.get(&(frame.number, id)) {
            return *known;
        }
        let bounds = self.look(id, frame);
        let bounds = if bounds.is_finite() {
            bounds
        } else {
            self.fault(id, frame, SemanticError::NotFinite);
            match bounds {
                Bounds::Scalar(_) => Bounds::Scalar(Interval::of(1.0)),
                Bounds::Vector(_) => Bounds::Vector([Interval::of(1.0); 3]),
                Bounds::OnOff => Bounds::OnOff,
            }
        };
        self.seen.insert((frame.number, id), bounds);
        bounds
    }

    fn look(&mut self, id: ExprId, frame: &CallFrame) -> Bounds {
        let unit = Bounds::Scalar(Interval { lo: 0.0, hi: 1.0 - 1.0 / 16_777_216.0 });
        match &self.program.expr(id).op {
            Op::Constant(Constant::Scalar(v)) => Bounds::Scalar(Interval::of(*v)),
            Op::Constant(Constant::Vector(v)) => Bounds::Vector(v.map(Interval::of)),
            Op::Constant(Constant::OnOff(_)) => Bounds::OnOff,
            Op::Now => Bounds::Scalar(Interval { lo: -LAST_MOMENT, hi: LAST_MOMENT }),
            Op::Clock(Dial::Hour) => Bounds::Scalar(Interval { lo: 0.0, hi: LAST_HOUR }),
            Op::Clock(Dial::Days) => Bounds::Scalar(Interval { lo: -MOST_DAYS, hi: MOST_DAYS }),
            Op::Index(scope) => {
                Bounds::Scalar(Interval { lo: 0.0, hi: self.last_index(*scope, frame) })
            }
            Op::Parameter(n) => frame.arguments[*n],
            Op::Signal(signal) => self.signal(*signal),
            Op::Input(input) => {
                let input = self.program.input(*input);
                match (input.kind, input.kind.width()) {
                    (Kind::OnOff, _) => Bounds::OnOff,
                    (_, 1) => Bounds::Scalar(input.bounds),
                    _ => Bounds::Vector([input.bounds; 3]),
                }
            }
            Op::IsChosen(..) => Bounds::OnOff,
            Op::Weight(..) => Bounds::Scalar(Interval { lo: 0.0, hi: 1.0 }),
            Op::Call(behavior, arguments, _) => {
                let arguments = arguments.iter().map(|a| self.bounds(*a, frame)).collect();
                let inside = self.frame(arguments, Some(frame.call.unwrap_or(id)), frame.light);
                self.bounds(self.program.behavior(*behavior).value, &inside)
            }
            Op::ChangeUp(a, up) => {
                let point = self.bounds(*a, frame);
                Bounds::Vector(up.parts().map(|(part, turned)| {
                    let Interval { lo, hi } = point.part(part);
                    if turned { Interval { lo: -hi, hi: -lo } } else { Interval { lo, hi } }
                }))
            }
            Op::Negate(a) => {
                let a = self.bounds(*a, frame);
                a.map2(a, |a, _| Interval { lo: -a.hi, hi: -a.lo })
            }
            Op::Add(a, b) => self.pair(*a, *b, frame, |a, b| a.corners(b, |x, y| x + y)),
            Op::Subtract(a, b) => self.pair(*a, *b, frame, |a, b| a.corners(b, |x, y| x - y)),
            Op::Multiply(a, b) => self.pair(*a, *b, frame, |a, b| a.corners(b, |x, y| x * y)),
            Op::Divide(a, b) => {
                let divisor = self.bounds(*b, frame).part(0);
                if divisor.lo <= 0.0 && divisor.hi >= 0.0 {
                    let error = SemanticError::DivisionByZero { lo: divisor.lo, hi: divisor.hi };
                    self.fault(id, frame, error);
                    return self.bounds(*a, frame);
                }
                self.pair(*a, *b, frame, |a, b| a.corners(b, |x, y| x / y))
            }
            Op::Min(a, b) => {
                self.pair(*a, *b, frame, |a, b| Interval { lo: a.lo.min(b.lo), hi: a.hi.min(b.hi) })
            }
            Op::Max(a, b) => {
                self.pair(*a, *b, frame, |a, b| Interval { lo: a.lo.max(b.lo), hi: a.hi.max(b.hi) })
            }
            Op::Clamp(v, lo, hi) => {
                let [v, lo, hi] = [*v, *lo, *hi].map(|e| self.bounds(e, frame).part(0));
                self.rising(id, frame, lo, hi);
                Bounds::Scalar(Interval {
                    lo: v.lo.max(lo.lo).min(hi.lo),
                    hi: v.hi.max(lo.hi).min(hi.hi),
                })
            }
            Op::Lerp(a, b, s) => {
                self.bounds(*s, frame);
                self.pair(*a, *b, frame, Interval::join)
            }
            Op::Above(a, b) | Op::Equal(a, b) | Op::And(a, b) | Op::Or(a, b) => {
                self.pair(*a, *b, frame, |a, _| a);
                Bounds::OnOff
            }
            Op::Not(a) => self.bounds(*a, frame),
            Op::Select(c, a, b) => {
                self.bounds(*c, frame);
                self.pair(*a, *b, frame, Interval::join)
            }
            Op::Parts(x, y, z) => {
                Bounds::Vector([*x, *y, *z].map(|e| self.bounds(e, frame).part(0)))
            }
            Op::SampleAndHold(a, b, _) => {
                self.interval(id, frame, *a, *b);
                unit
            }
            Op::SmoothHold(a, b, part, _) => {
                self.interval(id, frame, *a, *b);
                let part = self.bounds(*part, frame).part(0);
                if part.lo < 0.0 || part.hi > 1.0 {
                    let error = SemanticError::OutOfRange {
                        what: "the part over which a level is reached",
                        lo: part.lo,
                        hi: part.hi,
                        least: 0.0,
                        most: 1.0,
                    };
                    self.fault(id, frame, error);
                }
                unit
            }
            Op::Drift(rate, ..) => {
                let rate = self.bounds(*rate, frame).part(0);
                if rate.lo < 0.0 || rate.hi > 1000.0 {
                    let error = SemanticError::RateOutOfRange { lo: rate.lo, hi: rate.hi };
                    self.fault(id, frame, error);
                }
                unit
            }
            Op::Burst(times, ..) => {
                let times = times.map(|e| self.bounds(e, frame).part(0));
                for [lo, hi] in [[times[0], times[1]], [times[2], times[3]]] {
                    self.rising(id, frame, lo, hi);
                    if lo.lo < 1e-3 {
                        let error =
                            SemanticError::NoPeriod { what: "a time of `bursts`", lo: lo.lo };
                        self.fault(id, frame, error);
                    }
                }
                Bounds::Scalar(Interval { lo: 0.0, hi: 1.0 })
            }
            Op::InBall(parts, radius) => {
                for part in parts {
                    self.bounds(*part, frame);
                }
                let radius = self.bounds(*radius, frame).part(0);
                let most = radius.hi.abs().max(radius.lo.abs());
                Bounds::Vector([Interval { lo: -most, hi: most }; 3])
            }
            Op::Phase(_) => unit,
            Op::Looped(_, _, at, period) => {
                self.bounds(*at, frame);
                let period = self.bounds(*period, frame).part(0);
                if period.lo < 1e-3 {
                    self.fault(
                        id,
                        frame,
                        SemanticError::NoPeriod { what: "a period", lo: period.lo },
                    );
                }
                Bounds::Scalar(Interval { lo: 0.0, hi: period.hi })
            }
            Op::Curve(curve, at) => {
                self.bounds(*at, frame);
                Bounds::Scalar(self.program.curve(*curve).curve.bounds())
            }
            Op::Pure(function, all) => {
                let all: Vec<Interval> =
                    all.iter().map(|e| self.bounds(*e, frame).part(0)).collect();
                for (n, what, least, most) in function.demands() {
                    let Interval { lo, hi } = all[*n];
                    if lo < *least || hi > *most {
                        let (least, most) = (*least, *most);
                        self.fault(
                            id,
                            frame,
                            SemanticError::OutOfRange { what, lo, hi, least, most },
                        );
                    }
                }
                Bounds::Scalar(function.bounds(&all))
            }
            Op::Wave(_, x) => {
                self.bounds(*x, frame);
                Bounds::Scalar(Interval { lo: 0.0, hi: 1.0 })
            }
            Op::Square(x, on) => {
                self.pair(*x, *on, frame, |a, _| a);
                Bounds::Scalar(Interval { lo: 0.0, hi: 1.0 })
            }
            Op::Eased(easing, u) => {
                self.bounds(*u, frame);
                Bounds::Scalar(easing.bounds())
            }
            Op::Table(table, x) => {
                // Only the entries between which it can stand.
                let (at, all) =
                    (self.bounds(*x, frame).part(0), self.program.table(*table).numbers());
                let last = all.len().saturating_sub(1);
                let entry = |v: f64| v.clamp(0.0, last as f64) as usize;
                let (first, end) = (entry((at.lo - 1e-6).floor()), entry((at.hi + 1e-6).ceil()));
                Bounds::Scalar(Interval::hull(&all[first..=end.max(first)]))
            }
            Op::Envelope(_, x) => {
                self.bounds(*x, frame);
                Bounds::Scalar(Interval { lo: 0.0, hi: 1.0 })
            }
            Op::NextPlace(table, x) => {
                self.bounds(*x, frame);
                let all = Interval::hull(self.program.table(*table).numbers());
                Bounds::Scalar(Interval { lo: all.lo, hi: NEVER })
            }
            Op::Moment(value, moment) => {
                self.bounds(*moment, frame);
                self.bounds(*value, frame)
            }
            Op::ConeRoot(cone, color) => {
                let color = self.bounds(*color, frame);
                let end = |pick: fn(Interval) -> f64| {
                    let light = [0, 1, 2].map(|part| pick(color.part(part)).max(0.0));
                    kernel::cone_root(usize::from(*cone), light)
                };
                Bounds::Scalar(Interval { lo: end(|i| i.lo), hi: end(|i| i.hi) + 1e-12 })
            }
            Op::FromCones(l, m, s) => {
                for e in [l, m, s] {
                    self.bounds(*e, frame);
                }
                let ways = [
                    self.blended([*l, *m, *s]),
                    self.blend_of(id, frame),
                    self.turned(id, frame),
                    self.mixed([*l, *m, *s], frame),
                ];
                // Each is right, and where they meet is closest.
                let closest = ways.into_iter().flatten().reduce(|a, b| {
                    a.map2(b, |a, b| Interval { lo: a.lo.max(b.lo), hi: a.hi.min(b.hi) })
                });
                let roots = [*l, *m, *s].map(|e| self.bounds(e, frame).part(0));
                closest.unwrap_or_else(|| Bounds::Vector(light_between(roots)))
            }
            Op::Direction(point) => {
                self.bounds(*point, frame);
                Bounds::Vector([Interval { lo: -1.0, hi: 1.0 }; 3])
            }
            Op::MaxComponent(c) => match self.bounds(*c, frame) {
                Bounds::Vector([r, g, b]) => Bounds::Scalar(Interval {
                    lo: r.lo.max(g.lo).max(b.lo),
                    hi: r.hi.max(g.hi).max(b.hi),
                }),
                other => other,
            },
            Op::Distance(a, b) => {
                let (a, b) = (self.bounds(*a, frame), self.bounds(*b, frame));
                let far = |n: usize| {
                    let (a, b) = (a.part(n), b.part(n));
                    let (down, up) = (a.lo - b.hi, a.hi - b.lo);
                    let near = if down > 0.0 { down } else { (-up).max(0.0) };
                    (near * near, down.abs().max(up.abs()) * down.abs().max(up.abs()))
                };
                let all = [far(0), far(1), far(2)];
                let sum = |end: fn(&(f64, f64)) -> f64| {
                    kernel::root(end(&all[0]) + end(&all[1]) + end(&all[2]))
                };
                Bounds::Scalar(Interval { lo: sum(|far| far.0), hi: sum(|far| far.1) })
            }
            Op::FreeSpark(_) => {
                Bounds::Scalar(Interval { lo: 0.0, hi: f64::from(crate::program::MOST_SPARKS) })
            }
            Op::NextHour(_, after) => {
                self.bounds(*after, frame);
                Bounds::Scalar(Interval { lo: -LAST_MOMENT, hi: 4.0 * LAST_MOMENT })
            }
            Op::NormalizedColor(c) => {
                let color = self.bounds(*c, frame);
                Bounds::Vector(at_one([0, 1, 2].map(|part| color.part(part))))
            }
        }
    }

    /// How far a point can lie from the origin: closer than the corners of its bounds where it is
    /// made of balls, and of curves whose stops lie on straight lines.
    fn reach(&mut self, id: ExprId, frame: &CallFrame) -> f64 {
        match &self.program.expr(id).op {
            Op::InBall(_, radius) => {
                let radius = self.bounds(*radius, frame).part(0);
                radius.hi.abs().max(radius.lo.abs())
            }
            Op::Add(a, b) | Op::Subtract(a, b) => self.reach(*a, frame) + self.reach(*b, frame),
            Op::Lerp(a, b, _) | Op::Select(_, a, b) => {
                self.reach(*a, frame).max(self.reach(*b, frame))
            }
            Op::Negate(a) | Op::ChangeUp(a, _) | Op::Moment(a, _) => self.reach(*a, frame),
            Op::Multiply(a, factor) => {
                let factor = self.bounds(*factor, frame).part(0);
                self.reach(*a, frame) * factor.hi.abs().max(factor.lo.abs())
            }
            Op::Divide(a, divisor) => {
                let divisor = self.bounds(*divisor, frame).part(0);
                self.reach(*a, frame) / divisor.hi.abs().min(divisor.lo.abs())
            }
            Op::Signal(signal) => {
                let outside = self.frame(Vec::new(), None, None);
                self.reach(self.program.signal(*signal).value, &outside)
            }
            Op::Call(behavior, arguments, _) => {
                let arguments = arguments.iter().map(|a| self.bounds(*a, frame)).collect();
                let inside = self.frame(arguments, Some(id), frame.light);
                self.reach(self.program.behavior(*behavior).value, &inside)
            }
            Op::Parts(x, y, z) => match self.path([*x, *y, *z]) {
                Some(reach) => reach,
                None => self.corner(id, frame),
            },
            _ => self.corner(id, frame),
        }
    }

    fn corner(&mut self, id: ExprId, frame: &CallFrame) -> f64 {
        let bounds = self.bounds(id, frame);
        let square = |n: usize| {
            let part = bounds.part(n);
            let most = part.hi.abs().max(part.lo.abs());
            most * most
        };
        (square(0) + square(1) + square(2)).sqrt()
    }

    /// How far a curve of points goes from the origin: between two stops it goes straight, so its
    /// stops say it, and where an easing overshoots it is followed.
    fn path(&self, parts: [ExprId; 3]) -> Option<f64> {
        let curves = parts.map(|part| match self.program.expr(part).op {
            Op::Curve(curve, at) => Some((curve, at)),
            _ => None,
        });
        let [(x, at), (y, at_y), (z, at_z)] = [curves[0]?, curves[1]?, curves[2]?];
        if at != at_y || at != at_z {
            return None;
        }
        let curves = [x, y, z].map(|id| &self.program.curve(id).curve);
        let far = |place: f64| {
            curves.iter().map(|curve| curve.at(place)).map(|v| v * v).sum::<f64>().sqrt()
        };
        let mut most = 0.0f64;
        for pair in curves[0].stops().windows(2) {
            let steps = if pair[1].easing.overshoots() { 256 } else { 1 };
            for n in 0..=steps {
                let share = f64::from(n) / f64::from(steps);
                most = most.max(far(pair[0].at.0 + (pair[1].at.0 - pair[0].at.0) * share));
            }
        }
        Some(most)
    }

    /// The colors that a curve of colors takes: from stop to stop its three roots go together, so each
    /// short piece of the way has narrow bounds. `None` where they are no such curve, or overshoot.
    fn blended(&self, roots: [ExprId; 3]) -> Option<Bounds> {
        const PIECES: u32 = 16;
        let curves = roots.map(|root| match self.program.expr(root).op {
            Op::Curve(curve, at) => Some((curve, at)),
            _ => None,
        });
        let [(l, at), (m, at_m), (s, at_s)] = [curves[0]?, curves[1]?, curves[2]?];
        let curves = [l, m, s].map(|id| &self.program.curve(id).curve);
        let alike = curves.iter().all(|curve| {
            let stops = curves[0].stops().iter().zip(curve.stops());
            curve.stops().len() == curves[0].stops().len()
                && stops.into_iter().all(|(a, b)| a.at == b.at && a.easing == b.easing)
        });
        let overshoots = curves[0].stops().iter().any(|stop| stop.easing.overshoots());
        if at != at_m || at != at_s || !alike || overshoots {
            return None;
        }
        let ends = curves[0].stops().len() - 1;
        let mut all = light_between(curves.map(|curve| Interval::of(curve.stops()[ends].value)));
        for n in 0..ends {
            for piece in 0..PIECES {
                let roots = curves.map(|curve| {
                    let (from, to) = (curve.stops()[n].value, curve.stops()[n + 1].value);
                    let at = |k: u32| from + (to - from) * (f64::from(k) / f64::from(PIECES));
                    let (a, b) = (at(piece), at(piece + 1));
                    Interval { lo: a.min(b) - 1e-12, hi: a.max(b) + 1e-12 }
                });
                let here = light_between(roots);
                all = [0, 1, 2].map(|part| all[part].join(here[part]));
            }
        }
        Some(Bounds::Vector(all))
    }

    /// The ends of a color that is made by blending in OKLab, or `None` if there are too many. What was asked once is
    /// known, so that colors that are used again and again cost no more.
    fn ends_of(&mut self, id: ExprId, frame: &CallFrame) -> Option<Ends> {
        if let Some(known) = self.ends.get(&(frame.number, id)) {
            return known.clone();
        }
        let ends = self.ends_in(id, frame);
        self.ends.insert((frame.number, id), ends.clone());
        ends
    }

    fn ends_in(&mut self, id: ExprId, frame: &CallFrame) -> Option<Ends> {
        let program = self.program;
        if let Some(colors) = program.blends.get(&id) {
            let mut all = Ends::default();
            for color in colors {
                all = all.with(self.ends_of(*color, frame)?)?;
            }
            return Some(all.blended());
        }
        match &program.expr(id).op {
            Op::Select(_, a, b) => return self.ends_of(*a, frame)?.with(self.ends_of(*b, frame)?),
            Op::Signal(signal) => {
                if let Some(known) = self.signal_ends.get(signal) {
                    return known.clone();
                }
                let outside = self.frame(Vec::new(), None, None);
                let ends = self.ends_of(program.signal(*signal).value, &outside);
                self.signal_ends.insert(*signal, ends.clone());
                return ends;
            }
            Op::FromCones(l, m, s) if !program.hues.contains_key(&id) => {
                return self.ends_of_roots([*l, *m, *s], frame);
            }
            _ => {}
        }
        let color = self.bounds(id, frame);
        let of = |cone: usize, end: fn(Interval) -> f64| {
            kernel::cone_root(cone, [0, 1, 2].map(|part| end(color.part(part)).max(0.0)))
        };
        Some(Ends::one(
            [0, 1, 2].map(|cone| Interval { lo: of(cone, |i| i.lo), hi: of(cone, |i| i.hi) }),
        ))
    }

    /// The same of a color by its roots.
    fn ends_of_roots(&mut self, roots: [ExprId; 3], frame: &CallFrame) -> Option<Ends> {
        let program = self.program;
        if let Some(blend) = self.blends.get(&roots).copied() {
            return self.ends_of(blend, frame);
        }
        match roots.map(|root| &program.expr(root).op) {
            [Op::ConeRoot(0, a), Op::ConeRoot(1, b), Op::ConeRoot(2, c)] if a == b && a == c => {
                return self.ends_of(*a, frame);
            }
            [Op::Lerp(a, b, at), Op::Lerp(c, d, at_m), Op::Lerp(e, f, at_s)]
                if at == at_m && at == at_s =>
            {
                let from = self.ends_of_roots([*a, *c, *e], frame)?;
                return Some(from.with(self.ends_of_roots([*b, *d, *f], frame)?)?.blended());
            }
            [Op::Select(when, a, b), Op::Select(when_m, c, d), Op::Select(when_s, e, f)]
                if when == when_m && when == when_s =>
            {
                let then = self.ends_of_roots([*a, *c, *e], frame)?;
                return then.with(self.ends_of_roots([*b, *d, *f], frame)?);
            }
            [Op::Curve(l, _), Op::Curve(m, _), Op::Curve(s, _)]
                if self.blended(roots).is_some() =>
            {
                let curves = [l, m, s].map(|curve| &program.curve(*curve).curve);
                let mut all = Ends::default();
                for n in 0..curves[0].stops().len() {
                    let end = curves.map(|curve| Interval::of(curve.stops()[n].value));
                    all = all.with(Ends::one(end))?;
                }
                return Some(all.blended());
            }
            _ => {}
        }
        Some(Ends::one(roots.map(|root| self.bounds(root, frame).part(0))))
    }

    /// The colors that blends of colors by shares that add up to 1 take. Each part of their light is a polynomial of the
    /// third degree in the shares, so it stays within the hull of its Bernstein coefficients: one for each three of the
    /// colors, made of the products of their roots.
    fn blend_of(&mut self, id: ExprId, frame: &CallFrame) -> Option<Bounds> {
        const SLACK: f64 = 1e-9;
        // How often the roots of what is blended again are raised.
        const DEEPEST: u32 = 8;
        if self.program.hues.contains_key(&id) {
            return None;
        }
        let Ends { mut colors, depth } = self.ends_of(id, frame)?;
        let mut all = coefficients(&colors);
        // What lies below 0 is cut off there, which is more light: the roots of what is blended again are that much higher.
        for n in 1..depth {
            let more = all.map(|part| (-part.lo).max(0.0));
            if more == [0.0; 3] {
                break;
            }
            if n > DEEPEST {
                return None;
            }
            for end in &mut colors {
                for (cone, root) in end.iter_mut().enumerate() {
                    let added = kernel::cone_root(cone, more);
                    root.hi = root.hi.max((root.hi.powi(3) + added.powi(3)).cbrt());
                }
            }
            all = coefficients(&colors);
        }
        Some(Bounds::Vector(
            all.map(|part| Interval {
                lo: (part.lo - SLACK).max(0.0),
                hi: part.hi.max(0.0) + SLACK,
            }),
        ))
    }

    /// The colors that a known color takes whose hue is turned: piece by piece of the way round.
    fn turned(&mut self, id: ExprId, frame: &CallFrame) -> Option<Bounds> {
        const PIECES: u32 = 720;
        let [color, angle] = *self.program.hues.get(&id)?;
        let angle = self.bounds(angle, frame).part(0);
        let color = self.bounds(color, frame);
        let known = [0, 1, 2].map(|part| color.part(part));
        if known.iter().any(|part| part.hi - part.lo > 1e-9) {
            return None;
        }
        let light = known.map(|part| part.lo.max(0.0));
        let roots = [0, 1, 2].map(|cone| kernel::cone_root(cone, light));
        let (from, span) = match angle.hi - angle.lo {
            span if span < 360.0 => (angle.lo, span),
            _ => (0.0, 360.0),
        };
        // How far a root can be from where it is at the middle of a piece.
        let half = 0.5 * (span / f64::from(PIECES)).to_radians();
        let way = |[da, db]: [f64; 2], [a, b]: [f64; 2], turn: f64| {
            let (sine, less) = (turn.sin(), turn.cos() - 1.0);
            da * (a * less - b * sine) + db * (a * sine + b * less)
        };
        let axes = crate::color::hue_axes(roots);
        let size = axes[0].hypot(axes[1]);
        let mut all: Option<[Interval; 3]> = None;
        for piece in 0..PIECES {
            let middle = from + span * (f64::from(piece) + 0.5) / f64::from(PIECES);
            let inside = [0, 1, 2].map(|cone| {
                let back = crate::color::HUE_BACK[cone];
                let at = roots[cone] + way(back, axes, middle.to_radians());
                let slack = size * back[0].hypot(back[1]) * half + 1e-6;
                Interval { lo: at - slack, hi: at + slack }
            });
            let here = light_between(inside);
            all = Some(match all {
                None => here,
                Some(all) => [0, 1, 2].map(|part| all[part].join(here[part])),
            });
        }
        all.map(Bounds::Vector)
    }

    /// The same of two colors that one level blends: the roots go together, piece by piece of the way.
    fn mixed(&mut self, roots: [ExprId; 3], frame: &CallFrame) -> Option<Bounds> {
        const PIECES: u32 = 16;
        let mut ways = [(Interval::of(0.0), Interval::of(0.0)); 3];
        let mut level = None;
        for (way, root) in ways.iter_mut().zip(roots) {
            let Op::Lerp(from, to, at) = self.program.expr(root).op else { return None };
            if level.is_some_and(|known| known != at) {
                return None;
            }
            level = Some(at);
            *way = (self.bounds(from, frame).part(0), self.bounds(to, frame).part(0));
        }
        let mut all: Option<[Interval; 3]> = None;
        for piece in 0..PIECES {
            let inside = ways.map(|(from, to)| {
                let at = |k: u32, a: f64, b: f64| a + (b - a) * (f64::from(k) / f64::from(PIECES));
                let lo = at(piece, from.lo, to.lo).min(at(piece + 1, from.lo, to.lo));
                let hi = at(piece, from.hi, to.hi).max(at(piece + 1, from.hi, to.hi));
                Interval { lo: lo - 1e-12, hi: hi + 1e-12 }
            });
            let here = light_between(inside);
            all = Some(match all {
                None => here,
                Some(all) => [0, 1, 2].map(|part| all[part].join(here[part])),
            });
        }
        all.map(Bounds::Vector)
    }

    fn pair(
        &mut self,
        a: ExprId,
        b: ExprId,
        frame: &CallFrame,
        f: impl Fn(Interval, Interval) -> Interval,
    ) -> Bounds {
        let (a, b) = (self.bounds(a, frame), self.bounds(b, frame));
        a.map2(b, f)
    }

    /// The times between draws are known to be good, or it is a fault.
    fn interval(&mut self, id: ExprId, frame: &CallFrame, shortest: ExprId, longest: ExprId) {
        let [a, b] = [shortest, longest].map(|e| self.bounds(e, frame).part(0));
        self.rising(id, frame, a, b);
        if a.lo < 0.0 {
            self.fault(id, frame, SemanticError::NegativeTime(a.lo));
        } else if b.lo < 2e-6 {
            self.fault(id, frame, SemanticError::TooShort(b.lo));
        }
    }

    /// Both ends of a range are known to rise, or it is a fault.
    fn rising(&mut self, id: ExprId, frame: &CallFrame, lo: Interval, hi: Interval) {
        if lo.hi > hi.lo {
            self.fault(id, frame, SemanticError::FallingRange { lo: lo.hi, hi: hi.lo });
        }
    }
}

/// Blends of colors by the roots that they are made of, those with a turned hue aside.
fn blends_by_roots(program: &Program) -> FxHashMap<[ExprId; 3], ExprId> {
    let blends = program.blends.keys().filter(|id| !program.hues.contains_key(id));
    let roots = blends.filter_map(|id| match program.expr(*id).op {
        Op::FromCones(l, m, s) => Some(([l, m, s], *id)),
        _ => None,
    });
    roots.collect()
}
