//! What an editor shows of a whole document: its outline, foldable blocks, colors, links, and the
//! kind of each word.

use std::ops::Range;

use caltrin_core::color::Rgb;
use caltrin_core::kind::Kind;
use caltrin_core::program::Constant;

use super::{Project, declarations};
use crate::ast::{self, AstNode, Decl, span, token_span, tokens, unquoted};
use crate::edit::{color_as_written, literal_value};
use crate::grammar::Keyword;
use crate::names::NameKind;
use crate::parser::Parse;
use crate::syntax::{Node, SyntaxKind};
use crate::words;

/// A declaration in the outline of a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Outline {
    /// Its name, or its first words.
    pub name: String,
    /// Its kind.
    pub keyword: Keyword,
    /// More about it: the kind of a light, the fitting of a place.
    pub detail: String,
    /// The bytes of all of it.
    pub whole: Range<usize>,
    /// The bytes of its name.
    pub range: Range<usize>,
    /// The declarations in it.
    pub children: Vec<Outline>,
}

/// The outline of a text.
pub fn outline(parse: &Parse) -> Vec<Outline> {
    declarations(parse).iter().filter_map(outlined).collect()
}

fn outlined(decl: &Decl) -> Option<Outline> {
    let keyword = decl.declaration().keyword;
    let first = decl.keyword()?;
    let name = match decl {
        Decl::Send(send) => send.notice(),
        Decl::Use(used) => used.file(),
        _ => decl.name(),
    };
    let range = token_span(name.as_ref().unwrap_or(&first));
    let (detail, inner): (String, Vec<Decl>) = match decl {
        Decl::Light(light) => {
            let kind = light.kind().map_or(String::new(), |kind| kind.text().to_owned());
            (kind, light.body().iter().flat_map(ast::Body::declarations).collect())
        }
        Decl::Spark(spark) => {
            (String::new(), spark.body().iter().flat_map(ast::Body::declarations).collect())
        }
        Decl::Output(output) => {
            (String::new(), output.body().iter().flat_map(ast::Body::declarations).collect())
        }
        Decl::Place(place) => {
            let of = place.fitting().map_or(String::new(), |name| format!("of {}", name.text()));
            (of, Vec::new())
        }
        Decl::Fitting(fitting) => (String::new(), fitting.declarations().collect()),
        Decl::Behavior(behavior) => (String::new(), behavior.declarations().collect()),
        _ => (String::new(), Vec::new()),
    };
    let name = name.map_or_else(|| first.text().to_owned(), |name| unquoted(&name).to_owned());
    let children = inner.iter().filter_map(outlined).collect();
    Some(Outline { name, keyword, detail, whole: decl.range(), range, children })
}

/// The bytes of blocks that can be folded: from the opening to the closing brace, over several lines.
pub fn folds(parse: &Parse, text: &str) -> Vec<Range<usize>> {
    let mut found = Vec::new();
    for node in parse.tree().descendants() {
        let mut open = None;
        for token in tokens(&node) {
            match token.kind() {
                SyntaxKind::BraceOpen => open = open.or(Some(token_span(&token).start)),
                SyntaxKind::BraceClose => {
                    if let Some(start) = open {
                        let end = token_span(&token).end;
                        if text[start..end].contains('\n') {
                            found.push(start..end);
                        }
                    }
                }
                _ => {}
            }
        }
    }
    found.sort_by_key(|range| (range.start, range.end));
    found
}

/// A color in a text.
#[derive(Clone, Debug, PartialEq)]
pub struct ColorAt {
    /// Its bytes.
    pub range: Range<usize>,
    /// The color, linear Rec. 709.
    pub color: Rgb,
}

/// The colors of a text that are written out: `#rrggbb`, kelvins, names, calls of numbers.
pub fn colors(project: &Project, source: usize) -> Vec<ColorAt> {
    let mut found = Vec::new();
    colors_in(&project.texts()[source].parse.tree(), project, source, &mut found);
    found
}

fn colors_in(node: &Node, project: &Project, source: usize, found: &mut Vec<ColorAt>) {
    if node.kind() == SyntaxKind::ColorCall {
        let text = ast::ColorCall(node.clone()).text();
        if let Ok((Constant::Vector(color), Kind::Color)) = crate::resolve::value(&text) {
            found.push(ColorAt { range: span(node), color: Rgb(color) });
            return;
        }
    }
    for token in tokens(node) {
        let range = token_span(&token);
        let named = token.kind() == SyntaxKind::Name;
        let value = node.kind() == SyntaxKind::Path
            && project.names().at(source, range.start).is_none_or(|o| o.range != range);
        if named && !value {
            continue;
        }
        if let Some((Constant::Vector(color), Kind::Color)) = literal_value(token.text()) {
            found.push(ColorAt { range, color: Rgb(color) });
        }
    }
    node.children().for_each(|child| colors_in(&child, project, source, found));
}

