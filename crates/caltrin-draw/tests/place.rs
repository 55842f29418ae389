//! The lit place against plain formulas: how light falls off, where shadows lie, what is framed.

#[path = "../../caltrin-lang/tests/heard/mod.rs"]
mod heard;
mod words;

use caltrin_core::ValidatedProgram;
use caltrin_core::color::Rgb;
use caltrin_core::quantity::Seconds;
use caltrin_draw::shape::{Frame, Picture, Shape};
use caltrin_draw::{Exposure, PlaceOptions, View, When, apng, pixels, place, png, svg};
use words::nothing_overlaps;

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");

fn checked(lines: &str) -> ValidatedProgram {
    let text = if lines.starts_with("lightbook") {
        lines.to_owned()
    } else {
        format!("lightbook \"P\"\n{lines}")
    };
    let reading = heard::read(&text, "p.caltrin");
    let told: Vec<&String> = reading.diagnostics.iter().map(|d| &d.message).collect();
    reading.checked.unwrap_or_else(|| panic!("{told:#?}"))
}

/// The cells of a picture's first image: where it is, columns, rows, three bytes a cell.
fn cells(picture: &Picture) -> (Frame, usize, usize, &[u8]) {
    let found = picture.shapes.iter().find_map(|shape| match shape {
        Shape::Image(frame, w, h, rgb) => Some((*frame, *w as usize, *h as usize, &rgb[..])),
        _ => None,
    });
    found.expect("the picture has an image")
}

/// The meters of the ground that lie left, on top, and in a cell: two posts of which the places are known
/// say it.
struct Map {
    left: f64,
    top: f64,
    cell: f64,
    columns: usize,
}

fn map(picture: &Picture, (ax, az): (f64, f64), (bx, _): (f64, f64)) -> Map {
    let discs: Vec<(f32, f32)> = picture
        .shapes
        .iter()
        .filter_map(|shape| match shape {
            Shape::Disc(middle, radius, _) if *radius > 4.5 => Some(*middle),
            _ => None,
        })
        .collect();
    let [a, b, ..] = discs[..] else { panic!("two posts are drawn") };
    let (frame, columns, ..) = cells(picture);
    let meters = (bx - ax) / f64::from(b.0 - a.0);
    Map {
        left: ax - f64::from(a.0 - frame.x) * meters,
        top: az - f64::from(a.1 - frame.y) * meters,
        cell: f64::from(frame.w) / columns as f64 * meters,
        columns,
    }
}

impl Map {
    /// The cell of a place, and the place of that cell's middle.
    fn at(&self, x: f64, z: f64) -> (usize, f64, f64) {
        let (column, row) = ((x - self.left) / self.cell, (z - self.top) / self.cell);
        let (column, row) = (column.floor(), row.floor());
        let middle = |n: f64, from: f64| from + (n + 0.5) * self.cell;
        let n = row as usize * self.columns + column as usize;
        (n, middle(column, self.left), middle(row, self.top))
    }
}

const MARKS: &str = "post a { position (-9m, 0m, -9m); radius 40cm; height 0.1cm }
post b { position (9m, 0m, -9m); radius 40cm; height 0.1cm }
";

fn drawn(lines: &str) -> Picture {
    let options =
        PlaceOptions { exposure: Exposure::Lux(2.0), width: 1600, ..PlaceOptions::default() };
    place(&checked(&format!("{MARKS}{lines}")), &options)
}

/// What a light of `lux` is drawn as.
fn tone(lux: f64) -> [u8; 3] {
    let ground = [0.0045, 0.0060, 0.0072];
    let v = 1.0 - (-lux / 2.0 * 5.0f64.ln()).exp();
    Rgb(ground.map(|g| g + (1.0 - g) * v)).to_srgb8()
}

fn near(found: &[u8], wanted: [u8; 3]) -> bool {
    found.iter().zip(wanted).all(|(a, b)| a.abs_diff(b) <= 1)
}

