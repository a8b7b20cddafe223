//! A form as a tagger looks it up: in small letters, with what the lexicon knows of it, and as a number.

use crate::lemma::{Readings, english};
use crate::unicode::small_letters;

/// Which lexicon a tagger asks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Asked {
    Nothing,
    English,
}

impl Asked {
    /// What the lexicon knows of a word in small letters.
    pub(super) fn readings(self, small: &str) -> Readings {
        match self {
            Asked::English => english().readings(small.strip_suffix("'s").unwrap_or(small)),
            Asked::Nothing => Readings::default(),
        }
    }
}

/// A form with what is looked up of it once.
#[derive(Clone, Debug)]
pub(super) struct Form<'f> {
    pub(super) text: &'f str,
    /// In small letters, with one sort of apostrophe.
    pub(super) small: String,
    pub(super) asked: Asked,
    pub(super) readings: Readings,
}

impl<'f> Form<'f> {
    pub(super) fn new(text: &'f str, asked: Asked) -> Form<'f> {
        let small = small_letters(text);
        let readings = asked.readings(&small);
        Form { text, small, asked, readings }
    }

    /// The number of the form in small letters.
    pub(super) fn number(&self) -> u32 {
        text_number(&self.small)
    }
}

/// A number for a text.
pub(super) fn text_number(text: &str) -> u32 {
    let mut hash = 0x811c_9dc5u32;
    for byte in text.bytes() {
        hash = (hash ^ u32::from(byte)).wrapping_mul(0x0100_0193);
    }
    hash ^ hash >> 15
}
