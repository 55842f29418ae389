//! Events and what they drive: the same whatever the frames, exact at the moments at which things are due.

mod book;
mod heard;
mod random;

use book::{checked, event};
use caltrin_core::kind::Kind;
use caltrin_core::program::{Constant, Deed, EventId, EventSource, NEVER, Which};
use caltrin_core::quantity::{Seconds, Seed};
use caltrin_core::rehearsal::Player;
use caltrin_core::run::State;
use caltrin_core::{Run, ValidatedProgram};
use caltrin_lang::{Lines, read};
use proptest::prelude::*;

const EVENTS: &str = include_str!("../../caltrin-export/tests/events.caltrin");
const SCENES: &str = include_str!("../../caltrin-export/tests/scenes.caltrin");
const OWN: &str = include_str!("../../caltrin-export/tests/own.caltrin");
const LED: &str = include_str!("../../caltrin-export/tests/led.caltrin");
const SPARKS: &str = include_str!("../../caltrin-export/tests/sparks.caltrin");
const MODES: &str = include_str!("../../caltrin-export/tests/modes.caltrin");

/// The bits of all lamps now.
fn bits(run: &mut Run<'_>, checked: &ValidatedProgram) -> Vec<u32> {
    let mut all = Vec::new();
    for (id, light) in checked.program().lights() {
        let mut out = vec![0.0; run.width(id) * light.size.shown() as usize];
        run.read(id, 0, &mut out);
        all.extend(out.iter().map(|v| v.to_bits()));
    }
    all
}

/// The first value of an output.
fn value(run: &mut Run<'_>, checked: &ValidatedProgram, output: &str) -> f32 {
    let id = checked.program().light_named(output).expect("the output is there");
    let mut out = vec![0.0; run.width(id)];
    run.read(id, 0, &mut out);
    out[0]
}

/// What the game does: which event or, from 4 on, which level, when. In the order of time.
fn deeds() -> impl Strategy<Value = Vec<(f64, usize)>> {
    prop::collection::vec((0.0..30.0f64, 0usize..8), 0..24).prop_map(|mut acts| {
        acts.sort_by(|a, b| a.0.total_cmp(&b.0));
        acts
    })
}

/// What the game does: which event, when. In the order of time.
fn acts() -> impl Strategy<Value = Vec<(f64, usize)>> {
    prop::collection::vec((0.0..40.0f64, 0usize..4), 0..24).prop_map(|mut acts| {
        acts.sort_by(|a, b| a.0.total_cmp(&b.0));
        acts
    })
}

