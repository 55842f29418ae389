//! One file a command, and what they share.

pub mod check;
pub mod completions;
pub mod demo;
pub mod explain;
pub mod export;
pub mod fmt;
pub mod new;
pub mod prove;
pub mod sheet;
pub mod stock;
pub mod trace;

use std::fmt::Display;
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::time::Duration;

use caltrin::Opened;
use caltrin::core::Checked;
use caltrin::core::program::LightId;
use caltrin::core::quantity::{Seconds, Seed};
use caltrin::export::{TARGETS, Target, target_named};
use indicatif::{ProgressBar, ProgressStyle};

use crate::report;

/// How a call ended that could be carried out.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Status {
    /// Exit status 0.
    Fine,
    /// The book has problems: exit status 1.
    Problems,
}

/// The call was wrong or the system refused: exit status 2. A message, and what to do.
pub struct Failure(pub String, pub Option<String>);

impl<E: std::error::Error> From<E> for Failure {
    fn from(error: E) -> Self {
        Failure(error.to_string(), None)
    }
}

/// A failure with advice.
pub fn failure(message: impl Display, help: impl Display) -> Failure {
    Failure(message.to_string(), Some(help.to_string()))
}

pub type Done = Result<Status, Failure>;

/// Opens a book and says all that is to be told of it. `None` where it has mistakes.
pub fn open_and_tell(path: &Path) -> Result<(Opened, Option<Checked>), Failure> {
    let opened = caltrin::open(path)?;
    report::diagnostics(&opened);
    let checked = opened.checked.clone();
    if checked.is_none() {
        let n = opened.mistakes();
        let mut out = anstream::stderr().lock();
        let _ = writeln!(out, "{}: {}", opened.file, count(n as u64, "mistake"));
    }
    Ok((opened, checked))
}

/// `1 mistake`, `3 mistakes`.
pub fn count(n: u64, what: &str) -> String {
    if n == 1 { format!("1 {what}") } else { format!("{n} {what}s") }
}

/// A line on standard output. A reader that went away ends the command quietly.
pub fn say(line: impl Display) -> Result<(), Failure> {
    let mut out = anstream::stdout().lock();
    quiet_pipe(writeln!(out, "{line}"))
}

/// Ends the command without a word if what reads our output is gone.
pub fn quiet_pipe(written: io::Result<()>) -> Result<(), Failure> {
    match written {
        Ok(()) => Ok(()),
        Err(e) if e.kind() == io::ErrorKind::BrokenPipe => std::process::exit(0),
        Err(e) => Err(Failure(format!("cannot write the output: {e}"), None)),
    }
}

/// Reads `2s`, `450ms`, `1.5min` or a number of seconds.
pub fn parse_time(text: &str) -> Result<Seconds, String> {
    match caltrin::lang::time(text) {
        Some(t) if t.0.abs() <= caltrin::core::kernel::LAST_MOMENT => Ok(t),
        Some(_) => Err("moments go up to a billion seconds either way".to_owned()),
        None => {
            Err("a time is written `20s`, `450ms`, `1.5min` or as a number of seconds".to_owned())
        }
    }
}

/// Reads a seed.
pub fn parse_seed(text: &str) -> Result<Seed, String> {
    text.parse().map(Seed).map_err(|_| format!("a seed is a whole number from 0 to {}", u32::MAX))
}

/// Reads a target's name.
pub fn parse_target(text: &str) -> Result<&'static dyn Target, String> {
    target_named(text).ok_or_else(|| {
        let names: Vec<&str> = TARGETS.iter().map(|target| target.name()).collect();
        let near = caltrin::lang::words::nearest(text, names.iter().copied());
        match near {
            Some(near) => format!("there is no language `{text}`; did you mean `{near}`?"),
            None => format!("languages are {}", names.join(", ")),
        }
    })
}

/// The targets asked for, each once; all if none was named.
pub fn targets(asked: &[&'static dyn Target]) -> Vec<&'static dyn Target> {
    TARGETS
        .into_iter()
        .filter(|target| {
            asked.is_empty() || asked.iter().any(|other| other.name() == target.name())
        })
        .collect()
}

/// The lights of these names.
pub fn lights(checked: &Checked, names: &[String]) -> Result<Vec<LightId>, Failure> {
    let program = checked.program();
    let mut all = Vec::new();
    for name in names {
        // The name of a placing stands for all lights in it.
        let inside = format!("{name}.");
        let meant = |known: &str| known == name || known.starts_with(&inside);
        let found: Vec<LightId> =
            program.lights().filter(|(_, l)| meant(&l.name)).map(|(id, _)| id).collect();
        if found.is_empty() {
            let known: Vec<&str> = program.lights().map(|(_, l)| l.name.as_str()).collect();
            let help = match caltrin::lang::words::nearest(name, known.iter().copied()) {
                Some(near) => format!("did you mean `{near}`?"),
                None => {
                    let few: Vec<&str> = known.iter().copied().take(12).collect();
                    format!("lights are {}", few.join(", "))
                }
            };
            return Err(failure(format!("there is no light `{name}`"), help));
        }
        all.extend(found);
    }
    Ok(all)
}

/// Writes a file whole or not at all.
pub fn write_whole(path: &Path, bytes: &[u8]) -> Result<(), Failure> {
    let refused =
        |cause: io::Error| Failure(format!("cannot write `{}`: {cause}", path.display()), None);
    let folder = match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    };
    let mut builder = tempfile::Builder::new();
    builder.prefix(".caltrin-");
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        builder.permissions(std::fs::Permissions::from_mode(0o644));
    }
    let mut beside = builder.tempfile_in(folder).map_err(refused)?;
    beside.write_all(bytes).map_err(refused)?;
    beside.persist(path).map_err(|e| refused(e.error))?;
    Ok(())
}

/// The book's path with another ending.
pub fn beside(book: &Path, ending: &str) -> PathBuf {
    book.with_extension(ending)
}

/// Shows on a terminal that something takes its time.
pub fn working(on: &str) -> ProgressBar {
    let bar = ProgressBar::new_spinner();
    if let Ok(style) = ProgressStyle::with_template("{spinner} {msg} ({elapsed})") {
        bar.set_style(style);
    }
    bar.set_message(on.to_owned());
    bar.enable_steady_tick(Duration::from_millis(120));
    bar
}
