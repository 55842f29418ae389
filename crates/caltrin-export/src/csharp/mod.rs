//! C#: one struct, no `unsafe`, no dependency, no heap, no globals. What Mono's `mcs` compiles.

mod syntax;

use std::fmt::Write;
use std::path::Path;

use caltrin_core::MADE;

use crate::language::{self, Language, Printer};
use crate::lower::{Lowered, given_names, lamp_names, light_body};
use crate::names::{Case, Namer, cased, comment};
use crate::plan::{FieldPlan, LightPlan, NoticePlan, Plan, clock_fields};
use crate::print::{
    DUE, FileNames, LightNames, Syntax, about_table, at_line, describe_choice, describe_light,
    kernel_code, notice_code, prover_acts, prover_sets, self_test_code, summed_values, table_lines,
    tag_constants, wrapped,
};
use crate::target::{ACTS, Blocks, FIRST_SET, Target, Tool};
use syntax::Cs;

/// The language.
pub struct CSharp;

const OWN: [&str; 31] = [
    "Settle",
    "Now",
    "Seed",
    "Start",
    "Advance",
    "Step",
    "SelfTest",
    "Given",
    "IsExact",
    "Act",
    "Check",
    "Checksum",
    "BookSeed",
    "ClockHours",
    "ClockStrikes",
    "Send",
    "Notice",
    "TakeNotice",
    "NoticePlace",
    "DroppedNotices",
    "ClockFrom",
    "ClockHour",
    "ClockDays",
    "SetClock",
    "DriveClock",
    "SetClockDays",
    "SetClockRate",
    "HourThen",
    "DaysThen",
    "ClockSince",
    "ClockRate",
];

/// The fields that a run keeps its clock in; its methods have the names that other languages use.
const CLOCK_FIELDS: [&str; 5] = ["HourThen", "DaysThen", "ClockSince", "ClockRate", "ClockFrom"];

struct File<'p> {
    plan: &'p Plan,
    names: FileNames,
    type_name: String,
    namespace: String,
}

impl<'p> File<'p> {
    fn of(plan: &'p Plan) -> Self {
        let namespace = match &plan.prefix {
            Some(prefix) => cased(prefix.text(), Case::Pascal),
            None => "Lightbooks".to_owned(),
        };
        let mut namer = Namer::without([namespace.as_str()]);
        let type_name = namer.take(&cased(&plan.book, Case::Pascal));
        let mut own = OWN.to_vec();
        own.push(&namespace);
        own.push(&type_name);
        let names = FileNames::of(&Cs, plan, &own, "");
        File { plan, names, type_name: type_name.clone(), namespace: namespace.clone() }
    }

    fn head(&self, out: &mut String) {
        let plan = self.plan;
        let from =
            if plan.file.is_empty() { String::new() } else { format!(" from {}", plan.file) };
        let mut lights = self.plan.lights.iter().zip(&self.names.lights);
        let example = lights.nth(self.plan.example()).map_or(String::new(), |(light, names)| {
            let index = if light.is_array() { "0" } else { "" };
            format!("//         var lamp = run.{}({index});\n", names.read)
        });
        let (numbers, flags, blocks) = self.input_fields();
        let defaults = self.defaults();
        let zero = if blocks.is_empty() {
            String::new()
        } else {
            format!(" = default({})", self.type_name)
        };
        let using = if blocks.is_empty() { "" } else { "using System.Runtime.InteropServices;\n" };
        let (due, none_due) = match plan.has_due() {
            true => (format!("double Due; // {DUE}\n"), "    run.Due = 0.0;\n"),
            false => (String::new(), ""),
        };
        let _ = write!(
            out,
            "// {}. {MADE}{}.\n//\n\
             // Change the lightbook and export again rather than this file.\n//\n\
             // No dependency, no heap, no globals, no unsafe code. A run is a plain value of {} bytes: copy\n\
             // it to save it. Values are computed when they are read, at any moment, in any order, at the\n\
             // same cost.\n//\n\
             // Keep it in a plain field or local and pass it by `ref`: on a copy (a readonly field, a property,\n\
             // an `in` parameter) Advance, events and setters change the copy alone. {name}Run is a class\n\
             // that holds one, for all other places.\n//\n\
             // Host loop:\n//\n\
             //     var run = {name}.Start({name}.BookSeed);\n\
             //     for (;;)\n//     {{\n//         run.Step(secondsOfThisFrame);\n{example}//     }}\n\n\
             using System;\n{using}\nnamespace {namespace}\n{{\n\
             /// <summary>A run of the book: where it stands, and the seed of all its chances.</summary>\n\
             public struct {name}\n{{\n\
             /// <summary>The book's own seed.</summary>\npublic const uint BookSeed = {}u;\n\n\
             /// <summary>Seconds since the run's start.</summary>\npublic double Now;\n{due}{numbers}\
             /// <summary>Of all its chances.</summary>\npublic uint Seed;\n{flags}\n{blocks}\
             /// <summary>A run at moment 0.</summary>\n\
             public static {name} Start(uint seed)\n{{\n    {name} run{zero};\n    run.Now = 0.0;\n{none_due}    \
             run.Seed = seed;\n{defaults}    return run;\n}}\n\n",
            comment(&plan.book),
            comment(&from),
            plan.run_bytes(),
            plan.seed.0,
            name = self.type_name,
            namespace = self.namespace,
        );
    }

