//! The day: what stands above the lanes, and that each column is what a run gives at its hour.

#[path = "../../caltrin-lang/tests/heard/mod.rs"]
mod heard;
mod words;

use caltrin_core::quantity::{Hours, Seconds};
use caltrin_core::run::State;
use caltrin_core::{Run, ValidatedProgram};
use caltrin_draw::shape::Shape;
use caltrin_draw::{
    Colors, Exposure, Picture, PlaceOptions, SheetOptions, TerminalOptions, View, When, html,
    pixels, place, png, sheet, svg, terminal,
};
use words::nothing_overlaps;

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");

fn checked(text: &str) -> ValidatedProgram {
    let reading = heard::read(text, "book.caltrin");
    let told: Vec<&String> = reading.diagnostics.iter().map(|d| &d.message).collect();
    reading.checked.unwrap_or_else(|| panic!("{told:#?}"))
}

fn day() -> SheetOptions {
    SheetOptions { day: true, curves: false, ..SheetOptions::default() }
}

fn words_of(picture: &Picture) -> Vec<String> {
    let words = picture.shapes.iter().filter_map(|shape| match shape {
        Shape::Text(text) => Some(text.words.clone()),
        _ => None,
    });
    words.collect()
}

#[test]
fn every_column_of_a_day_is_what_a_run_gives_at_its_hour() {
    let book = checked(
        "lightbook \"D\"\nclock { day 10min; start 09:30 }\nsun { latitude 48deg; date 100 }\n\
         curve glow { 05:00 0%; 12:00 100% smooth; 21:30 20% }\n\
         hours open from 20:00 to 04:00 over 01:00\n\
         light a point { intensity 40cd * glow }\n\
         light b point { intensity 7cd * open }\n\
         output c = sun.strength\n",
    );
    let picture = sheet(&book, &[], &day());
    let readings = picture.readings.as_ref().unwrap();
    assert_eq!((readings.span, readings.unit.as_str()), ((0.0, 24.0), "clock"));
    assert_eq!(readings.lanes.len(), 3);
    let mut run = Run::new(&book);
    for (lane, (id, _)) in readings.lanes.iter().zip(book.program().lights()) {
        let count = lane.levels.len();
        for n in [0, 1, count / 5, count / 3, count / 2, count - 2, count - 1] {
            run.set_clock(Hours(24.0 * (n as f64 + 0.5) / count as f64));
            let mut out = vec![0.0; run.width(id)];
            run.read(id, 0, &mut out);
            let [least, mean, most] = lane.levels[n];
            let near = 0.004 * lane.top;
            assert!((mean - out[0]).abs() <= near, "{} {n}: {mean} {}", lane.name, out[0]);
            assert!(least - near <= out[0] && out[0] <= most + near, "{} {n}", lane.name);
        }
    }
}

#[test]
fn sun_moon_and_phases_stand_above_the_lanes_with_their_hours() {
    let book = checked(PIER);
    let words = words_of(&sheet(&book, &[], &day()));
    let has = |wanted: &str| words.iter().any(|words| words == wanted);
    for wanted in ["sun", "moon", "watch", "night", "morning", "00:00", "24:00"] {
        assert!(has(wanted), "{wanted}: {words:?}");
    }
    // 54 degrees north on 20 November, in mean time.
    assert!(
        words.iter().any(|words| words.starts_with("rises 07:3") && words.contains("sets 15:5"))
    );
    // A book without a sun has no sky, and one without a clock no day.
    let plain = "clock { day 10min; start 09:30 }\ncurve glow { 05:00 0%; 12:00 100% }\n\
                 light a point { intensity 40cd * glow }";
    let words = words_of(&sheet(&checked(&format!("lightbook \"P\"\n{plain}")), &[], &day()));
    assert!(!words.iter().any(|words| words.contains("rises")), "{words:?}");
    let still = checked("lightbook \"S\"\nlight a point { intensity 40cd }");
    assert!(words_of(&sheet(&still, &[], &day())).iter().any(|words| words == "0 s"));
}

