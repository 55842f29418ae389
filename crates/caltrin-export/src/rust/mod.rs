//! Rust: one module, no dependency, no heap, no globals.

mod bytes;
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
    ALL_DONE, DUE, EventNames, FileNames, InputNames, LightNames, MOST_AT_ONCE, NoticeSyntax,
    SETTLES, Scope, Syntax, about_table, at_line, choice_code, clock_code, clock_names, describe,
    describe_choice, describe_event, describe_input, describe_light, each_index, event_code,
    kernel_code, moment_lines, named, notice_code, prover_acts, prover_sets, self_test_code,
    setter_values, spark_code, summed_values, table_lines, tag_constants, texts, wrapped,
};
use crate::target::{ACTS, Blocks, FIRST_SET, Target, Tool};
use syntax::Rs;

/// The language.
pub struct Rust;

fn type_name(ty: Type) -> &'static str {
    match ty {
        Type::Number => "f64",
        Type::Word => "u32",
        Type::Flag => "bool",
    }
}

/// What names the hour, the number of days and the moment.
const MOMENTS: [&str; 3] =
    ["let hour = self.clock_hour();", "let days = self.clock_days();", "let t = self.now;"];

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

/// What the game gives for a part of an input, as it is kept.
fn cleaned(input: &InputPlan, part: usize, value: &str) -> String {
    if input.flag {
        return value.to_owned();
    }
    let [lo, hi, default] =
        [input.bounds.lo, input.bounds.hi, input.default[part]].map(|v| Rs.number(v));
    format!("clean_input({value}, {lo}, {hi}, {default})")
}

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
            syntax: &Rs,
            names: &self.names,
            locals,
            now: "t".to_owned(),
            seed: "self.seed".to_owned(),
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

    /// What takes a run to a moment.
    fn advance(&self) -> String {
        if !self.plan.has_due() {
            return "        self.now = clean_moment(to);\n".to_owned();
        }
        let mut body = format!(
            "        let end = clean_moment(to);\n        let back = end < self.now;\n        \
                 if !back && end < self.due {{\n            self.now = end;\n            return true;\n        }}\n        \
                 for _ in 0..{MOST_AT_ONCE} {{\n"
        );
        let mut cases = String::new();
        let all = self.plan.events.iter().zip(&self.names.events);
        let due: Vec<(&EventPlan, &EventNames)> =
            all.filter(|(event, _)| event.due.is_some()).collect();
        let many = self.plan.has_due_of_each();
        for (n, (event, names)) in due.iter().enumerate() {
            let (due_of, first) = (&names.due, event.count.map_or("", |_| "0"));
            if n == 0 {
                let (mut kept, mut starts) =
                    (vec!["next"], vec![format!("self.{due_of}({first})")]);
                if due.len() > 1 {
                    kept.push("which");
                    starts.push("0".to_owned());
                }
                if many {
                    kept.push("index");
                    starts.push("0".to_owned());
                }
                let _ = match &kept[..] {
                    [_] => writeln!(body, "            let next = {};", starts[0]),
                    _ => writeln!(
                        body,
                        "            let (mut {}) = ({});",
                        kept.join(", mut "),
                        starts.join(", ")
                    ),
                };
            }
            let which = if due.len() > 1 { format!(", {n}") } else { String::new() };
            let names_of = |index: &str| match (due.len() > 1, index) {
                (true, "") => "(next, which)".to_owned(),
                (true, _) => "(next, which, index)".to_owned(),
                (false, _) => "(next, index)".to_owned(),
            };
            match event.count {
                Some(count) => {
                    let _ = writeln!(
                        body,
                        "            for k in {}..{count} {{\n                let due = self.{due_of}(k);\n                \
                         if due < next {{\n                    {} = (due{which}, k);\n                \
                         }}\n            }}",
                        u32::from(n == 0),
                        names_of("index"),
                    );
                }
                None if n > 0 => {
                    let _ = writeln!(
                        body,
                        "            let due = self.{due_of}();\n            if due < next {{\n                \
                         {} = (due{which});\n            }}",
                        names_of("")
                    );
                }
                None => {}
            }
            let pattern = if n + 1 == due.len() { "_".to_owned() } else { n.to_string() };
            let index = event.count.map_or("", |_| "index");
            let _ = writeln!(cases, "                {pattern} => self.{}({index}),", names.act);
        }
        let act = match &due[..] {
            [(event, one)] => {
                format!("            self.{}({});\n", one.act, event.count.map_or("", |_| "index"))
            }
            _ => format!("            match which {{\n{cases}            }}\n"),
        };
        let _ = write!(
            body,
            "            if next > end {{\n                self.due = if back {{ end }} else {{ next }};\n                \
             self.now = end;\n                return true;\n            }}\n            \
             self.now = next;\n{act}        }}\n        self.due = end;\n        self.now = end;\n        false\n"
        );
        body
    }

    /// The lines after something that the game did: what is due is found again, and what follows happens at once.
    fn settle(&self) -> &'static str {
        match (self.plan.has_due(), self.plan.follows()) {
            (false, _) => "",
            (true, false) => "        self.due = self.now;\n",
            (true, true) => "        self.due = self.now;\n        self.settle();\n",
        }
    }

    /// The function of what only the hour decides.
    fn by_clock(&self) -> Option<&str> {
        self.plan.by_clock().map(|n| self.names.events[n].act.as_str())
    }

    fn event(&self, event: &EventPlan, names: &EventNames, out: &mut String) {
        let own = ["t", "to", "end", "next", "which", "due", "index", "n"];
        let indexed = event.count.map_or("", |_| ", index: u32");
        if let Some(due) = &event.due {
            let scope = self.scope(self.names.locals(&Rs, &due.locals, &own));
            let _ = writeln!(
                out,
                "\n    /// When `{}` happens next.\n    fn {}(&self{indexed}) -> f64 {{",
                comment(&event.name),
                names.due
            );
            out.push_str(&moment_lines(due.asks(), MOMENTS, "        "));
            scope.statements(&due.statements, 2, out);
            out.push_str("    }\n");
        }
        for (others, each) in event.each.iter().zip(&names.each) {
            let scope = self.scope(self.names.locals(&Rs, &others.does.looked.locals, &own));
            let _ = writeln!(
                out,
                "\n    /// What `{}` does to each `{}`.\n    fn {each}(&mut self, index: u32) {{",
                comment(&event.name),
                comment(&others.name),
            );
            out.push_str(&moment_lines(others.does.asks(), MOMENTS, "        "));
            out.push_str(&event_code(&scope, self.plan, &others.does, 2));
            out.push_str("    }\n");
        }
        let (locals, given) = named(&Rs, &self.names, (self.plan, event), &own);
        let parameters: Vec<String> = given
            .iter()
            .map(|(place, _, name)| {
                let ty = if self.plan.inputs[*place].flag { "bool" } else { "f64" };
                format!(", {name}: {ty}")
            })
            .collect();
        let public = if event.is_fired() { "pub " } else { "" };
        let _ = writeln!(
            out,
            "\n    /// {}{}\n    {public}fn {}(&mut self{indexed}{}) {{",
            describe_event(self.plan, event),
            at_line(&event.note, self.plan),
            names.act,
            parameters.concat()
        );
        if let (Some(count), true) = (event.count, event.is_fired()) {
            let _ =
                writeln!(out, "        if index >= {count} {{\n            return;\n        }}");
        }
        out.push_str(&moment_lines(event.own.asks(), MOMENTS, "        "));
        let index = event.count.map(|_| "index");
        for (place, part, name) in &given {
            let (input, names) = (&self.plan.inputs[*place], &self.names.inputs[*place]);
            let part_of = (input.default.len() > 1).then_some(*part);
            let value = cleaned(input, *part, name);
            let _ = writeln!(out, "        {}", Rs.put(names, index, part_of, &value));
        }
        for (others, each) in event.each.iter().zip(&names.each) {
            let (count, which) = (others.count, each_index(&Rs, event, others.count));
            let _ = match which.contains('n') && which != "index" {
                true => writeln!(
                    out,
                    "        for n in 0..{count} {{\n            self.{each}({which});\n        }}"
                ),
                false => writeln!(out, "        self.{each}({which});"),
            };
        }
        let scope = self.scope(locals);
        out.push_str(&event_code(&scope, self.plan, &event.own, 2));
        if event.is_fired() {
            out.push_str(self.settle());
        }
        out.push_str("    }\n");
    }

    fn setter(&self, input: &InputPlan, names: &InputNames, out: &mut String) {
        let values = setter_values(input);
        let ty = if input.flag { "bool" } else { "f64" };
        let given: Vec<String> = values.iter().map(|name| format!("{name}: {ty}")).collect();
        let index = input.count.map_or("", |_| "index: u32, ");
        let cleaned: Vec<String> =
            values.iter().enumerate().map(|(part, value)| cleaned(input, part, value)).collect();
        let value = |depth: usize| {
            let (indent, inner) = (Rs::INDENT.repeat(depth), Rs::INDENT.repeat(depth + 1));
            match &cleaned[..] {
                [one] => one.clone(),
                parts => format!("[\n{inner}{},\n{indent}]", parts.join(&format!(",\n{inner}"))),
            }
        };
        let _ = write!(
            out,
            "\n    /// {}{}\n    pub fn {}(&mut self, {index}{}) {{\n",
            describe_input(input),
            at_line(&input.note, self.plan),
            names.set,
            given.join(", ")
        );
        let _ = match input.count {
            Some(_) => write!(
                out,
                "        if let Some(one) = self.{}.get_mut(index as usize) {{\n            \
                 *one = {};\n        }}\n{}    }}\n",
                names.field,
                value(3),
                self.settle()
            ),
            None => write!(
                out,
                "        self.{} = {};\n{}    }}\n",
                names.field,
                value(2),
                self.settle()
            ),
        };
    }

    fn function(&self, n: usize, function: &Function, out: &mut String) {
        let locals = self.names.locals(&Rs, &function.locals, &[]);
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
        self.scope(locals.clone()).inside(function).statements(&function.body, 1, out);
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
        let own = ["first", "lamps", "lamp", "index", "n", "t", "hour", "days"];
        let scope = self.scope(self.names.locals(&Rs, &light.locals, &own));
        let moment = moment_lines(light.asks(), MOMENTS, "        ");
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
            digits.len() > *least && near.is_some_and(|(a, b)| (a - b).abs() <= size)
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
    Namer::avoiding(&language::RUST, &cased(&field.name, Case::Snake))
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
        let (ty, end, done) = match plan.has_due() {
            true => (" -> bool", "", ALL_DONE),
            false => ("", ";", ""),
        };
        let _ = write!(
            out,
            "// A host calls what it needs.\n#[allow(dead_code)]\nimpl Run {{\n    /// A run at moment 0.\n    pub const fn start(seed: u32) -> Self {{\n        \
             {}\n    }}\n\n    \
             /// Goes to a moment of the run, in seconds since its start.{done}\n    \
             pub fn advance(&mut self, to: f64){ty} {{\n{}    }}\n\n    \
             /// Goes on by some seconds. Steps add up their rounding; `advance` does not.\n    \
             pub fn step(&mut self, seconds: f64){ty} {{\n        self.advance(self.now + seconds){end}\n    }}\n",
            file.defaults(),
            file.advance()
        );
        if plan.follows() {
            let _ = write!(
                out,
                "\n    /// {SETTLES}\n    fn settle(&mut self) {{\n        if self.now > 0.0 {{\n            \
                 self.advance(self.now);\n        }}\n    }}\n"
            );
        }
        out.push_str(&spark_code(plan, &file.names, include_str!("spark.rs")));
        for (event, names) in plan.events.iter().zip(&file.names.events) {
            file.event(event, names, &mut out);
        }
        if let Some(clock) = &plan.clock {
            out.push_str(&clock_code(&Rs, include_str!("clock.rs"), clock, file.by_clock()));
        }
        for (choice, names) in plan.choices.iter().zip(&file.names.choices) {
            let code = choice_code(&Rs, include_str!("choice.rs"), (choice, names), file.settle());
            let about = format!("    /// {}\n    pub fn", describe_choice(choice));
            out.push_str(&code.replace("    pub fn", &about));
        }
        for (n, input) in plan.given() {
            file.setter(input, &file.names.inputs[n], &mut out);
        }
        let notices = file.notices();
        for code in notices.iter().flat_map(|(sends, takes)| [sends, takes]) {
            out.push_str(code);
        }
        for (light, names) in plan.lights.iter().zip(&file.names.lights) {
            file.methods(light, names, &mut out);
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
        for (n, function) in plan.functions.iter().enumerate() {
            file.function(n, function, &mut out);
        }
        out.push_str(&kernel_code(&language::RUST, &plan.helpers, "", 0));
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
