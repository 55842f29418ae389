//! How a call ends.

use std::fmt::Display;

/// How a call ended that could be carried out.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Status {
    /// Exit status 0.
    Fine,
    /// The book has problems: exit status 1.
    Problems,
}

/// The call was wrong or the system refused: exit status 2. A message, and what to do.
pub struct Failure(pub String, pub Option<String>);

impl<E: std::error::Error> From<E> for Failure {
    fn from(error: E) -> Self {
        Failure(error.to_string(), None)
    }
}

/// A failure with advice.
pub fn failure(message: impl Display, help: impl Display) -> Failure {
    Failure(message.to_string(), Some(help.to_string()))
}

pub type Done = Result<Status, Failure>;