#[test]
fn a_point_light_falls_off_as_gltf_has_it() {
    let picture = drawn(
        "light lamp point { position (1m, 3m, 2m); reach 8m; intensity 40cd; color #ffffff }",
    );
    let map = map(&picture, (-9.0, -9.0), (9.0, -9.0));
    let (.., rgb) = cells(&picture);
    let mut lit = 0;
    for n in 0..200 {
        let (x, z) = (-8.5 + f64::from(n % 20) * 0.9, -6.0 + f64::from(n / 20) * 1.3);
        let (cell, x, z) = map.at(x, z);
        let (dx, dz) = (x - 1.0, z - 2.0);
        let squared: f64 = dx * dx + dz * dz + 9.0;
        let distance = squared.sqrt();
        // glTF: cd / d^2 within the range's window; and the cosine to the ground.
        let window = (1.0 - (distance / 8.0).powi(4)).clamp(0.0, 1.0);
        let lux = 40.0 / squared * window * 3.0 / distance;
        let found = &rgb[cell * 3..cell * 3 + 3];
        assert!(near(found, tone(lux)), "({x:.2}, {z:.2}): {found:?}, not {:?}", tone(lux));
        lit += usize::from(lux > 0.1);
    }
    assert!(lit > 60, "{lit}");
}

#[test]
fn a_spot_shines_into_its_cone_and_lumens_are_spread_over_it() {
    let picture = drawn(
        "light lamp spot { position (0m, 4m, 0m); aim (0m, -1m, 0m); cone 20deg..60deg; intensity 500lm; color #ffffff }",
    );
    let map = map(&picture, (-9.0, -9.0), (9.0, -9.0));
    let (.., rgb) = cells(&picture);
    let candelas = 500.0 / (std::f64::consts::TAU * (1.0 - 30f64.to_radians().cos()));
    for x in [-3.5, -2.2, -1.7, -1.2, -0.5, 0.0, 0.4, 0.9, 1.9, 3.0] {
        let (cell, x, z) = map.at(x, 0.0);
        let squared = x * x + z * z + 16.0;
        let along = 4.0 / squared.sqrt();
        let (inner, outer) = (10f64.to_radians().cos(), 30f64.to_radians().cos());
        let inside = ((along - outer) / (inner - outer)).clamp(0.0, 1.0);
        let lux = candelas / squared * inside * inside * along;
        let found = &rgb[cell * 3..cell * 3 + 3];
        assert!(near(found, tone(lux)), "{x:.2}: {found:?}, not {:?}", tone(lux));
    }
}

#[test]
fn walls_and_posts_cast_shadows_that_end_where_the_light_passes_over_them() {
    // A lamp 4 m up; a wall 2 m high stands 3 m away, so its shadow ends 6 m away.
    let lines = "light lamp point { position (0m, 4m, 0m); intensity 90cd; color #ffffff }
wall low { along (3m, 0m, -4m)..(3m, 0m, 4m); height 2m }
post thick { position (-3m, 0m, 0m); radius 50cm; height 9m }";
    let picture = drawn(lines);
    let map = map(&picture, (-9.0, -9.0), (9.0, -9.0));
    let (.., rgb) = cells(&picture);
    let dark = tone(0.0);
    let is_dark = |x: f64, z: f64| {
        let (cell, ..) = map.at(x, z);
        near(&rgb[cell * 3..cell * 3 + 3], dark)
    };
    for (x, z, wanted) in [
        (2.8, 0.0, false),
        (3.3, 0.0, true),
        (5.8, 0.0, true),
        (6.3, 0.0, false),
        (5.8, -7.0, true),
        (5.8, -8.4, false),
        (-2.3, 0.0, false),
        (-4.0, 0.0, true),
        (-8.0, 0.5, true),
        (-8.0, 2.0, false),
    ] {
        assert_eq!(is_dark(x, z), wanted, "({x}, {z})");
    }
    let without = drawn(&lines.replace("color #ffffff", "color #ffffff; shadows off"));
    let (.., rgb) = cells(&without);
    let (cell, ..) = map.at(4.0, 0.0);
    assert!(!near(&rgb[cell * 3..cell * 3 + 3], dark));
}

