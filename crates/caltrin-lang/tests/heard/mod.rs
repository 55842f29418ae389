//! Sounds for tests, made as they are asked for.
#![allow(dead_code, reason = "each test uses some of it")]

use std::sync::{Arc, Mutex, PoisonError};

use caltrin_core::program::Wanted;
use caltrin_core::quantity::Seconds;
use caltrin_core::sound::{Band, Hearing, Listener, Mark, STEPS};
use caltrin_lang::{Reading, Resources, read_with_resources};

/// Where the sound of the tests begins to sound, and how loud it is then.
pub const STRUCK: [(f64, f64); 4] = [(0.25, 0.8), (1.0, 0.4), (1.7, 0.6), (2.5, 0.2)];
/// How long it is.
pub const LENGTH: f64 = 3.0;

/// A sound that is struck now and then.
pub fn struck(own: &[Band]) -> Arc<Hearing> {
    let rate = 8_000;
    let samples: Vec<f32> = (0..(f64::from(rate) * LENGTH) as u32)
        .map(|n| {
            let t = f64::from(n) / f64::from(rate);
            let each = STRUCK.iter().filter(|(at, _)| t >= *at).map(|(at, loud)| {
                loud * (-(t - at) * 9.0).exp() * ((t - at) * 440.0 * std::f64::consts::TAU).sin()
            });
            each.sum::<f64>() as f32
        })
        .collect();
    let mut listener = Listener::new(rate, 1, own).unwrap();
    listener.hear(&samples).unwrap();
    Arc::new(listener.finish().unwrap())
}

/// Three notes and four beats, a second each.
fn peal() -> Arc<Hearing> {
    let steps = 4 * STEPS as usize;
    let marks = |all: &[(f64, f64)]| {
        all.iter().map(|(at, value)| Mark { at: *at, value: *value }).collect()
    };
    let notes = marks(&[(0.0, 60.0), (1.0, 72.0), (2.5, 67.0)]);
    let beats = marks(&[(0.0, 1.0), (1.0, 2.0), (2.0, 3.0), (3.0, 1.0)]);
    let bands = [vec![0.0; steps], vec![0.5; steps], vec![0.0; steps]];
    Arc::new(Hearing::of_notes(Seconds(4.0), vec![0.5; steps], bands, notes, beats))
}

/// The sounds of the tests by their names.
fn by_name(name: &str, own: &[Band]) -> Result<Arc<Hearing>, String> {
    match name {
        "struck.wav" => Ok(struck(own)),
        "peal.mid" | "sounds/carillon.mid" => Ok(peal()),
        "hum.wav" => {
            let mut listener = Listener::new(8_000, 1, own).unwrap();
            listener
                .hear(&(0..16_000).map(|n| (n as f32 * 0.05).sin() * 0.4).collect::<Vec<_>>())
                .unwrap();
            listener.finish().map(Arc::new).map_err(|fault| fault.to_string())
        }
        other => {
            let of_pier = OF_PIER.iter().find(|(known, _)| *known == other);
            let missing = || format!("there is no sound `{other}` in the book's folder");
            of_pier.map(|(_, bytes)| of_wav(bytes, own)).ok_or_else(missing)
        }
    }
}

/// The sounds of the demonstration that have samples.
const OF_PIER: [(&str, &[u8]); 4] = [
    ("sounds/horn.wav", include_bytes!("../../../caltrin/books/sounds/horn.wav")),
    ("sounds/winch.wav", include_bytes!("../../../caltrin/books/sounds/winch.wav")),
    ("sounds/bell_buoy.wav", include_bytes!("../../../caltrin/books/sounds/bell_buoy.wav")),
    ("sounds/rain_on_tin.wav", include_bytes!("../../../caltrin/books/sounds/rain_on_tin.wav")),
];

const STOCK: &str = include_str!("../../../caltrin/books/stock.caltrin");

/// What was heard before, by name and bands.
type Known = Vec<(String, Vec<Band>, Arc<Hearing>)>;

/// [`by_name`], each heard once however often it is asked for.
pub fn once_by_name(name: &str, own: &[Band]) -> Result<Arc<Hearing>, String> {
    static KNOWN: Mutex<Known> = Mutex::new(Vec::new());
    let mut known = KNOWN.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some((.., heard)) = known.iter().find(|(known, bands, _)| known == name && bands == own)
    {
        return Ok(Arc::clone(heard));
    }
    let heard = by_name(name, own)?;
    known.push((name.to_owned(), own.to_vec(), Arc::clone(&heard)));
    Ok(heard)
}

/// Reads a book that may use the stock and these sounds.
pub fn read(text: &str, file: &str) -> Reading {
    read_for(text, file, Wanted::default())
}

/// [`read`] with axes, unit or strengths given out otherwise than the book says.
pub fn read_for(text: &str, file: &str, wanted: Wanted) -> Reading {
    let beside = Resources { books: &|_| Ok(STOCK.to_owned()), sounds: &once_by_name };
    read_with_resources(text, file, beside, wanted)
}

/// What is heard in a WAV file of one channel and 16 bits with a plain head.
fn of_wav(bytes: &[u8], own: &[Band]) -> Arc<Hearing> {
    let rate = u32::from_le_bytes([bytes[24], bytes[25], bytes[26], bytes[27]]);
    let whole = bytes[44..].chunks_exact(2).map(|pair| i16::from_le_bytes([pair[0], pair[1]]));
    let samples: Vec<f32> = whole.map(|v| f32::from(v) / 32_768.0).collect();
    let mut listener = Listener::new(rate, 1, own).unwrap();
    listener.hear(&samples).unwrap();
    Arc::new(listener.finish().unwrap())
}
