//! The cache of analyzed sounds, keyed by the content of their files.

use std::fs::{self, File, OpenOptions};
use std::io::{self, Read};
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use caltrin_core::sound::{Band, Hearing};

use crate::files::{self, Inputs, Output, Replaces};

/// Stands first in what is kept; another way of hearing gets another one.
const HEAD: &[u8] = b"caltrin heard 4\n";

/// The ending of an entry's name.
const ENDING: &str = "heard";

/// Largest file that is read back.
const LARGEST: u64 = 256 << 20;

/// Most bytes of all entries; the least recently used ones are removed first.
const MOST: u64 = 1 << 30;

/// A folder of analyzed sounds, keyed by the content of their files. It should be the user's own cache folder; it can be
/// deleted at any time. Entries are validated when they are read, and an entry that no sound could have is ignored. An
/// entry that passes is trusted, so do not use a folder that came with somebody else's book.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Cache(PathBuf);

impl Cache {
    /// A cache in this folder, which is created when the first entry is written.
    pub fn at(folder: impl Into<PathBuf>) -> Cache {
        Cache(folder.into())
    }

    /// The entry of a key, if it is valid.
    pub(super) fn read(&self, key: &str, own: &[Band]) -> Option<Hearing> {
        let file = unlinked(&self.place(key))?;
        let mut bytes = Vec::new();
        (&file).take(LARGEST + 1).read_to_end(&mut bytes).ok()?;
        if bytes.len() as u64 > LARGEST {
            return None;
        }
        let rest = bytes.strip_prefix(HEAD)?;
        let (sum, rest) = rest.split_at_checked(blake3::OUT_LEN)?;
        if blake3::hash(rest).as_bytes()[..] != *sum {
            return None;
        }
        let (heard, after): (Hearing, _) = postcard::take_from_bytes(rest).ok()?;
        let heard = (after.is_empty() && heard.is_sound(own)).then_some(heard);
        if heard.is_some() {
            // Asked for just now; where that cannot be noted it is only dropped sooner.
            let _ = file.set_modified(SystemTime::now());
        }
        heard
    }

    /// Writes an entry. If that fails, the sound will be analyzed again.
    pub(super) fn write(&self, key: &str, heard: &Hearing) {
        let _ = self.try_write(key, heard);
    }

    fn try_write(&self, key: &str, heard: &Hearing) -> io::Result<()> {
        let rest = postcard::to_allocvec(heard).map_err(io::Error::other)?;
        let bytes = [HEAD, blake3::hash(&rest).as_bytes(), &rest].concat();
        self.make_room(bytes.len() as u64)?;
        let path = self.place(key);
        // Whatever lies there could not be read back.
        if fs::symlink_metadata(&path).is_ok() {
            fs::remove_file(&path)?;
        }
        let output = Output { path: &path, bytes: &bytes, replaces: Replaces::Nothing };
        files::put(&[output], &Inputs::default()).map_err(io::Error::other)?;
        Ok(())
    }

    fn place(&self, key: &str) -> PathBuf {
        self.0.join(key).with_extension(ENDING)
    }

    /// Makes the folder, for its user alone, and drops the oldest so that this many bytes more are not too many.
    fn make_room(&self, more: u64) -> io::Result<()> {
        let mut builder = fs::DirBuilder::new();
        builder.recursive(true);
        #[cfg(unix)]
        std::os::unix::fs::DirBuilderExt::mode(&mut builder, 0o700);
        builder.create(&self.0)?;
        let mut kept = Vec::new();
        for entry in fs::read_dir(&self.0)?.flatten() {
            let path = entry.path();
            let Ok(about) = entry.metadata() else { continue };
            if about.is_file() && path.extension().is_some_and(|ending| ending == ENDING) {
                kept.push((about.modified()?, about.len(), path));
            }
        }
        kept.sort_unstable();
        let mut all = more + kept.iter().map(|(_, size, _)| size).sum::<u64>();
        for (_, size, path) in kept {
            if all <= MOST {
                break;
            }
            // Another call may have dropped it.
            let _ = fs::remove_file(path);
            all -= size;
        }
        Ok(())
    }
}

/// Opens a regular file that is not reached by a link.
fn unlinked(path: &Path) -> Option<File> {
    let mut options = OpenOptions::new();
    options.read(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::custom_flags(
        &mut options,
        libc::O_NONBLOCK | libc::O_NOFOLLOW,
    );
    let file = options.open(path).ok()?;
    file.metadata().is_ok_and(|about| about.is_file()).then_some(file)
}

/// What a sound is known by: what its file holds, and which bands of one's own were heard.
pub fn key(file: &mut impl Read, own: &[Band]) -> io::Result<String> {
    let mut hasher = blake3::Hasher::new();
    hasher.update(HEAD);
    for band in own {
        for edge in band.edges() {
            hasher.update(&edge.0.to_le_bytes());
        }
    }
    hasher.update(b"\n");
    hasher.update_reader(file)?;
    Ok(hasher.finalize().to_hex()[..32].to_owned())
}
