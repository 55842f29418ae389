//! The program: the intermediate representation between front ends and evaluation, checks, drawings
//! and exports.
//!
//! An expression refers only to expressions with smaller IDs, likewise signals and behaviors. A
//! program has no cycles and can be traversed in the order of its IDs. Vectors (colors, points) are
//! single values; only the printers and the evaluator split them into components.

mod field;
mod light;
mod named;
mod op;
mod rehearsal;
mod space;
mod walk;

use std::collections::BTreeMap;

use crate::quantity::Seed;
use rustc_hash::FxHashSet;

pub use field::*;
pub use light::*;
pub use named::*;
pub use op::*;
pub use rehearsal::*;
pub use space::*;
pub use walk::*;

macro_rules! id {
    ($(#[$doc:meta])* $name:ident) => {
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub struct $name(pub(crate) u32);

        impl $name {
            /// Its index in the program's list.
            pub fn index(self) -> usize {
                self.0 as usize
            }
        }
    };
}

id!(
    /// An expression.
    ExprId
);
id!(
    /// A curve.
    CurveId
);
id!(
    /// A table of numbers.
    TableId
);
id!(
    /// A sound.
    SoundId
);
id!(
    /// A signal.
    SignalId
);
id!(
    /// A behavior.
    BehaviorId
);
id!(
    /// A light or an array of lights.
    LightId
);
id!(
    /// An input: a value that the game sets.
    InputId
);
id!(
    /// A choice of the game.
    ChoiceId
);
id!(
    /// An event.
    EventId
);

/// A part of the program that has a name or a line in the book.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Subject {
    /// The whole book.
    Book,
    /// A curve.
    Curve(CurveId),
    /// A signal.
    Signal(SignalId),
    /// A behavior.
    Behavior(BehaviorId),
    /// An input.
    Input(InputId),
    /// A choice.
    Choice(ChoiceId),
    /// A sound.
    Sound(SoundId),
    /// An event.
    Event(EventId),
    /// A light.
    Light(LightId),
    /// One field of a light.
    Drive(LightId, Field),
}

/// Maximum number of tags of a book.
pub const MOST_TAGS: usize = 31;

/// A program, built by [`crate::program_builder::ProgramBuilder`].
#[derive(Clone, Debug, PartialEq)]
pub struct Program {
    pub(crate) name: String,
    pub(crate) seed: Seed,
    pub(crate) notice_capacity: u32,
    pub(crate) space: Space,
    pub(crate) clock: Option<Clock>,
    pub(crate) phases: Vec<Phases>,
    pub(crate) modes: Vec<Modes>,
    pub(crate) states: Vec<NamedState>,
    /// What saved runs know state by.
    pub(crate) anchors: Anchors,
    pub(crate) scenes: Vec<Scene>,
    /// Names of tags.
    pub(crate) tags: Vec<String>,
    pub(crate) bodies: Vec<Body>,
    pub(crate) exprs: Vec<Expr>,
    pub(crate) curves: Vec<NamedCurve>,
    pub(crate) tables: Vec<Table>,
    pub(crate) signals: Vec<Signal>,
    pub(crate) behaviors: Vec<Behavior>,
    pub(crate) inputs: Vec<Input>,
    pub(crate) choices: Vec<Choice>,
    pub(crate) events: Vec<Event>,
    pub(crate) notices: Vec<Notice>,
    pub(crate) notice_values: Vec<NoticeValue>,
    pub(crate) queue: Option<Queue>,
    pub(crate) set_event: Option<EventId>,
    pub(crate) by_hour: Vec<ByHour>,
    pub(crate) by_game: Vec<String>,
    pub(crate) clipped: Vec<String>,
    pub(crate) sparks: Vec<Spark>,
    pub(crate) sounds: Vec<Sound>,
    pub(crate) rehearsals: Vec<Rehearsal>,
    pub(crate) lights: Vec<Light>,
    pub(crate) solids: Vec<Solid>,
    pub(crate) eyes: Vec<Eye>,
    pub(crate) backdrops: Vec<Backdrop>,
    pub(crate) order: Vec<Subject>,
    pub(crate) locals: BTreeMap<ExprId, String>,
    /// Colors that are a weighted blend of others; the weights add up to 1.
    pub(crate) blends: BTreeMap<ExprId, Vec<ExprId>>,
    /// Colors that are another color with a rotated hue.
    pub(crate) hues: BTreeMap<ExprId, [ExprId; 2]>,
}

