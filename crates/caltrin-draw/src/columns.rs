//! A lamp's intensity and color, aggregated into the columns of a drawing.

use caltrin_core::Run;
use caltrin_core::ValidatedProgram;
use caltrin_core::clock::{ClockState, Shown};
use caltrin_core::color::Rgb;
use caltrin_core::program::{Constant, ExprId, InputId, LaneValue, LightId, Program};
use caltrin_core::quantity::{Hours, Seconds};
use caltrin_core::rehearsal::Player;
use caltrin_core::run::State;
use caltrin_core::trace::LampTrace;

/// One column: the aggregate of several samples.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(crate) struct Column {
    pub least: f32,
    pub most: f32,
    pub mean: f32,
    /// Mean of color times intensity, linear light.
    pub light: [f32; 3],
}

/// The columns of one lamp.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Lamp {
    pub columns: Vec<Column>,
    pub most: f32,
    /// The number of live sparks of a pool in each column; empty for other lights.
    pub living: Vec<u32>,
}

impl Lamp {
    /// The brightest of several lamps in each column, for sparks, of which few are alive at a time.
    pub fn brightest(lamps: Vec<Lamp>) -> Option<Lamp> {
        let count = lamps.first().map_or(0, |lamp| lamp.columns.len());
        let lives = |n: usize| lamps.iter().filter(|lamp| lamp.columns[n].most > 0.0).count();
        let living = (0..count).map(|n| lives(n) as u32).collect();
        let brightest = lamps.into_iter().reduce(|mut all, lamp| {
            all.most = all.most.max(lamp.most);
            for (kept, other) in all.columns.iter_mut().zip(lamp.columns) {
                if other.most > kept.most {
                    kept.light = other.light;
                }
                kept.least = kept.least.max(other.least);
                kept.mean = kept.mean.max(other.mean);
                kept.most = kept.most.max(other.most);
            }
            all
        });
        brightest.map(|lamp| Lamp { living, ..lamp })
    }
}

/// The horizontal axis.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Along {
    /// Time.
    Time(Seconds, Seconds),
    /// The game's day from midnight to midnight. Each column aggregates what happens in it with the
    /// clock at the speed of a real day.
    Day,
    /// The value of an input, the same for all instances or lamps, from one value to another, at
    /// one time.
    Input(InputId, f64, f64, Seconds),
}

/// The samples along the horizontal axis.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Window {
    pub along: Along,
    pub columns: usize,
    /// Samples per column; one for an input.
    pub each: usize,
    /// Index of the rehearsal that is played, if any.
    pub rehearsal: Option<usize>,
}

/// Seconds of a day, and the time at which a day sheet starts: by then, curves that play once have
/// ended.
const DAY: f64 = 86_400.0;

/// A state whose clock takes a real day for a day, from midnight on, derived from another state.
pub(crate) fn day_state(program: &Program, state: &State) -> State {
    let mut state = state.clone();
    if let Some(clock) = program.clock() {
        let shown = Shown { hour: Hours(0.0), ..state.clock.shown };
        let (since, rate, from) = (Seconds(DAY), clock.day.0 / DAY, shown.hour);
        state.clock = ClockState { since, shown, rate, from };
    }
    state
}

/// Evenly spaced times of that day.
pub(crate) fn day_moments(count: usize) -> Vec<Seconds> {
    (0..count).map(|n| Seconds(DAY + DAY * (n as f64 + 0.5) / count as f64)).collect()
}

/// The hour at a time of that day.
fn day_hour(moment: Seconds) -> Hours {
    Hours((moment.0 - DAY) / DAY * 24.0)
}

/// Whether the state that depends on the hour only is the same at two times of that day.
fn same_by_hour(program: &Program, a: Seconds, b: Seconds) -> bool {
    let by_hour = program.by_hour().iter();
    by_hour.into_iter().all(|by_hour| by_hour.at(day_hour(a)) == by_hour.at(day_hour(b)))
}

