//! Whole lines of an input, in batches.

use std::borrow::Cow;
use std::io::{self, Read};

use crate::input::{Opened, repaired};

/// Whole lines of a source, a batch at a time.
pub(crate) struct LineReader {
    pub(crate) opened: Opened,
    rest: Vec<u8>,
    line: u64,
    ended: bool,
}

impl LineReader {
    pub(crate) fn new(opened: Opened) -> LineReader {
        LineReader { opened, rest: Vec::new(), line: 1, ended: false }
    }

    /// The next lines and the number of the first, some `batch_bytes` of them. A batch ends with what is there to read, so that a program at the other
    /// end of a pipe is answered at once.
    pub(crate) fn next(&mut self, batch_bytes: usize) -> io::Result<Option<(u64, Vec<u8>)>> {
        let mut bytes = std::mem::take(&mut self.rest);
        while !self.ended {
            let filled = bytes.len();
            bytes.resize(filled + batch_bytes, 0);
            let count = self.opened.read(&mut bytes[filled..])?;
            bytes.truncate(filled + count);
            self.ended = count == 0;
            if let Some(last) = memchr::memrchr(b'\n', &bytes[filled..]) {
                self.rest = bytes.split_off(filled + last + 1);
                break;
            }
        }
        if bytes.is_empty() {
            return Ok(None);
        }
        let first = self.line;
        self.line += memchr::memchr_iter(b'\n', &bytes).count() as u64;
        Ok(Some((first, bytes)))
    }
}

/// Gives every line that is not blank, with its number and the count of bytes that had to be replaced.
pub(crate) fn each_line<E>(
    bytes: &[u8],
    first_line: u64,
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
        if !text.trim_ascii().is_empty() {
            visit(line, text, broken)?;
        }
    }
    Ok(())
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
        ) {
            let trickle = Trickle { content: text.clone().into_bytes(), at: 0, step };
            let mut reader = LineReader::new(Opened::new(Box::new(trickle)));
            let mut found = Vec::new();
            while let Some((first, bytes)) = reader.next(batch_bytes).expect("readable") {
                each_line::<()>(&bytes, first, |line, text, broken| {
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
}
