//! Lowering: what a plan holds as functions of the [`crate::ir`] tree, the same for all languages.

mod binding;
mod code;
mod event;
mod notices;
mod run;
mod saving;
mod test;

use std::collections::{BTreeSet, HashMap};

use caltrin_core::program::Dial;

use crate::ir::fold::fold;
use crate::ir::share::{Sharing, share};
use crate::ir::{
    Entries, Expr, Function, Local, LocalId, Module, Operation, Receiver, Record, RunField,
    Statement, Table, Type,
};
use crate::language::{Extras, GivenNames, Language};
use crate::names::cased;
use crate::plan::{self, LightPlan, Plan, Role, TablePlan};
use crate::print::{FileNames, KERNEL, at_line, describe};
pub use binding::counts;
pub use notices::{NoticeField, NoticeFunctions, notice_fields};
pub use saving::save_bytes;
pub use test::{is_of_test, prover as test_prover, sample_numbers};

/// The functions of a file, and what its lights do.
pub struct Lowered {
    /// Where each function stands in the module.
    places: HashMap<String, usize>,
    /// All functions: the kernel's, those of the run, and the book's.
    pub module: Module,
    /// The names of the book's functions in the module.
    pub book: Vec<String>,
    /// Of each event: when it is due, what it does to each instance or lamp, and what it does.
    pub events: Vec<EventFunctions>,
    /// The clock's functions.
    pub clock: Vec<String>,
    /// The functions of each choice.
    pub choices: Vec<Vec<String>>,
    /// What finds a spark that is free, of each pool.
    pub sparks: Vec<Option<String>>,
    /// What sets each input that the game sets.
    pub setters: Vec<String>,
    /// What takes a run on.
    pub course: Vec<String>,
    /// The functions of notices.
    pub notices: NoticeFunctions,
    /// The functions of the self-test.
    pub test: Vec<String>,
    /// What writes and reads saves.
    pub saving: Vec<String>,
    /// What a host binds by.
    pub binding: Vec<String>,
    /// What reads the lamps of each light: its statements, of which those from a place on are done for each lamp.
    pub lights: Vec<(Function, usize)>,
    /// What takes a notice.
    pub take: Option<Function>,
}

/// The names of an event's functions in the module.
pub struct EventFunctions {
    /// When it is due.
    pub due: Option<String>,
    /// What it does to each instance or lamp.
    pub each: Vec<String>,
    /// What it does.
    pub act: String,
}

/// The type of a value in the tree.
fn type_of(ty: plan::Type) -> Type {
    match ty {
        plan::Type::Number => Type::F64,
        plan::Type::Word => Type::Word,
        plan::Type::Flag => Type::Bool,
    }
}

/// What a book's function is called in the module; no function of the kernel has a blank in its name.
fn book_name(n: usize) -> String {
    format!("book {n}")
}

/// A table of the book.
fn table(TablePlan { table, about }: &TablePlan) -> Table {
    use caltrin_core::program::Entries as Kept;
    Table {
        name: table.name.clone(),
        about: about.clone(),
        entries: match &table.entries {
            Kept::Numbers(all) => Entries::Numbers(all.clone()),
            Kept::Words(all) => Entries::Words(all.clone()),
        },
        hex: true,
    }
}

/// What a choice keeps as a field of the run.
pub(crate) fn choice_field(n: usize, name: &str) -> String {
    run::choice_key(n, name)
}

/// What an input is called as a field of the run.
pub(crate) fn input_field(n: usize) -> String {
    format!("input {n}")
}

fn field(name: &str, ty: Type) -> RunField {
    RunField { field: name.to_owned(), index: None, part: None, ty }
}

fn now() -> Expr {
    Expr::Run(field("now", Type::F64))
}

/// A function on its way into the tree.
struct Maker<'p> {
    plan: &'p Plan,
    locals: Vec<Local>,
    /// What the plan's locals are.
    own: Vec<LocalId>,
    parameters: usize,
    now: Expr,
    seed: Expr,
    clock: [Expr; 2],
    index: Expr,
}

impl<'p> Maker<'p> {
    fn new(plan: &'p Plan) -> Self {
        Maker {
            plan,
            locals: Vec::new(),
            own: Vec::new(),
            parameters: 0,
            now: now(),
            seed: Expr::Run(field("seed", Type::Word)),
            clock: [Expr::Number(0.0), Expr::Number(0.0)],
            index: Expr::Word(0),
        }
    }

