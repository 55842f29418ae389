//! The C header under the options of other projects: it either refuses to be compiled, keeps its bits, or says at run time
//! that it does not.

use std::fs;
use std::path::Path;
use std::process::{Command, Output};

use caltrin_core::SourceNotes;
use caltrin_core::program::Size;
use caltrin_export::language::{self, Language};
use caltrin_export::names::{Case, cased};
use caltrin_export::prove::{Outcome, moments, prove};
use caltrin_export::{ExportOptions, FilePrefix, Plan, TARGETS, Target, export_as};

const BOOK: &str = include_str!("everything.caltrin");

fn checked(text: &str) -> (caltrin_core::ValidatedProgram, SourceNotes) {
    let reading = caltrin_lang::read(text, "book.caltrin");
    (reading.checked.expect("the book is good"), reading.notes)
}

fn is_there(command: &str) -> bool {
    Command::new(command).arg("--version").output().is_ok_and(|output| output.status.success())
}

/// The header of a book, and a host that says what its self-test finds.
fn folder() -> tempfile::TempDir {
    let (checked, notes) = checked(BOOK);
    let plan = Plan::of(&checked, &notes);
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("book.h"), TARGETS[1].print(&plan)).unwrap();
    let start = plan.book.to_lowercase().replace(' ', "_");
    let host = format!(
        "#include \"book.h\"\ndouble host(double a, double b, double c) {{ return a * b + c; }}\n\
         int main(void) {{ {start}_run run = {start}_start(1u); {start}_advance(&run, 1.0); return {start}_self_test() != 0; }}\n"
    );
    fs::write(folder.path().join("host.c"), host).unwrap();
    folder
}

fn compile(folder: &Path, compiler: &str, options: &str, file: &str) -> Output {
    Command::new(compiler)
        .args(options.split_whitespace())
        .args(["host.c", "-o", file])
        .args((!options.ends_with("-c") && !options.ends_with("-S")).then_some("-lm"))
        .current_dir(folder)
        .output()
        .unwrap()
}

#[test]
fn only_what_changes_results_is_refused() {
    let folder = folder();
    let mut tried = 0;
    for (compiler, options) in [
        ("gcc", "-std=gnu11 -O2"),
        ("gcc", "-std=gnu11 -O2 -march=sapphirerapids -c"),
        ("gcc", "-std=gnu11 -Ofast -march=native"),
        (
            "gcc",
            "-std=c99 -O2 -Wall -Wextra -Werror -Wconversion -Wfloat-equal -Wno-float-equal -pedantic",
        ),
        ("clang", "-std=c99 -O2 -Wall -Wextra -Werror -march=haswell -c"),
        ("aarch64-linux-gnu-gcc", "-std=gnu11 -O2 -mcpu=cortex-a76 -static"),
        ("aarch64-linux-gnu-gcc", "-std=gnu11 -Ofast -mcpu=cortex-a76 -static"),
    ] {
        if !is_there(compiler) {
            continue;
        }
        tried += 1;
        let made = compile(folder.path(), compiler, options, "built");
        let said = String::from_utf8_lossy(&made.stderr).into_owned();
        assert!(made.status.success(), "{compiler} {options}: {said}");
    }
    assert!(tried >= 4, "gcc is there");
    for (compiler, options) in [
        ("gcc", "-O2 -fsingle-precision-constant"),
        ("clang", "-O2 -ffast-math"),
        ("clang", "-O2 -ffinite-math-only"),
    ] {
        if is_there(compiler) {
            let made = compile(folder.path(), compiler, options, "built");
            assert!(!made.status.success(), "{compiler} {options} is refused");
        }
    }
}

#[test]
fn division_and_conversion_are_defined_everywhere() {
    let folder = folder();
    let options = "-std=c99 -O1 -fsanitize=undefined,float-divide-by-zero,float-cast-overflow -fno-sanitize-recover=all";
    let made = compile(folder.path(), "gcc", options, "checked");
    assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
    let run = Command::new(folder.path().join("checked")).output().unwrap();
    assert!(run.status.success(), "{}", String::from_utf8_lossy(&run.stderr));
}

