//! A second place: a sleeping train beside a small harbor. Reads the book, tells what the checks say,
//! and draws its timeline and the forty windows alone.
//!
//! `cargo run --release -p caltrin --example siding -- FOLDER`

use std::error::Error;
use std::path::PathBuf;

use caltrin::core::program::Size;
use caltrin::core::quantity::Seconds;
use caltrin::draw::{SheetOptions, png, sheet};

const SIDING: &str = include_str!("../books/siding.caltrin");

fn main() -> Result<(), Box<dyn Error>> {
    let opened = caltrin::read(SIDING, "siding.caltrin");
    for told in &opened.diagnostics {
        println!("{}", told.message);
    }
    let checked = opened.checked.ok_or("the book has mistakes")?;
    for (id, light) in checked.program().lights() {
        let lamps = match light.size {
            Size::One => String::new(),
            Size::Many(n) => format!("[{n}]"),
            Size::Open => "[]".to_owned(),
        };
        let level = light.level().and_then(|field| checked.bounds(id, field));
        let stays = level.map(|bounds| bounds.part(0));
        let range = stays.map_or(String::new(), |i| format!("stays in {:.2}..{:.2}", i.lo, i.hi));
        println!("{:24} {range}", format!("{}{lamps}", light.name));
    }

    let given = std::env::args().nth(1).map(PathBuf::from);
    let folder = given.unwrap_or_else(|| std::env::temp_dir().join("caltrin-siding"));
    std::fs::create_dir_all(&folder)?;
    let windows = checked.program().light_named("window");
    for (name, lights) in [("siding.png", None), ("windows.png", windows.map(|id| vec![id]))] {
        let to = Some(Seconds(24.0));
        let options = SheetOptions { to, lights, ..SheetOptions::default() };
        let path = folder.join(name);
        std::fs::write(&path, png(&sheet(&checked, &opened.findings, &options))?)?;
        println!("{}", path.display());
    }
    Ok(())
}
