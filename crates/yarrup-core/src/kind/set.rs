//! Sets of kinds.

use crate::kind::Kind;

/// A set of kinds.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct KindSet(u32);

impl KindSet {
    /// Every kind that the recogniser finds in text: all but words, marks, symbols and what is none of all.
    pub const FOUND: KindSet = KindSet(
        !(1 << Kind::Word as u32
            | 1 << Kind::Punctuation as u32
            | 1 << Kind::Symbol as u32
            | 1 << Kind::Other as u32),
    );

    /// The set of these kinds.
    pub fn of(kinds: &[Kind]) -> KindSet {
        KindSet(kinds.iter().fold(0, |set, &kind| set | 1 << kind as u32))
    }

    /// Whether the set holds `kind`.
    pub fn has(self, kind: Kind) -> bool {
        self.0 >> kind as u32 & 1 == 1
    }

    /// Whether the set holds nothing.
    pub fn is_empty(self) -> bool {
        self.0 == 0
    }
}
