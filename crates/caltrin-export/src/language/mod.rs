//! Languages as data: a file says how a language spells the parts of the [`crate::ir`] tree.

mod check;
mod file;
mod pattern;
mod print;
pub mod shape;

use std::collections::BTreeMap;
use std::sync::LazyLock;

use serde::Deserialize;
use thiserror::Error;

use crate::ir::{Operation, Type};
use crate::names::Case;

pub use file::{
    Constants, Either, Fields, FilePatterns, Notices, Proof, ProofTool, Reads, ShaderPatterns,
    Shape, Split, Start, Tables,
};
pub use pattern::Pattern;
pub use print::{GivenNames, LampNames, Printer, Taken};

/// How a language spells things. Read from a file by [`Language::read`].
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Language {
    /// The language's name.
    pub name: String,
    /// How things are named.
    pub names: Names,
    /// How lines are laid out.
    pub layout: Layout,
    /// How comments are written.
    pub comment: Comment,
    /// Types by their names in the tree.
    #[serde(rename = "type")]
    pub types: BTreeMap<String, String>,
    /// How literals are written.
    pub literal: Literal,
    /// Operations by their names in the tree.
    pub operator: BTreeMap<String, Operator>,
    /// Where a word's operation can give more than 32 bits, or a negative number.
    #[serde(default)]
    pub word: Words,
    /// Functions that are written in the language itself, since it has no operator for them; by operation.
    #[serde(default)]
    pub written: BTreeMap<String, OwnFunction>,
    /// Expressions that are no operations.
    pub expression: Expressions,
    /// Fields of the run.
    pub run: RunPatterns,
    /// Fields of a lamp.
    pub lamp: LampPatterns,
    /// Parameters.
    pub parameter: Parameters,
    /// Statements.
    pub statement: Statements,
    /// Declarations.
    pub declaration: Declarations,
    /// The file.
    pub file: FilePatterns,
    /// Fields of the run.
    pub field: Fields,
    /// Fields of lamps and notices.
    pub record: Fields,
    /// How a run begins.
    pub start: Start,
    /// Tables.
    pub table: Tables,
    /// Constants that the host uses.
    pub public_constant: Constants,
    /// Lamps.
    pub read: Reads,
    /// Notices.
    pub notice: Notices,
    /// Text that stands in a file that needs an operation, by operation.
    #[serde(default)]
    pub support: BTreeMap<String, OwnText>,
    /// How files are proved.
    #[serde(default)]
    pub proof: Option<Proof>,
    /// Of a shading language: what is otherwise in its files.
    #[serde(default)]
    pub shader: Option<ShaderPatterns>,
}

/// Text of a language's own.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OwnText {
    /// What it does, for a comment.
    pub about: String,
    /// It.
    pub text: Shape,
}

/// A language that is built in. A test reads all of them.
macro_rules! built_in {
    ($($(#[$doc:meta])* $name:ident $folder:literal,)*) => {
        $($(#[$doc])* pub static $name: LazyLock<Language> = LazyLock::new(|| {
            let text = include_str!(concat!("../../languages/", $folder, "/language.toml"));
            Language::read($folder, text).unwrap_or_else(|e| panic!("{e}"))
        });)*

        /// The names of their folders.
        const FOLDERS: &[&str] = &[$($folder),*];

        /// The file of a language that is built in.
        fn of_host(folder: &str) -> Option<&'static str> {
            match folder {
                $($folder => {
                    Some(include_str!(concat!("../../languages/", $folder, "/language.toml")))
                })*
                _ => None,
            }
        }

        /// The languages that are built in.
        pub fn built_in() -> Vec<&'static Language> {
            vec![$(&$name),*]
        }
    };
}