/// Every book of these tests under the address and the undefined behavior sanitizer: its self-test, and runs whose state
/// is whatever lay in memory.
#[test]
fn every_book_is_clean_under_the_sanitizers() {
    let folder = tempfile::tempdir().unwrap();
    let books = fs::read_dir(concat!(env!("CARGO_MANIFEST_DIR"), "/tests")).unwrap().flatten();
    let books =
        books.map(|entry| entry.path()).filter(|path| path.extension() == Some("caltrin".as_ref()));
    let mut ran = 0;
    for book in books {
        let text = fs::read_to_string(&book).unwrap();
        // Those of sounds need their files.
        let reading = caltrin_lang::read(&text, "book.caltrin");
        let Some(checked) = reading.checked else { continue };
        let prefix = FilePrefix::new("yard").unwrap();
        let plan = Plan::of(&checked, &reading.notes).with(Some(prefix), true);
        fs::write(folder.path().join("book.h"), TARGETS[1].print(&plan)).unwrap();
        let (name, upper) = ("yard", "YARD");
        let take = match plan.queue.is_some() {
            true => format!(
                "{name}_notice notice; while ({name}_take_notice(&run, &notice)) {name}_dropped_notices(&run);"
            ),
            false => String::new(),
        };
        let host = format!(
            "#include <stdlib.h>\n#include <string.h>\n#include \"book.h\"\n\
             int main(void) {{\n  uint32_t word = 7u;\n  for (int round = 0; round < 64; ++round) {{\n    {name}_run run;\n    \
             unsigned char *bytes = (unsigned char *)&run;\n    \
             for (size_t n = 0; n < sizeof run; ++n) {{\n      word = word * 1664525u + 1013904223u;\n      \
             bytes[n] = round < 4 ? (unsigned char)(round * 85) : (unsigned char)(word >> 24);\n    }}\n    \
             {name}_advance(&run, 1.0);\n    {take}\n    {name}_advance(&run, 3.5);\n  }}\n\
             \x20 // Whatever bytes come as a save, also with a right sum.\n\
             \x20 for (int round = 0; round < 400; ++round) {{\n    {name}_run run = {name}_start(5u);\n    \
             static uint8_t saved[{upper}_SAVE_BYTES];\n    {name}_advance(&run, 2.0);\n    {name}_save(&run, saved);\n    \
             uint32_t dropped, size = sizeof saved - (round % 3 == 0 ? 4u * (word >> 28) : 0u);\n    \
             for (uint32_t n = 16; n < sizeof saved; ++n) {{\n      word = word * 1664525u + 1013904223u;\n      \
             if (word >> 30 == 0u || (round % 2 && word >> 26 == 0u)) saved[n] = (uint8_t)(word >> 16);\n    }}\n    \
             {name}_put_word(saved, 12, {name}_save_sum(saved, size));\n    \
             // On the heap, where reading beyond it is seen.\n    \
             uint8_t *own = malloc(size);\n    memcpy(own, saved, size);\n    \
             const bool good = {name}_load(&run, own, size, &dropped);\n    free(own);\n    \
             if (!good && run.seed != 5u) return 9;\n    \
             {name}_advance(&run, run.now + 1.5);\n    {take}\n  }}\n  return {name}_self_test() != 0;\n}}\n"
        );
        fs::write(folder.path().join("host.c"), host).unwrap();
        // That a flag is 0 or 1 is the language's own rule.
        let options = "-std=c99 -O1 -g -fsanitize=address,undefined -fno-sanitize=bool -fno-sanitize-recover=all";
        let made = compile(folder.path(), "gcc", options, "checked");
        assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
        let run = Command::new(folder.path().join("checked")).output().unwrap();
        let said = String::from_utf8_lossy(&run.stderr);
        assert!(run.status.success(), "{}: {} {said}", book.display(), run.status);
        ran += 1;
    }
    assert!(ran >= 12, "{ran} books");
}

#[test]
fn the_host_keeps_its_own_options_behind_the_include() {
    let folder = folder();
    for compiler in ["gcc", "clang"].into_iter().filter(|compiler| is_there(compiler)) {
        let options = "-std=gnu11 -O2 -mfma -ffp-contract=on -S";
        let options =
            if compiler == "gcc" { options.replace("=on", "=fast") } else { options.to_owned() };
        let made = compile(folder.path(), compiler, &options, "host.s");
        assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
        let text = fs::read_to_string(folder.path().join("host.s")).unwrap();
        let host = text.split("\nhost:").nth(1).unwrap().split("ret").next().unwrap();
        if cfg!(target_arch = "x86_64") {
            assert!(host.contains("vfmadd"), "{compiler}: {host}");
        }
    }
}

/// C compiled with options of its own.
struct Flagged(&'static str, &'static str);

