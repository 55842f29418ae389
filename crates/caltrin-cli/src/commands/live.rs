//! `caltrin live`

use std::net::{Ipv4Addr, SocketAddr, TcpListener};
use std::path::PathBuf;
use std::sync::{Arc, Condvar, Mutex, PoisonError};
use std::thread;

use super::watch::{Files, watch};
use super::{Done, Failure, failure, say};
use crate::live::{Live, router};

/// Serve a page with the text, the timeline and the lit place, and write what is done on it into the book.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin live pier.caltrin
  caltrin live pier.caltrin --port 8750
  caltrin live pier.caltrin --read-only    nothing on the page changes the book

The page is served to this machine alone. It computes with the exported JavaScript, so what
moves on it is what ships. After a save with errors, the last good version stays visible with the
errors beside it.")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// Port to listen on; 0 selects any free port.
    #[arg(long, default_value_t = 8747)]
    port: u16,
    /// Only show the book; nothing on the page changes it.
    #[arg(long)]
    read_only: bool,
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
    let live = Live::new(&arguments.book, arguments.read_only).map_err(|why| {
        let why = format!("the system gives no random bytes for the page's key: {why}");
        failure(why, "`--read-only` needs none")
    })?;
    let served = router(live.clone(), port).into_make_service_with_connect_info::<SocketAddr>();
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
    let readings = Arc::new(Readings::default());
    let mut first = true;
    watch(&arguments.book, |_, files| {
        if !std::mem::replace(&mut first, false) {
            readings.wants(files);
            return Ok(());
        }
        read(&live, &files);
        for _ in 0..AT_ONCE {
            let (readings, live) = (Arc::clone(&readings), live.clone());
            thread::spawn(move || readings.serve(|files| read(&live, files)));
        }
        say(format!("http://127.0.0.1:{port}/ shows {} (Ctrl-C ends)", arguments.book.display()))
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
