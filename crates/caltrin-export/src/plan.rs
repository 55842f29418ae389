//! The plan: what an exported file holds, decided once for all languages.
//!
//! Vectors are taken apart here, shared parts get names, what is the same for a whole array moves
//! out of its loop, and each function is told exactly what it needs. A language only has to spell
//! it.

use std::collections::BTreeSet;

use caltrin_core::bounds::Interval;
use caltrin_core::curve::{Easing, Stop};
use caltrin_core::kind::{Kind, Scope};
use caltrin_core::program::{
    BehaviourId, Constant, CurveId, ExprId, Field, Light, LightId, LightKind, Op, Program, Share,
    Site, Size, Space, Subject, Table, TableId, Turn, Wave, parts_of,
};
use caltrin_core::quantity::{Place, Seconds, Seed};
use caltrin_core::{Checked, Note, Notes, Run, kernel};
use rustc_hash::{FxHashMap, FxHashSet};

/// A function of the kernel that an export may need.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Helper {
    /// `scramble(bits)`
    Scramble,
    /// `chance_key(seed, place)`
    ChanceKey,
    /// `lamp_key(key, index)`
    LampKey,
    /// `draw(key, n)`
    Draw,
    /// `to_unit(bits)`
    ToUnit,
    /// `round_down(x)`
    RoundDown,
    /// `cell_index(n)`
    CellIndex,
    /// `chance_phase(key)`
    ChancePhase,
    /// `held_level(t, key, rate, jitter)`
    HeldLevel,
    /// `within(v, lo, hi)`
    Within,
    /// `between(lo, hi, s)`
    Between,
    /// `least(a, b)`
    Least,
    /// `greatest(a, b)`
    Greatest,
    /// `share(part, whole)`
    Share,
    /// `ease_smooth(u)`
    EaseSmooth,
    /// `ease_bezier(u, x1, y1, x2, y2)`
    EaseBezier,
    /// `wrap_time(t, period)`
    WrapTime,
    /// `fold_time(t, period)`
    FoldTime,
    /// `noise(x, key)`
    Noise,
    /// `drift_level(t, key, rate, octaves)`
    DriftLevel,
    /// `cell_edge(key, i, jitter)`
    CellEdge,
    /// `soft_level(t, key, rate, jitter, part)`
    SoftLevel,
    /// `burst_level(t, key, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums, pairs)`
    BurstLevel,
    /// `table_level(x, table, last)`
    TableLevel,
    /// `in_ball(a, b, c)`
    InBall,
    /// `heading(part, x, y, z, still)`
    Heading,
    /// `sine_of_turns(x)`
    SineOfTurns,
    /// `sine_level(x)`
    SineLevel,
    /// `triangle_level(x)`
    TriangleLevel,
    /// `saw_level(x)`
    SawLevel,
    /// `square_level(x, on)`
    SquareLevel,
    /// `cube_root(x)`
    CubeRoot,
    /// `cone_l(r, g, b)`
    ConeL,
    /// `cone_m(r, g, b)`
    ConeM,
    /// `cone_s(r, g, b)`
    ConeS,
    /// `light_r(l, m, s)`
    LightR,
    /// `light_g(l, m, s)`
    LightG,
    /// `light_b(l, m, s)`
    LightB,
    /// `clean_moment(t)`
    CleanMoment,
    /// `to_single(v)`
    ToSingle,
    /// `to_output(v)`
    ToOutput,
}

impl Helper {
    /// All, in an order in which each stands after those that it uses.
    pub const ALL: [Helper; 41] = [
        Helper::Scramble,
        Helper::ChanceKey,
        Helper::LampKey,
        Helper::Draw,
        Helper::ToUnit,
        Helper::RoundDown,
        Helper::CellIndex,
        Helper::ChancePhase,
        Helper::Within,
        Helper::Between,
        Helper::Least,
        Helper::Greatest,
        Helper::Share,
        Helper::HeldLevel,
        Helper::EaseSmooth,
        Helper::EaseBezier,
        Helper::WrapTime,
        Helper::FoldTime,
        Helper::Noise,
        Helper::DriftLevel,
        Helper::CellEdge,
        Helper::SoftLevel,
        Helper::BurstLevel,
        Helper::TableLevel,
        Helper::InBall,
        Helper::Heading,
        Helper::SineOfTurns,
        Helper::SineLevel,
        Helper::TriangleLevel,
        Helper::SawLevel,
        Helper::SquareLevel,
        Helper::CubeRoot,
        Helper::ConeL,
        Helper::ConeM,
        Helper::ConeS,
        Helper::LightR,
        Helper::LightG,
        Helper::LightB,
        Helper::CleanMoment,
        Helper::ToSingle,
        Helper::ToOutput,
    ];

