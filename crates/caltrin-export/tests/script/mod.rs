//! Runs Saltscript, the made-up script language of `saltscript.toml`: tasks, values with types, and what the language
//! says of words and counts. Lines that end inside brackets or with an operator go on.

use std::cell::RefCell;
use std::collections::HashMap;
use std::rc::Rc;

/// A value.
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    Real(f64),
    Single(f32),
    Word(u32),
    Count(u64),
    Flag(bool),
    Reals(Rc<Vec<f64>>),
    Words(Rc<Vec<u32>>),
    Text(Rc<str>),
    /// Entries that can be put.
    List(Rc<RefCell<Vec<Value>>>),
    /// Fields by their names.
    Record(Rc<RefCell<HashMap<String, Value>>>),
    None,
}

#[derive(Clone, Debug, PartialEq)]
enum Token {
    Name(String),
    Value(Value),
    Sign(String),
    End,
}

enum Node {
    Value(Value),
    Name(String),
    Call(String, Vec<Node>),
    Infix(String, Box<Node>, Box<Node>),
    Prefix(String, Box<Node>),
}

enum Line {
    Set(String, Node),
    Give(Node),
    Leave,
    When(Vec<(Option<Node>, Vec<Line>)>),
    Repeat(Node, Vec<Line>),
    Gather(String, Node, Vec<Line>),
    Choose(Node, Vec<Line>),
    Do(Node),
    Each(String, Node, Node, Vec<Line>),
}

struct Task {
    parameters: Vec<String>,
    body: Vec<Line>,
}

/// A script that was read.
pub struct Script {
    tasks: HashMap<String, Task>,
    constants: HashMap<String, Value>,
}

/// What is wrong with a script, and about where.
type Read<T> = Result<T, String>;

fn tokens(text: &str) -> Read<Vec<Token>> {
    const SIGNS: [&str; 13] = ["<=", ">=", "<", ">", "+", "-", "*", "/", "(", ")", ",", "=", ":"];
    let mut all = Vec::new();
    for line in text.lines() {
        let mut rest = line.split('#').next().unwrap_or("").trim();
        while !rest.is_empty() {
            let first = rest.chars().next().expect("it is not empty");
            if let Some(inner) = rest.strip_prefix('"') {
                let (text, after) = inner.split_once('"').ok_or("a text ends on its line")?;
                all.push(Token::Value(Value::Text(text.into())));
                rest = after.trim_start();
                continue;
            }
            let length = if first.is_ascii_digit() {
                let hex = rest.starts_with("0x");
                let digit = |(at, c): &(usize, char)| {
                    let exponent =
                        !hex && *at > 0 && "+-".contains(*c) && rest[..*at].ends_with('e');
                    c.is_ascii_alphanumeric() || *c == '.' || exponent
                };
                rest.char_indices().take_while(digit).count()
            } else if first.is_ascii_alphabetic() {
                let inside = |c: &char| c.is_ascii_alphanumeric() || matches!(c, '_' | '.');
                rest.chars().take_while(inside).count()
            } else {
                let sign = SIGNS.iter().find(|sign| rest.starts_with(**sign));
                sign.ok_or_else(|| format!("no such sign: {rest}"))?.len()
            };
            let (word, after) = rest.split_at(length);
            all.push(if first.is_ascii_digit() {
                Token::Value(literal(word)?)
            } else if first.is_ascii_alphabetic() {
                match word {
                    "on" | "off" => Token::Value(Value::Flag(word == "on")),
                    word => Token::Name(word.to_owned()),
                }
            } else {
                Token::Sign(word.to_owned())
            });
            rest = after.trim_start();
        }
        all.push(Token::End);
    }
    Ok(joined(all))
}

/// Ends of lines go where a bracket is open, before an operator, and after one.
fn joined(all: Vec<Token>) -> Vec<Token> {
    let operator = |token: &Token| match token {
        Token::Sign(sign) => !matches!(sign.as_str(), "(" | ")" | ":"),
        Token::Name(name) => matches!(name.as_str(), "and" | "or" | "is" | "isnt"),
        Token::Value(_) | Token::End => false,
    };
    let (mut out, mut depth): (Vec<Token>, i32) = (Vec::new(), 0);
    for (n, token) in all.iter().enumerate() {
        match token {
            Token::Sign(sign) if sign == "(" => depth += 1,
            Token::Sign(sign) if sign == ")" => depth -= 1,
            _ => {}
        }
        let goes_on =
            depth > 0 || out.last().is_some_and(&operator) || all.get(n + 1).is_some_and(&operator);
        if *token != Token::End || !(goes_on || out.last() == Some(&Token::End)) {
            out.push(token.clone());
        }
    }
    out
}

