//! A run that performs what the game does in a rehearsal.

use std::ops::Range;

use crate::kernel;
use crate::program::{Deed, LightId, Rehearsal};
use crate::quantity::Seconds;
use crate::run::{Heard, Run, State, Taken};
use crate::validated::ValidatedProgram;

/// A run that performs the deeds of a rehearsal, if it has any.
#[derive(Clone, Debug)]
pub struct Player<'a> {
    run: Run<'a>,
    start: State,
    deeds: &'a [(Seconds, Deed)],
    next: usize,
}

impl<'a> Player<'a> {
    /// Continues a run from a state, with the rehearsal's clock if it sets one.
    pub fn new(
        checked: &'a ValidatedProgram,
        state: State,
        rehearsal: Option<&'a Rehearsal>,
    ) -> Self {
        let state = match rehearsal.and_then(|rehearsal| rehearsal.clock) {
            Some(hour) => state.with_hour(checked.program(), hour),
            None => state,
        };
        let deeds = rehearsal.map_or(&[][..], |rehearsal| &rehearsal.deeds);
        Player::of_log(checked, state, deeds)
    }

    /// Continues a run from a state and performs these deeds, in order of time: a log of what a
    /// game did.
    pub fn of_log(
        checked: &'a ValidatedProgram,
        state: State,
        deeds: &'a [(Seconds, Deed)],
    ) -> Self {
        let (start, run) = (state.clone(), Run::from_state(checked, state));
        Player { run, start, deeds, next: 0 }
    }

    /// Seeks to any time; to an earlier one by restarting.
    pub fn seek(&mut self, to: Seconds) {
        if kernel::clean_moment(to.0) < self.run.state().now.0 {
            self.run.restore(self.start.clone());
            self.next = 0;
        }
        self.advance(to);
    }

    /// The run at its current time.
    pub fn run(&mut self) -> &mut Run<'a> {
        &mut self.run
    }

    /// Advances to a time that is not earlier than the current one. Each deed is performed at its
    /// own time, after the events that are due then.
    pub fn advance(&mut self, to: Seconds) {
        let to = Seconds(kernel::clean_moment(to.0));
        while let Some((at, deed)) = self.deeds.get(self.next).filter(|(at, _)| at.0 <= to.0) {
            self.run.advance_through(*at);
            self.run.act(deed);
            self.next += 1;
        }
        self.run.advance_through(to);
    }

    /// The events until a time, with their times. Internal events are omitted.
    pub fn events(&mut self, to: Seconds) -> Vec<Heard> {
        self.run.listen();
        self.advance(to);
        let program = self.run.checked().program();
        let mut all = self.run.heard();
        all.retain(|heard| !program.event(heard.event).source.is_own());
        all
    }

    /// Advances to a time and takes all notices sent until then, in order of time.
    pub fn notices(&mut self, to: Seconds) -> Vec<Taken<'a>> {
        let to = kernel::clean_moment(to.0);
        let mut all = Vec::new();
        loop {
            let now = self.run.state().now.0;
            // Not farther than to the next change, so that the queue does not overflow on the way.
            let next = self.next_change();
            let next = if next > now { next.min(to) } else { to };
            self.advance(Seconds(next));
            all.extend(std::iter::from_fn(|| self.run.take_notice()));
            if next >= to {
                return all;
            }
        }
    }

    /// The next time at which the run's state changes.
    fn next_change(&mut self) -> f64 {
        let due = self.run.next_due().map_or(f64::INFINITY, |(due, _)| due.0);
        self.deeds.get(self.next).map_or(due, |(at, _)| due.min(at.0))
    }

    /// Evaluates one lamp at ascending times: see [`Run::read_moments`].
    ///
    /// # Panics
    /// See [`Run::read_moments`].
    pub fn read_moments(
        &mut self,
        lamp: (LightId, u32),
        moments: &[Seconds],
        places: Range<usize>,
        out: &mut [f32],
    ) {
        self.read_many(&[(lamp, places)], moments, &mut [out]);
    }

    /// Same for several lamps; the run advances only once for all of them.
    ///
    /// # Panics
    /// See [`Run::read_moments`], or if the number of `outs` differs from the number of lamps.
    pub fn read_many(
        &mut self,
        lamps: &[((LightId, u32), Range<usize>)],
        moments: &[Seconds],
        outs: &mut [&mut [f32]],
    ) {
        assert_eq!(lamps.len(), outs.len(), "an `out` for each lamp");
        let mut done = 0;
        while done < moments.len() {
            let change = self.next_change();
            let quiet = moments[done..].iter().take_while(|t| kernel::clean_moment(t.0) < change);
            let mut end = done + quiet.count();
            if end == done {
                self.advance(moments[done]);
                end += 1;
            }
            for ((lamp, places), out) in lamps.iter().zip(&mut *outs) {
                let out = &mut out[done * places.len()..end * places.len()];
                self.run.read_moments(*lamp, &moments[done..end], places.clone(), out);
            }
            done = end;
        }
    }

    /// Advances to a time unless more than `most` timed events occur before it; returns whether it
    /// was reached.
    pub fn reaches(&mut self, to: Seconds, most: usize) -> bool {
        let to = Seconds(kernel::clean_moment(to.0));
        while let Some((at, deed)) = self.deeds.get(self.next).filter(|(at, _)| at.0 <= to.0) {
            if !self.run.advance_within(*at, most) {
                return false;
            }
            self.run.act(deed);
            self.next += 1;
        }
        self.run.advance_within(to, most)
    }
}
