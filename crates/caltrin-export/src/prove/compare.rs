//! The evaluator's values at all samples, and what differs from them.

use caltrin_core::kind::Kind;
use caltrin_core::program::{Constant, EventId};
use caltrin_core::quantity::{Hours, Seconds};
use caltrin_core::run::State;
use caltrin_core::{Run, ValidatedProgram};

use super::cases::{Act, Asked, Verb, game_events};
use super::{Outcome, protocol};
use crate::plan::{Plan, carried};
use crate::sample::Blocks;

/// A mismatch.
#[derive(Clone, Debug, PartialEq)]
pub struct Mismatch {
    /// The light.
    pub light: String,
    /// The lamp.
    pub index: u32,
    /// The field, with `.r` or `.x` for a component.
    pub field: String,
    /// The sample.
    pub asked: Asked,
    /// The evaluator's value.
    pub wanted: f32,
    /// The exported code's value.
    pub found: f32,
}

/// The evaluator's values, in the order of the provers' outputs.
fn wanted(checked: &ValidatedProgram, plan: &Plan, blocks: &Blocks, asked: &[Asked]) -> Vec<f32> {
    let mut all = Vec::new();
    let mut run = Run::new(checked);
    for asked in asked {
        if !asked.goes_on {
            run.restore(State::start(checked.program()).with_seed(asked.seed));
        }
        let mut given = asked.inputs.iter().copied();
        for (id, input) in checked.program().given() {
            for index in 0..input.count() {
                let mut next = || given.next().unwrap_or_default();
                let value = match (input.kind, input.kind.width()) {
                    (Kind::OnOff, _) => Constant::OnOff(next() != 0.0),
                    (_, 1) => Constant::Scalar(next()),
                    _ => Constant::Vector([next(), next(), next()]),
                };
                run.set(id, index, value).expect("a value of the input's own kind can be set");
            }
        }
        // What is not exported is not done here either.
        for Act { verb, at, to } in asked.acts.into_iter().filter(|_| plan.has_acts()) {
            run.advance(Seconds(at));
            match verb {
                Verb::Leave => {}
                Verb::Set => run.set_clock(Hours(to)),
                Verb::Drive => run.drive_clock(Hours(to)),
                Verb::Days => run.set_clock_days(to),
                Verb::Rate => run.set_clock_rate(to),
                Verb::Fire => {
                    let fired = game_events(checked).nth(to as usize / 1000);
                    let exported = |name: &str| plan.fired().any(|(_, event)| event.name == name);
                    if let Some((id, _)) = fired.filter(|(_, event)| exported(&event.name)) {
                        let values = values_of(checked, id, &asked.given);
                        run.fire_at(id, to as u32 % 1000, &values);
                    }
                }
                Verb::Input(n) => {
                    let set = checked.program().given().nth(n as usize);
                    let exported = |id| plan.given().any(|(_, planned)| planned.id == id);
                    if let Some((id, input)) = set.filter(|(id, _)| plan.follows() && exported(*id))
                    {
                        let value = match (input.kind, input.kind.width()) {
                            (Kind::OnOff, _) => Constant::OnOff(to != 0.0),
                            (_, 1) => Constant::Scalar(to),
                            _ => Constant::Vector([to; 3]),
                        };
                        run.set(id, 0, value).expect("a value of the input's own kind can be set");
                    }
                }
                Verb::Choose => {
                    let which = checked.program().choices().nth(to as usize / 1000);
                    let exported = |id| plan.choices.iter().any(|choice| choice.id == id);
                    if let Some((id, _)) = which.filter(|(id, _)| exported(*id)) {
                        run.choose(id, to as u32 % 1000);
                    }
                }
            }
        }
        run.advance(Seconds(asked.moment));
        for ((id, _), blocks) in checked.program().lights().zip(blocks) {
            let width = run.width(id);
            for (first, count) in blocks {
                let start = all.len();
                all.resize(start + width * *count as usize, 0.0);
                run.read(id, *first, &mut all[start..]);
            }
        }
        if plan.queue.is_some() {
            all.extend(told(&mut run));
        }
    }
    all
}

/// A checksum of the queued notices: the sum of their contents, and the number of dropped ones.
fn told(run: &mut Run<'_>) -> [f32; 2] {
    let program = run.checked().program();
    let (mut sum, mut n) = (0.0, 0.0);
    while let Some(taken) = run.take_notice() {
        n += 1.0;
        sum += taken.moment.0 * n;
        sum += f64::from(taken.lamp) * 3.0;
        for part in taken.position.unwrap_or_default() {
            sum += f64::from(part);
        }
        for value in carried(program, &taken) {
            sum += value;
        }
        for text in [taken.name, taken.text.unwrap_or_default(), taken.from] {
            sum += text.bytes().map(f64::from).sum::<f64>();
        }
    }
    [sum as f32, run.dropped_notices() as f32]
}

/// Arguments of an event: each takes as many numbers as it has components.
fn values_of(checked: &ValidatedProgram, id: EventId, given: &[f64]) -> Vec<Constant> {
    let mut given = given.iter().copied();
    let mut next = || given.next().unwrap_or_default();
    let values = &checked.program().event(id).values;
    let each = values.iter().map(|id| match checked.program().input(*id).kind {
        Kind::OnOff => Constant::OnOff(next() != 0.0),
        kind if kind.width() == 1 => Constant::Scalar(next()),
        _ => Constant::Vector([next(), next(), next()]),
    });
    each.collect()
}

pub(super) fn compare(
    checked: &ValidatedProgram,
    (plan, blocks): (&Plan, &Blocks),
    asked: &[Asked],
    found: &[u8],
    version: String,
) -> Outcome {
    let wanted = wanted(checked, plan, blocks, asked);
    let found = protocol::found(found);
    if found.len() != wanted.len() {
        let said = format!("{} values came out, {} were expected", found.len(), wanted.len());
        return Outcome::Failed { version, said };
    }
    let differ = wanted.iter().zip(&found).filter(|(w, f)| w.to_bits() != **f).count() as u64;
    let mut first = Vec::new();
    let mut samples = 0;
    let mut at = 0;
    for asked in asked {
        for ((id, light), blocks) in checked.program().lights().zip(blocks) {
            let headings = caltrin_core::trace::headings(checked, id);
            for (start, count) in blocks {
                for lamp in 0..*count {
                    samples += 1;
                    for (_, heading) in &headings {
                        if wanted[at].to_bits() != found[at] && first.len() < 5 {
                            first.push(Mismatch {
                                light: light.name.clone(),
                                index: start + lamp,
                                field: heading.clone(),
                                asked: asked.clone(),
                                wanted: wanted[at],
                                found: f32::from_bits(found[at]),
                            });
                        }
                        at += 1;
                    }
                }
            }
        }
        // Notices that differ are counted; they belong to no lamp.
        at += if plan.queue.is_some() { 2 } else { 0 };
    }
    Outcome::Compared { version, samples, values: wanted.len() as u64, mismatches: differ, first }
}
