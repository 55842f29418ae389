//! Prints functions of the tree in a language.

use std::cell::Cell;
use std::collections::{BTreeMap, BTreeSet, HashSet};

use super::pattern::{Around, Piece};
use super::{Arguments, Language, Operator, Pattern};
use crate::document::{Document, paragraph};
use crate::ir::{Expr, Function, LocalId, Module, Operation, Statement, Type, each_expr};
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

/// Prints the functions of a module in a language.
pub struct Printer<'p> {
    language: &'p Language,
    module: &'p Module,
    /// Stands before the names of functions and constants.
    prefix: &'p str,
    /// How much the first line of each declaration is indented.
    indent: usize,
    /// The names of constants in lower case by which the tree knows them.
    operations: BTreeMap<String, Operation>,
}

impl<'p> Printer<'p> {
    /// A printer for a file whose names begin with `prefix`, and whose lines are indented by so many columns.
    pub fn new(language: &'p Language, module: &'p Module, prefix: &'p str, indent: usize) -> Self {
        let operations = Operation::ALL.iter();
        let operations = operations.map(|operation| (operation.name().to_owned(), *operation));
        Printer { language, module, prefix, indent, operations: operations.collect() }
    }

    /// What a function is called.
    pub fn function_name(&self, name: &str) -> String {
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
        let body = Body::of(self, function);
        let tags = self.tags(&body);
        self.declared(&function.about, &tags, body.document())
    }

