//! Rust: one module, no dependency, no heap, no globals.

mod bytes;
mod syntax;

use std::fmt::Write;
use std::path::Path;

use caltrin_core::MADE;

use crate::ir::Receiver;
use crate::language::{self, Language, Printer};
use crate::lower::{Lowered, given_names, lamp_names, light_body};
use crate::names::{Case, Namer, cased, comment};
use crate::plan::{FieldPlan, InputPlan, LightPlan, NoticePlan, Plan, clock_fields};
use crate::print::{
    DUE, FileNames, InputNames, LightNames, NoticeSyntax, Syntax, about_table, at_line,
    describe_choice, describe_light, kernel_code, notice_code, prover_acts, prover_sets,
    self_test_code, summed_values, table_lines, tag_constants, texts, wrapped,
};
use crate::target::{ACTS, Blocks, FIRST_SET, Target, Tool};
use syntax::Rs;

/// The language.
pub struct Rust;

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
    "Run",
    "start",
    "advance",
    "step",
    "self_test",
    "act",
    "check",
    "checksum",
    "SEED",
    "clock_hours",
    "clock_strikes",
    "send",
    "take_notice",
    "notice_place",
    "dropped_notices",
    "Notice",
    "clock_hour",
    "clock_days",
    "set_clock",
    "drive_clock",
    "set_clock_days",
    "set_clock_rate",
];

struct File<'p> {
    plan: &'p Plan,
    names: FileNames,
}

impl<'p> File<'p> {
    fn of(plan: &'p Plan) -> Self {
        File { plan, names: FileNames::of(&Rs, plan, &OWN, "") }
    }

    fn head(&self, out: &mut String) {
        let plan = self.plan;
        let from =
            if plan.file.is_empty() { String::new() } else { format!(" from {}", plan.file) };
        let mut lights = self.plan.lights.iter().zip(&self.names.lights);
        let example = lights.nth(self.plan.example()).map_or(String::new(), |(light, names)| {
            let index = if light.is_array() { "0" } else { "" };
            format!("//         let lamp = run.{}({index});\n", names.read)
        });
        let mut inputs = String::new();
        if plan.has_due() {
            let _ = writeln!(inputs, "    /// {DUE}\n    due: f64,");
        }
        for (name, about, _) in plan.clock.iter().flat_map(clock_fields) {
            let _ = writeln!(inputs, "    /// {about}\n    {name}: f64,");
        }
        let mut constants = String::new();
        for (choice, names) in plan.choices.iter().zip(&self.names.choices) {
            let count = choice.options.len();
            let _ = writeln!(inputs, "    /// the option chosen\n    {}: u32,", names.field);
            if choice.fades() {
                let _ = writeln!(
                    inputs,
                    "    /// s, when it was chosen\n    {}: f64,\n    \
                     /// how much each option counted then\n    {}: [f64; {count}],",
                    names.since, names.from
                );
            }
            for (n, name) in names.options.iter().enumerate() {
                let _ = writeln!(
                    constants,
                    "/// {}{}\n#[allow(dead_code)]\npub const {name}: u32 = {n};",
                    describe_choice(choice),
                    at_line(&choice.note, plan)
                );
            }
            constants.push('\n');
        }
        for (about, name, value) in tag_constants(plan, &self.names) {
            let _ = writeln!(
                constants,
                "/// {about}\n#[allow(dead_code)]\npub const {name}: u32 = {value};\n"
            );
        }
        for (input, names) in plan.inputs.iter().zip(&self.names.inputs) {
            let ty = input_type(input);
            let _ = writeln!(inputs, "    /// {}\n    {}: {ty},", input.about, names.field);
        }
        let _ = write!(
            out,
            "// {}. {MADE}{}.\n//\n\
             // Change the lightbook and export again rather than this file.\n//\n\
             // A module (`mod {};`), or included into one (`mod lights {{ include!(\"{}.rs\"); }}`), with or without\n\
             // the standard library. No dependency, no heap, no globals, no unsafe code. A run is a plain value of\n\
             // {} bytes: copy it to save it, or `to_bytes`. Values are computed when they are read, at any moment, in\n\
             // any order, at the same cost.\n//\n\
             // Host loop:\n//\n\
             //     let mut run = {}::Run::start({}::SEED);\n\
             //     loop {{\n//         run.step(seconds_of_this_frame);\n{example}//     }}\n\n\
             /// The book's own seed.\n#[allow(dead_code)]\npub const SEED: u32 = {};\n\n{constants}\
             /// A run of the book: where it stands, and the seed of all its chances.\n\
             #[derive(Clone, Copy, Debug, PartialEq)]\n\
             pub struct Run {{\n    /// Seconds since the run's start.\n    pub now: f64,\n    \
             /// Of all its chances.\n    pub seed: u32,\n{inputs}}}\n\n",
            comment(&plan.book),
            comment(&from),
            self.names.base,
            self.names.base,
            plan.run_bytes(),
            self.names.base,
            self.names.base,
            plan.seed.0,
        );
    }

