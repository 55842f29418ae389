//! Text that others see as it is.

use std::borrow::Cow;

/// Whether a character is seen as nothing and changes what is seen around it: controls, and marks and overrides of the
/// direction of writing.
pub fn is_hidden(c: char) -> bool {
    c.is_control()
        || matches!(
            c,
            '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{2028}' | '\u{2029}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}'
        )
}

/// A text with a sign in place of each such character, so that what is read is what stands there. Line ends and tabs
/// stay.
pub fn shown(text: &str) -> Cow<'_, str> {
    let hides = |c: char| is_hidden(c) && c != '\n' && c != '\t';
    match text.contains(hides) {
        false => Cow::Borrowed(text),
        true => Cow::Owned(text.chars().map(|c| if hides(c) { '\u{fffd}' } else { c }).collect()),
    }
}
