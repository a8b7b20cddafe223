//! `course.bin`: what a run noted on its way, batch by batch in the order of the collection. With the accounts and the documents of the parts of a
//! collection, it is all that is needed to tell what one run over the whole would have left behind.
//!
//! The file begins with [`MAGIC`] and the version of its layout (4 bytes, the lowest first). Behind them, compressed by Zstandard, each batch is a number
//! of bytes (4, the lowest first) and so many bytes of Postcard.

use std::io::{self, BufReader, ErrorKind, Read, Write};

use serde::{Deserialize, Serialize};
use yarrup_core::study::Firsts;

use crate::documents::BatchDone;
use crate::documents::done::later;

/// The name of the file in a run folder.
pub const COURSE_FILE: &str = "course.bin";

const MAGIC: &[u8; 16] = b"yarrup course\r\n\0";
/// The version of the layout. It grows with every change of what is noted of a batch.
const VERSION: u32 = 1;
/// Faster is hardly larger.
const LEVEL: i32 = 1;
/// No batch takes more: what claims to was damaged.
const LONGEST: u32 = 1 << 30;

/// A batch of documents, and what a run noted of it.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct BatchCourse {
    /// What the batch was like.
    pub done: BatchDone,
    /// What became of its documents.
    pub notes: BatchNotes,
}

/// What became of the documents of a batch, beside what is counted of all.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct BatchNotes {
    /// Those that steps left out.
    pub dropped: Vec<DroppedDocument>,
    /// Those that others repeat: place and id.
    pub originals: Vec<(u64, String)>,
    /// Those that steps have made too long: the id, and the number of the step.
    pub overgrown: Vec<(String, usize)>,
    /// The ids of the first that are left without a token.
    pub emptied: Vec<String>,
    /// Where terms come first.
    pub firsts: Firsts,
    /// How many bytes their lines have in the file of documents, unpacked.
    pub document_bytes: u64,
    /// How many bytes their rows have in the file of tokens, and those of the batches behind it in its lot, which have none then.
    pub token_bytes: u64,
}

/// A document that a step left out.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct DroppedDocument {
    /// Its place among all.
    pub order: u64,
    /// Its id.
    pub id: String,
    /// The step's place in the recipe, from 1.
    pub step: usize,
    /// The number of the reason.
    pub reason: u16,
    /// The place of the document that it repeats.
    pub original: Option<u64>,
}

impl BatchCourse {
    /// The number of the batch among all batches of the collection, from 0.
    pub fn number(&self) -> u64 {
        self.done.number
    }

    /// The same batch where so many come before the collection that it is of.
    #[must_use]
    pub fn behind(mut self, batches: u64) -> BatchCourse {
        self.done.number += batches;
        for dropped in &mut self.notes.dropped {
            dropped.order = later(dropped.order, batches);
            dropped.original = dropped.original.map(|original| later(original, batches));
        }
        for (order, _) in &mut self.notes.originals {
            *order = later(*order, batches);
        }
        self
    }
}

/// Writes the course of a run.
pub struct CourseWriter<W: Write> {
    packing: zstd::Encoder<'static, W>,
}

impl<W: Write> CourseWriter<W> {
    /// Begins the file.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn new(mut out: W) -> io::Result<CourseWriter<W>> {
        out.write_all(MAGIC)?;
        out.write_all(&VERSION.to_le_bytes())?;
        Ok(CourseWriter { packing: zstd::Encoder::new(out, LEVEL)? })
    }

    /// Adds the next batch.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn write(&mut self, batch: &BatchCourse) -> io::Result<()> {
        let bytes = postcard::to_stdvec(batch).map_err(io::Error::other)?;
        let length = u32::try_from(bytes.len()).map_err(io::Error::other)?;
        self.packing.write_all(&length.to_le_bytes())?;
        self.packing.write_all(&bytes)
    }

    /// Ends the file.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn finish(self) -> io::Result<()> {
        self.packing.finish()?.flush()
    }
}

/// Reads the course of a run.
pub struct CourseReader<R: Read> {
    unpacking: zstd::Decoder<'static, BufReader<R>>,
}

impl<R: Read> CourseReader<R> {
    /// Begins to read the file.
    ///
    /// # Errors
    ///
    /// If it is none, or of another version.
    pub fn new(mut file: R) -> io::Result<CourseReader<R>> {
        let mut header = [0; MAGIC.len() + 4];
        file.read_exact(&mut header)?;
        let (magic, version) = header.split_at(MAGIC.len());
        if magic != MAGIC {
            return Err(io::Error::other("this is not the course of a run"));
        }
        if version != VERSION.to_le_bytes() {
            return Err(io::Error::other("it was written by another version of yarrup: make the run again"));
        }
        Ok(CourseReader { unpacking: zstd::Decoder::new(file)? })
    }

    /// The next batch; none at the end.
    ///
    /// # Errors
    ///
    /// If the file was cut or changed.
    pub fn next_batch(&mut self) -> io::Result<Option<BatchCourse>> {
        let mut length = [0; 4];
        let first = self.unpacking.read(&mut length)?;
        if first == 0 {
            return Ok(None);
        }
        self.unpacking.read_exact(&mut length[first..])?;
        let length = u32::from_le_bytes(length);
        if length > LONGEST {
            return Err(ErrorKind::InvalidData.into());
        }
        let mut bytes = Vec::new();
        if self.unpacking.by_ref().take(length.into()).read_to_end(&mut bytes)? != length as usize {
            return Err(ErrorKind::UnexpectedEof.into());
        }
        postcard::from_bytes(&bytes).map(Some).map_err(io::Error::other)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn batch(number: u64) -> BatchCourse {
        let dropped = DroppedDocument {
            order: later(3, number),
            id: "é".into(),
            step: 2,
            reason: 1,
            original: Some(7),
        };
        BatchCourse {
            done: BatchDone { number, bytes: 9, ..BatchDone::default() },
            notes: BatchNotes {
                dropped: vec![dropped],
                originals: vec![(7, "a".into())],
                document_bytes: 12,
                ..BatchNotes::default()
            },
        }
    }

    #[test]
    fn a_course_is_read_as_it_was_written_or_not_to_its_end() {
        let mut file = Vec::new();
        let mut writer = CourseWriter::new(&mut file).expect("begun");
        (0..40).for_each(|number| writer.write(&batch(number)).expect("written"));
        writer.finish().expect("ended");
        let read = |bytes: &[u8]| -> io::Result<Vec<BatchCourse>> {
            let mut reader = CourseReader::new(bytes)?;
            std::iter::from_fn(|| reader.next_batch().transpose()).collect()
        };
        assert_eq!(read(&file).expect("whole"), (0..40).map(batch).collect::<Vec<_>>());
        for cut in 0..file.len() {
            assert!(read(&file[..cut]).is_err(), "cut at {cut}");
        }
        file[MAGIC.len()] = 9;
        assert!(read(&file).is_err_and(|why| why.to_string().contains("another version")));
    }

    #[test]
    fn a_batch_behind_others_names_its_documents_by_their_new_places() {
        let moved = batch(1).behind(4);
        assert_eq!((moved.number(), moved.notes.dropped[0].order), (5, later(3, 5)));
        assert_eq!(
            (moved.notes.dropped[0].original, moved.notes.originals[0].0),
            (Some(later(7, 4)), later(7, 4))
        );
    }
}