fn literal(word: &str) -> Read<Value> {
    let wrong = || format!("no such number: {word}");
    let whole = |text: &str| match text.strip_prefix("0x") {
        Some(hex) => u64::from_str_radix(hex, 16).ok(),
        None => text.parse().ok(),
    };
    Ok(if let Some(digits) = word.strip_suffix('w') {
        Value::Word(u32::try_from(whole(digits).ok_or_else(wrong)?).map_err(|_| wrong())?)
    } else if let Some(digits) = word.strip_suffix('c').filter(|_| !word.starts_with("0x")) {
        Value::Count(whole(digits).ok_or_else(wrong)?)
    } else {
        Value::Real(word.parse().map_err(|_| wrong())?)
    })
}

struct Reader {
    tokens: Vec<Token>,
    at: usize,
}

impl Reader {
    fn next(&mut self) -> Token {
        let token = self.tokens.get(self.at).cloned().unwrap_or(Token::End);
        self.at += 1;
        token
    }

    fn is(&self, word: &str) -> bool {
        match self.tokens.get(self.at) {
            Some(Token::Name(text) | Token::Sign(text)) => text == word,
            Some(Token::Value(_) | Token::End) | None => false,
        }
    }

    fn take(&mut self, word: &str) -> bool {
        let is = self.is(word);
        self.at += usize::from(is);
        is
    }

    fn want(&mut self, word: &str) -> Read<()> {
        let found = self.tokens.get(self.at).cloned();
        self.take(word).then_some(()).ok_or_else(|| format!("`{word}` wanted, not {found:?}"))
    }

    fn name(&mut self) -> Read<String> {
        match self.next() {
            Token::Name(name) => Ok(name),
            other => Err(format!("a name wanted, not {other:?}")),
        }
    }

    fn block(&mut self) -> Read<Vec<Line>> {
        let mut lines = Vec::new();
        loop {
            while self.tokens.get(self.at) == Some(&Token::End) {
                self.at += 1;
            }
            if self.is("done") || self.is("also") || self.is("otherwise") {
                return Ok(lines);
            }
            // Cases are numbered from 0 on.
            if let Some(Token::Value(Value::Real(n))) = self.tokens.get(self.at) {
                if *n as usize != lines.len() {
                    return Err(format!("case {n} stands at {}", lines.len()));
                }
                self.at += 1;
                self.want(":")?;
            }
            lines.push(self.line()?);
        }
    }

    fn line(&mut self) -> Read<Line> {
        let word = self.name()?;
        Ok(match word.as_str() {
            "keep" | "vary" => {
                let name = self.name()?;
                self.want("=")?;
                Line::Set(name, self.expr(0)?)
            }
            "set" => {
                let name = self.name()?;
                self.want("to")?;
                Line::Set(name, self.expr(0)?)
            }
            "give" if self.tokens.get(self.at) == Some(&Token::End) => {
                Line::Give(Node::Value(Value::None))
            }
            "give" => Line::Give(self.expr(0)?),
            "gather" => {
                let name = self.name()?;
                self.want("from")?;
                let line = Line::Gather(name, self.expr(0)?, self.block()?);
                self.want("done")?;
                line
            }
            "choose" => {
                let asked = self.expr(0)?;
                let mut cases = self.block()?;
                self.want("also")?;
                self.want(":")?;
                cases.extend(self.block()?);
                self.want("done")?;
                Line::Choose(asked, cases)
            }
            "leave" => Line::Leave,
            "when" => {
                let mut blocks = vec![(Some(self.expr(0)?), self.block()?)];
                while self.take("also") {
                    self.want("when")?;
                    blocks.push((Some(self.expr(0)?), self.block()?));
                }
                if self.take("otherwise") {
                    blocks.push((None, self.block()?));
                }
                self.want("done")?;
                Line::When(blocks)
            }
            "repeat" => {
                let line = Line::Repeat(self.expr(0)?, self.block()?);
                self.want("done")?;
                line
            }
            "each" => {
                let name = self.name()?;
                self.want("from")?;
                let from = self.expr(0)?;
                self.want("below")?;
                let line = Line::Each(name, from, self.expr(0)?, self.block()?);
                self.want("done")?;
                line
            }
            task if self.take("(") => Line::Do(self.call(task.to_owned())?),
            other => return Err(format!("`{other}` begins no line")),
        })
    }

