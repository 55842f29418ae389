//! `caltrin live`

use std::io::IsTerminal;
use std::net::{Ipv4Addr, SocketAddr, TcpListener};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Condvar, Mutex, PoisonError, mpsc};
use std::thread;

use axum::Router;
use tokio::runtime::Runtime;

use super::goal::interrupted;
use super::new::{self, Unmade};
use super::watch::{Files, watch};
use super::{Done, Failure, Status, failure, mention, say};
use crate::live::{Live, Peer, lobby, router};

/// Serve a page with the text, the timeline and the lit place, and write what is done on it into the book.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin live                             list the lightbooks of this folder, or make a new one
  caltrin live pier.caltrin
  caltrin live pier.caltrin --port 8750
  caltrin live pier.caltrin --read-only    nothing on the page changes the book

The page is served to this machine alone. It computes with the exported JavaScript, so what \
moves on it is what ships. After a save with errors, the last good version stays visible with \
the errors beside it.")]
pub struct Arguments {
    /// The lightbook, or a folder whose lightbooks are listed; default: this folder.
    book: Option<PathBuf>,
    /// Port to listen on; 0 selects any free port.
    #[arg(long, default_value_t = 8747)]
    port: u16,
    /// Only show the book; nothing on the page changes it.
    #[arg(long)]
    read_only: bool,
    /// Do not open the page in the browser. It is opened only from a terminal.
    #[arg(long)]
    no_open: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let address = SocketAddr::from((Ipv4Addr::LOCALHOST, arguments.port));
    let listener = TcpListener::bind(address).map_err(|why| {
        failure(
            format!("cannot listen on {address}: {why}"),
            "another page may be using the port; `--port 0` selects any free port",
        )
    })?;
    listener.set_nonblocking(true)?;
    let port = listener.local_addr()?.port();
    let page = format!("http://127.0.0.1:{port}/");
    let folder = arguments.book.clone().unwrap_or_else(|| PathBuf::from("."));
    if folder.is_dir() {
        let (tell, chosen) = mpsc::channel();
        let tell = Box::new(move |book, live| {
            // The other end is gone only when the command ends.
            let _ = tell.send((book, live));
        });
        let pages = lobby(&folder, port, arguments.read_only, create, tell).map_err(no_key)?;
        let _runtime = serve(listener, pages)?;
        say(format!("{page} lists the lightbooks of {} (Ctrl-C ends)", folder.display()))?;
        show(arguments, &page);
        let Ok((book, live)) = chosen.recv() else { return Ok(Status::Fine) };
        return follow(&book, &live, || {
            mention(format!("{page} shows {}", book.display()));
            Ok(())
        });
    }
    let live = Live::new(&folder, arguments.read_only).map_err(no_key)?;
    let _runtime = serve(listener, router(live.clone(), port))?;
    follow(&folder, &live, || {
        say(format!("{page} shows {} (Ctrl-C ends)", folder.display()))?;
        show(arguments, &page);
        Ok(())
    })
}

pub fn no_key(why: getrandom::Error) -> Failure {
    failure(
        format!("the system gives no random bytes for the page's key: {why}"),
        "the page needs a key that other programs do not know",
    )
}

/// Makes a book for the page that lists them.
fn create(name: &str, folder: &Path) -> Result<PathBuf, String> {
    match new::create(name, folder, None) {
        Ok((path, done)) => {
            interrupted(&done);
            Ok(path)
        }
        Err(Unmade::Name) => Err(new::BAD_NAME.to_owned()),
        Err(Unmade::File(refused)) => Err(refused.to_string()),
    }
}

/// Opens the page in the browser, where somebody sits before it.
fn show(arguments: &Arguments, page: &str) {
    if arguments.no_open || !std::io::stdout().is_terminal() {
        return;
    }
    // Without a screen a browser in the terminal itself would be opened.
    let has_screen =
        ["DISPLAY", "WAYLAND_DISPLAY"].iter().any(|name| std::env::var_os(name).is_some());
    if cfg!(all(unix, not(target_os = "macos"))) && !has_screen {
        return;
    }
    // Where it cannot be opened its address is on the screen.
    let _ = open::that_detached(page);
}

/// Answers what comes in, until the runtime is dropped.
fn serve(listener: TcpListener, pages: Router) -> Result<Runtime, Failure> {
    let served = pages.into_make_service_with_connect_info::<Peer>();
    let runtime =
        tokio::runtime::Builder::new_multi_thread().worker_threads(2).enable_all().build()?;
    runtime.spawn(async move {
        match tokio::net::TcpListener::from_std(listener) {
            Ok(listener) => {
                if let Err(why) = axum::serve(listener, served).await {
                    crate::report::failure(&Failure(format!("the server stopped: {why}"), None));
                }
            }
            Err(why) => {
                crate::report::failure(&Failure(format!("cannot start the server: {why}"), None))
            }
        }
    });
    Ok(runtime)
}

/// Shows a book on its page, and each save of it.
fn follow(book: &Path, live: &Live, mut begins: impl FnMut() -> Result<(), Failure>) -> Done {
    let readings = Arc::new(Readings::default());
    let mut first = true;
    watch(book, |_, files| {
        if !std::mem::replace(&mut first, false) {
            readings.wants(files);
            return Ok(());
        }
        read(live, &files);
        for _ in 0..AT_ONCE {
            let (readings, live) = (Arc::clone(&readings), live.clone());
            thread::spawn(move || readings.serve(|files| read(&live, files)));
        }
        begins()
    })
}

/// Reads and shows the book.
fn read(live: &Live, files: &Files) {
    if let Some(read) = live.saved() {
        files.are(read);
    }
}

/// Concurrent readings of the book: a new save is read while an older one is still being read.
const AT_ONCE: usize = 2;

/// The next save to read.
#[derive(Default)]
struct Readings {
    wanted: Mutex<Option<Files>>,
    changed: Condvar,
}

impl Readings {
    /// Requests a reading. It replaces a request that has not started yet.
    fn wants(&self, files: Files) {
        *self.wanted.lock().unwrap_or_else(PoisonError::into_inner) = Some(files);
        self.changed.notify_one();
    }

    /// Reads requested saves, one after the other.
    fn serve(&self, read: impl Fn(&Files)) {
        loop {
            let wanted = self.wanted.lock().unwrap_or_else(PoisonError::into_inner);
            let wanted = self.changed.wait_while(wanted, |wanted| wanted.is_none());
            let save = wanted.unwrap_or_else(PoisonError::into_inner).take();
            if let Some(files) = save {
                read(&files);
            }
        }
    }
}
