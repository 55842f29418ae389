//! What the book tells the game.

mod book;

use book::{checked, event, told};
use caltrin_core::Run;
use caltrin_core::program::Constant;
use caltrin_core::quantity::{Seconds, Seed};
use caltrin_core::rehearsal::rehearse;
use caltrin_core::run::{State, Taken};
use proptest::prelude::*;

const BOOK: &str = "lightbook \"N\"
event ring, storm
fitting pen {
  event knock
  at knock send rap
  light lamp[2] point {
    event wink
    at wink, knock send crackle(\"a\" or \"b\" or \"c\")
    position (0m, 2m, 0m), (0m, 1m, 0m)
    intensity 100lm
  }
}
place row[3] of pen { position (10m, 0m, 0m), (5m, 0m, 0m) }
light tube[2] area {
  event fault every 1s..3s
  at fault send strike(\"one\" or \"two\")
  intensity 90cd
}
at ring send bell from row.lamp[3]
at storm, ring send wind(\"low\" or \"high\")
";

/// A notice: its moment, its name, where from, which lamp, where that is.
type Said = (f64, String, String, u32, Option<[f32; 3]>);

/// All notices that wait: the moment, the name, where from, which lamp, where that is.
fn taken(run: &mut Run<'_>) -> Vec<Said> {
    std::iter::from_fn(|| run.take_notice())
        .map(|t| (t.moment.0, t.name.to_owned(), t.from.to_owned(), t.lamp, t.position))
        .collect()
}

fn said(moment: f64, name: &str, from: &str, lamp: u32, at: Option<[f32; 3]>) -> Said {
    (moment, name.to_owned(), from.to_owned(), lamp, at)
}

#[test]
fn notices_say_what_when_and_where() {
    let checked = checked(&BOOK.replace("  at fault send strike(\"one\" or \"two\")\n", ""));
    let (knock, wink) = (event(&checked, "row.knock"), event(&checked, "row.lamp.wink"));
    let mut run = Run::new(&checked);
    run.advance(Seconds(2.5));
    run.fire_at(knock, 2, &[]);
    // What each lamp of the instance does comes first, in their order.
    let crackle = |lamp: u32, y: f32| said(2.5, "crackle", "row.lamp", lamp, Some([20.0, y, 0.0]));
    assert_eq!(
        taken(&mut run),
        [crackle(4, 2.0), crackle(5, 3.0), said(2.5, "rap", "row", 2, None)]
    );
    run.advance(Seconds(3.0));
    run.fire_at(wink, 1, &[]);
    run.fire(event(&checked, "ring"));
    // Taken later, they tell of their own moment.
    run.advance(Seconds(9.0));
    assert_eq!(
        taken(&mut run),
        [
            said(3.0, "crackle", "row.lamp", 1, Some([10.0, 3.0, 0.0])),
            said(3.0, "bell", "row.lamp", 3, Some([15.0, 3.0, 0.0])),
            said(3.0, "wind", "", 0, None),
        ]
    );
    assert_eq!(taken(&mut run), []);
}

#[test]
fn a_notice_says_where_its_lamp_was_when_it_was_sent() {
    let checked = checked(
        "lightbook \"W\"\ninput walker = (0m, 0m, 0m)\nevent call, jump\n\
         switch raised { starts off; on at jump }\n\
         light lamp point { position walker; intensity 1lm }\n\
         light hoist point { position mix((0m, 0m, 0m), (0m, 6m, 0m), by raised); intensity 1lm }\n\
         at call send here from lamp\nat jump send up from hoist\n",
    );
    let walker = checked.program().given().next().unwrap().0;
    let mut run = Run::new(&checked);
    let walk = |run: &mut Run<'_>, x: f64| {
        run.set(walker, 0, Constant::Vector([x, 0.0, 0.0])).unwrap();
    };
    run.advance(Seconds(1.0));
    walk(&mut run, 1.0);
    run.fire(event(&checked, "call"));
    run.advance(Seconds(2.0));
    walk(&mut run, 5.0);
    run.fire(event(&checked, "call"));
    // What an event changes has changed when its notice is sent.
    run.fire(event(&checked, "jump"));
    run.advance(Seconds(3.0));
    walk(&mut run, 9.0);
    // A run that was kept and taken up again knows it too.
    let bytes = run.state().to_bytes(checked.program());
    let mut again = Run::new(&checked);
    again.restore(State::from_bytes(checked.program(), &bytes).unwrap().state);
    for run in [&mut run, &mut again] {
        let wanted = [
            said(1.0, "here", "lamp", 0, Some([1.0, 0.0, 0.0])),
            said(2.0, "here", "lamp", 0, Some([5.0, 0.0, 0.0])),
            said(2.0, "up", "hoist", 0, Some([0.0, 6.0, 0.0])),
        ];
        assert_eq!(taken(run), wanted);
    }
}

/// All that a notice carries, by name.
fn carried(taken: &Taken<'_>) -> Vec<(String, Constant)> {
    taken.values.iter().map(|value| (value.name.to_owned(), value.value)).collect()
}

#[test]
fn values_are_those_of_the_moment_of_sending() {
    let checked = checked(
        "lightbook \"V\"\nspace { unit 1cm }\ninput level = 20% in 0%..100%\n\
         event call(where = (1m, 0m, 0m), tint = #ff0000)\n\
         switch door { starts off; flip at call }\n\
         light lamp[2] point { event own; at own send near_by(loud drawn(0..1), shut door is off); intensity 1lm }\n\
         at call send called(where call.where, loud level, within 12m, tint call.tint, open door is on, wait 200ms)\n\
         at call send bare\n",
    );
    let level = checked.program().given().next().unwrap().0;
    let (call, own) = (event(&checked, "call"), event(&checked, "lamp.own"));
    let mut run = Run::new(&checked);
    run.advance(Seconds(1.0));
    run.fire_with(call, &[Constant::Vector([300.0, 0.0, 50.0]), Constant::Vector([0.0, 1.0, 0.5])]);
    run.set(level, 0, Constant::Scalar(0.75)).unwrap();
    run.advance(Seconds(2.0));
    run.fire(call);
    run.fire(own);
    run.advance(Seconds(50.0));
    let all: Vec<Taken<'_>> = std::iter::from_fn(|| run.take_notice()).collect();
    let named = |all: &[(&str, Constant)]| -> Vec<(String, Constant)> {
        all.iter().map(|(name, value)| ((*name).to_owned(), *value)).collect()
    };
    let called = |place, loud, tint, open| {
        let within = ("within", Constant::Scalar(1200.0));
        let (place, loud) = (("where", Constant::Vector(place)), ("loud", Constant::Scalar(loud)));
        let (tint, open) = (("tint", Constant::Vector(tint)), ("open", Constant::OnOff(open)));
        // The order is that in which the book first names them; `loud` is the lamp's.
        named(&[loud, place, within, tint, open, ("wait", Constant::Scalar(0.2))])
    };
    let near_by =
        |n: usize| named(&[("loud", all[n].values[0].value), ("shut", Constant::OnOff(true))]);
    let found: Vec<_> = all.iter().map(carried).collect();
    assert_eq!(
        found,
        [
            // Before the door is flipped.
            called([300.0, 0.0, 50.0], 0.2, [0.0, 1.0, 0.5], false),
            vec![],
            called([100.0, 0.0, 0.0], 0.75, [1.0, 0.0, 0.0], true),
            vec![],
            near_by(4),
            near_by(5),
        ]
    );
    assert_ne!(all[4].values[0].value, all[5].values[0].value, "each lamp draws its own");
    assert_eq!([all[4].lamp, all[5].lamp], [0, 1]);
}

#[test]
fn what_a_slot_carried_before_is_not_carried_again() {
    let checked = checked(
        "lightbook \"S\"\nevent a, b\nlight lamp point { intensity 1lm }\n\
         at a send full(loud 80%)\nat b send full(tint #ffffff)\n",
    );
    let (a, b) = (event(&checked, "a"), event(&checked, "b"));
    let mut run = Run::new(&checked);
    for n in 0..100 {
        run.fire(if n % 3 == 0 { a } else { b });
        let bytes = run.state().to_bytes(checked.program());
        run.restore(State::from_bytes(checked.program(), &bytes).unwrap().state);
        let taken = run.take_notice().unwrap();
        let wanted = match n % 3 {
            0 => ("loud".to_owned(), Constant::Scalar(0.8)),
            _ => ("tint".to_owned(), Constant::Vector([1.0; 3])),
        };
        assert_eq!(carried(&taken), [wanted]);
    }
}

#[test]
fn drawn_values_are_drawn_each_time_and_fill_their_range() {
    let text = |draw: &str| {
        format!(
            "lightbook \"D\"\nevent a\nlight lamp[3] point {{ event b; at b send own({draw}); intensity 1lm }}\n\
             at a send x(\"p\" or \"q\", {draw})\n"
        )
    };
    let checked = checked(&text("loud drawn(20%..60%), pitch drawn(1, 2, 4)"));
    let mut run = Run::with_seed(&checked, Seed(5));
    let mut louds: Vec<Vec<f64>> = vec![Vec::new(); 4];
    let mut pitches = [0; 3];
    for _ in 0..600 {
        run.fire(event(&checked, "a"));
        run.fire(event(&checked, "lamp.b"));
        while let Some(taken) = run.take_notice() {
            let all = carried(&taken);
            let [(_, Constant::Scalar(loud)), (_, Constant::Scalar(pitch))] = all[..] else {
                panic!("{all:?}")
            };
            assert!((0.2..=0.6).contains(&loud), "{loud}");
            louds[if taken.name == "x" { 3 } else { taken.lamp as usize }].push(loud);
            pitches[[1.0, 2.0, 4.0].iter().position(|known| *known == pitch).unwrap()] += 1;
        }
    }
    for (n, own) in louds.iter().enumerate() {
        assert_eq!(own.len(), 600);
        let mean = own.iter().sum::<f64>() / 600.0;
        assert!((mean - 0.4).abs() < 0.02, "{mean}");
        let mut once = own.clone();
        once.sort_by(f64::total_cmp);
        once.dedup();
        assert!(once.len() > 590, "only {} different values", once.len());
        assert!(louds[..n].iter().all(|other| other != own), "each has its own");
    }
    assert!(pitches.iter().all(|count| (700..900).contains(count)), "{pitches:?}");
    // What a notice carries does not change which text is sent.
    let texts = |draw: &str| {
        let checked = book::checked(&text(draw));
        let mut run = Run::with_seed(&checked, Seed(5));
        let mut sent = String::new();
        for _ in 0..50 {
            run.fire(event(&checked, "a"));
            let taken = run.take_notice().unwrap();
            sent.push_str(taken.text.unwrap());
        }
        sent
    };
    assert_eq!(texts("loud 40%"), texts("pitch drawn(1, 2, 4), loud drawn(20%..60%)"));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Each text comes, none twice in a row, and a queue that is full changes nothing but itself.
    #[test]
    fn texts_never_come_twice_in_a_row(seed in any::<u32>(), patience in 0.1..200.0f64) {
        let checked = checked(BOOK);
        let play = |patience: f64| {
            let mut run = Run::with_seed(&checked, Seed(seed));
            let mut texts: Vec<(u32, f64, String)> = Vec::new();
            let mut now = 0.0;
            while now < 300.0 {
                now += patience;
                run.advance(Seconds(now));
                while let Some(taken) = run.take_notice() {
                    texts.push((taken.lamp, taken.moment.0, taken.text.unwrap_or_default().to_owned()));
                }
            }
            (texts, run.dropped_notices())
        };
        let (all, dropped) = play(0.5);
        prop_assert_eq!(dropped, 0);
        for lamp in 0..2 {
            let own: Vec<&str> = all.iter().filter(|(l, ..)| *l == lamp).map(|(.., t)| t.as_str()).collect();
            prop_assert!(own.windows(2).all(|two| two[0] != two[1]), "{own:?}");
            prop_assert!(own.contains(&"one") && own.contains(&"two"));
        }
        // Who asks seldom misses some, and finds the others as they are.
        let (some, dropped) = play(patience);
        let before: Vec<_> = all.iter().filter(|(_, at, _)| *at <= 300.0).collect();
        prop_assert!(some.iter().filter(|(_, at, _)| *at <= 300.0).all(|taken| before.contains(&taken)));
        if patience < 10.0 {
            prop_assert_eq!(dropped, 0);
        } else if patience > 100.0 {
            prop_assert!(dropped > 0);
        }
    }
}

#[test]
fn the_book_says_how_many_notices_may_wait() {
    for (line, room) in [("", 32), ("notices 8\n", 8), ("notices 1_024\n", 1024)] {
        let text = format!(
            "lightbook \"N\"\n{line}event go\nat go send rap(loud 1)\nlight a point {{ intensity 1lm }}\n"
        );
        let checked = checked(&text);
        let go = event(&checked, "go");
        let mut run = Run::new(&checked);
        // More than once around, and with what is taken in between.
        for round in 0..3u64 {
            for n in 0..room + 3 {
                run.advance(Seconds(round as f64 * 10_000.0 + n as f64));
                run.fire(go);
            }
            assert_eq!(run.dropped_notices(), 3 * (round + 1), "{room}");
            let mut moments = Vec::new();
            while let Some(taken) = run.take_notice() {
                moments.push(taken.moment.0 - round as f64 * 10_000.0);
            }
            let wanted: Vec<f64> = (0..room).map(|n| n as f64).collect();
            assert_eq!(moments, wanted, "{room}");
        }
    }
    for wrong in ["7", "1025", "12.5", "999999999999"] {
        let text = format!("lightbook \"N\"\nnotices {wrong}\nlight a point {{ intensity 1lm }}\n");
        let all = told(&text);
        let wanted = "the queue must hold a whole number of notices from 8 to 1024";
        assert!(all.contains(wanted), "{wrong}: {all}");
    }
}

#[test]
fn each_text_of_three_comes_first_as_often() {
    let checked = checked(BOOK);
    let wink = event(&checked, "row.lamp.wink");
    let mut counts = [0; 3];
    for seed in 0..300 {
        let mut run = Run::with_seed(&checked, Seed(seed));
        run.fire_at(wink, 0, &[]);
        let text = run.take_notice().and_then(|taken| taken.text).unwrap_or_default();
        counts[["a", "b", "c"]
            .iter()
            .position(|known| *known == text)
            .expect("it is one of them")] += 1;
    }
    assert!(counts.iter().all(|count| (70..130).contains(count)), "{counts:?}");
}

#[test]
fn rehearsals_count_notices() {
    let rehearsal = "rehearsal r {
  1s row[1].knock
  2s ring
  3s expect rap sent 1
  3s expect crackle sent 2
  3s expect crackle sent 0 for 5s
  4s expect bell sent 2
  4s row[0].lamp.wink
  5s expect wind sent 1..3
  0s expect rap sent 0 for 900ms
  9s end
}
";
    let checked = checked(&format!("{BOOK}{rehearsal}"));
    let found = rehearse(&checked, &checked.program().rehearsals()[0], Seed(1));
    let met: Vec<Option<f64>> = found.iter().map(|unmet| unmet.as_ref().map(|u| u.found)).collect();
    assert_eq!(met, [None, None, Some(2.0), Some(1.0), None, None]);
}

#[test]
fn what_is_wrong_is_told_where_it_stands() {
    let text = "lightbook \"W\"
event ring
light a[2] point { intensity 1lm; at ring send x from a; at nothing send y }
at ring send drawn(\"a\\b\")
at ring send two(\"b\" or \"b\")
at ring send three from c
at ring send four from a[2]
at ring send
light d[] point { intensity 1lm; event own; at own send y }
at ring send five(loud)
at ring send five(\"a\", 3)
at ring send five(\"a\" loud 3)
at ring send five(loud 3, tint)
at ring send five(loud 80%, loud 20%)
at ring send five(lamp 2)
at ring send six(loud 2s)
at ring send six(tint nothing)
at ring send six(wide 1..2)
at ring send six(both smooth)
rehearsal r { 1s expect five sent 2; 2s expect one sent 1.5 }
";
    insta::assert_snapshot!(told(text));
}
