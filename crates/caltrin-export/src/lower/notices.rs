//! Notices: what lets them wait, says where they come from, and gives them to the host.

use std::collections::BTreeMap;

use super::code::to_int;
use super::{Maker, light_body, now};
use crate::ir::fold::{fold, prune};
use crate::ir::read::Known;
use crate::ir::{
    Entries, Expr, Module, Operation as Op, Receiver, Record, RunField, Statement, Table, Type,
};
use crate::plan::{Plan, QueuePlan};
use crate::print::about_value;

/// A line of the book that sends is kept times this, and then its text is added.
const TEXTS: f64 = 64.0;

/// Both are kept times this, and then the lamp is added.
const LAMPS: f64 = 1_048_576.0;

/// Tables of the file: the name of each line, where it comes from, the texts of all, and where those of each begin.
const TABLES: [&str; 4] = ["notice_names", "notice_sources", "notice_texts", "notice_text_starts"];

/// A field of a notice.
#[derive(Clone, Debug, PartialEq)]
pub struct NoticeField {
    /// Its name.
    pub name: String,
    /// What it is.
    pub about: String,
    /// Its type.
    pub ty: Type,
    /// The names of its parts, if it has several.
    pub suffixes: &'static [&'static str],
}

/// The fields of a notice: those that all have, then the values that some carry.
pub fn notice_fields(plan: &Plan) -> Vec<NoticeField> {
    let one = |name: &str, about: &str, ty: Type, suffixes: &'static [&'static str]| NoticeField {
        name: name.to_owned(),
        about: about.to_owned(),
        ty,
        suffixes,
    };
    let mut all = vec![
        one("moment", "s since the run's start", Type::F64, &[]),
        one("name", "the book's name for it", Type::Text, &[]),
        one(
            "text",
            "what comes with it, one of several by chance; empty for nothing",
            Type::Text,
            &[],
        ),
        one("from", "the light or instance that it comes from; empty for none", Type::Text, &[]),
        one("lamp", "which lamp of the light, or which instance", Type::Word, &[]),
        one(
            "position",
            "where that lamp was then; 0 where the book does not say",
            Type::F32,
            &["x", "y", "z"],
        ),
    ];
    all.extend(plan.notice_values.iter().map(|place| {
        let input = &plan.inputs[*place];
        let name = input.name.rsplit('.').next().unwrap_or(&input.name);
        let ty = if input.flag { Type::Bool } else { Type::F32 };
        one(name, &about_value(input), ty, input.suffixes)
    }));
    all
}

/// What gives the place of a light's lamp, for a notice that waits.
pub(super) fn place_name(light: usize) -> String {
    format!("notice place {light}")
}

/// The functions of notices.
#[derive(Clone, Debug, Default)]
pub struct NoticeFunctions {
    /// What the events call, each after what it uses.
    pub sends: Vec<String>,
    /// What the host calls, without what takes a notice.
    pub dropped: Vec<String>,
}

/// A double that a run keeps of notices: one of many where it has an index.
fn kept(maker: &Maker<'_>, place: usize, at: Option<Expr>) -> RunField {
    maker.input(place, 0, at.map(to_int))
}

/// How many notices may wait.
fn room(plan: &Plan) -> u32 {
    let queue = plan.queue.map(|queue| &plan.inputs[queue.moments]);
    queue.and_then(|moments| moments.count).unwrap_or(1)
}

fn counted(maker: &Maker<'_>, place: usize, most: u32) -> Expr {
    let count = Expr::Run(kept(maker, place, None));
    Expr::Call("counted".to_owned(), vec![count, Expr::Word(most)])
}

fn both(operation: Op, a: Expr, b: Expr) -> Expr {
    Expr::Do(operation, vec![a, b])
}

