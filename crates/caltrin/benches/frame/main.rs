//! The cost of a frame: the evaluator, exported C and Rust, and the same lights written by hand,
//! in one run. Exported and hand-written code are compiled with the same options and timed inside
//! their own processes.

use std::path::Path;
use std::process::Command;
use std::time::Duration;

use caltrin::core::quantity::Seconds;
use caltrin::core::{Run, SourceNotes, ValidatedProgram};
use caltrin::export::{export, target_named};
use criterion::{Criterion, Throughput, criterion_group, criterion_main};

const BOOK: &str = include_str!("bench.caltrin");
const LAMPS: u64 = 100_000;

fn frame(criterion: &mut Criterion) {
    let opened = caltrin::read(BOOK, "bench.caltrin");
    let checked = opened.checked.expect("the book is good");
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let compiled = compile(&checked, folder.path());
    for (what, lamps) in [("row", LAMPS), ("mantle", LAMPS), ("flame", LAMPS), ("single", 1)] {
        let mut group = criterion.benchmark_group(what);
        group.sample_size(30).throughput(Throughput::Elements(lamps));
        let id = checked.program().light_named(what).expect("the light is there");
        let mut run = Run::new(&checked);
        let mut out = vec![0.0; run.width(id) * lamps as usize];
        let mut n = 0u32;
        group.bench_function("evaluator", |bench| {
            bench.iter(|| {
                n = (n + 1) % 100_000;
                run.advance(Seconds(100.0 + f64::from(n) * 0.0166));
                run.read(id, 0, &mut out);
            });
        });
        group.bench_function("evaluator_after_30_years", |bench| {
            bench.iter(|| {
                n = (n + 1) % 100_000;
                run.advance(Seconds(9.4e8 + f64::from(n) * 0.0166));
                run.read(id, 0, &mut out);
            });
        });
        // The stock's lights are written by hand in C only.
        let stock = matches!(what, "mantle" | "flame");
        for (language, program) in compiled.iter().filter(|(c, _)| !stock || *c == "c") {
            for who in ["exported", "hand"] {
                let argument = format!("{who}_{what}");
                group.bench_function(format!("{language}_{who}"), |bench| {
                    bench.iter_custom(|frames| timed(program, &argument, frames));
                });
            }
        }
        group.finish();
    }
}

/// Runs a program for some frames; it prints how many nanoseconds they took.
fn timed(program: &Path, what: &str, frames: u64) -> Duration {
    let out = Command::new(program)
        .args([what, &frames.to_string()])
        .output()
        .expect("the compiled program runs");
    let text = String::from_utf8_lossy(&out.stdout);
    Duration::from_nanos(text.trim().parse().expect("it prints nanoseconds"))
}

fn compile(checked: &ValidatedProgram, folder: &Path) -> Vec<(&'static str, std::path::PathBuf)> {
    let put = |name: &str, text: &str| {
        std::fs::write(folder.join(name), text).expect("the folder can be written");
    };
    for language in ["c", "rust"] {
        let target = target_named(language).expect("the language is known");
        let file = export(checked, &SourceNotes::default(), target);
        put(&file.file_name, &file.text);
    }
    put("hand.h", include_str!("hand.h"));
    put("main.c", include_str!("main.c"));
    put("hand.rs", include_str!("hand.rs.in"));
    put("main.rs", include_str!("main.rs.in"));
    let at = |name: &str| folder.join(name);
    let c = Command::new("gcc")
        .args(["-std=c99", "-O3", "-o"])
        .args([at("c"), at("main.c")])
        .arg("-lm")
        .status();
    let rust = Command::new("rustc")
        .args(["--edition=2021", "-C", "opt-level=3", "-o"])
        .args([at("rust"), at("main.rs")])
        .status();
    let mut compiled = Vec::new();
    for (language, status) in [("c", c), ("rust", rust)] {
        match status {
            Ok(status) if status.success() => compiled.push((language, at(language))),
            _ => println!("{language}: not tried, its compiler is missing or refused"),
        }
    }
    compiled
}

/// Every behavior of the stock in an array of 100,000, one after the other.
fn stock(criterion: &mut Criterion) {
    let stocked = caltrin::stock();
    let lights = |text: String| text.replace(" point {", "[100000] point {");
    let opened = caltrin::read(&lights(caltrin::showcase()), "stock.caltrin");
    let checked = opened.checked.expect("the stock is good");
    let mut group = criterion.benchmark_group("stock");
    group.sample_size(20).throughput(Throughput::Elements(LAMPS));
    for stocked in stocked {
        let Some(id) = checked.program().light_named(&stocked.name) else { continue };
        let mut run = Run::new(&checked);
        let mut out = vec![0.0; run.width(id) * LAMPS as usize];
        let mut n = 0u32;
        group.bench_function(&stocked.name, |bench| {
            bench.iter(|| {
                n = (n + 1) % 100_000;
                run.advance(Seconds(100.0 + f64::from(n) * 0.0166));
                run.read(id, 0, &mut out);
            });
        });
    }
    group.finish();
}

/// Exported code against hand-written, in turns, so that a machine whose speed wanders does it to both.
fn ratios(_: &mut Criterion) {
    let opened = caltrin::read(BOOK, "bench.caltrin");
    let checked = opened.checked.expect("the book is good");
    let folder = tempfile::tempdir().expect("there is room for a folder");
    for (language, program) in compile(&checked, folder.path()) {
        for (what, frames) in [("row", 60), ("mantle", 40), ("flame", 30), ("single", 3_000_000)] {
            if language != "c" && matches!(what, "mantle" | "flame") {
                continue;
            }
            let mut all: Vec<f64> = (0..21)
                .map(|_| {
                    let [exported, hand] = ["exported", "hand"]
                        .map(|who| timed(&program, &format!("{who}_{what}"), frames).as_secs_f64());
                    exported / hand
                })
                .collect();
            all.sort_by(f64::total_cmp);
            println!(
                "{language} {what}: exported over hand-written {:.2}, median of 21 turns",
                all[10]
            );
        }
    }
}

criterion_group!(benches, frame, stock, ratios);
criterion_main!(benches);
