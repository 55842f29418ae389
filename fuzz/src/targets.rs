//! Each target takes arbitrary bytes and panics if an invariant is violated. `crates/caltrin/tests/fuzzed.rs` replays
//! past findings.
#![allow(dead_code, reason = "each user uses some of it")]

#[path = "../../crates/caltrin-lang/tests/heard/mod.rs"]
mod heard;
#[path = "../../crates/caltrin-lang/tests/random/mod.rs"]
mod random;

use std::str;

use caltrin::draw::{Colors, SheetOptions, TerminalOptions, sheet, svg, terminal};
use caltrin::export::{Plan, TARGETS};
use caltrin::lang::{Resources, format};
use caltrin::{Opened, STOCK, explain, explainable, sound};
use caltrin_core::program::{Constant, EventId, EventSource, LightId, Size, Wanted};
use caltrin_core::quantity::{Hours, Seconds, Seed};
use caltrin_core::rehearsal::Player;
use caltrin_core::run::State;
use caltrin_core::save::Loaded;
use caltrin_core::sound::Band;
use caltrin_core::{Program, Run, ValidatedProgram};

/// A target.
pub type Target = fn(&[u8]);

/// All targets, by name.
pub const ALL: [(&str, Target); 5] =
    [("text", text), ("books", books), ("format", formatted), ("sounds", sounds), ("runs", runs)];

/// Longer texts are covered by the tests of growth.
const LONGEST: usize = 1 << 16;
/// Larger books are read but not drawn or exported.
const MOST_LAMPS: u32 = 200;
const MOST_STEPS: usize = 5_000;

fn open(text: &str) -> Opened {
    caltrin::read_with_resources(text, "fuzzed.caltrin", beside(), Wanted::default())
}

/// The stock and the sounds of the tests.
fn beside() -> Resources<'static> {
    let books = &|name: &str| match name {
        "stock" => Ok(STOCK.to_owned()),
        name => Err(format!("there is no book `{name}`")),
    };
    Resources { books, sounds: &heard::once_by_name }
}

/// Any text: reading never fails, diagnostics have valid places, and a valid book can be drawn, exported, explained and
/// played.
pub fn text(data: &[u8]) {
    let Ok(text) = str::from_utf8(data) else { return };
    if text.len() > LONGEST {
        return;
    }
    assert_eq!(caltrin::lang::parser::parse(text).tree().text().to_string(), text);
    let opened = open(text);
    told_in_place(&opened);
    if let Some(checked) = &opened.checked {
        used(&opened, checked);
    }
}

/// A valid book made of choices: also, the frame rate does not matter, and formatting keeps the program.
pub fn books(data: &[u8]) {
    let text = random::Author::of(data).book();
    let opened = open(&text);
    told_in_place(&opened);
    let Some(checked) = &opened.checked else {
        panic!("{:?}\n{text}", opened.diagnostics.first());
    };
    used(&opened, checked);
    let even = format(&text).expect("the book is good");
    assert!(even == format(&even).expect("it stays good"), "formatted twice:\n{even}");
    assert!(program(&even).as_ref() == Some(checked.program()), "formatted:\n{text}");
    for rehearsal in checked.program().rehearsals() {
        let played = |step: f64| {
            let start = State::start(checked.program());
            let mut player = Player::new(checked, start, Some(rehearsal));
            let (mut now, end) = (0.0, 6.0);
            while now + step < end {
                now += step;
                player.advance(Seconds(now));
            }
            player.advance(Seconds(end));
            let lamps = lamps(player.run());
            (player.run().state().clone(), lamps)
        };
        assert!(played(10.0) == played(1.0 / 7.0), "frames change {}\n{text}", rehearsal.name);
    }
}

/// Any text: formatting keeps the program, and is idempotent.
pub fn formatted(data: &[u8]) {
    let Ok(text) = str::from_utf8(data) else { return };
    if text.len() > LONGEST {
        return;
    }
    let Ok(even) = format(text) else { return };
    let again = format(&even);
    assert_eq!(again.as_ref().ok(), Some(&even));
    let own = program(text);
    assert!(own.is_none() || own == program(&even), "another program after formatting");
}

/// Any bytes as a sound file: rejected, or analyzed with a valid result.
pub fn sounds(data: &[u8]) {
    for own in [&[][..], &[BAND]] {
        if let Ok(hearing) = sound::hear_bytes(data, "fuzzed", own) {
            // MIDI files have no custom bands.
            let bands = if data.starts_with(b"MThd") { &[] } else { own };
            assert!(hearing.is_sound(bands));
        }
    }
}