/// How a color can be written: as `#rrggbb`, in kelvins if it is close to the color of a hot body, in
/// OKLCH.
pub fn color_presentations(color: Rgb) -> Vec<String> {
    let mut all = vec![color_as_written(color)];
    let mut best = (f64::INFINITY, 0.0);
    let most = color.brightest().max(1e-9);
    let wanted = color.0.map(|part| part / most);
    for step in 20..=130 {
        let kelvins = f64::from(step) * 50.0;
        let like = Rgb::from_kelvin(caltrin_core::quantity::Kelvin(kelvins));
        let brightest = like.brightest().max(1e-9);
        let distance: f64 =
            like.0.iter().zip(wanted).map(|(a, b)| (a / brightest - b).powi(2)).sum();
        if distance < best.0 {
            best = (distance, kelvins);
        }
    }
    if best.0 < 0.005 {
        all.push(format!("{}K", best.1));
    }
    let [lightness, a, b] = color.to_oklab();
    let chroma = a.hypot(b);
    let hue = b.atan2(a).to_degrees().rem_euclid(360.0);
    all.push(format!("oklch({:.1}% {chroma:.3} {hue:.1}deg)", lightness * 100.0));
    all
}

/// A file that a text names.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Link {
    /// The bytes of the name, without quotes.
    pub range: Range<usize>,
    /// The file.
    pub file: String,
}

/// The books, sounds and pictures that a text names.
pub fn links(parse: &Parse) -> Vec<Link> {
    let header = parse.tree().children().find(|child| child.kind() == SyntaxKind::Header);
    let rehearsed =
        header.filter(|header| tokens(header).next().is_some_and(|w| w.text() == "rehearses"));
    let rehearsed = rehearsed.and_then(|header| ast::token_of(&header, SyntaxKind::Text));
    let files = declarations(parse).into_iter().filter_map(|decl| match decl {
        Decl::Use(used) => used.file(),
        Decl::Sound(sound) => sound.file(),
        Decl::Backdrop(backdrop) => backdrop.file(),
        _ => None,
    });
    let each = rehearsed.into_iter().chain(files).map(|token| {
        let range = token_span(&token);
        Link { range: range.start + 1..range.end - 1, file: unquoted(&token).to_owned() }
    });
    each.collect()
}

/// What a word is, for coloring it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum TokenKind {
    /// A word of the language.
    Keyword,
    /// A function of the language.
    Function,
    /// A name of the book.
    Name(NameKind),
    /// A channel, clause or argument.
    Property,
    /// A number or hour.
    Number,
    /// A color.
    Color,
    /// A text in quotes.
    Text,
    /// A comment.
    Comment,
    /// An easing.
    Easing,
}

/// A word of a text and what it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Highlight {
    /// Its bytes.
    pub range: Range<usize>,
    /// What it is.
    pub kind: TokenKind,
    /// Whether it is where the name is defined.
    pub defines: bool,
}

/// The words of a text in their order. Signs and unknown words are left out.
pub fn highlights(project: &Project, source: usize) -> Vec<Highlight> {
    let tree = project.texts()[source].parse.tree();
    let mut places = project.names().occurrences().iter().filter(|o| o.source == source).peekable();
    let mut found = Vec::new();
    for token in tree.descendants_with_tokens().filter_map(rowan::NodeOrToken::into_token) {
        let range = token_span(&token);
        while places.peek().is_some_and(|place| place.range.start < range.start) {
            places.next();
        }
        if let Some(place) = places.peek().filter(|place| place.range == range) {
            let kind = TokenKind::Name(project.names().definition(place.definition).kind);
            found.push(Highlight { range, kind, defines: place.defines });
            continue;
        }
        let parent = token.parent().map_or(SyntaxKind::Broken, |parent| parent.kind());
        let kind = match token.kind() {
            SyntaxKind::Comment => TokenKind::Comment,
            SyntaxKind::Number | SyntaxKind::Hour => TokenKind::Number,
            SyntaxKind::Hash => TokenKind::Color,
            SyntaxKind::Text => TokenKind::Text,
            SyntaxKind::HyphenWord => TokenKind::Easing,
            SyntaxKind::Name => match parent {
                SyntaxKind::Easing => TokenKind::Easing,
                SyntaxKind::Property | SyntaxKind::Argument => TokenKind::Property,
                SyntaxKind::Call if words::is_function(words::current(token.text())) => {
                    TokenKind::Function
                }
                SyntaxKind::ColorCall => TokenKind::Function,
                SyntaxKind::Path if literal_value(token.text()).is_some() => TokenKind::Color,
                SyntaxKind::Path | SyntaxKind::Broken => continue,
                _ => TokenKind::Keyword,
            },
            _ => continue,
        };
        found.push(Highlight { range, kind, defines: false });
    }
    found
}
