//! The pure computation of Caltrin: no files, no text front end, no printing.
//!
//! Data flow:
//!
//! 1. A front end (the resolver of lightbooks, or [`build`]) creates expressions in a
//!    [`program_builder::ProgramBuilder`], which checks the [`kind::Kind`] and [`kind::ChangeRate`] of each.
//! 2. [`program_builder::ProgramBuilder::finish`] returns a [`program::Program`]. [`program::Program::validate`]
//!    returns a [`validated::ValidatedProgram`], or every [`validated::Problem`].
//! 3. A [`run::Run`] evaluates lamps at any moment; a [`trace::LampTrace`] stores samples.
//!
//! All arithmetic from a moment to a value is in [`kernel`] and [`sky`]; exported code repeats it bit for bit.

pub mod baked_easing;
pub mod bounds;
pub mod build;
mod bytecode;
pub mod choice;
pub mod clock;
pub mod color;
pub mod curve;
pub mod flash;
pub mod interval;
pub mod kernel;
pub mod kind;
pub mod notes;
pub mod observer;
pub mod period;
pub mod player;
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
