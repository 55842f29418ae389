//! The imperative tree: functions of numbers with locals, assignments and loops, which every language can say.
//!
//! [`read`] makes it from restricted Rust, [`walk`] runs it, and [`crate::language`] prints it.

pub mod fold;
pub mod read;
pub mod share;
pub mod walk;

use std::collections::{BTreeMap, BTreeSet};

/// The type of a value.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Type {
    /// A double.
    F64,
    /// A single; only as a result.
    F32,
    /// 32 bits that wrap: keys and draws.
    Word,
    /// A count or an index, which never wraps: at most 2^31.
    Int,
    /// On or off.
    Bool,
    /// Nothing; only as a result.
    Void,
    /// A table of doubles.
    Numbers,
    /// A table of words.
    Words,
    /// Text.
    Text,
    /// A table of texts.
    Texts,
    /// A list of words that is filled: a local, or a parameter that is changed.
    List,
    /// A list of singles that is filled; only as a parameter.
    Singles,
    /// Bytes that are read; only as a parameter.
    Bytes,
    /// Bytes that are written; only as a parameter.
    Buffer,
    /// A fixed-point number of 32 bits before the point, in two's complement, and 32 after it; only in shaders.
    Fixed,
}

impl Type {
    /// All of them.
    pub const ALL: &'static [Type] = &[
        Type::F64,
        Type::F32,
        Type::Word,
        Type::Int,
        Type::Bool,
        Type::Void,
        Type::Numbers,
        Type::Words,
        Type::Text,
        Type::Texts,
        Type::List,
        Type::Singles,
        Type::Bytes,
        Type::Buffer,
        Type::Fixed,
    ];

    /// Its name in a language file.
    pub fn name(self) -> &'static str {
        match self {
            Type::F64 => "f64",
            Type::F32 => "f32",
            Type::Word => "u32",
            Type::Int => "int",
            Type::Bool => "bool",
            Type::Void => "void",
            Type::Numbers => "f64_table",
            Type::Words => "u32_table",
            Type::Text => "text",
            Type::Texts => "text_table",
            Type::List => "u32_list",
            Type::Singles => "f32_list",
            Type::Bytes => "bytes",
            Type::Buffer => "buffer",
            Type::Fixed => "fixed",
        }
    }

    /// The type of a table's entries.
    pub fn entry(self) -> Option<Type> {
        match self {
            Type::Numbers => Some(Type::F64),
            Type::Words | Type::List => Some(Type::Word),
            Type::Texts => Some(Type::Text),
            Type::Singles => Some(Type::F32),
            Type::F64
            | Type::F32
            | Type::Word
            | Type::Int
            | Type::Bool
            | Type::Void
            | Type::Text
            | Type::Bytes
            | Type::Buffer
            | Type::Fixed => None,
        }
    }
}

/// What an operand of an operation may be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Operand {
    /// A value of one type.
    Of(Type),
    /// A number or word or index of any type, the same for all such operands.
    Ordered,
    /// A value of any type, the same for all such operands, and then of the result.
    Any,
}

