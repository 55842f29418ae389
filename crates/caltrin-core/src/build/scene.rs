//! Conditions, modes, groups, sparks, notices and event parameters, in the builder.

use std::ops::RangeInclusive;

use super::book::Book;
use super::day::Alternate;
use super::event::Event;
use super::kinds::{Color, Kind, Length, Number, OnOff, Point, Scalar};
use super::lower::Lowering;
use super::{Light, Node, Tree, Value, make, of, time};
use crate::curve::Easing;
use crate::kind::Kind as AnyKind;
use crate::program::{Channel, Constant, EventId, ExprId, Notice};
use crate::program_builder::condition::Condition;
use crate::program_builder::group::Group as Made;
use crate::program_builder::modes::{Cause, Rule};
use crate::program_builder::spark::Sparking;
use crate::program_builder::{Owner, ProgramBuilder, Sender};
use crate::quantity::{Hours, Seconds};
use crate::semantic_error::SemanticError;

/// Builds the transitions between modes.
#[derive(Debug)]
pub struct Rules {
    modes: Vec<String>,
    lines: Vec<GroupLine>,
}

#[derive(Debug)]
struct GroupLine {
    from: Option<String>,
    to: String,
    why: Why,
    over: Seconds,
    easing: Easing,
}

#[derive(Debug)]
enum Why {
    At(Option<EventId>),
    When(Node, Option<Seconds>),
    After(Seconds),
}

impl Rules {
    /// Starts with these modes; the first is active at the start of the run.
    pub fn of(modes: &[&str]) -> Self {
        let modes = modes.iter().map(|mode| (*mode).to_owned()).collect();
        Rules { modes, lines: Vec::new() }
    }

    fn line(
        mut self,
        (from, to): (Option<&str>, &str),
        why: Why,
        (over, easing): (Seconds, Easing),
    ) -> Self {
        let (from, to) = (from.map(str::to_owned), to.to_owned());
        self.lines.push(GroupLine { from, to, why, over, easing });
        self
    }

    /// Adds a transition at an event, from one mode, or from any mode if `from` is `None`, to
    /// another.
    pub fn at(
        self,
        way: (Option<&str>, &str),
        event: Event,
        over: Seconds,
        easing: Easing,
    ) -> Self {
        self.line(way, Why::At(event.id()), (over, easing))
    }

    /// Adds a transition that occurs when a condition becomes true, or has been true for a time.
    pub fn when(
        self,
        way: (Option<&str>, &str),
        is: Value<OnOff>,
        lasts: Option<Seconds>,
        over: Seconds,
        easing: Easing,
    ) -> Self {
        self.line(way, Why::When(is.node, lasts), (over, easing))
    }

    /// Adds a transition that occurs a time after the mode was entered.
    pub fn after(
        self,
        way: (Option<&str>, &str),
        passed: Seconds,
        over: Seconds,
        easing: Easing,
    ) -> Self {
        self.line(way, Why::After(passed), (over, easing))
    }
}

/// Builds a group of lights, which scales their intensity and tints their color.
#[derive(Clone, Debug)]
pub struct Group {
    name: String,
    dims: Vec<[Node; 2]>,
    tints: Vec<[Node; 2]>,
}

impl Group {
    /// Creates a group with a name.
    pub fn new(name: &str) -> Self {
        Group { name: name.to_owned(), dims: Vec::new(), tints: Vec::new() }
    }

    /// Dims the lights with a level, 0 to 1; `left` is the intensity that remains at 0.
    pub fn dim(mut self, by: Value<Number>, left: Value<Number>) -> Self {
        self.dims.push([by.node, left.node]);
        self
    }

    /// Tints the lights with a level: their own color at 1, the tint at 0.
    pub fn tint(mut self, by: Value<Number>, color: Value<Color>) -> Self {
        self.tints.push([by.node, color.node]);
        self
    }

