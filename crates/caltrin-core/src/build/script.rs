//! Sequences in the builder: timed steps for channels of lights.

use super::book::Book;
use super::event::Event;
use super::kinds::Kind;
use super::lower::Lowering;
use super::{Node, Tree, Value, make};
use crate::curve::Easing;
use crate::program::{Channel, EventId, ExprId, Size};
use crate::program_builder::sequence::{Again, MOST_LAYERS, Sequence, SequenceStop, Timeline};
use crate::program_builder::{Owner, ProgramBuilder};
use crate::quantity::Seconds;
use crate::semantic_error::SemanticError;

/// Builds a sequence.
#[derive(Debug)]
pub struct Script {
    at: Vec<EventId>,
    again: Again,
    stops: Option<(Vec<EventId>, Seconds, Easing)>,
    leads: Vec<Lead>,
    marks: Vec<(String, Seconds)>,
}

/// A channel of a light that a sequence drives.
#[derive(Debug)]
struct Lead {
    light: String,
    channel: &'static str,
    stops: Vec<(Seconds, Node, Easing)>,
    returns: Option<(Seconds, Seconds, Easing)>,
}

impl Lead {
    /// The times at which a value is reached or the channel is released.
    fn moments(&self) -> impl Iterator<Item = f64> {
        let back = self.returns.iter().flat_map(|(at, over, _)| [at.0, at.0 + over.0]);
        self.stops.iter().map(|(at, ..)| at.0).chain(back)
    }
}

impl Script {
    /// Creates a sequence that these events start.
    pub fn at(events: &[Event]) -> Self {
        let at = events.iter().filter_map(|event| event.id()).collect();
        Script { at, again: Again::Ignore, stops: None, leads: Vec::new(), marks: Vec::new() }
    }

    /// An event restarts the sequence while it plays, from the current levels. Without this, the
    /// event is ignored.
    pub fn restarting(mut self) -> Self {
        self.again = Again::Restart;
        self
    }

    /// These events stop the sequence; it releases all channels over a time.
    pub fn stopped_at(mut self, events: &[Event], over: Seconds, easing: Easing) -> Self {
        let events = events.iter().filter_map(|event| event.id()).collect();
        self.stops = Some((events, over, easing));
        self
    }

    /// Drives a channel of a light to values at times since the sequence started. `returns` is the
    /// time at which the channel is released, the duration and the easing; without it, the sequence
    /// keeps the channel. [`base`] stands for the channel's own value.
    pub fn lead<K: Kind>(
        mut self,
        light: &str,
        channel: &'static str,
        stops: impl IntoIterator<Item = (Seconds, Value<K>, Easing)>,
        returns: Option<(Seconds, Seconds, Easing)>,
    ) -> Self {
        let stops = stops.into_iter().map(|(at, value, easing)| (at, value.node, easing));
        let stops = stops.collect();
        self.leads.push(Lead { light: light.to_owned(), channel, stops, returns });
        self
    }

    /// Adds a mark: an event at a time since the start of the sequence.
    pub fn mark(mut self, name: &str, at: Seconds) -> Self {
        self.marks.push((name.to_owned(), at));
        self
    }
}

/// A sequence of a book.
#[derive(Debug)]
pub(super) struct Scripted {
    name: String,
    sequence: Sequence,
    leads: Vec<Lead>,
}

/// The channel's own value, as a step of a sequence.
pub fn base<K: Kind>() -> Value<K> {
    make(Tree::Base)
}

