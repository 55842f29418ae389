//! Events and what they drive.

use std::rc::Rc;

use caltrin_core::curve::Easing;
use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{Constant, EventId, EventSource, ExprId, Notice, Subject};
use caltrin_core::program_builder::event::{Replay, Turned};
use caltrin_core::program_builder::{Owner, Sender, Sending};
use caltrin_core::quantity::{Hours, Seconds};
use caltrin_core::semantic_error::SemanticError;

use super::call::Arguments;
use super::{
    Item, Resolver, child_of, expressions, is_expression, name_of, span, token_span, tokens,
};
use crate::diagnostic::Diagnostic;
use crate::literal;
use crate::syntax::{Node, SyntaxKind, Token};

/// The light that a notice comes from.
pub(super) struct SourceLight {
    from: String,
    lamp: u32,
    node: Node,
    source: usize,
}

impl Resolver {
    /// An event, switch or modes, of the book or of each instance or lamp.
    pub(super) fn happens(&mut self, node: &Node, owner: &mut Owner) -> Option<Item> {
        let home = self.builder.at_home(owner);
        let before = self.fits(home, node)?;
        let made = match node.kind() {
            SyntaxKind::EventDecl => self.event(node, owner),
            SyntaxKind::SwitchDecl => self.switch(node, owner),
            _ => self.modes(node, owner),
        };
        self.builder.go_home(before);
        owner.property("");
        made
    }

    /// The same inside a light, output or fitting. Returns whether it has no error.
    pub(super) fn local_happens(&mut self, node: &Node, owner: &mut Owner) -> bool {
        let made = self.happens(node, owner);
        let Some(name) = name_of(node) else { return false };
        let whole = made.is_some();
        let item = made.unwrap_or(Item::Broken);
        if self.locals.insert(name.text().to_owned(), item).is_some() {
            let message = format!("duplicate name `{}`", name.text());
            self.tell(Diagnostic::error(token_span(&name), message));
        }
        whole
    }

    /// `at fault send strike("strike_a" or "strike_b", loud 80%)`; `own` names the light or instance that it stands in.
    pub(super) fn sends(
        &mut self,
        node: &Node,
        owner: &mut Owner,
        own: Option<&str>,
    ) -> Option<()> {
        let name = tokens(node).filter(|token| token.kind() == SyntaxKind::Name).skip(1);
        let name = name.skip_while(|token| token.text() != "send").nth(1)?;
        let mut texts = Vec::new();
        for token in tokens(node).filter(|token| token.kind() == SyntaxKind::Text) {
            let text = token.text().trim_matches('"').to_owned();
            let fits =
                |c: char| c.is_ascii_alphanumeric() || matches!(c, '_' | '-' | '.' | '/' | ' ');
            if text.is_empty() || !text.chars().all(fits) {
                let message = "a notice text can contain only letters from a to z, digits, `_`, `-`, `.`, `/` and spaces";
                self.tell(Diagnostic::error(token_span(&token), message));
                return None;
            }
            if texts.contains(&text) {
                let message = format!("duplicate text `{text}`");
                self.tell(Diagnostic::error(token_span(&token), message));
                return None;
            }
            texts.push(text);
        }
        let said = child_of(node, SyntaxKind::LightPath);
        let (from, sender) = match (&said, own) {
            (None, None) => (String::new(), Sender::Lamp(0)),
            (None, Some(own)) => (own.to_owned(), Sender::Own),
            (Some(path), None) => {
                let (from, lamp) = self.sender(path)?;
                let source = self.source;
                let (from_kept, node) = (from.clone(), path.clone());
                self.senders.push(SourceLight { from: from_kept, lamp, node, source });
                (from, Sender::Lamp(lamp))
            }
            (Some(path), Some(_)) => {
                let message = "a notice inside a light or fitting always comes from it";
                self.tell(Diagnostic::error(span(path), message).help("remove `from`"));
                return None;
            }
        };
        owner.property(&format!("send/{}", name.text()));
        let home = self.builder.at_home(owner);
        let before = self.fits(home, node)?;
        let paths: Vec<Node> = node.children().filter(|c| c.kind() == SyntaxKind::Path).collect();
        let events: Vec<EventId> = paths.iter().filter_map(|path| self.event_of(path)).collect();
        self.note_named(name.text(), node);
        let carried: Vec<Node> =
            node.children().filter(|child| child.kind() == SyntaxKind::Argument).collect();
        let begun = self.builder.begin_notice(owner, texts.len() > 1 || !carried.is_empty());
        let whole = self.fits(begun, node).and_then(|mut sending| {
            let mut carries = true;
            for value in &carried {
                carries &= self.carry(value, owner, &mut sending).is_some();
            }
            let notice = Notice { name: name.text().to_owned(), texts, from, values: Vec::new() };
            let made = self.builder.finish_notice(owner, sending, &events, (notice, sender));
            self.fits(made, node).filter(|()| carries && events.len() == paths.len())
        });
        self.builder.go_home(before);
        owner.property("");
        whole
    }

