//! What can be written at a place: declarations, clauses, functions, names, units, easings, colors.
//!
//! Candidates come from what stands around the place; they are ranked by how often this book has
//! written each of them after the same words.

use std::ops::Range;

use rustc_hash::{FxHashMap, FxHashSet};

use super::context::{Context, OpenCall};
use super::{Project, split_arguments};
use crate::grammar::{self, Around, Declaration, Keyword};
use crate::names::{DefinitionId, NameKind};
use crate::syntax::{SyntaxKind, lex};
use crate::{literal, words};

/// What a completion is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum CompletionKind {
    /// A word that starts a declaration or a line, or a word within one.
    Word,
    /// A function of the language.
    Function,
    /// A name of the book.
    Name(NameKind),
    /// A part of the sun, the moon or the clock that has no definition in the text.
    Part,
    /// A unit.
    Unit,
    /// An easing.
    Easing,
    /// A named color.
    Color,
    /// A file.
    File,
}

/// Something that can be written at a place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Completion {
    /// The word.
    pub label: String,
    /// What it is.
    pub kind: CompletionKind,
    /// An example, or the first line of its definition.
    pub detail: String,
    /// The text to insert. In a snippet `${1:text}` are places to fill in.
    pub insert: String,
    /// Whether the text is a snippet.
    pub snippet: bool,
    /// The bytes that it replaces: the word that is being written.
    pub replace: Range<usize>,
}

/// What can be written at a byte of a text, the most likely first.
pub fn complete(project: &Project, source: usize, at: usize) -> Vec<Completion> {
    let text = &project.texts()[source].text;
    let context = Context::at(text, at);
    if context.comment {
        return Vec::new();
    }
    let mut found = Candidates { project, source, at, context: &context, all: Vec::new() };
    found.collect();
    let usage = Usage::of(text, &context, at);
    let written = text[context.prefix.clone()].to_lowercase();
    let mut seen = FxHashSet::default();
    let mut all: Vec<(i64, Completion)> = std::mem::take(&mut found.all)
        .into_iter()
        .filter(|(_, one)| fits(&one.label, &written))
        .filter(|(_, one)| seen.insert(one.label.clone()))
        .map(|(base, one)| {
            let start = i64::from(one.label.starts_with(&written)) * 2_000;
            (base + usage.score(&one.label) + start, one)
        })
        .collect();
    all.sort_by(|(a, one), (b, other)| b.cmp(a).then_with(|| one.label.cmp(&other.label)));
    all.into_iter().map(|(_, one)| one).collect()
}

/// Whether the letters that were written stand in a word, in their order and starting with its first.
fn fits(word: &str, written: &str) -> bool {
    let mut letters = word.chars().flat_map(char::to_lowercase);
    let mut first = true;
    written.chars().all(|c| {
        let found = if first { letters.next() == Some(c) } else { letters.any(|l| l == c) };
        first = false;
        found
    })
}

/// How often a book has written a word, and after what.
struct Usage {
    /// After the same word or sign in a statement or block that starts alike.
    alike: FxHashMap<String, u32>,
    /// After the same word or sign.
    after: FxHashMap<String, u32>,
    /// At all.
    all: FxHashMap<String, u32>,
    /// The first word of the statement before, in the same block.
    previous: Option<String>,
}

