//! Sequences: channels of lights on one timeline.

use caltrin_core::curve::Easing;
use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{CHANNELS, Channel, Constant, ExprId, LightKind, Size, Subject};
use caltrin_core::program_builder::Owner;
use caltrin_core::program_builder::event::LONGEST;
use caltrin_core::program_builder::sequence::{
    Again, MOST_LAYERS, Sequence, SequenceStop, Timeline,
};
use caltrin_core::quantity::Seconds;
use caltrin_core::semantic_error::SemanticError;

use super::group::LightPath;
use super::{Around, Item, Resolver, child_of, name_of, span, token_span, tokens};
use crate::diagnostic::Diagnostic;
use crate::literal;
use crate::syntax::{Node, SyntaxKind, Token};
use crate::words;

/// A channel that a sequence drives.
#[derive(Clone, Debug)]
struct Held {
    path: LightPath,
    channel: Channel,
    /// The moves to each value.
    lines: Vec<Move>,
    returns: Option<(Seconds, Seconds, Easing)>,
    /// Whether its light was found.
    met: bool,
}

/// A move of a channel to a value.
#[derive(Clone, Debug)]
struct Move {
    /// Its start, if that is not the end of the previous move.
    from: Option<f64>,
    /// The time at which the value is reached.
    at: f64,
    node: Node,
}

/// The time of a step, in seconds from the start of the sequence.
#[derive(Clone, Copy)]
struct Moment {
    from: Option<f64>,
    at: f64,
}

/// A resolved sequence.
#[derive(Clone, Debug)]
pub(super) struct Sequenced {
    name: String,
    sequence: Sequence,
    held: Vec<Held>,
    source: usize,
}

/// The lines of a sequence, while they are read.
#[derive(Default)]
struct Script {
    held: Vec<Held>,
    marks: Vec<(f64, Node)>,
    end: f64,
    keeps: bool,
    /// Whether a line has an error that was reported.
    broken: bool,
}

/// The lamps whose channel is driven.
struct Lamps<'a> {
    light: &'a str,
    kind: Option<LightKind>,
    owner: &'a Owner,
    around: &'a Around,
    size: Option<Size>,
}

impl Script {
    /// The times of its steps, without duplicates.
    fn moments(&self) -> Vec<Seconds> {
        let lines = self.held.iter().flat_map(|held| {
            let back = held.returns.iter().flat_map(|(at, over, _)| [at.0, at.0 + over.0]);
            held.lines.iter().flat_map(|line| line.from.into_iter().chain([line.at])).chain(back)
        });
        let mut all: Vec<f64> = lines.collect();
        all.sort_by(f64::total_cmp);
        all.dedup();
        all.into_iter().map(Seconds).collect()
    }
}

