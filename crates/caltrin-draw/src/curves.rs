//! The curves below the lanes, each over its own axis, with stops and easings.

use std::collections::BTreeSet;

use caltrin_core::curve::{Curve, Easing, Stop};
use caltrin_core::kind::Kind;
use caltrin_core::program::{CurveId, Depth, Domain, LightId, Program, Reference};
use caltrin_core::quantity::Hours;
use caltrin_core::{ValidatedProgram, kernel};

use crate::columns::shown;
use crate::font::Fonts;
use crate::look;
use crate::scale;
use crate::shape::{Anchor, Frame, Shape};

/// Maximum number of curves that are drawn.
const MOST: usize = 12;
const PANEL: (f32, f32) = (300.0, 118.0);
const SIDE: f32 = 24.0;

/// A curve of the book, or a column of one: the curves of its components.
#[derive(Clone, Debug)]
pub(crate) struct Drawn {
    title: String,
    /// The representation of a color's components: Rec. 709 linear light, or cube roots of cone
    /// responses.
    color: Option<Parts>,
    domain: Domain,
    parts: Vec<CurveId>,
}

/// The representation of the three curves of a color.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Parts {
    Light,
    ConeRoots,
}

/// The curves that these lights play, in the book's order, at most twelve.
pub(crate) fn used(checked: &ValidatedProgram, lights: &[LightId]) -> Vec<Drawn> {
    let program = checked.program();
    let values =
        lights.iter().flat_map(|id| program.light(*id).drives.iter().map(|drive| drive.value));
    let reads = program.reads(values, Depth::Whole);
    let found: BTreeSet<CurveId> = reads
        .filter_map(|read| match read {
            Reference::Curve(curve) => Some(curve),
            _ => None,
        })
        .collect();
    let mut drawn: Vec<Drawn> = Vec::new();
    for id in found {
        let named = program.curve(id);
        // What a `rhythm`, `blink` or sequence comes to has no line of its own in the book.
        if named.curve.stops().len() < 2 || named.title.contains('/') || named.led {
            continue;
        }
        match drawn.iter_mut().find(|d| d.title == named.title) {
            Some(known) => known.parts.push(id),
            None => drawn.push(Drawn {
                title: named.title.clone(),
                color: parts_of(program, id),
                domain: named.domain,
                parts: vec![id],
            }),
        }
    }
    drawn.truncate(MOST);
    drawn
}

fn parts_of(program: &Program, id: CurveId) -> Option<Parts> {
    let named = program.curve(id);
    match named.name.strip_prefix(named.title.as_str()) {
        Some("_r") => Some(Parts::Light),
        Some("_l") => Some(Parts::ConeRoots),
        _ => None,
    }
}

fn across(width: f32) -> usize {
    (((width - 2.0 * SIDE) / PANEL.0) as usize).max(1)
}

/// Height of this many curves below the lanes.
pub(crate) fn height(count: usize, width: f32) -> f32 {
    count.div_ceil(across(width)) as f32 * PANEL.1
}

/// Draws curves side by side from a vertical position down.
pub(crate) fn draw(
    checked: &ValidatedProgram,
    drawn: &[Drawn],
    (top, width): (f32, f32),
    fonts: &Fonts,
    shapes: &mut Vec<Shape>,
) {
    let columns = across(width);
    let each = (width - 2.0 * SIDE) / columns as f32;
    for (n, one) in drawn.iter().enumerate() {
        let frame = Frame {
            x: SIDE + each * (n % columns) as f32,
            y: top + PANEL.1 * (n / columns) as f32,
            w: each - 20.0,
            h: PANEL.1,
        };
        panel(checked, one, frame, fonts, shapes);
    }
}

