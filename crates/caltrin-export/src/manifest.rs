//! What an exported file holds, as data: for editors, pipelines and script bindings that go by names, so that nothing of
//! a book is typed again. The schema is `docs/manifest.schema.json`.

use caltrin_core::bounds::Bounds;
use caltrin_core::kind::{ChangeRate, Kind};
use caltrin_core::program::{
    Constant, Drive, Input, Light, LightId, LightKind, NamedState, Program, Size,
};
use caltrin_core::save::{SavedField, SavedKind};
use caltrin_core::{MADE, SourceNotes, ValidatedProgram};
use serde::Serialize;

use crate::Exported;
use crate::lower::save_bytes;
use crate::names::{FilePrefix, file_stem};
use crate::plan::{Plan, symbol, unit_of};

/// The version of the format: raised when a reader of the one before would be misled.
pub const VERSION: u32 = 1;

/// What an exported file holds.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Manifest {
    /// By what and from which book it was made, in words.
    pub comment: String,
    /// [`VERSION`].
    pub manifest: u32,
    /// The version of the exporter.
    pub exporter: &'static str,
    /// The book's name.
    pub book: String,
    /// The seed of runs that say no other.
    pub seed: u32,
    /// The axes and units of all values.
    pub space: SpaceEntry,
    /// The game's clock, if the book has one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub clock: Option<ClockEntry>,
    /// Tags of lights, in the order of their bits.
    pub tags: Vec<String>,
    /// Lights, in the book's order.
    pub lights: Vec<LightEntry>,
    /// Values that the game reads besides lights.
    pub outputs: Vec<LightEntry>,
    /// Values that the game sets.
    pub inputs: Vec<InputEntry>,
    /// Choices of the game.
    pub choices: Vec<ChoiceEntry>,
    /// Events that the game fires.
    pub events: Vec<EventEntry>,
    /// What the book tells the game.
    pub notices: Vec<NoticeEntry>,
    /// Modes, that events change.
    pub modes: Vec<ModesEntry>,
    /// Switches, that events turn.
    pub switches: Vec<SwitchEntry>,
    /// Sequences, that events start.
    pub sequences: Vec<SequenceEntry>,
    /// Sounds that lights follow.
    pub sounds: Vec<SoundEntry>,
    /// What saved runs have.
    pub saves: SavesEntry,
}

/// Axes and units.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct SpaceEntry {
    /// The axis that points up: `y` or `z`.
    pub up: &'static str,
    /// The unit of lengths and points, in meters.
    pub meters: f64,
    /// What strengths in lm, cd and lx were multiplied by.
    pub factor: f64,
}

/// The game's clock.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ClockEntry {
    /// The length of a day, in seconds of the run.
    pub day_seconds: f64,
    /// The hour at the start of a run, 0 to 24.
    pub start_hour: f64,
    /// How fast it goes; 1 is a day in `day_seconds`.
    pub rate: f64,
}

/// A light or an output.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct LightEntry {
    /// Its name in the book.
    pub name: String,
    /// `point`, `spot`, `area`, `directional`, `ambient` or `output`.
    pub kind: &'static str,
    /// How many lamps it has, those of all instances together; `null` where the game decides.
    pub count: Option<u32>,
    /// Whether lamps are read by an index.
    pub indexed: bool,
    /// How many instances it is in, outermost first.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub instances: Vec<Option<u32>>,
    /// Its tags.
    pub tags: Vec<String>,
    /// Its channels, in the order in which the exported code writes them.
    pub channels: Vec<ChannelEntry>,
}

/// A channel of a light, or a value of an output.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ChannelEntry {
    /// The book's word for it.
    pub name: String,
    /// `number`, `color`, `point` or `flag`.
    #[serde(rename = "type")]
    pub ty: &'static str,
    /// The unit of its values; empty for numbers without one, colors and flags.
    pub unit: String,
    /// When it changes.
    pub changes: Changes,
    /// The least value of each part; proved, whatever the game does.
    pub least: Vec<f64>,
    /// The greatest value of each part.
    pub most: Vec<f64>,
}

