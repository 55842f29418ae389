//! Books that use others, fittings and what is in step in them, and the stock.

use std::fs;

use caltrin::core::color::Rgb;
use caltrin::core::program::Field;
use caltrin::core::quantity::{Kelvin, Seconds};
use caltrin::core::{Run, ValidatedProgram};
use caltrin::lang::Severity;

fn checked(lines: &str) -> ValidatedProgram {
    let opened = caltrin::read(&format!("lightbook \"B\"\nseed 3\n{lines}"), "b.caltrin");
    let told: Vec<&String> = opened.diagnostics.iter().map(|d| &d.message).collect();
    opened.checked.unwrap_or_else(|| panic!("{told:#?}"))
}

/// The first number of each lamp of a light, at many moments.
fn levels(book: &ValidatedProgram, light: &str) -> Vec<Vec<f32>> {
    let id = book.program().light_named(light).unwrap_or_else(|| panic!("there is {light}"));
    let lamps = book.program().light(id).size.shown() as usize;
    let mut run = Run::new(book);
    let width = run.width(id);
    let mut out = vec![0.0; width * lamps];
    (0..400)
        .map(|n| {
            run.advance(Seconds(f64::from(n) * 0.137));
            run.read(id, 0, &mut out);
            out.chunks(width).map(|lamp| lamp[0]).collect()
        })
        .collect()
}

const FITTING: &str = "fitting pair(strength = 100lm) {
  signal flame = held(50%..100%, every 70ms..210ms)
  light one point { intensity strength * flame }
  light two[3] point { position (0m, 1m, 0m), (0m, 1m, 0m); intensity strength * flame }
  light own point { intensity strength * held(50%..100%, every 70ms..210ms) }
}
place row[4] of pair { position (0m, 0m, 0m), (10m, 0m, 0m) }
place single of pair { position (5m, 5m, 5m) }
";

#[test]
fn what_is_in_one_instance_is_in_step_and_never_with_the_next() {
    let book = checked(FITTING);
    let (one, two) = (levels(&book, "row.one"), levels(&book, "row.two"));
    let (own, single) = (levels(&book, "row.own"), levels(&book, "single.one"));
    let mut same = [0; 3];
    for n in 0..one.len() {
        assert_eq!((one[n].len(), two[n].len()), (4, 12));
        for instance in 0..4 {
            // The lamps of one instance are neighbors.
            for lamp in 0..3 {
                assert_eq!(two[n][3 * instance + lamp], one[n][instance]);
            }
            same[0] += usize::from(instance > 0 && one[n][instance] == one[n][0]);
            same[1] += usize::from(own[n][instance] == one[n][instance]);
            same[2] += usize::from(single[n][0] == one[n][instance]);
        }
    }
    assert!(same.iter().all(|n| *n < 10), "{same:?}");
}

#[test]
fn positions_in_a_fitting_count_from_the_instance() {
    let book = checked(FITTING);
    let at = |light: &str, lamp: u32| {
        let id = book.program().light_named(light).unwrap();
        let mut run = Run::new(&book);
        let mut out = vec![0.0; run.width(id)];
        run.read(id, lamp, &mut out);
        [out[1], out[2], out[3]]
    };
    assert_eq!(at("row.one", 2), [20.0, 0.0, 0.0]);
    assert_eq!(at("row.two", 7), [20.0, 2.0, 0.0]);
    assert_eq!(at("single.two", 2), [5.0, 8.0, 5.0]);
}