/// Shading languages that are built in, and C with singles, in which shaders are proved.
macro_rules! shading {
    ($($(#[$doc:meta])* $name:ident $folder:literal,)*) => {
        $($(#[$doc])* pub static $name: LazyLock<Language> = LazyLock::new(|| {
            let text = include_str!(concat!("../../languages/", $folder, "/language.toml"));
            Language::read($folder, text).unwrap_or_else(|e| panic!("{e}"))
        });)*

        /// The names of their folders.
        const SHADING: &[&str] = &[$($folder),*];

        /// The file of a shading language that is built in.
        fn of_shaders(folder: &str) -> Option<&'static str> {
            match folder {
                $($folder => {
                    Some(include_str!(concat!("../../languages/", $folder, "/language.toml")))
                })*
                _ => None,
            }
        }
    };
}

/// What a language that is built in says, with all that it says by another one.
fn source(folder: &str) -> Option<toml::Table> {
    let mut own: toml::Table =
        toml::from_str(of_host(folder).or_else(|| of_shaders(folder))?).ok()?;
    let Some(like) = own.remove("like") else { return Some(own) };
    let mut whole = source(like.as_str()?)?;
    merge(&mut whole, own);
    Some(whole)
}

shading! {
    /// WGSL.
    WGSL "wgsl",
    /// GLSL 3.30 and GLSL ES 3.00.
    GLSL "glsl",
    /// HLSL, shader model 5 and later.
    HLSL "hlsl",
    /// C99 with singles.
    SINGLE_C "single_c",
}

built_in! {
    /// C99.
    C "c",
    /// Rust.
    RUST "rust",
    /// C#.
    CSHARP "csharp",
    /// JavaScript.
    JAVASCRIPT "javascript",
    /// C++17.
    CPP "cpp",
    /// TypeScript.
    TYPESCRIPT "typescript",
    /// Java 17.
    JAVA "java",
    /// Python 3.9 and later.
    PYTHON "python",
    /// Lua 5.3 and later, and LuaJIT.
    LUA "lua",
}

/// How things are named.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Names {
    /// Case of functions.
    pub functions: Case,
    /// Case of constants.
    pub constants: Case,
    /// Case of locals and parameters.
    pub locals: Case,
    /// Case of fields.
    pub fields: Case,
    /// Case of types.
    pub types: Case,
    /// Case of tables.
    pub tables: Case,
    /// Fields of the clock that have other names.
    #[serde(default)]
    pub clock: BTreeMap<String, String>,
    /// Whether fields are reached by their names alone, so that no local may have the same.
    #[serde(default)]
    pub fields_beside_locals: bool,
    /// What stands before the name of a function or constant, with `{prefix}` for that of the file.
    #[serde(default)]
    pub before: Pattern,
    /// Whether fields of the run stand beside functions and types, and share no name with them.
    #[serde(default)]
    pub fields_beside_functions: bool,
    /// A counter that is never read.
    #[serde(default)]
    pub unused: Option<String>,
    /// Names that may not be used.
    pub reserved: Vec<String>,
}

/// How lines are laid out.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Layout {
    /// Columns of a line.
    pub width: usize,
    /// Columns of an indent.
    pub indent: usize,
    /// How the arguments of a call are broken.
    pub arguments: Arguments,
    /// Whether a value that does not fit on its line stands in brackets, since lines end statements.
    #[serde(default)]
    pub brackets_where_broken: bool,
    /// Sets of operations of which one never stands inside another without brackets.
    #[serde(default)]
    pub clear: Vec<Vec<String>>,
}

/// How a list of arguments is broken that does not fit on its line.
#[derive(Clone, Copy, Debug, Deserialize, PartialEq, Eq)]
#[serde(rename_all = "snake_case")]
pub enum Arguments {
    /// As many on each line as fit.
    Filled,
    /// Each on a line of its own, with a comma after the last.
    Each,
}

/// How comments are written.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Comment {
    /// What opens the comment of a declaration.
    pub open: String,
    /// What begins its other lines.
    pub next: String,
    /// What closes it.
    pub close: String,
    /// What is written otherwise in comments, such as `<` where they are markup.
    #[serde(default)]
    pub replace: Vec<(String, String)>,
    /// What it says about the run.
    #[serde(default)]
    pub run: Option<String>,
    /// What it says about a parameter.
    #[serde(default)]
    pub parameter: Option<Pattern>,
    /// What it says about the result.
    #[serde(default)]
    pub result: Option<Pattern>,
}

