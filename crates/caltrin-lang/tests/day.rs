//! What follows the hour: pure in it, whole over midnight, the same from the builder.

use caltrin_core::build::day::{Phase, SunPath, hour};
use caltrin_core::build::{
    Book, Light, Output, angle, candelas, held, kinds, lux, meters, number, on_off, select, srgb,
};
use caltrin_core::color::Rgb;
use caltrin_core::curve::Easing;
use caltrin_core::program::Clock;
use caltrin_core::program_builder::day::{Change, Lean};
use caltrin_core::quantity::{Degrees, Hours, Seconds, Seed, ms};
use caltrin_core::{Run, ValidatedProgram, sky};
use proptest::prelude::*;

const QUAY: &str = "lightbook \"Quay\"
seed 12
clock { day 30min; start 15:40 }
choice region { coast, hills, moor } over 6s
sun { latitude 54deg; longitude -2deg; date 324; year 2026; zone 0 }
moon { age 9 + days }
sun lamp_sun { rises 07:00; sets 17:30; highest 40deg; lowest -35deg; twilight 00:40 }
curve day {
  columns sky, light, gate, view
  06:50  #0d1420,    0%, off,  900m
  08:10  #8fa396,   55%, on,  1600m   smooth
  10:00  #b9c8cf,  100%, on,  4000m   smooth
  18:05  #0d1420,    0%, off,  900m   smooth
}
curve late { 18:00 0.2 smooth; 22:00 1; 02:00 0.4 ease-in; 05:30 0.7 jump }
hours shift from 22:00 to 06:00 over 00:40 before linear
hours dark from sun.set to sun.rise over 00:30
phases mood {
  night from 21:30 over 01:00 before tint #0d1420
  dawn  from 05:30 over 00:40        tint #8fa396
  bright from 10:00 over 02:00 after tint #ffffff
  dusk  from 17:00                   tint #b08a45
}
light mast point { intensity 10cd * dark * held(80%..100%, every 60ms..200ms); color mood.tint; reach 900m * day.light + 1m }
light sunlight directional { aim sun.aim; intensity 1lx * sun.strength; color sun.color }
light bell point { intensity if mood is night then 5cd else 1cd; shadows hour is in 20:00..05:00 }
output plain { a day.sky; b day.view; c late; d shift; e shift.through; f moon.strength; g lamp_sun.height; h lamp_sun.azimuth; i sun.rise; j sun.dusk; k moon.lit; l sun.daylight; m lamp_sun.noon; n day.gate }
output picked { a pick(mood, night 20%, others day.light); b pick(region, hills day.light, others 30%); c pick(mood, dawn #ff0000, others #0000ff); d region.moor; e days }
";

fn checked(text: &str) -> ValidatedProgram {
    let reading = caltrin_lang::read(text, "quay.caltrin");
    let told: Vec<&String> = reading.diagnostics.iter().map(|d| &d.message).collect();
    reading.checked.unwrap_or_else(|| panic!("{told:#?}"))
}

/// The bits of everything that the book puts out now.
fn bits(run: &mut Run<'_>, checked: &ValidatedProgram) -> Vec<u32> {
    let mut all = Vec::new();
    for (id, _) in checked.program().lights() {
        let mut out = vec![0.0; run.width(id)];
        run.read(id, 0, &mut out);
        all.extend(out.iter().map(|v| v.to_bits()));
    }
    all
}

fn values(run: &mut Run<'_>, checked: &ValidatedProgram, name: &str) -> Vec<f32> {
    let id = checked.program().light_named(name).expect("it is there");
    let mut out = vec![0.0; run.width(id)];
    run.read(id, 0, &mut out);
    out
}

#[derive(Clone, Debug)]
enum Act {
    Advance(f64),
    Set(f64),
    Drive(f64),
    Days(f64),
    Rate(f64),
}

fn acts() -> impl Strategy<Value = Vec<Act>> {
    let act = prop_oneof![
        (-1e6..1e6f64).prop_map(Act::Advance),
        (-30.0..60.0f64).prop_map(Act::Set),
        (0.0..24.0f64).prop_map(Act::Drive),
        (-1e4..1e4f64).prop_map(Act::Days),
        prop_oneof![Just(0.0), Just(1.0), Just(-1.0), Just(1e6), Just(-1e6), -1e6..1e6f64]
            .prop_map(Act::Rate),
    ];
    prop::collection::vec(act, 1..12)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(600))]

    #[test]
    fn the_state_at_an_hour_is_the_same_however_the_clock_got_there(acts in acts()) {
        let book = checked(QUAY);
        let mut run = Run::new(&book);
        for act in acts {
            match act {
                Act::Advance(to) => run.advance(Seconds(to)),
                Act::Set(to) => run.set_clock(Hours(to)),
                Act::Drive(to) => run.drive_clock(Hours(to)),
                Act::Days(days) => run.set_clock_days(days),
                Act::Rate(rate) => run.set_clock_rate(rate),
            }
            let shown = run.clock().unwrap();
            prop_assert!((0.0..24.0).contains(&shown.hour.0) && shown.days.fract() == 0.0, "{shown:?}");
            let mut fresh = Run::new(&book);
            fresh.advance(run.state().now);
            fresh.set_clock_days(shown.days);
            fresh.set_clock(shown.hour);
            prop_assert_eq!(fresh.clock().unwrap(), shown);
            prop_assert_eq!(bits(&mut fresh, &book), bits(&mut run, &book));
        }
    }

    #[test]
    fn a_window_is_what_walking_round_the_clock_says(
        start in 0.0..24.0f64, open in 0.1..23.9f64, rise in 0.0..3.0f64, fall in 0.0..3.0f64, at in 0.0..24.0f64
    ) {
        let (rise, fall) = (rise.min(open), fall.min(24.0 - open));
        // Three days of a plain line with no clock in it.
        let line = |x: f64| {
            let edge = |from: f64, over: f64| {
                if x < from { 0.0 } else if over == 0.0 { 1.0 } else { ((x - from) / over).min(1.0) }
            };
            edge(start, rise).min(1.0 - edge(start + open, fall))
        };
        let wanted = [-24.0, 0.0, 24.0].map(|day| line(at + day)).into_iter().fold(0.0, f64::max);
        let found = sky::hours_level(at, start, rise, (start + open).rem_euclid(24.0), fall);
        prop_assert!((wanted - found).abs() < 1e-9, "{wanted} {found}");
    }
}

