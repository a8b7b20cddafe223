//! Words of a run that are spelled much like another, for those who typed one that is not there.

use std::cmp::Reverse;
use std::collections::HashMap;

use crate::account::{Account, Ends};

/// Shorter words are no beginning of others.
const SHORT: usize = 3;
/// Of words that are as long, two letters may differ.
const LONG: usize = 7;
/// How many letters an ending has at most that one of two words has beyond the other.
const ENDING: usize = 3;

impl Account {
    /// The forms and terms that are spelled much like a word, those that differ least first, then the most frequent; so many at most. Either a letter or
    /// two differ, or one of the words goes on where the other ends.
    ///
    /// ```
    /// use yarrup_core::{NoFields, NoFiles, Outputs, Pipeline, Worker, recipe};
    ///
    /// let recipe = recipe::read("[[step]]\ndo = \"case\"\n").expect("no mistakes");
    /// let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
    /// let mut worker = Worker::new(&pipeline, Outputs::default());
    /// worker.document("terns nest, a tern nests, gulls do not", &NoFields);
    /// let account = worker.into_account();
    /// assert_eq!(account.spelled_like("nesting", 3), ["nest"]);
    /// assert_eq!(account.spelled_like("turns", 3), ["terns"]);
    /// ```
    pub fn spelled_like(&self, word: &str, most: usize) -> Vec<&str> {
        let ends = &self.ends;
        let mut counts: HashMap<u32, u64> = HashMap::new();
        for row in 0..ends.form.len() {
            *counts.entry(ends.form[row]).or_default() += ends.count[row];
            if ends.fate[row] == Ends::KEPT && ends.what[row] != ends.form[row] {
                *counts.entry(ends.what[row]).or_default() += ends.count[row];
            }
        }
        let asked = word.to_lowercase();
        let like = |(number, count): (u32, u64)| {
            let text = self.texts.text(number);
            difference(&asked, &text.to_lowercase()).map(|difference| (difference, Reverse(count), text))
        };
        let mut alike: Vec<_> = counts.into_iter().filter_map(like).collect();
        alike.sort_unstable();
        alike.truncate(most);
        alike.into_iter().map(|(.., text)| text).collect()
    }
}

/// By how many letters two words differ, if they are much alike.
fn difference(one: &str, other: &str) -> Option<usize> {
    // A character has at most four bytes.
    if one.len().abs_diff(other.len()) > 4 * ENDING {
        return None;
    }
    // The longer in bytes may be the shorter in letters.
    let sized = |text: &str| text.chars().count();
    let (shorter, longer) = if sized(one) <= sized(other) { (one, other) } else { (other, one) };
    let (least, length) = (sized(shorter), sized(longer));
    if least >= SHORT && length - least <= ENDING && longer.starts_with(shorter) {
        return Some(length - least);
    }
    let allowed = if length < LONG { 1 } else { 2 };
    let differ = strsim::damerau_levenshtein(one, other);
    (differ <= allowed && least > 1).then_some(differ)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn words_are_alike_both_ways_and_a_slip_is_found(
            one in "[a-cé鳥😀(]{0,9}",
            other in "[a-cé鳥😀(]{0,9}",
            at in 0usize..9,
            slip in "[x-zß巣]",
        ) {
            prop_assert_eq!(difference(&one, &other), difference(&other, &one));
            prop_assert_eq!(difference(&one, &one), (one.chars().count() > 1).then_some(0));
            // A letter too many, anywhere in a word of three letters or more.
            let letters: Vec<char> = one.chars().collect();
            let at = at.min(letters.len());
            let slipped: String = letters[..at].iter().collect::<String>() + &slip + &letters[at..].iter().collect::<String>();
            if letters.len() >= SHORT {
                prop_assert_eq!(difference(&one, &slipped), Some(1), "{} {}", one, slipped);
            }
        }
    }

    #[test]
    fn endings_and_slips_of_the_finger_are_alike() {
        for (one, other, expected) in [
            ("tern", "terns", Some(1)),
            ("nesting", "nest", Some(3)),
            ("nestlings", "nest", None),
            ("shignle", "shingle", Some(1)),
            ("harbuor", "harbour", Some(1)),
            ("птица", "птицы", Some(1)),
            ("gull", "gulf", Some(1)),
            ("gull", "golf", None),
            ("a", "b", None),
            ("of", "off", Some(1)),
            ("tern", "tern", Some(0)),
            ("", "tern", None),
            ("((((((", "鳥鳥", None),
            ("терн", "tern", None),
            ("鳥の巣", "鳥の巣s", Some(1)),
        ] {
            assert_eq!(difference(one, other), expected, "{one} {other}");
            assert_eq!(difference(other, one), expected, "{other} {one}");
        }
    }
}
