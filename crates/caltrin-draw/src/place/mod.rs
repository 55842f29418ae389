//! The place: lamps where they stand, their pools of light, and the shadows of walls and posts; from
//! above or from the front.
//!
//! Light is worked out as glTF's punctual lights have it, on a grid of cells of two pixels, and
//! shown as `1 - e^(-light x exposure)` in each of red, green and blue, then as sRGB.

mod cells;
mod lens;
mod pair;
mod scene;
mod shade;
mod texture;

use caltrin_core::ValidatedProgram;
use caltrin_core::color::Rgb;
use caltrin_core::program::{LightId, Program, Size};
use caltrin_core::quantity::{Hours, Seconds};
use caltrin_core::rehearsal::Player;
use caltrin_core::run::State;

use crate::font::Fonts;
use crate::look;
use crate::scale;
use crate::shape::{Anchor, Frame, Ink, Picture, Shape};
use crate::sheet::on_the_minute;
use cells::{GROUND, light};
use lens::{Camera, Lens, Window, window};
use scene::{FACTOR, FACTOR_LUX, Lamp, Scene, Shows, Vec3, scene};
use shade::hidden;

pub use pair::PlacePair;
pub use texture::Texture;

/// From where a place is viewed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum View {
    /// Straight down on the ground at height 0; -z is up in the picture.
    #[default]
    Above,
    /// From +z and a little from above, in parallel rays: x to the right, y up, with the ground.
    Front,
    /// As one of the book's eyes sees it, by its index in [`caltrin_core::program::Program::eyes`].
    Eye(usize),
}

/// How bright light is drawn.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub enum Exposure {
    /// So that what is brightest in all moments shown comes out well.
    #[default]
    Fitted,
    /// Fitted to each moment for itself, as eyes get used to day and night.
    Each,
    /// This illuminance, in lx, is drawn at 80% of white.
    Lux(f64),
    /// Fitted, then brighter by so many stops; a stop is twice the light.
    Stops(f64),
}

/// A moment of a run, perhaps at an hour of the game's day that the clock is set to.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct When {
    /// The moment.
    pub moment: Seconds,
    /// The hour; `None` for what the clock shows at the moment.
    pub hour: Option<Hours>,
}

impl From<Seconds> for When {
    fn from(moment: Seconds) -> Self {
        When { moment, hour: None }
    }
}

impl From<Hours> for When {
    /// At an hour, an hour after the start of the run: what plays once has played.
    fn from(hour: Hours) -> Self {
        When { moment: Seconds(3600.0), hour: Some(hour) }
    }
}

impl When {
    /// Takes a run there, with what happens on the way.
    fn play(self, player: &mut Player<'_>) {
        player.advance(self.moment);
        if let Some(hour) = self.hour {
            player.run().set_clock(hour);
        }
    }

    /// In words: the hour, or the moment.
    fn words(self) -> String {
        match self.hour {
            Some(hour) => hour.to_clock(),
            None => format!("{} s", scale::short((self.moment.0 * 1e4).round() / 1e4)),
        }
    }
}

/// What a picture of the place shows.
#[derive(Clone, Debug, PartialEq)]
pub struct PlaceOptions {
    /// From where it is viewed.
    pub view: View,
    /// The moments or hours, side by side and below each other if there are several.
    pub moments: Vec<When>,
    /// The run's seed and inputs; `None` for the book's own.
    pub start: Option<State>,
    /// Which of the book's rehearsals is played up to each moment, if one is.
    pub rehearsal: Option<usize>,
    /// How bright light is drawn.
    pub exposure: Exposure,
    /// Width of the picture in pixels, 320 to 8192.
    pub width: u32,
    /// Which lights; `None` for all.
    pub lights: Option<Vec<LightId>>,
    /// The pictures of the book's backdrops, in its order; what is missing is not drawn.
    pub pictures: Vec<Option<Texture>>,
}

