//! The PNG painter. The same picture gives the same bytes.

use thiserror::Error;
use tiny_skia::{
    Color, FillRule, Paint, PathBuilder, Pixmap, PremultipliedColorU8, Rect, Stroke, Transform,
};
use ttf_parser::OutlineBuilder;

use crate::font::Fonts;
use crate::shape::{Anchor, Frame, Ink, Picture, Shape, Text};

/// Why there is no PNG.
#[derive(Debug, Error)]
pub enum PngError {
    /// Too many pixels.
    #[error("a picture of {width} x {height} pixels is too large; show fewer lights or use SVG")]
    TooLarge {
        /// Width in pixels.
        width: u32,
        /// Height in pixels.
        height: u32,
    },
    /// The encoder refused.
    #[error("the picture cannot be encoded: {0}")]
    Encoding(#[from] png::EncodingError),
}

/// Most pixels of a picture.
const MOST_PIXELS: u64 = 160_000_000;

/// Paints a picture as a PNG file.
pub fn png(picture: &Picture) -> Result<Vec<u8>, PngError> {
    let (width, height) = (picture.width, picture.height);
    let too_large = PngError::TooLarge { width, height };
    if u64::from(width) * u64::from(height) > MOST_PIXELS {
        return Err(too_large);
    }
    let Some(mut pixmap) = Pixmap::new(width, height) else { return Err(too_large) };
    pixmap.fill(color(picture.ground));
    let fonts = Fonts::new();
    for shape in &picture.shapes {
        paint(&mut pixmap, &fonts, shape);
    }
    encode(pixmap.data(), width, height)
}

/// Encodes opaque RGBA pixels.
pub(crate) fn encode(rgba: &[u8], width: u32, height: u32) -> Result<Vec<u8>, PngError> {
    let rgb: Vec<u8> = rgba.chunks_exact(4).flat_map(|p| [p[0], p[1], p[2]]).collect();
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, width, height);
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_compression(png::Compression::Fast);
    encoder.set_source_srgb(png::SrgbRenderingIntent::Perceptual);
    let mut writer = encoder.write_header()?;
    writer.write_image_data(&rgb)?;
    writer.finish()?;
    Ok(out)
}

fn color(Ink([r, g, b, a]): Ink) -> Color {
    Color::from_rgba8(r, g, b, a)
}

fn paint_of(ink: Ink) -> Paint<'static> {
    let mut paint = Paint::default();
    paint.set_color(color(ink));
    paint
}

fn paint(pixmap: &mut Pixmap, fonts: &Fonts, shape: &Shape) {
    let still = Transform::identity();
    match shape {
        Shape::Box(f, ink) => {
            if let Some(rect) = Rect::from_xywh(f.x, f.y, f.w, f.h) {
                pixmap.fill_rect(rect, &paint_of(*ink), still, None);
            }
        }
        Shape::Area(points, ink) => {
            let mut path = PathBuilder::new();
            trace(&mut path, points);
            path.close();
            if let Some(path) = path.finish() {
                pixmap.fill_path(&path, &paint_of(*ink), FillRule::Winding, still, None);
            }
        }
        Shape::Line(points, width, ink) => {
            if let [(x1, y1), (x2, y2)] = points[..]
                && (x1 == x2 || y1 == y2)
            {
                straight(pixmap, (x1, y1), (x2, y2), *width, *ink);
                return;
            }
            let mut path = PathBuilder::new();
            trace(&mut path, points);
            if let Some(path) = path.finish() {
                let stroke = Stroke { width: *width, ..Stroke::default() };
                pixmap.stroke_path(&path, &paint_of(*ink), &stroke, still, None);
            }
        }
        Shape::Ribbon(frame, colors) => ribbon(pixmap, *frame, colors),
        Shape::Text(text) => words(pixmap, fonts, text),
    }
}

/// A level or upright line, as the rectangle that it is.
fn straight(pixmap: &mut Pixmap, (x1, y1): (f32, f32), (x2, y2): (f32, f32), width: f32, ink: Ink) {
    let half = width / 2.0;
    let rect = if x1 == x2 {
        Rect::from_ltrb(x1 - half, y1.min(y2), x1 + half, y1.max(y2))
    } else {
        Rect::from_ltrb(x1.min(x2), y1 - half, x1.max(x2), y1 + half)
    };
    if let Some(rect) = rect {
        let mut paint = paint_of(ink);
        paint.anti_alias = true;
        pixmap.fill_rect(rect, &paint, Transform::identity(), None);
    }
}

fn trace(path: &mut PathBuilder, points: &[(f32, f32)]) {
    for (n, (x, y)) in points.iter().enumerate() {
        if n == 0 { path.move_to(*x, *y) } else { path.line_to(*x, *y) }
    }
}

/// Writes the colours straight into the pixels, row by row; edges lie on whole pixels.
fn ribbon(pixmap: &mut Pixmap, frame: Frame, colors: &[[u8; 3]]) {
    let clamp = |v: f32, most: u32| (v.round().max(0.0) as u32).min(most) as usize;
    let (left, right) = (clamp(frame.x, pixmap.width()), clamp(frame.x + frame.w, pixmap.width()));
    let (top, bottom) =
        (clamp(frame.y, pixmap.height()), clamp(frame.y + frame.h, pixmap.height()));
    if colors.is_empty() || right <= left {
        return;
    }
    let row: Vec<PremultipliedColorU8> = (left..right)
        .map(|x| {
            let at = (x - left) * colors.len() / (right - left);
            let [r, g, b] = colors[at];
            Color::from_rgba8(r, g, b, 255).premultiply().to_color_u8()
        })
        .collect();
    let width = pixmap.width() as usize;
    for y in top..bottom {
        pixmap.pixels_mut()[y * width + left..y * width + right].copy_from_slice(&row);
    }
}

fn words(pixmap: &mut Pixmap, fonts: &Fonts, text: &Text) {
    let width = fonts.width(&text.words, text.size, text.bold);
    let x = match text.anchor {
        Anchor::Start => text.x,
        Anchor::Middle => text.x - width / 2.0,
        Anchor::End => text.x - width,
    };
    let mut outline = Outline(PathBuilder::new());
    fonts.outline(&text.words, text.size, text.bold, (x, text.y), &mut outline);
    if let Some(path) = outline.0.finish() {
        let mut paint = paint_of(text.ink);
        paint.anti_alias = true;
        pixmap.fill_path(&path, &paint, FillRule::Winding, Transform::identity(), None);
    }
}

struct Outline(PathBuilder);

impl OutlineBuilder for Outline {
    fn move_to(&mut self, x: f32, y: f32) {
        self.0.move_to(x, y);
    }

    fn line_to(&mut self, x: f32, y: f32) {
        self.0.line_to(x, y);
    }

    fn quad_to(&mut self, x1: f32, y1: f32, x: f32, y: f32) {
        self.0.quad_to(x1, y1, x, y);
    }

    fn curve_to(&mut self, x1: f32, y1: f32, x2: f32, y2: f32, x: f32, y: f32) {
        self.0.cubic_to(x1, y1, x2, y2, x, y);
    }

    fn close(&mut self) {
        self.0.close();
    }
}
