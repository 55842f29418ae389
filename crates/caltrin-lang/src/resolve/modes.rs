//! Conditions, and modes with their rules.

use std::rc::Rc;

use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{EventId, ExprId, Subject};
use caltrin_core::program_builder::Owner;
use caltrin_core::program_builder::condition::Condition;
use caltrin_core::program_builder::modes::{Cause, Rule};
use caltrin_core::semantic_error::SemanticError;

use super::day::Parts;
use super::{
    Item, Resolver, child_of, expressions, is_expression, name_of, span, token_span, tokens,
};
use crate::diagnostic::Diagnostic;
use crate::syntax::{Node, SyntaxKind, Token};

impl Resolver {
    /// `swell above 80% rearm below 60% for 2s`
    pub(super) fn condition(
        &mut self,
        node: &Node,
        owner: &mut Owner,
    ) -> Option<(Condition, Option<ExprId>)> {
        let values = expressions(node);
        let first = values.first()?;
        let rearm = child_of(node, SyntaxKind::Rearm);
        let (is, rearm) = match rearm {
            None => {
                let is = self.expression(first, owner)?;
                let fits = self.builder.expect(is, ValueKind::OnOff);
                self.fits(fits, first)?;
                (is, None)
            }
            Some(rearm) => {
                let verb = tokens(first).last().filter(|_| first.kind() == SyntaxKind::Compare);
                let verb = verb.map_or(String::new(), |token| token.text().to_owned());
                let wanted = match verb.as_str() {
                    "above" => "below",
                    "below" => "above",
                    _ => {
                        let message = "`rearm` follows a comparison with one bound";
                        self.tell(
                            Diagnostic::error(span(&rearm), message)
                                .help("as in `when swell above 80% rearm below 60%`"),
                        );
                        return None;
                    }
                };
                let word = tokens(&rearm).nth(1)?;
                if word.text() != wanted {
                    let message =
                        format!("expected `{wanted}` after `rearm`, found `{}`", word.text());
                    self.tell(
                        Diagnostic::error(token_span(&word), message)
                            .help(format!("write `rearm {wanted}`")),
                    );
                    return None;
                }
                let [(value, _), (bound, _)] = self.several(first, owner)?;
                let [(back, place)] = self.several(&rearm, owner)?;
                let is = match wanted {
                    "below" => self.builder.above(value, bound),
                    _ => self.builder.above(bound, value),
                };
                let is = self.fits(is, first)?;
                let rising = match wanted {
                    "below" => self.builder.rising(back, bound),
                    _ => self.builder.rising(bound, back),
                };
                if rising.is_err() {
                    let message = "the bound of `rearm` is on the wrong side";
                    self.tell(
                        Diagnostic::error(span(&place), message)
                            .help(format!("it must be {wanted} the first bound")),
                    );
                    return None;
                }
                let level = match wanted {
                    "below" => self.builder.above(back, value),
                    _ => self.builder.above(value, back),
                };
                (is, Some(self.fits(level, &place)?))
            }
        };
        let lasts = match values.get(1) {
            Some(time) => Some((self.expression(time, owner)?, time)),
            None => None,
        };
        if let Some((time, place)) = lasts {
            let fits = self.builder.expect(time, ValueKind::Time);
            self.fits(fits, place)?;
        }
        Some((Condition { is, lasts: lasts.map(|(time, _)| time) }, rearm))
    }

    /// `modes warning { calm, watch; calm -> watch when swell above 50% for 2s over 3s }`
    pub(super) fn modes(&mut self, node: &Node, owner: &mut Owner) -> Option<Item> {
        let name = name_of(node)?;
        let mut names: Vec<Token> = Vec::new();
        for list in node.children().filter(|child| child.kind() == SyntaxKind::ModeList) {
            for word in tokens(&list).filter(|token| token.kind() == SyntaxKind::Name) {
                let twice = names.iter().any(|known| known.text() == word.text());
                if twice || word.text() == "any" {
                    let message = match twice {
                        true => format!("duplicate mode `{}`", word.text()),
                        false => {
                            "`any` stands for all modes in rules; choose another name".to_owned()
                        }
                    };
                    self.tell(Diagnostic::error(token_span(&word), message));
                    return None;
                }
                names.push(word);
            }
        }
        if names.len() < 2 {
            let message = SemanticError::Options(names.len()).to_string();
            self.tell(
                Diagnostic::error(token_span(&name), message)
                    .help("list them in the first line, as in `calm, watch, alarm`"),
            );
            return None;
        }
        let title = owner.own(name.text());
        let (mut rules, mut whole) = (Vec::new(), true);
        for (n, line) in node.children().filter(|c| c.kind() == SyntaxKind::Rule).enumerate() {
            let within = if title == name.text() { "" } else { name.text() };
            owner.property(&format!("{within}rule{n}"));
            whole &= self.rule(&line, &names, &mut rules, owner).is_some();
        }
        if !whole {
            return None;
        }
        for (n, mode) in names.iter().enumerate() {
            let entered = n == 0 || rules.iter().any(|rule| rule.to == n);
            if !entered {
                let message = format!("no rule leads to `{}`", mode.text());
                self.tell(
                    Diagnostic::error(token_span(mode), message)
                        .help(format!("write one, as in `any -> {} at ...`", mode.text())),
                );
                return None;
            }
        }
        let modes: Vec<String> = names.iter().map(|mode| mode.text().to_owned()).collect();
        let made = self.builder.define_modes(&title, &modes, &rules);
        let modes = self.fits(made, node)?;
        for signal in &modes.weights {
            self.note(Subject::Signal(*signal), node);
        }
        let (of, left) = (modes.alternatives, modes.left);
        let values = of.names.iter().cloned().zip(of.weights.iter().copied()).collect();
        let alternatives = Some(of);
        let parts = Parts { what: "modes", title, left, values, alternatives, ..Parts::default() };
        Some(Item::Parts(Rc::new(parts)))
    }

