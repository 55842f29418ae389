//! Makes the pictures of the books again: the deck of the Saltgate pier from above, with its planks, its edge and the water
//! around it, and the pool of the lido with its lanes. They are computed and come out the same each time.
//!
//! `cargo run --release --example make_pictures -- FOLDER`; without a folder into the books' own.

use std::error::Error;
use std::path::{Path, PathBuf};

use image::codecs::jpeg::JpegEncoder;
use image::{Rgb, RgbImage};
use libm::sin;

/// Pixels a meter.
const FINE: f64 = 5.0;
/// The corner of the picture at the left and the back, and its size, in meters.
const LEFT: f64 = -60.0;
const BACK: f64 = -80.0;
const WIDE: f64 = 200.0;
const DEEP: f64 = 160.0;

/// A number that belongs to a place, 0 to 1.
fn drawn(x: i64, y: i64) -> f64 {
    let mut v = (x as u32).wrapping_mul(0x9e37_79b1) ^ (y as u32).wrapping_mul(0x85eb_ca77);
    v ^= v >> 15;
    v = v.wrapping_mul(0x2c1b_3c6d);
    v ^= v >> 12;
    f64::from(v % 1000) / 999.0
}

/// The color of a place on the ground, each part 0 to 255.
fn color(x: f64, z: f64) -> [f64; 3] {
    let on_deck = (-3.0..=63.0).contains(&x) && (-7.0..=13.0).contains(&z);
    if !on_deck {
        // Water: long, shallow waves.
        let wave = (sin(x * 1.3 + z * 2.1) + sin(x * 0.4 - z * 3.3)) / 2.0;
        // In a few tones, which keeps the file small.
        let tone = 1.0 + 0.12 * (wave * 4.0).round() / 4.0;
        return [86.0 * tone, 112.0 * tone, 120.0 * tone];
    }
    if !(-2.6..=62.6).contains(&x) || !(-6.6..=12.6).contains(&z) {
        return [118.0, 112.0, 104.0];
    }
    // Planks of 60 cm across the pier, each with joints and a tone of its own.
    let plank = (x / 0.6).floor();
    let joint = (z + 4.0 * drawn(plank as i64, 7)) / 4.0;
    let seam = x / 0.6 - plank < 0.12 || joint - joint.floor() < 0.025;
    let tone = 0.82 + 0.36 * drawn(plank as i64, joint.floor() as i64);
    let dark = if seam { 0.45 } else { 1.0 };
    [150.0, 128.0, 104.0].map(|v| v * tone * dark)
}

/// The pool of the lido: a pixel is 25 cm.
fn pool() -> RgbImage {
    RgbImage::from_fn(96, 56, |x, y| {
        let rim = !(4..92).contains(&x) || !(4..52).contains(&y);
        let lane = (y - y.min(4)) % 8 == 4 && !(x / 2).is_multiple_of(3);
        Rgb(match (rim, lane) {
            (true, _) => {
                if (x + y) % 2 == 0 {
                    [214, 206, 190]
                } else {
                    [196, 188, 172]
                }
            }
            (false, true) => [28, 58, 96],
            (false, false) => {
                if (x + 2 * y) % 5 == 0 {
                    [96, 176, 190]
                } else {
                    [84, 164, 180]
                }
            }
        })
    })
}

fn main() -> Result<(), Box<dyn Error>> {
    let books = Path::new(env!("CARGO_MANIFEST_DIR")).join("books/pictures");
    let folder = std::env::args().nth(1).map_or(books, PathBuf::from);
    let (wide, high) = ((WIDE * FINE) as u32, (DEEP * FINE) as u32);
    let deck = RgbImage::from_fn(wide, high, |px, py| {
        // The mean of four places in each pixel.
        let mut sum = [0.0; 3];
        for n in 0..4 {
            let (dx, dy) = (f64::from(n % 2) / 2.0 + 0.25, f64::from(n / 2) / 2.0 + 0.25);
            let at = color(LEFT + (f64::from(px) + dx) / FINE, BACK + (f64::from(py) + dy) / FINE);
            sum.iter_mut().zip(at).for_each(|(sum, v)| *sum += v / 4.0);
        }
        Rgb(sum.map(|v| v.clamp(0.0, 255.0) as u8))
    });
    let mut file = std::fs::File::create(folder.join("deck.jpg"))?;
    deck.write_with_encoder(JpegEncoder::new_with_quality(&mut file, 82))?;
    pool().save(folder.join("pool.png"))?;
    println!("made deck.jpg, {wide} x {high}, and pool.png");
    Ok(())
}
