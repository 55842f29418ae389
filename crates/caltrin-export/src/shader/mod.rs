//! Shader export: lights that depend on time, chance, inputs and the lamp index only, in single precision.
//!
//! The double-precision functions of [`crate::lower`] are converted to single precision (`convert.rs`). Time becomes
//! fixed-point numbers, for which `source.rs` has its own kernel functions. The result is printed in each language
//! ([`print()`]), interpreted as the reference ([`Shader::reference`]), and compared with the preview ([`measure`]).

mod convert;
mod exclusion;
mod measure;
mod print;
mod specialize;

use std::collections::{BTreeMap, BTreeSet};
use std::sync::LazyLock;

use caltrin_core::ValidatedProgram;

use crate::ir::read::{Known, module_with};
use crate::ir::share::{Sharing, share};
use crate::ir::walk::{Around, Functions, Value};
use crate::ir::{Expr, Function, Local, LocalId, Module, Operation, Statement, Type, each_expr};
use crate::lower;
use crate::plan::Plan;
use crate::print::KERNEL;

use convert::{FixedTypes, frame_field};
pub use measure::{
    Deviation, HORIZONS, Sample, TOLERANCE, WINDOW, measure, samples, words_of_sample,
};
pub(crate) use print::ShaderFile;
pub use print::{LightNames, Names, file_name, names, print};
use specialize::Specializer;

/// The kernel functions that differ in single precision.
static SINGLES: LazyLock<Module> = LazyLock::new(|| {
    module_with(include_str!("source.rs"), &KERNEL, &Known::default())
        .expect("the source is read in a test")
});

/// The whole kernel in single precision.
pub fn kernel() -> Module {
    let mut all = Module { single: true, ..KERNEL.clone() };
    all.functions.retain(|function| SINGLES.function(&function.name).is_none());
    all.constants.extend(SINGLES.constants.iter().cloned());
    all.functions.extend(SINGLES.functions.iter().cloned());
    for constant in &mut all.constants {
        if constant.name == "last_hour" {
            constant.value = Expr::Number(LAST_HOUR);
        }
    }
    all
}

/// The last hour of a day in single precision.
const LAST_HOUR: f64 = 23.999998092651367;

/// The lights of a book as shader functions.
#[derive(Clone, Debug)]
pub struct Shader {
    /// Constants, tables, and functions, each after those that it uses.
    pub module: Module,
    /// The fields of the frame: everything that all lamps share, in order, 4 bytes each.
    pub frame: Vec<FrameField>,
    /// The exported lights.
    pub lights: Vec<ShaderLight>,
    /// The lights that cannot be exported.
    pub excluded: Vec<ExcludedLight>,
}

/// An exported light.
#[derive(Clone, Debug)]
pub struct ShaderLight {
    /// The book's name.
    pub name: String,
    /// Its place in [`Plan::lights`].
    pub place: usize,
    /// Computes one lamp. Its parameters are the lamp index, if it is used, and the lamp's own inputs.
    pub function: Function,
    /// Whether the first parameter is the index.
    pub by_index: bool,
    /// The inputs that exist once per lamp or instance: index in [`Plan::inputs`], and component.
    pub own: Vec<(usize, usize)>,
    /// Its measured deviation from the preview.
    pub deviation: Deviation,
}

impl ShaderLight {
    /// The parameter names of [`ShaderLight::own`].
    pub fn own_names(&self) -> impl Iterator<Item = &str> {
        let first = usize::from(self.by_index);
        let own = &self.function.locals[first..self.function.parameters];
        own.iter().map(|local| local.name.as_str())
    }
}

/// A light that cannot be exported.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ExcludedLight {
    /// The book's name.
    pub light: String,
    /// The reason.
    pub reason: String,
}