/// Plays it frame by frame; each act comes at its own moment, between frames. Gives state and lamps at the
/// moments that are asked for.
fn play(
    checked: &ValidatedProgram,
    seed: u32,
    acts: &[(f64, usize)],
    asked: &[f64],
    mut frame: impl FnMut() -> f64,
) -> Vec<(State, Vec<u32>)> {
    let fired: Vec<EventId> = checked
        .program()
        .events()
        .filter(|(_, event)| event.source == EventSource::Game)
        .map(|(id, _)| id)
        .collect();
    let mut stops: Vec<(f64, Option<usize>)> = acts.iter().map(|(t, n)| (*t, Some(*n))).collect();
    stops.extend(asked.iter().map(|t| (*t, None)));
    // At one moment the game acts first.
    stops.sort_by(|a, b| a.0.total_cmp(&b.0).then(b.1.is_some().cmp(&a.1.is_some())));
    let mut run = Run::with_seed(checked, Seed(seed));
    let (mut now, mut found) = (0.0, Vec::new());
    for (stop, act) in stops {
        loop {
            let next = now + frame();
            if next >= stop {
                break;
            }
            now = next;
            run.advance(Seconds(now));
        }
        run.advance(Seconds(stop));
        let set = checked.program().given().find(|(_, input)| input.kind == Kind::Number);
        match (act, set) {
            // From 4 on the game sets an input, where there is one.
            (Some(n), Some((id, input))) if n > 3 => {
                let level = (n - 4) as f64 / 3.0;
                let value = input.bounds.lo + (input.bounds.hi - input.bounds.lo) * level;
                run.set(id, 0, Constant::Scalar(value)).expect("it lies within its bounds");
            }
            (Some(n), _) => run.fire(fired[n % fired.len()]),
            (None, _) => found.push((run.state().clone(), bits(&mut run, checked))),
        }
    }
    found
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn frames_change_nothing(seed in 0u32..1000, acts in acts(), mut steps in prop::collection::vec(1e-4..3.0f64, 30)) {
        let checked = checked(EVENTS);
        // Moments that all have in common, and those at which something is due or over.
        let mut asked: Vec<f64> = vec![0.0, 3.0, 11.5, 41.0, 44.0];
        for (t, _) in &acts {
            asked.extend([*t, t + 0.06, t + 0.3, t + 0.7, t + 2.0, t + 2.5, t + 2.54]);
        }
        let mut ahead = Run::with_seed(&checked, Seed(seed));
        for _ in 0..12 {
            let (due, _) = ahead.next_due().expect("something is due");
            ahead.advance(due);
            asked.push(due.0);
        }
        asked.sort_by(f64::total_cmp);
        let once = play(&checked, seed, &acts, &asked, || 1e9);
        for rate in [1.0, 24.0, 30.0, 60.0, 144.0, 1000.0] {
            let played = play(&checked, seed, &acts, &asked, || 1.0 / rate);
            prop_assert!(played == once, "{rate} frames a second");
        }
        let irregular = play(&checked, seed, &acts, &asked, || {
            steps.rotate_left(1);
            steps[0]
        });
        prop_assert!(irregular == once);
    }

    #[test]
    fn frames_change_nothing_where_rules_lead(seed in 0u32..1000, acts in deeds(), step in 1e-3..2.0f64, which in 0usize..5) {
        let checked = checked([SCENES, MODES, OWN, LED, SPARKS][which]);
        let mut asked: Vec<f64> = vec![0.0, 2.0, 31.0];
        for (t, _) in &acts {
            asked.extend([*t, t + 1.0 / 120.0, t + 0.4, t + 2.0, t + 2.4, t + 5.0]);
        }
        asked.sort_by(f64::total_cmp);
        let once = play(&checked, seed, &acts, &asked, || 1e9);
        for length in [1.0, 1.0 / 24.0, 1.0 / 60.0, 1.0 / 144.0, 1.0 / 1000.0, step] {
            prop_assert!(play(&checked, seed, &acts, &asked, || length) == once, "{length} s");
        }
    }

    #[test]
    fn frames_change_nothing_in_random_books(author in any::<u64>(), seed in 0u32..1000, acts in deeds(), step in 1e-3..2.0f64) {
        let text = random::Author::new(author).book();
        // A random book may leave what is finite; then it is refused.
        if let Some(checked) = heard::read(&text, "book.caltrin").checked {
            let mut asked: Vec<f64> = vec![0.0, 7.0, 41.0];
            for (t, _) in &acts {
                asked.extend([*t, t + 0.09, t + 0.4, t + 0.7, t + 1.1, t + 2.0]);
            }
            asked.sort_by(f64::total_cmp);
            let once = play(&checked, seed, &acts, &asked, || 1e9);
            for length in [1.0 / 24.0, 1.0 / 144.0, step] {
                prop_assert!(play(&checked, seed, &acts, &asked, || length) == once, "{length} s\n{text}");
            }
        }
    }

    #[test]
    fn what_is_kept_and_gone_back_to_goes_on_alike(seed in 0u32..1000, acts in acts(), at in 0.0..40.0f64) {
        let checked = checked(EVENTS);
        let mut run = Run::with_seed(&checked, Seed(seed));
        let fired: Vec<EventId> = ["boat_near", "boat_gone", "gate_moves", "lever"].map(|n| event(&checked, n)).into();
        let after = |run: &mut Run<'_>, from: f64, to: f64| {
            for (t, n) in acts.iter().filter(|(t, _)| *t >= from && *t < to) {
                run.advance(Seconds(*t));
                run.fire(fired[*n]);
            }
            run.advance(Seconds(to));
            (run.state().clone(), bits(run, &checked))
        };
        after(&mut run, 0.0, at);
        let kept = run.state().clone();
        let first = after(&mut run, at, 60.0);
        run.restore(kept);
        prop_assert!(after(&mut run, at, 60.0) == first);
    }

    #[test]
    fn what_is_saved_as_bytes_goes_on_alike(seed in 0u32..1000, acts in deeds(), at in 0.0..30.0f64, which in 0usize..5) {
        let checked = checked([SCENES, MODES, OWN, LED, SPARKS][which]);
        let kept = play(&checked, seed, &acts, &[at], || 1e9);
        let bytes = kept[0].0.to_bytes(checked.program());
        let loaded = State::from_bytes(checked.program(), &bytes).unwrap();
        prop_assert!(loaded.dropped.is_empty() && loaded.fresh.is_empty() && loaded.unknown.is_empty());
        prop_assert_eq!(&loaded.state, &kept[0].0);
        let on = |state: State| {
            let mut run = Run::from_state(&checked, state);
            run.advance(Seconds(at + 20.0));
            (run.state().clone(), bits(&mut run, &checked))
        };
        prop_assert!(on(loaded.state) == on(kept[0].0.clone()));
    }

    #[test]
    fn a_log_is_replayed_and_sought_in(seed in 0u32..1000, acts in acts(), mut asked in prop::collection::vec(0.0..45.0f64, 1..12)) {
        let checked = checked(EVENTS);
        let fired: Vec<EventId> = checked
            .program()
            .events()
            .filter(|(_, event)| event.source == EventSource::Game)
            .map(|(id, _)| id)
            .collect();
        let log: Vec<(Seconds, Deed)> = acts
            .iter()
            .map(|(at, n)| (Seconds(*at), Deed::Fire(fired[n % fired.len()], Which { first: 0, count: 1 }, Vec::new())))
            .collect();
        let start = State::start(checked.program()).with_seed(Seed(seed));
        let mut player = Player::of_log(&checked, start, &log);
        let mut found: Vec<(f64, State)> = Vec::new();
        for at in &asked {
            player.seek(Seconds(*at));
            found.push((*at, player.run().state().clone()));
        }
        asked.sort_by(f64::total_cmp);
        let wanted = play(&checked, seed, &acts, &asked, || 0.02);
        for (at, (state, _)) in asked.iter().zip(wanted) {
            prop_assert!(found.iter().any(|(known, kept)| known == at && *kept == state), "{at}");
        }
    }

    #[test]
    fn a_switch_goes_on_from_where_it_is(turns in prop::collection::vec((0.0..9.0f64, any::<bool>()), 1..20)) {
        let checked = checked(
            "lightbook \"S\"\nevent up, down\nswitch power { on at up over 2s smooth; off at down over 700ms }\noutput level = power\noutput target = if power is on then 1 else 0",
        );
        let (up, down) = (event(&checked, "up"), event(&checked, "down"));
        let mut turns = turns;
        turns.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut run = Run::new(&checked);
        // The same by hand.
        let (mut on, mut since, mut from) = (false, -1e6, 0.0);
        let level = |on: bool, since: f64, from: f64, now: f64| {
            let (to, over) = if on { (1.0, 2.0) } else { (0.0, 0.7) };
            if now >= since + over {
                return to;
            }
            let u = ((now - since) / over).clamp(0.0, 1.0);
            let u = if on { u * u * (3.0 - 2.0 * u) } else { u };
            from + (to - from) * u
        };
        for (at, to) in turns {
            run.advance(Seconds(at));
            let before = value(&mut run, &checked, "level");
            run.fire(if to { up } else { down });
            prop_assert_eq!(value(&mut run, &checked, "level"), before, "no jump");
            if to != on {
                (from, since, on) = (level(on, since, from, at), at, to);
            }
            prop_assert_eq!(value(&mut run, &checked, "target"), f32::from(u8::from(on)));
            for later in [0.0, 0.1, 0.69, 1.9] {
                run.advance(Seconds(at + later));
                let wanted = level(on, since, from, at + later);
                prop_assert!((f64::from(value(&mut run, &checked, "level")) - wanted).abs() < 1e-6);
            }
            run.advance(Seconds(since + 2.0));
            prop_assert_eq!(value(&mut run, &checked, "level"), f32::from(u8::from(on)), "done to the bit");
        }
    }

    #[test]
    fn times_between_lie_between_their_bounds(seed in any::<u32>()) {
        let checked = checked("lightbook \"E\"\nevent knock every 4s..9s\nevent tick every 1.5s\noutput o = pulse(at knock, lasts 1s) + pulse(at tick, lasts 1s)");
        let (knock, tick) = (event(&checked, "knock"), event(&checked, "tick"));
        let mut run = Run::with_seed(&checked, Seed(seed));
        let (mut last, mut ticks, mut times) = (0.0, 0, Vec::new());
        while times.len() < 40 {
            let (due, which) = run.next_due().expect("something is due");
            run.advance(due);
            if which == knock {
                times.push(due.0 - last);
                last = due.0;
            } else {
                prop_assert!(which == tick);
                ticks += 1;
                prop_assert_eq!(due.0, 1.5 * f64::from(ticks));
            }
        }
        prop_assert!(times.iter().all(|time| (4.0 - 1e-9..=9.0 + 1e-9).contains(time)));
        let spread = times.iter().fold((9.0f64, 4.0f64), |(lo, hi), t| (lo.min(*t), hi.max(*t)));
        prop_assert!(spread.0 < 5.0 && spread.1 > 8.0, "{spread:?}");
    }
}

