//! The random books of other tests and of the proofs: they are valid and cover the whole language.

mod heard;
mod random;

use std::collections::BTreeSet;

use caltrin_core::Program;
use caltrin_lang::syntax::{SyntaxKind, lex};
use caltrin_lang::words::{DECLARATIONS, EASINGS, LIGHTS, functions};
use caltrin_lang::{format, read};
use proptest::prelude::*;

/// The program of a book, or its errors.
fn program(text: &str) -> Result<Program, String> {
    let reading = heard::read(text, "random.caltrin");
    let told = reading.diagnostics.iter().filter(|told| told.source() == 0);
    let told: Vec<String> =
        told.map(|told| format!("{} at `{}`", told.message, &text[told.range()])).collect();
    reading.checked.map(|checked| checked.program().clone()).ok_or_else(|| format!("{told:#?}"))
}

#[test]
fn every_declaration_function_easing_and_kind_of_light_is_in_some() {
    let mut found = BTreeSet::new();
    for seed in 0..120 {
        let text = random::Author::new(seed).book();
        let (tokens, _) = lex(&text);
        let words = tokens
            .iter()
            .filter(|token| matches!(token.kind, SyntaxKind::Name | SyntaxKind::HyphenWord));
        found.extend(words.map(|token| text[token.start..token.end].to_owned()));
    }
    let all = DECLARATIONS.into_iter().chain(functions()).chain(EASINGS).chain(LIGHTS);
    let missing: Vec<&str> = all.filter(|word| !found.contains(*word)).collect();
    assert_eq!(missing, Vec::<&str>::new());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn any_choices_give_a_valid_book_that_the_formatter_keeps(
        choices in prop::collection::vec(any::<u8>(), 0..400)
    ) {
        let text = random::Author::of(&choices).book();
        let own = program(&text);
        prop_assert!(own.is_ok(), "{own:?}\n{text}");
        let even = format(&text).expect("the book is valid");
        prop_assert_eq!(format(&even), Ok(even.clone()));
        prop_assert_eq!(program(&even), own);
    }

    /// A book with one word removed or moved gives a program or an error.
    #[test]
    fn a_removed_or_moved_word_is_accepted_or_reported(
        choices in prop::collection::vec(any::<u8>(), 0..60), at in any::<prop::sample::Index>(),
        to in any::<prop::sample::Index>(), moved in any::<bool>()
    ) {
        let text = random::Author::of(&choices).book();
        let (tokens, _) = lex(&text);
        let [taken, other] = [at, to].map(|index| &tokens[index.index(tokens.len())]);
        let mut changed = text.clone();
        let word = if moved { &text[taken.start..taken.end] } else { "" };
        changed.replace_range(other.start..other.end, word);
        let reading = read(&changed, "random.caltrin");
        prop_assert!(reading.checked.is_some() || !reading.diagnostics.is_empty());
        for told in &reading.diagnostics {
            prop_assert!(changed.get(told.range()).is_some(), "{told:?}");
        }
    }
}
