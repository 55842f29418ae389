//! The texts of a book and of what it uses as the page changes them: edits, one history of them, and what is still to be
//! written to the files. No files are read or written here.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use caltrin::edit::{Edit, EditError, TextHash};

/// Most changes that are kept.
const MOST: usize = 200;
/// Most bytes of earlier texts that are kept.
const MOST_BYTES: usize = 64 << 20;

/// A text that the page can change.
#[derive(Clone, Debug)]
struct Text {
    /// As it is now.
    now: Arc<str>,
    /// As its file has it.
    file: Arc<str>,
    /// What the page had, if the file has it otherwise and both changed the same place.
    refused: Option<Arc<str>>,
}

/// A change of one text.
#[derive(Clone, Debug)]
struct Change {
    path: PathBuf,
    before: Arc<str>,
    edit: Edit,
    words: String,
    /// Whether the page made it, or another program that wrote the file.
    own: bool,
    /// Whether the text before it is kept as a version.
    kept: bool,
    /// The gesture that it came from; the next edit of that takes its place.
    gesture: Option<String>,
}

/// What happened, for the list of changes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Entry {
    pub path: PathBuf,
    pub words: String,
    pub own: bool,
    /// Where it begins in its text.
    pub at: usize,
}

/// Why a change is not made.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Refused {
    /// The page does not change this file.
    Unknown,
    /// The text that the edit was made for is not known any more.
    Stale,
    /// It cannot be done there.
    Edit(EditError),
    /// There is nothing to undo or to redo.
    Nothing,
}

impl std::fmt::Display for Refused {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Refused::Unknown => f.write_str("the page cannot change this file"),
            Refused::Stale => f.write_str("the text has changed too much since; look at it again"),
            Refused::Edit(EditError::Conflict) => {
                f.write_str("this place was changed by another program in the meantime")
            }
            Refused::Edit(why) => write!(f, "{why}"),
            Refused::Nothing => f.write_str("there is nothing more to undo or to redo"),
        }
    }
}

impl From<EditError> for Refused {
    fn from(why: EditError) -> Self {
        Refused::Edit(why)
    }
}

/// The texts and their history.
#[derive(Debug, Default)]
pub struct Workbench {
    texts: BTreeMap<PathBuf, Text>,
    /// What led to the current texts, in order.
    changes: Vec<Change>,
    undone: Vec<Change>,
}

impl Workbench {
    /// The files are these now, with what they hold. What is to be written stays, also of files that are gone; a file that another program has
    /// changed is merged with it. Gives whether any text is another than before.
    pub fn files(&mut self, files: impl IntoIterator<Item = (PathBuf, String)>) -> bool {
        let mut kept = BTreeMap::new();
        let mut changed = false;
        for (path, held) in files {
            let text = match self.texts.remove(&path) {
                None => {
                    changed = true;
                    let now: Arc<str> = held.into();
                    Text { file: now.clone(), now, refused: None }
                }
                Some(known) if *known.file == *held => known,
                Some(known) => {
                    let next = self.changed_outside(&path, &known, held.into());
                    changed |= next.now != known.now;
                    next
                }
            };
            kept.insert(path, text);
        }
        for (path, text) in std::mem::take(&mut self.texts) {
            if text.now != text.file {
                kept.insert(path, text);
            } else {
                changed = true;
            }
        }
        self.texts = kept;
        changed
    }

    /// A file that another program has written.
    fn changed_outside(&mut self, path: &Path, known: &Text, file: Arc<str>) -> Text {
        if file == known.now {
            // What was to be written is there.
            return Text { file, ..known.clone() };
        }
        let outside = Edit::between(&known.file, &file);
        let waiting = Edit::between(&known.file, &known.now);
        let (now, refused) =
            match waiting.rebase(&outside, &known.file).map(|edit| edit.apply(&file)) {
                Ok(Ok(merged)) => (Arc::from(merged), known.refused.clone()),
                _ => (file.clone(), Some(known.now.clone())),
            };
        let edit = Edit::between(&known.now, &now);
        let words = "changed by another program".to_owned();
        let change = Change {
            path: path.to_owned(),
            before: known.now.clone(),
            edit,
            words,
            own: false,
            kept: true,
            gesture: None,
        };
        self.log(change);
        Text { now, file, refused }
    }

    fn log(&mut self, change: Change) {
        self.changes.push(change);
        let mut bytes: usize = self.changes.iter().map(|change| change.before.len()).sum();
        let mut most = self.changes.len().saturating_sub(MOST);
        for change in &self.changes[most..self.changes.len() - 1] {
            if bytes <= MOST_BYTES {
                break;
            }
            bytes -= change.before.len();
            most += 1;
        }
        self.changes.drain(..most);
    }

