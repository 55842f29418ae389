//! What a designer is reported: several errors in one go, each with its place and the nearest right
//! thing.

use std::fmt::Write;

use caltrin_lang::{Lines, Severity, read};

/// Messages as a reader meets them, without any look.
fn told(text: &str) -> String {
    let reading = read(text, "book.caltrin");
    let lines = Lines::of(text);
    let mut out = String::new();
    for d in &reading.diagnostics {
        let (line, column) = lines.position(text, d.range().start);
        let words: String = text[d.range()].chars().take(40).collect();
        let _ = writeln!(out, "{line}:{column} `{}` {}", words.escape_debug(), d.message);
        for label in &d.labels[1..] {
            let (line, column) = lines.position(text, label.range.start);
            let _ = writeln!(out, "    {line}:{column} {}", label.text);
        }
        if let Some(help) = &d.help {
            let _ = writeln!(out, "    help: {help}");
        }
    }
    out
}

/// The one message of a book of one light or a few lines, or all of them.
fn about(lines: &str) -> String {
    told(&format!("lightbook \"B\"\n{lines}\n"))
}

#[test]
fn many_mistakes_are_told_in_one_go() {
    insta::assert_snapshot!(told(include_str!("mistakes.caltrin")));
}

#[test]
fn faults_of_numbers_are_told_where_they_arise() {
    insta::assert_snapshot!(about(
        "curve c { 0s 0; 1s 1 }
light a point { intensity 1lm / loop(c) }
behavior b(p = 100ms) = held(0..1, every p)
light d point { intensity 1lm * b(0s) }
signal big = loop(c) * 1e300
light e point { intensity 1lm * big * big }
light f spot { cone held(10deg..200deg, every 1s) }
light g point { reach 5m..held(1m..9m, every 1s) }"
    ));
}

#[test]
fn functions_of_numbers_say_what_they_take() {
    insta::assert_snapshot!(about(
        "signal wave = sine(-20%..60%, every 2s)
light a point { intensity 1lm * root(wave) }
light b point { intensity root(4lm) * 1lm }
light c point { intensity 1lm * root() }
light d point { intensity 1lm * root(2, 3) }
light e point { intensity 1lm * rot(0.5) }
behavior root(x = 1) = x"
    ));
}

#[test]
fn names_are_told_apart_and_found_again() {
    insta::assert_snapshot!(about(
        "signal a = b
signal b = c + 1
signal c = a
light mast point { intensity 1lm }
light mast spot { intensity 2lm }
color held = #ffffff
signal x = masst
signal y = mast
curve up { 0s 0; 1s 1 }
signal z = up
signal w = up(1s)
behavior flat = 1
signal v = flat
signal u = flat(2)
light 🚢 point { intensity 1lm }
light at point { intensity 1lm }"
    ));
}

#[test]
fn inputs_say_what_they_need() {
    insta::assert_snapshot!(about(
        "input a = 20%
input b = 20% in 0%..10%
input c = 20% in 1..0
input d = #ffffff in 0..1
input e = held(0..1, every 1s) in 0..1
input f = 20% in 0lm..1lm
input g = 20% in 50%
input h
behavior i { input k = 1 in 0..1; gives k }
light j[] point { input k = 1 in 0..1; intensity 1lm * k }
fitting l { input m = 1s in 0s..2s; light n point { intensity 1lm * sine(every m) } }
place o[2] of l"
    ));
}

#[test]
fn walls_and_posts_say_what_they_need() {
    insta::assert_snapshot!(about(
        "wall a { along (0m, 0m, 0m)..(1m, 0m, 0m) }
wall b { along (0m, 0m, 0m); height 2m }
wall c { along (0m, 0m, 0m)..(1m, 0m, 0m); hieght 2m }
wall d { along (0m, 0m, 0m)..(1m, 0m, 0m); height 2lm }
wall e { along (0m, 0m, 0m)..(1m, 0m, 0m); height held(1m..2m, every 1s) }
wall f[2] { along (0m, 0m, 0m)..(1m, 0m, 0m); height 2m }
post g[] { position (0m, 0m, 0m); radius 1m; height 2m }
post h { position (0m, 0m, 0m)..(1m, 0m, 0m); radius 1m; height 2m }
post i { position (0m, 0m, 0m); radius 0m; height 2m }
signal j = i"
    ));
}

