//! The evaluator against a plain, slow twin that walks the program's expressions, and against
//! itself in other orders.

mod heard;
mod random;

use std::collections::HashMap;

use caltrin_core::interval::Interval;
use caltrin_core::kind::{InstanceLevel, Kind};
use caltrin_core::program::{
    Constant, Dial, ExprId, Field, Light, Op, Program, Site, Size, Turn, Up, Wanted,
};
use caltrin_core::pure::Pure;
use caltrin_core::quantity::{Hours, Seconds, Seed};
use caltrin_core::run::{SetError, State};
use caltrin_core::{Run, ValidatedProgram, kernel, sky};
use proptest::prelude::*;

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");
const EVENTS: &str = include_str!("../../caltrin-export/tests/events.caltrin");
const EVERYTHING: &str = include_str!("../../caltrin-export/tests/everything.caltrin");

fn checked(text: &str) -> ValidatedProgram {
    heard::read(text, "book.caltrin").checked.expect("the book is good")
}

/// Walks expressions one by one, with no sharing and no blocks.
struct Walker<'a> {
    program: &'a Program,
    light: &'a Light,
    seed: u32,
    index: u32,
    state: &'a State,
    /// What the clock shows: days and hour.
    shown: [f64; 2],
    /// The run's own moment.
    now: Seconds,
}

#[derive(Clone)]
struct Here {
    t: f64,
    arguments: Vec<Vec<f64>>,
    key: Option<u32>,
    lamps: bool,
}

