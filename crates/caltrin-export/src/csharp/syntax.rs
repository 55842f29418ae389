//! How C# spells things.

use crate::language::{self, Language};
use crate::names::Case;
use crate::number;
use crate::plan::{FieldPlan, InputPlan};
use crate::print::{InputNames, LightNames, NoticeSyntax, SelfTestSpelling, Syntax, about_value};

/// How C# spells things.
pub(super) struct Cs;

impl Syntax for Cs {
    const FUNCTIONS: Case = Case::Pascal;
    const TYPES: Case = Case::Pascal;
    const TABLES: Case = Case::Pascal;
    const LOCALS: Case = Case::Camel;
    const FIELDS: Case = Case::Pascal;
    const CONSTANTS: Case = Case::Pascal;
    const MEMBERS: bool = true;
    const INDENT: &'static str = "    ";

    fn language(&self) -> &'static Language {
        &language::CSHARP
    }

    fn number(&self, v: f64) -> String {
        number::double(v)
    }

    fn word(&self, v: u32) -> String {
        number::word(v) + "u"
    }

    fn input(&self, input: &InputNames, index: Option<&str>, part: Option<usize>) -> String {
        let field = &input.field;
        match (index, part) {
            (None, None) => field.clone(),
            (None, Some(part)) => format!("{field}{}", input.suffixes[part].to_ascii_uppercase()),
            (Some(index), None) => format!("{field}.At({index})"),
            (Some(index), Some(part)) => format!("{field}.At(3u * {index} + {part}u)"),
        }
    }

    fn put(
        &self,
        input: &InputNames,
        index: Option<&str>,
        part: Option<usize>,
        value: &str,
    ) -> String {
        match (index, part) {
            (Some(index), None) => format!("{}.Put({index}, {value});", input.field),
            (Some(index), Some(part)) => {
                format!("{}.Put(3u * {index} + {part}u, {value});", input.field)
            }
            (None, _) => format!("{} = {value};", self.input(input, None, part)),
        }
    }
}

impl NoticeSyntax for Cs {
    fn notice_parameter(&self, input: &InputPlan, name: &str) -> String {
        format!(", {} {name}", if input.flag { "bool" } else { "double" })
    }

    fn notice_field(&self, input: &InputPlan, field: &str) -> Vec<String> {
        let ty = if input.flag { "bool" } else { "float" };
        let names = notice_parts(input, field).join(", ");
        vec![format!("public {ty} {names}; // {}", about_value(input))]
    }

    fn notice_taken(&self, input: &InputPlan, field: &str, kept: &[String]) -> Vec<String> {
        let single = |kept: &String| match input.flag {
            true => kept.clone(),
            false => format!("ToSingle({kept})"),
        };
        let parts = notice_parts(input, field);
        let each = parts.iter().zip(kept);
        each.map(|(part, kept)| format!("notice.{part} = {};", single(kept))).collect()
    }

    fn notice_numbers(&self, input: &InputPlan, field: &str) -> Vec<String> {
        if input.flag {
            return vec![format!("(notice.{field} ? 1.0 : 0.0)")];
        }
        let parts = notice_parts(input, field);
        parts.iter().map(|part| format!("(double)notice.{part}")).collect()
    }
}

/// The fields of a notice that a value takes.
fn notice_parts(input: &InputPlan, field: &str) -> Vec<String> {
    match input.suffixes {
        [] => vec![field.to_owned()],
        parts => parts.iter().map(|part| format!("{field}{}", part.to_ascii_uppercase())).collect(),
    }
}

impl SelfTestSpelling for Cs {
    const NAN: &'static str = "double.NaN";

    fn call(&self, name: &str, arguments: &str) -> String {
        format!("run.{name}({arguments});")
    }

    fn read_lamp(&self, names: &LightNames, index: Option<&str>) -> Vec<String> {
        let Some(index) = index else {
            return vec![format!("{} lamp = run.{}();", names.lamp, names.read)];
        };
        vec![
            format!("var lamps = new[] {{ run.{}({index}) }};", names.read),
            format!("if (n % 2u == 1u) run.{}({index}, lamps);", names.fill),
            format!("{} lamp = lamps[0];", names.lamp),
        ]
    }

    fn nth(&self, count: u32) -> String {
        format!("(uint)(unit * {count}.0)")
    }

    fn widened(&self, field: &FieldPlan, n: usize) -> String {
        let part = super::part_of(field, n);
        if field.flag { format!("lamp.{part} ? 1.0 : 0.0") } else { format!("(double)lamp.{part}") }
    }

    fn case(&self, n: usize, statement: &str) -> String {
        format!("        case {n}u: {statement} break;")
    }
}
