//! How text is written in bytes: which encoding a source has, and its way to UTF-8.

use std::borrow::Cow;
use std::cell::Cell;
use std::io::{self, Read};
use std::rc::Rc;

use chardetng::{EncodingDetector, Iso2022JpDetection, Utf8Detection};
use encoding_rs::{Decoder, DecoderResult, Encoding, UTF_8, UTF_16BE, UTF_16LE};

/// In how many bytes of its start a text states its encoding.
const STATED_IN: usize = 2048;

/// Text with every broken sequence replaced by U+FFFD, and how many bytes were broken.
pub(crate) fn repaired(bytes: &[u8]) -> (Cow<'_, str>, u64) {
    match std::str::from_utf8(bytes) {
        Ok(text) => (Cow::Borrowed(text), 0),
        Err(_) => {
            let broken = bytes.utf8_chunks().map(|chunk| chunk.invalid().len() as u64).sum();
            (Cow::Owned(String::from_utf8_lossy(bytes).into_owned()), broken)
        }
    }
}

/// As [`repaired`], of bytes that are no longer needed.
pub(crate) fn into_text(bytes: Vec<u8>) -> (String, u64) {
    String::from_utf8(bytes).map_or_else(
        |error| {
            let (text, broken) = repaired(error.as_bytes());
            (text.into_owned(), broken)
        },
        |text| (text, 0),
    )
}

/// Whether a text that starts like this is written in UTF-32, which nothing here reads: in that of its marks, or in which of four bytes three are
/// zero.
pub(crate) fn is_utf_32(start: &[u8]) -> bool {
    if start.starts_with(b"\xff\xfe\0\0") || start.starts_with(b"\0\0\xfe\xff") {
        return true;
    }
    let letters = || start[..start.len().min(64)].chunks_exact(4);
    let is = |low: usize, zero: [usize; 3]| {
        letters().all(|bytes| {
            matches!(bytes[low], b'\t' | b'\n' | b'\r' | b' '..=b'~') && zero.iter().all(|&at| bytes[at] == 0)
        })
    };
    letters().len() >= 4 && (is(0, [1, 2, 3]) || is(3, [0, 1, 2]))
}

/// The encoding of a text that starts like this; none if it is no text. A start of ASCII alone passes for UTF-8.
pub(crate) fn of_start(start: &[u8]) -> Option<&'static Encoding> {
    if let Some((encoding, _)) = Encoding::for_bom(start) {
        return Some(encoding);
    }
    if let Some(encoding) = utf_16_without_mark(start) {
        return Some(encoding);
    }
    if !may_be_text(start) {
        return None;
    }
    let (mut letters, mut broken) = (0, 0);
    let mut chunks = start.utf8_chunks().peekable();
    while let Some(chunk) = chunks.next() {
        letters += chunk.valid().bytes().filter(|byte| *byte >= 0xc0).count();
        // What the end of the window cuts in two is not broken.
        let cut = chunks.peek().is_none() && chunk.invalid().len() < 4 && starts_a_letter(chunk.invalid());
        broken += usize::from(!chunk.invalid().is_empty() && !cut);
    }
    // A text in UTF-8 with some damage is still one.
    if broken == 0 || letters >= broken {
        return Some(UTF_8);
    }
    let mut detector = EncodingDetector::new(Iso2022JpDetection::Deny);
    detector.feed(start, true);
    Some(detector.guess(None, Utf8Detection::Deny))
}

/// The encoding that a text itself states, unless a mark or UTF-8 letters show another. `label` finds its name in how the text starts.
pub(crate) fn stated(start: &[u8], label: impl FnOnce(&str) -> Option<String>) -> Option<&'static Encoding> {
    if Encoding::for_bom(start).is_some() || (!start.is_ascii() && std::str::from_utf8(start).is_ok()) {
        return None;
    }
    let label = label(&String::from_utf8_lossy(&start[..start.len().min(STATED_IN)]))?;
    // What can be read so far is not in UTF-16, whatever it states.
    Encoding::for_label(label.as_bytes()).filter(|encoding| encoding.is_ascii_compatible())
}

