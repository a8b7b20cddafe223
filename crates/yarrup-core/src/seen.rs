//! What was seen of documents, as plain data that can be kept and taken up again.

use serde::{Deserialize, Serialize};

/// What was seen, as plain data: what it means is known to whoever has seen it.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Seen {
    pub(crate) texts: Vec<String>,
    pub(crate) numbers: Vec<u64>,
    pub(crate) bytes: Vec<u8>,
}

impl Seen {
    /// Takes it out again, in the order in which it was put in.
    pub(crate) fn read(self) -> SeenReader {
        let Seen { texts, numbers, bytes } = self;
        SeenReader { texts: texts.into_iter(), numbers: numbers.into_iter(), bytes }
    }
}

/// Takes out what was seen. What was read from a file may be anything.
pub(crate) struct SeenReader {
    texts: std::vec::IntoIter<String>,
    numbers: std::vec::IntoIter<u64>,
    bytes: Vec<u8>,
}

impl SeenReader {
    pub(crate) fn text(&mut self) -> Option<String> {
        self.texts.next()
    }

    pub(crate) fn number(&mut self) -> Option<u64> {
        self.numbers.next()
    }

    /// A number of 32 bits.
    pub(crate) fn small(&mut self) -> Option<u32> {
        u32::try_from(self.number()?).ok()
    }

    /// A number that was put in as its upper and its lower half.
    pub(crate) fn wide(&mut self) -> Option<u128> {
        Some(u128::from(self.number()?) << 64 | u128::from(self.number()?))
    }

    /// So many of something, as `one` takes it out.
    pub(crate) fn many<T>(&mut self, one: impl Fn(&mut SeenReader) -> Option<T>) -> Option<Vec<T>> {
        let count = self.number()?;
        // No more are made room for than there can be.
        (0..count).map(|_| one(self)).collect()
    }

    pub(crate) fn bytes(&mut self) -> Vec<u8> {
        std::mem::take(&mut self.bytes)
    }

    /// Whether nothing is left.
    pub(crate) fn is_empty(&self) -> bool {
        self.texts.len() == 0 && self.numbers.len() == 0 && self.bytes.is_empty()
    }
}

/// The halves of a wide number.
pub(crate) fn halves(number: u128) -> [u64; 2] {
    [(number >> 64) as u64, number as u64]
}
