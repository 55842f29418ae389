//! `caltrin demo`

use std::path::{Path, PathBuf};

use caltrin::core::quantity::Seconds;
use caltrin::draw::{PlaceOptions, SheetOptions, place, png, sheet, svg};
use caltrin::export::prove::moments;
use caltrin::export::{TARGETS, export};
use caltrin::files::{self, Inputs, Output, PutError, Replaces, put, put_exported};

use super::goal::interrupted;
use super::prove::{outcomes, status, table};
use super::{Done, Failure, Status, failure, open, say, what_there_is};
use crate::interrupt::whole;
use crate::outcome::explained;

/// Create the Saltgate pier: a lightbook, its pictures, its code in four languages, and the proof.
#[derive(clap::Args)]
#[command(after_help = "Example:
  caltrin demo -o pier-demo")]
pub struct Arguments {
    /// Folder to create.
    #[arg(short, long, value_name = "FOLDER", default_value = "caltrin-demo")]
    output: PathBuf,
    /// Restore the original book if you have changed it.
    #[arg(long)]
    force: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let folder = &arguments.output;
    let sounds = folder.join("sounds");
    std::fs::create_dir_all(&sounds).map_err(|cause| {
        let path = sounds.clone();
        explained(&PutError::Io { path, cause })
    })?;
    let pictures = folder.join("pictures");
    std::fs::create_dir_all(&pictures).map_err(|cause| {
        let path = pictures.clone();
        explained(&PutError::Io { path, cause })
    })?;
    let book = folder.join("pier.caltrin");
    put_back(&book, caltrin::PIER.as_bytes(), arguments.force, Kept::Told)?;
    for (name, bytes) in caltrin::SOUNDS.into_iter().chain(caltrin::PICTURES) {
        // A replaced sound is kept, like every file that the tool did not write.
        put_back(&folder.join(name), bytes, arguments.force, Kept::Quietly)?;
    }
    let opened = open(&book)?;
    crate::report::diagnostics(&opened);
    let Some(checked) = &opened.checked else { return Ok(Status::Problems) };
    say(format!("{}  the lightbook: {}", book.display(), what_there_is(checked)))?;
    say(format!("{}  its sounds", sounds.display()))?;
    say(format!("{}  a picture of its deck", pictures.display()))?;

    let inputs = Inputs::new(opened.files());
    let day = SheetOptions { day: true, curves: false, ..SheetOptions::default() };
    let shown = vec![Seconds(0.6).into()];
    let timeline = sheet(checked, &opened.findings, &SheetOptions::default());
    let day = sheet(checked, &opened.findings, &day);
    let lit = place(checked, &PlaceOptions { moments: shown, ..PlaceOptions::default() });
    let pictures = [
        ("pier.svg", svg(&timeline).into_bytes(), None),
        ("pier.png", png(&timeline)?, Some("its timeline (and pier.svg)")),
        ("pier-day.png", png(&day)?, Some("its day")),
        ("pier-view.png", png(&lit)?, Some("the lit place")),
    ];
    let paths = pictures.each_ref().map(|(name, ..)| folder.join(name));
    let replaces = if arguments.force { Replaces::Any } else { Replaces::Made };
    let outputs: Vec<Output<'_>> = paths
        .iter()
        .zip(&pictures)
        .map(|(path, (_, bytes, _))| Output { path, bytes, replaces })
        .collect();
    interrupted(&whole(|| put(&outputs, &inputs))?);
    for (path, (.., what)) in paths.iter().zip(&pictures) {
        if let Some(what) = what {
            say(format!("{}  {what}", path.display()))?;
        }
    }

    let files: Vec<_> =
        TARGETS.iter().map(|target| export(checked, &opened.notes, *target)).collect();
    let code = folder.join("code");
    let (paths, done) = whole(|| put_exported(&code, &files, &inputs, arguments.force))?;
    interrupted(&done);
    for path in paths {
        say(path.display())?;
    }

    say("\nThe code, compiled and run, compared with the preview bit for bit:")?;
    let outcomes =
        outcomes(checked, &opened.notes, &TARGETS, (&moments(checked, 100_000), 100_000), None)?;
    table(&outcomes)?;

    let book = book.display();
    say(format!(
        "\nNow change a number in {book} and try:\n  \
         caltrin check {book}\n  \
         caltrin live {book}\n  \
         caltrin day {book} --variant season=80 --variant season=172\n  \
         caltrin sheet {book} --terminal"
    ))?;
    Ok(status(&outcomes, false))
}

/// What happens to a file that has been changed.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Kept {
    /// It stays, and the command ends with a message.
    Told,
    /// It stays.
    Quietly,
}

/// Puts one of the demonstration's files where it is not, or, by `force`, where another one is.
fn put_back(path: &Path, bytes: &[u8], force: bool, kept: Kept) -> Result<(), Failure> {
    let held = match files::read(path, caltrin::LARGEST) {
        Ok(held) => Some(held),
        Err(cause) if cause.kind() == std::io::ErrorKind::NotFound => None,
        Err(cause) => return Err(explained(&PutError::Io { path: path.to_owned(), cause })),
    };
    let replaces = match &held {
        Some(held) if held == bytes => return Ok(()),
        Some(_) if !force && kept == Kept::Quietly => return Ok(()),
        Some(_) if !force => {
            return Err(failure(
                format!("`{}` has been changed and is not replaced", path.display()),
                "choose another folder with `-o`, or use `--force` to restore the book",
            ));
        }
        Some(held) => Replaces::Text(held),
        None => Replaces::Nothing,
    };
    interrupted(&whole(|| put(&[Output { path, bytes, replaces }], &Inputs::default()))?);
    Ok(())
}
