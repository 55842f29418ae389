//! Reads functions from restricted Rust, the language of the kernel's own source.

use std::collections::{BTreeMap, HashMap};

use syn::{BinOp, Expr as Syntax, Item, Lit, Pat, RangeLimits, ReturnType, Stmt, UnOp};
use thiserror::Error;

use super::{
    Constant, Expr, Function, Local, LocalId, Module, Operation, Receiver, RunField, Statement,
    Type,
};

/// What the reader does not know.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[error("`{function}`: {what}")]
pub struct ReadError {
    /// The function or constant.
    pub function: String,
    /// What is wrong.
    pub what: String,
}

type Read<T> = Result<T, String>;

/// What a source leaves open: values, fields of the run, and what names stand for.
#[derive(Default)]
pub struct Known<'k> {
    /// What constants stand for. A choice by one that is on or off is made at once.
    pub values: BTreeMap<&'k str, Expr>,
    /// The fields of the run: their types, and whether there are several of each.
    pub fields: BTreeMap<&'k str, Type>,
    /// What functions and fields are called in the module; others keep their names.
    pub names: BTreeMap<&'k str, String>,
    /// Functions of the run without parameters and results that are written elsewhere.
    pub calls: Vec<&'k str>,
    /// Whether the host calls all functions that are `pub`, also those that have nothing of the run.
    pub open: bool,
    /// Functions that the language file has, with what they take and give.
    pub supplied: Vec<(&'k str, Vec<Type>, Type)>,
    /// Tables of the file: their names in the module and their types.
    pub tables: BTreeMap<&'k str, (String, Type)>,
}

/// Reads all constants and functions of a source that needs nothing else.
pub fn module(source: &str) -> Result<Module, ReadError> {
    module_with(source, &Module::default(), &Known::default())
}

/// Reads all constants and functions of a source, which may use those of the module `around`.
pub fn module_with(source: &str, around: &Module, known: &Known<'_>) -> Result<Module, ReadError> {
    let error = |function: &str, what: String| ReadError { function: function.to_owned(), what };
    let file = syn::parse_file(source).map_err(|e| error("file", e.to_string()))?;
    let mut module = Module::default();
    let mut signatures = HashMap::new();
    for name in &known.calls {
        signatures.insert((*name).to_owned(), (Vec::new(), Type::Void));
    }
    for (name, takes, gives) in &known.supplied {
        signatures.insert((*name).to_owned(), (takes.clone(), *gives));
    }
    let mut all: Vec<Constant> = around.constants.clone();
    for function in &around.functions {
        let takes = function.locals[..function.parameters].iter().map(|local| local.ty);
        signatures.insert(function.name.clone(), (takes.collect(), function.result));
    }
    for item in &file.items {
        match item {
            Item::Const(item) => {
                let name = item.ident.to_string().to_ascii_lowercase();
                let constant = constant(item).map_err(|what| error(&name, what))?;
                all.push(constant.clone());
                module.constants.push(constant);
            }
            Item::Fn(item) => {
                let name = item.sig.ident.to_string();
                let signature = signature(item).map_err(|what| error(&name, what))?;
                // Calls have the name in the module, which tells their type.
                if let Some(own) = known.names.get(name.as_str()) {
                    signatures.insert(own.clone(), signature.clone());
                }
                signatures.insert(name, signature);
            }
            Item::Use(_) => {}
            _ => {
                return Err(error(
                    "file",
                    "only constants, functions and uses are known".to_owned(),
                ));
            }
        }
    }
    for item in &file.items {
        if let Item::Fn(item) = item {
            let name = item.sig.ident.to_string();
            let reader = Reader::new(&all, &signatures, known);
            let function = reader.function(item).map_err(|what| error(&name, what))?;
            module.functions.push(function);
        }
    }
    Ok(module)
}

