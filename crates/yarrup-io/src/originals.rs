//! The documents of a run whose original texts stayed in their sources: both read side by side, and put together again.

use std::collections::HashSet;
use std::io::{self, Read};

use crate::documents::lines::{LineReader, Lines as WholeLines};
use crate::documents::{BATCH_BYTES, Batch, Holding};
use crate::record::{DocumentOutput, Item, Lines, behind_found};

/// Where the original texts come from.
pub(crate) trait Originals: Send {
    /// The next documents; none at the end.
    ///
    /// # Errors
    ///
    /// At the end, if they are not those that the run read.
    fn next(&mut self) -> io::Result<Option<Batch>>;
}

/// The documents of a run as they would stand in its file if the original texts had been copied.
pub(crate) struct WithOriginals {
    written: LineReader<Box<dyn Read + Send>>,
    /// Lines of the run's file that are still to be used, and how much of them was.
    lines: (Vec<u8>, usize),
    originals: Box<dyn Originals>,
    /// How many documents were taken from the sources.
    number: u64,
    /// The numbers of those that a step of the recipe left out, from 1.
    left_out: HashSet<u64>,
    /// How many lines of the run were used.
    used: u64,
    /// What a line of the run must hold to be wanted.
    holding: Holding,
    /// Whole documents, and how much of them was read.
    ready: (Vec<u8>, usize),
}

/// What is told where the sources do not fit the run.
pub(crate) const CHANGED: &str =
    "the original texts stayed in their sources, and these are not as the run read them; make the run again";

fn changed() -> io::Error {
    io::Error::other(CHANGED)
}

impl WithOriginals {
    pub(crate) fn new(
        written: Box<dyn Read + Send>,
        originals: Box<dyn Originals>,
        left_out: HashSet<u64>,
        holding: Holding,
    ) -> WithOriginals {
        WithOriginals {
            written: LineReader::new(written, false),
            lines: (Vec::new(), 0),
            originals,
            number: 0,
            left_out,
            used: 0,
            holding,
            ready: (Vec::new(), 0),
        }
    }

    /// Takes the next line of the run's file. Returns where it stands in `lines`.
    fn next_line(&mut self) -> io::Result<Option<(usize, usize)>> {
        while self.lines.1 >= self.lines.0.len() {
            match self.written.next(BATCH_BYTES)? {
                Some(WholeLines::Whole(_, bytes)) => self.lines = (bytes, 0),
                Some(WholeLines::TooLong(_)) => return Err(changed()),
                None => return Ok(None),
            }
        }
        let start = self.lines.1;
        let rest = &self.lines.0[start..];
        let end = memchr::memchr(b'\n', rest).map_or(self.lines.0.len(), |length| start + length + 1);
        self.lines.1 = end;
        Ok(Some((start, end)))
    }

    /// Makes more documents ready. False at the end.
    fn fill(&mut self) -> io::Result<bool> {
        let Some(batch) = self.originals.next()? else {
            return if self.next_line()?.is_some() { Err(changed()) } else { Ok(false) };
        };
        let mut made = Lines::taking(std::mem::take(&mut self.ready.0));
        batch.records(|item| {
            let Item::Document(record) = item else { return Ok(()) };
            self.number += 1;
            if self.left_out.contains(&self.number) {
                return Ok(());
            }
            let (start, end) = self.next_line()?.ok_or_else(changed)?;
            let line = &self.lines.0[start..end];
            self.used += 1;
            if self.holding.takes_line(self.used)
                && self.holding.needles().iter().all(|needle| needle.find(line).is_some())
            {
                let behind = behind_found(line).ok_or_else(changed)?;
                DocumentOutput::default().write_again(&record, behind, &mut made);
            }
            Ok::<(), io::Error>(())
        })?;
        self.ready = (made.into_bytes()?, 0);
        Ok(true)
    }
}

impl Read for WithOriginals {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        while self.ready.1 >= self.ready.0.len() {
            self.ready.0.clear();
            if !self.fill()? {
                return Ok(0);
            }
        }
        let rest = &self.ready.0[self.ready.1..];
        let count = rest.len().min(buffer.len());
        buffer[..count].copy_from_slice(&rest[..count]);
        self.ready.1 += count;
        Ok(count)
    }
}
