//! Sixty-four bytes of text, compared at once.
//!
//! What would be a loop over bytes is a few operations on whole numbers then, and does not depend on how long each word is, which no processor can
//! foresee. The idea of telling bytes by comparing many at a time and taking the results as the bits of a number is that of Langdale and Lemire,
//! Parsing Gigabytes of JSON per Second (2019), section 3.

use wide::u8x16;

/// How many bytes are looked at in one go: as many as a number has bits.
pub(crate) const WINDOW: usize = 64;

/// A stretch of a text. What is told of it is a bit for each byte, the first lowest. Behind the end of the text there are spaces.
#[derive(Clone, Copy, Debug)]
pub(crate) struct ManyBytes([u8x16; 4]);

impl ManyBytes {
    /// The bytes from `at` on.
    #[inline]
    pub(crate) fn of(bytes: &[u8], at: usize) -> ManyBytes {
        let rest = bytes.get(at..).unwrap_or_default();
        if let Some(window) = rest.first_chunk::<WINDOW>() {
            return ManyBytes::all_of(window);
        }
        let mut filled = [b' '; WINDOW];
        filled[..rest.len()].copy_from_slice(rest);
        ManyBytes::all_of(&filled)
    }

    #[inline(always)]
    fn all_of(window: &[u8; WINDOW]) -> ManyBytes {
        let mut lanes = [u8x16::ZERO; 4];
        for (lane, sixteen) in lanes.iter_mut().zip(window.as_chunks::<16>().0) {
            *lane = u8x16::new(*sixteen);
        }
        ManyBytes(lanes)
    }

    #[inline(always)]
    fn bits(self, found: impl Fn(u8x16) -> u8x16) -> u64 {
        // Written out: the compiler leaves a call for each lane of a mapped array.
        let [a, b, c, d] = self.0;
        let bits = |lane: u8x16| u64::from(found(lane).to_bitmask() as u16);
        bits(a) | bits(b) << 16 | bits(c) << 32 | bits(d) << 48
    }

    /// Bytes of characters beyond ASCII.
    #[inline(always)]
    pub(crate) fn beyond_ascii(self) -> u64 {
        self.bits(|lane| lane)
    }

    /// Which bytes are one of these.
    #[inline(always)]
    pub(crate) fn any<const N: usize>(self, those: [u8; N]) -> u64 {
        self.bits(|lane| {
            let mut found = u8x16::ZERO;
            for byte in those {
                found |= lane.simd_eq(u8x16::splat(byte));
            }
            found
        })
    }

    /// Which bytes are between these.
    #[inline(always)]
    pub(crate) fn within(self, least: u8, most: u8) -> u64 {
        self.bits(|lane| lane.max(u8x16::splat(least)).min(u8x16::splat(most)).simd_eq(lane))
    }

    /// Letters of ASCII.
    #[inline(always)]
    pub(crate) fn letters(self) -> u64 {
        // Without the bit that tells capitals from small letters.
        self.bits(|lane| {
            let small = lane | u8x16::splat(0x20);
            small.max(u8x16::splat(b'a')).min(u8x16::splat(b'z')).simd_eq(small)
        })
    }

    /// Spaces and control characters of ASCII.
    #[inline(always)]
    pub(crate) fn spaces(self) -> u64 {
        self.within(0, b' ') | self.any([0x7f])
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn many_bytes_are_told_as_one_is() {
        for byte in 0..=255u8 {
            for place in 0..WINDOW {
                let mut bytes = [b'a'; WINDOW + 1];
                bytes[place + 1] = byte;
                let many = ManyBytes::of(&bytes, 1);
                let told = |bits: u64| bits >> place & 1 == 1;
                assert_eq!(told(many.beyond_ascii()), !byte.is_ascii(), "{byte:#x} at {place}");
                assert_eq!(told(many.letters()), byte.is_ascii_alphabetic(), "{byte:#x} at {place}");
                assert_eq!(told(many.within(b'0', b'9')), byte.is_ascii_digit(), "{byte:#x} at {place}");
                assert_eq!(told(many.spaces()), byte <= b' ' || byte == 0x7f, "{byte:#x} at {place}");
                assert_eq!(told(many.any(*b".'")), byte == b'.' || byte == b'\'', "{byte:#x} at {place}");
                assert_eq!(many.letters() | 1 << place, u64::MAX, "{byte:#x} at {place}");
            }
        }
    }

    #[test]
    fn behind_the_text_there_are_spaces() {
        assert_eq!(ManyBytes::of(b"nest", 2).spaces(), !0b11);
        assert_eq!(ManyBytes::of(b"nest", 4).spaces(), u64::MAX);
    }
}
