//! JavaScript: one ES module with JSDoc types, no dependency, no globals, and nothing allocated
//! while reading into a lamp that the caller keeps.

mod syntax;

use std::fmt::Write;
use std::path::Path;

use caltrin_core::MADE;

use crate::language::{self, Language, Printer};
use crate::lower::{Lowered, given_names, lamp_names, light_body};
use crate::names::{Case, cased, comment};
use crate::plan::{FieldPlan, InputPlan, LightPlan, NoticePlan, Plan, clock_fields};
use crate::print::{
    FileNames, InputNames, LightNames, Syntax, about_table, at_line, describe_choice,
    describe_light, kernel_code, notice_code, prover_acts, prover_sets, self_test_code,
    summed_values, table_lines, tag_constants, texts, wrapped,
};
use crate::target::{ACTS, Blocks, FIRST_SET, Target, Tool};
use syntax::Js;

/// The language.
pub struct JavaScript;

const OWN: [&str; 31] = [
    "settle",
    // What readers of lights call their own, and so no function.
    "t",
    "hour",
    "days",
    "n",
    "index",
    "first",
    "lamp",
    "lamps",
    "run",
    "Run",
    "start",
    "advance",
    "step",
    "selfTest",
    "act",
    "check",
    "checksum",
    "bookSeed",
    "clockHours",
    "clockStrikes",
    "send",
    "takeNotice",
    "noticePlace",
    "droppedNotices",
    "clockHour",
    "clockDays",
    "setClock",
    "driveClock",
    "setClockDays",
    "setClockRate",
];

struct File<'p> {
    plan: &'p Plan,
    names: FileNames,
}

impl<'p> File<'p> {
    fn of(plan: &'p Plan) -> Self {
        File { plan, names: FileNames::of(&Js, plan, &OWN, "") }
    }

    fn head(&self, out: &mut String) {
        let plan = self.plan;
        let from =
            if plan.file.is_empty() { String::new() } else { format!(" from {}", plan.file) };
        let mut lights = self.plan.lights.iter().zip(&self.names.lights);
        let example = lights.nth(self.plan.example()).map_or(String::new(), |(light, names)| {
            let index = if light.is_array() { ", 0" } else { "" };
            format!("//       const lamp = {}(run{index});\n", names.read)
        });
        let (types, defaults) = (self.input_types(), self.defaults());
        let _ = write!(
            out,
            "// {}. {MADE}{}.\n//\n\
             // Change the lightbook and export again rather than this file.\n//\n\
             // No dependency, no globals. A run is a plain object: {} to save it.\n\
             // Values are computed when they are read, at any moment, in any order, at the same cost.\n\
             // Reading into a lamp that you keep allocates nothing.\n//\n\
             // Host loop:\n//\n\
             //     const run = start(bookSeed);\n\
             //     function frame(secondsOfThisFrame) {{\n//       step(run, secondsOfThisFrame);\n{example}//     }}\n\n\
             /** The book's own seed. */\nexport const bookSeed = {};\n\n\
             /**\n * A run of the book: seconds since its start, and the seed of all its chances.\n \
             * @typedef {{{{ now: number, seed: number{types} }}}} Run\n */\n\n\
             /** A run at moment 0. @param {{number}} seed @returns {{Run}} */\n\
             export function start(seed) {{\n  return {defaults};\n}}\n\n",
            comment(&plan.book),
            comment(&from),
            if plan.inputs.is_empty() && plan.choices.is_empty() {
                "copy it"
            } else {
                "`structuredClone` it"
            },
            plan.seed.0,
        );
    }

