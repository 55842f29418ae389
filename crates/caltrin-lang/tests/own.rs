//! Events, switches and modes of each lamp and instance.

mod book;

use book::{checked, event, told};
use caltrin_core::Run;
use caltrin_core::program::Constant;
use caltrin_core::quantity::{Seconds, Seed};
use proptest::prelude::*;

/// The strengths of all lamps of a light.
fn levels(run: &mut Run<'_>, light: &str) -> Vec<f32> {
    let checked = run.checked();
    let id = checked.program().light_named(light).expect("the light is there");
    let mut out = vec![0.0; run.width(id) * checked.program().light(id).size.shown() as usize];
    run.read(id, 0, &mut out);
    out
}

const PENS: &str = "lightbook \"P\"
event all_off, gust
fitting pen {
  event knock(force = 1 in 0..4)
  switch lit { on at knock; off at all_off }
  light lamp[2] point {
    event wink
    switch own { flip at knock, wink }
    intensity 100lm * lit + (if own is on then 10lm else 0lm) + 1lm * knock.force
  }
}
place row[3] of pen { }
light post[4] point {
  event fault every 3s..7s
  modes mood { calm, wild; calm -> wild at gust; wild -> calm at fault }
  intensity 100lm * pulse(at fault, lasts 200ms) + pick(mood, calm 0lm, wild 1lm)
}
";

#[test]
fn what_happens_to_one_happens_to_no_other() {
    let checked = checked(PENS);
    let (knock, wink) = (event(&checked, "row.knock"), event(&checked, "row.lamp.wink"));
    let all_off = event(&checked, "all_off");
    let mut run = Run::new(&checked);
    assert_eq!(levels(&mut run, "row.lamp"), [1.0; 6]);
    // Of an instance all lamps hear, and only those.
    run.advance(Seconds(1.0));
    run.fire_at(knock, 1, &[Constant::Scalar(3.0)]);
    assert_eq!(levels(&mut run, "row.lamp"), [1.0, 1.0, 113.0, 113.0, 1.0, 1.0]);
    run.fire_at(wink, 5, &[]);
    assert_eq!(levels(&mut run, "row.lamp"), [1.0, 1.0, 113.0, 113.0, 1.0, 11.0]);
    // One that there is not is left alone, all are reached without an index.
    run.fire_at(wink, 6, &[]);
    assert_eq!(levels(&mut run, "row.lamp"), [1.0, 1.0, 113.0, 113.0, 1.0, 11.0]);
    run.fire(knock);
    assert_eq!(levels(&mut run, "row.lamp"), [111.0, 111.0, 101.0, 101.0, 111.0, 101.0]);
    run.fire(all_off);
    assert_eq!(levels(&mut run, "row.lamp"), [11.0, 11.0, 1.0, 1.0, 11.0, 1.0]);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    /// Each lamp has its own chance: nobody's moments are another's, and who was not led into a mode is not led out.
    #[test]
    fn each_lamp_has_its_own_moments(seed in any::<u32>(), gust in 0.0..20.0f64) {
        let checked = checked(PENS);
        let (fault, gusts) = (event(&checked, "post.fault"), event(&checked, "gust"));
        let mut run = Run::with_seed(&checked, Seed(seed));
        run.listen();
        run.advance(Seconds(gust));
        run.fire(gusts);
        prop_assert!(levels(&mut run, "post").iter().all(|level| level.fract() == 0.0 && *level % 2.0 == 1.0));
        run.advance(Seconds(120.0));
        let heard = run.heard();
        let mut moments: Vec<f64> = Vec::new();
        for lamp in 0..4 {
            let own: Vec<f64> = heard
                .iter()
                .filter(|heard| heard.event == fault && heard.index == lamp)
                .map(|heard| heard.at.0)
                .collect();
            let gaps = std::iter::once(own[0]).chain(own.windows(2).map(|two| two[1] - two[0]));
            for gap in gaps {
                prop_assert!((3.0..=7.0).contains(&gap), "{gap} s");
            }
            moments.extend(own);
        }
        let count = moments.len();
        moments.sort_by(f64::total_cmp);
        moments.dedup();
        prop_assert_eq!(moments.len(), count);
        // By then all of them have had a fault, and are calm again.
        run.advance(Seconds(120.5));
        prop_assert!(levels(&mut run, "post").iter().all(|level| *level % 2.0 == 0.0));
    }
}

