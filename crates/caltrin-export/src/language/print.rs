//! Prints functions of the tree in a language.

use std::cell::Cell;
use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};

use super::pattern::{Around, Piece};
use super::{Arguments, Language, Operator, Pattern};
use crate::document::{Document, paragraph};
use crate::ir::{
    Expr, Function, LocalId, Module, Operation, Receiver, RunField, Statement, Type, each_expr,
    each_statement,
};
use crate::names::{Namer, cased};
use crate::number;

/// What binds tightest: names, literals and calls.
const TIGHTEST: u8 = 100;

/// An expression with how tightly it binds, and which operation it is.
struct Bound {
    document: Document,
    level: u8,
    operation: Option<Operation>,
    /// Of an operator: the same where it continues the operator around it.
    flat: Option<Document>,
}

/// What things of a file are called whose names are not those of the tree.
#[derive(Clone, Debug, Default)]
pub struct GivenNames {
    /// Functions by their names in the module.
    pub functions: HashMap<String, String>,
    /// Fields of the run by theirs, with the names of their parts.
    pub fields: HashMap<String, (String, Vec<String>)>,
    /// Tables by theirs.
    pub tables: HashMap<String, String>,
    /// Names that no local has, since they would hide a field that is reached by its name alone.
    pub hidden: Vec<String>,
    /// What stands in slots of declarations that are the file's own, such as `{run}`.
    pub slots: Vec<(&'static str, String)>,
}

/// What a lamp is called that a function reads, and its fields with the names of their parts.
#[derive(Clone, Debug, Default)]
pub struct LampNames {
    /// The lamp.
    pub lamp: String,
    /// Its fields.
    pub fields: Vec<(String, Vec<String>)>,
    /// The parameters of the function that reads it, and what else it calls by a name of its own.
    pub own: Vec<String>,
}

/// Prints the functions of a module in a language.
pub struct Printer<'p> {
    language: &'p Language,
    module: &'p Module,
    /// Stands before the names of functions and constants.
    prefix: &'p str,
    /// How much the first line of each declaration is indented.
    indent: usize,
    /// Operations by their names in a language file.
    operations: BTreeMap<String, Operation>,
    names: GivenNames,
}

impl<'p> Printer<'p> {
    /// A printer for a file whose names begin with `prefix`, and whose lines are indented by so many columns.
    pub fn new(language: &'p Language, module: &'p Module, prefix: &'p str, indent: usize) -> Self {
        let operations = Operation::ALL.iter();
        let operations = operations.map(|operation| (operation.name().to_owned(), *operation));
        let (operations, names) = (operations.collect(), GivenNames::default());
        Printer { language, module, prefix, indent, operations, names }
    }

    /// The same with names of the file's own.
    pub fn named_by(self, names: GivenNames) -> Self {
        Printer { names, ..self }
    }

    /// What a function is called.
    pub fn function_name(&self, name: &str) -> String {
        if let Some(given) = self.names.functions.get(name) {
            return given.clone();
        }
        let before = self.language.names.before.fill(&[("prefix", self.prefix)]);
        format!("{before}{}", cased(name, self.language.names.functions))
    }

    /// What a constant is called.
    pub fn constant_name(&self, name: &str) -> String {
        let before = self.language.names.before.fill(&[("prefix", self.prefix)]);
        cased(&format!("{before}{name}"), self.language.names.constants)
    }

    /// What a function needs besides the module's: operations that are written in the language itself.
    pub fn written(&self, function: &Function) -> BTreeSet<Operation> {
        let mut needed = BTreeSet::new();
        each_expr(&function.body, &mut |expr| {
            if let Expr::Do(operation, _) = expr
                && self.language.written.contains_key(operation.name())
            {
                needed.insert(*operation);
            }
        });
        needed
    }

    /// The text of an operation that is written in the language itself.
    pub fn print_written(&self, operation: Operation) -> String {
        let Some(written) = self.language.written.get(operation.name()) else {
            return String::new();
        };
        let name = self.function_name(&written.name);
        let text = written.text.fill(&[("name", &name)]);
        let lines = text.trim_end().split('\n').map(Document::text);
        let body = Document::joined(lines, &Document::Line);
        self.declared(&written.about, &[], body)
    }

    /// A constant.
    pub fn print_constant(&self, name: &str) -> String {
        let Some(constant) = self.module.constant(name) else { return String::new() };
        let value = match &constant.value {
            Expr::Number(v) => {
                self.language.literal.number.fill(&[("digits", &number::double(*v))])
            }
            Expr::Word(v) => self.language.literal.word.fill(&[("digits", &number::word(*v))]),
            _ => String::new(),
        };
        let name = self.constant_name(&constant.name);
        let ty = self.language.type_name(constant.ty);
        let text = self.language.declaration.constant.fill(&[
            ("type", ty),
            ("name", &name),
            ("value", &value),
        ]);
        self.declared(&constant.about, &[], Document::text(text))
    }

