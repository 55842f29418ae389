//! The live page's server: it serves the page, the exported JavaScript of the last good book, what is to be reported of
//! the book as it is, and an event for each change. The page changes the book's texts by [`hands`]. Nothing else is
//! served, and only to the user of this machine.

mod about;
pub mod copy;
mod earlier;
mod hands;
mod language;
mod lobby;
mod ops;
mod peer;
mod sounds;
mod variants;
mod versions;
mod workbench;

use std::collections::HashMap;
use std::convert::Infallible;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use axum::Router;
use axum::extract::{ConnectInfo, Path as UrlPath, Request, State};
use axum::http::{HeaderValue, Method, StatusCode, header};
use axum::middleware::{self, Next};
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{MethodRouter, get};
use caltrin::core::program::Backdrop;
use caltrin::export::language::JAVASCRIPT;
use caltrin::export::{Plan, file};
use caltrin::sound::Memory;
use caltrin::{Opened, Opening, files, pictures};
use serde_json::{Value, json};
use tokio::sync::watch;
use tokio_stream::wrappers::WatchStream;
use tokio_stream::{Stream, StreamExt};

pub use self::lobby::lobby;
pub use self::peer::Peer;

use self::hands::Sources;
use self::ops::TextParts;
use self::versions::Versions;
use self::workbench::Workbench;
use crate::report;

/// Maximum size of a sound for the page, in bytes.
const LARGEST_SOUND: u64 = 1 << 30;
/// Most changes that the page lists.
const MOST_LISTED: usize = 60;

/// The book as it is now, and the last good one.
#[derive(Clone)]
pub struct Live {
    inner: Arc<Inner>,
    saved: watch::Sender<u64>,
}

struct Inner {
    book: PathBuf,
    /// Distinct from another run of the command at the same address.
    run: u32,
    /// What a page must know to change anything.
    key: String,
    /// What allows the page's editor to bring its own styles.
    nonce: String,
    read_only: bool,
    shown: Mutex<Shown>,
    bench: Mutex<Workbench>,
    versions: Versions,
    /// The sounds of the book as they were analyzed.
    memory: Memory,
    /// Counts readings.
    readings: AtomicU64,
    /// Counts edits; files are written when none comes for a while.
    edits: AtomicU64,
    /// The module of the version that the page compares with, and how many there were.
    other: Mutex<(u64, String)>,
    /// Held while files are written.
    writing: Mutex<()>,
}

/// What the page shows.
#[derive(Default)]
struct Shown {
    version: u64,
    /// Index of the reading.
    nth: u64,
    told: String,
    errors: usize,
    /// Why the files could not be written.
    unwritten: Option<String>,
    /// The texts of the last reading: their files, and what was read.
    sources: Vec<(Option<PathBuf>, Arc<str>)>,
    /// What of these texts has hands of its own.
    parts: TextParts,
    good: Option<Good>,
}

/// What a page has already.
#[derive(Default)]
struct Sent {
    texts: HashMap<String, Arc<str>>,
    good: Option<u64>,
}

struct Good {
    version: u64,
    module: String,
    about: Value,
    /// The folder that its sounds lie in, and their names there, in their order.
    folder: PathBuf,
    sounds: Vec<String>,
    backdrops: Vec<Backdrop>,
}

/// What is kept is whole at any moment.
fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

/// Text that nobody guesses.
fn random() -> Result<String, getrandom::Error> {
    let mut bytes = [0; 16];
    getrandom::fill(&mut bytes)?;
    Ok(format!("{:032x}", u128::from_le_bytes(bytes)))
}

/// Whether a key is another; it takes as long wherever they differ.
fn is_same(key: &str, own: &str) -> bool {
    let pairs = key.bytes().zip(own.bytes());
    key.len() == own.len() && pairs.fold(0, |sum, (a, b)| sum | (a ^ b)) == 0
}

