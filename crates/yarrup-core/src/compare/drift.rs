//! What has changed from one collection to another.

use std::collections::{BTreeMap, HashSet};

use serde::Serialize;

use crate::account::Account;
use crate::compare::vocabulary::Vocabularies;
use crate::study::{Frequency, Keyness};

/// A term whose share of the tokens has moved.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct Moved<'a> {
    /// The term.
    pub term: &'a str,
    /// Its tokens in the first collection.
    pub here: u64,
    /// Its tokens in the second.
    pub there: u64,
    /// The log-likelihood ratio.
    pub g2: f64,
    /// The binary logarithm of how many times more frequent it is in the second.
    pub log_ratio: f64,
}

/// How the lengths of documents have changed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize)]
pub struct LengthShift {
    /// The mean number of tokens of a document, in both collections.
    pub mean: (f64, f64),
    /// The median.
    pub median: (u64, u64),
    /// The largest difference between the shares of documents up to any length, from 0 to 1: the statistic of Kolmogorov and Smirnov.
    pub distance: f64,
}

impl LengthShift {
    /// The shift between these documents by their numbers of tokens.
    pub fn of(here: &BTreeMap<u64, u64>, there: &BTreeMap<u64, u64>) -> LengthShift {
        let documents = |lengths: &BTreeMap<u64, u64>| lengths.values().sum::<u64>();
        let mean = |lengths: &BTreeMap<u64, u64>| {
            let tokens: u64 = lengths.iter().map(|(tokens, documents)| tokens * documents).sum();
            tokens as f64 / documents(lengths).max(1) as f64
        };
        let median = |lengths: &BTreeMap<u64, u64>| {
            let half = documents(lengths).div_ceil(2);
            let mut sum = 0;
            let found = lengths.iter().find(|(_, documents)| {
                sum += **documents;
                sum >= half
            });
            found.map_or(0, |(tokens, _)| *tokens)
        };
        let (ours, theirs) = (documents(here).max(1) as f64, documents(there).max(1) as f64);
        let mut all: Vec<u64> = here.keys().chain(there.keys()).copied().collect();
        all.sort_unstable();
        all.dedup();
        let (mut below, mut distance) = ((0, 0), 0.0f64);
        for length in all {
            below.0 += here.get(&length).copied().unwrap_or(0);
            below.1 += there.get(&length).copied().unwrap_or(0);
            distance = distance.max((below.0 as f64 / ours - below.1 as f64 / theirs).abs());
        }
        LengthShift { mean: (mean(here), mean(there)), median: (median(here), median(there)), distance }
    }
}

/// Words of one run, as its splitter found them, that another has never met.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct UnknownWords<'a> {
    /// How many tokens are such words.
    pub tokens: u64,
    /// Of how many.
    pub of: u64,
    /// The words, by their tokens and then in the order of their bytes.
    pub words: Vec<(&'a str, u64)>,
}

