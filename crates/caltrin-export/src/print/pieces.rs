//! Pieces of a file that differ little between languages.

use caltrin_core::program::{Entries, Table};
use caltrin_core::sound::TICKS;

use super::{ChoiceNames, Syntax};
use crate::plan::{ChoicePlan, ClockPlan, InputPlan};

/// The code of a language that keeps a choice, with its names in it.
pub fn choice_code<S: Syntax>(
    syntax: &S,
    source: &str,
    (choice, names): (&ChoicePlan, &ChoiceNames),
    settle: &str,
) -> String {
    let (fading, plain) = source.split_once("//: plain\n").unwrap_or((source, source));
    let code = if choice.fades() { fading } else { plain };
    code.replace("SETTLE", settle)
        .replace("FIELD_SINCE", &names.since)
        .replace("FIELD_FROM", &names.from)
        .replace("FIELD", &names.field)
        .replace("SET", &names.set)
        .replace("WEIGHT", &names.weight)
        .replace("COUNT", &choice.options.len().to_string())
        .replace("OVER", &syntax.number(choice.over))
}

/// What the hour and the number of days are called in a light.
pub fn clock_names() -> [String; 2] {
    ["hour", "days"].map(str::to_owned)
}

/// The code of a language that keeps the clock, with its numbers in it.
pub fn clock_code<S: Syntax>(
    syntax: &S,
    source: &str,
    clock: &ClockPlan,
    set: Option<&str>,
) -> String {
    let (always, strikes) = source.split_once("//: strikes\n").unwrap_or((source, ""));
    let mut code = String::new();
    for line in always.lines() {
        // What only events at an hour, or what follows from a clock that is driven, need.
        let from = ["clock_from", "clockFrom", "ClockFrom"].iter().any(|name| line.contains(name));
        let settles = line.to_lowercase().contains("settle");
        let asks =
            ["run->due", "run.due", "self.due", "this.due"].iter().any(|name| line.contains(name));
        let sets = set.is_some() || !line.contains("BY_HOUR");
        if sets
            && (clock.strikes || !from)
            && (clock.follows || !settles)
            && (clock.happens || !asks)
        {
            code.push_str(line);
            code.push('\n');
        }
    }
    if clock.strikes {
        code.push_str(strikes);
    }
    code.replace("BY_HOUR", set.unwrap_or_default())
        .replace("PACE", &syntax.number(clock.pace))
        .replace("START", &syntax.number(clock.start))
        .replace("RATE", &syntax.number(clock.rate))
}

/// What the values of a setter are called.
pub fn setter_values(input: &InputPlan) -> &'static [&'static str] {
    match (input.flag, input.suffixes) {
        (true, _) => &["on"],
        (false, []) => &["to"],
        (false, parts) => parts,
    }
}

/// The entries of a table, eight a line, each line indented.
pub fn table_lines<S: Syntax>(syntax: &S, table: &Table, indent: &str) -> String {
    let all: Vec<String> = match &table.entries {
        Entries::Numbers(all) => all.iter().map(|v| syntax.number(*v)).collect(),
        // A place and a level each: six digits and two.
        Entries::Words(all) => all.iter().map(|word| format!("{word:#x}")).collect(),
    };
    let lines = all.chunks(8).map(|line| format!("{indent}{}", line.join(", ")));
    lines.collect::<Vec<_>>().join(",\n")
}

/// What a table is, where that does not speak for itself.
pub fn about_table(table: &Table) -> Option<String> {
    let Entries::Words(words) = &table.entries else { return None };
    Some(format!(
        "Envelope of a sound: {} entries, each a position in 1/{TICKS} s (upper 24 bits) and a level in 1/255 of full scale (lower 8 bits). {} bytes.",
        words.len(),
        table.bytes()
    ))
}
