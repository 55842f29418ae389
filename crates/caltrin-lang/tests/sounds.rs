//! Sounds and what follows them, against the same by hand.

mod book;
mod heard;

use caltrin_core::build::event::pulse;
use caltrin_core::build::kinds::Time;
use caltrin_core::build::sound::Plays;
use caltrin_core::build::{Book, Output, number};
use caltrin_core::program::Constant;
use caltrin_core::program_builder::sound::Asked;
use caltrin_core::quantity::{Seconds, Seed};
use caltrin_core::run::State;
use caltrin_core::sound::{Band, Follower, Marks, Measure, STEPS, TABLE_ERROR};
use caltrin_core::{Run, ValidatedProgram};
use caltrin_lang::Reading;
use heard::{LENGTH, STRUCK, struck};
use proptest::prelude::*;

fn reading(text: &str) -> Reading {
    heard::read(text, "book.caltrin")
}

fn checked(text: &str) -> ValidatedProgram {
    let reading = reading(text);
    let told: Vec<&String> = reading.diagnostics.iter().map(|d| &d.message).collect();
    reading.checked.unwrap_or_else(|| panic!("{told:#?}"))
}

fn y(run: &mut Run<'_>) -> f64 {
    y_of(run, "y")
}

fn y_of(run: &mut Run<'_>, output: &str) -> f64 {
    let id = run.checked().program().light_named(output).expect("the output is there");
    let mut out = [0.0];
    run.read(id, 0, &mut out);
    f64::from(out[0])
}

fn fire(run: &mut Run<'_>, name: &str) {
    let event = book::event(run.checked(), name);
    run.fire(event);
}

#[test]
fn a_light_follows_a_sound_as_the_follower_does() {
    let hearing = struck(&[Band::Own(300.0, 600.0)]);
    for (asked, measure, full, gate) in [
        ("", Measure::Level, None, 0.0),
        (", measure peak", Measure::Peak, None, 0.0),
        (", band mid, full 30%", Measure::Band(Band::Mid), Some(0.3), 0.0),
        (", band 300Hz..600Hz, gate 20%", Measure::Band(Band::Own(300.0, 600.0)), None, 0.2),
        (", measure onset", Measure::Onsets, None, 0.0),
    ] {
        let text = format!(
            "lightbook \"b\"\nsound s = \"struck.wav\" {{ once }}\n\
             output y = follow(s{asked}, attack 20ms, release 150ms)\n"
        );
        let checked = checked(&text);
        let mut run = Run::new(&checked);
        let follower = Follower { attack: Seconds(0.02), release: Seconds(0.15) };
        let mut targets = hearing.targets(measure, full, gate);
        targets.extend([0.0; 2 * STEPS as usize]);
        assert!(targets.iter().any(|v| *v > 0.5), "{asked}");
        for (n, wanted) in follower.levels(&targets, 0.0).into_iter().enumerate() {
            run.advance(Seconds((n + 1) as f64 / f64::from(STEPS)));
            let found = y(&mut run);
            assert!(
                (found - wanted).abs() <= TABLE_ERROR,
                "{asked} at step {n}: {found} is {wanted}"
            );
        }
        assert_eq!(y(&mut run), 0.0, "{asked}");
    }
}

/// What the game does to the sound.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Act {
    Start,
    Stop,
    Set(f64),
    Speed(f64),
}

const PLAYED: &str = "lightbook \"b\"
event go, halt
event there(place = 0s in 0s..100s)
input speed = 100% in 0%..400%
sound s = \"struck.wav\" { starts at go; stops at halt; position there.place at there; speed speed; HOW }
event hit at s.onset
signal level = follow(s, attack 20ms, release 150ms)
event loud when level above 50% rearm below 25%
output y = level
";

fn act(run: &mut Run<'_>, act: Act) {
    match act {
        Act::Start => fire(run, "go"),
        Act::Stop => fire(run, "halt"),
        Act::Set(to) => {
            let event = book::event(run.checked(), "there");
            run.fire_with(event, &[Constant::Scalar(to)]);
        }
        Act::Speed(to) => {
            let id = run.checked().program().input_named("speed").unwrap();
            run.set(id, 0, Constant::Scalar(to)).unwrap();
        }
    }
}