    /// A function.
    pub fn print_function(&self, function: &Function) -> String {
        let lamp = LampNames::default();
        let body = Body::of(self, function, &lamp);
        let tags = self.tags(&body);
        self.declared(&function.about, &tags, body.document())
    }

    /// The statements of a light's function: those before `lamp`, those after it, and what sets the fields of the
    /// lamp, each so many columns in.
    pub fn print_light(
        &self,
        function: &Function,
        lamp: usize,
        names: &LampNames,
        depths: [usize; 3],
    ) -> [String; 3] {
        let body = Body::of(self, function, names);
        let sets = function.body.iter().position(|each| matches!(each, Statement::Lamp(..)));
        let sets = sets.unwrap_or(function.body.len());
        let blocks = [
            body.block(&function.body[..lamp], false),
            body.block(&function.body[lamp..sets], false),
            body.sets(&function.body[sets..]),
        ];
        let mut texts = blocks.into_iter().zip(depths).map(|(lines, depth)| {
            let lines = lines.into_iter().map(|line| {
                let text = line.print(self.language.layout.width, depth);
                format!("{}{text}\n", " ".repeat(depth))
            });
            lines.collect::<String>()
        });
        std::array::from_fn(|_| texts.next().unwrap_or_default())
    }

    /// A declaration with its comment, on lines of their own.
    fn declared(&self, about: &str, tags: &[String], declaration: Document) -> String {
        let comment = &self.language.comment;
        let (width, margin) = (self.language.layout.width, " ".repeat(self.indent));
        let mut out = String::new();
        if !about.is_empty() || !tags.is_empty() {
            let room = width.saturating_sub(self.indent + comment.close.len());
            let replaced = comment.replace.iter();
            let about = replaced.fold(about.to_owned(), |text, (from, to)| text.replace(from, to));
            let mut lines = paragraph(&about, &comment.open, &comment.next, room);
            for tag in tags {
                let line = lines.last_mut().expect("a paragraph has a line");
                let joint = if line.ends_with(' ') { "" } else { " " };
                if line.chars().count() + joint.len() + tag.chars().count() <= room {
                    line.push_str(joint);
                    line.push_str(tag);
                } else {
                    lines.push(format!("{}{tag}", comment.next));
                }
            }
            let last = lines.last_mut().expect("a paragraph has a line");
            last.push_str(&comment.close);
            for line in lines {
                out.push_str(&format!("{margin}{}\n", line.trim_end()));
            }
        }
        out.push_str(&margin);
        out.push_str(&declaration.print(width, self.indent));
        out.push('\n');
        out
    }

    /// What a comment says about parameters and result.
    fn tags(&self, body: &Body<'_, '_>) -> Vec<String> {
        let comment = &self.language.comment;
        let mut tags = Vec::new();
        if body.function.receiver != Receiver::None {
            tags.extend(comment.run.clone());
        }
        if let Some(pattern) = &comment.parameter {
            let parameters = body.function.locals.iter().zip(&body.names);
            for (local, name) in parameters.take(body.function.parameters) {
                let ty = self.language.type_name(local.ty);
                tags.push(pattern.fill(&[("type", ty), ("name", name)]));
            }
        }
        let gives = body.function.result != Type::Void;
        if let Some(pattern) = comment.result.as_ref().filter(|_| gives) {
            tags.push(pattern.fill(&[("type", self.language.type_name(body.function.result))]));
        }
        tags
    }

    fn table_name(&self, name: &str) -> String {
        self.names.tables.get(name).cloned().unwrap_or_else(|| name.to_owned())
    }

    fn named(&self, name: &str) -> Option<Operation> {
        self.operations.get(name).copied()
    }

    fn is_in(&self, set: &[String], operation: Operation) -> bool {
        set.iter().any(|name| self.named(name) == Some(operation))
    }
}

/// The body of a function on its way to a document.
struct Body<'p, 'f> {
    printer: &'f Printer<'p>,
    function: &'f Function,
    /// The names of its locals.
    names: Vec<String>,
    /// The lamp that it fills.
    lamp: &'f LampNames,
    /// Locals that may hold words of more than 32 bits.
    loose: HashSet<LocalId>,
    /// How many blocks are open.
    depth: Cell<usize>,
    /// Whether literals say their types, since a method is called of what is made of them alone.
    typed: Cell<bool>,
}

