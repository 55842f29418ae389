//! What can be wrong with a program, said so that it can be shown to the person who wrote it.

use thiserror::Error;

use crate::curve::CurveFault;
use crate::kind::{ChangeRate, Kind};
use crate::program::{LightKind, MOST_LAMPS};
use crate::quantity::Hours;

/// One thing that does not fit. The text says what was expected; the place is told by whoever asked.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum SemanticError {
    /// A value of another kind was expected.
    #[error("expected {wanted}, found {found}")]
    WrongKind {
        /// What was expected, with its article.
        wanted: String,
        /// What stood there.
        found: Kind,
    },
    /// Two kinds that an operator does not bring together.
    #[error("cannot {verb} {left} and {right}")]
    NoArithmetic {
        /// What was tried: `add`, `multiply` ...
        verb: &'static str,
        /// Kind on the left.
        left: Kind,
        /// Kind on the right.
        right: Kind,
    },
    /// A value changes more often than its place allows.
    #[error("{role} must be {limit}, but this is {found}")]
    TooLively {
        /// What the value is used for.
        role: String,
        /// The fastest change rate allowed.
        limit: ChangeRate,
        /// The change rate found.
        found: ChangeRate,
    },
    /// A range that falls where it must rise.
    #[error("this range falls from {lo} to {hi}; bounds rise")]
    FallingRange {
        /// The first bound.
        lo: f64,
        /// The second bound.
        hi: f64,
    },
    /// A divisor that can be zero.
    #[error("this can divide by 0: the divisor lies between {lo} and {hi}")]
    DivisionByZero {
        /// Lower bound of the divisor.
        lo: f64,
        /// Upper bound of the divisor.
        hi: f64,
    },
    /// A value that overflows.
    #[error("this can grow beyond what a number holds")]
    NotFinite,
    /// A redrawing interval that is too short to be played.
    #[error(
        "`every` needs a longest time of at least 2us, found {0}s; 0s..100ms works, 0s..0s cannot"
    )]
    TooShort(f64),
    /// A redrawing interval that begins below 0.
    #[error("a time between draws cannot be below 0s, found {0}s")]
    NegativeTime(f64),
    /// Stops that make no curve.
    #[error("{}", curve_fault(.0))]
    Curve(CurveFault),
    /// An array of no lamps, or of too many.
    #[error("an array has 1 to {MOST_LAMPS} lamps, found {0}")]
    ArraySize(u64),
    /// An open array inside of a placing.
    #[error("only the outermost array can be open; give this one a number")]
    OpenInside,
    /// More events than a book may have.
    #[error("a book has {0} events at most")]
    TooManyEvents(usize),
    /// A curve that an event plays, and nothing said of the time before.
    #[error("nothing says what it is before the event happens for the first time")]
    NothingBefore,
    /// A switch that one event turns twice.
    #[error("`{0}` turns this switch already")]
    TurnedTwice(String),
    /// An event that does two things to one sound.
    #[error("an event starts, stops or sets `{0}`, only one of these and once")]
    SoundTwice(String),
    /// A band that was not asked for when the sound was heard.
    #[error("`{0}` was not heard in this band")]
    NotHeard(String),
    /// Something that the game does not give of a sound.
    #[error(
        "`{0}` is live: the game gives its level, peak, low, mid and high, and nothing else is known of it"
    )]
    LiveMeasure(String),
    /// A delay of something that is not known beforehand.
    #[error(
        "`{0}` is live, and what the game gives is followed at once; give it later to delay it"
    )]
    LiveDelay(String),
    /// More rules than modes may have.
    #[error("modes have {0} rules at most")]
    TooManyRules(usize),
    /// More sequences than may hold one channel.
    #[error("one channel of a light can be held by {0} sequences at most")]
    TooManyLayers(usize),
    /// More values than an event may come with.
    #[error("an event comes with {0} values at most")]
    TooManyValues(usize),
    /// A rule that leads from a mode to itself.
    #[error("this rule leads from `{0}` to itself")]
    RuleToItself(String),
    /// A rule that one before it always keeps from going.
    #[error("a rule before this one takes the same mode at the same event, so this one never goes")]
    RuleNeverGoes,
    /// Two things of one name.
    #[error("the name `{0}` is taken twice")]
    NameTaken(String),
    /// A channel that this kind of light does not have.
    #[error("{} light has no {channel}", article(.kind))]
    NoSuchChannel {
        /// The kind of light.
        kind: LightKind,
        /// The channel.
        channel: &'static str,
    },
    /// A channel that is driven twice.
    #[error("{0} is driven twice in this light")]
    DrivenTwice(&'static str),
    /// A number outside the range of its channel.
    #[error("{what} {}, but must stay in {least}..{most}", span(*lo, *hi))]
    OutOfRange {
        /// What it is.
        what: &'static str,
        /// Lower bound found.
        lo: f64,
        /// Upper bound found.
        hi: f64,
        /// Least allowed.
        least: f64,
        /// Most allowed.
        most: f64,
    },
    /// A lamp color without any light in it.
    #[error("a lamp's color cannot be black; make its intensity 0 instead")]
    BlackLamp,
    /// A description that unfolds into too much.
    #[error(
        "this unfolds into more than {0} steps; behaviors and signals use each other too deeply"
    )]
    TooLarge(u64),
    /// A call with an argument that the behavior does not have.
    #[error("`{behavior}` takes {most} arguments at most")]
    TooManyArguments {
        /// The behavior.
        behavior: String,
        /// How many parameters it has.
        most: usize,
    },
    /// More parameters than a behavior can have.
    #[error("a behavior has {0} parameters at most")]
    TooManyParameters(usize),
    /// A period or length of time that is not above 0.
    #[error("{what} must be at least 1ms, found {lo}s")]
    NoPeriod {
        /// What it is.
        what: &'static str,
        /// Its lower bound, in seconds.
        lo: f64,
    },
    /// A rate that is negative or too high.
    #[error("a rate lies between 0Hz and 1000Hz, found {lo}Hz..{hi}Hz")]
    RateOutOfRange {
        /// Lower bound found.
        lo: f64,
        /// Upper bound found.
        hi: f64,
    },
    /// Octaves that cannot be.
    #[error("octaves are a whole number from 1 to 6, found {0}")]
    Octaves(f64),
    /// A part of a curve that lies outside of it.
    #[error("the curve goes from 0s to {length}s, so `part {from}s..{to}s` is not in it")]
    PartOutside {
        /// The curve's length.
        length: f64,
        /// Where the part starts.
        from: f64,
        /// Where it ends.
        to: f64,
    },
    /// An input whose default or bounds change.
    #[error("an input's default and bounds are known beforehand, but this changes")]
    InputMoves,
    /// An input of numbers without bounds.
    #[error("`{0}` needs bounds that the game's values are kept in, as in `in 0%..100%`")]
    InputWithoutRange(String),
    /// Bounds of an input that cannot be ordered.
    #[error("{0} has no bounds to be kept in; leave `in` out")]
    InputRange(Kind),
    /// A default outside of its bounds.
    #[error("the default lies outside of {lo}{unit}..{hi}{unit}")]
    InputOutside {
        /// Lower bound.
        lo: f64,
        /// Upper bound.
        hi: f64,
        /// Their unit.
        unit: &'static str,
    },
    /// An input for each lamp of an open array.
    #[error(
        "an open array cannot have inputs or events of its own: nobody knows how many; give it a number"
    )]
    OpenInput,
    /// Something remembered whose value each call of a behavior says anew.
    #[error("{0} is known to the whole book or to a light, not to each use of a behavior")]
    KeptInBehavior(String),
    /// `base` where no sequence is.
    #[error("`base` is what lies beneath a sequence")]
    NoBase,
    /// A channel of two values that the builder's sequences cannot lead.
    #[error("a sequence leads one value; drive only the outer one of `{0}`")]
    LeadsOneValue(&'static str),
    /// A mode that there is not.
    #[error("there is no mode `{0}`")]
    NoSuchMode(String),
    /// A pool of sparks that is too small or too large.
    #[error("a pool has 1 to 256 sparks, found {0}")]
    SparkCount(u32),
    /// More lines that send notices than a book can have.
    #[error("a book sends notices from {0} lines at most")]
    TooManyNotices(usize),
    /// More texts than a notice can come with.
    #[error("a notice comes with one of {0} texts at most")]
    TooManyTexts(usize),
    /// What each placing or lamp has, written by what happens to others.
    #[error("`{0}` happens to others than these")]
    NotItsOwn(String),
    /// More inputs than a run can hold.
    #[error("all inputs together hold {0} numbers at most")]
    TooManyInputs(u64),
    /// A wall or post that is too far away.
    #[error("this lies farther than a thousand kilometers away")]
    FarSolid,
    /// A wall or post without a size.
    #[error("heights and radii of walls and posts are at least 0.1cm")]
    FlatSolid,
    /// More walls and posts than are drawn.
    #[error("a book has {0} walls and posts at most")]
    TooManySolids(usize),
    /// Too few or too many options.
    #[error("there are 2 to {max} names to choose from, found {0}", max = crate::program::MOST_OPTIONS)]
    Options(usize),
    /// Something follows the hour in a book without a clock.
    #[error("this follows the hour, but the book has no clock")]
    NoClock,
    /// A second clock.
    #[error("the book has a clock already; a game has one")]
    SecondClock,
    /// Stops of a curve by the hour out of order; the index is the later one's.
    #[error(
        "stops stand in the order of the day, each at an hour of its own; midnight is passed once"
    )]
    DayOrder(usize),
    /// A day of the game that cannot be.
    #[error("a day of the game lasts from 1s to 1e7s, found {0}s")]
    DayLength(f64),
    /// What is no hour of a day.
    #[error("hours go from 00:00 to 23:59:59")]
    NoHour(f64),
    /// A clock that is too fast.
    #[error("the rate of a clock lies in -1_000_000..1_000_000, found {0}")]
    ClockRate(f64),
    /// Hours that open and close at once.
    #[error("this opens and closes at the same hour")]
    EmptyHours,
    /// Soft edges that do not fit.
    #[error("edges of {} do not fit: there are {} between them", .over.to_clock(), .least.to_clock())]
    HoursTooShort {
        /// How long an edge is.
        over: Hours,
        /// The shorter of the times inside and outside.
        least: Hours,
    },
    /// A single phase.
    #[error("phases are two or more")]
    TooFewPhases,
    /// A phase at an hour that changes.
    #[error("the hours of phases are known beforehand, but this one changes")]
    PhaseMoves,
    /// Phases out of order.
    #[error(
        "phases stand in the order of the day, each at an hour of its own; midnight is passed once"
    )]
    PhaseOrder,
    /// Changes of phases that overlap.
    #[error("this change begins before the one before it is done")]
    PhasesMeet,
    /// Tints for some phases only.
    #[error("either all phases have a tint or none has; this one has none")]
    SomeTints,
    /// An array's index is asked for where there is no array.
    #[error("this goes from lamp to lamp and needs an array, as in `mast[8]`")]
    NoArray,
}

fn span(lo: f64, hi: f64) -> String {
    if lo == hi { format!("is {lo}") } else { format!("goes from {lo} to {hi}") }
}

fn article(kind: &LightKind) -> String {
    match kind {
        LightKind::Ambient | LightKind::Area | LightKind::Output => format!("an {}", kind.name()),
        LightKind::Point | LightKind::Spot | LightKind::Directional => {
            format!("a {}", kind.name())
        }
    }
}

fn curve_fault(fault: &CurveFault) -> &'static str {
    match fault {
        CurveFault::TooFew => "a curve needs two stops or more",
        CurveFault::TooMany(_) => "a curve has 1000 stops at most",
        CurveFault::Order(_) => {
            "stops stand in rising order; two at one position are a jump there, three are too many"
        }
        CurveFault::BeforeStart => "a curve in seconds starts at 0s or later",
        CurveFault::TooClose(_) => "two stops are closer than a millionth of their unit",
        CurveFault::Range(_) => {
            "positions and values must be finite, and x1 and x2 of cubic-bezier lie in 0..1"
        }
    }
}