/// What sends notices.
pub(super) fn sends(plan: &Plan, module: &mut Module) -> NoticeFunctions {
    let Some(queue) = plan.queue else { return NoticeFunctions::default() };
    let source = include_str!("sources/notices.rs");
    let mut all = super::run::read(source, &Known::default(), module);
    let places = places(plan, queue, module, &mut all);

    let mut maker = Maker::new(plan);
    let [line, text, lamp] = [("line", Type::Word), ("text", Type::F64), ("lamp", Type::Word)]
        .map(|(name, ty)| Expr::Local(maker.parameter(name, ty)));
    let mut values = Vec::new();
    for place in &plan.notice_values {
        let input = &plan.inputs[*place];
        let name = input.name.rsplit('.').next().unwrap_or(&input.name);
        let ty = if input.flag { Type::Bool } else { Type::F64 };
        for part in 0..input.default.len() {
            let suffix = input.suffixes.get(part).map_or(String::new(), |own| format!("_{own}"));
            let value = maker.parameter(&format!("value_{name}{suffix}"), ty);
            values.push((*place, part, Expr::Local(value)));
        }
    }
    let mut body = Vec::new();
    let count = maker.local("count", Type::Word);
    body.push(Statement::Let(count, counted(&maker, queue.count, room(plan))));
    let dropped = kept(&maker, queue.dropped, None);
    body.push(Statement::If(
        both(Op::Equal, Expr::Local(count), Expr::Word(room(plan))),
        vec![Statement::Set(dropped, Some(Op::Add), Expr::Number(1.0)), Statement::Stop],
        Vec::new(),
    ));
    let at = maker.local("at", Type::Word);
    let end = both(Op::WordAdd, counted(&maker, queue.first, room(plan) - 1), Expr::Local(count));
    body.push(Statement::Let(at, both(Op::WordRemainder, end, Expr::Word(room(plan)))));
    let more = both(Op::WordAdd, Expr::Local(count), Expr::Word(1));
    let more = Expr::Do(Op::WordToNumber, vec![more]);
    body.push(Statement::Set(kept(&maker, queue.count, None), None, more));
    let here = || Some(Expr::Local(at));
    body.push(Statement::Set(kept(&maker, queue.moments, here()), None, now()));
    let number = |word: &Expr| Expr::Do(Op::WordToNumber, vec![word.clone()]);
    let packed = both(Op::Multiply, number(&line), Expr::Number(TEXTS));
    let packed = both(Op::Multiply, both(Op::Add, packed, text), Expr::Number(LAMPS));
    let packed = both(Op::Add, packed, number(&lamp));
    body.push(Statement::Set(kept(&maker, queue.packed, here()), None, packed));
    for (place, part, value) in values {
        let place = maker.input(place, part, here().map(to_int));
        body.push(Statement::Set(place, None, value));
    }
    // Where it comes from, and from nowhere else.
    let nowhere = |maker: &Maker<'_>, positions: usize| -> Vec<Statement> {
        let part = |part| maker.input(positions, part, here().map(to_int));
        (0..3).map(|n| Statement::Set(part(n), None, Expr::Number(0.0))).collect()
    };
    if let Some(positions) = queue.positions {
        let mut chain = match plan.notices.iter().all(|notice| notice.placed.is_some()) {
            true => Vec::new(),
            false => nowhere(&maker, positions),
        };
        for (light, asks_lamp) in places.into_iter().rev() {
            let lines = plan.notices.iter().enumerate();
            let lines =
                lines.filter(|(_, notice)| notice.placed.is_some_and(|(of, _)| of == light));
            let lines = lines.map(|(n, _)| both(Op::Equal, line.clone(), Expr::Word(n as u32)));
            let Some(is_one) = lines.reduce(|a, b| both(Op::Or, a, b)) else { continue };
            let asked = asks_lamp.then(|| lamp.clone());
            let parts = here().into_iter().chain(asked).collect();
            let call = vec![Statement::Call(place_name(light), parts)];
            chain = match chain.is_empty() {
                // The last one of all needs no question.
                true => call,
                false => vec![Statement::If(is_one, call, chain)],
            };
        }
        body.extend(chain);
    }
    let about = "Lets a notice wait until the host takes it, if there is room.".to_owned();
    let gives = (Receiver::Changes, false, Type::Void);
    module.functions.push(maker.done("send".to_owned(), about, gives, body));
    all.push("send".to_owned());

    let maker = Maker::new(plan);
    let body = vec![Statement::Return(counted(&maker, queue.dropped, u32::MAX))];
    let about = "How many notices there was no room for since the start.".to_owned();
    let gives = (Receiver::Reads, true, Type::Word);
    module.functions.push(maker.done("dropped_notices".to_owned(), about, gives, body));
    NoticeFunctions { sends: all, dropped: vec!["dropped_notices".to_owned()] }
}