impl Book {
    /// Adds a sequence and returns its marks in order. Call this before adding the lights that it
    /// drives.
    pub fn sequence(&mut self, name: &str, script: Script) -> Vec<Event> {
        let Script { at, again, stops, leads, marks } = script;
        let marked = marks.iter().map(|(_, at)| at.0);
        let mut moments: Vec<f64> = leads.iter().flat_map(Lead::moments).collect();
        let end = moments.iter().copied().chain(marked).fold(1e-3, f64::max);
        moments.sort_by(f64::total_cmp);
        moments.dedup();
        let keeps = leads.iter().any(|lead| lead.returns.is_none());
        let moments = moments.into_iter().map(Seconds).collect();
        let scene = Timeline { at, again, end: Seconds(end), keeps, moments, stops };
        let sequence = match self.builder.define_sequence(name, &scene) {
            Ok(sequence) => sequence,
            Err(error) => {
                self.refuse(&format!("sequence `{name}`"), error);
                return marks.iter().map(|_| Event::refused()).collect();
            }
        };
        let mut events = Vec::with_capacity(marks.len());
        for (mark, at) in marks {
            let made = self.builder.define_mark(&mark, &sequence, at);
            events.push(self.event_of(&mark, made));
        }
        self.scripts.push(Scripted { name: name.to_owned(), sequence, leads });
        events
    }

    /// Applies the sequences that drive a light's channels.
    pub(super) fn led(
        &mut self,
        light: &str,
        size: Size,
        driven: &mut [(Channel, Vec<ExprId>)],
    ) -> Result<(), (&'static str, SemanticError)> {
        for (channel, values) in driven {
            let of_channel = |script: &Scripted| {
                script.leads.iter().position(|l| l.light == light && l.channel == channel.name)
            };
            let found = self.scripts.iter();
            let all: Vec<(&Scripted, &Lead)> = found
                .filter_map(|script| Some((script, &script.leads[of_channel(script)?])))
                .collect();
            if all.is_empty() {
                continue;
            }
            let told = |error| (channel.name, error);
            if all.len() > MOST_LAYERS {
                return Err(told(SemanticError::TooManyLayers(MOST_LAYERS)));
            }
            let [value] = &mut values[..] else {
                return Err(told(SemanticError::LeadsOneValue(channel.name)));
            };
            *value = stacked(&mut self.builder, (light, size), &all, *value).map_err(told)?;
        }
        Ok(())
    }
}

/// Stacks sequences over a value; the one that started last is on top. For each of them, [`base`]
/// is the value under it.
fn stacked(
    builder: &mut ProgramBuilder,
    of: (&str, Size),
    all: &[(&Scripted, &Lead)],
    under: ExprId,
) -> Result<ExprId, SemanticError> {
    if all.is_empty() {
        return Ok(under);
    }
    let sequences: Vec<&Sequence> = all.iter().map(|(script, _)| &script.sequence).collect();
    let mut made: Option<ExprId> = None;
    // The last needs no asking: one of them is on top.
    for n in (0..all.len()).rev() {
        let others: Vec<(&Scripted, &Lead)> =
            all.iter().enumerate().filter(|(m, _)| *m != n).map(|(_, one)| *one).collect();
        let beneath = stacked(builder, of, &others, under)?;
        let over = laid_over(builder, of, all[n], beneath)?;
        made = Some(match made {
            None => over,
            Some(known) => {
                let last = builder.started_last(&sequences, n)?;
                builder.select(last, over, known)?
            }
        });
    }
    Ok(made.unwrap_or(under))
}

fn laid_over(
    builder: &mut ProgramBuilder,
    (light, size): (&str, Size),
    (script, lead): (&Scripted, &Lead),
    under: ExprId,
) -> Result<ExprId, SemanticError> {
    let mut owner = Owner::placed(&format!("{light}/{}", script.name), size, None, &[]);
    owner.property(lead.channel);
    let mut stops = Vec::with_capacity(lead.stops.len());
    for (at, value, easing) in &lead.stops {
        let mut lowering = Lowering::new(builder, &mut owner);
        lowering.property = lead.channel;
        lowering.base = Some(under);
        stops.push(SequenceStop { at: *at, value: lowering.lower(value)?, easing: *easing });
    }
    let channel = format!("{light}.{}", lead.channel);
    let layer = builder.define_layer(&script.sequence, &channel, stops, lead.returns)?;
    builder.over(&script.sequence, &layer, under)
}
