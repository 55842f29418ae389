//! Deviation of single precision from the preview.

use caltrin_core::program::{Constant, Input, LightId, Program, Size};
use caltrin_core::quantity::{Hours, Seconds, Seed};
use caltrin_core::run::State;
use caltrin_core::{Run, ValidatedProgram, kernel};

use super::{FrameSource, Given, Shader, ShaderLight};
use crate::ir::walk::Value;
use crate::plan::Plan;

/// Maximum deviation of a channel, relative to the channel's largest value.
pub const TOLERANCE: f64 = 1.0 / 4096.0;
/// How much earlier or later a jump may occur, in seconds.
pub const WINDOW: f64 = 1.0 / 16384.0;
/// Lengths of the compared runs, in seconds: 1,000 hours, or 1 hour for lights that deviate too much after that.
pub const HORIZONS: [f64; 2] = [3_600_000.0, 3_600.0];

/// Number of random combinations of inputs, seed and hour.
const DRAWS: u32 = 6;
/// Times sampled for each.
const MOMENTS: u32 = 40;

/// The measured deviation of a light from the preview.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Deviation {
    /// The largest deviation of any channel, relative to the channel's largest value; infinite if a value is missing or NaN.
    pub worst: f64,
    /// Length of the compared run, in seconds.
    pub horizon: f64,
    /// Number of lamps compared.
    pub samples: u64,
}

impl Deviation {
    /// Nothing was measured.
    pub(super) fn unknown() -> Deviation {
        Deviation { worst: f64::INFINITY, horizon: 0.0, samples: 0 }
    }

    /// Whether it is within [`TOLERANCE`].
    pub fn holds(&self) -> bool {
        self.worst <= TOLERANCE
    }
}

/// Deterministic random numbers.
struct Random(u32);

impl Random {
    fn new(key: u32) -> Random {
        Random(key)
    }

    fn word(&mut self) -> u32 {
        self.0 = self.0.wrapping_add(1);
        kernel::draw(0x5a17_ed00, self.0)
    }

    /// From 0 to 1 (excluded).
    fn unit(&mut self) -> f64 {
        f64::from(self.word() >> 8) / 16_777_216.0
    }
}

/// A state with random inputs, choices, seed and hour; state 0 has the book's defaults.
fn state(program: &Program, n: u32, random: &mut Random) -> State {
    let mut state = State::start(program);
    if n == 0 {
        return state;
    }
    state = state.with_seed(Seed(random.word()));
    if program.clock().is_some() {
        state = state.with_hour(program, Hours(24.0 * random.unit()));
    }
    for (id, choice) in program.choices() {
        state.choose(program, id, random.word() % choice.options.len() as u32);
    }
    for (id, input) in program.given() {
        for index in 0..input.count() {
            let value = drawn(input, random);
            state.inputs.set(program, id, index, value).expect("it is of the input's kind");
        }
    }
    state
}

/// A random value of an input that single precision represents exactly.
fn drawn(input: &Input, random: &mut Random) -> Constant {
    let mut number = || {
        let bounds = input.bounds;
        let (lo, hi) = (bounds.lo.max(-1e6), bounds.hi.min(1e6));
        let v = f64::from((lo + (hi - lo) * random.unit()) as f32);
        if v < lo || v > hi { f64::from(lo as f32) } else { v }
    };
    match input.default {
        Constant::Scalar(_) => Constant::Scalar(number()),
        Constant::Vector(_) => Constant::Vector([number(), number(), number()]),
        Constant::OnOff(_) => Constant::OnOff(number() >= 0.5),
    }
}

/// The lamps to compare.
fn indices(size: Size) -> Vec<u32> {
    let mut all = match size {
        Size::One => vec![0],
        Size::Many(n) => vec![0, 1 % n, n / 2, n - 1],
        Size::Open => vec![0, 1, 7, 1000],
    };
    all.dedup();
    all
}

