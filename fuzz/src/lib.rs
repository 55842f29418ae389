//! What is fuzzed. Each binary gives the bytes that the fuzzer makes up to one of [`targets`].

pub mod targets;