    /// `loud drawn(40%..80%)` in a notice.
    fn carry(&mut self, node: &Node, owner: &mut Owner, sending: &mut Sending) -> Option<()> {
        let range = child_of(node, SyntaxKind::Range)?;
        let Some(name) = tokens(node).next() else {
            let message = "expected a name and a value, as in `loud 80%`";
            self.tell(Diagnostic::error(span(node), message));
            return None;
        };
        let (value, _) = self.single(&range, owner)?;
        let made = self.builder.carry(sending, name.text(), value);
        self.fits(made, node)
    }

    /// The light that a notice comes from, and the index of its lamp.
    fn sender(&mut self, path: &Node) -> Option<(String, u32)> {
        let (mut name, mut lamp) = (String::new(), 0);
        for token in tokens(path) {
            match token.kind() {
                SyntaxKind::Name | SyntaxKind::Dot => name.push_str(token.text()),
                SyntaxKind::Number => match token.text().parse() {
                    Ok(number) => lamp = number,
                    Err(_) => {
                        let message = "an index must be a whole number, counted from 0";
                        self.tell(Diagnostic::error(token_span(&token), message));
                        return None;
                    }
                },
                _ => {}
            }
        }
        Some((name, lamp))
    }

    /// Reports notices that come from unknown lights.
    pub(super) fn unmet_senders(&mut self) {
        for SourceLight { from, lamp, node, source } in std::mem::take(&mut self.senders) {
            self.source = source;
            let light = self.program().light_named(&from);
            let size = light.map(|id| self.program().light(id).size.shown());
            let whole = from.split('.').next().unwrap_or_default();
            let named = self.names.get(whole);
            let broken = named.is_some_and(|n| matches!(self.entries[*n].item, Item::Broken));
            let told = match size {
                // A light with an error was reported.
                None if broken => continue,
                None => {
                    let known: Vec<String> =
                        self.program().lights().map(|(_, light)| light.name.clone()).collect();
                    let told =
                        Diagnostic::error(span(&node), format!("there is no light `{from}`"));
                    match self.nearest(&from, known.iter().map(String::as_str)) {
                        Some(near) => told.help(format!("did you mean `{near}`?")),
                        None => told,
                    }
                }
                Some(size) if lamp >= size => {
                    let message = format!("`{from}` has index 0 to {}, found {lamp}", size - 1);
                    Diagnostic::error(span(&node), message)
                }
                Some(_) => continue,
            };
            self.tell(told);
        }
    }

    /// `event docks`, `event fault every 25s..70s`, `event gong after 4s from docks`
    fn event(&mut self, node: &Node, owner: &mut Owner) -> Option<Item> {
        let name = name_of(node)?;
        let full = owner.own(name.text());
        // Of the book it is the owner itself.
        owner.property(if full == name.text() { "" } else { name.text() });
        let made = match child_of(node, SyntaxKind::EventSource) {
            None => self.builder.define_event(&full),
            Some(source) => self.timed_event(&full, &source, owner)?,
        };
        // A duplicate name was reported when the names were gathered.
        if matches!(&made, Err(SemanticError::NameTaken(taken)) if *taken == full) {
            return None;
        }
        let told = child_of(node, SyntaxKind::EventSource).unwrap_or_else(|| node.clone());
        let id = self.fits(made, &told)?;
        self.note(Subject::Event(id), node);
        self.values_of(node, id)?;
        Some(Item::Event(id))
    }