fn panel(
    checked: &ValidatedProgram,
    drawn: &Drawn,
    frame: Frame,
    fonts: &Fonts,
    shapes: &mut Vec<Shape>,
) {
    let program = checked.program();
    let curves: Vec<&Curve> = drawn.parts.iter().map(|id| &program.curve(*id).curve).collect();
    let Some(first) = curves.first() else { return };
    let mut stops = first.stops();
    let (Some(start), Some(end)) = (stops.first(), stops.last()) else { return };
    let (mut from, mut to) = (start.at.0, end.at.0);
    if drawn.domain == Domain::Day {
        // The first and last stop are those of the days before and after.
        stops = &stops[1..stops.len() - 1];
        (from, to) = (0.0, 24.0);
    }
    let words = |at: (f32, f32), anchor: Anchor, words: String| {
        Shape::words(at, 11.0, false, look::QUIET, anchor, words)
    };
    let place = |v: f64| match drawn.domain {
        Domain::Time => format!("{} s", scale::short(v)),
        Domain::Day => Hours(v).to_clock(),
        Domain::Ramp(kind) if kind.unit().is_empty() => format!("{}%", scale::short(v * 100.0)),
        Domain::Ramp(kind) => format!("{} {}", scale::short(v), kind.unit()),
    };
    let kind = program.curve(drawn.parts[0]).kind;
    let (lo, hi) = curves
        .iter()
        .map(|curve| curve.bounds())
        .fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), b| (lo.min(b.lo), hi.max(b.hi)));
    // Levels are drawn from 0 to full, so that two curves compare; other values over their own range, which is printed.
    let (low, top) = match kind {
        Kind::Number => (lo.min(0.0), hi.max(1.0)),
        Kind::Strength(_) | Kind::Rate => (lo.min(0.0), hi),
        _ => (lo, hi),
    };
    let value = |v: f64| match kind {
        Kind::Number => format!("{}%", scale::short(v * 100.0)),
        kind => scale::short_pair(v, kind.unit()),
    };
    let values = match (drawn.color, drawn.parts.len()) {
        (None, 1) => format!("{} to {} over ", value(lo), value(hi)),
        _ => String::new(),
    };
    let unit = if kind == Kind::Number || values.is_empty() { "" } else { kind.unit() };
    let values =
        if unit.is_empty() { values } else { values.replace(" over", &format!(" {unit} over")) };
    let about = format!("{} stops, {values}{} to {}", stops.len(), place(from), place(to));
    let right = fonts.width(&about, 11.0, false);
    let name = fonts.fitted_name(&drawn.title, 13.0, true, frame.w - right - 10.0);
    let title = (frame.x, frame.y + 26.0);
    shapes.push(Shape::words(title, 13.0, true, look::INK, Anchor::Start, name));
    let edge = (frame.x + frame.w, frame.y + 26.0);
    shapes.push(words(edge, Anchor::End, about));
    let plot = Frame { y: frame.y + 36.0, h: 46.0, ..frame };
    shapes.push(Shape::Box(plot, look::BAND));
    let at = |x: f32| from + (to - from) * f64::from(x / plot.w);
    let columns = plot.w as usize;
    let x_of = |v: f64| plot.x + ((v - from) / (to - from).max(1e-12)) as f32 * plot.w;
    if let (Some(parts), [a, b, c]) = (drawn.color, &curves[..]) {
        let light = |x: usize| {
            let at = at(x as f32 + 0.5);
            let held = [a.at(at), b.at(at), c.at(at)];
            let light = match parts {
                Parts::Light => held,
                Parts::ConeRoots => [0, 1, 2].map(|part| kernel::light_of(part, held)),
            };
            light.map(|v| v as f32)
        };
        let colors = (0..columns).map(|x| shown(light(x), 1.0)).collect();
        shapes.push(Shape::Ribbon(plot, colors));
        for stop in stops {
            let x = x_of(stop.at.0);
            shapes.push(Shape::Line((x, plot.y), (x, plot.y + plot.h), 1.0, look::INK.alpha(150)));
        }
    } else {
        let high = if top > low { top - low } else { 1.0 };
        let y_of = |v: f64| plot.y + plot.h - 4.0 - ((v - low) / high) as f32 * (plot.h - 8.0);
        for curve in &curves {
            let mut before = y_of(curve.at(from));
            let line = (0..columns)
                .map(|x| {
                    let next = y_of(curve.at(at(x as f32 + 1.0)));
                    let from = std::mem::replace(&mut before, next);
                    (from.min(next) - 0.7, from.max(next) + 0.7)
                })
                .collect();
            shapes.push(Shape::Bars(plot, line, look::INK));
            let inside = |stop: &&Stop| (from..=to).contains(&stop.at.0);
            for stop in curve.stops().iter().filter(inside) {
                shapes.push(Shape::Disc((x_of(stop.at.0), y_of(stop.value)), 2.6, look::INK));
            }
        }
    }
    // How each stop is reached stands below the way to it, where there is room.
    let mut free = plot.x;
    for pair in stops.windows(2) {
        let (a, b) = (x_of(pair[0].at.0), x_of(pair[1].at.0));
        let name = easing(pair[1].easing);
        let wide = fonts.width(name, 11.0, false);
        let x = (a + b) / 2.0 - wide / 2.0;
        if x >= free && x + wide <= plot.x + plot.w && b - a >= wide * 0.5 {
            let place = (x, plot.y + plot.h + 13.0);
            shapes.push(words(place, Anchor::Start, name.to_owned()));
            free = x + wide + 6.0;
        }
    }
}

fn easing(easing: Easing) -> &'static str {
    match easing {
        Easing::Jump => "jump",
        Easing::Linear => "linear",
        Easing::Smooth => "smooth",
        Easing::Steps(..) => "steps",
        Easing::Bezier([a, b, c, d]) => match [a, b, c, d].map(|v| (v * 100.0).round() as i32) {
            [25, 10, 25, 100] => "ease",
            [42, 0, 100, 100] => "ease-in",
            [0, 0, 58, 100] => "ease-out",
            [42, 0, 58, 100] => "ease-in-out",
            _ => "cubic-bezier",
        },
    }
}
