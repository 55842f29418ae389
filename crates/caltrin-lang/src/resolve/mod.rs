//! The resolver: from the tree to the program, with names, kinds and source spans.

mod call;
mod color;
mod curve;
mod day;
mod declare;
mod event;
mod expression;
mod eye;
mod function;
mod group;
mod modes;
mod order;
mod place;
mod rehearsal;
mod sequence;
mod solid;
mod sound;
mod spark;

use std::collections::BTreeMap;
use std::ops::Range;
use std::rc::Rc;
use std::sync::Arc;

use caltrin_core::curve::Easing;
use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{
    BehaviorId, Constant, Domain, EventId, ExprId, Field, LightId, NOTICE_CAPACITIES, Program,
    SignalId, Size, SoundId, Space, Subject, Up, Wanted,
};
use caltrin_core::program_builder::event::Switch;
use caltrin_core::program_builder::{Owner, ProgramBuilder, Track};
use caltrin_core::quantity::{Place, Seed};
use caltrin_core::sound::{Band, Hearing};
use caltrin_core::{Problem, SourceNote, SourceNotes, ValidatedProgram};
use rustc_hash::FxHashMap;

use crate::ast::{self, AstNode, Decl, SequenceLine, span, token_of, token_span, tokens};
use crate::diagnostic::{Diagnostic, Lines, Severity};
use crate::grammar::{Declaration, Import};
use crate::literal;
use crate::parser::{Parse, parse};
use crate::syntax::{Node, SyntaxKind, Token};
use crate::words;
use spark::Spark;

/// Maximum size of a text, in bytes.
pub const LARGEST: usize = 64 << 20;

/// Source spans of expressions and declarations.
#[derive(Clone, Debug, Default)]
pub struct SourceMap {
    /// Indexed by expression.
    exprs: Vec<Option<Span>>,
    subjects: BTreeMap<Subject, Span>,
    /// Unused declarations: span, noun and name.
    pub unused: Vec<(Span, &'static str, String)>,
    /// The files of the program's backdrops, in its order.
    pub backdrops: Vec<Span>,
}

/// A byte range in one of the texts.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Span {
    /// Index of the text: 0 is the book, others are those that it uses.
    pub source: usize,
    /// Bytes of the text.
    pub range: Range<usize>,
}

impl SourceMap {
    /// The span of a declaration.
    pub fn subject(&self, subject: Subject) -> Option<Span> {
        self.subjects.get(&subject).cloned()
    }

    /// Stores the span of an expression, unless it has one.
    fn keep(&mut self, id: ExprId, range: impl FnOnce() -> Span) {
        if self.exprs.len() <= id.index() {
            self.exprs.resize(id.index() + 1, None);
        }
        self.exprs[id.index()].get_or_insert_with(range);
    }

    /// The span of an expression.
    pub fn expr(&self, id: ExprId) -> Option<Span> {
        self.exprs.get(id.index()).cloned().flatten()
    }
}

/// A text that was read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Source {
    /// The name that messages give it.
    pub name: String,
    /// The text.
    pub text: String,
}

/// The result of reading a lightbook.
#[derive(Clone, Debug)]
pub struct Reading {
    /// The texts: the book, then those that it uses.
    pub sources: Vec<Source>,
    /// The lightbook's name; empty if it has none.
    pub name: String,
    /// The program, if there is no error.
    pub checked: Option<ValidatedProgram>,
    /// Source lines of declarations, for comments in exported code.
    pub notes: SourceNotes,
    /// Source spans.
    pub source_map: SourceMap,
    /// The sound files that the book names, readable or not.
    pub sounds: Vec<String>,
    /// All diagnostics, in the order of the text.
    pub diagnostics: Vec<Diagnostic>,
}

/// Returns the text of a used book by its name, or why there is none.
pub type BookLoader<'a> = &'a dyn Fn(&str) -> Result<String, String>;

/// Analyzes a sound by its name, also in custom bands, or returns why that is not possible.
pub type SoundLoader<'a> = &'a dyn Fn(&str, &[Band]) -> Result<Arc<Hearing>, String>;

/// The other files of a book: books that it can use, and sounds.
#[derive(Clone, Copy)]
pub struct Resources<'a> {
    /// The texts of books.
    pub books: BookLoader<'a>,
    /// The analyses of sounds.
    pub sounds: SoundLoader<'a>,
}

