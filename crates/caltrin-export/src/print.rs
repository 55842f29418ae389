//! What the printers share: expressions, statements and names. A language says how it spells the
//! few things that differ.

use crate::names::{Case, Namer, cased};
use caltrin_core::program::{Dial, Domain, LightKind, Share, Size};

use crate::plan::{
    ChoicePlan, ClockPlan, Code, FieldPlan, Function, FunctionId, Helper, Infix, InputPlan,
    LightPlan, Local, Part, Plan, Prefix, Source, Statement, Type, clock_fields,
};

/// How a language spells things.
pub trait Spelling {
    /// Key words and other names that no identifier may have.
    const TAKEN: &'static [&'static str];
    /// How functions are written.
    const FUNCTIONS: Case;
    /// How types are written.
    const TYPES: Case;
    /// How tables are written.
    const TABLES: Case;
    /// How locals are written.
    const LOCALS: Case;
    /// How the run's fields are written.
    const FIELDS: Case;
    /// How constants are written.
    const CONSTANTS: Case;
    /// Whether the run's fields stand beside functions and types, and share no name with them.
    const MEMBERS: bool = false;
    /// One step of indentation.
    const INDENT: &'static str;

    /// A double.
    fn number(&self, v: f64) -> String;
    /// A 32-bit word.
    fn word(&self, v: u32) -> String;
    /// A single as a lamp's constant field.
    fn single(&self, v: f32) -> String;
    /// One of two values; the parts are safe to join.
    fn choose(&self, condition: &str, then: &str, otherwise: &str) -> String {
        format!("{condition} ? {then} : {otherwise}")
    }
    /// A double turned into a single; `value` may be any expression.
    fn convert(&self, value: &str) -> String;
    /// The lamp's index as a double; `index` is more than a name where `whole` says so.
    fn index_number(&self, index: &str, whole: bool) -> String;
    /// A whole quotient of two 32-bit numbers.
    fn quotient(&self, index: &str, by: u32) -> String {
        format!("{index} / {}", self.word(by))
    }
    /// What the run's input is set to: which one of many, and which part.
    fn input(&self, input: &InputNames, index: Option<&str>, part: Option<usize>) -> String;
    /// The option that the run's choice is at.
    fn chosen(&self, choice: &ChoiceNames) -> String;
    /// How much an option of the run's choice counts.
    fn weight(&self, choice: &ChoiceNames, option: u32) -> String;
    /// A table as an argument.
    fn table(&self, name: &str) -> String {
        name.to_owned()
    }
    /// Whether the branches of [`Spelling::choose`] stand in blocks of their own.
    const BLOCKS: bool = false;
    /// How equality of two doubles is asked.
    const SAME: &'static str = "==";
    /// A kernel function's name.
    fn helper(&self, helper: Helper) -> String {
        cased(helper.name(), Self::FUNCTIONS)
    }
    /// `const double x = ...;`
    fn constant(&self, ty: Type, name: &str, value: &str) -> String;
    /// The opening of a block that is done under a condition.
    fn when(&self, condition: &str) -> String {
        format!("if ({condition}) {{")
    }
    /// A return on one line under a condition, where the language's style has it.
    fn when_return(&self, condition: &str, value: &str) -> Option<String> {
        Some(format!("if ({condition}) return {value};"))
    }
    /// The value of a function; `last` at its very end.
    fn give(&self, value: &str, last: bool) -> String {
        let _ = last;
        format!("return {value};")
    }
}

/// The file's own names, in one language.
#[derive(Clone, Debug)]
pub struct FileNames {
    /// The file's base name and the prefix or type of the whole, snake case.
    pub base: String,
    /// Of [`Plan::functions`].
    pub functions: Vec<String>,
    /// Of [`Plan::tables`].
    pub tables: Vec<String>,
    /// Of [`Plan::inputs`].
    pub inputs: Vec<InputNames>,
    /// Of [`Plan::choices`].
    pub choices: Vec<ChoiceNames>,
    /// Of [`Plan::lights`]: the type of a lamp, and the book's name in the case of functions.
    pub lights: Vec<LightNames>,
    namer: Namer,
}

