//! The plan: what an exported file holds, decided once for all languages.
//!
//! Vectors are taken apart here, shared parts get names, what is the same for a whole array moves
//! out of its loop, and each function is reported exactly what it needs. A language only has to spell
//! it.

mod body;
mod helper;
mod make;
mod reach;
mod self_test;

use std::collections::BTreeSet;

use caltrin_core::interval::Interval;
use caltrin_core::program::{
    ChoiceId, Dial, Domain, Field, InputId, LightKind, Program, Queue, Share, Size, Subject, Table,
    TableId,
};
use caltrin_core::quantity::Seed;
use caltrin_core::{SourceNote, SourceNotes, ValidatedProgram, kernel};

use crate::names::FilePrefix;
use rustc_hash::{FxHashMap, FxHashSet};

pub use helper::Helper;
use make::Maker;
use reach::{needs, reachable};
pub use self_test::{ACT_SALT, Given, HOURS_TRIED, Nth, OPEN_STEP, SelfTest, TestAct, carried};

/// An operator with one operand.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Prefix {
    /// `-a`
    Minus,
    /// `!a`
    Not,
}

/// An operator between two operands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Infix {
    /// `a + b`
    Plus,
    /// `a - b`
    Minus,
    /// `a * b`
    Times,
    /// `a / b`
    Over,
    /// `a > b`
    Above,
    /// `a < b`
    Below,
    /// `a == b`
    Equal,
    /// `a == b`, of 32 bits.
    Is,
    /// `a && b`
    And,
    /// `a || b`
    Or,
}

/// The type of a value in exported code.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Type {
    /// A double.
    Number,
    /// 32 bits.
    Word,
    /// A truth value.
    Flag,
}

/// A local name of a function: its place in [`Function::locals`] or [`LightPlan::locals`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Local(pub usize);

/// A function of the file: its place in [`Plan::functions`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct FunctionId(pub usize);

/// A value in exported code.
#[derive(Clone, Debug, PartialEq)]
pub enum Code {
    /// A double.
    Number(f64),
    /// 32 bits.
    Word(u32),
    /// On or off.
    Flag(bool),
    /// A local.
    Local(Local),
    /// The run's moment.
    Now,
    /// The run's seed.
    Seed,
    /// What the game's clock shows.
    Clock(Dial),
    /// The lamp's index, or what several lamps share of it, 32 bits.
    Index(Share),
    /// The same as a double.
    IndexNumber(Share),
    /// What an input is set to, in a light: its place in [`Plan::inputs`], which part of it, and which
    /// one of many.
    Input(usize, usize, Option<Box<Code>>),
    /// The option that is chosen, 32 bits: the choice's place in [`Plan::choices`].
    IsChosen(usize),
    /// How much an option counts: the choice's place, and which option.
    Weight(usize, u32),
    /// A table: its place in [`Plan::tables`].
    Table(usize),
    /// Which spark of a pool the next one is: its place in [`Plan::sparks`].
    FreeSpark(usize),
    /// The first moment after another at which the game's clock comes to show an hour.
    NextHour(f64, Box<Code>),
    /// One operand.
    Prefix(Prefix, Box<Code>),
    /// Two operands.
    Infix(Infix, Box<Code>, Box<Code>),
    /// The second where the first is on, else the third.
    Select(Box<Code>, Box<Code>, Box<Code>),
    /// A call of the kernel.
    Helper(Helper, Vec<Code>),
    /// A call of a function of the file.
    Call(FunctionId, Vec<Code>),
}

impl Code {
    /// Two operands; what is known is computed, and what changes nothing is left out.
    fn infix(sign: Infix, a: Code, b: Code) -> Code {
        match (sign, &a, &b) {
            (Infix::Plus, Code::Number(x), Code::Number(y)) => Code::Number(x + y),
            // What is below 0 is taken away by adding its size: bit-identical results.
            (Infix::Minus, _, Code::Number(y)) if *y < 0.0 && !matches!(a, Code::Number(_)) => {
                Code::Infix(Infix::Plus, Box::new(a), Box::new(Code::Number(-y)))
            }
            // The index is whole and not below 0, so nothing but the sign of a zero is lost, and
            // no zero leaves the kernel with a sign.
            (Infix::Times, Code::Number(0.0), Code::IndexNumber(_)) => Code::Number(0.0),
            (Infix::Plus, Code::Number(0.0), Code::Infix(Infix::Times, _, index))
                if matches!(**index, Code::IndexNumber(_)) =>
            {
                b
            }
            _ => Code::Infix(sign, Box::new(a), Box::new(b)),
        }
    }

