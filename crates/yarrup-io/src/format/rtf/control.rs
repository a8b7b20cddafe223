//! What Rich Text Format is made of: groups, control words, and text between them.

/// A piece of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Piece<'f> {
    /// `{`
    Open,
    /// `}`
    Close,
    /// A control word, and the number behind it.
    Word(&'f str, Option<i32>),
    /// A control symbol: a backslash and a mark.
    Symbol(u8),
    /// A byte of text.
    Byte(u8),
}

/// Goes over the pieces of a file.
#[derive(Debug)]
pub(super) struct Pieces<'f> {
    bytes: &'f [u8],
    at: usize,
}

/// The longest control word, and the longest number behind one.
const LONGEST_WORD: usize = 32;
const LONGEST_NUMBER: usize = 10;

impl<'f> Pieces<'f> {
    pub(super) fn of(bytes: &'f [u8]) -> Pieces<'f> {
        Pieces { bytes, at: 0 }
    }

    /// Passes over bytes that are no text, such as those of a picture.
    pub(super) fn pass(&mut self, bytes: usize) {
        self.at = self.at.saturating_add(bytes).min(self.bytes.len());
    }

    /// Two hexadecimal digits, as they stand behind `\'`.
    pub(super) fn hex(&mut self) -> Option<u8> {
        let digits = std::str::from_utf8(self.bytes.get(self.at..self.at + 2)?).ok()?;
        let byte = u8::from_str_radix(digits, 16).ok()?;
        self.at += 2;
        Some(byte)
    }

    fn control(&mut self) -> Option<Piece<'f>> {
        let rest = self.bytes.get(self.at..)?;
        let letters = rest.iter().take(LONGEST_WORD).take_while(|byte| byte.is_ascii_alphabetic()).count();
        if letters == 0 {
            let symbol = *rest.first()?;
            self.at += 1;
            return Some(Piece::Symbol(symbol));
        }
        let word = std::str::from_utf8(&rest[..letters]).unwrap_or_default();
        let sign = usize::from(rest.get(letters) == Some(&b'-'));
        let digits = rest[letters + sign..]
            .iter()
            .take(LONGEST_NUMBER)
            .take_while(|byte| byte.is_ascii_digit())
            .count();
        let mut length = letters;
        let mut number = None;
        if digits > 0 {
            let written = std::str::from_utf8(&rest[letters..letters + sign + digits]).unwrap_or_default();
            number = written.parse().ok();
            length += sign + digits;
        }
        // One space behind a word belongs to it.
        length += usize::from(rest.get(length) == Some(&b' '));
        self.at += length;
        Some(Piece::Word(word, number))
    }
}

impl<'f> Iterator for Pieces<'f> {
    type Item = Piece<'f>;

    fn next(&mut self) -> Option<Piece<'f>> {
        loop {
            let byte = *self.bytes.get(self.at)?;
            self.at += 1;
            return match byte {
                b'{' => Some(Piece::Open),
                b'}' => Some(Piece::Close),
                b'\\' => self.control(),
                // Lines of the file are no lines of the text.
                b'\r' | b'\n' | 0 => continue,
                other => Some(Piece::Byte(other)),
            };
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pieces_are_told_apart() {
        let pieces: Vec<_> = Pieces::of(b"{\\b0 a\r\n\\li-720x\\~\\u8364?\\'e4}\\").collect();
        assert_eq!(
            pieces,
            [
                Piece::Open,
                Piece::Word("b", Some(0)),
                Piece::Byte(b'a'),
                Piece::Word("li", Some(-720)),
                Piece::Byte(b'x'),
                Piece::Symbol(b'~'),
                Piece::Word("u", Some(8364)),
                Piece::Byte(b'?'),
                Piece::Symbol(b'\''),
                Piece::Byte(b'e'),
                Piece::Byte(b'4'),
                Piece::Close,
            ]
        );
        let mut pieces = Pieces::of(b"\\'E4\\'x");
        assert_eq!((pieces.next(), pieces.hex()), (Some(Piece::Symbol(b'\'')), Some(0xe4)));
        assert_eq!((pieces.next(), pieces.hex()), (Some(Piece::Symbol(b'\'')), None));
    }
}
