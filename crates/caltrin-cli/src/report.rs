//! The appearance of messages.

use std::collections::BTreeMap;
use std::io::Write;
use std::path::Path;

use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use caltrin::Opened;
use caltrin::core::text::shown;
use caltrin::lang::{Diagnostic, Lines, Severity};
use serde::Serialize;

use crate::outcome::{Failure, count};

/// Beyond this many messages the rest is only counted.
const MOST: usize = 100;
/// Longest line that is shown whole; of longer ones a window around the place.
const LONGEST: usize = 240;

/// Prints all diagnostics of a book on the error stream.
pub fn diagnostics(opened: &Opened) {
    let mut out = anstream::stderr().lock();
    let lines: Vec<Lines> = opened.sources.iter().map(|source| Lines::of(&source.text)).collect();
    for diagnostic in opened.diagnostics.iter().take(MOST) {
        let _ = writeln!(out, "{}\n", render(opened, &lines, diagnostic, fitted()));
    }
    let more = opened.diagnostics.len().saturating_sub(MOST);
    if more > 0 {
        let _ = writeln!(out, "and {more} more");
    }
}

/// Prints in one line how many warnings a book has, by code, and which command shows them.
pub fn warnings(opened: &Opened, book: &Path) {
    let mut codes: BTreeMap<&str, u64> = BTreeMap::new();
    for code in opened.diagnostics.iter().filter_map(|diagnostic| diagnostic.code) {
        *codes.entry(code).or_default() += 1;
    }
    let kinds: Vec<String> = codes.iter().map(|(code, n)| format!("{n} of {code}")).collect();
    let mut out = anstream::stderr().lock();
    let _ = writeln!(
        out,
        "{}: {} ({}); `caltrin check {}` shows them",
        opened.file,
        count(opened.warnings() as u64, "warning"),
        kinds.join(", "),
        quoted(book)
    );
}

/// A path, quoted for a shell.
pub fn quoted(path: &Path) -> String {
    let text = path.display().to_string();
    match text.contains(|c: char| c.is_whitespace() || "\"'$&();<>|*?".contains(c)) {
        true => format!("'{}'", text.replace('\'', "'\\''")),
        false => text,
    }
}

/// Messages in colors, with the book's lines cut to what the terminal has room for.
fn fitted() -> Renderer {
    let width = terminal_size::terminal_size_of(std::io::stderr());
    match width {
        Some((width, _)) => Renderer::styled().term_width(usize::from(width.0).max(32)),
        None => Renderer::styled(),
    }
}

/// All diagnostics of a book, without colors.
pub fn plain(opened: &Opened) -> String {
    let lines: Vec<Lines> = opened.sources.iter().map(|source| Lines::of(&source.text)).collect();
    let told = opened.diagnostics.iter().take(MOST);
    let told: Vec<String> = told.map(|d| render(opened, &lines, d, Renderer::plain())).collect();
    told.join("\n\n")
}

