//! The Saltgate pier through a day: the clock is set, driven, run backwards and ten thousand times as
//! fast, and the light is right at once.
//!
//!     cargo run --release -p caltrin --example hours

use caltrin::core::Run;
use caltrin::core::quantity::{Hours, Seconds};

fn main() {
    let opened = caltrin::read(caltrin::PIER, "pier.caltrin");
    let checked = opened.checked.expect("the demo is good");
    let program = checked.program();
    let id = |name: &str| program.light_named(name).expect("the pier has it");
    let (mast, sunlight, stars) = (id("mast"), id("sunlight"), id("stars"));
    let mut run = Run::new(&checked);
    let tell = |run: &mut Run<'_>, what: &str| {
        let shown = run.clock().expect("the pier has a clock");
        let mut level = |light| {
            let mut lamp = vec![0.0; run.width(light)];
            run.read(light, 0, &mut lamp);
            lamp[0]
        };
        let (mast, sunlight, stars) = (level(mast), level(sunlight), level(stars));
        println!(
            "day {:>3}, {}  mast {mast:>6.0} lm, sunlight {sunlight:>6.0} lx, stars {:>3.0}%   {what}",
            shown.days,
            shown.hour.to_clock(),
            stars * 100.0
        );
    };
    tell(&mut run, "as the book starts");
    for hour in [3.0, 7.5, 12.0, 16.0, 20.0] {
        run.set_clock(Hours(hour));
        tell(&mut run, "set");
    }
    // A game with a clock of its own says the hour each frame; midnight is counted.
    for hour in [23.9, 0.1, 6.0] {
        run.drive_clock(Hours(hour));
        tell(&mut run, "driven");
    }
    run.set_clock_rate(-1.0);
    run.advance(Seconds(600.0));
    tell(&mut run, "ten minutes backwards");
    run.set_clock_rate(10_000.0);
    run.advance(Seconds(660.0));
    tell(&mut run, "a minute at ten thousand times");
}
