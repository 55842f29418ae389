//! Shader files.

use std::sync::Arc;

use crate::ir::{Operation, Type};
use crate::language::shape::{self, Fill};
use crate::language::{GivenNames, LampNames, Language, Pattern, Printer, ShaderPatterns};
use crate::names::{Case, Namer, cased};
use crate::plan::{FieldPlan, Plan};
use crate::print::{at_line, describe_light};

use super::{Shader, ShaderLight, TOLERANCE, WINDOW};

/// The names of a light in a file.
#[derive(Clone, Debug)]
pub struct LightNames {
    /// The type of its lamps.
    pub lamp_type: String,
    /// The function that computes one.
    pub read: String,
    /// The fields of a lamp.
    pub lamp: LampNames,
}

/// The names of a file, in the order of [`Shader::frame`] and [`Shader::lights`].
#[derive(Clone, Debug)]
pub struct Names {
    /// The type of a frame.
    pub frame_type: String,
    /// Its fields.
    pub fields: Vec<String>,
    /// The lights.
    pub lights: Vec<LightNames>,
}

/// The names of a file; `None` if the language file has no `[shader]`.
pub fn names(shader: &Shader, plan: &Plan, language: &Language) -> Option<Names> {
    let file = ShaderFile::of(shader, plan, language)?;
    let fields = shader.frame.iter().map(|field| file.field_name(&field.name).to_owned());
    let fields = fields.collect();
    Some(Names { frame_type: file.frame_type, fields, lights: file.lights })
}

/// A shader file being printed.
pub(crate) struct ShaderFile<'s> {
    pub shader: &'s Shader,
    plan: &'s Plan,
    language: &'s Language,
    patterns: &'s ShaderPatterns,
    given: Arc<GivenNames>,
    pub slots: Vec<(String, String)>,
    pub frame_type: String,
    pub lights: Vec<LightNames>,
}

/// The name of a file.
pub fn file_name(plan: &Plan, language: &Language) -> String {
    crate::file::file_name(plan, language)
}

/// The text of a file; empty if the language file has no `[shader]`.
pub fn print(shader: &Shader, plan: &Plan, language: &Language) -> String {
    match ShaderFile::of(shader, plan, language) {
        Some(file) => file.print(),
        None => String::new(),
    }
}

impl<'s> ShaderFile<'s> {
    /// A file; `None` if the language file has no `[shader]`.
    pub fn of(shader: &'s Shader, plan: &'s Plan, language: &'s Language) -> Option<Self> {
        let patterns = language.shader.as_ref()?;
        let slots = crate::file::slots(plan, language);
        let filled = |pattern: &Pattern, more: &[(&str, &str)]| {
            let mut values: Vec<(&str, &str)> =
                slots.iter().map(|(name, text)| (name.as_str(), text.as_str())).collect();
            values.extend_from_slice(more);
            pattern.fill(&values)
        };
        let prefix = filled(&Pattern::read("{prefix}"), &[]);
        let mut namer = Namer::without(language.reserved());
        let written = language.written.values().map(|own| own.name.as_str());
        for name in written {
            namer.take(&format!("{prefix}{}", cased(name, language.names.functions)));
        }
        let mut given = GivenNames { slots: slots.clone(), ..GivenNames::default() };
        for function in &shader.module.functions {
            let n = function.name.strip_prefix("book ").and_then(|n| n.parse::<usize>().ok());
            let name = n.map_or(&function.name, |n| &plan.functions[n].name);
            let name = format!("{prefix}{}", cased(name, language.names.functions));
            given.functions.insert(function.name.clone(), namer.take(&name));
        }
        for constant in &shader.module.constants {
            namer.take(&cased(&format!("{prefix}{}", constant.name), language.names.constants));
        }
        for table in &shader.module.tables {
            let name = cased(&format!("{prefix}{}", table.name), language.names.tables);
            given.tables.insert(table.name.clone(), namer.take(&name));
        }
        let mut fields = Namer::without(language.reserved());
        for field in &shader.frame {
            let name = fields.take(&cased(&field.name, language.names.fields));
            given.fields.insert(field.name.clone(), (name, Vec::new()));
        }
        let frame_type = namer.take(&filled(&patterns.frame_type, &[]));
        let lights = shader.lights.iter().map(|light| {
            let name = &plan.lights[light.place].name;
            let snake = cased(name, Case::Snake);
            let pascal = cased(name, Case::Pascal);
            let of_light = [("light", snake.as_str()), ("light_pascal", pascal.as_str())];
            let lamp_type = namer.take(&filled(&patterns.lamp_type, &of_light));
            let read = namer.take(&filled(&patterns.read_name, &of_light));
            LightNames { lamp: lamp(plan, light, language), lamp_type, read }
        });
        let lights = lights.collect();
        let given = Arc::new(given);
        Some(ShaderFile { shader, plan, language, patterns, given, slots, frame_type, lights })
    }

