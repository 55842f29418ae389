//! The PNG painter. The same picture gives the same bytes.

use thiserror::Error;
use tiny_skia::{
    Color, FillRule, Paint, PathBuilder, Pixmap, PixmapMut, PremultipliedColorU8, Rect, Transform,
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
    let fonts = Fonts::new();
    // Bands of rows are painted side by side on all cores.
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let rows = (height as usize).div_ceil(cores).max(64);
    std::thread::scope(|scope| {
        let bands = pixmap.data_mut().chunks_mut(rows * width as usize * 4).enumerate();
        for (n, bytes) in bands {
            let fonts = &fonts;
            scope.spawn(move || {
                let tall = (bytes.len() / (width as usize * 4)) as u32;
                if let Some(pixels) = PixmapMut::from_bytes(bytes, width, tall) {
                    let mut band = Band { pixels, top: (n * rows) as f32, fonts };
                    band.pixels.fill(color(picture.ground));
                    picture.shapes.iter().for_each(|shape| band.paint(shape));
                }
            });
        }
    });
    encode(pixmap.data(), width, height)
}

/// Encodes opaque RGBA pixels.
pub(crate) fn encode(rgba: &[u8], width: u32, height: u32) -> Result<Vec<u8>, PngError> {
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, width, height);
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_compression(png::Compression::Fast);
    encoder.set_filter(png::Filter::Sub);
    encoder.set_source_srgb(png::SrgbRenderingIntent::Perceptual);
    let mut writer = encoder.write_header()?;
    let mut rgb = Vec::with_capacity(rgba.len() / 4 * 3);
    rgb.extend(rgba.chunks_exact(4).flat_map(|p| [p[0], p[1], p[2]]));
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

/// Some rows of the picture.
struct Band<'a> {
    pixels: PixmapMut<'a>,
    /// The picture's row that is the band's first.
    top: f32,
    fonts: &'a Fonts,
}

impl Band<'_> {
    fn paint(&mut self, shape: &Shape) {
        match shape {
            Shape::Box(f, ink) => self.rect(f.x, f.y, f.x + f.w, f.y + f.h, *ink),
            Shape::Line((x1, y1), (x2, y2), width, ink) => {
                let half = width / 2.0;
                if x1 == x2 {
                    self.rect(x1 - half, y1.min(*y2), x1 + half, y1.max(*y2), *ink);
                } else {
                    self.rect(x1.min(*x2), y1 - half, x1.max(*x2), y1 + half, *ink);
                }
            }
            Shape::Bars(frame, all, ink) => self.bars(*frame, all, *ink),
            Shape::Ribbon(frame, colors) => self.ribbon(*frame, colors),
            Shape::Text(text) => self.words(text),
        }
    }

    /// Whether nothing between two rows of the picture lies in this band.
    fn misses(&self, from: f32, to: f32) -> bool {
        to < self.top || from > self.top + self.pixels.height() as f32
    }

    fn rect(&mut self, left: f32, top: f32, right: f32, bottom: f32, ink: Ink) {
        if self.misses(top, bottom) {
            return;
        }
        if let Some(rect) = Rect::from_ltrb(left, top - self.top, right, bottom - self.top) {
            let mut paint = paint_of(ink);
            paint.anti_alias = true;
            self.pixels.fill_rect(rect, &paint, Transform::identity(), None);
        }
    }

    /// The columns of pixels that a frame covers, and the first and last row.
    fn covered(&self, frame: Frame) -> (usize, usize, usize, usize) {
        let clamp = |v: f32, most: u32| (v.round().max(0.0) as u32).min(most) as usize;
        let (width, height) = (self.pixels.width(), self.pixels.height());
        (
            clamp(frame.x, width),
            clamp(frame.x + frame.w, width),
            clamp(frame.y - self.top, height),
            clamp(frame.y + frame.h - self.top, height),
        )
    }

    /// Blends bars straight into the pixels; a pixel that a bar covers in part takes that part.
    fn bars(&mut self, frame: Frame, all: &[(f32, f32)], ink: Ink) {
        let (left, right, ..) = self.covered(frame);
        if all.is_empty() || right <= left || self.misses(frame.y - 2.0, frame.y + frame.h + 2.0) {
            return;
        }
        let (width, height) = (self.pixels.width() as usize, self.pixels.height() as usize);
        let [r, g, b, a] = ink.0;
        let pixels = self.pixels.pixels_mut();
        for x in left..right {
            let (upper, lower) = all[(x - left) * all.len() / (right - left)];
            let (upper, lower) = (upper - self.top, lower - self.top);
            let first = upper.floor().max(0.0) as usize;
            let last = (lower.ceil().max(0.0) as usize).min(height);
            for y in first..last {
                let covered = (lower.min(y as f32 + 1.0) - upper.max(y as f32)).clamp(0.0, 1.0);
                let share = (f32::from(a) * covered + 0.5) as u32;
                let under = pixels[y * width + x];
                let over = |new: u8, old: u8| {
                    ((u32::from(new) * share + u32::from(old) * (255 - share) + 127) / 255) as u8
                };
                let mixed = PremultipliedColorU8::from_rgba(
                    over(r, under.red()),
                    over(g, under.green()),
                    over(b, under.blue()),
                    255,
                );
                // The ground is opaque, so every mixture is.
                pixels[y * width + x] = mixed.unwrap_or(under);
            }
        }
    }

    /// Writes the colours straight into the pixels, row by row; edges lie on whole pixels.
    fn ribbon(&mut self, frame: Frame, colors: &[[u8; 3]]) {
        let (left, right, top, bottom) = self.covered(frame);
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
        let width = self.pixels.width() as usize;
        for y in top..bottom {
            self.pixels.pixels_mut()[y * width + left..y * width + right].copy_from_slice(&row);
        }
    }

    fn words(&mut self, text: &Text) {
        if self.misses(text.y - text.size * 1.2, text.y + text.size * 0.5) {
            return;
        }
        let width = self.fonts.width(&text.words, text.size, text.bold);
        let x = match text.anchor {
            Anchor::Start => text.x,
            Anchor::Middle => text.x - width / 2.0,
            Anchor::End => text.x - width,
        };
        let mut outline = Outline(PathBuilder::new());
        let at = (x, text.y - self.top);
        self.fonts.outline(&text.words, text.size, text.bold, at, &mut outline);
        if let Some(path) = outline.0.finish() {
            let mut paint = paint_of(text.ink);
            paint.anti_alias = true;
            let still = Transform::identity();
            self.pixels.fill_path(&path, &paint, FillRule::Winding, still, None);
        }
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
