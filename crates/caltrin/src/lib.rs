//! Caltrin: write gameplay lighting as text, preview it on timelines, check it, and export code that matches the
//! preview bit for bit.
//!
//! This crate is the facade: it opens files and combines the other crates.
//!
//! 1. [`open`] or [`read`] reads a lightbook and returns an [`Opened`] with its program and diagnostics;
//!    [`core::build`] creates the same programs from Rust.
//! 2. A [`core::Run`] evaluates lamps at any moment.
//! 3. [`draw::sheet()`] draws a program, [`export::export`] exports it, and [`export::prove`] compiles and compares
//!    the exported code.
//!
//! ```
//! let opened = caltrin::read("lightbook \"Slip\"\nlight lantern point { intensity 40lm }", "slip.caltrin");
//! let checked = opened.checked.expect("no errors");
//! let lantern = checked.program().light_named("lantern").unwrap();
//! let mut run = caltrin::core::Run::new(&checked);
//! let mut lamp = [0.0];
//! run.read(lantern, 0, &mut lamp);
//! assert_eq!(lamp[0], 40.0);
//! ```

mod explain;
pub mod files;
pub mod pictures;
mod setting;
pub mod sound;
mod stock;

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::io;
use std::path::{Component, Path, PathBuf};
use std::sync::Arc;

pub use caltrin_check as check;
pub use caltrin_core as core;
pub use caltrin_draw as draw;
pub use caltrin_export as export;
pub use caltrin_lang as lang;
pub use caltrin_lang::edit;

pub use explain::{Explanation, explain, explainable};
pub use setting::{SettingError, set};
pub use stock::{Stocked, showcase, stock};

use caltrin_check::Finding;
use caltrin_core::program::{CHANNELS, Subject, Wanted};
use caltrin_core::sound::{Band, Hearing};
use caltrin_core::{SourceNotes, ValidatedProgram};
use caltrin_draw::Texture;
use caltrin_lang::knobs::{Knobs, knobs};
use caltrin_lang::parser::{Parse, parse};
use caltrin_lang::{Diagnostic, Lines, Resources, Severity, Source, SourceMap, Span};
use thiserror::Error;

/// The demo: the Saltgate ferry pier.
pub const PIER: &str = include_str!("../books/pier.caltrin");

/// The sounds of the demo, by file name; the example `make_sounds` generates them.
pub const SOUNDS: [(&str, &[u8]); 5] = [
    ("sounds/bell_buoy.wav", include_bytes!("../books/sounds/bell_buoy.wav")),
    ("sounds/carillon.mid", include_bytes!("../books/sounds/carillon.mid")),
    ("sounds/horn.wav", include_bytes!("../books/sounds/horn.wav")),
    ("sounds/rain_on_tin.wav", include_bytes!("../books/sounds/rain_on_tin.wav")),
    ("sounds/winch.wav", include_bytes!("../books/sounds/winch.wav")),
];

/// The pictures of the demo, by file name; the example `make_pictures` generates them.
pub const PICTURES: [(&str, &[u8]); 1] =
    [("pictures/deck.jpg", include_bytes!("../books/pictures/deck.jpg"))];

/// The stock: ready-made behaviors, imported with `use "stock"`.
pub const STOCK: &str = include_str!("../books/stock.caltrin");
/// The name under which a book imports the stock.
pub const STOCK_NAME: &str = "stock";

/// A lightbook that was read.
#[derive(Clone, Debug)]
pub struct Opened {
    /// The file's name, as it is shown in messages.
    pub file: String,
    /// The texts that diagnostics refer to: the book, then its imports.
    pub sources: Vec<Source>,
    /// The book's name; empty if it has none.
    pub name: String,
    /// The program, if there is no error in the book.
    pub checked: Option<ValidatedProgram>,
    /// Source lines for comments in exported code.
    pub notes: SourceNotes,
    /// Source spans of declarations and expressions.
    pub source_map: SourceMap,
    /// The sound files that the book names, readable or not.
    pub sounds: Vec<String>,
    /// What the checks found.
    pub findings: Vec<Finding>,
    /// All errors and findings, in the order of the text.
    pub diagnostics: Vec<Diagnostic>,
}

