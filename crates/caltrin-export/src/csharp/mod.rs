//! C#: one struct, no `unsafe`, no dependency, no heap, no globals. What Mono's `mcs` compiles.

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
pub struct CSharp;

struct Cs;

impl Spelling for Cs {
    const TAKEN: &'static [&'static str] = &[
        "abstract",
        "as",
        "base",
        "bool",
        "break",
        "byte",
        "case",
        "catch",
        "char",
        "checked",
        "class",
        "const",
        "continue",
        "decimal",
        "default",
        "delegate",
        "do",
        "double",
        "else",
        "enum",
        "event",
        "explicit",
        "extern",
        "false",
        "finally",
        "fixed",
        "float",
        "for",
        "foreach",
        "goto",
        "if",
        "implicit",
        "in",
        "int",
        "interface",
        "internal",
        "is",
        "lock",
        "long",
        "namespace",
        "new",
        "null",
        "object",
        "operator",
        "out",
        "override",
        "params",
        "private",
        "protected",
        "public",
        "readonly",
        "ref",
        "return",
        "sbyte",
        "sealed",
        "short",
        "sizeof",
        "stackalloc",
        "static",
        "string",
        "struct",
        "switch",
        "this",
        "throw",
        "true",
        "try",
        "typeof",
        "uint",
        "ulong",
        "unchecked",
        "unsafe",
        "ushort",
        "using",
        "virtual",
        "void",
        "volatile",
        "while",
        "await",
        "var",
        "yield",
        "dynamic",
        "value",
        "get",
        "set",
        "Math",
        "Equals",
        "GetHashCode",
        "GetType",
        "ToString",
        "MemberwiseClone",
        "ReferenceEquals",
        "Finalize",
        "System",
        "Lightbooks",
    ];
    const FUNCTIONS: Case = Case::Pascal;
    const TYPES: Case = Case::Pascal;
    const TABLES: Case = Case::Pascal;
    const LOCALS: Case = Case::Camel;
    const INDENT: &'static str = "    ";

    fn number(&self, v: f64) -> String {
        number::double(v)
    }

    fn word(&self, v: u32) -> String {
        number::word(v) + "u"
    }

    fn single(&self, v: f32) -> String {
        number::single(v) + "f"
    }

    fn convert(&self, value: &str) -> String {
        format!("(float)({value})")
    }

    fn index_number(&self, index: &str, whole: bool) -> String {
        if whole { format!("(double)({index})") } else { format!("(double){index}") }
    }

    fn constant(&self, ty: Type, name: &str, value: &str) -> String {
        format!("{} {name} = {value};", type_name(ty))
    }

    fn when(&self, condition: &str) -> String {
        format!("if ({condition}) {{")
    }
}

fn type_name(ty: Type) -> &'static str {
    match ty {
        Type::Number => "double",
        Type::Word => "uint",
        Type::Flag => "bool",
    }
}

const OWN: [&str; 8] = ["Now", "Seed", "Start", "Advance", "Step", "SelfTest", "BookSeed", "Same"];

struct File<'p> {
    plan: &'p Plan,
    names: FileNames,
    type_name: String,
}

impl<'p> File<'p> {
    fn of(plan: &'p Plan) -> Self {
        let type_name = cased(&plan.book, Case::Pascal);
        let mut own = OWN.to_vec();
        own.push(&type_name);
        let names = FileNames::of(&Cs, plan, &own, "");
        File { plan, names, type_name: type_name.clone() }
    }

