//! The samples of a proof: moments, seeds, inputs and acts, and the book's rehearsals.

use std::collections::BTreeSet;

use caltrin_core::interval::Interval;
use caltrin_core::kind::Kind;
use caltrin_core::program::{
    Constant, Deed, Domain, Event, EventId, EventSource, Op, Rehearsal, Size,
};
use caltrin_core::quantity::Seed;
use caltrin_core::{ValidatedProgram, kernel};

use crate::sample::{ACTS, Blocks, FIRST_SET};

/// An action of the game.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Act {
    /// The action.
    pub verb: Verb,
    /// Its time, in seconds.
    pub at: f64,
    /// Its argument: hours, days, rate or option; including values out of range, NaN and
    /// infinities.
    pub to: f64,
}

/// The actions of a game.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Verb {
    /// No action.
    Leave,
    /// Sets the clock.
    Set,
    /// Drives the clock.
    Drive,
    /// Sets the day count.
    Days,
    /// Sets the clock rate.
    Rate,
    /// Selects an option: 1000 times the index of the choice, plus the option; including invalid
    /// options.
    Choose,
    /// Fires the event with this index among those that the game fires.
    Fire,
    /// Sets the input with this index among those that the game sets; the first of an array, all
    /// components alike.
    Input(u32),
}

impl Verb {
    /// Its number for provers.
    pub(super) fn number(self) -> u32 {
        match self {
            Verb::Leave => 0,
            Verb::Set => 1,
            Verb::Drive => 2,
            Verb::Days => 3,
            Verb::Rate => 4,
            Verb::Choose => 5,
            Verb::Fire => 6,
            Verb::Input(n) => FIRST_SET + n,
        }
    }
}

/// A sample: a time, a seed, actions and inputs at which all values are evaluated.
#[derive(Clone, Debug, PartialEq)]
pub struct Asked {
    /// The time passed to `advance`; including NaN and infinities.
    pub moment: f64,
    /// The run's seed.
    pub seed: Seed,
    /// The actions before it.
    pub acts: [Act; ACTS],
    /// The inputs: a number for each component, the same in all instances or lamps; including
    /// values out of range, NaN and infinities. Nonzero is on.
    pub inputs: Vec<f64>,
    /// Arguments of events: a number for each component, in order. Nonzero is on.
    pub given: Vec<f64>,
    /// Whether the run continues from the previous sample instead of restarting.
    pub goes_on: bool,
}

impl Asked {
    /// A time and a seed, and nothing done before it.
    pub(crate) fn at(moment: f64, seed: Seed) -> Asked {
        let idle = Act { verb: Verb::Leave, at: 0.0, to: 0.0 };
        let (inputs, given) = (Vec::new(), Vec::new());
        Asked { moment, seed, acts: [idle; ACTS], inputs, given, goes_on: false }
    }
}

/// The samples of a proof: small and large times, exactly at breakpoints and next to them, with
/// several seeds; enough for `samples` lamps.
pub fn moments(checked: &ValidatedProgram, samples: u64) -> Vec<Asked> {
    let all: Vec<usize> = (0..checked.program().rehearsals().len()).collect();
    moments_with(checked, samples, &all)
}

