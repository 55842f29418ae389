//! What the page must know of a book beside its exported code.

use caltrin::check::Finding;
use caltrin::core::ValidatedProgram;
use caltrin::core::kind::{Kind, Photometry};
use caltrin::core::program::{
    CHANNELS, Constant, Deed, Eye, Field, Form, Given, InputId, LaneValue, LightId, LightKind,
    OutputValue, Program, Size,
};
use caltrin::export::{Plan, bindings};
use serde_json::{Value, json};
use std::path::Path;

/// Lights, inputs and what is solid, with the names that the exported module has for them.
pub fn about(checked: &ValidatedProgram, findings: &[Finding], plan: &Plan) -> Value {
    let program = checked.program();
    let bindings = bindings::bindings(plan);
    let lights: Vec<Value> = program
        .lights()
        .zip(&bindings.lights)
        .map(|((id, light), names)| {
            let strength = light.drives.iter().find(|drive| drive.field == Field::Intensity);
            let strength = match strength.map(|drive| drive.kind) {
                Some(Kind::Strength(Photometry::Lumen)) => "lm",
                Some(Kind::Strength(unit)) => unit.symbol(),
                _ => "",
            };
            let values: Vec<Value> = light
                .lane_values()
                .into_iter()
                .map(|value| lane_value(checked, id, value, light.kind == LightKind::Output))
                .collect();
            let moving: Vec<Value> = CHANNELS
                .iter()
                .filter(|channel| !matches!(channel.name, "intensity" | "color"))
                .flat_map(|channel| light.channel_values(channel))
                .map(|value| lane_value(checked, id, value, true))
                .collect();
            let mut codes: Vec<&str> = findings
                .iter()
                .filter(|finding| finding.lights.contains(&id))
                .map(|finding| finding.rule.code)
                .collect();
            codes.sort_unstable();
            codes.dedup();
            json!({
                "name": light.name,
                "kind": light.kind.name(),
                // A page shows so many lamps of an array; the rest is in the game.
                "lamps": light.size.shown().min(256),
                // What an array is called, as on the sheet.
                "size": match light.size {
                    Size::One => String::new(),
                    Size::Many(n) => format!("[{n}]"),
                    Size::Open => "[]".to_owned(),
                },
                "array": light.size != Size::One,
                "spark": program.sparks().iter().any(|spark| spark.name == light.name),
                "read": names.read,
                "fill": names.fill,
                "fields": names.fields.iter().cloned().collect::<std::collections::BTreeMap<_, _>>(),
                "strength": strength,
                "values": values,
                "channels": moving,
                "findings": codes,
            })
        })
        .collect();
    let inputs: Vec<Value> = plan
        .given()
        .zip(&bindings.inputs)
        .map(|((_, planned), names)| {
            let input = program.input(planned.id);
            let default = match input.default {
                Constant::Scalar(v) => json!([v]),
                Constant::Vector(v) => json!(v),
                Constant::OnOff(on) => json!([on]),
            };
            json!({
                "name": input.name,
                "set": names.set,
                "many": planned.count.is_some(),
                "count": input.count(),
                "kind": input.kind.to_string(),
                "parts": input.kind.width(),
                "default": default,
                "lo": input.bounds.lo,
                "hi": input.bounds.hi,
                "unit": program.space().symbol(input.kind),
                "about": planned.note.as_ref().map_or("", |note| &note.text),
            })
        })
        .collect();
    let mut notices = serde_json::Map::new();
    for notice in program.notices() {
        let fields = program.notice_values().iter().zip(&bindings.notice_values);
        let own = fields.filter(|(value, _)| notice.values.contains(&value.name));
        let own = own.map(|(value, field)| json!({ "name": value.name, "field": field }));
        let of_name = notices.entry(notice.name.clone()).or_insert_with(|| json!([]));
        if let Value::Array(known) = of_name {
            for value in own {
                if !known.contains(&value) {
                    known.push(value);
                }
            }
        }
    }
    let choices: Vec<Value> = plan
        .choices
        .iter()
        .zip(&bindings.choices)
        .map(|(choice, (name, set))| {
            let about = choice.note.as_ref().map_or("", |note| &note.text);
            json!({ "name": name, "set": set, "options": choice.options, "about": about })
        })
        .collect();
    let events: Vec<Value> = plan
        .fired()
        .zip(&bindings.events)
        .map(|((_, event), fire)| {
            let about = event.note.as_ref().map_or("", |note| &note.text);
            // The page fires it with its defaults.
            let default = event.values.iter().map(|place| &plan.inputs[*place]);
            let default = default.flat_map(|input| {
                input.default.iter().map(|v| match input.flag {
                    true => Value::Bool(*v != 0.0),
                    false => json!(*v),
                })
            });
            let values: Vec<Value> = default.collect();
            let fields = event.values.iter().map(|place| plan.inputs[*place].id);
            let fields: Vec<Value> = fields.map(|id| given(program, id)).collect();
            json!({
                "fields": fields,
                "name": event.name,
                "fire": fire,
                "count": event.count,
                "values": values,
                "about": about,
            })
        })
        .collect();
    // A clock that nothing follows is not exported.
    let clock = plan.clock.map(|clock| json!({ "start": clock.start, "rate": clock.rate }));
    let (mut walls, mut posts) = (Vec::new(), Vec::new());
    for solid in program.solids() {
        let name = &solid.name;
        match solid.form {
            Form::Wall { from, to, height } => {
                let top = from[1].max(to[1]) + height;
                walls.push(json!({ "name": name, "from": from, "to": to, "top": top }));
            }
            Form::Post { at, radius, height } => {
                let index = posts.iter().filter(|post: &&Value| post["name"] == **name).count();
                let top = at[1] + height;
                posts.push(json!({
                    "name": name, "index": index, "at": at, "radius": radius, "top": top
                }));
            }
        }
    }
    let names: Vec<&bindings::LightBinding> = bindings.lights.iter().collect();
    let eyes: Vec<Value> = program.eyes().iter().map(|eye| eye_of(program, eye, &names)).collect();
    let space = program.space();
    json!({
        "eyes": eyes,
        "name": program.name(),
        "seed": program.seed().0,
        "space": {
            "up": space.up.name(),
            "unit": space.unit,
            "factor": space.factor,
        },
        "lights": lights,
        "inputs": inputs,
        "choices": choices,
        "events": events,
        "notices": notices,
        "rehearsals": rehearsals(program),
        "follows": plan.follows(),
        "clock": clock,
        "solids": { "walls": walls, "posts": posts },
    })
}

