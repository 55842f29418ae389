//! The self-test of a file.

use super::{FileNames, LightNames, NoticeSyntax, notice_numbers};
use crate::names::cased;
use crate::plan::{
    ACT_SALT, FieldPlan, Given, HOURS_TRIED, LightPlan, Nth, OPEN_STEP, Plan, TestAct,
};
use caltrin_core::program::Size;

/// How a language spells what only the self-test needs.
pub trait SelfTestSpelling: NoticeSyntax {
    /// What the checksum function is given besides the sum and the value.
    const SCRATCH: &'static str = "";
    /// What is not a number.
    const NAN: &'static str;
    /// The statement that calls a function of the file with these arguments on `run`.
    fn call(&self, name: &str, arguments: &str) -> String;
    /// The statements that read a lamp of `run` into `lamp`; of one of many, every other reading reads as many do.
    fn read_lamp(&self, names: &LightNames, index: Option<&str>) -> Vec<String>;
    /// One of so many by `unit`, a chance of 0 to 1.
    fn nth(&self, count: u32) -> String;
    /// The `n`-th part of a field of `lamp` as a double.
    fn widened(&self, field: &FieldPlan, n: usize) -> String;
    /// A case of the acts: its number, and the statement.
    fn case(&self, n: usize, statement: &str) -> String;
}

/// The self-test in a language. Lines of the template that end in `//: acts`, `//: clock`, `//: notices`, `//: indexed`, `//: single`, `//: empty`,
/// `//: chance`, `//: sure` or `//: quiet` stand where the game can do something, there is a clock, the book sends notices, a light is an array, none is, there is nothing to
/// read, some act or none takes a chance, or the game can do nothing.
pub fn self_test_code<S: SelfTestSpelling>(
    syntax: &S,
    plan: &Plan,
    names: &FileNames,
    prefix: &str,
    template: &str,
) -> String {
    let test = &plan.self_test;
    let indexed = plan.lights.iter().any(LightPlan::is_array);
    let function = |name: &str| format!("{prefix}{}", cased(name, S::FUNCTIONS));
    let reads = reads(syntax, plan, names, &function("checksum"));
    let cases = cases(syntax, plan, names, function);
    let chance = cases.contains("unit");
    let stands = [
        (" //: acts", !test.acts.is_empty()),
        (" //: chance", chance && !test.acts.is_empty()),
        (" //: sure", !chance && !test.acts.is_empty()),
        (" //: quiet", test.acts.is_empty()),
        (" //: clock", plan.clock.is_some()),
        (" //: notices", test.notices.is_some()),
        (" //: indexed", indexed),
        (" //: single", !indexed),
        (" //: empty", reads.is_empty() && test.notices.is_none()),
    ];
    let carried = notice_numbers(syntax, plan, names);
    let mut code = String::new();
    for line in template.lines() {
        let mark = stands.iter().find(|(mark, _)| line.ends_with(mark));
        if mark.is_none_or(|(_, stands)| *stands) {
            let line = mark.map_or(line, |(mark, _)| line.trim_end_matches(mark));
            if line.contains("NOTICE_VALUE") {
                for value in &carried {
                    code.push_str(&line.replace("NOTICE_VALUE", value));
                    code.push('\n');
                }
                continue;
            }
            code.push_str(line);
            code.push('\n');
        }
    }
    let numbers =
        |all: &[f64]| all.iter().map(|v| syntax.number(*v)).collect::<Vec<_>>().join(", ");
    let words =
        |all: Vec<u32>| all.into_iter().map(|v| syntax.word(v)).collect::<Vec<_>>().join(", ");
    let sums: Vec<u32> = test.sums.iter().copied().chain(test.notices).collect();
    // A list that is empty is none in C; a book that drives nothing and sends nothing compares a 0.
    let sums = if sums.is_empty() { vec![0] } else { sums };
    code.replace("READS\n", &reads)
        .replace("CASES", &cases)
        .replace("SEEDS", &words(test.seeds.to_vec()))
        .replace("MOMENT_COUNT", &syntax.word(test.moments.len() as u32))
        .replace("MOMENTS", &numbers(&test.moments))
        .replace("WAIT_COUNT", &syntax.word(test.waits.len() as u32))
        .replace("WAITS", &numbers(&test.waits))
        .replace("ACT_COUNT", &syntax.word(test.acts.len() as u32))
        .replace("STEP_COUNT", &syntax.word(test.steps))
        .replace("ACT_SALT", &syntax.word(ACT_SALT))
        .replace("HOUR_COUNT", &syntax.word(HOURS_TRIED))
        .replace("NOTICE_SUM", &test.sums.len().to_string())
        .replace("SUM_COUNT", &syntax.word(sums.len() as u32))
        .replace("SUMS", &words(sums))
}

