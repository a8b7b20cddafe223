//! Published stemmers, each written from its author's description.

mod porter;
mod porter2;

pub use porter::porter;
pub use porter2::porter2;

/// Whether a word is too short to be stemmed: one or two letters.
fn is_too_short(word: &str) -> bool {
    word.chars().nth(2).is_none()
}

/// A word that is being stemmed. All rules speak of bytes: the letters a to z are what they know, and every other
/// character counts as consonants.
fn into_word(bytes: Vec<u8>) -> String {
    // Suffixes are ASCII, so cutting them off cannot part a character; lossy only to have no panic on the path.
    String::from_utf8(bytes).unwrap_or_else(|error| String::from_utf8_lossy(error.as_bytes()).into_owned())
}

/// The longest of `rules` whose suffix ends `word`.
fn longest<'r, T>(word: &[u8], rules: &'r [(&'static str, T)]) -> Option<&'r (&'static str, T)> {
    let last = word.last();
    // The last letter alone rules most suffixes out.
    let ends = |suffix: &str| suffix.as_bytes().last() == last && word.ends_with(suffix.as_bytes());
    rules.iter().filter(|(suffix, _)| ends(suffix)).max_by_key(|(suffix, _)| suffix.len())
}
