//! Conversion from double to single precision. Time, and what is computed from it by sums and constant factors, becomes
//! fixed point, so that precision does not depend on how long the run lasts.

use std::collections::BTreeMap;

use crate::ir::walk::{Value, done};
use crate::ir::{Entries, Expr, Function, Operation as Op, RunField, Statement, Table, Type};

/// Which parameters and results of the book's functions are fixed point, by function name.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct FixedTypes {
    /// For each parameter, whether it is fixed point.
    takes: BTreeMap<String, Vec<bool>>,
    /// Whether the result is fixed point.
    gives: BTreeMap<String, bool>,
    /// For each parameter, the constant that all calls pass, from the previous pass.
    given: BTreeMap<String, Vec<ArgumentValue>>,
    /// The same, from the current pass.
    seen: BTreeMap<String, Vec<ArgumentValue>>,
    /// The tables of the book.
    tables: Vec<Table>,
}

/// What calls pass for a parameter.
#[derive(Clone, Copy, Debug, PartialEq)]
enum ArgumentValue {
    /// No call was seen.
    Unseen,
    /// The same constant in all calls.
    Constant(f64),
    /// Different or unknown values.
    Varies,
}

impl ArgumentValue {
    fn and(self, value: Option<f64>) -> ArgumentValue {
        match (self, value) {
            (ArgumentValue::Unseen, Some(v)) => ArgumentValue::Constant(v),
            (ArgumentValue::Constant(known), Some(v)) if known == v => self,
            _ => ArgumentValue::Varies,
        }
    }
}

impl FixedTypes {
    /// The initial state for these functions.
    pub fn of<'f>(functions: impl Iterator<Item = &'f Function>, tables: &[Table]) -> FixedTypes {
        let mut fixed = FixedTypes { tables: tables.to_vec(), ..FixedTypes::default() };
        for function in functions {
            fixed.takes.insert(function.name.clone(), vec![false; function.parameters]);
            fixed.gives.insert(function.name.clone(), false);
            let nothing = vec![ArgumentValue::Unseen; function.parameters];
            fixed.seen.insert(function.name.clone(), nothing);
            fixed
                .given
                .insert(function.name.clone(), vec![ArgumentValue::Varies; function.parameters]);
        }
        fixed
    }

    /// Repeats passes over all functions until nothing changes.
    pub fn settle(&mut self, all: &[&Function]) {
        loop {
            let before = self.clone();
            for seen in self.seen.values_mut() {
                seen.fill(ArgumentValue::Unseen);
            }
            all.iter().for_each(|function| drop(self.function(function)));
            self.given.clone_from(&self.seen);
            if *self == before {
                return;
            }
        }
    }

    /// Converts a function, and records the kinds of its result and of the arguments that it passes.
    pub fn function(&mut self, function: &Function) -> Function {
        let mut made = function.clone();
        if let Some(takes) = self.takes.get(&function.name) {
            for (local, fixed) in made.locals.iter_mut().zip(takes) {
                if *fixed {
                    local.ty = Type::Fixed;
                }
            }
        }
        if self.gives.get(&function.name) == Some(&true) {
            made.result = Type::Fixed;
        }
        let mut body = std::mem::take(&mut made.body);
        let mut known = vec![None; made.locals.len()];
        for (known, given) in
            known.iter_mut().zip(self.given.get(&function.name).into_iter().flatten())
        {
            if let ArgumentValue::Constant(v) = given {
                *known = Some(*v);
            }
        }
        Converter { fixed: self, function: &mut made, known }.block(&mut body);
        made.body = body;
        made
    }
}

/// A field of the frame.
pub(super) fn frame_field(name: &str, ty: Type) -> Expr {
    Expr::Run(RunField { field: name.to_owned(), index: None, part: None, ty })
}

/// The field name of an option's weight.
pub(super) fn weight_field(choice: usize, option: u32) -> String {
    format!("choice {choice} weight {option}")
}

struct Converter<'f> {
    fixed: &'f mut FixedTypes,
    function: &'f mut Function,
    /// The constant values of locals.
    known: Vec<Option<f64>>,
}