#[test]
fn the_odd_one_out_and_an_instance_with_its_own_strength() {
    let default = levels(&checked(FITTING), "row.one");
    let own = FITTING.replace("(5m, 5m, 5m) }", "(5m, 5m, 5m); strength 7lm }");
    let odd = own.replace("(10m, 0m, 0m) }", "(10m, 0m, 0m); except [2] { strength 0lm } }");
    for (default, odd) in default.iter().zip(&levels(&checked(&odd), "row.one")) {
        assert_eq!(odd[2], 0.0);
        assert_eq!([odd[0], odd[1], odd[3]], [default[0], default[1], default[3]]);
    }
    let book = checked(&own);
    let id = book.program().light_named("single.one").unwrap();
    assert_eq!(book.bounds(id, Field::Intensity).unwrap().part(0).hi, 7.0);
    let array = checked("light a[3] point { intensity 5lm; except [1] { intensity 2lm } }\n");
    assert_eq!(levels(&array, "a")[0], [5.0, 2.0, 5.0]);
}

#[test]
fn a_chase_comes_from_lamp_to_lamp() {
    let book = checked(
        "curve up { 0s 0; 1s 1; 7.3s 0 }\n\
         light a[5] point { intensity later(loop(up), each 137ms) }\n",
    );
    let all = levels(&book, "a");
    for n in 10..all.len() {
        for lamp in 1..5 {
            assert!((all[n][lamp] - all[n - lamp][0]).abs() < 1e-5, "{n} {lamp}");
        }
    }
}

#[test]
fn books_are_used_from_the_folder_and_never_from_outside() {
    let folder = tempfile::tempdir().unwrap();
    let put = |name: &str, text: &str| {
        let path = folder.path().join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    };
    put(
        "place/lamps/warm.caltrin",
        "lightbook \"Warm\"\nuse \"lamps/deep.caltrin\"\ncolor warm = 2400K\n\
         behavior buzz = held(80%..100%, every 60ms..200ms) * depth\n\
         light ghost point { intensity 1lm }\n",
    );
    // Two books that use each other are read once each.
    put(
        "place/lamps/deep.caltrin",
        "lightbook \"Deep\"\nuse \"lamps/warm.caltrin\"\nvalue depth = 50%\n",
    );
    put("secret.caltrin", "lightbook \"Secret\"\nvalue hidden = 1\n");
    let book = |used: &str| {
        let light = "light a point { color warm; intensity 5lm * buzz() }";
        put("place/book.caltrin", &format!("lightbook \"B\"\nuse \"{used}\"\n{light}\n"));
        caltrin::open(&folder.path().join("place/book.caltrin")).unwrap()
    };
    let good = book("lamps/warm.caltrin");
    let program = good.checked.expect("it is good").program().clone();
    assert_eq!(program.lights().len(), 1, "lights of used books are not placed");
    assert_eq!(good.sources.len(), 3);
    let refused = |used: &str, wanted: &str| {
        let opened = book(used);
        let first = opened.diagnostics.first().expect("something is told");
        assert!(first.message.contains(wanted), "{used}\n{}", first.message);
        assert_eq!(&opened.sources[0].text[first.range()], format!("\"{used}\""), "its line");
    };
    refused("../secret.caltrin", "is outside the book's folder");
    refused("/etc/hostname", "is outside the book's folder");
    refused("lamps\\warm.caltrin", "is outside the book's folder");
    refused("lamps/cold.caltrin", "there is no `lamps/cold.caltrin`");
    refused("lamps", "it is a folder");
    #[cfg(unix)]
    {
        let link = folder.path().join("place/lamps/link.caltrin");
        std::os::unix::fs::symlink("../../secret.caltrin", link).unwrap();
        refused("lamps/link.caltrin", "is a link to a file outside");
    }
}

#[test]
fn a_mistake_in_a_used_book_is_told_there() {
    let opened = caltrin::read_with(
        "lightbook \"B\"\nuse \"x\"\nlight a point { intensity 5lm * buzz() }\n",
        "b.caltrin",
        &|_| Ok("lightbook \"X\"\n\nbehavior buzz = held(80%..100%, evry 60ms)\n".to_owned()),
    );
    let told = &opened.diagnostics[0];
    assert_eq!((told.severity, told.source()), (Severity::Error, 1));
    assert_eq!(opened.sources[1].name, "x");
}

