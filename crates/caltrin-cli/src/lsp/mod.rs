//! The language server: the Language Server Protocol over standard input and output. Requests are
//! answered one after the other; books are read in the background. Nothing is ever written but by
//! the editor.

mod answer;
mod project;
mod stream;
mod text;

use std::collections::{BTreeMap, BTreeSet, VecDeque};
use std::path::{Path, PathBuf};
use std::sync::{Arc, LazyLock};
use std::thread;

use caltrin::lang::ide::{Focus, replaced};
use caltrin::sound::Memory;
use caltrin::{Opened, Opening};
use crossbeam_channel::{Receiver, Sender, select, unbounded};
use lsp_server::{Connection, ErrorCode, Message, Notification, Request, RequestId, Response};
use lsp_types::notification::{
    Cancel, DidChangeTextDocument, DidChangeWatchedFiles, DidCloseTextDocument,
    DidOpenTextDocument, Exit, Notification as _, PublishDiagnostics,
};
use lsp_types::request::{RegisterCapability, Request as _, Shutdown};
use lsp_types::{
    CancelParams, DidChangeTextDocumentParams, DidCloseTextDocumentParams,
    DidOpenTextDocumentParams, InitializeParams, NumberOrString, PublishDiagnosticsParams,
};
use serde_json::{Value, json};

use self::project::{Family, Open, Trees, families, family};
use self::text::{Columns, Document, path_of, uri_of};

/// Smallest book of which a changed part is read before the whole, in bytes.
const LARGE: usize = 64 << 10;

/// A book to read in the background.
#[derive(Clone)]
struct Job {
    root: PathBuf,
    open: Arc<Open>,
    generation: u64,
    /// The book with what it uses, and its last reading, if the part that has changed since is to be read first.
    large: Option<(Arc<Family>, Arc<Opened>)>,
}

/// A book that was read.
struct Read {
    root: PathBuf,
    opened: Opened,
    generation: u64,
    /// Whether only the part that has changed was; the diagnostics are those of the whole book even so.
    part: bool,
}

/// The state of the server.
struct Server {
    columns: Columns,
    open: Open,
    trees: Trees,
    /// Counts changes of the open documents.
    generation: u64,
    /// The families of documents, as of the current generation.
    families: BTreeMap<PathBuf, Option<Arc<Family>>>,
    /// The last reading of each book, and the last without errors.
    read: BTreeMap<PathBuf, Arc<Opened>>,
    good: BTreeMap<PathBuf, Arc<Opened>>,
    /// The generation of the last job of each open book.
    asked: BTreeMap<PathBuf, u64>,
    /// The generation of the last whole reading of each.
    whole: BTreeMap<PathBuf, u64>,
    /// What was found in each file, by the book that was read.
    found: BTreeMap<PathBuf, BTreeMap<PathBuf, Vec<lsp_types::Diagnostic>>>,
    /// To the threads that read whole books, and parts of large ones.
    jobs: [Sender<Job>; 2],
    sender: Sender<Message>,
    shut_down: bool,
}

/// Why the server ended.
pub enum Ended {
    /// The client shut it down and told it to exit.
    Properly,
    /// The client went away or broke the protocol.
    Otherwise,
}

/// Serves the client on standard input and output until it ends.
///
/// # Errors
/// What is wrong with the first messages, or with the streams.
pub fn serve() -> Result<Ended, String> {
    let (connection, writer) = stream::connect();
    let ended = session(&connection);
    drop(connection);
    // The reader ends with its input, which may stay open.
    let written = writer.join();
    match (&ended, written) {
        (Ok(Ended::Properly), Err(_)) => Err("a thread that writes has failed".to_owned()),
        _ => ended,
    }
}