    fn local(&mut self, name: &str, ty: Type) -> LocalId {
        let local = Local { name: name.to_owned(), ty, changes: false, used: false };
        self.locals.push(local);
        LocalId(self.locals.len() - 1)
    }

    fn parameter(&mut self, name: &str, ty: Type) -> LocalId {
        self.parameters += 1;
        self.local(name, ty)
    }

    /// The lines that name what is asked for of the hour, the number of days and the moment.
    fn moments(&mut self, [hour, days, now]: [bool; 3], body: &mut Vec<Statement>) {
        for (n, (asked, name)) in [(hour, "hour"), (days, "days")].into_iter().enumerate() {
            if asked {
                let local = self.local(name, Type::F64);
                let shown = Expr::Call(format!("clock_{name}"), Vec::new());
                body.push(Statement::Let(local, shown));
                self.clock[n] = Expr::Local(local);
            }
        }
        if now {
            let local = self.local("t", Type::F64);
            body.push(Statement::Let(local, self::now()));
            self.now = Expr::Local(local);
        }
    }

    fn done(
        self,
        name: String,
        about: String,
        (receiver, public, result): (Receiver, bool, Type),
        body: Vec<Statement>,
    ) -> Function {
        let Maker { locals, parameters, .. } = self;
        let mut function =
            Function { name, about, receiver, public, parameters, locals, result, body };
        fold(&mut function);
        function
    }
}

impl Lowered {
    /// Lowers a plan with what a language has room for.
    pub fn of(plan: &Plan, Extras { saves, binds }: Extras) -> Lowered {
        let mut module = Module {
            constants: KERNEL.constants.clone(),
            functions: KERNEL.functions.clone(),
            ..Module::default()
        };
        module.tables = plan.tables.iter().map(table).collect();
        module.tables.extend(notices::tables(plan));
        module.tables.extend(test::tables(plan));
        if saves {
            module.tables.extend(saving::tables(plan));
        }
        if binds {
            module.tables.extend(binding::tables(plan));
        }
        let mut book = Vec::new();
        for (n, function) in plan.functions.iter().enumerate() {
            module.functions.push(book_function(plan, n, function));
            book.push(book_name(n));
        }
        let sparks = run::sparks(plan, &mut module);
        let setters = run::setters(plan, &mut module);
        let clock = run::clock(plan, &mut module);
        let choices = run::choices(plan, &mut module);
        let events = event::events(plan, &mut module);
        let notices = notices::sends(plan, &mut module);
        let course = run::advance(plan, &events, &mut module);
        let test = test::self_test(plan, saves, &mut module);
        let saving = if saves { saving::saving(plan, &mut module) } else { Vec::new() };
        let binding = if binds { binding::binding(plan, &mut module) } else { Vec::new() };
        let mut lights: Vec<(Function, usize)> =
            plan.lights.iter().map(|light| light_body(plan, light)).collect();
        let mut take = notices::take(plan);
        let signatures = signatures(&module);
        let name = |expr: &Expr| value_name(plan, expr);
        let sharing = Sharing { module: &signatures, name: &name };
        // What reads lamps by turns has no value that outlasts the turn.
        let tested: BTreeSet<&String> = test.iter().chain(&binding).collect();
        let own = module.functions[KERNEL.functions.len()..].iter_mut();
        let own = own.filter(|function| !tested.contains(&function.name));
        for function in own.chain(&mut take) {
            share(function, &sharing, 0);
        }
        for (function, apart) in &mut lights {
            *apart = share(function, &sharing, *apart);
        }
        let places = module.functions.iter().enumerate();
        let places = places.map(|(n, function)| (function.name.clone(), n)).collect();
        Lowered {
            places,
            module,
            book,
            events,
            clock,
            choices,
            sparks,
            setters,
            course,
            notices,
            test,
            saving,
            binding,
            lights,
            take,
        }
    }

    /// The names of all that the functions of the file need of the kernel.
    pub fn needs(&self, plan: &Plan) -> BTreeSet<String> {
        let kernel: BTreeSet<&String> = (KERNEL.functions.iter().map(|own| &own.name))
            .chain(KERNEL.constants.iter().map(|own| &own.name))
            .collect();
        let helpers = plan.helpers.iter().map(|helper| helper.name().to_owned());
        let own = self.module.functions[KERNEL.functions.len()..].iter();
        let used = own.flat_map(Function::uses);
        helpers.chain(used).filter(|name| kernel.contains(name)).collect()
    }

