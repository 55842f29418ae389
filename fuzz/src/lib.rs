//! Fuzz targets. Each binary passes the input of the fuzzer to one of [`targets`].

pub mod targets;
