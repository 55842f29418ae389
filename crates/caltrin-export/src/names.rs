//! Names from the book as legal, unique identifiers of a language.

use std::collections::{HashMap, HashSet};

use caltrin_core::text::is_hidden;
use serde::Deserialize;
use thiserror::Error;

/// The case styles of identifiers.
#[derive(Clone, Copy, Debug, Deserialize, PartialEq, Eq)]
#[serde(rename_all = "snake_case")]
pub enum Case {
    /// `fog_lamp`
    Snake,
    /// `fogLamp`
    Camel,
    /// `FogLamp`
    Pascal,
    /// `FOG_LAMP`
    Screaming,
}

/// A name as words in lower-case ASCII, before a language formats it.
///
/// Letters outside ASCII are replaced with their code (`ü` is `u00fc`). A name that starts with a
/// digit is prefixed with `n`. The result contains only letters, digits and `_`.
fn words(name: &str) -> Vec<String> {
    let mut words: Vec<String> = Vec::new();
    let mut word = String::new();
    let mut lower_before = false;
    for c in name.chars() {
        if c.is_ascii_alphanumeric() {
            if c.is_ascii_uppercase() && lower_before {
                words.push(std::mem::take(&mut word));
            }
            lower_before = c.is_ascii_lowercase() || c.is_ascii_digit();
            word.push(c.to_ascii_lowercase());
        } else if c.is_alphanumeric() {
            lower_before = true;
            word.push_str(&format!("u{:04x}", c as u32));
        } else {
            lower_before = false;
            words.push(std::mem::take(&mut word));
        }
    }
    words.push(word);
    words.retain(|word| !word.is_empty());
    if words.is_empty() {
        words.push("unnamed".to_owned());
    }
    if words[0].starts_with(|c: char| c.is_ascii_digit()) {
        words[0].insert(0, 'n');
    }
    words
}

fn capital(word: &str) -> String {
    let mut chars = word.chars();
    chars.next().map_or(String::new(), |c| c.to_ascii_uppercase().to_string() + chars.as_str())
}

/// A name in a case style: a legal identifier, but possibly taken or a key word.
pub fn cased(name: &str, case: Case) -> String {
    let words = words(name);
    match case {
        Case::Snake => words.join("_"),
        Case::Screaming => words.join("_").to_ascii_uppercase(),
        Case::Pascal => words.iter().map(|word| capital(word)).collect(),
        Case::Camel => {
            let rest: String = words[1..].iter().map(|word| capital(word)).collect();
            words[0].clone() + &rest
        }
    }
}

/// Names that an operating system reserves for devices, in any case and with any extension; some
/// exist with ten numbers.
const DEVICES: [&str; 4] = ["con", "prn", "aux", "nul"];
const PORTS: [&str; 2] = ["com", "lpt"];

/// A name as a portable file name without its extension: at most 60 letters, digits and `_`, not a
/// device name and not one of the `reserved` words.
pub fn file_stem<'r>(name: &str, reserved: impl IntoIterator<Item = &'r str>) -> String {
    let stem: String = cased(name, Case::Snake).chars().take(60).collect();
    let port = |port: &&str| {
        let number = stem.strip_prefix(port);
        number.is_some_and(|rest| rest.len() == 1 && rest.starts_with(|c: char| c.is_ascii_digit()))
    };
    let is_taken = DEVICES.contains(&stem.as_str())
        || PORTS.iter().any(port)
        || reserved.into_iter().any(|word| word == stem);
    if is_taken { format!("{stem}_lights") } else { stem }
}

/// The name of an exported file instead of its book's: the prefix of names in C, the namespace in
/// C#, the file name in Rust and JavaScript.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FilePrefix(String);

/// An error in a prefix.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum PrefixError {
    /// It contains other characters, or starts with a digit.
    #[error("a prefix starts with a letter, followed by letters, digits and `_`, 40 at most")]
    Letters,
    /// It is a reserved word in a language.
    #[error("`{0}` is a reserved word in {1}; choose another prefix")]
    Reserved(String, &'static str),
}

