//! Targets: the languages of exports and proofs.

use std::path::Path;

use crate::language::Language;
use crate::plan::Plan;

/// Number of actions before each sample of a proof.
pub const ACTS: usize = 3;

/// Number of the action that sets the first input; inputs are numbered consecutively.
pub const FIRST_SET: u32 = 7;

/// The lamps of a light that a proof evaluates: blocks of adjacent lamps.
pub type Blocks = Vec<Vec<(u32, u32)>>;

/// How to find a compiler or interpreter and print its version.
#[derive(Clone, Copy, Debug)]
pub struct Tool {
    /// The command.
    pub command: &'static str,
    /// The arguments that print its version.
    pub version: &'static [&'static str],
    /// The Debian package that contains it.
    pub package: &'static str,
}

/// A language.
pub trait Target: Sync {
    /// Its name on the command line, lower case.
    fn name(&self) -> &'static str;
    /// The extension of its files.
    fn extension(&self) -> &'static str;
    /// The language as data.
    fn language(&self) -> &'static Language;
    /// Prints the file.
    fn print(&self, plan: &Plan) -> String;
    /// Prints the prover: a program that reads samples from the file in its first argument and
    /// writes all values of `source` at them to the file in its second. Without arguments, it runs
    /// the self-test and exits with 0 if it passes.
    fn prover(&self, plan: &Plan, blocks: &Blocks) -> String;
    /// The name of the prover's file.
    fn prover_name(&self) -> &'static str;
    /// The required tools, the compiler first.
    fn tools(&self) -> &'static [Tool];
    /// The commands that compile the prover in a folder; empty for interpreters.
    fn compile(&self, folder: &Path, source: &str) -> Vec<Vec<String>>;
    /// The command that runs the prover.
    fn run(&self, folder: &Path) -> Vec<String>;
}
