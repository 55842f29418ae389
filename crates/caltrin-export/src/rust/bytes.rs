//! A run as bytes and back, in safe code.

use std::fmt::Write;

use super::{Rs, Syntax};
use crate::plan::{InputPlan, Plan, clock_fields};
use crate::print::FileNames;

/// What a number of a run may be: from, to, and what it is where the bytes say anything else.
type Range = [f64; 3];

/// The fields of a run that are numbers: how each number of one is reached, and what it may be.
struct Numbers {
    field: String,
    /// How many there are of it, if each instance or lamp has its own.
    many: bool,
    parts: Vec<Range>,
}

fn numbers(plan: &Plan, names: &FileNames) -> Vec<Numbers> {
    let one = |field: &str, range: Range| Numbers {
        field: field.to_owned(),
        many: false,
        parts: vec![range],
    };
    let mut all = vec![one("now", [-1e9, 1e9, 0.0])];
    if plan.has_due() {
        // Before its moment nothing is due, so an earlier one only costs a look.
        all.push(one("due", [-1e9, 2e9, -1e9]));
    }
    for (name, _, start) in plan.clock.iter().flat_map(clock_fields) {
        all.push(one(name, [-1e9, 1e9, start]));
    }
    for (choice, names) in plan.choices.iter().zip(&names.choices).filter(|(c, _)| c.fades()) {
        all.push(one(&names.since, [-2e9, 1e9, -2e9]));
        let parts = (0..choice.options.len()).map(|n| [0.0, 1.0, f64::from(u8::from(n == 0))]);
        all.push(Numbers { field: names.from.clone(), many: false, parts: parts.collect() });
    }
    for (input, names) in plan.inputs.iter().zip(&names.inputs).filter(|(i, _)| !i.flag) {
        let range = |default: &f64| [input.bounds.lo, input.bounds.hi, *default];
        all.push(Numbers {
            field: names.field.clone(),
            many: input.count.is_some(),
            parts: input.default.iter().map(range).collect(),
        });
    }
    all
}

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

/// The methods that save and restore a run.
pub(super) fn methods(plan: &Plan, names: &FileNames) -> String {
    let numbers = numbers(plan, names);
    let is_flag = |(input, _): &(&InputPlan, _)| input.flag;
    let flags: Vec<_> = plan.inputs.iter().zip(&names.inputs).filter(is_flag).collect();
    let (count, flag_count) = plan.slots();
    let fixed: usize = numbers
        .iter()
        .take(numbers.len() - (plan.inputs.len() - flags.len()))
        .map(|n| n.parts.len())
        .sum();
    let words_at = 4 + 8 * (fixed + count);
    let flags_at = words_at + 4 * (1 + plan.choices.len());
    let bytes = flags_at + flag_count;

    let (mut puts, mut takes) = (String::new(), String::new());
    for Numbers { field, many, parts } in &numbers {
        let spelled: Vec<String> = parts
            .iter()
            .map(|range| format!("number({})", range.map(|v| Rs.number(v)).join(", ")))
            .collect();
        let value = match &spelled[..] {
            [one] => one.clone(),
            all => format!("[{}]", all.join(", ")),
        };
        let _ = match (many, parts.len()) {
            (false, 1) => writeln!(puts, "        put(&self.{field}.to_le_bytes());"),
            (true, 1) | (false, _) => {
                writeln!(puts, "        self.{field}.iter().for_each(|v| put(&v.to_le_bytes()));")
            }
            (true, _) => writeln!(
                puts,
                "        self.{field}.iter().flatten().for_each(|v| put(&v.to_le_bytes()));"
            ),
        };
        let _ = match many {
            false => writeln!(takes, "        run.{field} = {value};"),
            true => writeln!(
                takes,
                "        for one in &mut run.{field} {{\n            *one = {value};\n        }}"
            ),
        };
    }
    puts.push_str("        put(&self.seed.to_le_bytes());\n");
    let mut at = words_at + 4;
    for (choice, names) in plan.choices.iter().zip(&names.choices) {
        let (field, last) = (&names.field, choice.options.len() - 1);
        let _ = writeln!(puts, "        put(&self.{field}.to_le_bytes());");
        let _ = writeln!(takes, "        run.{field} = word({at}).min({last});");
        at += 4;
    }
    for (input, names) in &flags {
        let field = &names.field;
        let _ = match input.count {
            None => {
                let _ = writeln!(takes, "        run.{field} = bytes[{at}] != 0;");
                writeln!(puts, "        put(&[u8::from(self.{field})]);")
            }
            Some(count) => {
                let end = at + count as usize;
                let _ = writeln!(
                    takes,
                    "        for (one, byte) in run.{field}.iter_mut().zip(&bytes[{at}..{end}]) {{\n            \
                     *one = *byte != 0;\n        }}"
                );
                writeln!(puts, "        self.{field}.iter().for_each(|on| put(&[u8::from(*on)]));")
            }
        };
        at += input.slots();
    }
    format!(
        "\n    /// How many bytes a saved run takes.\n    pub const BYTES: usize = {bytes};\n\n    \
         /// The run as bytes, little-endian, for a saved game: the same on every machine.\n    \
         pub fn to_bytes(&self) -> [u8; Run::BYTES] {{\n        let mut bytes = [0; Run::BYTES];\n        let mut at = 0;\n        \
         let mut put = |value: &[u8]| {{\n            bytes[at..at + value.len()].copy_from_slice(value);\n            \
         at += value.len();\n        }};\n        put(&{mark:#010x}u32.to_le_bytes());\n{puts}        bytes\n    }}\n\n    \
         /// The run that was saved as these bytes; `None` if they are not a run of this file. Any bytes are safe: a number\n    \
         /// that no run has is at its default.\n    \
         pub fn from_bytes(bytes: &[u8]) -> Option<Run> {{\n        \
         if bytes.len() != Run::BYTES || !bytes.starts_with(&{mark:#010x}u32.to_le_bytes()) {{\n            return None;\n        }}\n        \
         let word = |at: usize| u32::from_le_bytes([bytes[at], bytes[at + 1], bytes[at + 2], bytes[at + 3]]);\n        \
         let mut at = 4;\n        let mut number = |lo: f64, hi: f64, otherwise: f64| {{\n            \
         let mut one = [0; 8];\n            one.copy_from_slice(&bytes[at..at + 8]);\n            at += 8;\n            \
         let value = f64::from_le_bytes(one);\n            if value >= lo && value <= hi {{ value }} else {{ otherwise }}\n        }};\n        \
         let mut run = Run::start(word({words_at}));\n{takes}        Some(run)\n    }}\n",
        mark = mark(plan),
    )
}
