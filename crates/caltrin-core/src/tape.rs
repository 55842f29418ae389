//! The evaluator: a light's description laid out as a flat list of steps over blocks of lanes.
//!
//! A lane is a lamp of an array at one moment, or one lamp at one of many moments. Steps that do
//! not differ between the lanes are computed once and spread; the others run as plain loops over a
//! block, which compilers turn into vector code. The arithmetic is the kernel's, step by step, so a
//! block of one and a block of many give the same bits.

use std::ops::Range;

use crate::kernel;
use crate::program::{
    BehaviourId, Constant, CurveId, ExprId, Light, Op, Program, SignalId, Site, Turn,
};
use rustc_hash::{FxHashMap, FxHashSet};

/// How many lanes a block has.
pub(crate) const BLOCK: usize = 64;

/// What a step differs by.
pub(crate) mod differs {
    /// By moment.
    pub const TIME: u8 = 1;
    /// By lamp.
    pub const LAMP: u8 = 2;
}

type Reg = u32;

#[derive(Clone, Copy, Debug, PartialEq)]
enum Step {
    Constant(f64),
    Now,
    Index,
    Negate(Reg),
    Add(Reg, Reg),
    Subtract(Reg, Reg),
    Multiply(Reg, Reg),
    Divide(Reg, Reg),
    Least(Reg, Reg),
    Greatest(Reg, Reg),
    Within(Reg, Reg, Reg),
    Between(Reg, Reg, Reg),
    Above(Reg, Reg),
    And(Reg, Reg),
    Or(Reg, Reg),
    Not(Reg),
    Choose(Reg, Reg, Reg),
    /// A part of a colour over its brightest part; 0 where that is 0.
    Share(Reg, Reg),
    Held(Reg, Reg, Reg),
    Phase(Reg),
    Wrap(Reg, Reg),
    Fold(Reg, Reg),
    Curve(CurveId, Reg),
    /// The key of a place under the run's seed.
    SeedKey(u32),
    /// The key of a place under another key.
    Key(Reg, u32),
    /// The key of this lane's lamp.
    LampKey(Reg),
}

#[derive(Clone, Copy, Debug, PartialEq)]
struct Placed {
    step: Step,
    differs: u8,
}

/// The steps of one light, and the registers that its fields end in.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Tape {
    steps: Vec<Placed>,
    outputs: Vec<Reg>,
}

/// Registers for one block; kept between reads so that reading allocates nothing.
#[derive(Clone, Debug, Default)]
pub(crate) struct Scratch {
    numbers: Vec<[f64; BLOCK]>,
    words: Vec<[u32; BLOCK]>,
    moments: Vec<f64>,
}

/// What the lanes of a read are.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Lanes<'a> {
    /// This many lamps from the first on, at one moment.
    Lamps { first: u32, count: usize, moment: f64 },
    /// One lamp at these moments.
    Moments { index: u32, moments: &'a [f64] },
}

impl Tape {
    pub(crate) fn of_light(program: &Program, light: &Light) -> Tape {
        let mut layout = Layout {
            program,
            steps: Vec::new(),
            signals: FxHashMap::default(),
            lamps: !matches!(light.size, crate::program::Size::One),
        };
        layout.lay_signals(light.drives.iter().map(|drive| drive.value));
        let mut frame = Frame::open(true);
        let outputs = light
            .drives
            .iter()
            .flat_map(|drive| layout.value(drive.value, &mut frame).parts())
            .collect();
        Tape { steps: layout.steps, outputs }
    }

    /// How many numbers a lane gives.
    pub(crate) fn width(&self) -> usize {
        self.outputs.len()
    }

    /// Fills `out`, lane after lane, with the numbers at these places of a lane.
    pub(crate) fn read(
        &self,
        (program, seed): (&Program, u32),
        lanes: Lanes<'_>,
        places: Range<usize>,
        scratch: &mut Scratch,
        out: &mut [f32],
    ) {
        let (total, mask) = match lanes {
            Lanes::Lamps { count, .. } => (count, differs::LAMP),
            Lanes::Moments { moments, .. } => (moments.len(), differs::TIME),
        };
        if scratch.numbers.len() < self.steps.len() {
            scratch.numbers.resize(self.steps.len(), [0.0; BLOCK]);
            scratch.words.resize(self.steps.len(), [0; BLOCK]);
        }
        let mut done = 0;
        while done < total {
            let n = (total - done).min(BLOCK);
            let block = match lanes {
                Lanes::Lamps { first, moment, .. } => {
                    Block { first: first.wrapping_add(done as u32), moment, moments: &[] }
                }
                Lanes::Moments { index, moments } => {
                    Block { first: index, moment: 0.0, moments: &moments[done..done + n] }
                }
            };
            for (at, placed) in self.steps.iter().enumerate() {
                let varies = placed.differs & mask != 0;
                if varies || done == 0 {
                    let lanes = if varies { n } else { 1 };
                    step(placed.step, at, lanes, &block, program, seed, scratch);
                    if !varies {
                        let spread = total.min(BLOCK);
                        let number = scratch.numbers[at][0];
                        scratch.numbers[at][..spread].fill(number);
                        let word = scratch.words[at][0];
                        scratch.words[at][..spread].fill(word);
                    }
                }
            }
            let width = places.len();
            for (column, reg) in self.outputs[places.clone()].iter().enumerate() {
                let values = &scratch.numbers[*reg as usize];
                let cells = out[done * width + column..].iter_mut().step_by(width).take(n);
                if self.steps[*reg as usize].differs & mask == 0 {
                    let same = kernel::to_output(values[0]);
                    cells.for_each(|cell| *cell = same);
                } else {
                    cells.zip(values).for_each(|(cell, v)| *cell = kernel::to_output(*v));
                }
            }
            done += n;
        }
    }
}

