//! Lights and outputs: their kinds, channels and fields, and how many lamps there are.

use super::{ExprId, Field};
use crate::kind::{InstanceLevel, Kind};

/// The kinds of light, as glTF's punctual lights name them, area and ambient lights, and outputs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum LightKind {
    /// Shines from a point in all directions.
    Point,
    /// Shines from a point into a cone.
    Spot,
    /// Shines from a surface.
    Area,
    /// Parallel rays from one direction.
    Directional,
    /// Light from everywhere.
    Ambient,
    /// Not a light: named values for the game.
    Output,
}

impl LightKind {
    /// The language's word for it.
    pub fn name(self) -> &'static str {
        match self {
            LightKind::Point => "point",
            LightKind::Spot => "spot",
            LightKind::Area => "area",
            LightKind::Directional => "directional",
            LightKind::Ambient => "ambient",
            LightKind::Output => "output",
        }
    }
}

/// The number of lamps of a light.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Size {
    /// One lamp, without an index.
    One,
    /// An array with this many lamps.
    Many(u32),
    /// An open array: the game sets the number of lamps, and every index can be evaluated.
    Open,
}

impl Size {
    /// The number of lamps in drawings and traces: four for an open array.
    pub fn shown(self) -> u32 {
        match self {
            Size::One => 1,
            Size::Many(n) => n,
            Size::Open => 4,
        }
    }
}

/// Maximum number of lamps in an array.
pub const MOST_LAMPS: u32 = 1_000_000;

/// The names of the components of a value of this kind; empty for a single number.
pub fn parts_of(kind: Kind) -> &'static [&'static str] {
    match kind {
        Kind::Color => &["r", "g", "b"],
        Kind::Point => &["x", "y", "z"],
        Kind::Number
        | Kind::Time
        | Kind::Rate
        | Kind::Angle
        | Kind::Length
        | Kind::Strength(_)
        | Kind::OnOff
        | Kind::Hour => &[],
    }
}

/// A field that the book sets. Fields that a light does not name are not set.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Drive {
    /// The field.
    pub field: Field,
    /// Its value.
    pub value: ExprId,
    /// The kind of its value.
    pub kind: Kind,
}

impl Drive {
    /// The number of components of the field.
    pub fn width(&self) -> usize {
        self.kind.width()
    }
}

/// A level of nested arrays: an instance of a fitting that contains lamps or instances.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Level {
    /// The number of adjacent instances.
    pub size: Size,
    /// The number of lamps of this light in each.
    pub lamps: u32,
}

/// The content of one lane of a drawing: a number, a color, or both.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LaneValue {
    /// The field and the component of the number; `None` is full.
    pub level: Option<(Field, usize)>,
    /// The field of its color; `None` for white.
    pub hue: Option<Field>,
}

impl LaneValue {
    /// Its field; the number's field if it has both.
    pub fn field(self) -> Option<Field> {
        self.level.map(|(field, _)| field).or(self.hue)
    }
}

/// A light, or an array of lights with one description.
#[derive(Clone, Debug, PartialEq)]
pub struct Light {
    /// The book's name for it.
    pub name: String,
    /// The kind of light.
    pub kind: LightKind,
    /// The number of lamps, in all instances together.
    pub size: Size,
    /// The instances that contain it, outermost first; empty for a light of the book itself. The
    /// lamps of one instance are adjacent.
    pub levels: Vec<Level>,
    /// The fields that it sets, in the order of [`super::CHANNELS`].
    pub drives: Vec<Drive>,
    /// The color as written in the book, before its brightness was moved to the intensity.
    pub stated_color: Option<ExprId>,
    /// The declared radius of the offset, in meters.
    pub ball: Option<f64>,
    /// The names of an output's values, if it has several.
    pub names: Vec<String>,
    /// Its tags as bits: bit 0 is the first of [`super::Program::tags`].
    pub tags: u32,
}

impl Light {
    /// The number of components of a lamp of this light.
    pub fn width(&self) -> usize {
        self.drives.iter().map(Drive::width).sum()
    }

    /// The level in drawings: the intensity, or an output's first value that is a number or on or
    /// off.
    pub fn level(&self) -> Option<Field> {
        let shown = |drive: &&Drive| match self.kind {
            LightKind::Output => drive.width() == 1,
            _ => drive.field == Field::Intensity,
        };
        self.drives.iter().find(shown).map(|drive| drive.field)
    }

    /// The color in drawings.
    pub fn hue(&self) -> Option<Field> {
        let shown = |drive: &&Drive| drive.kind == Kind::Color;
        self.drives.iter().find(shown).map(|drive| drive.field)
    }

