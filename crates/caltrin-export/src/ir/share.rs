//! Common subexpressions: what a function computes twice gets a name, where it is computed in any case and nothing that
//! it is made of changes before it is used again.

use std::collections::{HashMap, HashSet};
use std::hash::{Hash, Hasher};

use rustc_hash::FxHasher;

use super::{
    Expr, Function, Local, LocalId, Module, Operation, Receiver, Statement, each_expr, each_part,
    each_statement,
};

/// What is known of the functions that are called, and how values are named.
pub struct Sharing<'s> {
    /// Functions by their names.
    pub module: &'s Module,
    /// The name of what an expression gives, words joined by `_`.
    pub name: &'s dyn Fn(&Expr) -> String,
}

/// Names what is computed twice. `apart` is a place in the outermost block; it is given as it is afterwards.
pub fn share(function: &mut Function, sharing: &Sharing<'_>, apart: usize) -> usize {
    let mut body = std::mem::take(&mut function.body);
    let mut locals = std::mem::take(&mut function.locals);
    let mut sharer = Sharer { sharing, locals: &mut locals };
    let apart = sharer.block(&mut body, apart);
    (function.body, function.locals) = (body, locals);
    super::mark(function);
    apart
}

struct Sharer<'s, 'l> {
    sharing: &'s Sharing<'s>,
    locals: &'l mut Vec<Local>,
}

/// An expression that was met.
struct Found<'e> {
    expr: &'e Expr,
    /// How often.
    count: usize,
    /// The statements in which it stands first and last.
    first: usize,
    last: usize,
    /// Whether the first statement computes it in any case.
    sure: bool,
    /// How many nodes it has.
    size: usize,
}

impl Sharer<'_, '_> {
    fn block(&mut self, block: &mut Vec<Statement>, mut apart: usize) -> usize {
        while let Some((at, last, expr)) = self.next(block) {
            // It may have a name already.
            if let Statement::Let(id, value) = &block[at]
                && *value == expr
                && !self.locals[id.0].changes
            {
                let id = *id;
                block[at + 1..=last].iter_mut().for_each(|each| replace(each, &expr, id));
                apart -= self.join(block, apart);
                continue;
            }
            let ty = self.type_of(&expr);
            let name = (self.sharing.name)(&expr);
            let id = LocalId(self.locals.len());
            self.locals.push(Local { name, ty, changes: false, used: true });
            for statement in &mut block[at..=last] {
                replace(statement, &expr, id);
            }
            // What sets the fields of a lamp stays together.
            let makes = block[..at].iter().position(|each| matches!(each, Statement::Make(..)));
            let at = makes.unwrap_or(at);
            apart += usize::from(at < apart);
            block.insert(at, Statement::Let(id, expr));
        }
        for statement in block {
            // Each case of a switch is one statement on its line.
            if !matches!(statement, Statement::Switch(..)) {
                statement.each_block_mut(&mut |inner| {
                    self.block(inner, 0);
                });
            }
        }
        apart
    }

    /// Names for what has a name are left out; how many of them stood before a place.
    fn join(&self, block: &mut Vec<Statement>, apart: usize) -> usize {
        let (mut at, mut before) = (0, 0);
        while at < block.len() {
            if let Statement::Let(id, Expr::Local(other)) = block[at]
                && !self.locals[id.0].changes
                && !self.locals[other.0].changes
            {
                block.remove(at);
                let own = Expr::Local(id);
                block[at..].iter_mut().for_each(|each| replace(each, &own, other));
                before += usize::from(at + before < apart);
                continue;
            }
            at += 1;
        }
        before
    }

    fn type_of(&self, expr: &Expr) -> super::Type {
        let function = Function {
            name: String::new(),
            about: String::new(),
            receiver: Receiver::None,
            public: false,
            parameters: 0,
            locals: self.locals.clone(),
            result: super::Type::Void,
            body: Vec::new(),
        };
        self.sharing.module.type_of(expr, &function)
    }

