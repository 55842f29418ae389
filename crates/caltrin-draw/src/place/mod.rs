//! The place: lamps where they stand, their pools of light, and the shadows of walls and posts; from
//! above or from the front.
//!
//! Light is worked out as glTF's punctual lights have it, on a grid of cells of two pixels, and
//! shown as `1 - e^(-light x exposure)` in each of red, green and blue, then as sRGB.

mod scene;
mod shade;

use std::ops::Range;

use caltrin_core::ValidatedProgram;
use caltrin_core::color::Rgb;
use caltrin_core::program::{LightId, Size};
use caltrin_core::quantity::{Hours, Seconds};
use caltrin_core::rehearsal::Player;
use caltrin_core::run::State;

use crate::font::Fonts;
use crate::look;
use crate::scale;
use crate::shape::{Anchor, Frame, Ink, Picture, Shape};
use crate::sheet::on_the_minute;
use scene::{FACTOR, FACTOR_LUX, Lamp, Scene, Vec3, scene};
use shade::{Blockers, Surface, dot, shaded, share, sky};

/// From where a place is viewed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum View {
    /// Straight down on the ground at height 0; -z is up in the picture.
    #[default]
    Above,
    /// From +z and a little from above, in parallel rays: x to the right, y up, with the ground.
    Front,
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
        }
    }
}

/// How steeply the front is looked down on: the sine and cosine of 25 degrees.
const DOWN: (f32, f32) = (0.422_618_26, 0.906_307_8);

const SIDE: f32 = 24.0;
const TOP: f32 = 78.0;
const CAPTION: f32 = 22.0;
const LEGEND: f32 = 16.0;
/// Pixels a side of a cell that light is worked out for.
const CELL: f32 = 2.0;
/// Light this far below white is not seen, so lamps without a reach end there.
const UNSEEN: f32 = 1.0 / 512.0;

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
    window: Window,
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
    /// What the game's clock shows at the first moment, in words.
    hour: String,
}