/// Maximum number of books that one book can use, directly or not.
const MOST_BOOKS: usize = 64;

/// Reads a lightbook that uses no other. `file` is its name without a folder, for the notes.
pub fn read(text: &str, file: &str) -> Reading {
    read_with(text, file, &|name| Err(format!("`{name}` cannot be loaded here")))
}

/// Reads a lightbook; the texts that it uses come from `library`.
pub fn read_with(text: &str, file: &str, library: BookLoader<'_>) -> Reading {
    read_for(text, file, library, Wanted::default())
}

/// [`read_with`] with overrides of axes, unit or strengths.
pub fn read_for(text: &str, file: &str, library: BookLoader<'_>, wanted: Wanted) -> Reading {
    let deaf = |name: &str, _: &[Band]| Err(format!("the sound `{name}` cannot be loaded here"));
    read_with_resources(text, file, Resources { books: library, sounds: &deaf }, wanted)
}

/// [`read_for`] with sounds.
pub fn read_with_resources(
    text: &str,
    file: &str,
    beside: Resources<'_>,
    wanted: Wanted,
) -> Reading {
    let sources = vec![Source { name: file.to_owned(), text: text.to_owned() }];
    if text.len() > LARGEST {
        let message = format!("a lightbook can have at most {} MiB", LARGEST >> 20);
        return Reading {
            sources,
            name: String::new(),
            checked: None,
            notes: SourceNotes::default(),
            source_map: SourceMap::default(),
            sounds: Vec::new(),
            diagnostics: vec![Diagnostic::error(0..0, message).in_source(0)],
        };
    }
    let parsed = parse(text);
    if let Some(book) = rehearsed_book(&parsed.tree()) {
        return read_rehearsals(&sources, &parsed, &book, beside, wanted);
    }
    let mut resolver = Resolver::new(sources, file, &parsed);
    resolver.builder.set_wanted(wanted);
    resolver.gather(&parsed.tree(), beside.books);
    resolver.hear_all(beside.sounds);
    resolver.book();
    resolver.finish()
}

/// The book that a file of rehearsals is for: `rehearses "pier.caltrin"`
fn rehearsed_book(root: &Node) -> Option<Token> {
    let header = child_of(root, SyntaxKind::Header)?;
    let first = tokens(&header).next().filter(|word| word.text() == "rehearses")?;
    tokens(&header).find(|token| token.kind() == SyntaxKind::Text).or(Some(first))
}

/// Reads the book that a file of rehearsals is for, with those rehearsals and its own. The book is the first of the
/// texts, the file the second.
fn read_rehearsals(
    sources: &[Source],
    parsed: &Parse,
    book: &Token,
    beside: Resources<'_>,
    wanted: Wanted,
) -> Reading {
    let name = book.text().trim_matches('"').to_owned();
    let text = match (beside.books)(&name) {
        _ if book.kind() != SyntaxKind::Text => {
            Err("the file does not name the book that it rehearses".to_owned())
        }
        Ok(text) if text.len() > LARGEST => Err(format!("`{name}` is too large for a lightbook")),
        found => found,
    };
    let (text, missing) = match text {
        Ok(text) => (text, None),
        Err(why) => (String::new(), Some(why)),
    };
    let of_book = parse(&text);
    let mut all = vec![Source { name: name.clone(), text }];
    all.extend(sources.iter().cloned());
    let mut resolver = Resolver::new(all, &name, &of_book);
    resolver.builder.set_wanted(wanted);
    if let Some(why) = missing {
        // A missing book has no other errors.
        resolver.diagnostics.clear();
        resolver.source = 1;
        resolver.tell(Diagnostic::error(token_span(book), why));
    }
    let told = parsed.reported().map(|told| told.in_source(1));
    resolver.diagnostics.extend(told);
    if rehearsed_book(&of_book.tree()).is_some() {
        resolver.source = 1;
        let message = format!("`{name}` is a file of rehearsals, not a book");
        resolver.tell(Diagnostic::error(token_span(book), message));
    }
    resolver.source = 0;
    resolver.gather(&of_book.tree(), beside.books);
    resolver.hear_all(beside.sounds);
    resolver.source = 1;
    for child in parsed.tree().children() {
        match child.kind() {
            SyntaxKind::RehearsalDecl => {
                resolver.enter(What::Decl(Decl::Rehearsal(ast::Rehearsal(child))));
            }
            SyntaxKind::Header | SyntaxKind::Broken => {}
            _ => {
                let message = "a file of rehearsals can contain only rehearsals";
                resolver.tell(Diagnostic::error(span(&child), message));
            }
        }
    }
    resolver.source = 0;
    resolver.book();
    resolver.finish()
}

