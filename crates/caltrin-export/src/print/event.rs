//! What events do.

use super::{FileNames, Syntax};
use crate::plan::{EventPlan, InputPlan, NoticePlan, Plan};

/// What `advance` gives where something happens by itself, in words.
pub const ALL_DONE: &str = " Returns false if events are left for the next call.";

/// What a run keeps of what happens by itself, in words.
pub const DUE: &str = "s, the earliest moment at which something can occur by itself; recomputed after each action of the game";

/// What `settle` does, in words.
pub const SETTLES: &str =
    "Processes events that are due at this moment, after an action of the game and at moment 0.";

/// What an event is, in words, with the units of what the game gives it.
pub fn describe_event(plan: &Plan, event: &EventPlan) -> String {
    if event.by_clock {
        return "State that depends on the hour alone, after the clock was set".to_owned();
    }
    if event.due.is_some() {
        return "Event, occurs by itself".to_owned();
    }
    let each = event.values.iter().map(|place| {
        let input = &plan.inputs[*place];
        let name = input.name.rsplit('.').next().unwrap_or_default();
        let bounds = match input.suffixes {
            [] if !input.flag => format!(", {}..{}", input.bounds.lo, input.bounds.hi),
            _ => String::new(),
        };
        format!("{name} ({}{bounds})", input.unit)
    });
    match event.values.len() {
        0 => "Event, fired by the game".to_owned(),
        _ => format!("Event, fired by the game with {}", each.collect::<Vec<_>>().join(", ")),
    }
}

/// The numbers that the game gives an event, in their order: the input's place and part among
/// [`crate::plan::Plan::inputs`], and what the argument is called in the book.
pub fn given(plan: &Plan, event: &EventPlan) -> Vec<(usize, usize, String)> {
    let each = event.values.iter().flat_map(|place| {
        let input = &plan.inputs[*place];
        let own = input.name.rsplit('.').next().unwrap_or_default();
        (0..input.default.len()).map(move |part| {
            let suffix = input.suffixes.get(part).map_or(String::new(), |s| format!("_{s}"));
            (*place, part, format!("{own}{suffix}"))
        })
    });
    each.collect()
}

/// The lines of the languages that say which text a notice comes with.
const TEXT_LINES: [&str; 5] = [
    "const uint32_t text = which % 64u;",
    "(void)text;",
    "let text = (which % 64) as usize;",
    "let _ = text;",
    "uint text = which % 64u;",
];

/// How a language spells the values that notices carry.
pub trait NoticeSyntax: Syntax {
    /// `, double value_loud`: a parameter of the function that sends a notice.
    fn notice_parameter(&self, input: &InputPlan, name: &str) -> String;
    /// The lines that declare the field of a notice.
    fn notice_field(&self, input: &InputPlan, field: &str) -> Vec<String>;
    /// The lines that fill the field. `kept` are the parts of the value that waits, as doubles or on or off.
    fn notice_taken(&self, input: &InputPlan, field: &str, kept: &[String]) -> Vec<String>;
    /// The parts of the field of `notice`, as doubles.
    fn notice_numbers(&self, input: &InputPlan, field: &str) -> Vec<String>;
}

/// `loud: to_single(...),`: a value in the literal of a notice. `single` converts a double.
pub fn notice_member(input: &InputPlan, field: &str, kept: &[String], single: &str) -> Vec<String> {
    let converted = kept.iter().map(|kept| match input.flag {
        true => kept.clone(),
        false => format!("{single}({kept})"),
    });
    let converted: Vec<String> = converted.collect();
    match &converted[..] {
        [one] => vec![format!("{field}: {one},")],
        parts => vec![format!("{field}: [{}],", parts.join(", "))],
    }
}

/// The parts of all values of `notice`, as doubles.
pub fn notice_numbers<S: NoticeSyntax>(syntax: &S, plan: &Plan, names: &FileNames) -> Vec<String> {
    let each = plan.notice_values.iter().zip(&names.notice_values);
    each.flat_map(|(place, (field, _))| syntax.notice_numbers(&plan.inputs[*place], field))
        .collect()
}

/// A line once for each of the replacements of a word in it.
fn each_line<'a>(line: &str, word: &str, all: impl IntoIterator<Item = &'a String>) -> String {
    all.into_iter().map(|text| format!("{}\n", line.replace(word, text))).collect()
}

/// What adds the values of `notice` to a sum, in the provers of all languages. `source` says where with a line that ends in `VALUES`.
pub fn summed_values<S: NoticeSyntax>(
    syntax: &S,
    plan: &Plan,
    names: &FileNames,
    source: &str,
) -> String {
    let all: Vec<String> = notice_numbers(syntax, plan, names);
    let lines = source.lines().map(|line| match line.contains("VALUE") {
        true => each_line(line, "VALUE", &all),
        false => format!("{line}\n"),
    });
    lines.collect()
}

