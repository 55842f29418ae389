//! The measure of a proof's samples: what provers are printed for, and what they are asked.

/// Number of actions before each sample of a proof.
pub const ACTS: usize = 3;

/// Number of the action that sets the first input; inputs are numbered consecutively.
pub const FIRST_SET: u32 = 7;

/// The lamps of a light that a proof evaluates: blocks of adjacent lamps.
pub type Blocks = Vec<Vec<(u32, u32)>>;