/// Reads a single constant, such as `40%`, `(0m, 1.7m, 0m)` or `2100K`.
///
/// # Errors
/// The message of the error.
pub fn value(text: &str) -> Result<(Constant, ValueKind), String> {
    let line = text.trim();
    if line.is_empty() || line.contains(['\n', '\r', ';']) {
        return Err("expected a value".to_owned());
    }
    let parsed = parse(&format!("lightbook \"value\"\nvalue it = {line}\n"));
    let source = Source { name: String::new(), text: parsed.tree().text().to_string() };
    let mut resolver = Resolver::new(vec![source], "", &parsed);
    resolver.gather(&parsed.tree(), &|_| Err(String::new()));
    resolver.book();
    if let Some(told) = resolver.diagnostics.iter().find(|d| d.severity == Severity::Error) {
        return Err(told.message.clone());
    }
    match resolver.entries.first().map(|entry| &entry.item) {
        Some(Item::Value(id)) => {
            let known = resolver.builder.program().constant(*id);
            let constant = known.ok_or_else(|| "it changes".to_owned())?;
            Ok((constant, resolver.builder.kind(*id)))
        }
        _ => Err("expected a value".to_owned()),
    }
}

/// The meaning of a resolved name.
#[derive(Clone, Debug)]
enum Item {
    /// A value of the book, or of a light, fitting or behavior.
    Value(ExprId),
    Signal(SignalId),
    Curve(Rc<Columns>),
    Behavior(BehaviorId),
    Fitting,
    Light,
    /// Hours, phases, sun or moon.
    Parts(Rc<day::Parts>),
    /// An event.
    Event(EventId),
    /// A sound.
    Sound(SoundId),
    /// A switch: its level, and whether it is on.
    Switch(Switch),
    /// A group of lights.
    Group,
    /// A sequence.
    Sequence,
    /// A line that sends a notice; it has no name.
    Sends,
    /// A rehearsal.
    Rehearsal,
    /// What only drawings show: a wall, post, eye or backdrop.
    Scenery,
    /// It has an error that was reported; its uses report nothing more.
    Broken,
}

/// A curve: one column, or several with names.
#[derive(Debug)]
struct Columns {
    /// The columns' names; none where there is only one without a name.
    names: Vec<String>,
    tracks: Vec<Track>,
    /// The stops of each column, for curves that insert this one.
    stops: Vec<Vec<(Place, Constant, Easing)>>,
    domain: Domain,
    kinds: Vec<ValueKind>,
    /// The tracks of a curve with a `length`, as they loop and as they alternate.
    lasting: Option<[Vec<Track>; 2]>,
}

impl Item {
    /// A value, or broken.
    fn value(made: Option<ExprId>) -> Item {
        made.map_or(Item::Broken, Item::Value)
    }
}

/// What an entry is made of.
#[derive(Clone)]
enum What {
    Decl(Decl),
    /// A mark of a sequence.
    Mark(SequenceLine),
}

impl What {
    fn node(&self) -> &Node {
        match self {
            What::Decl(decl) => decl.syntax(),
            What::Mark(line) => line.syntax(),
        }
    }

    fn name(&self) -> Option<Token> {
        match self {
            What::Decl(decl) => decl.name(),
            What::Mark(line) => line.mark(),
        }
    }

    /// Its entry in the table of declarations; none of a mark.
    fn declaration(&self) -> Option<&'static Declaration> {
        match self {
            What::Decl(decl) => Some(decl.declaration()),
            What::Mark(_) => None,
        }
    }
}

struct Entry {
    what: What,
    node: Node,
    source: usize,
    range: Range<usize>,
    item: Item,
    used: bool,
}

