//! Languages as data: the kernel's tree is the kernel that the evaluator runs, functions of random statements give the
//! same bits in every language and in the tree's own walk, and mistakes in language files are told.

#[path = "../../caltrin-lang/tests/heard/mod.rs"]
mod heard;
mod script;

use std::fs;
use std::path::Path;
use std::process::Command;

use caltrin_core::kernel;
use caltrin_core::pure::Pure;
use caltrin_export::ir::fold::fold;
use caltrin_export::ir::share::{Sharing, share};
use caltrin_export::ir::walk::{Value, call};
use caltrin_export::ir::{
    Expr, Function, Local, LocalId, Module, Operation as Op, Receiver, Statement, Type, mark,
};
use caltrin_export::language::{self, Language, Printer};
use caltrin_export::print::KERNEL;

/// Random numbers that are the same everywhere.
struct Random(u32);

impl Random {
    fn next(&mut self) -> u32 {
        self.0 = self.0.wrapping_add(1);
        kernel::draw(0x51ab_0d2e, self.0)
    }

    fn below(&mut self, count: usize) -> usize {
        self.next() as usize % count
    }

    /// A number, often one at an edge.
    fn number(&mut self) -> f64 {
        const EDGES: [f64; 12] =
            [0.0, -0.0, 1.0, -1.0, 0.5, 1e-30, -1e-31, 1e9, -1e9, 2e9, 23.999999999999996, 1e-320];
        match self.below(4) {
            0 => EDGES[self.below(EDGES.len())],
            1 => f64::from(self.next() % 2000) / 8.0 - 100.0,
            2 => kernel::to_unit(self.next()),
            _ => (kernel::to_unit(self.next()) - 0.5) * 1e4,
        }
    }
}

