//! Modes, sequences and groups: continuous, given back, and what is wrong with them told.

mod book;

use book::{checked, event};
use caltrin_core::program::Constant;
use caltrin_core::quantity::Seconds;
use caltrin_core::{Run, ValidatedProgram};
use caltrin_lang::{Lines, read};
use proptest::prelude::*;

/// The numbers of a lamp.
fn lamp(run: &mut Run<'_>, checked: &ValidatedProgram, light: &str, index: u32) -> Vec<f32> {
    let id = checked.program().light_named(light).expect("the light is there");
    let mut out = vec![0.0; run.width(id)];
    run.read(id, index, &mut out);
    out
}

const SCENE: &str = "lightbook \"S\"
event begin, halt, other
light a point { intensity 100cd }
light c point { color #ffffff }
light b[3] point { intensity 20cd }
sequence scene at begin again AGAIN {
  2s a.intensity 400cd smooth
  3s { a.intensity 50cd; b[1].intensity 900cd ease-out }
  3.5s c.color #ff8000 smooth
  +500ms mark middle
  6s return over 1.5s smooth
  stops at halt over 800ms
}
sequence second at other { 1s a.intensity 700cd smooth; 2s a.intensity base smooth; 2s return }
output o = pulse(at middle, lasts 1s)
";

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    #[test]
    fn no_level_is_lost(
        acts in prop::collection::vec((0.0..20.0f64, 0usize..3), 0..12),
        restart in any::<bool>(),
    ) {
        let text = SCENE.replace("AGAIN", if restart { "restart" } else { "ignore" });
        let checked = checked(&text);
        let events = ["begin", "halt", "other"].map(|name| event(&checked, name));
        let mut acts = acts;
        acts.sort_by(|a, b| a.0.total_cmp(&b.0));
        // What begins again again while it is still on its way to its first values may jump.
        acts.dedup_by(|later, earlier| later.1 == earlier.1 && later.0 - earlier.0 < 3.5);
        let mut begun = f64::NEG_INFINITY;
        acts.retain(|(at, n)| {
            // Nor is what lay beneath another known when it comes to lie on top.
            if restart && *n == 2 {
                return false;
            }
            let soon = *n == 0 && at - begun < 3.5;
            if *n == 0 && !soon {
                begun = *at;
            }
            !soon
        });
        let mut run = Run::new(&checked);
        let mut last: Option<Vec<f32>> = None;
        let (step, mut acts) = (1.0 / 1000.0, acts.into_iter().peekable());
        for n in 0..22_000 {
            let now = f64::from(n) * step;
            while let Some((at, n)) = acts.next_if(|(at, _)| *at <= now) {
                run.advance(Seconds(at));
                run.fire(events[n]);
            }
            run.advance(Seconds(now));
            let mut found = lamp(&mut run, &checked, "a", 0);
            found.extend(lamp(&mut run, &checked, "c", 0));
            found.extend(lamp(&mut run, &checked, "b", 1));
            if let Some(last) = last {
                for (n, (a, b)) in last.iter().zip(&found).enumerate() {
                    let most = if n == 1 || n == 2 || n == 3 { 0.02 } else { 8.0 };
                    // The second ends by returning at once from what lies beneath: nothing to see.
                    prop_assert!((a - b).abs() <= most, "{n} goes from {a} to {b} at {now} s");
                }
            }
            last = Some(found);
        }
        // All is given back, bit for bit.
        run.advance(Seconds(60.0));
        prop_assert_eq!(lamp(&mut run, &checked, "a", 0), vec![100.0]);
        prop_assert_eq!(lamp(&mut run, &checked, "c", 0), vec![1.0, 1.0, 1.0]);
        prop_assert_eq!(lamp(&mut run, &checked, "b", 1), vec![20.0]);
    }
}

