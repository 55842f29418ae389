//! `caltrin demo`

use std::path::PathBuf;

use caltrin::core::quantity::Seconds;
use caltrin::draw::{PlaceOptions, SheetOptions, place, png, sheet, svg};
use caltrin::export::prove::moments;
use caltrin::export::{TARGETS, export, write};

use super::prove::{outcomes, status, table};
use super::{Done, Status, cannot_write, failure, say, what_there_is, write_whole};
use crate::interrupt::whole;

/// Make the Saltgate pier: a lightbook, its picture, its code in four languages, and the proof.
#[derive(clap::Args)]
#[command(after_help = "Example:
  caltrin demo -o pier-demo")]
pub struct Arguments {
    /// The folder to make.
    #[arg(short, long, value_name = "FOLDER", default_value = "caltrin-demo")]
    output: PathBuf,
    /// Put the book back as it was, if you have changed it.
    #[arg(long)]
    force: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let folder = &arguments.output;
    std::fs::create_dir_all(folder).map_err(|e| cannot_write(folder, &e))?;
    let book = folder.join("pier.caltrin");
    let changed = std::fs::read_to_string(&book).is_ok_and(|text| text != caltrin::PIER);
    if changed && !arguments.force {
        return Err(failure(
            format!("`{}` has been changed and is left as it is", book.display()),
            "choose another folder with `-o`, or say `--force` to put the book back",
        ));
    }
    write_whole(&book, caltrin::PIER.as_bytes())?;
    for (name, bytes) in caltrin::SOUNDS {
        let path = folder.join(name);
        if let Some(parent) = path.parent() {
            std::fs::create_dir_all(parent).map_err(|e| cannot_write(parent, &e))?;
        }
        // A sound that has been replaced is left as it is, like all that is not ours.
        let other = std::fs::read(&path).is_ok_and(|known| known != bytes);
        if !other || arguments.force {
            write_whole(&path, bytes)?;
        }
    }
    let opened = caltrin::open(&book)?;
    crate::report::diagnostics(&opened);
    let Some(checked) = &opened.checked else { return Ok(Status::Problems) };
    say(format!("{}  the lightbook: {}", book.display(), what_there_is(checked)))?;
    say(format!("{}  its sounds", folder.join("sounds").display()))?;

    let picture = sheet(checked, &opened.findings, &SheetOptions::default());
    let (svg_path, png_path) = (folder.join("pier.svg"), folder.join("pier.png"));
    write_whole(&svg_path, svg(&picture).as_bytes())?;
    write_whole(&png_path, &png(&picture)?)?;
    say(format!("{}  its timeline (and pier.svg)", png_path.display()))?;
    let day_path = folder.join("pier-day.png");
    let day = SheetOptions { day: true, curves: false, ..SheetOptions::default() };
    write_whole(&day_path, &png(&sheet(checked, &opened.findings, &day))?)?;
    say(format!("{}  its day", day_path.display()))?;
    let place_path = folder.join("pier-place.png");
    let shown = vec![Seconds(0.6).into()];
    let lit = place(checked, &PlaceOptions { moments: shown, ..PlaceOptions::default() });
    write_whole(&place_path, &png(&lit)?)?;
    say(format!("{}  the lit place", place_path.display()))?;

    let files: Vec<_> =
        TARGETS.iter().map(|target| export(checked, &opened.notes, *target)).collect();
    for path in whole(|| write(&folder.join("code"), &files, arguments.force))? {
        say(path.display())?;
    }

    say("\nThe code, compiled and run, against the preview, bit by bit:")?;
    let outcomes = outcomes(checked, &opened.notes, &TARGETS, &moments(checked, 100_000), None)?;
    table(&outcomes)?;

    let book = book.display();
    say(format!(
        "\nNow change a number in {book} and look again:\n  \
         caltrin check {book}\n  \
         caltrin live {book}\n  \
         caltrin day {book} --variant season=80 --variant season=172\n  \
         caltrin sheet {book} --terminal"
    ))?;
    Ok(status(&outcomes, false))
}
