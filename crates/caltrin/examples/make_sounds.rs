//! Makes the sounds of the books again: a fog horn, a winch, a bell buoy, rain on a tin roof and a pump as small WAV files,
//! a carillon and a waltz as MIDI files. All of them are computed, from sines and drawn numbers, and come out the same each
//! time.
//!
//! `cargo run --release --example make_sounds -- FOLDER`; without a folder into the books' own.

use std::error::Error;
use std::f64::consts::TAU;
use std::path::{Path, PathBuf};

use libm::{exp, pow, sin};
use midly::num::{u4, u7, u15, u24, u28};
use midly::{Format, Header, MetaMessage, MidiMessage, Smf, Timing, TrackEvent, TrackEventKind};

/// Drawn numbers, -1 to 1, the same in each run.
struct Noise(u32);

impl Noise {
    fn next(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 17;
        self.0 ^= self.0 << 5;
        f64::from(self.0) / f64::from(u32::MAX) * 2.0 - 1.0
    }
}

/// From 0 to 1 between two moments, softly.
fn soft(t: f64, from: f64, to: f64) -> f64 {
    let u = ((t - from) / (to - from)).clamp(0.0, 1.0);
    u * u * (3.0 - 2.0 * u)
}

fn samples(rate: u32, seconds: f64) -> impl Iterator<Item = f64> {
    (0..(f64::from(rate) * seconds) as u32).map(move |n| f64::from(n) / f64::from(rate))
}

/// Two blasts, a long one and a short one, that waver a little, with breath in them.
fn horn(rate: u32) -> Vec<f64> {
    let (mut noise, mut breath) = (Noise(41), 0.0);
    samples(rate, 5.5)
        .map(|t| {
            let blast =
                |from: f64, to: f64| soft(t, from, from + 0.35) * (1.0 - soft(t, to, to + 0.5));
            let level = blast(0.0, 2.3).max(0.8 * blast(3.3, 4.2));
            let turns = 118.0 * t + 0.4 * sin(TAU * 0.7 * t);
            let tone: f64 =
                (1..=9).map(|n| sin(TAU * turns * f64::from(n)) / pow(f64::from(n), 1.2)).sum();
            breath += 0.25 * (noise.next() - breath);
            level * (0.34 * tone + 0.12 * breath) * (1.0 + 0.06 * sin(TAU * 5.3 * t))
        })
        .collect()
}

/// A motor that labours, and the pawl that falls into the teeth of its wheel; it loops without a seam.
fn winch(rate: u32) -> Vec<f64> {
    let mut noise = Noise(7);
    let mut clack = 0.0;
    let mut tooth = -1.0;
    samples(rate, 4.0)
        .map(|t| {
            let labour = 0.7 + 0.3 * sin(TAU * t / 4.0);
            // 26 teeth a turn, a little uneven, as the load swings.
            let turned = 26.0 * t / 4.0 + 0.3 * sin(TAU * t / 2.0);
            if turned.floor() > tooth {
                tooth = turned.floor();
                clack = 0.45 + 0.25 * noise.next().abs();
            }
            clack *= 1.0 - 38.0 / f64::from(rate);
            let motor: f64 = [(1.0, 0.5), (2.0, 0.3), (3.0, 0.18), (6.0, 0.08)]
                .iter()
                .map(|(n, level)| level * sin(TAU * 46.0 * n * t))
                .sum();
            0.22 * labour * motor + clack * noise.next()
        })
        .collect()
}

/// A bell that the swell strikes, now and then and never evenly, over water.
fn bell_buoy(rate: u32) -> Vec<f64> {
    let strikes = [(0.3f64, 1.0), (1.9, 0.55), (2.6, 0.8), (4.9, 0.7), (6.2, 0.35)];
    let partials = [
        (0.5, 0.5, 0.9f64),
        (1.0, 1.0, 1.5),
        (1.19, 0.6, 1.9),
        (1.5, 0.35, 2.4),
        (2.0, 0.5, 3.1),
        (2.74, 0.3, 4.4),
    ];
    let (mut noise, mut water) = (Noise(1907), 0.0);
    samples(rate, 7.5)
        .map(|t| {
            let bell: f64 = strikes
                .iter()
                .filter(|(at, _)| t >= *at)
                .map(|(at, force)| {
                    let since = t - at;
                    let tone: f64 = partials
                        .iter()
                        .map(|(n, level, fall)| {
                            level * sin(TAU * 430.0 * n * since) * exp(-fall * since)
                        })
                        .sum();
                    force * tone * soft(since, 0.0, 0.002)
                })
                .sum();
            water += 0.08 * (noise.next() - water);
            0.2 * bell + 0.05 * water * (1.0 + sin(TAU * t / 7.5))
        })
        .collect()
}

