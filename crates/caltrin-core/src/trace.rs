//! Traces: samples of a run's values.

use crate::program::{Field, LightId, Rehearsal, parts_of};
use crate::quantity::{Hertz, Seconds};
use crate::rehearsal::Player;
use crate::run::State;
use crate::validated::ValidatedProgram;

/// The sampled times: `from`, then every `1 / rate`, up to and including `to`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sampling {
    /// First time, in seconds.
    pub from: Seconds,
    /// Last time, in seconds, if it is a multiple of `1 / rate` after the first.
    pub to: Seconds,
    /// Samples per second.
    pub rate: Hertz,
}

impl Sampling {
    /// The times, each computed from the first one, not accumulated. At most ten million.
    pub fn moments(self) -> Vec<Seconds> {
        let count = ((self.to.0 - self.from.0) * self.rate.0 + 1e-9).floor().clamp(0.0, 1e7);
        (0..=count as u64).map(|n| Seconds(self.from.0 + n as f64 / self.rate.0)).collect()
    }
}

/// The samples of one lamp: the light's fields at each time.
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
    /// Samples one lamp at ascending times, with the seed and inputs of a state.
    pub fn of(
        checked: &ValidatedProgram,
        state: &State,
        light: LightId,
        index: u32,
        moments: &[Seconds],
    ) -> Self {
        LampTrace::rehearsed(checked, (state, None), light, index, moments)
    }

    /// Same, with the deeds of a rehearsal.
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

    /// A trace of numbers that were evaluated elsewhere.
    ///
    /// # Panics
    /// If `values` does not contain `width` numbers for each time.
    pub fn of_values(light: LightId, index: u32, width: usize, values: Vec<f32>) -> Self {
        assert!(width == 0 || values.len().is_multiple_of(width), "whole moments");
        LampTrace { light, index, width, values }
    }

    /// All numbers at the `n`-th time, in the order of the light's fields.
    pub fn at(&self, n: usize) -> &[f32] {
        &self.values[n * self.width..(n + 1) * self.width]
    }
}

/// The column headings of a light: field names, with `.r` or `.x` for components.
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