/// The names around one input.
#[derive(Clone, Debug)]
pub struct InputNames {
    /// What the run keeps it in.
    pub field: String,
    /// The function that sets it.
    pub set: String,
    /// The names of its parts, none for one number.
    pub suffixes: &'static [&'static str],
}

/// The names around one choice.
#[derive(Clone, Debug)]
pub struct ChoiceNames {
    /// What the run keeps the option in.
    pub field: String,
    /// What the run keeps the moment of the change in.
    pub since: String,
    /// What the run keeps how much each counted at that moment in.
    pub from: String,
    /// The function that sets it.
    pub set: String,
    /// The function that says how much an option counts.
    pub weight: String,
    /// The constants of its options.
    pub options: Vec<String>,
}

/// The names around one light.
#[derive(Clone, Debug)]
pub struct LightNames {
    /// The type of its lamps.
    pub lamp: String,
    /// The function that reads one lamp.
    pub read: String,
    /// The function that reads many.
    pub fill: String,
}

impl FileNames {
    /// Names everything of a plan. `own` are names that the file uses anyway; functions get
    /// `prefix`.
    pub fn of<S: Spelling>(spelling: &S, plan: &Plan, own: &[&str], prefix: &str) -> Self {
        let mut namer = Namer::without(S::TAKEN.iter().chain(own).copied());
        for helper in Helper::ALL.iter().copied() {
            namer.take(&format!("{prefix}{}", spelling.helper(helper)));
        }
        let mut fields = Namer::without(S::TAKEN.iter().copied().chain(["now", "seed"]));
        for (field, ..) in plan.clock.iter().flat_map(clock_fields) {
            fields.take(&cased(field, S::FIELDS));
        }
        let choices = plan.choices.iter().map(|choice| {
            let mut field = |name: &str| {
                let name = cased(name, S::FIELDS);
                if S::MEMBERS { namer.take(&name) } else { fields.take(&name) }
            };
            let own = field(&choice.name);
            let since = field(&format!("{}_since", choice.name));
            let from = field(&format!("{}_from", choice.name));
            let mut function =
                |name: &str| namer.take(&format!("{prefix}{}", cased(name, S::FUNCTIONS)));
            let set = function(&format!("set_{}", choice.name));
            let weight = function(&format!("{}_weight", choice.name));
            let constant = |option: &String| {
                let name = format!("{prefix}{}_{option}", choice.name);
                namer.take(&cased(&name, S::CONSTANTS))
            };
            let options = choice.options.iter().map(constant).collect();
            ChoiceNames { field: own, since, from, set, weight, options }
        });
        let choices: Vec<ChoiceNames> = choices.collect();
        let setters: Vec<(String, String)> = plan
            .inputs
            .iter()
            .map(|input| {
                let set = cased(&format!("set_{}", input.name), S::FUNCTIONS);
                let field = cased(&input.name, S::FIELDS);
                let field = if S::MEMBERS { namer.take(&field) } else { fields.take(&field) };
                (namer.take(&format!("{prefix}{set}")), field)
            })
            .collect();
        let inputs = plan
            .inputs
            .iter()
            .zip(setters)
            .map(|(input, (set, field))| InputNames { field, set, suffixes: input.suffixes })
            .collect();
        let mut named: Vec<(String, String)> = Vec::new();
        for light in &plan.lights {
            let mut verb = |verb: &str| {
                let name = cased(&format!("{verb}_{}", light.name), S::FUNCTIONS);
                namer.take(&format!("{prefix}{name}"))
            };
            named.push((verb("read"), verb("fill")));
        }
        let lights = plan
            .lights
            .iter()
            .zip(named)
            .map(|(light, (read, fill))| {
                let lamp = namer.take(&format!("{prefix}{}", cased(&light.name, S::TYPES)));
                LightNames { lamp, read, fill }
            })
            .collect();
        let functions = plan
            .functions
            .iter()
            .map(|f| namer.take(&format!("{prefix}{}", cased(&f.name, S::FUNCTIONS))))
            .collect();
        let tables = plan
            .tables
            .iter()
            .map(|t| namer.take(&format!("{prefix}{}", cased(&t.name, S::TABLES))))
            .collect();
        FileNames {
            inputs,
            choices,
            tables,
            base: cased(&plan.book, Case::Snake),
            functions,
            lights,
            namer,
        }
    }

