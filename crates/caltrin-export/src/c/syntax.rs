//! How C spells things.

use crate::language::{self, Language};
use crate::names::Case;
use crate::number;
use crate::plan::{FieldPlan, InputPlan};
use crate::print::{InputNames, LightNames, NoticeSyntax, SelfTestSpelling, Syntax, about_value};

/// How C spells things.
pub(super) struct Ansi;

impl Syntax for Ansi {
    const FUNCTIONS: Case = Case::Snake;
    const TYPES: Case = Case::Snake;
    const TABLES: Case = Case::Snake;
    const LOCALS: Case = Case::Snake;
    const FIELDS: Case = Case::Snake;
    const CONSTANTS: Case = Case::Screaming;
    const INDENT: &'static str = "    ";

    fn language(&self) -> &'static Language {
        &language::C
    }

    fn number(&self, v: f64) -> String {
        number::double(v)
    }

    fn word(&self, v: u32) -> String {
        number::word(v) + "u"
    }

    fn input(&self, input: &InputNames, index: Option<&str>, part: Option<usize>) -> String {
        let index = index.map_or(String::new(), |index| format!("[{index}]"));
        let part = part.map_or(String::new(), |part| format!("[{part}]"));
        format!("run->{}{index}{part}", input.field)
    }
}

impl NoticeSyntax for Ansi {
    fn notice_parameter(&self, input: &InputPlan, name: &str) -> String {
        format!(", {} {name}", if input.flag { "bool" } else { "double" })
    }

    fn notice_field(&self, input: &InputPlan, field: &str) -> Vec<String> {
        let ty = if input.flag { "bool" } else { "float" };
        let parts = if input.suffixes.is_empty() { "" } else { "[3]" };
        vec![format!("{ty} {field}{parts}; /* {} */", about_value(input))]
    }

    fn notice_taken(&self, input: &InputPlan, field: &str, kept: &[String]) -> Vec<String> {
        let single = |kept: &String| match input.flag {
            true => kept.clone(),
            false => format!("BOOK_to_single({kept})"),
        };
        let part = |n: usize| if kept.len() > 1 { format!("[{n}]") } else { String::new() };
        let each = kept.iter().enumerate();
        each.map(|(n, kept)| format!("notice->{field}{} = {};", part(n), single(kept))).collect()
    }

    fn notice_numbers(&self, input: &InputPlan, field: &str) -> Vec<String> {
        match (input.flag, input.suffixes) {
            (true, _) => vec![format!("(notice.{field} ? 1.0 : 0.0)")],
            (false, []) => vec![format!("(double)notice.{field}")],
            (false, _) => (0..3).map(|n| format!("(double)notice.{field}[{n}]")).collect(),
        }
    }
}

impl SelfTestSpelling for Ansi {
    const NAN: &'static str = "NAN";

    fn call(&self, name: &str, arguments: &str) -> String {
        let rest = if arguments.is_empty() { "" } else { ", " };
        format!("{name}(run{rest}{arguments});")
    }

    fn read_lamp(&self, names: &LightNames, index: Option<&str>) -> Vec<String> {
        let index = index.map_or(String::new(), |index| format!(", {index}"));
        vec![format!("const {} lamp = {}(run{index});", names.lamp, names.read)]
    }

    fn nth(&self, count: u32) -> String {
        format!("(uint32_t)(unit * {count}.0)")
    }

    fn widened(&self, field: &FieldPlan, n: usize) -> String {
        format!("(double)lamp.{}", super::part_of(field, n))
    }

    fn case(&self, n: usize, statement: &str) -> String {
        format!("    case {n}: {statement} break;")
    }
}
