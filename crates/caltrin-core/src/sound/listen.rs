//! From samples to what they are like, a little at a time.

use super::onset::onsets;
use super::spectrum::Spectra;
use super::{Band, Hearing, LONGEST, MOST_CHANNELS, STEPS, SoundFault};
use crate::quantity::Seconds;

/// Analyzes samples as they come and holds little of them.
#[derive(Debug)]
pub struct Listener {
    rate: u32,
    channels: usize,
    /// How many samples of each channel have come.
    heard: u64,
    /// How many of them belong to the current step.
    in_step: u64,
    /// Where that step ends.
    step_end: u64,
    /// Of the current step, by channel: the sum of squares, and the greatest.
    sums: Vec<f64>,
    tops: Vec<f32>,
    /// The samples current, by channel.
    apart: Vec<Vec<f32>>,
    hearing: Hearing,
    spectra: Spectra,
}

impl Listener {
    /// For samples of that many a second in that many channels; `own` are bands that are wanted besides low, mid and
    /// high.
    ///
    /// # Errors
    /// If no sound has such a rate or so many channels.
    pub fn new(rate: u32, channels: usize, own: &[Band]) -> Result<Self, SoundFault> {
        if !(1..=MOST_CHANNELS).contains(&channels) {
            return Err(SoundFault::Channels(channels));
        }
        if !(1_000..=768_000).contains(&rate) {
            return Err(SoundFault::Rate(rate));
        }
        Ok(Listener {
            rate,
            channels,
            heard: 0,
            in_step: 0,
            step_end: boundary(rate, 1),
            sums: vec![0.0; channels],
            tops: vec![0.0; channels],
            apart: vec![Vec::new(); channels],
            hearing: Hearing {
                own: own.iter().map(|band| (*band, Vec::new())).collect(),
                ..Hearing::default()
            },
            spectra: Spectra::new(rate, channels, own),
        })
    }

    /// Analyzes samples, channel after channel in each frame; full is 1.
    ///
    /// # Errors
    /// If one is not a finite number, or there are too many of them.
    pub fn hear(&mut self, samples: &[f32]) -> Result<(), SoundFault> {
        // All are evaluated without a branch; where one is amiss it is looked for.
        let whole = samples.iter().fold(true, |whole, v| whole & v.is_finite());
        if !whole && let Some(n) = samples.iter().position(|v| !v.is_finite()) {
            let frame = self.heard + (n / self.channels) as u64;
            return Err(SoundFault::NoNumber(Seconds(frame as f64 / f64::from(self.rate))));
        }
        let count = samples.len() / self.channels;
        if self.heard + count as u64 > LONGEST.0 as u64 * u64::from(self.rate) {
            return Err(SoundFault::TooLong);
        }
        // Channel by channel from here on.
        for (channel, apart) in self.apart.iter_mut().enumerate() {
            apart.clear();
            apart.extend(samples.chunks_exact(self.channels).map(|frame| frame[channel]));
        }
        self.spectra.hear(&self.apart);
        let mut done = 0;
        while done < count {
            let wanted = ((self.step_end - self.heard) as usize).min(count - done);
            let now = self.apart.iter().map(|apart| &apart[done..done + wanted]);
            for (now, (sum, top)) in now.zip(self.sums.iter_mut().zip(&mut self.tops)) {
                for v in now {
                    *sum += f64::from(*v) * f64::from(*v);
                    *top = top.max(v.abs());
                }
            }
            done += wanted;
            self.heard += wanted as u64;
            self.in_step += wanted as u64;
            if self.heard == self.step_end {
                self.end_step();
            }
        }
        Ok(())
    }

    fn end_step(&mut self) {
        let count = self.in_step as f64;
        let loudest = self.sums.iter().copied().fold(0.0, f64::max) / count;
        let top = self.tops.iter().copied().fold(0.0, f32::max);
        // What is all but silence need not be kept as such.
        self.hearing.squares.push(if loudest < 1e-30 { 0.0 } else { loudest as f32 });
        self.hearing.peaks.push(top);
        self.sums.fill(0.0);
        self.tops.fill(0.0);
        self.in_step = 0;
        self.step_end = boundary(self.rate, self.hearing.squares.len() as u64 + 1);
    }

    /// How much has been heard so far.
    pub fn heard(&self) -> Seconds {
        Seconds(self.heard as f64 / f64::from(self.rate))
    }

    /// What the sound was like.
    ///
    /// # Errors
    /// If there were no samples.
    pub fn finish(mut self) -> Result<Hearing, SoundFault> {
        if self.heard == 0 {
            return Err(SoundFault::Empty);
        }
        if self.in_step > 0 {
            self.end_step();
        }
        self.hearing.length = self.heard().0;
        let found = self.spectra.finish(self.hearing.squares.len());
        self.hearing.bands = found.bands;
        for (own, looks) in self.hearing.own.iter_mut().zip(found.own) {
            own.1 = looks;
        }
        self.hearing.onsets = onsets(&self.hearing.squares, &found.rises);
        Ok(self.hearing)
    }
}

/// The sample at which the steps before the `n`th end.
fn boundary(rate: u32, n: u64) -> u64 {
    n * u64::from(rate) / u64::from(STEPS)
}
