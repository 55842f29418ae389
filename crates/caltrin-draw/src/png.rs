//! The PNG painter. Its output is deterministic.

use std::io::Write;
use std::sync::{Mutex, mpsc};

use caltrin_core::MADE;
use rustc_hash::FxHashMap;
use thiserror::Error;
use tiny_skia::{
    Color, FillRule, Mask, Paint, PathBuilder, Pixmap, PixmapMut, PremultipliedColorU8, Rect,
    Stroke, Transform,
};
use ttf_parser::OutlineBuilder;

use crate::font::Fonts;
use crate::shape::{Anchor, Frame, Ink, Picture, Shape, Text};

/// An error of the PNG painter.
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
    /// The encoder failed.
    #[error("the picture cannot be encoded: {0}")]
    Encoding(#[from] png::EncodingError),
}

/// Maximum number of pixels of a drawing.
const MOST_PIXELS: u64 = 160_000_000;

/// Paints a drawing as a PNG file.
pub fn png(picture: &Picture) -> Result<Vec<u8>, PngError> {
    let (width, height) = (picture.width, picture.height);
    paint(picture, |painted, count| encode_bands(painted, count, [width, height], true))
}

/// Paints a drawing in bands of rows, opaque RGBA; `take` receives each when it is done.
fn paint<T>(
    picture: &Picture,
    take: impl FnOnce(&mpsc::Receiver<(usize, &[u8])>, usize) -> Result<T, PngError>,
) -> Result<T, PngError> {
    let (width, height) = (picture.width, picture.height);
    let too_large = PngError::TooLarge { width, height };
    if u64::from(width) * u64::from(height) > MOST_PIXELS {
        return Err(too_large);
    }
    let Some(mut pixmap) = Pixmap::new(width, height) else { return Err(too_large) };
    let fonts = Fonts::new();
    // Bands of rows are painted on all cores, each core taking the next that is open; a band goes
    // to the encoder as soon as those above it are there.
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let line = width as usize * 4;
    let rows = (height as usize).div_ceil(cores * 4).max(64);
    let bands: Vec<(usize, &mut [u8])> =
        pixmap.data_mut().chunks_mut(rows * line).enumerate().collect();
    let count = bands.len();
    let open = Mutex::new(bands.into_iter());
    let (tell, painted) = mpsc::channel();
    std::thread::scope(|scope| {
        for _ in 0..cores {
            let (tell, open, fonts) = (tell.clone(), &open, &fonts);
            scope.spawn(move || {
                let mut glyphs = Glyphs::default();
                let next = || open.lock().ok().and_then(|mut bands| bands.next());
                while let Some((n, bytes)) = next() {
                    let tall = (bytes.len() / line) as u32;
                    if let Some(pixels) = PixmapMut::from_bytes(bytes, width, tall) {
                        let top = (n * rows) as f32;
                        let mut band = RowBand { pixels, top, fonts, glyphs: &mut glyphs };
                        band.pixels.fill(color(picture.ground));
                        picture.shapes.iter().for_each(|shape| band.paint(shape));
                    }
                    // The encoder went away only if it refused, and then nothing is awaited.
                    let _ = tell.send((n, &*bytes));
                }
            });
        }
        drop(tell);
        take(&painted, count)
    })
}

/// Paints drawings of one size as a looping animated PNG, at a frame rate. `told` is called after
/// each with the number of finished ones.
///
/// # Errors
/// See [`fn@png`]; the encoder rejects drawings of different sizes.
pub fn apng(
    pictures: impl ExactSizeIterator<Item = Picture>,
    rate: u16,
    mut told: impl FnMut(usize),
) -> Result<Vec<u8>, PngError> {
    let count = pictures.len() as u32;
    let mut pictures = pictures.enumerate();
    let mut out = Vec::new();
    let Some((_, first)) = pictures.next() else { return Ok(out) };
    let mut encoder = png::Encoder::new(&mut out, first.width, first.height);
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_compression(png::Compression::Balanced);
    encoder.set_source_srgb(png::SrgbRenderingIntent::Perceptual);
    encoder.set_animated(count, 0)?;
    encoder.set_frame_delay(1, rate.max(1))?;
    encoder.add_text_chunk("Software".to_owned(), MADE.to_owned())?;
    let mut writer = encoder.write_header()?;
    writer.write_image_data(&pixels(&first)?)?;
    told(1);
    for (n, picture) in pictures {
        writer.write_image_data(&pixels(&picture)?)?;
        told(n + 1);
    }
    writer.finish()?;
    Ok(out)
}

