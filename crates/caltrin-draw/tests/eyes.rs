//! Through an eye: what a pixel shows is what a slow walk along its ray finds, and pictures, fog and sky are where they
//! belong.

use caltrin_core::ValidatedProgram;
use caltrin_core::color::Rgb;
use caltrin_draw::shape::{Picture, Shape};
use caltrin_draw::{Exposure, PlaceOptions, Texture, View, place};
use proptest::prelude::*;

fn checked(lines: &str) -> ValidatedProgram {
    let text = format!(
        "lightbook \"Eyes\"\nlight glow ambient {{ intensity 2lx; color #ffffff }}\n{lines}"
    );
    let reading = caltrin_lang::read(&text, "eyes.caltrin");
    let told: Vec<String> = reading.diagnostics.iter().map(|d| d.message.clone()).collect();
    reading.checked.unwrap_or_else(|| panic!("{told:#?}"))
}

/// A picture of 272 x 153 pixels, with 2 lx at 80% of white.
struct Seen {
    wide: usize,
    high: usize,
    rgb: Vec<u8>,
}

fn seen(lines: &str, view: View, pictures: Vec<Option<Texture>>) -> Seen {
    let options = PlaceOptions {
        view,
        exposure: Exposure::Lux(2.0),
        width: 320,
        pictures,
        ..PlaceOptions::default()
    };
    of(&place(&checked(lines), &options))
}

fn of(picture: &Picture) -> Seen {
    let found = picture.shapes.iter().find_map(|shape| match shape {
        Shape::Image(_, wide, high, rgb) => {
            Some(Seen { wide: *wide as usize, high: *high as usize, rgb: rgb.clone() })
        }
        _ => None,
    });
    found.expect("the picture has an image")
}

impl Seen {
    fn at(&self, x: usize, y: usize) -> [u8; 3] {
        let n = 3 * (y * self.wide + x);
        [self.rgb[n], self.rgb[n + 1], self.rgb[n + 2]]
    }
}

/// What light of `lux` is drawn as.
fn tone(lux: [f64; 3]) -> [u8; 3] {
    let ground = [0.0045, 0.0060, 0.0072];
    let v = lux.map(|lux| 1.0 - (-lux / 2.0 * 5.0f64.ln()).exp());
    Rgb([0, 1, 2].map(|n| ground[n] + (1.0 - ground[n]) * v[n])).to_srgb8()
}

fn near(a: [u8; 3], b: [u8; 3], by: u8) -> bool {
    a.iter().zip(b).all(|(a, b)| a.abs_diff(b) <= by)
}

type Vec3 = [f64; 3];

fn sized(v: Vec3) -> Vec3 {
    let length = v.iter().map(|v| v * v).sum::<f64>().sqrt();
    v.map(|v| v / length)
}

