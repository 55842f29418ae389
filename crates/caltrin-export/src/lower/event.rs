//! What happens: when each event is due, what it does, and what follows.

use super::code::to_int;
use super::{EventFunctions, Maker, field, now};
use crate::ir::{Expr, LocalId, Module, Operation as Op, Receiver, Statement, Type};
use crate::names::comment;
use crate::plan::{ConditionalWrite, EventPlan, EventWrites, InputPlan, Plan, SendPlan};
use crate::print::{at_line, describe_event, given};

/// What finds out when an event is due.
pub(super) fn due_name(n: usize) -> String {
    format!("due {n}")
}

/// What an event does.
pub(super) fn act_name(n: usize) -> String {
    format!("event {n}")
}

/// What an event does to each of others.
pub(super) fn each_name(n: usize, k: usize) -> String {
    format!("event {n} at {k}")
}

/// The functions of all events.
pub(super) fn events(plan: &Plan, module: &mut Module) -> Vec<EventFunctions> {
    let mut all = Vec::new();
    for (n, event) in plan.events.iter().enumerate() {
        let due = event.due.as_ref().map(|due| {
            let mut maker = Maker::new(plan);
            let mut body = Vec::new();
            if event.count.is_some() {
                maker.index = Expr::Local(maker.parameter("index", Type::Word));
            }
            maker.own = due.locals.iter().map(|_| LocalId(usize::MAX)).collect();
            maker.moments(due.asks(), &mut body);
            body.extend(maker.statements(&due.locals, &due.statements));
            let about = format!("When `{}` happens next.", comment(&event.name));
            let name = due_name(n);
            let gives = (Receiver::Reads, false, Type::F64);
            module.functions.push(maker.done(name.clone(), about, gives, body));
            name
        });
        let mut each = Vec::new();
        for (k, others) in event.each.iter().enumerate() {
            let mut maker = Maker::new(plan);
            let mut body = Vec::new();
            maker.index = Expr::Local(maker.parameter("index", Type::Word));
            let locals = &others.does.looked.locals;
            maker.own = locals.iter().map(|_| LocalId(usize::MAX)).collect();
            maker.moments(others.does.asks(), &mut body);
            maker.writes(&others.does, &mut body);
            let (event, of) = (comment(&event.name), comment(&others.name));
            let about = format!("What `{event}` does to each `{of}`.");
            let name = each_name(n, k);
            let gives = (Receiver::Changes, false, Type::Void);
            module.functions.push(maker.done(name.clone(), about, gives, body));
            each.push(name);
        }
        let act = act(plan, n, event);
        let name = act.name.clone();
        module.functions.push(act);
        all.push(EventFunctions { due, each, act: name });
    }
    all
}

/// What the game gives for a part of an input, as it is kept.
pub(super) fn cleaned(input: &InputPlan, part: usize, value: Expr) -> Expr {
    if input.flag {
        return value;
    }
    let bounds = [input.bounds.lo, input.bounds.hi, input.default[part]].map(Expr::Number);
    let parts = std::iter::once(value).chain(bounds).collect();
    Expr::Call("clean_input".to_owned(), parts)
}

/// What comes after something that the game did: what is due is found again, and what follows happens at once.
pub(super) fn settle(plan: &Plan, body: &mut Vec<Statement>) {
    if plan.has_due() {
        body.push(Statement::Set(field("due", Type::F64), None, now()));
    }
    if plan.follows() {
        body.push(Statement::Call("settle".to_owned(), Vec::new()));
    }
}

/// Leaves a function where an index is not below a count.
pub(super) fn leave_outside(index: LocalId, count: u32) -> Statement {
    let outside = Expr::Do(Op::Outside, vec![Expr::Local(index), Expr::Word(count)]);
    Statement::If(outside, vec![Statement::Stop], Vec::new())
}

