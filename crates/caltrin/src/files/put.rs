//! Writing files whole, all of a call or none.

use std::collections::BTreeMap;
use std::ffi::OsStr;
use std::fs::{self, Metadata, OpenOptions};
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use caltrin_core::MADE;
use caltrin_export::Exported;
use caltrin_lang::syntax;
use thiserror::Error;

use super::read;
use super::stage::{Stage, clean};

/// How far into a file its mark stands at most.
const HEAD: u64 = 4096;

/// What a new file may replace.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Replaces<'a> {
    /// Nothing: the file must not be there.
    Nothing,
    /// What Caltrin made. For a name that Caltrin chose.
    Made,
    /// Any file but those that are read, and lightbooks. For a name that the user chose.
    Any,
    /// A lightbook that still holds these bytes.
    Text(&'a [u8]),
}

/// A file to be written.
#[derive(Clone, Copy, Debug)]
pub struct Output<'a> {
    /// Where. Links are followed.
    pub path: &'a Path,
    /// What it will hold.
    pub bytes: &'a [u8],
    /// What it may replace.
    pub replaces: Replaces<'a>,
}

/// The files that a call reads, which it therefore never replaces.
#[derive(Clone, Debug, Default)]
pub struct Inputs(Vec<PathBuf>);

impl Inputs {
    /// These; those that are not there are passed over.
    pub fn new(paths: impl IntoIterator<Item = PathBuf>) -> Self {
        Inputs(paths.into_iter().collect())
    }

    fn has(&self, path: &Path) -> bool {
        self.0.iter().any(|input| same_file::is_same_file(input, path).unwrap_or(false))
    }
}

/// A call that was stopped while it wrote.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Interrupted {
    /// The folder that it wrote into.
    pub folder: PathBuf,
    /// Files that are already what they were to become.
    pub new: Vec<String>,
    /// Files that are not.
    pub old: Vec<String>,
}

/// How the writing went.
#[derive(Clone, Debug, Default)]
pub struct Put {
    /// Earlier calls that were stopped while they wrote into the same folders. What they left behind is gone.
    pub interrupted: Vec<Interrupted>,
}

/// Why files were not written.
#[derive(Debug, Error)]
pub enum PutError {
    /// The call reads it.
    #[error("`{}` is an input of this command and was not replaced", .0.display())]
    Input(PathBuf),
    /// It is a lightbook.
    #[error("`{}` is a lightbook and was not replaced", .0.display())]
    Lightbook(PathBuf),
    /// Caltrin did not make it, and chose its name.
    #[error("`{}` was not made by caltrin and was not replaced", .0.display())]
    Foreign(PathBuf),
    /// It was to be a new file.
    #[error("`{}` already exists and was not replaced", .0.display())]
    Exists(PathBuf),
    /// Its rights say that nobody writes it.
    #[error("`{}` is read-only and was not replaced", .0.display())]
    ReadOnly(PathBuf),
    /// Someone else wrote it meanwhile.
    #[error("`{}` was changed by another program in the meantime and was not replaced", .0.display())]
    Changed(PathBuf),
    /// The system refused.
    #[error("cannot write `{}`: {cause}", .path.display())]
    Io {
        /// What was to be written.
        path: PathBuf,
        /// Why not.
        cause: io::Error,
    },
}

