//! What can be wrong with a program, said so that it can be shown to the person who wrote it.

use thiserror::Error;

use crate::curve::CurveFault;
use crate::kind::{ChangeRate, Kind};
use crate::program::{LightKind, MOST_LAMPS};
use crate::quantity::Hours;

/// One thing that does not fit. The text says what was expected; the place is reported by whoever asked.
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
    #[error("the range is reversed: {lo} is above {hi}")]
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
    #[error("this can overflow")]
    NotFinite,
    /// A redrawing interval that is too short to be played.
    #[error("the longest time of `every` must be at least 2us, found {0}s")]
    TooShort(f64),
    /// A redrawing interval that begins below 0.
    #[error("a time between draws cannot be negative, found {0}s")]
    NegativeTime(f64),
    /// Stops that make no curve.
    #[error("{}", curve_fault(.0))]
    Curve(CurveFault),
    /// An array of no lamps, or of too many.
    #[error("an array has 1 to {MOST_LAMPS} lamps, found {0}")]
    ArraySize(u64),
    /// An open array inside of an instance.
    #[error("only the outermost array can be open; give this one a size")]
    OpenInside,
    /// More events than a book may have.
    #[error("a book can have at most {0} events")]
    TooManyEvents(usize),
    /// A curve that an event plays, and nothing said of the time before.
    #[error("the value before the first event is not defined")]
    NothingBefore,
    /// A switch that one event turns twice.
    #[error("`{0}` already changes this switch")]
    TurnedTwice(String),
    /// An event that does two things to one sound.
    #[error("an event can start, stop or set `{0}`, but only one of these and only once")]
    SoundTwice(String),
    /// A band that was not asked for when the sound was heard.
    #[error("`{0}` was not analyzed in this band")]
    NotHeard(String),
    /// Something that the game does not give of a sound.
    #[error("`{0}` is live: only its level, peak, low, mid and high are available")]
    LiveMeasure(String),
    /// A delay of something that is not known beforehand.
    #[error("`{0}` is live and cannot be delayed here; let the game send its levels later")]
    LiveDelay(String),
    /// More rules than modes may have.
    #[error("modes can have at most {0} rules")]
    TooManyRules(usize),
    /// More sequences than may hold one channel.
    #[error("at most {0} sequences can drive one channel of a light")]
    TooManyLayers(usize),
    /// More values than an event may come with.
    #[error("an event can carry at most {0} values")]
    TooManyValues(usize),
    /// A rule that leads from a mode to itself.
    #[error("this rule leads from `{0}` to itself")]
    RuleToItself(String),
    /// A rule that one before it always keeps from going.
    #[error("an earlier rule handles the same mode at the same event, so this one never applies")]
    RuleNeverGoes,
    /// Two things of one name.
    #[error("duplicate name `{0}`")]
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
    #[error("duplicate `{0}` in this light")]
    DrivenTwice(&'static str),
    /// A number outside the range of its channel.
    #[error("{what} {}, but must be within {least}..{most}", span(*lo, *hi))]
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
        "this expands to more than {0} operations; behaviors and signals are nested too deeply"
    )]
    TooLarge(u64),
    /// A call with an argument that the behavior does not have.
    #[error("`{behavior}` takes at most {most} arguments")]
    TooManyArguments {
        /// The behavior.
        behavior: String,
        /// How many parameters it has.
        most: usize,
    },
    /// More parameters than a behavior can have.
    #[error("a behavior can have at most {0} parameters")]
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
    #[error("a rate must be within 0Hz..1000Hz, found {lo}Hz..{hi}Hz")]
    RateOutOfRange {
        /// Lower bound found.
        lo: f64,
        /// Upper bound found.
        hi: f64,
    },
    /// Octaves that cannot be.
    #[error("octaves must be a whole number from 1 to 6, found {0}")]
    Octaves(f64),
    /// A part of a curve that lies outside of it.
    #[error("`part {from}s..{to}s` is outside the curve, which is {length}s long")]
    PartOutside {
        /// The curve's length.
        length: f64,
        /// Where the part starts.
        from: f64,
        /// Where it ends.
        to: f64,
    },
    /// An input whose default or bounds change.
    #[error("the default and range of an input must be constant")]
    InputMoves,
    /// An input of numbers without bounds.
    #[error("`{0}` needs a range, as in `in 0%..100%`; values from the game are clamped to it")]
    InputWithoutRange(String),
    /// Bounds of an input that cannot be ordered.
    #[error("{0} cannot have a range; remove `in`")]
    InputRange(Kind),
    /// A default outside of its bounds.
    #[error("the default is outside {lo}{unit}..{hi}{unit}")]
    InputOutside {
        /// Lower bound.
        lo: f64,
        /// Upper bound.
        hi: f64,
        /// Their unit.
        unit: &'static str,
    },
    /// An input for each lamp of an open array.
    #[error("an open array cannot have inputs or events of its own; give it a size")]
    OpenInput,
    /// Something remembered whose value each call of a behavior says again.
    #[error("{0} needs state, which a behavior cannot hold; declare it in the book or in a light")]
    KeptInBehavior(String),
    /// `base` where no sequence is.
    #[error("`base` exists only in a sequence")]
    NoBase,
    /// A channel of two values that the builder's sequences cannot lead.
    #[error("a sequence drives one value; drive only the outer one of `{0}`")]
    LeadsOneValue(&'static str),
    /// A mode that there is not.
    #[error("there is no mode `{0}`")]
    NoSuchMode(String),
    /// A pool of sparks that is too small or too large.
    #[error("a pool has 1 to 256 sparks, found {0}")]
    SparkCount(u32),
    /// More lines that send notices than a book can have.
    #[error("a book can have at most {0} lines that send notices")]
    TooManyNotices(usize),
    /// More texts than a notice can come with.
    #[error("a notice can have at most {0} texts")]
    TooManyTexts(usize),
    /// A value of a notice with the name of something that every notice has.
    #[error("every notice already has `{0}`; choose another name")]
    NoticeHas(String),
    /// Two values of a notice with the same name.
    #[error("duplicate value `{0}`")]
    NoticeValueTwice(String),
    /// A value of a notice that is of another kind elsewhere.
    #[error("`{name}` is {found} here and {first} in another notice")]
    NoticeValueKind {
        /// The value.
        name: String,
        /// Its kind in an earlier notice.
        first: Kind,
        /// Its kind here.
        found: Kind,
    },
    /// More values of notices than a book can have.
    #[error("the notices of a book can have at most {0} different values")]
    TooManyNoticeValues(usize),
    /// What each instance or lamp has, written by what happens to others.
    #[error("`{0}` belongs to another array or instance")]
    NotItsOwn(String),
    /// More inputs than a run can hold.
    #[error("all inputs together can hold at most {0} numbers")]
    TooManyInputs(u64),
    /// A wall or post that is too far away.
    #[error("this is more than 1000 km away")]
    FarSolid,
    /// A wall or post without a size.
    #[error("heights and radii of walls and posts must be at least 0.1cm")]
    FlatSolid,
    /// An eye or backdrop that is too far away.
    #[error("this is more than 1000 km away")]
    FarView,
    /// An eye that looks at itself.
    #[error("an eye must look toward a point at least 1cm away")]
    BlindEye,
    /// A field of view out of range.
    #[error("the field of an eye must be from 5deg to 150deg, found {0}deg")]
    EyeField(f64),
    /// An output that cannot be a fog density.
    #[error("fog expects an output that is a length (the visual range) or a number, found {0}")]
    FogKind(Kind),
    /// An output that is not a color.
    #[error("expected an output that is a color, found {0}")]
    ColorOutput(Kind),
    /// No output of this name.
    #[error("there is no output `{0}` with a single value")]
    NoOutput(String),
    /// A backdrop without an area.
    #[error("a backdrop must be at least 1cm wide and high")]
    FlatBackdrop,
    /// More eyes or backdrops than there can be.
    #[error("a book can have at most {0} eyes and {0} backdrops")]
    TooManyViews(usize),
    /// More walls and posts than are drawn.
    #[error("a book can have at most {0} walls and posts")]
    TooManySolids(usize),
    /// Too few or too many options.
    #[error("expected 2 to {max} names, found {0}", max = crate::program::MOST_OPTIONS)]
    Options(usize),
    /// Something follows the hour in a book without a clock.
    #[error("this depends on the hour, but the book has no clock")]
    NoClock,
    /// A second clock.
    #[error("the book already has a clock")]
    SecondClock,
    /// Stops of a curve by the hour out of order; the index is the later one's.
    #[error(
        "stops must be in the order of the day, with different hours, and pass midnight at most once"
    )]
    DayOrder(usize),
    /// A day of the game that cannot be.
    #[error("a day of the game must last 1s to 1e7s, found {0}s")]
    DayLength(f64),
    /// What is not an hour of a day.
    #[error("hours must be within 00:00..23:59:59")]
    NoHour(f64),
    /// A clock that is too fast.
    #[error("the rate of a clock must be within -1_000_000..1_000_000, found {0}")]
    ClockRate(f64),
    /// Hours that open and close at once.
    #[error("these hours open and close at the same time")]
    EmptyHours,
    /// Soft edges that do not fit.
    #[error("transitions of {} do not fit: there are only {} between them", .over.to_clock(), .least.to_clock())]
    HoursTooShort {
        /// How long an edge is.
        over: Hours,
        /// The shorter of the times inside and outside.
        least: Hours,
    },
    /// A single phase.
    #[error("expected at least two phases")]
    TooFewPhases,
    /// A phase at an hour that changes.
    #[error("the hours of phases must be constant")]
    PhaseMoves,
    /// Phases out of order.
    #[error(
        "phases must be in the order of the day, with different hours, and pass midnight at most once"
    )]
    PhaseOrder,
    /// Changes of phases that overlap.
    #[error("this transition begins before the previous one ends")]
    PhasesMeet,
    /// Tints for some phases only.
    #[error("either all phases have a tint or none; this one has none")]
    SomeTints,
    /// An event for one at a time where there is only one.
    #[error("`one at a time` needs an array or several instances")]
    OneOfOne,
    /// More tags than a book can have.
    #[error("a book can have at most {0} tags")]
    TooManyTags(usize),
    /// An array's index is asked for where there is no array.
    #[error("this needs an array, as in `mast[8]`")]
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
        CurveFault::TooFew => "a curve needs at least two stops",
        CurveFault::TooMany(_) => "a curve can have at most 1000 stops",
        CurveFault::Order(_) => {
            "stops must be in rising order; two at one position make a jump, three are too many"
        }
        CurveFault::BeforeStart => "a curve in seconds cannot start before 0s",
        CurveFault::TooClose(_) => "two stops are closer than a millionth of their unit",
        CurveFault::Range(_) => {
            "positions and values must be finite, and x1 and x2 of cubic-bezier within 0..1"
        }
    }
}