impl Target for Flagged {
    fn name(&self) -> &str {
        "c"
    }
    fn language(&self) -> &Language {
        &language::C
    }
    fn compile(&self, folder: &Path, _: &str) -> Vec<Vec<String>> {
        let mut command = vec![self.0.to_owned()];
        command.extend(self.1.split_whitespace().map(str::to_owned));
        let made = [folder.join("prove.c"), folder.join("prove")];
        let [from, to] = made.map(|path| path.display().to_string());
        command.extend([from, "-o".to_owned(), to, "-lm".to_owned()]);
        vec![command]
    }
}

#[test]
fn no_build_gives_other_bits_without_a_word() {
    let (checked, notes) = checked(BOOK);
    let asked = moments(&checked, 3_000);
    let mut silent = Vec::new();
    for (compiler, options) in [
        ("gcc", "-DNDEBUG -std=c99 -Ofast -mfma"),
        ("clang", "-DNDEBUG -std=c99 -O2 -mfma"),
        ("clang", "-DNDEBUG -std=c99 -O3 -mfma -ffp-contract=fast"),
        ("clang", "-DNDEBUG -std=c99 -O3 -mfma -ffast-math -fno-finite-math-only"),
        ("clang", "-DNDEBUG -std=c99 -O3 -mfma -funsafe-math-optimizations"),
        (
            "clang",
            "-DNDEBUG -std=c99 -O3 -mfma -fassociative-math -fno-signed-zeros -fno-trapping-math",
        ),
        ("clang", "-DNDEBUG -std=c99 -O3 -mfma -freciprocal-math"),
    ] {
        if !is_there(compiler) || !cfg!(target_arch = "x86_64") {
            continue;
        }
        let target = Flagged(compiler, options);
        let folder = tempfile::tempdir().unwrap();
        let outcome = prove(&checked, &notes, &target, &asked, folder.path()).unwrap();
        // A build whose self-test fails ends before it is compared.
        let mismatches = match outcome {
            Outcome::Compared { mismatches, .. } => mismatches,
            Outcome::Failed { said, .. } if said.contains("ended with exit status: 1") => u64::MAX,
            outcome => panic!("{compiler} {options}: {outcome:?}"),
        };
        // The self-test of the same build says so.
        let own = self::folder();
        let made = compile(own.path(), compiler, options, "built");
        assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
        let says = !Command::new(own.path().join("built")).status().unwrap().success();
        if mismatches > 0 && !says {
            silent.push(format!("{compiler} {options}: {mismatches} wrong"));
        }
    }
    assert!(silent.is_empty(), "{silent:#?}");
}

/// Compares no two operands that read the same; `a < a` is a warning in every compiler that is asked for it.
fn compares_itself(text: &str) -> Option<&str> {
    text.lines().find(|line| {
        let words: Vec<&str> =
            line.split([' ', '(', ')', ';', ',']).filter(|word| !word.is_empty()).collect();
        // Only names count: a constant may be a mask that is compared with itself after use.
        let is_name = |word: &str| word.starts_with(|c: char| c.is_alphabetic() || c == '_');
        words.windows(3).any(|three| {
            let compares = matches!(three[1], "<" | ">" | "==" | "===");
            compares && is_name(three[0]) && three[0] == three[2]
        })
    })
}

#[test]
fn nothing_is_compared_with_itself_and_no_text_is_unpacked_in_vain() {
    let (checked, notes) = checked(include_str!("same.caltrin"));
    let plan = Plan::of(&checked, &notes);
    for target in caltrin_export::TARGETS {
        let text = target.print(&plan);
        assert_eq!(compares_itself(&text), None, "{}", target.name());
        assert!(!text.contains("% 64"), "{}: no notice has a text", target.name());
    }
    // Warnings are errors to the C# compiler, as they are in the proofs to gcc.
    if is_there("mcs") {
        let csharp = caltrin_export::target_named("csharp").unwrap();
        let folder = tempfile::tempdir().unwrap();
        fs::write(folder.path().join("Book.cs"), csharp.print(&plan)).unwrap();
        let made = Command::new("mcs")
            .args(["-warnaserror+", "-warn:4", "-target:library", "Book.cs"])
            .current_dir(folder.path())
            .output()
            .unwrap();
        assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
    }
}

