//! How the work of a call grows with its book, counted in instructions: with the words, not with their square. Shown as
//! ignored where there is no valgrind to count them.

use std::fmt::Write as _;
use std::fs;
use std::path::Path;
use std::process::Command;

use libtest_mimic::{Arguments, Failed, Trial};

type Done = Result<(), Failed>;

/// The greatest power of the size that the work may grow with.
const MOST: f64 = 1.2;

/// A book of a size.
type Book = fn(usize) -> String;

/// What is called, on which book, and of which sizes.
const CALLS: [(&str, &[&str], Book, [usize; 2]); 10] = [
    ("check_lights", &["check"], lights, [500, 2000]),
    ("check_a_chain_of_signals", &["check"], chain, [500, 2000]),
    ("check_what_is_used_twice", &["check"], twice, [200, 800]),
    ("check_a_mistake_below_what_is_used_twice", &["check"], twice_wrong, [200, 800]),
    ("check_mistakes", &["check"], mistakes, [1000, 4000]),
    ("check_a_long_name", &["check"], long_name, [5_000, 20_000]),
    ("list_lights", &["explain"], lights, [500, 2000]),
    ("lay_out_lights", &["fmt", "--check"], lights, [500, 2000]),
    ("export_lights", &["export", "--to", "c", "-o", "code"], lights, [150, 600]),
    ("draw_events", &["sheet", "--no-curves"], events, [16, 64]),
];

fn lights(n: usize) -> String {
    let mut book = "lightbook \"Many\"\nseed 7\ncurve sag { 0s 100%; 2.1s 80% smooth; 5.3s 100% ease-out }\n\
        signal mains = loop(sag)\nbehaviour buzz(floor = 85%) = held(floor..100%, every 60ms..240ms)\n"
        .to_owned();
    let strengths = [
        "400lm * buzz(60%) * mains",
        "90cd * mains",
        "30cd * sine(50%..100%, every 3.1s)",
        "200lm * buzz(40%)",
    ];
    for k in 0..n {
        let (x, z, strength) = (k % 100, k / 100, strengths[k % 4]);
        let _ = writeln!(
            book,
            "light lamp_{k} point {{ position ({x}m, 3m, {z}m); color 2400K; intensity {strength} }}"
        );
    }
    book
}

fn chain(n: usize) -> String {
    let mut book =
        "lightbook \"Chain\"\ninput swell = 20% in 0%..100%\nsignal s0 = swell\n".to_owned();
    for k in 1..n {
        let _ = writeln!(
            book,
            "signal s{k} = s{} * 50% + 25% * sine(0..1, every {}.1s)",
            k - 1,
            1 + k % 7
        );
    }
    book + &format!("light lamp point {{ intensity 10lm * s{} }}\n", n - 1)
}

fn twice_to(n: usize, last: &str) -> String {
    let mut book = "lightbook \"Twice\"\nsignal s0 = sine(0..1, every 3.1s)\n".to_owned();
    for k in 1..n {
        let _ = writeln!(book, "signal s{k} = s{0} * s{0}", k - 1);
    }
    book + &format!("light lamp point {{ intensity {last} s{} }}\n", n - 1)
}

fn twice(n: usize) -> String {
    twice_to(n, "10lm *")
}

/// It may divide by zero.
fn twice_wrong(n: usize) -> String {
    twice_to(n, "10lm /")
}

fn mistakes(n: usize) -> String {
    let mut book = "lightbook \"Mistakes\"\n".to_owned();
    for k in 0..n {
        let _ = writeln!(book, "light l{k} point {{ intensity 10lm * nothing{k}; colour 3 }}");
    }
    book
}

fn long_name(n: usize) -> String {
    let name = "a".repeat(n);
    format!("lightbook \"Long\"\nvalue {name} = 1lm\nlight b point {{ intensity {name}x }}\n")
}

/// So many happen in each tenth of a second.
fn events(n: usize) -> String {
    let mut book = "lightbook \"Events\"\nevent tick every 100ms\n".to_owned();
    for k in 0..n {
        let _ =
            writeln!(book, "event e{k} every 100ms\nswitch s{k} {{ starts off; flip at e{k} }}");
    }
    book + "light lamp point { intensity 1lm * s0 }\n"
}

/// How many instructions a call takes.
fn instructions(folder: &Path, arguments: &[&str]) -> Result<f64, Failed> {
    let output = Command::new("valgrind")
        .args(["--tool=cachegrind", "--cache-sim=no", "--cachegrind-out-file=/dev/null"])
        .arg(env!("CARGO_BIN_EXE_caltrin"))
        .args([&arguments[..1], &["book.caltrin"], &arguments[1..]].concat())
        .env("XDG_CACHE_HOME", folder)
        .current_dir(folder)
        .output()?;
    let told = String::from_utf8_lossy(&output.stderr);
    if output.status.code().is_none_or(|code| code > 1) {
        return Err(format!("the call failed: {told}").into());
    }
    let line = told.lines().rev().find_map(|line| line.split_once("I   refs:"));
    let (_, count) = line.ok_or_else(|| format!("valgrind says {told}"))?;
    Ok(count.replace(',', "").trim().parse()?)
}

fn grows_straight(arguments: &[&str], book: Book, sizes: [usize; 2]) -> Done {
    let folder = tempfile::tempdir()?;
    let mut work = [0.0; 2];
    for (size, work) in sizes.into_iter().zip(&mut work) {
        fs::write(folder.path().join("book.caltrin"), book(size))?;
        *work = instructions(folder.path(), arguments)?;
    }
    let power = (work[1] / work[0]).ln() / (sizes[1] as f64 / sizes[0] as f64).ln();
    println!("{} of {sizes:?}: {work:?} instructions, power {power:.2}", arguments[0]);
    if power > MOST {
        return Err(format!("the work grows with the power {power:.2}: {work:?}").into());
    }
    Ok(())
}

fn main() {
    let arguments = Arguments::from_args();
    let missing = Command::new("valgrind").arg("--version").output().is_err();
    let trials = CALLS.into_iter().map(|(name, arguments, book, sizes)| {
        Trial::test(name, move || grows_straight(arguments, book, sizes)).with_ignored_flag(missing)
    });
    libtest_mimic::run(&arguments, trials.collect()).exit();
}
