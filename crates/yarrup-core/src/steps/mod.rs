//! The steps, and the one list from which reading, help, suggestions and reference pages are drawn.

pub(crate) mod collection;
pub(crate) mod split;
pub(crate) mod text;
pub(crate) mod token;

use crate::step::Operation;

/// Every operation that a step's `do` can name. A new one is its own file and one line here.
pub static OPERATIONS: &[&Operation] = &[
    &text::unicode::UNICODE,
    &text::markup::MARKUP,
    &text::lines::LINES,
    &text::mask::MASK,
    &text::contractions::CONTRACTIONS,
    &text::case::CASE,
    &text::accents::ACCENTS,
    &text::replace::REPLACE,
    &text::erase::ERASE,
    &text::repeats::REPEATS,
    &text::spaces::SPACES,
    &split::SPLIT,
    &token::tag::TAG,
    &token::label::LABEL,
    &token::drop::DROP,
    &token::drop::KEEP,
    &token::stopwords::STOPWORDS,
    &token::equate::EQUATE,
    &token::lemma::LEMMA,
    &token::stem::STEM,
    &token::phrases::PHRASES,
    &token::ngrams::NGRAMS,
    &token::unique::UNIQUE,
    &collection::limit::LIMIT,
    &collection::documents::DOCUMENTS,
];

/// The operation with this name.
pub fn operation(name: &str) -> Option<&'static Operation> {
    OPERATIONS.iter().copied().find(|operation| operation.name == name)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::recipe::read;
    use crate::step::Shape;
    use crate::testing;
    use std::collections::HashSet;

    #[test]
    fn names_are_unique_and_lower_case() {
        let mut seen = HashSet::new();
        for operation in OPERATIONS {
            assert!(seen.insert(operation.name), "{}", operation.name);
            assert!(operation.name.bytes().all(|b| b.is_ascii_lowercase()));
            let mut keys: HashSet<_> = ["do", "label", "spare", "only", "allow"].into();
            for key in operation.keys {
                assert!(keys.insert(key.name), "{}.{}", operation.name, key.name);
                assert!(!key.about.is_empty());
            }
        }
    }

    #[test]
    fn every_example_is_read_and_built() {
        for operation in OPERATIONS {
            let written = format!("[[step]]\ndo = \"{}\"\n{}\n", operation.name, operation.example);
            assert!(read(&written).is_ok(), "{written}");
            testing::clean(&written, "Some terns nest.");
        }
    }

    #[test]
    fn defaults_are_among_the_choices() {
        for key in OPERATIONS.iter().flat_map(|operation| operation.keys) {
            if let (Shape::OneOf(words), Some(default)) = (key.shape, key.default) {
                assert!(words.contains(&default), "{}", key.name);
            }
            if let (Shape::Truth, Some(default)) = (key.shape, key.default) {
                assert!(matches!(default, "true" | "false"), "{}", key.name);
            }
        }
    }
}
