//! Pieces of a file that differ little between languages.

use caltrin_core::program::{Entries, Table};
use caltrin_core::sound::TICKS;

use super::Syntax;
use crate::plan::InputPlan;

/// What the values of a setter are called.
pub fn setter_values(input: &InputPlan) -> &'static [&'static str] {
    match (input.flag, input.suffixes) {
        (true, _) => &["on"],
        (false, []) => &["to"],
        (false, parts) => parts,
    }
}

/// The entries of a table, eight a line, each line indented.
pub fn table_lines<S: Syntax>(syntax: &S, table: &Table, indent: &str) -> String {
    let all: Vec<String> = match &table.entries {
        Entries::Numbers(all) => all.iter().map(|v| syntax.number(*v)).collect(),
        // A place and a level each: six digits and two.
        Entries::Words(all) => all.iter().map(|word| format!("{word:#x}")).collect(),
    };
    let lines = all.chunks(8).map(|line| format!("{indent}{}", line.join(", ")));
    lines.collect::<Vec<_>>().join(",\n")
}

/// What a table is, where that does not speak for itself.
pub fn about_table(table: &Table) -> Option<String> {
    let Entries::Words(words) = &table.entries else { return None };
    Some(format!(
        "Envelope of a sound: {} entries, each a position in 1/{TICKS} s (upper 24 bits) and a level in 1/255 of full scale (lower 8 bits). {} bytes.",
        words.len(),
        table.bytes()
    ))
}
