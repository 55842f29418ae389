//! Rust: one module, no dependency, no heap, no globals.

use std::fmt::Write;
use std::path::Path;

use crate::c::at_line;
use crate::names::{Case, Namer, cased, comment};
use crate::number;
use crate::plan::{FieldPlan, Function, LightPlan, Plan, Role, Type};
use crate::print::{
    FileNames, LightNames, Scope, Spelling, describe, describe_light, kernel_parts, table_lines,
};
use crate::target::{Blocks, Target, Tool};
use crate::write::MARK;

/// The language.
pub struct Rust;

struct Rs;

impl Spelling for Rs {
    const TAKEN: &'static [&'static str] = &[
        "as",
        "break",
        "const",
        "continue",
        "crate",
        "else",
        "enum",
        "extern",
        "false",
        "fn",
        "for",
        "if",
        "impl",
        "in",
        "let",
        "loop",
        "match",
        "mod",
        "move",
        "mut",
        "pub",
        "ref",
        "return",
        "self",
        "Self",
        "static",
        "struct",
        "super",
        "trait",
        "true",
        "type",
        "unsafe",
        "use",
        "where",
        "while",
        "async",
        "await",
        "dyn",
        "abstract",
        "become",
        "box",
        "do",
        "final",
        "macro",
        "override",
        "priv",
        "typeof",
        "unsized",
        "virtual",
        "yield",
        "try",
        "gen",
        "union",
        "u32",
        "f64",
        "f32",
        "i64",
        "bool",
        "Clone",
        "Copy",
        "Debug",
        "PartialEq",
        "Default",
        "Option",
        "Some",
        "None",
        "Result",
        "Ok",
        "Err",
        "Vec",
        "Box",
        "String",
        "Iterator",
        "Drop",
        "Fn",
        "From",
        "Into",
        "Send",
        "Sync",
        "Sized",
        "Eq",
        "Ord",
        "AsRef",
    ];
    const FUNCTIONS: Case = Case::Snake;
    const TYPES: Case = Case::Pascal;
    const TABLES: Case = Case::Screaming;
    const BLOCKS: bool = true;
    const LOCALS: Case = Case::Snake;
    const INDENT: &'static str = "    ";

    fn number(&self, v: f64) -> String {
        number::double(v)
    }

    fn word(&self, v: u32) -> String {
        number::word(v)
    }

    fn single(&self, v: f32) -> String {
        number::single(v)
    }

    fn choose(&self, condition: &str, then: &str, otherwise: &str) -> String {
        format!("if {condition} {{ {then} }} else {{ {otherwise} }}")
    }

    fn convert(&self, value: &str) -> String {
        format!("({value}) as f32")
    }

    fn index_number(&self, index: &str, _: bool) -> String {
        format!("f64::from({index})")
    }

    fn table(&self, name: &str) -> String {
        format!("&{name}")
    }

    fn constant(&self, _: Type, name: &str, value: &str) -> String {
        format!("let {name} = {value};")
    }

    fn when(&self, condition: &str) -> String {
        format!("if {condition} {{")
    }

    fn when_return(&self, _: &str, _: &str) -> Option<String> {
        None
    }

    fn give(&self, value: &str, last: bool) -> String {
        if last { value.to_owned() } else { format!("return {value};") }
    }
}

fn type_name(ty: Type) -> &'static str {
    match ty {
        Type::Number => "f64",
        Type::Word => "u32",
        Type::Flag => "bool",
    }
}

const OWN: [&str; 6] = ["Run", "start", "advance", "step", "self_test", "SEED"];

struct File<'p> {
    plan: &'p Plan,
    names: FileNames,
}

impl<'p> File<'p> {
    fn of(plan: &'p Plan) -> Self {
        File { plan, names: FileNames::of(&Rs, plan, &OWN, "") }
    }

