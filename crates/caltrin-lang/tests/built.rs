//! A book of all that events drive, and its twin from the builder, give bit-identical results.

use caltrin_core::build::event::{Replay, Turns, pulse};
use caltrin_core::build::kinds::{Color, Number, Point};
use caltrin_core::build::scene::{Group, Message, Pool, Rules, follow, near};
use caltrin_core::build::script::{Script, base};
use caltrin_core::build::{
    Book, Curve, Instances, Light, Output, Value, candelas, drawn, held, lumens, meters, number,
    point, srgb,
};
use caltrin_core::curve::Easing;
use caltrin_core::program::{Clock, Constant};
use caltrin_core::quantity::{Hours, Seconds, Seed, ms};
use caltrin_core::{Run, ValidatedProgram};
use caltrin_lang::read;

const TEXT: &str = "lightbook \"Twin\"
seed 9
clock { day 48s; start 05:30 }
input swell = 20% in 0%..100%
input walker = (9m, 0m, 0m)
event rocket(place = (0m, 0m, 0m), tint = #ffffff, size = 1 in 0..4), calms, knock
event high when swell above 80% rearm below 60%
event rough when swell above 50% for 2s
event noon at 12:00
modes sea {
  calm, wild, spent
  calm -> wild when swell above 70% over 1s
  wild -> spent after 3s over 500ms smooth
  any -> calm at calms over 2s
}
curve dip { 0s 20%; 400ms 90% smooth; 1.5s 20% ease-out }
curve wheel { 0s 0%; 1.3s 100% smooth; 3.1s 0% }
switch power { starts on; flip at knock over 300ms }
light gangway point { color #ffffff; intensity 20cd * held(60%..100%, every 100ms..300ms) }
sequence docking at knock again restart {
  500ms gangway.intensity 90cd smooth
  1s gangway.color #ffb000
  2s gangway.intensity base ease-out
  +1s mark opens
  5s return over 1s smooth
  stops at calms over 400ms
}
sequence later at opens { 200ms gangway.intensity 70cd; 600ms return }
output told = pulse(at opens, lasts 700ms)
group all { dim with power to 3%; lights lamp; tint with power to #ff8000 }
light lamp point {
  color #ffffff
  intensity 80lm * pick(sea, calm 20%, wild 100%, spent 50%) * play(dip, at knock, again add) + 20lm * play(dip, at knock, again finish)
}
output mark {
  a pulse(at high, lasts 1s) + pulse(at rough, lasts 2s) + pulse(at noon, lasts 3s)
  b follow(swell, attack 200ms, release 1s)
  c pace(once(wheel), by swell)
  d near(walker, from (1m, 0m, 0m), full 2m, none 12m, smooth)
  e once(wheel, since knock)
}
spark shell[3] point at rocket share 2 in 3 {
  lives 900ms..1.6s
  overflow ignore
  position rocket.place
  color rocket.tint
  intensity 40cd * (1 - life) * rocket.size
}
fitting cell {
  event door
  event drip every 1s..3s
  switch open { flip at door over 400ms; off at calms }
  light bulb point { intensity 30lm * open + 5lm * pulse(at drip, lasts 300ms) }
}
place block[3] of cell { position (0m, 0m, 0m), (2m, 0m, 0m) }
at knock send thud(\"dull\" or \"sharp\", loud drawn(40%..80%), where rocket.place) from lamp
";

fn twin() -> ValidatedProgram {
    let mut book = Book::new("Twin", Seed(9));
    book.clock(Clock { day: Seconds(48.0), start: Hours(5.5), rate: 1.0 });
    let swell: Value<Number> = book.input("swell", 0.2, 0.0..=1.0);
    let walker: Value<Point> = book.plain_input("walker", [9.0, 0.0, 0.0]);
    let rocket = book.event("rocket");
    let place: Value<Point> = book.plain_event_value(rocket, "place", [0.0; 3]);
    let tint: Value<Color> =
        book.plain_event_value(rocket, "tint", caltrin_core::color::Rgb([1.0; 3]));
    let size: Value<Number> = book.event_value(rocket, "size", 1.0, 0.0..=4.0);
    let (calms, knock) = (book.event("calms"), book.event("knock"));
    let above = |bound: f64| swell.clone().above(number(bound));
    let again = number(0.6).above(swell.clone());
    let high = book.event_when("high", &above(0.8), None, Some(&again));
    let rough = book.event_when("rough", &above(0.5), Some(Seconds(2.0)), None);
    let noon = book.event_at_hour("noon", Hours(12.0));
    let linear = Easing::Linear;
    let sea = book.modes(
        "sea",
        Rules::of(&["calm", "wild", "spent"])
            .when((Some("calm"), "wild"), above(0.7), None, Seconds(1.0), linear)
            .after((Some("wild"), "spent"), Seconds(3.0), ms(500.0), Easing::Smooth)
            .at((None, "calm"), calms, Seconds(2.0), linear),
    );
    let ease_out = Easing::named("ease-out").unwrap();
    let dip = book.curve(
        "dip",
        [
            (Seconds(0.0), 0.2, linear),
            (ms(400.0), 0.9, Easing::Smooth),
            (Seconds(1.5), 0.2, ease_out),
        ],
    );
    let wheel: Curve<Number> = book.curve(
        "wheel",
        [
            (Seconds(0.0), 0.0, linear),
            (Seconds(1.3), 1.0, Easing::Smooth),
            (Seconds(3.1), 0.0, linear),
        ],
    );
    let power = book.switch("power", Turns::starting_on().flip(knock, ms(300.0), linear));
    let all = Group::new("all")
        .dim(power.level.clone(), number(0.03))
        .tint(power.level.clone(), srgb(0xff8000));
    let level = sea
        .pick([("calm", number(0.2)), ("wild", number(1.0)), ("spent", number(0.5))], number(0.0));
    let strength = lumens(80.0) * level * dip.replayed_at(knock, Replay::Add, None)
        + lumens(20.0) * dip.replayed_at(knock, Replay::Finish, None);
    let marks = book.sequence(
        "docking",
        Script::at(&[knock])
            .restarting()
            .lead(
                "gangway",
                "intensity",
                [(ms(500.0), candelas(90.0), Easing::Smooth), (Seconds(2.0), base(), ease_out)],
                Some((Seconds(5.0), Seconds(1.0), Easing::Smooth)),
            )
            .lead(
                "gangway",
                "color",
                [(Seconds(1.0), srgb(0xffb000), linear)],
                Some((Seconds(5.0), Seconds(1.0), Easing::Smooth)),
            )
            .mark("opens", Seconds(3.0))
            .stopped_at(&[calms], ms(400.0), linear),
    );
    let opens = marks[0];
    let back = Some((ms(600.0), Seconds(0.0), linear));
    let later = Script::at(&[opens]);
    let seventy = [(ms(200.0), candelas(70.0), linear)];
    book.sequence("later", later.lead("gangway", "intensity", seventy, back));
    let buzz = held(number(0.6), number(1.0), ms(100.0)..=ms(300.0));
    book.light(Light::point("gangway").color(srgb(0xffffff)).intensity(candelas(20.0) * buzz));
    book.output(Output::of("told", pulse(opens, ms(700.0))));
    book.light(Light::point("lamp").color(srgb(0xffffff)).intensity(strength).in_group(&all));
    let lasting =
        pulse(high, Seconds(1.0)) + pulse(rough, Seconds(2.0)) + pulse(noon, Seconds(3.0));
    let closeness = near(&walker, &point(1.0, 0.0, 0.0), meters(2.0), meters(12.0), Easing::Smooth);
    book.output(
        Output::new("mark")
            .value("a", lasting)
            .value("b", follow(&swell, ms(200.0), Seconds(1.0)))
            .value("c", wheel.once().paced(&swell))
            .value("d", closeness)
            .value("e", wheel.once().since(knock)),
    );
    let pool = Pool::new("shell", 3, rocket, ms(900.0)..=Seconds(1.6)).share(2.0 / 3.0).ignoring();
    book.sparks(pool, |spark| {
        let fading = candelas(40.0) * (number(1.0) - spark.life()) * spark.kept(&size);
        Light::point("").position(spark.kept(&place)).color(spark.kept(&tint)).intensity(fading)
    });
    let row = Instances::new("block").many(3);
    let row = row.row(point(0.0, 0.0, 0.0), point(2.0, 0.0, 0.0));
    book.place(row, |cell| {
        let door = cell.event("door");
        let drip = cell.event_every("drip", Seconds(1.0), Seconds(3.0));
        let open = cell.switch(
            "open",
            Turns::starting_off().flip(door, ms(400.0), linear).off(calms, Seconds(0.0), linear),
        );
        let strength = lumens(30.0) * open.level + lumens(5.0) * pulse(drip, ms(300.0));
        cell.light(Light::point("bulb").intensity(strength));
    });
    let thud = Message::new("thud").texts(&["dull", "sharp"]).from("lamp", 0);
    let thud = thud.value("loud", &drawn(number(0.4), number(0.8))).value("where", &place);
    book.send(&[knock], thud);
    book.check().unwrap_or_else(|refused| panic!("{refused:#?}"))
}

/// What a book's lights and outputs give, light by light, as the game leads it through half a minute.
fn played(checked: &ValidatedProgram) -> Vec<(String, Vec<u32>)> {
    let program = checked.program();
    let event = |name: &str| program.event_named(name).expect("the event is there");
    let swell = program.input_named("swell").expect("the input is there");
    let walker = program.input_named("walker").expect("the input is there");
    let mut run = Run::new(checked);
    let mut all = Vec::new();
    for n in 0..900u32 {
        run.advance(Seconds(f64::from(n) / 30.0));
        match n % 90 {
            5 | 40 | 47 => run.fire(event("knock")),
            11 | 20 | 29 | 33 => run.fire_with(
                event("rocket"),
                &[
                    Constant::Vector([f64::from(n), 2.0, 1.0]),
                    Constant::Vector([0.5, 0.25, 1.0]),
                    Constant::Scalar(f64::from(n % 5)),
                ],
            ),
            17 => run.fire_at(event("block.door"), n % 3, &[]),
            60 => run.set(swell, 0, Constant::Scalar(0.9)).expect("it fits"),
            75 if n > 500 => run.fire(event("calms")),
            80 => run.set(swell, 0, Constant::Scalar(f64::from(n) / 2000.0)).expect("it fits"),
            85 => run
                .set(walker, 0, Constant::Vector([f64::from(n) / 90.0, 0.0, 0.0]))
                .expect("it fits"),
            _ => {}
        }
        for (id, light) in program.lights() {
            let mut out = vec![0.0; run.width(id) * light.size.shown() as usize];
            run.read(id, 0, &mut out);
            all.push((light.name.clone(), out.iter().map(|v| v.to_bits()).collect()));
        }
    }
    let notices = std::iter::from_fn(|| run.take_notice());
    let thuds: Vec<_> = notices.filter(|taken| taken.name == "thud").collect();
    assert!(thuds.len() > 10);
    for thud in thuds {
        // The chance of `loud` has the key of its place, which is another in the book's text.
        let [loud, place] = &thud.values[..] else { panic!("{:?}", thud.values) };
        assert_eq!((loud.name, place.name), ("loud", "where"));
        let Constant::Vector(place) = place.value else { panic!("{place:?}") };
        let bits = [thud.moment.0, place[0], place[1], place[2]].map(|v| (v as f32).to_bits());
        all.push(("thud".to_owned(), bits.to_vec()));
    }
    all
}

#[test]
fn a_book_and_its_builder_twin_give_the_same_bits() {
    let reading = read(TEXT, "twin.caltrin");
    let told: Vec<&String> = reading.diagnostics.iter().map(|d| &d.message).collect();
    let book = played(&reading.checked.unwrap_or_else(|| panic!("{told:#?}")));
    let twin = played(&twin());
    assert_eq!(book.len(), twin.len());
    for (n, (from_text, built)) in book.iter().zip(&twin).enumerate() {
        assert_eq!(from_text, built, "frame {}", n / 7);
    }
}

#[test]
fn what_cannot_be_built_is_refused_with_its_place() {
    let mut book = Book::new("Wrong", Seed(1));
    let hit = book.event("hit");
    book.modes("m", Rules::of(&["a", "b"]).at((None, "c"), hit, Seconds(1.0), Easing::Linear));
    book.event_at_hour("noon", Hours(12.0));
    book.sparks(Pool::new("s", 900, hit, ms(1.0)..=ms(2.0)), |_| Light::point(""));
    let x: Value<Number> = book.input("x", 0.0, 0.0..=1.0);
    let wave = caltrin_core::build::held(number(0.0), number(1.0), Seconds(1.0)..=Seconds(2.0));
    book.output(Output::of("o", follow(&(wave + x), Seconds(1.0), Seconds(1.0))));
    let refused = book.check().expect_err("it cannot be built");
    let told: Vec<String> = refused.iter().map(ToString::to_string).collect();
    insta::assert_snapshot!(told.join("\n"));
}