/// The source of a frame field.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum FrameSource {
    /// The run's time, whole seconds.
    Seconds,
    /// The fraction of a second, in 2^-32 s.
    Fraction,
    /// The run's seed.
    Seed,
    /// The hour of the game's clock.
    Hour,
    /// Its day count.
    Days,
    /// A component of an input: index in [`Plan::inputs`], and component.
    Input(usize, usize),
    /// The selected option of a choice: index in [`Plan::choices`].
    Chosen(usize),
    /// The weight of an option: index in [`Plan::choices`], and option.
    Weight(usize, u32),
}

/// A field of a frame.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FrameField {
    /// Its name, words joined by `_`.
    pub name: String,
    /// Its source.
    pub source: FrameSource,
    /// Its type: a number or a word.
    pub ty: Type,
    /// What it is, for a comment.
    pub about: String,
}

/// The values of [`Shader::frame`] and of a lamp's [`ShaderLight::own`], by name.
pub type Given = BTreeMap<String, Value>;

impl Shader {
    /// Exports the lights of a program, measures each, and excludes those that deviate by more than [`TOLERANCE`].
    pub fn of(checked: &ValidatedProgram, plan: &Plan) -> Shader {
        let mut shader = Shader::unmeasured(plan);
        let (mut near, mut far) = (Vec::new(), Vec::new());
        for n in 0..shader.lights.len() {
            let mut deviation = measure(checked, plan, &shader, n, HORIZONS[0]);
            if !deviation.holds() {
                deviation = measure(checked, plan, &shader, n, HORIZONS[1]);
            }
            shader.lights[n].deviation = deviation;
        }
        for light in std::mem::take(&mut shader.lights) {
            if light.deviation.holds() {
                near.push(light);
                continue;
            }
            let what = match light.deviation.worst {
                worst if worst.is_finite() => {
                    format!("differs from the preview by up to {:.2}% of its range", worst * 100.0)
                }
                _ => "exceeds the range of single precision".to_owned(),
            };
            far.push(ExcludedLight {
                light: plan.lights[light.place].name.clone(),
                reason: format!("{what} in single precision"),
            });
        }
        if far.is_empty() {
            shader.lights = near;
        } else {
            let kept: BTreeSet<usize> = near.iter().map(|light| light.place).collect();
            let deviations: BTreeMap<usize, Deviation> =
                near.into_iter().map(|light| (light.place, light.deviation)).collect();
            // Build again without functions that only the others use.
            let out = std::mem::take(&mut shader.excluded);
            shader = Shader::with(plan, &|place| kept.contains(&place));
            shader.excluded = out;
            for light in &mut shader.lights {
                if let Some(deviation) = deviations.get(&light.place) {
                    light.deviation = *deviation;
                }
            }
            shader.excluded.extend(far);
            let place =
                |out: &ExcludedLight| plan.lights.iter().position(|own| own.name == out.light);
            shader.excluded.sort_by_key(place);
        }
        shader
    }

    /// Exports all lights that can be exported, without measuring them.
    pub fn unmeasured(plan: &Plan) -> Shader {
        Shader::with(plan, &|_| true)
    }

