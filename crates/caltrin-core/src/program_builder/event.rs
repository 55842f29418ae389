//! Events, pulses, curves that play once, and switches. Their state is stored in internal inputs of
//! the run; all other values are computed from that state with ordinary operations.

use super::{Array, MOST_SLOTS, Owner, ProgramBuilder, Track};
use crate::curve::{Easing, StepPosition};
use crate::interval::Interval;
use crate::kernel::LAST_MOMENT;
use crate::kind::{ChangeRate, InstanceLevel, Kind};
use crate::program::{
    Constant, Event, EventId, EventOwner, EventSource, ExprId, Input, InputId, MOST_VALUES, NEVER,
    NamedState, Op, SignalId, Size, Subject, Write,
};
use crate::quantity::Seconds;
use crate::semantic_error::SemanticError;

/// Later than the time that stands for never, and earlier than all others.
pub(super) const BEFORE_ALL: f64 = -1.5 * LAST_MOMENT;

/// Longest delay between an event and another that follows it, in seconds.
pub const LONGEST: f64 = 1e6;

/// Maximum number of events in a book.
pub const MOST_EVENTS: usize = 1000;

/// Description of an event parameter, for messages.
const GIVEN: &str = "its latest value";

/// A rule of a switch: its event, the new state, and the fade.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Turned {
    /// The event.
    pub at: EventId,
    /// On, off, or toggle.
    pub to: Option<bool>,
    /// Duration of the fade.
    pub over: Seconds,
    /// Easing of the fade.
    pub easing: Easing,
}

/// Policy of a curve for events that occur while it plays.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Replay {
    /// The curve restarts.
    #[default]
    Restart,
    /// The event is ignored.
    Finish,
    /// The last [`MOST_PLAYS`] plays overlap, and their changes are summed.
    Add,
}

/// Maximum number of overlapping plays of a curve.
pub const MOST_PLAYS: usize = 4;

/// The values of a switch.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Switch {
    /// The level, 0 to 1.
    pub level: ExprId,
    /// The level as a signal, if the book has one switch of this name.
    pub signal: Option<SignalId>,
    /// Whether the switch is on or fading in.
    pub on: ExprId,
    /// The time of the last change.
    pub since: ExprId,
}

/// What stands for an easing in the hash of a name of saves. Part of the format: it never changes.
fn tag(easing: Easing) -> String {
    match easing {
        Easing::Jump => "jump".to_owned(),
        Easing::Linear => "linear".to_owned(),
        Easing::Smooth => "smooth".to_owned(),
        Easing::Bezier([a, b, c, d]) => format!("bezier {a} {b} {c} {d}"),
        Easing::Steps(count, position) => {
            let position = match position {
                StepPosition::Start => "start",
                StepPosition::End => "end",
                StepPosition::None => "none",
                StepPosition::Both => "both",
            };
            format!("steps {count} {position}")
        }
    }
}