    /// Applies the group to the channels of a light.
    pub(super) fn hold(
        &self,
        builder: &mut ProgramBuilder,
        driven: &mut [(Channel, Vec<ExprId>)],
    ) -> Result<(), SemanticError> {
        let mut owner = Owner::book(&self.name);
        let mut made = Made::default();
        for (from, to) in [(&self.dims, &mut made.dims), (&self.tints, &mut made.tints)] {
            for pair in from {
                let mut lower = |node| Lowering::new(builder, &mut owner).lower(node);
                to.push((lower(&pair[0])?, lower(&pair[1])?));
            }
        }
        builder.expect_group(&made)?;
        builder.put_in_group(driven, &made, None).map(|_| ())
    }
}

/// Builds a pool of sparks.
#[derive(Debug)]
pub struct Pool {
    pub(super) name: String,
    size: u32,
    at: Option<EventId>,
    lives: RangeInclusive<Seconds>,
    pub(super) share: Option<f64>,
    pub(super) oldest: bool,
}

impl Pool {
    /// Creates a pool of this size. An event spawns sparks with lifetimes in this range; if the
    /// pool is full, the oldest is replaced.
    pub fn new(name: &str, size: u32, at: Event, lives: RangeInclusive<Seconds>) -> Self {
        Pool { name: name.to_owned(), size, at: at.id(), lives, share: None, oldest: true }
    }

    /// Sets the probability that an event spawns a spark.
    pub fn share(mut self, share: f64) -> Self {
        self.share = Some(share);
        self
    }

    /// Spawns no spark if the pool is full.
    pub fn ignoring(mut self) -> Self {
        self.oldest = false;
        self
    }
}

/// Builds a notice.
#[derive(Debug)]
pub struct Message {
    name: String,
    texts: Vec<String>,
    from: String,
    lamp: u32,
    values: Vec<(String, Node)>,
}

impl Message {
    /// Creates a notice without texts, values and source.
    pub fn new(name: &str) -> Self {
        let (texts, values) = (Vec::new(), Vec::new());
        Message { name: name.to_owned(), texts, from: String::new(), lamp: 0, values }
    }

    /// Sets its texts: a random one is sent, never the same twice in a row.
    pub fn texts(mut self, texts: &[&str]) -> Self {
        self.texts = texts.iter().map(|text| (*text).to_owned()).collect();
        self
    }

    /// Sets the light that it comes from, and the index of its lamp.
    pub fn from(mut self, light: &str, lamp: u32) -> Self {
        (self.from, self.lamp) = (light.to_owned(), lamp);
        self
    }

    /// Adds a value, evaluated each time it is sent; random values that are chosen once are chosen
    /// again. All notices of a book share the values of the same name.
    pub fn value<K: Kind>(mut self, name: &str, value: &Value<K>) -> Self {
        self.values.push((name.to_owned(), value.node.clone()));
        self
    }
}

/// Describes one spark.
#[derive(Debug)]
pub struct Spark<'b> {
    book: &'b mut Book,
    making: Sparking,
}

impl Spark<'_> {
    /// The fraction of the lifetime that has passed, 0 to 1.
    pub fn life(&self) -> Value<Number> {
        make(Tree::Made(self.making.life))
    }

    /// The event's parameter when the spark was spawned.
    pub fn kept<K: Kind>(&mut self, value: &Value<K>) -> Value<K> {
        let Tree::Given(input, _) = *value.node else { return value.clone() };
        match self.book.builder.capture(&mut self.making, input) {
            Ok(kept) => make(Tree::Made(kept)),
            Err(error) => {
                self.book.refuse("a value of a spark", error);
                value.clone()
            }
        }
    }
}

impl Book {
    pub(super) fn lowered(
        &mut self,
        owner: &mut Owner,
        node: &Node,
    ) -> Result<ExprId, SemanticError> {
        Lowering::new(&mut self.builder, owner).lower(node)
    }