/// The direction of a pixel's ray, found with angles alone.
fn ray(at: Vec3, toward: Vec3, field: f64, seen: &Seen, x: usize, y: usize) -> Vec3 {
    let way = [0, 1, 2].map(|n| toward[n] - at[n]);
    let yaw = way[0].atan2(-way[2]);
    let pitch = way[1].atan2(way[0].hypot(way[2]));
    let half = (field / 2.0).to_radians().tan();
    let across = (2.0 * (x as f64 + 0.5) / seen.wide as f64 - 1.0) * half;
    let up = (seen.high as f64 - 2.0 * (y as f64 + 0.5)) / seen.wide as f64 * half;
    // Ahead, tilted, then turned.
    let (ahead, up) = (pitch.cos() - up * pitch.sin(), pitch.sin() + up * pitch.cos());
    sized([across * yaw.cos() + ahead * yaw.sin(), up, across * yaw.sin() - ahead * yaw.cos()])
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum Found {
    Ground,
    Upright,
    Nothing,
}

/// What stands on a ray, walked in steps of a centimeter: a wall from (-3, -2) to (2, -4), 2.5 m high, and a post at (2, 1)
/// of radius 0.6 m and height 1.5 m.
fn walked(at: Vec3, way: Vec3) -> Found {
    let side = |x: f64, z: f64| (x + 3.0) * -2.0 - (z + 2.0) * 5.0;
    let mut before = side(at[0], at[2]);
    for n in 3..6000 {
        let t = f64::from(n) * 0.01;
        let [x, y, z] = [0, 1, 2].map(|n| at[n] + t * way[n]);
        if y < 0.0 {
            return Found::Ground;
        }
        if (x - 2.0).hypot(z - 1.0) < 0.6 && y <= 1.5 {
            // Its top is lit like the ground.
            let [px, py, pz] = [0, 1, 2].map(|n| at[n] + (t - 0.01) * way[n]);
            let over = py > 1.5 && (px - 2.0).hypot(pz - 1.0) < 0.6;
            return if over { Found::Ground } else { Found::Upright };
        }
        let now = side(x, z);
        if now * before < 0.0 && (-3.0..=2.0).contains(&x) && y <= 2.5 {
            return Found::Upright;
        }
        before = now;
    }
    if way[1] < 0.0 { Found::Ground } else { Found::Nothing }
}

const SOLIDS: &str = "wall w { along (-3m, 0m, -2m)..(2m, 0m, -4m); height 2.5m }
post p { position (2m, 0m, 1m); radius 60cm; height 1.5m }\n";

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, ..ProptestConfig::default() })]

    #[test]
    fn a_pixel_shows_what_stands_on_its_ray(
        x in -6.0..6.0f64, y in 0.3..6.0f64, z in -7.0..7.0f64,
        tx in -2.0..2.0f64, ty in -1.0..4.0f64, tz in -3.0..2.0f64,
        field in 20.0..140.0f64,
    ) {
        let (at, toward) = ([x, y, z], [tx, ty, tz]);
        let inside = (x - 2.0).hypot(z - 1.0) < 0.7 && y < 1.6;
        let touches = ((x + 3.0) * -2.0 - (z + 2.0) * 5.0).abs() < 0.3;
        prop_assume!(!inside && !touches && (tx - x).hypot(tz - z) > 0.5);
        let eye = format!("eye e {{ at ({x}m, {y}m, {z}m); toward ({tx}m, {ty}m, {tz}m); field {field}deg }}");
        let seen = seen(&format!("{SOLIDS}{eye}"), View::Eye(0), Vec::new());
        // Upright surfaces get six tenths of the ambient light.
        let of = |found: Found| match found {
            Found::Ground => tone([2.0; 3]),
            Found::Upright => tone([1.2; 3]),
            Found::Nothing => tone([0.0; 3]),
        };
        let step = 9;
        let (mut compared, mut wrong) = (0, Vec::new());
        for py in (step..seen.high - step).step_by(step) {
            for px in (step..seen.wide - step).step_by(step) {
                let found = walked(at, ray(at, toward, field, &seen, px, py));
                // At edges a walk in steps can be a little off.
                // Next to it as well as around it: a wall from above can be narrower than what is around.
                let even = [1, 3].into_iter().all(|n| {
                    let around = [(px - n, py), (px + n, py), (px, py - n), (px, py + n)];
                    let beside = |(px, py): (usize, usize)| walked(at, ray(at, toward, field, &seen, px, py));
                    around.into_iter().all(|place| beside(place) == found)
                });
                if even {
                    compared += 1;
                    if !near(seen.at(px, py), of(found), 1) {
                        wrong.push((px, py, found, seen.at(px, py)));
                    }
                }
            }
        }
        prop_assert!(compared > 100, "{compared}");
        prop_assert!(wrong.is_empty(), "{} of {compared}: {:?}", wrong.len(), &wrong[..wrong.len().min(4)]);
    }
}

