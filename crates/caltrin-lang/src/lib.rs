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