    /// A function by its name in the module.
    ///
    /// # Panics
    /// If there is none.
    pub fn function(&self, name: &str) -> &Function {
        let place = self.places.get(name).unwrap_or_else(|| panic!("`{name}` is lowered"));
        &self.module.functions[*place]
    }
}

/// What all functions have of the run, and their results.
fn signatures(module: &Module) -> Module {
    let each = module.functions.iter();
    let each = each.map(|own| (own.name.clone(), (own.receiver, own.result)));
    Module { constants: module.constants.clone(), others: each.collect(), ..Module::default() }
}

/// What a value is called that is used more than once: by what gives it.
pub(crate) fn value_name(plan: &Plan, expr: &Expr) -> String {
    let own = |key: &str| -> Option<String> {
        let mut words = key.split(' ');
        let (kind, n) = (words.next()?, words.next()?.parse::<usize>().ok()?);
        match kind {
            "book" => Some(plan.functions[n].name.clone()),
            "input" => Some(plan.inputs[n].name.clone()),
            "choice" => Some(format!("{}_{}", plan.choices[n].name, words.next()?)),
            _ => None,
        }
    };
    match expr {
        Expr::Call(name, _) => own(name).unwrap_or_else(|| kernel_value(name).to_owned()),
        Expr::Run(place) => own(&place.field).unwrap_or_else(|| place.field.clone()),
        Expr::TableEntry(name, ..) => format!("{name}_entry"),
        Expr::Do(operation, parts) => match operation {
            Operation::Add | Operation::WordAdd | Operation::IntAdd => "sum",
            Operation::Subtract => match parts.as_slice() {
                // A moment less another one.
                [a, _] if *a == now() => "passed",
                _ => "difference",
            },
            Operation::WordSubtract | Operation::IntSubtract => "difference",
            Operation::Multiply | Operation::WordMultiply | Operation::IntMultiply => "product",
            Operation::Divide => "ratio",
            Operation::WordDivide | Operation::IntDivide => "quotient",
            Operation::WordRemainder | Operation::IntRemainder => "rest",
            Operation::SquareRoot => "root",
            Operation::Floor => "whole",
            Operation::WordToInt | Operation::NumberToInt => "place",
            Operation::Select => "choice",
            Operation::Negate => "opposite",
            Operation::WordToNumber
            | Operation::IntToNumber
            | Operation::NumberToWord
            | Operation::SingleToNumber
            | Operation::ToSingle => "number",
            Operation::WordXor
            | Operation::WordAnd
            | Operation::ShiftRight
            | Operation::HighBits
            | Operation::LowBits => "bits",
            Operation::FromBits => "number",
            Operation::ToFixed => "exact",
            Operation::FixedWhole => "whole",
            Operation::FixedPart => "part",
            Operation::IsNan
            | Operation::IsFinite
            | Operation::Equal
            | Operation::Unequal
            | Operation::Less
            | Operation::AtMost
            | Operation::Greater
            | Operation::AtLeast
            | Operation::Outside
            | Operation::And
            | Operation::Or
            | Operation::Not => "holds",
        }
        .to_owned(),
        _ => "value".to_owned(),
    }
}

/// What a function of the kernel gives.
fn kernel_value(name: &str) -> &str {
    match name {
        "lerp" => "mix",
        "clamp" | "min" | "max" => "bounded",
        "to_unit" => "chance",
        "chance_key" | "lamp_key" => "key",
        "scramble" | "draw" => "drawn",
        "share" => "part",
        name if name.starts_with("ease") => "eased",
        name => name,
    }
}

/// The functions of the book, each after those that it uses.
pub(crate) fn book_functions(plan: &Plan) -> Vec<Function> {
    let all = plan.functions.iter().enumerate();
    all.map(|(n, function)| book_function(plan, n, function)).collect()
}

/// The tables of the book.
pub(crate) fn book_tables(plan: &Plan) -> Vec<Table> {
    plan.tables.iter().map(table).collect()
}

/// What makes the lamps of a light.
pub(crate) fn light_function(plan: &Plan, light: &LightPlan) -> Function {
    light_body(plan, light).0
}

