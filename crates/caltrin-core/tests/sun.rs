//! The sun against an almanac: heights, directions and hours from two astronomy packages
//! (`scripts/sun-figures.py` made the table).

use caltrin_core::sky::{arc_sine, arc_tangent, compass, sky_part, sun_hour};

fn rows(what: &str) -> Vec<Vec<f64>> {
    let table = include_str!("sun.csv").lines().filter_map(|line| line.strip_prefix(what));
    let number = |cell: &str| cell.parse().unwrap_or(f64::NAN);
    table.map(|line| line.split(',').skip(1).map(number).collect()).collect()
}

/// Days from noon of 1 January 2000 to the start of a day, counted one by one.
fn start_of(year: f64, date: f64) -> f64 {
    let leap = |y: i32| (y % 4 == 0 && y % 100 != 0) || y % 400 == 0;
    let long = |y: i32| if leap(y) { 366.0 } else { 365.0 };
    let year = year as i32;
    let whole: f64 = (2000..year).map(long).sum::<f64>() - (year..2000).map(long).sum::<f64>();
    whole + date - 1.5
}

#[test]
fn the_sun_stands_where_the_almanac_has_it() {
    let rows = rows("at");
    assert_eq!(rows.len(), 400);
    let mut worst = [0.0f64; 2];
    for row in rows {
        let [year, date, latitude, longitude, hour, height, azimuth] = row[..] else { panic!() };
        let days = start_of(year, date) + hour / 24.0;
        let [east, up, south] =
            [0.0, 1.0, 2.0].map(|part| sky_part(part, days, 0.0, latitude, longitude));
        assert!(((east * east + up * up + south * south).sqrt() - 1.0).abs() < 1e-12);
        let around = (compass(east, -south) - azimuth + 540.0).rem_euclid(360.0) - 180.0;
        // A degree on the compass is the shorter, the higher the sun stands.
        worst[0] = worst[0].max((arc_sine(up) - height).abs());
        worst[1] = worst[1].max((around * height.to_radians().cos()).abs());
    }
    assert!(worst.iter().all(|v| *v < 0.05), "{worst:?}");
}

#[test]
fn it_rises_and_sets_within_two_minutes_of_the_almanac() {
    let rows = rows("day");
    let (mut compared, mut none) = (0, 0);
    for row in rows {
        let [year, date, latitude, hours @ ..] = &row[..] else { panic!() };
        let crossings = [(-1.0, -0.833f64), (1.0, -0.833), (-1.0, -6.0), (1.0, -6.0)];
        for ((side, height), almanac) in crossings.into_iter().zip(hours) {
            let sine = height.to_radians().sin();
            let days = start_of(*year, *date);
            let hour = sun_hour(side, days, *latitude, 0.0, sine);
            assert!((0.0..24.0).contains(&hour));
            if almanac.is_nan() {
                none += 1;
                continue;
            }
            let minutes = ((hour - almanac + 36.0).rem_euclid(24.0) - 12.0).abs() * 60.0;
            assert!(minutes < 2.0, "{row:?}: {hour} against {almanac}");
            compared += 1;
        }
    }
    assert!(compared > 1000 && none > 10, "{compared} compared, {none} without");
}

#[test]
fn where_it_never_sets_its_hours_are_those_of_lowest_and_highest() {
    let sine = -(0.833f64.to_radians().sin());
    for latitude in [70.0, 80.0, 89.9, 90.0, -75.0, -90.0] {
        for date in [172.0, 355.0] {
            let days = start_of(2026.0, date);
            let height = |hour: f64| sky_part(1.0, days + hour / 24.0, 0.0, latitude, 0.0);
            let [rise, noon, set] =
                [-1.0, 0.0, 1.0].map(|side| sun_hour(side, days, latitude, 0.0, sine));
            let up = height(12.0) > sine;
            for hour in [rise, set] {
                let best = (0..240).map(|n| height(f64::from(n) / 10.0));
                let best = if up { best.fold(1.0, f64::min) } else { best.fold(-1.0, f64::max) };
                assert!((height(hour) - best).abs() < 2e-3, "{latitude} {date} {hour}");
            }
            assert!((noon - 12.0).abs() < 0.3, "{noon}");
        }
    }
}

#[test]
fn arcs_are_right_to_a_ten_million_millionth_of_a_degree_and_meet_their_corners() {
    let mut worst = 0.0f64;
    for n in 0..400_000u32 {
        let turn = f64::from(n) / 400_000.0 * std::f64::consts::TAU - std::f64::consts::PI;
        let (y, x) = (turn.sin() * 3.7, turn.cos() * 3.7);
        worst = worst.max((arc_tangent(y, x) - y.atan2(x).to_degrees()).abs());
        let s = f64::from(n) / 200_000.0 - 1.0;
        worst = worst.max((arc_sine(s) - s.asin().to_degrees()).abs());
    }
    assert!(worst < 1.1e-13, "{worst}");
    assert_eq!(arc_sine(1.0), 90.0);
    assert_eq!(arc_sine(-2.0), -90.0);
    assert_eq!(arc_tangent(0.0, 0.0), 0.0);
    assert_eq!(
        [(1.0, 0.0), (0.0, -1.0), (-1.0, 0.0)].map(|(e, n)| compass(e, n)),
        [90.0, 180.0, 270.0]
    );
}

#[test]
fn the_beam_of_the_sun_is_what_its_formula_says() {
    for (height, color, strength) in caltrin_core::program_builder::sky::BEAM {
        let h = f64::max(height, -1.5);
        let mass = 1.0 / (h.to_radians().sin() + 0.505_72 * (h + 6.079_95).powf(-1.6364));
        let light = [0.61f64, 0.55, 0.465]
            .map(|um| (-(0.008_735 * um.powf(-4.08) + 0.05 * um.powf(-1.3)) * mass).exp());
        let red = light[0];
        for (light, stated) in light.into_iter().zip(color) {
            assert!((light / red - stated).abs() < 1e-4, "{height}");
        }
        if height >= 0.0 {
            let beam = 0.7f64.powf(mass.powf(0.678)) / 0.7;
            assert!((beam - strength).abs() < 2e-4, "{height}: {beam}");
        }
    }
    for (grown, strength) in caltrin_core::program_builder::sky::MOON {
        let angle: f64 = 180.0 * (1.0 - grown);
        let bright = 10f64.powf(-0.4 * (0.026 * angle + 4e-9 * angle.powi(4)));
        assert!((bright - strength).abs() < 1e-4, "{grown}: {bright}");
    }
}