    /// The fields that inputs are kept in, those of doubles first, and the structs that hold many.
    fn input_fields(&self) -> (String, String, String) {
        let (mut numbers, mut flags, mut blocks) = (String::new(), String::new(), String::new());
        let clock = self.plan.clock.iter().flat_map(clock_fields);
        for ((_, about, _), name) in clock.zip(CLOCK_FIELDS) {
            let _ = writeln!(numbers, "double {name}; // {about}");
        }
        for (choice, names) in self.plan.choices.iter().zip(&self.names.choices) {
            let _ = writeln!(flags, "uint {}; // the option chosen", names.field);
            if choice.fades() {
                blocks.push_str(&many(&names.from, "double", choice.options.len(), 8));
                let _ = writeln!(
                    numbers,
                    "double {}; // s, when it was chosen\nMany{from} {from}; // how much each option counted then",
                    names.since,
                    from = names.from
                );
            }
        }
        for (input, names) in self.plan.inputs.iter().zip(&self.names.inputs) {
            let (ty, bytes, to) = match input.flag {
                true => ("bool", 1, &mut flags),
                false => ("double", 8, &mut numbers),
            };
            let field = &names.field;
            let _ = match (input.count, input.suffixes) {
                (Some(_), _) => {
                    blocks.push_str(&many(field, ty, input.slots(), bytes));
                    writeln!(to, "Many{field} {field};")
                }
                (None, []) => writeln!(to, "{ty} {field};"),
                (None, parts) => {
                    let all: Vec<String> = parts
                        .iter()
                        .map(|p| format!("{field}{}", p.to_ascii_uppercase()))
                        .collect();
                    writeln!(to, "{ty} {};", all.join(", "))
                }
            };
        }
        (numbers, flags, blocks)
    }

    /// What sets all inputs of a run to their defaults.
    fn defaults(&self) -> String {
        let mut out = String::new();
        let clock = self.plan.clock.iter().flat_map(clock_fields);
        for ((.., value), name) in clock.zip(CLOCK_FIELDS) {
            let _ = writeln!(out, "    run.{name} = {};", Cs.number(value));
        }
        for (choice, names) in self.plan.choices.iter().zip(&self.names.choices) {
            let _ = writeln!(out, "    run.{} = 0u;", names.field);
            if choice.fades() {
                let _ = writeln!(
                    out,
                    "    run.{} = -2e9;\n    run.{}.Put(0u, 1.0);",
                    names.since, names.from
                );
            }
        }
        for (input, names) in self.plan.inputs.iter().zip(&self.names.inputs) {
            let field = &names.field;
            for (part, default) in input.default.iter().enumerate() {
                let value =
                    if input.flag { (*default != 0.0).to_string() } else { Cs.number(*default) };
                let _ = match input.count {
                    Some(count) => {
                        let n = if input.default.len() > 1 {
                            format!("3u * n + {part}u")
                        } else {
                            "n".to_owned()
                        };
                        writeln!(
                            out,
                            "    for (uint n = 0u; n < {count}u; ++n) run.{field}.Put({n}, {value});"
                        )
                    }
                    None => {
                        let suffix = input.suffixes.get(part).copied().unwrap_or_default();
                        writeln!(out, "    run.{field}{} = {value};", suffix.to_ascii_uppercase())
                    }
                };
            }
        }
        out
    }