    /// Its name, words joined by `_`; languages write it in their own case.
    pub fn name(self) -> &'static str {
        match self {
            Helper::Scramble => "scramble",
            Helper::ChanceKey => "chance_key",
            Helper::LampKey => "lamp_key",
            Helper::Draw => "draw",
            Helper::ToUnit => "to_unit",
            Helper::RoundDown => "round_down",
            Helper::CellIndex => "cell_index",
            Helper::ChancePhase => "chance_phase",
            Helper::HeldLevel => "held_level",
            Helper::Within => "within",
            Helper::Between => "between",
            Helper::Least => "least",
            Helper::Greatest => "greatest",
            Helper::Share => "share",
            Helper::EaseSmooth => "ease_smooth",
            Helper::EaseBezier => "ease_bezier",
            Helper::WrapTime => "wrap_time",
            Helper::FoldTime => "fold_time",
            Helper::Noise => "noise",
            Helper::DriftLevel => "drift_level",
            Helper::CellEdge => "cell_edge",
            Helper::SoftLevel => "soft_level",
            Helper::BurstLevel => "burst_level",
            Helper::TableLevel => "table_level",
            Helper::InBall => "in_ball",
            Helper::Heading => "heading",
            Helper::SineOfTurns => "sine_of_turns",
            Helper::SineLevel => "sine_level",
            Helper::TriangleLevel => "triangle_level",
            Helper::SawLevel => "saw_level",
            Helper::SquareLevel => "square_level",
            Helper::CubeRoot => "cube_root",
            Helper::ConeL => "cone_l",
            Helper::ConeM => "cone_m",
            Helper::ConeS => "cone_s",
            Helper::LightR => "light_r",
            Helper::LightG => "light_g",
            Helper::LightB => "light_b",
            Helper::CleanMoment => "clean_moment",
            Helper::ToSingle => "to_single",
            Helper::ToOutput => "to_output",
        }
    }

    /// The functions of the kernel that it calls itself.
    pub(crate) fn uses(self) -> &'static [Helper] {
        match self {
            Helper::ChanceKey | Helper::LampKey | Helper::Draw => &[Helper::Scramble],
            Helper::ChancePhase => &[Helper::Scramble, Helper::ToUnit],
            Helper::HeldLevel => {
                &[Helper::ChancePhase, Helper::RoundDown, Helper::CellIndex, Helper::Draw]
            }
            Helper::Between | Helper::CleanMoment | Helper::ToOutput => &[Helper::Within],
            Helper::Noise => &[Helper::RoundDown, Helper::CellIndex, Helper::Draw, Helper::ToUnit],
            Helper::DriftLevel => &[Helper::ChancePhase, Helper::Noise],
            Helper::CellEdge => &[Helper::Draw, Helper::ToUnit],
            Helper::SoftLevel => &[
                Helper::ChancePhase,
                Helper::RoundDown,
                Helper::CellIndex,
                Helper::CellEdge,
                Helper::Draw,
                Helper::ToUnit,
                Helper::EaseSmooth,
            ],
            Helper::BurstLevel => {
                &[Helper::ChancePhase, Helper::RoundDown, Helper::CellIndex, Helper::Draw]
            }
            Helper::TableLevel => &[Helper::Within, Helper::Between, Helper::RoundDown],
            Helper::SineOfTurns => &[Helper::RoundDown, Helper::Within],
            Helper::SineLevel => &[Helper::SineOfTurns],
            Helper::TriangleLevel | Helper::SawLevel | Helper::SquareLevel => &[Helper::RoundDown],
            Helper::ConeL | Helper::ConeM | Helper::ConeS => &[Helper::CubeRoot],
            Helper::WrapTime => &[Helper::RoundDown],
            Helper::FoldTime => &[Helper::WrapTime],
            Helper::Scramble
            | Helper::CellIndex
            | Helper::ToSingle
            | Helper::ToUnit
            | Helper::RoundDown
            | Helper::Within
            | Helper::Least
            | Helper::Greatest
            | Helper::Share
            | Helper::EaseSmooth
            | Helper::InBall
            | Helper::Heading
            | Helper::CubeRoot
            | Helper::LightR
            | Helper::LightG
            | Helper::LightB
            | Helper::EaseBezier => &[],
        }
    }
}

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
    Same,
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
    /// The lamp's index, or what several lamps share of it, 32 bits.
    Index(Share),
    /// The same as a double.
    IndexNumber(Share),
    /// A table: its place in [`Plan::tables`].
    Table(usize),
    /// One operand.
    Prefix(Prefix, Box<Code>),
    /// Two operands.
    Infix(Infix, Box<Code>, Box<Code>),
    /// The second where the first is on, else the third.
    Choose(Box<Code>, Box<Code>, Box<Code>),
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
            Code::Prefix(_, a) => a.visit(f),
            Code::Infix(_, a, b) => {
                a.visit(f);
                b.visit(f);
            }
            Code::Choose(a, b, c) => {
                a.visit(f);
                b.visit(f);
                c.visit(f);
            }
            Code::Helper(_, all) | Code::Call(_, all) => all.iter().for_each(|a| a.visit(f)),
            Code::Number(_)
            | Code::Word(_)
            | Code::Flag(_)
            | Code::Local(_)
            | Code::Now
            | Code::Seed
            | Code::Index(_)
            | Code::IndexNumber(_)
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
    /// The key of this use.
    Key,
    /// A value that the caller gives: which argument, and which part of it.
    Value(usize, usize),
}

/// What a function was in the book.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Source {
    /// A curve.
    Curve,
    /// A signal.
    Signal,
    /// A behaviour.
    Behaviour,
}

/// A small function named as in the book.
#[derive(Clone, Debug, PartialEq)]
pub struct Function {
    /// The book's name, with `_r` or `_x` for a part of a colour or point.
    pub name: String,
    /// What it was in the book.
    pub source: Source,
    /// Its line of the book.
    pub note: Option<Note>,
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
    Code(Code, Finish),
}

/// How a computed number becomes a single. All give the same bits; what the bounds show to be
/// needless is left out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Finish {
    /// It is never near zero nor beyond a single: a plain conversion.
    Convert,
    /// It is never beyond a single: `to_single`.
    Single,
    /// It may be anything: `to_output`.
    Output,
}

impl Finish {
    fn of(bounds: Interval) -> Finish {
        let most = f64::from(f32::MAX);
        if bounds.lo < -most || bounds.hi > most {
            Finish::Output
        } else if bounds.lo >= kernel::SMALLEST || bounds.hi <= -kernel::SMALLEST {
            Finish::Convert
        } else {
            Finish::Single
        }
    }

