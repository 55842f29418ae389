//! Sounds and the values analyzed from them, in the builder.

use std::sync::Arc;

use super::book::Book;
use super::event::Event;
use super::kinds::{Number, Time};
use super::lower::nothing;
use super::{Tree, Value, make};
use crate::kind::Kind as AnyKind;
use crate::program::{ExprId, SoundId};
use crate::program_builder::sound::{Asked, Played};
use crate::program_builder::{Owner, ProgramBuilder};
use crate::quantity::Seconds;
use crate::semantic_error::SemanticError;
use crate::sound::{Hearing, Marks, Measure};

/// How a sound is played; by default it loops from the start of the run.
#[derive(Clone, Debug, Default)]
pub struct Plays {
    starts: Vec<Event>,
    stops: Vec<Event>,
    set: Vec<(Event, Value<Time>)>,
    loops: Option<bool>,
    speed: Option<Value<Number>>,
}

impl Plays {
    /// Loops from the start of the run.
    pub fn round() -> Self {
        Plays::default()
    }

    /// Plays once from the start of the run.
    pub fn once() -> Self {
        Plays { loops: Some(false), ..Plays::default() }
    }

    /// Plays once at each occurrence of these events.
    pub fn starting_at(events: &[Event]) -> Self {
        Plays { starts: events.to_vec(), ..Plays::default() }
    }

    /// Loops once it has started.
    pub fn looped(self) -> Self {
        Plays { loops: Some(true), ..self }
    }

    /// These events stop the sound.
    pub fn stopped_at(mut self, events: &[Event]) -> Self {
        self.stops.extend(events);
        self
    }

    /// An event seeks to a position in the sound.
    pub fn set_at(mut self, event: Event, to: Value<Time>) -> Self {
        self.set.push((event, to));
        self
    }

    /// The playback rate, 0 to 16. The value must change only at events.
    pub fn at_speed(self, speed: Value<Number>) -> Self {
        Plays { speed: Some(speed), ..self }
    }
}

/// A sound of a book.
#[derive(Clone, Debug)]
pub struct Sound {
    /// `None` if the sound was rejected.
    id: Option<SoundId>,
    name: String,
}

impl Sound {
    /// Its ID in the program; `None` if it was rejected.
    pub fn id(&self) -> Option<SoundId> {
        self.id
    }

    /// The smoothed level, 0 to 1, relative to the loudest moment.
    pub fn follow(&self, attack: Seconds, release: Seconds) -> Value<Number> {
        let (measure, full, gate, delay) = (Measure::Level, None, 0.0, Seconds(0.0));
        self.follow_as(Asked { measure, full, gate, attack, release, delay })
    }

    /// A value analyzed from the sound.
    pub fn follow_as(&self, asked: Asked) -> Value<Number> {
        make(Tree::Heard(self.id, self.name.clone(), asked))
    }
}

impl Book {
    fn sound_of(&mut self, name: &str, made: Result<SoundId, SemanticError>) -> Sound {
        let name = name.to_owned();
        match made {
            Ok(id) => Sound { id: Some(id), name },
            Err(error) => {
                self.refuse(&format!("sound `{name}`"), error);
                Sound { id: None, name }
            }
        }
    }

    /// Adds a sound, its analysis (see [`crate::sound::Listener`]) and how it is played. `file` is
    /// the file name shown in drawings and messages.
    pub fn sound(&mut self, name: &str, file: &str, hearing: Arc<Hearing>, plays: Plays) -> Sound {
        let loops = plays.loops.unwrap_or(plays.starts.is_empty());
        let mut owner = Owner::book(name);
        let made = (|| {
            let ids = |events: &[Event]| events.iter().filter_map(|event| event.id()).collect();
            let mut played = Played {
                starts: ids(&plays.starts),
                stops: ids(&plays.stops),
                loops,
                ..Played::default()
            };
            for (event, to) in &plays.set {
                let to = self.lowered(&mut owner, &to.node)?;
                played.set.extend(event.id().map(|event| (event, to)));
            }
            if let Some(speed) = &plays.speed {
                played.speed = Some(self.lowered(&mut owner, &speed.node)?);
            }
            self.builder.define_sound(name, file, hearing, &played)
        })();
        self.sound_of(name, made)
    }

    /// Adds a sound whose levels the game sets while it runs.
    pub fn live_sound(&mut self, name: &str) -> Sound {
        let made = self.builder.define_live(name);
        self.sound_of(name, made)
    }

    /// Adds an event at each onset, beat or note of a sound, optionally only where its value lies
    /// above one limit and below the other.
    pub fn event_at_marks(
        &mut self,
        name: &str,
        sound: &Sound,
        which: Marks,
        [above, below]: [Option<f64>; 2],
    ) -> Event {
        match sound.id {
            // One that was refused is reported already.
            None => Event::refused(),
            Some(id) => {
                let made = self.builder.define_at_marks(name, id, which, [above, below]);
                self.event_of(name, made)
            }
        }
    }
}

/// Lowers a value analyzed from a sound; one of a rejected sound is the constant 0.
pub(super) fn lower_heard(
    builder: &mut ProgramBuilder,
    owner: &mut Owner,
    (sound, name): (Option<SoundId>, &str),
    asked: Asked,
) -> Result<ExprId, SemanticError> {
    match sound {
        Some(sound) => {
            let place = builder.use_of(owner, &format!("{name}.follow"));
            builder.heard(&place, sound, asked)
        }
        None => Ok(builder.constant(nothing(AnyKind::Number), AnyKind::Number)),
    }
}
