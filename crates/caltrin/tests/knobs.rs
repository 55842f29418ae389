//! What feeds what is seen: each number of a book is changed, and only lights that it is a knob of
//! change.

use std::collections::{BTreeMap, BTreeSet};
use std::ops::Range;

use caltrin::Opened;
use caltrin::core::program::{EventSource, Subject};
use caltrin::core::quantity::{Hours, Seconds};
use caltrin::core::{Run, ValidatedProgram};
use caltrin::lang::syntax::{SyntaxKind, lex};

const PIER: &str = include_str!("../books/pier.caltrin");

fn opened(text: &str) -> Opened {
    caltrin::read(text, "pier.caltrin")
}

/// Bits of all numbers of each light, by its name.
fn played(checked: &ValidatedProgram) -> BTreeMap<String, Vec<u32>> {
    let program = checked.program();
    let mut all: BTreeMap<String, Vec<u32>> = BTreeMap::new();
    let mut run = Run::new(checked);
    let fired: Vec<_> = program.events().filter(|(_, e)| e.source == EventSource::Game).collect();
    for n in 0..40u32 {
        run.advance(Seconds(f64::from(n) * 0.77));
        if n % 4 == 2 {
            run.fire(fired[n as usize / 4 % fired.len()].0);
        }
        if n == 30 {
            run.set_clock(Hours(23.0));
        }
        for (id, light) in program.lights() {
            let mut lamps = vec![0.0; run.width(id) * light.size.shown().min(3) as usize];
            run.read(id, 0, &mut lamps);
            let bits = lamps.iter().map(|v| v.to_bits());
            all.entry(light.name.clone()).or_default().extend(bits);
        }
    }
    all
}

/// The bytes of knobs in the book itself, for each light.
fn by_light(opened: &Opened) -> BTreeMap<String, BTreeSet<(usize, usize)>> {
    let program = opened.checked.as_ref().expect("the book is valid").program();
    let each = program.lights().map(|(id, light)| {
        let knobs = opened.knobs_of(Subject::Light(id)).expect("the light has a name");
        let own = knobs.literals.iter().filter(|knob| knob.source == 0);
        (light.name.clone(), own.map(|knob| (knob.range.start, knob.range.end)).collect())
    });
    each.collect()
}

#[test]
fn a_number_that_changes_a_light_is_a_knob_of_it() {
    let first = opened(PIER);
    let before = played(first.checked.as_ref().expect("the pier is valid"));
    let knobs = by_light(&first);
    let (tokens, _) = lex(PIER);
    let numbers = tokens.iter().filter(|token| token.kind == SyntaxKind::Number);
    let numbers: Vec<Range<usize>> = numbers.map(|token| token.start..token.end).collect();
    let (mut changes, mut missing) = (0, Vec::new());
    for range in numbers.into_iter().step_by(2) {
        let text = &PIER[range.clone()];
        let digits = text.trim_end_matches(|c: char| c.is_alphabetic() || c == '%');
        let Ok(value) = digits.replace('_', "").parse::<f64>() else { continue };
        // A little more, in its own unit.
        let new = format!("{}{}", value * 1.0625, &text[digits.len()..]);
        let changed = format!("{}{new}{}", &PIER[..range.start], &PIER[range.end..]);
        let Some(checked) = opened(&changed).checked else { continue };
        let after = played(&checked);
        for (light, bits) in &before {
            if after.get(light).is_some_and(|now| now != bits) {
                changes += 1;
                let inside =
                    |(start, end): &(usize, usize)| *start <= range.start && range.end <= *end;
                if !knobs[light].iter().any(inside) {
                    let line = PIER[..range.start].matches('\n').count() + 1;
                    missing.push(format!("{light}: `{text}` in line {line}"));
                }
            }
        }
    }
    assert!(changes > 120, "{changes}");
    assert_eq!(missing, Vec::<String>::new());
}

#[test]
fn knobs_say_where_they_are_and_what_they_take() {
    let opened = opened(PIER);
    let program = opened.checked.as_ref().expect("the pier is valid").program();
    let (id, _) = program.lights().find(|(_, light)| light.name == "mast").expect("the masts");
    let knobs = opened.knobs_of(Subject::Light(id)).expect("the light has a name");
    let told = knobs.literals.iter().map(|knob| {
        let source = &opened.sources[knob.source];
        assert_eq!(source.text[knob.range.clone()], knob.text, "{knob:?}");
        let line = source.text[..knob.range.start].matches('\n').count() + 1;
        format!(
            "{}:{line} {} ({}) {} {:?} step {}\n",
            source.name,
            knob.path.join(" > "),
            knob.kind,
            knob.text,
            knob.bounds,
            knob.step
        )
    });
    let mut told: String = told.collect();
    for curve in &knobs.curves {
        told.push_str(&format!("curve {}: {} stops\n", curve.name, curve.stops.len()));
        for stop in &curve.stops {
            let text = &opened.sources[stop.source].text;
            told.push_str(&format!(
                "  {} {:?}\n",
                &text[stop.position.clone()],
                &text[stop.range.clone()]
            ));
        }
    }
    insta::assert_snapshot!(told);
}