impl Program {
    /// The color and the angle of a hue rotation.
    pub fn hue(&self, id: ExprId) -> Option<[ExprId; 2]> {
        self.hues.get(&id).copied()
    }

    /// The lightbook's name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The capacity of the queue of notices.
    pub fn notice_capacity(&self) -> u32 {
        self.notice_capacity
    }

    /// The book's own seed.
    pub fn seed(&self) -> Seed {
        self.seed
    }

    /// The coordinate system and units of values.
    pub fn space(&self) -> Space {
        self.space
    }

    /// The game's clock, if the book has one.
    pub fn clock(&self) -> Option<Clock> {
        self.clock
    }

    /// The phases of the day, in the book's order.
    pub fn phases(&self) -> &[Phases] {
        &self.phases
    }

    /// Suns and moons, in the book's order.
    pub fn bodies(&self) -> &[Body] {
        &self.bodies
    }

    /// An expression.
    pub fn expr(&self, id: ExprId) -> &Expr {
        &self.exprs[id.index()]
    }

    /// A curve.
    pub fn curve(&self, id: CurveId) -> &NamedCurve {
        &self.curves[id.index()]
    }

    /// All curves.
    pub fn curves(&self) -> impl Iterator<Item = &NamedCurve> {
        self.curves.iter()
    }

    /// A table.
    pub fn table(&self, id: TableId) -> &Table {
        &self.tables[id.index()]
    }

    /// A signal.
    pub fn signal(&self, id: SignalId) -> &Signal {
        &self.signals[id.index()]
    }

    /// All signals with their ids, in the book's order.
    pub fn signals(&self) -> impl ExactSizeIterator<Item = (SignalId, &Signal)> {
        self.signals.iter().enumerate().map(|(n, signal)| (SignalId(n as u32), signal))
    }

    /// A behavior.
    pub fn behavior(&self, id: BehaviorId) -> &Behavior {
        &self.behaviors[id.index()]
    }

    /// An input.
    pub fn input(&self, id: InputId) -> &Input {
        &self.inputs[id.index()]
    }

    /// All inputs with their ids, in the book's order.
    pub fn inputs(&self) -> impl ExactSizeIterator<Item = (InputId, &Input)> {
        self.inputs.iter().enumerate().map(|(n, input)| (InputId(n as u32), input))
    }

    /// The inputs that the game sets, in the book's order.
    pub fn given(&self) -> impl Iterator<Item = (InputId, &Input)> {
        self.inputs().filter(|(_, input)| input.kept.is_none())
    }

    /// A choice.
    pub fn choice(&self, id: ChoiceId) -> &Choice {
        &self.choices[id.index()]
    }

    /// All choices with their ids, in the book's order.
    pub fn choices(&self) -> impl ExactSizeIterator<Item = (ChoiceId, &Choice)> {
        self.choices.iter().enumerate().map(|(n, choice)| (ChoiceId(n as u32), choice))
    }

    /// An event.
    pub fn event(&self, id: EventId) -> &Event {
        &self.events[id.index()]
    }

    /// All events with their ids, in the book's order.
    pub fn events(&self) -> impl ExactSizeIterator<Item = (EventId, &Event)> {
        self.events.iter().enumerate().map(|(n, event)| (EventId(n as u32), event))
    }

    /// The inputs that a value depends on, directly or through signals and behaviors.
    pub fn inputs_in(&self, root: ExprId) -> FxHashSet<InputId> {
        let inputs = self.walk([root], Depth::Whole).filter_map(|(_, expr)| match expr.op {
            Op::Input(input) => Some(input),
            _ => None,
        });
        inputs.collect()
    }

    /// Whether events may follow at the same time as an action of the game: there are conditions.
    pub fn follows(&self) -> bool {
        self.events.iter().any(|event| event.source.follows())
    }

    /// The event whose last time an input stores, if any.
    pub fn event_kept_in(&self, id: InputId) -> Option<EventId> {
        self.events().find(|(_, event)| event.last == id).map(|(event, _)| event)
    }

    /// The event with this name.
    pub fn event_named(&self, name: &str) -> Option<EventId> {
        self.events().find(|(_, event)| event.name == name).map(|(id, _)| id)
    }

    /// The choice with this name.
    pub fn choice_named(&self, name: &str) -> Option<ChoiceId> {
        self.choices().find(|(_, choice)| choice.name == name).map(|(id, _)| id)
    }

