//! What goes with values that the game sets, with the hour, and with moments since something happened: all of it
//! against the same by hand.

mod book;

use book::{checked, event, told};
use caltrin_core::program::Constant;
use caltrin_core::quantity::{Hours, Seconds};
use caltrin_core::{Run, ValidatedProgram, kernel};
use proptest::prelude::*;

/// The values of an output.
fn values(run: &mut Run<'_>, output: &str) -> Vec<f64> {
    let checked = run.checked();
    let id = checked.program().light_named(output).expect("the output is there");
    let mut out = vec![0.0; run.width(id) * checked.program().light(id).size.shown() as usize];
    run.read(id, 0, &mut out);
    out.iter().map(|v| f64::from(*v)).collect()
}

fn set(run: &mut Run<'_>, name: &str, to: f64) {
    let id = run.checked().program().input_named(name).expect("the input is there");
    run.set(id, 0, Constant::Scalar(to)).expect("it lies within its bounds");
}

/// Whether output `y` goes through twelve seconds, a frame at a time, as `by_hand` says: the value at a moment, at which
/// the input is set to another where one is given.
fn goes_as_by_hand(
    checked: &ValidatedProgram,
    input: &str,
    sets: &mut [(f64, f64)],
    frame: f64,
    near: f64,
    mut by_hand: impl FnMut(f64, Option<f64>) -> f64,
) -> Result<(), TestCaseError> {
    sets.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut sets = sets.iter().copied().peekable();
    let mut run = Run::new(checked);
    let mut now = 0.0;
    while now < 12.0 {
        now += frame;
        while let Some((t, to)) = sets.next_if(|(t, _)| *t <= now) {
            run.advance(Seconds(t));
            set(&mut run, input, to);
            by_hand(t, Some(to));
        }
        run.advance(Seconds(now));
        let (found, wanted) = (values(&mut run, "y")[0], by_hand(now, None));
        prop_assert!((found - wanted).abs() < near, "{now}: {found}, not {wanted}");
    }
    Ok(())
}

#[test]
fn what_decays_is_the_exponential() {
    for n in 0..200_000 {
        let x = f64::from(n) * 0.0035;
        let (found, wanted) = (kernel::decay(x), (-x).exp());
        assert!((found - wanted).abs() <= 1e-13 * wanted, "{x}: {found} {wanted}");
    }
    assert_eq!([kernel::decay(-1.0), kernel::decay(0.0), kernel::decay(1e9)], [1.0, 1.0, 0.0]);
    assert_eq!(kernel::decay(f64::NAN), 1.0);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// A follower is the textbook's one-pole, whatever the frames.
    #[test]
    fn a_follower_is_a_one_pole(
        mut sets in prop::collection::vec((0.0..10.0f64, 0.0..1.0f64), 1..12),
        frame in 1e-3..1.0f64,
    ) {
        let checked = checked(
            "lightbook \"F\"\ninput x = 25% in 0%..100%\noutput y = follow(x, attack 120ms, release 900ms)",
        );
        // The same by hand: target, where it came from, since when.
        let (mut target, mut from, mut since) = (0.25, 0.25, 0.0);
        let by_hand = |now: f64, to: Option<f64>| {
            let tau = if target > from { 0.12 } else { 0.9 };
            let level = target + (from - target) * (-(now - since) / tau).exp();
            if let Some(to) = to {
                (from, since, target) = (level, now, to);
            }
            level
        };
        goes_as_by_hand(&checked, "x", &mut sets, frame, 1e-6, by_hand)?;
    }

    /// What goes at a pace goes as far as the sum of its paces.
    #[test]
    fn a_pace_is_summed(
        mut sets in prop::collection::vec((0.0..10.0f64, -2.0..3.0f64), 0..10),
        frame in 1e-3..1.0f64,
    ) {
        let checked = checked(
            "lightbook \"P\"\ninput speed = 50% in -200%..300%\ncurve up { 0s 0; 100s 100 }\noutput y = pace(once(up), by speed)",
        );
        let (mut speed, mut come, mut since) = (0.5, 0.0, 0.0);
        let by_hand = |now: f64, to: Option<f64>| {
            let far: f64 = come + speed * (now - since);
            if let Some(to) = to {
                (come, since, speed) = (far, now, to);
            }
            far.clamp(0.0, 100.0)
        };
        goes_as_by_hand(&checked, "speed", &mut sets, frame, 1e-5, by_hand)?;
    }

    /// What happens at an hour happens as often as a clock by hand passes it, and a clock that is set passes nothing.
    #[test]
    fn hours_strike_as_they_are_passed(
        acts in prop::collection::vec((0.05..4.0f64, 0usize..3, 0.0..24.0f64, -3.0..3.0f64), 1..14),
        hour in 0u32..24,
    ) {
        let checked = checked(&format!(
            "lightbook \"H\"\nclock {{ day 24s; start 05:30 }}\nevent bell at {hour:02}:00\noutput y = pulse(at bell, lasts 1ms)"
        ));
        let bell = event(&checked, "bell");
        let mut run = Run::new(&checked);
        run.listen();
        // Turns of the clock by hand, in hours since the first midnight.
        let (mut shown, mut rate, mut now, mut struck) = (5.5, 1.0, 0.0, 0);
        let passes = |from: f64, to: f64| {
            let turn = |x: f64| ((x - f64::from(hour)) / 24.0).floor();
            // An hour that lies this near to a bell is not told apart by hand.
            let near = |x: f64| ((x - f64::from(hour)) / 24.0 - ((x - f64::from(hour)) / 24.0).round()).abs() < 1e-6;
            (((turn(to) - turn(from)).abs()) as usize, near(from) || near(to))
        };
        for (wait, kind, to, speed) in acts {
            let next = shown + rate * wait;
            let (more, doubtful) = passes(shown, next);
            prop_assume!(!doubtful);
            (struck, shown, now) = (struck + more, next, now + wait);
            run.advance(Seconds(now));
            match kind {
                0 => {
                    run.set_clock(Hours(to));
                    shown = to;
                }
                1 => {
                    run.set_clock_rate(speed);
                    rate = speed;
                }
                _ => {
                    run.drive_clock(Hours(to));
                    let way = to - shown.rem_euclid(24.0);
                    let way = if way > 12.0 { way - 24.0 } else if way < -12.0 { way + 24.0 } else { way };
                    prop_assume!((way.abs() - 12.0).abs() > 1e-6);
                    let (more, doubtful) = passes(shown, shown + way);
                    prop_assume!(!doubtful);
                    (struck, shown, rate) = (struck + more, shown + way, 0.0);
                }
            }
        }
        let heard: Vec<_> = run.heard().into_iter().filter(|heard| heard.event == bell).collect();
        prop_assert_eq!(heard.len(), struck);
    }
}

