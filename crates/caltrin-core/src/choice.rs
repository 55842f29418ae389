//! Choices of the game: one of several options, with a fade between them.

use crate::kernel;
use crate::program::Choice;
use crate::quantity::Seconds;

/// The current option, since when it is current, and the weights at that time.
#[derive(Clone, Debug, PartialEq)]
pub struct ChoiceState {
    /// Index of the current option.
    pub chosen: u32,
    /// The time of the run at which it was chosen, in seconds.
    pub since: Seconds,
    /// The weight of each option at that time; the sum is 1.
    pub from: Vec<f64>,
}

impl ChoiceState {
    /// The state at the start of a run: the first option, fully faded in.
    pub fn start(choice: &Choice) -> Self {
        let mut from = vec![0.0; choice.options.len()];
        from[0] = 1.0;
        ChoiceState { chosen: 0, since: Seconds(-2.0 * kernel::LAST_MOMENT), from }
    }

    /// Selects an option without a fade.
    ///
    /// # Panics
    /// If there is no such option.
    pub fn settle(&mut self, option: u32) {
        self.from.fill(0.0);
        self.from[option as usize] = 1.0;
        (self.chosen, self.since) = (option, Seconds(-2.0 * kernel::LAST_MOMENT));
    }

    /// The weight of an option at a time, 0 to 1. Before the last choice, it is the weight at that
    /// choice.
    pub fn weight(&self, choice: &Choice, option: u32, now: Seconds) -> f64 {
        let to = if option == self.chosen { 1.0 } else { 0.0 };
        let (since, over) = (self.since.0, choice.over.0);
        kernel::faded(self.from[option as usize], to, since, over, now.0)
    }

    /// Selects an option. The fade starts from the current weights and takes its full time. The
    /// current option, or an index that is out of range, changes nothing.
    pub fn choose(&mut self, choice: &Choice, option: u32, now: Seconds) {
        if option == self.chosen || option as usize >= choice.options.len() {
            return;
        }
        let all = 0..choice.options.len() as u32;
        self.from = all.map(|n| self.weight(choice, n, now)).collect();
        (self.chosen, self.since) = (option, now);
    }
}