/// One line an operation: its name in a language file, its operands, and its result.
macro_rules! operations {
    ($($(#[$doc:meta])* $name:ident $text:literal ($($operand:expr),*) -> $result:expr,)*) => {
        /// An operation.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum Operation {
            $($(#[$doc])* $name,)*
        }

        impl Operation {
            /// All of them.
            pub const ALL: &'static [Operation] = &[$(Operation::$name,)*];

            /// Its name in a language file.
            pub fn name(self) -> &'static str {
                match self {
                    $(Operation::$name => $text,)*
                }
            }

            /// Its operands.
            pub fn operands(self) -> &'static [Operand] {
                use Operand::{Any, Of, Ordered};
                use Type::{Bool, F32, F64, Fixed, Int, Word};
                let _ = (Any, Ordered, Of(Bool), F32, F64, Fixed, Int, Word);
                match self {
                    $(Operation::$name => &[$($operand),*],)*
                }
            }

            /// Its result; none where that is the type of its operands.
            pub fn result(self) -> Option<Type> {
                match self {
                    $(Operation::$name => $result,)*
                }
            }
        }
    };
}

operations! {
    /// `a + b`
    Add "add" (Of(F64), Of(F64)) -> Some(Type::F64),
    /// `a - b`
    Subtract "subtract" (Of(F64), Of(F64)) -> Some(Type::F64),
    /// `a * b`
    Multiply "multiply" (Of(F64), Of(F64)) -> Some(Type::F64),
    /// `a / b`
    Divide "divide" (Of(F64), Of(F64)) -> Some(Type::F64),
    /// `-a`
    Negate "negate" (Of(F64)) -> Some(Type::F64),
    /// The square root.
    SquareRoot "square_root" (Of(F64)) -> Some(Type::F64),
    /// The largest whole number not above `a`, for `|a|` below 2^51; a zero has no sign.
    Floor "floor" (Of(F64)) -> Some(Type::F64),
    /// Whether `a` is not a number.
    IsNan "is_nan" (Of(F64)) -> Some(Type::Bool),
    /// Whether `a` is a finite number.
    IsFinite "is_finite" (Of(F64)) -> Some(Type::Bool),
    /// `a + b`, modulo 2^32
    WordAdd "word_add" (Of(Word), Of(Word)) -> Some(Type::Word),
    /// `a - b`, modulo 2^32
    WordSubtract "word_subtract" (Of(Word), Of(Word)) -> Some(Type::Word),
    /// `a * b`, modulo 2^32
    WordMultiply "word_multiply" (Of(Word), Of(Word)) -> Some(Type::Word),
    /// `a / b`, rounded down
    WordDivide "word_divide" (Of(Word), Of(Word)) -> Some(Type::Word),
    /// What `a / b` leaves.
    WordRemainder "word_remainder" (Of(Word), Of(Word)) -> Some(Type::Word),
    /// Bits that differ.
    WordXor "word_xor" (Of(Word), Of(Word)) -> Some(Type::Word),
    /// Bits that both have.
    WordAnd "word_and" (Of(Word), Of(Word)) -> Some(Type::Word),
    /// Shifted by `b` bits (0 to 31) to lower places.
    ShiftRight "shift_right" (Of(Word), Of(Int)) -> Some(Type::Word),
    /// `a + b`
    IntAdd "int_add" (Of(Int), Of(Int)) -> Some(Type::Int),
    /// `a - b`, not below 0
    IntSubtract "int_subtract" (Of(Int), Of(Int)) -> Some(Type::Int),
    /// `a * b`
    IntMultiply "int_multiply" (Of(Int), Of(Int)) -> Some(Type::Int),
    /// `a / b`, rounded down
    IntDivide "int_divide" (Of(Int), Of(Int)) -> Some(Type::Int),
    /// What `a / b` leaves.
    IntRemainder "int_remainder" (Of(Int), Of(Int)) -> Some(Type::Int),
    /// Whether both are equal.
    Equal "equal" (Ordered, Ordered) -> Some(Type::Bool),
    /// Whether both are not equal.
    Unequal "unequal" (Ordered, Ordered) -> Some(Type::Bool),
    /// `a < b`
    Less "less" (Ordered, Ordered) -> Some(Type::Bool),
    /// `a <= b`
    AtMost "at_most" (Ordered, Ordered) -> Some(Type::Bool),
    /// `a > b`
    Greater "greater" (Ordered, Ordered) -> Some(Type::Bool),
    /// `a >= b`
    AtLeast "at_least" (Ordered, Ordered) -> Some(Type::Bool),
    /// Whether an index that the host gives is not below a count.
    Outside "outside" (Of(Word), Of(Word)) -> Some(Type::Bool),
    /// Both.
    And "and" (Of(Bool), Of(Bool)) -> Some(Type::Bool),
    /// One or both.
    Or "or" (Of(Bool), Of(Bool)) -> Some(Type::Bool),
    /// Not.
    Not "not" (Of(Bool)) -> Some(Type::Bool),
    /// `b` where `a` holds, else `c`.
    Select "select" (Of(Bool), Any, Any) -> None,
    /// A word as a double.
    WordToNumber "word_to_number" (Of(Word)) -> Some(Type::F64),
    /// An index as a double.
    IntToNumber "int_to_number" (Of(Int)) -> Some(Type::F64),
    /// A double of 0 to 2^31 as an index, rounded down.
    NumberToInt "number_to_int" (Of(F64)) -> Some(Type::Int),
    /// A whole double as a word, modulo 2^32, for `|a|` below 2^51.
    NumberToWord "number_to_word" (Of(F64)) -> Some(Type::Word),
    /// A word as an index.
    WordToInt "word_to_int" (Of(Word)) -> Some(Type::Int),
    /// A double as a single.
    ToSingle "to_single" (Of(F64)) -> Some(Type::F32),
    /// A single as a double.
    SingleToNumber "single_to_number" (Of(F32)) -> Some(Type::F64),
    /// The sign, the exponent and the upper 20 bits of a double's fraction.
    HighBits "high_bits" (Of(F64)) -> Some(Type::Word),
    /// The lower 32 bits of a double's fraction.
    LowBits "low_bits" (Of(F64)) -> Some(Type::Word),
    /// The double whose bits are `a`, the high ones, and `b`.
    FromBits "from_bits" (Of(Word), Of(Word)) -> Some(Type::F64),
    /// The fixed-point number of `a` before the point and `b` after it.
    ToFixed "to_fixed" (Of(Word), Of(Word)) -> Some(Type::Fixed),
    /// What a fixed-point number has before the point, rounded down.
    FixedWhole "fixed_whole" (Of(Fixed)) -> Some(Type::Word),
    /// What it has after the point.
    FixedPart "fixed_part" (Of(Fixed)) -> Some(Type::Word),
}

/// A local of a function, by its number.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct LocalId(pub usize);

/// A field of the run: its name in the module, which of several it is, and which part of that.
#[derive(Clone, Debug, PartialEq)]
pub struct RunField {
    /// Its name.
    pub field: String,
    /// Which of several, an index.
    pub index: Option<Box<Expr>>,
    /// Which part.
    pub part: Option<usize>,
    /// The type of its values.
    pub ty: Type,
}

/// An expression.
#[derive(Clone, Debug, PartialEq)]
pub enum Expr {
    /// A double.
    Number(f64),
    /// A word.
    Word(u32),
    /// An index.
    Int(u32),
    /// On or off.
    Flag(bool),
    /// A single.
    Single(f32),
    /// A local or parameter.
    Local(LocalId),
    /// A constant of the module.
    Constant(String),
    /// A field of the run.
    Run(RunField),
    /// A table of the file, as an argument; and the type of its entries.
    Table(String, Type),
    /// An operation.
    Do(Operation, Vec<Expr>),
    /// A call.
    Call(String, Vec<Expr>),
    /// An entry of a table or list, which is a local.
    Entry(LocalId, Box<Expr>),
    /// An entry of a table of the file.
    TableEntry(String, Type, Box<Expr>),
    /// A list of so many words that are 0; only as the value of a new local.
    Zeros(u32),
    /// Text: letters, digits and `_`.
    Text(String),
    /// A part of a field of what was read: which of its fields, which part, and its type.
    Part(Record, usize, usize, Type),
}

/// What has fields besides the run.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Record {
    /// A lamp.
    Lamp,
    /// A notice.
    Notice,
}

