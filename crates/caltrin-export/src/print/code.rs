//! Expressions and statements.

use caltrin_core::program::{Dial, Share};

use super::{FileNames, Syntax};
use crate::plan::{
    Code, FieldPlan, Function, FunctionId, Infix, Local, Part, Prefix, Role, Statement,
};

/// What expressions of one function or light are printed with.
pub struct Scope<'a, S> {
    /// The language.
    pub syntax: &'a S,
    /// The file's names.
    pub names: &'a FileNames,
    /// The names of the locals.
    pub locals: Vec<String>,
    /// What the moment is called here.
    pub now: String,
    /// What the seed is called here.
    pub seed: String,
    /// What the hour and the number of days are called here.
    pub clock: [String; 2],
    /// What the lamp's index is called here.
    pub index: String,
    /// Stands before kernel functions.
    pub prefix: String,
}

/// How tightly an expression binds; a looser one in a tighter place gets brackets.
#[derive(Clone, Copy, PartialEq, PartialOrd)]
enum Binding {
    Choice,
    Or,
    And,
    Comparison,
    Sum,
    Product,
    Sign,
    Atom,
}

impl<S: Syntax> Scope<'_, S> {
    /// The same in a function, to which moment, seed and clock come as parameters.
    pub fn inside(self, function: &Function) -> Self {
        let name_of = |role: Role| {
            let found = function.parameters.iter().find(|(known, ..)| *known == role);
            found.map_or(String::new(), |(_, local, _)| self.locals[local.0].clone())
        };
        let (now, seed) = (name_of(Role::Now), name_of(Role::Seed));
        let clock = [Dial::Hour, Dial::Days].map(|dial| name_of(Role::Clock(dial)));
        Scope { now, seed, clock, ..self }
    }

    /// An expression.
    pub fn expression(&self, code: &Code) -> String {
        self.bound(code).0
    }

    fn at_least(&self, code: &Code, least: Binding) -> String {
        let (text, binding) = self.bound(code);
        if binding < least { format!("({text})") } else { text }
    }

    fn local(&self, local: Local) -> &str {
        &self.locals[local.0]
    }

    fn list(&self, all: &[Code]) -> String {
        let all: Vec<String> = all.iter().map(|code| self.expression(code)).collect();
        all.join(", ")
    }

    fn function(&self, id: FunctionId) -> &str {
        &self.names.functions[id.0]
    }

    fn bound(&self, code: &Code) -> (String, Binding) {
        match code {
            Code::Number(v) => {
                let binding = if v.is_sign_negative() { Binding::Sign } else { Binding::Atom };
                (self.syntax.number(*v), binding)
            }
            Code::Word(v) => (self.syntax.word(*v), Binding::Atom),
            Code::Flag(v) => (self.syntax.flag(*v), Binding::Atom),
            Code::Local(local) => (self.local(*local).to_owned(), Binding::Atom),
            Code::Now => (self.now.clone(), Binding::Atom),
            Code::Seed => (self.seed.clone(), Binding::Atom),
            Code::Clock(Dial::Hour) => (self.clock[0].clone(), Binding::Atom),
            Code::Clock(Dial::Days) => (self.clock[1].clone(), Binding::Atom),
            Code::Index(share) => (self.index(*share), Binding::Sum),
            Code::IndexNumber(share) => {
                let index = self.index(*share);
                (self.syntax.index_number(&index, *share != Share::LAMP), Binding::Sign)
            }
            Code::Input(n, part, index) => {
                let index = index.as_ref().map(|index| match **index {
                    Code::Index(share) => self.syntax.place(&self.index(share)),
                    _ => self.expression(index),
                });
                let names = &self.names.inputs[*n];
                let part = (!names.suffixes.is_empty()).then_some(*part);
                (self.syntax.input(names, index.as_deref(), part), Binding::Atom)
            }
            Code::IsChosen(n) => (self.syntax.chosen(&self.names.choices[*n]), Binding::Atom),
            Code::Weight(n, option) => {
                (self.syntax.weight(&self.names.choices[*n], *option), Binding::Atom)
            }
            Code::FreeSpark(n) => {
                (self.syntax.free(&self.prefix, &self.names.sparks[*n]), Binding::Atom)
            }
            Code::NextHour(hour, after) => {
                let (hour, after) = (self.syntax.number(*hour), self.expression(after));
                (self.syntax.strikes(&self.prefix, &hour, &after), Binding::Atom)
            }
            Code::Table(n) => (self.syntax.table(&self.names.tables[*n]), Binding::Atom),
            Code::Prefix(sign, a) => {
                let sign = match sign {
                    Prefix::Minus => "-",
                    Prefix::Not => S::NOT,
                };
                (format!("{sign}{}", self.at_least(a, Binding::Atom)), Binding::Sign)
            }
            Code::Infix(sign, a, b) => {
                let (sign, own) = match sign {
                    Infix::Plus => ("+", Binding::Sum),
                    Infix::Minus => ("-", Binding::Sum),
                    Infix::Times => ("*", Binding::Product),
                    Infix::Over => ("/", Binding::Product),
                    Infix::Above => (">", Binding::Comparison),
                    Infix::Below => ("<", Binding::Comparison),
                    Infix::Equal | Infix::Is => (S::EQUAL, Binding::Comparison),
                    Infix::And => (S::AND, Binding::And),
                    Infix::Or => (S::OR, Binding::Or),
                };
                // Sums and products go from left to right; what stands right of them and binds
                // no tighter must keep its brackets, or the bits change.
                let right = match own {
                    Binding::Sum => Binding::Product,
                    Binding::Product => Binding::Sign,
                    Binding::Comparison => Binding::Sum,
                    other => other,
                };
                // What must both be inside of what may be either gets its brackets too: compilers ask for them.
                let right = if own == Binding::Or { Binding::Comparison } else { right };
                let left = match own {
                    Binding::Comparison => Binding::Sum,
                    Binding::Or if matches!(**a, Code::Infix(Infix::And, ..)) => {
                        Binding::Comparison
                    }
                    other => other,
                };
                let text = format!("{} {sign} {}", self.at_least(a, left), self.at_least(b, right));
                (text, own)
            }
            Code::Select(c, a, b) => {
                let least = if S::BLOCKS { Binding::Choice } else { Binding::Or };
                // Where a block is reported by braces, its condition needs none.
                let condition = if S::BLOCKS { Binding::Choice } else { Binding::Or };
                let text = self.syntax.choose(
                    &self.at_least(c, condition),
                    &self.at_least(a, least),
                    &self.at_least(b, least),
                );
                (text, Binding::Choice)
            }
            Code::Helper(helper, all) => {
                let name = format!("{}{}", self.prefix, self.syntax.helper(*helper));
                (format!("{name}({})", self.list(all)), Binding::Atom)
            }
            Code::Call(id, all) => {
                (format!("{}({})", self.function(*id), self.list(all)), Binding::Atom)
            }
        }
    }

    /// The lamp's index, or what several lamps share of it.
    fn index(&self, share: Share) -> String {
        let mut text = self.index.clone();
        if share.lamps != 1 {
            text = self.syntax.quotient(&text, share.lamps);
        }
        match share.of {
            Some(of) => format!("{text} % {}", self.syntax.word(of)),
            None => text,
        }
    }

    /// What a number, or on or off, of a lamp is set to.
    pub fn output(&self, field: &FieldPlan, part: &Part) -> String {
        match part {
            Part::Constant(v) if field.flag => self.syntax.flag(*v != 0.0),
            Part::Code(code, _) if field.flag => self.expression(code),
            Part::Constant(v) => self.syntax.single(*v),
            Part::Code(code, finish) => {
                let value = self.expression(code);
                match finish.helper() {
                    None => self.syntax.convert(&value),
                    Some(helper) => {
                        format!("{}{}({value})", self.prefix, self.syntax.helper(helper))
                    }
                }
            }
        }
    }

    /// Statements, each on its line, `depth` steps in.
    pub fn statements(&self, all: &[Statement], depth: usize, out: &mut String) {
        self.block(all, depth, depth, out);
    }

    fn block(&self, all: &[Statement], depth: usize, top: usize, out: &mut String) {
        let line = |out: &mut String, text: &str| {
            out.push_str(&S::INDENT.repeat(depth));
            out.push_str(text);
            out.push('\n');
        };
        for (n, statement) in all.iter().enumerate() {
            match statement {
                Statement::Let(local, ty, code) => {
                    let value = self.expression(code);
                    line(out, &self.syntax.constant(*ty, self.local(*local), &value));
                }
                Statement::When(condition, block) => {
                    let condition = self.expression(condition);
                    let short = match &block[..] {
                        [Statement::Return(value)] => {
                            self.syntax.when_return(&condition, &self.expression(value))
                        }
                        _ => None,
                    };
                    if let Some(short) = short {
                        line(out, &short);
                    } else {
                        line(out, &self.syntax.when(&condition));
                        self.block(block, depth + 1, top, out);
                        if let Some(end) = S::END {
                            line(out, end);
                        }
                    }
                }
                Statement::Return(code) => {
                    let last = depth == top && n + 1 == all.len();
                    line(out, &self.syntax.give(&self.expression(code), last));
                }
            }
        }
    }
}