    /// Every input at its default.
    fn defaults(&self) -> String {
        let each = |(input, names): (&InputPlan, &InputNames)| {
            let spell = |v: &f64| if input.flag { (*v != 0.0).to_string() } else { Rs.number(*v) };
            let parts: Vec<String> = input.default.iter().map(spell).collect();
            let one =
                if parts.len() > 1 { format!("[{}]", parts.join(", ")) } else { parts.join("") };
            match input.count {
                Some(n) => format!("            {}: [{one}; {n}],\n", names.field),
                None => format!("            {}: {one},\n", names.field),
            }
        };
        let mut fields = String::new();
        fields.push_str(if self.plan.has_due() { "            due: 0.0,\n" } else { "" });
        for (name, _, value) in self.plan.clock.iter().flat_map(clock_fields) {
            let _ = writeln!(fields, "            {name}: {},", Rs.number(value));
        }
        for (choice, names) in self.plan.choices.iter().zip(&self.names.choices) {
            let _ = writeln!(fields, "            {}: 0,", names.field);
            if choice.fades() {
                let others = ", 0.0".repeat(choice.options.len() - 1);
                let _ = writeln!(
                    fields,
                    "            {}: -2e9,\n            {}: [1.0{others}],",
                    names.since, names.from
                );
            }
        }
        fields.extend(self.plan.inputs.iter().zip(&self.names.inputs).map(each));
        match fields.is_empty() {
            true => "Run { now: 0.0, seed }".to_owned(),
            false => {
                format!("Run {{\n            now: 0.0,\n            seed,\n{fields}        }}")
            }
        }
    }

