//! Tables of what a file has, look-up by name, and reads, setters and events by index: for hosts that bind at run time.

use std::collections::BTreeMap;

use caltrin_core::kernel::LAST_MOMENT;
use caltrin_core::program::Size;

use super::run::{self, choice_key, setter_name};
use super::{Maker, event, field};
use crate::ir::read::Known;
use crate::ir::{
    Entries, Expr, LocalId, Module, Operation as Op, Receiver, Record, Statement, Table, Type,
};
use crate::plan::{EventPlan, LightPlan, Plan, StatePlan};

/// How many values a lamp of a light has.
fn values_of(light: &LightPlan) -> u32 {
    light.fields.iter().map(|field| field.parts.len() as u32).sum()
}

fn lamps_of(light: &LightPlan) -> u32 {
    match light.size {
        Size::One => 1,
        Size::Many(count) => count,
        Size::Open => 0,
    }
}

/// What counts all that the tables have, with what each counts: the names of constants.
pub fn counts(plan: &Plan) -> Vec<(&'static str, &'static str, u32)> {
    let all = plan.lights.iter().map(|light| lamps_of(light) * values_of(light)).sum();
    vec![
        ("lights", "Lights and outputs.", plan.lights.len() as u32),
        ("all_values", "Values that read_all writes.", all),
        ("inputs", "Inputs that the game sets.", plan.given().count() as u32),
        ("choices", "Choices of the game.", plan.choices.len() as u32),
        ("events", "Events that the game fires.", plan.fired().count() as u32),
        ("switches", "Switches.", plan.switches.len() as u32),
        ("all_modes", "Sets of modes.", plan.modes.len() as u32),
        ("sequences", "Sequences.", plan.sequences.len() as u32),
    ]
}

/// The tables, by their names in the sources.
pub(super) fn tables(plan: &Plan) -> Vec<Table> {
    let mut all: Vec<(&str, Entries)> = Vec::new();
    let lights = &plan.lights;
    let fields = || lights.iter().flat_map(|light| &light.fields);
    let texts =
        |all: &mut dyn Iterator<Item = &str>| Entries::Texts(all.map(str::to_owned).collect());
    let words = |all: &mut dyn Iterator<Item = u32>| Entries::Words(all.collect());
    if !lights.is_empty() {
        let changes = |light: &LightPlan| light.fields.iter().map(|field| field.changes).max();
        let mut starts = vec![0];
        for light in lights {
            starts.push(starts[starts.len() - 1] + light.fields.len() as u32);
        }
        all.extend([
            ("light_names", texts(&mut lights.iter().map(|light| light.name.as_str()))),
            ("light_kinds", texts(&mut lights.iter().map(|light| light.kind.name()))),
            ("light_lamps", words(&mut lights.iter().map(lamps_of))),
            ("light_tags", words(&mut lights.iter().map(|light| light.tags))),
            ("light_changes", words(&mut lights.iter().map(|light| changes(light).unwrap_or(0)))),
            ("channel_starts", Entries::Words(starts)),
            ("channel_names", texts(&mut fields().map(|field| field.name.as_str()))),
            ("channel_units", texts(&mut fields().map(|field| field.unit.as_str()))),
            ("channel_parts", words(&mut fields().map(|field| field.parts.len() as u32))),
            ("channel_changes", words(&mut fields().map(|field| field.changes))),
        ]);
    }
    let inputs = || plan.given().map(|(_, input)| input);
    if inputs().next().is_some() {
        let kind = |flag: bool, suffixes: &[&str]| match (flag, suffixes) {
            (true, _) => "flag",
            (_, []) => "number",
            (_, ["r", ..]) => "color",
            _ => "point",
        };
        all.extend([
            ("input_names", texts(&mut inputs().map(|input| input.name.as_str()))),
            ("input_kinds", texts(&mut inputs().map(|input| kind(input.flag, input.suffixes)))),
            ("input_units", texts(&mut inputs().map(|input| input.symbol.as_str()))),
            ("input_counts", words(&mut inputs().map(|input| input.count.unwrap_or(1)))),
            ("input_min", Entries::Numbers(inputs().map(|input| input.bounds.lo).collect())),
            ("input_max", Entries::Numbers(inputs().map(|input| input.bounds.hi).collect())),
        ]);
    }
    if !plan.choices.is_empty() {
        let mut starts = vec![0];
        for choice in &plan.choices {
            starts.push(starts[starts.len() - 1] + choice.options.len() as u32);
        }
        let options = plan.choices.iter().flat_map(|choice| &choice.options);
        all.extend([
            ("choice_names", texts(&mut plan.choices.iter().map(|choice| choice.name.as_str()))),
            ("option_starts", Entries::Words(starts)),
            ("option_names", texts(&mut options.map(String::as_str))),
        ]);
    }
    let events = || plan.fired().map(|(_, event)| event);
    if events().next().is_some() {
        all.extend([
            ("event_names", texts(&mut events().map(|event| event.name.as_str()))),
            ("event_counts", words(&mut events().map(|event| event.count.unwrap_or(1)))),
            ("event_values", words(&mut events().map(|event| event.numbers as u32))),
        ]);
    }
    let states =
        [("switch", &plan.switches), ("modes", &plan.modes), ("sequence", &plan.sequences)];
    let names = states.map(|(name, _)| [format!("{name}_names"), format!("{name}_counts")]);
    for ((_, states), [names, counts]) in states.iter().zip(&names) {
        let count = |state: &StatePlan| plan.inputs[state.place].count.unwrap_or(1);
        all.push((names, texts(&mut states.iter().map(|state| state.name.as_str()))));
        all.push((counts, words(&mut states.iter().map(count))));
    }
    if !plan.modes.is_empty() {
        let mut starts = vec![0];
        for modes in &plan.modes {
            starts.push(starts[starts.len() - 1] + modes.options.len() as u32);
        }
        let options = plan.modes.iter().flat_map(|modes| &modes.options);
        all.push(("mode_starts", Entries::Words(starts)));
        all.push(("mode_names", texts(&mut options.map(String::as_str))));
    }
    let table = |(name, entries): (&str, Entries)| Table {
        name: format!("all_{name}"),
        about: String::new(),
        entries,
        hex: false,
    };
    let all = all.into_iter().map(table);
    // A light may have no channel at all.
    all.filter(|table| table.entries.count() > 0).collect()
}