    fn visit(&self, f: &mut impl FnMut(&Code)) {
        f(self);
        match self {
            Code::Prefix(_, a) | Code::NextHour(_, a) => a.visit(f),
            Code::Infix(_, a, b) => {
                a.visit(f);
                b.visit(f);
            }
            Code::Select(a, b, c) => {
                a.visit(f);
                b.visit(f);
                c.visit(f);
            }
            Code::Helper(_, all) | Code::Call(_, all) => all.iter().for_each(|a| a.visit(f)),
            Code::Input(_, _, Some(index)) => index.visit(f),
            Code::Number(_)
            | Code::Word(_)
            | Code::Flag(_)
            | Code::Local(_)
            | Code::Now
            | Code::Seed
            | Code::Clock(_)
            | Code::Index(_)
            | Code::IndexNumber(_)
            | Code::Input(..)
            | Code::IsChosen(_)
            | Code::Weight(..)
            | Code::FreeSpark(_)
            | Code::Table(_) => {}
        }
    }
}

/// One statement of a function.
#[derive(Clone, Debug, PartialEq)]
pub enum Statement {
    /// A named part.
    Let(Local, Type, Code),
    /// Done only where the condition holds; its block ends in a return.
    When(Code, Vec<Statement>),
    /// The value.
    Return(Code),
}

/// What a parameter of a function is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// The run's moment.
    Now,
    /// The run's seed.
    Seed,
    /// What the game's clock shows.
    Clock(Dial),
    /// The key of this use.
    Key,
    /// What an input is set to: its place in [`Plan::inputs`], and which part of it.
    Input(usize, usize),
    /// The option that is chosen: the choice's place in [`Plan::choices`].
    IsChosen(usize),
    /// How much an option counts: the choice's place, and which option.
    Weight(usize, u32),
    /// A value that the caller gives: which argument, and which part of it.
    Value(usize, usize),
}

/// What a function was in the book.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Source {
    /// A curve, and what its places are.
    Curve(Domain),
    /// A signal.
    Signal,
    /// A behavior.
    Behavior,
}

/// A small function named as in the book.
#[derive(Clone, Debug, PartialEq)]
pub struct Function {
    /// The book's name, with `_r` or `_x` for a part of a color or point.
    pub name: String,
    /// What it was in the book.
    pub source: Source,
    /// Its line of the book.
    pub note: Option<SourceNote>,
    /// The book's names of its locals.
    pub locals: Vec<String>,
    /// Its parameters in order.
    pub parameters: Vec<(Role, Local, Type)>,
    /// The type of its value.
    pub result: Type,
    /// The unit of its value, empty for none.
    pub unit: &'static str,
    /// What it does.
    pub body: Vec<Statement>,
}

/// One number of a lamp.
#[derive(Clone, Debug, PartialEq)]
pub enum Part {
    /// The same always: already as it leaves the kernel.
    Constant(f32),
    /// To be computed and turned into a single.
    Code(Code, OutputConversion),
}

/// How a computed number becomes a single. All give bit-identical results; what the bounds show to be
/// needless is left out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum OutputConversion {
    /// It is never near zero nor beyond a single: a plain conversion.
    Convert,
    /// It is never beyond a single: `to_single`.
    Single,
    /// It may be anything: `to_output`.
    Output,
}

impl OutputConversion {
    fn of(bounds: Interval) -> OutputConversion {
        let most = f64::from(f32::MAX);
        if bounds.lo < -most || bounds.hi > most {
            OutputConversion::Output
        } else if bounds.lo >= kernel::SMALLEST || bounds.hi <= -kernel::SMALLEST {
            OutputConversion::Convert
        } else {
            OutputConversion::Single
        }
    }

    /// The function of the kernel that does it.
    pub fn helper(self) -> Option<Helper> {
        match self {
            OutputConversion::Convert => None,
            OutputConversion::Single => Some(Helper::ToSingle),
            OutputConversion::Output => Some(Helper::ToOutput),
        }
    }
}

/// A field of a lamp.
#[derive(Clone, Debug, PartialEq)]
pub struct FieldPlan {
    /// Its name as the book has it.
    pub name: String,
    /// Whether it is on or off.
    pub flag: bool,
    /// The names of its parts, if it has more than one.
    pub suffixes: &'static [&'static str],
    /// Its unit or what it is, for the reader.
    pub about: String,
    /// Its line of the book.
    pub note: Option<SourceNote>,
    /// One number, or three.
    pub parts: Vec<Part>,
}

