//! Opens a lightbook and plays it as a game would: a frame at a time, reading what it needs.
//!
//! `cargo run --release -p caltrin --example frame_loop`

use std::error::Error;

use caltrin::core::Run;
use caltrin::core::quantity::Seconds;

fn main() -> Result<(), Box<dyn Error>> {
    let opened = caltrin::read(caltrin::PIER, "pier.caltrin");
    let checked = opened.checked.ok_or("the book has mistakes")?;
    let mast = checked.program().light_named("mast").ok_or("there is no mast")?;
    let weld = checked.program().light_named("weld").ok_or("there is no weld")?;

    let mut run = Run::new(&checked);
    let mut masts = vec![0.0; run.width(mast) * 8];
    let mut arc = vec![0.0; run.width(weld)];
    println!("seconds   the eight masts, in lumens                        weld, in lumens");
    // Uneven frames, and one of more than a second: what is read depends on the moment alone.
    for seconds in [0.0, 0.016, 0.041, 0.05, 1.4, 1.416, 2.0, 86_400.0] {
        run.advance(Seconds(seconds));
        run.read(mast, 0, &mut masts);
        run.read(weld, 0, &mut arc);
        // The intensity comes first; `caltrin::core::trace::headings` names all columns.
        let lamps: Vec<String> =
            masts.chunks(run.width(mast)).map(|lamp| format!("{:.0}", lamp[0])).collect();
        println!("{seconds:7.3}   {}   {:.0}", lamps.join("  "), arc[0]);
    }
    Ok(())
}
