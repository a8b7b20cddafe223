//! How often terms stand in documents, counted document by document.

use std::collections::BTreeMap;

use foldhash::fast::RandomState;
use hashbrown::HashMap;

use crate::seen::{Seen, SeenReader};
use crate::study::group_by::group_order;
use crate::study::keyness::{Frequency, Keyness};
use crate::study::weights::{TermSpread, Weight};

type Map<K, V> = HashMap<K, V, RandomState>;

/// Counts terms document by document, in groups if asked for. Tallies of parts of a collection add up to that of the whole.
#[derive(Default)]
pub struct Tally {
    terms: Map<Box<str>, u32>,
    spreads: Vec<TermSpread>,
    groups: BTreeMap<String, GroupTally>,
    documents: u64,
    /// The numbers of the terms of the document at hand.
    numbers: Vec<u32>,
}

/// What was counted in the documents of a group.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
struct GroupTally {
    documents: u64,
    tokens: u64,
    /// By the number of a term: tokens, and documents.
    terms: Map<u32, (u64, u64)>,
}

impl Tally {
    /// A tally of nothing.
    pub fn new() -> Tally {
        Tally::default()
    }

    /// Counts a document of these terms, which is in a group or in none.
    pub fn document<'t>(&mut self, terms: impl Iterator<Item = &'t str>, group: Option<&str>) {
        self.documents += 1;
        self.numbers.clear();
        for term in terms {
            let number = number_of(&mut self.terms, term);
            self.numbers.push(number);
        }
        self.spreads.resize(self.terms.len(), TermSpread::default());
        self.numbers.sort_unstable();
        let mut group = group.map(|group| self.groups.entry(group.to_owned()).or_default());
        if let Some(group) = &mut group {
            group.documents += 1;
            group.tokens += self.numbers.len() as u64;
        }
        for alike in self.numbers.chunk_by(|a, b| a == b) {
            let count = alike.len() as u64;
            self.spreads[alike[0] as usize].note(count);
            if let Some(group) = &mut group {
                let counts = group.terms.entry(alike[0]).or_default();
                counts.0 += count;
                counts.1 += 1;
            }
        }
    }

    /// Adds what was counted elsewhere.
    pub fn absorb(&mut self, other: Tally) {
        self.documents += other.documents;
        let mut numbers = vec![0; other.terms.len()];
        for (term, number) in &other.terms {
            numbers[*number as usize] = number_of(&mut self.terms, term);
        }
        self.spreads.resize(self.terms.len(), TermSpread::default());
        for (spread, number) in other.spreads.iter().zip(&numbers) {
            self.spreads[*number as usize].add(spread);
        }
        for (name, theirs) in other.groups {
            let ours = self.groups.entry(name).or_default();
            ours.documents += theirs.documents;
            ours.tokens += theirs.tokens;
            for (number, (tokens, documents)) in theirs.terms {
                let counts = ours.terms.entry(numbers[number as usize]).or_default();
                counts.0 += tokens;
                counts.1 += documents;
            }
        }
    }

    /// What was counted, to be kept.
    pub(crate) fn seen(self) -> Seen {
        let mut seen = Seen::default();
        let mut terms: Vec<(Box<str>, u32)> = self.terms.into_iter().collect();
        terms.sort_unstable();
        let mut numbers = vec![0; terms.len()];
        seen.numbers.extend([self.documents, terms.len() as u64]);
        for (now, (term, before)) in (0u64..).zip(terms) {
            numbers[before as usize] = now;
            seen.texts.push(term.into());
            self.spreads[before as usize].write(&mut seen);
        }
        seen.numbers.push(self.groups.len() as u64);
        for (name, group) in self.groups {
            seen.texts.push(name);
            seen.numbers.extend([group.documents, group.tokens, group.terms.len() as u64]);
            let mut counts: Vec<[u64; 3]> = group
                .terms
                .into_iter()
                .map(|(term, (tokens, documents))| [numbers[term as usize], tokens, documents])
                .collect();
            counts.sort_unstable();
            seen.numbers.extend(counts.into_iter().flatten());
        }
        seen
    }

    /// What was counted and kept; none if it is no such thing.
    pub(crate) fn of_seen(seen: &mut SeenReader) -> Option<Tally> {
        let mut tally = Tally { documents: seen.number()?, ..Tally::default() };
        tally.spreads = seen.many(TermSpread::read)?;
        for _ in 0..tally.spreads.len() {
            number_of(&mut tally.terms, &seen.text()?);
        }
        let terms = u32::try_from(tally.terms.len()).ok()?;
        let groups = seen.many(|seen| {
            let (name, documents, tokens) = (seen.text()?, seen.number()?, seen.number()?);
            let counts = seen.many(|seen| {
                let counts = (seen.small()?, (seen.number()?, seen.number()?));
                (counts.0 < terms).then_some(counts)
            })?;
            Some((name, GroupTally { documents, tokens, terms: counts.into_iter().collect() }))
        })?;
        tally.groups = groups.into_iter().collect();
        (tally.terms.len() == tally.spreads.len()).then_some(tally)
    }

    /// What was counted, to be looked up by term.
    pub fn finish(self) -> TermTable {
        let groups = self.groups.into_iter().map(|(name, tally)| GroupCounts {
            name,
            documents: tally.documents,
            tokens: tally.tokens,
            terms: tally.terms.len() as u64,
            counts: tally.terms,
        });
        let mut groups: Vec<GroupCounts> = groups.collect();
        groups.sort_by(|a, b| group_order(&a.name, &b.name));
        TermTable { by_text: self.terms, spreads: self.spreads, groups, documents: self.documents }
    }
}

