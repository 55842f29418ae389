//! Groups: lights that are dimmed and tinted together.

use caltrin_core::GroupNote;
use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{Channel, ExprId, Field, Size};
use caltrin_core::program_builder::Owner;
use caltrin_core::program_builder::group::Group;

use super::{Around, Item, Resolver, expressions, name_of, span, token_span, tokens};
use crate::diagnostic::Diagnostic;
use crate::syntax::{Node, SyntaxKind, Token};

/// A resolved light path: names from the outermost instance to the light, and the index.
#[derive(Clone, Debug)]
pub(super) struct LightPath {
    pub node: Node,
    pub names: Vec<Token>,
    /// The index, and the number of names before it.
    pub index: Option<(usize, u32)>,
}

impl LightPath {
    /// The names of a path, joined.
    pub fn text(&self) -> String {
        self.names.iter().map(Token::text).collect::<Vec<_>>().join(".")
    }

    /// Whether it names a light or an instance around it.
    pub fn holds(&self, light: &str) -> bool {
        let mut parts = light.split('.');
        self.names.iter().all(|name| parts.next() == Some(name.text()))
    }
}

/// A resolved group.
#[derive(Clone, Debug)]
pub(super) struct Grouped {
    name: String,
    group: Group,
    /// Its lights and groups, and whether each was found.
    members: Vec<(LightPath, bool)>,
    source: usize,
}

impl Resolver {
    /// Reads `quay[2].glow`.
    pub(super) fn light_path(&mut self, node: &Node) -> Option<LightPath> {
        let (mut names, mut index) = (Vec::new(), None);
        for token in tokens(node) {
            match token.kind() {
                SyntaxKind::Name => names.push(token),
                SyntaxKind::Number => {
                    let number = token.text().parse().ok();
                    if index.is_some() || number.is_none() {
                        let message = "expected one index, counted from 0";
                        self.tell(Diagnostic::error(token_span(&token), message));
                        return None;
                    }
                    index = number.map(|number| (names.len(), number));
                }
                _ => {}
            }
        }
        (!names.is_empty()).then(|| LightPath { node: node.clone(), names, index })
    }

    /// Checks that the first name of a path is a light, an instance or, if allowed, a group.
    pub(super) fn names_light(&mut self, path: &LightPath, groups: bool) -> Option<()> {
        let word = path.names[0].clone();
        let known = self.names.get(word.text()).map(|n| self.entries[*n].node.kind());
        let what = if groups { "light, instance or group" } else { "light or instance" };
        match known {
            Some(SyntaxKind::LightDecl | SyntaxKind::SparkDecl | SyntaxKind::PlaceDecl) => {
                return Some(());
            }
            Some(SyntaxKind::GroupDecl) if groups => return Some(()),
            Some(_) => {
                let message = format!("`{}` is not a {what}", word.text());
                self.tell(Diagnostic::error(token_span(&word), message));
            }
            None => {
                let lights = self.entries.iter().filter(|entry| {
                    matches!(
                        entry.node.kind(),
                        SyntaxKind::LightDecl
                            | SyntaxKind::SparkDecl
                            | SyntaxKind::PlaceDecl
                            | SyntaxKind::GroupDecl
                    )
                });
                let names: Vec<String> = lights
                    .filter_map(|entry| Some(name_of(&entry.node)?.text().to_owned()))
                    .collect();
                let message = format!("there is no {what} `{}`", word.text());
                let told = Diagnostic::error(token_span(&word), message);
                let near = self.nearest(word.text(), names.iter().map(String::as_str));
                self.tell(match near {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None => told,
                });
            }
        }
        None
    }

    /// `group pier { lights mast, quay; dim with power to 3%; tint with power to #3a2413 }`
    pub(super) fn group(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let mut owner = Owner::book(name.text());
        let (mut group, mut members, mut whole) = (Group::default(), Vec::new(), true);
        for line in node.children() {
            match line.kind() {
                SyntaxKind::GroupLights => {
                    for path in line.children().filter(|c| c.kind() == SyntaxKind::LightPath) {
                        let path = self.light_path(&path);
                        match path.and_then(|path| self.names_light(&path, true).map(|()| path)) {
                            Some(path) => members.push((path, false)),
                            None => whole = false,
                        }
                    }
                }
                SyntaxKind::GroupLine => {
                    let word = tokens(&line).next()?;
                    owner.property(word.text());
                    whole &= self.group_line(&line, word.text(), &mut group, &mut owner).is_some();
                }
                _ => {}
            }
        }
        if !whole {
            return None;
        }
        let missing = match (members.is_empty(), group == Group::default()) {
            (true, _) => Some(("no lights", "name them in a line `lights mast, quay`")),
            (_, true) => {
                Some(("no `dim` or `tint`", "add `dim with power` or `tint with power to #3a2413`"))
            }
            _ => None,
        };
        if let Some((what, help)) = missing {
            let message = format!("the group `{}` has {what}", name.text());
            self.tell(Diagnostic::error(token_span(&name), message).help(help));
            return None;
        }
        let (name, source) = (name.text().to_owned(), self.source);
        let note = self.note_of(node);
        self.notes.groups.push(GroupNote { name: name.clone(), note, lights: Vec::new() });
        self.groups.push(Grouped { name, group, members, source });
        Some(Item::Group)
    }