/// How literals are written.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Literal {
    /// A double.
    pub number: Pattern,
    /// A double of which a method is called.
    #[serde(default)]
    pub number_called: Option<Pattern>,
    /// A single: `{digits}`, or `{wide}` for those of the same double.
    pub single: Pattern,
    /// A word.
    pub word: Pattern,
    /// A word of which a method is called.
    #[serde(default)]
    pub word_called: Option<Pattern>,
    /// A word in base 16.
    pub hex: Pattern,
    /// What is not a number.
    pub nan: String,
    /// Text of letters, digits and `_`: `{text}`.
    pub text: Pattern,
    /// Numbers that a checker of the language takes for others, and how many digits it wants for that; what stands
    /// before a declaration that holds such a number.
    #[serde(default)]
    pub known: Option<KnownNumbers>,
    /// An index.
    pub int: Pattern,
    /// Off and on.
    pub flags: [String; 2],
}

/// Numbers that a checker of the language takes for others.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct KnownNumbers {
    /// What stands before a declaration with such a number.
    pub before: String,
    /// The digits, and how many may stand there before it is a coincidence.
    pub numbers: Vec<(String, usize)>,
}

/// How an operation is written.
#[derive(Clone, Debug, Deserialize)]
#[serde(untagged)]
pub enum Operator {
    /// As a call, which binds tightest.
    Call(Pattern),
    /// As an operator, with how tightly it binds.
    Binds(Pattern, u8),
    /// The same, with how tightly its operands must bind where that is not the same.
    Takes(Pattern, u8, u8),
}

/// Where operations of words can give more than 32 bits, or a negative number.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Words {
    /// What makes 32 bits of it.
    #[serde(default)]
    pub mask: Option<Operator>,
    /// Operations that can.
    #[serde(default)]
    pub dirty: Vec<String>,
    /// Operations that take such operands.
    #[serde(default)]
    pub loose: Vec<String>,
}

/// A function that is written in the language itself.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OwnFunction {
    /// Its name, words joined by `_`.
    pub name: String,
    /// What it does, for a comment.
    pub about: String,
    /// Its text, with `{name}` for its name.
    pub text: Pattern,
}

/// Expressions that are no operations.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Expressions {
    /// A call: `{name}`, `{arguments}`.
    pub call: Pattern,
    /// A call of a function of the run: `{name}`, `{comma}` where arguments follow, `{arguments}`.
    pub method: Pattern,
    /// A table of the file, as an argument: `{name}`.
    pub table: Pattern,
    /// A choice whose last branch is another choice, if that is written otherwise: `{a}`, `{b}`, `{c}`.
    #[serde(default)]
    pub select_chain: Option<Operator>,
    /// A choice between two that are on or off, if that is written otherwise: `{a}`, `{b}`, `{c}`.
    #[serde(default)]
    pub select_flag: Option<Operator>,
    /// An entry of a table: `{table}`, `{index}`.
    pub entry: Pattern,
    /// A list of words, as an argument: `{name}`.
    pub list: Pattern,
    /// An entry of a table of the file, if that is written otherwise.
    #[serde(default)]
    pub table_entry: Option<Pattern>,
    /// An entry at an index that is a local or a literal, if that is written otherwise.
    #[serde(default)]
    pub entry_plain: Option<Pattern>,
}

/// Fields of the run: `{field}`, `{index}` which of several, `{part}` which part by number, `{suffix}` by name.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RunPatterns {
    /// A field.
    pub field: Pattern,
    /// A part of one.
    pub part: Pattern,
    /// One of several.
    pub entry: Pattern,
    /// A part of one of several.
    pub entry_part: Pattern,
    /// Sets one of several, where that is no assignment: `{value}` too.
    #[serde(default)]
    pub set_entry: Option<Pattern>,
    /// Sets a part of one of several.
    #[serde(default)]
    pub set_entry_part: Option<Pattern>,
}

