//! Finding terms of one or many words among tokens.

use aho_corasick::{AhoCorasick, MatchKind};

use crate::step::{Entry, Place, SettingsError};

/// Terms of one or many words, found among tokens from left to right, the longest first (Aho and Corasick 1975, "Efficient string
/// matching").
pub(super) struct Terms {
    finder: AhoCorasick,
    /// Finds terms within others too.
    overlapping: AhoCorasick,
    exact: bool,
    /// By the finder's number: the number of the term as it was given.
    numbers: Vec<usize>,
}

/// What stands before and behind each token in the text that is searched: no token holds such characters.
const BEGIN: char = '\u{2}';
const END: char = '\u{3}';

impl Terms {
    /// Terms as written, with spaces between their words. `exact` tells letter cases apart.
    pub(super) fn new<'w>(terms: impl Iterator<Item = &'w str>, exact: bool) -> Result<Terms, SettingsError> {
        let (mut patterns, mut numbers) = (Vec::new(), Vec::new());
        for (number, term) in terms.enumerate() {
            let mut pattern = String::new();
            for word in term.split_whitespace() {
                push(word, exact, &mut pattern);
            }
            if !pattern.is_empty() {
                patterns.push(pattern);
                numbers.push(number);
            }
        }
        let finder = AhoCorasick::builder()
            .match_kind(MatchKind::LeftmostLongest)
            .build(&patterns)
            .map_err(|fault| format!("there are too many terms: {fault}"))?;
        let overlapping =
            AhoCorasick::new(&patterns).map_err(|fault| format!("there are too many terms: {fault}"))?;
        Ok(Terms { finder, overlapping, exact, numbers })
    }

    /// Tells `found` the first and the last place, and the number of the term, of each match. Matches do not overlap, do not go over
    /// places where a paragraph begins, and keep away from tokens that are spared.
    pub(super) fn find(&self, tokens: &[Place<'_>], mut found: impl FnMut(usize, usize, usize)) {
        self.each_stretch(tokens, |start, text, begins| {
            for hit in self.finder.find_iter(text) {
                let first = begins.partition_point(|&at| at < hit.start());
                let behind = begins.partition_point(|&at| at < hit.end());
                found(start + first, start + behind, self.numbers[hit.pattern().as_usize()]);
            }
        });
    }

    /// The numbers of the terms that tokens hold, in order: also of those that stand within others.
    pub(super) fn held(&self, tokens: &[Place<'_>]) -> Vec<usize> {
        let mut held = Vec::new();
        self.each_stretch(tokens, |_, text, _| {
            let hits = self.overlapping.find_overlapping_iter(text);
            held.extend(hits.map(|hit| self.numbers[hit.pattern().as_usize()]));
        });
        held.sort_unstable();
        held.dedup();
        held
    }

    /// Gives every stretch of tokens that a term may lie in: the place of the first, the text that is searched, and where each token begins
    /// in it.
    fn each_stretch(&self, tokens: &[Place<'_>], mut visit: impl FnMut(usize, &str, &[usize])) {
        let mut start = 0;
        while start < tokens.len() {
            let mut end = start;
            let (mut text, mut begins) = (String::new(), Vec::new());
            while end < tokens.len() && !(end > start && tokens[end].begins) && !tokens[end].spared {
                begins.push(text.len());
                push(tokens[end].text, self.exact, &mut text);
                end += 1;
            }
            visit(start, &text, &begins);
            start = end + usize::from(tokens.get(end).is_some_and(|token| token.spared));
        }
    }
}

fn push(word: &str, exact: bool, out: &mut String) {
    out.push(BEGIN);
    if exact || word.bytes().all(|byte| byte.is_ascii() && !byte.is_ascii_uppercase()) {
        out.push_str(word);
    } else {
        out.extend(word.chars().flat_map(char::to_lowercase));
    }
    out.push(END);
}

/// The entries of lists of terms, for the advice on a recipe. Terms of several words arrive as several tokens and are not asked about.
pub(super) fn single_entries<'l>(lists: impl Iterator<Item = (&'l str, &'l [String])>) -> Vec<Entry> {
    let all = lists.flat_map(|(name, words)| words.iter().map(move |word| (name, word)));
    all.filter(|(_, word)| !word.contains(char::is_whitespace))
        .map(|(list, word)| Entry { word: word.clone(), list: list.to_owned() })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn found(terms: &[&str], exact: bool, text: &str) -> Vec<(usize, usize, usize)> {
        let terms = Terms::new(terms.iter().copied(), exact).expect("few");
        let places: Vec<Place<'_>> = text
            .split(' ')
            .map(|text| Place { text, tag: None, labels: 0, begins: false, spared: text == "SPARED" })
            .collect();
        let mut hits = Vec::new();
        terms.find(&places, |start, end, number| hits.push((start, end, number)));
        hits
    }

    #[test]
    fn the_longest_term_wins_and_words_are_whole() {
        let terms = ["marsh harrier", "harrier", "marsh harrier nest", "nest"];
        assert_eq!(
            found(&terms, false, "a Marsh harrier nest by marsh harriers , harrier"),
            [(1, 4, 2), (8, 9, 1)]
        );
        assert_eq!(found(&terms, true, "Marsh harrier"), [(1, 2, 1)]);
        assert_eq!(found(&terms, false, "marsh SPARED harrier nest"), [(2, 3, 1), (3, 4, 3)]);
    }
}