    /// Adds a parameter to an event: a value that the game passes with each firing, clamped to a
    /// range.
    pub fn event_value<K: Scalar>(
        &mut self,
        event: Event,
        name: &str,
        default: f64,
        bounds: RangeInclusive<f64>,
    ) -> Value<K> {
        let ends = Some([*bounds.start(), *bounds.end()]);
        self.given(event, name, Constant::Scalar(default), ends)
    }

    /// Adds a parameter without a range: a color, a point, or on or off.
    pub fn plain_event_value<K: Kind>(
        &mut self,
        event: Event,
        name: &str,
        default: K::Stop,
    ) -> Value<K> {
        self.given(event, name, K::constant(default), None)
    }

    fn given<K: Kind>(
        &mut self,
        event: Event,
        name: &str,
        default: Constant,
        ends: Option<[f64; 2]>,
    ) -> Value<K> {
        let fallback = || make(Tree::Constant(default, K::KIND));
        let Some(event) = event.id() else { return fallback() };
        let made = (|| {
            let value = self.builder.constant(default, K::KIND);
            let range = match ends {
                Some([lo, hi]) => {
                    Some([self.builder.number(lo, K::KIND)?, self.builder.number(hi, K::KIND)?])
                }
                None => None,
            };
            self.builder.define_value(event, name, value, range)
        })();
        match made {
            Ok((input, value)) => make(Tree::Given(input, value)),
            Err(error) => {
                self.refuse(&format!("value `{name}`"), error);
                fallback()
            }
        }
    }

    /// Adds an event that occurs when a condition becomes true, or has been true for a time. It is
    /// rearmed when the condition is false, or when `again` is true.
    pub fn event_when(
        &mut self,
        name: &str,
        is: &Value<OnOff>,
        lasts: Option<Seconds>,
        again: Option<&Value<OnOff>>,
    ) -> Event {
        let mut owner = Owner::book(name);
        let made = (|| {
            let is = self.lowered(&mut owner, &is.node)?;
            let again = match again {
                Some(again) => Some(self.lowered(&mut owner, &again.node)?),
                None => None,
            };
            let lasts = match lasts {
                Some(lasts) => Some(self.builder.number(lasts.0, AnyKind::Time)?),
                None => None,
            };
            self.builder.define_when(name, Condition { is, lasts }, again)
        })();
        self.event_of(name, made)
    }

    /// Adds an event that occurs each time the clock reaches an hour.
    pub fn event_at_hour(&mut self, name: &str, hour: Hours) -> Event {
        let made = self.builder.define_at_hour(name, hour);
        self.event_of(name, made)
    }

    /// Adds modes and their transitions.
    pub fn modes(&mut self, name: &str, rules: Rules) -> Alternate {
        let Rules { modes, lines } = rules;
        let mut owner = Owner::book(name);
        let made = (|| {
            let mut all = Vec::with_capacity(lines.len());
            for (n, line) in lines.iter().enumerate() {
                owner.property(&format!("rule{n}"));
                let find = |mode: &String| {
                    let found = modes.iter().position(|known| known == mode);
                    found.ok_or_else(|| SemanticError::NoSuchMode(mode.clone()))
                };
                let from = line.from.as_ref().map(find).transpose()?;
                let to = find(&line.to)?;
                let cause = match &line.why {
                    // One that was refused is reported already.
                    Why::At(None) => continue,
                    Why::At(Some(event)) => Cause::At(*event),
                    Why::When(is, lasts) => {
                        let is = self.lowered(&mut owner, is)?;
                        let lasts = match lasts {
                            Some(lasts) => Some(self.builder.number(lasts.0, AnyKind::Time)?),
                            None => None,
                        };
                        Cause::When(Condition { is, lasts })
                    }
                    Why::After(passed) => {
                        Cause::After(self.builder.number(passed.0, AnyKind::Time)?)
                    }
                };
                let (over, easing) = (line.over, line.easing);
                all.push(Rule { from, to, cause, over, easing });
            }
            self.builder.define_modes(name, &modes, &all)
        })();
        match made {
            Ok(made) => Alternate::of(made.alternatives),
            Err(error) => {
                self.refuse(&format!("modes `{name}`"), error);
                self.alternate_of(modes)
            }
        }
    }

