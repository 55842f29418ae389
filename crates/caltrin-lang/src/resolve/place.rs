//! Fittings and their instances: a fitting is resolved again for each place.

use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{ExprId, Size};
use caltrin_core::program_builder::Owner;

use super::{
    Around, Item, Resolver, child_of, expressions, is_expression, name_of, span, token_span, tokens,
};
use crate::ast;
use crate::diagnostic::Diagnostic;
use crate::syntax::{Node, SyntaxKind, Token};

/// Maximum nesting depth of fittings.
const DEEPEST: usize = 4;

/// A parameter of a fitting at a place.
struct Given {
    name: Token,
    value: ExprId,
    kind: ValueKind,
}

impl Resolver {
    pub(super) fn place(&mut self, node: &Node, around: &Around) -> Option<Item> {
        let name = name_of(node)?;
        let size = self.size(node)?;
        let (fitting, source) = self.fitting_of(node)?;
        if around.instances.len() == DEEPEST {
            let message = format!("fittings can be nested at most {DEEPEST} deep");
            self.tell(Diagnostic::error(token_span(&name), message));
            return None;
        }
        let path = format!("{}{}", around.path, name.text());
        let instances: Vec<Size> = around.instances.iter().copied().chain([size]).collect();
        let mut owner = Owner::instance(&path, &instances);
        let body = child_of(node, SyntaxKind::Body);
        let body_props = |kind: SyntaxKind| -> Vec<Node> {
            body.iter().flat_map(Node::children).filter(|c| c.kind() == kind).collect()
        };
        let (properties, exceptions) =
            (body_props(SyntaxKind::Property), body_props(SyntaxKind::Except));
        let mut given = self.defaults(&fitting, source, &mut owner)?;
        let mut position = around.position;
        let mut whole = true;
        for property in &properties {
            whole &= self
                .instance_property(property, None, &mut given, &mut position, &mut owner)
                .is_some();
        }
        for exception in &exceptions {
            let Some(index) = self.exception_index(exception) else {
                whole = false;
                continue;
            };
            for property in exception.children().filter(|c| c.kind() == SyntaxKind::Property) {
                whole &= self
                    .instance_property(
                        &property,
                        Some(index),
                        &mut given,
                        &mut position,
                        &mut owner,
                    )
                    .is_some();
            }
        }
        if !whole {
            return None;
        }
        let inside = Around { path: format!("{path}."), instances, position };
        let kept = std::mem::take(&mut self.locals);
        for parameter in &given {
            self.builder.name_local(parameter.value, parameter.name.text());
            self.locals.insert(parameter.name.text().to_owned(), Item::Value(parameter.value));
        }
        let here = std::mem::replace(&mut self.source, source);
        let made = self.fitted(&fitting, &inside, &mut owner);
        self.source = here;
        self.locals = kept;
        made.then_some(Item::Light)
    }

    /// The fitting that a place names, and the text that it is in.
    fn fitting_of(&mut self, node: &Node) -> Option<(Node, usize)> {
        let name = ast::Place(node.clone()).fitting()?;
        let Some(entry) = self.names.get(name.text()).map(|n| &self.entries[*n]) else {
            let fittings = self.entries.iter().filter(|e| e.node.kind() == SyntaxKind::FittingDecl);
            let names: Vec<String> =
                fittings.filter_map(|e| Some(name_of(&e.node)?.text().to_owned())).collect();
            let message = format!("there is no fitting `{}`", name.text());
            let told = Diagnostic::error(token_span(&name), message);
            let near = self.nearest(name.text(), names.iter().map(String::as_str));
            self.tell(match near {
                Some(near) => told.help(format!("did you mean `{near}`?")),
                None => told.help("declare one with `fitting name { light ... }`"),
            });
            return None;
        };
        if entry.node.kind() != SyntaxKind::FittingDecl {
            let message = format!("`{}` is not a fitting", name.text());
            self.tell(Diagnostic::error(token_span(&name), message));
            return None;
        }
        Some((entry.node.clone(), entry.source))
    }