    /// The function of the kernel that does it.
    pub fn helper(self) -> Option<Helper> {
        match self {
            Finish::Convert => None,
            Finish::Single => Some(Helper::ToSingle),
            Finish::Output => Some(Helper::ToOutput),
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
    pub note: Option<Note>,
    /// One number, or three.
    pub parts: Vec<Part>,
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
    pub note: Option<Note>,
    /// The book's names of its locals.
    pub locals: Vec<String>,
    /// Computed once for all lamps that are read.
    pub shared: Vec<Statement>,
    /// Computed for each lamp.
    pub lamp: Vec<Statement>,
    /// What a lamp has, in order.
    pub fields: Vec<FieldPlan>,
}

impl LightPlan {
    /// Whether any of its code uses the run's moment.
    pub fn uses_now(&self) -> bool {
        self.any(|code| *code == Code::Now)
    }

    /// Whether any of its code uses the run's seed.
    pub fn uses_seed(&self) -> bool {
        self.any(|code| *code == Code::Seed)
    }

    /// Whether any of its code uses the lamp's index.
    pub fn uses_index(&self) -> bool {
        self.any(|code| matches!(code, Code::Index(_) | Code::IndexNumber(_)))
    }

    fn any(&self, wanted: impl Fn(&Code) -> bool) -> bool {
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

/// A known answer for the file's self-test.
#[derive(Clone, Debug, PartialEq)]
pub struct Answer {
    /// Index of the light in [`Plan::lights`].
    pub light: usize,
    /// Which lamp.
    pub index: u32,
    /// The run's seed.
    pub seed: u32,
    /// The moment.
    pub moment: f64,
    /// Index of the field, and of its part.
    pub place: (usize, usize),
    /// What must come out.
    pub value: f32,
}

/// Everything an exported file holds.
#[derive(Clone, Debug, PartialEq)]
pub struct Plan {
    /// The book's name.
    pub book: String,
    /// The book's file, if it has one.
    pub file: String,
    /// The book's seed.
    pub seed: Seed,
    /// The kernel functions needed, each after those that it uses.
    pub helpers: Vec<Helper>,
    /// The tables that are looked up.
    pub tables: Vec<Table>,
    /// The book's functions, each after those that it uses.
    pub functions: Vec<Function>,
    /// The lights in the book's order.
    pub lights: Vec<LightPlan>,
    /// The self-test.
    pub answers: Vec<Answer>,
}

impl Plan {
    /// Plans the export of a program.
    pub fn of(checked: &Checked, notes: &Notes) -> Plan {
        let program = checked.program();
        let needs = needs(program);
        let used = reachable(program, &needs);
        let tables: Vec<TableId> = used.tables.iter().copied().collect();
        let mut maker = Maker {
            program,
            notes,
            needs,
            tables,
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
                Subject::Behaviour(id) => {
                    maker.parts_of(&used, *subject, program.behaviour(*id).value);
                }
                Subject::Book | Subject::Light(_) | Subject::Drive(..) => {}
            }
        }
        let lights: Vec<LightPlan> =
            program.lights().map(|(id, light)| maker.light(checked, id, light)).collect();
        let functions = maker.functions;
        let tables = maker.tables.iter().map(|id| program.table(*id).clone()).collect();
        Plan {
            tables,
            book: program.name().to_owned(),
            file: notes.file.clone(),
            seed: program.seed(),
            helpers: helpers(&functions, &lights),
            answers: answers(checked, &lights),
            functions,
            lights,
        }
    }
}

/// Takes out the named parts that nothing uses in the end. Later parts use earlier ones, so they are
/// looked at from the last.
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
fn helpers(functions: &[Function], lights: &[LightPlan]) -> Vec<Helper> {
    let mut needed: BTreeSet<Helper> = [Helper::CleanMoment, Helper::Scramble].into();
    let mut look = |code: &Code| {
        if let Code::Helper(helper, _) = code {
            needed.insert(*helper);
        }
    };
    for function in functions {
        function.body.iter().for_each(|s| visit_statement(s, &mut look));
    }
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
    let mut open: Vec<Helper> = needed.iter().copied().collect();
    while let Some(helper) = open.pop() {
        for used in helper.uses() {
            if needed.insert(*used) {
                open.push(*used);
            }
        }
    }
    Helper::ALL.into_iter().filter(|helper| needed.contains(helper)).collect()
}

/// What the lights use, part by part.
struct Reached {
    exprs: FxHashSet<(ExprId, usize)>,
    curves: FxHashSet<CurveId>,
    tables: BTreeSet<TableId>,
}

/// Which parts of which arguments each part of a behaviour's value is made of.
type Needs = FxHashMap<(BehaviourId, usize), Vec<(usize, usize)>>;

fn needs(program: &Program) -> Needs {
    let mut needs = Needs::default();
    for subject in program.order() {
        let Subject::Behaviour(id) = subject else { continue };
        let value = program.behaviour(*id).value;
        for part in 0..program.expr(value).kind.width() {
            let mut found = BTreeSet::new();
            let mut seen = FxHashSet::default();
            let mut open = vec![(value, part)];
            while let Some((id, part)) = open.pop() {
                if seen.insert((id, part)) {
                    if let Op::Parameter(n) = program.expr(id).op {
                        found.insert((n, part));
                    }
                    open.extend(operands(program, &needs, id, part));
                }
            }
            needs.insert((*id, part), found.into_iter().collect());
        }
    }
    needs
}

/// The parts of operands that part `part` of an expression is made of.
fn operands(program: &Program, needs: &Needs, id: ExprId, part: usize) -> Vec<(ExprId, usize)> {
    let expr = program.expr(id);
    match &expr.op {
        Op::Parts(x, y, z) => vec![([*x, *y, *z][part], 0)],
        Op::Brightest(c) | Op::BrightestAtOne(c) | Op::ConeRoot(_, c) | Op::Heading(c) => {
            (0..3).map(|part| (*c, part)).collect()
        }
        Op::Choose(c, a, b) => vec![(*c, 0), (*a, part), (*b, part)],
        Op::Call(behaviour, arguments, _) => {
            needs[&(*behaviour, part)].iter().map(|(n, part)| (arguments[*n], *part)).collect()
        }
        op => op
            .operands()
            .into_iter()
            .map(|e| (e, if program.expr(e).kind.width() > 1 { part } else { 0 }))
            .collect(),
    }
}

fn reachable(program: &Program, needs: &Needs) -> Reached {
    let mut reached = Reached {
        exprs: FxHashSet::default(),
        curves: FxHashSet::default(),
        tables: BTreeSet::new(),
    };
    let mut open: Vec<(ExprId, usize)> = program
        .lights()
        .flat_map(|(_, light)| &light.drives)
        .flat_map(|drive| (0..drive.width()).map(|part| (drive.value, part)))
        .collect();
    while let Some((id, part)) = open.pop() {
        if !reached.exprs.insert((id, part)) {
            continue;
        }
        match &program.expr(id).op {
            Op::Signal(signal) => open.push((program.signal(*signal).value, part)),
            Op::Call(behaviour, ..) => open.push((program.behaviour(*behaviour).value, part)),
            Op::Curve(curve, _) => {
                reached.curves.insert(*curve);
            }
            Op::Table(table, _) => {
                reached.tables.insert(*table);
            }
            Op::Burst(_, tables, _) => reached.tables.extend(tables),
            _ => {}
        }
        open.extend(operands(program, needs, id, part));
    }
    reached
}

/// The names of the parts of a kind, empty for one number.
fn part_names(kind: Kind) -> &'static [&'static str] {
    match kind {
        Kind::Color => &["_r", "_g", "_b"],
        Kind::Point => &["_x", "_y", "_z"],
        _ => &[""],
    }
}

fn type_of(kind: Kind) -> Type {
    match kind {
        Kind::OnOff => Type::Flag,
        _ => Type::Number,
    }
}

struct Maker<'a> {
    program: &'a Program,
    notes: &'a Notes,
    needs: Needs,
    tables: Vec<TableId>,
    functions: Vec<Function>,
    known: FxHashMap<(Subject, usize), FunctionId>,
}

impl Maker<'_> {
    fn note(&self, subject: Subject) -> Option<Note> {
        self.notes.lines.get(&subject).cloned()
    }

