//! `run.json`: everything about a run but its tables.

use std::cmp::Ordering;
use std::collections::BTreeMap;
use std::io;
use std::path::Path;

use serde::{Deserialize, Serialize};
use yarrup_core::Effect;

use crate::bounded::read_bounded;
use crate::documents::{Format, Part};
use crate::registry::FORMATS;
use crate::run::error::{RunError, damaged, refused};

/// The name of the record in a run folder.
pub(crate) const RECORD_FILE: &str = "run.json";

/// The name of the documents' file in a run folder.
pub const DOCUMENTS_FILE: &str = "documents.jsonl";

/// The name of the documents' file where it is packed.
pub const PACKED_DOCUMENTS_FILE: &str = "documents.jsonl.zst";

/// The name of the file that tells where original texts are which were not copied.
pub const ORIGINALS_FILE: &str = "originals.json";

/// Where the original texts of a run are that were not copied, and what they were like.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct OriginalsRecord {
    /// The collection, as a collection file whose paths are relative to the run folder.
    pub collection: String,
    /// The sources that were read, in order.
    pub sources: Vec<OriginalRecord>,
    /// The numbers of the documents that a step of the recipe left out, from 1.
    pub left_out: Vec<u64>,
}

/// A source of original texts.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct OriginalRecord {
    /// The name as given, by which its documents are called that have no id.
    pub name: String,
    /// Its size.
    pub bytes: u64,
    /// The XXH3 hash (128 bits) of its bytes, in hexadecimal.
    pub hash: String,
}

impl OriginalsRecord {
    /// As it is written.
    pub fn json(&self) -> Vec<u8> {
        // Texts and numbers always are JSON.
        let mut json = serde_json::to_vec_pretty(self).unwrap_or_default();
        json.push(b'\n');
        json
    }
}

/// Reads where the original texts of a run are; none if they were copied, or left out.
///
/// # Errors
///
/// If the file is not as the run wrote it.
pub fn read_originals(folder: &Path, record: &RunRecord) -> Result<Option<OriginalsRecord>, RunError> {
    if !record.files.contains_key(ORIGINALS_FILE) {
        return Ok(None);
    }
    let bytes = read_file_of(folder, record, ORIGINALS_FILE)?;
    serde_json::from_slice(&bytes).map(Some).map_err(|why| damaged(&folder.join(ORIGINALS_FILE), &why))
}

/// The version of the layout of run folders. It grows with every change by which an older reader would misread one.
pub(crate) const RUN_VERSION: u32 = 1;

/// What `run.json` holds: everything about a run but its tables. No time of day, no machine, no number of threads: equal
/// runs give equal files.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct RunRecord {
    /// The version of the tool.
    pub yarrup: String,
    /// The version of the layout of the run folder.
    #[serde(default)]
    pub layout: u32,
    /// The recipe's name, if it has one.
    pub recipe: Option<String>,
    /// The recipe file's XXH3 hash (128 bits), in hexadecimal.
    pub recipe_hash: String,
    /// The language that the recipe states.
    pub language: Option<String>,
    /// The sources that were read.
    pub sources: Vec<SourceRecord>,
    /// The word lists that were read from files.
    pub word_lists: Vec<SourceRecord>,
    /// What was said of the sources, as a collection file.
    pub collection: String,
    /// How they were read, and which part of them if not all.
    #[serde(default)]
    pub reading: ReadingRecord,
    /// The counts of the whole run.
    pub totals: TotalsRecord,
    /// The effect of every step, as in `effects.csv`.
    pub steps: Vec<StepEffect>,
    /// How the collection stands against that of the run whose recipe was taken, if it was.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub against: Option<AgainstRecord>,
    /// What went wrong or deserves a look.
    pub warnings: Vec<String>,
    /// Every other file of the folder, as it was written.
    #[serde(default)]
    pub files: BTreeMap<String, FileRecord>,
}

/// How the collection of a run stands against that of an earlier one, whose frozen recipe it has.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct AgainstRecord {
    /// The earlier run, as it was named.
    pub run: String,
    /// The hash of its account.
    pub account: String,
    /// What share of the tokens of the splitter are words that the earlier run has never met.
    pub unknown_words_share: f64,
    /// How many tokens these are.
    pub unknown_words: u64,
    /// What share of the kept tokens are of terms that the earlier run has not got.
    pub unknown_share: f64,
    /// What share of the kept tokens of the earlier run are of terms that this one has not got.
    pub gone_share: f64,
    /// The largest difference between the shares of documents up to any length, in kept tokens.
    pub length_distance: f64,
    /// The commonest words that the earlier run has never met.
    pub such_as: Vec<String>,
}

