//! The look: a dark harbour ground, warm paper inks.

use crate::shape::Ink;

/// Beneath everything.
pub const GROUND: Ink = Ink::solid(0x0f_15_19);
/// Every other lane.
pub const BAND: Ink = Ink::solid(0x14_1c_21);
/// Names and headings.
pub const INK: Ink = Ink::solid(0xec_e6_d8);
/// Everything that is said quietly.
pub const QUIET: Ink = Ink::solid(0x9a_a5_a8);
/// Lines of the ruler.
pub const GRID: Ink = Ink::solid(0x9a_a5_a8).alpha(38);
/// Bounds.
pub const BOUND: Ink = Ink::solid(0x9a_a5_a8).alpha(150);
/// Findings of the checks.
pub const WARN: Ink = Ink::solid(0xff_8f_c7);