/// When a value changes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Changes {
    /// Never: it is the same in every run.
    Never,
    /// Not during a run.
    Run,
    /// When something happens.
    Events,
    /// With time.
    Time,
}

/// A value that the game sets.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct InputEntry {
    /// Its name in the book.
    pub name: String,
    /// `number`, `color`, `point` or `flag`.
    #[serde(rename = "type")]
    pub ty: &'static str,
    /// The unit of its values.
    pub unit: String,
    /// How many there are: one for each instance or lamp; `null` for one.
    pub count: Option<u32>,
    /// What it is until the game sets it.
    pub default: Vec<f64>,
    /// The least value; what is set below is taken as this.
    pub least: f64,
    /// The greatest value.
    pub most: f64,
}

/// A choice of the game.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ChoiceEntry {
    /// Its name in the book.
    pub name: String,
    /// Its options; the first is selected at the start.
    pub options: Vec<String>,
    /// How long it takes from one to another, in seconds.
    pub over_seconds: f64,
}

/// An event that the game fires.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct EventEntry {
    /// Its name in the book.
    pub name: String,
    /// How many there are: one for each instance or lamp; `null` for one.
    pub count: Option<u32>,
    /// The values that it is fired with.
    pub values: Vec<ValueEntry>,
}

/// A value of an event or a notice.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ValueEntry {
    /// Its name in the book.
    pub name: String,
    /// `number`, `color`, `point` or `flag`.
    #[serde(rename = "type")]
    pub ty: &'static str,
    /// Its unit.
    pub unit: String,
}

/// What the book tells the game.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct NoticeEntry {
    /// Its name in the book.
    pub name: String,
    /// The texts that it may carry.
    pub texts: Vec<String>,
    /// The light, instance or event that it comes from.
    pub from: String,
    /// Whether it has a position.
    pub placed: bool,
    /// The values that it may carry.
    pub values: Vec<ValueEntry>,
}

/// Modes.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ModesEntry {
    /// Their name in the book.
    pub name: String,
    /// Each of them.
    pub options: Vec<String>,
    /// The one at the start.
    pub start: String,
    /// How many there are: one for each instance or lamp; `null` for one.
    pub count: Option<u32>,
}

/// A switch.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct SwitchEntry {
    /// Its name in the book.
    pub name: String,
    /// Whether it is on at the start.
    pub start: bool,
    /// How many there are: one for each instance or lamp; `null` for one.
    pub count: Option<u32>,
}

/// A sequence.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct SequenceEntry {
    /// Its name in the book.
    pub name: String,
    /// How long it lasts; `null` if it keeps a channel.
    pub seconds: Option<f64>,
}

/// A sound.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct SoundEntry {
    /// Its name in the book.
    pub name: String,
    /// Its file, as the book names it; empty for a live sound.
    pub file: String,
    /// Whether it repeats.
    pub loops: bool,
}

/// What saved runs have.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct SavesEntry {
    /// The size of a save in bytes.
    pub bytes: usize,
    /// A hash of the layout of saves.
    pub layout: u32,
    /// The fields of a save, in its order.
    pub fields: Vec<SavedEntry>,
}

/// A field of saved runs.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct SavedEntry {
    /// What it is found by.
    pub key: u32,
    /// What it is called: the same as long as it is the same.
    pub name: String,
    /// `number`, `word` or `option`.
    pub kind: &'static str,
    /// How many there are.
    pub count: u32,
}

