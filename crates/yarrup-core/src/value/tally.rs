//! Counting distinct values.

use std::collections::HashMap;
use std::ops::Range;

use crate::occurrences::Occurrences;

/// How often values come, by their sorts.
#[derive(Clone, Debug, Default)]
pub struct ValueTally {
    documents: u64,
    sorts: Vec<Sort>,
}

/// The values of one sort.
#[derive(Clone, Debug, Default)]
struct Sort {
    values: HashMap<String, Occurrences>,
    /// Those of any of them.
    any: Occurrences,
}

/// A value with its counts.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ValueCount {
    /// The value, as it is written.
    pub value: String,
    /// How often it comes.
    pub count: u64,
    /// In how many documents.
    pub documents: u64,
}

impl ValueTally {
    /// Counts what was found in a document.
    pub fn document(&mut self, text: &str, found: impl Iterator<Item = (usize, Range<usize>)>) {
        let order = self.documents;
        self.documents += 1;
        for (sort, place) in found {
            if sort >= self.sorts.len() {
                self.sorts.resize_with(sort + 1, Sort::default);
            }
            let sort = &mut self.sorts[sort];
            let value = &text[place];
            let counts = match sort.values.get_mut(value) {
                Some(counts) => counts,
                None => sort.values.entry(value.to_owned()).or_default(),
            };
            counts.note(order);
            sort.any.note(order);
        }
    }

    /// Adds what was counted in other documents.
    pub fn absorb(&mut self, other: ValueTally) {
        // Numbers of documents are each tally's own: what was last seen there is none of ours.
        self.documents += other.documents;
        if other.sorts.len() > self.sorts.len() {
            self.sorts.resize_with(other.sorts.len(), Sort::default);
        }
        for (ours, theirs) in self.sorts.iter_mut().zip(other.sorts) {
            ours.any.absorb(theirs.any);
            for (value, counts) in theirs.values {
                ours.values.entry(value).or_default().absorb(counts);
            }
        }
    }

    /// In how many documents values of a sort stand.
    pub fn documents_of(&self, sort: usize) -> u64 {
        self.sorts.get(sort).map_or(0, |sort| sort.any.documents)
    }

    /// The values of a sort, the most frequent first, then in the order of their bytes.
    pub fn values(&self, sort: usize) -> Vec<ValueCount> {
        let values = self.sorts.get(sort).map(|sort| &sort.values);
        let mut values: Vec<ValueCount> = values
            .into_iter()
            .flatten()
            .map(|(value, counts)| ValueCount {
                value: value.clone(),
                count: counts.count,
                documents: counts.documents,
            })
            .collect();
        values.sort_unstable_by(|a, b| b.count.cmp(&a.count).then_with(|| a.value.cmp(&b.value)));
        values
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn parts_add_up_to_the_whole() {
        let texts = ["a b a", "b", "", "a"];
        let tally = |texts: &[&str]| {
            let mut tally = ValueTally::default();
            for text in texts {
                let letters = text.char_indices().filter(|(_, c)| c.is_alphabetic());
                tally.document(text, letters.map(|(at, _)| (1, at..at + 1)));
            }
            tally
        };
        let whole = tally(&texts);
        let value = |value: &str, count, documents| ValueCount { value: value.into(), count, documents };
        assert_eq!(whole.values(1), [value("a", 3, 2), value("b", 2, 2)]);
        assert_eq!((whole.documents_of(1), whole.documents_of(0), whole.documents_of(2)), (3, 0, 0));
        let mut sum = tally(&texts[..1]);
        sum.absorb(tally(&texts[1..]));
        assert_eq!((sum.values(1), sum.documents_of(1)), (whole.values(1), 3));
        // What was counted goes on being counted.
        sum.document("a", std::iter::once((1, 0..1)));
        assert_eq!(sum.values(1)[0], value("a", 4, 3));
    }
}
