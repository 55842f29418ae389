//! What events cost: a frame in which nothing happens in a large book, a frame in which everything does, and ten
//! thousand runs of a small book in exported C.

use std::fmt::Write;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::Duration;

use caltrin::core::quantity::Seconds;
use caltrin::core::{Run, SourceNotes, ValidatedProgram};
use caltrin::export::{export, target_named};
use criterion::{Criterion, criterion_group, criterion_main};

/// 10,000 lamps in 200 arrays under 50 groups, with 20 modes and 20 sequences.
fn large() -> ValidatedProgram {
    let mut text = String::from(
        "lightbook \"Large\"\nseed 1\nevent go, halt\ninput level = 20% in 0%..100%\n\
         switch power { starts on; off at halt over 1s; on at go over 2s smooth }\n",
    );
    for n in 0..20 {
        let _ = writeln!(
            text,
            "modes m{n} {{ calm, watch, alarm; calm -> watch when level above {}% for 2s over 3s; \
             watch -> alarm when level above 90% over 1s; any -> calm at halt over 2s }}\n\
             sequence s{n} at go {{ 2s row{n}.intensity 90cd smooth; 3s mark mark{n}; 9s return over 2s }}",
            50 + n
        );
    }
    for n in 0..200 {
        let _ = writeln!(
            text,
            "light row{n}[50] point {{ color 2400K; intensity 40cd * held(60%..100%, every 60ms..240ms) \
             * pick(m{}, calm 100%, watch 50%, alarm 10%) }}",
            n % 20
        );
    }
    for n in 0..50 {
        let all: Vec<String> = (0..4).map(|m| format!("row{}", 4 * n + m)).collect();
        let _ = writeln!(text, "group g{n} {{ lights {}; dim with power to 3% }}", all.join(", "));
    }
    caltrin::read(&text, "large.caltrin").checked.expect("the book is good")
}

const SMALL: &str = "lightbook \"Small\"
seed 3
event hit
event fault every 25s..70s
switch power { starts on; off at hit over 60ms }
light lamp point {
  color #ffc37a
  intensity 90cd * (1 - pulse(at fault, lasts 700ms)) * held(94%..100%, every 20ms..60ms) * power
}
";

/// Ten thousand runs that are advanced by a frame; prints nanoseconds and the bytes of a run.
const MAIN: &str = "#include <stdio.h>
#include <stdlib.h>
#include <time.h>
#include \"small.h\"
static small_run runs[10000];
int main(int count, char **words) {
    const long frames = count > 1 ? atol(words[1]) : 1;
    struct timespec a, b;
    long n, f;
    for (n = 0; n < 10000; ++n) runs[n] = small_start((uint32_t)n);
    clock_gettime(CLOCK_MONOTONIC, &a);
    for (f = 1; f <= frames; ++f)
        for (n = 0; n < 10000; ++n) small_advance(&runs[n], (double)f / 60.0);
    clock_gettime(CLOCK_MONOTONIC, &b);
    printf(\"%lld %zu\\n\", (long long)(b.tv_sec - a.tv_sec) * 1000000000LL + (b.tv_nsec - a.tv_nsec), sizeof runs[0]);
    return runs[0].now < 0.0;
}
";

fn compiled(folder: &Path) -> PathBuf {
    let opened = caltrin::read(SMALL, "small.caltrin");
    let checked = opened.checked.expect("the book is good");
    let file = export(&checked, &SourceNotes::default(), target_named("c").expect("C is known"));
    std::fs::write(folder.join(&file.file_name), &file.text).expect("there is room");
    std::fs::write(folder.join("main.c"), MAIN).expect("there is room");
    let program = folder.join("small");
    let done = Command::new("gcc")
        .args(["-std=gnu11", "-O3", "-o"])
        .arg(&program)
        .arg(folder.join("main.c"))
        .arg("-lm")
        .status()
        .expect("gcc is there");
    assert!(done.success(), "it compiles");
    program
}

fn timed(program: &Path, frames: u64) -> (Duration, usize) {
    let out = Command::new(program).arg(frames.to_string()).output().expect("it runs");
    let text = String::from_utf8_lossy(&out.stdout);
    let mut words = text.split_whitespace();
    let nanoseconds = words.next().and_then(|word| word.parse().ok()).expect("it prints them");
    let bytes = words.next().and_then(|word| word.parse().ok()).expect("and bytes");
    (Duration::from_nanos(nanoseconds), bytes)
}

fn events(criterion: &mut Criterion) {
    let checked = large();
    let go = checked.program().event_named("go").expect("it is there");
    let mut group = criterion.benchmark_group("large");
    group.sample_size(30);
    let mut run = Run::new(&checked);
    let mut n = 0u32;
    group.bench_function("a_quiet_frame", |bench| {
        bench.iter(|| {
            n += 1;
            run.advance(Seconds(f64::from(n) / 60.0));
        });
    });
    group.bench_function("a_frame_with_an_event", |bench| {
        bench.iter(|| {
            n += 1;
            run.advance(Seconds(f64::from(n) / 60.0));
            run.fire(go);
        });
    });
    group.finish();
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let program = compiled(folder.path());
    println!("a run of the small book takes {} bytes in C", timed(&program, 1).1);
    let mut group = criterion.benchmark_group("small");
    group.sample_size(20);
    group.bench_function("ten_thousand_runs_in_c", |bench| {
        bench.iter_custom(|frames| timed(&program, frames).0);
    });
    group.finish();
}

criterion_group!(benches, events);
criterion_main!(benches);
