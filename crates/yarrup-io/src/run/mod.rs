//! What a run leaves behind: its folder, the record of it, its account, and tables for people and other tools.

mod account_file;
mod course;
pub(crate) mod error;
mod folder;
mod lessons;
mod packed;
mod part;
mod record;
mod tables;

pub use account_file::{ACCOUNT_FILE, read_account, write_account};
pub use course::{BatchCourse, BatchNotes, COURSE_FILE, CourseReader, CourseWriter, DroppedDocument};
pub use error::RunError;
pub use folder::{RunFile, RunFolder, replace_in_run, way};
pub use lessons::{
    LearnedOfParts, LessonOrigin, Lessons, read_learned_of_parts, read_lessons, write_learned_of_parts,
    write_lessons,
};
pub use part::{FileOfRun, RunPart, pack_part};
pub(crate) use record::is_run;
pub use record::{
    AgainstRecord, DOCUMENTS_FILE, FileRecord, KeptOriginals, ORIGINALS_FILE, OriginalRecord,
    OriginalsRecord, PACKED_DOCUMENTS_FILE, RECIPE_FILE, ReadingRecord, RunRecord, SourceRecord, StepEffect,
    TotalsRecord, read_file_of, read_originals, read_run,
};
pub use tables::{
    DroppedTable, FormEntry, SkippedTable, TermEntry, dropped_documents, form_entry, read_numbers,
    term_entries, write_effects, write_forms, write_growth, write_learned, write_lengths, write_matches,
    write_terms,
};
