#![no_main]

libfuzzer_sys::fuzz_target!(|data: &[u8]| yarrup_fuzz::dictionary(data));