    fn scope(&self, locals: Vec<String>) -> Scope<'_, Cs> {
        Scope {
            spelling: &Cs,
            names: &self.names,
            locals,
            now: "t".to_owned(),
            seed: "Seed".to_owned(),
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
                format!("//         var lamp = run.{}({index});\n", names.read)
            },
        );
        let _ = write!(
            out,
            "// {}. {MARK}{}.\n//\n\
             // Change the lightbook and export again rather than this file.\n//\n\
             // No dependency, no heap, no globals, no unsafe code. A run is a plain value of 16 bytes: copy\n\
             // it to save it. Values are computed when they are read, at any moment, in any order, at the\n\
             // same cost.\n//\n\
             // Host loop:\n//\n\
             //     var run = {name}.Start({name}.BookSeed);\n\
             //     for (;;)\n//     {{\n//         run.Step(secondsOfThisFrame);\n{example}//     }}\n\n\
             using System;\n\nnamespace Lightbooks\n{{\n\
             /// <summary>A run of the book: where it stands, and the seed of all its chances.</summary>\n\
             public struct {name}\n{{\n\
             /// <summary>The book's own seed.</summary>\npublic const uint BookSeed = {}u;\n\n\
             /// <summary>Seconds since the run's start.</summary>\npublic double Now;\n\
             /// <summary>Of all its chances.</summary>\npublic uint Seed;\n\n\
             /// <summary>A run at moment 0.</summary>\n\
             public static {name} Start(uint seed)\n{{\n    {name} run;\n    run.Now = 0.0;\n    \
             run.Seed = seed;\n    return run;\n}}\n\n\
             /// <summary>Goes to a moment of the run, in seconds since its start.</summary>\n\
             public void Advance(double to)\n{{\n    Now = CleanMoment(to);\n}}\n\n\
             /// <summary>Goes on by some seconds. Steps add up their rounding; Advance does not.</summary>\n\
             public void Step(double seconds)\n{{\n    Advance(Now + seconds);\n}}\n\n",
            comment(&plan.book),
            comment(&from),
            plan.seed.0,
            name = self.type_name,
        );
    }

    fn function(&self, n: usize, function: &Function, out: &mut String) {
        let locals = self.names.locals(&Cs, &function.locals, &[]);
        let name_of = |role: Role| {
            let found = function.parameters.iter().find(|(r, ..)| *r == role);
            found.map_or(String::new(), |(_, local, _)| locals[local.0].clone())
        };
        let parameters: Vec<String> = function
            .parameters
            .iter()
            .map(|(_, local, ty)| format!("{} {}", type_name(*ty), locals[local.0]))
            .collect();
        let _ = writeln!(
            out,
            "// {}{}\nstatic {} {}({})\n{{",
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
        let own = ["first", "count", "lamps", "lamp", "index", "n", "t"];
        let scope = self.scope(self.names.locals(&Cs, &light.locals, &own));
        let moment = if light.uses_now() { "    double t = Now;\n" } else { "" };
        if light.is_array() {
            let _ = write!(
                out,
                "/// <summary>Reads lamps from first on, as many as the array has room for.</summary>\n\
                 public void {}(uint first, {}[] lamps)\n{{\n{moment}",
                names.fill, names.lamp
            );
            scope.statements(&light.shared, 1, out);
            out.push_str("    for (int n = 0; n < lamps.Length; ++n)\n    {\n");
            if light.uses_index() {
                out.push_str("        uint index = unchecked(first + (uint)n);\n");
            }
            scope.statements(&light.lamp, 2, out);
            self.fields(light, &scope, "lamps[n].", 2, out);
            let _ = writeln!(
                out,
                "    }}\n}}\n\n/// <summary>Reads one lamp.</summary>\npublic {} {}(uint index)\n{{\n{}",
                names.lamp,
                names.read,
                moment.trim_end_matches('\n')
            );
            scope.statements(&light.shared, 1, out);
            scope.statements(&light.lamp, 1, out);
        } else {
            let _ = write!(
                out,
                "/// <summary>Reads the lamp.</summary>\npublic {} {}()\n{{\n{moment}",
                names.lamp, names.read
            );
            scope.statements(&light.shared, 1, out);
            scope.statements(&light.lamp, 1, out);
        }
        let _ = writeln!(out, "    {} lamp;", names.lamp);
        self.fields(light, &scope, "lamp.", 1, out);
        out.push_str("    return lamp;\n}\n\n");
    }

    fn fields(
        &self,
        light: &LightPlan,
        scope: &Scope<'_, Cs>,
        to: &str,
        depth: usize,
        out: &mut String,
    ) {
        let indent = Cs::INDENT.repeat(depth);
        for field in &light.fields {
            for (n, part) in field.parts.iter().enumerate() {
                let value = scope.output(field, part);
                let _ = writeln!(out, "{indent}{to}{} = {value};", part_of(field, n));
            }
        }
    }

    fn self_test(&self, out: &mut String) {
        let _ = write!(
            out,
            "static int Same(float found, float wanted)\n{{\n    return found == wanted ? 0 : 1;\n}}\n\n\
             /// <summary>Known answers of this file: 0 if this compiler gives the same bits as the preview,\n\
             /// else how many differ.</summary>\npublic static int SelfTest()\n{{\n    \
             int wrong = Scramble(1u) == 0x86d2fa73u ? 0 : 1;\n    {name} run = Start(BookSeed);\n    \
             wrong += Same((float)run.Now, 0.0f);\n",
            name = self.type_name
        );
        let mut last = None;
        for answer in &self.plan.answers {
            let (light, names) =
                (&self.plan.lights[answer.light], &self.names.lights[answer.light]);
            if last != Some((answer.seed, answer.moment.to_bits())) {
                let moment = Cs.number(answer.moment);
                let _ =
                    writeln!(out, "    run = Start({}u);\n    run.Advance({moment});", answer.seed);
                last = Some((answer.seed, answer.moment.to_bits()));
            }
            let index = if light.is_array() { format!("{}u", answer.index) } else { String::new() };
            let _ = writeln!(
                out,
                "    wrong += Same(run.{}({index}).{}, {});",
                names.read,
                part_of(&light.fields[answer.place.0], answer.place.1),
                Cs.single(answer.value)
            );
        }
        out.push_str("    return wrong;\n}\n}\n}\n");
    }
}

fn part_of(field: &FieldPlan, n: usize) -> String {
    let mut namer = Namer::without(Cs::TAKEN.iter().copied());
    let name = namer.take(&cased(&field.name, Case::Pascal));
    match field.suffixes.get(n) {
        Some(part) => format!("{name}{}", part.to_ascii_uppercase()),
        None => name,
    }
}

/// Indents what stands inside the two pairs of braces around everything.
fn indent_members(text: &str) -> String {
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
    format!("{body}\n    }}\n}}\n")
}

impl Target for CSharp {
    fn name(&self) -> &'static str {
        "csharp"
    }

    fn extension(&self) -> &'static str {
        "cs"
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
                "static readonly double[] {name} =\n{{\n{}\n}};\n",
                table_lines(&Cs, &table.values, Cs::INDENT)
            );
        }
        for (n, function) in plan.functions.iter().enumerate() {
            file.function(n, function, &mut out);
        }
        let kernel = kernel_parts(include_str!("kernel.cs"), &plan.helpers);
        for line in kernel.lines() {
            out.push_str(line.strip_prefix("    ").unwrap_or(line));
            out.push('\n');
        }
        out.push('\n');
        file.self_test(&mut out);
        indent_members(&out)
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
                        "            {{ var lamps = new Lightbooks.{ty}.{}[{count}]; run.{}({first}u, lamps); foreach (var lamp in lamps) {{{puts} }} }}",
                        names.lamp,
                        names.fill,
                        ty = file.type_name
                    )
                } else {
                    writeln!(reads, "            {{ var lamp = run.{}();{puts} }}", names.read)
                };
            }
        }
        include_str!("Prove.cs")
            .replace("BOOK", &file.type_name)
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
