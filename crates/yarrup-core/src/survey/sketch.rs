//! How many different values there are, exactly while they are few, else nearly.

use std::collections::BTreeSet;

/// How many hashes are kept: the estimate is off by about 2 per cent.
const KEPT: usize = 2048;

/// Counts different values by the smallest of their hashes (Bar-Yossef et al. 2002, "Counting distinct elements in a data stream").
/// Which values were seen by whom, and in which order, makes no difference.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Distinct {
    smallest: BTreeSet<u64>,
}

impl Distinct {
    /// Notes the hash of a value. Hashes must be spread evenly over all 64 bits.
    pub fn note(&mut self, hash: u64) {
        if self.smallest.len() < KEPT {
            self.smallest.insert(hash);
        } else if self.smallest.last().is_some_and(|largest| hash < *largest) && self.smallest.insert(hash) {
            self.smallest.pop_last();
        }
    }

    /// Adds the values that another has seen.
    pub fn absorb(&mut self, other: &Distinct) {
        for hash in &other.smallest {
            self.note(*hash);
        }
    }

    /// How many different values there are, and whether that is exact.
    pub fn count(&self) -> (u64, bool) {
        match self.smallest.last() {
            Some(largest) if self.smallest.len() == KEPT => {
                let share = *largest as f64 / u64::MAX as f64;
                (((KEPT - 1) as f64 / share).round() as u64, false)
            }
            _ => (self.smallest.len() as u64, true),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::hash::BuildHasher;

    #[test]
    fn few_are_counted_and_many_nearly_so() {
        let hasher = foldhash::fast::FixedState::with_seed(1);
        for (values, exact) in [(0u64, true), (5, true), (2000, true), (100_000, false)] {
            let (mut all, mut odd) = (Distinct::default(), Distinct::default());
            for value in (0..values).chain(0..values) {
                if value % 2 == 0 {
                    all.note(hasher.hash_one(value));
                } else {
                    odd.note(hasher.hash_one(value));
                }
            }
            all.absorb(&odd);
            let (count, is_exact) = all.count();
            assert_eq!(is_exact, exact);
            assert!((count as f64 - values as f64).abs() <= values as f64 * 0.07, "{count} of {values}");
            assert!(!exact || count == values);
        }
    }
}
