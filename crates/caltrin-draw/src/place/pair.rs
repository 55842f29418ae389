//! Two places side by side, in one frame and with one exposure.

use caltrin_core::ValidatedProgram;

use super::lens::{Lens, Window};
use super::{CAPTION, PlaceOptions, PlaceView, SIDE, TOP, When, fitted, text};
use crate::font::Fonts;
use crate::look;
use crate::scale;
use crate::shape::{Anchor, Frame, Picture, Shape};

/// Two books, or two versions of one, viewed in the same way: the same part of the place, exposure and moments.
#[derive(Clone, Debug)]
pub struct PlacePair<'a> {
    sides: [(&'a ValidatedProgram, String, PlaceView); 2],
    width: u32,
}

impl<'a> PlacePair<'a> {
    /// Frames what there is to see on either side. The options of each side are for the same moments; the width is that
    /// of the first.
    pub fn new(sides: [(&'a ValidatedProgram, &str, &PlaceOptions); 2]) -> PlacePair<'a> {
        let width = sides[0].2.width.clamp(320, 8192);
        let mut made = sides.map(|(checked, name, options)| {
            (checked, name.to_owned(), PlaceView::new(checked, options))
        });
        let (lens, window) = both([&made[0].2, &made[1].2]);
        let exposure = made[0].2.exposure.min(made[1].2.exposure);
        for (_, _, view) in &mut made {
            // What an eye sees is framed by itself.
            if !matches!(view.lens, Lens::Eye(_)) {
                (view.lens, view.window) = (lens, window);
            }
            view.exposure = exposure;
        }
        PlacePair { sides: made, width }
    }

    /// The exposure of both sides at a moment, fitted to the brighter side.
    fn exposure(&self, moment: When) -> f32 {
        let own = self.sides.iter().map(|(checked, _, view)| match view.each {
            true => fitted(&[view.scene(checked, moment)], view.lens, view.window),
            false => view.exposure,
        });
        own.fold(f32::INFINITY, f32::min)
    }

    /// Draws moments below each other, the first side on the left.
    pub fn picture(&self, moments: &[When]) -> Picture {
        let fonts = Fonts::new();
        let gap = 12.0;
        let wide = self.width as f32 - 2.0 * SIDE;
        let each = ((wide - gap) / 2.0).floor();
        let [first, second] = &self.sides;
        let tall = [first, second].map(|(.., view)| each * view.window.tall / view.window.wide);
        let tall = tall[0].max(tall[1]).round().max(40.0);
        let mut shapes = Vec::new();
        let title = match first.0.program().name() == second.0.program().name() {
            true => first.0.program().name().to_owned(),
            false => format!("{} and {}", first.0.program().name(), second.0.program().name()),
        };
        let name = fonts.fitted(&title, 24.0, true, wide);
        shapes.push(Shape::words((SIDE, 38.0), 24.0, true, look::INK, Anchor::Start, name));
        let bright = match second.2.each {
            true => "exposure: fitted for each moment".to_owned(),
            false => format!(
                "exposure: {} lx at 80%{}",
                scale::short(second.2.bright()),
                second.2.fitted
            ),
        };
        let about = format!(
            "{}   \u{2022}   seed {}   \u{2022}   {bright}",
            second.2.words(second.0.program()),
            second.2.start.seed.0,
        );
        let about = fonts.fitted(&about, 14.0, false, wide);
        shapes.push(text((SIDE, 62.0), 14.0, look::QUIET, Anchor::Start, about));
        let row = tall + CAPTION + 6.0;
        for (n, moment) in moments.iter().enumerate() {
            let y = TOP + row * n as f32;
            let exposure = self.exposure(*moment);
            for (k, (checked, name, view)) in self.sides.iter().enumerate() {
                let view = &PlaceView { exposure, each: false, ..view.clone() };
                let frame = Frame { x: SIDE + (each + gap) * k as f32, y, w: each, h: tall };
                view.panel(checked, *moment, frame, &fonts, false, &mut shapes);
                let bright = match second.2.each {
                    true => format!(", {} lx at 80%", scale::short(view.bright())),
                    false => String::new(),
                };
                let words = format!("{name}, {}{bright}", moment.words());
                let words = fonts.fitted(&words, 13.0, false, each);
                let at = (frame.x, y + tall + 16.0);
                shapes.push(text(at, 13.0, look::QUIET, Anchor::Start, words));
            }
        }
        let foot = TOP + row * moments.len().max(1) as f32;
        let height = second.2.foot(foot, (wide, each), &fonts, &mut shapes);
        Picture {
            width: self.width,
            height,
            ground: look::GROUND,
            title: format!("{title}: the place of {} and {} side by side", first.1, second.1),
            shapes,
            readings: None,
        }
    }
}

/// The part of the plane that both see, in the shape of the first.
fn both([a, b]: [&PlaceView; 2]) -> (Lens, Window) {
    let lens = match (a.lens, b.lens) {
        (Lens::Front(back, front), Lens::Front(other_back, other_front)) => {
            Lens::Front(back.min(other_back), front.max(other_front))
        }
        (lens, _) => lens,
    };
    let (first, second) = (a.window, b.window);
    let (left, top) = (first.left.min(second.left), first.top.max(second.top));
    let right = (first.left + first.wide).max(second.left + second.wide);
    let foot = (first.top - first.tall).min(second.top - second.tall);
    (lens, Window { left, top, wide: right - left, tall: top - foot })
}
