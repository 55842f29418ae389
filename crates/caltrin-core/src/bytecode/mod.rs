//! The evaluator: a light's description laid out as a flat list of instructions over blocks of lanes.
//!
//! A lane is a lamp of an array at one moment, or one lamp at one of many moments. Steps that do
//! not differ between the lanes are computed once and spread; the others run as plain loops over a
//! block, which compilers turn into vector code. The arithmetic is the kernel's, step by step, so a
//! block of one and a block of many give bit-identical results.

mod compile;
mod step;

use std::ops::Range;

use rustc_hash::FxHashMap;

use crate::choice::ChoiceState;
use crate::clock::ClockState;
use crate::curve::Easing;
use crate::kernel;
use crate::program::{
    ChoiceId, CurveId, Dial, Drive, EventOwner, ExprId, Field, Input, Light, Program, Share,
    TableId, Wave,
};
use crate::pure::{self, Pure};
use compile::{CompileFrame, Layout};
use step::{Block, step};

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
    /// How many neighboring lamps share one.
    lamps: u32,
    /// The index of the last one.
    last: u32,
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum Instruction {
    Constant(f64),
    Now,
    Clock(Dial),
    IsChosen(ChoiceId, u32),
    Weight(ChoiceId, u32),
    Index(Share),
    Input(Slot),
    Negate(Reg),
    Add(Reg, Reg),
    Subtract(Reg, Reg),
    Multiply(Reg, Reg),
    Divide(Reg, Reg),
    Min(Reg, Reg),
    Max(Reg, Reg),
    Clamp(Reg, Reg, Reg),
    Lerp(Reg, Reg, Reg),
    Above(Reg, Reg),
    Equal(Reg, Reg),
    And(Reg, Reg),
    Or(Reg, Reg),
    Not(Reg),
    Select(Reg, Reg, Reg),
    /// A part of a color over its brightest part; 0 where that is 0.
    Share(Reg, Reg),
    /// Moment, key, rate, jitter.
    SampleAndHold([Reg; 4]),
    /// Moment, key, rate, jitter, part.
    SmoothHold([Reg; 5]),
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
    Envelope(TableId, Reg),
    NextPlace(TableId, Reg),
    ConeRoot(u8, [Reg; 3]),
    LightOf(u8, [Reg; 3]),
    /// The part's own, the three parts; what it is where there is no direction.
    Direction(Reg, [Reg; 3], f64),
    Phase(Reg),
    /// The first of when each began and of how long it lives; how many; whether the oldest makes room.
    FreeSpark([u32; 2], u32, bool),
    /// The hour, the moment after which.
    NextHour(f64, Reg),
    Wrap(Reg, Reg),
    Fold(Reg, Reg),
    Curve(CurveId, Reg),
    /// The key of a place under the run's seed.
    SeedKey(u32),
    /// The key of a place under another key.
    Key(Reg, u32),
    /// The key of this lane's lamp, or of as many neighbors as share it.
    LampKey(Reg, u32),
}

#[derive(Clone, Copy, Debug, PartialEq)]
struct Placed {
    step: Instruction,
    differs: u8,
}

/// The instructions of one light, and the registers that its fields end in.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Bytecode {
    instructions: Vec<Placed>,
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

impl Bytecode {
    pub(crate) fn of_light(program: &Program, light: &Light) -> Bytecode {
        let mut layout =
            Layout { program, instructions: Vec::new(), signals: FxHashMap::default(), light };
        // The moment comes first.
        let now = layout.place(Instruction::Now, &[]);
        layout.lay_signals(light.drives.iter().map(|drive| drive.value).collect(), now);
        let mut frame = CompileFrame::open(true, now);
        let outputs = light
            .drives
            .iter()
            .flat_map(|drive| layout.value(drive.value, &mut frame).parts())
            .collect();
        Bytecode { instructions: layout.instructions, outputs }
    }

    /// Of values that belong to no light, but to the book or to each instance or lamp.
    pub(crate) fn of_values(program: &Program, home: &EventOwner, values: &[ExprId]) -> Bytecode {
        let drives = values.iter().map(|value| {
            let kind = program.expr(*value).kind;
            Drive { field: Field::Named(0), value: *value, kind }
        });
        let all = Light { drives: drives.collect(), ..home.light("") };
        Bytecode::of_light(program, &all)
    }

    /// Every number of one lane, that of this index, at a moment, as it is.
    pub(crate) fn numbers(
        &self,
        setting: Setting<'_>,
        (index, moment): (u32, f64),
        scratch: &mut Scratch,
        out: &mut Vec<f64>,
    ) {
        if scratch.numbers.len() < self.instructions.len() {
            scratch.numbers.resize(self.instructions.len(), [0.0; BLOCK]);
            scratch.words.resize(self.instructions.len(), [0; BLOCK]);
        }
        let block = Block { first: index, moment, moments: &[] };
        for (at, placed) in self.instructions.iter().enumerate() {
            step(placed.step, at, 1, &block, setting, scratch);
        }
        out.clear();
        out.extend(self.outputs.iter().map(|reg| scratch.numbers[*reg as usize][0]));
    }

    /// How many instructions it has.
    pub(crate) fn len(&self) -> usize {
        self.instructions.len()
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
        if scratch.numbers.len() < self.instructions.len() {
            scratch.numbers.resize(self.instructions.len(), [0.0; BLOCK]);
            scratch.words.resize(self.instructions.len(), [0; BLOCK]);
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
            for (at, placed) in self.instructions.iter().enumerate() {
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
                if self.instructions[*reg as usize].differs & mask == 0 {
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

/// How many numbers an input has, all of its instances or lamps together.
pub(crate) fn slots(input: &Input) -> u32 {
    input.kind.width() as u32 * input.count()
}