impl Live {
    /// Of a book that is not read yet.
    ///
    /// # Errors
    /// If the system gives no random bytes for the key.
    pub fn new(book: &Path, read_only: bool) -> Result<Live, getrandom::Error> {
        let (key, nonce) = (random()?, random()?);
        let inner = Inner {
            book: book.to_owned(),
            run: std::process::id(),
            key,
            nonce,
            read_only,
            shown: Mutex::default(),
            bench: Mutex::default(),
            versions: Versions::of(book),
            memory: Memory::default(),
            readings: AtomicU64::new(0),
            edits: AtomicU64::new(0),
            other: Mutex::default(),
            writing: Mutex::default(),
        };
        let (saved, _) = watch::channel(0);
        Ok(Live { inner: Arc::new(inner), saved })
    }

    fn shown(&self) -> MutexGuard<'_, Shown> {
        lock(&self.inner.shown)
    }

    fn bench(&self) -> MutexGuard<'_, Workbench> {
        lock(&self.inner.bench)
    }

    fn writing(&self) -> MutexGuard<'_, ()> {
        lock(&self.inner.writing)
    }

    fn is_key(&self, key: &str) -> bool {
        is_same(key, &self.inner.key)
    }

    fn read_only(&self) -> bool {
        self.inner.read_only
    }

    fn folder(&self) -> &Path {
        caltrin::folder_of(&self.inner.book)
    }

    /// A file as the page knows it.
    fn name_of(&self, path: &Path) -> String {
        hands::name_in(self.folder(), path)
    }

    fn path_of(&self, name: &str) -> Option<PathBuf> {
        self.bench().texts().map(|(path, _)| path).find(|path| self.name_of(path) == name).cloned()
    }

    fn sources(&self) -> Sources {
        let sources = self.shown().sources.clone();
        let name = |path: &PathBuf| self.name_of(path);
        sources.iter().map(|(path, text)| (path.as_ref().map(name), text.clone())).collect()
    }

    fn unwritten(&self, why: Option<String>) {
        self.shown().unwritten = why;
    }

    /// Takes up what other programs have written to the files. Gives whether a text is another than before.
    fn take_files(&self) -> bool {
        let known: Vec<PathBuf> = self.bench().texts().map(|(path, _)| path.clone()).collect();
        let read = |path: PathBuf| Some((path.clone(), caltrin::read_text(&path).ok()?));
        let held: Vec<_> = known.into_iter().filter_map(read).collect();
        self.bench().files(held)
    }

    /// Takes up files that were saved. Gives the files that the book consists of, unless it cannot be read.
    pub fn saved(&self) -> Option<Vec<PathBuf>> {
        {
            let _one = self.writing();
            self.take_files();
        }
        self.reread()
    }

    /// Tells pages of what has changed besides the book.
    fn publish(&self) {
        let version = {
            let mut shown = self.shown();
            shown.version += 1;
            shown.version
        };
        let _ = self.saved.send(version);
    }

    /// Reads the book with the texts of the page, or with another text in place of one of them.
    fn read_with(&self, changed: Option<(&Path, &str)>) -> Result<Opened, caltrin::OpenError> {
        let unsaved = |path: &Path| match changed {
            Some((file, text)) if path == file => Some(text.to_owned()),
            _ => self.bench().text(path).map(|text| text.to_string()),
        };
        let memory = Some(&self.inner.memory);
        let opening = Opening { unsaved: Some(&unsaved), memory, ..Opening::default() };
        caltrin::open_with(&self.inner.book, opening)
    }

    /// Reads the book with other texts in place of the page's, by the names that the page has for them.
    fn read_as(&self, texts: &[(String, String)]) -> Result<Opened, caltrin::OpenError> {
        let unsaved = |path: &Path| {
            let name = self.name_of(path);
            texts.iter().find(|(own, _)| *own == name).map(|(_, text)| text.clone())
        };
        let memory = Some(&self.inner.memory);
        let opening = Opening { unsaved: Some(&unsaved), memory, ..Opening::default() };
        caltrin::open_with(&self.inner.book, opening)
    }

    /// Reads the book with the texts of the page.
    fn reread(&self) -> Option<Vec<PathBuf>> {
        let nth = self.inner.readings.fetch_add(1, Ordering::SeqCst) + 1;
        match self.read_with(None) {
            Ok(opened) => {
                self.show(nth, &opened);
                Some(opened.files())
            }
            Err(why) => {
                self.refuse(nth, &why.to_string());
                None
            }
        }
    }

    /// The module of a book, and what the page must know besides; none of a book with errors.
    fn made(&self, opened: &Opened) -> Option<(String, Value)> {
        let checked = opened.checked.as_ref()?;
        // Where its sounds are is read like an output of its own.
        let shown = sounds::with_places(checked);
        let plan = Plan::without_test(shown.as_ref().unwrap_or(checked), &opened.notes);
        let mut about = about::about(checked, &opened.findings, &plan);
        about["sounds"] = match shown {
            Some(_) => sounds::about(checked.program(), &plan),
            None => json!([]),
        };
        about["shapes"] = about::shapes(checked.program());
        about["bands"] = sounds::bands(checked.program(), &plan);
        about["backdrops"] = about::backdrops(checked.program(), self.folder());
        Some((file::print(&plan, &JAVASCRIPT), about))
    }

    /// Shows a book, the `nth` reading; an older one than what is shown is ignored. One with errors leaves the last good
    /// one in place.
    fn show(&self, nth: u64, opened: &Opened) {
        let told = report::plain(opened);
        let good = self.made(opened);
        let files = hands::files_of(opened, &self.inner.book);
        let texts = opened.sources.iter().map(|source| Arc::<str>::from(source.text.as_str()));
        let sources: Vec<_> = files.iter().cloned().zip(texts).collect();
        self.take_new(&sources);
        let mut parts = TextParts::default();
        for (path, text) in &sources {
            if let Some(path) = path {
                parts.take(&self.name_of(path), text);
            }
        }
        let version = {
            let mut shown = self.shown();
            if !shown.begins(nth) {
                return;
            }
            shown.told = told;
            shown.errors = opened.errors();
            shown.sources = sources;
            shown.parts = parts;
            if let (Some((module, about)), Some(checked)) = (good, &opened.checked) {
                let (version, folder) = (shown.version, self.folder().to_owned());
                let program = checked.program();
                let sounds = program.sounds().iter().map(|sound| sound.file.clone()).collect();
                let backdrops = program.backdrops().to_vec();
                shown.good = Some(Good { version, module, about, folder, sounds, backdrops });
            }
            shown.version
        };
        // A page that connects later asks for everything.
        let _ = self.saved.send(version);
    }

    /// Texts that were not known before the reading can be changed from now on.
    fn take_new(&self, sources: &[(Option<PathBuf>, Arc<str>)]) {
        let mut bench = self.bench();
        let known: Vec<(PathBuf, String)> = sources
            .iter()
            .filter_map(|(path, text)| {
                let path = path.clone()?;
                let held =
                    bench.held(&path).map_or_else(|| text.to_string(), |held| held.to_string());
                Some((path, held))
            })
            .collect();
        bench.files(known);
    }

    /// Reports that the book cannot be read; an older reading than the shown one is ignored.
    fn refuse(&self, nth: u64, why: &str) {
        let version = {
            let mut shown = self.shown();
            if !shown.begins(nth) {
                return;
            }
            why.clone_into(&mut shown.told);
            shown.errors = 1;
            shown.version
        };
        let _ = self.saved.send(version);
    }

    /// The state of the book for a page, without the texts and the good book that it has.
    fn state(&self, sent: &mut Sent) -> Value {
        let (history, can, refused, waiting) = {
            let bench = self.bench();
            (bench.history(), bench.can(), bench.refused(), !bench.waiting().is_empty())
        };
        let sources = self.sources();
        let texts = sources.iter().filter_map(|(name, text)| {
            let name = name.as_ref()?;
            let known = sent.texts.insert(name.clone(), text.clone());
            let mut whole = ops::text(name, text);
            if let (Some(fields), true) = (whole.as_object_mut(), known.as_ref() == Some(text)) {
                fields.remove("text");
            }
            Some(whole)
        });
        let texts: Vec<Value> = texts.collect();
        let listed = history.iter().take(MOST_LISTED).map(|entry| {
            json!({ "file": self.name_of(&entry.path), "words": entry.words, "own": entry.own, "at": entry.at })
        });
        let refused = refused.iter().map(|(path, text)| ops::text(&self.name_of(path), text));
        let folder =
            std::path::absolute(self.folder()).unwrap_or_else(|_| self.folder().to_owned());
        let shown = self.shown();
        let mut state = json!({
            "run": self.inner.run,
            "version": shown.version,
            "good": shown.good.as_ref().map(|good| good.version),
            "told": shown.told,
            "errors": shown.errors,
            "unwritten": shown.unwritten,
            "folder": folder,
            "readOnly": self.inner.read_only,
            "waiting": waiting,
            "texts": texts,
            "curves": shown.parts.curves,
            "sequences": shown.parts.sequences,
            "scripts": shown.parts.rehearsals,
            "hangings": shown.parts.backdrops,
            "history": listed.collect::<Vec<_>>(),
            "undo": can[0],
            "redo": can[1],
            "refused": refused.collect::<Vec<_>>(),
        });
        let good = shown.good.as_ref().filter(|good| sent.good != Some(good.version));
        if let (Some(state), Some(Good { version, about: Value::Object(about), .. })) =
            (state.as_object_mut(), good)
        {
            state.extend(about.clone());
            sent.good = Some(*version);
        }
        state
    }

    fn module(&self) -> Option<String> {
        self.shown().good.as_ref().map(|good| good.module.clone())
    }

    /// The folder of the last good book, and the name of one of its sounds there.
    fn sound(&self, n: usize) -> Option<(PathBuf, String)> {
        let shown = self.shown();
        let good = shown.good.as_ref()?;
        let name = good.sounds.get(n).filter(|name| !name.is_empty())?;
        Some((good.folder.clone(), name.clone()))
    }

    /// The folder of the last good book, and one of its backdrops.
    fn backdrop(&self, n: usize) -> Option<(PathBuf, Backdrop)> {
        let shown = self.shown();
        let good = shown.good.as_ref()?;
        Some((good.folder.clone(), good.backdrops.get(n)?.clone()))
    }

    fn events(&self) -> impl Stream<Item = Result<Event, Infallible>> + use<> {
        let live = self.clone();
        let versions = WatchStream::new(self.saved.subscribe());
        let mut sent = Sent::default();
        versions.map(move |_| {
            Ok(Event::default().event("saved").data(live.state(&mut sent).to_string()))
        })
    }
}

