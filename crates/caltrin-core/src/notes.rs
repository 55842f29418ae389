//! Source positions of the program's parts in the book.

use std::collections::BTreeMap;

use crate::program::Subject;

/// A line of the book.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SourceNote {
    /// The file, if it is not the book's main file.
    pub file: Option<String>,
    /// Line number, from 1.
    pub line: u32,
    /// The text as written, on one line, shortened if it is long.
    pub text: String,
}

/// The book's file name, and the line of each thing in it. A program from the builder has none.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SourceNotes {
    /// The file's name without its folder; empty if there is none.
    pub file: String,
    /// A line for each subject that has one.
    pub lines: BTreeMap<Subject, SourceNote>,
    /// The groups, in the book's order. A program contains only their effects on its lights.
    pub groups: Vec<GroupNote>,
    /// The lines of phases, suns, moons, notices and rehearsals, in the book's order.
    pub named: Vec<(String, SourceNote)>,
}

/// A group of lights.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct GroupNote {
    /// Its name.
    pub name: String,
    /// Its line in the book.
    pub note: SourceNote,
    /// The names of its lights, including those of nested groups.
    pub lights: Vec<String>,
}