    /// Every input at its default.
    fn defaults(&self) -> String {
        let each = |(input, names): (&InputPlan, &InputNames)| {
            let spell = |v: &f64| if input.flag { (*v != 0.0).to_string() } else { Js.number(*v) };
            let parts: Vec<String> = input.default.iter().map(spell).collect();
            let one =
                if parts.len() > 1 { format!("[{}]", parts.join(", ")) } else { parts.join("") };
            match input.count {
                Some(n) => {
                    format!("    {}: Array.from({{ length: {n} }}, () => {one}),\n", names.field)
                }
                None => format!("    {}: {one},\n", names.field),
            }
        };
        let mut fields = String::new();
        fields.push_str(if self.plan.has_due() { "    due: 0.0,\n" } else { "" });
        for (name, _, value) in self.plan.clock.iter().flat_map(clock_fields) {
            let _ = writeln!(fields, "    {}: {},", cased(name, Case::Camel), Js.number(value));
        }
        for (choice, names) in self.plan.choices.iter().zip(&self.names.choices) {
            let _ = writeln!(fields, "    {}: 0,", names.field);
            if choice.fades() {
                let others = ", 0.0".repeat(choice.options.len() - 1);
                let _ = writeln!(
                    fields,
                    "    {}: -2e9,\n    {}: [1.0{others}],",
                    names.since, names.from
                );
            }
        }
        fields.extend(self.plan.inputs.iter().zip(&self.names.inputs).map(each));
        match fields.is_empty() {
            true => "{ now: 0.0, seed: seed >>> 0 }".to_owned(),
            false => format!("{{\n    now: 0.0,\n    seed: seed >>> 0,\n{fields}  }}"),
        }
    }

    /// The types of the inputs in a run.
    fn input_types(&self) -> String {
        let each = |(input, names): (&InputPlan, &InputNames)| {
            let one = match (input.flag, input.suffixes) {
                (true, _) => "boolean",
                (false, []) => "number",
                (false, _) => "number[]",
            };
            let many = input.count.map_or("", |_| "[]");
            format!(", {}: {one}{many}", names.field)
        };
        let due = self.plan.has_due().then(|| ", due: number".to_owned());
        let clock = self.plan.clock.iter().flat_map(clock_fields);
        let clock = clock.map(|(name, ..)| format!(", {}: number", cased(name, Case::Camel)));
        let choices = self.plan.choices.iter().zip(&self.names.choices).map(|(choice, names)| {
            let fades = format!(", {}: number, {}: number[]", names.since, names.from);
            let fades = if choice.fades() { fades } else { String::new() };
            format!(", {}: number{fades}", names.field)
        });
        due.into_iter()
            .chain(clock)
            .chain(choices)
            .chain(self.plan.inputs.iter().zip(&self.names.inputs).map(each))
            .collect()
    }

