//! The body of a function on its way to a document: its locals, its head, and the parts of what makes a lamp.

use std::cell::Cell;
use std::collections::HashSet;

use super::{LampNames, Printer};
use crate::document::Document;
use crate::ir::{
    Expr, Function, LocalId, Operation, Receiver, Statement, Type, each_expr, each_statement,
};
use crate::language::{Arguments, Pattern};
use crate::names::{Namer, cased};

/// A function that makes a lamp or a notice, part by part.
pub struct Made<'m, 'p> {
    pub(super) printer: &'m Printer<'p>,
    pub(super) function: Function,
    pub(super) apart: usize,
    pub(super) names: LampNames,
}

impl Made<'_, '_> {
    /// The statements before `apart`.
    pub fn shared(&self, indent: usize) -> Vec<String> {
        self.lines(indent, |body, function, _| body.block(&function.body[..self.apart], false))
    }

    /// The statements after it, but those that set fields.
    pub fn each(&self, indent: usize) -> Vec<String> {
        self.lines(indent, |body, function, sets| {
            body.block(&function.body[self.apart..sets], false)
        })
    }

    /// What sets the fields.
    pub fn sets(&self, indent: usize) -> Vec<String> {
        self.lines(indent, |body, function, sets| body.sets(&function.body[sets..]))
    }

    /// Its parameters as they are declared.
    pub fn parameters(&self) -> Vec<String> {
        let body = Body::of(self.printer, &self.function, &self.names);
        let language = self.printer.language;
        let all = self.function.locals.iter().zip(&body.names).take(self.function.parameters);
        all.map(|(local, name)| {
            let ty = language.type_name(local.ty);
            language.parameter.value.fill(&[("type", ty), ("name", name)])
        })
        .collect()
    }

    fn lines(
        &self,
        indent: usize,
        block: impl Fn(&Body<'_, '_>, &Function, usize) -> Vec<Document>,
    ) -> Vec<String> {
        let makes = |each: &Statement| matches!(each, Statement::Make(..));
        let sets = self.function.body.iter().position(makes).unwrap_or(self.function.body.len());
        let body = Body::of(self.printer, &self.function, &self.names);
        let width = self.printer.language.layout.width;
        let all = block(&body, &self.function, sets).into_iter();
        let all = all.map(|line| line.print(width, indent));
        let margin = " ".repeat(indent);
        all.flat_map(|text| {
            let lines = text.split('\n').map(|l| l.strip_prefix(&margin).unwrap_or(l).to_owned());
            lines.collect::<Vec<_>>()
        })
        .collect()
    }
}

/// The body of a function on its way to a document.
pub(super) struct Body<'p, 'f> {
    pub(super) printer: &'f Printer<'p>,
    pub(super) function: &'f Function,
    /// The names of its locals.
    pub(super) names: Vec<String>,
    /// The lamp that it fills.
    pub(super) lamp: &'f LampNames,
    /// Locals that may hold words of more than 32 bits.
    pub(super) loose: HashSet<LocalId>,
    /// How many blocks are open.
    pub(super) depth: Cell<usize>,
    /// Whether literals say their types, since a method is called of what is made of them alone.
    pub(super) typed: Cell<bool>,
    /// The light whose lamps it reads.
    pub(super) light: Cell<Option<usize>>,
    /// Whether many of them are read at once.
    pub(super) many: Cell<bool>,
}

