//! Sparks: short-lived lights that an event spawns, from a pool of fixed size.

use super::{Owner, ProgramBuilder};
use crate::interval::Interval;
use crate::kind::{ChangeRate, InstanceLevel, Kind};
use crate::program::{
    Constant, EventId, EventOwner, ExprId, InputId, MOST_SPARKS, Op, Size, Spark, Write,
};
use crate::semantic_error::SemanticError;

/// A pool of sparks being defined.
#[derive(Clone, Debug)]
pub struct Sparking {
    event: EventId,
    name: String,
    home: EventOwner,
    born: InputId,
    length: InputId,
    lives: [ExprId; 2],
    /// The fraction of the lifetime that has passed, 0 to 1.
    pub life: ExprId,
    /// Whether the spark is alive.
    pub lives_now: ExprId,
    /// The event parameters that each spark stores: the state, and the parameter.
    captured: Vec<(InputId, ExprId)>,
}

impl ProgramBuilder {
    /// Begins a pool of sparks that an event of the book spawns, with lifetimes in this range.
    pub fn begin_spark(
        &mut self,
        name: &str,
        size: u32,
        event: EventId,
        lives: [ExprId; 2],
    ) -> Result<Sparking, SemanticError> {
        if !(1..=MOST_SPARKS).contains(&size) {
            return Err(SemanticError::SparkCount(size));
        }
        let described = self.program.event(event);
        if described.home != EventOwner::BOOK {
            return Err(SemanticError::NotItsOwn(described.name.clone()));
        }
        let mut ends = [0.0; 2];
        for (end, time) in ends.iter_mut().zip(lives) {
            *end = self.known_time(time, "the life of a spark")?;
        }
        self.rising(lives[0], lives[1])?;
        let home =
            EventOwner { size: Size::Many(size), levels: Vec::new(), scope: InstanceLevel::Lamp };
        let around = self.go_home(home.clone());
        let (born, born_value) = self.keep_moment((format!("{name}.born"), "s, when it began"));
        let (length, length_value) = self.keep(
            (format!("{name}.length"), "s, its lifetime"),
            Kind::Time,
            Constant::Scalar(ends[0]),
            Interval { lo: ends[0], hi: ends[1] },
        );
        self.go_home(around);
        let now = self.now();
        let passed = self.subtract(now, born_value)?;
        let part = self.divide(passed, length_value)?;
        let [none, one] = [self.number(0.0, Kind::Number)?, self.number(1.0, Kind::Number)?];
        let life = self.clamp(part, none, one)?;
        self.name_local(life, "life");
        let end = self.add(born_value, length_value)?;
        let goes_on = self.above(end, now)?;
        let early = self.above(born_value, now)?;
        let begun = self.not(early)?;
        let lives_now = self.and(goes_on, begun)?;
        self.name_local(lives_now, "lives");
        let (name, captured) = (name.to_owned(), Vec::new());
        Ok(Sparking { event, name, home, born, length, lives, life, lives_now, captured })
    }

    /// The value of an event parameter when the spark was spawned.
    pub fn capture(
        &mut self,
        spark: &mut Sparking,
        value: InputId,
    ) -> Result<ExprId, SemanticError> {
        let input = self.program.input(value).clone();
        let own = input.name.rsplit('.').next().unwrap_or_default();
        let scope = spark.home.scope;
        let name = format!("{}.{own}", spark.name);
        let around = self.go_home(spark.home.clone());
        let means = "its value";
        let (kept, read) = self.keep((name, means), input.kind, input.default, input.bounds);
        self.input_slots += (input.kind.width() as u64 - 1) * u64::from(spark.home.count());
        self.go_home(around);
        debug_assert_eq!(self.program.expr(read).scope, scope, "each keeps its own");
        let source = self.push(
            Op::Input(value),
            input.kind,
            ChangeRate::Stepwise,
            InstanceLevel::Book,
            false,
        );
        spark.captured.push((kept, source));
        self.as_written(read)
    }

    /// Makes the event spawn the sparks, at each occurrence or with a probability.
    pub fn finish_spark(
        &mut self,
        owner: &mut Owner,
        spark: Sparking,
        (share, oldest): (Option<f64>, bool),
    ) -> Result<(), SemanticError> {
        let which = self.program.sparks.len() as u32;
        let Sparking { event, name, home, born, length, lives, captured, .. } = spark;
        self.program.sparks.push(Spark { name: name.clone(), born, length, oldest });
        let bounds = Interval { lo: 0.0, hi: 4e9 };
        let (count, counted) = self.keep(
            (format!("{name}.count"), "number of occurrences of its event"),
            Kind::Number,
            Constant::Scalar(0.0),
            bounds,
        );
        let level = self.random_per_count(owner, "lives", counted)?;
        let comes = match share {
            Some(share) => {
                let drawn = self.random_per_count(owner, "share", counted)?;
                let share = self.number(share, Kind::Number)?;
                Some(self.above(share, drawn)?)
            }
            None => None,
        };
        let life = self.lerp(lives[0], lives[1], level, false)?;
        let slot = self.push(
            Op::FreeSpark(which),
            Kind::Number,
            ChangeRate::Flowing,
            InstanceLevel::Book,
            false,
        );
        self.name_local(slot, "slot");
        let room = match oldest {
            true => None,
            false => {
                let all = self.number(f64::from(home.count()), Kind::Number)?;
                Some(self.above(all, slot)?)
            }
        };
        let when = match (comes, room) {
            (Some(comes), Some(room)) => Some(self.and(comes, room)?),
            (comes, room) => comes.or(room),
        };
        let now = self.now();
        let mut sets = vec![(born, now), (length, life)];
        sets.extend(captured);
        let (one, most) = (self.number(1.0, Kind::Number)?, self.number(bounds.hi, Kind::Number)?);
        let next = self.add(counted, one)?;
        let next = self.min(next, most)?;
        let writes = &mut self.program.events[event.index()].writes;
        writes.push(Write { slot: Some(slot), ..Write::own(when, sets) });
        writes.push(Write::own(None, vec![(count, next)]));
        Ok(())
    }
}
