//! Whole files: what a plan holds, in the order and the words of a language file.

mod fields;
mod proof;

use std::collections::BTreeSet;
use std::sync::Arc;

use caltrin_core::MADE;

use crate::ir::{Module, Operation, Receiver, Type};
use crate::language::shape::{self, Fill};
use crate::language::{Fields, GivenNames, LampNames, Language, Pattern, Printer, Taken};
use crate::lower::{
    Lowered, NoticeField, counts, given_names, is_of_test, notice_fields, save_bytes,
};
use crate::names::{Case, Namer, cased, comment, file_stem};
use crate::plan::{FieldPlan, LightPlan, Plan};
use crate::print::{
    FileNames, KERNEL, at_line, describe_choice, describe_light, kernel_needs, tag_constants,
};
pub use fields::{RunFieldPlan, fields};
pub use proof::prover;

/// An item of a file: its lines.
type Item = Vec<String>;

/// A file on its way.
pub struct SourceFile<'p> {
    plan: &'p Plan,
    language: &'p Language,
    names: FileNames,
    lowered: Lowered,
    slots: Vec<(String, String)>,
    given: Arc<GivenNames>,
    fields: Vec<RunFieldPlan>,
}

/// The name of the file that a plan is exported to.
pub fn file_name(plan: &Plan, language: &Language) -> String {
    let slots = name_slots(plan, language);
    let slots: Vec<(&str, &str)> =
        slots.iter().map(|(name, text)| (*name, text.as_str())).collect();
    language.file.name.fill(&slots)
}

