//! Where the words of a picture lie.

use caltrin_draw::Picture;
use caltrin_draw::shape::{Anchor, Shape, Text};

/// How wide words are, by the font's own table of advances.
fn measured(text: &Text) -> f32 {
    let bytes: &[u8] = if text.bold {
        include_bytes!("../../fonts/AtkinsonHyperlegible-Bold.ttf")
    } else {
        include_bytes!("../../fonts/AtkinsonHyperlegible-Regular.ttf")
    };
    let face = ttf_parser::Face::parse(bytes, 0).unwrap();
    let advance = |c| face.glyph_hor_advance(face.glyph_index(c).unwrap_or_default()).unwrap();
    let units: f32 = text.words.chars().map(|c| f32::from(advance(c))).sum();
    units * text.size / f32::from(face.units_per_em())
}

/// The boxes of all texts: left, top, right, bottom, words.
pub fn boxes(picture: &Picture) -> Vec<(f32, f32, f32, f32, &str)> {
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

pub fn nothing_overlaps(picture: &Picture) {
    let boxes = boxes(picture);
    assert!(boxes.len() > 2);
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
