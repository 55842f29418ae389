//! Guaranteed ranges of blended colors: no blend leaves the hull of what it blends.

mod book;

use book::checked;
use caltrin_core::program::Field;

/// The guaranteed range of a light's intensity.
fn strength(lines: &str) -> (f64, f64) {
    let book = checked(&format!(
        "lightbook \"H\"\nclock {{ day 20min }}\nphases watch {{\n  night from 21:30 over 01:00 before tint #0d1420\n  \
         morning from 06:00 over 00:40 tint #8fa396\n  noon from 10:00 over 00:40 tint #ffffff\n  \
         evening from 16:30 over 01:30 tint #b08a45\n}}\nchoice region {{ north, south, mid }}\nevent go, stop\n\
         modes mood {{\n  calm, wild\n  calm -> wild at go over 2s\n  wild -> calm at stop over 1s\n}}\n\
         curve dawn {{ 0% #102030; 40% #ff9050 smooth; 100% #f0f4ff smooth }}\n{lines}\n"
    ));
    let light = book.program().light_named("lamp").unwrap();
    let range = book.bounds(light, Field::Intensity).unwrap().part(0);
    (range.lo, range.hi)
}

fn of_color(color: &str) -> (f64, f64) {
    strength(&format!("light lamp point {{ color {color}; intensity 100lm }}"))
}

#[test]
fn blends_are_no_brighter_than_the_brightest_of_what_they_blend() {
    for color in [
        "watch.tint",
        "pick(region, north #ff0000, south #00ff40, mid #2040ff)",
        "pick(mood, calm #ff8000, wild #0000ff)",
        "mix(#ff4000, pick(watch, night #000010, noon #ffffff, others #808080), by 30%)",
        "mix(dawn(watch.noon), pick(mood, calm dawn(20%), wild #405060), by sine(every 3s))",
        "mix(mix(#101010, #ff0000, by sine(every 3s)), mix(#00ff00, #ffffff, by sine(every 2s)), by watch.night)",
    ] {
        let (lo, hi) = of_color(color);
        assert!(lo >= 0.0 && hi <= 130.0, "{color}: {lo}..{hi}");
        assert!(hi >= 50.0, "{color}: {lo}..{hi}");
    }
    let (lo, hi) = of_color("watch.tint");
    assert!(lo > 1.0 && hi < 100.001, "{lo}..{hi}");
}

#[test]
fn a_turned_hue_is_as_bright_as_it_gets_on_its_way() {
    let (lo, hi) = strength(
        "light lamp point { color hue(#ff8040, by saw(0deg..360deg, every 4s)); intensity 500lm }",
    );
    let book = checked(
        "lightbook \"H\"\nlight lamp point { color hue(#ff8040, by saw(0deg..360deg, every 4s)); intensity 500lm }\n",
    );
    let id = book.program().light_named("lamp").unwrap();
    let mut run = caltrin_core::Run::new(&book);
    let mut out = vec![0.0; run.width(id)];
    let (mut least, mut most) = (f64::MAX, 0.0f64);
    for n in 0..4000 {
        run.advance(caltrin_core::quantity::Seconds(f64::from(n) * 0.001));
        run.read(id, 0, &mut out);
        least = least.min(f64::from(out[0]));
        most = most.max(f64::from(out[0]));
    }
    assert!(lo <= least && most <= hi, "{least}..{most} in {lo}..{hi}");
    assert!(hi < 1.02 * most && lo > 50.0, "{least}..{most} in {lo}..{hi}");
}

#[test]
fn sequences_that_take_over_a_color_stay_between_it_and_their_own() {
    let scene = |name: &str, at: &str, color: &str| {
        format!(
            "sequence {name} at {at} {{\n  1s lamp.color {color} smooth\n  4s return over 1s\n}}\n"
        )
    };
    let (lo, hi) = strength(&format!(
        "light lamp point {{ color #ffd0a0; intensity 5000cd }}\n{}{}",
        scene("one", "go", "#ff2000"),
        scene("other", "stop", "#20ffe0")
    ));
    assert!(lo >= 0.0 && hi < 5600.0, "{lo}..{hi}");
}

/// Colors that are made of the one before twice, again and again, cost no more than once each. A walk that goes into both
/// would take 2^60 steps.
#[test]
fn a_long_chain_of_blends_is_followed_once() {
    for again in ["hue(s{}, by 1deg)", "mix(s{}, #0000ff, by 20%)", "s{}"] {
        let mut lines = "signal s0 = mix(#ffb060, #fff0e0, by sine(every 3s))\n".to_owned();
        for n in 1..60 {
            let before = (n - 1).to_string();
            let again = again.replace("{}", &before);
            lines += &format!("signal s{n} = mix(s{before}, {again}, by sine(every {n}.1s))\n");
        }
        lines += "light lamp point { color s59; intensity 100lm }\n";
        let (lo, hi) = strength(&lines);
        assert!(0.0 <= lo && lo < hi && hi.is_finite(), "{again}: {lo}..{hi}");
        // Nothing but the two colors is blended there, so that no depth may loosen their hull much.
        assert!(again != "s{}" || hi < 103.0, "{again}: {lo}..{hi}");
    }
}
