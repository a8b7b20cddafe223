//! One number for each distinct spelling.

use std::hash::{BuildHasher, Hasher};

use foldhash::fast::RandomState;
use hashbrown::HashTable;

/// Keeps each distinct text once and numbers them from 0 in the order of their coming. The numbers depend on that order,
/// so they must never reach an output.
///
/// Looking up a word that is known touches two places in memory, the table's tag and its slot: a large vocabulary does not
/// fit into the processor's caches, and every further place would cost more than the rest of the work.
#[derive(Debug, Default)]
pub(crate) struct Interner {
    hasher: RandomState,
    table: HashTable<Slot>,
    /// All texts, one behind the other, each with a space behind it; and where each ends, with its space.
    arena: String,
    ends: Vec<usize>,
}

/// What a text is told by: its length with its first and last eight bytes. Up to [`Key::WHOLE`] bytes that is all of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Key {
    head: u64,
    tail: u64,
    length: u32,
}

#[derive(Clone, Copy, Debug)]
struct Slot {
    key: Key,
    number: u32,
}

impl Key {
    const WHOLE: u32 = 16;

    /// Whether two texts with these keys are the same, without the call that comparing slices costs.
    #[inline]
    pub(crate) fn same(self, text: &str, other_key: Key, other: &str) -> bool {
        self == other_key && (self.is_whole() || text == other)
    }

    #[inline]
    pub(crate) fn of(text: &str) -> Key {
        let bytes = text.as_bytes();
        let length = bytes.len() as u32;
        let (head, tail) = match (bytes.first_chunk::<8>(), bytes.last_chunk::<8>()) {
            (Some(head), Some(tail)) => (u64::from_le_bytes(*head), u64::from_le_bytes(*tail)),
            _ => (short(bytes), 0),
        };
        Key { head, tail, length }
    }

    fn is_whole(self) -> bool {
        self.length <= Key::WHOLE
    }
}

/// Up to seven bytes as a number; with the length, no two texts have the same.
#[inline]
fn short(bytes: &[u8]) -> u64 {
    match (bytes.first_chunk::<4>(), bytes.last_chunk::<4>()) {
        (Some(head), Some(tail)) => {
            u64::from(u32::from_le_bytes(*head)) | u64::from(u32::from_le_bytes(*tail)) << 32
        }
        _ => bytes.iter().fold(0, |number, &byte| number << 8 | u64::from(byte)),
    }
}

impl Interner {
    pub(crate) fn len(&self) -> usize {
        self.ends.len()
    }

    #[inline]
    pub(crate) fn text(&self, number: u32) -> &str {
        let number = number as usize;
        let start = if number == 0 { 0 } else { self.ends[number - 1] };
        &self.arena[start..self.ends[number] - 1]
    }

    /// The bytes of a text and a space: what joined terms are made of, in one piece.
    #[inline]
    pub(crate) fn spaced(&self, number: u32) -> &[u8] {
        let number = number as usize;
        let start = if number == 0 { 0 } else { self.ends[number - 1] };
        &self.arena.as_bytes()[start..self.ends[number]]
    }

    #[inline]
    fn hash(&self, key: Key, text: &str) -> u64 {
        let mut hasher = self.hasher.build_hasher();
        if key.is_whole() {
            // The length is compared, not hashed: few texts share head and tail.
            hasher.write_u128(u128::from(key.head) << 64 | u128::from(key.tail));
        } else {
            hasher.write(text.as_bytes());
        }
        hasher.finish()
    }

    /// The number of `text`, a new one if it was not seen before.
    #[inline]
    pub(crate) fn number(&mut self, text: &str) -> u32 {
        self.number_of(Key::of(text), text)
    }

    /// As [`Interner::number`], where the key is known already.
    #[inline]
    pub(crate) fn number_of(&mut self, key: Key, text: &str) -> u32 {
        let hash = self.hash(key, text);
        match self.slot(hash, key, text) {
            Some(slot) => slot.number,
            None => self.add(hash, key, text),
        }
    }

    /// The number of `text`, if it was seen.
    pub(crate) fn find(&self, text: &str) -> Option<u32> {
        let key = Key::of(text);
        self.slot(self.hash(key, text), key, text).map(|slot| slot.number)
    }

    #[inline]
    fn slot(&self, hash: u64, key: Key, text: &str) -> Option<&Slot> {
        self.table.find(hash, |slot| slot.key == key && (key.is_whole() || self.text(slot.number) == text))
    }

    #[cold]
    fn add(&mut self, hash: u64, key: Key, text: &str) -> u32 {
        let number = u32::try_from(self.ends.len()).expect("fewer than four thousand million distinct forms");
        self.arena.push_str(text);
        self.arena.push(' ');
        self.ends.push(self.arena.len());
        // The table is taken out for a moment: making room asks for the hashes of what is in it.
        let mut table = std::mem::take(&mut self.table);
        table.insert_unique(hash, Slot { key, number }, |slot| self.hash(slot.key, self.text(slot.number)));
        self.table = table;
        number
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use std::collections::HashMap;

    proptest! {
        #[test]
        fn numbers_are_those_of_the_first_coming(texts in prop::collection::vec("[ab]{0,20}|[a-cé鳥]{0,9}", 0..200)) {
            let mut interner = Interner::default();
            let mut naive: HashMap<String, u32> = HashMap::new();
            for text in &texts {
                let next = naive.len() as u32;
                let expected = *naive.entry(text.clone()).or_insert(next);
                prop_assert_eq!(interner.number(text), expected);
                prop_assert_eq!(interner.text(expected), text);
            }
            prop_assert_eq!(interner.len(), naive.len());
            prop_assert_eq!(interner.find("not there"), None);
        }

        #[test]
        fn sameness_is_that_of_the_texts(a in "[ab]{0,20}", b in "[ab]{0,20}") {
            prop_assert_eq!(Key::of(&a).same(&a, Key::of(&b), &b), a == b);
            prop_assert!(Key::of(&a).same(&a, Key::of(&a), &a));
        }
    }
}
