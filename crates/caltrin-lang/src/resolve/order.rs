//! The order in which declarations are resolved: each after all that it uses.

use super::{Resolver, name_of, token_span};
use crate::diagnostic::Diagnostic;
use crate::syntax::{Kind, Node};
use rustc_hash::FxHashMap;

#[derive(Clone, Copy, PartialEq)]
enum Mark {
    New,
    Open,
    Done,
}

impl Resolver<'_> {
    /// Indices of the entries, each after those that it uses. Circles are told and cut open.
    pub(super) fn in_order(&mut self) -> Vec<usize> {
        let uses: Vec<Vec<usize>> =
            self.entries.iter().map(|entry| self.uses(&entry.node)).collect();
        let mut marks = vec![Mark::New; uses.len()];
        let mut order = Vec::with_capacity(uses.len());
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
                            let circle: Vec<usize> =
                                path.iter().map(|(n, _)| *n).skip_while(|n| *n != used).collect();
                            self.tell_circle(&circle);
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
        order
    }

    fn tell_circle(&mut self, circle: &[usize]) {
        let name = |n: usize| {
            name_of(&self.entries[n].node).map_or(String::new(), |t| t.text().to_owned())
        };
        let first = circle[0];
        let mut way: Vec<String> = circle.iter().map(|n| format!("`{}`", name(*n))).collect();
        way.push(format!("`{}`", name(first)));
        let message = format!("`{}` needs itself: {}", name(first), way.join(" needs "));
        let mut diagnostic = Diagnostic::error(self.entries[first].range.clone(), message);
        for other in &circle[1..] {
            diagnostic = diagnostic.also(self.entries[*other].range.clone(), "by way of this");
        }
        self.tell(diagnostic);
    }

    /// The entries that a declaration names, its own parameters and inner names apart.
    fn uses(&self, node: &Node) -> Vec<usize> {
        let mut inner = FxHashMap::default();
        let mut found = Vec::new();
        for child in node.descendants().skip(1) {
            let name = match child.kind() {
                Kind::NamedDecl => name_of(&child),
                Kind::Parameter => child.first_token(),
                _ => None,
            };
            if let Some(name) = name {
                inner.insert(name.text().to_owned(), token_span(&name));
            }
        }
        for child in node.descendants() {
            if matches!(child.kind(), Kind::Path | Kind::Call)
                && let Some(name) = child.first_token()
                && !inner.contains_key(name.text())
                && let Some(entry) = self.names.get(name.text())
                && !found.contains(entry)
            {
                found.push(*entry);
            }
        }
        found
    }
}
