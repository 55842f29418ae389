//! Design checks of validated programs: one rule per file, each with a stable code.
//!
//! Checks report likely errors in a design; they never change the behavior of a book.

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
mod unseen_picture;
mod unused;
mod walk;

use caltrin_core::ValidatedProgram;
use caltrin_core::program::{LightId, Subject};
use caltrin_core::quantity::Seconds;

/// A rule.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Rule {
    /// The stable code.
    pub code: &'static str,
    /// What it detects, in a few words.
    pub title: &'static str,
    /// Why it matters and how to fix it, in a few sentences.
    pub explanation: &'static str,
}

/// A finding of a rule.
#[derive(Clone, Debug, PartialEq)]
pub struct Finding {
    /// The rule.
    pub rule: &'static Rule,
    /// The subject.
    pub subject: Subject,
    /// The message, one sentence.
    pub message: String,
    /// A suggestion of what to write instead.
    pub help: String,
    /// The lights on which it is visible.
    pub lights: Vec<LightId>,
    /// If it is visible at certain times, the period at which it repeats from the start of the run.
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

/// The rule for unused names. It applies to the source text, not to the program, so the front end
/// reports it.
pub const UNUSED: &Rule = &unused::RULE;

/// The rule for backdrops whose picture cannot be read. It applies to files, so whoever reads those reports it.
pub const UNSEEN_PICTURE: &Rule = &unseen_picture::RULE;

/// All rules in the order of their codes.
pub const RULES: [&Rule; 19] = [
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
    &unseen_picture::RULE,
];

/// The rule with this code.
pub fn rule(code: &str) -> Option<&'static Rule> {
    RULES.into_iter().find(|rule| rule.code.eq_ignore_ascii_case(code))
}

/// The findings of all rules on programs: all but [`UNUSED`] and [`UNSEEN_PICTURE`].
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
