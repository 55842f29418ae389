//! What the lights use, part by part: only that is exported.

use std::collections::BTreeSet;

use caltrin_core::program::{
    BehaviorId, ChoiceId, CurveId, ExprId, InputId, Op, Program, Reference, Sends, SignalId,
    Subject, TableId,
};
use rustc_hash::{FxHashMap, FxHashSet};

/// What the lights use, part by part.
pub(super) struct Reached {
    pub exprs: FxHashSet<(ExprId, usize)>,
    /// Signals by the parts that are read of them. The value of another one may be reached too, as that of a signal
    /// which only names it.
    pub signals: FxHashSet<(SignalId, usize)>,
    pub curves: FxHashSet<CurveId>,
    pub tables: BTreeSet<TableId>,
    pub inputs: BTreeSet<InputId>,
    pub choices: BTreeSet<ChoiceId>,
}

/// Which parts of which arguments each part of a behavior's value is made of.
pub(super) type Needs = FxHashMap<(BehaviorId, usize), Vec<(usize, usize)>>;

pub(super) fn needs(program: &Program) -> Needs {
    let mut needs = Needs::default();
    for subject in program.order() {
        let Subject::Behavior(id) = subject else { continue };
        let value = program.behavior(*id).value;
        for part in 0..program.expr(value).kind.width() {
            let mut found = BTreeSet::new();
            let mut seen = FxHashSet::default();
            let mut open = vec![(value, part)];
            while let Some((id, part)) = open.pop() {
                if seen.insert((id, part)) {
                    if let Op::Parameter(n) = program.expr(id).op {
                        found.insert((n, part));
                    }
                    open.extend(operands(program, &needs, id, part));
                }
            }
            needs.insert((*id, part), found.into_iter().collect());
        }
    }
    needs
}

/// The parts of operands that part `part` of an expression is made of.
pub(super) fn operands(
    program: &Program,
    needs: &Needs,
    id: ExprId,
    part: usize,
) -> Vec<(ExprId, usize)> {
    let expr = program.expr(id);
    match &expr.op {
        Op::Parts(x, y, z) => vec![([*x, *y, *z][part], 0)],
        Op::ChangeUp(a, up) => vec![(*a, up.parts()[part].0)],
        Op::MaxComponent(c) | Op::NormalizedColor(c) | Op::ConeRoot(_, c) | Op::Direction(c) => {
            (0..3).map(|part| (*c, part)).collect()
        }
        Op::Distance(a, b) => (0..3).flat_map(|part| [(*a, part), (*b, part)]).collect(),
        Op::Select(_, a, b) if is_one(program, *a, *b, part) => vec![(*a, part)],
        Op::Select(c, a, b) => vec![(*c, 0), (*a, part), (*b, part)],
        Op::Call(behavior, arguments, _) => {
            needs[&(*behavior, part)].iter().map(|(n, part)| (arguments[*n], *part)).collect()
        }
        op => op
            .operands()
            .into_iter()
            .map(|e| (e, if program.expr(e).kind.width() > 1 { part } else { 0 }))
            .collect(),
    }
}

/// Whether a part of two expressions is one number, so that it does not matter which of them is chosen.
pub(super) fn is_one(program: &Program, a: ExprId, b: ExprId, part: usize) -> bool {
    let bits = |id: ExprId| program.constant(id)?.bits().get(part).copied();
    bits(a).is_some_and(|a| bits(b) == Some(a))
}

pub(super) fn reachable(program: &Program, needs: &Needs) -> Reached {
    let mut reached = Reached {
        exprs: FxHashSet::default(),
        signals: FxHashSet::default(),
        curves: FxHashSet::default(),
        tables: BTreeSet::new(),
        inputs: BTreeSet::new(),
        choices: BTreeSet::new(),
    };
    let mut open: Vec<(ExprId, usize)> = program
        .lights()
        .flat_map(|(_, light)| &light.drives)
        .flat_map(|drive| (0..drive.width()).map(|part| (drive.value, part)))
        .collect();
    loop {
        reach(program, needs, &mut reached, &mut open);
        // What is read of what events write makes those events needed, and what they look at.
        for write in written(program, &reached) {
            for id in write {
                let parts = (0..program.expr(id).kind.width()).map(|part| (id, part));
                open.extend(parts.filter(|part| !reached.exprs.contains(part)));
            }
        }
        if open.is_empty() {
            return reached;
        }
    }
}

/// What the events look at that write what is reached.
fn written<'a>(
    program: &'a Program,
    reached: &'a Reached,
) -> impl Iterator<Item = impl Iterator<Item = ExprId>> {
    program.events().map(|(_, event)| {
        let writes = event.writes.iter().flat_map(|write| {
            let values: Vec<ExprId> = write
                .sets
                .iter()
                .filter(|(input, _)| reached.inputs.contains(input))
                .map(|(_, value)| *value)
                .collect();
            let when = write.when.filter(|_| !values.is_empty() || write.sends.is_some());
            let slot = write.slot.filter(|_| !values.is_empty());
            let sends = write.sends.iter().flat_map(Sends::looks_at);
            when.into_iter().chain(values).chain(sends).chain(slot)
        });
        let mut all: Vec<ExprId> = writes.collect();
        if !all.is_empty() {
            all.extend(event.due);
        }
        all.into_iter()
    })
}

fn reach(program: &Program, needs: &Needs, reached: &mut Reached, open: &mut Vec<(ExprId, usize)>) {
    while let Some((id, part)) = open.pop() {
        if !reached.exprs.insert((id, part)) {
            continue;
        }
        for read in program.references(&program.expr(id).op) {
            match read {
                Reference::Signal(signal) => {
                    reached.signals.insert((signal, part));
                    open.push((program.signal(signal).value, part));
                }
                Reference::Behavior(behavior) => {
                    open.push((program.behavior(behavior).value, part));
                }
                Reference::Curve(curve) => {
                    reached.curves.insert(curve);
                }
                Reference::Table(table) => {
                    reached.tables.insert(table);
                }
                Reference::Input(input) => {
                    reached.inputs.insert(input);
                }
                Reference::Choice(choice) => {
                    reached.choices.insert(choice);
                }
            }
        }
        open.extend(operands(program, needs, id, part));
    }
}