    /// What stands behind the bracket of a call.
    fn call(&mut self, name: String) -> Read<Node> {
        let mut parts = Vec::new();
        while !self.take(")") {
            parts.push(self.expr(0)?);
            let _ = self.take(",");
        }
        Ok(Node::Call(name, parts))
    }

    /// An expression of operators that bind at least so tightly.
    fn expr(&mut self, least: u8) -> Read<Node> {
        let mut left = match self.next() {
            Token::Value(value) => Node::Value(value),
            Token::Sign(sign) if sign == "(" => {
                let inner = self.expr(0)?;
                self.want(")")?;
                inner
            }
            Token::Sign(sign) if sign == "-" => Node::Prefix(sign, Box::new(self.expr(7)?)),
            Token::Name(name) if name == "not" => Node::Prefix(name, Box::new(self.expr(3)?)),
            Token::Name(name) if self.take("(") => self.call(name)?,
            Token::Name(name) => Node::Name(name),
            other => return Err(format!("no value: {other:?}")),
        };
        while let Some(Token::Name(sign) | Token::Sign(sign)) = self.tokens.get(self.at).cloned() {
            let level = match sign.as_str() {
                "or" => 1,
                "and" => 2,
                "is" | "isnt" | "<" | "<=" | ">" | ">=" => 4,
                "+" | "-" => 5,
                "*" | "/" => 6,
                _ => break,
            };
            if level < least {
                break;
            }
            self.at += 1;
            left = Node::Infix(sign, Box::new(left), Box::new(self.expr(level + 1)?));
        }
        Ok(left)
    }
}

/// How a block ended.
enum Flow {
    On,
    Left,
    Gave(Value),
}

impl Script {
    /// Reads a script.
    pub fn read(text: &str) -> Read<Script> {
        let mut reader = Reader { tokens: tokens(text)?, at: 0 };
        let mut script = Script { tasks: HashMap::new(), constants: HashMap::new() };
        while reader.at < reader.tokens.len() {
            if reader.take("let") {
                let name = reader.name()?;
                reader.want("=")?;
                let value = script.value(&reader.expr(0)?, &HashMap::new())?;
                script.constants.insert(name, value);
            } else if reader.take("task") {
                let name = reader.name()?;
                reader.want("(")?;
                let mut parameters = Vec::new();
                while !reader.take(")") {
                    parameters.push(reader.name()?);
                    let _ = reader.take(",");
                }
                let body = reader.block()?;
                reader.want("done")?;
                script.tasks.insert(name, Task { parameters, body });
            } else {
                reader.at += 1;
            }
        }
        Ok(script)
    }

    /// Runs a task.
    pub fn run(&self, name: &str, given: Vec<Value>) -> Read<Value> {
        let task = self.tasks.get(name).ok_or_else(|| format!("no task `{name}`"))?;
        let mut locals: HashMap<String, Value> =
            task.parameters.iter().cloned().zip(given).collect();
        match self.block(&task.body, &mut locals)? {
            Flow::Gave(value) => Ok(value),
            Flow::On | Flow::Left => Ok(Value::None),
        }
    }