impl Default for PlaceOptions {
    fn default() -> Self {
        PlaceOptions {
            view: View::Above,
            moments: vec![Seconds(0.0).into()],
            start: None,
            rehearsal: None,
            exposure: Exposure::Fitted,
            width: 1280,
            lights: None,
            pictures: Vec::new(),
        }
    }
}

const SIDE: f32 = 24.0;
const TOP: f32 = 78.0;
const CAPTION: f32 = 22.0;
const LEGEND: f32 = 16.0;
/// Pixels a side of a cell that light is worked out for.
const CELL: f32 = 2.0;

/// Draws the place at some moments. Costs in proportion to moments, pixels and lamps.
pub fn place(checked: &ValidatedProgram, options: &PlaceOptions) -> Picture {
    PlaceView::new(checked, options).picture(checked, &options.moments)
}

/// A place viewed in one way: the same frame and exposure for every moment of an animation.
#[derive(Clone, Debug)]
pub struct PlaceView {
    view: View,
    start: State,
    rehearsal: Option<usize>,
    ids: Vec<LightId>,
    width: u32,
    lens: Lens,
    window: Window,
    pictures: Vec<Option<Texture>>,
    exposure: f32,
    /// How the exposure was found, in words.
    fitted: String,
    each: bool,
    shown: Shown,
}

/// What there is to be reported of what is shown.
#[derive(Clone, Debug, Default)]
struct Shown {
    lamps: usize,
    unplaced: Vec<String>,
    factors: bool,
    solids: bool,
    /// The visual range in fog at the first moment, in meters.
    fog: Option<f32>,
    /// What the game's clock shows at the first moment, in words.
    hour: String,
}

impl PlaceView {
    /// Frames what there is to see, and fits the exposure to all of the moments.
    pub fn new(checked: &ValidatedProgram, options: &PlaceOptions) -> PlaceView {
        let program = checked.program();
        let ids: Vec<LightId> = match &options.lights {
            Some(ids) => ids.clone(),
            None => program.lights().map(|(id, _)| id).collect(),
        };
        let start = options.start.clone().unwrap_or_else(|| State::start(program));
        let rehearsal = options.rehearsal.and_then(|n| program.rehearsals().get(n));
        let eye = match options.view {
            View::Eye(n) => program.eyes().get(n),
            View::Above | View::Front => None,
        };
        let shows = Shows { eye, pictures: &options.pictures };
        // Some of the moments are enough to see where everything is.
        let step = options.moments.len().div_ceil(12).max(1);
        let scenes: Vec<Scene> = options
            .moments
            .iter()
            .step_by(step)
            .map(|moment| {
                let mut player = Player::new(checked, start.clone(), rehearsal);
                moment.play(&mut player);
                scene(checked, player.run(), &ids, shows)
            })
            .collect();
        let (lens, window) = window(&scenes, options.view, eye.map(Camera::of).as_ref());
        let shown = scenes.first().map_or(Shown::default(), |first| Shown {
            // Of several moments, that with the most sparks.
            lamps: scenes.iter().map(|scene| scene.lamps.len()).max().unwrap_or(0),
            unplaced: first.unplaced.clone(),
            factors: first.factors,
            fog: first.fog.map(|fog| fog.range()).filter(|range| *range < CLEAR),
            solids: !(first.walls.is_empty() && first.posts.is_empty()),
            hour: match options.moments.first() {
                Some(moment) if moment.hour.is_none() => {
                    let mut player = Player::new(checked, start.clone(), rehearsal);
                    moment.play(&mut player);
                    let shown = player.run().clock().map(|shown| shown.hour.to_clock());
                    shown.map_or(String::new(), |hour| format!(", {}", on_the_minute(&hour)))
                }
                _ => String::new(),
            },
        });
        let fit = || fitted(&scenes, lens, window);
        let (exposure, fitted) = match options.exposure {
            Exposure::Lux(lux) => (EIGHTY / (lux as f32).max(1e-6), "".to_owned()),
            Exposure::Fitted | Exposure::Each => (fit(), ", fitted".to_owned()),
            Exposure::Stops(stops) => {
                let words = format!(
                    ", fitted {}{} stops",
                    if stops < 0.0 { "" } else { "+" },
                    scale::short(stops)
                );
                (fit() * (stops as f32).exp2(), words)
            }
        };
        let width = options.width.clamp(320, 8192);
        let each = options.exposure == Exposure::Each;
        PlaceView {
            view: options.view,
            start,
            rehearsal: options.rehearsal,
            ids,
            width,
            lens,
            window,
            pictures: options.pictures.clone(),
            exposure,
            fitted,
            each,
            shown,
        }
    }