/// A custom band.
const BAND: Band = Band::Own(300.0, 900.0);

/// A run of one of the books of the export tests, with arbitrary acts and damaged states.
pub fn runs(data: &[u8]) {
    let mut choices = Choices(data);
    let books = books_of_runs();
    let checked = &books[usize::from(choices.byte()) % books.len()];
    let program = checked.program();
    let fired: Vec<EventId> = program
        .events()
        .filter(|(_, event)| event.source == EventSource::Game)
        .map(|e| e.0)
        .collect();
    let given: Vec<_> = program.given().map(|(id, _)| id).collect();
    let mut run = Run::with_seed(checked, Seed(u32::from(choices.byte()) * 77));
    while !choices.0.is_empty() {
        match choices.byte() % 12 {
            0..=3 => {
                let now = run.state().now.0;
                let to = match choices.byte() % 4 {
                    0 => choices.number(),
                    n => now + f64::from(n) * choices.fraction(),
                };
                run.advance(Seconds(to));
            }
            4 if !fired.is_empty() => {
                let event = fired[usize::from(choices.byte()) % fired.len()];
                let values = [choices.constant(), choices.constant()];
                run.fire_at(event, u32::from(choices.byte()), &values);
            }
            5 if !given.is_empty() => {
                let input = given[usize::from(choices.byte()) % given.len()];
                let _ = run.set(input, u32::from(choices.byte() % 8), choices.constant());
            }
            6 => {
                if let Some((choice, _)) = program.choices().next() {
                    run.choose(choice, u32::from(choices.byte()));
                }
            }
            7 => run.set_clock(Hours(choices.number())),
            8 => run.drive_clock(Hours(choices.number())),
            9 => run.set_clock_rate(choices.number()),
            10 => {
                while let Some(notice) = run.take_notice() {
                    assert!(notice.moment.0.is_finite());
                }
            }
            _ => {
                let bytes = run.state().to_bytes(program);
                let loaded = State::from_bytes(program, &bytes).expect("a save comes back");
                assert_eq!(&loaded.state, run.state());
                let mut wild = bytes.clone();
                let at = usize::from(choices.byte()) * bytes.len() / 256;
                let end = (at + usize::from(choices.byte() % 9)).min(bytes.len());
                wild[at..end].fill_with(|| choices.byte());
                if choices.byte() % 2 == 0 {
                    // Whoever writes a save can give it the right sum.
                    wild[..12].copy_from_slice(&bytes[..12]);
                    let sum = caltrin_core::save::sum_of(&wild);
                    wild[12..16].copy_from_slice(&sum.to_le_bytes());
                }
                if let Ok(Loaded { state, .. }) = State::from_bytes(program, &wild) {
                    // An accepted state survives another round trip.
                    let kept = State::from_bytes(program, &state.to_bytes(program));
                    assert_eq!(kept.map(|kept| kept.state).as_ref(), Ok(&state));
                    run = Run::from_state(checked, state);
                }
            }
        }
        within_bounds(&mut run);
    }
}

/// The books that [`runs`] plays.
fn books_of_runs() -> &'static [ValidatedProgram] {
    static BOOKS: std::sync::OnceLock<Vec<ValidatedProgram>> = std::sync::OnceLock::new();
    BOOKS.get_or_init(|| {
        let texts = [
            include_str!("../../crates/caltrin-export/tests/events.caltrin"),
            include_str!("../../crates/caltrin-export/tests/scenes.caltrin"),
            include_str!("../../crates/caltrin-export/tests/modes.caltrin"),
            include_str!("../../crates/caltrin-export/tests/own.caltrin"),
            include_str!("../../crates/caltrin-export/tests/led.caltrin"),
            include_str!("../../crates/caltrin-export/tests/sparks.caltrin"),
            include_str!("../../crates/caltrin-export/tests/sounds.caltrin"),
            include_str!("../../crates/caltrin-export/tests/walks.caltrin"),
            include_str!("../../crates/caltrin-export/tests/hours.caltrin"),
            include_str!("../../crates/caltrin/books/siding.caltrin"),
        ];
        texts.map(|text| open(text).checked.expect("the book is good")).into()
    })
}

/// The remaining bytes; 0 at the end.
struct Choices<'a>(&'a [u8]);

