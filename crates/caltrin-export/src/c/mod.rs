//! C99: one header with everything in it, no heap, no globals.

mod syntax;

use std::fmt::Write;
use std::path::Path;

use caltrin_core::MADE;

use crate::language::{self, Language};
use crate::names::{Case, Namer, cased, comment};
use crate::plan::{
    EventPlan, FieldPlan, Function, InputPlan, LightPlan, NoticePlan, Plan, Type, clock_fields,
};
use crate::print::{
    ALL_DONE, DUE, EventNames, FileNames, InputNames, LightNames, MOST_AT_ONCE, SETTLES, Scope,
    Syntax, about_table, at_line, choice_code, clock_code, clock_names, describe, describe_choice,
    describe_event, describe_input, describe_light, each_index, event_code, kernel_code,
    moment_lines, named, notice_code, prover_acts, prover_sets, self_test_code, setter_values,
    spark_code, summed_values, table_lines, tag_constants, texts, wrapped,
};
use crate::target::{ACTS, Blocks, FIRST_SET, Target, Tool};
use syntax::Ansi;

/// The language.
pub struct C;

fn type_name(ty: Type) -> &'static str {
    match ty {
        Type::Number => "double",
        Type::Word => "uint32_t",
        Type::Flag => "bool",
    }
}

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

    fn scope(&self, locals: Vec<String>) -> Scope<'_, Ansi> {
        Scope {
            syntax: &Ansi,
            names: &self.names,
            locals,
            now: "t".to_owned(),
            seed: "run->seed".to_owned(),
            clock: clock_names(),
            index: "index".to_owned(),
            prefix: self.prefix.clone(),
        }
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

    /// What the game gives for a part of an input, as it is kept.
    fn cleaned(&self, input: &InputPlan, part: usize, value: &str) -> String {
        if input.flag {
            return value.to_owned();
        }
        let [lo, hi, default] =
            [input.bounds.lo, input.bounds.hi, input.default[part]].map(|v| Ansi.number(v));
        format!("{}clean_input({value}, {lo}, {hi}, {default})", self.prefix)
    }

    fn setter(&self, input: &InputPlan, names: &InputNames, out: &mut String) {
        let p = &self.prefix;
        let values = setter_values(input);
        let ty = if input.flag { "bool" } else { "double" };
        let given: Vec<String> = values.iter().map(|name| format!("{ty} {name}")).collect();
        let (index, place) = match input.count {
            Some(_) => ("uint32_t index, ", "[index]"),
            None => ("", ""),
        };
        let _ = writeln!(
            out,
            "/* {}{} */\n{} void {}({p}run *run, {index}{})\n{{",
            describe_input(input),
            at_line(&input.note, self.plan),
            self.api,
            names.set,
            given.join(", ")
        );
        if let Some(count) = input.count {
            let _ = writeln!(out, "    if (index >= {count}u) return;");
        }
        for (part, value) in values.iter().enumerate() {
            let at = if values.len() > 1 { format!("[{part}]") } else { String::new() };
            let value = self.cleaned(input, part, value);
            let _ = writeln!(out, "    run->{}{place}{at} = {value};", names.field);
        }
        out.push_str(&self.settle());
        out.push_str("}\n\n");
    }

    fn run(&self, out: &mut String) {
        let (p, start) = (&self.prefix, self.start());
        out.push_str(&EXACT.replace("API", &self.api).replace("BOOK_", p));
        let start = format!("    assert({p}is_exact());\n{start}");
        let _ = writeln!(
            out,
            "/* A run at moment 0. */\n{api} {p}run {p}start(uint32_t seed)\n{{\n\
             {start}    return run;\n}}\n",
            api = self.api,
        );
        if !self.plan.has_due() {
            self.advance(out);
        }
        if self.plan.follows() {
            let _ = writeln!(out, "static inline void {p}settle({p}run *run);\n");
        }
        if let Some(act) = self.by_clock() {
            let _ = writeln!(out, "static inline void {act}({p}run *run);\n");
        }
        if let Some(clock) = &self.plan.clock {
            let code = clock_code(&Ansi, include_str!("clock.h"), clock, self.by_clock());
            out.push_str(&code.replace("API", &self.api).replace("BOOK_", p));
        }
        for (choice, names) in self.plan.choices.iter().zip(&self.names.choices) {
            let code =
                choice_code(&Ansi, include_str!("choice.h"), (choice, names), &self.settle());
            let about = format!("/* {} */\n{}", describe_choice(choice), self.api);
            let code = code.replace("API", &about);
            out.push_str(&code.replace("BOOK_", p));
        }
        for (n, input) in self.plan.given() {
            self.setter(input, &self.names.inputs[n], out);
        }
    }

    /// What takes a run to a moment; where something happens by itself, after the functions that it needs.
    fn advance(&self, out: &mut String) {
        let p = &self.prefix;
        let body = match self.plan.has_due() {
            false => format!("    run->now = {p}clean_moment(to);\n"),
            true => {
                let mut body = format!(
                    "    const double end = {p}clean_moment(to);\n    const bool back = end < run->now;\n    \
                     uint32_t n;\n    if (!back && end < run->due) {{\n        run->now = end;\n        \
                     return true;\n    }}\n    for (n = 0; n < {MOST_AT_ONCE}u; ++n) {{\n"
                );
                let mut cases = String::new();
                let many = self.plan.has_due_of_each();
                for (n, (event, names)) in self.due().enumerate() {
                    let (due, act) = (&names.due, &names.act);
                    let index = event.count.map_or("", |_| ", 0");
                    if n == 0 {
                        let _ = writeln!(
                            body,
                            "        double next = {due}(run{index});\n        uint32_t which = 0;"
                        );
                        let several = self.plan.has_several_due();
                        body.push_str(if several { "        double due;\n" } else { "" });
                        body.push_str(if many { "        uint32_t index = 0;\n" } else { "" });
                        body.push_str(if many { "        uint32_t k;\n" } else { "" });
                    }
                    match event.count {
                        Some(count) => {
                            let first = u32::from(n == 0);
                            let _ = writeln!(
                                body,
                                "        for (k = {first}; k < {count}u; ++k) {{\n            \
                                 due = {due}(run, k);\n            \
                                 if (due < next) {{\n                next = due;\n                \
                                 which = {n};\n                index = k;\n            }}\n        }}"
                            );
                        }
                        None if n > 0 => {
                            let _ = writeln!(
                                body,
                                "        due = {due}(run);\n        if (due < next) {{\n            \
                                 next = due;\n            which = {n};\n        }}"
                            );
                        }
                        None => {}
                    }
                    let index = event.count.map_or("", |_| ", index");
                    let _ = writeln!(cases, "        case {n}: {act}(run{index}); break;");
                }
                let _ = write!(
                    body,
                    "        if (next > end) {{\n            run->due = back ? end : next;\n            run->now = end;\n            \
                     return true;\n        }}\n        run->now = next;\n        switch (which) {{\n{cases}        }}\n    }}\n    \
                     run->due = end;\n    run->now = end;\n    return false;\n"
                );
                body
            }
        };
        let (ty, gives, done) = match self.plan.has_due() {
            true => ("bool", "return ", ALL_DONE),
            false => ("void", "", ""),
        };
        let _ = writeln!(
            out,
            "/* Goes to a moment of the run, in seconds since its start.{done} */\n\
             {api} {ty} {p}advance({p}run *run, double to)\n{{\n{body}}}\n\n\
             /* Goes on by some seconds. Steps add up their rounding; `advance` does not. */\n\
             {api} {ty} {p}step({p}run *run, double seconds)\n{{\n    \
             {gives}{p}advance(run, run->now + seconds);\n}}\n",
            api = self.api,
        );
        if self.plan.follows() {
            let _ = writeln!(
                out,
                "/* {SETTLES} */\nstatic inline void {p}settle({p}run *run)\n{{\n    \
                 if (run->now > 0.0) {p}advance(run, run->now);\n}}\n"
            );
        }
    }

    /// The lines after something that the game did: what is due is found again, and what follows happens at once.
    fn settle(&self) -> String {
        let due = if self.plan.has_due() { "    run->due = run->now;\n" } else { "" };
        match self.plan.follows() {
            true => format!("{due}    {}settle(run);\n", self.prefix),
            false => due.to_owned(),
        }
    }

    /// The events that happen by themselves, with their names.
    fn due(&self) -> impl Iterator<Item = (&EventPlan, &EventNames)> {
        let all = self.plan.events.iter().zip(&self.names.events);
        all.filter(|(event, _)| event.due.is_some())
    }

    /// The function of what only the hour decides.
    fn by_clock(&self) -> Option<&str> {
        self.plan.by_clock().map(|n| self.names.events[n].act.as_str())
    }

    fn event(&self, event: &EventPlan, names: &EventNames, out: &mut String) {
        let p = &self.prefix;
        let own = ["run", "t", "to", "end", "n", "next", "which", "index"];
        let indexed = event.count.map_or("", |_| ", uint32_t index");
        if let Some(due) = &event.due {
            let scope = self.scope(self.names.locals(&Ansi, &due.locals, &own));
            let _ = writeln!(
                out,
                "/* When `{}` happens next. */\nstatic inline double {}(const {p}run *run{indexed})\n{{",
                comment(&event.name),
                names.due
            );
            out.push_str(&self.moments(due.asks(), 1));
            scope.statements(&due.statements, 1, out);
            out.push_str("}\n\n");
        }
        for (others, each) in event.each.iter().zip(&names.each) {
            let scope = self.scope(self.names.locals(&Ansi, &others.does.looked.locals, &own));
            let _ = writeln!(
                out,
                "/* What `{}` does to each `{}`. */\n\
                 static inline void {each}({p}run *run, uint32_t index)\n{{",
                comment(&event.name),
                comment(&others.name),
            );
            out.push_str(&self.moments(others.does.asks(), 1));
            out.push_str(&event_code(&scope, self.plan, &others.does, 1));
            out.push_str("}\n\n");
        }
        let (locals, given) = named(&Ansi, &self.names, (self.plan, event), &own);
        let parameters: Vec<String> = given
            .iter()
            .map(|(place, _, name)| {
                let ty = if self.plan.inputs[*place].flag { "bool" } else { "double" };
                format!(", {ty} {name}")
            })
            .collect();
        let api = if event.is_fired() { self.api.as_str() } else { "static inline" };
        let _ = writeln!(
            out,
            "/* {}{} */\n{api} void {}({p}run *run{indexed}{})\n{{",
            describe_event(self.plan, event),
            at_line(&event.note, self.plan),
            names.act,
            parameters.concat()
        );
        out.push_str(&self.moments(event.own.asks(), 1));
        out.push_str(if event.each.is_empty() { "" } else { "    uint32_t n;\n" });
        if let (Some(count), true) = (event.count, event.is_fired()) {
            let _ = writeln!(out, "    if (index >= {count}u) return;");
        }
        let index = event.count.map(|_| "index");
        for (place, part, name) in &given {
            let (input, names) = (&self.plan.inputs[*place], &self.names.inputs[*place]);
            let part_of = (input.default.len() > 1).then_some(*part);
            let value = self.cleaned(input, *part, name);
            let _ = writeln!(out, "    {}", Ansi.put(names, index, part_of, &value));
        }
        for (others, each) in event.each.iter().zip(&names.each) {
            let (count, which) = (others.count, each_index(&Ansi, event, others.count));
            let _ = writeln!(out, "    for (n = 0; n < {count}u; ++n) {each}(run, {which});");
        }
        let scope = self.scope(locals);
        out.push_str(&event_code(&scope, self.plan, &event.own, 1));
        if event.is_fired() {
            out.push_str(&self.settle());
        }
        out.push_str("}\n\n");
    }

    fn function(&self, n: usize, function: &Function, out: &mut String) {
        let locals = self.names.locals(&Ansi, &function.locals, &[]);
        let parameters: Vec<String> = function
            .parameters
            .iter()
            .map(|(_, local, ty)| format!("{} {}", type_name(*ty), locals[local.0]))
            .collect();
        let parameters =
            if parameters.is_empty() { "void".to_owned() } else { parameters.join(", ") };
        out.push_str(&about_function(function, self.plan));
        let _ = writeln!(
            out,
            "static inline {} {}({parameters})\n{{",
            type_name(function.result),
            self.names.functions[n]
        );
        self.scope(locals.clone()).inside(function).statements(&function.body, 1, out);
        out.push_str("}\n\n");
    }

    fn light(&self, light: &LightPlan, names: &LightNames, out: &mut String) {
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
        let own = ["run", "first", "count", "lamps", "lamp", "index", "n", "t", "hour", "days"];
        let scope = self.scope(self.names.locals(&Ansi, &light.locals, &own));
        if light.is_array() {
            let _ = writeln!(
                out,
                "/* Reads `count` lamps from `first` on. */\n\
                 {api} void {fill}(const {p}run *run, uint32_t first, uint32_t count, \
                 {lamp} *lamps)\n{{",
                fill = names.fill,
                lamp = names.lamp,
                api = self.api,
            );
            self.moment(light, 1, out);
            scope.statements(&light.shared, 1, out);
            out.push_str("    uint32_t n;\n    for (n = 0; n < count; ++n) {\n");
            if light.uses_index() {
                out.push_str("        const uint32_t index = first + n;\n");
            } else {
                out.push_str("        (void)first;\n");
            }
            scope.statements(&light.lamp, 2, out);
            self.fields(light, &scope, "lamps[n].", 2, out);
            out.push_str("    }\n}\n\n");
            let _ = writeln!(
                out,
                "{api} {lamp} {read}(const {p}run *run, uint32_t index)\n{{\n    \
                 {lamp} lamp;\n    {fill}(run, index, 1, &lamp);\n    return lamp;\n}}\n",
                read = names.read,
                fill = names.fill,
                lamp = names.lamp,
                api = self.api,
            );
        } else {
            let _ = writeln!(
                out,
                "{api} {lamp} {read}(const {p}run *run)\n{{",
                read = names.read,
                lamp = names.lamp,
                api = self.api,
            );
            self.moment(light, 1, out);
            scope.statements(&light.shared, 1, out);
            scope.statements(&light.lamp, 1, out);
            let _ = writeln!(out, "    {} lamp;", names.lamp);
            self.fields(light, &scope, "lamp.", 1, out);
            out.push_str("    return lamp;\n}\n\n");
        }
    }

    fn moment(&self, light: &LightPlan, depth: usize, out: &mut String) {
        let asks = light.asks();
        out.push_str(&self.moments(asks, depth));
        if asks == [false; 3] && !light.uses_seed() && !light.uses_inputs() {
            let _ = writeln!(out, "{}(void)run;", Ansi::INDENT.repeat(depth));
        }
    }

    fn moments(&self, asks: [bool; 3], depth: usize) -> String {
        let dial = |name: &str| format!("const double {name} = {}clock_{name}(run);", self.prefix);
        let lines = [&*dial("hour"), &*dial("days"), "const double t = run->now;"];
        moment_lines(asks, lines, &Ansi::INDENT.repeat(depth))
    }

    fn fields(
        &self,
        light: &LightPlan,
        scope: &Scope<'_, Ansi>,
        to: &str,
        depth: usize,
        out: &mut String,
    ) {
        let indent = Ansi::INDENT.repeat(depth);
        for field in &light.fields {
            for (n, part) in field.parts.iter().enumerate() {
                let value = scope.output(field, part);
                let name = part_of(field, n);
                let _ = writeln!(out, "{indent}{to}{name} = {value};");
            }
        }
        if light.fields.is_empty() {
            let _ = writeln!(out, "{indent}{to}nothing_driven = 0;");
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
    Namer::avoiding(&language::C, &cased(&field.name, Case::Snake))
}

fn about_function(function: &Function, plan: &Plan) -> String {
    format!("/* {}{} */\n", describe(function), at_line(&function.note, plan))
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
        out.push_str(&kernel_code(&language::C, &plan.helpers, &file.prefix, 0));
        out.push('\n');
        file.run(&mut out);
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
        for (n, function) in plan.functions.iter().enumerate() {
            file.function(n, function, &mut out);
        }
        let notices = file.notices();
        out.push_str(notices.as_ref().map_or("", |(sends, _)| sends));
        out.push_str(
            &spark_code(plan, &file.names, include_str!("spark.h")).replace("BOOK_", &file.prefix),
        );
        for (event, names) in plan.events.iter().zip(&file.names.events) {
            file.event(event, names, &mut out);
        }
        if plan.has_due() {
            file.advance(&mut out);
        }
        for (light, names) in plan.lights.iter().zip(&file.names.lights) {
            file.light(light, names, &mut out);
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
