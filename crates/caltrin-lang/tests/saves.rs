//! Saves: what a run was is taken into a changed book as far as both have it, and nothing else is.

mod book;

use book::{checked, event};
use caltrin_core::program::{Constant, Program};
use caltrin_core::quantity::{Seconds, Seed};
use caltrin_core::run::State;
use caltrin_core::save::{self, HEAD, LoadError, SavedField, SavedKind, SavedPlace, key_of};
use caltrin_core::{Run, ValidatedProgram};
use proptest::prelude::*;

/// A weir. `changed` is what stands in places that a designer changes.
fn weir(changed: [&str; 6]) -> String {
    let [inputs, modes, rules, weather, count, notices] = changed;
    format!(
        "lightbook \"Weir\"\nclock {{ day 30min; start 18:00 }}\n{inputs}\n\
         event gate_moves, all_clear, spill(place = (0m, 1m, 0m))\n{weather}\n\
         switch pumps {{ starts on; off at spill over 2s; on at all_clear over 1s }}\n\
         modes alert {{ {modes}; calm -> watch at gate_moves over 4s; {rules} }}\n\
         signal slow = follow(level, attack 2s, release 5s)\n\
         light gauge[{count}] point {{\n  switch lit {{ starts off; flip at gate_moves over 3s }}\n  intensity 20cd * slow * pumps + 3cd * lit + 9cd * alert.watch + 5cd * weather.rain\n}}\n\
         hours daytime from 06:00 to 20:00\n\
         light mast point {{ color mix(#ff8020, #ffffff, by level); intensity 5cd * daytime }}\n{notices}\n"
    )
}

const OLD: [&str; 6] = [
    "input level = 50% in 0%..100%\ninput wind = 2 in 0..10",
    "calm, watch, alarm",
    "watch -> alarm after 8s over 2s; alarm -> calm at all_clear over 1s",
    "choice weather { clear, rain, snow } over 10s",
    "3",
    "at gate_moves send creak(\"low\" or \"high\" or \"long\", loud level)",
];

/// A run in the middle of all that goes on.
fn busy(checked: &ValidatedProgram, seed: u32, acts: &[(f64, usize)], at: f64) -> State {
    let mut run = Run::with_seed(checked, Seed(seed));
    let program = checked.program();
    let (level, _) =
        program.inputs().find(|(_, input)| input.name == "level").expect("it is there");
    let (weather, _) = program.choices().next().expect("it is there");
    for (moment, act) in acts.iter().filter(|(moment, _)| *moment < at) {
        run.advance(Seconds(*moment));
        match act {
            0 => run.fire(event(checked, "gate_moves")),
            1 => run.fire(event(checked, "all_clear")),
            2 => run.fire_with(event(checked, "spill"), &[Constant::Vector([1.0, 2.0, 3.0])]),
            3 => run.set(level, 0, Constant::Scalar((moment * 0.37) % 1.0)).expect("it fits"),
            4 => drop(run.take_notice()),
            n => run.choose(weather, (n % 3) as u32),
        }
    }
    run.advance(Seconds(at));
    run.state().clone()
}

fn acts() -> impl Strategy<Value = Vec<(f64, usize)>> {
    prop::collection::vec((0.0..40.0f64, 0usize..9), 0..24).prop_map(|mut acts| {
        acts.sort_by(|a, b| a.0.total_cmp(&b.0));
        acts
    })
}

/// A plain reader of saves: each field's key, and its values as they stand there.
fn fields(bytes: &[u8]) -> Vec<(u32, Vec<u64>)> {
    let word = |at: usize| u32::from_le_bytes(bytes[at..at + 4].try_into().expect("four"));
    let (mut at, mut all) = (HEAD, Vec::new());
    while at < bytes.len() {
        let (key, head) = (word(at), word(at + 4));
        let (wide, count) = (head >> 24 == save::NUMBERS, (head & 0xff_ffff) as usize);
        at += 8;
        let each = if wide { 8 } else { 4 };
        let value = |n: usize| {
            let low = u64::from(word(at + n * each));
            if wide { low | u64::from(word(at + n * each + 4)) << 32 } else { low }
        };
        all.push((key, (0..count).map(value).collect()));
        at += count * each;
    }
    all
}