/// The names of the functions, each after what it uses.
pub(super) fn binding(plan: &Plan, module: &mut Module) -> Vec<String> {
    let tables = tables(plan);
    let known_tables: Vec<(String, String, Type)> = tables
        .iter()
        .map(|table| {
            let name = table.name.trim_start_matches("all_").to_ascii_uppercase();
            (name, table.name.clone(), table.entries.ty())
        })
        .collect();
    let counted: Vec<(String, u32)> = counts(plan)
        .into_iter()
        .map(|(name, _, count)| (name.to_ascii_uppercase(), count))
        .collect();
    let channels = plan.lights.iter().map(|light| light.fields.len() as u32).sum();
    let known = || {
        let mut values: BTreeMap<&str, Expr> =
            counted.iter().map(|(name, count)| (name.as_str(), Expr::Word(*count))).collect();
        values.insert("CHANNELS", Expr::Word(channels));
        let tables = known_tables.iter();
        let tables = tables.map(|(name, table, ty)| (name.as_str(), (table.clone(), *ty)));
        Known {
            values,
            tables: tables.collect(),
            open: true,
            supplied: vec![("same_text", vec![Type::Text, Type::Text], Type::Bool)],
            ..Known::default()
        }
    };
    module.others.insert("same_text".to_owned(), (Receiver::None, Type::Bool));
    let mut names = Vec::new();
    if channels > 0 {
        put_lamp(plan, module, &mut names);
    }
    // Look-up by name is the same for all.
    for (one, what, constant) in NAMED {
        let table = |name: &str| {
            let known = known_tables.iter().find(|(known, ..)| known == name);
            known.map(|(_, table, ty)| (table.clone(), *ty))
        };
        let upper = one.to_ascii_uppercase();
        let Some(own) = table(&format!("{upper}_NAMES")) else { continue };
        let counts = table(&format!("{upper}_COUNTS"));
        let mut known = known();
        known.tables.insert("NAMES", own);
        known.tables.extend(counts.clone().map(|counts| ("COUNTS", counts)));
        let count = known.values[constant].clone();
        known.values.insert("ALL", count);
        let own = ["named", "name", "count"].map(|word| format!("{one}_{word}"));
        known.names.extend(["one_named", "one_name", "one_count"].into_iter().zip(own));
        let sources = [include_str!("sources/named.rs"), include_str!("sources/counted.rs")];
        for source in &sources[..1 + usize::from(counts.is_some())] {
            names.extend(read_about(source, &known, (what, constant), module));
        }
        let (starts, options) = match one {
            "choice" => ("OPTION_STARTS", "OPTION_NAMES"),
            "modes" => ("MODE_STARTS", "MODE_NAMES"),
            _ => continue,
        };
        let options = [("STARTS", starts), ("NAMES", options)];
        known.tables.extend(options.into_iter().filter_map(|(name, of)| Some((name, table(of)?))));
        let option = if one == "choice" { "option" } else { "mode" };
        known.names.extend([
            ("option_count", format!("{one}_option_count")),
            ("option_name", format!("{option}_name")),
            ("option_named", format!("{option}_named")),
        ]);
        let source = include_str!("sources/options.rs");
        names.extend(read_about(source, &known, (what, constant), module));
    }
    if channels > 0 {
        names.extend(run::read(include_str!("sources/lights.rs"), &known(), module));
        read_lamp(plan, module, &mut names);
    }
    if plan.given().next().is_some() {
        names.extend(run::read(include_str!("sources/inputs.rs"), &known(), module));
        inputs(plan, module, &mut names);
    }
    if !plan.choices.is_empty() {
        choices(plan, module, &mut names);
    }
    if plan.fired().next().is_some() {
        names.extend(run::read(include_str!("sources/events.rs"), &known(), module));
        events(plan, module, &mut names);
    }
    let mut add = |of: State<'_>| state(plan, &of, module, &mut names);
    if !plan.switches.is_empty() {
        add(State {
            one: "switch",
            name: "switch_on",
            about: "Returns whether a switch is on or fading in.",
            states: &plan.switches,
            ty: Type::Bool,
            read: &|kept| kept,
        });
    }
    if !plan.modes.is_empty() {
        add(State {
            one: "modes",
            name: "active_mode",
            about: "Returns the index of the active mode.",
            states: &plan.modes,
            ty: Type::Word,
            read: &|kept| Expr::Do(Op::NumberToWord, vec![kept]),
        });
    }
    if !plan.sequences.is_empty() {
        add(State {
            one: "sequence",
            name: "sequence_elapsed",
            about: "Returns the seconds since a sequence was last started, or -1 if it never was.",
            states: &plan.sequences,
            ty: Type::F64,
            read: &|started| {
                let never = both(Op::Less, started.clone(), Expr::Number(-LAST_MOMENT));
                let passed = both(Op::Subtract, super::now(), started);
                Expr::Do(Op::Select, vec![never, Expr::Number(-1.0), passed])
            },
        });
    }
    names
}

