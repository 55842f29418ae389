//! Sounds: playback positions, analyzed values, and events at onsets, beats and notes.
//!
//! A playback position is computed from the state of the run: the position and time of the last
//! start, stop, seek or change of rate. Analyzed values are tables over that position.

use std::sync::Arc;

use super::event::LONGEST;
use super::{Owner, ProgramBuilder, Use};
use crate::bounds::RangeAnalysis;
use crate::interval::Interval;
use crate::kernel::LAST_MOMENT;
use crate::kind::Kind;
use crate::program::{
    Constant, Entries, EventId, EventOwner, EventSource, ExprId, InputId, NEVER, Op, Sound,
    SoundId, Start, TableId, Turn, Write,
};
use crate::pure::Pure;
use crate::quantity::Seconds;
use crate::semantic_error::SemanticError;
use crate::sound::{Envelope, Follower, Hearing, Mark, Marks, Measure, Playing, SHORTEST, TICKS};

/// How a sound file is played.
#[derive(Clone, Debug, Default)]
pub struct Played {
    /// The events that start it from its beginning; without any, it plays from the start of the
    /// run.
    pub starts: Vec<EventId>,
    /// The events that stop it.
    pub stops: Vec<EventId>,
    /// The events that seek to a position, a time.
    pub set: Vec<(EventId, ExprId)>,
    /// Whether it loops.
    pub loops: bool,
    /// The playback rate, 0 to [`FASTEST`]; must change only at events.
    pub speed: Option<ExprId>,
}

/// Maximum playback rate.
pub const FASTEST: f64 = 16.0;

/// A value analyzed from a sound.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Asked {
    /// The measure.
    pub measure: Measure,
    /// The level that maps to 1; the loudest of the sound if `None`.
    pub full: Option<f64>,
    /// The gate, as a fraction of full: lower levels are 0.
    pub gate: f64,
    /// Attack time.
    pub attack: Seconds,
    /// Release time.
    pub release: Seconds,
    /// Delay.
    pub delay: Seconds,
}

/// A sound's playback position and its state.
#[derive(Clone, Debug)]
pub(super) enum Playback {
    /// A sound file.
    File(Box<FileTape>),
    /// The game sets its levels: one input per measure, created on first use.
    Live(Vec<(Measure, ExprId)>),
}

#[derive(Clone, Debug)]
pub(super) struct FileTape {
    hearing: Arc<Hearing>,
    loops: bool,
    /// Whether it waits for an event before its first play.
    waits: bool,
    /// Seconds since its start; repetitions of a loop are added up.
    place: ExprId,
    plays: Option<ExprId>,
    /// The stored position, the time it was stored, and the playback rate.
    at: ExprId,
    since: ExprId,
    rate: ExprId,
    /// The events that start, stop or seek it, and the new positions.
    changes: Vec<(EventId, ExprId)>,
    /// The time of the last start, stop or seek.
    changed: Option<ExprId>,
}

/// The sound of a value that follows one sound only.
#[derive(Clone, Debug)]
pub(super) struct Heard {
    sound: SoundId,
    envelope: Envelope,
    delay: Seconds,
}

/// Just before a position, so that events at the position are still due.
const BEFORE: f64 = 1e-9;

impl ProgramBuilder {
    /// Defines a sound file and how it is played.
    pub fn define_sound(
        &mut self,
        name: &str,
        file: &str,
        hearing: Arc<Hearing>,
        played: &Played,
    ) -> Result<SoundId, SemanticError> {
        self.take_name(name)?;
        let home = self.go_home(EventOwner::BOOK);
        let made = self.taped(name, &hearing, played);
        self.go_home(home);
        let playback = made?;
        let place = match playback.loops {
            true => self.wrapped(playback.place, playback.hearing.length())?,
            false => playback.place,
        };
        let plays = playback.plays;
        let (name, file, loops) = (name.to_owned(), file.to_owned(), playback.loops);
        let followed = Vec::new();
        let sound = Sound { name, file, hearing, loops, place, plays, followed };
        Ok(self.push_sound(sound, Playback::File(Box::new(playback))))
    }

