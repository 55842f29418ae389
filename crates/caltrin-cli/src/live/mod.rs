//! The live page's server: it serves the page, the exported JavaScript of the last good book, what is to
//! be reported of the book as it is, and an event for each save. Nothing else, and only to this machine.

mod about;
mod sounds;

use std::convert::Infallible;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use axum::Router;
use axum::extract::{Path as UrlPath, Request, State};
use axum::http::{HeaderValue, StatusCode, header};
use axum::middleware::{self, Next};
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use caltrin::Opened;
use caltrin::export::{Plan, Target, js};
use caltrin::files;
use serde_json::{Value, json};
use tokio::sync::watch;
use tokio_stream::wrappers::WatchStream;
use tokio_stream::{Stream, StreamExt};

use crate::report;

/// Maximum size of a sound for the page, in bytes.
const LARGEST_SOUND: u64 = 1 << 30;

/// The book as it was last saved, and the last good one.
#[derive(Clone)]
pub struct Live {
    inner: Arc<Mutex<Inner>>,
    saved: watch::Sender<u64>,
    /// Distinct from another run of the command at the same address.
    run: u32,
}

#[derive(Default)]
struct Inner {
    version: u64,
    /// Index of the save since the command started.
    nth: u64,
    told: String,
    errors: usize,
    good: Option<Good>,
}

impl Inner {
    /// Starts a new version, unless a later save than the `nth` is shown.
    fn begins(&mut self, nth: u64) -> bool {
        let is_later = nth > self.nth;
        if is_later {
            self.nth = nth;
            self.version += 1;
        }
        is_later
    }
}

struct Good {
    version: u64,
    module: String,
    about: Value,
    /// The folder that its sounds lie in, and their names there, in their order.
    folder: PathBuf,
    sounds: Vec<String>,
}

impl Live {
    /// Without any book yet.
    pub fn new() -> Live {
        let (saved, _) = watch::channel(0);
        Live { inner: Arc::default(), saved, run: std::process::id() }
    }

    fn lock(&self) -> MutexGuard<'_, Inner> {
        // What is kept is whole at any moment.
        self.inner.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Takes a book as it was saved in a folder, the `nth` save; an older save than the shown one is ignored. One with
    /// errors leaves the last good one in place.
    pub fn save(&self, nth: u64, opened: &Opened, folder: &Path) {
        let told = report::plain(opened);
        let good = opened.checked.as_ref().map(|checked| {
            // Where its sounds are is read like an output of its own.
            let shown = sounds::with_places(checked);
            let plan = Plan::without_test(shown.as_ref().unwrap_or(checked), &opened.notes);
            let mut about = about::about(checked, &opened.findings, &plan);
            about["sounds"] = match shown {
                Some(_) => sounds::about(checked.program(), &plan),
                None => json!([]),
            };
            about["bands"] = sounds::bands(checked.program(), &plan);
            let sounds = checked.program().sounds().iter().map(|sound| sound.file.clone());
            (js::JavaScript.print(&plan), about, sounds.collect())
        });
        let version = {
            let mut inner = self.lock();
            if !inner.begins(nth) {
                return;
            }
            inner.told = told;
            inner.errors = opened.errors();
            if let Some((module, about, sounds)) = good {
                let folder = folder.to_owned();
                inner.good = Some(Good { version: inner.version, module, about, folder, sounds });
            }
            inner.version
        };
        // A page that connects later asks for everything.
        let _ = self.saved.send(version);
    }

    /// Reports that the book of the `nth` save cannot be read; an older save than the shown one is ignored.
    pub fn refuse(&self, nth: u64, why: &str) {
        let version = {
            let mut inner = self.lock();
            if !inner.begins(nth) {
                return;
            }
            why.clone_into(&mut inner.told);
            inner.errors = 1;
            inner.version
        };
        let _ = self.saved.send(version);
    }

    fn state(&self) -> Value {
        let inner = self.lock();
        let mut state = json!({
            "run": self.run,
            "version": inner.version,
            "good": inner.good.as_ref().map(|good| good.version),
            "told": inner.told,
            "errors": inner.errors,
        });
        if let (Some(state), Some(Value::Object(about))) =
            (state.as_object_mut(), inner.good.as_ref().map(|good| &good.about))
        {
            state.extend(about.clone());
        }
        state
    }

