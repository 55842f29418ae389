//! The light of every cell of a picture.

use std::ops::Range;

use super::lens::{Camera, Lens, Window};
use super::scene::{Lamp, Scene, Vec3};
use super::shade::{Blockers, Surface, dot, shaded, share, sky};

/// The linear color of unlit surfaces.
pub(crate) const GROUND: Vec3 = [0.0045, 0.0060, 0.0072];

/// Light this far below white is not seen, so lamps without a reach end there.
const UNSEEN: f32 = 1.0 / 512.0;

/// The light on every cell of a window, row after row. With an exposure, lamps end where they are no
/// longer seen.
pub(crate) fn light(
    scene: &Scene,
    lens: Lens,
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
    // The light that is shown as the color of the sky.
    let beyond = [0, 1, 2].map(|n| match exposure > 0.0 {
        true => {
            let own = (scene.sky[n] - GROUND[n]) / (1.0 - GROUND[n]);
            -(1.0 - own.clamp(0.0, 0.995)).ln() / exposure
        }
        false => 0.0,
    });
    let mut cells = vec![([0.0f32; 3], 0); w * h];
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let rows = h.div_ceil(cores * 4).max(1);
    let open = std::sync::Mutex::new(cells.chunks_mut(rows * w).enumerate());
    std::thread::scope(|scope| {
        for _ in 0..cores {
            let (open, lamps) = (&open, &lamps);
            scope.spawn(move || {
                let next = || open.lock().ok().and_then(|mut open| open.next());
                while let Some((band, own)) = next() {
                    let mut light = vec![[0.0f32; 3]; own.len()];
                    let things = shade_band(
                        scene,
                        lens,
                        window,
                        lamps,
                        beyond,
                        (w, cell, band * rows),
                        &mut light,
                    );
                    for (own, made) in own.iter_mut().zip(light.into_iter().zip(things)) {
                        *own = made;
                    }
                }
            });
        }
    });
    // What an eye sees has edges.
    let edges = match lens {
        Lens::Eye(_) if exposure > 0.0 => smooth(scene, lens, window, (w, cell), exposure, &cells),
        _ => Vec::new(),
    };
    for (n, light) in edges {
        cells[n].0 = light;
    }
    cells.into_iter().map(|(light, _)| light).collect()
}

/// The light of cells on the edge between two objects: the mean of 16 samples of the drawn light.
fn smooth(
    scene: &Scene,
    lens: Lens,
    window: Window,
    (w, cell): (usize, f32),
    exposure: f32,
    cells: &[(Vec3, u32)],
) -> Vec<(usize, Vec3)> {
    let h = cells.len() / w;
    let mut found = Vec::new();
    for n in 0..cells.len() {
        let (x, y) = (n % w, n / w);
        let own = cells[n].1;
        let (columns, rows) =
            (x.saturating_sub(1)..(x + 2).min(w), y.saturating_sub(1)..(y + 2).min(h));
        let around = || rows.clone().flat_map(|y| columns.clone().map(move |x| y * w + x));
        if around().all(|other| cells[other].1 == own) {
            continue;
        }
        let mut sum = [0.0; 3];
        for k in 0..FINE * FINE {
            let part = |k: usize| (k as f32 + 0.5) / FINE as f32;
            let px = window.left + (x as f32 + part(k % FINE)) * cell;
            let py = window.top - (y as f32 + part(k / FINE)) * cell;
            let thing = lens.surface(scene, px, py, cell).map_or(0, |surface| surface.thing);
            let like = around().find(|other| cells[*other].1 == thing);
            let light = cells[if thing == own { n } else { like.unwrap_or(n) }].0;
            for (sum, light) in sum.iter_mut().zip(light) {
                *sum += (1.0 - (-light * exposure).exp()) / (FINE * FINE) as f32;
            }
        }
        found.push((n, sum.map(|v| -(1.0 - v.min(0.9999)).ln() / exposure)));
    }
    found
}