/// Where the sound is by hand: from an act on, at which place, whether it plays and how fast.
fn by_hand(acts: &[(f64, Act)], round: bool) -> Vec<(f64, f64, bool, f64)> {
    let mut all = vec![(0.0, 0.0, false, 1.0)];
    for (t, act) in acts {
        let (since, at, plays, speed) = *all.last().unwrap();
        let place = if plays { at + (t - since) * speed } else { at };
        let within = |to: f64| if round { to % LENGTH } else { to.min(LENGTH) };
        all.push(match act {
            Act::Start => (*t, 0.0, true, speed),
            Act::Stop => (*t, place, false, speed),
            Act::Set(to) => (*t, within(*to), plays, speed),
            Act::Speed(to) => (*t, place, plays, *to),
        });
    }
    all
}

fn acts() -> impl Strategy<Value = Vec<(f64, Act)>> {
    let one = prop_oneof![
        3 => Just(Act::Start),
        1 => Just(Act::Stop),
        1 => (0.0f64..4.0).prop_map(Act::Set),
        1 => prop_oneof![Just(0.0), Just(0.5), Just(1.0), Just(2.25)].prop_map(Act::Speed),
    ];
    prop::collection::vec((0.0f64..12.0, one), 1..7).prop_map(|mut acts| {
        acts.sort_by(|a, b| a.0.total_cmp(&b.0));
        acts
    })
}

/// The states of a run through the acts, a frame at a time, at each whole second.
fn played(
    checked: &ValidatedProgram,
    acts: &[(f64, Act)],
    frame: impl Fn(u32) -> f64,
) -> Vec<(State, u64)> {
    let mut run = Run::new(checked);
    let mut acts = acts.iter().copied().peekable();
    let (mut now, mut n, mut out) = (0.0, 0, Vec::new());
    for second in 1..=14 {
        while now < f64::from(second) {
            now = (now + frame(n)).min(f64::from(second));
            n += 1;
            while let Some((t, what)) = acts.next_if(|(t, _)| *t <= now) {
                run.advance(Seconds(t));
                act(&mut run, what);
            }
            run.advance(Seconds(now));
        }
        out.push((run.state().clone(), y(&mut run).to_bits()));
    }
    out
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn a_sound_is_where_the_game_has_brought_it(acts in acts(), round: bool) {
        let checked = checked(&PLAYED.replace("HOW", if round { "loops" } else { "once" }));
        let sound = &checked.program().sounds()[0];
        let (probe, light) = checked.probe(&[sound.place]).unwrap();
        let hand = by_hand(&acts, round);
        let mut run = Run::new(&probe);
        let mut next = acts.iter().copied().peekable();
        for n in 1..280 {
            let t = f64::from(n) * 0.05;
            while let Some((at, what)) = next.next_if(|(at, _)| *at <= t) {
                run.advance(Seconds(at));
                act(&mut run, what);
            }
            run.advance(Seconds(t));
            let (since, at, plays, speed) = *hand.iter().rev().find(|(since, ..)| *since <= t).unwrap();
            let place = if plays { at + (t - since) * speed } else { at };
            let mut found = [0.0];
            run.read(light, 0, &mut found);
            let wanted = if round { place % LENGTH } else { place };
            let off = (f64::from(found[0]) - wanted).abs();
            prop_assert!(off < 1e-5 || (round && (off - LENGTH).abs() < 1e-5), "{t}: {found:?} is {wanted}");
        }
    }

    #[test]
    fn its_onsets_happen_at_their_own_moments(acts in acts(), round: bool) {
        let checked = checked(&PLAYED.replace("HOW", if round { "loops" } else { "once" }));
        let onsets: Vec<f64> = struck(&[]).marks(Marks::Onsets).iter().map(|mark| mark.at).collect();
        assert_eq!(onsets.len(), STRUCK.len());
        let end = 14.0;
        // By hand: every place between one act and the next that is an onset.
        let hand = by_hand(&acts, round);
        let mut wanted = Vec::new();
        for (n, (since, at, plays, speed)) in hand.iter().enumerate() {
            let until = hand.get(n + 1).map_or(end, |next| next.0);
            let turns = if round { 40 } else { 1 };
            for turn in 0..turns {
                for onset in &onsets {
                    let place = f64::from(turn) * LENGTH + onset;
                    let t = since + (place - at) / speed;
                    if *plays && *speed > 0.0 && place >= *at && t < until {
                        wanted.push(t);
                    }
                }
            }
        }
        let mut run = Run::new(&checked);
        run.listen();
        for (t, what) in &acts {
            run.advance(Seconds(*t));
            act(&mut run, *what);
        }
        run.advance(Seconds(end));
        let hit = book::event(&checked, "hit");
        let found: Vec<f64> =
            run.heard().iter().filter(|heard| heard.event == hit).map(|heard| heard.at.0).collect();
        prop_assert_eq!(found.len(), wanted.len(), "{:?} {:?}", &found, &wanted);
        for (found, wanted) in found.iter().zip(&wanted) {
            prop_assert!((found - wanted).abs() < 1e-9, "{found} is {wanted}");
        }
    }

    #[test]
    fn frames_change_nothing(acts in acts(), round: bool) {
        let checked = checked(&PLAYED.replace("HOW", if round { "loops" } else { "once" }));
        let whole = played(&checked, &acts, |_| 1.0);
        let sixty = played(&checked, &acts, |_| 1.0 / 60.0);
        let odd = played(&checked, &acts, |n| [0.001, 0.3, 0.017, 0.06][n as usize % 4]);
        prop_assert_eq!(&whole, &sixty);
        prop_assert_eq!(&whole, &odd);
    }

    #[test]
    fn a_level_is_never_lost(acts in acts(), round: bool) {
        let checked = checked(&PLAYED.replace("HOW", if round { "loops" } else { "once" }));
        let mut run = Run::new(&checked);
        for (t, what) in &acts {
            run.advance(Seconds(*t));
            let before = y(&mut run);
            act(&mut run, *what);
            prop_assert!(y(&mut run) >= before - 1e-6, "{t}: {before} falls to {}", y(&mut run));
        }
    }
}

