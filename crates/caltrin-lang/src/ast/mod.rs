//! The typed tree: a type for each declaration, clause and expression over the lossless tree, with
//! accessors for its parts. A part that is missing in a half-written book is `None`.

mod clause;
mod declaration;
mod expression;

use std::ops::Range;

pub use clause::*;
pub use declaration::*;
pub use expression::*;

use crate::syntax::{Node, SyntaxKind, Token, is_reserved};

/// A typed node.
pub trait AstNode: Sized {
    /// The node as this type, if it is one.
    fn cast(node: Node) -> Option<Self>;

    /// The untyped node.
    fn syntax(&self) -> &Node;

    /// Its bytes in the text, without spaces around it.
    fn range(&self) -> Range<usize> {
        span(self.syntax())
    }

    /// Its text, without spaces around it.
    fn text(&self) -> String {
        let (whole, own) = (self.syntax().text_range(), self.range());
        let start = usize::from(whole.start());
        self.syntax().text().to_string()[own.start - start..own.end - start].to_owned()
    }
}

/// Types over one kind of node each.
macro_rules! nodes {
    ($($(#[$doc:meta])* $name:ident = $kind:ident;)*) => {$(
        $(#[$doc])*
        #[derive(Clone, Debug, PartialEq, Eq, Hash)]
        pub struct $name(pub(crate) $crate::syntax::Node);

        impl $crate::ast::AstNode for $name {
            fn cast(node: $crate::syntax::Node) -> Option<Self> {
                (node.kind() == $crate::syntax::SyntaxKind::$kind).then_some($name(node))
            }

            fn syntax(&self) -> &$crate::syntax::Node {
                &self.0
            }
        }
    )*};
}
pub(crate) use nodes;

/// The children of a type.
pub(crate) fn children<T: AstNode>(node: &Node) -> impl Iterator<Item = T> {
    node.children().filter_map(T::cast)
}

/// The first child of a type.
pub(crate) fn child<T: AstNode>(node: &Node) -> Option<T> {
    children(node).next()
}

/// The words and signs of a node itself, without those of the nodes in it.
pub(crate) fn tokens(node: &Node) -> impl Iterator<Item = Token> {
    node.children_with_tokens()
        .filter_map(rowan::NodeOrToken::into_token)
        .filter(|t| !t.kind().is_trivia() && t.kind() != SyntaxKind::LineEnd)
}

/// The first of them of a kind.
pub(crate) fn token_of(node: &Node, kind: SyntaxKind) -> Option<Token> {
    tokens(node).find(|token| token.kind() == kind)
}

/// The name that follows the first word.
pub(crate) fn second_word(node: &Node) -> Option<Token> {
    let name = tokens(node).nth(1)?;
    (name.kind() == SyntaxKind::Name && !is_reserved(name.text())).then_some(name)
}

/// The bytes of a token.
pub(crate) fn token_span(token: &Token) -> Range<usize> {
    let range = token.text_range();
    usize::from(range.start())..usize::from(range.end())
}

/// The bytes of a node, without spaces around it.
pub(crate) fn span(node: &Node) -> Range<usize> {
    let range = node.text_range();
    let start = node
        .descendants_with_tokens()
        .filter_map(rowan::NodeOrToken::into_token)
        .find(|t| !t.kind().is_trivia() && t.kind() != SyntaxKind::LineEnd)
        .map_or(range.start(), |t| t.text_range().start());
    let mut last = node.last_token();
    while let Some(token) = last {
        let inside = token.text_range().start() >= range.start();
        if inside && (token.kind().is_trivia() || token.kind() == SyntaxKind::LineEnd) {
            last = token.prev_token();
        } else {
            let end = token.text_range().end().max(start);
            return usize::from(start)..usize::from(end);
        }
    }
    usize::from(start)..usize::from(range.end())
}

/// The text of a token in quotes, without them.
pub(crate) fn unquoted(token: &Token) -> &str {
    token.text().trim_matches('"')
}