/// A function of the book.
fn book_function(plan: &Plan, n: usize, function: &plan::Function) -> Function {
    let mut maker = Maker::new(plan);
    let ids: Vec<LocalId> = function.locals.iter().map(|_| LocalId(usize::MAX)).collect();
    maker.own = ids;
    for (role, local, ty) in &function.parameters {
        let id = maker.parameter(&function.locals[local.0], type_of(*ty));
        maker.own[local.0] = id;
        match role {
            Role::Now => maker.now = Expr::Local(id),
            Role::Seed => maker.seed = Expr::Local(id),
            Role::Clock(Dial::Hour) => maker.clock[0] = Expr::Local(id),
            Role::Clock(Dial::Days) => maker.clock[1] = Expr::Local(id),
            Role::Key
            | Role::Input(..)
            | Role::IsChosen(_)
            | Role::Weight(..)
            | Role::Value(..) => {}
        }
    }
    let body = maker.statements(&function.locals, &function.body);
    let about = format!("{}{}", describe(function), at_line(&function.note, plan));
    maker.done(book_name(n), about, (Receiver::None, false, type_of(function.result)), body)
}

/// The statements of a light, of which the second part stands after the first. `index` says whether lamps have one.
fn light_body(plan: &Plan, light: &LightPlan) -> (Function, usize) {
    let mut maker = Maker::new(plan);
    let mut body = Vec::new();
    maker.own = light.locals.iter().map(|_| LocalId(usize::MAX)).collect();
    let index = maker.parameter("index", Type::Word);
    maker.index = Expr::Local(index);
    maker.moments(light.asks(), &mut body);
    body.extend(maker.statements(&light.locals, &light.shared));
    let shared = body.len();
    body.extend(maker.statements(&light.locals, &light.lamp));
    for (n, field) in light.fields.iter().enumerate() {
        for (part, value) in field.parts.iter().enumerate() {
            let value = maker.lamp_value(field, value);
            body.push(Statement::Make(Record::Lamp, n, part, value));
        }
    }
    let function = maker.done(
        format!("light {}", light.name),
        String::new(),
        (Receiver::Reads, false, Type::Void),
        body,
    );
    (function, shared)
}

/// What things of a plan are called in a language.
pub fn given_names(plan: &Plan, names: &FileNames, language: &Language) -> GivenNames {
    let mut given = GivenNames::default();
    let none = Vec::new;
    for name in ["now", "seed", "due"] {
        let printed = cased(name, language.names.fields);
        given.fields.insert(name.to_owned(), (printed, none()));
    }
    for (name, ..) in plan.clock.iter().flat_map(plan::clock_fields) {
        let renamed = language.names.clock.get(name).cloned();
        let printed = renamed.unwrap_or_else(|| cased(name, language.names.fields));
        given.fields.insert(name.to_owned(), (printed, none()));
    }
    for (n, (input, own)) in plan.inputs.iter().zip(&names.inputs).enumerate() {
        let suffixes = input.suffixes.iter().map(|part| part.to_ascii_uppercase()).collect();
        given.fields.insert(input_field(n), (own.field.clone(), suffixes));
        given.functions.insert(run::setter_name(n), own.set.clone());
    }
    for (n, own) in names.choices.iter().enumerate() {
        for (name, printed) in [("chosen", &own.field), ("since", &own.since), ("from", &own.from)]
        {
            given.fields.insert(run::choice_key(n, name), (printed.clone(), none()));
        }
        given.functions.insert(run::choice_key(n, "set"), own.set.clone());
        given.functions.insert(run::choice_key(n, "weight"), own.weight.clone());
    }
    for (n, name) in names.functions.iter().enumerate() {
        given.functions.insert(book_name(n), name.clone());
    }
    for (n, name) in names.sparks.iter().enumerate() {
        given.functions.insert(run::spark_name(n), name.clone());
    }
    for (n, own) in names.events.iter().enumerate() {
        given.functions.insert(event::due_name(n), own.due.clone());
        given.functions.insert(event::act_name(n), own.act.clone());
        for (k, each) in own.each.iter().enumerate() {
            given.functions.insert(event::each_name(n, k), each.clone());
        }
    }
    for (n, own) in names.lights.iter().enumerate() {
        given.functions.insert(test::check_name(n), own.check.clone());
        given.functions.insert(test::put_name(n), own.put.clone());
    }
    for (light, name) in &names.places {
        given.functions.insert(notices::place_name(*light), name.clone());
    }
    for (table, name) in plan.tables.iter().zip(&names.tables) {
        given.tables.insert(table.table.name.clone(), name.clone());
    }
    if language.names.fields_beside_locals {
        let fields = given.fields.values().flat_map(|(name, suffixes)| {
            let parts = suffixes.iter().map(move |suffix| format!("{name}{suffix}"));
            parts.chain(std::iter::once(name.clone()))
        });
        given.hidden = fields.collect();
    }
    given
}
