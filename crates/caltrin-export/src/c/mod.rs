//! C99: one header with everything in it, no heap, no globals.

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
    tag_constants, texts, wrapped,
};
use crate::target::{ACTS, Blocks, FIRST_SET, Target, Tool};
use syntax::Ansi;

/// The language.
pub struct C;

/// Names that the file itself uses after its prefix.
const OWN: [&str; 25] = [
    "settle",
    "run",
    "start",
    "advance",
    "step",
    "self_test",
    "act",
    "check",
    "checksum",
    "is_exact",
    "constants_are_double",
    "seed",
    "clock_hours",
    "clock_strikes",
    "send",
    "notice",
    "take_notice",
    "notice_place",
    "dropped_notices",
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
    prefix: String,
    /// Stands before every function that the host calls.
    api: String,
}

impl<'p> File<'p> {
    fn of(plan: &'p Plan) -> Self {
        let prefix = format!("{}_", cased(plan.base(), Case::Snake));
        let own: Vec<String> = OWN.iter().map(|name| format!("{prefix}{name}")).collect();
        let own: Vec<&str> = own.iter().map(String::as_str).collect();
        let names = FileNames::of(&Ansi, plan, &own, &prefix);
        let api = format!("{}_API", cased(plan.base(), Case::Screaming));
        File { plan, names, prefix, api }
    }

    fn head(&self, out: &mut String) {
        let (plan, p) = (self.plan, &self.prefix);
        let guard = format!("CALTRIN_{}_H", cased(plan.base(), Case::Screaming));
        let from =
            if plan.file.is_empty() { String::new() } else { format!(" from {}", plan.file) };
        let _ = writeln!(
            out,
            "/* {}. {MADE}{}.\n\
             \n   Change the lightbook and export again rather than this file.\n\
             \n   One header, C99, nothing but five headers of the standard library. No heap, no globals.\n   \
             A run is a plain value of {} bytes: copy it to save it. Values are computed\n   \
             when they are read, at any moment, in any order, at the same cost.\n\
             \n   Host loop:\n\
             \n       {p}run run = {p}start({}u);\n       for (;;) {{\n           \
             {p}step(&run, seconds_of_this_frame);\n{}       }}\n*/",
            comment(&plan.book),
            comment(&from),
            plan.run_bytes(),
            plan.seed.0,
            self.loop_example(),
        );
        let _ = writeln!(out, "#ifndef {guard}\n#define {guard}\n");
        out.push_str(
            "#include <assert.h>\n#include <math.h>\n#include <stdbool.h>\n#include <stdint.h>\n#include <string.h>\n\n",
        );
        out.push_str(&GUARDS.replace("API", &self.api).replace("BOOK_", p));
        let (mut numbers, mut flags) = (String::new(), String::new());
        for (name, about, _) in plan.clock.iter().flat_map(clock_fields) {
            let _ = writeln!(numbers, "    double {name}; /* {about} */");
        }
        for (choice, names) in plan.choices.iter().zip(&self.names.choices) {
            let _ = writeln!(flags, "    uint32_t {}; /* the option chosen */", names.field);
            if choice.fades() {
                let count = choice.options.len();
                let _ = writeln!(
                    numbers,
                    "    double {}; /* s, when it was chosen */\n    \
                     double {}[{count}]; /* how much each option counted then */",
                    names.since, names.from
                );
            }
        }
        for (input, names) in plan.inputs.iter().zip(&self.names.inputs) {
            let (ty, to) = match input.flag {
                true => ("bool", &mut flags),
                false => ("double", &mut numbers),
            };
            let many = input.count.map_or(String::new(), |n| format!("[{n}]"));
            let parts = if input.suffixes.is_empty() { "" } else { "[3]" };
            let _ = writeln!(to, "    {ty} {}{many}{parts}; /* {} */", names.field, input.about);
        }
        for (choice, names) in plan.choices.iter().zip(&self.names.choices) {
            let options: Vec<String> =
                names.options.iter().enumerate().map(|(n, name)| format!("{name} = {n}")).collect();
            let _ = write!(
                out,
                "\n/* {}{} */\nenum {{ {} }};\n",
                describe_choice(choice),
                at_line(&choice.note, plan),
                options.join(", ")
            );
        }
        for (about, name, value) in tag_constants(plan, &self.names) {
            let _ = write!(out, "\n/* {about} */\nenum {{ {name} = {value} }};\n");
        }
        let due = match plan.has_due() {
            true => format!("    double due;    /* {DUE} */\n"),
            false => String::new(),
        };
        let _ = writeln!(
            out,
            "\ntypedef struct {p}run {{\n    double now;    /* s since the run's start */\n{due}{numbers}    \
             uint32_t seed; /* of all its chances; the book's own is {} */\n{flags}}} {p}run;\n",
            plan.seed.0
        );
    }