#[test]
fn days_of_the_year_stand_below_each_other_against_one_top() {
    let book = checked(PIER);
    let season = |date: f64| {
        let mut state = State::start(book.program());
        let id = book.program().input_named("season").unwrap();
        let value = caltrin_core::program::Constant::Scalar(date);
        state.inputs.set(book.program(), id, 0, value).unwrap();
        state
    };
    let sunlight = book.program().light_named("sunlight").unwrap();
    let options = SheetOptions {
        starts: vec![season(80.0), season(172.0), season(355.0)],
        labels: ["spring", "summer", "winter"].map(str::to_owned).to_vec(),
        lights: Some(vec![sunlight]),
        ..day()
    };
    let picture = sheet(&book, &[], &options);
    nothing_overlaps(&picture);
    let lanes = &picture.readings.as_ref().unwrap().lanes;
    let names: Vec<&str> = lanes.iter().map(|lane| lane.name.as_str()).collect();
    assert_eq!(names, ["sunlight spring", "sunlight summer", "sunlight winter"]);
    assert!(lanes.iter().all(|lane| lane.top == lanes[0].top));
    let lit = |n: usize| lanes[n].levels.iter().filter(|level| level[1] > 0.0).count();
    assert!(lit(1) > lit(0) && lit(0) > lit(2), "{} {} {}", lit(0), lit(1), lit(2));
    let words = words_of(&picture);
    assert_eq!(words.iter().filter(|words| words.starts_with("rises")).count(), 3);
    assert_eq!(
        words.iter().filter(|words| *words == "watch").count(),
        1,
        "what is alike stands once"
    );
}

#[test]
fn a_day_is_legible_at_any_width_and_the_same_bytes_each_time() {
    let many: String = (0..40)
        .map(|n| {
            format!("light lamp_{n} point {{ intensity 9cd * open * held(0..1, every 1s) }}\n")
        })
        .collect();
    let many = format!(
        "lightbook \"Many\"\nclock {{ day 10min; start 09:30 }}\nhours open from 20:00 to 04:00\n\
         phases part {{ a from 00:05; bee from 00:10 over 00:02; a_very_long_name_for_a_phase from 01:00; c from 23:50 }}\n\
         sun a_sun_with_quite_a_long_name_indeed {{ rises 06:00; sets 20:00 }}\nmoon m of a_sun_with_quite_a_long_name_indeed\n{many}"
    );
    for book in [checked(PIER), checked(&many)] {
        for width in [480, 800, 1280, 2000] {
            nothing_overlaps(&sheet(&book, &[], &SheetOptions { width, ..day() }));
        }
        let picture = sheet(&book, &[], &day());
        let again = sheet(&book, &[], &day());
        assert_eq!(svg(&picture), svg(&again));
        assert_eq!(png(&picture).unwrap(), png(&again).unwrap());
        assert!(html(&picture).contains("\"unit\":\"clock\""));
        for width in [40, 100, 200] {
            let text =
                terminal(&picture, &TerminalOptions { width, height: None, colors: Colors::None });
            assert!(text.contains("|00:00"), "{text}");
        }
    }
}

#[test]
fn where_the_sun_never_sets_or_rises_the_day_says_so() {
    let book = |date: u32| {
        checked(&format!(
            "lightbook \"North\"\nclock {{ day 10min; start 12:00 }}\n\
             sun {{ latitude 78deg; date {date} }}\noutput up = sun.up\n"
        ))
    };
    let words = |date| words_of(&sheet(&book(date), &[], &day()));
    assert!(words(172).iter().any(|words| words == "up all day"));
    assert!(words(355).iter().any(|words| words == "below all day"));
}

#[test]
fn a_place_is_drawn_at_an_hour_whatever_the_book_starts_with() {
    let place_at = |text: &str, when: When| {
        let options = PlaceOptions {
            moments: vec![when],
            exposure: Exposure::Lux(300.0),
            width: 400,
            ..PlaceOptions::default()
        };
        pixels(&place(&checked(text), &options)).unwrap()
    };
    // The same moment, reached by the hour or by a book that starts there.
    let noon = PIER.replace("start 17:40", "start 12:00");
    let at_noon = When { moment: Seconds(0.0), hour: Some(Hours(12.0)) };
    let by_hour = place_at(PIER, at_noon);
    let by_book = place_at(&noon, Seconds(0.0).into());
    // The head tells the one as an hour, the other as a moment.
    let below = |bytes: Vec<u8>| bytes[400 * 3 * 80..].to_vec();
    assert!(below(by_hour) == below(by_book));
    let options = PlaceOptions {
        moments: [5.0, 12.0, 15.2].map(|hour| Hours(hour).into()).to_vec(),
        exposure: Exposure::Each,
        view: View::Front,
        ..PlaceOptions::default()
    };
    let picture = place(&checked(PIER), &options);
    nothing_overlaps(&picture);
    let words = words_of(&picture);
    for caption in ["05:00, ", "12:00, ", "15:12, "] {
        assert!(
            words.iter().any(|w| w.starts_with(caption) && w.ends_with("lx at 80%")),
            "{words:?}"
        );
    }
}
