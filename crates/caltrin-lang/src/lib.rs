//! The lightbook language.
//!
//! The way of the data:
//!
//! 1. [`syntax::lex`] splits the text into tokens that cover all of it.
//! 2. [`parser::parse`] makes a lossless tree, whatever the text, and tells mistakes of form.
//! 3. [`read`] resolves names and kinds and makes the program with `caltrin_core::draft`, keeping
//!    beside it where each thing stood ([`Origins`]); then the program is validated.
//!
//! Every stage tells all its mistakes as [`Diagnostic`]s; none of them prints.

pub mod diagnostic;
mod literal;
pub mod parser;
mod resolve;
pub mod syntax;
pub mod words;

pub use diagnostic::{Diagnostic, Label, Lines, Severity};
pub use resolve::{Origins, Reading, read};

/// A time as the language writes it (`450ms`, `2s`, `1.5min`), or a plain number of seconds.
pub fn time(text: &str) -> Option<caltrin_core::quantity::Seconds> {
    use caltrin_core::kind::Kind;
    use caltrin_core::program::Constant;
    let (sign, digits) = text.strip_prefix('-').map_or((1.0, text), |rest| (-1.0, rest));
    if !digits.starts_with(|c: char| c.is_ascii_digit()) {
        return None;
    }
    match literal::number(digits) {
        Ok((Constant::Scalar(v), Kind::Time | Kind::Number)) if !digits.ends_with('%') => {
            Some(caltrin_core::quantity::Seconds(sign * v))
        }
        _ => None,
    }
}