    fn taped(
        &mut self,
        name: &str,
        hearing: &Arc<Hearing>,
        played: &Played,
    ) -> Result<FileTape, SemanticError> {
        let (now, none) = (self.now(), self.number(0.0, Kind::Time)?);
        let acts = played.starts.iter().chain(&played.stops);
        let mut all: Vec<EventId> =
            acts.chain(played.set.iter().map(|(event, _)| event)).copied().collect();
        let count = all.len();
        all.sort_unstable();
        all.dedup();
        if all.len() < count {
            return Err(SemanticError::SoundTwice(name.to_owned()));
        }
        let waits = !played.starts.is_empty();
        let steady = match played.speed {
            Some(speed) => {
                self.expect(speed, Kind::Number)?;
                self.expect_led(speed, "the speed of a sound")?;
                let bounds = RangeAnalysis::new(&self.program).loose(speed).part(0);
                if bounds.lo < 0.0 || bounds.hi > FASTEST {
                    let (lo, hi) = (bounds.lo, bounds.hi);
                    let what = "the speed of a sound";
                    return Err(SemanticError::OutOfRange {
                        what,
                        lo,
                        hi,
                        least: 0.0,
                        most: FASTEST,
                    });
                }
                self.scalar(speed).is_some()
            }
            None => true,
        };
        let speed = match played.speed {
            Some(speed) => speed,
            None => self.number(1.0, Kind::Number)?,
        };
        let hearing = Arc::clone(hearing);
        let mut playback = FileTape {
            hearing,
            loops: played.loops,
            waits,
            place: none,
            plays: None,
            at: none,
            since: none,
            rate: speed,
            changes: Vec::new(),
            changed: None,
        };
        if all.is_empty() && steady {
            playback.place = self.sped(now, speed)?;
            return Ok(playback);
        }
        let times = Interval { lo: -LAST_MOMENT, hi: LAST_MOMENT };
        let start = Constant::Scalar(0.0);
        let means = (format!("{name}.at"), "s, its position at that time");
        let (at, at_value) = self.keep(means, Kind::Time, start, times);
        let means = (format!("{name}.since"), "s, when it was at that position");
        let (since, since_value) = self.keep(means, Kind::Time, start, times);
        (playback.at, playback.since) = (at_value, since_value);
        let rate = (!steady).then(|| {
            let bounds = Interval { lo: -1.0, hi: FASTEST };
            let means =
                (format!("{name}.rate"), "its speed since then; negative until it is known");
            self.keep(means, Kind::Number, Constant::Scalar(-1.0), bounds)
        });
        if let Some((_, rate)) = rate {
            let unknown = self.number(-0.5, Kind::Number)?;
            let known = self.above(rate, unknown)?;
            let rate = self.select(known, rate, speed)?;
            let still = self.number(0.0, Kind::Number)?;
            playback.rate = self.max(rate, still)?;
        }
        let plays = (waits || !played.stops.is_empty()).then(|| {
            let means = (format!("{name}.plays"), "whether it plays");
            let unit = Interval { lo: 0.0, hi: 1.0 };
            self.keep(means, Kind::OnOff, Constant::OnOff(!waits), unit)
        });
        playback.plays = plays.map(|(_, plays)| plays);
        let passed = self.subtract(now, since_value)?;
        let passed = self.max(passed, none)?;
        let gone = self.sped(passed, playback.rate)?;
        let place = self.add(at_value, gone)?;
        let place = match playback.plays {
            Some(plays) => self.select(plays, place, at_value)?,
            None => place,
        };
        let (place, _) = self.share(&format!("{name}.place"), place)?;
        playback.place = place;
        let [lo, hi] = [self.number(times.lo, Kind::Time)?, self.number(times.hi, Kind::Time)?];
        let place = self.clamp(place, lo, hi)?;
        if let Some((rate, rate_value)) = rate {
            let same = self.derived(Op::Equal(rate_value, speed), Kind::OnOff)?;
            let differs = self.not(same)?;
            let due = self.due_where(differs, now)?;
            let sets = vec![(rate, speed), (at, place), (since, now)];
            let writes = vec![Write::own(None, sets)];
            self.within_book((&format!("{name}.speeds"), EventSource::Within), due, writes)?;
        }
        let changed = (!all.is_empty()).then(|| {
            self.keep_moment((format!("{name}.changed"), "s, when it was started, stopped or set"))
        });
        playback.changed = changed.map(|(_, value)| value);
        let mut write = |builder: &mut ProgramBuilder, event, to: ExprId, on: Option<bool>| {
            let mut sets = vec![(at, to), (since, now)];
            sets.extend(changed.map(|(changed, _)| (changed, now)));
            if let (Some((plays, _)), Some(on)) = (plays, on) {
                sets.push((plays, builder.constant(Constant::OnOff(on), Kind::OnOff)));
            }
            builder.write_at(event, None, sets)?;
            playback.changes.push((event, to));
            Ok::<(), SemanticError>(())
        };
        for event in &played.starts {
            write(self, *event, none, Some(true))?;
        }
        for event in &played.stops {
            write(self, *event, place, Some(false))?;
        }
        for (event, to) in &played.set {
            self.expect(*to, Kind::Time)?;
            let length = playback.hearing.length();
            let to = match played.loops {
                true => self.wrapped(*to, length)?,
                false => {
                    let end = self.number(length.0, Kind::Time)?;
                    self.clamp(*to, none, end)?
                }
            };
            write(self, *event, to, None)?;
        }
        Ok(playback)
    }