/// The first paragraph of a comment.
fn about(attributes: &[syn::Attribute]) -> String {
    let mut lines = Vec::new();
    for attribute in attributes {
        if let syn::Meta::NameValue(pair) = &attribute.meta
            && pair.path.is_ident("doc")
            && let Syntax::Lit(literal) = &pair.value
            && let Lit::Str(text) = &literal.lit
        {
            let text = text.value().trim().to_owned();
            if text.is_empty() {
                break;
            }
            lines.push(text);
        }
    }
    lines.join(" ")
}

fn constant(item: &syn::ItemConst) -> Read<Constant> {
    let ty = value_type(&item.ty)?;
    let signatures = HashMap::new();
    let known = Known::default();
    let mut reader = Reader::new(&[], &signatures, &known);
    Ok(Constant {
        name: item.ident.to_string().to_ascii_lowercase(),
        about: about(&item.attrs),
        ty,
        value: reader.typed(&item.expr, ty)?,
    })
}

fn value_type(ty: &syn::Type) -> Read<Type> {
    let named = |ty: &syn::Type| match ty {
        syn::Type::Path(path) => match path.path.get_ident()?.to_string().as_str() {
            "f64" => Some(Type::F64),
            "f32" => Some(Type::F32),
            "u32" => Some(Type::Word),
            "usize" => Some(Type::Int),
            "bool" => Some(Type::Bool),
            "Fixed" => Some(Type::Fixed),
            _ => None,
        },
        _ => None,
    };
    let known = match ty {
        syn::Type::Reference(reference) => match &*reference.elem {
            syn::Type::Slice(slice) => match named(&slice.elem) {
                Some(Type::F64) => Some(Type::Numbers),
                Some(Type::Word) => Some(Type::Words),
                Some(Type::F32) if reference.mutability.is_some() => Some(Type::Singles),
                None if is_byte(&slice.elem) => Some(match reference.mutability {
                    Some(_) => Type::Buffer,
                    None => Type::Bytes,
                }),
                _ => None,
            },
            syn::Type::Path(path) if path.path.is_ident("str") => Some(Type::Text),
            _ => None,
        },
        ty => named(ty),
    };
    let known = match (known, ty) {
        (Some(Type::Words), syn::Type::Reference(list)) if list.mutability.is_some() => {
            Some(Type::List)
        }
        (known, _) => known,
    };
    known.ok_or_else(|| {
        "types are f64, f32, u32, usize, bool, &str, and slices of f64, u32, f32 and u8 as they are known".to_owned()
    })
}

fn is_byte(ty: &syn::Type) -> bool {
    matches!(ty, syn::Type::Path(path) if path.path.is_ident("u8"))
}

/// What a function takes and gives.
type Signature = (Vec<Type>, Type);

fn signature(item: &syn::ItemFn) -> Read<Signature> {
    let takes = item.sig.inputs.iter().filter(|input| receiver(input) == Receiver::None);
    let takes = takes.map(|input| match input {
        syn::FnArg::Typed(input) => value_type(&input.ty),
        syn::FnArg::Receiver(_) => Err("the run is called `run`".to_owned()),
    });
    let takes: Read<Vec<Type>> = takes.collect();
    let gives = match &item.sig.output {
        ReturnType::Type(_, ty) => value_type(ty)?,
        ReturnType::Default => Type::Void,
    };
    Ok((takes?, gives))
}

/// What a parameter is of the run: `run: &Run` or `run: &mut Run`.
fn receiver(input: &syn::FnArg) -> Receiver {
    let syn::FnArg::Typed(input) = input else { return Receiver::None };
    let syn::Type::Reference(reference) = &*input.ty else { return Receiver::None };
    match &*reference.elem {
        syn::Type::Path(path) if path.path.is_ident("Run") => match reference.mutability {
            Some(_) => Receiver::Changes,
            None => Receiver::Reads,
        },
        _ => Receiver::None,
    }
}

struct Reader<'m> {
    constants: &'m [Constant],
    signatures: &'m HashMap<String, Signature>,
    known: &'m Known<'m>,
    locals: Vec<Local>,
    /// What the names of the open blocks stand for, the innermost last.
    scopes: Vec<Vec<(String, LocalId)>>,
    result: Type,
}

