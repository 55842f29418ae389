//! Exported files: how they read, and how they are put in place.

use caltrin_export::{Exported, TARGETS, export, target_named};

const SMALL: &str = "lightbook \"Slipway\"
seed 7

curve sag {            // the winch pulls
  0s    100%
  2.1s  80%    smooth
  5.3s  100%   ease-out
}
signal mains = loop(sag)
behavior buzz(floor = 85%) = held(floor..100%, every 60ms..240ms)

light row[4] point {
  position   (0m, 3m, 0m), (4m, 0m, 0m)
  color      2400K
  intensity  400lm * buzz(60%) * mains
}
";

fn exported(text: &str, language: &str) -> Exported {
    let reading = caltrin_lang::read(text, "slipway.caltrin");
    let checked = reading.checked.expect("the book is good");
    export(&checked, &reading.notes, target_named(language).expect("the language is known"))
}

#[test]
fn c_reads_as_an_engineer_would_write_it() {
    insta::assert_snapshot!(exported(SMALL, "c").text);
}

#[test]
fn rust_reads_as_an_engineer_would_write_it() {
    insta::assert_snapshot!(exported(SMALL, "rust").text);
}

#[test]
fn csharp_reads_as_an_engineer_would_write_it() {
    insta::assert_snapshot!(exported(SMALL, "csharp").text);
}

#[test]
fn javascript_reads_as_an_engineer_would_write_it() {
    insta::assert_snapshot!(exported(SMALL, "js").text);
}

#[test]
fn only_what_is_needed_goes_out() {
    let steady = "lightbook \"Still\"\nlight a point { intensity 3lm }\n";
    for target in TARGETS {
        let file = exported(steady, target.name());
        let plain = file.text.to_lowercase().replace('_', "");
        for needless in ["held", "bezier", "wraptime", "lampkey"] {
            assert!(!plain.contains(needless), "{} has {needless}", target.name());
        }
        assert!(file.text.lines().take(3).any(|line| line.contains(caltrin_core::MADE)));
    }
}

#[test]
fn file_names_are_plain_whatever_the_book_is_called() {
    for (name, wanted) in [
        ("Saltgate pier", "saltgate_pier.h"),
        ("../../etc/passwd", "etc_passwd.h"),
        ("C:\\\\aux", "c_aux.h"),
        ("NUL", "nul_lights.h"),
        ("con", "con_lights.h"),
        ("Com 1", "com_1.h"),
        ("COM1", "com1_lights.h"),
        ("Auxiliary", "auxiliary.h"),
        ("while", "while_lights.h"),
        ("…", "unnamed.h"),
    ] {
        let text = format!("lightbook \"{name}\"\nlight a point {{ intensity 1lm }}\n");
        assert_eq!(exported(&text, "c").file_name, wanted);
    }
    let long = format!("lightbook \"{}\"\nlight a point {{ intensity 1lm }}\n", "x".repeat(4000));
    assert!(exported(&long, "c").file_name.len() < 80);
}