    /// Locals' names, which fall together neither with each other nor with the file's names.
    pub fn locals<S: Spelling>(&self, _: &S, names: &[String], own: &[&str]) -> Vec<String> {
        let mut namer = self.namer.clone();
        for name in own {
            namer.take(name);
        }
        names.iter().map(|name| namer.take(&cased(name, S::LOCALS))).collect()
    }
}

/// What expressions of one function or light are printed with.
pub struct Scope<'a, S> {
    /// The language.
    pub spelling: &'a S,
    /// The file's names.
    pub names: &'a FileNames,
    /// The names of the locals.
    pub locals: Vec<String>,
    /// What the moment is called here.
    pub now: String,
    /// What the seed is called here.
    pub seed: String,
    /// What the hour and the number of days are called here.
    pub clock: [String; 2],
    /// What the lamp's index is called here.
    pub index: String,
    /// Stands before kernel functions.
    pub prefix: String,
}

/// How tightly an expression binds; a looser one in a tighter place gets brackets.
#[derive(Clone, Copy, PartialEq, PartialOrd)]
enum Binding {
    Choice,
    Or,
    And,
    Comparison,
    Sum,
    Product,
    Sign,
    Atom,
}

impl<S: Spelling> Scope<'_, S> {
    /// An expression.
    pub fn expression(&self, code: &Code) -> String {
        self.bound(code).0
    }

    fn at_least(&self, code: &Code, least: Binding) -> String {
        let (text, binding) = self.bound(code);
        if binding < least { format!("({text})") } else { text }
    }

    fn local(&self, local: Local) -> &str {
        &self.locals[local.0]
    }

    fn list(&self, all: &[Code]) -> String {
        let all: Vec<String> = all.iter().map(|code| self.expression(code)).collect();
        all.join(", ")
    }

    fn function(&self, id: FunctionId) -> &str {
        &self.names.functions[id.0]
    }

    fn bound(&self, code: &Code) -> (String, Binding) {
        match code {
            Code::Number(v) => {
                let binding = if v.is_sign_negative() { Binding::Sign } else { Binding::Atom };
                (self.spelling.number(*v), binding)
            }
            Code::Word(v) => (self.spelling.word(*v), Binding::Atom),
            Code::Flag(v) => (v.to_string(), Binding::Atom),
            Code::Local(local) => (self.local(*local).to_owned(), Binding::Atom),
            Code::Now => (self.now.clone(), Binding::Atom),
            Code::Seed => (self.seed.clone(), Binding::Atom),
            Code::Clock(Dial::Hour) => (self.clock[0].clone(), Binding::Atom),
            Code::Clock(Dial::Days) => (self.clock[1].clone(), Binding::Atom),
            Code::Index(share) => (self.index(*share), Binding::Sum),
            Code::IndexNumber(share) => {
                let index = self.index(*share);
                (self.spelling.index_number(&index, *share != Share::LAMP), Binding::Sign)
            }
            Code::Input(n, part, index) => {
                let index = index.as_ref().map(|index| self.expression(index));
                let names = &self.names.inputs[*n];
                let part = (!names.suffixes.is_empty()).then_some(*part);
                (self.spelling.input(names, index.as_deref(), part), Binding::Atom)
            }
            Code::Chosen(n) => (self.spelling.chosen(&self.names.choices[*n]), Binding::Atom),
            Code::Weight(n, option) => {
                (self.spelling.weight(&self.names.choices[*n], *option), Binding::Atom)
            }
            Code::Table(n) => (self.spelling.table(&self.names.tables[*n]), Binding::Atom),
            Code::Prefix(sign, a) => {
                let sign = match sign {
                    Prefix::Minus => "-",
                    Prefix::Not => "!",
                };
                (format!("{sign}{}", self.at_least(a, Binding::Atom)), Binding::Sign)
            }
            Code::Infix(sign, a, b) => {
                let (sign, own) = match sign {
                    Infix::Plus => ("+", Binding::Sum),
                    Infix::Minus => ("-", Binding::Sum),
                    Infix::Times => ("*", Binding::Product),
                    Infix::Over => ("/", Binding::Product),
                    Infix::Above => (">", Binding::Comparison),
                    Infix::Below => ("<", Binding::Comparison),
                    Infix::Same | Infix::Is => (S::SAME, Binding::Comparison),
                    Infix::And => ("&&", Binding::And),
                    Infix::Or => ("||", Binding::Or),
                };
                // Sums and products go from left to right; what stands right of them and binds
                // no tighter must keep its brackets, or the bits change.
                let right = match own {
                    Binding::Sum => Binding::Product,
                    Binding::Product => Binding::Sign,
                    Binding::Comparison => Binding::Sum,
                    other => other,
                };
                // `&&` inside `||` gets its brackets too: compilers ask for them.
                let right = if own == Binding::Or { Binding::Comparison } else { right };
                let left = match own {
                    Binding::Comparison => Binding::Sum,
                    Binding::Or if matches!(**a, Code::Infix(Infix::And, ..)) => {
                        Binding::Comparison
                    }
                    other => other,
                };
                let text = format!("{} {sign} {}", self.at_least(a, left), self.at_least(b, right));
                (text, own)
            }
            Code::Choose(c, a, b) => {
                let least = if S::BLOCKS { Binding::Choice } else { Binding::Or };
                let text = self.spelling.choose(
                    &self.at_least(c, Binding::Or),
                    &self.at_least(a, least),
                    &self.at_least(b, least),
                );
                (text, Binding::Choice)
            }
            Code::Helper(helper, all) => {
                let name = format!("{}{}", self.prefix, self.spelling.helper(*helper));
                (format!("{name}({})", self.list(all)), Binding::Atom)
            }
            Code::Call(id, all) => {
                (format!("{}({})", self.function(*id), self.list(all)), Binding::Atom)
            }
        }
    }

    /// The lamp's index, or what several lamps share of it.
    fn index(&self, share: Share) -> String {
        let mut text = self.index.clone();
        if share.lamps != 1 {
            text = self.spelling.quotient(&text, share.lamps);
        }
        match share.of {
            Some(of) => format!("{text} % {}", self.spelling.word(of)),
            None => text,
        }
    }

    /// What a number, or on or off, of a lamp is set to.
    pub fn output(&self, field: &FieldPlan, part: &Part) -> String {
        match part {
            Part::Constant(v) if field.flag => (*v != 0.0).to_string(),
            Part::Code(code, _) if field.flag => self.expression(code),
            Part::Constant(v) => self.spelling.single(*v),
            Part::Code(code, finish) => {
                let value = self.expression(code);
                match finish.helper() {
                    None => self.spelling.convert(&value),
                    Some(helper) => {
                        format!("{}{}({value})", self.prefix, self.spelling.helper(helper))
                    }
                }
            }
        }
    }

    /// Statements, each on its line, `depth` steps in.
    pub fn statements(&self, all: &[Statement], depth: usize, out: &mut String) {
        self.block(all, depth, depth, out);
    }

    fn block(&self, all: &[Statement], depth: usize, top: usize, out: &mut String) {
        let line = |out: &mut String, text: &str| {
            out.push_str(&S::INDENT.repeat(depth));
            out.push_str(text);
            out.push('\n');
        };
        for (n, statement) in all.iter().enumerate() {
            match statement {
                Statement::Let(local, ty, code) => {
                    let value = self.expression(code);
                    line(out, &self.spelling.constant(*ty, self.local(*local), &value));
                }
                Statement::When(condition, block) => {
                    let condition = self.expression(condition);
                    let short = match &block[..] {
                        [Statement::Return(value)] => {
                            self.spelling.when_return(&condition, &self.expression(value))
                        }
                        _ => None,
                    };
                    if let Some(short) = short {
                        line(out, &short);
                    } else {
                        line(out, &self.spelling.when(&condition));
                        self.block(block, depth + 1, top, out);
                        line(out, "}");
                    }
                }
                Statement::Return(code) => {
                    let last = depth == top && n + 1 == all.len();
                    line(out, &self.spelling.give(&self.expression(code), last));
                }
            }
        }
    }
}