    fn push(&mut self, subject: Subject, part: usize, function: Function) {
        self.known.insert((subject, part), FunctionId(self.functions.len()));
        self.functions.push(function);
    }

    fn parts_of(&mut self, used: &Reached, subject: Subject, value: ExprId) {
        for part in 0..self.program.expr(value).kind.width() {
            if used.exprs.contains(&(value, part)) {
                self.function(subject, value, part);
            }
        }
    }

    fn function(&mut self, subject: Subject, value: ExprId, part: usize) {
        let program = self.program;
        let kind = program.expr(value).kind;
        let (name, source) = match subject {
            Subject::Signal(id) => (&program.signal(id).name, Source::Signal),
            Subject::Behaviour(id) => (&program.behaviour(id).name, Source::Behaviour),
            Subject::Book | Subject::Curve(_) | Subject::Light(_) | Subject::Drive(..) => return,
        };
        let mut body = Body::new(self, None);
        let mut given = Vec::new();
        if let Subject::Behaviour(id) = subject {
            for (n, part) in &self.needs[&(id, part)] {
                let parameter = &program.behaviour(id).parameters[*n];
                let kind = program.expr(parameter.default).kind;
                let local = body.local(&format!("{}{}", parameter.name, part_names(kind)[*part]));
                given.push((Role::Value(*n, *part), local, type_of(kind)));
                body.parameters.insert((*n, *part), local);
            }
            body.key = Some(body.local("key"));
        }
        body.count(&[(value, part)]);
        let result = body.value(value, part, false);
        let mut statements = body.shared;
        statements.extend(body.lamp);
        statements.push(Statement::Return(result));
        prune(&mut [&mut statements], &[]);
        let (mut now, mut seed, mut key) = (false, false, false);
        for statement in &statements {
            visit_statement(statement, &mut |code| {
                now |= *code == Code::Now;
                seed |= *code == Code::Seed;
                key |= body.key.is_some_and(|local| *code == Code::Local(local));
            });
        }
        let mut locals = body.locals;
        let mut parameters = Vec::new();
        for (role, needed, name, ty) in
            [(Role::Now, now, "t", Type::Number), (Role::Seed, seed, "seed", Type::Word)]
        {
            if needed {
                locals.push(name.to_owned());
                parameters.push((role, Local(locals.len() - 1), ty));
            }
        }
        if let Some(local) = body.key.filter(|_| key) {
            parameters.push((Role::Key, local, Type::Word));
        }
        parameters.extend(given);
        let function = Function {
            name: format!("{name}{}", part_names(kind)[part]),
            source,
            note: self.note(subject),
            locals,
            parameters,
            result: type_of(kind),
            unit: kind.unit(),
            body: statements,
        };
        self.push(subject, part, function);
    }

    fn curve(&mut self, id: CurveId) {
        let named = self.program.curve(id);
        let x = Local(0);
        let stops = named.curve.stops();
        let mut body = Vec::new();
        // Before the first stop, and every flat start, it is the first value.
        let flat = stops.iter().take_while(|stop| stop.value == stops[0].value).count();
        let first = flat.min(stops.len() - 1);
        when_before(x, stops[first - 1].at.0, Code::Number(stops[0].value), &mut body);
        segments(x, &stops[first - 1..], &mut body);
        let function = Function {
            name: named.name.clone(),
            source: Source::Curve,
            note: self.note(Subject::Curve(id)),
            locals: vec!["x".to_owned()],
            parameters: vec![(Role::Value(0, 0), x, Type::Number)],
            result: Type::Number,
            unit: named.kind.unit(),
            body,
        };
        self.push(Subject::Curve(id), 0, function);
    }

    fn light(&mut self, checked: &Checked, id: LightId, light: &Light) -> LightPlan {
        let mut body = Body::new(self, Some(light));
        let roots: Vec<(ExprId, usize)> = light
            .drives
            .iter()
            .flat_map(|drive| (0..drive.width()).map(|part| (drive.value, part)))
            .collect();
        body.count(&roots);
        let mut fields = Vec::new();
        for drive in &light.drives {
            body.property = light.field_name(drive.field);
            let parts = (0..drive.width()).map(|part| match self.program.constant(drive.value) {
                Some(Constant::Scalar(v)) => Part::Constant(kernel::to_output(v)),
                Some(Constant::Vector(v)) => Part::Constant(kernel::to_output(v[part])),
                Some(Constant::OnOff(on)) => Part::Constant(f32::from(u8::from(on))),
                _ => match body.value(drive.value, part, false) {
                    Code::Number(v) => Part::Constant(kernel::to_output(v)),
                    code => {
                        let bounds = checked.bounds(id, drive.field);
                        let bounds = bounds.map_or(Interval::of(0.0), |b| b.part(part));
                        Part::Code(code, Finish::of(bounds))
                    }
                },
            });
            let parts = parts.collect();
            // What stands on the light's own line is told there.
            let note = self.note(Subject::Drive(id, drive.field)).filter(|note| {
                self.note(Subject::Light(id)).is_none_or(|own| own.line != note.line)
            });
            fields.push(FieldPlan {
                name: light.field_name(drive.field).to_owned(),
                flag: drive.kind == Kind::OnOff,
                suffixes: parts_of(drive.kind),
                about: about(drive.field, drive.kind, self.program.space()),
                note,
                parts,
            });
        }
        let results: Vec<&Code> = fields
            .iter()
            .flat_map(|field| &field.parts)
            .filter_map(|part| match part {
                Part::Code(code, _) => Some(code),
                Part::Constant(_) => None,
            })
            .collect();
        prune(&mut [&mut body.shared, &mut body.lamp], &results);
        LightPlan {
            name: light.name.clone(),
            kind: light.kind,
            size: light.size,
            note: self.note(Subject::Light(id)),
            locals: body.locals,
            shared: body.shared,
            lamp: body.lamp,
            fields,
        }
    }
}

