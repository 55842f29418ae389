#![no_main]
#![allow(missing_docs)]

libfuzzer_sys::fuzz_target!(|data: &[u8]| caltrin_fuzz::targets::books(data));
