//! What only the hour decides stands at the start of a run and after the clock is set as the last day would have left
//! it.

use caltrin_core::program::LightId;
use caltrin_core::quantity::{Hours, Seconds};
use caltrin_core::run::State;
use caltrin_core::{Run, ValidatedProgram};

const BOOK: &str = include_str!("../../caltrin-export/tests/hours.caltrin");

fn checked(text: &str) -> ValidatedProgram {
    let reading = caltrin_lang::read(text, "hours.caltrin");
    let told: Vec<&String> = reading.diagnostics.iter().map(|d| &d.message).collect();
    reading.checked.unwrap_or_else(|| panic!("{told:#?}"))
}

fn light(checked: &ValidatedProgram, name: &str) -> LightId {
    checked.program().lights().find(|(_, light)| light.name == name).expect(name).0
}

fn first(run: &mut Run<'_>, id: LightId) -> f32 {
    let mut out = vec![0.0; run.width(id)];
    run.read(id, 0, &mut out);
    out[0]
}

fn all(run: &mut Run<'_>) -> Vec<f32> {
    let ids: Vec<LightId> = run.checked().program().lights().map(|(id, _)| id).collect();
    let mut all = Vec::new();
    for id in ids {
        let count = run.checked().program().light(id).size.shown();
        for index in 0..count {
            let mut out = vec![0.0; run.width(id)];
            run.read(id, index, &mut out);
            all.extend(out);
        }
    }
    all
}

#[test]
fn a_run_that_starts_at_an_hour_is_as_one_that_has_lived_through_the_days() {
    let checked = checked(BOOK);
    // Two days lived through; an hour is a minute.
    let mut lived = Run::new(&checked);
    lived.advance_through(Seconds(1440.0));
    for n in 1..=30 {
        let now = 1440.0 + f64::from(n) * 47.0;
        lived.advance_through(Seconds(now));
        let hour = lived.clock().unwrap().hour;
        // A fade that goes on is of the run, not of the hour.
        let mut later = lived.clone();
        later.set_clock_rate(0.0);
        later.advance_through(Seconds(now + 8.0));
        let wanted = all(&mut later);
        let mut state = State::start(checked.program()).with_hour(checked.program(), hour);
        state.clock.rate = 0.0;
        let mut fresh = Run::from_state(&checked, state);
        assert_eq!(all(&mut fresh), wanted, "started at {hour:?}");
        let mut set = Run::new(&checked);
        set.advance_through(Seconds(3.7));
        set.set_clock(hour);
        assert_eq!(all(&mut set), wanted, "set to {hour:?}, read at once");
        set.set_clock_rate(0.0);
        set.advance_through(Seconds(12.0));
        assert_eq!(all(&mut set), wanted, "set to {hour:?}, later");
    }
}

#[test]
fn lamps_that_an_evening_lights_are_lit_at_night_from_the_first_moment() {
    let text = |start: &str, starts: &str| {
        format!(
            "lightbook \"b\"\nclock {{ day 24min; start {start} }}\nevent eve at 19:00\nevent morn at 06:00\n\
             switch lit {{ starts {starts}; on at eve over 2s; off at morn over 2s }}\noutput y = lit\n"
        )
    };
    for starts in ["on", "off"] {
        for (start, wanted) in
            [("12:00", 0.0), ("23:00", 1.0), ("05:59", 1.0), ("06:00", 0.0), ("19:00", 1.0)]
        {
            let checked = checked(&text(start, starts));
            let id = light(&checked, "y");
            let mut run = Run::new(&checked);
            assert_eq!(first(&mut run, id), wanted, "{start}, starts {starts}");
            run.set_clock(Hours(12.0));
            assert_eq!(first(&mut run, id), 0.0);
            run.set_clock(Hours(21.0));
            assert_eq!(first(&mut run, id), 1.0);
            // From there on events and fades go as before.
            run.set_clock(Hours(18.99));
            run.advance_through(Seconds(run.state().now.0 + 0.6 + 1.0));
            assert!((first(&mut run, id) - 0.5).abs() < 0.01);
        }
    }
}

#[test]
fn a_polar_winter_is_lit_although_nothing_ever_happens() {
    let checked = checked(
        "lightbook \"b\"\nclock { day 24min; start 12:00 }\nsun { latitude 68deg; date 355 }\n\
         event dusk when sun.height below -0.833deg\nevent dawn when sun.height above -0.833deg\n\
         switch lit { starts off; on at dusk; off at dawn }\noutput y = lit\n",
    );
    let id = light(&checked, "y");
    assert_eq!(first(&mut Run::new(&checked), id), 1.0);
}

#[test]
fn what_the_game_decides_too_starts_as_the_book_says_and_is_named() {
    let checked = checked(
        "lightbook \"b\"\nclock { day 24min; start 12:00 }\ninput fog = 0% in 0%..100%\nevent eve at 10:00\nevent cut\n\
         event thick when fog above 50%\n\
         switch by_hour { starts off; on at eve }\nswitch by_event { starts off; on at eve; off at cut }\n\
         switch by_input { starts off; on at thick }\nmodes m { a, b; a -> b at eve; b -> a after 3s }\n\
         output y { a by_hour; b by_event; c by_input; d m.b }\n",
    );
    assert_eq!(checked.program().by_game(), ["by_event", "by_input", "m"]);
    let mut run = Run::new(&checked);
    let mut out = [0.0; 4];
    run.read(light(&checked, "y"), 0, &mut out);
    assert_eq!(out, [1.0, 0.0, 0.0, 0.0]);
}
