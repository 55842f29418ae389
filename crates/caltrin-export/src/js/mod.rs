//! JavaScript: one ES module with JSDoc types, no dependency, no globals, and nothing allocated
//! while reading into a lamp that the caller keeps.

use std::fmt::Write;
use std::path::Path;

use crate::c::at_line;
use crate::names::{Case, cased, comment};
use crate::number;
use crate::plan::{FieldPlan, Function, LightPlan, Plan, Role, Type};
use crate::print::{
    FileNames, LightNames, Scope, Spelling, describe, describe_light, kernel_parts, table_lines,
};
use crate::target::{Blocks, Target, Tool};
use crate::write::MARK;

/// The language.
pub struct JavaScript;

struct Js;

impl Spelling for Js {
    const TAKEN: &'static [&'static str] = &[
        "await",
        "break",
        "case",
        "catch",
        "class",
        "const",
        "continue",
        "debugger",
        "default",
        "delete",
        "do",
        "else",
        "enum",
        "export",
        "extends",
        "false",
        "finally",
        "for",
        "function",
        "if",
        "implements",
        "import",
        "in",
        "instanceof",
        "interface",
        "let",
        "new",
        "null",
        "package",
        "private",
        "protected",
        "public",
        "return",
        "static",
        "super",
        "switch",
        "this",
        "throw",
        "true",
        "try",
        "typeof",
        "var",
        "void",
        "while",
        "with",
        "yield",
        "async",
        "of",
        "eval",
        "arguments",
        "undefined",
        "NaN",
        "Infinity",
        "Math",
        "Object",
        "Array",
        "Number",
        "String",
        "Boolean",
        "Symbol",
        "Function",
        "Error",
        "Map",
        "Set",
        "Date",
        "globalThis",
        "window",
        "document",
    ];
    const FUNCTIONS: Case = Case::Camel;
    const TYPES: Case = Case::Pascal;
    const TABLES: Case = Case::Camel;
    const SAME: &'static str = "===";
    const LOCALS: Case = Case::Camel;
    const INDENT: &'static str = "  ";

    fn number(&self, v: f64) -> String {
        number::double(v)
    }

    fn word(&self, v: u32) -> String {
        number::word(v)
    }

    fn single(&self, v: f32) -> String {
        number::double(f64::from(v))
    }

    fn convert(&self, value: &str) -> String {
        format!("Math.fround({value})")
    }

    fn index_number(&self, index: &str, whole: bool) -> String {
        if whole { format!("({index})") } else { index.to_owned() }
    }

    fn quotient(&self, index: &str, by: u32) -> String {
        format!("Math.floor({index} / {by})")
    }

    fn constant(&self, _: Type, name: &str, value: &str) -> String {
        format!("const {name} = {value};")
    }
}

fn type_name(ty: Type) -> &'static str {
    match ty {
        Type::Number | Type::Word => "number",
        Type::Flag => "boolean",
    }
}

const OWN: [&str; 6] = ["Run", "start", "advance", "step", "selfTest", "bookSeed"];

struct File<'p> {
    plan: &'p Plan,
    names: FileNames,
}

impl<'p> File<'p> {
    fn of(plan: &'p Plan) -> Self {
        File { plan, names: FileNames::of(&Js, plan, &OWN, "") }
    }

