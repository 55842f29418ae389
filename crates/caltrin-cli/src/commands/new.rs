//! `caltrin new`

use std::io::Write;
use std::path::PathBuf;

use caltrin::export::names::{Case, cased};

use super::{Done, Status, cannot_write, failure, say};
use crate::interrupt::whole;
use crate::report::quoted;

/// Start a lightbook with one lamp and a flicker.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin new \"Slipway\"
  caltrin new \"Slipway\" -o places/slipway.caltrin")]
pub struct Arguments {
    /// What the place is called.
    name: String,
    /// Where to write it; by default the name in lower case, in this folder.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
}

const START: &str = include_str!("new.caltrin");

pub fn run(arguments: &Arguments) -> Done {
    let name = arguments.name.trim();
    if name.is_empty() || name.contains(|c: char| c == '"' || c.is_control()) {
        return Err(failure(
            "a lightbook's name is not empty and has no quotes",
            "for example: caltrin new \"Slipway\"",
        ));
    }
    let path = arguments
        .output
        .clone()
        .unwrap_or_else(|| PathBuf::from(format!("{}.caltrin", cased(name, Case::Snake))));
    let text = START.replace("NAME", name);
    let made = std::fs::OpenOptions::new().write(true).create_new(true).open(&path);
    match made {
        Ok(mut file) => whole(|| {
            file.write_all(text.as_bytes()).map_err(|why| {
                // Half a book is none.
                let _ = std::fs::remove_file(&path);
                cannot_write(&path, &why)
            })
        })?,
        Err(e) if e.kind() == std::io::ErrorKind::AlreadyExists => {
            return Err(failure(
                format!("`{}` is there already and is left as it is", path.display()),
                "choose another place with `-o FILE`",
            ));
        }
        Err(e) => {
            return Err(cannot_write(&path, &e));
        }
    }
    say(format!("wrote {}", path.display()))?;
    let book = quoted(&path);
    say(format!("look at it while you write:  caltrin live {book}"))?;
    say(format!("or as a picture:             caltrin sheet {book} -o sheet.png"))?;
    Ok(Status::Fine)
}