fn about(field: Field, kind: Kind, space: Space) -> String {
    let m = space.symbol(Kind::Length);
    match field {
        Field::Intensity => match kind {
            Kind::Strength(unit) => unit.symbol().to_owned(),
            _ => "factor on the lamp's own strength".to_owned(),
        },
        Field::Color => "linear Rec. 709".to_owned(),
        Field::ReachInner => format!("{m}, full up to here"),
        Field::ReachOuter => format!("{m}, none from here on"),
        Field::ConeInner => "degrees, full angle, full up to here".to_owned(),
        Field::ConeOuter => "degrees, full angle, none from here on".to_owned(),
        Field::Falloff => "power of the distance, 2 is the inverse square".to_owned(),
        Field::Position => m.into_owned(),
        Field::Offset => format!("{m}, added to the position"),
        Field::Aim => "direction, of length 1".to_owned(),
        Field::Shadows => "whether it casts shadows".to_owned(),
        Field::Named(_) => match kind {
            Kind::Color => "linear Rec. 709".to_owned(),
            Kind::OnOff => "on or off".to_owned(),
            Kind::Length | Kind::Point => m.into_owned(),
            kind if kind.unit().is_empty() => "number".to_owned(),
            kind => kind.unit().to_owned(),
        },
    }
}

/// Returns `value` before `at`. A line before it that says the same of earlier moments goes.
fn when_before(x: Local, at: f64, value: Code, body: &mut Vec<Statement>) {
    let before = Code::infix(Infix::Below, Code::Local(x), Code::Number(at));
    let block = vec![Statement::Return(value)];
    if matches!(body.last(), Some(Statement::When(_, last)) if *last == block) {
        body.pop();
    }
    body.push(Statement::When(before, block));
}

/// How many stops are walked through one by one; more are halved first.
const WALKED: usize = 12;

/// The values between stops, and after the last. Equal neighbours are told once.
fn segments(x: Local, stops: &[Stop], body: &mut Vec<Statement>) {
    if stops.len() > WALKED {
        let half = stops.len() / 2;
        let before = Code::infix(Infix::Below, Code::Local(x), Code::Number(stops[half].at.0));
        let mut lower = Vec::new();
        segments(x, &stops[..=half], &mut lower);
        // The lower half ends by returning its last value, which no moment before it reaches.
        body.push(Statement::When(before, lower));
        segments(x, &stops[half..], body);
        return;
    }
    let last = stops[stops.len() - 1];
    for pair in stops.windows(2) {
        let value = segment(x, pair[0], pair[1]);
        let rests = value == Code::Number(last.value) && pair[1].at == last.at;
        if !rests {
            when_before(x, pair[1].at.0, value, body);
        }
    }
    body.push(Statement::Return(Code::Number(last.value)));
}

fn segment(x: Local, from: Stop, to: Stop) -> Code {
    let (a, b) = (Code::Number(from.value), Code::Number(to.value));
    let passed = if from.at == Place(0.0) {
        Code::Local(x)
    } else {
        Code::infix(Infix::Minus, Code::Local(x), Code::Number(from.at.0))
    };
    let u = Code::infix(Infix::Over, passed, Code::Number(to.at.0 - from.at.0));
    let flat = from.value == to.value;
    match to.easing {
        Easing::Jump => a,
        Easing::Linear | Easing::Smooth if flat => a,
        Easing::Linear => Code::Helper(Helper::Between, vec![a, b, u]),
        Easing::Smooth => Code::Helper(Helper::Between, vec![a, b, eased(to.easing, u)]),
        Easing::Bezier(_) => {
            let s = eased(to.easing, u);
            if to.easing.overshoots() {
                let span = Code::Number(to.value - from.value);
                Code::infix(Infix::Plus, a, Code::infix(Infix::Times, span, s))
            } else if flat {
                a
            } else {
                Code::Helper(Helper::Between, vec![a, b, s])
            }
        }
    }
}

/// A ratio 0..1 eased.
fn eased(easing: Easing, u: Code) -> Code {
    match easing {
        Easing::Linear => u,
        Easing::Jump => {
            let before = Code::infix(Infix::Below, u, Code::Number(1.0));
            let (zero, one) = (Box::new(Code::Number(0.0)), Box::new(Code::Number(1.0)));
            Code::Choose(Box::new(before), zero, one)
        }
        Easing::Smooth => Code::Helper(Helper::EaseSmooth, vec![u]),
        Easing::Bezier(c) => {
            let mut arguments = vec![u];
            arguments.extend(c.map(Code::Number));
            Code::Helper(Helper::EaseBezier, arguments)
        }
    }
}

/// A moment that values are looked at.
struct Moment {
    /// The moment around it, and the expression that made this one; none for the run's own.
    from: Option<(usize, ExprId)>,
    now: Code,
    /// Whether it is the same for all lamps.
    for_all: bool,
}

/// The body of one function or light in the making.
struct Body<'a> {
    program: &'a Program,
    needs: &'a Needs,
    functions: &'a [Function],
    known: &'a FxHashMap<(Subject, usize), FunctionId>,
    tables: &'a [TableId],
    /// The light; `None` in a function.
    light: Option<&'a Light>,
    /// The field at hand, for names.
    property: &'a str,
    locals: Vec<String>,
    parameters: FxHashMap<(usize, usize), Local>,
    /// In a behaviour, the key of its use.
    key: Option<Local>,
    /// The moments that values are looked at, the run's own first.
    moments: Vec<Moment>,
    /// The moment at hand.
    at: usize,
    uses: FxHashMap<(usize, ExprId, usize), u32>,
    bound: FxHashMap<(usize, ExprId, usize), Local>,
    keys: FxHashMap<Site, Local>,
    shared: Vec<Statement>,
    lamp: Vec<Statement>,
}

impl<'a> Body<'a> {
    fn new(maker: &'a Maker<'_>, light: Option<&'a Light>) -> Self {
        Body {
            program: maker.program,
            needs: &maker.needs,
            functions: &maker.functions,
            known: &maker.known,
            tables: &maker.tables,
            light,
            property: "",
            locals: Vec::new(),
            parameters: FxHashMap::default(),
            key: None,
            moments: vec![Moment { from: None, now: Code::Now, for_all: true }],
            at: 0,
            uses: FxHashMap::default(),
            bound: FxHashMap::default(),
            keys: FxHashMap::default(),
            shared: Vec::new(),
            lamp: Vec::new(),
        }
    }