/// What a choice is, in words.
pub fn describe_choice(choice: &ChoicePlan) -> String {
    let over = match choice.fades() {
        true => format!(", softly over {} s", crate::number::double(choice.over)),
        false => String::new(),
    };
    format!("Choice, made by the game: {}{over}", choice.options.join(", "))
}

/// The code of a language that keeps a choice, with its names in it.
pub fn choice_code<S: Spelling>(
    spelling: &S,
    source: &str,
    (choice, names): (&ChoicePlan, &ChoiceNames),
) -> String {
    let (fading, plain) = source.split_once("//: plain\n").unwrap_or((source, source));
    let code = if choice.fades() { fading } else { plain };
    code.replace("FIELD_SINCE", &names.since)
        .replace("FIELD_FROM", &names.from)
        .replace("FIELD", &names.field)
        .replace("SET", &names.set)
        .replace("WEIGHT", &names.weight)
        .replace("COUNT", &choice.options.len().to_string())
        .replace("OVER", &spelling.number(choice.over))
}

/// What the hour and the number of days are called in a light.
pub fn clock_names() -> [String; 2] {
    ["hour", "days"].map(str::to_owned)
}

/// The code of a language that keeps the clock, with its numbers in it.
pub fn clock_code<S: Spelling>(spelling: &S, source: &str, clock: &ClockPlan) -> String {
    source
        .replace("PACE", &spelling.number(clock.pace))
        .replace("START", &spelling.number(clock.start))
        .replace("RATE", &spelling.number(clock.rate))
}

