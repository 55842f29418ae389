//! Language services: what is offered at each place, and that no half of a book stops them.

use std::fs;
use std::path::PathBuf;

use caltrin_core::color::Rgb;
use caltrin_lang::ide::{
    Project, actions, color_presentations, colors, complete, folds, highlights, links, outline,
    word_at,
};
use caltrin_lang::read;
use caltrin_lang::syntax::{SyntaxKind, lex};

fn book(name: &str) -> String {
    let path = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../caltrin/books").join(name);
    fs::read_to_string(path).expect("the book is there")
}

fn project(text: &str) -> Project {
    let stock = book("stock.caltrin");
    let book = ("book.caltrin".to_owned(), text.to_owned());
    Project::of([book, ("stock".to_owned(), stock)])
}

/// What is offered at the end of a text, at most five.
fn offered(text: &str) -> Vec<String> {
    let found = complete(&project(text), 0, text.len());
    found.into_iter().take(5).map(|one| one.label).collect()
}

#[test]
fn what_fits_is_offered() {
    let start = "lightbook \"A\"\nuse \"stock\"\ninput mist = 20% in 0%..100%\nevent docks(where = (0m, 0m, 0m)), leaves\n\
        choice region { coast, hills }\nmodes warning { calm, alarm; calm -> alarm at docks }\n\
        curve fade { columns level, tint; 0s 0, #ffffff; 1s 1, #000000 }\n\
        sun { latitude 54deg; date 11-20 }\nfitting pen(size = 3) { light head point { intensity 1lm } }\n\
        behavior buzz(floor = 20%) = held(floor..100%, every 60ms..200ms)\nplace row[3] of pen\n";
    let holds = |text: &str, wanted: &[&str]| {
        let text = format!("{start}{text}");
        let found = offered(&text);
        for word in wanted {
            assert!(found.iter().any(|one| one == word), "{word} at the end of {text}\n{found:?}");
        }
    };
    let first = |text: &str, wanted: &str| {
        let found = offered(&format!("{start}{text}"));
        assert_eq!(found.first().map(String::as_str), Some(wanted), "{text}: {found:?}");
    };
    first("ligh", "light");
    first("beh", "behavior");
    holds("light a ", &["point", "spot", "area"]);
    holds("light a po", &["point"]);
    holds("light a point {\n  ", &["intensity", "color"]);
    first("light a point { inten", "intensity");
    first("light a point { intensity 1lm * he", "held");
    first("light a point { intensity 1lm * bu", "buzz");
    holds("light a point { intensity held(80%..100%, ", &["every"]);
    first("light a point { intensity buzz(fl", "floor");
    holds("light a point { intensity pick(region, ", &["coast", "hills"]);
    first("light a point { intensity loop(fade.", "level");
    holds("light a point { intensity 1lm * sun.", &["height"]);
    holds("light a point { color to", &["tomato"]);
    holds("signal s = if warning is ", &["calm", "alarm"]);
    holds("switch s { on at ", &["docks", "leaves"]);
    holds("place other of ", &["pen"]);
    first("place other of pen { si", "size");
    holds("sequence scene at docks { 2s ", &["row"]);
    holds("sequence scene at docks { 2s row.", &["head"]);
    holds("group all { lights ", &["row"]);
    holds("curve c { 0s 1; 1s 2 ", &["smooth", "linear"]);
    holds("value x = 45", &["ms", "s", "%"]);
    holds("modes m { one, two; one -> ", &["two"]);
    holds("rehearsal r { 3s do", &["docks"]);
    holds("use \"", &["stock"]);
    assert!(offered(&format!("{start}// he")).is_empty());
    assert!(offered(&format!("{start}sound s = \"st")).is_empty());
    assert!(offered(&format!("{start}signal ")).is_empty());
}

#[test]
fn snippets_are_the_examples_with_places_to_fill() {
    let text = "lightbook \"A\"\nsignal s = hel";
    let found = complete(&project(text), 0, text.len());
    let held = found.iter().find(|one| one.label == "held").expect("it is offered");
    assert!(held.snippet);
    assert_eq!(held.insert, "held(${1:80%..100%}, every ${2:70ms..210ms})");
    assert_eq!(&text[held.replace.clone()], "hel");
}

/// The share of words of a book that are among the first five at their start, after so many of their
/// letters.
fn share(text: &str, letters: usize) -> f64 {
    let (tokens, _) = lex(text);
    let project = project(text);
    let words = tokens.iter().filter(|token| {
        let long = text[token.start..token.end].chars().count() > letters;
        matches!(token.kind, SyntaxKind::Name | SyntaxKind::HyphenWord) && long
    });
    let (mut found, mut all) = (0, 0);
    let mut missed = Vec::new();
    for token in words {
        let word = &text[token.start..token.end];
        let at = token.start + word.char_indices().nth(letters).map_or(0, |(n, _)| n);
        // A name where it is defined is known to nobody.
        let defines = project
            .names()
            .at(0, token.start)
            .is_some_and(|o| o.defines && o.range.start == token.start);
        if defines {
            continue;
        }
        let offered = complete(&project, 0, at);
        let good = offered.iter().take(5).any(|one| one.label == word);
        if !good {
            missed.push(format!("{}|{word}", text[..at].rsplit('\n').next().unwrap_or_default()));
        }
        found += usize::from(good);
        all += 1;
    }
    if std::env::var_os("CALTRIN_SHOW").is_some() {
        println!("{}", missed.join("\n"));
    }
    found as f64 / f64::from(all)
}

