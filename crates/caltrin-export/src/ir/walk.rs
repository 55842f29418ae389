//! Runs functions of the tree: the plain meaning, which every language must repeat.

use std::collections::{BTreeMap, HashMap};

use super::{Entries, Expr, Function, LocalId, Module, Operation, RunField, Statement};

/// A value.
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    /// A double.
    Number(f64),
    /// A single.
    Single(f32),
    /// A word.
    Word(u32),
    /// An index.
    Int(u32),
    /// On or off.
    Flag(bool),
    /// A table of doubles.
    Numbers(Vec<f64>),
    /// A table of words.
    Words(Vec<u32>),
    /// A fixed-point number: what stands before the point, and after it.
    Fixed(u32, u32),
}

impl Value {
    /// Its bits, for comparing: those of a double, or of what is smaller.
    ///
    /// # Panics
    /// If it is a table or a fixed-point number.
    pub fn bits(&self) -> u64 {
        match self {
            Value::Number(v) => v.to_bits(),
            Value::Single(v) => u64::from(v.to_bits()),
            Value::Word(v) | Value::Int(v) => u64::from(*v),
            Value::Flag(v) => u64::from(*v),
            Value::Numbers(_) | Value::Words(_) | Value::Fixed(..) => panic!("it has no 64 bits"),
        }
    }
}

/// What a function has besides its arguments: fields of the run by name, and the fields of the lamp that it makes.
#[derive(Clone, Debug, Default)]
pub struct Around {
    /// Fields of the run.
    pub fields: BTreeMap<String, Value>,
    /// Fields and parts of a lamp, in the order in which they were set.
    pub made: Vec<(usize, usize, Value)>,
}

/// How a block ended.
enum Flow {
    On,
    Broken,
    Done(Value),
}

/// A module whose functions are found at once.
pub struct Functions<'m> {
    module: &'m Module,
    by_name: HashMap<&'m str, &'m Function>,
}

impl<'m> Functions<'m> {
    /// Those of a module.
    pub fn of(module: &'m Module) -> Self {
        let by_name = module.functions.iter().map(|own| (own.name.as_str(), own)).collect();
        Functions { module, by_name }
    }

    /// Runs a function that makes a lamp; its fields are in `around` afterwards. None as for [`call`].
    pub fn make(
        &self,
        function: &Function,
        arguments: Vec<Value>,
        around: &mut Around,
        steps: &mut u64,
    ) -> Option<()> {
        self.run(function, arguments, around, steps).map(|_| ())
    }

    fn run(
        &self,
        function: &Function,
        arguments: Vec<Value>,
        around: &mut Around,
        steps: &mut u64,
    ) -> Option<Flow> {
        let mut locals: Vec<Option<Value>> = arguments.into_iter().map(Some).collect();
        locals.resize(function.locals.len(), None);
        Walk { functions: self, locals, around, steps }.block(&function.body)
    }

    fn call(&self, name: &str, arguments: Vec<Value>, steps: &mut u64) -> Option<Value> {
        let mut around = Around::default();
        match self.run(self.by_name.get(name)?, arguments, &mut around, steps)? {
            Flow::Done(value) => Some(value),
            Flow::On | Flow::Broken => None,
        }
    }
}

/// The result of a function. `steps` is how many statements may still run; none where they do not suffice, or where
/// something undefined is asked for: an index beyond a table, a count below 0, a division of counts by 0.
pub fn call(module: &Module, name: &str, arguments: Vec<Value>, steps: &mut u64) -> Option<Value> {
    Functions::of(module).call(name, arguments, steps)
}

struct Walk<'m> {
    functions: &'m Functions<'m>,
    locals: Vec<Option<Value>>,
    around: &'m mut Around,
    steps: &'m mut u64,
}