#[test]
fn what_follows_is_counted_anew_when_its_cause_comes_again() {
    let checked = checked(
        "lightbook \"F\"\nevent hit\nevent gone after 2s from hit\nevent begun after 500ms\noutput o = pulse(at gone, lasts 1s)\noutput b = pulse(at begun, lasts 1s)",
    );
    let (hit, gone) = (event(&checked, "hit"), event(&checked, "gone"));
    let mut run = Run::new(&checked);
    assert_eq!(run.next_due(), Some((Seconds(0.5), event(&checked, "begun"))));
    run.advance(Seconds(1.0));
    assert!(run.next_due().is_some_and(|(due, _)| due.0 >= NEVER), "nothing follows from nothing");
    run.fire(hit);
    assert_eq!(run.next_due(), Some((Seconds(3.0), gone)));
    run.advance(Seconds(2.5));
    run.fire(hit);
    run.advance(Seconds(4.499));
    assert_eq!(value(&mut run, &checked, "o"), 0.0);
    run.advance(Seconds(4.5));
    assert_eq!(value(&mut run, &checked, "o"), 1.0);
    run.advance(Seconds(5.5));
    assert_eq!(value(&mut run, &checked, "o"), 0.0, "over at the very moment");
    assert!(run.next_due().is_some_and(|(due, _)| due.0 >= NEVER), "once only");
}

