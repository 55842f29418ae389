//! What a book's program does: chance that belongs to names, curves, colors, and the same program
//! from the builder.

use caltrin_core::build::{
    Book, Instances, Light, Output, Viewpoint, angle, bursts, candelas, drawn, drift, held,
    held_every, held_softly, kelvin, kelvin_of, kinds, lumens, lux, meters, number, of_numbers,
    one_of, one_of_every, point, rate, rgb, rhythm, select, square, srgb, time, wander, wave,
};
use caltrin_core::color::Rgb;
use caltrin_core::curve::Easing;
use caltrin_core::program::{Backdrop, Field, Start, Wave};
use caltrin_core::pure::Pure;
use caltrin_core::quantity::{Degrees, Hertz, Meters, Place, Seconds, Seed, ms};
use caltrin_core::{Run, ValidatedProgram};
use caltrin_lang::read;

fn checked(text: &str) -> ValidatedProgram {
    let reading = read(text, "book.caltrin");
    let told: Vec<&String> = reading.diagnostics.iter().map(|d| &d.message).collect();
    reading.checked.unwrap_or_else(|| panic!("{told:#?}"))
}

/// The bits of a light's first lamps at many moments.
fn bits(checked: &ValidatedProgram, light: &str, lamps: usize) -> Vec<u32> {
    let id = checked.program().light_named(light).expect("the light is there");
    let mut run = Run::new(checked);
    let mut out = vec![0.0; run.width(id) * lamps];
    let mut all = Vec::new();
    for n in -200..400 {
        run.advance(Seconds(f64::from(n) * 0.37));
        run.read(id, 0, &mut out);
        all.extend(out.iter().map(|v| v.to_bits()));
    }
    all
}

#[test]
fn a_book_and_its_builder_twin_give_the_same_bits() {
    let book = checked(
        "lightbook \"Twin\"
seed 41
color brass = color(srgb-linear 0.6 0.5 0.1)
curve hunting { 0s 100%; 450ms 82% smooth; 1.1s 118% ease-out; 2.3s 100% cubic-bezier(0.3, -0.9, 0.6, 1.8) }
signal supply = loop(hunting)
behavior buzzing(floor = 85%, rate = 60ms) {
  signal level = held(floor..100%, every rate..rate * 4)
  gives min(level, level * 2 - 10%)
}
light mast[8] spot {
  position  (0m, 6m, 0m), (7m, 0m, 0m)
  cone      20deg..50deg
  color     if supply above 95% then #ffcc88 else brass
  intensity 6200lm * buzzing(60%) * supply
}
light lamps[5] point {
  seed 7
  signal flame = held(80%..100%, every 70ms..210ms)
  reach     1m * flame..9m
  color     2450K
  intensity mix(5cd, 40cd, by flame) * alternate(hunting, scatter) + 1cd * (buzzing() + buzzing(rate 90ms)) * clamp(supply, to 90%..1)
}
",
    );
    let mut twin = Book::new("Twin", Seed(41));
    let hunting = twin.curve(
        "hunting",
        [
            (ms(0.0), 1.0, Easing::Linear),
            (ms(450.0), 0.82, Easing::Smooth),
            (Seconds(1.1), 1.18, Easing::CSS[2].1),
            (Seconds(2.3), 1.0, Easing::Bezier([0.3, -0.9, 0.6, 1.8])),
        ],
    );
    let supply = twin.signal("supply", hunting.looped(Start::Unsaid));
    let buzzing = twin.behavior("buzzing", |b| {
        let floor = b.parameter("floor", number(0.85));
        let rate = b.parameter("rate", time(ms(60.0)));
        let level =
            b.part("level", held_every(floor, number(1.0), rate.clone(), rate * number(4.0)));
        level.clone().min(level * number(2.0) - number(0.1))
    });
    twin.light(
        Light::spot("mast")
            .many(8)
            .row(point(0.0, 6.0, 0.0), point(7.0, 0.0, 0.0))
            .cone(angle(Degrees(20.0)), angle(Degrees(50.0)))
            .color(select(
                supply.clone().above(number(0.95)),
                srgb(0xff_cc_88),
                rgb(Rgb([0.6, 0.5, 0.1])),
            ))
            .intensity(
                lumens(6200.0) * buzzing.call().with("floor", number(0.6)).value() * supply.clone(),
            ),
    );
    let flame = Light::part("flame", held(number(0.8), number(1.0), ms(70.0)..=ms(210.0)));
    twin.light(
        Light::point("lamps")
            .many(5)
            .seed(7)
            .reach(meters(1.0) * flame.clone(), meters(9.0))
            .color(kelvin(2450.0))
            .intensity(
                candelas(5.0).mix(candelas(40.0), flame) * hunting.alternating(Start::Scattered)
                    + candelas(1.0)
                        * (buzzing.call().value()
                            + buzzing.call().with("rate", time(ms(90.0))).value())
                        * supply.clamp(number(0.9), number(1.0)),
            ),
    );
    let twin = twin.check().expect("the twin is good");
    for (light, lamps) in [("mast", 8), ("lamps", 5)] {
        assert_eq!(bits(&book, light, lamps), bits(&twin, light, lamps), "{light}");
    }
}

