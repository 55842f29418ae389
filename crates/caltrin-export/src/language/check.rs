//! Mistakes in language files: what, where, what was expected, and the nearest right word.

use std::collections::BTreeMap;

use super::file::{FACTS, PARTS, SLOTS};
use super::{Language, Operator, Pattern};
use crate::ir::{Operation, Type};

/// What cannot be read, with its line and the nearest known word.
pub(super) fn explain(error: &toml::de::Error, text: &str) -> String {
    let message = error.message().trim().to_owned();
    let words: Vec<&str> = message.split('`').skip(1).step_by(2).collect();
    let line =
        error.span().map(|span| text[..span.start.min(text.len())].matches('\n').count() + 1);
    // A file that is laid over another one has no places; what it says itself has a line.
    let line = line.or_else(|| {
        let word = words.first()?;
        let own =
            |line: &str| line.trim_start().starts_with(word) || line.contains(&format!(".{word}"));
        Some(text.lines().position(own)? + 1)
    });
    let place = line.map_or(String::new(), |line| format!("line {line}: "));
    let near = match words.as_slice() {
        [word, known @ ..] if message.starts_with("unknown field") => nearest(word, known.iter()),
        _ => None,
    };
    let near = near.map_or(String::new(), |near| format!("; did you mean `{near}`?"));
    format!("{place}{message}{near}")
}

fn nearest<'a>(word: &str, known: impl Iterator<Item = &'a &'a str>) -> Option<String> {
    let distance = |other: &&&str| strsim::damerau_levenshtein(word, other);
    let found = known.min_by_key(distance)?;
    (strsim::damerau_levenshtein(word, found) * 2 <= word.len().max(2)).then(|| (*found).to_owned())
}

fn unknown(table: &str, word: &str, known: &[&str]) -> String {
    let near = nearest(word, known.iter());
    let near = near.map_or(String::new(), |near| format!("; did you mean `{near}`?"));
    format!("[{table}]: `{word}` is not known{near}")
}