/// The slots of file names.
fn name_slots(plan: &Plan, language: &Language) -> [(&'static str, String); 3] {
    let stem = |name: &str| file_stem(name, language.reserved());
    [
        ("base", stem(plan.base())),
        ("base_pascal", class_name(plan, language)),
        ("book", stem(&plan.book)),
    ]
}

/// What a class is called that has to have its file's name.
fn class_name(plan: &Plan, language: &Language) -> String {
    cased(&file_stem(plan.base(), language.reserved()), Case::Pascal)
}

/// What slots of a file stand for.
pub(crate) fn slots(plan: &Plan, language: &Language) -> Vec<(String, String)> {
    let file = &language.file;
    let base = |case: Case| cased(plan.base(), case);
    let mut all: Vec<(String, String)> = Vec::new();
    let mut add = |name: &str, text: String| all.push((name.to_owned(), text));
    add("base", base(Case::Snake));
    add("base_upper", base(Case::Screaming));
    add("base_pascal", class_name(plan, language));
    let space = match (&plan.prefix, &file.space) {
        (None, Some(space)) => space.clone(),
        _ => base(language.names.types),
    };
    let mut namer = Namer::without([space.as_str()]);
    add("book_pascal", namer.take(&cased(&plan.book, Case::Pascal)));
    add("space", space);
    let fill = |pattern: &Pattern, all: &[(String, String)]| {
        let values: Vec<(&str, &str)> =
            all.iter().map(|(name, text)| (name.as_str(), text.as_str())).collect();
        pattern.fill(&values)
    };
    for (name, pattern) in [("prefix", &file.prefix), ("run", &file.run)] {
        let text = fill(pattern, &all);
        all.push((name.to_owned(), text));
    }
    for (name, pattern) in &file.slots {
        let text = fill(pattern, &all);
        all.push((name.clone(), text));
    }
    for (name, either) in &file.when {
        let is = match either.fact.as_str() {
            "due" => plan.has_due(),
            "many" => plan.inputs.iter().any(|input| input.count.is_some()) || fades(plan),
            "parts" => plan.inputs.iter().any(|input| input.slots() > 1) || fades(plan),
            _ => false,
        };
        let text = fill(if is { &either.is } else { &either.not }, &all);
        all.push((name.clone(), text));
    }
    let from = if plan.file.is_empty() { String::new() } else { format!(" from {}", plan.file) };
    for (name, text) in [
        ("title", comment(&plan.book)),
        ("made", format!("{MADE}{}", comment(&from))),
        ("bytes", plan.run_bytes().to_string()),
        ("save_bytes", save_bytes(plan).to_string()),
        ("waiting", waiting(plan).to_string()),
        ("layout", plan.layout.to_string()),
        ("version", env!("CARGO_PKG_VERSION").to_owned()),
        ("seed", plan.seed.0.to_string()),
        ("file", file_name(plan, language)),
    ] {
        all.push((name.to_owned(), text));
    }
    all
}

/// How many notices may wait.
fn waiting(plan: &Plan) -> u32 {
    let moments = plan.queue.and_then(|queue| plan.inputs[queue.moments].count);
    moments.unwrap_or_default()
}

fn fades(plan: &Plan) -> bool {
    plan.choices.iter().any(|choice| choice.fades())
}

/// The text of a file.
pub fn print(plan: &Plan, language: &Language) -> String {
    SourceFile::of(plan, language).print()
}

/// The header and the source file of a plan, with the source file's name; `None` if the language has no headers.
pub fn print_split(plan: &Plan, language: &Language) -> Option<[(String, String); 2]> {
    let split = language.file.split.as_ref()?;
    let file = SourceFile::of(plan, language);
    let public = file.filled(&split.public);
    let all = || language.file.parts.values().flatten();
    let in_header = |part: &&String| split.parts.contains(part);
    let items = |parts: &mut dyn Iterator<Item = &String>| -> Vec<String> {
        apart(parts.flat_map(|part| file.part(part, 0)))
    };
    let declarations = items(&mut all().filter(in_header));
    let definitions = items(&mut all().filter(|part| !in_header(part)));
    let prototypes = prototypes(&definitions, &public, &language.comment.open);
    let plain = |line: &String| line.strip_prefix(&public).unwrap_or(line).to_owned();
    let definitions: Vec<String> = definitions.iter().map(plain).collect();
    let text = |shape: &Pattern| {
        let lines = shape::lines(shape, 0, |slot, at| match slot {
            "declarations" => Fill::Lines(declarations.clone()),
            "prototypes" => Fill::Lines(prototypes.clone()),
            "definitions" => Fill::Lines(definitions.clone()),
            slot => file.slot(slot, at),
        });
        shape::tidy(lines).join("\n") + "\n"
    };
    let slots = name_slots(plan, language);
    let slots: Vec<(&str, &str)> =
        slots.iter().map(|(name, text)| (*name, text.as_str())).collect();
    let source = split.name.fill(&slots);
    Some([(file_name(plan, language), text(&split.header)), (source, text(&split.source))])
}

/// The prototypes of functions that begin with `public`, with the comments that stand before them.
fn prototypes(lines: &[String], public: &str, comment: &str) -> Vec<String> {
    let mut all = Vec::new();
    let mut at = 0;
    while at < lines.len() {
        if !lines[at].starts_with(public) {
            at += 1;
            continue;
        }
        let before = lines[..at].iter().rposition(|line| line.is_empty()).map_or(0, |n| n + 1);
        let about = &lines[before..at];
        if !all.is_empty() {
            all.push(String::new());
        }
        if about.first().is_some_and(|line| line.starts_with(comment.trim_end())) {
            all.extend_from_slice(about);
        }
        let head = lines[at..].iter().take_while(|line| *line != "{" && !line.ends_with(';'));
        let mut head: Vec<String> = head.cloned().collect();
        at += head.len().max(1);
        // What is declared before it is defined has a prototype already.
        if lines.get(at).is_some_and(|line| line != "{") {
            continue;
        }
        if let Some(first) = head.first_mut() {
            *first = first[public.len()..].to_owned();
        }
        if let Some(last) = head.last_mut() {
            last.push(';');
        }
        all.extend(head);
    }
    all
}

/// The names of a file.
pub fn names(plan: &Plan, language: &Language) -> FileNames {
    let slots = slots(plan, language);
    let prefix = slots.iter().find(|(name, _)| name == "prefix");
    FileNames::of(language, plan, prefix.map_or("", |(_, prefix)| prefix), &taken(&slots))
}

/// What types and spaces of a file take of its names.
fn taken(slots: &[(String, String)]) -> Vec<&str> {
    let types = slots.iter().filter(|(name, _)| name == "run" || name == "space");
    types.map(|(_, text)| text.as_str()).collect()
}

impl<'p> SourceFile<'p> {
    fn of(plan: &'p Plan, language: &'p Language) -> Self {
        let slots = slots(plan, language);
        let names = names(plan, language);
        let lowered = Lowered::of(plan, language.extras(plan.names));
        let mut given = given_names(plan, &names, language);
        given.slots = slots.clone();
        given.notice = notice_names(plan, language, &names);
        let lights = plan.lights.iter().zip(&names.lights);
        let lights = lights.map(|(light, own)| Taken {
            lamp_type: own.lamp.clone(),
            read: own.read.clone(),
            fill: own.fill.clone(),
            lamp: lamp_names(light, language, 0),
        });
        given.lights = lights.collect();
        let (given, fields) = (Arc::new(given), fields(plan));
        SourceFile { plan, language, names, lowered, slots, given, fields }
    }

    /// A pattern with slots of the file.
    fn filled(&self, pattern: &Pattern) -> String {
        let slots = self.slots.iter();
        let slots: Vec<(&str, &str)> =
            slots.map(|(name, text)| (name.as_str(), text.as_str())).collect();
        pattern.fill(&slots)
    }

    fn print(&self) -> String {
        let lines = shape::lines(&self.language.file.text, 0, |slot, at| self.slot(slot, at));
        shape::tidy(lines).join("\n") + "\n"
    }

    /// A printer of declarations that begin at a column.
    fn printer(&self, column: usize) -> Printer<'_> {
        self.printer_of(&self.lowered.module, column)
    }

    fn printer_of<'m>(&'m self, module: &'m Module, column: usize) -> Printer<'m> {
        let prefix = self.slots.iter().find(|(name, _)| name == "prefix");
        let prefix = prefix.map_or("", |(_, prefix)| prefix.as_str());
        Printer::new(self.language, module, prefix, column).named_by(Arc::clone(&self.given))
    }

    /// What a slot of the file's own texts takes.
    fn slot(&self, name: &str, column: usize) -> Fill {
        if let Some(parts) = self.language.file.parts.get(name) {
            let items = parts.iter().flat_map(|part| self.part(part, column));
            return Fill::Lines(apart(items));
        }
        match name {
            "run_fields" => Fill::Lines(self.run_fields(column)),
            "example" => Fill::Lines(self.example().into_iter().collect()),
            name => {
                let found = self.slots.iter().find(|(slot, _)| slot == name);
                Fill::Text(found.map_or(String::new(), |(_, text)| text.clone()))
            }
        }
    }

    /// The items of a part of the file.
    fn part(&self, name: &str, column: usize) -> Vec<Item> {
        let lowered = &self.lowered;
        let all = |names: &mut dyn Iterator<Item = &String>| self.functions(names, column);
        match name {
            "constants" => self.constants(column),
            "tables" => self.tables(column, false),
            "test_tables" => self.tables(column, true),
            "kernel" => self.kernel(column),
            "start" => vec![self.start(column)],
            "forward" => self.forward(column),
            "course" => all(&mut lowered.course.iter()),
            "clock" => all(&mut lowered.clock.iter()),
            "choices" => all(&mut lowered.choices.iter().flatten()),
            "setters" => all(&mut lowered.setters.iter()),
            "sparks" => all(&mut lowered.sparks.iter().flatten()),
            "book" => all(&mut lowered.book.iter()),
            // Functions that have nothing of the run stand apart where those of the run stand inside something.
            "sends" => all(&mut lowered.notices.sends.iter().filter(|name| self.is_of_run(name))),
            "free" => all(&mut lowered
                .notices
                .sends
                .iter()
                .chain(&lowered.saving)
                .chain(&lowered.binding)
                .chain(&lowered.test)
                .filter(|name| !self.is_of_run(name))),
            "dropped" => all(&mut lowered.notices.dropped.iter()),
            "test" => all(&mut lowered.test.iter().filter(|name| self.is_of_run(name))),
            "events" => all(&mut lowered.events.iter().flat_map(|event| {
                event.due.iter().chain(&event.each).chain(std::iter::once(&event.act))
            })),
            "holders" => self.holders(),
            "lamps" => self.lamps(column),
            "reads" => self.reads(column),
            "notice" => self.notice_type(column).into_iter().collect(),
            "take" => self.take(column).into_iter().collect(),
            "binding" => all(&mut lowered.binding.iter().filter(|name| self.is_of_run(name))),
            "saving" => all(&mut lowered.saving.iter().filter(|name| self.is_of_run(name))),
            // Only tables of names compare texts.
            "texts" if !self.language.extras(self.plan.names).binds => Vec::new(),
            name => match self.language.file.own.get(name) {
                Some(own) => vec![shape::lines(own, column, |slot, at| self.slot(slot, at))],
                None => Vec::new(),
            },
        }
    }

    fn is_of_run(&self, name: &str) -> bool {
        self.lowered.function(name).receiver != Receiver::None
    }

    fn functions(&self, names: &mut dyn Iterator<Item = &String>, column: usize) -> Vec<Item> {
        let printer = self.printer(column);
        names
            .map(|name| item(&printer.print_function(self.lowered.function(name)), column))
            .collect()
    }

    /// What is called before it is written.
    fn forward(&self, column: usize) -> Vec<Item> {
        let printer = self.printer(column);
        let settle = self.plan.follows().then(|| "settle".to_owned());
        let by_clock = self.plan.by_clock().map(|n| self.lowered.events[n].act.clone());
        let heads = settle.into_iter().chain(by_clock);
        let heads = heads.filter_map(|name| {
            printer.print_forward(self.lowered.function(&name)).map(|text| item(&text, column))
        });
        heads.collect()
    }

    /// All functions of the file.
    fn all_functions(&self) -> impl Iterator<Item = &crate::ir::Function> {
        let needs = kernel_needs(self.lowered.needs(self.plan));
        let functions = KERNEL.functions.iter();
        let functions = functions.filter(move |function| needs.contains(&function.name));
        let own = self.lowered.module.functions.iter();
        let own = own.filter(|function| KERNEL.function(&function.name).is_none());
        // What lights do is printed apart from the functions of the module.
        let lights = self.lowered.lights.iter().map(|(function, _)| function);
        functions.chain(own).chain(lights).chain(&self.lowered.take)
    }

    /// The operations that the file has as functions of its own.
    fn written(&self) -> BTreeSet<Operation> {
        let printer = self.printer_of(&KERNEL, 0);
        self.all_functions().flat_map(|function| printer.written(function)).collect()
    }

    fn kernel(&self, column: usize) -> Vec<Item> {
        let printer = self.printer_of(&KERNEL, column);
        let needs = kernel_needs(self.lowered.needs(self.plan));
        let written = self.written();
        let used: BTreeSet<Operation> =
            self.all_functions().flat_map(|function| printer.operations_of(function)).collect();
        let mut items = kernel_items(&printer, &needs, written, column);
        for (name, own) in &self.language.support {
            if used.iter().any(|operation| operation.name() == name) {
                let mut lines = self.language.comment_lines(&own.about, column);
                lines.extend(shape::lines(&own.text, column, |slot, at| self.slot(slot, at)));
                items.push(lines);
            }
        }
        items
    }

    fn tables(&self, column: usize, of_test: bool) -> Vec<Item> {
        let (printer, patterns) = (self.printer(column), &self.language.table);
        let table = |table: &crate::ir::Table| {
            let pattern = match table.entries.ty() {
                Type::Words => &patterns.words,
                Type::Texts => &patterns.texts,
                _ => &patterns.numbers,
            };
            let mut lines = match table.about.is_empty() {
                true => Vec::new(),
                false => self.language.comment_lines(&table.about, column),
            };
            let declared = shape::lines(pattern, column, |slot, at| match slot {
                "name" => Fill::Text(printer.table_name(&table.name)),
                "count" => Fill::Text(table.entries.count().to_string()),
                "entries" => Fill::Lines(printer.entries(table, at)),
                slot => self.slot(slot, at),
            });
            lines.extend(printer.near(&declared.join("\n")).map(str::to_owned));
            lines.extend(declared);
            lines
        };
        let all = self.lowered.module.tables.iter();
        all.filter(|table| is_of_test(&table.name) == of_test).map(table).collect()
    }

    /// The constants of options and tags.
    fn constants(&self, column: usize) -> Vec<Item> {
        let constant = |name: &str, value: u32| {
            let pattern = &self.language.public_constant.one;
            pattern.fill(&[("name", name), ("value", &value.to_string())])
        };
        let mut items = Vec::new();
        for (choice, names) in self.plan.choices.iter().zip(&self.names.choices) {
            let about = format!("{}{}", describe_choice(choice), at_line(&choice.note, self.plan));
            let mut lines = self.language.comment_lines(&about, column);
            for (n, name) in names.options.iter().enumerate() {
                lines.extend(constant(name, n as u32).lines().map(str::to_owned));
            }
            items.push(lines);
        }
        if self.language.extras(self.plan.names).binds {
            let prefix = self.slots.iter().find(|(name, _)| name == "prefix");
            let prefix = prefix.map_or("", |(_, prefix)| prefix.as_str());
            for (name, about, count) in counts(self.plan) {
                let name = cased(&format!("{prefix}{name}"), self.language.names.constants);
                let mut lines = self.language.comment_lines(about, column);
                lines.extend(constant(&name, count).lines().map(str::to_owned));
                items.push(lines);
            }
        }
        for (about, name, value) in tag_constants(self.plan, &self.names) {
            let mut lines = self.language.comment_lines(&about, column);
            lines.extend(constant(name, value).lines().map(str::to_owned));
            items.push(lines);
        }
        items
    }

    /// How the host's loop reads a lamp.
    fn example(&self) -> Option<String> {
        let mut lights = self.plan.lights.iter().zip(&self.names.lights);
        let (light, names) = lights.nth(self.plan.example())?;
        let pattern = &self.language.file.example[usize::from(light.is_array())];
        let mut values: Vec<(&str, &str)> =
            self.slots.iter().map(|(name, text)| (name.as_str(), text.as_str())).collect();
        values.extend([("read", names.read.as_str()), ("lamp_type", names.lamp.as_str())]);
        Some(pattern.fill(&values))
    }

    fn field_name(&self, field: &RunFieldPlan) -> (&str, &[String]) {
        let (name, suffixes) = &self.given.fields[&field.name];
        (name, suffixes)
    }

    fn run_fields(&self, column: usize) -> Vec<String> {
        let patterns = &self.language.field;
        let each = self.fields.iter().flat_map(|field| {
            let (name, suffixes) = self.field_name(field);
            let pattern = match (field.count, field.parts) {
                (None, 1) => &patterns.one,
                (None, _) => &patterns.parts,
                (Some(_), 1) => &patterns.many,
                (Some(_), _) => &patterns.many_parts,
            };
            let declared = Declared {
                name,
                suffixes,
                ty: field.ty,
                about: &field.about,
                count: field.count,
                slots: field.slots(),
                public: field.public,
            };
            self.declared(patterns, pattern, &declared, column)
        });
        each.collect()
    }

    /// A field with its comment.
    fn declared(
        &self,
        patterns: &Fields,
        pattern: &Pattern,
        field: &Declared<'_>,
        column: usize,
    ) -> Vec<String> {
        let all = field.suffixes.iter().map(|suffix| format!("{}{suffix}", field.name));
        let all: Vec<String> = all.collect();
        let count = field.count.map_or(String::new(), |count| count.to_string());
        let [yes, no] = &self.language.declaration.when["public"];
        let public = if field.public { yes } else { no }.fill(&[]);
        let about = &self.language.escaped(field.about);
        let line = pattern.fill(&[
            ("type", self.language.type_name(field.ty)),
            ("field", field.name),
            ("fields", &all.join(", ")),
            ("count", &count),
            ("slots", &field.slots.to_string()),
            ("about", about),
            ("public", &public),
        ]);
        let line = line.trim_end().to_owned();
        if field.about.is_empty() || pattern.slots().any(|slot| slot == "about") {
            return line.lines().map(str::to_owned).collect();
        }
        if let Some(comment) = &patterns.comment {
            let whole = format!("{line}{}", comment.fill(&[("about", about)]));
            if column + whole.chars().count() <= self.language.layout.width {
                return vec![whole];
            }
        }
        let mut lines = self.language.comment_lines(field.about, column);
        lines.push(line);
        lines
    }

    /// The types of fields of several.
    fn holders(&self) -> Vec<Item> {
        let Some(holder) = &self.language.field.holder else { return Vec::new() };
        let many = self.fields.iter().filter(|field| field.count.is_some());
        let each = many.map(|field| {
            let (name, _) = self.field_name(field);
            shape::lines(holder, 0, |slot, _| {
                Fill::Text(match slot {
                    "type" => self.language.type_name(field.ty).to_owned(),
                    "field" => name.to_owned(),
                    "slots" => field.slots().to_string(),
                    "bytes" => (field.slots() * field.bytes()).to_string(),
                    _ => String::new(),
                })
            })
        });
        each.collect()
    }

    /// A value of a field.
    fn value(&self, ty: Type, v: f64, printer: &Printer<'_>) -> String {
        let literal = &self.language.literal;
        match ty {
            Type::Bool => literal.flags[usize::from(v != 0.0)].clone(),
            Type::Word => literal.word.fill(&[("digits", &(v as u32).to_string())]),
            _ => printer.number(v),
        }
    }

    /// What makes a run.
    fn start(&self, column: usize) -> Item {
        let start = &self.language.start;
        shape::lines(&start.text, column, |slot, at| match slot {
            "defaults" => Fill::Lines(self.defaults(at)),
            slot => self.slot(slot, at),
        })
    }

    fn defaults(&self, column: usize) -> Vec<String> {
        let (start, printer) = (&self.language.start, self.printer(column));
        let mut lines = Vec::new();
        for field in self.fields.iter().filter(|field| !field.public) {
            let (name, suffixes) = self.field_name(field);
            let pattern = match (field.varied, field.count, field.parts) {
                (true, ..) => &start.entries,
                (false, None, 1) => &start.one,
                (false, None, _) => &start.parts,
                (false, Some(_), 1) => &start.many,
                (false, Some(_), _) => &start.many_parts,
            };
            let all: Vec<String> =
                field.first.iter().map(|v| self.value(field.ty, *v, &printer)).collect();
            let at_once = field.first.len() == 1 || pattern.slots().any(|slot| slot == "values");
            for (n, v) in field.first.iter().enumerate() {
                if (at_once && n > 0) || (!start.zeros && !at_once && *v == 0.0) {
                    continue;
                }
                if !start.zeros && field.first.iter().all(|v| *v == 0.0) {
                    continue;
                }
                let count = field.count.map_or(String::new(), |count| count.to_string());
                let line = pattern.fill(&[
                    ("field", name),
                    ("value", &all[n]),
                    ("values", &all.join(", ")),
                    ("count", &count),
                    ("part", &n.to_string()),
                    ("index", &n.to_string()),
                    ("suffix", suffixes.get(n).map_or("", String::as_str)),
                ]);
                lines.extend(line.lines().map(str::to_owned));
            }
        }
        lines
    }

    /// The lines of a shape about a light.
    fn light_shape(
        &self,
        pattern: &Pattern,
        (light, at): (&LightPlan, usize),
        column: usize,
        mut own: impl FnMut(&str, usize) -> Option<Fill>,
    ) -> Item {
        let names = &self.names.lights[at];
        let lines = shape::lines(pattern, column, |slot, column| {
            if let Some(fill) = own(slot, column) {
                return fill;
            }
            match slot {
                "read" => Fill::Text(names.read.clone()),
                "fill" => Fill::Text(names.fill.clone()),
                "lamp_type" => Fill::Text(names.lamp.clone()),
                "fresh" => Fill::Text(self.given.lights[at].lamp.fresh.clone()),
                "about" => Fill::Text(self.about_light(light)),
                "comment" => {
                    Fill::Lines(self.language.comment_lines(&self.about_light(light), column))
                }
                slot => self.slot(slot, column),
            }
        });
        // A head with long names; comments stay whole.
        let layout = &self.language.layout;
        let width = layout.width - column;
        let comment = self.language.comment.next.trim();
        let fitted = lines.into_iter().flat_map(|line| match line.trim().starts_with(comment) {
            true if !comment.is_empty() => vec![line],
            _ => shape::fitted(&line, width, layout.indent),
        });
        fitted.collect()
    }

    fn about_light(&self, light: &LightPlan) -> String {
        format!("{}{}", describe_light(light), at_line(&light.note, self.plan))
    }

    fn lamps(&self, column: usize) -> Vec<Item> {
        let patterns = &self.language.record;
        let each = self.plan.lights.iter().enumerate().map(|(at, light)| {
            let pattern = &self.language.read.declared;
            self.light_shape(pattern, (light, at), column, |slot, column| {
                if slot != "fields" {
                    return None;
                }
                if light.fields.is_empty() {
                    return Some(Fill::Lines(patterns.empty.iter().cloned().collect()));
                }
                let names = &self.given.lights[at].lamp.fields;
                let each = light.fields.iter().zip(names).flat_map(|(field, (name, suffixes))| {
                    let about = format!("{}{}", field.about, at_line(&field.note, self.plan));
                    let ty = if field.flag { Type::Bool } else { Type::F32 };
                    self.record_field(name, suffixes, ty, &about, column)
                });
                Some(Fill::Lines(each.collect()))
            })
        });
        each.collect()
    }

    fn record_field(
        &self,
        name: &str,
        suffixes: &[String],
        ty: Type,
        about: &str,
        column: usize,
    ) -> Vec<String> {
        let patterns = &self.language.record;
        let pattern = if suffixes.is_empty() { &patterns.one } else { &patterns.parts };
        let slots = suffixes.len().max(1);
        let declared = Declared { name, suffixes, ty, about, count: None, slots, public: true };
        self.declared(patterns, pattern, &declared, column)
    }

    /// What reads lamps.
    fn reads(&self, column: usize) -> Vec<Item> {
        let (reads, printer) = (&self.language.read, self.printer(column));
        let mut items = Vec::new();
        for (at, light) in self.plan.lights.iter().enumerate() {
            let (function, apart) = &self.lowered.lights[at];
            let uses_run = light.asks() != [false; 3] || light.uses_seed() || light.uses_inputs();
            let mut print = |pattern: &Pattern, many: bool| {
                let names = lamp_names(light, self.language, usize::from(many));
                let made = printer.made(function, *apart, &names);
                let when = |fact: &str, is: bool| {
                    let text = reads.when.get(fact).map_or(String::new(), |either| {
                        let either = if is { &either[0] } else { &either[1] };
                        either.fill(&[])
                    });
                    Fill::Lines(text.lines().map(str::to_owned).collect())
                };
                let item = self.light_shape(pattern, (light, at), column, |slot, column| {
                    Some(match slot {
                        "shared" => Fill::Lines(made.shared(column)),
                        "each" => Fill::Lines(made.each(column)),
                        "sets" if light.fields.is_empty() => when("empty", true),
                        "sets" => Fill::Lines(made.sets(column)),
                        "run_used" => when("run", uses_run),
                        "index_used" => when("index", light.uses_index()),
                        "first" | "loop" => match when(slot, light.uses_index()) {
                            Fill::Lines(lines) => Fill::Text(lines.join("\n")),
                            text => text,
                        },
                        _ => return None,
                    })
                });
                items.push(item);
            };
            if light.is_array() {
                print(&reads.fill, true);
                print(&reads.of_many, false);
            } else {
                print(&reads.one, false);
            }
        }
        items
    }

    fn notice_type(&self, column: usize) -> Option<Item> {
        self.plan.queue?;
        let all = notice_fields(self.plan);
        let names = &self.given.notice.fields;
        let pattern = &self.language.notice.declared;
        Some(shape::lines(pattern, column, |slot, column| match slot {
            "fields" => {
                let each = all.iter().zip(names).flat_map(|(field, (name, suffixes))| {
                    self.record_field(name, suffixes, field.ty, &field.about, column)
                });
                Fill::Lines(each.collect())
            }
            "fresh" => Fill::Text(self.given.notice.fresh.clone()),
            slot => self.slot(slot, column),
        }))
    }

    fn take(&self, column: usize) -> Option<Item> {
        let function = self.lowered.take.as_ref()?;
        let printer = self.printer(column);
        let made = printer.made(function, 0, &self.given.notice);
        Some(shape::lines(&self.language.notice.take, column, |slot, column| match slot {
            "before" => Fill::Lines(made.each(column)),
            "sets" => Fill::Lines(made.sets(column)),
            "fresh" => Fill::Text(self.given.notice.fresh.clone()),
            slot => self.slot(slot, column),
        }))
    }
}