    /// The largest expression of a block that is worth a name: where the name goes, where it is last used, and what it is.
    fn next(&self, block: &[Statement]) -> Option<(usize, usize, Expr)> {
        let mut met = Vec::new();
        for (at, statement) in block.iter().enumerate() {
            of_statement(statement, at, true, &mut met);
        }
        let mut found: HashMap<u64, Found<'_>> = HashMap::new();
        let mut order: Vec<u64> = Vec::new();
        for Met { expr, hash, at, sure, size } in met {
            let known = found.entry(hash).or_insert_with(|| {
                order.push(hash);
                Found { expr, count: 0, first: at, last: at, sure: false, size }
            });
            known.count += 1;
            known.last = at;
            known.sure |= sure && at == known.first;
        }
        let candidates = order.iter().map(|hash| &found[hash]);
        let candidates = candidates.filter(|one| one.count > 1 && one.sure);
        let worth = candidates.filter(|one| self.is_worth(one.expr) && self.holds(block, one));
        // The first of the largest.
        let best = worth.fold(None, |best: Option<&Found<'_>>, one| match best {
            Some(best) if best.size >= one.size => Some(best),
            _ => Some(one),
        })?;
        Some((best.first, best.last, best.expr.clone()))
    }

    /// Whether a name says more than the expression itself.
    fn is_worth(&self, expr: &Expr) -> bool {
        use Operation as Op;
        let plain = |expr: &Expr| match expr {
            Expr::Do(Op::Negate | Op::WordToNumber | Op::IntToNumber | Op::WordToInt, parts) => {
                matches!(parts[0], Expr::Local(_) | Expr::Number(_))
            }
            Expr::Number(_)
            | Expr::Word(_)
            | Expr::Int(_)
            | Expr::Flag(_)
            | Expr::Single(_)
            | Expr::Local(_)
            | Expr::Constant(_)
            | Expr::Part(..)
            | Expr::Text(_) => true,
            Expr::Run(place) => place.index.is_none(),
            Expr::Do(..)
            | Expr::Table(..)
            | Expr::Call(..)
            | Expr::Entry(..)
            | Expr::TableEntry(..)
            | Expr::Zeros(_) => false,
        };
        match expr {
            Expr::Do(operation, parts) => match operation {
                Op::Equal
                | Op::Unequal
                | Op::Less
                | Op::AtMost
                | Op::Greater
                | Op::AtLeast
                | Op::And
                | Op::Or
                | Op::Not
                | Op::Outside
                | Op::Negate
                | Op::WordToNumber
                | Op::IntToNumber
                | Op::WordToInt
                | Op::SingleToNumber => !parts.iter().all(plain),
                _ => true,
            },
            Expr::Call(..) => true,
            Expr::Entry(_, at) | Expr::TableEntry(_, _, at) => !plain(at),
            _ => false,
        }
    }

    /// Whether the expression has its value from its first use to its last: its locals are there and stay, and so does
    /// what it reads of the run.
    fn holds(&self, block: &[Statement], found: &Found<'_>) -> bool {
        let (mut locals, mut of_run, mut lists) = (HashSet::new(), false, false);
        each_part(found.expr, &mut |part| match part {
            Expr::Local(id) => drop(locals.insert(*id)),
            Expr::Entry(id, _) => {
                lists |= self.locals[id.0].ty == super::Type::List;
                locals.insert(*id);
            }
            Expr::Run(_) => of_run = true,
            Expr::Call(name, _) => match self.sharing.module.signature(name) {
                Some((Receiver::None, _)) => {}
                _ => of_run = true,
            },
            Expr::Part(..) | Expr::Zeros(_) => lists = true,
            _ => {}
        });
        // What was read may be read again, and lists are filled.
        if lists {
            return false;
        }
        let changes_run = |statement: &Statement| {
            let mut changes = false;
            each_statement(std::slice::from_ref(statement), &mut |each| {
                changes |= matches!(
                    each,
                    Statement::Set(..)
                        | Statement::Restart(_)
                        | Statement::Call(..)
                        | Statement::EachNotice(_)
                );
            });
            each_expr(std::slice::from_ref(statement), &mut |expr| {
                if let Expr::Call(name, _) = expr {
                    let receiver = self.sharing.module.signature(name).map(|(of, _)| of);
                    changes |= receiver == Some(Receiver::Changes);
                }
            });
            changes
        };
        let touches = |statement: &Statement| {
            let mut touched = false;
            each_statement(std::slice::from_ref(statement), &mut |each| match each {
                Statement::Let(id, _) | Statement::Assign(id, ..) | Statement::For(id, ..) => {
                    touched |= locals.contains(id);
                }
                _ => {}
            });
            touched || (of_run && changes_run(statement))
        };
        (found.first..=found.last).all(|at| {
            // A plain statement changes what it changes after it has computed its value.
            let plain = matches!(
                block[at],
                Statement::Let(..)
                    | Statement::Assign(..)
                    | Statement::Set(..)
                    | Statement::Make(..)
                    | Statement::Return(_)
            );
            if plain && at == found.last {
                let calls = of_run && {
                    let mut changes = false;
                    each_expr(std::slice::from_ref(&block[at]), &mut |expr| {
                        if let Expr::Call(name, _) = expr {
                            let receiver = self.sharing.module.signature(name).map(|(of, _)| of);
                            changes |= receiver == Some(Receiver::Changes);
                        }
                    });
                    changes
                };
                // The local that is set may not be one that the value is made of.
                let own = match &block[at] {
                    Statement::Let(id, _) | Statement::Assign(id, ..) => locals.contains(id),
                    _ => false,
                };
                return !calls && !own;
            }
            !touches(&block[at])
        })
    }
}