/// A function that the evaluator runs, with its name.
type Named = (&'static str, fn(&[f64]) -> f64);

/// Functions of `f64` alone that the evaluator runs, besides those that a program has as functions of numbers.
const FUNCTIONS: [Named; 37] = [
    ("min", |a| kernel::min(a[0], a[1])),
    ("max", |a| kernel::max(a[0], a[1])),
    ("clamp", |a| kernel::clamp(a[0], a[1], a[2])),
    ("lerp", |a| kernel::lerp(a[0], a[1], a[2])),
    ("share", |a| kernel::share(a[0], a[1])),
    ("ease_smooth", |a| kernel::ease_smooth(a[0])),
    ("ease_steps", |a| kernel::ease_steps(a[0], a[1], a[2], a[3])),
    ("spread_ends", |a| kernel::spread_ends(a[0])),
    ("ease_bezier", |a| kernel::ease_bezier(a[0], a[1], a[2], a[3], a[4])),
    ("wrap_time", |a| kernel::wrap_time(a[0], a[1])),
    ("fold_time", |a| kernel::fold_time(a[0], a[1])),
    ("in_ball", |a| kernel::in_ball(a[0], a[1], a[2])),
    ("heading", |a| kernel::heading(a[0], a[1], a[2], a[3], a[4])),
    ("sine_of_turns", |a| kernel::sine_of_turns(a[0])),
    ("sine_level", |a| kernel::sine_level(a[0])),
    ("triangle_level", |a| kernel::triangle_level(a[0])),
    ("saw_level", |a| kernel::saw_level(a[0])),
    ("square_level", |a| kernel::square_level(a[0], a[1])),
    ("days_of", |a| kernel::days_of(a[0])),
    ("hour_of", |a| kernel::hour_of(a[0])),
    ("arc_tangent", |a| kernel::arc_tangent(a[0], a[1])),
    ("sun_way", |a| kernel::sun_way(a[0])),
    ("axis_tilt", |a| kernel::axis_tilt(a[0])),
    ("sky_turn", |a| kernel::sky_turn(a[0], a[1])),
    ("sky_part", |a| kernel::sky_part(a[0], a[1], a[2], a[3], a[4])),
    ("sun_hour", |a| kernel::sun_hour(a[0], a[1], a[2], a[3], a[4])),
    ("cube_root", |a| kernel::cube_root(a[0].abs())),
    ("cone_l", |a| kernel::cone_root(0, [a[0], a[1], a[2]])),
    ("cone_m", |a| kernel::cone_root(1, [a[0], a[1], a[2]])),
    ("cone_s", |a| kernel::cone_root(2, [a[0], a[1], a[2]])),
    ("light_r", |a| kernel::light_of(0, [a[0], a[1], a[2]])),
    ("light_g", |a| kernel::light_of(1, [a[0], a[1], a[2]])),
    ("light_b", |a| kernel::light_of(2, [a[0], a[1], a[2]])),
    ("faded", |a| kernel::faded(a[0], a[1], a[2], a[3], a[4])),
    ("clean_moment", |a| kernel::clean_moment(a[0])),
    ("clean_input", |a| kernel::clean_input(a[0], a[1], a[2], a[3])),
    ("to_output", |a| f64::from(kernel::to_output(a[0]))),
];

/// The value of a double or single, with one bit pattern for every NaN.
fn number(value: &Value) -> u64 {
    let v = match value {
        Value::Number(v) => *v,
        Value::Single(v) => f64::from(*v),
        _ => panic!("not a number: {value:?}"),
    };
    if v.is_nan() { u64::MAX } else { v.to_bits() }
}

#[test]
fn the_tree_of_the_kernel_is_the_kernel_that_the_evaluator_runs() {
    let mut random = Random(0);
    type Function = Box<dyn Fn(&[f64]) -> f64>;
    let named =
        FUNCTIONS.into_iter().map(|(name, function)| (name, Box::new(function) as Function));
    let plain = Pure::ALL.iter().filter(|pure| pure.first().is_none());
    let pure = plain.map(|pure| (pure.kernel(), Box::new(|a: &[f64]| pure.at(a)) as Function));
    for (name, function) in named.chain(pure) {
        let takes = KERNEL.function(name).expect("it is in the kernel").parameters;
        let mut compared = 0;
        for _ in 0..2_000 {
            let mut given: Vec<f64> = (0..takes).map(|_| random.number()).collect();
            if name == "cube_root" {
                given[0] = given[0].abs();
            }
            let values = given.iter().map(|v| Value::Number(*v)).collect();
            // Where the tree is asked for something undefined, such as the floor of what is too large, it says so.
            if let Some(found) = call(&KERNEL, name, values, &mut 100_000) {
                let wanted = Value::Number(function(&given));
                assert_eq!(number(&found), number(&wanted), "{name} of {given:?}");
                compared += 1;
            }
        }
        assert!(compared > 500, "{name}: {compared}");
    }
}

#[test]
fn the_chances_of_the_tree_are_those_of_the_evaluator() {
    let mut random = Random(7);
    let sums: Vec<f64> = (0..=64).map(|n| f64::from(n) * 0.51).collect();
    let words: Vec<u32> = (0..40).map(|n| (n * 977) << 8 | (n * 37 % 256)).collect();
    for _ in 0..3_000 {
        let (key, place, n) = (random.next(), random.next(), random.next());
        let t = (kernel::to_unit(random.next()) - 0.5) * 1e5;
        let jitter = 0.5 * kernel::to_unit(random.next());
        let walk = |name: &str, values: Vec<Value>| {
            call(&KERNEL, name, values, &mut 100_000).unwrap_or_else(|| panic!("{name} is defined"))
        };
        use Value::{Int, Number, Numbers, Word, Words};
        assert_eq!(walk("scramble", vec![Word(key)]), Word(kernel::scramble(key)));
        let keyed = walk("chance_key", vec![Word(key), Word(place)]);
        assert_eq!(keyed, Word(kernel::chance_key(key, place)));
        assert_eq!(walk("lamp_key", vec![Word(key), Word(n)]), Word(kernel::lamp_key(key, n)));
        assert_eq!(walk("draw", vec![Word(key), Word(n)]), Word(kernel::draw(key, n)));
        let held = vec![Number(t), Word(key), Number(6.5), Number(jitter)];
        let wanted = kernel::held_level(t, key, 6.5, jitter);
        assert_eq!(walk("held_level", held.clone()), Number(wanted));
        let soft = held.into_iter().chain([Number(0.4)]).collect();
        assert_eq!(walk("soft_level", soft), Number(kernel::soft_level(t, key, 6.5, jitter, 0.4)));
        assert_eq!(walk("noise", vec![Number(t), Word(key)]), Number(kernel::noise(t, key)));
        let octaves = n % 6 + 1;
        let drift = vec![Number(t), Word(key), Number(0.7), Int(octaves)];
        let wanted = kernel::drift_level(t, key, 0.7, octaves);
        assert_eq!(walk("drift_level", drift), Number(wanted));
        let mut burst = vec![Number(t), Word(key)];
        burst.extend([0.05, 0.4, 0.3, 2.0].map(Number));
        burst.extend([Numbers(sums.clone()), Numbers(sums.clone()), Int(64)]);
        let wanted = kernel::burst_level(t, key, [0.05, 0.4], [0.3, 2.0], &sums, &sums);
        assert_eq!(walk("burst_level", burst), Number(wanted));
        // The same among edges that are known, as many lanes are computed.
        let edge = |n: usize| kernel::burst_edge(n, [0.05, 0.4], [0.3, 2.0], &sums, &sums);
        assert_eq!(kernel::burst_among(t, key, 64, edge), wanted);
        let x = t / 700.0;
        let table = vec![Number(x), Numbers(sums.clone()), Int(64)];
        assert_eq!(walk("table_level", table.clone()), Number(kernel::table_level(x, &sums)));
        assert_eq!(walk("next_place", table), Number(kernel::next_place(x, &sums)));
        let envelope = vec![Number(t), Words(words.clone()), Int(39)];
        let wanted = kernel::envelope_level(t, &words);
        assert_eq!(walk("envelope_level", envelope), Number(wanted));
    }
}

/// A function of random statements over what it is given: two doubles, a word and an index below 8.
struct Grower<'r> {
    random: &'r mut Random,
    locals: Vec<Local>,
    /// Locals that have a value here.
    open: Vec<LocalId>,
    /// Locals that are not set here: counters.
    fixed: Vec<LocalId>,
}

