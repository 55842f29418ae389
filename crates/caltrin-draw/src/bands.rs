//! Bands above the lanes of a timeline: the active modes, and when sequences play.

use caltrin_core::ValidatedProgram;
use caltrin_core::program::ExprId;
use caltrin_core::quantity::Seconds;
use caltrin_core::run::State;

use crate::columns::values_at;
use crate::font::Fonts;
use crate::look;
use crate::shape::{Anchor, Frame, Ink, Shape};

/// The height of a band, and the gap below it.
const BAND: f32 = 17.0;
const GAP: f32 = 3.0;

/// Maximum number of bands.
const MOST: usize = 12;

/// One band: names, and the weight of each in each column.
struct StateBand {
    name: String,
    parts: Vec<(String, Vec<f32>)>,
    /// Whether it is a sequence, whose weight may be 0.
    scene: bool,
}

/// All bands of a timeline.
pub(crate) struct Bands(Vec<StateBand>);

impl Bands {
    /// No bands.
    pub fn none() -> Self {
        Bands(Vec::new())
    }

    /// Samples modes and sequences in this many columns.
    pub fn look(
        checked: &ValidatedProgram,
        start: &State,
        rehearsal: Option<usize>,
        (from, to): (Seconds, Seconds),
        columns: usize,
    ) -> Self {
        let program = checked.program();
        let (modes, scenes) = (program.modes(), program.scenes());
        let mut wanted: Vec<ExprId> =
            modes.iter().flat_map(|modes| modes.parts.iter().map(|(_, weight)| *weight)).collect();
        wanted.extend(scenes.iter().flat_map(|scene| [Some(scene.at), scene.holds]).flatten());
        let step = (to.0 - from.0) / columns.max(1) as f64;
        let moments: Vec<Seconds> =
            (0..columns).map(|n| Seconds(from.0 + step * (n as f64 + 0.5))).collect();
        let Some(found) = values_at(checked, &wanted, (start, rehearsal), &moments) else {
            return Bands::none();
        };
        let mut found = found.into_iter();
        let mut column = || found.next().unwrap_or_default();
        let mut bands = Vec::new();
        for modes in modes {
            let parts = modes.parts.iter().map(|(name, _)| (name.clone(), column())).collect();
            bands.push(StateBand { name: modes.name.clone(), parts, scene: false });
        }
        for scene in scenes {
            let at = column();
            let holds = scene.holds.map(|_| column());
            let end = scene.end.map_or(f32::MAX, |end| end.0 as f32);
            let plays = at.iter().enumerate().map(|(n, at)| {
                let on = *at >= 0.0 && *at < end;
                if on { holds.as_ref().map_or(1.0, |holds| holds[n]) } else { 0.0 }
            });
            let parts = vec![(scene.name.clone(), plays.collect())];
            bands.push(StateBand { name: scene.name.clone(), parts, scene: true });
        }
        // A sequence that does not play here has nothing to show.
        bands.retain(|band| {
            !band.scene || band.parts.iter().any(|(_, all)| all.iter().any(|v| *v > 0.0))
        });
        bands.truncate(MOST);
        Bands(bands)
    }

    /// Their total height.
    pub fn height(&self) -> f32 {
        (BAND + GAP) * self.0.len() as f32
    }

    /// Draws them from a vertical position down.
    pub fn draw(
        &self,
        (labels, plot): (f32, f32),
        top: f32,
        fonts: &Fonts,
        shapes: &mut Vec<Shape>,
    ) {
        for (n, band) in self.0.iter().enumerate() {
            let y = top + (BAND + GAP) * n as f32;
            let frame = Frame { x: labels, y, w: plot, h: BAND };
            let name = fonts.fitted(&band.name, 12.0, false, labels - 36.0);
            let at = (24.0, y + BAND - 4.0);
            shapes.push(Shape::words(at, 12.0, false, look::QUIET, Anchor::Start, name));
            band.draw(frame, fonts, shapes);
        }
    }
}

impl StateBand {
    fn draw(&self, frame: Frame, fonts: &Fonts, shapes: &mut Vec<Shape>) {
        let columns = self.parts.first().map_or(0, |(_, all)| all.len());
        let mut floor = vec![frame.y + frame.h; columns];
        let last = self.parts.len().saturating_sub(1).max(1);
        for (n, (_, weights)) in self.parts.iter().enumerate() {
            let bars = weights.iter().zip(&mut floor).map(|(weight, floor)| {
                let foot = *floor;
                *floor = (foot - frame.h * weight.clamp(0.0, 1.0)).max(frame.y);
                (*floor, foot)
            });
            let bars = bars.collect();
            // Later modes stand out more than the first ones.
            let ink = match self.scene {
                true => look::MORE.alpha(70),
                false => look::FOCUS.alpha(28 + (92 * n / last) as u8),
            };
            shapes.push(Shape::Bars(frame, bars, ink));
        }
        for (name, weights) in &self.parts {
            let shown = |n: usize| weights.get(n).is_some_and(|weight| *weight > 0.5);
            let mut n = 0;
            while n < columns {
                let begins = n;
                while shown(n) {
                    n += 1;
                }
                let wide = frame.w * (n - begins) as f32 / columns as f32 - 10.0;
                if fonts.width(name, 11.0, false) <= wide {
                    let x = frame.x + frame.w * begins as f32 / columns as f32 + 5.0;
                    let at = (x, frame.y + frame.h - 5.0);
                    let ink: Ink = look::INK;
                    shapes.push(Shape::words(at, 11.0, false, ink, Anchor::Start, name.clone()));
                }
                n += 1;
            }
        }
    }
}