impl Opened {
    /// The files it was read from: the book, its imports and its sounds.
    pub fn files(&self) -> Vec<PathBuf> {
        let book = Path::new(&self.file);
        let folder = book.parent().unwrap_or(Path::new(""));
        let used = self.sources.iter().skip(1).map(|source| source.name.as_str());
        let used =
            used.filter(|name| *name != STOCK_NAME).chain(self.sounds.iter().map(String::as_str));
        let backdrops =
            self.checked.as_ref().map_or(&[][..], |checked| checked.program().backdrops());
        let used = used.chain(backdrops.iter().map(|backdrop| backdrop.file.as_str()));
        std::iter::once(book.to_owned()).chain(used.map(|name| folder.join(name))).collect()
    }

    /// The literals and curves of the text that feed a light, channel, output, curve, signal, input or
    /// event, through signals, behaviors, fittings and used books; `None` for the book itself and for
    /// what has no name in it. See [`lang::knobs`].
    pub fn knobs_of(&self, subject: Subject) -> Option<Knobs> {
        let program = self.checked.as_ref()?.program();
        let (name, channel) = match subject {
            Subject::Book => return None,
            Subject::Light(id) => (&program.light(id).name, None),
            Subject::Drive(id, field) => {
                let light = program.light(id);
                let channel = CHANNELS.iter().find(|channel| channel.fields.contains(&field));
                (&light.name, Some(channel.map_or_else(|| light.field_name(field), |c| c.name)))
            }
            Subject::Curve(id) => (&program.curve(id).name, None),
            Subject::Signal(id) => (&program.signal(id).name, None),
            Subject::Behavior(id) => (&program.behavior(id).name, None),
            Subject::Input(id) => (&program.input(id).name, None),
            Subject::Choice(id) => (&program.choice(id).name, None),
            Subject::Event(id) => (&program.event(id).name, None),
            Subject::Sound(id) => (&program.sound(id).name, None),
        };
        let texts: Vec<Parse> = self.sources.iter().map(|source| parse(&source.text)).collect();
        knobs(&texts, name, channel)
    }

    /// Warns of the backdrops whose pictures cannot be read.
    fn look_for_pictures(&mut self, folder: &Path) {
        let Some(checked) = &self.checked else { return };
        let backdrops = checked.program().backdrops();
        if backdrops.is_empty() {
            return;
        }
        let silence = Silence::of(&self.sources);
        let rule = caltrin_check::UNSEEN_PICTURE;
        for (backdrop, origin) in backdrops.iter().zip(&self.source_map.backdrops) {
            let Err(why) = pictures::bytes(folder, backdrop) else { continue };
            if !silence.covers(origin, rule.code) {
                let told = Diagnostic::warning(rule.code, origin.range.clone(), why)
                    .help("the place is drawn without it");
                self.diagnostics.push(told.in_source(origin.source));
            }
        }
        self.diagnostics.sort_by_key(|d| (d.source(), d.range().start));
    }

    /// The pictures of the backdrops, in the order of the program; none for those that cannot be read.
    pub fn pictures(&self) -> Vec<Option<Texture>> {
        let Some(checked) = &self.checked else { return Vec::new() };
        let folder = folder_of(Path::new(&self.file));
        let all = checked.program().backdrops().iter();
        all.map(|backdrop| pictures::read(folder, backdrop).ok()).collect()
    }

    /// How many errors there are.
    pub fn errors(&self) -> usize {
        self.diagnostics.iter().filter(|d| d.severity == Severity::Error).count()
    }

    /// How many warnings there are.
    pub fn warnings(&self) -> usize {
        self.diagnostics.len() - self.errors()
    }
}

