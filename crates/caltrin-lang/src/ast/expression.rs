//! Expressions.

use super::{AstNode, child, children, nodes, token_of, tokens};
use crate::syntax::{Node, SyntaxKind, Token};

nodes! {
    /// A number, hour, color, text, `on` or `off`.
    Literal = Literal;
    /// `rgb(96 140 60)`
    ColorCall = ColorCall;
    /// `mist`, `places.level`, in a rehearsal also `mast[3].intensity`.
    Path = Path;
    /// `held(80%..100%, every 70ms..210ms)`
    Call = Call;
    /// `a + b`, `a or b`
    Binary = Binary;
    /// `-a`, `not a`
    Unary = Unary;
    /// `(a)`, or a point `(0m, 1m, 0m)`.
    Parenthesized = Bracketed;
    /// `if a then b else c`
    If = If;
    /// `a above b`, `a is in b..c`, `power is on`, `warning is alarm`
    Compare = Compare;
    /// `80%..100%`, or a single value where a range may stand.
    Span = Range;
    /// `every 70ms..210ms` in a call, or a value without a name.
    Argument = Argument;
}

/// An expression.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs, reason = "each is the type of that name")]
pub enum Expr {
    Literal(Literal),
    ColorCall(ColorCall),
    Path(Path),
    Call(Call),
    Binary(Binary),
    Unary(Unary),
    Parenthesized(Parenthesized),
    If(If),
    Compare(Compare),
}

impl AstNode for Expr {
    fn cast(node: Node) -> Option<Self> {
        Some(match node.kind() {
            SyntaxKind::Literal => Expr::Literal(Literal(node)),
            SyntaxKind::ColorCall => Expr::ColorCall(ColorCall(node)),
            SyntaxKind::Path => Expr::Path(Path(node)),
            SyntaxKind::Call => Expr::Call(Call(node)),
            SyntaxKind::Binary => Expr::Binary(Binary(node)),
            SyntaxKind::Unary => Expr::Unary(Unary(node)),
            SyntaxKind::Bracketed => Expr::Parenthesized(Parenthesized(node)),
            SyntaxKind::If => Expr::If(If(node)),
            SyntaxKind::Compare => Expr::Compare(Compare(node)),
            _ => return None,
        })
    }

    fn syntax(&self) -> &Node {
        match self {
            Expr::Literal(Literal(node))
            | Expr::ColorCall(ColorCall(node))
            | Expr::Path(Path(node))
            | Expr::Call(Call(node))
            | Expr::Binary(Binary(node))
            | Expr::Unary(Unary(node))
            | Expr::Parenthesized(Parenthesized(node))
            | Expr::If(If(node))
            | Expr::Compare(Compare(node)) => node,
        }
    }
}

impl Literal {
    /// Its token.
    pub fn token(&self) -> Option<Token> {
        tokens(&self.0).next()
    }
}

impl ColorCall {
    /// The function: `rgb`, `hsl`, `oklab`, `oklch` or `color`.
    pub fn function(&self) -> Option<Token> {
        tokens(&self.0).next()
    }

    /// Its components.
    pub fn components(&self) -> impl Iterator<Item = Expr> {
        children(&self.0)
    }
}

impl Path {
    /// Its names, from left to right.
    pub fn names(&self) -> impl Iterator<Item = Token> {
        tokens(&self.0).filter(|token| token.kind() == SyntaxKind::Name)
    }

    /// The first name.
    pub fn head(&self) -> Option<Token> {
        self.names().next()
    }
}

impl Call {
    /// The name that is called; `curve` in `curve.column(x)`.
    pub fn callee(&self) -> Option<Token> {
        tokens(&self.0).next()
    }

    /// The column in `curve.column(x)`.
    pub fn column(&self) -> Option<Token> {
        tokens(&self.0).filter(|token| token.kind() == SyntaxKind::Name).nth(1)
    }

    /// Its arguments.
    pub fn arguments(&self) -> impl Iterator<Item = Argument> {
        let all = self.0.children().find(|child| child.kind() == SyntaxKind::Arguments);
        all.into_iter().flat_map(|all| children::<Argument>(&all).collect::<Vec<_>>())
    }
}

impl Argument {
    /// Its name, as in `every 70ms..210ms`.
    pub fn name(&self) -> Option<Token> {
        token_of(&self.0, SyntaxKind::Name)
    }

    /// Its value or range.
    pub fn value(&self) -> Option<Span> {
        child(&self.0)
    }
}

impl Span {
    /// Its values: one, or the two ends.
    pub fn values(&self) -> Vec<Expr> {
        children(&self.0).collect()
    }
}

impl Binary {
    /// The operator.
    pub fn operator(&self) -> Option<Token> {
        tokens(&self.0).next()
    }

    /// The left side.
    pub fn left(&self) -> Option<Expr> {
        child(&self.0)
    }

    /// The right side.
    pub fn right(&self) -> Option<Expr> {
        children(&self.0).nth(1)
    }
}

impl Unary {
    /// The operator: `-`, `+` or `not`.
    pub fn operator(&self) -> Option<Token> {
        tokens(&self.0).next()
    }

    /// What it applies to.
    pub fn operand(&self) -> Option<Expr> {
        child(&self.0)
    }
}

impl Parenthesized {
    /// Its values: one, or the three of a point.
    pub fn values(&self) -> Vec<Expr> {
        children(&self.0).collect()
    }
}

impl If {
    /// The condition, the value if it holds, and the value otherwise.
    pub fn parts(&self) -> [Option<Expr>; 3] {
        let mut all = children(&self.0);
        [all.next(), all.next(), all.next()]
    }
}

impl Compare {
    /// The left side.
    pub fn left(&self) -> Option<Expr> {
        child(&self.0)
    }

    /// The words between: `above`, `is in`, `is on`, `is alarm` ...
    pub fn words(&self) -> Vec<Token> {
        tokens(&self.0).collect()
    }

    /// The right side of `above` and `below`.
    pub fn right(&self) -> Option<Expr> {
        children(&self.0).nth(1)
    }

    /// The range of `is in`.
    pub fn range(&self) -> Option<Span> {
        child(&self.0)
    }
}