/// What is looked up by name: its word in names of functions and tables, what a comment calls it, and the constant that counts
/// it.
const NAMED: [(&str, &str, &str); 7] = [
    ("light", "light or output", "LIGHTS"),
    ("input", "input", "INPUTS"),
    ("choice", "choice", "CHOICES"),
    ("event", "event", "EVENTS"),
    ("switch", "switch", "SWITCHES"),
    ("modes", "modes", "ALL_MODES"),
    ("sequence", "sequence", "SEQUENCES"),
];

/// Reads functions whose comments name what they are for.
fn read_about(
    source: &str,
    known: &Known<'_>,
    (what, constant): (&str, &str),
    module: &mut Module,
) -> Vec<String> {
    let source = source.replace("WHAT", what).replace("CONSTANT", constant);
    run::read(&source, known, module)
}

/// How the state of switches, modes or sequences is read.
struct State<'p> {
    /// Its word in names of functions.
    one: &'p str,
    /// The function.
    name: &'p str,
    about: &'p str,
    states: &'p [StatePlan],
    ty: Type,
    /// The value, from what is kept.
    read: &'p dyn Fn(Expr) -> Expr,
}

/// Adds a function that reads a state by index; off, the first mode, or -1 if an index is out of range.
fn state(plan: &Plan, of: &State<'_>, module: &mut Module, names: &mut Vec<String>) {
    let mut maker = Maker::new(plan);
    let which = maker.parameter("which", Type::Word);
    let index = maker.parameter("index", Type::Word);
    let none = || {
        Statement::Return(match of.ty {
            Type::Bool => Expr::Flag(false),
            Type::Word => Expr::Word(0),
            _ => Expr::Number(-1.0),
        })
    };
    let cases = of.states.iter().enumerate().map(|(n, state)| {
        let many = plan.inputs[state.place].count.is_some();
        let at = many.then(|| super::code::to_int(Expr::Local(index)));
        (n, vec![Statement::Return((of.read)(Expr::Run(maker.input(state.place, 0, at))))])
    });
    let mut body = vec![leave_unless(&format!("{}_count", of.one), which, index, Some(none()))];
    body.extend(one_of(which, cases.collect()));
    body.push(none());
    let gives = (Receiver::Reads, true, of.ty);
    module.functions.push(maker.done(of.name.to_owned(), of.about.to_owned(), gives, body));
    names.push(of.name.to_owned());
}

