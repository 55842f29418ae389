//! `caltrin lsp`

use super::{Done, Status, failure};
use crate::lsp::{Ended, serve};

/// Serve an editor over the Language Server Protocol on standard input and output.
#[derive(clap::Args)]
#[command(
    after_help = "An editor starts this command; see editors/README.md for how to connect one.

It offers diagnostics with changes, completion, tooltips, colors, renaming, formatting and more. Files are \
never written: every change goes through the editor.

Exit status: 0 if the client shut the server down, 1 if it went away."
)]
pub struct Arguments {
    /// Accepted and ignored; editors pass it.
    #[arg(long, hide = true)]
    stdio: bool,
}

pub fn run() -> Done {
    match serve() {
        Ok(Ended::Properly) => Ok(Status::Fine),
        Ok(Ended::Otherwise) => Ok(Status::Problems),
        Err(why) => {
            Err(failure(format!("the language server ended: {why}"), "start it from an editor"))
        }
    }
}