/// How the fields of a lamp are set: `{lamp}`, `{field}`, `{part}` which part by number, `{suffix}` by name, `{value}`.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct LampPatterns {
    /// A field.
    pub field: Pattern,
    /// A part of one.
    pub part: Pattern,
    /// All parts of one, where the language can without making a list: `{field}`, `{values}`.
    #[serde(default)]
    pub parts: Option<Pattern>,
}

/// How parameters are declared: `{type}`, `{name}`.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Parameters {
    /// The run, where it stands among the parameters: `{reads}` and `{changes}` of [`Declarations::when`].
    #[serde(default)]
    pub run: Option<Pattern>,
    /// One that never changes.
    pub value: Pattern,
    /// One that is set again.
    pub changed: Pattern,
    /// Text, if a given one has another type than others.
    #[serde(default)]
    pub text: Option<Pattern>,
    /// A table.
    pub table: Pattern,
    /// A list of words that is filled.
    pub list: Pattern,
}

/// Statements.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Statements {
    /// A local that never changes: `{type}`, `{name}`, `{value}`.
    #[serde(rename = "let")]
    pub keep: Pattern,
    /// A local that is set again.
    pub let_changed: Pattern,
    /// A local whose value has no type of its own, and that never changes, if that is written otherwise.
    #[serde(default)]
    pub let_literal: Option<Pattern>,
    /// A local whose value has no type of its own, and that is set again.
    #[serde(default)]
    pub let_changed_literal: Option<Pattern>,
    /// A list of so many words that are 0: `{name}`, `{count}`.
    pub let_list: Pattern,
    /// An entry of a list is set: `{list}`, `{index}`, `{value}`.
    pub set_entry: Pattern,
    /// The run starts again: `{seed}`.
    pub restart: Pattern,
    /// A local is set again: `{target}`, `{value}`.
    pub assign: Pattern,
    /// The same to an operation of itself and a value, by operation.
    #[serde(default)]
    pub assign_to: BTreeMap<String, Pattern>,
    /// A call for what it does: `{call}`.
    pub call: Pattern,
    /// Leaves a function without a result.
    pub stop: String,
    /// Opens a choice by a number, and closes it: `{value}`.
    #[serde(default)]
    pub switch: Option<[Pattern; 2]>,
    /// The statement of a number: `{number}`, `{statement}`.
    #[serde(default)]
    pub case: Pattern,
    /// The last one, which also stands for all other numbers.
    #[serde(default)]
    pub case_last: Pattern,
    /// Both where the statement gives a result, if nothing may stand after that: `{number}`, `{value}`.
    #[serde(default)]
    pub case_result: Option<[Pattern; 2]>,
    /// The result: `{value}`.
    #[serde(rename = "return")]
    pub give: Pattern,
    /// The result at the very end of a function.
    #[serde(default)]
    pub return_last: Option<Pattern>,
    /// Leaves a loop.
    #[serde(rename = "break")]
    pub leave: String,
    /// Opens a block under a condition: `{condition}`.
    #[serde(rename = "if")]
    pub when: Pattern,
    /// Closes it, and opens one under another condition.
    pub else_if: Pattern,
    /// Closes it, and opens the last.
    #[serde(rename = "else")]
    pub otherwise: String,
    /// A condition and one statement on a line: `{condition}`, `{statement}`.
    #[serde(default)]
    pub if_one: Option<Pattern>,
    /// Opens a loop under a condition: `{condition}`.
    #[serde(rename = "while")]
    pub repeat: Pattern,
    /// Opens a loop over indices: `{name}`, `{from}`, `{to}`.
    #[serde(rename = "for")]
    pub each: Pattern,
    /// Closes a block; empty if nothing does.
    pub end: String,
    /// Opens and closes a block around the body of a function with arithmetic that wraps.
    #[serde(default)]
    pub wrapping: Option<[String; 2]>,
}