    fn group_line(
        &mut self,
        line: &Node,
        word: &str,
        group: &mut Group,
        owner: &mut Owner,
    ) -> Option<()> {
        let values = expressions(line);
        let by = self.expression(values.first()?, owner)?;
        let fits = self.builder.expect(by, ValueKind::Number);
        self.fits(fits, values.first()?)?;
        let to = match values.get(1) {
            Some(value) => Some((self.expression(value, owner)?, value)),
            None => None,
        };
        if word == "dim" {
            let left = match to {
                Some((left, place)) => {
                    let fits = self.builder.expect(left, ValueKind::Number);
                    self.fits(fits, place)?;
                    left
                }
                None => self.builder.number(0.0, ValueKind::Number).ok()?,
            };
            group.dims.push((by, left));
            return Some(());
        }
        let Some((color, place)) = to else {
            let message = "`tint` needs a color";
            self.tell(
                Diagnostic::error(span(line), message).help("as in `tint with power to #3a2413`"),
            );
            return None;
        };
        let fits = self.builder.expect(color, ValueKind::Color);
        self.fits(fits, place)?;
        group.tints.push((by, color));
        Some(())
    }

    /// Applies the groups of a light to its channels: inner groups first, then in the book's order.
    pub(super) fn grouped(
        &mut self,
        light: &str,
        owner: &Owner,
        around: (&Around, Option<Size>),
        driven: &mut [(Channel, Vec<ExprId>)],
        node: &Node,
    ) -> Option<()> {
        let mut order: Vec<usize> = (0..self.groups.len()).collect();
        let place = |group: &Grouped| self.names.get(&group.name).copied().unwrap_or(usize::MAX);
        order.sort_by_key(|n| place(&self.groups[*n]));
        let mut open: Vec<(usize, Option<ExprId>)> = Vec::new();
        let mut asked = 0;
        for n in &order {
            for member in 0..self.groups[*n].members.len() {
                let (path, _) = self.groups[*n].members[member].clone();
                if path.holds(light) {
                    self.groups[*n].members[member].1 = true;
                    let of = self.which(&path, owner, around)?;
                    if !open.iter().any(|(known, _)| known == n) {
                        open.push((*n, of));
                    }
                }
            }
        }
        while asked < open.len() {
            let (inner, of) = open[asked];
            let name = self.groups[inner].name.clone();
            for n in &order {
                let holds = |(path, _): &(LightPath, bool)| path.text() == name;
                let mut members = self.groups[*n].members.iter_mut();
                if let Some(member) = members.find(|member| holds(member)) {
                    member.1 = true;
                    if !open.iter().any(|(known, _)| known == n) {
                        open.push((*n, of));
                    }
                }
            }
            asked += 1;
        }
        for (n, of) in open {
            let (group, name) = (self.groups[n].group.clone(), self.groups[n].name.clone());
            let mut told = self.notes.groups.iter_mut();
            if let Some(told) = told.find(|told| told.name == name) {
                told.lights.push(light.to_owned());
            }
            let made = self.builder.put_in_group(driven, &group, of);
            let changed = self.fits(made, node)?;
            let intensity = driven.iter().any(|(c, _)| c.fields == [Field::Intensity]);
            if !changed || (!group.dims.is_empty() && !intensity) {
                let what = if intensity { "color" } else { "intensity" };
                let message = format!(
                    "the group `{name}` cannot change `{light}`, which does not set its {what}"
                );
                self.tell(Diagnostic::error(span(node), message));
                return None;
            }
        }
        Some(())
    }

    /// Whether the current lamp is that of a path; `None` if the path has no index.
    pub(super) fn which(
        &mut self,
        path: &LightPath,
        owner: &Owner,
        (around, size): (&Around, Option<Size>),
    ) -> Option<Option<ExprId>> {
        let Some((after, number)) = path.index else { return Some(None) };
        let deep = around.instances.len() + 1;
        let level = if after == deep { size } else { around.instances.get(after - 1).copied() };
        let inner = around.instances.iter().skip(after).copied().chain(size);
        let innermost = after == deep || inner.into_iter().all(|size| size == Size::One);
        let told = match level {
            Some(Size::One) => Some("there is only one".to_owned()),
            Some(Size::Many(n)) if number >= n => {
                Some(format!("the last of them has the index {}", n - 1))
            }
            _ if !innermost => Some(
                "one of several instances whose lights are arrays cannot be addressed".to_owned(),
            ),
            _ => None,
        };
        if let Some(message) = told {
            self.tell(Diagnostic::error(span(&path.node), message));
            return None;
        }
        let made = self.builder.is_index(owner, number);
        Some(Some(self.fits(made, &path.node)?))
    }

    /// Reports unknown lights of groups.
    pub(super) fn unmet_members(&mut self) {
        for group in std::mem::take(&mut self.groups) {
            self.source = group.source;
            for (path, _) in group.members.iter().filter(|(_, met)| !met) {
                // A light with an error was reported.
                let broken = self
                    .names
                    .get(path.names[0].text())
                    .is_some_and(|n| matches!(self.entries[*n].item, Item::Broken));
                let inner = path.names.len() > 1;
                if inner && !broken {
                    let message = format!("there is no light `{}`", path.text());
                    self.tell(Diagnostic::error(span(&path.node), message));
                }
            }
        }
    }
}
