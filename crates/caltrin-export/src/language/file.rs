//! What a language file says about a whole file: its order, its structs, what reads and saves, and how it is proved.

use std::collections::BTreeMap;

use serde::Deserialize;

use super::Pattern;

/// The parts of a file: those that every file has, and those that some languages have no use for.
pub(super) const PARTS: [&[&str]; 2] = [
    &[
        "start",
        "kernel",
        "free",
        "book",
        "clock",
        "choices",
        "setters",
        "sends",
        "sparks",
        "events",
        "course",
        "reads",
        "take",
        "dropped",
        "tables",
        "test_tables",
        "test",
    ],
    &["constants", "lamps", "notice", "holders", "forward", "saving", "binding"],
];

/// Slots of all texts of a file.
pub(super) const SLOTS: [&str; 24] = [
    "base",
    "base_upper",
    "base_pascal",
    "book_pascal",
    "space",
    "prefix",
    "run",
    "title",
    "made",
    "bytes",
    "save_bytes",
    "layout",
    "version",
    "seed",
    "file",
    "run_fields",
    "example",
    "waiting",
    // Of shaders alone.
    "shown",
    "excluded",
    "frame_type",
    "frame_bytes",
    "near",
    "window",
];

/// What a slot of a file can depend on.
pub(super) const FACTS: [&str; 3] = ["due", "many", "parts"];

/// A text of several lines. A slot that stands alone on its line, perhaps with text around it, takes as many lines as
/// it needs, each with that text before it; a line whose slot takes none is left out.
pub type Shape = Pattern;

/// A file.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FilePatterns {
    /// Its name: `{base}` of the prefix or else the book, `{book}` of the book.
    pub name: Pattern,
    /// What a run is called: `{base}`, `{base_upper}`, `{base_pascal}`, `{book_pascal}`, `{space}`, `{prefix}`.
    pub run: Pattern,
    /// What stands before the names of functions, types and constants; the same slots.
    #[serde(default)]
    pub prefix: Pattern,
    /// What `{space}` is where no prefix is given.
    #[serde(default)]
    pub space: Option<String>,
    /// Other slots of all texts of the file.
    #[serde(default)]
    pub slots: BTreeMap<String, Pattern>,
    /// Slots that depend on the book.
    #[serde(default)]
    pub when: BTreeMap<String, Either>,
    /// All of it.
    pub text: Shape,
    /// The slots of that text: the parts of the file, in order.
    pub parts: BTreeMap<String, Vec<String>>,
    /// Parts that are texts of the language's own.
    #[serde(default)]
    pub own: BTreeMap<String, Shape>,
    /// The file in two, if the language has headers.
    #[serde(default)]
    pub split: Option<Split>,
    /// How the example in its head reads a lamp of one, and of many: `{read}`, `{lamp_type}`.
    pub example: [Pattern; 2],
    /// Names that the file uses besides functions of the tree.
    #[serde(default)]
    pub names: Vec<String>,
}

/// A file split into a header and a source file.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Split {
    /// The name of the source file: slots as in [`FilePatterns::name`].
    pub name: Pattern,
    /// What begins the line of a function that the host calls; it is omitted from both files.
    pub public: Pattern,
    /// The parts of the file that go into the header.
    pub parts: Vec<String>,
    /// The header: `{declarations}` for those parts, `{prototypes}` for the functions that the host calls.
    pub header: Shape,
    /// The source file: `{definitions}` for all other parts.
    pub source: Shape,
}

/// What stands in a slot where something is so, and where it is not.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Either {
    /// What may be so: `due`, something happens by itself; `many`, a field of the run has several entries; `parts`, it
    /// has several or parts.
    pub fact: String,
    /// Where it is so.
    pub is: Pattern,
    /// Where it is not.
    pub not: Pattern,
}

/// How fields are declared: `{type}`, `{field}`, `{fields}` of all parts, `{count}`, `{slots}`, `{about}`, `{public}`.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Fields {
    /// One number, or on or off.
    pub one: Pattern,
    /// Three numbers.
    pub parts: Pattern,
    /// Several of the first.
    #[serde(default)]
    pub many: Pattern,
    /// Several of the second.
    #[serde(default)]
    pub many_parts: Pattern,
    /// A comment at the end of the line, if it stands there: `{about}`.
    #[serde(default)]
    pub comment: Option<Pattern>,
    /// What declares the type of a field of several, if that has one: `{type}`, `{field}`, `{slots}`, `{bytes}`.
    #[serde(default)]
    pub holder: Option<Shape>,
    /// What stands in a struct without fields.
    #[serde(default)]
    pub empty: Option<String>,
    /// A field with its first value, for lists of them in a line: a number, on or off, and three numbers.
    #[serde(default)]
    pub fresh: Option<[Pattern; 3]>,
}