/// The first mistake in what the tables say.
pub(super) fn first_mistake(language: &Language) -> Option<String> {
    let types: Vec<&str> = Type::ALL.iter().map(|ty| ty.name()).collect();
    // What only saves need, and what only tables of names do.
    let extras = language.extras(true);
    let asked = |name: &&str| {
        let of_saves = [Type::Bytes, Type::Buffer].map(Type::name).contains(name);
        let of_names = *name == Type::Singles.name();
        let of_shaders = *name == Type::Fixed.name();
        (extras.saves || !of_saves)
            && (extras.binds || !of_names)
            && (language.shader.is_some() || !of_shaders)
    };
    let needed: Vec<&str> = types.iter().copied().filter(asked).collect();
    let operations: Vec<&str> = Operation::ALL.iter().map(|operation| operation.name()).collect();
    let mut mistakes = Mistakes::default();
    mistakes.keys("type", language.types.keys(), &types, &needed);
    mistakes.keys("operator", language.operator.keys(), &operations, &[]);
    mistakes.keys("written", language.written.keys(), &operations, &[]);
    for operation in Operation::ALL {
        let name = operation.name();
        let wanted = match operation {
            Operation::FromBits => extras.saves,
            Operation::ToFixed | Operation::FixedWhole | Operation::FixedPart => {
                language.shader.is_some()
            }
            _ => true,
        };
        let known = language.operator.contains_key(name) || language.written.contains_key(name);
        if wanted && !known {
            mistakes.add(format!("[operator]: `{name}` is missing; so is [written.{name}]"));
        }
        if let Some(operator) = language.operator.get(name) {
            let slots = &["a", "b", "c"][..operation.operands().len()];
            mistakes.slots(&format!("operator] {name}"), pattern_of(operator), slots, slots);
        }
    }
    for (table, words) in
        [("word] dirty", &language.word.dirty), ("word] loose", &language.word.loose)]
    {
        mistakes.keys(table, words.iter(), &operations, &[]);
    }
    for set in &language.layout.clear {
        mistakes.keys("layout] clear", set.iter(), &operations, &[]);
    }
    if let Some(mask) = &language.word.mask {
        mistakes.slots("word] mask", pattern_of(mask), &["a"], &["a"]);
    } else if !language.word.dirty.is_empty() {
        mistakes.add("[word]: `mask` is missing, since `dirty` names operations".to_owned());
    }
    let statement = &language.statement;
    mistakes.keys("statement.assign_to", statement.assign_to.keys(), &operations, &[]);
    let named = &["type", "name", "value"];
    let lamp_part = &["lamp", "field", "part", "suffix", "value"][..];
    for (table, pattern, all, needed) in [
        ("names] before", &language.names.before, &["prefix"][..], &[][..]),
        ("literal] number", &language.literal.number, &["digits"], &["digits"]),
        ("literal] word", &language.literal.word, &["digits"], &["digits"]),
        ("literal] int", &language.literal.int, &["digits"], &["digits"]),
        (
            "expression] call",
            &language.expression.call,
            &["name", "arguments"],
            &["name", "arguments"],
        ),
        (
            "expression] method",
            &language.expression.method,
            &["name", "comma", "arguments"],
            &["name"],
        ),
        ("expression] table", &language.expression.table, &["name"], &["name"]),
        ("literal] single", &language.literal.single, &["digits", "wide"], &[]),
        ("run] field", &language.run.field, &["field"], &["field"]),
        ("run] part", &language.run.part, &["field", "part", "suffix"], &["field"]),
        ("run] entry", &language.run.entry, &["field", "index"], &["field", "index"]),
        (
            "run] entry_part",
            &language.run.entry_part,
            &["field", "index", "part", "suffix"],
            &["field", "index"],
        ),
        ("lamp] field", &language.lamp.field, &["lamp", "field", "value"], &["field", "value"]),
        ("lamp] part", &language.lamp.part, lamp_part, &["field", "value"]),
        ("statement] call", &statement.call, &["call"], &["call"]),
        ("expression] entry", &language.expression.entry, &["table", "index"], &["table", "index"]),
        ("parameter] value", &language.parameter.value, &["type", "name"], &["name"]),
        ("parameter] changed", &language.parameter.changed, &["type", "name"], &["name"]),
        ("parameter] table", &language.parameter.table, &["type", "name"], &["name"]),
        ("statement] let", &statement.keep, named, &["name", "value"]),
        ("statement] let_changed", &statement.let_changed, named, &["name", "value"]),
        ("statement] assign", &statement.assign, &["target", "value"], &["target", "value"]),
        ("statement] return", &statement.give, &["value"], &["value"]),
        ("statement] if", &statement.when, &["condition"], &["condition"]),
        ("statement] else_if", &statement.else_if, &["condition"], &["condition"]),
        ("statement] while", &statement.repeat, &["condition"], &["condition"]),
        ("statement] for", &statement.each, &["name", "from", "to"], &["name", "from", "to"]),
        (
            "declaration] function",
            &language.declaration.function,
            &["result", "name", "parameters"],
            &["name", "parameters"],
        ),
        ("declaration] constant", &language.declaration.constant, named, &["name", "value"]),
    ] {
        mistakes.slots(table, pattern, all, needed);
    }
    for (table, pattern, all) in [
        ("statement] let_literal", &statement.let_literal, &named[..]),
        ("statement] let_changed_literal", &statement.let_changed_literal, named),
        ("statement] return_last", &statement.return_last, &["value"]),
        ("statement] if_one", &statement.if_one, &["condition", "statement"]),
        ("expression] table_entry", &language.expression.table_entry, &["table", "index"]),
        ("expression] entry_plain", &language.expression.entry_plain, &["table", "index"]),
        ("literal] number_called", &language.literal.number_called, &["digits"]),
        ("literal] word_called", &language.literal.word_called, &["digits"]),
        ("comment] parameter", &language.comment.parameter, &["type", "name"]),
        ("comment] result", &language.comment.result, &["type"]),
    ] {
        if let Some(pattern) = pattern {
            mistakes.slots(table, pattern, all, &all[all.len() - 1..]);
        }
    }
    let entry = &["field", "index", "part", "suffix", "value"];
    for (table, pattern, all) in [
        ("run] set_entry", &language.run.set_entry, &entry[..]),
        ("run] set_entry_part", &language.run.set_entry_part, entry),
        ("lamp] parts", &language.lamp.parts, &["field", "values"]),
    ] {
        if let Some(pattern) = pattern {
            mistakes.slots(table, pattern, all, &all[all.len() - 1..]);
        }
    }
    if let Some(operator) = &language.expression.select_chain {
        let slots = &["a", "b", "c"];
        mistakes.slots("expression] select_chain", pattern_of(operator), slots, slots);
    }
    let facts = ["public", "reads", "changes", "gives"];
    mistakes.keys("declaration.when", language.declaration.when.keys(), &facts, &facts);
    for (name, pattern) in &statement.assign_to {
        let slots = &["target", "value"];
        mistakes.slots(&format!("statement.assign_to] {name}"), pattern, slots, slots);
    }
    if let Some([open, close]) = &statement.switch {
        let case = &["number", "statement"][..];
        mistakes.slots("statement] switch", open, &["value"], &["value"]);
        mistakes.slots("statement] switch", close, &[], &[]);
        mistakes.slots("statement] case", &statement.case, case, case);
        mistakes.slots("statement] case_last", &statement.case_last, case, &["statement"]);
        for pattern in statement.case_result.iter().flatten() {
            mistakes.slots("statement] case_result", pattern, &["number", "value"], &["value"]);
        }
    }
    if let Some(operator) = &language.expression.select_flag {
        let slots = &["a", "b", "c"];
        mistakes.slots("expression] select_flag", pattern_of(operator), slots, slots);
    }
    check_file(language, &mut mistakes);
    mistakes.first
}

