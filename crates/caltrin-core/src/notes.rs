//! Where things stood in the book, kept beside the program.

use std::collections::BTreeMap;

use crate::program::Subject;

/// A line of the book.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SourceNote {
    /// The file that it is in, if it is not the book's own.
    pub file: Option<String>,
    /// Counted from 1.
    pub line: u32,
    /// The text as written, on one line, shortened where it is long.
    pub text: String,
}

/// The book's file name, and the line of each thing in it. A program from the builder has none.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SourceNotes {
    /// The file's name without its folder; empty if there is none.
    pub file: String,
    /// A line for each subject that has one.
    pub lines: BTreeMap<Subject, SourceNote>,
    /// The groups, in the book's order. A program has nothing of them but what they do to its lights.
    pub groups: Vec<GroupNote>,
    /// Where phases, suns, moons, notices and rehearsals stand, in the book's order.
    pub named: Vec<(String, SourceNote)>,
}

/// A group of lights.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct GroupNote {
    /// The book's name for it.
    pub name: String,
    /// Where it stands.
    pub note: SourceNote,
    /// The names of the lights in it, those in the groups in it among them.
    pub lights: Vec<String>,
}