    /// The parameters of a fitting with their defaults.
    fn defaults(&mut self, fitting: &Node, source: usize, owner: &mut Owner) -> Option<Vec<Given>> {
        let here = std::mem::replace(&mut self.source, source);
        let kept = std::mem::take(&mut self.locals);
        let mut given = Vec::new();
        for parameter in child_of(fitting, SyntaxKind::Parameters).iter().flat_map(Node::children) {
            let made = (|| {
                let name = tokens(&parameter).find(|t| t.kind() == SyntaxKind::Name)?;
                let value = parameter.children().find(is_expression)?;
                owner.property(name.text());
                let value = self.expression(&value, owner)?;
                Some(Given { name, value, kind: self.builder.kind(value) })
            })();
            given.push(made);
        }
        self.source = here;
        self.locals = kept;
        given.into_iter().collect()
    }

    /// A line of a place: its position or a parameter; of one instance if there is an index.
    fn instance_property(
        &mut self,
        node: &Node,
        index: Option<u32>,
        given: &mut [Given],
        position: &mut Option<ExprId>,
        owner: &mut Owner,
    ) -> Option<()> {
        let word = tokens(node).next()?;
        owner.property(word.text());
        let ranges: Vec<Node> = node.children().filter(|c| c.kind() == SyntaxKind::Range).collect();
        if word.text() == "position" {
            let (at, place) = self.position(&ranges, owner)?.pop()?;
            let at = match *position {
                // A fitting within a fitting counts from the outer one.
                Some(outer) if index.is_none() => {
                    let made = self.builder.add(outer, at);
                    self.fits(made, &place)?
                }
                _ => at,
            };
            *position = Some(self.odd_or(index, at, *position, owner, node)?);
            return Some(());
        }
        let Some(n) = given.iter().position(|g| g.name.text() == word.text()) else {
            let known: Vec<String> = given.iter().map(|g| g.name.text().to_owned()).collect();
            let known: Vec<&str> = known.iter().map(String::as_str).chain(["position"]).collect();
            let message = format!("the fitting has no `{}`", word.text());
            let told = Diagnostic::error(token_span(&word), message);
            self.tell(match self.nearest(word.text(), known.iter().copied()) {
                Some(near) => told.help(format!("did you mean `{near}`?")),
                None => told.help(format!("it takes {}", known.join(", "))),
            });
            return None;
        };
        let values: Vec<Node> = ranges.iter().flat_map(expressions).collect();
        let [value] = &values[..] else {
            let message = format!("`{}` takes one value", word.text());
            self.tell(Diagnostic::error(span(node), message));
            return None;
        };
        let id = self.expression(value, owner)?;
        let fits = self.builder.expect(id, given[n].kind);
        self.fits(fits, value)?;
        given[n].value = self.odd_or(index, id, Some(given[n].value), owner, node)?;
        Some(())
    }

    /// The value of all instances, or of one, with the default for the others.
    fn odd_or(
        &mut self,
        index: Option<u32>,
        odd: ExprId,
        default: Option<ExprId>,
        owner: &mut Owner,
        node: &Node,
    ) -> Option<ExprId> {
        let Some(index) = index else { return Some(odd) };
        let Some(default) = default else {
            let message = "the other instances have no position";
            self.tell(Diagnostic::error(span(node), message));
            return None;
        };
        let is_odd = self.builder.is_index(owner, index);
        let is_odd = self.fits(is_odd, node)?;
        let made = self.builder.select(is_odd, odd, default);
        self.fits(made, node)
    }

    /// Resolves the contents of a fitting for one place. Returns whether there was no error.
    fn fitted(&mut self, fitting: &Node, inside: &Around, owner: &mut Owner) -> bool {
        let mut whole = true;
        for child in self.body_in_order(fitting) {
            match child.kind() {
                SyntaxKind::NamedDecl => self.local(&child, owner),
                SyntaxKind::InputDecl => self.local_input(&child, owner),
                SyntaxKind::EventDecl | SyntaxKind::SwitchDecl | SyntaxKind::ModesDecl => {
                    whole &= self.local_happens(&child, owner);
                }
                SyntaxKind::SendDecl => {
                    let path = inside.path.trim_end_matches('.').to_owned();
                    whole &= self.sends(&child, owner, Some(&path)).is_some();
                }
                SyntaxKind::LightDecl => whole &= self.light(&child, inside).is_some(),
                SyntaxKind::OutputDecl => whole &= self.output(&child, inside).is_some(),
                SyntaxKind::PlaceDecl => whole &= self.place(&child, inside).is_some(),
                _ => {}
            }
        }
        whole
    }
}