    fn scope(&self, locals: Vec<String>) -> Scope<'_, Rs> {
        Scope {
            spelling: &Rs,
            names: &self.names,
            locals,
            now: "t".to_owned(),
            seed: "self.seed".to_owned(),
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
                let index = if light.is_array() { "0" } else { "" };
                format!("//!     let lamp = run.{}({index});\n", names.read)
            },
        );
        let _ = write!(
            out,
            "//! {}. {MARK}{}.\n//!\n\
             //! Change the lightbook and export again rather than this file.\n//!\n\
             //! No dependency, no heap, no globals. A run is a plain value of 16 bytes: copy it to save it.\n\
             //! Values are computed when they are read, at any moment, in any order, at the same cost.\n//!\n\
             //! Host loop:\n//!\n\
             //! ```ignore\n\
             //! let mut run = {}::Run::start({}::SEED);\n\
             //! loop {{\n//!     run.step(seconds_of_this_frame);\n{example}//! }}\n//! ```\n\n\
             #![allow(clippy::approx_constant, clippy::excessive_precision, clippy::unreadable_literal)]\n\n\
             /// The book's own seed.\npub const SEED: u32 = {};\n\n\
             /// A run of the book: where it stands, and the seed of all its chances.\n\
             #[derive(Clone, Copy, Debug, PartialEq)]\n\
             pub struct Run {{\n    /// Seconds since the run's start.\n    pub now: f64,\n    \
             /// Of all its chances.\n    pub seed: u32,\n}}\n\n",
            comment(&plan.book),
            comment(&from),
            self.names.base,
            self.names.base,
            plan.seed.0,
        );
    }

    fn function(&self, n: usize, function: &Function, out: &mut String) {
        let locals = self.names.locals(&Rs, &function.locals, &[]);
        let name_of = |role: Role| {
            let found = function.parameters.iter().find(|(r, ..)| *r == role);
            found.map_or(String::new(), |(_, local, _)| locals[local.0].clone())
        };
        let parameters: Vec<String> = function
            .parameters
            .iter()
            .map(|(_, local, ty)| format!("{}: {}", locals[local.0], type_name(*ty)))
            .collect();
        let _ = writeln!(
            out,
            "/// {}{}\nfn {}({}) -> {} {{",
            describe(function),
            at_line(&function.note, self.plan),
            self.names.functions[n],
            parameters.join(", "),
            type_name(function.result),
        );
        let scope = Scope {
            now: name_of(Role::Now),
            seed: name_of(Role::Seed),
            ..self.scope(locals.clone())
        };
        scope.statements(&function.body, 1, out);
        out.push_str("}\n\n");
    }

    fn lamp_type(&self, light: &LightPlan, names: &LightNames, out: &mut String) {
        let _ = writeln!(
            out,
            "/// {}{}\n#[derive(Clone, Copy, Debug, Default, PartialEq)]\npub struct {} {{",
            describe_light(light),
            at_line(&light.note, self.plan),
            names.lamp
        );
        for field in &light.fields {
            let ty = match field.parts.len() {
                1 if field.flag => "bool",
                1 => "f32",
                _ => "[f32; 3]",
            };
            let _ = writeln!(
                out,
                "    /// {}{}\n    pub {}: {ty},",
                field.about,
                at_line(&field.note, self.plan),
                field_name(field)
            );
        }
        out.push_str("}\n\n");
    }

    fn methods(&self, light: &LightPlan, names: &LightNames, out: &mut String) {
        let own = ["first", "lamps", "lamp", "index", "n", "t"];
        let scope = self.scope(self.names.locals(&Rs, &light.locals, &own));
        let moment = if light.uses_now() { "        let t = self.now;\n" } else { "" };
        if light.is_array() {
            let indexed = light.uses_index();
            let first = if indexed { "first" } else { "_first" };
            let _ = write!(
                out,
                "\n    /// Reads lamps from `first` on, as many as there is room for.\n    \
                 pub fn {}(&self, {first}: u32, lamps: &mut [{}]) {{\n{moment}",
                names.fill, names.lamp
            );
            scope.statements(&light.shared, 2, out);
            if indexed {
                out.push_str(
                    "        for (n, lamp) in lamps.iter_mut().enumerate() {\n            \
                     let index = first.wrapping_add(n as u32);\n",
                );
            } else {
                out.push_str("        for lamp in lamps {\n");
            }
            scope.statements(&light.lamp, 3, out);
            let _ = writeln!(out, "            *lamp = {} {{", names.lamp);
            self.fields(light, &scope, 4, out);
            let _ = writeln!(
                out,
                "            }};\n        }}\n    }}\n\n    /// Reads one lamp.\n    \
                 pub fn {}(&self, index: u32) -> {lamp} {{\n        \
                 let mut lamp = [{lamp}::default()];\n        self.{}(index, &mut lamp);\n        \
                 lamp[0]\n    }}",
                names.read,
                names.fill,
                lamp = names.lamp
            );
        } else {
            let _ = write!(
                out,
                "\n    /// Reads the lamp.\n    pub fn {}(&self) -> {} {{\n{moment}",
                names.read, names.lamp
            );
            scope.statements(&light.shared, 2, out);
            scope.statements(&light.lamp, 2, out);
            let _ = writeln!(out, "        {} {{", names.lamp);
            self.fields(light, &scope, 3, out);
            out.push_str("        }\n    }\n");
        }
    }

    fn fields(&self, light: &LightPlan, scope: &Scope<'_, Rs>, depth: usize, out: &mut String) {
        let indent = Rs::INDENT.repeat(depth);
        for field in &light.fields {
            let parts: Vec<String> =
                field.parts.iter().map(|part| scope.output(field, part)).collect();
            let value =
                if parts.len() > 1 { format!("[{}]", parts.join(", ")) } else { parts.join("") };
            let _ = writeln!(out, "{indent}{}: {value},", field_name(field));
        }
    }

    fn self_test(&self, out: &mut String) {
        out.push_str(
            "/// Known answers of this file: 0 if this compiler gives the same bits as the preview, else how\n\
             /// many differ.\n#[allow(clippy::float_cmp)]\npub fn self_test() -> u32 {\n    \
             let mut wrong = u32::from(scramble(1) != 0x86d2_fa73);\n",
        );
        if !self.plan.answers.is_empty() {
            out.push_str("    let mut run = Run::start(SEED);\n");
        }
        let mut last = None;
        for answer in &self.plan.answers {
            let (light, names) =
                (&self.plan.lights[answer.light], &self.names.lights[answer.light]);
            if last != Some((answer.seed, answer.moment.to_bits())) {
                let moment = Rs.number(answer.moment);
                let _ =
                    writeln!(out, "    run.seed = {};\n    run.advance({moment});", answer.seed);
                last = Some((answer.seed, answer.moment.to_bits()));
            }
            let index = if light.is_array() { answer.index.to_string() } else { String::new() };
            let _ = writeln!(
                out,
                "    wrong += u32::from(run.{}({index}).{} != {});",
                names.read,
                part_of(&light.fields[answer.place.0], answer.place.1),
                Rs.single(answer.value)
            );
        }
        out.push_str("    wrong\n}\n");
        if self.plan.answers.is_empty() {
            let fixed = out.replace("let mut wrong", "let wrong");
            *out = fixed;
        }
    }
}