    /// Functions of the tree, each with a blank line after it. All of the struct is indented in the end.
    fn functions<'l>(
        &self,
        lowered: &Lowered,
        names: impl IntoIterator<Item = &'l String>,
        out: &mut String,
    ) {
        let printer = self.printer(lowered);
        for name in names {
            out.push_str(&outdented(&printer.print_function(lowered.function(name))));
            out.push('\n');
        }
    }

    /// Prints functions of the tree.
    fn printer<'l>(&self, lowered: &'l Lowered) -> Printer<'l> {
        let names = given_names(self.plan, &self.names, &language::CSHARP, Vec::new());
        Printer::new(&language::CSHARP, &lowered.module, "", 8).named_by(names)
    }

    fn light(&self, lowered: &Lowered, light: &LightPlan, names: &LightNames, out: &mut String) {
        let _ = writeln!(
            out,
            "// {}{}\npublic struct {}\n{{",
            describe_light(light),
            at_line(&light.note, self.plan),
            names.lamp
        );
        for field in &light.fields {
            let all: Vec<String> = (0..field.parts.len()).map(|n| part_of(field, n)).collect();
            let _ = writeln!(
                out,
                "    public {} {}; // {}{}",
                if field.flag { "bool" } else { "float" },
                all.join(", "),
                field.about,
                at_line(&field.note, self.plan)
            );
        }
        out.push_str("}\n\n");
        let own = ["first", "count", "lamps", "lamp", "n"];
        let (function, shared) = light_body(self.plan, light);
        let printer = self.printer(lowered);
        let name = |field: &FieldPlan| part_of(field, usize::MAX);
        let print = |lamp: &str, depths: [usize; 3]| {
            let lamps = lamp_names(light, lamp, &own, name);
            printer.print_light(&function, shared, &lamps, depths.map(|depth| depth + 8))
        };
        let index = if light.is_array() { "uint index" } else { "" };
        if light.is_array() {
            let [shared, each, sets] = print("lamps[n]", [4, 8, 8]).map(|text| outdented(&text));
            let index = match light.uses_index() {
                true => "        uint index = unchecked(first + (uint)n);\n",
                false => "",
            };
            let _ = writeln!(
                out,
                "/// <summary>Reads lamps from first on, as many as the array has room for.</summary>\n\
                 public void {}(uint first, {}[] lamps)\n{{\n{shared}    \
                 for (int n = 0; n < lamps.Length; ++n)\n    {{\n{index}{each}{sets}    }}\n}}\n",
                names.fill, names.lamp
            );
        }
        let about = if light.is_array() { "Reads one lamp." } else { "Reads the lamp." };
        let [shared, each, sets] = print("lamp", [4; 3]).map(|text| outdented(&text));
        let _ = writeln!(
            out,
            "/// <summary>{about}</summary>\npublic {lamp} {}({index})\n{{\n{shared}{each}    {lamp} lamp;\n{sets}    \
             return lamp;\n}}\n",
            names.read,
            lamp = names.lamp
        );
    }

    /// What sends notices, and what takes them.
    fn notices(&self) -> Option<(String, String)> {
        let each = |n: usize, notice: &NoticePlan| {
            let mut out = format!(
                "        case {n}:\n            notice.Name = \"{}\";\n            notice.From = \"{}\";\n",
                notice.name, notice.from
            );
            // No array is made: texts are chosen by their place.
            for (nth, text) in notice.texts.iter().enumerate() {
                let otherwise = if nth == 0 { "" } else { "else " };
                let _ = writeln!(
                    out,
                    "            {otherwise}if (text == {nth}u) notice.Text = \"{text}\";"
                );
            }
            out.push_str("            break;\n");
            out
        };
        let place = |n: usize, light: usize, field: usize| {
            let (light, names) = (&self.plan.lights[light], &self.names.lights[light]);
            let index = if light.is_array() { "lamp" } else { "" };
            let mut out =
                format!("        case {n}u:\n            var from{n} = {}({index});\n", names.read);
            for (part, axis) in ["x", "y", "z"].iter().enumerate() {
                let name = part_of(&light.fields[field], part);
                let _ = writeln!(out, "            {axis} = (double)from{n}.{name};");
            }
            out + "            break;\n"
        };
        notice_code(&Cs, self.plan, &self.names, include_str!("notice.cs"), each, place)
    }

    /// The class that holds a run.
    fn wrapper(&self) -> String {
        let (ty, gives) = if self.plan.has_due() { ("bool", "return ") } else { ("void", "") };
        let wrapper = include_str!("wrapper.cs").replace("BOOK", &self.type_name);
        wrapper.replace("TYPE", ty).replace("GIVES", gives)
    }

    fn self_test(&self, out: &mut String) {
        let template = include_str!("self_test.cs");
        let code = self_test_code(&Cs, self.plan, &self.names, "", template);
        out.push_str(&code.replace("BOOK", &self.type_name));
        out.push_str("}\n}\n");
    }
}