/// Why a lightbook file could not be read.
#[derive(Debug, Error)]
pub enum OpenError {
    /// The operating system refused.
    #[error("cannot read `{}`: {cause}", .path.display())]
    Io {
        /// The file.
        path: PathBuf,
        /// The reason.
        cause: io::Error,
    },
    /// It is not a text.
    #[error("`{}` is not a text in UTF-8 (byte {at}); a lightbook is plain text", .path.display())]
    NotText {
        /// The file.
        path: PathBuf,
        /// The first invalid byte.
        at: usize,
    },
    /// It is too large.
    #[error("`{}` is larger than {} MiB", .path.display(), LARGEST >> 20)]
    TooLarge {
        /// The file.
        path: PathBuf,
    },
}

/// Largest file that is read.
pub const LARGEST: u64 = 64 << 20;

/// Options for opening a lightbook file.
#[derive(Clone, Copy, Default)]
pub struct Opening<'a> {
    /// Axes, unit or strengths that override the book's.
    pub wanted: Wanted,
    /// The cache of analyzed sounds; without one, each sound is analyzed again.
    pub cache: Option<&'a sound::Cache>,
    /// The sounds that were analyzed before, for a program that reads books again and again.
    pub memory: Option<&'a sound::Memory>,
    /// Called with the progress of the sound analysis, which can take a while the first time.
    pub progress: Option<sound::Progress<'a>>,
    /// Texts of files that are open in an editor and not saved: they are read instead of the files.
    pub unsaved: Option<Unsaved<'a>>,
}

/// Returns the text of a file that is open in an editor.
pub type Unsaved<'a> = &'a dyn Fn(&Path) -> Option<String>;

/// Opens, reads and checks a lightbook file.
///
/// # Errors
/// If the file cannot be read or is not a text. Errors in the book are in [`Opened::diagnostics`].
pub fn open(path: &Path) -> Result<Opened, OpenError> {
    open_with(path, Opening::default())
}

/// [`open`] with options.
///
/// # Errors
/// As [`open`].
pub fn open_with(path: &Path, opening: Opening<'_>) -> Result<Opened, OpenError> {
    let text = match opening.unsaved.and_then(|unsaved| unsaved(path)) {
        Some(text) => text,
        None => read_text(path)?,
    };
    let folder = folder_of(path);
    let library = |name: &str| used_text(folder, name, opening.unsaved);
    let ears = sound::SoundLoader::new(folder)
        .remembering(opening.memory)
        .keeping(opening.cache)
        .telling(opening.progress);
    let sounds = |name: &str, own: &[Band]| ears.hear(name, own).map_err(|fault| fault.to_string());
    let beside = Resources { books: &library, sounds: &sounds };
    let mut opened = read_with_resources(&text, &file_name(path), beside, opening.wanted);
    opened.look_for_pictures(folder);
    opened.file = path.display().to_string();
    let own = file_name(path);
    if let Some(source) = opened.sources.iter_mut().find(|source| source.name == own) {
        source.name.clone_from(&opened.file);
    }
    Ok(opened)
}

/// Reads the bytes of a lightbook file without parsing it.
///
/// # Errors
/// If the file cannot be read or is not a text.
pub fn read_text(path: &Path) -> Result<String, OpenError> {
    text_of(path, files::read(path, LARGEST))
}

/// The text of a file's bytes.
fn text_of(path: &Path, bytes: io::Result<Vec<u8>>) -> Result<String, OpenError> {
    let bytes = bytes.map_err(|cause| match cause.kind() {
        io::ErrorKind::FileTooLarge => OpenError::TooLarge { path: path.to_owned() },
        _ => OpenError::Io { path: path.to_owned(), cause },
    })?;
    let text = String::from_utf8(bytes).map_err(|refused| OpenError::NotText {
        path: path.to_owned(),
        at: refused.utf8_error().valid_up_to(),
    })?;
    if let Some(at) = text.find('\0') {
        return Err(OpenError::NotText { path: path.to_owned(), at });
    }
    Ok(text)
}