/// The instances of fittings around a light.
#[derive(Clone, Default)]
struct Around {
    /// Their names, each followed by a `.`.
    path: String,
    /// Their sizes, outermost first.
    instances: Vec<Size>,
    /// Their position, if they have one.
    position: Option<ExprId>,
}

struct Resolver {
    sources: Vec<Source>,
    lines: Vec<Lines>,
    /// Index of the current text.
    source: usize,
    builder: ProgramBuilder,
    entries: Vec<Entry>,
    names: FxHashMap<String, usize>,
    /// Names inside the current light, fitting or behavior.
    locals: FxHashMap<String, Item>,
    notes: SourceNotes,
    source_map: SourceMap,
    diagnostics: Vec<Diagnostic>,
    /// The first clock: its text and byte range.
    clock_at: Option<(usize, Range<usize>)>,
    depth: usize,
    /// The name of the current declaration.
    declaration: String,
    /// The resolved groups.
    groups: Vec<group::Grouped>,
    /// The resolved sequences, and the events of their marks.
    sequences: Vec<sequence::Sequenced>,
    marks: FxHashMap<String, EventId>,
    /// The parameters of events, by their names.
    given: FxHashMap<(EventId, String), ExprId>,
    /// The current sparks.
    spark: Option<Spark>,
    /// The lights that notices come from, to be checked at the end.
    senders: Vec<event::SourceLight>,
    /// The position of the current lamp, in its channels.
    here: Option<ExprId>,
    /// The positions of single lights, by their names.
    positions: FxHashMap<String, ExprId>,
    /// The times that `since` counts from, by the events of entered modes.
    origins_of_modes: FxHashMap<EventId, ExprId>,
    /// The groups and sequences that name a light, instance or group.
    holders: FxHashMap<String, Vec<usize>>,
    /// The analyses of the book's sounds by their names, or why there is none.
    hearings: FxHashMap<String, Result<Arc<Hearing>, String>>,
    /// The files of all sounds.
    sounds: Vec<String>,
}

impl Resolver {
    fn new(sources: Vec<Source>, file: &str, parsed: &Parse) -> Self {
        let diagnostics = parsed.reported().map(|d| d.in_source(0)).collect();
        Resolver {
            lines: sources.iter().map(|source| Lines::of(&source.text)).collect(),
            sources,
            source: 0,
            builder: ProgramBuilder::new("", Seed(0)),
            entries: Vec::new(),
            names: FxHashMap::default(),
            locals: FxHashMap::default(),
            notes: SourceNotes { file: file.to_owned(), ..SourceNotes::default() },
            source_map: SourceMap::default(),
            diagnostics,
            clock_at: None,
            positions: FxHashMap::default(),
            depth: 0,
            declaration: String::new(),
            groups: Vec::new(),
            sequences: Vec::new(),
            marks: FxHashMap::default(),
            given: FxHashMap::default(),
            spark: None,
            senders: Vec::new(),
            here: None,
            origins_of_modes: FxHashMap::default(),
            holders: FxHashMap::default(),
            hearings: FxHashMap::default(),
            sounds: Vec::new(),
        }
    }

    /// The meaning of a name in the current declaration, or in the book.
    fn item(&self, word: &str) -> Option<&Item> {
        let of_book = || Some(&self.entries[*self.names.get(word)?].item);
        self.locals.get(word).or_else(of_book)
    }