    /// The illuminance that is drawn at 80% of white, in lx.
    pub fn bright(&self) -> f64 {
        f64::from(EIGHTY / self.exposure)
    }

    /// Draws moments. One fills the picture, more stand in rows.
    pub fn picture(&self, checked: &ValidatedProgram, moments: &[When]) -> Picture {
        let fonts = Fonts::new();
        let wide = self.width as f32 - 2.0 * SIDE;
        let across = match moments.len() {
            0 | 1 => 1,
            2..=4 => 2,
            _ => 3,
        };
        let gap = 12.0;
        let each = ((wide - gap * (across as f32 - 1.0)) / across as f32).floor();
        let tall = (each * self.window.tall / self.window.wide).round().max(40.0);
        let mut shapes = Vec::new();
        self.head(checked, &fonts, moments, &mut shapes);
        let rows = moments.len().div_ceil(across).max(1);
        let row = tall + if moments.len() > 1 { CAPTION + 6.0 } else { 0.0 };
        for (n, moment) in moments.iter().enumerate() {
            let x = SIDE + (each + gap) * (n % across) as f32;
            let y = TOP + row * (n / across) as f32;
            let frame = Frame { x, y, w: each, h: tall };
            let own = self.panel(checked, *moment, frame, &fonts, moments.len() < 2, &mut shapes);
            if moments.len() > 1 {
                let bright = format!(", {} lx at 80%", scale::short(own));
                let words = moment.words() + if self.each { &bright } else { "" };
                shapes.push(text((x, y + tall + 16.0), 13.0, look::QUIET, Anchor::Start, words));
            }
        }
        let foot = TOP + row * rows as f32;
        let height = self.foot(foot, (wide, each), &fonts, &mut shapes);
        Picture {
            width: self.width,
            height,
            ground: look::GROUND,
            title: format!(
                "{}: the place with {} lamps",
                checked.program().name(),
                self.shown.lamps
            ),
            shapes,
            readings: None,
        }
    }

    /// Draws the legend and the ruler under places of the width `each` in a picture of the width `wide`. Gives the height of
    /// the whole.
    fn foot(
        &self,
        foot: f32,
        (wide, each): (f32, f32),
        fonts: &Fonts,
        shapes: &mut Vec<Shape>,
    ) -> u32 {
        let bar = self.ruler((SIDE + wide, foot + 20.0), each, fonts, shapes);
        let legend = fonts.wrapped(&self.legend(), 12.0, false, wide - bar - 24.0);
        for (n, line) in legend.iter().enumerate() {
            let y = foot + 20.0 + LEGEND * n as f32;
            shapes.push(text((SIDE, y), 12.0, look::QUIET, Anchor::Start, line.clone()));
        }
        (foot + 20.0 + LEGEND * legend.len() as f32) as u32
    }

    /// The place at a moment.
    fn scene(&self, checked: &ValidatedProgram, moment: When) -> Scene {
        let rehearsals = checked.program().rehearsals();
        let rehearsal = self.rehearsal.and_then(|n| rehearsals.get(n));
        let mut player = Player::new(checked, self.start.clone(), rehearsal);
        moment.play(&mut player);
        scene(checked, player.run(), &self.ids, self.shows(checked.program()))
    }

