//! Lights and outputs: their kinds, channels and fields, and how many lamps there are.

use super::{ExprId, Field};
use crate::kind::{InstanceLevel, Kind};

/// What is read: the kinds of light, as glTF's punctual lights name them, area and ambient light, and
/// outputs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum LightKind {
    /// Shines from a point to all sides.
    Point,
    /// Shines from a point into a cone.
    Spot,
    /// Shines from a surface.
    Area,
    /// Shines from one direction everywhere.
    Directional,
    /// Light from everywhere.
    Ambient,
    /// No lamp: named values for the game.
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

/// How many lamps a light has.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Size {
    /// One lamp, without an index.
    One,
    /// An array of that many.
    Many(u32),
    /// As many as the game makes: every index can be read.
    Open,
}

impl Size {
    /// How many lamps a picture or a trace shows: an open array is seen by its first four.
    pub fn shown(self) -> u32 {
        match self {
            Size::One => 1,
            Size::Many(n) => n,
            Size::Open => 4,
        }
    }
}

/// Most lamps that one array may have.
pub const MOST_LAMPS: u32 = 1_000_000;

/// The names of the parts of a value of this kind; none where it is one number.
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

/// A field that the book drives. What a light does not name is not driven.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Drive {
    /// Which field.
    pub field: Field,
    /// Its value.
    pub value: ExprId,
    /// The kind of its value.
    pub kind: Kind,
}

impl Drive {
    /// How many numbers the field is made of.
    pub fn width(&self) -> usize {
        self.kind.width()
    }
}

/// A level of an array within arrays: an instance of a fitting that has lamps, or instances, in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Level {
    /// How many instances there are side by side.
    pub size: Size,
    /// How many lamps of this light lie in each.
    pub lamps: u32,
}

/// What one lane of a picture shows of a light: a number, the color that it dims, or both.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LaneValue {
    /// The field whose number it is, and which part of it; `None` counts as full.
    pub level: Option<(Field, usize)>,
    /// The field of its color; `None` for white.
    pub hue: Option<Field>,
}

impl LaneValue {
    /// The field that it is about, that of the number where it has both.
    pub fn field(self) -> Option<Field> {
        self.level.map(|(field, _)| field).or(self.hue)
    }
}

/// A light, or an array of lights with one description.
#[derive(Clone, Debug, PartialEq)]
pub struct Light {
    /// The book's name for it.
    pub name: String,
    /// What kind of lamp.
    pub kind: LightKind,
    /// How many, in all instances together.
    pub size: Size,
    /// The instances that it lies in, outermost first; none for a light of the book itself. The lamps
    /// of one instance are neighbors.
    pub levels: Vec<Level>,
    /// What is driven, in the order of [`super::CHANNELS`].
    pub drives: Vec<Drive>,
    /// The color as the book says it, before its darkness went into the strength.
    pub stated_color: Option<ExprId>,
    /// The radius, in meters, that the book states for the offset.
    pub ball: Option<f64>,
    /// The names of an output's values, if it has more than one.
    pub names: Vec<String>,
    /// Its tags, a bit each: bit 0 is the first of [`super::Program::tags`].
    pub tags: u32,
}

impl Light {
    /// How many numbers a lamp of this light has.
    pub fn width(&self) -> usize {
        self.drives.iter().map(Drive::width).sum()
    }

    /// What a picture shows as its level: its strength, or an output's first value of one number or
    /// on or off.
    pub fn level(&self) -> Option<Field> {
        let shown = |drive: &&Drive| match self.kind {
            LightKind::Output => drive.width() == 1,
            _ => drive.field == Field::Intensity,
        };
        self.drives.iter().find(shown).map(|drive| drive.field)
    }

    /// What a picture shows as its color.
    pub fn hue(&self) -> Option<Field> {
        let shown = |drive: &&Drive| drive.kind == Kind::Color;
        self.drives.iter().find(shown).map(|drive| drive.field)
    }

    /// What the lanes of a picture show: a lamp's strength in its color, or each value of an output by itself.
    pub fn lane_values(&self) -> Vec<LaneValue> {
        if self.kind != LightKind::Output {
            let level = self.level().map(|field| (field, 0));
            return vec![LaneValue { level, hue: self.hue() }];
        }
        self.drives.iter().flat_map(Light::values_of).collect()
    }

    /// The same of one channel, each of its numbers by itself.
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

    /// The name of one number of a field, as in `sky.top` or `position.x`; empty where the light has no other.
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

    /// How many lamps, side by side, share an index of this scope, and after how many it starts
    /// again.
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

    /// Values that are read together and belong to no light of the book.
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

    /// Where a field's numbers stand among those of a lamp, as [`crate::Run::read`] gives them.
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

    /// What drives a field, if anything does.
    pub fn drive(&self, field: Field) -> Option<ExprId> {
        self.drives.iter().find(|drive| drive.field == field).map(|drive| drive.value)
    }
}

/// How an index is made from a lamp's place among all lamps of its light: divided by `lamps`, then
/// counted round and round `of` if there is one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Share {
    /// Neighbors that have the same index.
    pub lamps: u32,
    /// How many indices there are before they start again; `None` where they never do.
    pub of: Option<u32>,
}

impl Share {
    /// Each lamp for itself.
    pub const LAMP: Share = Share { lamps: 1, of: None };

    /// The index of the `n`-th lamp.
    pub fn index(self, n: u32) -> u32 {
        let n = n / self.lamps;
        self.of.map_or(n, |of| n % of)
    }
}