/// An imported book: the stock, or a file in the book's folder or below it.
/// The folder that a book's other files lie in.
pub fn folder_of(book: &Path) -> &Path {
    match book.parent() {
        Some(folder) if folder != Path::new("") => folder,
        _ => Path::new("."),
    }
}

/// The text that `use "name"` means in a book of a folder: the stock, or a file of that folder.
///
/// # Errors
/// Why there is none, for a diagnostic.
pub fn used_text(
    folder: &Path,
    name: &str,
    unsaved: Option<Unsaved<'_>>,
) -> Result<String, String> {
    let plain = Path::new(name).components().all(|part| matches!(part, Component::Normal(_)));
    let open = unsaved.filter(|_| plain).and_then(|unsaved| unsaved(&folder.join(name)));
    open.map_or_else(|| library(folder, name), Ok)
}

fn library(folder: &Path, name: &str) -> Result<String, String> {
    if name == STOCK_NAME {
        return Ok(STOCK.to_owned());
    }
    let given = Path::new(name);
    let plain = given.components().all(|part| matches!(part, Component::Normal(_)));
    if name.is_empty() || name.contains('\\') || !plain {
        return Err(format!("`{name}` is outside the book's folder"));
    }
    let path = folder.join(given);
    let read = files::open_within(folder, given).and_then(|file| files::read_open(&file, LARGEST));
    if read.as_ref().is_err_and(|cause| cause.kind() == io::ErrorKind::CrossesDevices) {
        return Err(format!("`{name}` is a link to a file outside the book's folder"));
    }
    text_of(&path, read).map_err(|refused| match refused {
        OpenError::Io { cause, .. } if cause.kind() == io::ErrorKind::NotFound => {
            format!("there is no `{name}` in the book's folder{}", near_file(folder, name))
        }
        other => other.to_string(),
    })
}

/// A suggestion for a missing file: the file of the same kind in the book's folder with the nearest name; empty if there
/// is none. Folders outside it are not read.
pub(crate) fn near_file(folder: &Path, name: &str) -> String {
    const MOST: usize = 2000;
    let near = || {
        let given = Path::new(name);
        let wanted = given.file_name()?.to_string_lossy().into_owned();
        let inner = folder.join(given).parent()?.canonicalize().ok()?;
        if !inner.starts_with(folder.canonicalize().ok()?) {
            return None;
        }
        let entries = fs::read_dir(inner).ok()?.take(MOST).flatten();
        let names = entries.map(|entry| entry.file_name().to_string_lossy().into_owned());
        let same = |found: &String| Path::new(found).extension() == given.extension();
        let names: Vec<String> = names.filter(same).collect();
        let near = lang::words::nearest(&wanted, names.iter().map(String::as_str))?;
        Some(format!("; did you mean `{}`?", given.with_file_name(near).display()))
    };
    near().unwrap_or_default()
}

fn file_name(path: &Path) -> String {
    path.file_name().map_or(String::new(), |name| name.to_string_lossy().into_owned())
}

/// Reads and checks a lightbook's text. `file` is its name in diagnostics and comments. It can use the stock and the
/// sounds of the demo, but no files.
pub fn read(text: &str, file: &str) -> Opened {
    read_with(text, file, &|name| match name {
        STOCK_NAME => Ok(STOCK.to_owned()),
        name => Err(format!("`{name}` cannot be loaded: this book has no folder")),
    })
}

/// Reads and checks a lightbook's text; `library` loads its imports, and sounds are those of the demo ([`SOUNDS`]).
pub fn read_with(
    text: &str,
    file: &str,
    library: &dyn Fn(&str) -> Result<String, String>,
) -> Opened {
    read_with_resources(
        text,
        file,
        Resources { books: library, sounds: &shipped_sound },
        Wanted::default(),
    )
}

/// A sound of the demo.
fn shipped_sound(name: &str, own: &[Band]) -> Result<Arc<Hearing>, String> {
    let Some((_, bytes)) = SOUNDS.iter().find(|(known, _)| *known == name) else {
        return Err(format!("the sound `{name}` cannot be loaded: this book has no folder"));
    };
    sound::hear_bytes(bytes, name, own).map(Arc::new).map_err(|fault| fault.to_string())
}