#[test]
fn driving_the_clock_counts_days_the_short_way_and_setting_it_does_not() {
    let book = checked(QUAY);
    let mut run = Run::new(&book);
    let days = |run: &Run<'_>| run.clock().unwrap().days;
    for (to, wanted) in [(23.9, 0.0), (0.1, 1.0), (11.0, 1.0), (22.0, 1.0), (1.0, 2.0), (23.0, 1.0)]
    {
        run.drive_clock(Hours(to));
        run.advance(Seconds(run.state().now.0 + 100.0));
        assert_eq!(
            (run.clock().unwrap().hour, days(&run)),
            (Hours(to), wanted),
            "driven, it holds"
        );
    }
    run.set_clock(Hours(0.5));
    assert_eq!(days(&run), 1.0);
    run.set_clock_rate(-1.0);
    run.advance(Seconds(run.state().now.0 + 75.0));
    // 75 s of a day of 30 min are an hour.
    assert_eq!((run.clock().unwrap().hour, days(&run)), (Hours(23.5), 0.0));
    run.set_clock_rate(f64::NAN);
    run.set_clock(Hours(f64::INFINITY));
    assert_eq!(run.state().clock.rate, 1.0);
    assert_eq!(run.clock().unwrap().hour, Hours(15.0 + 40.0 / 60.0));
}

#[test]
fn nothing_that_follows_the_hour_has_a_seam_at_midnight() {
    let book = checked(QUAY);
    let mut run = Run::new(&book);
    let mut at = |hour: f64| {
        run.set_clock(Hours(hour));
        values(&mut run, &book, "plain")
    };
    let (before, after) = (at(24f64.next_down()), at(0.0));
    let sun = [7, 12, 13];
    for (n, (a, b)) in before.iter().zip(&after).enumerate() {
        // Sun and moon go on with the next day of the year, which has not begun for them.
        if !sun.contains(&n) {
            assert!((a - b).abs() < 1e-3 * (1.0 + a.abs()), "{n}: {a} {b}");
        }
    }
    // Between 22:00 and 02:00 it falls by 0.6, eased in.
    let half = at(0.0)[4];
    assert!((0.4..1.0).contains(&half), "{half}");
    assert_eq!(at(22.0)[4], 1.0);
    assert_eq!(at(5.5)[4], 0.7);
    assert_eq!(at(5.5f64.next_down())[4], 0.4, "a jump happens at its hour and not before");
}