#[test]
fn an_hour_strikes_at_its_moment_each_day() {
    let checked = checked(
        "lightbook \"H\"\nclock { day 48s; start 06:00 }\nevent noon at 12:00\nevent dawn at 06:00\noutput y = pulse(at noon, lasts 1s) + 2 * pulse(at dawn, lasts 1s)",
    );
    let mut run = Run::new(&checked);
    run.listen();
    run.advance(Seconds(150.0));
    let heard: Vec<f64> = run.heard().iter().map(|heard| heard.at.0).collect();
    // It starts at 06:00: that is not an hour that it came to.
    assert_eq!(heard, [12.0, 48.0, 60.0, 96.0, 108.0, 144.0]);
}

#[test]
fn nearness_counts_from_the_lamp() {
    let checked = checked(
        "lightbook \"N\"
input walker = (0m, 0m, 0m)
light lamp[3] point { intensity 100lm * near(walker, full 2m, none 10m); position (0m, 0m, 0m), (3m, 4m, 0m); except [2] { position (0m, 0m, 4m) } }
fitting pair { light a point { intensity 10lm * near(walker, full 1m, none 5m, smooth); position (1m, 0m, 0m) }; light b point { intensity 10lm * near(walker, full 1m, none 5m) } }
place two[2] of pair { position (1m, 0m, 0m), (2m, 0m, 0m) }
output mid = near(walker, from (0m, 6m, 0m), full 2m, none 10m)
",
    );
    let mut run = Run::new(&checked);
    assert_eq!(values(&mut run, "mid"), [0.5]);
    let strengths = |run: &mut Run<'_>, light: &str| -> Vec<f64> {
        let width = run.width(run.checked().program().light_named(light).expect("it is there"));
        let all = values(run, light);
        all.chunks(width)
            .map(|lamp| lamp.iter().copied().find(|v| *v >= 0.0).unwrap_or(0.0))
            .collect()
    };
    let lamps: Vec<f64> = values(&mut run, "lamp").chunks(4).map(|lamp| lamp[0]).collect();
    assert_eq!(lamps, [100.0, 62.5, 75.0]);
    let smooth = |u: f64| 10.0 * (1.0 - u * u * (3.0 - 2.0 * u));
    let found = strengths(&mut run, "two.a");
    for (found, wanted) in found.iter().zip([smooth(0.25), smooth(0.75)]) {
        assert!((found - wanted).abs() < 1e-5, "{found} {wanted}");
    }
    assert_eq!(strengths(&mut run, "two.b"), [10.0, 5.0]);
}