/// The frame and the lamp's own inputs at a time in a state.
fn given(
    plan: &Plan,
    shader: &Shader,
    light: &ShaderLight,
    (checked, state): (&ValidatedProgram, &State),
    (t, index): (f64, u32),
) -> Given {
    let program = checked.program();
    let clock = program.clock().map(|clock| state.clock.at(clock, Seconds(t)));
    let number = |v: f64| Value::Number(f64::from(v as f32));
    let input = |n: usize, part: usize, at: u32| {
        let input = &plan.inputs[n];
        let v = state.inputs.part(program, input.id, at, part);
        (input.flag, v)
    };
    let mut given = Given::new();
    for field in &shader.frame {
        let value = match field.source {
            FrameSource::Seconds => Value::Word(t as u32),
            FrameSource::Fraction => Value::Word(((t - t.floor()) * 4_294_967_296.0) as u32),
            FrameSource::Seed => Value::Word(state.seed.0),
            FrameSource::Hour => {
                number(clock.map_or(0.0, |shown| shown.hour.0).min(super::LAST_HOUR))
            }
            FrameSource::Days => number(clock.map_or(0.0, |shown| shown.days)),
            FrameSource::Input(n, part) => match input(n, part, 0) {
                (true, v) => Value::Word(u32::from(v != 0.0)),
                (false, v) => number(v),
            },
            FrameSource::Weight(n, option) => {
                let id = plan.choices[n].id;
                let weight =
                    state.choices[id.index()].weight(program.choice(id), option, Seconds(t));
                number(weight)
            }
            FrameSource::Chosen(n) => Value::Word(state.choices[plan.choices[n].id.index()].chosen),
        };
        given.insert(field.name.clone(), value);
    }
    let first = usize::from(light.by_index);
    for ((n, part), local) in light.own.iter().zip(&light.function.locals[first..]) {
        let last = plan.inputs[*n].count.unwrap_or(1).saturating_sub(1);
        let value = match input(*n, *part, own_index(checked, plan, light, *n, index).min(last)) {
            (true, v) => Value::Flag(v != 0.0),
            (false, v) => number(v),
        };
        given.insert(local.name.clone(), value);
    }
    given
}

/// The index of a lamp's own input.
fn own_index(
    checked: &ValidatedProgram,
    plan: &Plan,
    light: &ShaderLight,
    n: usize,
    index: u32,
) -> u32 {
    let program = checked.program();
    let id = program.light_named(&plan.lights[light.place].name);
    let scope = program.input(plan.inputs[n].id).scope;
    id.map_or(index, |id| index / program.light(id).share(scope).lamps)
}

/// Measures a light over a run of `horizon` seconds.
pub fn measure(
    checked: &ValidatedProgram,
    plan: &Plan,
    shader: &Shader,
    n: usize,
    horizon: f64,
) -> Deviation {
    let light = &shader.lights[n];
    let reference = shader.reference();
    let program = checked.program();
    let name = &plan.lights[light.place].name;
    let mut deviation = Deviation { worst: 0.0, horizon, samples: 0 };
    let Some(id) = program.light_named(name) else { return Deviation::unknown() };
    let mut run = Run::new(checked);
    let width = run.width(id);
    let mut random = Random::new(n as u32 * 65_536);
    let mut scale = vec![0f64; width];
    let mut apart = vec![0f64; width];
    for draw in 0..DRAWS {
        let state = state(program, draw, &mut random);
        run.restore(state.clone());
        for moment in 0..MOMENTS {
            let t = moment_of(moment, horizon, &mut random);
            for index in indices(program.light(id).size) {
                let given = given(plan, shader, light, (checked, &state), (t, index));
                let Some(found) = reference.read(light, &given, index) else {
                    return Deviation::unknown();
                };
                let wanted = around(&mut run, (id, index), t, width);
                for part in 0..width {
                    let of_part = || wanted.iter().skip(part).step_by(width).copied();
                    let (lo, hi) = of_part()
                        .fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), v| {
                            (lo.min(f64::from(v)), hi.max(f64::from(v)))
                        });
                    let v = f64::from(found[part]);
                    let off =
                        if v.is_nan() { f64::INFINITY } else { (lo - v).max(v - hi).max(0.0) };
                    apart[part] = apart[part].max(off);
                    scale[part] = scale[part].max(lo.abs()).max(hi.abs());
                }
                deviation.samples += 1;
            }
        }
    }
    for (apart, scale) in apart.into_iter().zip(scale) {
        let part = if apart == 0.0 { 0.0 } else { apart / scale.max(1e-9) };
        deviation.worst = deviation.worst.max(part);
    }
    deviation
}

