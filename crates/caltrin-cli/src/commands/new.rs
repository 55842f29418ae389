//! `caltrin new`

use std::path::{Path, PathBuf};

use caltrin::export::names::file_stem;
use caltrin::files::{Inputs, Output, Put, PutError, Replaces, put};

use super::goal::interrupted;
use super::{Done, Status, failure, say};
use crate::interrupt::whole;
use crate::report::quoted;

/// Create a lightbook with one flickering lamp.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin new \"Slipway\"
  caltrin new \"Slipway\" -o places/slipway.caltrin")]
pub struct Arguments {
    /// Name of the place.
    name: String,
    /// File to write; default: the name in lower case, in this folder.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
}

const START: &str = include_str!("new.caltrin");

/// Why a book cannot be made, and what to do about it.
pub enum Unmade {
    /// Its name.
    Name,
    /// Its file.
    File(PutError),
}

/// Writes the first text of a place to a file: by default the name in lower case, in a folder. Gives the file.
pub fn create(
    name: &str,
    folder: &Path,
    output: Option<PathBuf>,
) -> Result<(PathBuf, Put), Unmade> {
    let name = name.trim();
    if name.is_empty() || name.contains(|c: char| c == '"' || c.is_control()) {
        return Err(Unmade::Name);
    }
    let path = output.unwrap_or_else(|| folder.join(format!("{}.caltrin", file_stem(name, []))));
    let text = START.replace("NAME", name);
    let output = Output { path: &path, bytes: text.as_bytes(), replaces: Replaces::Nothing };
    let done = whole(|| put(&[output], &Inputs::default())).map_err(Unmade::File)?;
    Ok((path, done))
}

pub const BAD_NAME: &str = "the name of a lightbook must not be empty or contain quotes";

pub fn run(arguments: &Arguments) -> Done {
    let (path, done) = match create(&arguments.name, Path::new(""), arguments.output.clone()) {
        Ok(made) => made,
        Err(Unmade::Name) => return Err(failure(BAD_NAME, "for example: caltrin new \"Slipway\"")),
        Err(Unmade::File(refused @ PutError::Exists(_))) => {
            return Err(failure(refused, "choose another place with `-o FILE`"));
        }
        Err(Unmade::File(refused)) => return Err(refused.into()),
    };
    interrupted(&done);
    say(format!("wrote {}", path.display()))?;
    let book = quoted(&path);
    say(format!("preview it while you write:  caltrin live {book}"))?;
    say(format!("or draw a picture:           caltrin sheet {book} -o sheet.png"))?;
    Ok(Status::Fine)
}
