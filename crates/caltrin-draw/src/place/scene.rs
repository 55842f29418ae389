//! A place at one moment: its lamps as they shine, and what is solid in it. Meters, y up.

use caltrin_core::Run;
use caltrin_core::ValidatedProgram;
use caltrin_core::kind::{Kind, Photometry};
use caltrin_core::program::{
    Backdrop, Eye, Field, Form, Light, LightId, LightKind, OutputValue, Program, Space, THICK, Up,
};

use super::texture::Texture;

/// What a plain factor of 1 is drawn as, since only the game knows its lamp's own strength: a lamp in candelas, which
/// is as much as the illuminance of ambient and directional light at a distance of some 3 m.
pub(crate) const FACTOR: f32 = 100.0;
/// The same of ambient and directional light, in lx.
pub(crate) const FACTOR_LUX: f32 = 10.0;
/// Nearer than this to a lamp its light grows no more, in meters.
const NEAREST: f32 = 0.1;

pub(crate) type Vec3 = [f32; 3];

/// A lamp that has a place.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Lamp {
    pub light: LightId,
    pub index: u32,
    pub at: Vec3,
    /// Where it points, if that matters: a spot's axis, an area's face.
    pub aim: Option<Vec3>,
    /// Luminous intensity along its axis by color, cd.
    pub candelas: Vec3,
    /// Up to here it is full, m.
    pub inner: f32,
    /// From here on there is none, m; infinite where the book does not say.
    pub outer: f32,
    /// The power of the distance by which it falls.
    pub falloff: f32,
    /// Scale and shift of the cosine to a spot's axis, as glTF's punctual spots have them.
    pub cone: Option<(f32, f32)>,
    pub shadows: bool,
    /// Whether it is a spark, which lives here and there and belongs to no frame.
    pub spark: bool,
}

/// Light from one direction everywhere.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Sun {
    /// Towards it.
    pub toward: Vec3,
    /// Illuminance by color, lx.
    pub lux: Vec3,
    pub shadows: bool,
}

/// A thin wall on its foot.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Wall {
    pub from: Vec3,
    pub to: Vec3,
    pub top: f32,
}

/// A round post on its foot.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Post {
    pub at: Vec3,
    pub radius: f32,
    pub top: f32,
}

/// A picture in the place.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Hung {
    pub corner: Vec3,
    /// How far along its upper and its left edge a point is: the dot products with the way there from the corner.
    pub across: Vec3,
    pub down: Vec3,
    /// The direction that it faces, of length 1.
    pub faces: Vec3,
    pub lies: bool,
    /// How large one of its pixels is, in meters.
    pub texel: f32,
    pub texture: Texture,
}

/// What fog does to light.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Haze {
    /// Extinction per meter: `e^-density` of the light is left after one meter.
    pub density: f32,
    /// The illuminance that opaque fog is drawn as, lx by color.
    pub light: Vec3,
}

impl Haze {
    fn of_range(range: f32, light: Vec3) -> Haze {
        Haze { density: HIDDEN / range.max(0.1), light }
    }

    /// The distance at which a twentieth of the contrast is left, in meters.
    pub(crate) fn range(&self) -> f32 {
        HIDDEN / self.density
    }
}

/// What of a place is shown besides its lights.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Shows<'a> {
    pub eye: Option<&'a Eye>,
    pub pictures: &'a [Option<Texture>],
}

/// The place at one moment.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Scene {
    pub lamps: Vec<Lamp>,
    pub suns: Vec<Sun>,
    pub ambient: Vec3,
    pub walls: Vec<Wall>,
    pub posts: Vec<Post>,
    pub hung: Vec<Hung>,
    pub fog: Option<Haze>,
    /// The color of the sky that an eye sees, linear.
    pub sky: Vec3,
    /// The names of lights whose place is left to the game.
    pub unplaced: Vec<String>,
    /// Whether a light's strength is a factor on what the game has.
    pub factors: bool,
}