fn both(operation: Op, a: Expr, b: Expr) -> Expr {
    Expr::Do(operation, vec![a, b])
}

/// One of several by its index: a chain of conditions.
fn one_of(which: LocalId, cases: Vec<(usize, Vec<Statement>)>) -> Vec<Statement> {
    cases.into_iter().rev().fold(Vec::new(), |rest, (n, does)| {
        let is = both(Op::Equal, Expr::Local(which), Expr::Word(n as u32));
        vec![Statement::If(is, does, rest)]
    })
}

/// Leaves a function where an index is not one of those that a function counts.
fn leave_unless(
    counts: &str,
    which: LocalId,
    index: LocalId,
    gives: Option<Statement>,
) -> Statement {
    let count = Expr::Call(counts.to_owned(), vec![Expr::Local(which)]);
    let outside = both(Op::Outside, Expr::Local(index), count);
    Statement::If(outside, vec![gives.unwrap_or(Statement::Stop)], Vec::new())
}

/// What puts the values of a lamp into a list from a place on, and gives the place after them.
fn put_lamp(plan: &Plan, module: &mut Module, names: &mut Vec<String>) {
    let mut maker = Maker::new(plan);
    let light = maker.parameter("light", Type::Word);
    let index = maker.parameter("index", Type::Word);
    let values = maker.parameter("values", Type::Singles);
    let at = maker.parameter("at", Type::Int);
    let lights = plan.lights.iter().enumerate().filter(|(_, light)| !light.fields.is_empty());
    let cases = lights.map(|(n, own)| {
        let mut does = vec![Statement::ReadAt(n, own.is_array().then_some(Expr::Local(index)))];
        let parts = own.fields.iter().enumerate();
        let parts = parts
            .flat_map(|(field, own)| (0..own.parts.len()).map(move |part| (field, part, own.flag)));
        for (k, (field, part, flag)) in parts.enumerate() {
            let ty = if flag { Type::Bool } else { Type::F32 };
            let value = Expr::Part(Record::Lamp, field, part, ty);
            let [on, off] = [1.0, 0.0].map(Expr::Single);
            let value = if flag { Expr::Do(Op::Select, vec![value, on, off]) } else { value };
            let place = match k {
                0 => Expr::Local(at),
                k => both(Op::IntAdd, Expr::Local(at), Expr::Int(k as u32)),
            };
            does.push(Statement::SetEntry(values, place, value));
        }
        let after = both(Op::IntAdd, Expr::Local(at), Expr::Int(values_of(own)));
        does.push(Statement::Return(after));
        (n, does)
    });
    // One that there is not has no values; where the game decides how many there are, all are there.
    let lamps = maker.local("most", Type::Word);
    let none = vec![Statement::Return(Expr::Local(at))];
    let table = |name: &str, at: Expr| {
        Expr::TableEntry(name.to_owned(), Type::Words, Box::new(super::code::to_int(at)))
    };
    let count = Expr::Word(plan.lights.len() as u32);
    let mut body = vec![
        Statement::If(both(Op::Outside, Expr::Local(light), count), none.clone(), Vec::new()),
        Statement::Let(lamps, table("all_light_lamps", Expr::Local(light))),
        Statement::If(
            both(
                Op::And,
                both(Op::Unequal, Expr::Local(lamps), Expr::Word(0)),
                both(Op::Outside, Expr::Local(index), Expr::Local(lamps)),
            ),
            none,
            Vec::new(),
        ),
    ];
    body.extend(one_of(light, cases.collect()));
    body.push(Statement::Return(Expr::Local(at)));
    let about =
        "Writes the values of a lamp to an array from `at` on and returns the index after them."
            .to_owned();
    let gives = (Receiver::Reads, false, Type::Int);
    module.functions.push(maker.done("put_lamp".to_owned(), about, gives, body));
    names.push("put_lamp".to_owned());
}