impl Usage {
    /// Counts the words of a text, without those of the line of a place.
    fn of(text: &str, context: &Context<'_>, at: usize) -> Self {
        let line = text[..at].rfind('\n').map_or(0, |n| n + 1);
        let end = text[at..].find('\n').map_or(text.len(), |n| at + n);
        let place = |before: Option<(SyntaxKind, &str)>| match before {
            // Of values only their kind matters.
            Some((SyntaxKind::Number, text)) => {
                let unit = text.trim_start_matches(|c: char| !c.is_alphabetic() && c != '%');
                format!("0{unit}")
            }
            Some((SyntaxKind::Hour | SyntaxKind::Hash | SyntaxKind::Text, _)) => "#".to_owned(),
            Some((_, text)) => text.to_owned(),
            None => String::new(),
        };
        let own = place(context.before());
        let own_start = (context.block(), context.first());
        let own_call = context.calls.last().map(|call| call.callee);
        let (tokens, _) = lex(text);
        let mut usage = Usage {
            alike: FxHashMap::default(),
            after: FxHashMap::default(),
            all: FxHashMap::default(),
            previous: None,
        };
        let mut blocks: Vec<&str> = Vec::new();
        let mut calls: Vec<&str> = Vec::new();
        let (mut first, mut before): (Option<&str>, Option<(SyntaxKind, &str)>) = (None, None);
        for token in &tokens {
            let said = &text[token.start..token.end];
            match token.kind {
                SyntaxKind::Blank | SyntaxKind::Comment => continue,
                SyntaxKind::LineEnd | SyntaxKind::Semicolon => {
                    (first, before) = (None, None);
                    calls.clear();
                    continue;
                }
                SyntaxKind::BraceOpen => {
                    blocks.push(first.unwrap_or_default());
                    (first, before) = (None, None);
                    continue;
                }
                SyntaxKind::BraceClose => {
                    blocks.pop();
                    (first, before) = (None, None);
                    continue;
                }
                SyntaxKind::ParenOpen => calls.push(match before {
                    Some((SyntaxKind::Name, name)) => name,
                    _ => "",
                }),
                SyntaxKind::ParenClose => {
                    calls.pop();
                }
                _ => {}
            }
            let elsewhere = token.end <= line || token.start >= end;
            let word = matches!(token.kind, SyntaxKind::Name | SyntaxKind::HyphenWord);
            if elsewhere && word {
                *usage.all.entry(said.to_owned()).or_default() += 1;
                if place(before) == own {
                    *usage.after.entry(said.to_owned()).or_default() += 1;
                    // At the start of a statement the block matters, later how the statement starts.
                    let start = (blocks.last().copied(), first);
                    let same = match own_start.1 {
                        None => start == own_start,
                        Some(word) => start.1 == Some(word),
                    };
                    if same && calls.last().copied() == own_call {
                        *usage.alike.entry(said.to_owned()).or_default() += 1;
                    }
                }
            }
            if first.is_none() && token.end <= line && context.blocks.len() == blocks.len() {
                usage.previous = Some(said.to_owned()).filter(|_| context.statement.is_empty());
            }
            first = first.or(Some(said));
            before = Some((token.kind, said));
        }
        usage
    }

    fn score(&self, word: &str) -> i64 {
        let of = |counts: &FxHashMap<String, u32>, most: u32| {
            i64::from(counts.get(word).copied().unwrap_or(0).min(most))
        };
        let again = i64::from(self.previous.as_deref() == Some(word));
        150 * again + 80 * of(&self.alike, 6) + 15 * of(&self.after, 6) + 2 * of(&self.all, 10)
    }
}

struct Candidates<'p> {
    project: &'p Project,
    source: usize,
    at: usize,
    context: &'p Context<'p>,
    all: Vec<(i64, Completion)>,
}