/// The place as a run has it at its moment.
pub(crate) fn scene(
    checked: &ValidatedProgram,
    run: &mut Run<'_>,
    lights: &[LightId],
    shows: Shows<'_>,
) -> Scene {
    let program = checked.program();
    let mut scene = Scene::default();
    for solid in program.solids() {
        let point = |p: [f64; 3]| p.map(|v| v as f32);
        match solid.form {
            Form::Wall { from, to, height } => {
                let (from, to) = (point(from), point(to));
                scene.walls.push(Wall { from, to, top: from[1].max(to[1]) + height as f32 });
            }
            Form::Post { at, radius, height } => {
                let at = point(at);
                scene.posts.push(Post { at, radius: radius as f32, top: at[1] + height as f32 });
            }
        }
    }
    for (backdrop, picture) in program.backdrops().iter().zip(shows.pictures) {
        scene.hung.extend(picture.as_ref().and_then(|texture| hung(backdrop, texture)));
    }
    for id in lights {
        let light = program.light(*id);
        if light.kind == LightKind::Output {
            continue;
        }
        let width = run.width(*id);
        let lamps = light.size.shown();
        let mut values = vec![0.0; width * lamps as usize];
        run.read(*id, 0, &mut values);
        let mut placed = true;
        let spark = program.sparks().iter().any(|spark| spark.name == light.name);
        for index in 0..lamps {
            let own = &values[width * index as usize..width * (index as usize + 1)];
            let look = Look { light, values: own, space: program.space() };
            let strength = look.strength();
            scene.factors |= look.is_factor();
            match light.kind {
                LightKind::Ambient => add(&mut scene.ambient, strength),
                LightKind::Directional => {
                    let toward = look.direction(Field::Aim).unwrap_or([0.0, -1.0, 0.0]).map(|v| -v);
                    let shadows = look.number(Field::Shadows).is_none_or(|on| on != 0.0);
                    scene.suns.push(Sun { toward, lux: strength, shadows });
                }
                _ => match look.lamp(*id, index, strength) {
                    // A spark that does not live is not there.
                    Some(_) if spark && strength == [0.0; 3] => {}
                    Some(lamp) => scene.lamps.push(Lamp { spark, ..lamp }),
                    None => placed = false,
                },
            }
        }
        if !placed {
            scene.unplaced.push(light.name.clone());
        }
    }
    if let Some(eye) = shows.eye {
        let value = |value: OutputValue, run: &mut Run<'_>| output(program, run, value);
        scene.sky = eye.sky.map_or([0.0; 3], |sky| value(sky, run));
        scene.fog = eye.fog.map(|fog| {
            let [range, ..] = value(fog.range, run);
            let kind = program.light(fog.range.output).drives.iter();
            let kind =
                kind.clone().find(|drive| drive.field == fog.range.field).map(|drive| drive.kind);
            let range = match kind {
                Some(Kind::Length) => range * program.space().unit as f32,
                _ => THICK as f32 / range.max(1e-6),
            };
            let color = fog.color.map_or([1.0; 3], |color| value(color, run));
            // Lit from all sides, it is as bright as a white surface; by a sun, a quarter of that.
            let mut lit = scene.ambient;
            for sun in &scene.suns {
                add(&mut lit, sun.lux.map(|v| v / 4.0));
            }
            let light = [0, 1, 2].map(|n| lit[n] * color[n]);
            Haze::of_range(range, light)
        });
    }
    scene
}

/// At the visual range a twentieth of the contrast is left: the natural logarithm of 20.
const HIDDEN: f32 = 2.995_732_3;

/// The numbers of an output's value; one number is the first of three.
fn output(program: &Program, run: &mut Run<'_>, value: OutputValue) -> Vec3 {
    let mut all = vec![0.0; run.width(value.output)];
    run.read(value.output, 0, &mut all);
    let own =
        program.light(value.output).places(value.field).map_or(&[][..], |places| &all[places]);
    [0, 1, 2].map(|n| own.get(n).copied().unwrap_or(0.0).max(0.0))
}

fn hung(backdrop: &Backdrop, texture: &Texture) -> Option<Hung> {
    let [corner, across, down] = backdrop.edges();
    let squared = |v: [f64; 3]| v.iter().map(|v| v * v).sum::<f64>();
    let (wide, high) = (squared(across), squared(down));
    let single = |v: [f64; 3]| v.map(|v| v as f32);
    let faces = match backdrop.lies() {
        true => [0.0, 1.0, 0.0],
        false => [-across[2], 0.0, across[0]].map(|v| v / wide.sqrt()),
    };
    let (columns, _) = texture.size();
    (wide > 0.0 && high > 0.0).then(|| Hung {
        corner: single(corner),
        across: single(across.map(|v| v / wide)),
        down: single(down.map(|v| v / high)),
        faces: single(faces),
        lies: backdrop.lies(),
        texel: wide.sqrt() as f32 / columns as f32,
        texture: texture.clone(),
    })
}