/// Same, replaying only these rehearsals of the book.
pub fn moments_with(checked: &ValidatedProgram, samples: u64, rehearsals: &[usize]) -> Vec<Asked> {
    let own = checked.program().seed();
    let seeds = [own, Seed(0), Seed(1), Seed(u32::MAX), Seed(own.0.wrapping_mul(7919))];
    let mut special = vec![
        0.0,
        -0.0,
        1e-40,
        5e-324,
        -1e-31,
        1e-30,
        1e-9,
        1.0,
        -1.0,
        1e6,
        -1e6,
        1e9,
        -1e9,
        1e300,
        f64::NAN,
        f64::INFINITY,
        f64::NEG_INFINITY,
        86_400.0,
        3_599.999_999_9,
        4_294_967_296.0,
    ];
    let mut breakpoints = BTreeSet::new();
    let mut hours = BTreeSet::new();
    for id in checked.program().order() {
        if let caltrin_core::program::Subject::Curve(id) = id {
            let named = checked.program().curve(*id);
            let curve = &named.curve;
            if named.domain == Domain::Day {
                hours.extend(curve.stops().iter().map(|stop| stop.at.0.to_bits()));
                continue;
            }
            let length = curve.length().0;
            for stop in curve.stops() {
                for turn in [0.0, 1.0, 2.0, 57.0, -1.0] {
                    breakpoints.insert((turn * length + stop.at.0).to_bits());
                }
            }
        }
    }
    for bits in breakpoints {
        let t = f64::from_bits(bits);
        special.extend([t, t.next_up(), t.next_down()]);
    }
    let hours: Vec<f64> = hours.into_iter().map(f64::from_bits).collect();
    let lamps: u64 = blocks(checked).iter().flatten().map(|(_, count)| u64::from(*count)).sum();
    let wanted = (samples / lamps.max(1) + 1).max(500) as usize;
    let spans = spans(checked);
    // What happens by itself is gone through one after the other, so that most moments are near.
    let timed = checked.program().events().any(|(_, event)| event.due.is_some());
    // What is evaluated again and again takes long to get to, so there most moments are nearer and fewer.
    let looked = checked.program().events().any(|(_, event)| event.source == EventSource::Look);
    if looked {
        special.retain(|moment| moment.abs() < 20.0 || !moment.is_finite());
    } else if checked.program().follows() {
        // Rules may lead on and on, and what is not exported counts for the limit of one call too.
        special.retain(|moment| moment.abs() <= 600.0);
    }
    let wanted = if looked { wanted.min(1500) } else { wanted };
    let mut asked = Vec::with_capacity(wanted + special.len());
    for moment in special {
        ask(checked, moment, seeds[asked.len() % seeds.len()], &hours, &spans, &mut asked);
    }
    let mut n = 0u32;
    while asked.len() < wanted {
        let unit = kernel::to_unit(kernel::draw(0x5a17_9a7e, n));
        let more = kernel::to_unit(kernel::draw(0x0ca1_7817, n));
        // A third within two minutes, a third within a day, a third anywhere.
        let moment = match n % 3 {
            _ if looked => {
                let within = if n.is_multiple_of(24) { 60.0 } else { 6.0 };
                within * (unit + more / 16_777_216.0)
            }
            _ if timed => 600.0 * (unit + more / 16_777_216.0),
            0 => 120.0 * (unit + more / 16_777_216.0),
            1 => 86_400.0 * unit + more,
            _ => (unit - 0.5) * 2e7 + more,
        };
        ask(checked, moment, seeds[n as usize / 3 % seeds.len()], &hours, &spans, &mut asked);
        n += 1;
    }
    asked.extend(replays(checked, rehearsals));
    asked
}

/// Adds a sample with inputs and actions.
fn ask(
    checked: &ValidatedProgram,
    moment: f64,
    seed: Seed,
    hours: &[f64],
    spans: &[f64],
    asked: &mut Vec<Asked>,
) {
    let n = asked.len() as u32;
    let options: Vec<usize> =
        checked.program().choices().map(|(_, choice)| choice.options.len()).collect();
    let events: Vec<u32> = game_events(checked).map(|(_, event)| event.home.count()).collect();
    let acts = acts(checked, moment, hours, &options, (&events, spans), n);
    let acts = if checked.program().follows() { in_order(acts, moment) } else { acts };
    let (inputs, given) = (inputs(checked, n), given(checked, moment, n));
    asked.push(Asked { moment, seed, acts, inputs, given, goes_on: false });
}

/// The actions as a host performs them: in order, and none after the time of the sample. The
/// behavior of conditions when time runs backward is unspecified.
fn in_order(mut acts: [Act; ACTS], moment: f64) -> [Act; ACTS] {
    let last = kernel::clean_moment(moment).max(0.0);
    for act in &mut acts {
        act.at = kernel::clean_moment(act.at).clamp(0.0, last);
    }
    acts.sort_by(|a, b| a.at.total_cmp(&b.at));
    acts
}

