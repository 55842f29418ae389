//! What a tool does: lists the lights of a book, changes one number of its text and nothing else, and draws the timeline
//! of both into memory.
//!
//! `cargo run --release -p caltrin --example tool`

use std::error::Error;

use caltrin::core::program::{Field, Subject};
use caltrin::draw::{SheetOptions, png, sheet};
use caltrin::edit::Editor;

fn main() -> Result<(), Box<dyn Error>> {
    let opened = caltrin::read(caltrin::PIER, "pier.caltrin");
    let checked = opened.checked.as_ref().ok_or("the book has errors")?;
    for (_, light) in checked.program().lights() {
        println!("{} {}", light.name, light.size.shown());
    }
    let mast = checked.program().light_named("mast").ok_or("there is no mast")?;
    let strength = Subject::Drive(mast, Field::Intensity);
    let knobs = opened.knobs_of(strength).ok_or("it is not in the text")?;
    let knob = knobs.literals.iter().find(|knob| knob.unit == "lm").ok_or("it has no lumens")?;
    println!("{} is {} in {:?}", knob.path.join(" "), knob.text, knob.bounds);
    let edit = Editor::of(caltrin::PIER).set_number(knob.range.clone(), 5200.0)?;
    let text = edit.apply(caltrin::PIER)?;
    let dimmer = caltrin::read(&text, "pier.caltrin").checked.ok_or("that number does not fit")?;
    for book in [checked, &dimmer] {
        let picture = png(&sheet(book, &[], &SheetOptions::default()))?;
        println!("a picture of {} bytes", picture.len());
    }
    Ok(())
}