impl Scratch {
    /// A list of moments to fill and read from, given back with [`Scratch::keep_moments`].
    pub(crate) fn take_moments(&mut self) -> Vec<f64> {
        std::mem::take(&mut self.moments)
    }

    pub(crate) fn keep_moments(&mut self, moments: Vec<f64>) {
        self.moments = moments;
    }
}

struct Block<'a> {
    first: u32,
    moment: f64,
    /// Empty when the lanes are lamps.
    moments: &'a [f64],
}

/// Computes one step for the first `n` lanes.
fn step(
    step: Step,
    at: usize,
    n: usize,
    block: &Block<'_>,
    program: &Program,
    seed: u32,
    scratch: &mut Scratch,
) {
    let (before, rest) = scratch.numbers.split_at_mut(at);
    let out = &mut rest[0][..n];
    let (words_before, words_rest) = scratch.words.split_at_mut(at);
    let words_out = &mut words_rest[0][..n];
    let of = |reg: Reg| &before[reg as usize][..n];
    let word = |reg: Reg| &words_before[reg as usize][..n];
    let index = |lane: usize| {
        if block.moments.is_empty() { block.first.wrapping_add(lane as u32) } else { block.first }
    };
    macro_rules! each {
        ([$($name:ident = $reg:expr),+] $value:expr) => {{
            $(let $name = of($reg);)+
            for lane in 0..n {
                $(let $name = $name[lane];)+
                out[lane] = $value;
            }
        }};
    }
    let flag = |on: bool| if on { 1.0 } else { 0.0 };
    match step {
        Step::Constant(v) => out.fill(v),
        Step::Now => match block.moments {
            [] => out.fill(block.moment),
            moments => out.copy_from_slice(&moments[..n]),
        },
        Step::Index => {
            for (lane, out) in out.iter_mut().enumerate() {
                *out = f64::from(index(lane));
            }
        }
        Step::Negate(a) => each!([a = a] - a),
        Step::Add(a, b) => each!([a = a, b = b] a + b),
        Step::Subtract(a, b) => each!([a = a, b = b] a - b),
        Step::Multiply(a, b) => each!([a = a, b = b] a * b),
        Step::Divide(a, b) => each!([a = a, b = b] a / b),
        Step::Least(a, b) => each!([a = a, b = b] kernel::least(a, b)),
        Step::Greatest(a, b) => each!([a = a, b = b] kernel::greatest(a, b)),
        Step::Within(v, lo, hi) => each!([v = v, lo = lo, hi = hi] kernel::within(v, lo, hi)),
        Step::Between(a, b, s) => each!([a = a, b = b, s = s] kernel::between(a, b, s)),
        Step::Above(a, b) => each!([a = a, b = b] flag(a > b)),
        Step::And(a, b) => each!([a = a, b = b] a * b),
        Step::Or(a, b) => each!([a = a, b = b] kernel::greatest(a, b)),
        Step::Not(a) => each!([a = a] 1.0 - a),
        Step::Choose(c, a, b) => each!([c = c, a = a, b = b] if c != 0.0 { a } else { b }),
        Step::Share(part, whole) => {
            each!([p = part, w = whole] if w > 0.0 { p / w } else { 0.0 })
        }
        Step::Held(key, rate, jitter) => {
            let (now, key, rate, jitter) = (of(0), word(key), of(rate), of(jitter));
            for lane in 0..n {
                out[lane] = kernel::held_level(now[lane], key[lane], rate[lane], jitter[lane]);
            }
        }
        Step::Phase(key) => {
            let key = word(key);
            for lane in 0..n {
                out[lane] = kernel::chance_phase(key[lane]);
            }
        }
        Step::Wrap(t, period) => each!([t = t, period = period] kernel::wrap_time(t, period)),
        Step::Fold(t, period) => each!([t = t, period = period] kernel::fold_time(t, period)),
        Step::Curve(curve, at) => {
            let curve = &program.curve(curve).curve;
            each!([x = at] curve.at(x));
        }
        Step::SeedKey(place) => words_out.fill(kernel::chance_key(seed, place)),
        Step::Key(key, place) => {
            let key = word(key);
            for lane in 0..n {
                words_out[lane] = kernel::chance_key(key[lane], place);
            }
        }
        Step::LampKey(key) => {
            let key = word(key);
            for lane in 0..n {
                words_out[lane] = kernel::lamp_key(key[lane], index(lane));
            }
        }
    }
}

