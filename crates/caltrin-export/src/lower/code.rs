//! Expressions and statements of a plan as those of the tree.

use caltrin_core::program::{Dial, Entries, Share};

use super::{Maker, book_name, input_field, run, type_of};
use crate::ir::{Expr, Operation as Op, RunField, Statement, Type};
use crate::plan::{self, Code, FieldPlan, Infix, OutputConversion, Part, Prefix};
use crate::print::KERNEL;

impl Maker<'_> {
    /// Statements; `names` are those of the plan's locals.
    pub(super) fn statements(
        &mut self,
        names: &[String],
        all: &[plan::Statement],
    ) -> Vec<Statement> {
        let mut body = Vec::new();
        for statement in all {
            body.push(match statement {
                plan::Statement::Let(local, ty, code) => {
                    let value = self.expr(code);
                    let id = self.local(&names[local.0], type_of(*ty));
                    self.own[local.0] = id;
                    Statement::Let(id, value)
                }
                plan::Statement::When(condition, block) => {
                    let condition = self.expr(condition);
                    Statement::If(condition, self.statements(names, block), Vec::new())
                }
                plan::Statement::Return(code) => Statement::Return(self.expr(code)),
            });
        }
        body
    }

    /// The lamp's index, or what several lamps share of it; a word.
    fn shared_index(&self, share: Share) -> Expr {
        let mut index = self.index.clone();
        if share.lamps != 1 {
            index = Expr::Do(Op::WordDivide, vec![index, Expr::Word(share.lamps)]);
        }
        match share.of {
            Some(of) => Expr::Do(Op::WordRemainder, vec![index, Expr::Word(of)]),
            None => index,
        }
    }

    /// A field that an input is kept in: which one of many, and which part.
    pub(super) fn input(&self, n: usize, part: usize, index: Option<Expr>) -> RunField {
        let input = &self.plan.inputs[n];
        RunField {
            field: input_field(n),
            index: index.map(Box::new),
            part: (!input.suffixes.is_empty()).then_some(part),
            ty: if input.flag { Type::Bool } else { Type::F64 },
        }
    }

    pub(super) fn expr(&self, code: &Code) -> Expr {
        match code {
            Code::Number(v) => Expr::Number(*v),
            Code::Word(v) => Expr::Word(*v),
            Code::Flag(on) => Expr::Flag(*on),
            Code::Local(local) => Expr::Local(self.own[local.0]),
            Code::Now => self.now.clone(),
            Code::Seed => self.seed.clone(),
            Code::Clock(Dial::Hour) => self.clock[0].clone(),
            Code::Clock(Dial::Days) => self.clock[1].clone(),
            Code::Index(share) => self.shared_index(*share),
            Code::IndexNumber(share) => Expr::Do(Op::WordToNumber, vec![self.shared_index(*share)]),
            Code::Input(n, part, index) => {
                let index = index.as_ref().map(|index| match &**index {
                    Code::Index(share) => to_int(self.shared_index(*share)),
                    code => self.expr(code),
                });
                Expr::Run(self.input(*n, *part, index))
            }
            Code::IsChosen(n) => {
                Expr::Run(super::field(&run::choice_key(*n, "chosen"), Type::Word))
            }
            Code::Weight(n, option) => {
                Expr::Call(run::choice_key(*n, "weight"), vec![Expr::Word(*option)])
            }
            Code::Table(n) => {
                let table = &self.plan.tables[*n].table;
                let ty = match table.entries {
                    Entries::Numbers(_) => Type::Numbers,
                    Entries::Words(_) => Type::Words,
                };
                Expr::Table(table.name.clone(), ty)
            }
            Code::FreeSpark(n) => Expr::Call(run::spark_name(*n), Vec::new()),
            Code::NextHour(hour, after) => {
                let parts = vec![Expr::Number(*hour), self.expr(after)];
                Expr::Call("clock_strikes".to_owned(), parts)
            }
            Code::Prefix(sign, a) => {
                let a = self.expr(a);
                match (sign, a) {
                    (Prefix::Minus, Expr::Number(v)) => Expr::Number(-v),
                    (Prefix::Minus, a) => Expr::Do(Op::Negate, vec![a]),
                    (Prefix::Not, a) => Expr::Do(Op::Not, vec![a]),
                }
            }
            Code::Infix(sign, a, b) => {
                let operation = match sign {
                    Infix::Plus => Op::Add,
                    Infix::Minus => Op::Subtract,
                    Infix::Times => Op::Multiply,
                    Infix::Over => Op::Divide,
                    Infix::Above => Op::Greater,
                    Infix::Below => Op::Less,
                    Infix::Equal | Infix::Is => Op::Equal,
                    Infix::And => Op::And,
                    Infix::Or => Op::Or,
                };
                Expr::Do(operation, vec![self.expr(a), self.expr(b)])
            }
            Code::Select(c, a, b) => {
                Expr::Do(Op::Select, vec![self.expr(c), self.expr(a), self.expr(b)])
            }
            Code::Helper(plan::Helper::RoundDown, all) => {
                Expr::Do(Op::Floor, all.iter().map(|code| self.expr(code)).collect())
            }
            Code::Helper(plan::Helper::CellIndex, all) => {
                Expr::Do(Op::NumberToWord, all.iter().map(|code| self.expr(code)).collect())
            }
            Code::Helper(helper, all) => {
                let takes = KERNEL.function(helper.name()).map(|function| &function.locals);
                let parts = all.iter().enumerate().map(|(n, code)| {
                    let wanted = takes.and_then(|locals| locals.get(n)).map(|local| local.ty);
                    match (code, wanted) {
                        (Code::Word(v), Some(Type::Int)) => Expr::Int(*v),
                        _ => self.expr(code),
                    }
                });
                Expr::Call(helper.name().to_owned(), parts.collect())
            }
            Code::Call(id, all) => {
                let parts = all.iter().map(|code| self.expr(code)).collect();
                Expr::Call(book_name(id.0), parts)
            }
        }
    }

    /// What a number, or on or off, of a lamp is set to.
    pub(super) fn lamp_value(&self, field: &FieldPlan, part: &Part) -> Expr {
        match part {
            Part::Constant(v) if field.flag => Expr::Flag(*v != 0.0),
            Part::Code(code, _) if field.flag => self.expr(code),
            Part::Constant(v) => Expr::Single(*v),
            Part::Code(code, OutputConversion::Convert) => {
                Expr::Do(Op::ToSingle, vec![self.expr(code)])
            }
            Part::Code(code, finish) => {
                let helper = finish.helper().map_or("", plan::Helper::name);
                Expr::Call(helper.to_owned(), vec![self.expr(code)])
            }
        }
    }
}

/// A word as an index.
pub(super) fn to_int(word: Expr) -> Expr {
    match word {
        Expr::Word(v) => Expr::Int(v),
        word => Expr::Do(Op::WordToInt, vec![word]),
    }
}
