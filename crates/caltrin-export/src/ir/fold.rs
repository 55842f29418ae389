//! Computes what is known: words, indices and conditions of literals alone, and choices that are made already.
//! Arithmetic of doubles stays as it is written, since it is plainer so.

use super::walk::{Value, done};
use super::{Expr, Function, Operation, Statement};

/// Folds a function.
pub fn fold(function: &mut Function) {
    block(&mut function.body);
    super::mark(function);
}

fn block(all: &mut Vec<Statement>) {
    let mut folded = Vec::with_capacity(all.len());
    for mut statement in std::mem::take(all) {
        statement.each_value_mut(&mut expr);
        match &mut statement {
            // Each case is a statement of its own: what leaves in one does not end the others.
            Statement::Switch(_, cases) => cases.iter_mut().for_each(case),
            statement => statement.each_block_mut(&mut block),
        }
        if let Statement::If(Expr::Flag(on), then, other) = &mut statement {
            folded.append(if *on { then } else { other });
            if leaves(folded.last()) {
                break;
            }
            continue;
        }
        // Conditions change nothing, so a choice between two empty blocks does nothing.
        let does_nothing = match &statement {
            Statement::If(_, then, other) => then.is_empty() && other.is_empty(),
            Statement::While(condition, _) => *condition == Expr::Flag(false),
            Statement::For(_, Expr::Int(from), Expr::Int(to), _) => from >= to,
            _ => false,
        };
        if does_nothing {
            continue;
        }
        let ends = leaves(Some(&statement));
        folded.push(statement);
        if ends {
            break;
        }
    }
    *all = folded;
}

/// Folds the statement of a case, which stays one statement.
fn case(statement: &mut Statement) {
    statement.each_value_mut(&mut expr);
    statement.each_block_mut(&mut block);
}

/// Leaves out the values of a function that nothing asks for; they are looked for in its outermost block.
pub fn prune(function: &mut Function) {
    loop {
        super::mark(function);
        let before = function.body.len();
        let Function { locals, body, .. } = &mut *function;
        body.retain(|each| !matches!(each, Statement::Let(id, _) if !locals[id.0].used));
        if body.len() == before {
            return;
        }
    }
}

/// Whether nothing runs after a statement.
fn leaves(statement: Option<&Statement>) -> bool {
    matches!(statement, Some(Statement::Return(_) | Statement::Stop | Statement::Break))
}

fn expr(whole: &mut Expr) {
    whole.each_child_mut(&mut expr);
    let Expr::Do(operation, parts) = whole else { return };
    let known = match (&*operation, parts.as_slice()) {
        (Operation::Select, [Expr::Flag(on), then, other]) => {
            Some(if *on { then.clone() } else { other.clone() })
        }
        (Operation::And, [Expr::Flag(true), other] | [other, Expr::Flag(true)])
        | (Operation::Or, [Expr::Flag(false), other] | [other, Expr::Flag(false)]) => {
            Some(other.clone())
        }
        // Exact, and so is what is left.
        (Operation::Multiply, [Expr::Number(1.0), other])
        | (Operation::Multiply | Operation::Divide, [other, Expr::Number(1.0)]) => {
            Some(other.clone())
        }
        (Operation::And, [Expr::Flag(false), _]) => Some(Expr::Flag(false)),
        (Operation::Or, [Expr::Flag(true), _]) => Some(Expr::Flag(true)),
        _ => computed(*operation, parts),
    };
    if let Some(known) = known {
        *whole = known;
    }
}

/// What an operation gives, if its operands are literals and its result is no sum of doubles.
fn computed(operation: Operation, parts: &[Expr]) -> Option<Expr> {
    let literal = |part: &Expr| match part {
        Expr::Number(v) => Some(Value::Number(*v)),
        Expr::Word(v) => Some(Value::Word(*v)),
        Expr::Int(v) => Some(Value::Int(*v)),
        Expr::Flag(on) => Some(Value::Flag(*on)),
        Expr::Single(v) => Some(Value::Single(*v)),
        _ => None,
    };
    let values: Vec<Value> = parts.iter().map(literal).collect::<Option<_>>()?;
    match (operation, done(operation, &values)?) {
        (
            Operation::WordToNumber | Operation::IntToNumber | Operation::Negate,
            Value::Number(v),
        ) => Some(Expr::Number(v)),
        (Operation::SingleToNumber, Value::Number(v)) => Some(Expr::Number(v)),
        (_, Value::Word(v)) => Some(Expr::Word(v)),
        (_, Value::Int(v)) => Some(Expr::Int(v)),
        (_, Value::Flag(on)) => Some(Expr::Flag(on)),
        _ => None,
    }
}