#[test]
fn phases_share_the_day_out_and_never_leave_what_they_blend() {
    let book = checked(QUAY);
    let mut run = Run::new(&book);
    for n in 0..20_000u32 {
        let hour = f64::from(n) * 24.0 / 20_000.0;
        run.set_clock(Hours(hour));
        let picked = values(&mut run, &book, "picked");
        let day = values(&mut run, &book, "mast")[4] as f64;
        let light = (day - 1.0) / 900.0;
        let (lo, hi) = (light.min(0.2) - 1e-6, light.max(0.2) + 1e-6);
        assert!((lo..=hi).contains(&f64::from(picked[0])), "{hour}: {} {light}", picked[0]);
        // Night is all there is from 21:30 until dawn begins at 05:10.
        if !(5.16..21.5).contains(&hour) {
            assert_eq!(picked[0], 0.2, "{hour}");
        }
    }
    run.set_clock(Hours(5.5));
    let across = values(&mut run, &book, "picked");
    assert!((f64::from(across[0]) - 0.1).abs() < 1e-6, "halfway at the hour: {}", across[0]);
    assert_eq!(values(&mut run, &book, "bell")[0], 1.0, "and dawn by name");
}

#[test]
fn an_interrupted_choice_goes_on_from_where_it_was_and_ends_where_it_should() {
    let book = checked(QUAY);
    let program = book.program();
    let region = program.choice_named("region").unwrap();
    let mut run = Run::new(&book);
    run.set_clock(Hours(12.0));
    run.set_clock_rate(0.0);
    let weights = |run: &Run<'_>| {
        let choice = program.choice(region);
        [0, 1, 2].map(|n| run.state().choices[0].weight(choice, n, run.state().now))
    };
    assert_eq!(weights(&run), [1.0, 0.0, 0.0]);
    run.choose(region, 1);
    run.advance(Seconds(2.5));
    let before = weights(&run);
    run.choose(region, 2);
    assert_eq!(weights(&run), before, "nothing jumps");
    run.choose(region, 2);
    run.choose(region, 7);
    let mut last = before;
    for n in 0..=600u32 {
        run.advance(Seconds(2.5 + f64::from(n) * 0.01));
        let now = weights(&run);
        assert!((now.iter().sum::<f64>() - 1.0).abs() < 1e-12);
        assert!(now.iter().zip(last).all(|(a, b)| (a - b).abs() < 0.004), "{now:?} {last:?}");
        last = now;
    }
    assert_eq!(weights(&run), [0.0, 0.0, 1.0], "its full time after it was chosen it is there");
    assert_eq!(values(&mut run, &book, "picked")[1], 0.3);
}

