//! What is noted of documents on the way, batch by batch: with the account, it is what parts of a collection are put together from.

use std::collections::{BTreeMap, VecDeque};
use std::io;

use yarrup_core::study::Growth;
use yarrup_core::{Cleaned, LeftOut, Pipeline};
use yarrup_io::{
    BatchCourse, BatchDone, BatchNotes, COURSE_FILE, CourseWriter, DroppedDocument, Record, RunFile,
    RunFolder,
};

use super::{Noted, cannot_write};
use crate::failure::Failure;

/// How many documents have so many tokens, as found and in the end.
pub(crate) type Lengths = BTreeMap<u64, (u64, u64)>;

/// How many documents are named that are left without a token.
const NAMED_EMPTIED: usize = 3;

/// What a worker notes of documents.
#[derive(Default)]
pub(crate) struct Noting {
    /// Documents by their tokens, as found and in the end.
    pub(crate) lengths: Lengths,
    /// By the number of a term: the last batch that had it.
    last_batch: Vec<u32>,
    /// The number of the batch, from 1.
    batch: u32,
}

impl Noting {
    /// Begins a batch.
    pub(crate) fn batch(&mut self) {
        self.batch += 1;
    }

    /// Notes a document.
    pub(crate) fn document(
        &mut self,
        (record, order): (&Record<'_>, u64),
        cleaned: &Cleaned<'_>,
        pipeline: &Pipeline,
        notes: &mut BatchNotes,
    ) {
        self.lengths.entry(cleaned.tokens_before).or_default().0 += 1;
        if let Some(step) = cleaned.overgrown {
            notes.overgrown.push((record.id.to_string(), step));
        }
        if let Some(LeftOut { step, reason }) = cleaned.left_out {
            let original = pipeline.original(step, order);
            notes.dropped.push(DroppedDocument { order, id: record.id.to_string(), step, reason, original });
            return;
        }
        self.lengths.entry(cleaned.tokens_after).or_default().1 += 1;
        for (number, term) in cleaned.terms() {
            let number = number as usize;
            if number >= self.last_batch.len() {
                self.last_batch.resize(number + 1, 0);
            }
            let is_first = self.last_batch[number] != self.batch;
            self.last_batch[number] = self.batch;
            notes.firsts.note(is_first.then(|| yarrup_io::short_hash(term.as_bytes())));
        }
        if cleaned.tokens_after == 0 && cleaned.tokens_before > 0 && notes.emptied.len() < NAMED_EMPTIED {
            notes.emptied.push(record.id.to_string());
        }
    }
}

/// Adds up the lengths of documents.
pub(crate) fn add_lengths(sum: &mut Lengths, lengths: Lengths) {
    for (tokens, (before, after)) in lengths {
        let (all_before, all_after) = sum.entry(tokens).or_default();
        *all_before += before;
        *all_after += after;
    }
}

/// Writes down what was noted of each batch, in their order.
pub(crate) struct CourseKeeping<'r> {
    folder: &'r RunFolder,
    file: CourseWriter<RunFile<'r>>,
    /// What was noted of batches that are not done.
    waiting: VecDeque<BatchNotes>,
    growth: Growth,
    /// How many documents steps have made too long, and the first of them.
    overgrown: (u64, String),
    /// The first documents that are left without a token.
    emptied: Vec<String>,
}

impl<'r> CourseKeeping<'r> {
    /// Begins the file of a run.
    pub(crate) fn new(folder: &'r RunFolder) -> Result<CourseKeeping<'r>, Failure> {
        let file = folder.file(COURSE_FILE)?;
        let file = CourseWriter::new(file).map_err(|why| cannot_write(folder, COURSE_FILE, &why))?;
        Ok(CourseKeeping {
            folder,
            file,
            waiting: VecDeque::new(),
            growth: Growth::default(),
            overgrown: (0, String::new()),
            emptied: Vec::new(),
        })
    }

    /// Takes what was noted of the next batch, which is not done yet.
    pub(crate) fn note(&mut self, mut notes: BatchNotes) {
        self.growth.add(&mut notes.firsts);
        self.emptied.extend(notes.emptied.iter().cloned());
        self.emptied.truncate(NAMED_EMPTIED);
        for (id, _) in &notes.overgrown {
            self.overgrown.0 += 1;
            if self.overgrown.0 == 1 {
                self.overgrown.1.clone_from(id);
            }
        }
        self.waiting.push_back(notes);
    }

    /// Writes down the first batch that was not done.
    pub(crate) fn batch_done(&mut self, done: BatchDone) -> Result<(), Failure> {
        let notes = self.waiting.pop_front().unwrap_or_default();
        self.file.write(&BatchCourse { done, notes }).map_err(|why| self.failed(&why))
    }

    fn failed(&self, why: &io::Error) -> Failure {
        cannot_write(self.folder, COURSE_FILE, why)
    }

    /// Ends the file, and tells what it noted of the whole.
    pub(crate) fn finish(self) -> Result<Noted, Failure> {
        self.file.finish().map_err(|why| cannot_write(self.folder, COURSE_FILE, &why))?;
        let (overgrown, emptied) = (self.overgrown, self.emptied);
        Ok(Noted { overgrown, emptied, growth: self.growth.points(), ..Noted::default() })
    }
}