/// How the sources of a run were read.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct ReadingRecord {
    /// Which part of the collection, if not all of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub part: Option<Part>,
    /// How many bytes the sources may have, what is compressed unpacked.
    pub likely_bytes: u64,
    /// Whether all of them are files that stay where they are, and can be read again as fast as a copy of them.
    pub stays: bool,
    /// What became of the original texts of the documents; none where no documents were written.
    pub originals: Option<KeptOriginals>,
    /// What the user should know of the sources: the first few of it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub notes: Vec<String>,
    /// How much more of this there is.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub more_notes: u64,
}

/// What becomes of the original texts of documents.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum KeptOriginals {
    /// They stand with the documents.
    Copied,
    /// It is told where they are.
    Referred,
    /// They are left out.
    LeftOut,
}

/// A file of a run folder, as `run.json` names it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct FileRecord {
    /// Its size.
    pub bytes: u64,
    /// The XXH3 hash (128 bits) of its bytes, in hexadecimal.
    pub hash: String,
}

/// A source as `run.json` names it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct SourceRecord {
    /// The name as given.
    pub name: String,
    /// How it was read.
    pub format: String,
    /// The encoding of its text, where it is text.
    pub encoding: Option<String>,
    /// Its size.
    pub bytes: u64,
    /// The XXH3 hash (128 bits) of its bytes, in hexadecimal.
    pub hash: String,
    /// Whether it was read to its end. If not, size and hash are of what was read.
    pub whole: bool,
    /// Whether it lay in an archive or was compressed; what it lay in is told as well.
    #[serde(default, skip_serializing_if = "is_false")]
    pub inside: bool,
    /// How many places were not valid in its encoding, where it is not UTF-8, and are U+FFFD now.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub replaced: u64,
}

impl SourceRecord {
    /// Whether it is an archive or a compressed file, whose content is told of as well.
    pub fn is_wrapping(&self) -> bool {
        FORMATS.named(&self.format).is_some_and(Format::is_wrapping)
    }
}

/// The counts of a run.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[allow(missing_docs, reason = "the names say it, and docs/run-folder.md explains them")]
pub struct TotalsRecord {
    pub documents: u64,
    pub documents_empty_as_found: u64,
    pub documents_emptied: u64,
    pub documents_left_out: u64,
    /// Left out by a step of the recipe.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub documents_dropped: u64,
    pub documents_with_repeated_ids: u64,
    pub records_skipped: u64,
    pub files_unreadable: u64,
    pub broken_bytes: u64,
    pub documents_with_broken_bytes: u64,
    pub characters: u64,
    pub tokens_found: u64,
    pub types_found: u64,
    pub tokens_kept: u64,
    pub terms: u64,
    pub forms: u64,
}

fn is_false(truth: &bool) -> bool {
    !truth
}

fn is_zero(count: &u64) -> bool {
    *count == 0
}

/// The effect of a step.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[allow(missing_docs, reason = "as in `Effect` of the core")]
pub struct StepEffect {
    pub step: usize,
    #[serde(rename = "do")]
    pub operation: String,
    pub label: Option<String>,
    pub put_in: bool,
    pub documents_touched: Option<u64>,
    pub tokens_in: Option<u64>,
    pub tokens_dropped: Option<u64>,
    pub tokens_joined: Option<u64>,
    pub tokens_added: Option<u64>,
    pub tokens_changed: Option<u64>,
    pub tokens_marked: Option<u64>,
    pub tokens_out: Option<u64>,
    pub types_in: Option<u64>,
    pub types_out: Option<u64>,
    pub matches: Option<u64>,
    pub characters_in: Option<u64>,
    pub characters_out: Option<u64>,
}

impl From<&Effect> for StepEffect {
    fn from(effect: &Effect) -> StepEffect {
        StepEffect {
            step: effect.step,
            operation: effect.operation.clone(),
            label: effect.label.clone(),
            put_in: effect.put_in,
            documents_touched: effect.documents_touched,
            tokens_in: effect.tokens_in,
            tokens_dropped: effect.tokens_dropped,
            tokens_joined: effect.tokens_joined,
            tokens_added: effect.tokens_added,
            tokens_changed: effect.tokens_changed,
            tokens_marked: effect.tokens_marked,
            tokens_out: effect.tokens_out,
            types_in: effect.types_in,
            types_out: effect.types_out,
            matches: effect.matches,
            characters_in: effect.characters_in,
            characters_out: effect.characters_out,
        }
    }
}

