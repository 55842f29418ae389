//! A lightbook without text: the lights of a cable ferry's landing, made with the builder, seen as a
//! picture and handed over as C.
//!
//! `cargo run --release -p caltrin --example built_in_rust -- FOLDER`

use std::error::Error;
use std::path::PathBuf;

use caltrin::core::SourceNotes;
use caltrin::core::build::{Book, Light, angle, held, kelvin, lumens, meters, number, point};
use caltrin::core::curve::Easing;
use caltrin::core::program::Start;
use caltrin::core::quantity::{Degrees, Seconds, Seed, ms};
use caltrin::draw::{SheetOptions, sheet, svg};
use caltrin::export::{export, target_named};
use caltrin::files::{Inputs, put_exported};

fn main() -> Result<(), Box<dyn Error>> {
    let mut book = Book::new("Cable ferry", Seed(12));
    // The winch draws on the lamps' battery while it pulls.
    let pull = book.curve(
        "pull",
        [
            (Seconds(0.0), 1.0, Easing::Linear),
            (Seconds(2.3), 0.7, Easing::Smooth),
            (Seconds(9.1), 0.75, Easing::Linear),
            (Seconds(10.4), 1.0, Easing::Smooth),
        ],
    );
    let battery = book.signal("battery", pull.looped(Start::Together));
    let worn = book.behavior("worn", |b| {
        let floor = b.parameter("floor", number(0.9));
        held(floor, number(1.0), ms(40.0)..=ms(310.0))
    });
    book.light(
        Light::spot("ramp")
            .many(3)
            .row(point(0.0, 4.0, 0.0), point(3.0, 0.0, 0.0))
            .cone(angle(Degrees(30.0)), angle(Degrees(70.0)))
            .reach(meters(1.0), meters(11.0))
            .color(kelvin(3000.0))
            .intensity(lumens(900.0) * worn.call().value() * battery.clone()),
    );
    book.light(
        Light::point("winch_house")
            .color(kelvin(2200.0))
            .intensity(lumens(320.0) * worn.call().with("floor", number(0.6)).value() * battery),
    );
    let checked = book.check().map_err(|refused| {
        refused.iter().map(ToString::to_string).collect::<Vec<_>>().join("\n")
    })?;

    let given = std::env::args().nth(1).map(PathBuf::from);
    let folder = given.unwrap_or_else(|| std::env::temp_dir().join("caltrin-built-in-rust"));
    std::fs::create_dir_all(&folder)?;
    let picture = folder.join("cable_ferry.svg");
    std::fs::write(&picture, svg(&sheet(&checked, &[], &SheetOptions::default())))?;
    println!("{}", picture.display());
    let c = target_named("c").ok_or("C is a target")?;
    let code = [export(&checked, &SourceNotes::default(), c)];
    let (paths, _) = put_exported(&folder, &code, &Inputs::default(), true)?;
    for path in paths {
        println!("{}", path.display());
    }
    Ok(())
}