    fn with(plan: &Plan, wanted: &dyn Fn(usize) -> bool) -> Shader {
        let book: Vec<Function> = lower::book_functions(plan);
        let tables = lower::book_tables(plan);
        let around = Module { functions: book.clone(), ..Module::default() };
        let (mut lights, mut excluded) = (Vec::new(), Vec::new());
        for (place, light) in plan.lights.iter().enumerate().filter(|(place, _)| wanted(*place)) {
            let function = lower::light_function(plan, light);
            match exclusion::reason(plan, &around, &function) {
                Some(reason) => excluded.push(ExcludedLight { light: light.name.clone(), reason }),
                None => lights.push((place, function)),
            }
        }
        let mut fixed = FixedTypes::of(book.iter(), &tables);
        let all = book.iter().chain(lights.iter().map(|(_, function)| function));
        fixed.settle(&all.collect::<Vec<_>>());
        let mut from = Module { tables, ..kernel() };
        from.functions.extend(book.iter().map(|function| fixed.function(function)));
        let names = given_names(plan);
        let mut frame = BTreeSet::from([FrameSource::Seconds, FrameSource::Fraction]);
        let mut made = Vec::new();
        let mut tables = Specializer::of(&from);
        for (place, function) in lights {
            let mut function = fixed.function(&function);
            let own = own_inputs(plan, &names, &mut function);
            framed(plan, &mut function, &mut frame);
            let mut function = tables.function(&function, &BTreeMap::new());
            let name = |expr: &Expr| lower::value_name(plan, expr);
            let module = signatures(&from, &tables.made);
            share(&mut function, &Sharing { module: &module, name: &name }, 0);
            let by_index = function.locals[0].used;
            if !by_index {
                function.parameters -= 1;
                function.locals.remove(0);
                function.renumber(&|id| LocalId(id.0 - 1));
            }
            let deviation = Deviation::unknown();
            let name = plan.lights[place].name.clone();
            made.push(ShaderLight { name, place, function, by_index, own, deviation });
        }
        let functions = tables.made;
        let frame = frame.into_iter().map(|source| {
            let (ty, about) = describe(plan, source);
            FrameField { name: names[&source].clone(), source, ty, about }
        });
        let frame: Vec<FrameField> = frame.collect();
        for light in &mut made {
            named_fields(plan, &mut light.function, &frame);
        }
        let mut module = Module { functions, single: true, ..Module::default() };
        module.tables = used_tables(&from, &module.functions, &made);
        let uses: BTreeSet<String> = module.functions.iter().flat_map(Function::uses).collect();
        module.constants = from
            .constants
            .iter()
            .filter(|constant| uses.contains(&constant.name))
            .cloned()
            .collect();
        Shader { module, frame, lights: made, excluded }
    }

    /// The excluded lights by reason, one line each: `mast, buoy: depends on events (...)`.
    pub fn exclusions(&self) -> Vec<String> {
        let mut reasons: Vec<(&str, Vec<&str>)> = Vec::new();
        for excluded in &self.excluded {
            match reasons.iter_mut().find(|(reason, _)| *reason == excluded.reason) {
                Some((_, lights)) => lights.push(&excluded.light),
                None => reasons.push((&excluded.reason, vec![&excluded.light])),
            }
        }
        let line = |(reason, lights): (&str, Vec<&str>)| format!("{}: {reason}", lights.join(", "));
        reasons.into_iter().map(line).collect()
    }

    /// The reference implementation.
    pub fn reference(&self) -> Reference<'_> {
        Reference { functions: Functions::of(&self.module) }
    }
}

/// The reference implementation: an interpreter of the exported functions in single precision.
pub struct Reference<'s> {
    functions: Functions<'s>,
}

impl Reference<'_> {
    /// Evaluates a lamp: its components in order, 1 for on. `None` if a value in `given` is missing or the code would do
    /// something undefined.
    pub fn read(&self, light: &ShaderLight, given: &Given, index: u32) -> Option<Vec<f32>> {
        let mut around = Around { fields: given.clone(), ..Around::default() };
        let mut arguments = Vec::new();
        if light.by_index {
            arguments.push(Value::Word(index));
        }
        for local in &light.function.locals[arguments.len()..light.function.parameters] {
            arguments.push(given.get(&local.name)?.clone());
        }
        let mut steps = 10_000_000;
        self.functions.make(&light.function, arguments, &mut around, &mut steps)?;
        let numbers = around.made.into_iter().map(|(.., value)| match value {
            Value::Number(v) => Some(v as f32),
            Value::Flag(on) => Some(f32::from(u8::from(on))),
            _ => None,
        });
        numbers.collect()
    }
}

/// The signatures of two lists of functions.
fn signatures(from: &Module, made: &[Function]) -> Module {
    let all = from.functions.iter().chain(made);
    let all = all.map(|own| (own.name.clone(), (own.receiver, own.result)));
    Module { constants: from.constants.clone(), others: all.collect(), ..Module::default() }
}

