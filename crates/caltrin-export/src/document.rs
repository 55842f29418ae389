//! Documents: text that breaks where it is too long for its line.

/// A part of a document.
#[derive(Clone, Debug, PartialEq)]
pub enum Document {
    /// Text without line breaks.
    Text(String),
    /// A blank, or a line break where its group does not fit.
    Blank,
    /// Nothing, or a line break where its group does not fit.
    Joint,
    /// Nothing, or text where its group does not fit.
    Broken(String),
    /// A line break in any case; all groups around it are broken.
    Line,
    /// Parts, one after the other.
    Parts(Vec<Document>),
    /// Lines inside are indented by so many columns more.
    Indent(usize, Box<Document>),
    /// On one line, if that fits.
    Group(Box<Document>),
}

impl Document {
    /// Text.
    pub fn text(text: impl Into<String>) -> Document {
        Document::Text(text.into())
    }

    /// A group.
    pub fn group(self) -> Document {
        Document::Group(Box::new(self))
    }

    /// Indented.
    pub fn indented(self, by: usize) -> Document {
        Document::Indent(by, Box::new(self))
    }

    /// Parts with a document between each two.
    pub fn joined(parts: impl IntoIterator<Item = Document>, between: &Document) -> Document {
        let mut all = Vec::new();
        for part in parts {
            if !all.is_empty() {
                all.push(between.clone());
            }
            all.push(part);
        }
        Document::Parts(all)
    }

    /// As many parts on each line as fit, with `,` between them.
    pub fn filled(parts: impl IntoIterator<Item = Document>) -> Document {
        let mut all: Vec<Document> = Vec::new();
        for part in parts {
            all.push(match all.is_empty() {
                true => part,
                false => Document::Parts(vec![
                    Document::text(","),
                    Document::Parts(vec![Document::Blank, part]).group(),
                ]),
            });
        }
        Document::Parts(all)
    }

    /// The text, in lines of at most `width` columns where that can be, the first of which is
    /// indented already. Lines end without blanks.
    pub fn print(&self, width: usize, indent: usize) -> String {
        let mut out = String::new();
        let mut column = indent;
        // What is left to print: at which indent, whether broken, and what.
        let mut open = vec![(indent, true, self)];
        while let Some((indent, broken, document)) = open.pop() {
            match document {
                Document::Text(text) => {
                    out.push_str(text);
                    column += text.chars().count();
                }
                Document::Broken(text) if broken => {
                    out.push_str(text);
                    column += text.chars().count();
                }
                Document::Blank if !broken => {
                    out.push(' ');
                    column += 1;
                }
                Document::Joint | Document::Broken(_) if !broken => {}
                Document::Blank | Document::Joint | Document::Line | Document::Broken(_) => {
                    out.truncate(out.trim_end_matches(' ').len());
                    out.push('\n');
                    out.push_str(&" ".repeat(indent));
                    column = indent;
                }
                Document::Parts(parts) => {
                    open.extend(parts.iter().rev().map(|part| (indent, broken, part)));
                }
                Document::Indent(by, inner) => open.push((indent + by, broken, inner)),
                Document::Group(inner) => {
                    let room = width.saturating_sub(column);
                    let fits = fits(room, inner, &open);
                    open.push((indent, !fits, inner));
                }
            }
        }
        out.truncate(out.trim_end_matches(' ').len());
        let ends: Vec<&str> = out.split('\n').map(|line| line.trim_end_matches(' ')).collect();
        ends.join("\n")
    }
}

/// Whether a document on one line, and what follows it up to the next line break, take at most `room` columns.
fn fits(room: usize, document: &Document, after: &[(usize, bool, &Document)]) -> bool {
    let mut left = room as isize;
    let mut open = vec![(false, document)];
    let mut rest = after.iter().rev();
    loop {
        let Some((broken, document)) = open.pop() else {
            let Some((_, broken, document)) = rest.next() else { return true };
            open.push((*broken, document));
            continue;
        };
        match document {
            Document::Text(text) => left -= text.chars().count() as isize,
            Document::Broken(text) if broken => left -= text.chars().count() as isize,
            Document::Blank if !broken => left -= 1,
            Document::Joint | Document::Broken(_) if !broken => {}
            Document::Line if !broken => return false,
            Document::Blank | Document::Joint | Document::Line | Document::Broken(_) => {
                return true;
            }
            Document::Parts(parts) => open.extend(parts.iter().rev().map(|part| (broken, part))),
            Document::Indent(_, inner) => open.push((broken, inner)),
            // What follows may break; then only its start has to fit.
            Document::Group(inner) => open.push((broken, inner)),
        }
        if left < 0 {
            return false;
        }
    }
}

/// The words of a text in lines of at most `width` columns, the first after `first` and the others after `next`.
pub fn paragraph(text: &str, first: &str, next: &str, width: usize) -> Vec<String> {
    let mut lines = vec![first.to_owned()];
    let mut empty = true;
    for word in text.split_whitespace() {
        let line = lines.last_mut().expect("there is a line");
        let long = line.chars().count() + 1 + word.chars().count() > width;
        if long && !empty {
            lines.push(format!("{next}{word}"));
        } else {
            if !empty {
                line.push(' ');
            }
            line.push_str(word);
        }
        empty = false;
    }
    lines
}
