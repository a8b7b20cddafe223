//! D. Harman (1991), "How effective is suffixing?", *Journal of the American Society for Information Science* 42(1), 7–15: the S stemmer.

/// The stem of `word` by the S stemmer, which takes plural endings off and nothing else. Expects lower case.
///
/// Three rules, of which the first whose ending fits is the only one that is tried:
/// Words of one or two letters are left alone.
///
/// `-ies` but not `-eies`, `-aies` becomes `-y`; `-es` but not `-aes`, `-ees`, `-oes` becomes `-e`; `-s` but not `-us`, `-ss` goes.
pub fn harman(word: &str) -> String {
    if super::is_too_short(word) {
        return word.to_owned();
    }
    let ends = |endings: &[&str]| endings.iter().any(|ending| word.ends_with(ending));
    let kept = |cut: usize| &word[..word.len() - cut];
    if word.ends_with("ies") {
        return if ends(&["eies", "aies"]) { word.to_owned() } else { format!("{}y", kept(3)) };
    }
    if word.ends_with("es") {
        return if ends(&["aes", "ees", "oes"]) { word.to_owned() } else { kept(1).to_owned() };
    }
    if word.ends_with('s') && !ends(&["us", "ss"]) {
        return kept(1).to_owned();
    }
    word.to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn plural_endings_go_by_the_three_rules() {
        for (word, stem) in [
            ("queries", "query"),
            ("eies", "eies"),
            ("foxes", "foxe"),
            ("trees", "trees"),
            ("shoes", "shoes"),
            ("nests", "nest"),
            ("corpus", "corpus"),
            ("pass", "pass"),
            ("walking", "walking"),
            ("s", "s"),
            ("as", "as"),
            ("is", "is"),
        ] {
            assert_eq!(harman(word), stem);
        }
    }
}