impl<'a> UnknownWords<'a> {
    /// The words of `there` that are not in `here`, whatever the steps behind the splitter make of them.
    pub fn of(here: &Account, there: &'a Account) -> UnknownWords<'a> {
        let mut counts: BTreeMap<u32, u64> = BTreeMap::new();
        for segment in there.variants.iter().filter_map(|variant| variant.segments.first()) {
            for (form, count) in segment.form.iter().zip(&segment.count) {
                *counts.entry(*form).or_default() += count;
            }
        }
        let of = counts.values().sum();
        let known: HashSet<&str> = here
            .variants
            .iter()
            .filter_map(|variant| variant.segments.first())
            .flat_map(|segment| segment.form.iter().map(|form| here.texts.text(*form)))
            .collect();
        let mut words: Vec<(&'a str, u64)> =
            counts.into_iter().map(|(form, count)| (there.texts.text(form), count)).collect();
        words.retain(|(word, count)| *count > 0 && !known.contains(word));
        words.sort_by(|one, other| other.1.cmp(&one.1).then_with(|| one.0.cmp(other.0)));
        UnknownWords { tokens: words.iter().map(|(_, count)| count).sum(), of, words }
    }
}

/// What has changed from the collection of one run to that of another.
#[derive(Clone, Debug)]
pub struct Drift<'a> {
    /// What share of the tokens of the second are of terms that the first has not got.
    pub unknown_share: f64,
    /// What share of the tokens of the first are of terms that the second has not got.
    pub gone_share: f64,
    /// Terms of both by how far their shares have moved: by the log-likelihood ratio, then in the order of their bytes. Terms of one alone are among
    /// them.
    pub moved: Vec<Moved<'a>>,
}

impl<'a> Drift<'a> {
    /// What has changed between two vocabularies.
    pub fn of(both: &Vocabularies<'a>) -> Drift<'a> {
        let share = |part: u64, of: u64| if of == 0 { 0.0 } else { part as f64 / of as f64 };
        let moved = both.terms.iter().map(|pair| {
            let (here, there) = (
                pair.here.map_or(0, |standing| standing.count),
                pair.there.map_or(0, |standing| standing.count),
            );
            let keyness = Keyness::of(
                Frequency { count: there, of: both.tokens.1 },
                Frequency { count: here, of: both.tokens.0 },
            );
            Moved { term: pair.term, here, there, g2: keyness.g2, log_ratio: keyness.log_ratio }
        });
        let mut moved: Vec<Moved<'a>> = moved.collect();
        moved.sort_by(|one, other| other.g2.total_cmp(&one.g2).then_with(|| one.term.cmp(other.term)));
        Drift {
            unknown_share: share(both.only_there.1, both.tokens.1),
            gone_share: share(both.only_here.1, both.tokens.0),
            moved,
        }
    }

    /// Half the sum of the differences of two sets of shares, from 0 to 1: what share of the documents would have to be of another group. The total
    /// variation distance.
    pub fn distance(here: &BTreeMap<String, u64>, there: &BTreeMap<String, u64>) -> f64 {
        let sum = |counts: &BTreeMap<String, u64>| counts.values().sum::<u64>().max(1) as f64;
        let (ours, theirs) = (sum(here), sum(there));
        let mut names: Vec<&String> = here.keys().chain(there.keys()).collect();
        names.sort_unstable();
        names.dedup();
        let share = |counts: &BTreeMap<String, u64>, name: &str, of: f64| {
            counts.get(name).copied().unwrap_or(0) as f64 / of
        };
        names.iter().map(|name| (share(here, name, ours) - share(there, name, theirs)).abs()).sum::<f64>()
            / 2.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lengths_shift_by_the_largest_gap() {
        let here = BTreeMap::from([(2, 2), (4, 2)]);
        let there = BTreeMap::from([(4, 2), (10, 2)]);
        let shift = LengthShift::of(&here, &there);
        assert_eq!((shift.median, shift.distance), ((2, 4), 0.5));
        assert_eq!(shift.mean, (3.0, 7.0));
        assert_eq!(LengthShift::of(&here, &here).distance, 0.0);
        assert_eq!(LengthShift::of(&BTreeMap::new(), &here).distance, 1.0);
    }

    #[test]
    fn unknown_words_are_those_that_the_splitter_never_gave_before() {
        let recipe = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\", \"a\"]\n";
        let pipeline = crate::testing::pipeline(recipe);
        let account = |texts: &[&str]| {
            let mut worker = crate::Worker::new(&pipeline, crate::Outputs::default());
            for text in texts {
                worker.document(text, &crate::NoFields);
            }
            worker.into_account()
        };
        let (here, there) =
            (account(&["the tern", "Gulls"]), account(&["a tern a gull", "the owl", "an owl"]));
        let unknown = UnknownWords::of(&here, &there);
        assert_eq!((unknown.tokens, unknown.of), (6, 8));
        assert_eq!(unknown.words, [("a", 2), ("owl", 2), ("an", 1), ("gull", 1)]);
        assert_eq!(UnknownWords::of(&there, &there).tokens, 0);
    }

    #[test]
    fn shares_of_groups_are_apart_by_what_would_have_to_move() {
        let counts = |rows: &[(&str, u64)]| -> BTreeMap<String, u64> {
            rows.iter().map(|(name, count)| ((*name).to_owned(), *count)).collect()
        };
        let (here, there) = (counts(&[("en", 9), ("de", 1)]), counts(&[("en", 5), ("fr", 5)]));
        assert!((Drift::distance(&here, &there) - 0.5).abs() < 1e-12);
        assert_eq!(Drift::distance(&here, &here), 0.0);
    }
}
