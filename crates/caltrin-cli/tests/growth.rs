//! How the work of a call grows with its book, counted in instructions: with the words, not with their square. Shown as
//! ignored where there is no valgrind to count them.

mod grown;

use std::fs;
use std::path::Path;
use std::process::Command;

use grown::{Book, CALLS, Call};
use libtest_mimic::{Arguments, Failed, Trial};

type Done = Result<(), Failed>;

/// The greatest power of the size that the work may grow with.
const MOST: f64 = 1.2;

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
    let trials = CALLS.into_iter().map(|Call { name, arguments, book, counted }| {
        Trial::test(name, move || grows_straight(arguments, book, counted))
            .with_ignored_flag(missing)
    });
    libtest_mimic::run(&arguments, trials.collect()).exit();
}
