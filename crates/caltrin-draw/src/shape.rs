//! Neutral shapes, the output of layout and the input of all painters.
//!
//! Lengths are in pixels of the drawing, y points down, colors are 8-bit sRGB with alpha.

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

/// An axis-aligned rectangle.
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

/// The anchor of a text.
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
    /// The x position of its anchor.
    pub x: f32,
    /// Its baseline.
    pub y: f32,
    /// Size of the type.
    pub size: f32,
    /// Bold or regular.
    pub bold: bool,
    /// The anchor at `x`.
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
    /// A line between two points, with a width.
    Line((f32, f32), (f32, f32), f32, Ink),
    /// A row of colors of equal width that fills the frame.
    Ribbon(Frame, Vec<[u8; 3]>),
    /// A row of vertical bars of equal width that fills the frame, each from an upper to a lower
    /// end.
    Bars(Frame, Vec<(f32, f32)>, Ink),
    /// A filled disc: center and radius.
    Disc((f32, f32), f32, Ink),
    /// An image of columns and rows, three bytes per pixel, scaled to the frame with interpolation.
    Image(Frame, u32, u32, Vec<u8>),
    /// A text.
    Text(Text),
}

impl Shape {
    /// Creates a text.
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

/// A drawing: a background and shapes, painted in order.
#[derive(Clone, Debug, PartialEq)]
pub struct Picture {
    /// Width in pixels.
    pub width: u32,
    /// Height in pixels.
    pub height: u32,
    /// The background color.
    pub ground: Ink,
    /// A text alternative for readers who cannot see it.
    pub title: String,
    /// The shapes.
    pub shapes: Vec<Shape>,
    /// The readings for painters with a pointer or without pixels.
    pub readings: Option<Readings>,
}

/// The values of the lanes of a drawing.
#[derive(Clone, Debug, PartialEq)]
pub struct Readings {
    /// The first and last value of the horizontal axis.
    pub span: (f64, f64),
    /// The unit of the horizontal axis: `s`, `clock` for hours of the day, another, or empty for a
    /// ratio.
    pub unit: String,
    /// A one-line summary.
    pub about: String,
    /// The lanes from top to bottom.
    pub lanes: Vec<Reading>,
}

/// The values of one lane.
#[derive(Clone, Debug, PartialEq)]
pub struct Reading {
    /// The frame of its columns.
    pub frame: Frame,
    /// The light's name, with a suffix that distinguishes several lanes of it.
    pub name: String,
    /// The unit of its level; empty for a ratio.
    pub unit: String,
    /// Its upper end.
    pub top: f32,
    /// Minimum, mean and maximum of each column.
    pub levels: Vec<[f32; 3]>,
    /// The color of each column's light, 8-bit sRGB.
    pub colors: Vec<[u8; 3]>,
    /// The codes of its findings.
    pub findings: Vec<&'static str>,
}
