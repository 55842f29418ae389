//! The self-test of an exported file: what a game would do, and a checksum of all that each light gives meanwhile.

use std::collections::BTreeSet;

use caltrin_core::kind::Kind;
use caltrin_core::program::{
    Constant, Deed, Dial, Domain, EventId, EventSource as Cause, Input, InputId, Op, Program, Size,
    Subject, Which,
};
use caltrin_core::quantity::{Hours, Seconds, Seed};
use caltrin_core::run::Taken;
use caltrin_core::{Run, ValidatedProgram, kernel};

use super::{Code, EventPlan, Infix, LightPlan, Plan};

/// Most readings of lamps in one self-test.
const MOST_READINGS: usize = 90_000;

/// Most steps of the evaluator in one round; a book of lights that take very many is read less often.
const MOST_STEPS: usize = 16_000_000;

/// Fewest and most readings of each light. The minimum applies to books with thousands of lights or instructions.
const LOOKS: [usize; 2] = [120, 3600];

/// How many hours the clock is set to, one after the other.
pub const HOURS_TRIED: u32 = 97;

/// How many settings of inputs at most stand among the acts.
const MOST_SETTINGS: usize = 90;

/// From one lamp of an open array that is read to the next.
pub const OPEN_STEP: u32 = 1001;

/// Added to the number of a step before it is scrambled for which act it is.
pub const ACT_SALT: u32 = 0x5e1f_7e57;

/// s, the latest moment of a book in which nothing happens by itself, and of one in which something does.
const LAST: [f64; 2] = [86_400.0, 600.0];

/// s, the longest wait after an act, and the longest but one.
const LONGEST_WAITS: [f64; 2] = [120.0, 12.0];

/// What the self-test of a file does. In each of two rounds a run is left alone and read at `moments`, then its clock is
/// set to hours all through the day; a new run goes through `steps` acts by chance, each at first once in order, and is
/// read after each act and after the wait that follows.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct SelfTest {
    /// The seed of each round.
    pub seeds: [u32; 2],
    /// s, in order.
    pub moments: Vec<f64>,
    /// What the game can do.
    pub acts: Vec<TestAct>,
    /// How many acts there are in a round.
    pub steps: u32,
    /// s, how long the next act is waited for, in turn.
    pub waits: Vec<f64>,
    /// The checksum of each light, in the order of [`Plan::lights`].
    pub sums: Vec<u32>,
    /// The checksum of the notices, if the book sends any.
    pub notices: Option<u32>,
}

/// A number that the game gives in a self-test.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Given {
    /// Always this, which may be not-a-number.
    Number(f64),
    /// The first, and the second times a chance of 0 to 1 that is new in each step.
    Chance(f64, f64),
}

/// Which one of many an act is done to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Nth {
    /// This one.
    Fixed(u32),
    /// One of so many, by the chance of the step.
    Chance(u32),
}

/// One thing that the game does in a self-test.
#[derive(Clone, Debug, PartialEq)]
pub enum TestAct {
    /// It fires an event: its place in [`Plan::events`], which one of many, and the numbers that are exported.
    Fire(usize, Nth, Vec<Given>),
    /// It sets an input: its place in [`Plan::inputs`], which one of many, and a number for each part.
    Set(usize, Nth, Vec<Given>),
    /// It makes a choice: its place in [`Plan::choices`], and the option.
    Choose(usize, u32),
    /// It sets the clock to an hour.
    Clock(Given),
    /// It drives the clock to an hour.
    Drive(Given),
    /// It sets how many days the clock has counted.
    Days(Given),
    /// It sets how fast the clock runs.
    Rate(Given),
}

impl Given {
    fn at(self, unit: f64) -> f64 {
        match self {
            Given::Number(v) => v,
            Given::Chance(from, span) => from + span * unit,
        }
    }
}

impl Nth {
    fn at(self, unit: f64) -> u32 {
        match self {
            Nth::Fixed(n) => n,
            Nth::Chance(count) => (unit * f64::from(count)) as u32,
        }
    }
}