/// A converted expression.
struct Converted<'e> {
    before: &'e Expr,
    made: Expr,
    is_fixed: bool,
    /// Its value, if it is constant.
    known: Option<f64>,
}

impl Converted<'_> {
    /// Its value, if it is constant.
    fn known(&self) -> Option<f64> {
        self.known
    }

    /// Converts fixed point to a number; other types stay as they are.
    fn number(&self) -> Expr {
        match self.is_fixed {
            true => call("number_of", vec![self.made.clone()]),
            false => self.made.clone(),
        }
    }

    /// Converts to fixed point.
    fn fixed(&self) -> Expr {
        match (self.is_fixed, self.known()) {
            (true, _) => self.made.clone(),
            (false, Some(v)) => fixed_literal(v),
            (false, None) => call("fixed_of", vec![self.made.clone()]),
        }
    }

    /// Converts to fixed point and multiplies by a number.
    fn times(&self, by: &Converted<'_>) -> Expr {
        match by.known() {
            Some(by) => scaled(self.fixed(), by),
            None => call("fixed_times", vec![self.fixed(), by.number()]),
        }
    }

    /// Converts to fixed point and divides by `many` times a number.
    fn divided(&self, many: f64, by: &Converted<'_>) -> Expr {
        match by.known() {
            Some(v) if v != 0.0 => scaled(self.fixed(), 1.0 / (many * v)),
            _ => {
                let by = Expr::Do(Op::Divide, vec![Expr::Number(1.0 / many), by.number()]);
                call("fixed_times", vec![self.fixed(), by])
            }
        }
    }
}

fn call(name: &str, parts: Vec<Expr>) -> Expr {
    Expr::Call(name.to_owned(), parts)
}