#[test]
fn a_threshold_is_passed_at_its_exact_moment_and_not_at_a_look() {
    let checked = checked(
        "lightbook \"b\"\nsound s = \"struck.wav\"\nsignal level = follow(s, attack 20ms, release 150ms)\n\
         event loud when level above 50% rearm below 25%\noutput y = level\noutput n = pulse(at loud, lasts 1ms)\n",
    );
    let mut run = Run::new(&checked);
    run.listen();
    run.advance(Seconds(30.0));
    let moments: Vec<f64> = run.heard().iter().map(|heard| heard.at.0).collect();
    assert!(moments.len() >= 20, "{moments:?}");
    let mut run = Run::new(&checked);
    for at in &moments {
        run.advance(Seconds(at - 1e-6));
        assert!(y(&mut run) <= 0.5);
        run.advance(Seconds(at + 1e-6));
        assert!(y(&mut run) > 0.5);
    }
    // None of them waits for the grid that other conditions are looked at on.
    assert!(moments.iter().any(|at| ((at * 120.0).round() - at * 120.0).abs() > 1e-3));
}

#[test]
fn a_live_sound_is_an_input_that_is_followed() {
    let live = checked(
        "lightbook \"b\"\nsound s = live\noutput y = follow(s, band low, attack 20ms, release 150ms, full 50%, gate 10%)\n",
    );
    let plain = checked(
        "lightbook \"b\"\ninput low = 0% in 0%..100%\nsignal part = min(low / 50%, 1)\n\
         output y = follow(if part below 10% then 0 else part, attack 20ms, release 150ms)\n",
    );
    let (mut a, mut b) = (Run::new(&live), Run::new(&plain));
    let [in_a, in_b] = [live.program().input_named("s.low"), plain.program().input_named("low")];
    for n in 0..400u32 {
        let level = f64::from(n * 7919 % 97) / 97.0;
        for (run, id) in [(&mut a, in_a), (&mut b, in_b)] {
            run.advance(Seconds(f64::from(n) * 0.031));
            run.set(id.unwrap(), 0, Constant::Scalar(level)).unwrap();
            run.advance(Seconds(f64::from(n) * 0.031 + 0.011));
        }
        assert_eq!(y(&mut a).to_bits(), y(&mut b).to_bits(), "{n}");
    }
}