/// Writes files: all, or, where one is refused, none. Each is written beside its place and put there when all are
/// whole. A file that is replaced keeps its rights, its owner where that is allowed, and its other names; a link stays
/// one. What is not a regular file, such as a pipe, is written into as it is, after all others.
///
/// # Errors
/// If one of them may not be replaced, or the system refuses. Nothing has changed then, but what went into a pipe.
pub fn put(outputs: &[Output<'_>], inputs: &Inputs) -> Result<Put, PutError> {
    let places = outputs.iter().map(|output| Place::of(output, inputs));
    let places = places.collect::<Result<Vec<Place<'_>>, _>>()?;
    let (straight, whole): (Vec<&Place<'_>>, Vec<&Place<'_>>) =
        places.iter().partition(|place| matches!(place.now, Now::Special));
    let mut folders: BTreeMap<&Path, Vec<&Place<'_>>> = BTreeMap::new();
    for place in whole {
        folders.entry(folder_of(&place.real)).or_default().push(place);
    }
    let mut done = Put::default();
    let mut waiting = Vec::new();
    for (folder, places) in &folders {
        for told in clean(folder) {
            let (new, old): (Vec<_>, Vec<_>) = told.into_iter().partition(|(_, is_new)| *is_new);
            let names =
                |files: Vec<(String, bool)>| files.into_iter().map(|(name, _)| name).collect();
            let (new, old) = (names(new), names(old));
            let folder = folder_of(places[0].output.path).to_owned();
            done.interrupted.push(Interrupted { folder, new, old });
        }
        waiting.push(staged(folder, places)?);
    }
    let mut put = Vec::new();
    for (stage, places) in waiting.iter().zip(folders.values()) {
        for (n, place) in places.iter().enumerate() {
            match place.put(stage, n, inputs) {
                Ok(how) => put.push((stage, n, *place, how)),
                Err(refused) => {
                    for (stage, n, place, how) in put.into_iter().rev() {
                        place.take_back(stage, n, how);
                    }
                    return Err(refused);
                }
            }
        }
    }
    for place in straight {
        let mut pipe =
            OpenOptions::new().write(true).open(place.output.path).map_err(place.refused())?;
        pipe.write_all(place.output.bytes).map_err(place.refused())?;
    }
    Ok(done)
}

/// [`put`] of exported code into a folder, which is made if need be. Files that Caltrin did not make stay, unless by
/// `force`. Gives their paths too.
///
/// # Errors
/// As [`put`].
pub fn put_exported(
    folder: &Path,
    files: &[Exported],
    inputs: &Inputs,
    force: bool,
) -> Result<(Vec<PathBuf>, Put), PutError> {
    let refused = |cause| PutError::Io { path: folder.to_owned(), cause };
    fs::create_dir_all(folder).map_err(refused)?;
    let paths: Vec<PathBuf> = files.iter().map(|file| folder.join(&file.file_name)).collect();
    let replaces = if force { Replaces::Any } else { Replaces::Made };
    let outputs = files.iter().zip(&paths);
    let outputs: Vec<Output<'_>> = outputs
        .map(|(file, path)| Output { path, bytes: file.text.as_bytes(), replaces })
        .collect();
    let done = put(&outputs, inputs)?;
    Ok((paths, done))
}

/// Everything for one folder, written and waiting.
fn staged(folder: &Path, places: &[&Place<'_>]) -> Result<Stage, PutError> {
    let mut stage = Stage::within(folder).map_err(places[0].refused())?;
    for (n, place) in places.iter().enumerate() {
        let replaced = match &place.now {
            Now::Regular(about) => Some(about),
            _ => None,
        };
        stage.write(n, place.output.bytes, replaced).map_err(place.refused())?;
    }
    let mut files = Vec::new();
    for place in places {
        let name = place.real.file_name().and_then(OsStr::to_str).unwrap_or_default();
        files.push((name, place.output.bytes));
    }
    stage.note(&files).map_err(places[0].refused())?;
    Ok(stage)
}

fn folder_of(path: &Path) -> &Path {
    match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    }
}

/// What is where a file is to be.
enum Now {
    Nothing,
    Regular(Metadata),
    /// A pipe or a device.
    Special,
}

/// How a file came to its place.
#[derive(Clone, Copy)]
enum How {
    /// By a name that was free.
    New,
    /// Exchanged with the old one, which lies in its place in the stage.
    Exchanged,
    /// By its name; the old one is kept apart.
    Renamed,
    /// Written into the old one, whose content is kept apart.
    Within,
}

/// Where a file goes.
struct Place<'a> {
    output: &'a Output<'a>,
    /// Without links.
    real: PathBuf,
    now: Now,
}

