//! What the page reads beside the lights, by the exported code: where each sound is, and how much modes and sequences
//! count.

use std::collections::BTreeMap;

use caltrin::core::ValidatedProgram;
use caltrin::core::program::{Program, Sound};
use caltrin::core::sound::{Marks, STEPS};
use caltrin::export::{Plan, bindings};
use serde_json::{Value, json};

/// The output that the page reads them from. No light of a book has such a name.
const PLACES: &str = "caltrin sounds";

/// Most sounds, and most numbers of modes and sequences, that are read.
const MOST_READ: (usize, usize) = (60, 120);

/// Most samples of a waveform that go to the page.
const MOST: usize = 20_000;

/// Sounds that have a file, and their place in the book.
fn of_files(program: &Program) -> impl Iterator<Item = (usize, &Sound)> {
    program.sounds().iter().enumerate().filter(|(_, sound)| !sound.file.is_empty())
}

/// The book with an output of where its sounds are and of how much its modes and sequences count, if it has any.
pub fn with_places(checked: &ValidatedProgram) -> Option<ValidatedProgram> {
    let program = checked.program();
    let mut values = Vec::new();
    for (n, sound) in of_files(program).take(MOST_READ.0) {
        values.push((format!("place_{n}"), sound.place));
        values.extend(sound.plays.map(|plays| (format!("plays_{n}"), plays)));
    }
    let mut bands = Vec::new();
    for (n, modes) in program.modes().iter().enumerate() {
        let parts = modes.parts.iter().enumerate();
        bands.extend(parts.map(|(k, (_, weight))| (format!("mode_{n}_{k}"), *weight)));
    }
    for (n, scene) in program.scenes().iter().enumerate() {
        bands.push((format!("scene_{n}"), scene.at));
        bands.extend(scene.holds.map(|holds| (format!("holds_{n}"), holds)));
    }
    values.extend(bands.into_iter().take(MOST_READ.1));
    if values.is_empty() { None } else { checked.with_output(PLACES, &values) }
}

/// The name of the module's function that reads that output, and those of its values.
fn names(plan: &Plan) -> Option<(String, BTreeMap<String, String>)> {
    let bindings = bindings::bindings(plan);
    let places = bindings.lights.last().filter(|light| light.light == PLACES)?;
    Some((places.read.clone(), places.fields.iter().cloned().collect()))
}

/// Modes and sequences, with the names that the module has for how much they count.
pub fn bands(program: &Program, plan: &Plan) -> Value {
    let Some((read, fields)) = names(plan) else { return json!([]) };
    let modes = program.modes().iter().enumerate().map(|(n, modes)| {
        let parts = modes.parts.iter().enumerate().filter_map(|(k, (name, _))| {
            let field = fields.get(&format!("mode_{n}_{k}"))?;
            Some(json!({ "name": name, "field": field }))
        });
        json!({ "name": modes.name, "read": read, "parts": parts.collect::<Vec<_>>() })
    });
    let scenes = program.scenes().iter().enumerate().filter_map(|(n, scene)| {
        Some(json!({
            "name": scene.name,
            "read": read,
            "at": fields.get(&format!("scene_{n}"))?,
            "holds": fields.get(&format!("holds_{n}")),
            "end": scene.end.map(|end| end.0),
        }))
    });
    Value::Array(modes.chain(scenes).collect())
}

/// The sounds, with the names that the module has for where they are.
pub fn about(program: &Program, plan: &Plan) -> Value {
    let Some((read, fields)) = names(plan) else { return json!([]) };
    let field = |name: String| fields.get(&name).cloned();
    let all = of_files(program).filter_map(|(n, sound)| {
        let peaks = sound.hearing.peaks();
        let top = peaks.iter().copied().fold(1e-9f32, f32::max);
        let each = peaks.len().div_ceil(MOST).max(4);
        let shown =
            |group: &[f32]| (group.iter().copied().fold(0.0, f32::max) / top * 255.0).round() as u8;
        let marks = [Marks::Onsets, Marks::SourceNotes].map(|which| sound.hearing.marks(which));
        let marks: Vec<f64> =
            marks.iter().flat_map(|all| all.iter().map(|mark| mark.at)).take(MOST).collect();
        let midi = sound.file.to_lowercase().ends_with(".mid");
        Some(json!({
            "name": sound.name,
            "read": read,
            "place": field(format!("place_{n}"))?,
            "plays": field(format!("plays_{n}")),
            "length": sound.hearing.length().0,
            "loops": sound.loops,
            "rate": f64::from(STEPS) / each as f64,
            "peaks": peaks.chunks(each).map(shown).collect::<Vec<u8>>(),
            "marks": marks,
            // A format that browsers do not play is shown without sound.
            "file": if midi { Value::Null } else { json!(format!("/sound/{n}")) },
        }))
    });
    Value::Array(all.collect())
}
