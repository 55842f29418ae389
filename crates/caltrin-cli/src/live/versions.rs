//! Earlier texts of books, kept in the user's folder for state, so that they can be brought back after a crash too.

use std::fs;
use std::io;
use std::path::{Path, PathBuf};
use std::time::{SystemTime, UNIX_EPOCH};

use caltrin::edit::TextHash;
use serde::{Deserialize, Serialize};

/// Most versions of a book that are kept.
const MOST: usize = 200;
/// Largest file that is read as one.
const LARGEST: u64 = 80 << 20;

/// A text as it was before a change.
#[derive(Clone, Debug, Deserialize, Serialize)]
pub struct Version {
    /// When it was replaced, in milliseconds since 1970.
    pub at: u64,
    /// The file, relative to the book's folder.
    pub file: String,
    /// What changed it.
    pub words: String,
    /// The text.
    pub text: String,
}

/// The versions of one book.
#[derive(Clone, Debug)]
pub struct Versions {
    folder: Option<PathBuf>,
}

impl Versions {
    /// Of a book in the user's folder for state; none are kept where there is no such folder.
    pub fn of(book: &Path) -> Self {
        let project = directories::ProjectDirs::from("", "", "caltrin");
        let state = project.map(|project| {
            project.state_dir().unwrap_or_else(|| project.data_local_dir()).to_owned()
        });
        let real = book.canonicalize().unwrap_or_else(|_| book.to_owned());
        let name = TextHash::of(&real.to_string_lossy()).to_string();
        Versions { folder: state.map(|state| state.join("versions").join(name)) }
    }

    /// In a folder.
    #[cfg(test)]
    fn in_folder(folder: &Path) -> Self {
        Versions { folder: Some(folder.to_owned()) }
    }

    /// Keeps a text that is about to be replaced.
    ///
    /// # Errors
    /// If the folder cannot be written.
    pub fn keep(&self, file: &str, words: &str, text: &str) -> io::Result<()> {
        let Some(folder) = &self.folder else { return Ok(()) };
        fs::create_dir_all(folder)?;
        let now = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default();
        let at = u64::try_from(now.as_millis()).unwrap_or(u64::MAX);
        let version =
            Version { at, file: file.to_owned(), words: words.to_owned(), text: text.to_owned() };
        let mut names = self.names()?;
        let next = names.last().and_then(|last| number(last)).map_or(0, |last| last + 1);
        let whole = folder.join("new");
        fs::write(&whole, serde_json::to_vec(&version)?)?;
        let name = format!("{next:010}.json");
        fs::rename(whole, folder.join(&name))?;
        names.push(name);
        for old in &names[..names.len().saturating_sub(MOST)] {
            fs::remove_file(folder.join(old))?;
        }
        Ok(())
    }

    /// What is kept, the latest first, with its number.
    pub fn all(&self) -> Vec<(u64, Version)> {
        let names = self.names().unwrap_or_default();
        let read = |name: &String| Some((number(name)?, self.read(number(name)?)?));
        names.iter().rev().filter_map(read).collect()
    }

    /// One of them.
    pub fn read(&self, n: u64) -> Option<Version> {
        let path = self.folder.as_ref()?.join(format!("{n:010}.json"));
        let bytes = caltrin::files::read(&path, LARGEST).ok()?;
        serde_json::from_slice(&bytes).ok()
    }

    fn names(&self) -> io::Result<Vec<String>> {
        let Some(folder) = &self.folder else { return Ok(Vec::new()) };
        let entries = match fs::read_dir(folder) {
            Err(why) if why.kind() == io::ErrorKind::NotFound => return Ok(Vec::new()),
            entries => entries?,
        };
        let names = entries.filter_map(|entry| entry.ok()?.file_name().into_string().ok());
        let mut names: Vec<String> = names.filter(|name| number(name).is_some()).collect();
        names.sort();
        Ok(names)
    }
}

fn number(name: &str) -> Option<u64> {
    name.strip_suffix(".json")?.parse().ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_latest_versions_are_kept() {
        let folder = tempfile::tempdir().expect("a folder");
        let versions = Versions::in_folder(folder.path());
        assert!(versions.all().is_empty());
        for n in 0..MOST + 5 {
            versions.keep("a.caltrin", &format!("change {n}"), &format!("text {n}")).expect("kept");
        }
        let all = versions.all();
        assert_eq!((all.len(), all[0].1.words.as_str(), all[0].0), (MOST, "change 204", 204));
        assert_eq!(versions.read(5).map(|version| version.text).as_deref(), Some("text 5"));
        assert!(versions.read(4).is_none());
        // What is no version is passed over.
        fs::write(folder.path().join("0000000300.json"), "{").expect("a file");
        assert_eq!(versions.all().len(), MOST);
    }
}
