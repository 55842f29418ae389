//! Books as git has them.

use std::path::Path;
use std::process::{Command, Output};
use std::sync::Arc;

use caltrin::core::program::Wanted;
use caltrin::core::sound::Band;
use caltrin::lang::Resources;
use caltrin::sound::{Cache, SoundError, SoundLoader, hear_bytes};
use caltrin::{Opened, folder_of};

/// Runs git in a folder; nothing of the repository is run by it.
fn git(folder: &Path, arguments: &[&str]) -> Result<Output, String> {
    Command::new("git")
        .arg("-C")
        .arg(folder)
        .args(["-c", "core.fsmonitor=false", "--no-pager"])
        .args(arguments)
        .output()
        .map_err(|why| format!("git cannot be started: {why}"))
}

/// A commit that changed a book.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Commit {
    /// Its short name.
    pub revision: String,
    /// When it was made, as `2026-03-14`.
    pub day: String,
    /// The first line of its message.
    pub words: String,
}

/// The latest commits that changed a book; none where git has none.
pub fn commits(book: &Path, most: usize) -> Vec<Commit> {
    let name = book.file_name().map_or(String::new(), |name| name.to_string_lossy().into_owned());
    let most = format!("-{most}");
    let asked = [
        "log",
        &most,
        "--format=%h%x00%as%x00%s",
        "--no-show-signature",
        "--",
        &format!("./{name}"),
    ];
    let Ok(told) = git(folder_of(book), &asked) else { return Vec::new() };
    if !told.status.success() {
        return Vec::new();
    }
    let text = String::from_utf8_lossy(&told.stdout);
    let each = text.lines().filter_map(|line| {
        let mut parts = line.splitn(3, '\0').map(str::to_owned);
        Some(Commit { revision: parts.next()?, day: parts.next()?, words: parts.next()? })
    });
    each.collect()
}

/// The book as a git revision has it; the books that it uses are of that revision too, and so are its sounds where git
/// has them.
///
/// # Errors
/// If git does not have it. Errors in the book are in what is opened.
pub fn opened_at(book: &Path, revision: &str, cache: Option<&Cache>) -> Result<Opened, String> {
    let folder = folder_of(book);
    if revision.starts_with('-') {
        return Err(format!("`{revision}` is not a revision; one is `HEAD~1`"));
    }
    let show = |name: &str| -> Result<Vec<u8>, String> {
        let asked = git(folder, &["show", "--no-textconv", &format!("{revision}:./{name}")])?;
        if !asked.status.success() {
            let said = String::from_utf8_lossy(&asked.stderr);
            let said = said.lines().next().unwrap_or_default();
            return Err(format!("git has no `{name}` at `{revision}`: {said}"));
        }
        Ok(asked.stdout)
    };
    let show_text = |name: &str| {
        String::from_utf8(show(name)?).map_err(|_| format!("`{name}` at `{revision}` is not text"))
    };
    let outside = |name: &str| name.split('/').any(|part| part == "..") || name.starts_with('/');
    let sounds = |name: &str, own: &[Band]| {
        let told = |fault: SoundError| fault.to_string();
        match show(name) {
            Ok(bytes) if !outside(name) => {
                hear_bytes(&bytes, name, own).map(Arc::new).map_err(told)
            }
            // Sounds are large, and often kept elsewhere.
            _ => SoundLoader::new(folder).keeping(cache).hear(name, own).map_err(told),
        }
    };
    let name = book.file_name().map_or(String::new(), |name| name.to_string_lossy().into_owned());
    let text = show_text(&name)?;
    let books = |used: &str| match used {
        caltrin::STOCK_NAME => Ok(caltrin::STOCK.to_owned()),
        used if outside(used) => {
            Err(format!("`{used}` lies outside of the book's folder; a book uses what is in it"))
        }
        used => show_text(used),
    };
    let beside = Resources { books: &books, sounds: &sounds };
    let mut opened = caltrin::read_with_resources(&text, &name, beside, Wanted::default());
    opened.file = format!("{} at {revision}", book.display());
    opened.sources[0].name.clone_from(&opened.file);
    Ok(opened)
}
