//! `caltrin live`

use std::net::{Ipv4Addr, SocketAddr, TcpListener};
use std::path::{Path, PathBuf};

use super::watch::watch;
use super::{Done, Failure, failure, open, say};
use crate::live::{Live, router};

/// Serve a page that shows the timeline and the lit place, and follows every save.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin live pier.caltrin
  caltrin live pier.caltrin --port 8750

The page is served to this machine alone. It computes with the exported JavaScript, so what
moves on it is what ships. A save with mistakes leaves the last good picture, with what is
wrong beside it.")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// The port to listen on; 0 takes any that is free.
    #[arg(long, default_value_t = 8747)]
    port: u16,
}

pub fn run(arguments: &Arguments) -> Done {
    let address = SocketAddr::from((Ipv4Addr::LOCALHOST, arguments.port));
    let listener = TcpListener::bind(address).map_err(|why| {
        failure(
            format!("cannot listen on {address}: {why}"),
            "another page may be open there; `--port 0` takes any that is free",
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
                    crate::report::failure(&Failure(format!("the page ended: {why}"), None));
                }
            }
            Err(why) => crate::report::failure(&Failure(format!("no page: {why}"), None)),
        }
    });
    let mut told = false;
    watch(&arguments.book, |book| {
        match open(book) {
            Ok(opened) => live.save(&opened, book.parent().unwrap_or(Path::new("."))),
            Err(why) => live.refuse(&why.to_string()),
        }
        if !std::mem::replace(&mut told, true) {
            say(format!(
                "http://127.0.0.1:{port}/ shows {} (Ctrl-C ends)",
                arguments.book.display()
            ))?;
        }
        Ok(())
    })
}
