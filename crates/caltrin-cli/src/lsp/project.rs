//! The books around a document: what it uses, what uses it, and the rehearsal files of each.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use caltrin::lang::ide::{Project, ProjectText, links};
use caltrin::lang::parser::{Parse, parse};

use super::text::Document;

/// Most files of a folder that are looked at for books that use a document.
const MOST_FILES: usize = 500;
/// Largest of them.
const LARGEST: u64 = 4 << 20;

/// The documents that are open in the editor, by their files.
pub type Open = BTreeMap<PathBuf, Document>;

/// A book with all texts that belong to it.
#[derive(Clone, Debug)]
pub struct Family {
    pub project: Project,
    /// The file of each text; `None` for the stock.
    pub files: Vec<Option<PathBuf>>,
}

impl Family {
    /// The index of a file's text.
    pub fn index(&self, path: &Path) -> Option<usize> {
        self.files.iter().position(|file| file.as_deref() == Some(path))
    }
}

/// Trees by their files, with the texts that they are of.
#[derive(Default)]
pub struct Trees(BTreeMap<PathBuf, (Arc<str>, Parse)>);

impl Trees {
    fn of(&mut self, path: &Path, text: &str) -> Parse {
        match self.0.get(path) {
            Some((known, parse)) if **known == *text => parse.clone(),
            known => {
                let parsed = match known {
                    Some((before, known)) => known.edited(before, text),
                    None => parse(text),
                };
                self.0.insert(path.to_owned(), (text.into(), parsed.clone()));
                parsed
            }
        }
    }
}

/// The text of a file: that of the editor, if it is open there.
pub fn text_of(path: &Path, open: &Open) -> Option<String> {
    match open.get(path) {
        Some(document) => Some(document.text.clone()),
        None => {
            let small = fs::metadata(path).is_ok_and(|m| m.is_file() && m.len() <= LARGEST);
            small.then(|| fs::read_to_string(path).ok()).flatten()
        }
    }
}

/// Whether a text is a file of rehearsals.
fn rehearses(parsed: &Parse) -> Option<String> {
    let tree = parsed.tree();
    let first = tree.first_token()?;
    let mut words = std::iter::successors(Some(first), |token| token.next_token());
    let word = words.find(|token| !token.kind().is_trivia() && !token.text().trim().is_empty())?;
    let named = links(parsed).into_iter().next();
    named.filter(|_| word.text() == "rehearses").map(|link| link.file)
}

/// The book with a root file, what it uses, and the rehearsal files for it in its folder.
pub fn family(root: &Path, open: &Open, trees: &mut Trees) -> Option<Family> {
    let text = text_of(root, open)?;
    let folder = caltrin::folder_of(root).to_owned();
    let unsaved = |path: &Path| open.get(path).map(|document| document.text.clone());
    let mut texts: Vec<ProjectText> = Vec::new();
    let mut files: Vec<Option<PathBuf>> = Vec::new();
    let name = root.file_name()?.to_string_lossy().into_owned();
    let parsed = trees.of(root, &text);
    // A rehearsal file belongs to its book.
    if let Some(book) = rehearses(&parsed) {
        let book = folder.join(book);
        if book != *root && text_of(&book, open).is_some() {
            return family(&book, open, trees);
        }
    }
    texts.push(ProjectText { name, text, parse: parsed });
    files.push(Some(root.to_owned()));
    let mut n = 0;
    while n < texts.len() && texts.len() < 64 {
        let book = caltrin::lang::ast::AstNode::cast(texts[n].parse.tree());
        let used: Vec<String> =
            book.map_or(Vec::new(), |book: caltrin::lang::ast::Book| book.used().collect());
        for name in used {
            if texts.iter().skip(1).any(|text| text.name == name) {
                continue;
            }
            let Ok(text) = caltrin::used_text(&folder, &name, Some(&unsaved)) else { continue };
            let stock = name == caltrin::STOCK_NAME;
            let path = folder.join(&name);
            let parse = trees.of(&path, &text);
            texts.push(ProjectText { name, text, parse });
            files.push(Some(path).filter(|_| !stock));
        }
        n += 1;
    }
    let own = root.file_name().map(|name| name.to_string_lossy().into_owned());
    for path in beside(&folder, open) {
        if files.iter().any(|file| file.as_deref() == Some(&*path)) {
            continue;
        }
        let Some(text) = text_of(&path, open) else { continue };
        if !text.contains("rehearses") {
            continue;
        }
        let parse = trees.of(&path, &text);
        if rehearses(&parse) == own {
            let name = path.file_name().map_or(String::new(), |n| n.to_string_lossy().into_owned());
            texts.push(ProjectText { name, text, parse });
            files.push(Some(path));
        }
    }
    Some(Family { project: Project::of_parsed(texts), files })
}

/// The lightbooks of a folder.
fn beside(folder: &Path, open: &Open) -> BTreeSet<PathBuf> {
    let is_book = |path: &Path| path.extension().is_some_and(|ending| ending == "caltrin");
    let entries = fs::read_dir(folder).into_iter().flatten().flatten();
    let mut found: BTreeSet<PathBuf> =
        entries.map(|entry| entry.path()).filter(|path| is_book(path)).take(MOST_FILES).collect();
    found.extend(open.keys().filter(|path| path.parent() == Some(folder)).cloned());
    found
}

/// The books that a document belongs to: itself, and those of its folder that use it, directly or
/// not.
pub fn families(path: &Path, open: &Open, trees: &mut Trees) -> Vec<Family> {
    let mut found: Vec<Family> = family(path, open, trees).into_iter().collect();
    let folder = caltrin::folder_of(path).to_owned();
    let name = path.file_name().map_or(String::new(), |n| n.to_string_lossy().into_owned());
    for other in beside(&folder, open) {
        if other == path {
            continue;
        }
        // Only texts with `use` can use it.
        let Some(text) = text_of(&other, open).filter(|text| text.contains("use ")) else {
            continue;
        };
        let direct = text.contains(&format!("\"{name}\""));
        let indirect = || text.contains(".caltrin\"");
        if direct || indirect() {
            let whole = family(&other, open, trees);
            found.extend(whole.filter(|whole| whole.index(path).is_some_and(|n| n > 0)));
        }
    }
    found
}
