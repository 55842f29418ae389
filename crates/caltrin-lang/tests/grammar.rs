//! The table of declarations against the parser, the typed tree, the reference and the editors'
//! grammar.

use caltrin_lang::ast::{AstNode, Book, Decl};
use caltrin_lang::grammar::{Around, DECLARATIONS, Declaration, Import, Keyword};
use caltrin_lang::parser::parse;
use caltrin_lang::words::DECLARATIONS as WORDS;

const REFERENCE: &str = include_str!("../../../docs/language.md");
const EDITORS: &str = include_str!("../../../editors/caltrin.tmLanguage.json");

/// The declarations of a text without syntax errors.
fn declared(text: &str) -> Vec<Decl> {
    let parsed = parse(&format!("lightbook \"T\"\n{text}\n"));
    assert!(parsed.diagnostics.is_empty(), "{text}\n{:?}", parsed.diagnostics);
    Book::cast(parsed.tree()).expect("a book").declarations().collect()
}

/// The first line of a declaration with braces, up to the opening one.
fn head(known: &Declaration) -> String {
    match known.example.split_once('{') {
        Some((head, _)) => format!("{head}{{"),
        None => format!("{} name {{", known.word),
    }
}

#[test]
fn every_example_is_the_declaration_that_it_stands_for() {
    for known in DECLARATIONS {
        let text = match known.keyword {
            Keyword::Gives => format!("behavior b {{\n  {}\n}}", known.example),
            _ => known.example.to_owned(),
        };
        let all = declared(&text);
        let [decl] = &all[..] else { panic!("{text}: {all:?}") };
        if known.keyword == Keyword::Gives {
            let Decl::Behavior(behavior) = decl else { panic!("{decl:?}") };
            assert!(behavior.value().is_some());
        } else {
            assert_eq!(decl.declaration().keyword, known.keyword, "{text}");
            assert_eq!(
                decl.keyword().map(|word| word.text().to_owned()).as_deref(),
                Some(known.word)
            );
            let unnamed = [
                Keyword::Seed,
                Keyword::Notices,
                Keyword::Use,
                Keyword::Space,
                Keyword::Clock,
                Keyword::At,
                Keyword::Backdrop,
            ];
            assert_eq!(decl.name().is_none(), unnamed.contains(&known.keyword), "{text}");
        }
    }
}

#[test]
fn every_clause_stands_in_its_declaration_and_in_the_reference() {
    let mut count = 0;
    for known in DECLARATIONS {
        for clause in known.lines() {
            let text = format!("{}\n  {}\n}}", head(known), clause.example);
            assert_eq!(declared(&text).len(), 1, "{text}");
            assert!(clause.example.starts_with(clause.word), "{}", clause.example);
            let in_reference = REFERENCE.contains(clause.word);
            assert!(in_reference, "the reference has no `{}` of {}", clause.word, known.noun);
            count += 1;
        }
    }
    assert!(count > 60, "{count}");
}

#[test]
fn what_stands_in_the_wrong_place_is_refused() {
    for known in DECLARATIONS {
        let places = [
            (Around::Light, "light l point {"),
            (Around::Behavior, "behavior b {"),
            (Around::Fitting, "fitting f {"),
        ];
        for (around, head) in places {
            let parsed = parse(&format!("lightbook \"T\"\n{head}\n  {}\n}}\n", known.example));
            // In a light, some of these words are ordinary names.
            let plain = around == Around::Light && !known.inside.contains(&around);
            if known.inside.contains(&around) {
                assert!(
                    parsed.diagnostics.is_empty(),
                    "{head} {}: {:?}",
                    known.example,
                    parsed.diagnostics
                );
            } else if !plain {
                assert_eq!(parsed.diagnostics.len(), 1, "{head} {}", known.example);
            }
        }
    }
}

#[test]
fn words_of_the_table_are_known_to_editors() {
    for known in DECLARATIONS {
        assert!(EDITORS.contains(known.word), "{}", known.word);
    }
    assert_eq!(WORDS.len(), DECLARATIONS.len() - 1);
    let brought = DECLARATIONS.iter().filter(|known| known.import != Import::Own);
    let brought: Vec<&str> = brought.map(|known| known.word).collect();
    for word in
        ["color", "signal", "curve", "behavior", "fitting", "input", "event", "clock", "sun"]
    {
        assert!(brought.contains(&word), "{word}");
    }
    assert!(!brought.contains(&"light"));
}