/// Whether so many control characters may stand in a text. They are dirt where letters stand between them, and letters struck over have a
/// backspace each; but a byte of zero, or what is no UTF-8 beside them, speaks for something else.
fn may_be_text(start: &[u8]) -> bool {
    let odd = start.iter().filter(|byte| matches!(byte, 0..=7 | 14..=26 | 28..=31)).count();
    let is_utf_8 =
        start.utf8_chunks().all(|chunk| chunk.invalid().is_empty() || starts_a_letter(chunk.invalid()));
    let share = match (start.contains(&0), is_utf_8) {
        (true, _) => 50,
        (false, false) => 20,
        (false, true) => 4,
    };
    odd <= 3 || odd * share <= start.len()
}

fn starts_a_letter(bytes: &[u8]) -> bool {
    matches!(bytes.first(), Some(0xc2..=0xf4)) && bytes[1..].iter().all(|byte| (0x80..0xc0).contains(byte))
}

/// Every second byte is zero in UTF-16 where the letters are Latin.
fn utf_16_without_mark(start: &[u8]) -> Option<&'static Encoding> {
    let start = &start[..start.len().min(4096) & !1];
    if start.len() < 8 {
        return None;
    }
    let zeros = |first: usize| start.iter().skip(first).step_by(2).filter(|byte| **byte == 0).count();
    let (even, odd, pairs) = (zeros(0), zeros(1), start.len() / 2);
    match () {
        () if odd * 10 > pairs * 4 && even * 50 < pairs => Some(UTF_16LE),
        () if even * 10 > pairs * 4 && odd * 50 < pairs => Some(UTF_16BE),
        () => None,
    }
}

/// UTF-8 out of another encoding, as it is read. Counts the places where it had to put U+FFFD.
pub(crate) struct Decoded<R> {
    reader: R,
    decoder: Decoder,
    raw: Vec<u8>,
    /// What of `raw` is not decoded yet.
    rest: std::ops::Range<usize>,
    text: Vec<u8>,
    given: usize,
    ended: bool,
    pub(crate) replaced: Rc<Cell<u64>>,
}

const PIECE: usize = 1 << 15;

impl<R: Read> Decoded<R> {
    pub(crate) fn new(reader: R, encoding: &'static Encoding, replaced: Rc<Cell<u64>>) -> Decoded<R> {
        Decoded {
            reader,
            decoder: encoding.new_decoder_with_bom_removal(),
            raw: vec![0; PIECE],
            rest: 0..0,
            text: Vec::new(),
            given: 0,
            ended: false,
            replaced,
        }
    }

    fn fill(&mut self) -> io::Result<()> {
        self.text.clear();
        self.given = 0;
        while self.text.is_empty() && !self.ended {
            if self.rest.is_empty() {
                let count = self.reader.read(&mut self.raw)?;
                self.rest = 0..count;
            }
            let last = self.rest.is_empty();
            self.text.resize(PIECE * 3 + 16, 0);
            let (result, read, written) = self.decoder.decode_to_utf8_without_replacement(
                &self.raw[self.rest.clone()],
                &mut self.text,
                last,
            );
            self.text.truncate(written);
            self.rest.start += read;
            match result {
                DecoderResult::Malformed(..) => {
                    self.text.extend_from_slice("\u{fffd}".as_bytes());
                    self.replaced.set(self.replaced.get() + 1);
                }
                DecoderResult::InputEmpty => self.ended = last,
                DecoderResult::OutputFull => {}
            }
        }
        Ok(())
    }
}