/// A statement.
#[derive(Clone, Debug, PartialEq)]
pub enum Statement {
    /// A new local.
    Let(LocalId, Expr),
    /// A local is set again. With an operation, to that of itself and the value.
    Assign(LocalId, Option<Operation>, Expr),
    /// A field of the run is set; with an operation, to that of itself and the value.
    Set(RunField, Option<Operation>, Expr),
    /// A part of a field of the lamp or notice that is made is set.
    Make(Record, usize, usize, Expr),
    /// An entry of a list is set.
    SetEntry(LocalId, Expr, Expr),
    /// The run starts again with a seed.
    Restart(Expr),
    /// A lamp of a light is read; one of many by its index.
    Read(usize, Option<Expr>),
    /// A lamp of a light is read, just so; one of many by its index.
    ReadAt(usize, Option<Expr>),
    /// So many lamps of a light are read at once from one on, and a block is done for each of them.
    ReadMany(usize, u32, u32, Vec<Statement>),
    /// Every notice that waits is taken, and a block is done for each of them.
    EachNotice(Vec<Statement>),
    /// A function is called for what it does.
    Call(String, Vec<Expr>),
    /// The statement of a word from 0 on, of which the last also stands for all others.
    Switch(Expr, Vec<Statement>),
    /// One of two blocks.
    If(Expr, Vec<Statement>, Vec<Statement>),
    /// A block, again and again.
    While(Expr, Vec<Statement>),
    /// A block for each index from one up to another, which is excluded.
    For(LocalId, Expr, Expr, Vec<Statement>),
    /// Leaves the innermost loop.
    Break,
    /// The result.
    Return(Expr),
    /// Leaves a function without a result.
    Stop,
}

