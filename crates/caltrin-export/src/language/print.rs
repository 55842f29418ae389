//! Prints functions of the tree in a language.

use std::cell::Cell;
use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};
use std::sync::Arc;

use super::pattern::{Around, Piece};
use super::{Arguments, Language, Operator, Pattern};
use crate::document::{Document, paragraph};
use crate::ir::{
    Entries, Expr, Function, LocalId, Module, Operation, Receiver, Record, RunField, Statement,
    Table, Type, each_expr, each_statement,
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
    pub slots: Vec<(String, String)>,
    /// What reads the lamps of each light.
    pub lights: Vec<Taken>,
    /// A notice.
    pub notice: LampNames,
}

/// What reads the lamps of a light.
#[derive(Clone, Debug, Default)]
pub struct Taken {
    /// The type of a lamp.
    pub lamp_type: String,
    /// The function that reads one.
    pub read: String,
    /// The function that reads many.
    pub fill: String,
    /// Its fields.
    pub lamp: LampNames,
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
    /// A new one, where the language has one in a line.
    pub fresh: String,
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
    names: Arc<GivenNames>,
    /// What all functions have of the run, and their results.
    signatures: HashMap<&'p str, (Receiver, Type)>,
}

impl Language {
    /// Text as it may stand in a comment.
    pub fn escaped(&self, about: &str) -> String {
        let replaced = self.comment.replace.iter();
        replaced.fold(about.to_owned(), |text, (from, to)| text.replace(from, to))
    }

    /// The lines of a comment.
    pub fn comment_lines(&self, about: &str, indent: usize) -> Vec<String> {
        let comment = &self.comment;
        let room = self.layout.width.saturating_sub(indent + comment.close.len());
        let about = self.escaped(about);
        let mut lines = paragraph(&about, &comment.open, &comment.next, room);
        if let Some(last) = lines.last_mut() {
            last.push_str(&comment.close);
        }
        lines.into_iter().map(|line| line.trim_end().to_owned()).collect()
    }
}

impl<'p> Printer<'p> {
    /// A printer for a file whose names begin with `prefix`, and whose lines are indented by so many columns.
    pub fn new(language: &'p Language, module: &'p Module, prefix: &'p str, indent: usize) -> Self {
        let operations = Operation::ALL.iter();
        let operations = operations.map(|operation| (operation.name().to_owned(), *operation));
        let (operations, names) = (operations.collect(), Arc::default());
        let others = module.others.iter().map(|(name, own)| (name.as_str(), *own));
        let own = module.functions.iter();
        let own = own.map(|own| (own.name.as_str(), (own.receiver, own.result)));
        let signatures = others.chain(own).collect();
        Printer { language, module, prefix, indent, operations, names, signatures }
    }

    /// The same with names of the file's own.
    pub fn named_by(self, names: Arc<GivenNames>) -> Self {
        Printer { names, ..self }
    }

    /// What a function is called.
    pub fn function_name(&self, name: &str) -> String {
        if let Some(given) = self.names.functions.get(name) {
            return given.clone();
        }
        let before = self.language.names.before.fill(&[("prefix", self.prefix)]);
        self.free(format!("{before}{}", cased(name, self.language.names.functions)))
    }

    /// What a constant is called.
    pub fn constant_name(&self, name: &str) -> String {
        let before = self.language.names.before.fill(&[("prefix", self.prefix)]);
        self.free(cased(&format!("{before}{name}"), self.language.names.constants))
    }

