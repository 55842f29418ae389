//! How JavaScript spells things.

use crate::language::{self, Language};
use crate::names::Case;
use crate::number;
use crate::plan::{FieldPlan, InputPlan};
use crate::print::{InputNames, LightNames, NoticeSyntax, SelfTestSpelling, Syntax, notice_member};

/// How JavaScript spells things.
pub(super) struct Js;

impl Syntax for Js {
    const FUNCTIONS: Case = Case::Camel;
    const TYPES: Case = Case::Pascal;
    const TABLES: Case = Case::Camel;
    const LOCALS: Case = Case::Camel;
    const FIELDS: Case = Case::Camel;
    const CONSTANTS: Case = Case::Screaming;
    const INDENT: &'static str = "  ";

    fn language(&self) -> &'static Language {
        &language::JAVASCRIPT
    }

    fn number(&self, v: f64) -> String {
        number::double(v)
    }

    fn word(&self, v: u32) -> String {
        number::word(v)
    }

    fn input(&self, input: &InputNames, index: Option<&str>, part: Option<usize>) -> String {
        let index = index.map_or(String::new(), |index| format!("[{index}]"));
        let part = part.map_or(String::new(), |part| format!("[{part}]"));
        format!("run.{}{index}{part}", input.field)
    }
}

impl NoticeSyntax for Js {
    fn notice_parameter(&self, _: &InputPlan, name: &str) -> String {
        format!(", {name}")
    }

    /// The type of a notice is documented in one line.
    fn notice_field(&self, _: &InputPlan, _: &str) -> Vec<String> {
        Vec::new()
    }

    fn notice_taken(&self, input: &InputPlan, field: &str, kept: &[String]) -> Vec<String> {
        notice_member(input, field, kept, "toSingle")
    }

    fn notice_numbers(&self, input: &InputPlan, field: &str) -> Vec<String> {
        match (input.flag, input.suffixes) {
            (true, _) => vec![format!("Number(notice.{field})")],
            (false, []) => vec![format!("notice.{field}")],
            (false, _) => (0..3).map(|n| format!("notice.{field}[{n}]")).collect(),
        }
    }
}

impl SelfTestSpelling for Js {
    const SCRATCH: &'static str = ", bits";
    const NAN: &'static str = "NaN";

    fn call(&self, name: &str, arguments: &str) -> String {
        let rest = if arguments.is_empty() { "" } else { ", " };
        format!("{name}(run{rest}{arguments});")
    }

    fn read_lamp(&self, names: &LightNames, index: Option<&str>) -> Vec<String> {
        let Some(index) = index else {
            return vec![format!("const lamp = {}(run);", names.read)];
        };
        vec![
            format!("const lamp = {}(run, {index});", names.read),
            format!("if (n % 2 === 1) {}(run, {index}, [lamp]);", names.fill),
        ]
    }

    fn nth(&self, count: u32) -> String {
        format!("Math.floor(unit * {count})")
    }

    fn widened(&self, field: &FieldPlan, n: usize) -> String {
        let part = super::part_of(field, n);
        if field.flag { format!("Number(lamp.{part})") } else { format!("lamp.{part}") }
    }

    fn case(&self, n: usize, statement: &str) -> String {
        format!("    case {n}: {statement} break;")
    }
}
