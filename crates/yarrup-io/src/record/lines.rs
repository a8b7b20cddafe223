//! Lines that wait to be written in their turn.

use std::io::{self, Read, Seek as _, Write};

use crate::record::members::write_text;
use crate::writing::Temporary;

/// How much of the lines waits in memory. Only those of documents that are far longer than others come to more.
const IN_MEMORY: usize = 64 << 20;
/// How well lines are packed, of the 22 levels of Zstandard: two more would pack 8 % better, and take a fifteenth of the time of a run.
const LEVEL: i32 = 1;
/// How much of a long text is written at a time.
const PIECE: usize = 1 << 20;

/// Lines that wait to be written in their turn: in memory, and where a document is very long, in a temporary file.
#[derive(Debug, Default)]
pub struct Lines {
    pub(super) bytes: Vec<u8>,
    put_aside: Option<Temporary>,
    /// How many bytes were put aside.
    aside: u64,
}

impl Lines {
    /// No lines yet, in memory that was used before.
    pub(crate) fn taking(mut bytes: Vec<u8>) -> Lines {
        bytes.clear();
        Lines { bytes, ..Lines::default() }
    }

    /// How many bytes they have.
    pub fn bytes(&self) -> u64 {
        self.aside + self.bytes.len() as u64
    }

    /// Adds so many bytes of `lines`.
    ///
    /// # Errors
    ///
    /// If they cannot be read, or there are fewer.
    pub fn add_from(&mut self, lines: &mut impl Read, bytes: u64) -> io::Result<()> {
        let mut left = bytes;
        while left > 0 {
            let piece = left.min(PIECE as u64);
            if lines.by_ref().take(piece).read_to_end(&mut self.bytes)? as u64 != piece {
                return Err(io::ErrorKind::UnexpectedEof.into());
            }
            left -= piece;
            self.settle();
        }
        Ok(())
    }

    /// All of them, in memory.
    pub(crate) fn into_bytes(self) -> io::Result<Vec<u8>> {
        if self.put_aside.is_none() {
            return Ok(self.bytes);
        }
        let mut bytes = Vec::new();
        self.write_to(&mut bytes)?;
        Ok(bytes)
    }

    /// Makes room for so many bytes.
    pub fn reserve(&mut self, bytes: usize) {
        self.bytes.reserve(bytes.min(IN_MEMORY));
    }

    /// Writes a text as a JSON string.
    pub(super) fn text(&mut self, text: &str) {
        if text.len() <= PIECE {
            return write_text(text, &mut self.bytes);
        }
        self.bytes.push(b'"');
        let mut rest = text;
        while !rest.is_empty() {
            let (piece, behind) = rest.split_at(rest.floor_char_boundary(PIECE));
            rest = behind;
            // Between its quotes.
            let quote = self.bytes.len();
            write_text(piece, &mut self.bytes);
            self.bytes.pop();
            self.bytes.remove(quote);
            self.settle();
        }
        self.bytes.push(b'"');
    }

    /// Writes what is JSON already.
    pub(super) fn json(&mut self, json: &str) {
        for piece in json.as_bytes().chunks(PIECE) {
            self.bytes.extend_from_slice(piece);
            self.settle();
        }
    }

    /// Puts aside what is more than memory should hold.
    fn settle(&mut self) {
        if self.bytes.len() < IN_MEMORY {
            return;
        }
        let file = match &mut self.put_aside {
            Some(file) => file,
            None => match Temporary::new() {
                Ok(file) => self.put_aside.insert(file),
                // Where there is no room aside, memory must do.
                Err(_) => return,
            },
        };
        let before = file.file().stream_position().unwrap_or_default();
        match file.file().write_all(&self.bytes) {
            Ok(()) => {
                self.aside += self.bytes.len() as u64;
                self.bytes.clear();
            }
            Err(_) => {
                // What was written of it is written again where it is read.
                let _ =
                    file.file().set_len(before).and_then(|()| file.file().seek(io::SeekFrom::Start(before)));
            }
        }
    }

    /// The same lines, packed as a frame of Zstandard: a file may be many such frames.
    ///
    /// # Errors
    ///
    /// If they cannot be packed, or what was put aside cannot be had back.
    pub fn packed(self) -> io::Result<Lines> {
        let mut packing = zstd::Encoder::new(Vec::with_capacity(self.bytes.len() / 2), LEVEL)?;
        self.write_to(&mut packing)?;
        Ok(Lines { bytes: packing.finish()?, ..Lines::default() })
    }

    /// Writes them.
    ///
    /// # Errors
    ///
    /// If the writer fails, or what was put aside cannot be had back.
    pub fn write_to(self, out: &mut impl Write) -> io::Result<()> {
        if let Some(mut file) = self.put_aside {
            file.file().rewind()?;
            io::copy(file.file(), out)?;
        }
        out.write_all(&self.bytes)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn long_texts_are_written_as_short_ones() {
        let text = "é\"\\\n".repeat(IN_MEMORY / 4);
        let mut lines = Lines::default();
        lines.text(&text);
        lines.json("[1]");
        assert!(lines.put_aside.is_some() && lines.bytes.len() < IN_MEMORY);
        let count = lines.bytes();
        let mut written = Vec::new();
        lines.write_to(&mut written).expect("written");
        let mut expected = Vec::new();
        write_text(&text, &mut expected);
        expected.extend_from_slice(b"[1]");
        assert!(written == expected && count == expected.len() as u64);
        let mut again = Lines::default();
        again.add_from(&mut written.as_slice(), count).expect("as many");
        assert!(again.put_aside.is_some() && again.into_bytes().is_ok_and(|bytes| bytes == expected));
        assert!(Lines::default().add_from(&mut written.as_slice(), count + 1).is_err());
    }
}