#[test]
fn a_sequence_leads_its_channels_and_gives_them_back() {
    let checked = checked(&SCENE.replace("AGAIN", "ignore"));
    let mut run = Run::new(&checked);
    let intensity = |run: &mut Run<'_>, at: f64| {
        run.advance(Seconds(at));
        lamp(run, &checked, "a", 0)[0]
    };
    assert_eq!(intensity(&mut run, 1.0), 100.0);
    run.fire(event(&checked, "begin"));
    // From what lies beneath to its first value, half of the way in half of the time.
    assert_eq!(intensity(&mut run, 1.0), 100.0);
    assert_eq!(intensity(&mut run, 2.0), 250.0);
    assert_eq!(intensity(&mut run, 3.0), 400.0);
    assert!((intensity(&mut run, 3.5) - 225.0).abs() < 1e-3);
    assert_eq!(intensity(&mut run, 4.0), 50.0);
    assert_eq!(lamp(&mut run, &checked, "b", 1), vec![900.0]);
    assert_eq!(lamp(&mut run, &checked, "b", 0), vec![20.0]);
    assert_eq!(lamp(&mut run, &checked, "b", 2), vec![20.0]);
    assert_eq!(lamp(&mut run, &checked, "o", 0), vec![0.0]);
    run.advance(Seconds(5.0));
    assert_eq!(lamp(&mut run, &checked, "o", 0), vec![1.0], "the mark, at its moment");
    // Started again it goes on; half returned, half of both.
    run.fire(event(&checked, "begin"));
    assert_eq!(intensity(&mut run, 7.0), 50.0);
    assert!((intensity(&mut run, 7.75) - 75.0).abs() < 1e-3);
    assert_eq!(intensity(&mut run, 8.5), 100.0);
    // Stopped it gives back from where it is, and has no more marks.
    run.fire(event(&checked, "begin"));
    assert_eq!(intensity(&mut run, 10.5), 400.0);
    run.fire(event(&checked, "halt"));
    assert!((intensity(&mut run, 10.9) - 250.0).abs() < 1e-3);
    assert_eq!(intensity(&mut run, 11.3), 100.0);
    run.advance(Seconds(12.6));
    assert_eq!(lamp(&mut run, &checked, "o", 0), vec![0.0]);
}

