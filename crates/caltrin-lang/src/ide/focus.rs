//! The part of a large book that a change can matter to, for errors and warnings while somebody types.

use std::ops::Range;

use super::{Project, declarations};
use crate::ast::{AstNode, Decl, token_span};
use crate::diagnostic::Diagnostic;
use crate::names::Names;

/// The part of a book that a change can matter to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Focus {
    /// The book with spaces in place of lights and other declarations that the change cannot matter to. Everything else
    /// stands where it stood.
    pub text: String,
    /// The bytes of the declarations that it can matter to, each up to the next one.
    concerned: Vec<Range<usize>>,
}

impl Focus {
    /// Of a change of the project's first text, which now has these bytes there. Uses of an inner name that vanished are
    /// left to the reading of the whole book. `None` if it can matter to all of the
    /// book: where it touches more than one
    /// declaration after its name.
    pub fn of(project: &Project, changed: Range<usize>) -> Option<Focus> {
        let book = project.texts().first()?;
        let all = declarations(&book.parse);
        let ranges: Vec<Range<usize>> = all.iter().map(AstNode::range).collect();
        let touched: Vec<usize> = (0..all.len())
            .filter(|n| ranges[*n].start <= changed.end && changed.start <= ranges[*n].end)
            .collect();
        let [first, last] = [touched.first()?, touched.last()?];
        // What has no name matters to all. A name that changes can matter to declarations that cannot be found by it
        // any more.
        let name = token_span(&all[*first].name()?).end;
        if changed.start <= name || first != last || ranges[*last].end < changed.end {
            return None;
        }
        let links = Links::of(project.names(), &ranges);
        let concerned = reached(&links.users, touched.iter().copied());
        let stays = |n: &usize| concerned[*n] || !shines(&all[*n]);
        let kept = reached(&links.uses, (0..all.len()).filter(stays));
        let mut text = String::with_capacity(book.text.len());
        let mut end = 0;
        for (range, _) in ranges.iter().zip(&kept).filter(|(_, kept)| !**kept) {
            text.push_str(&book.text[end..range.start]);
            text.extend(std::iter::repeat_n(' ', range.len()));
            end = range.end;
        }
        text.push_str(&book.text[end..]);
        // Words that could not be read stand behind the declaration that they belong to.
        let ends = ranges.iter().skip(1).map(|next| next.start).chain([book.text.len()]);
        let whole = ranges.iter().zip(ends).map(|(range, end)| range.start..end);
        let concerned = whole.zip(concerned).filter(|(_, it)| *it);
        Some(Focus { text, concerned: concerned.map(|(range, _)| range).collect() })
    }

    /// What is wrong with the whole book, from what was wrong with it in an earlier text, and what is wrong with
    /// [`Focus::text`].
    pub fn merged(
        &self,
        before: (&str, &[Diagnostic]),
        text: &str,
        found: &[Diagnostic],
    ) -> Vec<Diagnostic> {
        let [old, new] = replaced(before.0, text);
        let moved = |told: &Diagnostic| {
            let mut told = told.clone();
            for label in told.labels.iter_mut().filter(|label| label.source == Some(0)) {
                if label.range.start >= old.end {
                    label.range =
                        label.range.start - old.end + new.end..label.range.end - old.end + new.end;
                } else if label.range.end > old.start {
                    return None;
                }
            }
            Some(told)
        };
        let own = |told: &Diagnostic| told.source() == 0 && self.concerns(&told.range());
        let mut all: Vec<Diagnostic> = before.1.iter().filter_map(moved).collect();
        all.retain(|told| !own(told));
        all.extend(found.iter().filter(|told| own(told)).cloned());
        all.sort_by_key(|told| (told.source(), told.range().start));
        all
    }

    /// Whether a place is in a declaration that the change can matter to.
    fn concerns(&self, range: &Range<usize>) -> bool {
        let n = self.concerned.partition_point(|one| one.end <= range.start);
        self.concerned.get(n).is_some_and(|one| one.start <= range.start)
    }
}

/// The bytes of one text that another has others for, and those.
pub fn replaced(before: &str, after: &str) -> [Range<usize>; 2] {
    let [head, tail] = crate::parser::unchanged(before.as_bytes(), after.as_bytes());
    [head..before.len() - tail, head..after.len() - tail]
}

/// Whether a declaration has no other for which it matters unless they name it.
fn shines(decl: &Decl) -> bool {
    decl.declaration().shines && decl.name().is_some()
}

/// Which declarations of a book use which, by their order.
struct Links {
    uses: Vec<Vec<usize>>,
    users: Vec<Vec<usize>>,
}

impl Links {
    fn of(names: &Names, ranges: &[Range<usize>]) -> Self {
        let place = |at: usize| {
            let n = ranges.partition_point(|range| range.end <= at);
            ranges.get(n).filter(|range| range.start <= at).map(|_| n)
        };
        let mut links =
            Links { uses: vec![Vec::new(); ranges.len()], users: vec![Vec::new(); ranges.len()] };
        for name in names.occurrences().iter().take_while(|name| name.source == 0) {
            let definition = names.definition(name.definition);
            if definition.source > 0 {
                continue;
            }
            if let (Some(user), Some(used)) =
                (place(name.range.start), place(definition.range.start))
                && user != used
            {
                links.uses[user].push(used);
                links.users[used].push(user);
            }
        }
        links
    }
}

/// What is reached from some along links, they included.
fn reached(links: &[Vec<usize>], from: impl IntoIterator<Item = usize>) -> Vec<bool> {
    let mut found = vec![false; links.len()];
    let mut open: Vec<usize> = from.into_iter().collect();
    while let Some(n) = open.pop() {
        if !std::mem::replace(&mut found[n], true) {
            open.extend(&links[n]);
        }
    }
    found
}