fn part_of(field: &FieldPlan, n: usize) -> String {
    let name = field_name(field);
    if field.parts.len() > 1 { format!("{name}[{n}]") } else { name }
}

fn field_name(field: &FieldPlan) -> String {
    let mut namer = Namer::without(Rs::TAKEN.iter().copied());
    namer.take(&cased(&field.name, Case::Snake))
}

impl Target for Rust {
    fn name(&self) -> &'static str {
        "rust"
    }

    fn extension(&self) -> &'static str {
        "rs"
    }

    fn print(&self, plan: &Plan) -> String {
        let file = File::of(plan);
        let mut out = String::new();
        file.head(&mut out);
        out.push_str(
            "impl Run {\n    /// A run at moment 0.\n    pub const fn start(seed: u32) -> Self {\n        \
             Run { now: 0.0, seed }\n    }\n\n    \
             /// Goes to a moment of the run, in seconds since its start.\n    \
             pub fn advance(&mut self, to: f64) {\n        self.now = clean_moment(to);\n    }\n\n    \
             /// Goes on by some seconds. Steps add up their rounding; `advance` does not.\n    \
             pub fn step(&mut self, seconds: f64) {\n        self.advance(self.now + seconds);\n    }\n",
        );
        for (light, names) in plan.lights.iter().zip(&file.names.lights) {
            file.methods(light, names, &mut out);
        }
        out.push_str("}\n\n");
        for (light, names) in plan.lights.iter().zip(&file.names.lights) {
            file.lamp_type(light, names, &mut out);
        }
        for (table, name) in plan.tables.iter().zip(&file.names.tables) {
            let _ = writeln!(
                out,
                "#[rustfmt::skip]\nstatic {name}: [f64; {}] = [\n{},\n];\n",
                table.values.len(),
                table_lines(&Rs, &table.values, Rs::INDENT)
            );
        }
        for (n, function) in plan.functions.iter().enumerate() {
            file.function(n, function, &mut out);
        }
        out.push_str(&kernel_parts(include_str!("kernel.rs"), &plan.helpers));
        out.push('\n');
        file.self_test(&mut out);
        out
    }

    fn prover(&self, plan: &Plan, blocks: &Blocks) -> String {
        let file = File::of(plan);
        let mut reads = String::new();
        for ((light, names), blocks) in plan.lights.iter().zip(&file.names.lights).zip(blocks) {
            for (first, count) in blocks {
                let puts: String = light
                    .fields
                    .iter()
                    .flat_map(|field| (0..field.parts.len()).map(move |n| (field, n)))
                    .map(|(field, n)| match (part_of(field, n), field.flag) {
                        (part, true) => format!(" put(f32::from(u8::from(lamp.{part})));"),
                        (part, false) => format!(" put(lamp.{part});"),
                    })
                    .collect();
                let _ = if light.is_array() {
                    writeln!(
                        reads,
                        "        {{ let mut lamps = vec![book::{}::default(); {count}]; run.{}({first}, &mut lamps); for lamp in &lamps {{{puts} let _ = lamp; }} }}",
                        names.lamp, names.fill
                    )
                } else {
                    writeln!(
                        reads,
                        "        {{ let lamp = run.{}();{puts} let _ = lamp; }}",
                        names.read
                    )
                };
            }
        }
        include_str!("prove.rs")
            .replace("BOOK_RS", &crate::file_name(plan, self))
            .replace("        // READS\n", &reads)
    }

    fn prover_name(&self) -> &'static str {
        "prove.rs"
    }

    fn tools(&self) -> &'static [Tool] {
        &[Tool { command: "rustc", version: &["--version"], package: "rustc" }]
    }

    fn compile(&self, folder: &Path, _: &str) -> Vec<Vec<String>> {
        let at = |name: &str| folder.join(name).display().to_string();
        let options = ["rustc", "--edition=2021", "-O", "-D", "warnings", "-o"];
        let mut command: Vec<String> = options.map(str::to_owned).to_vec();
        command.push(at("prove"));
        command.push(at("prove.rs"));
        vec![command]
    }

    fn run(&self, folder: &Path) -> Vec<String> {
        vec![folder.join("prove").display().to_string()]
    }
}