/// The struct that holds many numbers or flags, as fields of the run.
fn many(field: &str, ty: &str, slots: usize, bytes: usize) -> String {
    format!(
        "[StructLayout(LayoutKind.Sequential, Size = {})]\nstruct Many{field}\n{{\n    \
         {ty} first;\n    public {ty} At(uint n)\n    {{\n        \
         return MemoryMarshal.CreateSpan(ref first, {slots})[(int)n];\n    }}\n    \
         public void Put(uint n, {ty} to)\n    {{\n        \
         var all = MemoryMarshal.CreateSpan(ref first, {slots});\n        \
         all[(int)n] = to;\n    }}\n}}\n\n",
        slots * bytes
    )
}

fn part_of(field: &FieldPlan, n: usize) -> String {
    let name = Namer::avoiding(language::CSHARP.reserved(), &cased(&field.name, Case::Pascal));
    match field.suffixes.get(n) {
        Some(part) => format!("{name}{}", part.to_ascii_uppercase()),
        None => name,
    }
}

/// Lines without the indent that they get with all of the struct.
fn outdented(text: &str) -> String {
    let lines = text.lines().map(|line| line.strip_prefix("        ").unwrap_or(line));
    lines.map(|line| format!("{line}\n")).collect()
}

/// Indents what stands inside the two pairs of braces around everything.
fn indent_members(text: &str, wrapper: &str) -> String {
    let mut out = String::with_capacity(text.len() * 5 / 4);
    let mut depth = 0usize;
    for line in text.lines() {
        match line {
            "{" if depth < 2 => {
                out.push_str(&"    ".repeat(depth));
                depth += 1;
            }
            _ => {
                if !line.is_empty() {
                    out.push_str(&"    ".repeat(depth));
                }
            }
        }
        out.push_str(line);
        out.push('\n');
    }
    // The last two lines close the struct and the namespace.
    let body = out.trim_end().trim_end_matches('}').trim_end().trim_end_matches('}').trim_end();
    let wrapper: Vec<String> = wrapper
        .lines()
        .map(|line| if line.is_empty() { String::new() } else { format!("    {line}") })
        .collect();
    format!("{body}\n    }}\n\n{}\n}}\n", wrapper.join("\n"))
}

