//! From where a place is seen: what is in each point of the picture, and where a point of the place is drawn.
//!
//! All lenses draw on a plane: x to the right, y up in it. From above and from the front it is in meters; that of an eye is
//! at a distance of 1 from it.

use caltrin_core::program::Eye;

use super::View;
use super::scene::{Hung, Scene, Vec3};
use super::shade::{Surface, dot};

/// The sine and cosine of the angle of the front view, 25 degrees down.
const DOWN: (f32, f32) = (0.422_618_26, 0.906_307_8);

/// A way to see the place.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Lens {
    /// Straight down on the ground.
    Above,
    /// In parallel rays, 25 degrees down, with how far the ground reaches: its z at the back and at the front.
    Front(f32, f32),
    /// From one point.
    Eye(Camera),
}

/// Where an eye is and the directions of its picture, each of length 1.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Camera {
    pub at: Vec3,
    pub ahead: Vec3,
    pub right: Vec3,
    pub up: Vec3,
    /// The tangent of half the angle between the left and the right edge.
    pub half: f32,
}

/// How far an eye sees, in meters.
const FAR: f32 = 1e5;
/// Nothing nearer to an eye than this is drawn, in meters.
const NEAR: f32 = 0.02;

impl Camera {
    pub(crate) fn of(eye: &Eye) -> Camera {
        let sized = |v: [f64; 3]| {
            let length = v.iter().map(|v| v * v).sum::<f64>().sqrt();
            v.map(|v| v / length)
        };
        let cross = |a: [f64; 3], b: [f64; 3]| {
            [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
        };
        let ahead = sized([0, 1, 2].map(|n| eye.toward[n] - eye.at[n]));
        // Straight up or down, the upper edge of the picture is at -z.
        let steep = ahead[0].hypot(ahead[2]) < 1e-6;
        let right = if steep { [1.0, 0.0, 0.0] } else { sized([-ahead[2], 0.0, ahead[0]]) };
        let up = cross(right, ahead);
        let single = |v: [f64; 3]| v.map(|v| v as f32);
        Camera {
            at: single(eye.at),
            ahead: single(ahead),
            right: single(right),
            up: single(up),
            half: (eye.field / 2.0).to_radians().tan() as f32,
        }
    }

    /// A point as the eye has it: to the right, up, and ahead, in meters.
    fn seen(&self, p: Vec3) -> Vec3 {
        let way = [0, 1, 2].map(|n| p[n] - self.at[n]);
        [dot(way, self.right), dot(way, self.up), dot(way, self.ahead)]
    }
}

/// What part of a lens's plane is seen: its left and upper edge, and its size.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Window {
    pub left: f32,
    pub top: f32,
    pub wide: f32,
    pub tall: f32,
}

impl Window {
    /// That of an eye, as wide as its field, with a height of nine sixteenths of that.
    pub(crate) fn of_eye(camera: &Camera) -> Window {
        let (wide, tall) = (2.0 * camera.half, 1.125 * camera.half);
        Window { left: -camera.half, top: tall / 2.0, wide, tall }
    }
}