impl<'m> Reader<'m> {
    fn new(
        constants: &'m [Constant],
        signatures: &'m HashMap<String, Signature>,
        known: &'m Known<'m>,
    ) -> Self {
        let (locals, scopes) = (Vec::new(), vec![Vec::new()]);
        Reader { constants, signatures, known, locals, scopes, result: Type::F64 }
    }

    /// What a function or field is called in the module.
    fn named(&self, name: &str) -> String {
        self.known.names.get(name).cloned().unwrap_or_else(|| name.to_owned())
    }

    fn function(mut self, item: &syn::ItemFn) -> Read<Function> {
        let (takes, gives) = signature(item)?;
        let inputs = item.sig.inputs.iter();
        let inputs: Vec<_> = inputs.filter(|input| receiver(input) == Receiver::None).collect();
        let of_run = item.sig.inputs.first().map_or(Receiver::None, receiver);
        for (input, ty) in inputs.into_iter().zip(takes) {
            if let syn::FnArg::Typed(input) = input {
                self.local(&name_of(&input.pat)?, ty);
            }
        }
        let parameters = self.locals.len();
        self.result = gives;
        let body = self.block(&item.block, true)?;
        let mut function = Function {
            name: self.named(&item.sig.ident.to_string()),
            about: about(&item.attrs),
            receiver: of_run,
            public: matches!(item.vis, syn::Visibility::Public(_))
                && (self.known.open || of_run != Receiver::None),
            parameters,
            locals: self.locals,
            result: self.result,
            body,
        };
        super::mark(&mut function);
        // What was made for a choice that was made already.
        let Function { locals, body, .. } = &mut function;
        body.retain(|each| !matches!(each, Statement::Let(id, _) if !locals[id.0].used));
        Ok(function)
    }

    fn local(&mut self, name: &str, ty: Type) -> LocalId {
        let id = LocalId(self.locals.len());
        let name = name.trim_start_matches('_').to_owned();
        let name = if name.is_empty() { "pass".to_owned() } else { name };
        self.locals.push(Local { name: name.clone(), ty, changes: false, used: false });
        self.scopes.last_mut().expect("a block is open").push((name, id));
        id
    }

    fn found(&self, name: &str) -> Option<LocalId> {
        let all = self.scopes.iter().rev().flat_map(|scope| scope.iter().rev());
        all.into_iter().find(|(known, _)| known == name).map(|(_, id)| *id)
    }

    fn block(&mut self, block: &syn::Block, last: bool) -> Read<Vec<Statement>> {
        self.scopes.push(Vec::new());
        let mut statements = Vec::new();
        for (n, statement) in block.stmts.iter().enumerate() {
            let last = last && n + 1 == block.stmts.len();
            match statement {
                Stmt::Local(local) => statements.push(self.new_local(local)?),
                Stmt::Expr(expr, semicolon) => {
                    let ends = last && semicolon.is_none();
                    statements.extend(self.statement(expr, ends)?);
                }
                Stmt::Item(_) | Stmt::Macro(_) => {
                    return Err("there are no items or macros in a function".to_owned());
                }
            }
        }
        self.scopes.pop();
        // Nothing runs after what leaves.
        let leaves = |statement: &Statement| {
            matches!(statement, Statement::Return(_) | Statement::Stop | Statement::Break)
        };
        if let Some(at) = statements.iter().position(leaves) {
            statements.truncate(at + 1);
        }
        Ok(statements)
    }

    fn new_local(&mut self, local: &syn::Local) -> Read<Statement> {
        let (pattern, ty) = match &local.pat {
            Pat::Type(typed) => (&*typed.pat, Some(value_type(&typed.ty)?)),
            pattern => (pattern, None),
        };
        let name = name_of(pattern)?;
        let value = &local.init.as_ref().ok_or("`let` has a value")?.expr;
        let value = self.expr(value, ty)?;
        let ty = ty.unwrap_or_else(|| self.type_of(&value));
        Ok(Statement::Let(self.local(&name, ty), value))
    }