fn numbers(all: &[Converted<'_>]) -> Vec<Expr> {
    all.iter().map(Converted::number).collect()
}

fn to_fixed(whole: u32, part: u32) -> Expr {
    Expr::Do(Op::ToFixed, vec![Expr::Word(whole), Expr::Word(part)])
}

/// A constant in fixed point.
fn fixed_literal(v: f64) -> Expr {
    let bits = (v.clamp(-2147483648.0, 2147483647.0) * 4294967296.0).round() as i64;
    to_fixed((bits >> 32) as u32, bits as u32)
}

/// A fixed-point number multiplied by a constant.
fn scaled(a: Expr, by: f64) -> Expr {
    if by == 1.0 {
        return a;
    }
    if by < 0.0 {
        return call("fixed_opposite", vec![scaled(a, -by)]);
    }
    if by >= 65536.0 {
        return scaled(scaled(a, 32768.0), by / 32768.0);
    }
    let bits = (by * 281474976710656.0).round() as u64;
    call("fixed_scaled", vec![a, Expr::Word((bits >> 32) as u32), Expr::Word(bits as u32)])
}

impl Converter<'_> {
    fn block(&mut self, block: &mut [Statement]) {
        for statement in block {
            match statement {
                Statement::Let(id, value) => {
                    let Converted { made, is_fixed, known, .. } = self.value(value);
                    self.known[id.0] = known;
                    if is_fixed {
                        self.function.locals[id.0].ty = Type::Fixed;
                    }
                    *value = made;
                }
                Statement::Return(value) => {
                    let turned = self.value(value);
                    if turned.is_fixed {
                        self.fixed.gives.insert(self.function.name.clone(), true);
                        self.function.result = Type::Fixed;
                    }
                    let gives = self.function.result == Type::Fixed;
                    *value = if gives { turned.fixed() } else { turned.number() };
                }
                statement => {
                    statement.each_value_mut(&mut |value| *value = self.value(value).number());
                    statement.each_block_mut(&mut |inner| self.block(inner));
                }
            }
        }
    }

    fn values<'e>(&mut self, parts: &'e [Expr]) -> Vec<Converted<'e>> {
        parts.iter().map(|part| self.value(part)).collect()
    }

    fn value<'e>(&mut self, before: &'e Expr) -> Converted<'e> {
        let (made, is_fixed) = match before {
            Expr::Local(id) => (before.clone(), self.function.locals[id.0].ty == Type::Fixed),
            Expr::Run(place) if place.field == "now" => {
                let parts = ["seconds", "fraction"].map(|name| frame_field(name, Type::Word));
                (Expr::Do(Op::ToFixed, parts.into()), true)
            }
            Expr::Do(operation, parts) => {
                let parts = self.values(parts);
                operation_of(*operation, &parts)
                    .unwrap_or_else(|| (Expr::Do(*operation, numbers(&parts)), false))
            }
            Expr::Call(name, parts) => {
                let parts = self.values(parts);
                self.called(name, &parts)
            }
            Expr::Single(v) => (Expr::Number(f64::from(*v)), false),
            before => (before.clone(), false),
        };
        Converted { before, made, is_fixed, known: self.known(before) }
    }

    /// The value of an expression, if it is constant.
    fn known(&self, expr: &Expr) -> Option<f64> {
        match expr {
            Expr::Number(v) => Some(*v),
            Expr::Local(id) => self.known[id.0],
            Expr::Do(operation, parts) => {
                let known = |part| self.known(part).map(Value::Number);
                let parts: Vec<Value> = parts.iter().map(known).collect::<Option<_>>()?;
                match done(*operation, &parts)? {
                    Value::Number(v) if v.is_finite() => Some(v),
                    _ => None,
                }
            }
            _ => None,
        }
    }

    fn called(&mut self, name: &str, parts: &[Converted<'_>]) -> (Expr, bool) {
        if let Some(takes) = self.fixed.takes.get_mut(name) {
            let seen = self.fixed.seen.entry(name.to_owned()).or_default();
            for (seen, part) in seen.iter_mut().zip(parts) {
                *seen = seen.and(part.known());
            }
            let made = parts.iter().zip(takes).map(|(part, fixed)| {
                *fixed |= part.is_fixed;
                if *fixed { part.fixed() } else { part.number() }
            });
            let made = made.collect();
            return (call(name, made), self.fixed.gives.get(name) == Some(&true));
        }
        let made = match (name, parts) {
            ("to_single" | "to_output", [value]) => value.number(),
            (name, [Converted { before: Expr::Word(option), .. }]) if name.ends_with(" weight") => {
                let n = name.split(' ').nth(1).and_then(|n| n.parse().ok()).unwrap_or_default();
                frame_field(&weight_field(n, *option), Type::F64)
            }
            ("clock_hour" | "clock_days", []) => frame_field(&name["clock_".len()..], Type::F64),
            // These take a count of cells instead of a time.
            (
                "held_level" | "steady_level" | "soft_level" | "drift_level",
                [t, key, rate, rest @ ..],
            ) => {
                let mut all = vec![t.times(rate), key.number()];
                all.extend(numbers(rest));
                call(name, all)
            }
            ("burst_level", [t, key, rest @ ..]) => {
                let (whole, turns) = self.burst(t, rest);
                let mut all = vec![turns, whole, key.number()];
                all.extend(numbers(rest));
                call(name, all)
            }
            ("wrap_time", [t, period]) => call(name, vec![t.divided(1.0, period), period.number()]),
            ("fold_time", [t, period]) => call(name, vec![t.divided(2.0, period), period.number()]),
            ("noise", [x, key]) => call(name, vec![x.fixed(), key.number()]),
            // Periodic functions need the fraction only.
            (
                "sine_level" | "triangle_level" | "saw_level" | "square_level" | "sine_of_turns",
                [x, rest @ ..],
            ) => {
                let fraction = || call("fraction_of", vec![x.made.clone()]);
                let mut all = vec![if x.is_fixed { fraction() } else { x.number() }];
                all.extend(numbers(rest));
                call(name, all)
            }
            ("clamp", [x, lo, hi]) if x.is_fixed => {
                return (call("fixed_clamped", vec![x.fixed(), lo.fixed(), hi.fixed()]), true);
            }
            ("whole_below", [x]) if x.is_fixed => {
                return (call("fixed_whole", vec![x.fixed()]), true);
            }
            ("whole_nearest", [x]) if x.is_fixed => {
                let near = call("fixed_sum", vec![x.fixed(), fixed_literal(0.5)]);
                return (call("fixed_whole", vec![near]), true);
            }
            (name, parts) => call(name, numbers(parts)),
        };
        (made, false)
    }

    /// The length of a turn of bursts, and the number of turns passed.
    fn burst(&self, t: &Converted<'_>, rest: &[Converted<'_>]) -> (Expr, Expr) {
        let [on_lo, on_hi, off_lo, off_hi, on, off, pairs] = rest else {
            return (Expr::Number(1.0), t.fixed());
        };
        let last = |table: &Converted<'_>| -> Option<(f64, f64)> {
            let Expr::Table(name, _) = table.before else { return None };
            let table = self.fixed.tables.iter().find(|table| table.name == *name)?;
            match &table.entries {
                Entries::Numbers(all) => Some(((all.len() - 1) as f64, *all.last()?)),
                Entries::Words(_) | Entries::Texts(_) => None,
            }
        };
        let known = || -> Option<f64> {
            let sum = |lo: &Converted<'_>, hi: &Converted<'_>, table| -> Option<f64> {
                let (count, sum) = last(table)?;
                Some(lo.known()? * count + (hi.known()? - lo.known()?) * sum)
            };
            Some(sum(on_lo, on_hi, on)? + sum(off_lo, off_hi, off)?)
        };
        if let Some(whole) = known() {
            return (Expr::Number(whole), scaled(t.fixed(), 1.0 / whole));
        }
        let twice = match pairs.before {
            Expr::Int(pairs) => Expr::Int(2 * pairs),
            _ => Expr::Do(Op::IntMultiply, vec![Expr::Int(2), pairs.number()]),
        };
        let mut edge = vec![twice];
        edge.extend(numbers(&rest[..6]));
        let whole = call("burst_edge", edge);
        let by = Expr::Do(Op::Divide, vec![Expr::Number(1.0), whole.clone()]);
        (whole, call("fixed_times", vec![t.fixed(), by]))
    }
}

