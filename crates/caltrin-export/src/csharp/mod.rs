//! C#: one struct, no `unsafe`, no dependency, no heap, no globals. What Mono's `mcs` compiles.

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
    spark_code, summed_values, table_lines, tag_constants, wrapped,
};
use crate::target::{ACTS, Blocks, FIRST_SET, Target, Tool};
use syntax::Cs;

/// The language.
pub struct CSharp;

fn type_name(ty: Type) -> &'static str {
    match ty {
        Type::Number => "double",
        Type::Word => "uint",
        Type::Flag => "bool",
    }
}

/// What names the hour, the number of days and the moment.
const MOMENTS: [&str; 3] =
    ["double hour = ClockHour();", "double days = ClockDays();", "double t = Now;"];

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

/// What the game gives for a part of an input, as it is kept.
fn cleaned(input: &InputPlan, part: usize, value: &str) -> String {
    if input.flag {
        return value.to_owned();
    }
    let [lo, hi, default] =
        [input.bounds.lo, input.bounds.hi, input.default[part]].map(|v| Cs.number(v));
    format!("CleanInput({value}, {lo}, {hi}, {default})")
}

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

    fn scope(&self, locals: Vec<String>) -> Scope<'_, Cs> {
        Scope {
            syntax: &Cs,
            names: &self.names,
            locals,
            now: "t".to_owned(),
            seed: "Seed".to_owned(),
            clock: clock_names(),
            index: "index".to_owned(),
            prefix: String::new(),
        }
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
        let (ty, gives, done) = match plan.has_due() {
            true => ("bool", "return ", ALL_DONE),
            false => ("void", "", ""),
        };
        let (due, none_due) = match plan.has_due() {
            true => (format!("double due; // {DUE}\n"), "    run.due = 0.0;\n"),
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
             run.Seed = seed;\n{defaults}    return run;\n}}\n\n\
             /// <summary>Goes to a moment of the run, in seconds since its start.{done}</summary>\n\
             public {ty} Advance(double to)\n{{\n{}}}\n\n\
             /// <summary>Goes on by some seconds. Steps add up their rounding; Advance does not.</summary>\n\
             public {ty} Step(double seconds)\n{{\n    {gives}Advance(Now + seconds);\n}}\n\n",
            comment(&plan.book),
            comment(&from),
            plan.run_bytes(),
            plan.seed.0,
            self.advance(),
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

    /// What takes a run to a moment.
    fn advance(&self) -> String {
        if !self.plan.has_due() {
            return "    Now = CleanMoment(to);\n".to_owned();
        }
        let mut body = format!(
            "    double end = CleanMoment(to);\n    bool back = end < Now;\n    if (!back && end < this.due)\n    {{\n        \
             Now = end;\n        return true;\n    }}\n    for (int n = 0; n < {MOST_AT_ONCE}; ++n)\n    {{\n"
        );
        let mut cases = String::new();
        let all = self.plan.events.iter().zip(&self.names.events);
        let many = self.plan.has_due_of_each();
        for (n, (event, names)) in all.filter(|(event, _)| event.due.is_some()).enumerate() {
            let (due, act) = (&names.due, &names.act);
            if n == 0 {
                let first = event.count.map_or("", |_| "0u");
                let _ =
                    writeln!(body, "        double next = {due}({first});\n        int which = 0;");
                let several = self.plan.has_several_due();
                body.push_str(if several { "        double due;\n" } else { "" });
                body.push_str(if many { "        uint index = 0;\n" } else { "" });
            }
            match event.count {
                Some(count) => {
                    let first = u32::from(n == 0);
                    let _ = writeln!(
                        body,
                        "        for (uint k = {first}; k < {count}u; ++k)\n        {{\n            \
                         due = {due}(k);\n            if (due < next)\n            {{\n                \
                         next = due;\n                which = {n};\n                index = k;\n            \
                         }}\n        }}"
                    );
                }
                None if n > 0 => {
                    let _ = writeln!(
                        body,
                        "        due = {due}();\n        if (due < next)\n        {{\n            \
                         next = due;\n            which = {n};\n        }}"
                    );
                }
                None => {}
            }
            let index = event.count.map_or("", |_| "index");
            let _ = writeln!(cases, "            case {n}: {act}({index}); break;");
        }
        let _ = write!(
            body,
            "        if (next > end)\n        {{\n            this.due = back ? end : next;\n            Now = end;\n            \
             return true;\n        }}\n        Now = next;\n        switch (which)\n        {{\n{cases}        }}\n    }}\n    \
             this.due = end;\n    Now = end;\n    return false;\n"
        );
        body
    }

    /// The lines after something that the game did: what is due is found again, and what follows happens at once.
    fn settle(&self) -> &'static str {
        match (self.plan.has_due(), self.plan.follows()) {
            (false, _) => "",
            (true, false) => "    this.due = Now;\n",
            (true, true) => "    this.due = Now;\n    Settle();\n",
        }
    }

    /// The function of what only the hour decides.
    fn by_clock(&self) -> Option<&str> {
        self.plan.by_clock().map(|n| self.names.events[n].act.as_str())
    }

    fn event(&self, event: &EventPlan, names: &EventNames, out: &mut String) {
        let own = ["t", "to", "end", "n", "next", "which", "index"];
        let indexed = event.count.map_or("", |_| "uint index");
        if let Some(due) = &event.due {
            let scope = self.scope(self.names.locals(&Cs, &due.locals, &own));
            let _ = writeln!(
                out,
                "// When `{}` happens next.\ndouble {}({indexed})\n{{",
                comment(&event.name),
                names.due
            );
            out.push_str(&moment_lines(due.asks(), MOMENTS, "    "));
            scope.statements(&due.statements, 1, out);
            out.push_str("}\n\n");
        }
        for (others, each) in event.each.iter().zip(&names.each) {
            let scope = self.scope(self.names.locals(&Cs, &others.does.looked.locals, &own));
            let _ = writeln!(
                out,
                "// What `{}` does to each `{}`.\nvoid {each}(uint index)\n{{",
                comment(&event.name),
                comment(&others.name),
            );
            out.push_str(&moment_lines(others.does.asks(), MOMENTS, "    "));
            out.push_str(&event_code(&scope, self.plan, &others.does, 1));
            out.push_str("}\n\n");
        }
        let (locals, given) = named(&Cs, &self.names, (self.plan, event), &own);
        let values = given.iter().map(|(place, _, name)| {
            let ty = if self.plan.inputs[*place].flag { "bool" } else { "double" };
            format!("{ty} {name}")
        });
        let index = event.count.map(|_| indexed.to_owned());
        let parameters: Vec<String> = index.into_iter().chain(values).collect();
        let public = if event.is_fired() { "public " } else { "" };
        let _ = writeln!(
            out,
            "// {}{}\n{public}void {}({})\n{{",
            describe_event(self.plan, event),
            at_line(&event.note, self.plan),
            names.act,
            parameters.join(", ")
        );
        if let (Some(count), true) = (event.count, event.is_fired()) {
            let _ = writeln!(out, "    if (index >= {count}u) return;");
        }
        out.push_str(&moment_lines(event.own.asks(), MOMENTS, "    "));
        let index = event.count.map(|_| "index");
        for (place, part, name) in &given {
            let (input, names) = (&self.plan.inputs[*place], &self.names.inputs[*place]);
            let part_of = (input.default.len() > 1).then_some(*part);
            let value = cleaned(input, *part, name);
            let _ = writeln!(out, "    {}", Cs.put(names, index, part_of, &value));
        }
        for (others, each) in event.each.iter().zip(&names.each) {
            let (count, which) = (others.count, each_index(&Cs, event, others.count));
            let _ = writeln!(out, "    for (uint n = 0; n < {count}u; ++n) {each}({which});");
        }
        let scope = self.scope(locals);
        out.push_str(&event_code(&scope, self.plan, &event.own, 1));
        if event.is_fired() {
            out.push_str(self.settle());
        }
        out.push_str("}\n\n");
    }

    fn setter(&self, input: &InputPlan, names: &InputNames, out: &mut String) {
        let values = setter_values(input);
        let ty = if input.flag { "bool" } else { "double" };
        let given: Vec<String> = values.iter().map(|name| format!("{ty} {name}")).collect();
        let index = input.count.map_or("", |_| "uint index, ");
        let _ = writeln!(
            out,
            "// {}{}\npublic void {}({index}{})\n{{",
            describe_input(input),
            at_line(&input.note, self.plan),
            names.set,
            given.join(", ")
        );
        if let Some(count) = input.count {
            let _ = writeln!(out, "    if (index >= {count}u) return;");
        }
        for (part, value) in values.iter().enumerate() {
            let value = cleaned(input, part, value);
            let field = &names.field;
            let _ = match (input.count, values.len()) {
                (None, _) => {
                    let suffix = input.suffixes.get(part).copied().unwrap_or_default();
                    writeln!(out, "    {field}{} = {value};", suffix.to_ascii_uppercase())
                }
                (Some(_), 1) => writeln!(out, "    {field}.Put(index, {value});"),
                (Some(_), _) => writeln!(out, "    {field}.Put(3u * index + {part}u, {value});"),
            };
        }
        out.push_str(self.settle());
        out.push_str("}\n\n");
    }

    fn function(&self, n: usize, function: &Function, out: &mut String) {
        let locals = self.names.locals(&Cs, &function.locals, &[]);
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
        self.scope(locals.clone()).inside(function).statements(&function.body, 1, out);
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
        let own = ["first", "count", "lamps", "lamp", "index", "n", "t", "hour", "days"];
        let scope = self.scope(self.names.locals(&Cs, &light.locals, &own));
        let moment = moment_lines(light.asks(), MOMENTS, "    ");
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
    let name = Namer::avoiding(&language::CSHARP, &cased(&field.name, Case::Pascal));
    match field.suffixes.get(n) {
        Some(part) => format!("{name}{}", part.to_ascii_uppercase()),
        None => name,
    }
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
        if let Some(clock) = &plan.clock {
            out.push_str(&clock_code(&Cs, include_str!("clock.cs"), clock, file.by_clock()));
        }
        for (choice, names) in plan.choices.iter().zip(&file.names.choices) {
            for (n, name) in names.options.iter().enumerate() {
                let _ = writeln!(
                    out,
                    "/// <summary>{}</summary>\npublic const uint {name} = {n}u;",
                    describe_choice(choice)
                );
            }
            out.push('\n');
            let code = choice_code(&Cs, include_str!("choice.cs"), (choice, names), file.settle());
            let about = format!(
                "// {}{}\npublic void",
                describe_choice(choice),
                at_line(&choice.note, plan)
            );
            out.push_str(&code.replace("public void", &about));
        }
        for (about, name, value) in tag_constants(plan, &file.names) {
            let _ = writeln!(
                out,
                "/// <summary>{about}</summary>\npublic const uint {name} = {value}u;\n"
            );
        }
        if plan.follows() {
            let _ = writeln!(
                out,
                "// {SETTLES}\nvoid Settle()\n{{\n    if (Now > 0.0) Advance(Now);\n}}\n"
            );
        }
        out.push_str(&spark_code(plan, &file.names, include_str!("spark.cs")));
        for (event, names) in plan.events.iter().zip(&file.names.events) {
            file.event(event, names, &mut out);
        }
        for (n, input) in plan.given() {
            file.setter(input, &file.names.inputs[n], &mut out);
        }
        for (light, names) in plan.lights.iter().zip(&file.names.lights) {
            file.light(light, names, &mut out);
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
        for (n, function) in plan.functions.iter().enumerate() {
            file.function(n, function, &mut out);
        }
        // All of the struct is indented in the end.
        let kernel = kernel_code(&language::CSHARP, &plan.helpers, "", 8);
        for line in kernel.lines() {
            out.push_str(line.strip_prefix("        ").unwrap_or(line));
            out.push('\n');
        }
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
