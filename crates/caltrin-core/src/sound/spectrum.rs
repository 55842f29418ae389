//! Spectra of a sound and their features: the levels of bands, and how much rises.

use std::collections::VecDeque;
use std::fmt;
use std::sync::Arc;

use rustfft::num_complex::Complex32;
use rustfft::{Fft, FftPlannerScalar};

use super::{Band, STEPS, STEPS_A_SPECTRUM};
use crate::kernel;

/// How long the window of a spectrum is about, in seconds: the nearest power of two of samples is taken.
const WINDOW: f64 = 0.0427;

/// How many bands are evaluated for what rises.
const RISING: usize = 24;

/// How many spectra lie between the two that are compared for that.
const APART: usize = 2;

/// How much a rise of all power together counts against a rise of bands on the mean: a pure tone rises in one band only.
const TOGETHER: f64 = 0.3;

/// The mean square below which a band counts as silent: 80 dB below full.
const SILENT: f64 = 1e-8;

/// A range of frequencies as two places among the bins of a spectrum: a bin, and how much of it lies below. A bin stands
/// for half of its width on either side.
#[derive(Clone, Copy, Debug)]
struct Bins([(usize, f64); 2]);

impl Bins {
    fn new(edges: [f64; 2], bin: f64, count: usize) -> Self {
        Bins(edges.map(|edge| {
            let place = (edge / bin + 0.5).clamp(1.0, count as f64);
            let whole = place.floor();
            (whole as usize, place - whole)
        }))
    }

    /// The power in it, by the sums of the powers before each bin.
    fn sum(self, sums: &[f64]) -> f64 {
        let [below, up_to] = self.0.map(|(n, part)| match part {
            0.0 => sums[n],
            part => sums[n] + (sums[n + 1] - sums[n]) * part,
        });
        (up_to - below).max(0.0)
    }
}

/// Features of spectra, 80 per second.
pub(super) struct Found {
    pub bands: [Vec<f32>; 3],
    pub own: Vec<Vec<f32>>,
    /// By how many octaves of power bands rise on the mean, or, where that is more, [`TOGETHER`] of what all rise.
    pub rises: Vec<f32>,
}

/// Makes spectra of samples as they come.
pub(super) struct Spectra {
    rate: u32,
    size: usize,
    fft: Arc<dyn Fft<f32>>,
    window: Vec<f32>,
    /// What a power is to be multiplied by to be a mean square.
    scale: f64,
    /// By channel, the samples that spectra still need.
    held: Vec<Vec<f32>>,
    /// The place of the first of them; below 0 where silence was put before the start.
    base: i64,
    low_mid_high: [Bins; 3],
    asked: Vec<Bins>,
    rising: Vec<Bins>,
    /// Of the spectra before, the latest first: the octaves of each band, and of all together.
    before: VecDeque<([f64; RISING], f64)>,
    found: Found,
    work: Vec<Complex32>,
    scratch: Vec<Complex32>,
    /// Of one channel and another, the powers before each bin.
    sums: [Vec<f64>; 2],
}

impl fmt::Debug for Spectra {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Spectra")
            .field("rate", &self.rate)
            .field("size", &self.size)
            .finish_non_exhaustive()
    }
}

impl Spectra {
    pub fn new(rate: u32, channels: usize, own: &[Band]) -> Self {
        let size = 1usize << (f64::from(rate) * WINDOW).log2().round().clamp(5.0, 16.0) as u32;
        let fft = FftPlannerScalar::new().plan_fft_forward(size);
        let window: Vec<f32> = (0..size)
            .map(|n| (1.0 - kernel::sine_of_turns(n as f64 / size as f64 + 0.25)) as f32 * 0.5)
            .collect();
        let energy: f64 = window.iter().map(|w| f64::from(*w) * f64::from(*w)).sum();
        let (count, bin) = (size / 2, f64::from(rate) / size as f64);
        let of = |band: Band| Bins::new(band.edges().map(|edge| edge.0), bin, count);
        let top = (f64::from(rate) / 2.0).min(16_000.0);
        let edge = |n: usize| 40.0 * libm::pow(top / 40.0, n as f64 / RISING as f64);
        Spectra {
            rate,
            size,
            window,
            scale: 2.0 / (size as f64 * energy),
            held: vec![vec![0.0; size / 2]; channels],
            base: -(size as i64 / 2),
            low_mid_high: [Band::Low, Band::Mid, Band::High].map(of),
            asked: own.iter().map(|band| of(*band)).collect(),
            rising: (0..RISING).map(|n| Bins::new([edge(n), edge(n + 1)], bin, count)).collect(),
            before: VecDeque::new(),
            found: Found {
                bands: [const { Vec::new() }; 3],
                own: vec![Vec::new(); own.len()],
                rises: Vec::new(),
            },
            work: vec![Complex32::default(); size],
            scratch: vec![Complex32::default(); fft.get_inplace_scratch_len()],
            sums: [vec![0.0; count + 1], vec![0.0; count + 1]],
            fft,
        }
    }

