//! From the tree to the program: names, kinds, and where each thing stood.

mod call;
mod declare;
mod expression;
mod order;

use std::collections::BTreeMap;
use std::ops::Range;

use caltrin_core::draft::Draft;
use caltrin_core::program::{
    BehaviourId, CurveId, ExprId, Field, LightId, Program, SignalId, Subject,
};
use caltrin_core::quantity::Seed;
use caltrin_core::{Checked, Note, Notes, Problem};
use rustc_hash::FxHashMap;

use crate::diagnostic::{Diagnostic, Lines, Severity};
use crate::parser::{Parse, parse};
use crate::syntax::{Kind, Node, Token};
use crate::words;

/// Largest text that is read at all.
pub const LARGEST: usize = 64 << 20;

/// Where things of the program stood in the text.
#[derive(Clone, Debug, Default)]
pub struct Origins {
    /// By the expression's id.
    exprs: Vec<Option<Range<usize>>>,
    subjects: BTreeMap<Subject, Range<usize>>,
}

impl Origins {
    /// Where something named stood: its line's first words.
    pub fn subject(&self, subject: Subject) -> Option<Range<usize>> {
        self.subjects.get(&subject).cloned()
    }

    /// Keeps where an expression stood; the first place told of it stays.
    fn keep(&mut self, id: ExprId, range: impl FnOnce() -> Range<usize>) {
        if self.exprs.len() <= id.index() {
            self.exprs.resize(id.index() + 1, None);
        }
        self.exprs[id.index()].get_or_insert_with(range);
    }

    /// Where an expression stood.
    pub fn expr(&self, id: ExprId) -> Option<Range<usize>> {
        self.exprs.get(id.index()).cloned().flatten()
    }
}

/// What reading a lightbook gives.
#[derive(Clone, Debug)]
pub struct Reading {
    /// The lightbook's name; empty if it has none.
    pub name: String,
    /// The program, if there is no mistake.
    pub checked: Option<Checked>,
    /// The lines of things, for comments in exported code.
    pub notes: Notes,
    /// Where things stood.
    pub origins: Origins,
    /// Everything to be told, in the order of the text.
    pub diagnostics: Vec<Diagnostic>,
}

/// Reads a lightbook. `file` is its name without a folder, for the notes.
pub fn read(text: &str, file: &str) -> Reading {
    if text.len() > LARGEST {
        let message = format!("a lightbook has {} MiB at most", LARGEST >> 20);
        return Reading {
            name: String::new(),
            checked: None,
            notes: Notes::default(),
            origins: Origins::default(),
            diagnostics: vec![Diagnostic::error(0..0, message)],
        };
    }
    let parsed = parse(text);
    let mut resolver = Resolver::new(text, file, &parsed);
    resolver.book(&parsed.tree());
    resolver.finish()
}

/// What a name of the book stands for, once it is known.
#[derive(Clone, Copy, Debug)]
enum Item {
    Value(ExprId),
    Signal(SignalId),
    Curve(CurveId),
    Behaviour(BehaviourId),
    Light,
    /// It has a mistake that was told; nothing more is said where it is used.
    Broken,
}

struct Entry {
    node: Node,
    range: Range<usize>,
    item: Item,
}

struct Resolver<'t> {
    text: &'t str,
    lines: Lines,
    draft: Draft,
    entries: Vec<Entry>,
    names: FxHashMap<String, usize>,
    /// Names inside the light or behaviour at hand; `None` for one with a mistake.
    locals: FxHashMap<String, Option<ExprId>>,
    notes: Notes,
    origins: Origins,
    diagnostics: Vec<Diagnostic>,
    depth: usize,
}

impl<'t> Resolver<'t> {
    fn new(text: &'t str, file: &str, parsed: &Parse) -> Self {
        Resolver {
            text,
            lines: Lines::of(text),
            draft: Draft::new("", Seed(0)),
            entries: Vec::new(),
            names: FxHashMap::default(),
            locals: FxHashMap::default(),
            notes: Notes { file: file.to_owned(), lines: BTreeMap::new() },
            origins: Origins::default(),
            diagnostics: parsed.diagnostics.clone(),
            depth: 0,
        }
    }

    fn tell(&mut self, diagnostic: Diagnostic) {
        self.diagnostics.push(diagnostic);
    }

    fn finish(mut self) -> Reading {
        let name = self.draft.program().name().to_owned();
        let mut checked = None;
        let mut failed = Vec::new();
        if !self.diagnostics.iter().any(|d| d.severity == Severity::Error) {
            let made = std::mem::replace(&mut self.draft, Draft::new("", Seed(0)));
            match made.finish().validate() {
                Ok(good) => checked = Some(good),
                Err(problems) => failed = problems,
            }
        }
        for problem in failed {
            let told = self.problem(&problem);
            self.tell(told);
        }
        self.diagnostics.sort_by_key(|d| d.range().start);
        Reading {
            name,
            checked,
            notes: self.notes,
            origins: self.origins,
            diagnostics: self.diagnostics,
        }
    }

    fn problem(&self, problem: &Problem) -> Diagnostic {
        let range = problem
            .expr
            .and_then(|id| self.origins.expr(id))
            .or_else(|| self.origins.subject(problem.subject))
            .unwrap_or(0..0);
        Diagnostic::error(range, problem.to_string())
    }