/// An eye, with where the exported module has what it sees.
fn eye_of(program: &Program, eye: &Eye, names: &[&bindings::LightBinding]) -> Value {
    let value = |value: OutputValue| {
        let light = program.light(value.output);
        let n = program.lights().position(|(id, _)| id == value.output);
        let names = n.and_then(|n| names.get(n));
        let drive = light.drives.iter().find(|drive| drive.field == value.field);
        let own = light.field_name(value.field);
        let field = names.and_then(|names| names.fields.iter().find(|(known, _)| known == own));
        json!({
            "read": names.map(|names| names.read.as_str()),
            "field": field.map(|(_, field)| field.as_str()),
            "length": drive.is_some_and(|drive| drive.kind == Kind::Length),
        })
    };
    json!({
        "name": eye.name,
        "at": eye.at,
        "toward": eye.toward,
        "field": eye.field,
        "fog": eye.fog.map(|fog| json!({ "range": value(fog.range), "color": fog.color.map(value) })),
        "sky": eye.sky.map(value),
    })
}

/// The backdrops, with a number that changes with their files.
pub fn backdrops(program: &Program, folder: &Path) -> Value {
    let each = program.backdrops().iter().map(|backdrop| {
        let [corner, across, down] = backdrop.edges();
        let changed =
            std::fs::metadata(folder.join(&backdrop.file)).and_then(|data| data.modified()).ok();
        let since = changed.and_then(|at| at.duration_since(std::time::UNIX_EPOCH).ok());
        json!({
            "picture": backdrop.file,
            "corner": corner,
            "across": across,
            "down": down,
            "lies": backdrop.lies(),
            "from": backdrop.from,
            "to": backdrop.to,
            "stamp": since.map_or(0, |since| since.as_millis() as u64),
        })
    });
    Value::Array(each.collect())
}

/// How many values of a curve are drawn.
const SHAPE: usize = 181;