    fn local(&mut self, name: &str) -> Local {
        self.locals.push(name.to_owned());
        Local(self.locals.len() - 1)
    }

    fn is_array(&self) -> bool {
        self.light.is_some_and(|light| light.size != Size::One)
    }

    /// Counts how often each part is asked for at the moment at hand.
    fn count(&mut self, roots: &[(ExprId, usize)]) {
        let mut open = roots.to_vec();
        while let Some((id, part)) = open.pop() {
            let uses = self.uses.entry((self.at, id, part)).or_insert(0);
            *uses += 1;
            if *uses == 1 {
                match self.program.expr(id).op {
                    // What is looked at at another moment is counted there.
                    Op::Moment(_, moment) => open.push((moment, 0)),
                    _ => open.extend(operands(self.program, self.needs, id, part)),
                }
            }
        }
    }

    /// Turns to the moment of an [`Op::Moment`], and gives the one before.
    fn turn_to(&mut self, id: ExprId, value: ExprId, moment: ExprId, sharing: bool) -> usize {
        let around = self.at;
        let known = self.moments.iter().position(|m| m.from == Some((around, id)));
        if let Some(known) = known {
            self.at = known;
            return around;
        }
        let for_all =
            self.moments[around].for_all && self.program.expr(moment).scope == Scope::Book;
        let outside = sharing || (for_all && self.is_array());
        let mut now = self.value(moment, 0, outside);
        if !matches!(now, Code::Local(_) | Code::Number(_)) {
            let local = self.local("then");
            let statement = Statement::Let(local, Type::Number, now);
            if outside {
                self.shared.push(statement)
            } else {
                self.lamp.push(statement)
            }
            now = Code::Local(local);
        }
        self.at = self.moments.len();
        self.moments.push(Moment { from: Some((around, id)), now, for_all });
        let asked: Vec<(ExprId, usize)> = (0..self.program.expr(value).kind.width())
            .filter(|part| self.uses.contains_key(&(around, id, *part)))
            .map(|part| (value, part))
            .collect();
        self.count(&asked);
        around
    }

    /// The value of a part. `sharing` says that what is around it is already outside the loop.
    fn value(&mut self, id: ExprId, part: usize, sharing: bool) -> Code {
        if let Some(local) = self.bound.get(&(self.at, id, part)) {
            return Code::Local(*local);
        }
        let expr = self.program.expr(id);
        let trivial =
            matches!(expr.op, Op::Constant(_) | Op::Now | Op::Index(_) | Op::Parameter(_));
        if trivial {
            return self.make(id, part, sharing);
        }
        let for_all = self.is_array() && expr.scope == Scope::Book && self.moments[self.at].for_all;
        let named = self.program.local_name(id).is_some();
        let often = self.uses.get(&(self.at, id, part)).is_some_and(|uses| *uses > 1);
        let code = self.make(id, part, sharing || for_all);
        if !(named || often || (for_all && !sharing)) {
            return code;
        }
        let name = self.suggest(id, part);
        let local = self.local(&name);
        let statement = Statement::Let(local, type_of(expr.kind), code);
        if for_all || sharing {
            self.shared.push(statement);
        } else {
            self.lamp.push(statement);
        }
        self.bound.insert((self.at, id, part), local);
        Code::Local(local)
    }

    fn suggest(&self, id: ExprId, part: usize) -> String {
        let program = self.program;
        let expr = program.expr(id);
        let suffix = part_names(expr.kind)[part];
        let name = match (program.local_name(id), &expr.op) {
            (Some(name), _) => name,
            (None, Op::Signal(id)) => return format!("{}_now{suffix}", program.signal(*id).name),
            (None, Op::Curve(id, _)) => return format!("{}_now", program.curve(*id).name),
            (None, Op::Call(id, ..)) => {
                return format!("{}_now{suffix}", program.behaviour(*id).name);
            }
            (None, Op::Brightest(_)) => "brightest",
            (None, Op::Same(..)) => "odd_one",
            (None, Op::ConeRoot(..)) => "cone",
            (None, _) if expr.kind == Kind::Color => "color_now",
            (None, _) if self.property.is_empty() => "part",
            (None, _) => return format!("{}_base{suffix}", self.property),
        };
        format!("{name}{suffix}")
    }

    /// The key of a place of chance.
    fn site_key(&mut self, site: Site) -> Code {
        if let Some(key) = self.key {
            return Code::Helper(Helper::ChanceKey, vec![Code::Local(key), Code::Word(site.place)]);
        }
        let fixed = Code::Helper(Helper::ChanceKey, vec![Code::Seed, Code::Word(site.place)]);
        let Some(light) = self.light.filter(|_| self.is_array() && site.scope != Scope::Book)
        else {
            return fixed;
        };
        let local = match self.keys.get(&site) {
            Some(local) => *local,
            None => {
                let local = self.local(&format!("{}_key", self.property));
                self.shared.push(Statement::Let(local, Type::Word, fixed));
                self.keys.insert(site, local);
                local
            }
        };
        let lamps = match site.scope {
            Scope::Placing(_) => light.share(site.scope).lamps,
            Scope::Lamp | Scope::Book => 1,
        };
        let index = Code::Index(Share { lamps, of: None });
        Code::Helper(Helper::LampKey, vec![Code::Local(local), index])
    }

    fn two(&mut self, sign: Infix, a: ExprId, b: ExprId, part: usize, sharing: bool) -> Code {
        let scalar = self.program.expr(b).kind.width() == 1;
        let left_part = if self.program.expr(a).kind.width() == 1 { 0 } else { part };
        let left = self.value(a, left_part, sharing);
        let right = self.value(b, if scalar { 0 } else { part }, sharing);
        Code::infix(sign, left, right)
    }

