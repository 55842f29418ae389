//! Choices that the game makes: one of a few names, and a fade from one to the next.

use crate::kernel;
use crate::program::Choice;
use crate::quantity::Seconds;

/// What is chosen, since when, and how much each option counted then.
#[derive(Clone, Debug, PartialEq)]
pub struct ChoiceState {
    /// The option current, counted from 0.
    pub chosen: u32,
    /// The moment of the run at which it was chosen.
    pub since: Seconds,
    /// How much each option counted at that moment; all together 1.
    pub from: Vec<f64>,
}

impl ChoiceState {
    /// At the start of a run: the first option, all of it.
    pub fn start(choice: &Choice) -> Self {
        let mut from = vec![0.0; choice.options.len()];
        from[0] = 1.0;
        ChoiceState { chosen: 0, since: Seconds(-2.0 * kernel::LAST_MOMENT), from }
    }

    /// Makes an option the current one, as if it had been chosen long ago.
    ///
    /// # Panics
    /// If there is no such option.
    pub fn settle(&mut self, option: u32) {
        self.from.fill(0.0);
        self.from[option as usize] = 1.0;
        (self.chosen, self.since) = (option, Seconds(-2.0 * kernel::LAST_MOMENT));
    }

    /// How much an option counts at a moment, 0 to 1. Before it was chosen it is as it was then.
    pub fn weight(&self, choice: &Choice, option: u32, now: Seconds) -> f64 {
        let to = if option == self.chosen { 1.0 } else { 0.0 };
        let (since, over) = (self.since.0, choice.over.0);
        kernel::faded(self.from[option as usize], to, since, over, now.0)
    }

    /// Chooses an option; the fade to it begins where all are now, and takes its full time. What is active
    /// already, or is not an option, changes nothing.
    pub fn choose(&mut self, choice: &Choice, option: u32, now: Seconds) {
        if option == self.chosen || option as usize >= choice.options.len() {
            return;
        }
        let all = 0..choice.options.len() as u32;
        self.from = all.map(|n| self.weight(choice, n, now)).collect();
        (self.chosen, self.since) = (option, now);
    }
}
