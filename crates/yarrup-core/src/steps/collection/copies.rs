//! Finding copies and near copies among documents.
//!
//! Near copies: runs of three tokens are hashed; documents that may be alike are found by bands of their MinHash signatures (Broder 1997, "On the
//! resemblance and containment of documents"; Indyk and Motwani 1998), and compared by the smallest hashes of their runs: exactly where they have
//! up to [`MOST_RUNS`] different ones, else by that sample (Cohen and Kaplan 2007, "Summarizing data using bottom-k sketches").

use std::sync::Arc;

use hashbrown::HashMap;

use crate::seen::{Seen, SeenReader, halves};
use crate::step::{Arriving, Copies, CopySort, Learned, Learner, Shown, mixed_text_hash, same};

type State = foldhash::fast::FixedState;

/// How many bands a signature has, and how many hashes a band: of documents that are alike to four fifths, 999 in a thousand share a band, and
/// to one half, nine in ten.
const BANDS: usize = 32;
const ROWS: usize = 4;
/// How many tokens follow each other in what is compared.
const RUN: usize = 3;
/// How many different runs of a document are kept: those with the smallest hashes.
const MOST_RUNS: usize = 256;

/// Whether a document stays but for its being a copy.
pub(crate) type Stays = Arc<dyn Fn(&Arriving<'_>) -> bool + Send + Sync>;

/// Sees every document that stays otherwise, and finds which repeat earlier ones.
pub(crate) struct CopyFinder {
    sort: CopySort,
    similarity: f64,
    stays: Stays,
    sketches: Vec<Sketch>,
}

/// What is kept of a document: a hundred bytes, and where near copies are looked for four for each different run besides.
struct Sketch {
    order: u64,
    /// Of all its tokens.
    hash: u128,
    /// The smallest hashes of its runs, in order. Empty where only exact copies are looked for.
    runs: Box<[u32]>,
    /// Hashes of the bands of its signature.
    bands: Box<[u32]>,
}

impl CopyFinder {
    pub(crate) fn new(sort: CopySort, similarity: f64, stays: Stays) -> CopyFinder {
        CopyFinder { sort, similarity, stays, sketches: Vec::new() }
    }

    fn sketch(&self, arriving: &Arriving<'_>) -> Sketch {
        let mut whole: u128 = 0x6c62_272e_07bb_0142_62b8_2175_6295_c58d;
        let mut hashes = Vec::new();
        for token in arriving.tokens {
            let hash = mixed_text_hash(token.text());
            whole = (whole ^ u128::from(hash))
                .wrapping_mul(0x0000_0000_0100_0000_0000_0000_0000_013b)
                .rotate_left(47);
            hashes.push(hash);
        }
        if self.sort == CopySort::Exact {
            return Sketch { order: arriving.document.order, hash: whole, runs: [].into(), bands: [].into() };
        }
        // A document of fewer tokens is one run.
        let mut runs: Vec<u32> = match hashes.len() < RUN {
            true => vec![run_hash(&hashes)],
            false => hashes.windows(RUN).map(run_hash).collect(),
        };
        runs.sort_unstable();
        runs.dedup();
        let bands = bands(&runs);
        runs.truncate(MOST_RUNS);
        Sketch { order: arriving.document.order, hash: whole, runs: runs.into(), bands }
    }
}

impl Learner for CopyFinder {
    fn shown(&self) -> Shown {
        Shown::Tokens
    }

    fn tokens(&mut self, arriving: &Arriving<'_>) {
        if !arriving.tokens.is_empty() && (self.stays)(arriving) {
            let sketch = self.sketch(arriving);
            self.sketches.push(sketch);
        }
    }

    fn absorb(&mut self, other: Box<dyn Learner>) {
        let other: CopyFinder = same(other);
        self.sketches.extend(other.sketches);
    }

    fn seen(&mut self) -> Seen {
        let mut seen = Seen::default();
        let mut sketches = std::mem::take(&mut self.sketches);
        sketches.sort_unstable_by_key(|sketch| sketch.order);
        seen.numbers.push(sketches.len() as u64);
        for sketch in sketches {
            seen.numbers.push(sketch.order);
            seen.numbers.extend(halves(sketch.hash));
            for hashes in [&sketch.runs, &sketch.bands] {
                seen.numbers.push(hashes.len() as u64);
                seen.numbers.extend(hashes.iter().copied().map(u64::from));
            }
        }
        seen
    }

    fn that_has(&self, seen: Seen) -> Option<Box<dyn Learner>> {
        let mut seen = seen.read();
        let sketches = seen.many(|seen| {
            let (order, hash) = (seen.number()?, seen.wide()?);
            let runs = seen.many(SeenReader::small)?.into();
            let bands: Box<[u32]> = seen.many(SeenReader::small)?.into();
            let is_sketch = bands.is_empty() || bands.len() == BANDS;
            is_sketch.then_some(Sketch { order, hash, runs, bands })
        })?;
        seen.is_empty().then(|| -> Box<dyn Learner> {
            Box::new(CopyFinder {
                sketches,
                ..CopyFinder::new(self.sort, self.similarity, Arc::clone(&self.stays))
            })
        })
    }

    fn fresh(&self) -> Box<dyn Learner> {
        Box::new(CopyFinder::new(self.sort, self.similarity, Arc::clone(&self.stays)))
    }

    fn learned(
        self: Box<Self>,
        _vocabulary: &mut dyn Iterator<Item = crate::step::Term<'_>>,
        _documents: u64,
    ) -> Vec<Learned> {
        Vec::new()
    }

    fn copies(&mut self) -> Option<Copies> {
        let mut sketches = std::mem::take(&mut self.sketches);
        sketches.sort_unstable_by_key(|sketch| sketch.order);
        let mut copies = Copies::default();
        let mut exact: HashMap<u128, u64, State> = HashMap::default();
        let mut staying = BandIndex::new(sketches.len());
        let mut candidates: Vec<u32> = Vec::new();
        for (number, sketch) in (0..).zip(&sketches) {
            if let Some(first) = exact.get(&sketch.hash) {
                copies.add(sketch.order, *first, CopySort::Exact);
                continue;
            }
            candidates.clear();
            staying.find(sketch, &sketches, &mut candidates);
            let alike =
                |other: &&u32| resemblance(&sketches[**other as usize].runs, &sketch.runs) >= self.similarity;
            if let Some(first) = candidates.iter().find(alike) {
                copies.add(sketch.order, sketches[*first as usize].order, CopySort::Near);
                continue;
            }
            exact.insert(sketch.hash, sketch.order);
            staying.add(number, sketch);
        }
        Some(copies)
    }
}

/// Documents by the bands of their signatures: for each band, chains of documents whose hashes end in the same bits. Two numbers a document and
/// band, where a map of lists would take ten times as much.
struct BandIndex {
    /// For each band and the last bits of its hash, the last document of the chain.
    last: Vec<u32>,
    /// For each document and band, the document before it in the chain.
    before: Vec<[u32; BANDS]>,
    bits: u32,
}

/// The end of a chain.
const NO_DOCUMENT: u32 = u32::MAX;

impl BandIndex {
    fn new(documents: usize) -> BandIndex {
        let bits = documents.next_power_of_two().trailing_zeros();
        BandIndex { last: Vec::new(), before: Vec::new(), bits }
    }

    fn chain(&self, band: usize, hash: u32) -> usize {
        (band << self.bits) + (hash as usize & ((1 << self.bits) - 1))
    }

    /// Adds a document. Numbers grow from call to call.
    fn add(&mut self, number: u32, sketch: &Sketch) {
        if sketch.bands.is_empty() {
            return;
        }
        if self.last.is_empty() {
            self.last = vec![NO_DOCUMENT; BANDS << self.bits];
        }
        self.before.resize(number as usize, [NO_DOCUMENT; BANDS]);
        let mut before = [NO_DOCUMENT; BANDS];
        for (band, (hash, before)) in sketch.bands.iter().zip(&mut before).enumerate() {
            let chain = self.chain(band, *hash);
            *before = std::mem::replace(&mut self.last[chain], number);
        }
        self.before.push(before);
    }

    /// Gives the documents that share a band with another, each once, in their order.
    fn find(&self, sketch: &Sketch, sketches: &[Sketch], candidates: &mut Vec<u32>) {
        if self.last.is_empty() {
            return;
        }
        for (band, hash) in sketch.bands.iter().enumerate() {
            let mut next = self.last[self.chain(band, *hash)];
            while next != NO_DOCUMENT {
                if sketches[next as usize].bands[band] == *hash {
                    candidates.push(next);
                }
                next = self.before[next as usize][band];
            }
        }
        candidates.sort_unstable();
        candidates.dedup();
    }
}

/// How much of the runs of two documents is in both (Jaccard's coefficient), by the smallest hashes of either.
fn resemblance(a: &[u32], b: &[u32]) -> f64 {
    let (mut i, mut j, mut both, mut all) = (0, 0, 0u32, 0u32);
    // Of a sample, only what both would have kept may be compared.
    let sampled = a.len() == MOST_RUNS || b.len() == MOST_RUNS;
    while (i < a.len() || j < b.len()) && !(sampled && all as usize == MOST_RUNS) {
        let order = match (a.get(i), b.get(j)) {
            (Some(a), Some(b)) => a.cmp(b),
            (Some(_), None) => std::cmp::Ordering::Less,
            _ => std::cmp::Ordering::Greater,
        };
        i += usize::from(order.is_le());
        j += usize::from(order.is_ge());
        both += u32::from(order.is_eq());
        all += 1;
    }
    f64::from(both) / f64::from(all.max(1))
}

/// The hashes of the bands of a signature: of each of many orders of all runs, the first run of the document.
fn bands(runs: &[u32]) -> Box<[u32]> {
    let mut signature = [u32::MAX; BANDS * ROWS];
    for &run in runs {
        let mut seed = u64::from(run) | 1 << 40;
        for least in &mut signature {
            seed = seed.wrapping_mul(0x9e37_79b9_7f4a_7c15).rotate_left(23) ^ u64::from(run);
            *least = (*least).min((seed >> 16) as u32);
        }
    }
    let band = |rows: &[u32]| {
        let mix =
            |sum: u64, row: &u32| (sum ^ u64::from(*row)).wrapping_mul(0x9e37_79b9_7f4a_7c15).rotate_left(31);
        (rows.iter().fold(0, mix) >> 13) as u32
    };
    signature.chunks(ROWS).map(band).collect()
}

fn run_hash(tokens: &[u64]) -> u32 {
    let mix = |sum: u64, token: &u64| (sum ^ token).wrapping_mul(0x9e37_79b9_7f4a_7c15).rotate_left(29);
    (tokens.iter().fold(tokens.len() as u64, mix) >> 32) as u32
}

#[cfg(test)]
mod tests {
    use std::collections::HashSet;

    use super::*;
    use crate::step::{Document, NoFields, Place};
    use proptest::prelude::*;

    fn found(sort: CopySort, similarity: f64, texts: &[String], shards: usize) -> Copies {
        let mut sum = CopyFinder::new(sort, similarity, Arc::new(|_| true));
        let mut others: Vec<Box<dyn Learner>> = (1..shards).map(|_| sum.fresh()).collect();
        for (order, text) in (0..).zip(texts) {
            let place = |text| Place::alone(text, 0);
            let tokens: Vec<Place<'_>> = text.split_whitespace().map(place).collect();
            let document = Document { text, fields: &NoFields, order };
            let arriving =
                Arriving { document: &document, tokens_before: tokens.len() as u64, tokens: &tokens };
            match (order as usize % shards).checked_sub(1) {
                Some(other) => others[other].tokens(&arriving),
                None => sum.tokens(&arriving),
            }
        }
        others.into_iter().for_each(|other| sum.absorb(other));
        sum.copies().unwrap_or_default()
    }

    /// Jaccard's coefficient of the runs of two texts, as its definition has it.
    fn jaccard(a: &str, b: &str) -> f64 {
        let runs = |text: &str| -> HashSet<Vec<String>> {
            let words: Vec<String> = text.split_whitespace().map(str::to_owned).collect();
            match words.len() < RUN {
                true => [words].into(),
                false => words.windows(RUN).map(<[String]>::to_vec).collect(),
            }
        };
        let (a, b) = (runs(a), runs(b));
        a.intersection(&b).count() as f64 / a.union(&b).count() as f64
    }

    proptest! {
        #[test]
        fn copies_are_those_of_the_definition_whoever_saw_them(
            base in prop::collection::vec("[a-e]{1,2}", 12..40),
            edits in prop::collection::vec((0usize..40, "[a-e]{1,2}", 0usize..3), 1..12),
            shards in 1usize..4,
        ) {
            // The documents are the base with more and more words changed.
            let mut texts = vec![base.join(" ")];
            let mut words = base;
            for (at, word, again) in edits {
                if again > 0 {
                    let at = at % words.len();
                    words[at] = word;
                }
                texts.push(words.join(" "));
            }
            let copies = found(CopySort::Near, 0.8, &texts, shards);
            let mut stay: Vec<usize> = Vec::new();
            for (order, text) in texts.iter().enumerate() {
                let same = stay.iter().find(|first| texts[**first] == *text);
                let near = stay.iter().find(|first| jaccard(&texts[**first], text) >= 0.8);
                let expected = same.map(|first| (*first as u64, CopySort::Exact))
                    .or(near.map(|first| (*first as u64, CopySort::Near)));
                prop_assert_eq!(copies.original(order as u64), expected, "{}: {:?}", order, texts);
                if expected.is_none() {
                    stay.push(order);
                }
            }
            let exact = found(CopySort::Exact, 1.0, &texts, shards);
            for (order, text) in texts.iter().enumerate() {
                let first = texts.iter().position(|other| other == text).filter(|first| *first < order);
                prop_assert_eq!(exact.original(order as u64), first.map(|first| (first as u64, CopySort::Exact)));
            }
        }
    }

    #[test]
    fn long_documents_are_compared_by_a_sample() {
        let words: Vec<String> = (0..4_000).map(|number| format!("w{}", number * 7919 % 3001)).collect();
        let mut changed = words.clone();
        (0..4_000).step_by(100).for_each(|at| changed[at] = "other".to_owned());
        let texts = [words.join(" "), changed.join(" "), words[..2_000].join(" ")];
        assert!(jaccard(&texts[0], &texts[1]) > 0.9);
        let copies = found(CopySort::Near, 0.8, &texts, 1);
        assert_eq!(copies.original(1), Some((0, CopySort::Near)));
        assert_eq!(copies.original(2), None);
    }
}
