//! The order in which declarations are resolved: each after all that it uses.

use super::{Entry, Item, Resolver, name_of, token_span, tokens};
use crate::ast::{self, AstNode, Decl};
use crate::diagnostic::Diagnostic;
use crate::grammar::{Around, Keyword};
use crate::names::is_option;
use crate::syntax::{Node, SyntaxKind, Token};
use crate::words;
use rustc_hash::{FxHashMap, FxHashSet};

/// Whether a node is a declaration in a light, an output or a fitting that names what follows.
fn is_inner(node: &Node) -> bool {
    Decl::cast(node.clone()).is_some_and(|decl| {
        let known = decl.declaration();
        known.inside.contains(&Around::Light) && decl.name().is_some()
    })
}

#[derive(Clone, Copy, PartialEq)]
enum Mark {
    New,
    Open,
    Done,
}

/// Indices in topological order, otherwise unchanged, and the cycles, which are broken.
fn in_order(uses: &[Vec<usize>]) -> (Vec<usize>, Vec<Vec<usize>>) {
    let mut marks = vec![Mark::New; uses.len()];
    let (mut order, mut circles) = (Vec::with_capacity(uses.len()), Vec::new());
    for root in 0..uses.len() {
        if marks[root] != Mark::New {
            continue;
        }
        let mut path = vec![(root, 0)];
        marks[root] = Mark::Open;
        while let Some((at, next)) = path.last_mut() {
            let at = *at;
            if let Some(used) = uses[at].get(*next).copied() {
                *next += 1;
                match marks[used] {
                    Mark::New => {
                        marks[used] = Mark::Open;
                        path.push((used, 0));
                    }
                    Mark::Open => {
                        let way = path.iter().map(|(n, _)| *n);
                        circles.push(way.skip_while(|n| *n != used).collect());
                    }
                    Mark::Done => {}
                }
            } else {
                marks[at] = Mark::Done;
                order.push(at);
                path.pop();
            }
        }
    }
    (order, circles)
}

/// The message for a cycle.
fn needs_itself(circle: &[&str]) -> String {
    let way = circle.iter().chain(circle.first()).map(|name| format!("`{name}`"));
    format!("`{}` depends on itself: {}", circle[0], way.collect::<Vec<_>>().join(" needs "))
}

impl Resolver {
    /// Indices of the entries in topological order. Cycles are reported and broken.
    pub(super) fn in_order(&mut self) -> Vec<usize> {
        for (n, entry) in self.entries.iter().enumerate() {
            if !matches!(entry.node.kind(), SyntaxKind::GroupDecl | SyntaxKind::SequenceDecl) {
                continue;
            }
            let paths = entry.node.descendants().filter(|c| c.kind() == SyntaxKind::LightPath);
            for name in paths.filter_map(|path| tokens(&path).next()) {
                self.holders.entry(name.text().to_owned()).or_default().push(n);
            }
        }
        let uses: Vec<Vec<usize>> = (0..self.entries.len()).map(|n| self.uses(n)).collect();
        let (order, circles) = in_order(&uses);
        circles.iter().for_each(|circle| self.tell_circle(circle));
        order
    }

    /// The parts of a light, output or fitting in topological order.
    pub(super) fn body_in_order(&mut self, body: &Node) -> Vec<Node> {
        let parts: Vec<Node> = body.children().collect();
        let named = |part: &Node| is_inner(part).then(|| name_of(part)).flatten();
        let names: Vec<Option<Token>> = parts.iter().map(named).collect();
        // The first of duplicate names counts; they are reported elsewhere.
        let mut places: FxHashMap<&str, usize> = FxHashMap::default();
        for (n, name) in names.iter().enumerate() {
            if let Some(name) = name {
                places.entry(name.text()).or_insert(n);
            }
        }
        if places.is_empty() {
            return parts;
        }
        let uses: Vec<Vec<usize>> = parts
            .iter()
            .map(|part| {
                let paths = part.descendants().filter(|inner| inner.kind() == SyntaxKind::Path);
                let paths = paths.filter(|path| !is_option(&ast::Path(path.clone())));
                let words = paths.filter_map(|path| path.first_token());
                words.filter_map(|word| places.get(word.text()).copied()).collect()
            })
            .collect();
        let (mut order, circles) = in_order(&uses);
        for circle in &circles {
            let words: Vec<&Token> = circle.iter().filter_map(|n| names[*n].as_ref()).collect();
            let Some(first) = words.first() else { continue };
            let all: Vec<&str> = words.iter().map(|word| word.text()).collect();
            let message = needs_itself(&all);
            self.tell(Diagnostic::error(token_span(first), message));
            for word in words {
                self.locals.insert(word.text().to_owned(), Item::Broken);
            }
        }
        let told: FxHashSet<usize> = circles.into_iter().flatten().collect();
        order.retain(|n| !told.contains(n));
        order.into_iter().map(|n| parts[n].clone()).collect()
    }