/// What reads one lamp of a light by its index.
fn read_lamp(plan: &Plan, module: &mut Module, names: &mut Vec<String>) {
    let mut maker = Maker::new(plan);
    let parameters = [("light", Type::Word), ("index", Type::Word), ("values", Type::Singles)];
    let [light, index, values] =
        parameters.map(|(name, ty)| Expr::Local(maker.parameter(name, ty)));
    let put = Expr::Call("put_lamp".to_owned(), vec![light, index, values, Expr::Int(0)]);
    let about = "Reads the channels of a lamp into an array, in their order, and returns the number of values; 0 if an index \
                 is out of range. Flags are 0 or 1."
        .to_owned();
    let gives = (Receiver::Reads, true, Type::Int);
    let body = vec![Statement::Return(put)];
    module.functions.push(maker.done("read_lamp".to_owned(), about, gives, body));
    names.push("read_lamp".to_owned());
}

/// What sets and gives inputs by their index.
fn inputs(plan: &Plan, module: &mut Module, names: &mut Vec<String>) {
    let mut setter = Maker::new(plan);
    let input = setter.parameter("input", Type::Word);
    let index = setter.parameter("index", Type::Word);
    let values = setter.parameter("values", Type::Numbers);
    let cases = plan.given().enumerate().map(|(k, (n, own))| {
        let index = own.count.map(|_| Expr::Local(index));
        let given = (0..own.default.len()).map(|part| {
            let value = Expr::Entry(values, Box::new(Expr::Int(part as u32)));
            if own.flag { both(Op::Unequal, value, Expr::Number(0.0)) } else { value }
        });
        (k, vec![Statement::Call(setter_name(n), index.into_iter().chain(given).collect())])
    });
    let mut body = vec![leave_unless("input_count", input, index, None)];
    body.extend(one_of(input, cases.collect()));
    let about = "Sets an input by index, from an array of one number, three for a color or a point, or 0 or 1 for a flag. \
                 `index` selects the instance or lamp. An index out of range has no effect."
        .to_owned();
    let gives = (Receiver::Changes, true, Type::Void);
    module.functions.push(setter.done("set_input".to_owned(), about, gives, body));
    names.push("set_input".to_owned());

    let mut giver = Maker::new(plan);
    let input = giver.parameter("input", Type::Word);
    let index = giver.parameter("index", Type::Word);
    let part = giver.parameter("part", Type::Word);
    let cases: Vec<(usize, Vec<Statement>)> = plan
        .given()
        .enumerate()
        .map(|(k, (n, own))| {
            let at = own.count.map(|_| super::code::to_int(Expr::Local(index)));
            let value = |part: usize| {
                let value = Expr::Run(giver.input(n, part, at.clone()));
                match own.flag {
                    true => Expr::Do(Op::Select, vec![value, Expr::Number(1.0), Expr::Number(0.0)]),
                    false => value,
                }
            };
            let mut does = Vec::new();
            for n in 1..own.default.len() {
                let is = both(Op::Equal, Expr::Local(part), Expr::Word(n as u32));
                does.push(Statement::If(is, vec![Statement::Return(value(n))], Vec::new()));
            }
            does.push(Statement::Return(value(0)));
            (k, does)
        })
        .collect();
    let none = || Statement::Return(Expr::Number(0.0));
    let beyond = both(Op::Outside, Expr::Local(part), Expr::Word(3));
    let mut body = vec![
        leave_unless("input_count", input, index, Some(none())),
        Statement::If(beyond, vec![none()], Vec::new()),
    ];
    body.extend(one_of(input, cases));
    body.push(none());
    let about =
        "Returns the value of an input, or one of its three parts. Flags are 0 or 1.".to_owned();
    let gives = (Receiver::Reads, true, Type::F64);
    module.functions.push(giver.done("input_value".to_owned(), about, gives, body));
    names.push("input_value".to_owned());
}