#[test]
fn a_day_from_the_builder_gives_the_same_bits() {
    let book = checked(QUAY);
    let mut twin = Book::new("Quay", Seed(12));
    twin.clock(Clock { day: Seconds(1800.0), start: Hours(15.0 + 40.0 / 60.0), rate: 1.0 });
    let region = twin.choice("region", &["coast", "hills", "moor"], Seconds(6.0));
    let path = SunPath::earth(angle(Degrees(54.0)), number(324.0))
        .at_longitude(angle(Degrees(-2.0)))
        .in_year(2026, Some(0.0));
    let sun = twin.sun("sun", &path);
    let days = twin.days();
    let moon = twin.moon("moon", &sun, Some(number(9.0) + days.clone()));
    let at = |h: f64, m: f64| Hours((h * 3600.0 + m * 60.0) / 3600.0);
    let path = SunPath::hours(hour(at(7.0, 0.0)), hour(at(17.0, 30.0)))
        .between(Degrees(40.0), Degrees(-35.0))
        .twilight(at(0.0, 40.0));
    let lamp_sun = twin.sun("lamp_sun", &path);
    let smooth = Easing::Smooth;
    let rgb = |hex: u32| {
        let [_, r, g, b] = hex.to_be_bytes();
        Rgb::from_srgb8(r, g, b)
    };
    let linear = Easing::Linear;
    let stops =
        [(6.0, 50.0, linear), (8.0, 10.0, smooth), (10.0, 0.0, smooth), (18.0, 5.0, smooth)];
    let hours = stops.map(|(h, m, easing)| (at(h, m), easing));
    let column = |values: [f64; 4]| [0, 1, 2, 3].map(|n| (hours[n].0, values[n], hours[n].1));
    let skies = [0x0d1420, 0x8fa396, 0xb9c8cf, 0x0d1420];
    let sky = twin.day_curve::<kinds::Color>(
        "day.sky",
        [0, 1, 2, 3].map(|n| (hours[n].0, rgb(skies[n]), hours[n].1)),
    );
    let light = twin.day_curve::<kinds::Number>("day.light", column([0.0, 0.55, 1.0, 0.0]));
    let open = [false, true, true, false];
    let gate = twin.day_curve::<kinds::OnOff>(
        "day.gate",
        [0, 1, 2, 3].map(|n| (hours[n].0, open[n], hours[n].1)),
    );
    let view = twin.day_curve::<kinds::Length>("day.view", column([900.0, 1600.0, 4000.0, 900.0]));
    let late = twin.day_curve::<kinds::Number>(
        "late",
        [
            (Hours(18.0), 0.2, smooth),
            (Hours(22.0), 1.0, linear),
            (Hours(2.0), 0.4, Easing::named("ease-in").unwrap()),
            (Hours(5.5), 0.7, Easing::Jump),
        ],
    );
    let change = Change { over: at(0.0, 40.0), lean: Lean::Before };
    let shift = twin.open_hours("shift", hour(Hours(22.0)), hour(Hours(6.0)), change, linear);
    let change = Change { over: Hours(0.5), lean: Lean::Across };
    let dark = twin.open_hours("dark", sun.set(), sun.rise(), change, smooth);
    let mood = twin.phases(
        "mood",
        &[
            Phase::new("night", Hours(21.5)).over(Hours(1.0), Lean::Before).tint(rgb(0x0d1420)),
            Phase::new("dawn", Hours(5.5)).over(at(0.0, 40.0), Lean::Across).tint(rgb(0x8fa396)),
            Phase::new("bright", Hours(10.0)).over(Hours(2.0), Lean::After).tint(rgb(0xffffff)),
            Phase::new("dusk", Hours(17.0)).tint(rgb(0xb08a45)),
        ],
    );
    let flicker = held(number(0.8), number(1.0), ms(60.0)..=ms(200.0));
    twin.light(
        Light::point("mast")
            .intensity(candelas(10.0) * dark.open * flicker)
            .color(mood.tint())
            .outer_reach(meters(900.0) * light.clone() + meters(1.0)),
    );
    twin.light(
        Light::directional("sunlight")
            .aim(sun.aim())
            .intensity(lux(1.0) * sun.strength())
            .color(sun.color()),
    );
    let now = twin.hour();
    twin.light(
        Light::point("bell")
            .intensity(select(mood.is("night"), candelas(5.0), candelas(1.0)))
            .shadows(now.is_in(hour(Hours(20.0)), hour(Hours(5.0)))),
    );
    twin.output(
        Output::new("plain")
            .value("a", sky)
            .value("b", view)
            .value("c", late)
            .value("d", shift.open)
            .value("e", shift.through)
            .value("f", moon.strength())
            .value("g", lamp_sun.height())
            .value("h", lamp_sun.azimuth())
            .value("i", sun.rise())
            .value("j", sun.dusk())
            .value("k", moon.lit())
            .value("l", sun.daylight())
            .value("m", lamp_sun.noon())
            .value("n", gate),
    );
    twin.output(
        Output::new("picked")
            .value("a", mood.pick([("night", number(0.2))], light.clone()))
            .value("b", region.pick([("hills", light)], number(0.3)))
            .value("c", mood.pick([("dawn", srgb(0xff0000))], srgb(0x0000ff)))
            .value("d", region.weight("moor"))
            .value("e", days),
    );
    let twin = twin.check().unwrap();
    let (mut a, mut b) = (Run::new(&book), Run::new(&twin));
    for n in 0..500u32 {
        for run in [&mut a, &mut b] {
            run.advance(Seconds(f64::from(n) * 37.3));
            if let Some((id, _)) = twin.program().choices().next() {
                run.choose(id, n / 7 % 3);
            }
        }
        assert_eq!(bits(&mut a, &book), bits(&mut b, &twin), "{n}");
    }
}

