//! Laying a light's description out as instructions.

use rustc_hash::FxHashMap;

use super::{Instruction, Placed, Reg, Slot, differs, slots};
use crate::kind::InstanceLevel;
use crate::program::{
    BehaviorId, Constant, Depth, ExprId, InputId, Light, Op, Program, Reference, Share, SignalId,
    Site, Size, Turn,
};
use crate::pure;

#[derive(Clone, Copy, Debug)]
pub(super) enum Value {
    One(Reg),
    Three([Reg; 3]),
}

impl Value {
    pub fn parts(self) -> Vec<Reg> {
        match self {
            Value::One(r) => vec![r],
            Value::Three(r) => r.to_vec(),
        }
    }

    fn one(self) -> Reg {
        match self {
            Value::One(r) => r,
            Value::Three(r) => r[0],
        }
    }
}

/// Where expressions are being laid out: the open, a signal, or a call with its arguments; and at
/// which moment.
pub(super) struct CompileFrame {
    arguments: Vec<Value>,
    key: Option<Reg>,
    in_light: bool,
    now: Reg,
    known: FxHashMap<ExprId, Value>,
}

impl CompileFrame {
    pub fn open(in_light: bool, now: Reg) -> Self {
        CompileFrame {
            arguments: Vec::new(),
            key: None,
            in_light,
            now,
            known: FxHashMap::default(),
        }
    }
}

pub(super) struct Layout<'a> {
    pub program: &'a Program,
    pub instructions: Vec<Placed>,
    /// Signals that are laid out, by the moment they are evaluated.
    pub signals: FxHashMap<(SignalId, Reg), Value>,
    pub light: &'a Light,
}