    fn loop_example(&self) -> String {
        let mut lights = self.plan.lights.iter().zip(&self.names.lights);
        let Some((light, names)) = lights.nth(self.plan.example()) else {
            return String::new();
        };
        let call = if light.is_array() {
            format!("{}(&run, 0)", names.read)
        } else {
            format!("{}(&run)", names.read)
        };
        format!("           {} lamp = {call};\n", names.lamp)
    }

    /// What makes a run, with every input at its default.
    fn start(&self) -> String {
        let p = &self.prefix;
        if self.plan.inputs.is_empty() && !self.plan.has_acts() && !self.plan.has_due() {
            return format!("    const {p}run run = {{0.0, seed}};\n");
        }
        let many = self.plan.inputs.iter().any(|input| input.count.is_some());
        let mut out = format!("    {p}run run;\n");
        out.push_str(if many { "    uint32_t n;\n" } else { "" });
        out.push_str("    memset(&run, 0, sizeof run);\n    run.seed = seed;\n");
        for (name, _, value) in self.plan.clock.iter().flat_map(clock_fields) {
            if value != 0.0 {
                let _ = writeln!(out, "    run.{name} = {};", Ansi.number(value));
            }
        }
        for (choice, names) in self.plan.choices.iter().zip(&self.names.choices) {
            if choice.fades() {
                let _ = writeln!(
                    out,
                    "    run.{} = -2e9;\n    run.{}[0] = 1.0;",
                    names.since, names.from
                );
            }
        }
        for (input, names) in self.plan.inputs.iter().zip(&self.names.inputs) {
            let (indent, index) = match input.count {
                Some(count) => {
                    let _ = writeln!(out, "    for (n = 0; n < {count}u; ++n) {{");
                    ("        ", "[n]")
                }
                None => ("    ", ""),
            };
            for (part, default) in input.default.iter().enumerate() {
                let place =
                    if input.suffixes.is_empty() { String::new() } else { format!("[{part}]") };
                let default =
                    if input.flag { (*default != 0.0).to_string() } else { Ansi.number(*default) };
                let _ = writeln!(out, "{indent}run.{}{index}{place} = {default};", names.field);
            }
            if input.count.is_some() {
                out.push_str("    }\n");
            }
        }
        out
    }

    /// Prints functions of the tree.
    fn printer<'l>(&'l self, lowered: &'l Lowered) -> Printer<'l> {
        let slots = vec![("api", self.api.clone()), ("run", format!("{}run", self.prefix))];
        let names = given_names(self.plan, &self.names, &language::C, slots);
        Printer::new(&language::C, &lowered.module, &self.prefix, 0).named_by(names)
    }

