//! Conditions, modes, groups, sparks, notices, and what goes with what the game sets, in the builder.

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

/// The rules of modes in the making.
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
    /// Of these modes; the first is active at the start.
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

    /// An event leads from one mode, or from any if none is given, to another.
    pub fn at(
        self,
        way: (Option<&str>, &str),
        event: Event,
        over: Seconds,
        easing: Easing,
    ) -> Self {
        self.line(way, Why::At(event.id()), (over, easing))
    }

    /// A condition does, as soon as it is so, or when it has been so for a time.
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

    /// The time since the mode was entered does.
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

/// A group of lights in the making: the last word over their strength and color.
#[derive(Clone, Debug)]
pub struct Group {
    name: String,
    dims: Vec<[Node; 2]>,
    tints: Vec<[Node; 2]>,
}

impl Group {
    /// Of that name.
    pub fn new(name: &str) -> Self {
        Group { name: name.to_owned(), dims: Vec::new(), tints: Vec::new() }
    }

    /// Dims its lights: how far they are on, 0 to 1, and what is left of them at 0.
    pub fn dim(mut self, by: Value<Number>, left: Value<Number>) -> Self {
        self.dims.push([by.node, left.node]);
        self
    }

    /// Tints them: how far they keep their color, 0 to 1, and the color that they have at 0.
    pub fn tint(mut self, by: Value<Number>, color: Value<Color>) -> Self {
        self.tints.push([by.node, color.node]);
        self
    }

    /// Puts what a light drives into the group.
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

/// A pool of sparks in the making.
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
    /// So many that an event makes, each with a life between these times. Where all live, the oldest makes room.
    pub fn new(name: &str, size: u32, at: Event, lives: RangeInclusive<Seconds>) -> Self {
        Pool { name: name.to_owned(), size, at: at.id(), lives, share: None, oldest: true }
    }

    /// Only this share of the times of the event makes one, by chance.
    pub fn share(mut self, share: f64) -> Self {
        self.share = Some(share);
        self
    }

    /// Where all live, none is made.
    pub fn ignoring(mut self) -> Self {
        self.oldest = false;
        self
    }
}

/// A spark that is being described.
#[derive(Debug)]
pub struct Spark<'b> {
    book: &'b mut Book,
    making: Sparking,
}

impl Spark<'_> {
    /// How much of its life has passed, 0 to 1.
    pub fn life(&self) -> Value<Number> {
        make(Tree::Made(self.making.life))
    }

    /// What each keeps of a value that its event came with.
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

    /// A value that an event comes with each time that the game fires it, kept within bounds.
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

    /// A value without bounds of its own: a color, a point, on or off.
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

    /// An event that happens when a condition becomes so, or has been so for a time; again when it has not been so,
    /// or `again` has been so, in between.
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

    /// An event that happens each time that the clock comes to show an hour.
    pub fn event_at_hour(&mut self, name: &str, hour: Hours) -> Event {
        let made = self.builder.define_at_hour(name, hour);
        self.event_of(name, made)
    }

    /// Modes with rules that lead from one to the next.
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

    /// Reports the game when something happens, with one of some texts by chance; from a lamp of a light, or from
    /// nowhere where its name is empty.
    pub fn send(&mut self, at: &[Event], name: &str, texts: &[&str], (from, lamp): (&str, u32)) {
        let events: Vec<EventId> = at.iter().filter_map(|event| event.id()).collect();
        let texts = texts.iter().map(|text| (*text).to_owned()).collect();
        let notice = Notice { name: name.to_owned(), texts, from: from.to_owned() };
        let mut owner = Owner::book(&format!("{from}[{lamp}] send {name}"));
        owner.property("send");
        if let Err(error) = self.builder.send(&mut owner, &events, notice, Sender::Lamp(lamp)) {
            self.refuse(&format!("notice `{name}`"), error);
        }
    }

    /// Lights that an event makes and that live a short life: `describe` says what each is like. Its name and how
    /// many there are is the pool's.
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

/// A value that rises and falls toward another with a delay: after each time of attack or release it is nearer by all
/// but 1/e. The other must change only when something happens.
pub fn follow<K: Scalar>(value: &Value<K>, attack: Seconds, release: Seconds) -> Value<K> {
    make(Tree::Follow(value.node.clone(), [time(attack).node, time(release).node]))
}

/// 1 where two points lie closer than one length, 0 where they lie farther apart than another, and between those what
/// lies between.
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
    /// Itself as it would be if time went by as fast as another value says, which changes only when something happens.
    pub fn paced(&self, by: &Value<Number>) -> Value<K> {
        of(std::rc::Rc::new(Tree::ChangeRate(self.node.clone(), by.node.clone())))
    }

    /// Itself with its time counted from the last time on that an event happened; from the start until then.
    pub fn since(&self, event: Event) -> Value<K> {
        match event.id() {
            Some(event) => of(std::rc::Rc::new(Tree::Since(self.node.clone(), event))),
            None => self.clone(),
        }
    }
}