impl<'a> Place<'a> {
    fn of(output: &'a Output<'a>, inputs: &Inputs) -> Result<Self, PutError> {
        let path = output.path;
        let refused = |cause| PutError::Io { path: path.to_owned(), cause };
        let about = match fs::metadata(path) {
            Ok(about) => about,
            Err(cause) if cause.kind() == io::ErrorKind::NotFound => {
                let real = beyond_links(path).map_err(refused)?;
                // By one name, so that what lies in one folder is written together.
                let folder = folder_of(&real).canonicalize();
                let named =
                    folder.ok().zip(real.file_name()).map(|(folder, name)| folder.join(name));
                let real = named.unwrap_or(real);
                return Ok(Place { output, real, now: Now::Nothing });
            }
            Err(cause) => return Err(refused(cause)),
        };
        if about.is_dir() {
            let cause = io::Error::new(io::ErrorKind::IsADirectory, "it is a folder");
            return Err(refused(cause));
        }
        if !about.is_file() {
            return Ok(Place { output, real: path.to_owned(), now: Now::Special });
        }
        let owned = || path.to_owned();
        match output.replaces {
            Replaces::Nothing => return Err(PutError::Exists(owned())),
            Replaces::Text(_) => {}
            Replaces::Made | Replaces::Any => {
                if inputs.has(path) {
                    return Err(PutError::Input(owned()));
                }
                let head = head_of(path).map_err(refused)?;
                if is_lightbook(path, &head) {
                    return Err(PutError::Lightbook(owned()));
                }
                if output.replaces == Replaces::Made && !head.contains(MADE) {
                    return Err(PutError::Foreign(owned()));
                }
            }
        }
        if about.permissions().readonly() {
            return Err(PutError::ReadOnly(owned()));
        }
        let real = path.canonicalize().map_err(refused)?;
        Ok(Place { output, real, now: Now::Regular(about) })
    }

    fn refused(&self) -> impl Fn(io::Error) -> PutError + use<> {
        let path = self.output.path.to_owned();
        move |cause| PutError::Io { path: path.clone(), cause }
    }

    /// Puts the n-th file of the stage in its place.
    fn put(&self, stage: &Stage, n: usize, inputs: &Inputs) -> Result<How, PutError> {
        let new = stage.place(n);
        let Now::Regular(about) = &self.now else {
            return match rename_new(&new, &self.real) {
                Ok(()) => Ok(How::New),
                // Another program was quicker; what it made is replaced or not like what was there before.
                Err(cause) if cause.kind() == io::ErrorKind::AlreadyExists => {
                    match Place::of(self.output, inputs)? {
                        place @ Place { now: Now::Regular(_), .. } => place.put(stage, n, inputs),
                        _ => Err(self.refused()(cause)),
                    }
                }
                Err(cause) => Err(self.refused()(cause)),
            };
        };
        if has_other_names(about) {
            return self.write_within(stage, n);
        }
        let (how, before) = match exchange(&new, &self.real) {
            Ok(()) => (How::Exchanged, new),
            Err(Exchange::Unknown) => {
                let old = stage.old(n);
                fs::copy(&self.real, &old).map_err(self.refused())?;
                self.still(&old)?;
                match fs::rename(&new, &self.real) {
                    Ok(()) => (How::Renamed, old),
                    // Mounted by itself, say.
                    Err(_) => return self.write_within(stage, n),
                }
            }
            Err(Exchange::Refused) => return self.write_within(stage, n),
        };
        self.still(&before).inspect_err(|_| self.take_back(stage, n, how))?;
        Ok(how)
    }

    /// Writes into the file that is there, so that all its names lead to what is new.
    fn write_within(&self, stage: &Stage, n: usize) -> Result<How, PutError> {
        let old = stage.old(n);
        fs::copy(&self.real, &old).map_err(self.refused())?;
        self.still(&old)?;
        if let Err(cause) = write_over(&self.real, self.output.bytes) {
            self.take_back(stage, n, How::Within);
            return Err(self.refused()(cause));
        }
        Ok(How::Within)
    }

    /// Whether what was there is what it was thought to be.
    fn still(&self, before: &Path) -> Result<(), PutError> {
        let Replaces::Text(wanted) = self.output.replaces else { return Ok(()) };
        match read::read(before, wanted.len() as u64) {
            Ok(found) if found == wanted => Ok(()),
            _ => Err(PutError::Changed(self.output.path.to_owned())),
        }
    }