/// The functions that keep where a lamp is, one for each light that notices come from; with whether each asks for the lamp.
fn places(
    plan: &Plan,
    queue: QueuePlan,
    module: &mut Module,
    names: &mut Vec<String>,
) -> Vec<(usize, bool)> {
    let Some(positions) = queue.positions else { return Vec::new() };
    let placed = plan.notices.iter().filter_map(|notice| notice.placed);
    let placed: BTreeMap<usize, usize> = placed.collect();
    let mut all = Vec::new();
    for (light, field) in placed {
        let (mut function, _) = light_body(plan, &plan.lights[light]);
        // The index of the light comes first; where the notice waits goes before it.
        let index = function.locals[0].clone();
        let at = crate::ir::LocalId(function.locals.len());
        let local = |name: &str| crate::ir::Local { name: name.to_owned(), ..index.clone() };
        function.locals.push(local("at"));
        function.locals[0].name = "lamp".to_owned();
        let maker = Maker::new(plan);
        let make = |statement: Statement| match statement {
            Statement::Make(_, of, part, value) if of == field => {
                let value = Expr::Do(Op::SingleToNumber, vec![value]);
                let place = maker.input(positions, part, Some(to_int(Expr::Local(at))));
                Some(Statement::Set(place, None, value))
            }
            Statement::Make(..) => None,
            statement => Some(statement),
        };
        let body = std::mem::take(&mut function.body);
        function.body = body.into_iter().filter_map(make).collect();
        fold(&mut function);
        prune(&mut function);
        let asks_lamp = function.locals[0].used;
        function.swap_locals(0, at.0);
        function.parameters = 1;
        if asks_lamp {
            function.swap_locals(1, at.0);
            function.parameters = 2;
        }
        function.name = place_name(light);
        function.receiver = Receiver::Changes;
        function.about = format!("Keeps where a lamp of {} is.", plan.lights[light].name);
        names.push(function.name.clone());
        module.functions.push(function);
        all.push((light, asks_lamp));
    }
    all
}