    /// Functions of the tree, those of the run with a blank line before and the others with one after them.
    fn functions<'l>(
        &self,
        lowered: &Lowered,
        names: impl IntoIterator<Item = &'l String>,
        out: &mut String,
    ) {
        for name in names {
            let function = lowered.function(name);
            if function.receiver == Receiver::None {
                out.push_str(&self.printer(lowered, 0).print_function(function));
                out.push('\n');
            } else {
                out.push('\n');
                out.push_str(&self.printer(lowered, 4).print_function(function));
            }
        }
    }

    /// Prints functions of the tree.
    fn printer<'l>(&self, lowered: &'l Lowered, indent: usize) -> Printer<'l> {
        let names = given_names(self.plan, &self.names, &language::RUST, Vec::new());
        Printer::new(&language::RUST, &lowered.module, "", indent).named_by(names)
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

    fn methods(&self, lowered: &Lowered, light: &LightPlan, names: &LightNames, out: &mut String) {
        let own = ["first", "lamps", "lamp", "n"];
        let (function, shared) = light_body(self.plan, light);
        let printer = self.printer(lowered, 4);
        let lamps = lamp_names(light, "lamp", &own, field_name);
        if light.is_array() {
            let [shared, each, sets] = printer.print_light(&function, shared, &lamps, [8, 12, 16]);
            let (first, head) = match light.uses_index() {
                true => (
                    "first",
                    "for (n, lamp) in lamps.iter_mut().enumerate() {\n            \
                     let index = first.wrapping_add(n as u32);",
                ),
                false => ("_first", "for lamp in lamps {"),
            };
            let _ = writeln!(
                out,
                "\n    /// Reads lamps from `first` on, as many as there is room for.\n    \
                 pub fn {fill}(&self, {first}: u32, lamps: &mut [{lamp}]) {{\n{shared}        {head}\n{each}            \
                 *lamp = {lamp} {{\n{sets}            }};\n        }}\n    }}\n\n    /// Reads one lamp.\n    \
                 pub fn {read}(&self, index: u32) -> {lamp} {{\n        \
                 let mut lamp = [{lamp}::default()];\n        self.{fill}(index, &mut lamp);\n        \
                 lamp[0]\n    }}",
                fill = names.fill,
                read = names.read,
                lamp = names.lamp
            );
        } else {
            let [shared, each, sets] = printer.print_light(&function, shared, &lamps, [8, 8, 12]);
            let _ = writeln!(
                out,
                "\n    /// Reads the lamp.\n    \
                 pub fn {}(&self) -> {lamp} {{\n{shared}{each}        {lamp} {{\n{sets}        }}\n    }}",
                names.read,
                lamp = names.lamp
            );
        }
    }

    /// What sends notices, and what takes them.
    fn notices(&self) -> Option<(String, String)> {
        let each = |n: usize, notice: &NoticePlan| {
            let text = match (notice.texts.len(), texts(notice)) {
                (0, _) => "\"\"".to_owned(),
                (count, list) => format!("[{list}][text % {count}]"),
            };
            format!(
                "            {n} => Notice {{\n                name: \"{}\",\n                from: \"{}\",\n                \
                 text: {text},\n                ..empty\n            }},\n",
                notice.name, notice.from
            )
        };
        let place = |n: usize, light: usize, field: usize| {
            let (light, names) = (&self.plan.lights[light], &self.names.lights[light]);
            let index = if light.is_array() { "lamp" } else { "" };
            let field = field_name(&light.fields[field]);
            format!("            {n} => self.{}({index}).{field},\n", names.read)
        };
        let source = include_str!("notice.rs");
        let (mut sends, takes) = notice_code(&Rs, self.plan, &self.names, source, each, place)?;
        let values: usize = self.names.notice_values.iter().map(|(_, given)| given.len()).sum();
        // Clippy's limit is 7, of which `self`, the line, the text and the lamp are four.
        if values > 3 {
            let allowed = "    #[allow(clippy::too_many_arguments)]\n    fn send(";
            sends = sends.replace("    fn send(", allowed);
        }
        Some((sends, takes))
    }

    fn self_test(&self, out: &mut String) {
        let template = include_str!("self_test.rs");
        out.push_str(&self_test_code(&Rs, self.plan, &self.names, "", template));
    }
}

