//! Easings in the plan, and the tables of those that are kept as polynomials.

use std::sync::Arc;

use caltrin_core::baked_easing::BakedEasing;
use caltrin_core::curve::Easing;
use caltrin_core::program::{Entries, Op, Program, Table};

use super::helper::Helper;
use super::reach::Reached;
use super::types::{Code, Infix, TablePlan};

/// The easings that what is exported uses, and that are kept as polynomials.
#[derive(Default)]
pub(super) struct Easings {
    /// The place of the first of their tables in [`super::Plan::tables`].
    first: usize,
    all: Vec<([f64; 4], Arc<BakedEasing>)>,
}

impl Easings {
    /// Those of what is reached; their tables come after others.
    pub fn of(program: &Program, used: &Reached) -> Easings {
        let mut found = Easings { first: used.tables.len(), all: Vec::new() };
        let mut curves: Vec<_> = used.curves.iter().copied().collect();
        curves.sort();
        for id in curves {
            for stop in &program.curve(id).curve.stops()[1..] {
                found.add(stop.easing);
            }
        }
        let mut exprs: Vec<_> = used.exprs.iter().map(|(id, _)| *id).collect();
        exprs.sort();
        for id in exprs {
            if let Op::Eased(easing, _) = program.expr(id).op {
                found.add(easing);
            }
        }
        found
    }

    fn add(&mut self, easing: Easing) {
        if let Easing::Bezier(controls) = easing
            && self.all.iter().all(|(known, _)| *known != controls)
            && let Some(baked) = easing.baked()
        {
            self.all.push((controls, baked));
        }
    }

    /// Their tables, named by CSS where it has a name for them.
    pub fn tables(&self) -> impl Iterator<Item = TablePlan> {
        self.all.iter().enumerate().map(|(n, (controls, baked))| {
            let css = Easing::CSS.iter().find(|(_, known)| *known == Easing::Bezier(*controls));
            let (name, written) = match css {
                Some((name, _)) => (name.replace('-', "_"), (*name).to_owned()),
                None => {
                    let [a, b, c, d] = controls;
                    (format!("bezier_{}", n + 1), format!("cubic-bezier({a}, {b}, {c}, {d})"))
                }
            };
            let name = format!("{name}_pieces");
            let about = format!(
                "`{}` as {} polynomials of the fifth degree, each over a part of 0..1, the highest power first; within 1e-7 of the exact curve.",
                written,
                baked.pieces()
            );
            TablePlan { table: Table { name, entries: Entries::Numbers(baked.table.clone()) }, about }
        })
    }

    /// A ratio 0..1 eased.
    pub fn eased(&self, easing: Easing, u: Code) -> Code {
        let eased = self.unclamped(easing, u);
        match easing {
            Easing::Bezier(_) if !easing.overshoots() => {
                Code::Helper(Helper::Clamp, vec![eased, Code::Number(0.0), Code::Number(1.0)])
            }
            _ => eased,
        }
    }

    /// The same, for what is clamped anyway: polynomials may leave 0..1 by a hair.
    pub fn unclamped(&self, easing: Easing, u: Code) -> Code {
        match easing {
            Easing::Linear => u,
            Easing::Jump => {
                let before = Code::infix(Infix::Below, u, Code::Number(1.0));
                let (zero, one) = (Box::new(Code::Number(0.0)), Box::new(Code::Number(1.0)));
                Code::Select(Box::new(before), zero, one)
            }
            Easing::Smooth => Code::Helper(Helper::EaseSmooth, vec![u]),
            Easing::Steps(steps, position) => {
                let [first, jumps] = position.jumps(steps);
                let numbers = [f64::from(steps), first, jumps].map(Code::Number);
                Code::Helper(Helper::EaseSteps, [u].into_iter().chain(numbers).collect())
            }
            Easing::Bezier(controls) => {
                match self.all.iter().position(|(known, _)| *known == controls) {
                    Some(n) => {
                        let baked = &self.all[n].1;
                        let u = match baked.spread {
                            true => Code::Helper(Helper::SpreadEnds, vec![u]),
                            false => u,
                        };
                        let pieces = Code::Word(baked.pieces() as u32);
                        let table = Code::Table(self.first + n);
                        Code::Helper(Helper::EaseBaked, vec![u, table, pieces])
                    }
                    None => {
                        let numbers = controls.map(Code::Number);
                        Code::Helper(Helper::EaseBezier, [u].into_iter().chain(numbers).collect())
                    }
                }
            }
        }
    }
}