    /// Draws the place at a moment into a frame. Gives the illuminance that is drawn at 80% of white, in lx.
    fn panel(
        &self,
        checked: &ValidatedProgram,
        moment: When,
        frame: Frame,
        fonts: &Fonts,
        named: bool,
        shapes: &mut Vec<Shape>,
    ) -> f64 {
        let scene = self.scene(checked, moment);
        let mut own = self.clone();
        if self.each {
            own.exposure = fitted(std::slice::from_ref(&scene), self.lens, self.window);
        }
        own.lit(&scene, frame, shapes);
        own.solids(&scene, frame, shapes);
        own.lamps(checked, &scene, frame, fonts, named, shapes);
        own.bright()
    }

    fn head(
        &self,
        checked: &ValidatedProgram,
        fonts: &Fonts,
        moments: &[When],
        shapes: &mut Vec<Shape>,
    ) {
        let most = self.width as f32 - 2.0 * SIDE;
        let name = fonts.fitted(checked.program().name(), 24.0, true, most);
        shapes.push(Shape::words((SIDE, 38.0), 24.0, true, look::INK, Anchor::Start, name));
        let from = self.words(checked.program());
        let when = match moments {
            [one] => format!("at {}{}", one.words(), self.shown.hour),
            [first, .., last] => {
                format!("{} moments from {} to {}", moments.len(), first.words(), last.words())
            }
            [] => "at no moment".to_owned(),
        };
        let bright = match self.each {
            true => "exposure: fitted for each moment".to_owned(),
            false => format!("exposure: {} lx at 80%{}", scale::short(self.bright()), self.fitted),
        };
        let about = format!(
            "{from}   \u{2022}   {when}   \u{2022}   seed {}   \u{2022}   {bright}",
            self.start.seed.0
        );
        let about = fonts.fitted(&about, 14.0, false, most);
        shapes.push(text((SIDE, 62.0), 14.0, look::QUIET, Anchor::Start, about));
    }

    /// From where it is viewed, in words.
    fn words(&self, program: &Program) -> String {
        match self.view {
            View::Above => "from above".to_owned(),
            View::Front => "from the front, 25 degrees down".to_owned(),
            View::Eye(n) => program.eyes().get(n).map_or(String::new(), |eye| {
                format!("through {}, {}\u{b0} wide", eye.name, scale::short(eye.field))
            }),
        }
    }

    fn legend(&self) -> String {
        let mut words = format!(
            "Light of {} {} with the falloff of glTF's punctual lights, and shadows; shown as 1 - e^(-light x exposure), in sRGB.",
            self.shown.lamps,
            if self.shown.lamps == 1 { "lamp" } else { "lamps" }
        );
        words += " The ground is at height 0.";
        if let Some(range) = self.shown.fog {
            let range = scale::short(f64::from(range.round()));
            words += &format!(" Visual range in fog: {range} m (5% contrast).");
        }
        if self.shown.factors {
            words += &format!(
                " A factor of 1 is drawn as {FACTOR} cd, and as {FACTOR_LUX} lx of ambient and directional light."
            );
        }
        match &self.shown.unplaced[..] {
            [] => {}
            [one] => words += &format!(" {one} has no position and is not shown."),
            all if all.len() <= 4 => {
                words += &format!(" {} have no position and are not shown.", all.join(", "));
            }
            all => words += &format!(" {} lights without a position are not shown.", all.len()),
        }
        if !self.shown.solids {
            words += " Add `wall` and `post` to the book for shadows.";
        }
        words
    }

    fn shows<'a>(&'a self, program: &'a Program) -> Shows<'a> {
        let eye = match self.view {
            View::Eye(n) => program.eyes().get(n),
            View::Above | View::Front => None,
        };
        Shows { eye, pictures: &self.pictures }
    }

    /// Where a point of the place is in a frame; none for what is behind an eye.
    fn project(&self, p: Vec3, frame: Frame) -> Option<(f32, f32)> {
        let scale = frame.w / self.window.wide;
        let (x, y) = self.lens.project(p)?;
        Some((frame.x + (x - self.window.left) * scale, frame.y + (self.window.top - y) * scale))
    }