#[test]
fn groups_have_the_last_word() {
    let text = "lightbook \"G\"
input power = 100% in 0%..100%
input dimmer = 50% in 0%..100%
event go
light a[2] point { color #ffffff; intensity 100cd }
light b point { intensity 40cd }
fitting f { light x point { intensity 8cd } }
place p[2] of f
sequence s at go { 0s a.intensity 1000cd jump; 9s return }
group all { lights inner, a; dim with power to 10%; tint with power to #ff0000 }
group inner { lights b, p[1]; dim with dimmer }
group plain { lights p.x; dim with power }
";
    // A group that tints wants lights with a color.
    let reading = read(text, "book.caltrin");
    let told: Vec<&str> = reading.diagnostics.iter().map(|d| d.message.as_str()).collect();
    assert!(told.is_empty(), "{told:?}");
    let checked = reading.checked.expect("no mistake");
    let mut run = Run::new(&checked);
    assert_eq!(lamp(&mut run, &checked, "a", 1), vec![100.0, 1.0, 1.0, 1.0]);
    assert_eq!(lamp(&mut run, &checked, "b", 0), vec![20.0]);
    assert_eq!(lamp(&mut run, &checked, "p.x", 0), vec![8.0]);
    assert_eq!(lamp(&mut run, &checked, "p.x", 1), vec![4.0]);
    let power = checked.program().input_named("power").expect("it is there");
    run.set(power, 0, Constant::Scalar(0.0)).expect("it lies within");
    run.fire(event(&checked, "go"));
    let dark = lamp(&mut run, &checked, "a", 0);
    assert!((dark[0] - 100.0).abs() < 1e-3, "a power cut is a power cut: {}", dark[0]);
    assert!(dark[1] == 1.0 && dark[2] < 1e-6 && dark[3] < 1e-6, "{dark:?}");
    assert!((lamp(&mut run, &checked, "b", 0)[0] - 2.0).abs() < 1e-6);
    assert_eq!(lamp(&mut run, &checked, "p.x", 1), vec![0.0]);
}

#[test]
fn rules_lead_from_mode_to_mode() {
    let text = "lightbook \"M\"
input swell = 20% in 0%..100%
event clear
modes warning {
  calm, watch, alarm
  calm -> watch when swell above 50% for 2s over 4s
  watch -> alarm when swell above 80% over 1s
  alarm -> watch after 5s
  any -> calm at clear over 2s
}
output level = pick(warning, calm 0%, watch 50%, alarm 100%)
output entered = pulse(at warning.alarm, lasts 100ms)
";
    let checked = checked(text);
    let mut run = Run::new(&checked);
    let swell = checked.program().input_named("swell").expect("it is there");
    let level = |run: &mut Run<'_>, at: f64| {
        run.advance(Seconds(at));
        lamp(run, &checked, "level", 0)[0]
    };
    let set = |run: &mut Run<'_>, v: f64| run.set(swell, 0, Constant::Scalar(v)).expect("within");
    assert_eq!(level(&mut run, 10.0), 0.0);
    set(&mut run, 0.6);
    assert_eq!(level(&mut run, 11.9), 0.0, "not for long enough");
    set(&mut run, 0.4);
    set(&mut run, 0.7);
    assert_eq!(level(&mut run, 13.9), 0.0, "counted anew");
    assert!((level(&mut run, 15.91) - 0.25).abs() < 2e-3, "half of the way to the watch");
    // Interrupted it goes on from where it is.
    set(&mut run, 0.9);
    assert!((level(&mut run, 15.91) - 0.25).abs() < 2e-3);
    assert!((level(&mut run, 16.41) - 0.625).abs() < 2e-3);
    assert_eq!(lamp(&mut run, &checked, "entered", 0), vec![0.0]);
    assert_eq!(level(&mut run, 17.0), 1.0);
    set(&mut run, 0.7);
    assert_eq!(level(&mut run, 20.9), 1.0);
    assert_eq!(level(&mut run, 20.91), 0.5, "five seconds later, at once");
    run.fire(event(&checked, "clear"));
    assert_eq!(level(&mut run, 20.91), 0.5);
    assert!((level(&mut run, 21.91) - 0.25).abs() < 1e-6);
}

#[test]
fn conditions_that_turn_each_other_on_and_off_never_go_on_within_an_instant() {
    let text = "lightbook \"P\"
switch s { starts off; on at up; off at down }
event go
switch begun { starts off; on at go }
event up when begun is on and s is off
event down when s is on
output o = s
";
    // What depends on itself is reported.
    let reading = read(text, "book.caltrin");
    assert!(reading.diagnostics.iter().any(|d| d.message.contains("depends on itself")));
    // By way of modes, too, each rule waits for the next look.
    let checked = checked(
        "lightbook \"P\"
input x = 0% in 0%..100%
modes m { a, b; a -> b when x above 50%; b -> a when x above 40% }
output o = pick(m, a 0%, b 100%)
",
    );
    let mut run = Run::new(&checked);
    let x = checked.program().input_named("x").expect("it is there");
    run.advance(Seconds(1.0));
    run.set(x, 0, Constant::Scalar(1.0)).expect("within");
    run.listen();
    run.advance(Seconds(2.0));
    let turned = run.heard().len();
    assert!((118..=122).contains(&turned), "{turned} turns in a second");
    assert!(!run.is_behind());
}

#[test]
fn what_is_wrong_with_modes_sequences_and_groups_is_told_where_it_stands() {
    let text = "lightbook \"W\"
event go, halt
input swell = 20% in 0%..100%
light a point { intensity 30cd }
light b[2] point { position (0m, 1m, 0m) }
modes one { lonely }
modes two { calm, calm }
modes three { calm, watch; calm -> wach at go }
modes four { calm, watch; calm -> calm at go; calm -> watch at go }
modes five { calm, watch; calm -> watch at go; calm -> watch at go }
modes six { calm, watch; calm -> watch after 0s }
modes seven { calm, watch; calm -> watch sometimes }
modes eight { calm, watch, storm; calm -> watch at go }
modes nine { any, watch; any -> watch at go }
modes ten { calm, watch; calm -> watch when swell }
modes eleven { calm, watch; calm -> watch when swell above 50% rearm below 40% }
event e1 when swell above 80% rearm above 60%
event e2 when swell above 80% rearm below 90%
event e3 when swell is in 10%..20% rearm below 5%
event e4 when swell above 80% for 0s
event e5 after 1s from two.calm
event e6 after 1s from swell
sequence s1 at go { 1s a.intensity 90cd }
sequence s2 at go { 2s a.intensity 90cd; 1s a.intensity 9cd; 3s return }
sequence s3 at go { 2s a.color #ffffff; 3s return }
sequence s4 at go { 2s a.color #ffffff; 3s return }
sequence s5 at go { 2s lamp.intensity 9cd; 3s return }
sequence s6 at go { 2s a 9cd; 3s return }
sequence s7 at go { 3s return }
sequence s8 at go { }
sequence s9 at go again later { 2s a.intensity 9cd; 3s return }
sequence s10 at go { 2s a.intensity 9m; 3s return }
sequence s11 at own { 2s mark own; 1s a.intensity 9cd; 3s return }
sequence s12 at go { 2s b[7].position (0m, 0m, 0m); 3s return }
sequence s13 at go { 2h20 a.intensity 9cd; 3s return }
sequence s14 at go { 1s a.intensity 9cd; 1s a.intensity 8cd; 3s return }
group g1 { lights a }
group g2 { dim with 50% }
group g3 { lights lamp; dim with 50% }
group g4 { lights b; dim with 50% }
group g5 { lights a; tint with 50% }
group g6 { lights a; dim with 3s }
group g7 { lights g8; dim with 50% }
group g8 { lights g7; dim with 50% }
group g9 { lights a[1]; dim with 50% }
output o = if three is storm then 1 else 0
output p = four + s1 + g1
";
    let reading = read(text, "book.caltrin");
    assert!(reading.checked.is_none());
    let lines = Lines::of(text);
    let mut out = String::new();
    for told in &reading.diagnostics {
        let range = told.range();
        out.push_str(&format!("{}:", lines.line(range.start)));
        out.push_str(&format!(" `{}` {}", &text[range], told.message));
        if let Some(help) = &told.help {
            out.push_str(&format!(" ({help})"));
        }
        out.push('\n');
    }
    insta::assert_snapshot!(out);
}
