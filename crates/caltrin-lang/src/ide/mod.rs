//! Language services for editors: completion, symbols, colors, signatures and more. Everything here
//! is pure: it takes the texts of a book and gives data. What needs the program, such as guaranteed
//! ranges, is added by who has it.

mod actions;
mod completion;
mod context;
mod document;
mod focus;

use std::ops::Range;

pub use actions::{Action, actions};
pub use completion::{Completion, CompletionKind, complete};
pub use document::{
    ColorAt, Highlight, Link, Outline, TokenKind, color_presentations, colors, folds, highlights,
    links, outline,
};
pub use focus::{Focus, replaced};

use crate::ast::{self, AstNode, Decl};
use crate::names::{DefinitionId, NameKind, Names};
use crate::parser::{Parse, parse};
use crate::words;

/// A text of a project.
#[derive(Clone, Debug)]
pub struct ProjectText {
    /// Its name, as the book uses it; for the book itself its file.
    pub name: String,
    /// The text.
    pub text: String,
    /// Its tree.
    pub parse: Parse,
}

/// A book with the texts that it uses, parsed, and what their names stand for.
#[derive(Clone, Debug)]
pub struct Project {
    texts: Vec<ProjectText>,
    names: Names,
}

impl Project {
    /// Parses texts with their names: the book first, then those that it uses.
    pub fn of(texts: impl IntoIterator<Item = (String, String)>) -> Self {
        let parsed = texts.into_iter().map(|(name, text)| {
            let parse = parse(&text);
            ProjectText { name, text, parse }
        });
        Project::of_parsed(parsed.collect())
    }

    /// Of texts that were parsed.
    pub fn of_parsed(texts: Vec<ProjectText>) -> Self {
        let names = Names::of(texts.iter().map(|text| &text.parse));
        Project { texts, names }
    }

    /// The texts.
    pub fn texts(&self) -> &[ProjectText] {
        &self.texts
    }

    /// What names stand for.
    pub fn names(&self) -> &Names {
        &self.names
    }

    /// The definition of the name at a byte of a text.
    pub fn definition_at(&self, source: usize, at: usize) -> Option<DefinitionId> {
        self.names.at(source, at).map(|place| place.definition)
    }

    /// What a name is, its first line, and the comment beside or above it, for a tooltip.
    pub fn about(&self, id: DefinitionId) -> About {
        let definition = self.names.definition(id);
        let text = &self.texts[definition.source].text;
        let line = text[..definition.whole.start].rfind('\n').map_or(0, |end| end + 1);
        let end = text[definition.range.end..]
            .find('\n')
            .map_or(text.len(), |n| definition.range.end + n);
        let first = text[definition.whole.start.max(line)..end].trim_end();
        let (code, beside) = match first.split_once("//") {
            Some((code, comment)) => (code, Some(comment.trim().to_owned())),
            None => (first, None),
        };
        let above =
            text[..line].trim_end_matches(['\n', '\r']).rsplit('\n').next().unwrap_or("").trim();
        let above = above.strip_prefix("//").map(|comment| comment.trim().to_owned());
        let code = code.trim_end().trim_end_matches('{').trim_end().to_owned();
        About { kind: definition.kind, code, comment: beside.or(above) }
    }

    /// The call around a byte of a text: an example of it, and what it is given.
    pub fn signature(&self, source: usize, at: usize) -> Option<Signature> {
        let text = &self.texts[source];
        let context = context::Context::at(&text.text, at);
        let call = context.calls.last()?;
        let (label, parameters) = match self.called(source, at, call.callee) {
            Some(id) => {
                let definition = self.names.definition(id);
                let members = definition.members.iter().map(|id| self.names.definition(*id));
                let members = members.filter(|member| member.kind == NameKind::Parameter);
                let parameters: Vec<String> = members
                    .map(|member| self.texts[member.source].text[member.whole.clone()].to_owned())
                    .collect();
                (format!("{}({})", definition.name, parameters.join(", ")), parameters)
            }
            None => {
                let example = words::example(words::current(call.callee))?;
                let inside = example.split_once('(')?.1.strip_suffix(')')?;
                (example.to_owned(), split_arguments(inside))
            }
        };
        let named = parameters.iter().position(|parameter| {
            let word = parameter.split([' ', '=']).next().unwrap_or_default();
            call.word == Some(word)
        });
        let active = named.unwrap_or(call.argument).min(parameters.len().saturating_sub(1));
        Some(Signature { label, parameters, active })
    }

    fn called(&self, source: usize, at: usize, callee: &str) -> Option<DefinitionId> {
        let visible = self.names.visible(source, at);
        visible.into_iter().find(|id| self.names.definition(*id).name == callee)
    }
}

/// What a name is, for a tooltip.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct About {
    /// What it is.
    pub kind: NameKind,
    /// The first line of its definition, without comment.
    pub code: String,
    /// The comment beside it or on the line above.
    pub comment: Option<String>,
}

/// The call that is being written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Signature {
    /// The whole call: of a function an example, of a behavior its parameters with their defaults.
    pub label: String,
    /// Its arguments as they stand in the label.
    pub parameters: Vec<String>,
    /// The index of the argument that is being written.
    pub active: usize,
}

/// Splits arguments at the commas outside of parentheses.
fn split_arguments(text: &str) -> Vec<String> {
    let (mut depth, mut all) = (0usize, vec![String::new()]);
    for c in text.chars() {
        match c {
            '(' => depth += 1,
            ')' => depth = depth.saturating_sub(1),
            ',' if depth == 0 => {
                all.push(String::new());
                continue;
            }
            _ => {}
        }
        if let Some(last) = all.last_mut() {
            last.push(c);
        }
    }
    all.iter().map(|one| one.trim().to_owned()).filter(|one| !one.is_empty()).collect()
}

/// The bytes of the word around a byte of a text, or that ends there.
pub fn word_at(text: &str, at: usize) -> Range<usize> {
    let is_word = |c: char| c.is_alphanumeric() || c == '_';
    let at = (0..=at.min(text.len())).rev().find(|n| text.is_char_boundary(*n)).unwrap_or(0);
    let before: usize =
        text[..at].chars().rev().take_while(|c| is_word(*c)).map(char::len_utf8).sum();
    let after: usize = text[at..].chars().take_while(|c| is_word(*c)).map(char::len_utf8).sum();
    at - before..at + after
}

/// The declarations of a tree.
fn declarations(parse: &Parse) -> Vec<Decl> {
    ast::Book::cast(parse.tree()).map_or(Vec::new(), |book| book.declarations().collect())
}
