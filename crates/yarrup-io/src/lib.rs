//! Sources and sinks: where documents come from, and what a run leaves behind. No linguistics.

mod format;
mod input;
mod json;
mod lines;
mod record;
mod run_folder;
mod run_record;
mod run_tables;
mod source;
mod table;
mod text_files;
mod word_list;

pub use format::Format;
pub use input::SourceError;
pub use json::Members;
pub use record::{Carried, DocumentOutput, Malformed, PipeOutput, Record, Selection};
pub use run_folder::{RunError, RunFolder};
pub use run_record::{RunRecord, SourceRecord, StepRecord, TotalsRecord, read_run, recipe_path};
pub use run_tables::{
    FormEntry, TermEntry, VocabularyFile, read_forms, read_vocabulary, write_effects, write_form_entries,
    write_forms, write_skipped, write_term_entries, write_vocabulary,
};
pub use source::{Batch, ReadFile, Source};
pub use word_list::FolderLists;

/// What a writer of tables fails with.
pub use csv::Error as TableError;

/// The XXH3 hash (128 bits) of some bytes, in hexadecimal, as `run.json` has it.
pub fn hash(bytes: &[u8]) -> String {
    format!("{:032x}", xxhash_rust::xxh3::xxh3_128(bytes))
}
