//! What each name in a book stands for: definitions, where they are used, and what is in scope. It
//! reads the typed tree alone, so half-written books have names too.

use std::ops::Range;

use rustc_hash::FxHashMap;

use crate::ast::{
    self, AstNode, Call, Compare, Decl, HasName, LightPath, Path, Property, span, token_span,
    tokens,
};
use crate::grammar::{Import, Keyword};
use crate::parser::Parse;
use crate::syntax::{Node, SyntaxKind, Token};
use crate::words;

/// The index of a definition in [`Names::definitions`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct DefinitionId(u32);

/// What a name is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum NameKind {
    /// A declaration.
    Declared(Keyword),
    /// A parameter of a behavior, fitting or event.
    Parameter,
    /// A column of a curve.
    Column,
    /// An option of a choice.
    ChoiceOption,
    /// A mode.
    Mode,
    /// A phase of the day.
    Phase,
    /// A value of an output.
    OutputValue,
    /// A notice; all lines that send it define it.
    Notice,
    /// A mark of a sequence.
    Mark,
}

impl NameKind {
    /// What it is, for people.
    pub fn noun(self) -> &'static str {
        match self {
            NameKind::Declared(keyword) => keyword.declaration().noun,
            NameKind::Parameter => "parameter",
            NameKind::Column => "column",
            NameKind::ChoiceOption => "option",
            NameKind::Mode => "mode",
            NameKind::Phase => "phase",
            NameKind::OutputValue => "value of an output",
            NameKind::Notice => "notice",
            NameKind::Mark => "mark",
        }
    }
}

/// A definition of a name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Definition {
    /// The name.
    pub name: String,
    /// What it is.
    pub kind: NameKind,
    /// The index of its text.
    pub source: usize,
    /// The bytes of the name.
    pub range: Range<usize>,
    /// The bytes of all that defines it.
    pub whole: Range<usize>,
    /// The definition that it is in, if it is not one of the book.
    pub parent: Option<DefinitionId>,
    /// The definitions in it: parameters, columns, options, inner declarations.
    pub members: Vec<DefinitionId>,
    /// For an instance, the name of its fitting, whose members are its own.
    fitting: Option<String>,
}

/// A place where a name stands.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Occurrence {
    /// The index of the text.
    pub source: usize,
    /// The bytes of the name.
    pub range: Range<usize>,
    /// What it stands for.
    pub definition: DefinitionId,
    /// Whether it is where the name is defined.
    pub defines: bool,
}

/// The names of a book and all texts that belong to it.
#[derive(Clone, Debug, Default)]
pub struct Names {
    definitions: Vec<Definition>,
    /// In the order of the texts and their bytes.
    occurrences: Vec<Occurrence>,
    book: FxHashMap<String, DefinitionId>,
    notices: FxHashMap<String, DefinitionId>,
    /// By the text and the first byte of the name.
    defined: FxHashMap<(usize, usize), DefinitionId>,
}

/// The definitions inside a light, fitting or behavior, innermost last.
type Scopes = Vec<Vec<DefinitionId>>;