/// What an input is, in words.
pub fn describe_input(input: &InputPlan) -> String {
    let many = match input.count {
        Some(n) => format!(" of {n}, index 0 to {}", n - 1),
        None => String::new(),
    };
    format!("Input{many}, set by the game: {}{}", input.about, input.range())
}

/// What the values of a setter are called.
pub fn setter_values(input: &InputPlan) -> &'static [&'static str] {
    match (input.flag, input.suffixes) {
        (true, _) => &["on"],
        (false, []) => &["to"],
        (false, parts) => parts,
    }
}

/// The lines of a prover that set all inputs. `each` writes the line of one, which counts `n` through
/// all of its placings or lamps; it is told the places of its values among all that are read.
pub fn prover_sets(
    plan: &Plan,
    names: &FileNames,
    each: impl Fn(&InputPlan, &InputNames, Vec<String>) -> String,
) -> String {
    let (mut before, mut out) = (0, String::new());
    for (input, names) in plan.inputs.iter().zip(&names.inputs) {
        let width = input.usual.len();
        let slots = (0..width).map(|part| format!("{width} * n + {}", before + part)).collect();
        out.push_str(&each(input, names, slots));
        out.push('\n');
        before += input.slots();
    }
    out
}

/// What the places of a curve are, in words.
fn places(domain: Domain) -> &'static str {
    match domain {
        Domain::Time => "seconds",
        Domain::Day => "hours of the day",
        Domain::Ramp(kind) => match kind.unit() {
            "" => "as a number",
            "s" => "seconds",
            "Hz" => "hertz",
            "deg" => "degrees",
            "m" => "metres",
            unit => unit,
        },
    }
}

/// The part of a prover in which the game acts; `each` writes the line that makes a choice.
pub fn prover_acts(
    plan: &Plan,
    names: &FileNames,
    source: &str,
    each: impl Fn(usize, &ChoiceNames) -> String,
) -> String {
    let mut out = String::new();
    for line in source.lines().filter(|_| plan.has_acts()) {
        if line.contains("CHOICES") {
            for (n, names) in names.choices.iter().enumerate() {
                out.push_str(&each(n, names));
                out.push('\n');
            }
        } else if plan.clock.is_some() || !line.to_lowercase().contains("clock") {
            out.push_str(line);
            out.push('\n');
        }
    }
    out.replace("ACTS", &crate::prove::ACTS.to_string())
}