/// The constants and functions of the kernel that are needed, after what a language writes out.
fn kernel_items(
    printer: &Printer<'_>,
    needs: &BTreeSet<String>,
    written: BTreeSet<Operation>,
    column: usize,
) -> Vec<Item> {
    let constants = KERNEL.constants.iter().filter(|constant| needs.contains(&constant.name));
    let constants = constants.flat_map(|one| item(&printer.print_constant(&one.name), column));
    let mut items = vec![constants.collect()];
    items.extend(written.into_iter().map(|own| item(&printer.print_written(own), column)));
    let functions = KERNEL.functions.iter().filter(|function| needs.contains(&function.name));
    items.extend(functions.map(|function| item(&printer.print_function(function), column)));
    items
}

/// Functions of the kernel in a language, with all that they use.
pub fn kernel(language: &Language, needed: impl IntoIterator<Item = String>) -> String {
    let printer = Printer::new(language, &KERNEL, "", 0);
    let needs = kernel_needs(needed);
    let functions = KERNEL.functions.iter().filter(|function| needs.contains(&function.name));
    let written = functions.flat_map(|function| printer.written(function)).collect();
    apart(kernel_items(&printer, &needs, written, 0)).join("\n") + "\n"
}

/// A field on its way to its declaration.
struct Declared<'d> {
    name: &'d str,
    suffixes: &'d [String],
    ty: Type,
    about: &'d str,
    count: Option<u32>,
    slots: usize,
    public: bool,
}

