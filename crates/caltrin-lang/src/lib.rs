//! The lightbook language.
//!
//! The way of the data:
//!
//! 1. [`syntax::lex`] splits the text into tokens that cover all of it.
//! 2. [`parser::parse`] makes a lossless tree, whatever the text, and reports syntax errors.
//! 3. [`read`] resolves names and kinds and makes the program with `caltrin_core::program_builder`, keeping
//!    beside it where each thing stood ([`SourceMap`]); then the program is validated.
//!
//! Every stage reports all its errors as [`Diagnostic`]s; none of them prints.

pub mod ast;
mod colors;
pub mod diagnostic;
pub mod edit;
mod format;
pub mod grammar;
pub mod ide;
pub mod knobs;
mod literal;
pub mod names;
pub mod parser;
mod resolve;
pub mod syntax;
mod syntax_kind;
pub mod words;

pub use diagnostic::{Diagnostic, Label, Lines, Severity};
pub use format::format;
pub use resolve::{
    BookLoader, Reading, Resources, SoundLoader, Source, SourceMap, Span, read, read_for,
    read_with, read_with_resources, value,
};

/// Parses a time (`450ms`, `2s`, `1.5min`), or a plain number of seconds.
pub fn time(text: &str) -> Option<caltrin_core::quantity::Seconds> {
    use caltrin_core::kind::Kind;
    use caltrin_core::program::Constant;
    let (sign, digits) = text.strip_prefix('-').map_or((1.0, text), |rest| (-1.0, rest));
    if !digits.starts_with(|c: char| c.is_ascii_digit()) {
        return None;
    }
    match literal::number(digits) {
        Ok((Constant::Scalar(v), Kind::Time | Kind::Number)) if !digits.ends_with('%') => {
            Some(caltrin_core::quantity::Seconds(sign * v))
        }
        _ => None,
    }
}

/// Parses an hour of the day: `06:10` or `06:10:30`.
///
/// # Errors
/// The message of the error.
pub fn hour(text: &str) -> Result<caltrin_core::quantity::Hours, String> {
    use caltrin_core::program::Constant;
    if !text.contains(':') || text.contains(|c: char| !c.is_ascii_digit() && c != ':') {
        return Err("an hour is written `06:10` or `06:10:30`".to_owned());
    }
    match literal::hour(text) {
        Ok((Constant::Scalar(v), _)) => Ok(caltrin_core::quantity::Hours(v)),
        Ok(_) => Err("an hour is written `06:10` or `06:10:30`".to_owned()),
        Err(fault) => match fault.help {
            Some(help) => Err(format!("{}; {help}", fault.message)),
            None => Err(fault.message),
        },
    }
}

/// The comments of a text: line number from 1, content, and whether it is alone on its line.
pub fn comments(text: &str) -> Vec<(u32, String, bool)> {
    let lines = Lines::of(text);
    let (tokens, _) = syntax::lex(text);
    let mut found = Vec::new();
    let mut before = None;
    for token in &tokens {
        if token.kind == syntax::SyntaxKind::Comment {
            let line = lines.line(token.start);
            let alone = before.is_none_or(|end| lines.line(end) != line);
            found.push((line, text[token.start..token.end].to_owned(), alone));
        } else if token.kind != syntax::SyntaxKind::Blank {
            before = Some(token.end.saturating_sub(1).max(token.start));
        }
    }
    found
}