    /// Functions of the tree, each with a blank line after it.
    fn functions<'l>(
        &self,
        lowered: &Lowered,
        names: impl IntoIterator<Item = &'l String>,
        out: &mut String,
    ) {
        let printer = self.printer(lowered);
        for name in names {
            out.push_str(&printer.print_function(lowered.function(name)));
            out.push('\n');
        }
    }

    /// Prints functions of the tree.
    fn printer<'l>(&self, lowered: &'l Lowered) -> Printer<'l> {
        let names = given_names(self.plan, &self.names, &language::JAVASCRIPT, Vec::new());
        Printer::new(&language::JAVASCRIPT, &lowered.module, "", 0).named_by(names)
    }

    fn light(&self, lowered: &Lowered, light: &LightPlan, names: &LightNames, out: &mut String) {
        let _ = write!(
            out,
            "// {}{}\n/**\n * @typedef {{object}} {}\n",
            describe_light(light),
            at_line(&light.note, self.plan),
            names.lamp
        );
        for field in &light.fields {
            let _ = writeln!(
                out,
                " * @property {{{}}} {} {}{}",
                match field.parts.len() {
                    1 if field.flag => "boolean",
                    1 => "number",
                    _ => "number[]",
                },
                cased(&field.name, Case::Camel),
                field.about,
                at_line(&field.note, self.plan)
            );
        }
        let empty: Vec<String> = light
            .fields
            .iter()
            .map(|field| {
                let value = match field.parts.len() {
                    1 if field.flag => "false",
                    1 => "0",
                    _ => "[0, 0, 0]",
                };
                format!("{}: {value}", cased(&field.name, Case::Camel))
            })
            .collect();
        let empty = format!("{{ {} }}", empty.join(", "));
        let own = ["run", "first", "lamps", "lamp", "n"];
        let (function, shared) = light_body(self.plan, light);
        let printer = self.printer(lowered);
        let lamps = lamp_names(light, "lamp", &own, |field| cased(&field.name, Case::Camel));
        out.push_str(" */\n\n");
        if light.is_array() {
            let [shared, each, sets] = printer.print_light(&function, shared, &lamps, [2, 4, 4]);
            let index = match light.uses_index() {
                true => "    const index = (first + n) >>> 0;\n",
                false => "",
            };
            let _ = write!(
                out,
                "/** Reads lamps from `first` on into the lamps of a list. @param {{Run}} run @param {{number}} first @param {{{lamp}[]}} lamps */\n\
                 export function {}(run, first, lamps) {{\n{shared}  for (let n = 0; n < lamps.length; ++n) {{\n    \
                 const lamp = lamps[n];\n{index}{each}{sets}  }}\n}}\n\n\
                 /** Reads one lamp. @param {{Run}} run @param {{number}} index @param {{{lamp}}} [lamp] kept by the caller @returns {{{lamp}}} */\n\
                 export function {}(run, index, lamp = {empty}) {{\n",
                names.fill,
                names.read,
                lamp = names.lamp
            );
        } else {
            let _ = write!(
                out,
                "/** Reads the lamp. @param {{Run}} run @param {{{lamp}}} [lamp] kept by the caller @returns {{{lamp}}} */\n\
                 export function {}(run, lamp = {empty}) {{\n",
                names.read,
                lamp = names.lamp
            );
        }
        let [shared, each, sets] = printer.print_light(&function, shared, &lamps, [2; 3]);
        let _ = writeln!(out, "{shared}{each}{sets}  return lamp;\n}}\n");
    }

    /// What sends notices, and what takes them.
    fn notices(&self) -> Option<(String, String)> {
        let each = |n: usize, notice: &NoticePlan| {
            let mut out = format!(
                "    case {n}:\n      notice.name = \"{}\";\n      notice.from = \"{}\";\n",
                notice.name, notice.from
            );
            if !notice.texts.is_empty() {
                let (count, list) = (notice.texts.len(), texts(notice));
                let _ = writeln!(out, "      notice.text = [{list}][text % {count}];");
            }
            out.push_str("      break;\n");
            out
        };
        let place = |n: usize, light: usize, field: usize| {
            let (light, names) = (&self.plan.lights[light], &self.names.lights[light]);
            let index = if light.is_array() { ", lamp" } else { "" };
            let field = cased(&light.fields[field].name, Case::Camel);
            format!("    case {n}: return {}(run{index}).{field};\n", names.read)
        };
        let (sends, takes) =
            notice_code(&Js, self.plan, &self.names, include_str!("notice.mjs"), each, place)?;
        let (mut documented, mut types) = (String::new(), String::new());
        for (place, (field, given)) in self.plan.notice_values.iter().zip(&self.names.notice_values)
        {
            let input = &self.plan.inputs[*place];
            let one = if input.flag { "boolean" } else { "number" };
            for name in given {
                let _ = write!(documented, " @param {{{one}}} {name}");
            }
            let many = if given.len() > 1 { "[]" } else { "" };
            let _ = write!(types, ", {field}: {one}{many}");
        }
        Some((sends.replace("VALUE_DOCS", &documented), takes.replace("VALUE_TYPES", &types)))
    }

    fn self_test(&self, out: &mut String) {
        let template = include_str!("self_test.mjs");
        out.push_str(&self_test_code(&Js, self.plan, &self.names, "", template));
    }
}

fn part_of(field: &FieldPlan, n: usize) -> String {
    let name = cased(&field.name, Case::Camel);
    if field.parts.len() > 1 { format!("{name}[{n}]") } else { name }
}

/// What the functions and fields of an exported module are called, for a page that drives it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Bindings {
    /// Of each light, in the book's order.
    pub lights: Vec<LightBinding>,
    /// Of each input that is exported.
    pub inputs: Vec<InputBinding>,
    /// `setRegion(run, option)` of each choice that is exported, after the book's name for it.
    pub choices: Vec<(String, String)>,
    /// `fireFerryDocks(run)` of each event that the game fires.
    pub events: Vec<String>,
    /// The field of a notice for each value that notices carry, in the book's order.
    pub notice_values: Vec<String>,
}

