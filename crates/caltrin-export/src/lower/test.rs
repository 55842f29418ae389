//! The self-test of a file, and what a prover does with it.

use std::collections::BTreeMap;

use caltrin_core::program::Size;

use super::{Maker, event, notices, run};
use crate::ir::read::Known;
use crate::ir::{
    Entries, Expr, LocalId, Module, Operation as Op, Receiver, Record, Statement, Table, Type,
};
use crate::plan::{ACT_SALT, Given, HOURS_TRIED, LightPlan, Nth, OPEN_STEP, Plan, TestAct};
use crate::sample::{ACTS, Blocks};

/// Tables of the file: seeds, moments, waits and checksums.
const TABLES: [&str; 4] = ["test_seeds", "test_moments", "test_waits", "test_sums"];

/// Whether a table is one of the self-test.
pub fn is_of_test(table: &str) -> bool {
    TABLES.contains(&table)
}

/// What adds a lamp to a checksum.
pub(super) fn check_name(light: usize) -> String {
    format!("check {light}")
}

/// What puts out all values of a light.
pub(super) fn put_name(light: usize) -> String {
    format!("put {light}")
}

fn both(operation: Op, a: Expr, b: Expr) -> Expr {
    Expr::Do(operation, vec![a, b])
}

/// The parts of all fields of a lamp: which field and part, and whether that is on or off.
fn parts(light: &LightPlan) -> impl Iterator<Item = (usize, usize, bool)> {
    let fields = light.fields.iter().enumerate();
    fields.flat_map(|(n, field)| (0..field.parts.len()).map(move |part| (n, part, field.flag)))
}

/// A part of what was read, as a double.
fn widened(record: Record, field: usize, part: usize, ty: Type) -> Expr {
    let value = Expr::Part(record, field, part, ty);
    match ty {
        Type::F32 => Expr::Do(Op::SingleToNumber, vec![value]),
        Type::Word => Expr::Do(Op::WordToNumber, vec![value]),
        Type::Bool => Expr::Do(Op::Select, vec![value, Expr::Number(1.0), Expr::Number(0.0)]),
        _ => value,
    }
}

/// The parts of the numbers of a notice, as doubles.
fn notice_numbers(plan: &Plan) -> Vec<Expr> {
    let fields = notices::notice_fields(plan).into_iter().enumerate();
    let numbers = fields.filter(|(_, field)| field.ty != Type::Text);
    let parts = numbers.flat_map(|(n, field)| {
        let parts = 0..field.suffixes.len().max(1);
        parts.map(move |part| widened(Record::Notice, n, part, field.ty))
    });
    parts.collect()
}

