//! Sheets: nothing overlaps or leaves the picture, the same book gives the same bytes, and names
//! cannot break out.

#[path = "../../caltrin-lang/tests/heard/mod.rs"]
mod heard;
mod words;

use caltrin_core::quantity::{Seconds, Seed};
use caltrin_core::run::State;
use caltrin_core::{Run, ValidatedProgram};
use caltrin_draw::shape::{Picture, Shape};
use caltrin_draw::{Colors, SheetOptions, TerminalOptions, html, png, sheet, svg, terminal};
use words::{boxes, nothing_overlaps};

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");

fn checked(text: &str) -> ValidatedProgram {
    heard::read(text, "book.caltrin").checked.expect("the book is good")
}

fn many(n: usize, name: &str) -> ValidatedProgram {
    let lights: String = (0..n)
        .map(|i| format!("light {name}_{i:03} point {{ color 2100K; intensity 700lm * held(60%..100%, every 50ms..{}ms) }}\n", 90 + i))
        .collect();
    checked(&format!("lightbook \"Many\"\n{lights}"))
}

#[test]
fn no_words_overlap_or_leave_the_picture() {
    let books = [
        checked(PIER),
        many(1, "lamp"),
        many(40, "lamp_of_the_upper_lock_gate"),
        many(130, "lamp"),
    ];
    for book in &books {
        for width in [800, 1280] {
            for to in [None, Some(Seconds(0.2)), Some(Seconds(7200.0))] {
                // The pier's rehearsal has flags; the others have none.
                for rehearsal in [None, Some(0)] {
                    let options = SheetOptions { to, width, rehearsal, ..SheetOptions::default() };
                    nothing_overlaps(&sheet(book, &[], &options));
                }
            }
        }
    }
}

#[test]
fn the_same_book_gives_the_same_bytes_and_another_seed_others() {
    let book = checked(PIER);
    let draw = |seed| {
        let starts = vec![State::start(book.program()).with_seed(Seed(seed))];
        let options = SheetOptions { starts, ..SheetOptions::default() };
        let picture = sheet(&book, &[], &options);
        (svg(&picture), png(&picture).unwrap())
    };
    let first = draw(41);
    assert_eq!(first, draw(41));
    assert_ne!(first.0, draw(42).0);
    assert_ne!(first.1, draw(42).1);
}

#[test]
fn the_svg_is_well_formed_and_names_cannot_break_out() {
    let book = checked(
        "lightbook \"<script>alert(1)</script> & 'quotes' ]]>\"\nlight a point { intensity 1lm }\n",
    );
    let text = svg(&sheet(&book, &[], &SheetOptions::default()));
    assert!(!text.contains("<script"));
    let mut reader = quick_xml::Reader::from_str(&text);
    let mut open = 0i32;
    loop {
        match reader.read_event().expect("every event can be read") {
            quick_xml::events::Event::Start(_) => open += 1,
            quick_xml::events::Event::End(_) => open -= 1,
            quick_xml::events::Event::Eof => break,
            _ => {}
        }
    }
    assert_eq!(open, 0);
}

#[test]
fn the_png_is_as_large_as_the_picture() {
    let picture = sheet(&checked(PIER), &[], &SheetOptions::default());
    let bytes = png(&picture).unwrap();
    assert_eq!(bytes[..8], *b"\x89PNG\r\n\x1a\n");
    let size = |at: usize| u32::from_be_bytes(bytes[at..at + 4].try_into().unwrap());
    assert_eq!((size(16), size(20)), (picture.width, picture.height));
}

#[test]
fn a_lane_is_named_after_its_light_and_a_chosen_light_stands_alone() {
    let book = checked(PIER);
    let all = sheet(&book, &[], &SheetOptions::default());
    for name in ["mast[8]", "quay.core[12]", "harbor_light", "deck"] {
        assert!(boxes(&all).iter().any(|(.., words)| *words == name), "{name}");
    }
    let weld = book.program().light_named("weld").unwrap();
    let options = SheetOptions { lights: Some(vec![weld]), ..SheetOptions::default() };
    let one = sheet(&book, &[], &options);
    assert!(boxes(&one).iter().any(|(.., words)| *words == "weld"));
    assert!(!boxes(&one).iter().any(|(.., words)| words.starts_with("mast")));
    assert!(boxes(&one).iter().any(|(.., words)| words.contains("Not all")));
}