/// Compiles a Rust program beside the file of a book, and runs it.
fn rust_host(text: &str, host: &str, options: &[&str]) -> Output {
    let (checked, notes) = checked(text);
    let plan = Plan::of(&checked, &notes);
    let rust = caltrin_export::target_named("rust").unwrap();
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("book.rs"), rust.print(&plan)).unwrap();
    fs::write(folder.path().join("host.rs"), host).unwrap();
    let made = Command::new("rustc")
        .args(["--edition", "2021", "-D", "warnings", "-o", "host", "host.rs"])
        .args(options)
        .current_dir(folder.path())
        .output()
        .unwrap();
    assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
    if options.contains(&"lib") {
        return made;
    }
    let run = Command::new(folder.path().join("host")).output().unwrap();
    assert!(run.status.success(), "{}", String::from_utf8_lossy(&run.stderr));
    run
}

#[test]
fn rust_is_included_or_a_module_with_or_without_the_standard_library() {
    let included = "mod lights { include!(\"book.rs\"); }\nfn main() { assert_eq!(lights::self_test(), 0); }\n";
    rust_host(BOOK, included, &[]);
    let module = "mod book;\nfn main() { let mut run = book::Run::start(1); run.step(0.1); }\n";
    rust_host(BOOK, module, &[]);
    let bare = "#![no_std]\n#![forbid(unsafe_code)]\npub mod lights { include!(\"book.rs\"); }\n";
    rust_host(BOOK, bare, &["--crate-type", "lib"]);
}