impl Choices<'_> {
    fn byte(&mut self) -> u8 {
        let (first, rest) = self.0.split_first().unwrap_or((&0, &[]));
        self.0 = rest;
        *first
    }

    fn fraction(&mut self) -> f64 {
        f64::from(self.byte()) / 100.0
    }

    /// Any number; half of them are small.
    fn number(&mut self) -> f64 {
        if self.byte().is_multiple_of(2) {
            return f64::from(self.byte()) / 8.0 - 4.0;
        }
        f64::from_le_bytes(std::array::from_fn(|_| self.byte()))
    }

    fn constant(&mut self) -> Constant {
        match self.byte() % 3 {
            0 => Constant::Scalar(self.number()),
            1 => Constant::Vector(std::array::from_fn(|_| self.number())),
            _ => Constant::OnOff(self.byte().is_multiple_of(2)),
        }
    }
}

fn program(text: &str) -> Option<Program> {
    open(text).checked.map(|checked| checked.program().clone())
}

/// Every diagnostic has a message and a valid place.
fn told_in_place(opened: &Opened) {
    assert!(opened.checked.is_some() || opened.errors() > 0);
    for told in &opened.diagnostics {
        assert!(!told.message.is_empty());
        for label in &told.labels {
            let text = &opened.sources[label.source.unwrap_or(0)].text;
            assert!(text.get(label.range.clone()).is_some(), "{told:?}");
        }
    }
}

/// Draws, exports, explains and plays a book, unless it is too large.
fn used(opened: &Opened, checked: &ValidatedProgram) {
    let lights: Vec<(LightId, u32)> =
        checked.program().lights().map(|(id, light)| (id, light.size.shown())).collect();
    let steps: usize = lights.iter().map(|(id, _)| checked.steps(*id)).sum();
    let lamps = lights.iter().fold(0u32, |sum, (_, lamps)| sum.saturating_add(*lamps));
    if lights.is_empty() || lamps > MOST_LAMPS || steps > MOST_STEPS {
        return;
    }
    let mut run = Run::new(checked);
    for moment in [0.0, 0.4, -2.0, 3.7] {
        run.advance(Seconds(moment));
        within_bounds(&mut run);
    }
    let options = SheetOptions { to: Some(Seconds(1.0)), width: 480, ..SheetOptions::default() };
    let picture = sheet(checked, &opened.findings, &options);
    no_hidden(&svg(&picture));
    let plain = TerminalOptions { width: 80, height: None, colors: Colors::None };
    no_hidden(&terminal(&picture, &plain));
    // Without the self-test: computing it costs more than everything else.
    let plan = Plan::without_test(checked, &opened.notes);
    // One language per input; they share the plan.
    let target = TARGETS[opened.sources[0].text.len() % TARGETS.len()];
    no_hidden(&target.print(&plan));
    for [title, ..] in explainable(checked, &opened.notes).iter().take(3) {
        let name = title.split(':').next().unwrap_or_default();
        assert!(explain(checked, &opened.notes, name).is_ok(), "{title} is not explained");
    }
}

/// No control characters or direction marks.
fn no_hidden(text: &str) {
    let hidden = text.chars().find(|c| *c != '\n' && caltrin_core::text::is_hidden(*c));
    assert_eq!(hidden, None);
}

/// The bits of some lamps of all lights now.
fn lamps(run: &mut Run<'_>) -> Vec<u32> {
    let checked = run.checked();
    let mut all = Vec::new();
    for (id, light) in checked.program().lights() {
        let mut out = vec![0.0; run.width(id) * light.size.shown().min(4) as usize];
        run.read(id, 0, &mut out);
        all.extend(out.iter().map(|v| v.to_bits()));
    }
    all
}

/// No value leaves its guaranteed range.
fn within_bounds(run: &mut Run<'_>) {
    let checked = run.checked();
    for (id, light) in checked.program().lights() {
        // Any lamp of an open array can be read.
        let index = if light.size == Size::Open { 9_000 } else { light.size.shown() - 1 };
        let mut out = vec![0.0; run.width(id)];
        run.read(id, index, &mut out);
        let mut values = out.iter();
        for drive in &light.drives {
            let bounds = checked.bounds(id, drive.field).expect("each drive has its range");
            for (part, value) in (0..drive.width()).zip(&mut values) {
                let range = bounds.part(part);
                let holds = range.lo as f32 <= *value && *value <= range.hi as f32;
                assert!(holds, "{}: {value} outside of {range:?}", light.name);
            }
        }
    }
}