#[test]
fn the_builder_tells_what_is_wrong_with_a_day() {
    let mut book = Book::new("Wrong", Seed(1));
    let now = book.hour();
    book.light(Light::point("a").intensity(select(on_off(true), candelas(1.0), candelas(2.0))));
    book.light(Light::point("b").shadows(now.is_in(hour(Hours(1.0)), hour(Hours(2.0)))));
    book.clock(Clock { day: Seconds(0.0), start: Hours(12.0), rate: 1.0 });
    book.clock(Clock { day: Seconds(60.0), start: Hours(12.0), rate: 1.0 });
    let change = Change { over: Hours(3.0), lean: Lean::Across };
    book.open_hours("w", hour(Hours(1.0)), hour(Hours(2.0)), change, Easing::Smooth);
    book.phases("p", &[Phase::new("x", Hours(3.0)), Phase::new("y", Hours(3.0))]);
    book.sun("s", &SunPath::earth(angle(Degrees(95.0)), number(10.0)));
    book.choice("c", &["only"], Seconds(0.0));
    let told: Vec<String> = book.check().unwrap_err().iter().map(ToString::to_string).collect();
    assert_eq!(
        told,
        [
            "hour: this depends on the hour, but the book has no clock",
            "clock: a day of the game must last 1s to 1e7s, found 0s",
            "hours `w`: transitions of 03:00 do not fit: there are only 01:00 between them",
            "phase `p.y`: phases must be in the order of the day, with different hours, and pass midnight at most once",
            "sun `s`: a latitude is 95, but must be within -90..90",
            "choice `c`: expected 2 to 64 names, found 1",
        ]
    );
}

/// Rows of the almanac beside the core's own tests.
fn almanac(what: &str) -> Vec<Vec<f64>> {
    let table = include_str!("../../caltrin-core/tests/sun.csv");
    let number = |cell: &str| cell.parse().unwrap_or(f64::NAN);
    let rows = table.lines().filter_map(|line| line.strip_prefix(what));
    rows.map(|row| row.split(',').skip(1).map(number).collect()).collect()
}

#[test]
fn a_sun_in_a_book_stands_rises_and_sets_as_the_almanac_says() {
    for row in almanac("at").iter().step_by(7) {
        let [year, date, latitude, longitude, hour, height, azimuth] = row[..] else { panic!() };
        // The clock is five hours ahead of UT, and the game counts the days.
        let book = checked(&format!(
            "lightbook \"S\"\nclock {{ day 24min; start 12:00 }}\n\
             sun {{ latitude {latitude}deg; longitude {longitude}deg; date 1 + days; year {year}; zone 5 }}\n\
             output o {{ h sun.height; a sun.azimuth }}\n"
        ));
        let mut run = Run::new(&book);
        let local = hour + 5.0;
        run.set_clock_days(date - 1.0 + (local / 24.0).floor());
        run.set_clock(Hours(local.rem_euclid(24.0)));
        let found = values(&mut run, &book, "o");
        assert!((f64::from(found[0]) - height).abs() < 0.05, "{row:?}: {found:?}");
        let around = (f64::from(found[1]) - azimuth + 540.0).rem_euclid(360.0) - 180.0;
        assert!((around * height.to_radians().cos()).abs() < 0.05, "{row:?}: {found:?}");
    }
    for row in almanac("day").iter().step_by(5) {
        let [year, date, latitude, hours @ ..] = &row[..] else { panic!() };
        // Without a zone the clock is the place's own mean time, wherever it lies.
        let book = checked(&format!(
            "lightbook \"S\"\nclock {{ day 24min; start 12:00 }}\n\
             sun {{ latitude {latitude}deg; date {date}; year {year} }}\n\
             sun east {{ latitude {latitude}deg; longitude 80deg; date {date}; year {year} }}\n\
             output o {{ a sun.rise; b sun.set; c sun.dawn; d sun.dusk }}\noutput e = east.rise\n"
        ));
        let mut run = Run::new(&book);
        for (found, almanac) in values(&mut run, &book, "o").into_iter().zip(hours) {
            let minutes = (f64::from(found) - almanac).abs() * 60.0;
            assert!(almanac.is_nan() || minutes < 2.0, "{row:?}: {found}");
        }
        let east = f64::from(values(&mut run, &book, "e")[0]);
        assert!(hours[0].is_nan() || (east - hours[0]).abs() * 60.0 < 3.0, "{row:?}: {east}");
    }
}

#[test]
fn a_sun_by_hours_is_up_from_when_it_rises_to_when_it_sets() {
    let book = checked(
        "lightbook \"b\"\nclock { day 24min; start 12:00 }\nsun { rises 06:00; sets 18:30; highest 40deg; lowest -35deg; twilight 00:40 }\noutput up = sun.up\n",
    );
    let (id, _) = book.program().lights().next().unwrap();
    for minute in 0..1440 {
        let hour = Hours(f64::from(minute) / 60.0 + 1e-6);
        let state = caltrin_core::run::State::start(book.program()).with_hour(book.program(), hour);
        let mut out = [0.0];
        Run::from_state(&book, state).read(id, 0, &mut out);
        assert_eq!(out[0] == 1.0, (360..1110).contains(&minute), "{minute}");
    }
}