#[test]
fn a_curve_plays_from_its_event_and_rests_at_its_end() {
    let checked = checked(
        "lightbook \"P\"\nevent hit\ncurve up { 0s 20%; 1s 80% }\ncurve there_and_back { 0s 30%; 1s 80%; 2s 30% }\noutput a = play(up, at hit, before 5%)\noutput b = play(there_and_back, at hit)",
    );
    let hit = event(&checked, "hit");
    let mut run = Run::new(&checked);
    let at = |run: &mut Run<'_>, t: f64| {
        run.advance(Seconds(t));
        [value(run, &checked, "a"), value(run, &checked, "b")]
    };
    assert_eq!(at(&mut run, 3.0), [0.05, 0.3]);
    run.fire(hit);
    assert_eq!(at(&mut run, 3.0), [0.2, 0.3]);
    assert_eq!(at(&mut run, 3.5), [0.5, 0.55]);
    run.fire(hit);
    assert_eq!(at(&mut run, 3.5), [0.2, 0.3], "it begins again");
    assert_eq!(at(&mut run, 99.0), [0.8, 0.3]);
}

#[test]
fn ten_thousand_events_at_once_and_an_hour_in_one_frame_are_gone_through() {
    let checked = checked(EVENTS);
    let mut run = Run::new(&checked);
    let lever = event(&checked, "lever");
    for _ in 0..10_001 {
        run.fire(lever);
    }
    run.advance(Seconds(3600.0));
    let (due, _) = run.next_due().expect("something is due");
    assert!(due.0 > 3600.0 && due.0 < 3602.0, "nothing is left over: {due:?}");
    // Beyond the most at once the rest comes in the next calls, at its own moments.
    let mut late = Run::new(&checked);
    late.advance(Seconds(100_000.0));
    assert!(late.next_due().is_some_and(|(due, _)| due.0 < 100_000.0));
    for _ in 0..20 {
        late.advance(Seconds(100_000.0));
    }
    let mut often = Run::new(&checked);
    for n in 1..=100 {
        often.advance(Seconds(f64::from(n) * 1000.0));
    }
    assert_eq!(late.state(), often.state());
}

