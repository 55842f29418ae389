//! `caltrin fmt`

use std::path::PathBuf;

use super::{Done, Status, count, say, write_whole};
use crate::report;

/// Lay a lightbook's text out evenly: indentation, spaces, columns. Words and comments stay.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin fmt pier.caltrin
  caltrin fmt places/*.caltrin --check      changes nothing; exit status 1 if one is not laid out

A book with mistakes of form is not touched.")]
pub struct Arguments {
    /// The lightbooks.
    #[arg(value_name = "BOOK", required = true)]
    books: Vec<PathBuf>,
    /// Only say which books are not laid out evenly.
    #[arg(long)]
    check: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let mut status = Status::Fine;
    let mut changed = 0;
    for book in &arguments.books {
        let text = caltrin::read_text(book)?;
        match caltrin::lang::format(&text) {
            Ok(even) if even == text => {}
            Ok(even) => {
                changed += 1;
                if arguments.check {
                    status = Status::Problems;
                    say(format!("{} is not laid out evenly", book.display()))?;
                } else {
                    write_whole(book, even.as_bytes())?;
                    say(format!("laid out {}", book.display()))?;
                }
            }
            Err(_) => {
                status = Status::Problems;
                report::diagnostics(&caltrin::open(book)?);
                say(format!("{} has mistakes and is left as it is", book.display()))?;
            }
        }
    }
    if changed == 0 && status == Status::Fine {
        say(format!("{}: nothing to do", count(arguments.books.len() as u64, "book")))?;
    }
    Ok(status)
}