#[test]
fn notes_and_beats_of_music_are_events() {
    let checked = checked(
        "lightbook \"b\"\nsound s = \"peal.mid\"\nevent high at s.note above 65\nevent low at s.note below 61\n\
         event bar at s.beat below 2\noutput y = pulse(at high, lasts 1s) + pulse(at low, lasts 1s) + pulse(at bar, lasts 1s)\n",
    );
    let mut run = Run::new(&checked);
    run.listen();
    run.advance(Seconds(7.9));
    let heard = run.heard();
    let of = |name: &str| -> Vec<f64> {
        let event = book::event(&checked, name);
        heard.iter().filter(|heard| heard.event == event).map(|heard| heard.at.0).collect()
    };
    assert_eq!(of("high"), [1.0, 2.5, 5.0, 6.5]);
    assert_eq!(of("low"), [0.0, 4.0]);
    assert_eq!(of("bar"), [0.0, 3.0, 4.0, 7.0]);
}

#[test]
fn each_instance_follows_one_sound_by_a_scale_of_its_own() {
    let checked = checked(
        "lightbook \"b\"\nsound s = \"struck.wav\"\nsignal level = follow(s, attack 20ms, release 150ms)\n\
         fitting board { input scale = 50% in 0%..300%; light strip point { intensity 10cd * level * scale } }\n\
         place row[3] of board { position (0m, 0m, 0m), (1m, 0m, 0m) }\n",
    );
    let mut run = Run::new(&checked);
    let scale = checked.program().input_named("row.scale").unwrap();
    run.set(scale, 1, Constant::Scalar(3.0)).unwrap();
    run.advance(Seconds(0.4));
    let light = checked.program().light_named("row.strip").unwrap();
    let width = run.width(light);
    let intensity = |run: &mut Run<'_>, lamp| {
        let mut out = vec![0.0; width];
        run.read(light, lamp, &mut out);
        let places = checked.program().light(light).drives.iter();
        let at = places.take_while(|drive| drive.field != caltrin_core::program::Field::Intensity);
        f64::from(out[at.map(|drive| drive.kind.width()).sum::<usize>()])
    };
    let [a, b, c] = [0, 1, 2].map(|lamp| intensity(&mut run, lamp));
    assert!(a > 0.5 && (b / a - 6.0).abs() < 1e-5 && a == c, "{a} {b} {c}");
}

#[test]
fn a_book_built_in_rust_gives_the_same_bits() {
    let read = checked(
        "lightbook \"Twin\"\nevent go, halt\nevent there(place = 0s in 0s..9s)\ninput speed = 100% in 0%..400%\n\
         sound s = \"struck.wav\" { starts at go; stops at halt; loops; speed speed; position there.place at there }\n\
         sound round = \"struck.wav\"\nsound crowd = live\n\
         signal level = follow(s, attack 20ms, release 150ms)\nevent loud when level above 50% rearm below 25%\n\
         event hit at round.onset above 30%\n\
         output y = level + pulse(at loud, lasts 90ms) + pulse(at hit, lasts 50ms) + follow(crowd, attack 20ms, release 1s)\n\
         output z = follow(round, band low, full 20%, gate 5%, attack 3ms, release 99ms, delay 40ms)\n",
    );
    let mut book = Book::new("Twin", Seed(0));
    let [go, halt, there] = ["go", "halt", "there"].map(|name| book.event(name));
    let place = book.event_value::<Time>(there, "place", 0.0, 0.0..=9.0);
    let speed = book.input("speed", 1.0, 0.0..=4.0);
    let plays =
        Plays::starting_at(&[go]).stopped_at(&[halt]).looped().at_speed(speed).set_at(there, place);
    let s = book.sound("s", "struck.wav", struck(&[]), plays);
    let round = book.sound("round", "struck.wav", struck(&[]), Plays::round());
    let crowd = book.live_sound("crowd");
    let level = book.signal("level", s.follow(Seconds(0.02), Seconds(0.15)));
    let loud = book.event_when(
        "loud",
        &level.clone().above(number(0.5)),
        None,
        Some(&number(0.25).above(level.clone())),
    );
    let hit = book.event_at_marks("hit", &round, Marks::Onsets, [Some(0.3), None]);
    let y = level
        + pulse(loud, Seconds(0.09))
        + pulse(hit, Seconds(0.05))
        + crowd.follow(Seconds(0.02), Seconds(1.0));
    book.output(Output::of("y", y));
    let z = Asked {
        measure: Measure::Band(Band::Low),
        full: Some(0.2),
        gate: 0.05,
        attack: Seconds(0.003),
        release: Seconds(0.099),
        delay: Seconds(0.04),
    };
    book.output(Output::of("z", round.follow_as(z)));
    let built = book.check().unwrap();
    let (mut a, mut b) = (Run::new(&read), Run::new(&built));
    let acts = [
        (0.4, Act::Start),
        (1.1, Act::Speed(2.5)),
        (2.0, Act::Set(1.6)),
        (3.0, Act::Stop),
        (3.4, Act::Start),
    ];
    let mut next = acts.into_iter().peekable();
    for n in 0..400 {
        let t = f64::from(n) * 0.0131;
        while let Some((_, what)) = next.next_if(|(at, _)| *at <= t) {
            act(&mut a, what);
            act(&mut b, what);
        }
        for run in [&mut a, &mut b] {
            let id = run.checked().program().input_named("crowd.level").unwrap();
            run.set(id, 0, Constant::Scalar(f64::from(n % 37) / 37.0)).unwrap();
            run.advance(Seconds(t));
        }
        assert_eq!(y_of(&mut a, "y"), y_of(&mut b, "y"), "{t}");
        assert_eq!(y_of(&mut a, "z"), y_of(&mut b, "z"), "{t}");
    }
}

