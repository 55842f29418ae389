//! What a light would be like after other edits: samples of it for each, to choose from. Nothing is changed.

use std::path::Path;

use caltrin::core::program::Field;
use caltrin::core::quantity::{Seconds, Seed};
use caltrin::core::run::State;
use caltrin::core::trace::LampTrace;
use caltrin::edit::TextHash;
use serde::Deserialize;
use serde_json::{Value, json};

use super::Live;
use super::ops::{Op, edit_of};
use super::workbench::Refused;

/// Most variants of one request, and how many moments each is sampled at.
const MOST: usize = 16;
const COLUMNS: usize = 240;

/// Variants that the page asks for.
#[derive(Debug, Deserialize)]
pub struct Variants {
    file: String,
    /// The hash of the text that they are for.
    hash: String,
    /// The light.
    of: String,
    /// The seed of the run, and the rehearsal that is played.
    seed: u32,
    rehearsal: Option<String>,
    /// The span that is sampled, in seconds of the run.
    from: f64,
    to: f64,
    variants: Vec<Vec<Op>>,
}

/// The samples of each variant, or why there are none.
///
/// # Errors
/// If the text is not the one that they are for.
pub fn sampled(live: &Live, asked: &Variants) -> Result<Value, Refused> {
    let path = live.path_of(&asked.file).ok_or(Refused::Unknown)?;
    let text = live.bench().text(&path).map(|text| text.to_string()).ok_or(Refused::Unknown)?;
    if asked.hash != TextHash::of(&text).to_string() {
        return Err(Refused::Stale);
    }
    let each = asked.variants.iter().take(MOST).map(|ops| {
        let made = edit_of(&text, ops).and_then(|edit| edit.apply(&text));
        let samples = match made {
            Ok(changed) => of_text(live, asked, (&path, &changed)),
            Err(why) => Err(why.to_string()),
        };
        samples.unwrap_or_else(|why| json!({ "why": why }))
    });
    Ok(json!({ "variants": each.collect::<Vec<_>>() }))
}

fn of_text(live: &Live, asked: &Variants, changed: (&Path, &str)) -> Result<Value, String> {
    let opened = live.read_with(Some(changed)).map_err(|why| why.to_string())?;
    let Some(checked) = &opened.checked else {
        let first = opened.diagnostics.first();
        return Err(first.map_or("it cannot be read".to_owned(), |told| told.message.clone()));
    };
    let program = checked.program();
    let id = program.light_named(&asked.of);
    let id = id.ok_or_else(|| format!("the book has no light `{}`", asked.of))?;
    let light = program.light(id);
    let rehearsal =
        program.rehearsals().iter().find(|one| asked.rehearsal.as_ref() == Some(&one.name));
    let state = State::start(program).with_seed(Seed(asked.seed));
    let span = (asked.to - asked.from).clamp(0.1, 3600.0);
    let from = asked.from.clamp(0.0, 1e6);
    let moment = |n: usize| Seconds(from + (n as f64 + 0.5) / COLUMNS as f64 * span);
    let moments: Vec<Seconds> = (0..COLUMNS).map(moment).collect();
    let trace = LampTrace::rehearsed(checked, (&state, rehearsal), id, 0, &moments);
    let place = |field: Field| light.places(field).map(|places| places.start);
    let (level, color) = (place(Field::Intensity), place(Field::Color));
    let values = (0..COLUMNS).map(|n| trace.at(n));
    let levels: Vec<f32> = values.clone().map(|now| level.map_or(1.0, |at| now[at])).collect();
    let colors: Vec<[f32; 3]> = values
        .map(|now| color.map_or([1.0; 3], |at| [now[at], now[at + 1], now[at + 2]]))
        .collect();
    Ok(json!({ "level": levels, "color": colors }))
}
