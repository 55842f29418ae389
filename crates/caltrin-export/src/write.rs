//! Writing files whole or not at all, and never over what Caltrin did not write.

use std::fs;
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};

use thiserror::Error;

use crate::Exported;

/// Stands in the first lines of every file that Caltrin exports.
pub const MARK: &str = "Made by caltrin";

/// Why files were not written.
#[derive(Debug, Error)]
pub enum WriteError {
    /// A file is there that Caltrin did not write.
    #[error("`{}` was not made by caltrin and is left as it is; `--force` writes over it", .0.display())]
    NotOurs(PathBuf),
    /// The system refused.
    #[error("cannot write `{}`: {cause}", .path.display())]
    Io {
        /// What was to be written.
        path: PathBuf,
        /// Why not.
        cause: io::Error,
    },
}

/// Writes files into a folder, which is made if need be. Either all are written or none: each is
/// written beside its place first, and moved there when all are complete. Gives their paths.
pub fn write(folder: &Path, files: &[Exported], force: bool) -> Result<Vec<PathBuf>, WriteError> {
    let at = |path: &Path| {
        let path = path.to_owned();
        // The name of the file beside it, which is moved at the end, is nobody's concern.
        move |cause: io::Error| WriteError::Io { path, cause: cause.kind().into() }
    };
    let paths: Vec<PathBuf> = files.iter().map(|file| folder.join(&file.file_name)).collect();
    for path in &paths {
        if !force && path.exists() && !is_ours(path).map_err(at(path))? {
            return Err(WriteError::NotOurs(path.clone()));
        }
    }
    fs::create_dir_all(folder).map_err(at(folder))?;
    let mut waiting = Vec::new();
    for (file, path) in files.iter().zip(&paths) {
        let mut beside =
            tempfile::Builder::new().prefix(".caltrin-").tempfile_in(folder).map_err(at(path))?;
        beside.write_all(file.text.as_bytes()).map_err(at(path))?;
        beside.as_file().sync_all().map_err(at(path))?;
        waiting.push((beside, path));
    }
    for (beside, path) in waiting {
        readable(beside.as_file()).map_err(at(path))?;
        beside.persist(path).map_err(|refused| at(path)(refused.error))?;
    }
    Ok(paths)
}

/// Temporary files are private; an exported file is read by others too.
#[cfg(unix)]
fn readable(file: &fs::File) -> io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    file.set_permissions(fs::Permissions::from_mode(0o644))
}

#[cfg(not(unix))]
fn readable(_: &fs::File) -> io::Result<()> {
    Ok(())
}

fn is_ours(path: &Path) -> io::Result<bool> {
    let mut start = Vec::new();
    fs::File::open(path)?.take(4096).read_to_end(&mut start)?;
    Ok(String::from_utf8_lossy(&start).contains(MARK))
}