/// The names around one light.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LightBinding {
    /// The book's name.
    pub light: String,
    /// `readMast(run, index, lamp)`, without the index for a single lamp.
    pub read: String,
    /// `fillMast(run, first, lamps)`; arrays only.
    pub fill: Option<String>,
    /// The book's names of its fields, and what they are in a lamp.
    pub fields: Vec<(String, String)>,
}

/// The names around one input.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct InputBinding {
    /// The book's name.
    pub input: String,
    /// `setMist(run, to)`, with an index after the run where there are many.
    pub set: String,
}

/// The names in the module of a plan.
pub fn bindings(plan: &Plan) -> Bindings {
    let file = File::of(plan);
    let light = |(light, names): (&LightPlan, &LightNames)| LightBinding {
        light: light.name.clone(),
        read: names.read.clone(),
        fill: light.is_array().then(|| names.fill.clone()),
        fields: light
            .fields
            .iter()
            .map(|field| (field.name.clone(), cased(&field.name, Case::Camel)))
            .collect(),
    };
    let input = |(input, names): (&InputPlan, &InputNames)| InputBinding {
        input: input.name.clone(),
        set: names.set.clone(),
    };
    let notice_values = file.names.notice_values.iter().map(|(field, _)| field.clone());
    Bindings {
        notice_values: notice_values.collect(),
        lights: plan.lights.iter().zip(&file.names.lights).map(light).collect(),
        inputs: plan.given().map(|(n, given)| input((given, &file.names.inputs[n]))).collect(),
        choices: plan
            .choices
            .iter()
            .zip(&file.names.choices)
            .map(|(choice, names)| (choice.name.clone(), names.set.clone()))
            .collect(),
        events: plan.fired().map(|(n, _)| file.names.events[n].act.clone()).collect(),
    }
}

