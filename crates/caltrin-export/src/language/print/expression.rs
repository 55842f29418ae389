//! Expressions: operators with brackets where they are needed, calls, entries, literals.

use super::body::Body;
use super::{Bound, TIGHTEST};
use crate::document::Document;
use crate::ir::{Expr, Operation, Receiver, Type};
use crate::language::pattern::{Around, Piece};
use crate::language::{Operator, Pattern};
use crate::number;

impl<'p> Body<'p, '_> {
    /// An expression; words have 32 bits.
    pub(super) fn expr(&self, expr: &Expr) -> Bound {
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
    pub(super) fn dirty(&self, expr: &Expr) -> Bound {
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
                let digits = self.printer.digits(*v);
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
    pub(super) fn entry(&self, table: Document, at: &Expr) -> Bound {
        let language = self.printer.language;
        let plain = matches!(at, Expr::Local(_) | Expr::Int(_));
        let pattern = match (&language.expression.entry_plain, plain) {
            (Some(pattern), true) => pattern,
            _ => &language.expression.entry,
        };
        self.entry_by(pattern, table, at)
    }

    pub(super) fn entry_by(&self, pattern: &Pattern, table: Document, at: &Expr) -> Bound {
        let language = self.printer.language;
        let at = self.expr(at).document;
        let document = pattern.document(language.layout.indent, false, |slot| match slot {
            "table" => table.clone(),
            _ => at.clone(),
        });
        Bound { document, level: TIGHTEST, operation: None, flat: None }
    }

    pub(super) fn called_function(&self, name: &str, parts: &[Expr]) -> Bound {
        let language = self.printer.language;
        let receiver = self.printer.signatures.get(name).map(|(receiver, _)| *receiver);
        let printed = self.printer.function_name(name);
        match receiver {
            None | Some(Receiver::None) => self.call(&language.expression.call, printed, parts),
            Some(_) => self.call(&language.expression.method, printed, parts),
        }
    }

    pub(super) fn call(&self, pattern: &Pattern, name: String, parts: &[Expr]) -> Bound {
        let language = self.printer.language;
        let comma = if parts.is_empty() { "" } else { ", " };
        let argument = |part: &Expr| match part {
            Expr::Local(id)
                // One that was given is passed on as it is.
                if self.function.locals[id.0].ty == Type::List
                    && id.0 >= self.function.parameters =>
            {
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

    pub(super) fn level_of(&self, operation: Operation) -> u8 {
        match self.printer.language.operator(operation) {
            Some(Operator::Binds(_, level) | Operator::Takes(_, level, _)) => *level,
            Some(Operator::Call(_)) | None => TIGHTEST,
        }
    }

    /// How tightly the operator binds that is written with a sign between two operands.
    pub(super) fn level_of_sign(&self, sign: &str) -> Option<u8> {
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
    pub(super) fn operator(
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

    pub(super) fn operator_of(&self, operation: Operation, parts: &[Expr]) -> Option<&'p Operator> {
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

    pub(super) fn literal(
        &self,
        digits: &str,
        plain: &Pattern,
        called: &Option<Pattern>,
    ) -> String {
        let pattern = called.as_ref().filter(|_| self.typed.get()).unwrap_or(plain);
        pattern.fill(&[("digits", digits)])
    }

    /// Whether a value is made of literals alone, so that it has no type of its own.
    pub(super) fn is_literal(&self, expr: &Expr) -> bool {
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