/// Paints a drawing as rows of pixels, three bytes each.
///
/// # Errors
/// If it is too large.
pub fn pixels(picture: &Picture) -> Result<Vec<u8>, PngError> {
    paint(picture, |painted, count| {
        let mut bands: Vec<Option<&[u8]>> = vec![None; count];
        for (n, band) in painted {
            bands[n] = Some(band);
        }
        let mut all =
            Vec::with_capacity(bands.iter().flatten().map(|band| band.len() / 4 * 3).sum());
        for rgba in bands.into_iter().flatten().flat_map(|band| band.chunks_exact(4)) {
            all.extend_from_slice(&rgba[..3]);
        }
        Ok(all)
    })
}

/// Encodes opaque RGBA pixels.
pub(crate) fn encode(rgba: &[u8], width: u32, height: u32) -> Result<Vec<u8>, PngError> {
    let (tell, painted) = mpsc::channel();
    // The other end is held right here.
    let _ = tell.send((0, rgba));
    drop(tell);
    encode_bands(&painted, 1, [width, height], false)
}

/// Encodes opaque RGBA pixels from bands in any order. A separate file carries the mark of its
/// generator.
fn encode_bands(
    painted: &mpsc::Receiver<(usize, &[u8])>,
    count: usize,
    [width, height]: [u32; 2],
    marked: bool,
) -> Result<Vec<u8>, PngError> {
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, width, height);
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_compression(png::Compression::Fast);
    encoder.set_filter(png::Filter::Sub);
    encoder.set_source_srgb(png::SrgbRenderingIntent::Perceptual);
    if marked {
        encoder.add_text_chunk("Software".to_owned(), MADE.to_owned())?;
    }
    let mut writer = encoder.write_header()?;
    let mut stream = writer.stream_writer()?;
    let mut waiting: Vec<Option<&[u8]>> = vec![None; count];
    let mut next = 0;
    let mut rgb = Vec::new();
    while let Ok((n, band)) = painted.recv() {
        waiting[n] = Some(band);
        while let Some(rgba) = waiting.get(next).copied().flatten() {
            rgb.resize(rgba.len() / 4 * 3, 0);
            for (opaque, pixel) in rgb.chunks_exact_mut(3).zip(rgba.chunks_exact(4)) {
                opaque.copy_from_slice(&pixel[..3]);
            }
            stream.write_all(&rgb).map_err(png::EncodingError::IoError)?;
            next += 1;
        }
    }
    stream.finish()?;
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

/// A band of rows.
struct RowBand<'a> {
    pixels: PixmapMut<'a>,
    /// Index of the band's first row in the drawing.
    top: f32,
    fonts: &'a Fonts,
    glyphs: &'a mut Glyphs,
}

/// Characters that were drawn before: which, whether bold, and the bits of size and of the fractions
/// of a pixel that they start at.
type Glyphs = FxHashMap<(char, bool, [u32; 3]), Glyph>;

