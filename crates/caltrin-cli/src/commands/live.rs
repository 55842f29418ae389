//! `caltrin live`

use std::net::{Ipv4Addr, SocketAddr, TcpListener};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Condvar, Mutex, PoisonError};
use std::thread;

use super::watch::{Files, watch};
use super::{Done, Failure, failure, open, say};
use crate::live::{Live, router};

/// Serve a page with the timeline and the lit place that reloads on save.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin live pier.caltrin
  caltrin live pier.caltrin --port 8750

The page is served to this machine alone. It computes with the exported JavaScript, so what
moves on it is what ships. After a save with errors, the last good version stays visible with the
errors beside it.")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// Port to listen on; 0 selects any free port.
    #[arg(long, default_value_t = 8747)]
    port: u16,
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
    let live = Live::new();
    let served = router(live.clone(), port);
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
    let mut nth = 0;
    watch(&arguments.book, |book, files| {
        nth += 1;
        if nth > 1 {
            readings.wants(nth, files);
            return Ok(());
        }
        read(&live, book, nth, &files);
        for _ in 0..AT_ONCE {
            let (readings, live, book) = (Arc::clone(&readings), live.clone(), book.to_owned());
            thread::spawn(move || readings.serve(|nth, files| read(&live, &book, nth, files)));
        }
        say(format!("http://127.0.0.1:{port}/ shows {} (Ctrl-C ends)", arguments.book.display()))
    })
}

/// Reads and shows the book, unless a later save is shown already.
fn read(live: &Live, book: &Path, nth: u64, files: &Files) {
    match open(book) {
        Ok(opened) => {
            files.are(opened.files());
            live.save(nth, &opened, book.parent().unwrap_or(Path::new(".")));
        }
        Err(why) => live.refuse(nth, &why.to_string()),
    }
}

/// Concurrent readings of the book: a new save is read while an older one is still being read.
const AT_ONCE: usize = 2;

/// The next save to read.
#[derive(Default)]
struct Readings {
    wanted: Mutex<Option<(u64, Files)>>,
    changed: Condvar,
}

impl Readings {
    /// Requests a reading. It replaces a request that has not started yet.
    fn wants(&self, nth: u64, files: Files) {
        *self.wanted.lock().unwrap_or_else(PoisonError::into_inner) = Some((nth, files));
        self.changed.notify_one();
    }

    /// Reads requested saves, one after the other.
    fn serve(&self, read: impl Fn(u64, &Files)) {
        loop {
            let wanted = self.wanted.lock().unwrap_or_else(PoisonError::into_inner);
            let wanted = self.changed.wait_while(wanted, |wanted| wanted.is_none());
            let save = wanted.unwrap_or_else(PoisonError::into_inner).take();
            if let Some((nth, files)) = save {
                read(nth, &files);
            }
        }
    }
}
