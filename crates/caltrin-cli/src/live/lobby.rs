//! The page before a book is chosen: the lightbooks of a folder, and a form for a new one. It needs no script; a
//! choice is a form with the page's key. Then the address serves the book that was chosen.

use std::fs;
use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use axum::Router;
use axum::extract::{Form, Request, State};
use axum::http::StatusCode;
use axum::middleware::{self, Next};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use caltrin::files;
use serde::Deserialize;
use tower::ServiceExt;

use super::{Live, file, guard, hosts, is_same, random, router};

/// How deep folders are looked through, and how many entries and books at most.
const DEPTH: usize = 3;
const MOST_ENTRIES: usize = 20_000;
const MOST_BOOKS: usize = 200;
/// Longest start of a file that is read for its name, in bytes.
const HEAD: u64 = 400;
/// The styles of the page come from this server; its forms go there.
const POLICY: &str = "default-src 'none'; style-src 'self'; font-src 'self'; img-src data:; base-uri 'none'; form-action 'self'";

/// Makes a book with a name in a folder: gives its file, or why it cannot be made.
pub type Create = fn(&str, &Path) -> Result<PathBuf, String>;
/// Called with the book that was chosen.
pub type Chosen = Box<dyn FnMut(PathBuf, Live) + Send>;

struct Lobby {
    folder: PathBuf,
    key: String,
    port: u16,
    read_only: bool,
    create: Create,
    chosen: Mutex<Chosen>,
    /// The page of the book, once one is chosen.
    opened: OnceLock<Router>,
}

/// A server of the lightbooks of a folder, at this port.
///
/// # Errors
/// If the system gives no random bytes for the key.
pub fn lobby(
    folder: &Path,
    port: u16,
    read_only: bool,
    create: Create,
    chosen: Chosen,
) -> Result<Router, getrandom::Error> {
    let lobby = Arc::new(Lobby {
        folder: folder.to_owned(),
        key: random()?,
        port,
        read_only,
        create,
        chosen: Mutex::new(chosen),
        opened: OnceLock::new(),
    });
    let [regular, bold] = caltrin::draw::WEB_FONTS.map(|(bytes, _)| bytes);
    let own = hosts(port);
    let pages = Router::new()
        .route("/", get(list))
        .route("/open", post(open))
        .route("/new", post(new))
        .route("/page.css", file("text/css; charset=utf-8", include_bytes!("page.css")))
        .route("/regular.woff2", file("font/woff2", regular))
        .route("/bold.woff2", file("font/woff2", bold))
        .layer(middleware::from_fn(move |request: Request, next: Next| {
            let own = own.clone();
            async move { guard(&own, POLICY, request, next).await }
        }))
        .with_state(Arc::clone(&lobby));
    Ok(Router::new().fallback(move |request: Request| {
        let pages = lobby.opened.get().unwrap_or(&pages).clone();
        async move { pages.oneshot(request).await }
    }))
}

/// A choice on the page.
#[derive(Deserialize)]
struct Choice {
    key: String,
    /// A file of the list.
    file: Option<String>,
    /// The name of a new place.
    name: Option<String>,
}

async fn list(State(lobby): State<Arc<Lobby>>) -> Response {
    shown(&lobby, None)
}

fn shown(lobby: &Arc<Lobby>, why: Option<&str>) -> Response {
    let status = if why.is_some() { StatusCode::UNPROCESSABLE_ENTITY } else { StatusCode::OK };
    (status, Html(page(lobby, why))).into_response()
}

async fn open(State(lobby): State<Arc<Lobby>>, Form(choice): Form<Choice>) -> Response {
    if !is_same(&choice.key, &lobby.key) {
        return (StatusCode::FORBIDDEN, "only this page can open a book").into_response();
    }
    // Only what is in the list is opened.
    let wanted = choice.file.unwrap_or_default();
    match books(&lobby.folder).into_iter().find(|book| book.file == wanted) {
        Some(book) => {
            let path = lobby.folder.join(book.file);
            // What is in the current folder is called by its name alone.
            let path = path.strip_prefix(".").map(Path::to_owned).unwrap_or(path);
            opened(&lobby, path)
        }
        None => shown(&lobby, Some(&format!("`{wanted}` is not in this folder any more"))),
    }
}

async fn new(State(lobby): State<Arc<Lobby>>, Form(choice): Form<Choice>) -> Response {
    if !is_same(&choice.key, &lobby.key) || lobby.read_only {
        return (StatusCode::FORBIDDEN, "only this page can make a book").into_response();
    }
    match (lobby.create)(&choice.name.unwrap_or_default(), &lobby.folder) {
        Ok(path) => opened(&lobby, path),
        Err(why) => shown(&lobby, Some(&why)),
    }
}

/// Serves a book from now on.
fn opened(lobby: &Lobby, book: PathBuf) -> Response {
    let Ok(live) = Live::new(&book, lobby.read_only) else {
        let why = "the system gives no random bytes for the page's key";
        return (StatusCode::INTERNAL_SERVER_ERROR, why).into_response();
    };
    // Of two choices at once the first one counts.
    if lobby.opened.set(router(live.clone(), lobby.port)).is_ok() {
        (lobby.chosen.lock().unwrap_or_else(PoisonError::into_inner))(book, live);
    }
    Redirect::to("/").into_response()
}

/// A lightbook of the folder.
#[derive(Debug, PartialEq, Eq, PartialOrd, Ord)]
struct Listed {
    /// Its file, relative to the folder, with `/` between folders.
    file: String,
    /// Its first line: the name of the place, or the book that it rehearses.
    about: String,
}

