//! The documents of a run, to be read once more.

use std::path::{Path, PathBuf};

use csv::ByteRecord;
use yarrup_core::Condition;

use crate::collection::{Collection, SourceSpec};
use crate::csv_table::restored;
use crate::documents::Holding;
use crate::place::SourceError;
use crate::record::members::write_text;
use crate::run::RunError;
use crate::run::error::{damaged, refused};
use crate::run::{ORIGINALS_FILE, RunRecord, read_file_of};
use crate::source::Source;

/// The documents of a run, to be read once more. Their records have the fields of `documents.jsonl`, `text` and `clean` among them.
#[derive(Clone, Debug)]
pub struct RunDocuments {
    folder: PathBuf,
    record: RunRecord,
}

impl RunDocuments {
    /// The documents of the run in this folder, of which this is the record.
    ///
    /// # Errors
    ///
    /// If the run was made without its documents, or they are not there.
    pub fn of(folder: &Path, record: &RunRecord) -> Result<RunDocuments, RunError> {
        let Some(name) = record.documents_file() else {
            return Err(RunError::NoDocuments { path: folder.display().to_string() });
        };
        let path = folder.join(name);
        let size = path.metadata().map_err(refused(&path))?.len();
        // What is in them is compared once they were read whole.
        if record.files.get(name).is_some_and(|written| size != written.bytes) {
            record.confirm(folder, name, size, "")?;
        }
        Ok(RunDocuments { folder: folder.to_owned(), record: record.clone() })
    }

    /// Begins to read the documents for which all these conditions hold, and of which the lines hold these bytes.
    ///
    /// # Errors
    ///
    /// If they cannot be read.
    pub fn open(&self, conditions: &[Condition], holding: Holding) -> Result<Source, SourceError> {
        let mut spec = self.spec();
        spec.options.holding = holding;
        spec.selection.conditions = conditions.to_vec();
        Source::open(&Collection::of(spec))
    }

    /// Begins to read all documents as the run wrote them: without their original texts, if these are elsewhere. That is faster.
    ///
    /// # Errors
    ///
    /// If they cannot be read.
    pub fn open_cleaned(&self) -> Result<Source, SourceError> {
        let mut spec = self.spec();
        spec.cleaned_alone = true;
        Source::open(&Collection::of(spec))
    }

    fn spec(&self) -> SourceSpec {
        let mut spec = SourceSpec::at(&self.folder.display().to_string());
        spec.whole_run = true;
        spec.selection.fields_only = true;
        spec
    }

    /// Refuses documents that are not as the run wrote them, if `source` was read to its end.
    ///
    /// # Errors
    ///
    /// If they were cut or changed.
    pub fn confirm(&self, source: &Source) -> Result<(), RunError> {
        let Some(name) = self.record.documents_file() else { return Ok(()) };
        // What is put together from two places is compared while it is read.
        if self.record.files.contains_key(ORIGINALS_FILE) {
            return Ok(());
        }
        match source.read_files().iter().find(|file| !file.inside) {
            Some(file) if file.whole => self.record.confirm(&self.folder, name, file.bytes, &file.hash),
            _ => Ok(()),
        }
    }
}

/// What the line of a document of which nothing is left holds.
pub const NOTHING_LEFT: &[u8] = br#","tokens_after":0}"#;

/// How a text stands within a string of `documents.jsonl`.
pub fn written_in_documents(text: &str) -> Vec<u8> {
    let mut written = Vec::with_capacity(text.len() + 2);
    write_text(text, &mut written);
    written.pop();
    written.drain(..1);
    written
}

/// How many tokens and documents each of these terms has, by `vocabulary.csv` of a run; none for what is no term. That is faster than reading the
/// account.
///
/// # Errors
///
/// If the table cannot be read, or is not as the run wrote it.
pub fn term_counts(
    folder: &Path,
    record: &RunRecord,
    terms: &[&str],
) -> Result<Vec<Option<(u64, u64)>>, RunError> {
    let table = read_file_of(folder, record, VOCABULARY_FILE)?;
    counts_in(&table, terms).map_err(|why| damaged(&folder.join(VOCABULARY_FILE), &why))
}

const VOCABULARY_FILE: &str = "vocabulary.csv";

fn counts_in(table: &[u8], terms: &[&str]) -> Result<Vec<Option<(u64, u64)>>, csv::Error> {
    let mut found = vec![None; terms.len()];
    let mut table = csv::Reader::from_reader(table);
    let mut row = ByteRecord::new();
    while found.iter().any(Option::is_none) && table.read_byte_record(&mut row)? {
        let cell = |place: usize| row.get(place).and_then(|cell| std::str::from_utf8(cell).ok());
        let Some(term) = cell(1).map(restored) else { continue };
        if let Some(place) = terms.iter().position(|wanted| *wanted == term) {
            let number = |place: usize| cell(place).and_then(|cell| cell.parse().ok());
            found[place] = number(2).zip(number(3));
        }
    }
    Ok(found)
}