/// The values of each curve of numbers at even distances between its first and last stop, by its name.
pub fn shapes(program: &Program) -> Value {
    let named = program.curves().filter(|curve| curve.kind.is_scalar() && !curve.led);
    let each = named.map(|named| {
        let stops = named.curve.stops();
        let (first, last) = (stops[0].at.0, stops[stops.len() - 1].at.0);
        let at = |n: usize| first + (last - first) * n as f64 / (SHAPE - 1) as f64;
        let values: Vec<f64> = (0..SHAPE).map(|n| named.curve.at(at(n))).collect();
        (named.title.clone(), json!(values))
    });
    Value::Object(each.collect())
}

/// A parameter of an event, for a control of the page.
fn given(program: &Program, id: InputId) -> Value {
    let input = program.input(id);
    let default = match input.default {
        Constant::Scalar(v) => json!([v]),
        Constant::Vector(v) => json!(v),
        Constant::OnOff(on) => json!([on]),
    };
    json!({
        "name": input.name.rsplit('.').next().unwrap_or_default(),
        "kind": input.kind.to_string(),
        "parts": input.kind.width(),
        "default": default,
        "lo": input.bounds.lo,
        "hi": input.bounds.hi,
        "unit": program.space().symbol(input.kind),
    })
}

/// One value of a light that has a lane.
fn lane_value(checked: &ValidatedProgram, id: LightId, value: LaneValue, named: bool) -> Value {
    let program = checked.program();
    let light = program.light(id);
    let bounds = value.level.and_then(|(field, part)| Some(checked.bounds(id, field)?.part(part)));
    let unit = match value.level.map(|(field, _)| (field.facts().given, light.drive(field))) {
        Some((Given::Unit, Some(driven))) => program.space().symbol(program.expr(driven).kind),
        Some((Given::Plain, _)) => "-".into(),
        Some((Given::Unit, None)) | None => "".into(),
    };
    let part = value.level.and_then(|(field, part)| {
        let wide = light.places(field).is_some_and(|places| places.len() > 1);
        wide.then_some(part)
    });
    json!({
        "name": if named { light.value_name(value) } else { String::new() },
        "level": value.level.map(|(field, _)| light.field_name(field)),
        "part": part,
        "hue": value.hue.map(|field| light.field_name(field)),
        "bounds": bounds.map(|b| [b.lo, b.hi]),
        "unit": unit,
    })
}

/// What the book rehearses, deed by deed, as the page does it.
fn rehearsals(program: &Program) -> Vec<Value> {
    let numbers = |value: Constant| match value {
        Constant::Scalar(v) => vec![json!(v)],
        Constant::Vector(v) => v.iter().map(|v| json!(v)).collect(),
        Constant::OnOff(on) => vec![json!(on)],
    };
    let deed = |at: f64, deed: &Deed| match deed {
        Deed::Fire(id, which, values) => {
            let event = program.event(*id);
            let mut given = Vec::new();
            for (n, value) in event.values.iter().enumerate() {
                let default = program.input(*value).default;
                given.extend(numbers(values.get(n).copied().flatten().unwrap_or(default)));
            }
            let indices: Vec<u32> = which.indices().collect();
            json!({ "at": at, "name": event.name, "given": given, "indices": indices })
        }
        Deed::Set(id, which, value) => {
            let indices: Vec<u32> = which.indices().collect();
            let name = &program.input(*id).name;
            json!({ "at": at, "name": name, "values": numbers(*value), "indices": indices })
        }
        Deed::Choose(id, option) => {
            let choice = program.choice(*id);
            json!({ "at": at, "choice": choice.name, "option": choice.options[*option as usize] })
        }
        Deed::Clock(hour) => json!({ "at": at, "hour": hour.0 }),
        Deed::DriveClock(hour) => json!({ "at": at, "drive": hour.0 }),
        Deed::ClockRate(rate) => json!({ "at": at, "rate": rate }),
    };
    let each = program.rehearsals().iter().map(|rehearsal| {
        let start = rehearsal.clock.map(|hour| json!({ "at": 0, "hour": hour.0 }));
        let deeds = rehearsal.deeds.iter().map(|(at, what)| deed(at.0, what));
        let deeds: Vec<Value> = start.into_iter().chain(deeds).collect();
        json!({ "name": rehearsal.name, "deeds": deeds, "end": rehearsal.end.0 })
    });
    each.collect()
}