    fn block(&self, lines: &[Line], locals: &mut HashMap<String, Value>) -> Read<Flow> {
        for line in lines {
            match line {
                Line::Set(name, value) => {
                    let value = self.value(value, locals)?;
                    match name.split_once('.') {
                        None => drop(locals.insert(name.clone(), value)),
                        Some((owner, field)) => match locals.get(owner) {
                            Some(Value::Record(fields)) => {
                                fields.borrow_mut().insert(field.to_owned(), value);
                            }
                            other => return Err(format!("`{owner}` is {other:?}")),
                        },
                    }
                }
                Line::Do(call) => drop(self.value(call, locals)?),
                Line::Gather(name, from, block) => loop {
                    let value = self.value(from, locals)?;
                    if value == Value::None {
                        break;
                    }
                    locals.insert(name.clone(), value);
                    match self.block(block, locals)? {
                        Flow::On => {}
                        Flow::Left => break,
                        gave => return Ok(gave),
                    }
                },
                Line::Choose(asked, cases) => {
                    let Value::Word(at) = self.value(asked, locals)? else {
                        return Err("words are chosen by".to_owned());
                    };
                    let case = &cases[(at as usize).min(cases.len() - 1)];
                    match self.block(std::slice::from_ref(case), locals)? {
                        Flow::On => {}
                        ended => return Ok(ended),
                    }
                }
                Line::Give(value) => return self.value(value, locals).map(Flow::Gave),
                Line::Leave => return Ok(Flow::Left),
                Line::When(blocks) => {
                    for (asked, block) in blocks {
                        let chosen = match asked {
                            Some(asked) => self.value(asked, locals)? == Value::Flag(true),
                            None => true,
                        };
                        if chosen {
                            match self.block(block, locals)? {
                                Flow::On => break,
                                ended => return Ok(ended),
                            }
                        }
                    }
                }
                Line::Repeat(asked, block) => {
                    while self.value(asked, locals)? == Value::Flag(true) {
                        match self.block(block, locals)? {
                            Flow::On => {}
                            Flow::Left => break,
                            gave => return Ok(gave),
                        }
                    }
                }
                Line::Each(name, from, to, block) => {
                    let (from, to) = (self.value(from, locals)?, self.value(to, locals)?);
                    let (from, to, words) = match (from, to) {
                        (Value::Count(from), Value::Count(to)) => (from, to, false),
                        (Value::Word(from), Value::Word(to)) => (from.into(), to.into(), true),
                        _ => return Err("counts and words are counted".to_owned()),
                    };
                    for n in from..to {
                        let count = if words { Value::Word(n as u32) } else { Value::Count(n) };
                        locals.insert(name.clone(), count);
                        match self.block(block, locals)? {
                            Flow::On => {}
                            Flow::Left => break,
                            gave => return Ok(gave),
                        }
                    }
                }
            }
        }
        Ok(Flow::On)
    }

