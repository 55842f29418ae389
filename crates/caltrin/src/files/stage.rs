//! A folder beside what is written in which everything waits until it is whole.

use std::fs::{self, File, Metadata, OpenOptions, TryLockError};
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime};

use super::read;

/// How such folders are called. One that is still there later belongs to a command that was stopped.
const PREFIX: &str = ".caltrin-writing-";
/// The file in one that is locked while its command lives, and says what was to be written.
const JOURNAL: &str = "journal";
/// Largest journal that is read.
const LARGEST: u64 = 1 << 20;
/// How old a folder without a journal is at least that nobody is about to write into.
const OLD: Duration = Duration::from_secs(60);

/// A folder of files to be. It goes when this is dropped.
pub struct Stage {
    folder: tempfile::TempDir,
    journal: File,
}

impl Stage {
    /// In the folder that is written into.
    pub fn within(folder: &Path) -> io::Result<Stage> {
        let folder = tempfile::Builder::new().prefix(PREFIX).tempdir_in(folder)?;
        // Locked before it has its name, so that nobody takes it for that of a stopped call.
        let unnamed = folder.path().join("unnamed");
        let journal = File::create_new(&unnamed)?;
        // Where there are no locks nobody can say whose it is, and it stays.
        let _ = journal.try_lock();
        fs::rename(&unnamed, folder.path().join(JOURNAL))?;
        Ok(Stage { folder, journal })
    }

    /// The place of the n-th file.
    pub fn place(&self, n: usize) -> PathBuf {
        self.folder.path().join(n.to_string())
    }

    /// The place of what the n-th file replaces, where that is kept apart.
    pub fn old(&self, n: usize) -> PathBuf {
        self.folder.path().join(format!("{n}.old"))
    }

    /// Writes the n-th file, which has the rights and the owner of what it replaces.
    pub fn write(&self, n: usize, bytes: &[u8], replaced: Option<&Metadata>) -> io::Result<()> {
        let mut file = OpenOptions::new().write(true).create_new(true).open(self.place(n))?;
        file.write_all(bytes)?;
        if let Some(about) = replaced {
            keep_owner(&file, about);
            file.set_permissions(about.permissions())?;
        }
        file.sync_all()
    }

    /// Notes what is about to be put in place: names of files, and what they will hold.
    pub fn note(&mut self, files: &[(&str, &[u8])]) -> io::Result<()> {
        let lines = files.iter().map(|(name, bytes)| format!("{} {name}\n", sum(bytes)));
        self.journal.write_all(lines.collect::<String>().as_bytes())?;
        self.journal.sync_all()
    }
}

fn sum(bytes: &[u8]) -> blake3::Hash {
    blake3::hash(bytes)
}

/// Gives a file to whom the one that it replaces belongs, where that is allowed.
#[cfg(unix)]
fn keep_owner(file: &File, about: &Metadata) {
    use std::os::unix::fs::{MetadataExt, fchown};
    let own = file.metadata().map(|own| (own.uid(), own.gid()));
    if own.is_ok_and(|own| own != (about.uid(), about.gid())) {
        let _ = fchown(file, Some(about.uid()), Some(about.gid()));
    }
}

#[cfg(not(unix))]
fn keep_owner(_: &File, _: &Metadata) {}

/// Removes what commands left in a folder that were stopped while they wrote into it. Gives the names of what each was
/// to write, and whether the file of that name is the new one.
pub fn clean(folder: &Path) -> Vec<Vec<(String, bool)>> {
    let Ok(entries) = fs::read_dir(folder) else { return Vec::new() };
    let stages = entries.flatten().filter(|entry| {
        entry.file_name().to_string_lossy().starts_with(PREFIX)
            && entry.file_type().is_ok_and(|kind| kind.is_dir())
    });
    stages.filter_map(|entry| left(&entry.path(), folder)).collect()
}

fn left(stage: &Path, folder: &Path) -> Option<Vec<(String, bool)>> {
    let journal = match read::open_regular(&stage.join(JOURNAL)) {
        Ok(journal) => journal,
        Err(_) => {
            let changed = fs::symlink_metadata(stage).and_then(|about| about.modified()).ok()?;
            if SystemTime::now().duration_since(changed).is_ok_and(|age| age > OLD) {
                let _ = fs::remove_dir_all(stage);
            }
            return None;
        }
    };
    match journal.try_lock() {
        Ok(()) => {}
        // Its command is still writing.
        Err(TryLockError::WouldBlock | TryLockError::Error(_)) => return None,
    }
    let text = read::read_open(&journal, LARGEST).unwrap_or_default();
    let _ = fs::remove_dir_all(stage);
    let text = String::from_utf8_lossy(&text);
    let lines = text.lines().filter_map(|line| line.split_once(' '));
    let told = lines.map(|(wanted, name)| {
        let plain = Path::new(name).file_name().is_some_and(|last| last == name);
        let held = plain.then(|| read::read(&folder.join(name), crate::LARGEST).ok()).flatten();
        (name.to_owned(), held.is_some_and(|held| sum(&held).to_hex().as_str() == wanted))
    });
    let told: Vec<(String, bool)> = told.collect();
    // One that was stopped before it changed anything, or after all was in place, left nothing to tell.
    let new = told.iter().filter(|(_, is_new)| *is_new).count();
    (0 < new && new < told.len()).then_some(told)
}
