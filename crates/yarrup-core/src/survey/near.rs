//! Documents that are nearly the same: by the words that follow each other in them, as a sketch of fixed size.
//!
//! Broder 1997, "On the resemblance and containment of documents", with one pass over the words for the whole sketch (Li, Owen and
//! Zhang 2012, "One permutation hashing").

use std::collections::HashMap;
use std::hash::BuildHasher;

use foldhash::fast::FixedState;

use crate::survey::Order;

/// How many parts a sketch has.
const PARTS: usize = 32;
/// How many parts, next to each other, must agree for two documents to be compared.
const BAND: usize = 4;
/// How many of the parts must agree for two documents to be nearly the same: resemblance of about four fifths.
const ALIKE: usize = 25;
/// How many words follow each other in what is compared.
const RUN: usize = 3;
/// Documents of fewer words are too short to be told from chance.
const FEWEST_WORDS: usize = 8;
/// How many documents are compared; those with the smallest hashes if there are more.
const MOST: usize = 100_000;

#[derive(Default)]
pub(super) struct NearDuplicates {
    sketches: Vec<Sketch>,
}

#[derive(Clone)]
struct Sketch {
    order: Order,
    text_hash: u64,
    parts: [u32; PARTS],
}

impl NearDuplicates {
    pub(super) fn document(&mut self, order: Order, text: &str, text_hash: u64) {
        let hasher = FixedState::with_seed(0x7e12);
        let mut parts = [u32::MAX; PARTS];
        let mut window = [0u64; RUN];
        let mut words = 0;
        for word in text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()) {
            let hash = hasher.hash_one(word);
            window.rotate_left(1);
            window[RUN - 1] = hash;
            words += 1;
            if words >= RUN {
                let run = hasher.hash_one(window);
                let part = &mut parts[(run >> 32) as usize % PARTS];
                *part = (*part).min(run as u32);
            }
        }
        if words < FEWEST_WORDS {
            return;
        }
        // An empty part takes the value of the next that has one (Shrivastava and Li 2014), so that short texts agree by what they hold.
        let held = parts;
        for index in 0..PARTS {
            if held[index] == u32::MAX {
                let next =
                    (1..PARTS).map(|step| held[(index + step) % PARTS]).position(|part| part != u32::MAX);
                if let Some(steps) = next {
                    parts[index] = held[(index + steps + 1) % PARTS].wrapping_add(steps as u32 + 1);
                }
            }
        }
        self.sketches.push(Sketch { order, text_hash, parts });
        if self.sketches.len() > 2 * MOST {
            self.shrink();
        }
    }

    /// Keeps those with the smallest hashes, which does not depend on who saw them.
    fn shrink(&mut self) {
        if self.sketches.len() > MOST {
            self.sketches.select_nth_unstable_by_key(MOST, |sketch| (sketch.text_hash, sketch.order));
            self.sketches.truncate(MOST);
        }
    }

    pub(super) fn absorb(&mut self, other: NearDuplicates) {
        self.sketches.extend(other.sketches);
    }

    /// How many documents are nearly the same as an earlier one, and the first two such documents.
    pub(super) fn finish(mut self) -> (u64, Option<(Order, Order)>) {
        self.shrink();
        self.sketches.sort_unstable_by_key(|sketch| sketch.order);
        // Of equal texts only the first is compared: the others are copies, and told as such.
        let mut seen = std::collections::HashSet::new();
        self.sketches.retain(|sketch| seen.insert(sketch.text_hash));
        let mut bands: HashMap<(usize, [u32; BAND]), Vec<usize>> = HashMap::new();
        let (mut count, mut first) = (0, None);
        for (index, sketch) in self.sketches.iter().enumerate() {
            let mut nearest: Option<usize> = None;
            for (band, parts) in sketch.parts.as_chunks::<BAND>().0.iter().enumerate() {
                let others = bands.entry((band, *parts)).or_default();
                // A band that everyone shares says nothing, and would take forever.
                for &other in others.iter().take(20) {
                    let alike =
                        self.sketches[other].parts.iter().zip(&sketch.parts).filter(|(a, b)| a == b).count();
                    if alike >= ALIKE && nearest.is_none_or(|nearest| other < nearest) {
                        nearest = Some(other);
                    }
                }
                others.push(index);
            }
            if let Some(other) = nearest {
                count += 1;
                first.get_or_insert((self.sketches[other].order, sketch.order));
            }
        }
        (count, first)
    }
}
