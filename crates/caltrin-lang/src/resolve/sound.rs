//! Sounds, and what follows them.

use std::sync::Arc;

use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{Constant, EventId, ExprId, Op, SoundId, Subject};
use caltrin_core::program_builder::Owner;
use caltrin_core::program_builder::sound::{Asked, Played};
use caltrin_core::quantity::Seconds;
use caltrin_core::semantic_error::SemanticError;
use caltrin_core::sound::{Band, FREQUENCIES, Marks, Measure};

use super::call::Arguments;
use super::{Item, Resolver, SoundLoader, expressions, is_expression, name_of, span, token_of};
use super::{token_span, tokens};
use crate::diagnostic::Diagnostic;
use crate::literal;
use crate::syntax::{Node, SyntaxKind, Token};

/// Default attack and release.
const USUAL: [f64; 2] = [0.015, 0.25];

impl Resolver {
    /// Analyzes each sound of the book once, in all bands that are followed.
    pub(super) fn hear_all(&mut self, ears: SoundLoader<'_>) {
        for n in 0..self.entries.len() {
            let node = self.entries[n].node.clone();
            if node.kind() != SyntaxKind::SoundDecl {
                continue;
            }
            let (Some(name), Some(file)) = (name_of(&node), token_of(&node, SyntaxKind::Text))
            else {
                continue;
            };
            let bands = self.bands_of(name.text());
            let file = file.text().trim_matches('"');
            let heard = ears(file, &bands);
            self.sounds.push(file.to_owned());
            self.hearings.insert(name.text().to_owned(), heard);
        }
    }

    /// The custom bands in which a sound is followed.
    fn bands_of(&self, sound: &str) -> Vec<Band> {
        let mut found: Vec<Band> = Vec::new();
        let nodes = self.entries.iter().flat_map(|entry| entry.node.descendants());
        for call in nodes.filter(|node| node.kind() == SyntaxKind::Call) {
            let is_it = tokens(&call).next().is_some_and(|word| word.text() == "follow");
            let Some(mut arguments) = Arguments::of(&call).filter(|_| is_it) else { continue };
            let first = arguments.plain().map(|first| first.text().to_string());
            let range = arguments.named("band").map(|range| expressions(&range));
            if first.is_none_or(|first| first.trim() != sound) {
                continue;
            }
            if let Some([lo, hi]) = range.as_deref()
                && let (Some(lo), Some(hi)) = (frequency(lo), frequency(hi))
                && !found.contains(&Band::Own(lo, hi))
            {
                found.push(Band::Own(lo, hi));
            }
        }
        found
    }

    /// `sound horn = "sounds/horn.wav" { starts at docks }`, `sound crowd = live`
    pub(super) fn sound(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let mut lines =
            node.children().filter(|child| child.kind() == SyntaxKind::SoundLine).peekable();
        let Some(file) = token_of(node, SyntaxKind::Text) else {
            tokens(node).find(|token| token.text() == "live")?;
            if let Some(line) = lines.peek() {
                let message = "a live sound has no settings; the game plays it";
                self.tell(Diagnostic::error(span(line), message));
                return None;
            }
            let made = self.builder.define_live(name.text());
            let id = self.fits(made, node)?;
            self.note(Subject::Sound(id), node);
            return Some(Item::Sound(id));
        };
        let hearing = match self.hearings.get(name.text()) {
            Some(Ok(hearing)) => Arc::clone(hearing),
            Some(Err(why)) => {
                let told = Diagnostic::error(token_span(&file), why.clone());
                self.tell(told);
                return None;
            }
            None => return None,
        };
        let mut played = Played::default();
        let (mut round, mut whole) = (None, true);
        for line in lines {
            let Some(verb) = tokens(&line).next() else { continue };
            let mut paths: Vec<Node> =
                line.children().filter(|c| c.kind() == SyntaxKind::Path).collect();
            let value = match verb.text() {
                "speed" | "position" => {
                    let value = line.children().find(is_expression);
                    if let Some(value) = &value {
                        paths.retain(|path| path != value);
                    }
                    value
                }
                _ => None,
            };
            let said = paths.len();
            let events: Vec<EventId> =
                paths.iter().filter_map(|path| self.event_of(path)).collect();
            whole &= events.len() == said;
            let mut owner = Owner::book(name.text());
            let value = match value {
                Some(value) => match self.expression(&value, &mut owner) {
                    Some(made) => Some(made),
                    None => {
                        whole = false;
                        continue;
                    }
                },
                None => None,
            };
            let again = match verb.text() {
                "starts" => {
                    played.starts.extend(events);
                    false
                }
                "stops" => {
                    played.stops.extend(events);
                    false
                }
                "speed" => std::mem::replace(&mut played.speed, value).is_some(),
                "position" => {
                    played.set.extend(events.into_iter().zip(value));
                    false
                }
                word => round.replace(word == "loops").is_some(),
            };
            if again {
                self.tell(Diagnostic::error(span(&line), "duplicate line"));
                whole = false;
            }
        }
        if !whole {
            return None;
        }
        // A sound without a start plays during the whole run.
        played.loops = round.unwrap_or(played.starts.is_empty());
        let file = file.text().trim_matches('"').to_owned();
        let made = self.builder.define_sound(name.text(), &file, hearing, &played);
        let id = self.fits(made, node)?;
        self.note(Subject::Sound(id), node);
        // Its position is computed in the same way in exported code.
        let program = self.program();
        let place = match program.expr(program.sound(id).place).op {
            Op::Looped(_, _, at, _) => at,
            _ => program.sound(id).place,
        };
        if let Op::Signal(signal) = program.expr(place).op {
            self.note(Subject::Signal(signal), node);
        }
        Some(Item::Sound(id))
    }