/// Drops on a tin roof: each rings for an instant.
fn rain_on_tin(rate: u32) -> Vec<f64> {
    let mut noise = Noise(29);
    let mut all = vec![0.0; (f64::from(rate) * 4.0) as usize];
    for _ in 0..520 {
        let at = ((noise.next() + 1.0) * 0.5 * all.len() as f64) as usize;
        let force = pow(noise.next().abs(), 3.0);
        let pitch = 1_200.0 + 2_400.0 * noise.next().abs();
        for n in 0..rate as usize / 12 {
            let t = n as f64 / f64::from(rate);
            let place = (at + n) % all.len();
            all[place] += 0.5 * force * sin(TAU * pitch * t) * exp(-70.0 * t);
        }
    }
    all.iter_mut().for_each(|v| *v += 0.015 * noise.next());
    all
}

/// A pump with two pistons: each thrust thuds, and the valve after it hisses; it loops without a seam.
fn pump(rate: u32) -> Vec<f64> {
    let mut noise = Noise(613);
    let (turns, long) = (6.0, 4.4);
    samples(rate, long)
        .map(|t| {
            let turn = (turns * t / long).fract();
            let thrust = if turn < 0.5 { (turn, 0.9) } else { (turn - 0.5, 0.6) };
            let since = thrust.0 * long / turns;
            let thud = thrust.1 * exp(-11.0 * since) * soft(since, 0.0, 0.012);
            let hiss = 0.2 * soft(since, 0.12, 0.18) * exp(-14.0 * (since - 0.12).max(0.0));
            let hum = 0.06 * sin(TAU * 100.0 * t) * (1.0 + 0.3 * sin(TAU * t / long));
            0.8 * thud * sin(TAU * (48.0 * since + 1.2 * exp(-20.0 * since)))
                + hiss * noise.next()
                + hum
        })
        .collect()
}

fn write(path: &Path, rate: u32, samples: &[f64]) -> Result<(), Box<dyn Error>> {
    let spec = hound::WavSpec {
        channels: 1,
        sample_rate: rate,
        bits_per_sample: 16,
        sample_format: hound::SampleFormat::Int,
    };
    let mut file = hound::WavWriter::create(path, spec)?;
    for v in samples {
        file.write_sample((v.clamp(-1.0, 1.0) * 32_000.0).round() as i16)?;
    }
    Ok(file.finalize()?)
}

/// Bars of three beats, of a tune with a beat a note: on the first of each a low one sounds two octaves below.
fn in_three(tune: impl IntoIterator<Item = u8>, beat_us: u32) -> Smf<'static> {
    let quarter = 96;
    let event = |delta: u32, kind| TrackEvent { delta: u28::new(delta), kind };
    let note = |key: u8, force: u8| TrackEventKind::Midi {
        channel: u4::new(0),
        message: MidiMessage::NoteOn { key: u7::new(key), vel: u7::new(force) },
    };
    let mut track = vec![
        event(0, TrackEventKind::Meta(MetaMessage::TimeSignature(3, 2, 24, 8))),
        event(0, TrackEventKind::Meta(MetaMessage::Tempo(u24::new(beat_us)))),
    ];
    for (n, key) in tune.into_iter().enumerate() {
        let low = n % 3 == 0;
        if low {
            track.push(event(0, note(key - 24, 104)));
        }
        track.push(event(0, note(key, if low { 96 } else { 70 })));
        track.push(event(quarter - 6, note(key, 0)));
        if low {
            track.push(event(0, note(key - 24, 0)));
        }
        track.push(event(6, TrackEventKind::Meta(MetaMessage::Text(b""))));
    }
    track.push(event(0, TrackEventKind::Meta(MetaMessage::EndOfTrack)));
    let header = Header { format: Format::SingleTrack, timing: Timing::Metrical(u15::new(96)) };
    Smf { header, tracks: vec![track] }
}

/// Eight bars: a peal down, answered by a low bell.
fn carillon() -> Smf<'static> {
    let tune = [79, 76, 72, 77, 74, 71, 76, 72, 67, 74, 71, 67];
    in_three([tune, tune].concat(), 625_000)
}

/// Eight bars of a waltz for a small band: four that climb, four that come home.
fn waltz() -> Smf<'static> {
    let climbs = [65, 69, 72, 67, 70, 74, 69, 72, 77, 76, 74, 72];
    let home = [74, 70, 67, 72, 69, 65, 70, 67, 64, 65, 60, 65];
    in_three([climbs, home].concat(), 430_000)
}

fn main() -> Result<(), Box<dyn Error>> {
    let own = Path::new(env!("CARGO_MANIFEST_DIR")).join("books/sounds");
    let folder = std::env::args().nth(1).map_or(own, PathBuf::from);
    std::fs::create_dir_all(&folder)?;
    write(&folder.join("horn.wav"), 8_000, &horn(8_000))?;
    write(&folder.join("winch.wav"), 8_000, &winch(8_000))?;
    write(&folder.join("bell_buoy.wav"), 8_000, &bell_buoy(8_000))?;
    write(&folder.join("rain_on_tin.wav"), 11_025, &rain_on_tin(11_025))?;
    write(&folder.join("pump.wav"), 8_000, &pump(8_000))?;
    carillon().save(folder.join("carillon.mid"))?;
    waltz().save(folder.join("waltz.mid"))?;
    println!("made 7 sounds in {}", folder.display());
    Ok(())
}