impl Shown {
    /// Starts a new version, unless a later reading than the `nth` is shown.
    fn begins(&mut self, nth: u64) -> bool {
        let is_later = nth > self.nth;
        if is_later {
            self.nth = nth;
            self.version += 1;
        }
        is_later
    }
}

/// The names of this machine at a port.
fn hosts(port: u16) -> [String; 2] {
    [format!("127.0.0.1:{port}"), format!("localhost:{port}")]
}

/// Serves bytes that are built in.
fn file<S: Clone + Send + Sync + 'static>(
    kind: &'static str,
    bytes: &'static [u8],
) -> MethodRouter<S> {
    get(move || async move { ([(header::CONTENT_TYPE, kind)], bytes) })
}

/// The routes of the page, for a server at this port.
pub fn router(live: Live, port: u16) -> Router {
    let hosts = hosts(port);
    let policy = format!(
        "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{}'; font-src 'self'; img-src 'self' data:; \
         media-src blob:; connect-src 'self'; base-uri 'none'; form-action 'none'",
        live.inner.nonce
    );
    let [regular, bold] = caltrin::draw::WEB_FONTS.map(|(bytes, _)| bytes);
    Router::new()
        .route("/", get(page))
        .route("/page.css", file("text/css; charset=utf-8", include_bytes!("page.css")))
        .route("/page.mjs", file("text/javascript; charset=utf-8", include_bytes!("page.mjs")))
        .route("/regular.woff2", file("font/woff2", regular))
        .route("/bold.woff2", file("font/woff2", bold))
        .route("/book.mjs", get(module))
        .route("/other.mjs", get(other))
        .route("/sound/{n}", get(sound))
        .route("/picture/{n}", get(picture))
        .route("/state.json", get(state))
        .route("/events", get(events))
        .route("/language", get(language::open))
        .merge(hands::router())
        .layer(middleware::from_fn(move |request: Request, next: Next| {
            let (hosts, policy) = (hosts.clone(), policy.clone());
            async move { guard(&hosts, &policy, request, next).await }
        }))
        .with_state(live)
}

