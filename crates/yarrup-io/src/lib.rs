//! Sources and sinks: where documents come from, and what a run leaves behind. No linguistics.

mod batch;
mod chunk;
mod collection;
mod encoding;
mod fields;
mod format;
mod guard;
mod input;
mod intake;
mod lines;
mod names;
mod options;
mod pick;
mod place;
mod record;
mod run_folder;
mod run_record;
mod run_tables;
mod side;
mod source;
mod word_list;

pub use batch::{Batch, Proposed, ReadFile};
pub use collection::{
    Collection, SETTINGS, Setting, SettingShape, SourceSpec, is_collection_file, read_collection,
    write_collection,
};
pub use fields::{FieldFacts, FieldSurvey, Proposal};
pub use format::{Format, Unit};
pub use options::{Patterns, ReadOptions};
pub use pick::Pick;
pub use place::SourceError;
pub use record::members::Members;
pub use record::{
    Condition, DocumentOutput, FieldType, Item, Malformed, PipeOutput, Record, Selection, Value, Why,
};
pub use run_folder::{RunError, RunFolder};
pub use run_record::{RunRecord, SourceRecord, StepRecord, TotalsRecord, read_run, recipe_path};
pub use run_tables::{
    FormEntry, LearnedStep, SkippedTable, TermEntry, VocabularyFile, read_forms, read_vocabulary,
    write_effects, write_form_entries, write_forms, write_learned, write_matches, write_term_entries,
    write_vocabulary,
};
pub use source::Source;
pub use word_list::FolderLists;

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