    fn scope(&self, locals: Vec<String>) -> Scope<'_, Js> {
        Scope {
            spelling: &Js,
            names: &self.names,
            locals,
            now: "t".to_owned(),
            seed: "run.seed".to_owned(),
            index: "index".to_owned(),
            prefix: String::new(),
        }
    }

    fn head(&self, out: &mut String) {
        let plan = self.plan;
        let from =
            if plan.file.is_empty() { String::new() } else { format!(" from {}", plan.file) };
        let example = self.plan.lights.iter().zip(&self.names.lights).next().map_or(
            String::new(),
            |(light, names)| {
                let index = if light.is_array() { ", 0" } else { "" };
                format!("//       const lamp = {}(run{index});\n", names.read)
            },
        );
        let _ = write!(
            out,
            "// {}. {MARK}{}.\n//\n\
             // Change the lightbook and export again rather than this file.\n//\n\
             // No dependency, no globals. A run is a plain object of two numbers: copy it to save it.\n\
             // Values are computed when they are read, at any moment, in any order, at the same cost.\n\
             // Reading into a lamp that you keep allocates nothing.\n//\n\
             // Host loop:\n//\n\
             //     const run = start(bookSeed);\n\
             //     function frame(secondsOfThisFrame) {{\n//       step(run, secondsOfThisFrame);\n{example}//     }}\n\n\
             /** The book's own seed. */\nexport const bookSeed = {};\n\n\
             /**\n * A run of the book: seconds since its start, and the seed of all its chances.\n \
             * @typedef {{{{ now: number, seed: number }}}} Run\n */\n\n\
             /** A run at moment 0. @param {{number}} seed @returns {{Run}} */\n\
             export function start(seed) {{\n  return {{ now: 0.0, seed: seed >>> 0 }};\n}}\n\n\
             /** Goes to a moment of the run, in seconds since its start. @param {{Run}} run @param {{number}} to */\n\
             export function advance(run, to) {{\n  run.now = cleanMoment(to);\n}}\n\n\
             /** Goes on by some seconds. Steps add up their rounding; `advance` does not. @param {{Run}} run @param {{number}} seconds */\n\
             export function step(run, seconds) {{\n  advance(run, run.now + seconds);\n}}\n\n",
            comment(&plan.book),
            comment(&from),
            plan.seed.0,
        );
    }

    fn function(&self, n: usize, function: &Function, out: &mut String) {
        let locals = self.names.locals(&Js, &function.locals, &[]);
        let name_of = |role: Role| {
            let found = function.parameters.iter().find(|(r, ..)| *r == role);
            found.map_or(String::new(), |(_, local, _)| locals[local.0].clone())
        };
        let parameters: Vec<&str> =
            function.parameters.iter().map(|(_, local, _)| locals[local.0].as_str()).collect();
        let types: String = function
            .parameters
            .iter()
            .map(|(_, local, ty)| format!(" @param {{{}}} {}", type_name(*ty), locals[local.0]))
            .collect();
        let _ = writeln!(
            out,
            "// {}{}\n/**{types} @returns {{{}}} */\nfunction {}({}) {{",
            describe(function),
            at_line(&function.note, self.plan),
            type_name(function.result),
            self.names.functions[n],
            parameters.join(", "),
        );
        let scope = Scope {
            now: name_of(Role::Now),
            seed: name_of(Role::Seed),
            ..self.scope(locals.clone())
        };
        scope.statements(&function.body, 1, out);
        out.push_str("}\n\n");
    }

    fn light(&self, light: &LightPlan, names: &LightNames, out: &mut String) {
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
        let own = ["run", "first", "lamps", "lamp", "index", "n", "t"];
        let scope = self.scope(self.names.locals(&Js, &light.locals, &own));
        let moment = if light.uses_now() { "  const t = run.now;\n" } else { "" };
        out.push_str(" */\n\n");
        if light.is_array() {
            let _ = write!(
                out,
                "/** Reads lamps from `first` on into the lamps of a list. @param {{Run}} run @param {{number}} first @param {{{lamp}[]}} lamps */\n\
                 export function {}(run, first, lamps) {{\n{moment}",
                names.fill,
                lamp = names.lamp
            );
            scope.statements(&light.shared, 1, out);
            out.push_str(
                "  for (let n = 0; n < lamps.length; ++n) {\n    const lamp = lamps[n];\n",
            );
            if light.uses_index() {
                out.push_str("    const index = (first + n) >>> 0;\n");
            }
            scope.statements(&light.lamp, 2, out);
            self.fields(light, &scope, 2, out);
            let _ = write!(
                out,
                "  }}\n}}\n\n/** Reads one lamp. @param {{Run}} run @param {{number}} index @param {{{lamp}}} [lamp] kept by the caller @returns {{{lamp}}} */\n\
                 export function {}(run, index, lamp = {empty}) {{\n{moment}",
                names.read,
                lamp = names.lamp
            );
        } else {
            let _ = write!(
                out,
                "/** Reads the lamp. @param {{Run}} run @param {{{lamp}}} [lamp] kept by the caller @returns {{{lamp}}} */\n\
                 export function {}(run, lamp = {empty}) {{\n{moment}",
                names.read,
                lamp = names.lamp
            );
        }
        scope.statements(&light.shared, 1, out);
        scope.statements(&light.lamp, 1, out);
        self.fields(light, &scope, 1, out);
        out.push_str("  return lamp;\n}\n\n");
    }

    fn fields(&self, light: &LightPlan, scope: &Scope<'_, Js>, depth: usize, out: &mut String) {
        let indent = Js::INDENT.repeat(depth);
        for field in &light.fields {
            for (n, part) in field.parts.iter().enumerate() {
                let value = scope.output(field, part);
                let _ = writeln!(out, "{indent}lamp.{} = {value};", part_of(field, n));
            }
        }
    }

    fn self_test(&self, out: &mut String) {
        out.push_str(
            "/** Known answers of this file: 0 if this engine gives the same bits as the preview, else how many differ. @returns {number} */\n\
             export function selfTest() {\n  let wrong = scramble(1) === 0x86d2fa73 ? 0 : 1;\n",
        );
        if !self.plan.answers.is_empty() {
            out.push_str("  const run = start(bookSeed);\n");
        }
        let mut last = None;
        for answer in &self.plan.answers {
            let (light, names) =
                (&self.plan.lights[answer.light], &self.names.lights[answer.light]);
            if last != Some((answer.seed, answer.moment.to_bits())) {
                let moment = Js.number(answer.moment);
                let _ = writeln!(out, "  run.seed = {};\n  advance(run, {moment});", answer.seed);
                last = Some((answer.seed, answer.moment.to_bits()));
            }
            let index =
                if light.is_array() { format!(", {}", answer.index) } else { String::new() };
            let _ = writeln!(
                out,
                "  if ({}(run{index}).{} !== {}) wrong += 1;",
                names.read,
                part_of(&light.fields[answer.place.0], answer.place.1),
                Js.single(answer.value)
            );
        }
        out.push_str("  return wrong;\n}\n");
    }
}

fn part_of(field: &FieldPlan, n: usize) -> String {
    let name = cased(&field.name, Case::Camel);
    if field.parts.len() > 1 { format!("{name}[{n}]") } else { name }
}

impl Target for JavaScript {
    fn name(&self) -> &'static str {
        "js"
    }

    fn extension(&self) -> &'static str {
        "mjs"
    }

    fn print(&self, plan: &Plan) -> String {
        let file = File::of(plan);
        let mut out = String::new();
        file.head(&mut out);
        for (light, names) in plan.lights.iter().zip(&file.names.lights) {
            file.light(light, names, &mut out);
        }
        for (table, name) in plan.tables.iter().zip(&file.names.tables) {
            let _ = writeln!(
                out,
                "/** @type {{number[]}} */\nconst {name} = [\n{},\n];\n",
                table_lines(&Js, &table.values, Js::INDENT)
            );
        }
        for (n, function) in plan.functions.iter().enumerate() {
            file.function(n, function, &mut out);
        }
        out.push_str(&kernel_parts(include_str!("kernel.mjs"), &plan.helpers));
        out.push('\n');
        file.self_test(&mut out);
        out
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
        include_str!("prove.mjs")
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
