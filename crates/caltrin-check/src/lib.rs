//! Design checks over checked programs: one rule a file, each with a stable code.
//!
//! A check never changes what a book does; it says what a colleague would say who looks over the
//! designer's shoulder.

mod ball;
mod below_zero;
mod clipped;
mod cut_short;
mod dark_color;
mod drift;
mod long_name;
mod never;
mod overtaken;
mod period;
mod rest;
mod seam;
mod slow_frames;
mod to_and_fro;
mod unheard;
mod unison;
mod unseen;
mod unused;
mod walk;

use caltrin_core::ValidatedProgram;
use caltrin_core::program::{LightId, Subject};
use caltrin_core::quantity::Seconds;

/// A rule.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Rule {
    /// Its stable code.
    pub code: &'static str,
    /// What it looks for, in a few words.
    pub title: &'static str,
    /// Why it matters and what to do, in a few sentences.
    pub explanation: &'static str,
}

/// Something that a rule found.
#[derive(Clone, Debug, PartialEq)]
pub struct Finding {
    /// The rule.
    pub rule: &'static Rule,
    /// Where.
    pub subject: Subject,
    /// What was found, in one sentence.
    pub message: String,
    /// What to write instead.
    pub help: String,
    /// The lights that it is seen on.
    pub lights: Vec<LightId>,
    /// When it is seen: once in each such time from the start of the run on, if it is seen at moments.
    pub every: Option<Seconds>,
}

impl Finding {
    fn new(
        rule: &'static Rule,
        checked: &ValidatedProgram,
        subject: Subject,
        message: String,
        help: impl Into<String>,
    ) -> Self {
        let lights = walk::lights_of(checked.program(), subject);
        Finding { rule, subject, message, help: help.into(), lights, every: None }
    }

    fn every(mut self, period: f64) -> Self {
        self.every = Some(Seconds(period));
        self
    }
}

/// The rule for names that nothing uses. It looks at the text, not at the program, so whoever read
/// the text finds it.
pub const UNUSED: &Rule = &unused::RULE;

/// All rules in the order of their codes.
pub const RULES: [&Rule; 18] = [
    &unison::RULE,
    &dark_color::RULE,
    &below_zero::RULE,
    &seam::RULE,
    &period::RULE,
    &rest::RULE,
    &unseen::RULE,
    &slow_frames::RULE,
    &ball::RULE,
    &unused::RULE,
    &unheard::RULE,
    &to_and_fro::RULE,
    &never::RULE,
    &cut_short::RULE,
    &clipped::RULE,
    &overtaken::RULE,
    &long_name::RULE,
    &drift::RULE,
];

/// The rule of that code.
pub fn rule(code: &str) -> Option<&'static Rule> {
    RULES.into_iter().find(|rule| rule.code.eq_ignore_ascii_case(code))
}

/// Everything that all rules find, [`UNUSED`] names apart.
pub fn check(checked: &ValidatedProgram) -> Vec<Finding> {
    let owned = walk::owned(checked.program());
    [
        unison::look(checked),
        dark_color::look(checked),
        below_zero::look(checked),
        seam::look(checked, &owned),
        period::look(checked, &owned),
        rest::look(checked, &owned),
        unseen::look(checked, &owned),
        slow_frames::look(checked, &owned),
        ball::look(checked),
        unused::look(checked),
        unheard::look(checked),
        to_and_fro::look(checked),
        never::look(checked),
        cut_short::look(checked),
        clipped::look(checked),
        overtaken::look(checked, &owned),
        long_name::look(checked),
        drift::look(checked),
    ]
    .into_iter()
    .flatten()
    .collect()
}