/// What reads one lamp of each light.
fn reads<S: SelfTestSpelling>(
    syntax: &S,
    plan: &Plan,
    names: &FileNames,
    checksum: &str,
) -> String {
    let mut out = String::new();
    for (n, (light, names)) in plan.lights.iter().zip(&names.lights).enumerate() {
        let index = match light.size {
            Size::One => None,
            Size::Many(count) => Some(format!("turn % {}", syntax.word(count))),
            Size::Open => Some(format!("turn * {}", syntax.word(OPEN_STEP))),
        };
        let mut block = syntax.read_lamp(names, index.as_deref());
        let before = block.len();
        for field in &light.fields {
            let parts = 0..field.parts.len();
            block.extend(parts.map(|part| {
                let value = syntax.widened(field, part);
                format!("sums[{n}] = {checksum}(sums[{n}], {value}{});", S::SCRATCH)
            }));
        }
        if block.len() > before {
            let indent = S::INDENT;
            out.push_str(&format!("{indent}{{\n"));
            block.iter().for_each(|line| out.push_str(&format!("{indent}{indent}{line}\n")));
            out.push_str(&format!("{indent}}}\n"));
        }
    }
    out
}

/// What the game does, one case an act.
fn cases<S: SelfTestSpelling>(
    syntax: &S,
    plan: &Plan,
    names: &FileNames,
    function: impl Fn(&str) -> String,
) -> String {
    let number = |given: Given| match given {
        Given::Number(v) if v.is_nan() => S::NAN.to_owned(),
        Given::Number(v) => syntax.number(v),
        Given::Chance(0.0, 1.0) => "unit".to_owned(),
        Given::Chance(0.0, span) => format!("{} * unit", syntax.number(span)),
        Given::Chance(from, span) if span < 0.0 => {
            format!("{} - {} * unit", syntax.number(from), syntax.number(-span))
        }
        Given::Chance(from, span) => {
            format!("{} + {} * unit", syntax.number(from), syntax.number(span))
        }
    };
    let values = |flags: &mut dyn Iterator<Item = bool>, all: &[Given]| -> Vec<String> {
        let each = flags.zip(all);
        let spell = |(flag, given): (bool, &Given)| match given {
            Given::Number(v) if flag => syntax.flag(*v != 0.0),
            Given::Chance(..) if flag => "unit < 0.5".to_owned(),
            given => number(*given),
        };
        each.map(spell).collect()
    };
    let nth = |nth: Nth| match nth {
        Nth::Fixed(n) => syntax.word(n),
        Nth::Chance(count) => syntax.nth(count),
    };
    let mut out = String::new();
    for (n, act) in plan.self_test.acts.iter().enumerate() {
        let clock = |name: &str, to: Given| syntax.call(&function(name), &number(to));
        let statement = match act {
            TestAct::Fire(place, index, all) => {
                let event = &plan.events[*place];
                let mut flags = event.values.iter().flat_map(|place| {
                    let input = &plan.inputs[*place];
                    std::iter::repeat_n(input.flag, input.default.len())
                });
                let index = event.count.map(|_| nth(*index));
                let all: Vec<String> = index.into_iter().chain(values(&mut flags, all)).collect();
                syntax.call(&names.events[*place].act, &all.join(", "))
            }
            TestAct::Set(place, index, all) => {
                let input = &plan.inputs[*place];
                let index = input.count.map(|_| nth(*index));
                let all = values(&mut std::iter::repeat_n(input.flag, all.len()), all);
                let all: Vec<String> = index.into_iter().chain(all).collect();
                syntax.call(&names.inputs[*place].set, &all.join(", "))
            }
            TestAct::Choose(place, option) => {
                syntax.call(&names.choices[*place].set, &syntax.word(*option))
            }
            TestAct::Clock(to) => clock("set_clock", *to),
            TestAct::Drive(to) => clock("drive_clock", *to),
            TestAct::Days(to) => clock("set_clock_days", *to),
            TestAct::Rate(to) => clock("set_clock_rate", *to),
        };
        out.push_str(&syntax.case(n, &statement));
        out.push('\n');
    }
    out
}
