//! What has been heard, kept beside the book by what the file holds.

use std::fs;
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};

use caltrin_core::sound::{Band, Hearing};

/// The folder's name.
pub const FOLDER: &str = ".caltrin";

/// Stands first in what is kept; another way of hearing gets another one.
const HEAD: &[u8] = b"caltrin heard 3\n";

/// Largest file that is read back.
const LARGEST: u64 = 256 << 20;

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

/// Where a sound of that key is kept.
pub fn path(folder: &Path, key: &str) -> PathBuf {
    folder.join(FOLDER).join(format!("{key}.heard"))
}

/// What is kept there, if it is whole.
pub fn read(path: &Path) -> Option<Hearing> {
    if fs::metadata(path).ok()?.len() > LARGEST {
        return None;
    }
    let bytes = fs::read(path).ok()?;
    let rest = bytes.strip_prefix(HEAD)?;
    let (sum, rest) = rest.split_at_checked(blake3::OUT_LEN)?;
    if blake3::hash(rest).as_bytes()[..] != *sum {
        return None;
    }
    postcard::from_bytes(rest).ok()
}

/// Keeps it. Where that cannot be it will be heard anew.
pub fn write(path: &Path, heard: &Hearing) {
    let _ = try_write(path, heard);
}

fn try_write(path: &Path, heard: &Hearing) -> io::Result<()> {
    let Some(folder) = path.parent() else { return Ok(()) };
    if !folder.exists() {
        fs::create_dir(folder)?;
        // Nobody need keep it in a repository.
        fs::write(folder.join(".gitignore"), "*\n")?;
    }
    let rest = postcard::to_allocvec(heard).map_err(io::Error::other)?;
    // Two runs at once do not write into each other.
    let mut file = tempfile::NamedTempFile::new_in(folder)?;
    file.write_all(HEAD)?;
    file.write_all(blake3::hash(&rest).as_bytes())?;
    file.write_all(&rest)?;
    file.persist(path)?;
    Ok(())
}