fn render(opened: &Opened, lines: &[Lines], diagnostic: &Diagnostic, renderer: Renderer) -> String {
    let level = match diagnostic.severity {
        Severity::Error => Level::ERROR,
        Severity::Warning => Level::WARNING,
    };
    let mut title = level.primary_title(shown(&diagnostic.message));
    if let Some(code) = diagnostic.code {
        title = title.id(code);
    }
    let mut group = title.elements(Vec::<annotate_snippets::Element<'_>>::new());
    for (n, label) in diagnostic.labels.iter().enumerate() {
        let source = label.source.unwrap_or(0);
        let (text, lines) = (&opened.sources[source], &lines[source]);
        let (start, end) = window(&text.text, lines, &label.range);
        let kind = if n == 0 { AnnotationKind::Primary } else { AnnotationKind::Context };
        let from = label.range.start.clamp(start, end) - start;
        let to = label.range.end.clamp(start, end) - start;
        let mut annotation = kind.span(from..to.max(from));
        if !label.text.is_empty() {
            annotation = annotation.label(shown(&label.text));
        }
        let snippet = Snippet::source(&text.text[start..end])
            .path(shown(&text.name))
            .line_start(lines.line(start) as usize)
            .annotation(annotation);
        group = group.element(snippet);
    }
    if let Some(help) = &diagnostic.help {
        group = group.element(Level::HELP.message(shown(help)));
    }
    renderer.render(&[group])
}

/// The part of the text that is shown around a place: its line, or a window of a very long one.
fn window(text: &str, lines: &Lines, range: &std::ops::Range<usize>) -> (usize, usize) {
    let line = lines.line(range.start);
    let shown = lines.text(text, line);
    let start = shown.as_ptr() as usize - text.as_ptr() as usize;
    let end = start + shown.len();
    if shown.len() <= LONGEST {
        return (start, end);
    }
    let mut left = range.start.saturating_sub(LONGEST / 2).max(start);
    let mut right = (left + LONGEST).min(end);
    while !text.is_char_boundary(left) {
        left -= 1;
    }
    while !text.is_char_boundary(right) {
        right += 1;
    }
    (left, right)
}

/// A message for scripts.
#[derive(Serialize)]
pub struct Told<'a> {
    file: &'a str,
    line: u32,
    column: u32,
    end_line: u32,
    end_column: u32,
    severity: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    code: Option<&'static str>,
    message: &'a str,
    #[serde(skip_serializing_if = "Option::is_none")]
    help: Option<&'a str>,
}

/// The messages of a book as data.
pub fn told(opened: &Opened) -> Vec<Told<'_>> {
    let lines: Vec<Lines> = opened.sources.iter().map(|source| Lines::of(&source.text)).collect();
    opened
        .diagnostics
        .iter()
        .map(|diagnostic| {
            let range = diagnostic.range();
            let (source, lines) =
                (&opened.sources[diagnostic.source()], &lines[diagnostic.source()]);
            let (line, column) = lines.position(&source.text, range.start);
            let (end_line, end_column) = lines.position(&source.text, range.end);
            Told {
                file: &source.name,
                line,
                column,
                end_line,
                end_column,
                severity: match diagnostic.severity {
                    Severity::Error => "error",
                    Severity::Warning => "warning",
                },
                code: diagnostic.code,
                message: &diagnostic.message,
                help: diagnostic.help.as_deref(),
            }
        })
        .collect()
}

/// Prints why a command failed.
pub fn failure(failure: &Failure) {
    if failure.0.is_empty() {
        return;
    }
    let group = Level::ERROR
        .primary_title(shown(&failure.0))
        .elements(failure.1.iter().map(|help| Level::HELP.message(shown(help))));
    let mut out = anstream::stderr().lock();
    let _ = writeln!(out, "{}", Renderer::styled().render(&[group]));
}

/// Reports a panic as an error of the program, in one line, and keeps quiet about decoders of sounds: what they
/// refuse is reported as a message about the file.
pub fn panics() {
    std::panic::set_hook(Box::new(|panic| {
        if caltrin::sound::is_decoding() {
            return;
        }
        let place = panic.location().map_or(String::new(), |at| format!(" ({at})"));
        let text = panic.payload_as_str().unwrap_or("unknown cause");
        let failed = Failure(
            format!("internal error: {text}{place}"),
            Some("this is a bug in caltrin; please report it with the book".to_owned()),
        );
        failure(&failed);
    }));
}

/// A warning about a file that is not a book.
pub fn warning(message: &str, help: &str) {
    short(Level::WARNING, message, help);
}

/// Prints a message and its help on the error stream.
pub fn note(message: &str, help: &str) {
    short(Level::NOTE, message, help);
}

fn short(level: Level<'_>, message: &str, help: &str) {
    let group = level.primary_title(shown(message)).elements([Level::HELP.message(shown(help))]);
    let mut out = anstream::stderr().lock();
    let _ = writeln!(out, "{}", Renderer::styled().render(&[group]));
}
