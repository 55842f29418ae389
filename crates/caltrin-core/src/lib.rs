//! The pure part of Caltrin: no files, no text, no printing.
//!
//! The way of the data:
//!
//! 1. A front end (the lightbook's resolver, or [`build`]) makes expressions in a [`builder::ProgramBuilder`],
//!    where each is checked for [`kind::Kind`] and [`kind::ChangeRate`] as it is made.
//! 2. [`builder::ProgramBuilder::finish`] gives a [`program::Program`]; [`program::Program::validate`] turns it
//!    into a [`checked::ValidatedProgram`] or tells every [`checked::Problem`].
//! 3. A [`run::Run`] reads lamps at any moment; a [`trace::LampTrace`] keeps what it read.
//!
//! All arithmetic on the way from a moment to a value is in [`kernel`] and [`sky`], which every exported
//! language repeats bit for bit.

pub mod bounds;
pub mod build;
mod bytecode;
pub mod choice;
pub mod clock;
pub mod color;
pub mod curve;
pub mod interval;
pub mod kernel;
pub mod kind;
pub mod notes;
pub mod observer;
pub mod period;
pub mod program;
pub mod program_builder;
pub mod pure;
pub mod quantity;
pub mod rehearsal;
pub mod run;
pub mod save;
pub mod semantic_error;
pub mod sky;
pub mod sound;
pub mod text;
pub mod trace;
pub mod validated;

/// Stands in the first lines of every file that Caltrin makes: code, and pictures.
pub const MADE: &str = "Made by caltrin";

pub use notes::{GroupNote, SourceNote, SourceNotes};
pub use program::Program;
pub use run::Run;
pub use validated::{Problem, ValidatedProgram};
