//! The typeface: Atkinson Hyperlegible, included with its license so that drawings are identical on
//! every machine.

use ttf_parser::{Face, OutlineBuilder};

const REGULAR: &[u8] = include_bytes!("../fonts/AtkinsonHyperlegible-Regular.ttf");
const BOLD: &[u8] = include_bytes!("../fonts/AtkinsonHyperlegible-Bold.ttf");
/// Both as web fonts (WOFF2) with their weights, for pages and drawings that embed their fonts.
pub const WEB: [(&[u8], u32); 2] = [
    (include_bytes!("../fonts/AtkinsonHyperlegible-Regular.woff2"), 400),
    (include_bytes!("../fonts/AtkinsonHyperlegible-Bold.woff2"), 700),
];
/// The name of the family.
pub(crate) const FAMILY: &str = "Atkinson Hyperlegible";

/// Both weights, parsed.
pub(crate) struct Fonts {
    regular: Face<'static>,
    bold: Face<'static>,
}

impl Fonts {
    pub(crate) fn new() -> Self {
        let face = |bytes| Face::parse(bytes, 0).expect("the shipped font is a font");
        Fonts { regular: face(REGULAR), bold: face(BOLD) }
    }

    fn face(&self, bold: bool) -> &Face<'static> {
        if bold { &self.bold } else { &self.regular }
    }

    /// Width of a text at a size. A character that the font lacks has the width of its box.
    pub(crate) fn width(&self, words: &str, size: f32, bold: bool) -> f32 {
        let face = self.face(bold);
        let units: u32 = words.chars().map(|c| u32::from(advance(face, c))).sum();
        units as f32 * size / f32::from(face.units_per_em())
    }

    /// The text, truncated with an ellipsis to fit.
    pub(crate) fn fitted(&self, words: &str, size: f32, bold: bool, most: f32) -> String {
        if self.width(words, size, bold) <= most {
            return words.to_owned();
        }
        let mut kept: String = words.to_owned();
        while kept.pop().is_some() {
            let shown = format!("{}\u{2026}", kept.trim_end());
            if self.width(&shown, size, bold) <= most {
                return shown;
            }
        }
        String::new()
    }

    /// The text wrapped into lines that fit.
    pub(crate) fn wrapped(&self, words: &str, size: f32, bold: bool, most: f32) -> Vec<String> {
        let mut lines: Vec<String> = Vec::new();
        for word in words.split(' ') {
            if let Some(line) = lines.last_mut() {
                let longer = format!("{line} {word}");
                if self.width(&longer, size, bold) <= most {
                    *line = longer;
                    continue;
                }
            }
            lines.push(word.to_owned());
        }
        lines
    }

    /// A name, truncated in the middle to fit, since names often differ at their end.
    pub(crate) fn fitted_name(&self, name: &str, size: f32, bold: bool, most: f32) -> String {
        if self.width(name, size, bold) <= most {
            return name.to_owned();
        }
        let chars: Vec<char> = name.chars().collect();
        for kept in (2..chars.len()).rev() {
            let (start, end) = (kept / 2, kept - kept / 2);
            let shown: String = chars[..start]
                .iter()
                .chain(&['\u{2026}'])
                .chain(&chars[chars.len() - end..])
                .collect();
            if self.width(&shown, size, bold) <= most {
                return shown;
            }
        }
        String::new()
    }

    /// Advance width of a character.
    pub(crate) fn advance(&self, c: char, size: f32, bold: bool) -> f32 {
        let face = self.face(bold);
        f32::from(advance(face, c)) * (size / f32::from(face.units_per_em()))
    }

    /// Draws the outline of a character at its baseline's start.
    pub(crate) fn outline(
        &self,
        c: char,
        size: f32,
        bold: bool,
        (x, y): (f32, f32),
        to: &mut impl OutlineBuilder,
    ) {
        let face = self.face(bold);
        let scale = size / f32::from(face.units_per_em());
        let glyph = face.glyph_index(c).unwrap_or_default();
        face.outline_glyph(glyph, &mut Placed { to, x, y, scale });
    }
}

fn advance(face: &Face<'_>, c: char) -> u16 {
    let glyph = face.glyph_index(c).unwrap_or_default();
    face.glyph_hor_advance(glyph).unwrap_or_default()
}

/// Transforms a glyph's outline; the font's y points up, the drawing's down.
struct Placed<'a, B> {
    to: &'a mut B,
    x: f32,
    y: f32,
    scale: f32,
}

impl<B: OutlineBuilder> Placed<'_, B> {
    fn at(&self, x: f32, y: f32) -> (f32, f32) {
        (self.x + x * self.scale, self.y - y * self.scale)
    }
}

impl<B: OutlineBuilder> OutlineBuilder for Placed<'_, B> {
    fn move_to(&mut self, x: f32, y: f32) {
        let (x, y) = self.at(x, y);
        self.to.move_to(x, y);
    }

    fn line_to(&mut self, x: f32, y: f32) {
        let (x, y) = self.at(x, y);
        self.to.line_to(x, y);
    }

    fn quad_to(&mut self, x1: f32, y1: f32, x: f32, y: f32) {
        let ((x1, y1), (x, y)) = (self.at(x1, y1), self.at(x, y));
        self.to.quad_to(x1, y1, x, y);
    }

    fn curve_to(&mut self, x1: f32, y1: f32, x2: f32, y2: f32, x: f32, y: f32) {
        let ((x1, y1), (x2, y2), (x, y)) = (self.at(x1, y1), self.at(x2, y2), self.at(x, y));
        self.to.curve_to(x1, y1, x2, y2, x, y);
    }

    fn close(&mut self) {
        self.to.close();
    }
}