#[test]
fn plays_that_come_again_finish_or_add_up() {
    let checked = checked(
        "lightbook \"A\"
event hit
curve ramp { 0s 0%; 1s 100%; 2s 0% }
output y { once play(ramp, at hit, again finish); sum play(ramp, at hit, again add); anew play(ramp, at hit) }
",
    );
    let hit = event(&checked, "hit");
    let mut run = Run::new(&checked);
    assert_eq!(values(&mut run, "y"), [0.0; 3]);
    run.advance(Seconds(1.0));
    run.fire(hit);
    run.advance(Seconds(1.5));
    run.fire(hit);
    run.advance(Seconds(2.25));
    // 1.25 s after the first, 0.75 s after the second.
    assert_eq!(values(&mut run, "y"), [0.75, 1.5, 0.75]);
    run.advance(Seconds(3.0));
    run.fire(hit);
    run.advance(Seconds(3.25));
    assert_eq!(values(&mut run, "y"), [0.25, 0.5, 0.25]);
    // Of many at once the latest four count.
    for n in 0..6 {
        run.advance(Seconds(10.0 + f64::from(n) * 0.01));
        run.fire(hit);
    }
    run.advance(Seconds(11.05));
    let sum = values(&mut run, "y")[1];
    assert!((sum - (1.0 + 0.99 + 0.98 + 0.97)).abs() < 1e-6, "{sum}");
}

#[test]
fn time_counts_since_events_modes_and_switches() {
    let checked = checked(
        "lightbook \"S\"
event go, back
modes m { calm, wild; calm -> wild at go over 2s; wild -> calm at back over 2s }
switch s { on at go; off at back }
curve up { 0s 0; 100s 100 }
output y { at_event once(up, since go); at_mode once(up, since m.wild); at_switch once(up, since s) }
",
    );
    let (go, back) = (event(&checked, "go"), event(&checked, "back"));
    let mut run = Run::new(&checked);
    run.advance(Seconds(5.0));
    assert_eq!(values(&mut run, "y"), [5.0; 3]);
    run.fire(go);
    assert_eq!(values(&mut run, "y"), [0.0; 3]);
    run.advance(Seconds(10.0));
    run.fire(back);
    assert_eq!(values(&mut run, "y"), [5.0, 5.0, 0.0]);
    // It has not faded out: the mode keeps its origin.
    run.advance(Seconds(11.0));
    run.fire(go);
    assert_eq!(values(&mut run, "y"), [0.0, 6.0, 0.0]);
    run.fire(back);
    run.advance(Seconds(20.0));
    run.fire(go);
    assert_eq!(values(&mut run, "y"), [0.0; 3]);
}

#[test]
fn drips_are_counted_since_their_cause() {
    let checked = checked(
        "lightbook \"D\"\nevent docks\nevent drip every 1s..2s since docks\noutput y = pulse(at drip, lasts 1ms)",
    );
    let (docks, drip) = (event(&checked, "docks"), event(&checked, "drip"));
    let mut run = Run::new(&checked);
    run.listen();
    run.advance(Seconds(50.0));
    assert!(run.heard().is_empty(), "nothing before its cause");
    run.listen();
    run.fire(docks);
    run.advance(Seconds(60.0));
    let moments: Vec<f64> =
        run.heard().iter().filter(|h| h.event == drip).map(|h| h.at.0).collect();
    assert!((5..=10).contains(&moments.len()), "{moments:?}");
    let gaps =
        std::iter::once(moments[0] - 50.0).chain(moments.windows(2).map(|two| two[1] - two[0]));
    assert!(gaps.into_iter().all(|gap| (1.0 - 1e-9..=2.0 + 1e-9).contains(&gap)), "{moments:?}");
}

#[test]
fn what_is_wrong_is_told_where_it_stands() {
    let text = "lightbook \"W\"
input x = 25% in 0%..100%
input walker = (0m, 0m, 0m)
event hit
event at_six at 06:00
event drip every 1s from hit
event late after 1s since hit
curve ramp { 0s 0%; 1s 100% }
behavior lazy(level = 50%) = follow(level, attack 1s, release 1s)
output a = follow(sine(0..1, every 1s), attack 1s, release 1s)
output b = follow(x, attack 1s)
output c = pace(once(ramp), by 2000)
output d = near(walker, full 2m, none 10m)
output e = near(walker, from (0m, 0m, 0m), full 9m, none 1m)
output f = play(ramp, at hit, before 0%, again backwards)
output g = once(ramp, since x)
output h = once(ramp, since nothing)
output i = lazy(10%)
";
    insta::assert_snapshot!(told(text));
}
