//! Colors as CSS has them, shared skies, dates and aims: each form means what its longer form means.

mod book;

use book::{checked, told};
use caltrin_core::color::Rgb;
use caltrin_core::program::Wanted;
use caltrin_core::quantity::{Kelvin, Seconds};
use caltrin_core::{Run, ValidatedProgram};
use caltrin_lang::{Resources, read_with_resources};
use proptest::prelude::*;

/// What the output `y` gives at a moment.
fn color(checked: &ValidatedProgram, at: f64) -> [f32; 3] {
    let mut run = Run::new(checked);
    run.advance(Seconds(at));
    let id = checked.program().light_named("y").expect("the output is there");
    let mut out = [0.0; 3];
    run.read(id, 0, &mut out);
    out
}

fn close(text: &str, wanted: [f64; 3], by: f64) {
    let found = color(&checked(&format!("lightbook \"C\"\n{text}\n")), 0.0);
    let near = found.iter().zip(wanted).all(|(a, b)| (f64::from(*a) - b).abs() < by);
    assert!(near, "{text}: {found:?}, not {wanted:?}");
}

#[test]
fn the_forms_of_css_are_read_as_css_says() {
    for (form, [r, g, b]) in [
        ("tomato", [255, 99, 71]),
        ("rebeccapurple", [0x66, 0x33, 0x99]),
        ("rgb(96 140 60)", [96, 140, 60]),
        ("rgb(96, 140, 60)", [96, 140, 60]),
        ("rgb(100% 0% 20%)", [255, 0, 51]),
        ("hsl(120deg 100% 25%)", [0, 128, 0]),
        ("hsl(120, 100%, 25%)", [0, 128, 0]),
        ("oklch(0.627955 0.257683 29.2339deg)", [255, 0, 0]),
        ("oklch(100% 0 0)", [255, 255, 255]),
        ("oklab(62.7955% 0.224863 0.125846)", [255, 0, 0]),
        ("oklab(62.7955% 56.21575% 31.4615%)", [255, 0, 0]),
    ] {
        let Rgb(wanted) = Rgb::from_srgb8(r, g, b);
        close(&format!("output y = {form}"), wanted, 6e-3);
    }
    close("output y = daylight(6504)", [1.0; 3], 2e-3);
    close("output y = daylight(4000)", Rgb::from_daylight(Kelvin(4000.0)).0, 1e-6);
    close(
        "value tomato = 5%\nsignal deep = scaled(coral, by tomato)\noutput y = deep",
        Rgb::from_srgb8(255, 127, 80).0.map(|v| v * 0.05),
        1e-6,
    );
}