/// Says of each function and table that holds a number close to a known one that it is no such number.
fn allowed(text: &str) -> String {
    // The digits of those that clippy knows, after which fewer are a coincidence.
    const KNOWN: [(&str, usize); 19] = [
        ("2.718281828459045", 4),
        ("0.318309886183790", 5),
        ("0.398942280401432", 5),
        ("0.636619772367581", 5),
        ("1.128379167095512", 5),
        ("0.785398163397448", 5),
        ("0.693147180559945", 5),
        ("2.302585092994046", 5),
        ("3.321928094887362", 5),
        ("1.442695040888963", 5),
        ("0.301029995663981", 5),
        ("0.434294481903251", 5),
        ("0.707106781186547", 5),
        ("1.047197551196597", 5),
        ("0.523598775598298", 5),
        ("0.392699081698724", 5),
        ("1.570796326794896", 5),
        ("3.141592653589793", 3),
        ("1.414213562373095", 5),
    ];
    let is_known = |word: &str| {
        let digits = word.replace('_', "");
        KNOWN.iter().any(|(known, least)| {
            let near = digits.parse::<f64>().ok().zip(known.parse::<f64>().ok());
            let size =
                10f64.powi(digits.split_once('.').map_or(0, |(_, part)| -(part.len() as i32)));
            digits.len() > *least && near.is_some_and(|(a, b)| (a - b).abs() <= size.max(1e-14))
        })
    };
    let is_near = |line: &str| {
        line.split(|c: char| !(c.is_ascii_digit() || c == '.' || c == '_')).any(is_known)
    };
    let item = |line: &str| {
        let open = ["fn ", "pub fn ", "static ", "impl ", "trait "];
        open.iter().any(|start| line.starts_with(start))
    };
    let lines: Vec<&str> = text.lines().collect();
    let mut out = String::with_capacity(text.len());
    for (n, line) in lines.iter().enumerate() {
        if item(line) {
            let body = lines[n..].iter().take_while(|line| !line.starts_with(['}', ']']));
            if body.into_iter().any(|line| is_near(line)) {
                out.push_str("#[allow(clippy::approx_constant)]\n");
            }
        }
        out.push_str(line);
        out.push('\n');
    }
    out
}

fn input_type(input: &InputPlan) -> String {
    let one = match (input.flag, input.suffixes) {
        (true, _) => "bool",
        (false, []) => "f64",
        (false, _) => "[f64; 3]",
    };
    input.count.map_or(one.to_owned(), |n| format!("[{one}; {n}]"))
}

fn part_of(field: &FieldPlan, n: usize) -> String {
    let name = field_name(field);
    if field.parts.len() > 1 { format!("{name}[{n}]") } else { name }
}

fn field_name(field: &FieldPlan) -> String {
    Namer::avoiding(language::RUST.reserved(), &cased(&field.name, Case::Snake))
}

/// What the host takes.
const NOTICE: &str = "\
/// Notices that the book sends to the game.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Notice {
    /// Seconds since the run's start.
    pub moment: f64,
    /// The book's name for it.
    pub name: &'static str,
    /// What comes with it, one of several by chance; empty for nothing.
    pub text: &'static str,
    /// The light or instance that it comes from; empty for none.
    pub from: &'static str,
    /// Which lamp of the light, or which instance.
    pub lamp: u32,
    /// Where that lamp was then; 0 where the book does not say.
    pub position: [f32; 3],
    VALUE_FIELD
}

";

