//! What a diagnostic's help can write into the text.

use std::ops::Range;

use crate::diagnostic::Diagnostic;

/// A change that an editor can offer for a diagnostic.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Action {
    /// What it does, as a menu entry.
    pub title: String,
    /// The index of the text.
    pub source: usize,
    /// The bytes that are replaced.
    pub range: Range<usize>,
    /// What replaces them.
    pub text: String,
}

/// The changes that a diagnostic suggests: the word that was probably meant, the form to write, or
/// what to remove.
pub fn actions(diagnostic: &Diagnostic, text: &str) -> Vec<Action> {
    let (range, source) = (diagnostic.range(), diagnostic.source());
    let Some(help) = &diagnostic.help else { return Vec::new() };
    let Some(found) = text.get(range.clone()) else { return Vec::new() };
    let quoted = |after: &str| {
        let rest = help.split_once(after)?.1;
        let (quoted, _) = rest.split_once('`')?;
        Some(quoted.to_owned())
    };
    let mut all = Vec::new();
    if let Some(meant) = quoted("did you mean `") {
        let title = format!("Write `{meant}`");
        all.push(Action { title, source, range: range.clone(), text: meant });
    } else if let Some(form) = help.strip_prefix("write `").and_then(|rest| rest.strip_suffix('`'))
        && replaces(found, form)
    {
        let title = format!("Write `{form}`");
        all.push(Action { title, source, range: range.clone(), text: form.to_owned() });
    } else if help == "remove it" || help == "remove `from`" {
        let mut start = range.start;
        if help == "remove `from`" {
            let before = text[..start].trim_end();
            start = before.strip_suffix("from").map_or(start, str::len);
        }
        let start = text[..start].trim_end_matches([' ', '\t']).len();
        let title = "Remove it".to_owned();
        all.push(Action { title, source, range: start..range.end, text: String::new() });
    }
    all
}

/// Whether a form stands for the very words that were found: it starts with the same word, or is a
/// color or number where one stood.
fn replaces(found: &str, form: &str) -> bool {
    let word = |text: &str| -> String {
        text.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect()
    };
    let same = !word(found).is_empty() && word(found) == word(form);
    let literal = |text: &str| text.starts_with(|c: char| c == '#' || c.is_ascii_digit());
    same || literal(found) && literal(form)
}