impl FilePrefix {
    /// Creates a prefix: a letter, then letters, digits and `_`, at most 40; not a reserved word in
    /// any language.
    pub fn new(text: &str) -> Result<FilePrefix, PrefixError> {
        let legal = |c: char| c.is_ascii_alphanumeric() || c == '_';
        let starts = text.starts_with(|c: char| c.is_ascii_alphabetic());
        if !starts || text.len() > 40 || text.ends_with('_') || !text.chars().all(legal) {
            return Err(PrefixError::Letters);
        }
        let [snake, pascal] = [Case::Snake, Case::Pascal].map(|case| cased(text, case));
        for target in crate::built_in() {
            if target.language().reserved().any(|word| word == snake || word == pascal) {
                return Err(PrefixError::Reserved(text.to_owned(), target.name()));
            }
        }
        Ok(FilePrefix(text.to_owned()))
    }

    /// Its text.
    pub fn text(&self) -> &str {
        &self.0
    }
}

/// A set of unique names.
#[derive(Clone, Debug, Default)]
pub struct Namer {
    taken: HashSet<String>,
    /// The next suffix of each name.
    next: HashMap<String, u32>,
}

impl Namer {
    /// Creates a set with names that are not available: key words, and names that the file uses
    /// itself.
    pub fn without<'a>(words: impl IntoIterator<Item = &'a str>) -> Self {
        let taken = words.into_iter().map(str::to_owned).collect();
        Namer { taken, next: HashMap::new() }
    }

    /// The name, with a number appended if it is a reserved word.
    pub fn avoiding<'r>(reserved: impl IntoIterator<Item = &'r str>, name: &str) -> String {
        Namer::without(reserved).take(name)
    }

    /// Whether a name is not available.
    pub fn is_taken(&self, name: &str) -> bool {
        self.taken.contains(name)
    }

    /// Reserves a name, or the first of `name_2`, `name_3` ... (`Name2`, `Name3` ...) that is
    /// available.
    pub fn take(&mut self, name: &str) -> String {
        let mut given = name.to_owned();
        if self.taken.contains(name) {
            let joint = if name.starts_with(|c: char| c.is_ascii_uppercase()) { "" } else { "_" };
            let mut n = self.next.get(name).copied().unwrap_or(2);
            loop {
                given = format!("{name}{joint}{n}");
                n += 1;
                if !self.taken.contains(&given) {
                    break;
                }
            }
            self.next.insert(name.to_owned(), n);
        }
        self.taken.insert(given.clone());
        given
    }
}

/// Text of the book, made safe for comments in any language: one line, without characters that end
/// a comment or change the text direction.
pub fn comment(text: &str) -> String {
    let plain: String = text
        .chars()
        .map(|c| match c {
            '\u{2028}' | '\u{2029}' => ' ',
            c if c.is_control() => ' ',
            c if is_hidden(c) => '?',
            c => c,
        })
        .collect();
    // `*/` ends a comment in C; a backslash at a line's end would join the next line to it.
    plain.replace("*/", "* /").replace("/*", "/ *").trim_end_matches('\\').to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn any_name_becomes_a_legal_one() {
        assert_eq!(cased("Saltgate pier", Case::Snake), "saltgate_pier");
        assert_eq!(cased("fog_lamp", Case::Pascal), "FogLamp");
        assert_eq!(cased("fogLamp", Case::Screaming), "FOG_LAMP");
        assert_eq!(cased("brücke", Case::Snake), "bru00fccke");
        assert_eq!(cased("3rd", Case::Camel), "n3rd");
        assert_eq!(cased("🚢", Case::Snake), "unnamed");
        for name in ["a\"b", "x*/y", "../../etc", "…", "a\nb", "__", "İ", "ß9"] {
            for case in [Case::Snake, Case::Camel, Case::Pascal, Case::Screaming] {
                let id = cased(name, case);
                assert!(id.chars().all(|c| c.is_ascii_alphanumeric() || c == '_'), "{id}");
                assert!(!id.starts_with(|c: char| c.is_ascii_digit()), "{id}");
            }
        }
    }

    #[test]
    fn names_that_fall_together_are_told_apart() {
        let mut namer = Namer::without(["int"]);
        assert_eq!(namer.take("int"), "int_2");
        assert_eq!(namer.take("mast"), "mast");
        assert_eq!(namer.take("mast"), "mast_2");
        assert_eq!(namer.take("mast"), "mast_3");
    }

    #[test]
    fn comments_cannot_be_broken_out_of() {
        let hostile = comment("a */ system(1); /* \u{2028}x\ny\u{202e} \\");
        assert!(!hostile.contains("*/") && !hostile.contains('\n') && !hostile.ends_with('\\'));
        assert!(!hostile.contains('\u{2028}') && !hostile.contains('\u{202e}'));
    }
}