impl Candidates<'_> {
    fn collect(&mut self) {
        let context = self.context;
        if let Some(quoted) = context.quoted {
            self.files(quoted);
            return;
        }
        if context.digits {
            // The most common ones first.
            const COMMON: [&str; 5] = ["%", "s", "ms", "m", "deg"];
            for unit in literal::units() {
                let place = COMMON.iter().position(|common| *common == unit);
                let base = place.map_or(0, |n| 10 - n as i64);
                self.add(base, unit, CompletionKind::Unit, "", None);
            }
            return;
        }
        let path = context.path();
        if !path.is_empty() {
            self.members_of(&path);
            return;
        }
        let before = context.before();
        match (context.statement.is_empty(), before) {
            (true, _) => self.statement(),
            (_, Some((_, "at"))) if context.first() != Some("except") => {
                self.names(60, |kind| {
                    matches!(
                        kind,
                        NameKind::Mark
                            | NameKind::Declared(Keyword::Event | Keyword::Modes | Keyword::Sound)
                    )
                });
                self.operands(0);
            }
            (_, Some((_, "of"))) => {
                self.names(60, |kind| {
                    matches!(kind, NameKind::Declared(Keyword::Fitting | Keyword::Sun))
                });
            }
            (_, Some((_, "is"))) => self.after_is(),
            (_, Some((SyntaxKind::Arrow, _))) => self.modes_here(),
            _ if self.declares_name() => {}
            (_, Some(before)) if ends_value(before) => {
                self.continuations();
                if context.first() == context.before().map(|(_, text)| text) {
                    self.operands(20);
                }
            }
            _ => self.operands(40),
        }
    }

    /// Whether a new name is being written; nothing is offered then.
    fn declares_name(&self) -> bool {
        let names = |word: &str| {
            grammar::declaration(word).is_some_and(|known| {
                !matches!(
                    known.keyword,
                    Keyword::Seed
                        | Keyword::Use
                        | Keyword::Space
                        | Keyword::Clock
                        | Keyword::At
                        | Keyword::Gives
                )
            })
        };
        match &self.context.statement[..] {
            [(_, word)] => names(word) && !self.is_channel(word),
            _ => false,
        }
    }

    /// Whether a word is a channel of the light around it, not a declaration.
    fn is_channel(&self, word: &str) -> bool {
        let block = self.context.block().and_then(grammar::declaration);
        block.is_some_and(|block| block.clause(word).is_some())
    }

    fn add(
        &mut self,
        base: i64,
        label: &str,
        kind: CompletionKind,
        detail: &str,
        snippet: Option<String>,
    ) {
        let (snippet, insert) = (snippet.is_some(), snippet.unwrap_or_else(|| label.to_owned()));
        let (label, detail) = (label.to_owned(), detail.to_owned());
        let replace = self.context.prefix.clone();
        self.all.push((base, Completion { label, kind, detail, insert, snippet, replace }));
    }

    /// The start of a statement: declarations, and the lines of the block.
    fn statement(&mut self) {
        let context = self.context;
        let Some(block) = context.blocks.last() else {
            let known = grammar::inside(Around::Book);
            known.for_each(|known| self.declaration(known, 40));
            return;
        };
        let first = block.first().copied().unwrap_or_default();
        // A step of a sequence in braces holds channels.
        if first == "+" || first.starts_with(|c: char| c.is_ascii_digit()) {
            self.lit_names(60);
            return;
        }
        let first = if first == "except" {
            let outer = context.blocks.iter().rev().nth(1).and_then(|words| words.first().copied());
            outer.unwrap_or_default()
        } else {
            first
        };
        let Some(known) = grammar::declaration(first) else { return };
        for (n, clause) in known.lines().enumerate() {
            if !clause.word.is_empty() {
                self.clause(clause.word, clause.example, 60 - n as i64);
            }
        }
        let around = match known.keyword {
            Keyword::Light | Keyword::Spark | Keyword::Output => Some(Around::Light),
            Keyword::Behavior => Some(Around::Behavior),
            Keyword::Fitting => Some(Around::Fitting),
            _ => None,
        };
        if let Some(around) = around {
            grammar::inside(around).for_each(|known| self.declaration(known, 20));
        }
        match known.keyword {
            Keyword::Place => self.parameters_of(block),
            Keyword::Modes => self.modes_here(),
            _ => {}
        }
    }

    fn declaration(&mut self, known: &Declaration, base: i64) {
        self.add(base, known.word, CompletionKind::Word, known.example, None);
    }

    fn clause(&mut self, word: &str, example: &str, base: i64) {
        let rest = example.strip_prefix(word).map(str::trim).filter(|rest| !rest.is_empty());
        let snippet = rest.map(|rest| format!("{word} ${{1:{}}}", escaped(rest)));
        self.add(base, word, CompletionKind::Word, example, snippet);
    }

    /// The parameters of the fitting of a place.
    fn parameters_of(&mut self, block: &[&str]) {
        let fitting = block.iter().position(|word| *word == "of").and_then(|n| block.get(n + 1));
        let id = fitting.and_then(|name| self.project.names().of_book(name));
        for member in id.map_or(&[][..], |id| self.project.names().members(id)) {
            if self.project.names().definition(*member).kind == NameKind::Parameter {
                self.name(*member, 55);
            }
        }
    }

    /// The modes of the block, and `any`.
    fn modes_here(&mut self) {
        let block = self.context.blocks.last();
        let own = block.and_then(|words| words.get(1)).copied().unwrap_or_default();
        let found =
            self.visible().into_iter().find(|id| self.project.names().definition(*id).name == own);
        for member in found.map_or(Vec::new(), |id| self.project.names().members(id).to_vec()) {
            self.name(member, 60);
        }
        if self.context.statement.is_empty() {
            self.add(30, "any", CompletionKind::Word, "any mode", None);
        }
    }

    fn visible(&self) -> Vec<DefinitionId> {
        self.project.names().visible(self.source, self.at)
    }

    fn name(&mut self, id: DefinitionId, base: i64) {
        let about = self.project.about(id);
        let definition = self.project.names().definition(id);
        let kind = CompletionKind::Name(definition.kind);
        let name = definition.name.clone();
        let called = matches!(definition.kind, NameKind::Declared(Keyword::Behavior));
        let snippet = called.then(|| format!("{name}($1)"));
        self.add(base, &name, kind, &about.code, snippet);
    }

    fn names(&mut self, base: i64, wanted: impl Fn(NameKind) -> bool) {
        for id in self.visible() {
            let definition = self.project.names().definition(id);
            if wanted(definition.kind) {
                let own = i64::from(definition.parent.is_some()) * 10;
                self.name(id, base + own);
            }
        }
    }

    /// Lights, outputs, instances and groups.
    fn lit_names(&mut self, base: i64) {
        self.names(base, |kind| match kind {
            NameKind::Declared(keyword) => {
                keyword.declaration().shines || keyword == Keyword::Group
            }
            _ => false,
        });
    }

    /// What follows a dot.
    fn members_of(&mut self, path: &[&str]) {
        let names = self.project.names();
        let head = self.visible().into_iter().find(|id| names.definition(*id).name == path[0]);
        let whole = path[1..].iter().fold(head, |at, name| names.member(at?, name));
        let Some(id) = whole else {
            if let Some(head) = head {
                self.parts(head);
            }
            return;
        };
        for member in names.members(id).to_vec() {
            self.name(member, 60);
        }
        self.parts(id);
        let kind = names.definition(id).kind;
        if let NameKind::Declared(keyword) = kind {
            let light = matches!(
                keyword,
                Keyword::Light | Keyword::Spark | Keyword::Output | Keyword::Place
            );
            if light {
                for channel in grammar::CHANNELS {
                    self.add(50, channel.word, CompletionKind::Word, channel.example, None);
                }
            }
        }
    }

    /// Parts that have no definition in the text.
    fn parts(&mut self, id: DefinitionId) {
        let NameKind::Declared(keyword) = self.project.names().definition(id).kind else { return };
        let parts: &[&str] = match keyword {
            Keyword::Sun => &[
                "height", "aim", "strength", "color", "daylight", "through", "rise", "set", "up",
                "dawn", "dusk",
            ],
            Keyword::Moon => &["height", "aim", "strength", "color", "lit", "rise", "set", "up"],
            Keyword::Hours => &["through"],
            Keyword::Phases => &["tint"],
            Keyword::Sound => &["level", "peak", "low", "mid", "high", "onset", "note", "beat"],
            _ => &[],
        };
        for (n, part) in parts.iter().enumerate() {
            self.add(50 - n as i64, part, CompletionKind::Part, "", None);
        }
    }

    /// What may follow `is`.
    fn after_is(&mut self) {
        let statement = &self.context.statement;
        let subject = statement.iter().rev().nth(1).map_or("", |(_, text)| text);
        let id = self
            .visible()
            .into_iter()
            .find(|id| self.project.names().definition(*id).name == subject);
        for member in id.map_or(Vec::new(), |id| self.project.names().members(id).to_vec()) {
            self.name(member, 60);
        }
        for word in ["on", "off", "in", "above", "below"] {
            self.add(40, word, CompletionKind::Word, "", None);
        }
    }

    /// A value, or the name of an argument.
    fn operands(&mut self, base: i64) {
        let context = self.context;
        if let Some(call) = context.calls.last().filter(|call| call.length == 0) {
            self.arguments(call);
        }
        if self.names_light() {
            self.lit_names(60);
            return;
        }
        let kind_of_light = wants_kind(&context.statement);
        if kind_of_light {
            for kind in words::LIGHTS {
                self.add(60, kind, CompletionKind::Word, "", None);
            }
            return;
        }
        self.names(base, |kind| match kind {
            NameKind::Declared(keyword) => matches!(
                keyword,
                Keyword::Color
                    | Keyword::Value
                    | Keyword::Signal
                    | Keyword::Input
                    | Keyword::Curve
                    | Keyword::Behavior
                    | Keyword::Hours
                    | Keyword::Phases
                    | Keyword::Sun
                    | Keyword::Moon
                    | Keyword::Event
                    | Keyword::Switch
                    | Keyword::Modes
                    | Keyword::Choice
                    | Keyword::Sound
            ),
            NameKind::Parameter | NameKind::Mark => true,
            _ => false,
        });
        for function in words::functions() {
            let example = words::example(function).unwrap_or_default();
            self.add(base - 10, function, CompletionKind::Function, example, call_snippet(example));
        }
        for word in ["if", "not", "on", "off", "hour", "days", "base"] {
            self.add(base - 25, word, CompletionKind::Word, "", None);
        }
        let colored = context.first() == Some("color") || context.first() == Some("tint");
        for color in crate::colors::names() {
            let base = if colored { base - 20 } else { base - 60 };
            self.add(base, color, CompletionKind::Color, "", None);
        }
    }

    /// Whether the name of a light is expected: in groups and sequences.
    fn names_light(&self) -> bool {
        let context = self.context;
        match context.block() {
            Some("group") => context.first() == Some("lights"),
            Some("sequence") => {
                let times = context.statement.iter().all(|(kind, _)| {
                    matches!(kind, SyntaxKind::Number | SyntaxKind::Plus | SyntaxKind::DotDot)
                });
                times || context.first() == Some("return")
            }
            Some("rehearsal") => context.before().is_some_and(|(_, text)| text == "expect"),
            _ => false,
        }
    }

    /// The names of the arguments of a call.
    fn arguments(&mut self, call: &OpenCall<'_>) {
        if call.callee == "pick" {
            let first = call.first.unwrap_or_default();
            let id = self
                .visible()
                .into_iter()
                .find(|id| self.project.names().definition(*id).name == first);
            for member in id.map_or(Vec::new(), |id| self.project.names().members(id).to_vec()) {
                self.name(member, 70);
            }
            self.add(40, "others", CompletionKind::Word, "", None);
        }
        for word in more_arguments(call.callee) {
            self.add(52, word, CompletionKind::Word, "", None);
        }
        let example = words::example(words::current(call.callee));
        let inside = example.and_then(|example| example.split_once('('));
        if let Some((_, inside)) = inside {
            for argument in split_arguments(inside.trim_end_matches(')')) {
                if let Some((word, value)) = argument.split_once(' ')
                    && word.chars().all(char::is_alphabetic)
                {
                    let snippet = format!("{word} ${{1:{}}}", escaped(value));
                    self.add(65, word, CompletionKind::Word, &argument, Some(snippet));
                }
            }
            if call.argument > 0 && matches!(call.callee, "map" | "mix" | "near") {
                self.easings(45);
            }
            return;
        }
        let id = self
            .visible()
            .into_iter()
            .find(|id| self.project.names().definition(*id).name == call.callee);
        for member in id.map_or(Vec::new(), |id| self.project.names().members(id).to_vec()) {
            if self.project.names().definition(member).kind == NameKind::Parameter {
                self.name(member, 70);
            }
        }
    }

    fn easings(&mut self, base: i64) {
        for easing in words::EASINGS {
            let common = i64::from(matches!(easing, "smooth" | "jump" | "linear"));
            self.add(base + 5 * common, easing, CompletionKind::Easing, "", None);
        }
        let bezier = Some("cubic-bezier(${1:0.3}, ${2:-0.4}, ${3:0.7}, ${4:1.4})".to_owned());
        let detail = "cubic-bezier(0.3, -0.4, 0.7, 1.4)";
        self.add(base - 5, "cubic-bezier", CompletionKind::Easing, detail, bezier);
        self.add(
            base - 5,
            "steps",
            CompletionKind::Easing,
            "steps(4)",
            Some("steps(${1:4})".to_owned()),
        );
    }

    /// Words that continue a statement after a value or name.
    fn continuations(&mut self) {
        let context = self.context;
        let mut words: Vec<&str> = Vec::new();
        let eases = matches!(context.block(), Some("curve" | "sequence"))
            || context
                .block()
                .is_some_and(|b| b == "+" || b.starts_with(|c: char| c.is_ascii_digit()))
            || context.statement.iter().any(|(_, text)| *text == "over");
        if eases && context.calls.is_empty() {
            self.easings(50);
        }
        let first = context.first().unwrap_or_default();
        words.extend(match first {
            "input" => &["in"][..],
            "event" => &["every", "after", "at", "when", "since", "from", "one", "rearm", "for"],
            "place" | "moon" => &["of"],
            "sequence" => &["at", "again"],
            "spark" => &["at", "share", "in"],
            "hours" => &["from", "to", "over"],
            "dim" | "tint" => &["with", "to"],
            "on" | "off" | "flip" | "stops" | "starts" => &["at", "over"],
            "at" => &["send", "from"],
            "choice" => &["over"],
            "aim" => &["at"],
            _ => &[],
        });
        words.extend(match context.block() {
            Some("modes") => &["when", "at", "after", "over", "for", "rearm"][..],
            Some("phases") => &["from", "over", "tint", "before", "after", "across"],
            Some("rehearsal") => &["expect", "clock", "end", "for", "sent", "safe"],
            Some("sequence") => &["mark", "keep", "return", "over"],
            _ => &[],
        });
        words.extend(["above", "below", "is", "and", "or", "then", "else", "by", "to", "over"]);
        for (n, word) in words.into_iter().enumerate() {
            self.add(45 - n as i64, word, CompletionKind::Word, "", None);
        }
        if self.names_light() {
            self.lit_names(60);
        }
        if context.block() == Some("rehearsal") && context.statement.len() == 1 {
            self.names(50, |kind| {
                matches!(
                    kind,
                    NameKind::Declared(
                        Keyword::Event | Keyword::Input | Keyword::Choice | Keyword::Sound
                    )
                )
            });
        }
        if wants_kind(&context.statement) {
            for kind in words::LIGHTS {
                self.add(60, kind, CompletionKind::Word, "", None);
            }
        }
    }

    /// Books that `use` can name. Which sounds there are is not known here.
    fn files(&mut self, quoted: &str) {
        if self.context.first() != Some("use") {
            return;
        }
        let used = self.project.texts().iter().skip(1).map(|text| text.name.clone());
        let mut files: Vec<String> = used.collect();
        if !files.iter().any(|file| file == "stock") {
            files.push("stock".to_owned());
        }
        let end = self.context.prefix.end;
        let replace = end - quoted.len()..end;
        for file in files {
            self.add(10, &file, CompletionKind::File, "", None);
            if let Some((_, last)) = self.all.last_mut() {
                last.replace = replace.clone();
            }
        }
    }
}

