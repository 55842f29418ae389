//! The formatter changes no program, and nothing more when it is called again.

mod heard;

use caltrin_lang::format;
use proptest::prelude::*;

const BOOKS: [&str; 5] = [
    include_str!("../../caltrin/books/pier.caltrin"),
    include_str!("../../caltrin/books/siding.caltrin"),
    include_str!("../../caltrin/books/stock.caltrin"),
    include_str!("../../caltrin-export/tests/everything.caltrin"),
    include_str!("../../caltrin-export/tests/names.caltrin"),
];

fn program(text: &str) -> Option<caltrin_core::Program> {
    let reading = heard::read(text, "book.caltrin");
    reading.checked.map(|checked| checked.program().clone())
}

#[test]
fn the_examples_are_laid_out_and_stay_what_they_are() {
    for book in BOOKS {
        let even = format(book).expect("the book is good");
        assert_eq!(format(&even).expect("it is still good"), even);
        assert!(program(book).is_some());
        assert_eq!(program(book), program(&even));
    }
    let lido = include_str!("../../caltrin/books/lido.caltrin");
    let lamps = include_str!("../../caltrin/books/lido_lamps.caltrin");
    for shipped in BOOKS[..3].iter().chain(&[lido, lamps]) {
        let name = shipped.lines().next().unwrap();
        assert!(format(shipped).unwrap() == *shipped, "{name} is laid out as it is shipped");
    }
}

#[test]
fn a_dot_after_a_number_stays_apart_from_it() {
    // Numbers have digits on both sides of their point; glued together the two would be another number.
    let text = "lightbook \"B\"\n\ncolor weak = color(srgb-linear 0.250 .5 0.125)\n";
    assert_eq!(format(text).as_deref(), Ok(text));
    let reading = heard::read(text, "book.caltrin");
    assert_eq!(
        reading.diagnostics[0].message,
        "`color(srgb-linear 0.250 .5 0.125)` is not a color"
    );
}

#[test]
fn windows_line_ends_and_a_byte_order_mark_stay() {
    let text = "\u{feff}lightbook \"B\"\r\nlight  a point {\r\nintensity 1lm\r\n}\r\n";
    let even = format(text).unwrap();
    assert_eq!(even, "\u{feff}lightbook \"B\"\r\nlight a point {\r\n  intensity  1lm\r\n}\r\n");
    assert_eq!(format(&even).unwrap(), even);
    let mixed = "lightbook \"B\"\nlight a point { intensity 1lm }\r\n";
    assert_eq!(format(mixed).unwrap(), mixed.replace('\r', ""));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    /// Blanks and line ends are thrown about wherever the language does not mind.
    #[test]
    fn however_a_book_is_spaced_it_comes_out_the_same_program(
        book in 0..BOOKS.len(), seed in any::<u64>()
    ) {
        let mut state = seed | 1;
        let mut next = move |n: u64| {
            state ^= state << 13;
            state ^= state >> 7;
            state ^= state << 17;
            state % n
        };
        let crooked: String = BOOKS[book]
            .lines()
            .flat_map(|line| {
                let depth = next(9) as usize;
                let ends = "\n".repeat(1 + next(3) as usize);
                let wide = line.trim_start().replace(", ", [",   ", " , ", ","][next(3) as usize]);
                [" ".repeat(depth), wide, ends]
            })
            .collect();
        let even = format(&crooked).expect("it is still good");
        prop_assert_eq!(&format(&even).unwrap(), &even);
        prop_assert_eq!(program(&even), program(BOOKS[book]));
    }
}