#[test]
fn the_right_word_is_among_the_first_five() {
    let pier = book("pier.caltrin");
    let (bare, lettered) = (share(&pier, 0), share(&pier, 1));
    println!(
        "of the words of the pier, {bare:.3} are offered at once and {lettered:.3} after a letter"
    );
    assert!(bare > 0.67, "{bare}");
    assert!(lettered > 0.9, "{lettered}");
}

#[test]
fn any_half_of_a_book_is_served() {
    let folders = ["../caltrin/books", "../caltrin-export/tests"];
    let entries = folders.iter().flat_map(|folder| {
        fs::read_dir(PathBuf::from(env!("CARGO_MANIFEST_DIR")).join(folder)).expect("a folder")
    });
    let books = entries.map(|entry| entry.expect("an entry").path());
    let books = books.filter(|path| path.extension().is_some_and(|ending| ending == "caltrin"));
    for path in books {
        let text = fs::read_to_string(path).expect("text");
        let lines: Vec<usize> = text.match_indices('\n').map(|(n, _)| n + 1).collect();
        let ends = (0..text.len()).step_by(97).filter(|n| text.is_char_boundary(*n));
        let prefixes = ends.map(|end| text[..end].to_owned());
        let without = lines
            .windows(2)
            .step_by(5)
            .map(|two| format!("{}{}", &text[..two[0]], &text[two[1]..]));
        for part in prefixes.chain(without) {
            let project = project(&part);
            let at = part.len();
            complete(&project, 0, at);
            complete(&project, 0, at / 2);
            project.signature(0, at);
            let all = highlights(&project, 0);
            assert!(all.windows(2).all(|two| two[0].range.end <= two[1].range.start));
            for one in outline(&project.texts()[0].parse) {
                assert!(
                    one.whole.start <= one.range.start && one.range.end <= one.whole.end,
                    "{one:?}"
                );
            }
            for range in folds(&project.texts()[0].parse, &part) {
                assert!(part[range.clone()].starts_with('{') && part[range].ends_with('}'));
            }
            for color in colors(&project, 0) {
                assert!(part.get(color.range).is_some());
            }
            for link in links(&project.texts()[0].parse) {
                assert_eq!(&part[link.range], link.file);
            }
        }
    }
}

#[test]
fn what_a_message_suggests_can_be_written() {
    let text = "lightbook \"A\"\nligth a point { intensity 5lm }\nlight b point { intensty 5lm; color #fa3 }\n\
        event a\nlight c point { at a send x from b; intensity 2Lm * hled(1..2, every 1s..2s) }\n";
    let reading = read(text, "a.caltrin");
    let mut made: Vec<String> = Vec::new();
    for told in &reading.diagnostics {
        for action in actions(told, text) {
            let mut new = text.to_owned();
            new.replace_range(action.range.clone(), &action.text);
            let line = new[..action.range.start].matches('\n').count();
            made.push(format!("{}: {}", action.title, new.lines().nth(line).unwrap_or_default()));
        }
    }
    insta::assert_snapshot!(made.join("\n"));
}

#[test]
fn tooltips_signatures_and_colors_say_what_is_written() {
    let text = "lightbook \"A\"\n// The height of the sea.\nsignal sea = 1\nbehavior buzz(floor = 20%, top = 1) = floor // hums\n\
        light a point { intensity 1lm * sea * buzz(30%, top 2); color tomato }\n";
    let project = project(text);
    let place = |word: &str| text.find(word).expect("it is there");
    let about = |at: usize| project.definition_at(0, at).map(|id| project.about(id));
    let sea = about(place("sea * buzz")).expect("a name");
    assert_eq!(
        (sea.code.as_str(), sea.comment.as_deref()),
        ("signal sea = 1", Some("The height of the sea."))
    );
    let buzz = about(place("buzz(30%")).expect("a name");
    assert_eq!(buzz.comment.as_deref(), Some("hums"));
    assert_eq!(about(place("intensity")), None);
    let signature = project.signature(0, place("top 2") + 4).expect("a call");
    assert_eq!(signature.label, "buzz(floor = 20%, top = 1)");
    assert_eq!(signature.parameters, ["floor = 20%", "top = 1"]);
    assert_eq!(signature.active, 1);
    assert_eq!(project.signature(0, place("light a")), None);
    let found = colors(&project, 0);
    assert_eq!(found.len(), 1);
    assert_eq!(&text[found[0].range.clone()], "tomato");
    assert_eq!(color_presentations(Rgb::from_srgb8(255, 99, 71))[0], "#ff6347");
    // Each reads as nearly the same color again.
    for color in
        [Rgb::from_srgb8(200, 130, 40), Rgb::from_srgb8(255, 170, 90), Rgb::from_srgb8(10, 40, 250)]
    {
        for text in color_presentations(color) {
            let again = project_color(&text);
            let most = color.brightest() / again.brightest();
            for (a, b) in color.0.iter().zip(again.0) {
                assert!((a - b * most).abs() < 0.05, "{text}: {color:?} {again:?}");
            }
        }
    }
    assert_eq!(&text[word_at(text, place("sea * buzz") + 1)], "sea");
}

fn project_color(text: &str) -> Rgb {
    let book = format!("lightbook \"C\"\ncolor it = {text}\n");
    let project = Project::of([("c".to_owned(), book)]);
    let found = colors(&project, 0);
    assert_eq!(found.len(), 1, "{text}");
    found[0].color
}
