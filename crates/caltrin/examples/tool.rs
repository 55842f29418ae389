//! What a tool does: lists the lights of a book, writes one number of its text again and nothing else, and draws the
//! timeline of both into memory.
//!
//! `cargo run --release -p caltrin --example tool`

use std::error::Error;

use caltrin::core::program::{Field, Subject};
use caltrin::draw::{SheetOptions, png, sheet};

fn main() -> Result<(), Box<dyn Error>> {
    let opened = caltrin::read(caltrin::PIER, "pier.caltrin");
    let checked = opened.checked.as_ref().ok_or("the book has mistakes")?;
    for (_, light) in checked.program().lights() {
        println!("{} {}", light.name, light.size.shown());
    }
    let mast = checked.program().light_named("mast").ok_or("there is no mast")?;
    let strength = Subject::Drive(mast, Field::Intensity);
    let text = opened.with_number(strength, 0, "5200lm").ok_or("it has no number")?;
    let dimmer = caltrin::read(&text, "pier.caltrin").checked.ok_or("that number does not fit")?;
    for book in [checked, &dimmer] {
        let picture = png(&sheet(book, &[], &SheetOptions::default()))?;
        println!("a picture of {} bytes", picture.len());
    }
    Ok(())
}
