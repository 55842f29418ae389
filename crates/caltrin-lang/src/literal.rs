//! Literals: numbers with units, hours, colors.

use caltrin_core::color::{COLDEST, HOTTEST, Rgb};
use caltrin_core::kind::{Kind, Photometry};
use caltrin_core::program::Constant;
use caltrin_core::quantity::Kelvin;

/// A literal's value, or an error with a suggestion.
pub(crate) type Read = Result<(Constant, Kind), Fault>;

/// An error in a literal.
#[derive(Debug, PartialEq)]
pub(crate) struct Fault {
    pub message: String,
    pub help: Option<String>,
}

fn fault(message: impl Into<String>, help: Option<String>) -> Fault {
    Fault { message: message.into(), help }
}

/// Units with their kind and size in the base unit.
const UNITS: [(&str, Kind, f64); 14] = [
    ("%", Kind::Number, 0.01),
    ("ms", Kind::Time, 0.001),
    ("us", Kind::Time, 0.000_001),
    ("s", Kind::Time, 1.0),
    ("min", Kind::Time, 60.0),
    ("h", Kind::Time, 3600.0),
    ("Hz", Kind::Rate, 1.0),
    ("deg", Kind::Angle, 1.0),
    ("cm", Kind::Length, 0.01),
    ("m", Kind::Length, 1.0),
    ("lm", Kind::Strength(Photometry::Lumen), 1.0),
    ("cd", Kind::Strength(Photometry::Candela), 1.0),
    ("lx", Kind::Strength(Photometry::Lux), 1.0),
    ("K", Kind::Color, 1.0),
];

/// Splits `450ms` into number and unit.
pub(crate) fn split(text: &str) -> (&str, &str) {
    let bytes = text.as_bytes();
    let mut end = 0;
    while end < bytes.len() {
        let exponent = matches!(bytes[end], b'e' | b'E')
            && bytes[end + 1..]
                .iter()
                .find(|b| !matches!(b, b'+' | b'-'))
                .is_some_and(u8::is_ascii_digit)
            && bytes.get(end + 1).is_some_and(|b| !b.is_ascii_alphabetic());
        if exponent {
            end += 2;
        } else if bytes[end].is_ascii_digit() || matches!(bytes[end], b'.' | b'_') {
            end += 1;
        } else {
            break;
        }
    }
    text.split_at(end.min(text.len()))
}

/// The size of a unit in the base unit of its kind.
pub(crate) fn unit_size(unit: &str) -> Option<f64> {
    UNITS.iter().find(|(name, ..)| *name == unit).map(|(.., size)| *size)
}

/// All units.
pub(crate) fn units() -> impl Iterator<Item = &'static str> {
    UNITS.iter().map(|(name, ..)| *name)
}

/// A number with a unit.
pub(crate) fn number(text: &str) -> Read {
    let (digits, unit) = split(text);
    let plain: String = digits.chars().filter(|c| *c != '_').collect();
    let value: f64 = plain.parse().map_err(|_| fault(format!("`{text}` is not a number"), None))?;
    if !value.is_finite() {
        return Err(fault(
            format!("`{text}` is too large for a number"),
            Some("numbers go up to about 1.8e308".to_owned()),
        ));
    }
    if unit.is_empty() {
        return Ok((Constant::Scalar(value), Kind::Number));
    }
    let Some((name, kind, size)) = UNITS.iter().find(|(name, ..)| *name == unit) else {
        let same = UNITS.iter().find(|(name, ..)| name.eq_ignore_ascii_case(unit));
        let near = same
            .map(|(name, ..)| *name)
            .or_else(|| crate::words::nearest(unit, UNITS.iter().map(|(name, ..)| *name)));
        let help = near
            .map(|near| format!("did you mean `{digits}{near}`?"))
            .filter(|_| !matches!(unit, "am" | "pm"))
            .or_else(|| {
                matches!(unit, "am" | "pm")
                    .then(|| "an hour is written `06:00` or `18:00`".to_owned())
            })
            .or_else(|| Some("units are % ms s min h Hz deg cm m lm cd lx K".to_owned()));
        return Err(fault(format!("there is no unit `{unit}`"), help));
    };
    if *name == "K" {
        if !(COLDEST.0..=HOTTEST.0).contains(&value) {
            return Err(fault(
                format!("`{text}` is not a color temperature of a lamp"),
                Some(format!("color temperatures go from {COLDEST} to {HOTTEST}")),
            ));
        }
        return Ok((Constant::Vector(Rgb::from_kelvin(Kelvin(value)).0), Kind::Color));
    }
    // Decimal text such as `60ms` or `85%` is moved by its digits, not multiplied, so that it
    // comes out as the nearest number to 0.06 or 0.85.
    let shift = match *name {
        "%" | "cm" => Some("e-2"),
        "ms" => Some("e-3"),
        "us" => Some("e-6"),
        _ => None,
    };
    let exact = match shift {
        Some(shift) if !plain.contains(['e', 'E']) => {
            format!("{plain}{shift}").parse().unwrap_or(value * size)
        }
        _ => value * size,
    };
    if !exact.is_finite() {
        return Err(fault(format!("`{text}` is too large for a number"), None));
    }
    Ok((Constant::Scalar(exact), *kind))
}

