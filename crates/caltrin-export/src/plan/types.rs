//! What a plan is made of.

use caltrin_core::interval::Interval;
use caltrin_core::program::{
    ChoiceId, Dial, Domain, Entries, InputId, LightKind, Share, Size, Table,
};
use caltrin_core::quantity::Seed;
use caltrin_core::save::SavedField;
use caltrin_core::sound::TICKS;
use caltrin_core::{SourceNote, kernel};

use super::{Helper, SelfTest, visit_statement};
use crate::names::FilePrefix;

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

/// A table that is looked up.
#[derive(Clone, Debug, PartialEq)]
pub struct TablePlan {
    /// Its name and its entries.
    pub table: Table,
    /// What it is, where that does not speak for itself.
    pub about: String,
}

impl TablePlan {
    /// A table of the program.
    pub(super) fn of(table: &Table) -> TablePlan {
        let about = match &table.entries {
            Entries::Numbers(_) => String::new(),
            Entries::Words(words) => format!(
                "Envelope of a sound: {} entries, each a position in 1/{TICKS} s (upper 24 bits) and a level in 1/255 of full scale (lower 8 bits). {} bytes.",
                words.len(),
                table.bytes()
            ),
        };
        TablePlan { table: table.clone(), about }
    }
}

/// Whether a line from one number at 0 to another at 1 never leaves the two, as rounding goes. It rises or falls all the
/// way, so its ends tell; then a guard against leaving them changes nothing.
pub(super) fn stays_between(lo: f64, hi: f64) -> bool {
    let end = lo + (hi - lo);
    if lo <= hi { end <= hi } else { end >= hi }
}

/// A line from one number at 0 to another at 1, without a guard.
pub(super) fn plain_line(lo: f64, hi: f64, s: Code) -> Code {
    let span = hi - lo;
    let size = match span.abs() {
        1.0 => s,
        size => Code::infix(Infix::Times, Code::Number(size), s),
    };
    match span > 0.0 {
        // Nothing else makes a zero lose its sign, and what stands between 0 and 1 has none.
        true if lo == 0.0 => size,
        true => Code::infix(Infix::Plus, Code::Number(lo), size),
        false => Code::infix(Infix::Minus, Code::Number(lo), size),
    }
}

impl Code {
    /// Two operands; what is known is computed, and what changes nothing is left out.
    pub(super) fn infix(sign: Infix, a: Code, b: Code) -> Code {
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

    pub(super) fn visit(&self, f: &mut impl FnMut(&Code)) {
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
    pub(super) fn of(bounds: Interval) -> OutputConversion {
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
    /// Its unit; empty for numbers without one, colors and flags.
    pub unit: String,
    /// When it changes: 0 never, 1 from run to run, 2 when something happens, 3 with time.
    pub changes: u32,
    /// Its line of the book.
    pub note: Option<SourceNote>,
    /// One number, or three.
    pub parts: Vec<Part>,
}

/// Whether this is a step times the lamp's index, perhaps on top of a start: then it is 0 or well above,
/// and never a negative zero.
pub(super) fn steps_up(code: &Code) -> bool {
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

    pub(super) fn any(&self, mut wanted: impl FnMut(&Code) -> bool) -> bool {
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

/// A switch, modes, or a sequence whose state is in the file.
#[derive(Clone, Debug, PartialEq)]
pub struct StatePlan {
    /// The book's name.
    pub name: String,
    /// The modes; empty for a switch and a sequence.
    pub options: Vec<String>,
    /// What it is kept in, among [`Plan::inputs`]: whether the switch is on, which mode it is, or when the sequence was
    /// started.
    pub place: usize,
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
    /// Its unit; empty for numbers without one, colors and flags.
    pub symbol: String,
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

    pub(super) fn look(&self, look: &mut impl FnMut(&Code)) {
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
pub(super) fn moments(mut uses: impl FnMut(&Code) -> bool) -> [bool; 3] {
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
    pub(super) fn look(&self, look: &mut impl FnMut(&Code)) {
        self.own.look(look);
        self.each.iter().for_each(|each| each.does.look(look));
        let due = self.due.iter().flat_map(|due| &due.statements);
        due.for_each(|statement| visit_statement(statement, look));
    }

    /// Whether any of its code is wanted.
    pub(super) fn any(&self, mut wanted: impl FnMut(&Code) -> bool) -> bool {
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
    /// Whether the file has tables of names.
    pub names: bool,
    /// The book's seed.
    pub seed: Seed,
    /// The switches whose state is in the file.
    pub switches: Vec<StatePlan>,
    /// The modes.
    pub modes: Vec<StatePlan>,
    /// The sequences.
    pub sequences: Vec<StatePlan>,
    /// What a saved run has, in the order in which it is written.
    pub saved: Vec<SavedField>,
    /// Keys of what the preview saves besides: nothing that is exported reads it.
    pub unsaved: Vec<u32>,
    /// What tells the layout of saves from others; the same as that of the preview.
    pub layout: u32,
    /// The kernel functions needed, each after those that it uses.
    pub helpers: Vec<Helper>,
    /// The tables that are looked up.
    pub tables: Vec<TablePlan>,
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