/// An expression where it stands.
struct Met<'e> {
    expr: &'e Expr,
    hash: u64,
    at: usize,
    sure: bool,
    size: usize,
}

fn of_statement<'e>(statement: &'e Statement, at: usize, sure: bool, met: &mut Vec<Met<'e>>) {
    statement.each_block(&mut |block| {
        block.iter().for_each(|each| of_statement(each, at, false, met));
    });
    // A condition is asked again after what the loop changes.
    let sure = sure && !matches!(statement, Statement::While(..));
    statement.each_value(&mut |value| {
        of_expr(value, at, sure, met);
    });
}

/// Meets an expression after its parts; its hash, and how many nodes it has.
fn of_expr<'e>(expr: &'e Expr, at: usize, sure: bool, met: &mut Vec<Met<'e>>) -> (u64, usize) {
    let mut hasher = FxHasher::default();
    std::mem::discriminant(expr).hash(&mut hasher);
    let mut size = 1;
    let mut part = |part: &'e Expr, sure: bool, hasher: &mut FxHasher, met: &mut Vec<Met<'e>>| {
        let (hash, nodes) = of_expr(part, at, sure, met);
        hash.hash(hasher);
        size += nodes;
    };
    match expr {
        Expr::Number(v) => v.to_bits().hash(&mut hasher),
        Expr::Single(v) => v.to_bits().hash(&mut hasher),
        Expr::Word(v) | Expr::Int(v) | Expr::Zeros(v) => v.hash(&mut hasher),
        Expr::Flag(on) => on.hash(&mut hasher),
        Expr::Local(id) => id.hash(&mut hasher),
        Expr::Constant(name) | Expr::Text(name) => name.hash(&mut hasher),
        Expr::Table(name, ty) => (name, ty).hash(&mut hasher),
        Expr::Part(record, field, of, ty) => (record, field, of, ty).hash(&mut hasher),
        Expr::Run(place) => {
            (&place.field, place.part, place.ty).hash(&mut hasher);
            if let Some(index) = &place.index {
                part(index, sure, &mut hasher, met);
            }
        }
        Expr::Entry(id, index) => {
            id.hash(&mut hasher);
            part(index, sure, &mut hasher, met);
        }
        Expr::TableEntry(name, ty, index) => {
            (name, ty).hash(&mut hasher);
            part(index, sure, &mut hasher, met);
        }
        Expr::Do(operation, parts) => {
            operation.hash(&mut hasher);
            for (n, each) in parts.iter().enumerate() {
                let lazy = matches!(operation, Operation::Select | Operation::And | Operation::Or);
                part(each, sure && !(lazy && n > 0), &mut hasher, met);
            }
        }
        Expr::Call(name, parts) => {
            name.hash(&mut hasher);
            parts.iter().for_each(|each| part(each, sure, &mut hasher, met));
        }
    }
    let hash = hasher.finish();
    met.push(Met { expr, hash, at, sure, size });
    (hash, size)
}

/// A local stands for an expression in a statement.
fn replace(statement: &mut Statement, expr: &Expr, id: LocalId) {
    statement.each_value_mut(&mut |value| replace_in(value, expr, id));
    statement.each_block_mut(&mut |block| {
        block.iter_mut().for_each(|each| replace(each, expr, id));
    });
}

fn replace_in(own: &mut Expr, expr: &Expr, id: LocalId) {
    if own == expr {
        *own = Expr::Local(id);
    } else {
        own.each_child_mut(&mut |child| replace_in(child, expr, id));
    }
}
