//! What it costs to hear a sound, to remember it, and to make a table of what follows it.

use std::io::BufWriter;

use caltrin::core::quantity::Seconds;
use caltrin::core::sound::{Envelope, Follower, Measure, Playing};
use caltrin::sound::{Cache, SoundLoader, hear};
use criterion::{Criterion, Throughput, criterion_group, criterion_main};

const RATE: u32 = 48_000;
const MINUTE: u32 = 60 * RATE;

/// A minute of stereo noise that swells and falls, as 16-bit WAV.
fn write(path: &std::path::Path) {
    let spec = hound::WavSpec {
        channels: 2,
        sample_rate: RATE,
        bits_per_sample: 16,
        sample_format: hound::SampleFormat::Int,
    };
    let file = BufWriter::new(std::fs::File::create(path).expect("there is room for a sound"));
    let mut file = hound::WavWriter::new(file, spec).expect("the head can be written");
    let mut x = 1u32;
    for n in 0..2 * MINUTE {
        x ^= x << 13;
        x ^= x >> 17;
        x ^= x << 5;
        let swell = (f64::from(n) * 3e-5).sin().abs();
        let v = (f64::from(x) / f64::from(u32::MAX) * 2.0 - 1.0) * swell;
        file.write_sample((v * 32_000.0) as i16).expect("there is room for a sample");
    }
    file.finalize().expect("the head can be written again");
}

fn hearing(c: &mut Criterion) {
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let path = folder.path().join("minute.wav");
    write(&path);
    let mut group = c.benchmark_group("hearing");
    group.sample_size(10);
    group.throughput(Throughput::Elements(u64::from(MINUTE)));
    group.bench_function("a minute of 48 kHz stereo", |b| {
        b.iter(|| hear(&path, &[], None).expect("it is whole"))
    });
    let cache = Cache::at(folder.path().join("cache"));
    let ears = SoundLoader::new(folder.path()).keeping(Some(&cache));
    let heard = ears.hear("minute.wav", &[]).expect("it is whole");
    group.bench_function("the same, remembered", |b| {
        b.iter(|| ears.hear("minute.wav", &[]).expect("it is kept"))
    });
    let targets = heard.targets(Measure::Level, None, 0.0);
    let follower = Follower { attack: Seconds(0.015), release: Seconds(0.28) };
    group.bench_function("a table of what follows it", |b| {
        b.iter(|| Envelope::of(follower, &targets, heard.length(), Playing::Once))
    });
    group.finish();
}

criterion_group!(benches, hearing);
criterion_main!(benches);