/// The functions of the self-test, each after what it uses.
pub(super) fn self_test(plan: &Plan, saves: bool, module: &mut Module) -> Vec<String> {
    let test = &plan.self_test;
    let mut names = run::read(include_str!("sources/checksum.rs"), &Known::default(), module);
    let read = |light: &LightPlan| !light.fields.is_empty();
    let indexed = plan.lights.iter().any(|light| light.is_array() && read(light));
    let sum_of = |sum: Expr, value: Expr| Expr::Call("checksum".to_owned(), vec![sum, value]);

    let mut maker = Maker::new(plan);
    let n = indexed.then(|| Expr::Local(maker.parameter("n", Type::Word)));
    let sums = maker.parameter("sums", Type::List);
    let mut body = Vec::new();
    let turn = n.clone().map(|n| {
        let turn = maker.local("turn", Type::Word);
        let rest = both(Op::WordRemainder, n.clone(), Expr::Word(4));
        let first = both(Op::Less, rest, Expr::Word(2));
        let later = both(Op::WordDivide, n, Expr::Word(4));
        let value = Expr::Do(Op::Select, vec![first, Expr::Word(0), later]);
        body.push(Statement::Let(turn, value));
        Expr::Local(turn)
    });
    for (at, light) in plan.lights.iter().enumerate().filter(|(_, light)| read(light)) {
        let index = match (light.size, turn.clone()) {
            (Size::Many(count), Some(turn)) => {
                Some(both(Op::WordRemainder, turn, Expr::Word(count)))
            }
            (Size::Open, Some(turn)) => Some(both(Op::WordMultiply, turn, Expr::Word(OPEN_STEP))),
            _ => None,
        };
        let mut arguments: Vec<Expr> = Vec::new();
        arguments.extend(index.is_some().then(|| n.clone()).flatten());
        arguments.extend(index);
        arguments.push(Expr::Entry(sums, Box::new(Expr::Int(at as u32))));
        module.functions.push(check_light(plan, at, light));
        names.push(check_name(at));
        let value = Expr::Call(check_name(at), arguments);
        body.push(Statement::SetEntry(sums, Expr::Int(at as u32), value));
    }
    if test.notices.is_some() {
        let mut taker = Maker::new(plan);
        let sum = taker.parameter("sum", Type::Word);
        let each = notice_numbers(plan).into_iter();
        let each = each.map(|value| Statement::Assign(sum, None, sum_of(Expr::Local(sum), value)));
        let each = Statement::EachNotice(each.collect());
        let taken = vec![each, Statement::Return(Expr::Local(sum))];
        let about = "Adds all notices that wait to a checksum.".to_owned();
        let gives = (Receiver::Changes, false, Type::Word);
        module.functions.push(taker.done("check_notices".to_owned(), about, gives, taken));
        names.push("check_notices".to_owned());
        let at = Expr::Int(test.sums.len() as u32);
        let own = vec![Expr::Entry(sums, Box::new(at.clone()))];
        let value = Expr::Call("check_notices".to_owned(), own);
        body.push(Statement::SetEntry(sums, at, value));
    }
    let reads = !body.is_empty();
    let about = match indexed {
        true => "Adds the values of the n-th reading, one lamp of each light, to the checksums.",
        false => "Adds the values of a reading to the checksums.",
    };
    let gives = (Receiver::Changes, false, Type::Void);
    if reads {
        module.functions.push(maker.done("check".to_owned(), about.to_owned(), gives, body));
        names.push("check".to_owned());
    }

    let chance = !test.acts.is_empty() && act(plan, module);
    if !test.acts.is_empty() {
        names.push("act".to_owned());
    }
    let sums = sums_of(plan).len() as u32;
    let word = |v: u32| Expr::Word(v);
    let known = Known {
        values: BTreeMap::from([
            ("SUM_COUNT", word(sums)),
            ("ROUNDS", word(2)),
            ("TWO", word(2)),
            ("MOMENT_COUNT", word(test.moments.len() as u32)),
            ("HOUR_COUNT", word(HOURS_TRIED)),
            ("STEP_COUNT", word(test.steps)),
            ("ACT_COUNT", word(test.acts.len() as u32)),
            ("ACT_SALT", word(ACT_SALT)),
            ("WAIT_COUNT", word(test.waits.len() as u32)),
            ("READS", Expr::Flag(reads)),
            ("INDEXED", Expr::Flag(indexed)),
            ("CLOCK", Expr::Flag(plan.clock.is_some())),
            ("ACTS", Expr::Flag(!test.acts.is_empty())),
            ("SAVES", Expr::Flag(saves)),
            ("CHANCE", Expr::Flag(chance)),
        ]),
        tables: BTreeMap::from([
            ("SEEDS", (TABLES[0].to_owned(), Type::Words)),
            ("MOMENTS", (TABLES[1].to_owned(), Type::Numbers)),
            ("WAITS", (TABLES[2].to_owned(), Type::Numbers)),
            ("WANTED", (TABLES[3].to_owned(), Type::Words)),
        ]),
        calls: vec!["resave"],
        ..Known::default()
    };
    names.extend(run::read(include_str!("sources/differences.rs"), &known, module));
    names
}

/// The checksums of all lights, then that of the notices. A book that drives nothing and sends nothing compares a 0.
fn sums_of(plan: &Plan) -> Vec<u32> {
    let test = &plan.self_test;
    let sums: Vec<u32> = test.sums.iter().copied().chain(test.notices).collect();
    if sums.is_empty() { vec![0] } else { sums }
}

/// The tables of the self-test.
pub(super) fn tables(plan: &Plan) -> Vec<Table> {
    let test = &plan.self_test;
    let mut all = vec![
        (0, Entries::Words(test.seeds.to_vec())),
        (1, Entries::Numbers(test.moments.clone())),
        (2, Entries::Numbers(test.waits.clone())),
        (3, Entries::Words(sums_of(plan))),
    ];
    if test.acts.is_empty() {
        all.remove(2);
    }
    let about = [
        "Seeds of the self-test.",
        "Moments at which it reads all lights.",
        "Seconds that it waits after what it does.",
        "Checksums of what the preview shows, one for each light and one for all notices.",
    ];
    let table = |(n, entries): (usize, Entries)| Table {
        name: TABLES[n].to_owned(),
        about: about[n].to_owned(),
        entries,
        hex: false,
    };
    all.into_iter().map(table).collect()
}