    fn statement(&mut self, expr: &Syntax, ends: bool) -> Read<Vec<Statement>> {
        Ok(vec![match expr {
            Syntax::Return(give) => match &give.expr {
                Some(value) => Statement::Return(self.typed(value, self.result)?),
                None => Statement::Stop,
            },
            Syntax::Call(call) if path(&call.func).as_deref() == Some("restart") => {
                let seed = call.args.last().ok_or("a run starts with a seed")?;
                Statement::Restart(self.typed(seed, Type::Word)?)
            }
            Syntax::Call(call) if self.result == Type::Void || !ends => match self.call(call)? {
                Expr::Call(name, parts) => Statement::Call(name, parts),
                _ => return Err("this does nothing".to_owned()),
            },
            Syntax::Assign(assign) if self.field(&assign.left)?.is_some() => {
                let place = self.field(&assign.left)?.ok_or("just seen")?;
                let value = self.typed(&assign.right, place.ty)?;
                Statement::Set(place, None, value)
            }
            Syntax::Break(_) => Statement::Break,
            Syntax::Assign(assign) if matches!(&*assign.left, Syntax::Index(_)) => {
                let Syntax::Index(index) = &*assign.left else { return Err("just seen".into()) };
                let list = self.target(&index.expr)?;
                let at = self.entry_index(&index.index)?;
                Statement::SetEntry(list, at, self.typed(&assign.right, Type::Word)?)
            }
            Syntax::Assign(assign) => {
                let target = self.target(&assign.left)?;
                let ty = self.locals[target.0].ty;
                Statement::Assign(target, None, self.typed(&assign.right, ty)?)
            }
            Syntax::Binary(binary) if assigned(&binary.op).is_some() => {
                let target = self.target(&binary.left)?;
                let ty = self.locals[target.0].ty;
                let (symbol, _) = assigned(&binary.op).expect("just seen");
                let operation = operation_of(symbol, ty)?;
                let right = if symbol == ">>" { Type::Int } else { ty };
                Statement::Assign(target, Some(operation), self.typed(&binary.right, right)?)
            }
            Syntax::While(repeat) => {
                let condition = self.typed(&repeat.cond, Type::Bool)?;
                Statement::While(condition, self.block(&repeat.body, false)?)
            }
            Syntax::ForLoop(each) => {
                let Syntax::Range(range) = &*each.expr else {
                    return Err("`for` goes over a range".to_owned());
                };
                let (Some(from), Some(to), RangeLimits::HalfOpen(_)) =
                    (&range.start, &range.end, &range.limits)
                else {
                    return Err("a range is `from..to`".to_owned());
                };
                let to = self.expr(to, Some(Type::Int))?;
                let ty = self.type_of(&to);
                let from = self.typed(from, ty)?;
                self.scopes.push(Vec::new());
                let name = match &*each.pat {
                    Pat::Wild(_) => "_".to_owned(),
                    pattern => name_of(pattern)?,
                };
                let counter = self.local(&name, ty);
                let body = self.block(&each.body, false)?;
                self.scopes.pop();
                Statement::For(counter, from, to, body)
            }
            Syntax::If(choice) if !ends || self.result == Type::Void || !is_value(expr) => {
                let condition = self.typed(&choice.cond, Type::Bool)?;
                // What is not chosen is not read: it may ask for what there is not.
                if condition == Expr::Flag(true) {
                    return self.block(&choice.then_branch, ends);
                }
                let other = match &choice.else_branch {
                    Some((_, other)) => match &**other {
                        Syntax::Block(block) => self.block(&block.block, ends),
                        other => self.statement(other, ends),
                    },
                    None => Ok(Vec::new()),
                };
                if condition == Expr::Flag(false) {
                    return other;
                }
                Statement::If(condition, self.block(&choice.then_branch, ends)?, other?)
            }
            value if ends => Statement::Return(self.typed(value, self.result)?),
            _ => return Err("this is no statement".to_owned()),
        }])
    }

