//! Design checks over checked programs: one rule a file, each with a stable code.
//!
//! A check never changes what a book does; it says what a colleague would say who looks over the
//! designer's shoulder.

mod below_zero;
mod dark_color;
mod unison;
mod unused;

use caltrin_core::Checked;
use caltrin_core::program::Subject;

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
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Finding {
    /// The rule.
    pub rule: &'static Rule,
    /// Where.
    pub subject: Subject,
    /// What was found, in one sentence.
    pub message: String,
    /// What to write instead.
    pub help: String,
}

/// The rule for names that nothing uses. It looks at the text, not at the program, so whoever read
/// the text finds it.
pub const UNUSED: &Rule = &unused::RULE;

/// All rules in the order of their codes.
pub const RULES: [&Rule; 4] = [&unison::RULE, &dark_color::RULE, &below_zero::RULE, &unused::RULE];

/// The rule of that code.
pub fn rule(code: &str) -> Option<&'static Rule> {
    RULES.into_iter().find(|rule| rule.code.eq_ignore_ascii_case(code))
}

/// Everything that all rules find.
pub fn check(checked: &Checked) -> Vec<Finding> {
    let mut findings = unison::look(checked);
    findings.extend(dark_color::look(checked));
    findings.extend(below_zero::look(checked));
    findings
}