    /// The sound that a call's first argument names, if it names one.
    pub(super) fn sound_first(&mut self, arguments: &mut Arguments) -> Option<(SoundId, Token)> {
        let first = arguments.left.iter().position(|argument| argument.word.is_none())?;
        let values = expressions(&arguments.left[first].range);
        let [path] = &values[..] else { return None };
        let mut words = tokens(path);
        let (name, None) = (words.next()?, words.next()) else { return None };
        match (path.kind(), self.item(name.text())) {
            (SyntaxKind::Path, Some(Item::Sound(id))) => {
                let id = *id;
                arguments.left.remove(first);
                Some((id, name))
            }
            _ => None,
        }
    }

    /// `follow(horn, band low, attack 15ms, release 280ms, full 40%, gate 5%, delay 20ms)`
    pub(super) fn follow_sound(
        &mut self,
        sound: SoundId,
        name: &Token,
        arguments: &mut Arguments,
        owner: &mut Owner,
    ) -> Option<ExprId> {
        let place = self.builder.use_of(owner, &format!("{}.follow", name.text()));
        let measure = self.measure(arguments)?;
        let mut known = |this: &mut Self, word: &str, kind| match arguments.named(word) {
            Some(range) => this.known_of_sound(&range, word, kind, owner).map(Some),
            None => Some(None),
        };
        let attack = known(self, "attack", ValueKind::Time)?;
        let release = known(self, "release", ValueKind::Time)?;
        let full = known(self, "full", ValueKind::Number)?;
        let gate = known(self, "gate", ValueKind::Number)?;
        let delay = known(self, "delay", ValueKind::Time)?;
        let asked = Asked {
            measure,
            full,
            gate: gate.unwrap_or(0.0),
            attack: Seconds(attack.unwrap_or(USUAL[0])),
            release: Seconds(release.unwrap_or(USUAL[1])),
            delay: Seconds(delay.unwrap_or(0.0)),
        };
        let made = self.builder.heard(&place, sound, asked);
        self.fits(made, &arguments.node.clone())
    }

    /// A constant.
    fn known_of_sound(
        &mut self,
        range: &Node,
        word: &str,
        kind: ValueKind,
        owner: &mut Owner,
    ) -> Option<f64> {
        let (made, place) = self.single(range, owner)?;
        let fits = self.builder.expect(made, kind);
        self.fits(fits, &place)?;
        match self.program().constant(made) {
            Some(Constant::Scalar(v)) => Some(v),
            _ => {
                let message = format!("`{word}` of a sound must be constant");
                let help = "multiply the result of `follow` with a value of the game instead";
                self.tell(Diagnostic::error(span(&place), message).help(help));
                None
            }
        }
    }

    /// The measure that is followed; the level by default.
    fn measure(&mut self, arguments: &mut Arguments) -> Option<Measure> {
        let (band, measure) = (arguments.named("band"), arguments.named("measure"));
        if let (Some(_), Some(measure)) = (&band, &measure) {
            let message = "a band has only a level; remove `measure` or `band`";
            self.tell(Diagnostic::error(span(measure), message));
            return None;
        }
        if let Some(range) = measure {
            let word = range.text().to_string();
            let names = ["level", "peak", "onset"];
            return match word.trim() {
                "level" => Some(Measure::Level),
                "peak" => Some(Measure::Peak),
                "onset" => Some(Measure::Onsets),
                other => {
                    let message = format!("a sound has no measure `{other}`");
                    let told = Diagnostic::error(span(&range), message);
                    self.tell(match self.nearest(other, names) {
                        Some(near) => told.help(format!("did you mean `{near}`?")),
                        None => told.help("it has level, peak and onset"),
                    });
                    None
                }
            };
        }
        let Some(range) = band else { return Some(Measure::Level) };
        let values = expressions(&range);
        if let [lo, hi] = &values[..] {
            let (Some(from), Some(to)) = (frequency(lo), frequency(hi)) else {
                let message = "the edges of a band must be constant frequencies";
                let told = Diagnostic::error(span(&range), message);
                self.tell(told.help("write `band 80Hz..250Hz`"));
                return None;
            };
            let [least, most] = FREQUENCIES;
            if from >= to || from < least || to > most {
                let message =
                    format!("the edges of a band must rise and be within {least}Hz..{most}Hz");
                self.tell(Diagnostic::error(span(&range), message));
                return None;
            }
            return Some(Measure::Band(Band::Own(from, to)));
        }
        let text = range.text().to_string();
        let word = text.trim();
        if let Some((_, band)) = Band::NAMED.iter().find(|(name, _)| *name == word) {
            return Some(Measure::Band(*band));
        }
        let told = Diagnostic::error(span(&range), format!("there is no band `{word}`"));
        self.tell(match self.nearest(word, Band::NAMED.map(|(name, _)| name)) {
            Some(near) => told.help(format!("did you mean `{near}`?")),
            None => told.help("write `low`, `mid`, `high`, or edges, as in `band 80Hz..250Hz`"),
        });
        None
    }

