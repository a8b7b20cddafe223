//! The pass that applies a recipe to every document of a collection.

use std::collections::HashSet;
use std::io;

use yarrup_core::step::Document;
use yarrup_core::study::{GroupBy, Tally, Weight};
use yarrup_core::{Fields as _, Outputs, Pipeline, StepTimer, Worker};
use yarrup_io::{BatchFacts, BatchNotes, DocumentOutput, Lines, Numbered, Pass, RowColumn, RowEncoder};

use super::Noting;
use super::writing::PACKED_LOT;
use crate::arguments::{NEEDS_FIELD, RunArguments};
use crate::failure::{Failure, option};
use crate::row_target::Gathered;
use crate::timing::{TimeSample, timer};
use crate::token_table::{TokenRows, TokenTable};

/// The pass that applies the recipe.
pub(crate) struct Applying<'p> {
    pub(crate) pipeline: &'p Pipeline,
    /// The table of tokens, if it is asked for, and what encodes it.
    pub(crate) tokens: Option<(TokenTable, RowEncoder, Vec<RowColumn>)>,
    /// Whether the lines of documents are packed.
    pub(crate) packs: bool,
    /// The places of documents that others repeat.
    pub(crate) originals: HashSet<u64>,
    pub(crate) outputs: Outputs,
    pub(crate) writes_documents: bool,
    pub(crate) written: DocumentOutput,
    pub(crate) weighing: Option<Weighing>,
    /// Which documents the steps are timed on, if they are.
    pub(crate) timed: Option<TimeSample>,
}

/// The weights that `vocabulary.csv` is to have.
pub(crate) struct Weighing {
    pub(crate) weights: Vec<Weight>,
    /// The field whose values some of them are of.
    pub(crate) with: Option<GroupBy>,
}

impl Weighing {
    /// What the arguments ask for.
    pub(crate) fn of(arguments: &RunArguments) -> Result<Option<Weighing>, Failure> {
        let with = arguments.with.as_deref().map(GroupBy::read).transpose();
        let with = with.map_err(|why| option("with", &why))?;
        if with.is_none() && arguments.weight.iter().any(|weight| weight.needs_groups()) {
            return Err(option("weight", NEEDS_FIELD));
        }
        let weights = arguments.weight.clone();
        Ok((!weights.is_empty()).then_some(Weighing { weights, with }))
    }
}

/// What a worker of the run keeps.
pub(crate) struct Working<'p> {
    pub(crate) worker: Worker<'p>,
    pub(crate) tokens: Option<TokenRows<'p>>,
    pub(crate) noting: Noting,
    /// What weighs terms, if that is asked for.
    pub(crate) tally: Tally,
    pub(crate) timer: Option<StepTimer<'p>>,
    /// Bytes of all texts.
    pub(crate) bytes: u64,
}

impl<'p> Pass for Applying<'p> {
    type State = Working<'p>;
    type Left = Applied;

    fn state(&self) -> Working<'p> {
        Working {
            worker: Worker::new(self.pipeline, self.outputs),
            tokens: self.tokens.as_ref().map(|(table, ..)| TokenRows::new(self.pipeline, table.clone())),
            noting: Noting::default(),
            tally: Tally::new(),
            timer: self.timed.map(|_| timer(self.pipeline)),
            bytes: 0,
        }
    }

    fn lot(&self) -> usize {
        let tokens = self.tokens.as_ref().map_or(0, |(_, encoder, _)| encoder.format().lot());
        if self.packs { tokens.max(PACKED_LOT) } else { tokens }
    }

    fn lot_done(&self, _working: &mut Working<'p>, left: &mut Applied) {
        left.end_batch();
        if let Some((_, encoder, _)) = &self.tokens {
            left.tokens.encode(encoder);
        }
        if self.packs {
            left.pack();
        }
    }

    fn batch(&self, working: &mut Working<'p>, batch: &BatchFacts, left: &mut Applied) {
        working.noting.batch();
        left.begin_batch();
        if self.writes_documents {
            left.lines.reserve(batch.bytes as usize * 3 / 2);
        }
    }

    fn document(&self, working: &mut Working<'p>, document: &Numbered<'_>, left: &mut Applied) {
        let Numbered { record, order, .. } = document;
        working.bytes += record.text.len() as u64;
        if let Some(timer) =
            working.timer.as_mut().filter(|_| self.timed.is_some_and(|timed| timed.takes(*order)))
        {
            timer.document(&Document { text: &record.text, fields: record, order: *order });
        }
        let cleaned = working.worker.take(&Document { text: &record.text, fields: record, order: *order });
        working.noting.document((record, *order), &cleaned, self.pipeline, left.notes());
        if self.originals.contains(order) {
            left.notes().originals.push((*order, record.id.to_string()));
        }
        if cleaned.left_out.is_some() {
            return;
        }
        if let Some(weighing) = &self.weighing {
            let by = weighing.with.as_ref();
            let group = by.map(|by| by.group(record.field(by.path()).as_deref()).to_string());
            working.tally.document(cleaned.terms().map(|(_, term)| term), group.as_deref());
        }
        if let (Some(tokens), Some((_, encoder, columns))) = (&mut working.tokens, &self.tokens) {
            let rows = left.tokens.rows(columns);
            tokens.add((&record.id, record), &record.text, &cleaned, rows);
            left.tokens.encode_many(encoder);
        }
        if self.writes_documents {
            self.written.write(record, &cleaned, &mut left.lines);
        }
    }
}

/// What a lot of documents leaves behind.
#[derive(Default)]
pub(crate) struct Applied {
    /// The lines of documents.
    pub(crate) lines: Lines,
    /// How many bytes of them were there before the last batch.
    before: u64,
    pub(crate) tokens: Gathered,
    /// What kept lines from being packed.
    pub(crate) fault: Option<io::Error>,
    /// What was noted of each batch.
    pub(crate) batches: Vec<BatchNotes>,
}

impl Applied {
    /// What is noted of the batch.
    fn notes(&mut self) -> &mut BatchNotes {
        if self.batches.is_empty() {
            self.batches.push(BatchNotes::default());
        }
        let last = self.batches.len() - 1;
        &mut self.batches[last]
    }

    fn begin_batch(&mut self) {
        self.end_batch();
        self.batches.push(BatchNotes::default());
    }

    fn end_batch(&mut self) {
        let bytes = self.lines.bytes();
        if let Some(notes) = self.batches.last_mut() {
            notes.document_bytes = bytes - self.before;
        }
        self.before = bytes;
    }

    /// Packs the lines, of which all are there.
    pub(crate) fn pack(&mut self) {
        match std::mem::take(&mut self.lines).packed() {
            Ok(packed) => self.lines = packed,
            Err(why) => self.fault = Some(why),
        }
    }
}
