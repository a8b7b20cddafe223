//! Sources and sinks: where documents come from, and what a run leaves behind. No linguistics.

// A build that leaves readers out has no use for all that they lean on.
#![cfg_attr(
    not(all(feature = "documents", feature = "web", feature = "database", feature = "parquet")),
    allow(dead_code, unused_imports)
)]

mod apart;
#[cfg(feature = "arrow")]
mod arrow_stream;
mod bounded;
mod collection;
mod csv_error;
mod csv_table;
#[cfg(feature = "database")]
mod database;
#[cfg(not(feature = "database"))]
#[path = "database/left_out.rs"]
mod database;
mod documents;
mod encoding;
mod fields;
mod format;
mod intake;
#[cfg(not(all(feature = "documents", feature = "web", feature = "database", feature = "parquet")))]
mod left_out;
mod lock;
mod matrix;
mod names;
mod originals;
mod place;
mod reading;
mod record;
mod registry;
mod rows;
mod run;
mod run_documents;
mod sampling;
mod sidecar;
mod source;
mod word_list;
mod word_list_edit;
mod writing;

pub use apart::{READER_ARGUMENT, ReaderProcesses, serve_files};
#[cfg(feature = "arrow")]
pub use arrow_stream::{ArrowAdded, ArrowCleaned, ArrowDocuments, ArrowRow, ArrowRows};
pub use collection::{
    Collection, SETTINGS, Setting, SettingShape, SourceSpec, is_collection_file, is_recipe_file,
    read_collection, without_login, write_collection,
};
pub use database::{DatabaseError, DatabaseTable, IntoDatabase, tables_of};
pub use documents::{
    Batch, BatchDone, Format, Header, Holding, Part, Patterns, Proposed, ReadFile, ReadOptions,
    SeparatorLine, Unit,
};
pub use fields::{DateShapes, FieldFacts, FieldSurvey, Proposal};
pub use intake::UNNAMED_TEXT;
pub use lock::RecipeLock;
pub use matrix::{MatrixFile, MatrixRow, MatrixSize, Packed};
pub use place::{SourceError, matching_files};
pub use reading::{BatchFacts, Numbered, Pass, Policy, Reading, Sink, Stopped, Summary, read, replay};
pub use record::members::Members;
pub use record::{
    Condition, DocumentOutput, FieldType, Item, Lines, Malformed, PipeOutput, PipedObjects, Record,
    Selection, Value, Why,
};
pub use registry::{FORMATS, Formats};
pub use rows::{EncodedRows, RowColumn, RowEncoder, RowFile, RowFormat, RowTable, RowType, Rows, TableMode};
pub use run::{
    ACCOUNT_FILE, AgainstRecord, BatchCourse, BatchNotes, COURSE_FILE, CourseReader, CourseWriter,
    DOCUMENTS_FILE, DroppedDocument, DroppedTable, FileOfRun, FileRecord, FormEntry, KeptOriginals,
    LearnedOfParts, LessonOrigin, Lessons, ORIGINALS_FILE, OriginalRecord, OriginalsRecord,
    PACKED_DOCUMENTS_FILE, RECIPE_FILE, ReadingRecord, RunError, RunFile, RunFolder, RunPart, RunRecord,
    SkippedTable, SourceRecord, StepEffect, TermEntry, TotalsRecord, dropped_documents, form_entry,
    pack_part, read_account, read_file_of, read_learned_of_parts, read_lessons, read_numbers, read_originals,
    read_run, replace_in_run, term_entries, way, write_account, write_effects, write_forms, write_growth,
    write_learned, write_learned_of_parts, write_lengths, write_lessons, write_matches, write_terms,
};
pub use run_documents::{NOTHING_LEFT, RunDocuments, term_counts, written_in_documents};
pub use sampling::Pick;
pub use source::{Source, read_bytes};
pub use word_list::{FolderLists, Input, input_copies};
pub use word_list_edit::{EditedList, ListEdit, ListEditError, edit_list};
pub use writing::{NewFile, NewFolder, WriteError, refuse_taken, remove_unfinished, write_file};

pub use bounded::read_bounded;
pub use csv_table::{Cells, TableWriter, restored_cell, table_failure};

/// What a writer of tables fails with.
pub use csv::Error as TableError;

/// The XXH3 hash (128 bits) of some bytes, in hexadecimal, as `run.json` has it.
pub fn hash(bytes: &[u8]) -> String {
    format!("{:032x}", xxhash_rust::xxh3::xxh3_128(bytes))
}

/// The XXH3 hash (64 bits) of some bytes, for telling equal ones apart from others.
pub fn short_hash(bytes: &[u8]) -> u64 {
    xxhash_rust::xxh3::xxh3_64(bytes)
}