    /// A field of the run, if it is one.
    fn field(&mut self, expr: &Syntax) -> Read<Option<RunField>> {
        if let Syntax::Index(index) = expr
            && let Some(mut place) = self.field(&index.expr)?
        {
            let at = self.entry_index(&index.index)?;
            place.index = Some(Box::new(at));
            return Ok(Some(place));
        }
        let Syntax::Field(field) = expr else { return Ok(None) };
        if path(&field.base).as_deref() != Some("run") {
            return Ok(None);
        }
        let syn::Member::Named(name) = &field.member else {
            return Err("fields have names".to_owned());
        };
        let name = name.to_string();
        let ty =
            self.known.fields.get(name.as_str()).ok_or(format!("`run.{name}` is not known"))?;
        Ok(Some(RunField { field: self.named(&name), index: None, part: None, ty: *ty }))
    }

    /// The index of an entry: words become indices.
    fn entry_index(&mut self, expr: &Syntax) -> Read<Expr> {
        let at = self.expr(expr, Some(Type::Int))?;
        match self.type_of(&at) {
            Type::Int => Ok(at),
            Type::Word => Ok(Expr::Do(Operation::WordToInt, vec![at])),
            found => Err(format!("{} where int is wanted", found.name())),
        }
    }

    fn target(&self, expr: &Syntax) -> Read<LocalId> {
        let name = path(expr).ok_or("only locals are set")?;
        self.found(&name).ok_or_else(|| format!("`{name}` is no local"))
    }

    fn type_of(&self, expr: &Expr) -> Type {
        match expr {
            Expr::Number(_) => Type::F64,
            Expr::Word(_) => Type::Word,
            Expr::Int(_) => Type::Int,
            Expr::Flag(_) => Type::Bool,
            Expr::Single(_) => Type::F32,
            Expr::Run(place) => place.ty,
            Expr::Table(_, ty) => *ty,
            Expr::Local(id) => self.locals[id.0].ty,
            Expr::Constant(name) => {
                let known = self.constants.iter().find(|constant| &constant.name == name);
                known.map_or(Type::F64, |constant| constant.ty)
            }
            Expr::Do(operation, parts) => {
                let last = || parts.last().map(|part| self.type_of(part));
                operation.result().or_else(last).unwrap_or(Type::F64)
            }
            Expr::Call(name, _) => self.signatures.get(name).map_or(Type::F64, |(_, gives)| *gives),
            Expr::Entry(table, _) => self.locals[table.0].ty.entry().unwrap_or(Type::F64),
            Expr::TableEntry(_, ty, _) => ty.entry().unwrap_or(Type::F64),
            Expr::Zeros(_) => Type::List,
            Expr::Text(_) => Type::Text,
            Expr::Part(.., ty) => *ty,
        }
    }

    /// An expression of a type.
    fn typed(&mut self, expr: &Syntax, ty: Type) -> Read<Expr> {
        let read = self.expr(expr, Some(ty))?;
        match self.type_of(&read) {
            found if found == ty => Ok(read),
            // What may be written may be read.
            Type::Buffer if ty == Type::Bytes => Ok(read),
            found => Err(format!("{} where {} is wanted", found.name(), ty.name())),
        }
    }