/// A local or a parameter.
#[derive(Clone, Debug, PartialEq)]
pub struct Local {
    /// Its name, words joined by `_`; several of a function may have the same.
    pub name: String,
    /// Its type.
    pub ty: Type,
    /// Whether it is set again.
    pub changes: bool,
    /// Whether it is read.
    pub used: bool,
}

/// What a function has of the run.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Receiver {
    /// Nothing.
    #[default]
    None,
    /// It reads it.
    Reads,
    /// It changes it.
    Changes,
}

/// A function.
#[derive(Clone, Debug, PartialEq)]
pub struct Function {
    /// Its name, words joined by `_`.
    pub name: String,
    /// What it does, for a comment; may be empty.
    pub about: String,
    /// What it has of the run.
    pub receiver: Receiver,
    /// Whether the host calls it.
    pub public: bool,
    /// How many of the locals are parameters, the first ones.
    pub parameters: usize,
    /// Its parameters and locals.
    pub locals: Vec<Local>,
    /// Its result.
    pub result: Type,
    /// What it does. Every way through it ends with a return.
    pub body: Vec<Statement>,
}

impl Function {
    /// What it needs: functions and constants by name.
    pub fn uses(&self) -> BTreeSet<String> {
        let mut used = BTreeSet::new();
        each_expr(&self.body, &mut |expr| {
            if let Expr::Call(name, _) | Expr::Constant(name) = expr {
                used.insert(name.clone());
            }
        });
        each_statement(&self.body, &mut |statement| {
            if let Statement::Call(name, _) = statement {
                used.insert(name.clone());
            }
        });
        used
    }

    /// Two of its locals change places in their list.
    pub fn swap_locals(&mut self, a: usize, b: usize) {
        self.locals.swap(a, b);
        self.renumber(&|id| match id {
            LocalId(n) if n == a => LocalId(b),
            LocalId(n) if n == b => LocalId(a),
            id => id,
        });
    }

    /// Its statements speak of other locals.
    pub fn renumber(&mut self, to: &dyn Fn(LocalId) -> LocalId) {
        rename(&mut self.body, &|id: &mut LocalId| *id = to(*id));
    }
}

fn rename(block: &mut [Statement], swapped: &impl Fn(&mut LocalId)) {
    for statement in block {
        if let Statement::Let(id, _)
        | Statement::Assign(id, ..)
        | Statement::SetEntry(id, ..)
        | Statement::For(id, ..) = statement
        {
            swapped(id);
        }
        statement.each_value_mut(&mut |value| rename_in(value, swapped));
        statement.each_block_mut(&mut |block| rename(block, swapped));
    }
}

fn rename_in(expr: &mut Expr, swapped: &impl Fn(&mut LocalId)) {
    if let Expr::Local(id) | Expr::Entry(id, _) = expr {
        swapped(id);
    }
    expr.each_child_mut(&mut |child| rename_in(child, swapped));
}

/// A constant.
#[derive(Clone, Debug, PartialEq)]
pub struct Constant {
    /// Its name, words joined by `_`.
    pub name: String,
    /// What it is, for a comment; may be empty.
    pub about: String,
    /// Its type.
    pub ty: Type,
    /// Its value.
    pub value: Expr,
}

/// The entries of a table.
#[derive(Clone, Debug, PartialEq)]
pub enum Entries {
    /// Doubles.
    Numbers(Vec<f64>),
    /// Words.
    Words(Vec<u32>),
    /// Texts: letters, digits and `_`.
    Texts(Vec<String>),
}

impl Entries {
    /// The type of the table.
    pub fn ty(&self) -> Type {
        match self {
            Entries::Numbers(_) => Type::Numbers,
            Entries::Words(_) => Type::Words,
            Entries::Texts(_) => Type::Texts,
        }
    }

    /// How many there are.
    pub fn count(&self) -> usize {
        match self {
            Entries::Numbers(all) => all.len(),
            Entries::Words(all) => all.len(),
            Entries::Texts(all) => all.len(),
        }
    }
}

/// A table of the file.
#[derive(Clone, Debug, PartialEq)]
pub struct Table {
    /// Its name.
    pub name: String,
    /// What it is, for a comment; may be empty.
    pub about: String,
    /// Its entries.
    pub entries: Entries,
    /// Whether words are written in base 16.
    pub hex: bool,
}

