//! The picture of a backdrop.

use std::sync::Arc;

use caltrin_core::color::Rgb;

use super::scene::Vec3;

/// A picture with mipmaps.
#[derive(Clone, Debug, PartialEq)]
pub struct Texture {
    /// Each half as wide and high as the one before, down to one pixel.
    levels: Arc<Vec<Level>>,
}

#[derive(Debug, PartialEq)]
struct Level {
    wide: usize,
    high: usize,
    /// Linear light and coverage, 0..1.
    pixels: Vec<[f32; 4]>,
}

impl Texture {
    /// Takes rows of pixels from the top, each of red, green, blue and alpha in 8-bit sRGB. What is missing at the end is
    /// transparent.
    pub fn new(wide: u32, high: u32, pixels: Vec<u8>) -> Texture {
        let linear: Vec<f32> = (0..=255u8).map(|v| Rgb::from_srgb8(v, v, v).0[0] as f32).collect();
        let (wide, high) = (wide.max(1) as usize, high.max(1) as usize);
        let chunks = pixels.chunks_exact(4);
        let mut first: Vec<[f32; 4]> = chunks
            .map(|p| {
                let [r, g, b] = [p[0], p[1], p[2]].map(|v| linear[usize::from(v)]);
                [r, g, b, f32::from(p[3]) / 255.0]
            })
            .collect();
        first.resize(wide * high, [0.0; 4]);
        let mut levels = vec![Level { wide, high, pixels: first }];
        while let Some(next) = levels.last().and_then(Level::halved) {
            levels.push(next);
        }
        Texture { levels: Arc::new(levels) }
    }

    /// Its width and height in pixels.
    pub fn size(&self) -> (u32, u32) {
        (self.levels[0].wide as u32, self.levels[0].high as u32)
    }

    /// Its color at a point, 0..1 from the left and from the top, where one pixel of what is drawn covers `size` of its
    /// own; none where it is more transparent than not.
    pub(crate) fn sample(&self, u: f32, v: f32, size: f32) -> Option<Vec3> {
        let last = (self.levels.len() - 1) as f32;
        let level = size.max(1.0).log2().min(last);
        let (low, part) = (level.floor() as usize, level.fract());
        let mut color = self.levels[low].sample(u, v);
        if part > 0.0 && low + 1 < self.levels.len() {
            let coarse = self.levels[low + 1].sample(u, v);
            for (color, coarse) in color.iter_mut().zip(coarse) {
                *color += (coarse - *color) * part;
            }
        }
        let [r, g, b, alpha] = color;
        (alpha >= 0.5).then_some([r, g, b])
    }
}

impl Level {
    fn at(&self, x: f32, y: f32) -> [f32; 4] {
        let x = (x.max(0.0) as usize).min(self.wide - 1);
        let y = (y.max(0.0) as usize).min(self.high - 1);
        self.pixels[y * self.wide + x]
    }

    /// Between the four pixels around a point.
    fn sample(&self, u: f32, v: f32) -> [f32; 4] {
        let (x, y) = (u * self.wide as f32 - 0.5, v * self.high as f32 - 0.5);
        let (left, top) = (x.floor(), y.floor());
        let (right, foot) = (x - left, y - top);
        let mix =
            |a: [f32; 4], b: [f32; 4], part: f32| [0, 1, 2, 3].map(|n| a[n] + (b[n] - a[n]) * part);
        let upper = mix(self.at(left, top), self.at(left + 1.0, top), right);
        let lower = mix(self.at(left, top + 1.0), self.at(left + 1.0, top + 1.0), right);
        mix(upper, lower, foot)
    }

    /// The mean of each four pixels; none of a single one.
    fn halved(&self) -> Option<Level> {
        if self.wide == 1 && self.high == 1 {
            return None;
        }
        let (wide, high) = ((self.wide / 2).max(1), (self.high / 2).max(1));
        let mut pixels = Vec::with_capacity(wide * high);
        for y in 0..high {
            for x in 0..wide {
                let mut sum = [0.0f32; 4];
                for (dx, dy) in [(0, 0), (1, 0), (0, 1), (1, 1)] {
                    let part = self.at((2 * x + dx) as f32, (2 * y + dy) as f32);
                    for (sum, part) in sum.iter_mut().zip(part) {
                        *sum += part / 4.0;
                    }
                }
                pixels.push(sum);
            }
        }
        Some(Level { wide, high, pixels })
    }
}