fn check_light(plan: &Plan, at: usize, light: &LightPlan) -> crate::ir::Function {
    let mut maker = Maker::new(plan);
    let index = light.is_array().then(|| {
        maker.parameter("n", Type::Word);
        Expr::Local(maker.parameter("index", Type::Word))
    });
    let sum = maker.parameter("sum", Type::Word);
    let mut body = vec![Statement::Read(at, index)];
    for (field, part, flag) in parts(light) {
        let ty = if flag { Type::Bool } else { Type::F32 };
        let value = widened(Record::Lamp, field, part, ty);
        let value = Expr::Call("checksum".to_owned(), vec![Expr::Local(sum), value]);
        body.push(Statement::Assign(sum, None, value));
    }
    body.push(Statement::Return(Expr::Local(sum)));
    let about = format!("Adds a lamp of {} to a checksum.", light.name);
    maker.done(check_name(at), about, (Receiver::Reads, false, Type::Word), body)
}

/// What the game does; whether any of it takes a chance.
fn act(plan: &Plan, module: &mut Module) -> bool {
    let mut maker = Maker::new(plan);
    let which = maker.parameter("which", Type::Word);
    let unit = maker.parameter("unit", Type::F64);
    let by_chance = |from: f64, span: f64| {
        let part = match span.abs() == 1.0 {
            true => Expr::Local(unit),
            false => both(Op::Multiply, Expr::Number(span.abs()), Expr::Local(unit)),
        };
        match (from == 0.0, span < 0.0) {
            (true, false) => part,
            (_, true) => both(Op::Subtract, Expr::Number(from), part),
            (false, false) => both(Op::Add, Expr::Number(from), part),
        }
    };
    let number = |given: Given| match given {
        Given::Number(v) => Expr::Number(v),
        Given::Chance(from, span) => by_chance(from, span),
    };
    let value = |flag: bool, given: &Given| match given {
        Given::Number(v) if flag => Expr::Flag(*v != 0.0),
        Given::Chance(..) if flag => both(Op::Less, Expr::Local(unit), Expr::Number(0.5)),
        given => number(*given),
    };
    let nth = |nth: Nth| match nth {
        Nth::Fixed(n) => Expr::Word(n),
        Nth::Chance(count) => {
            let at = both(Op::Multiply, Expr::Local(unit), Expr::Number(f64::from(count)));
            Expr::Do(Op::NumberToWord, vec![Expr::Do(Op::Floor, vec![at])])
        }
    };
    let call = |act: &TestAct| match act {
        TestAct::Fire(place, index, all) => {
            let event = &plan.events[*place];
            let flags = event.values.iter().flat_map(|place| {
                let input = &plan.inputs[*place];
                std::iter::repeat_n(input.flag, input.default.len())
            });
            let index = event.count.map(|_| nth(*index));
            let values = flags.zip(all).map(|(flag, given)| value(flag, given));
            Statement::Call(event::act_name(*place), index.into_iter().chain(values).collect())
        }
        TestAct::Set(place, index, all) => {
            let input = &plan.inputs[*place];
            let index = input.count.map(|_| nth(*index));
            let values = all.iter().map(|given| value(input.flag, given));
            Statement::Call(run::setter_name(*place), index.into_iter().chain(values).collect())
        }
        TestAct::Choose(place, option) => {
            Statement::Call(run::choice_key(*place, "set"), vec![Expr::Word(*option)])
        }
        TestAct::Clock(to) => Statement::Call("set_clock".to_owned(), vec![number(*to)]),
        TestAct::Drive(to) => Statement::Call("drive_clock".to_owned(), vec![number(*to)]),
        TestAct::Days(to) => Statement::Call("set_clock_days".to_owned(), vec![number(*to)]),
        TestAct::Rate(to) => Statement::Call("set_clock_rate".to_owned(), vec![number(*to)]),
    };
    let cases: Vec<Statement> = plan.self_test.acts.iter().map(call).collect();
    let mut function = maker.done(
        "act".to_owned(),
        String::new(),
        (Receiver::Changes, false, Type::Void),
        vec![Statement::Switch(Expr::Local(which), cases)],
    );
    let chance = function.locals[unit.0].used;
    let what = "What the game does in the self-test";
    function.about = match chance {
        true => format!("{what}; unit is a chance of 0 to 1."),
        false => format!("{what}."),
    };
    if !chance {
        function.locals.truncate(1);
        function.parameters = 1;
    }
    module.functions.push(function);
    chance
}