#[test]
fn the_root_of_a_host_without_the_standard_library_is_rounded_alike() {
    let host = "mod lights {
    include!(\"book.rs\");
    pub fn alike(x: f64) -> bool {
        Root::sqrt(x).to_bits() == x.sqrt().to_bits() || (x < 0.0 && Root::sqrt(x).is_nan()) || x.is_nan()
    }
}
fn main() {
    let mut state = 1u64;
    for n in 0..2_000_000u64 {
        state = state.wrapping_mul(6364136223846793005).wrapping_add(1442695040888963407);
        let all = [f64::from_bits(state), (state >> 40) as f64, f64::from_bits(state >> 12), 1.0 + n as f64 * f64::EPSILON];
        assert!(all.into_iter().all(lights::alike), \"{all:?}\");
    }
    for x in [0.0, -0.0, 5e-324, f64::MIN_POSITIVE, f64::MAX, f64::INFINITY, f64::NAN, -1.0, 4.0, 2.0] {
        assert!(lights::alike(x), \"{x}\");
    }
}
";
    rust_host(BOOK, host, &["-O"]);
}

#[test]
fn a_run_is_saved_and_restored_and_no_bytes_do_harm() {
    let host = "#[allow(dead_code)]
mod book {
    include!(\"book.rs\");
    /// Gives bytes the sum that a save of them has.
    pub fn summed(bytes: &mut [u8]) {
        let sum = save_sum(bytes, bytes.len());
        put_word(bytes, 12, sum);
    }
}
use book::Run;
fn main() {
    let mut run = Run::start(5);
    run.advance(0.4);
    run.fire_call(3.0, 4.0, 5.0);
    run.advance(1.9);
    let bytes = run.save();
    let mut again = Run::start(6);
    assert_eq!(again.load(&bytes), Some(0));
    assert!(again.save() == bytes);
    for moment in [2.0, 2.5, 30.0] {
        run.advance(moment);
        again.advance(moment);
        assert!(run.save() == again.save());
    }
    // What is refused leaves the run as it was.
    let kept = again;
    for (cut, first) in [(1, 0), (0, 1), (0, 7), (4, 0), (bytes.len() - 20, 0)] {
        assert_eq!(again.load(&bytes[first..bytes.len() - cut]), None);
    }
    assert_eq!(again.load(&[]), None);
    assert_eq!(again.load(&[7; Run::SAVE_BYTES]), None);
    for at in (0..8).chain(12..bytes.len()) {
        let mut spoilt = bytes;
        spoilt[at] ^= 1;
        assert_eq!(again.load(&spoilt), None, \"{at}\");
    }
    assert_eq!(again, kept);
    let (mut state, mut taken) = (3u32, 0);
    for n in 0..6000 {
        let mut wild = bytes;
        for (at, byte) in wild.iter_mut().enumerate().skip(16) {
            state = state.wrapping_mul(1664525).wrapping_add(1013904223);
            if n % 3 == 0 || at % 97 == n % 97 {
                *byte = if n % 2 == 0 { 255 } else { (state >> 24) as u8 };
            }
        }
        // Every other one keeps its heads, so that its values are taken.
        if n % 2 == 0 {
            let mut at = 16;
            while at < bytes.len() {
                wild[at..at + 8].copy_from_slice(&bytes[at..at + 8]);
                let head = u32::from_le_bytes(bytes[at + 4..at + 8].try_into().unwrap());
                at += 8 + if head >> 24 == 1 { 8 } else { 4 } * (head & 0xff_ffff) as usize;
            }
        }
        book::summed(&mut wild);
        let mut run = Run::start(7);
        if run.load(&wild).is_none() {
            continue;
        }
        taken += 1;
        run.advance(run.now + 0.5);
        run.fire_call(1.0, 2.0, f64::NAN);
        while run.take_notice().is_some() {}
        for lamp in 0..4 {
            assert!(run.read_flare(lamp).intensity.is_finite() && run.read_buoy(lamp).intensity.is_finite());
        }
    }
    assert!(taken >= 3000, \"{taken}\");
}
";
    rust_host(include_str!("walks.caltrin"), host, &["-O"]);
}

/// The digits of a number that count, without zeros in front.
fn digits(number: &str) -> String {
    let mantissa = number.split('e').next().unwrap_or_default();
    let all: String = mantissa.chars().filter(char::is_ascii_digit).collect();
    all.trim_start_matches('0').to_owned()
}

#[test]
fn javascript_has_no_number_that_loses_digits_and_no_name_for_nothing() {
    for text in [
        BOOK,
        include_str!("hours.caltrin"),
        include_str!("same.caltrin"),
        include_str!("scenes.caltrin"),
    ] {
        let (checked, notes) = checked(text);
        let js = caltrin_export::target_named("js").unwrap().print(&Plan::of(&checked, &notes));
        let code: String = js
            .lines()
            .filter(|line| !line.starts_with(['/']) && !line.starts_with(" *"))
            .map(|line| format!("{line}\n"))
            .collect();
        let word = |c: char| !(c.is_ascii_alphanumeric() || matches!(c, '_' | '.' | '-'));
        let mut seen = 0;
        for token in code.split(word).map(|token| token.trim_start_matches('-')) {
            let number = token.starts_with(|c: char| c.is_ascii_digit()) && token.contains('.');
            let Some(value) = token.parse::<f64>().ok().filter(|v| number && *v != 0.0) else {
                continue;
            };
            let own = digits(token);
            let exact = format!("{value:.*e}", own.len().max(1) - 1);
            assert_eq!(digits(&exact), own, "{token}");
            seen += 1;
        }
        assert!(seen > 50);
        for function in code.split("\n}\n") {
            let words = |text: &str| -> Vec<String> {
                let word = |c: char| !(c.is_ascii_alphanumeric() || c == '_');
                text.split(word).map(str::to_owned).collect()
            };
            let all = words(function);
            for line in function.lines().filter(|line| line.starts_with("  ")) {
                let own = words(line.trim_start());
                if matches!(&*own[0], "const" | "let") {
                    let uses = all.iter().filter(|word| **word == own[1]).count();
                    assert!(uses > 1, "{line}");
                }
            }
        }
    }
}

/// A host that holds runs in every way that C# lets it.
const SHARP: &str = "public static class Host
{
    sealed class Scene { public readonly Shore.HolmLockRun Lights = new Shore.HolmLockRun(3u); public Shore.HolmLockRun Own { get { return Lights; } } }
    public static int Main()
    {
        var scene = new Scene();
        scene.Lights.Advance(2.0);
        scene.Own.Step(1.0);
        scene.Own.Run.FireBoat();
        scene.Lights.Step(0.5);
        var plain = Shore.HolmLock.Start(3u);
        plain.Advance(2.0);
        plain.Step(1.0);
        plain.FireBoat();
        plain.Step(0.5);
        bool same = scene.Lights.Run.Now == 3.5 && plain.ReadSignal().Intensity == scene.Own.Run.ReadSignal().Intensity
            && plain.ReadGate().UpperOpen == scene.Own.Run.ReadGate().UpperOpen;
        return same && Shore.HolmLock.SelfTest() == 0 && Shore.HolmLock.IsExact() ? 0 : 1;
    }
}
";

#[test]
fn a_prefix_names_what_a_host_sees_and_two_of_them_stand_side_by_side() {
    let (checked, notes) = checked(include_str!("gates.caltrin"));
    let folder = tempfile::tempdir().unwrap();
    let made = |target: &str, prefix: &str| {
        let prefix = FilePrefix::new(prefix).unwrap();
        let target = caltrin_export::target_named(target).unwrap();
        let file = export_as(
            &checked,
            &notes,
            target,
            &ExportOptions { prefix: Some(prefix.clone()), names: true, split: false },
        );
        fs::write(folder.path().join(&file.file_name), &file.text).unwrap();
        file.file_name
    };
    assert_eq!([made("c", "north"), made("c", "South_gate")], ["north.h", "south_gate.h"]);
    assert_eq!([made("rust", "shore"), made("js", "shore")], ["shore.rs", "shore.mjs"]);
    assert_eq!(made("csharp", "shore"), "holm_lock.cs");
    // The include guards of both and an engine's own `north.h` are apart.
    let host = "#define NORTH_H 1\n#include \"north.h\"\n#include \"south_gate.h\"\n#include \"north.h\"\n\
                int main(void) { return north_self_test() + south_gate_self_test(); }\n";
    fs::write(folder.path().join("host.c"), host).unwrap();
    let options = "-std=c99 -Wall -Wextra -Werror -pedantic";
    let said = compile(folder.path(), "gcc", options, "built");
    assert!(said.status.success(), "{}", String::from_utf8_lossy(&said.stderr));
    assert!(Command::new(folder.path().join("built")).status().unwrap().success());
    if is_there("mcs") && is_there("mono") {
        fs::write(folder.path().join("Host.cs"), SHARP).unwrap();
        let said = Command::new("mcs")
            .args(["-warnaserror+", "-warn:4", "-out:host.exe", "Host.cs", "holm_lock.cs"])
            .current_dir(folder.path())
            .output()
            .unwrap();
        assert!(said.status.success(), "{}", String::from_utf8_lossy(&said.stderr));
        let ran = Command::new("mono").arg("host.exe").current_dir(folder.path()).status().unwrap();
        assert!(ran.success());
    }
    for wrong in ["", "9x", "a b", "a-b", "while", "match", "_x", "ünd", &"x".repeat(41)] {
        assert!(FilePrefix::new(wrong).is_err(), "{wrong}");
    }
}

/// The C++ header in two units of one program, with every warning an error: it is linked once, fills arrays, bears the macros
/// of other headers, and keeps its bits under both compilers.
#[test]
fn the_cpp_header_is_used_by_two_units_without_a_warning() {
    let (checked, notes) = checked(BOOK);
    let plan = Plan::of(&checked, &notes);
    let cpp = caltrin_export::target_named("cpp").unwrap();
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("book.hpp"), cpp.print(&plan)).unwrap();
    let space = plan.book.to_lowercase().replace(' ', "_");
    let array = checked.program().lights().find(|(_, light)| light.size == Size::Many(3));
    let (_, array) = array.expect("the book has an array of three");
    let (fill, lamp) = (cased(&array.name, Case::Snake), cased(&array.name, Case::Pascal));
    let other = format!(
        "#include <array>\n#include <cmath>\n#include <limits>\n\
         #define min(a, b) ((a) < (b) ? (a) : (b))\n#define max(a, b) ((a) > (b) ? (a) : (b))\n\
         #include \"book.hpp\"\nint other();\nint other()\n{{\n    const {space}::Run run = {space}::start(3u);\n    \
         std::array<{space}::{lamp}, 3> lamps;\n    {space}::fill_{fill}(run, 0u, lamps);\n    \
         const {space}::{lamp} last = {space}::read_{fill}(run, 2u);\n    \
         return lamps[2].intensity < last.intensity || lamps[2].intensity > last.intensity ? 1 : 0;\n}}\n"
    );
    fs::write(folder.path().join("other.cpp"), other).unwrap();
    let host = format!(
        "#include \"book.hpp\"\nint other();\nint main() {{ return {space}::self_test() + 100 * other(); }}\n"
    );
    fs::write(folder.path().join("host.cpp"), host).unwrap();
    let strict =
        "-Wall -Wextra -Wpedantic -Wold-style-cast -Wshadow -Wconversion -Wsign-conversion -Werror";
    for (compiler, options) in
        [("g++", "-std=c++17 -O2"), ("clang++", "-std=c++20 -O1 -march=native")]
    {
        if !is_there(compiler) {
            continue;
        }
        let made = Command::new(compiler)
            .args(options.split_whitespace().chain(strict.split_whitespace()))
            .args(["host.cpp", "other.cpp", "-o", "host"])
            .current_dir(folder.path())
            .output()
            .unwrap();
        let said = String::from_utf8_lossy(&made.stderr);
        assert!(made.status.success(), "{compiler} {options}: {said}");
        let run = Command::new(folder.path().join("host")).status().unwrap();
        assert_eq!(run.code(), Some(0), "{compiler} {options}");
    }
}