/// Mistakes in what is said about the file around the functions.
fn check_file(language: &Language, mistakes: &mut Mistakes) {
    let file = &language.file;
    let [needed, others] = PARTS;
    let own = file.own.keys().map(String::as_str);
    let parts: Vec<&str> = needed.iter().chain(others).copied().chain(own).collect();
    mistakes.keys("file.parts", file.parts.values().flatten(), &parts, needed);
    for (name, either) in &file.when {
        let facts = std::iter::once(&either.fact);
        mistakes.keys(&format!("file.when.{name}"), facts, &FACTS, &[]);
    }
    for name in std::iter::once(file.name.to_string())
        .chain(language.proof.iter().map(|proof| proof.file.clone()))
    {
        if name.contains(['/', '\\', ':']) || name.starts_with('.') {
            mistakes.add(format!("[file]: `{name}` must be a file name without a folder"));
        }
    }
    mistakes.slots("file] name", &file.name, &["base", "base_pascal", "book"], &[]);
    let mut slots: Vec<&str> = SLOTS.to_vec();
    slots.extend(file.slots.keys().chain(file.when.keys()).map(String::as_str));
    let with = |own: &[&'static str]| -> Vec<&str> {
        slots.iter().copied().chain(own.iter().copied()).collect()
    };
    let lists: Vec<&str> = file.parts.keys().map(String::as_str).collect();
    let in_file: Vec<&str> = slots.iter().chain(&lists).copied().collect();
    // Without the mark, a file would not be known as one that was exported.
    mistakes.slots("file] text", &file.text, &in_file, &["made"]);
    for list in &lists {
        let mut texts = file.own.values().chain(std::iter::once(&file.text));
        if !texts.any(|text| text.slots().any(|slot| slot == *list)) {
            mistakes.add(format!("[file.parts]: no text has the slot {{{list}}}"));
        }
    }
    for (name, text) in &file.own {
        mistakes.slots(&format!("file.own] {name}"), text, &in_file, &[]);
    }
    if let Some(split) = &file.split {
        mistakes.keys("file.split] parts", split.parts.iter(), &parts, &[]);
        mistakes.slots("file.split] name", &split.name, &["base", "base_pascal", "book"], &[]);
        let header = with(&["declarations", "prototypes"]);
        mistakes.slots("file.split] header", &split.header, &header, &["made", "prototypes"]);
        let source = with(&["definitions"]);
        mistakes.slots("file.split] source", &split.source, &source, &["made", "definitions"]);
        mistakes.slots("file.split] public", &split.public, &slots, &[]);
    }
    let of_light = with(&["about", "comment", "read", "fill", "lamp_type", "fresh"]);
    let body = |own: &[&'static str]| -> Vec<&str> {
        let body = ["shared", "each", "sets", "run_used", "index_used", "first", "loop"];
        of_light.iter().copied().chain(body).chain(own.iter().copied()).collect()
    };
    let (read, notice, start) = (&language.read, &language.notice, &language.start);
    let made = &["shared", "each", "sets"];
    mistakes.slots("read] one", &read.one, &body(&[]), made);
    mistakes.slots("read] fill", &read.fill, &body(&[]), made);
    mistakes.slots("read] of_many", &read.of_many, &body(&[]), &[]);
    let declared: Vec<&str> = of_light.iter().copied().chain(["fields"]).collect();
    mistakes.slots("read] type", &read.declared, &declared, &[]);
    let reading = with(&["read", "fill", "lamp_type", "fresh", "index", "first", "count"]);
    mistakes.slots("read] into", &read.into, &reading, &["read"]);
    let by_index: &[&str] = if language.extras(true).binds { &["read", "index"] } else { &[] };
    mistakes.slots("read] into_at", &read.into_at, &reading, by_index);
    mistakes.slots("read] into_of_many", &read.into_of_many, &reading, &["read", "index"]);
    for pattern in &read.into_many {
        mistakes.slots("read] into_many", pattern, &reading, &[]);
    }
    let got = &["lamp", "field", "part", "suffix"];
    for (table, get) in [("read] get", &read.get), ("notice] get", &notice.get)] {
        get.iter().for_each(|pattern| mistakes.slots(table, pattern, got, &["field"]));
    }
    mistakes.keys("read.when", read.when.keys(), &["run", "index", "empty", "first", "loop"], &[]);
    mistakes.slots("notice] type", &notice.declared, &with(&["fields"]), &[]);
    let taken = with(&["before", "sets", "fresh"]);
    mistakes.slots("notice] take", &notice.take, &taken, &["before", "sets"]);
    mistakes.slots("start] text", &start.text, &with(&["defaults"]), &["defaults"]);
    let first = &["field", "value", "values", "count", "part", "index", "suffix"];
    for (name, pattern) in [
        ("one", &start.one),
        ("parts", &start.parts),
        ("many", &start.many),
        ("many_parts", &start.many_parts),
        ("entries", &start.entries),
    ] {
        mistakes.slots(&format!("start] {name}"), pattern, first, &["field"]);
    }
    let table = with(&["name", "count", "entries"]);
    for (name, pattern) in [
        ("numbers", &language.table.numbers),
        ("words", &language.table.words),
        ("texts", &language.table.texts),
    ] {
        mistakes.slots(&format!("table] {name}"), pattern, &table, &["name", "entries"]);
    }
    let constant = &["name", "value"];
    mistakes.slots("public_constant] one", &language.public_constant.one, constant, constant);
    let field = &["type", "field", "fields", "count", "slots", "about", "public"];
    for (table, fields) in [("field", &language.field), ("record", &language.record)] {
        for (name, pattern) in [
            ("one", &fields.one),
            ("parts", &fields.parts),
            ("many", &fields.many),
            ("many_parts", &fields.many_parts),
        ] {
            mistakes.slots(&format!("{table}] {name}"), pattern, field, &[]);
        }
    }
    let statement = &language.statement;
    let list = &["list", "index", "value"];
    mistakes.slots("statement] let_list", &statement.let_list, &["name", "count"], &["name"]);
    mistakes.slots("statement] set_entry", &statement.set_entry, list, list);
    mistakes.slots("statement] restart", &statement.restart, &with(&["value"]), &["value"]);
    if let Some(proof) = &language.proof {
        let proved: Vec<&str> =
            in_file.iter().copied().chain(["functions", "imports", "count"]).collect();
        mistakes.slots("proof] text", &proof.text, &proved, &["functions"]);
        let words = proof.compile.iter().flatten().chain(&proof.run);
        words.for_each(|word| mistakes.slots("proof] run", word, &["folder", "file"], &[]));
    }
    if let Some(shader) = &language.shader {
        let named = with(&["light", "light_pascal"]);
        mistakes.slots("shader] frame_type", &shader.frame_type, &slots, &[]);
        mistakes.slots("shader] lamp_type", &shader.lamp_type, &named, &[]);
        mistakes.slots("shader] read_name", &shader.read_name, &named, &[]);
        mistakes.slots("shader] field", &shader.field, &["type", "field"], &["field"]);
        mistakes.slots("shader] comment", &shader.comment, &["about"], &["about"]);
        mistakes.slots("shader] frame", &shader.frame, &with(&["fields"]), &["fields"]);
        let lamp = with(&["comment", "lamp_type", "fields"]);
        mistakes.slots("shader] lamp", &shader.lamp, &lamp, &["fields"]);
        let read = with(&["comment", "lamp_type", "read", "parameters", "each", "sets"]);
        mistakes.slots("shader] read", &shader.read, &read, &["read", "each", "sets"]);
    }
    let operations: Vec<&str> = Operation::ALL.iter().map(|operation| operation.name()).collect();
    mistakes.keys("support", language.support.keys(), &operations, &[]);
}

