//! What the printers share: expressions, statements and names. A language says how it spells the
//! few things that differ.

mod code;
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
use crate::plan::{Helper, Type};

pub use code::Scope;
pub use event::{
    ALL_DONE, DUE, MOST_AT_ONCE, NoticeSyntax, SETTLES, describe_event, each_index, event_code,
    given, moment_lines, named, notice_code, notice_member, notice_numbers, spark_code,
    summed_values, texts,
};
pub use kernel::{KERNEL, kernel_code};
pub use naming::{ChoiceNames, EventNames, FileNames, InputNames, LightNames};
pub use pieces::{about_table, choice_code, clock_code, clock_names, setter_values, table_lines};
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
    /// A single as a lamp's constant field.
    fn single(&self, v: f32) -> String;
    /// One of two values; the parts are safe to join.
    fn choose(&self, condition: &str, then: &str, otherwise: &str) -> String {
        format!("{condition} ? {then} : {otherwise}")
    }
    /// A double turned into a single; `value` may be any expression.
    fn convert(&self, value: &str) -> String;
    /// The lamp's index as a double; `index` is more than a name where `whole` says so.
    fn index_number(&self, index: &str, whole: bool) -> String;
    /// A whole quotient of two 32-bit numbers.
    fn quotient(&self, index: &str, by: u32) -> String {
        format!("{index} / {}", self.word(by))
    }
    /// What the run's input is set to: which one of many, and which part.
    fn input(&self, input: &InputNames, index: Option<&str>, part: Option<usize>) -> String;
    /// The lamp's index where something is looked up by it.
    fn place(&self, index: &str) -> String {
        index.to_owned()
    }
    /// The first moment after another at which the clock comes to show an hour.
    fn strikes(&self, prefix: &str, hour: &str, after: &str) -> String;
    /// Which spark of a pool is free.
    fn free(&self, prefix: &str, name: &str) -> String;
    /// A double that is a whole number as an index.
    fn whole(&self, value: &str) -> String;
    /// The line that sends a notice.
    fn send(&self, prefix: &str, what: &str) -> String;
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
    /// The option that the run's choice is at.
    fn chosen(&self, choice: &ChoiceNames) -> String;
    /// How much an option of the run's choice counts.
    fn weight(&self, choice: &ChoiceNames, option: u32) -> String;
    /// On or off.
    fn flag(&self, on: bool) -> String {
        on.to_string()
    }
    /// A table as an argument.
    fn table(&self, name: &str) -> String {
        name.to_owned()
    }
    /// Whether the branches of [`Syntax::choose`] stand in blocks of their own.
    const BLOCKS: bool = false;
    /// How equality of two doubles is asked.
    const EQUAL: &'static str = "==";
    /// Whether both are so.
    const AND: &'static str = "&&";
    /// Whether one is so.
    const OR: &'static str = "||";
    /// What stands before what is not so.
    const NOT: &'static str = "!";
    /// The line that closes the block that [`Syntax::when`] opens, if there is one.
    const END: Option<&'static str> = Some("}");
    /// A kernel function's name.
    fn helper(&self, helper: Helper) -> String {
        cased(helper.name(), Self::FUNCTIONS)
    }
    /// `const double x = ...;`
    fn constant(&self, ty: Type, name: &str, value: &str) -> String;
    /// The opening of a block that is done under a condition.
    fn when(&self, condition: &str) -> String {
        format!("if ({condition}) {{")
    }
    /// A return on one line under a condition, where the language's style has it.
    fn when_return(&self, condition: &str, value: &str) -> Option<String> {
        Some(format!("if ({condition}) return {value};"))
    }
    /// The value of a function; `last` at its very end.
    fn give(&self, value: &str, last: bool) -> String {
        let _ = last;
        format!("return {value};")
    }
}
