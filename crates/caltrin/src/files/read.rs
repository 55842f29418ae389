//! Reading with a bound.

use std::fs::{File, OpenOptions};
use std::io::{self, Read};
use std::path::Path;

/// Opens a regular file. A folder, a pipe or a device is refused without waiting for it.
///
/// # Errors
/// If the system refuses, or it is not a regular file.
pub fn open_regular(path: &Path) -> io::Result<File> {
    let mut options = OpenOptions::new();
    options.read(true);
    // A pipe without a writer would be waited for; asked of what was opened, nothing can be exchanged in between.
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::custom_flags(&mut options, libc::O_NONBLOCK);
    regular(options.open(path)?)
}

/// Opens a regular file in a folder or below it. Links are followed as long as they end there; one that is put there
/// meanwhile is not.
///
/// # Errors
/// If the system refuses, it is not a regular file, or it lies elsewhere ([`io::ErrorKind::CrossesDevices`]).
pub fn open_within(folder: &Path, name: &Path) -> io::Result<File> {
    let folder = folder.canonicalize()?;
    let real = folder.join(name).canonicalize()?;
    let Ok(inside) = real.strip_prefix(&folder) else {
        return Err(io::ErrorKind::CrossesDevices.into());
    };
    regular(open_without_links(&folder, inside)?)
}

#[cfg(target_os = "linux")]
fn open_without_links(folder: &Path, inside: &Path) -> io::Result<File> {
    use rustix::fs::{CWD, Mode, OFlags, ResolveFlags, openat, openat2};
    use rustix::io::Errno;
    let flags = OFlags::RDONLY | OFlags::NONBLOCK | OFlags::CLOEXEC;
    let root = openat(CWD, folder, OFlags::DIRECTORY | OFlags::CLOEXEC, Mode::empty())?;
    let resolve = ResolveFlags::BENEATH | ResolveFlags::NO_SYMLINKS;
    match openat2(&root, inside, flags, Mode::empty(), resolve) {
        Ok(file) => Ok(file.into()),
        // An old system.
        Err(Errno::NOSYS) => {
            Ok(openat(&root, inside, flags | OFlags::NOFOLLOW, Mode::empty())?.into())
        }
        Err(refused) => Err(refused.into()),
    }
}

#[cfg(not(target_os = "linux"))]
fn open_without_links(folder: &Path, inside: &Path) -> io::Result<File> {
    open_regular(&folder.join(inside))
}

fn regular(file: File) -> io::Result<File> {
    let about = file.metadata()?;
    if about.is_dir() {
        return Err(io::Error::new(io::ErrorKind::IsADirectory, "it is a folder"));
    }
    if !about.is_file() {
        return Err(io::Error::new(io::ErrorKind::InvalidInput, "it is not a regular file"));
    }
    Ok(file)
}

/// Reads a regular file of at most so many bytes.
///
/// # Errors
/// If the system refuses, it is not a regular file, or it is larger ([`io::ErrorKind::FileTooLarge`]).
pub fn read(path: &Path, most: u64) -> io::Result<Vec<u8>> {
    read_open(&open_regular(path)?, most)
}

/// The same of a file that is open.
///
/// # Errors
/// As [`read`].
pub fn read_open(file: &File, most: u64) -> io::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    // Files can grow while they are read.
    file.take(most.saturating_add(1)).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > most {
        return Err(io::ErrorKind::FileTooLarge.into());
    }
    Ok(bytes)
}