    fn lit(&self, scene: &Scene, frame: Frame, shapes: &mut Vec<Shape>) {
        // What an eye sees has edges of its own.
        let cell = if matches!(self.lens, Lens::Eye(_)) { 1.0 } else { CELL };
        let (w, h) = ((frame.w / cell).ceil() as usize, (frame.h / cell).ceil() as usize);
        let light = light(scene, self.lens, self.window, (w, h), self.exposure);
        let mut pixels = Vec::with_capacity(light.len() * 3);
        for v in &light {
            pixels.extend_from_slice(&shown(*v, self.exposure));
        }
        shapes.push(Shape::Image(frame, w as u32, h as u32, pixels));
    }

    fn solids(&self, scene: &Scene, frame: Frame, shapes: &mut Vec<Shape>) {
        let above = match self.lens {
            Lens::Above => true,
            Lens::Front(..) => false,
            Lens::Eye(_) => return,
        };
        let ink = look::INK.alpha(110);
        for wall in &scene.walls {
            let ends = (self.project(wall.from, frame), self.project(wall.to, frame));
            let (Some(a), Some(b)) = ends else { continue };
            match above {
                true => shapes.push(Shape::Line(a, b, 2.5, ink)),
                false => {
                    let top = |p: Vec3| self.project([p[0], wall.top, p[2]], frame);
                    let (Some(c), Some(d)) = (top(wall.to), top(wall.from)) else { continue };
                    for (from, to) in [(a, b), (b, c), (c, d), (d, a)] {
                        shapes.push(Shape::Line(from, to, 1.0, ink.alpha(70)));
                    }
                }
            }
        }
        let scale = frame.w / self.window.wide;
        for post in &scene.posts {
            let Some((x, y)) = self.project(post.at, frame) else { continue };
            match above {
                true => {
                    shapes.push(Shape::Disc((x, y), (post.radius * scale).max(1.5), ink));
                }
                false => {
                    let top = [post.at[0], post.top, post.at[2]];
                    let Some((_, top)) = self.project(top, frame) else { continue };
                    let (left, right) = (x - post.radius * scale, x + post.radius * scale);
                    for (from, to) in [
                        ((left, y), (left, top)),
                        ((left, top), (right, top)),
                        ((right, top), (right, y)),
                    ] {
                        shapes.push(Shape::Line(from, to, 1.0, ink.alpha(70)));
                    }
                }
            }
        }
    }