/// The clock actions before the `n`-th sample: jumps to and next to stops of curves, to midnight
/// and out of range, reversals and rates up to a million; none for the first.
fn acts(
    checked: &ValidatedProgram,
    moment: f64,
    hours: &[f64],
    options: &[usize],
    (events, spans): (&[u32], &[f64]),
    n: u32,
) -> [Act; ACTS] {
    let clean = kernel::clean_moment(moment);
    let act = |k: u32| {
        let draw = |place: u32| kernel::draw(kernel::chance_key(0x0c10_c4ed, place), 4 * n + k);
        let unit = |place| kernel::to_unit(draw(place));
        let at = match draw(1) % 4 {
            0 => moment,
            // Exactly when what begins there is over, and beside that.
            1 | 2 if !spans.is_empty() => {
                let span = spans[draw(2) as usize % spans.len()];
                let end = clean - span;
                [end, end, end.next_up(), end.next_down()][draw(13) as usize % 4]
            }
            1 => clean - 60.0 * unit(2),
            2 => clean - 3e5 * unit(2),
            _ => 1e4 * (unit(2) - 0.5),
        };
        let edge = hours.get(draw(3) as usize % hours.len().max(1)).copied().unwrap_or(0.0);
        let hour = match draw(4) % 12 {
            0 => edge,
            1 => edge.next_up(),
            2 => edge.next_down(),
            3 => 0.0,
            4 => 24f64.next_down(),
            5 => 24.0,
            6 => -3.25,
            7 => [f64::NAN, f64::INFINITY, 1e300, -1e300][draw(5) as usize % 4],
            _ => 24.0 * unit(6),
        };
        let days = [0.0, 1.0, -1.0, 364.5, 1e9, -2e9, f64::NAN, 30.0 * unit(6)];
        let rates = [0.0, 1.0, -1.0, 1e4, 1e6, -1e6, 2e6, f64::NEG_INFINITY, 10.0 * unit(6) - 5.0];
        let given = checked.program().given().count();
        let input = draw(15) as usize % given.max(1);
        let bounds = checked.program().given().nth(input).map(|(_, input)| input.bounds);
        let Interval { lo, hi } = bounds.unwrap_or(Interval::of(0.0));
        let within = lo + (hi - lo) * unit(16);
        let which = draw(9) as usize % options.len().max(1);
        let option = draw(10) as usize % (options.get(which).copied().unwrap_or(0) + 1);
        let (verb, to) = match draw(7) % 8 {
            _ if n == 0 => (Verb::Leave, 0.0),
            _ if given > 0 && checked.program().follows() && draw(17) % 2 == 0 => {
                (Verb::Input(input as u32), within)
            }
            _ if !events.is_empty() && draw(12) % 4 != 0 => {
                let fired = draw(14) % events.len() as u32;
                let lamp = draw(18) % events[fired as usize].min(1000);
                (Verb::Fire, f64::from(fired * 1000 + lamp))
            }
            _ if !options.is_empty() && draw(11) % 2 == 0 => {
                (Verb::Choose, (which * 1000 + option) as f64)
            }
            0 | 1 => (Verb::Leave, 0.0),
            2 | 3 => (Verb::Set, hour),
            4 => (Verb::Drive, hour),
            5 => (Verb::Days, days[draw(8) as usize % days.len()]),
            _ => (Verb::Rate, rates[draw(8) as usize % rates.len()]),
        };
        Act { verb, at, to }
    };
    [act(0), act(1), act(2)]
}

/// The inputs at the `n`-th sample: inside their ranges, at and beyond the ends, and NaN; first the
/// book's defaults.
pub(super) fn inputs(checked: &ValidatedProgram, n: u32) -> Vec<f64> {
    let mut all = Vec::new();
    for (id, input) in checked.program().given() {
        for slot in 0..input.count() * input.kind.width() as u32 {
            let chance = kernel::draw(kernel::chance_key(id.index() as u32, slot), n);
            let Interval { lo, hi } = input.bounds;
            let inside = lo + (hi - lo) * kernel::to_unit(chance);
            all.push(match (n, chance % 16) {
                (_, 0) if input.kind == Kind::OnOff => 0.0,
                (_, draw) if input.kind == Kind::OnOff => f64::from(draw % 2),
                (_, 0) => f64::NAN,
                (_, 1) => f64::INFINITY,
                (_, 2) => f64::NEG_INFINITY,
                (_, 3) => lo,
                (_, 4) => hi,
                (_, 5) => hi + 1.0,
                (_, 6) => lo - 1e300,
                (_, 7) => -0.0,
                (_, 8) => 5e-324,
                _ => inside,
            });
        }
    }
    all
}