/// Whether this is a step times the lamp's index, perhaps on top of a start: then it is 0 or well above,
/// and never a negative zero.
fn steps_up(code: &Code) -> bool {
    match code {
        Code::Infix(Infix::Times, step, index) => {
            matches!(**step, Code::Number(v) if v >= kernel::SMALLEST)
                && matches!(**index, Code::IndexNumber(_))
        }
        Code::Infix(Infix::Plus, start, steps) => {
            matches!(**start, Code::Number(v) if v > 0.0) && steps_up(steps)
        }
        _ => false,
    }
}

/// A light, or an array of lights.
#[derive(Clone, Debug, PartialEq)]
pub struct LightPlan {
    /// The book's name.
    pub name: String,
    /// What kind of lamp.
    pub kind: LightKind,
    /// How many.
    pub size: Size,
    /// Its line of the book.
    pub note: Option<SourceNote>,
    /// The book's names of its locals.
    pub locals: Vec<String>,
    /// Computed once for all lamps that are read.
    pub shared: Vec<Statement>,
    /// Computed for each lamp.
    pub lamp: Vec<Statement>,
    /// What a lamp has, in order.
    pub fields: Vec<FieldPlan>,
    /// Its tags, a bit for each of [`Plan::tags`].
    pub tags: u32,
}

impl LightPlan {
    /// Which of the hour, the number of days and the run's moment it asks for.
    pub fn asks(&self) -> [bool; 3] {
        moments(|wanted| self.any(|code| code == wanted))
    }

    /// Whether any of its code uses the run's seed.
    pub fn uses_seed(&self) -> bool {
        self.any(|code| *code == Code::Seed)
    }

    /// Whether any of its code uses what the game's clock shows.
    pub fn uses_clock(&self, dial: Dial) -> bool {
        self.any(|code| *code == Code::Clock(dial))
    }

    /// Whether any of its code uses what the game has set.
    pub fn uses_inputs(&self) -> bool {
        self.any(|code| matches!(code, Code::Input(..) | Code::IsChosen(_) | Code::Weight(..)))
    }

    /// Whether any of its code uses the lamp's index.
    pub fn uses_index(&self) -> bool {
        self.any(|code| matches!(code, Code::Index(_) | Code::IndexNumber(_)))
    }

    fn any(&self, mut wanted: impl FnMut(&Code) -> bool) -> bool {
        let mut found = false;
        let mut look = |code: &Code| found |= wanted(code);
        for statement in self.shared.iter().chain(&self.lamp) {
            visit_statement(statement, &mut look);
        }
        for part in self.fields.iter().flat_map(|field| &field.parts) {
            if let Part::Code(code, _) = part {
                code.visit(&mut look);
            }
        }
        found
    }

    /// Whether its lamps have an index.
    pub fn is_array(&self) -> bool {
        !matches!(self.size, Size::One)
    }
}

/// A value that the game sets.
#[derive(Clone, Debug, PartialEq)]
pub struct InputPlan {
    /// Whether events write it, and the game does not.
    pub kept: bool,
    /// Which input of the program it is.
    pub id: InputId,
    /// The book's name, with the instance's or light's in front where it has one.
    pub name: String,
    /// Whether it is on or off.
    pub flag: bool,
    /// The names of its parts, if it has more than one.
    pub suffixes: &'static [&'static str],
    /// Its unit, or what it is kept for, for the reader.
    pub about: String,
    /// Its unit, for the reader.
    pub unit: String,
    /// Its line of the book.
    pub note: Option<SourceNote>,
    /// How many there are, if there is one for each instance or lamp.
    pub count: Option<u32>,
    /// Each part until the game sets it; on is 1.
    pub default: Vec<f64>,
    /// What it is kept within.
    pub bounds: Interval,
}

/// An event.
#[derive(Clone, Debug, PartialEq)]
pub struct EventPlan {
    /// The book's name.
    pub name: String,
    /// The book's line.
    pub note: Option<SourceNote>,
    /// What the game gives it: places among [`Plan::inputs`].
    pub values: Vec<usize>,
    /// Where the numbers of each of those begin among all that the book's event comes with.
    pub offsets: Vec<usize>,
    /// How many numbers the book's event comes with.
    pub numbers: usize,
    /// When it happens next by itself; `None` where the game fires it.
    pub due: Option<Locals>,
    /// Whether it may follow at the very moment at which the game does something.
    pub follows: bool,
    /// Whether it happens whenever the game sets the clock.
    pub by_clock: bool,
    /// How many there are, if each instance or lamp has its own.
    pub count: Option<u32>,
    /// What it writes of its own and of the book's.
    pub own: EventWrites,
    /// What it writes for each instance or lamp, before that.
    pub each: Vec<Each>,
}

