//! What the page does to the texts: it is asked for with the key of the page, done to the workbench, read at once, and
//! written to the files when the hand rests.

use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::Ordering;
use std::time::Duration;

use axum::Router;
use axum::extract::{DefaultBodyLimit, Query, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use axum::routing::{get, post};
use caltrin::edit::{Edit, EditError, TextHash};
use caltrin::files::{Inputs, Output, PutError, Replaces, put};
use caltrin::lang::knobs::{knobs, literal_at};
use caltrin::lang::parser::{Parse, parse};
use serde::Deserialize;
use serde::de::{DeserializeOwned, IgnoredAny};
use serde_json::{Value, json};

use super::Live;
use super::earlier;
use super::ops::{self, Op, edit_of};
use super::variants::{self, Variants};
use super::workbench::Refused;

/// How long a hand rests before the files are written.
const REST: Duration = Duration::from_millis(400);
/// Largest request.
const LARGEST: usize = 80 << 20;
/// The header with the page's key.
const KEY: &str = "x-caltrin-key";

/// The routes of everything that changes a text or tells what can be changed.
pub fn router() -> Router<Live> {
    Router::new()
        .route("/edit", post(edit))
        .route("/rest", post(rest))
        .route("/undo", post(undo))
        .route("/redo", post(redo))
        .route("/settle", post(settle))
        .route("/restore", post(restore))
        .route("/knobs.json", get(knobs_of))
        .route("/literal.json", get(literal))
        .route("/stock.json", get(stock))
        .route("/try", post(attempt))
        .route("/others.json", get(others))
        .route("/other", post(other))
        .route("/differs", post(differs))
        .route("/versions.json", get(versions))
        .layer(DefaultBodyLimit::max(LARGEST))
}

/// An edit as the page asks for it.
#[derive(Debug, Deserialize)]
struct Asked {
    /// The file, as the page knows it.
    file: String,
    /// The hash of the text that it is for.
    hash: String,
    /// The gesture that it belongs to; each edit of one takes the place of the one before.
    gesture: Option<String>,
    /// What it does, in words.
    words: String,
    ops: Vec<Op>,
    /// Whether the hand rests after it.
    #[serde(default)]
    rests: bool,
}

/// An answer that says why something is not done.
fn no(status: StatusCode, why: impl Into<String>) -> Response {
    (status, [(header::CONTENT_TYPE, "application/json")], json!({ "why": why.into() }).to_string())
        .into_response()
}

fn yes(value: &Value) -> Response {
    ([(header::CONTENT_TYPE, "application/json")], value.to_string()).into_response()
}

/// Why something is not done.
struct Denied(StatusCode, String);

impl From<Refused> for Denied {
    fn from(why: Refused) -> Self {
        let status = match &why {
            Refused::Unknown | Refused::Nothing => StatusCode::NOT_FOUND,
            Refused::Stale | Refused::Edit(EditError::Conflict | EditError::Stale) => {
                StatusCode::CONFLICT
            }
            Refused::Edit(_) => StatusCode::UNPROCESSABLE_ENTITY,
        };
        Denied(status, why.to_string())
    }
}

impl IntoResponse for Denied {
    fn into_response(self) -> Response {
        no(self.0, self.1)
    }
}

/// Whether a request comes from the page.
fn known(live: &Live, headers: &HeaderMap) -> Result<(), Denied> {
    let key = headers.get(KEY).and_then(|key| key.to_str().ok());
    if !key.is_some_and(|key| live.is_key(key)) {
        return Err(Denied(StatusCode::FORBIDDEN, "only this page can change the book".to_owned()));
    }
    Ok(())
}

/// Whether a request may change something.
fn allowed(live: &Live, headers: &HeaderMap) -> Result<(), Denied> {
    known(live, headers)?;
    if live.read_only() {
        return Err(Denied(StatusCode::FORBIDDEN, "the book is shown read-only".to_owned()));
    }
    Ok(())
}

fn read<T: DeserializeOwned>(body: &str) -> Result<T, Denied> {
    serde_json::from_str(body).map_err(|why| Denied(StatusCode::BAD_REQUEST, why.to_string()))
}

/// Does something that computes or writes files away from the threads that serve.
async fn aside(task: impl FnOnce() -> Response + Send + 'static) -> Response {
    match tokio::task::spawn_blocking(task).await {
        Ok(response) => response,
        Err(_) => no(StatusCode::INTERNAL_SERVER_ERROR, "the server failed"),
    }
}

/// What is answered, and after which rest the files are written.
type Done = Result<(Value, Duration), Denied>;

/// Does something that changes texts: they are read at once.
async fn change<T: DeserializeOwned + Send + 'static>(
    live: Live,
    headers: HeaderMap,
    body: String,
    act: fn(&Live, T) -> Done,
) -> Response {
    let asked = match allowed(&live, &headers).and_then(|()| read::<T>(&body)) {
        Ok(asked) => asked,
        Err(denied) => return denied.into_response(),
    };
    let task = tokio::task::spawn_blocking({
        let live = live.clone();
        move || {
            let done = act(&live, asked)?;
            live.reread();
            Ok::<_, Denied>(done)
        }
    });
    match task.await {
        Ok(Ok((told, rest))) => {
            rests_later(live, rest);
            yes(&told)
        }
        Ok(Err(denied)) => denied.into_response(),
        Err(_) => no(StatusCode::INTERNAL_SERVER_ERROR, "the server failed"),
    }
}

