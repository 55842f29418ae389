//! Edits: their algebra on any text, operations on the books of the tree, and renaming.

mod heard;
mod random;

use std::fs;
use std::ops::Range;
use std::path::PathBuf;

use caltrin_core::color::Rgb;
use caltrin_core::kind::Kind;
use caltrin_core::program::Constant;
use caltrin_lang::ast::{self, AstNode, Decl};
use caltrin_lang::edit::{Edit, EditError, Editor, Replacement, TextHash, rename};
use caltrin_lang::knobs::literal_at;
use caltrin_lang::names::{NameKind, Names};
use caltrin_lang::parser::parse;
use caltrin_lang::syntax::{SyntaxKind, is_reserved, lex};
use caltrin_lang::{format, time};
use proptest::prelude::*;

/// The books of the tree that stand alone, with their names.
fn books() -> Vec<(String, String)> {
    let folder = |path: &str| PathBuf::from(env!("CARGO_MANIFEST_DIR")).join(path);
    let mut found = Vec::new();
    for place in ["../caltrin/books", "../caltrin/stock", "../caltrin-export/tests"] {
        let Ok(entries) = fs::read_dir(folder(place)) else { continue };
        for entry in entries {
            let path = entry.expect("an entry").path();
            if path.extension().is_some_and(|ending| ending == "caltrin") {
                let name = path.file_name().expect("a name").to_string_lossy().into_owned();
                found.push((name, fs::read_to_string(path).expect("text")));
            }
        }
    }
    found.sort();
    assert!(found.len() > 8, "{} books", found.len());
    found
}

fn applied(edit: Result<Edit, EditError>, text: &str) -> String {
    edit.and_then(|edit| edit.apply(text)).unwrap_or_else(|error| panic!("{error}\n{text}"))
}

/// An edit of a text from random numbers: disjoint ranges between characters.
fn any_edit(text: &str, cuts: &[u16], words: &[String]) -> Edit {
    let places: Vec<usize> = text.char_indices().map(|(n, _)| n).chain([text.len()]).collect();
    let mut at: Vec<usize> = cuts.iter().map(|cut| places[*cut as usize % places.len()]).collect();
    at.sort_unstable();
    let mut replacements: Vec<Replacement> = Vec::new();
    for (two, word) in at.chunks_exact(2).zip(words) {
        let range = two[0]..two[1];
        if replacements.last().is_none_or(|last| last.range.end < range.start) {
            replacements.push(Replacement { range, text: word.clone() });
        }
    }
    Edit::new(text, replacements).expect("the ranges are apart")
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn edits_of_any_text_keep_their_algebra(
        text in "[a-e \n{}éü;.0-9]{0,80}",
        cuts in prop::collection::vec(any::<u16>(), 0..12),
        others in prop::collection::vec(any::<u16>(), 0..12),
        words in prop::collection::vec("[x-zé\n]{0,6}", 6..=6),
        more in prop::collection::vec("[u-wß]{0,6}", 6..=6),
    ) {
        let (a, b) = (any_edit(&text, &cuts, &words), any_edit(&text, &others, &more));
        let after = a.apply(&text).unwrap();
        // The inverse gives the very bytes back, and its inverse is the edit again.
        let back = a.inverse(&text).unwrap();
        prop_assert_eq!(back.apply(&after).unwrap(), text.clone());
        prop_assert_eq!(back.inverse(&after).unwrap().apply(&text).unwrap(), after.clone());
        // An edit is refused on any other text.
        if after != text {
            prop_assert_eq!(a.apply(&after), Err(EditError::Stale));
        }
        // Two edits commute or are refused, whichever comes first.
        match (a.merge(&b), b.merge(&a)) {
            (Ok(both), Ok(same)) => {
                prop_assert_eq!(&both, &same);
                let whole = both.apply(&text).unwrap();
                let b_after = b.rebase(&a, &text).unwrap();
                let a_after = a.rebase(&b, &text).unwrap();
                prop_assert_eq!(b_after.apply(&after).unwrap(), whole.clone());
                prop_assert_eq!(a_after.apply(&b.apply(&text).unwrap()).unwrap(), whole);
            }
            (Err(one), Err(other)) => {
                prop_assert_eq!(one, EditError::Conflict);
                prop_assert_eq!(other, EditError::Conflict);
            }
            (one, other) => prop_assert!(false, "{one:?} {other:?}"),
        }
        // One after the other is one edit.
        let next = any_edit(&after, &others, &more);
        let joined = a.then(&next, &text).unwrap();
        prop_assert_eq!(joined.apply(&text).unwrap(), next.apply(&after).unwrap());
        prop_assert!(a.then(&back, &text).unwrap().is_empty() || after == text);
        // The difference of two texts turns one into the other.
        let between = Edit::between(&text, &after);
        prop_assert_eq!(between.apply(&text).unwrap(), after);
        prop_assert!(Edit::between(&text, &text).is_empty());
    }

    #[test]
    fn a_hash_is_read_again(text in ".{0,40}") {
        let hash = TextHash::of(&text);
        prop_assert_eq!(hash.to_string().parse::<TextHash>().unwrap(), hash);
        prop_assert_ne!(TextHash::of(&format!("{text} ")), hash);
    }
}

