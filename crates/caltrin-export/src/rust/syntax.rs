//! How Rust spells things.

use crate::language::{self, Language};
use crate::names::Case;
use crate::number;
use crate::plan::{FieldPlan, InputPlan};
use crate::print::{
    InputNames, LightNames, NoticeSyntax, SelfTestSpelling, Syntax, about_value, notice_member,
};

/// How Rust spells things.
pub(super) struct Rs;

impl Syntax for Rs {
    const FUNCTIONS: Case = Case::Snake;
    const TYPES: Case = Case::Pascal;
    const TABLES: Case = Case::Screaming;
    const LOCALS: Case = Case::Snake;
    const FIELDS: Case = Case::Snake;
    const CONSTANTS: Case = Case::Screaming;
    const INDENT: &'static str = "    ";

    fn language(&self) -> &'static Language {
        &language::RUST
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
        format!("self.{}{index}{part}", input.field)
    }

    fn place(&self, index: &str) -> String {
        match index.contains(' ') {
            true => format!("({index}) as usize"),
            false => format!("{index} as usize"),
        }
    }

    fn put(
        &self,
        input: &InputNames,
        index: Option<&str>,
        part: Option<usize>,
        value: &str,
    ) -> String {
        let index = index.map(|index| self.place(index));
        format!("{} = {value};", self.input(input, index.as_deref(), part))
    }
}

impl NoticeSyntax for Rs {
    fn notice_parameter(&self, input: &InputPlan, name: &str) -> String {
        format!(", {name}: {}", if input.flag { "bool" } else { "f64" })
    }

    fn notice_field(&self, input: &InputPlan, field: &str) -> Vec<String> {
        let ty = match (input.flag, input.suffixes) {
            (true, _) => "bool",
            (false, []) => "f32",
            (false, _) => "[f32; 3]",
        };
        vec![format!("/// {}", about_value(input)), format!("pub {field}: {ty},")]
    }

    fn notice_taken(&self, input: &InputPlan, field: &str, kept: &[String]) -> Vec<String> {
        notice_member(input, field, kept, "to_single")
    }

    fn notice_numbers(&self, input: &InputPlan, field: &str) -> Vec<String> {
        match (input.flag, input.suffixes) {
            (true, _) => vec![format!("f64::from(u8::from(notice.{field}))")],
            (false, []) => vec![format!("f64::from(notice.{field})")],
            (false, _) => (0..3).map(|n| format!("f64::from(notice.{field}[{n}])")).collect(),
        }
    }
}

impl SelfTestSpelling for Rs {
    const NAN: &'static str = "f64::NAN";

    fn call(&self, name: &str, arguments: &str) -> String {
        format!("run.{name}({arguments});")
    }

    fn read_lamp(&self, names: &LightNames, index: Option<&str>) -> Vec<String> {
        let Some(index) = index else { return vec![format!("let lamp = run.{}();", names.read)] };
        vec![
            format!("let mut lamp = run.{}({index});", names.read),
            "if n % 2 == 1 {".to_owned(),
            format!("    run.{}({index}, core::slice::from_mut(&mut lamp));", names.fill),
            "}".to_owned(),
        ]
    }

    fn nth(&self, count: u32) -> String {
        format!("(unit * {count}.0) as u32")
    }

    fn widened(&self, field: &FieldPlan, n: usize) -> String {
        let part = super::part_of(field, n);
        match field.flag {
            true => format!("f64::from(u8::from(lamp.{part}))"),
            false => format!("f64::from(lamp.{part})"),
        }
    }

    fn case(&self, n: usize, statement: &str) -> String {
        format!("        {n} => {statement}").trim_end_matches(';').to_owned() + ","
    }
}