/// Constants and functions, each after those that it uses.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Module {
    /// The constants.
    pub constants: Vec<Constant>,
    /// The tables.
    pub tables: Vec<Table>,
    /// The functions.
    pub functions: Vec<Function>,
    /// Functions that are written elsewhere: what they have of the run, and their results.
    pub others: BTreeMap<String, (Receiver, Type)>,
    /// Whether numbers are singles, as in shaders.
    pub single: bool,
}

impl Module {
    /// The table of that name.
    pub fn table(&self, name: &str) -> Option<&Table> {
        self.tables.iter().find(|table| table.name == name)
    }

    /// The function of that name.
    pub fn function(&self, name: &str) -> Option<&Function> {
        self.functions.iter().find(|function| function.name == name)
    }

    /// What a function has of the run, and its result.
    pub fn signature(&self, name: &str) -> Option<(Receiver, Type)> {
        let known = self.function(name).map(|function| (function.receiver, function.result));
        known.or_else(|| self.others.get(name).copied())
    }

    /// The constant of that name.
    pub fn constant(&self, name: &str) -> Option<&Constant> {
        self.constants.iter().find(|constant| constant.name == name)
    }

    /// The type of an expression of a function.
    pub fn type_of(&self, expr: &Expr, function: &Function) -> Type {
        let local = |id: LocalId| function.locals[id.0].ty;
        match expr {
            Expr::Number(_) => Type::F64,
            Expr::Word(_) => Type::Word,
            Expr::Int(_) => Type::Int,
            Expr::Flag(_) => Type::Bool,
            Expr::Single(_) => Type::F32,
            Expr::Local(id) => local(*id),
            Expr::Run(place) => place.ty,
            Expr::Table(_, ty) => *ty,
            Expr::Constant(name) => self.constant(name).map_or(Type::F64, |constant| constant.ty),
            Expr::Do(operation, operands) => {
                let last = || operands.last().map(|operand| self.type_of(operand, function));
                operation.result().or_else(last).unwrap_or(Type::F64)
            }
            Expr::Call(name, _) => self.signature(name).map_or(Type::F64, |(_, result)| result),
            Expr::Entry(id, _) => local(*id).entry().unwrap_or(Type::F64),
            Expr::TableEntry(_, ty, _) => ty.entry().unwrap_or(Type::F64),
            Expr::Zeros(_) => Type::List,
            Expr::Text(_) => Type::Text,
            Expr::Part(.., ty) => *ty,
        }
    }

    /// What an item needs of the others: functions and constants by name.
    pub fn uses(&self, name: &str) -> BTreeSet<String> {
        self.function(name).map_or(BTreeSet::new(), Function::uses)
    }
}

/// Marks the locals of a function that are read and those that are set again.
pub fn mark(function: &mut Function) {
    for local in &mut function.locals {
        (local.used, local.changes) = (false, false);
    }
    let Function { locals, body, .. } = function;
    each_expr(body, &mut |expr| {
        if let Expr::Local(id) | Expr::Entry(id, _) = expr {
            locals[id.0].used = true;
        }
    });
    each_statement(body, &mut |statement| {
        if let Statement::Assign(id, ..) | Statement::SetEntry(id, ..) = statement {
            locals[id.0].changes = true;
        }
    });
}

/// The parts of an expression, once for each kind of borrow.
macro_rules! children {
    ($expr:expr, $visit:expr, $($mutable:tt)?) => {
        match $expr {
            Expr::Do(_, parts) | Expr::Call(_, parts) => {
                for part in parts {
                    $visit(part);
                }
            }
            Expr::Entry(_, at) | Expr::TableEntry(_, _, at) => $visit(at),
            Expr::Run(place) => {
                if let Some(index) = &$($mutable)? place.index {
                    $visit(index);
                }
            }
            Expr::Number(_)
            | Expr::Word(_)
            | Expr::Int(_)
            | Expr::Flag(_)
            | Expr::Single(_)
            | Expr::Local(_)
            | Expr::Table(..)
            | Expr::Zeros(_)
            | Expr::Text(_)
            | Expr::Part(..)
            | Expr::Constant(_) => {}
        }
    };
}