/// An operation on fixed-point operands, and whether its result is fixed point; `None` if no operand is.
fn operation_of(operation: Op, parts: &[Converted<'_>]) -> Option<(Expr, bool)> {
    let below =
        |a: &Converted<'_>, b: &Converted<'_>| call("fixed_below", vec![a.fixed(), b.fixed()]);
    let not = |a: Expr| Expr::Do(Op::Not, vec![a]);
    let any = parts.iter().any(|part| part.is_fixed);
    Some(match (operation, parts) {
        (Op::ToSingle | Op::SingleToNumber, [a]) => (a.number(), false),
        (Op::NumberToWord, [a]) => (Expr::Do(Op::FixedWhole, vec![a.fixed()]), false),
        _ if !any => return None,
        (Op::Floor, [a]) => (call("fixed_whole", vec![a.fixed()]), true),
        (Op::Negate, [a]) => (call("fixed_opposite", vec![a.fixed()]), true),
        (Op::Select, [condition, a, b]) => {
            (Expr::Do(Op::Select, vec![condition.number(), a.fixed(), b.fixed()]), true)
        }
        (Op::Add, [a, b]) => (call("fixed_sum", vec![a.fixed(), b.fixed()]), true),
        (Op::Subtract, [a, b]) => (call("fixed_difference", vec![a.fixed(), b.fixed()]), true),
        (Op::Multiply, [a, b]) if !b.is_fixed => (a.times(b), true),
        (Op::Multiply, [a, b]) if !a.is_fixed => (b.times(a), true),
        (Op::Divide, [a, b]) if !b.is_fixed => (a.divided(1.0, b), true),
        (Op::Less, [a, b]) => (below(a, b), false),
        (Op::Greater, [a, b]) => (below(b, a), false),
        (Op::AtMost, [a, b]) => (not(below(b, a)), false),
        (Op::AtLeast, [a, b]) => (not(below(a, b)), false),
        (Op::Equal | Op::Unequal, [a, b]) => {
            let same = [Op::FixedWhole, Op::FixedPart].map(|part| {
                let both = [a, b].map(|v| Expr::Do(part, vec![v.fixed()]));
                Expr::Do(Op::Equal, both.into())
            });
            let same = Expr::Do(Op::And, same.into());
            (if operation == Op::Equal { same } else { not(same) }, false)
        }
        _ => return None,
    })
}