#[test]
fn the_ribbon_shows_when_a_light_is_dark() {
    let book = checked(
        "lightbook \"B\"\ncurve half { 0s 0; 5s 1 jump; 10s 1 }\nlight a point { color #ff0000; intensity 9lm * once(half) }\n",
    );
    let picture =
        sheet(&book, &[], &SheetOptions { to: Some(Seconds(10.0)), ..SheetOptions::default() });
    let colors = picture
        .shapes
        .iter()
        .find_map(|shape| match shape {
            Shape::Ribbon(_, colors) => Some(colors),
            _ => None,
        })
        .expect("there is a ribbon");
    let half = colors.len() / 2;
    assert!(colors[..half - 1].iter().all(|c| *c == [0, 0, 0]));
    assert!(colors[half + 1..].iter().all(|c| *c == [255, 0, 0]));
}

#[test]
fn other_draws_stand_below_each_other() {
    let book = checked(PIER);
    let start = State::start(book.program());
    let starts: Vec<State> = [41, 42, 43].map(|n| start.clone().with_seed(Seed(n))).to_vec();
    let weld = book.program().light_named("weld");
    let options =
        SheetOptions { starts, lights: weld.map(|id| vec![id]), ..SheetOptions::default() };
    let picture = sheet(&book, &[], &options);
    nothing_overlaps(&picture);
    let lanes = picture.readings.unwrap().lanes;
    let names: Vec<&str> = lanes.iter().map(|lane| lane.name.as_str()).collect();
    assert_eq!(names, ["weld seed 41", "weld seed 42", "weld seed 43"]);
    assert!(lanes[0].levels != lanes[1].levels && lanes[1].levels != lanes[2].levels);
    let turned = options.starts.iter().rev().cloned().collect();
    let turned = SheetOptions { starts: turned, ..options };
    let turned = sheet(&book, &[], &turned).readings.unwrap().lanes;
    assert_eq!(turned[2].levels, lanes[0].levels);
}

#[test]
fn an_input_lies_along_the_top_and_shows_what_it_does() {
    let book = checked(PIER);
    let over = book.program().input_named("mist");
    let picture = sheet(&book, &[], &SheetOptions { over, ..SheetOptions::default() });
    nothing_overlaps(&picture);
    assert!(boxes(&picture).iter().any(|(.., words)| *words == "60%"));
    let readings = picture.readings.unwrap();
    assert_eq!((readings.span, readings.unit.as_str()), ((0.0, 1.0), ""));
    let lane = readings.lanes.iter().find(|lane| lane.name == "view_range").unwrap();
    let count = lane.levels.len();
    for (n, level) in lane.levels.iter().enumerate() {
        let mist = (n as f32 + 0.5) / count as f32;
        assert!((level[1] - (900.0 - 750.0 * mist)).abs() < 0.01, "{mist}: {level:?}");
    }
}

#[test]
fn a_signal_lies_along_the_top_as_an_input_would() {
    let book = checked(
        "lightbook \"B\"
curve c { 0s 20%; 4s 80% }
signal level = loop(c)
signal twice = level * 2
light a point { intensity 10cd * twice + 1cd }
light b point { intensity 10cd * held(0%..100%, every 1s..2s) }",
    );
    let level = book.program().signals().find(|(_, signal)| signal.name == "level").unwrap().0;
    let (opened, over) = book.opened(level).unwrap();
    let options = SheetOptions { over: Some(over), ..SheetOptions::default() };
    let readings = sheet(&opened, &[], &options).readings.unwrap();
    assert_eq!(readings.span, (0.2, 0.8));
    let count = readings.lanes[0].levels.len() as f32;
    for (n, found) in readings.lanes[0].levels.iter().enumerate() {
        let wanted = 20.0 * (0.2 + 0.6 * (n as f32 + 0.5) / count) + 1.0;
        assert!((found[1] - wanted).abs() < 1e-4, "{n}: {found:?}");
    }
    // What does not use it stands still.
    let other = &readings.lanes[1].levels;
    assert!(other.iter().all(|level| level == &other[0]));
    let steady = checked("lightbook \"B\"\nsignal s = 1\nlight a point { intensity 1cd * s }");
    let s = steady.program().signals().next().unwrap().0;
    assert!(steady.opened(s).is_none());
}

#[test]
fn readings_are_what_the_run_gives() {
    let book = checked(PIER);
    let options = SheetOptions { to: Some(Seconds(3.0)), ..SheetOptions::default() };
    let readings = sheet(&book, &[], &options).readings.unwrap();
    let id = book.program().light_named("harbor_light").unwrap();
    let lane = readings.lanes.iter().find(|lane| lane.name == "harbor_light").unwrap();
    let mut run = Run::new(&book);
    let mut lamp = vec![0.0; run.width(id)];
    for (n, [least, mean, most]) in lane.levels.iter().enumerate() {
        run.advance(Seconds(3.0 * n as f64 / lane.levels.len() as f64));
        run.read(id, 0, &mut lamp);
        assert!(*least <= lamp[0] && lamp[0] <= *most && least <= mean && mean <= most, "{n}");
    }
}