/// With a sum that is right again.
fn summed(mut bytes: Vec<u8>) -> Vec<u8> {
    let sum = save::sum_of(&bytes);
    bytes[12..HEAD].copy_from_slice(&sum.to_le_bytes());
    bytes
}

fn named<'f>(fields: &'f [SavedField], name: &str) -> &'f SavedField {
    fields.iter().find(|field| field.name == name).unwrap_or_else(|| {
        let all: Vec<&str> = fields.iter().map(|field| field.name.as_str()).collect();
        panic!("no `{name}` among {all:?}")
    })
}

/// What a state has of a field.
fn values(program: &Program, state: &State, name: &str) -> Vec<u64> {
    let key = named(&program.saved_fields(), name).key;
    let all = fields(&state.to_bytes(program));
    all.into_iter().find(|(known, _)| *known == key).expect("it is saved").1
}

/// Changes of the book: what it is then, and what is lost of a save or begins anew.
const CHANGES: [(usize, &str, &[&str]); 12] = [
    // Another input, in front.
    (
        0,
        "input mist = 0% in 0%..100%\ninput level = 50% in 0%..100%\ninput wind = 2 in 0..10",
        &["mist"],
    ),
    // Another order.
    (0, "input wind = 2 in 0..10\ninput level = 50% in 0%..100%", &[]),
    // One less; another one of its name is of another kind.
    (0, "input level = 50% in 0%..100%", &["wind"]),
    (0, "input level = 50% in 0%..100%\ninput wind = 2m in 0m..10m", &["wind"]),
    // Modes in another order, one more, one less.
    (1, "calm, alarm, watch", &[]),
    (1, "calm, drill, watch, alarm; alarm -> drill at spill over 4s", &["alert.from_drill"]),
    // Rules in another order have other ways through, which begin anew.
    (2, "alarm -> calm at all_clear over 1s; watch -> alarm after 8s over 2s", &["alert.way"]),
    // Options of a choice.
    (3, "choice weather { snow, hail, clear, rain } over 10s", &["choice weather from hail"]),
    (3, "choice weather { clear, rain } over 10s", &["choice weather from snow"]),
    // More lamps, and fewer.
    (4, "7", &[]),
    // Notices that wait are known by their line.
    (
        5,
        "at spill send splash\nat gate_moves send creak(\"low\" or \"high\" or \"long\", loud level)",
        &["notice.packed", "notice_value.loud"],
    ),
    (5, "", &["notice.packed", "notice.dropped"]),
];

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_changed_book_takes_what_it_still_has(which in 0..CHANGES.len(), seed in 0u32..1000, acts in acts(), at in 0.0..45.0f64) {
        let (place, text, lost) = CHANGES[which];
        let mut changed = OLD;
        changed[place] = text;
        let (old, new) = (checked(&weir(OLD)), checked(&weir(changed)));
        let state = busy(&old, seed, &acts, at);
        let bytes = state.to_bytes(old.program());
        let loaded = State::from_bytes(new.program(), &bytes).expect("it is a save");
        let again = loaded.state.to_bytes(new.program());
        let start = State::start(new.program()).to_bytes(new.program());
        let (saved, kept, first) = (fields(&bytes), fields(&again), fields(&start));
        let (before, after) = (old.program().saved_fields(), new.program().saved_fields());
        let key_known = |key: u32| saved.iter().find(|(known, _)| *known == key);
        for (((key, values), (_, first)), field) in kept.iter().zip(&first).zip(&after) {
            match key_known(*key) {
                None => {
                    prop_assert_eq!(values, first, "{} begins anew", field.name);
                    prop_assert!(loaded.fresh.contains(&field.name));
                }
                Some((_, saved)) => {
                    prop_assert!(!loaded.fresh.contains(&field.name));
                    for (n, value) in values.iter().enumerate() {
                        let wanted = match saved.get(n) {
                            Some(option) if loaded.unknown.contains(&field.name) => {
                                let SavedKind::Option(known) = &field.kind else { panic!("{}", field.name) };
                                if known.contains(&(*option as u32)) { *option } else { first[n] }
                            }
                            Some(saved) => *saved,
                            None => first[n],
                        };
                        prop_assert_eq!(*value, wanted, "{} {}", field.name, n);
                    }
                }
            }
        }
        // What is lost is what this change loses, and nothing else.
        let gone = before.iter().filter(|old| !after.iter().any(|new| new.key == old.key));
        for field in gone {
            let said = lost.iter().any(|name| field.name == *name || field.name.starts_with("notice"));
            prop_assert!(said, "{} is lost", field.name);
            prop_assert!(loaded.dropped.contains(&field.key));
        }
        for name in lost {
            prop_assert!(before.iter().chain(&after).any(|field| field.name == *name), "no field is called {}", name);
            prop_assert!(before.iter().filter(|f| f.name == *name).all(|f| !after.iter().any(|g| g.key == f.key)), "{} is there", name);
        }
        // It goes on like any run.
        let mut run = Run::from_state(&new, loaded.state);
        run.advance(Seconds(at + 20.0));
        prop_assert!(run.state().now == Seconds(at + 20.0));
    }

    #[test]
    fn nothing_that_is_not_a_save_is_loaded_and_nothing_does_harm(
        seed in 0u32..1000, acts in acts(), at in 0.0..45.0f64, spoils in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..12), cut in any::<prop::sample::Index>()
    ) {
        let book = checked(&weir(OLD));
        let bytes = busy(&book, seed, &acts, at).to_bytes(book.program());
        let load = |bytes: &[u8]| State::from_bytes(book.program(), bytes);
        // Truncated, or changed anywhere after what the sum is not of.
        prop_assert_eq!(load(&bytes[..cut.index(bytes.len())]).unwrap_err(), LoadError::NotAState);
        let mut spoilt = bytes.clone();
        for (place, byte) in &spoils {
            let place = place.index(bytes.len());
            spoilt[place] = *byte;
        }
        let head = spoilt[4..8] != bytes[4..8];
        let layout_alone = spoilt[..8] == bytes[..8] && spoilt[12..] == bytes[12..];
        match load(&spoilt) {
            Ok(_) => prop_assert!(layout_alone),
            Err(LoadError::OtherVersion(_)) => prop_assert!(head),
            Err(LoadError::NotAState) => prop_assert!(spoilt != bytes),
        }
        // With a right sum it may be a save of any book: what comes of it is a state like any other.
        spoilt[..12].copy_from_slice(&bytes[..12]);
        if let Ok(loaded) = load(&summed(spoilt)) {
            let again = loaded.state.to_bytes(book.program());
            prop_assert_eq!(load(&again).expect("it is a save").state, loaded.state.clone());
            let mut run = Run::from_state(&book, loaded.state);
            run.advance(Seconds(run.state().now.0 + 5.0));
            while run.take_notice().is_some() {}
        }
    }
}