impl Resolver {
    /// `sequence docking at ferry_docks { 2s gangway.intensity 400cd jump; 12s return over 1.5s }`
    pub(super) fn sequence(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        let mut scene = Timeline {
            at: Vec::new(),
            again: Again::Ignore,
            end: Seconds(0.0),
            keeps: false,
            moments: Vec::new(),
            stops: None,
        };
        let mut whole = true;
        for path in node.children().filter(|child| child.kind() == SyntaxKind::Path) {
            match self.event_of(&path) {
                Some(event) => scene.at.push(event),
                None => whole = false,
            }
        }
        let mut words = tokens(node).skip_while(|token| token.text() != "again");
        if let Some(again) = words.nth(1) {
            scene.again = match again.text() {
                "ignore" => Again::Ignore,
                "restart" => Again::Restart,
                other => {
                    let message = format!("a sequence cannot `{other}` when it starts again");
                    self.tell(
                        Diagnostic::error(token_span(&again), message)
                            .help("write `again ignore` or `again restart`"),
                    );
                    return None;
                }
            };
        }
        let (mut script, mut last) = (Script::default(), Moment { from: None, at: 0.0 });
        for child in node.children() {
            match child.kind() {
                SyntaxKind::Ends => {
                    let mut events = Vec::new();
                    for path in child.children().filter(|c| c.kind() == SyntaxKind::Path) {
                        events.push(self.event_of(&path)?);
                    }
                    let (over, easing) = self.fade(child_of(&child, SyntaxKind::Over).as_ref())?;
                    if scene.stops.replace((events, over, easing)).is_some() {
                        let message = "duplicate `stops`";
                        self.tell(Diagnostic::error(span(&child), message));
                        whole = false;
                    }
                }
                SyntaxKind::SequenceStep => {
                    let Some(moment) = self.step_moment(&child, last) else {
                        script.broken = true;
                        continue;
                    };
                    last = moment;
                    for line in child.children().filter(|c| c.kind() == SyntaxKind::SequenceLine) {
                        script.broken |= self.sequence_line(&line, last, &mut script).is_none();
                    }
                }
                _ => {}
            }
        }
        if !whole || script.broken {
            return None;
        }
        if script.held.is_empty() && script.marks.is_empty() {
            let message = format!("`{}` has no steps", name.text());
            self.tell(
                Diagnostic::error(token_span(&name), message)
                    .help("add a step, as in `2s gangway.intensity 400cd smooth`"),
            );
            return None;
        }
        let open = script.held.iter().find(|held| held.returns.is_none());
        if let Some(held) = open.filter(|_| !script.keeps) {
            let message = format!("`{}` has no end", held.path.text());
            self.tell(
                Diagnostic::error(token_span(&name), message)
                    .help("end the sequence with `return over 2s`, or with `keep`"),
            );
            return None;
        }
        scene.end = Seconds(script.end.max(1e-3));
        scene.keeps = open.is_some();
        scene.moments = script.moments();
        let made = self.builder.define_sequence(name.text(), &scene);
        let sequence = self.fits(made, node)?;
        let how_far = format!("{}.at", name.text());
        let at = self.program().signals().find(|(_, signal)| signal.name == how_far);
        if let Some((id, _)) = at {
            self.note(Subject::Signal(id), node);
        }
        for (at, mark) in &script.marks {
            let Some(name) = name_of(mark) else { continue };
            let made = self.builder.define_mark(name.text(), &sequence, Seconds(*at));
            let event = self.fits(made, mark)?;
            self.note(Subject::Event(event), mark);
            self.marks.insert(name.text().to_owned(), event);
        }
        let (name, source) = (name.text().to_owned(), self.source);
        self.sequences.push(Sequenced { name, sequence, held: script.held, source });
        Some(Item::Sequence)
    }

    /// The time of a step. Steps are in the order of their starts; `+` counts from the end of the previous step.
    fn step_moment(&mut self, step: &Node, before: Moment) -> Option<Moment> {
        let sign = tokens(step).next().filter(|token| token.kind() != SyntaxKind::Number);
        if let Some(sign) = sign.as_ref().filter(|sign| sign.text() == "-") {
            let message = "steps must be in order";
            self.tell(Diagnostic::error(token_span(sign), message));
            return None;
        }
        let mut moments = Vec::with_capacity(2);
        let numbers = tokens(step).take_while(|token| {
            matches!(token.kind(), SyntaxKind::Number | SyntaxKind::Plus | SyntaxKind::DotDot)
        });
        let numbers: Vec<Token> = numbers.filter(|t| t.kind() == SyntaxKind::Number).collect();
        for token in &numbers {
            let time = self.step_time(token)?;
            moments.push(if sign.is_some() { before.at + time } else { time });
        }
        let (first, at) = (*moments.first()?, *moments.last()?);
        let start = before.from.unwrap_or(before.at);
        if first < start {
            let message =
                format!("this step is earlier than the previous one, which is at {start} s");
            self.tell(Diagnostic::error(token_span(numbers.first()?), message));
            return None;
        }
        if moments.len() == 2 && at <= first {
            let message = "a move must end after it starts";
            self.tell(Diagnostic::error(token_span(numbers.last()?), message));
            return None;
        }
        Some(Moment { from: (moments.len() == 2).then_some(first), at })
    }

    /// A time of a step.
    fn step_time(&mut self, token: &Token) -> Option<f64> {
        match literal::number(token.text()) {
            Ok((Constant::Scalar(v), ValueKind::Time)) if (0.0..=LONGEST).contains(&v) => Some(v),
            Ok(_) => {
                let message = "a step of a sequence must be a constant time from its start";
                self.tell(
                    Diagnostic::error(token_span(token), message)
                        .help("write `2s`, or `+2s` for 2s after the previous step"),
                );
                None
            }
            Err(fault) => {
                self.tell_literal(token_span(token), fault);
                None
            }
        }
    }

