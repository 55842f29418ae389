//! What things are, in words, for comments.

use caltrin_core::SourceNote;
use caltrin_core::program::{Domain, LightKind, Size};

use super::FileNames;
use crate::names::comment;
use crate::plan::{ChoicePlan, Function, InputPlan, LightPlan, Plan, Source};

/// What a choice is, in words.
pub fn describe_choice(choice: &ChoicePlan) -> String {
    let over = match choice.fades() {
        true => format!(", with a transition of {} s", crate::number::double(choice.over)),
        false => String::new(),
    };
    format!("Choice, set by the game: {}{over}", choice.options.join(", "))
}

/// What an input is, in words.
pub fn describe_input(input: &InputPlan) -> String {
    let many = match input.count {
        Some(n) => format!(" of {n}, index 0 to {}", n - 1),
        None => String::new(),
    };
    format!("Input{many}, set by the game: {}{}", input.about, input.range())
}

/// What the places of a curve are, in words.
fn places(domain: Domain) -> &'static str {
    match domain {
        Domain::Time => "seconds",
        Domain::Day => "hours of the day",
        Domain::Ramp(kind) => match kind.unit() {
            "" => "as a number",
            "s" => "seconds",
            "Hz" => "hertz",
            "deg" => "degrees",
            "m" => "meters",
            unit => unit,
        },
    }
}

/// What a function was in the book, in words.
pub fn describe(function: &Function) -> String {
    let unit =
        if function.unit.is_empty() { String::new() } else { format!(", {}", function.unit) };
    match function.source {
        Source::Curve(domain) => format!("Curve over x {}{unit}", places(domain)),
        Source::Signal => format!("Signal, shared by all that use it{unit}"),
        Source::Behavior => format!("Behavior, a copy for each use{unit}"),
    }
}

/// What a light or output is, in words.
pub fn describe_light(light: &LightPlan) -> String {
    let (what, kind) = match light.kind {
        LightKind::Output => ("An output", String::new()),
        kind => ("A lamp", format!(": {}", kind.name())),
    };
    match light.size {
        Size::One => format!("{what}{kind}"),
        Size::Many(n) => format!("{what} of {n}, index 0 to {}{kind}", n - 1),
        Size::Open => format!("{what} of any number, any index{kind}"),
    }
}

/// The book's line that something was, for a comment.
pub fn at_line(note: &Option<SourceNote>, plan: &Plan) -> String {
    match note {
        Some(note) => {
            let file = note.file.as_ref().unwrap_or(&plan.file);
            format!(" -- {}:{}: {}", comment(file), note.line, comment(&note.text))
        }
        None => String::new(),
    }
}

/// What a value that notices carry is, for the reader.
pub fn about_value(input: &InputPlan) -> String {
    let (what, none) = match (input.flag, input.suffixes, input.unit.as_str()) {
        (true, ..) => ("on or off", "off"),
        (_, ["r", ..], _) => ("linear RGB", "0"),
        (_, _, "") => ("a number", "0"),
        (_, _, unit) => (unit, "0"),
    };
    format!("{what}; {none} in notices without it")
}

/// The constants of tags, each with what it is and its value: first the tags, then those of each light.
pub fn tag_constants<'n>(
    plan: &'n Plan,
    names: &'n FileNames,
) -> impl Iterator<Item = (String, &'n str, u32)> {
    let [own, of_lights] = &names.tags;
    let tags = plan.tags.iter().zip(own).enumerate();
    let tags =
        tags.map(|(n, (tag, name))| (format!("Tag of lights: {tag}"), name.as_str(), 1 << n));
    let lights = plan.lights.iter().zip(of_lights);
    tags.chain(
        lights.map(|(light, name)| (format!("Tags of {}", light.name), name.as_str(), light.tags)),
    )
}