/// What takes a notice, without its head: statements and then the fields. Where it stops, none waits.
pub(super) fn take(plan: &Plan) -> Option<crate::ir::Function> {
    let queue = plan.queue?;
    let mut maker = Maker::new(plan);
    let mut body = Vec::new();
    let count = maker.local("count", Type::Word);
    body.push(Statement::Let(count, counted(&maker, queue.count, room(plan))));
    let none = both(Op::Equal, Expr::Local(count), Expr::Word(0));
    body.push(Statement::If(none, vec![Statement::Stop], Vec::new()));
    let at = maker.local("at", Type::Word);
    body.push(Statement::Let(at, counted(&maker, queue.first, room(plan) - 1)));
    let here = || Some(Expr::Local(at));
    // Also in a run that was never started there is such a line.
    let kept_so = Expr::Run(kept(&maker, queue.packed, here()));
    let most = Expr::Number(plan.notices.len() as f64 * TEXTS * LAMPS);
    let legal = both(
        Op::And,
        both(Op::AtLeast, kept_so.clone(), Expr::Number(0.0)),
        both(Op::Less, kept_so.clone(), most),
    );
    let packed = maker.local("packed", Type::F64);
    let packed_is = Expr::Do(Op::Select, vec![legal, kept_so, Expr::Number(0.0)]);
    body.push(Statement::Let(packed, packed_is));
    let which = maker.local("which", Type::F64);
    let whole = both(Op::Divide, Expr::Local(packed), Expr::Number(LAMPS));
    body.push(Statement::Let(which, Expr::Do(Op::Floor, vec![whole])));
    let line = maker.local("line", Type::Word);
    let lines = both(Op::Divide, Expr::Local(which), Expr::Number(TEXTS));
    let lines = Expr::Do(Op::NumberToWord, vec![Expr::Do(Op::Floor, vec![lines])]);
    body.push(Statement::Let(line, lines));
    let entry = |table: usize, ty: Type, at: Expr| {
        Expr::TableEntry(TABLES[table].to_owned(), ty, Box::new(to_int(at)))
    };
    let text = match plan.notices.iter().all(|notice| notice.texts.is_empty()) {
        true => Expr::Text(String::new()),
        false => {
            let [start, text] = ["start", "text"].map(|name| maker.local(name, Type::Word));
            body.push(Statement::Let(start, entry(3, Type::Words, Expr::Local(line))));
            let next = both(Op::WordAdd, Expr::Local(line), Expr::Word(1));
            let texts = both(Op::WordSubtract, entry(3, Type::Words, next), Expr::Local(start));
            let chosen = both(
                Op::Multiply,
                Expr::Do(Op::WordToNumber, vec![Expr::Local(line)]),
                Expr::Number(TEXTS),
            );
            let chosen = both(Op::Subtract, Expr::Local(which), chosen);
            let chosen = Expr::Do(Op::NumberToWord, vec![chosen]);
            let chosen = both(Op::WordRemainder, chosen, texts);
            body.push(Statement::Let(text, both(Op::WordAdd, Expr::Local(start), chosen)));
            entry(2, Type::Texts, Expr::Local(text))
        }
    };
    let left = both(Op::WordSubtract, Expr::Local(count), Expr::Word(1));
    let left = Expr::Do(Op::WordToNumber, vec![left]);
    body.push(Statement::Set(kept(&maker, queue.count, None), None, left));
    let after = both(Op::WordAdd, Expr::Local(at), Expr::Word(1));
    let after = both(Op::WordRemainder, after, Expr::Word(room(plan)));
    let after = Expr::Do(Op::WordToNumber, vec![after]);
    body.push(Statement::Set(kept(&maker, queue.first, None), None, after));
    let mut make = |field: usize, part: usize, value: Expr| {
        body.push(Statement::Make(Record::Notice, field, part, value));
    };
    make(0, 0, Expr::Run(kept(&maker, queue.moments, here())));
    make(1, 0, entry(0, Type::Texts, Expr::Local(line)));
    make(2, 0, text);
    make(3, 0, entry(1, Type::Texts, Expr::Local(line)));
    let lamps = both(Op::Multiply, Expr::Local(which), Expr::Number(LAMPS));
    let lamp = Expr::Do(Op::NumberToWord, vec![both(Op::Subtract, Expr::Local(packed), lamps)]);
    make(4, 0, lamp);
    let single = |value: Expr| Expr::Do(Op::ToSingle, vec![value]);
    for part in 0..3 {
        make(
            5,
            part,
            match queue.positions {
                Some(positions) => {
                    single(Expr::Run(maker.input(positions, part, here().map(to_int))))
                }
                None => Expr::Single(0.0),
            },
        );
    }
    let values_from = notice_fields(plan).len() - plan.notice_values.len();
    for (n, place) in plan.notice_values.iter().enumerate() {
        let input = &plan.inputs[*place];
        for part in 0..input.default.len() {
            let value = Expr::Run(maker.input(*place, part, here().map(to_int)));
            let value = match input.flag {
                true => value,
                false => Expr::Call("to_single".to_owned(), vec![value]),
            };
            make(values_from + n, part, value);
        }
    }
    let about = String::new();
    let gives = (Receiver::Changes, true, Type::Void);
    Some(maker.done("take_notice".to_owned(), about, gives, body))
}

/// The tables of what notices say.
pub(super) fn tables(plan: &Plan) -> Vec<Table> {
    if plan.queue.is_none() {
        return Vec::new();
    }
    let each = |text: fn(&crate::plan::NoticePlan) -> &String| {
        Entries::Texts(plan.notices.iter().map(|notice| text(notice).clone()).collect())
    };
    let mut all = vec![
        (0, "Names of notices, by the lines that send them.", each(|notice| &notice.name)),
        (1, "What they come from.", each(|notice| &notice.from)),
    ];
    if plan.notices.iter().any(|notice| !notice.texts.is_empty()) {
        let (mut texts, mut starts) = (Vec::new(), vec![0]);
        for notice in &plan.notices {
            texts.extend(notice.texts.iter().cloned());
            if notice.texts.is_empty() {
                texts.push(String::new());
            }
            starts.push(texts.len() as u32);
        }
        all.push((2, "What they come with.", Entries::Texts(texts)));
        all.push((3, "Where the texts of each line begin.", Entries::Words(starts)));
    }
    let table = |(n, about, entries): (usize, &str, Entries)| Table {
        name: TABLES[n].to_owned(),
        about: about.to_owned(),
        entries,
        hex: false,
    };
    all.into_iter().map(table).collect()
}