    /// The parameters of an event.
    fn values_of(&mut self, node: &Node, id: EventId) -> Option<()> {
        let mut whole = true;
        for parameter in child_of(node, SyntaxKind::Parameters).iter().flat_map(Node::children) {
            whole &= self.value_of(&parameter, id).is_some();
        }
        whole.then_some(())
    }

    fn value_of(&mut self, parameter: &Node, id: EventId) -> Option<()> {
        let word = tokens(parameter).find(|token| token.kind() == SyntaxKind::Name)?;
        if self.program().event(id).source != EventSource::Game {
            let message = "only events fired by the game carry values";
            self.tell(Diagnostic::error(span(parameter), message));
            return None;
        }
        let mut owner = Owner::book("");
        let value = parameter.children().find(is_expression)?;
        let default = self.expression(&value, &mut owner)?;
        let range = match child_of(parameter, SyntaxKind::Range) {
            None => None,
            Some(range) => {
                let [(lo, _), (hi, _)] = self.ends(&range, &mut owner, false)?;
                Some([lo, hi])
            }
        };
        let made = self.builder.define_value(id, word.text(), default, range);
        let (input, given) = self.fits(made, parameter)?;
        self.note(Subject::Input(input), parameter);
        self.given.insert((id, word.text().to_owned()), given);
        Some(())
    }

    /// The latest value of an event's parameter: `rocket.place`
    pub(super) fn given(&mut self, id: EventId, name: &Token, value: &Token) -> Option<ExprId> {
        if let Some(kept) = self.captured(id, value) {
            return kept;
        }
        if let Some(given) = self.given.get(&(id, value.text().to_owned())) {
            return Some(*given);
        }
        let known = self.given.keys().filter(|(event, _)| *event == id);
        let mut known: Vec<String> = known.map(|(_, name)| name.clone()).collect();
        known.sort_unstable();
        let message = format!("`{}` has no value `{}`", name.text(), value.text());
        let told = Diagnostic::error(token_span(value), message);
        self.tell(match self.nearest(value.text(), known.iter().map(String::as_str)) {
            Some(near) => told.help(format!("did you mean `{near}`?")),
            None if known.is_empty() => told,
            None => told.help(format!("it has {}", known.join(", "))),
        });
        None
    }

    fn timed_event(
        &mut self,
        name: &str,
        source: &Node,
        owner: &mut Owner,
    ) -> Option<Result<EventId, SemanticError>> {
        let word = tokens(source).next()?;
        if let Some(node) = child_of(source, SyntaxKind::Condition) {
            let (condition, rearm) = self.condition(&node, owner)?;
            return Some(self.builder.define_when(name, condition, rearm));
        }
        if let ("at", Some(path)) = (word.text(), child_of(source, SyntaxKind::Path)) {
            return self.at_marks(name, source, &path, owner);
        }
        if word.text() == "at" {
            let token = tokens(source).find(|token| token.kind() == SyntaxKind::Hour)?;
            return match literal::hour(token.text()) {
                Ok((Constant::Scalar(hour), _)) => {
                    Some(self.builder.define_at_hour(name, Hours(hour)))
                }
                Ok(_) => None,
                Err(fault) => {
                    self.tell_literal(token_span(&token), fault);
                    None
                }
            };
        }
        let range = child_of(source, SyntaxKind::Range)?;
        let from = child_of(source, SyntaxKind::Path);
        let link = tokens(source).nth(1);
        if let Some(link) = link {
            let wanted = if word.text() == "every" { "since" } else { "from" };
            if link.text() != wanted {
                let message = format!("expected `{wanted}` after `{}`", word.text());
                self.tell(Diagnostic::error(token_span(&link), message));
                return None;
            }
        }
        if word.text() == "every" {
            let since = match from {
                Some(from) => Some(self.event_of(&from)?),
                None => None,
            };
            let [(shortest, _), (longest, _)] = self.ends(&range, owner, true)?;
            if let Some(one) = child_of(source, SyntaxKind::OneAtATime) {
                let (times, repeats) = ([shortest, longest], tokens(&one).count() > 4);
                let made = self.builder.define_one_at_a_time(name, owner, times, since, repeats);
                return Some(Ok(self.fits(made, &one)?));
            }
            return Some(self.builder.define_every(name, owner, [shortest, longest], since));
        }
        let (time, _) = self.single(&range, owner)?;
        let from = match from {
            Some(from) => Some(self.event_of(&from)?),
            None => None,
        };
        Some(self.builder.define_after(name, time, from))
    }

