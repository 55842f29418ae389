//! `caltrin fmt`

use std::path::PathBuf;

use caltrin::files::{Inputs, Output, Replaces, put};

use super::goal::interrupted;
use super::{Done, Failure, Status, count, open, say};
use crate::interrupt::whole;
use crate::report;

/// Format lightbooks; words, comments and line endings are kept.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin fmt pier.caltrin
  caltrin fmt places/*.caltrin --check      changes nothing; exit status 1 if one is not formatted

A book with syntax errors is not changed.")]
pub struct Arguments {
    /// The lightbooks.
    #[arg(value_name = "BOOK", required = true)]
    books: Vec<PathBuf>,
    /// Only report which books are not formatted.
    #[arg(long)]
    check: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let mut status = Status::Fine;
    let (mut changed, mut unread) = (0, 0);
    for book in &arguments.books {
        let text = match caltrin::read_text(book) {
            Ok(text) => text,
            // The others are laid out all the same.
            Err(refused) => {
                report::failure(&refused.into());
                unread += 1;
                continue;
            }
        };
        match caltrin::lang::format(&text) {
            Ok(even) if even == text => {}
            Ok(even) => {
                changed += 1;
                if arguments.check {
                    status = Status::Problems;
                    say(format!("{} is not formatted", book.display()))?;
                } else {
                    let (bytes, replaces) = (even.as_bytes(), Replaces::Text(text.as_bytes()));
                    let output = Output { path: book, bytes, replaces };
                    match whole(|| put(&[output], &Inputs::default())) {
                        Ok(done) => {
                            interrupted(&done);
                            say(format!("formatted {}", book.display()))?;
                        }
                        Err(refused) => {
                            report::failure(&refused.into());
                            unread += 1;
                        }
                    }
                }
            }
            Err(_) => {
                status = Status::Problems;
                report::diagnostics(&open(book)?);
                say(format!("{} has errors and is not changed", book.display()))?;
            }
        }
    }
    if unread > 0 {
        // What was wrong is reported.
        return Err(Failure(String::new(), None));
    }
    if changed == 0 && status == Status::Fine {
        say(format!("{}: nothing to do", count(arguments.books.len() as u64, "book")))?;
    }
    Ok(status)
}