    /// Reports that an event or mode cannot be followed.
    fn needs_no_name<T>(&mut self, path: &Node) -> Option<T> {
        let known = path.text().to_string();
        let known = known.trim();
        let message = format!("`{known}` is already an event");
        let help = format!("use it directly, as in `pulse(at {known}, lasts 1s)`");
        self.tell(Diagnostic::error(span(path), message).help(help));
        None
    }

    /// `event thump at horn.onset above 40%`
    pub(super) fn at_marks(
        &mut self,
        name: &str,
        source: &Node,
        path: &Node,
        owner: &mut Owner,
    ) -> Option<Result<EventId, SemanticError>> {
        let words: Vec<Token> =
            tokens(path).filter(|token| token.kind() == SyntaxKind::Name).collect();
        let sound = words.first()?;
        let id = match self.item(sound.text()) {
            Some(Item::Sound(id)) => *id,
            Some(Item::Broken) => return None,
            Some(Item::Event(_)) if words.len() == 1 => return self.needs_no_name(path),
            Some(Item::Parts(parts)) if parts.what == "modes" => return self.needs_no_name(path),
            Some(Item::Parts(parts)) if parts.sky.is_some() => {
                let (what, word) = (sound.text(), words.get(1).map_or("", Token::text));
                let way = if matches!(word, "set" | "dusk") { "below" } else { "above" };
                let message = format!("`at` needs a constant hour, not `{what}.{word}`");
                let help =
                    format!("use a condition: `event {name} when {what}.height {way} -0.8deg`");
                self.tell(Diagnostic::error(span(path), message).help(help));
                return None;
            }
            Some(_) => {
                let message = format!("`{}` is not a sound", sound.text());
                let help = "expected an hour, as in `at 17:30`, or a mark of a sound, as in `at horn.onset`";
                self.tell(Diagnostic::error(token_span(sound), message).help(help));
                return None;
            }
            None => {
                self.unknown(sound, false);
                return None;
            }
        };
        let names = Marks::NAMED.map(|(name, _)| name);
        let which = words.get(1).map_or("", Token::text);
        let Some((_, which)) =
            Marks::NAMED.iter().find(|(name, _)| *name == which && words.len() == 2)
        else {
            let told = Diagnostic::error(
                span(path),
                format!("`{}` has onset, beat and note", sound.text()),
            );
            self.tell(match self.nearest(which, names) {
                Some(near) => told.help(format!("did you mean `{near}`?")),
                None => told.help(format!("write `{}.onset`", sound.text())),
            });
            return None;
        };
        let mut limits = [None, None];
        for limit in source.children().filter(|child| child.kind() == SyntaxKind::MarkBound) {
            let (word, value) = (tokens(&limit).next()?, limit.children().find(is_expression)?);
            let place = usize::from(word.text() == "below");
            let made = self.expression(&value, owner)?;
            let fits = self.builder.expect(made, ValueKind::Number);
            self.fits(fits, &value)?;
            match self.program().constant(made) {
                Some(Constant::Scalar(v)) if limits[place].is_none() => limits[place] = Some(v),
                _ => {
                    let message = format!("expected one constant number after `{}`", word.text());
                    self.tell(Diagnostic::error(span(&limit), message));
                    return None;
                }
            }
        }
        let marks = *which;
        let made = self.builder.define_at_marks(name, id, marks, limits);
        let (happens, at) = (made.is_ok(), self.hearings.get(sound.text()));
        let none = at.and_then(|at| at.as_ref().ok()).is_some_and(|at| at.marks(marks).is_empty());
        if happens && none {
            let what = words.get(1).map_or("", Token::text);
            let message = format!("`{}` has no {what}s", sound.text());
            let help = match marks {
                Marks::Onsets => {
                    "it has no clear onsets; try a threshold, as in `when blare above 60%`"
                }
                Marks::Beats | Marks::SourceNotes => {
                    "a MIDI file has beats and notes; other sounds have onsets"
                }
            };
            self.tell(Diagnostic::error(span(path), message).help(help));
            return None;
        }
        Some(made)
    }
}

/// A frequency that is written as a number.
fn frequency(node: &Node) -> Option<f64> {
    let text = node.text().to_string();
    match literal::number(text.trim()) {
        Ok((Constant::Scalar(v), ValueKind::Rate)) => Some(v),
        _ => None,
    }
}