impl Walk<'_> {
    fn block(&mut self, block: &[Statement]) -> Option<Flow> {
        for statement in block {
            *self.steps = self.steps.checked_sub(1)?;
            match statement {
                Statement::Let(local, value) => self.set(*local, value)?,
                Statement::Assign(local, None, value) => self.set(*local, value)?,
                Statement::Assign(local, Some(operation), value) => {
                    let both = vec![Expr::Local(*local), value.clone()];
                    self.set(*local, &Expr::Do(*operation, both))?;
                }
                Statement::If(condition, then, other) => {
                    let block = if self.holds(condition)? { then } else { other };
                    match self.block(block)? {
                        Flow::On => {}
                        ended => return Some(ended),
                    }
                }
                Statement::While(condition, body) => {
                    while self.holds(condition)? {
                        *self.steps = self.steps.checked_sub(1)?;
                        match self.block(body)? {
                            Flow::On => {}
                            Flow::Broken => break,
                            done => return Some(done),
                        }
                    }
                }
                Statement::For(local, from, to, body) => {
                    let (from, to) = (self.index(from)?, self.index(to)?);
                    for n in from..to {
                        *self.steps = self.steps.checked_sub(1)?;
                        self.locals[local.0] = Some(Value::Int(n));
                        match self.block(body)? {
                            Flow::On => {}
                            Flow::Broken => break,
                            done => return Some(done),
                        }
                    }
                }
                Statement::Make(_, field, part, value) => {
                    let value = self.value(value)?;
                    self.around.made.push((*field, *part, value));
                }
                // Runs are not walked.
                Statement::Set(..)
                | Statement::SetEntry(..)
                | Statement::Restart(_)
                | Statement::Read(..)
                | Statement::ReadAt(..)
                | Statement::ReadMany(..)
                | Statement::EachNotice(_)
                | Statement::Call(..)
                | Statement::Switch(..)
                | Statement::Stop => return None,
                Statement::Break => return Some(Flow::Broken),
                Statement::Return(value) => return self.value(value).map(Flow::Done),
            }
        }
        Some(Flow::On)
    }

    fn set(&mut self, local: LocalId, value: &Expr) -> Option<()> {
        self.locals[local.0] = Some(self.value(value)?);
        Some(())
    }

    fn holds(&mut self, condition: &Expr) -> Option<bool> {
        match self.value(condition)? {
            Value::Flag(on) => Some(on),
            _ => None,
        }
    }

    fn index(&mut self, expr: &Expr) -> Option<u32> {
        match self.value(expr)? {
            Value::Int(n) => Some(n),
            _ => None,
        }
    }

    fn value(&mut self, expr: &Expr) -> Option<Value> {
        Some(match expr {
            Expr::Number(v) => self.rounded(Value::Number(*v)),
            Expr::Word(v) => Value::Word(*v),
            Expr::Int(v) => Value::Int(*v),
            Expr::Flag(on) => Value::Flag(*on),
            Expr::Single(v) => Value::Single(*v),
            Expr::Run(RunField { field, index: None, part: None, .. }) => {
                self.around.fields.get(field)?.clone()
            }
            Expr::TableEntry(name, _, at) => {
                let at = self.index(at)? as usize;
                let value = match &self.functions.module.table(name)?.entries {
                    Entries::Numbers(all) => Value::Number(*all.get(at)?),
                    Entries::Words(all) => Value::Word(*all.get(at)?),
                    Entries::Texts(_) => return None,
                };
                self.rounded(value)
            }
            Expr::Run(_) | Expr::Table(..) | Expr::Zeros(_) | Expr::Text(_) | Expr::Part(..) => {
                return None;
            }
            Expr::Local(id) => self.locals[id.0].clone()?,
            Expr::Constant(name) => {
                let module = self.functions.module;
                self.value(&module.constant(name)?.value)?
            }
            // Only what is chosen is computed.
            Expr::Do(Operation::Select, parts) => {
                let chosen = if self.holds(&parts[0])? { 1 } else { 2 };
                self.value(&parts[chosen])?
            }
            Expr::Do(Operation::And, parts) => {
                Value::Flag(self.holds(&parts[0])? && self.holds(&parts[1])?)
            }
            Expr::Do(Operation::Or, parts) => {
                Value::Flag(self.holds(&parts[0])? || self.holds(&parts[1])?)
            }
            Expr::Do(operation, parts) => {
                let values: Option<Vec<Value>> =
                    parts.iter().map(|part| self.value(part)).collect();
                self.rounded(done(*operation, &values?)?)
            }
            Expr::Call(name, parts) => {
                let values: Option<Vec<Value>> =
                    parts.iter().map(|part| self.value(part)).collect();
                self.functions.call(name, values?, self.steps)?
            }
            Expr::Entry(table, at) => {
                let at = self.index(at)? as usize;
                match self.locals[table.0].as_ref()? {
                    Value::Numbers(all) => Value::Number(*all.get(at)?),
                    Value::Words(all) => Value::Word(*all.get(at)?),
                    _ => return None,
                }
            }
        })
    }

    /// A number as a single where numbers are that. One that was computed of two singles is the single that would have
    /// been computed at once: a double has more than twice as many digits.
    fn rounded(&self, value: Value) -> Value {
        match value {
            Value::Number(v) if self.functions.module.single => Value::Number(f64::from(v as f32)),
            value => value,
        }
    }
}