async fn edit(State(live): State<Live>, headers: HeaderMap, body: String) -> Response {
    change(live, headers, body, |live, asked: Asked| {
        let path = live.path_of(&asked.file).ok_or(Refused::Unknown)?;
        let hash = asked.hash.parse::<TextHash>();
        let hash = hash.map_err(|why| Denied(StatusCode::BAD_REQUEST, why.to_string()))?;
        let mut bench = live.bench();
        bench.edit(&path, hash, asked.gesture.as_deref(), &asked.words, |text| {
            edit_of(text, &asked.ops)
        })?;
        let now = bench.text(&path).map(|text| TextHash::of(text).to_string());
        Ok((json!({ "hash": now }), if asked.rests { Duration::ZERO } else { REST }))
    })
    .await
}

/// Writes the files after a while, unless another edit comes first.
fn rests_later(live: Live, after: Duration) {
    let edit = live.inner.edits.fetch_add(1, Ordering::SeqCst) + 1;
    tokio::spawn(async move {
        tokio::time::sleep(after).await;
        if live.inner.edits.load(Ordering::SeqCst) == edit {
            let _ = tokio::task::spawn_blocking(move || write(&live)).await;
        }
    });
}

/// Keeps the texts before the changes of a file, once each.
fn keep(live: &Live, path: &Path) -> std::io::Result<()> {
    let (name, texts) = (live.name_of(path), live.bench().unkept(path));
    texts.iter().try_for_each(|(words, text)| live.inner.versions.keep(&name, words, text))
}

/// Writes what is waiting to its files; a gesture goes on even so. A file that another program has changed meanwhile is merged first.
pub fn write(live: &Live) {
    let _one = live.writing();
    // Another program can write again and again, so this ends at some time.
    for _ in 0..4 {
        let waiting = live.bench().waiting();
        if waiting.is_empty() {
            break;
        }
        let mut changed = false;
        for (path, held, now) in waiting {
            let kept = keep(live, &path);
            let output = Output {
                path: &path,
                bytes: now.as_bytes(),
                replaces: Replaces::Text(held.as_bytes()),
            };
            match put(&[output], &Inputs::default()) {
                Ok(_) => {
                    live.bench().written(&path, now);
                    live.unwritten(
                        kept.err().map(|why| format!("earlier versions are not kept: {why}")),
                    );
                }
                Err(PutError::Changed(_)) => changed = true,
                Err(why) => live.unwritten(Some(why.to_string())),
            }
        }
        if changed {
            live.take_files();
            live.reread();
        }
    }
    live.publish();
}

async fn rest(State(live): State<Live>, headers: HeaderMap) -> Response {
    if let Err(denied) = allowed(&live, &headers) {
        return denied.into_response();
    }
    live.inner.edits.fetch_add(1, Ordering::SeqCst);
    aside(move || {
        live.bench().rests();
        write(&live);
        yes(&json!({}))
    })
    .await
}

async fn undo(State(live): State<Live>, headers: HeaderMap, body: String) -> Response {
    change(live, headers, body, |live, _: IgnoredAny| {
        Ok((json!({ "words": live.bench().undo()? }), Duration::ZERO))
    })
    .await
}

async fn redo(State(live): State<Live>, headers: HeaderMap, body: String) -> Response {
    change(live, headers, body, |live, _: IgnoredAny| {
        Ok((json!({ "words": live.bench().redo()? }), Duration::ZERO))
    })
    .await
}

/// Which of two texts of a place stays.
#[derive(Deserialize)]
struct Settled {
    file: String,
    mine: bool,
}

async fn settle(State(live): State<Live>, headers: HeaderMap, body: String) -> Response {
    change(live, headers, body, |live, asked: Settled| {
        let path = live.path_of(&asked.file).ok_or(Refused::Unknown)?;
        live.bench().settle(&path, asked.mine)?;
        Ok((json!({}), Duration::ZERO))
    })
    .await
}

/// The earlier version to bring back.
#[derive(Deserialize)]
struct Wanted {
    n: u64,
}

async fn restore(State(live): State<Live>, headers: HeaderMap, body: String) -> Response {
    change(live, headers, body, |live, asked: Wanted| {
        let version = live.inner.versions.read(asked.n);
        let gone = || Denied(StatusCode::NOT_FOUND, "this version is not kept any more".to_owned());
        let version = version.ok_or_else(gone)?;
        let path = live.path_of(&version.file).ok_or(Refused::Unknown)?;
        let mut bench = live.bench();
        let hash = bench.text(&path).map(|text| TextHash::of(text)).ok_or(Refused::Unknown)?;
        let words = format!("version before \"{}\" brought back", version.words);
        bench.edit(&path, hash, None, &words, |text| Ok(Edit::between(text, &version.text)))?;
        Ok((json!({ "words": words }), Duration::ZERO))
    })
    .await
}