    /// The time in which a sound advances at a rate.
    fn sped(&mut self, time: ExprId, speed: ExprId) -> Result<ExprId, SemanticError> {
        match self.scalar(speed) {
            Some(1.0) => Ok(time),
            _ => self.multiply(time, speed),
        }
    }

    /// The position of a looping sound within its loop.
    fn wrapped(&mut self, place: ExprId, length: Seconds) -> Result<ExprId, SemanticError> {
        let length = self.number(length.0, Kind::Time)?;
        self.derived(Op::Looped(Turn::Loop, Start::Together, place, length), Kind::Time)
    }

    /// Defines a sound whose levels the game sets while it runs.
    pub fn define_live(&mut self, name: &str) -> Result<SoundId, SemanticError> {
        self.take_name(name)?;
        let (file, loops) = (String::new(), false);
        let (place, plays) = (self.number(0.0, Kind::Time)?, None);
        let hearing = Arc::new(Hearing::default());
        let name = name.to_owned();
        let followed = Vec::new();
        let sound = Sound { name, file, hearing, loops, place, plays, followed };
        Ok(self.push_sound(sound, Playback::Live(Vec::new())))
    }

    fn push_sound(&mut self, sound: Sound, playback: Playback) -> SoundId {
        self.program.sounds.push(sound);
        self.playbacks.push(playback);
        SoundId(self.playbacks.len() as u32 - 1)
    }

    /// Progress through a sound, 0 to 1.
    pub fn heard(
        &mut self,
        place: &Use,
        sound: SoundId,
        asked: Asked,
    ) -> Result<ExprId, SemanticError> {
        let times = [SHORTEST.0, LONGEST];
        for (what, v, [least, most]) in [
            ("the time of attack", asked.attack.0, times),
            ("the time of release", asked.release.0, times),
            ("the gate", asked.gate, [0.0, 1.0]),
            ("the level that counts as full", asked.full.unwrap_or(1.0), [1e-4, 1.0]),
            ("the delay", asked.delay.0, [0.0, 60.0]),
        ] {
            if !(least..=most).contains(&v) {
                return Err(SemanticError::OutOfRange { what, lo: v, hi: v, least, most });
            }
        }
        let home = self.go_home(EventOwner::BOOK);
        let made = match &self.playbacks[sound.index()] {
            Playback::File(playback) => {
                let playback = playback.clone();
                self.heard_of_file(place, sound, &playback, asked)
            }
            Playback::Live(_) => self.heard_live(place, sound, asked),
        };
        self.go_home(home);
        made
    }

