//! A lamp's strength and colour, gathered into the columns of a picture.

use caltrin_core::Run;
use caltrin_core::color::Rgb;
use caltrin_core::program::{Field, LightId};
use caltrin_core::quantity::{Seconds, Seed};
use caltrin_core::{Checked, trace};

/// What one column shows: several moments that fall into it.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(crate) struct Column {
    pub least: f32,
    pub most: f32,
    pub mean: f32,
    /// Mean of colour times strength, linear light.
    pub light: [f32; 3],
}

/// The columns of one lamp.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Lamp {
    pub columns: Vec<Column>,
    pub most: f32,
}

/// Which moments are looked at.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Window {
    pub from: Seconds,
    pub to: Seconds,
    pub columns: usize,
    /// Moments a column.
    pub each: usize,
}

impl Window {
    fn moments(self) -> Vec<Seconds> {
        let all = self.columns * self.each;
        let span = self.to.0 - self.from.0;
        (0..all).map(|n| Seconds(self.from.0 + span * n as f64 / all as f64)).collect()
    }
}

/// Looks at one lamp.
fn look(checked: &Checked, seed: Seed, (light, index): (LightId, u32), window: Window) -> Lamp {
    let moments = window.moments();
    let mut run = Run::with_seed(checked, seed);
    let program = checked.program();
    let headings = trace::headings(checked, light);
    let place = |field: Option<Field>| headings.iter().position(|(f, _)| Some(*f) == field);
    let (strength, color) =
        (place(program.light(light).level()), place(program.light(light).hue()));
    // What follows the level and the colour is not seen here.
    let width = strength.map_or(0, |at| at + 1).max(color.map_or(0, |at| at + 3));
    let mut values = vec![0.0; width * moments.len()];
    if width > 0 {
        run.read_moments((light, index), &moments, 0..width, &mut values);
    }
    let mut lamp = Lamp { columns: Vec::with_capacity(window.columns), most: 0.0 };
    for column in 0..window.columns {
        let mut shown = Column { least: f32::MAX, most: f32::MIN, ..Column::default() };
        for n in column * window.each..(column + 1) * window.each {
            let lamp = &values[n * width..(n + 1) * width];
            // A strength that the book leaves to the game counts as full.
            let level = strength.map_or(1.0, |at| lamp[at]);
            shown.least = shown.least.min(level);
            shown.most = shown.most.max(level);
            shown.mean += level;
            for part in 0..3 {
                shown.light[part] += level * color.map_or(1.0, |at| lamp[at + part]);
            }
        }
        let each = window.each as f32;
        shown.mean /= each;
        shown.light = shown.light.map(|sum| sum / each);
        lamp.most = lamp.most.max(shown.most);
        lamp.columns.push(shown);
    }
    lamp
}

/// Looks at many lamps, on as many cores as there are; the order is kept.
pub(crate) fn look_at_all(
    checked: &Checked,
    seed: Seed,
    lamps: &[(LightId, u32)],
    window: Window,
) -> Vec<Lamp> {
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let share = lamps.len().div_ceil(cores).max(1);
    std::thread::scope(|scope| {
        let parts: Vec<_> = lamps
            .chunks(share)
            .map(|part| {
                scope.spawn(move || {
                    part.iter().map(|lamp| look(checked, seed, *lamp, window)).collect::<Vec<_>>()
                })
            })
            .collect();
        parts
            .into_iter()
            .flat_map(|part| part.join().expect("looking at a checked program cannot fail"))
            .collect()
    })
}

/// The colour that a column's light is shown in: linear light against the lane's top, then sRGB.
pub(crate) fn shown(light: [f32; 3], top: f32) -> [u8; 3] {
    if top <= 0.0 {
        return [0; 3];
    }
    Rgb(light.map(|v| f64::from(v / top))).to_srgb8()
}