/// The code of a language that keeps notices until the host takes them, with its names in it: what sends, and what
/// takes. `each` writes what is known of the `n`-th line that sends, `place` where the lamp of one is: told the line, the
/// light and its field. Lines of the source that end in `//: placed` or `//: nowhere` stand where any notice comes from
/// a place, or none does. `KEEP_VALUE`, `VALUE_FIELD` and `VALUE_TAKEN` stand for the lines of each value.
pub fn notice_code<S: NoticeSyntax>(
    syntax: &S,
    plan: &Plan,
    names: &FileNames,
    source: &str,
    each: impl Fn(usize, &NoticePlan) -> String,
    place: impl Fn(usize, usize, usize) -> String,
) -> Option<(String, String)> {
    let queue = plan.queue?;
    let mut code = String::new();
    for line in source.lines() {
        let placed = line.strip_suffix(" //: placed");
        let nowhere = line.strip_suffix(" //: nowhere");
        let kept = match queue.positions {
            Some(_) => placed.or_else(|| Some(line).filter(|_| nowhere.is_none())),
            None => nowhere.or_else(|| Some(line).filter(|_| placed.is_none())),
        };
        let Some(kept) = kept else { continue };
        // A line for each part of a position.
        for part in
            0..if kept.contains("PART") || kept.to_lowercase().contains("axis") { 3 } else { 1 }
        {
            let mut line = kept.replace("PART", &part.to_string());
            line =
                line.replace("AXIS", ["X", "Y", "Z"][part]).replace("axis", ["x", "y", "z"][part]);
            if let Some(place) = queue.positions {
                let names = &names.inputs[place];
                let own = syntax.input(names, Some("at"), Some(part));
                line = line.replace("KEPT", &own);
                if let Some((head, value)) = line.split_once("KEEP ") {
                    line = format!("{head}{}", syntax.put(names, Some("at"), Some(part), value));
                }
            }
            code.push_str(&line);
            code.push('\n');
        }
    }
    let (mut parameters, mut keeps) = (String::new(), Vec::new());
    let (mut fields, mut taken) = (Vec::new(), Vec::new());
    for (place, (field, given)) in plan.notice_values.iter().zip(&names.notice_values) {
        let (input, own) = (&plan.inputs[*place], &names.inputs[*place]);
        let mut kept = Vec::with_capacity(given.len());
        for (part, name) in given.iter().enumerate() {
            let part = Some(part).filter(|_| !input.suffixes.is_empty());
            parameters.push_str(&syntax.notice_parameter(input, name));
            keeps.push(syntax.put(own, Some("at"), part, name));
            kept.push(syntax.input(own, Some("at"), part));
        }
        fields.extend(syntax.notice_field(input, field));
        taken.extend(syntax.notice_taken(input, field, &kept));
    }
    let lines = code.lines().map(|line| {
        let each = [("KEEP_VALUE", &keeps), ("VALUE_FIELD", &fields), ("VALUE_TAKEN", &taken)];
        match each.iter().find(|(word, _)| line.contains(word)) {
            Some((word, all)) => each_line(line, word, *all),
            None => format!("{line}\n"),
        }
    });
    let mut source = lines.collect::<String>().replace("VALUE_PARAMETERS", &parameters);
    for (word, place) in [
        ("MOMENTS", queue.moments),
        ("PACKED", queue.packed),
        ("FIRST", queue.first),
        ("COUNT", queue.count),
        ("DROPPED", queue.dropped),
    ] {
        source = source.replace(word, &names.inputs[place].field);
    }
    let lines = plan.notices.iter().enumerate().map(|(n, notice)| each(n, notice));
    let places = plan.notices.iter().enumerate();
    let places =
        places.filter_map(|(n, notice)| notice.placed.map(|(light, at)| place(n, light, at)));
    // Which text is of no account where no notice has one.
    if plan.notices.iter().all(|notice| notice.texts.is_empty()) {
        let lines = source.lines().filter(|line| {
            let line = line.trim();
            !TEXT_LINES.contains(&line)
        });
        source = lines.map(|line| format!("{line}\n")).collect();
        source = source.replace("1048576.0), text = which % 64;", "1048576.0);");
    }
    let source = source.replace("PLACES\n", &places.collect::<String>());
    let (sends, takes) = source.split_once("//: take\n")?;
    Some((sends.to_owned(), takes.replace("LINES", &lines.collect::<String>())))
}

/// Texts as a list of strings; what they are made of needs no escape.
pub fn texts(notice: &NoticePlan) -> String {
    let each: Vec<String> = notice.texts.iter().map(|text| format!("\"{text}\"")).collect();
    each.join(", ")
}
