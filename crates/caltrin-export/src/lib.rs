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
pub mod shader;
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
    export_as(checked, notes, target, &ExportOptions::default())
}

/// What an exported file has otherwise than by default.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ExportOptions {
    /// The name that it has in the code instead of the book's.
    pub prefix: Option<FilePrefix>,
    /// Whether it has tables of names, for hosts that bind at run time: look-up by name, reads of all lights into a list
    /// of numbers, and inputs, choices and events by index.
    pub names: bool,
}

/// [`export`] with options.
pub fn export_as(
    checked: &ValidatedProgram,
    notes: &SourceNotes,
    target: &dyn Target,
    options: &ExportOptions,
) -> Exported {
    let plan = Plan::of(checked, notes).with(options.prefix.clone(), options.names);
    Exported { file_name: file_name(&plan, target), text: target.print(&plan) }
}

/// The name of the file that a plan is exported to.
pub fn file_name(plan: &Plan, target: &dyn Target) -> String {
    file::file_name(plan, target.language())
}