/// Which lamp of a light is read at the `n`-th reading: of four readings two of lamp 0, then two of the next one. Every
/// other reading is that of many lamps at once, where a language has that apart.
fn lamp_read(light: &LightPlan, n: u32) -> u32 {
    let turn = if n % 4 < 2 { 0 } else { n / 4 };
    match light.size {
        Size::One => 0,
        Size::Many(count) => turn % count.max(1),
        Size::Open => turn.wrapping_mul(OPEN_STEP),
    }
}

/// Takes a number into a checksum; exported files do the same.
fn checksum(sum: u32, value: f64) -> u32 {
    let bits = value.to_bits();
    kernel::scramble(sum ^ (bits >> 32) as u32 ^ bits as u32)
}

impl SelfTest {
    /// One that tries nothing.
    pub(super) fn none(plan: &Plan) -> SelfTest {
        SelfTest {
            sums: vec![0; plan.lights.len()],
            notices: plan.queue.is_some().then_some(0),
            ..SelfTest::default()
        }
    }

    /// Plans the self-test of a program.
    pub(super) fn of(checked: &ValidatedProgram, plan: &Plan) -> SelfTest {
        let lights = checked.program().lights();
        let steps: usize = lights.map(|(id, _)| checked.steps(id)).sum();
        let looks = (MOST_READINGS / plan.lights.len().max(1)).min(MOST_STEPS / steps.max(1));
        let looks = looks.clamp(LOOKS[0], LOOKS[1]);
        let seed = checked.program().seed();
        let acts = acts(checked, plan);
        let steps = if acts.is_empty() { 0 } else { looks as u32 / 5 };
        let mut test = SelfTest {
            seeds: [seed.0, seed.0.wrapping_add(1)],
            moments: moments(checked, plan, if acts.is_empty() { looks / 4 } else { looks / 20 }),
            acts,
            steps,
            waits: if steps == 0 { Vec::new() } else { waits(checked) },
            sums: Vec::new(),
            notices: None,
        };
        let (sums, notices) = test.played(checked, plan);
        test.sums = sums;
        test.notices = plan.queue.is_some().then_some(notices);
        test
    }

    /// Checksums of lights and notices in the evaluator.
    fn played(&self, checked: &ValidatedProgram, plan: &Plan) -> (Vec<u32>, u32) {
        let mut sums = vec![0; plan.lights.len()];
        let mut notices = 0;
        let mut lamp = Vec::new();
        let mut look = |run: &mut Run<'_>, n: u32| {
            for (k, (id, _)) in checked.program().lights().enumerate() {
                lamp.resize(run.width(id), 0.0);
                run.read(id, lamp_read(&plan.lights[k], n), &mut lamp);
                sums[k] = lamp.iter().fold(sums[k], |sum, v| checksum(sum, f64::from(*v)));
            }
            while let Some(taken) = run.take_notice() {
                let position = taken.position.unwrap_or_default().map(f64::from);
                let numbers = [taken.moment.0, f64::from(taken.lamp)];
                let numbers = numbers.into_iter().chain(position);
                let numbers = numbers.chain(carried(checked.program(), &taken));
                notices = numbers.fold(notices, checksum);
            }
        };
        for (round, seed) in (0u32..).zip(self.seeds) {
            let mut run = Run::with_seed(checked, Seed(seed));
            for (n, moment) in (0..).zip(&self.moments) {
                run.advance(Seconds(*moment));
                look(&mut run, n);
            }
            if plan.clock.is_some() {
                for n in 0..HOURS_TRIED {
                    run.set_clock_days(3.7 * f64::from(n));
                    run.set_clock(Hours(0.2473 * f64::from(n)));
                    look(&mut run, n);
                }
            }
            let mut run = Run::with_seed(checked, Seed(seed));
            let mut moment = 0.0;
            for n in 0..self.steps {
                let step = round * self.steps + n;
                let count = self.acts.len() as u32;
                let which = if n < count {
                    n
                } else {
                    kernel::scramble(step.wrapping_add(ACT_SALT)) % count
                };
                let unit = kernel::to_unit(kernel::scramble(step));
                act(&mut run, checked, plan, &self.acts[which as usize], unit);
                look(&mut run, 2 * n);
                moment += self.waits[n as usize % self.waits.len()];
                run.advance(Seconds(moment));
                look(&mut run, 2 * n + 1);
            }
        }
        (sums, notices)
    }
}

