//! The C header under the options of other projects: it either refuses to be compiled, keeps its bits, or says at run time
//! that it does not.

use std::fs;
use std::path::Path;
use std::process::{Command, Output};

use caltrin_core::Notes;
use caltrin_export::c::C;
use caltrin_export::prove::{Outcome, moments, prove};
use caltrin_export::target::{Blocks, Tool};
use caltrin_export::{Plan, Target};

const BOOK: &str = include_str!("everything.caltrin");

fn checked(text: &str) -> (caltrin_core::Checked, Notes) {
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
    fs::write(folder.path().join("book.h"), C.print(&plan)).unwrap();
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
    fn name(&self) -> &'static str {
        "c"
    }
    fn extension(&self) -> &'static str {
        C.extension()
    }
    fn print(&self, plan: &Plan) -> String {
        C.print(plan)
    }
    fn prover(&self, plan: &Plan, blocks: &Blocks) -> String {
        C.prover(plan, blocks)
    }
    fn prover_name(&self) -> &'static str {
        C.prover_name()
    }
    fn tools(&self) -> &'static [Tool] {
        C.tools()
    }
    fn compile(&self, folder: &Path, _: &str) -> Vec<Vec<String>> {
        let mut command = vec![self.0.to_owned()];
        command.extend(self.1.split_whitespace().map(str::to_owned));
        let made = [folder.join("prove.c"), folder.join("prove")];
        let [from, to] = made.map(|path| path.display().to_string());
        command.extend([from, "-o".to_owned(), to, "-lm".to_owned()]);
        vec![command]
    }
    fn run(&self, folder: &Path) -> Vec<String> {
        vec![folder.join("prove").display().to_string()]
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
        words
            .windows(3)
            .any(|three| matches!(three[1], "<" | ">" | "==" | "===") && three[0] == three[2])
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
