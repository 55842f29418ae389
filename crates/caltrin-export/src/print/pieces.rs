//! Pieces of a file that differ little between languages.

use crate::plan::InputPlan;

/// What the values of a setter are called.
pub fn setter_values(input: &InputPlan) -> &'static [&'static str] {
    match (input.flag, input.suffixes) {
        (true, _) => &["on"],
        (false, []) => &["to"],
        (false, parts) => parts,
    }
}