fn act(plan: &Plan, n: usize, event: &EventPlan) -> crate::ir::Function {
    let mut maker = Maker::new(plan);
    let mut body = Vec::new();
    let index = event.count.map(|_| maker.parameter("index", Type::Word));
    maker.index = index.map_or(Expr::Word(0), Expr::Local);
    let values: Vec<(usize, usize, LocalId)> = given(plan, event)
        .into_iter()
        .map(|(place, part, name)| {
            let ty = if plan.inputs[place].flag { Type::Bool } else { Type::F64 };
            (place, part, maker.parameter(&name, ty))
        })
        .collect();
    maker.own = event.own.looked.locals.iter().map(|_| LocalId(usize::MAX)).collect();
    if let (Some(index), Some(count), true) = (index, event.count, event.is_fired()) {
        body.push(leave_outside(index, count));
    }
    maker.moments(event.own.asks(), &mut body);
    for (place, part, value) in values {
        let input = &plan.inputs[place];
        let at = index.filter(|_| input.count.is_some()).map(|index| to_int(Expr::Local(index)));
        let value = cleaned(input, part, Expr::Local(value));
        body.push(Statement::Set(maker.input(place, part, at), None, value));
    }
    for (k, others) in event.each.iter().enumerate() {
        let call = |which: Expr| Statement::Call(each_name(n, k), vec![which]);
        match (index, others.count) {
            (None, 1) => body.push(call(Expr::Word(0))),
            (Some(index), 1) => body.push(call(Expr::Local(index))),
            (_, count) => {
                let counter = maker.local("n", Type::Word);
                let which = match index {
                    None => Expr::Local(counter),
                    Some(index) => {
                        let first = vec![Expr::Local(index), Expr::Word(count)];
                        let first = Expr::Do(Op::WordMultiply, first);
                        Expr::Do(Op::WordAdd, vec![first, Expr::Local(counter)])
                    }
                };
                let range = (Expr::Word(0), Expr::Word(count));
                body.push(Statement::For(counter, range.0, range.1, vec![call(which)]));
            }
        }
    }
    maker.writes(&event.own, &mut body);
    if event.is_fired() {
        settle(plan, &mut body);
    }
    let about = format!("{}{}", describe_event(plan, event), at_line(&event.note, plan));
    maker.done(act_name(n), about, (Receiver::Changes, event.is_fired(), Type::Void), body)
}

impl Maker<'_> {
    /// What an event looks at, then what it writes.
    fn writes(&mut self, does: &EventWrites, body: &mut Vec<Statement>) {
        let looked = self.statements(&does.looked.locals, &does.looked.statements);
        body.extend(looked);
        let places = self.plan.queue.is_some_and(|queue| queue.positions.is_some());
        // Where a lamp is follows from all that is written, so what sends comes last.
        let apart = places && does.writes.len() > 1;
        for written in &does.writes {
            let mut block = self.sets(written);
            block.extend(written.sends.iter().filter(|_| !apart).map(|sends| self.send(sends)));
            self.under(written, block, body);
        }
        for written in does.writes.iter().filter(|_| apart) {
            let block = written.sends.iter().map(|sends| self.send(sends)).collect();
            self.under(written, block, body);
        }
    }

    fn under(
        &self,
        written: &ConditionalWrite<crate::plan::Code>,
        block: Vec<Statement>,
        body: &mut Vec<Statement>,
    ) {
        match &written.when {
            _ if block.is_empty() => {}
            Some(when) => body.push(Statement::If(self.expr(when), block, Vec::new())),
            None => body.extend(block),
        }
    }

    fn sets(&self, written: &ConditionalWrite<crate::plan::Code>) -> Vec<Statement> {
        let index = match &written.slot {
            Some(slot) => Expr::Do(Op::NumberToInt, vec![self.expr(slot)]),
            None => to_int(self.index.clone()),
        };
        let each = written.sets.iter().map(|(place, part, value)| {
            let index = self.plan.inputs[*place].count.map(|_| index.clone());
            Statement::Set(self.input(*place, *part, index), None, self.expr(value))
        });
        each.collect()
    }

    fn send(
        &self,
        SendPlan { line, text, lamp, values }: &SendPlan<crate::plan::Code>,
    ) -> Statement {
        let lamp = lamp.map_or_else(|| self.index.clone(), Expr::Word);
        let mut parts = vec![Expr::Word(*line), self.expr(text), lamp];
        for (n, place) in self.plan.notice_values.iter().enumerate() {
            let input = &self.plan.inputs[*place];
            for part in 0..input.default.len() {
                let given = values.iter().find(|(known, of, _)| (*known, *of) == (n, part));
                parts.push(match given {
                    Some((.., value)) => self.expr(value),
                    None if input.flag => Expr::Flag(false),
                    None => Expr::Number(0.0),
                });
            }
        }
        Statement::Call("send".to_owned(), parts)
    }
}
