//! A place at one moment: its lamps as they shine, and what is solid in it. Meters, y up.

use caltrin_core::Run;
use caltrin_core::ValidatedProgram;
use caltrin_core::kind::{Kind, Photometry};
use caltrin_core::program::{Field, Form, Light, LightId, LightKind, Space, Up};

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

/// The place at one moment.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Scene {
    pub lamps: Vec<Lamp>,
    pub suns: Vec<Sun>,
    pub ambient: Vec3,
    pub walls: Vec<Wall>,
    pub posts: Vec<Post>,
    /// The names of lights whose place is left to the game.
    pub unplaced: Vec<String>,
    /// Whether a light's strength is a factor on what the game has.
    pub factors: bool,
}

/// The place as a run has it at its moment.
pub(crate) fn scene(checked: &ValidatedProgram, run: &mut Run<'_>, lights: &[LightId]) -> Scene {
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
    scene
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