/// Items with an empty line between each two.
fn apart(items: impl IntoIterator<Item = Item>) -> Vec<String> {
    let mut all = Vec::new();
    for lines in items.into_iter().filter(|lines| !lines.is_empty()) {
        if !all.is_empty() {
            all.push(String::new());
        }
        all.extend(lines);
    }
    all
}

/// The lines of a declaration that was printed at a column.
fn item(text: &str, column: usize) -> Item {
    let margin = " ".repeat(column);
    let line = |line: &str| line.strip_prefix(&margin).unwrap_or(line.trim_start()).to_owned();
    text.trim_end().lines().map(line).collect()
}

/// The fields of a light's lamp; what it is called where one is read, or where many are.
fn lamp_names(light: &LightPlan, language: &Language, many: usize) -> LampNames {
    let field = |field: &FieldPlan| {
        let suffixes: &[&str] = if field.parts.len() > 1 { field.suffixes } else { &[] };
        let suffixes: Vec<String> = suffixes.iter().map(|part| part.to_ascii_uppercase()).collect();
        let name = cased(&field.name, language.names.fields);
        (Namer::avoiding(language.reserved(), &name), suffixes, field.flag)
    };
    let fields: Vec<(String, Vec<String>, bool)> = light.fields.iter().map(field).collect();
    let fresh = fresh(
        language,
        fields.iter().map(|(name, suffixes, flag)| (name.as_str(), suffixes.len(), *flag)),
    );
    LampNames {
        lamp: language.read.lamp[many].clone(),
        fields: fields.into_iter().map(|(name, suffixes, _)| (name, suffixes)).collect(),
        own: language.read.own.clone(),
        fresh,
    }
}