    fn sequence_line(&mut self, line: &Node, moment: Moment, script: &mut Script) -> Option<()> {
        let at = moment.at;
        script.end = script.end.max(at);
        let path = child_of(line, SyntaxKind::LightPath);
        let word = tokens(line).next();
        let Some(word) = word.filter(|word| word.kind() == SyntaxKind::Name) else {
            return self.held_line(&path?, line, moment, script);
        };
        if let Some(from) = moment.from {
            let message = "only a channel moves over a time";
            let help = format!("write one moment, as in `{from}s {}`", word.text());
            self.tell(Diagnostic::error(token_span(&word), message).help(help));
            return None;
        }
        match word.text() {
            "mark" => script.marks.push((at, line.clone())),
            "keep" => script.keeps = true,
            _ => {
                let (over, easing) = self.fade(child_of(line, SyntaxKind::Over).as_ref())?;
                script.end = script.end.max(at + over.0);
                let paths = line.children().filter(|c| c.kind() == SyntaxKind::LightPath);
                let mut given_back = 0;
                let mut named = Vec::new();
                for path in paths {
                    named.push(self.light_path(&path)?);
                }
                for held in script.held.iter_mut().filter(|held| held.returns.is_none()) {
                    let own = format!("{}.{}", held.path.text(), held.channel.name);
                    let meant = |path: &LightPath| {
                        let text = path.text();
                        own == text || own.starts_with(&format!("{text}."))
                    };
                    if named.is_empty() || named.iter().any(meant) {
                        held.returns = Some((Seconds(at), over, easing));
                        given_back += 1;
                    }
                }
                if given_back == 0 && !script.broken {
                    let message = "nothing is held here that could be returned";
                    self.tell(Diagnostic::error(span(line), message));
                    return None;
                }
            }
        }
        Some(())
    }

    /// `gangway.intensity 400cd smooth`
    fn held_line(
        &mut self,
        path: &Node,
        line: &Node,
        Moment { from, at }: Moment,
        script: &mut Script,
    ) -> Option<()> {
        let mut path = self.light_path(path)?;
        let word = path.names.pop()?;
        if path.names.is_empty() {
            let message = format!("choose a channel of `{}`", word.text());
            self.tell(
                Diagnostic::error(token_span(&word), message)
                    .help(format!("as in `{}.intensity 400cd`", word.text())),
            );
            return None;
        }
        self.names_light(&path, false)?;
        let Some(channel) =
            CHANNELS.iter().find(|channel| channel.name == words::spelled(word.text()))
        else {
            let message = format!("a light has no `{}`", word.text());
            let told = Diagnostic::error(token_span(&word), message);
            let near = self.nearest(word.text(), CHANNELS.iter().map(|channel| channel.name));
            self.tell(match near {
                Some(near) => told.help(format!("did you mean `{near}`?")),
                None => told,
            });
            return None;
        };
        let known = script.held.iter_mut().find(|held| {
            let same = held.path.text() == path.text() && held.path.index == path.index;
            same && held.channel == *channel
        });
        match known {
            Some(held) if held.returns.is_some() => {
                let message = "this was already returned";
                self.tell(Diagnostic::error(span(line), message));
                return None;
            }
            Some(held) if held.lines.iter().any(|other| other.at == at) => {
                let message = format!("two values for one channel at {at} s");
                self.tell(Diagnostic::error(span(line), message));
                return None;
            }
            Some(held) if held.lines.iter().any(|other| other.at > from.unwrap_or(at)) => {
                let last = held.lines.iter().map(|other| other.at).fold(0.0, f64::max);
                let message = format!("the move before this one ends at {last} s");
                self.tell(Diagnostic::error(span(line), message));
                return None;
            }
            Some(held) => held.lines.push(Move { from, at, node: line.clone() }),
            None => script.held.push(Held {
                path,
                channel: *channel,
                lines: vec![Move { from, at, node: line.clone() }],
                returns: None,
                met: false,
            }),
        }
        Some(())
    }