/// What an event does.
#[derive(Clone, Debug, PartialEq)]
pub struct EventWrites {
    /// What it looks at before it writes anything.
    pub looked: Locals,
    /// What it writes, under which conditions: an input's place among [`Plan::inputs`] and its value.
    pub writes: Vec<ConditionalWrite<Code>>,
}

/// What an event does to each instance or lamp.
#[derive(Clone, Debug, PartialEq)]
pub struct Each {
    /// The book's name of those.
    pub name: String,
    /// How many there are for each of the event's.
    pub count: u32,
    /// What it does.
    pub does: EventWrites,
}

impl EventPlan {
    /// Whether the game fires it.
    pub fn is_fired(&self) -> bool {
        self.due.is_none() && !self.by_clock
    }
}

impl EventWrites {
    /// Which of the hour, the number of days and the run's moment it asks for.
    pub fn asks(&self) -> [bool; 3] {
        moments(|wanted| {
            let mut found = false;
            self.look(&mut |code| found |= code == wanted);
            found
        })
    }

    fn look(&self, look: &mut impl FnMut(&Code)) {
        self.looked.statements.iter().for_each(|statement| visit_statement(statement, look));
        self.writes.iter().flat_map(ConditionalWrite::all).for_each(|code| code.visit(look));
    }
}

/// A write.
#[derive(Clone, Debug, PartialEq)]
pub struct ConditionalWrite<T> {
    /// Under which condition.
    pub when: Option<T>,
    /// Which inputs, and which parts of them, are given which values.
    pub sets: Vec<(usize, usize, T)>,
    /// The notice that is sent then.
    pub sends: Option<SendPlan<T>>,
    /// Which one of many is written, where that is not the event's own.
    pub slot: Option<T>,
}

impl<T> ConditionalWrite<T> {
    /// All that it is made of, in order.
    pub fn all(&self) -> impl Iterator<Item = &T> {
        let values = self.sets.iter().map(|(.., value)| value);
        let sends = self.sends.iter().flat_map(SendPlan::all);
        self.when.iter().chain(values).chain(sends).chain(&self.slot)
    }
}

/// A notice that an event sends.
#[derive(Clone, Debug, PartialEq)]
pub struct SendPlan<T> {
    /// Its index in [`Plan::notices`].
    pub line: u32,
    /// The index of its text.
    pub text: T,
    /// The lamp or instance that it comes from; `None` for the one to which the event happens.
    pub lamp: Option<u32>,
    /// Its values: the index in [`Plan::notice_values`], the part, and the value.
    pub values: Vec<(usize, usize, T)>,
}

impl<T> SendPlan<T> {
    /// All that it is made of, in order.
    pub fn all(&self) -> impl Iterator<Item = &T> {
        std::iter::once(&self.text).chain(self.values.iter().map(|(.., value)| value))
    }
}

/// A line that sends notices.
#[derive(Clone, Debug, PartialEq)]
pub struct NoticePlan {
    /// The book's name.
    pub name: String,
    /// What comes with it.
    pub texts: Vec<String>,
    /// The book's name of the light or instance that it comes from; empty for none.
    pub from: String,
    /// The light that says where that is: its place in [`Plan::lights`], and that of its position's field.
    pub placed: Option<(usize, usize)>,
}

/// A pool of sparks.
#[derive(Clone, Debug, PartialEq)]
pub struct SparkPlan {
    /// The book's name.
    pub name: String,
    /// How many there are.
    pub count: u32,
    /// When each began, and how long each lives: places in [`Plan::inputs`]; nothing where no event makes any.
    pub kept: Option<[usize; 2]>,
    /// Whether the oldest makes room.
    pub oldest: bool,
}

/// Where a run keeps notices: places in [`Plan::inputs`].
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct QueuePlan {
    /// When each was sent.
    pub moments: usize,
    /// What it was, packed.
    pub packed: usize,
    /// Where its lamp was then; `None` where no notice comes from a place.
    pub positions: Option<usize>,
    /// Where the oldest stands.
    pub first: usize,
    /// How many wait.
    pub count: usize,
    /// How many there was no room for.
    pub dropped: usize,
}

/// What code looks at: names for parts of it, and statements that give them.
#[derive(Clone, Debug, PartialEq)]
pub struct Locals {
    /// The names of the locals.
    pub locals: Vec<String>,
    /// Their values; of a moment that is due, with its return at the end.
    pub statements: Vec<Statement>,
}