/// Serves the client of a connection until it ends.
pub fn session(connection: &Connection) -> Result<Ended, String> {
    let Ok((id, params)) = connection.initialize_start() else { return Ok(Ended::Otherwise) };
    let params: InitializeParams = match serde_json::from_value(params) {
        Ok(params) => params,
        Err(error) => {
            let code = ErrorCode::InvalidParams as i32;
            let response = Response::new_err(id, code, error.to_string());
            let _ = connection.sender.send(response.into());
            return Ok(Ended::Otherwise);
        }
    };
    let workspace = params.capabilities.workspace.as_ref();
    let watched = workspace.and_then(|workspace| workspace.did_change_watched_files);
    let watches = watched.is_some_and(|watched| watched.dynamic_registration == Some(true));
    let encodings = params.capabilities.general.and_then(|general| general.position_encodings);
    let utf8 = encodings.is_some_and(|all| all.iter().any(|one| one.as_str() == "utf-8"));
    let columns = if utf8 { Columns::Utf8 } else { Columns::Utf16 };
    if connection.initialize_finish(id, answer::capabilities(columns)).is_err() {
        return Ok(Ended::Otherwise);
    }
    if watches {
        let _ = connection.sender.send(watch().into());
    }
    let (done, read) = unbounded();
    let jobs = [read_whole, read_part].map(|reader| {
        let (jobs, todo) = unbounded();
        let done = done.clone();
        thread::spawn(move || read_books(&todo, &done, reader));
        jobs
    });
    let mut server = Server {
        columns,
        open: Open::new(),
        trees: Trees::default(),
        generation: 0,
        families: BTreeMap::new(),
        read: BTreeMap::new(),
        good: BTreeMap::new(),
        asked: BTreeMap::new(),
        whole: BTreeMap::new(),
        found: BTreeMap::new(),
        jobs,
        sender: connection.sender.clone(),
        shut_down: false,
    };
    Ok(server.run(&connection.receiver, &read))
}

/// Asks the client to report books and sounds that change on disk.
fn watch() -> Request {
    let watcher = json!({ "globPattern": "**/*.{caltrin,wav,flac,ogg,mp3,mid,midi}" });
    let registration = json!({
        "id": "files", "method": DidChangeWatchedFiles::METHOD,
        "registerOptions": { "watchers": [watcher] },
    });
    let params = json!({ "registrations": [registration] });
    Request::new(RequestId::from("files".to_owned()), RegisterCapability::METHOD.to_owned(), params)
}

/// Reads books, only the latest job of each.
fn read_books(todo: &Receiver<Job>, done: &Sender<Read>, reader: fn(&Job) -> Option<Read>) {
    while let Ok(first) = todo.recv() {
        let mut latest: BTreeMap<PathBuf, Job> = BTreeMap::new();
        for job in std::iter::once(first).chain(todo.try_iter()) {
            latest.insert(job.root.clone(), job);
        }
        for read in latest.values().filter_map(reader) {
            if done.send(read).is_err() {
                return;
            }
        }
    }
}

/// The sounds of all books that the editor has open, as they were analyzed.
static SOUNDS: LazyLock<Memory> = LazyLock::new(Memory::default);

/// Reads a book with the texts that the editor has.
fn open_with(job: &Job, own: Option<&str>) -> Option<Opened> {
    let unsaved = |path: &Path| match own {
        Some(text) if path == job.root => Some(text.to_owned()),
        _ => job.open.get(path).map(|document| document.text.clone()),
    };
    let opening = Opening { unsaved: Some(&unsaved), memory: Some(&SOUNDS), ..Opening::default() };
    caltrin::open_with(&job.root, opening).ok()
}

fn read_whole(job: &Job) -> Option<Read> {
    let opened = open_with(job, None)?;
    Some(Read { root: job.root.clone(), opened, generation: job.generation, part: false })
}

fn read_part(job: &Job) -> Option<Read> {
    let (family, before) = job.large.as_ref()?;
    let (text, known) = (&family.project.texts().first()?.text, before.sources.first()?);
    let [_, changed] = replaced(&known.text, text);
    let focus = Focus::of(&family.project, changed)?;
    let mut opened = open_with(job, Some(&focus.text))?;
    let before = (&*known.text, &*before.diagnostics);
    opened.diagnostics = focus.merged(before, text, &opened.diagnostics);
    opened.sources.first_mut()?.text.clone_from(text);
    Some(Read { root: job.root.clone(), opened, generation: job.generation, part: true })
}

impl Server {
    fn run(&mut self, messages: &Receiver<Message>, read: &Receiver<Read>) -> Ended {
        let mut waiting: VecDeque<Message> = VecDeque::new();
        loop {
            // What has arrived is looked through for requests that were canceled since.
            waiting.extend(messages.try_iter());
            if waiting.is_empty() {
                select! {
                    recv(messages) -> message => match message {
                        Ok(message) => waiting.push_back(message),
                        Err(_) => return Ended::Otherwise,
                    },
                    recv(read) -> done => {
                        if let Ok(done) = done {
                            self.book_read(done);
                        }
                    }
                }
                continue;
            }
            self.cancel(&mut waiting);
            match waiting.pop_front() {
                Some(Message::Request(request)) => self.request(request),
                Some(Message::Notification(note)) if note.method == Exit::METHOD => {
                    return if self.shut_down { Ended::Properly } else { Ended::Otherwise };
                }
                Some(Message::Notification(note)) => self.notification(note),
                Some(Message::Response(_)) | None => {}
            }
        }
    }