impl Target for CSharp {
    fn name(&self) -> &'static str {
        "csharp"
    }

    fn extension(&self) -> &'static str {
        "cs"
    }

    fn language(&self) -> &'static Language {
        &language::CSHARP
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
            for (n, name) in names.options.iter().enumerate() {
                let _ = writeln!(
                    out,
                    "/// <summary>{}</summary>\npublic const uint {name} = {n}u;",
                    describe_choice(choice)
                );
            }
            out.push('\n');
            file.functions(&lowered, functions, &mut out);
        }
        for (about, name, value) in tag_constants(plan, &file.names) {
            let _ = writeln!(
                out,
                "/// <summary>{about}</summary>\npublic const uint {name} = {value}u;\n"
            );
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
        let notices = file.notices();
        for code in notices.iter().flat_map(|(sends, takes)| [sends, takes]) {
            out.push_str(code);
        }
        for (table, name) in plan.tables.iter().zip(&file.names.tables) {
            let ty = if table.words().is_empty() { "double" } else { "uint" };
            let about = about_table(table).map(|text| format!("/// <summary>{text}</summary>\n"));
            let _ = writeln!(
                out,
                "{}static readonly {ty}[] {name} =\n{{\n{}\n}};\n",
                about.unwrap_or_default(),
                table_lines(&Cs, table, Cs::INDENT)
            );
        }
        file.functions(&lowered, &lowered.book, &mut out);
        let kernel = kernel_code(&language::CSHARP, lowered.needs(plan), "", 8);
        out.push_str(&outdented(&kernel));
        out.push('\n');
        file.self_test(&mut out);
        wrapped(&indent_members(&out, &file.wrapper()), Cs::INDENT)
    }

    fn prover(&self, plan: &Plan, blocks: &Blocks) -> String {
        let file = File::of(plan);
        let mut reads = String::new();
        for ((light, names), blocks) in plan.lights.iter().zip(&file.names.lights).zip(blocks) {
            let puts: String = light
                .fields
                .iter()
                .flat_map(|field| (0..field.parts.len()).map(move |n| (field, n)))
                .map(|(field, n)| match (part_of(field, n), field.flag) {
                    (part, true) => format!(" output.Write(lamp.{part} ? 1.0f : 0.0f);"),
                    (part, false) => format!(" output.Write(lamp.{part});"),
                })
                .collect();
            for (first, count) in blocks {
                let _ = if light.is_array() {
                    writeln!(
                        reads,
                        "            {{ var lamps = new {ty}.{}[{count}]; run.{}({first}u, lamps); foreach (var lamp in lamps) {{{puts} }} }}",
                        names.lamp,
                        names.fill,
                        ty = format_args!("{}.{}", file.namespace, file.type_name)
                    )
                } else {
                    writeln!(reads, "            {{ var lamp = run.{}();{puts} }}", names.read)
                };
            }
        }
        let sets = prover_sets(plan, &file.names, |input, names, slots| {
            let value = |slot: String| {
                if input.flag {
                    format!("inputs[{slot}] != 0.0")
                } else {
                    format!("inputs[{slot}]")
                }
            };
            let values: Vec<String> = slots.into_iter().map(value).collect();
            let (count, set) = (input.count.unwrap_or(1), &names.set);
            let index = input.count.map_or("", |_| "(uint)n, ");
            let values = values.join(", ");
            format!("                for (int n = 0; n < {count}; ++n) run.{set}({index}{values});")
        });
        let source = include_str!("ProveActs.cs");
        let code = prover_acts(
            plan,
            &file.names,
            source,
            |n, names| {
                let set = &names.set;
                format!(
                    "                    if (inputs[act] == 5.0 && (uint)to / 1000u == {n}u) \
                 run.{set}((uint)to % 1000u);"
                )
            },
            |n, (act, indexed), values| {
                let values = values.map(|(k, flag)| {
                    format!("inputs[GIVEN + {k}]{}", if flag { " != 0.0" } else { "" })
                });
                let values = values.collect::<Vec<_>>().join(", ");
                let index = match (indexed, values.is_empty()) {
                    (false, _) => "",
                    (true, true) => "(uint)to % 1000u",
                    (true, false) => "(uint)to % 1000u, ",
                };
                format!(
                    "                    if (inputs[act] == 6.0 && (uint)to / 1000u == {n}u) run.{act}({index}{values});"
                )
            },
            |n, input, names| {
                let (verb, set) = (FIRST_SET + n as u32, &names.set);
                let index = input.count.map_or("", |_| "0u, ");
                let value = if input.flag { "to != 0.0" } else { "to" };
                let values = vec![value; input.default.len()].join(", ");
                format!(
                    "                    if (inputs[act] == {verb}.0) run.{set}({index}{values});"
                )
            },
        );
        let acts = if plan.has_acts() { 3 * ACTS } else { 0 };
        let slots = plan.given_slots();
        if plan.queue.is_some() {
            let source = include_str!("ProveNotices.cs")
                .replace("BOOK", &file.type_name)
                .replace("Lightbooks", &file.namespace);
            reads.push_str(&summed_values(&Cs, plan, &file.names, &source));
        }
        include_str!("Prove.cs")
            .replace("                // CLOCK\n", &code)
            .replace("SLOTS", &(slots + acts + plan.most_given()).to_string())
            .replace("GIVEN", &(slots + acts).to_string())
            .replace("FIRST_ACT", &slots.to_string())
            .replace("                // SETS\n", &sets)
            .replace("BOOK", &file.type_name)
            .replace("Lightbooks", &file.namespace)
            .replace("            // READS\n", &reads)
    }

    fn prover_name(&self) -> &'static str {
        "Prove.cs"
    }

    fn tools(&self) -> &'static [Tool] {
        &[
            Tool { command: "mcs", version: &["--version"], package: "mono-mcs" },
            Tool { command: "mono", version: &["--version"], package: "mono-runtime" },
        ]
    }

    fn compile(&self, folder: &Path, source: &str) -> Vec<Vec<String>> {
        let at = |name: &str| folder.join(name).display().to_string();
        let command = ["mcs", "-optimize+", "-warnaserror+"].map(str::to_owned);
        let mut command = command.to_vec();
        command.push(format!("-out:{}", at("prove.exe")));
        command.push(at("Prove.cs"));
        command.push(at(source));
        vec![command]
    }

    fn run(&self, folder: &Path) -> Vec<String> {
        vec!["mono".to_owned(), folder.join("prove.exe").display().to_string()]
    }
}
