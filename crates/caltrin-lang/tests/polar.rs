//! What goes by the sun where it does not rise or set every day.

use caltrin_core::program::Constant;
use caltrin_core::quantity::Hours;
use caltrin_core::run::State;
use caltrin_core::{Run, ValidatedProgram};

fn checked(text: &str) -> ValidatedProgram {
    let reading = caltrin_lang::read(text, "polar.caltrin");
    let told: Vec<&String> = reading.diagnostics.iter().map(|d| &d.message).collect();
    reading.checked.unwrap_or_else(|| panic!("{told:#?}"))
}

fn book(latitude: &str, date: &str, over: &str) -> ValidatedProgram {
    checked(&format!(
        "lightbook \"Polar\"
clock {{ day 24min; start 12:00 }}
input year_day = 100 in 1..366
sun {{ latitude {latitude}; date {date} }}
hours dark from sun.set to sun.rise {over}
hours bright from sun.rise to sun.set {over}
hours night from sun.dusk to sun.dawn {over}
hours evening from sun.set to sun.dusk {over}
output seen {{ dark dark; bright bright; night night; evening evening; \
height sun.height; is_dark if hour is in sun.set..sun.rise then 1 else 0; dark_t dark.through; bright_t bright.through }}
"
    ))
}

/// What the output gives at each tenth of an hour of a day.
fn day(checked: &ValidatedProgram, date: f64) -> Vec<[f32; 8]> {
    let (id, _) = checked.program().lights().next().unwrap();
    let mut start = State::start(checked.program());
    set_date(checked, &mut start, date);
    (0..240)
        .map(|n| {
            let state = start.clone().with_hour(checked.program(), Hours(f64::from(n) / 10.0));
            let mut run = Run::from_state(checked, state);
            let mut out = [0.0; 8];
            run.read(id, 0, &mut out);
            out
        })
        .collect()
}

fn set_date(checked: &ValidatedProgram, state: &mut State, date: f64) {
    let found = checked.program().inputs().find(|(_, input)| input.name == "year_day");
    if let Some((id, _)) = found {
        state.inputs.set(checked.program(), id, 0, Constant::Scalar(date)).unwrap();
    }
}

#[test]
fn a_window_of_the_sun_is_right_at_every_latitude_and_date() {
    for latitude in [-90, -80, -68, -66, -50, 0, 35, 60, 66, 67, 68, 75, 85, 90] {
        let checked = book(&format!("{latitude}deg"), "year_day", "");
        for date in (1..=365).step_by(7).chain([80, 172, 266, 355]) {
            for (n, out) in day(&checked, f64::from(date)).into_iter().enumerate() {
                let [dark, light, night, evening, height, is_dark, ..] = out.map(f64::from);
                let at =
                    format!("{latitude} degrees, day {date}, hour {}: {out:?}", n as f64 / 10.0);
                // Near its crossing the hours of a day are those of the next one or of the last.
                for (height_of, is_below, is_above) in
                    [(-0.833, dark, Some(light)), (-6.0, night, None), (-0.833, is_dark, None)]
                {
                    if (height - height_of).abs() < 0.6 {
                        continue;
                    }
                    let below = if height < height_of { 1.0 } else { 0.0 };
                    assert_eq!(is_below, below, "{at}");
                    assert!(is_above.is_none_or(|above| above == 1.0 - below), "{at}");
                }
                assert!((0.0..=1.0).contains(&evening), "{at}");
            }
        }
    }
}

#[test]
fn a_fixed_polar_date_is_a_book_like_any_other() {
    for (date, dark) in [(355, 1.0), (172, 0.0)] {
        let fixed = book("68deg", &date.to_string(), "over 00:30");
        let set = book("68deg", "year_day", "over 00:30");
        let days = [&fixed, &set].map(|checked| day(checked, f64::from(date)));
        assert_eq!(days[0], days[1], "the same whether the date is known beforehand");
        for out in &days[0] {
            assert_eq!((out[0], out[1], out[5]), (dark, 1.0 - dark, dark), "{date}: {out:?}");
        }
        // What is open all day has a time through it all the same: from one noon or midnight to the next.
        let through = days[0].iter().map(|out| f64::from(out[if dark == 1.0 { 6 } else { 7 }]));
        let through: Vec<f64> = through.collect();
        let falls = through.windows(2).filter(|pair| pair[1] < pair[0]).count();
        assert!(falls <= 1 && through.iter().any(|v| *v > 0.95), "{through:?}");
    }
}

#[test]
fn towards_the_polar_night_the_day_fades_out_without_a_seam() {
    let checked = book("68deg", "year_day", "over 00:40");
    let most = |date: f64, column: usize| {
        day(&checked, date).iter().map(|out| out[column]).fold(0.0f32, f32::max)
    };
    let mut last = 1.0;
    for date in 320..=360 {
        let light = most(f64::from(date), 1);
        assert!(light <= last + 0.05, "day {date}: {light} after {last}");
        last = light;
    }
    assert_eq!(last, 0.0);
    // From one moment to the next no window jumps, however short it or its gap is.
    for date in 300..=366 {
        let day = day(&checked, f64::from(date));
        for column in [0, 1, 2] {
            for pair in day.windows(2).chain([[day[239], day[0]].as_slice()]) {
                let step = (pair[1][column] - pair[0][column]).abs();
                assert!(step < 0.3, "day {date}, value {column}: {step}");
            }
        }
    }
}

#[test]
fn an_easing_that_overshoots_leaves_a_window_between_0_and_1() {
    let checked = checked(
        "lightbook \"b\"\nclock { day 24min; start 12:00 }\n\
         hours open from 08:00 to 17:00 over 02:00 cubic-bezier(0.3, -0.6, 0.5, 1.8)\noutput y = open\n",
    );
    let (id, _) = checked.program().lights().next().unwrap();
    for n in 0..2_400 {
        let state = State::start(checked.program())
            .with_hour(checked.program(), Hours(f64::from(n) / 100.0));
        let mut out = [0.0];
        Run::from_state(&checked, state).read(id, 0, &mut out);
        assert!((0.0..=1.0).contains(&out[0]), "{}: {}", f64::from(n) / 100.0, out[0]);
    }
}