    /// The current text of a file.
    pub fn text(&self, path: &Path) -> Option<&Arc<str>> {
        self.texts.get(path).map(|text| &text.now)
    }

    /// What a file holds, as far as is known.
    pub fn held(&self, path: &Path) -> Option<&Arc<str>> {
        self.texts.get(path).map(|text| &text.file)
    }

    /// The texts, by their files.
    pub fn texts(&self) -> impl Iterator<Item = (&PathBuf, &Arc<str>)> {
        self.texts.iter().map(|(path, text)| (path, &text.now))
    }

    /// Files that hold another text than the page has: the file, what it holds, and what is to be written.
    pub fn waiting(&self) -> Vec<(PathBuf, Arc<str>, Arc<str>)> {
        let waits = self.texts.iter().filter(|(_, text)| text.now != text.file);
        waits.map(|(path, text)| (path.clone(), text.file.clone(), text.now.clone())).collect()
    }

    /// A file holds this text now.
    pub fn written(&mut self, path: &Path, held: Arc<str>) {
        if let Some(text) = self.texts.get_mut(path) {
            text.file = held;
        }
    }

    /// Texts of the page that were refused because another program had changed the same place.
    pub fn refused(&self) -> Vec<(PathBuf, Arc<str>)> {
        let all = self.texts.iter().filter_map(|(path, text)| Some((path, text.refused.as_ref()?)));
        all.map(|(path, text)| (path.clone(), text.clone())).collect()
    }

    /// Forgets a refused text, or takes it in place of that of the file.
    pub fn settle(&mut self, path: &Path, mine: bool) -> Result<(), Refused> {
        let text = self.texts.get_mut(path).ok_or(Refused::Unknown)?;
        let refused = text.refused.take().ok_or(Refused::Nothing)?;
        if mine {
            let hash = TextHash::of(&text.now);
            self.edit(path, hash, None, "the page's text kept", |now| {
                Ok(Edit::between(now, &refused))
            })?;
        }
        Ok(())
    }

    /// Makes a change of the text with a hash, which may be an earlier one if other places were changed since. The edits
    /// of one gesture are one change: each is made for the text that the gesture began with, and replaces the one before.
    pub fn edit(
        &mut self,
        path: &Path,
        hash: TextHash,
        gesture: Option<&str>,
        words: &str,
        make: impl FnOnce(&str) -> Result<Edit, EditError>,
    ) -> Result<(), Refused> {
        let now = self.texts.get(path).ok_or(Refused::Unknown)?.now.clone();
        let same = |change: &Change| gesture.is_some() && change.gesture.as_deref() == gesture;
        let earlier = self.changes.iter().rev().filter(|change| change.path == path);
        let mut known = std::iter::once(&now).chain(earlier.map(|change| &change.before));
        let base = known.find(|text| TextHash::of(text) == hash).cloned().ok_or(Refused::Stale)?;
        let mut edit = make(&base)?;
        let (mut changes, mut under, mut kept) = (self.changes.clone(), now, false);
        if let Some(n) = changes.iter().rposition(|change| change.path == path && same(change)) {
            let (last, text) = taken_back(&mut changes, n)?;
            (under, kept) = (text, last.kept);
        }
        if base != under {
            edit = edit.rebase(&Edit::between(&base, &under), &base)?;
        }
        let next: Arc<str> = edit.apply(&under)?.into();
        // What writes the text that is there changes nothing.
        if next == under {
            edit = Edit::new(&under, Vec::new())?;
        }
        self.changes = changes;
        self.undone.clear();
        // A gesture that came back to where it began goes on.
        if !edit.is_empty() || gesture.is_some() {
            let (path, words) = (path.to_owned(), words.to_owned());
            let gesture = gesture.map(str::to_owned);
            self.log(Change { path, before: under, edit, words, own: true, kept, gesture });
        }
        if let Some(text) = self.texts.get_mut(path) {
            text.now = next;
        }
        Ok(())
    }

    /// The texts of a file before changes that were not asked for yet, to be kept as versions, with what changed them.
    pub fn unkept(&mut self, path: &Path) -> Vec<(String, Arc<str>)> {
        let new = self.changes.iter_mut().filter(|change| change.path == path && !change.kept);
        new.map(|change| {
            change.kept = true;
            (change.words.clone(), change.before.clone())
        })
        .collect()
    }

    /// The hand lets go. Changes that came to nothing are forgotten.
    pub fn rests(&mut self) {
        self.changes.retain(|change| !change.edit.is_empty());
    }

    /// Takes back the last change of the page; changes of other programs since then stay. Gives its words.
    pub fn undo(&mut self) -> Result<String, Refused> {
        self.rests();
        let n = self.changes.iter().rposition(|change| change.own).ok_or(Refused::Nothing)?;
        let mut changes = self.changes.clone();
        let (change, text) = taken_back(&mut changes, n)?;
        self.changes = changes;
        if let Some(known) = self.texts.get_mut(&change.path) {
            known.now = text;
        }
        let words = change.words.clone();
        self.undone.push(Change { gesture: None, ..change });
        Ok(words)
    }

