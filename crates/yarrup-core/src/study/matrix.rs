//! The matrix of documents and terms: which column a term has, what it weighs, and a row for each document.

use foldhash::fast::RandomState;
use hashbrown::HashMap;

use crate::study::weights::Local;

/// The columns of a matrix of documents and terms.
#[derive(Clone, Debug, Default)]
pub struct Columns {
    by_term: HashMap<Box<str>, u32, RandomState>,
    /// By column: what the term weighs in the whole collection.
    weights: Vec<f64>,
}

/// How the cells of a matrix are weighed: what a term counts in its document, times what it weighs in the collection.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Weighing {
    /// What a term counts in its document.
    pub local: LocalWeight,
    /// Whether every row is made as long as 1 (the square root of the sum of squares).
    pub normalised: bool,
}

/// What a term counts in a document in which it stands n times.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum LocalWeight {
    /// As in sums over documents.
    Of(Local),
    /// n divided by the number of tokens of the document that have a column.
    Share,
}

/// A row: column, count and weight of each term that the document holds, by column.
pub type Row = Vec<(u32, u64, f64)>;

impl Columns {
    /// Columns for these terms, in their order, each with its weight. A term that comes again keeps its first column.
    pub fn new<'t>(terms: impl Iterator<Item = (&'t str, f64)>) -> Columns {
        let mut columns = Columns::default();
        for (term, weight) in terms {
            if !columns.by_term.contains_key(term) {
                columns.by_term.insert(term.into(), columns.weights.len() as u32);
                columns.weights.push(weight);
            }
        }
        columns
    }

    /// How many there are.
    pub fn len(&self) -> usize {
        self.weights.len()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.weights.is_empty()
    }

    /// The column of a term, from 0.
    pub fn of(&self, term: &str) -> Option<u32> {
        self.by_term.get(term).copied()
    }

    /// The row of a document with these terms. Terms without a column are passed over.
    ///
    /// ```
    /// use yarrup_core::study::{Columns, Local, LocalWeight, Weighing};
    ///
    /// let columns = Columns::new([("tern", 1.0), ("gull", 2.0)].into_iter());
    /// let weighing = Weighing { local: LocalWeight::Of(Local::Count), normalised: false };
    /// let row = columns.row(["gull", "tern", "owl", "gull"].into_iter(), weighing);
    /// assert_eq!(row, [(0, 1, 1.0), (1, 2, 4.0)]);
    /// ```
    pub fn row<'t>(&self, terms: impl Iterator<Item = &'t str>, weighing: Weighing) -> Row {
        let mut found: Vec<u32> = terms.filter_map(|term| self.of(term)).collect();
        found.sort_unstable();
        let tokens = found.len() as f64;
        let mut row: Row = found
            .chunk_by(|a, b| a == b)
            .map(|alike| {
                let (column, count) = (alike[0], alike.len() as u64);
                let n = count as f64;
                let local = match weighing.local {
                    LocalWeight::Of(Local::Binary) => 1.0,
                    LocalWeight::Of(Local::Count) => n,
                    LocalWeight::Of(Local::Log) => n.ln_1p(),
                    LocalWeight::Share => n / tokens,
                };
                (column, count, local * self.weights[column as usize])
            })
            .collect();
        if weighing.normalised {
            let length = row.iter().map(|(.., weight)| weight * weight).sum::<f64>().sqrt();
            if length > 0.0 {
                row.iter_mut().for_each(|(.., weight)| *weight /= length);
            }
        }
        row
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn rows_are_those_of_a_count_by_hand(words in prop::collection::vec("[abc]", 0..30)) {
            let columns = Columns::new([("a", 1.0), ("b", 0.5)].into_iter());
            for local in [LocalWeight::Of(Local::Binary), LocalWeight::Of(Local::Count), LocalWeight::Of(Local::Log), LocalWeight::Share] {
                let row = columns.row(words.iter().map(String::as_str), Weighing { local, normalised: false });
                let count = |word: &str| words.iter().filter(|other| *other == word).count() as f64;
                let all = count("a") + count("b");
                for (column, (word, global)) in [("a", 1.0), ("b", 0.5)].into_iter().enumerate() {
                    let n = count(word);
                    let expected = global * match local {
                        LocalWeight::Of(Local::Binary) => f64::from(u8::from(n > 0.0)),
                        LocalWeight::Of(Local::Count) => n,
                        LocalWeight::Of(Local::Log) => (1.0 + n).ln(),
                        LocalWeight::Share => if all > 0.0 { n / all } else { 0.0 },
                    };
                    let found = row.iter().find(|(other, ..)| *other as usize == column).map_or(0.0, |(.., weight)| *weight);
                    prop_assert!((found - expected).abs() < 1e-12);
                }
                let normal = columns.row(words.iter().map(String::as_str), Weighing { local, normalised: true });
                let length: f64 = normal.iter().map(|(.., weight)| weight * weight).sum();
                prop_assert!(normal.is_empty() || (length - 1.0).abs() < 1e-9);
            }
        }
    }
}