/// The values of a statement itself, once for each kind of borrow.
macro_rules! values {
    ($statement:expr, $visit:expr, $($mutable:tt)?) => {
        match $statement {
            Statement::Let(_, value)
            | Statement::Assign(_, _, value)
            | Statement::Make(.., value)
            | Statement::Restart(value)
            | Statement::If(value, ..)
            | Statement::While(value, _)
            | Statement::Switch(value, _)
            | Statement::Return(value) => $visit(value),
            Statement::Set(place, _, value) => {
                if let Some(index) = &$($mutable)? place.index {
                    $visit(index);
                }
                $visit(value);
            }
            Statement::SetEntry(_, first, second) | Statement::For(_, first, second, _) => {
                $visit(first);
                $visit(second);
            }
            Statement::Read(_, index) | Statement::ReadAt(_, index) => {
                if let Some(index) = index {
                    $visit(index);
                }
            }
            Statement::Call(_, parts) => {
                for part in parts {
                    $visit(part);
                }
            }
            Statement::ReadMany(..)
            | Statement::EachNotice(_)
            | Statement::Break
            | Statement::Stop => {}
        }
    };
}

/// The blocks in a statement, once for each kind of borrow.
macro_rules! blocks {
    ($statement:expr, $visit:expr) => {
        match $statement {
            Statement::If(_, then, other) => {
                $visit(then);
                $visit(other);
            }
            Statement::While(_, body)
            | Statement::For(_, _, _, body)
            | Statement::ReadMany(.., body)
            | Statement::EachNotice(body)
            | Statement::Switch(_, body) => $visit(body),
            Statement::Let(..)
            | Statement::Assign(..)
            | Statement::Set(..)
            | Statement::Make(..)
            | Statement::SetEntry(..)
            | Statement::Restart(_)
            | Statement::Read(..)
            | Statement::ReadAt(..)
            | Statement::Call(..)
            | Statement::Break
            | Statement::Return(_)
            | Statement::Stop => {}
        }
    };
}

impl Expr {
    /// Visits its parts, but not theirs.
    pub fn each_child<'e>(&'e self, visit: &mut impl FnMut(&'e Expr)) {
        children!(self, visit,)
    }

    /// The same, and they may be changed.
    pub fn each_child_mut(&mut self, visit: &mut impl FnMut(&mut Expr)) {
        children!(self, visit, mut)
    }
}

impl Statement {
    /// Visits the values of its own, but not their parts nor those of its blocks.
    pub fn each_value<'e>(&'e self, visit: &mut impl FnMut(&'e Expr)) {
        values!(self, visit,)
    }

    /// The same, and they may be changed.
    pub fn each_value_mut(&mut self, visit: &mut impl FnMut(&mut Expr)) {
        values!(self, visit, mut)
    }

    /// Visits its blocks; the cases of a switch are one.
    pub fn each_block<'e>(&'e self, visit: &mut impl FnMut(&'e Vec<Statement>)) {
        blocks!(self, visit)
    }

    /// The same, and they may be changed.
    pub fn each_block_mut(&mut self, visit: &mut impl FnMut(&mut Vec<Statement>)) {
        blocks!(self, visit)
    }
}

/// Visits every expression of a block, each before its parts.
pub fn each_expr<'e>(block: &'e [Statement], visit: &mut impl FnMut(&'e Expr)) {
    visit_exprs(block, visit);
}

// The visitor is passed on as it is, so that its type stays the same at every depth.
fn visit_exprs<'e>(block: &'e [Statement], visit: &mut dyn FnMut(&'e Expr)) {
    for statement in block {
        statement.each_value(&mut |value| visit_parts(value, visit));
        statement.each_block(&mut |block| visit_exprs(block, visit));
    }
}

/// Visits every statement of a block, each before those inside it.
pub fn each_statement<'e>(block: &'e [Statement], visit: &mut impl FnMut(&'e Statement)) {
    visit_statements(block, visit);
}

fn visit_statements<'e>(block: &'e [Statement], visit: &mut dyn FnMut(&'e Statement)) {
    for statement in block {
        visit(statement);
        statement.each_block(&mut |block| visit_statements(block, visit));
    }
}

/// Visits an expression and then its parts.
pub fn each_part<'e>(expr: &'e Expr, visit: &mut impl FnMut(&'e Expr)) {
    visit_parts(expr, visit);
}

fn visit_parts<'e>(expr: &'e Expr, visit: &mut dyn FnMut(&'e Expr)) {
    visit(expr);
    expr.each_child(&mut |child| visit_parts(child, visit));
}