#[test]
fn going_back_undoes_nothing() {
    let checked = checked(EVENTS);
    let mut run = Run::new(&checked);
    run.fire(event(&checked, "boat_gone"));
    run.advance(Seconds(30.0));
    let kept = run.state().clone();
    run.advance(Seconds(4.0));
    run.advance(Seconds(30.0));
    assert_eq!(*run.state(), kept);
}

#[test]
fn the_game_cannot_fire_what_happens_by_itself_nor_set_what_is_remembered() {
    let checked = checked(EVENTS);
    let mut run = Run::new(&checked);
    let before = run.state().clone();
    run.fire(event(&checked, "tick"));
    assert_eq!(*run.state(), before);
    assert!(checked.program().input_named("lamps.on").is_none());
    let (kept, _) =
        checked.program().inputs().find(|(_, input)| input.kept.is_some()).expect("one");
    let set = run.set(kept, 0, caltrin_core::program::Constant::Scalar(0.0));
    assert!(set.is_err_and(|why| why.to_string().ends_with("is written by events")));
}

/// What is reported of a book: line, words and message.
fn told(text: &str) -> String {
    let reading = read(text, "book.caltrin");
    let lines = Lines::of(text);
    let mut out = String::new();
    for d in &reading.diagnostics {
        let (line, column) = lines.position(text, d.range().start);
        let words: String = text[d.range()].chars().take(40).collect();
        out += &format!("{line}:{column} `{}` {}\n", words.escape_debug(), d.message);
        if let Some(help) = &d.help {
            out += &format!("    help: {help}\n");
        }
    }
    out
}

#[test]
fn what_is_wrong_with_events_is_told_where_it_stands() {
    insta::assert_snapshot!(told(
        "lightbook \"W\"
event a, b
event a
event c every 0s
event d every 9s..4s
event e after 2s from nothing
event f after 2s from lamp
event g sometimes
event h after a
curve up { 0s 0; 1s 1 }
switch s { on at a over 2s before; off at a }
switch t { starts on }
switch u { starts maybe; on at a }
switch v { on at b over 2; blink at b }
signal x = a + 1
signal y = play(up, at a)
signal z = pulse(at up, lasts 1s) + pulse(lasts 1s) + pulse(at b, lasts 0s)
signal w = if u is on then 1 else 0
light lamp point { intensity 1lm * x }"
    ));
}

