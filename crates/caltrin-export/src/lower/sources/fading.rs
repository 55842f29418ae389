/// How much an option counts now, 0 to 1.
fn weight(run: &Run, option: u32) -> f64 {
    let to = if option == run.chosen { 1.0 } else { 0.0 };
    faded(run.from[option], to, run.since, OVER, run.now)
}

/// ABOUT
pub fn set(run: &mut Run, option: u32) {
    if outside(option, COUNT) || option == run.chosen {
        return;
    }
    for n in 0..COUNT {
        run.from[n] = weight(run, n);
    }
    run.since = run.now;
    run.chosen = option;
    if HAPPENS {
        run.due = run.now;
    }
    if FOLLOWS {
        settle(run);
    }
}