/// Which of the hour, the number of days and the run's moment code asks for.
fn moments(mut uses: impl FnMut(&Code) -> bool) -> [bool; 3] {
    [Code::Clock(Dial::Hour), Code::Clock(Dial::Days), Code::Now].map(|code| uses(&code))
}

impl Locals {
    /// Which of the hour, the number of days and the run's moment it asks for.
    pub fn asks(&self) -> [bool; 3] {
        moments(|wanted| {
            let mut found = false;
            let mut look = |code: &Code| found |= code == wanted;
            self.statements.iter().for_each(|statement| visit_statement(statement, &mut look));
            found
        })
    }
}

impl EventPlan {
    /// All its code: what it writes, and when it is due.
    fn look(&self, look: &mut impl FnMut(&Code)) {
        self.own.look(look);
        self.each.iter().for_each(|each| each.does.look(look));
        let due = self.due.iter().flat_map(|due| &due.statements);
        due.for_each(|statement| visit_statement(statement, look));
    }

    /// Whether any of its code is wanted.
    fn any(&self, mut wanted: impl FnMut(&Code) -> bool) -> bool {
        let mut found = false;
        self.look(&mut |code: &Code| found |= wanted(code));
        found
    }
}

impl InputPlan {
    /// How many numbers it is made of, all instances or lamps together.
    pub fn slots(&self) -> usize {
        self.default.len() * self.count.unwrap_or(1) as usize
    }

    /// Its bounds in words.
    pub fn range(&self) -> String {
        if self.flag {
            return String::new();
        }
        let number = crate::number::double;
        format!(", kept within {}..{}", number(self.bounds.lo), number(self.bounds.hi))
    }
}

/// One of a few names, which the game chooses.
#[derive(Clone, Debug, PartialEq)]
pub struct ChoicePlan {
    /// Which choice of the program it is.
    pub id: ChoiceId,
    /// The book's name.
    pub name: String,
    /// The names of its options.
    pub options: Vec<String>,
    /// How long it takes from one to the next, in seconds; 0 for at once.
    pub over: f64,
    /// Its line of the book.
    pub note: Option<SourceNote>,
}

impl ChoicePlan {
    /// Whether it goes from one to the next over a time.
    pub fn fades(&self) -> bool {
        self.over > 0.0
    }
}

/// The game's clock.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ClockPlan {
    /// How many hours pass on it in a second at rate 1.
    pub pace: f64,
    /// The hour at the start.
    pub start: f64,
    /// How fast it goes at first.
    pub rate: f64,
    /// Whether anything happens at an hour.
    pub strikes: bool,
    /// Whether anything happens by itself, so that what is due is asked again when the clock is touched.
    pub happens: bool,
    /// Whether something may follow at the very moment at which the game drives it.
    pub follows: bool,
}

/// The fields that a run keeps its clock in: name, what it is, and its value at the start.
pub fn clock_fields(clock: &ClockPlan) -> Vec<(&'static str, &'static str, f64)> {
    let mut fields = vec![
        ("clock_hour", "h, the clock when it was last set", clock.start),
        ("clock_days", "number of days at that time", 0.0),
        ("clock_since", "s, when that occurred", 0.0),
        ("clock_rate", "its rate, 1 as in the book", clock.rate),
    ];
    if clock.strikes {
        fields.push(("clock_from", "h, the hour that it was moved from", clock.start));
    }
    fields
}

/// Everything an exported file holds.
#[derive(Clone, Debug, PartialEq)]
pub struct Plan {
    /// The book's name.
    pub book: String,
    /// The book's file, if it has one.
    pub file: String,
    /// What the file is named by instead of the book.
    pub prefix: Option<FilePrefix>,
    /// The book's seed.
    pub seed: Seed,
    /// The kernel functions needed, each after those that it uses.
    pub helpers: Vec<Helper>,
    /// The tables that are looked up.
    pub tables: Vec<Table>,
    /// The game's clock, if anything follows it.
    pub clock: Option<ClockPlan>,
    /// What the game sets, in the book's order; an input that nothing uses is left out.
    pub inputs: Vec<InputPlan>,
    /// What the game chooses, in the book's order; a choice that nothing uses is left out.
    pub choices: Vec<ChoicePlan>,
    /// What happens, in the book's order; what changes nothing that is read is left out.
    pub events: Vec<EventPlan>,
    /// The lines that send notices, in the book's order.
    pub notices: Vec<NoticePlan>,
    /// The values that notices carry: places in [`Plan::inputs`], where they wait.
    pub notice_values: Vec<usize>,
    /// Where notices wait, if there are any.
    pub queue: Option<QueuePlan>,
    /// Pools of sparks, in the book's order.
    pub sparks: Vec<SparkPlan>,
    /// The book's functions, each after those that it uses.
    pub functions: Vec<Function>,
    /// The tags of lights.
    pub tags: Vec<String>,
    /// The lights in the book's order.
    pub lights: Vec<LightPlan>,
    /// The self-test.
    pub self_test: SelfTest,
}

