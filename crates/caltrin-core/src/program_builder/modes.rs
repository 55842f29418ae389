//! Modes: named states with transitions between them, each with a crossfade.

use super::ProgramBuilder;
use super::condition::Condition;
use super::day::Alternatives;
use super::event::LONGEST;
use crate::curve::Easing;
use crate::interval::Interval;
use crate::kind::Kind;
use crate::program::{
    Constant, EventId, EventSource, ExprId, InputId, Leads, MOST_OPTIONS, NEVER, NamedState, Op,
    SignalId, Write,
};
use crate::quantity::Seconds;
use crate::semantic_error::SemanticError;

/// Maximum number of transitions of one set of modes.
pub const MOST_RULES: usize = 256;

/// A transition: source, target, trigger and crossfade.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rule {
    /// The source mode; `None` is any mode except the target.
    pub from: Option<usize>,
    /// The target mode.
    pub to: usize,
    /// The trigger.
    pub cause: Cause,
    /// Duration of the crossfade; 0 is immediate.
    pub over: Seconds,
    /// Easing of the crossfade.
    pub easing: Easing,
}

/// The trigger of a transition.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Cause {
    /// An event.
    At(EventId),
    /// A condition. The time that it must be true counts from the entry into the mode, if that is
    /// later.
    When(Condition),
    /// A time after the mode was entered.
    After(ExprId),
}

/// The values of modes.
#[derive(Clone, Debug, PartialEq)]
pub struct Modes {
    /// The weight of each mode and which is active, as alternatives.
    pub alternatives: Alternatives,
    /// The weights as signals.
    pub weights: Vec<SignalId>,
    /// The weights at the last transition; empty if all transitions are immediate.
    pub left: Vec<ExprId>,
}

/// The state of modes in a run.
struct Kept {
    at_hand: InputId,
    entered: InputId,
    from: Vec<InputId>,
    way: Option<InputId>,
}

