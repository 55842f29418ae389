//! How much light falls on a point of the place: glTF's punctual lights, with shadows of walls and
//! posts.

use super::scene::{Lamp, Post, Scene, Sun, Vec3, Wall};

/// A point of a surface and the direction that it faces.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Surface {
    pub at: Vec3,
    pub faces: Vec3,
    /// Reflectance by color.
    pub paint: Vec3,
    /// Whether the angle of the light is ignored, as for flat 2D scenery.
    pub flat: bool,
    /// The object: 1 is the ground, then walls, posts and pictures.
    pub thing: u32,
}

impl Surface {
    /// A white surface of the ground.
    pub(crate) fn plain(at: Vec3, faces: Vec3) -> Surface {
        Surface { at, faces, paint: [1.0; 3], flat: false, thing: 1 }
    }

    /// The same surface as part of another object.
    pub(crate) fn of(self, thing: usize) -> Surface {
        Surface { thing: 2 + thing as u32, ..self }
    }

    /// How much of the light from a direction, of length 1, it gets.
    pub(crate) fn faced(&self, toward: Vec3) -> f32 {
        if self.flat { 1.0 } else { dot(self.faces, toward).max(0.0) }
    }
}

pub(crate) fn dot(a: Vec3, b: Vec3) -> f32 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

