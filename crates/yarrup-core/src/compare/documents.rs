//! Documents that change most from one recipe to another.

use std::collections::BTreeMap;

use serde::Serialize;

/// How the terms of a document under one recipe differ from those under another, each term as often as it comes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Change {
    /// Terms under the first.
    pub here: u64,
    /// Terms under the second.
    pub there: u64,
    /// Terms that both have.
    pub common: u64,
}

impl Change {
    /// How many terms only one of both has.
    pub fn differing(&self) -> u64 {
        self.here + self.there - 2 * self.common
    }

    /// What share of the terms of both only one has, from 0 to 1: the dissimilarity of Bray and Curtis (1957).
    pub fn share(&self) -> f64 {
        let all = self.here + self.there;
        if all == 0 { 0.0 } else { self.differing() as f64 / all as f64 }
    }

    /// By what documents are ordered that change most: the terms that differ times their share, so that neither the longest nor the shortest documents
    /// always come first.
    pub fn weight(&self) -> f64 {
        self.differing() as f64 * self.share()
    }

    fn add(&mut self, other: Change) {
        self.here += other.here;
        self.there += other.there;
        self.common += other.common;
    }
}

/// Sets the terms of documents against one another. Terms are numbers, which must be small: room is kept for all below the largest.
#[derive(Clone, Debug, Default)]
pub struct TermContrast {
    counts: Vec<u32>,
}

impl TermContrast {
    /// The change from these terms to those, each with how many tokens it has; a term may stand there several times.
    pub fn change(&mut self, here: &[(u32, u32)], there: &[(u32, u32)]) -> Change {
        let sum = |terms: &[(u32, u32)]| terms.iter().map(|(_, tokens)| u64::from(*tokens)).sum();
        let (ours, theirs) = (sum(here), sum(there));
        // Most steps change most documents a little, or not at all.
        if here == there {
            return Change { here: ours, there: theirs, common: ours };
        }
        let most = here.iter().map(|(term, _)| *term as usize + 1).max().unwrap_or(0);
        if self.counts.len() < most {
            self.counts.resize(most, 0);
        }
        here.iter().for_each(|(term, tokens)| self.counts[*term as usize] += tokens);
        let mut common = 0;
        for (term, tokens) in there {
            if let Some(count) = self.counts.get_mut(*term as usize) {
                let both = (*count).min(*tokens);
                *count -= both;
                common += u64::from(both);
            }
        }
        here.iter().for_each(|(term, _)| self.counts[*term as usize] = 0);
        Change { here: ours, there: theirs, common }
    }
}

/// The changes of many documents: their sums, by group too, and the documents that change most. What workers have noted adds up.
#[derive(Clone, Debug)]
pub struct ChangedDocuments<D> {
    keep: usize,
    all: Contrast,
    groups: BTreeMap<String, Contrast>,
    top: Vec<(f64, u64, Change, D)>,
}

/// The changes of documents, summed up.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Contrast {
    /// How many documents.
    pub documents: u64,
    /// How many of them change at all.
    pub changed: u64,
    /// All their terms.
    pub terms: Change,
}

impl<D> ChangedDocuments<D> {
    /// Keeps so many of those that change most.
    pub fn new(keep: usize) -> ChangedDocuments<D> {
        ChangedDocuments { keep, all: Contrast::default(), groups: BTreeMap::new(), top: Vec::new() }
    }

    /// Notes how the document in this place changes; `document` is asked for what is kept of it only if it is among those that change most so far.
    pub fn note(&mut self, change: Change, order: u64, group: Option<&str>, document: impl FnOnce() -> D) {
        let group = group.map(|group| self.groups.entry(group.to_owned()).or_default());
        for sums in [Some(&mut self.all), group].into_iter().flatten() {
            sums.documents += 1;
            sums.changed += u64::from(change.differing() > 0);
            sums.terms.add(change);
        }
        let weight = change.weight();
        if weight == 0.0 || self.keep == 0 {
            return;
        }
        let is_full = self.top.len() >= self.keep;
        if is_full && self.top.last().is_some_and(|(least, last, ..)| ahead((*least, *last), (weight, order)))
        {
            return;
        }
        let at = self.top.partition_point(|(other, place, ..)| ahead((*other, *place), (weight, order)));
        self.top.insert(at, (weight, order, change, document()));
        self.top.truncate(self.keep);
    }

    /// Adds what another worker has noted.
    pub fn absorb(&mut self, other: ChangedDocuments<D>) {
        let sums = other.groups.into_iter().map(|(name, sums)| (Some(name), sums));
        for (name, sums) in sums.chain([(None, other.all)]) {
            let own = match name {
                Some(name) => self.groups.entry(name).or_default(),
                None => &mut self.all,
            };
            own.documents += sums.documents;
            own.changed += sums.changed;
            own.terms.add(sums.terms);
        }
        self.top.extend(other.top);
        self.top.sort_by(|one, other| other.0.total_cmp(&one.0).then(one.1.cmp(&other.1)));
        self.top.truncate(self.keep);
    }

    /// All documents.
    pub fn all(&self) -> Contrast {
        self.all
    }

    /// The documents of each group.
    pub fn groups(&self) -> &BTreeMap<String, Contrast> {
        &self.groups
    }

    /// The documents that change most, first that with the greatest weight.
    pub fn top(&self) -> impl ExactSizeIterator<Item = (Change, &D)> {
        self.top.iter().map(|(_, _, change, document)| (*change, document))
    }
}

/// Whether a document of one weight and place stands before another.
fn ahead(one: (f64, u64), other: (f64, u64)) -> bool {
    one.0 > other.0 || (one.0 == other.0 && one.1 < other.1)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn terms_are_compared_as_often_as_they_come() {
        let mut contrast = TermContrast::default();
        let change = contrast.change(&[(4, 2), (7, 1)], &[(4, 1), (7, 1), (7, 1), (90, 1)]);
        assert_eq!(change, Change { here: 3, there: 4, common: 2 });
        assert_eq!(contrast.change(&[(7, 1), (4, 2)], &[(4, 1), (7, 1), (4, 1)]).differing(), 0);
        assert_eq!(contrast.change(&[], &[(4, 1)]).differing(), 1);
        assert_eq!((change.differing(), Change::default().share()), (3, 0.0));
        assert!((change.share() - 3.0 / 7.0).abs() < 1e-12);
    }

    proptest! {
        #[test]
        fn it_does_not_matter_who_noted_what(
            documents in prop::collection::vec((0u64..9, 0u64..9, 0u64..9), 0..40),
            at in 0usize..40,
        ) {
            let noted = |rows: &[(u64, u64, u64)], first: usize| {
                let mut changes = ChangedDocuments::new(5);
                for (place, (here, there, common)) in rows.iter().enumerate() {
                    let change = Change { here: here + common, there: there + common, common: *common };
                    let order = (first + place) as u64;
                    changes.note(change, order, Some(if order.is_multiple_of(2) { "even" } else { "odd" }), || order);
                }
                changes
            };
            let at = at.min(documents.len());
            let whole = noted(&documents, 0);
            let mut parts = noted(&documents[at..], at);
            parts.absorb(noted(&documents[..at], 0));
            prop_assert_eq!(whole.all(), parts.all());
            prop_assert_eq!(whole.groups(), parts.groups());
            prop_assert_eq!(whole.top().collect::<Vec<_>>(), parts.top().collect::<Vec<_>>());
        }
    }
}