impl Plan {
    /// The inputs that the game sets, with their places among all.
    pub fn given(&self) -> impl Iterator<Item = (usize, &InputPlan)> {
        self.inputs.iter().enumerate().filter(|(_, input)| !input.kept)
    }

    /// How many numbers the inputs have that the game sets.
    pub fn given_slots(&self) -> usize {
        self.given().map(|(_, input)| input.slots()).sum()
    }

    /// The events that the game fires.
    pub fn fired(&self) -> impl Iterator<Item = (usize, &EventPlan)> {
        self.events.iter().enumerate().filter(|(_, event)| event.is_fired())
    }

    /// Most numbers that the game gives an event.
    pub fn most_given(&self) -> usize {
        self.fired().map(|(_, event)| event.numbers).max().unwrap_or(0)
    }

    /// The place of the event that happens when the game sets the clock.
    pub fn by_clock(&self) -> Option<usize> {
        self.events.iter().position(|event| event.by_clock)
    }

    /// Whether anything happens by itself.
    pub fn has_due(&self) -> bool {
        self.events.iter().any(|event| event.due.is_some())
    }

    /// Whether anything of what happens by itself is each instance's or lamp's.
    pub fn has_due_of_each(&self) -> bool {
        self.events.iter().any(|event| event.due.is_some() && event.count.is_some())
    }

    /// Whether something may follow at the very moment at which the game does something.
    pub fn follows(&self) -> bool {
        self.events.iter().any(|event| event.follows)
    }

    /// How many numbers and how many flags all inputs have.
    pub fn slots(&self) -> (usize, usize) {
        self.inputs.iter().fold((0, 0), |(numbers, flags), input| match input.flag {
            true => (numbers, flags + input.slots()),
            false => (numbers + input.slots(), flags),
        })
    }

    /// Whether the game does more with a run than set inputs: it has a clock, choices or events.
    pub fn has_acts(&self) -> bool {
        let sets = self.follows() && self.given().next().is_some();
        sets || self.clock.is_some() || !self.choices.is_empty() || self.fired().next().is_some()
    }

    /// Which light an example of the host's loop reads: the first that is a lamp in a place, or else the first.
    pub fn example(&self) -> usize {
        let placed = [LightKind::Point, LightKind::Spot, LightKind::Area];
        self.lights.iter().position(|light| placed.contains(&light.kind)).unwrap_or_default()
    }

    /// How many bytes a run takes: the moment, what is due, clock and inputs as doubles, the seed, a byte a flag.
    pub fn run_bytes(&self) -> usize {
        let (numbers, flags) = self.slots();
        let clock = self.clock.iter().flat_map(clock_fields).count() * 8;
        let fading = self.choices.iter().filter(|choice| choice.fades());
        let fades: usize = fading.map(|choice| 8 * (choice.options.len() + 1)).sum();
        let due = if self.has_due() { 8 } else { 0 };
        (8 + due + clock + fades + 4 * self.choices.len() + 8 * numbers + 4 + flags)
            .next_multiple_of(8)
    }

    /// The same under another name.
    pub fn named(self, prefix: Option<&FilePrefix>) -> Plan {
        Plan { prefix: prefix.cloned(), ..self }
    }

    /// What the file is named by: the prefix, or else the book.
    pub fn base(&self) -> &str {
        self.prefix.as_ref().map_or(&self.book, FilePrefix::text)
    }

    /// Looks at all code of its functions, lights and events.
    fn look(&self, look: &mut impl FnMut(&Code)) {
        let bodies = self.functions.iter().flat_map(|function| &function.body);
        bodies.for_each(|statement| visit_statement(statement, look));
        for light in &self.lights {
            light.any(|code| {
                look(code);
                false
            });
        }
        self.events.iter().for_each(|event| event.look(look));
    }

    /// Plans the export of a program.
    pub fn of(checked: &ValidatedProgram, notes: &SourceNotes) -> Plan {
        let mut plan = Plan::without_test(checked, notes);
        plan.self_test = SelfTest::of(checked, &plan);
        plan
    }

