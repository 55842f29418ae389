//! `caltrin new`

use std::path::PathBuf;

use caltrin::export::names::file_stem;
use caltrin::files::{Inputs, Output, PutError, Replaces, put};

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

pub fn run(arguments: &Arguments) -> Done {
    let name = arguments.name.trim();
    if name.is_empty() || name.contains(|c: char| c == '"' || c.is_control()) {
        return Err(failure(
            "the name of a lightbook must not be empty or contain quotes",
            "for example: caltrin new \"Slipway\"",
        ));
    }
    let path = arguments
        .output
        .clone()
        .unwrap_or_else(|| PathBuf::from(format!("{}.caltrin", file_stem(name, &[]))));
    let text = START.replace("NAME", name);
    let output = Output { path: &path, bytes: text.as_bytes(), replaces: Replaces::Nothing };
    match whole(|| put(&[output], &Inputs::default())) {
        Ok(done) => interrupted(&done),
        Err(refused @ PutError::Exists(_)) => {
            return Err(failure(refused, "choose another place with `-o FILE`"));
        }
        Err(refused) => return Err(refused.into()),
    }
    say(format!("wrote {}", path.display()))?;
    let book = quoted(&path);
    say(format!("preview it while you write:  caltrin live {book}"))?;
    say(format!("or draw a picture:           caltrin sheet {book} -o sheet.png"))?;
    Ok(Status::Fine)
}