/// The frame around all lamps and solids, with air around it, in a shape that suits a screen.
pub(crate) fn window(scenes: &[Scene], view: View, eye: Option<&Camera>) -> (Lens, Window) {
    if let Some(eye) = eye {
        return (Lens::Eye(*eye), Window::of_eye(eye));
    }
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
    // A picture alone is a place too.
    if lo[0] > hi[0] {
        for hung in scenes.first().map_or(&[][..], |scene| &scene.hung) {
            let [u, v] = [hung.across, hung.down].map(|v| {
                let squared = dot(v, v);
                v.map(|v| v / squared)
            });
            for corner in [hung.corner, [0, 1, 2].map(|n| hung.corner[n] + u[n] + v[n])] {
                for n in 0..3 {
                    lo[n] = lo[n].min(corner[n]);
                    hi[n] = hi[n].max(corner[n]);
                }
            }
        }
    }
    if lo[0] > hi[0] {
        (lo, hi) = ([-5.0; 3], [5.0; 3]);
    }
    // The ground in front of everything is the lower edge of a front, the highest lamp its upper one.
    let (low, high) = (-hi[2] * DOWN.0, (hi[1] * DOWN.1 - lo[2] * DOWN.0));
    let (lens, tall) = match view {
        View::Above | View::Eye(_) => (Lens::Above, hi[2] - lo[2]),
        View::Front => (Lens::Front(lo[2], hi[2]), high - low),
    };
    let wide = hi[0] - lo[0];
    // Between a wide strip and something taller than wide.
    let shape = (tall / wide).clamp(0.28, 0.62);
    let (seen_wide, seen_tall) =
        if tall / wide > shape { (tall / shape, tall) } else { (wide, wide * shape) };
    let middle = |part: usize| (lo[part] + hi[part]) / 2.0;
    let top = match lens {
        // Air goes above, the ground stays where it is.
        Lens::Front(..) => low + seen_tall,
        _ => seen_tall / 2.0 - middle(2),
    };
    let left = middle(0) - seen_wide / 2.0;
    (lens, Window { left, top, wide: seen_wide, tall: seen_tall })
}

/// How far around a lamp the picture reaches at the most, in meters.
const POOL: f32 = 8.0;

/// A ray of a picture; the distance along it is counted in lengths of its direction.
#[derive(Clone, Copy, Debug)]
struct Ray {
    from: Vec3,
    way: Vec3,
}

impl Ray {
    fn at(&self, t: f32) -> Vec3 {
        [0, 1, 2].map(|n| self.from[n] + t * self.way[n])
    }
}

impl Lens {
    fn ray(&self, x: f32, y: f32) -> Ray {
        match self {
            Lens::Above => Ray { from: [x, 0.0, -y], way: [0.0, -1.0, 0.0] },
            Lens::Front(..) => Ray { from: [x, y / DOWN.1, 0.0], way: [0.0, -DOWN.0, -DOWN.1] },
            Lens::Eye(eye) => {
                let way = [0, 1, 2].map(|n| eye.ahead[n] + x * eye.right[n] + y * eye.up[n]);
                Ray { from: eye.at, way }
            }
        }
    }

    /// Where a point is drawn on the plane; none for what is behind an eye.
    pub(crate) fn project(&self, p: Vec3) -> Option<(f32, f32)> {
        match self {
            Lens::Above => Some((p[0], -p[2])),
            Lens::Front(..) => Some((p[0], p[1] * DOWN.1 - p[2] * DOWN.0)),
            Lens::Eye(eye) => {
                let [x, y, z] = eye.seen(p);
                (z > NEAR).then(|| (x / z, y / z))
            }
        }
    }

    /// The part of the plane that a ball can be seen in: its left, right, lower and upper edge. None if it is nowhere.
    pub(crate) fn bounds(&self, p: Vec3, radius: f32) -> Option<[f32; 4]> {
        let Lens::Eye(eye) = self else {
            let (x, y) = self.project(p)?;
            return Some([x - radius, x + radius, y - radius, y + radius]);
        };
        let [x, y, z] = eye.seen(p);
        if z + radius <= NEAR {
            return None;
        }
        if z - radius <= NEAR {
            return Some([f32::NEG_INFINITY, f32::INFINITY, f32::NEG_INFINITY, f32::INFINITY]);
        }
        let (near, far) = (z - radius, z + radius);
        let least = |v: f32| ((v - radius) / near).min((v - radius) / far);
        let most = |v: f32| ((v + radius) / near).max((v + radius) / far);
        Some([least(x), most(x), least(y), most(y)])
    }

