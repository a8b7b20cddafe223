//! The classes of 64 bytes of text at a time, a bit for each.
//!
//! Splitters find words and marks of ASCII by operations on whole numbers, so that their work does not depend on how long each word is, which no
//! processor can foresee. The idea of telling bytes by comparing many at a time and taking the results as a number's bits is that of
//! Langdale and Lemire, Parsing Gigabytes of JSON per Second (2019), section 3.

use wide::i8x16;

/// How many bytes are looked at in one go: as many as a number has bits.
pub(super) const WINDOW: usize = 64;

/// The classes of the bytes of a stretch of text, a bit for each byte, the first lowest. Behind the end of the text there are spaces.
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
        let rest = bytes.get(at..).unwrap_or_default();
        if let Some(chunk) = rest.first_chunk::<WINDOW>() {
            return Window::classify(chunk);
        }
        let mut filled = [b' '; WINDOW];
        filled[..rest.len()].copy_from_slice(rest);
        Window::classify(&filled)
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

    #[inline]
    fn classify(bytes: &[u8; WINDOW]) -> Window {
        let all = |byte: u8| i8x16::splat(byte as i8);
        let bits = |found: i8x16| u64::from(found.to_bitmask() as u16);
        let mut window = Window::default();
        for (number, sixteen) in bytes.as_chunks::<16>().0.iter().enumerate() {
            let bytes = i8x16::new(sixteen.map(|byte| byte as i8));
            let is = |byte: u8| bytes.simd_eq(all(byte));
            // Bytes beyond ASCII are below zero here: in no range, and less than a space.
            let within = |bytes: i8x16, least: u8, most: u8| {
                bytes.simd_gt(all(least - 1)) & all(most + 1).simd_gt(bytes)
            };
            let beyond = bits(bytes);
            let low = bits(all(b'!').simd_gt(bytes)) & !beyond;
            let shift = 16 * number;
            window.letters |= bits(within(bytes | all(0x20), b'a', b'z')) << shift;
            window.digits |= bits(within(bytes, b'0', b'9')) << shift;
            window.joiners |= bits(is(b'_')) << shift;
            window.spaces |= (low | bits(is(0x7f))) << shift;
            window.beyond |= beyond << shift;
            window.stops |= bits(is(b'.') | is(b'\'')) << shift;
            window.colons |= bits(is(b':')) << shift;
            window.commas |= bits(is(b',') | is(b';')) << shift;
            window.signs |= bits(is(b'+') | is(b'-')) << shift;
        }
        window
    }

    /// What [`Window::classify`] gives, told one byte after the other.
    #[cfg(test)]
    fn byte_by_byte(bytes: &[u8; WINDOW]) -> Window {
        let bits = |is: fn(u8) -> bool| {
            bytes.iter().enumerate().fold(0, |bits, (at, byte)| bits | u64::from(is(*byte)) << at)
        };
        Window {
            letters: bits(|byte| byte.is_ascii_alphabetic()),
            digits: bits(|byte| byte.is_ascii_digit()),
            joiners: bits(|byte| byte == b'_'),
            spaces: bits(|byte| byte <= b' ' || byte == 0x7f),
            beyond: bits(|byte| byte >= 0x80),
            stops: bits(|byte| matches!(byte, b'.' | b'\'')),
            colons: bits(|byte| byte == b':'),
            commas: bits(|byte| matches!(byte, b',' | b';')),
            signs: bits(|byte| matches!(byte, b'+' | b'-')),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn many_bytes_are_told_as_one_is() {
        for byte in 0..=255u8 {
            for place in 0..WINDOW {
                let mut bytes = [b'a'; WINDOW];
                bytes[place] = byte;
                bytes[WINDOW - 1 - place] = byte;
                assert_eq!(Window::classify(&bytes), Window::byte_by_byte(&bytes), "{byte:#x} at {place}");
            }
        }
    }

    #[test]
    fn behind_the_text_there_are_spaces() {
        let window = Window::of(b"at e.g. 3,5", 3);
        assert_eq!(
            (window.words(), window.joining(), window.spaces),
            (0b1010_0101, 0b0100_0010, !0b1110_1111)
        );
        assert_eq!(Window::of(b"a", 1).spaces, u64::MAX);
    }
}