/// What a function was in the book, in words.
pub fn describe(function: &Function) -> String {
    let unit =
        if function.unit.is_empty() { String::new() } else { format!(", {}", function.unit) };
    match function.source {
        Source::Curve(domain) => format!("Curve over x {}{unit}", places(domain)),
        Source::Signal => format!("Signal, the same for all who use it{unit}"),
        Source::Behaviour => format!("Behaviour, one for each use{unit}"),
    }
}

/// What a light or output is, in words.
pub fn describe_light(light: &LightPlan) -> String {
    let (what, kind) = match light.kind {
        LightKind::Output => ("An output", String::new()),
        kind => ("A lamp", format!(": {}", kind.name())),
    };
    match light.size {
        Size::One => format!("{what}{kind}"),
        Size::Many(n) => format!("{what} of {n}, index 0 to {}{kind}", n - 1),
        Size::Open => format!("{what} of as many as there are, any index{kind}"),
    }
}

/// The values of a table, eight a line, each line indented.
pub fn table_lines<S: Spelling>(spelling: &S, values: &[f64], indent: &str) -> String {
    let lines = values.chunks(8).map(|line| {
        let line: Vec<String> = line.iter().map(|v| spelling.number(*v)).collect();
        format!("{indent}{}", line.join(", "))
    });
    lines.collect::<Vec<_>>().join(",\n")
}

/// How wide a line of exported code is at the most, where it can be broken.
const WIDEST: usize = 110;

/// Breaks long lines of code after commas and operators, the loosest first; what follows is indented once
/// more. Comments and lines of the preprocessor stay as they are.
pub fn folded(code: &str, indent: &str) -> String {
    let mut out = String::with_capacity(code.len() + code.len() / 16);
    for line in code.lines() {
        let inner = line.trim_start();
        let plain =
            !(inner.starts_with(['#', '*']) || inner.contains("//") || inner.contains("/*"));
        let (mut rest, mut depth) = (line.to_owned(), line.len() - inner.len());
        let mut first = true;
        while let Some(at) = plain.then(|| break_of(&rest)).flatten() {
            out.push_str(rest[..at].trim_end());
            out.push('\n');
            if first {
                depth += indent.len();
                first = false;
            }
            rest = format!("{}{}", " ".repeat(depth), rest[at..].trim_start());
        }
        out.push_str(&rest);
        out.push('\n');
    }
    out
}

/// Where a line that is too wide is broken: after the loosest comma or operator that lies far enough to the
/// right.
fn break_of(line: &str) -> Option<usize> {
    if line.chars().count() <= WIDEST {
        return None;
    }
    const OPERATORS: [&str; 10] =
        [" + ", " - ", " * ", " / ", " ? ", " : ", " && ", " || ", ", ", " = "];
    let start = line.len() - line.trim_start().len();
    let (mut depth, mut best): (u32, Option<(u32, usize)>) = (0, None);
    for (at, sign) in line.char_indices().take(WIDEST).skip(start) {
        match sign {
            '(' | '[' | '{' => depth += 1,
            ')' | ']' | '}' => depth = depth.saturating_sub(1),
            _ => {}
        }
        let after = OPERATORS.iter().find(|sign| line[at..].starts_with(**sign));
        let Some(after) = after.filter(|_| sign == ' ' || sign == ',') else { continue };
        let end = at + after.len();
        // A name alone before its value is no good line.
        let early = end < start + (WIDEST - start.min(WIDEST)) / 3 || *after == " = ";
        let rank = depth + if early { 100 } else { 0 };
        if end <= WIDEST && best.is_none_or(|(known, _)| rank <= known) {
            best = Some((rank, end));
        }
    }
    best.map(|(_, end)| end).filter(|end| line[*end..].trim().len() > 1)
}