/// Declarations.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Declarations {
    /// Opens a function of the file: `{result}`, `{name}`, `{parameters}`.
    pub function: Pattern,
    /// Opens a function of the run: also `{public}`, `{reads}`, `{changes}`, `{gives}` of [`Declarations::when`].
    pub method: Pattern,
    /// What stands in a slot where something is so, and where it is not: `public`, `reads` and `changes` of the run,
    /// `gives` a result.
    pub when: BTreeMap<String, [Pattern; 2]>,
    /// What stands before a function with more parameters than this.
    #[serde(default)]
    pub many_parameters: Option<(usize, String)>,
    /// Opens a function that the host calls and that has nothing of the run, if that is said otherwise.
    #[serde(default)]
    pub open: Option<Pattern>,
    /// A function of the run that is called before it is written, where that has to be said.
    #[serde(default)]
    pub forward: Option<Pattern>,
    /// Closes it.
    pub function_end: String,
    /// A constant of the file: `{type}`, `{name}`, `{value}`.
    pub constant: Pattern,
}

/// What a file has besides what its lights do.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Extras {
    /// Whether runs are saved.
    pub saves: bool,
    /// Whether the host may bind by names.
    pub binds: bool,
}

/// A mistake in a language file.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[error("{name}: {what}")]
pub struct LanguageError {
    /// The file or language.
    pub name: String,
    /// What is wrong, and where.
    pub what: String,
}

impl Language {
    /// Reads a language file. `name` is that of the file, for errors. With a line `like`, it says only what is otherwise
    /// than in a language that is built in.
    ///
    /// # Errors
    /// What is wrong first, with its place, what was expected, and the nearest known word.
    pub fn read(name: &str, text: &str) -> Result<Language, LanguageError> {
        let error = |what: String| LanguageError { name: name.to_owned(), what };
        let explained = |e: &toml::de::Error| error(check::explain(e, text));
        let mut own: toml::Table = toml::from_str(text).map_err(|e| explained(&e))?;
        let language: Language = match own.remove("like") {
            None => toml::from_str(text).map_err(|e| explained(&e))?,
            Some(like) => {
                let known =
                    || FOLDERS.iter().chain(SHADING).copied().collect::<Vec<_>>().join(", ");
                let mut whole = (like.as_str().and_then(source))
                    .ok_or_else(|| error(format!("`like` is one of {}", known())))?;
                merge(&mut whole, own);
                whole.try_into().map_err(|e| explained(&e))?
            }
        };
        match check::first_mistake(&language) {
            Some(what) => Err(error(what)),
            None => Ok(language),
        }
    }

    /// The names that may not be used.
    pub fn reserved(&self) -> impl Iterator<Item = &str> {
        self.names.reserved.iter().map(String::as_str)
    }

    /// What a type is called.
    pub fn type_name(&self, ty: Type) -> &str {
        self.types.get(ty.name()).map_or("", String::as_str)
    }

    /// What its files have besides what lights do; tables of names only where they are wanted.
    pub fn extras(&self, names: bool) -> Extras {
        let has = |part: &str| self.file.parts.values().flatten().any(|own| own == part);
        Extras { saves: has("saving"), binds: names && has("binding") }
    }

    /// How an operation is written, if the language has it.
    pub fn operator(&self, operation: Operation) -> Option<&Operator> {
        self.operator.get(operation.name())
    }
}

/// What a file says goes over what another one says, table by table. Reserved words are added; `false` takes an entry
/// away that is not on or off.
fn merge(whole: &mut toml::Table, own: toml::Table) {
    use toml::Value;
    for (key, value) in own {
        match (whole.get_mut(&key), value) {
            (Some(Value::Table(whole)), Value::Table(own)) => merge(whole, own),
            (Some(Value::Array(all)), Value::Array(own)) if key == "reserved" => all.extend(own),
            (Some(Value::Boolean(is)), Value::Boolean(own)) => *is = own,
            (_, Value::Boolean(false)) => drop(whole.remove(&key)),
            (_, value) => drop(whole.insert(key, value)),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn languages_that_are_built_in_have_no_mistakes() {
        assert_eq!(built_in().len(), 9);
    }
}
