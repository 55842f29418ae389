/// The first moment after another at which the clock reaches an hour, as far as is known now, or never.
fn clock_strikes(run: &Run, hour: f64, after: f64) -> f64 {
    let speed = run.clock_rate * PACE;
    if speed == 0.0 {
        let far = run.clock_hour - run.clock_from;
        let way = if far > 12.0 { far - 24.0 } else if far < -12.0 { far + 24.0 } else { far };
        let left = hour_of(if way < 0.0 { run.clock_from - hour } else { hour - run.clock_from });
        let passed = left > 0.0 && left <= if way < 0.0 { -way } else { way };
        return if passed && run.clock_since > after { run.clock_since } else { NEVER };
    }
    let shown = run.clock_hour;
    let since = run.clock_since;
    let next = hour_of(if speed > 0.0 { hour - shown } else { shown - hour });
    let ahead = if next < 1e-9 { 24.0 } else { next };
    let pace = if speed > 0.0 { speed } else { -speed };
    let last = if after > since { after } else { since };
    let turns = round_down(((last - since) * pace - ahead) / 24.0);
    let whole = if turns > 0.0 { turns } else { 0.0 };
    let at = since + (ahead + 24.0 * whole) / pace;
    if at > last { at } else { since + (ahead + 24.0 * (whole + 1.0)) / pace }
}