#[test]
fn the_same_place_gives_the_same_bytes_and_another_moment_others() {
    let book = checked(PIER);
    for view in [View::Above, View::Front] {
        let draw = |t: f64| {
            let moments = vec![Seconds(t).into()];
            place(&book, &PlaceOptions { view, moments, width: 700, ..PlaceOptions::default() })
        };
        let (a, b) = (draw(0.6), draw(0.6));
        assert_eq!(svg(&a), svg(&b));
        assert_eq!(png(&a).unwrap(), png(&b).unwrap());
        assert_ne!(pixels(&a).unwrap(), pixels(&draw(0.9)).unwrap());
    }
}

#[test]
fn a_place_in_other_axes_and_units_looks_the_same() {
    let y_up = "light l point { position (2m, 3m, -1m); offset (10cm, 0m, 0m); reach 9m; intensity 40cd }\n";
    let z_up = "space { up z; unit 1cm }
light l point { position (2m, 1m, 3m); offset (10cm, 0m, 0m); reach 9m; intensity 40cd }\n";
    let wall_y = "wall w { along (4m, 0m, -3m)..(4m, 0m, 3m); height 2m }";
    let wall_z = "wall w { along (4m, 3m, 0m)..(4m, -3m, 0m); height 2m }";
    let draw = |text: String| place(&checked(&text), &PlaceOptions::default());
    let (a, b) = (draw(format!("{y_up}{wall_y}")), draw(format!("{z_up}{wall_z}")));
    let ((.., a), (.., b)) = (cells(&a), cells(&b));
    let differ = a.iter().zip(b).filter(|(a, b)| a.abs_diff(**b) > 1).count();
    assert!(differ < a.len() / 1000, "{differ} of {}", a.len());
}

#[test]
fn an_animation_has_every_moment_and_tells_how_far_it_is() {
    let book = checked(PIER);
    let moments: Vec<When> = (0..5).map(|n| Seconds(f64::from(n) * 0.1).into()).collect();
    let options = PlaceOptions { moments, width: 320, ..PlaceOptions::default() };
    let view = caltrin_draw::PlaceView::new(&book, &options);
    let pictures = options.moments.iter().map(|moment| view.picture(&book, &[*moment]));
    let mut told = Vec::new();
    let bytes = apng(pictures, 10, |done| told.push(done)).unwrap();
    assert_eq!(told, [1, 2, 3, 4, 5]);
    let mut reader = ::png::Decoder::new(std::io::Cursor::new(bytes)).read_info().unwrap();
    assert_eq!(reader.info().animation_control().unwrap().num_frames, 5);
    let mut frame = vec![0; reader.output_buffer_size().unwrap()];
    for moment in &options.moments {
        reader.next_frame(&mut frame).unwrap();
        assert_eq!(frame, pixels(&view.picture(&book, &[*moment])).unwrap());
    }
}

#[test]
fn no_name_lies_on_another_or_leaves_the_picture() {
    let many: String = (0..40)
        .map(|n| format!("light a_light_with_a_name_of_length_{n:02} point {{ position ({}m, 2m, {}m); intensity 3cd }}\n", n % 8, n / 8))
        .collect();
    for book in [PIER.to_owned(), many, "light one point { position (0m, 1m, 0m) }".to_owned()] {
        let book = checked(&book);
        for (view, count) in [(View::Above, 1), (View::Front, 1), (View::Above, 6)] {
            let moments = (0..count).map(|n| Seconds(f64::from(n)).into()).collect();
            let picture = place(&book, &PlaceOptions { view, moments, ..PlaceOptions::default() });
            nothing_overlaps(&picture);
        }
    }
}

