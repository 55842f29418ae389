//! Watching a book, its imports and its sounds for changes.

use std::collections::{BTreeMap, BTreeSet};
use std::iter;
use std::path::{self, Path, PathBuf};
use std::sync::mpsc;
use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use caltrin::{OpenError, files};
use notify::{RecommendedWatcher, RecursiveMode, Watcher};

use super::{Done, Failure, Status};

/// Longest time over which the file system events of one save are collected.
const SAVE: Duration = Duration::from_millis(80);
/// A book that is missing for longer counts as deleted.
const GONE: Duration = Duration::from_millis(400);
/// A save ends when there is no event for this long.
const QUIET: Duration = Duration::from_millis(12);
/// How much the file system's timestamps may lag behind the clock.
const MARGIN: Duration = Duration::from_millis(10);
/// Larger files are compared by size and modification time only.
const COMPARED: u64 = 1 << 20;

/// Reports to the watch which files a book was read from. It can be sent to another thread.
#[derive(Clone)]
pub struct Files {
    tell: mpsc::Sender<Told>,
    since: SystemTime,
}

impl Files {
    /// Watch these files from now on: they were read this time.
    pub fn are(&self, files: Vec<PathBuf>) {
        // The other end is gone only when the command ends.
        let _ = self.tell.send(Told::Files(files, self.since));
    }
}

/// Messages to the watch.
enum Told {
    /// Something changed in a folder.
    Changed,
    /// A book was read from these files, after this moment.
    Files(Vec<PathBuf>, SystemTime),
}

/// Calls `saved` immediately, on every save of the book, of an import or of a sound, and when the book is deleted.
/// `saved` reports which files it read, at once or later. Folders are watched rather than files, because editors save by
/// writing another file and renaming it.
pub fn watch(path: &Path, mut saved: impl FnMut(&Path, Files) -> Result<(), Failure>) -> Done {
    let book =
        path.canonicalize().map_err(|cause| OpenError::Io { path: path.to_owned(), cause })?;
    let (tell, told) = mpsc::channel();
    let files = tell.clone();
    let watcher = notify::recommended_watcher(move |event: notify::Result<notify::Event>| {
        // Reads are ignored: a viewer that polls the picture must not keep us from drawing.
        if !event.is_ok_and(|event| event.kind.is_access()) {
            let _ = tell.send(Told::Changed);
        }
    })?;
    let mut followed =
        Followed { watcher, book: book.clone(), folders: BTreeSet::new(), files: Vec::new() };
    followed.follow(vec![book.clone()]);
    let mut read = Contents::new();
    loop {
        // Contents decide, not events: our own picture is in the same folder.
        let mut seen = followed.contents();
        // Some editors remove a book for a moment while they save it.
        let end = Instant::now() + GONE;
        while seen[&book].is_none()
            && let Some(left) = end.checked_duration_since(Instant::now())
        {
            if let Ok(told) = told.recv_timeout(left) {
                followed.take(told, &mut read);
            }
            seen = followed.contents();
        }
        if seen != read {
            // Stored before the book is read, so that a change made meanwhile is noticed.
            read = seen;
            saved(&book, Files { tell: files.clone(), since: SystemTime::now() })?;
        }
        let Ok(first) = told.recv() else { return Ok(Status::Fine) };
        followed.take(first, &mut read);
        // A save causes several events; they are collected for a moment.
        let end = Instant::now() + SAVE;
        while let Some(left) = end.checked_duration_since(Instant::now())
            && let Ok(told) = told.recv_timeout(left.min(QUIET))
        {
            followed.take(told, &mut read);
        }
    }
}

/// Contents of files; `None` if one cannot be read.
type Contents = BTreeMap<PathBuf, Option<Vec<u8>>>;

/// The files of the last reading, and the watched folders.
struct Followed {
    watcher: RecommendedWatcher,
    book: PathBuf,
    folders: BTreeSet<PathBuf>,
    files: Vec<PathBuf>,
}

impl Followed {
    fn follow(&mut self, files: Vec<PathBuf>) {
        // The first file is the book, opened by any path; the others may be relative to the current folder.
        let others = files.iter().skip(1).map(|file| path::absolute(file).unwrap_or(file.clone()));
        let files: Vec<PathBuf> = iter::once(self.book.clone()).chain(others).collect();
        for folder in files.iter().filter_map(|file| file.parent()) {
            // The creation of a missing folder is noticed by the folder of the book.
            if !self.folders.contains(folder)
                && self.watcher.watch(folder, RecursiveMode::NonRecursive).is_ok()
            {
                self.folders.insert(folder.to_owned());
            }
        }
        self.files = files;
    }

    /// Updates the watched files. A new one counts as read unless it has changed since the reading began.
    fn take(&mut self, told: Told, read: &mut Contents) {
        let Told::Files(files, since) = told else { return };
        self.follow(files);
        read.retain(|file, _| self.files.contains(file));
        for file in &self.files {
            let changed = std::fs::metadata(file).and_then(|about| about.modified());
            if changed.map_or(true, |changed| changed + MARGIN < since) {
                read.entry(file.clone()).or_insert_with(|| content(file));
            }
        }
    }

    fn contents(&self) -> Contents {
        self.files.iter().map(|file| (file.clone(), content(file))).collect()
    }
}

/// The content of a file, or the size and modification time of a large one.
fn content(file: &Path) -> Option<Vec<u8>> {
    let about = std::fs::metadata(file).ok()?;
    if about.len() <= COMPARED {
        return files::read(file, COMPARED).ok();
    }
    let saved = about.modified().ok()?.duration_since(UNIX_EPOCH).ok()?;
    Some([u128::from(about.len()).to_le_bytes(), saved.as_nanos().to_le_bytes()].concat())
}