    fn rule(
        &mut self,
        line: &Node,
        names: &[Token],
        rules: &mut Vec<Rule>,
        owner: &mut Owner,
    ) -> Option<()> {
        let mut words = tokens(line).filter(|token| token.kind() == SyntaxKind::Name);
        let (first, second, why) = (words.next()?, words.next()?, words.next()?);
        let mut mode = |word: &Token| {
            let found = names.iter().position(|known| known.text() == word.text());
            if found.is_none() {
                let message = format!("there is no mode `{}`", word.text());
                let told = Diagnostic::error(token_span(word), message);
                let near = self.nearest(word.text(), names.iter().map(Token::text));
                self.tell(match near {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None => {
                        let all: Vec<&str> = names.iter().map(Token::text).collect();
                        told.help(format!("there are {}", all.join(", ")))
                    }
                });
            }
            found
        };
        let from = if first.text() == "any" { None } else { Some(mode(&first)?) };
        let to = mode(&second)?;
        if from == Some(to) {
            let message = SemanticError::RuleToItself(second.text().to_owned()).to_string();
            self.tell(Diagnostic::error(span(line), message));
            return None;
        }
        let (over, easing) = self.fade(child_of(line, SyntaxKind::Over).as_ref())?;
        let mut push = |cause| rules.push(Rule { from, to, cause, over, easing });
        match why.text() {
            "at" => {
                for path in line.children().filter(|child| child.kind() == SyntaxKind::Path) {
                    push(Cause::At(self.event_of(&path)?));
                }
            }
            "when" => {
                let node = child_of(line, SyntaxKind::Condition)?;
                let (condition, rearm) = self.condition(&node, owner)?;
                if rearm.is_some() {
                    let message = "a rule of modes has no `rearm`; it fires once each time its mode is entered";
                    let place = child_of(&node, SyntaxKind::Rearm)?;
                    self.tell(Diagnostic::error(span(&place), message).help("remove `rearm`"));
                    return None;
                }
                push(Cause::When(condition));
            }
            _ => {
                let value = line.children().find(is_expression)?;
                let time = self.expression(&value, owner)?;
                let fits = self.builder.expect(time, ValueKind::Time);
                self.fits(fits, &value)?;
                push(Cause::After(time));
            }
        }
        let rule = *rules.last()?;
        let never = |before: &&Rule| before.cause == rule.cause && before.from == rule.from;
        if matches!(rule.cause, Cause::At(_)) && rules[..rules.len() - 1].iter().any(|r| never(&r))
        {
            self.tell(Diagnostic::error(span(line), SemanticError::RuleNeverGoes.to_string()));
            return None;
        }
        Some(())
    }

    /// The event of an entered mode: `warning.alarm`.
    pub(super) fn entered(&mut self, parts: &Parts, path: &Node) -> Option<EventId> {
        let mut words = tokens(path).filter(|token| token.kind() == SyntaxKind::Name);
        let name = words.next()?;
        let of = parts.alternatives.clone().filter(|_| parts.what == "modes");
        let (Some(mode), Some(of)) = (words.next(), of) else {
            let message = format!("`{}` is not an event", name.text());
            self.tell(
                Diagnostic::error(token_span(&name), message)
                    .help("entering a mode is an event, as in `at warning.alarm`"),
            );
            return None;
        };
        let Some(n) = of.names.iter().position(|known| known == mode.text()) else {
            self.no_such(&name, &of, &mode);
            return None;
        };
        let event = format!("{}.{}", parts.title, mode.text());
        if let Some(known) = self.program().event_named(&event) {
            return Some(known);
        }
        let condition = Condition { is: of.at_hand[n], lasts: None };
        let made = self.builder.define_when(&event, condition, None);
        self.fits(made, path)
    }
}
