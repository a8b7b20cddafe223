//! What a pass leaves behind, written into the run folder in the order of the documents.

use std::collections::HashMap;
use std::io::{self, Write};
use std::ops::ControlFlow;

use yarrup_core::study::{TermTable, Weight};
use yarrup_core::{Pipeline, StepTimes};
use yarrup_io::{
    BatchDone, BatchNotes, Cells, DOCUMENTS_FILE, DroppedTable, KeptOriginals, Malformed,
    PACKED_DOCUMENTS_FILE, RowColumn, RowEncoder, RowFile, RowFormat, RunFile, RunFolder, Sink, SkippedTable,
    Summary, Why,
};

use super::{Applied, CourseKeeping, Lengths, cannot_write};
use crate::arguments::{DocumentFormat, TokenFormat};
use crate::failure::Failure;
use crate::reading::{overgrown, tell_skipped};
use crate::row_target::RowTarget;
use crate::screen::{Progress, Screen};
use crate::token_table::TokenTable;

/// Writes what the pass leaves behind into the run folder.
pub(crate) struct Writing<'r> {
    folder: &'r RunFolder,
    pipeline: &'r Pipeline,
    course: CourseKeeping<'r>,
    documents: Option<(RunFile<'r>, &'static str)>,
    tokens: Option<RowTarget<'r>>,
    /// The places of documents that a step left out.
    left_out: Vec<u64>,
    skipped: Option<SkippedTable<RunFile<'r>>>,
    dropped: Option<DroppedTable<RunFile<'r>>>,
    /// The ids of documents that others repeat, by their places.
    originals: HashMap<u64, String>,
    progress: Progress,
    screen: &'r Screen,
    /// How many of the first skips were named.
    named: usize,
}

/// How many bytes of documents are packed at a time: what repeats within them is said once.
pub(crate) const PACKED_LOT: usize = 1 << 20;
/// Collections of so many bytes have their documents packed, unless something else is asked for.
const PACKED_FROM: u64 = 16 << 20;

/// Whether the documents of a collection of so many bytes are packed.
pub(crate) fn are_packed(asked: Option<DocumentFormat>, likely_bytes: u64) -> bool {
    match asked {
        Some(format) => format == DocumentFormat::JsonlZst,
        None => likely_bytes >= PACKED_FROM,
    }
}

/// What the table of tokens is encoded with, and its columns.
pub(crate) type TokenEncoding = (TokenTable, RowEncoder, Vec<RowColumn>);

impl<'r> Writing<'r> {
    /// Begins the files of a run. `packs` says whether its documents are packed; none if none are written.
    pub(crate) fn new(
        folder: &'r RunFolder,
        pipeline: &'r Pipeline,
        packs: Option<bool>,
        (progress, screen): (Progress, &'r Screen),
    ) -> Result<Writing<'r>, Failure> {
        let name = packs.map(|packs| if packs { PACKED_DOCUMENTS_FILE } else { DOCUMENTS_FILE });
        let documents = name.map(|name| folder.file(name).map(|file| (file, name))).transpose()?;
        Ok(Writing {
            folder,
            pipeline,
            course: CourseKeeping::new(folder)?,
            documents,
            tokens: None,
            left_out: Vec::new(),
            skipped: None,
            dropped: None,
            originals: HashMap::new(),
            progress,
            screen,
            named: 0,
        })
    }

    /// Begins the file of tokens.
    pub(crate) fn with_tokens(&mut self, format: TokenFormat) -> Result<TokenEncoding, Failure> {
        let (name, format) = match format {
            TokenFormat::Csv => ("tokens.csv", RowFormat::Csv(Cells::Safe)),
            TokenFormat::Jsonl => ("tokens.jsonl", RowFormat::JsonLines),
            TokenFormat::Parquet => ("tokens.parquet", RowFormat::Parquet),
        };
        let folder = self.folder;
        let table = TokenTable::default().table();
        let failed = |why: io::Error| cannot_write(folder, name, &why);
        let encoder = RowEncoder::new(format, &table).map_err(failed)?;
        let file = RowFile::stream(Box::new(folder.file(name)?), &encoder, &table).map_err(failed)?;
        self.tokens = Some(RowTarget::File(Box::new(file), Some(folder.named().join(name))));
        Ok((TokenTable::default(), encoder, table.columns))
    }
}

