//! Following the saves of a book, of the books that it uses and of its sounds.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::sync::mpsc;
use std::time::{Duration, Instant, UNIX_EPOCH};

use caltrin::{OpenError, files};
use notify::{RecursiveMode, Watcher};

use super::{Done, Failure, Status, open};

/// How long the events of one save are gathered, at most.
const SAVE: Duration = Duration::from_millis(80);
/// When a book has been away for so long, it is gone.
const GONE: Duration = Duration::from_millis(400);
/// With nothing more for so long, a save is over.
const QUIET: Duration = Duration::from_millis(12);

/// Calls `saved` at once and then at every save of the book, of a book that it uses or of a sound, and when the book is gone. The folder is watched
/// rather than the files, since editors save by writing another file and renaming it.
pub fn watch(path: &Path, mut saved: impl FnMut(&Path) -> Result<(), Failure>) -> Done {
    let book =
        path.canonicalize().map_err(|cause| OpenError::Io { path: path.to_owned(), cause })?;
    let folder = book.parent().unwrap_or(Path::new("/")).to_owned();
    let (tell, told) = mpsc::channel();
    let mut watcher = notify::recommended_watcher(move |event: notify::Result<notify::Event>| {
        // Reading changes nothing; a viewer that looks at the picture again and again must not keep
        // us from drawing.
        if !event.is_ok_and(|event| event.kind.is_access()) {
            // The other end is gone only when the command ends.
            let _ = tell.send(());
        }
    })?;
    let mut watched = BTreeSet::from([folder.clone()]);
    watcher.watch(&folder, RecursiveMode::NonRecursive)?;
    let mut used = vec![Watched::Book(book.clone())];
    let mut drawn = Vec::new();
    loop {
        // Only what the books say counts: our own picture lies in the same folder.
        let mut seen = texts(&used);
        // Some editors take a book away for a moment while they save it.
        let end = Instant::now() + GONE;
        while seen[0].is_none()
            && let Some(left) = end.checked_duration_since(Instant::now())
        {
            let _ = told.recv_timeout(left);
            seen = texts(&used);
        }
        if seen != drawn {
            used = books(&book, &folder);
            for around in used.iter().filter_map(|file| file.path().parent()) {
                // A folder that is not there yet is awaited by its book's own.
                if !watched.contains(around)
                    && watcher.watch(around, RecursiveMode::NonRecursive).is_ok()
                {
                    watched.insert(around.to_owned());
                }
            }
            // Read before they are shown, so that what changes meanwhile is shown next.
            drawn = texts(&used);
            if drawn[0] != seen[0] {
                drawn.clear();
                continue;
            }
            saved(&book)?;
        }
        if told.recv().is_err() {
            return Ok(Status::Fine);
        }
        // A save is several events; they are awaited for a moment and taken together.
        let end = Instant::now() + SAVE;
        while let Some(left) = end.checked_duration_since(Instant::now()) {
            if told.recv_timeout(left.min(QUIET)).is_err() {
                break;
            }
        }
    }
}

/// What the files say, nothing where one cannot be read. Of a sound, which may be long, its size and when it was saved.
fn texts(files: &[Watched]) -> Vec<Option<Vec<u8>>> {
    let said = |file: &Watched| match file {
        Watched::Book(path) => files::read(path, caltrin::LARGEST).ok(),
        Watched::Sound(path) => {
            let about = std::fs::metadata(path).ok()?;
            let saved = about.modified().ok()?.duration_since(UNIX_EPOCH).ok()?;
            Some([u128::from(about.len()).to_le_bytes(), saved.as_nanos().to_le_bytes()].concat())
        }
    };
    files.iter().map(said).collect()
}

/// A file that is followed.
enum Watched {
    Book(PathBuf),
    Sound(PathBuf),
}

impl Watched {
    fn path(&self) -> &Path {
        let (Watched::Book(path) | Watched::Sound(path)) = self;
        path
    }
}

/// The files of the book, of all that it uses and of its sounds.
fn books(book: &Path, folder: &Path) -> Vec<Watched> {
    let mut all = vec![Watched::Book(book.to_owned())];
    if let Ok(opened) = open(book) {
        let used = opened.sources.iter().skip(1).filter(|s| s.name != caltrin::STOCK_NAME);
        all.extend(used.map(|source| Watched::Book(folder.join(&source.name))));
        all.extend(opened.sounds.iter().map(|name| Watched::Sound(folder.join(name))));
    }
    all
}