/// The names of everything that a frame or a lamp can be given, all different.
fn given_names(plan: &Plan) -> BTreeMap<FrameSource, String> {
    let mut namer = crate::names::Namer::without([]);
    let mut names = BTreeMap::new();
    let mut add = |source: FrameSource, name: &str| {
        names.insert(source, namer.take(&name.replace('.', "_")));
    };
    add(FrameSource::Seconds, "seconds");
    add(FrameSource::Fraction, "fraction");
    add(FrameSource::Seed, "seed");
    add(FrameSource::Hour, "hour");
    add(FrameSource::Days, "days");
    for (n, input) in plan.inputs.iter().enumerate().filter(|(_, input)| !input.kept) {
        for part in 0..input.default.len() {
            let suffix = input.suffixes.get(part).map_or(String::new(), |part| format!("_{part}"));
            add(FrameSource::Input(n, part), &format!("{}{suffix}", input.name));
        }
    }
    for (n, choice) in plan.choices.iter().enumerate() {
        add(FrameSource::Chosen(n), &choice.name);
        for (option, name) in choice.options.iter().enumerate() {
            add(FrameSource::Weight(n, option as u32), &format!("{}_{name}", choice.name));
        }
    }
    names
}

/// Turns per-lamp inputs into parameters after the index.
fn own_inputs(
    plan: &Plan,
    names: &BTreeMap<FrameSource, String>,
    function: &mut Function,
) -> Vec<(usize, usize)> {
    let mut own = BTreeSet::new();
    let input = |place: &crate::ir::RunField| -> Option<(usize, usize)> {
        place.index.as_ref()?;
        let n = place.field.strip_prefix("input ")?.parse().ok()?;
        Some((n, place.part.unwrap_or_default()))
    };
    each_expr(&function.body, &mut |expr| {
        if let Expr::Run(place) = expr {
            own.extend(input(place));
        }
    });
    let own: Vec<(usize, usize)> = own.into_iter().collect();
    let first = function.parameters;
    let count = own.len();
    function.renumber(&|id| if id.0 < first { id } else { LocalId(id.0 + count) });
    let locals = own.iter().map(|(n, part)| {
        let ty = if plan.inputs[*n].flag { Type::Bool } else { Type::F64 };
        let name = names[&FrameSource::Input(*n, *part)].clone();
        Local { name, ty, changes: false, used: true }
    });
    function.locals.splice(first..first, locals);
    function.parameters += count;
    replace(&mut function.body, &|expr| {
        let Expr::Run(place) = expr else { return None };
        let at = own.iter().position(|known| Some(*known) == input(place))?;
        Some(Expr::Local(LocalId(first + at)))
    });
    own
}

/// Collects the frame fields that a function reads. On/off inputs become words, since uniform buffers have no bool.
fn framed(plan: &Plan, function: &mut Function, frame: &mut BTreeSet<FrameSource>) {
    let mut asked: Vec<FrameSource> = Vec::new();
    each_expr(&function.body, &mut |expr| {
        if let Expr::Run(place) = expr {
            asked.extend(source_of(plan, place));
        }
    });
    frame.extend(asked);
    replace(&mut function.body, &|expr| {
        let Expr::Run(place) = expr else { return None };
        let source = source_of(plan, place)?;
        if place.ty != Type::Bool {
            return None;
        }
        let mut place = place.clone();
        place.ty = Type::Word;
        debug_assert!(matches!(source, FrameSource::Input(..)), "only inputs are on or off");
        Some(Expr::Do(Operation::Unequal, vec![Expr::Run(place), Expr::Word(0)]))
    });
}

