//! Values as text, in the notation of the text that they replace.

use caltrin_core::color::Rgb;
use caltrin_core::kind::Kind;
use caltrin_core::program::Constant;

use super::EditError;
use crate::{colors, literal};

/// A number in base units (1 for 100%, seconds, meters ...) with the unit of the literal that it
/// replaces: 0.075 is `75ms` where `60ms` stood, `0.075s` where `1s` stood. At most six significant
/// digits, unless `exact` wants the nearest number.
///
/// # Errors
/// If the literal is not a number with a unit of `kind`, or the number is not finite or negative.
pub fn number_as_written(literal: &str, value: f64, exact: bool) -> Result<String, EditError> {
    if !value.is_finite() || value < 0.0 {
        return Err(EditError::Invalid(format!("{value} cannot be written as a number here")));
    }
    let Ok((Constant::Scalar(now), _)) = literal::number(literal) else {
        return Err(EditError::Missing("number"));
    };
    // What has this value already stays as it is written.
    if now == value {
        return Ok(literal.to_owned());
    }
    let (_, unit) = literal::split(literal);
    let size = literal::unit_size(unit).unwrap_or(1.0);
    let written = value / size;
    let digits = match exact {
        // Division may have rounded: what is read again must be the very number.
        true => {
            let plain = format!("{written}");
            let same = |digits: &str| matches!(literal::number(&format!("{digits}{unit}")), Ok((Constant::Scalar(v), _)) if v == value);
            match same(&plain) {
                true => plain,
                false => [15, 16, 17]
                    .map(|digits| rounded(written, digits))
                    .into_iter()
                    .find(|digits| same(digits))
                    .unwrap_or(plain),
            }
        }
        false => rounded(written, 6),
    };
    Ok(format!("{digits}{unit}"))
}

/// How much one of a literal's unit is in base units: 0.01 for `80%`, 0.001 for `60ms`, 1 for a number
/// without a unit.
pub fn unit_size(literal: &str) -> f64 {
    literal::unit_size(literal::split(literal).1).unwrap_or(1.0)
}

/// A number with so many significant digits, without an exponent and without zeros at its end.
fn rounded(value: f64, digits: usize) -> String {
    if value == 0.0 {
        return "0".to_owned();
    }
    let scientific = format!("{value:.*e}", digits.saturating_sub(1));
    let plain: f64 = scientific.parse().unwrap_or(value);
    format!("{plain}")
}

/// An hour of the day as `hh:mm`, with seconds if it has some.
pub(super) fn hour_as_written(hour: f64) -> Result<String, EditError> {
    let seconds = (hour * 3600.0).round();
    if !(0.0..86_400.0).contains(&seconds) {
        return Err(EditError::Invalid(format!("{hour} is not an hour of the day")));
    }
    let seconds = seconds as u32;
    let (h, m, s) = (seconds / 3600, seconds / 60 % 60, seconds % 60);
    Ok(if s == 0 { format!("{h:02}:{m:02}") } else { format!("{h:02}:{m:02}:{s:02}") })
}

/// A color, linear Rec. 709 from 0 to 1, as `#rrggbb`; one that is too dark for eight bits as
/// `color(srgb-linear ...)`.
pub fn color_as_written(color: Rgb) -> String {
    const DARK: f64 = 0.01;
    if color.brightest() > 0.0 && color.brightest() < DARK {
        let [r, g, b] = color.0.map(|part| rounded(part.clamp(0.0, 1.0), 4));
        return format!("color(srgb-linear {r} {g} {b})");
    }
    let [r, g, b] = color.to_srgb8();
    format!("#{r:02x}{g:02x}{b:02x}")
}

/// The kind and the value of a literal in base units; colors as linear Rec. 709.
pub(crate) fn read(text: &str) -> Option<(Constant, Kind)> {
    match text.as_bytes().first()? {
        b'#' => literal::hash_color(text).ok(),
        b'0'..=b'9' if text.contains(':') => literal::hour(text).ok(),
        b'0'..=b'9' => literal::number(text).ok(),
        _ if text == "on" || text == "off" => Some((Constant::OnOff(text == "on"), Kind::OnOff)),
        _ => {
            let [_, r, g, b] = colors::named(text)?.to_be_bytes();
            Some((Constant::Vector(Rgb::from_srgb8(r, g, b).0), Kind::Color))
        }
    }
}