    /// An expression; whole numbers take the type that is wanted.
    fn expr(&mut self, expr: &Syntax, wanted: Option<Type>) -> Read<Expr> {
        match expr {
            Syntax::Paren(inner) => self.expr(&inner.expr, wanted),
            Syntax::Lit(literal) => match &literal.lit {
                Lit::Float(text) => {
                    let number = text.base10_parse::<f64>();
                    number.map(Expr::Number).map_err(|e| e.to_string())
                }
                Lit::Int(text) => {
                    let number = text.base10_parse::<u32>().map_err(|e| e.to_string())?;
                    Ok(if wanted == Some(Type::Word) {
                        Expr::Word(number)
                    } else {
                        Expr::Int(number)
                    })
                }
                Lit::Bool(on) => Ok(Expr::Flag(on.value)),
                Lit::Str(text) => Ok(Expr::Text(text.value())),
                _ => Err("literals are numbers, `true` and `false`".to_owned()),
            },
            Syntax::Path(_) => {
                let name = path(expr).ok_or("names have one part")?;
                if let Some(local) = self.found(&name) {
                    return Ok(Expr::Local(local));
                }
                if let Some(value) = self.known.values.get(name.as_str()) {
                    return Ok(value.clone());
                }
                let lower = name.to_ascii_lowercase();
                let known = self.constants.iter().any(|constant| constant.name == lower);
                known.then_some(Expr::Constant(lower)).ok_or(format!("`{name}` is not known"))
            }
            Syntax::Unary(unary) => match unary.op {
                UnOp::Neg(_) => Ok(match self.typed(&unary.expr, Type::F64)? {
                    Expr::Number(v) => Expr::Number(-v),
                    value => Expr::Do(Operation::Negate, vec![value]),
                }),
                UnOp::Not(_) => {
                    let value = self.typed(&unary.expr, Type::Bool)?;
                    Ok(Expr::Do(Operation::Not, vec![value]))
                }
                _ => Err("only `-` and `!` stand before a value".to_owned()),
            },
            Syntax::Binary(binary) => self.binary(binary, wanted),
            Syntax::If(choice) => {
                let condition = self.typed(&choice.cond, Type::Bool)?;
                let then = single(&choice.then_branch).ok_or("a branch is one value")?;
                let (_, other) = choice.else_branch.as_ref().ok_or("a choice has two branches")?;
                let other = match &**other {
                    Syntax::Block(block) => single(&block.block).ok_or("a branch is one value")?,
                    other => other,
                };
                // As with statements, what is not chosen is not read.
                if let Expr::Flag(on) = condition {
                    return self.expr(if on { then } else { other }, wanted);
                }
                let then = self.expr(then, wanted)?;
                let ty = self.type_of(&then);
                let other = self.typed(other, ty)?;
                Ok(Expr::Do(Operation::Select, vec![condition, then, other]))
            }
            Syntax::Cast(cast) => {
                let value = self.expr(&cast.expr, None)?;
                let operation = match (self.type_of(&value), value_type(&cast.ty)?) {
                    (Type::Int, Type::F64) => Operation::IntToNumber,
                    (Type::F64, Type::Int) => Operation::NumberToInt,
                    (Type::Word, Type::Int) => Operation::WordToInt,
                    (Type::Word, Type::F64) => Operation::WordToNumber,
                    (Type::F64, Type::F32) => Operation::ToSingle,
                    _ => return Err("no such conversion".to_owned()),
                };
                Ok(Expr::Do(operation, vec![value]))
            }
            Syntax::Call(call) => self.call(call),
            Syntax::MethodCall(call) => {
                use Operation as Op;
                let name = call.method.to_string();
                let (ty, operation) = match name.as_str() {
                    "sqrt" => (Type::F64, Op::SquareRoot),
                    "is_nan" => (Type::F64, Op::IsNan),
                    "is_finite" => (Type::F64, Op::IsFinite),
                    "wrapping_add" => (Type::Word, Op::WordAdd),
                    "wrapping_sub" => (Type::Word, Op::WordSubtract),
                    "wrapping_mul" => (Type::Word, Op::WordMultiply),
                    _ => return Err(format!("`.{name}` is not known")),
                };
                let mut parts = vec![self.typed(&call.receiver, ty)?];
                for argument in &call.args {
                    parts.push(self.typed(argument, ty)?);
                }
                Ok(Expr::Do(operation, parts))
            }
            Syntax::Field(_) => Ok(Expr::Run(self.field(expr)?.ok_or("only the run has fields")?)),
            Syntax::Index(index) => {
                if let Some(place) = self.field(expr)? {
                    return Ok(Expr::Run(place));
                }
                let name = path(&index.expr).unwrap_or_default();
                if let Some((table, ty)) = self.known.tables.get(name.as_str()) {
                    let at = Box::new(self.entry_index(&index.index)?);
                    return Ok(Expr::TableEntry(table.clone(), *ty, at));
                }
                let table = self.target(&index.expr)?;
                self.locals[table.0].ty.entry().ok_or("only tables have entries")?;
                Ok(Expr::Entry(table, Box::new(self.entry_index(&index.index)?)))
            }
            _ => Err("this is no value".to_owned()),
        }
    }

