//! Shapes: texts of several lines whose slots take lines.

use super::pattern::{Pattern, Piece};

/// What a slot of a shape takes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Fill {
    /// Text inside its line.
    Text(String),
    /// Lines, each with what stands before the slot; none leaves the line out.
    Lines(Vec<String>),
}

impl Fill {
    /// No lines.
    pub fn nothing() -> Fill {
        Fill::Lines(Vec::new())
    }
}

/// The lines of a shape, the first of which begins at column `margin`. `slot` is asked with the name of each slot and
/// the column that it stands in.
pub fn lines(
    shape: &Pattern,
    margin: usize,
    mut slot: impl FnMut(&str, usize) -> Fill,
) -> Vec<String> {
    let mut all = Vec::new();
    for pieces in split(shape) {
        let mut before = String::new();
        // What several lines of a slot stand between.
        let mut taken: Option<(String, Vec<String>)> = None;
        for piece in pieces {
            match piece {
                Piece::Text(text) => before.push_str(&text),
                Piece::Slot(name) => {
                    let column = margin + before.chars().count();
                    match slot(&name, column) {
                        Fill::Text(text) => before.push_str(&text),
                        Fill::Lines(lines) => taken = Some((std::mem::take(&mut before), lines)),
                    }
                }
            }
        }
        match taken {
            None => all.push(before.trim_end().to_owned()),
            Some((first, lines)) => {
                let count = lines.len();
                for (n, line) in lines.into_iter().enumerate() {
                    let end = if n + 1 == count { before.as_str() } else { "" };
                    all.push(format!("{first}{line}{end}").trim_end().to_owned());
                }
            }
        }
    }
    all
}

fn split(shape: &Pattern) -> Vec<Vec<Piece>> {
    let mut all = vec![Vec::new()];
    for piece in &shape.pieces {
        match piece {
            Piece::Slot(_) => all.last_mut().expect("there is a line").push(piece.clone()),
            Piece::Text(text) => {
                for (n, line) in text.split('\n').enumerate() {
                    if n > 0 {
                        all.push(Vec::new());
                    }
                    if !line.is_empty() {
                        let open = all.last_mut().expect("there is a line");
                        open.push(Piece::Text(line.to_owned()));
                    }
                }
            }
        }
    }
    all
}

/// A line in lines of at most `width` columns, broken after commas or else after a bracket; what follows stands further in.
pub fn fitted(line: &str, width: usize, indent: usize) -> Vec<String> {
    let margin = line.len() - line.trim_start().len() + indent;
    let mut all = Vec::new();
    let mut rest = line.to_owned();
    while rest.chars().count() > width {
        let last = |sign: &str| {
            let all = rest.match_indices(sign).map(|(at, _)| at + 1);
            all.take_while(|at| *at <= width).last().filter(|at| *at > margin)
        };
        let Some(at) = last(", ").or_else(|| last("(")) else { break };
        all.push(rest[..at].to_owned());
        rest = format!("{}{}", " ".repeat(margin), rest[at..].trim_start());
    }
    all.push(rest);
    all
}

/// Lines without more than one empty one in a row, nor any at either end.
pub fn tidy(lines: Vec<String>) -> Vec<String> {
    let mut all: Vec<String> = Vec::with_capacity(lines.len());
    for line in lines {
        let empty = line.is_empty();
        if !empty || all.last().is_some_and(|last| !last.is_empty()) {
            all.push(line);
        }
    }
    if all.last().is_some_and(String::is_empty) {
        all.pop();
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    fn filled(shape: &str) -> Vec<String> {
        lines(&Pattern::read(shape), 0, |slot, column| match slot {
            "word" => Fill::Text("sea".to_owned()),
            "column" => Fill::Text(column.to_string()),
            "two" => Fill::Lines(vec!["a".to_owned(), "b".to_owned()]),
            _ => Fill::nothing(),
        })
    }

    #[test]
    fn slots_take_lines_with_what_stands_before_them() {
        assert_eq!(filled("x {word} {column}"), ["x sea 6"]);
        assert_eq!(filled("{\n    {two},\n}"), ["{", "    a", "    b,", "}"]);
        assert_eq!(filled("// {two}\nend"), ["// a", "// b", "end"]);
        assert_eq!(filled("before\n  {none}\nafter"), ["before", "after"]);
    }

    #[test]
    fn long_heads_break_after_commas() {
        let head = "void read(const run *run, uint32_t first, lamp *lamps)";
        assert_eq!(fitted(head, 80, 4), [head]);
        let broken = ["void read(const run *run,", "    uint32_t first, lamp *lamps)"];
        assert_eq!(fitted(head, 36, 4), broken);
        assert_eq!(fitted("no comma at all in here", 10, 4), ["no comma at all in here"]);
    }

    #[test]
    fn empty_lines_do_not_heap_up() {
        let all = ["", "a", "", "", "b", ""].map(str::to_owned).to_vec();
        assert_eq!(tidy(all), ["a", "", "b"]);
    }
}
