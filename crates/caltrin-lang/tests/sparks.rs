//! Sparks: whose turn it is, how long they live, and what they keep of their event.

mod book;

use book::{checked, event, told};
use caltrin_core::Run;
use caltrin_core::program::Constant;
use caltrin_core::quantity::{Seconds, Seed};
use proptest::prelude::*;

/// The numbers of each lamp.
fn lamps(run: &mut Run<'_>, light: &str) -> Vec<Vec<f32>> {
    let checked = run.checked();
    let id = checked.program().light_named(light).expect("the light is there");
    let width = run.width(id);
    let mut out = vec![0.0; width * checked.program().light(id).size.shown() as usize];
    run.read(id, 0, &mut out);
    out.chunks(width).map(<[f32]>::to_vec).collect()
}

const POOL: &str = "lightbook \"P\"
event rocket(at_place = (0m, 0m, 0m), size = 1 in 0..9)
spark shell[3] point at rocket {
  lives 1s..3s
  overflow FULL
  position rocket.at_place
  intensity 100lm * rocket.size
}
output fired = pulse(at rocket, lasts 1ms)
";

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// The same by hand: the lowest free place, else the oldest or none; each keeps its value.
    #[test]
    fn sparks_take_turns_as_by_hand(
        seed in any::<u32>(),
        mut fires in prop::collection::vec((0.0..12.0f64, 1u32..9), 1..40),
        oldest in any::<bool>(),
    ) {
        let checked = checked(&POOL.replace("FULL", if oldest { "oldest" } else { "ignore" }));
        let rocket = event(&checked, "rocket");
        fires.sort_by(|a, b| a.0.total_cmp(&b.0));
        fires.dedup_by(|a, b| a.0 == b.0);
        let mut run = Run::with_seed(&checked, Seed(seed));
        // When each began, and its value; how long it lives is seen.
        let mut hand: [Option<(f64, u32)>; 3] = [None; 3];
        let level = |lamp: &[f32]| lamp.iter().copied().fold(0.0, f32::max);
        for (at, size) in fires {
            run.advance(Seconds(at));
            let before = lamps(&mut run, "shell");
            let lives = |n: usize| level(&before[n][..1]) > 0.0;
            for (n, one) in hand.iter_mut().enumerate() {
                match (*one, lives(n)) {
                    (Some((born, size)), true) => {
                        prop_assert!(at - born < 3.0);
                        prop_assert_eq!(before[n][0], 100.0 * size as f32);
                        prop_assert_eq!(before[n][1], size as f32, "where it began");
                    }
                    (Some((born, _)), false) => {
                        prop_assert!(at - born >= 1.0, "it lived {} s", at - born);
                        *one = None;
                    }
                    (None, lives) => prop_assert!(!lives),
                }
            }
            let place = Constant::Vector([f64::from(size), 0.0, 0.0]);
            run.fire_with(rocket, &[place, Constant::Scalar(f64::from(size))]);
            let free = (0..3).find(|n| hand[*n].is_none());
            let eldest = || {
                let born = |n: &usize| hand[*n].map_or(f64::INFINITY, |(born, _)| born);
                (0..3).min_by(|a, b| born(a).total_cmp(&born(b)))
            };
            if let Some(n) = free.or_else(|| if oldest { eldest() } else { None }) {
                hand[n] = Some((at, size));
            }
            let after = lamps(&mut run, "shell");
            for (n, one) in hand.iter().enumerate() {
                let wanted = one.map_or(0.0, |(_, size)| 100.0 * size as f32);
                prop_assert_eq!(after[n][0], wanted);
            }
        }
    }
}

#[test]
fn a_share_is_a_share() {
    let checked = checked(
        "lightbook \"S\"\nevent drip\nspark drop[200] point at drip share 1 in 3 { lives 1000s; intensity 1lm }",
    );
    let drip = event(&checked, "drip");
    let mut run = Run::new(&checked);
    for n in 0..300 {
        run.advance(Seconds(f64::from(n) * 0.1));
        run.fire(drip);
    }
    let made = lamps(&mut run, "drop").iter().filter(|lamp| lamp[0] > 0.0).count();
    assert!((75..125).contains(&made), "{made}");
}

#[test]
fn a_life_goes_from_nothing_to_all() {
    let checked = checked(
        "lightbook \"L\"\nevent go\nspark one[1] point at go { lives 2s; intensity 100lm * (1 - life) }",
    );
    let go = event(&checked, "go");
    let mut run = Run::new(&checked);
    let level = |run: &mut Run<'_>| lamps(run, "one")[0][0];
    assert_eq!(level(&mut run), 0.0);
    run.advance(Seconds(3.0));
    run.fire(go);
    assert_eq!(level(&mut run), 100.0);
    run.advance(Seconds(4.5));
    assert_eq!(level(&mut run), 25.0);
    // Its end is the moment itself.
    run.advance(Seconds(5.0f64.next_down()));
    assert!(level(&mut run) > 0.0);
    run.advance(Seconds(5.0));
    assert_eq!(level(&mut run), 0.0);
}

#[test]
fn what_is_wrong_is_told_where_it_stands() {
    let text = "lightbook \"W\"
event go(place = (0m, 0m, 0m))
light mast[2] point { event own; intensity 1lm }
spark a point at go { lives 1s; intensity 1lm }
spark b[3] point at go { intensity 1lm }
spark c[3] point at go { lives 1s; color #ffffff }
spark d[3] point at gone { lives 1s; intensity 1lm }
spark e[999] point at go { lives 1s; intensity 1lm }
spark f[3] point at go { lives 2s..1s; intensity 1lm }
spark g[3] point at go { lives 1s; overflow never; intensity 1lm }
spark h[3] point at go share 3 in 2 { lives 1s; intensity 1lm }
spark i[3] point at go { lives 1s; intensity 1lm * go.size }
spark j[3] ambient at go { lives 1s; intensity 1lx; position go.place }
light k point { intensity 1lm; lives 2s }
";
    insta::assert_snapshot!(told(text));
}