#[test]
fn the_light_on_the_ground_is_that_of_the_other_views() {
    let lamp =
        "light lamp point { position (1m, 3m, -2m); reach 9m; intensity 40cd; color #ff8040 }\n";
    let eye = "eye e { at (2m, 5m, 6m); toward (0m, 0m, -1m); field 60deg }";
    let seen = seen(&format!("{lamp}{eye}"), View::Eye(0), Vec::new());
    let tint = Rgb::from_srgb8(0xff, 0x80, 0x40).0;
    let most = tint.iter().fold(0.0f64, |a, b| a.max(*b));
    for (px, py) in [(20, 30), (136, 76), (200, 140), (60, 100), (250, 60), (136, 20)] {
        let at = [2.0, 5.0, 6.0];
        let way = ray(at, [0.0, 0.0, -1.0], 60.0, &seen, px, py);
        let t = -at[1] / way[1];
        let (dx, dz) = (at[0] + t * way[0] - 1.0, at[2] + t * way[2] + 2.0);
        let squared = dx * dx + dz * dz + 9.0;
        let window = (1.0 - squared * squared / 9f64.powi(4)).max(0.0);
        let lux = 40.0 / squared * window * 3.0 / squared.sqrt();
        let wanted = tone(tint.map(|v| 2.0 + v / most * lux));
        assert!(
            near(seen.at(px, py), wanted, 2),
            "{px}, {py}: {:?}, not {wanted:?}",
            seen.at(px, py)
        );
    }
}

#[test]
fn fog_hides_by_distance_and_the_sky_is_its_output() {
    let air = "output range = 30m\noutput haze = #8090a0\noutput heaven = #204060\n";
    let eye = "eye e { at (0m, 2m, 0m); toward (0m, 2m, -10m); field 60deg";
    let clear = seen(&format!("{air}{eye}; sky heaven }}"), View::Eye(0), Vec::new());
    assert!(near(clear.at(100, 10), [0x20, 0x40, 0x60], 2), "{:?}", clear.at(100, 10));
    assert!(near(clear.at(100, 150), tone([2.0; 3]), 1));

    let fog =
        seen(&format!("{air}{eye}; sky heaven; fog range, haze }}"), View::Eye(0), Vec::new());
    let haze = Rgb::from_srgb8(0x80, 0x90, 0xa0).0.map(|v| 2.0 * v);
    for (x, y) in [(136, 80), (136, 100), (30, 150), (260, 120)] {
        let way = ray([0.0, 2.0, 0.0], [0.0, 2.0, -10.0], 60.0, &fog, x, y);
        let through = (-(20f64.ln()) / 30.0 * (2.0 / -way[1])).exp();
        let wanted = tone(haze.map(|haze| 2.0 * through + haze * (1.0 - through)));
        assert!(near(fog.at(x, y), wanted, 1), "{x}, {y}: {:?}, not {wanted:?}", fog.at(x, y));
    }
    // At the horizon there is fog alone; a number is a share of fog that hides at 50 m.
    assert!(near(fog.at(136, 76), tone(haze), 2));
    let thick = "output range = 50m\noutput part = 100%\n";
    let by =
        |name: &str| seen(&format!("{thick}{eye}; fog {name} }}"), View::Eye(0), Vec::new()).rgb;
    assert_eq!(by("range"), by("part"));
}

/// A picture of four colors, of which the right lower one is transparent.
fn quarters() -> Texture {
    let mut pixels = Vec::new();
    for y in 0..8 {
        for x in 0..8 {
            let color = match (x < 4, y < 4) {
                (true, true) => [255, 0, 0, 255],
                (false, true) => [0, 255, 0, 255],
                (true, false) => [0, 0, 255, 255],
                (false, false) => [255, 255, 255, 0],
            };
            pixels.extend_from_slice(&color);
        }
    }
    Texture::new(8, 8, pixels)
}

