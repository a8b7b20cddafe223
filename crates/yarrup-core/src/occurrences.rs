//! How often something occurs.

/// How often something occurs, and in how many documents.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Occurrences {
    pub(crate) count: u64,
    pub(crate) documents: u64,
    /// The number of the last document, from 1; 0 where none was noted here.
    last: u64,
}

impl Occurrences {
    /// What was counted elsewhere.
    pub(crate) fn known(count: u64, documents: u64) -> Occurrences {
        Occurrences { count, documents, last: 0 }
    }

    /// Counts one more in the document that has this place among all. Whether it is the first there: the documents must come one after the other.
    pub(crate) fn note(&mut self, order: u64) -> bool {
        self.count += 1;
        let is_first = self.last != order + 1;
        self.documents += u64::from(is_first);
        self.last = order + 1;
        is_first
    }

    /// Adds what was counted in other documents.
    pub(crate) fn absorb(&mut self, other: Occurrences) {
        self.count += other.count;
        self.documents += other.documents;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_document_counts_once_and_parts_add_up() {
        let noted = |orders: &[u64]| {
            let mut seen = Occurrences::default();
            let first: Vec<bool> = orders.iter().map(|order| seen.note(*order)).collect();
            (seen, first)
        };
        let (whole, first) = noted(&[0, 0, 3, 4, 4]);
        assert_eq!((whole.count, whole.documents), (5, 3));
        assert_eq!(first, [true, false, true, true, false]);
        for at in [0, 2, 3, 5] {
            let (mut sum, _) = noted(&[0, 0, 3, 4, 4][..at]);
            sum.absorb(noted(&[0, 0, 3, 4, 4][at..]).0);
            assert_eq!((sum.count, sum.documents), (5, 3), "{at}");
        }
        // What was counted elsewhere is of other documents.
        let mut known = Occurrences::known(7, 2);
        assert!(known.note(0));
        assert_eq!((known.count, known.documents), (8, 3));
    }
}