    /// The name of a frame field.
    pub fn field_name(&self, name: &str) -> &str {
        &self.given.fields[name].0
    }

    pub fn print(&self) -> String {
        let lines = shape::lines(&self.language.file.text, 0, |slot, at| self.slot(slot, at));
        shape::tidy(lines).join("\n") + "\n"
    }

    pub fn printer(&self, column: usize) -> Printer<'_> {
        let prefix = self.slots.iter().find(|(name, _)| name == "prefix");
        let prefix = prefix.map_or("", |(_, prefix)| prefix.as_str());
        Printer::new(self.language, &self.shader.module, prefix, column)
            .named_by(Arc::clone(&self.given))
    }

    /// The content of a slot of the file.
    fn slot(&self, name: &str, column: usize) -> Fill {
        match name {
            "items" => Fill::Lines(self.items()),
            "shown" => Fill::Lines(self.shown(column)),
            "excluded" => Fill::Lines(self.excluded(column)),
            "frame_type" => Fill::Text(self.frame_type.clone()),
            "frame_bytes" => Fill::Text((4 * self.shader.frame.len()).to_string()),
            "near" => Fill::Text(format!("1/{}", 1.0 / TOLERANCE)),
            "window" => Fill::Text(format!("{:.0}", WINDOW * 1e6)),
            name => {
                let found = self.slots.iter().find(|(slot, _)| slot == name);
                Fill::Text(found.map_or(String::new(), |(_, text)| text.clone()))
            }
        }
    }

    /// The measured deviation of each light.
    fn shown(&self, column: usize) -> Vec<String> {
        let each = self.shader.lights.iter().zip(&self.lights).map(|(light, names)| {
            let hours = light.deviation.horizon / 3600.0;
            let hours =
                if hours == 1.0 { "1 hour".to_owned() } else { format!("{hours:.0} hours") };
            let worst = light.deviation.worst;
            let apart = if worst == 0.0 { "0".to_owned() } else { format!("{worst:.1e}") };
            match worst.is_finite() {
                true => format!("{}: {apart} in {hours}", names.read),
                false => format!("{}: not measured", names.read),
            }
        });
        let each: Vec<String> = each.collect();
        self.wrapped(&each, column)
    }

    fn excluded(&self, column: usize) -> Vec<String> {
        let all = self.shader.exclusions();
        if all.is_empty() {
            return vec!["nothing".to_owned()];
        }
        let all: Vec<String> = all.iter().map(|line| crate::names::comment(line)).collect();
        self.wrapped(&all, column)
    }

    /// Wraps lines of a comment.
    fn wrapped(&self, all: &[String], column: usize) -> Vec<String> {
        let room = self.language.layout.width.saturating_sub(column);
        let lines = all.iter().flat_map(|line| crate::document::paragraph(line, "", "    ", room));
        lines.map(|line| line.trim_end().to_owned()).collect()
    }

    /// All declarations, with an empty line between each two.
    fn items(&self) -> Vec<String> {
        let printer = self.printer(0);
        let module = &self.shader.module;
        let mut items: Vec<String> = Vec::new();
        let constants = module.constants.iter().map(|one| printer.print_constant(&one.name));
        items.push(constants.collect());
        let functions = || {
            let lights = self.shader.lights.iter().map(|light| &light.function);
            module.functions.iter().chain(lights)
        };
        let mut written: Vec<Operation> =
            functions().flat_map(|function| printer.written(function)).collect();
        written.sort();
        written.dedup();
        items.extend(written.into_iter().map(|operation| printer.print_written(operation)));
        items.extend(module.tables.iter().map(|table| self.table(&printer, table)));
        items.extend(module.functions.iter().map(|function| printer.print_function(function)));
        items.push(self.frame());
        for (light, names) in self.shader.lights.iter().zip(&self.lights) {
            items.push(self.light(light, names, &self.patterns.lamp));
            items.push(self.light(light, names, &self.patterns.read));
        }
        let mut lines: Vec<String> = Vec::new();
        for item in items.iter().filter(|item| !item.trim().is_empty()) {
            if !lines.is_empty() {
                lines.push(String::new());
            }
            lines.extend(item.trim_end().lines().map(str::to_owned));
        }
        lines
    }

    fn table(&self, printer: &Printer<'_>, table: &crate::ir::Table) -> String {
        let pattern = match table.entries.ty() {
            Type::Words => &self.language.table.words,
            _ => &self.language.table.numbers,
        };
        let mut lines = match table.about.is_empty() {
            true => Vec::new(),
            false => self.language.comment_lines(&table.about, 0),
        };
        lines.extend(shape::lines(pattern, 0, |slot, at| match slot {
            "name" => Fill::Text(printer.table_name(&table.name)),
            "count" => Fill::Text(table.entries.count().to_string()),
            "entries" => Fill::Lines(printer.entries(table, at)),
            slot => self.slot(slot, at),
        }));
        lines.join("\n")
    }

    fn frame(&self) -> String {
        let lines = shape::lines(&self.patterns.frame, 0, |slot, at| match slot {
            "fields" => {
                let fields = self.shader.frame.iter().flat_map(|field| {
                    let name = &self.given.fields[&field.name].0;
                    let ty = self.language.type_name(field.ty);
                    self.field(&self.patterns.field, (ty, name), &field.about, at)
                });
                Fill::Lines(fields.collect())
            }
            slot => self.slot(slot, at),
        });
        lines.join("\n")
    }

    /// A field with its comment, at the end of its line or before it.
    fn field(
        &self,
        pattern: &Pattern,
        (ty, name): (&str, &str),
        about: &str,
        column: usize,
    ) -> Vec<String> {
        let line = pattern.fill(&[("type", ty), ("field", name)]);
        if about.is_empty() {
            return vec![line];
        }
        let about_end = self.patterns.comment.fill(&[("about", &self.language.escaped(about))]);
        let whole = format!("{line}{about_end}");
        if column + whole.chars().count() <= self.language.layout.width {
            return vec![whole];
        }
        let mut lines = self.language.comment_lines(about, column);
        lines.push(line);
        lines
    }

    /// Fills the pattern of a light's struct or function.
    fn light(&self, light: &ShaderLight, names: &LightNames, shape: &Pattern) -> String {
        let plan = &self.plan.lights[light.place];
        let printer = self.printer(0);
        let made = printer.made(&light.function, 0, &names.lamp);
        let about = format!("{}{}", describe_light(plan), at_line(&plan.note, self.plan));
        let lines = shape::lines(shape, 0, |slot, at| match slot {
            "comment" => Fill::Lines(self.language.comment_lines(&about, at)),
            "lamp_type" => Fill::Text(names.lamp_type.clone()),
            "read" => Fill::Text(names.read.clone()),
            "parameters" => {
                let own = made.parameters();
                let own = own.iter().map(|parameter| format!(", {parameter}"));
                Fill::Text(own.collect())
            }
            "each" => Fill::Lines(made.each(at)),
            "sets" => Fill::Lines(made.sets(at)),
            "fields" => {
                let fields = plan.fields.iter().zip(&names.lamp.fields);
                let fields = fields.flat_map(|(field, (name, suffixes))| {
                    let ty = match (field.flag, suffixes.len()) {
                        (true, _) => self.language.type_name(Type::Bool),
                        (false, 0) => self.language.type_name(Type::F64),
                        (false, _) => self.patterns.three.as_str(),
                    };
                    self.field(&self.patterns.field, (ty, name), &field.about, at)
                });
                Fill::Lines(fields.collect())
            }
            slot => self.slot(slot, at),
        });
        lines.join("\n")
    }
}

/// The field names of a lamp.
fn lamp(plan: &Plan, light: &ShaderLight, language: &Language) -> LampNames {
    let mut namer = Namer::without(language.reserved());
    let fields = plan.lights[light.place].fields.iter().map(|field: &FieldPlan| {
        let suffixes: &[&str] = if field.parts.len() > 1 { field.suffixes } else { &[] };
        let suffixes = suffixes.iter().map(|part| (*part).to_owned()).collect();
        (namer.take(&cased(&field.name, language.names.fields)), suffixes)
    });
    LampNames {
        lamp: "lamp".to_owned(),
        fields: fields.collect(),
        own: ["lamp", "frame"].map(str::to_owned).into(),
        fresh: String::new(),
    }
}
