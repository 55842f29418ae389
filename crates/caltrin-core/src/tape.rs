//! The evaluator: a light's description laid out as a flat list of steps over blocks of lanes.
//!
//! A lane is a lamp of an array at one moment, or one lamp at one of many moments. Steps that do
//! not differ between the lanes are computed once and spread; the others run as plain loops over a
//! block, which compilers turn into vector code. The arithmetic is the kernel's, step by step, so a
//! block of one and a block of many give the same bits.

use std::ops::Range;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::choice::ChoiceState;
use crate::clock::ClockState;
use crate::curve::Easing;
use crate::kernel::{self, PAIRS};
use crate::kind::Scope;
use crate::program::{
    BehaviourId, ChoiceId, Constant, CurveId, Dial, ExprId, Input, Light, Op, Program, Share,
    SignalId, Site, Size, TableId, Turn, Wave,
};
use crate::pure::{self, Pure};
use crate::quantity::Seconds;
use crate::sky;

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

/// Where a lane finds an input's number among all of the run's.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Slot {
    /// The number of the first one.
    first: u32,
    /// How many numbers lie from one to the next.
    width: u32,
    /// How many neighbouring lamps share one.
    lamps: u32,
    /// The index of the last one.
    last: u32,
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum Step {
    Constant(f64),
    Now,
    Clock(Dial),
    Chosen(ChoiceId, u32),
    Weight(ChoiceId, u32),
    Index(Share),
    Input(Slot),
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
    Same(Reg, Reg),
    And(Reg, Reg),
    Or(Reg, Reg),
    Not(Reg),
    Choose(Reg, Reg, Reg),
    /// A part of a colour over its brightest part; 0 where that is 0.
    Share(Reg, Reg),
    /// Moment, key, rate, jitter.
    Held([Reg; 4]),
    /// Moment, key, rate, jitter, part.
    Soft([Reg; 5]),
    /// Moment, key, rate; octaves.
    Drift([Reg; 3], u32),
    /// Moment, key, the four times; the tables of draws.
    Burst([Reg; 6], [TableId; 2]),
    InBall([Reg; 3]),
    Pure(Pure, [Reg; pure::MOST]),
    Wave(Wave, Reg),
    Square(Reg, Reg),
    Eased(Easing, Reg),
    Table(TableId, Reg),
    ConeRoot(u8, [Reg; 3]),
    LightOf(u8, [Reg; 3]),
    /// The part's own, the three parts; what it is where there is no direction.
    Heading(Reg, [Reg; 3], f64),
    Phase(Reg),
    Wrap(Reg, Reg),
    Fold(Reg, Reg),
    Curve(CurveId, Reg),
    /// The key of a place under the run's seed.
    SeedKey(u32),
    /// The key of a place under another key.
    Key(Reg, u32),
    /// The key of this lane's lamp, or of as many neighbours as share it.
    LampKey(Reg, u32),
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

/// What a light is read under.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Setting<'a> {
    pub program: &'a Program,
    pub seed: u32,
    /// All numbers of all inputs.
    pub inputs: &'a [f64],
    /// Where the clock stands.
    pub clock: ClockState,
    /// How many hours pass on it in a second at rate 1.
    pub pace: f64,
    /// What is chosen.
    pub choices: &'a [ChoiceState],
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
        let mut layout =
            Layout { program, steps: Vec::new(), signals: FxHashMap::default(), light };
        // The moment comes first.
        let now = layout.place(Step::Now, &[]);
        layout.lay_signals(light.drives.iter().map(|drive| drive.value).collect(), now);
        let mut frame = Frame::open(true, now);
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
        setting: Setting<'_>,
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
                    step(placed.step, at, lanes, &block, setting, scratch);
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

/// The second where the first is not 0, else the third: by their bits, so that many lanes can be at
/// once.
#[inline(always)]
fn choose(condition: f64, then: f64, otherwise: f64) -> f64 {
    let mask = if condition != 0.0 { u64::MAX } else { 0 };
    f64::from_bits((then.to_bits() & mask) | (otherwise.to_bits() & !mask))
}

/// Computes one step for the first `n` lanes. It is compiled twice, plainly and for processors that do
/// four doubles at once: the same operations in the same order, so the same bits.
#[multiversion::multiversion(targets("x86_64+avx2"))]
fn step(
    step: Step,
    at: usize,
    n: usize,
    block: &Block<'_>,
    Setting { program, seed, inputs, clock, pace, choices }: Setting<'_>,
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
        Step::Clock(reading) => {
            for (lane, out) in out.iter_mut().enumerate() {
                let now = block.moments.get(lane).copied().unwrap_or(block.moment);
                let hours = clock.hours_at(pace, now);
                *out = match reading {
                    Dial::Hour => sky::hour_of(hours),
                    Dial::Days => {
                        let days = clock.shown.days + sky::days_of(hours);
                        kernel::within(days, -sky::MOST_DAYS, sky::MOST_DAYS)
                    }
                };
            }
        }
        Step::Chosen(id, option) => out.fill(flag(choices[id.index()].chosen == option)),
        Step::Weight(id, option) => {
            let (choice, state) = (program.choice(id), &choices[id.index()]);
            for (lane, out) in out.iter_mut().enumerate() {
                let now = block.moments.get(lane).copied().unwrap_or(block.moment);
                *out = state.weight(choice, option, Seconds(now));
            }
        }
        Step::Index(share) => {
            for (lane, out) in out.iter_mut().enumerate() {
                *out = f64::from(share.index(index(lane)));
            }
        }
        Step::Input(slot) => {
            for (lane, out) in out.iter_mut().enumerate() {
                let n = (index(lane) / slot.lamps).min(slot.last);
                *out = inputs[(slot.first + n * slot.width) as usize];
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
        Step::Same(a, b) => each!([a = a, b = b] flag(a == b)),
        Step::And(a, b) => each!([a = a, b = b] a * b),
        Step::Or(a, b) => each!([a = a, b = b] kernel::greatest(a, b)),
        Step::Not(a) => each!([a = a] 1.0 - a),
        Step::Choose(c, a, b) => each!([c = c, a = a, b = b] choose(c, a, b)),
        Step::Share(part, whole) => {
            each!([p = part, w = whole] if w > 0.0 { p / w } else { 0.0 })
        }
        Step::Held([t, key, rate, jitter]) => {
            let (t, key, rate, jitter) = (of(t), word(key), of(rate), of(jitter));
            for lane in 0..n {
                out[lane] = kernel::held_level(t[lane], key[lane], rate[lane], jitter[lane]);
            }
        }
        Step::Soft([t, key, rate, jitter, part]) => {
            let (t, key, rate, jitter) = (of(t), word(key), of(rate), of(jitter));
            let part = of(part);
            for lane in 0..n {
                out[lane] =
                    kernel::soft_level(t[lane], key[lane], rate[lane], jitter[lane], part[lane]);
            }
        }
        // As `kernel::drift_level` does it, octave by octave for all lanes, so that each is one plain
        // loop.
        Step::Drift([t, key, rate], octaves) => {
            let (t, key, rate) = (of(t), word(key), of(rate));
            let mut x = [0.0; BLOCK];
            for lane in 0..n {
                x[lane] = t[lane] * rate[lane] + kernel::chance_phase(key[lane]);
                out[lane] = kernel::noise(x[lane], key[lane]);
            }
            let mut total = 1.0;
            for octave in 1..octaves {
                let next = kernel::OCTAVE.wrapping_mul(octave);
                for lane in 0..n {
                    x[lane] = 2.0 * x[lane] + 0.37;
                    let noise = kernel::noise(x[lane], key[lane].wrapping_add(next));
                    out[lane] = 2.0 * out[lane] + noise;
                }
                total = 2.0 * total + 1.0;
            }
            out.iter_mut().for_each(|v| *v /= total);
        }
        Step::Burst([t, key, a, b, c, d], tables) => {
            let (t, key, [a, b, c, d]) = (of(t), word(key), [a, b, c, d].map(of));
            let [on, off] = tables.map(|table| &program.table(table).values[..]);
            // Most lamps of an array share their times, and so the edges.
            let alike = |all: &[f64]| all.iter().all(|v| *v == all[0]);
            if n >= 8 && [a, b, c, d].into_iter().all(alike) {
                let mut edges = [0.0; 2 * PAIRS as usize + 1];
                let (burst, pause) = ([a[0], b[0]], [c[0], d[0]]);
                for (place, edge) in edges.iter_mut().enumerate() {
                    *edge = kernel::burst_edge(place, burst, pause, on, off);
                }
                for lane in 0..n {
                    out[lane] =
                        kernel::burst_among(t[lane], key[lane], PAIRS as usize, |at| edges[at]);
                }
                return;
            }
            for lane in 0..n {
                let (burst, pause) = ([a[lane], b[lane]], [c[lane], d[lane]]);
                out[lane] = kernel::burst_level(t[lane], key[lane], burst, pause, on, off);
            }
        }
        Step::InBall([a, b, c]) => each!([a = a, b = b, c = c] kernel::in_ball(a, b, c)),
        Step::Pure(function, regs) => {
            let count = function.arguments();
            let mut arguments = [0.0; pure::MOST];
            for lane in 0..n {
                for (argument, reg) in arguments[..count].iter_mut().zip(regs) {
                    *argument = before[reg as usize][lane];
                }
                out[lane] = function.at(&arguments[..count]);
            }
        }
        Step::Wave(Wave::Sine, x) => each!([x = x] kernel::sine_level(x)),
        Step::Wave(Wave::Triangle, x) => each!([x = x] kernel::triangle_level(x)),
        Step::Wave(Wave::Saw, x) => each!([x = x] kernel::saw_level(x)),
        Step::Square(x, on) => each!([x = x, on = on] kernel::square_level(x, on)),
        Step::Eased(easing, u) => each!([u = u] easing.at(u)),
        Step::Table(table, x) => {
            let table = &program.table(table).values;
            each!([x = x] kernel::table_level(x, table));
        }
        Step::ConeRoot(cone, [r, g, b]) => {
            each!([r = r, g = g, b = b] kernel::cone_root(usize::from(cone), [r, g, b]))
        }
        Step::LightOf(part, [l, m, s]) => {
            each!([l = l, m = m, s = s] kernel::light_of(usize::from(part), [l, m, s]))
        }
        Step::Heading(part, [x, y, z], still) => {
            each!([p = part, x = x, y = y, z = z] kernel::heading(p, x, y, z, still))
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
        Step::LampKey(key, lamps) => {
            let key = word(key);
            if lamps == 1 && block.moments.is_empty() {
                for lane in 0..n {
                    let index = block.first.wrapping_add(lane as u32);
                    words_out[lane] = kernel::lamp_key(key[lane], index);
                }
                return;
            }
            for lane in 0..n {
                words_out[lane] = kernel::lamp_key(key[lane], index(lane) / lamps);
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

/// Where expressions are being laid out: the open, a signal, or a call with its arguments; and at
/// which moment.
struct Frame {
    arguments: Vec<Value>,
    key: Option<Reg>,
    in_light: bool,
    now: Reg,
    known: FxHashMap<ExprId, Value>,
}

impl Frame {
    fn open(in_light: bool, now: Reg) -> Self {
        Frame { arguments: Vec::new(), key: None, in_light, now, known: FxHashMap::default() }
    }
}

/// How many numbers an input has, all of its placings or lamps together.
pub(crate) fn slots(input: &Input) -> u32 {
    input.kind.width() as u32 * input.count()
}

struct Layout<'a> {
    program: &'a Program,
    steps: Vec<Placed>,
    /// Signals that are laid out, by the moment they are looked at.
    signals: FxHashMap<(SignalId, Reg), Value>,
    light: &'a Light,
}

impl Layout<'_> {
    /// Lays out the signals that these expressions use at this moment, each after those that it uses
    /// itself. What is looked at at another moment is laid out there.
    fn lay_signals(&mut self, roots: Vec<ExprId>, now: Reg) {
        let mut used = std::collections::BTreeSet::new();
        let mut open = roots;
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
                Op::Moment(_, moment) => {
                    open.push(*moment);
                    continue;
                }
                _ => {}
            }
            open.extend(op.operands());
        }
        for signal in used {
            if !self.signals.contains_key(&(signal, now)) {
                let value = self.program.signal(signal).value;
                let value = self.value(value, &mut Frame::open(false, now));
                self.signals.insert((signal, now), value);
            }
        }
    }

    fn place(&mut self, step: Step, from: &[Reg]) -> Reg {
        let mut differs = match step {
            Step::Now | Step::Clock(_) | Step::Weight(..) => differs::TIME,
            Step::Index(_) | Step::LampKey(..) => differs::LAMP,
            Step::Input(slot) if slot.last > 0 => differs::LAMP,
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
        if let Some(key) = frame.key {
            return self.place(Step::Key(key, site.place), &[key]);
        }
        let key = self.place(Step::SeedKey(site.place), &[]);
        let single = self.light.size == Size::One;
        if !frame.in_light || single || site.scope == Scope::Book {
            return key;
        }
        let share = match site.scope {
            Scope::Placing(_) => self.light.share(site.scope),
            Scope::Lamp | Scope::Book => Share::LAMP,
        };
        self.place(Step::LampKey(key, share.lamps), &[key])
    }

    /// Rate and jitter of a held level: `2 / (a + b)` and `(b - a) / (2 (a + b))`.
    fn held_numbers(&mut self, shortest: ExprId, longest: ExprId, frame: &mut Frame) -> [Reg; 2] {
        let [a, b] = [shortest, longest].map(|e| self.one(e, frame));
        let two = self.constant(2.0);
        let sum = self.place(Step::Add(a, b), &[a, b]);
        let rate = self.place(Step::Divide(two, sum), &[two, sum]);
        let span = self.place(Step::Subtract(b, a), &[a, b]);
        let double = self.place(Step::Multiply(two, sum), &[two, sum]);
        [rate, self.place(Step::Divide(span, double), &[span, double])]
    }

    fn three(&mut self, id: ExprId, frame: &mut Frame) -> [Reg; 3] {
        match self.value(id, frame) {
            Value::Three(parts) => parts,
            Value::One(one) => [one; 3],
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
            Op::Now => Value::One(frame.now),
            Op::Clock(reading) => Value::One(self.place(Step::Clock(*reading), &[])),
            Op::Chosen(id, option) => Value::One(self.place(Step::Chosen(*id, *option), &[])),
            Op::Weight(id, option) => Value::One(self.place(Step::Weight(*id, *option), &[])),
            Op::Index(scope) => {
                let share = self.light.share(*scope);
                Value::One(self.place(Step::Index(share), &[]))
            }
            Op::Input(id) => {
                let input = self.program.input(*id);
                let first: u32 = self.program.inputs[..id.index()].iter().map(slots).sum();
                let width = input.kind.width() as u32;
                let last = input.count() - 1;
                let lamps = if last == 0 { 1 } else { self.light.share(input.scope).lamps };
                let mut part =
                    |n| self.place(Step::Input(Slot { first: first + n, width, lamps, last }), &[]);
                match width {
                    1 => Value::One(part(0)),
                    _ => Value::Three([0, 1, 2].map(part)),
                }
            }
            Op::Parameter(n) => frame.arguments[*n],
            Op::Signal(signal) => self.signals[&(*signal, frame.now)],
            Op::Call(behaviour, arguments, site) => self.call(*behaviour, arguments, *site, frame),
            Op::Negate(a) => match self.value(*a, frame) {
                Value::One(a) => Value::One(self.place(Step::Negate(a), &[a])),
                Value::Three(a) => Value::Three(a.map(|a| self.place(Step::Negate(a), &[a]))),
            },
            Op::Stood(a, up) => {
                let point = self.three(*a, frame);
                Value::Three(up.parts().map(|(part, turned)| match turned {
                    true => self.place(Step::Negate(point[part]), &[point[part]]),
                    false => point[part],
                }))
            }
            Op::Add(a, b) => self.two(*a, *b, frame, Step::Add),
            Op::Subtract(a, b) => self.two(*a, *b, frame, Step::Subtract),
            Op::Multiply(a, b) => self.two(*a, *b, frame, Step::Multiply),
            Op::Divide(a, b) => self.two(*a, *b, frame, Step::Divide),
            Op::Least(a, b) => self.two(*a, *b, frame, Step::Least),
            Op::Greatest(a, b) => self.two(*a, *b, frame, Step::Greatest),
            Op::Above(a, b) => self.two(*a, *b, frame, Step::Above),
            Op::Same(a, b) => self.two(*a, *b, frame, Step::Same),
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
                let (a, b) = (self.value(*a, frame), self.value(*b, frame));
                let s = self.one(*s, frame);
                let blend =
                    |layout: &mut Self, a, b| layout.place(Step::Between(a, b, s), &[a, b, s]);
                match (a, b) {
                    (Value::Three(a), Value::Three(b)) => {
                        Value::Three([0, 1, 2].map(|n| blend(self, a[n], b[n])))
                    }
                    (a, b) => Value::One(blend(self, a.one(), b.one())),
                }
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
            Op::Parts(x, y, z) => Value::Three([x, y, z].map(|e| self.one(*e, frame))),
            Op::Held(shortest, longest, site) => {
                let key = self.key(*site, frame);
                let [rate, jitter] = self.held_numbers(*shortest, *longest, frame);
                let from = [frame.now, key, rate, jitter];
                Value::One(self.place(Step::Held(from), &from))
            }
            Op::Soft(shortest, longest, part, site) => {
                let key = self.key(*site, frame);
                let [rate, jitter] = self.held_numbers(*shortest, *longest, frame);
                let from = [frame.now, key, rate, jitter, self.one(*part, frame)];
                Value::One(self.place(Step::Soft(from), &from))
            }
            Op::Drift(rate, octaves, site) => {
                let from = [frame.now, self.key(*site, frame), self.one(*rate, frame)];
                Value::One(self.place(Step::Drift(from, *octaves), &from))
            }
            Op::Burst(times, tables, site) => {
                let key = self.key(*site, frame);
                let [a, b, c, d] = times.map(|e| self.one(e, frame));
                let from = [frame.now, key, a, b, c, d];
                Value::One(self.place(Step::Burst(from, *tables), &from))
            }
            Op::InBall(parts, radius) => {
                let [x, y, z] = parts.map(|e| self.one(e, frame));
                let radius = self.one(*radius, frame);
                Value::Three([[x, y, z], [y, z, x], [z, x, y]].map(|from| {
                    let part = self.place(Step::InBall(from), &from);
                    self.place(Step::Multiply(part, radius), &[part, radius])
                }))
            }
            Op::Pure(function, all) => {
                let mut from = [0; pure::MOST];
                for (reg, e) in from.iter_mut().zip(all) {
                    *reg = self.one(*e, frame);
                }
                Value::One(self.place(Step::Pure(*function, from), &from[..all.len()]))
            }
            Op::Wave(wave, x) => {
                let x = self.one(*x, frame);
                Value::One(self.place(Step::Wave(*wave, x), &[x]))
            }
            Op::Square(x, on) => self.two(*x, *on, frame, Step::Square),
            Op::Eased(easing, u) => {
                let u = self.one(*u, frame);
                Value::One(self.place(Step::Eased(*easing, u), &[u]))
            }
            Op::Table(table, x) => {
                let x = self.one(*x, frame);
                Value::One(self.place(Step::Table(*table, x), &[x]))
            }
            Op::Moment(value, moment) => {
                let now = self.one(*moment, frame);
                self.lay_signals(vec![*value], now);
                let mut then = Frame {
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
                Value::One(self.place(Step::ConeRoot(*cone, color), &color))
            }
            Op::FromCones(l, m, s) => {
                let roots = [l, m, s].map(|e| self.one(*e, frame));
                Value::Three([0, 1, 2].map(|part| self.place(Step::LightOf(part, roots), &roots)))
            }
            Op::Heading(point) => {
                let p = self.three(*point, frame);
                Value::Three(
                    [(0, 0.0), (1, 0.0), (2, -1.0)]
                        .map(|(n, still)| self.place(Step::Heading(p[n], p, still), &p)),
                )
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
        let mut inside = Frame {
            arguments,
            key,
            in_light: frame.in_light,
            now: frame.now,
            known: FxHashMap::default(),
        };
        self.value(called.value, &mut inside)
    }
}