fn add(sum: &mut Vec3, more: Vec3) {
    for (sum, more) in sum.iter_mut().zip(more) {
        *sum += more;
    }
}

/// One lamp's numbers, by what they are.
struct Look<'a> {
    light: &'a Light,
    values: &'a [f32],
    space: Space,
}

impl Look<'_> {
    fn field(&self, field: Field) -> Option<&[f32]> {
        self.light.places(field).map(|places| &self.values[places])
    }

    fn number(&self, field: Field) -> Option<f32> {
        self.field(field).map(|values| values[0])
    }

    fn length(&self, field: Field) -> Option<f32> {
        self.number(field).map(|v| v * self.space.unit as f32)
    }

    /// A direction with y up.
    fn direction(&self, field: Field) -> Option<Vec3> {
        let values = self.field(field)?;
        let point = [values[0], values[1], values[2]];
        Some(match self.space.up {
            Up::Y => point,
            Up::Z => Up::Y.stand(point.map(f64::from)).map(|v| v as f32),
        })
    }

    fn point(&self, field: Field) -> Option<Vec3> {
        self.direction(field).map(|p| p.map(|v| v * self.space.unit as f32))
    }

    fn kind(&self) -> Option<Kind> {
        let strength = self.light.drives.iter().find(|drive| drive.field == Field::Intensity);
        strength.map(|drive| drive.kind)
    }

    fn is_factor(&self) -> bool {
        !matches!(self.kind(), Some(Kind::Strength(_)))
    }

    /// Its strength by color: cd along the axis, or lx.
    fn strength(&self) -> Vec3 {
        let level = self.number(Field::Intensity).unwrap_or(1.0);
        let lumens = match self.light.kind {
            // What is given out is spread over the cone, the half space, or all sides.
            LightKind::Spot => {
                let outer = self.number(Field::ConeOuter).unwrap_or(90.0);
                let half = (outer.clamp(1.0, 180.0) / 2.0).to_radians();
                std::f32::consts::TAU * (1.0 - half.cos())
            }
            LightKind::Area if self.field(Field::Aim).is_some() => std::f32::consts::PI,
            _ => 4.0 * std::f32::consts::PI,
        };
        let level = match self.kind() {
            Some(Kind::Strength(unit)) => {
                let level = level / self.space.factor as f32;
                if unit == Photometry::Lumen { level / lumens } else { level }
            }
            _ => {
                level
                    * match self.light.kind {
                        LightKind::Ambient | LightKind::Directional => FACTOR_LUX,
                        _ => FACTOR,
                    }
            }
        };
        let color = self.field(Field::Color).map_or([1.0; 3], |c| [c[0], c[1], c[2]]);
        color.map(|v| (v * level).max(0.0))
    }

    fn lamp(&self, light: LightId, index: u32, candelas: Vec3) -> Option<Lamp> {
        let mut at = self.point(Field::Position)?;
        if let Some(offset) = self.point(Field::Offset) {
            add(&mut at, offset);
        }
        let cone = (self.light.kind == LightKind::Spot).then(|| {
            let half = |field, default: f32| {
                let full: f32 = self.number(field).unwrap_or(default);
                (full / 2.0).to_radians().cos()
            };
            let (inner, outer) = (half(Field::ConeInner, 0.0), half(Field::ConeOuter, 90.0));
            let scale = 1.0 / (inner - outer).max(0.001);
            (scale, -outer * scale)
        });
        let aim = match self.light.kind {
            LightKind::Spot => Some(self.direction(Field::Aim).unwrap_or([0.0, 0.0, -1.0])),
            LightKind::Area => self.direction(Field::Aim),
            _ => None,
        };
        Some(Lamp {
            light,
            index,
            at,
            aim,
            candelas,
            inner: self.length(Field::ReachInner).unwrap_or(NEAREST).max(NEAREST),
            outer: self.length(Field::ReachOuter).unwrap_or(f32::INFINITY),
            falloff: self.number(Field::Falloff).unwrap_or(2.0),
            cone,
            shadows: self.number(Field::Shadows).is_none_or(|on| on != 0.0),
            spark: false,
        })
    }
}