    fn heard_of_file(
        &mut self,
        place: &Use,
        sound: SoundId,
        playback: &FileTape,
        asked: Asked,
    ) -> Result<ExprId, SemanticError> {
        let name = self.program.sounds[sound.index()].name.clone();
        if !playback.hearing.has(asked.measure) {
            return Err(SemanticError::NotHeard(name));
        }
        let measured = (asked.measure, asked.full, asked.gate);
        let follower = Follower { attack: asked.attack, release: asked.release };
        let length = playback.hearing.length();
        let default = if playback.loops { Playing::Round } else { Playing::Once };
        let Some(envelope) = playback.hearing.envelope(measured, follower, default) else {
            return Err(SemanticError::NotHeard(name));
        };
        let mut at = playback.place;
        if asked.delay.0 > 0.0 {
            let delay = self.number(asked.delay.0, Kind::Time)?;
            at = self.subtract(at, delay)?;
        }
        let table = self.envelope(sound, &format!("{name}_envelope"), &envelope);
        let level = match playback.loops {
            true => {
                let turned = self.wrapped(at, length)?;
                let round = self.envelope_at(table, turned)?;
                let first = Some(playback).filter(|playback| playback.waits || asked.delay.0 > 0.0);
                match first
                    .and_then(|_| playback.hearing.envelope(measured, follower, Playing::FirstTurn))
                {
                    Some(first) => {
                        let table = self.envelope(sound, &format!("{name}_first_turn"), &first);
                        let begins = self.envelope_at(table, at)?;
                        let end = self.number(first.end().0, Kind::Time)?;
                        let early = self.above(end, at)?;
                        self.select(early, begins, round)?
                    }
                    None => round,
                }
            }
            false => self.envelope_at(table, at)?,
        };
        let heard = match playback.changed {
            Some(changed) => self.left_over(place, playback, changed, level, asked.release)?,
            None => level,
        };
        self.heard.insert(heard, Heard { sound, envelope, delay: asked.delay });
        Ok(heard)
    }

    /// A level, or the decaying remainder of the level at the last start, stop or seek.
    fn left_over(
        &mut self,
        place: &Use,
        playback: &FileTape,
        changed: ExprId,
        level: ExprId,
        release: Seconds,
    ) -> Result<ExprId, SemanticError> {
        let none = self.number(0.0, Kind::Number)?;
        let level = match playback.plays {
            Some(plays) => self.select(plays, level, none)?,
            None => level,
        };
        let name = format!("{}.from", Self::title(place));
        let unit = Interval { lo: 0.0, hi: 1.0 };
        let means = (name, "the level when the sound was started, stopped or set");
        let (from, from_value) = self.keep(means, Kind::Number, Constant::Scalar(0.0), unit);
        let (now, release) = (self.now(), self.number(release.0, Kind::Time)?);
        let passed = self.subtract(now, changed)?;
        let times = self.divide(passed, release)?;
        let left = self.derived(Op::Pure(Pure::Decay, [times][..].into()), Kind::Number)?;
        let left = self.multiply(from_value, left)?;
        let heard = self.max(level, left)?;
        for (event, _) in &playback.changes {
            self.write_at(*event, None, vec![(from, heard)])?;
        }
        Ok(heard)
    }

    fn envelope(&mut self, sound: SoundId, name: &str, envelope: &Envelope) -> TableId {
        let table = self.table_of(name, Entries::Words(envelope.words().to_vec()));
        let followed = &mut self.program.sounds[sound.index()].followed;
        if !followed.contains(&table) {
            followed.push(table);
        }
        table
    }

    fn envelope_at(&mut self, table: TableId, place: ExprId) -> Result<ExprId, SemanticError> {
        let ticks = self.number(f64::from(TICKS), Kind::Rate)?;
        let at = self.multiply(place, ticks)?;
        self.derived(Op::Envelope(table, at), Kind::Number)
    }

    fn heard_live(
        &mut self,
        place: &Use,
        sound: SoundId,
        asked: Asked,
    ) -> Result<ExprId, SemanticError> {
        let name = self.program.sounds[sound.index()].name.clone();
        let level = self.live_level(&name, sound, asked.measure)?;
        let [none, one] = [0.0, 1.0].map(|v| self.constant(Constant::Scalar(v), Kind::Number));
        let full = self.number(asked.full.unwrap_or(1.0), Kind::Number)?;
        let part = self.divide(level, full)?;
        let mut part = self.min(part, one)?;
        if asked.gate > 0.0 {
            let gate = self.number(asked.gate, Kind::Number)?;
            let below = self.above(gate, part)?;
            part = self.select(below, none, part)?;
        }
        let times = [asked.attack, asked.release]
            .map(|time| self.constant(Constant::Scalar(time.0), Kind::Time));
        let heard = self.followed(&Owner::book(&name), place, part, times)?;
        match asked.delay.0 > 0.0 {
            true => Err(SemanticError::LiveDelay(name)),
            false => Ok(heard),
        }
    }