impl ProgramBuilder {
    /// State of a run that only events write.
    pub(super) fn keep(
        &mut self,
        (name, means): (String, &'static str),
        kind: Kind,
        default: Constant,
        bounds: Interval,
    ) -> (InputId, ExprId) {
        let id = InputId(self.program.inputs.len() as u32);
        let (size, scope) = (self.home.size, self.home.scope);
        self.input_slots += u64::from(self.home.count());
        self.program.inputs.push(Input {
            name,
            kind,
            default,
            bounds,
            size,
            levels: self.home.levels.clone(),
            scope,
            kept: Some(means),
        });
        (id, self.push(Op::Input(id), kind, ChangeRate::Stepwise, scope, false))
    }

    /// Says what the index of a fade counts, for saved runs.
    pub(super) fn count_ways(&mut self, way: Option<InputId>, ways: &[(Seconds, Easing)]) {
        if let Some(way) = way {
            let words = ways.iter().map(|(over, easing)| format!("{} {}", over.0, tag(*easing)));
            let words = words.collect::<Vec<_>>().join("|");
            self.program.anchors.counted.insert(way, words);
        }
    }

    pub(super) fn keep_moment(&mut self, named: (String, &'static str)) -> (InputId, ExprId) {
        let bounds = Interval { lo: -NEVER, hi: LAST_MOMENT };
        self.keep(named, Kind::Time, Constant::Scalar(-NEVER), bounds)
    }

    pub(super) fn new_event(
        &mut self,
        name: &str,
        source: EventSource,
    ) -> Result<(EventId, ExprId), SemanticError> {
        if self.program.events.len() == MOST_EVENTS {
            return Err(SemanticError::TooManyEvents(MOST_EVENTS));
        }
        if !self.names.insert(name.to_owned()) {
            return Err(SemanticError::NameTaken(name.to_owned()));
        }
        if self.input_slots > MOST_SLOTS {
            return Err(SemanticError::TooManyInputs(MOST_SLOTS));
        }
        let (last, last_value) =
            self.keep_moment((format!("{name}.last"), "s, when it last occurred"));
        let id = EventId(self.program.events.len() as u32);
        let now = self.now();
        let writes = vec![Write::own(None, vec![(last, now)])];
        let name = name.to_owned();
        let (values, due) = (Vec::new(), None);
        let home = self.home.clone();
        let event = Event { name, source, last, last_value, values, due, writes, home };
        self.program.events.push(event);
        self.program.order.push(Subject::Event(id));
        Ok((id, last_value))
    }

    /// Sets the owner of new events and state, so that each instance or lamp has its own. Returns
    /// the previous owner for [`ProgramBuilder::go_home`].
    pub fn at_home(&mut self, owner: &Owner) -> Result<EventOwner, SemanticError> {
        let (size, levels) = owner.array.laid_out()?;
        let home = match size {
            Size::One => EventOwner::BOOK,
            // As many as the game makes cannot each be remembered.
            Size::Open => return Err(SemanticError::OpenInput),
            Size::Many(_) => EventOwner { size, levels, scope: owner.scope },
        };
        Ok(self.go_home(home))
    }

    /// Restores the owner that [`ProgramBuilder::at_home`] returned.
    pub fn go_home(&mut self, home: EventOwner) -> EventOwner {
        std::mem::replace(&mut self.home, home)
    }

    /// Adds a write to an event.
    pub(super) fn write_at(
        &mut self,
        event: EventId,
        when: Option<ExprId>,
        sets: Vec<(InputId, ExprId)>,
    ) -> Result<(), SemanticError> {
        let described = &mut self.program.events[event.index()];
        let each = match (described.home.many(), self.home.many()) {
            (None, Some(_)) => Some(self.home.clone()),
            _ if described.home == self.home => None,
            _ if described.home.is_around(&self.home) => Some(self.home.clone()),
            _ => return Err(SemanticError::NotItsOwn(described.name.clone())),
        };
        described.writes.push(Write { when, sets, each, sends: None, slot: None });
        Ok(())
    }

    /// A state value, shared or one per instance or lamp.
    pub(super) fn share(
        &mut self,
        name: &str,
        value: ExprId,
    ) -> Result<(ExprId, Option<SignalId>), SemanticError> {
        if self.home.many().is_some() {
            self.name_local(value, name.rsplit('.').next().unwrap_or(name));
            return Ok((value, None));
        }
        let signal = self.define_signal(name, value)?;
        Ok((self.signal(signal), Some(signal)))
    }

    /// Defines an event that the game fires.
    pub fn define_event(&mut self, name: &str) -> Result<EventId, SemanticError> {
        Ok(self.new_event(name, EventSource::Game)?.0)
    }

    /// Adds a parameter to an event: a value that the game passes with each firing, with its
    /// default and range. It keeps its value until the event occurs again.
    pub fn define_value(
        &mut self,
        event: EventId,
        name: &str,
        default: ExprId,
        range: Option<[ExprId; 2]>,
    ) -> Result<(InputId, ExprId), SemanticError> {
        let described = self.program.event(event);
        if described.values.len() == MOST_VALUES {
            return Err(SemanticError::TooManyValues(MOST_VALUES));
        }
        let mut owner = Owner::book(&described.name);
        owner.within = format!("{}.", described.name);
        let home = described.home.clone();
        (owner.array, owner.scope) = (Array::of(home.size), home.scope);
        let (id, value) = self.define_input(&owner, name, default, range)?;
        let input = &mut self.program.inputs[id.index()];
        (input.kept, input.levels) = (Some(GIVEN), home.levels);
        self.program.events[event.index()].values.push(id);
        Ok((id, value))
    }

    /// A constant time, from the shortest valid one to [`LONGEST`].
    pub(super) fn known_time(
        &self,
        time: ExprId,
        what: &'static str,
    ) -> Result<f64, SemanticError> {
        self.expect(time, Kind::Time)?;
        let found = self.program.expr(time).change_rate;
        let Some(v) = self.scalar(time) else {
            return Err(SemanticError::TooLively {
                role: what.to_owned(),
                limit: ChangeRate::Constant,
                found,
            });
        };
        if !(1e-3..=LONGEST).contains(&v) {
            return Err(SemanticError::OutOfRange {
                what,
                lo: v,
                hi: v,
                least: 1e-3,
                most: LONGEST,
            });
        }
        Ok(v)
    }

    /// Defines an event that occurs a time after another event, or after the start of the run. The
    /// delay restarts when the other event repeats.
    pub fn define_after(
        &mut self,
        name: &str,
        time: ExprId,
        from: Option<EventId>,
    ) -> Result<EventId, SemanticError> {
        self.known_time(time, "the time after which an event happens")?;
        let (id, last) = self.new_event(name, EventSource::After)?;
        let never = self.number(NEVER, Kind::Time)?;
        let before_all = self.number(BEFORE_ALL, Kind::Time)?;
        let (due, waits) = match from {
            Some(from) => {
                let from = self.program.event(from).last_value;
                let due = self.add(from, time)?;
                let after = self.max(last, before_all)?;
                (due, self.above(due, after)?)
            }
            None => (time, self.above(before_all, last)?),
        };
        let due = self.select(waits, due, never)?;
        self.program.events[id.index()].due = Some(due);
        Ok(id)
    }

    /// Defines an event that repeats at random intervals from this range, counted from another
    /// event if one is given. The interval restarts when that event repeats.
    pub fn define_every(
        &mut self,
        name: &str,
        owner: &mut Owner,
        times: [ExprId; 2],
        since: Option<EventId>,
    ) -> Result<EventId, SemanticError> {
        Ok(self.counted_every(name, owner, times, since)?.0)
    }

    /// [`Self::define_every`], and the number of its occurrences.
    fn counted_every(
        &mut self,
        name: &str,
        owner: &mut Owner,
        [shortest, longest]: [ExprId; 2],
        since: Option<EventId>,
    ) -> Result<(EventId, ExprId), SemanticError> {
        let what = "the time between two events";
        let ends = [self.known_time(shortest, what)?, self.known_time(longest, what)?];
        self.rising(shortest, longest)?;
        let (id, last) = self.new_event(name, EventSource::Every)?;
        let bounds = Interval { lo: 0.0, hi: 4e9 };
        let start = Constant::Scalar(0.0);
        let (count, counted) = self.keep(
            (format!("{name}.count"), "number of occurrences"),
            Kind::Number,
            start,
            bounds,
        );
        let (none, before_all) =
            (self.number(0.0, Kind::Time)?, self.number(BEFORE_ALL, Kind::Time)?);
        let begun = self.above(last, before_all)?;
        let from = self.select(begun, last, none)?;
        let (from, waits) = match since {
            Some(since) => {
                let since = self.program.event(since).last_value;
                (self.max(last, since)?, Some(self.above(since, before_all)?))
            }
            None => (from, None),
        };
        let time = if ends[0] == ends[1] {
            shortest
        } else {
            let level = self.random_per_count(owner, "every", counted)?;
            self.lerp(shortest, longest, level, false)?
        };
        let mut due = self.add(from, time)?;
        if let Some(waits) = waits {
            let never = self.number(NEVER, Kind::Time)?;
            due = self.select(waits, due, never)?;
        }
        let one = self.number(1.0, Kind::Number)?;
        let most = self.number(bounds.hi, Kind::Number)?;
        let next = self.add(counted, one)?;
        let next = self.min(next, most)?;
        let event = &mut self.program.events[id.index()];
        event.due = Some(due);
        event.writes[0].sets.push((count, next));
        Ok((id, counted))
    }

    /// Defines an event that occurs for one random lamp or instance at a time, at random intervals
    /// from this range. It does not choose the same one twice in a row unless it `repeats`.
    pub fn define_one_at_a_time(
        &mut self,
        name: &str,
        owner: &Owner,
        times: [ExprId; 2],
        since: Option<EventId>,
        repeats: bool,
    ) -> Result<EventId, SemanticError> {
        let Some(count) = self.home.many().filter(|count| *count > 1) else {
            return Err(SemanticError::OneOfOne);
        };
        // Whose turn it is stands in the book; each has an event of its own, due at its turn.
        let home = self.go_home(EventOwner::BOOK);
        let turn = self.define_turn(&format!("{name}.turn"), times, since, (count, repeats));
        self.go_home(home);
        let (turn, whose) = turn?;
        let turn = self.program.event(turn).last_value;
        let (id, last) = self.new_event(name, EventSource::Every)?;
        let own = self.flat_index(owner)?;
        let is_own = self.derived(Op::Equal(own, whose), Kind::OnOff)?;
        let before_all = self.number(BEFORE_ALL, Kind::Time)?;
        let after = self.max(last, before_all)?;
        let ahead = self.above(turn, after)?;
        let waits = self.and(is_own, ahead)?;
        let never = self.number(NEVER, Kind::Time)?;
        let due = self.select(waits, turn, never)?;
        self.program.events[id.index()].due = Some(due);
        Ok(id)
    }

    /// An event of the book that chooses one of `count` at each occurrence, and the chosen index.
    fn define_turn(
        &mut self,
        name: &str,
        times: [ExprId; 2],
        since: Option<EventId>,
        (count, repeats): (u32, bool),
    ) -> Result<(EventId, ExprId), SemanticError> {
        let mut owner = Owner::book(name);
        let (turn, counted) = self.counted_every(name, &mut owner, times, since)?;
        self.program.events[turn.index()].source = EventSource::Within;
        let (which, whose) = self.keep(
            (format!("{name}.whose"), "the index whose turn it is"),
            Kind::Number,
            Constant::Scalar(-1.0),
            Interval { lo: -1.0, hi: f64::from(count) - 1.0 },
        );
        let level = self.random_per_count(&mut owner, "turn", counted)?;
        let next = match repeats {
            true => self.part_of(level, count)?,
            false => self.another_part(level, whose, count)?,
        };
        self.program.events[turn.index()].writes[0].sets.push((which, next));
        Ok((turn, whose))
    }

    /// The flat index of a lamp or instance across all arrays that contain it.
    fn flat_index(&mut self, owner: &Owner) -> Result<ExprId, SemanticError> {
        let instances = owner.array.instances.iter().enumerate();
        let levels = instances.map(|(n, size)| (InstanceLevel::Instance(n as u8), *size));
        let levels: Vec<(InstanceLevel, Size)> =
            levels.chain([(InstanceLevel::Lamp, owner.array.size)]).collect();
        let mut flat: Option<ExprId> = None;
        for (level, size) in levels {
            let Size::Many(count) = size else { continue };
            let index = self.push(Op::Index(level), Kind::Number, ChangeRate::Fixed, level, false);
            flat = Some(match flat {
                Some(outer) => {
                    let count = self.number(f64::from(count), Kind::Number)?;
                    let before = self.multiply(outer, count)?;
                    self.add(before, index)?
                }
                None => index,
            });
        }
        flat.ok_or(SemanticError::NoArray)
    }

    /// On for a time after each occurrence of an event.
    pub fn pulse(&mut self, at: EventId, lasts: ExprId) -> Result<ExprId, SemanticError> {
        self.known_time(lasts, "the length of a pulse")?;
        let (now, last) = (self.now(), self.program.event(at).last_value);
        let end = self.add(last, lasts)?;
        let goes_on = self.above(end, now)?;
        let early = self.above(last, now)?;
        let begun = self.not(early)?;
        let on = self.and(goes_on, begun)?;
        let (one, none) = (self.number(1.0, Kind::Number)?, self.number(0.0, Kind::Number)?);
        self.select(on, one, none)
    }

    /// A curve played from the last occurrence of an event, and `before` until the first. `title`
    /// names its state.
    pub fn played(
        &mut self,
        title: &str,
        track: &Track,
        (at, again): (EventId, Replay),
        before: Option<ExprId>,
    ) -> Result<ExprId, SemanticError> {
        let none = self.number(0.0, Kind::Time)?;
        let before = match before {
            Some(before) => before,
            None => {
                let mut ends = track.curves.iter().map(|id| {
                    let stops = self.program.curve(*id).curve.stops();
                    stops[0].value == stops[stops.len() - 1].value
                });
                if !ends.all(|alike| alike) {
                    return Err(SemanticError::NothingBefore);
                }
                self.track_at(track, none)?
            }
        };
        let last = self.program.event(at).last_value;
        // What is remembered of it is whose the event is.
        let home = self.go_home(self.program.event(at).home.clone());
        let made = self.replayed(title, track, (at, again), (last, before));
        self.go_home(home);
        made
    }

    fn replayed(
        &mut self,
        title: &str,
        track: &Track,
        (at, again): (EventId, Replay),
        (last, before): (ExprId, ExprId),
    ) -> Result<ExprId, SemanticError> {
        match again {
            Replay::Restart => self.played_since(track, last, before),
            Replay::Finish => {
                let (start, start_value) =
                    self.keep_moment((format!("{title}.start"), "s, when it began"));
                let length = self.program.curve(track.curves[0]).curve.length();
                let length = self.number(length.0, Kind::Time)?;
                let (end, now) = (self.add(start_value, length)?, self.now());
                let plays = self.above(end, now)?;
                let over = self.not(plays)?;
                self.write_at(at, Some(over), vec![(start, now)])?;
                self.played_since(track, start_value, before)
            }
            Replay::Add => {
                self.expect_scalar(before)?;
                let (mut sets, mut sum) = (Vec::with_capacity(MOST_PLAYS), before);
                let mut later = self.now();
                for n in 0..MOST_PLAYS {
                    let means = "s, when one of the latest few began";
                    let (start, start_value) =
                        self.keep_moment((format!("{title}.start{n}"), means));
                    sets.push((start, later));
                    later = start_value;
                    let played = self.played_since(track, start_value, before)?;
                    let more = self.subtract(played, before)?;
                    sum = self.add(sum, more)?;
                }
                self.write_at(at, None, sets)?;
                Ok(sum)
            }
        }
    }

    /// A curve played from a time on, and another value before the first time.
    fn played_since(
        &mut self,
        track: &Track,
        start: ExprId,
        before: ExprId,
    ) -> Result<ExprId, SemanticError> {
        let (now, none) = (self.now(), self.number(0.0, Kind::Time)?);
        let passed = self.subtract(now, start)?;
        let passed = self.max(passed, none)?;
        let value = self.track_at(track, passed)?;
        self.expect(before, self.kind(value))?;
        let before_all = self.number(BEFORE_ALL, Kind::Time)?;
        let begun = self.above(start, before_all)?;
        self.select(begun, value, before)
    }

    /// Defines a switch.
    pub fn define_switch(
        &mut self,
        name: &str,
        starts: bool,
        lines: &[Turned],
    ) -> Result<Switch, SemanticError> {
        for (n, line) in lines.iter().enumerate() {
            if line.over.0 != 0.0 && !(1e-3..=LONGEST).contains(&line.over.0) {
                return Err(SemanticError::NoPeriod {
                    what: "the time of a change",
                    lo: line.over.0,
                });
            }
            if lines[..n].iter().any(|before| before.at == line.at) {
                return Err(SemanticError::TurnedTwice(self.program.event(line.at).name.clone()));
            }
        }
        self.note_clip(name, lines.iter().map(|line| line.easing));
        let unit = Interval { lo: 0.0, hi: 1.0 };
        let start = f64::from(u8::from(starts));
        let (on, is_on) = self.keep(
            (format!("{name}.on"), "whether it is on or turning on"),
            Kind::OnOff,
            Constant::OnOff(starts),
            unit,
        );
        let (since, since_value) =
            self.keep_moment((format!("{name}.since"), "s, when it last changed"));
        let (from, from_value) = self.keep(
            (format!("{name}.from"), "its level at that time"),
            Kind::Number,
            Constant::Scalar(start),
            unit,
        );
        // What it is reached by is the same for all lines that lead one way, or is remembered too.
        let ways = |to: bool| {
            let mut ways: Vec<(Seconds, Easing)> = Vec::new();
            for line in lines.iter().filter(|line| line.to != Some(!to)) {
                if !ways.contains(&(line.over, line.easing)) {
                    ways.push((line.over, line.easing));
                }
            }
            ways
        };
        let (rising, falling) = (ways(true), ways(false));
        let most = rising.len().max(falling.len());
        let way = (most > 1).then(|| {
            let bounds = Interval { lo: 0.0, hi: most as f64 - 1.0 };
            self.keep(
                (format!("{name}.way"), "the index of its current fade"),
                Kind::Number,
                Constant::Scalar(0.0),
                bounds,
            )
        });
        self.count_ways(way.map(|(way, _)| way), &[rising.as_slice(), &falling].concat());
        let mut levels = Vec::with_capacity(2);
        for (to, ways) in [(1.0, &rising), (0.0, &falling)] {
            let mut level = self.number(to, Kind::Number)?;
            for (n, (over, easing)) in ways.iter().enumerate().rev() {
                let faded = self.faded(from_value, to, since_value, *over, *easing)?;
                level = match way {
                    Some((_, way)) if n + 1 < ways.len() => {
                        let nth = self.number(n as f64, Kind::Number)?;
                        let same = self.derived(Op::Equal(way, nth), Kind::OnOff)?;
                        self.select(same, faded, level)?
                    }
                    _ => faded,
                };
            }
            levels.push(level);
        }
        let level = self.select(is_on, levels[0], levels[1])?;
        let (level, signal) = self.share(name, level)?;
        let (is_off, now) = (self.not(is_on)?, self.now());
        for line in lines {
            let (when, to) = match line.to {
                Some(to) => (
                    Some(if to { is_off } else { is_on }),
                    self.constant(Constant::OnOff(to), Kind::OnOff),
                ),
                None => (None, is_off),
            };
            let mut sets = vec![(on, to), (since, now), (from, level)];
            if let Some((way, _)) = way {
                let nth = |ways: &[(Seconds, Easing)]| {
                    ways.iter().position(|known| *known == (line.over, line.easing)).unwrap_or(0)
                        as f64
                };
                let (up, down) = (nth(&rising), nth(&falling));
                let (up, down) = (self.number(up, Kind::Number)?, self.number(down, Kind::Number)?);
                let nth = match line.to {
                    Some(true) => up,
                    Some(false) => down,
                    None => self.select(is_off, up, down)?,
                };
                sets.push((way, nth));
            }
            self.write_at(line.at, when, sets)?;
        }
        if let Some(by_hour) = self.switch_by_hour(starts, lines) {
            let states = [false, true].map(|is_on| {
                let full = Constant::Scalar(f64::from(u8::from(is_on)));
                let never = Constant::Scalar(-NEVER);
                vec![(on, Constant::OnOff(is_on)), (since, never), (from, full)]
            });
            self.settle_by_hour(by_hour, states.into())?;
        } else {
            self.program.by_game.push(name.to_owned());
        }
        self.program.states.push(NamedState {
            name: name.to_owned(),
            options: Vec::new(),
            start: usize::from(starts),
            size: self.home.size,
        });
        Ok(Switch { level, signal, on: is_on, since: since_value })
    }

    /// A transition from a level to a constant level, over a duration since a start time. After
    /// that it is exactly the constant, because times are compared, not levels.
    pub(super) fn faded(
        &mut self,
        from: ExprId,
        to: f64,
        since: ExprId,
        over: Seconds,
        easing: Easing,
    ) -> Result<ExprId, SemanticError> {
        let to = self.number(to, Kind::Number)?;
        if over.0 == 0.0 {
            return Ok(to);
        }
        let (now, time) = (self.now(), self.number(over.0, Kind::Time)?);
        let end = self.add(since, time)?;
        let goes_on = self.above(end, now)?;
        let passed = self.subtract(now, since)?;
        let u = self.divide(passed, time)?;
        let u = self.eased(u, easing)?;
        let level = self.lerp(from, to, u, false)?;
        self.select(goes_on, level, to)
    }
}