impl ProgramBuilder {
    /// Defines modes; the first is active at the start.
    pub fn define_modes(
        &mut self,
        name: &str,
        modes: &[String],
        rules: &[Rule],
    ) -> Result<Modes, SemanticError> {
        if !(2..=MOST_OPTIONS).contains(&modes.len()) {
            return Err(SemanticError::Options(modes.len()));
        }
        if let Some(n) = (1..modes.len()).find(|n| modes[..*n].contains(&modes[*n])) {
            return Err(SemanticError::NameTaken(modes[n].clone()));
        }
        if rules.len() > MOST_RULES {
            return Err(SemanticError::TooManyRules(MOST_RULES));
        }
        for rule in rules {
            if rule.over.0 != 0.0 && !(1e-3..=LONGEST).contains(&rule.over.0) {
                return Err(SemanticError::NoPeriod {
                    what: "the time of a change",
                    lo: rule.over.0,
                });
            }
            if rule.from == Some(rule.to) {
                return Err(SemanticError::RuleToItself(modes[rule.to].clone()));
            }
        }
        self.note_clip(name, rules.iter().map(|rule| rule.easing));
        let last = Interval { lo: 0.0, hi: modes.len() as f64 - 1.0 };
        let (at_hand, at_hand_value) = self.keep(
            (format!("{name}.mode"), "the active mode, counted from 0"),
            Kind::Number,
            Constant::Scalar(0.0),
            last,
        );
        self.program.anchors.options.insert(at_hand, modes.to_vec());
        let (entered, entered_value) =
            self.keep_moment((format!("{name}.entered"), "s, when it was entered"));
        let mut kept = Kept { at_hand, entered, from: Vec::new(), way: None };
        let mut is = Vec::with_capacity(modes.len());
        for n in 0..modes.len() {
            let n = self.number(n as f64, Kind::Number)?;
            is.push(self.derived(Op::Equal(at_hand_value, n), Kind::OnOff)?);
        }
        let mut ways: Vec<(Seconds, Easing)> = Vec::new();
        for rule in rules {
            if !ways.contains(&(rule.over, rule.easing)) {
                ways.push((rule.over, rule.easing));
            }
        }
        let way = (ways.len() > 1).then(|| {
            let bounds = Interval { lo: 0.0, hi: ways.len() as f64 - 1.0 };
            self.keep(
                (format!("{name}.way"), "the index of its current crossfade"),
                Kind::Number,
                Constant::Scalar(0.0),
                bounds,
            )
        });
        kept.way = way.map(|(way, _)| way);
        self.count_ways(kept.way, &ways);
        let through = self.through(&ways, way.map(|(_, way)| way), entered_value)?;
        let (mut weights, mut signals) = (Vec::new(), Vec::new());
        let mut left = Vec::new();
        for (n, mode) in modes.iter().enumerate() {
            let unit = Interval { lo: 0.0, hi: 1.0 };
            let start = if n == 0 { 1.0 } else { 0.0 };
            let (one, none) = (self.number(1.0, Kind::Number)?, self.number(0.0, Kind::Number)?);
            let target = self.select(is[n], one, none)?;
            let weight = match through {
                None => target,
                Some((goes_on, u)) => {
                    let (from, from_value) = self.keep(
                        (format!("{name}.from_{mode}"), "its weight at that time"),
                        Kind::Number,
                        Constant::Scalar(start),
                        unit,
                    );
                    kept.from.push(from);
                    left.push(from_value);
                    let level = self.lerp(from_value, target, u, false)?;
                    // When the time is over it is the mode itself: moments are compared, not levels.
                    self.select(goes_on, level, target)?
                }
            };
            let (weight, signal) = self.share(&format!("{name}.{mode}"), weight)?;
            signals.extend(signal);
            weights.push(weight);
        }
        self.program.states.push(NamedState {
            name: name.to_owned(),
            options: modes.to_vec(),
            start: 0,
            size: self.home.size,
        });
        // A picture shows what there is once.
        if self.home.many().is_none() {
            let parts = modes.iter().cloned().zip(weights.iter().copied()).collect();
            let leads = rules.iter().filter_map(|rule| match rule.cause {
                Cause::When(Condition { is, lasts: None }) => {
                    Some(Leads { from: rule.from, to: rule.to, when: is })
                }
                _ => None,
            });
            let (name, leads) = (name.to_owned(), leads.collect());
            self.program.modes.push(crate::program::Modes { name, parts, leads });
        }
        let of = Alternatives { names: modes.to_vec(), weights, at_hand: is };
        self.obey(name, rules, &of, &kept, (&ways, entered_value))?;
        match self.modes_by_hour(modes.len(), rules) {
            Some(by_hour) => {
                let full = |on: bool| Constant::Scalar(f64::from(u8::from(on)));
                let states = (0..modes.len()).map(|mode| {
                    let nth = Constant::Scalar(mode as f64);
                    let mut sets =
                        vec![(kept.at_hand, nth), (kept.entered, Constant::Scalar(-NEVER))];
                    sets.extend(kept.from.iter().enumerate().map(|(n, id)| (*id, full(n == mode))));
                    sets
                });
                self.settle_by_hour(by_hour, states.collect())?;
            }
            None => self.program.by_game.push(name.to_owned()),
        }
        Ok(Modes { alternatives: of, weights: signals, left })
    }