impl Layout<'_> {
    /// Lays out the signals that these expressions use at this moment, each after those that it uses
    /// itself. What is evaluated at another moment is laid out there.
    pub fn lay_signals(&mut self, roots: Vec<ExprId>, now: Reg) {
        let reads = self.program.reads(roots, Depth::Present);
        let used: std::collections::BTreeSet<SignalId> = reads
            .filter_map(|read| match read {
                Reference::Signal(signal) => Some(signal),
                _ => None,
            })
            .collect();
        for signal in used {
            if !self.signals.contains_key(&(signal, now)) {
                let value = self.program.signal(signal).value;
                let value = self.value(value, &mut CompileFrame::open(false, now));
                self.signals.insert((signal, now), value);
            }
        }
    }

    pub fn place(&mut self, step: Instruction, from: &[Reg]) -> Reg {
        let mut differs = match step {
            Instruction::Now
            | Instruction::Clock(_)
            | Instruction::Weight(..)
            | Instruction::FreeSpark(..) => differs::TIME,
            Instruction::Index(_) | Instruction::LampKey(..) => differs::LAMP,
            Instruction::Input(slot) if slot.last > 0 => differs::LAMP,
            _ => 0,
        };
        for reg in from {
            differs |= self.instructions[*reg as usize].differs;
        }
        self.instructions.push(Placed { step, differs });
        (self.instructions.len() - 1) as Reg
    }

    fn constant(&mut self, v: f64) -> Reg {
        self.place(Instruction::Constant(v), &[])
    }

    fn key(&mut self, site: Site, frame: &CompileFrame) -> Reg {
        if let Some(key) = frame.key {
            return self.place(Instruction::Key(key, site.place), &[key]);
        }
        let key = self.place(Instruction::SeedKey(site.place), &[]);
        let single = self.light.size == Size::One;
        if !frame.in_light || single || site.scope == InstanceLevel::Book {
            return key;
        }
        let share = match site.scope {
            InstanceLevel::Instance(_) => self.light.share(site.scope),
            InstanceLevel::Lamp | InstanceLevel::Book => Share::LAMP,
        };
        self.place(Instruction::LampKey(key, share.lamps), &[key])
    }

    /// Rate and jitter of a held level: `2 / (a + b)` and `(b - a) / (2 (a + b))`.
    fn held_numbers(
        &mut self,
        shortest: ExprId,
        longest: ExprId,
        frame: &mut CompileFrame,
    ) -> [Reg; 2] {
        let [a, b] = [shortest, longest].map(|e| self.one(e, frame));
        let two = self.constant(2.0);
        let sum = self.place(Instruction::Add(a, b), &[a, b]);
        let rate = self.place(Instruction::Divide(two, sum), &[two, sum]);
        let span = self.place(Instruction::Subtract(b, a), &[a, b]);
        let double = self.place(Instruction::Multiply(two, sum), &[two, sum]);
        [rate, self.place(Instruction::Divide(span, double), &[span, double])]
    }

    fn three(&mut self, id: ExprId, frame: &mut CompileFrame) -> [Reg; 3] {
        match self.value(id, frame) {
            Value::Three(parts) => parts,
            Value::One(one) => [one; 3],
        }
    }

    pub fn value(&mut self, id: ExprId, frame: &mut CompileFrame) -> Value {
        if let Some(known) = frame.known.get(&id) {
            return *known;
        }
        let value = self.compile(id, frame);
        frame.known.insert(id, value);
        value
    }

    fn one(&mut self, id: ExprId, frame: &mut CompileFrame) -> Reg {
        self.value(id, frame).one()
    }

    fn two(
        &mut self,
        a: ExprId,
        b: ExprId,
        frame: &mut CompileFrame,
        make: fn(Reg, Reg) -> Instruction,
    ) -> Value {
        let (a, b) = (self.value(a, frame), self.value(b, frame));
        let pair = |layout: &mut Self, a: Reg, b: Reg| layout.place(make(a, b), &[a, b]);
        match (a, b) {
            (Value::Three(a), Value::Three(b)) => {
                Value::Three([0, 1, 2].map(|n| pair(self, a[n], b[n])))
            }
            (Value::Three(a), Value::One(b)) => Value::Three(a.map(|a| pair(self, a, b))),
            (Value::One(a), b) => Value::One(pair(self, a, b.one())),
        }
    }

    fn compile(&mut self, id: ExprId, frame: &mut CompileFrame) -> Value {
        let program = self.program;
        match &program.expr(id).op {
            Op::Constant(Constant::Scalar(v)) => Value::One(self.constant(*v)),
            Op::Constant(Constant::Vector(v)) => Value::Three(v.map(|v| self.constant(v))),
            Op::Constant(Constant::OnOff(on)) => {
                Value::One(self.constant(if *on { 1.0 } else { 0.0 }))
            }
            Op::Now => Value::One(frame.now),
            Op::Clock(reading) => Value::One(self.place(Instruction::Clock(*reading), &[])),
            Op::IsChosen(id, option) => {
                Value::One(self.place(Instruction::IsChosen(*id, *option), &[]))
            }
            Op::Weight(id, option) => {
                Value::One(self.place(Instruction::Weight(*id, *option), &[]))
            }
            Op::Index(scope) => {
                let share = self.light.share(*scope);
                Value::One(self.place(Instruction::Index(share), &[]))
            }
            Op::Input(id) => {
                let input = self.program.input(*id);
                let first: u32 = self.program.inputs[..id.index()].iter().map(slots).sum();
                let width = input.kind.width() as u32;
                let last = input.count() - 1;
                let lamps = if last == 0 { 1 } else { self.light.share(input.scope).lamps };
                let mut part = |n| {
                    self.place(
                        Instruction::Input(Slot { first: first + n, width, lamps, last }),
                        &[],
                    )
                };
                match width {
                    1 => Value::One(part(0)),
                    _ => Value::Three([0, 1, 2].map(part)),
                }
            }
            Op::Parameter(n) => frame.arguments[*n],
            Op::Signal(signal) => self.signals[&(*signal, frame.now)],
            Op::Call(behavior, arguments, site) => self.call(*behavior, arguments, *site, frame),
            Op::Negate(a) => match self.value(*a, frame) {
                Value::One(a) => Value::One(self.place(Instruction::Negate(a), &[a])),
                Value::Three(a) => {
                    Value::Three(a.map(|a| self.place(Instruction::Negate(a), &[a])))
                }
            },
            Op::ChangeUp(a, up) => {
                let point = self.three(*a, frame);
                Value::Three(up.parts().map(|(part, turned)| match turned {
                    true => self.place(Instruction::Negate(point[part]), &[point[part]]),
                    false => point[part],
                }))
            }
            Op::Add(a, b) => self.two(*a, *b, frame, Instruction::Add),
            Op::Subtract(a, b) => self.two(*a, *b, frame, Instruction::Subtract),
            Op::Multiply(a, b) => self.two(*a, *b, frame, Instruction::Multiply),
            Op::Divide(a, b) => self.two(*a, *b, frame, Instruction::Divide),
            Op::Min(a, b) => self.two(*a, *b, frame, Instruction::Min),
            Op::Max(a, b) => self.two(*a, *b, frame, Instruction::Max),
            Op::Above(a, b) => self.two(*a, *b, frame, Instruction::Above),
            Op::Equal(a, b) => self.two(*a, *b, frame, Instruction::Equal),
            Op::And(a, b) => self.two(*a, *b, frame, Instruction::And),
            Op::Or(a, b) => self.two(*a, *b, frame, Instruction::Or),
            Op::Not(a) => {
                let a = self.one(*a, frame);
                Value::One(self.place(Instruction::Not(a), &[a]))
            }
            Op::Clamp(v, lo, hi) => {
                let [v, lo, hi] = [v, lo, hi].map(|e| self.one(*e, frame));
                Value::One(self.place(Instruction::Clamp(v, lo, hi), &[v, lo, hi]))
            }
            Op::Lerp(a, b, s) => {
                let (a, b) = (self.value(*a, frame), self.value(*b, frame));
                let s = self.one(*s, frame);
                let blend =
                    |layout: &mut Self, a, b| layout.place(Instruction::Lerp(a, b, s), &[a, b, s]);
                match (a, b) {
                    (Value::Three(a), Value::Three(b)) => {
                        Value::Three([0, 1, 2].map(|n| blend(self, a[n], b[n])))
                    }
                    (a, b) => Value::One(blend(self, a.one(), b.one())),
                }
            }
            Op::Select(c, a, b) => {
                let c = self.one(*c, frame);
                let (a, b) = (self.value(*a, frame), self.value(*b, frame));
                let pick = |layout: &mut Self, a, b| {
                    layout.place(Instruction::Select(c, a, b), &[c, a, b])
                };
                match (a, b) {
                    (Value::Three(a), Value::Three(b)) => {
                        Value::Three([0, 1, 2].map(|n| pick(self, a[n], b[n])))
                    }
                    (a, b) => Value::One(pick(self, a.one(), b.one())),
                }
            }
            Op::Parts(x, y, z) => Value::Three([x, y, z].map(|e| self.one(*e, frame))),
            Op::SampleAndHold(shortest, longest, site) => {
                let key = self.key(*site, frame);
                let [rate, jitter] = self.held_numbers(*shortest, *longest, frame);
                let from = [frame.now, key, rate, jitter];
                Value::One(self.place(Instruction::SampleAndHold(from), &from))
            }
            Op::SmoothHold(shortest, longest, part, site) => {
                let key = self.key(*site, frame);
                let [rate, jitter] = self.held_numbers(*shortest, *longest, frame);
                let from = [frame.now, key, rate, jitter, self.one(*part, frame)];
                Value::One(self.place(Instruction::SmoothHold(from), &from))
            }
            Op::Drift(rate, octaves, site) => {
                let from = [frame.now, self.key(*site, frame), self.one(*rate, frame)];
                Value::One(self.place(Instruction::Drift(from, *octaves), &from))
            }
            Op::Burst(times, tables, site) => {
                let key = self.key(*site, frame);
                let [a, b, c, d] = times.map(|e| self.one(e, frame));
                let from = [frame.now, key, a, b, c, d];
                Value::One(self.place(Instruction::Burst(from, *tables), &from))
            }
            Op::InBall(parts, radius) => {
                let [x, y, z] = parts.map(|e| self.one(e, frame));
                let radius = self.one(*radius, frame);
                Value::Three([[x, y, z], [y, z, x], [z, x, y]].map(|from| {
                    let part = self.place(Instruction::InBall(from), &from);
                    self.place(Instruction::Multiply(part, radius), &[part, radius])
                }))
            }
            Op::Pure(function, all) => {
                let mut from = [0; pure::MOST];
                for (reg, e) in from.iter_mut().zip(all) {
                    *reg = self.one(*e, frame);
                }
                Value::One(self.place(Instruction::Pure(*function, from), &from[..all.len()]))
            }
            Op::Wave(wave, x) => {
                let x = self.one(*x, frame);
                Value::One(self.place(Instruction::Wave(*wave, x), &[x]))
            }
            Op::Square(x, on) => self.two(*x, *on, frame, Instruction::Square),
            Op::Eased(easing, u) => {
                let u = self.one(*u, frame);
                Value::One(self.place(Instruction::Eased(*easing, u), &[u]))
            }
            Op::Table(table, x) => {
                let x = self.one(*x, frame);
                Value::One(self.place(Instruction::Table(*table, x), &[x]))
            }
            Op::Envelope(table, x) => {
                let x = self.one(*x, frame);
                Value::One(self.place(Instruction::Envelope(*table, x), &[x]))
            }
            Op::NextPlace(table, x) => {
                let x = self.one(*x, frame);
                Value::One(self.place(Instruction::NextPlace(*table, x), &[x]))
            }
            Op::Moment(value, moment) => {
                let now = self.one(*moment, frame);
                self.lay_signals(vec![*value], now);
                let mut then = CompileFrame {
                    arguments: frame.arguments.clone(),
                    key: frame.key,
                    in_light: frame.in_light,
                    now,
                    known: FxHashMap::default(),
                };
                self.value(*value, &mut then)
            }
            Op::ConeRoot(cone, color) => {
                let color = self.three(*color, frame);
                Value::One(self.place(Instruction::ConeRoot(*cone, color), &color))
            }
            Op::FromCones(l, m, s) => {
                let roots = [l, m, s].map(|e| self.one(*e, frame));
                Value::Three(
                    [0, 1, 2].map(|part| self.place(Instruction::LightOf(part, roots), &roots)),
                )
            }
            Op::Direction(point) => {
                let p = self.three(*point, frame);
                Value::Three(
                    [(0, 0.0), (1, 0.0), (2, -1.0)]
                        .map(|(n, still)| self.place(Instruction::Direction(p[n], p, still), &p)),
                )
            }
            Op::Phase(site) => {
                let key = self.key(*site, frame);
                Value::One(self.place(Instruction::Phase(key), &[key]))
            }
            Op::Looped(turn, _, at, period) => {
                let (at, period) = (self.one(*at, frame), self.one(*period, frame));
                let step = match turn {
                    Turn::Loop => Instruction::Wrap(at, period),
                    Turn::Alternate => Instruction::Fold(at, period),
                };
                Value::One(self.place(step, &[at, period]))
            }
            Op::Curve(curve, at) => {
                let at = self.one(*at, frame);
                Value::One(self.place(Instruction::Curve(*curve, at), &[at]))
            }
            Op::Distance(a, b) => {
                let (a, b) = (self.three(*a, frame), self.three(*b, frame));
                let squares = [0, 1, 2].map(|n| {
                    let far = self.place(Instruction::Subtract(a[n], b[n]), &[a[n], b[n]]);
                    self.place(Instruction::Multiply(far, far), &[far])
                });
                let [x, y, z] = squares;
                let sum = self.place(Instruction::Add(x, y), &[x, y]);
                let sum = self.place(Instruction::Add(sum, z), &[sum, z]);
                let mut from = [0; pure::MOST];
                from[0] = sum;
                Value::One(self.place(Instruction::Pure(pure::Pure::Root, from), &[sum]))
            }
            Op::FreeSpark(n) => {
                let spark = &program.sparks[*n as usize];
                let first = |id: InputId| program.inputs[..id.index()].iter().map(slots).sum();
                let from = [first(spark.born), first(spark.length)];
                let count = program.input(spark.born).count();
                Value::One(self.place(Instruction::FreeSpark(from, count, spark.oldest), &[]))
            }
            Op::NextHour(hour, after) => {
                let after = self.one(*after, frame);
                Value::One(self.place(Instruction::NextHour(hour.0, after), &[after]))
            }
            Op::MaxComponent(c) => Value::One(self.brightest(*c, frame)),
            Op::NormalizedColor(c) => {
                let whole = self.brightest(*c, frame);
                let parts = self.value(*c, frame).parts();
                Value::Three([0, 1, 2].map(|n| {
                    let part = parts[n];
                    self.place(Instruction::Share(part, whole), &[part, whole])
                }))
            }
        }
    }

    fn brightest(&mut self, color: ExprId, frame: &mut CompileFrame) -> Reg {
        let parts = self.value(color, frame).parts();
        let first = self.place(Instruction::Max(parts[0], parts[1]), &[parts[0], parts[1]]);
        self.place(Instruction::Max(first, parts[2]), &[first, parts[2]])
    }

    fn call(
        &mut self,
        behavior: BehaviorId,
        arguments: &[ExprId],
        site: Option<Site>,
        frame: &mut CompileFrame,
    ) -> Value {
        let key = site.map(|site| self.key(site, frame));
        let arguments = arguments.iter().map(|a| self.value(*a, frame)).collect();
        let called = self.program.behavior(behavior);
        let mut inside = CompileFrame {
            arguments,
            key,
            in_light: frame.in_light,
            now: frame.now,
            known: FxHashMap::default(),
        };
        self.value(called.value, &mut inside)
    }
}