/// Does in the evaluator what exported code is asked to do.
fn act(run: &mut Run<'_>, checked: &ValidatedProgram, plan: &Plan, act: &TestAct, unit: f64) {
    match act {
        TestAct::Fire(place, index, numbers) => {
            let event = &plan.events[*place];
            let Some(id) = event_of(checked, event) else { return };
            // Values that are not exported change nothing that is read.
            let mut given = numbers.iter();
            let exported: BTreeSet<_> =
                event.values.iter().map(|place| plan.inputs[*place].id.index()).collect();
            let values = checked.program().event(id).values.iter().map(|value| {
                let input = checked.program().input(*value);
                match exported.contains(&value.index()) {
                    true => constant(input.kind, &mut given, unit),
                    false => input.default,
                }
            });
            let values: Vec<Constant> = values.collect();
            run.fire_at(id, index.at(unit), &values);
        }
        TestAct::Set(place, index, numbers) => {
            let id = plan.inputs[*place].id;
            let kind = checked.program().input(id).kind;
            let value = constant(kind, &mut numbers.iter(), unit);
            // A value of the input's own kind is always taken.
            let _ = run.set(id, index.at(unit), value);
        }
        TestAct::Choose(place, option) => run.choose(plan.choices[*place].id, *option),
        TestAct::Clock(hour) => run.set_clock(Hours(hour.at(unit))),
        TestAct::Drive(hour) => run.drive_clock(Hours(hour.at(unit))),
        TestAct::Days(days) => run.set_clock_days(days.at(unit)),
        TestAct::Rate(rate) => run.set_clock_rate(rate.at(unit)),
    }
}

fn event_of(checked: &ValidatedProgram, event: &EventPlan) -> Option<EventId> {
    let mut events = checked.program().events();
    let found = events.find(|(_, e)| e.source == Cause::Game && e.name == event.name);
    found.map(|(id, _)| id)
}

/// A value of a kind; what is on or off by chance is on below one half.
fn constant<'g>(kind: Kind, given: &mut impl Iterator<Item = &'g Given>, unit: f64) -> Constant {
    let mut next = || given.next().copied().unwrap_or(Given::Number(0.0));
    match (kind, kind.width()) {
        (Kind::OnOff, _) => Constant::OnOff(match next() {
            Given::Number(v) => v != 0.0,
            Given::Chance(..) => unit < 0.5,
        }),
        (_, 1) => Constant::Scalar(next().at(unit)),
        _ => Constant::Vector([next(), next(), next()].map(|given| given.at(unit))),
    }
}

/// Rounded so that tables of a file stay readable.
fn readable(v: f64) -> f64 {
    (v * 1000.0).round() / 1000.0
}

/// At most `count` of these, evenly, the first and the last among them.
fn thinned<T: Clone>(all: &[T], count: usize) -> Vec<T> {
    if all.len() <= count || count < 2 {
        return all[..all.len().min(count)].to_vec();
    }
    (0..count).map(|n| all[n * (all.len() - 1) / (count - 1)].clone()).collect()
}

/// The places inside the parts of curves whose stops are of one domain.
fn inside_curves(checked: &ValidatedProgram, domain: Domain) -> Vec<f64> {
    let mut all = Vec::new();
    for subject in checked.program().order() {
        let Subject::Curve(id) = subject else { continue };
        let named = checked.program().curve(*id);
        if named.domain == domain {
            let stops: Vec<f64> = named.curve.stops().iter().map(|stop| stop.at.0).collect();
            all.extend(stops.windows(2).map(|pair| pair[0] + 0.37 * (pair[1] - pair[0])));
        }
    }
    all
}