/// What a prover does with the numbers of a sample: moment, seed, whether the run goes on, all inputs, acts, and what
/// events come with. The names of its functions, the last of which does it all.
pub fn prover(plan: &Plan, blocks: &Blocks, module: &mut Module) -> Vec<String> {
    let mut names = Vec::new();
    module.others.insert("put".to_owned(), (Receiver::None, Type::Void));
    let put = |value: Expr| Statement::Call("put".to_owned(), vec![value]);
    let mut last: Vec<Statement> = Vec::new();
    let lights = plan.lights.iter().zip(blocks).enumerate();
    for (at, (light, blocks)) in lights.filter(|(_, (light, _))| !light.fields.is_empty()) {
        let maker = Maker::new(plan);
        let puts: Vec<Statement> = parts(light)
            .map(|(field, part, flag)| {
                let ty = if flag { Type::Bool } else { Type::F32 };
                let value = Expr::Part(Record::Lamp, field, part, ty);
                put(match flag {
                    true => {
                        let [on, off] = [1.0, 0.0].map(Expr::Single);
                        Expr::Do(Op::Select, vec![value, on, off])
                    }
                    false => value,
                })
            })
            .collect();
        let mut body = Vec::new();
        for (first, count) in blocks {
            if light.is_array() {
                body.push(Statement::ReadMany(at, *first, *count, puts.clone()));
            } else {
                body.push(Statement::Read(at, None));
                body.extend(puts.clone());
            }
        }
        let gives = (Receiver::Reads, false, Type::Void);
        module.functions.push(maker.done(put_name(at), String::new(), gives, body));
        names.push(put_name(at));
        last.push(Statement::Call(put_name(at), Vec::new()));
    }
    if plan.queue.is_some() {
        module.functions.push(put_notices(plan));
        names.push("put_notices".to_owned());
        last.push(Statement::Call("put_notices".to_owned(), Vec::new()));
    }
    module.functions.push(sample(plan, last));
    names.push("sample".to_owned());
    names
}

fn put_notices(plan: &Plan) -> crate::ir::Function {
    let mut maker = Maker::new(plan);
    let [sum, count] = ["sum", "count"].map(|name| maker.local(name, Type::F64));
    let more = |local: LocalId, value: Expr| Statement::Assign(local, Some(Op::Add), value);
    let mut each = vec![more(count, Expr::Number(1.0))];
    let factors = [Some(Expr::Local(count)), Some(Expr::Number(3.0))];
    let factors = factors.into_iter().chain(std::iter::repeat(None));
    for (value, factor) in notice_numbers(plan).into_iter().zip(factors) {
        each.push(more(
            sum,
            match factor {
                Some(factor) => both(Op::Multiply, value, factor),
                None => value,
            },
        ));
    }
    let fields = notices::notice_fields(plan).into_iter().enumerate();
    for (n, _) in fields.filter(|(_, field)| field.ty == Type::Text) {
        let text = Expr::Part(Record::Notice, n, 0, Type::Text);
        each.push(more(sum, Expr::Call("text_sum".to_owned(), vec![text])));
    }
    let put = |value: Expr| {
        let single = Expr::Do(Op::ToSingle, vec![value]);
        Statement::Call("put".to_owned(), vec![single])
    };
    let dropped = Expr::Call("dropped_notices".to_owned(), Vec::new());
    let body = vec![
        Statement::Let(sum, Expr::Number(0.0)),
        Statement::Let(count, Expr::Number(0.0)),
        Statement::EachNotice(each),
        put(Expr::Local(sum)),
        put(Expr::Do(Op::WordToNumber, vec![dropped])),
    ];
    let gives = (Receiver::Changes, false, Type::Void);
    maker.done("put_notices".to_owned(), String::new(), gives, body)
}

/// How many numbers a sample has before its inputs.
pub const SAMPLE_HEAD: usize = 3;

/// How many numbers a sample has.
pub fn sample_numbers(plan: &Plan) -> usize {
    let acts = if plan.has_acts() { 3 * ACTS } else { 0 };
    SAMPLE_HEAD + plan.given_slots() + acts + plan.most_given()
}

