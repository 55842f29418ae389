//! A third place, with each part of the language in it: an open-air bath on the last evening of the year. Opens the book with what it
//! uses and hears, plays its rehearsal, and draws the place from above, the rehearsal and the day.
//!
//! `cargo run --release -p caltrin --example lido -- FOLDER`

use std::error::Error;
use std::path::PathBuf;

use caltrin::core::quantity::Seconds;
use caltrin::core::rehearsal::rehearse;
use caltrin::draw::{PlaceOptions, SheetOptions, When, place, png, sheet};

fn main() -> Result<(), Box<dyn Error>> {
    let book = concat!(env!("CARGO_MANIFEST_DIR"), "/books/lido.caltrin");
    let opened = caltrin::open(book.as_ref())?;
    let checked = opened.checked.ok_or("the book has mistakes")?;
    let program = checked.program();
    let rehearsal = program.rehearsals().first().ok_or("the book has no rehearsal")?;
    let met = rehearse(&checked, rehearsal, program.seed());
    for (expected, unmet) in rehearsal.expectations.iter().zip(met) {
        let told = if unmet.is_none() { "ok" } else { "not so" };
        println!("{:>6} s  {told:6}  {}", expected.from.0, expected.words);
    }

    let given = std::env::args().nth(1).map(PathBuf::from);
    let folder = given.unwrap_or_else(|| std::env::temp_dir().join("caltrin-lido"));
    std::fs::create_dir_all(&folder)?;
    let evening = SheetOptions {
        to: Some(rehearsal.end),
        rehearsal: Some(0),
        curves: false,
        ..SheetOptions::default()
    };
    let day = SheetOptions { day: true, curves: false, ..SheetOptions::default() };
    let above = PlaceOptions {
        moments: vec![When::from(Seconds(5.0))],
        rehearsal: Some(0),
        ..PlaceOptions::default()
    };
    for (name, picture) in [
        ("gala.png", sheet(&checked, &opened.findings, &evening)),
        ("day.png", sheet(&checked, &opened.findings, &day)),
        ("place.png", place(&checked, &above)),
    ] {
        let path = folder.join(name);
        std::fs::write(&path, png(&picture)?)?;
        println!("{}", path.display());
    }
    Ok(())
}
