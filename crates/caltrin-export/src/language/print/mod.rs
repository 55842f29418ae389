//! Prints functions of the tree in a language.

mod body;
mod expression;
mod statement;

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Arc;

use super::Language;
use crate::document::{Document, paragraph};
use crate::ir::{Entries, Expr, Function, Module, Operation, Receiver, Table, Type, each_expr};
use crate::names::{Namer, cased};
use crate::number;

use body::Body;
pub use body::Made;

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
            Expr::Number(v) => self.language.literal.number.fill(&[("digits", &self.digits(*v))]),
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
            false => literal.number.fill(&[("digits", &self.digits(v))]),
        }
    }

    /// The digits of a number.
    fn digits(&self, v: f64) -> String {
        // What a single holds exactly is written as it is.
        match self.module.single && f64::from(v as f32) != v {
            true => number::single(v as f32),
            false => number::double(v),
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