impl Grower<'_> {
    fn grow(random: &mut Random, n: usize) -> Function {
        let parameters =
            [("a", Type::F64), ("b", Type::F64), ("bits", Type::Word), ("k", Type::Int)];
        let local = |(name, ty): (&str, Type)| Local {
            name: name.to_owned(),
            ty,
            changes: false,
            used: true,
        };
        let mut grower = Grower {
            random,
            locals: parameters.into_iter().map(local).collect(),
            open: (0..4).map(LocalId).collect(),
            // An index stays small, so that no count leaves its bounds.
            fixed: vec![LocalId(3)],
        };
        let mut body = grower.block(6, 3);
        let value = grower.expr(Type::F64, 4);
        body.push(Statement::Return(value));
        let mut function = Function {
            name: format!("grown_{n}"),
            about: String::new(),
            receiver: Receiver::None,
            public: false,
            parameters: 4,
            locals: grower.locals,
            result: Type::F64,
            body,
        };
        mark(&mut function);
        function
    }

    fn block(&mut self, count: usize, depth: usize) -> Vec<Statement> {
        let open = self.open.len();
        let block = (0..count).map(|_| self.statement(depth)).collect();
        self.open.truncate(open);
        block
    }

    fn statement(&mut self, depth: usize) -> Statement {
        let ty = [Type::F64, Type::F64, Type::Word, Type::Bool][self.random.below(4)];
        match self.random.below(if depth > 0 { 7 } else { 4 }) {
            0 | 1 => {
                let value = self.expr(ty, 3);
                let id = LocalId(self.locals.len());
                let name = ["level", "noise", "end", "step"][self.random.below(4)].to_owned();
                self.locals.push(Local { name, ty, changes: false, used: false });
                self.open.push(id);
                Statement::Let(id, value)
            }
            2 | 3 => {
                let Some(target) = self.known(ty, true) else { return self.statement(0) };
                let joined = match ty {
                    Type::F64 => [None, Some(Op::Add), Some(Op::Multiply)][self.random.below(3)],
                    Type::Word => {
                        [None, Some(Op::WordXor), Some(Op::WordAdd)][self.random.below(3)]
                    }
                    _ => None,
                };
                Statement::Assign(target, joined, self.expr(ty, 3))
            }
            4 => {
                let condition = self.expr(Type::Bool, 2);
                let then = self.block(2, depth - 1);
                let other = if self.random.below(2) == 0 { 0 } else { 2 };
                Statement::If(condition, then, self.block(other, depth - 1))
            }
            5 => {
                let counter = LocalId(self.locals.len());
                let local =
                    Local { name: "n".to_owned(), ty: Type::Int, changes: false, used: false };
                self.locals.push(local);
                self.open.push(counter);
                self.fixed.push(counter);
                let mut body = self.block(2, depth - 1);
                if self.random.below(2) == 0 {
                    let leaves = self.expr(Type::Bool, 1);
                    body.push(Statement::If(leaves, vec![Statement::Break], Vec::new()));
                }
                self.open.pop();
                let to = Expr::Int(self.random.next() % 5);
                Statement::For(counter, Expr::Int(0), to, body)
            }
            _ => {
                let condition = self.expr(Type::Bool, 2);
                let value = self.expr(Type::F64, 3);
                Statement::If(condition, vec![Statement::Return(value)], Vec::new())
            }
        }
    }

    fn known(&mut self, ty: Type, set: bool) -> Option<LocalId> {
        let known = |id: &&LocalId| self.locals[id.0].ty == ty && !(set && self.fixed.contains(id));
        let all: Vec<LocalId> = self.open.iter().filter(known).copied().collect();
        (!all.is_empty()).then(|| all[self.random.below(all.len())])
    }

    fn expr(&mut self, ty: Type, depth: usize) -> Expr {
        if depth == 0 || self.random.below(5) == 0 {
            if let (Some(id), true) = (self.known(ty, false), self.random.below(4) > 0) {
                return Expr::Local(id);
            }
            return match ty {
                Type::Word => Expr::Word(self.random.next()),
                Type::Int => Expr::Int(self.random.next() % 9),
                Type::Bool => Expr::Flag(self.random.below(2) == 0),
                _ => Expr::Number(self.random.number()),
            };
        }
        let choices: &[Op] = match ty {
            Type::F64 => &[
                Op::Add,
                Op::Subtract,
                Op::Multiply,
                Op::Divide,
                Op::Negate,
                Op::Select,
                Op::WordToNumber,
                Op::IntToNumber,
            ],
            Type::Word => &[
                Op::WordAdd,
                Op::WordSubtract,
                Op::WordMultiply,
                Op::WordXor,
                Op::WordAnd,
                Op::ShiftRight,
                Op::Select,
            ],
            Type::Int => &[Op::IntAdd, Op::IntMultiply, Op::IntDivide, Op::IntRemainder],
            _ => &[
                Op::Less,
                Op::AtMost,
                Op::Greater,
                Op::AtLeast,
                Op::Equal,
                Op::Unequal,
                Op::And,
                Op::Or,
                Op::Not,
                Op::IsNan,
            ],
        };
        let operation = choices[self.random.below(choices.len())];
        let below = depth - 1;
        let compared = [Type::F64, Type::Word][self.random.below(2)];
        let compared = match operation {
            Op::Less | Op::AtMost | Op::Greater | Op::AtLeast => Type::F64,
            _ => compared,
        };
        let parts = match operation {
            Op::ShiftRight => {
                vec![self.expr(Type::Word, below), Expr::Int(self.random.next() % 32)]
            }
            // What divides is not 0; counts stay small.
            Op::IntDivide | Op::IntRemainder => {
                vec![self.expr(Type::Int, below), Expr::Int(self.random.next() % 7 + 1)]
            }
            Op::IntMultiply => vec![self.expr(Type::Int, 0), Expr::Int(self.random.next() % 4)],
            Op::Select => {
                let condition = self.expr(Type::Bool, below);
                vec![condition, self.expr(ty, below), self.expr(ty, below)]
            }
            Op::WordToNumber => vec![self.expr(Type::Word, below)],
            Op::IntToNumber => vec![self.expr(Type::Int, below)],
            Op::IsNan | Op::Negate => vec![self.expr(Type::F64, below)],
            Op::Not => vec![self.expr(Type::Bool, below)],
            Op::And | Op::Or => vec![self.expr(Type::Bool, below), self.expr(Type::Bool, below)],
            Op::Less | Op::AtMost | Op::Greater | Op::AtLeast | Op::Equal | Op::Unequal => {
                vec![self.expr(compared, below), self.expr(compared, below)]
            }
            _ => vec![self.expr(ty, below), self.expr(ty, below)],
        };
        // One compiler takes 0.0 - (double)n for -(double)n, which gives another zero.
        let converted =
            |part: &Expr| matches!(part, Expr::Do(Op::WordToNumber | Op::IntToNumber, _));
        match operation {
            Op::Subtract if converted(&parts[1]) => Expr::Do(Op::Add, parts),
            operation => Expr::Do(operation, parts),
        }
    }
}

