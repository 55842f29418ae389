//! Walls and posts, for pictures of the place.

use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{Constant, Form, Size};
use caltrin_core::program_builder::Owner;

use super::{Item, Resolver, span, token_span};
use crate::ast::{self, AstNode, HasName};
use crate::diagnostic::Diagnostic;
use crate::syntax::{Node, Token};

impl Resolver {
    /// `wall shed { along (0m, 0m, 4m)..(8m, 0m, 4m); height 3m }`
    pub(super) fn wall(&mut self, wall: &ast::Wall) -> Option<Item> {
        let (name, node) = (wall.name()?, wall.syntax());
        if self.size(node)? != Size::One {
            let message = "a wall cannot be an array; write one line per wall";
            self.tell(Diagnostic::error(token_span(&name), message));
            return None;
        }
        let mut owner = Owner::book(name.text());
        let [along, height] = self.solid_lines(&wall.body()?, &name, ["along", "height"])?;
        let ends = along.values().next().map(|range| range.values());
        let Some([from, to]) = ends.as_deref() else {
            let message = "`along` needs the two ends of the wall at the ground";
            self.tell(
                Diagnostic::error(along.range(), message)
                    .help("write `along (0m, 0m, 4m)..(8m, 0m, 4m)`"),
            );
            return None;
        };
        let from = self.known_point(from, &mut owner)?;
        let to = self.known_point(to, &mut owner)?;
        let height = self.known_length(&height, &mut owner)?;
        let made = self.builder.add_solid(name.text(), Form::Wall { from, to, height });
        self.fits(made, node)?;
        Some(Item::Scenery)
    }

    /// `post pile[4] { position (0m, 0m, 0m), (3m, 0m, 0m); radius 20cm; height 2m }`
    pub(super) fn post(&mut self, post: &ast::Post) -> Option<Item> {
        let (name, node) = (post.name()?, post.syntax());
        let many = match self.size(node)? {
            Size::One => 1,
            Size::Many(n) => n,
            Size::Open => {
                let message = "an open array of posts cannot be drawn; give it a size";
                self.tell(Diagnostic::error(token_span(&name), message));
                return None;
            }
        };
        let mut owner = Owner::book(name.text());
        let [position, radius, height] =
            self.solid_lines(&post.body()?, &name, ["position", "radius", "height"])?;
        let mut points = Vec::new();
        for range in position.values() {
            let one = range.values();
            let [value] = &one[..] else {
                let message = "expected a point such as `(0m, 0m, 4m)`, found a range";
                self.tell(Diagnostic::error(range.range(), message));
                return None;
            };
            points.push(self.known_point(value, &mut owner)?);
        }
        let (radius, height) =
            (self.known_length(&radius, &mut owner)?, self.known_length(&height, &mut owner)?);
        for n in 0..many {
            let at = match &points[..] {
                [first] => *first,
                [first, step] => [0, 1, 2].map(|part| first[part] + step[part] * f64::from(n)),
                all => all[(n as usize).min(all.len() - 1)],
            };
            let made = self.builder.add_solid(name.text(), Form::Post { at, radius, height });
            self.fits(made, node)?;
        }
        Some(Item::Scenery)
    }

    /// The lines with these words, each exactly once.
    fn solid_lines<const N: usize>(
        &mut self,
        body: &ast::Body,
        solid: &Token,
        names: [&str; N],
    ) -> Option<[ast::Property; N]> {
        let found = self.scenery_lines(body, solid, names, &names)?;
        let whole: Option<Vec<ast::Property>> = found.into_iter().collect();
        whole?.try_into().ok()
    }

    /// The lines with these words, each at most once; without the needed ones there is an error at `subject`.
    pub(super) fn scenery_lines<const N: usize>(
        &mut self,
        body: &ast::Body,
        subject: &Token,
        names: [&str; N],
        needed: &[&str],
    ) -> Option<[Option<ast::Property>; N]> {
        let mut found: [Option<ast::Property>; N] = [const { None }; N];
        for line in body.properties() {
            let word = line.word()?;
            let Some(place) = names.iter().position(|name| *name == word.text()) else {
                let message = format!("this has no `{}`", word.text());
                let told = Diagnostic::error(token_span(&word), message);
                self.tell(match self.nearest(word.text(), names) {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None => told.help(format!("it has {}", names.join(", "))),
                });
                return None;
            };
            if found[place].replace(line.clone()).is_some() {
                let message = format!("duplicate `{}`", word.text());
                self.tell(Diagnostic::error(line.range(), message));
                return None;
            }
        }
        for (name, line) in names.iter().zip(&found) {
            if line.is_none() && needed.contains(name) {
                let message = format!("`{}` needs its `{name}`", subject.text().trim_matches('"'));
                self.tell(Diagnostic::error(token_span(subject), message));
                return None;
            }
        }
        Some(found)
    }

    pub(super) fn known_point(&mut self, value: &ast::Expr, owner: &mut Owner) -> Option<[f64; 3]> {
        let value = value.syntax();
        let id = self.expression(value, owner)?;
        let fits = self.builder.expect(id, ValueKind::Point);
        self.fits(fits, value)?;
        match self.program().constant(id) {
            Some(Constant::Vector(point)) => Some(point),
            _ => self.moves(value),
        }
    }

    fn known_length(&mut self, line: &ast::Property, owner: &mut Owner) -> Option<f64> {
        self.scenery_number(line, ValueKind::Length, "one length, such as `3m`", owner)
    }

    /// The constant number of a kind in a line.
    pub(super) fn scenery_number(
        &mut self,
        line: &ast::Property,
        kind: ValueKind,
        wanted: &str,
        owner: &mut Owner,
    ) -> Option<f64> {
        let values = line.values().next().map(|range| range.values());
        let Some([value]) = values.as_deref() else {
            self.tell(Diagnostic::error(line.range(), format!("expected {wanted}")));
            return None;
        };
        let value = value.syntax();
        let id = self.expression(value, owner)?;
        let fits = self.builder.expect(id, kind);
        self.fits(fits, value)?;
        match self.program().constant(id) {
            Some(Constant::Scalar(number)) => Some(number),
            _ => self.moves(value),
        }
    }

    fn moves<T>(&mut self, value: &Node) -> Option<T> {
        let message = "walls, posts, eyes and backdrops must be constant";
        self.tell(Diagnostic::error(span(value), message));
        None
    }
}
