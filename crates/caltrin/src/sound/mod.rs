//! Sounds beside a book: found, decoded a little at a time, heard, and what was heard kept.
//!
//! WAV (8 to 32 bits, whole numbers or floating), FLAC, Ogg Vorbis, MP3 and standard MIDI files. What has been heard is
//! kept in a [`Cache`], if there is one, by what the file holds, so that it need not be heard again; where that cannot be
//! written nothing is lost but time.

mod container;
mod decode;
mod kept;
mod midi;

use std::fs::File;
use std::io::{self, BufReader, Cursor, Read};
use std::path::{Component, Path, PathBuf};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::SystemTime;

use caltrin_core::quantity::Seconds;
use caltrin_core::sound::{Band, Hearing, SoundFault};
use thiserror::Error;

use crate::files;

pub use decode::is_decoding;
pub use kept::Cache;

/// What can be read, in words.
pub const FORMATS: &str = "WAV, FLAC, Ogg Vorbis, MP3 or MIDI";

/// Why a sound cannot be heard.
#[derive(Debug, Error)]
pub enum SoundError {
    /// The path leads elsewhere.
    #[error("`{0}` is outside the book's folder")]
    Outside(String),
    /// There is none; the nearest one in words, or nothing.
    #[error("there is no sound `{0}` in the book's folder{1}")]
    Missing(String, String),
    /// The system refused.
    #[error("cannot read the sound `{name}`: {cause}")]
    Io {
        /// The sound.
        name: String,
        /// Why not.
        cause: io::Error,
    },
    /// There is nothing in it.
    #[error("the sound `{0}` is an empty file")]
    Nothing(String),
    /// It is none of the formats.
    #[error("`{name}` is not a readable sound file ({FORMATS}): {cause}")]
    Unknown {
        /// The sound.
        name: String,
        /// What was amiss.
        cause: String,
    },
    /// It breaks off.
    #[error(
        "the sound `{name}` is truncated: its header declares {:.2} s, {:.2} s can be read; save it again",
        .promised.0, .found.0
    )]
    Short {
        /// The sound.
        name: String,
        /// How long it says it is.
        promised: Seconds,
        /// How long it is.
        found: Seconds,
    },
    /// It was damaged.
    #[error("the sound `{name}` is damaged after {:.2} s: {cause}", .found.0)]
    Damaged {
        /// The sound.
        name: String,
        /// How far it could be read.
        found: Seconds,
        /// What was amiss.
        cause: String,
    },
    /// What is in it is not a sound.
    #[error("the sound `{name}` cannot be analyzed: {fault}")]
    Fault {
        /// The sound.
        name: String,
        /// Why not.
        fault: SoundFault,
    },
}

/// Called with how far the analysis of a sound has come: its name, and a part from 0 to 1.
pub type Progress<'a> = &'a dyn Fn(&str, f64);

/// The sounds that a program has analyzed, for reading the same books again and again. A sound whose file has another
/// size or time than before is analyzed anew.
#[derive(Debug, Default)]
pub struct Memory(Mutex<Vec<Remembered>>);

#[derive(Debug)]
struct Remembered {
    /// The file as it was: its path, size and time.
    file: (PathBuf, u64, SystemTime),
    own: Vec<Band>,
    hearing: Arc<Hearing>,
}

/// Most sounds that are remembered.
const MOST: usize = 64;

impl Memory {
    fn held(&self) -> MutexGuard<'_, Vec<Remembered>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn find(&self, file: &(PathBuf, u64, SystemTime), own: &[Band]) -> Option<Arc<Hearing>> {
        let held = self.held();
        let known = held.iter().find(|known| known.file == *file && known.own == own)?;
        Some(Arc::clone(&known.hearing))
    }

    fn keep(&self, file: (PathBuf, u64, SystemTime), own: &[Band], hearing: &Arc<Hearing>) {
        let mut held = self.held();
        held.retain(|known| known.file.0 != file.0 || known.own != own);
        if held.len() == MOST {
            held.remove(0);
        }
        held.push(Remembered { file, own: own.to_vec(), hearing: Arc::clone(hearing) });
    }
}

/// Analyzes the sounds in a book's folder and below it.
#[derive(Clone, Copy)]
pub struct SoundLoader<'a> {
    folder: &'a Path,
    memory: Option<&'a Memory>,
    cache: Option<&'a Cache>,
    progress: Option<Progress<'a>>,
}

impl<'a> SoundLoader<'a> {
    /// For the sounds in a folder, without a cache.
    pub fn new(folder: &'a Path) -> Self {
        SoundLoader { folder, memory: None, cache: None, progress: None }
    }

    /// The same with a cache, if there is one.
    #[must_use]
    pub fn keeping(self, cache: Option<&'a Cache>) -> Self {
        SoundLoader { cache, ..self }
    }