    /// Puts back what was there before. What cannot be put back stays.
    fn take_back(&self, stage: &Stage, n: usize, how: How) {
        let _ = match how {
            How::New => fs::remove_file(&self.real),
            How::Exchanged => fs::rename(stage.place(n), &self.real),
            How::Renamed => fs::rename(stage.old(n), &self.real),
            How::Within => fs::read(stage.old(n)).and_then(|old| write_over(&self.real, &old)),
        };
    }
}

/// Where a path leads that ends at nothing yet.
fn beyond_links(path: &Path) -> io::Result<PathBuf> {
    const MOST: usize = 40;
    let mut at = path.to_owned();
    for _ in 0..MOST {
        match fs::read_link(&at) {
            Ok(to) => at = folder_of(&at).join(to),
            Err(_) => return Ok(at),
        }
    }
    Err(io::Error::other("its links form a cycle"))
}

fn head_of(path: &Path) -> io::Result<String> {
    let file = read::open_regular(path)?;
    let mut head = Vec::new();
    io::Read::read_to_end(&mut io::Read::take(file, HEAD), &mut head)?;
    Ok(String::from_utf8_lossy(&head).into_owned())
}

/// Whether a file is a lightbook, by its name or by how it begins.
fn is_lightbook(path: &Path, head: &str) -> bool {
    if path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("caltrin")) {
        return true;
    }
    let head = head.trim_start_matches('\u{feff}');
    let (tokens, _) = syntax::lex(head);
    let is_word = |token: &&syntax::Lexed| {
        !token.kind.is_trivia() && token.kind != syntax::SyntaxKind::LineEnd
    };
    let mut words = tokens.iter().filter(is_word);
    words.next().is_some_and(|first| &head[first.start..first.end] == "lightbook")
        && words.next().is_some_and(|second| second.kind == syntax::SyntaxKind::Text)
}

/// Whether the file has more than one name.
#[cfg(unix)]
fn has_other_names(about: &Metadata) -> bool {
    std::os::unix::fs::MetadataExt::nlink(about) > 1
}

#[cfg(not(unix))]
fn has_other_names(_: &Metadata) -> bool {
    false
}

fn write_over(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let mut file = OpenOptions::new().write(true).open(path)?;
    file.write_all(bytes)?;
    file.set_len(bytes.len() as u64)?;
    file.sync_all()
}

/// Why two files did not change places.
enum Exchange {
    /// The system does not know how.
    Unknown,
    /// It refused.
    #[cfg_attr(not(target_os = "linux"), expect(dead_code))]
    Refused,
}

/// Lets two files change places at once, so that nobody's save is lost in between.
#[cfg(target_os = "linux")]
fn exchange(a: &Path, b: &Path) -> Result<(), Exchange> {
    use rustix::fs::{CWD, RenameFlags, renameat_with};
    use rustix::io::Errno;
    renameat_with(CWD, a, CWD, b, RenameFlags::EXCHANGE).map_err(|refused| match refused {
        Errno::INVAL | Errno::NOSYS | Errno::NOENT => Exchange::Unknown,
        _ => Exchange::Refused,
    })
}

#[cfg(not(target_os = "linux"))]
fn exchange(_: &Path, _: &Path) -> Result<(), Exchange> {
    Err(Exchange::Unknown)
}

/// Gives a file a name that is free.
#[cfg(target_os = "linux")]
fn rename_new(from: &Path, to: &Path) -> io::Result<()> {
    use rustix::fs::{CWD, RenameFlags, renameat_with};
    use rustix::io::Errno;
    match renameat_with(CWD, from, CWD, to, RenameFlags::NOREPLACE) {
        Ok(()) => Ok(()),
        Err(Errno::INVAL | Errno::NOSYS) => rename_if_free(from, to),
        Err(refused) => Err(refused.into()),
    }
}

#[cfg(not(target_os = "linux"))]
fn rename_new(from: &Path, to: &Path) -> io::Result<()> {
    rename_if_free(from, to)
}

fn rename_if_free(from: &Path, to: &Path) -> io::Result<()> {
    match fs::symlink_metadata(to) {
        Err(cause) if cause.kind() == io::ErrorKind::NotFound => fs::rename(from, to),
        Err(cause) => Err(cause),
        Ok(_) => Err(io::ErrorKind::AlreadyExists.into()),
    }
}