impl<'p, 'f> Body<'p, 'f> {
    fn of(printer: &'f Printer<'p>, function: &'f Function, lamp: &'f LampNames) -> Self {
        let language = printer.language;
        let reserved = language.names.reserved.iter().map(String::as_str);
        let mut used: Vec<String> = vec![printer.function_name(&function.name)];
        each_expr(&function.body, &mut |expr| match expr {
            Expr::Call(name, _) => used.push(printer.function_name(name)),
            Expr::Constant(name) => used.push(printer.constant_name(name)),
            Expr::Table(name, _) => used.push(printer.table_name(name)),
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
            | Expr::Entry(..) => {}
        });
        each_statement(&function.body, &mut |statement| {
            if let Statement::Call(name, _) = statement {
                used.push(printer.function_name(name));
            }
        });
        used.extend(printer.names.hidden.iter().chain(&lamp.own).cloned());
        let mut namer = Namer::without(reserved.chain(used.iter().map(String::as_str)));
        let name = |local: &crate::ir::Local| match &language.names.unused {
            Some(unused) if !local.used && local.ty == Type::Int => unused.clone(),
            _ => namer.take(&cased(&local.name, language.names.locals)),
        };
        let names = function.locals.iter().map(name).collect();
        let (loose, depth, typed) = (HashSet::new(), Cell::new(0), Cell::new(false));
        let mut body = Body { printer, function, names, lamp, loose, depth, typed };
        body.loose = body.loose_locals();
        body
    }

