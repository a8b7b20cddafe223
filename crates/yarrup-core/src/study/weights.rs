//! What a term weighs: how much its presence tells of a document, or of a group of documents.

use crate::seen::{Seen, SeenReader, halves};

/// How a term is spread over documents.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct TermSpread {
    /// Tokens.
    pub count: u64,
    /// Documents.
    pub documents: u64,
    /// The sum of n ln n over documents with n tokens, in units of [`UNIT`]: whole numbers, so that it is the same in whatever order it is added up.
    n_log_n: u128,
    /// The sum of ln (1 + n), in the same units.
    log_n: u128,
}

/// The unit of sums that are added up in any order.
const UNIT: f64 = (1u64 << 40) as f64;

impl TermSpread {
    /// Notes a document with so many tokens of the term, at least one.
    pub(crate) fn note(&mut self, count: u64) {
        self.count += count;
        self.documents += 1;
        let n = count as f64;
        if count > 1 {
            self.n_log_n += (n * n.ln() * UNIT).round() as u128;
        }
        self.log_n += (n.ln_1p() * UNIT).round() as u128;
    }

    /// What it is, as numbers.
    pub(crate) fn write(&self, seen: &mut Seen) {
        seen.numbers.extend([self.count, self.documents]);
        seen.numbers.extend(halves(self.n_log_n).into_iter().chain(halves(self.log_n)));
    }

    /// What these numbers are.
    pub(crate) fn read(seen: &mut SeenReader) -> Option<TermSpread> {
        let (count, documents) = (seen.number()?, seen.number()?);
        Some(TermSpread { count, documents, n_log_n: seen.wide()?, log_n: seen.wide()? })
    }

    pub(crate) fn add(&mut self, other: &TermSpread) {
        self.count += other.count;
        self.documents += other.documents;
        self.n_log_n += other.n_log_n;
        self.log_n += other.log_n;
    }

    /// The sum of a local weight over all documents.
    pub fn sum(&self, local: Local) -> f64 {
        match local {
            Local::Binary => self.documents as f64,
            Local::Count => self.count as f64,
            Local::Log => self.log_n as f64 / UNIT,
        }
    }

    /// 1 less the normalised entropy of the term over `documents` documents (Dumais 1991): 1 for a term that stands in one document alone, 0 for one
    /// that stands equally often in all of them.
    ///
    /// 1 + Σ p ln p / ln N, with p the share of the term's tokens that stand in a document, and N the number of documents.
    ///
    /// ```
    /// use yarrup_core::study::Tally;
    ///
    /// let mut tally = Tally::new();
    /// for text in ["a b", "a", "a", "a"] {
    ///     tally.document(text.split(' '), None);
    /// }
    /// let table = tally.finish();
    /// assert!(table.spread("a").entropy(4).abs() < 1e-9);
    /// assert_eq!(table.spread("b").entropy(4), 1.0);
    /// ```
    pub fn entropy(&self, documents: u64) -> f64 {
        if documents < 2 || self.count == 0 {
            return 1.0;
        }
        let count = self.count as f64;
        let sum = self.n_log_n as f64 / UNIT / count - count.ln();
        (1.0 + sum / (documents as f64).ln()).clamp(0.0, 1.0)
    }
}

/// What a term counts in a document in which it stands n times.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Local {
    /// 1.
    Binary,
    /// n.
    Count,
    /// ln (1 + n).
    Log,
}

/// What a term weighs in the whole collection.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Weight {
    /// The inverse document frequency, ln (N / n): N documents, n of them with the term (Spärck Jones 1972). Nothing is smoothed, since every term of a
    /// vocabulary stands in some document: the rarest weigh ln N, one that is everywhere weighs nothing.
    Idf,
    /// 1 less the normalised entropy: see [`TermSpread::entropy`].
    Entropy,
    /// How much, in bits, the presence of the term in a document tells of the document's group: see [`mutual_information`].
    MutualInformation,
    /// Pearson's chi-square of presence and group: see [`chi_square`].
    ChiSquare,
}

impl Weight {
    /// All of them, with the names by which recipes and commands know them.
    pub const NAMES: [(&'static str, Weight); 4] = [
        ("idf", Weight::Idf),
        ("entropy", Weight::Entropy),
        ("mutual_information", Weight::MutualInformation),
        ("chi_square", Weight::ChiSquare),
    ];

    /// The weight of this name.
    pub fn named(name: &str) -> Option<Weight> {
        let name = name.replace('-', "_");
        Self::NAMES.iter().find(|(known, _)| *known == name).map(|(_, weight)| *weight)
    }

    /// The name by which recipes and commands know it.
    pub fn name(self) -> &'static str {
        Self::NAMES.iter().find(|(_, known)| *known == self).map_or("", |(name, _)| name)
    }

    /// Whether it is of a term and groups of documents.
    pub fn needs_groups(self) -> bool {
        matches!(self, Weight::MutualInformation | Weight::ChiSquare)
    }