    /// The same for code that is only evaluated: its self-test tries nothing, since to know what it should find takes
    /// longer than all else.
    pub fn without_test(checked: &ValidatedProgram, notes: &SourceNotes) -> Plan {
        let all = Plan::with_inputs(checked, notes, None);
        // What code turned out to be needless can have been the only one to ask for an input.
        let mut asked = FxHashSet::default();
        let mut ask = |code: &Code| {
            if let Code::Input(place, ..) = code {
                asked.insert(all.inputs[*place].id);
            }
            false
        };
        all.lights.iter().for_each(|light| {
            light.any(&mut ask);
        });
        all.events.iter().for_each(|event| {
            event.any(&mut ask);
        });
        asked.extend(all.inputs.iter().filter(|input| input.kept).map(|input| input.id));
        if asked.len() == all.inputs.len() {
            return all;
        }
        Plan::with_inputs(checked, notes, Some(&asked))
    }

    fn with_inputs(
        checked: &ValidatedProgram,
        notes: &SourceNotes,
        asked: Option<&FxHashSet<InputId>>,
    ) -> Plan {
        let program = checked.program();
        let needs = needs(program);
        let mut used = reachable(program, &needs);
        if let Some(queue) = program.queue() {
            let Queue { moments, packed, positions, first, count, dropped } = queue;
            used.inputs.extend([moments, packed, first, count, dropped]);
            if places_notices(program) {
                used.inputs.insert(positions);
            }
            used.inputs.extend(program.notice_values().iter().map(|value| value.kept));
        }
        let tables: Vec<TableId> = used.tables.iter().copied().collect();
        let wanted = |id: &InputId| asked.is_none_or(|asked| asked.contains(id));
        let inputs: Vec<InputId> = used.inputs.iter().copied().filter(wanted).collect();
        let mut maker = Maker {
            program,
            notes,
            needs,
            tables,
            inputs,
            choices: used.choices.iter().copied().collect(),
            functions: Vec::new(),
            known: FxHashMap::default(),
        };
        for subject in program.order() {
            match subject {
                Subject::Curve(id) => {
                    if used.curves.contains(id) {
                        maker.curve(*id);
                    }
                }
                Subject::Signal(id) => maker.parts_of(&used, *subject, program.signal(*id).value),
                Subject::Behavior(id) => {
                    maker.parts_of(&used, *subject, program.behavior(*id).value);
                }
                Subject::Book
                | Subject::Input(_)
                | Subject::Choice(_)
                | Subject::Sound(_)
                | Subject::Event(_)
                | Subject::Light(_)
                | Subject::Drive(..) => {}
            }
        }
        let lights: Vec<LightPlan> =
            program.lights().map(|(id, light)| maker.light(checked, id, light)).collect();
        let inputs: Vec<InputPlan> = maker.inputs.iter().map(|id| maker.input(*id)).collect();
        let choices: Vec<ChoicePlan> = maker.choices.iter().map(|id| maker.choice(*id)).collect();
        let events: Vec<EventPlan> =
            program.events().filter_map(|(id, event)| maker.event(id, event)).collect();
        let functions = maker.functions;
        let tables = maker.tables.iter().map(|id| program.table(*id).clone()).collect();
        let follows = [Dial::Hour, Dial::Days].into_iter().any(|dial| {
            let shown = Code::Clock(dial);
            lights.iter().any(|light| light.uses_clock(dial))
                || events.iter().any(|event| event.any(|code| *code == shown))
        });
        let mut strikes = false;
        for event in &events {
            strikes |= event.any(|code| matches!(code, Code::NextHour(..)));
        }
        let clock = program.clock().filter(|_| follows || strikes).map(|clock| ClockPlan {
            strikes,
            happens: events.iter().any(|event| event.due.is_some()),
            follows: events.iter().any(|event| event.follows),
            pace: clock.pace(),
            start: clock.start.0,
            rate: clock.rate,
        });
        let place = |id: InputId| inputs.iter().position(|input| input.id == id);
        let notice_values: Vec<usize> =
            program.notice_values().iter().filter_map(|value| place(value.kept)).collect();
        let mut used = helpers(&functions, &lights, &inputs, &events, clock.is_some(), &choices);
        if notice_values.iter().any(|place| !inputs[*place].flag) {
            used.insert(Helper::ToSingle);
        }
        let mut plan = Plan {
            tags: program.tags().to_vec(),
            clock,
            tables,
            book: program.name().to_owned(),
            file: notes.file.clone(),
            prefix: None,
            seed: program.seed(),
            helpers: used.into_iter().collect(),
            self_test: SelfTest::default(),
            notices: notices(checked, &lights),
            notice_values,
            sparks: sparks(checked, &inputs),
            queue: program.queue().and_then(|queue| {
                let place = |id: InputId| inputs.iter().position(|input| input.id == id);
                Some(QueuePlan {
                    moments: place(queue.moments)?,
                    packed: place(queue.packed)?,
                    positions: place(queue.positions),
                    first: place(queue.first)?,
                    count: place(queue.count)?,
                    dropped: place(queue.dropped)?,
                })
            }),
            inputs,
            choices,
            events,
            functions,
            lights,
        };
        plan.self_test = SelfTest::none(&plan);
        plan
    }
}

