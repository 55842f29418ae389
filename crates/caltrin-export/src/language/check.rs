//! Mistakes in language files: what, where, what was expected, and the nearest right word.

use std::collections::BTreeMap;

use super::{Language, Operator, Pattern};
use crate::ir::{Operation, Type};

/// What cannot be read, with its line and the nearest known word.
pub(super) fn explain(error: &toml::de::Error, text: &str) -> String {
    let message = error.message().trim().to_owned();
    let line =
        error.span().map(|span| text[..span.start.min(text.len())].matches('\n').count() + 1);
    let place = line.map_or(String::new(), |line| format!("line {line}: "));
    let words: Vec<&str> = message.split('`').skip(1).step_by(2).collect();
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
    let operations: Vec<&str> = Operation::ALL.iter().map(|operation| operation.name()).collect();
    let mut mistakes = Mistakes::default();
    mistakes.keys("type", language.types.keys(), &types, &types);
    mistakes.keys("operator", language.operator.keys(), &operations, &[]);
    mistakes.keys("written", language.written.keys(), &operations, &[]);
    for operation in Operation::ALL {
        let name = operation.name();
        if !language.operator.contains_key(name) && !language.written.contains_key(name) {
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
        ("statement] case", &statement.case, &["number", "statement"], &["number", "statement"]),
        ("statement] case_last", &statement.case_last, &["number", "statement"], &["statement"]),
        ("statement] switch", &statement.switch[0], &["value"], &["value"]),
        ("statement] switch", &statement.switch[1], &[], &[]),
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
    mistakes.first
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