    /// The same, remembering what it has analyzed.
    #[must_use]
    pub fn remembering(self, memory: Option<&'a Memory>) -> Self {
        SoundLoader { memory, ..self }
    }

    /// The same, calling back with how far it has come.
    #[must_use]
    pub fn telling(self, progress: Option<Progress<'a>>) -> Self {
        SoundLoader { progress, ..self }
    }

    /// Analyzes a sound, also in custom bands, or remembers it.
    ///
    /// # Errors
    /// If there is none of that name in the folder, or it cannot be heard whole.
    pub fn hear(&self, name: &str, own: &[Band]) -> Result<Arc<Hearing>, SoundError> {
        let given = Path::new(name);
        let plain = given.components().all(|part| matches!(part, Component::Normal(_)));
        if name.is_empty() || name.contains(['\\', '\0']) || !plain {
            return Err(SoundError::Outside(name.to_owned()));
        }
        let file = files::open_within(self.folder, given).map_err(|cause| match cause.kind() {
            io::ErrorKind::CrossesDevices => SoundError::Outside(name.to_owned()),
            io::ErrorKind::NotFound => {
                SoundError::Missing(name.to_owned(), crate::near_file(self.folder, name))
            }
            _ => SoundError::Io { name: name.to_owned(), cause },
        })?;
        let file = not_empty(file, name)?;
        let Some(memory) = self.memory else { return self.hear_file(file, name, own) };
        let about = file.metadata().and_then(|about| Ok((about.len(), about.modified()?)));
        let Ok((size, time)) = about else { return self.hear_file(file, name, own) };
        let as_it_is = (self.folder.join(given), size, time);
        if let Some(known) = memory.find(&as_it_is, own) {
            return Ok(known);
        }
        let hearing = self.hear_file(file, name, own)?;
        memory.keep(as_it_is, own, &hearing);
        Ok(hearing)
    }

    fn hear_file(
        &self,
        mut file: File,
        name: &str,
        own: &[Band],
    ) -> Result<Arc<Hearing>, SoundError> {
        let Some(cache) = self.cache else {
            return heard(file, name, own, self.progress).map(Arc::new);
        };
        let at = |cause| SoundError::Io { name: name.to_owned(), cause };
        let key = kept::key(&mut file, own).map_err(at)?;
        if let Some(known) = cache.read(&key, own) {
            return Ok(Arc::new(known));
        }
        io::Seek::rewind(&mut file).map_err(at)?;
        let heard = heard(file, name, own, self.progress)?;
        cache.write(&key, &heard);
        Ok(Arc::new(heard))
    }
}

/// Analyzes a sound in a file wherever it lies, and keeps nothing.
///
/// # Errors
/// If it cannot be heard whole.
pub fn hear(
    path: &Path,
    own: &[Band],
    progress: Option<Progress<'_>>,
) -> Result<Hearing, SoundError> {
    let name = path.display().to_string();
    heard(opened(path, &name)?, &name, own, progress)
}

/// Analyzes a sound that is held in memory.
///
/// # Errors
/// If it cannot be heard whole.
pub fn hear_bytes(bytes: &[u8], name: &str, own: &[Band]) -> Result<Hearing, SoundError> {
    if bytes.is_empty() {
        return Err(SoundError::Nothing(name.to_owned()));
    }
    if midi::is_midi(bytes) {
        return decode::guarded(name, || midi::heard(bytes, name));
    }
    decode::heard(Cursor::new(bytes.to_vec()), name, own, None)
}

fn opened(path: &Path, name: &str) -> Result<File, SoundError> {
    let file = files::open_regular(path).map_err(|cause| match cause.kind() {
        io::ErrorKind::NotFound => SoundError::Missing(name.to_owned(), String::new()),
        _ => SoundError::Io { name: name.to_owned(), cause },
    })?;
    not_empty(file, name)
}

fn not_empty(file: File, name: &str) -> Result<File, SoundError> {
    match file.metadata() {
        Ok(about) if about.len() == 0 => Err(SoundError::Nothing(name.to_owned())),
        Ok(_) => Ok(file),
        Err(cause) => Err(SoundError::Io { name: name.to_owned(), cause }),
    }
}

fn heard(
    mut file: File,
    name: &str,
    own: &[Band],
    progress: Option<Progress<'_>>,
) -> Result<Hearing, SoundError> {
    let at = |cause| SoundError::Io { name: name.to_owned(), cause };
    let mut head = [0; 4];
    let mut read = 0;
    while read < head.len() {
        match file.read(&mut head[read..]).map_err(at)? {
            0 => break,
            n => read += n,
        }
    }
    io::Seek::rewind(&mut file).map_err(at)?;
    if midi::is_midi(&head) {
        let mut bytes = Vec::new();
        BufReader::new(file).take(midi::LARGEST + 1).read_to_end(&mut bytes).map_err(at)?;
        return decode::guarded(name, || midi::heard(&bytes, name));
    }
    decode::heard(file, name, own, progress)
}
