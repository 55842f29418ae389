//! Plays a rehearsal: what the game does and when, and the expectations of the lights.

use crate::flash;
use crate::kernel;
pub use crate::player::Player;
use crate::program::{Expectation, Expected, LightId, Rehearsal, Relation, Size};
use crate::quantity::{Seconds, Seed};
use crate::run::{Run, State};
use crate::validated::ValidatedProgram;

/// Samples per second of expectations that last for a time.
pub const LOOKS: f64 = kernel::LOOKS;

/// Maximum number of lamps of a light that an expectation evaluates.
const MOST_LAMPS: u32 = 4096;

/// A failed expectation.
#[derive(Clone, Debug, PartialEq)]
pub struct Unmet {
    /// The time of the failure, in seconds.
    pub at: Seconds,
    /// The light, if the expectation does not name one.
    pub light: Option<LightId>,
    /// Index of the lamp in its array, if it has one.
    pub lamp: Option<u32>,
    /// The actual value; on is 1. Of [`Expected::Safe`], the number of flashes in the worst second.
    pub found: f64,
}

/// Plays a rehearsal with a seed. Returns, for each expectation, its first failure or `None`.
pub fn rehearse(
    checked: &ValidatedProgram,
    rehearsal: &Rehearsal,
    seed: Seed,
) -> Vec<Option<Unmet>> {
    let start = State::start(checked.program()).with_seed(seed);
    let mut player = Player::new(checked, start.clone(), Some(rehearsal));
    player.run().listen();
    let mut unmet: Vec<Option<Unmet>> = vec![None; rehearsal.expectations.len()];
    // Every moment at which one is sampled, in the order of time.
    let mut looks: Vec<(Seconds, usize)> = Vec::new();
    for (n, expectation) in rehearsal.expectations.iter().enumerate() {
        if expectation.what == Expected::Safe {
            continue;
        }
        // How often something is sent is counted at the end.
        if matches!(expectation.what, Expected::Sent { .. }) {
            looks.push((expectation.to, n));
            continue;
        }
        let (from, to) = (expectation.from.0, expectation.to.0);
        let count = ((to - from) * LOOKS).floor();
        looks.extend((0..=count as u64).map(|k| (Seconds(from + k as f64 / LOOKS), n)));
        looks.push((Seconds(to), n));
    }
    looks.sort_by(|a, b| a.0.0.total_cmp(&b.0.0));
    for (at, n) in looks {
        if unmet[n].is_none() {
            player.advance(at);
            unmet[n] = miss(checked, player.run(), &rehearsal.expectations[n]);
        }
    }
    for (unmet, expectation) in unmet.iter_mut().zip(&rehearsal.expectations) {
        if expectation.what == Expected::Safe {
            let until = expectation.from == expectation.to;
            let to = if until { rehearsal.end } else { expectation.to };
            *unmet = flashing(checked, &start, rehearsal, [expectation.from, to]);
        }
    }
    unmet
}

/// The light that flashes most within a rehearsal, if it flashes too often.
fn flashing(
    checked: &ValidatedProgram,
    start: &State,
    rehearsal: &Rehearsal,
    span: [Seconds; 2],
) -> Option<Unmet> {
    let found = flash::rehearsed(checked, start, rehearsal, span);
    let worst = found.into_iter().filter(|light| !light.worst.passes());
    let worst = worst.max_by(|a, b| a.worst.flashes().total_cmp(&b.worst.flashes()))?;
    let kind = match worst.worst.general.passes() {
        true => &worst.worst.red,
        false => &worst.worst.general,
    };
    Some(Unmet {
        at: Seconds(kind.worst),
        light: Some(worst.light),
        lamp: worst.place.lamp.filter(|_| checked.program().light(worst.light).size != Size::One),
        found: kind.flashes(),
    })
}

/// The failure of an expectation at the current time, if any.
fn miss(checked: &ValidatedProgram, run: &mut Run<'_>, expectation: &Expectation) -> Option<Unmet> {
    let at = run.state().now;
    match &expectation.what {
        // Its whole span is judged at once.
        Expected::Safe => None,
        Expected::Sent { notice, times: [least, most] } => {
            let lines = checked.program().notices();
            let name = &lines[*notice as usize].name;
            let from =
                if expectation.from == expectation.to { Seconds(0.0) } else { expectation.from };
            let counted = |(sent, line): &&(Seconds, u32)| {
                sent.0 >= from.0 && lines[*line as usize].name == *name
            };
            let found = run.sent().iter().filter(counted).count();
            let met = (*least as usize..=*most as usize).contains(&found);
            (!met).then_some(Unmet { at, light: None, lamp: None, found: found as f64 })
        }
        Expected::Value(value) => {
            let found = run.number(*value);
            (found == 0.0).then_some(Unmet { at, light: None, lamp: None, found })
        }
        Expected::Lamps { light, field, which, relation } => {
            let described = checked.program().light(*light);
            let place = described.places(*field)?.start;
            let width = run.width(*light);
            let (first, count) = (which.first, which.count.min(MOST_LAMPS));
            let mut values = vec![0.0; width * count as usize];
            run.read(*light, first, &mut values);
            let found = values.chunks(width).map(|lamp| f64::from(lamp[place]));
            let missed = found.enumerate().find(|(_, found)| !holds(*relation, *found));
            missed.map(|(n, found)| {
                let lamp = described.size != Size::One;
                Unmet { at, light: None, lamp: lamp.then_some(first + n as u32), found }
            })
        }
    }
}

fn holds(relation: Relation, found: f64) -> bool {
    match relation {
        Relation::Above(than) => found > than,
        Relation::Below(than) => found < than,
        Relation::Within(lo, hi) => lo <= found && found <= hi,
        Relation::On(on) => (found != 0.0) == on,
    }
}