/// What grown functions are given: doubles, a word, and an index.
fn given(random: &mut Random) -> [Value; 4] {
    [
        Value::Number(random.number()),
        Value::Number(random.number()),
        Value::Word(random.next()),
        Value::Int(random.next() % 8),
    ]
}

/// A program in a language that writes the bits of all results, in hexadecimal, a line each.
struct Host {
    language: &'static Language,
    file: &'static str,
    commands: &'static [&'static str],
    /// Before the functions, between them and the calls, around a call, and at the end.
    parts: [&'static str; 4],
}

/// The languages that are built in, with programs around their functions.
fn hosts() -> Vec<Host> {
    vec![
        Host {
            language: &language::C,
            file: "grown.c",
            commands: &["gcc -std=c99 -O1 -ffp-contract=off -w grown.c -o grown -lm", "./grown"],
            parts: [
                "#include <math.h>\n#include <stdbool.h>\n#include <stdint.h>\n#include <stdio.h>\n#include <string.h>\n",
                "static void put(double v) { uint64_t b; memcpy(&b, &v, sizeof b); \
                 if (v != v) b = UINT64_MAX; printf(\"%llx\\n\", (unsigned long long)b); }\nint main(void) {\n",
                "put({call});\n",
                "return 0; }\n",
            ],
        },
        Host {
            language: &language::RUST,
            file: "grown.rs",
            commands: &[
                "rustc --edition=2021 -A warnings -A arithmetic_overflow -O grown.rs -o grown",
                "./grown",
            ],
            parts: [
                "",
                "fn put(v: f64) { println!(\"{:x}\", if v.is_nan() { u64::MAX } else { v.to_bits() }) }\nfn main() {\n",
                "put({call});\n",
                "}\n",
            ],
        },
        Host {
            language: &language::CSHARP,
            file: "grown.cs",
            commands: &["mcs -nowarn:0162,0429,0665,1718,0219 grown.cs", "mono grown.exe"],
            parts: [
                "using System;\nstatic class Grown {\n",
                "static void Put(double v) { Console.WriteLine(\"{0:x}\", double.IsNaN(v) ? ulong.MaxValue : (ulong)BitConverter.DoubleToInt64Bits(v)); }\n\
                 static void Main() { All(); }\nstatic void All() {\n",
                "Put({call});\n",
                "} }\n",
            ],
        },
        Host {
            language: &language::JAVASCRIPT,
            file: "grown.mjs",
            commands: &["node grown.mjs"],
            parts: [
                "const bits = new DataView(new ArrayBuffer(8));\n",
                "function put(v) { bits.setFloat64(0, v); \
                 console.log((Number.isNaN(v) ? 2n ** 64n - 1n : bits.getBigUint64(0)).toString(16)); }\n",
                "put({call});\n",
                "",
            ],
        },
    ]
}

fn is_there(command: &str) -> bool {
    let found = Command::new("sh").args(["-c", &format!("command -v {command}")]).output();
    found.is_ok_and(|output| output.status.success())
}

/// A value as a literal of a language.
fn literal(language: &Language, value: &Value) -> String {
    match value {
        Value::Number(v) => {
            let digits = caltrin_export::number::double(*v);
            language.literal.number.fill(&[("digits", &digits)])
        }
        Value::Word(v) => {
            language.literal.word.fill(&[("digits", &caltrin_export::number::word(*v))])
        }
        Value::Int(v) => language.literal.int.fill(&[("digits", &v.to_string())]),
        other => panic!("not given: {other:?}"),
    }
}

