//! A version that the page compares with the book as it is: what it was at a git revision, or another book; and in what
//! they differ, in words and figures.

use std::path::{Component, Path};

use caltrin::core::quantity::{Seconds, Seed};
use caltrin::core::run::State;
use caltrin::draw::{Came, CompareOptions, Side, changes};
use caltrin::{Opened, Opening};
use serde::Deserialize;
use serde_json::{Value, json};

use super::{Live, lobby, lock, ops};
use crate::git;

/// Most commits that are listed.
const MOST_COMMITS: usize = 40;

/// What can be compared with: the commits that changed the book, and other books of its folder.
pub fn others(live: &Live) -> Value {
    let commits = git::commits(&live.inner.book, MOST_COMMITS).into_iter().map(
        |commit| json!({ "revision": commit.revision, "day": commit.day, "words": commit.words }),
    );
    let own = live.name_of(&live.inner.book);
    let books = lobby::names(live.folder()).into_iter().filter(|name| *name != own);
    json!({ "commits": commits.collect::<Vec<_>>(), "books": books.collect::<Vec<_>>() })
}

/// One of these.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Other {
    /// A revision of git.
    Revision(String),
    /// A book of the folder.
    Book(String),
}

/// That version: what it is called, its texts, its module, and what the page must know of it.
///
/// # Errors
/// If there is none, or it has errors.
pub fn opened(live: &Live, other: &Other) -> Result<Value, String> {
    let memory = Some(&live.inner.memory);
    let (name, opened) = match other {
        Other::Revision(revision) => {
            let opened = git::opened_at(&live.inner.book, revision, None)?;
            (revision.clone(), opened)
        }
        Other::Book(book) => {
            let plain =
                Path::new(book).components().all(|part| matches!(part, Component::Normal(_)));
            if !plain {
                return Err(format!("`{book}` is outside the book's folder"));
            }
            let opening = Opening { memory, ..Opening::default() };
            let opened = caltrin::open_with(&live.folder().join(book), opening);
            (book.clone(), opened.map_err(|why| why.to_string())?)
        }
    };
    let Some((module, about)) = live.made(&opened) else {
        let first = opened.diagnostics.first();
        let why = first.map_or(String::new(), |told| format!(": {}", told.message));
        return Err(format!("{name} has errors{why}"));
    };
    let mut kept = lock(&live.inner.other);
    *kept = (kept.0 + 1, module);
    let module = format!("/other.mjs?v={}", kept.0);
    let texts = texts(live, other, &opened);
    Ok(json!({ "name": name, "module": module, "about": about, "texts": texts }))
}

/// Its texts under the names of the page; of another book there are none to go back to.
fn texts(live: &Live, other: &Other, opened: &Opened) -> Vec<Value> {
    let own = live.name_of(&live.inner.book);
    let used = opened.sources.iter().skip(1).filter(|source| source.name != caltrin::STOCK_NAME);
    let first = opened.sources.first().filter(|_| matches!(other, Other::Revision(_)));
    let used = used.filter(|_| matches!(other, Other::Revision(_)));
    let first = first.map(|source| ops::text(&own, &source.text));
    first.into_iter().chain(used.map(|source| ops::text(&source.name, &source.text))).collect()
}

/// What the page asks to be compared.
#[derive(Debug, Deserialize)]
pub struct Asked {
    /// The texts of A, with their names; none for another book.
    texts: Vec<(String, String)>,
    /// The other book.
    book: Option<String>,
    seed: u32,
    rehearsal: Option<String>,
    from: f64,
    to: f64,
}

/// How each light of B differs from that of A.
///
/// # Errors
/// If one of both cannot be read.
pub fn differences(live: &Live, asked: &Asked) -> Result<Value, String> {
    let read = |opened: Result<Opened, caltrin::OpenError>, which: &str| {
        let opened = opened.map_err(|why| why.to_string())?;
        opened.checked.ok_or_else(|| format!("{which} has errors"))
    };
    let first = match &asked.book {
        Some(book) => {
            let inside = lobby::names(live.folder()).contains(book);
            if !inside {
                return Err(format!("`{book}` is not in the book's folder"));
            }
            let opening = Opening { memory: Some(&live.inner.memory), ..Opening::default() };
            read(caltrin::open_with(&live.folder().join(book), opening), "A")?
        }
        None => read(live.read_as(&asked.texts), "A")?,
    };
    let second = read(live.read_with(None), "B")?;
    let (a, b) = (
        Side {
            name: "A".to_owned(),
            checked: &first,
            start: State::start(first.program()).with_seed(Seed(asked.seed)),
        },
        Side {
            name: "B".to_owned(),
            checked: &second,
            start: State::start(second.program()).with_seed(Seed(asked.seed)),
        },
    );
    let from = asked.from.clamp(0.0, 1e6);
    let options = CompareOptions {
        from: Seconds(from),
        to: Seconds(asked.to.clamp(from + 0.1, from + 3600.0)),
        width: 1280,
        pair: None,
        rehearsal: asked.rehearsal.clone(),
        day: false,
    };
    let found = changes(&a, &b, &options);
    let differ = found.iter().filter(|change| change.came != Came::Same);
    let differ = differ.map(|change| {
        let came = match change.came {
            Came::Added => "added",
            Came::Removed => "removed",
            Came::Same | Came::Changed => "changed",
        };
        json!({ "light": change.light, "came": came, "words": change.words })
    });
    Ok(json!({ "all": found.len(), "differ": differ.collect::<Vec<_>>() }))
}