#[test]
fn every_function_of_the_language_is_in_the_builder_and_gives_the_same_bits() {
    let book = checked(
        "lightbook \"Twin\"
seed 9
curve dip { 0s 100%; 900ms 30% smooth; 3.1s 80% ease-out }
curve tints { 0s #ff8000; 1.3s #2040ff smooth; 2.9s #80ff80 }
curve path { 0s (0m, 0m, 0m); 1.1s (1m, 2m, 0m) smooth; 2.3s (0m, 0m, 1m) }
curve shown { 0s on; 700ms off; 1.9s on }
curve by_ratio { 0% 10lm; 60% 90lm smooth; 100% 20lm }
signal ratio = sine(10%..90%, every 3.3s, phase 20%)
light first area {
  intensity  by_ratio(ratio) * held(20%..100%, every 200ms..900ms, over 60%) * bursts(on 80ms..600ms, off 200ms..2s)
  color      mix(hue(loop(tints), by ratio * 40deg), scaled(#ffffff, by 60%), by ratio, linear)
  falloff    drift(1..3, rate 2Hz, octaves 3) + stretch(loop(dip, part 100ms..2s), by 170%)
  position   loop(path) + mix((0m, 1m, 0m), (1m, 0m, 0m), by root(threshold(ratio, at 50%, over 12%)))
  offset     wander(radius 3cm, rate 4Hz, octaves 2)
  aim        later(alternate(path), by 400ms)
  shadows    loop(shown)
}
light row[4] point {
  intensity  5lm * later(square(20%..1, every 1.1s, phase 0, on 35%), each 150ms) * stepped(triangle(0.1..1, every 1.9s, phase 0, scatter), every 83ms)
  color      drawn(kelvin(2000 + 900 * ratio), 2700K, #80a0ff)
  except [2] { intensity 2lm * drawn(50%..90%) }
}
light sun directional { intensity 3lx * map(saw(0..1, every 2.3s, phase 0), from 20%..80%, to 1..30%, ease-in); color drawn(#ff0000, #00ff00, every 400ms..2s) }
fitting pair {
  signal flame = held(50%..100%, every 70ms..210ms)
  light core point { intensity 9lm * flame }
  light glow[2] point { position (0m, 1m, 0m), (0m, 0m, 1m); intensity 4lm * flame * held(80%..100%, every 50ms..90ms) }
}
place quay[3] of pair { position (0m, 3m, 9m), (5m, 0m, 0m) }
curve straight { blend linear; 0s #ff8000; 1.3s #2040ff; 2.9s #80ff80 smooth }
light beacon point { intensity 5lm * rhythm(on 90ms, off 300ms, on 1s, off 70ms, scatter); color loop(straight) }
output sky = loop(tints)
output stars[5] { level held(40%..100%, every 200ms..900ms); tint drawn(#ffd9b0, #b8ccff) }
",
    );
    let mut twin = Book::new("Twin", Seed(9));
    let ease_out = Easing::named("ease-out").unwrap();
    let ease_in = Easing::named("ease-in").unwrap();
    let dip = twin.curve(
        "dip",
        [
            (Seconds(0.0), 1.0, Easing::Linear),
            (ms(900.0), 0.3, Easing::Smooth),
            (Seconds(3.1), 0.8, ease_out),
        ],
    );
    let hex = |v: u32| {
        let [_, r, g, b] = v.to_be_bytes();
        Rgb::from_srgb8(r, g, b)
    };
    let tints = twin.curve::<kinds::Color>(
        "tints",
        [
            (Seconds(0.0), hex(0xff_80_00), Easing::Linear),
            (Seconds(1.3), hex(0x20_40_ff), Easing::Smooth),
            (Seconds(2.9), hex(0x80_ff_80), Easing::Linear),
        ],
    );
    let path = twin.curve::<kinds::Point>(
        "path",
        [
            (Seconds(0.0), [0.0, 0.0, 0.0], Easing::Linear),
            (Seconds(1.1), [1.0, 2.0, 0.0], Easing::Smooth),
            (Seconds(2.3), [0.0, 0.0, 1.0], Easing::Linear),
        ],
    );
    let shown = twin.curve::<kinds::OnOff>(
        "shown",
        [
            (Seconds(0.0), true, Easing::Linear),
            (ms(700.0), false, Easing::Linear),
            (Seconds(1.9), true, Easing::Linear),
        ],
    );
    let by_ratio = twin.ramp::<kinds::Number, kinds::Lumen>(
        "by_ratio",
        [
            (Place(0.0), 10.0, Easing::Linear),
            (Place(0.6), 90.0, Easing::Smooth),
            (Place(1.0), 20.0, Easing::Linear),
        ],
    );
    let (none, unsaid) = (number(0.0), Start::Unsaid);
    let sine = wave(Wave::Sine, number(0.1), number(0.9), time(Seconds(3.3)), number(0.2), unsaid);
    let ratio = twin.signal("ratio", sine);
    let reddish = tints.looped(unsaid).turn_hue(angle(Degrees(40.0)) * ratio.clone());
    twin.light(
        Light::area("first")
            .intensity(
                by_ratio.at(ratio.clone())
                    * held_softly(number(0.2), number(1.0), ms(200.0)..=ms(900.0), number(0.6))
                    * bursts(ms(80.0)..=ms(600.0), ms(200.0)..=Seconds(2.0)),
            )
            .color(reddish.mix_linear(srgb(0xff_ff_ff).scaled(number(0.6)), ratio.clone()))
            .falloff(
                drift(number(1.0), number(3.0), rate(Hertz(2.0)), 3)
                    + dip.part_looped(ms(100.0)..=Seconds(2.0), unsaid).stretch(number(1.7)),
            )
            .position(
                path.looped(unsaid)
                    + point(0.0, 1.0, 0.0).mix(
                        point(1.0, 0.0, 0.0),
                        of_numbers(
                            Pure::Root,
                            [ratio.clone().threshold(number(0.5), number(0.12))],
                        ),
                    ),
            )
            .offset(wander(meters(0.03), rate(Hertz(4.0)), 2))
            .aim(path.alternating(unsaid).later(time(ms(400.0))))
            .shadows(shown.looped(unsaid)),
    );
    let chase =
        square(number(0.2), number(1.0), time(Seconds(1.1)), none.clone(), number(0.35), unsaid)
            .later_each(time(ms(150.0)));
    let steps = wave(
        Wave::Triangle,
        number(0.1),
        number(1.0),
        time(Seconds(1.9)),
        none.clone(),
        Start::Scattered,
    )
    .stepped(time(ms(83.0)));
    twin.light(
        Light::point("row")
            .many(4)
            .intensity(
                (lumens(5.0) * chase * steps)
                    .except(2, lumens(2.0) * drawn(number(0.5), number(0.9))),
            )
            .color(one_of([
                kelvin_of(number(2000.0) + number(900.0) * ratio.clone()),
                kelvin(2700.0),
                srgb(0x80_a0_ff),
            ])),
    );
    let saw = wave(Wave::Saw, none.clone(), number(1.0), time(Seconds(2.3)), none, unsaid);
    twin.light(
        Light::directional("sun")
            .intensity(
                lux(3.0) * saw.map([number(0.2), number(0.8)], [number(1.0), number(0.3)], ease_in),
            )
            .color(one_of_every(ms(400.0)..=Seconds(2.0), [srgb(0xff_00_00), srgb(0x00_ff_00)])),
    );
    let row = (point(0.0, 3.0, 9.0), point(5.0, 0.0, 0.0));
    twin.place(Instances::new("quay").many(3).row(row.0, row.1), |pair| {
        let flame = pair.signal("flame", held(number(0.5), number(1.0), ms(70.0)..=ms(210.0)));
        pair.light(Light::point("core").intensity(lumens(9.0) * flame.clone()));
        pair.light(
            Light::point("glow").many(2).row(point(0.0, 1.0, 0.0), point(0.0, 0.0, 1.0)).intensity(
                lumens(4.0) * flame * held(number(0.8), number(1.0), ms(50.0)..=ms(90.0)),
            ),
        );
    });
    let straight = twin.linear_curve(
        "straight",
        [
            (Seconds(0.0), hex(0xff_80_00), Easing::Linear),
            (Seconds(1.3), hex(0x20_40_ff), Easing::Linear),
            (Seconds(2.9), hex(0x80_ff_80), Easing::Smooth),
        ],
    );
    let times = [(true, ms(90.0)), (false, ms(300.0)), (true, Seconds(1.0)), (false, ms(70.0))];
    twin.light(
        Light::point("beacon")
            .intensity(lumens(5.0) * rhythm(times, Start::Scattered))
            .color(straight.looped(unsaid)),
    );
    twin.output(Output::of("sky", tints.looped(unsaid)));
    twin.output(
        Output::new("stars")
            .many(5)
            .value("level", held(number(0.4), number(1.0), ms(200.0)..=ms(900.0)))
            .value("tint", one_of([srgb(0xff_d9_b0), srgb(0xb8_cc_ff)])),
    );
    let twin = twin.check().expect("the twin is good");
    for (light, lamps) in [
        ("first", 1),
        ("row", 4),
        ("sun", 1),
        ("quay.core", 3),
        ("quay.glow", 6),
        ("beacon", 1),
        ("sky", 1),
        ("stars", 5),
    ] {
        assert_eq!(bits(&book, light, lamps), bits(&twin, light, lamps), "{light}");
    }
}

#[test]
fn the_space_says_in_which_unit_places_are_given_out() {
    let lines = "light a point { position (1m, 2m, 50cm); reach 1m..4m; offset (2cm, 0m, 0m) }\n\
                 light b spot { aim (0m, -3m, 0m) }\noutput c = 25cm\n";
    let read = |space: &str, light: &str| {
        let book = checked(&format!("lightbook \"S\"\n{lines}{space}\n"));
        let id = book.program().light_named(light).unwrap();
        let mut run = Run::new(&book);
        let mut out = vec![0.0; run.width(id)];
        run.read(id, 0, &mut out);
        out
    };
    assert_eq!(read("", "a"), [1.0, 4.0, 1.0, 2.0, 0.5, 0.02, 0.0, 0.0]);
    let centimeters = "space { up z; unit 1cm }";
    assert_eq!(read(centimeters, "a"), [100.0, 400.0, 100.0, 200.0, 50.0, 2.0, 0.0, 0.0]);
    assert_eq!(read(centimeters, "b"), [0.0, -1.0, 0.0], "a direction has no unit");
    assert_eq!(read(centimeters, "c"), [25.0]);
}

#[test]
fn the_builder_tells_what_is_wrong_and_where() {
    let mut book = Book::new("Wrong", Seed(1));
    let curve = book.curve("short", [(Seconds(0.0), 1.0, Easing::Linear)]);
    book.light(Light::point("a").intensity(lumens(1.0) / number(0.0)));
    book.light(Light::ambient("b").intensity(candelas(1.0)));
    book.light(Light::point("c").intensity(lumens(1.0) * curve.once()).color(srgb(0)));
    let refused = book.check().unwrap_err();
    let told: Vec<String> = refused.iter().map(ToString::to_string).collect();
    assert_eq!(
        told,
        [
            "curve `short`: a curve needs at least two stops",
            "light `a`, intensity: this can divide by 0: the divisor lies between 0 and 0",
            "light `b`: expected a strength in lx, or a number as a factor, found a strength in cd",
            "light `c`: a lamp's color cannot be black; make its intensity 0 instead",
        ]
    );
}

const TWO: &str = "lightbook \"Two\"\nseed 5\n\
    light first[4] point { intensity 1lm * held(0..1, every 50ms..90ms) }\n\
    light second point { intensity 1lm * (held(0..1, every 50ms..90ms) + held(0..1, every 50ms..90ms)) }\n";

#[test]
fn renaming_or_adding_a_light_changes_no_one_elses_chance() {
    let before = bits(&checked(TWO), "second", 1);
    let renamed = TWO.replace("light first[4]", "light other[4]");
    assert_eq!(bits(&checked(&renamed), "second", 1), before);
    let added = TWO.replace(
        "light first",
        "signal more = held(0..1, every 1s)\nlight zeroth point { intensity 1lm * held(0..1, every 50ms..90ms) }\nlight first",
    );
    assert_eq!(bits(&checked(&added), "second", 1), before);
    assert_ne!(bits(&checked(&TWO.replace("seed 5", "seed 6")), "second", 1), before);
}

#[test]
fn a_seed_in_a_light_keeps_its_chance_through_a_new_name() {
    let pinned = |name: &str| {
        let text = format!(
            "lightbook \"P\"\nseed 5\nlight {name} point {{ seed 9; intensity 1lm * held(0..1, every 50ms..90ms) }}\n"
        );
        bits(&checked(&text), name, 1)
    };
    assert_eq!(pinned("old"), pinned("new"));
}

#[test]
fn a_single_lamp_that_becomes_an_array_keeps_its_flicker() {
    let array = TWO.replace("light second point", "light second[3] point");
    let single = bits(&checked(TWO), "second", 1);
    assert_eq!(bits(&checked(&array), "second", 1), single);
}

#[test]
fn two_uses_are_never_in_step_and_one_signal_always_is() {
    let book = checked(
        "lightbook \"S\"\nbehavior f() = held(0..1, every 50ms..90ms)\nsignal shared = f()\n\
         light apart point { reach 1m + 1m * f(); intensity 1lm * f() }\n\
         light same point { reach 1m + 1m * shared; intensity 1lm * shared + 1lm }\n\
         light lamps[2] point { intensity 1lm * f() }\n\
         light copy point { intensity 1lm * f() }\n",
    );
    let pairs = |light: &str, lamps| -> Vec<(u32, u32)> {
        bits(&book, light, lamps).chunks(2).map(|pair| (pair[0], pair[1])).collect()
    };
    let equal = |pairs: &[(u32, u32)]| pairs.iter().filter(|(a, b)| a == b).count();
    assert_eq!(equal(&pairs("same", 1)), 600);
    let apart = pairs("apart", 1);
    let differing = apart
        .iter()
        .filter(|(intensity, reach)| f32::from_bits(*intensity) + 1.0 != f32::from_bits(*reach));
    assert!(differing.count() > 590);
    assert!(equal(&pairs("lamps", 2)) < 5);
    let (first, copy) = (bits(&book, "lamps", 1), bits(&book, "copy", 1));
    assert!(first.iter().zip(&copy).filter(|(a, b)| a == b).count() < 5);
}

#[test]
fn curves_play_as_they_are_called() {
    let book = checked(
        "lightbook \"C\"\ncurve up { 0s 0; 1s 1; 2s 4 }\n\
         light a point { intensity once(up) }\nlight b point { intensity loop(up) }\n\
         light c point { intensity alternate(up) }\n",
    );
    let level = |light: &str, t: f64| {
        let id = book.program().light_named(light).unwrap();
        let mut run = Run::new(&book);
        run.advance(Seconds(t));
        let mut out = [0.0];
        run.read(id, 0, &mut out);
        out[0]
    };
    for (t, once, looped, there_and_back) in [
        (-0.5, 0.0, 2.5, 0.5),
        (0.0, 0.0, 0.0, 0.0),
        (0.5, 0.5, 0.5, 0.5),
        (1.5, 2.5, 2.5, 2.5),
        (2.0, 4.0, 0.0, 4.0),
        (2.5, 4.0, 0.5, 2.5),
        (1e6 + 0.5, 4.0, 0.5, 0.5),
    ] {
        assert_eq!(
            [level("a", t), level("b", t), level("c", t)],
            [once, looped, there_and_back],
            "{t}"
        );
    }
}

#[test]
fn a_dark_lamp_color_goes_into_the_strength_and_an_ambient_tint_keeps_it() {
    let book = checked(
        "lightbook \"D\"\nlight lamp point { color color(srgb-linear 0.5 0.25 0); intensity 8lm }\n\
         light air ambient { color color(srgb-linear 0.5 0.25 0); intensity 8lx }\n",
    );
    let mut run = Run::new(&book);
    let mut out = [0.0; 4];
    run.read(book.program().light_named("lamp").unwrap(), 0, &mut out);
    assert_eq!(out, [4.0, 1.0, 0.5, 0.0]);
    run.read(book.program().light_named("air").unwrap(), 0, &mut out);
    assert_eq!(out, [8.0, 0.5, 0.25, 0.0]);
}

#[test]
fn what_a_light_does_not_name_is_not_driven() {
    let book = checked("lightbook \"N\"\nlight lamp spot { intensity 50%; reach 9m }\n");
    let light = book.program().light(book.program().light_named("lamp").unwrap());
    let fields: Vec<Field> = light.drives.iter().map(|drive| drive.field).collect();
    assert_eq!(fields, [Field::Intensity, Field::ReachOuter]);
}

#[test]
fn inputs_of_a_book_and_of_its_builder_twin_are_the_same() {
    let text = "lightbook \"Twin\"
seed 5
input swell = 20% in 0%..100%
input open = on
place quay[3] of bollard
fitting bollard { input draft = 50% in 0%..200%; light glow point { intensity 100lm * draft * swell } }
light mast[4] point { input trim = 100% in 0%..150%; intensity if open then 10lm * trim * held(50%..100%, every 100ms..200ms) else 0lm }
";
    let book = checked(text);
    let mut twin = Book::new("Twin", Seed(5));
    let swell = twin.input::<kinds::Number>("swell", 0.2, 0.0..=1.0);
    let open = twin.plain_input::<kinds::OnOff>("open", true);
    twin.place(Instances::new("quay").many(3), |quay| {
        let draft = quay.input::<kinds::Number>("draft", 0.5, 0.0..=2.0);
        quay.light(Light::point("glow").intensity(lumens(100.0) * draft * swell.clone()));
    });
    let trim = Light::input::<kinds::Number>("trim", 1.0, 0.0..=1.5);
    let flicker = held(number(0.5), number(1.0), ms(100.0)..=ms(200.0));
    let level = select(open, lumens(10.0) * trim * flicker, lumens(0.0));
    twin.light(Light::point("mast").many(4).intensity(level));
    let twin = twin.check().unwrap();
    let inputs = |checked: &ValidatedProgram| {
        let all = checked.program().inputs().map(|(_, input)| input.clone());
        all.collect::<Vec<_>>()
    };
    assert_eq!(inputs(&book), inputs(&twin));
    for (light, lamps) in [("quay.glow", 3), ("mast", 4)] {
        assert_eq!(bits(&book, light, lamps), bits(&twin, light, lamps));
    }
    let mut wrong = Book::new("Wrong", Seed(5));
    wrong.input::<kinds::Number>("swell", 2.0, 0.0..=1.0);
    let refused = wrong.check().unwrap_err();
    assert_eq!(refused[0].to_string(), "input `swell`: the default is outside 0..1");
}

#[test]
fn walls_and_posts_stand_where_the_book_or_the_builder_puts_them() {
    let book = checked(
        "lightbook \"Twin\"
space { up z; unit 1cm }
wall shed { along (0m, 1m, 0m)..(4m, 1m, 0m); height 3m }
post pile[2] { position (0m, 0m, 0m), (2m, 1m, 0m); radius 25cm; height 1m }",
    );
    let mut twin = Book::new("Twin", Seed(0));
    twin.wall("shed", [0.0, 0.0, -1.0], [4.0, 0.0, -1.0], Meters(3.0));
    twin.post("pile", [0.0, 0.0, 0.0], Meters(0.25), Meters(1.0));
    twin.post("pile", [2.0, 0.0, -1.0], Meters(0.25), Meters(1.0));
    let twin = twin.check().unwrap();
    assert_eq!(book.program().solids(), twin.program().solids());
}

#[test]
fn eyes_and_backdrops_are_where_the_book_or_the_builder_puts_them() {
    let book = checked(
        "lightbook \"Twin\"
space { up z; unit 1cm }
output air { range 40m; tone #ffffff }
eye door { at (0m, -8m, 1.7m); toward (1m, 0m, 2m); field 70deg; fog air.range, air.tone; sky air.tone }
backdrop \"deck.png\" { from (-3m, 2m, 0m); to (3m, -2m, 0m) }
backdrop \"side.png\" { from (-3m, 2m, 0m); to (3m, 2m, 4m) }",
    );
    let mut twin = Book::new("Twin", Seed(0));
    let white = Rgb([1.0; 3]);
    let air = Output::new("air").value("range", meters(40.0)).value("tone", rgb(white));
    twin.output(air);
    twin.eye(Viewpoint {
        name: "door",
        at: [0.0, 1.7, 8.0],
        toward: [1.0, 2.0, 0.0],
        field: Degrees(70.0),
        fog: Some("air.range"),
        fog_color: Some("air.tone"),
        sky: Some("air.tone"),
    });
    twin.backdrop("deck.png", [-3.0, 0.0, -2.0], [3.0, 0.0, 2.0]);
    twin.backdrop("side.png", [-3.0, 0.0, -2.0], [3.0, 4.0, -2.0]);
    let twin = twin.check().unwrap();
    assert_eq!(book.program().eyes(), twin.program().eyes());
    let (backdrops, built) = (book.program().backdrops(), twin.program().backdrops());
    assert_eq!(backdrops, built);
    assert_eq!([built[0].lies(), built[1].lies()], [true, false]);
    // Corners in another order are the same picture, unless it stands.
    let [corner, across, down] = built[0].edges();
    assert_eq!((corner, across, down), ([-3.0, 0.0, -2.0], [6.0, 0.0, 0.0], [0.0, 0.0, 4.0]));
    let turned = Backdrop { from: built[0].to, to: built[0].from, ..built[0].clone() };
    assert_eq!(turned.edges(), built[0].edges());
    assert_eq!(built[1].edges(), [[-3.0, 4.0, -2.0], [6.0, 0.0, 0.0], [0.0, -4.0, 0.0]]);

    let mut wrong = Book::new("Twin", Seed(0));
    let eye = Viewpoint {
        name: "e",
        at: [0.0; 3],
        toward: [1.0; 3],
        field: Degrees(60.0),
        fog: None,
        fog_color: None,
        sky: Some("sky"),
    };
    wrong.eye(eye);
    wrong.eye(Viewpoint { sky: None, toward: [0.0; 3], ..eye });
    wrong.backdrop("flat.png", [0.0; 3], [0.0, 2.0, 0.0]);
    let refused = wrong.check().unwrap_err();
    let told: Vec<String> = refused.iter().map(ToString::to_string).collect();
    assert_eq!(
        told,
        [
            "eye `e`: there is no output `sky` with a single value",
            "eye `e`: an eye must look toward a point at least 1cm away",
            "backdrop `flat.png`: a backdrop must be at least 1cm wide and high",
        ]
    );
}