#[derive(Clone, Copy, Debug)]
enum Value {
    One(Reg),
    Three([Reg; 3]),
}

impl Value {
    fn parts(self) -> Vec<Reg> {
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

/// Where expressions are being laid out: the open, a signal, or a call with its arguments.
struct Frame {
    arguments: Vec<Value>,
    key: Option<Reg>,
    in_light: bool,
    known: FxHashMap<ExprId, Value>,
}

impl Frame {
    fn open(in_light: bool) -> Self {
        Frame { arguments: Vec::new(), key: None, in_light, known: FxHashMap::default() }
    }
}

struct Layout<'a> {
    program: &'a Program,
    steps: Vec<Placed>,
    signals: FxHashMap<SignalId, Value>,
    lamps: bool,
}

impl Layout<'_> {
    /// Lays out the signals that are used, each after those that it uses. The moment comes first
    /// and stands in register 0.
    fn lay_signals(&mut self, roots: impl Iterator<Item = ExprId>) {
        self.place(Step::Now, &[]);
        let mut used = std::collections::BTreeSet::new();
        let mut open: Vec<ExprId> = roots.collect();
        let mut seen = FxHashSet::default();
        while let Some(next) = open.pop() {
            if !seen.insert(next) {
                continue;
            }
            let op = &self.program.expr(next).op;
            match op {
                Op::Signal(signal) => {
                    used.insert(*signal);
                    open.push(self.program.signal(*signal).value);
                }
                Op::Call(behaviour, ..) => open.push(self.program.behaviour(*behaviour).value),
                _ => {}
            }
            open.extend(op.operands());
        }
        for signal in used {
            let value = self.value(self.program.signal(signal).value, &mut Frame::open(false));
            self.signals.insert(signal, value);
        }
    }

    fn place(&mut self, step: Step, from: &[Reg]) -> Reg {
        let mut differs = match step {
            Step::Now | Step::Held(..) => differs::TIME,
            Step::Index | Step::LampKey(_) => differs::LAMP,
            _ => 0,
        };
        for reg in from {
            differs |= self.steps[*reg as usize].differs;
        }
        self.steps.push(Placed { step, differs });
        (self.steps.len() - 1) as Reg
    }

    fn constant(&mut self, v: f64) -> Reg {
        self.place(Step::Constant(v), &[])
    }

    fn key(&mut self, site: Site, frame: &Frame) -> Reg {
        match frame.key {
            Some(key) => self.place(Step::Key(key, site.0), &[key]),
            None => {
                let key = self.place(Step::SeedKey(site.0), &[]);
                if frame.in_light && self.lamps {
                    self.place(Step::LampKey(key), &[key])
                } else {
                    key
                }
            }
        }
    }

    fn value(&mut self, id: ExprId, frame: &mut Frame) -> Value {
        if let Some(known) = frame.known.get(&id) {
            return *known;
        }
        let value = self.lay(id, frame);
        frame.known.insert(id, value);
        value
    }

    fn one(&mut self, id: ExprId, frame: &mut Frame) -> Reg {
        self.value(id, frame).one()
    }