/// The number of a term, which it gets where it has none.
fn number_of(terms: &mut Map<Box<str>, u32>, term: &str) -> u32 {
    match terms.get(term) {
        Some(number) => *number,
        None => {
            let next = terms.len() as u32;
            terms.insert(term.into(), next);
            next
        }
    }
}

/// How often terms stand in documents.
pub struct TermTable {
    by_text: Map<Box<str>, u32>,
    spreads: Vec<TermSpread>,
    groups: Vec<GroupCounts>,
    documents: u64,
}

/// A term that marks a group of documents.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct KeyTerm<'t> {
    /// The term.
    pub term: &'t str,
    /// Its tokens in the group.
    pub count: u64,
    /// Its tokens in the other groups.
    pub elsewhere: u64,
    /// The documents of the group that hold it.
    pub documents: u64,
    /// How strongly it marks the group.
    pub keyness: Keyness,
}

/// A group of documents, with what was counted in it.
#[derive(Clone, Debug)]
pub struct GroupCounts {
    /// Its name.
    pub name: String,
    /// Documents.
    pub documents: u64,
    /// Tokens that are kept.
    pub tokens: u64,
    /// Distinct terms.
    pub terms: u64,
    counts: Map<u32, (u64, u64)>,
}

impl TermTable {
    /// Documents, whether they hold anything or not.
    pub fn documents(&self) -> u64 {
        self.documents
    }

    /// The groups, in the order of [`group_order`].
    pub fn groups(&self) -> &[GroupCounts] {
        &self.groups
    }

    /// All terms with their spread: by count, then by their bytes.
    pub fn terms(&self) -> Vec<(&str, TermSpread)> {
        let mut terms: Vec<(&str, TermSpread)> = self
            .by_text
            .iter()
            .map(|(term, number)| (term.as_ref(), self.spreads[*number as usize]))
            .collect();
        terms.sort_unstable_by(|(a, one), (b, other)| other.count.cmp(&one.count).then(a.cmp(b)));
        terms
    }

    /// The terms that mark the group with this number against all others: those that are relatively more frequent in it, and have at least so many tokens
    /// in all groups together. The one with the largest G² first.
    pub fn key_terms(&self, group: usize, least: u64) -> Vec<KeyTerm<'_>> {
        let Some(here) = self.groups.get(group) else { return Vec::new() };
        let all: u64 = self.groups.iter().map(|group| group.tokens).sum();
        let mut terms: Vec<KeyTerm<'_>> = self
            .by_text
            .iter()
            .filter_map(|(term, number)| {
                let (count, documents) = here.counts.get(number).copied()?;
                let sum = self.spreads[*number as usize].count;
                let keyness = Keyness::of(
                    Frequency { count, of: here.tokens },
                    Frequency { count: sum - count, of: all - here.tokens },
                );
                let marks = sum >= least && keyness.is_commoner;
                marks.then_some(KeyTerm { term, count, elsewhere: sum - count, documents, keyness })
            })
            .collect();
        terms.sort_unstable_by(|a, b| b.keyness.g2.total_cmp(&a.keyness.g2).then(a.term.cmp(b.term)));
        terms
    }

    /// What a term weighs; the groups are those of documents.
    pub fn weight(&self, weight: Weight, term: &str) -> f64 {
        let counts = self.groups.iter().zip(self.in_groups(term));
        let groups: Vec<(u64, u64)> = counts.map(|(group, (_, with))| (group.documents, with)).collect();
        weight.of(&self.spread(term), self.documents, &groups)
    }

    /// How a term is spread over documents; nothing of what is no term.
    pub fn spread(&self, term: &str) -> TermSpread {
        self.by_text.get(term).map_or_else(TermSpread::default, |number| self.spreads[*number as usize])
    }

    /// Tokens and documents of a term in each group, in the order of [`TermTable::groups`].
    pub fn in_groups(&self, term: &str) -> Vec<(u64, u64)> {
        let number = self.by_text.get(term);
        let counts = |group: &GroupCounts| {
            number.and_then(|number| group.counts.get(number)).copied().unwrap_or_default()
        };
        self.groups.iter().map(counts).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn tally(documents: &[(String, bool)]) -> Tally {
        let mut tally = Tally::new();
        for (text, low) in documents {
            tally.document(text.split_whitespace(), Some(if *low { "low" } else { "high" }));
        }
        tally
    }

    proptest! {
        #[test]
        fn parts_add_up_to_the_whole(
            documents in prop::collection::vec(("([ab]{1,2} ){0,6}", any::<bool>()), 0..12),
            cut in 0usize..12,
        ) {
            let (one, other) = documents.split_at(cut.min(documents.len()));
            let mut sum = tally(one);
            sum.absorb(tally(other));
            let (sum, whole) = (sum.finish(), tally(&documents).finish());
            prop_assert_eq!(sum.documents(), documents.len() as u64);
            for term in ["a", "b", "aa", "ab", "ba", "bb", "c"] {
                prop_assert_eq!(sum.spread(term), whole.spread(term));
                prop_assert_eq!(sum.in_groups(term), whole.in_groups(term));
                let count = documents.iter().flat_map(|(text, _)| text.split_whitespace()).filter(|word| *word == term).count();
                prop_assert_eq!(sum.spread(term).count, count as u64);
                prop_assert_eq!(sum.in_groups(term).iter().map(|(tokens, _)| tokens).sum::<u64>(), count as u64);
            }
            for (ours, theirs) in sum.groups().iter().zip(whole.groups()) {
                prop_assert_eq!((ours.documents, ours.tokens, ours.terms), (theirs.documents, theirs.tokens, theirs.terms));
            }
        }
    }
}
