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
pub mod compilers;
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
use shader::Shader;
pub use target::{
    NAMED_TARGETS, OwnTarget, SHADING_TARGETS, TARGETS, Target, built_in, every_target,
};

/// The target of that name.
pub fn target_named(name: &str) -> Option<&'static dyn Target> {
    every_target().find(|target| target.name() == name)
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
    /// Whether languages with headers get a header and a source file, instead of one file.
    pub split: bool,
}

/// [`export`] with options, as one file.
pub fn export_as(
    checked: &ValidatedProgram,
    notes: &SourceNotes,
    target: &dyn Target,
    options: &ExportOptions,
) -> Exported {
    let one = ExportOptions { split: false, ..options.clone() };
    export_all(checked, notes, &[target], &one).files.remove(0).remove(0)
}

/// What was exported to several languages.
#[derive(Clone, Debug)]
pub struct Exports {
    /// The files of each language, in order: one, or with [`ExportOptions::split`] a header and a source file.
    pub files: Vec<Vec<Exported>>,
    /// What shaders show and what they do not; none where no shading language was asked for.
    pub shader: Option<Shader>,
}

/// Exports a program to several languages. What the files share is made once.
pub fn export_all(
    checked: &ValidatedProgram,
    notes: &SourceNotes,
    targets: &[&dyn Target],
    options: &ExportOptions,
) -> Exports {
    let shades = targets.iter().any(|target| target.is_shading());
    let runs = targets.iter().any(|target| !target.is_shading());
    let plan = if runs { Plan::of(checked, notes) } else { Plan::without_test(checked, notes) };
    let plan = plan.with(options.prefix.clone(), options.names);
    let shader = shades.then(|| Shader::of(checked, &plan));
    let named = |(file_name, text)| Exported { file_name, text };
    let files = |target: &&dyn Target| -> Vec<Exported> {
        let text = match &shader {
            Some(shader) if target.is_shading() => shader::print(shader, &plan, target.language()),
            _ => {
                let split = options.split.then(|| file::print_split(&plan, target.language()));
                match split.flatten() {
                    Some(both) => return both.map(named).into(),
                    None => target.print(&plan),
                }
            }
        };
        vec![named((file_name(&plan, *target), text))]
    };
    let files = targets.iter().map(files).collect();
    Exports { files, shader }
}

/// The name of the file that a plan is exported to.
pub fn file_name(plan: &Plan, target: &dyn Target) -> String {
    file::file_name(plan, target.language())
}