#[test]
fn a_page_has_its_readings_and_nothing_from_the_book_ends_its_script() {
    let book = checked(
        "lightbook \"</script><script>alert(1)</script> & <b>\"
light a point { position (0m, 0m, 0m); intensity 40cd * held(50%..100%, every 1s..2s) }",
    );
    let page = html(&sheet(&book, &[], &SheetOptions::default()));
    assert_eq!(page.matches("<script").count(), 1);
    assert_eq!(page.matches("</script>").count(), 1);
    assert!(!page.contains("<b>\""));
    // The readings are JSON.
    let from = page.find("const readings = ").unwrap() + "const readings = ".len();
    let data = &page[from..from + page[from..].find(";\n").unwrap()];
    let data: serde_json::Value = serde_json::from_str(data).unwrap();
    assert_eq!(data["lanes"][0]["unit"], "cd");
    assert!(data["lanes"][0]["levels"].as_array().unwrap().len() > 500);
}

#[test]
fn a_terminal_of_any_width_and_colors_shows_the_same_lanes() {
    let book = checked(&PIER.replace("Saltgate", "Salt\u{1b}]0;gate"));
    let picture = sheet(&book, &[], &SheetOptions::default());
    let plain = |text: &str| {
        let mut out = String::new();
        let mut rest = text;
        while let Some(at) = rest.find('\u{1b}') {
            out.push_str(&rest[..at]);
            rest = &rest[at + rest[at..].find('m').unwrap() + 1..];
        }
        out + rest
    };
    for width in [1, 24, 40, 80, 200] {
        for colors in [Colors::True, Colors::Many, Colors::Sixteen, Colors::None] {
            let text = terminal(&picture, &TerminalOptions { width, height: None, colors });
            assert_eq!(text.contains("\u{1b}["), colors != Colors::None);
            assert!(!text.contains("\u{1b}]"), "a name steers the terminal");
            let lines = plain(&text);
            for line in lines.lines() {
                assert!(line.chars().count() <= width.max(24), "{width}: {line}");
            }
            // Two lines a lane, whatever the width.
            let names = ["mast", "weld", "deck", "6944 lm", "20000 lm"];
            let starts = |line: &str| names.iter().any(|name| line.starts_with(name));
            assert_eq!(lines.lines().filter(|line| starts(line)).count(), 5, "{lines}");
        }
    }
    let none =
        terminal(&picture, &TerminalOptions { width: 100, height: None, colors: Colors::None });
    assert!(none.contains("color is not shown") && none.contains("harbor_light"));
}