    /// A name of the kernel, with a number if it is a word of the language.
    fn free(&self, name: String) -> String {
        match self.language.reserved().any(|word| word == name) {
            true => Namer::avoiding(self.language.reserved(), &name),
            false => name,
        }
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

    /// The statements of a function that makes a lamp or notice: those before `apart`, those after it, and what sets
    /// the fields, each as lines that begin at a column.
    pub fn made(&self, function: &Function, apart: usize, names: &LampNames) -> Made<'_, 'p> {
        Made { printer: self, function: function.clone(), apart, names: names.clone() }
    }

    /// What a function is declared by before it is written, if the language wants that.
    pub fn print_forward(&self, function: &Function) -> Option<String> {
        let pattern = self.language.declaration.forward.as_ref()?;
        let lamp = LampNames::default();
        let head = Body::of(self, function, &lamp).head(pattern);
        Some(head.print(self.language.layout.width, self.indent))
    }

    /// The operations of a function.
    pub fn operations_of(&self, function: &Function) -> BTreeSet<Operation> {
        let mut all = BTreeSet::new();
        each_expr(&function.body, &mut |expr| {
            if let Expr::Do(operation, _) = expr {
                all.insert(*operation);
            }
        });
        all
    }

    /// The entries of a table in lines, the first of which begins at a column.
    pub fn entries(&self, table: &Table, indent: usize) -> Vec<String> {
        let literal = &self.language.literal;
        let all: Vec<String> = match &table.entries {
            Entries::Numbers(all) => all.iter().map(|v| self.number(*v)).collect(),
            Entries::Words(all) if table.hex => {
                all.iter().map(|v| literal.hex.fill(&[("digits", &format!("{v:x}"))])).collect()
            }
            Entries::Words(all) => {
                all.iter().map(|v| literal.word.fill(&[("digits", &number::word(*v))])).collect()
            }
            Entries::Texts(all) => {
                all.iter().map(|text| literal.text.fill(&[("text", text)])).collect()
            }
        };
        let list = Document::filled(all.into_iter().map(Document::text));
        let text = list.print(self.language.layout.width - 1, indent);
        text.split('\n').map(|line| line.trim_start().to_owned()).collect()
    }

    /// A double.
    pub fn number(&self, v: f64) -> String {
        let literal = &self.language.literal;
        match v.is_nan() {
            true => literal.nan.clone(),
            false => literal.number.fill(&[("digits", &number::double(v))]),
        }
    }

    /// The name of a table.
    pub fn table_name(&self, name: &str) -> String {
        if let Some(given) = self.names.tables.get(name) {
            return given.clone();
        }
        let before = self.language.names.before.fill(&[("prefix", self.prefix)]);
        cased(&format!("{before}{name}"), self.language.names.tables)
    }

    /// What stands before a declaration that a checker would take for one with another number.
    pub fn near(&self, text: &str) -> Option<&str> {
        let known = self.language.literal.known.as_ref()?;
        let mut words = text.split(|c: char| !(c.is_ascii_digit() || c == '.' || c == '_'));
        words.any(|word| is_near(word, &known.numbers)).then_some(known.before.as_str())
    }

    /// A declaration with its comment, on lines of their own.
    fn declared(&self, about: &str, tags: &[String], declaration: Document) -> String {
        let comment = &self.language.comment;
        let (width, margin) = (self.language.layout.width, " ".repeat(self.indent));
        let mut out = String::new();
        if !about.is_empty() || !tags.is_empty() {
            let room = width.saturating_sub(self.indent + comment.close.len());
            let about = self.language.escaped(about);
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
        let text = declaration.print(width, self.indent);
        if let Some(before) = self.near(&text) {
            out.push_str(&format!("{margin}{before}\n"));
        }
        out.push_str(&margin);
        out.push_str(&text);
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

    fn named(&self, name: &str) -> Option<Operation> {
        self.operations.get(name).copied()
    }

    fn is_in(&self, set: &[String], operation: Operation) -> bool {
        set.iter().any(|name| self.named(name) == Some(operation))
    }
}

/// Whether a number is as good as one of these as far as its digits go.
fn is_near(word: &str, known: &[(String, usize)]) -> bool {
    let digits = word.replace('_', "");
    known.iter().any(|(known, least)| {
        let near = digits.parse::<f64>().ok().zip(known.parse::<f64>().ok());
        let size = 10f64.powi(digits.split_once('.').map_or(0, |(_, part)| -(part.len() as i32)));
        digits.len() > *least && near.is_some_and(|(a, b)| (a - b).abs() <= size.max(1e-14))
    })
}

/// A function that makes a lamp or a notice, part by part.
pub struct Made<'m, 'p> {
    printer: &'m Printer<'p>,
    function: Function,
    apart: usize,
    names: LampNames,
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
    /// The light whose lamps it reads.
    light: Option<usize>,
    /// Whether many of them are read at once.
    many: Cell<bool>,
}

impl<'p, 'f> Body<'p, 'f> {
    fn of(printer: &'f Printer<'p>, function: &'f Function, lamp: &'f LampNames) -> Self {
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
        let mut light = None;
        let mut notice = false;
        each_statement(&function.body, &mut |statement| match statement {
            Statement::Read(at, _) | Statement::ReadMany(at, ..) => light = Some(*at),
            Statement::EachNotice(_) => notice = true,
            _ => {}
        });
        let asked = light.and_then(|at| printer.names.lights.get(at)).into_iter();
        used.extend(asked.flat_map(|taken| [&taken.lamp_type, &taken.read, &taken.fill]).cloned());
        if light.is_some() {
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
        let many = Cell::new(false);
        let mut body = Body { printer, function, names, lamp, loose, depth, typed, light, many };
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
    fn head(&self, pattern: &Pattern) -> Document {
        let language = self.printer.language;
        let (declaration, indent) = (&language.declaration, language.layout.indent);
        let parameters = &self.function.locals[..self.function.parameters];
        let parameters = parameters.iter().zip(&self.names).map(|(local, name)| {
            let pattern = match (local.ty.entry(), local.changes) {
                (Some(_), _) if local.ty == Type::List => &language.parameter.list,
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

    fn document(&self) -> Document {
        let language = self.printer.language;
        let (declaration, indent) = (&language.declaration, language.layout.indent);
        let head = self.head(match self.function.receiver {
            Receiver::None => &declaration.function,
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
            Statement::Let(list, Expr::Zeros(count)) => {
                self.filled(&patterns.let_list, |slot| match slot {
                    "name" => name(*list),
                    _ => Document::text(count.to_string()),
                })
            }
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
                let value = self.whole(self.value_for(*local, value));
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
                let value = self.whole(value);
                self.filled(pattern, |slot| match slot {
                    "target" => name(*local),
                    _ => value.clone(),
                })
            }
            Statement::If(condition, then, other) => self.choice(condition, then, other, last),
            Statement::While(condition, body) => {
                let condition = self.whole(self.expr(condition).document);
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
            // What takes a notice says so where none waits.
            Statement::Stop if self.makes_notice() => {
                Document::text(language.notice.nothing.clone())
            }
            Statement::Stop => Document::text(patterns.stop.clone()),
            Statement::SetEntry(list, at, value) => {
                let at = self.expr(at).document;
                let value = self.whole(self.expr(value).document);
                self.filled(&patterns.set_entry, |slot| match slot {
                    "list" => name(*list),
                    "index" => at.clone(),
                    _ => value.clone(),
                })
            }
            Statement::Restart(seed) => {
                let seed = self.expr(seed).document;
                self.filled_own(&patterns.restart, |_| seed.clone())
            }
            Statement::Read(light, index) => {
                let index = index.as_ref().map(|index| self.expr(index).document);
                let pattern = match index {
                    None => &language.read.into,
                    Some(_) => &language.read.into_of_many,
                };
                self.reading(pattern, *light, index, 0, 0)
            }
            Statement::ReadMany(light, first, count, block) => {
                let [open, close] = &language.read.into_many;
                self.many.set(true);
                let lines = Document::joined(self.block(block, false), &Document::Line);
                self.many.set(false);
                let inner = Document::Parts(vec![Document::Line, lines]);
                let mut parts = vec![
                    self.reading(open, *light, None, *first, *count),
                    inner.indented(language.layout.indent),
                ];
                if !close.pieces.is_empty() {
                    let close = self.reading(close, *light, None, *first, *count);
                    parts.extend([Document::Line, close]);
                }
                Document::Parts(parts)
            }
            Statement::EachNotice(block) => {
                let [open, close] = &language.notice.each;
                let lines = Document::joined(self.block(block, false), &Document::Line);
                let inner = Document::Parts(vec![Document::Line, lines]);
                let open = self.filled_own(&Pattern::read(open), |_| Document::text(""));
                let mut parts = vec![open, inner.indented(language.layout.indent)];
                if !close.is_empty() {
                    parts.extend([Document::Line, Document::text(close.clone())]);
                }
                Document::Parts(parts)
            }
            Statement::Call(name, parts) => {
                let call = self.called_function(name, parts).document;
                self.filled(&patterns.call, |_| call.clone())
            }
            Statement::Set(place, operation, value) => self.set(place, operation, value),
            Statement::Make(record, field, part, value) => {
                let value = self.whole(self.expr(value).document);
                let (name, suffixes) = &self.lamp.fields[*field];
                let [one, of_parts] = match record {
                    Record::Lamp => [&language.lamp.field, &language.lamp.part],
                    Record::Notice => [&language.notice.set[0], &language.notice.set[1]],
                };
                let pattern = if suffixes.is_empty() { one } else { of_parts };
                self.filled(pattern, |slot| match slot {
                    "lamp" => Document::text(self.lamp.lamp.clone()),
                    "field" => Document::text(name.clone()),
                    "part" => Document::text(part.to_string()),
                    "suffix" => Document::text(suffixes.get(*part).cloned().unwrap_or_default()),
                    _ => value.clone(),
                })
            }
            Statement::Switch(value, cases) => {
                let Some([open, close]) = &patterns.switch else {
                    return self.cases(value, cases);
                };
                let value = self.expr(value).document;
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
                let value = self.whole(self.expr(value).document);
                self.filled(pattern, |_| value.clone())
            }
        }
    }

    /// A value that stands alone in its statement: in brackets where it breaks, if the language wants that.
    fn whole(&self, value: Document) -> Document {
        match self.printer.language.layout.brackets_where_broken {
            false => value,
            true => {
                let brackets = ["(", ")"].map(|sign| Document::Broken(sign.to_owned()));
                let [open, close] = brackets;
                Document::Parts(vec![open, value, close]).group()
            }
        }
    }

    /// What sets the fields of the lamp.
    fn sets(&self, block: &[Statement]) -> Vec<Document> {
        let language = self.printer.language;
        let pattern = match self.makes_notice() {
            true => &language.notice.set_parts,
            false => &language.lamp.parts,
        };
        let Some(pattern) = pattern else { return self.block(block, false) };
        let mut lines = Vec::new();
        let mut rest = block;
        while let [Statement::Make(_, field, ..), ..] = rest {
            let (name, suffixes) = &self.lamp.fields[*field];
            let (own, others) = rest.split_at(suffixes.len().max(1));
            if suffixes.is_empty() {
                lines.extend(self.block(own, false));
            } else {
                let values = own.iter().filter_map(|each| match each {
                    Statement::Make(.., value) => Some(self.expr(value).document),
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

    /// The cases of a word as a chain of conditions, for a language without a switch.
    fn cases(&self, value: &Expr, cases: &[Statement]) -> Document {
        let chain = cases.iter().enumerate().rev().fold(Vec::new(), |rest, (n, case)| {
            if rest.is_empty() {
                return vec![case.clone()];
            }
            let is = Expr::Do(Operation::Equal, vec![value.clone(), Expr::Word(n as u32)]);
            vec![Statement::If(is, vec![case.clone()], rest)]
        });
        Document::joined(chain.iter().map(|each| self.statement(each, false)), &Document::Line)
    }

    /// Whether the function takes a notice.
    fn makes_notice(&self) -> bool {
        let makes = |each: &Statement| matches!(each, Statement::Make(Record::Notice, ..));
        self.function.body.iter().any(makes)
    }

    /// A pattern with the slots of the file besides its own.
    fn filled_own(&self, pattern: &Pattern, slot: impl Fn(&str) -> Document) -> Document {
        let own = &self.printer.names.slots;
        self.filled(pattern, |asked| match own.iter().find(|(name, _)| name == asked) {
            Some((_, text)) => Document::text(text.clone()),
            None => slot(asked),
        })
    }

    /// A statement that reads lamps.
    fn reading(
        &self,
        pattern: &Pattern,
        light: usize,
        index: Option<Document>,
        first: u32,
        count: u32,
    ) -> Document {
        let none = Taken::default();
        let taken = self.printer.names.lights.get(light).unwrap_or(&none);
        self.filled_own(pattern, |slot| match slot {
            "read" => Document::text(taken.read.clone()),
            "fill" => Document::text(taken.fill.clone()),
            "lamp_type" => Document::text(taken.lamp_type.clone()),
            "fresh" => Document::text(taken.lamp.fresh.clone()),
            "index" => index.clone().unwrap_or(Document::text("")),
            "first" => Document::text(first.to_string()),
            "count" => Document::text(count.to_string()),
            _ => Document::text(""),
        })
    }

    /// A field of a lamp or notice that was read, or a part of one.
    fn part_of(&self, record: Record, field: usize, part: usize) -> Bound {
        let language = self.printer.language;
        let light = self.light.and_then(|at| self.printer.names.lights.get(at));
        let names = match record {
            Record::Lamp => light.map_or(self.lamp, |taken| &taken.lamp),
            Record::Notice => &self.printer.names.notice,
        };
        let get = match record {
            Record::Lamp => &language.read.get,
            Record::Notice => &language.notice.get,
        };
        let lamp = if self.many.get() { language.read.into_lamp.as_str() } else { "lamp" };
        let (name, suffixes) = &names.fields[field];
        let pattern = &get[usize::from(!suffixes.is_empty())];
        let text = pattern.fill(&[
            ("lamp", lamp),
            ("field", name),
            ("part", &part.to_string()),
            ("suffix", suffixes.get(part).map_or("", String::as_str)),
        ]);
        let document = Document::Text(text);
        Bound { document, level: TIGHTEST, operation: None, flat: None }
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
        let value = self.whole(value);
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
        let asked = self.whole(self.expr(condition).document);
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
                    let asked = self.whole(self.expr(condition).document);
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
            | Expr::Zeros(_)
            | Expr::Text(_)
            | Expr::Part(..)
            | Expr::TableEntry(..)
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
            Expr::Number(v) if v.is_nan() => atom(language.literal.nan.clone()),
            Expr::Text(text) => atom(language.literal.text.fill(&[("text", text)])),
            Expr::Part(record, field, part, _) => self.part_of(*record, *field, *part),
            // A list is made by its `let`.
            Expr::Zeros(count) => atom(count.to_string()),
            Expr::TableEntry(name, _, at) => {
                let table = Document::text(self.printer.table_name(name));
                match &language.expression.table_entry {
                    Some(pattern) => self.entry_by(pattern, table, at),
                    None => self.entry(table, at),
                }
            }
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
            Expr::Entry(table, at) => self.entry(Document::text(self.names[table.0].clone()), at),
        }
    }

    /// An entry of a table or list.
    fn entry(&self, table: Document, at: &Expr) -> Bound {
        let language = self.printer.language;
        let plain = matches!(at, Expr::Local(_) | Expr::Int(_));
        let pattern = match (&language.expression.entry_plain, plain) {
            (Some(pattern), true) => pattern,
            _ => &language.expression.entry,
        };
        self.entry_by(pattern, table, at)
    }

    fn entry_by(&self, pattern: &Pattern, table: Document, at: &Expr) -> Bound {
        let language = self.printer.language;
        let at = self.expr(at).document;
        let document = pattern.document(language.layout.indent, false, |slot| match slot {
            "table" => table.clone(),
            _ => at.clone(),
        });
        Bound { document, level: TIGHTEST, operation: None, flat: None }
    }

    fn called_function(&self, name: &str, parts: &[Expr]) -> Bound {
        let language = self.printer.language;
        let receiver = self.printer.signatures.get(name).map(|(receiver, _)| *receiver);
        let printed = self.printer.function_name(name);
        match receiver {
            None | Some(Receiver::None) => self.call(&language.expression.call, printed, parts),
            Some(_) => self.call(&language.expression.method, printed, parts),
        }
    }

    fn call(&self, pattern: &Pattern, name: String, parts: &[Expr]) -> Bound {
        let language = self.printer.language;
        let comma = if parts.is_empty() { "" } else { ", " };
        let argument = |part: &Expr| match part {
            Expr::Local(id) if self.function.locals[id.0].ty == Type::List => {
                let name = Document::text(self.names[id.0].clone());
                self.filled(&language.expression.list, |_| name.clone())
            }
            part => self.expr(part).document,
        };
        let arguments = parts.iter().map(argument).collect();
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
        if operation == Operation::Select {
            let is_flag = || self.printer.module.type_of(&parts[1], self.function) == Type::Bool;
            match (&language.expression.select_chain, &language.expression.select_flag) {
                (_, Some(operator)) if is_flag() => return Some(operator),
                (Some(operator), _) if chain => return Some(operator),
                _ => {}
            }
        }
        language.operator(operation)
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
            | Expr::Zeros(_)
            | Expr::Text(_)
            | Expr::Part(..)
            | Expr::TableEntry(..)
            | Expr::Call(..)
            | Expr::Entry(..) => false,
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
