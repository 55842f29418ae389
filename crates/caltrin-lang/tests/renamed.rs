//! Words of earlier versions are reported and replaced; other spellings are accepted.

mod book;
mod heard;

use book::{checked, told};
use caltrin_core::quantity::Seconds;
use caltrin_core::{Run, ValidatedProgram};
use caltrin_lang::format;

/// Every current phrase and the one that it had in an earlier version.
const PHRASES: [(&str, &str); 13] = [
    ("scaled(", "shade("),
    ("stepped(", "snap("),
    ("threshold(", "edge("),
    ("drawn(", "one("),
    ("later(blare, by", "shift(blare, by"),
    ("later(stretched, by", "shift(stretched, by"),
    ("\nhours ", "\nwindow "),
    (" rearm below", " again below"),
    ("  overflow  ", "  full  "),
    ("  dim     with", "  dim     by"),
    ("  tint    with", "  tint    by"),
    ("\nbehavior ", "\nbehaviour "),
    ("  color ", "  colour "),
];

const OLD: &str = "lightbook \"Old\"
seed 4
clock { day 24min; start 12:00 }
window open from 08:00 to 17:00 over 01:00
input swell = 0 in 0..1
event high when swell above 80% again below 60%
event low when swell below 20% again above 40%
signal steady = snap(drift(0..1, rate 2Hz), every 40ms)
light a[2] point { color shade(#ff8040, by 70%); intensity 5lm * one(90%..110%) * edge(swell, at 40%, over 10%) * open }
light b point { colour #80a0ff; intensity 5lm * shift(steady, by 2s) * pulse(at high, lasts 1s) * pulse(at low, lasts 1s) }
group all { lights a, b; dim by steady to 10%; tint by steady to #402010 }
spark flash[4] point at high { lives 1s; full ignore; intensity 5lm * (1 - life); color #ff0000 }
behaviour buzz = held(80%..100%, every 80ms)
light c point { color #ffffff; intensity 5lm * buzz() }
";

#[test]
fn each_old_word_is_one_error_and_nothing_follows_from_it() {
    assert_eq!(
        told(OLD),
        "4 `window` `window` is now written `hours`; write `hours`; `caltrin fmt` updates the whole book\n\
         6 `again` `again below` is now written `rearm below`; write `rearm below`; `caltrin fmt` updates the whole book\n\
         7 `again` `again above` is now written `rearm above`; write `rearm above`; `caltrin fmt` updates the whole book\n\
         8 `snap` `snap` is now written `stepped`; write `stepped`; `caltrin fmt` updates the whole book\n\
         9 `shade` `shade` is now written `scaled`; write `scaled`; `caltrin fmt` updates the whole book\n\
         9 `one` `one` is now written `drawn`; write `drawn`; `caltrin fmt` updates the whole book\n\
         9 `edge` `edge` is now written `threshold`; write `threshold`; `caltrin fmt` updates the whole book\n\
         10 `shift` `shift` is now written `later`; write `later`; `caltrin fmt` updates the whole book\n\
         11 `by` `dim by` is now written `dim with`; write `dim with`; `caltrin fmt` updates the whole book\n\
         11 `by` `tint by` is now written `tint with`; write `tint with`; `caltrin fmt` updates the whole book\n\
         12 `full` `full ignore` is now written `overflow ignore`; write `overflow ignore`; `caltrin fmt` updates the whole book\n"
    );
}

#[test]
fn formatting_brings_an_old_book_up_to_date() {
    let new = format(OLD).expect("only words are old");
    assert_eq!(told(&new), "");
    assert_eq!(format(&new).as_ref(), Ok(&new));
    assert!(!new.contains("behaviour") && !new.contains("colour"), "{new}");
}

#[test]
fn the_books_of_the_tree_come_back_from_their_old_words() {
    let mut seen = [0; PHRASES.len()];
    for book in [
        include_str!("../../caltrin/books/pier.caltrin"),
        include_str!("../../caltrin/books/siding.caltrin"),
        include_str!("../../caltrin/books/stock.caltrin"),
        include_str!("../../caltrin/books/lido.caltrin"),
        include_str!("../../caltrin/books/lido_lamps.caltrin"),
        include_str!("../../caltrin-export/tests/everything.caltrin"),
    ] {
        let current = format(book).expect("the book is good");
        let mut old = current.clone();
        for ((new, before), seen) in PHRASES.iter().zip(&mut seen) {
            *seen += old.matches(new).count();
            old = old.replace(new, before);
        }
        assert_eq!(format(&old).as_ref(), Ok(&current));
    }
    for ((new, _), seen) in PHRASES.iter().zip(seen) {
        assert!(seen > 0, "no book has `{new}`");
    }
}

#[test]
fn other_spellings_make_the_same_program() {
    let other = "lightbook \"S\"\nbehaviour buzz = held(80%..100%, every 80ms)\ncolour brass = #c08040\n\
        light a[2] point { colour brass; intensity 5lm * buzz(); except [1] { colour colour(srgb-linear 0.1 0.2 0.3) } }\n\
        event go\nsequence s at go { 1s a.colour #ff0000 smooth; 2s return over 1s }\n\
        rehearsal r { 0s expect a[0].colour is in brass..brass; 1s end }\n";
    let ours = other.replace("behaviour", "behavior").replace("colour", "color");
    let program = |text: &str| heard::read(text, "s.caltrin").checked.map(|c| c.program().clone());
    assert_eq!(told(other), told(&ours));
    assert_eq!(program(other), program(&ours));
    assert_eq!(format(other).unwrap(), format(&ours).unwrap());
}

#[test]
fn a_name_of_ones_own_may_be_an_old_word_unless_it_is_called() {
    let text = "lightbook \"N\"\nsignal edge = 40%\nlight window point { color #ffffff; intensity 5lm * edge }\n\
        event full\nlight shade[2] point { color #ffffff; intensity 5lm * pulse(at full, lasts 1s) }\n\
        modes snap { colour, one; colour -> one at full }\n\
        output level = pick(snap, colour 0, one 1)\n";
    assert_eq!(told(text), "");
    let formatted = format(text).unwrap();
    assert_eq!(told(&formatted), "");
    for name in ["light window", "light shade[2]", "modes snap", "colour -> one", "event full"] {
        assert!(formatted.contains(name), "{formatted}");
    }
    assert_eq!(
        told(
            "lightbook \"N\"\nbehavior edge = 5%\ncurve one { 0% 0%\n100% 1 }\noutput y = one(30%)\n"
        ),
        "2 `edge` `edge` is a function of the language; choose another name; it is an earlier name of `threshold`\n\
         3 `one` `one` is a function of the language; choose another name; it is an earlier name of `drawn`\n\
         5 `one` `one` is now written `drawn`; write `drawn`; `caltrin fmt` updates the whole book\n"
    );
}

/// Strengths of a light's lamps at a moment.
fn levels(checked: &ValidatedProgram, light: &str, at: f64) -> Vec<f32> {
    let mut run = Run::new(checked);
    run.advance(Seconds(at));
    let id = checked.program().light_named(light).expect("the light is there");
    let (width, count) = (run.width(id), checked.program().light(id).size.shown() as usize);
    let mut out = vec![0.0; width * count];
    run.read(id, 0, &mut out);
    out.chunks(width).map(|lamp| lamp[0]).collect()
}

#[test]
fn later_delays_by_a_time_from_lamp_to_lamp_or_both() {
    let checked = checked(
        "lightbook \"L\"\nsignal x = triangle(0..1, every 3.1s, phase 0)\n\
         light plain point { intensity 5lm * x }\n\
         light short point { intensity 5lm * later(x, 700ms) }\n\
         light long point { intensity 5lm * later(x, by 700ms) }\n\
         light each[3] point { intensity 5lm * later(x, each 150ms) }\n\
         light both[3] point { intensity 5lm * later(x, each 150ms, by 700ms) }\n\
         fitting hut { light lone point { intensity 5lm * later(x, 700ms) } }\nplace gate of hut { }\n",
    );
    for at in [0.0, 0.4, 1.9, 7.3] {
        let plain = |ago: f64| levels(&checked, "plain", at - ago)[0];
        let close = |name: &str, wanted: &[f32]| {
            let found = levels(&checked, name, at);
            assert!(found.len() == wanted.len(), "{name}");
            for (a, b) in found.iter().zip(wanted) {
                assert!((a - b).abs() < 1e-5, "{name} at {at} s: {found:?}, not {wanted:?}");
            }
        };
        for name in ["short", "long", "gate.lone"] {
            close(name, &[plain(0.7)]);
        }
        close("each", &[plain(0.0), plain(0.15), plain(0.3)]);
        close("both", &[plain(0.7), plain(0.85), plain(1.0)]);
    }
}

#[test]
fn a_plain_time_of_later_is_refused_where_it_could_mean_two_things() {
    let refused = "`later` needs `by` or `each` before this time; \
                   write `by 2s` for all lamps alike, or `each 2s` from lamp to lamp\n";
    let row = "lightbook \"L\"\nlight a[3] point { intensity 5lm * later(sine(every 3s), 2s) }\n";
    assert_eq!(told(row), format!("2 `2s` {refused}"));
    let recipe = "lightbook \"L\"\nbehavior late = later(sine(every 3s), 2s)\noutput y = late()\n";
    assert_eq!(told(recipe), format!("2 `2s` {refused}"));
    let many = "lightbook \"L\"\nfitting f { light a point { intensity 5lm * later(sine(every 3s), 2s) } }\n\
                place p[2] of f { }\n";
    assert!(told(many).contains(refused), "{}", told(many));
    assert_eq!(
        told("lightbook \"L\"\noutput y = later(sine(every 3s))\n"),
        "2 `(sine(every 3s))` `later` needs a value and a time, as in `later(x, by 2s)` or, from lamp to lamp, \
         `later(x, each 150ms)`\n"
    );
    let three = "lightbook \"L\"\noutput y = later(sine(every 3s), 2s, by 1s)\n";
    assert!(told(three).starts_with("2 `2s` "), "{}", told(three));
}