impl<'p, 'f> Body<'p, 'f> {
    pub(super) fn of(
        printer: &'f Printer<'p>,
        function: &'f Function,
        lamp: &'f LampNames,
    ) -> Self {
        let language = printer.language;
        let reserved = language.names.reserved.iter().map(String::as_str);
        let mut used: Vec<String> = vec![printer.function_name(&function.name)];
        each_expr(&function.body, &mut |expr| match expr {
            Expr::Call(name, _) => used.push(printer.function_name(name)),
            Expr::Constant(name) => used.push(printer.constant_name(name)),
            Expr::Table(name, _) | Expr::TableEntry(name, ..) => {
                used.push(printer.table_name(name));
            }
            Expr::Do(operation, _) => {
                if let Some(written) = language.written.get(operation.name()) {
                    used.push(printer.function_name(&written.name));
                }
            }
            Expr::Number(_)
            | Expr::Word(_)
            | Expr::Int(_)
            | Expr::Flag(_)
            | Expr::Single(_)
            | Expr::Local(_)
            | Expr::Run(_)
            | Expr::Zeros(_)
            | Expr::Text(_)
            | Expr::Part(..)
            | Expr::Entry(..) => {}
        });
        each_statement(&function.body, &mut |statement| {
            if let Statement::Call(name, _) = statement {
                used.push(printer.function_name(name));
            }
        });
        let mut lights = Vec::new();
        let mut notice = false;
        each_statement(&function.body, &mut |statement| match statement {
            Statement::Read(at, _) | Statement::ReadAt(at, _) | Statement::ReadMany(at, ..) => {
                lights.push(*at);
            }
            Statement::EachNotice(_) => notice = true,
            _ => {}
        });
        let asked = lights.iter().filter_map(|at| printer.names.lights.get(*at));
        used.extend(asked.flat_map(|taken| [&taken.lamp_type, &taken.read, &taken.fill]).cloned());
        if !lights.is_empty() {
            used.extend(["lamp", "lamps"].map(str::to_owned));
        }
        if notice {
            used.extend(printer.names.notice.own.iter().cloned());
        }
        used.extend(printer.names.hidden.iter().chain(&lamp.own).cloned());
        let mut namer = Namer::without(reserved.chain(used.iter().map(String::as_str)));
        let name = |local: &crate::ir::Local| match &language.names.unused {
            Some(unused) if !local.used && local.ty == Type::Int => unused.clone(),
            _ => namer.take(&cased(&local.name, language.names.locals)),
        };
        let names = function.locals.iter().map(name).collect();
        let (loose, depth, typed) = (HashSet::new(), Cell::new(0), Cell::new(false));
        let (many, light) = (Cell::new(false), Cell::new(None));
        let mut body = Body { printer, function, names, lamp, loose, depth, typed, light, many };
        body.loose = body.loose_locals();
        body
    }

    /// The words that are only read where more than 32 bits are allowed.
    pub(super) fn loose_locals(&self) -> HashSet<LocalId> {
        let words = &self.printer.language.word;
        if words.mask.is_none() {
            return HashSet::new();
        }
        let ids = (0..self.function.locals.len()).map(LocalId);
        let mut loose: HashSet<LocalId> =
            ids.filter(|id| self.function.locals[id.0].ty == Type::Word).collect();
        // A local that stands anywhere but as an operand of a loose operation must be clean.
        let mut bare = |expr: &Expr| {
            if let Expr::Local(id) = expr {
                loose.remove(id);
            }
        };
        each_root(&self.function.body, &mut bare);
        each_expr(&self.function.body, &mut |expr| match expr {
            Expr::Do(operation, parts) if !self.printer.is_in(&words.loose, *operation) => {
                parts.iter().for_each(&mut bare);
            }
            Expr::Call(_, parts) => parts.iter().for_each(&mut bare),
            Expr::Entry(_, at) | Expr::TableEntry(_, _, at) => bare(at),
            Expr::Run(place) => place.index.iter().for_each(|index| bare(index)),
            Expr::Do(..)
            | Expr::Single(_)
            | Expr::Zeros(_)
            | Expr::Text(_)
            | Expr::Part(..)
            | Expr::Table(..)
            | Expr::Number(_)
            | Expr::Word(_)
            | Expr::Int(_)
            | Expr::Flag(_)
            | Expr::Local(_)
            | Expr::Constant(_) => {}
        });
        loose
    }

