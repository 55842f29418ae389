//! Programs as source code, and the proof that the code gives bit-identical results.
//!
//! The way of the data:
//!
//! 1. [`plan::Plan::of`] decides once, for all languages, what a file holds: functions, order,
//!    shared parts, known answers.
//! 2. [`lower`] makes one tree of functions of it ([`ir`]), the kernel included. A [`language::Language`], which is a file
//!    of data, says how the tree and the file around it ([`mod@file`]) are spelled.
//! 3. [`prove::prove`] compiles and runs the files and compares every value with the evaluator, bit by
//!    bit. Putting them in place is the front door's (`caltrin::files`).

pub mod bindings;
mod document;
pub mod file;
pub mod ir;
pub mod language;
pub mod lower;
pub mod manifest;
pub mod names;
pub mod number;
pub mod plan;
pub mod print;
pub mod prove;
pub mod sample;
pub mod target;

use caltrin_core::{SourceNotes, ValidatedProgram};

pub use manifest::{Manifest, manifest};
pub use names::{FilePrefix, PrefixError};
pub use plan::Plan;
pub use target::{NAMED_TARGETS, OwnTarget, TARGETS, Target, built_in};

/// The target of that name.
pub fn target_named(name: &str) -> Option<&'static dyn Target> {
    built_in().find(|target| target.name() == name)
}

/// An exported file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Exported {
    /// Its name, without a folder: letters, digits, `_` and one `.`.
    pub file_name: String,
    /// Its text.
    pub text: String,
}

/// Exports a program to one language. `notes` has the book's lines for comments, or is empty.
pub fn export(checked: &ValidatedProgram, notes: &SourceNotes, target: &dyn Target) -> Exported {
    export_as(checked, notes, target, None)
}

/// [`export`] under another name than the book's.
pub fn export_as(
    checked: &ValidatedProgram,
    notes: &SourceNotes,
    target: &dyn Target,
    prefix: Option<&FilePrefix>,
) -> Exported {
    let plan = Plan::of(checked, notes).named(prefix);
    Exported { file_name: file_name(&plan, target), text: target.print(&plan) }
}

/// The name of the file that a plan is exported to.
pub fn file_name(plan: &Plan, target: &dyn Target) -> String {
    file::file_name(plan, target.language())
}
