//! Whole lines of an input, in batches.

use std::borrow::Cow;
use std::io::{self, Read};

use memchr::memmem::Finder;

use crate::encoding::repaired;

/// Whole lines of a source, a batch at a time.
pub(crate) struct LineReader<R> {
    reader: R,
    rest: Vec<u8>,
    line: u64,
    ended: bool,
    /// The most bytes that a line may have.
    longest: usize,
    /// Whether a batch ends with what is there to read, so that a program at the other end of a pipe is answered at once.
    at_once: bool,
}

/// What a [`LineReader`] gives.
#[derive(Debug, PartialEq, Eq)]
pub(crate) enum Lines {
    /// Whole lines, and the number of the first.
    Whole(u64, Vec<u8>),
    /// The number of a line that is too long, and was passed over.
    TooLong(u64),
}

impl<R: Read> LineReader<R> {
    /// A reader whose batches are of like sizes, however the input comes; unless each is to be what is there to read, so that a program at the other
    /// end of a pipe is answered at once.
    pub(crate) fn new(reader: R, at_once: bool) -> LineReader<R> {
        let longest = yarrup_core::LONGEST_DOCUMENT;
        LineReader { reader, rest: Vec::new(), line: 1, ended: false, longest, at_once }
    }

    /// The next lines, some `batch_bytes` of them.
    pub(crate) fn next(&mut self, batch_bytes: usize) -> io::Result<Option<Lines>> {
        let mut bytes = std::mem::take(&mut self.rest);
        // What came behind a line that was passed over.
        let whole = memchr::memrchr(b'\n', &bytes).filter(|_| self.at_once);
        if let Some(last) = whole {
            self.rest = bytes.split_off(last + 1);
        }
        // How much is read depends on what is there to read, but not where a batch ends.
        let mut full = bytes.len() + batch_bytes;
        while !self.ended && whole.is_none() {
            let filled = bytes.len();
            bytes.resize(full, 0);
            let count = self.reader.read(&mut bytes[filled..]);
            bytes.truncate(filled + *count.as_ref().unwrap_or(&0));
            let is_damaged = count.is_err();
            match count {
                Ok(count) => self.ended = count == 0,
                // Whole lines that came before the end of a damaged source are given first.
                Err(_) if memchr::memrchr(b'\n', &bytes).is_some() => {}
                Err(error) => return Err(error),
            }
            if !self.at_once && !is_damaged && !self.ended && bytes.len() < full {
                continue;
            }
            full += batch_bytes;
            let new = if self.at_once { filled } else { 0 };
            if let Some(last) = memchr::memrchr(b'\n', &bytes[new..]) {
                self.rest = bytes.split_off(new + last + 1);
                break;
            }
            if bytes.len() > self.longest {
                return self.pass_over_line(bytes).map(Some);
            }
        }
        if bytes.is_empty() {
            return Ok(None);
        }
        let first = self.line;
        self.line += memchr::memchr_iter(b'\n', &bytes).count() as u64;
        Ok(Some(Lines::Whole(first, bytes)))
    }

    fn pass_over_line(&mut self, mut bytes: Vec<u8>) -> io::Result<Lines> {
        bytes.truncate(1 << 16);
        bytes.shrink_to_fit();
        bytes.resize(1 << 16, 0);
        while !self.ended {
            let count = self.reader.read(&mut bytes)?;
            self.ended = count == 0;
            if let Some(end) = memchr::memchr(b'\n', &bytes[..count]) {
                self.rest = bytes[end + 1..count].to_vec();
                break;
            }
        }
        self.line += 1;
        Ok(Lines::TooLong(self.line - 1))
    }
}

/// Why a line is passed over.
pub(crate) const TOO_LONG: &str = "the line is longer than one GiB, too long for a document";

/// Gives every line, and blank ones if asked for, with its number and the count of bytes that had to be replaced.
pub(crate) fn each_line<E>(
    bytes: &[u8],
    (first_line, blank_lines): (u64, bool),
    mut visit: impl FnMut(u64, &str, u64) -> Result<(), E>,
) -> Result<(), E> {
    // Valid as a whole, as nearly every batch is: one check for all lines.
    let whole = std::str::from_utf8(bytes).ok();
    let mut at = 0;
    for line in first_line.. {
        if at >= bytes.len() {
            break;
        }
        let end = memchr::memchr(b'\n', &bytes[at..]).map_or(bytes.len(), |length| at + length);
        let (text, broken) = match whole {
            Some(whole) => (Cow::Borrowed(&whole[at..end]), 0),
            None => repaired(&bytes[at..end]),
        };
        at = end + 1;
        let text = text.strip_suffix('\r').unwrap_or(&text);
        if blank_lines || !text.trim_ascii().is_empty() {
            visit(line, text, broken)?;
        }
    }
    Ok(())
}

