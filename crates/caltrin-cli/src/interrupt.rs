//! Ctrl-C: what is being written is written whole first, and folders that were only needed meanwhile go.

use std::fs;
use std::path::{Path, PathBuf};
use std::sync::{Mutex, MutexGuard, PoisonError};

/// The exit status of an interrupted command.
const INTERRUPTED: i32 = 130;

/// Held while files are written.
static WRITING: Mutex<()> = Mutex::new(());
/// Folders that go when the command ends early.
static FOLDERS: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());

fn held<T>(lock: &Mutex<T>) -> MutexGuard<'_, T> {
    lock.lock().unwrap_or_else(PoisonError::into_inner)
}

/// From now on Ctrl-C, or being asked to end, ends the command as said above.
pub fn listen() {
    // Where no such handler can be had, the command ends as the system ends it.
    let _ = ctrlc::set_handler(|| {
        let _writing = held(&WRITING);
        for folder in held(&FOLDERS).drain(..) {
            let _ = fs::remove_dir_all(folder);
        }
        std::process::exit(INTERRUPTED);
    });
}

/// Runs a function that writes files. Ctrl-C takes effect before or after it. Not reentrant.
pub fn whole<T>(write: impl FnOnce() -> T) -> T {
    let _writing = held(&WRITING);
    write()
}

/// A temporary folder that is removed when it is dropped or the command is interrupted.
pub struct Scratch(tempfile::TempDir);

impl Scratch {
    /// Makes one.
    pub fn new() -> std::io::Result<Self> {
        let folder = tempfile::tempdir()?;
        held(&FOLDERS).push(folder.path().to_owned());
        Ok(Scratch(folder))
    }

    /// Where it is.
    pub fn path(&self) -> &Path {
        self.0.path()
    }
}

impl Drop for Scratch {
    fn drop(&mut self) {
        held(&FOLDERS).retain(|folder| folder != self.0.path());
    }
}
