//! Targets: the languages of exports and proofs.

use std::path::Path;
use std::sync::LazyLock;

use crate::file;
use crate::language::{self, Language, Pattern};
use crate::plan::Plan;
use crate::sample::Blocks;
use crate::shader::{self, Shader};

/// How to find a compiler or interpreter and print its version.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Tool {
    /// The command.
    pub command: String,
    /// The arguments that print its version.
    pub version: Vec<String>,
    /// The Debian package that contains it.
    pub package: String,
}

/// A language that books are exported to.
pub trait Target: Sync {
    /// Its name on the command line, lower case.
    fn name(&self) -> &str;
    /// The language as data.
    fn language(&self) -> &Language;
    /// Whether it is a shading language, which shows what needs no run ([`crate::shader`]).
    fn is_shading(&self) -> bool {
        self.language().shader.is_some()
    }
    /// Prints the file; a shader as [`crate::shader::Shader::unmeasured`].
    fn print(&self, plan: &Plan) -> String {
        match self.is_shading() {
            true => shader::print(&Shader::unmeasured(plan), plan, self.language()),
            false => file::print(plan, self.language()),
        }
    }
    /// Prints the prover: a program that reads samples from the file in its first argument and writes all values of the
    /// book at them to the file in its second. Without arguments, it runs the self-test and exits with 0 if it passes.
    fn prover(&self, plan: &Plan, blocks: &Blocks) -> String {
        file::prover(plan, self.language(), blocks)
    }
    /// The name of the prover's file; none where the language does not say how files are proved.
    fn prover_name(&self) -> Option<&str> {
        Some(self.language().proof.as_ref()?.file.as_str())
    }
    /// The required tools, the compiler first.
    fn tools(&self) -> Vec<Tool> {
        let tools = self.language().proof.iter().flat_map(|proof| &proof.tools);
        let tools = tools.map(|tool| Tool {
            command: tool.command.clone(),
            version: tool.version.clone(),
            package: tool.package.clone(),
        });
        tools.collect()
    }
    /// The commands that compile the prover of a file in a folder; empty for interpreters.
    fn compile(&self, folder: &Path, source: &str) -> Vec<Vec<String>> {
        let all = self.language().proof.iter().flat_map(|proof| &proof.compile);
        all.map(|command| filled(command, folder, source)).collect()
    }
    /// The command that runs the prover.
    fn run(&self, folder: &Path) -> Vec<String> {
        let proof = self.language().proof.as_ref();
        proof.map_or(Vec::new(), |proof| filled(&proof.run, folder, ""))
    }
}

fn filled(command: &[Pattern], folder: &Path, source: &str) -> Vec<String> {
    let folder = folder.display().to_string();
    let word = |word: &Pattern| word.fill(&[("folder", folder.as_str()), ("file", source)]);
    command.iter().map(word).collect()
}

/// A language that is built in.
pub struct BuiltIn {
    name: &'static str,
    language: &'static LazyLock<Language>,
}

impl Target for BuiltIn {
    fn name(&self) -> &str {
        self.name
    }

    fn language(&self) -> &Language {
        self.language
    }
}

/// Targets that are built in and that an export is written to if none is named, in the order in which they are listed.
pub static TARGETS: [&dyn Target; 4] = [
    &BuiltIn { name: "rust", language: &language::RUST },
    &BuiltIn { name: "c", language: &language::C },
    &BuiltIn { name: "csharp", language: &language::CSHARP },
    &BuiltIn { name: "js", language: &language::JAVASCRIPT },
];

/// Targets that are built in and written only if they are named.
pub static NAMED_TARGETS: [&dyn Target; 5] = [
    &BuiltIn { name: "cpp", language: &language::CPP },
    &BuiltIn { name: "ts", language: &language::TYPESCRIPT },
    &BuiltIn { name: "java", language: &language::JAVA },
    &BuiltIn { name: "python", language: &language::PYTHON },
    &BuiltIn { name: "lua", language: &language::LUA },
];

/// Shading languages that are built in; they are written only if they are named.
pub static SHADING_TARGETS: [&dyn Target; 3] = [
    &BuiltIn { name: "wgsl", language: &language::WGSL },
    &BuiltIn { name: "glsl", language: &language::GLSL },
    &BuiltIn { name: "hlsl", language: &language::HLSL },
];

/// All targets that are built in, shading languages included.
pub fn every_target() -> impl Iterator<Item = &'static dyn Target> {
    built_in().chain(SHADING_TARGETS)
}

/// All targets that are built in, of languages for whole runs.
pub fn built_in() -> impl Iterator<Item = &'static dyn Target> {
    TARGETS.into_iter().chain(NAMED_TARGETS)
}

/// A language of somebody's own, from a file.
pub struct OwnTarget {
    name: String,
    language: Language,
}

impl OwnTarget {
    /// A target by what a language file says. Its name is that of the file.
    pub fn new(name: &str, language: Language) -> OwnTarget {
        OwnTarget { name: name.to_owned(), language }
    }
}

impl Target for OwnTarget {
    fn name(&self) -> &str {
        &self.name
    }

    fn language(&self) -> &Language {
        &self.language
    }
}
