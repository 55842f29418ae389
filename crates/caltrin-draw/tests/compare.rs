//! Comparisons: what changed is reported with its figures, and drawn.

#[path = "../../caltrin-lang/tests/heard/mod.rs"]
mod heard;
mod words;

use caltrin_core::ValidatedProgram;
use caltrin_core::quantity::{Seconds, Seed};
use caltrin_core::run::State;
use caltrin_draw::shape::Shape;
use caltrin_draw::{Came, Change, CompareOptions, Picture, Side, compare, png, svg};
use words::nothing_overlaps;

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");

fn checked(text: &str) -> ValidatedProgram {
    heard::read(text, "book.caltrin").checked.expect("the book is good")
}

fn side<'a>(name: &str, checked: &'a ValidatedProgram) -> Side<'a> {
    let start = State::start(checked.program()).with_seed(Seed(41));
    Side { name: name.to_owned(), checked, start }
}

fn between(a: &str, b: &str) -> (Picture, Vec<Change>) {
    let (a, b) = (checked(a), checked(b));
    let options = CompareOptions {
        from: Seconds(0.0),
        to: Seconds(10.0),
        width: 1280,
        pair: None,
        rehearsal: None,
        day: false,
    };
    compare(&side("before", &a), &side("after", &b), &options)
}

fn of<'a>(changes: &'a [Change], light: &str) -> &'a Change {
    changes.iter().find(|change| change.light == light).expect("the light is told of")
}

#[test]
fn a_book_and_itself_are_the_same() {
    let (picture, changes) = between(PIER, PIER);
    assert_eq!(changes.len(), 27);
    assert!(changes.iter().all(|change| change.came == Came::Same && change.words.is_empty()));
    nothing_overlaps(&picture);
    // A comment and another order change nothing.
    let other = PIER.replace("color arc    = 9500K", "// the same\ncolor arc = 9500K");
    assert!(between(PIER, &other).1.iter().all(|change| change.came == Came::Same));
}

#[test]
fn what_changed_is_told_with_its_figures() {
    let before = "lightbook \"B\"
curve c { 0s 0%; 10s 100% }
light a point { reach 9m; color #ff8040; intensity 40cd * once(c) }
light gone point { intensity 1cd }
light same point { intensity 5cd }
light many[4] point { intensity 5cd }
";
    let after = before
        .replace("reach 9m", "reach 6m; shadows on")
        .replace("#ff8040", "#ff80c0")
        .replace("40cd", "30cd")
        .replace("light gone point { intensity 1cd }", "light new[3] spot { intensity 1cd }")
        .replace("many[4]", "many[6]");
    let (picture, changes) = between(before, &after);
    nothing_overlaps(&picture);
    assert_eq!(of(&changes, "gone").came, Came::Removed);
    assert_eq!(
        (of(&changes, "new").came, of(&changes, "new").words.join("")),
        (Came::Added, "spot, 3 lamps".to_owned())
    );
    assert_eq!(of(&changes, "same").came, Came::Same);
    assert_eq!(of(&changes, "many").words, ["had 4 lamps, has 6 lamps"]);
    let told = of(&changes, "a").words.join("\n");
    for wanted in [
        "now drives shadows",
        "intensity: on average 20 cd before, 15 cd after (-25%); differs most, by 10 cd, at 10 s",
        "intensity: stayed in 0..40 cd, stays in 0..30 cd",
        "color: on average #ff8040 before, #ff80c0 after",
        "reach_outer: was 9 m, is 6 m (-33%)",
    ] {
        assert!(told.contains(wanted), "{wanted}\n{told}");
    }
}

#[test]
fn the_difference_is_drawn_below_where_it_is() {
    // The second half is darker than before.
    let book = |end: &str| {
        format!(
            "lightbook \"B\"\ncurve c {{ 0s 1; 5s 1; 5.1s {end} jump; 10s {end} }}\nlight a point {{ intensity 40cd * once(c) }}\n"
        )
    };
    let (picture, _) = between(&book("1"), &book("0.25"));
    let bars: Vec<_> = picture
        .shapes
        .iter()
        .filter_map(|shape| match shape {
            Shape::Bars(frame, bars, _) => Some((frame, bars)),
            _ => None,
        })
        .collect();
    let [_, _, (_, more), (_, less)] = bars[..] else { panic!("two lines and two sides") };
    assert!(more.iter().all(|(top, foot)| top == foot));
    let long = |n: usize| less[n].1 - less[n].0;
    assert_eq!((long(10), long(less.len() / 2 - 10)), (0.0, 0.0));
    assert!(long(less.len() - 10) > 15.0);
    assert_eq!(svg(&picture), svg(&between(&book("1"), &book("0.25")).0));
    assert!(png(&picture).is_ok());
}

#[test]
fn a_pool_of_sparks_is_drawn_by_its_brightest() {
    let book = |lives: &str| {
        checked(&format!(
            "lightbook \"C\"\nevent flare\nspark ember[8] point at flare {{ lives {lives}..{lives}; position (0m, 1m, 0m); intensity 400cd * (1 - life) }}\n\
             rehearsal r {{ 1s flare; 2s flare; 9s end }}\n"
        ))
    };
    let (a, b) = (book("4s"), book("0.5s"));
    let options = CompareOptions {
        from: Seconds(0.0),
        to: Seconds(9.0),
        width: 1280,
        pair: None,
        rehearsal: Some("r".to_owned()),
        day: false,
    };
    let (picture, changes) = compare(&side("before", &a), &side("after", &b), &options);
    assert_eq!(of(&changes, "ember").came, Came::Changed);
    // Of the first side the second spark begins at full while the first one still lives.
    let ribbon = picture.shapes.iter().find_map(|shape| match shape {
        Shape::Ribbon(_, colors) => Some(colors),
        _ => None,
    });
    let ribbon = ribbon.expect("there is a ribbon");
    let at = |t: f64| ribbon[(t / 9.0 * ribbon.len() as f64) as usize][0];
    assert!(at(2.05) > at(1.95) && at(2.05) > 245, "{} {}", at(1.95), at(2.05));
    // Without the rehearsal nothing happens.
    let quiet = CompareOptions { rehearsal: None, ..options };
    let (_, changes) = compare(&side("before", &a), &side("after", &b), &quiet);
    assert_eq!(of(&changes, "ember").came, Came::Same);
}