    /// Makes the change again that was taken back last. Gives its words.
    pub fn redo(&mut self) -> Result<String, Refused> {
        let change = self.undone.pop().ok_or(Refused::Nothing)?;
        let text = self.texts.get_mut(&change.path).ok_or(Refused::Unknown)?;
        let under = text.now.clone();
        let edit = match under == change.before {
            true => change.edit,
            false => change.edit.rebase(&Edit::between(&change.before, &under), &change.before)?,
        };
        text.now = edit.apply(&under)?.into();
        let words = change.words.clone();
        self.log(Change { before: under, edit, ..change });
        Ok(words)
    }

    /// What led to the current texts, the last first.
    pub fn history(&self) -> Vec<Entry> {
        let shown = self.changes.iter().rev().filter(|change| !change.edit.is_empty());
        let entry = |change: &Change| Entry {
            path: change.path.clone(),
            words: change.words.clone(),
            own: change.own,
            at: change.edit.replacements().first().map_or(0, |new| new.range.start),
        };
        shown.map(entry).collect()
    }

    /// Whether something can be undone, and redone.
    pub fn can(&self) -> [bool; 2] {
        [
            self.changes.iter().any(|change| change.own && !change.edit.is_empty()),
            !self.undone.is_empty(),
        ]
    }
}