    /// The lanes of a drawing: a lamp's intensity in its color, or each value of an output
    /// separately.
    pub fn lane_values(&self) -> Vec<LaneValue> {
        if self.kind != LightKind::Output {
            let level = self.level().map(|field| (field, 0));
            return vec![LaneValue { level, hue: self.hue() }];
        }
        self.drives.iter().flat_map(Light::values_of).collect()
    }

    /// Same for one channel, each of its components separately.
    pub fn channel_values(&self, channel: &super::Channel) -> Vec<LaneValue> {
        let driven = channel
            .fields
            .iter()
            .filter_map(|field| self.drives.iter().find(|drive| drive.field == *field));
        driven.flat_map(Light::values_of).collect()
    }

    fn values_of(drive: &Drive) -> impl Iterator<Item = LaneValue> + use<> {
        let (field, is_color) = (drive.field, drive.kind == Kind::Color);
        let parts = if is_color { 1 } else { drive.width() };
        (0..parts).map(move |part| match is_color {
            true => LaneValue { level: None, hue: Some(field) },
            false => LaneValue { level: Some((field, part)), hue: None },
        })
    }

    /// The name of one component of a field, as in `sky.top` or `position.x`; empty if the light
    /// has only one.
    pub fn value_name(&self, value: LaneValue) -> String {
        let Some(field) = value.field() else { return String::new() };
        let drive = self.drives.iter().find(|drive| drive.field == field);
        let parts = drive.map_or(&[][..], |drive| parts_of(drive.kind));
        let part = value.level.and_then(|(_, part)| parts.get(part));
        let own = match field {
            Field::Named(_) if self.names.is_empty() => "",
            field => self.field_name(field),
        };
        match part {
            Some(part) if own.is_empty() => (*part).to_owned(),
            Some(part) => format!("{own}.{part}"),
            None => own.to_owned(),
        }
    }

    /// The name of a field in tables and exported code.
    pub fn field_name(&self, field: Field) -> &str {
        match field {
            Field::Named(n) => self.names.get(usize::from(n)).map_or("value", String::as_str),
            field => field.name(),
        }
    }

    /// The number of adjacent lamps that share an index at this level, and the number of indices
    /// before it starts again.
    pub fn share(&self, scope: InstanceLevel) -> Share {
        let many = |size| match size {
            Size::Many(n) => Some(n),
            Size::One => Some(1),
            Size::Open => None,
        };
        match scope {
            InstanceLevel::Instance(n) => {
                let level = self.levels.get(usize::from(n)).copied();
                let level = level.unwrap_or(Level { size: Size::One, lamps: 1 });
                Share { lamps: level.lamps, of: if n == 0 { None } else { many(level.size) } }
            }
            InstanceLevel::Lamp | InstanceLevel::Book => {
                Share { lamps: 1, of: self.levels.last().map(|level| level.lamps) }
            }
        }
    }

    /// Values that are evaluated together and do not belong to a light of the book.
    pub fn alone(name: &str, drives: Vec<Drive>) -> Light {
        Light {
            name: name.to_owned(),
            kind: LightKind::Output,
            size: Size::One,
            levels: Vec::new(),
            drives,
            stated_color: None,
            ball: None,
            names: Vec::new(),
            tags: 0,
        }
    }

    /// The range of a field's components among those of a lamp, as [`crate::Run::read`] returns
    /// them.
    pub fn places(&self, field: Field) -> Option<std::ops::Range<usize>> {
        let mut at = 0;
        for drive in &self.drives {
            let end = at + drive.width();
            if drive.field == field {
                return Some(at..end);
            }
            at = end;
        }
        None
    }

    /// The value of a field, if the light sets it.
    pub fn drive(&self, field: Field) -> Option<ExprId> {
        self.drives.iter().find(|drive| drive.field == field).map(|drive| drive.value)
    }
}

/// How an index is computed from a lamp's flat index: divided by `lamps`, then modulo `of` if there
/// is one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Share {
    /// Adjacent lamps with the same index.
    pub lamps: u32,
    /// The number of indices before they start again; `None` if they never do.
    pub of: Option<u32>,
}

impl Share {
    /// The lamp's own index.
    pub const LAMP: Share = Share { lamps: 1, of: None };

    /// The index of the `n`-th lamp.
    pub fn index(self, n: u32) -> u32 {
        let n = n / self.lamps;
        self.of.map_or(n, |of| n % of)
    }
}