fn fresh<'f>(language: &Language, fields: impl Iterator<Item = (&'f str, usize, bool)>) -> String {
    let Some([number, flag, parts]) = &language.record.fresh else { return String::new() };
    let each = fields.map(|(name, count, is_flag)| {
        let pattern = match (count, is_flag) {
            (0, true) => flag,
            (0, false) => number,
            _ => parts,
        };
        pattern.fill(&[("field", name)])
    });
    each.collect::<Vec<_>>().join(", ")
}

/// The fields of a notice.
fn notice_names(plan: &Plan, language: &Language, names: &FileNames) -> LampNames {
    let own = notice_fields(plan);
    let common = own.len() - plan.notice_values.len();
    let fields = own.iter().enumerate().map(|(n, field): (usize, &NoticeField)| {
        let name = match n.checked_sub(common) {
            Some(value) => names.notice_values[value].clone(),
            None => {
                let name = cased(&field.name, language.names.fields);
                Namer::avoiding(language.reserved(), &name)
            }
        };
        let suffixes = field.suffixes.iter().map(|part| part.to_ascii_uppercase()).collect();
        (name, suffixes)
    });
    LampNames {
        lamp: "notice".to_owned(),
        fields: fields.collect(),
        own: language.notice.own.clone(),
        fresh: String::new(),
    }
}
