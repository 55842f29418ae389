//! What the exports of all languages share: names, and what things are in words.

mod event;
mod kernel;
mod naming;
mod pieces;
mod words;

pub use event::{ALL_DONE, DUE, SETTLES, describe_event, given};
pub use kernel::{KERNEL, kernel_needs};
pub use naming::{ChoiceNames, EventNames, FileNames, InputNames, LightNames};
pub use pieces::setter_values;
pub use words::{
    about_value, at_line, describe, describe_choice, describe_input, describe_light, tag_constants,
};