    fn run(&self, lowered: &Lowered, out: &mut String) {
        let (p, start) = (&self.prefix, self.start());
        out.push_str(&EXACT.replace("API", &self.api).replace("BOOK_", p));
        let start = format!("    assert({p}is_exact());\n{start}");
        let _ = writeln!(
            out,
            "/* A run at moment 0. */\n{api} {p}run {p}start(uint32_t seed)\n{{\n\
             {start}    return run;\n}}\n",
            api = self.api,
        );
        // What is called before it is written.
        if self.plan.follows() {
            let _ = writeln!(out, "static inline void {p}settle({p}run *run);\n");
        }
        if let Some(n) = self.plan.by_clock() {
            let act = &self.names.events[n].act;
            let _ = writeln!(out, "static inline void {act}({p}run *run);\n");
        }
        let clock = lowered.clock.iter();
        self.functions(lowered, clock.chain(lowered.choices.iter().flatten()), out);
        self.functions(lowered, &lowered.setters, out);
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

    fn light(&self, lowered: &Lowered, light: &LightPlan, names: &LightNames, out: &mut String) {
        let p = &self.prefix;
        let _ = writeln!(out, "/* {}{} */", about_light(light), at_line(&light.note, self.plan));
        let _ = writeln!(out, "typedef struct {} {{", names.lamp);
        for field in &light.fields {
            let array = if field.parts.len() > 1 { "[3]" } else { "" };
            let _ = writeln!(
                out,
                "    {} {}{array}; /* {}{} */",
                if field.flag { "bool" } else { "float" },
                field_name(field),
                field.about,
                at_line(&field.note, self.plan)
            );
        }
        if light.fields.is_empty() {
            out.push_str("    char nothing_driven;\n");
        }
        let _ = writeln!(out, "}} {};\n", names.lamp);
        let own = ["run", "first", "count", "lamps", "lamp", "n"];
        let (function, shared) = light_body(self.plan, light);
        let printer = self.printer(lowered);
        let asks_run = light.asks() != [false; 3] || light.uses_seed() || light.uses_inputs();
        let run = if asks_run { "" } else { "    (void)run;\n" };
        let to = if light.is_array() { "lamps[n]" } else { "lamp" };
        let lamps = lamp_names(light, to, &own, field_name);
        let depths = if light.is_array() { [4, 8, 8] } else { [4; 3] };
        let [shared, each, mut sets] = printer.print_light(&function, shared, &lamps, depths);
        if light.fields.is_empty() {
            let _ = writeln!(sets, "{}{to}.nothing_driven = 0;", " ".repeat(depths[2]));
        }
        if light.is_array() {
            let index = match light.uses_index() {
                true => "const uint32_t index = first + n;",
                false => "(void)first;",
            };
            let _ = writeln!(
                out,
                "/* Reads `count` lamps from `first` on. */\n\
                 {api} void {fill}(const {p}run *run, uint32_t first, uint32_t count, \
                 {lamp} *lamps)\n{{\n{run}{shared}    for (uint32_t n = 0; n < count; ++n) {{\n        \
                 {index}\n{each}{sets}    }}\n}}\n\n\
                 {api} {lamp} {read}(const {p}run *run, uint32_t index)\n{{\n    \
                 {lamp} lamp;\n    {fill}(run, index, 1, &lamp);\n    return lamp;\n}}\n",
                fill = names.fill,
                read = names.read,
                lamp = names.lamp,
                api = self.api,
            );
        } else {
            let _ = writeln!(
                out,
                "{api} {lamp} {read}(const {p}run *run)\n{{\n{run}{shared}{each}    {lamp} lamp;\n{sets}    \
                 return lamp;\n}}\n",
                read = names.read,
                lamp = names.lamp,
                api = self.api,
            );
        }
    }

    /// What sends notices, and what takes them.
    fn notices(&self) -> Option<(String, String)> {
        let each = |n: usize, notice: &NoticePlan| {
            let mut out = format!(
                "    case {n}:\n        notice->name = \"{}\";\n        notice->from = \"{}\";\n",
                notice.name, notice.from
            );
            if !notice.texts.is_empty() {
                let (count, list) = (notice.texts.len(), texts(notice));
                let _ = writeln!(
                    out,
                    "        {{\n            static const char *const texts[{count}] = {{{list}}};\n            \
                     notice->text = texts[text % {count}u];\n        }}"
                );
            }
            out.push_str("        break;\n");
            out
        };
        let place = |n: usize, light: usize, field: usize| {
            let (light, names) = (&self.plan.lights[light], &self.names.lights[light]);
            let index = if light.is_array() { ", lamp" } else { "" };
            let mut out = format!(
                "    case {n}: {{\n        const {} from = {}(run{index});\n",
                names.lamp, names.read
            );
            for part in 0..3 {
                let name = part_of(&light.fields[field], part);
                let _ = writeln!(out, "        place[{part}] = (double)from.{name};");
            }
            out + "        break;\n    }\n"
        };
        let source = include_str!("notice.h");
        let code = notice_code(&Ansi, self.plan, &self.names, source, each, place);
        let filled = |code: String| code.replace("API", &self.api).replace("BOOK_", &self.prefix);
        code.map(|(sends, takes)| (filled(sends), filled(takes)))
    }

    fn self_test(&self, out: &mut String) {
        let code = self_test_code(
            &Ansi,
            self.plan,
            &self.names,
            &self.prefix,
            include_str!("self_test.h"),
        );
        out.push_str(&code.replace("API", &self.api).replace("BOOK_", &self.prefix));
    }
}

/// Keeps the bits under whatever options the file is compiled with. What no macro shows is found at run time, by the
/// self-test and, in debug builds, by `start`.
const GUARDS: &str = "\
/* Exact double arithmetic, whatever the options of the project. */
#if defined(__FLT_EVAL_METHOD__) && (__FLT_EVAL_METHOD__ < 0 || __FLT_EVAL_METHOD__ == 2)
#error \"this file needs plain double arithmetic: compile with -msse2 -mfpmath=sse\"
#endif
#if defined(__clang__) && (defined(__FAST_MATH__) || (defined(__FINITE_MATH_ONLY__) && __FINITE_MATH_ONLY__))
#error \"this file needs exact arithmetic: compile it without -ffast-math and -ffinite-math-only\"
#endif
/* A constant such as 0.1 is a double: compile without -fsingle-precision-constant. */
typedef char BOOK_constants_are_double[sizeof(0.1) == sizeof(double) ? 1 : -1];
#if defined(__clang__)
#pragma float_control(push)
#pragma float_control(precise, on)
#pragma STDC FP_CONTRACT OFF
#elif defined(__GNUC__)
#pragma GCC push_options
#pragma GCC optimize(\"no-fast-math\", \"no-finite-math-only\", \"fp-contract=off\")
#pragma GCC optimize(\"no-trapping-math\", \"no-math-errno\")
#elif defined(_MSC_VER)
#pragma float_control(push)
#pragma float_control(precise, on)
#pragma fp_contract(off)
#endif

/* What the host calls is never inlined into code that is compiled with other options. */
#if defined(__GNUC__) || defined(__clang__)
#define API static __attribute__((noinline, unused))
#elif defined(_MSC_VER)
#define API static __declspec(noinline)
#else
#define API static
#endif
";

/// Whether the compiler keeps to exact arithmetic, whatever its macros say.
const EXACT: &str = "\
/* Whether this build computes exactly: without fused multiply-add, reordered sums, shared reciprocals, and with
   NaN. -ffp-contract=fast and -funsafe-math-optimizations of clang show in no macro. */
API bool BOOK_is_exact(void)
{
    volatile double near = 1.0 + 1.0 / 134217728.0, square = -(1.0 + 1.0 / 67108864.0);
    volatile double large = 1e16, one = 1.0, odd = 49.0, none = NAN;
    const double a = near, b = square, c = large, d = one, e = odd;
    bool exact = a * a + b == 0.0;
    exact = exact && (c + d) - c == 0.0;
    exact = exact && e / e == 1.0 && d / e * e != 1.0;
    return exact && none != none;
}

";

const GUARDS_END: &str = "
#if defined(__clang__)
#pragma float_control(pop)
#elif defined(__GNUC__)
#pragma GCC pop_options
#elif defined(_MSC_VER)
#pragma float_control(pop)
#if defined(_M_FP_CONTRACT) || defined(_M_FP_FAST) || _MSC_VER < 1930
#pragma fp_contract(on)
#endif
#endif

#endif
";

fn part_of(field: &FieldPlan, n: usize) -> String {
    let name = field_name(field);
    if field.parts.len() > 1 { format!("{name}[{n}]") } else { name }
}

/// A field's name as a legal one; the names of a lamp's fields are never taken by others.
fn field_name(field: &FieldPlan) -> String {
    Namer::avoiding(language::C.reserved(), &cased(&field.name, Case::Snake))
}

fn about_light(light: &LightPlan) -> String {
    describe_light(light)
}

impl Target for C {
    fn name(&self) -> &'static str {
        "c"
    }