/// What an operation gives.
pub(crate) fn done(operation: Operation, values: &[Value]) -> Option<Value> {
    use Operation as Op;
    use Value::{Flag, Int, Number, Single, Word};
    Some(match (operation, values) {
        (Op::Add, [Number(a), Number(b)]) => Number(a + b),
        (Op::Subtract, [Number(a), Number(b)]) => Number(a - b),
        (Op::Multiply, [Number(a), Number(b)]) => Number(a * b),
        (Op::Divide, [Number(a), Number(b)]) => Number(a / b),
        (Op::Negate, [Number(a)]) => Number(-a),
        (Op::SquareRoot, [Number(a)]) => Number(a.sqrt()),
        // A zero has no sign.
        (Op::Floor, [Number(a)]) if a.abs() < 2251799813685248.0 => Number(a.floor() + 0.0),
        (Op::IsNan, [Number(a)]) => Flag(a.is_nan()),
        (Op::IsFinite, [Number(a)]) => Flag(a.is_finite()),
        (Op::WordAdd, [Word(a), Word(b)]) => Word(a.wrapping_add(*b)),
        (Op::WordSubtract, [Word(a), Word(b)]) => Word(a.wrapping_sub(*b)),
        (Op::WordMultiply, [Word(a), Word(b)]) => Word(a.wrapping_mul(*b)),
        (Op::WordDivide, [Word(a), Word(b)]) => Word(a.checked_div(*b)?),
        (Op::WordRemainder, [Word(a), Word(b)]) => Word(a.checked_rem(*b)?),
        (Op::WordXor, [Word(a), Word(b)]) => Word(a ^ b),
        (Op::WordAnd, [Word(a), Word(b)]) => Word(a & b),
        (Op::ShiftRight, [Word(a), Int(b)]) => Word(a.checked_shr(*b)?),
        (Op::IntAdd, [Int(a), Int(b)]) => Int(a.checked_add(*b)?),
        (Op::IntSubtract, [Int(a), Int(b)]) => Int(a.checked_sub(*b)?),
        (Op::IntMultiply, [Int(a), Int(b)]) => Int(a.checked_mul(*b)?),
        (Op::IntDivide, [Int(a), Int(b)]) => Int(a.checked_div(*b)?),
        (Op::IntRemainder, [Int(a), Int(b)]) => Int(a.checked_rem(*b)?),
        (Op::Equal, [a, b]) => Flag(a == b),
        (Op::Unequal, [a, b]) => Flag(a != b),
        (Op::Less, [Number(a), Number(b)]) => Flag(a < b),
        (Op::Less, [Word(a), Word(b)] | [Int(a), Int(b)]) => Flag(a < b),
        (Op::AtMost, [Number(a), Number(b)]) => Flag(a <= b),
        (Op::AtMost, [Word(a), Word(b)] | [Int(a), Int(b)]) => Flag(a <= b),
        (Op::Greater, [Number(a), Number(b)]) => Flag(a > b),
        (Op::Greater, [Word(a), Word(b)] | [Int(a), Int(b)]) => Flag(a > b),
        (Op::AtLeast, [Number(a), Number(b)]) => Flag(a >= b),
        (Op::AtLeast, [Word(a), Word(b)] | [Int(a), Int(b)]) => Flag(a >= b),
        (Op::Outside, [Word(a), Word(b)]) => Flag(a >= b),
        (Op::Not, [Flag(a)]) => Flag(!a),
        (Op::WordToNumber, [Word(a)]) => Number(f64::from(*a)),
        (Op::IntToNumber, [Int(a)]) => Number(f64::from(*a)),
        (Op::NumberToInt, [Number(a)]) if *a >= 0.0 && *a <= 2147483648.0 => Int(*a as u32),
        (Op::NumberToWord, [Number(a)]) if a.abs() < 2251799813685248.0 => Word(*a as i64 as u32),
        (Op::WordToInt, [Word(a)]) => Int(*a),
        (Op::ToSingle, [Number(a)]) => Single(*a as f32),
        (Op::SingleToNumber, [Single(a)]) => Number(f64::from(*a)),
        (Op::HighBits, [Number(a)]) => Word((a.to_bits() >> 32) as u32),
        (Op::LowBits, [Number(a)]) => Word(a.to_bits() as u32),
        (Op::ToFixed, [Word(a), Word(b)]) => Value::Fixed(*a, *b),
        (Op::FixedWhole, [Value::Fixed(a, _)]) => Word(*a),
        (Op::FixedPart, [Value::Fixed(_, b)]) => Word(*b),
        (Op::FromBits, [Word(a), Word(b)]) => {
            Number(f64::from_bits(u64::from(*a) << 32 | u64::from(*b)))
        }
        _ => return None,
    })
}
