//! Pictures of checked programs.
//!
//! The way of the data: [`sheet::sheet`] looks at a program over a span and lays out neutral
//! [`shape::Shape`]s; [`svg::svg`] and [`png::png`] paint the same shapes.

mod columns;
mod font;
pub mod look;
pub mod png;
mod scale;
pub mod shape;
pub mod sheet;
pub mod svg;

pub use png::{PngError, png};
pub use shape::Picture;
pub use sheet::{SheetOptions, sheet};
pub use svg::svg;