#[test]
fn functions_of_random_statements_give_the_same_bits_in_every_language() {
    let full = std::env::var("CALTRIN_PROOFS").is_ok_and(|value| value == "full");
    let mut random = Random(if full { 1 } else { 40_000 });
    let count = if full { 160 } else { 60 };
    let mut module = Module::default();
    for n in 0..count {
        module.functions.push(Grower::grow(&mut random, n));
    }
    let mut calls: Vec<(String, [Value; 4], u64)> = Vec::new();
    for function in &module.functions {
        for _ in 0..6 {
            let given = given(&mut random);
            let found = call(&module, &function.name, given.to_vec(), &mut 1_000_000);
            let found = found.expect("grown functions are defined everywhere");
            calls.push((function.name.clone(), given, number(&found)));
        }
    }
    let different = calls.iter().map(|(.., bits)| bits).collect::<std::collections::HashSet<_>>();
    assert!(different.len() > calls.len() / 4, "results differ: {}", different.len());
    // What is printed is folded, what was walked is not.
    module.functions.iter_mut().for_each(fold);
    let mut ran = 0;
    for host in hosts() {
        let tool = host.commands[0].split(' ').next().expect("a command has a first word");
        if !is_there(tool) {
            continue;
        }
        let folder = tempfile::tempdir().expect("a folder");
        let printer = Printer::new(host.language, &module, "", 0);
        let [head, middle, each, end] = host.parts;
        let mut text = head.to_owned();
        let written: std::collections::BTreeSet<Op> =
            module.functions.iter().flat_map(|function| printer.written(function)).collect();
        written.iter().for_each(|operation| text.push_str(&printer.print_written(*operation)));
        for function in &module.functions {
            text.push_str(&printer.print_function(function));
        }
        text.push_str(middle);
        for (name, given, _) in &calls {
            let values: Vec<String> =
                given.iter().map(|value| literal(host.language, value)).collect();
            let call = format!("{}({})", printer.function_name(name), values.join(", "));
            text.push_str(&each.replace("{call}", &call));
        }
        text.push_str(end);
        fs::write(folder.path().join(host.file), &text).expect("the folder is writable");
        let mut said = String::new();
        for command in host.commands {
            said = run(folder.path(), command);
        }
        let lines: Vec<&str> = said.lines().collect();
        assert_eq!(lines.len(), calls.len(), "{}", host.language.name);
        for ((name, given, bits), line) in calls.iter().zip(lines) {
            let function = module.function(name).expect("it was called");
            assert_eq!(
                format!("{bits:x}"),
                line,
                "{} {given:?}\n{}",
                host.language.name,
                printer.print_function(function)
            );
        }
        ran += 1;
    }
    assert!(ran > 0, "no compiler is there");
}

fn run(folder: &Path, command: &str) -> String {
    let output = Command::new("sh").args(["-c", command]).current_dir(folder).output().unwrap();
    let errors = String::from_utf8_lossy(&output.stderr);
    let errors: String = errors.chars().take(3_000).collect();
    assert!(output.status.success(), "{command}: {errors}");
    String::from_utf8(output.stdout).expect("it writes ASCII")
}

const SALTSCRIPT: &str = include_str!("script/saltscript.toml");

/// A value as one of the script language.
fn scripted(value: &Value) -> script::Value {
    match value {
        Value::Number(v) => script::Value::Real(*v),
        Value::Single(v) => script::Value::Single(*v),
        Value::Word(v) => script::Value::Word(*v),
        Value::Int(v) => script::Value::Count(u64::from(*v)),
        Value::Flag(on) => script::Value::Flag(*on),
        Value::Numbers(all) => script::Value::Reals(all.clone().into()),
        Value::Words(all) => script::Value::Words(all.clone().into()),
        Value::Fixed(..) => panic!("only shaders have fixed point"),
    }
}

/// The bits of a value, with one pattern for every NaN.
fn bits_of(value: &script::Value) -> u64 {
    let number = |v: f64| if v.is_nan() { u64::MAX } else { v.to_bits() };
    match value {
        script::Value::Real(v) => number(*v),
        script::Value::Single(v) => number(f64::from(*v)),
        script::Value::Word(v) => u64::from(*v),
        script::Value::Count(v) => *v,
        script::Value::Flag(on) => u64::from(*on),
        other => panic!("{other:?} has no bits"),
    }
}

#[test]
fn a_made_up_script_language_runs_the_kernel_by_its_file_alone() {
    let language = Language::read("saltscript.toml", SALTSCRIPT).expect("the file is right");
    let needed = KERNEL.functions.iter().map(|function| function.name.clone());
    let text = caltrin_export::file::kernel(&language, needed);
    let script = script::Script::read(&text).unwrap_or_else(|e| panic!("{e}\n{text}"));
    let mut random = Random(90_000);
    let sums: Vec<f64> = (0..=8).map(|n| f64::from(n) * 0.47).collect();
    let words: Vec<u32> = (0..9).map(|n| (n * 977) << 8 | (n * 37 % 256)).collect();
    let mut compared = 0;
    for function in &KERNEL.functions {
        for _ in 0..40 {
            let given = function.locals[..function.parameters].iter().map(|local| match local.ty {
                Type::Word => Value::Word(random.next()),
                // The last entry of a table, or octaves.
                Type::Int => Value::Int(8),
                Type::Numbers => Value::Numbers(sums.clone()),
                Type::Words => Value::Words(words.clone()),
                _ => Value::Number(random.number()),
            });
            let given: Vec<Value> = given.collect();
            let Some(wanted) = call(&KERNEL, &function.name, given.clone(), &mut 100_000) else {
                continue;
            };
            let values = given.iter().map(scripted).collect();
            // `root` is a word of this language, which means something else for what is below 0.
            let taken = language.reserved().any(|word| word == function.name);
            let name = if taken { format!("{}_2", function.name) } else { function.name.clone() };
            let found = script.run(&name, values);
            let found = found.unwrap_or_else(|e| panic!("{} {given:?}: {e}", function.name));
            assert_eq!(bits_of(&found), bits_of(&scripted(&wanted)), "{} {given:?}", function.name);
            compared += 1;
        }
    }
    assert!(compared > 1_500, "{compared}");
}

