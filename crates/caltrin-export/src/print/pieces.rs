//! Pieces of a file that differ little between languages.

use caltrin_core::program::{Entries, Table};
use caltrin_core::sound::TICKS;

use crate::plan::InputPlan;

/// What the values of a setter are called.
pub fn setter_values(input: &InputPlan) -> &'static [&'static str] {
    match (input.flag, input.suffixes) {
        (true, _) => &["on"],
        (false, []) => &["to"],
        (false, parts) => parts,
    }
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