#[test]
fn each_field_has_a_name_and_a_key_of_its_own_and_stays_within_its_bounds() {
    let books = [
        include_str!("../../caltrin-export/tests/own.caltrin"),
        include_str!("../../caltrin-export/tests/sparks.caltrin"),
        include_str!("../../caltrin-export/tests/modes.caltrin"),
        include_str!("../../caltrin-export/tests/scenes.caltrin"),
        &weir(OLD),
    ];
    for book in books {
        let book = checked(book);
        let all = book.program().saved_fields();
        let keys: std::collections::BTreeSet<u32> = all.iter().map(|field| field.key).collect();
        let names: std::collections::BTreeSet<&str> =
            all.iter().map(|field| field.name.as_str()).collect();
        assert_eq!((keys.len(), names.len()), (all.len(), all.len()), "{names:?}");
        assert!(
            all.iter()
                .all(|field| field.first >= field.bounds.lo && field.first <= field.bounds.hi)
        );
        let inputs = book.program().inputs().count();
        let kept =
            all.iter().filter(|field| matches!(field.place, SavedPlace::Input(_, 0))).count();
        assert_eq!(kept, inputs, "each input is saved");
    }
}

#[test]
fn modes_and_options_are_known_by_name_and_indices_by_what_they_count() {
    let old = checked(&weir(OLD));
    let mut run = Run::new(&old);
    run.fire(event(&old, "gate_moves"));
    run.choose(old.program().choices().next().unwrap().0, 2);
    run.advance(Seconds(3.0));
    let bytes = run.state().to_bytes(old.program());
    let mut changed = OLD;
    changed[1] = "calm, drill, alarm, watch; alarm -> drill at spill over 4s";
    changed[3] = "choice weather { snow, clear } over 10s";
    let text = weir(changed).replace("weather.rain", "weather.snow");
    let new = checked(&text);
    let loaded = State::from_bytes(new.program(), &bytes).unwrap();
    let [watch, snow] = ["watch", "snow"].map(|name| vec![u64::from(key_of(name))]);
    assert_eq!(values(new.program(), &loaded.state, "alert.mode"), watch);
    assert_eq!(values(new.program(), &loaded.state, "choice weather"), snow);
    assert_eq!(loaded.state.choices[0].chosen, 0);
    // A mode that is gone is told, and the first one holds.
    changed[1] = "calm, alarm, drill";
    changed[2] = "calm -> alarm at all_clear over 1s; alarm -> calm at spill over 1s; drill -> calm at spill over 1s";
    let text =
        weir(changed).replace("weather.rain", "weather.snow").replace("alert.watch", "alert.drill");
    let text = text.replace("calm -> watch at", "calm -> drill at");
    let new = checked(&text);
    let loaded = State::from_bytes(new.program(), &bytes).unwrap();
    assert_eq!(loaded.unknown, ["alert.mode"]);
    let calm = vec![u64::from(key_of("calm"))];
    assert_eq!(values(new.program(), &loaded.state, "alert.mode"), calm);
}