impl Manifest {
    /// The manifest of a program: what its exported files hold, and nothing that they leave out.
    pub fn of(checked: &ValidatedProgram, notes: &SourceNotes) -> Manifest {
        let program = checked.program();
        let plan = Plan::of(checked, notes);
        let space = program.space();
        let light = |id, light: &Light| entry(checked, id, light);
        let is_output = |light: &Light| light.kind == LightKind::Output;
        let all = || program.lights();
        let (mut modes, mut switches) = (Vec::new(), Vec::new());
        for state in program.states() {
            let NamedState { name, options, start, size } = state;
            let (name, count) = (name.clone(), many(*size));
            match options.get(*start) {
                Some(of) => {
                    modes.push(ModesEntry {
                        name,
                        options: options.clone(),
                        start: of.clone(),
                        count,
                    });
                }
                None => switches.push(SwitchEntry { name, start: *start == 1, count }),
            }
        }
        let from = if plan.file.is_empty() { &plan.book } else { &plan.file };
        let comment = format!(
            "{MADE} from {from}. Change the lightbook and export again rather than this file."
        );
        Manifest {
            comment,
            manifest: VERSION,
            exporter: env!("CARGO_PKG_VERSION"),
            book: program.name().to_owned(),
            seed: program.seed().0,
            space: SpaceEntry { up: space.up.name(), meters: space.unit, factor: space.factor },
            clock: program.clock().map(|clock| ClockEntry {
                day_seconds: clock.day.0,
                start_hour: clock.start.0,
                rate: clock.rate,
            }),
            tags: program.tags().to_vec(),
            lights: all().filter(|(_, l)| !is_output(l)).map(|(id, l)| light(id, l)).collect(),
            outputs: all().filter(|(_, l)| is_output(l)).map(|(id, l)| light(id, l)).collect(),
            inputs: plan
                .inputs
                .iter()
                .filter(|input| !input.kept)
                .map(|input| input_entry(program, program.input(input.id)))
                .collect(),
            choices: plan
                .choices
                .iter()
                .map(|choice| ChoiceEntry {
                    name: choice.name.clone(),
                    options: choice.options.clone(),
                    over_seconds: choice.over,
                })
                .collect(),
            events: plan
                .events
                .iter()
                .filter(|event| event.is_fired())
                .map(|event| EventEntry {
                    name: event.name.clone(),
                    count: event.count,
                    values: event_values(program, &event.name),
                })
                .collect(),
            notices: notices(program, &plan),
            modes,
            switches,
            sequences: program
                .scenes()
                .iter()
                .map(|scene| SequenceEntry {
                    name: scene.name.clone(),
                    seconds: scene.end.map(|end| end.0),
                })
                .collect(),
            sounds: program
                .sounds()
                .iter()
                .map(|sound| SoundEntry {
                    name: sound.name.clone(),
                    file: sound.file.clone(),
                    loops: sound.loops,
                })
                .collect(),
            saves: SavesEntry {
                bytes: save_bytes(&plan),
                layout: plan.layout,
                fields: plan.saved.iter().map(saved_entry).collect(),
            },
        }
    }
}

/// The manifest of a program as a file, under the name of its exported files: `saltgate_pier_manifest.json`.
pub fn manifest(
    checked: &ValidatedProgram,
    notes: &SourceNotes,
    prefix: Option<&FilePrefix>,
) -> Exported {
    let manifest = Manifest::of(checked, notes);
    let stem = file_stem(prefix.map_or(&manifest.book, FilePrefix::text), []);
    let text = serde_json::to_string_pretty(&manifest).expect("names and finite numbers are JSON");
    Exported { file_name: format!("{stem}_manifest.json"), text: text + "\n" }
}

fn saved_entry(field: &SavedField) -> SavedEntry {
    let kind = match field.kind {
        SavedKind::Number => "number",
        SavedKind::Word => "word",
        SavedKind::Option(_) => "option",
    };
    SavedEntry { key: field.key, name: field.name.clone(), kind, count: field.count }
}

/// How many there are, if they have an index and the book says how many.
fn many(size: Size) -> Option<u32> {
    match size {
        Size::Many(n) => Some(n),
        Size::One | Size::Open => None,
    }
}

