//! One number for each distinct spelling.

use std::hash::{BuildHasher, Hasher};

use foldhash::fast::RandomState;
use hashbrown::HashTable;

/// Keeps each distinct text once and numbers them from 0 in the order of their coming. The numbers depend on that order,
/// so they must never reach an output.
#[derive(Debug, Default)]
pub(crate) struct Interner {
    hasher: RandomState,
    table: HashTable<Slot>,
    /// All texts, one behind the other.
    arena: String,
    places: Vec<Place>,
}

/// A number with part of its text's hash, so that most other texts are told apart without looking at them.
#[derive(Clone, Copy, Debug)]
struct Slot {
    hash: u32,
    number: u32,
}

#[derive(Clone, Copy, Debug)]
struct Place {
    start: usize,
    length: u32,
}

/// The whole hash from the half that is kept: the table takes its tag from the top bits and its slot from the low ones.
fn whole(hash: u32) -> u64 {
    u64::from(hash) << 32 | u64::from(hash)
}

impl Interner {
    pub(crate) fn len(&self) -> usize {
        self.places.len()
    }

    #[inline]
    pub(crate) fn text(&self, number: u32) -> &str {
        let place = self.places[number as usize];
        &self.arena[place.start..place.start + place.length as usize]
    }

    #[inline]
    fn hash(&self, text: &str) -> u32 {
        let mut hasher = self.hasher.build_hasher();
        hasher.write(text.as_bytes());
        let hash = hasher.finish();
        (hash >> 32) as u32 ^ hash as u32
    }

    /// The number of `text`, a new one if it was not seen before.
    #[inline]
    pub(crate) fn number(&mut self, text: &str) -> u32 {
        let hash = self.hash(text);
        let found = self.table.find(whole(hash), |slot| slot.hash == hash && self.text(slot.number) == text);
        match found {
            Some(slot) => slot.number,
            None => self.add(hash, text),
        }
    }

    /// The number of `text`, if it was seen.
    pub(crate) fn find(&self, text: &str) -> Option<u32> {
        let hash = self.hash(text);
        let same = |slot: &Slot| slot.hash == hash && self.text(slot.number) == text;
        self.table.find(whole(hash), same).map(|slot| slot.number)
    }

    #[cold]
    fn add(&mut self, hash: u32, text: &str) -> u32 {
        let number = u32::try_from(self.places.len()).expect("fewer than four thousand million distinct forms");
        self.places.push(Place { start: self.arena.len(), length: text.len() as u32 });
        self.arena.push_str(text);
        self.table.insert_unique(whole(hash), Slot { hash, number }, |slot| whole(slot.hash));
        number
    }
}
