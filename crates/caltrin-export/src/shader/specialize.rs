//! Specialization for shading languages, which have neither table arguments nor, in WGSL, mutable parameters.

use std::collections::BTreeMap;

use crate::ir::fold::{fold, prune};
use crate::ir::{Expr, Function, LocalId, Module, Statement, Type, mark};

/// Makes a copy of each function for each set of tables that is passed to it, and drops unused parameters.
pub(super) struct Specializer<'m> {
    /// The functions before specialization.
    from: &'m Module,
    /// The specialized functions, callees first.
    pub made: Vec<Function>,
    /// For each specialized function, which of its parameters are used; tables not counted.
    used: BTreeMap<String, Vec<bool>>,
}

impl<'m> Specializer<'m> {
    /// Starts with the functions of a module.
    pub fn of(from: &'m Module) -> Self {
        Specializer { from, made: Vec::new(), used: BTreeMap::new() }
    }

    /// Specializes a function and everything that it calls. `given` are the tables that replace parameters.
    pub fn function(&mut self, function: &Function, given: &BTreeMap<LocalId, String>) -> Function {
        let mut function = function.clone();
        let mut body = std::mem::take(&mut function.body);
        self.block(&mut body, given);
        function.body = body;
        let kept: Vec<usize> =
            (0..function.locals.len()).filter(|n| !given.contains_key(&LocalId(*n))).collect();
        let places: BTreeMap<usize, usize> =
            kept.iter().enumerate().map(|(place, n)| (*n, place)).collect();
        function.parameters -= given.len();
        function.locals = kept.iter().map(|n| function.locals[*n].clone()).collect();
        function.renumber(&|id| LocalId(places[&id.0]));
        fold(&mut function);
        prune(&mut function);
        own_parameters(&mut function);
        function
    }

    fn block(&mut self, block: &mut [Statement], given: &BTreeMap<LocalId, String>) {
        for statement in block {
            statement.each_value_mut(&mut |value| self.value(value, given));
            statement.each_block_mut(&mut |inner| self.block(inner, given));
        }
    }

    fn value(&mut self, expr: &mut Expr, given: &BTreeMap<LocalId, String>) {
        expr.each_child_mut(&mut |child| self.value(child, given));
        match expr {
            Expr::Local(id) => {
                if let Some(table) = given.get(id) {
                    *expr = Expr::Table(table.clone(), Type::Numbers);
                }
            }
            Expr::Entry(id, at) => {
                if let Some(table) = given.get(id) {
                    let entries = self.from.table(table).map(|table| table.entries.ty());
                    let ty = entries.unwrap_or(Type::Numbers);
                    *expr = Expr::TableEntry(table.clone(), ty, at.clone());
                }
            }
            Expr::Call(name, parts) => self.called(name, parts),
            _ => {}
        }
    }

    /// Specializes a callee and removes tables and unused values from the arguments.
    fn called(&mut self, name: &mut String, parts: &mut Vec<Expr>) {
        let Some(function) = self.from.function(name) else { return };
        let tables = parts.iter().enumerate().filter_map(|(n, part)| match part {
            Expr::Table(table, _) => Some((LocalId(n), table.clone())),
            _ => None,
        });
        let tables: BTreeMap<LocalId, String> = tables.collect();
        let mut own: Vec<&str> = tables.values().map(String::as_str).collect();
        own.dedup();
        let wanted = match own.as_slice() {
            [] => name.clone(),
            own => format!("{name}_of_{}", own.join("_")),
        };
        if self.made.iter().all(|made| made.name != wanted) {
            let mut made = self.function(function, &tables);
            made.name.clone_from(&wanted);
            let used = made.locals[..made.parameters].iter().map(|local| local.used);
            let used: Vec<bool> = used.collect();
            let places: Vec<usize> =
                (0..made.locals.len()).filter(|n| used.get(*n) != Some(&false)).collect();
            made.parameters = used.iter().filter(|used| **used).count();
            made.locals = places.iter().map(|n| made.locals[*n].clone()).collect();
            made.renumber(&|id| {
                LocalId(places.iter().position(|n| *n == id.0).unwrap_or_default())
            });
            self.used.insert(wanted.clone(), used);
            self.made.push(made);
        }
        parts.retain(|part| !matches!(part, Expr::Table(..)));
        let mut used = self.used[&wanted].iter();
        parts.retain(|_| used.next() == Some(&true));
        *name = wanted;
    }
}

/// Copies each parameter that is assigned to into a local.
fn own_parameters(function: &mut Function) {
    mark(function);
    let changed = (0..function.parameters).filter(|n| function.locals[*n].changes);
    let changed: Vec<usize> = changed.collect();
    for n in changed {
        let own = LocalId(function.locals.len());
        function.locals.push(function.locals[n].clone());
        function.renumber(&|id| if id.0 == n { own } else { id });
        function.body.insert(0, Statement::Let(own, Expr::Local(LocalId(n))));
    }
    mark(function);
}