    fn note(&mut self, subject: Subject, node: &Node) {
        let range = span(node);
        let line = self.lines.line(range.start);
        let words: Vec<&str> = self.lines.text(self.text, line).split_whitespace().collect();
        let mut text = words.join(" ");
        if text.chars().count() > 100 {
            text = text.chars().take(97).collect::<String>() + "...";
        }
        // `curve hunting { // why` is told as `curve hunting (why)`.
        let text = match text.split_once("//") {
            Some((said, why)) => {
                format!("{} ({})", said.trim_end().trim_end_matches('{').trim_end(), why.trim())
            }
            None => text.trim_end_matches('{').trim_end().to_owned(),
        };
        self.notes.lines.insert(subject, Note { line, text });
        self.origins.subjects.insert(subject, range);
    }

    fn book(&mut self, root: &Node) {
        for child in root.children() {
            match child.kind() {
                Kind::Header => self.header(&child),
                Kind::SeedDecl => {
                    if let Some(seed) = self.seed(&child) {
                        self.draft.set_seed(Seed(seed));
                    }
                }
                Kind::NamedDecl | Kind::CurveDecl | Kind::BehaviourDecl | Kind::LightDecl => {
                    self.enter(child);
                }
                _ => {}
            }
        }
        for n in self.in_order() {
            self.locals.clear();
            let node = self.entries[n].node.clone();
            let item = match node.kind() {
                Kind::NamedDecl => self.named(&node),
                Kind::CurveDecl => self.curve(&node),
                Kind::BehaviourDecl => self.behaviour(&node),
                _ => self.light(&node),
            };
            self.entries[n].item = item.unwrap_or(Item::Broken);
        }
    }

    fn header(&mut self, node: &Node) {
        let text = node
            .children_with_tokens()
            .filter_map(rowan::NodeOrToken::into_token)
            .find(|t| t.kind() == Kind::Text);
        if let Some(text) = text {
            let name = text.text().trim_matches('"').trim().to_owned();
            if name.is_empty() {
                let range = token_span(&text);
                self.tell(Diagnostic::error(range, "the book's name is empty"));
            }
            self.draft.set_name(&name);
        }
    }

    fn seed(&mut self, node: &Node) -> Option<u32> {
        let token = token_of(node, Kind::Number)?;
        let digits: String = token.text().chars().filter(|c| *c != '_').collect();
        match digits.parse() {
            Ok(seed) => Some(seed),
            Err(_) => {
                let message =
                    format!("a seed is a whole number from 0 to {}, found `{digits}`", u32::MAX);
                self.tell(Diagnostic::error(token_span(&token), message));
                None
            }
        }
    }

    fn enter(&mut self, node: Node) {
        let Some(token) = name_of(&node) else { return };
        let name = token.text().to_owned();
        let range = token_span(&token);
        if words::FUNCTIONS.contains(&name.as_str()) {
            let message = format!("`{name}` is a function of the language; choose another name");
            self.tell(Diagnostic::error(range.clone(), message));
        }
        if let Some(first) = self.names.get(&name) {
            let first = self.entries[*first].range.clone();
            self.tell(
                Diagnostic::error(range.clone(), format!("the name `{name}` is taken twice"))
                    .say("here again")
                    .also(first, "here first"),
            );
        } else {
            self.names.insert(name, self.entries.len());
        }
        self.entries.push(Entry { node, range, item: Item::Broken });
    }

    fn notes_for_light(&mut self, id: LightId, node: &Node, drives: &[(Field, Node)]) {
        self.note(Subject::Light(id), node);
        for (field, property) in drives {
            self.note(Subject::Drive(id, *field), property);
        }
    }

    fn program(&self) -> &Program {
        self.draft.program()
    }
}

/// The bytes of a node, without blanks after it.
fn span(node: &Node) -> Range<usize> {
    let range = node.text_range();
    let start = node
        .descendants_with_tokens()
        .filter_map(rowan::NodeOrToken::into_token)
        .find(|t| !t.kind().is_trivia() && t.kind() != Kind::LineEnd)
        .map_or(range.start(), |t| t.text_range().start());
    let mut last = node.last_token();
    while let Some(token) = last {
        let inside = token.text_range().start() >= range.start();
        if inside && (token.kind().is_trivia() || token.kind() == Kind::LineEnd) {
            last = token.prev_token();
        } else {
            let end = token.text_range().end().max(start);
            return usize::from(start)..usize::from(end);
        }
    }
    usize::from(start)..usize::from(range.end())
}

fn token_span(token: &Token) -> Range<usize> {
    let range = token.text_range();
    usize::from(range.start())..usize::from(range.end())
}

fn tokens(node: &Node) -> impl Iterator<Item = Token> {
    node.children_with_tokens()
        .filter_map(rowan::NodeOrToken::into_token)
        .filter(|t| !t.kind().is_trivia() && t.kind() != Kind::LineEnd)
}

fn token_of(node: &Node, kind: Kind) -> Option<Token> {
    tokens(node).find(|t| t.kind() == kind)
}

/// The name that a declaration gives: its second word.
fn name_of(node: &Node) -> Option<Token> {
    let mut words = tokens(node);
    words.next()?;
    words.next().filter(|t| t.kind() == Kind::Name && !crate::syntax::is_reserved(t.text()))
}

fn child_of(node: &Node, kind: Kind) -> Option<Node> {
    node.children().find(|child| child.kind() == kind)
}

/// Whether a node is a value.
fn is_expression(node: &Node) -> bool {
    matches!(
        node.kind(),
        Kind::Literal
            | Kind::ColorCall
            | Kind::Path
            | Kind::Call
            | Kind::Binary
            | Kind::Unary
            | Kind::Bracketed
            | Kind::If
            | Kind::Compare
    )
}

fn expressions(node: &Node) -> Vec<Node> {
    node.children().filter(is_expression).collect()
}
