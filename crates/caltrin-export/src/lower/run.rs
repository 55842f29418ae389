//! The functions of a run that are not the book's: what sets inputs, choices and the clock, and what takes it on.

use std::collections::BTreeMap;

use caltrin_core::run::MOST_AT_ONCE;
use caltrin_core::sky::MOST_DAYS;

use super::code::to_int;
use super::event::{cleaned, leave_outside, settle};
use super::{EventFunctions, Maker, field, input_field, now};
use crate::ir::read::{Known, module_with};
use crate::ir::{Expr, Module, Operation as Op, Receiver, Statement, Type};
use crate::names::comment;
use crate::plan::Plan;
use crate::print::{ALL_DONE, SETTLES, at_line, describe_choice, describe_input, setter_values};

/// What sets an input.
pub(super) fn setter_name(n: usize) -> String {
    format!("set {n}")
}

/// A function or field of a choice.
pub(super) fn choice_key(n: usize, name: &str) -> String {
    format!("choice {n} {name}")
}

/// What finds a spark that is free.
pub(super) fn spark_name(n: usize) -> String {
    format!("free {n}")
}

/// Reads functions of the run from a source; what is wrong in it is seen by every test.
pub(super) fn read(source: &str, known: &Known<'_>, module: &mut Module) -> Vec<String> {
    let read = module_with(source, module, known).unwrap_or_else(|e| panic!("{e}"));
    let names = read.functions.iter().map(|function| function.name.clone()).collect();
    module.functions.extend(read.functions);
    names
}

/// The clock.
pub(super) fn clock(plan: &Plan, module: &mut Module) -> Vec<String> {
    let Some(clock) = &plan.clock else { return Vec::new() };
    let mut values: BTreeMap<&str, Expr> = BTreeMap::new();
    for (name, v) in [
        ("PACE", clock.pace),
        ("START", clock.start),
        ("RATE", clock.rate),
        ("MOST_DAYS", MOST_DAYS),
    ] {
        values.insert(name, Expr::Number(v));
    }
    for (name, on) in [
        ("STRIKES", clock.strikes),
        ("HAPPENS", clock.happens),
        ("FOLLOWS", clock.follows),
        ("BY_HOUR", plan.by_clock().is_some()),
    ] {
        values.insert(name, Expr::Flag(on));
    }
    let fields =
        ["now", "due", "clock_hour", "clock_days", "clock_since", "clock_rate", "clock_from"];
    let by_hour = plan.by_clock().map(super::event::act_name);
    let known = Known {
        values,
        fields: fields.into_iter().map(|name| (name, Type::F64)).collect(),
        names: by_hour.into_iter().map(|name| ("by_hour", name)).collect(),
        calls: vec!["settle", "by_hour"],
        ..Known::default()
    };
    let mut names = read(include_str!("sources/clock.rs"), &known, module);
    if clock.strikes {
        names.extend(read(include_str!("sources/strikes.rs"), &known, module));
    }
    names
}

/// The choices.
pub(super) fn choices(plan: &Plan, module: &mut Module) -> Vec<Vec<String>> {
    let each = plan.choices.iter().enumerate().map(|(n, choice)| {
        let count = choice.options.len() as u32;
        let values = BTreeMap::from([
            ("COUNT", Expr::Word(count)),
            ("OVER", Expr::Number(choice.over)),
            ("HAPPENS", Expr::Flag(plan.has_due())),
            ("FOLLOWS", Expr::Flag(plan.follows())),
        ]);
        let fields = [
            ("now", Type::F64),
            ("due", Type::F64),
            ("chosen", Type::Word),
            ("since", Type::F64),
            ("from", Type::F64),
        ];
        let own = ["chosen", "since", "from", "set", "weight"];
        let known = Known {
            values,
            fields: BTreeMap::from(fields),
            names: own.into_iter().map(|name| (name, choice_key(n, name))).collect(),
            calls: vec!["settle"],
            ..Known::default()
        };
        let source = match choice.fades() {
            true => include_str!("sources/fading.rs"),
            false => include_str!("sources/plain.rs"),
        };
        let names = read(source, &known, module);
        let about = format!("{}{}", describe_choice(choice), at_line(&choice.note, plan));
        for function in &mut module.functions {
            if names.contains(&function.name) {
                function.about = function.about.replace("ABOUT", &about);
            }
        }
        names
    });
    each.collect()
}

