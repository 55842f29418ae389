//! What tests of books share.
#![allow(dead_code, reason = "each test uses some of it")]

use caltrin_core::ValidatedProgram;
use caltrin_core::program::EventId;
use caltrin_lang::{Lines, read};

/// A book without an error.
pub fn checked(text: &str) -> ValidatedProgram {
    let reading = read(text, "book.caltrin");
    let told: Vec<&String> = reading.diagnostics.iter().map(|d| &d.message).collect();
    reading.checked.unwrap_or_else(|| panic!("{told:#?}"))
}

/// An event of a book.
pub fn event(checked: &ValidatedProgram, name: &str) -> EventId {
    checked.program().event_named(name).expect("the event is there")
}

/// All that is reported of a book: the line, the words, the message and the help.
pub fn told(text: &str) -> String {
    let reading = read(text, "book.caltrin");
    let lines = Lines::of(text);
    let mut out = String::new();
    for told in &reading.diagnostics {
        let range = told.range();
        out.push_str(&lines.line(range.start).to_string());
        out.push_str(&format!(" `{}` {}", text[range].trim(), told.message));
        if let Some(help) = &told.help {
            out.push_str(&format!("; {help}"));
        }
        out.push('\n');
    }
    out
}
