//! Following the saves of a book, of the books that it uses and of its sounds.

use std::collections::{BTreeMap, BTreeSet};
use std::iter;
use std::path::{self, Path, PathBuf};
use std::sync::mpsc;
use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use caltrin::{OpenError, files};
use notify::{RecommendedWatcher, RecursiveMode, Watcher};

use super::{Done, Failure, Status};

/// How long the events of one save are gathered, at most.
const SAVE: Duration = Duration::from_millis(80);
/// When a book has been away for so long, it is gone.
const GONE: Duration = Duration::from_millis(400);
/// With nothing more for so long, a save is over.
const QUIET: Duration = Duration::from_millis(12);
/// How far the file system's times may lag behind the clock.
const MARGIN: Duration = Duration::from_millis(10);
/// Of larger files than this, only the size and the time of the last change are compared.
const COMPARED: u64 = 1 << 20;

/// Tells the watch which files a book was read from. It can be sent to another thread.
#[derive(Clone)]
pub struct Files {
    tell: mpsc::Sender<Told>,
    since: SystemTime,
}

impl Files {
    /// The files that were read this time: from now on these are followed.
    pub fn are(&self, files: Vec<PathBuf>) {
        // The other end is gone only when the command ends.
        let _ = self.tell.send(Told::Files(files, self.since));
    }
}

/// What the watch waits for.
enum Told {
    /// Something happened in a folder.
    Changed,
    /// A book was read, from these files, some time after this moment.
    Files(Vec<PathBuf>, SystemTime),
}

/// Calls `saved` at once and then at every save of the book, of a book that it uses or of a sound, and when the book is
/// gone. `saved` says which files it read, then or later. The folder is watched rather than the files, since editors save
/// by writing another file and renaming it.
pub fn watch(path: &Path, mut saved: impl FnMut(&Path, Files) -> Result<(), Failure>) -> Done {
    let book =
        path.canonicalize().map_err(|cause| OpenError::Io { path: path.to_owned(), cause })?;
    let (tell, told) = mpsc::channel();
    let files = tell.clone();
    let watcher = notify::recommended_watcher(move |event: notify::Result<notify::Event>| {
        // Reading changes nothing; a viewer that looks at the picture again and again must not keep
        // us from drawing.
        if !event.is_ok_and(|event| event.kind.is_access()) {
            let _ = tell.send(Told::Changed);
        }
    })?;
    let mut followed =
        Followed { watcher, book: book.clone(), folders: BTreeSet::new(), files: Vec::new() };
    followed.follow(vec![book.clone()]);
    let mut read = Contents::new();
    loop {
        // Only what the files say counts: our own picture lies in the same folder.
        let mut seen = followed.contents();
        // Some editors take a book away for a moment while they save it.
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
            // Kept before the book is read, so that what changes meanwhile is read again.
            read = seen;
            saved(&book, Files { tell: files.clone(), since: SystemTime::now() })?;
        }
        let Ok(first) = told.recv() else { return Ok(Status::Fine) };
        followed.take(first, &mut read);
        // A save is several events; they are awaited for a moment and taken together.
        let end = Instant::now() + SAVE;
        while let Some(left) = end.checked_duration_since(Instant::now())
            && let Ok(told) = told.recv_timeout(left.min(QUIET))
        {
            followed.take(told, &mut read);
        }
    }
}

/// What files say, nothing where one cannot be read.
type Contents = BTreeMap<PathBuf, Option<Vec<u8>>>;

/// The files of the last reading, and the folders that are watched for them.
struct Followed {
    watcher: RecommendedWatcher,
    book: PathBuf,
    folders: BTreeSet<PathBuf>,
    files: Vec<PathBuf>,
}

impl Followed {
    fn follow(&mut self, files: Vec<PathBuf>) {
        // The first file is the book, by whatever path it was opened; the others may be relative to where we run.
        let others = files.iter().skip(1).map(|file| path::absolute(file).unwrap_or(file.clone()));
        let files: Vec<PathBuf> = iter::once(self.book.clone()).chain(others).collect();
        for folder in files.iter().filter_map(|file| file.parent()) {
            // A folder that is not there yet is awaited by its book's own.
            if !self.folders.contains(folder)
                && self.watcher.watch(folder, RecursiveMode::NonRecursive).is_ok()
            {
                self.folders.insert(folder.to_owned());
            }
        }
        self.files = files;
    }

    /// Takes note of which files were read. One that was not followed before counts as read, unless it has changed since.
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

/// What a file says; of a long one, such as a sound, its size and when it was saved.
fn content(file: &Path) -> Option<Vec<u8>> {
    let about = std::fs::metadata(file).ok()?;
    if about.len() <= COMPARED {
        return files::read(file, COMPARED).ok();
    }
    let saved = about.modified().ok()?.duration_since(UNIX_EPOCH).ok()?;
    Some([u128::from(about.len()).to_le_bytes(), saved.as_nanos().to_le_bytes()].concat())
}
