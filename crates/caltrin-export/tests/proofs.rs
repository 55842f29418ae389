//! The proof as real tests: one a language and book, shown as ignored where a compiler is missing. By default a
//! tenth of the samples is compared, of 2 random books; `CALTRIN_PROOFS=full` compares all, of 8 random books, and
//! `CALTRIN_PROOFS=200` all of 200.

#[path = "../../caltrin-lang/tests/heard/mod.rs"]
mod heard;
#[path = "../../caltrin-lang/tests/random/mod.rs"]
mod random;

use caltrin_core::SourceNotes;
use caltrin_core::ValidatedProgram;
use caltrin_core::program::{Up, Wanted};
use caltrin_export::prove::{Asked, Outcome, moments, prove, version};
use caltrin_export::{TARGETS, Target};
use libtest_mimic::{Arguments, Failed, Trial};

/// Uses every function, operator, easing and channel of the language at least once.
const EVERYTHING: &str = include_str!("everything.caltrin");
const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");
const SIDING: &str = include_str!("../../caltrin/books/siding.caltrin");
/// Events of every source, and all that they drive.
const EVENTS: &str = include_str!("events.caltrin");
const SCENES: &str = include_str!("scenes.caltrin");
const MODES: &str = include_str!("modes.caltrin");
/// The same where each lamp and instance has its own.
const OWN: &str = include_str!("own.caltrin");
/// What goes with values that the game sets, with the hour and with moments.
const LED: &str = include_str!("led.caltrin");
/// The same in fittings within fittings.
const NESTED: &str = include_str!("nested.caltrin");
/// Lights that events make.
const SPARKS: &str = include_str!("sparks.caltrin");
/// What only the hour decides, and what goes by a sun that does not rise every day.
const HOURS: &str = include_str!("hours.caltrin");
/// What is compared with itself, and a notice without a text.
const SAME: &str = include_str!("same.caltrin");
/// Lamps that are carried about, and notices that say where they were.
const WALKS: &str = include_str!("walks.caltrin");
/// Sounds of every way to play and to follow them.
const SOUNDS: &str = include_str!("sounds.caltrin");
/// Names that are key words somewhere, fall together, or are no ASCII.
const NAMES: &str = include_str!("names.caltrin");
/// Everything is called as something that the exported code has itself.
const TAKEN: &str = include_str!("taken.caltrin");

fn read(text: &str, wanted: Wanted) -> (ValidatedProgram, SourceNotes) {
    let reading = heard::read_for(text, "book.caltrin", wanted);
    let told: Vec<String> = reading
        .diagnostics
        .iter()
        .filter(|d| d.source() == 0)
        .map(|d| format!("{} at `{}`", d.message, &text[d.range()]))
        .collect();
    (reading.checked.unwrap_or_else(|| panic!("{told:#?}")), reading.notes)
}

fn holds(text: &str, wanted: Wanted, target: &dyn Target, least: u64) -> Result<(), Failed> {
    let (checked, notes) = read(text, wanted);
    let asked = moments(&checked, least);
    compare(&checked, &notes, target, &asked, least)
}

/// The same for a random book: a fifth of the moments, and all rehearsals.
fn holds_in_part(text: &str, target: &dyn Target) -> Result<(), Failed> {
    let (checked, notes) = read(text, Wanted::default());
    let asked = moments(&checked, 1);
    let goes_on = |n: usize| asked.get(n).is_some_and(|asked: &Asked| asked.goes_on);
    let some = (0..asked.len()).filter(|n| n.is_multiple_of(5) || goes_on(*n) || goes_on(n + 1));
    let some: Vec<Asked> = some.map(|n| asked[n].clone()).collect();
    compare(&checked, &notes, target, &some, 1_000)
}

fn compare(
    checked: &ValidatedProgram,
    notes: &SourceNotes,
    target: &dyn Target,
    asked: &[Asked],
    least: u64,
) -> Result<(), Failed> {
    let folder = tempfile::tempdir()?;
    match prove(checked, notes, target, asked, folder.path())? {
        Outcome::Compared { samples, mismatches: 0, .. } if samples >= least => Ok(()),
        outcome => Err(format!("{outcome:#?}").into()),
    }
}

/// Number of random books, and the divisor of the samples for the books of the tree.
fn extent() -> (u64, u64) {
    match std::env::var("CALTRIN_PROOFS").ok().as_deref() {
        None => (2, 10),
        Some("full") => (8, 1),
        Some(books) => (books.parse().expect("CALTRIN_PROOFS is `full` or a number of books"), 1),
    }
}

fn main() {
    let arguments = Arguments::from_args();
    let mut trials = Vec::new();
    let (books, share) = extent();
    for target in TARGETS {
        let missing = target.tools().iter().any(|tool| version(tool).is_none());
        let said = Wanted::default();
        let turned = Wanted { up: Some(Up::Z), unit: Some(0.01), factor: Some(0.001) };
        for (book, text, wanted, least) in [
            ("the_pier", PIER, said, 100_000),
            ("the_siding", SIDING, said, 20_000),
            ("every_function", EVERYTHING, said, 100_000),
            ("every_function_in_other_axes", EVERYTHING, turned, 20_000),
            ("hostile_names", NAMES, said, 1_000),
            ("taken_names", TAKEN, said, 1_000),
            ("events", EVENTS, said, 100_000),
            ("modes", MODES, said, 2_000),
            ("scenes", SCENES, said, 100_000),
            ("what_each_lamp_has", OWN, said, 20_000),
            ("what_each_nested_lamp_has", NESTED, said, 8_000),
            ("sparks", SPARKS, said, 20_000),
            ("what_the_game_leads", LED, said, 20_000),
            ("sounds", SOUNDS, said, 20_000),
            ("what_the_hour_decides", HOURS, said, 8_000),
            ("what_is_the_same", SAME, said, 8_000),
            ("where_notices_come_from", WALKS, said, 8_000),
        ] {
            let name = format!("{}_gives_the_same_bits_for_{book}", target.name());
            let trial = Trial::test(name, move || holds(text, wanted, target, least / share));
            trials.push(trial.with_ignored_flag(missing));
        }
        for n in 0..books {
            // Seeds far apart.
            let seed = n * n * 7919 + 1;
            let name = format!("{}_gives_the_same_bits_for_random_book_{seed}", target.name());
            let trial =
                Trial::test(name, move || holds_in_part(&random::Author::new(seed).book(), target));
            trials.push(trial.with_ignored_flag(missing));
        }
    }
    libtest_mimic::run(&arguments, trials).exit();
}