#[test]
fn a_made_up_script_language_plays_whole_books_by_its_file_alone() {
    let language = Language::read("saltscript.toml", SALTSCRIPT).expect("the file is right");
    let printed = |text: &str| {
        let reading = caltrin_lang::read(text, "book.caltrin");
        let checked = reading.checked.expect("the book is good");
        let plan = caltrin_export::Plan::of(&checked, &reading.notes);
        caltrin_export::file::print(&plan, &language)
    };
    let played = |text: &str| {
        let script = script::Script::read(text).unwrap_or_else(|e| panic!("{e}\n{text}"));
        script.run("self_test", Vec::new()).unwrap_or_else(|e| panic!("{e}\n{text}"))
    };
    let text = printed(include_str!("walks.caltrin"));
    assert_eq!(played(&text), script::Value::Word(0));
    // One checksum that is wrong is one light that differs.
    let text = printed(include_str!("same.caltrin"));
    let sums = text.find("let test_sums = list(").expect("there are checksums");
    let last = sums + text[sums..].find('w').expect("entries follow") - 1;
    let digit = if &text[last..=last] == "0" { "1" } else { "0" };
    let wrong = format!("{}{digit}{}", &text[..last], &text[last + 1..]);
    assert_eq!(played(&wrong), script::Value::Word(1));
}

#[test]
fn a_made_up_script_language_runs_functions_of_random_statements() {
    let language = Language::read("saltscript.toml", SALTSCRIPT).expect("the file is right");
    let mut random = Random(300_000);
    let mut module = Module::default();
    for n in 0..120 {
        module.functions.push(Grower::grow(&mut random, n));
    }
    let plain = module.clone();
    module.functions.iter_mut().for_each(fold);
    let printer = Printer::new(&language, &module, "", 0);
    let text: String =
        module.functions.iter().map(|function| printer.print_function(function)).collect();
    assert!(text.lines().all(|line| !line.ends_with(' ')), "no line ends with a blank");
    let script = script::Script::read(&text).unwrap_or_else(|e| panic!("{e}\n{text}"));
    for function in &plain.functions {
        for _ in 0..12 {
            let given = given(&mut random);
            let wanted = call(&plain, &function.name, given.to_vec(), &mut 1_000_000);
            let wanted = wanted.expect("grown functions are defined everywhere");
            let found = script.run(&function.name, given.iter().map(scripted).collect());
            let found = found.unwrap_or_else(|e| panic!("{} {given:?}: {e}", function.name));
            assert_eq!(bits_of(&found), bits_of(&scripted(&wanted)), "{} {given:?}", function.name);
        }
    }
}

#[test]
fn folding_keeps_what_a_function_gives_and_leaves_nothing_known() {
    let mut random = Random(700_000);
    for n in 0..400 {
        let plain = Grower::grow(&mut random, n);
        let mut folded = plain.clone();
        fold(&mut folded);
        let again = {
            let mut again = folded.clone();
            fold(&mut again);
            again
        };
        assert_eq!(folded, again, "a second time changes nothing");
        caltrin_export::ir::each_expr(&folded.body, &mut |expr| {
            if let Expr::Do(operation, parts) = expr {
                let literal =
                    |part: &Expr| matches!(part, Expr::Word(_) | Expr::Int(_) | Expr::Flag(_));
                assert!(!parts.iter().all(literal), "{operation:?} of literals alone is left");
            }
        });
        let [plain, folded] = [plain, folded]
            .map(|function| Module { functions: vec![function], ..Module::default() });
        let name = plain.functions[0].name.clone();
        for _ in 0..8 {
            let given = given(&mut random);
            let [a, b] = [&plain, &folded].map(|module| {
                call(module, &name, given.to_vec(), &mut 1_000_000).map(|v| number(&v))
            });
            assert!(a.is_some(), "grown functions are defined everywhere");
            assert_eq!(a, b, "{given:?}");
        }
    }
}

#[test]
fn naming_what_is_computed_twice_keeps_what_a_function_gives() {
    let mut random = Random(910_000);
    let name = |_: &Expr| "named".to_owned();
    let mut named = 0;
    for n in 0..400 {
        let mut plain = Grower::grow(&mut random, n);
        fold(&mut plain);
        let mut shared = plain.clone();
        let module = Module::default();
        share(&mut shared, &Sharing { module: &module, name: &name }, 0);
        named += usize::from(shared != plain);
        let mut again = shared.clone();
        share(&mut again, &Sharing { module: &module, name: &name }, 0);
        assert_eq!(shared, again, "a second time changes nothing");
        let own = plain.name.clone();
        let [plain, shared] = [plain, shared]
            .map(|function| Module { functions: vec![function], ..Module::default() });
        for _ in 0..8 {
            let given = given(&mut random);
            let [a, b] = [&plain, &shared].map(|module| {
                call(module, &own, given.to_vec(), &mut 1_000_000).map(|v| number(&v))
            });
            assert!(a.is_some(), "grown functions are defined everywhere");
            assert_eq!(a, b, "{given:?}");
        }
    }
    assert!(named > 40, "{named} of 400 functions compute something twice");
}

