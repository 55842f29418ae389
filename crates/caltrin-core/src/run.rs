//! A run: a checked program being played.

use std::ops::Range;

use crate::checked::Checked;
use crate::kernel;
use crate::program::LightId;
use crate::quantity::{Seconds, Seed};
use crate::tape::{Lanes, Scratch};

/// All that a run remembers: a small plain value that can be copied, kept and compared.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct State {
    /// The seed of its chances.
    pub seed: Seed,
    /// The moment it stands at.
    pub now: Seconds,
}

/// A program being played. Any moment can be asked for, in any order, at the same cost.
#[derive(Clone, Debug)]
pub struct Run<'a> {
    checked: &'a Checked,
    state: State,
    scratch: Scratch,
}

impl<'a> Run<'a> {
    /// A run at moment 0 with the book's own seed.
    pub fn new(checked: &'a Checked) -> Self {
        Run::with_seed(checked, checked.program().seed())
    }

    /// A run at moment 0 with a seed of the game's choice.
    pub fn with_seed(checked: &'a Checked, seed: Seed) -> Self {
        Run { checked, state: State { seed, now: Seconds(0.0) }, scratch: Scratch::default() }
    }

    /// Goes to a moment of the run. Not-a-number is taken as 0; the rest is kept within
    /// [`kernel::LAST_MOMENT`] either side of the start.
    pub fn advance(&mut self, to: Seconds) {
        self.state.now = Seconds(kernel::clean_moment(to.0));
    }

    /// What the run remembers.
    pub fn state(&self) -> State {
        self.state
    }

    /// Goes back to a remembered state.
    pub fn restore(&mut self, state: State) {
        self.state = State { now: Seconds(kernel::clean_moment(state.now.0)), ..state };
    }

    /// How many numbers a lamp of this light gives: its driven fields one after the other, a
    /// colour or position as three.
    pub fn width(&self, light: LightId) -> usize {
        self.checked.tape(light).width()
    }

    /// Reads `out.len() / width` lamps of a light from lamp `first` on, [`Run::width`] numbers
    /// each, in the order of the light's drives. Allocates nothing after the first call.
    ///
    /// # Panics
    /// If the length of `out` is not a multiple of the width.
    pub fn read(&mut self, light: LightId, first: u32, out: &mut [f32]) {
        let tape = self.checked.tape(light);
        if tape.width() == 0 {
            return;
        }
        assert!(out.len().is_multiple_of(tape.width()), "`out` holds whole lamps");
        let lanes =
            Lanes::Lamps { first, count: out.len() / tape.width(), moment: self.state.now.0 };
        let program = (self.checked.program(), self.state.seed.0);
        tape.read(program, lanes, 0..tape.width(), &mut self.scratch, out);
    }

    /// Reads one lamp at many moments, as many numbers each as `places` has; the run's own moment
    /// is left as it is. `places` are those of the numbers that [`Run::read`] gives a lamp: all of
    /// them are `0..run.width(light)`.
    ///
    /// # Panics
    /// If a lamp has no such places, or `out` does not hold that many numbers for each moment.
    pub fn read_moments(
        &mut self,
        (light, index): (LightId, u32),
        moments: &[Seconds],
        places: Range<usize>,
        out: &mut [f32],
    ) {
        let tape = self.checked.tape(light);
        assert_eq!(out.len(), places.len() * moments.len(), "`out` holds one lamp a moment");
        let mut clean = self.scratch.take_moments();
        clean.clear();
        clean.extend(moments.iter().map(|t| kernel::clean_moment(t.0)));
        let lanes = Lanes::Moments { index, moments: &clean };
        let program = (self.checked.program(), self.state.seed.0);
        tape.read(program, lanes, places, &mut self.scratch, out);
        self.scratch.keep_moments(clean);
    }
}