/// Reads and checks a lightbook's text; `beside` loads its imports and sounds.
pub fn read_with_resources(
    text: &str,
    file: &str,
    beside: Resources<'_>,
    wanted: Wanted,
) -> Opened {
    let reading = caltrin_lang::read_with_resources(text, file, beside, wanted);
    let mut findings = reading.checked.as_ref().map_or(Vec::new(), caltrin_check::check);
    let mut diagnostics = reading.diagnostics;
    let told = !findings.is_empty() || !reading.source_map.unused.is_empty();
    let silence = Silence::of(if told { &reading.sources } else { &[] });
    findings.retain(|finding| {
        let origin = reading.source_map.subject(finding.subject);
        // What nothing names is reported once.
        let idle = |origin: &Span| {
            let within = |unused: &Span| {
                let (unused, found) = (&unused.range, &origin.range);
                found.start <= unused.start && unused.end <= found.end
            };
            let named = reading.source_map.unused.iter();
            named.filter(|(unused, ..)| unused.source == origin.source).any(|(u, ..)| within(u))
        };
        let event = matches!(finding.subject, Subject::Event(_));
        !origin.is_some_and(|origin| {
            silence.covers(&origin, finding.rule.code) || (event && idle(&origin))
        })
    });
    // What one curve does in two places is one warning, at the first of them.
    let mut told = BTreeSet::new();
    for finding in &findings {
        if !told.insert((finding.rule.code, &finding.message)) {
            continue;
        }
        let origin = reading.source_map.subject(finding.subject);
        let origin = origin.unwrap_or(Span { source: 0, range: 0..0 });
        diagnostics.push(
            Diagnostic::warning(finding.rule.code, origin.range, finding.message.clone())
                .help(finding.help.clone())
                .in_source(origin.source),
        );
    }
    if reading.checked.is_some() {
        let rule = caltrin_check::UNUSED;
        for (origin, what, name) in &reading.source_map.unused {
            if !silence.covers(origin, rule.code) {
                let message = format!("the {what} `{name}` is not used");
                diagnostics.push(
                    Diagnostic::warning(rule.code, origin.range.clone(), message)
                        .help("use it or remove it")
                        .in_source(origin.source),
                );
            }
        }
    }
    diagnostics.sort_by_key(|d| (d.source(), d.range().start));
    // Both sides of a range stand on one line.
    diagnostics.dedup();
    Opened {
        file: file.to_owned(),
        sources: reading.sources,
        name: reading.name,
        checked: reading.checked,
        notes: reading.notes,
        source_map: reading.source_map,
        sounds: reading.sounds,
        findings,
        diagnostics,
    }
}

/// Comments that name a check's code, such as `// C04: the jump is meant`. They silence that check on
/// their own line, and on the next if nothing else stands on theirs.
struct Silence {
    /// By text, the lines with their numbers and what their comments say.
    comments: Vec<(Lines, BTreeMap<u32, String>)>,
}

impl Silence {
    fn of(sources: &[Source]) -> Self {
        let of = |source: &Source| {
            let lines = Lines::of(&source.text);
            let mut comments: BTreeMap<u32, String> = BTreeMap::new();
            for (line, comment, alone) in caltrin_lang::comments(&source.text) {
                comments.entry(line).or_default().push_str(&comment);
                if alone {
                    comments.entry(line + 1).or_default().push_str(&comment);
                }
            }
            (lines, comments)
        };
        Silence { comments: sources.iter().map(of).collect() }
    }

    fn covers(&self, origin: &Span, code: &str) -> bool {
        self.comments.get(origin.source).is_some_and(|(lines, comments)| {
            let line = lines.line(origin.range.start);
            let said = comments.get(&line).map_or("", String::as_str);
            said.split(|c: char| !c.is_ascii_alphanumeric()).any(|word| word == code)
        })
    }
}