/// Some rows of cells, from row `first` on. Gives what each of them belongs to.
fn shade_band(
    scene: &Scene,
    lens: Lens,
    window: Window,
    lamps: &[(Lamp, Blockers, f32)],
    beyond: Vec3,
    (w, cell, first): (usize, f32, usize),
    cells: &mut [Vec3],
) -> Vec<u32> {
    let surfaces: Vec<Option<Surface>> = (0..cells.len())
        .map(|n| {
            let x = window.left + (n % w) as f32 * cell + cell / 2.0;
            let down = (first + n / w) as f32 * cell + cell / 2.0;
            lens.surface(scene, x, window.top - down, cell)
        })
        .collect();
    let rows = cells.len() / w;
    let grid = Grid { surfaces: &surfaces, lens, cell, w, h: rows };
    for (surface, light) in surfaces.iter().zip(&mut *cells) {
        if let Some(surface) = surface {
            *light = sky(scene, *surface);
        }
    }
    for sun in &scene.suns {
        let faced = |surface: Surface| surface.faced(sun.toward);
        let open = |surface: Surface| !(sun.shadows && shaded(scene, surface, sun));
        grid.lit((0..w, 0..rows), faced, open, |n, part| {
            for (light, lux) in cells[n].iter_mut().zip(sun.lux) {
                *light += lux * part;
            }
        });
    }
    for (lamp, blockers, far) in lamps {
        // The columns and rows that the lamp can reach at all.
        let Some([left, right, low, high]) = lens.bounds(lamp.at, *far) else { continue };
        let across = |v: f32| ((v - window.left) / cell).clamp(0.0, w as f32) as usize;
        let (left, right) = (across(left), across(right + cell));
        let row =
            |v: f32| ((window.top - v) / cell - first as f32).clamp(0.0, rows as f32) as usize;
        let (top, foot) = (row(high), row(low - cell));
        let given = |surface: Surface| share(lamp, surface, *far);
        let open = |surface: Surface| !blockers.between(surface.at);
        grid.lit((left..right, top..foot), given, open, |n, part| {
            for (light, candelas) in cells[n].iter_mut().zip(lamp.candelas) {
                *light += candelas * part;
            }
        });
    }
    for (surface, light) in surfaces.iter().zip(&mut *cells) {
        if let Some(surface) = surface {
            for (light, paint) in light.iter_mut().zip(surface.paint) {
                *light *= paint;
            }
        }
    }
    if let Lens::Eye(eye) = lens {
        for (n, (surface, light)) in surfaces.iter().zip(&mut *cells).enumerate() {
            let x = window.left + (n % w) as f32 * cell + cell / 2.0;
            let y = window.top - (first + n / w) as f32 * cell - cell / 2.0;
            *light = air(scene, &eye, surface.as_ref(), (x, y), *light, beyond);
        }
    }
    surfaces.iter().map(|surface| surface.map_or(0, |surface| surface.thing)).collect()
}

/// Applies fog to the light that reaches an eye; rays that hit nothing show the sky.
fn air(
    scene: &Scene,
    eye: &Camera,
    surface: Option<&Surface>,
    (x, y): (f32, f32),
    light: Vec3,
    sky: Vec3,
) -> Vec3 {
    let away = match surface {
        Some(surface) => {
            let way = [0, 1, 2].map(|n| surface.at[n] - eye.at[n]);
            dot(way, way).sqrt()
        }
        None => {
            let way = [0, 1, 2].map(|n| eye.ahead[n] + x * eye.right[n] + y * eye.up[n]);
            DEPTH / (way[1] / dot(way, way).sqrt()).max(1e-3)
        }
    };
    let light = if surface.is_none() { sky } else { light };
    let Some(fog) = scene.fog else { return light };
    let through = (-fog.density * away).exp();
    [0, 1, 2].map(|n| light[n] * through + fog.light[n] * (1.0 - through))
}

/// How far up the fog before the sky reaches, in meters.
const DEPTH: f32 = 50.0;

/// What is seen in the cells of some rows of a picture.
struct Grid<'a> {
    surfaces: &'a [Option<Surface>],
    lens: Lens,
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
                            let beyond = self.lens.near(surface, 0.0, way * self.cell);
                            at_end && open(beyond) != (state == OPEN)
                        })
                    });
                }
                let share = match (self.surfaces[n].filter(|_| differs), state) {
                    (Some(surface), _) => {
                        let place = |n: usize| ((n as f32 + 0.5) / FINE as f32 - 0.5) * self.cell;
                        let fine = (0..FINE * FINE).filter(|n| {
                            open(self.lens.near(surface, place(n % FINE), place(n / FINE)))
                        });
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
}
