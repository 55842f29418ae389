//! A changed text has the tree, the errors and the old words that reading it anew gives, and statements that the change
//! does not touch keep their trees.

use caltrin_lang::parser::{Parse, parse};
use proptest::prelude::*;

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");
const MISTAKES: &str = include_str!("mistakes.caltrin");

fn same(edited: &Parse, text: &str) -> Result<(), TestCaseError> {
    let anew = parse(text);
    prop_assert_eq!(edited.tree().text().to_string(), text);
    let nodes = |parse: &Parse| -> Vec<_> {
        let all = parse.tree().descendants_with_tokens();
        all.map(|part| (part.kind(), part.text_range())).collect()
    };
    prop_assert_eq!(nodes(edited), nodes(&anew));
    prop_assert_eq!(&edited.diagnostics, &anew.diagnostics);
    prop_assert_eq!(&edited.renamed, &anew.renamed);
    Ok(())
}

/// Cuts at the edge of a character.
fn edge(text: &str, at: usize) -> usize {
    (0..=at.min(text.len())).rev().find(|n| text.is_char_boundary(*n)).unwrap_or(0)
}

/// Changes: where, as a share of the text, how many bytes go, and what comes.
fn changes() -> impl Strategy<Value = Vec<(f64, usize, String)>> {
    let words = prop::sample::select(vec![
        "",
        "a",
        " ",
        "\n",
        "{",
        "}",
        "(",
        ")",
        "]",
        "\"",
        "//",
        "lightbook \"B\"\n",
        "light a point",
        "light b point {\n  intensity 1lm\n}\n",
        "signal s = 40%..60% *\n",
        ", ",
        ";",
        "rehearses \"p\"",
        "lamp",
        "wander(1lm..2lm)",
        "0.5s",
        "é",
        "\u{feff}",
        "\r\n",
        "event tick every 3s",
        "}\n}\n",
        "signal t = (1 +\n",
    ]);
    let word = words.prop_map(str::to_owned);
    prop::collection::vec((0.0..1.0f64, prop_oneof![Just(0usize), 0..40usize], word), 1..12)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn changes_one_after_the_other(start in 0usize..3, changes in changes()) {
        let mut text = match start {
            0 => PIER.to_owned(),
            1 => MISTAKES.to_owned(),
            _ => "lightbook \"B\"\nlight a point {\n  intensity 1lm\n}\nsignal s = 50%\n".to_owned(),
        };
        let mut edited = parse(&text);
        for (share, cut, word) in changes {
            let from = edge(&text, (share * text.len() as f64) as usize);
            let to = edge(&text, from + cut);
            let before = text.clone();
            text.replace_range(from..to.max(from), &word);
            edited = edited.edited(&before, &text);
            same(&edited, &text)?;
        }
    }
}

#[test]
fn every_line_of_a_book_is_doubled_and_removed() {
    let before = parse(PIER);
    let mut at = 0;
    for line in PIER.split_inclusive('\n') {
        for text in [
            format!("{}{line}{}", &PIER[..at], &PIER[at..]),
            format!("{}{}", &PIER[..at], &PIER[at + line.len()..]),
        ] {
            same(&before.edited(PIER, &text), &text).expect("the same");
        }
        at += line.len();
    }
}

#[test]
fn a_letter_leaves_other_statements_as_they_are() {
    let at = PIER.find("light ").expect("a light");
    let at = at + PIER[at..].find("intensity").expect("its intensity");
    let text = format!("{}x{}", &PIER[..at], &PIER[at..]);
    let before = parse(PIER);
    let after = before.edited(PIER, &text);
    let pairs: Vec<_> = before.tree().children().zip(after.tree().children()).collect();
    let kept = pairs
        .iter()
        .filter(|(a, b)| std::ptr::eq::<rowan::GreenNodeData>(&*a.green(), &*b.green()));
    assert_eq!(kept.count(), pairs.len() - 1, "only the light itself is read again");
}