#[test]
fn eyes_and_backdrops_say_what_they_need() {
    insta::assert_snapshot!(about(
        "output range = 40m
output tint[2] = #ffffff
output air { fog 30%; hue #8090a0; wet on }
eye a { at (0m, 1m, 0m); toward (0m, 1m, 0m); field 60deg }
eye b { at (0m, 1m, 0m); field 60deg }
eye c { at (0m, 1m, 0m); toward (0m, 1m, 4m); field 170deg }
eye d { at (0m, 1m, 0m); toward (0m, 1m, 4m); field 60m }
eye e { at (0m, 1m, 0m); toward (0m, 1m, 4m); field 60deg; fog air.hue }
eye f { at (0m, 1m, 0m); toward (0m, 1m, 4m); field 60deg; fog rnage }
eye g { at (0m, 1m, 0m); toward (0m, 1m, 4m); field 60deg; sky tint }
eye h { at (0m, 1m, 0m); toward (0m, 1m, 4m); field 60deg; sky range }
eye i { at (0m, 1m, 0m), (1m, 1m, 1m); toward (0m, 1m, 4m); field 60deg }
eye j { at (0m, 1m, 0m); toward (0m, 1m, 4m); field 60deg; fog range, air.hue, air.wet }
eye k { at (0m, 1m, 0m); towards (0m, 1m, 4m); field 60deg }
eye l { at wander(radius 1m, rate 1Hz); toward (0m, 1m, 4m); field 60deg }
eye m { at (0m, 1m, 0m); toward (2000km, 1m, 4m); field 60deg }
eye a { at (0m, 1m, 0m); toward (0m, 1m, 4m); field 60deg }
backdrop \"n.png\" { from (0m, 0m, 0m) }
backdrop \"o.png\" { from (0m, 0m, 0m); to (0m, 0m, 5m) }
backdrop p { from (0m, 0m, 0m); to (1m, 0m, 5m) }
backdrop \"q.png\" { from (0m, 0m, 0m); to (1m, 0m, 5m); from (0m, 0m, 0m) }
light r point { intensity 1lm * a }"
    ));
}

#[test]
fn curves_say_which_stop_is_wrong() {
    insta::assert_snapshot!(about(
        "curve single { 0s 1 }
curve back { 0s 1; 2s 2; 1s 3 }
curve same { 0s 1; 2s 2; 2s 3 }
curve early { -1s 1; 2s 2 }
curve kinds { 0s 1; 2s 2lm }
curve eased { 0s 1 smooth; 2s 2 }
curve word { 0s 1; 2s 2 smoth }
curve bezier { 0s 1; 2s 2 cubic-bezier(1.5, 0, 0, 1); 3s 1 cubic-bezier(0, 1); 4s 1 cubic-bezier }
curve hours { 06:10 1; 6:10 2; 24:00 3 }
curve ramp { 0% 1; 100% 2 }
curve moving { 0s 1; 2s held(0..1, every 1s) }
curve nothing { 0 1; 1s 2 }"
    ));
}

#[test]
fn a_closed_list_of_bad_input_gives_clear_messages_at_once() {
    let nested =
        format!("lightbook \"B\"\nsignal x = {}1{}\n", "(".repeat(100_000), ")".repeat(100_000));
    let brackets = format!("lightbook \"B\"\n{}", "[".repeat(10_000_000));
    let signs = format!("lightbook \"B\"\nsignal x = {}1\n", "-".repeat(100_000));
    let sum = format!("lightbook \"B\"\nsignal x = {}1\n", "1+".repeat(100_000));
    let nots = format!("lightbook \"B\"\nsignal x = {}on\n", "not ".repeat(100_000));
    let ifs = format!("lightbook \"B\"\nsignal x = {}1\n", "if on then 1 else ".repeat(50_000));
    let explosion: String = (0..60)
        .fold("lightbook \"B\"\nbehavior b0() = held(0..1, every 1s)\n".to_owned(), |all, n| {
            all + &format!("behavior b{}() = b{n}() + b{n}()\n", n + 1)
        });
    for (text, wanted) in [
        ("", "this lightbook is empty"),
        ("\u{feff}\n\n// only a comment\n", "this lightbook is empty"),
        ("light a point { intensity 1lm }", "expected `lightbook"),
        (nested.as_str(), "more than 64 deep"),
        (brackets.as_str(), "more than 64 deep"),
        (signs.as_str(), "nested too deeply"),
        (nots.as_str(), "nested too deeply"),
        (ifs.as_str(), "nested too deeply"),
        (sum.as_str(), "too long"),
        (explosion.as_str(), "this expands to more than"),
        ("lightbook \"B\"\nlight a point { intensity 1e999lm }", "is too large for a number"),
        (
            "lightbook \"B\"\nlight a point { intensity 1lm * held(0..1, every 0s..0s) }",
            "at least 2us",
        ),
        ("lightbook \"B\"\nlight a[0] point { intensity 1lm }", "1 to 1000000 lamps, found `0`"),
        ("lightbook \"B\"\nlight a[1000000000] point { intensity 1lm }", "found `1000000000`"),
        ("lightbook \"B\"\nsignal a = a", "`a` depends on itself"),
        ("lightbook \"B\"\nlight a point { intensity 1lm", "never closed"),
        ("lightbook \"unclosed\nlight a point { intensity 1lm }", "closing quote"),
    ] {
        let said = told(text);
        let shown: String = text.chars().take(60).collect();
        assert!(said.contains(wanted), "{shown}\n{said}");
    }
}

#[test]
fn what_looks_odd_but_is_fine_works() {
    for lines in [
        "light a point { intensity 1lm * held(0..1, every 0s..100ms) }",
        "light int point { intensity 1lm }\nlight color point { color #ff0000 }",
        "light brücke_橋 point { intensity 1lm }",
        "light a point { intensity max(1lm,\n 2lm,\n 3lm) }",
        "light a point {intensity 1lm;color #ff0000;}",
        "signal x =\n  1 +\n  2\nlight a point { intensity 1lm * x }",
        "light a point {\r\n  intensity 1lm // dim\r\n}\r\n",
        "light a[3] point { position (0m, -1m, 0m), (-1m, 0m, 0m); intensity 2.0lm - -1lm }",
    ] {
        let text = format!("lightbook \"B\"\n{lines}\n");
        let reading = read(&text, "b.caltrin");
        let mistakes = reading.diagnostics.iter().filter(|d| d.severity == Severity::Error).count();
        assert_eq!(mistakes, 0, "{lines}\n{}", told(&text));
        assert!(reading.checked.is_some());
    }
}

#[test]
fn what_is_wrong_with_a_day_is_told_where_it_stands() {
    insta::assert_snapshot!(about(
        "clock { day 0min; start 25:61; speed 2 }
clock { start 12:00 }
clock { day 24min; start 06:00 }
curve order { 06:00 0; 12:00 1; 03:00 2; 07:00 1 }
curve twice { 06:00 0; 06:00 1 }
curve mixed { 06:00 0; 2h 1 }
curve fine { 06:00 0; 18:00 1 }
hours same from 06:00 to 06:00
hours edges from 06:00 to 07:00 over 02:00
hours length from 06:00 to 07:00 over 20min
phases single { night from 21:00 }
phases order_ { a from 10:00; b from 08:00; c from 12:00 }
phases meet { a from 10:00 over 01:00 after; b from 10:30 over 01:00 before }
phases tints { a from 10:00 tint #ff0000; b from 11:00 }
phases named { tint from 10:00; b from 11:00; b from 12:00 }
phases mood { night from 21:00; day from 06:00 }
sun { latitude 95deg; date 10 }
sun helios { latitude 54deg; date 400; rises 06:00 }
sun sol { latitude 54deg; date 400 }
sun ra { rises 06:00 }
moon { age 3deg }
moon luna of nobody
choice one_only { a }
choice region { coast, hills, coast }
choice side { left, right } over 2s before
light a point { intensity 1cd * fine.x; color mood.tint }
light b point { intensity 1cd * mood; shadows mood is dusk }
light c point { intensity 1cd * pick(mood, night 1); shadows hour above 12:00 }
light d point { intensity 1cd * pick(side, left 1, right 2lm) + pick(mood, night 1, dusk 2) }
light e point { intensity 1cd * loop(fine) * fine(0.2); reach 1m + hour }
light f point { intensity 1cd * pick(fine, others 1) * side.middle }
light g point { intensity 1cd * pick(side, left 1, left 2, others 3) * pick(side) }"
    ));
}

#[test]
fn what_follows_the_hour_needs_a_clock() {
    insta::assert_snapshot!(about(
        "curve fine { 06:00 0; 18:00 1 }
hours open from 06:00 to 07:00
phases mood { night from 21:00; day from 06:00 }
sun { latitude 54deg; date 10 }
light a point { shadows hour is in 06:00..07:00; intensity days }"
    ));
}

#[test]
fn what_is_easily_written_wrong_says_what_to_write() {
    for (lines, message, help) in [
        (
            "light a spot { cone 60..110deg; intensity 1lm }",
            "expected an angle such as `50deg`, found a number",
            "write `60deg` here",
        ),
        (
            "light a point { reach 1m..14; intensity 1lm }",
            "expected a length such as `14m`, found a number",
            "write `14m` here",
        ),
        (
            "light a point { value t = drawn(0..1); intensity 1lm * t }",
            "but this is redrawn for each run, lamp or instance",
            "write `signal` instead of `value`",
        ),
        (
            "value t = sine(0..1, every 3s)\nlight a point { intensity 1lm * t }",
            "must be constant, but this changes",
            "write `signal` instead of `value`",
        ),
        (
            "modes m { a, b; a -> b after 3s }\nevent z at m.b",
            "`m.b` is already an event",
            "`pulse(at m.b, lasts 1s)`",
        ),
        (
            "event go\nlight a point { intensity 4lm }\nsequence s at go { 1s a.intensity 2lm; keep }",
            "expected the moment when, as in `12s keep`",
            "",
        ),
        (
            "light a point { intensity 1lm * flicker(80%..100%) }",
            "there is no function or behavior `flicker`",
            "did you mean `held`, as in `held(80%..100%, every 70ms..210ms)`?",
        ),
        (
            "light a point { intensity 1lm * sin(2s) }",
            "there is no function or behavior `sin`",
            "did you mean `sine`, as in `sine(20%..60%, every 3.1s)`?",
        ),
        (
            "light a point { intensity 1lm * blink(500ms) }",
            "expected a range such as `80%..100%`, found one value",
            "write `blink(on 300ms, off 700ms)`",
        ),
        ("light a point { radius 5m; intensity 1lm }", "a light has no `radius`", "`reach`?"),
        ("light a point[2] { intensity 1lm }", "found `[`", "`light row[8] spot`"),
        ("light a point { reach 5m intensity 1lm }", "found `intensity`", "with `;`"),
        (
            "input w = 40% in 0%..100%\nevent e when w > 50%",
            "found `>`",
            "write `above` or `below`",
        ),
        (
            "event go\nlight a point { intensity 4lm }\nsequence s at go { 0s a.intensity = 5lm; 2s return }",
            "expected a value, found `=`",
            "the value follows without a sign",
        ),
        (
            "event go\nswitch s { on at go; off after 3s }",
            "expected `at`, found `after`",
            "`event over after 3s from gust`",
        ),
        ("clock { day 9min; start 6pm }", "there is no unit `pm`", "`06:00` or `18:00`"),
        (
            "light a directional { intensity 1lx * moon.strength }",
            "there is no name `moon`",
            "`moon { age 9 }`",
        ),
        ("event go\nevent z at go", "`go` is already an event", "`pulse(at go, lasts 1s)`"),
        (
            "clock { day 9min; start 12:00 }\nsun { latitude 50deg; date 3 }\nevent dusk at sun.set",
            "not `sun.set`",
            "`event dusk when sun.height below -0.8deg`",
        ),
        (
            "event go\nlight a point { intensity 4lm }\nsequence s at go { 1s a.intensity 2cd; 2s return over 1s }",
            "the light's own `a.intensity` is a strength in lm, this is a strength in cd",
            "both need the same kind",
        ),
    ] {
        let said = about(lines);
        assert!(said.contains(message) && said.contains(help), "{lines}\n{said}");
    }
}

#[test]
fn examples_in_messages_are_good() {
    for call in caltrin_lang::words::examples() {
        let said = about(&format!("output o[3] {{ value {call} }}"));
        let told =
            said.lines().filter(|line| !line.contains("unison")).collect::<Vec<_>>().join("\n");
        assert_eq!(told, "", "{call}");
        let name = call.split('(').next().unwrap();
        assert_eq!(caltrin_lang::words::example(name), Some(call));
        assert!(caltrin_lang::words::is_function(name), "{call}");
    }
}

#[test]
fn words_that_calls_take_are_no_names() {
    let text = "lightbook \"b\"
input throttle = 20% in 0%..100%
curve sag { 0s 100%; 2s 80%; 5s 100% }
signal scatter  = loop(sag, scatter)
signal together = sine(every 3.1s, together)
signal smooth   = map(throttle, from 0%..100%, to 0%..50%, smooth)
signal linear   = mix(throttle, 50%, by smooth, linear)
output all = scatter + together + smooth + linear
light a point {
  signal jump = map(throttle, from 0%..100%, to 0%..50%, jump)
  intensity 10lm * jump
}
";
    let reading = caltrin_lang::read(text, "b.caltrin");
    let told: Vec<&String> = reading.diagnostics.iter().map(|d| &d.message).collect();
    assert!(reading.checked.is_some(), "{told:#?}");
    // A name that is used where no option may stand is one all the same.
    let text = "lightbook \"b\"\nsignal a = max(scatter, 10%)\nsignal scatter = min(a, 5%)\noutput x = a\n";
    let reading = caltrin_lang::read(text, "b.caltrin");
    assert!(reading.diagnostics.iter().any(|d| d.message.contains("depends on itself")));
}

#[test]
fn words_that_people_bring_along_get_the_nearest_right_thing() {
    for (line, wanted) in [
        ("keyframes sag { 0s 1; 2s 0 }", "`curve`"),
        ("states door { a, b }", "`modes`"),
        ("scene intro at x { 1s keep }", "`sequence`"),
        ("import \"lamps.caltrin\"", "`use`"),
        ("output y = repeat(sag)", "`loop`"),
        ("output y = pingpong(sag)", "`alternate`"),
        ("output y = smoothstep(0, 1, 0.5)", "`threshold`"),
        ("output y = select(0, 1)", "`pick`"),
        ("light a point { pos (0m, 1m, 0m) }", "`position`"),
        ("light a point { alpha 20% }", "`intensity`"),
    ] {
        let text = format!("lightbook \"b\"\n{line}\n");
        let reading = caltrin_lang::read(&text, "b.caltrin");
        let helps: Vec<String> =
            reading.diagnostics.iter().filter_map(|d| d.help.clone()).collect();
        assert!(helps.iter().any(|help| help.contains(wanted)), "{line}: {helps:?}");
    }
}

#[test]
fn a_temperature_out_of_range_is_refused_however_it_is_written() {
    for (value, is_good) in [
        ("500K", false),
        ("kelvin(500)", false),
        ("kelvin(1000)", true),
        ("kelvin(90000)", false),
        ("2400K", true),
    ] {
        let reading =
            caltrin_lang::read(&format!("lightbook \"b\"\noutput c = {value}\n"), "b.caltrin");
        assert_eq!(reading.checked.is_some(), is_good, "{value}");
        let told = reading.diagnostics.iter().all(|d| {
            let words = format!("{} {:?}", d.message, d.help);
            words.contains("1000") && words.contains("40000")
        });
        assert!(told, "{value}: {:?}", reading.diagnostics);
    }
}

#[test]
fn what_people_bring_along_is_rewritten_with_their_own_numbers() {
    let light =
        |line: &str| format!("lightbook \"M\"\nlight a point {{ {line}; intensity 5lm }}\n");
    for (line, help) in [
        ("position (0, 1.5, -3)", "write `(0m, 1.5m, -3m)`"),
        ("color (1, 0.5, 0.2)", "write `color(srgb-linear 1 0.5 0.2)`"),
        ("color (255, 138, 60)", "write `rgb(255 138 60)`"),
        ("color color(srgb-linear 255 138 60)", "write `rgb(255 138 60)`"),
        ("color rgb(255 138 60 / 0.5)", "write `rgb(255 138 60)` and dim it by its intensity"),
        ("color #ffb06080", "a light has no alpha: write `#ffb060` and dim it by its intensity"),
        ("stagger 3s", "did you mean `later`, as in `later(sine(every 3.1s), by 2s)`?"),
        ("visible on", "did you mean `intensity`?"),
    ] {
        let text = light(line);
        let reading = read(&text, "book.caltrin");
        let helps: Vec<String> =
            reading.diagnostics.iter().filter_map(|d| d.help.clone()).collect();
        assert!(helps.iter().any(|own| own == help), "{line}: {helps:?}");
    }
}

#[test]
fn an_error_in_a_fitting_is_the_only_one() {
    let text = "lightbook \"M\"\nevent e\nfitting f { input own = 50% in 0%..100%; event tap; light a point { color nowhere; intensity 5lm * own } }\n\
                place row[3] of f\nat e send told from row.a[1]\ngroup all { lights row; dim with 50% }\n\
                sequence s at e { 1s row.a.intensity 3lm jump; 2s return over 1s }\n\
                rehearsal r { 1s row.own = 20%; 2s row[1].own = 30%; 3s row[2].tap; 4s expect row.a.intensity above 1lm }\n";
    let messages: Vec<String> =
        read(text, "book.caltrin").diagnostics.iter().map(|d| d.message.clone()).collect();
    assert_eq!(messages, ["there is no name `nowhere`"]);
}

#[test]
fn an_error_in_a_light_is_not_reported_again_where_the_light_is_named() {
    for fault in ["color nowhere", "except 9 { intensity 3lm }", "position (0m, 1, 0)"] {
        let text = format!(
            "lightbook \"M\"\nevent e\nlight lamp[3] point {{ intensity 5lm; {fault} }}\nat e send told from lamp\n\
             group all {{ lights lamp; dim with 50% }}\nsequence s at e {{\n  1s lamp.intensity 3lm\n  2s return over 1s\n}}\n\
             rehearsal r {{ 1s expect lamp.intensity above 1lm }}\n"
        );
        let messages: Vec<String> =
            read(&text, "book.caltrin").diagnostics.iter().map(|d| d.message.clone()).collect();
        assert!(!messages.is_empty());
        assert!(!messages.iter().any(|m| m.contains("`lamp`")), "{fault}: {messages:?}");
    }
}