impl Names {
    /// The names of texts: the book first, then those that it uses, or files of rehearsals for it.
    pub fn of<'a>(texts: impl IntoIterator<Item = &'a Parse>) -> Names {
        let trees: Vec<Node> = texts.into_iter().map(Parse::tree).collect();
        let mut names = Names::default();
        for (source, tree) in trees.iter().enumerate() {
            for decl in ast::children::<Decl>(tree) {
                // Of another book only what `use` brings is visible; a rehearsal file has rehearsals.
                let own = decl.declaration().import == Import::Own;
                if source > 0 && own && !matches!(decl, Decl::Rehearsal(_)) {
                    continue;
                }
                names.declare(&decl, source, None);
            }
        }
        for (source, tree) in trees.iter().enumerate() {
            let mut scopes = Scopes::new();
            tree.children().for_each(|node| names.refer(&node, source, &mut scopes));
        }
        names.occurrences.sort_by_key(|o| (o.source, o.range.start, !o.defines));
        names.occurrences.dedup_by_key(|o| (o.source, o.range.start));
        names
    }

    /// All definitions.
    pub fn definitions(&self) -> impl Iterator<Item = (DefinitionId, &Definition)> {
        self.definitions.iter().enumerate().map(|(n, d)| (DefinitionId(n as u32), d))
    }

    /// A definition.
    pub fn definition(&self, id: DefinitionId) -> &Definition {
        &self.definitions[id.0 as usize]
    }

    /// The definition of a name of the book.
    pub fn of_book(&self, name: &str) -> Option<DefinitionId> {
        self.book.get(name).copied()
    }

    /// All places of names, in the order of the texts.
    pub fn occurrences(&self) -> &[Occurrence] {
        &self.occurrences
    }

    /// The name at a byte of a text, or that ends there.
    pub fn at(&self, source: usize, at: usize) -> Option<&Occurrence> {
        let first = self.occurrences.partition_point(|o| (o.source, o.range.end) < (source, at));
        let found = self.occurrences[first..].iter().take_while(|o| o.source == source);
        let mut found = found.take_while(|o| o.range.start <= at).peekable();
        let ends = found.peek().copied();
        found.find(|o| o.range.contains(&at)).or(ends)
    }

    /// All places that stand for a definition.
    pub fn places(&self, id: DefinitionId) -> impl Iterator<Item = &Occurrence> {
        self.occurrences.iter().filter(move |o| o.definition == id)
    }

    /// The definitions inside of one: those of its fitting for an instance.
    pub fn members(&self, id: DefinitionId) -> &[DefinitionId] {
        let own = self.definition(id);
        let fitting = own.fitting.as_ref().and_then(|name| self.book.get(name));
        match fitting {
            Some(fitting) if *fitting != id => &self.definition(*fitting).members,
            _ => &own.members,
        }
    }

    /// A member by its name.
    pub fn member(&self, id: DefinitionId, name: &str) -> Option<DefinitionId> {
        self.members(id).iter().copied().find(|member| self.definition(*member).name == name)
    }

    /// The definitions that a plain name can stand for at a byte of a text: inner ones first.
    pub fn visible(&self, source: usize, at: usize) -> Vec<DefinitionId> {
        let around = self
            .definitions()
            .filter(|(_, d)| d.source == source && d.whole.contains(&at) && opens_scope(d.kind));
        let mut around: Vec<DefinitionId> = around.map(|(id, _)| id).collect();
        around.sort_by_key(|id| self.definition(*id).whole.len());
        let mut found: Vec<DefinitionId> = Vec::new();
        for id in around {
            let inner = self.definition(id).members.iter();
            found.extend(inner.filter(|id| is_local(self.definition(**id).kind)));
        }
        let mut book: Vec<DefinitionId> = self.book.values().copied().collect();
        book.sort_unstable();
        found.extend(book);
        found
    }

    /// Enters a declaration and all that is in it.
    fn declare(&mut self, decl: &Decl, source: usize, parent: Option<DefinitionId>) {
        if let Decl::Send(send) = decl {
            self.notice(send, source);
        }
        let Some(name) = decl.name() else { return };
        let keyword = decl.declaration().keyword;
        let kind = NameKind::Declared(keyword);
        let id = self.define(&name, kind, (source, span(decl.syntax())), parent);
        if parent.is_none() {
            // The book's own name hides an imported one; of two equal ones the first counts.
            self.book.entry(name.text().to_owned()).or_insert(id);
        }
        self.members_of(decl, source, id);
    }

    fn notice(&mut self, send: &ast::Send, source: usize) {
        let Some(name) = send.notice() else { return };
        match self.notices.get(name.text()) {
            Some(known) => self.place(source, &name, *known, true),
            None => {
                let whole = (source, span(send.syntax()));
                let id = self.define(&name, NameKind::Notice, whole, None);
                self.notices.insert(name.text().to_owned(), id);
            }
        }
    }

    fn members_of(&mut self, decl: &Decl, source: usize, id: DefinitionId) {
        let mut tokens: Vec<(NameKind, Token)> = Vec::new();
        let mut inner: Vec<Decl> = Vec::new();
        let of = |kind: NameKind, all: Vec<Token>| all.into_iter().map(move |token| (kind, token));
        match decl {
            Decl::Event(event) => self.parameters(event.parameters(), source, id),
            Decl::Behavior(behavior) => {
                self.parameters(behavior.parameters(), source, id);
                inner.extend(behavior.declarations());
            }
            Decl::Fitting(fitting) => {
                self.parameters(fitting.parameters(), source, id);
                inner.extend(fitting.declarations());
            }
            Decl::Place(place) => {
                let fitting = place.fitting().map(|token| token.text().to_owned());
                self.definitions[id.0 as usize].fitting = fitting;
            }
            Decl::Light(light) => {
                inner.extend(light.body().iter().flat_map(ast::Body::declarations))
            }
            Decl::Spark(spark) => {
                inner.extend(spark.body().iter().flat_map(ast::Body::declarations))
            }
            Decl::Output(output) => {
                let body = output.body();
                inner.extend(body.iter().flat_map(ast::Body::declarations));
                let values = body.iter().flat_map(ast::Body::properties);
                let values = values.filter_map(|value| value.word());
                let values = values.filter(|word| word.text() != "tags");
                tokens.extend(of(NameKind::OutputValue, values.collect()));
            }
            Decl::Curve(curve) => tokens.extend(of(NameKind::Column, curve.columns())),
            Decl::Choice(choice) => tokens.extend(of(NameKind::ChoiceOption, choice.options())),
            Decl::Modes(modes) => tokens.extend(of(NameKind::Mode, modes.modes())),
            Decl::Phases(phases) => {
                let all = phases.phases().filter_map(|phase| phase.name()).collect();
                tokens.extend(of(NameKind::Phase, all));
            }
            Decl::Sequence(sequence) => {
                let lines = sequence.steps().flat_map(|step| step.lines().collect::<Vec<_>>());
                for line in lines {
                    let Some(mark) = line.mark() else { continue };
                    let whole = (source, line.range());
                    let id = self.define(&mark, NameKind::Mark, whole, None);
                    self.book.entry(mark.text().to_owned()).or_insert(id);
                }
            }
            // The others have no names in them.
            _ => {}
        }
        for (kind, token) in tokens {
            let whole = token_span(&token);
            // Values of an output for single lamps stand there again.
            if self.member(id, token.text()).is_none() {
                self.define(&token, kind, (source, whole), Some(id));
            }
        }
        inner.iter().for_each(|inner| self.declare(inner, source, Some(id)));
    }

    fn parameters(&mut self, all: Vec<ast::Parameter>, source: usize, id: DefinitionId) {
        for parameter in all {
            if let Some(name) = parameter.name() {
                self.define(&name, NameKind::Parameter, (source, parameter.range()), Some(id));
            }
        }
    }

    fn define(
        &mut self,
        token: &Token,
        kind: NameKind,
        (source, whole): (usize, Range<usize>),
        parent: Option<DefinitionId>,
    ) -> DefinitionId {
        let id = DefinitionId(self.definitions.len() as u32);
        self.definitions.push(Definition {
            name: token.text().to_owned(),
            kind,
            source,
            range: token_span(token),
            whole,
            parent,
            members: Vec::new(),
            fitting: None,
        });
        if let Some(parent) = parent {
            self.definitions[parent.0 as usize].members.push(id);
        }
        self.defined.insert((source, token_span(token).start), id);
        self.place(source, token, id, true);
        id
    }

    fn place(&mut self, source: usize, token: &Token, definition: DefinitionId, defines: bool) {
        let range = token_span(token);
        self.occurrences.push(Occurrence { source, range, definition, defines });
    }

    /// Enters what the names in a node stand for.
    fn refer(&mut self, node: &Node, source: usize, scopes: &mut Scopes) {
        let depth = scopes.len();
        if let Some(decl) = Decl::cast(node.clone()) {
            self.in_declaration(&decl, source, scopes);
        }
        match node.kind() {
            SyntaxKind::Path => {
                let path = Path(node.clone());
                if !is_option(&path) {
                    self.path(path.names(), source, scopes);
                }
            }
            SyntaxKind::LightPath => {
                self.path(LightPath(node.clone()).names(), source, scopes);
            }
            SyntaxKind::Call => self.call(&Call(node.clone()), source, scopes),
            SyntaxKind::Compare => self.compare(&Compare(node.clone()), source, scopes),
            SyntaxKind::Rule => {
                let modes = node.ancestors().find_map(ast::Modes::cast);
                let modes = modes.and_then(|modes| self.defined_at(source, &modes.name()?));
                let rule = ast::Rule(node.clone());
                for mode in [rule.from(), rule.to()].into_iter().flatten() {
                    self.member_place(modes, &mode, source);
                }
            }
            SyntaxKind::Expect => {
                let mut words = tokens(node).skip(1);
                if let (Some(notice), Some(sent)) = (words.next(), words.next())
                    && sent.text() == "sent"
                    && let Some(id) = self.notices.get(notice.text()).copied()
                {
                    self.place(source, &notice, id, false);
                }
            }
            SyntaxKind::RehearsalLine => {
                let mut values = ast::children::<ast::Expr>(node);
                if let (Some(ast::Expr::Path(choice)), Some(ast::Expr::Path(option))) =
                    (values.next(), values.next())
                    && let Some(head) = choice.head().and_then(|head| self.resolve(&head, scopes))
                    && let Some(option) = option.head()
                {
                    self.member_place(Some(head), &option, source);
                }
            }
            // `tags actors, scenery` names nothing of the book.
            SyntaxKind::Property if is_word(node, "tags") => return,
            _ => {}
        }
        node.children().for_each(|child| self.refer(&child, source, scopes));
        scopes.truncate(depth);
    }

    fn in_declaration(&mut self, decl: &Decl, source: usize, scopes: &mut Scopes) {
        let own = decl.name().and_then(|name| self.defined_at(source, &name));
        match decl {
            Decl::Light(_)
            | Decl::Spark(_)
            | Decl::Output(_)
            | Decl::Fitting(_)
            | Decl::Behavior(_) => {
                let members = own.map_or(&[][..], |own| &self.definition(own).members);
                let locals = members.iter().filter(|id| is_local(self.definition(**id).kind));
                scopes.push(locals.copied().collect());
                if let Decl::Output(output) = decl {
                    let body = output.body();
                    let odd = body.iter().flat_map(ast::Body::exceptions);
                    let all = odd.flat_map(|odd| odd.properties().collect::<Vec<_>>());
                    let words: Vec<Token> = all.filter_map(|line| line.word()).collect();
                    words.iter().for_each(|word| self.member_place(own, word, source));
                }
            }
            Decl::Place(place) => {
                let fitting = place.fitting();
                let id = fitting.as_ref().and_then(|name| self.of_book(name.text()));
                if let (Some(name), Some(id)) = (fitting, id) {
                    self.place(source, &name, id, false);
                }
                let body = place.body();
                let own = body.iter().flat_map(ast::Body::properties);
                let odd = body.iter().flat_map(ast::Body::exceptions);
                let odd = odd.flat_map(|odd| odd.properties().collect::<Vec<_>>());
                let all: Vec<Property> = own.chain(odd).collect();
                for word in all.iter().filter_map(Property::word) {
                    self.member_place(id, &word, source);
                }
            }
            Decl::Moon(moon) => {
                if let Some(sun) = moon.sun()
                    && let Some(id) = self.of_book(sun.text())
                {
                    self.place(source, &sun, id, false);
                }
            }
            _ => {}
        }
    }

    /// The definition whose name is this very token.
    fn defined_at(&self, source: usize, name: &Token) -> Option<DefinitionId> {
        self.defined.get(&(source, token_span(name).start)).copied()
    }

    fn resolve(&self, name: &Token, scopes: &Scopes) -> Option<DefinitionId> {
        let inner = scopes.iter().rev().flatten();
        let inner = inner.copied().find(|id| self.definition(*id).name == name.text());
        inner.or_else(|| self.book.get(name.text()).copied())
    }

    /// Enters the names of a path and returns what the last of them stands for.
    fn path(
        &mut self,
        names: impl Iterator<Item = Token>,
        source: usize,
        scopes: &Scopes,
    ) -> Option<DefinitionId> {
        let mut at: Option<DefinitionId> = None;
        for (n, name) in names.enumerate() {
            let found = match (n, at) {
                (0, _) => self.resolve(&name, scopes),
                (_, Some(parent)) => self.member(parent, name.text()),
                (_, None) => None,
            };
            if let Some(id) = found {
                self.place(source, &name, id, false);
            }
            at = found;
        }
        at
    }

    fn member_place(&mut self, parent: Option<DefinitionId>, name: &Token, source: usize) {
        if let Some(member) = parent.and_then(|parent| self.member(parent, name.text())) {
            self.place(source, name, member, false);
        }
    }

    fn call(&mut self, call: &Call, source: usize, scopes: &Scopes) {
        let Some(callee) = call.callee() else { return };
        let function = call.column().is_none() && words::is_function(words::current(callee.text()));
        let known = match function {
            // `pick(region, coast 20%, hills 80%)` names the options of its first argument.
            true if callee.text() == "pick" => {
                let first = call.arguments().find(|argument| argument.name().is_none());
                let first = first.and_then(|argument| argument.value()?.values().pop());
                match first {
                    Some(ast::Expr::Path(path)) => {
                        let mut names = path.names();
                        let head = names.next().and_then(|head| self.resolve(&head, scopes));
                        names.fold(head, |at, name| self.member(at?, name.text()))
                    }
                    _ => None,
                }
            }
            true => None,
            false => {
                let names = [Some(callee.clone()), call.column()];
                self.path(names.into_iter().flatten(), source, scopes);
                self.resolve(&callee, scopes)
            }
        };
        for argument in call.arguments() {
            if let Some(name) = argument.name() {
                self.member_place(known, &name, source);
            }
        }
    }

    fn compare(&mut self, compare: &Compare, source: usize, scopes: &Scopes) {
        let Some(ast::Expr::Path(left)) = compare.left() else { return };
        let words = compare.words();
        let [is, mode] = &words[..] else { return };
        if is.text() != "is" || matches!(mode.text(), "in" | "on" | "off") {
            return;
        }
        let mut names = left.names();
        let head = names.next().and_then(|head| self.resolve(&head, scopes));
        let whole = names.fold(head, |at, name| self.member(at?, name.text()));
        self.member_place(whole, mode, source);
    }
}