impl Sink<Applied> for Writing<'_> {
    type Error = Failure;

    fn left(&mut self, mut left: Applied) -> Result<ControlFlow<()>, Failure> {
        if let Some((documents, name)) = &mut self.documents {
            let written = left.fault.map_or(Ok(()), Err).and_then(|()| left.lines.write_to(documents));
            written.map_err(|why| cannot_write(self.folder, name, &why))?;
        }
        if let Some(first) = left.batches.first_mut() {
            first.token_bytes = left.tokens.bytes();
        }
        if let Some(tokens) = &mut self.tokens {
            left.tokens.write(tokens)?;
        }
        for notes in &left.batches {
            self.originals.extend(notes.originals.iter().cloned());
        }
        for notes in &left.batches {
            self.drop_documents(notes)?;
        }
        for notes in left.batches {
            for (id, step) in &notes.overgrown {
                self.skipped(&Malformed {
                    place: id.clone(),
                    why: Why::Record(overgrown(*step)),
                    line: None,
                })?;
            }
            self.course.note(notes);
        }
        Ok(ControlFlow::Continue(()))
    }

    fn skipped(&mut self, malformed: &Malformed) -> Result<(), Failure> {
        let failed = |why| cannot_write(self.folder, "skipped.csv", &why);
        if self.skipped.is_none() {
            self.skipped = Some(SkippedTable::new(self.folder.file("skipped.csv")?).map_err(failed)?);
        }
        self.skipped.as_mut().map_or(Ok(()), |table| table.write(malformed)).map_err(failed)
    }

    fn batch_done(&mut self, batch: BatchDone, so_far: &Summary) -> Result<(), Failure> {
        // Without any document the first skip alone is told, as the reason of the failure.
        if so_far.documents > 0 {
            so_far.first_skipped.iter().skip(self.named).for_each(|skip| tell_skipped(skip, self.screen));
            self.named = so_far.first_skipped.len();
        }
        self.progress.advance(batch.bytes);
        self.course.batch_done(batch)
    }
}

impl Writing<'_> {
    /// Notes documents that were left out, each with its reason.
    fn drop_documents(&mut self, notes: &BatchNotes) -> Result<(), Failure> {
        let failed = |why| cannot_write(self.folder, DROPPED_DOCUMENTS, &why);
        for document in &notes.dropped {
            self.left_out.push(document.order);
            let table = match &mut self.dropped {
                Some(table) => table,
                None => {
                    let table = DroppedTable::new(self.folder.file(DROPPED_DOCUMENTS)?).map_err(failed)?;
                    self.dropped.insert(table)
                }
            };
            let reason = self.pipeline.reason(document.step, document.reason);
            // Originals come before their copies.
            let original = document.original.and_then(|order| self.originals.get(&order));
            let original = original.map_or("", String::as_str);
            table.write(&document.id, document.step, &reason, original).map_err(failed)?;
        }
        Ok(())
    }

    /// Ends the files.
    pub(crate) fn finish(self) -> Result<Noted, Failure> {
        self.progress.end();
        if let Some((mut documents, name)) = self.documents {
            documents.flush().map_err(|why| cannot_write(self.folder, name, &why))?;
        }
        self.tokens.map_or(Ok(()), RowTarget::finish)?;
        self.dropped
            .map_or(Ok(()), DroppedTable::finish)
            .map_err(|why| cannot_write(self.folder, DROPPED_DOCUMENTS, &why))?;
        self.skipped
            .map_or(Ok(()), SkippedTable::finish)
            .map_err(|why| cannot_write(self.folder, "skipped.csv", &why))?;
        Ok(Noted { left_out: self.left_out, ..self.course.finish()? })
    }
}

/// The table of documents that a step left out.
const DROPPED_DOCUMENTS: &str = "dropped-documents.csv";

/// What was noted beside the account.
#[derive(Default)]
pub(crate) struct Noted {
    /// How many documents steps have made too long, and the first of them.
    pub(crate) overgrown: (u64, String),
    /// The first documents that are left without a token.
    pub(crate) emptied: Vec<String>,
    /// Tokens, and distinct terms among the first so many.
    pub(crate) growth: Vec<(u64, u64)>,
    pub(crate) lengths: Lengths,
    /// The places of documents that a step left out.
    pub(crate) left_out: Vec<u64>,
    /// What became of the original texts; none where no documents were written.
    pub(crate) originals: Option<KeptOriginals>,
    /// What weighs terms, if that was asked for.
    pub(crate) weights: Option<(Vec<Weight>, TermTable)>,
    /// What the steps took for a sample of the documents, if that was asked for; and bytes of all texts.
    pub(crate) times: Option<StepTimes>,
    pub(crate) bytes: u64,
}