impl<R: Read> Read for Decoded<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if self.given == self.text.len() {
            self.fill()?;
        }
        let count = buffer.len().min(self.text.len() - self.given);
        buffer[..count].copy_from_slice(&self.text[self.given..self.given + count]);
        self.given += count;
        Ok(count)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn encodings_are_told_by_content() {
        let latin = b"Die V\xf6gel \xfcber der Bucht sind sch\xf6n, und f\xfcr K\xfcken ist es zu fr\xfch.";
        let utf_16: Vec<u8> = "terns over the spit\n".encode_utf16().flat_map(u16::to_le_bytes).collect();
        let with_mark: Vec<u8> =
            [&b"\xfe\xff"[..], &"té".encode_utf16().flat_map(u16::to_be_bytes).collect::<Vec<_>>()].concat();
        for (bytes, expected) in [
            (&b"plain"[..], Some("UTF-8")),
            ("é".repeat(9).as_bytes(), Some("UTF-8")),
            // Damage in a text that is UTF-8, and a letter that the window cuts.
            (b"caf\xc3\xa9 \xc3\xa9t\xc3\xa9 \xff", Some("UTF-8")),
            (b"terns at the caf\xc3", Some("UTF-8")),
            (latin, Some("windows-1252")),
            (&utf_16, Some("UTF-16LE")),
            (&with_mark, Some("UTF-16BE")),
            (b"\x00\x01\x02\x03\x04\x05binary", None),
            // Controls that mark something, and letters that are struck over.
            (b"\x01Terns\x02 and \x01gulls\x02 nest here, says the warden.", Some("UTF-8")),
            (b"N\x08NA\x08AM\x08ME\x08E\n_\x08t_\x08e_\x08r_\x08n", Some("UTF-8")),
            (b"\x01\x02\x03\x04\x05\x06 a", None),
            (b"\x01\x02\x03\x04\xff\xfe\x05 tern tern tern tern tern", None),
        ] {
            assert_eq!(of_start(bytes).map(Encoding::name), expected, "{bytes:?}");
        }
    }

    #[test]
    fn decoding_gives_all_and_counts_what_it_replaced() {
        let text = "Vögel ".repeat(20_000);
        let (latin, ..) = encoding_rs::WINDOWS_1252.encode(&text);
        let replaced = Rc::new(Cell::new(0));
        let mut decoded = String::new();
        Decoded::new(&*latin, encoding_rs::WINDOWS_1252, replaced.clone())
            .read_to_string(&mut decoded)
            .expect("readable");
        assert_eq!(decoded, text);
        assert_eq!(replaced.get(), 0);
        let lone: Vec<u8> = [0x61u16, 0xd83d, 0x7a].into_iter().flat_map(u16::to_le_bytes).collect();
        let mut decoded = String::new();
        Decoded::new(&*lone, UTF_16LE, replaced.clone()).read_to_string(&mut decoded).expect("readable");
        assert_eq!(decoded, "a\u{fffd}z");
        assert_eq!(replaced.get(), 1);
    }

    proptest! {
        #[test]
        fn decoding_is_the_way_back(text in "[a-zé€\u{1f426}\u{fffd} \n]{0,40}", step in 1usize..9, big: bool) {
            struct Trickle<'a>(&'a [u8], usize);
            impl Read for Trickle<'_> {
                fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
                    let count = self.1.min(buffer.len()).min(self.0.len());
                    buffer[..count].copy_from_slice(&self.0[..count]);
                    self.0 = &self.0[count..];
                    Ok(count)
                }
            }
            let units = text.encode_utf16();
            let bytes: Vec<u8> =
                if big { units.flat_map(u16::to_be_bytes).collect() } else { units.flat_map(u16::to_le_bytes).collect() };
            let encoding = if big { UTF_16BE } else { UTF_16LE };
            let (mut decoded, replaced) = (String::new(), Rc::new(Cell::new(0)));
            Decoded::new(Trickle(&bytes, step), encoding, replaced.clone()).read_to_string(&mut decoded).expect("readable");
            prop_assert_eq!(decoded, text);
            prop_assert_eq!(replaced.get(), 0);
        }
    }

    #[test]
    fn broken_bytes_are_replaced_and_counted() {
        assert_eq!(repaired(b"caf\xc3\xa9"), (Cow::Borrowed("caf\u{e9}"), 0));
        assert_eq!(repaired(b"a\xe9b\xff\xfe"), (Cow::Owned("a\u{fffd}b\u{fffd}\u{fffd}".into()), 3));
    }
}
