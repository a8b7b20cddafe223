//! Finding words that stand alone in a text.

use std::cmp::Reverse;
use std::ops::Range;

use aho_corasick::AhoCorasick;
use hashbrown::HashMap;

use crate::kind::placeholder_end;
use crate::unicode;

type State = foldhash::fast::RandomState;

/// Finds words in a text where they stand alone: no letter or digit goes on where one begins or ends with such. A word without capitals is found in
/// any letter case, one with a capital only as it is written.
///
/// Words that begin with a letter or digit are looked up once for each word of the text, however many there are.
#[derive(Clone, Debug, Default)]
pub(crate) struct WordFinder {
    /// By the letters and digits that words begin with, in small letters: the words, the longest first.
    by_start: HashMap<String, Vec<String>, State>,
    /// Words that begin with something else.
    others: Vec<String>,
    /// Finds what these begin with.
    finder: Option<AhoCorasick>,
}

impl WordFinder {
    pub(crate) fn new(words: &[String]) -> WordFinder {
        let mut found = WordFinder::default();
        for word in words.iter().filter(|word| !word.is_empty()) {
            match word.find(|c| !is_solid(c)).unwrap_or(word.len()) {
                0 => found.others.push(word.clone()),
                end => found.by_start.entry(word[..end].to_lowercase()).or_default().push(word.clone()),
            }
        }
        for words in found.by_start.values_mut() {
            words.sort_by_key(|word| Reverse(word.len()));
        }
        // What they begin with has no letter case; the rest is compared after the search.
        let starts = found.others.iter().map(|word| &word[..word.find(is_solid).unwrap_or(word.len())]);
        found.finder = AhoCorasick::new(starts).ok();
        found
    }

    /// The places where words stand, from left to right and apart from one another; of those that begin together the longest.
    pub(crate) fn find(&self, text: &str) -> Vec<Range<usize>> {
        let mut found = Vec::new();
        if let Some(finder) = self.finder.as_ref().filter(|_| !self.others.is_empty()) {
            let hits = finder.find_overlapping_iter(text).filter_map(|hit| {
                let word = &self.others[hit.pattern().as_usize()];
                let end = end_of(text, hit.start(), word)?;
                Some((hit.start()..end, ()))
            });
            found.extend(hits.filter(|(place, ())| stands_alone(text, place)));
        }
        if !self.by_start.is_empty() {
            let mut folded = String::new();
            each_run(text, |run| {
                folded.clear();
                folded.push_str(&text[run.clone()]);
                folded.make_ascii_lowercase();
                if !folded.is_ascii() {
                    folded = folded.to_lowercase();
                }
                let words = self.by_start.get(folded.as_str()).into_iter().flatten();
                let mut places = words.filter_map(|word| Some(run.start..end_of(text, run.start, word)?));
                found.extend(places.find(|place| stands_alone(text, place)).map(|place| (place, ())));
            });
        }
        longest_first(found).map(|(place, ())| place).collect()
    }
}

/// Where a word ends that begins at a place of the text; none if it does not.
fn end_of(text: &str, start: usize, word: &str) -> Option<usize> {
    if word.starts_with('<') && word.ends_with('>') {
        return placeholder_end(text, start, word);
    }
    let any_case = !has_capital(word);
    let mut chars = text[start..].char_indices();
    for wanted in word.chars() {
        let (_, c) = chars.next()?;
        let folds = || any_case && c.is_uppercase() && c.to_lowercase().eq(std::iter::once(wanted));
        if c != wanted && !folds() {
            return None;
        }
    }
    Some(chars.next().map_or(text.len(), |(at, _)| start + at))
}

/// Gives every run of letters and digits.
fn each_run(text: &str, mut visit: impl FnMut(Range<usize>)) {
    let bytes = text.as_bytes();
    let mut at = 0;
    while at < bytes.len() {
        let start = at;
        while at < bytes.len() {
            if bytes[at] < 0x80 {
                if !bytes[at].is_ascii_alphanumeric() {
                    break;
                }
                at += 1;
            } else {
                match text[at..].chars().next().filter(|c| is_solid(*c)) {
                    Some(c) => at += c.len_utf8(),
                    None => break,
                }
            }
        }
        if at > start {
            visit(start..at);
        } else {
            at += text[at..].chars().next().map_or(1, char::len_utf8);
        }
    }
}