#[test]
fn a_wrong_color_says_what_to_write() {
    for (form, wanted) in [
        ("rgb(96 140)", "`rgb` needs three components, found 2; write it as `rgb(96 140 60)`"),
        ("rgb(10 68 256)", "a color component must be within 0..255"),
        ("rgb(10% 68% 120%)", "a color component must be within 0%..100%"),
        ("hsl(20deg 120% 50%)", "a color component must be within 0%..100%"),
        (
            "rgb(255 138 60 / 0.5)",
            "a light has no alpha; write `rgb(255 138 60)` and dim it by its intensity",
        ),
        (
            "rgb(255, 138, 60, 0.5)",
            "a light has no alpha: write `rgb(255 138 60)` and dim it by its intensity",
        ),
        ("rgb(2lm 138 60)", "expected a number, found a strength in lm"),
        ("oklch(70% 0.1 3s)", "expected a number, found a time"),
        ("daylight(3000)", "a color temperature is 3000, but must be within 4000..25000"),
        ("daylight(6500K)", "did you mean `daylight(6500)`?"),
        ("tomatoo", "there is no name `tomatoo`"),
    ] {
        let said = told(&format!("lightbook \"C\"\noutput y = {form}\n"));
        assert!(said.contains(wanted), "{form}: {said}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// Components that vary give what the constant form gives at each moment.
    #[test]
    fn varying_components_are_those_of_the_constant_form(
        a in 0.0..1.0f64, b in 0.0..1.0f64, hue in -400.0..800.0f64,
    ) {
        // A signal that is constant in value but not known to be.
        let vary = |v: f64| format!("(knob * 0 + {v})");
        for (varying, constant) in [
            (format!("rgb({} 140 {})", vary(a * 255.0), vary(b * 255.0)), format!("rgb({} 140 {})", a * 255.0, b * 255.0)),
            (format!("hsl(({} * 1deg) {} {})", vary(hue), vary(a), vary(b)), format!("hsl({hue}deg {a} {b})")),
            (format!("oklab({} {} -0.1)", vary(a), vary(b * 0.2)), format!("oklab({a} {} -0.1)", b * 0.2)),
            (format!("oklch({} {} ({} * 1deg))", vary(a), vary(b * 0.3), vary(hue)), format!("oklch({a} {} {hue}deg)", b * 0.3)),
            (format!("daylight({})", vary(4000.0 + 21_000.0 * a)), format!("daylight({})", 4000.0 + 21_000.0 * a)),
        ] {
            let text = |form: &str| checked(&format!("lightbook \"C\"\ninput knob = 0 in 0..1\noutput y = {form}\noutput z = knob\n"));
            let (found, wanted) = (color(&text(&varying), 1.0), color(&text(&constant), 1.0));
            for (a, b) in found.iter().zip(wanted) {
                prop_assert!((a - b).abs() < 1e-3, "{varying} gives {found:?}, {constant} gives {wanted:?}");
            }
        }
    }
}

const SKY: &str = "lightbook \"Sky\"
clock { day 24min; start 17:00 }
sun { latitude 54deg; date 11-20 }
moon { age 9 }
input mist = 30% in 0%..100%
choice weather { fair, overcast } over 20s
phases watch { night from 21:00; day from 06:00 }
hours open from 08:00 to 17:00
event bell
event eve at 19:00
";

/// A book, which may use `sky.caltrin` and `other.caltrin`.
fn with_sky(text: &str, sky: &str, other: &str) -> (Option<ValidatedProgram>, Vec<String>) {
    let books = |name: &str| match name {
        "sky.caltrin" => Ok(sky.to_owned()),
        "other.caltrin" => Ok(other.to_owned()),
        other => Err(format!("no {other}")),
    };
    let resources = Resources { books: &books, sounds: &|_, _| Err("no sound".to_owned()) };
    let reading = read_with_resources(text, "pier.caltrin", resources, Wanted::default());
    (reading.checked, reading.diagnostics.iter().map(|d| d.message.clone()).collect())
}

#[test]
fn a_shared_sky_brings_its_clock_and_all_that_follows_it() {
    let lights = "output y = mix(sun.color, watch.tint, by open * mist)\noutput h = sun.height\n\
                  output w = pick(weather, fair 1, overcast 0) * pulse(at bell, lasts 1s) * pulse(at eve, lasts 1s)\n";
    let lights = lights.replace("watch.tint", "#203040");
    let (shared, said) =
        with_sky(&format!("lightbook \"Pier\"\nuse \"sky.caltrin\"\n{lights}"), SKY, "");
    assert!(said.is_empty(), "{said:?}");
    let shared = shared.expect("it is good");
    let whole = checked(&format!("{SKY}{lights}"));
    assert_eq!(shared.program().clock(), whole.program().clock());
    for at in [0.0, 100.0, 700.0] {
        assert_eq!(color(&shared, at), color(&whole, at));
    }
    // A book that is used by two others is read once.
    let twice = format!("lightbook \"Pier\"\nuse \"sky.caltrin\"\nuse \"other.caltrin\"\n{lights}");
    let (both, said) =
        with_sky(&twice, SKY, "lightbook \"Other\"\nuse \"sky.caltrin\"\nvalue depth = 3\n");
    assert!(both.is_some() && said.is_empty(), "{said:?}");
}

#[test]
fn two_skies_are_an_error_that_names_both_files() {
    let book = |own: &str| {
        format!(
            "lightbook \"Pier\"\nuse \"sky.caltrin\"\nuse \"other.caltrin\"\n{own}\noutput y = mist\n"
        )
    };
    for (own, other, wanted) in [
        (
            "clock { day 9min; start 12:00 }",
            "",
            "duplicate clock: both `pier.caltrin` and `sky.caltrin` declare one",
        ),
        (
            "",
            "clock { day 9min; start 12:00 }",
            "both `other.caltrin` and `sky.caltrin` declare one",
        ),
        (
            "input mist = 1 in 0..1",
            "",
            "duplicate name `mist`: both `pier.caltrin` and `sky.caltrin` declare it",
        ),
        (
            "",
            "event bell",
            "duplicate name `bell`: both `other.caltrin` and `sky.caltrin` declare it",
        ),
        (
            "choice weather { a, b }",
            "",
            "duplicate name `weather`: both `pier.caltrin` and `sky.caltrin` declare it",
        ),
        (
            "sun { latitude 1deg; date 3 }",
            "",
            "duplicate name `sun`: both `pier.caltrin` and `sky.caltrin` declare it",
        ),
    ] {
        let (read, said) = with_sky(&book(own), SKY, &format!("lightbook \"Other\"\n{other}\n"));
        assert!(read.is_none(), "{own}{other}");
        let names = ["`sky.caltrin`", "`pier.caltrin`", "`other.caltrin`"];
        let same = |message: &String| {
            let start = &wanted[..wanted.find(':').unwrap_or(0)];
            message.contains(start)
                && names
                    .iter()
                    .filter(|n| message.contains(**n))
                    .eq(names.iter().filter(|n| wanted.contains(**n)))
        };
        assert!(said.iter().any(same), "{own}{other}: {said:?}");
    }
}

#[test]
fn a_date_is_the_day_of_the_year() {
    let height = |date: &str| {
        let text = format!(
            "lightbook \"D\"\nclock {{ day 24min; start 11:00 }}\nsun {{ latitude 54deg; {date} }}\noutput y = mix(#000000, #ffffff, by clamp(sun.height / 90deg, to 0..1), linear)\n"
        );
        color(&checked(&text), 0.0)
    };
    for (date, day) in [
        ("date 01-01", "date 1"),
        ("date 11-20", "date 324"),
        ("date 12-31", "date 365"),
        ("date 3-1", "date 60"),
        ("date 03-01; year 2028", "date 61; year 2028"),
        ("date 02-29; year 2028", "date 60; year 2028"),
    ] {
        assert_eq!(height(date), height(day), "{date}");
    }
    for wrong in ["date 13-01", "date 02-29", "date 04-31", "date 00-12", "date 11-00"] {
        let said = told(&format!(
            "lightbook \"D\"\nclock {{ day 24min; start 11:00 }}\nsun {{ latitude 54deg; {wrong} }}\noutput y = sun.color\n"
        ));
        assert!(said.contains("is not a date; write month and day, as in `date 11-20`"), "{said}");
    }
    let even = "lightbook \"D\"\n\nsun {\n  latitude  54deg\n  date      11-20\n}\n";
    assert_eq!(caltrin_lang::format(&even.replace("  date      ", "date ")).as_deref(), Ok(even));
}

#[test]
fn aiming_at_a_point_is_aiming_from_the_lamp_to_it() {
    let lamp = |aim: &str| {
        format!(
            "lightbook \"A\"\ninput walker = (3m, 1.7m, 2m)\nlight mark point {{ position (9m, 1m, 4m); intensity 1cd }}\n\
             light a spot {{ position (1m, 6m, 0m); intensity 5cd; {aim} }}\n"
        )
    };
    let same = |by: &str, plain: &str| {
        let aims = [by, plain].map(|aim| {
            let checked = checked(&lamp(aim));
            let id = checked.program().light_named("a").unwrap();
            let mut run = Run::new(&checked);
            let mut out = vec![0.0; run.width(id)];
            run.read(id, 0, &mut out);
            out
        });
        assert_eq!(aims[0], aims[1], "{by}");
    };
    same("aim at walker", "aim walker - (1m, 6m, 0m)");
    same("aim at (1m, 0m, 0m)", "aim (0m, -6m, 0m)");
    same("aim at mark", "aim (8m, -5m, 4m)");
    let wrong = |aim: &str| told(&lamp(aim));
    assert!(
        wrong("aim at 3m").contains("expected a point, found a length"),
        "{}",
        wrong("aim at 3m")
    );
    let nowhere = "lightbook \"A\"\nlight a spot { intensity 5cd; aim at (0m, 0m, 0m) }\n";
    assert!(told(nowhere).contains("`aim at` needs the light's own position"), "{}", told(nowhere));
    let row = "lightbook \"A\"\nlight b[2] point { position (0m, 0m, 0m), (1m, 0m, 0m); intensity 1cd }\n\
               light a spot { position (0m, 1m, 0m); intensity 5cd; aim at b }\n";
    assert!(told(row).contains("`b` is not a single light with a position"), "{}", told(row));
}

/// What two outputs `a` and `b` of a book give at moments, which is the same.
fn same(text: &str, moments: impl IntoIterator<Item = f64>) {
    let checked = checked(text);
    let ids = ["a", "b"].map(|name| checked.program().light_named(name).expect("it is there"));
    let mut run = Run::new(&checked);
    for at in moments {
        run.advance(Seconds(at));
        let [a, b] = ids.map(|id| {
            let mut out = vec![0.0; run.width(id)];
            run.read(id, 0, &mut out);
            out
        });
        for (a, b) in a.iter().zip(&b) {
            assert!((a - b).abs() < 1e-6, "{at} s: {a} and {b}\n{text}");
        }
    }
}

/// Moments of a few seconds, in order.
fn often(to: f64) -> impl Iterator<Item = f64> {
    (0..).map(|n| f64::from(n) * 0.0137).take_while(move |at| *at < to)
}

#[test]
fn relative_stops_and_stops_of_another_curve_are_those_written_out() {
    same(
        "lightbook \"C\"\ncurve dip { 0s 100%; 120ms 30% smooth; 300ms 100% ease-out }\n\
         curve short { 0s 20%; +1s 60% smooth; +400ms 100%; 2.4s dip ease-in; +1s 20%; +500ms dip }\n\
         curve whole { 0s 20%; 1s 60% smooth; 1.4s 100%; 2.4s 100% ease-in; 2.52s 30% smooth; 2.7s 100% ease-out; 3.7s 20%; \
         4.2s 100%; 4.32s 30% smooth; 4.5s 100% ease-out }\n\
         output a = loop(short, together)\noutput b = loop(whole, together)\n",
        often(11.0),
    );
    same(
        "lightbook \"C\"\ncurve spot { columns place, tint; 0s (0m, 0m, 0m), #ff0000; 200ms (1m, 0m, 0m), #00ff00 }\n\
         curve short { columns place, tint; 0s (1m, 1m, 1m), #ffffff; 1s spot }\n\
         curve whole { columns place, tint; 0s (1m, 1m, 1m), #ffffff; 1s (0m, 0m, 0m), #ff0000; 1.2s (1m, 0m, 0m), #00ff00 }\n\
         output a { p once(short.place); t once(short.tint) }\noutput b { p once(whole.place); t once(whole.tint) }\n",
        often(1.5),
    );
    same(
        "lightbook \"C\"\nclock { day 24min; start 21:00; rate 4 }\ncurve short { 20:00 20%; +03:00 60%; +06:00 10% smooth }\n\
         curve whole { 20:00 20%; 23:00 60%; 05:00 10% smooth }\noutput a = short\noutput b = whole\n",
        often(30.0),
    );
}

#[test]
fn steps_are_those_of_css() {
    for (easing, levels) in [
        ("steps(4)", [0.0, 0.25, 0.5, 0.75]),
        ("steps(4, jump-end)", [0.0, 0.25, 0.5, 0.75]),
        ("steps(4, start)", [0.25, 0.5, 0.75, 1.0]),
        ("steps(4, jump-none)", [0.0, 1.0 / 3.0, 2.0 / 3.0, 1.0]),
        ("steps(4, jump-both)", [0.2, 0.4, 0.6, 0.8]),
    ] {
        for (n, level) in levels.into_iter().enumerate() {
            for part in [0.02, 0.5, 0.98] {
                let at = 1.0 + 2.0 * (n as f64 + part) / 4.0;
                let text = format!(
                    "lightbook \"S\"\ncurve c {{ 1s 10%; 3s 90% {easing}; 4s 20% }}\n\
                     output y {{ v once(c); m map(once(line), from 1..3, to 10%..90%, {easing}); w 0 }}\n\
                     curve line {{ 0s 0; 10s 10 }}\n"
                );
                let found = color(&checked(&text), at);
                let wanted = 0.1 + 0.8 * level as f32;
                assert!(
                    (found[0] - wanted).abs() < 1e-6,
                    "{easing} at {at} s: {found:?}, not {wanted}"
                );
                assert!(
                    (found[1] - wanted).abs() < 1e-6,
                    "{easing} at {at} s: {found:?}, not {wanted}"
                );
            }
        }
    }
    for wrong in ["steps(0)", "steps(1, jump-none)", "steps(2.5)", "steps(3, both)", "steps"] {
        let said = told(&format!(
            "lightbook \"S\"\ncurve c {{ 0s 1; 1s 2 {wrong} }}\noutput y = loop(c)\n"
        ));
        assert!(said.contains("`steps` needs a whole number from"), "{wrong}: {said}");
    }
}

#[test]
fn a_length_holds_the_last_value_or_leads_back_to_the_first() {
    let curves = "lightbook \"L\"\nevent go every 6s..6s\n\
                  curve short { 0s 10%; 1s 80% smooth; length 2.3s ease-in }\n\
                  curve looped { 0s 10%; 1s 80% smooth; 2.3s 10% ease-in }\n\
                  curve lasting { 0s 10%; 1s 80% smooth; 2.3s 80% }\n";
    for (short, whole) in [
        ("loop(short, together)", "loop(looped, together)"),
        ("alternate(short, together)", "alternate(lasting, together)"),
        ("once(short)", "once(lasting)"),
        ("play(short, at go, before 50%)", "play(lasting, at go, before 50%)"),
        ("stretch(loop(short, together), by 170%)", "stretch(loop(looped, together), by 170%)"),
    ] {
        same(&format!("{curves}output a = {short}\noutput b = {whole}\n"), often(9.0));
    }
    let wrong =
        |stops: &str| told(&format!("lightbook \"L\"\ncurve c {{ {stops} }}\noutput y = 1\n"));
    assert!(
        wrong("0s 1; 2s 2; length 2s")
            .contains("the length must be after the last stop, which is at 2s")
    );
    assert!(wrong("0% 1; 100% 2; length 2s").contains("only a curve in seconds has a length"));
    assert!(
        wrong("+1s 1; 2s 2")
            .contains("the first stop has no stop before it; write `1s` without `+`")
    );
    assert!(
        wrong("0s 1; 1s up\n}\ncurve up { 0% 1; 100% 2")
            .contains("the stops of `up` do not fit into this curve")
    );
    assert!(wrong("0s 1; 1s c").contains("depends on itself"));
}

#[test]
fn a_move_with_its_own_start_waits_until_then() {
    let book = |own: &str, twin: &str| {
        format!(
            "lightbook \"M\"\nevent go every 9s..9s\ninput rider = (3m, 1m, 2m)\n\
             light a point {{ position (1m, 2m, 3m); intensity 10lm * sine(50%..100%, every 1.7s, phase 0) }}\n\
             light b point {{ position (1m, 2m, 3m); intensity 10lm * sine(50%..100%, every 1.7s, phase 0) }}\n\
             sequence own at go {{ {own} }}\nsequence twin at go {{ {} }}\n",
            twin.replace("a.", "b.")
        )
    };
    for (own, twin) in [
        (
            "1s a.intensity 4lm jump; 2s..3s a.intensity 9lm smooth; 5s return over 1s",
            "1s a.intensity 4lm jump; 2s a.intensity 4lm; 3s a.intensity 9lm smooth; 5s return over 1s",
        ),
        (
            "2s..3s a.intensity 9lm smooth; 4s return over 1s",
            "2s a.intensity base jump; 3s a.intensity 9lm smooth; 4s return over 1s",
        ),
        (
            "0s..2s a.intensity base * 20% ease-in; +1s..2s a.intensity 8lm; 6s return",
            "0s a.intensity base; 2s a.intensity base * 20% ease-in; 3s a.intensity base * 20% jump; 4s a.intensity 8lm; 6s return",
        ),
        (
            "0.5s..1.5s a.position rider smooth; 1s..4s a.intensity 1lm; 6s return over 1s",
            "0.5s a.position base jump; 1s a.intensity base jump; 1.5s a.position rider smooth; 4s a.intensity 1lm; 6s return over 1s",
        ),
    ] {
        same(&book(own, twin), (0..1600).map(|n| f64::from(n) * 0.0137));
    }
    for (steps, wanted) in [
        ("3s..2s a.intensity 1lm; 4s return", "a move must end after it starts"),
        (
            "1s..3s a.intensity 1lm; 2s..4s a.intensity 2lm; 5s return",
            "the move before this one ends at 3 s",
        ),
        ("1s..3s mark late", "only a channel moves over a time; write one moment, as in `1s mark`"),
        (
            "2s..3s a.intensity 1lm; 1s..4s a.position rider; 5s return",
            "this step is earlier than the previous one, which is at 2 s",
        ),
    ] {
        let said = told(&book(steps, "1s a.intensity 1lm jump; 2s return"));
        assert!(said.contains(wanted), "{steps}: {said}");
    }
    let even = "lightbook \"M\"\n\nsequence s at go {\n  0s..1.5s  a.intensity  4lm  steps(4, jump-none)\n  \
                +2s       mark late\n  12s       return over 1s\n}\n";
    let crooked = even.replace("  ", " ").replace("  ", " ");
    assert_eq!(caltrin_lang::format(&crooked).as_deref(), Ok(even));
}

#[test]
fn a_rehearsal_drives_the_clock_and_expects_outputs_and_switches() {
    let book = |lines: &str| {
        format!(
            "lightbook \"R\"\nclock {{ day 24min; start 12:00 }}\nevent cut\nswitch power {{ starts on; off at cut over 2s }}\n\
             output fog = 20% * power\noutput sky {{ level 40%; open off }}\nlight a[2] point {{ intensity 5lm * power }}\n\
             at cut send gone\nrehearsal r {{ {lines} }}\n"
        )
    };
    let unmet = |lines: &str| {
        let checked = checked(&book(lines));
        let rehearsal = &checked.program().rehearsals()[0];
        caltrin_core::rehearsal::rehearse(&checked, rehearsal, checked.program().seed())
            .iter()
            .filter(|unmet| unmet.is_some())
            .count()
    };
    // A day of 24 minutes goes an hour a minute.
    assert_eq!(
        unmet(
            "10s clock rate 60; 20s expect hour is in 22:05..22:15; 30s clock rate 0; 31s expect hour is in 08:05..08:15; 90s expect hour is in 08:05..08:15"
        ),
        0
    );
    assert_eq!(
        unmet(
            "10s clock drive 18:00; 11s expect hour is in 17:59..18:01; 50s expect hour is in 17:59..18:01"
        ),
        0
    );
    assert_eq!(unmet("10s clock rate 60; 20s expect hour is in 12:00..12:30"), 1);
    assert_eq!(
        unmet(
            "1s expect fog is in 19%..21%; 2s cut; 3s expect fog is in 9%..11%; 3s expect power is in 49%..51%; 6s expect fog below 1%; 6s expect gone sent 1..1"
        ),
        0
    );
    assert_eq!(
        unmet("1s expect sky.level above 39%; 1s expect sky.open is off; 1s expect fog above 30%"),
        1
    );
    for (lines, wanted) in [
        ("1s clock rate 2000000", "the rate of a clock must be within -1000000..1000000"),
        ("1s clock rate 3s", "expected a number, found a time"),
        ("1s clock faster", "expected an hour such as `16:20`, `drive` and an hour, or `rate`"),
    ] {
        assert!(told(&book(lines)).contains(wanted), "{lines}: {}", told(&book(lines)));
    }
    let still = book("1s clock rate 2").replace("clock { day 24min; start 12:00 }\n", "");
    assert!(told(&still).contains("the book has no clock"), "{}", told(&still));
}

#[test]
fn tags_are_bits_of_lights() {
    let text = "lightbook \"T\"\nlight a point { intensity 5lm; tags actors, scenery }\nlight b point { intensity 5lm }\n\
                fitting f { light c[2] point { tags scenery, glow; intensity 1lm } }\nplace p of f { }\n";
    let checked = checked(text);
    let program = checked.program();
    assert_eq!(program.tags(), ["actors", "scenery", "glow"]);
    let tags = |name: &str| program.light(program.light_named(name).unwrap()).tags;
    assert_eq!([tags("a"), tags("b"), tags("p.c")], [0b11, 0, 0b110]);
    let many: Vec<String> = (0..32).map(|n| format!("t{n}")).collect();
    for (line, wanted) in [
        ("tags 3", "expected the name of a tag; write `tags actors, scenery`".to_owned()),
        ("tags x, y, x", "duplicate tag `x`".to_owned()),
        (&format!("tags {}", many.join(", ")), "a book can have at most 31 tags".to_owned()),
    ] {
        let said = told(&format!("lightbook \"T\"\nlight a point {{ intensity 5lm; {line} }}\n"));
        assert!(said.contains(&wanted), "{line}: {said}");
    }
}

/// The lamps of `light` in the order in which they light up, with the moments.
fn turns(checked: &ValidatedProgram, light: &str, step: f64, to: f64) -> Vec<(f64, usize)> {
    let id = checked.program().light_named(light).unwrap();
    let mut run = Run::new(checked);
    let (width, count) = (run.width(id), checked.program().light(id).size.shown() as usize);
    let mut before = vec![0.0; count];
    let mut found = Vec::new();
    for n in 0..(to / step) as u32 {
        run.advance(Seconds(f64::from(n) * step));
        let mut out = vec![0.0; width * count];
        run.read(id, 0, &mut out);
        let now: Vec<f32> = out.chunks(width).map(|lamp| lamp[0]).collect();
        assert!(
            now.iter().filter(|v| **v > 0.0).count() <= 1,
            "two at once at {}",
            f64::from(n) * step
        );
        found.extend(
            (0..count)
                .filter(|k| now[*k] > 0.0 && before[*k] == 0.0)
                .map(|k| (f64::from(n) * step, k)),
        );
        before = now;
    }
    found
}

#[test]
fn one_of_many_is_struck_at_a_time_and_never_the_same_twice_in_a_row() {
    let book = |more: &str| {
        checked(&format!(
            "lightbook \"O\"\nlight a[5] point {{ event fault every 1s..2s one at a time{more}; \
             intensity 5lm * pulse(at fault, lasts 200ms) }}\n\
             fitting hut {{ event knock every 500ms..700ms one at a time; \
             light b[1] point {{ intensity 5lm * pulse(at knock, lasts 100ms) }} }}\nplace row[3] of hut {{ }}\n\
             fitting pair {{ light c[2] point {{ event wink every 1s..1s one at a time; intensity 5lm * pulse(at wink, lasts 300ms) }} }}\n\
             place twin[3] of pair {{ }}\n"
        ))
    };
    let checked = book("");
    for (light, count, least) in [("a", 5, 100), ("row.b", 3, 250), ("twin.c", 6, 150)] {
        let turns = turns(&checked, light, 0.01, 200.0);
        assert!(turns.len() > least, "{light}: {}", turns.len());
        assert!(turns.windows(2).all(|pair| pair[0].1 != pair[1].1), "{light}: {turns:?}");
        for lamp in 0..count {
            let share =
                turns.iter().filter(|(_, k)| *k == lamp).count() as f64 / turns.len() as f64;
            assert!((share * count as f64 - 1.0).abs() < 0.5, "{light}[{lamp}] has {share}");
        }
    }
    // The frame rate does not matter.
    let coarse = turns(&checked, "a", 0.1, 200.0);
    let fine = turns(&checked, "a", 0.01, 200.0);
    assert_eq!(
        coarse.iter().map(|(_, k)| *k).collect::<Vec<_>>(),
        fine.iter().map(|(_, k)| *k).collect::<Vec<_>>()
    );
    let again = turns(&book(" repeating"), "a", 0.01, 200.0);
    assert!(again.windows(2).any(|pair| pair[0].1 == pair[1].1), "{again:?}");
    for text in [
        "light a point { event fault every 1s..2s one at a time; intensity 5lm * pulse(at fault, lasts 1s) }",
        "event fault every 1s..2s one at a time\noutput y = pulse(at fault, lasts 1s)",
    ] {
        let said = told(&format!("lightbook \"O\"\n{text}\n"));
        assert!(said.contains("`one at a time` needs an array or several instances"), "{said}");
    }
}