impl Walker<'_> {
    fn key(&self, site: Site, here: &Here) -> u32 {
        if let Some(key) = here.key {
            return kernel::chance_key(key, site.place);
        }
        let key = kernel::chance_key(self.seed, site.place);
        match site.scope {
            _ if !here.lamps => key,
            InstanceLevel::Book => key,
            InstanceLevel::Lamp => kernel::lamp_key(key, self.index),
            // Neighbors in one instance have one number.
            InstanceLevel::Instance(n) => {
                kernel::lamp_key(key, self.index / self.light.levels[usize::from(n)].lamps)
            }
        }
    }

    /// Counts instances and lamps down from the outermost.
    fn index_of(&self, scope: InstanceLevel) -> u32 {
        let mut rest = self.index;
        for (n, level) in self.light.levels.iter().enumerate() {
            let at = rest / level.lamps;
            if scope == InstanceLevel::Instance(n as u8) {
                return at;
            }
            rest %= level.lamps;
        }
        rest
    }

    fn held(&self, a: ExprId, b: ExprId, site: Site, here: &Here) -> (u32, f64, f64) {
        let (a, b) = (self.one(a, here), self.one(b, here));
        (self.key(site, here), 2.0 / (a + b), (b - a) / (2.0 * (a + b)))
    }

    fn one(&self, id: ExprId, here: &Here) -> f64 {
        self.value(id, here)[0]
    }

    fn each(&self, a: ExprId, b: ExprId, here: &Here, f: impl Fn(f64, f64) -> f64) -> Vec<f64> {
        let (a, b) = (self.value(a, here), self.value(b, here));
        a.iter().enumerate().map(|(n, a)| f(*a, b[n % b.len()])).collect()
    }

    fn value(&self, id: ExprId, here: &Here) -> Vec<f64> {
        let flag = |on: bool| vec![f64::from(u8::from(on))];
        match &self.program.expr(id).op {
            Op::Constant(Constant::Scalar(v)) => vec![*v],
            Op::Constant(Constant::Vector(v)) => v.to_vec(),
            Op::Constant(Constant::OnOff(on)) => flag(*on),
            Op::Now => vec![here.t],
            Op::Clock(Dial::Days) => vec![self.shown[0]],
            Op::Clock(Dial::Hour) => vec![self.shown[1]],
            Op::IsChosen(id, option) => flag(self.state.choices[id.index()].chosen == *option),
            Op::Weight(id, option) => {
                let choice = self.program.choice(*id);
                vec![self.state.choices[id.index()].weight(choice, *option, self.now)]
            }
            Op::Pure(function, all) => {
                let all: Vec<f64> = all.iter().map(|e| self.one(*e, here)).collect();
                vec![match function {
                    Pure::OpenHours => sky::hours_level(all[0], all[1], all[2], all[3], all[4]),
                    Pure::Through => sky::through_level(all[0], all[1], all[2]),
                    Pure::East => sky::sky_part(0.0, all[0], all[1], all[2], all[3]),
                    Pure::Up => sky::sky_part(1.0, all[0], all[1], all[2], all[3]),
                    Pure::South => sky::sky_part(2.0, all[0], all[1], all[2], all[3]),
                    Pure::Rises => sky::sun_hour(-1.0, all[0], all[1], all[2], all[3]),
                    Pure::Highest => sky::sun_hour(0.0, all[0], all[1], all[2], all[3]),
                    Pure::Sets => sky::sun_hour(1.0, all[0], all[1], all[2], all[3]),
                    Pure::Stays => sky::sun_stays(all[0], all[1], all[2], all[3]),
                    Pure::NextLook => {
                        let first = (all[0] * 120.0).floor();
                        let looks = [1.0, 2.0].map(|on| (first + on) / 120.0);
                        looks.into_iter().find(|look| *look > all[0]).unwrap_or(f64::NAN)
                    }
                    Pure::Decay => kernel::decay(all[0]),
                    Pure::Power => kernel::to_power(all[0], all[1]),
                    Pure::Root => all[0].max(0.0).sqrt(),
                    Pure::Absolute => all[0].abs(),
                    Pure::Floor => all[0].floor(),
                    Pure::Round => (all[0] + 0.5).floor(),
                    Pure::ArcSine => sky::arc_sine(all[0]),
                    Pure::Compass => sky::compass(all[0], all[1]),
                }]
            }
            Op::Index(scope) => vec![f64::from(self.index_of(*scope))],
            Op::Parameter(n) => here.arguments[*n].clone(),
            Op::Input(id) => {
                let (input, width) =
                    (self.program.input(*id), self.program.input(*id).kind.width());
                let before = self.program.inputs().take_while(|(other, _)| other != id);
                let before: usize = before.map(|(_, i)| i.kind.width() * i.count() as usize).sum();
                let which = match input.scope {
                    InstanceLevel::Book => 0,
                    InstanceLevel::Lamp => self.index,
                    InstanceLevel::Instance(n) => {
                        self.index / self.light.levels[usize::from(n)].lamps
                    }
                };
                let at = before + width * (which.min(input.count() - 1)) as usize;
                self.state.inputs.numbers()[at..at + width].to_vec()
            }
            Op::Signal(signal) => {
                let outside = Here { t: here.t, arguments: Vec::new(), key: None, lamps: false };
                self.value(self.program.signal(*signal).value, &outside)
            }
            Op::Call(behavior, arguments, site) => {
                let inside = Here {
                    t: here.t,
                    arguments: arguments.iter().map(|a| self.value(*a, here)).collect(),
                    key: site.map(|site| self.key(site, here)),
                    lamps: here.lamps,
                };
                self.value(self.program.behavior(*behavior).value, &inside)
            }
            Op::Negate(a) => self.value(*a, here).iter().map(|v| -v).collect(),
            Op::ChangeUp(a, up) => {
                let p = self.value(*a, here);
                match up {
                    Up::Z => vec![p[0], -p[2], p[1]],
                    Up::Y => vec![p[0], p[2], -p[1]],
                }
            }
            Op::Add(a, b) => self.each(*a, *b, here, |a, b| a + b),
            Op::Subtract(a, b) => self.each(*a, *b, here, |a, b| a - b),
            Op::Multiply(a, b) => self.each(*a, *b, here, |a, b| a * b),
            Op::Divide(a, b) => self.each(*a, *b, here, |a, b| a / b),
            Op::Min(a, b) => self.each(*a, *b, here, f64::min),
            Op::Max(a, b) => self.each(*a, *b, here, f64::max),
            Op::Clamp(v, lo, hi) => {
                vec![self.one(*v, here).max(self.one(*lo, here)).min(self.one(*hi, here))]
            }
            Op::Lerp(a, b, s) => {
                let s = self.one(*s, here);
                self.each(*a, *b, here, |a, b| (a + (b - a) * s).clamp(a.min(b), a.max(b)))
            }
            Op::Above(a, b) => flag(self.one(*a, here) > self.one(*b, here)),
            Op::Equal(a, b) => flag(self.one(*a, here) == self.one(*b, here)),
            Op::And(a, b) => flag(self.one(*a, here) != 0.0 && self.one(*b, here) != 0.0),
            Op::Or(a, b) => flag(self.one(*a, here) != 0.0 || self.one(*b, here) != 0.0),
            Op::Not(a) => flag(self.one(*a, here) == 0.0),
            Op::Select(c, a, b) => {
                self.value(if self.one(*c, here) != 0.0 { *a } else { *b }, here)
            }
            Op::Parts(x, y, z) => [x, y, z].iter().map(|e| self.one(**e, here)).collect(),
            Op::SampleAndHold(a, b, site) => {
                let (key, rate, jitter) = self.held(*a, *b, *site, here);
                vec![kernel::held_level(here.t, key, rate, jitter)]
            }
            Op::SmoothHold(a, b, part, site) => {
                let (key, rate, jitter) = self.held(*a, *b, *site, here);
                let part = self.one(*part, here);
                vec![kernel::soft_level(here.t, key, rate, jitter, part)]
            }
            Op::Drift(rate, octaves, site) => {
                let rate = self.one(*rate, here);
                vec![kernel::drift_level(here.t, self.key(*site, here), rate, *octaves)]
            }
            Op::Burst(times, tables, site) => {
                let [a, b, c, d] = times.map(|e| self.one(e, here));
                let [on, off] = tables.map(|table| self.program.table(table).numbers());
                vec![kernel::burst_level(here.t, self.key(*site, here), [a, b], [c, d], on, off)]
            }
            Op::InBall(parts, radius) => {
                let [x, y, z] = parts.map(|e| self.one(e, here));
                let r = self.one(*radius, here);
                [(x, y, z), (y, z, x), (z, x, y)]
                    .iter()
                    .map(|(a, b, c)| kernel::in_ball(*a, *b, *c) * r)
                    .collect()
            }
            Op::Wave(wave, x) => vec![wave.function()(self.one(*x, here))],
            Op::Square(x, on) => self.each(*x, *on, here, kernel::square_level),
            Op::Eased(easing, u) => vec![easing.at(self.one(*u, here))],
            Op::Table(table, x) => {
                let table = self.program.table(*table).numbers();
                vec![kernel::table_level(self.one(*x, here), table)]
            }
            Op::Envelope(table, x) => {
                let (x, words) = (self.one(*x, here), self.program.table(*table).words());
                let place = |n: usize| f64::from(words[n] >> 8);
                let level = |n: usize| f64::from(words[n] & 255) / 255.0;
                // The plain way: the first line that ends after it.
                let next = (1..words.len()).find(|n| place(*n) > x).unwrap_or(words.len() - 1);
                let part =
                    ((x - place(next - 1)) / (place(next) - place(next - 1))).clamp(0.0, 1.0);
                vec![level(next - 1) + (level(next) - level(next - 1)) * part]
            }
            Op::NextPlace(table, x) => {
                let x = self.one(*x, here);
                let mut places = self.program.table(*table).numbers().iter().copied();
                vec![places.find(|place| *place > x).unwrap_or(2e9)]
            }
            Op::Moment(value, moment) => {
                let then = Here { t: self.one(*moment, here), ..here.clone() };
                self.value(*value, &then)
            }
            Op::ConeRoot(cone, color) => {
                let c = self.value(*color, here);
                vec![kernel::cone_root(usize::from(*cone), [c[0], c[1], c[2]])]
            }
            Op::FromCones(l, m, s) => {
                let roots = [*l, *m, *s].map(|e| self.one(e, here));
                (0..3).map(|part| kernel::light_of(part, roots)).collect()
            }
            Op::Distance(a, b) => {
                let (a, b) = (self.value(*a, here), self.value(*b, here));
                let squares = (0..3).map(|n| (a[n] - b[n]) * (a[n] - b[n]));
                vec![squares.sum::<f64>().sqrt()]
            }
            Op::NextHour(..) | Op::FreeSpark(_) => {
                panic!("no light is made of what only events ask")
            }
            Op::Direction(point) => {
                let p = self.value(*point, here);
                kernel::direction([p[0], p[1], p[2]]).to_vec()
            }
            Op::Phase(site) => vec![kernel::chance_phase(self.key(*site, here))],
            Op::Looped(turn, _, at, period) => {
                let (t, period) = (self.one(*at, here), self.one(*period, here));
                vec![match turn {
                    Turn::Loop => kernel::wrap_time(t, period),
                    Turn::Alternate => kernel::fold_time(t, period),
                }]
            }
            Op::Curve(curve, at) => {
                vec![self.program.curve(*curve).curve.at(self.one(*at, here))]
            }
            Op::MaxComponent(c) => vec![self.value(*c, here).iter().copied().fold(0.0, f64::max)],
            Op::NormalizedColor(c) => {
                let parts = self.value(*c, here);
                let top = parts.iter().copied().fold(0.0, f64::max);
                parts.iter().map(|v| if top > 0.0 { v / top } else { 0.0 }).collect()
            }
        }
    }
}

