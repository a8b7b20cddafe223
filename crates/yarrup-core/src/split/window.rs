//! The classes of the bytes that Unicode's word boundaries tell apart in ASCII, a bit for each.

use crate::many_bytes::ManyBytes;

/// The classes of the bytes of a stretch of text: see [`ManyBytes`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Window {
    pub(super) letters: u64,
    pub(super) digits: u64,
    /// `_`.
    pub(super) joiners: u64,
    /// White space and control characters.
    pub(super) spaces: u64,
    /// Bytes of characters beyond ASCII.
    pub(super) beyond: u64,
    /// `.` and `'`, which may stand within words and numbers.
    pub(super) stops: u64,
    /// `:`, which may stand within words.
    pub(super) colons: u64,
    /// `,` and `;`, which may stand within numbers.
    pub(super) commas: u64,
    /// `+` and `-`.
    pub(super) signs: u64,
}

impl Window {
    /// The window that begins at `at`.
    #[inline]
    pub(super) fn of(bytes: &[u8], at: usize) -> Window {
        let bytes = ManyBytes::of(bytes, at);
        Window {
            letters: bytes.letters(),
            digits: bytes.within(b'0', b'9'),
            joiners: bytes.any([b'_']),
            spaces: bytes.spaces(),
            beyond: bytes.beyond_ascii(),
            stops: bytes.any(*b".'"),
            colons: bytes.any([b':']),
            commas: bytes.any(*b",;"),
            signs: bytes.any(*b"+-"),
        }
    }

    /// Letters, digits and `_`.
    #[inline]
    pub(super) fn words(&self) -> u64 {
        self.letters | self.digits | self.joiners
    }

    /// Marks that may stand within words or numbers.
    #[inline]
    pub(super) fn middles(&self) -> u64 {
        self.stops | self.colons | self.commas
    }

    /// Marks that stand between two letters or two digits and join them (Unicode Standard Annex #29, rules WB6, WB7, WB11 and WB12).
    #[inline]
    pub(super) fn joining(&self) -> u64 {
        let between = |class: u64| class << 1 & class >> 1;
        ((self.stops | self.colons) & between(self.letters))
            | ((self.stops | self.commas) & between(self.digits))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn marks_join_letters_or_digits() {
        let window = Window::of(b"at e.g. 3,5 a,b", 3);
        assert_eq!(window.joining(), 0b0100_0010);
        assert_eq!(window.words() & 0xff, 0b1010_0101);
        assert_eq!(window.middles(), 0b0100_0100_1010);
    }
}