    /// The event of a path.
    pub(super) fn event_of(&mut self, path: &Node) -> Option<EventId> {
        let name = tokens(path).next()?;
        let Some(item) = self.item(name.text()) else {
            self.unknown(&name, false);
            return None;
        };
        match item {
            Item::Event(_) if tokens(path).count() > 1 => {
                let message = format!("`{}` has no parts", name.text());
                self.tell(Diagnostic::error(span(path), message));
                None
            }
            Item::Event(id) => Some(*id),
            Item::Broken => None,
            Item::Parts(parts) => {
                let parts = Rc::clone(parts);
                self.entered(&parts, path)
            }
            _ => {
                let message = format!("`{}` is not an event", name.text());
                self.tell(
                    Diagnostic::error(token_span(&name), message)
                        .help("declare one, as in `event ferry_docks`"),
                );
                None
            }
        }
    }

    /// The event after `at` among arguments.
    fn heard(&mut self, arguments: &mut Arguments, example: &str) -> Option<EventId> {
        let Some(range) = arguments.named("at") else {
            self.missing(arguments, &format!("an event, as in `{example}`"));
            return None;
        };
        match &expressions(&range)[..] {
            [path] if path.kind() == SyntaxKind::Path => self.event_of(path),
            _ => {
                let message = "expected the name of an event";
                self.tell(
                    Diagnostic::error(span(&range), message).help(format!("write `{example}`")),
                );
                None
            }
        }
    }

    /// `pulse(at docks, lasts 200ms)`
    pub(super) fn pulse(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        const EXAMPLE: &str = "pulse(at ferry_docks, lasts 200ms)";
        let event = self.heard(arguments, EXAMPLE)?;
        let Some(lasts) = arguments.named("lasts") else {
            self.missing(arguments, &format!("how long it lasts, as in `{EXAMPLE}`"));
            return None;
        };
        let (time, place) = self.single(&lasts, owner)?;
        let made = self.builder.pulse(event, time);
        self.fits(made, &place)
    }

    /// `play(opening, at docks, before 0%)`
    pub(super) fn play(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let event = self.heard(arguments, "play(opening, at ferry_docks, before 0%)")?;
        let before = match arguments.named("before") {
            Some(range) => Some(self.single(&range, owner)?.0),
            None => None,
        };
        let again = match arguments.named("again") {
            None => Replay::Restart,
            Some(range) => match range.text().to_string().trim() {
                "restart" => Replay::Restart,
                "finish" => Replay::Finish,
                "add" => Replay::Add,
                _ => {
                    let message = "expected `again restart`, `again finish` or `again add`";
                    self.tell(
                        Diagnostic::error(span(&range), message).help("write `again finish`"),
                    );
                    return None;
                }
            },
        };
        let title = self.builder.title_of(owner, "play");
        let (track, place) = self.played(arguments)?;
        match self.builder.played(&title, &track, (event, again), before) {
            Err(SemanticError::NothingBefore) => {
                let message = SemanticError::NothingBefore.to_string();
                self.tell(
                    Diagnostic::error(span(&place), message)
                        .help("add `before`, or end the curve at its first value"),
                );
                None
            }
            made => self.fits(made, &place),
        }
    }