    /// The weight of a term of this spread. `groups` has for each group its documents, and those of them with the term.
    pub fn of(self, spread: &TermSpread, documents: u64, groups: &[(u64, u64)]) -> f64 {
        match self {
            Weight::Idf => idf(spread.documents, documents),
            Weight::Entropy => spread.entropy(documents),
            Weight::MutualInformation => mutual_information(groups),
            Weight::ChiSquare => chi_square(groups),
        }
    }
}

/// See [`Weight::Idf`].
pub fn idf(with_term: u64, documents: u64) -> f64 {
    if with_term == 0 { 0.0 } else { (documents as f64 / with_term as f64).ln() }
}

/// The mutual information, in bits, of two facts about a document: whether it holds the term, and which group it is in (Manning, Raghavan and Schütze
/// 2008, section 13.5.1, for any number of groups). `groups` has for each group its documents, and those of them with the term. Probabilities are shares
/// of documents, and nothing is smoothed: 0 log 0 counts as 0.
///
/// ```
/// use yarrup_core::study::mutual_information;
///
/// // Their example: "export" and the class "poultry".
/// let groups = [(49 + 141, 49), (27_652 + 774_106, 27_652)];
/// assert!((mutual_information(&groups) - 0.0001105).abs() < 1e-7);
/// ```
pub fn mutual_information(groups: &[(u64, u64)]) -> f64 {
    let all: f64 = groups.iter().map(|(documents, _)| *documents as f64).sum();
    let with: f64 = groups.iter().map(|(_, with)| *with as f64).sum();
    let cell = |count: f64, row: f64, column: f64| {
        if count > 0.0 { count / all * (all * count / (row * column)).log2() } else { 0.0 }
    };
    let sum: f64 = groups
        .iter()
        .map(|(documents, with_term)| {
            let (documents, present) = (*documents as f64, *with_term as f64);
            cell(present, with, documents) + cell(documents - present, all - with, documents)
        })
        .sum();
    sum.max(0.0)
}

/// Pearson's chi-square of the same two facts: the sum of (observed − expected)² / expected over presence and absence in each group. `groups` is as for
/// [`mutual_information`].
///
/// ```
/// use yarrup_core::study::chi_square;
///
/// // The same book's example (13.5.2), which it states as about 284.
/// let groups = [(49 + 141, 49), (27_652 + 774_106, 27_652)];
/// assert!((chi_square(&groups) - 284.0).abs() < 1.0);
/// ```
pub fn chi_square(groups: &[(u64, u64)]) -> f64 {
    let all: f64 = groups.iter().map(|(documents, _)| *documents as f64).sum();
    let with: f64 = groups.iter().map(|(_, with)| *with as f64).sum();
    let cell = |observed: f64, expected: f64| {
        if expected > 0.0 { (observed - expected).powi(2) / expected } else { 0.0 }
    };
    groups
        .iter()
        .map(|(documents, with_term)| {
            let (documents, present) = (*documents as f64, *with_term as f64);
            cell(present, documents * with / all) + cell(documents - present, documents * (all - with) / all)
        })
        .sum()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn weights_of_the_plain_cases() {
        assert_eq!((idf(4, 4), idf(1, 4)), (0.0, 4f64.ln()));
        // A term that tells the group of every document tells one bit of two equal groups.
        assert!((mutual_information(&[(2, 2), (2, 0)]) - 1.0).abs() < 1e-12);
        assert_eq!(mutual_information(&[(2, 1), (4, 2)]), 0.0);
        assert_eq!((chi_square(&[(2, 2), (2, 0)]), chi_square(&[(2, 1), (4, 2)])), (4.0, 0.0));
        assert_eq!((mutual_information(&[]), chi_square(&[])), (0.0, 0.0));
        for (name, weight) in Weight::NAMES {
            assert_eq!((Weight::named(name), weight.name()), (Some(weight), name));
        }
        assert_eq!(Weight::named("mutual-information"), Some(Weight::MutualInformation));
    }

    proptest! {
        /// Against the definition, term by term.
        #[test]
        fn entropy_is_that_of_the_shares(counts in prop::collection::vec(0u64..50, 2..30)) {
            let mut spread = TermSpread::default();
            counts.iter().filter(|count| **count > 0).for_each(|count| spread.note(*count));
            let sum: u64 = counts.iter().sum();
            prop_assume!(sum > 0);
            let shares = counts.iter().filter(|count| **count > 0).map(|count| *count as f64 / sum as f64);
            let expected = 1.0 + shares.map(|p| p * p.ln()).sum::<f64>() / (counts.len() as f64).ln();
            prop_assert!((spread.entropy(counts.len() as u64) - expected).abs() < 1e-9);
            let logs: f64 = counts.iter().map(|count| (*count as f64).ln_1p()).sum();
            prop_assert!((spread.sum(Local::Log) - logs).abs() < 1e-9);
            prop_assert_eq!(spread.sum(Local::Count), sum as f64);
        }
    }
}