/// Evaluates the first components of a lamp at times of that day, with the state that depends on
/// the hour at each.
fn read_day(run: &mut Run<'_>, state: &State, lamp: (LightId, u32), width: usize, out: &mut [f32]) {
    let program = run.checked().program();
    let mut state = day_state(program, state);
    let moments = day_moments(out.len() / width);
    let mut rest = out;
    // From one hour to the next at which something turns.
    for part in moments.chunk_by(|a, b| same_by_hour(program, *a, *b)) {
        state.settle_by_hour(program, day_hour(part[0]));
        run.restore(state.clone());
        let (now, later) = std::mem::take(&mut rest).split_at_mut(part.len() * width);
        run.read_moments(lamp, part, 0..width, now);
        rest = later;
    }
}

/// All components of a lamp at times of that day.
pub(crate) fn day_trace(
    checked: &ValidatedProgram,
    state: &State,
    (light, index): (LightId, u32),
    count: usize,
) -> LampTrace {
    let mut run = Run::from_state(checked, state.clone());
    let width = run.width(light);
    let mut values = vec![0.0; width * count];
    if width > 0 {
        read_day(&mut run, state, (light, index), width, &mut values);
    }
    LampTrace::of_values(light, index, width, values)
}

/// The sampled components of one lamp: the positions of its intensity and color, and the number of
/// components.
#[derive(Clone, Copy)]
struct Places {
    strength: Option<usize>,
    color: Option<usize>,
    width: usize,
}

impl Places {
    fn of(program: &Program, light: LightId, value: LaneValue) -> Places {
        let described = program.light(light);
        let part = |(field, part)| Some(described.places(field)?.start + part);
        let strength = value.level.and_then(part);
        let color = value.hue.and_then(|field| part((field, 0)));
        // What follows the level and the color is not seen here.
        let width = strength.map_or(0, |at| at + 1).max(color.map_or(0, |at| at + 3));
        Places { strength, color, width }
    }
}

/// A lamp to sample, in a run from a state.
pub(crate) type LaneQuery<'a> = (&'a State, LightId, u32, LaneValue);

/// The number of lamps that are sampled together, so that the run advances once for them.
const TOGETHER: usize = 64;