/// `#rrggbb`.
pub(crate) fn hash_color(text: &str) -> Read {
    let digits = &text[1..];
    let valid = digits.len() == 6 && digits.bytes().all(|b| b.is_ascii_hexdigit());
    let parsed = u32::from_str_radix(digits, 16).ok().filter(|_| valid);
    let Some(rgb) = parsed else {
        let help =
            (digits.len() == 3 && digits.bytes().all(|b| b.is_ascii_hexdigit())).then(|| {
                let doubled: String = digits.chars().flat_map(|c| [c, c]).collect();
                format!("did you mean `#{doubled}`?")
            });
        let alpha = digits.len() == 8 && digits.bytes().all(|b| b.is_ascii_hexdigit());
        let help = help.or_else(|| {
            alpha.then(|| {
                format!(
                    "a light has no alpha: write `#{}` and dim it by its intensity",
                    &digits[..6]
                )
            })
        });
        return Err(fault(
            format!("`{text}` is not a color; a color is `#` and six hex digits"),
            help,
        ));
    };
    let [_, r, g, b] = rgb.to_be_bytes();
    Ok((Constant::Vector(Rgb::from_srgb8(r, g, b).0), Kind::Color))
}

/// `color(srgb-linear 0.1 0.2 0.3)`.
pub(crate) fn color_call(text: &str) -> Read {
    let inside = text.split_once('(').map_or("", |(_, inside)| inside);
    let inside = inside.trim_end().trim_end_matches(')');
    let mut words = inside.split_whitespace();
    let wrong = || {
        let example = "color(srgb-linear 0.1 0.2 0.3)";
        let help = rewritten(inside).unwrap_or_else(|| format!("write it as `{example}`"));
        fault(format!("`{text}` is not a color"), Some(help))
    };
    if words.next() != Some("srgb-linear") {
        return Err(wrong());
    }
    let parts: Vec<&str> = words.collect();
    let numbers: Vec<f64> = parts.iter().filter_map(|w| w.parse().ok()).collect();
    match numbers[..] {
        _ if parts.iter().any(|part| !part.starts_with(|c: char| c.is_ascii_digit())) => {
            Err(wrong())
        }
        [r, g, b] if parts.len() == 3 && [r, g, b].iter().all(|v| (0.0..=1.0).contains(v)) => {
            Ok((Constant::Vector([r, g, b]), Kind::Color))
        }
        _ => Err(wrong()),
    }
}

/// Formats a color from three numbers: 0 to 1 in linear light, 0 to 255 in sRGB.
pub(crate) fn color_of([a, b, c]: [&str; 3], values: [f64; 3]) -> Option<String> {
    let within = |most: f64| values.iter().all(|v| (0.0..=most).contains(v));
    match (within(1.0), within(255.0)) {
        (true, _) => Some(format!("color(srgb-linear {a} {b} {c})")),
        (false, true) => Some(format!("rgb({a} {b} {c})")),
        (false, false) => None,
    }
}

/// The suggestion for a color of these numbers, if there are three, or four with an alpha.
fn rewritten(inside: &str) -> Option<String> {
    let words = inside.split(|c: char| c.is_whitespace() || c == ',' || c == '/');
    let words: Vec<&str> =
        words.filter(|word| !word.is_empty() && *word != "srgb-linear").collect();
    let numbers: Vec<f64> = words.iter().filter_map(|word| word.parse().ok()).collect();
    if numbers.len() != words.len() || !(3..=4).contains(&numbers.len()) {
        return None;
    }
    let color = color_of([words[0], words[1], words[2]], [numbers[0], numbers[1], numbers[2]])?;
    Some(match words.len() {
        3 => format!("write `{color}`"),
        _ => format!("a light has no alpha: write `{color}` and dim it by its intensity"),
    })
}

