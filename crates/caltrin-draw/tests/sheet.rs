//! Sheets: nothing overlaps or leaves the picture, the same book gives the same bytes, and names
//! cannot break out.

use caltrin_core::Checked;
use caltrin_core::quantity::{Seconds, Seed};
use caltrin_draw::shape::{Anchor, Shape, Text};
use caltrin_draw::{Picture, SheetOptions, png, sheet, svg};

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");

fn checked(text: &str) -> Checked {
    caltrin_lang::read(text, "book.caltrin").checked.expect("the book is good")
}

fn many(n: usize, name: &str) -> Checked {
    let lights: String = (0..n)
        .map(|i| format!("light {name}_{i:03} point {{ color 2100K; intensity 700lm * held(60%..100%, every 50ms..{}ms) }}\n", 90 + i))
        .collect();
    checked(&format!("lightbook \"Many\"\n{lights}"))
}

/// How wide words are, by the font's own table of advances.
fn measured(text: &Text) -> f32 {
    let bytes: &[u8] = if text.bold {
        include_bytes!("../fonts/AtkinsonHyperlegible-Bold.ttf")
    } else {
        include_bytes!("../fonts/AtkinsonHyperlegible-Regular.ttf")
    };
    let face = ttf_parser::Face::parse(bytes, 0).unwrap();
    let advance = |c| face.glyph_hor_advance(face.glyph_index(c).unwrap_or_default()).unwrap();
    let units: f32 = text.words.chars().map(|c| f32::from(advance(c))).sum();
    units * text.size / f32::from(face.units_per_em())
}

/// The boxes of all texts: left, top, right, bottom, words.
fn boxes(picture: &Picture) -> Vec<(f32, f32, f32, f32, &str)> {
    picture
        .shapes
        .iter()
        .filter_map(|shape| match shape {
            Shape::Text(text) => Some(text),
            _ => None,
        })
        .map(|text| {
            let width = measured(text);
            let left = match text.anchor {
                Anchor::Start => text.x,
                Anchor::Middle => text.x - width / 2.0,
                Anchor::End => text.x - width,
            };
            let (top, bottom) = (text.y - text.size * 0.72, text.y + text.size * 0.2);
            (left, top, left + width, bottom, text.words.as_str())
        })
        .collect()
}

fn nothing_overlaps(picture: &Picture) {
    let boxes = boxes(picture);
    assert!(boxes.len() > 5);
    for (n, (left, top, right, bottom, words)) in boxes.iter().enumerate() {
        assert!(*left >= 0.0 && *top >= 0.0, "{words}");
        assert!(*right <= picture.width as f32 + 1.0, "{words} ends at {right}");
        assert!(*bottom <= picture.height as f32, "{words}");
        for (l, t, r, b, other) in &boxes[n + 1..] {
            let apart = right <= l || r <= left || bottom <= t || b <= top;
            assert!(apart, "`{words}` and `{other}` overlap");
        }
    }
}

#[test]
fn no_words_overlap_or_leave_the_picture() {
    let books = [
        checked(PIER),
        many(1, "lamp"),
        many(40, "lamp_of_the_upper_lock_gate"),
        many(130, "lamp"),
    ];
    for book in &books {
        for width in [800, 1280] {
            for to in [None, Some(Seconds(0.2)), Some(Seconds(7200.0))] {
                let options = SheetOptions { to, width, ..SheetOptions::default() };
                nothing_overlaps(&sheet(book, &[], &options));
            }
        }
    }
}

#[test]
fn the_same_book_gives_the_same_bytes_and_another_seed_others() {
    let book = checked(PIER);
    let draw = |seed| {
        let options = SheetOptions { seed: Some(Seed(seed)), ..SheetOptions::default() };
        let picture = sheet(&book, &[], &options);
        (svg(&picture), png(&picture).unwrap())
    };
    let first = draw(41);
    assert_eq!(first, draw(41));
    assert_ne!(first.0, draw(42).0);
    assert_ne!(first.1, draw(42).1);
}

#[test]
fn the_svg_is_well_formed_and_names_cannot_break_out() {
    let book = checked(
        "lightbook \"<script>alert(1)</script> & 'quotes' ]]>\"\nlight a point { intensity 1lm }\n",
    );
    let text = svg(&sheet(&book, &[], &SheetOptions::default()));
    assert!(!text.contains("<script"));
    let mut reader = quick_xml::Reader::from_str(&text);
    let mut open = 0i32;
    loop {
        match reader.read_event().expect("every event can be read") {
            quick_xml::events::Event::Start(_) => open += 1,
            quick_xml::events::Event::End(_) => open -= 1,
            quick_xml::events::Event::Eof => break,
            _ => {}
        }
    }
    assert_eq!(open, 0);
}

#[test]
fn the_png_is_as_large_as_the_picture() {
    let picture = sheet(&checked(PIER), &[], &SheetOptions::default());
    let bytes = png(&picture).unwrap();
    assert_eq!(bytes[..8], *b"\x89PNG\r\n\x1a\n");
    let size = |at: usize| u32::from_be_bytes(bytes[at..at + 4].try_into().unwrap());
    assert_eq!((size(16), size(20)), (picture.width, picture.height));
}

#[test]
fn a_lane_is_named_after_its_light_and_a_chosen_light_stands_alone() {
    let book = checked(PIER);
    let all = sheet(&book, &[], &SheetOptions::default());
    for name in ["mast[8]", "quay.core[12]", "harbour_light", "deck"] {
        assert!(boxes(&all).iter().any(|(.., words)| *words == name), "{name}");
    }
    let weld = book.program().light_named("weld").unwrap();
    let options = SheetOptions { lights: Some(vec![weld]), ..SheetOptions::default() };
    let one = sheet(&book, &[], &options);
    assert!(boxes(&one).iter().any(|(.., words)| *words == "weld"));
    assert!(!boxes(&one).iter().any(|(.., words)| words.starts_with("mast")));
    assert!(boxes(&one).iter().any(|(.., words)| words.contains("Not all")));
}

#[test]
fn the_ribbon_shows_when_a_light_is_dark() {
    let book = checked(
        "lightbook \"B\"\ncurve half { 0s 0; 5s 1 jump; 10s 1 }\nlight a point { color #ff0000; intensity 9lm * once(half) }\n",
    );
    let picture =
        sheet(&book, &[], &SheetOptions { to: Some(Seconds(10.0)), ..SheetOptions::default() });
    let colors = picture
        .shapes
        .iter()
        .find_map(|shape| match shape {
            Shape::Ribbon(_, colors) => Some(colors),
            _ => None,
        })
        .expect("there is a ribbon");
    let half = colors.len() / 2;
    assert!(colors[..half - 1].iter().all(|c| *c == [0, 0, 0]));
    assert!(colors[half + 1..].iter().all(|c| *c == [255, 0, 0]));
}
