//! How long documents are.

/// The lengths of documents, in buckets that are about a fifth wide; the smallest, the largest and the sum exactly.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Lengths {
    buckets: Vec<u64>,
    documents: u64,
    sum: u64,
    smallest: u64,
    largest: u64,
}

/// Buckets for each doubling of the length.
const PER_DOUBLING: u64 = 4;

impl Default for Lengths {
    fn default() -> Lengths {
        Lengths { buckets: Vec::new(), documents: 0, sum: 0, smallest: u64::MAX, largest: 0 }
    }
}

/// Lengths below this have a bucket each.
const EXACT: u64 = 2 * PER_DOUBLING;

fn bucket(length: u64) -> usize {
    if length < EXACT {
        return length as usize;
    }
    let doubling = u64::from(length.ilog2());
    let within = (length >> (doubling - 2)) & (PER_DOUBLING - 1);
    (EXACT + (doubling - 3) * PER_DOUBLING + within) as usize
}

/// The smallest length of a bucket.
fn least(bucket: usize) -> u64 {
    let bucket = bucket as u64;
    if bucket < EXACT {
        return bucket;
    }
    let (doubling, within) = ((bucket - EXACT) / PER_DOUBLING + 3, (bucket - EXACT) % PER_DOUBLING);
    (PER_DOUBLING + within) << (doubling - 2)
}

impl Lengths {
    pub(super) fn note(&mut self, length: u64) {
        let bucket = bucket(length);
        if self.buckets.len() <= bucket {
            self.buckets.resize(bucket + 1, 0);
        }
        self.buckets[bucket] += 1;
        self.documents += 1;
        self.sum += length;
        self.smallest = self.smallest.min(length);
        self.largest = self.largest.max(length);
    }

    pub(super) fn absorb(&mut self, other: &Lengths) {
        if self.buckets.len() < other.buckets.len() {
            self.buckets.resize(other.buckets.len(), 0);
        }
        for (ours, theirs) in self.buckets.iter_mut().zip(&other.buckets) {
            *ours += theirs;
        }
        self.documents += other.documents;
        self.sum += other.sum;
        self.smallest = self.smallest.min(other.smallest);
        self.largest = self.largest.max(other.largest);
    }

    /// How many documents there are.
    pub fn documents(&self) -> u64 {
        self.documents
    }

    /// The sum of all lengths.
    pub fn sum(&self) -> u64 {
        self.sum
    }

    /// The smallest length; 0 without documents.
    pub fn smallest(&self) -> u64 {
        if self.documents == 0 { 0 } else { self.smallest }
    }

    /// The largest length; 0 without documents.
    pub fn largest(&self) -> u64 {
        self.largest
    }

    /// The mean length; 0 without documents.
    pub fn mean(&self) -> f64 {
        if self.documents == 0 { 0.0 } else { self.sum as f64 / self.documents as f64 }
    }

    /// The length that this share of the documents does not exceed, to about a fifth.
    pub fn quantile(&self, share: f64) -> u64 {
        let rank = (share * self.documents as f64).ceil().max(1.0) as u64;
        let mut seen = 0;
        for (bucket, count) in self.buckets.iter().enumerate() {
            seen += count;
            if seen >= rank {
                // The middle of what the bucket holds.
                let (from, to) = (least(bucket), least(bucket + 1) - 1);
                return (from + (to - from) / 2).clamp(self.smallest(), self.largest);
            }
        }
        self.largest
    }

    /// The documents in ranges of lengths, each twice as long as the one before: from, to, and how many documents.
    pub fn ranges(&self) -> Vec<(u64, u64, u64)> {
        let mut ranges: Vec<(u64, u64, u64)> = Vec::new();
        for (bucket, count) in self.buckets.iter().enumerate() {
            let length = least(bucket);
            let (from, to) = match length {
                0 => (0, 0),
                _ => {
                    let doubling = length.ilog2();
                    (1 << doubling, (1 << (doubling + 1)) - 1)
                }
            };
            match ranges.last_mut() {
                Some((known, _, documents)) if *known == from => *documents += count,
                _ => ranges.push((from, to, *count)),
            }
        }
        while ranges.first().is_some_and(|(_, _, documents)| *documents == 0) {
            ranges.remove(0);
        }
        ranges
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn buckets_begin_where_they_say() {
        for length in (0..5000).chain([1 << 40, u64::from(u32::MAX)]) {
            let at = bucket(length);
            assert!(least(at) <= length && length < least(at + 1), "{length} in {at}");
        }
    }

    #[test]
    fn lengths_are_described() {
        let mut lengths = Lengths::default();
        for length in 0..=100 {
            lengths.note(length);
        }
        assert_eq!((lengths.smallest(), lengths.largest(), lengths.mean()), (0, 100, 50.0));
        let median = lengths.quantile(0.5);
        assert!((45..=55).contains(&median), "{median}");
        let ranges = lengths.ranges();
        assert_eq!(&ranges[..4], [(0, 0, 1), (1, 1, 1), (2, 3, 2), (4, 7, 4)]);
        assert_eq!(ranges.iter().map(|(_, _, documents)| documents).sum::<u64>(), 101);
    }
}