/// Samples lamps of one run.
fn look(checked: &ValidatedProgram, lamps: &[LaneQuery<'_>], window: Window) -> Vec<Lamp> {
    let program = checked.program();
    let count = window.columns * window.each;
    let state = lamps[0].0;
    let places: Vec<Places> =
        lamps.iter().map(|(_, light, _, value)| Places::of(program, *light, *value)).collect();
    let mut values: Vec<Vec<f32>> =
        places.iter().map(|places| vec![0.0; places.width * count]).collect();
    match window.along {
        Along::Time(from, to) => {
            let span = to.0 - from.0;
            let moment = |n: usize| Seconds(from.0 + span * n as f64 / count as f64);
            let moments: Vec<Seconds> = (0..count).map(moment).collect();
            let rehearsal = window.rehearsal.and_then(|n| program.rehearsals().get(n));
            let mut player = Player::new(checked, state.clone(), rehearsal);
            let wanted = lamps.iter().zip(&places);
            let wanted: Vec<_> = wanted
                .map(|((_, light, index, _), places)| ((*light, *index), 0..places.width))
                .collect();
            let mut outs: Vec<&mut [f32]> = values.iter_mut().map(Vec::as_mut_slice).collect();
            player.read_many(&wanted, &moments, &mut outs);
        }
        Along::Day => {
            let mut run = Run::from_state(checked, state.clone());
            for (((_, light, index, _), places), values) in
                lamps.iter().zip(&places).zip(&mut values).filter(|((_, p), _)| p.width > 0)
            {
                read_day(&mut run, state, (*light, *index), places.width, values);
            }
        }
        Along::Input(id, lo, hi, at) => {
            let mut run = Run::from_state(checked, state.clone());
            run.advance(at);
            let copies = program.input(id).count();
            let mut lamp = Vec::new();
            for n in 0..count {
                let share = (n as f64 + 0.5) / count as f64;
                for copy in 0..copies {
                    // The input is of one number, and has that many copies.
                    let _ = run.set(id, copy, Constant::Scalar(lo + (hi - lo) * share));
                }
                for (((_, light, index, _), places), values) in
                    lamps.iter().zip(&places).zip(&mut values)
                {
                    lamp.resize(run.width(*light), 0.0);
                    run.read(*light, *index, &mut lamp);
                    let to = n * places.width;
                    values[to..to + places.width].copy_from_slice(&lamp[..places.width]);
                }
            }
        }
    }
    places.iter().zip(&values).map(|(places, values)| gathered(*places, values, window)).collect()
}

/// Aggregates the components of a lamp into columns.
fn gathered(places: Places, values: &[f32], window: Window) -> Lamp {
    let Places { strength, color, width } = places;
    let mut lamp =
        Lamp { columns: Vec::with_capacity(window.columns), most: 0.0, living: Vec::new() };
    for column in 0..window.columns {
        let mut shown = Column { least: f32::MAX, most: f32::MIN, ..Column::default() };
        for n in column * window.each..(column + 1) * window.each {
            let lamp = &values[n * width..(n + 1) * width];
            // A strength that the book leaves to the game counts as full.
            let level = strength.map_or(1.0, |at| lamp[at]);
            shown.least = shown.least.min(level);
            shown.most = shown.most.max(level);
            shown.mean += level;
            for part in 0..3 {
                shown.light[part] += level * color.map_or(1.0, |at| lamp[at + part]);
            }
        }
        let each = window.each as f32;
        shown.mean /= each;
        shown.light = shown.light.map(|sum| sum / each);
        lamp.most = lamp.most.max(shown.most);
        lamp.columns.push(shown);
    }
    lamp
}

/// Samples many lamps on all cores; keeps their order.
pub(crate) fn look_at_all(
    checked: &ValidatedProgram,
    lamps: &[LaneQuery<'_>],
    window: Window,
) -> Vec<Lamp> {
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let share = lamps.len().div_ceil(cores).max(1);
    std::thread::scope(|scope| {
        let parts: Vec<_> = lamps
            .chunks(share)
            .map(|part| {
                scope.spawn(move || {
                    // Lamps of one run, so many at a time.
                    part.chunk_by(|a, b| std::ptr::eq(a.0, b.0))
                        .flat_map(|run| run.chunks(TOGETHER))
                        .flat_map(|together| look(checked, together, window))
                        .collect::<Vec<_>>()
                })
            })
            .collect();
        parts
            .into_iter()
            .flat_map(|part| part.join().expect("looking at a checked program cannot fail"))
            .collect()
    })
}

/// The drawn color of a column: linear light relative to the lane's top, converted to sRGB.
pub(crate) fn shown(light: [f32; 3], top: f32) -> [u8; 3] {
    if top <= 0.0 {
        return [0; 3];
    }
    Rgb(light.map(|v| f64::from(v / top))).to_srgb8()
}

/// Values that do not belong to a light, at ascending times, in a run from a state or in a
/// rehearsal: one list each. `None` if there are none or they cannot be outputs.
pub(crate) fn values_at(
    checked: &ValidatedProgram,
    values: &[ExprId],
    (start, rehearsal): (&State, Option<usize>),
    moments: &[Seconds],
) -> Option<Vec<Vec<f32>>> {
    let (probe, light) = checked.probe(values).filter(|_| !values.is_empty())?;
    let rehearsal = rehearsal.and_then(|n| probe.program().rehearsals().get(n));
    let mut player = Player::new(&probe, start.clone(), rehearsal);
    let width = values.len();
    let mut out = vec![0.0; width * moments.len()];
    player.read_moments((light, 0), moments, 0..width, &mut out);
    let list = |n: usize| out.iter().skip(n).step_by(width).copied().collect();
    Some((0..width).map(list).collect())
}