    /// Analyzes samples, channel by channel.
    pub fn hear(&mut self, samples: &[Vec<f32>]) {
        for (held, samples) in self.held.iter_mut().zip(samples) {
            held.extend_from_slice(samples);
        }
        self.make();
    }

    /// The sample in the middle of the steps that a spectrum counts for.
    fn middle(&self, look: usize) -> i64 {
        let halves = (2 * look as u64 + 1) * STEPS_A_SPECTRUM as u64;
        (halves * u64::from(self.rate) / u64::from(2 * STEPS)) as i64
    }

    /// Makes all spectra whose samples have come.
    fn make(&mut self) {
        loop {
            let middle = self.middle(self.found.rises.len());
            let from = (middle - self.size as i64 / 2 - self.base) as usize;
            if from + self.size > self.held[0].len() {
                // What no spectrum needs any more goes, now and then.
                if from > 16 * self.size || from == self.held[0].len() {
                    let gone = from.min(self.held[0].len());
                    self.held.iter_mut().for_each(|held| drop(held.drain(..gone)));
                    self.base += gone as i64;
                }
                return;
            }
            self.look(from);
        }
    }

    /// The spectrum of what is held from a place on; channels go two at a time, as the two parts of complex numbers.
    fn look(&mut self, from: usize) {
        let mut bands = [0.0f64; 3];
        let mut own: Vec<f64> = vec![0.0; self.asked.len()];
        let mut logs = [0.0; RISING];
        for pair in 0..self.held.len().div_ceil(2) {
            let parts = &self.held[pair * 2..self.held.len().min(pair * 2 + 2)];
            let count = parts.len();
            let a = &parts[0][from..from + self.size];
            let b = parts.get(1).map_or(&[][..], |b| &b[from..from + self.size]);
            let both = self.work.iter_mut().zip(&self.window).zip(a);
            if b.is_empty() {
                both.for_each(|((out, w), a)| *out = Complex32::new(a * w, 0.0));
            } else {
                both.zip(b).for_each(|(((out, w), a), b)| *out = Complex32::new(a * w, b * w));
            }
            self.fft.process_with_scratch(&mut self.work, &mut self.scratch);
            let [first, second] = &mut self.sums;
            let (mut one, mut other) = (0.0, 0.0);
            let mirrored =
                self.work[1..self.size / 2].iter().zip(self.work[self.size / 2 + 1..].iter().rev());
            let out = first[2..].iter_mut().zip(&mut second[2..]);
            for ((z, m), (first, second)) in mirrored.zip(out) {
                one += f64::from(0.25 * (z + m.conj()).norm_sqr());
                other += f64::from(0.25 * (z - m.conj()).norm_sqr());
                (*first, *second) = (one, other);
            }
            for sums in &self.sums[..count] {
                for (band, bins) in bands.iter_mut().zip(&self.low_mid_high) {
                    *band = band.max(bins.sum(sums));
                }
                for (band, bins) in own.iter_mut().zip(&self.asked) {
                    *band = band.max(bins.sum(sums));
                }
                for (log, bins) in logs.iter_mut().zip(&self.rising) {
                    *log += bins.sum(sums);
                }
            }
        }
        let level = |power: f64| (power * self.scale).sqrt() as f32;
        for (found, band) in self.found.bands.iter_mut().zip(bands) {
            found.push(level(band));
        }
        for (found, band) in self.found.own.iter_mut().zip(own) {
            found.push(level(band));
        }
        let sum = libm::log2(logs.iter().sum::<f64>() * self.scale + RISING as f64 * SILENT);
        for log in &mut logs {
            *log = libm::log2(*log * self.scale + SILENT);
        }
        if self.before.len() == APART {
            self.before.pop_back();
        }
        let silent = ([libm::log2(SILENT); RISING], libm::log2(RISING as f64 * SILENT));
        let (earlier, earlier_sum) =
            self.before.back().filter(|_| self.before.len() == APART - 1).unwrap_or(&silent);
        let rise: f64 = logs.iter().zip(earlier).map(|(now, then)| (now - then).max(0.0)).sum();
        let rise = (rise / RISING as f64).max(TOGETHER * (sum - earlier_sum));
        self.found.rises.push(rise as f32);
        self.before.push_front((logs, sum));
    }

    /// The spectra of all steps; after the last sample there is silence.
    pub fn finish(mut self, steps: usize) -> Found {
        let looks = steps.div_ceil(STEPS_A_SPECTRUM);
        let middle = self.middle(looks);
        let wanted = (middle + self.size as i64 - self.base) as usize;
        for held in &mut self.held {
            let wanted = wanted.max(held.len());
            held.resize(wanted, 0.0);
        }
        self.make();
        let Found { mut bands, mut own, mut rises } = self.found;
        bands.iter_mut().chain(&mut own).for_each(|looks_of| looks_of.truncate(looks));
        rises.truncate(looks);
        Found { bands, own, rises }
    }
}
