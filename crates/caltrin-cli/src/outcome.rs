//! How a call ends.

use std::any::Any;
use std::error::Error;
use std::fmt::Display;
use std::io;
use std::path::Path;

use caltrin::OpenError;
use caltrin::files::PutError;
use caltrin::sound::SoundError;

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

impl<E: Error + 'static> From<E> for Failure {
    fn from(error: E) -> Self {
        let any: &dyn Any = &error;
        let advice = match any.downcast_ref::<OpenError>() {
            Some(OpenError::Io { path, cause }) if cause.kind() == io::ErrorKind::NotFound => {
                books_near(path)
            }
            Some(OpenError::NotText { path, .. }) if is_sound(path) => {
                Some(format!("`caltrin hear {}` tells what is in a sound", path.display()))
            }
            _ => None,
        };
        if let Some(refused) = any.downcast_ref::<PutError>() {
            return explained(refused);
        }
        let heard = match any.downcast_ref::<SoundError>() {
            Some(SoundError::Unknown { name, .. }) if name.ends_with(".caltrin") => {
                Some(format!("`caltrin check {name}` reads a lightbook"))
            }
            _ => None,
        };
        Failure(plain(&error.to_string()), advice.or(heard))
    }
}

/// A message of the system without the number that it has there.
pub fn plain(message: &str) -> String {
    match message.split_once(" (os error ") {
        Some((before, after)) => {
            let rest = after.split_once(')').map_or("", |(_, rest)| rest);
            // The name of the temporary file is not shown.
            format!("{before}{}", rest.split(" at path \"").next().unwrap_or_default())
        }
        None => message.to_owned(),
    }
}

/// Why a file was not written, and what to do.
pub fn explained(refused: &PutError) -> Failure {
    let help = match refused {
        PutError::Io { path, cause } => where_else(path, cause),
        PutError::Input(_) | PutError::Lightbook(_) | PutError::Exists(_) => {
            "write to another file".to_owned()
        }
        PutError::Foreign(_) => "`--force` replaces it; `-o` writes to another place".to_owned(),
        PutError::ReadOnly(_) => "allow writing to it, or write to another file".to_owned(),
        PutError::Changed(_) => "run the command again".to_owned(),
    };
    Failure(plain(&refused.to_string()), Some(help))
}

/// What to do where a file could not be written.
fn where_else(path: &Path, cause: &io::Error) -> String {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
    match (cause.kind(), folder) {
        (io::ErrorKind::StorageFull, _) => "make room there, or write to another place".to_owned(),
        (io::ErrorKind::NotFound, Some(folder)) if !folder.exists() => {
            format!("there is no folder `{}`: make it first", folder.display())
        }
        _ => "write to another place, or allow writing there".to_owned(),
    }
}

fn is_sound(path: &Path) -> bool {
    let ending = path.extension().map(|ending| ending.to_string_lossy().to_ascii_lowercase());
    matches!(ending.as_deref(), Some("wav" | "flac" | "ogg" | "mp3" | "mid" | "midi"))
}

/// The lightbook in the same folder that was probably meant, or those that are there.
fn books_near(path: &Path) -> Option<String> {
    let folder = match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    };
    let Ok(entries) = folder.read_dir() else {
        return Some(format!("there is no folder `{}`", folder.display()));
    };
    let names = entries.flatten().map(|entry| entry.file_name().to_string_lossy().into_owned());
    let mut books: Vec<String> =
        names.filter(|name| name.ends_with(".caltrin") && !name.starts_with('.')).collect();
    books.sort_unstable();
    let asked = path.file_name()?.to_string_lossy().into_owned();
    match caltrin::lang::words::nearest(&asked, books.iter().map(String::as_str)) {
        Some(near) => Some(format!("did you mean `{near}`?")),
        None if books.is_empty() => Some("start one with `caltrin new \"Slipway\"`".to_owned()),
        None => {
            let few: Vec<&str> = books.iter().map(String::as_str).take(8).collect();
            Some(format!("that folder has {}", few.join(", ")))
        }
    }
}

/// `1 error`, `3 errors`.
pub fn count(n: u64, what: &str) -> String {
    if n == 1 { format!("1 {what}") } else { format!("{n} {what}s") }
}

/// A failure with advice.
pub fn failure(message: impl Display, help: impl Display) -> Failure {
    Failure(message.to_string(), Some(help.to_string()))
}

pub type Done = Result<Status, Failure>;