/// Why a request is refused.
fn trusted(hosts: &[String], request: &Request) -> Result<(), &'static str> {
    let words = |name| request.headers().get(name).and_then(|value| value.to_str().ok());
    if !words(header::HOST).is_some_and(|host| hosts.iter().any(|known| known == host)) {
        return Err("this page is for its own machine");
    }
    // A page of another site names itself here when it sends something or opens a socket.
    let origin = words(header::ORIGIN);
    let own = |origin: &str| hosts.iter().any(|host| origin.strip_prefix("http://") == Some(host));
    let plain = matches!(*request.method(), Method::GET | Method::HEAD | Method::POST);
    if !origin.is_none_or(own) || !plain {
        return Err("this page is for itself");
    }
    let peer = request.extensions().get::<ConnectInfo<Peer>>();
    if peer.is_some_and(|peer| !peer.0.is_own) {
        return Err("this page is for its own user");
    }
    Ok(())
}

/// Refuses requests under another name than this machine's own: a page from elsewhere that was led here
/// by its name server must not read the book. What goes out is for this page alone.
async fn guard(hosts: &[String], policy: &str, request: Request, next: Next) -> Response {
    if let Err(why) = trusted(hosts, &request) {
        return (StatusCode::FORBIDDEN, why).into_response();
    }
    let mut response = next.run(request).await;
    for (name, value) in [
        (header::CONTENT_SECURITY_POLICY, policy),
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (header::X_FRAME_OPTIONS, "DENY"),
        (header::CACHE_CONTROL, "no-store"),
        (header::REFERRER_POLICY, "same-origin"),
    ] {
        if let Ok(value) = HeaderValue::from_str(value) {
            response.headers_mut().insert(name, value);
        }
    }
    response
}