/// The parts of a kernel file that are needed, in its order. A part starts at a line `//: name`.
pub fn kernel_parts(source: &str, needed: &[Helper]) -> String {
    let mut out = String::new();
    let mut wanted = false;
    for line in source.lines() {
        if let Some(name) = line.trim_start().strip_prefix("//: ") {
            wanted = needed.iter().any(|helper| helper.name() == name);
        } else if wanted {
            out.push_str(line);
            out.push('\n');
        }
    }
    out.trim_end().to_owned() + "\n"
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_helper_says_which_others_it_calls() {
        // Rust tells of a function that nothing calls, and all languages of one that is missing.
        let source = include_str!("rust/kernel.rs");
        for helper in Helper::ALL.iter().copied() {
            let part = kernel_parts(source, &[helper]);
            let calls: Vec<Helper> = Helper::ALL
                .iter()
                .copied()
                .filter(|other| *other != helper)
                .filter(|other| {
                    part.match_indices(&format!("{}(", other.name())).any(|(at, _)| {
                        !part[..at].ends_with(|c: char| c.is_alphanumeric() || c == '_')
                    })
                })
                .collect();
            let name = helper.name();
            for used in helper.uses() {
                assert!(calls.contains(used), "{name} never calls {}", used.name());
            }
            let (mut open, mut all) = (helper.uses().to_vec(), Vec::new());
            while let Some(used) = open.pop() {
                open.extend(used.uses());
                all.push(used);
            }
            for called in &calls {
                assert!(all.contains(called), "{name} also calls {}", called.name());
            }
        }
    }

    #[test]
    fn long_lines_are_broken_after_their_loosest_operator_and_say_the_same() {
        let short = "    const double x = a + b;\n";
        assert_eq!(folded(short, "    "), short);
        let long = format!(
            "    const double level = {} + {};\n",
            "f(a, bb)",
            ["level_of(a, b)"; 9].join(" * ")
        );
        let broken = folded(&long, "    ");
        assert!(
            broken.lines().count() > 1 && broken.lines().all(|line| line.len() <= WIDEST),
            "{broken}"
        );
        assert!(broken.lines().skip(1).all(|line| line.starts_with("        ")), "{broken}");
        let words = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
        assert_eq!(words(&broken), words(&long));
        // The sum is looser than its products.
        let sum =
            format!("x = {} + {};\n", ["aaaaaaaaaa"; 6].join(" * "), ["bbbbbbbbbb"; 5].join(" * "));
        assert!(folded(&sum, "  ").lines().next().unwrap().len() > 40, "{}", folded(&sum, "  "));
        let comment = format!("    double x; /* {} */\n", "word ".repeat(40));
        assert_eq!(folded(&comment, "    "), comment);
        let alone = format!("    {};\n", "a".repeat(200));
        assert_eq!(folded(&alone, "    "), alone);
    }

    #[test]
    fn every_function_of_numbers_alone_is_in_the_kernels() {
        use caltrin_core::pure::Pure;
        for function in [
            Pure::Window,
            Pure::Through,
            Pure::East,
            Pure::Up,
            Pure::South,
            Pure::Rises,
            Pure::Highest,
            Pure::Sets,
            Pure::ArcSine,
            Pure::Compass,
        ] {
            let part = kernel_parts(include_str!("rust/kernel.rs"), &[Helper::of(function)]);
            let takes = part.split("fn ").nth(1).unwrap().split(')').next().unwrap();
            let wanted = function.arguments() + usize::from(function.first().is_some());
            assert_eq!(takes.matches(": f64").count(), wanted, "{function:?}: {takes}");
        }
    }

    #[test]
    fn every_kernel_file_has_every_helper_once() {
        let files = [
            include_str!("c/kernel.h"),
            include_str!("rust/kernel.rs"),
            include_str!("csharp/kernel.cs"),
            include_str!("js/kernel.mjs"),
        ];
        for file in files {
            for helper in Helper::ALL.iter().copied() {
                let marker = format!("//: {}\n", helper.name());
                assert_eq!(file.matches(&marker).count(), 1, "{marker}");
                assert!(!kernel_parts(file, &[helper]).trim().is_empty());
            }
        }
    }
}
