//! Lines: what differs between two texts, and lines that stay as the formatter writes them.

use std::ops::Range;

use super::Replacement;
use crate::format::formatted_lines;

/// The bytes of each line of a text, without its line end.
pub(super) fn lines(text: &str) -> Vec<Range<usize>> {
    let mut start = 0;
    let each = text.split('\n').map(|line| {
        let range = start..start + line.trim_end_matches('\r').len();
        start += line.len() + 1;
        range
    });
    each.collect()
}

/// The lines that a range touches, as indices.
pub(super) fn touched(lines: &[Range<usize>], range: &Range<usize>) -> Range<usize> {
    let first = lines.partition_point(|line| line.end < range.start);
    let last = lines.partition_point(|line| line.start <= range.end);
    first..last.max(first)
}

/// Whether the formatter would leave these lines as they are.
pub(super) fn is_formatted(text: &str, range: &Range<usize>) -> bool {
    let all = lines(text);
    let formatted = formatted_lines(text);
    touched(&all, range).all(|n| formatted.get(n).is_some_and(|line| *line == text[all[n].clone()]))
}

/// What formats the lines that a range touches.
pub(super) fn formatting(text: &str, range: &Range<usize>) -> Vec<Replacement> {
    let all = lines(text);
    let formatted = formatted_lines(text);
    let each = touched(&all, range).filter_map(|n| {
        let new = formatted.get(n)?;
        trimmed(text, all[n].clone(), new)
    });
    each.collect()
}

/// A replacement without what both texts have in common at their ends; `None` if they are equal.
fn trimmed(text: &str, range: Range<usize>, new: &str) -> Option<Replacement> {
    let old = &text[range.clone()];
    if old == new {
        return None;
    }
    let same = |(a, b): &(char, char)| a == b;
    let front: usize =
        old.chars().zip(new.chars()).take_while(same).map(|(c, _)| c.len_utf8()).sum();
    let (old, new) = (&old[front..], &new[front..]);
    let back = old.chars().rev().zip(new.chars().rev()).take_while(same);
    let back: usize = back.map(|(c, _)| c.len_utf8()).sum();
    Some(Replacement {
        range: range.start + front..range.end - back,
        text: new[..new.len() - back].to_owned(),
    })
}

/// What turns a text into another: differing lines one by one if there are as many of them, else
/// all of them at once.
pub(super) fn difference(text: &str, other: &str) -> Vec<Replacement> {
    let whole = |text: &str| -> Vec<Range<usize>> {
        let mut start = 0;
        let each = text.split_inclusive('\n').map(|line| {
            let range = start..start + line.len();
            start = range.end;
            range
        });
        each.collect()
    };
    let (old, new) = (whole(text), whole(other));
    let same = |(a, b): &(&Range<usize>, &Range<usize>)| text[(*a).clone()] == other[(*b).clone()];
    let front = old.iter().zip(&new).take_while(same).count();
    let rest = old.iter().skip(front).rev().zip(new.iter().skip(front).rev());
    let back = rest.take_while(same).count();
    let (old, new) = (&old[front..old.len() - back], &new[front..new.len() - back]);
    if old.len() == new.len() {
        let each = old.iter().zip(new);
        return each.filter_map(|(a, b)| trimmed(text, a.clone(), &other[b.clone()])).collect();
    }
    let hull = |all: &[Range<usize>], end: usize| {
        let start = all.first().map_or(end, |range| range.start);
        start..all.last().map_or(start, |range| range.end)
    };
    // An empty side stands where the equal lines at the end begin.
    let end = |text: &str, back: usize| {
        let lines = whole(text);
        lines.get(lines.len() - back).map_or(text.len(), |range| range.start)
    };
    let (old, new) = (hull(old, end(text, back)), hull(new, end(other, back)));
    trimmed(text, old, &other[new]).into_iter().collect()
}
