//! Whatever the text, the tree holds all of it and nothing panics.

mod heard;

use caltrin_lang::parser::parse;
use heard::read;
use proptest::prelude::*;

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");
const MISTAKES: &str = include_str!("mistakes.caltrin");

fn holds(text: &str) {
    assert_eq!(parse(text).tree().text().to_string(), text);
    let reading = read(text, "any.caltrin");
    assert!(reading.checked.is_some() || !reading.diagnostics.is_empty());
    for diagnostic in &reading.diagnostics {
        for label in &diagnostic.labels {
            assert!(text.get(label.range.clone()).is_some(), "{diagnostic:?}");
        }
        assert!(!diagnostic.message.is_empty());
    }
}

#[test]
fn the_example_books_are_held_to_the_letter() {
    holds(PIER);
    holds(MISTAKES);
}

/// Cuts at a character's edge.
fn edge(text: &str, at: usize) -> usize {
    (0..=at.min(text.len())).rev().find(|n| text.is_char_boundary(*n)).unwrap_or(0)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn any_characters(text in "\\PC{0,200}") {
        holds(&text);
    }

    #[test]
    fn any_words_of_the_language(words in prop::collection::vec(
        prop::sample::select(vec![
            "lightbook", "\"B\"", "light", "a", "b", "point", "spot", "{", "}", "(", ")", "[", "]",
            "intensity", "color", "position", "=", "..", ",", ";", "\n", "1lm", "3s", "50%", "#ff00ff",
            "sound", "follow", "\"struck.wav\"", "starts", "at", "loops", "speed", "position", "live", "band", "a.onset",
            "held", "(", "every", "loop", "curve", "smooth", "if", "then", "else", "is", "above", "not",
            "-", "-1", "+", "*", "/", "signal", "behavior", "gives", "seed", "2100K", "06:10", "on", "and",
        ]), 0..60), spaced in any::<bool>()) {
        let text = words.join(if spaced { " " } else { "" });
        holds(&text);
        holds(&format!("lightbook \"B\"\n{text}"));
    }

    #[test]
    fn a_good_book_with_a_piece_cut_out_or_doubled(
        from in 0usize..4000, length in 0usize..80, doubled in any::<bool>()
    ) {
        let start = edge(PIER, from);
        let end = edge(PIER, start + length).max(start);
        let piece = &PIER[start..end];
        let text = if doubled {
            format!("{}{piece}{piece}{}", &PIER[..start], &PIER[end..])
        } else {
            format!("{}{}", &PIER[..start], &PIER[end..])
        };
        holds(&text);
    }
}
