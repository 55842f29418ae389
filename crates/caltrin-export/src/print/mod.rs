//! What the printers share: expressions, statements and names. A language says how it spells the
//! few things that differ.

mod event;
mod kernel;
mod naming;
mod pieces;
mod prover;
mod self_test;
mod words;
mod wrap;

use crate::language::Language;
use crate::names::{Case, cased};
use crate::plan::Helper;

pub use event::{
    ALL_DONE, DUE, NoticeSyntax, SETTLES, describe_event, given, notice_code, notice_member,
    notice_numbers, summed_values, texts,
};
pub use kernel::{KERNEL, kernel_code};
pub use naming::{ChoiceNames, EventNames, FileNames, InputNames, LightNames};
pub use pieces::{about_table, setter_values, table_lines};
pub use prover::{prover_acts, prover_sets};
pub use self_test::{SelfTestSpelling, self_test_code};
pub use words::{
    about_value, at_line, describe, describe_choice, describe_input, describe_light, tag_constants,
};
pub use wrap::wrapped;

/// How a language spells things.
pub trait Syntax {
    /// How functions are written.
    const FUNCTIONS: Case;
    /// How types are written.
    const TYPES: Case;
    /// How tables are written.
    const TABLES: Case;
    /// How locals are written.
    const LOCALS: Case;
    /// How the run's fields are written.
    const FIELDS: Case;
    /// How constants are written.
    const CONSTANTS: Case;
    /// Whether the run's fields stand beside functions and types, and share no name with them.
    const MEMBERS: bool = false;
    /// One step of indentation.
    const INDENT: &'static str;

    /// The language as data: what the kernel is printed by, and reserved words.
    fn language(&self) -> &'static Language;
    /// A double.
    fn number(&self, v: f64) -> String;
    /// A 32-bit word.
    fn word(&self, v: u32) -> String;
    /// What the run's input is set to: which one of many, and which part.
    fn input(&self, input: &InputNames, index: Option<&str>, part: Option<usize>) -> String;
    /// The lamp's index where something is looked up by it.
    fn place(&self, index: &str) -> String {
        index.to_owned()
    }
    /// The line that sets an input, or a part of it.
    fn put(
        &self,
        input: &InputNames,
        index: Option<&str>,
        part: Option<usize>,
        value: &str,
    ) -> String {
        format!("{} = {value};", self.input(input, index, part))
    }
    /// On or off.
    fn flag(&self, on: bool) -> String {
        on.to_string()
    }
    /// A kernel function's name.
    fn helper(&self, helper: Helper) -> String {
        cased(helper.name(), Self::FUNCTIONS)
    }
}