    fn tell_circle(&mut self, circle: &[usize]) {
        let name = |n: usize| {
            name_of(&self.entries[n].node).map_or(String::new(), |t| t.text().to_owned())
        };
        let first = circle[0];
        let names: Vec<String> = circle.iter().map(|n| name(*n)).collect();
        let names: Vec<&str> = names.iter().map(String::as_str).collect();
        let message = needs_itself(&names);
        let mut diagnostic = Diagnostic::error(self.entries[first].range.clone(), message)
            .in_source(self.entries[first].source);
        for other in &circle[1..] {
            diagnostic = diagnostic
                .also(self.entries[*other].range.clone(), "by way of this")
                .in_source(self.entries[*other].source);
        }
        self.tell(diagnostic);
    }

    /// The entries that a declaration uses, without its own parameters and inner names.
    fn uses(&mut self, n: usize) -> Vec<usize> {
        let node = self.entries[n].node.clone();
        let mut inner = FxHashSet::default();
        let mut found = Vec::new();
        for child in node.descendants().skip(1) {
            let name = match child.kind() {
                SyntaxKind::Parameter => child.first_token(),
                _ if is_inner(&child) => name_of(&child),
                _ => None,
            };
            if let Some(name) = name {
                inner.insert(name.text().to_owned());
            }
        }
        for child in node.descendants() {
            let name = match child.kind() {
                SyntaxKind::Path if is_option(&ast::Path(child.clone())) => None,
                SyntaxKind::Path => child.first_token(),
                // A function of the language is called by its name, whatever else has that name.
                SyntaxKind::Call => child.first_token().filter(|t| !words::is_function(t.text())),
                // An instance names its fitting after `of`.
                SyntaxKind::PlaceDecl => ast::Place(child).fitting(),
                // A moon goes with a sun.
                SyntaxKind::MoonDecl => {
                    let sun = ast::Moon(child).sun();
                    let word = sun.as_ref().map_or("sun", |token| token.text());
                    if let Some(entry) = self.names.get(word) {
                        found.push(*entry);
                    }
                    None
                }
                _ => None,
            };
            if let Some(name) = name
                && !inner.contains(name.text())
                && let Some(entry) = self.names.get(name.text())
                && !found.contains(entry)
            {
                found.push(*entry);
            }
        }
        // A mark is made with its sequence.
        if node.kind() == SyntaxKind::SequenceLine
            && let Some(sequence) = node.ancestors().find(|n| n.kind() == SyntaxKind::SequenceDecl)
            && let Some(name) = name_of(&sequence)
            && let Some(entry) = self.names.get(name.text())
        {
            found.push(*entry);
        }
        // Expectations of notices are resolved after all notices.
        if node.kind() == SyntaxKind::RehearsalDecl
            && node
                .descendants_with_tokens()
                .any(|part| part.as_token().is_some_and(|token| token.text() == "sent"))
        {
            let sends = |entry: &Entry| {
                let known = entry.what.declaration();
                known.is_some_and(|known| known.shines || known.keyword == Keyword::At)
            };
            let all = self.entries.iter().enumerate().filter(|(_, entry)| sends(entry));
            let all: Vec<usize> = all.map(|(n, _)| n).collect();
            found.extend(all.into_iter().filter(|n| !found.contains(n)).collect::<Vec<_>>());
        }
        // Lights are resolved after the groups and sequences that name them.
        let named = match node.kind() {
            SyntaxKind::LightDecl
            | SyntaxKind::SparkDecl
            | SyntaxKind::PlaceDecl
            | SyntaxKind::GroupDecl => name_of(&node),
            _ => None,
        };
        if let Some(name) = named {
            let holders = self.holders.get(name.text()).cloned().unwrap_or_default();
            for holder in holders {
                if !found.contains(&holder) {
                    found.push(holder);
                }
            }
        }
        for used in &found {
            self.entries[*used].used |= *used != n;
        }
        found
    }
}
