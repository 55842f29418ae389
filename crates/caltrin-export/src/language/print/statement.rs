//! Statements, and what they set.

use super::body::Body;
use super::{Bound, TIGHTEST, Taken};
use crate::document::Document;
use crate::ir::{Expr, LocalId, Operation, Record, RunField, Statement};
use crate::language::Pattern;
use crate::language::pattern::{Around, Piece};

impl<'p> Body<'p, '_> {
    pub(super) fn block(&self, block: &[Statement], last: bool) -> Vec<Document> {
        let ends = block.len().saturating_sub(1);
        self.depth.set(self.depth.get() + 1);
        let lines = block.iter().enumerate();
        let lines = lines.map(|(n, each)| self.statement(each, last && n == ends)).collect();
        self.depth.set(self.depth.get() - 1);
        lines
    }

    pub(super) fn statement(&self, statement: &Statement, last: bool) -> Document {
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
                // An operator of an end must not take what stands beside it.
                let end = |slot: &str, value: &Expr| {
                    let bound = self.expr(value);
                    if bound.level == TIGHTEST || patterns.each.encloses(slot) {
                        return bound.document;
                    }
                    let brackets = [Document::text("("), bound.document, Document::text(")")];
                    Document::Parts(brackets.into())
                };
                let (from, to) = (end("from", from), end("to", to));
                let head = self.filled(&patterns.each, |slot| match slot {
                    "name" => name(*counter),
                    "from" => from.clone(),
                    _ => to.clone(),
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
            Statement::ReadAt(light, index) => {
                let index = index.as_ref().map(|index| self.expr(index).document);
                let pattern = match index {
                    None => &language.read.into,
                    Some(_) => &language.read.into_at,
                };
                self.reading(pattern, *light, index, 0, 0)
            }
            Statement::ReadMany(light, first, count, block) => {
                let [open, close] = &language.read.into_many;
                self.many.set(true);
                self.light.set(Some(*light));
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
                    let (pattern, does) = match (case, &patterns.case_result) {
                        (Statement::Return(value), Some(results)) => {
                            (&results[usize::from(last)], self.expr(value).document)
                        }
                        _ => {
                            let pattern = if last { &patterns.case_last } else { &patterns.case };
                            (pattern, self.statement(case, false))
                        }
                    };
                    lines.push(self.filled(pattern, |slot| match slot {
                        "number" => Document::text(n.to_string()),
                        _ => does.clone(),
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
    pub(super) fn whole(&self, value: Document) -> Document {
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
    pub(super) fn sets(&self, block: &[Statement]) -> Vec<Document> {
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
    pub(super) fn cases(&self, value: &Expr, cases: &[Statement]) -> Document {
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
    pub(super) fn makes_notice(&self) -> bool {
        let makes = |each: &Statement| matches!(each, Statement::Make(Record::Notice, ..));
        self.function.body.iter().any(makes)
    }

    /// A pattern with the slots of the file besides its own.
    pub(super) fn filled_own(
        &self,
        pattern: &Pattern,
        slot: impl Fn(&str) -> Document,
    ) -> Document {
        let own = &self.printer.names.slots;
        self.filled(pattern, |asked| match own.iter().find(|(name, _)| name == asked) {
            Some((_, text)) => Document::text(text.clone()),
            None => slot(asked),
        })
    }

    /// A statement that reads lamps.
    pub(super) fn reading(
        &self,
        pattern: &Pattern,
        light: usize,
        index: Option<Document>,
        first: u32,
        count: u32,
    ) -> Document {
        // What is read next of a lamp is of this one.
        self.light.set(Some(light));
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
    pub(super) fn part_of(&self, record: Record, field: usize, part: usize) -> Bound {
        let language = self.printer.language;
        let light = self.light.get().and_then(|at| self.printer.names.lights.get(at));
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
    pub(super) fn set(
        &self,
        place: &RunField,
        operation: &Option<Operation>,
        value: &Expr,
    ) -> Document {
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

    pub(super) fn run_field(
        &self,
        pattern: &Pattern,
        place: &RunField,
        value: Option<Document>,
    ) -> Bound {
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
    pub(super) fn may_join(&self, local: LocalId, operation: &Option<Operation>) -> bool {
        let dirty = &self.printer.language.word.dirty;
        operation.is_some_and(|operation| {
            self.loose.contains(&local) || !self.printer.is_in(dirty, operation)
        })
    }

    pub(super) fn value_for(&self, local: LocalId, value: &Expr) -> Document {
        match self.loose.contains(&local) {
            true => self.dirty(value).document,
            false => self.expr(value).document,
        }
    }

    pub(super) fn filled(&self, pattern: &Pattern, slot: impl FnMut(&str) -> Document) -> Document {
        let indent = self.printer.language.layout.indent;
        pattern.document(indent, false, slot).indented(0)
    }

    pub(super) fn choice(
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
    pub(super) fn closed(&self, blocks: Vec<(Document, Vec<Document>)>) -> Document {
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
}