    /// What is seen at a point of the plane. `fine` is the size of a pixel there.
    pub(crate) fn surface(&self, scene: &Scene, x: f32, y: f32, fine: f32) -> Option<Surface> {
        let ray = self.ray(x, y);
        let seen = match self {
            Lens::Above => Some((0.0, Surface::plain([x, 0.0, -y], [0.0, 1.0, 0.0]))),
            Lens::Front(back, front) => from_front(scene, (*back, *front), x, y),
            Lens::Eye(_) => from_eye(scene, &ray),
        };
        let parallel = !matches!(self, Lens::Eye(_));
        let mut nearest = seen.map_or(FAR, |(t, _)| t);
        let mut seen = seen.map(|(_, surface)| surface);
        let solids = scene.walls.len() + scene.posts.len();
        for (n, hung) in scene.hung.iter().enumerate() {
            let Some((t, u, v)) = meets(hung, &ray) else { continue };
            // What lies on the ground or hangs on a wall is before it.
            if t > nearest + ON || (!parallel && t < NEAR) {
                continue;
            }
            let size = if parallel { fine } else { fine * t };
            let Some(paint) = hung.texture.sample(u, v, size / hung.texel) else { continue };
            let along = dot(ray.way, hung.faces);
            let faces = if along > 0.0 { hung.faces.map(|v| -v) } else { hung.faces };
            nearest = t.min(nearest);
            let made = Surface { paint, flat: !hung.lies, ..Surface::plain(ray.at(t), faces) };
            seen = Some(made.of(solids + n));
        }
        seen
    }

    /// The place of the same surface so far to the right and down in the picture.
    pub(crate) fn near(&self, surface: Surface, right: f32, down: f32) -> Surface {
        let [x, y, z] = surface.at;
        let at = match (self, surface.faces[1] > 0.5) {
            (Lens::Above, _) => [x + right, y, z + down],
            (Lens::Front(..), true) => [x + right, y, z + down / DOWN.0],
            (Lens::Front(..), false) => {
                let along = -right * surface.faces[0] / surface.faces[2].max(0.05);
                [x + right, y + (along * DOWN.0 - down) / DOWN.1, z + along]
            }
            (Lens::Eye(_), _) => {
                let Some((px, py)) = self.project(surface.at) else { return surface };
                let ray = self.ray(px + right, py - down);
                let along = dot(ray.way, surface.faces);
                if along.abs() < 1e-6 {
                    return surface;
                }
                let way = [0, 1, 2].map(|n| surface.at[n] - ray.from[n]);
                ray.at(dot(way, surface.faces) / along)
            }
        };
        Surface { at, ..surface }
    }
}

/// Pictures within this distance of a surface are drawn on it, in meters.
const ON: f32 = 0.01;

/// Where a ray meets a picture: how far along it, and where in the picture, from its left upper corner.
fn meets(hung: &Hung, ray: &Ray) -> Option<(f32, f32, f32)> {
    let along = dot(ray.way, hung.faces);
    if along.abs() < 1e-7 {
        return None;
    }
    let t = dot([0, 1, 2].map(|n| hung.corner[n] - ray.from[n]), hung.faces) / along;
    let at = ray.at(t);
    let way = [0, 1, 2].map(|n| at[n] - hung.corner[n]);
    let (u, v) = (dot(way, hung.across), dot(way, hung.down));
    let inside = (0.0..=1.0).contains(&u) && (0.0..=1.0).contains(&v);
    (inside && t.is_finite()).then_some((t, u, v))
}