/// Takes one of a list of changes out of it; those of the same text that follow are rebased. Gives it, and the text without
/// it.
fn taken_back(changes: &mut Vec<Change>, n: usize) -> Result<(Change, Arc<str>), EditError> {
    let change = changes.remove(n);
    let mut back = change.edit.inverse(&change.before)?;
    let mut base: Arc<str> = change.edit.apply(&change.before)?.into();
    let mut under = change.before.clone();
    for other in changes[n..].iter_mut().filter(|other| other.path == change.path) {
        let edit = other.edit.rebase(&back, &base)?;
        back = back.rebase(&other.edit, &base)?;
        base = other.edit.apply(&base)?.into();
        let next = edit.apply(&under)?.into();
        other.before = std::mem::replace(&mut under, next);
        other.edit = edit;
    }
    Ok((change, under))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn bench(text: &str) -> (Workbench, PathBuf) {
        let path = PathBuf::from("a.caltrin");
        let mut bench = Workbench::default();
        assert!(bench.files([(path.clone(), text.to_owned())]));
        (bench, path)
    }

    /// Replaces a word by another.
    fn swap(
        bench: &mut Workbench,
        path: &Path,
        gesture: Option<&str>,
        from: &str,
        to: &str,
    ) -> Result<(), Refused> {
        let hash = TextHash::of(&bench.text(path).expect("known").clone());
        swap_in(bench, path, hash, gesture, from, to)
    }

    fn swap_in(
        bench: &mut Workbench,
        path: &Path,
        hash: TextHash,
        gesture: Option<&str>,
        from: &str,
        to: &str,
    ) -> Result<(), Refused> {
        bench.edit(path, hash, gesture, &format!("{from} to {to}"), |text| {
            let at = text.find(from).ok_or(EditError::Missing("word"))?;
            Edit::replace(text, at..at + from.len(), to)
        })
    }

    fn now(bench: &Workbench, path: &Path) -> String {
        bench.text(path).expect("known").to_string()
    }

    #[test]
    fn a_gesture_is_one_change_of_the_text_that_it_began_with() {
        let (mut bench, path) = bench("one two three");
        let start = TextHash::of("one two three");
        for to in ["2", "22", "two", "222"] {
            swap_in(&mut bench, &path, start, Some("drag"), "two", to).expect("an edit");
            assert_eq!(now(&bench, &path), format!("one {to} three"));
        }
        bench.rests();
        assert_eq!(bench.history().len(), 1);
        swap(&mut bench, &path, Some("drag again"), "three", "3").expect("an edit");
        assert_eq!(bench.undo().as_deref(), Ok("three to 3"));
        assert_eq!(bench.undo().as_deref(), Ok("two to 222"));
        assert_eq!(
            (now(&bench, &path), bench.undo()),
            ("one two three".to_owned(), Err(Refused::Nothing))
        );
        bench.redo().and_then(|_| bench.redo()).expect("both again");
        assert_eq!(
            (now(&bench, &path), bench.redo()),
            ("one 222 3".to_owned(), Err(Refused::Nothing))
        );
    }

    #[test]
    fn a_gesture_that_ends_where_it_began_is_no_change() {
        let (mut bench, path) = bench("one two");
        let start = TextHash::of("one two");
        swap_in(&mut bench, &path, start, Some("drag"), "two", "2").expect("an edit");
        swap_in(&mut bench, &path, start, Some("drag"), "two", "two").expect("an edit");
        bench.rests();
        assert_eq!((bench.history().len(), bench.can()), (0, [false, false]));
    }

    #[test]
    fn the_text_that_is_there_is_no_change() {
        let (mut bench, path) = bench("one two");
        let start = TextHash::of("one two");
        for gesture in [None, Some("drag")] {
            let made =
                bench.edit(&path, start, gesture, "same", |text| Edit::replace(text, 4..7, "two"));
            assert_eq!(made, Ok(()));
            assert_eq!((bench.history().len(), bench.can()), (0, [false, false]));
        }
    }

    #[test]
    fn other_programs_are_merged_where_they_change_other_places() {
        let (mut bench, path) = bench("one two three");
        let start = TextHash::of("one two three");
        swap(&mut bench, &path, None, "two", "2").expect("an edit");
        assert!(bench.files([(path.clone(), "one two drei".to_owned())]));
        assert_eq!(now(&bench, &path), "one 2 drei");
        assert_eq!(bench.waiting().len(), 1);
        // An edit for the text before is rebased.
        swap_in(&mut bench, &path, start, None, "one", "1").expect("an edit");
        assert_eq!(now(&bench, &path), "1 2 drei");
        bench.undo().and_then(|_| bench.undo()).expect("both back");
        assert_eq!(now(&bench, &path), "one two drei");
        bench.redo().expect("again");
        assert_eq!(now(&bench, &path), "one 2 drei");
        // What was written comes back from the file as nothing new.
        let waiting = bench.waiting();
        bench.written(&path, waiting[0].2.clone());
        assert!(!bench.files([(path.clone(), "one 2 drei".to_owned())]));
        assert!(bench.waiting().is_empty());
    }

    #[test]
    fn a_gesture_goes_on_after_another_program_has_saved() {
        let (mut bench, path) = bench("one two three");
        let start = TextHash::of("one two three");
        swap_in(&mut bench, &path, start, Some("drag"), "two", "2").expect("an edit");
        let waiting = bench.waiting();
        bench.written(&path, waiting[0].2.clone());
        assert!(bench.files([(path.clone(), "one 2 drei".to_owned())]));
        swap_in(&mut bench, &path, start, Some("drag"), "two", "22").expect("an edit");
        assert_eq!(now(&bench, &path), "one 22 drei");
        let words: Vec<String> = bench.history().into_iter().map(|entry| entry.words).collect();
        assert_eq!(words, ["two to 22", "changed by another program"]);
        assert_eq!(bench.undo().as_deref(), Ok("two to 22"));
        assert_eq!(now(&bench, &path), "one two drei");
        // An edit that cannot be made leaves everything as it is.
        swap_in(&mut bench, &path, start, Some("again"), "one", "1").expect("an edit");
        let wrong = swap_in(&mut bench, &path, start, Some("again"), "four", "4");
        assert_eq!(
            (wrong, now(&bench, &path)),
            (Err(Refused::Edit(EditError::Missing("word"))), "1 two drei".to_owned())
        );
    }

    #[test]
    fn two_changes_of_one_place_show_both() {
        let (mut bench, path) = bench("one two three");
        swap(&mut bench, &path, None, "two", "2").expect("an edit");
        assert!(bench.files([(path.clone(), "one zwei three".to_owned())]));
        assert_eq!(now(&bench, &path), "one zwei three");
        assert_eq!(bench.refused(), [(path.clone(), "one 2 three".into())]);
        bench.settle(&path, true).expect("a choice");
        assert_eq!((now(&bench, &path), bench.refused().len()), ("one 2 three".to_owned(), 0));
        bench.undo().expect("back");
        assert_eq!(now(&bench, &path), "one zwei three");
        assert_eq!(bench.settle(&path, false), Err(Refused::Nothing));
        // The place is not known by its old text any more.
        let start = TextHash::of("one two three");
        let late = swap_in(&mut bench, &path, start, None, "two", "II");
        assert_eq!(late, Err(Refused::Edit(EditError::Conflict)));
        let strange = swap_in(&mut bench, &path, TextHash::of("?"), None, "two", "II");
        assert_eq!(strange, Err(Refused::Stale));
    }

    #[test]
    fn the_history_is_bounded() {
        let (mut bench, path) = bench("0");
        for n in 0..500 {
            swap(&mut bench, &path, None, &n.to_string(), &(n + 1).to_string()).expect("an edit");
        }
        assert_eq!(bench.history().len(), MOST);
        while bench.undo().is_ok() {}
        assert_eq!(now(&bench, &path), "300");
    }
}