    fn two(
        &mut self,
        a: ExprId,
        b: ExprId,
        frame: &mut Frame,
        make: fn(Reg, Reg) -> Step,
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

    fn lay(&mut self, id: ExprId, frame: &mut Frame) -> Value {
        let program = self.program;
        match &program.expr(id).op {
            Op::Constant(Constant::Scalar(v)) => Value::One(self.constant(*v)),
            Op::Constant(Constant::Vector(v)) => Value::Three(v.map(|v| self.constant(v))),
            Op::Constant(Constant::OnOff(on)) => {
                Value::One(self.constant(if *on { 1.0 } else { 0.0 }))
            }
            Op::Now => Value::One(0),
            Op::Index => Value::One(self.place(Step::Index, &[])),
            Op::Parameter(n) => frame.arguments[*n],
            Op::Signal(signal) => self.signals[signal],
            Op::Call(behaviour, arguments, site) => self.call(*behaviour, arguments, *site, frame),
            Op::Negate(a) => match self.value(*a, frame) {
                Value::One(a) => Value::One(self.place(Step::Negate(a), &[a])),
                Value::Three(a) => Value::Three(a.map(|a| self.place(Step::Negate(a), &[a]))),
            },
            Op::Add(a, b) => self.two(*a, *b, frame, Step::Add),
            Op::Subtract(a, b) => self.two(*a, *b, frame, Step::Subtract),
            Op::Multiply(a, b) => self.two(*a, *b, frame, Step::Multiply),
            Op::Divide(a, b) => self.two(*a, *b, frame, Step::Divide),
            Op::Least(a, b) => self.two(*a, *b, frame, Step::Least),
            Op::Greatest(a, b) => self.two(*a, *b, frame, Step::Greatest),
            Op::Above(a, b) => self.two(*a, *b, frame, Step::Above),
            Op::And(a, b) => self.two(*a, *b, frame, Step::And),
            Op::Or(a, b) => self.two(*a, *b, frame, Step::Or),
            Op::Not(a) => {
                let a = self.one(*a, frame);
                Value::One(self.place(Step::Not(a), &[a]))
            }
            Op::Within(v, lo, hi) => {
                let [v, lo, hi] = [v, lo, hi].map(|e| self.one(*e, frame));
                Value::One(self.place(Step::Within(v, lo, hi), &[v, lo, hi]))
            }
            Op::Between(a, b, s) => {
                let [a, b, s] = [a, b, s].map(|e| self.one(*e, frame));
                Value::One(self.place(Step::Between(a, b, s), &[a, b, s]))
            }
            Op::Choose(c, a, b) => {
                let c = self.one(*c, frame);
                let (a, b) = (self.value(*a, frame), self.value(*b, frame));
                let pick =
                    |layout: &mut Self, a, b| layout.place(Step::Choose(c, a, b), &[c, a, b]);
                match (a, b) {
                    (Value::Three(a), Value::Three(b)) => {
                        Value::Three([0, 1, 2].map(|n| pick(self, a[n], b[n])))
                    }
                    (a, b) => Value::One(pick(self, a.one(), b.one())),
                }
            }
            Op::Point(x, y, z) => Value::Three([x, y, z].map(|e| self.one(*e, frame))),
            Op::Held(shortest, longest, site) => {
                let key = self.key(*site, frame);
                let [a, b] = [shortest, longest].map(|e| self.one(*e, frame));
                // rate = 2 / (a + b); jitter = (b - a) / (2 (a + b))
                let two = self.constant(2.0);
                let sum = self.place(Step::Add(a, b), &[a, b]);
                let rate = self.place(Step::Divide(two, sum), &[two, sum]);
                let span = self.place(Step::Subtract(b, a), &[a, b]);
                let double = self.place(Step::Multiply(two, sum), &[two, sum]);
                let jitter = self.place(Step::Divide(span, double), &[span, double]);
                Value::One(self.place(Step::Held(key, rate, jitter), &[key, rate, jitter]))
            }
            Op::Phase(site) => {
                let key = self.key(*site, frame);
                Value::One(self.place(Step::Phase(key), &[key]))
            }
            Op::Turned(turn, _, at, period) => {
                let (at, period) = (self.one(*at, frame), self.one(*period, frame));
                let step = match turn {
                    Turn::Loop => Step::Wrap(at, period),
                    Turn::Alternate => Step::Fold(at, period),
                };
                Value::One(self.place(step, &[at, period]))
            }
            Op::Curve(curve, at) => {
                let at = self.one(*at, frame);
                Value::One(self.place(Step::Curve(*curve, at), &[at]))
            }
            Op::Brightest(c) => Value::One(self.brightest(*c, frame)),
            Op::BrightestAtOne(c) => {
                let whole = self.brightest(*c, frame);
                let parts = self.value(*c, frame).parts();
                Value::Three([0, 1, 2].map(|n| {
                    let part = parts[n];
                    self.place(Step::Share(part, whole), &[part, whole])
                }))
            }
        }
    }

    fn brightest(&mut self, color: ExprId, frame: &mut Frame) -> Reg {
        let parts = self.value(color, frame).parts();
        let first = self.place(Step::Greatest(parts[0], parts[1]), &[parts[0], parts[1]]);
        self.place(Step::Greatest(first, parts[2]), &[first, parts[2]])
    }

    fn call(
        &mut self,
        behaviour: BehaviourId,
        arguments: &[ExprId],
        site: Option<Site>,
        frame: &mut Frame,
    ) -> Value {
        let key = site.map(|site| self.key(site, frame));
        let arguments = arguments.iter().map(|a| self.value(*a, frame)).collect();
        let called = self.program.behaviour(behaviour);
        let mut inside =
            Frame { arguments, key, in_light: frame.in_light, known: FxHashMap::default() };
        self.value(called.value, &mut inside)
    }
}
