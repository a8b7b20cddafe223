//! The word lists that ship inside, made by us. `README.md` beside this file says how.

mod contractions;
mod dictionary;
mod front_coded;

pub(crate) use contractions::{
    english_contractions, follows_has, follows_is, follows_would, is_between, is_participle,
};
pub use dictionary::{Dictionary, dictionary};
pub(crate) use front_coded::FrontCoded;

/// The stop lists on the shelf: name, what it is, and the text of its file.
static STOP_LISTS: &[(&str, &str, &str)] =
    &[("en", "English function words, with contracted forms", include_str!("stop-en.txt"))];

/// The names of the stop lists on the shelf.
pub fn stop_list_names() -> impl Iterator<Item = &'static str> {
    STOP_LISTS.iter().map(|(name, _, _)| *name)
}

/// The words of the stop list with this name. Words with an apostrophe come in both shapes, `'` and `’`.
pub fn stop_list(name: &str) -> Option<Vec<String>> {
    let (_, _, text) = STOP_LISTS.iter().find(|(known, _, _)| *known == name)?;
    let mut words = Vec::new();
    for word in one_a_line(text) {
        if word.contains('\'') {
            words.push(word.replace('\'', "\u{2019}"));
        }
        words.push(word.to_owned());
    }
    Some(words)
}

/// The words of a list that holds one a line. Empty lines and lines that begin with `# ` are left out.
pub fn one_a_line(text: &str) -> impl Iterator<Item = &str> {
    text.lines().map(str::trim).filter(|line| !line.is_empty() && *line != "#" && !line.starts_with("# "))
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn lists_are_clean() {
        for name in stop_list_names() {
            let words = stop_list(name).unwrap_or_default();
            let mut seen = HashSet::new();
            for word in &words {
                assert!(seen.insert(word.clone()), "{word} is in {name} twice");
                assert_eq!(word.to_lowercase(), *word);
                assert!(!word.contains(char::is_whitespace));
            }
        }
    }

    #[test]
    fn contracted_forms_come_in_both_apostrophes() {
        let words = stop_list("en").unwrap_or_default();
        for word in ["the", "don't", "don\u{2019}t", "they're", "they\u{2019}re"] {
            assert!(words.iter().any(|known| known == word), "{word}");
        }
    }

    #[test]
    fn comments_are_told_from_words_with_a_number_sign() {
        assert_eq!(one_a_line("# note\n#\nnest\n\n #tern \n").collect::<Vec<_>>(), ["nest", "#tern"]);
    }
}