    fn lamps(
        &self,
        checked: &ValidatedProgram,
        scene: &Scene,
        frame: Frame,
        fonts: &Fonts,
        named: bool,
        shapes: &mut Vec<Shape>,
    ) {
        let radius = (frame.w / 320.0).clamp(2.0, 4.0);
        let mut taken: Vec<Frame> = Vec::new();
        if let Lens::Eye(eye) = self.lens {
            self.shining(scene, &eye, frame, shapes);
            return;
        }
        for lamp in &scene.lamps {
            let Some((x, y)) = self.project(lamp.at, frame) else { continue };
            let most = lamp.candelas.iter().fold(0.0f32, |a, b| a.max(*b));
            let level = if most > 0.0 { 1.0 - (-most * self.exposure * 0.08).exp() } else { 0.0 };
            let color = if most > 0.0 { lamp.candelas.map(|v| v / most * level) } else { [0.0; 3] };
            let [r, g, b] = Rgb(color.map(f64::from)).to_srgb8();
            taken.push(Frame { x: x - radius, y: y - radius, w: 2.0 * radius, h: 2.0 * radius });
            // One that is dark, or lost in daylight, only says where it is.
            if level < 0.03 {
                shapes.push(Shape::Disc((x, y), radius * 0.6 + 0.8, look::GROUND.alpha(150)));
                shapes.push(Shape::Disc((x, y), radius * 0.6, look::QUIET));
                continue;
            }
            shapes.push(Shape::Disc((x, y), radius + 1.2, look::GROUND.alpha(200)));
            shapes.push(Shape::Disc((x, y), radius + 0.6, look::INK.alpha(150)));
            shapes.push(Shape::Disc((x, y), radius - 0.4, Ink([r, g, b, 255])));
        }
        if !named {
            return;
        }
        let mut before = None;
        for lamp in &scene.lamps {
            if before == Some(lamp.light) {
                continue;
            }
            before = Some(lamp.light);
            let words = lamp_name(checked, lamp);
            let Some((x, y)) = self.project(lamp.at, frame) else { continue };
            let wide = fonts.width(&words, 12.0, false);
            // Beside the lamp, above it or below it, wherever nothing stands yet.
            let places = [
                (x + 8.0, y + 4.0),
                (x - 8.0 - wide, y + 4.0),
                (x - wide / 2.0, y - 9.0),
                (x - wide / 2.0, y + 18.0),
            ];
            let free = places.into_iter().find(|(x, y)| {
                let own = Frame { x: *x - 2.0, y: y - 11.0, w: wide + 4.0, h: 15.0 };
                let inside = own.x >= frame.x
                    && own.x + own.w <= frame.x + frame.w
                    && own.y >= frame.y
                    && own.y + own.h <= frame.y + frame.h;
                inside && !taken.iter().any(|other| overlap(own, *other))
            });
            let Some((x, y)) = free else { continue };
            let own = Frame { x: x - 3.0, y: y - 11.5, w: wide + 6.0, h: 15.5 };
            taken.push(own);
            shapes.push(Shape::Box(own, look::GROUND.alpha(150)));
            shapes.push(text((x, y), 12.0, look::INK, Anchor::Start, words));
        }
    }

    /// The lamps that an eye sees, as bright discs.
    fn shining(&self, scene: &Scene, eye: &Camera, frame: Frame, shapes: &mut Vec<Shape>) {
        for lamp in &scene.lamps {
            let Some((x, y)) = self.project(lamp.at, frame) else { continue };
            let inside = (frame.x..frame.x + frame.w).contains(&x)
                && (frame.y..frame.y + frame.h).contains(&y);
            if !inside || hidden(scene, lamp.at, eye.at) {
                continue;
            }
            let away = [0, 1, 2].map(|n| lamp.at[n] - eye.at[n]);
            let away = away.iter().map(|v| v * v).sum::<f32>().sqrt();
            let through = scene.fog.map_or(1.0, |fog| (-fog.density * away).exp());
            let most = lamp.candelas.iter().fold(0.0f32, |a, b| a.max(*b));
            let level = (1.0 - (-most * self.exposure * 0.08).exp()) * through;
            if level < 0.03 {
                continue;
            }
            let [r, g, b] = Rgb(lamp.candelas.map(|v| f64::from(v / most))).to_srgb8();
            let radius = (LAMP * frame.w / (self.window.wide * away)).clamp(1.2, frame.w / 80.0);
            let alpha = (level * 255.0) as u8;
            shapes.push(Shape::Disc((x, y), radius * 2.2, Ink([r, g, b, alpha / 5])));
            shapes.push(Shape::Disc((x, y), radius, Ink([r, g, b, alpha])));
        }
    }

    /// A bar of a round length that ends at a place, and how wide it is with its words.
    fn ruler(
        &self,
        (right, y): (f32, f32),
        each: f32,
        fonts: &Fonts,
        shapes: &mut Vec<Shape>,
    ) -> f32 {
        if matches!(self.lens, Lens::Eye(_)) {
            return 0.0;
        }
        let meters = scale::step(f64::from(self.window.wide), 12);
        let long = meters as f32 * each / self.window.wide;
        let words = format!("{} m", scale::short(meters));
        let wide = fonts.width(&words, 12.0, false);
        shapes.push(Shape::Line((right - long, y - 4.0), (right, y - 4.0), 2.0, look::QUIET));
        let left = right - long - 8.0;
        shapes.push(text((left, y), 12.0, look::QUIET, Anchor::End, words));
        long + 8.0 + wide
    }
}

