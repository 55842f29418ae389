#![no_main]
#![allow(missing_docs)]

use std::panic;
use std::sync::Once;

libfuzzer_sys::fuzz_target!(|data: &[u8]| {
    static QUIET: Once = Once::new();
    // A panic inside a decoder is caught and becomes an error; any other is a finding.
    QUIET.call_once(|| {
        let abort = panic::take_hook();
        panic::set_hook(Box::new(move |info| {
            if !caltrin::sound::is_decoding() {
                abort(info);
            }
        }));
    });
    caltrin_fuzz::targets::sounds(data);
});