impl Target for JavaScript {
    fn name(&self) -> &'static str {
        "js"
    }

    fn extension(&self) -> &'static str {
        "mjs"
    }

    fn language(&self) -> &'static Language {
        &language::JAVASCRIPT
    }

    fn print(&self, plan: &Plan) -> String {
        let file = File::of(plan);
        let mut out = String::new();
        file.head(&mut out);
        let lowered = Lowered::of(plan);
        file.functions(&lowered, &lowered.course, &mut out);
        file.functions(&lowered, &lowered.clock, &mut out);
        for ((choice, names), functions) in
            plan.choices.iter().zip(&file.names.choices).zip(&lowered.choices)
        {
            let about = describe_choice(choice);
            let _ = writeln!(out, "// {about}{}", at_line(&choice.note, plan));
            for (n, name) in names.options.iter().enumerate() {
                let _ = writeln!(out, "export const {name} = {n};");
            }
            out.push('\n');
            file.functions(&lowered, functions, &mut out);
        }
        for (about, name, value) in tag_constants(plan, &file.names) {
            let _ = writeln!(out, "// {about}\nexport const {name} = {value};\n");
        }
        file.functions(&lowered, lowered.sparks.iter().flatten(), &mut out);
        for event in &lowered.events {
            let names = event.due.iter().chain(&event.each).chain([&event.act]);
            file.functions(&lowered, names, &mut out);
        }
        file.functions(&lowered, &lowered.setters, &mut out);
        for (light, names) in plan.lights.iter().zip(&file.names.lights) {
            file.light(&lowered, light, names, &mut out);
        }
        for (table, name) in plan.tables.iter().zip(&file.names.tables) {
            let lines = table_lines(&Js, table, Js::INDENT);
            let _ = match about_table(table) {
                Some(text) => writeln!(
                    out,
                    "/** {text} */\nconst {name} = new Uint32Array([\n{lines},\n]);\n"
                ),
                None => {
                    writeln!(out, "/** @type {{number[]}} */\nconst {name} = [\n{lines},\n];\n")
                }
            };
        }
        let notices = file.notices();
        for code in notices.iter().flat_map(|(sends, takes)| [sends, takes]) {
            out.push_str(code);
        }
        file.functions(&lowered, &lowered.book, &mut out);
        out.push_str(&kernel_code(&language::JAVASCRIPT, lowered.needs(plan), "", 0));
        out.push('\n');
        file.self_test(&mut out);
        wrapped(&out, Js::INDENT)
    }

    fn prover(&self, plan: &Plan, blocks: &Blocks) -> String {
        let file = File::of(plan);
        let mut reads = String::new();
        let mut width = 0;
        for ((light, names), blocks) in plan.lights.iter().zip(&file.names.lights).zip(blocks) {
            let puts: String = light
                .fields
                .iter()
                .flat_map(|field| (0..field.parts.len()).map(|n| part_of(field, n)))
                .map(|part| format!(" put(lamp.{part});"))
                .collect();
            let numbers: usize = light.fields.iter().map(|field| field.parts.len()).sum();
            for (first, count) in blocks {
                width += numbers * *count as usize;
                let _ = if light.is_array() {
                    writeln!(
                        reads,
                        "  {{ const lamps = Array.from({{ length: {count} }}, () => book.{}(run, 0)); book.{}(run, {first}, lamps); for (const lamp of lamps) {{{puts} }} }}",
                        names.read, names.fill
                    )
                } else {
                    writeln!(reads, "  {{ const lamp = book.{}(run);{puts} }}", names.read)
                };
            }
        }
        let sets = prover_sets(plan, &file.names, |input, names, slots| {
            let value = |slot: String| {
                if input.flag { format!("input({slot}) !== 0") } else { format!("input({slot})") }
            };
            let values: Vec<String> = slots.into_iter().map(value).collect();
            let (count, set) = (input.count.unwrap_or(1), &names.set);
            let index = input.count.map_or("", |_| "n, ");
            let values = values.join(", ");
            format!("  for (let n = 0; n < {count}; ++n) book.{set}(run, {index}{values});")
        });
        let source = include_str!("prove_acts.mjs");
        let code = prover_acts(
            plan,
            &file.names,
            source,
            |n, names| {
                let set = &names.set;
                format!(
                    "    if (kind === 5 && Math.floor(to / 1000) === {n}) book.{set}(run, to % 1000);"
                )
            },
            |n, (act, indexed), values| {
                let values = values
                    .map(|(k, flag)| format!(", given({k}){}", if flag { " !== 0" } else { "" }));
                let values: String = values.collect();
                let index = if indexed { ", to % 1000" } else { "" };
                format!(
                    "    if (kind === 6 && Math.floor(to / 1000) === {n}) book.{act}(run{index}{values});"
                )
            },
            |n, input, names| {
                let (verb, set) = (FIRST_SET + n as u32, &names.set);
                let index = input.count.map_or("", |_| "0, ");
                let value = if input.flag { "to !== 0" } else { "to" };
                let values = vec![value; input.default.len()].join(", ");
                format!("    if (kind === {verb}) book.{set}(run, {index}{values});")
            },
        );
        let acts = if plan.has_acts() { 3 * ACTS } else { 0 };
        let slots = plan.given_slots();
        if plan.queue.is_some() {
            let source = include_str!("prove_notices.mjs");
            reads.push_str(&summed_values(&Js, plan, &file.names, source));
            width += 2;
        }
        include_str!("prove.mjs")
            .replace("  // CLOCK\n", &code)
            .replace("GIVEN", &(slots + acts).to_string())
            .replace("SLOTS", &(slots + acts + plan.most_given()).to_string())
            .replace("FIRST_ACT", &slots.to_string())
            .replace("  // SETS\n", &sets)
            .replace("BOOK_MJS", &crate::file_name(plan, self))
            .replace("WIDTH", &width.to_string())
            .replace("  // READS\n", &reads)
    }

    fn prover_name(&self) -> &'static str {
        "prove.mjs"
    }

    fn tools(&self) -> &'static [Tool] {
        &[Tool { command: "node", version: &["--version"], package: "nodejs" }]
    }

    fn compile(&self, _: &Path, _: &str) -> Vec<Vec<String>> {
        Vec::new()
    }

    fn run(&self, folder: &Path) -> Vec<String> {
        vec!["node".to_owned(), folder.join("prove.mjs").display().to_string()]
    }
}