/// How a run begins. `{value}` stands for a value or a part of one, with `{part}`, `{suffix}` and `{index}`; `{values}`
/// for all of them.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Start {
    /// The function: `{defaults}`.
    pub text: Shape,
    /// Whether fields are set that are 0.
    pub zeros: bool,
    /// One number, or on or off.
    pub one: Pattern,
    /// Three numbers.
    pub parts: Pattern,
    /// Several of the first, all alike.
    pub many: Pattern,
    /// Several of the second, all alike.
    pub many_parts: Pattern,
    /// Several numbers that differ.
    pub entries: Pattern,
}

/// How tables are declared: `{name}`, `{count}`, `{entries}`.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Tables {
    /// Of doubles.
    pub numbers: Shape,
    /// Of words.
    pub words: Shape,
    /// Of texts.
    pub texts: Shape,
}

/// How lamps are declared and read: `{lamp_type}`, `{read}`, `{fill}`, `{fields}`, `{fresh}`.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Reads {
    /// The struct of a lamp.
    #[serde(rename = "type")]
    pub declared: Shape,
    /// What reads a lamp: `{shared}`, `{each}`, `{sets}`.
    pub one: Shape,
    /// What reads many: the same, and `{index}`.
    pub fill: Shape,
    /// What reads one of many.
    pub of_many: Shape,
    /// What a lamp is called while it is filled: in the first, and in the second.
    pub lamp: [String; 2],
    /// What stands in `{index}` where the index is used and where it is not; and in `{run}` where the run is.
    pub when: BTreeMap<String, [Pattern; 2]>,
    /// Other names that these functions use.
    pub own: Vec<String>,
    /// Reads a lamp into `lamp`: `{read}`, `{lamp_type}`.
    pub into: Pattern,
    /// Reads one of many into `lamp`: `{read}`, `{lamp_type}`, `{index}`.
    #[serde(default)]
    pub into_at: Pattern,
    /// The same of one of many: `{index}`, `{fill}` too. Every other `n`-th reading is that of many at once.
    pub into_of_many: Pattern,
    /// Reads so many at once, and opens and closes a block for each: `{first}`, `{count}`.
    pub into_many: [Pattern; 2],
    /// What a lamp is called in that block.
    pub into_lamp: String,
    /// A field of a lamp, and a part of one: `{lamp}`, `{field}`, `{part}`, `{suffix}`.
    pub get: [Pattern; 2],
}

/// How notices are declared and taken.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Notices {
    /// The struct: `{fields}`.
    #[serde(rename = "type")]
    pub declared: Shape,
    /// What takes one: `{before}`, `{sets}`.
    pub take: Shape,
    /// What it does where none waits.
    pub nothing: String,
    /// Sets a field, and a part of one: `{field}`, `{part}`, `{suffix}`, `{value}`.
    pub set: [Pattern; 2],
    /// Sets all parts of a field at once, where that is so: `{values}`.
    #[serde(default)]
    pub set_parts: Option<Pattern>,
    /// Takes each and does a block for it.
    pub each: [String; 2],
    /// A field, and a part of one: `{field}`, `{part}`, `{suffix}`.
    pub get: [Pattern; 2],
    /// Names that these functions use.
    pub own: Vec<String>,
}

/// How constants are declared that the host uses: `{name}`, `{value}`.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Constants {
    /// One.
    pub one: Pattern,
}

/// What is otherwise in the files of a shading language. `{frame_type}` is what is the same for all lamps in a frame.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ShaderPatterns {
    /// What a frame is called: slots of the file.
    pub frame_type: Pattern,
    /// What a lamp of a light is called: `{light}` and `{light_pascal}` too.
    pub lamp_type: Pattern,
    /// What gives a lamp of a light: the same.
    pub read_name: Pattern,
    /// Three numbers in one.
    pub three: String,
    /// A field of a struct: `{type}`, `{field}`.
    pub field: Pattern,
    /// A comment at the end of its line: `{about}`.
    pub comment: Pattern,
    /// The struct of a frame: `{fields}`.
    pub frame: Shape,
    /// The struct of a lamp: `{lamp_type}`, `{comment}`, `{fields}`.
    pub lamp: Shape,
    /// What gives a lamp: `{lamp_type}`, `{read}`, `{parameters}` after the frame, `{each}`, `{sets}`.
    pub read: Shape,
}

/// How a file is proved.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Proof {
    /// The name of the prover.
    pub file: String,
    /// The prover: `{functions}`, `{imports}`, `{count}` of numbers in a sample, `{file}` that is proved.
    pub text: Shape,
    /// What it needs: a command, the arguments that print its version, and the Debian package that has it.
    pub tools: Vec<ProofTool>,
    /// Whether the prover is a module of its own, so that it writes out again what the language has no operators for.
    #[serde(default)]
    pub repeats: bool,
    /// What compiles it: commands with `{folder}` and `{file}`.
    #[serde(default)]
    pub compile: Vec<Vec<Pattern>>,
    /// What runs it.
    pub run: Vec<Pattern>,
}

/// A tool that a proof needs.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ProofTool {
    /// The command.
    pub command: String,
    /// The arguments that print its version.
    pub version: Vec<String>,
    /// The Debian package that has it.
    pub package: String,
}
