//! From a lightbook's text to a checked program, and from there to a sheet, for books of 10, 100
//! and 1,000 lights; a large sheet, and the lit place.

use std::fmt::Write;
use std::hint::black_box;

use caltrin::core::quantity::Seconds;
use caltrin::draw::{PlaceOptions, SheetOptions, View, pixels, place, png, sheet, svg};
use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};

/// A made-up book of `n` lights of four sorts.
fn book(n: usize) -> String {
    let mut text = String::from(
        "lightbook \"Sluice\"\nseed 3\n\
         curve sag { 0s 100%; 2.1s 80% smooth; 5.3s 100% smooth }\n\
         signal mains = loop(sag)\n\
         behavior buzz(floor = 85%) = held(floor..100%, every 60ms..240ms)\n",
    );
    let strengths = [
        "700lm * buzz()",
        "400lm * buzz(60%) * mains",
        "90cd * loop(sag)",
        "250lm * held(20%..100%, every 20ms..700ms)",
    ];
    let colors = ["2100K", "#ffc37a", "#9dffb0", "9500K", "#5a8fff"];
    for i in 0..n {
        let _ = write!(
            text,
            "light lamp_{i} point {{\n  position ({i}m, 3m, 0m)\n  reach 1m..9m\n  color {}\n  intensity {}\n}}\n",
            colors[i % colors.len()],
            strengths[i % strengths.len()]
        );
    }
    text
}

fn books(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("text_to_checked");
    for n in [10, 100, 1000] {
        let text = book(n);
        group.throughput(Throughput::Elements(n as u64));
        group.bench_with_input(BenchmarkId::from_parameter(n), &text, |bench, text| {
            bench.iter(|| black_box(caltrin::read(text, "sluice.caltrin")));
        });
    }
    group.finish();
    for n in [10, 100, 1000] {
        let opened = caltrin::read(&book(n), "sluice.caltrin");
        let checked = opened.checked.expect("the book is good");
        let mut group = criterion.benchmark_group("checked_to_sheet");
        group.sample_size(10).throughput(Throughput::Elements(n as u64));
        let options = SheetOptions::default();
        group.bench_function(BenchmarkId::new("layout", n), |bench| {
            bench.iter(|| black_box(sheet(&checked, &[], &options)));
        });
        group.bench_function(BenchmarkId::new("svg", n), |bench| {
            bench.iter(|| black_box(svg(&sheet(&checked, &[], &options))));
        });
        group.bench_function(BenchmarkId::new("png", n), |bench| {
            bench.iter(|| black_box(png(&sheet(&checked, &[], &options)).unwrap()));
        });
        group.finish();
    }
}

/// Fifty lamps and twenty walls.
fn yard() -> String {
    let mut text = book(0);
    for i in 0..50 {
        let (x, z) = (i % 10 * 7, i / 10 * 8);
        let _ = writeln!(
            text,
            "light lamp_{i} point {{ position ({x}m, 3m, {z}m); reach 14m; color 2100K; intensity 700lm * buzz() }}"
        );
    }
    for i in 0..20 {
        let (x, z) = (i % 5 * 14 + 2, i / 5 * 10 + 3);
        let _ = writeln!(
            text,
            "wall w{i} {{ along ({x}m, 0m, {z}m)..({}m, 0m, {}m); height 2m }}",
            x + 6,
            z + 2
        );
    }
    text
}

/// So many lights that follow the hour, the sun or phases of the day, each with its own flicker.
fn quay(n: usize) -> String {
    let mut text = String::from(
        "lightbook \"Quay\"\nseed 3\nclock { day 24min; start 12:00 }\n\
         sun { latitude 54deg; date 324 }\nmoon { age 9 + days }\n\
         hours dark from sun.set to sun.rise over 00:30\n\
         curve day { 06:00 #203040; 12:00 #ffffff smooth; 18:00 #b08a45 smooth; 21:00 #203040 }\n\
         phases watch { night from 22:00 over 01:00; morning from 06:00 over 01:00; noon from 11:00 over 02:00 }\n",
    );
    let strengths = [
        "700lm * dark * held(80%..100%, every 60ms..240ms)",
        "90cd * (1 - sun.daylight) * held(20%..100%, every 20ms..700ms)",
        "400lm * pick(watch, night 100%, others 30%)",
        "90cd * (1 - threshold(sun.height, at drawn(-6deg..0deg), over 0.3deg))",
    ];
    for i in 0..n {
        let color = if i % 5 == 0 { "day" } else { "2400K" };
        let strength = strengths[i % strengths.len()];
        let _ = writeln!(text, "light lamp_{i} point {{ color {color}; intensity {strength} }}");
    }
    text
}

fn pictures(criterion: &mut Criterion) {
    let opened = caltrin::read(&book(200), "sluice.caltrin");
    let checked = opened.checked.expect("the book is good");
    let mut group = criterion.benchmark_group("pictures");
    group.sample_size(10);
    let options = SheetOptions { to: Some(Seconds(60.0)), ..SheetOptions::default() };
    group.bench_function("sheet_of_200_lights_over_60_s", |bench| {
        bench.iter(|| black_box(png(&sheet(&checked, &[], &options)).unwrap()));
    });
    let opened = caltrin::read(&quay(100), "quay.caltrin");
    let checked = opened.checked.expect("the book is good");
    let options = SheetOptions { day: true, curves: false, ..SheetOptions::default() };
    group.bench_function("day_of_100_lights", |bench| {
        bench.iter(|| black_box(png(&sheet(&checked, &[], &options)).unwrap()));
    });
    let opened = caltrin::read(&yard(), "yard.caltrin");
    let checked = opened.checked.expect("the book is good");
    for (name, view) in [("above", View::Above), ("front", View::Front)] {
        let options = PlaceOptions { view, ..PlaceOptions::default() };
        group.bench_function(format!("place_of_50_lamps_and_20_walls_{name}"), |bench| {
            bench.iter(|| black_box(pixels(&place(&checked, &options)).unwrap()));
        });
    }
    group.finish();
}

criterion_group!(benches, books, pictures);
criterion_main!(benches);
