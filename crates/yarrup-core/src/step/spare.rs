//! What a step must leave alone.

use std::ops::Range;

use hashbrown::HashSet;

use crate::kind::{Kind, KindSet, recognise};
use crate::part_of_speech::Tag;
use crate::split::{Splitter, Words};
use crate::step::{Mark, Place, Settings, Terms};
use crate::word_finder::{WordFinder, has_capital};

type State = foldhash::fast::RandomState;

/// Words and kinds, parts of speech and labels that a step must leave alone.
///
/// A word written without capitals is spared in any letter case; one with a capital (`US`) only as it is written.
#[derive(Clone, Debug, Default)]
pub struct Spare {
    /// As written.
    words: Vec<String>,
    /// Those with a capital.
    exact: HashSet<String, State>,
    /// Those without.
    folded: HashSet<String, State>,
    kinds: Vec<Kind>,
    /// Each asks for any of what it names, or for all.
    marks: Vec<SpareMarks>,
    /// Finds the words in a text.
    finder: WordFinder,
    /// Entries of several words, found among tokens: with a capital, and without.
    runs: Option<Box<[Terms; 2]>>,
}

/// Parts of speech and labels that a step must leave alone.
#[derive(Clone, Debug, Default)]
pub struct SpareMarks {
    /// Parts of speech.
    pub tags: Vec<Tag>,
    /// Labels, a bit for each.
    pub labels: u32,
    /// Whether a token must have one of the parts of speech and all of the labels, not any of them.
    pub all: bool,
}

impl SpareMarks {
    fn are_empty(&self) -> bool {
        self.tags.is_empty() && self.labels == 0
    }

    fn have(&self, mark: Mark) -> bool {
        let tagged = mark.tag().is_some_and(|tag| self.tags.contains(&tag));
        let labelled = mark.labels() & self.labels;
        match self.all {
            true => (self.tags.is_empty() || tagged) && labelled == self.labels,
            false => tagged || labelled != 0,
        }
    }
}

impl Spare {
    /// Protects these words and kinds.
    pub fn new(words: Vec<String>, kinds: Vec<Kind>) -> Spare {
        let finder = WordFinder::new(&words);
        let (exact, folded) = words.iter().cloned().partition(|word| has_capital(word));
        Spare { words, exact, folded, kinds, marks: Vec::new(), finder, runs: None }
    }

    /// Protects tokens with these parts of speech and labels as well.
    pub fn with_marks(mut self, marks: SpareMarks) -> Spare {
        if !marks.are_empty() {
            self.marks.push(marks);
        }
        self
    }

    /// Protects the tokens of entries of several words, as they arrive at the step that has these settings.
    pub(crate) fn with_runs(mut self, settings: &Settings) -> Spare {
        let several = self.words.iter().filter(|word| word.trim().contains(char::is_whitespace));
        let (exact, folded): (Vec<&str>, Vec<&str>) =
            several.map(String::as_str).partition(|word| has_capital(word));
        if !exact.is_empty() || !folded.is_empty() {
            let terms =
                |exact: bool, entries: &[&str]| Terms::new(exact, false).of_entries(entries, settings).0;
            self.runs = Some(Box::new([terms(true, &exact), terms(false, &folded)]));
        }
        self
    }

    /// Whether nothing is protected.
    pub fn is_empty(&self) -> bool {
        self.words.is_empty() && self.kinds.is_empty() && self.marks.is_empty()
    }

    /// Whether some entry of several words is protected, which only the tokens around a token tell.
    pub(crate) fn has_runs(&self) -> bool {
        self.runs.is_some()
    }

    /// Whether a token is protected by what it is made of, or by its spelling.
    pub fn has_token(&self, token: &str) -> bool {
        (!self.kinds.is_empty() && self.kinds.contains(&Kind::of(token))) || self.has_word(token)
    }

    fn has_word(&self, token: &str) -> bool {
        if self.words.is_empty() {
            return false;
        }
        let is_folded = token.bytes().all(|byte| byte.is_ascii() && !byte.is_ascii_uppercase());
        self.exact.contains(token)
            || self.folded.contains(token)
            || (!is_folded && self.folded.contains(token.to_lowercase().as_str()))
    }

    /// Whether tokens with this mark are protected.
    pub fn has_mark(&self, mark: Mark) -> bool {
        self.marks.iter().any(|marks| marks.have(mark))
    }

    /// Marks the tokens as spared that are protected by their neighbours.
    pub(crate) fn spare_runs(&self, tokens: &mut [Place<'_>]) {
        let Some(runs) = &self.runs else { return };
        let mut spared = Vec::new();
        for terms in runs.iter() {
            terms.find(tokens, |start, end, _| spared.extend(start..end));
        }
        spared.into_iter().for_each(|place| tokens[place].spared = true);
    }

    /// The stretches of `text` that are protected, in order and apart from one another.
    pub(super) fn in_text(&self, text: &str) -> Vec<Range<usize>> {
        let mut found = if self.words.is_empty() { Vec::new() } else { self.finder.find(text) };
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_spared_in_their_letter_case() {
        let spare = Spare::new(vec!["US".into(), "no".into(), "été".into()], vec![]);
        for (token, expected) in [("US", true), ("us", false), ("No", true), ("ÉTÉ", true), ("knot", false)]
        {
            assert_eq!(spare.has_token(token), expected, "{token}");
        }
    }

    #[test]
    fn parts_of_speech_and_labels_are_protected_one_of_them_or_all() {
        let marks = |all| SpareMarks { tags: vec![Tag::Noun], labels: 0b11, all };
        let mark = |labels| Mark::default().with_tag(Tag::Noun).with_labels(labels);
        let any = Spare::default().with_marks(marks(false));
        assert!(any.has_mark(mark(0)) && any.has_mark(Mark::default().with_labels(1)));
        assert!(!any.has_mark(Mark::default().with_labels(0b100)));
        let all = Spare::default().with_marks(marks(true));
        assert!(all.has_mark(mark(0b111)) && !all.has_mark(mark(1)));
        assert!(!all.has_mark(Mark::default().with_labels(0b11)));
        // Those of one list ask for all, those of another for any.
        let both = all.with_marks(SpareMarks { tags: vec![Tag::Verb], ..SpareMarks::default() });
        assert!(both.has_mark(Mark::default().with_tag(Tag::Verb)) && !both.has_mark(mark(1)));
        let nothing = Spare::default().with_marks(SpareMarks { all: true, ..SpareMarks::default() });
        assert!(!nothing.has_mark(mark(1)));
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
