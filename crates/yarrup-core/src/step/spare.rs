use std::ops::Range;

use aho_corasick::{AhoCorasick, MatchKind};

use crate::kind::{Kind, KindSet, recognise};
use crate::part_of_speech::Tag;
use crate::split::{Splitter, Words};
use crate::unicode;

/// Words and kinds that a step must leave alone.
///
/// A word written without capitals is spared in any letter case; one with a capital (`US`) only as it is written.
#[derive(Clone, Debug, Default)]
pub struct Spare {
    words: Vec<String>,
    kinds: Vec<Kind>,
    tags: Vec<Tag>,
    /// Finds the words in a text, lower-cased; none if there are no words.
    finder: Option<AhoCorasick>,
}

impl Spare {
    /// Protects these words and kinds.
    pub fn new(words: Vec<String>, kinds: Vec<Kind>) -> Spare {
        let finder = if words.is_empty() {
            None
        } else {
            // Letter case outside of ASCII is compared after the search, so that spans stay those of the text.
            AhoCorasick::builder()
                .match_kind(MatchKind::LeftmostLongest)
                .ascii_case_insensitive(true)
                .build(&words)
                .ok()
        };
        Spare { words, kinds, tags: Vec::new(), finder }
    }

    /// Protects tokens with these parts of speech as well.
    pub fn with_tags(self, tags: Vec<Tag>) -> Spare {
        Spare { tags, ..self }
    }

    /// Whether nothing is protected.
    pub fn is_empty(&self) -> bool {
        self.words.is_empty() && self.kinds.is_empty() && self.tags.is_empty()
    }

    /// Whether a token is protected.
    pub fn has_token(&self, token: &str, kind: Kind) -> bool {
        self.kinds.contains(&kind) || self.words.iter().any(|word| spares(word, token))
    }

    /// Whether tokens with this part of speech are protected.
    pub fn has_tag(&self, tag: Option<Tag>) -> bool {
        tag.is_some_and(|tag| self.tags.contains(&tag))
    }

    /// The stretches of `text` that are protected, in order and apart from one another.
    pub(super) fn in_text(&self, text: &str) -> Vec<Range<usize>> {
        let mut found = Vec::new();
        if let Some(finder) = &self.finder {
            found.extend(
                finder
                    .find_iter(text)
                    .filter(|hit| spares(&self.words[hit.pattern().as_usize()], &text[hit.range()]))
                    .map(|hit| hit.range())
                    .filter(|range| stands_alone(text, range)),
            );
        }
        if !self.kinds.is_empty() {
            // Words, marks and symbols are what the boundaries of words leave; all other kinds are recognised.
            let (mut spans, mut from) = (Vec::new(), 0);
            let mut between = |stretch: Range<usize>| {
                spans.clear();
                Words::default().split(&text[stretch.clone()], &mut spans);
                let spared = spans
                    .iter()
                    .filter(|span| self.kinds.contains(&Kind::of(span.of(&text[stretch.clone()]))));
                found.extend(
                    spared.map(|span| stretch.start + span.start as usize..stretch.start + span.end as usize),
                );
            };
            let mut recognised = Vec::new();
            recognise(text, |kind, range| {
                if KindSet::of(&self.kinds).has(kind) {
                    between(from..range.start);
                    from = range.end;
                    recognised.push(range);
                }
            });
            between(from..text.len());
            found.extend(recognised);
            found.sort_by_key(|range| (range.start, range.end));
        }
        let mut apart: Vec<Range<usize>> = Vec::with_capacity(found.len());
        for range in found {
            match apart.last_mut() {
                Some(last) if range.start < last.end => last.end = last.end.max(range.end),
                _ => apart.push(range),
            }
        }
        apart
    }
}

fn spares(word: &str, found: &str) -> bool {
    found == word || (!word.chars().any(char::is_uppercase) && found.to_lowercase() == word)
}

/// Whether no letter or digit continues a stretch that begins or ends with one.
pub(crate) fn stands_alone(text: &str, range: &Range<usize>) -> bool {
    let solid = |c: Option<char>| {
        c.is_some_and(|c| unicode::is_letter(c) || unicode::category(c) == unicode::Category::Digit)
    };
    let (before, after) = (text[..range.start].chars().next_back(), text[range.end..].chars().next());
    let inside = &text[range.clone()];
    let goes_on_before = solid(before) && solid(inside.chars().next());
    let goes_on_behind = solid(after) && solid(inside.chars().next_back());
    !goes_on_before && !goes_on_behind
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn whole_words_are_found_in_their_letter_case() {
        let spare = Spare::new(vec!["US".into(), "no".into(), "c++".into()], vec![]);
        let text = "US us No knot NO c++ bus";
        let found: Vec<_> = spare.in_text(text).into_iter().map(|r| &text[r]).collect();
        assert_eq!(found, ["US", "No", "NO", "c++"]);
        assert!(spare.has_token("US", Kind::Word) && !spare.has_token("us", Kind::Word));
    }

    #[test]
    fn kinds_are_found_in_text() {
        let spare = Spare::new(vec![], vec![Kind::Number]);
        let text = "12 terns, 3.5 m";
        let found: Vec<_> = spare.in_text(text).into_iter().map(|r| &text[r]).collect();
        assert_eq!(found, ["12", "3.5"]);
        let spare = Spare::new(vec![], vec![Kind::Url, Kind::Word]);
        let text = "see https://example.org/a, ok";
        let found: Vec<_> = spare.in_text(text).into_iter().map(|r| &text[r]).collect();
        assert_eq!(found, ["see", "https://example.org/a", "ok"]);
    }
}