/// What finds a spark that is free, of each pool.
pub(super) fn sparks(plan: &Plan, module: &mut Module) -> Vec<Option<String>> {
    let each = plan.sparks.iter().enumerate().map(|(n, spark)| {
        let [born, length] = spark.kept?;
        let fields = [("now", Type::F64), ("born", Type::F64), ("length", Type::F64)];
        let known = Known {
            values: BTreeMap::from([
                ("COUNT", Expr::Int(spark.count)),
                ("OLDEST", Expr::Flag(spark.oldest)),
            ]),
            fields: BTreeMap::from(fields),
            names: BTreeMap::from([
                ("born", input_field(born)),
                ("length", input_field(length)),
                ("free", spark_name(n)),
            ]),
            ..Known::default()
        };
        let names = read(include_str!("sources/spark.rs"), &known, module);
        let none = if spark.oldest { "the oldest".to_owned() } else { spark.count.to_string() };
        if let Some(function) = module.functions.last_mut() {
            let about = function.about.replace("ABOUT", &comment(&spark.name));
            function.about = about.replace("NONE", &none);
        }
        names.into_iter().next()
    });
    each.collect()
}

/// What sets the inputs.
pub(super) fn setters(plan: &Plan, module: &mut Module) -> Vec<String> {
    let mut names = Vec::new();
    for (n, input) in plan.given() {
        let mut maker = Maker::new(plan);
        let mut body = Vec::new();
        let index = input.count.map(|_| maker.parameter("index", Type::Word));
        let ty = if input.flag { Type::Bool } else { Type::F64 };
        let values = setter_values(input).iter().map(|name| maker.parameter(name, ty));
        let values: Vec<_> = values.collect();
        if let (Some(index), Some(count)) = (index, input.count) {
            body.push(leave_outside(index, count));
        }
        for (part, value) in values.into_iter().enumerate() {
            let at = index.map(|index| to_int(Expr::Local(index)));
            let value = cleaned(input, part, Expr::Local(value));
            body.push(Statement::Set(maker.input(n, part, at), None, value));
        }
        settle(plan, &mut body);
        let about = format!("{}{}", describe_input(input), at_line(&input.note, plan));
        let gives = (Receiver::Changes, true, Type::Void);
        module.functions.push(maker.done(setter_name(n), about, gives, body));
        names.push(setter_name(n));
    }
    names
}

/// What takes a run to a moment, on by a time, and through what is due at once.
pub(super) fn advance(plan: &Plan, events: &[EventFunctions], module: &mut Module) -> Vec<String> {
    let mut names = vec!["advance".to_owned(), "step".to_owned()];
    let result = if plan.has_due() { Type::Bool } else { Type::Void };
    let done = if plan.has_due() { ALL_DONE } else { "" };
    let due = || field("due", Type::F64);
    let set_now = |to: Expr| Statement::Set(field("now", Type::F64), None, to);
    let mut maker = Maker::new(plan);
    let to = maker.parameter("to", Type::F64);
    let clean = Expr::Call("clean_moment".to_owned(), vec![Expr::Local(to)]);
    let mut body = Vec::new();
    if plan.has_due() {
        let end = maker.local("end", Type::F64);
        let back = maker.local("back", Type::Bool);
        let [at_end, goes_back] = [end, back].map(Expr::Local);
        body.push(Statement::Let(end, clean));
        body.push(Statement::Let(back, Expr::Do(Op::Less, vec![at_end.clone(), now()])));
        let quiet = Expr::Do(Op::Less, vec![at_end.clone(), Expr::Run(due())]);
        let ahead = Expr::Do(Op::Not, vec![goes_back.clone()]);
        body.push(Statement::If(
            Expr::Do(Op::And, vec![ahead, quiet]),
            vec![set_now(at_end.clone()), Statement::Return(Expr::Flag(true))],
            Vec::new(),
        ));
        let pass = maker.local("pass", Type::Int);
        let mut turn = Vec::new();
        let (next, act) = next_due(plan, events, &mut maker, &mut turn);
        let next = Expr::Local(next);
        let over = Expr::Do(Op::Greater, vec![next.clone(), at_end.clone()]);
        let kept = Expr::Do(Op::Select, vec![goes_back, at_end.clone(), next.clone()]);
        turn.push(Statement::If(
            over,
            vec![
                Statement::Set(due(), None, kept),
                set_now(at_end.clone()),
                Statement::Return(Expr::Flag(true)),
            ],
            Vec::new(),
        ));
        turn.push(set_now(next));
        turn.push(act);
        body.push(Statement::For(pass, Expr::Int(0), Expr::Int(MOST_AT_ONCE), turn));
        body.push(Statement::Set(due(), None, at_end.clone()));
        body.push(set_now(at_end));
        body.push(Statement::Return(Expr::Flag(false)));
    } else {
        body.push(set_now(clean));
    }
    let about = format!("Advances to a moment of the run, in seconds since its start.{done}");
    let gives = (Receiver::Changes, true, result);
    module.functions.push(maker.done("advance".to_owned(), about, gives, body));

    let mut maker = Maker::new(plan);
    let seconds = maker.parameter("seconds", Type::F64);
    let to = Expr::Do(Op::Add, vec![now(), Expr::Local(seconds)]);
    let body = match plan.has_due() {
        true => Statement::Return(Expr::Call("advance".to_owned(), vec![to])),
        false => Statement::Call("advance".to_owned(), vec![to]),
    };
    let about = "Advances by some seconds. Steps add up their rounding errors; `advance` does not.";
    let step = maker.done("step".to_owned(), about.to_owned(), gives, vec![body]);
    module.functions.push(step);

    if plan.follows() {
        let later = Expr::Do(Op::Greater, vec![now(), Expr::Number(0.0)]);
        let call = Statement::Call("advance".to_owned(), vec![now()]);
        let body = vec![Statement::If(later, vec![call], Vec::new())];
        let gives = (Receiver::Changes, false, Type::Void);
        let settle = Maker::new(plan).done("settle".to_owned(), SETTLES.to_owned(), gives, body);
        module.functions.push(settle);
        names.push("settle".to_owned());
    }
    names
}

