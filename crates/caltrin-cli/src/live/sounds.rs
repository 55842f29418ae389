//! The sounds of a book, for the page: where each is, by the exported code, and what it looks like.

use caltrin::core::Checked;
use caltrin::core::program::{Program, Sound};
use caltrin::core::sound::{Marks, STEPS};
use caltrin::export::{Plan, js};
use serde_json::{Value, json};

/// The output that the page reads places from. No light of a book has such a name.
const PLACES: &str = "caltrin sounds";

/// Most samples of a waveform that go to the page.
const MOST: usize = 20_000;

/// Sounds that have a file, and their place in the book.
fn of_files(program: &Program) -> impl Iterator<Item = (usize, &Sound)> {
    program.sounds().iter().enumerate().filter(|(_, sound)| !sound.file.is_empty())
}

/// The book with an output of where its sounds are, if it has any.
pub fn with_places(checked: &Checked) -> Option<Checked> {
    let mut values = Vec::new();
    for (n, sound) in of_files(checked.program()).take(64) {
        values.push((format!("place_{n}"), sound.place));
        values.extend(sound.plays.map(|plays| (format!("plays_{n}"), plays)));
    }
    if values.is_empty() { None } else { checked.with_output(PLACES, &values) }
}

/// The sounds, with the names that the module has for where they are.
pub fn about(program: &Program, plan: &Plan) -> Value {
    let bindings = js::bindings(plan);
    let Some(places) = bindings.lights.last().filter(|light| light.light == PLACES) else {
        return json!([]);
    };
    let field = |name: String| {
        places.fields.iter().find(|(known, _)| *known == name).map(|(_, field)| field.clone())
    };
    let all = of_files(program).filter_map(|(n, sound)| {
        let peaks = sound.hearing.peaks();
        let top = peaks.iter().copied().fold(1e-9f32, f32::max);
        let each = peaks.len().div_ceil(MOST).max(4);
        let shown =
            |group: &[f32]| (group.iter().copied().fold(0.0, f32::max) / top * 255.0).round() as u8;
        let marks = [Marks::Onsets, Marks::Notes].map(|which| sound.hearing.marks(which));
        let marks: Vec<f64> =
            marks.iter().flat_map(|all| all.iter().map(|mark| mark.at)).take(MOST).collect();
        let midi = sound.file.to_lowercase().ends_with(".mid");
        Some(json!({
            "name": sound.name,
            "read": places.read,
            "place": field(format!("place_{n}"))?,
            "plays": field(format!("plays_{n}")),
            "length": sound.hearing.length().0,
            "loops": sound.loops,
            "rate": f64::from(STEPS) / each as f64,
            "peaks": peaks.chunks(each).map(shown).collect::<Vec<u8>>(),
            "marks": marks,
            // What no browser plays is seen and not heard.
            "file": if midi { Value::Null } else { json!(format!("/sound/{n}")) },
        }))
    });
    Value::Array(all.collect())
}
