//! A number for each distinct value that is masked.
//!
//! What is kept of a value is a hash alone (SHA-256, FIPS 180-4, of the sort and the value, cut to 128 bits): nobody reads the value off it, but who has a
//! guess can try it.

use std::sync::Arc;

use hashbrown::HashMap;
use sha2::{Digest as _, Sha256};

use crate::occurrences::Occurrences;
use crate::seen::{Seen, SeenReader, halves};
use crate::step::{Learned, Learner, Shown, Term, same};

type State = foldhash::fast::FixedState;

/// The values of a text: the number of their sort, and how each is written, in order.
pub(super) type ValuesOf = dyn Fn(&str, &mut dyn FnMut(usize, &str)) + Send + Sync;

/// The hash of a value of a sort. Values that differ in what their sort does not care for have one hash: letter case in addresses, gaps in numbers.
pub(super) fn value_hash(sort: &str, value: &str) -> u128 {
    let plain = match sort {
        "email" | "mention" | "hashtag" | "mac" | "uuid" => value.to_lowercase(),
        "phone" | "card" | "account" | "isbn" => {
            value.chars().filter(|c| c.is_alphanumeric() || *c == '+').collect()
        }
        _ => value.split_whitespace().collect::<Vec<_>>().join(" "),
    };
    let mut digest = Sha256::new();
    digest.update(sort.as_bytes());
    digest.update([0]);
    digest.update(plain.as_bytes());
    digest.finalize().iter().take(16).fold(0, |hash, byte| hash << 8 | u128::from(*byte))
}

/// A hash as recipes write it.
pub(super) fn written(hash: u128) -> String {
    format!("{hash:032x}")
}

/// Learns which values there are, in the order in which the collection has them.
pub(super) struct Pseudonyms {
    names: Arc<[String]>,
    values_of: Arc<ValuesOf>,
    values: HashMap<u128, Value, State>,
}

/// A value.
#[derive(Clone, Copy, Debug)]
struct Value {
    sort: u32,
    /// The first document that has it, and its place among the values there.
    first: (u64, u64),
    seen: Occurrences,
}

impl Pseudonyms {
    pub(super) fn new(names: Arc<[String]>, values_of: Arc<ValuesOf>) -> Pseudonyms {
        Pseudonyms { names, values_of, values: HashMap::default() }
    }
}

impl Learner for Pseudonyms {
    fn shown(&self) -> Shown {
        Shown::Text
    }

    fn text(&mut self, order: u64, text: &str) {
        let (names, values) = (&self.names, &mut self.values);
        let mut place = 0;
        (self.values_of)(text, &mut |sort, value| {
            let new = || Value { sort: sort as u32, first: (order, place), seen: Occurrences::default() };
            let known = values.entry(value_hash(&names[sort], value)).or_insert_with(new);
            // A worker may see documents in any order.
            known.first = known.first.min((order, place));
            known.seen.note(order);
            place += 1;
        });
    }

    fn absorb(&mut self, other: Box<dyn Learner>) {
        let other: Pseudonyms = same(other);
        for (hash, theirs) in other.values {
            match self.values.get_mut(&hash) {
                Some(ours) => {
                    ours.first = ours.first.min(theirs.first);
                    ours.seen.absorb(theirs.seen);
                }
                None => {
                    self.values.insert(hash, theirs);
                }
            }
        }
    }

    fn fresh(&self) -> Box<dyn Learner> {
        Box::new(Pseudonyms::new(Arc::clone(&self.names), Arc::clone(&self.values_of)))
    }

    fn seen(&mut self) -> Seen {
        let mut values: Vec<(u128, Value)> = std::mem::take(&mut self.values).into_iter().collect();
        values.sort_unstable_by_key(|(hash, _)| *hash);
        let mut seen = Seen::default();
        seen.numbers.push(values.len() as u64);
        for (hash, value) in values {
            seen.numbers.extend(halves(hash));
            let (order, place) = value.first;
            seen.numbers.extend([
                u64::from(value.sort),
                order,
                place,
                value.seen.count,
                value.seen.documents,
            ]);
        }
        seen
    }

    fn that_has(&self, seen: Seen) -> Option<Box<dyn Learner>> {
        let mut seen = seen.read();
        let sorts = self.names.len();
        let values = seen.many(|seen: &mut SeenReader| {
            let hash = seen.wide()?;
            let sort = seen.small().filter(|sort| (*sort as usize) < sorts)?;
            let first = (seen.number()?, seen.number()?);
            let counted = Occurrences::known(seen.number()?, seen.number()?);
            Some((hash, Value { sort, first, seen: counted }))
        })?;
        let values = values.into_iter().collect();
        seen.is_empty().then(|| -> Box<dyn Learner> {
            Box::new(Pseudonyms {
                values,
                ..Pseudonyms::new(Arc::clone(&self.names), Arc::clone(&self.values_of))
            })
        })
    }

    /// Each value's hash with its pseudonym, in the order of the collection.
    fn learned(
        self: Box<Self>,
        _vocabulary: &mut dyn Iterator<Item = Term<'_>>,
        _documents: u64,
    ) -> Vec<Learned> {
        let mut values: Vec<(u128, Value)> = self.values.into_iter().collect();
        values.sort_unstable_by_key(|(_, value)| value.first);
        let mut numbers = vec![0_u64; self.names.len()];
        let numbered = |(hash, value): (u128, Value)| {
            let sort = value.sort as usize;
            numbers[sort] += 1;
            Learned {
                text: written(hash),
                to: Some(format!("{}-{}", self.names[sort], numbers[sort])),
                count: value.seen.count,
                documents: value.seen.documents,
                score: None,
            }
        };
        values.into_iter().map(numbered).collect()
    }
}