#[test]
fn bad_ranges_and_hashes_are_refused() {
    let text = "aé b";
    let new = |ranges: &[Range<usize>]| {
        let all = ranges.iter().map(|range| Replacement { range: range.clone(), text: "x".into() });
        Edit::new(text, all.collect())
    };
    // Half a character, beyond the end, reversed, overlapping, twice at one place.
    for bad in [&[(2, 3)][..], &[(0, 9)], &[(3, 1)], &[(0, 3), (1, 4)], &[(3, 3), (3, 3)]] {
        let bad: Vec<Range<usize>> = bad.iter().map(|(start, end)| *start..*end).collect();
        assert_eq!(new(&bad), Err(EditError::BadRanges), "{bad:?}");
    }
    for bad in ["", "12", "zz", &"g".repeat(32), &format!("+{}", "0".repeat(31))] {
        assert_eq!(bad.parse::<TextHash>(), Err(EditError::BadHash), "{bad}");
    }
}

const BOOK: &str = "lightbook \"E\"
color lamp_color = #ffb060     // warm
curve dip {
  0s     100%    // full
  450ms  82%   smooth
  1.1s   118%  cubic-bezier(0.3, -0.4, 0.7, 1.4)
}
curve short { -50% 0.2; 20% 0.9 smooth; +10% 0.4 }
light mast[8] spot {           // the masts
  intensity  600lm * loop(dip)
  color      lamp_color
  position   (0m, 6m, 0m), (4m, 0m, -2.5m)
  except [3] { color 2700K }
}
light lone point { intensity 5lm; color #ffffff }
sequence scene at go {
  2s          mast.intensity  400lm  smooth
  +500ms      lone.intensity  base
  5.5s..6.5s  lone.color      #ff0000
}
event go
output sky = 20%
place row[3] of pen
fitting pen { light head point { intensity 1lm } }
rehearsal r {
  3s   go
  60s  end
}
";

/// The bytes of a piece of the book, the `n`-th of its kind.
fn at(piece: &str) -> Range<usize> {
    let start = BOOK.find(piece).unwrap_or_else(|| panic!("no `{piece}`"));
    start..start + piece.len()
}

/// The lines of the book that an edit changes, as they are after it.
fn changed(edit: Result<Edit, EditError>) -> String {
    let after = applied(edit, BOOK);
    let before: Vec<&str> = BOOK.lines().collect();
    let new = after.lines().filter(|line| !before.contains(line));
    let gone = BOOK.lines().filter(|line| !after.lines().any(|other| other == *line));
    let gone = gone.map(|line| format!("- {line}\n"));
    gone.chain(new.map(|line| format!("+ {line}\n"))).collect()
}

#[test]
fn operations_change_what_they_say_and_keep_columns_aligned() {
    let editor = Editor::of(BOOK);
    assert_eq!(format(BOOK).as_deref(), Ok(BOOK));
    let sky = at("sky = 20%");
    let sky = sky.end - 3..sky.end;
    let mut out = String::new();
    let mut say = |what: &str, edit: Result<Edit, EditError>| {
        let told = match edit {
            Ok(edit) => changed(Ok(edit)),
            Err(error) => format!("! {error}\n"),
        };
        out.push_str(&format!("{what}\n{told}"));
    };
    say("set 450ms to 0.0755 s", editor.set_number(at("450ms"), 0.0755));
    say("set 600lm to 1234.5678 lm", editor.set_number(at("600lm"), 1_234.567_8));
    say("set 2.5m to 0.5 m below", editor.set_number(at("2.5m"), -0.5));
    say("set 2.5m to 3 m above", editor.set_number(at("2.5m"), 3.0));
    say("set something that is not a number", editor.set_number(at("mast[8]"), 3.0));
    say("set to nothing", editor.set_number(at("600lm"), f64::NAN));
    say("set a color", editor.set_color(at("#ffb060"), Rgb([1.0, 0.5, 0.25])));
    say("set a color of a lamp", editor.set_color(at("2700K"), Rgb::from_srgb8(16, 32, 48)));
    say("set a temperature", editor.set_color_text(at("#ffb060"), "2400K"));
    say("set no color", editor.set_color_text(at("#ffb060"), "2400lm"));
    say("move a point", editor.set_point(at("(4m, 0m, -2.5m)"), [4.0, 1.25, -2.0]));
    say("move something that is not a point", editor.set_point(at("600lm"), [1.0; 3]));
    say("add a stop", editor.add_stop("dip", 0.8, &["50%"], Some("ease-in")));
    say("add the first stop", editor.add_stop("short", -0.75, &["0.1"], None));
    say("add a stop before a relative one", editor.add_stop("short", 0.25, &["0.1"], None));
    say("add the last stop", editor.add_stop("short", 0.9, &["0.1"], Some("steps(3)")));
    say("move a stop", editor.move_stop("dip", 1, 1.05));
    say("move a relative stop", editor.move_stop("short", 2, 0.55));
    say("move a negative stop", editor.move_stop("short", 0, -0.125));
    say("move a stop past another", editor.move_stop("dip", 1, 1.2));
    say("remove a stop", editor.remove_stop("dip", 1));
    say("remove an inline stop", editor.remove_stop("short", 2));
    say("remove the first inline stop", editor.remove_stop("short", 0));
    say("remove a stop before a relative one", editor.remove_stop("short", 1));
    let stop = |at: f64, value: &str, easing: Option<&str>| {
        (at, vec![value.to_owned()], easing.map(str::to_owned))
    };
    let drawn = [stop(0.0, "90%", None), stop(0.125, "100%", None), stop(2.5, "8%", Some("jump"))];
    say("set all stops", editor.set_stops("dip", &drawn));
    say("set all inline stops", editor.set_stops("short", &drawn));
    say("set no stops", editor.set_stops("dip", &[]));
    say("set bad stops", editor.set_stops("dip", &[stop(0.0, "= 3", None)]));
    say("copy a stop", editor.duplicate_stop("dip", 2, 1.9));
    let stop = at("450ms  82%   smooth");
    say("set an easing", editor.set_easing(stop.clone(), Some("ease-in-out")));
    say("remove an easing", editor.set_easing(stop.clone(), None));
    say("set no easing", editor.set_easing(stop, Some("3 4")));
    say("add an easing", editor.set_easing(at("lone.intensity  base"), Some("jump")));
    say("set a channel", editor.set_line("mast", "intensity", "900lm"));
    say("add a channel", editor.set_line("mast", "falloff", "2"));
    say("add an inline channel", editor.set_line("lone", "position", "(1m, 2m, 3m)"));
    say("add a line to a place without braces", editor.set_line("row", "position", "(1m, 0m, 0m)"));
    say("add a channel in a fitting", editor.set_line("pen.head", "color", "2000K"));
    say("remove a channel", editor.remove_line("mast", "color"));
    say("remove an inline channel", editor.remove_line("lone", "color"));
    say("remove the first inline channel", editor.remove_line("lone", "intensity"));
    say("remove no channel", editor.remove_line("lone", "reach"));
    say("except another", editor.set_exception("mast", 5, "intensity", "0lm"));
    say("except it more", editor.set_exception("mast", 3, "intensity", "0lm"));
    say("except it otherwise", editor.set_exception("mast", 3, "color", "3000K"));
    say("except none", editor.remove_exception("mast", 3));
    say(
        "declare",
        editor.add_declaration("signal gust = drift(0..1, rate 1Hz)", Some("lamp_color")),
    );
    say("declare at the end", editor.add_declaration("event other", None));
    say("declare nothing", editor.add_declaration("lamp x", None));
    say("remove a declaration", editor.remove_declaration("short"));
    say("use a book", editor.use_book("stock"));
    say("move a step", editor.move_in_time(at("2s          mast.intensity  400lm  smooth"), 1.25));
    say("move a relative step", editor.move_in_time(at("+500ms      lone.intensity  base"), 2.75));
    say("move a move", editor.move_in_time(at("5.5s..6.5s  lone.color      #ff0000"), 7.0));
    say("move what the game does", editor.move_in_time(at("3s   go"), 4.5));
    say(
        "move a step to before the start",
        editor.move_in_time(at("+500ms      lone.intensity  base"), 1.0),
    );
    say(
        "multiply a line",
        editor.multiply_line("mast", "intensity", "rhythm(on 120ms, off 380ms)"),
    );
    say("multiply an inline line", editor.multiply_line("lone", "intensity", "50%"));
    say("multiply a line of several values", editor.multiply_line("mast", "position", "2"));
    say("multiply by nothing", editor.multiply_line("mast", "intensity", "* 2"));
    say("multiply a line that is not there", editor.multiply_line("lone", "reach", "2"));
    say("set a seed", editor.set_seed("mast", 77));
    say("set an inline seed", editor.set_seed("lone", 4_294_967_295));
    say("set a length", editor.set_length("dip", Some(2.5)));
    say("set no length", editor.set_length("dip", None));
    say("set the length of another declaration", editor.set_length("mast", Some(1.0)));
    say("copy a light", editor.duplicate_declaration("mast", "mast_2", [1.0, 0.0, -0.5]));
    say("copy an inline light", editor.duplicate_declaration("lone", "other", [1.0, 0.0, 0.0]));
    say("copy under no name", editor.duplicate_declaration("lone", "a b", [0.0; 3]));
    say("copy what is not there", editor.duplicate_declaration("none", "some", [0.0; 3]));
    say("wrap a value", editor.wrap(at("loop(dip)"), "clamp", ", to 0..1"));
    say("call a stock behavior", editor.call_stock(at("loop(dip)"), "open_flame()"));
    say("replace a value", editor.set_expression(sky.clone(), "30% * 2"));
    say("replace a value by none", editor.set_expression(sky, "30% *"));
    insta::assert_snapshot!(out);
}

#[test]
fn a_number_is_set_with_or_without_its_sign() {
    let editor = Editor::of(BOOK);
    let (with, without) = (at("-2.5m"), at("2.5m"));
    assert_eq!(with.start + 1, without.start);
    for to in [-4.0, 1.5, 0.0] {
        let [a, b] = [&with, &without].map(|at| applied(editor.set_number(at.clone(), to), BOOK));
        assert_eq!(a, b);
    }
    assert!(applied(editor.set_number(with, -4.0), BOOK).contains("(4m, 0m, -4m)"));
}

#[test]
fn a_seed_that_is_written_is_replaced() {
    let text = "lightbook \"E\"\nlight a point { seed 5; intensity 1lm }\n";
    let after = applied(Editor::of(text).set_seed("a", 6), text);
    assert_eq!(after, text.replace("seed 5", "seed 6"));
}

#[test]
fn a_sum_is_multiplied_as_a_whole_and_a_length_goes_again() {
    let text = "lightbook \"E\"\ncurve c { 0s 1; 2s 0; length 3s smooth }\nlight a point {\n  intensity 1lm + 2lm * 3\n}\n";
    let editor = Editor::of(text);
    let product = applied(editor.multiply_line("a", "intensity", "50%"), text);
    assert!(product.contains("(1lm + 2lm * 3) * 50%"), "{product}");
    let longer = applied(editor.set_length("c", Some(4.25)), text);
    assert!(longer.contains("length 4.25s smooth }"), "{longer}");
    let shorter = applied(editor.set_length("c", None), text);
    assert!(shorter.contains("curve c { 0s 1; 2s 0 }"), "{shorter}");
    assert_eq!(Editor::of(&longer).curves()[0].length, Some(4.25));
}

#[test]
fn walls_and_arrays_are_copied_with_their_points_moved() {
    let text = "lightbook \"E\"\nwall w { along (0m, 0m, 1m)..(2m, 0m, 1m); height 3m }\npost p[4] { position (1m, 0m, 0m), (2m, 0m, 0m); radius 20cm; height 1m }\npost q[3] { position (1m, 0m, 0m), (2m, 0m, 0m), (4m, 0m, 0m); radius 20cm; height 1m }\n";
    let editor = Editor::of(text);
    let copied =
        |name: &str| applied(editor.duplicate_declaration(name, "copy", [0.5, 0.0, -1.0]), text);
    assert!(
        copied("w").contains("wall copy { along (0.5m, 0m, 0m)..(2.5m, 0m, 0m); height 3m }"),
        "{}",
        copied("w")
    );
    assert!(
        copied("p").contains("post copy[4] { position (1.5m, 0m, -1m), (2m, 0m, 0m);"),
        "{}",
        copied("p")
    );
    assert!(
        copied("q").contains("(1.5m, 0m, -1m), (2.5m, 0m, -1m), (4.5m, 0m, -1m);"),
        "{}",
        copied("q")
    );
    for name in ["w", "p", "q"] {
        assert!(copied(name).starts_with(&text[..text.find(&format!(" {name}")).expect("it")]));
        assert!(heard::read(&copied(name), "E").diagnostics.is_empty());
    }
}

/// Each step and line of every book moves to where it is said to lie, and stays there when it is moved to where it is.
#[test]
fn scripts_are_read_with_their_moments() {
    let mut count = 0;
    for (name, text) in books() {
        let editor = Editor::of(&text);
        let (sequences, rehearsals) = (editor.sequences(), editor.rehearsals());
        for (script, nth) in sequences.iter().chain(&rehearsals).zip(0..) {
            for (n, line) in script.lines.iter().enumerate() {
                let same = editor.move_in_time(line.range.clone(), line.from).expect("a line");
                let after = same.apply(&text).expect("its text");
                let read = |text: &str| {
                    let editor = Editor::of(text);
                    let mut all = editor.sequences();
                    all.extend(editor.rehearsals());
                    all[nth].lines[n].clone()
                };
                assert!((read(&after).from - line.from).abs() < 1e-9, "{name} {line:?}");
                let later =
                    editor.move_in_time(line.range.clone(), line.from + 0.25).expect("a line");
                let after = later.apply(&text).expect("its text");
                let moved = read(&after);
                assert!((moved.from - line.from - 0.25).abs() < 1e-9, "{name} {line:?} {moved:?}");
                assert!((moved.to - line.to - 0.25).abs() < 1e-9, "{name} {line:?} {moved:?}");
                assert_eq!((&moved.text, moved.relative), (&line.text, line.relative));
                count += 1;
            }
        }
    }
    assert!(count > 60, "{count}");
    let scene = &Editor::of(BOOK).sequences()[0];
    let times: Vec<(f64, f64, bool)> =
        scene.lines.iter().map(|line| (line.from, line.to, line.relative)).collect();
    assert_eq!(times, [(2.0, 2.0, false), (2.5, 2.5, true), (5.5, 6.5, false)]);
    assert_eq!(&BOOK[scene.lines[2].end.clone().expect("an end")], "6.5s");
    assert_eq!(scene.lines[2].text, "lone.color #ff0000");
}

/// Every literal of every book is found at each of its bytes, as the number that it is.
#[test]
fn the_literal_at_a_byte_is_found() {
    let mut count = 0;
    for (name, text) in books() {
        let parsed = parse(&text);
        for (range, kind) in literals(&text) {
            let found =
                literal_at(&parsed, range.start).unwrap_or_else(|| panic!("{name} {range:?}"));
            assert_eq!(found.range.end, range.end, "{name}");
            assert_eq!(
                text[found.range.clone()].trim_start_matches(['-', ' ']),
                &text[range.clone()]
            );
            if kind == SyntaxKind::Number
                && let Constant::Scalar(value) = found.value
                && let Ok(edit) = Editor::of(&text).set_number(found.range.clone(), value)
            {
                let after = edit.apply(&text).expect("its text");
                let same = literal_at(&parse(&after), found.range.start).map(|knob| knob.value);
                assert_eq!(same, Some(found.value), "{name} {found:?}");
            }
            count += 1;
        }
        for (at, _) in text.match_indices("//") {
            assert_eq!(literal_at(&parsed, at + 1), None, "{name}");
        }
        assert_eq!(literal_at(&parsed, text.len() + 5), None);
    }
    assert!(count > 400, "{count}");
}

#[test]
fn other_bytes_stay_where_a_book_is_not_formatted() {
    let text = BOOK.replace("450ms  82%   smooth", "450ms 82%         smooth");
    let editor = Editor::of(&text);
    let start = text.find("450ms").expect("it is there");
    let edit = editor.set_number(start..start + 5, 0.5).expect("a number");
    assert_eq!(
        edit.replacements(),
        [Replacement { range: start..start + 5, text: "500ms".into() }]
    );
    // With errors in the book, what can be read can be edited.
    let broken = BOOK.replace("output sky = 20%", "output sky = ");
    let editor = Editor::of(&broken);
    let edit = editor.set_line("lone", "falloff", "2").expect("the light can be read");
    assert_eq!(edit.replacements().len(), 1);
}

/// Every literal of a text: its bytes and whether it is a number.
fn literals(text: &str) -> Vec<(Range<usize>, SyntaxKind)> {
    let (tokens, _) = lex(text);
    let kinds = [SyntaxKind::Number, SyntaxKind::Hour, SyntaxKind::Hash];
    let found = tokens.iter().filter(|token| kinds.contains(&token.kind));
    found.map(|token| (token.start..token.end, token.kind)).collect()
}

#[test]
fn every_literal_of_every_book_is_set_and_set_back() {
    let mut count = 0;
    for (name, text) in books() {
        let editor = Editor::of(&text);
        // Every seventh: each reads the book twice.
        for (range, kind) in literals(&text).into_iter().step_by(7) {
            let edit = match kind {
                SyntaxKind::Number => editor.set_number(range.clone(), 0.125),
                SyntaxKind::Hour => editor.set_hour(range.clone(), 13.75),
                _ => editor.set_color(range.clone(), Rgb::from_srgb8(1, 2, 3)),
            };
            // Sizes and seeds take no fractions; all else takes the new value.
            let Ok(edit) = edit else { continue };
            let after = edit.apply(&text).expect("it is this text");
            assert_ne!(after, text, "{name} {range:?}");
            let back = edit.inverse(&text).and_then(|back| back.apply(&after));
            assert_eq!(back.as_deref(), Ok(&*text), "{name} {range:?}");
            // Only the lines of the declaration that was formatted change.
            if format(&text).as_deref() == Ok(&*text) {
                assert_eq!(format(&after).as_deref(), Ok(&*after), "{name} {range:?}");
            }
            count += 1;
        }
    }
    assert!(count > 400, "{count}");
}

#[test]
fn stops_of_every_curve_are_added_moved_copied_and_removed() {
    let mut count = 0;
    for (name, text) in books() {
        let editor = Editor::of(&text);
        let tree = parse(&text).tree();
        let book = ast::Book::cast(tree).expect("a book");
        for decl in book.declarations() {
            let Decl::Curve(curve) = &decl else { continue };
            let own = decl.name().expect("a name").text().to_owned();
            let stops: Vec<ast::Stop> = curve.stops().collect();
            for (n, stop) in stops.iter().enumerate() {
                let position = stop.position().expect("a position");
                let Some(seconds) = time(position.text()) else { continue };
                let edits = [
                    editor.duplicate_stop(&own, n, seconds.0 + 1e-3),
                    editor.move_stop(&own, n, seconds.0 + 1e-3),
                    editor.remove_stop(&own, n),
                    editor.set_easing(stop.range(), Some("ease-in")),
                    editor.set_easing(stop.range(), None),
                ];
                for edit in edits.into_iter().flatten() {
                    let after = edit.apply(&text).expect("it is this text");
                    let back = edit.inverse(&text).and_then(|back| back.apply(&after));
                    assert_eq!(back.as_deref(), Ok(&*text), "{name} {own}");
                    assert!(parse(&after).diagnostics.is_empty(), "{name} {own}\n{after}");
                    count += 1;
                }
            }
        }
    }
    assert!(count > 150, "{count}");
}

#[test]
fn every_name_of_every_book_is_renamed_and_renamed_back() {
    let mut count = 0;
    for (name, text) in books() {
        let names = Names::of([&parse(&text)]);
        for (id, definition) in names.definitions() {
            let renamed = rename(&[&text], 0, definition.range.start, "renamed_here");
            let edits = renamed.unwrap_or_else(|error| panic!("{name} {definition:?}: {error}"));
            let after = edits[&0].apply(&text).expect("it is this text");
            let errors = |text: &str| -> Vec<String> {
                let reading = heard::read(text, &name);
                reading.diagnostics.iter().map(|told| told.message.clone()).collect()
            };
            // Reading takes the longest by far.
            if count % 5 == 0 {
                let (old, new) = (errors(&text), errors(&after));
                assert_eq!(new.len(), old.len(), "{name} {definition:?} {new:?}");
            }
            // A sun without a name got one.
            let declared = matches!(definition.kind, NameKind::Declared(_));
            if declared && definition.range.start == definition.whole.start {
                let named = format!("{} renamed_here", definition.name);
                assert!(after.contains(&named), "{name} {after}");
                count += 1;
                continue;
            }
            // A value of an output may have a word that no other name can have.
            if is_reserved(&definition.name) {
                count += 1;
                continue;
            }
            let moved = Names::of([&parse(&after)]).definition(id).range.start;
            let back = rename(&[&after], 0, moved, &definition.name);
            let back = back.unwrap_or_else(|error| panic!("{name} {definition:?}: {error}"));
            assert_eq!(back[&0].apply(&after).as_deref(), Ok(&*text), "{name} {definition:?}");
            count += 1;
        }
    }
    assert!(count > 300, "{count}");
}

#[test]
fn renaming_reaches_other_books_and_keeps_what_names_stand_for() {
    let book = "lightbook \"B\"\nuse \"lamps\"\nsignal s = gust * 2\nlight a point { signal gust_ = 1; intensity 1lm * s * gust_ * buzz(floor 3) }\n";
    let lamps = "lightbook \"L\"\nsignal gust = drift(0..1, rate 1Hz)\nbehavior buzz(floor = 1) = floor * gust\n";
    let walk = "rehearses \"b.caltrin\"\nrehearsal r { 1s expect a.intensity above 1lm; 2s end }\n";
    let texts = [book, lamps, walk];
    let place = |source: usize, word: &str| texts[source].find(word).expect("it is there");
    let renamed = |source: usize, word: &str, new: &str| -> Result<Vec<String>, EditError> {
        let edits = rename(&texts, source, place(source, word), new)?;
        let each = (0..texts.len()).map(|n| match edits.get(&n) {
            Some(edit) => edit.apply(texts[n]).expect("its text"),
            None => texts[n].to_owned(),
        });
        Ok(each.collect())
    };
    let all = renamed(0, "gust * 2", "wind").expect("it can be renamed");
    assert_eq!(all[0], book.replace("= gust *", "= wind *"));
    assert_eq!(all[1], lamps.replace("gust", "wind"));
    let all = renamed(0, "floor 3", "least").expect("it can be renamed");
    assert_eq!(all[0], book.replace("floor", "least"));
    assert_eq!(all[1], lamps.replace("floor", "least"));
    let all = renamed(2, "a.intensity", "b").expect("it can be renamed");
    assert_eq!(all[0], book.replace("light a ", "light b "));
    assert_eq!(all[2], walk.replace("a.intensity", "b.intensity"));
    for (word, new, why) in [
        ("gust_ =", "s", "`s` already stands for something here"),
        ("s = ", "gust_", "`gust_` already stands for something here"),
        ("buzz", "held", "`held` is a function of the language; choose another name"),
        ("s = ", "above", "`above` cannot be a name"),
        ("s = ", "a b", "`a b` cannot be a name"),
        ("s = ", "", "`` cannot be a name"),
    ] {
        let error = renamed(0, word, new).expect_err("it cannot be renamed");
        assert_eq!(error, EditError::Invalid(why.to_owned()), "{word} {new}");
    }
    assert_eq!(renamed(0, "point", "x"), Err(EditError::Missing("name")));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// Random operations on random books: applied and undone, and one after the other undone together.
    #[test]
    fn any_edits_of_any_book_are_undone(seed in any::<u64>(), picks in prop::collection::vec(any::<u32>(), 1..6)) {
        let mut text = random::Author::new(seed).book();
        let first = text.clone();
        let mut whole = Edit::between(&text, &text);
        for pick in picks {
            let editor = Editor::of(&text);
            let all = literals(&text);
            let (range, kind) = all[pick as usize % all.len()].clone();
            let value = f64::from(pick % 1000) / 8.0;
            let made = match (kind, pick % 5) {
                (SyntaxKind::Number, 0) => editor.set_number(range, value),
                (SyntaxKind::Number, 1) => editor.wrap(range, "clamp", ", to 0..1"),
                (SyntaxKind::Hour, _) => editor.set_hour(range, value % 24.0),
                (SyntaxKind::Hash, _) => editor.set_color(range, Rgb([value / 200.0, 0.5, 0.25])),
                (_, 2) => editor.move_stop("plain", pick as usize % 4, value / 40.0),
                (_, 3) => editor.set_line("many", "falloff", "2"),
                _ => editor.add_stop("plain", value, &["0.5"], None),
            };
            let Ok(edit) = made else { continue };
            let after = edit.apply(&text).unwrap();
            prop_assert_eq!(edit.inverse(&text).unwrap().apply(&after).unwrap(), text.clone());
            whole = whole.then(&edit, &first).unwrap();
            text = after;
        }
        prop_assert_eq!(whole.apply(&first).unwrap(), text.clone());
        prop_assert_eq!(whole.inverse(&first).unwrap().apply(&text).unwrap(), first);
    }
}

/// Curves as they are written: positions in base units, relative ones added up, values of every kind.
#[test]
fn curves_are_read_as_they_are_written() {
    let text = "lightbook \"B\"\ncurve sag {\n  columns level, tint\n  0s 100%, #fff\n  +250ms 80%, 2400K smooth\n  1s -5%, sand\n}\n\
                curve haze { 06:30 10%; 18:00 40% }\n";
    let curves = Editor::of(text).curves();
    let names: Vec<&str> = curves.iter().map(|curve| curve.name.as_str()).collect();
    assert_eq!(names, ["sag", "haze"]);
    let sag = &curves[0];
    assert_eq!(sag.columns, ["level", "tint"]);
    let at: Vec<f64> = sag.stops.iter().map(|stop| stop.position).collect();
    assert_eq!(at, [0.0, 0.25, 1.0]);
    assert_eq!(sag.stops[1].easing.as_deref(), Some("smooth"));
    let read = |n: usize, k: usize| {
        (&text[sag.stops[n].values[k].range.clone()], &sag.stops[n].values[k].value)
    };
    assert!(matches!(read(2, 0), ("-5%", Some((Constant::Scalar(v), _))) if *v == -0.05));
    assert!(matches!(read(1, 1), ("2400K", Some((Constant::Vector(_), Kind::Color)))));
    // A name of the book is no literal.
    assert_eq!(read(2, 1), ("sand", &None));
    let hours: Vec<f64> = curves[1].stops.iter().map(|stop| stop.position).collect();
    assert_eq!((hours, curves[1].stops[0].kind), (vec![6.5, 18.0], Kind::Hour));
}

/// A group of stops goes past where its members stood before, in both directions.
#[test]
fn several_stops_move_at_once() {
    let text =
        "lightbook \"B\"\ncurve sag {\n  0s    100%\n  1s    80%\n  1.2s  60%\n  4s    100%\n}\n";
    let editor = Editor::of(text);
    let later = editor.move_stops("sag", &[(1, 1.5), (2, 1.7)]).expect("moved");
    let later = later.apply(text).expect("applied");
    assert_eq!(later, text.replace("1.2s  60%", "1.7s  60%").replace("  1s    80%", "  1.5s  80%"));
    let back = Editor::of(&later).move_stops("sag", &[(1, 1.0), (2, 1.2)]).expect("moved");
    assert_eq!(back.apply(&later).expect("applied"), text);
    let passed = editor.move_stops("sag", &[(1, 3.0), (2, 4.2)]);
    assert!(matches!(passed, Err(EditError::Invalid(_))));
}

/// A stop goes elsewhere in both directions at once: lines are laid out again although both change beside each other.
#[test]
fn operations_together_are_one_edit() {
    let text =
        "lightbook \"B\"\ncurve sag {\n  0s     100%\n  1.85s  82%  smooth\n  4s     100%\n}\n";
    let editor = Editor::of(text);
    let at = text.find("82%").expect("a value");
    type Operation<'a> = Box<dyn FnOnce(&Editor) -> Result<Edit, EditError> + 'a>;
    let value = |to: f64| -> Operation<'_> { Box::new(move |e| e.set_number(at..at + 3, to)) };
    let place = |to: f64| -> Operation<'_> { Box::new(move |e| e.move_stops("sag", &[(1, to)])) };
    let edit = editor.together([place(2.0), value(0.67)]).expect("an edit");
    let after = "lightbook \"B\"\ncurve sag {\n  0s  100%\n  2s  67%  smooth\n  4s  100%\n}\n";
    assert_eq!(edit.apply(text).as_deref(), Ok(after));
    let back = edit.inverse(text).expect("an inverse");
    assert_eq!(back.apply(after).as_deref(), Ok(text));
    let same = editor.together([value(0.5), value(0.6)]);
    assert_eq!(same, Err(EditError::Conflict));
    // What would be no book any more is refused as a whole.
    let wrong: Operation<'_> =
        Box::new(|e| e.set_easing(text.find("1.85s").unwrap()..at + 11, Some("soft(")));
    assert!(matches!(editor.together([value(0.5), wrong]), Err(EditError::Invalid(_))));
}