    /// `switch power { starts on; off at cut over 60ms; on at back over 2s smooth }`
    fn switch(&mut self, node: &Node, owner: &Owner) -> Option<Item> {
        let name = name_of(node)?;
        let (mut starts, mut lines, mut whole) = (None, Vec::new(), true);
        for line in node.children().filter(|child| child.kind() == SyntaxKind::SwitchLine) {
            let mut words = tokens(&line);
            let Some(verb) = words.next() else { continue };
            if verb.text() == "starts" {
                if starts.is_some() {
                    let message = "duplicate `starts`";
                    self.tell(Diagnostic::error(span(&line), message));
                    whole = false;
                }
                starts = words.next().map(|word| word.text() == "on");
                continue;
            }
            let to = match verb.text() {
                "on" => Some(true),
                "off" => Some(false),
                "flip" => None,
                _ => continue,
            };
            let Some((over, easing)) = self.fade(child_of(&line, SyntaxKind::Over).as_ref()) else {
                whole = false;
                continue;
            };
            for path in line.children().filter(|child| child.kind() == SyntaxKind::Path) {
                let Some(at) = self.event_of(&path) else {
                    whole = false;
                    continue;
                };
                if lines.iter().any(|line: &Turned| line.at == at) {
                    let turned = self.program().event(at).name.clone();
                    let message = SemanticError::TurnedTwice(turned).to_string();
                    self.tell(Diagnostic::error(span(&path), message));
                    whole = false;
                    continue;
                }
                lines.push(Turned { at, to, over, easing });
            }
        }
        // A switch without a block was reported when the text was read.
        let block = tokens(node).any(|token| token.kind() == SyntaxKind::BraceOpen);
        if !whole || !block {
            return None;
        }
        if lines.is_empty() {
            let message = format!("nothing changes `{}`", name.text());
            self.tell(
                Diagnostic::error(token_span(&name), message)
                    .help("write `on at` or `off at` and the name of an event"),
            );
            return None;
        }
        let made =
            self.builder.define_switch(&owner.own(name.text()), starts.unwrap_or(false), &lines);
        let switch = self.fits(made, node)?;
        if let Some(signal) = switch.signal {
            self.note(Subject::Signal(signal), node);
        }
        Some(Item::Switch(switch))
    }

    /// The duration and easing of a change: `over 2s smooth`. Immediate if omitted.
    pub(super) fn fade(&mut self, node: Option<&Node>) -> Option<(Seconds, Easing)> {
        let Some(node) = node else { return Some((Seconds(0.0), Easing::Linear)) };
        let value = node.children().find(is_expression)?;
        let id = self.expression(&value, &mut Owner::book(""))?;
        let fits = self.builder.expect(id, ValueKind::Time);
        self.fits(fits, &value)?;
        let Some(Constant::Scalar(over)) = self.program().constant(id) else {
            let message = "the length of a transition must be constant";
            self.tell(Diagnostic::error(span(&value), message));
            return None;
        };
        if over != 0.0 && !(1e-3..=caltrin_core::program_builder::event::LONGEST).contains(&over) {
            let error = SemanticError::NoPeriod { what: "the time of a change", lo: over };
            self.tell(Diagnostic::error(span(&value), error.to_string()));
            return None;
        }
        if let Some(lean) = tokens(node).nth(1) {
            let message = "a transition starts when its event occurs";
            self.tell(Diagnostic::error(token_span(&lean), message).help("remove this"));
            return None;
        }
        let easing = match child_of(node, SyntaxKind::Easing) {
            Some(easing) => self.easing(&easing)?,
            None => Easing::Linear,
        };
        Some((Seconds(over), easing))
    }

    /// The state of a switch, for `power is on`.
    pub(super) fn switch_is_on(&mut self, compare: &Node) -> Option<ExprId> {
        let values = expressions(compare);
        let [path] = &values[..] else { return None };
        if path.kind() != SyntaxKind::Path || tokens(path).count() != 1 {
            return None;
        }
        let name = tokens(path).next()?;
        match self.item(name.text())? {
            Item::Switch(switch) => Some(switch.on),
            _ => None,
        }
    }
}