/// Fog with a larger visual range is not mentioned in the legend, in meters.
const CLEAR: f32 = 20_000.0;

/// The radius of a lamp as an eye sees it, in meters.
const LAMP: f32 = 0.09;

fn text(at: (f32, f32), size: f32, ink: Ink, anchor: Anchor, words: String) -> Shape {
    Shape::words(at, size, false, ink, anchor, words)
}

fn overlap(a: Frame, b: Frame) -> bool {
    a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h
}

fn lamp_name(checked: &ValidatedProgram, lamp: &Lamp) -> String {
    let light = checked.program().light(lamp.light);
    match light.size {
        Size::One => light.name.clone(),
        Size::Many(n) => format!("{}[{n}]", light.name),
        Size::Open => format!("{}[]", light.name),
    }
}

/// `e^-EIGHTY` is 20%.
const EIGHTY: f32 = 1.609_438;

/// Light as it is shown.
fn shown(light: Vec3, exposure: f32) -> [u8; 3] {
    let mut color = [0.0; 3];
    for part in 0..3 {
        let v = 1.0 - (-light[part] * exposure).exp();
        // Where there is no light at all the ground of the picture is just seen.
        color[part] = f64::from(GROUND[part] + (1.0 - GROUND[part]) * v);
    }
    Rgb(color).to_srgb8()
}

/// What is drawn at 80% of white is never less than this, so that a night stays a night, in lx.
const DARKEST: f32 = 10.0;
/// Nor more than this, in lx: full sun on the ground, with room above.
const BRIGHTEST: f32 = 300_000.0;
/// Light that is so many times weaker than the brightest does not count as lit.
const LIT: f32 = 1.0 / 500.0;

/// The exposure of these moments, from the ground that is lit. The illuminance that nine tenths of it stay below is
/// drawn at 80% of white, however bright the small rest is; ground that is lit evenly is drawn a good third below that,
/// so that there is room above it. The result is kept within [`DARKEST`] and [`BRIGHTEST`].
fn fitted(scenes: &[Scene], lens: Lens, window: Window) -> f32 {
    let (w, h) = (96, ((96.0 * window.tall / window.wide) as usize).max(8));
    let mut levels: Vec<f32> = Vec::new();
    for scene in scenes {
        let mut open = scene.clone();
        match lens {
            Lens::Above | Lens::Front(..) => {
                open.walls.clear();
                open.posts.clear();
            }
            // What stands there is seen, but casts no shadows.
            Lens::Eye(_) => {
                open.lamps.iter_mut().for_each(|lamp| lamp.shadows = false);
                open.suns.iter_mut().for_each(|sun| sun.shadows = false);
            }
        }
        let coarse = light(&open, lens, window, (w, h), 0.0);
        levels.extend(coarse.iter().map(|v| v[0].max(v[1]).max(v[2])));
    }
    let at = |levels: &mut [f32], share: f32| {
        let n = ((levels.len() as f32 * share) as usize).min(levels.len().saturating_sub(1));
        (n < levels.len()).then(|| *levels.select_nth_unstable_by(n, f32::total_cmp).1)
    };
    // The small hot spots right under lamps do not count.
    let bright = at(&mut levels, 0.995).unwrap_or(0.0);
    levels.retain(|v| *v > (bright * LIT).max(1e-6));
    let high = at(&mut levels, 0.9).unwrap_or(DARKEST);
    let logs: f64 = levels.iter().map(|v| f64::from(*v).ln()).sum();
    let mean = (logs / levels.len().max(1) as f64).exp() as f32;
    EIGHTY / high.max(EVEN * mean).clamp(DARKEST, BRIGHTEST)
}

/// How many times its mean ground that is lit evenly could be as bright before it comes to 80% of white.
const EVEN: f32 = 3.0;
