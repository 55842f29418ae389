//! A run as bytes and back, where a language does that in code.

use super::{RunFieldPlan, SourceFile};
use crate::ir::Type;
use crate::language::shape::{self, Fill};
use crate::plan::Plan;

/// What tells the runs of one book from those of another: its name, and the names and sizes of all that a run keeps.
fn mark(plan: &Plan) -> u32 {
    let mut mark = caltrin_core::kernel::scramble(0x7e57_ab1e);
    let mut take = |text: &str| {
        for byte in text.bytes().chain([0]) {
            mark = caltrin_core::kernel::scramble(mark ^ u32::from(byte));
        }
    };
    take(&plan.book);
    plan.choices
        .iter()
        .for_each(|choice| take(&format!("{}[{}]", choice.name, choice.options.len())));
    plan.inputs.iter().for_each(|input| take(&format!("{}[{}]", input.name, input.slots())));
    mark
}

impl SourceFile<'_> {
    /// What saves and restores a run: a mark, its doubles, its words, and a byte for each that is on or off.
    pub(super) fn saving(&self, column: usize) -> Option<Vec<String>> {
        let saving = self.language.saving.as_ref()?;
        let of = |ty: Type| self.fields.iter().filter(move |field| field.ty == ty);
        let bytes = |ty: Type| of(ty).map(|field| field.slots() * field.bytes()).sum::<usize>();
        let words_at = 4 + bytes(Type::F64);
        let flags_at = words_at + bytes(Type::Word);
        let hex =
            self.language.literal.hex.fill(&[("digits", &format!("{:08x}", mark(self.plan)))]);
        let all = shape::lines(&saving.text, column, |slot, at| match slot {
            "puts" => Fill::Lines(self.fields.iter().map(|field| self.put(field)).collect()),
            "takes" => Fill::Lines(self.takes(at, words_at, flags_at)),
            "bytes" => Fill::Text((flags_at + bytes(Type::Bool)).to_string()),
            "words_at" => Fill::Text(words_at.to_string()),
            "mark" => Fill::Text(hex.clone()),
            slot => self.slot(slot, at),
        });
        Some(all)
    }

    fn put(&self, field: &RunFieldPlan) -> String {
        let saving = self.language.saving.as_ref().map(|saving| &saving.put);
        let which = match (field.ty, field.count.is_some(), field.parts) {
            (Type::Word, ..) => 3,
            (Type::Bool, false, _) => 4,
            (Type::Bool, true, _) => 5,
            (_, false, 1) => 0,
            (_, true, 1) | (_, false, _) => 1,
            (_, true, _) => 2,
        };
        let name = self.field_name(field).0;
        saving.map_or(String::new(), |put| put[which].fill(&[("field", name)]))
    }

    fn takes(&self, column: usize, words_at: usize, flags_at: usize) -> Vec<String> {
        let Some(saving) = &self.language.saving else { return Vec::new() };
        let printer = self.printer(column);
        let (mut word, mut flag) = (words_at, flags_at);
        let mut lines = Vec::new();
        for field in &self.fields {
            let name = self.field_name(field).0;
            let mut add = |shape: &crate::language::Shape, values: &[(&str, &str)]| {
                let text = shape.fill(values);
                lines.extend(text.lines().map(str::to_owned));
            };
            match field.ty {
                Type::Word => {
                    let (at, last) = (word.to_string(), field.bounds[0][1].to_string());
                    // The seed is given where the run starts again.
                    if !field.public {
                        let values = [("field", name), ("at", at.as_str()), ("last", &last)];
                        add(&saving.take_other[0], &values);
                    }
                    word += field.bytes();
                }
                Type::Bool => {
                    let (at, end) = (flag.to_string(), (flag + field.slots()).to_string());
                    let shape = &saving.take_other[if field.count.is_some() { 2 } else { 1 }];
                    add(shape, &[("field", name), ("at", &at), ("end", &end)]);
                    flag += field.slots();
                }
                _ => {
                    let each = field.first.iter().zip(&field.bounds).map(|(first, [lo, hi])| {
                        let [lo, hi, first] = [*lo, *hi, *first].map(|v| printer.number(v));
                        let values = [("lo", lo.as_str()), ("hi", &hi), ("otherwise", &first)];
                        saving.number.fill(&values)
                    });
                    let each: Vec<String> = each.collect();
                    let value = match &each[..] {
                        [one] => one.clone(),
                        all => saving.numbers.fill(&[("values", &all.join(", "))]),
                    };
                    let many = field.count.is_some() && !field.varied;
                    let shape = &saving.take[usize::from(many)];
                    add(shape, &[("field", name), ("value", &value)]);
                }
            }
        }
        lines
    }
}
