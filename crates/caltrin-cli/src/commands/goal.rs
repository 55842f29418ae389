//! Where a command writes.

use std::path::{Path, PathBuf};

use caltrin::files::{Inputs, Interrupted, Output, Put, PutError, Replaces, put};

use super::{Failure, failure};
use crate::interrupt::whole;
use crate::outcome::explained;
use crate::report::{self, quoted};

/// A file that a command writes: one that the user named, or that has a name of Caltrin's choice.
pub struct Goal {
    pub path: PathBuf,
    is_named: bool,
}

impl Goal {
    /// The file that the user named.
    pub fn named(path: &Path) -> Goal {
        Goal { path: path.to_owned(), is_named: true }
    }

    /// That, or one beside the book that is called after it, with something at the end such as `-day.svg`.
    pub fn or_beside(asked: Option<&Path>, book: &Path, end: &str) -> Goal {
        asked.map_or_else(
            || {
                let mut name = book.file_stem().unwrap_or_default().to_os_string();
                name.push(end);
                Goal { path: book.with_file_name(name), is_named: false }
            },
            Goal::named,
        )
    }

    /// The ending of its name, in lower case.
    pub fn ending(&self) -> String {
        let ending = self.path.extension();
        ending.map_or(String::new(), |ending| ending.to_string_lossy().to_ascii_lowercase())
    }

    /// Writes it whole or not at all, and never over what the command reads.
    pub fn write(&self, bytes: &[u8], inputs: &Inputs) -> Result<(), Failure> {
        let replaces = if self.is_named { Replaces::Any } else { Replaces::Made };
        let output = Output { path: &self.path, bytes, replaces };
        match whole(|| put(&[output], inputs)) {
            Ok(done) => interrupted(&done),
            Err(refused @ PutError::Foreign(_)) => {
                let help = format!("`-o {}` replaces it", quoted(&self.path));
                return Err(failure(refused, help));
            }
            Err(refused) => return Err(explained(&refused)),
        }
        Ok(())
    }
}

/// Reports which files an interrupted command has replaced, and which not.
pub fn interrupted(done: &Put) {
    for Interrupted { folder, new, old } in &done.interrupted {
        let all = |names: &[String]| {
            let named: Vec<String> = names.iter().map(|name| format!("`{name}`")).collect();
            named.join(", ")
        };
        let message = format!(
            "an earlier command was interrupted while writing to `{}`: {} new, {} old",
            folder.display(),
            all(new),
            all(old)
        );
        report::warning(&message, "run that command again if this one did not write all of them");
    }
}