/// Maximum number of components of an event's arguments.
fn most_given(checked: &ValidatedProgram) -> usize {
    let numbers = game_events(checked).map(|(_, event)| {
        event.values.iter().map(|id| checked.program().input(*id).kind.width()).sum()
    });
    numbers.max().unwrap_or(0)
}

/// Arguments of events before the `n`-th sample: values of all kinds, and NaN.
fn given(checked: &ValidatedProgram, moment: f64, n: u32) -> Vec<f64> {
    // Whether one is on is a number that is one.
    let mut flags = vec![false; most_given(checked)];
    for (_, event) in game_events(checked) {
        let kinds = event.values.iter().map(|id| checked.program().input(*id).kind);
        let mut at = 0;
        for kind in kinds {
            flags[at] |= kind == Kind::OnOff;
            at += kind.width();
        }
    }
    let each = (0..flags.len() as u32).map(|k| {
        let draw = kernel::draw(kernel::chance_key(0x61e4_0001, k), n);
        match draw % 10 {
            n if flags[k as usize] => f64::from(n % 2),
            0 => f64::NAN,
            1 => f64::INFINITY,
            2 => -3.0,
            3 => 1e12,
            4 => 0.0,
            5 => moment,
            6 => 1.0,
            _ => 4.0 * kernel::to_unit(draw),
        }
    });
    each.collect()
}

/// Maximum number of frames of a replayed rehearsal.
const MOST_FRAMES: f64 = 400.0;

/// The book's rehearsals, replayed as in a game: at 60 and at 24 frames per second, with frames of
/// varying length, and with occasional hitches; all values are evaluated after each frame. Long
/// rehearsals have longer frames.
fn replays(checked: &ValidatedProgram, which: &[usize]) -> Vec<Asked> {
    let mut asked = Vec::new();
    for rehearsal in which.iter().filter_map(|n| checked.program().rehearsals().get(*n)) {
        for pattern in 0..4u32 {
            let least = rehearsal.end.0 / MOST_FRAMES;
            let frame = |n: u32| {
                let chance =
                    kernel::to_unit(kernel::draw(kernel::chance_key(0x0f7a_3e5d, pattern), n));
                let default = match pattern {
                    0 => 1.0 / 60.0,
                    1 => 1.0 / 24.0,
                    2 => 0.002 + 0.1 * chance,
                    _ if n % 23 == 22 => 2.7,
                    _ => 1.0 / 90.0,
                };
                default.max(least)
            };
            replay(checked, rehearsal, frame, &mut asked);
        }
    }
    asked
}