#[test]
fn a_rehearsal_reaches_one_or_all() {
    let acts = "rehearsal r {
  1s row[1].knock
  2s row[0].lamp.wink
  2s row[0].lamp[1].wink
  3s row.lamp[5].wink
  4s row.knock
}";
    let checked = checked(&format!("{PENS}{acts}\n"));
    let rehearsal = &checked.program().rehearsals()[0];
    let mut run = Run::new(&checked);
    for (at, deed) in &rehearsal.deeds {
        run.advance(*at);
        run.act(deed);
    }
    assert_eq!(levels(&mut run, "row.lamp"), [101.0, 111.0, 101.0, 101.0, 111.0, 101.0]);
}

#[test]
fn what_is_wrong_is_told_where_it_stands() {
    let text = "lightbook \"W\"
event storm
fitting pit { event door; light lamp point { intensity 1lm } }
place pits[3] of pit { }
light a[4] point { event fault every 1s..2s; event fault; intensity 1lm }
light b[] point { event own; intensity 1lm }
light c[4] point { switch s { on at fault }; intensity 1lm }
light d point { event hit; intensity 1lm * pulse(at hti, lasts 1s) }
light e[2] point { switch s { on at storm }; intensity 1lm * s.level }
rehearsal r { 1s pits[3].door; 2s pits.dor; 3s a[1].fault; 4s pits[1].door; 5s pits.lamp[7].hit; 6s e[0].lamp[1].intensity }
";
    insta::assert_snapshot!(told(text));
}

#[test]
fn names_in_a_light_or_fitting_stand_in_any_order() {
    let forward = "lightbook \"P\"
fitting pen(strength = 100lm) {
  event knock
  event settles after 2s from knock
  signal hum = held(80%..100%, every 40ms..90ms)
  signal level = hum * hum
  switch lit { on at knock; off at settles over 300ms }
  light lamp point { event wink every 1s..3s; switch own { flip at wink }; intensity strength * level * lit * (if own is on then 1 else 20%) }
}
place row[3] of pen { position (0m, 2m, 0m), (3m, 0m, 0m) }
behavior twice(a = 1) { signal x = held(0..1, every 50ms..90ms); signal y = x * a; gives x + y }
output o = twice(2)
rehearsal r { 1s row[1].knock; 5s end }
";
    let backward = "lightbook \"P\"
fitting pen(strength = 100lm) {
  light lamp point { switch own { flip at wink }; intensity strength * level * lit * (if own is on then 1 else 20%); event wink every 1s..3s }
  switch lit { on at knock; off at settles over 300ms }
  signal level = hum * hum
  event settles after 2s from knock
  signal hum = held(80%..100%, every 40ms..90ms)
  event knock
}
place row[3] of pen { position (0m, 2m, 0m), (3m, 0m, 0m) }
behavior twice(a = 1) { signal y = x * a; signal x = held(0..1, every 50ms..90ms); gives x + y }
output o = twice(2)
rehearsal r { 1s row[1].knock; 5s end }
";
    let (a, b) = (checked(forward), checked(backward));
    let (mut one, mut other) = (Run::new(&a), Run::new(&b));
    for run in [&mut one, &mut other] {
        run.advance(Seconds(1.0));
        let knock = event(run.checked(), "row.knock");
        run.fire_at(knock, 1, &[]);
    }
    for n in 0..300 {
        let t = Seconds(1.0 + f64::from(n) * 0.0171);
        one.advance(t);
        other.advance(t);
        assert_eq!(levels(&mut one, "row.lamp"), levels(&mut other, "row.lamp"), "at {} s", t.0);
        assert_eq!(levels(&mut one, "o"), levels(&mut other, "o"));
    }
    let circle =
        told("lightbook \"P\"\nlight a point { signal x = y; signal y = x; intensity 1lm * x }\n");
    assert!(circle.contains("`x` depends on itself: `x` needs `y` needs `x`"), "{circle}");
    assert!(!circle.contains("no name"), "{circle}");
}