    fn make(&mut self, id: ExprId, part: usize, sharing: bool) -> Code {
        let program = self.program;
        match &program.expr(id).op {
            Op::Constant(Constant::Scalar(v)) => Code::Number(*v),
            Op::Constant(Constant::Vector(v)) => Code::Number(v[part]),
            Op::Constant(Constant::OnOff(on)) => Code::Flag(*on),
            Op::Now => self.moments[self.at].now.clone(),
            Op::Index(scope) => {
                Code::IndexNumber(self.light.map_or(Share::LAMP, |light| light.share(*scope)))
            }
            Op::Parameter(n) => Code::Local(self.parameters[&(*n, part)]),
            Op::Signal(signal) => {
                let function = self.known[&(Subject::Signal(*signal), part)];
                self.call(function, None, &[], sharing)
            }
            Op::Call(behaviour, arguments, site) => {
                let function = self.known[&(Subject::Behaviour(*behaviour), part)];
                self.call(function, *site, arguments, sharing)
            }
            Op::Negate(a) => Code::Prefix(Prefix::Minus, Box::new(self.value(*a, part, sharing))),
            Op::Not(a) => Code::Prefix(Prefix::Not, Box::new(self.value(*a, 0, sharing))),
            Op::Add(a, b) => self.two(Infix::Plus, *a, *b, part, sharing),
            Op::Subtract(a, b) => self.two(Infix::Minus, *a, *b, part, sharing),
            Op::Multiply(a, b) => self.two(Infix::Times, *a, *b, part, sharing),
            Op::Divide(a, b) => self.two(Infix::Over, *a, *b, part, sharing),
            Op::Above(a, b) => self.two(Infix::Above, *a, *b, part, sharing),
            Op::Same(a, b) => self.two(Infix::Same, *a, *b, part, sharing),
            Op::And(a, b) => self.two(Infix::And, *a, *b, part, sharing),
            Op::Or(a, b) => self.two(Infix::Or, *a, *b, part, sharing),
            Op::Least(a, b) => self.helper(Helper::Least, &[*a, *b], sharing),
            Op::Greatest(a, b) => self.helper(Helper::Greatest, &[*a, *b], sharing),
            Op::Within(v, lo, hi) => self.helper(Helper::Within, &[*v, *lo, *hi], sharing),
            Op::Between(a, b, s) => {
                if let Some(code) = self.drawn_between(*a, *b, *s, sharing) {
                    return code;
                }
                let a = self.value(*a, part, sharing);
                let b = self.value(*b, part, sharing);
                let s = self.value(*s, 0, sharing);
                Code::Helper(Helper::Between, vec![a, b, s])
            }
            Op::Choose(c, a, b) => {
                let c = self.value(*c, 0, sharing);
                let (a, b) = (self.value(*a, part, sharing), self.value(*b, part, sharing));
                if a == b {
                    return a;
                }
                Code::Choose(Box::new(c), Box::new(a), Box::new(b))
            }
            Op::Parts(x, y, z) => self.value([*x, *y, *z][part], 0, sharing),
            Op::Held(shortest, longest, site) => {
                let [key, rate, jitter] = self.held(*shortest, *longest, *site, sharing);
                let now = self.moments[self.at].now.clone();
                Code::Helper(Helper::HeldLevel, vec![now, key, rate, jitter])
            }
            Op::Soft(shortest, longest, part, site) => {
                let [key, rate, jitter] = self.held(*shortest, *longest, *site, sharing);
                let part = self.value(*part, 0, sharing);
                let now = self.moments[self.at].now.clone();
                Code::Helper(Helper::SoftLevel, vec![now, key, rate, jitter, part])
            }
            Op::Drift(rate, octaves, site) => {
                let key = self.site_key(*site);
                let rate = self.value(*rate, 0, sharing);
                let now = self.moments[self.at].now.clone();
                Code::Helper(Helper::DriftLevel, vec![now, key, rate, Code::Word(*octaves)])
            }
            Op::Burst(times, tables, site) => {
                let key = self.site_key(*site);
                let mut arguments = vec![self.moments[self.at].now.clone(), key];
                arguments.extend(times.iter().map(|time| self.value(*time, 0, sharing)));
                arguments.extend(tables.iter().map(|table| self.table(*table)));
                let pairs = program.table(tables[0]).values.len() as u32 - 1;
                arguments.push(Code::Word(pairs));
                Code::Helper(Helper::BurstLevel, arguments)
            }
            Op::InBall(parts, radius) => {
                let from = [0, 1, 2].map(|n| parts[(part + n) % 3]);
                let inside = self.helper(Helper::InBall, &from, sharing);
                let radius = self.value(*radius, 0, sharing);
                Code::infix(Infix::Times, inside, radius)
            }
            Op::Wave(wave, x) => {
                let helper = match wave {
                    Wave::Sine => Helper::SineLevel,
                    Wave::Triangle => Helper::TriangleLevel,
                    Wave::Saw => Helper::SawLevel,
                };
                self.helper(helper, &[*x], sharing)
            }
            Op::Square(x, on) => self.helper(Helper::SquareLevel, &[*x, *on], sharing),
            Op::Eased(easing, u) => {
                let u = self.value(*u, 0, sharing);
                eased(*easing, u)
            }
            Op::Table(table, x) => {
                let x = self.value(*x, 0, sharing);
                let last = program.table(*table).values.len() as u32 - 1;
                let table = self.table(*table);
                Code::Helper(Helper::TableLevel, vec![x, table, Code::Word(last)])
            }
            Op::Moment(value, moment) => {
                let around = self.turn_to(id, *value, *moment, sharing);
                let code = self.value(*value, part, sharing);
                self.at = around;
                code
            }
            Op::ConeRoot(cone, color) => {
                let helper = [Helper::ConeL, Helper::ConeM, Helper::ConeS][usize::from(*cone)];
                let parts = (0..3).map(|part| self.value(*color, part, sharing)).collect();
                Code::Helper(helper, parts)
            }
            Op::FromCones(l, m, s) => {
                let helper = [Helper::LightR, Helper::LightG, Helper::LightB][part];
                self.helper(helper, &[*l, *m, *s], sharing)
            }
            Op::Heading(point) => {
                let all: Vec<Code> = (0..3).map(|n| self.value(*point, n, sharing)).collect();
                let still = Code::Number(if part == 2 { -1.0 } else { 0.0 });
                let mut arguments = vec![all[part].clone()];
                arguments.extend(all);
                arguments.push(still);
                Code::Helper(Helper::Heading, arguments)
            }
            Op::Phase(site) => {
                let key = self.site_key(*site);
                Code::Helper(Helper::ChancePhase, vec![key])
            }
            Op::Turned(turn, _, at, period) => {
                let helper = match turn {
                    Turn::Loop => Helper::WrapTime,
                    Turn::Alternate => Helper::FoldTime,
                };
                self.helper(helper, &[*at, *period], sharing)
            }
            Op::Curve(curve, at) => {
                let at = self.value(*at, 0, sharing);
                Code::Call(self.known[&(Subject::Curve(*curve), 0)], vec![at])
            }
            Op::Brightest(c) => self.brightest(*c, sharing),
            Op::BrightestAtOne(c) => {
                let whole = self.brightest(*c, sharing);
                let part = self.value(*c, part, sharing);
                Code::Helper(Helper::Share, vec![part, whole])
            }
        }
    }