#[test]
fn no_function_of_a_book_calls_another_twice_with_the_same_values() {
    let books = [
        include_str!("../../caltrin/books/pier.caltrin"),
        include_str!("everything.caltrin"),
        include_str!("scenes.caltrin"),
    ];
    for text in books {
        let reading =
            heard::read_for(text, "book.caltrin", caltrin_core::program::Wanted::default());
        let checked = reading.checked.expect("the book is good");
        let plan = caltrin_export::Plan::of(&checked, &reading.notes);
        let lowered = caltrin_export::lower::Lowered::of(
            &plan,
            caltrin_export::language::Extras { saves: true, binds: true },
        );
        let own =
            lowered.module.functions.iter().filter(|own| KERNEL.function(&own.name).is_none());
        let own = own.filter(|function| !lowered.test.contains(&function.name));
        for function in own.chain(lowered.lights.iter().map(|(function, _)| function)) {
            // Of what is computed in any case, before anything is set.
            let is_plain = |each: &&Statement| {
                matches!(each, Statement::Let(..) | Statement::Make(..) | Statement::Return(_))
            };
            let mut seen: Vec<&Expr> = Vec::new();
            for statement in function.body.iter().take_while(is_plain) {
                let (Statement::Let(_, value)
                | Statement::Make(.., value)
                | Statement::Return(value)) = statement
                else {
                    continue;
                };
                sure_calls(value, &mut |expr| {
                    assert!(!seen.contains(&expr), "{}: {expr:?} twice", function.name);
                    seen.push(expr);
                });
            }
        }
    }
}

/// Visits the calls that an expression makes in any case.
fn sure_calls<'e>(expr: &'e Expr, visit: &mut impl FnMut(&'e Expr)) {
    match expr {
        Expr::Call(_, parts) => {
            parts.iter().for_each(|part| sure_calls(part, visit));
            visit(expr);
        }
        Expr::Do(Op::Select | Op::And | Op::Or, parts) => sure_calls(&parts[0], visit),
        Expr::Do(_, parts) => parts.iter().for_each(|part| sure_calls(part, visit)),
        _ => {}
    }
}

#[test]
fn what_the_source_language_does_not_know_is_told() {
    use caltrin_export::ir::read;
    for (source, wanted) in [
        ("fn f(x: i32) -> f64 { 0.0 }", "types are f64, f32, u32, usize, bool"),
        ("fn f(x: f64) -> f64 { y }", "`y` is not known"),
        ("fn f(x: f64) -> f64 { g(x) }", "`g` is not known"),
        ("fn f(x: f64) -> f64 { x + 1 }", "int where f64 is wanted"),
        ("fn f(x: u32) -> u32 { x + x }", "`+` of u32 is not known"),
        ("fn f(x: f64) -> f64 { x.sin() }", "`.sin` is not known"),
        ("fn f(x: f64) -> f64 { let (a, b) = (x, x); a }", "a pattern is one name"),
        ("fn f(x: f64) -> f64 { loop {} }", "this is no value"),
        ("fn f(x: f64) -> f64 { for n in 0..=3 {} x }", "a range is `from..to`"),
        ("fn f(x: &[f64]) -> f64 { x[0.5] }", "f64 where int is wanted"),
        ("fn f(x: f64, y: f64) -> f64 { f(x) }", "`f` takes 2 values"),
        ("fn f(x: f64) -> u32 { x as u32 }", "no such conversion"),
        ("struct S;", "only constants, functions and uses are known"),
        ("fn f(", "`file`: "),
    ] {
        let error = read::module(source).unwrap_err().to_string();
        assert!(error.contains(wanted), "{source}: {error}");
    }
}