fn agree(checked: &ValidatedProgram, seed: u32, t: f64, lamp: u32) {
    let program = checked.program();
    let mut run = Run::with_seed(checked, Seed(seed));
    run.advance(Seconds(t));
    for (id, input) in program.given() {
        for index in 0..input.count() {
            let draw = kernel::draw(seed ^ id.index() as u32, index);
            let Interval { lo, hi } = input.bounds;
            let v = lo + (hi - lo) * 1.1 * kernel::to_unit(draw);
            let value = match (input.kind, input.kind.width()) {
                (Kind::OnOff, _) => Constant::OnOff(draw.is_multiple_of(2)),
                (_, 1) => Constant::Scalar(v),
                _ => Constant::Vector([v, lo, -v]),
            };
            run.set(id, index, value).unwrap();
        }
    }
    // What the game does with its clock and choices before.
    let draw = |n: u32| kernel::draw(seed ^ 0x0da7, n);
    for n in 0..3 {
        let unit = kernel::to_unit(draw(8 * n));
        run.advance(Seconds(t - 40.0 * kernel::to_unit(draw(8 * n + 1))));
        let fired: Vec<_> = program.events().map(|(id, _)| id).collect();
        match draw(8 * n + 2) % 7 {
            5 | 6 if !fired.is_empty() => run.fire(fired[draw(8 * n + 4) as usize % fired.len()]),
            0 => run.set_clock(Hours(30.0 * unit - 3.0)),
            1 => run.drive_clock(Hours(24.0 * unit)),
            2 => run.set_clock_days(400.0 * unit - 20.0),
            3 => run.set_clock_rate([1.0, -7.0, 1e6, -1e6][draw(8 * n + 3) as usize % 4]),
            _ => {}
        }
        for (id, choice) in program.choices() {
            run.choose(id, draw(8 * n + 4) % (choice.options.len() as u32 + 1));
        }
    }
    run.advance(Seconds(t));
    let state = run.state().clone();
    let shown = program.clock().map_or([0.0; 2], |clock| {
        let since = state.now.0 - state.clock.since.0;
        let hours = state.clock.shown.hour.0 + since * (state.clock.rate * (24.0 / clock.day.0));
        let whole = (hours / 24.0).floor();
        let hour = (hours - 24.0 * whole).clamp(0.0, 24f64.next_down());
        [(state.clock.shown.days + whole).clamp(-1e9, 1e9), hour]
    });
    if let Some(own) = run.clock() {
        assert_eq!([own.days.to_bits(), own.hour.0.to_bits()], shown.map(f64::to_bits));
    }
    for (id, light) in program.lights() {
        let (index, lamps) = match light.size {
            Size::One => (0, false),
            Size::Many(n) => (lamp % n, true),
            Size::Open => (lamp, true),
        };
        let now = state.now;
        let walker = Walker { program, light, seed, index, state: &state, shown, now };
        let t = kernel::clean_moment(t);
        let outside = Here { t, arguments: Vec::new(), key: None, lamps };
        let wanted: Vec<u32> = light
            .drives
            .iter()
            .flat_map(|drive| walker.value(drive.value, &outside))
            .map(|v| kernel::to_output(v).to_bits())
            .collect();
        let mut out = vec![0.0; run.width(id)];
        run.read(id, index, &mut out);
        let found: Vec<u32> = out.iter().map(|v| v.to_bits()).collect();
        assert_eq!(found, wanted, "{} [{index}] at {t}", light.name);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(100))]

    #[test]
    fn a_random_book_is_what_walking_its_expressions_gives(seed in any::<u64>(), moments in prop::collection::vec(-1e3..1e3f64, 6)) {
        let text = random::Author::new(seed).book();
        let reading = heard::read(&text, "random.caltrin");
        let told: Vec<String> = reading
            .diagnostics
            .iter()
            .map(|d| format!("{} at `{}`", d.message, &text[d.range()]))
            .collect();
        let book = reading.checked.unwrap_or_else(|| panic!("{told:#?}\n{text}"));
        for (n, t) in moments.iter().enumerate() {
            agree(&book, n as u32, *t, n as u32 * 7);
        }
        // No value leaves its bounds, whatever the book.
        let mut run = Run::new(&book);
        for (id, light) in book.program().lights() {
            let mut out = vec![0.0; run.width(id)];
            for t in &moments {
                run.advance(Seconds(*t));
                run.read(id, 1, &mut out);
                let mut column = 0;
                for drive in &light.drives {
                    let bounds = book.bounds(id, drive.field).unwrap();
                    for part in 0..drive.width() {
                        let (lo, hi) = (bounds.part(part).lo as f32, bounds.part(part).hi as f32);
                        let v = out[column];
                        prop_assert!(lo <= v && v <= hi, "{} {} {v} in {lo}..{hi}\n{text}", light.name, light.field_name(drive.field));
                        column += 1;
                    }
                }
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn any_lamp_at_any_moment_is_what_walking_its_expressions_gives(
        seed in any::<u32>(), near in -1e3..1e3f64, far in -1e9..1e9f64, lamp in any::<u32>()
    ) {
        for text in [PIER, EVERYTHING, EVENTS] {
            let book = checked(text);
            agree(&book, seed, near, lamp);
            // What happens by itself is gone through one by one.
            if text == EVERYTHING {
                agree(&book, seed, far, lamp);
            }
        }
    }
}

#[test]
fn blocks_of_lamps_single_lamps_and_spans_of_moments_give_the_same_bits() {
    let book = checked(EVERYTHING);
    let moments: Vec<Seconds> = (0..150).map(|n| Seconds(f64::from(n) * 1.37 - 20.0)).collect();
    let mut run = Run::with_seed(&book, Seed(3));
    let mut seen: HashMap<(String, u32, usize), Vec<u32>> = HashMap::new();
    for (id, light) in book.program().lights() {
        let width = run.width(id);
        let lamps = light.size.shown().min(200);
        for lamp in 0..lamps {
            let mut out = vec![0.0; width * moments.len()];
            run.read_moments((id, lamp), &moments, 0..width, &mut out);
            for (n, values) in out.chunks(width).enumerate() {
                let bits = values.iter().map(|v| v.to_bits()).collect();
                seen.insert((light.name.clone(), lamp, n), bits);
            }
        }
    }
    // Backwards, in whole arrays, then one lamp at a time.
    for (n, moment) in moments.iter().enumerate().rev() {
        run.advance(*moment);
        for (id, light) in book.program().lights() {
            let width = run.width(id);
            let lamps = light.size.shown().min(200);
            let mut all = vec![0.0; width * lamps as usize];
            run.read(id, 0, &mut all);
            for lamp in 0..lamps {
                let at = lamp as usize * width;
                let block: Vec<u32> = all[at..at + width].iter().map(|v| v.to_bits()).collect();
                assert_eq!(block, seen[&(light.name.clone(), lamp, n)], "{} {lamp}", light.name);
            }
        }
    }
}

#[test]
fn no_value_leaves_its_bounds_in_millions_of_moments() {
    let mut looked = 0u64;
    for text in [PIER, EVERYTHING] {
        let book = checked(text);
        for seed in 0..3 {
            let mut run = Run::with_seed(&book, Seed(seed));
            for (id, light) in book.program().lights() {
                let width = run.width(id);
                if width == 0 {
                    continue;
                }
                let moments: Vec<Seconds> = (0..40_000u32)
                    .map(|n| Seconds(f64::from(n.wrapping_mul(2_654_435_761)) * 1e-5))
                    .collect();
                let mut out = vec![0.0; width * moments.len()];
                run.read_moments((id, 0), &moments, 0..width, &mut out);
                let mut column = 0;
                for drive in &light.drives {
                    let bounds = book.bounds(id, drive.field).unwrap();
                    for part in 0..drive.width() {
                        let (lo, hi) = (bounds.part(part).lo as f32, bounds.part(part).hi as f32);
                        for lamp in out.chunks(width) {
                            let v = lamp[column];
                            assert!(lo <= v && v <= hi, "{} {v} {lo}..{hi}", light.name);
                        }
                        looked += moments.len() as u64;
                        column += 1;
                    }
                }
            }
        }
    }
    assert!(looked > 10_000_000, "{looked}");
}

#[test]
fn a_state_can_be_kept_and_gone_back_to() {
    let book = checked(PIER);
    let id = book.program().light_named("mast").unwrap();
    let mut run = Run::new(&book);
    let read = |run: &mut Run<'_>| {
        let mut out = vec![0.0; run.width(id)];
        run.read(id, 0, &mut out);
        out
    };
    run.advance(Seconds(1.234));
    let (state, before) = (run.state().clone(), read(&mut run));
    run.advance(Seconds(f64::NAN));
    assert_eq!(run.state().now, Seconds(0.0));
    assert_ne!(read(&mut run), before);
    run.restore(state);
    assert_eq!(read(&mut run), before);
}

const SLIP: &str = "lightbook \"Slip\"
space { unit 1cm }
input swell = 20% in 0%..100%
input walker = (0m, 1.7m, 0m)
input open = on
fitting bollard(strength = 100lm) {
  input draft = 50% in 0%..200%
  light glow point { intensity strength * draft }
  light cores[2] point { intensity strength * draft }
}
place quay[3] of bollard
place lone of bollard
light mast[4] point { input trim = 100% in 0%..150%; intensity 10lm * trim }
output level = if open then swell else 0
output where = walker
";

fn first(run: &mut Run<'_>, book: &ValidatedProgram, light: &str, lamps: usize) -> Vec<f32> {
    let id = book.program().light_named(light).expect("the light is there");
    let width = run.width(id);
    let mut out = vec![0.0; width * lamps];
    run.read(id, 0, &mut out);
    out.chunks(width).map(|lamp| lamp[0]).collect()
}

#[test]
fn an_input_belongs_to_the_book_each_instance_or_each_lamp() {
    let book = checked(SLIP);
    let input = |name: &str| book.program().input_named(name).expect("the input is there");
    let mut run = Run::new(&book);
    assert_eq!(first(&mut run, &book, "quay.glow", 3), [50.0; 3]);
    run.set(input("quay.draft"), 1, Constant::Scalar(1.5)).unwrap();
    run.set(input("lone.draft"), 0, Constant::Scalar(0.1)).unwrap();
    run.set(input("mast.trim"), 3, Constant::Scalar(0.0)).unwrap();
    run.set(input("swell"), 0, Constant::Scalar(0.75)).unwrap();
    assert_eq!(first(&mut run, &book, "quay.glow", 3), [50.0, 150.0, 50.0]);
    // Both lamps of an instance, and no other instance's.
    assert_eq!(first(&mut run, &book, "quay.cores", 6), [50.0, 50.0, 150.0, 150.0, 50.0, 50.0]);
    assert_eq!(first(&mut run, &book, "lone.glow", 1), [10.0]);
    assert_eq!(first(&mut run, &book, "mast", 4), [10.0, 10.0, 10.0, 0.0]);
    assert_eq!(first(&mut run, &book, "level", 1), [0.75]);
    run.set(input("open"), 0, Constant::OnOff(false)).unwrap();
    assert_eq!(first(&mut run, &book, "level", 1), [0.0]);
    // Lengths and places come and go in the units of the space.
    run.set(input("walker"), 0, Constant::Vector([10.0, 20.0, 30.0])).unwrap();
    let mut out = [0.0; 3];
    run.read(book.program().light_named("where").unwrap(), 0, &mut out);
    assert_eq!(out, [10.0, 20.0, 30.0]);
}

#[test]
fn what_the_game_sets_is_kept_within_bounds_and_never_not_a_number() {
    let book = checked(SLIP);
    let swell = book.program().input_named("swell").unwrap();
    let mut run = Run::new(&book);
    for (given, kept) in [
        (2.0, 1.0),
        (-1.0, 0.0),
        (1e-40, 0.0),
        (f64::NAN, 0.2),
        (f64::INFINITY, 0.2),
        (f64::NEG_INFINITY, 0.2),
    ] {
        run.set(swell, 0, Constant::Scalar(given)).unwrap();
        assert_eq!(run.state().inputs.numbers()[0], kept, "{given}");
    }
    let refused = run.set(swell, 0, Constant::OnOff(true));
    assert!(matches!(refused, Err(SetError::WrongKind { .. })), "{refused:?}");
    let trim = book.program().input_named("mast.trim").unwrap();
    let refused = run.set(trim, 4, Constant::Scalar(1.0));
    assert_eq!(refused.unwrap_err().to_string(), "`mast.trim` has index 0 to 3, found 4");
}

#[test]
fn an_export_may_want_other_axes_another_unit_and_other_strengths() {
    let library = |name: &str| Err(name.to_owned());
    let wanted = Wanted { up: Some(Up::Z), unit: Some(0.01), factor: Some(0.001) };
    let turned = caltrin_lang::read_for(EVERYTHING, "book.caltrin", &library, wanted);
    let (turned, plain) = (turned.checked.unwrap(), checked(EVERYTHING));
    let (mut run, mut twin) = (Run::new(&plain), Run::new(&turned));
    let near = |a: f64, b: f32| (a - f64::from(b)).abs() <= 1e-6 * (1.0 + a.abs());
    for t in [0.0, 1.37, 86.1, -40.0] {
        run.advance(Seconds(t));
        twin.advance(Seconds(t));
        for (id, light) in plain.program().lights() {
            let (mut a, mut b) = (vec![0.0; run.width(id)], vec![0.0; run.width(id)]);
            run.read(id, 0, &mut a);
            twin.read(id, 0, &mut b);
            let mut at = 0;
            for drive in &light.drives {
                let value: Vec<f64> =
                    a[at..at + drive.width()].iter().map(|v| f64::from(*v)).collect();
                let scale = match drive.kind {
                    Kind::Point if drive.field == Field::Aim => 1.0,
                    Kind::Point | Kind::Length => 100.0,
                    Kind::Strength(_) => 0.001,
                    _ => 1.0,
                };
                let value = match (drive.kind, &value[..]) {
                    (Kind::Point, [x, y, z]) => vec![*x, -z, *y],
                    _ => value,
                };
                for (wanted, found) in value.iter().zip(&b[at..]) {
                    let name = light.field_name(drive.field);
                    assert!(near(wanted * scale, *found), "{} {name} {wanted} {found}", light.name);
                }
                at += drive.width();
            }
        }
    }
    // What the book says itself is wanted just as well: nothing is turned twice.
    let said = "lightbook \"B\"\nspace { up z; unit 1cm }\nlight a point { position (1m, 2m, 3m) }";
    let read = |wanted| {
        let book = caltrin_lang::read_for(said, "b", &library, wanted).checked.unwrap();
        let mut out = [0.0; 3];
        Run::new(&book).read(book.program().light_named("a").unwrap(), 0, &mut out);
        out
    };
    assert_eq!(read(Wanted::default()), [100.0, 200.0, 300.0]);
    assert_eq!(read(wanted), [100.0, 200.0, 300.0]);
    let y_up = Wanted { up: Some(Up::Y), ..Wanted::default() };
    assert_eq!(read(y_up), [100.0, 300.0, -200.0]);
}