impl Target for Rust {
    fn name(&self) -> &'static str {
        "rust"
    }

    fn extension(&self) -> &'static str {
        "rs"
    }

    fn language(&self) -> &'static Language {
        &language::RUST
    }

    fn print(&self, plan: &Plan) -> String {
        let file = File::of(plan);
        let mut out = String::new();
        file.head(&mut out);
        let lowered = Lowered::of(plan);
        let _ = writeln!(
            out,
            "// A host calls what it needs.\n#[allow(dead_code)]\nimpl Run {{\n    /// A run at moment 0.\n    \
             pub const fn start(seed: u32) -> Self {{\n        {}\n    }}",
            file.defaults(),
        );
        file.functions(&lowered, &lowered.course, &mut out);
        file.functions(&lowered, lowered.sparks.iter().flatten(), &mut out);
        for event in &lowered.events {
            let names = event.due.iter().chain(&event.each).chain([&event.act]);
            file.functions(&lowered, names, &mut out);
        }
        file.functions(&lowered, &lowered.clock, &mut out);
        file.functions(&lowered, lowered.choices.iter().flatten(), &mut out);
        file.functions(&lowered, &lowered.setters, &mut out);
        let notices = file.notices();
        for code in notices.iter().flat_map(|(sends, takes)| [sends, takes]) {
            out.push_str(code);
        }
        for (light, names) in plan.lights.iter().zip(&file.names.lights) {
            file.methods(&lowered, light, names, &mut out);
        }
        out.push_str(&bytes::methods(plan, &file.names));
        out.push_str("}\n\n");
        if notices.is_some() {
            let values = plan.notice_values.iter().zip(&file.names.notice_values);
            let fields =
                values.flat_map(|(place, (field, _))| Rs.notice_field(&plan.inputs[*place], field));
            let fields: String = fields.map(|line| format!("    {line}\n")).collect();
            out.push_str(&NOTICE.replace("    VALUE_FIELD\n", &fields));
        }
        for (light, names) in plan.lights.iter().zip(&file.names.lights) {
            file.lamp_type(light, names, &mut out);
        }
        for (table, name) in plan.tables.iter().zip(&file.names.tables) {
            let ty = if table.words().is_empty() { "f64" } else { "u32" };
            let about = about_table(table).map(|text| format!("/// {text}\n"));
            let _ = writeln!(
                out,
                "{}#[rustfmt::skip]\nstatic {name}: [{ty}; {}] = [\n{},\n];\n",
                about.unwrap_or_default(),
                table.count(),
                table_lines(&Rs, table, Rs::INDENT)
            );
        }
        file.functions(&lowered, &lowered.book, &mut out);
        out.push_str(&kernel_code(&language::RUST, lowered.needs(plan), "", 0));
        out.push('\n');
        file.self_test(&mut out);
        if out.contains(".sqrt()") {
            out.push('\n');
            out.push_str(include_str!("root.rs"));
        }
        let out = allowed(&out);
        wrapped(&out, Rs::INDENT)
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
        let sets = prover_sets(plan, &file.names, |input, names, slots| {
            let value = |slot: String| {
                if input.flag { format!("input({slot}) != 0.0") } else { format!("input({slot})") }
            };
            let values: Vec<String> = slots.into_iter().map(value).collect();
            let (count, set) = (input.count.unwrap_or(1), &names.set);
            let index = input.count.map_or("", |_| "n as u32, ");
            format!("        for n in 0..{count} {{ run.{set}({index}{}); }}", values.join(", "))
        });
        let source = include_str!("prove_acts.rs");
        let code = prover_acts(
            plan,
            &file.names,
            source,
            |n, names| {
                let set = &names.set;
                format!(
                    "                5 if act(2) as u32 / 1000 == {n} => run.{set}(act(2) as u32 % 1000),"
                )
            },
            |n, (act, indexed), values| {
                let values = values
                    .map(|(k, flag)| format!("given({k}){}", if flag { " != 0.0" } else { "" }));
                let values = values.collect::<Vec<_>>().join(", ");
                let index = match (indexed, values.is_empty()) {
                    (false, _) => "",
                    (true, true) => "act(2) as u32 % 1000",
                    (true, false) => "act(2) as u32 % 1000, ",
                };
                format!(
                    "                6 if act(2) as u32 / 1000 == {n} => run.{act}({index}{values}),"
                )
            },
            |n, input, names| {
                let (verb, set) = (FIRST_SET + n as u32, &names.set);
                let index = input.count.map_or("", |_| "0, ");
                let value = if input.flag { "act(2) != 0.0" } else { "act(2)" };
                let values = vec![value; input.default.len()].join(", ");
                format!("                {verb} => run.{set}({index}{values}),")
            },
        );
        let acts = if plan.has_acts() { 3 * ACTS } else { 0 };
        let slots = plan.given_slots();
        if plan.queue.is_some() {
            let source = include_str!("prove_notices.rs");
            reads.push_str(&summed_values(&Rs, plan, &file.names, source));
        }
        include_str!("prove.rs")
            .replace("        // CLOCK\n", &code)
            .replace("RECORD_SLOTS", &(slots + acts + plan.most_given()).to_string())
            .replace("GIVEN", &(slots + acts).to_string())
            .replace("SLOTS", &slots.to_string())
            .replace("        // SETS\n", &sets)
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