    /// Blends sequences over the channels of a light.
    pub(super) fn sequenced(
        &mut self,
        light: &str,
        kind: Option<LightKind>,
        owner: &Owner,
        (around, size): (&Around, Option<Size>),
        driven: &mut [(Channel, Vec<ExprId>)],
    ) -> Option<()> {
        let mut order: Vec<usize> = (0..self.sequences.len()).collect();
        let place = |of: &Sequenced| self.names.get(&of.name).copied().unwrap_or(usize::MAX);
        order.sort_by_key(|n| place(&self.sequences[*n]));
        let mut whole = true;
        // Each channel with the sequences that drive it.
        let mut held: Vec<(usize, Vec<(usize, usize)>)> = Vec::new();
        for n in order {
            for m in 0..self.sequences[n].held.len() {
                let one = &mut self.sequences[n].held[m];
                if !one.path.holds(light) {
                    continue;
                }
                one.met = true;
                let channel = one.channel;
                let Some(at) = driven.iter().position(|(known, _)| known.name == channel.name)
                else {
                    let inner = one.path.names.len() < light.split('.').count();
                    // In an instance only the lights that have the channel are meant.
                    if !inner {
                        let (path, source) = (one.path.node.clone(), self.sequences[n].source);
                        let message = format!("`{light}` does not set its {}", channel.name);
                        let here = std::mem::replace(&mut self.source, source);
                        self.tell(
                            Diagnostic::error(span(&path), message)
                                .help("a sequence can only change a channel that the light drives"),
                        );
                        self.source = here;
                        whole = false;
                    }
                    continue;
                };
                match held.iter_mut().find(|(known, _)| *known == at) {
                    Some((_, all)) => all.push((n, m)),
                    None => held.push((at, vec![(n, m)])),
                }
            }
        }
        for (at, all) in held {
            whole &= self
                .held_channel((light, kind), owner, (around, size), &mut driven[at], &all)
                .is_some();
        }
        whole.then_some(())
    }

    fn held_channel(
        &mut self,
        (light, kind): (&str, Option<LightKind>),
        owner: &Owner,
        (around, size): (&Around, Option<Size>),
        (_, values): &mut (Channel, Vec<ExprId>),
        all: &[(usize, usize)],
    ) -> Option<()> {
        let place = self.sequences[all[0].0].held[all[0].1].path.node.clone();
        if all.len() > MOST_LAYERS {
            let message = SemanticError::TooManyLayers(MOST_LAYERS).to_string();
            self.tell(Diagnostic::error(span(&place), message));
            return None;
        }
        let lamps = Lamps { light, kind, owner, around, size };
        let made = self.stacked(&lamps, all, values.clone())?;
        *values = made;
        Some(())
    }

    /// Blends sequences over a channel; the one that started last is on top. `base` is what lies beneath each.
    fn stacked(
        &mut self,
        lamps: &Lamps<'_>,
        all: &[(usize, usize)],
        base: Vec<ExprId>,
    ) -> Option<Vec<ExprId>> {
        if all.is_empty() {
            return Some(base);
        }
        let of: Vec<Sequence> =
            all.iter().map(|(n, _)| self.sequences[*n].sequence.clone()).collect();
        let of: Vec<&Sequence> = of.iter().collect();
        let mut made: Option<Vec<ExprId>> = None;
        // The last needs no condition: one of them is on top.
        for (n, one) in all.iter().enumerate().rev() {
            let others: Vec<(usize, usize)> =
                all.iter().enumerate().filter(|(m, _)| *m != n).map(|(_, one)| *one).collect();
            let under = self.stacked(lamps, &others, base.clone())?;
            let over = self.laid_over(lamps, *one, under)?;
            made = Some(match made {
                None => over,
                Some(known) => {
                    let last = self.builder.started_last(&of, n).ok()?;
                    let mut chosen = Vec::with_capacity(over.len());
                    for (over, known) in over.into_iter().zip(known) {
                        chosen.push(self.builder.select(last, over, known).ok()?);
                    }
                    chosen
                }
            });
        }
        made
    }

