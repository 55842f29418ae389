//! What expressions are made of: one walk for everything that looks through a program.

use rustc_hash::FxHashSet;
use smallvec::{SmallVec, smallvec};

use super::{BehaviorId, ChoiceId, CurveId, Expr, ExprId, InputId, Op, Program, SignalId, TableId};

/// What an operation reads besides its operands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Reference {
    /// A signal's value.
    Signal(SignalId),
    /// A behavior's value.
    Behavior(BehaviorId),
    /// A curve.
    Curve(CurveId),
    /// A table of numbers.
    Table(TableId),
    /// The value of an input, or of what events keep.
    Input(InputId),
    /// Which option of a choice is selected, or its weight.
    Choice(ChoiceId),
}

/// How far a walk goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Depth {
    /// An expression and its operands; signals and behaviors are met, not entered.
    Own,
    /// Signals are entered too.
    Signals,
    /// Signals and behaviors are entered too.
    Whole,
    /// As [`Depth::Whole`], without what is evaluated at another moment.
    Present,
}

/// Walks from some expressions to all that they are made of; see [`Program::walk`].
#[derive(Debug)]
pub struct Walk<'a> {
    program: &'a Program,
    depth: Depth,
    open: Vec<ExprId>,
    seen: FxHashSet<ExprId>,
}

impl Program {
    /// Visits expressions and what they are made of, each once, the last operand first.
    pub fn walk(&self, roots: impl IntoIterator<Item = ExprId>, depth: Depth) -> Walk<'_> {
        let open = roots.into_iter().collect();
        Walk { program: self, depth, open, seen: FxHashSet::default() }
    }

    /// What some expressions and all that they are made of read; see [`Program::references`].
    pub fn reads(
        &self,
        roots: impl IntoIterator<Item = ExprId>,
        depth: Depth,
    ) -> impl Iterator<Item = Reference> {
        self.walk(roots, depth).flat_map(|(_, expr)| self.references(&expr.op))
    }

    /// What an operation reads besides its operands.
    pub fn references(&self, op: &Op) -> SmallVec<[Reference; 2]> {
        match op {
            Op::Signal(id) => smallvec![Reference::Signal(*id)],
            Op::Call(id, ..) => smallvec![Reference::Behavior(*id)],
            Op::Curve(id, _) => smallvec![Reference::Curve(*id)],
            Op::Table(id, _) | Op::Envelope(id, _) | Op::NextPlace(id, _) => {
                smallvec![Reference::Table(*id)]
            }
            Op::Burst(_, tables, _) => tables.iter().copied().map(Reference::Table).collect(),
            Op::Input(id) => smallvec![Reference::Input(*id)],
            Op::FreeSpark(n) => {
                let spark = &self.sparks()[*n as usize];
                smallvec![Reference::Input(spark.born), Reference::Input(spark.length)]
            }
            Op::IsChosen(id, _) | Op::Weight(id, _) => smallvec![Reference::Choice(*id)],
            Op::Constant(_)
            | Op::Now
            | Op::Clock(_)
            | Op::Index(_)
            | Op::Parameter(_)
            | Op::Negate(_)
            | Op::Add(..)
            | Op::Subtract(..)
            | Op::Multiply(..)
            | Op::Divide(..)
            | Op::Min(..)
            | Op::Max(..)
            | Op::Clamp(..)
            | Op::Lerp(..)
            | Op::Above(..)
            | Op::Equal(..)
            | Op::And(..)
            | Op::Or(..)
            | Op::Not(_)
            | Op::Select(..)
            | Op::Parts(..)
            | Op::SampleAndHold(..)
            | Op::SmoothHold(..)
            | Op::Drift(..)
            | Op::InBall(..)
            | Op::Phase(_)
            | Op::Looped(..)
            | Op::Wave(..)
            | Op::Square(..)
            | Op::Eased(..)
            | Op::Moment(..)
            | Op::ConeRoot(..)
            | Op::FromCones(..)
            | Op::Pure(..)
            | Op::Direction(_)
            | Op::ChangeUp(..)
            | Op::MaxComponent(_)
            | Op::NormalizedColor(_)
            | Op::Distance(..)
            | Op::NextHour(..) => SmallVec::new(),
        }
    }
}

impl Walk<'_> {
    /// Goes on from another expression; what was visited before is not visited again.
    pub fn enter(&mut self, root: ExprId) {
        self.open.push(root);
    }
}

impl<'a> Iterator for Walk<'a> {
    type Item = (ExprId, &'a Expr);

    fn next(&mut self) -> Option<(ExprId, &'a Expr)> {
        let id = loop {
            let id = self.open.pop()?;
            if self.seen.insert(id) {
                break id;
            }
        };
        let expr = self.program.expr(id);
        match (self.depth, &expr.op) {
            (Depth::Signals | Depth::Whole | Depth::Present, Op::Signal(signal)) => {
                self.open.push(self.program.signal(*signal).value);
            }
            (Depth::Whole | Depth::Present, Op::Call(behavior, arguments, _)) => {
                self.open.push(self.program.behavior(*behavior).value);
                self.open.extend(arguments);
            }
            (Depth::Present, Op::Moment(_, moment)) => self.open.push(*moment),
            (_, op) => self.open.extend(op.operands()),
        }
        Some((id, expr))
    }
}