impl RowBand<'_> {
    fn paint(&mut self, shape: &Shape) {
        match shape {
            Shape::Box(f, ink) => self.rect(f.x, f.y, f.x + f.w, f.y + f.h, *ink),
            Shape::Line((x1, y1), (x2, y2), width, ink) => {
                let half = width / 2.0;
                if x1 == x2 {
                    self.rect(x1 - half, y1.min(*y2), x1 + half, y1.max(*y2), *ink);
                } else if y1 != y2 {
                    let mut path = PathBuilder::new();
                    path.move_to(*x1, *y1);
                    path.line_to(*x2, *y2);
                    if let Some(path) = path.finish() {
                        let stroke = Stroke { width: *width, ..Stroke::default() };
                        let down = Transform::from_translate(0.0, -self.top);
                        self.pixels.stroke_path(&path, &paint_of(*ink), &stroke, down, None);
                    }
                } else {
                    self.rect(x1.min(*x2), y1 - half, x1.max(*x2), y1 + half, *ink);
                }
            }
            Shape::Bars(frame, all, ink) => self.bars(*frame, all, *ink),
            Shape::Ribbon(frame, colors) => self.ribbon(*frame, colors),
            Shape::Disc((x, y), radius, ink) => {
                if !self.misses(y - radius - 1.0, y + radius + 1.0)
                    && let Some(path) = PathBuilder::from_circle(*x, y - self.top, *radius)
                {
                    let paint = paint_of(*ink);
                    let still = Transform::identity();
                    self.pixels.fill_path(&path, &paint, FillRule::Winding, still, None);
                }
            }
            Shape::Image(frame, w, h, rgb) => self.image(*frame, (*w as usize, *h as usize), rgb),
            Shape::Text(text) => self.words(text),
        }
    }

    /// Whether a range of rows does not intersect this band.
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

    /// The columns of pixels that a frame covers, and its first and last row.
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

    /// Blends bars directly into the pixels, with partial coverage.
    fn bars(&mut self, frame: Frame, all: &[(f32, f32)], ink: Ink) {
        let (left, right, ..) = self.covered(frame);
        if all.is_empty() || right <= left || self.misses(frame.y - 2.0, frame.y + frame.h + 2.0) {
            return;
        }
        let (width, height) = (self.pixels.width() as usize, self.pixels.height() as usize);
        let [r, g, b, a] = ink.0;
        // Two parts of a pixel are blended in one word, 16 bits each.
        let (red_blue, green) = (u32::from(r) | u32::from(b) << 16, u32::from(g));
        let bytes = self.pixels.data_mut();
        for x in left..right {
            let (upper, lower) = all[(x - left) * all.len() / (right - left)];
            let (upper, lower) = (upper - self.top, lower - self.top);
            let first = upper.floor().max(0.0) as usize;
            let last = (lower.ceil().max(0.0) as usize).min(height);
            for y in first..last {
                // Only the first and the last pixel can be covered in part.
                let share = if y == first || y + 1 == last {
                    let covered = lower.min(y as f32 + 1.0) - upper.max(y as f32);
                    (f32::from(a) * covered.clamp(0.0, 1.0) + 0.5) as u32
                } else {
                    u32::from(a)
                };
                let pixel = &mut bytes[(y * width + x) * 4..][..4];
                let under = u32::from_le_bytes([pixel[0], pixel[1], pixel[2], pixel[3]]);
                let over = |new: u32, old: u32| {
                    let sum = new * share + old * (255 - share) + 0x007f_007f;
                    // A division by 255 of each half.
                    ((sum + 0x0001_0001 + (sum >> 8 & 0x00ff_00ff)) >> 8) & 0x00ff_00ff
                };
                let mixed = over(red_blue, under & 0x00ff_00ff)
                    | (over(green, under >> 8 & 0xff) & 0xff) << 8
                    | 0xff00_0000;
                // The ground is opaque, so every mixture is.
                pixel.copy_from_slice(&mixed.to_le_bytes());
            }
        }
    }

    /// Writes colors directly into the pixels, row by row; edges are on whole pixels.
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

    /// Scales an image to a frame with bilinear interpolation.
    fn image(&mut self, frame: Frame, (w, h): (usize, usize), rgb: &[u8]) {
        let (left, right, top, bottom) = self.covered(frame);
        if right <= left || w == 0 || h == 0 {
            return;
        }
        // Which two of the image's pixels a place lies between, and how far along.
        let between = |at: f32, size: f32, most: usize| {
            let v = (at / size * most as f32 - 0.5).clamp(0.0, most as f32 - 1.0);
            let first = (v as usize).min(most - 1);
            (first, (first + 1).min(most - 1), ((v - first as f32) * 256.0) as u32)
        };
        let columns: Vec<_> =
            (left..right).map(|x| between(x as f32 + 0.5 - frame.x, frame.w, w)).collect();
        let width = self.pixels.width() as usize;
        let down = self.top - frame.y;
        let bytes = self.pixels.data_mut();
        for y in top..bottom {
            let (above, below, v) = between(y as f32 + 0.5 + down, frame.h, h);
            let row = &mut bytes[(y * width + left) * 4..(y * width + right) * 4];
            for (pixel, (a, b, u)) in row.chunks_exact_mut(4).zip(&columns) {
                for part in 0..3 {
                    let of =
                        |row: usize, column: usize| u32::from(rgb[(row * w + column) * 3 + part]);
                    let upper = of(above, *a) * (256 - u) + of(above, *b) * u;
                    let lower = of(below, *a) * (256 - u) + of(below, *b) * u;
                    pixel[part] = ((upper * (256 - v) + lower * v + 32_768) >> 16) as u8;
                }
                pixel[3] = 255;
            }
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
        let mut at = x;
        for c in text.words.chars() {
            self.character(c, text, (at, text.y - self.top));
            at += self.fonts.advance(c, text.size, text.bold);
        }
    }

    /// Paints a character. Its coverage is cached by its subpixel position.
    fn character(&mut self, c: char, text: &Text, (x, y): (f32, f32)) {
        let (left, top) = (x.floor(), y.floor());
        let part = (x - left, y - top);
        let which = (c, text.bold, [text.size.to_bits(), part.0.to_bits(), part.1.to_bits()]);
        let fonts = self.fonts;
        let glyph = self.glyphs.entry(which).or_insert_with(|| Glyph::draw(fonts, c, text, part));
        let [r, g, b, a] = text.ink.0.map(u32::from);
        let (width, height) = (self.pixels.width() as i32, self.pixels.height() as i32);
        let (left, top) = (left as i32 + glyph.left, top as i32 + glyph.top);
        let bytes = self.pixels.data_mut();
        for (row, covered) in glyph.covered.chunks_exact(glyph.width.max(1)).enumerate() {
            let y = top + row as i32;
            if !(0..height).contains(&y) {
                continue;
            }
            for (column, covered) in covered.iter().enumerate() {
                let x = left + column as i32;
                if *covered == 0 || !(0..width).contains(&x) {
                    continue;
                }
                let share = (u32::from(*covered) * a + 127) / 255;
                let pixel = &mut bytes[((y * width + x) * 4) as usize..][..3];
                for (old, new) in pixel.iter_mut().zip([r, g, b]) {
                    *old = ((new * share + u32::from(*old) * (255 - share) + 127) / 255) as u8;
                }
            }
        }
    }
}

/// How much of each pixel a character covers, around the pixel that its baseline starts in.
struct Glyph {
    left: i32,
    top: i32,
    width: usize,
    covered: Vec<u8>,
}

impl Glyph {
    fn draw(fonts: &Fonts, c: char, text: &Text, (x, y): (f32, f32)) -> Glyph {
        let nothing = Glyph { left: 0, top: 0, width: 0, covered: Vec::new() };
        let mut outline = Outline(PathBuilder::new());
        fonts.outline(c, text.size, text.bold, (x, y), &mut outline);
        let Some(path) = outline.0.finish() else { return nothing };
        let bounds = path.bounds();
        let (left, top) = (bounds.left().floor(), bounds.top().floor());
        let (right, bottom) = (bounds.right().ceil(), bounds.bottom().ceil());
        let (width, height) = ((right - left) as u32, (bottom - top) as u32);
        let Some(mut mask) = Mask::new(width.max(1), height.max(1)) else { return nothing };
        mask.fill_path(&path, FillRule::Winding, true, Transform::from_translate(-left, -top));
        Glyph {
            left: left as i32,
            top: top as i32,
            width: mask.width() as usize,
            covered: mask.data().to_vec(),
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