/// How many there are; `None` where the game decides.
fn counted(size: Size) -> Option<u32> {
    match size {
        Size::One => Some(1),
        Size::Many(n) => Some(n),
        Size::Open => None,
    }
}

fn type_name(kind: Kind) -> &'static str {
    match kind {
        Kind::OnOff => "flag",
        Kind::Color => "color",
        Kind::Point => "point",
        Kind::Number
        | Kind::Time
        | Kind::Rate
        | Kind::Angle
        | Kind::Length
        | Kind::Strength(_)
        | Kind::Hour => "number",
    }
}

fn entry(checked: &ValidatedProgram, id: LightId, light: &Light) -> LightEntry {
    let program = checked.program();
    let tags = program.tags().iter().enumerate();
    LightEntry {
        name: light.name.clone(),
        kind: light.kind.name(),
        count: counted(light.size),
        indexed: light.size != Size::One,
        instances: light.levels.iter().map(|level| counted(level.size)).collect(),
        tags: tags.filter(|(n, _)| light.tags >> n & 1 == 1).map(|(_, tag)| tag.clone()).collect(),
        channels: light.drives.iter().map(|drive| channel(checked, id, light, drive)).collect(),
    }
}

fn channel(checked: &ValidatedProgram, id: LightId, light: &Light, drive: &Drive) -> ChannelEntry {
    let program = checked.program();
    let bounds = checked.bounds(id, drive.field).unwrap_or(Bounds::OnOff);
    let parts = || (0..drive.kind.width()).map(|part| bounds.part(part));
    ChannelEntry {
        name: light.field_name(drive.field).to_owned(),
        ty: type_name(drive.kind),
        unit: unit_of(program, drive),
        changes: match program.expr(drive.value).change_rate {
            ChangeRate::Constant => Changes::Never,
            ChangeRate::Fixed => Changes::Run,
            ChangeRate::Stepwise => Changes::Events,
            ChangeRate::Flowing => Changes::Time,
        },
        least: parts().map(|part| part.lo).collect(),
        most: parts().map(|part| part.hi).collect(),
    }
}

fn input_entry(program: &Program, input: &Input) -> InputEntry {
    InputEntry {
        name: input.name.clone(),
        ty: type_name(input.kind),
        unit: symbol(program, input.kind),
        count: many(input.size),
        default: match input.default {
            Constant::Scalar(v) => vec![v],
            Constant::Vector(v) => v.to_vec(),
            Constant::OnOff(on) => vec![f64::from(u8::from(on))],
        },
        least: input.bounds.lo,
        most: input.bounds.hi,
    }
}

fn event_values(program: &Program, name: &str) -> Vec<ValueEntry> {
    let event = program.event_named(name).map(|id| program.event(id));
    let values = event.into_iter().flat_map(|event| &event.values);
    values
        .map(|id| {
            let input = program.input(*id);
            let own = input.name.rsplit('.').next().unwrap_or_default();
            ValueEntry {
                name: own.to_owned(),
                ty: type_name(input.kind),
                unit: symbol(program, input.kind),
            }
        })
        .collect()
}

fn notices(program: &Program, plan: &Plan) -> Vec<NoticeEntry> {
    let values = |names: &[String]| {
        let known = program.notice_values().iter().filter(|value| names.contains(&value.name));
        known
            .map(|value| ValueEntry {
                name: value.name.clone(),
                ty: type_name(value.kind),
                unit: symbol(program, value.kind),
            })
            .collect()
    };
    plan.notices
        .iter()
        .zip(program.notices())
        .map(|(notice, said)| NoticeEntry {
            name: notice.name.clone(),
            texts: notice.texts.clone(),
            from: notice.from.clone(),
            placed: notice.placed.is_some(),
            values: values(&said.values),
        })
        .collect()
}
