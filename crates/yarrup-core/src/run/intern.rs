//! One number for each distinct spelling.

use std::hash::{BuildHasher, Hasher};

use foldhash::fast::RandomState;

use crate::step::Spellings;

/// Keeps each distinct text once and numbers them from 0 in the order of their coming. The numbers depend on that order,
/// so they must never reach an output.
///
/// An open table (Knuth, The Art of Computer Programming 3, section 6.4, linear probing): half of a hash in each slot tells nearly always that a text is
/// another, without a look at it.
#[derive(Debug, Default)]
pub(crate) struct Interner {
    hasher: RandomState,
    /// The upper half of the hash, and the number plus one; 0 where nothing stands. A power of two of them, at most half of them filled.
    slots: Vec<u64>,
    /// All texts, one behind the other, each with a space behind it; and where each ends, with its space.
    arena: String,
    ends: Vec<usize>,
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
    fn hash(&self, text: &str) -> u64 {
        let mut hasher = self.hasher.build_hasher();
        hasher.write(text.as_bytes());
        hasher.finish()
    }

    /// The number of `text`, a new one if it was not seen before.
    #[inline]
    pub(crate) fn number(&mut self, text: &str) -> u32 {
        let hash = self.hash(text);
        self.find(hash, text).unwrap_or_else(|| self.add(hash, text))
    }

    /// The number of a text with this hash.
    #[inline]
    fn find(&self, hash: u64, text: &str) -> Option<u32> {
        let mask = self.slots.len().wrapping_sub(1);
        let mut at = hash as usize;
        loop {
            let slot = *self.slots.get(at & mask)?;
            if slot == 0 {
                return None;
            }
            let number = (slot as u32).wrapping_sub(1);
            if slot >> 32 == hash >> 32 && self.text(number) == text {
                return Some(number);
            }
            at += 1;
        }
    }

    /// Puts a number into the first free slot.
    fn put(&mut self, hash: u64, number: u32) {
        let mask = self.slots.len() - 1;
        let mut at = hash as usize & mask;
        while self.slots[at] != 0 {
            at = (at + 1) & mask;
        }
        self.slots[at] = hash >> 32 << 32 | u64::from(number + 1);
    }

    /// Makes room for twice as many.
    fn grow(&mut self) {
        let size = (self.slots.len() * 2).max(1 << 10);
        self.slots.clear();
        self.slots.resize(size, 0);
        for number in 0..self.ends.len() as u32 {
            let hash = self.hash(self.text(number));
            self.put(hash, number);
        }
    }

    #[cold]
    fn add(&mut self, hash: u64, text: &str) -> u32 {
        let number = u32::try_from(self.ends.len())
            .ok()
            .filter(|number| *number < u32::MAX)
            .expect("fewer than four thousand million distinct forms");
        if (self.ends.len() + 1) * 2 > self.slots.len() {
            self.grow();
        }
        self.arena.push_str(text);
        self.arena.push(' ');
        self.ends.push(self.arena.len());
        self.put(hash, number);
        number
    }
}

impl Spellings for Interner {
    fn spelling(&self, number: u32) -> &str {
        self.text(number)
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
        }
    }
}