/// What makes and gives choices by their index.
fn choices(plan: &Plan, module: &mut Module, names: &mut Vec<String>) {
    let mut maker = Maker::new(plan);
    let choice = maker.parameter("choice", Type::Word);
    let option = maker.parameter("option", Type::Word);
    let cases = (0..plan.choices.len())
        .map(|n| (n, vec![Statement::Call(choice_key(n, "set"), vec![Expr::Local(option)])]));
    let body = one_of(choice, cases.collect());
    let about =
        "Selects an option of a choice by index. An index out of range has no effect.".to_owned();
    let gives = (Receiver::Changes, true, Type::Void);
    module.functions.push(maker.done("choose".to_owned(), about, gives, body));
    names.push("choose".to_owned());

    let mut maker = Maker::new(plan);
    let choice = maker.parameter("choice", Type::Word);
    let cases = (0..plan.choices.len()).map(|n| {
        let chosen = Expr::Run(field(&choice_key(n, "chosen"), Type::Word));
        (n, vec![Statement::Return(chosen)])
    });
    let mut body = one_of(choice, cases.collect());
    body.push(Statement::Return(Expr::Word(0)));
    let about = "Returns the index of the selected option.".to_owned();
    let gives = (Receiver::Reads, true, Type::Word);
    module.functions.push(maker.done("chosen".to_owned(), about, gives, body));
    names.push("chosen".to_owned());
}

/// What fires events by their index.
fn events(plan: &Plan, module: &mut Module, names: &mut Vec<String>) {
    let mut maker = Maker::new(plan);
    let which = maker.parameter("event", Type::Word);
    let index = maker.parameter("index", Type::Word);
    let comes = plan.fired().any(|(_, event)| !event.values.is_empty());
    let values = if comes { maker.parameter("values", Type::Numbers) } else { index };
    let given = |event: &EventPlan| -> Vec<Expr> {
        let places = event.values.iter().zip(&event.offsets);
        let each = places.flat_map(|(place, offset)| {
            let input = &plan.inputs[*place];
            (0..input.default.len()).map(move |part| (offset + part, input.flag))
        });
        each.map(|(at, flag)| {
            let value = Expr::Entry(values, Box::new(Expr::Int(at as u32)));
            if flag { both(Op::Unequal, value, Expr::Number(0.0)) } else { value }
        })
        .collect()
    };
    let cases = plan.fired().enumerate().map(|(k, (n, own))| {
        let index = own.count.map(|_| Expr::Local(index));
        let all = index.into_iter().chain(given(own)).collect();
        (k, vec![Statement::Call(event::act_name(n), all)])
    });
    let mut body = vec![leave_unless("event_count", which, index, None)];
    body.extend(one_of(which, cases.collect()));
    let about = "Fires an event by index, with an array of its values. `index` selects the instance or lamp. An index out of \
                 range has no effect."
        .to_owned();
    let gives = (Receiver::Changes, true, Type::Void);
    module.functions.push(maker.done("fire_event".to_owned(), about, gives, body));
    names.push("fire_event".to_owned());
}