/// The lines that hold all of the needles, each with its number. The others are not even parted.
pub(crate) fn lines_holding<'b>(
    bytes: &'b [u8],
    first_line: u64,
    needles: &'b [Finder<'static>],
) -> impl Iterator<Item = (u64, &'b [u8])> {
    let (mut at, mut line, mut counted) = (0, first_line, 0);
    std::iter::from_fn(move || {
        let (first, others) = needles.split_first()?;
        while let Some(found) = first.find(bytes.get(at..)?) {
            let start = memchr::memrchr(b'\n', &bytes[..at + found]).map_or(0, |end| end + 1);
            let end = memchr::memchr(b'\n', &bytes[at + found..]).map_or(bytes.len(), |end| at + found + end);
            at = end + 1;
            let text = &bytes[start..end];
            if others.iter().all(|other| other.find(text).is_some()) {
                line += memchr::memchr_iter(b'\n', &bytes[counted..start]).count() as u64;
                counted = start;
                return Some((line, text));
            }
        }
        None
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Gives a few bytes at a time, as a pipe may.
    struct Trickle {
        content: Vec<u8>,
        at: usize,
        step: usize,
    }

    impl Read for Trickle {
        fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
            let count = self.step.min(buffer.len()).min(self.content.len() - self.at);
            buffer[..count].copy_from_slice(&self.content[self.at..self.at + count]);
            self.at += count;
            Ok(count)
        }
    }

    proptest! {
        #[test]
        fn lines_are_whole_and_numbered_however_they_arrive(
            text in "[ab\u{e9}\r\n ]{0,60}",
            step in 1usize..9,
            batch_bytes in 1usize..20,
            at_once: bool,
        ) {
            let trickle = Trickle { content: text.clone().into_bytes(), at: 0, step };
            let mut reader = LineReader::new(trickle, at_once);
            let mut found = Vec::new();
            while let Some(lines) = reader.next(batch_bytes).expect("readable") {
                let Lines::Whole(first, bytes) = lines else { panic!("no line is too long") };
                each_line::<()>(&bytes, (first, false), |line, text, broken| {
                    assert_eq!(broken, 0);
                    found.push((line, text.to_owned()));
                    Ok(())
                })
                .expect("no error");
            }
            let expected: Vec<_> = (1u64..)
                .zip(text.split('\n').map(|line| line.strip_suffix('\r').unwrap_or(line).to_owned()))
                .filter(|(_, line)| !line.trim_ascii().is_empty())
                .collect();
            prop_assert_eq!(found, expected);
        }
    }

    proptest! {
        #[test]
        fn batches_end_at_the_same_lines_however_they_arrive(
            text in "[ab\n]{0,60}",
            step in 1usize..70,
            batch_bytes in 1usize..20,
        ) {
            let batches = |step| {
                let trickle = Trickle { content: text.clone().into_bytes(), at: 0, step };
                let mut reader = LineReader::new(trickle, false);
                let mut batches = Vec::new();
                while let Some(Lines::Whole(_, bytes)) = reader.next(batch_bytes).expect("readable") {
                    batches.push(bytes);
                }
                batches
            };
            prop_assert_eq!(batches(step), batches(usize::MAX));
        }

        #[test]
        fn lines_that_hold_all_needles_are_those_that_a_look_at_each_finds(
            text in "[abc\n]{0,60}",
            needles in prop::collection::vec("[abc]{1,2}", 1..3),
        ) {
            let finders: Vec<_> = needles.iter().map(|needle| Finder::new(needle).into_owned()).collect();
            let found: Vec<_> = lines_holding(text.as_bytes(), 1, &finders).collect();
            let holds = |line: &&str| needles.iter().all(|needle| line.contains(needle.as_str()));
            let expected: Vec<_> = (1u64..).zip(text.split('\n')).filter(|(_, line)| holds(line))
                .map(|(number, line)| (number, line.as_bytes())).collect();
            prop_assert_eq!(found, expected);
        }
    }

    #[test]
    fn a_line_that_is_too_long_is_passed_over_alone() {
        let text = format!("one\n{}\nthree\n{}", "x".repeat(500), "y".repeat(500));
        for step in [7, 100, 5000] {
            let trickle = Trickle { content: text.clone().into_bytes(), at: 0, step };
            let mut reader = LineReader { longest: 64, ..LineReader::new(trickle, true) };
            let (mut whole, mut too_long) = (Vec::new(), Vec::new());
            while let Some(lines) = reader.next(16).expect("readable") {
                match lines {
                    Lines::Whole(first, bytes) => {
                        whole.push((first, String::from_utf8_lossy(&bytes).into_owned()));
                    }
                    Lines::TooLong(line) => too_long.push(line),
                }
            }
            assert_eq!(whole, [(1, "one\n".to_owned()), (3, "three\n".to_owned())], "{step}");
            assert_eq!(too_long, [2, 4], "{step}");
        }
    }
}
