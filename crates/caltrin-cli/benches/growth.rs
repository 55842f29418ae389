//! How long calls take on books of 10 to 10,000 lights, signals, errors or letters: a table, and the curves as a picture
//! in `target/growth.svg`, both axes logarithmic. `cargo bench -p caltrin-cli --bench growth`

#[path = "../tests/grown/mod.rs"]
mod grown;

use std::fmt::Write as _;
use std::fs;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use grown::{CALLS, Call};

const SIZES: [usize; 7] = [10, 30, 100, 300, 1_000, 3_000, 10_000];
/// After a call that took longer, larger sizes are skipped.
const LONGEST: Duration = Duration::from_secs(20);
const COLORS: [&str; 10] = [
    "#4c78a8", "#f58518", "#54a24b", "#b279a2", "#e45756", "#72b7b2", "#9d755d", "#eeca3b",
    "#ff9da6", "#8a8a8a",
];

fn main() {
    // `cargo test --benches` only builds it.
    if !std::env::args().any(|argument| argument == "--bench") {
        return;
    }
    let folder = tempfile::tempdir().expect("there is room for a folder");
    println!("{:<42}{}", "seconds", SIZES.map(|size| format!("{size:>9}")).concat());
    let curves: Vec<Vec<f64>> = CALLS.iter().map(|call| times(folder.path(), call)).collect();
    let target = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/growth.svg");
    fs::write(&target, drawn(&curves)).expect("the picture can be written");
    println!("the curves are in target/growth.svg");
}

/// The shortest of three runs for each size, in seconds.
fn times(folder: &Path, call: &Call) -> Vec<f64> {
    let mut times = Vec::new();
    for size in SIZES {
        fs::write(folder.join("book.caltrin"), (call.book)(size)).expect("the book can be written");
        let time = (0..3).map(|_| time(folder, call)).min().unwrap_or_default();
        times.push(time.as_secs_f64());
        if time > LONGEST {
            break;
        }
    }
    let cells: String = times.iter().map(|time| format!("{time:>9.3}")).collect();
    println!("{:<42}{cells}", call.name);
    times
}

fn time(folder: &Path, call: &Call) -> Duration {
    let start = Instant::now();
    let arguments = [&call.arguments[..1], &["book.caltrin"], &call.arguments[1..]].concat();
    let ended = Command::new(env!("CARGO_BIN_EXE_caltrin"))
        .args(arguments)
        .current_dir(folder)
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .status();
    let code = ended.expect("the command runs").code();
    assert!(code.is_some_and(|code| code <= 1), "{} failed", call.name);
    start.elapsed()
}

/// One line for each call, over the size, from 1 ms to 100 s.
fn drawn(curves: &[Vec<f64>]) -> String {
    let x = |size: f64| 60.0 + (size.log10() - 1.0) * 200.0;
    let y = |time: f64| 500.0 - (time.max(1e-3).log10() + 3.0) * 92.0;
    let mut out = String::from(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 1000 540\" font-family=\"sans-serif\" font-size=\"13\">\n\
         <rect width=\"1000\" height=\"540\" fill=\"white\"/>\n",
    );
    for decade in 1..=4 {
        let (size, at) = (10u32.pow(decade), x(10f64.powi(decade as i32)));
        let _ = writeln!(
            out,
            "<path d=\"M{at} 40V500\" stroke=\"#ddd\"/><text x=\"{at}\" y=\"520\" text-anchor=\"middle\">{size}</text>"
        );
    }
    for decade in -3..=2 {
        let (time, at) = (10f64.powi(decade), y(10f64.powi(decade)));
        let _ = writeln!(
            out,
            "<path d=\"M60 {at}H660\" stroke=\"#ddd\"/><text x=\"52\" y=\"{}\" text-anchor=\"end\">{time} s</text>",
            at + 4.0
        );
    }
    for (n, (curve, call)) in curves.iter().zip(&CALLS).enumerate() {
        let points = SIZES.iter().zip(curve);
        let points = points.map(|(size, time)| format!("{:.1},{:.1}", x(*size as f64), y(*time)));
        let (color, at) = (COLORS[n % COLORS.len()], 60 + n * 24);
        let _ = writeln!(
            out,
            "<polyline points=\"{}\" fill=\"none\" stroke=\"{color}\" stroke-width=\"2\"/>\n\
             <text x=\"690\" y=\"{at}\" fill=\"{color}\">{}</text>",
            points.collect::<Vec<_>>().join(" "),
            call.name
        );
    }
    out + "</svg>\n"
}
