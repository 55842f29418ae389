//! A trace: what a run put out, sampled.

use crate::program::{Field, LightId, Rehearsal, parts_of};
use crate::quantity::{Hertz, Seconds};
use crate::rehearsal::Player;
use crate::run::State;
use crate::validated::ValidatedProgram;

/// Which moments are sampled: `from`, then every `1 / rate`, up to and with `to`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sampling {
    /// First moment.
    pub from: Seconds,
    /// Last moment, if the rate meets it.
    pub to: Seconds,
    /// Samples a second.
    pub rate: Hertz,
}

impl Sampling {
    /// The moments, each from the first one (never summed up). At most ten million.
    pub fn moments(self) -> Vec<Seconds> {
        let count = ((self.to.0 - self.from.0) * self.rate.0 + 1e-9).floor().clamp(0.0, 1e7);
        (0..=count as u64).map(|n| Seconds(self.from.0 + n as f64 / self.rate.0)).collect()
    }
}

/// One lamp's samples: the light's drives at each moment.
#[derive(Clone, Debug, PartialEq)]
pub struct LampTrace {
    /// The light.
    pub light: LightId,
    /// The lamp's index.
    pub index: u32,
    width: usize,
    values: Vec<f32>,
}

impl LampTrace {
    /// Samples one lamp at moments that do not fall, with the seed and inputs of a state.
    pub fn of(
        checked: &ValidatedProgram,
        state: &State,
        light: LightId,
        index: u32,
        moments: &[Seconds],
    ) -> Self {
        LampTrace::rehearsed(checked, (state, None), light, index, moments)
    }

    /// The same with what the game does in a rehearsal.
    pub fn rehearsed(
        checked: &ValidatedProgram,
        (state, rehearsal): (&State, Option<&Rehearsal>),
        light: LightId,
        index: u32,
        moments: &[Seconds],
    ) -> Self {
        let mut player = Player::new(checked, state.clone(), rehearsal);
        let width = player.run().width(light);
        let mut values = vec![0.0; width * moments.len()];
        if width > 0 {
            player.read_moments((light, index), moments, 0..width, &mut values);
        }
        LampTrace { light, index, width, values }
    }

    /// A lamp's numbers at moments that were read otherwise.
    ///
    /// # Panics
    /// If `values` does not hold `width` numbers for each moment.
    pub fn of_values(light: LightId, index: u32, width: usize, values: Vec<f32>) -> Self {
        assert!(width == 0 || values.len().is_multiple_of(width), "whole moments");
        LampTrace { light, index, width, values }
    }

    /// All driven numbers at the `n`-th moment, in the order of the light's drives.
    pub fn at(&self, n: usize) -> &[f32] {
        &self.values[n * self.width..(n + 1) * self.width]
    }
}

/// The headings of a light's numbers: field names, with `.r` or `.x` for parts.
pub fn headings(checked: &ValidatedProgram, light: LightId) -> Vec<(Field, String)> {
    let light = checked.program().light(light);
    let mut all = Vec::new();
    for drive in &light.drives {
        let name = light.field_name(drive.field);
        let parts = parts_of(drive.kind);
        if parts.is_empty() {
            all.push((drive.field, name.to_owned()));
        }
        all.extend(parts.iter().map(|part| (drive.field, format!("{name}.{part}"))));
    }
    all
}