impl RunRecord {
    /// As it is written.
    pub(crate) fn json(&self) -> Result<Vec<u8>, RunError> {
        let record = RunRecord { layout: RUN_VERSION, ..self.clone() };
        let json =
            serde_json::to_string_pretty(&record).map_err(|why| damaged(Path::new(RECORD_FILE), &why))?;
        Ok(format!("{json}\n").into_bytes())
    }

    /// Refuses a file of the run that is not as the run wrote it.
    ///
    /// # Errors
    ///
    /// If it is another, or was changed or cut.
    pub fn confirm(&self, folder: &Path, name: &str, bytes: u64, hash: &str) -> Result<(), RunError> {
        let path = folder.join(name);
        match self.files.get(name) {
            Some(written) if written.bytes == bytes && written.hash == hash => Ok(()),
            Some(_) => {
                Err(damaged(&path, &"the file was cut or changed since the run wrote it; make the run again"))
            }
            None => Err(damaged(&path, &"the run did not write this file")),
        }
    }
}

/// Reads a file of a run folder, which must be as the run wrote it.
///
/// # Errors
///
/// If it cannot be read, or was cut or changed.
pub fn read_file_of(folder: &Path, record: &RunRecord, name: &str) -> Result<Vec<u8>, RunError> {
    let path = folder.join(name);
    let bytes = read_bounded(&path).map_err(|why| match why.kind() {
        io::ErrorKind::NotFound => damaged(&path, &"the file is missing; make the run again"),
        _ => refused(&path)(why),
    })?;
    record.confirm(folder, name, bytes.len() as u64, &crate::hash(&bytes))?;
    Ok(bytes)
}

/// Reads `run.json` of a run folder.
///
/// # Errors
///
/// If there is no run at this place, it is a part of one, or its record is damaged or of another version.
pub fn read_run(folder: &Path) -> Result<RunRecord, RunError> {
    let record = read_part(folder)?;
    match record.reading.part {
        Some(part) => Err(RunError::Part { path: folder.display().to_string(), part }),
        None => Ok(record),
    }
}

/// As [`read_run`], also of a part of a run.
pub(super) fn read_part(folder: &Path) -> Result<RunRecord, RunError> {
    let path = folder.join(RECORD_FILE);
    let shown = || folder.display().to_string();
    let bytes = read_bounded(&path).map_err(|why| match why.kind() {
        _ if folder.is_file() => RunError::FileForRun { path: shown() },
        io::ErrorKind::NotFound | io::ErrorKind::NotADirectory => RunError::NoRun { path: shown() },
        _ => refused(&path)(why),
    })?;
    let record: RunRecord = serde_json::from_slice(&bytes).map_err(|error| damaged(&path, &error))?;
    match record.layout.cmp(&RUN_VERSION) {
        Ordering::Less => Err(RunError::OtherVersion { path: shown(), made: "an older" }),
        Ordering::Greater => Err(RunError::OtherVersion { path: shown(), made: "a newer" }),
        Ordering::Equal => Ok(record),
    }
}

/// Whether yarrup wrote a run to this folder.
pub(crate) fn is_run(folder: &Path) -> bool {
    any_record(folder).is_some()
}

/// The record in a folder, of whatever version, if yarrup wrote one there.
pub(crate) fn any_record(folder: &Path) -> Option<RunRecord> {
    serde_json::from_slice(&read_bounded(&folder.join(RECORD_FILE)).ok()?).ok()
}

/// The name of the recipe in a run folder, as it was given.
pub const RECIPE_FILE: &str = "recipe.toml";

/// The name of the recipe with all that was learned.
const FROZEN_FILE: &str = "frozen.toml";

impl RunRecord {
    /// The name of the documents' file; none if the run has none.
    pub fn documents_file(&self) -> Option<&'static str> {
        [DOCUMENTS_FILE, PACKED_DOCUMENTS_FILE].into_iter().find(|name| self.files.contains_key(*name))
    }

    /// The name of the recipe with all that was learned written out: `frozen.toml` where anything was, else the recipe as it was given.
    pub fn frozen_recipe(&self) -> &'static str {
        if self.files.contains_key(FROZEN_FILE) { FROZEN_FILE } else { RECIPE_FILE }
    }
}