    /// Blends one sequence over a channel.
    fn laid_over(
        &mut self,
        lamps: &Lamps<'_>,
        (n, m): (usize, usize),
        under: Vec<ExprId>,
    ) -> Option<Vec<ExprId>> {
        let Sequenced { name, sequence, source, .. } = self.sequences[n].clone();
        let held = self.sequences[n].held[m].clone();
        let (around, size) = (lamps.around, lamps.size);
        let here = std::mem::replace(&mut self.source, source);
        let kept = std::mem::take(&mut self.locals);
        self.locals.insert("base".to_owned(), Item::value(under.last().copied()));
        let path = format!("{}/{name}", lamps.light);
        let mut own = Owner::placed(&path, size.unwrap_or(Size::One), None, &around.instances);
        let made = self.held_stops(&held, lamps, &under, &mut own);
        let of = self.which(&held.path, lamps.owner, (around, size));
        self.locals = kept;
        self.source = here;
        let (made, of) = (made?, of?);
        let channel = format!("{}.{}", lamps.light, held.channel.name);
        let wide = made.len() > 1;
        let mut values = Vec::with_capacity(made.len());
        for (n, (stops, under)) in made.into_iter().zip(under).enumerate() {
            let name = match (wide, n) {
                (false, _) => channel.clone(),
                (true, 0) => format!("{channel}.inner"),
                (true, _) => format!("{channel}.outer"),
            };
            let layer = self.builder.define_layer(&sequence, &name, stops, held.returns);
            let layer = self.fits(layer, &held.path.node)?;
            let over = self.builder.over(&sequence, &layer, under);
            let mut value = self.fits(over, &held.path.node)?;
            if let Some(of) = of {
                let chosen = self.builder.select(of, value, under);
                value = self.fits(chosen, &held.path.node)?;
            }
            values.push(value);
        }
        Some(values)
    }

    /// The stops of each field of a channel.
    fn held_stops(
        &mut self,
        held: &Held,
        lamps: &Lamps<'_>,
        under: &[ExprId],
        owner: &mut Owner,
    ) -> Option<Vec<Vec<SequenceStop>>> {
        let width = under.len();
        let mut fields = vec![Vec::new(); width];
        for Move { from, at, node: line } in &held.lines {
            owner.property(held.channel.name);
            let ranges: Vec<Node> =
                line.children().filter(|c| c.kind() == SyntaxKind::Range).collect();
            let made = self.channel_range(&held.channel, &ranges, owner)?;
            if made.len() != width {
                let message = match width {
                    1 => format!("the light sets one value for its {}", held.channel.name),
                    _ => format!("the light sets two values for its {}", held.channel.name),
                };
                self.tell(Diagnostic::error(span(line), message));
                return None;
            }
            let easing = match child_of(line, SyntaxKind::Easing) {
                Some(easing) => self.easing(&easing)?,
                None => Easing::Linear,
            };
            let skipped = held.channel.fields.len() - width;
            let named = held.channel.fields.iter().skip(skipped);
            for (((field, (value, place)), stops), under) in
                named.zip(made).zip(&mut fields).zip(under)
            {
                if let Some(kind) = lamps.kind {
                    let fits = self.builder.expect_field(kind, *field, value);
                    self.fits(fits, &place)?;
                }
                let (own, here) = (self.builder.kind(*under), self.builder.kind(value));
                if own != here {
                    let channel = format!("{}.{}", lamps.light, held.channel.name);
                    let message = format!("the light's own `{channel}` is {own}, this is {here}");
                    let told = Diagnostic::error(span(&place), message);
                    self.tell(told.help("both need the same kind for the transition between them"));
                    return None;
                }
                // A move with its own start begins at the value at that time.
                if let Some(from) = from {
                    let before = stops.last().map_or(*under, |stop: &SequenceStop| stop.value);
                    let at = Seconds(*from);
                    stops.push(SequenceStop { at, value: before, easing: Easing::Jump });
                }
                stops.push(SequenceStop { at: Seconds(*at), value, easing });
            }
        }
        Some(fields)
    }

    /// The event of a mark.
    pub(super) fn mark(&mut self, node: &Node) -> Option<Item> {
        let name = name_of(node)?;
        self.marks.get(name.text()).map(|event| Item::Event(*event))
    }

    /// Reports unknown channels of sequences.
    pub(super) fn unmet_channels(&mut self) {
        for sequence in std::mem::take(&mut self.sequences) {
            self.source = sequence.source;
            for held in sequence.held.iter().filter(|held| !held.met) {
                let broken = self
                    .names
                    .get(held.path.names[0].text())
                    .is_some_and(|n| matches!(self.entries[*n].item, Item::Broken));
                if !broken {
                    let message = format!("there is no light `{}`", held.path.text());
                    self.tell(Diagnostic::error(span(&held.path.node), message));
                }
            }
        }
    }
}