#[test]
fn circles_among_events_are_told() {
    let text = "lightbook \"C\"\nevent a after 1s from b\nevent b after 1s from a\nlight l point { intensity 1lm * pulse(at a, lasts 1s) }";
    assert!(
        told(text).contains("`a` depends on itself: `a` needs `b` needs `a`"),
        "{}",
        told(text)
    );
}

const HARBOUR: &str = "lightbook \"H\"
clock { day 24min; start 12:00 }
event cut, back
event tick every 2s
choice weather { fair, fog } over 1s
input mist = 30% in 0%..100%
switch power { starts on; off at cut; on at back over 2s }
light lamp[3] point { intensity 100lm * power * (1 - mist); reach 1m..6m; shadows power is on }
output haze = mist
";

fn rehearsed(text: &str) -> (ValidatedProgram, caltrin_core::program::Rehearsal) {
    let checked = checked(&format!("{HARBOUR}{text}"));
    let rehearsal = checked.program().rehearsals()[0].clone();
    (checked, rehearsal)
}

#[test]
fn a_rehearsal_does_what_the_game_does_and_tells_what_is_not_as_expected() {
    let (checked, rehearsal) = rehearsed(
        "rehearsal r {
  clock 17:40
  2s  mist = 50%
  1s  expect lamp.intensity is in 69lm..71lm
  2s  expect lamp.intensity below 51lm for 1s
  3s  cut
  3s  expect power is off
  3s  expect lamp.shadows is off
  2s  expect lamp.intensity above 20lm for 3s
  4s  back
  5s  weather = fog
  5s  expect weather is fog
  5s  expect lamp.intensity is in 24lm..26lm
  6s  expect lamp.reach above 5m
  6s  clock 06:00
  6s  expect hour is in 05:59..06:01
  9s  end
}",
    );
    assert_eq!((rehearsal.deeds.len(), rehearsal.end), (5, Seconds(9.0)));
    let missed = caltrin_core::rehearsal::rehearse(&checked, &rehearsal, Seed(1));
    let words: Vec<(&str, f64, Option<u32>)> = rehearsal
        .expectations
        .iter()
        .zip(&missed)
        .filter_map(|(expectation, missed)| {
            missed.as_ref().map(|missed| (expectation.words.as_str(), missed.at.0, missed.lamp))
        })
        .collect();
    // It goes out when the power is cut.
    assert_eq!(words, [("expect lamp.intensity above 20lm for 3s", 3.0, Some(0))]);
}

#[test]
fn reading_along_a_rehearsal_is_what_frames_give() {
    let (checked, rehearsal) = rehearsed("rehearsal r { 2s mist = 50%; 3s cut; 4s back; 9s end }");
    let (lamp, width) = (checked.program().light_named("lamp").unwrap(), 4);
    let moments: Vec<Seconds> = (0..400).map(|n| Seconds(f64::from(n) * 0.025)).collect();
    let start = State::start(checked.program());
    let mut player = caltrin_core::rehearsal::Player::new(&checked, start, Some(&rehearsal));
    let mut along = vec![0.0; moments.len() * width];
    player.read_moments((lamp, 1), &moments, 0..width, &mut along);
    // By hand, frame by frame.
    let mut run = Run::new(&checked);
    let mist = checked.program().input_named("mist").unwrap();
    for (n, moment) in moments.iter().enumerate() {
        for (at, what) in [(2.0, 0), (3.0, 1), (4.0, 2)] {
            if moment.0 >= at && (n == 0 || moments[n - 1].0 < at) {
                run.advance(Seconds(at));
                match what {
                    0 => run.set(mist, 0, caltrin_core::program::Constant::Scalar(0.5)).unwrap(),
                    1 => run.fire(event(&checked, "cut")),
                    _ => run.fire(event(&checked, "back")),
                }
            }
        }
        run.advance(*moment);
        let mut lamp_now = vec![0.0; width];
        run.read(lamp, 1, &mut lamp_now);
        assert_eq!(lamp_now, along[n * width..(n + 1) * width], "at {moment:?}");
    }
}

