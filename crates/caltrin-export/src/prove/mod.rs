//! The proof: exported code is compiled with the real compiler and run at many times, and every
//! value is compared with the evaluator's, bit by bit.

mod cases;
mod compare;
mod protocol;
pub mod shader;

use std::fs;
use std::io;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use caltrin_core::{SourceNotes, ValidatedProgram};
use thiserror::Error;

use crate::plan::Plan;
use crate::target::{Target, Tool};
use cases::blocks;
pub use cases::{Act, Asked, Verb, moments, moments_with};
pub use compare::Mismatch;
use compare::compare;

/// The result of a proof.
#[derive(Clone, Debug, PartialEq)]
pub enum Outcome {
    /// The code was run and compared.
    Compared {
        /// The compiler's version line.
        version: String,
        /// Number of samples: one lamp at one time, with all its fields.
        samples: u64,
        /// Number of values compared.
        values: u64,
        /// Number of mismatches.
        mismatches: u64,
        /// The first few mismatches.
        first: Vec<Mismatch>,
    },
    /// A tool is missing; nothing was run.
    NotTried {
        /// The missing tool.
        missing: Tool,
    },
    /// The code did not compile, did not run to its end, or failed its self-test.
    Failed {
        /// The compiler's version line.
        version: String,
        /// Its output.
        said: String,
    },
}

impl Outcome {
    /// Whether the code was run and its results were bit-identical.
    pub fn holds(&self) -> bool {
        matches!(self, Outcome::Compared { mismatches: 0, values: 1.., .. })
    }
}

/// Why a proof could not start.
#[derive(Debug, Error)]
#[error("cannot work in `{}`: {cause}", .path.display())]
pub struct ProveError {
    path: PathBuf,
    #[source]
    cause: io::Error,
}

/// The version line of a tool, without a remark in parentheses, or `None` if it cannot be started.
pub fn version(tool: &Tool) -> Option<String> {
    let out = Command::new(&tool.command)
        .args(&tool.version)
        .stdin(Stdio::null())
        .output()
        .ok()
        .filter(|out| out.status.success())?;
    let text = String::from_utf8_lossy(&out.stdout).into_owned();
    let first = text.lines().next().unwrap_or_default().trim();
    let first = match first.strip_suffix(')').and_then(|open| open.rsplit_once(" (")) {
        Some((before, _)) if before.ends_with(|c: char| c.is_ascii_digit()) => before,
        _ => first,
    };
    let bare = first.strip_prefix('v').is_some_and(|v| v.starts_with(|c: char| c.is_ascii_digit()));
    Some(if bare { format!("{} {first}", tool.command) } else { first.to_owned() })
}

/// Exports to `target` into a new folder under `folder`, compiles, runs and compares.
pub fn prove(
    checked: &ValidatedProgram,
    notes: &SourceNotes,
    target: &dyn Target,
    asked: &[Asked],
    folder: &Path,
) -> Result<Outcome, ProveError> {
    let Some(prover) = target.prover_name() else {
        let said = "the language file has no [proof], which says how files are compiled and run";
        return Ok(Outcome::Failed { version: String::new(), said: said.to_owned() });
    };
    let mut versions = Vec::new();
    for tool in target.tools() {
        match version(&tool) {
            Some(version) => versions.push(version),
            None => return Ok(Outcome::NotTried { missing: tool }),
        }
    }
    let version = versions.join(", ");
    let at = |path: &Path| {
        let path = path.to_owned();
        move |cause| ProveError { path, cause }
    };
    let folder = folder.join(target.name());
    fs::create_dir_all(&folder).map_err(at(&folder))?;
    let plan = Plan::of(checked, notes);
    let blocks = blocks(checked);
    let source = crate::file_name(&plan, target);
    let (asked_file, out_file) = (folder.join("asked.bin"), folder.join("found.bin"));
    let bytes = protocol::samples(checked, &plan, asked);
    for (path, content) in [
        (folder.join(&source), target.print(&plan).into_bytes()),
        (folder.join(prover), target.prover(&plan, &blocks).into_bytes()),
        (asked_file.clone(), bytes),
    ] {
        fs::write(&path, content).map_err(at(&path))?;
    }
    let mut commands = target.compile(&folder, &source);
    commands.push(target.run(&folder));
    let mut full = target.run(&folder);
    full.extend([asked_file.display().to_string(), out_file.display().to_string()]);
    commands.push(full.clone());
    for command in &commands {
        let out = Command::new(&command[0])
            .args(&command[1..])
            .stdin(Stdio::null())
            .output()
            .map_err(at(&folder))?;
        if !out.status.success() {
            let mut said = format!("`{}` ended with {}", command[0], out.status);
            for text in [&out.stderr, &out.stdout] {
                let text = String::from_utf8_lossy(text);
                let lines: Vec<&str> = text.lines().take(12).collect();
                if !lines.is_empty() {
                    said = format!("{said}\n{}", lines.join("\n"));
                }
            }
            return Ok(Outcome::Failed { version, said });
        }
    }
    let found = match fs::read(&out_file) {
        Err(why) if why.kind() == io::ErrorKind::NotFound => {
            let said = format!("`{}` ended well, but wrote no values", full[0]);
            return Ok(Outcome::Failed { version, said });
        }
        found => found.map_err(at(&out_file))?,
    };
    Ok(compare(checked, (&plan, &blocks), asked, &found, version))
}