/// The moments at which a run is read that is left alone: inside the parts of curves, and dense at first.
fn moments(checked: &ValidatedProgram, plan: &Plan, count: usize) -> Vec<f64> {
    let looked = checked.program().events().any(|(_, event)| event.source == Cause::Look);
    let last = if looked { 30.0 } else { LAST[usize::from(plan.has_due())] };
    let curves: Vec<f64> =
        inside_curves(checked, Domain::Time).into_iter().filter(|at| *at < last).collect();
    let mut all = thinned(&curves, count / 2);
    // Evenly spread, with steps that no period has.
    for n in 0..count - all.len() {
        let part = (n as f64 * 0.618_033_988_749_895).fract();
        all.push(match n % 5 {
            0 | 1 => 8.0 * part,
            2 | 3 => 90f64.min(last) * part,
            _ => last * part,
        });
    }
    all.push(0.0);
    let all: BTreeSet<u64> = all.into_iter().map(|at| readable(at).abs().to_bits()).collect();
    all.into_iter().map(f64::from_bits).collect()
}

/// How long each act is waited for: inside all that takes as long as the book says, just after it, and at once.
fn waits(checked: &ValidatedProgram) -> Vec<f64> {
    let program = checked.program();
    let times = program.exprs().filter_map(|expr| match (&expr.op, expr.kind) {
        (Op::Constant(Constant::Scalar(v)), Kind::Time)
            if (1e-3..=LONGEST_WAITS[0]).contains(v) =>
        {
            Some(*v)
        }
        _ => None,
    });
    let times: BTreeSet<u64> = times.map(f64::to_bits).collect();
    let times: Vec<f64> = times.into_iter().map(f64::from_bits).collect();
    let mut after = vec![0.004, 0.013, 0.05, 0.11, 0.19, 0.43];
    for time in times.iter().filter(|time| **time <= LONGEST_WAITS[1]) {
        after.extend([0.31 * time, 0.83 * time, 1.01 * time]);
    }
    let curves = inside_curves(checked, Domain::Time).into_iter();
    after.extend(curves.filter(|at| *at <= LONGEST_WAITS[1]));
    let after: BTreeSet<u64> =
        after.into_iter().map(|at| readable(at).max(0.001).to_bits()).collect();
    let after: Vec<f64> = after.into_iter().map(f64::from_bits).collect();
    let after = thinned(&after, 30);
    // Short and long ones in turn, and once what takes longest.
    let count = after.len();
    let stride = [7, 11, 13, 1].into_iter().find(|n| !count.is_multiple_of(*n)).unwrap_or(1);
    let mut all: Vec<f64> = (0..count).map(|n| after[n * stride % count]).collect();
    all.extend(
        times.last().filter(|time| **time > LONGEST_WAITS[1]).map(|time| readable(1.01 * time)),
    );
    all
}