#[test]
fn what_is_amiss_with_a_sound_is_told() {
    let head = "lightbook \"b\"\nevent go\nsound s = \"struck.wav\" { starts at go }\nsound hum = \"hum.wav\"\nsound crowd = live\n";
    let cases = [
        ("output y = follow(horm)", "there is no name `horm`"),
        ("output y = follow(hm, attack 5ms, release 1s)", "there is no name `hm`"),
        ("output y = s", "`s` is a sound, not a value"),
        ("output y = follow(s, band lo)", "there is no band `lo`"),
        ("output y = follow(s, band 900Hz..200Hz)", "the edges of a band must rise"),
        ("value a = 100Hz\noutput y = follow(s, band a..200Hz)", "must be constant frequencies"),
        ("output y = follow(s, measure peek)", "a sound has no measure `peek`"),
        ("output y = follow(s, measure peak, band low)", "remove `measure` or `band`"),
        ("output y = follow(s, attack 0ms)", "the time of attack is 0, but must be within 0.002"),
        ("output y = follow(s, gate 200%)", "the gate is 2"),
        ("input a = 1s in 1s..2s\noutput y = follow(s, attack a)", "of a sound must be constant"),
        ("output y = follow(s, atack 5ms)", "`follow` has no argument `atack`"),
        ("output y = follow(crowd, measure onset)", "`crowd` is live"),
        ("output y = follow(crowd, delay 1s)", "`crowd` is live"),
        ("event hit at s.onsett", "`s` has onset, beat and note"),
        ("event hit at s", "`s` has onset, beat and note"),
        ("event hit at crowd.onset", "`crowd` is live"),
        ("event hit at s.note", "`s` has no notes"),
        ("event hit at go.onset", "`go` is not a sound"),
        ("event hit at nothing.onset", "there is no name `nothing`"),
        ("sound other = \"missing.wav\"", "there is no sound `missing.wav`"),
        ("sound other = \"struck.wav\" { starts at gone }", "there is no name `gone`"),
        (
            "sound other = \"struck.wav\" { starts at go; stops at go }",
            "only one of these and only once",
        ),
        ("sound other = \"struck.wav\" { speed 20 }", "the speed of a sound is 20"),
        ("sound other = \"struck.wav\" { loops; once }", "duplicate line"),
        ("sound other = \"struck.wav\" { rewinds }", "expected `starts at`"),
        ("sound other = 3", "or `live`"),
        ("sound other = live { loops }", "a live sound has no settings"),
        ("sound hum = \"hum.wav\"", "duplicate name"),
        ("light a point { sound t = \"hum.wav\" }", "`sound` cannot be declared here"),
    ];
    for (line, wanted) in cases {
        let reading = reading(&format!("{head}{line}\n"));
        let told: Vec<String> = reading
            .diagnostics
            .iter()
            .map(|told| format!("{} {}", told.message, told.help.as_deref().unwrap_or_default()))
            .collect();
        assert!(told.iter().any(|told| told.contains(wanted)), "{line}: {told:#?}");
        assert!(reading.checked.is_none(), "{line}");
    }
    // What follows a sound that cannot be heard is reported nothing more.
    let told =
        reading("lightbook \"b\"\nsound s = \"gone.wav\"\noutput y = follow(s)\n").diagnostics;
    assert_eq!(told.len(), 1, "{told:#?}");
}
