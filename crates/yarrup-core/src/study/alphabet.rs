//! The order of words in lists that people read.

use unicode_normalization::UnicodeNormalization as _;
use unicode_normalization::char::is_combining_mark;

/// What a word is ordered by: its letters without accents and without regard to case, in the order of Unicode; words that are alike then stand in the
/// order of their bytes. That is the order of an English index. It is no collation by the rules of each language: a Swedish `å` stands with `a`.
///
/// ```
/// use yarrup_core::study::alphabetical;
///
/// let mut words = ["zebra", "Étude", "etude", "Apfel", "äpfel"];
/// words.sort_by_cached_key(|word| alphabetical(word));
/// assert_eq!(words, ["Apfel", "äpfel", "etude", "Étude", "zebra"]);
/// ```
pub fn alphabetical(word: &str) -> (String, String) {
    let plain = word.nfkd().filter(|c| !is_combining_mark(*c)).flat_map(char::to_lowercase).collect();
    (plain, word.to_owned())
}