fn sample(plan: &Plan, last: Vec<Statement>) -> crate::ir::Function {
    let mut maker = Maker::new(plan);
    let asked = maker.parameter("asked", Type::Numbers);
    let number = |at: usize| Expr::Entry(asked, Box::new(Expr::Int(at as u32)));
    let given = |value: Expr, flag: bool| match flag {
        true => both(Op::Unequal, value, Expr::Number(0.0)),
        false => value,
    };
    let mut body = Vec::new();
    let mut before = SAMPLE_HEAD;
    for (n, input) in plan.given() {
        let width = input.default.len();
        match input.count {
            None => {
                let values = (0..width).map(|part| given(number(before + part), input.flag));
                body.push(Statement::Call(run::setter_name(n), values.collect()));
            }
            Some(count) => {
                let k = maker.local("k", Type::Word);
                let own = (0..width).map(|part| {
                    let first = both(
                        Op::IntMultiply,
                        Expr::Int(width as u32),
                        super::code::to_int(Expr::Local(k)),
                    );
                    let at = both(Op::IntAdd, first, Expr::Int((before + part) as u32));
                    given(Expr::Entry(asked, Box::new(at)), input.flag)
                });
                let values = std::iter::once(Expr::Local(k)).chain(own).collect();
                let set = Statement::Call(run::setter_name(n), values);
                body.push(Statement::For(k, Expr::Word(0), Expr::Word(count), vec![set]));
            }
        }
        before += input.slots();
    }
    let first_given = before + if plan.has_acts() { 3 * ACTS } else { 0 };
    for act in 0..if plan.has_acts() { ACTS } else { 0 } {
        let [kind, when, to] = [0, 1, 2].map(|n| number(before + 3 * act + n));
        body.push(Statement::Call("advance".to_owned(), vec![when]));
        let is = |verb: f64| both(Op::Equal, kind.clone(), Expr::Number(verb));
        let mut under = |condition: Expr, call: Statement| {
            body.push(Statement::If(condition, vec![call], Vec::new()));
        };
        if plan.clock.is_some() {
            let verbs = ["set_clock", "drive_clock", "set_clock_days", "set_clock_rate"];
            for (n, name) in verbs.into_iter().enumerate() {
                let call = Statement::Call(name.to_owned(), vec![to.clone()]);
                under(is((n + 1) as f64), call);
            }
        }
        // What is done to one of several is counted in thousands.
        // Never below 0. Every file can convert; not every one has a function that rounds.
        let whole =
            |expr: Expr| Expr::Do(Op::IntToNumber, vec![Expr::Do(Op::NumberToInt, vec![expr])]);
        let thousands = whole(both(Op::Divide, to.clone(), Expr::Number(1000.0)));
        let rest = both(
            Op::Subtract,
            to.clone(),
            both(Op::Multiply, thousands.clone(), Expr::Number(1000.0)),
        );
        let rest = Expr::Do(Op::NumberToWord, vec![rest]);
        let of = |verb: f64, n: usize| {
            let own = both(Op::Equal, thousands.clone(), Expr::Number(n as f64));
            both(Op::And, is(verb), own)
        };
        for n in 0..plan.choices.len() {
            under(of(5.0, n), Statement::Call(run::choice_key(n, "set"), vec![rest.clone()]));
        }
        for (n, (place, event)) in plan.fired().enumerate() {
            let values = event.values.iter().zip(&event.offsets).flat_map(|(place, offset)| {
                let input = &plan.inputs[*place];
                let parts = 0..input.default.len();
                parts.map(move |part| given(number(first_given + offset + part), input.flag))
            });
            let index = event.count.map(|_| rest.clone());
            let all = index.into_iter().chain(values).collect();
            under(of(6.0, n), Statement::Call(event::act_name(place), all));
        }
        for (n, (place, input)) in plan.given().enumerate().filter(|_| plan.follows()) {
            let verb = f64::from(crate::sample::FIRST_SET) + n as f64;
            let index = input.count.map(|_| Expr::Word(0));
            let value = given(to.clone(), input.flag);
            let values = vec![value; input.default.len()];
            let all = index.into_iter().chain(values).collect();
            under(is(verb), Statement::Call(run::setter_name(place), all));
        }
    }
    body.push(Statement::Call("advance".to_owned(), vec![number(0)]));
    body.extend(last);
    let gives = (Receiver::Changes, false, Type::Void);
    maker.done("sample".to_owned(), String::new(), gives, body)
}