    /// A declaration with its comment, on lines of their own.
    fn declared(&self, about: &str, tags: &[String], declaration: Document) -> String {
        let comment = &self.language.comment;
        let (width, margin) = (self.language.layout.width, " ".repeat(self.indent));
        let mut out = String::new();
        if !about.is_empty() || !tags.is_empty() {
            let room = width.saturating_sub(self.indent + comment.close.len());
            let mut lines = paragraph(about, &comment.open, &comment.next, room);
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
        if let Some(pattern) = &comment.parameter {
            let parameters = body.function.locals.iter().zip(&body.names);
            for (local, name) in parameters.take(body.function.parameters) {
                let ty = self.language.type_name(local.ty);
                tags.push(pattern.fill(&[("type", ty), ("name", name)]));
            }
        }
        if let Some(pattern) = &comment.result {
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

/// The body of a function on its way to a document.
struct Body<'p, 'f> {
    printer: &'f Printer<'p>,
    function: &'f Function,
    /// The names of its locals.
    names: Vec<String>,
    /// Locals that may hold words of more than 32 bits.
    loose: HashSet<LocalId>,
    /// How many blocks are open.
    depth: Cell<usize>,
}

impl<'p, 'f> Body<'p, 'f> {
    fn of(printer: &'f Printer<'p>, function: &'f Function) -> Self {
        let language = printer.language;
        let reserved = language.names.reserved.iter().map(String::as_str);
        let mut used: Vec<String> = vec![printer.function_name(&function.name)];
        each_expr(&function.body, &mut |expr| match expr {
            Expr::Call(name, _) => used.push(printer.function_name(name)),
            Expr::Constant(name) => used.push(printer.constant_name(name)),
            Expr::Do(operation, _) => {
                if let Some(written) = language.written.get(operation.name()) {
                    used.push(printer.function_name(&written.name));
                }
            }
            Expr::Number(_)
            | Expr::Word(_)
            | Expr::Int(_)
            | Expr::Flag(_)
            | Expr::Local(_)
            | Expr::Entry(..) => {}
        });
        let mut namer = Namer::without(reserved.chain(used.iter().map(String::as_str)));
        let name = |local: &crate::ir::Local| match &language.names.unused {
            Some(unused) if !local.used && local.ty == Type::Int => unused.clone(),
            _ => namer.take(&cased(&local.name, language.names.locals)),
        };
        let names = function.locals.iter().map(name).collect();
        let (loose, depth) = (HashSet::new(), Cell::new(0));
        let mut body = Body { printer, function, names, loose, depth };
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
            Expr::Do(..)
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
        let parameters = self.listed(parameters.collect());
        let name = self.printer.function_name(&self.function.name);
        let result = language.type_name(self.function.result);
        let head = declaration.function.document(indent, false, |slot| match slot {
            "name" => Document::text(name.clone()),
            "result" => Document::text(result),
            _ => parameters.clone(),
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
        let plain =
            matches!(then, [Statement::Return(_) | Statement::Break | Statement::Assign(..)]);
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
            | Expr::Constant(_)
            | Expr::Call(..)
            | Expr::Entry(..) => false,
        };
        match (&words.mask, is_dirty) {
            (Some(mask), true) => self.operator(mask, None, |_| self.dirty(expr)),
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
                let text = language.literal.number.fill(&[("digits", &digits)]);
                let level = if *v < 0.0 { self.level_of(Operation::Negate) } else { TIGHTEST };
                let operation = Some(Operation::Negate);
                Bound { document: Document::Text(text), level, operation, flat: None }
            }
            Expr::Word(v) => atom(language.literal.word.fill(&[("digits", &number::word(*v))])),
            Expr::Int(v) => atom(language.literal.int.fill(&[("digits", &v.to_string())])),
            Expr::Flag(on) => atom(language.literal.flags[usize::from(*on)].clone()),
            Expr::Local(id) => atom(self.names[id.0].clone()),
            Expr::Constant(name) => atom(self.printer.constant_name(name)),
            Expr::Do(operation, parts) => match language.operator(*operation) {
                Some(operator) => self.operator(operator, Some(*operation), |slot| {
                    let at = ["a", "b", "c"].iter().position(|name| *name == slot);
                    let part = &parts[at.unwrap_or_default()];
                    match self.printer.is_in(&language.word.loose, *operation) {
                        true => self.dirty(part),
                        false => self.expr(part),
                    }
                }),
                None => {
                    let written = language.written.get(operation.name());
                    let name = written.map_or("", |written| written.name.as_str());
                    self.call(self.printer.function_name(name), parts)
                }
            },
            Expr::Call(name, parts) => self.call(self.printer.function_name(name), parts),
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

    fn call(&self, name: String, parts: &[Expr]) -> Bound {
        let language = self.printer.language;
        let arguments = parts.iter().map(|part| self.expr(part).document).collect();
        let arguments = self.listed(arguments);
        let document =
            language.expression.call.document(language.layout.indent, false, |slot| match slot {
                "name" => Document::text(name.clone()),
                _ => arguments.clone(),
            });
        Bound { document: document.group(), level: TIGHTEST, operation: None, flat: None }
    }

    fn level_of(&self, operation: Operation) -> u8 {
        match self.printer.language.operator(operation) {
            Some(Operator::Binds(_, level)) => *level,
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
            Operator::Call(_) => None,
        })
    }

    /// An operator with its operands, each in brackets where it binds less tightly than its slot asks.
    fn operator(
        &self,
        operator: &Operator,
        operation: Option<Operation>,
        mut part: impl FnMut(&str) -> Bound,
    ) -> Bound {
        let layout = &self.printer.language.layout;
        let (pattern, level) = match operator {
            Operator::Call(pattern) => (pattern, TIGHTEST),
            Operator::Binds(pattern, level) => (pattern, *level),
        };
        // What prints as nothing binds as its operand does.
        if let [Piece::Slot(slot)] = pattern.pieces.as_slice() {
            return part(slot);
        }
        let mut documents = Vec::new();
        for (n, piece) in pattern.pieces.iter().enumerate() {
            let Piece::Slot(slot) = piece else { continue };
            let mut bound = part(slot);
            let needed = match pattern.around(n) {
                Around::Closed => 0,
                Around::Called => {
                    bound = self.called(bound);
                    TIGHTEST
                }
                Around::Operator { first } => {
                    let signs = pattern.signs(n);
                    let sign = signs.iter().find_map(|sign| self.level_of_sign(sign));
                    let call = matches!(operator, Operator::Call(_));
                    let level = if call { sign.unwrap_or(TIGHTEST) } else { level };
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
            let document = if bound.level < needed || unclear {
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
        let document = flat.clone().indented(layout.indent).group();
        Bound { document, level, operation, flat: Some(flat) }
    }

    /// A literal of which a method is called.
    fn called(&self, bound: Bound) -> Bound {
        let literal = &self.printer.language.literal;
        let Document::Text(text) = &bound.document else { return bound };
        let digits = text.trim_start_matches('-').starts_with(|c: char| c.is_ascii_digit());
        let pattern = match (digits, bound.operation) {
            (true, Some(_)) => literal.number_called.as_ref(),
            (true, None) => literal.word_called.as_ref(),
            (false, _) => None,
        };
        match pattern {
            Some(pattern) => {
                let document = Document::Text(pattern.fill(&[("digits", text)]));
                Bound { document, ..bound }
            }
            None => bound,
        }
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
            | Expr::Local(_)
            | Expr::Constant(_)
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
        | Statement::Break
        | Statement::Return(_) => false,
    })
}

/// Visits the expressions of statements, but not their parts; of an assignment with an operation, nothing.
fn each_root<'e>(block: &'e [Statement], visit: &mut impl FnMut(&'e Expr)) {
    for statement in block {
        match statement {
            Statement::Let(_, value)
            | Statement::Assign(_, None, value)
            | Statement::Return(value) => visit(value),
            Statement::Assign(_, Some(_), value) => visit(value),
            Statement::If(condition, then, other) => {
                visit(condition);
                each_root(then, visit);
                each_root(other, visit);
            }
            Statement::While(condition, body) => {
                visit(condition);
                each_root(body, visit);
            }
            Statement::For(_, from, to, body) => {
                visit(from);
                visit(to);
                each_root(body, visit);
            }
            Statement::Break => {}
        }
    }
}