/// The files of the lightbooks of a folder and of the folders in it.
pub fn names(folder: &Path) -> Vec<String> {
    books(folder).into_iter().map(|book| book.file).collect()
}

/// The lightbooks of a folder and of the folders in it, by their files.
fn books(folder: &Path) -> Vec<Listed> {
    let mut found = Vec::new();
    let mut left = MOST_ENTRIES;
    let mut open = vec![(folder.to_owned(), String::new(), 0)];
    while let Some((path, before, depth)) = open.pop() {
        let Ok(entries) = fs::read_dir(&path) else { continue };
        for entry in entries.flatten() {
            let (name, kind) = (entry.file_name(), entry.file_type());
            let (Some(name), Ok(kind)) = (name.to_str(), kind) else { continue };
            if left == 0 || found.len() == MOST_BOOKS {
                found.sort();
                return found;
            }
            left -= 1;
            // Hidden folders and those of builds hold no books of a person.
            if name.starts_with('.') || matches!(name, "target" | "node_modules") {
                continue;
            }
            let file = format!("{before}{name}");
            if kind.is_dir() && depth < DEPTH {
                open.push((entry.path(), format!("{file}/"), depth + 1));
            } else if name.ends_with(".caltrin") && entry.path().is_file() {
                found.push(Listed { about: first_line(&entry.path()), file });
            }
        }
    }
    found.sort();
    found
}

/// The first line of a book that says anything.
fn first_line(path: &Path) -> String {
    let mut bytes = Vec::new();
    if let Ok(file) = files::open_regular(path) {
        // What cannot be read has no name here; opening it says why.
        let _ = file.take(HEAD).read_to_end(&mut bytes);
    }
    let text = String::from_utf8_lossy(&bytes);
    let line = text.lines().map(str::trim).find(|line| !line.is_empty() && !line.starts_with("//"));
    let line = line.unwrap_or_default();
    let quoted = |line: &str| Some(line.split('"').nth(1)?.to_owned());
    match line.strip_prefix("rehearses") {
        Some(book) => format!("rehearsals of {}", quoted(book).unwrap_or_default()),
        None => quoted(line).unwrap_or_default(),
    }
}

/// A text in HTML.
fn html(text: &str) -> String {
    let mut to = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '&' => to += "&amp;",
            '<' => to += "&lt;",
            '>' => to += "&gt;",
            '"' => to += "&quot;",
            c => to.push(c),
        }
    }
    to
}

fn page(lobby: &Lobby, why: Option<&str>) -> String {
    let books = books(&lobby.folder);
    let key = &lobby.key;
    let rows: String = books
        .iter()
        .map(|Listed { file, about }| {
            let (file, about) = (html(file), html(about));
            format!("<li><button name=\"file\" value=\"{file}\">{file}</button> <span>{about}</span></li>\n")
        })
        .collect();
    let list = match rows.is_empty() {
        true => "<p>This folder has no lightbooks yet.</p>".to_owned(),
        false => format!(
            "<form method=\"post\" action=\"/open\"><input type=\"hidden\" name=\"key\" value=\"{key}\">\n\
             <ul>\n{rows}</ul></form>"
        ),
    };
    let new = match lobby.read_only {
        true => String::new(),
        false => format!(
            "<section aria-labelledby=\"new\"><h2 id=\"new\">New lightbook</h2>\n\
             <form method=\"post\" action=\"/new\"><input type=\"hidden\" name=\"key\" value=\"{key}\">\n\
             <label>Name of the place <input name=\"name\" required maxlength=\"80\" pattern=\"[^&quot;]+\"></label>\n\
             <button>Create</button></form></section>"
        ),
    };
    let why = why.map(|why| format!("<p role=\"alert\">{}</p>", html(why))).unwrap_or_default();
    let folder = std::path::absolute(&lobby.folder).unwrap_or_else(|_| lobby.folder.clone());
    include_str!("lobby.html")
        .replace("{{folder}}", &html(&folder.display().to_string()))
        .replace("{{why}}", &why)
        .replace("{{list}}", &list)
        .replace("{{new}}", &new)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_books_of_a_folder_are_listed_with_their_names() {
        let folder = tempfile::tempdir().expect("a folder");
        let write = |name: &str, text: &str| {
            let path = folder.path().join(name);
            fs::create_dir_all(path.parent().expect("a folder")).expect("made");
            fs::write(path, text).expect("written");
        };
        write("quay.caltrin", "// first\n\nlightbook \"Quay <1>\"\n");
        write("parts/lock.caltrin", "rehearses \"../quay.caltrin\"\n");
        write("a/b/c/d/deep.caltrin", "lightbook \"Too deep\"\n");
        write(".hidden/x.caltrin", "lightbook \"Hidden\"\n");
        write("target/x.caltrin", "lightbook \"Built\"\n");
        write("notes.txt", "lightbook \"No\"\n");
        let found: Vec<(String, String)> =
            books(folder.path()).into_iter().map(|book| (book.file, book.about)).collect();
        let expected =
            [("parts/lock.caltrin", "rehearsals of ../quay.caltrin"), ("quay.caltrin", "Quay <1>")];
        assert_eq!(found, expected.map(|(file, about)| (file.to_owned(), about.to_owned())));
    }

    #[test]
    fn no_name_breaks_out_of_the_page() {
        assert_eq!(html("a<b>&\"c\""), "a&lt;b&gt;&amp;&quot;c&quot;");
    }
}
