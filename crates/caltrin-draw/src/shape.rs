//! Neutral shapes: what a layout comes to, and what every painter paints.
//!
//! Lengths are in pixels of the picture, y goes down, colors are 8-bit sRGB with alpha.

/// A color with alpha, 8-bit sRGB.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Ink(pub [u8; 4]);

impl Ink {
    /// An opaque color, `0xrrggbb`.
    pub const fn solid(rrggbb: u32) -> Self {
        let [_, r, g, b] = rrggbb.to_be_bytes();
        Ink([r, g, b, 255])
    }

    /// The same color with another alpha, 0..255.
    pub const fn alpha(self, alpha: u8) -> Self {
        let [r, g, b, _] = self.0;
        Ink([r, g, b, alpha])
    }
}

/// An upright rectangle.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Frame {
    /// Left side.
    pub x: f32,
    /// Upper side.
    pub y: f32,
    /// Width.
    pub w: f32,
    /// Height.
    pub h: f32,
}

/// Which end of a text its place is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Anchor {
    /// Its left end.
    Start,
    /// Its middle.
    Middle,
    /// Its right end.
    End,
}

/// A line of text.
#[derive(Clone, Debug, PartialEq)]
pub struct Text {
    /// Where its anchor is.
    pub x: f32,
    /// Its baseline.
    pub y: f32,
    /// Size of the type.
    pub size: f32,
    /// Bold or regular.
    pub bold: bool,
    /// Which end of it stands at `x`.
    pub anchor: Anchor,
    /// Its color.
    pub ink: Ink,
    /// The words.
    pub words: String,
}

/// A shape.
#[derive(Clone, Debug, PartialEq)]
pub enum Shape {
    /// A filled rectangle.
    Box(Frame, Ink),
    /// A line from one point to another, of a width.
    Line((f32, f32), (f32, f32), f32, Ink),
    /// Colors side by side, each as wide as the frame allows.
    Ribbon(Frame, Vec<[u8; 3]>),
    /// Upright bars side by side, each as wide as the frame allows, from an upper to a lower end.
    Bars(Frame, Vec<(f32, f32)>, Ink),
    /// A filled disc: its middle and radius.
    Disc((f32, f32), f32, Ink),
    /// A picture of so many columns and rows, three bytes a pixel, spread softly over the frame.
    Image(Frame, u32, u32, Vec<u8>),
    /// Words.
    Text(Text),
}

impl Shape {
    /// A line of words.
    pub(crate) fn words(
        (x, y): (f32, f32),
        size: f32,
        bold: bool,
        ink: Ink,
        anchor: Anchor,
        words: impl Into<String>,
    ) -> Shape {
        Shape::Text(Text { x, y, size, bold, anchor, ink, words: words.into() })
    }
}

/// A picture: a ground and shapes on it, the first ones lowest.
#[derive(Clone, Debug, PartialEq)]
pub struct Picture {
    /// Width in pixels.
    pub width: u32,
    /// Height in pixels.
    pub height: u32,
    /// The color beneath everything.
    pub ground: Ink,
    /// What it shows, in words, for those who cannot see it.
    pub title: String,
    /// The shapes.
    pub shapes: Vec<Shape>,
    /// What can be read off at a place of it, for painters that have a pointer or no pixels.
    pub readings: Option<Readings>,
}

/// What the lanes of a picture show, as numbers.
#[derive(Clone, Debug, PartialEq)]
pub struct Readings {
    /// What lies along the top: its first and last value.
    pub span: (f64, f64),
    /// The unit of what lies along the top: `s`, `clock` for hours of the day, another, or none for a ratio.
    pub unit: String,
    /// A line on what is shown, without marks.
    pub about: String,
    /// The lanes from top to bottom.
    pub lanes: Vec<Reading>,
}

/// What one lane shows.
#[derive(Clone, Debug, PartialEq)]
pub struct Reading {
    /// Where its columns lie in the picture.
    pub frame: Frame,
    /// The light, with what tells it from others of that name.
    pub name: String,
    /// The unit of its level; none for a ratio.
    pub unit: String,
    /// Its upper end.
    pub top: f32,
    /// Least, mean and most of each column.
    pub levels: Vec<[f32; 3]>,
    /// The color of each column's light, 8-bit sRGB.
    pub colors: Vec<[u8; 3]>,
    /// The codes of what the checks found in it.
    pub findings: Vec<&'static str>,
}
