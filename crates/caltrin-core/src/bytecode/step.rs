//! Computing a step for a block of lanes.

use super::{BLOCK, Instruction, Reg, Scratch, Setting};
use crate::kernel::{self, PAIRS};
use crate::program::{Dial, Wave};
use crate::pure;
use crate::quantity::Seconds;
use crate::sky;

pub(super) struct Block<'a> {
    pub first: u32,
    pub moment: f64,
    /// Empty when the lanes are lamps.
    pub moments: &'a [f64],
}

/// The second where the first is not 0, else the third: by their bits, so that many lanes can be at
/// once.
#[inline(always)]
fn select(condition: f64, then: f64, otherwise: f64) -> f64 {
    let mask = if condition != 0.0 { u64::MAX } else { 0 };
    f64::from_bits((then.to_bits() & mask) | (otherwise.to_bits() & !mask))
}

/// Computes one step for the first `n` lanes. It is compiled twice, plainly and for processors that do
/// four doubles at once: the same operations in the same order, so bit-identical results.
#[multiversion::multiversion(targets("x86_64+avx2"))]
pub(super) fn step(
    step: Instruction,
    at: usize,
    n: usize,
    block: &Block<'_>,
    Setting { program, seed, inputs, clock, pace, choices }: Setting<'_>,
    scratch: &mut Scratch,
) {
    let (before, rest) = scratch.numbers.split_at_mut(at);
    let out = &mut rest[0][..n];
    let (words_before, words_rest) = scratch.words.split_at_mut(at);
    let words_out = &mut words_rest[0][..n];
    let of = |reg: Reg| &before[reg as usize][..n];
    let word = |reg: Reg| &words_before[reg as usize][..n];
    let index = |lane: usize| {
        if block.moments.is_empty() { block.first.wrapping_add(lane as u32) } else { block.first }
    };
    macro_rules! each {
        ([$($name:ident = $reg:expr),+] $value:expr) => {{
            $(let $name = of($reg);)+
            for lane in 0..n {
                $(let $name = $name[lane];)+
                out[lane] = $value;
            }
        }};
    }
    let flag = |on: bool| if on { 1.0 } else { 0.0 };
    match step {
        Instruction::Constant(v) => out.fill(v),
        Instruction::Now => match block.moments {
            [] => out.fill(block.moment),
            moments => out.copy_from_slice(&moments[..n]),
        },
        Instruction::Clock(reading) => {
            for (lane, out) in out.iter_mut().enumerate() {
                let now = block.moments.get(lane).copied().unwrap_or(block.moment);
                let hours = clock.hours_at(pace, now);
                *out = match reading {
                    Dial::Hour => sky::hour_of(hours),
                    Dial::Days => {
                        let days = clock.shown.days + sky::days_of(hours);
                        kernel::clamp(days, -sky::MOST_DAYS, sky::MOST_DAYS)
                    }
                };
            }
        }
        Instruction::FreeSpark([born, length], count, oldest) => {
            for (lane, out) in out.iter_mut().enumerate() {
                let now = block.moments.get(lane).copied().unwrap_or(block.moment);
                let of = |from: u32| &inputs[from as usize..(from + count) as usize];
                *out = f64::from(kernel::free_slot(of(born), of(length), oldest, now));
            }
        }
        Instruction::NextHour(hour, after) => {
            each!([after = after] clock.strikes(pace, hour, after));
        }
        Instruction::IsChosen(id, option) => out.fill(flag(choices[id.index()].chosen == option)),
        Instruction::Weight(id, option) => {
            let (choice, state) = (program.choice(id), &choices[id.index()]);
            for (lane, out) in out.iter_mut().enumerate() {
                let now = block.moments.get(lane).copied().unwrap_or(block.moment);
                *out = state.weight(choice, option, Seconds(now));
            }
        }
        Instruction::Index(share) => {
            for (lane, out) in out.iter_mut().enumerate() {
                *out = f64::from(share.index(index(lane)));
            }
        }
        Instruction::Input(slot) => {
            for (lane, out) in out.iter_mut().enumerate() {
                let n = (index(lane) / slot.lamps).min(slot.last);
                *out = inputs[(slot.first + n * slot.width) as usize];
            }
        }
        Instruction::Negate(a) => each!([a = a] - a),
        Instruction::Add(a, b) => each!([a = a, b = b] a + b),
        Instruction::Subtract(a, b) => each!([a = a, b = b] a - b),
        Instruction::Multiply(a, b) => each!([a = a, b = b] a * b),
        Instruction::Divide(a, b) => each!([a = a, b = b] a / b),
        Instruction::Min(a, b) => each!([a = a, b = b] kernel::min(a, b)),
        Instruction::Max(a, b) => each!([a = a, b = b] kernel::max(a, b)),
        Instruction::Clamp(v, lo, hi) => {
            each!([v = v, lo = lo, hi = hi] kernel::clamp(v, lo, hi))
        }
        Instruction::Lerp(a, b, s) => each!([a = a, b = b, s = s] kernel::lerp(a, b, s)),
        Instruction::Above(a, b) => each!([a = a, b = b] flag(a > b)),
        Instruction::Equal(a, b) => each!([a = a, b = b] flag(a == b)),
        Instruction::And(a, b) => each!([a = a, b = b] a * b),
        Instruction::Or(a, b) => each!([a = a, b = b] kernel::max(a, b)),
        Instruction::Not(a) => each!([a = a] 1.0 - a),
        Instruction::Select(c, a, b) => each!([c = c, a = a, b = b] select(c, a, b)),
        Instruction::Share(part, whole) => {
            each!([p = part, w = whole] if w > 0.0 { p / w } else { 0.0 })
        }
        Instruction::SampleAndHold([t, key, rate, jitter]) => {
            let (t, key, rate, jitter) = (of(t), word(key), of(rate), of(jitter));
            for lane in 0..n {
                out[lane] = kernel::held_level(t[lane], key[lane], rate[lane], jitter[lane]);
            }
        }
        Instruction::SmoothHold([t, key, rate, jitter, part]) => {
            let (t, key, rate, jitter) = (of(t), word(key), of(rate), of(jitter));
            let part = of(part);
            for lane in 0..n {
                out[lane] =
                    kernel::soft_level(t[lane], key[lane], rate[lane], jitter[lane], part[lane]);
            }
        }
        // As `kernel::drift_level` does it, octave by octave for all lanes, so that each is one plain
        // loop.
        Instruction::Drift([t, key, rate], octaves) => {
            let (t, key, rate) = (of(t), word(key), of(rate));
            let mut x = [0.0; BLOCK];
            for lane in 0..n {
                x[lane] = t[lane] * rate[lane] + kernel::chance_phase(key[lane]);
                out[lane] = kernel::noise(x[lane], key[lane]);
            }
            let mut total = 1.0;
            for octave in 1..octaves {
                let next = kernel::OCTAVE.wrapping_mul(octave);
                for lane in 0..n {
                    x[lane] = 2.0 * x[lane] + 0.37;
                    let noise = kernel::noise(x[lane], key[lane].wrapping_add(next));
                    out[lane] = 2.0 * out[lane] + noise;
                }
                total = 2.0 * total + 1.0;
            }
            out.iter_mut().for_each(|v| *v /= total);
        }
        Instruction::Burst([t, key, a, b, c, d], tables) => {
            let (t, key, [a, b, c, d]) = (of(t), word(key), [a, b, c, d].map(of));
            let [on, off] = tables.map(|table| program.table(table).numbers());
            // Most lamps of an array share their times, and so the edges.
            let alike = |all: &[f64]| all.iter().all(|v| *v == all[0]);
            if n >= 8 && [a, b, c, d].into_iter().all(alike) {
                let mut edges = [0.0; 2 * PAIRS as usize + 1];
                let (burst, pause) = ([a[0], b[0]], [c[0], d[0]]);
                for (place, edge) in edges.iter_mut().enumerate() {
                    *edge = kernel::burst_edge(place, burst, pause, on, off);
                }
                for lane in 0..n {
                    out[lane] =
                        kernel::burst_among(t[lane], key[lane], PAIRS as usize, |at| edges[at]);
                }
                return;
            }
            for lane in 0..n {
                let (burst, pause) = ([a[lane], b[lane]], [c[lane], d[lane]]);
                out[lane] = kernel::burst_level(t[lane], key[lane], burst, pause, on, off);
            }
        }
        Instruction::InBall([a, b, c]) => each!([a = a, b = b, c = c] kernel::in_ball(a, b, c)),
        Instruction::Pure(function, regs) => {
            let count = function.arguments();
            let mut arguments = [0.0; pure::MOST];
            for lane in 0..n {
                for (argument, reg) in arguments[..count].iter_mut().zip(regs) {
                    *argument = before[reg as usize][lane];
                }
                out[lane] = function.at(&arguments[..count]);
            }
        }
        Instruction::Wave(Wave::Sine, x) => each!([x = x] kernel::sine_level(x)),
        Instruction::Wave(Wave::Triangle, x) => each!([x = x] kernel::triangle_level(x)),
        Instruction::Wave(Wave::Saw, x) => each!([x = x] kernel::saw_level(x)),
        Instruction::Square(x, on) => each!([x = x, on = on] kernel::square_level(x, on)),
        Instruction::Eased(easing, u) => {
            let baked = easing.baked();
            each!([u = u] easing.at_with(u, baked.as_deref()))
        }
        Instruction::Table(table, x) => {
            let table = program.table(table).numbers();
            each!([x = x] kernel::table_level(x, table));
        }
        Instruction::Envelope(table, x) => {
            let words = program.table(table).words();
            each!([x = x] kernel::envelope_level(x, words));
        }
        Instruction::NextPlace(table, x) => {
            let places = program.table(table).numbers();
            each!([x = x] kernel::next_place(x, places));
        }
        Instruction::ConeRoot(cone, [r, g, b]) => {
            each!([r = r, g = g, b = b] kernel::cone_root(usize::from(cone), [r, g, b]))
        }
        Instruction::LightOf(part, [l, m, s]) => {
            each!([l = l, m = m, s = s] kernel::light_of(usize::from(part), [l, m, s]))
        }
        Instruction::Direction(part, [x, y, z], still) => {
            each!([p = part, x = x, y = y, z = z] kernel::heading(p, x, y, z, still))
        }
        Instruction::Phase(key) => {
            let key = word(key);
            for lane in 0..n {
                out[lane] = kernel::chance_phase(key[lane]);
            }
        }
        Instruction::Wrap(t, period) => {
            each!([t = t, period = period] kernel::wrap_time(t, period))
        }
        Instruction::Fold(t, period) => {
            each!([t = t, period = period] kernel::fold_time(t, period))
        }
        Instruction::Curve(curve, at) => {
            let curve = &program.curve(curve).curve;
            each!([x = at] curve.at(x));
        }
        Instruction::SeedKey(place) => words_out.fill(kernel::chance_key(seed, place)),
        Instruction::Key(key, place) => {
            let key = word(key);
            for lane in 0..n {
                words_out[lane] = kernel::chance_key(key[lane], place);
            }
        }
        Instruction::LampKey(key, lamps) => {
            let key = word(key);
            if lamps == 1 && block.moments.is_empty() {
                for lane in 0..n {
                    let index = block.first.wrapping_add(lane as u32);
                    words_out[lane] = kernel::lamp_key(key[lane], index);
                }
                return;
            }
            for lane in 0..n {
                words_out[lane] = kernel::lamp_key(key[lane], index(lane) / lamps);
            }
        }
    }
}