    /// The name that was probably intended. Beyond a number of errors there are no suggestions: comparing all
    /// names for each error takes quadratic time.
    fn nearest<'w>(&self, word: &str, known: impl IntoIterator<Item = &'w str>) -> Option<&'w str> {
        if self.suggests() { words::nearest(word, known) } else { None }
    }

    /// Whether suggestions are still made.
    fn suggests(&self) -> bool {
        const MOST: usize = 100;
        self.diagnostics.len() < MOST
    }

    fn tell(&mut self, diagnostic: Diagnostic) {
        self.diagnostics.push(diagnostic.in_source(self.source));
    }

    fn finish(mut self) -> Reading {
        let name = self.builder.program().name().to_owned();
        let mut checked = None;
        let mut failed = Vec::new();
        if !self.diagnostics.iter().any(|d| d.severity == Severity::Error) {
            let made = std::mem::replace(&mut self.builder, ProgramBuilder::new("", Seed(0)));
            match made.finish().validate() {
                Ok(good) => checked = Some(good),
                Err(problems) => failed = problems,
            }
        }
        for problem in failed {
            let told = self.problem(&problem);
            self.tell(told);
        }
        self.diagnostics.sort_by_key(|d| (d.source(), d.range().start));
        // An error in a fitting is reported once, not per instance.
        self.diagnostics.dedup();
        Reading {
            sources: self.sources,
            name,
            checked,
            notes: self.notes,
            source_map: self.source_map,
            sounds: self.sounds,
            diagnostics: self.diagnostics,
        }
    }

    fn problem(&self, problem: &Problem) -> Diagnostic {
        let origin = problem
            .expr
            .and_then(|id| self.source_map.expr(id))
            .or_else(|| self.source_map.subject(problem.subject))
            .unwrap_or(Span { source: 0, range: 0..0 });
        Diagnostic::error(origin.range, problem.to_string()).in_source(origin.source)
    }

    fn origin(&self, range: Range<usize>) -> Span {
        Span { source: self.source, range }
    }

    fn note(&mut self, subject: Subject, node: &Node) {
        let note = self.note_of(node);
        self.notes.lines.insert(subject, note);
        let origin = self.origin(span(node));
        self.source_map.subjects.insert(subject, origin);
    }

    /// Stores the source line of a declaration that is not a subject of the program.
    fn note_named(&mut self, name: &str, node: &Node) {
        let note = self.note_of(node);
        self.notes.named.push((name.to_owned(), note));
    }

    /// The line that a node begins in.
    fn note_of(&self, node: &Node) -> SourceNote {
        let range = span(node);
        let (lines, source) = (&self.lines[self.source], &self.sources[self.source]);
        let line = lines.line(range.start);
        let words: Vec<&str> = lines.text(&source.text, line).split_whitespace().collect();
        let mut text = words.join(" ");
        if text.chars().count() > 100 {
            text = text.chars().take(97).collect::<String>() + "...";
        }
        // `curve hunting { // why` is reported as `curve hunting (why)`.
        let text = match text.split_once("//") {
            Some((said, why)) => {
                format!("{} ({})", said.trim_end().trim_end_matches('{').trim_end(), why.trim())
            }
            None => text.trim_end_matches('{').trim_end().to_owned(),
        };
        let file = (self.source > 0).then(|| source.name.clone());
        SourceNote { file, line, text }
    }

    /// Enters the declarations of the book and of the books that it uses.
    fn gather(&mut self, root: &Node, library: BookLoader<'_>) {
        let mut open = vec![(0, root.clone())];
        let mut books: Vec<String> = Vec::new();
        while let Some((source, root)) = open.pop() {
            self.source = source;
            if let Some(header) = child_of(&root, SyntaxKind::Header).filter(|_| source == 0) {
                self.header(&header);
            }
            for decl in root.children().filter_map(Decl::cast) {
                if source > 0 && decl.declaration().import == Import::Own {
                    continue;
                }
                match &decl {
                    Decl::Seed(seed) => {
                        if let Some(seed) = self.seed(seed) {
                            self.builder.set_seed(Seed(seed));
                        }
                    }
                    Decl::Notices(notices) => {
                        if let Some(count) = self.waiting(notices) {
                            self.builder.set_notice_capacity(count);
                        }
                    }
                    Decl::Space(space) => self.space(space),
                    Decl::Clock(clock) => self.first_clock(clock.syntax()),
                    Decl::Use(used) => {
                        let read = self.used_book(used, &mut books, library);
                        open.extend(read);
                    }
                    Decl::Sequence(sequence) => {
                        // A mark of a sequence has a name of its own.
                        let lines =
                            sequence.steps().flat_map(|step| step.lines().collect::<Vec<_>>());
                        let marks: Vec<_> = lines.filter(|line| line.mark().is_some()).collect();
                        self.enter(What::Decl(decl));
                        marks.into_iter().for_each(|mark| self.enter(What::Mark(mark)));
                    }
                    Decl::Named(_)
                    | Decl::Input(_)
                    | Decl::Curve(_)
                    | Decl::Behavior(_)
                    | Decl::Fitting(_)
                    | Decl::Place(_)
                    | Decl::Light(_)
                    | Decl::Spark(_)
                    | Decl::Output(_)
                    | Decl::Wall(_)
                    | Decl::Post(_)
                    | Decl::Eye(_)
                    | Decl::Choice(_)
                    | Decl::Hours(_)
                    | Decl::Phases(_)
                    | Decl::Sun(_)
                    | Decl::Moon(_)
                    | Decl::Event(_)
                    | Decl::Switch(_)
                    | Decl::Modes(_)
                    | Decl::Sound(_)
                    | Decl::Group(_)
                    | Decl::Rehearsal(_)
                    | Decl::Backdrop(_)
                    | Decl::Send(_) => self.enter(What::Decl(decl)),
                    // The parser accepts it in behaviors only.
                    Decl::Gives(_) => {}
                }
            }
        }
        self.source = 0;
    }

    /// Reads a used book, once however often it is used.
    fn used_book(
        &mut self,
        used: &ast::Use,
        books: &mut Vec<String>,
        library: BookLoader<'_>,
    ) -> Option<(usize, Node)> {
        let token = used.file()?;
        let name = token.text().trim_matches('"').to_owned();
        if books.contains(&name) {
            return None;
        }
        if books.len() == MOST_BOOKS {
            let message = format!("a book can use at most {MOST_BOOKS} others");
            self.tell(Diagnostic::error(token_span(&token), message));
            return None;
        }
        books.push(name.clone());
        let text = match library(&name) {
            Ok(text) if text.len() <= LARGEST => text,
            Ok(_) => {
                let message = format!("`{name}` is too large for a lightbook");
                self.tell(Diagnostic::error(token_span(&token), message));
                return None;
            }
            Err(why) => {
                self.tell(Diagnostic::error(token_span(&token), why));
                return None;
            }
        };
        let parsed = parse(&text);
        let source = self.sources.len();
        self.diagnostics.extend(parsed.reported().map(|d| d.in_source(source)));
        self.lines.push(Lines::of(&text));
        self.sources.push(Source { name, text });
        Some((source, parsed.tree()))
    }

    fn book(&mut self) {
        for n in self.in_order() {
            self.locals.clear();
            self.source = self.entries[n].source;
            let node = self.entries[n].node.clone();
            self.declaration = name_of(&node).map_or(String::new(), |t| t.text().to_owned());
            let item = match self.entries[n].what.clone() {
                What::Mark(_) => self.mark(&node),
                What::Decl(decl) => match decl {
                    Decl::Named(_) => self.named(&node),
                    Decl::Input(_) => self.input(&node, &mut Owner::book("")).map(Item::Value),
                    Decl::Curve(_) => self.curve(&node),
                    Decl::Behavior(_) => self.behavior(&node),
                    Decl::Fitting(_) => Some(Item::Fitting),
                    Decl::Choice(_) => self.choice(&node),
                    Decl::Hours(_) => self.hours(&node),
                    Decl::Phases(_) => self.phases(&node),
                    Decl::Sun(_) => self.sun(&node),
                    Decl::Moon(_) => self.moon(&node),
                    Decl::Event(_) | Decl::Switch(_) | Decl::Modes(_) => {
                        self.happens(&node, &mut Owner::book(&self.declaration.clone()))
                    }
                    Decl::Send(_) => {
                        let words: Vec<String> =
                            tokens(&node).map(|token| token.text().to_owned()).collect();
                        self.sends(&node, &mut Owner::book(&words.join(" ")), None);
                        Some(Item::Sends)
                    }
                    Decl::Sound(_) => self.sound(&node),
                    Decl::Group(_) => self.group(&node),
                    Decl::Sequence(_) => self.sequence(&node),
                    Decl::Rehearsal(_) => self.rehearsal(&node),
                    Decl::Wall(wall) => self.wall(&wall),
                    Decl::Post(post) => self.post(&post),
                    Decl::Eye(eye) => self.eye(&eye),
                    Decl::Backdrop(backdrop) => self.backdrop(&backdrop),
                    Decl::Place(_) => self.place(&node, &Around::default()),
                    Decl::Output(_) => self.output(&node, &Around::default()),
                    Decl::Light(_) | Decl::Spark(_) => self.light(&node, &Around::default()),
                    // These are read where declarations are gathered.
                    Decl::Seed(_)
                    | Decl::Notices(_)
                    | Decl::Use(_)
                    | Decl::Space(_)
                    | Decl::Clock(_)
                    | Decl::Gives(_) => None,
                },
            };
            self.entries[n].item = item.unwrap_or(Item::Broken);
        }
        self.unmet_members();
        self.unmet_senders();
        self.unmet_channels();
        self.source = 0;
        // A book with nothing that the game reads is used by others.
        let declaration = |entry: &Entry| entry.what.declaration();
        if !self.entries.iter().filter_map(declaration).any(|known| known.shines) {
            return;
        }
        for entry in self.entries.iter().filter(|entry| !entry.used && entry.source == 0) {
            let Some(known) = entry.what.declaration().filter(|known| known.wants_use) else {
                continue;
            };
            let what = known.noun;
            let name = name_of(&entry.node).map_or(String::new(), |t| t.text().to_owned());
            let origin = Span { source: entry.source, range: entry.range.clone() };
            self.source_map.unused.push((origin, what, name));
        }
    }

    fn header(&mut self, node: &Node) {
        let text = node
            .children_with_tokens()
            .filter_map(rowan::NodeOrToken::into_token)
            .find(|t| t.kind() == SyntaxKind::Text);
        if let Some(text) = text {
            let name = text.text().trim_matches('"').trim().to_owned();
            if name.is_empty() {
                let range = token_span(&text);
                self.tell(Diagnostic::error(range, "the book's name is empty"));
            }
            self.builder.set_name(&name);
        }
    }

    fn seed(&mut self, seed: &ast::Seed) -> Option<u32> {
        let token = seed.number()?;
        let digits: String = token.text().chars().filter(|c| *c != '_').collect();
        match digits.parse() {
            Ok(seed) => Some(seed),
            Err(_) => {
                let message = format!(
                    "a seed must be a whole number from 0 to {}, found `{digits}`",
                    u32::MAX
                );
                self.tell(Diagnostic::error(token_span(&token), message));
                None
            }
        }
    }

    /// The capacity of the queue of notices.
    fn waiting(&mut self, notices: &ast::Notices) -> Option<u32> {
        let token = notices.number()?;
        let digits: String = token.text().chars().filter(|c| *c != '_').collect();
        let known = digits.parse().ok().filter(|count| NOTICE_CAPACITIES.contains(count));
        if known.is_none() {
            let (least, most) = (NOTICE_CAPACITIES.start(), NOTICE_CAPACITIES.end());
            let message = format!(
                "the queue must hold a whole number of notices from {least} to {most}, found `{digits}`"
            );
            self.tell(Diagnostic::error(token_span(&token), message).help("write `notices 64`"));
        }
        known
    }

    fn enter(&mut self, what: What) {
        let node = what.node().clone();
        if let What::Decl(Decl::Send(_) | Decl::Backdrop(_)) = what {
            let (source, range) = (self.source, span_of_first(&node));
            self.entries.push(Entry { what, node, source, range, item: Item::Broken, used: true });
            return;
        }
        let Some(token) = what.name() else { return };
        let name = token.text().to_owned();
        let range = token_span(&token);
        // A name can be that of a function unless it is called too.
        let behavior = matches!(what, What::Decl(Decl::Behavior(_)));
        let called = behavior || matches!(what, What::Decl(Decl::Curve(_)));
        let function = words::current(&name);
        let steps = name == "steps" && behavior;
        if called && (words::is_function(function) || steps) {
            let message = format!("`{name}` is a function of the language; choose another name");
            let told = Diagnostic::error(range.clone(), message);
            self.tell(match function == name {
                true => told,
                false => told.help(format!("it is an earlier name of `{function}`")),
            });
        }
        // The book's own names shadow imported ones. Inputs, events, choices and the sky exist only once.
        let known = self.names.get(&name).copied();
        let own = known.is_some_and(|n| self.entries[n].source == 0) && self.source > 0;
        let hidden =
            matches!(&what, What::Decl(decl) if decl.declaration().import == Import::Hidden);
        if own && hidden {
            return;
        }
        match known {
            Some(first) => {
                let first = &self.entries[first];
                let message = match [self.source, first.source] {
                    [here, there] if here == there => format!("duplicate name `{name}`"),
                    both => {
                        let [here, there] = both.map(|n| &self.sources[n].name);
                        format!("duplicate name `{name}`: both `{there}` and `{here}` declare it")
                    }
                };
                let mut told = Diagnostic::error(range.clone(), message)
                    .say("here again")
                    .in_source(self.source)
                    .also(first.range.clone(), "here first");
                told = told.in_source(first.source);
                let unnamed = token_span(&token) == span_of_first(&node);
                if unnamed || span_of_first(&first.node) == first.range {
                    let help = format!("name it, as in `{name} helios {{ ... }}`");
                    told = told.help(help);
                }
                self.tell(told);
            }
            None => {
                self.names.insert(name, self.entries.len());
            }
        }
        let source = self.source;
        self.entries.push(Entry { what, node, source, range, item: Item::Broken, used: false });
    }

    /// Reads the clock of the book or of a book that it uses, once.
    fn first_clock(&mut self, node: &Node) {
        let range = span_of_first(node);
        let (first, place) =
            self.clock_at.get_or_insert_with(|| (self.source, range.clone())).clone();
        // A second clock of the same file is reported where it is read.
        if first == self.source {
            self.clock(node);
            return;
        }
        let [here, there] = [self.source, first].map(|n| &self.sources[n].name);
        let message = format!("duplicate clock: both `{there}` and `{here}` declare one");
        let told = Diagnostic::error(range, message)
            .say("here again")
            .in_source(self.source)
            .also(place, "here first")
            .in_source(first);
        self.tell(told);
    }

    /// `space { up z; unit 1cm }`
    fn space(&mut self, node: &ast::Space) {
        let mut space = Space::default();
        for property in node.properties() {
            let Some(word) = property.word() else { continue };
            let value = property.values().next().and_then(|range| range.values().pop());
            match (word.text(), value) {
                ("up", Some(value)) => match value.text().as_str() {
                    "y" => space.up = Up::Y,
                    "z" => space.up = Up::Z,
                    _ => {
                        let message = "`up` is `y`, as in glTF, or `z`";
                        self.tell(Diagnostic::error(value.range(), message));
                    }
                },
                ("unit", Some(value)) => {
                    let length = literal::number(&value.text());
                    match length {
                        Ok((Constant::Scalar(v), ValueKind::Length)) if v > 0.0 => space.unit = v,
                        _ => {
                            let message = "`unit` is the length of one unit in the game";
                            self.tell(
                                Diagnostic::error(value.range(), message).help("write `unit 1cm`"),
                            );
                        }
                    }
                }
                _ => {
                    let message = format!("a space has no `{}`", word.text());
                    self.tell(
                        Diagnostic::error(token_span(&word), message)
                            .help("it has `up` and `unit`, as in `space { up z; unit 1cm }`"),
                    );
                }
            }
        }
        self.builder.set_space(space);
    }

    fn notes_for_light(&mut self, id: LightId, node: &Node, drives: &[(Field, Node)]) {
        self.note(Subject::Light(id), node);
        for (field, property) in drives {
            self.note(Subject::Drive(id, *field), property);
        }
    }

    fn program(&self) -> &Program {
        self.builder.program()
    }
}

/// The bytes of a declaration's first word.
fn span_of_first(node: &Node) -> Range<usize> {
    tokens(node).next().map_or(0..0, |token| token_span(&token))
}

/// The name that a declaration gives.
fn name_of(node: &Node) -> Option<Token> {
    match Decl::cast(node.clone()) {
        Some(decl) => decl.name(),
        None => SequenceLine::cast(node.clone())?.mark(),
    }
}

fn child_of(node: &Node, kind: SyntaxKind) -> Option<Node> {
    node.children().find(|child| child.kind() == kind)
}

/// Whether a node is a value.
fn is_expression(node: &Node) -> bool {
    matches!(
        node.kind(),
        SyntaxKind::Literal
            | SyntaxKind::ColorCall
            | SyntaxKind::Path
            | SyntaxKind::Call
            | SyntaxKind::Binary
            | SyntaxKind::Unary
            | SyntaxKind::Bracketed
            | SyntaxKind::If
            | SyntaxKind::Compare
    )
}

fn expressions(node: &Node) -> Vec<Node> {
    node.children().filter(is_expression).collect()
}