#[test]
fn what_is_wrong_with_rehearsals_is_told_where_it_stands() {
    insta::assert_snapshot!(told(&format!(
        "{HARBOUR}rehearsal r {{
  cut
  3 cut
  2s tick
  2s cutt
  2s mist = 2m
  2s misst = 20%
  2s weather = rain
  2s power = on
  2s expect lamp.intensity below 3m
  2s expect lamp.glow below 3lm
  2s expect mist
  2s expect lamp.color above 1
  2s expect power above 50% for 2
  3s expect lampp.intensity above 2lm
  25h end
}}
rehearsal s {{ 4s cut; 2s end }}
signal x = 1 + r"
    )));
}

#[test]
fn a_book_with_events_and_its_builder_twin_give_the_same_bits() {
    use caltrin_core::build::event::{Turns, pulse};
    use caltrin_core::build::{Book, Light, Output, lumens, number};
    use caltrin_core::curve::Easing;
    use caltrin_core::quantity::ms;

    let book = checked(
        "lightbook \"Twin\"
seed 9
event hit, back
event knock every 2s..5s
event later after 700ms from hit
event first after 3s
curve dip { 0s 20%; 400ms 90% smooth; 1.5s 30% ease-out }
switch power { starts on; off at hit over 300ms; on at back, later over 1.2s smooth; flip at knock }
light lamp point { intensity 80lm * power * play(dip, at hit, before 55%) }
output mark { soft pulse(at knock, lasts 500ms) + pulse(at first, lasts 2s); on_now power is on }
",
    );
    let mut twin = Book::new("Twin", Seed(9));
    let (hit, back) = (twin.event("hit"), twin.event("back"));
    let knock = twin.event_every("knock", Seconds(2.0), Seconds(5.0));
    let later = twin.event_after("later", ms(700.0), Some(hit));
    let first = twin.event_after("first", Seconds(3.0), None);
    let dip = twin.curve(
        "dip",
        [
            (Seconds(0.0), 0.2, Easing::Linear),
            (ms(400.0), 0.9, Easing::Smooth),
            (Seconds(1.5), 0.3, Easing::named("ease-out").unwrap()),
        ],
    );
    let soft = Easing::Smooth;
    let power = twin.switch(
        "power",
        Turns::starting_on()
            .off(hit, ms(300.0), Easing::Linear)
            .on(back, Seconds(1.2), soft)
            .on(later, Seconds(1.2), soft)
            .flip(knock, Seconds(0.0), Easing::Linear),
    );
    let level = power.level.clone() * dip.played_at(hit, Some(number(0.55)));
    twin.light(Light::point("lamp").intensity(lumens(80.0) * level));
    let marks = pulse(knock, ms(500.0)) + pulse(first, Seconds(2.0));
    twin.output(Output::new("mark").value("soft", marks).value("on_now", power.on));
    let twin = twin.check().unwrap();
    let acts: Vec<(f64, usize)> = vec![(1.0, 0), (1.2, 1), (6.0, 0), (9.5, 0), (9.6, 1)];
    let asked: Vec<f64> = (0..300).map(|n| f64::from(n) * 0.05).collect();
    let lamps = |checked: &ValidatedProgram| -> Vec<Vec<u32>> {
        play(checked, 9, &acts, &asked, || 0.016).into_iter().map(|(_, bits)| bits).collect()
    };
    assert_eq!(lamps(&book), lamps(&twin));
}