fn pattern_of(operator: &Operator) -> &Pattern {
    match operator {
        Operator::Call(pattern) | Operator::Binds(pattern, _) | Operator::Takes(pattern, ..) => {
            pattern
        }
    }
}

#[derive(Default)]
struct Mistakes {
    first: Option<String>,
}

impl Mistakes {
    fn add(&mut self, what: String) {
        self.first.get_or_insert(what);
    }

    fn keys<'k>(
        &mut self,
        table: &str,
        keys: impl Iterator<Item = &'k String>,
        known: &[&str],
        needed: &[&str],
    ) {
        let keys: Vec<&str> = keys.map(String::as_str).collect();
        for key in &keys {
            if !known.contains(key) {
                self.add(unknown(table, key, known));
            }
        }
        for name in needed {
            if !keys.contains(name) {
                self.add(format!("[{table}]: `{name}` is missing"));
            }
        }
    }

    fn slots(&mut self, table: &str, pattern: &Pattern, known: &[&str], needed: &[&str]) {
        for slot in pattern.slots() {
            if !known.contains(&slot) {
                let all: BTreeMap<&str, ()> = known.iter().map(|name| (*name, ())).collect();
                let all: Vec<String> = all.keys().map(|name| format!("{{{name}}}")).collect();
                let wrong = unknown(table, slot, known);
                self.add(format!("{wrong}; its slots are {}", all.join(", ")));
            }
        }
        for name in needed {
            if !pattern.slots().any(|slot| slot == *name) {
                self.add(format!("[{table}: the slot {{{name}}} is missing from `{pattern}`"));
            }
        }
    }
}