    fn value(&self, node: &Node, locals: &HashMap<String, Value>) -> Read<Value> {
        use Value::{Count, Flag, List, Real, Reals, Record, Single, Text, Word, Words};
        let flag = |node: &Node| self.value(node, locals).map(|value| value == Flag(true));
        Ok(match node {
            Node::Value(value) => value.clone(),
            Node::Name(name) => {
                let known = locals.get(name).or_else(|| self.constants.get(name)).cloned();
                let field =
                    || match name.split_once('.').map(|(own, field)| (locals.get(own), field)) {
                        Some((Some(Record(fields)), field)) => fields.borrow().get(field).cloned(),
                        _ => None,
                    };
                known.or_else(field).ok_or_else(|| format!("no `{name}`"))?
            }
            Node::Prefix(sign, part) => match (sign.as_str(), self.value(part, locals)?) {
                ("-", Real(v)) => Real(-v),
                ("not", Flag(on)) => Flag(!on),
                (sign, value) => return Err(format!("{sign} {value:?}")),
            },
            Node::Infix(sign, a, b) if sign == "and" => Flag(flag(a)? && flag(b)?),
            Node::Infix(sign, a, b) if sign == "or" => Flag(flag(a)? || flag(b)?),
            Node::Infix(sign, a, b) => {
                let (a, b) = (self.value(a, locals)?, self.value(b, locals)?);
                match (sign.as_str(), &a, &b) {
                    ("is", ..) => Flag(a == b),
                    ("isnt", ..) => Flag(a != b),
                    ("+", Real(a), Real(b)) => Real(a + b),
                    ("-", Real(a), Real(b)) => Real(a - b),
                    ("*", Real(a), Real(b)) => Real(a * b),
                    ("/", Real(a), Real(b)) => Real(a / b),
                    ("+", Count(a), Count(b)) => Count(a + b),
                    ("-", Count(a), Count(b)) => Count(a - b),
                    ("*", Count(a), Count(b)) => Count(a * b),
                    ("<", Real(a), Real(b)) => Flag(a < b),
                    ("<=", Real(a), Real(b)) => Flag(a <= b),
                    (">", Real(a), Real(b)) => Flag(a > b),
                    (">=", Real(a), Real(b)) => Flag(a >= b),
                    ("<", Count(a), Count(b)) => Flag(a < b),
                    ("<=", Count(a), Count(b)) => Flag(a <= b),
                    (">", Count(a), Count(b)) => Flag(a > b),
                    (">=", Count(a), Count(b)) => Flag(a >= b),
                    ("<", Word(a), Word(b)) => Flag(a < b),
                    (">=", Word(a), Word(b)) => Flag(a >= b),
                    _ => return Err(format!("{a:?} {sign} {b:?}")),
                }
            }
            // Only what is chosen is computed.
            Node::Call(name, parts) if name == "either" => {
                let chosen = if flag(&parts[0])? { 1 } else { 2 };
                self.value(&parts[chosen], locals)?
            }
            Node::Call(name, parts) => {
                let values = parts.iter().map(|part| self.value(part, locals));
                let values: Vec<Value> = values.collect::<Read<_>>()?;
                match (name.as_str(), values.as_slice()) {
                    ("root", [Real(v)]) => Real(v.sqrt()),
                    ("whole", [Real(v)]) => Real(v.floor() + 0.0),
                    ("nothing", [Real(v)]) => Flag(v.is_nan()),
                    ("finite", [Real(v)]) => Flag(v.is_finite()),
                    ("add", [Word(a), Word(b)]) => Word(a.wrapping_add(*b)),
                    ("less", [Word(a), Word(b)]) => Word(a.wrapping_sub(*b)),
                    ("times", [Word(a), Word(b)]) => Word(a.wrapping_mul(*b)),
                    ("differ", [Word(a), Word(b)]) => Word(a ^ b),
                    ("both", [Word(a), Word(b)]) => Word(a & b),
                    ("lower", [Word(a), Count(b)]) => Word(a >> b),
                    ("over", [Count(a), Count(b)]) => Count(a / b),
                    ("rest", [Count(a), Count(b)]) => Count(a % b),
                    ("real", [Word(v)]) => Real(f64::from(*v)),
                    ("real", [Count(v)]) => Real(*v as f64),
                    ("count", [Real(v)]) => Count(*v as u64),
                    ("count", [Word(v)]) => Count(u64::from(*v)),
                    ("word", [Real(v)]) => Word(*v as i64 as u32),
                    ("single", [Real(v)]) => Single(*v as f32),
                    ("over", [Word(a), Word(b)]) => Word(a / b),
                    ("rest", [Word(a), Word(b)]) => Word(a % b),
                    ("real", [Single(v)]) => Real(f64::from(*v)),
                    ("upper", [Real(v)]) => Word((v.to_bits() >> 32) as u32),
                    ("under", [Real(v)]) => Word(v.to_bits() as u32),
                    ("new", []) => Record(Rc::default()),
                    ("filled", [Count(n), value]) => {
                        List(Rc::new(RefCell::new(vec![value.clone(); *n as usize])))
                    }
                    ("list", all) => List(Rc::new(RefCell::new(all.to_vec()))),
                    ("put", [List(all), Count(n), value]) => {
                        all.borrow_mut()[*n as usize] = value.clone();
                        Value::None
                    }
                    ("become", [Record(run), Record(other)]) => {
                        *run.borrow_mut() = other.borrow().clone();
                        Value::None
                    }
                    ("size", [List(all)]) => Count(all.borrow().len() as u64),
                    ("bytes", [Text(text)]) => Real(text.bytes().map(f64::from).sum()),
                    ("at", [List(all), Count(n)]) => all.borrow()[*n as usize].clone(),
                    ("at", [Reals(all), Count(n)]) => Real(all[*n as usize]),
                    ("at", [Words(all), Count(n)]) => Word(all[*n as usize]),
                    (name, values) if !self.tasks.contains_key(name) => {
                        return Err(format!("no task `{name}` of {values:?}"));
                    }
                    _ => self.run(name, values)?,
                }
            }
        })
    }
}