    /// The words that are only read where more than 32 bits are allowed.
    fn loose_locals(&self) -> HashSet<LocalId> {
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
            Expr::Entry(_, at) => bare(at),
            Expr::Run(place) => place.index.iter().for_each(|index| bare(index)),
            Expr::Do(..)
            | Expr::Single(_)
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

    fn document(&self) -> Document {
        let language = self.printer.language;
        let (declaration, indent) = (&language.declaration, language.layout.indent);
        let parameters = &self.function.locals[..self.function.parameters];
        let parameters = parameters.iter().zip(&self.names).map(|(local, name)| {
            let pattern = match (local.ty.entry(), local.changes) {
                (Some(_), _) => &language.parameter.table,
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
        let own = self.printer.names.slots.iter();
        let own: Vec<(&str, &str)> = own.map(|(slot, text)| (*slot, text.as_str())).collect();
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
        let pattern = match function.receiver {
            Receiver::None => &declaration.function,
            Receiver::Reads | Receiver::Changes => &declaration.method,
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
        let head = match &declaration.many_parameters {
            Some((most, before)) if count > *most => {
                Document::Parts(vec![Document::text(before.clone()), Document::Line, head])
            }
            _ => head,
        };
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
    fn wraps(&self) -> bool {
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
    fn listed(&self, parts: Vec<Document>) -> Document {
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

    fn block(&self, block: &[Statement], last: bool) -> Vec<Document> {
        let ends = block.len().saturating_sub(1);
        self.depth.set(self.depth.get() + 1);
        let lines = block.iter().enumerate();
        let lines = lines.map(|(n, each)| self.statement(each, last && n == ends)).collect();
        self.depth.set(self.depth.get() - 1);
        lines
    }

    fn statement(&self, statement: &Statement, last: bool) -> Document {
        let language = self.printer.language;
        let patterns = &language.statement;
        let name = |local: LocalId| Document::text(self.names[local.0].clone());
        match statement {
            Statement::Let(local, value) => {
                let kept = &self.function.locals[local.0];
                let literal = self.is_literal(value);
                let pattern = match (kept.changes, literal) {
                    (false, true) => patterns.let_literal.as_ref().unwrap_or(&patterns.keep),
                    (false, false) => &patterns.keep,
                    (true, true) => {
                        let literal = patterns.let_changed_literal.as_ref();
                        literal.unwrap_or(&patterns.let_changed)
                    }
                    (true, false) => &patterns.let_changed,
                };
                let value = self.value_for(*local, value);
                self.filled(pattern, |slot| match slot {
                    "name" => name(*local),
                    "type" => Document::text(language.type_name(kept.ty)),
                    _ => value.clone(),
                })
            }
            Statement::Assign(local, None, Expr::Do(operation, parts))
                if parts.first() == Some(&Expr::Local(*local))
                    && patterns.assign_to.contains_key(operation.name())
                    && parts.len() == 2 =>
            {
                let joined = Statement::Assign(*local, Some(*operation), parts[1].clone());
                self.statement(&joined, last)
            }
            Statement::Assign(local, operation, value) => {
                let whole = match operation {
                    None => value.clone(),
                    Some(operation) => {
                        Expr::Do(*operation, vec![Expr::Local(*local), value.clone()])
                    }
                };
                let joint = operation.and_then(|o| patterns.assign_to.get(o.name()));
                let (pattern, value) = match joint {
                    Some(pattern) if self.may_join(*local, operation) => {
                        (pattern, self.expr(value).document)
                    }
                    // Written out, so that it is not joined again.
                    _ => (&patterns.assign, self.value_for(*local, &whole)),
                };
                self.filled(pattern, |slot| match slot {
                    "target" => name(*local),
                    _ => value.clone(),
                })
            }
            Statement::If(condition, then, other) => self.choice(condition, then, other, last),
            Statement::While(condition, body) => {
                let condition = self.expr(condition).document;
                let head = self.filled(&patterns.repeat, |_| condition.clone());
                self.closed(vec![(head, self.block(body, false))])
            }
            Statement::For(counter, from, to, body) => {
                let (from, to) = (self.expr(from), self.expr(to));
                let head = self.filled(&patterns.each, |slot| match slot {
                    "name" => name(*counter),
                    "from" => from.document.clone(),
                    _ => to.document.clone(),
                });
                self.closed(vec![(head, self.block(body, false))])
            }
            Statement::Break => Document::text(patterns.leave.clone()),
            Statement::Stop => Document::text(patterns.stop.clone()),
            Statement::Call(name, parts) => {
                let call = self.called_function(name, parts).document;
                self.filled(&patterns.call, |_| call.clone())
            }
            Statement::Set(place, operation, value) => self.set(place, operation, value),
            Statement::Lamp(field, part, value) => {
                let value = self.expr(value).document;
                let (name, suffixes) = &self.lamp.fields[*field];
                let patterns = &language.lamp;
                let pattern = if suffixes.is_empty() { &patterns.field } else { &patterns.part };
                self.filled(pattern, |slot| match slot {
                    "lamp" => Document::text(self.lamp.lamp.clone()),
                    "field" => Document::text(name.clone()),
                    "part" => Document::text(part.to_string()),
                    "suffix" => Document::text(suffixes.get(*part).cloned().unwrap_or_default()),
                    _ => value.clone(),
                })
            }
            Statement::Switch(value, cases) => {
                let value = self.expr(value).document;
                let [open, close] = &patterns.switch;
                let mut lines = Vec::new();
                for (n, case) in cases.iter().enumerate() {
                    let last = n + 1 == cases.len();
                    let pattern = if last { &patterns.case_last } else { &patterns.case };
                    let statement = self.statement(case, false);
                    lines.push(self.filled(pattern, |slot| match slot {
                        "number" => Document::text(n.to_string()),
                        _ => statement.clone(),
                    }));
                }
                let inner = Document::joined(lines, &Document::Line);
                let inner = Document::Parts(vec![Document::Line, inner]);
                Document::Parts(vec![
                    self.filled(open, |_| value.clone()),
                    inner.indented(language.layout.indent),
                    Document::Line,
                    self.filled(close, |_| Document::text("")),
                ])
            }
            Statement::Return(value) => {
                let pattern = match (&patterns.return_last, last) {
                    (Some(pattern), true) => pattern,
                    _ => &patterns.give,
                };
                let value = self.expr(value).document;
                self.filled(pattern, |_| value.clone())
            }
        }
    }

    /// What sets the fields of the lamp.
    fn sets(&self, block: &[Statement]) -> Vec<Document> {
        let Some(pattern) = &self.printer.language.lamp.parts else {
            return self.block(block, false);
        };
        let mut lines = Vec::new();
        let mut rest = block;
        while let [Statement::Lamp(field, ..), ..] = rest {
            let (name, suffixes) = &self.lamp.fields[*field];
            let (own, others) = rest.split_at(suffixes.len().max(1));
            if suffixes.is_empty() {
                lines.extend(self.block(own, false));
            } else {
                let values = own.iter().filter_map(|each| match each {
                    Statement::Lamp(_, _, value) => Some(self.expr(value).document),
                    _ => None,
                });
                let comma = Document::Parts(vec![Document::text(","), Document::Blank]);
                let list = vec![
                    Document::Joint,
                    Document::joined(values, &comma),
                    Document::Broken(",".to_owned()),
                ];
                let list = Document::Parts(list).indented(self.printer.language.layout.indent);
                let list = Document::Parts(vec![list, Document::Joint]).group();
                lines.push(self.filled(pattern, |slot| match slot {
                    "field" => Document::text(name.clone()),
                    _ => list.clone(),
                }));
            }
            rest = others;
        }
        lines
    }

    /// A field of the run is set.
    fn set(&self, place: &RunField, operation: &Option<Operation>, value: &Expr) -> Document {
        let language = self.printer.language;
        let parted = place.part.is_some();
        let own = match (&place.index, parted) {
            (Some(_), false) => language.run.set_entry.as_ref(),
            (Some(_), true) => language.run.set_entry_part.as_ref(),
            (None, _) => None,
        };
        let whole = match operation {
            None => value.clone(),
            Some(operation) => Expr::Do(*operation, vec![Expr::Run(place.clone()), value.clone()]),
        };
        if let Some(pattern) = own {
            let value = self.expr(&whole).document;
            return self.run_field(pattern, place, Some(value)).document;
        }
        let joint = operation.and_then(|o| language.statement.assign_to.get(o.name()));
        let (pattern, value) = match joint {
            Some(pattern) => (pattern, self.expr(value).document),
            None => (&language.statement.assign, self.expr(&whole).document),
        };
        let target = self.expr(&Expr::Run(place.clone())).document;
        self.filled(pattern, |slot| match slot {
            "target" => target.clone(),
            _ => value.clone(),
        })
    }

    fn run_field(&self, pattern: &Pattern, place: &RunField, value: Option<Document>) -> Bound {
        let none = (place.field.clone(), Vec::new());
        let (name, suffixes) = self.printer.names.fields.get(&place.field).unwrap_or(&none);
        let part = place.part.unwrap_or_default();
        let index = place.index.as_ref().map(|index| self.expr(index));
        let pieces = pattern.pieces.iter().enumerate();
        let at = pieces.into_iter().find_map(|(n, piece)| match piece {
            Piece::Slot(slot) if slot == "index" => Some(n),
            _ => None,
        });
        let closed = at.is_none_or(|n| pattern.around(n) == Around::Closed);
        let index = index.map(|bound| match closed || bound.level == TIGHTEST {
            true => bound.document,
            false => {
                let brackets = [Document::text("("), bound.document, Document::text(")")];
                Document::Parts(brackets.into())
            }
        });
        let document =
            pattern.document(self.printer.language.layout.indent, false, |slot| match slot {
                "field" => Document::text(name.clone()),
                "part" => Document::text(part.to_string()),
                "suffix" => Document::text(suffixes.get(part).cloned().unwrap_or_default()),
                "index" => index.clone().unwrap_or(Document::text("")),
                _ => value.clone().unwrap_or(Document::text("")),
            });
        Bound { document, level: TIGHTEST, operation: None, flat: None }
    }

    /// Whether an assignment may be joined with its operation: where a mask would be needed it may not.
    fn may_join(&self, local: LocalId, operation: &Option<Operation>) -> bool {
        let dirty = &self.printer.language.word.dirty;
        operation.is_some_and(|operation| {
            self.loose.contains(&local) || !self.printer.is_in(dirty, operation)
        })
    }

    fn value_for(&self, local: LocalId, value: &Expr) -> Document {
        match self.loose.contains(&local) {
            true => self.dirty(value).document,
            false => self.expr(value).document,
        }
    }

    fn filled(&self, pattern: &Pattern, slot: impl FnMut(&str) -> Document) -> Document {
        let indent = self.printer.language.layout.indent;
        pattern.document(indent, false, slot).indented(0)
    }

    fn choice(
        &self,
        condition: &Expr,
        then: &[Statement],
        other: &[Statement],
        last: bool,
    ) -> Document {
        let patterns = &self.printer.language.statement;
        let asked = self.expr(condition).document;
        let plain = matches!(
            then,
            [Statement::Return(_)
                | Statement::Break
                | Statement::Stop
                | Statement::Assign(..)
                | Statement::Set(..)
                | Statement::Call(..)]
        );
        if let (Some(pattern), true, true) = (&patterns.if_one, plain, other.is_empty()) {
            let statement = self.statement(&then[0], false);
            let line = self.filled(pattern, |slot| match slot {
                "condition" => asked.clone(),
                _ => statement.clone(),
            });
            let layout = &self.printer.language.layout;
            let margin = self.printer.indent + self.depth.get() * layout.indent;
            if !line.print(layout.width, margin).contains('\n') {
                return line;
            }
        }
        let head = self.filled(&patterns.when, |_| asked.clone());
        let mut blocks = vec![(head, self.block(then, last))];
        let mut rest = other;
        loop {
            match rest {
                [] => break,
                [Statement::If(condition, then, other)] => {
                    let asked = self.expr(condition).document;
                    let head = self.filled(&patterns.else_if, |_| asked.clone());
                    blocks.push((head, self.block(then, last)));
                    rest = other;
                }
                block => {
                    let lines = patterns.otherwise.split('\n').map(Document::text);
                    let head = Document::joined(lines, &Document::Line);
                    blocks.push((head, self.block(block, last)));
                    break;
                }
            }
        }
        self.closed(blocks)
    }

    /// Blocks under heads, and what closes the last.
    fn closed(&self, blocks: Vec<(Document, Vec<Document>)>) -> Document {
        let language = self.printer.language;
        let mut parts = Vec::new();
        for (head, block) in blocks {
            if !parts.is_empty() {
                parts.push(Document::Line);
            }
            parts.push(head);
            let lines = Document::joined(block, &Document::Line);
            let inner = Document::Parts(vec![Document::Line, lines]);
            parts.push(inner.indented(language.layout.indent));
        }
        if !language.statement.end.is_empty() {
            parts.extend([Document::Line, Document::text(language.statement.end.clone())]);
        }
        Document::Parts(parts)
    }

    /// An expression; words have 32 bits.
    fn expr(&self, expr: &Expr) -> Bound {
        let words = &self.printer.language.word;
        let is_dirty = match expr {
            // Bits of a small word are positive.
            Expr::Do(Operation::WordAnd, parts)
                if parts.iter().any(|part| matches!(part, Expr::Word(..0x8000_0000))) =>
            {
                false
            }
            Expr::Do(operation, _) => self.printer.is_in(&words.dirty, *operation),
            Expr::Local(id) => self.loose.contains(id),
            Expr::Number(_)
            | Expr::Word(_)
            | Expr::Int(_)
            | Expr::Flag(_)
            | Expr::Single(_)
            | Expr::Constant(_)
            | Expr::Run(_)
            | Expr::Table(..)
            | Expr::Call(..)
            | Expr::Entry(..) => false,
        };
        match (&words.mask, is_dirty) {
            (Some(mask), true) => self.operator(mask, None, |_, _| self.dirty(expr)),
            _ => self.dirty(expr),
        }
    }

    /// An expression; words may have more than 32 bits.
    fn dirty(&self, expr: &Expr) -> Bound {
        let language = self.printer.language;
        let atom = |text: String| Bound {
            document: Document::Text(text),
            level: TIGHTEST,
            operation: None,
            flat: None,
        };
        match expr {
            Expr::Number(v) => {
                let digits = number::double(*v);
                let text = self.literal(
                    &digits,
                    &language.literal.number,
                    &language.literal.number_called,
                );
                let level =
                    if v.is_sign_negative() { self.level_of(Operation::Negate) } else { TIGHTEST };
                let operation = Some(Operation::Negate);
                Bound { document: Document::Text(text), level, operation, flat: None }
            }
            Expr::Word(v) => {
                let literal = &language.literal;
                atom(self.literal(&number::word(*v), &literal.word, &literal.word_called))
            }
            Expr::Int(v) => atom(language.literal.int.fill(&[("digits", &v.to_string())])),
            Expr::Flag(on) => atom(language.literal.flags[usize::from(*on)].clone()),
            Expr::Local(id) => atom(self.names[id.0].clone()),
            Expr::Constant(name) => atom(self.printer.constant_name(name)),
            Expr::Single(v) => {
                let (digits, wide) = (number::single(*v), number::double(f64::from(*v)));
                atom(language.literal.single.fill(&[("digits", &digits), ("wide", &wide)]))
            }
            Expr::Table(name, _) => {
                let name = self.printer.table_name(name);
                atom(language.expression.table.fill(&[("name", &name)]))
            }
            Expr::Run(place) => {
                let patterns = &language.run;
                let pattern = match (&place.index, place.part) {
                    (None, None) => &patterns.field,
                    (None, Some(_)) => &patterns.part,
                    (Some(_), None) => &patterns.entry,
                    (Some(_), Some(_)) => &patterns.entry_part,
                };
                self.run_field(pattern, place, None)
            }
            Expr::Do(operation, parts) => match self.operator_of(*operation, parts) {
                Some(operator) => self.operator(operator, Some(*operation), |slot, called| {
                    let at = ["a", "b", "c"].iter().position(|name| *name == slot);
                    let part = &parts[at.unwrap_or_default()];
                    let typed = self.typed.get();
                    self.typed.set(typed || called && self.is_literal(part));
                    let bound = match self.printer.is_in(&language.word.loose, *operation) {
                        true => self.dirty(part),
                        false => self.expr(part),
                    };
                    self.typed.set(typed);
                    bound
                }),
                None => {
                    let written = language.written.get(operation.name());
                    let name = written.map_or("", |written| written.name.as_str());
                    let name = self.printer.function_name(name);
                    self.call(&language.expression.call, name, parts)
                }
            },
            Expr::Call(name, parts) => self.called_function(name, parts),
            Expr::Entry(table, at) => {
                let plain = matches!(**at, Expr::Local(_) | Expr::Int(_));
                let pattern = match (&language.expression.entry_plain, plain) {
                    (Some(pattern), true) => pattern,
                    _ => &language.expression.entry,
                };
                let at = self.expr(at).document;
                let document = pattern.document(language.layout.indent, false, |slot| match slot {
                    "table" => Document::text(self.names[table.0].clone()),
                    _ => at.clone(),
                });
                Bound { document, level: TIGHTEST, operation: None, flat: None }
            }
        }
    }

    fn called_function(&self, name: &str, parts: &[Expr]) -> Bound {
        let language = self.printer.language;
        let receiver = self.printer.module.signature(name).map(|(receiver, _)| receiver);
        let printed = self.printer.function_name(name);
        match receiver {
            None | Some(Receiver::None) => self.call(&language.expression.call, printed, parts),
            Some(_) => self.call(&language.expression.method, printed, parts),
        }
    }

    fn call(&self, pattern: &Pattern, name: String, parts: &[Expr]) -> Bound {
        let language = self.printer.language;
        let comma = if parts.is_empty() { "" } else { ", " };
        let arguments = parts.iter().map(|part| self.expr(part).document).collect();
        let arguments = self.listed(arguments);
        let document = pattern.document(language.layout.indent, false, |slot| match slot {
            "name" => Document::text(name.clone()),
            "comma" => Document::text(comma),
            _ => arguments.clone(),
        });
        Bound { document: document.group(), level: TIGHTEST, operation: None, flat: None }
    }

    fn level_of(&self, operation: Operation) -> u8 {
        match self.printer.language.operator(operation) {
            Some(Operator::Binds(_, level) | Operator::Takes(_, level, _)) => *level,
            Some(Operator::Call(_)) | None => TIGHTEST,
        }
    }

    /// How tightly the operator binds that is written with a sign between two operands.
    fn level_of_sign(&self, sign: &str) -> Option<u8> {
        let all = self.printer.language.operator.values();
        all.into_iter().find_map(|operator| match operator {
            Operator::Binds(pattern, level) => match pattern.pieces.as_slice() {
                [Piece::Slot(_), Piece::Text(text), Piece::Slot(_)] if text.trim() == sign => {
                    Some(*level)
                }
                _ => None,
            },
            Operator::Call(_) | Operator::Takes(..) => None,
        })
    }

    /// An operator with its operands, each in brackets where it binds less tightly than its slot asks.
    fn operator(
        &self,
        operator: &Operator,
        operation: Option<Operation>,
        mut part: impl FnMut(&str, bool) -> Bound,
    ) -> Bound {
        let layout = &self.printer.language.layout;
        let (pattern, level) = match operator {
            Operator::Call(pattern) => (pattern, TIGHTEST),
            Operator::Binds(pattern, level) | Operator::Takes(pattern, level, _) => {
                (pattern, *level)
            }
        };
        // What prints as nothing binds as its operand does.
        if let [Piece::Slot(slot)] = pattern.pieces.as_slice() {
            return part(slot, false);
        }
        let mut documents = Vec::new();
        for (n, piece) in pattern.pieces.iter().enumerate() {
            let Piece::Slot(slot) = piece else { continue };
            let bound = part(slot, pattern.around(n) == Around::Called);
            let needed = match pattern.around(n) {
                Around::Closed => 0,
                Around::Called => TIGHTEST,
                Around::Operator { first } => {
                    let signs = pattern.signs(n);
                    let sign = signs.iter().find_map(|sign| self.level_of_sign(sign));
                    let level = match operator {
                        Operator::Call(_) => sign.unwrap_or(TIGHTEST),
                        Operator::Binds(..) => level,
                        Operator::Takes(_, _, operands) => *operands,
                    };
                    match (pattern.slots().count(), first) {
                        // What is masked stands in brackets, which is plainer.
                        (1, _) if operation.is_none() => TIGHTEST,
                        (1, _) | (2, true) => level,
                        // The last branch of a choice may be another one.
                        (3, false) if n + 1 == pattern.pieces.len() => level,
                        _ => TIGHTEST.min(level + 1),
                    }
                }
            };
            let unclear = match (operation, bound.operation) {
                (Some(outer), Some(inner)) if needed > 0 && outer != inner => {
                    let both = |set: &&Vec<String>| {
                        self.printer.is_in(set, outer) && self.printer.is_in(set, inner)
                    };
                    bound.level < TIGHTEST && layout.clear.iter().any(|set| both(&set))
                }
                _ => false,
            };
            // Two signs in a row are another operator, or none.
            let negates = Some(Operation::Negate);
            let twice =
                operation == negates && bound.operation == negates && bound.level < TIGHTEST;
            let document = if bound.level < needed || unclear || twice {
                let brackets = [Document::text("("), bound.document, Document::text(")")];
                Document::Parts(brackets.into())
            } else if bound.level == level && needed > 0 && level < TIGHTEST {
                bound.flat.unwrap_or(bound.document)
            } else {
                bound.document
            };
            documents.push((slot.clone(), document));
        }
        let flat = pattern.document(layout.indent, true, |slot| {
            let found = documents.iter().find(|(name, _)| name == slot);
            found.map_or(Document::text(""), |(_, document)| document.clone())
        });
        // Only what stands between operands breaks there; braces indent what they hold.
        let braces = pattern.pieces.iter().any(|piece| match piece {
            Piece::Text(text) => text.ends_with("{ "),
            Piece::Slot(_) => false,
        });
        let call = matches!(operator, Operator::Call(_));
        if braces || call || pattern.slots().count() < 2 {
            return Bound { document: flat.group(), level, operation, flat: None };
        }
        let document = flat.clone().indented(layout.indent).group();
        Bound { document, level, operation, flat: Some(flat) }
    }

    fn operator_of(&self, operation: Operation, parts: &[Expr]) -> Option<&'p Operator> {
        let language = self.printer.language;
        let chain = matches!(parts, [_, _, Expr::Do(Operation::Select, _)]);
        match &language.expression.select_chain {
            Some(operator) if chain && operation == Operation::Select => Some(operator),
            _ => language.operator(operation),
        }
    }

    fn literal(&self, digits: &str, plain: &Pattern, called: &Option<Pattern>) -> String {
        let pattern = called.as_ref().filter(|_| self.typed.get()).unwrap_or(plain);
        pattern.fill(&[("digits", digits)])
    }

    /// Whether a value is made of literals alone, so that it has no type of its own.
    fn is_literal(&self, expr: &Expr) -> bool {
        match expr {
            Expr::Number(_) | Expr::Word(_) | Expr::Int(_) => true,
            Expr::Do(Operation::Select, parts) => {
                parts[1..].iter().all(|part| self.is_literal(part))
            }
            Expr::Do(operation, parts) => {
                let arithmetic = operation.result().is_some_and(|ty| ty != Type::Bool);
                arithmetic
                    && self.printer.language.operator.contains_key(operation.name())
                    && parts.iter().all(|part| self.is_literal(part))
            }
            Expr::Flag(_)
            | Expr::Single(_)
            | Expr::Local(_)
            | Expr::Constant(_)
            | Expr::Run(_)
            | Expr::Table(..)
            | Expr::Call(..)
            | Expr::Entry(..) => false,
        }
    }
}

/// Whether any assignment of a block is to one of these operations of itself.
fn assigns(block: &[Statement], operations: &[Operation]) -> bool {
    block.iter().any(|statement| match statement {
        Statement::Assign(_, Some(operation), _) => operations.contains(operation),
        Statement::If(_, then, other) => assigns(then, operations) || assigns(other, operations),
        Statement::While(_, body) | Statement::For(_, _, _, body) => assigns(body, operations),
        Statement::Let(..)
        | Statement::Assign(_, None, _)
        | Statement::Set(..)
        | Statement::Lamp(..)
        | Statement::Call(..)
        | Statement::Switch(..)
        | Statement::Break
        | Statement::Stop
        | Statement::Return(_) => false,
    })
}

/// Visits the expressions of statements, but not their parts.
fn each_root<'e>(block: &'e [Statement], visit: &mut impl FnMut(&'e Expr)) {
    each_statement(block, &mut |statement| match statement {
        Statement::Let(_, value)
        | Statement::Assign(_, _, value)
        | Statement::Set(_, _, value)
        | Statement::Lamp(_, _, value)
        | Statement::If(value, ..)
        | Statement::While(value, _)
        | Statement::Switch(value, _)
        | Statement::Return(value) => visit(value),
        Statement::For(_, from, to, _) => {
            visit(from);
            visit(to);
        }
        Statement::Call(_, parts) => parts.iter().for_each(&mut *visit),
        Statement::Break | Statement::Stop => {}
    });
}
