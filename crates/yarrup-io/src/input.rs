//! An opened input: its bytes as they come, counted and hashed, and what cannot be read at all.

use std::collections::VecDeque;
use std::io::{self, Read};

use std::borrow::Cow;

use thiserror::Error;
use xxhash_rust::xxh3::Xxh3;

/// Why a source cannot be read.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum SourceError {
    /// The file or folder is not there or not readable.
    #[error("{place}: {why}")]
    Unreadable {
        /// What was asked for.
        place: String,
        /// The system's answer.
        why: io::Error,
    },
    /// The content is of a kind that is not read.
    #[error("{place}: {why}")]
    Unsupported {
        /// The source.
        place: String,
        /// What it looks like, and what to do.
        why: String,
    },
    /// A folder without a file that could be read.
    #[error("{place}: no text, CSV, TSV or JSON Lines file in this folder")]
    EmptyFolder {
        /// The folder.
        place: String,
    },
}

impl SourceError {
    pub(crate) fn unreadable(place: &str) -> impl FnOnce(io::Error) -> SourceError + '_ {
        |why| SourceError::Unreadable { place: place.to_owned(), why }
    }
}

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

const BYTE_ORDER_MARK: &[u8] = b"\xef\xbb\xbf";

pub(crate) fn without_mark(bytes: &[u8]) -> &[u8] {
    bytes.strip_prefix(BYTE_ORDER_MARK).unwrap_or(bytes)
}

/// Counts and hashes what is read, and leaves out a byte-order mark at the start.
pub(crate) struct Opened {
    reader: Box<dyn Read + Send>,
    /// Bytes that were read ahead to look at.
    ahead: VecDeque<u8>,
    pub(crate) bytes: u64,
    pub(crate) hash: Xxh3,
}

impl Opened {
    pub(crate) fn new(reader: Box<dyn Read + Send>) -> Opened {
        Opened { reader, ahead: VecDeque::new(), bytes: 0, hash: Xxh3::new() }
    }

    /// Reads ahead up to `most` bytes, or to the first line break if the source gives no more for now.
    pub(crate) fn look(&mut self, most: usize) -> io::Result<&[u8]> {
        let mut buffer = vec![0; most];
        while self.ahead.len() < most {
            let count = self.reader.read(&mut buffer[..most - self.ahead.len()])?;
            self.note(&buffer[..count]);
            self.ahead.extend(&buffer[..count]);
            if count == 0 || self.ahead.contains(&b'\n') {
                break;
            }
        }
        if self.ahead.make_contiguous().starts_with(BYTE_ORDER_MARK) {
            self.ahead.drain(..BYTE_ORDER_MARK.len());
        }
        Ok(self.ahead.make_contiguous())
    }

    fn note(&mut self, bytes: &[u8]) {
        self.bytes += bytes.len() as u64;
        self.hash.update(bytes);
    }
}

impl Read for Opened {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if !self.ahead.is_empty() {
            return self.ahead.read(buffer);
        }
        loop {
            match self.reader.read(buffer) {
                Ok(count) => {
                    self.note(&buffer[..count]);
                    return Ok(count);
                }
                Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
                Err(error) => return Err(error),
            }
        }
    }
}

/// Refuses what is no text of ours, by its first bytes.
pub(crate) fn refuse_binary(start: &[u8], name: &str) -> Result<(), SourceError> {
    let kind = match start {
        [0xff, 0xfe, ..] | [0xfe, 0xff, ..] => "UTF-16 text; convert it to UTF-8 first",
        [b'P', b'K', 3, 4, ..] => {
            "a zip archive (or an office document or book in one), which is not read yet"
        }
        [0x1f, 0x8b, ..] => "compressed by gzip, which is not read yet; unpack it first",
        [b'%', b'P', b'D', b'F', ..] => "a PDF, which is not read yet",
        _ if start.contains(&0) => "not text: it holds NUL bytes",
        _ => return Ok(()),
    };
    Err(SourceError::Unsupported { place: name.to_owned(), why: kind.to_owned() })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_mark_is_left_out_and_every_byte_is_counted() {
        let content: &[u8] = b"\xef\xbb\xbfid,text\n1,tern\n";
        let mut opened = Opened::new(Box::new(content));
        assert!(opened.look(64).expect("readable").starts_with(b"id,text"));
        let mut text = String::new();
        opened.read_to_string(&mut text).expect("readable");
        assert_eq!(text, "id,text\n1,tern\n");
        assert_eq!(opened.bytes, content.len() as u64);
        assert_eq!(opened.hash.digest128(), xxhash_rust::xxh3::xxh3_128(content));
    }

    #[test]
    fn broken_bytes_are_replaced_and_counted() {
        assert_eq!(repaired(b"caf\xc3\xa9"), (Cow::Borrowed("caf\u{e9}"), 0));
        assert_eq!(repaired(b"a\xe9b\xff\xfe"), (Cow::Owned("a\u{fffd}b\u{fffd}\u{fffd}".into()), 3));
    }
}