const VALUES: &str = "lightbook \"V\"
input cover = 0% in 0%..100%
event flare(place = (0m, 1m, 0m))
output sky = #8fb4d8
output heaven { top mix(#8fb4d8, #203050, by cover); stars 1 - cover; deep -2m * (1 - cover) }
light lamp point { position (1m, 3m, -2m); color 2700K; intensity 90cd * (1 - cover); reach 2m..9m }
spark ember[8] point at flare { lives 4s..4s; position flare.place; color #ff5030; intensity 400cd * (1 - life) }
rehearsal test { 1s flare; 2s flare; 9s end }
";

/// The ribbon that is drawn in the lane of a name.
fn ribbon<'a>(picture: &'a Picture, name: &str) -> Option<&'a [[u8; 3]]> {
    let lane = picture.readings.as_ref()?.lanes.iter().find(|lane| lane.name == name)?;
    picture.shapes.iter().find_map(|shape| match shape {
        Shape::Ribbon(frame, colors)
            if frame.y >= lane.frame.y && frame.y < lane.frame.y + lane.frame.h =>
        {
            Some(&colors[..])
        }
        _ => None,
    })
}

#[test]
fn each_value_of_an_output_has_its_own_lane_and_a_color_is_not_dimmed_by_another() {
    let book = checked(VALUES);
    let picture = sheet(&book, &[], &SheetOptions::default());
    let names: Vec<&str> =
        picture.readings.as_ref().unwrap().lanes.iter().map(|lane| lane.name.as_str()).collect();
    assert_eq!(names, ["sky", "heaven.top", "heaven.stars", "heaven.deep", "lamp", "ember[8]"]);
    for name in ["sky", "heaven.top"] {
        let colors = ribbon(&picture, name).unwrap();
        assert!(colors.iter().all(|color| *color == [0x8f, 0xb4, 0xd8]), "{name}: {:?}", colors[0]);
    }
    nothing_overlaps(&picture);
}

#[test]
fn channels_have_lanes_with_units_when_they_are_asked_for() {
    let book = checked(VALUES);
    let channel = |name: &str| {
        caltrin_core::program::CHANNELS.iter().find(|channel| channel.name == name).unwrap()
    };
    let options = SheetOptions {
        channels: vec![channel("reach"), channel("position")],
        rehearsal: Some(0),
        to: Some(Seconds(9.0)),
        ..SheetOptions::default()
    };
    let picture = sheet(&book, &[], &options);
    let lanes = &picture.readings.as_ref().unwrap().lanes;
    let found: Vec<(&str, &str, f32)> = lanes
        .iter()
        .filter(|lane| lane.name.starts_with("lamp."))
        .map(|lane| (lane.name.as_str(), lane.unit.as_str(), lane.levels[3][1]))
        .collect();
    assert_eq!(
        found,
        [
            ("lamp.reach_inner", "m", 2.0),
            ("lamp.reach_outer", "m", 9.0),
            ("lamp.position.x", "m", 1.0),
            ("lamp.position.y", "m", 3.0),
            ("lamp.position.z", "m", -2.0)
        ]
    );
    nothing_overlaps(&picture);
    // Two sparks live between 2 s and 5 s; the picture says so.
    let words: Vec<String> = picture
        .shapes
        .iter()
        .filter(|shape| matches!(shape, Shape::Text(..)))
        .map(|shape| format!("{shape:?}"))
        .collect();
    assert!(words.iter().any(|words| words.contains("the number alive")), "{words:?}");
}

#[test]
fn the_terminal_leaves_out_what_it_has_no_room_for_and_says_so() {
    let lights: String = (0..30)
        .map(|n| format!("light lamp_{n} point {{ position ({n}m, 2m, 0m); intensity 3cd }}\n"))
        .collect();
    let book = checked(&format!("lightbook \"Many\"\n{lights}"));
    let picture = sheet(&book, &[], &SheetOptions::default());
    let shown = |height: Option<usize>| {
        terminal(&picture, &TerminalOptions { width: 100, height, colors: Colors::None })
    };
    let whole = shown(None);
    assert!(whole.lines().count() > 62);
    for height in [24, 40, 60, 80] {
        let text = shown(Some(height));
        assert!(text.lines().count() < height, "{height}: {}", text.lines().count());
        assert!(text.starts_with("Many\n") && text.contains("lamp_0 "), "{height}");
        let lanes = text.lines().filter(|line| line.starts_with("lamp_")).count();
        assert_eq!(text.contains("are omitted"), lanes < 30, "{height}: {text}");
        if lanes < 30 {
            assert!(text.contains(&format!("{} of 30 lanes are omitted", 30 - lanes)), "{text}");
        }
    }
    assert_eq!(shown(Some(200)), whole);
}

/// All words of a picture.
fn words_of(picture: &Picture) -> String {
    let texts = picture.shapes.iter().filter(|shape| matches!(shape, Shape::Text(..)));
    texts.map(|shape| format!("{shape:?}\n")).collect()
}

#[test]
fn a_color_darker_than_full_leaves_the_written_number_in_view() {
    let text = "lightbook \"D\"\nlight lamp point { color #dfe8d0; intensity 4800lm }\n\
                light full point { color #ffb060; intensity 700lm }\n\
                light free point { color #dfe8d0 }\n";
    let words = words_of(&sheet(&checked(text), &[], &SheetOptions::default()));
    assert!(words.contains("color leaves 81% of 4800 lm"), "{words}");
    assert_eq!(words.matches("color leaves").count(), 1, "{words}");
}

#[test]
fn curves_below_the_lanes_compare_and_print_their_range() {
    let text = "lightbook \"R\"\ncurve wide { 0% 0%; 100% 100% }\ncurve deep { 0% 10%; 100% 14% }\n\
                light a point { intensity 9lm * wide(sine(every 4.1s)) }\n\
                light b point { intensity 9lm * deep(sine(every 4.1s)) + 1lm * rhythm(on 300ms, off 1.1s) }\n";
    let picture = sheet(&checked(text), &[], &SheetOptions::default());
    let words = words_of(&picture);
    assert!(words.contains("10% to 14% over 0% to 100%"), "{words}");
    assert!(!words.contains("rhythm"), "a rhythm has no name in the book: {words}");
    // How high the stops of each lie: those of `deep` near the foot, where `wide` begins.
    let stops: Vec<f32> = picture
        .shapes
        .iter()
        .filter_map(|shape| match shape {
            Shape::Disc((_, y), ..) => Some(*y),
            _ => None,
        })
        .collect();
    let [foot, top, low, high] = stops[..] else { panic!("{stops:?}") };
    let share = |y: f32| (foot - y) / (foot - top);
    assert!((share(low) - 0.1).abs() < 0.01 && (share(high) - 0.14).abs() < 0.01, "{stops:?}");
}
