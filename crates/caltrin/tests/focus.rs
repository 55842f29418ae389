//! While somebody types in a large book, only what a change can matter to is read: it finds what reading the whole book
//! finds.

use caltrin::lang::Severity;
use caltrin::lang::ide::{Focus, Project, replaced};
use caltrin::lang::syntax::{SyntaxKind, lex};
use caltrin::{Opened, STOCK, STOCK_NAME};

const PIER: &str = include_str!("../books/pier.caltrin");

fn opened(text: &str) -> Opened {
    caltrin::read(text, "pier.caltrin")
}

fn project(text: &str) -> Project {
    let texts = [("pier.caltrin", text), (STOCK_NAME, STOCK)];
    Project::of(texts.map(|(name, text)| (name.to_owned(), text.to_owned())))
}

fn focus(before: &str, text: &str) -> Option<Focus> {
    let [_, changed] = replaced(before, text);
    Focus::of(&project(text), changed)
}

/// The diagnostics of a book, sorted; of one with errors only those.
fn told(opened: &[caltrin::lang::Diagnostic]) -> Vec<String> {
    let fails = opened.iter().any(|one| one.severity == Severity::Error);
    let shown = opened.iter().filter(|one| !fails || one.severity == Severity::Error);
    let mut all: Vec<String> = shown.map(|one| format!("{one:?}")).collect();
    all.sort();
    all
}

#[test]
fn a_part_of_the_book_finds_what_the_whole_finds() {
    let before = opened(PIER);
    let names = project(PIER).names().definitions().count();
    let (tokens, _) = lex(PIER);
    let mut missed = Vec::new();
    let (mut tried, mut blank, mut wrong) = (0, 0, 0);
    let of_values = |kind| matches!(kind, SyntaxKind::Number | SyntaxKind::Name | SyntaxKind::Hour);
    for (n, token) in tokens.iter().filter(|token| of_values(token.kind)).enumerate() {
        if n % 9 != 4 {
            continue;
        }
        let word = ["0", "nonsense", "3s", "20lm"][n / 9 % 4];
        let text = format!("{}{word}{}", &PIER[..token.start], &PIER[token.end..]);
        let Some(focus) = focus(PIER, &text) else { continue };
        // What uses a name that vanished is left to the reading of the whole.
        if project(&text).names().definitions().count() < names {
            continue;
        }
        assert_eq!(focus.text.len(), text.len());
        let part = opened(&focus.text);
        let merged = focus.merged((PIER, &before.diagnostics), &text, &part.diagnostics);
        let whole = opened(&text).diagnostics;
        let at = text[..token.start].lines().count();
        if told(&merged) != told(&whole) {
            missed.push(format!(
                "line {at}, `{word}`: {:#?}, not {:#?}",
                told(&merged),
                told(&whole)
            ));
        }
        tried += 1;
        blank += usize::from(focus.text != text);
        wrong += usize::from(whole.iter().any(|one| one.severity == Severity::Error));
    }
    assert!(missed.is_empty(), "{}", missed.join("\n"));
    assert!(tried > 100 && blank > tried / 2 && wrong > 20, "{tried} {blank} {wrong}");
}

#[test]
fn what_concerns_all_of_the_book_is_read_whole() {
    let at = PIER.find("light ").expect("a light");
    for (range, word) in [(0..9, "lightbok"), (at + 6..at + 7, "x"), (at..at, "signal more = 1\n")]
    {
        let mut text = PIER.to_owned();
        text.replace_range(range, word);
        assert_eq!(focus(PIER, &text), None, "{word}");
    }
}