    /// Adds a notice, which tells the game that one of these events occurred.
    pub fn send(&mut self, at: &[Event], message: Message) {
        let events: Vec<EventId> = at.iter().filter_map(|event| event.id()).collect();
        let Message { name, texts, from, lamp, values } = message;
        let mut owner = Owner::book(&format!("{from}[{lamp}] send {name}"));
        owner.property("send");
        let made = (|| {
            let counted = texts.len() > 1 || !values.is_empty();
            let mut sending = self.builder.begin_notice(&mut owner, counted)?;
            for (name, value) in values {
                let value = Lowering::new(&mut self.builder, &mut owner).lower(&value)?;
                self.builder.carry(&mut sending, &name, value)?;
            }
            let notice = Notice { name: name.clone(), texts, from, values: Vec::new() };
            let notice = (notice, Sender::Lamp(lamp));
            self.builder.finish_notice(&mut owner, sending, &events, notice)
        })();
        if let Err(error) = made {
            self.refuse(&format!("notice `{name}`"), error);
        }
    }

    /// Adds a pool of short-lived lights that an event spawns. `describe` returns the light; its
    /// name and size are the pool's.
    pub fn sparks(&mut self, pool: Pool, describe: impl FnOnce(&mut Spark<'_>) -> Light) {
        let Some(at) = pool.at else { return };
        let begun = (|| {
            let [shortest, longest] = [pool.lives.start(), pool.lives.end()];
            let lives = [
                self.builder.number(shortest.0, AnyKind::Time)?,
                self.builder.number(longest.0, AnyKind::Time)?,
            ];
            self.builder.begin_spark(&pool.name, pool.size, at, lives)
        })();
        let making = match begun {
            Ok(making) => making,
            Err(error) => return self.refuse(&format!("spark `{}`", pool.name), error),
        };
        let mut spark = Spark { book: self, making };
        let light = describe(&mut spark);
        let making = spark.making;
        let light = Light { name: pool.name.clone(), ..light }.many(pool.size);
        let name = pool.name.clone();
        let told = Some((making, pool));
        if let Err((channel, error)) = self.lower_light(light, &name, &[], None, told) {
            let place = format!("spark `{name}`");
            let place = channel.map_or(place.clone(), |channel| format!("{place}, {channel}"));
            self.refuse(&place, error);
        }
    }
}

/// Smooths a value that changes only at events: within each time of `attack` (rising) or `release`
/// (falling), the difference shrinks to 1/e.
pub fn follow<K: Scalar>(value: &Value<K>, attack: Seconds, release: Seconds) -> Value<K> {
    make(Tree::Follow(value.node.clone(), [time(attack).node, time(release).node]))
}

/// Proximity of two points: 1 within the first length, 0 beyond the second, eased in between.
pub fn near(
    a: &Value<Point>,
    b: &Value<Point>,
    full: Value<Length>,
    none: Value<Length>,
    easing: Easing,
) -> Value<Number> {
    let points = [a.node.clone(), b.node.clone()];
    make(Tree::Near(points, [full.node, none.node], easing))
}

impl<K: Kind> Value<K> {
    /// Plays the value at a rate, which must change only at events.
    pub fn paced(&self, by: &Value<Number>) -> Value<K> {
        of(std::rc::Rc::new(Tree::ChangeRate(self.node.clone(), by.node.clone())))
    }

    /// Counts the value's time from the last occurrence of an event, or from the start until the
    /// first.
    pub fn since(&self, event: Event) -> Value<K> {
        match event.id() {
            Some(event) => of(std::rc::Rc::new(Tree::Since(self.node.clone(), event))),
            None => self.clone(),
        }
    }
}