/// What the game does: as in the rehearsals, then every event, option, input and hour.
fn acts(checked: &ValidatedProgram, plan: &Plan) -> Vec<TestAct> {
    let mut all: Vec<TestAct> = Vec::new();
    for rehearsal in checked.program().rehearsals() {
        let deeds = rehearsal.deeds.iter().filter_map(|(_, deed)| done(checked, plan, deed));
        for act in deeds.take(40) {
            if !all.contains(&act) {
                all.push(act);
            }
        }
    }
    for (place, event) in plan.fired() {
        let given = event
            .values
            .iter()
            .flat_map(|value| by_chance(checked.program().input(plan.inputs[*value].id)));
        let given: Vec<Given> = given.collect();
        all.push(TestAct::Fire(place, Nth::Fixed(0), given.clone()));
        if let Some(count) = event.count.filter(|count| *count > 1) {
            all.push(TestAct::Fire(place, Nth::Chance(count), given));
        }
    }
    for (place, choice) in plan.choices.iter().enumerate() {
        all.extend((0..choice.options.len() as u32).map(|n| TestAct::Choose(place, n)));
    }
    let mut settings = Vec::new();
    for (place, input) in plan.given() {
        let described = checked.program().input(input.id);
        let index = input.count.map_or(Nth::Fixed(0), Nth::Chance);
        all.push(TestAct::Set(place, index, by_chance(described)));
        let fixed = self::settings(checked, plan, (place, described)).into_iter();
        settings.extend(fixed.map(|v| {
            let parts = vec![Given::Number(v); described.kind.width()];
            TestAct::Set(place, Nth::Fixed(0), parts)
        }));
    }
    if plan.clock.is_some() {
        all.extend([
            TestAct::Clock(Given::Chance(-1.0, 26.0)),
            TestAct::Clock(Given::Number(f64::NAN)),
            TestAct::Clock(Given::Number(-2e9)),
            TestAct::Clock(Given::Number(2e9)),
            TestAct::Drive(Given::Chance(0.0, 24.0)),
            TestAct::Days(Given::Chance(0.0, 366.0)),
            TestAct::Rate(Given::Chance(-3.0, 9.0)),
            TestAct::Rate(Given::Chance(-200.0, 800.0)),
            TestAct::Rate(Given::Number(1.0)),
        ]);
        settings.extend(
            hours(checked, plan).into_iter().map(|hour| TestAct::Clock(Given::Number(hour))),
        );
    }
    all.extend(thinned(&settings, MOST_SETTINGS));
    all
}

/// What a rehearsal lets the game do, if it is exported.
fn done(checked: &ValidatedProgram, plan: &Plan, deed: &Deed) -> Option<TestAct> {
    let program = checked.program();
    let first = |which: &Which| Nth::Fixed(which.indices().next().unwrap_or(0));
    let given = |value: Constant, kind: Kind| -> Vec<Given> {
        let all = match value {
            Constant::Scalar(v) => vec![v],
            Constant::OnOff(on) => vec![f64::from(u8::from(on))],
            Constant::Vector(v) => v[..kind.width()].to_vec(),
        };
        all.into_iter().map(Given::Number).collect()
    };
    match deed {
        Deed::Fire(id, which, values) => {
            let name = &program.event(*id).name;
            let (place, event) = plan.fired().find(|(_, event)| event.name == *name)?;
            let order = &program.event(*id).values;
            let numbers = event.values.iter().flat_map(|value| {
                let id: InputId = plan.inputs[*value].id;
                let input = program.input(id);
                let nth = order.iter().position(|own| *own == id);
                let value = nth.and_then(|n| values.get(n).copied().flatten());
                given(value.unwrap_or(input.default), input.kind)
            });
            Some(TestAct::Fire(place, first(which), numbers.collect()))
        }
        Deed::Set(id, which, value) => {
            let (place, _) = plan.given().find(|(_, input)| input.id == *id)?;
            Some(TestAct::Set(place, first(which), given(*value, program.input(*id).kind)))
        }
        Deed::Choose(id, option) => {
            let place = plan.choices.iter().position(|choice| choice.id == *id)?;
            Some(TestAct::Choose(place, *option))
        }
        Deed::Clock(hour) => plan.clock.is_some().then_some(TestAct::Clock(Given::Number(hour.0))),
        Deed::DriveClock(hour) => {
            plan.clock.is_some().then_some(TestAct::Drive(Given::Number(hour.0)))
        }
        Deed::ClockRate(rate) => {
            plan.clock.is_some().then_some(TestAct::Rate(Given::Number(*rate)))
        }
    }
}

/// Whether an input's bounds are near enough for a chance between them.
fn is_bounded(input: &Input) -> bool {
    input.kind.width() == 1 && input.bounds.hi - input.bounds.lo < 1e4
}