    /// Answers requests that wait and were canceled.
    fn cancel(&mut self, waiting: &mut VecDeque<Message>) {
        let canceled: Vec<RequestId> = waiting
            .iter()
            .filter_map(|message| match message {
                Message::Notification(note) if note.method == Cancel::METHOD => {
                    let params: CancelParams = serde_json::from_value(note.params.clone()).ok()?;
                    Some(match params.id {
                        NumberOrString::Number(id) => RequestId::from(id),
                        NumberOrString::String(id) => RequestId::from(id),
                    })
                }
                _ => None,
            })
            .collect();
        if canceled.is_empty() {
            return;
        }
        waiting.retain(|message| match message {
            Message::Request(request) if canceled.contains(&request.id) => {
                let code = ErrorCode::RequestCanceled as i32;
                let message = "the request was canceled".to_owned();
                self.send(Response::new_err(request.id.clone(), code, message).into());
                false
            }
            Message::Notification(note) => note.method != Cancel::METHOD,
            _ => true,
        });
    }

    fn send(&self, message: Message) {
        // A client that has gone is noticed when nothing more arrives.
        let _ = self.sender.send(message);
    }

    fn request(&mut self, request: Request) {
        let id = request.id.clone();
        let error =
            |code: ErrorCode, message: String| Response::new_err(id.clone(), code as i32, message);
        let response = if self.shut_down {
            error(ErrorCode::InvalidRequest, "the server was shut down".to_owned())
        } else if request.method == Shutdown::METHOD {
            self.shut_down = true;
            Response::new_ok(id, Value::Null)
        } else {
            match answer::answer(self, &request.method, request.params) {
                Ok(result) => Response::new_ok(id, result),
                Err(answer::Refused::Unknown) => {
                    let message = format!("unknown method `{}`", request.method);
                    error(ErrorCode::MethodNotFound, message)
                }
                Err(answer::Refused::Params(why)) => error(ErrorCode::InvalidParams, why),
                Err(answer::Refused::Failed(why)) => error(ErrorCode::RequestFailed, why),
            }
        };
        self.send(response.into());
    }

    fn notification(&mut self, note: Notification) {
        let params = note.params;
        match note.method.as_str() {
            DidOpenTextDocument::METHOD => {
                let Ok(params) = serde_json::from_value::<DidOpenTextDocumentParams>(params) else {
                    return;
                };
                let item = params.text_document;
                if let Some(path) = path_of(&item.uri) {
                    self.open.insert(path.clone(), Document::new(item.text, item.version));
                    self.changed(&path);
                }
            }
            DidChangeTextDocument::METHOD => {
                let Ok(params) = serde_json::from_value::<DidChangeTextDocumentParams>(params)
                else {
                    return;
                };
                let Some(path) = path_of(&params.text_document.uri) else { return };
                let columns = self.columns;
                if let Some(document) = self.open.get_mut(&path) {
                    document.change(params.content_changes, params.text_document.version, columns);
                    self.changed(&path);
                }
            }
            DidCloseTextDocument::METHOD => {
                let Ok(params) = serde_json::from_value::<DidCloseTextDocumentParams>(params)
                else {
                    return;
                };
                let Some(path) = path_of(&params.text_document.uri) else { return };
                self.open.remove(&path);
                self.changed(&path);
                self.withdraw(&path);
            }
            DidChangeWatchedFiles::METHOD => {
                let open: Vec<PathBuf> = self.open.keys().cloned().collect();
                open.iter().for_each(|path| self.changed(path));
            }
            _ => {}
        }
    }

    /// Reads again every open book that a document belongs to.
    fn changed(&mut self, path: &Path) {
        self.generation += 1;
        self.families.clear();
        let open = Arc::new(self.open.clone());
        let roots: BTreeSet<PathBuf> = self
            .open
            .keys()
            .cloned()
            .collect::<Vec<_>>()
            .into_iter()
            .filter(|root| {
                let whole = self.family(root);
                root == path || whole.is_some_and(|whole| whole.index(path).is_some())
            })
            .collect();
        for root in roots {
            self.asked.insert(root.clone(), self.generation);
            let large = self.large(&root, path);
            let generation = self.generation;
            let job = Job { root, open: open.clone(), generation, large };
            self.jobs.iter().for_each(|jobs| {
                let _ = jobs.send(job.clone());
            });
        }
    }

