//! One number for each distinct spelling.

use std::hash::{BuildHasher, Hasher};

use foldhash::fast::RandomState;

/// Keeps each distinct text once and numbers them from 0 in the order of their coming. The numbers depend on that order,
/// so they must never reach an output.
///
/// Looking up a word that is known touches two places in memory: its slot in an open table (Knuth, The Art of Computer Programming 3, section 6.4,
/// linear probing), eight of which lie in a line of the processor's cache, and its key. Keys stand in the order of coming, so those of the common words,
/// which come first, lie close together.
#[derive(Debug, Default)]
pub(crate) struct Interner {
    hasher: RandomState,
    /// The upper half of the hash, and the number plus one; 0 where nothing stands. A power of two of them, at most half of them filled.
    slots: Vec<u64>,
    /// By number.
    keys: Vec<Key>,
    /// All texts, one behind the other, each with a space behind it; and where each ends, with its space.
    arena: String,
    ends: Vec<usize>,
}

/// What a text is told by: its length with its first and last eight bytes. Up to [`Key::WHOLE`] bytes that is all of it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Key {
    head: u64,
    tail: u64,
    length: u32,
}

impl Key {
    const WHOLE: u32 = 16;

    #[inline]
    pub(crate) fn of(text: &str) -> Key {
        let bytes = text.as_bytes();
        let tail = match bytes.last_chunk::<8>() {
            Some(tail) if bytes.len() > 8 => u64::from_le_bytes(*tail),
            _ => 0,
        };
        let head = bytes.first_chunk::<8>().map_or_else(|| short(bytes), |head| u64::from_le_bytes(*head));
        Key { head, tail, length: bytes.len() as u32 }
    }

    /// Whether head and tail hold all of the text.
    pub(crate) fn is_whole(self) -> bool {
        self.length <= Key::WHOLE
    }
}

/// Up to seven bytes as a number, the first lowest.
#[inline]
fn short(bytes: &[u8]) -> u64 {
    let length = bytes.len();
    let byte = |at: usize| u64::from(bytes[at]) << (8 * at);
    match (bytes.first_chunk::<4>(), bytes.last_chunk::<4>()) {
        // Both overlap where there are fewer than eight, with the same bytes in the same places.
        (Some(head), Some(tail)) => {
            u64::from(u32::from_le_bytes(*head)) | u64::from(u32::from_le_bytes(*tail)) << (8 * (length - 4))
        }
        _ if length == 0 => 0,
        _ => byte(0) | byte(length / 2) | byte(length - 1),
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

    fn hash(&self, key: Key, text: &str) -> u64 {
        if key.is_whole() {
            return self.hash_whole(key);
        }
        let mut hasher = self.hasher.build_hasher();
        hasher.write(text.as_bytes());
        hasher.finish()
    }

    #[inline]
    fn hash_whole(&self, key: Key) -> u64 {
        let mut hasher = self.hasher.build_hasher();
        // The length is compared, not hashed: few texts share head and tail.
        hasher.write_u128(u128::from(key.head) << 64 | u128::from(key.tail));
        hasher.finish()
    }

    /// The number of `text`, a new one if it was not seen before.
    #[inline]
    pub(crate) fn number(&mut self, text: &str) -> u32 {
        let key = Key::of(text);
        let hash = self.hash(key, text);
        let found =
            self.find(hash, |known, number| known == key && (key.is_whole() || self.text(number) == text));
        found.unwrap_or_else(|| self.add(hash, key, text))
    }

    /// The number of the text with this hash for whose key `is_it` holds.
    #[inline]
    fn find(&self, hash: u64, is_it: impl Fn(Key, u32) -> bool) -> Option<u32> {
        let mask = self.slots.len().wrapping_sub(1);
        let mut at = hash as usize;
        loop {
            let slot = *self.slots.get(at & mask)?;
            if slot == 0 {
                return None;
            }
            if slot >> 32 == hash >> 32 {
                let number = slot as u32 - 1;
                if is_it(self.keys[number as usize], number) {
                    return Some(number);
                }
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
        for number in 0..self.keys.len() as u32 {
            let hash = self.hash(self.keys[number as usize], self.text(number));
            self.put(hash, number);
        }
    }

    #[cold]
    fn add(&mut self, hash: u64, key: Key, text: &str) -> u32 {
        let number = u32::try_from(self.ends.len())
            .ok()
            .filter(|number| *number < u32::MAX)
            .expect("fewer than four thousand million distinct forms");
        self.arena.push_str(text);
        self.arena.push(' ');
        self.ends.push(self.arena.len());
        if (self.keys.len() + 1) * 2 > self.slots.len() {
            self.grow();
        }
        self.keys.push(key);
        self.put(hash, number);
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
        }

        #[test]
        fn short_texts_of_one_key_are_the_same(a in "[ab]{0,17}", b in "[ab]{0,17}") {
            let (key, other) = (Key::of(&a), Key::of(&b));
            prop_assert_eq!(key == other && key.is_whole(), a == b && a.len() <= 16);
        }
    }
}