    fn call(&mut self, call: &syn::ExprCall) -> Read<Expr> {
        let Syntax::Path(function) = &*call.func else {
            return Err("a function is called by its name".to_owned());
        };
        let segments = &function.path.segments;
        let name: Vec<String> = segments.iter().map(|part| part.ident.to_string()).collect();
        let name = name.join("::");
        if name == "outside" {
            let parts = call.args.iter().map(|value| self.typed(value, Type::Word));
            return Ok(Expr::Do(Operation::Outside, parts.collect::<Read<Vec<Expr>>>()?));
        }
        if name == "zeros" {
            let count = call.args.first().ok_or("a list has a length")?;
            return match self.expr(count, Some(Type::Int))? {
                Expr::Int(count) | Expr::Word(count) => Ok(Expr::Zeros(count)),
                _ => Err("the length of a list is known".to_owned()),
            };
        }
        if let Some((_, operation)) =
            [("from_bits", Operation::FromBits), ("to_fixed", Operation::ToFixed)]
                .into_iter()
                .find(|(known, _)| *known == name)
        {
            let parts = call.args.iter().map(|value| self.typed(value, Type::Word));
            return Ok(Expr::Do(operation, parts.collect::<Read<Vec<Expr>>>()?));
        }
        let conversion = match name.as_str() {
            "high_bits" => Some((Type::F64, Operation::HighBits)),
            "low_bits" => Some((Type::F64, Operation::LowBits)),
            "f64::from" => Some((Type::Word, Operation::WordToNumber)),
            "round_down" => Some((Type::F64, Operation::Floor)),
            "cell_index" => Some((Type::F64, Operation::NumberToWord)),
            "whole_of" => Some((Type::Fixed, Operation::FixedWhole)),
            "part_of" => Some((Type::Fixed, Operation::FixedPart)),
            _ => None,
        };
        if let Some((ty, operation)) = conversion {
            let argument = call.args.first().ok_or("one value is converted")?;
            return Ok(Expr::Do(operation, vec![self.typed(argument, ty)?]));
        }
        let (takes, _) = self.signatures.get(&name).ok_or(format!("`{name}` is not known"))?;
        let given = call.args.iter().filter(|value| path(value).as_deref() != Some("run"));
        let given: Vec<&Syntax> = given.collect();
        if takes.len() != given.len() {
            return Err(format!("`{name}` takes {} values", takes.len()));
        }
        let values = given.iter().zip(takes).map(|(value, ty)| self.typed(value, *ty));
        let values: Read<Vec<Expr>> = values.collect();
        Ok(Expr::Call(self.named(&name), values?))
    }

    fn binary(&mut self, binary: &syn::ExprBinary, wanted: Option<Type>) -> Read<Expr> {
        let (symbol, compares) = symbol(&binary.op).ok_or("this operator is not known")?;
        let wanted = if compares { None } else { wanted };
        let shifts = symbol == ">>";
        // A plain whole number takes the type of the other side.
        let (left, right) = if is_whole(&binary.left) && !shifts {
            let right = self.expr(&binary.right, wanted)?;
            let ty = self.type_of(&right);
            (self.typed(&binary.left, ty)?, right)
        } else {
            let left = self.expr(&binary.left, wanted)?;
            let ty = if shifts { Type::Int } else { self.type_of(&left) };
            (left, self.typed(&binary.right, ty)?)
        };
        let ty = self.type_of(&left);
        Ok(Expr::Do(operation_of(symbol, ty)?, vec![left, right]))
    }
}

fn name_of(pattern: &Pat) -> Read<String> {
    match pattern {
        Pat::Ident(ident) => Ok(ident.ident.to_string()),
        _ => Err("a pattern is one name".to_owned()),
    }
}

