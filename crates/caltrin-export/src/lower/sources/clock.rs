/// Hours from the midnight of the day on which the clock was last set.
fn clock_hours(run: &Run) -> f64 {
    run.clock_hour + (run.now - run.clock_since) * (run.clock_rate * PACE)
}

/// Hour of the game's clock, 0 to 24 (24 excluded).
pub fn clock_hour(run: &Run) -> f64 {
    hour_of(clock_hours(run))
}

/// How many days have begun on the clock since the run's first, which is 0; below 0 before it.
pub fn clock_days(run: &Run) -> f64 {
    clamp(run.clock_days + days_of(clock_hours(run)), -MOST_DAYS, MOST_DAYS)
}

/// Sets the clock to an hour of the current day. It keeps its rate.
pub fn set_clock(run: &mut Run, hour: f64) {
    run.clock_days = clock_days(run);
    run.clock_hour = hour_of(clean_input(hour, -MOST_DAYS, MOST_DAYS, START));
    if STRIKES {
        run.clock_from = run.clock_hour;
    }
    run.clock_since = run.now;
    if HAPPENS {
        run.due = run.now;
    }
    if BY_HOUR {
        by_hour(run);
    }
}

/// Moves the clock to an hour, the shorter way around, and holds it there: for a game with a clock of its own.
pub fn drive_clock(run: &mut Run, hour: f64) {
    let to = hour_of(clean_input(hour, -MOST_DAYS, MOST_DAYS, START));
    let from = clock_hour(run);
    let way = to - from;
    let midnight = if way > 12.0 { -1.0 } else if way < -12.0 { 1.0 } else { 0.0 };
    run.clock_days = clamp(clock_days(run) + midnight, -MOST_DAYS, MOST_DAYS);
    if STRIKES {
        run.clock_from = from;
    }
    run.clock_hour = to;
    run.clock_since = run.now;
    if HAPPENS {
        run.due = run.now;
    }
    run.clock_rate = 0.0;
    if FOLLOWS {
        settle(run);
    }
}

/// Sets how many days the clock has counted, rounded down.
pub fn set_clock_days(run: &mut Run, days: f64) {
    run.clock_hour = clock_hour(run);
    if STRIKES {
        run.clock_from = run.clock_hour;
    }
    run.clock_days = round_down(clean_input(days, -MOST_DAYS, MOST_DAYS, 0.0));
    run.clock_since = run.now;
    if HAPPENS {
        run.due = run.now;
    }
}

/// Sets the rate of the clock: 1 as in the book, 0 stops it, below 0 it runs backward; -1e6 to 1e6.
pub fn set_clock_rate(run: &mut Run, rate: f64) {
    let hour = clock_hour(run);
    run.clock_days = clock_days(run);
    run.clock_hour = hour;
    if STRIKES {
        run.clock_from = hour;
    }
    run.clock_since = run.now;
    if HAPPENS {
        run.due = run.now;
    }
    run.clock_rate = clean_input(rate, -1e6, 1e6, RATE);
}