    fn table(&self, id: TableId) -> Code {
        // Every table that code can reach is planned.
        Code::Table(self.tables.iter().position(|known| *known == id).unwrap_or_default())
    }

    /// Key, rate and jitter of a held level.
    fn held(&mut self, shortest: ExprId, longest: ExprId, site: Site, sharing: bool) -> [Code; 3] {
        let key = self.site_key(site);
        let a = self.time(shortest, "shortest", sharing);
        let b = self.time(longest, "longest", sharing);
        let (rate, jitter) = held_numbers(a, b);
        [key, rate, jitter]
    }

    /// A time of a held level: it is needed more than once, so what is computed gets a name.
    fn time(&mut self, id: ExprId, name: &str, sharing: bool) -> Code {
        let code = self.value(id, 0, sharing);
        if matches!(code, Code::Number(_) | Code::Local(_)) {
            return code;
        }
        let local = self.local(name);
        let statement = Statement::Let(local, Type::Number, code);
        if sharing {
            self.shared.push(statement)
        } else {
            self.lamp.push(statement)
        }
        self.bound.insert((self.at, id, 0), local);
        Code::Local(local)
    }

    /// A drawn level between two known bounds. A draw is at most 1 - 2^-24, so unless the bounds
    /// lie extremely close, rounding cannot carry the level over one of them, and the plain line
    /// gives the same bits as the guarded one.
    fn drawn_between(&mut self, a: ExprId, b: ExprId, s: ExprId, sharing: bool) -> Option<Code> {
        let known = |id| match self.program.constant(id) {
            Some(Constant::Scalar(v)) => Some(v),
            _ => None,
        };
        let (lo, hi) = (known(a)?, known(b)?);
        let apart = hi - lo > lo.abs().max(hi.abs()) * (1.0 / 67_108_864.0);
        let drawn = matches!(self.program.expr(s).op, Op::Held(..) | Op::Phase(_));
        if !(apart && drawn) {
            return None;
        }
        let level = self.value(s, 0, sharing);
        let span = match hi - lo {
            1.0 => level,
            span => Code::infix(Infix::Times, Code::Number(span), level),
        };
        Some(if lo == 0.0 { span } else { Code::infix(Infix::Plus, Code::Number(lo), span) })
    }

    fn helper(&mut self, helper: Helper, operands: &[ExprId], sharing: bool) -> Code {
        let values = operands.iter().map(|e| self.value(*e, 0, sharing)).collect();
        Code::Helper(helper, values)
    }

    fn brightest(&mut self, color: ExprId, sharing: bool) -> Code {
        let [r, g, b] = [0, 1, 2].map(|part| self.value(color, part, sharing));
        Code::Helper(Helper::Greatest, vec![Code::Helper(Helper::Greatest, vec![r, g]), b])
    }

    /// A call with what the function needs: moment and seed as they are here, the key of this use,
    /// and parts of the arguments.
    fn call(
        &mut self,
        function: FunctionId,
        site: Option<Site>,
        arguments: &[ExprId],
        sharing: bool,
    ) -> Code {
        let needed = &self.functions[function.0].parameters;
        let mut values = Vec::with_capacity(needed.len());
        for (role, ..) in needed {
            values.push(match role {
                Role::Now => self.moments[self.at].now.clone(),
                Role::Seed => Code::Seed,
                Role::Key => site.map_or(Code::Seed, |site| self.site_key(site)),
                Role::Value(n, part) => self.value(arguments[*n], *part, sharing),
            });
        }
        Code::Call(function, values)
    }
}

/// Rate and jitter of a held level from its shortest and longest time; known ones are computed.
fn held_numbers(a: Code, b: Code) -> (Code, Code) {
    if let (Code::Number(a), Code::Number(b)) = (&a, &b) {
        return (Code::Number(2.0 / (a + b)), Code::Number((b - a) / (2.0 * (a + b))));
    }
    let two = || Code::Number(2.0);
    let sum = Code::infix(Infix::Plus, a.clone(), b.clone());
    let rate = Code::infix(Infix::Over, two(), sum.clone());
    let span = Code::infix(Infix::Minus, b, a);
    (rate, Code::infix(Infix::Over, span, Code::infix(Infix::Times, two(), sum)))
}

/// Some known answers: a few moments of each light, at most about forty in all.
fn answers(checked: &Checked, lights: &[LightPlan]) -> Vec<Answer> {
    const MOMENTS: [f64; 4] = [0.75, 61.3, 86_400.125, 0.0];
    let each = (40 / lights.len().max(1)).clamp(1, MOMENTS.len());
    let seed = checked.program().seed();
    let mut answers = Vec::new();
    for (m, moment) in MOMENTS.iter().enumerate().take(each) {
        for (n, (id, _)) in checked.program().lights().enumerate().take(40) {
            let moving =
                |field: &FieldPlan| !field.flag && matches!(field.parts[0], Part::Code(..));
            let Some(place) = lights[n].fields.iter().position(moving) else { continue };
            let column: usize = lights[n].fields[..place].iter().map(|f| f.parts.len()).sum();
            let seed = if m % 2 == 0 { seed } else { Seed(seed.0.wrapping_add(1)) };
            let index = match lights[n].size {
                Size::One => 0,
                Size::Many(lamps) => (m as u32 * 3) % lamps,
                Size::Open => m as u32 * 1001,
            };
            let mut run = Run::with_seed(checked, seed);
            run.advance(Seconds(*moment));
            let mut lamp = vec![0.0; run.width(id)];
            run.read(id, index, &mut lamp);
            answers.push(Answer {
                light: n,
                index,
                seed: seed.0,
                moment: *moment,
                place: (place, 0),
                value: lamp[column],
            });
        }
    }
    answers
}