    fn module(&self) -> Option<String> {
        self.lock().good.as_ref().map(|good| good.module.clone())
    }

    /// The folder of the last good book, and the name of one of its sounds there.
    fn sound(&self, n: usize) -> Option<(PathBuf, String)> {
        let inner = self.lock();
        let good = inner.good.as_ref()?;
        let name = good.sounds.get(n).filter(|name| !name.is_empty())?;
        Some((good.folder.clone(), name.clone()))
    }

    fn events(&self) -> impl Stream<Item = Result<Event, Infallible>> + use<> {
        let live = self.clone();
        let versions = WatchStream::new(self.saved.subscribe());
        versions.map(move |_| Ok(Event::default().event("saved").data(live.state().to_string())))
    }
}

/// The routes of the page, for a server at this port.
pub fn router(live: Live, port: u16) -> Router {
    let hosts = [format!("127.0.0.1:{port}"), format!("localhost:{port}")];
    let file = |kind: &'static str, bytes: &'static [u8]| {
        get(move || async move { ([(header::CONTENT_TYPE, kind)], bytes) })
    };
    let [regular, bold] = caltrin::draw::WEB_FONTS.map(|(bytes, _)| bytes);
    Router::new()
        .route("/", file("text/html; charset=utf-8", include_bytes!("page.html")))
        .route("/page.css", file("text/css; charset=utf-8", include_bytes!("page.css")))
        .route("/page.mjs", file("text/javascript; charset=utf-8", include_bytes!("page.mjs")))
        .route("/sheet.mjs", file("text/javascript; charset=utf-8", include_bytes!("sheet.mjs")))
        .route("/place.mjs", file("text/javascript; charset=utf-8", include_bytes!("place.mjs")))
        .route("/sounds.mjs", file("text/javascript; charset=utf-8", include_bytes!("sounds.mjs")))
        .route("/regular.woff2", file("font/woff2", regular))
        .route("/bold.woff2", file("font/woff2", bold))
        .route("/book.mjs", get(module))
        .route("/sound/{n}", get(sound))
        .route("/state.json", get(state))
        .route("/events", get(events))
        .layer(middleware::from_fn(move |request: Request, next: Next| {
            let hosts = hosts.clone();
            async move { guard(&hosts, request, next).await }
        }))
        .with_state(live)
}

/// Refuses requests under another name than this machine's own: a page from elsewhere that was led here
/// by its name server must not read the book. What goes out is for this page alone.
async fn guard(hosts: &[String], request: Request, next: Next) -> Response {
    let host = request.headers().get(header::HOST).and_then(|host| host.to_str().ok());
    if !host.is_some_and(|host| hosts.iter().any(|known| known == host)) {
        return (StatusCode::FORBIDDEN, "this page is for its own machine").into_response();
    }
    let mut response = next.run(request).await;
    let policy = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; \
                  img-src 'self' data:; media-src blob:; connect-src 'self'; base-uri 'none'; form-action 'none'";
    for (name, value) in [
        (header::CONTENT_SECURITY_POLICY, policy),
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (header::X_FRAME_OPTIONS, "DENY"),
        (header::CACHE_CONTROL, "no-store"),
        (header::REFERRER_POLICY, "no-referrer"),
    ] {
        response.headers_mut().insert(name, HeaderValue::from_static(value));
    }
    response
}

async fn state(State(live): State<Live>) -> impl IntoResponse {
    ([(header::CONTENT_TYPE, "application/json")], live.state().to_string())
}

async fn module(State(live): State<Live>) -> Response {
    match live.module() {
        Some(module) => {
            ([(header::CONTENT_TYPE, "text/javascript; charset=utf-8")], module).into_response()
        }
        None => (StatusCode::NOT_FOUND, "there is no good book yet").into_response(),
    }
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

async fn events(State(live): State<Live>) -> impl IntoResponse {
    Sse::new(live.events()).keep_alive(KeepAlive::default())
}