/// An hour of the clock, or a span of it.
pub(crate) fn hour(text: &str) -> Read {
    let parts: Vec<&str> = text.split(':').collect();
    if parts[0].len() == 1 {
        return Err(fault(
            format!("`{text}` is not an hour; hours have two digits"),
            Some(format!("did you mean `0{text}`?")),
        ));
    }
    let value = |n: usize| parts.get(n).and_then(|p| p.parse::<u32>().ok()).unwrap_or(99);
    let (hours, minutes) = (value(0), value(1));
    let seconds = if parts.len() > 2 { value(2) } else { 0 };
    if (hours, minutes, seconds) == (24, 0, 0) {
        return Err(fault(
            format!("`{text}` is not an hour; a day ends at 23:59:59"),
            Some("did you mean `00:00`?".to_owned()),
        ));
    }
    let two_digits = parts.iter().all(|part| part.len() == 2);
    if hours > 23 || minutes > 59 || seconds > 59 || !two_digits {
        return Err(fault(
            format!("`{text}` is not an hour"),
            Some("hours go from `00:00` to `23:59:59`".to_owned()),
        ));
    }
    let hours = f64::from(hours * 3600 + minutes * 60 + seconds) / 3600.0;
    Ok((Constant::Scalar(hours), Kind::Hour))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn scalar(text: &str) -> (f64, Kind) {
        match number(text) {
            Ok((Constant::Scalar(v), kind)) => (v, kind),
            other => panic!("{text}: {other:?}"),
        }
    }

    #[test]
    fn units_come_out_in_their_base_unit() {
        assert_eq!(scalar("85%"), (0.85, Kind::Number));
        assert_eq!(scalar("20_000lm"), (20_000.0, Kind::Strength(Photometry::Lumen)));
        assert_eq!(scalar("60ms"), (0.06, Kind::Time));
        assert_eq!(scalar("1.5min"), (90.0, Kind::Time));
        assert_eq!(scalar("3cm"), (0.03, Kind::Length));
        assert_eq!(scalar("1e3m"), (1000.0, Kind::Length));
        assert_eq!(scalar("2e-3s"), (0.002, Kind::Time));
    }

    #[test]
    fn a_wrong_unit_is_told_with_the_nearest_right_one() {
        assert_eq!(number("3hz").unwrap_err().help.unwrap(), "did you mean `3Hz`?");
        assert_eq!(number("3mss").unwrap_err().help.unwrap(), "did you mean `3ms`?");
        assert!(number("1e999lm").unwrap_err().message.contains("too large"));
        assert!(number("90000K").unwrap_err().help.unwrap().contains("1000K to 40000K"));
        assert_eq!(hash_color("#fa3").unwrap_err().help.unwrap(), "did you mean `#ffaa33`?");
        assert_eq!(hour("6:10").unwrap_err().help.unwrap(), "did you mean `06:10`?");
        assert_eq!(hour("24:00").unwrap_err().help.unwrap(), "did you mean `00:00`?");
    }

    #[test]
    fn hours_have_two_digits_a_part_and_end_before_24() {
        assert_eq!(hour("06:15"), Ok((Constant::Scalar(6.25), Kind::Hour)));
        assert_eq!(hour("23:59:59").unwrap().0, Constant::Scalar(86_399.0 / 3600.0));
        for wrong in ["25:61", "06:1", "06:60", "06:10:60", "006:10", "24:00:01", "06:10:1"] {
            assert!(hour(wrong).is_err(), "{wrong}");
        }
    }

    #[test]
    fn css_colors_are_read_as_css_says() {
        assert_eq!(
            color_call("color(srgb-linear 0.1 0.2 0.3)").unwrap().0,
            Constant::Vector([0.1, 0.2, 0.3])
        );
        assert!(color_call("color(srgb-linear 0.1 0.2)").is_err());
        assert!(color_call("color(srgb-linear 0.1 0.2 1.3)").is_err());
    }
}