#[test]
fn pictures_lie_and_stand_where_the_book_puts_them() {
    let (red, green, blue) = (tone([2.0, 0.0, 0.0]), tone([0.0, 2.0, 0.0]), tone([0.0, 0.0, 2.0]));
    let lying = "backdrop \"q.png\" { from (4m, 0m, 4m); to (-4m, 0m, -4m) }\n";
    let standing = "backdrop \"q.png\" { from (-4m, 0m, 0m); to (4m, 8m, 0m) }\n";
    let down = "eye e { at (0m, 12m, 0m); toward (0m, 0m, 0m); field 90deg }";
    let ahead = "eye e { at (0m, 4m, 10m); toward (0m, 4m, 0m); field 90deg }";
    let back = "eye e { at (0m, 4m, -10m); toward (0m, 4m, 0m); field 90deg }";
    let draw = |lines: &str, view| seen(lines, view, vec![Some(quarters())]);
    // Where the quarters are drawn, from the middle of the picture, in parts of its width.
    let corners = |seen: &Seen, by: f64, middle: f64| {
        let at = |dx: f64, dy: f64| {
            let (w, h) = (seen.wide as f64, seen.high as f64);
            seen.at((w * (0.5 + by * dx)) as usize, (h * middle + w * by * dy) as usize)
        };
        [at(-1.0, -1.0), at(1.0, -1.0), at(-1.0, 1.0), at(1.0, 1.0)]
    };
    let told = |found: [[u8; 3]; 4], wanted: [[u8; 3]; 4], what: &str| {
        let same = found.iter().zip(wanted).all(|(a, b)| near(*a, b, 2));
        assert!(same, "{what}: {found:?}, not {wanted:?}");
    };
    let ground = tone([2.0; 3]);
    told(
        corners(&draw(&format!("{lying}{down}"), View::Eye(0)), 0.08, 0.5),
        [red, green, blue, ground],
        "down",
    );
    told(corners(&draw(lying, View::Above), 0.1, 0.5), [red, green, blue, ground], "above");
    let front = draw(standing, View::Front);
    told(
        corners(&front, 0.06, 0.42)[..2]
            .try_into()
            .map(|[a, b]: [[u8; 3]; 2]| [a, b, a, b])
            .unwrap(),
        [red, green, red, green],
        "front",
    );
    told(
        corners(&draw(&format!("{standing}{ahead}"), View::Eye(0)), 0.1, 0.5),
        [red, green, blue, ground],
        "ahead",
    );
    // From behind it is seen as through glass.
    told(
        corners(&draw(&format!("{standing}{back}"), View::Eye(0)), 0.1, 0.5),
        [green, red, ground, blue],
        "behind",
    );
    // What cannot be read is not there.
    let without = seen(&format!("{lying}{down}"), View::Eye(0), vec![None]);
    told(corners(&without, 0.08, 0.5), [ground; 4], "without");
}

#[test]
fn lamps_in_the_plane_of_a_standing_picture_light_it() {
    let book = "backdrop \"q.png\" { from (-4m, 0m, 0m); to (4m, 8m, 0m) }
light lamp point { position (-2m, 6m, 0m); reach 3m; intensity 10cd; color #ffffff }
eye e { at (0m, 4m, 10m); toward (0m, 4m, 0m); field 90deg }";
    let white = Texture::new(1, 1, vec![255; 4]);
    let seen = seen(book, View::Eye(0), vec![Some(white)]);
    // 1 m beside it: ten lux through the window of its reach, and the ambient light.
    let scale = seen.wide as f64 / 20.0;
    let pixel = |x: f64, y: f64| {
        seen.at(
            (seen.wide as f64 / 2.0 + x * scale) as usize,
            (seen.high as f64 / 2.0 - (y - 4.0) * scale) as usize,
        )
    };
    let lux = 10.0 * (1.0 - 1.0 / 81.0);
    for (x, y) in [(-1.0, 6.0), (-3.0, 6.0), (-2.0, 7.0), (-2.0, 5.0)] {
        assert!(near(pixel(x, y), tone([2.0 + lux; 3]), 3), "{x}, {y}: {:?}", pixel(x, y));
    }
    assert!(near(pixel(2.0, 2.0), tone([2.0; 3]), 1));
}