#[test]
fn bad_input_is_told_with_its_line() {
    let lamp = |value: &str| format!("light a point {{ intensity 5lm * {value} }}");
    let curve = |stops: &str, value: &str| {
        format!("curve c {{ {stops} }}\nlight a point {{ intensity {value} }}")
    };
    for (lines, wanted) in [
        ("fitting f { place a of f { } }\nplace b of f { }".to_owned(), "`f` depends on itself"),
        ("place a of missing { }".to_owned(), "there is no fitting `missing`"),
        (lamp("sine(every 0s)"), "a period must be at least 1ms"),
        (lamp("drift(0%..100%, rate -2Hz)"), "a rate must be within"),
        (lamp("drift(100%..0%, rate 2Hz)"), "the range is reversed"),
        (lamp("drift(0%..100%, rate 2s)"), "expected a rate, found a time"),
        (lamp("bursts(on 0s..1s, off 1s..2s)"), "at least 1ms"),
        (lamp("bursts(on 2s..1s, off 1s..2s)"), "the range is reversed"),
        (lamp("rhythm(on 1s)"), "2 to 64 times"),
        (lamp("held(0..1, every 1s..2s, over 140%)"), "must be within 0..1"),
        (
            "light a point { offset wander(radius 3, rate 2Hz) }".to_owned(),
            "expected a length, found a number",
        ),
        (
            "light a[3] point { intensity 5lm; except [x] { intensity 1lm } }".to_owned(),
            "expected how many",
        ),
        (curve("0s 1; 1s 2; 1s 3; 1s 4", "loop(c)"), "three are too many"),
        (curve("1s 1; 0s 2", "loop(c)"), "rising order"),
        (curve("columns a, b; 0s 1, 2; 1s 2, 3", "loop(c)"), "several columns"),
        (curve("columns a, b; 0s 1, 2; 1s 2", "loop(c.a)"), "expected 2 values"),
        (curve("0m 1; 2m 3", "c(50%)"), "expected a length, found a number"),
        ("use \"nowhere.caltrin\"".to_owned(), "this book has no folder"),
    ] {
        let text = format!("lightbook \"B\"\n\n{lines}\n");
        let opened = caltrin::read(&text, "b.caltrin");
        let told: Vec<&String> = opened.diagnostics.iter().map(|d| &d.message).collect();
        assert!(told.iter().any(|m| m.contains(wanted)), "{lines}\n{told:#?}");
        assert!(opened.checked.is_none());
        let mut mistakes = opened.diagnostics.iter().filter(|d| d.severity == Severity::Error);
        assert!(mistakes.all(|d| d.range().start > 13), "{lines} names a line");
    }
    let stops: String = (0..10_000).map(|n| format!("{n}s {n}\n")).collect();
    let text = format!("lightbook \"B\"\n{}\n", curve(&stops, "loop(c)"));
    let opened = caltrin::read(&text, "b.caltrin");
    assert!(opened.diagnostics[0].message.contains("at most 1000 stops"));
}

#[test]
fn kelvins_that_vary_match_the_published_definition() {
    let book = checked(
        "curve k { 0s 1000; 390s 40000 }\n\
         light a ambient { color kelvin(once(k)); intensity 1lx }\n",
    );
    let id = book.program().light_named("a").unwrap();
    let mut run = Run::new(&book);
    let mut out = [0.0; 4];
    let mut worst = 0.0f64;
    for n in 0..=39_000 {
        run.advance(Seconds(f64::from(n) * 0.01));
        run.read(id, 0, &mut out);
        let plain = Rgb::from_kelvin(Kelvin(1000.0 + f64::from(n))).0;
        for part in 0..3 {
            worst = worst.max((f64::from(out[1 + part]) - plain[part]).abs());
        }
    }
    assert!(worst < 1e-4, "{worst}");
}

