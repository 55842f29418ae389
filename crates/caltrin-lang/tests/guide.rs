//! The language guide is true: its examples are good, and no word of the language is missing.

mod heard;

use caltrin_core::program::CHANNELS;
use caltrin_lang::{Severity, syntax, words};

const GUIDE: &str = include_str!("../../../docs/language.md");
/// The way from a dark place to code.
const STEPS: &str = include_str!("../../../docs/guide.md");

/// The blocks of code in the guide.
fn examples(text: &str) -> Vec<String> {
    text.split("```").skip(1).step_by(2).map(|block| block.trim_start().to_owned()).collect()
}

#[test]
fn every_example_of_the_guide_is_a_good_book() {
    let mut all = examples(GUIDE);
    let steps = examples(STEPS);
    assert!(all.len() >= 2 && steps.len() >= 10);
    all.extend(steps);
    // What a shell gets is not a book.
    for example in all.into_iter().filter(|example| !example.starts_with("sh\n")) {
        let text = if example.starts_with("lightbook") {
            example
        } else {
            format!("lightbook \"Guide\"\n{example}")
        };
        let reading = heard::read(&text, "guide.caltrin");
        let told: Vec<&String> = reading
            .diagnostics
            .iter()
            .filter(|d| d.severity == Severity::Error)
            .map(|d| &d.message)
            .collect();
        assert!(told.is_empty(), "{told:#?}\n{text}");
    }
}

#[test]
fn every_word_of_the_language_is_in_the_guide() {
    let named = |word: &str| {
        GUIDE.match_indices(word).any(|(at, _)| {
            let inside = |c: char| c.is_alphanumeric() || c == '_' || c == '-';
            let before = GUIDE[..at].chars().next_back().is_none_or(|c| !inside(c));
            let after = GUIDE[at + word.len()..].chars().next().is_none_or(|c| !inside(c));
            before && after
        })
    };
    let channels = CHANNELS.iter().map(|channel| channel.name);
    for word in words::DECLARATIONS
        .into_iter()
        .chain(words::functions())
        .chain(words::EASINGS)
        .chain(words::LIGHTS)
        .chain(syntax::RESERVED)
        .chain(channels)
    {
        assert!(named(word), "`{word}` is not in docs/language.md");
    }
}

const GRAMMAR: &str = include_str!("../../../editors/caltrin.tmLanguage.json");

#[test]
fn every_word_of_the_language_is_in_the_editors_grammar() {
    let named = |word: &str| {
        GRAMMAR.match_indices(word).any(|(at, _)| {
            let inside = |c: char| c.is_alphanumeric() || c == '-';
            let before = GRAMMAR[..at].ends_with("\\b")
                || GRAMMAR[..at].chars().next_back().is_none_or(|c| !inside(c));
            let after = GRAMMAR[at + word.len()..].chars().next().is_none_or(|c| !inside(c));
            before && after
        })
    };
    for word in words::DECLARATIONS
        .into_iter()
        .chain(words::functions())
        .chain(words::EASINGS)
        .chain(words::LIGHTS)
        .chain(syntax::RESERVED)
        .chain(CHANNELS.iter().map(|channel| channel.name))
    {
        assert!(named(word), "`{word}` is not in the editors' grammar");
    }
}