    /// The head of the declaration by a pattern.
    pub(super) fn head(&self, pattern: &Pattern) -> Document {
        let language = self.printer.language;
        let (declaration, indent) = (&language.declaration, language.layout.indent);
        let parameters = &self.function.locals[..self.function.parameters];
        let parameters = parameters.iter().zip(&self.names).map(|(local, name)| {
            let pattern = match (local.ty.entry(), local.changes) {
                (Some(_), _) if matches!(local.ty, Type::List | Type::Singles) => {
                    &language.parameter.list
                }
                (Some(_), _) => &language.parameter.table,
                (None, _) if matches!(local.ty, Type::Bytes | Type::Buffer) => {
                    &language.parameter.table
                }
                (None, _) if local.ty == Type::Text && language.parameter.text.is_some() => {
                    language.parameter.text.as_ref().unwrap_or(&language.parameter.value)
                }
                (None, true) => &language.parameter.changed,
                (None, false) => &language.parameter.value,
            };
            Document::text(pattern.fill(&[("type", language.type_name(local.ty)), ("name", name)]))
        });
        let function = self.function;
        let facts = [
            ("public", function.public),
            ("reads", function.receiver == Receiver::Reads),
            ("changes", function.receiver == Receiver::Changes),
            ("gives", function.result != Type::Void),
        ];
        let name = self.printer.function_name(&function.name);
        let result = language.type_name(function.result);
        // A pointer's star stands at what is pointed to by it.
        let (result, name) = match result.strip_suffix(" *") {
            Some(pointed) => (pointed, format!("*{name}")),
            None => (result, name),
        };
        let own = self.printer.names.slots.iter();
        let own: Vec<(&str, &str)> =
            own.map(|(slot, text)| (slot.as_str(), text.as_str())).collect();
        // What a slot of the head stands for.
        let slot = |slot: &str| -> String {
            let fact = facts.iter().find(|(fact, _)| *fact == slot);
            match (fact, declaration.when.get(slot)) {
                (Some((_, is)), Some([yes, no])) => {
                    let mut values = own.clone();
                    values.push(("result", result));
                    if *is { yes.fill(&values) } else { no.fill(&values) }
                }
                _ => own.iter().find(|(own, _)| *own == slot).map_or("", |(_, t)| t).to_owned(),
            }
        };
        let run = language.parameter.run.as_ref().filter(|_| function.receiver != Receiver::None);
        let run =
            run.map(|pattern| pattern.document(indent, false, |name| Document::text(slot(name))));
        let parameters: Vec<Document> = run.into_iter().chain(parameters).collect();
        let count = parameters.len();
        let parameters = self.listed(parameters);
        let head = pattern.document(indent, false, |asked| match asked {
            "name" => Document::text(name.clone()),
            "result" => Document::text(result),
            "parameters" => parameters.clone(),
            asked => Document::text(slot(asked)),
        });
        match &declaration.many_parameters {
            Some((most, before)) if count > *most => {
                Document::Parts(vec![Document::text(before.clone()), Document::Line, head])
            }
            _ => head,
        }
    }

    pub(super) fn document(&self) -> Document {
        let language = self.printer.language;
        let (declaration, indent) = (&language.declaration, language.layout.indent);
        let open = declaration.open.as_ref().filter(|_| self.function.public);
        let head = self.head(match self.function.receiver {
            Receiver::None => open.unwrap_or(&declaration.function),
            Receiver::Reads | Receiver::Changes => &declaration.method,
        });
        let block = self.block(&self.function.body, true);
        let mut inner = Document::joined(block, &Document::Line);
        if let (Some([open, close]), true) = (&language.statement.wrapping, self.wraps()) {
            let lines = open.split('\n').map(Document::text);
            inner = Document::Parts(vec![
                Document::joined(lines, &Document::Line),
                Document::Parts(vec![Document::Line, inner]).indented(indent),
                Document::Line,
                Document::text(close.clone()),
            ]);
        }
        let mut parts = vec![head, Document::Parts(vec![Document::Line, inner]).indented(indent)];
        if !declaration.function_end.is_empty() {
            parts.extend([Document::Line, Document::text(declaration.function_end.clone())]);
        }
        Document::Parts(parts)
    }

    /// Whether any of its arithmetic wraps.
    pub(super) fn wraps(&self) -> bool {
        let wrapping = [
            Operation::WordAdd,
            Operation::WordSubtract,
            Operation::WordMultiply,
            Operation::NumberToWord,
        ];
        let mut found = false;
        each_expr(&self.function.body, &mut |expr| {
            found |= matches!(expr, Expr::Do(operation, _) if wrapping.contains(operation));
        });
        found || assigns(&self.function.body, &wrapping)
    }

    /// A list of parameters or arguments.
    pub(super) fn listed(&self, parts: Vec<Document>) -> Document {
        let layout = &self.printer.language.layout;
        if parts.is_empty() {
            return Document::Parts(Vec::new());
        }
        match layout.arguments {
            Arguments::Filled => Document::filled(parts).indented(layout.indent),
            Arguments::Each => {
                let comma = Document::Parts(vec![Document::text(","), Document::Blank]);
                let list = Document::joined(parts, &comma);
                let inner = vec![Document::Joint, list, Document::Broken(",".to_owned())];
                let inner = Document::Parts(inner).indented(layout.indent);
                Document::Parts(vec![inner, Document::Joint]).group()
            }
        }
    }
}

/// Whether any assignment of a block is to one of these operations of itself.
fn assigns(block: &[Statement], operations: &[Operation]) -> bool {
    let mut found = false;
    each_statement(block, &mut |statement| {
        if let Statement::Assign(_, Some(operation), _) = statement {
            found |= operations.contains(operation);
        }
    });
    found
}

/// Visits the expressions of statements, but not their parts.
fn each_root<'e>(block: &'e [Statement], visit: &mut impl FnMut(&'e Expr)) {
    each_statement(block, &mut |statement| statement.each_value(&mut *visit));
}