fn path(expr: &Syntax) -> Option<String> {
    match expr {
        Syntax::Path(path) => Some(path.path.get_ident()?.to_string()),
        _ => None,
    }
}

fn single(block: &syn::Block) -> Option<&Syntax> {
    match block.stmts.as_slice() {
        [Stmt::Expr(expr, None)] => Some(expr),
        _ => None,
    }
}

/// Whether a choice is a value in one expression.
fn is_value(expr: &Syntax) -> bool {
    let Syntax::If(choice) = expr else {
        return !matches!(expr, Syntax::Return(_) | Syntax::While(_) | Syntax::ForLoop(_));
    };
    let other = choice.else_branch.as_ref().is_some_and(|(_, other)| match &**other {
        Syntax::Block(block) => single(&block.block).is_some_and(is_value),
        other => is_value(other),
    });
    single(&choice.then_branch).is_some_and(is_value) && other
}

fn is_whole(expr: &Syntax) -> bool {
    matches!(expr, Syntax::Lit(literal) if matches!(literal.lit, Lit::Int(_)))
}

/// The operator's symbol, and whether it compares.
fn symbol(op: &BinOp) -> Option<(&'static str, bool)> {
    Some(match op {
        BinOp::Add(_) => ("+", false),
        BinOp::Sub(_) => ("-", false),
        BinOp::Mul(_) => ("*", false),
        BinOp::Div(_) => ("/", false),
        BinOp::Rem(_) => ("%", false),
        BinOp::BitXor(_) => ("^", false),
        BinOp::BitAnd(_) => ("&", false),
        BinOp::Shr(_) => (">>", false),
        BinOp::And(_) => ("&&", false),
        BinOp::Or(_) => ("||", false),
        BinOp::Eq(_) => ("==", true),
        BinOp::Ne(_) => ("!=", true),
        BinOp::Lt(_) => ("<", true),
        BinOp::Le(_) => ("<=", true),
        BinOp::Gt(_) => (">", true),
        BinOp::Ge(_) => (">=", true),
        _ => return None,
    })
}

/// The symbol of an operator that also assigns.
fn assigned(op: &BinOp) -> Option<(&'static str, bool)> {
    Some((
        match op {
            BinOp::AddAssign(_) => "+",
            BinOp::SubAssign(_) => "-",
            BinOp::MulAssign(_) => "*",
            BinOp::DivAssign(_) => "/",
            BinOp::BitXorAssign(_) => "^",
            BinOp::BitAndAssign(_) => "&",
            BinOp::ShrAssign(_) => ">>",
            _ => return None,
        },
        false,
    ))
}

fn operation_of(symbol: &str, ty: Type) -> Read<Operation> {
    use Operation as Op;
    Ok(match (symbol, ty) {
        ("+", Type::F64) => Op::Add,
        ("-", Type::F64) => Op::Subtract,
        ("*", Type::F64) => Op::Multiply,
        ("/", Type::F64) => Op::Divide,
        ("+", Type::Int) => Op::IntAdd,
        ("-", Type::Int) => Op::IntSubtract,
        ("*", Type::Int) => Op::IntMultiply,
        ("/", Type::Int) => Op::IntDivide,
        ("%", Type::Int) => Op::IntRemainder,
        ("/", Type::Word) => Op::WordDivide,
        ("%", Type::Word) => Op::WordRemainder,
        ("^", Type::Word) => Op::WordXor,
        ("&", Type::Word) => Op::WordAnd,
        (">>", Type::Word) => Op::ShiftRight,
        ("&&", Type::Bool) => Op::And,
        ("||", Type::Bool) => Op::Or,
        ("==", _) => Op::Equal,
        ("!=", _) => Op::Unequal,
        ("<", _) => Op::Less,
        ("<=", _) => Op::AtMost,
        (">", _) => Op::Greater,
        (">=", _) => Op::AtLeast,
        _ => return Err(format!("`{symbol}` of {} is not known", ty.name())),
    })
}