    /// The input for the level of a live sound, created on first use.
    fn live_level(
        &mut self,
        name: &str,
        sound: SoundId,
        measure: Measure,
    ) -> Result<ExprId, SemanticError> {
        let word = match measure {
            Measure::Level => "level",
            Measure::Peak => "peak",
            Measure::Band(band) => {
                let named = crate::sound::Band::NAMED.iter().find(|(_, known)| *known == band);
                named
                    .map(|(word, _)| *word)
                    .ok_or_else(|| SemanticError::LiveMeasure(name.to_owned()))?
            }
            Measure::Onsets => return Err(SemanticError::LiveMeasure(name.to_owned())),
        };
        if let Playback::Live(known) = &self.playbacks[sound.index()]
            && let Some((_, level)) = known.iter().find(|(known, _)| *known == measure)
        {
            return Ok(*level);
        }
        let mut owner = Owner::book(name);
        owner.within = format!("{name}.");
        let range = [0.0, 1.0].map(|v| self.constant(Constant::Scalar(v), Kind::Number));
        let (_, level) = self.define_input(&owner, word, range[0], Some(range))?;
        if let Playback::Live(known) = &mut self.playbacks[sound.index()] {
            known.push((measure, level));
        }
        Ok(level)
    }

    /// Whether the game sets a sound's levels.
    pub fn is_live(&self, sound: SoundId) -> bool {
        matches!(self.playbacks[sound.index()], Playback::Live(_))
    }

    /// Defines an event that occurs at each onset, beat or note of a sound, optionally only where
    /// its value lies above one limit and below the other.
    pub fn define_at_marks(
        &mut self,
        name: &str,
        sound: SoundId,
        which: Marks,
        [above, below]: [Option<f64>; 2],
    ) -> Result<EventId, SemanticError> {
        let Playback::File(playback) = &self.playbacks[sound.index()] else {
            return Err(SemanticError::LiveMeasure(
                self.program.sounds[sound.index()].name.clone(),
            ));
        };
        let fits = |mark: &&Mark| {
            above.is_none_or(|above| mark.value > above)
                && below.is_none_or(|below| mark.value < below)
        };
        let places =
            playback.hearing.marks(which).iter().filter(fits).map(|mark| mark.at).collect();
        self.define_at_places(name, sound, places)
    }

    /// The event at which a value that follows one sound only exceeds a constant; its times are
    /// known in advance. `None` for any other value.
    pub(super) fn define_at_crossings(
        &mut self,
        name: &str,
        is: ExprId,
        again: Option<ExprId>,
    ) -> Option<Result<EventId, SemanticError>> {
        let (value, above) = self.passes(is)?;
        let Heard { sound, envelope, delay } = self.heard.get(&value)?.clone();
        let again = match again {
            Some(again) => {
                let Op::Above(limit, of) = self.program.expr(again).op else { return None };
                let same = self.signal_of(of) == value;
                Some(self.scalar(limit).filter(|_| same)?)
            }
            None => None,
        };
        let Playback::File(playback) = &self.playbacks[sound.index()] else { return None };
        let (loops, length) = (playback.loops, playback.hearing.length().0);
        let playing = if loops { Playing::Round } else { Playing::Once };
        let later = |place: Seconds| match place.0 + delay.0 {
            place if loops && place >= length => place % length,
            place => place,
        };
        let mut places: Vec<f64> =
            envelope.crossings(above, again, playing).into_iter().map(later).collect();
        places.sort_by(f64::total_cmp);
        Some(self.define_at_places(name, sound, places))
    }

