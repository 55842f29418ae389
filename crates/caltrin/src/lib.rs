//! Caltrin: gameplay lights written as text, seen on timelines, checked, and handed over as code
//! that gives the same bits.
//!
//! This crate is the front door. It opens files and brings the others together:
//!
//! 1. [`open`] or [`read`] turns a lightbook into an [`Opened`] with everything that is to be told;
//!    [`core::build`] makes the same programs from Rust.
//! 2. A [`core::Run`] reads lamps at any moment.
//! 3. [`draw::sheet()`] shows a program, [`export::export`] hands it over, [`export::prove`] proves it.
//!
//! ```
//! let opened = caltrin::read("lightbook \"Slip\"\nlight lantern point { intensity 40lm }", "slip.caltrin");
//! let checked = opened.checked.expect("nothing is wrong with it");
//! let lantern = checked.program().light_named("lantern").unwrap();
//! let mut run = caltrin::core::Run::new(&checked);
//! let mut lamp = [0.0];
//! run.read(lantern, 0, &mut lamp);
//! assert_eq!(lamp[0], 40.0);
//! ```

use std::fs;
use std::io;
use std::path::{Path, PathBuf};

pub use caltrin_check as check;
pub use caltrin_core as core;
pub use caltrin_draw as draw;
pub use caltrin_export as export;
pub use caltrin_lang as lang;

use caltrin_check::Finding;
use caltrin_core::{Checked, Notes};
use caltrin_lang::{Diagnostic, Severity};
use thiserror::Error;

/// The demonstration: the Saltgate ferry pier.
pub const PIER: &str = include_str!("../books/pier.caltrin");

/// A lightbook that was read.
#[derive(Clone, Debug)]
pub struct Opened {
    /// The file's name, as it is shown in messages.
    pub file: String,
    /// Its text.
    pub text: String,
    /// The book's name; empty if it has none.
    pub name: String,
    /// The program, if there is no mistake in the book.
    pub checked: Option<Checked>,
    /// Its lines, for comments in exported code.
    pub notes: Notes,
    /// What the checks found.
    pub findings: Vec<Finding>,
    /// Everything that is to be told, mistakes and findings, in the order of the text.
    pub diagnostics: Vec<Diagnostic>,
}

impl Opened {
    /// How many mistakes were told.
    pub fn mistakes(&self) -> usize {
        self.diagnostics.iter().filter(|d| d.severity == Severity::Error).count()
    }
}

/// Why a lightbook could not even be looked at.
#[derive(Debug, Error)]
pub enum OpenError {
    /// The system refused.
    #[error("cannot read `{}`: {cause}", .path.display())]
    Io {
        /// The file.
        path: PathBuf,
        /// Why not.
        cause: io::Error,
    },
    /// It is no text.
    #[error("`{}` is not a text in UTF-8 (byte {at}); a lightbook is plain text", .path.display())]
    NotText {
        /// The file.
        path: PathBuf,
        /// The first byte that is none.
        at: usize,
    },
    /// It is far too large.
    #[error("`{}` is larger than {} MiB; a lightbook is a text written by hand", .path.display(), LARGEST >> 20)]
    TooLarge {
        /// The file.
        path: PathBuf,
    },
}

/// Largest file that is read.
pub const LARGEST: u64 = 64 << 20;

/// Opens a lightbook's file, reads and checks it.
///
/// # Errors
/// If the file cannot be read or is no text. Mistakes in the book are no error here; they are in
/// [`Opened::diagnostics`].
pub fn open(path: &Path) -> Result<Opened, OpenError> {
    let at = |cause| OpenError::Io { path: path.to_owned(), cause };
    let size = fs::metadata(path).map_err(at)?;
    if size.is_dir() {
        let cause = io::Error::new(io::ErrorKind::IsADirectory, "it is a folder");
        return Err(OpenError::Io { path: path.to_owned(), cause });
    }
    if size.len() > LARGEST {
        return Err(OpenError::TooLarge { path: path.to_owned() });
    }
    let bytes = fs::read(path).map_err(at)?;
    let text = String::from_utf8(bytes).map_err(|refused| OpenError::NotText {
        path: path.to_owned(),
        at: refused.utf8_error().valid_up_to(),
    })?;
    if let Some(at) = text.find('\0') {
        return Err(OpenError::NotText { path: path.to_owned(), at });
    }
    let mut opened = read(&text, &file_name(path));
    opened.file = path.display().to_string();
    Ok(opened)
}

fn file_name(path: &Path) -> String {
    path.file_name().map_or(String::new(), |name| name.to_string_lossy().into_owned())
}

/// Reads and checks a lightbook's text. `file` is the name that messages and comments give it.
pub fn read(text: &str, file: &str) -> Opened {
    let reading = caltrin_lang::read(text, file);
    let findings = reading.checked.as_ref().map_or(Vec::new(), caltrin_check::check);
    let mut diagnostics = reading.diagnostics;
    for finding in &findings {
        let range = reading.origins.subject(finding.subject).unwrap_or(0..0);
        diagnostics.push(
            Diagnostic::warning(finding.rule.code, range, finding.message.clone())
                .help(finding.help.clone()),
        );
    }
    diagnostics.sort_by_key(|d| d.range().start);
    Opened {
        file: file.to_owned(),
        text: text.to_owned(),
        name: reading.name,
        checked: reading.checked,
        notes: reading.notes,
        findings,
        diagnostics,
    }
}