#[test]
fn a_rehearsal_is_played_up_to_each_moment() {
    let book = checked(
        "lightbook \"R\"\nevent cut\nswitch power { starts on; off at cut }\nlight a point { position (0m, 2m, 0m); intensity 800lm * power }\nlight b point { position (9m, 2m, 0m); intensity 800lm }\nrehearsal r { 2s cut; 4s end }",
    );
    let at = |moment: f64, rehearsal: Option<usize>| {
        let moments = vec![Seconds(moment).into()];
        let exposure = Exposure::Lux(20.0);
        let options =
            PlaceOptions { moments, rehearsal, exposure, width: 400, ..PlaceOptions::default() };
        pixels(&place(&book, &options)).unwrap()
    };
    assert_eq!(at(1.0, Some(0)), at(1.0, None));
    assert_ne!(at(2.0, Some(0)), at(2.0, None));
    // Words at the top tell the moment; the lit place below them is the same before and after.
    let sum = |pixels: &[u8]| pixels.iter().map(|v| u64::from(*v)).sum::<u64>();
    assert!(sum(&at(3.0, Some(0))) < sum(&at(3.0, None)));
}

/// The mean of a picture's cells, 0 to 255, and the share that is all but white.
fn brightness(picture: &Picture) -> (f64, f64) {
    let (_, w, h, rgb) = cells(picture);
    let sum: u64 = rgb.iter().map(|v| u64::from(*v)).sum();
    let white = rgb.chunks(3).filter(|cell| cell.iter().all(|v| *v > 250)).count();
    (sum as f64 / rgb.len() as f64, white as f64 / (w * h) as f64)
}

#[test]
fn a_dim_base_is_drawn_dim_alone_and_with_lamps_and_a_hot_spot_leaves_the_rest_visible() {
    let base = "light base ambient { color #5a6e96; intensity 0.4lx }\n";
    let lamps = "light lamp[3] point { position (-5m, 3m, 0m), (5m, 0m, 0m); color 2400K; reach 8m; intensity 60cd }\n";
    let hot = "light hot spot { position (0m, 5m, 4m); aim (0m, -1m, -0.3m); cone 10deg..30deg; intensity 40000cd }\n";
    let fitted = |lines: &str| {
        let options = PlaceOptions { width: 600, ..PlaceOptions::default() };
        brightness(&place(&checked(&format!("{MARKS}{lines}")), &options))
    };
    let (alone, _) = fitted(base);
    assert!((15.0..60.0).contains(&alone), "a night stays a night: {alone}");
    let (with_lamps, white) = fitted(&format!("{base}{lamps}"));
    assert!(with_lamps > alone + 10.0 && white < 0.02, "{with_lamps} {white}");
    let (with_hot, white) = fitted(&format!("{base}{lamps}{hot}"));
    assert!(with_hot > 0.6 * with_lamps && white < 0.1, "{with_hot} {white}");
    // Full sun is neither black nor white.
    let (noon, white) =
        fitted("light sun directional { aim (-0.5m, -1m, -0.6m); intensity 80000lx }\n");
    assert!((120.0..235.0).contains(&noon) && white < 0.01, "{noon} {white}");
}

#[test]
fn the_sun_casts_the_shadow_of_a_wall_at_its_foot() {
    let picture = place(
        &checked(&format!(
            "{MARKS}light sun directional {{ aim (1m, -1m, 0m); intensity 2lx; color #ffffff }}\n\
             wall low {{ along (0m, 0m, -4m)..(0m, 0m, 4m); height 2m }}"
        )),
        &PlaceOptions { exposure: Exposure::Lux(2.0), width: 1600, ..PlaceOptions::default() },
    );
    let map = map(&picture, (-9.0, -9.0), (9.0, -9.0));
    let (.., rgb) = cells(&picture);
    for (x, wanted) in [(-0.3, false), (0.3, true), (1.0, true), (1.8, true), (2.2, false)] {
        let (cell, ..) = map.at(x, 0.0);
        assert_eq!(near(&rgb[cell * 3..cell * 3 + 3], tone(0.0)), wanted, "{x}");
    }
}

