//! Every check has a book that trips it, a near twin that does not, and a comment that silences it.

use caltrin::check::RULES;
use caltrin::lang::Severity;

/// The codes that are reported of the lines after the book's first.
fn codes(lines: &str) -> Vec<&'static str> {
    let opened = caltrin::read(&format!("lightbook \"C\"\n{lines}"), "c.caltrin");
    let mistakes: Vec<&String> = opened
        .diagnostics
        .iter()
        .filter(|d| d.severity == Severity::Error)
        .map(|d| &d.message)
        .collect();
    assert!(mistakes.is_empty(), "{lines}\n{mistakes:#?}");
    opened.diagnostics.iter().filter_map(|d| d.code).collect()
}

const SAG: &str = "curve sag { 0s 100%; 1.2s 40% smooth; 3.1s 100% }\n";
const DROP: &str = "curve drop { 0s 100%; 3.1s 40% }\n";

/// A line that trips a check, and what to change for the near twin.
type Case = (&'static str, String, (&'static str, &'static str));

fn cases() -> Vec<Case> {
    let lamp = |value: &str| format!("light a point {{ intensity 5lm * {value} }}\n");
    let three = |value: &str| format!("light a[3] point {{ intensity 5lm * {value} }}\n");
    let turned = |length: &str, low: &str| {
        let sag = SAG.replace("3.1s", length).replace("1.2s", low);
        format!("{sag}{}", lamp("loop(sag)"))
    };
    vec![
        ("C01", format!("{SAG}{}", three("loop(sag)")), ("loop(sag)", "loop(sag, scatter)")),
        (
            "C01",
            three("sine(every 3.1s)"),
            ("sine(every 3.1s)", "later(sine(every 3.1s), each 90ms)"),
        ),
        (
            "C02",
            "light a point { color #203040; intensity 5lm }\n".to_owned(),
            ("#203040", "#80a0ff"),
        ),
        ("C03", lamp("(sine(every 3.1s) - 20%)"), ("- 20%", "+ 20%")),
        ("C04", format!("{DROP}{}", lamp("loop(drop)")), ("loop", "alternate")),
        ("C04", format!("{SAG}{}", lamp("loop(sag, part 0s..1.2s)")), (", part 0s..1.2s", "")),
        ("C05", turned("3s", "1.2s"), ("; 3s", "; 3.1s")),
        ("C05", turned("0.9s", "0.3s"), ("0.9s", "1.9s")),
        (
            "C06",
            format!("curve up {{ 0s 0%; 1s 100%; 2s 60% }}\n{}", lamp("once(up)")),
            ("2s 60%", "2s 100%"),
        ),
        ("C07", lamp("(if sine(every 3.1s) above 120% then 50% else 1)"), ("120%", "20%")),
        ("C07", lamp("clamp(sine(30%..60%, every 3.1s), to 70%..90%)"), ("70%", "50%")),
        ("C08", lamp("held(20%..100%, every 4ms..20ms)"), ("20ms)", "60ms)")),
        ("C08", lamp("sine(every 50ms)"), ("50ms", "90ms")),
        (
            "C09",
            "light a point { offset wander(radius 4cm, rate 2Hz) to 3cm }\n".to_owned(),
            ("4cm", "3cm"),
        ),
        (
            "C09",
            "space { unit 1cm }\nlight a point { offset wander(radius 4cm, rate 2Hz) to 3cm }\n"
                .to_owned(),
            ("4cm", "3cm"),
        ),
        (
            "C09",
            "curve path { 0s (0m, 0m, 0m); 1.3s (3cm, 3cm, 0m) smooth; 2.1s (0m, 0m, 0m) }\n\
             light a point { offset loop(path) to 4cm }\n"
                .to_owned(),
            ("4cm", "4.3cm"),
        ),
        ("C10", format!("signal idle = 3\n{}", lamp("1")), ("5lm * 1", "5lm * idle")),
        ("C10", "light a point { }\n".to_owned(), ("{ }", "{ intensity 5lm }")),
        (
            "C11",
            format!("event hit\n{}rehearsal r {{ 1s hit }}\n", lamp("1")),
            ("5lm * 1", "5lm * pulse(at hit, lasts 1s)"),
        ),
        (
            "C12",
            format!(
                "input x = 0% in 0%..100%\nmodes m {{ a, b; a -> b when x above 50%; b -> a when x above 30% }}\n{}",
                lamp("pick(m, a 0, b 1)")
            ),
            ("x above 30%", "x below 30%"),
        ),
        (
            "C13",
            format!(
                "sound s = \"sounds/horn.wav\"\nevent hit when follow(s, attack 9s) above 99%\n{}",
                lamp("pulse(at hit, lasts 1s)")
            ),
            ("above 99%", "above 10%"),
        ),
        (
            "C15",
            format!(
                "clock {{ day 24min; start 12:00 }}\nhours open from 08:00 to 17:00 over 02:00 cubic-bezier(0.3, -0.6, 0.5, 1.8)\n{}",
                lamp("open")
            ),
            ("-0.6, 0.5, 1.8", "0.1, 0.5, 0.8"),
        ),
        (
            "C15",
            format!(
                "event e every 5s\nswitch s {{ starts off; on at e over 2s cubic-bezier(0.3, -0.6, 0.5, 1.8) }}\n{}",
                lamp("s")
            ),
            ("-0.6, 0.5, 1.8", "0.1, 0.5, 0.8"),
        ),
        (
            "C15",
            format!(
                "event go\n{}sequence rise at go {{\n  0s..2s a.intensity 5lm cubic-bezier(0.3, -0.6, 0.5, 1.8)\n  4s return over 1s\n}}\n",
                lamp("held(20%..100%, every 90ms..400ms)")
            ),
            ("-0.6, 0.5, 1.8", "0.1, 0.5, 0.8"),
        ),
        // A turn that another one hides, and one that is stretched.
        (
            "C05",
            format!(
                "curve c {{ 0s 20%; 5s 90% smooth; 12s 20% smooth }}\ncurve d {{ 0s 80%; 0.4s 100% smooth; 2.4s 80% smooth }}\n{}",
                lamp("loop(c) * loop(d)")
            ),
            ("2.4s 80%", "2.45s 80%"),
        ),
        (
            "C05",
            format!(
                "curve zig {{ 0s 20%; 0.2s 90% smooth; 0.53s 20% smooth }}\n{}",
                lamp("stretch(loop(zig), by 100%)")
            ),
            ("by 100%", "by 400%"),
        ),
        (
            "C04",
            format!(
                "clock {{ day 24min; start 12:00 }}\nhours ferry from 17:00 to 19:00 over 00:10\n{}",
                lamp("ferry.through")
            ),
            ("ferry.through", "ferry.through * ferry"),
        ),
        (
            "C02",
            "light a point { color drawn(#000000..#ffffff); intensity 5lm }\n".to_owned(),
            ("#000000", "#ffb060"),
        ),
        (
            "C16",
            format!(
                "event beat every 3s..3s\ncurve c {{ 0s 0%; 1.3s 90% smooth; 3.5s 0% smooth }}\n{}",
                lamp("play(c, at beat)")
            ),
            ("3s..3s", "3.6s..3.7s"),
        ),
        (
            "C17",
            format!("light {}_a point {{ intensity 7lm }}\n", "long".repeat(115)),
            ("longlonglonglonglonglonglonglong", "l"),
        ),
        (
            "C18",
            "event go\nlight a point { color #ffb000; intensity 5lm }\n\
             sequence s at go { 6s a.intensity 9lm smooth; 8s return over 1s }\n"
                .to_owned(),
            ("{ 6s a", "{ 4s..6s a"),
        ),
    ]
}

#[test]
fn every_check_trips_and_a_near_twin_does_not() {
    for (code, lines, (from, to)) in cases() {
        assert_eq!(codes(&lines), [code], "{lines}");
        let twin = lines.replace(from, to);
        assert_ne!(twin, lines, "the twin differs");
        assert!(codes(&twin).is_empty(), "{twin}\n{:?}", codes(&twin));
    }
    for rule in RULES {
        // A sound that is cut short and a picture that is missing are files: their cases are among those of files.
        let has_case = matches!(rule.code, "C14" | "C19")
            || cases().iter().any(|(code, ..)| *code == rule.code);
        assert!(has_case, "{} has a case", rule.code);
        assert!(rule.explanation.len() > 80, "{} is explained", rule.code);
        let guide = include_str!("../../../docs/language.md");
        assert!(guide.contains(&format!("| {} |", rule.code)), "{} is in the guide", rule.code);
    }
}

#[test]
fn a_comment_that_names_a_code_silences_it_and_no_other() {
    for (code, lines, _) in cases() {
        let told = |comment: &str| {
            let lines: String =
                lines.lines().map(|line| format!("{line}  // {comment}: meant\n")).collect();
            codes(&lines)
        };
        assert!(told(code).is_empty(), "{code}");
        assert_eq!(told("C99"), [code]);
        let above: String = lines.lines().map(|line| format!("// {code}\n{line}\n")).collect();
        assert!(codes(&above).is_empty(), "{above}");
    }
}

#[test]
fn what_the_library_ships_has_no_doubts() {
    for book in [caltrin::PIER, include_str!("../books/siding.caltrin"), caltrin::STOCK] {
        let opened = caltrin::read(book, "book.caltrin");
        let told: Vec<&String> = opened.diagnostics.iter().map(|d| &d.message).collect();
        assert!(told.is_empty(), "{told:#?}");
    }
}
