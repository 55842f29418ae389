//! The game's clock: a value, not a history. Its hour at one time and its rate since then determine
//! its hour at any other time.

use crate::kernel;
use crate::program::{Clock, NEVER, Program};
use crate::quantity::{Hours, Seconds};
use crate::sky::{MOST_DAYS, days_of, hour_of};

/// Maximum clock rate in either direction, as a factor of the book's rate.
pub const MOST_RATE: f64 = 1e6;

/// The day and hour of the clock.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shown {
    /// The day count: the day on which the run starts is 0, earlier days are negative.
    pub days: f64,
    /// The hour of the day, 0 to 24 (24 excluded).
    pub hour: Hours,
}

/// The hour of the clock at one time of the run, and its rate since then.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ClockState {
    /// The time of the run, in seconds.
    pub since: Seconds,
    /// The hour at that time.
    pub shown: Shown,
    /// The rate: 1 is the book's rate, 0 stops the clock, negative rates run it backward.
    pub rate: f64,
    /// The hour from which it was driven there; otherwise the same hour.
    pub from: Hours,
}

impl ClockState {
    /// The clock at the start of a run; stopped at midnight for a book without a clock.
    pub fn start(program: &Program) -> Self {
        let (hour, rate) = program.clock().map_or((Hours(0.0), 0.0), |c| (c.start, c.rate));
        ClockState { since: Seconds(0.0), shown: Shown { days: 0.0, hour }, rate, from: hour }
    }

    /// Hours since midnight of the current day, at a time.
    #[inline]
    pub(crate) fn hours_at(&self, pace: f64, now: f64) -> f64 {
        self.shown.hour.0 + (now - self.since.0) * (self.rate * pace)
    }

    /// The day and hour at a time of the run.
    pub fn at(&self, clock: Clock, now: Seconds) -> Shown {
        let hours = self.hours_at(clock.pace(), now.0);
        let days = kernel::clamp(self.shown.days + days_of(hours), -MOST_DAYS, MOST_DAYS);
        Shown { days, hour: Hours(hour_of(hours)) }
    }

    /// Sets the hour of the current day. The clock jumps there and keeps its rate. Hours outside
    /// 0..24 are wrapped; a value that is not finite selects the book's initial hour.
    pub fn set(&mut self, clock: Clock, now: Seconds, to: Hours) {
        let days = self.at(clock, now).days;
        let hour = kept(clock, to);
        *self = ClockState { since: now, shown: Shown { days, hour }, from: hour, ..*self };
    }

    /// Drives the clock to an hour and holds it there, for a game with its own clock. It takes the
    /// shorter way around and counts the days. Hours are wrapped as for [`ClockState::set`].
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

    /// Sets the day count, rounded down to a whole number and clamped to [`MOST_DAYS`].
    pub fn set_days(&mut self, clock: Clock, now: Seconds, days: f64) {
        let hour = self.at(clock, now).hour;
        let days = kernel::round_down(kernel::clean_input(days, -MOST_DAYS, MOST_DAYS, 0.0));
        *self = ClockState { since: now, shown: Shown { days, hour }, from: hour, ..*self };
    }

    /// Sets the rate from now on, clamped to [`MOST_RATE`] in either direction; a value that is not
    /// finite selects the book's rate.
    pub fn set_rate(&mut self, clock: Clock, now: Seconds, rate: f64) {
        let rate = kernel::clean_input(rate, -MOST_RATE, MOST_RATE, clock.rate);
        let shown = self.at(clock, now);
        *self = ClockState { since: now, shown, rate, from: shown.hour };
    }

    /// The first time after a given time at which the clock reaches an hour, at its current rate or
    /// because it was driven there; [`NEVER`] if it does not. A jump reaches no hour.
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