fn less(a: Vec3, b: Vec3) -> Vec3 {
    [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
}

/// How much of the ambient light an upright surface gets: it sees half of the sky, and the ground besides.
const UPRIGHT: f32 = 0.6;

/// What a lamp gives a surface, of its candelas: 0 where it gives nothing. Shadows apart. `seen` is where its light
/// is too weak to be drawn; it fades out toward there, so that no edge is seen.
pub(crate) fn share(lamp: &Lamp, surface: Surface, seen: f32) -> f32 {
    let way = less(lamp.at, surface.at);
    let squared = dot(way, way);
    if squared >= lamp.outer * lamp.outer || squared < 1e-12 {
        return 0.0;
    }
    let distance = squared.sqrt();
    let faced = if surface.flat { 1.0 } else { dot(surface.faces, way) / distance };
    if faced <= 0.0 {
        return 0.0;
    }
    // The window that lets a light end at its reach, as glTF's punctual lights have it.
    let far = squared / (lamp.outer * lamp.outer);
    let window = (1.0 - far * far).max(0.0);
    let near = distance.max(lamp.inner);
    let falls = if lamp.falloff == 2.0 { near * near } else { near.powf(lamp.falloff) };
    let mut given = faced * window / falls;
    if seen < lamp.outer {
        let far = squared / (seen * seen);
        given *= (1.0 - far * far).max(0.0);
    }
    if let Some(aim) = lamp.aim {
        let along = -dot(aim, way) / distance;
        given *= match lamp.cone {
            Some((scale, shift)) => {
                let inside = (along * scale + shift).clamp(0.0, 1.0);
                inside * inside
            }
            None => along.max(0.0),
        };
    }
    given
}

/// What lies nearer than this to a surface, level, is the surface itself, in meters.
const TOUCHING: f32 = 4e-3;

/// Whether a wall stands between two points.
fn wall_between(wall: &Wall, from: Vec3, way: Vec3) -> bool {
    let (ax, az) = (wall.from[0] - from[0], wall.from[2] - from[2]);
    let (bx, bz) = (wall.to[0] - wall.from[0], wall.to[2] - wall.from[2]);
    let across = way[0] * bz - way[2] * bx;
    let size = across.abs();
    if size < 1e-9 {
        return false;
    }
    // How far on the way and along the wall they cross, each times `size`: most walls are passed without a division.
    let on_way = (ax * bz - az * bx) * across.signum();
    let on_wall = (ax * way[2] - az * way[0]) * across.signum();
    if !(on_way > 0.0 && on_way < size && (0.0..=size).contains(&on_wall)) {
        return false;
    }
    let (s, u) = (on_way / size, on_wall / size);
    // The surface itself may lie on the wall.
    if s * s * (way[0] * way[0] + way[2] * way[2]) <= TOUCHING * TOUCHING {
        return false;
    }
    let y = from[1] + s * way[1];
    let foot = wall.from[1] + u * (wall.to[1] - wall.from[1]);
    y >= foot && y <= wall.top
}

/// Whether a post stands between two points.
fn post_between(post: &Post, from: Vec3, way: Vec3) -> bool {
    let (cx, cz) = (post.at[0] - from[0], post.at[2] - from[2]);
    let length = way[0] * way[0] + way[2] * way[2];
    if length < 1e-12 {
        return false;
    }
    let nearest = (cx * way[0] + cz * way[2]) / length;
    let (dx, dz) = (cx - nearest * way[0], cz - nearest * way[2]);
    let apart = post.radius * post.radius - (dx * dx + dz * dz);
    if apart <= 0.0 {
        return false;
    }
    let half = (apart / length).sqrt();
    let touching = TOUCHING / length.sqrt();
    let (enters, leaves) = ((nearest - half).max(touching), (nearest + half).min(1.0));
    if enters >= leaves {
        return false;
    }
    let (a, b) = (from[1] + enters * way[1], from[1] + leaves * way[1]);
    a.min(b) <= post.top && a.max(b) >= post.at[1]
}

/// A wall as a lamp sees it, level: where it begins and how it goes on from there, and the cross product of both.
#[derive(Clone, Copy, Debug)]
struct Screen {
    begins: [f32; 2],
    along: [f32; 2],
    cross: f32,
    feet: [f32; 2],
    top: f32,
}

impl Screen {
    fn of(wall: &Wall, lamp: Vec3) -> Screen {
        let begins = [wall.from[0] - lamp[0], wall.from[2] - lamp[2]];
        let along = [wall.to[0] - wall.from[0], wall.to[2] - wall.from[2]];
        Screen {
            begins,
            along,
            cross: cross(begins, along),
            feet: [wall.from[1], wall.to[1]],
            top: wall.top,
        }
    }

    /// Whether it crosses the way from the lamp to a point so far away, before it comes to within [`TOUCHING`] of it.
    fn crosses(&self, lamp: f32, way: Vec3, flat: f32) -> bool {
        let across = cross([way[0], way[2]], self.along);
        let size = across.abs();
        // How far on the way and along the wall they cross, each times `size`: most walls are passed without a division.
        let on_way = self.cross * across.signum();
        if size < 1e-9 || !(on_way > 0.0 && on_way < size) {
            return false;
        }
        let on_wall = cross(self.begins, [way[0], way[2]]) * across.signum();
        if !(0.0..=size).contains(&on_wall) {
            return false;
        }
        let (t, u) = (on_way / size, on_wall / size);
        // The surface itself may lie on the wall.
        if (1.0 - t) * (1.0 - t) * flat <= TOUCHING * TOUCHING {
            return false;
        }
        let y = lamp + t * way[1];
        y >= self.feet[0] + u * (self.feet[1] - self.feet[0]) && y <= self.top
    }
}

fn cross(a: [f32; 2], b: [f32; 2]) -> f32 {
    a[0] * b[1] - a[1] * b[0]
}

/// The walls and posts that may stand between a lamp and what it reaches.
#[derive(Clone, Debug)]
pub(crate) struct Blockers {
    lamp: Vec3,
    screens: Vec<Screen>,
    posts: Vec<Post>,
}

impl Blockers {
    /// For what lies no farther from the lamp than `reach`.
    pub(crate) fn of(scene: &Scene, lamp: &Lamp, reach: f32) -> Blockers {
        if !lamp.shadows {
            return Blockers { lamp: lamp.at, screens: Vec::new(), posts: Vec::new() };
        }
        let near = |nearest: f32| nearest < reach;
        let walls = scene.walls.iter().filter(|w| near(wall_distance(w, lamp.at)));
        Blockers {
            lamp: lamp.at,
            screens: walls.map(|wall| Screen::of(wall, lamp.at)).collect(),
            posts: scene
                .posts
                .iter()
                .filter(|p| {
                    let (dx, dz) = (p.at[0] - lamp.at[0], p.at[2] - lamp.at[2]);
                    let apart = (dx * dx + dz * dz).sqrt();
                    // A lamp on top of its own post, or in it, is not shut in.
                    apart > p.radius && near(apart - p.radius)
                })
                .copied()
                .collect(),
        }
    }

    /// Whether one of them stands between the lamp and a point.
    pub(crate) fn between(&self, point: Vec3) -> bool {
        let way = less(point, self.lamp);
        let flat = way[0] * way[0] + way[2] * way[2];
        self.screens.iter().any(|screen| screen.crosses(self.lamp[1], way, flat))
            || self.posts.iter().any(|post| {
                let apart =
                    cross([post.at[0] - self.lamp[0], post.at[2] - self.lamp[2]], [way[0], way[2]]);
                apart * apart < post.radius * post.radius * flat
                    && post_between(post, point, less(self.lamp, point))
            })
    }
}

/// Whether a wall or post stands between two points.
pub(crate) fn hidden(scene: &Scene, from: Vec3, to: Vec3) -> bool {
    let way = less(to, from);
    // A lamp on its own post is seen.
    let beside = |post: &Post| {
        (post.at[0] - from[0]).hypot(post.at[2] - from[2]) > post.radius || from[1] > post.top
    };
    scene.walls.iter().any(|wall| wall_between(wall, from, way))
        || scene.posts.iter().any(|post| beside(post) && post_between(post, from, way))
}

/// How far, level, a wall is from a point.
fn wall_distance(wall: &Wall, p: Vec3) -> f32 {
    let (bx, bz) = (wall.to[0] - wall.from[0], wall.to[2] - wall.from[2]);
    let (px, pz) = (p[0] - wall.from[0], p[2] - wall.from[2]);
    let length = bx * bx + bz * bz;
    let along = if length > 0.0 { ((px * bx + pz * bz) / length).clamp(0.0, 1.0) } else { 0.0 };
    let (dx, dz) = (px - along * bx, pz - along * bz);
    (dx * dx + dz * dz).sqrt()
}

/// The light of the sky on a surface, without suns.
pub(crate) fn sky(scene: &Scene, surface: Surface) -> Vec3 {
    let up = if surface.flat { 1.0 } else { surface.faces[1].max(0.0) };
    let open = UPRIGHT + (1.0 - UPRIGHT) * up;
    scene.ambient.map(|v| v * open)
}

/// Whether a wall or post stands between a surface and a sun.
pub(crate) fn shaded(scene: &Scene, surface: Surface, sun: &Sun) -> bool {
    let way = sun.toward.map(|v| v * 1e4);
    scene.walls.iter().any(|wall| wall_between(wall, surface.at, way))
        || scene.posts.iter().any(|post| post_between(post, surface.at, way))
}