/// A random time with 20 fractional bits, which double precision represents exactly.
fn moment_of(n: u32, horizon: f64, random: &mut Random) -> f64 {
    let most = match n % 4 {
        0 => 10.0,
        1 => 600.0_f64.min(horizon),
        _ => horizon,
    };
    let whole = (most * random.unit()).floor();
    whole + f64::from(random.word() >> 12) / 1_048_576.0
}

/// The preview's values at times around `t`.
fn around(run: &mut Run<'_>, lamp: (LightId, u32), t: f64, width: usize) -> Vec<f32> {
    let steps = [-1.0, -0.5, 0.0, 0.5, 1.0];
    let moments = steps.map(|step| Seconds((t + step * WINDOW).max(0.0)));
    let mut out = vec![0.0; width * moments.len()];
    run.read_moments(lamp, &moments, 0..width, &mut out);
    out
}

/// One lamp at one time.
#[derive(Clone, Debug)]
pub struct Sample {
    /// The light's index in [`Shader::lights`].
    pub light: usize,
    /// The lamp index.
    pub index: u32,
    /// The time, in seconds.
    pub moment: f64,
    /// The run's seed.
    pub seed: Seed,
    /// The frame and the lamp's own inputs.
    pub given: Given,
    /// The reference's values.
    pub wanted: Vec<f32>,
}

/// At least `least` samples over 1,000 hours, the same number for each light.
pub fn samples(
    checked: &ValidatedProgram,
    plan: &Plan,
    shader: &Shader,
    least: u64,
) -> Vec<Sample> {
    let reference = shader.reference();
    let program = checked.program();
    let mut all = Vec::new();
    let mut random = Random::new(0x0100_0000);
    let each = least.div_ceil(shader.lights.len().max(1) as u64);
    for (n, light) in shader.lights.iter().enumerate() {
        let mut now = state(program, 0, &mut random);
        for sample in 0..each {
            if sample % 16 == 15 {
                now = state(program, 1, &mut random);
            }
            let moment = moment_of(sample as u32, HORIZONS[0], &mut random);
            let index = random.word() % plan.lights[light.place].size.shown().max(1);
            let given = given(plan, shader, light, (checked, &now), (moment, index));
            if let Some(wanted) = reference.read(light, &given, index) {
                all.push(Sample { light: n, index, moment, seed: now.seed, given, wanted });
            }
        }
    }
    all
}

/// The number of words of a sample: frame, light, lamp index, own inputs.
pub fn words_of_sample(shader: &Shader) -> usize {
    let own = shader.lights.iter().map(|light| light.own.len()).max().unwrap_or(0);
    shader.frame.len() + 2 + own
}

/// The bits of a value.
fn word(value: &Value) -> u32 {
    match value {
        Value::Number(v) => (*v as f32).to_bits(),
        Value::Word(v) => *v,
        Value::Flag(on) => u32::from(*on),
        Value::Single(_)
        | Value::Int(_)
        | Value::Numbers(_)
        | Value::Words(_)
        | Value::Fixed(..) => 0,
    }
}

impl Sample {
    /// The sample as words: frame, light, lamp index, own inputs; the same number for all lights of a shader.
    pub fn words(&self, shader: &Shader) -> Vec<u32> {
        let light = &shader.lights[self.light];
        let frame = shader.frame.iter().map(|field| word(&self.given[&field.name]));
        let mut words: Vec<u32> = frame.collect();
        words.extend([self.light as u32, self.index]);
        words.extend(light.own_names().map(|name| word(&self.given[name])));
        words.resize(words_of_sample(shader), 0);
        words
    }
}