    /// The input with this name.
    pub fn input_named(&self, name: &str) -> Option<InputId> {
        self.given().find(|(_, input)| input.name == name).map(|(id, _)| id)
    }

    /// A light.
    pub fn light(&self, id: LightId) -> &Light {
        &self.lights[id.index()]
    }

    /// All lights with their ids, in the book's order.
    pub fn lights(&self) -> impl ExactSizeIterator<Item = (LightId, &Light)> {
        self.lights.iter().enumerate().map(|(n, light)| (LightId(n as u32), light))
    }

    /// The notices of the book.
    pub fn notices(&self) -> &[Notice] {
        &self.notices
    }

    /// The values that notices carry.
    pub fn notice_values(&self) -> &[NoticeValue] {
        &self.notice_values
    }

    /// The event that the game sets the clock, if any state depends on the hour only.
    pub fn set_event(&self) -> Option<EventId> {
        self.set_event
    }

    /// Switches and modes that depend on the hour only.
    pub fn by_hour(&self) -> &[ByHour] {
        &self.by_hour
    }

    /// The names of switches and modes that depend on more than the hour.
    pub fn by_game(&self) -> &[String] {
        &self.by_game
    }

    /// The names of hours, switches and modes with an easing that overshoots and is clamped to 0..1.
    pub fn clipped(&self) -> &[String] {
        &self.clipped
    }

    /// The queue of notices, if the book sends any.
    pub fn queue(&self) -> Option<Queue> {
        self.queue
    }

    /// The pools of sparks.
    pub fn sparks(&self) -> &[Spark] {
        &self.sparks
    }

    /// The sounds of the book.
    pub fn sounds(&self) -> &[Sound] {
        &self.sounds
    }

    /// A sound.
    pub fn sound(&self, id: SoundId) -> &Sound {
        &self.sounds[id.index()]
    }

    /// All sounds with their ids, in the book's order.
    pub fn sounds_by_id(&self) -> impl ExactSizeIterator<Item = (SoundId, &Sound)> {
        self.sounds.iter().enumerate().map(|(n, sound)| (SoundId(n as u32), sound))
    }

    /// All tables, including the kernel's.
    pub fn tables(&self) -> &[Table] {
        &self.tables
    }

    /// The modes of the book.
    pub fn modes(&self) -> &[Modes] {
        &self.modes
    }

    /// The switches and modes of the book, of its instances and of its lights, in the book's order.
    pub fn states(&self) -> &[NamedState] {
        &self.states
    }

    /// Tags of lights, in order of first use in the book; see [`Light::tags`].
    pub fn tags(&self) -> &[String] {
        &self.tags
    }

    /// The sequences of the book.
    pub fn scenes(&self) -> &[Scene] {
        &self.scenes
    }

    /// The rehearsals of the book.
    pub fn rehearsals(&self) -> &[Rehearsal] {
        &self.rehearsals
    }

    /// Walls and posts, for drawings of the place.
    pub fn solids(&self) -> &[Solid] {
        &self.solids
    }

    /// Viewpoints, for drawings of the place.
    pub fn eyes(&self) -> &[Eye] {
        &self.eyes
    }

    /// Pictures in the place, for drawings of it.
    pub fn backdrops(&self) -> &[Backdrop] {
        &self.backdrops
    }

    /// The light with this name.
    pub fn light_named(&self, name: &str) -> Option<LightId> {
        self.lights().find(|(_, light)| light.name == name).map(|(id, _)| id)
    }

    /// Curves, signals, behaviors, inputs and lights in dependency order.
    pub fn order(&self) -> &[Subject] {
        &self.order
    }

    /// The name of an expression inside a light or behavior, if it has one.
    pub fn local_name(&self, id: ExprId) -> Option<&str> {
        self.locals.get(&id).map(String::as_str)
    }

    /// All expressions, in the order of their IDs.
    pub fn exprs(&self) -> impl ExactSizeIterator<Item = &Expr> {
        self.exprs.iter()
    }

    /// The number of expressions; IDs start at 0.
    pub fn expr_count(&self) -> usize {
        self.exprs.len()
    }

    /// The value of an expression, if it is constant.
    pub fn constant(&self, id: ExprId) -> Option<Constant> {
        match self.expr(id).op {
            Op::Constant(c) => Some(c),
            _ => None,
        }
    }
}