/// The frame source of a field of the run.
fn source_of(plan: &Plan, place: &crate::ir::RunField) -> Option<FrameSource> {
    Some(match place.field.as_str() {
        "seconds" => FrameSource::Seconds,
        "fraction" => FrameSource::Fraction,
        "seed" => FrameSource::Seed,
        "hour" => FrameSource::Hour,
        "days" => FrameSource::Days,
        name => {
            if let Some(n) = name.strip_prefix("input ") {
                return Some(FrameSource::Input(n.parse().ok()?, place.part.unwrap_or_default()));
            }
            let mut all = (0..plan.choices.len()).map(|n| (n, &plan.choices[n].options));
            all.find_map(|(n, options)| {
                let weight = |option: &usize| convert::weight_field(n, *option as u32) == name;
                let option = (0..options.len()).find(weight);
                let weight = option.map(|option| FrameSource::Weight(n, option as u32));
                let chosen = lower::choice_field(n, "chosen") == name;
                weight.or(chosen.then_some(FrameSource::Chosen(n)))
            })?
        }
    })
}

/// Renames fields of the run to those of the frame.
fn named_fields(plan: &Plan, function: &mut Function, frame: &[FrameField]) {
    replace(&mut function.body, &|expr| {
        let Expr::Run(place) = expr else { return None };
        let source = source_of(plan, place)?;
        let field = frame.iter().find(|field| field.source == source)?;
        Some(frame_field(&field.name, field.ty))
    });
}

/// Replaces expressions.
fn replace(block: &mut [Statement], with: &dyn Fn(&Expr) -> Option<Expr>) {
    fn inside(expr: &mut Expr, with: &dyn Fn(&Expr) -> Option<Expr>) {
        match with(expr) {
            Some(other) => *expr = other,
            None => expr.each_child_mut(&mut |child| inside(child, with)),
        }
    }
    for statement in block {
        statement.each_value_mut(&mut |value| inside(value, with));
        statement.each_block_mut(&mut |block| replace(block, with));
    }
}

/// The type of a frame field and its description.
fn describe(plan: &Plan, source: FrameSource) -> (Type, String) {
    match source {
        FrameSource::Seconds => (Type::Word, "Time of the run: whole seconds.".to_owned()),
        FrameSource::Fraction => (Type::Word, "Time of the run: the rest, in 2^-32 s.".to_owned()),
        FrameSource::Seed => (Type::Word, "The run's seed.".to_owned()),
        FrameSource::Hour => (Type::F64, "Hour of the game's day, 0 to 24 (excluded).".to_owned()),
        FrameSource::Days => (Type::F64, "Whole days on the game's clock.".to_owned()),
        FrameSource::Input(n, part) => {
            let input = &plan.inputs[n];
            let about = crate::print::describe_input(input);
            let part = input.suffixes.get(part).map_or(String::new(), |part| format!(" ({part})"));
            let ty = if input.flag { Type::Word } else { Type::F64 };
            (ty, format!("{about}{part}"))
        }
        FrameSource::Chosen(n) => {
            let options = plan.choices[n].options.iter().enumerate();
            let options: Vec<String> = options.map(|(n, option)| format!("{n} {option}")).collect();
            (Type::Word, format!("Option of `{}`: {}.", plan.choices[n].name, options.join(", ")))
        }
        FrameSource::Weight(n, option) => {
            let choice = &plan.choices[n];
            let option = &choice.options[option as usize];
            let about = format!(
                "How far `{}` is at `{option}`: 1 there, 0 elsewhere, between while it fades.",
                choice.name
            );
            (Type::F64, about)
        }
    }
}

/// The tables that functions look up.
fn used_tables(
    from: &Module,
    functions: &[Function],
    lights: &[ShaderLight],
) -> Vec<crate::ir::Table> {
    let mut used = BTreeSet::new();
    let all = functions.iter().chain(lights.iter().map(|light| &light.function));
    for function in all {
        each_expr(&function.body, &mut |expr| {
            if let Expr::TableEntry(name, ..) = expr {
                used.insert(name.clone());
            }
        });
    }
    from.tables.iter().filter(|table| used.contains(&table.name)).cloned().collect()
}