/// The page, with the key that its edits need.
async fn page(State(live): State<Live>) -> impl IntoResponse {
    let Inner { key, nonce, .. } = &*live.inner;
    Html(include_str!("page.html").replace("{{key}}", key).replace("{{nonce}}", nonce))
}

async fn state(State(live): State<Live>) -> impl IntoResponse {
    ([(header::CONTENT_TYPE, "application/json")], live.state(&mut Sent::default()).to_string())
}

async fn module(State(live): State<Live>) -> Response {
    match live.module() {
        Some(module) => {
            ([(header::CONTENT_TYPE, "text/javascript; charset=utf-8")], module).into_response()
        }
        None => (StatusCode::NOT_FOUND, "there is no good book yet").into_response(),
    }
}

async fn other(State(live): State<Live>) -> impl IntoResponse {
    let (_, module) = lock(&live.inner.other).clone();
    ([(header::CONTENT_TYPE, "text/javascript; charset=utf-8")], module)
}

async fn sound(State(live): State<Live>, UrlPath(n): UrlPath<usize>) -> Response {
    // What lies there may have been exchanged since the book was read, so it is checked again.
    let read = live.sound(n).map(|(folder, name)| {
        tokio::task::spawn_blocking(move || {
            let file = files::open_within(&folder, Path::new(&name))?;
            files::read_open(&file, LARGEST_SOUND)
        })
    });
    match read {
        Some(read) => match read.await {
            Ok(Ok(bytes)) => {
                ([(header::CONTENT_TYPE, "application/octet-stream")], bytes).into_response()
            }
            _ => (StatusCode::NOT_FOUND, "the sound cannot be read any more").into_response(),
        },
        None => (StatusCode::NOT_FOUND, "there is no such sound").into_response(),
    }
}

async fn picture(State(live): State<Live>, UrlPath(n): UrlPath<usize>) -> Response {
    let Some((folder, backdrop)) = live.backdrop(n) else {
        return (StatusCode::NOT_FOUND, "there is no such picture").into_response();
    };
    match tokio::task::spawn_blocking(move || pictures::bytes(&folder, &backdrop)).await {
        Ok(Ok((bytes, kind))) => {
            ([(header::CONTENT_TYPE, kind.media_type())], bytes).into_response()
        }
        Ok(Err(why)) => (StatusCode::NOT_FOUND, why).into_response(),
        Err(_) => (StatusCode::INTERNAL_SERVER_ERROR, "the server failed").into_response(),
    }
}

async fn events(State(live): State<Live>) -> impl IntoResponse {
    Sse::new(live.events()).keep_alive(KeepAlive::default())
}