async fn versions(State(live): State<Live>) -> Response {
    aside(move || {
        let each = live.inner.versions.all().into_iter().map(|(n, version)| {
            json!({ "n": n, "at": version.at, "file": version.file, "words": version.words })
        });
        yes(&Value::Array(each.collect()))
    })
    .await
}

/// Whose knobs the page wants.
#[derive(Deserialize)]
struct Of {
    of: String,
    channel: Option<String>,
}

async fn knobs_of(State(live): State<Live>, Query(of): Query<Of>) -> Response {
    aside(move || {
        let sources = live.sources();
        let parsed: Vec<Parse> = sources.iter().map(|(_, text)| parse(text)).collect();
        let Some(found) = knobs(&parsed, &of.of, of.channel.as_deref()) else {
            return no(StatusCode::NOT_FOUND, format!("nothing is called `{}`", of.of));
        };
        let files: Vec<Option<String>> = sources.iter().map(|(name, _)| name.clone()).collect();
        let mut value = ops::knobs(&found, &files);
        let hashes = sources.iter().filter_map(|(name, text)| {
            Some((name.clone()?, json!(TextHash::of(text).to_string())))
        });
        value["hashes"] = Value::Object(hashes.collect());
        yes(&value)
    })
    .await
}

/// The ready-made behaviors.
async fn stock() -> Response {
    let each = caltrin::stock().into_iter().map(|one| {
        json!({ "name": one.name, "parameters": one.parameters, "about": one.about, "knobs": one.knobs })
    });
    yes(&Value::Array(each.collect()))
}

/// What a light would be like after each of some edits of one text. Nothing is changed.
async fn attempt(State(live): State<Live>, headers: HeaderMap, body: String) -> Response {
    let asked = match allowed(&live, &headers).and_then(|()| read::<Variants>(&body)) {
        Ok(asked) => asked,
        Err(denied) => return denied.into_response(),
    };
    aside(move || match variants::sampled(&live, &asked) {
        Ok(told) => yes(&told),
        Err(why) => Denied::from(why).into_response(),
    })
    .await
}

async fn others(State(live): State<Live>) -> Response {
    aside(move || yes(&earlier::others(&live))).await
}

/// Answers with something that changes nothing, but is for the page alone.
async fn told<T: DeserializeOwned + Send + 'static>(
    live: Live,
    headers: HeaderMap,
    body: String,
    act: fn(&Live, &T) -> Result<Value, String>,
) -> Response {
    let asked = match known(&live, &headers).and_then(|()| read::<T>(&body)) {
        Ok(asked) => asked,
        Err(denied) => return denied.into_response(),
    };
    aside(move || match act(&live, &asked) {
        Ok(told) => yes(&told),
        Err(why) => no(StatusCode::UNPROCESSABLE_ENTITY, why),
    })
    .await
}

async fn other(State(live): State<Live>, headers: HeaderMap, body: String) -> Response {
    told(live, headers, body, earlier::opened).await
}

async fn differs(State(live): State<Live>, headers: HeaderMap, body: String) -> Response {
    told(live, headers, body, earlier::differences).await
}

/// Which literal the page wants.
#[derive(Deserialize)]
struct At {
    file: String,
    /// A byte of it.
    at: usize,
}

/// The literal at a byte of a text, and the hash of the text; `null` where there is none.
async fn literal(State(live): State<Live>, Query(At { file, at }): Query<At>) -> Response {
    aside(move || {
        let sources = live.sources();
        let Some((_, text)) = sources.iter().find(|(name, _)| name.as_ref() == Some(&file)) else {
            return no(StatusCode::NOT_FOUND, format!("`{file}` is not a text of the book"));
        };
        let found = literal_at(&parse(text), at).map(|knob| ops::knob(&knob, Some(file)));
        yes(&json!({ "literal": found, "hash": TextHash::of(text).to_string() }))
    })
    .await
}

/// The texts of the last reading, with their names for the page.
pub type Sources = Vec<(Option<String>, Arc<str>)>;

/// A file as the page knows it: relative to the book's folder.
pub fn name_in(folder: &Path, path: &Path) -> String {
    path.strip_prefix(folder).unwrap_or(path).to_string_lossy().into_owned()
}

/// The files of a reading, with the index of each text.
pub fn files_of(opened: &caltrin::Opened, book: &Path) -> Vec<Option<PathBuf>> {
    let folder = caltrin::folder_of(book);
    let of = |name: &str| match name {
        name if name == opened.file => Some(book.to_owned()),
        caltrin::STOCK_NAME => None,
        name => Some(folder.join(name)),
    };
    opened.sources.iter().map(|source| of(&source.name)).collect()
}