/// Whether the kind of a light comes next: `light mast[8]`.
fn wants_kind(statement: &[(SyntaxKind, &str)]) -> bool {
    matches!(
        statement,
        [(_, "light" | "spark"), _] | [(_, "light" | "spark"), .., (SyntaxKind::BracketClose, _)]
    )
}

/// Whether a word or sign can end a value.
fn ends_value((kind, text): (SyntaxKind, &str)) -> bool {
    match kind {
        SyntaxKind::Number
        | SyntaxKind::Hour
        | SyntaxKind::Hash
        | SyntaxKind::Text
        | SyntaxKind::ParenClose
        | SyntaxKind::BracketClose
        | SyntaxKind::HyphenWord => true,
        SyntaxKind::Name => {
            let word = grammar::declaration(text).is_some() || crate::syntax::is_reserved(text);
            !word || matches!(text, "on" | "off")
        }
        _ => false,
    }
}

/// Arguments that the example of a function does not show.
fn more_arguments(function: &str) -> &'static [&'static str] {
    match function {
        "held" => &["over"],
        "drift" | "wander" => &["octaves"],
        "drawn" => &["every"],
        "loop" | "alternate" => &["part", "scatter", "together"],
        "sine" | "triangle" | "saw" | "square" | "blink" | "rhythm" => {
            &["scatter", "together", "phase", "on", "off"]
        }
        "later" => &["by", "each"],
        "follow" => &["attack", "release", "band", "measure", "gate", "high", "low", "mid"],
        "pulse" => &["at", "lasts"],
        "play" => &["at", "before", "again"],
        "near" => &["full", "none", "from"],
        "hue" | "scaled" => &["by"],
        _ => &[],
    }
}

/// A call with places to fill in: `held(${1:80%..100%}, every ${2:70ms..210ms})`.
fn call_snippet(example: &str) -> Option<String> {
    let (function, rest) = example.split_once('(')?;
    let arguments = split_arguments(rest.strip_suffix(')')?);
    let each = arguments.iter().enumerate().map(|(n, argument)| {
        let place = n + 1;
        match argument.split_once(' ') {
            Some((word, value)) if word.chars().all(char::is_alphabetic) => {
                format!("{word} ${{{place}:{}}}", escaped(value))
            }
            _ => format!("${{{place}:{}}}", escaped(argument)),
        }
    });
    let each: Vec<String> = each.collect();
    Some(format!("{function}({})", each.join(", ")))
}

/// Text inside a place of a snippet.
fn escaped(text: &str) -> String {
    text.replace('\\', "\\\\").replace('$', "\\$").replace('}', "\\}")
}
