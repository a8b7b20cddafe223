//! Lines that many documents have: headers, footers, signatures.

use std::collections::{BTreeMap, HashSet};
use std::hash::BuildHasher;

use foldhash::fast::FixedState;

use crate::survey::Order;

/// A line of fewer letters repeats by chance.
const FEWEST_LETTERS: usize = 12;
/// A longer line is a paragraph.
const LONGEST: usize = 300;
/// How many different lines are followed; those with the smallest hashes if there are more.
const MOST: usize = 200_000;
/// A line is repeated if this many documents have it.
const FEWEST_DOCUMENTS: u64 = 3;
/// How many are told.
const TOLD: usize = 5;

/// A line that several documents have.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RepeatedLine {
    /// The line.
    pub line: String,
    /// In how many documents it stands.
    pub documents: u64,
    /// The first of them.
    pub first: Order,
}

#[derive(Default)]
pub(super) struct RepeatedLines {
    /// By hash, so that which are followed does not depend on who saw them.
    lines: BTreeMap<u64, RepeatedLine>,
    of_document: HashSet<u64>,
}

impl RepeatedLines {
    pub(super) fn document(&mut self, order: Order, text: &str) {
        if !text.contains('\n') {
            return;
        }
        let hasher = FixedState::with_seed(0x11e5);
        self.of_document.clear();
        for line in
            text.lines().map(str::trim).filter(|line| line.len() >= FEWEST_LETTERS && line.len() <= LONGEST)
        {
            let hash = hasher.hash_one(line);
            if !self.of_document.insert(hash)
                || line.chars().filter(|c| c.is_alphabetic()).count() < FEWEST_LETTERS
            {
                continue;
            }
            self.note(hash, || RepeatedLine { line: line.to_owned(), documents: 0, first: order }, 1, order);
        }
    }

    fn note(&mut self, hash: u64, new: impl FnOnce() -> RepeatedLine, documents: u64, order: Order) {
        if self.lines.len() >= MOST && self.lines.last_key_value().is_some_and(|(largest, _)| hash > *largest)
        {
            return;
        }
        let line = self.lines.entry(hash).or_insert_with(new);
        line.documents += documents;
        line.first = line.first.min(order);
        if self.lines.len() > MOST {
            self.lines.pop_last();
        }
    }

    pub(super) fn absorb(&mut self, other: RepeatedLines) {
        for (hash, theirs) in other.lines {
            let (documents, first) = (theirs.documents, theirs.first);
            self.note(hash, || RepeatedLine { documents: 0, ..theirs }, documents, first);
        }
    }

    /// The most frequent ones, of those that at least one document in a hundred has.
    pub(super) fn finish(self, documents: u64) -> Vec<RepeatedLine> {
        let least = FEWEST_DOCUMENTS.max(documents / 100);
        let mut lines: Vec<_> = self.lines.into_values().filter(|line| line.documents >= least).collect();
        lines.sort_by(|a, b| (b.documents, a.first, &a.line).cmp(&(a.documents, b.first, &b.line)));
        lines.truncate(TOLD);
        lines
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_of_several_documents_are_told() {
        let mut lines = RepeatedLines::default();
        for order in 0..5 {
            lines.document(
                order,
                &format!("Saltmere Reserve, the wardens\nNote number {order} of the day\nshort\n"),
            );
        }
        lines.document(5, "Saltmere Reserve, the wardens");
        let found = lines.finish(6);
        assert_eq!(
            found,
            [RepeatedLine { line: "Saltmere Reserve, the wardens".into(), documents: 5, first: 0 }]
        );
    }
}
