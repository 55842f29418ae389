//! A period that people pick up.

use std::collections::HashSet;

use caltrin_core::Checked;
use caltrin_core::program::Turn;

use crate::walk::{Owned, only_jumps, short, turning};
use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C05",
    title: "period that is picked up",
    explanation: "What comes round in whole or half seconds, or in less than a second, is soon heard \
        as a beat and no longer seen as light. Odd lengths and unequal dips hide the turn; so do two \
        curves of different lengths multiplied. Rhythms, waves and curves that only jump are meant \
        to be counted and are not asked about.",
};

/// A shorter turn is a beat whatever its length.
const SHORT: f64 = 1.0;
/// A longer turn is not counted.
const LONG: f64 = 12.0;

pub(crate) fn look(checked: &Checked, all: &Owned) -> Vec<Finding> {
    let program = checked.program();
    let mut findings = Vec::new();
    for &(subject, ref own) in all {
        let mut told = HashSet::new();
        for found in own.iter().filter_map(|id| turning(program, *id)) {
            let once = found.to - found.from;
            let period = if found.turn == Turn::Alternate { 2.0 * once } else { once };
            let halves = period * 2.0;
            let round = (halves - halves.round()).abs() < 1e-6 && period <= LONG;
            let named = program.curve(found.curve);
            let name = &named.title;
            if !(round || period < SHORT)
                || only_jumps(program, found.curve)
                || !told.insert(name.clone())
            {
                continue;
            }
            let why = if period < SHORT { "so short a turn" } else { "so round a turn" };
            let message =
                format!("`{name}` comes round every {}s; {why} is picked up", short(period));
            let better = if period < SHORT { 3.7 } else { period + 0.3 };
            let help = format!("an odd length such as {}s hides it", short(better));
            findings.push(Finding::new(&RULE, checked, subject, message, help));
        }
    }
    findings
}