/// Finds what is due first: the statements that do, the local that holds when, and the statement that does it.
fn next_due(
    plan: &Plan,
    events: &[EventFunctions],
    maker: &mut Maker<'_>,
    turn: &mut Vec<Statement>,
) -> (crate::ir::LocalId, Statement) {
    let all = plan.events.iter().zip(events);
    let due: Vec<_> =
        all.filter_map(|(event, own)| Some((event, own.due.as_ref()?, own))).collect();
    let next = maker.local("next", Type::F64);
    let which = (due.len() > 1).then(|| maker.local("which", Type::Word));
    let index = plan.has_due_of_each().then(|| maker.local("index", Type::Word));
    let mut cases = Vec::new();
    for (n, (event, asks, own)) in due.iter().enumerate() {
        let asked = |parts: Vec<Expr>| Expr::Call((*asks).clone(), parts);
        if n == 0 {
            let first = event.count.map(|_| Expr::Word(0));
            turn.push(Statement::Let(next, asked(first.into_iter().collect())));
            for local in which.into_iter().chain(index) {
                turn.push(Statement::Let(local, Expr::Word(0)));
            }
        }
        let sooner = |of: Option<Expr>, maker: &mut Maker<'_>| {
            let due = maker.local(&format!("{}_due", event.name), Type::F64);
            let mut block = vec![Statement::Assign(next, None, Expr::Local(due))];
            if let Some(which) = which {
                block.push(Statement::Assign(which, None, Expr::Word(n as u32)));
            }
            if let (Some(index), Some(of)) = (index, &of) {
                block.push(Statement::Assign(index, None, of.clone()));
            }
            let less = Expr::Do(Op::Less, vec![Expr::Local(due), Expr::Local(next)]);
            let parts = of.into_iter().collect();
            [Statement::Let(due, asked(parts)), Statement::If(less, block, Vec::new())]
        };
        match event.count {
            Some(count) if n > 0 || count > 1 => {
                let counter = maker.local("k", Type::Word);
                let block = sooner(Some(Expr::Local(counter)), maker).into();
                let from = Expr::Word(u32::from(n == 0));
                turn.push(Statement::For(counter, from, Expr::Word(count), block));
            }
            None if n > 0 => turn.extend(sooner(None, maker)),
            _ => {}
        }
        let index = event.count.and(index).map(Expr::Local);
        cases.push(Statement::Call(own.act.clone(), index.into_iter().collect()));
    }
    let act = match which {
        Some(which) => Statement::Switch(Expr::Local(which), cases),
        None => cases.remove(0),
    };
    (next, act)
}