/// The pools of sparks.
fn sparks(checked: &ValidatedProgram, inputs: &[InputPlan]) -> Vec<SparkPlan> {
    let place = |id: InputId| inputs.iter().position(|input| input.id == id);
    let each = checked.program().sparks().iter().map(|spark| SparkPlan {
        name: spark.name.clone(),
        count: checked.program().input(spark.born).count(),
        kept: place(spark.born).zip(place(spark.length)).map(|(born, length)| [born, length]),
        oldest: spark.oldest,
    });
    each.collect()
}

/// Whether any notice comes from a light that is somewhere.
fn places_notices(program: &Program) -> bool {
    program.notices().iter().any(|notice| {
        let light = program.light_named(&notice.from);
        light.is_some_and(|id| program.light(id).places(Field::Position).is_some())
    })
}

/// The lines that send notices.
fn notices(checked: &ValidatedProgram, lights: &[LightPlan]) -> Vec<NoticePlan> {
    let each = checked.program().notices().iter().map(|notice| {
        let light = lights.iter().position(|light| light.name == notice.from);
        let placed = light.and_then(|n| {
            let fields = &lights[n].fields;
            Some((n, fields.iter().position(|field| field.name == "position")?))
        });
        NoticePlan {
            name: notice.name.clone(),
            texts: notice.texts.clone(),
            from: notice.from.clone(),
            placed,
        }
    });
    each.collect()
}

/// Takes out the named parts that nothing uses in the end. Later parts use earlier ones, so they are
/// evaluated from the last.
fn prune(blocks: &mut [&mut Vec<Statement>], results: &[&Code]) {
    let mut used = FxHashSet::default();
    let look = |code: &Code, used: &mut FxHashSet<Local>| {
        code.visit(&mut |inner| {
            if let Code::Local(local) = inner {
                used.insert(*local);
            }
        });
    };
    results.iter().for_each(|code| look(code, &mut used));
    for block in blocks.iter_mut().rev() {
        for n in (0..block.len()).rev() {
            match &block[n] {
                Statement::Let(local, ..) if !used.contains(local) => {
                    block.remove(n);
                }
                statement => visit_statement(statement, &mut |code| look(code, &mut used)),
            }
        }
    }
}

fn visit_statement(statement: &Statement, f: &mut impl FnMut(&Code)) {
    match statement {
        Statement::Let(_, _, code) | Statement::Return(code) => code.visit(f),
        Statement::When(code, block) => {
            code.visit(f);
            block.iter().for_each(|inner| visit_statement(inner, f));
        }
    }
}

/// The helpers that the code calls, and those that they call.
fn helpers(
    functions: &[Function],
    lights: &[LightPlan],
    inputs: &[InputPlan],
    events: &[EventPlan],
    clock: bool,
    choices: &[ChoicePlan],
) -> BTreeSet<Helper> {
    let mut needed: BTreeSet<Helper> = [Helper::CleanMoment, Helper::Scramble].into();
    if clock {
        needed.extend([Helper::HourOf, Helper::DaysOf, Helper::CleanInput, Helper::RoundDown]);
    }
    if choices.iter().any(ChoicePlan::fades) {
        needed.insert(Helper::Faded);
    }
    let values = events.iter().flat_map(|event| &event.values).map(|place| &inputs[*place]);
    let mut given = inputs.iter().filter(|input| !input.kept).chain(values);
    if given.any(|input| !input.flag) {
        needed.insert(Helper::CleanInput);
    }
    let mut look = |code: &Code| {
        if let Code::Helper(helper, _) = code {
            needed.insert(*helper);
        }
    };
    for function in functions {
        function.body.iter().for_each(|s| visit_statement(s, &mut look));
    }
    events.iter().for_each(|event| event.look(&mut look));
    let mut finished = BTreeSet::new();
    for light in lights {
        light.shared.iter().chain(&light.lamp).for_each(|s| visit_statement(s, &mut look));
        for part in light.fields.iter().flat_map(|field| &field.parts) {
            if let Part::Code(code, finish) = part {
                code.visit(&mut look);
                finished.extend(finish.helper());
            }
        }
    }
    needed.extend(finished);
    needed
}