/// What an eye sees along a ray: the nearest wall or post, or the ground.
fn from_eye(scene: &Scene, ray: &Ray) -> Option<(f32, Surface)> {
    let (from, way) = (ray.from, ray.way);
    let mut nearest = FAR;
    let mut seen = None;
    if from[1] > 0.0 && way[1] < 0.0 {
        let t = -from[1] / way[1];
        if t < nearest {
            let [x, _, z] = ray.at(t);
            (nearest, seen) = (t, Some(Surface::plain([x, 0.0, z], [0.0, 1.0, 0.0])));
        }
    }
    for (n, wall) in scene.walls.iter().enumerate() {
        let (ax, az) = (wall.from[0] - from[0], wall.from[2] - from[2]);
        let (bx, bz) = (wall.to[0] - wall.from[0], wall.to[2] - wall.from[2]);
        let across = way[0] * bz - way[2] * bx;
        if across.abs() < 1e-9 {
            continue;
        }
        let (t, u) = ((ax * bz - az * bx) / across, (ax * way[2] - az * way[0]) / across);
        if !(t > NEAR && t < nearest && (0.0..=1.0).contains(&u)) {
            continue;
        }
        let y = from[1] + t * way[1];
        let foot = wall.from[1] + u * (wall.to[1] - wall.from[1]);
        if y >= foot && y <= wall.top {
            let length = (bx * bx + bz * bz).sqrt();
            let faces = [-bz / length, 0.0, bx / length];
            let faces = if dot(faces, way) > 0.0 { faces.map(|v| -v) } else { faces };
            (nearest, seen) = (t, Some(Surface::plain(before(ray.at(t), faces), faces).of(n)));
        }
    }
    for (n, post) in scene.posts.iter().enumerate() {
        let n = scene.walls.len() + n;
        let (cx, cz) = (from[0] - post.at[0], from[2] - post.at[2]);
        let apart = cx * cx + cz * cz - post.radius * post.radius;
        // An eye in a post sees out of it.
        if apart <= 0.0 && from[1] >= post.at[1] && from[1] <= post.top {
            continue;
        }
        let flat = way[0] * way[0] + way[2] * way[2];
        if flat > 1e-12 {
            let half = cx * way[0] + cz * way[2];
            let root = half * half - flat * apart;
            if root > 0.0 {
                let t = (-half - root.sqrt()) / flat;
                let at = ray.at(t);
                if t > NEAR && t < nearest && at[1] >= post.at[1] && at[1] <= post.top {
                    let faces = [
                        (at[0] - post.at[0]) / post.radius,
                        0.0,
                        (at[2] - post.at[2]) / post.radius,
                    ];
                    (nearest, seen) = (t, Some(Surface::plain(before(at, faces), faces).of(n)));
                }
            }
        }
        if from[1] > post.top && way[1] < 0.0 {
            let t = (post.top - from[1]) / way[1];
            let at = ray.at(t);
            let (x, z) = (at[0] - post.at[0], at[2] - post.at[2]);
            if t > NEAR && t < nearest && x * x + z * z <= post.radius * post.radius {
                let faces = [0.0, 1.0, 0.0];
                (nearest, seen) = (t, Some(Surface::plain(before(at, faces), faces).of(n)));
            }
        }
    }
    seen.map(|surface| (nearest, surface))
}

/// A point a little before a surface, so that it does not lie in its own shadow.
fn before(at: Vec3, faces: Vec3) -> Vec3 {
    [0, 1, 2].map(|n| at[n] + 0.01 * faces[n])
}

/// What is seen from the front at a point of the plane: the nearest wall or post, or the ground; and how far along the ray.
fn from_front(scene: &Scene, (back, front): (f32, f32), x: f32, up: f32) -> Option<(f32, Surface)> {
    let ground = -up / DOWN.0;
    let mut nearest = f32::NEG_INFINITY;
    let mut seen = None;
    if (back..=front).contains(&ground) {
        (nearest, seen) = (ground, Some(Surface::plain([x, 0.0, ground], [0.0, 1.0, 0.0])));
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
            (nearest, seen) = (z, Some(Surface::plain([x, y, z + 0.01], faces)));
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
            (nearest, seen) = (z, Some(Surface::plain([x, y, z + 0.01], [aside, 0.0, out])));
        }
    }
    seen.map(|surface| (-nearest / DOWN.1, surface))
}