    /// Whether a crossfade is active, and its progress; `None` if all transitions are immediate.
    fn through(
        &mut self,
        ways: &[(Seconds, Easing)],
        way: Option<ExprId>,
        entered: ExprId,
    ) -> Result<Option<(ExprId, ExprId)>, SemanticError> {
        let now = self.now();
        let mut made: Option<(ExprId, ExprId)> = None;
        for (n, (over, easing)) in ways.iter().enumerate().rev() {
            let (goes_on, u) = if over.0 == 0.0 {
                let off = self.constant(Constant::OnOff(false), Kind::OnOff);
                (off, self.number(1.0, Kind::Number)?)
            } else {
                let time = self.number(over.0, Kind::Time)?;
                let end = self.add(entered, time)?;
                let goes_on = self.above(end, now)?;
                let passed = self.subtract(now, entered)?;
                let u = self.divide(passed, time)?;
                (goes_on, self.eased(u, *easing)?)
            };
            made = Some(match (made, way) {
                (Some((other_goes, other_u)), Some(way)) => {
                    let nth = self.number(n as f64, Kind::Number)?;
                    let same = self.derived(Op::Equal(way, nth), Kind::OnOff)?;
                    (self.select(same, goes_on, other_goes)?, self.select(same, u, other_u)?)
                }
                _ => (goes_on, u),
            });
        }
        Ok(made.filter(|_| ways.iter().any(|(over, _)| over.0 > 0.0)))
    }

    /// Defines the transitions.
    fn obey(
        &mut self,
        name: &str,
        rules: &[Rule],
        of: &Alternatives,
        kept: &Kept,
        (ways, entered): (&[(Seconds, Easing)], ExprId),
    ) -> Result<(), SemanticError> {
        let none = self.number(0.0, Kind::Time)?;
        // The first mode is entered at the start.
        let since = self.max(entered, none)?;
        let now = self.now();
        for (n, rule) in rules.iter().enumerate() {
            let lies_there = match rule.from {
                Some(from) => of.at_hand[from],
                None => self.not(of.at_hand[rule.to])?,
            };
            let to = self.number(rule.to as f64, Kind::Number)?;
            let mut sets = vec![(kept.at_hand, to), (kept.entered, now)];
            for (from, weight) in kept.from.iter().zip(&of.weights) {
                sets.push((*from, *weight));
            }
            if let Some(way) = kept.way {
                let nth = ways.iter().position(|known| *known == (rule.over, rule.easing));
                sets.push((way, self.number(nth.unwrap_or(0) as f64, Kind::Number)?));
            }
            // Which of those from one mode to the other, whatever stands before them.
            let alike = |other: &&Rule| other.from == rule.from && other.to == rule.to;
            let nth = rules[..n].iter().filter(alike).count();
            let from = rule.from.map_or("any", |from| of.names[from].as_str());
            let saved = format!("{name} {from} to {} {nth}", of.names[rule.to]);
            self.program.anchors.renamed.insert(format!("{name}.rule{}", n + 1), saved);
            match rule.cause {
                Cause::At(event) => {
                    // Of several rules for one event the first that holds goes.
                    let mut when = lies_there;
                    for before in &rules[..n] {
                        if before.cause == rule.cause && before.from != rule.from {
                            let other = match before.from {
                                Some(from) => of.at_hand[from],
                                None => self.not(of.at_hand[before.to])?,
                            };
                            let other = self.not(other)?;
                            when = self.and(when, other)?;
                        }
                    }
                    if rules[..n].iter().any(|r| r.cause == rule.cause && r.from == rule.from) {
                        return Err(SemanticError::RuleNeverGoes);
                    }
                    self.write_at(event, Some(when), sets)?;
                }
                Cause::When(condition) => {
                    let own = format!("{name}.rule{}", n + 1);
                    let watched = self.watched(&own, condition)?;
                    let look = self.next_look(entered)?;
                    let due = self.due_when(watched, lies_there, look, Some(since))?;
                    self.within_book(
                        (&own, EventSource::Within),
                        due,
                        vec![Write::own(None, sets)],
                    )?;
                }
                Cause::After(time) => {
                    self.known_time(time, "the time after which a mode ends")?;
                    let end = self.add(since, time)?;
                    let due = self.due_where(lies_there, end)?;
                    let own = format!("{name}.rule{}", n + 1);
                    self.within_book(
                        (&own, EventSource::Within),
                        due,
                        vec![Write::own(None, sets)],
                    )?;
                }
            }
        }
        Ok(())
    }
}
