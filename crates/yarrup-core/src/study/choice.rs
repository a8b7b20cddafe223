//! Which documents of a collection are shown where not all can be: so many that terms have documents in which they stand.

use std::cmp::{Ordering, Reverse};
use std::collections::{BTreeSet, BinaryHeap, HashMap};

/// How many documents of each term are noted.
const NOTED: usize = 3;
/// Stands where fewer documents hold a term.
const NO_DOCUMENT: u64 = u64::MAX;

/// Notes the first documents of each term, and chooses among them. What was noted in parts of a collection adds up to what is noted in the whole.
///
/// ```
/// use yarrup_core::study::DocumentChoice;
///
/// let mut choice = DocumentChoice::of_terms(3);
/// choice.note(10, 100, &[0, 1]);
/// choice.note(11, 100, &[0]);
/// choice.note(12, 100, &[1, 2]);
/// // The first two terms have the first document, the third the last one; then each term gets one more.
/// assert_eq!(choice.choose(200), [10, 12]);
/// assert_eq!(choice.choose(1_000), [10, 12, 11]);
/// ```
#[derive(Clone, Debug)]
pub struct DocumentChoice {
    /// By the number of a term: the first documents that hold it.
    first: Vec<[u64; NOTED]>,
    /// Of each of these documents: its size, and its terms.
    documents: HashMap<u64, (u64, Box<[u32]>)>,
}

impl DocumentChoice {
    /// A choice among documents for so many terms, which are numbered.
    pub fn of_terms(terms: usize) -> DocumentChoice {
        DocumentChoice { first: vec![[NO_DOCUMENT; NOTED]; terms], documents: HashMap::new() }
    }

    /// Notes a document: where it stands among all, what it takes to show it, and the numbers of its terms, each once. Documents come in their order.
    pub fn note(&mut self, order: u64, size: u64, terms: &[u32]) {
        let mut is_noted = false;
        for term in terms {
            let Some(first) = self.first.get_mut(*term as usize) else { continue };
            if let Some(free) = first.iter_mut().find(|document| **document == NO_DOCUMENT) {
                *free = order;
                is_noted = true;
            }
        }
        if is_noted {
            self.documents.insert(order, (size, terms.into()));
        }
    }

    /// Adds what was noted elsewhere.
    pub fn absorb(&mut self, other: DocumentChoice) {
        for (ours, theirs) in self.first.iter_mut().zip(&other.first) {
            let mut all = [*ours, *theirs].concat();
            all.sort_unstable();
            ours.copy_from_slice(&all[..NOTED]);
        }
        self.documents.extend(other.documents);
    }

    /// The documents to show, those that are needed most first, which together take at most `budget`: so that each term has one, as far as that goes, then a
    /// second, and so on. Next comes always the document that has most terms that need one for what it takes. None takes more than half of the budget:
    /// whoever shows a larger one shows the beginning of it.
    pub fn choose(&self, budget: u64) -> Vec<u64> {
        // What a part has noted beside may be no first document of the whole.
        let noted: BTreeSet<u64> = self.first.iter().flatten().copied().collect();
        let document = |order: &u64| self.documents.get(order).map(|(size, terms)| (*order, *size, &**terms));
        let open: Vec<(u64, u64, &[u32])> = noted.iter().filter_map(document).collect();
        let mut is_taken = vec![false; open.len()];
        let mut covered = vec![0u8; self.first.len()];
        let (mut chosen, mut left) = (Vec::new(), budget);
        for round in 1..=NOTED as u8 {
            let gain = |covered: &[u8], place: usize| {
                let (_, size, terms) = open[place];
                let needing =
                    terms.iter().filter(|term| covered.get(**term as usize).is_some_and(|had| *had < round));
                Gain { needing: needing.count() as u64, size: size.min(budget / 2), place: Reverse(place) }
            };
            // What a document gives only falls while others are taken: the one on top is the best once it was looked at again.
            let untaken = (0..open.len()).filter(|place| !is_taken[*place]);
            let mut best: BinaryHeap<Gain> = untaken.map(|place| gain(&covered, place)).collect();
            while let Some(top) = best.pop() {
                let now = gain(&covered, top.place.0);
                if now.needing == 0 || now.size > left {
                    continue;
                }
                if best.peek().is_some_and(|next| now < *next) {
                    best.push(now);
                    continue;
                }
                left -= now.size;
                let (order, _, terms) = open[top.place.0];
                is_taken[top.place.0] = true;
                chosen.push(order);
                for term in terms {
                    if let Some(covered) = covered.get_mut(*term as usize) {
                        *covered = covered.saturating_add(1);
                    }
                }
            }
        }
        chosen
    }
}

/// How many terms a document gives that need one, for what it takes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Gain {
    needing: u64,
    size: u64,
    /// The first of them comes first.
    place: Reverse<usize>,
}

impl Ord for Gain {
    fn cmp(&self, other: &Gain) -> Ordering {
        let (one, two) = (u128::from(self.needing), u128::from(other.needing));
        let by_size = (one * u128::from(other.size.max(1))).cmp(&(two * u128::from(self.size.max(1))));
        by_size.then(self.place.cmp(&other.place))
    }
}

impl PartialOrd for Gain {
    fn partial_cmp(&self, other: &Gain) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use std::collections::BTreeSet;

    fn noted(documents: &[(u64, &BTreeSet<u32>)]) -> DocumentChoice {
        let mut choice = DocumentChoice::of_terms(12);
        for (order, terms) in documents {
            choice.note(*order, 1 + terms.len() as u64, &terms.iter().copied().collect::<Vec<_>>());
        }
        choice
    }

    proptest! {
        #[test]
        fn parts_add_up_and_every_term_has_a_document_where_all_fit(
            documents in prop::collection::vec(prop::collection::btree_set(0u32..12, 0..5), 0..30),
            owners in prop::collection::vec(0usize..3, 30),
            budget in 0u64..60,
        ) {
            let all: Vec<(u64, &BTreeSet<u32>)> = (0..).zip(&documents).collect();
            let whole = noted(&all);
            let mut sum = DocumentChoice::of_terms(12);
            for part in 0..3 {
                let mine: Vec<_> = all.iter().filter(|(order, _)| owners[*order as usize] == part).copied().collect();
                sum.absorb(noted(&mine));
            }
            prop_assert_eq!(whole.choose(budget), sum.choose(budget));
            let taken: u64 = whole.choose(budget).iter().map(|order| (1 + documents[*order as usize].len() as u64).min(budget / 2)).sum();
            prop_assert!(taken <= budget);
            let chosen = whole.choose(u64::MAX);
            let shown: BTreeSet<u32> = chosen.iter().flat_map(|order| documents[*order as usize].clone()).collect();
            prop_assert_eq!(shown, documents.iter().flatten().copied().collect::<BTreeSet<u32>>());
            prop_assert_eq!(chosen.iter().collect::<BTreeSet<_>>().len(), chosen.len());
        }
    }
}
