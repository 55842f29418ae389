//! Files: read with a bound, and written whole or not at all.
//!
//! [`read`] takes regular files only, so that no pipe and no device keeps it waiting. [`put`] never replaces what
//! a call reads, nor any lightbook, and a file that Caltrin did not make only where the user named it.

mod put;
mod read;
mod stage;

pub use put::{Inputs, Interrupted, Output, Put, PutError, Replaces, put, put_exported};
pub use read::{open_regular, open_within, read, read_open};
