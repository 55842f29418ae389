//! From a lightbook's text to a checked program, and from there to a sheet, for books of 10, 100
//! and 1,000 lights.

use std::fmt::Write;
use std::hint::black_box;

use caltrin::draw::{SheetOptions, png, sheet, svg};
use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};

/// A made-up book of `n` lights of four sorts.
fn book(n: usize) -> String {
    let mut text = String::from(
        "lightbook \"Sluice\"\nseed 3\n\
         curve sag { 0s 100%; 2.1s 80% smooth; 5.3s 100% smooth }\n\
         signal mains = loop(sag)\n\
         behaviour buzz(floor = 85%) = held(floor..100%, every 60ms..240ms)\n",
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

criterion_group!(benches, books);
criterion_main!(benches);
