//! Which terms stand together: counts within a window, a sentence or a document.

use foldhash::fast::RandomState;
use hashbrown::HashMap;

/// Within what two terms stand together.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Together {
    /// At most so many terms apart.
    Window(usize),
    /// In one line of the cleaned text: a sentence, where the recipe keeps sentences.
    Line,
    /// In one document: once, however often.
    Document,
}

/// Counts pairs of terms that stand together. A pair counts once for each two places, in a document once for the document. Tallies of parts add up.
#[derive(Clone, Debug, Default)]
pub struct PairTally {
    pairs: HashMap<(u32, u32), u64, RandomState>,
}

/// A pair of terms, the one with the smaller number first.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pair {
    /// The numbers of the terms.
    pub terms: (u32, u32),
    /// How often they stand together.
    pub count: u64,
    /// How much more often than by chance: see [`PairTally::pairs`].
    pub ppmi: f64,
}

impl PairTally {
    /// Counts the pairs of a run of terms by their numbers; none for a term that is not looked at, which takes up room in a window all the same.
    pub fn count(&mut self, terms: &[Option<u32>], together: Together) {
        match together {
            Together::Window(width) => {
                for (at, first) in terms.iter().enumerate() {
                    let Some(first) = first else { continue };
                    let behind = terms.iter().skip(at + 1).take(width).flatten();
                    behind.for_each(|second| self.add(*first, *second));
                }
            }
            Together::Line => {
                let known: Vec<u32> = terms.iter().flatten().copied().collect();
                for (at, first) in known.iter().enumerate() {
                    known[at + 1..].iter().for_each(|second| self.add(*first, *second));
                }
            }
            Together::Document => {
                let mut known: Vec<u32> = terms.iter().flatten().copied().collect();
                known.sort_unstable();
                known.dedup();
                for (at, first) in known.iter().enumerate() {
                    known[at + 1..].iter().for_each(|second| self.add(*first, *second));
                }
            }
        }
    }

    fn add(&mut self, one: u32, other: u32) {
        if one != other {
            *self.pairs.entry((one.min(other), one.max(other))).or_default() += 1;
        }
    }

    /// Adds what was counted elsewhere.
    pub fn absorb(&mut self, other: PairTally) {
        for (pair, count) in other.pairs {
            *self.pairs.entry(pair).or_default() += count;
        }
    }

    /// The pairs that stand together at least so often, in the order of their numbers, with their positive pointwise mutual information (Church and
    /// Hanks 1990; below 0 it counts as 0): log2 (p(a, b) / (p(a) p(b))), where p(a, b) is the share of the pair among all pairs, each counted in both
    /// orders, and p(a) the share of the pairs with the term.
    ///
    /// ```
    /// use yarrup_core::study::{PairTally, Together};
    ///
    /// let mut tally = PairTally::default();
    /// tally.count(&[Some(0), Some(1), None, Some(0)], Together::Window(2));
    /// let pairs = tally.pairs(1);
    /// assert_eq!((pairs[0].terms, pairs[0].count), ((0, 1), 2));
    /// assert_eq!(pairs[0].ppmi, 1.0);
    /// ```
    pub fn pairs(&self, least: u64) -> Vec<Pair> {
        let mut sums: HashMap<u32, u64, RandomState> = HashMap::default();
        let mut all = 0;
        for ((one, other), count) in &self.pairs {
            *sums.entry(*one).or_default() += count;
            *sums.entry(*other).or_default() += count;
            all += 2 * count;
        }
        let ppmi = |(one, other): (u32, u32), count: u64| {
            let share = |count: u64| count as f64 / all as f64;
            (share(count) / (share(sums[&one]) * share(sums[&other]))).log2().max(0.0)
        };
        let kept = self.pairs.iter().filter(|(_, count)| **count >= least);
        let mut pairs: Vec<Pair> = kept
            .map(|(terms, count)| Pair { terms: *terms, count: *count, ppmi: ppmi(*terms, *count) })
            .collect();
        pairs.sort_unstable_by_key(|pair| pair.terms);
        pairs
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn windows_are_those_of_a_look_at_every_two_places(
            terms in prop::collection::vec(prop::option::of(0u32..4), 0..20),
            width in 1usize..6,
        ) {
            let mut tally = PairTally::default();
            tally.count(&terms, Together::Window(width));
            let mut expected = std::collections::BTreeMap::new();
            for a in 0..terms.len() {
                for b in a + 1..terms.len() {
                    if let (Some(one), Some(other)) = (terms[a], terms[b]) && b - a <= width && one != other {
                        *expected.entry((one.min(other), one.max(other))).or_insert(0u64) += 1;
                    }
                }
            }
            let found: std::collections::BTreeMap<_, _> = tally.pairs(1).into_iter().map(|pair| (pair.terms, pair.count)).collect();
            prop_assert_eq!(found, expected);
        }
    }

    #[test]
    fn a_document_counts_a_pair_once() {
        let mut tally = PairTally::default();
        let terms = [Some(0), Some(1), Some(0), Some(1), Some(2)];
        tally.count(&terms, Together::Document);
        assert_eq!(tally.pairs(1).len(), 3);
        assert!(tally.pairs(1).iter().all(|pair| pair.count == 1));
        let mut line = PairTally::default();
        line.count(&terms, Together::Line);
        assert_eq!(line.pairs(4).len(), 1, "twice two places");
    }
}
