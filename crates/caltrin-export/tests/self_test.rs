//! How much of a file's own self-test is worth: one number of the exported text is changed by 1%, and where the proof finds
//! a difference, the self-test must have found it too.

#[path = "../../caltrin-lang/tests/heard/mod.rs"]
mod heard;

use std::path::Path;
use std::sync::LazyLock;

use caltrin_core::program::Wanted;
use caltrin_core::{SourceNotes, ValidatedProgram};
use caltrin_export::language::Language;
use caltrin_export::prove::{Outcome, moments_with, prove, version};
use caltrin_export::{Plan, Target, target_named};

/// A place at which the game decides much and most things are on or off.
const GATES: &str = include_str!("gates.caltrin");
const MODES: &str = include_str!("modes.caltrin");
const HOURS: &str = include_str!("hours.caltrin");
const EVERYTHING: &str = include_str!("everything.caltrin");
const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");

static BOOKS: LazyLock<Vec<(&str, ValidatedProgram, SourceNotes)>> = LazyLock::new(|| {
    let all = [
        ("gates", GATES),
        ("modes", MODES),
        ("hours", HOURS),
        ("everything", EVERYTHING),
        ("pier", PIER),
    ];
    let read = |(name, text): (&'static str, &str)| {
        let reading = heard::read_for(text, "book.caltrin", Wanted::default());
        (name, reading.checked.expect("the book is good"), reading.notes)
    };
    all.into_iter().map(read).collect()
});

/// Where the numbers of a text stand that are no whole ones, outside of comments and strings.
fn numbers(text: &str) -> Vec<(usize, usize)> {
    let bytes = text.as_bytes();
    let (mut at, mut found) = (0, Vec::new());
    while at < bytes.len() {
        let rest = &text[at..];
        if rest.starts_with("//") {
            at += rest.find('\n').unwrap_or(rest.len());
        } else if rest.starts_with("/*") {
            at += rest.find("*/").unwrap_or(rest.len() - 2) + 2;
        } else if bytes[at] == b'"' {
            at += 2 + rest[1..].find('"').unwrap_or(rest.len() - 2);
        } else if bytes[at].is_ascii_alphanumeric() || bytes[at] == b'_' {
            let word = |b: u8| b.is_ascii_alphanumeric() || b == b'_' || b == b'.';
            let exponent = |n: usize| {
                n > at
                    && matches!(bytes[n], b'-' | b'+')
                    && bytes[n - 1] == b'e'
                    && bytes[at].is_ascii_digit()
            };
            let end = (at..bytes.len()).find(|n| !word(bytes[*n]) && !exponent(*n));
            let end = end.unwrap_or(bytes.len());
            let number = text[at..end].trim_end_matches('f');
            let real = number.contains(['.', 'e']) && !number.starts_with("0x");
            let value = number.replace('_', "").parse::<f64>();
            if bytes[at].is_ascii_digit() && real && value.is_ok_and(|v| v != 0.0) {
                found.push((at, at + number.len()));
            }
            at = end;
        } else {
            at += rest.chars().next().map_or(1, char::len_utf8);
        }
    }
    found
}

/// A language in which one number of each file is changed.
struct Changed<'t> {
    target: &'t dyn Target,
    /// Which number, and how many are counted.
    place: (usize, usize),
}

impl Changed<'_> {
    /// The text before the self-test.
    fn body(text: &str) -> usize {
        text.find("Seeds of the self-test").expect("a file has a self-test")
    }
}

impl Target for Changed<'_> {
    fn name(&self) -> &str {
        self.target.name()
    }
    fn language(&self) -> &Language {
        self.target.language()
    }
    fn print(&self, plan: &Plan) -> String {
        let mut text = self.target.print(plan);
        let mut all = numbers(&text[..Changed::body(&text)]);
        // Bounds of what is saved matter to saves that are damaged, which are tested by themselves.
        all.retain(|(start, _)| {
            let before = text[..*start].rsplit('\n').next().unwrap_or_default();
            !before.to_lowercase().replace('_', "").contains("cleansaved(")
        });
        let (start, end) = all[self.place.0 * all.len() / self.place.1];
        let value: f64 = text[start..end].replace('_', "").parse().unwrap();
        text.replace_range(start..end, &format!("{:?}", value * 1.01));
        text
    }
    fn compile(&self, folder: &Path, source: &str) -> Vec<Vec<String>> {
        // Speed is of no account here.
        let fast = |word: &String| !matches!(word.as_str(), "-Ofast" | "-O" | "-march=native");
        let commands = self.target.compile(folder, source).into_iter();
        commands.map(|command| command.into_iter().filter(fast).collect()).collect()
    }
}

/// How many changed numbers the self-test found, and which it did not find while the proof did.
fn tried(language: &str, book: usize, count: usize) -> (usize, Vec<String>) {
    let target = target_named(language).unwrap();
    let (name, checked, notes) = &BOOKS[book];
    let asked = moments_with(checked, 2_000, &[]);
    let (mut found, mut missed) = (0, Vec::new());
    // What is not changed passes, so that no failure comes from anything else.
    let folder = tempfile::tempdir().unwrap();
    let own = prove(checked, notes, target, &asked, folder.path()).unwrap();
    assert!(own.holds(), "{language}, {name}: {own:?}");
    for n in 0..count {
        let changed = Changed { target, place: (n, count) };
        let folder = tempfile::tempdir().unwrap();
        match prove(checked, notes, &changed, &asked, folder.path()).unwrap() {
            Outcome::Failed { said, .. }
                if said.contains("exit status: 1") || said.contains("SIGABRT") =>
            {
                found += 1;
            }
            Outcome::Compared { mismatches: 0, .. } => {}
            Outcome::Compared { mismatches, .. } => {
                let plan = Plan::of(checked, notes);
                let text = changed.print(&plan);
                let own = target.print(&plan);
                let line = text.lines().zip(own.lines()).find(|(a, b)| a != b);
                missed.push(format!("{language}, {name}: {mismatches} wrong of {line:?}"));
            }
            outcome => panic!("{language}, {name}: {outcome:?}"),
        }
    }
    (found, missed)
}

fn most_are_found(language: &str, counts: [usize; 5]) {
    if target_named(language).unwrap().tools().iter().any(|tool| version(tool).is_none()) {
        return;
    }
    let (mut found, mut missed) = (0, Vec::new());
    // Half of them by default, all with `CALTRIN_PROOFS=full`.
    let share = if std::env::var_os("CALTRIN_PROOFS").is_some() { 1 } else { 2 };
    let counts = counts.map(|count| count.div_ceil(share));
    for (book, count) in counts.into_iter().enumerate().filter(|(_, count)| *count > 0) {
        let (more, lost) = tried(language, book, count);
        found += more;
        missed.extend(lost);
    }
    println!("{language}: {found} found, {} missed {missed:#?}", missed.len());
    assert!(found > 0 && found * 5 >= missed.len() * 95, "{found} found, missed: {missed:#?}");
}

#[test]
fn a_number_that_is_changed_by_a_hundredth_is_found_in_javascript() {
    most_are_found("js", [16, 7, 7, 6, 0]);
}

#[test]
fn a_number_that_is_changed_by_a_hundredth_is_found_in_c() {
    most_are_found("c", [4, 3, 3, 0, 0]);
}

#[test]
fn a_number_that_is_changed_by_a_hundredth_is_found_in_rust() {
    most_are_found("rust", [3, 2, 0, 0, 0]);
}

#[test]
fn a_number_that_is_changed_by_a_hundredth_is_found_in_csharp() {
    most_are_found("csharp", [4, 3, 3, 0, 0]);
}
