//! The game's clock: a value, not a history. Where it stood at one moment, and how fast it has gone
//! since, say what it shows at any other.

use crate::kernel;
use crate::program::{Clock, NEVER, Program};
use crate::quantity::{Hours, Seconds};
use crate::sky::{MOST_DAYS, days_of, hour_of};

/// Most that the game can make the clock go, either way, as a factor of the book's own pace.
pub const MOST_RATE: f64 = 1e6;

/// What the clock shows.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shown {
    /// How many days have begun since the run's first, which is 0; below 0 before it.
    pub days: f64,
    /// The hour of the day, 0 to 24 (24 excluded).
    pub hour: Hours,
}

/// Where the clock stood at a moment, and how fast it has gone since.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ClockState {
    /// The moment of the run.
    pub since: Seconds,
    /// What it showed then.
    pub shown: Shown,
    /// How fast it goes: 1 at the book's own pace, 0 stands still, below 0 backwards.
    pub rate: f64,
    /// The hour from which it was moved there, where it was; else the one that it showed.
    pub from: Hours,
}

impl ClockState {
    /// At the start of a run; at midnight and standing for a book without a clock.
    pub fn start(program: &Program) -> Self {
        let (hour, rate) = program.clock().map_or((Hours(0.0), 0.0), |c| (c.start, c.rate));
        ClockState { since: Seconds(0.0), shown: Shown { days: 0.0, hour }, rate, from: hour }
    }

    /// The hours from the midnight of the current day, at a moment.
    #[inline]
    pub(crate) fn hours_at(&self, pace: f64, now: f64) -> f64 {
        self.shown.hour.0 + (now - self.since.0) * (self.rate * pace)
    }

    /// What it shows at a moment of the run.
    pub fn at(&self, clock: Clock, now: Seconds) -> Shown {
        let hours = self.hours_at(clock.pace(), now.0);
        let days = kernel::clamp(self.shown.days + days_of(hours), -MOST_DAYS, MOST_DAYS);
        Shown { days, hour: Hours(hour_of(hours)) }
    }

    /// Sets it to an hour of the current day, from which it goes on as fast as before: it jumps there. What
    /// lies outside of 0..24 is counted on round the clock; what is not a finite number is the book's start.
    pub fn set(&mut self, clock: Clock, now: Seconds, to: Hours) {
        let days = self.at(clock, now).days;
        let hour = kept(clock, to);
        *self = ClockState { since: now, shown: Shown { days, hour }, from: hour, ..*self };
    }

    /// Moves it to an hour and holds it there, for a game that has a clock of its own: it goes the short way
    /// round, and counts the days. Hours as for [`ClockState::set`].
    pub fn drive(&mut self, clock: Clock, now: Seconds, to: Hours) {
        let Shown { days, hour } = self.at(clock, now);
        let to = kept(clock, to);
        let on = match to.0 - hour.0 {
            far if far > 12.0 => -1.0,
            far if far < -12.0 => 1.0,
            _ => 0.0,
        };
        let days = kernel::clamp(days + on, -MOST_DAYS, MOST_DAYS);
        let shown = Shown { days, hour: to };
        *self = ClockState { since: now, shown, rate: 0.0, from: hour };
    }

    /// Sets how many days it has counted; kept whole, and within [`MOST_DAYS`].
    pub fn set_days(&mut self, clock: Clock, now: Seconds, days: f64) {
        let hour = self.at(clock, now).hour;
        let days = kernel::round_down(kernel::clean_input(days, -MOST_DAYS, MOST_DAYS, 0.0));
        *self = ClockState { since: now, shown: Shown { days, hour }, from: hour, ..*self };
    }

    /// Sets how fast it goes from now on; kept within [`MOST_RATE`] either way, and what is not a finite
    /// number is the book's rate.
    pub fn set_rate(&mut self, clock: Clock, now: Seconds, rate: f64) {
        let rate = kernel::clean_input(rate, -MOST_RATE, MOST_RATE, clock.rate);
        let shown = self.at(clock, now);
        *self = ClockState { since: now, shown, rate, from: shown.hour };
    }

    /// The first moment after another at which it comes to show an hour, as far as is known now: as it goes, or as it
    /// was moved there; [`NEVER`] if it does not. What jumps passes nothing.
    #[inline]
    pub(crate) fn strikes(&self, pace: f64, hour: f64, after: f64) -> f64 {
        let (since, shown, speed) = (self.since.0, self.shown.hour.0, self.rate * pace);
        if speed == 0.0 {
            let way = shown - self.from.0;
            let way = if way > 12.0 {
                way - 24.0
            } else if way < -12.0 {
                way + 24.0
            } else {
                way
            };
            let (way, left) = match way < 0.0 {
                true => (-way, hour_of(self.from.0 - hour)),
                false => (way, hour_of(hour - self.from.0)),
            };
            let passed = left > 0.0 && left <= way;
            return if passed && since > after { since } else { NEVER };
        }
        let ahead = if speed > 0.0 { hour_of(hour - shown) } else { hour_of(shown - hour) };
        // What it shows already has come before.
        let ahead = if ahead < 1e-9 { 24.0 } else { ahead };
        let speed = if speed > 0.0 { speed } else { -speed };
        let last = if after > since { after } else { since };
        let turns = kernel::round_down(((last - since) * speed - ahead) / 24.0);
        let turns = if turns > 0.0 { turns } else { 0.0 };
        let at = since + (ahead + 24.0 * turns) / speed;
        if at > last { at } else { since + (ahead + 24.0 * (turns + 1.0)) / speed }
    }
}

fn kept(clock: Clock, to: Hours) -> Hours {
    Hours(hour_of(kernel::clean_input(to.0, -MOST_DAYS, MOST_DAYS, clock.start.0)))
}