#[test]
fn stops_are_twice_the_light_each() {
    let book =
        checked(&format!("{MARKS}light lamp point {{ position (1m, 3m, 2m); intensity 400cd }}"));
    let bright = |exposure| {
        caltrin_draw::PlaceView::new(&book, &PlaceOptions { exposure, ..PlaceOptions::default() })
            .bright()
    };
    let fitted = bright(Exposure::Fitted);
    assert!((bright(Exposure::Stops(1.0)) - fitted / 2.0).abs() < 1e-3 * fitted);
    assert!((bright(Exposure::Stops(-1.5)) - fitted * 2f64.powf(1.5)).abs() < 1e-3 * fitted);
}

#[test]
fn a_spark_that_an_event_puts_far_away_is_in_the_picture() {
    let book = checked(
        "lightbook \"S\"\nevent flare(place = (0m, 1m, 0m))\nlight lamp point { position (0m, 3m, 0m); intensity 5cd; reach 9m }\n\
         spark ember[4] point at flare { lives 4s..4s; position flare.place; color #2040ff; intensity 900cd }\n\
         rehearsal r { 1s flare(place (40m, 1m, 0m)); 5s end }",
    );
    let options = PlaceOptions {
        rehearsal: Some(0),
        moments: vec![Seconds(2.0).into()],
        width: 600,
        ..PlaceOptions::default()
    };
    let picture = place(&book, &options);
    let (_, w, _, rgb) = cells(&picture);
    let blue = rgb
        .chunks(3)
        .enumerate()
        .filter(|(n, cell)| n % w > w / 2 && cell[2] > 120 && cell[0] + 40 < cell[2])
        .count();
    assert!(blue > 100, "{blue}");
}

/// Along the oblique edge of a wall's shadow, how many of its cells are neither dark nor fully lit.
fn soft_cells(picture: &Picture) -> (usize, usize) {
    let (_, columns, _, rgb) = cells(picture);
    let level = |n: usize| f64::from(rgb[3 * n]);
    let most = (0..rgb.len() / 3).map(level).fold(0.0, f64::max);
    let (mut edges, mut soft) = (0, 0);
    for row in rgb.chunks_exact(3 * columns).enumerate().map(|(n, _)| n) {
        // From lit to dark and back: cells between two levels that differ by much.
        for x in 1..columns - 1 {
            let [before, own, after] = [x - 1, x, x + 1].map(|x| level(row * columns + x));
            if (before - after).abs() > 0.25 * most {
                edges += 1;
                let (lo, hi) = (before.min(after), before.max(after));
                let margin = 0.12 * (hi - lo);
                soft += usize::from(own > lo + margin && own < hi - margin);
            }
        }
    }
    (edges, soft)
}

#[test]
fn shadows_have_smooth_edges() {
    for view in [View::Above, View::Front] {
        let lamp = checked(
            "wall screen { along (-3m, 0m, -1m)..(1m, 0m, 2m); height 2m }\n\
             light lamp point { position (-2m, 4m, 2m); intensity 900cd }\n",
        );
        let sun = checked(
            "wall screen { along (-3m, 0m, -1m)..(1m, 0m, 2m); height 2m }\n\
             light sun directional { aim (-1m, -1.3m, -0.6m); intensity 9_000lx; shadows on }\n",
        );
        for (name, book) in [("lamp", &lamp), ("sun", &sun)] {
            let options = PlaceOptions { view, ..PlaceOptions::default() };
            let (edges, soft) = soft_cells(&place(book, &options));
            assert!(edges > 20, "{name}: {edges} edges");
            // From the front, where walls begin and end is an edge too. With one look a cell there are next to none.
            let least = if view == View::Above { 3 } else { 5 };
            assert!(soft * least > edges, "{name}, {view:?}: {soft} of {edges}");
        }
    }
}
