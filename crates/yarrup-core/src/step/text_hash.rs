//! Hashes of texts that are the same on every machine and in every run.

/// The hash of Fowler, Noll and Vo (1991), variant 1a.
pub(crate) fn text_hash(text: &str) -> u64 {
    text.bytes()
        .fold(0xcbf2_9ce4_8422_2325, |hash, byte| (hash ^ u64::from(byte)).wrapping_mul(0x100_0000_01b3))
}

/// As [`text_hash`], mixed once more so that all its bits depend on all bytes.
pub(crate) fn mixed_text_hash(text: &str) -> u64 {
    let sum = text_hash(text);
    (sum ^ sum >> 32).wrapping_mul(0x9e37_79b9_7f4a_7c15)
}