#[test]
fn other_versions_of_the_format_and_other_files_are_told_apart() {
    let book = checked(&weir(OLD));
    let bytes = State::start(book.program()).to_bytes(book.program());
    let load = |bytes: &[u8]| State::from_bytes(book.program(), bytes).unwrap_err();
    let mut later = bytes.clone();
    later[4] = 2;
    assert_eq!(load(&later), LoadError::OtherVersion(2));
    assert_eq!(
        load(&later).to_string(),
        "this state was saved in version 2 of the format, and this is version 1"
    );
    for nothing in
        [&b""[..], b"CALT", b"\x89PNG\r\n\x1a\n and so on and on and on", &bytes[..HEAD - 1]]
    {
        assert_eq!(load(nothing), LoadError::NotAState);
    }
    assert_eq!(bytes[..4], *b"CALT");
    // A save of another book altogether has the moment and the seed for this one.
    let other = checked(
        "lightbook \"Quarry\"\ninput dust = 0% in 0%..100%\nlight lamp point { intensity 9cd * dust }\n",
    );
    let mut run = Run::with_seed(&other, Seed(77));
    run.advance(Seconds(12.5));
    let loaded = State::from_bytes(book.program(), &run.state().to_bytes(other.program())).unwrap();
    assert_eq!((loaded.state.now, loaded.state.seed), (Seconds(12.5), Seed(77)));
    assert_eq!(loaded.dropped.len(), 1);
}

/// Saves that players have must stay readable: a change of these keys is a change of the format.
#[test]
fn keys_of_fields_never_change() {
    let book = checked(&weir(OLD));
    let all = book.program().saved_fields();
    let key = |name: &str| named(&all, name).key;
    let keys = [
        "run now",
        "run seed",
        "clock hour",
        "choice weather",
        "level",
        "alert.mode",
        "alert.way",
        "notice.packed",
    ]
    .map(key);
    assert_eq!(keys, KEYS, "{keys:#x?}");
}

const KEYS: [u32; 8] = [
    0x61fc_e60f,
    0xf3f0_0dba,
    0x4b00_3e04,
    0x9791_47f7,
    0xf69c_9186,
    0xad7f_d113,
    0x233c_04e2,
    0x6c98_b7d6,
];