    /// A value and the constant that a condition compares it with.
    fn passes(&self, is: ExprId) -> Option<(ExprId, f64)> {
        let Op::Above(value, limit) = self.program.expr(is).op else { return None };
        Some((self.signal_of(value), self.scalar(limit)?))
    }

    /// The expression of a signal.
    fn signal_of(&self, value: ExprId) -> ExprId {
        match self.program.expr(value).op {
            Op::Signal(signal) => self.signal_of(self.program.signal(signal).value),
            _ => value,
        }
    }

    fn define_at_places(
        &mut self,
        name: &str,
        sound: SoundId,
        mut places: Vec<f64>,
    ) -> Result<EventId, SemanticError> {
        places.dedup();
        let Playback::File(playback) = &self.playbacks[sound.index()] else {
            return Err(SemanticError::LiveMeasure(
                self.program.sounds[sound.index()].name.clone(),
            ));
        };
        let playback = playback.clone();
        let (id, _) = self.new_event(name, EventSource::Sound)?;
        if places.is_empty() {
            let never = self.number(NEVER, Kind::Time)?;
            self.program.events[id.index()].due = Some(never);
            return Ok(id);
        }
        let first = self.number(places[0], Kind::Time)?;
        // Two at the least, so that it is a table.
        if places.len() == 1 {
            places.push(NEVER);
        }
        let table = self.table_of(&format!("{name}_places"), Entries::Numbers(places));
        let times = Interval { lo: -LAST_MOMENT - 1.0, hi: NEVER };
        let (passed, passed_value) = self.keep(
            (format!("{name}.passed"), "s, the position in the sound after which the next one is"),
            Kind::Time,
            Constant::Scalar(-BEFORE),
            times,
        );
        let never = self.number(NEVER, Kind::Time)?;
        let mut next = self.derived(Op::NextPlace(table, passed_value), Kind::Time)?;
        let mut found = self.above(never, next)?;
        let mut sets: Vec<(InputId, ExprId)> = Vec::new();
        let mut at = next;
        let mut turned: Option<InputId> = None;
        if playback.loops {
            let bounds = Interval { lo: 0.0, hi: 4e9 };
            let means = (format!("{name}.turn"), "number of loops so far");
            let (turn, turn_value) = self.keep(means, Kind::Number, Constant::Scalar(0.0), bounds);
            let one = self.number(1.0, Kind::Number)?;
            let most = self.number(bounds.hi, Kind::Number)?;
            let later = self.add(turn_value, one)?;
            let later = self.min(later, most)?;
            let turn_then = self.select(found, turn_value, later)?;
            next = self.select(found, next, first)?;
            let length = self.number(playback.hearing.length().0, Kind::Time)?;
            let turns = self.multiply(length, turn_then)?;
            at = self.add(turns, next)?;
            sets.push((turn, turn_then));
            turned = Some(turn);
            found = self.constant(Constant::OnOff(true), Kind::OnOff);
        }
        sets.push((passed, next));
        let still = self.number(1e-6, Kind::Number)?;
        let moves = self.above(playback.rate, still)?;
        let rate = self.max(playback.rate, still)?;
        let far = self.subtract(at, playback.at)?;
        let takes = self.divide(far, rate)?;
        let due = self.add(playback.since, takes)?;
        let mut so = self.and(found, moves)?;
        if let Some(plays) = playback.plays {
            so = self.and(so, plays)?;
        }
        let due = self.due_where(so, due)?;
        let event = &mut self.program.events[id.index()];
        event.due = Some(due);
        event.writes[0].sets.extend(sets);
        let none = self.number(0.0, Kind::Number)?;
        for (change, to) in &playback.changes {
            let before = self.number(BEFORE, Kind::Time)?;
            let before = self.subtract(*to, before)?;
            let mut sets = vec![(passed, before)];
            sets.extend(turned.map(|turn| (turn, none)));
            self.write_at(*change, None, sets)?;
        }
        Ok(id)
    }

    /// Reserves a unique name.
    fn take_name(&mut self, name: &str) -> Result<(), SemanticError> {
        match self.names.insert(name.to_owned()) {
            true => Ok(()),
            false => Err(SemanticError::NameTaken(name.to_owned())),
        }
    }
}