    fn extension(&self) -> &'static str {
        "h"
    }

    fn language(&self) -> &'static Language {
        &language::C
    }

    fn print(&self, plan: &Plan) -> String {
        let file = File::of(plan);
        let mut out = String::new();
        file.head(&mut out);
        let lowered = Lowered::of(plan);
        out.push_str(&kernel_code(&language::C, lowered.needs(plan), &file.prefix, 0));
        out.push('\n');
        file.run(&lowered, &mut out);
        for (table, name) in plan.tables.iter().zip(&file.names.tables) {
            let ty = if table.words().is_empty() { "double" } else { "uint32_t" };
            let about = about_table(table).map(|text| format!("/* {text} */\n"));
            let _ = writeln!(
                out,
                "{}static const {ty} {name}[{}] = {{\n{}\n}};\n",
                about.unwrap_or_default(),
                table.count(),
                table_lines(&Ansi, table, Ansi::INDENT)
            );
        }
        file.functions(&lowered, &lowered.book, &mut out);
        let notices = file.notices();
        out.push_str(notices.as_ref().map_or("", |(sends, _)| sends));
        file.functions(&lowered, lowered.sparks.iter().flatten(), &mut out);
        for event in &lowered.events {
            let names = event.due.iter().chain(&event.each).chain([&event.act]);
            file.functions(&lowered, names, &mut out);
        }
        file.functions(&lowered, &lowered.course, &mut out);
        for (light, names) in plan.lights.iter().zip(&file.names.lights) {
            file.light(&lowered, light, names, &mut out);
        }
        out.push_str(notices.as_ref().map_or("", |(_, takes)| takes));
        file.self_test(&mut out);
        out.push_str(GUARDS_END);
        wrapped(&out, Ansi::INDENT)
    }

    fn prover(&self, plan: &Plan, blocks: &Blocks) -> String {
        let file = File::of(plan);
        let p = &file.prefix;
        let mut reads = String::new();
        let sets = prover_sets(plan, &file.names, |input, names, slots| {
            let value = |slot: String| {
                let slot = format!("asked.inputs[{slot}]");
                if input.flag { format!("{slot} != 0.0") } else { slot }
            };
            let values: Vec<String> = slots.into_iter().map(value).collect();
            let (count, set) = (input.count.unwrap_or(1), &names.set);
            let index = input.count.map_or("", |_| "n, ");
            let values = values.join(", ");
            format!("        for (uint32_t n = 0; n < {count}u; ++n) {set}(&run, {index}{values});")
        });
        let slots = plan.given_slots();
        let mut room = if slots > 0 { format!(" double inputs[{slots}];") } else { String::new() };
        if plan.has_acts() {
            room.push_str(&format!(" double acts[{ACTS}][3];"));
        }
        if plan.most_given() > 0 {
            room.push_str(&format!(" double given[{}];", plan.most_given()));
        }
        let source = include_str!("prove_acts.c");
        let acts = prover_acts(
            plan,
            &file.names,
            source,
            |n, names| {
                let set = &names.set;
                format!(
                    "            if (asked.acts[act][0] == 5.0 && (uint32_t)to / 1000u == {n}u) \
                 {set}(&run, (uint32_t)to % 1000u);"
                )
            },
            |n, (act, indexed), values| {
                let values = values.map(|(k, flag)| {
                    let is = if flag { " != 0.0" } else { "" };
                    format!(", asked.given[{k}]{is}")
                });
                let values: String = values.collect();
                let index = if indexed { ", (uint32_t)to % 1000u" } else { "" };
                format!(
                    "            if (asked.acts[act][0] == 6.0 && (uint32_t)to / 1000u == {n}u) \
                     {act}(&run{index}{values});"
                )
            },
            |n, input, names| {
                let (verb, set) = (FIRST_SET + n as u32, &names.set);
                let index = input.count.map_or("", |_| "0, ");
                let value = if input.flag { "to != 0.0" } else { "to" };
                let values = vec![value; input.default.len()].join(", ");
                format!(
                    "            if (asked.acts[act][0] == {verb}.0) {set}(&run, {index}{values});"
                )
            },
        );
        for ((light, names), blocks) in plan.lights.iter().zip(&file.names.lights).zip(blocks) {
            for (first, count) in blocks {
                let puts = |lamp: &str| -> String {
                    light
                        .fields
                        .iter()
                        .flat_map(|field| (0..field.parts.len()).map(|n| part_of(field, n)))
                        .map(|part| format!(" put(out, (float){lamp}.{part});"))
                        .collect()
                };
                if light.is_array() {
                    let _ = writeln!(
                        reads,
                        "        {{ static {lamp} lamps[{count}]; uint32_t n; \
                         {fill}(&run, {first}u, {count}u, lamps); \
                         for (n = 0; n < {count}u; ++n) {{{puts} }} }}",
                        lamp = names.lamp,
                        fill = names.fill,
                        puts = puts("lamps[n]"),
                    );
                } else {
                    let _ = writeln!(
                        reads,
                        "        {{ const {lamp} lamp = {read}(&run);{puts} (void)lamp; }}",
                        lamp = names.lamp,
                        read = names.read,
                        puts = puts("lamp"),
                    );
                }
            }
        }
        if plan.queue.is_some() {
            let source = include_str!("prove_notices.c").replace("BOOK_", p);
            reads.push_str(&summed_values(&Ansi, plan, &file.names, &source));
        }
        include_str!("prove.c")
            .replace("BOOK_H", &format!("\"{}\"", crate::file_name(plan, self)))
            .replace("/* CLOCK */\n", &acts)
            .replace("BOOK_", p)
            .replace(" /* INPUTS */", &room)
            .replace("/* SETS */\n", &sets)
            .replace("/* READS */\n", &reads)
    }

    fn prover_name(&self) -> &'static str {
        "prove.c"
    }

    fn tools(&self) -> &'static [Tool] {
        &[Tool { command: "gcc", version: &["--version"], package: "gcc" }]
    }

    fn compile(&self, folder: &Path, _: &str) -> Vec<Vec<String>> {
        // The harshest options that a project may have: the file must keep its bits under them.
        let options = ["gcc", "-std=c99", "-Wall", "-Wextra", "-Werror", "-Ofast", "-march=native"];
        let mut command: Vec<String> = options.map(str::to_owned).to_vec();
        command.push(folder.join("prove.c").display().to_string());
        command.push("-o".to_owned());
        command.push(folder.join("prove").display().to_string());
        command.push("-lm".to_owned());
        vec![command]
    }

    fn run(&self, folder: &Path) -> Vec<String> {
        vec![folder.join("prove").display().to_string()]
    }
}