#[test]
fn brackets_stand_where_a_language_asks_for_them() {
    let source = "
        fn f(a: f64, b: f64, k: u32, n: usize) -> f64 {
            let minus = a - (b - a) - b;
            let quotient = a / (b * a) / (a + b);
            let twice = -(-a) - -b;
            let bits = (k ^ 3 & k) >> 4;
            let sum = (k ^ 5).wrapping_add(k >> 2).wrapping_mul(9);
            let close = a < b && (b < 1.0 || !(a == b));
            let part = if close { 1.0 } else if a > 2.0 { 2.0 } else { minus };
            let whole = (n + 1) / 2 * (n % 3);
            quotient + twice + part * whole as f64 + f64::from(bits) + f64::from(sum)
        }";
    let module = caltrin_export::ir::read::module(source).expect("it is read");
    for (language, wanted) in [
        (
            &language::C,
            [
                "const double minus = a - (b - a) - b;",
                "const double quotient = a / (b * a) / (a + b);",
                "const double twice = -(-a) - -b;",
                "const uint32_t bits = (k ^ (3u & k)) >> 4;",
                "const uint32_t sum = ((k ^ 5u) + (k >> 2)) * 9u;",
                "const bool close = a < b && (b < 1.0 || !(a == b));",
                "const double part = close ? 1.0 : a > 2.0 ? 2.0 : minus;",
                "const uint32_t whole = (n + 1) / 2 * (n % 3);",
            ],
        ),
        (
            &language::RUST,
            [
                "let minus = a - (b - a) - b;",
                "let quotient = a / (b * a) / (a + b);",
                "let twice = -(-a) - -b;",
                "let bits = (k ^ (3 & k)) >> 4;",
                "let sum = (k ^ 5).wrapping_add(k >> 2).wrapping_mul(9);",
                "let close = a < b && (b < 1.0 || !(a == b));",
                "let part = if close { 1.0 } else if a > 2.0 { 2.0 } else { minus };",
                "let whole = (n + 1) / 2 * (n % 3);",
            ],
        ),
        (
            &language::JAVASCRIPT,
            [
                "const minus = a - (b - a) - b;",
                "const quotient = a / (b * a) / (a + b);",
                "const twice = -(-a) - -b;",
                "const bits = (k ^ (3 & k)) >>> 4;",
                "const sum = Math.imul(((k ^ 5) >>> 0) + (k >>> 2), 9) >>> 0;",
                "const close = a < b && (b < 1.0 || !(a === b));",
                "const part = close ? 1.0 : a > 2.0 ? 2.0 : minus;",
                "const whole = Math.floor((n + 1) / 2) * (n % 3);",
            ],
        ),
    ] {
        let printer = Printer::new(language, &module, "", 0);
        let text = printer.print_function(&module.functions[0]);
        for line in wanted {
            assert!(text.contains(line), "{}: {line} in\n{text}", language.name);
        }
    }
}

const C: &str = include_str!("../languages/c/language.toml");

#[test]
fn a_language_that_is_like_another_says_only_what_is_otherwise() {
    let text = "name = \"Old C\"\nlike = \"c\"\n\
        [names]\nreserved = [\"lanthorn\"]\n\
        [operator]\nadd = \"plus({a}, {b})\"\nsquare_root = false\n\
        [written.square_root]\nname = \"own_root\"\nabout = \"Our own.\"\ntext = \"double {name}(double v);\"\n\
        [start]\nzeros = true\n";
    let language = Language::read("old.toml", text).expect("the file is right");
    let reserved: Vec<&str> = language.reserved().collect();
    assert!(reserved.contains(&"lanthorn") && reserved.contains(&"while"));
    assert!(language.start.zeros && language.layout.width == 110);
    let text = caltrin_export::file::kernel(&language, ["root".to_owned()]);
    assert!(text.contains("/* Our own. */\ndouble own_root(double v);"), "{text}");
    assert!(text.contains("return own_root(kept);"), "{text}");
    let same = caltrin_export::file::kernel(&language::C, ["drift_level".to_owned()]);
    let other =
        Language::read("mine.toml", "name = \"Mine\"\nlike = \"c\"\n").expect("it is right");
    assert_eq!(same, caltrin_export::file::kernel(&other, ["drift_level".to_owned()]));
    for (text, wanted) in [
        ("name = \"A\"\nlike = \"cc\"\n", "`like` is one of c, rust, csharp, javascript"),
        (
            "name = \"A\"\nlike = \"c\"\n[statement]\nretrun = \"\"\n",
            "line 4: unknown field `retrun`",
        ),
        ("name = \"A\"\nlike = \"c\"\n[statement]\nretrun = \"\"\n", "did you mean `return`?"),
        ("name = \"A\"\nlike = \"c\"\n[operator]\nadd = false\n", "`add` is missing"),
    ] {
        let error = Language::read("mine.toml", text).unwrap_err().to_string();
        assert!(error.starts_with("mine.toml: ") && error.contains(wanted), "{wanted} in {error}");
    }
}

#[test]
fn mistakes_in_language_files_are_told_with_their_line_and_the_nearest_word() {
    for (from, to, wanted) in [
        ("let_changed =", "let_chnaged =", "line 2"),
        ("let_changed =", "let_chnaged =", "did you mean `let_changed`?"),
        ("square_root =", "squareroot =", "did you mean `square_root`?"),
        ("square_root = \"sqrt({a})\"\n", "", "`square_root` is missing"),
        ("\"{a} * {b}\", 13]\ndivide", "\"{a} * {x}\", 13]\ndivide", "its slots are {a}, {b}"),
        ("\"{a} * {b}\", 13]\ndivide", "\"{a} * 2\", 13]\ndivide", "the slot {b} is missing"),
        ("f32 = \"float\"", "f33 = \"float\"", "did you mean `f32`?"),
        ("functions = \"snake\"", "functions = \"snak\"", "line "),
        ("[\"and\", \"or\"]", "[\"and\", \"orr\"]", "did you mean `or`?"),
        ("break = \"break;\"\n", "", "missing field `break`"),
        ("name = \"C\"", "name = C", "line "),
    ] {
        assert!(C.contains(from), "{from}");
        let error = Language::read("mine.toml", &C.replacen(from, to, 1)).unwrap_err().to_string();
        assert!(error.starts_with("mine.toml: "), "{error}");
        assert!(error.contains(wanted), "{wanted} in {error}");
    }
    assert!(Language::read("c", C).is_ok());
}
