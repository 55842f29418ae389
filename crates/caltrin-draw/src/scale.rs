//! Round numbers for rulers and labels.

/// The step between ticks so that there are at most `most`: 1, 2 or 5 times a power of ten.
pub(crate) fn step(span: f64, most: usize) -> f64 {
    let rough = span / most.max(1) as f64;
    let power = power_of_ten(rough);
    [1.0, 2.0, 5.0, 10.0].iter().map(|n| n * power).find(|s| *s >= rough).unwrap_or(10.0 * power)
}

fn power_of_ten(rough: f64) -> f64 {
    let mut power = 1.0;
    while power > rough {
        power /= 10.0;
    }
    while power * 10.0 <= rough {
        power *= 10.0;
    }
    power
}

/// The hours between ticks of a day of this width, so that each tick has the given space.
pub(crate) fn hours(width: f32, room: f32) -> f64 {
    let fits = |step: &f64| width as f64 * step / 24.0 >= f64::from(room);
    [1.0, 2.0, 3.0, 6.0].into_iter().find(fits).unwrap_or(12.0)
}

/// Formats a number with three or four digits, without trailing zeros: `6944`, `12.4`, `0.33`.
pub(crate) fn short(v: f64) -> String {
    let size = v.abs();
    let places = match size {
        s if s >= 1000.0 => 0,
        s if s >= 100.0 => 1,
        s if s >= 1.0 => 2,
        _ => 3,
    };
    let text = format!("{v:.places$}");
    if text.contains('.') {
        let text = text.trim_end_matches('0').trim_end_matches('.');
        if text == "-0" { "0".to_owned() } else { text.to_owned() }
    } else {
        text
    }
}

/// Formats a number with its unit; a ratio without a unit is in percent, `-` is a number without a
/// unit.
pub(crate) fn with_unit(v: f64, unit: &str) -> String {
    match unit {
        "" => format!("{}%", short(v * 100.0)),
        "-" => short(v),
        unit => format!("{} {unit}", short(v)),
    }
}

/// Formats the lower end of a range, whose unit is at the upper end.
pub(crate) fn short_pair(lo: f64, unit: &str) -> String {
    if unit.is_empty() { short(lo * 100.0) } else { short(lo) }
}

/// Formats a time on a ruler: `12 s`, `1:30 min`.
pub(crate) fn moment(v: f64, step: f64) -> String {
    if step >= 60.0 || v.abs() >= 600.0 {
        let whole = v.abs().round() as u64;
        let sign = if v < 0.0 { "-" } else { "" };
        return format!("{sign}{}:{:02} min", whole / 60, whole % 60);
    }
    format!("{} s", short((v * 1e6).round() / 1e6))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rulers_have_round_steps() {
        assert_eq!(step(20.0, 12), 2.0);
        assert_eq!(step(60.0, 12), 5.0);
        assert!((step(0.003, 12) - 0.0005).abs() < 1e-12);
        assert_eq!(short(6944.2), "6944");
        assert_eq!(short(0.33), "0.33");
        assert_eq!(short(12.40), "12.4");
        assert_eq!(moment(90.0, 60.0), "1:30 min");
        assert_eq!(moment(0.30000000000000004, 0.1), "0.3 s");
    }
}