/// Any value of an input, or of what an event comes with: its whole range and a little more, or what lies around its
/// default.
fn by_chance(input: &Input) -> Vec<Given> {
    match (input.kind, input.default) {
        (Kind::Color, _) => {
            vec![Given::Chance(0.0, 1.0), Given::Chance(1.0, -0.8), Given::Chance(0.1, 0.5)]
        }
        (_, Constant::Vector(at)) => {
            let [x, y, z] = at.map(readable);
            vec![
                Given::Chance(x - 6.0, 20.0),
                Given::Chance(y - 0.5, 3.0),
                Given::Chance(z + 9.0, -25.0),
            ]
        }
        (Kind::OnOff, _) => vec![Given::Chance(0.0, 1.0)],
        (_, Constant::Scalar(_)) if is_bounded(input) => {
            let (lo, span) = (input.bounds.lo, input.bounds.hi - input.bounds.lo);
            vec![Given::Chance(readable(lo - 0.03 * span), readable(1.06 * span))]
        }
        (_, Constant::Scalar(v)) => vec![Given::Chance(readable(v - 4.0), 30.0)],
        (_, Constant::OnOff(_)) => Vec::new(),
    }
}

/// What an input is set to for certain: beyond its bounds, inside the parts of curves, beside what it is compared with,
/// and NaN.
fn settings(checked: &ValidatedProgram, plan: &Plan, (place, input): (usize, &Input)) -> Vec<f64> {
    let (lo, hi) = (input.bounds.lo, input.bounds.hi);
    if input.kind == Kind::OnOff {
        return Vec::new();
    }
    let mut all = compared(plan, |code| match code {
        Code::Input(n, ..) => *n == place,
        // What the input may be called there.
        code => matches!(code, Code::Local(_)),
    });
    if is_bounded(input) {
        all.extend(thinned(&inside_curves(checked, Domain::Ramp(input.kind)), 5));
    }
    all.retain(|v| (lo..=hi).contains(v));
    all.extend([readable(1.5 * hi.abs() + 1.0), readable(-1.5 * lo.abs() - 1.0), f64::NAN]);
    all
}

/// The values just beside those that something is compared with, on both sides.
fn compared(plan: &Plan, is: impl Fn(&Code) -> bool) -> Vec<f64> {
    let mut all = BTreeSet::new();
    plan.look(&mut |code: &Code| {
        if let Code::Infix(Infix::Above | Infix::Below, a, b) = code {
            match (&**a, &**b) {
                (Code::Number(v), other) | (other, Code::Number(v)) if is(other) => {
                    all.extend([readable(v * 1.004), readable(v * 0.996)].map(f64::to_bits));
                }
                _ => {}
            }
        }
    });
    all.into_iter().map(f64::from_bits).collect()
}

/// The hours that the clock is set to for certain: inside the parts of curves of the day, beside those that the hour is
/// compared with, and just before each at which something happens.
fn hours(checked: &ValidatedProgram, plan: &Plan) -> Vec<f64> {
    let mut all = thinned(&inside_curves(checked, Domain::Day), 24);
    all.extend(compared(plan, |code| matches!(code, Code::Clock(Dial::Hour) | Code::Local(_))));
    let mut struck = BTreeSet::new();
    plan.look(&mut |code: &Code| {
        if let Code::NextHour(hour, _) = code {
            struck.insert(readable((hour - 0.002).rem_euclid(24.0)).to_bits());
        }
    });
    all.extend(struck.into_iter().map(f64::from_bits));
    all.into_iter().map(readable).filter(|hour| (0.0..24.0).contains(hour)).collect()
}

/// The parts of all values that notices carry, as singles; 0 for those that a notice does not have.
pub fn carried(program: &Program, taken: &Taken<'_>) -> Vec<f64> {
    let mut all = Vec::new();
    for value in program.notice_values() {
        let own = taken.values.iter().find(|own| own.name == value.name);
        let parts = own.map_or([0.0; 3], |own| match own.value {
            Constant::Scalar(v) => [v, 0.0, 0.0],
            Constant::Vector(v) => v,
            Constant::OnOff(on) => [f64::from(u8::from(on)), 0.0, 0.0],
        });
        let parts = parts.into_iter().take(value.kind.width());
        all.extend(parts.map(|part| f64::from(kernel::to_output(part))));
    }
    all
}