fn replay(
    checked: &ValidatedProgram,
    rehearsal: &Rehearsal,
    frame: impl Fn(u32) -> f64,
    asked: &mut Vec<Asked>,
) {
    let program = checked.program();
    let leave = Act { verb: Verb::Leave, at: 0.0, to: 0.0 };
    let numbers = |value: Constant, width: usize| -> Vec<f64> {
        match value {
            Constant::Scalar(v) => vec![v],
            Constant::OnOff(on) => vec![f64::from(u8::from(on))],
            Constant::Vector(v) => v[..width].to_vec(),
        }
    };
    // What all inputs are at, and where each begins.
    let (mut inputs, mut places) = (Vec::new(), Vec::new());
    for (id, input) in program.given() {
        places.push((id, inputs.len()));
        for _ in 0..input.count() {
            inputs.extend(numbers(input.default, input.kind.width()));
        }
    }
    let none = vec![0.0; most_given(checked)];
    let mut put = |moment: f64, act: Act, inputs: &[f64], given: &[f64], first: bool| {
        // Each goes to its own moment, also where nothing is done then.
        let acts = [act, leave, leave].map(|act| Act { at: moment, ..act });
        asked.push(Asked {
            moment,
            seed: program.seed(),
            acts,
            inputs: inputs.to_vec(),
            given: given.to_vec(),
            goes_on: !first,
        });
    };
    let start = match rehearsal.clock {
        Some(hour) => Act { verb: Verb::Set, at: 0.0, to: hour.0 },
        None => leave,
    };
    put(0.0, start, &inputs, &none, true);
    let (mut now, mut n) = (0.0, 0);
    let mut deeds = rehearsal.deeds.iter().peekable();
    while now < rehearsal.end.0 {
        let next = (now + frame(n)).min(rehearsal.end.0);
        n += 1;
        while let Some((at, deed)) = deeds.next_if(|(at, _)| at.0 <= next) {
            // It is due first, then the game acts.
            put(at.0, leave, &inputs, &none, false);
            match deed {
                Deed::Set(id, which, value) => {
                    let width = program.input(*id).kind.width();
                    let place = places.iter().find(|(known, _)| known == id).map(|(_, at)| *at);
                    for index in which.indices() {
                        let from = place.unwrap_or_default() + index as usize * width;
                        inputs[from..from + width].copy_from_slice(&numbers(*value, width));
                    }
                    put(at.0, leave, &inputs, &none, false);
                }
                Deed::Choose(choice, option) => {
                    let to = (choice.index() * 1000) as f64 + f64::from(*option);
                    put(at.0, Act { verb: Verb::Choose, at: at.0, to }, &inputs, &none, false);
                }
                Deed::Clock(hour) | Deed::DriveClock(hour) => {
                    let driven = matches!(deed, Deed::DriveClock(_));
                    let verb = if driven { Verb::Drive } else { Verb::Set };
                    put(at.0, Act { verb, at: at.0, to: hour.0 }, &inputs, &none, false);
                }
                Deed::ClockRate(rate) => {
                    let act = Act { verb: Verb::Rate, at: at.0, to: *rate };
                    put(at.0, act, &inputs, &none, false);
                }
                Deed::Fire(id, which, values) => {
                    let fired = game_events(checked).position(|(known, _)| known == *id);
                    let mut given = Vec::new();
                    for (n, value) in program.event(*id).values.iter().enumerate() {
                        let input = program.input(*value);
                        let value = values.get(n).copied().flatten().unwrap_or(input.default);
                        given.extend(numbers(value, input.kind.width()));
                    }
                    given.resize(none.len(), 0.0);
                    for index in which.indices().take(1000) {
                        let to = f64::from(fired.unwrap_or_default() as u32 * 1000 + index);
                        put(at.0, Act { verb: Verb::Fire, at: at.0, to }, &inputs, &given, false);
                    }
                }
            }
        }
        now = next;
        put(now, leave, &inputs, &none, false);
    }
}

/// The events that the game fires, in the book's order.
pub(super) fn game_events(checked: &ValidatedProgram) -> impl Iterator<Item = (EventId, &Event)> {
    checked.program().events().filter(|(_, event)| event.source == EventSource::Game)
}

/// Durations of what events start, so that samples can be exactly at the end of each.
fn spans(checked: &ValidatedProgram) -> Vec<f64> {
    let program = checked.program();
    if program.events().len() == 0 {
        return Vec::new();
    }
    let times = program.exprs().filter_map(|expr| match (&expr.op, expr.kind) {
        (Op::Constant(Constant::Scalar(v)), Kind::Time) if (1e-3..=1e6).contains(v) => {
            Some(v.to_bits())
        }
        _ => None,
    });
    let times: BTreeSet<u64> = times.collect();
    times.into_iter().map(f64::from_bits).collect()
}

/// The lamps that are evaluated of each light: all of a small array, both ends of a large one,
/// small and large indices of an open one.
pub(super) fn blocks(checked: &ValidatedProgram) -> Blocks {
    checked
        .program()
        .lights()
        .map(|(_, light)| match light.size {
            Size::One => vec![(0, 1)],
            Size::Many(n) if n <= 64 => vec![(0, n)],
            Size::Many(n) => vec![(0, 32), (n - 32, 32)],
            Size::Open => vec![(0, 8), (1_000_000, 2), (u32::MAX - 1, 2)],
        })
        .collect()
}