/// Whether a definition has inner names that plain names can stand for.
fn opens_scope(kind: NameKind) -> bool {
    matches!(
        kind,
        NameKind::Declared(
            Keyword::Light
                | Keyword::Spark
                | Keyword::Output
                | Keyword::Fitting
                | Keyword::Behavior
        )
    )
}

/// Whether a plain name inside can stand for a member of this kind.
fn is_local(kind: NameKind) -> bool {
    matches!(kind, NameKind::Declared(_) | NameKind::Parameter)
}

fn is_word(node: &Node, word: &str) -> bool {
    tokens(node).next().is_some_and(|token| token.text() == word)
}

/// Functions that take `together` or `scatter`.
const STARTS: [&str; 9] =
    ["loop", "alternate", "once", "sine", "triangle", "saw", "square", "blink", "rhythm"];

/// Whether a path is a word that a call of the language takes, such as `scatter` or `measure level`,
/// and no name.
pub(crate) fn is_option(path: &Path) -> bool {
    let node = path.syntax();
    // It is the whole argument.
    let around = node.ancestors().skip(1).take(2);
    let Some(argument) = around.filter_map(ast::Argument::cast).next() else { return false };
    let Some(word) = path.head() else { return false };
    if argument.value().is_none_or(|value| value.range() != token_span(&word)) {
        return false;
    }
    let call = argument.syntax().ancestors().find_map(Call::cast);
    let Some(function) = call.and_then(|call| call.callee()) else { return false };
    let named = argument.name();
    match (named.as_ref().map(|token| token.text()), function.text()) {
        (Some("measure" | "band"), "follow") => true,
        (None, function) if STARTS.contains(&function) => {
            matches!(word.text(), "together" | "scatter")
        }
        (None, "map" | "mix" | "near") => words::EASINGS.contains(&word.text()),
        _ => false,
    }
}