#[test]
fn the_stock_is_listed_whole_and_every_part_of_it_shines() {
    let all = caltrin::stock();
    assert!(all.len() >= 10);
    for stocked in &all {
        assert!(!stocked.about.is_empty() && !stocked.knobs.is_empty(), "{}", stocked.name);
        let knobs = stocked.parameters.split(',').count();
        assert!((1..=3).contains(&knobs), "{}", stocked.name);
    }
    let shown = caltrin::read(&caltrin::showcase(), "stock.caltrin").checked.expect("it is good");
    for (id, light) in shown.program().lights() {
        let bounds = shown.bounds(id, Field::Intensity).unwrap().part(0);
        assert!(bounds.lo >= 0.0 && bounds.hi <= 1.0, "{} gives a level", light.name);
        let seen: Vec<f32> = levels(&shown, &light.name).iter().map(|lamps| lamps[0]).collect();
        let ends = seen.iter().fold((1.0f32, 0.0f32), |(a, b), v| (a.min(*v), b.max(*v)));
        assert!(ends.1 > ends.0, "{} moves", light.name);
    }
}

#[test]
fn the_number_of_a_channel_is_set_and_every_other_byte_stays() {
    use caltrin::core::program::{Field, Subject};
    use caltrin::edit::Editor;
    let opened = caltrin::read(caltrin::PIER, "pier.caltrin");
    let mast = opened.checked.as_ref().unwrap().program().light_named("mast").unwrap();
    let knobs = opened.knobs_of(Subject::Drive(mast, Field::Intensity)).unwrap();
    let strength = knobs.literals.iter().find(|knob| knob.unit == "lm").unwrap();
    let edit = Editor::of(caltrin::PIER).set_number(strength.range.clone(), 5200.0).unwrap();
    let text = edit.apply(caltrin::PIER).unwrap();
    let wanted = caltrin::PIER.replacen("intensity  6200lm * dark", "intensity  5200lm * dark", 1);
    assert_eq!(text, wanted, "only the first is another");
    assert!(caltrin::read(&text, "b").checked.is_some());
    assert_eq!(opened.knobs_of(Subject::Book), None);
}

/// The lido is there to show each part of the language; what is added to that is to be added to it.
#[test]
fn the_lido_has_each_part_of_the_language() {
    use caltrin::core::program::CHANNELS;
    use caltrin::lang::words;

    let book = concat!(env!("CARGO_MANIFEST_DIR"), "/books/lido.caltrin");
    let opened = caltrin::open(book.as_ref()).expect("it can be read");
    let told: Vec<&str> = opened.diagnostics.iter().map(|told| told.message.as_str()).collect();
    assert!(opened.checked.is_some() && told.is_empty(), "{told:?}");
    // Its own text and that of the lamps it uses, without comments.
    let own = opened.sources.iter().filter(|source| source.name.ends_with(".caltrin"));
    let text: String = own
        .flat_map(|source| source.text.lines())
        .map(|line| line.split("//").next().unwrap_or_default().to_owned() + "\n")
        .collect();
    let has = |word: &str| {
        text.match_indices(word).any(|(at, _)| {
            let touches = |c: char| c.is_alphanumeric() || c == '_' || c == '-';
            !text[..at].ends_with(touches) && !text[at + word.len()..].starts_with(touches)
        })
    };
    let calls = |word: &str| text.contains(&format!("{word}("));
    // A function that only gives the same as others do in the book may be left out.
    let spared = ["later", "linear", "ease"];
    let missing: Vec<&str> = words::DECLARATIONS
        .into_iter()
        .chain(words::LIGHTS)
        .chain(words::EASINGS)
        .chain(CHANNELS.iter().map(|channel| channel.name))
        .chain(["above", "below", "again", "for", "since", "share", "base", "keep", "return"])
        .chain(["mark", "stops", "columns", "except", "gives", "scatter", "together", "flip"])
        .chain(["loops", "live", "speed", "send", "sent", "expect", "others", "through"])
        .filter(|word| !has(word) && !spared.contains(word))
        .chain(words::functions().filter(|word| !calls(word) && !spared.contains(word)))
        .collect();
    assert!(missing.is_empty(), "the lido shows nothing of {missing:?}");
}
