//! A target: a language that programs are exported to and proved in.

use std::path::Path;

use crate::plan::Plan;

/// How many things the game does with its clock and choices before each moment of a proof.
pub const ACTS: usize = 3;

/// The number of the act that sets the first input; that of the next sets the next.
pub const FIRST_SET: u32 = 7;

/// The lamps that a proof reads of a light: blocks of neighbors.
pub type Blocks = Vec<Vec<(u32, u32)>>;

/// How a compiler or interpreter is found and asked for its version.
#[derive(Clone, Copy, Debug)]
pub struct Tool {
    /// The command.
    pub command: &'static str,
    /// The arguments that make it tell its version.
    pub version: &'static [&'static str],
    /// The Debian package that has it.
    pub package: &'static str,
}

/// A language.
pub trait Target: Sync {
    /// Its name for the command line, lower case.
    fn name(&self) -> &'static str;
    /// The ending of its files.
    fn extension(&self) -> &'static str;
    /// Words that no name may be.
    fn reserved(&self) -> &'static [&'static str] {
        &[]
    }
    /// The whole file.
    fn print(&self, plan: &Plan) -> String;
    /// A program that reads moments from its first argument and writes every value that the file
    /// `source` gives at them to its second; with no arguments it runs the self-test and exits with 0 if
    /// it passes.
    fn prover(&self, plan: &Plan, blocks: &Blocks) -> String;
    /// The name of the prover's file.
    fn prover_name(&self) -> &'static str;
    /// What must be installed, the compiler first.
    fn tools(&self) -> &'static [Tool];
    /// The commands that compile the prover in a folder; none for interpreters.
    fn compile(&self, folder: &Path, source: &str) -> Vec<Vec<String>>;
    /// The command that runs it.
    fn run(&self, folder: &Path) -> Vec<String>;
}