fn is_solid(c: char) -> bool {
    c.is_ascii_alphanumeric()
        || (!c.is_ascii() && (unicode::is_letter(c) || unicode::category(c) == unicode::Category::Digit))
}

pub(crate) fn has_capital(word: &str) -> bool {
    word.chars().any(char::is_uppercase)
}

/// Whether no letter or digit continues a stretch that begins or ends with one.
pub(crate) fn stands_alone(text: &str, range: &Range<usize>) -> bool {
    let solid = |c: Option<char>| c.is_some_and(is_solid);
    let (before, after) = (text[..range.start].chars().next_back(), text[range.end..].chars().next());
    let inside = &text[range.clone()];
    let goes_on_before = solid(before) && solid(inside.chars().next());
    let goes_on_behind = solid(after) && solid(inside.chars().next_back());
    !goes_on_before && !goes_on_behind
}

/// Of places that overlap, the leftmost, and of those that begin together the longest.
pub(crate) fn longest_first<T>(
    mut places: Vec<(Range<usize>, T)>,
) -> impl Iterator<Item = (Range<usize>, T)> {
    places.sort_by_key(|(place, _)| (place.start, Reverse(place.end)));
    let mut end = 0;
    places.into_iter().filter(move |(place, _)| {
        let is_free = place.start >= end;
        if is_free {
            end = place.end;
        }
        is_free
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn found<'t>(words: &[&str], text: &'t str) -> Vec<&'t str> {
        let words: Vec<String> = words.iter().map(|word| (*word).to_owned()).collect();
        WordFinder::new(&words).find(text).into_iter().map(|place| &text[place]).collect()
    }

    #[test]
    fn words_are_found_where_they_stand_alone() {
        for (words, text, expected) in [
            (&["US", "no", "c++"][..], "US us No knot NO c++ bus", &["US", "No", "NO", "c++"][..]),
            (&["nest box", "nest"], "nest boxes, nest box, nests", &["nest", "nest box"]),
            (&["'", "#"], "don't #tern", &["'", "#"]),
            (&["été", "ß"], "Été ÉTÉ l'été été2 ß", &["Été", "ÉTÉ", "été", "ß"]),
            (&["new york", "york city"], "New York City", &["New York"]),
            (&["don't"], "Don't don'ts", &["Don't"]),
            (&["-x", "x"], "a-x x-x", &["-x", "x", "-x"]),
            (&["-été"], "a-ÉTÉ", &["-ÉTÉ"]),
            (&["鳥の"], "鳥の 鳥", &["鳥の"]),
            (&["<email>"], "<email-17>, <emails> <email>", &["<email-17>", "<email>"]),
            (&[], "a", &[]),
        ] {
            assert_eq!(found(words, text), expected, "{words:?} in {text}");
        }
    }

    proptest! {
        /// The same as looking for every word at every place.
        #[test]
        fn finding_is_looking_everywhere(
            words in prop::collection::vec("[ab'É é-]{1,4}", 0..5),
            text in "[abAB'Éé -]{0,14}",
        ) {
            let words: Vec<String> = words.into_iter().filter(|word| !word.trim().is_empty()).collect();
            let mut places = Vec::new();
            for start in (0..text.len()).filter(|at| text.is_char_boundary(*at)) {
                for word in &words {
                    if let Some(end) = end_of(&text, start, word) && stands_alone(&text, &(start..end)) {
                        places.push((start..end, ()));
                    }
                }
            }
            let everywhere: Vec<_> = longest_first(places).map(|(place, ())| place).collect();
            prop_assert_eq!(WordFinder::new(&words).find(&text), everywhere);
        }
    }
}