/// What part of the place is seen: its left and upper edge in meters, and its size.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Window {
    left: f32,
    top: f32,
    wide: f32,
    tall: f32,
    /// For the front, how far the ground reaches: its z at the back and at the front.
    ground: (f32, f32),
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
        // Some of the moments are enough to see where everything is.
        let step = options.moments.len().div_ceil(12).max(1);
        let scenes: Vec<Scene> = options
            .moments
            .iter()
            .step_by(step)
            .map(|moment| {
                let mut player = Player::new(checked, start.clone(), rehearsal);
                moment.play(&mut player);
                scene(checked, player.run(), &ids)
            })
            .collect();
        let window = window(&scenes, options.view);
        let shown = scenes.first().map_or(Shown::default(), |first| Shown {
            // Of several moments, that with the most sparks.
            lamps: scenes.iter().map(|scene| scene.lamps.len()).max().unwrap_or(0),
            unplaced: first.unplaced.clone(),
            factors: first.factors,
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
        let fit = || fitted(&scenes, options.view, window);
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
            window,
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
        let rehearsals = checked.program().rehearsals();
        let rehearsal = self.rehearsal.and_then(|n| rehearsals.get(n));
        let mut shapes = Vec::new();
        self.head(checked, &fonts, moments, &mut shapes);
        let rows = moments.len().div_ceil(across).max(1);
        let row = tall + if moments.len() > 1 { CAPTION + 6.0 } else { 0.0 };
        for (n, moment) in moments.iter().enumerate() {
            let mut player = Player::new(checked, self.start.clone(), rehearsal);
            moment.play(&mut player);
            let scene = scene(checked, player.run(), &self.ids);
            let x = SIDE + (each + gap) * (n % across) as f32;
            let y = TOP + row * (n / across) as f32;
            let frame = Frame { x, y, w: each, h: tall };
            let mut own = self.clone();
            if self.each {
                own.exposure = fitted(std::slice::from_ref(&scene), self.view, self.window);
            }
            own.lit(&scene, frame, &mut shapes);
            own.solids(&scene, frame, &mut shapes);
            own.lamps(checked, &scene, frame, &fonts, moments.len() < 2, &mut shapes);
            if moments.len() > 1 {
                let bright = format!(", {} lx at 80%", scale::short(own.bright()));
                let words = moment.words() + if self.each { &bright } else { "" };
                shapes.push(text((x, y + tall + 16.0), 13.0, look::QUIET, Anchor::Start, words));
            }
        }
        let foot = TOP + row * rows as f32;
        let bar = self.ruler((SIDE + wide, foot + 20.0), each, &fonts, &mut shapes);
        let legend = fonts.wrapped(&self.legend(), 12.0, false, wide - bar - 24.0);
        for (n, line) in legend.iter().enumerate() {
            let y = foot + 20.0 + LEGEND * n as f32;
            shapes.push(text((SIDE, y), 12.0, look::QUIET, Anchor::Start, line.clone()));
        }
        Picture {
            width: self.width,
            height: (foot + 20.0 + LEGEND * legend.len() as f32) as u32,
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
        let from = match self.view {
            View::Above => "from above",
            View::Front => "from the front, 25 degrees down",
        };
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

    fn legend(&self) -> String {
        let mut words = format!(
            "Light of {} {} with the falloff of glTF's punctual lights, and shadows; shown as 1 - e^(-light x exposure), in sRGB.",
            self.shown.lamps,
            if self.shown.lamps == 1 { "lamp" } else { "lamps" }
        );
        words += " The ground is at height 0.";
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

    /// Where a point of the place is in a frame.
    fn project(&self, p: Vec3, frame: Frame) -> (f32, f32) {
        let scale = frame.w / self.window.wide;
        let down = match self.view {
            View::Above => p[2] - self.window.top,
            View::Front => self.window.top - (p[1] * DOWN.1 - p[2] * DOWN.0),
        };
        (frame.x + (p[0] - self.window.left) * scale, frame.y + down * scale)
    }

    fn lit(&self, scene: &Scene, frame: Frame, shapes: &mut Vec<Shape>) {
        let (w, h) = ((frame.w / CELL).ceil() as usize, (frame.h / CELL).ceil() as usize);
        let light = light(scene, self.view, self.window, (w, h), self.exposure);
        let mut pixels = Vec::with_capacity(light.len() * 3);
        for v in &light {
            pixels.extend_from_slice(&shown(*v, self.exposure));
        }
        shapes.push(Shape::Image(frame, w as u32, h as u32, pixels));
    }

    fn solids(&self, scene: &Scene, frame: Frame, shapes: &mut Vec<Shape>) {
        let ink = look::INK.alpha(110);
        for wall in &scene.walls {
            let (a, b) = (self.project(wall.from, frame), self.project(wall.to, frame));
            match self.view {
                View::Above => shapes.push(Shape::Line(a, b, 2.5, ink)),
                View::Front => {
                    let top = |p: Vec3| self.project([p[0], wall.top, p[2]], frame);
                    let (c, d) = (top(wall.to), top(wall.from));
                    for (from, to) in [(a, b), (b, c), (c, d), (d, a)] {
                        shapes.push(Shape::Line(from, to, 1.0, ink.alpha(70)));
                    }
                }
            }
        }
        let scale = frame.w / self.window.wide;
        for post in &scene.posts {
            let (x, y) = self.project(post.at, frame);
            match self.view {
                View::Above => {
                    shapes.push(Shape::Disc((x, y), (post.radius * scale).max(1.5), ink));
                }
                View::Front => {
                    let (_, top) = self.project([post.at[0], post.top, post.at[2]], frame);
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
        for lamp in &scene.lamps {
            let (x, y) = self.project(lamp.at, frame);
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
            let (x, y) = self.project(lamp.at, frame);
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

    /// A bar of a round length that ends at a place, and how wide it is with its words.
    fn ruler(
        &self,
        (right, y): (f32, f32),
        each: f32,
        fonts: &Fonts,
        shapes: &mut Vec<Shape>,
    ) -> f32 {
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
    let ground = [0.0045, 0.0060, 0.0072];
    let mut color = [0.0; 3];
    for part in 0..3 {
        let v = 1.0 - (-light[part] * exposure).exp();
        // Where there is no light at all the ground of the picture is just seen.
        color[part] = f64::from(ground[part] + (1.0 - ground[part]) * v);
    }
    Rgb(color).to_srgb8()
}

/// The frame around all lamps and solids, with air around it, in a shape that suits a screen.
fn window(scenes: &[Scene], view: View) -> Window {
    let (mut lo, mut hi) = ([f32::INFINITY; 3], [f32::NEG_INFINITY; 3]);
    let mut take = |p: Vec3, around: f32| {
        for (part, around) in [around, 1.0, around].into_iter().enumerate() {
            lo[part] = lo[part].min(p[part] - around);
            hi[part] = hi[part].max(p[part] + around);
        }
    };
    for scene in scenes {
        for lamp in &scene.lamps {
            // A pool of light of its own belongs to the picture, that of a harbor light does not.
            let most = lamp.candelas.iter().fold(0.0f32, |a, b| a.max(*b));
            let around = match lamp.outer.is_finite() {
                true => (lamp.outer * 0.7).clamp(1.0, POOL),
                false => (most * 0.5).sqrt().clamp(3.0, POOL),
            };
            take(lamp.at, around);
            // A spot's pool lies where it points.
            if let (Some(aim), Some(_)) = (lamp.aim, lamp.cone)
                && aim[1] < -0.1
                && lamp.at[1] > 0.0
            {
                let far = (lamp.at[1] / -aim[1]).min(lamp.outer).min(4.0 * POOL);
                take([0, 1, 2].map(|n| lamp.at[n] + aim[n] * far), 2.0);
            }
        }
        for wall in &scene.walls {
            take(wall.from, 1.0);
            take([wall.to[0], wall.top, wall.to[2]], 1.0);
        }
        for post in &scene.posts {
            take(post.at, 1.0 + post.radius);
            take([post.at[0], post.top, post.at[2]], 1.0);
        }
    }
    if lo[0] > hi[0] {
        (lo, hi) = ([-5.0; 3], [5.0; 3]);
    }
    // The ground in front of everything is the lower edge of a front, the highest lamp its upper one.
    let (low, high) = (-hi[2] * DOWN.0, (hi[1] * DOWN.1 - lo[2] * DOWN.0));
    let (wide, tall) = match view {
        View::Above => (hi[0] - lo[0], hi[2] - lo[2]),
        View::Front => (hi[0] - lo[0], high - low),
    };
    // Between a wide strip and something taller than wide.
    let shape = (tall / wide).clamp(0.28, 0.62);
    let (seen_wide, seen_tall) =
        if tall / wide > shape { (tall / shape, tall) } else { (wide, wide * shape) };
    let middle = |part: usize| (lo[part] + hi[part]) / 2.0;
    let top = match view {
        View::Above => middle(2) - seen_tall / 2.0,
        // Air goes above, the ground stays where it is.
        View::Front => low + seen_tall,
    };
    Window {
        left: middle(0) - seen_wide / 2.0,
        top,
        wide: seen_wide,
        tall: seen_tall,
        ground: (lo[2], hi[2]),
    }
}

/// How far around a lamp the picture reaches at the most, in meters.
const POOL: f32 = 8.0;

/// What is drawn at 80% of white is never less than this, so that a night stays a night, in lx.
const DARKEST: f32 = 10.0;
/// Nor more than this, in lx: full sun on the ground, with room above.
const BRIGHTEST: f32 = 300_000.0;
/// Light that is so many times weaker than the brightest does not count as lit.
const LIT: f32 = 1.0 / 500.0;

/// The exposure of these moments, from the ground that is lit. The illuminance that nine tenths of it stay below is
/// drawn at 80% of white, however bright the small rest is; ground that is lit evenly is drawn a good third below that,
/// so that there is room above it. The result is kept within [`DARKEST`] and [`BRIGHTEST`].
fn fitted(scenes: &[Scene], view: View, window: Window) -> f32 {
    let (w, h) = (96, ((96.0 * window.tall / window.wide) as usize).max(8));
    let mut levels: Vec<f32> = Vec::new();
    for scene in scenes {
        let coarse = light(
            &Scene { walls: Vec::new(), posts: Vec::new(), ..scene.clone() },
            view,
            window,
            (w, h),
            0.0,
        );
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

/// The light on every cell of a window, row after row. With an exposure, lamps end where they are no
/// longer seen.
fn light(
    scene: &Scene,
    view: View,
    window: Window,
    (w, h): (usize, usize),
    exposure: f32,
) -> Vec<Vec3> {
    let cell = window.wide / w as f32;
    let lamps: Vec<(Lamp, Blockers, f32)> = scene
        .lamps
        .iter()
        .filter(|lamp| lamp.candelas.iter().any(|v| *v > 0.0))
        .map(|lamp| {
            let most = lamp.candelas.iter().fold(0.0f32, |a, b| a.max(*b));
            let far = if exposure > 0.0 && lamp.falloff >= 1.0 {
                (most * exposure / UNSEEN).powf(1.0 / lamp.falloff)
            } else {
                f32::INFINITY
            };
            let far = lamp.outer.min(far.max(lamp.inner));
            (*lamp, Blockers::of(scene, lamp, far), far)
        })
        .collect();
    let mut cells = vec![[0.0f32; 3]; w * h];
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let rows = h.div_ceil(cores * 4).max(1);
    let open = std::sync::Mutex::new(cells.chunks_mut(rows * w).enumerate());
    std::thread::scope(|scope| {
        for _ in 0..cores {
            let (open, lamps) = (&open, &lamps);
            scope.spawn(move || {
                let next = || open.lock().ok().and_then(|mut open| open.next());
                while let Some((band, cells)) = next() {
                    shade_band(scene, view, window, lamps, (w, cell, band * rows), cells);
                }
            });
        }
    });
    cells
}

/// Some rows of cells, from row `first` on.
fn shade_band(
    scene: &Scene,
    view: View,
    window: Window,
    lamps: &[(Lamp, Blockers, f32)],
    (w, cell, first): (usize, f32, usize),
    cells: &mut [Vec3],
) {
    let surfaces: Vec<Option<Surface>> = (0..cells.len())
        .map(|n| {
            let x = window.left + (n % w) as f32 * cell + cell / 2.0;
            let down = (first + n / w) as f32 * cell + cell / 2.0;
            match view {
                View::Above => {
                    Some(Surface { at: [x, 0.0, window.top + down], faces: [0.0, 1.0, 0.0] })
                }
                View::Front => seen_from_front(scene, window, x, window.top - down),
            }
        })
        .collect();
    let rows = cells.len() / w;
    let grid = Grid { surfaces: &surfaces, view, cell, w, h: rows };
    for (surface, light) in surfaces.iter().zip(&mut *cells) {
        if let Some(surface) = surface {
            *light = sky(scene, *surface);
        }
    }
    for sun in &scene.suns {
        let faced = |surface: Surface| dot(surface.faces, sun.toward).max(0.0);
        let open = |surface: Surface| !(sun.shadows && shaded(scene, surface, sun));
        grid.lit((0..w, 0..rows), faced, open, |n, part| {
            for (light, lux) in cells[n].iter_mut().zip(sun.lux) {
                *light += lux * part;
            }
        });
    }
    for (lamp, blockers, far) in lamps {
        // The columns and rows that the lamp can reach at all.
        let across = |v: f32| ((v - window.left) / cell).clamp(0.0, w as f32) as usize;
        let (left, right) = (across(lamp.at[0] - far), across(lamp.at[0] + far + cell));
        let depth = match view {
            View::Above => lamp.at[2] - window.top,
            View::Front => window.top - (lamp.at[1] * DOWN.1 - lamp.at[2] * DOWN.0),
        };
        let row = |v: f32| (v / cell - first as f32).clamp(0.0, rows as f32) as usize;
        let (top, foot) = (row(depth - far), row(depth + far + cell));
        let given = |surface: Surface| share(lamp, surface, *far);
        let open = |surface: Surface| !blockers.between(surface.at);
        grid.lit((left..right, top..foot), given, open, |n, part| {
            for (light, candelas) in cells[n].iter_mut().zip(lamp.candelas) {
                *light += candelas * part;
            }
        });
    }
}

/// What is seen in the cells of some rows of a picture.
struct Grid<'a> {
    surfaces: &'a [Option<Surface>],
    view: View,
    cell: f32,
    w: usize,
    /// How many rows there are.
    h: usize,
}

/// Whether a cell is given something, and whether nothing stands before it.
const NOTHING: u8 = 0;
const OPEN: u8 = 1;
const SHADOW: u8 = 2;

/// How many times a cell on the edge of a shadow is sampled along each side.
const FINE: usize = 4;

impl Grid<'_> {
    /// Takes what each cell of some columns and rows is given from one light. Where a shadow begins beside a cell, `open`
    /// is asked at several places in it, so that the edge is smooth.
    fn lit(
        &self,
        (columns, rows): (Range<usize>, Range<usize>),
        given: impl Fn(Surface) -> f32,
        open: impl Fn(Surface) -> bool,
        mut take: impl FnMut(usize, f32),
    ) {
        let (wide, first) = (columns.len(), rows.start);
        // What each cell is given, and whether it is open: 0 where nothing is given.
        let mut given_to = vec![0.0f32; wide * rows.len()];
        let mut states = vec![NOTHING; wide * rows.len()];
        for row in rows.clone() {
            let from = (row - first) * wide;
            let cells = &self.surfaces[row * self.w + columns.start..][..wide];
            let kept = given_to[from..from + wide].iter_mut().zip(&mut states[from..from + wide]);
            for (surface, (part, state)) in cells.iter().zip(kept) {
                let Some(surface) = *surface else { continue };
                *part = given(surface);
                if *part > 0.0 {
                    *state = if open(surface) { OPEN } else { SHADOW };
                }
            }
        }
        for y in 0..rows.len() {
            // Rows of other threads are sampled again.
            let ends = [(first + y == 0, -1.0), (first + y + 1 == self.h, 1.0)];
            let at_end = ends.iter().any(|(at_end, _)| *at_end);
            for x in 0..wide {
                let k = y * wide + x;
                let state = states[k];
                if state == NOTHING {
                    continue;
                }
                let other = if state == OPEN { SHADOW } else { OPEN };
                let n = (first + y) * self.w + columns.start + x;
                let mut differs = (x > 0 && states[k - 1] == other)
                    || (x + 1 < wide && states[k + 1] == other)
                    || (y > 0 && states[k - wide] == other)
                    || (k + wide < states.len() && states[k + wide] == other);
                if at_end && !differs {
                    differs = self.surfaces[n].is_some_and(|surface| {
                        ends.into_iter().any(|(at_end, way)| {
                            let beyond = self.near(surface, 0.0, way * self.cell);
                            at_end && open(beyond) != (state == OPEN)
                        })
                    });
                }
                let share = match (self.surfaces[n].filter(|_| differs), state) {
                    (Some(surface), _) => {
                        let place = |n: usize| ((n as f32 + 0.5) / FINE as f32 - 0.5) * self.cell;
                        let fine = (0..FINE * FINE)
                            .filter(|n| open(self.near(surface, place(n % FINE), place(n / FINE))));
                        fine.count() as f32 / (FINE * FINE) as f32
                    }
                    (None, OPEN) => 1.0,
                    (None, _) => continue,
                };
                if share > 0.0 {
                    take(n, given_to[k] * share);
                }
            }
        }
    }

    /// The place of the same surface so far to the right and down in the picture.
    fn near(&self, surface: Surface, right: f32, down: f32) -> Surface {
        let [x, y, z] = surface.at;
        let at = match (self.view, surface.faces[1] > 0.5) {
            (View::Above, _) => [x + right, y, z + down],
            (View::Front, true) => [x + right, y, z + down / DOWN.0],
            (View::Front, false) => {
                let along = -right * surface.faces[0] / surface.faces[2].max(0.05);
                [x + right, y - down / DOWN.1, z + along]
            }
        };
        Surface { at, ..surface }
    }
}

/// What is seen from the front at a place of the picture: the nearest wall or post, or the ground.
fn seen_from_front(scene: &Scene, window: Window, x: f32, up: f32) -> Option<Surface> {
    let ground = -up / DOWN.0;
    let (back, front) = window.ground;
    let mut nearest = f32::NEG_INFINITY;
    let mut seen = None;
    if (back..=front).contains(&ground) {
        (nearest, seen) = (ground, Some(Surface { at: [x, 0.0, ground], faces: [0.0, 1.0, 0.0] }));
    }
    // How high the ray is where it passes a z.
    let height = |z: f32| (up + z * DOWN.0) / DOWN.1;
    for wall in &scene.walls {
        let (run, rise) = (wall.to[0] - wall.from[0], wall.to[2] - wall.from[2]);
        if run.abs() < 1e-3 {
            continue;
        }
        let u = (x - wall.from[0]) / run;
        let foot = wall.from[1] + u * (wall.to[1] - wall.from[1]);
        let z = wall.from[2] + u * rise;
        let y = height(z);
        if (0.0..=1.0).contains(&u) && y >= foot && y <= wall.top && z > nearest {
            let length = (run * run + rise * rise).sqrt();
            let side = if run > 0.0 { 1.0 } else { -1.0 };
            let faces = [-rise / length * side, 0.0, run / length * side];
            (nearest, seen) = (z, Some(Surface { at: [x, y, z + 0.01], faces }));
        }
    }
    for post in &scene.posts {
        let aside = (x - post.at[0]) / post.radius;
        if aside.abs() >= 1.0 {
            continue;
        }
        let out = (1.0 - aside * aside).sqrt();
        let z = post.at[2] + out * post.radius;
        let y = height(z);
        if z > nearest && y >= post.at[1] && y <= post.top {
            (nearest, seen) = (z, Some(Surface { at: [x, y, z + 0.01], faces: [aside, 0.0, out] }));
        }
    }
    seen
}