    /// A large book with its last reading, if the changed document is the book itself.
    fn large(&mut self, root: &Path, changed: &Path) -> Option<(Arc<Family>, Arc<Opened>)> {
        let own = self.open.get(root).is_some_and(|document| document.text.len() >= LARGE);
        let before = self.read.get(root).filter(|_| own && root == changed).cloned()?;
        let same = before.sources.first().is_some_and(|source| source.name == before.file);
        let family = self.family(root).filter(|_| same)?;
        (family.files.first()?.as_deref() == Some(root)).then_some((family, before))
    }

    /// The family of a document.
    fn family(&mut self, path: &Path) -> Option<Arc<Family>> {
        if let Some(known) = self.families.get(path) {
            return known.clone();
        }
        let found = family(path, &self.open, &mut self.trees).map(Arc::new);
        self.families.insert(path.to_owned(), found.clone());
        found
    }

    /// All books that a document belongs to.
    fn all_families(&mut self, path: &Path) -> Vec<Family> {
        families(path, &self.open, &mut self.trees)
    }

    fn book_read(&mut self, Read { root, opened, generation, part }: Read) {
        // It was closed meanwhile.
        let Some(latest) = self.asked.get(&root).copied() else { return };
        if part {
            // The whole may have been read meanwhile.
            let whole = self.whole.get(&root).is_some_and(|whole| *whole >= generation);
            if generation == latest && !whole {
                self.publish(&root, &opened);
            }
            return;
        }
        self.whole.insert(root.clone(), generation);
        // A newer reading is on its way if one was asked for since.
        let current = generation == latest || !self.read.contains_key(&root);
        let opened = Arc::new(opened);
        if opened.checked.is_some() {
            self.good.insert(root.clone(), opened.clone());
        }
        self.read.insert(root.clone(), opened.clone());
        if current {
            self.publish(&root, &opened);
        }
    }

    /// Publishes what was found in a book and the texts that it uses.
    fn publish(&mut self, root: &Path, opened: &Opened) {
        let folder = caltrin::folder_of(root);
        let mut by_file: BTreeMap<PathBuf, Vec<lsp_types::Diagnostic>> = BTreeMap::new();
        let own = root.file_name().map(|name| name.to_string_lossy().into_owned());
        for (n, source) in opened.sources.iter().enumerate() {
            let path = match &source.name {
                name if Some(name) == own.as_ref() || *name == opened.file => root.to_owned(),
                name if name == caltrin::STOCK_NAME => continue,
                name => folder.join(name),
            };
            let document = Document::new(source.text.clone(), 0);
            let told = opened.diagnostics.iter().filter(|told| told.source() == n);
            let told = told.map(|told| answer::diagnostic(told, &document, self.columns));
            by_file.entry(path).or_default().extend(told);
        }
        let before = self.found.insert(root.to_owned(), by_file).unwrap_or_default();
        let files: BTreeSet<PathBuf> =
            before.into_keys().chain(self.found[root].keys().cloned()).collect();
        files.iter().for_each(|file| self.show(file));
    }

    /// Publishes what is known of a file: what the books that use it say, else what it says alone.
    fn show(&self, path: &Path) {
        let Some(uri) = uri_of(path) else { return };
        let all = self.found.iter().filter_map(|(root, files)| Some((root, files.get(path)?)));
        let users: Vec<_> = all.clone().filter(|(root, _)| **root != *path).collect();
        let chosen = if users.is_empty() { all.collect() } else { users };
        let mut diagnostics: Vec<lsp_types::Diagnostic> = Vec::new();
        for one in chosen.into_iter().flat_map(|(_, told)| told) {
            if !diagnostics.contains(one) {
                diagnostics.push(one.clone());
            }
        }
        let version = self.open.get(path).map(|document| document.version);
        let params = PublishDiagnosticsParams { uri, diagnostics, version };
        self.send(Notification::new(PublishDiagnostics::METHOD.to_owned(), params).into());
    }

    /// Takes back what was found in a book that was closed.
    fn withdraw(&mut self, root: &Path) {
        for path in self.found.remove(root).unwrap_or_default().into_keys() {
            self.show(&path);
        }
        self.asked.remove(root);
        self.whole.remove(root);
        self.read.remove(root);
        self.good.remove(root);
    }
}
