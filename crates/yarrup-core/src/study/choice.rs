//! Which documents of a collection are shown where not all can be: so many that terms have documents in which they stand.

use std::collections::{HashMap, HashSet};

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
    /// A choice among documents for so many terms, which are numbered: the one that is most in need of documents first.
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

    /// The documents to show, those that are needed most first, which together take at most `budget`: one for each term, in the order of the terms, as far as
    /// that goes; then a second for each, and so on.
    pub fn choose(&self, budget: u64) -> Vec<u64> {
        let mut covered = vec![0; self.first.len()];
        let (mut chosen, mut is_chosen, mut left) = (Vec::new(), HashSet::new(), budget);
        for round in 1..=NOTED {
            for (term, first) in self.first.iter().enumerate() {
                if covered[term] >= round {
                    continue;
                }
                let candidates = first.iter().filter(|document| !is_chosen.contains(*document));
                let fitting = candidates
                    .filter_map(|document| self.documents.get(document).map(|noted| (*document, noted)))
                    .find(|(_, (size, _))| *size <= left);
                if let Some((document, (size, terms))) = fitting {
                    left -= size;
                    is_chosen.insert(document);
                    chosen.push(document);
                    for term in terms {
                        if let Some(covered) = covered.get_mut(*term as usize) {
                            *covered += 1;
                        }
                    }
                }
            }
        }
        chosen
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
            let taken: u64 = whole.choose(budget).iter().map(|order| 1 + documents[*order as usize].len() as u64).sum();
            prop_assert!(taken <= budget);
            let chosen = whole.choose(u64::MAX);
            let shown: BTreeSet<u32> = chosen.iter().flat_map(|order| documents[*order as usize].clone()).collect();
            prop_assert_eq!(shown, documents.iter().flatten().copied().collect::<BTreeSet<u32>>());
            prop_assert_eq!(chosen.iter().collect::<BTreeSet<_>>().len(), chosen.len());
        }
    }
}
