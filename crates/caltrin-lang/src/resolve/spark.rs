//! Sparks: short-lived lights that an event spawns.

use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{Channel, Constant, EventId, ExprId, Size};
use caltrin_core::program_builder::Owner;
use caltrin_core::program_builder::spark::Sparking;
use rustc_hash::FxHashMap;

use super::{Item, Resolver, child_of, name_of, span, token_span, tokens};
use crate::diagnostic::Diagnostic;
use crate::literal;
use crate::syntax::{Node, SyntaxKind, Token};

/// A pool of sparks that is being resolved.
pub(super) struct Spark {
    making: Sparking,
    event: EventId,
    /// The event's parameters that each spark stores, by their names.
    kept: FxHashMap<String, ExprId>,
    share: Option<f64>,
    oldest: bool,
}

/// Whether a line is `lives` or `overflow`.
pub(super) fn is_own(line: &Node) -> bool {
    tokens(line).next().is_some_and(|word| matches!(word.text(), "lives" | "overflow" | "full"))
}

impl Resolver {
    /// Resolves `lives`, `overflow` and `share`, before the channels.
    pub(super) fn begin_spark(
        &mut self,
        node: &Node,
        body: &Node,
        path: &str,
        size: Option<Size>,
        owner: &mut Owner,
    ) -> Option<()> {
        let name = name_of(node)?;
        let size = match size? {
            Size::Many(n) => n,
            Size::One | Size::Open => {
                let message = "sparks need a pool of constant size";
                self.tell(
                    Diagnostic::error(token_span(&name), message)
                        .help(format!("write the size, as in `{}[6]`", name.text())),
                );
                return None;
            }
        };
        let event = child_of(node, SyntaxKind::Path)?;
        let event = self.event_of(&event)?;
        let says = |word: &str| {
            body.children().find(|line| {
                line.kind() == SyntaxKind::Property
                    && tokens(line).next().is_some_and(|token| token.text() == word)
            })
        };
        let Some(lives) = says("lives") else {
            let message = format!("`{}` has no lifetime", name.text());
            self.tell(
                Diagnostic::error(token_span(&name), message).help("write `lives 900ms..1.6s`"),
            );
            return None;
        };
        owner.property("lives");
        let range = child_of(&lives, SyntaxKind::Range)?;
        let ends = self.ends(&range, owner, true)?;
        for (time, place) in &ends {
            let fits = self.builder.expect(*time, ValueKind::Time);
            self.fits(fits, place)?;
        }
        let oldest = match says("overflow") {
            None => true,
            Some(line) => {
                let word = child_of(&line, SyntaxKind::Range).map(|range| range.text().to_string());
                match word.as_deref().map(str::trim) {
                    Some("oldest") => true,
                    Some("ignore") => false,
                    _ => {
                        let message = "expected `overflow oldest`, which ends the oldest spark when the pool is full, or `overflow ignore`, which makes none";
                        self.tell(Diagnostic::error(span(&line), message));
                        return None;
                    }
                }
            }
        };
        let share = self.share(node)?;
        let lives = ends.map(|(time, _)| time);
        let made = self.builder.begin_spark(path, size, event, lives);
        let making = self.fits(made, node)?;
        self.locals.insert("life".to_owned(), Item::Value(making.life));
        self.spark = Some(Spark { making, event, kept: FxHashMap::default(), share, oldest });
        Some(())
    }

    /// `share 1 in 3`; all by default.
    #[expect(clippy::option_option, reason = "none said, and a reported error, are two things")]
    fn share(&mut self, node: &Node) -> Option<Option<f64>> {
        let numbers: Vec<Token> = tokens(node).filter(|t| t.kind() == SyntaxKind::Number).collect();
        let [part, whole] = &numbers[..] else { return Some(None) };
        let value = |token: &Token| match literal::number(token.text()) {
            Ok((Constant::Scalar(v), ValueKind::Number)) if v > 0.0 => Some(v),
            _ => None,
        };
        match (value(part), value(whole)) {
            (Some(part), Some(whole)) if part <= whole => {
                Some(Some(part / whole).filter(|share| *share < 1.0))
            }
            _ => {
                let message = "expected a share such as `share 1 in 3`";
                self.tell(Diagnostic::error(token_span(part), message));
                None
            }
        }
    }

    /// The stored parameter of the event of the current spark; `None` for another event.
    #[expect(clippy::option_option, reason = "another's, and a reported error, are two things")]
    pub(super) fn captured(&mut self, event: EventId, value: &Token) -> Option<Option<ExprId>> {
        let spark = self.spark.as_mut().filter(|spark| spark.event == event)?;
        if let Some(known) = spark.kept.get(value.text()) {
            return Some(Some(*known));
        }
        let program = self.builder.program();
        let values = program.event(event).values.iter();
        let own = format!("{}.{}", program.event(event).name, value.text());
        // An unknown parameter is reported elsewhere.
        let input = *values.into_iter().find(|id| program.input(**id).name == own)?;
        let kept = self.builder.capture(&mut spark.making, input);
        if let Ok(kept) = kept {
            spark.kept.insert(value.text().to_owned(), kept);
        }
        let range = token_span(value);
        Some(match kept {
            Ok(kept) => Some(kept),
            Err(error) => {
                self.tell(Diagnostic::error(range, error.to_string()));
                None
            }
        })
    }

    /// Switches dead sparks off, and makes the event spawn them.
    pub(super) fn finish_spark(
        &mut self,
        spark: Spark,
        node: &Node,
        owner: &mut Owner,
        driven: &mut [(Channel, Vec<ExprId>)],
    ) -> Option<()> {
        let name = name_of(node)?;
        let Some((_, strength)) = driven.iter_mut().find(|(c, _)| c.name == "intensity") else {
            let message = format!("`{}` has no intensity", name.text());
            self.tell(
                Diagnostic::error(token_span(&name), message)
                    .help("add one, as in `intensity 4000cd * (1 - life)`"),
            );
            return None;
        };
        for value in strength {
            let none = self.builder.number(0.0, self.builder.kind(*value)).ok()?;
            let made = self.builder.select(spark.making.lives_now, *value, none);
            *value = self.fits(made, node)?;
        }
        owner.property("spark");
        let made = self.builder.finish_spark(owner, spark.making, (spark.share, spark.oldest));
        owner.property("");
        self.fits(made, node)
    }
}
