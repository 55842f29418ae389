//! Drawings of validated programs.
//!
//! Data flow: [`sheet::sheet`] samples a program over a span and lays out neutral
//! [`shape::Shape`]s, [`place::place`] lays out the lit place at several times. [`svg::svg`] and
//! [`png::png`] paint the same shapes, [`html::html`] adds a readout, and [`terminal::terminal`]
//! prints the lanes of a sheet as text.

mod bands;
mod columns;
pub mod compare;
mod curves;
mod day;
mod font;
pub mod hearing;
pub mod html;
pub mod look;
pub mod place;
pub mod png;
mod scale;
pub mod shape;
pub mod sheet;
mod sounds;
pub mod svg;
pub mod terminal;

pub use compare::{Came, Change, CompareOptions, Side, changes, compare};
pub use font::WEB as WEB_FONTS;
pub use hearing::hearing;
pub use html::html;
pub use place::{Exposure, PlaceOptions, PlacePair, PlaceView, Texture, View, When, place};
pub use png::{PngError, apng, pixels, png};
pub use shape::Picture;
pub use sheet::{SheetOptions, sheet};
pub use svg::svg;
pub use terminal::{Colors, TerminalOptions, terminal};
