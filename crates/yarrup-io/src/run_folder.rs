//! The folder that a run leaves behind: written aside, named when it is whole, and read again by later commands.

use std::borrow::Cow;
use std::collections::HashMap;
use std::fs::{self, File};
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use thiserror::Error;
use yarrup_core::{Account, Effect, FormFate};

use crate::record::Malformed;

/// Why a run folder cannot be written or read.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum RunError {
    /// The place is taken.
    #[error(
        "{path}: is there already; add --replace to put the new run in its place, or choose another with --out"
    )]
    Exists {
        /// The folder.
        path: String,
    },
    /// The place is taken by something that is no run folder, which is never replaced.
    #[error("{path}: is not a run folder and will not be replaced; choose another place with --out")]
    NotARun {
        /// The folder.
        path: String,
    },
    /// No run folder at this place.
    #[error(
        "{path}: no run folder here (it has no run.json); make one with `yarrup run RECIPE SOURCE --out {path}`"
    )]
    NoRun {
        /// The folder.
        path: String,
    },
    /// The system refused.
    #[error("{path}: {why}")]
    Refused {
        /// The file or folder.
        path: String,
        /// The system's answer.
        why: io::Error,
    },
    /// A file of the run folder does not read as it was written.
    #[error("{path}: damaged: {why}")]
    Damaged {
        /// The file.
        path: String,
        /// What is wrong with it.
        why: String,
    },
}

fn refused(path: &Path) -> impl FnOnce(io::Error) -> RunError + '_ {
    |why| RunError::Refused { path: path.display().to_string(), why }
}

/// A run folder that is being written. Dropped before it was finished, it leaves nothing behind.
#[derive(Debug)]
pub struct RunFolder {
    target: PathBuf,
    aside: PathBuf,
    finished: bool,
}

impl RunFolder {
    /// Makes room for a run at `target`, which must not exist unless `replace`.
    ///
    /// # Errors
    ///
    /// If the place is taken, or the system refuses.
    pub fn create(target: &Path, replace: bool) -> Result<RunFolder, RunError> {
        let path = || target.display().to_string();
        if target.symlink_metadata().is_ok() {
            let is_run = target.join("run.json").is_file();
            let is_empty = fs::read_dir(target).is_ok_and(|mut entries| entries.next().is_none());
            match (is_run || is_empty, replace || is_empty) {
                (false, _) => return Err(RunError::NotARun { path: path() }),
                (true, false) => return Err(RunError::Exists { path: path() }),
                (true, true) => {}
            }
        }
        let Some(name) = target.file_name() else {
            return Err(RunError::NotARun { path: path() });
        };
        let parent =
            target.parent().filter(|parent| !parent.as_os_str().is_empty()).unwrap_or(Path::new("."));
        fs::create_dir_all(parent).map_err(refused(parent))?;
        let prefix = format!(".{}.unfinished-", name.to_string_lossy());
        clear_abandoned(parent, &prefix);
        let aside = parent.join(format!("{prefix}{}", std::process::id()));
        fs::create_dir(&aside).map_err(refused(target))?;
        Ok(RunFolder { target: target.to_owned(), aside, finished: false })
    }

    /// Where the run will stand.
    pub fn target(&self) -> &Path {
        &self.target
    }

    /// Opens a file of the run for writing.
    ///
    /// # Errors
    ///
    /// If the system refuses.
    pub fn file(&self, name: &str) -> Result<BufWriter<File>, RunError> {
        let path = self.aside.join(name);
        if let Some(parent) = path.parent() {
            fs::create_dir_all(parent).map_err(refused(parent))?;
        }
        Ok(BufWriter::with_capacity(1 << 16, File::create(&path).map_err(refused(&path))?))
    }

    /// Writes a whole file of the run.
    ///
    /// # Errors
    ///
    /// If the system refuses.
    pub fn write(&self, name: &str, content: &[u8]) -> Result<(), RunError> {
        let mut file = self.file(name)?;
        file.write_all(content).and_then(|()| file.flush()).map_err(refused(Path::new(name)))
    }

    /// Gives the folder its name, now that all is written.
    ///
    /// # Errors
    ///
    /// If the system refuses; what stood at the place before is there again then.
    pub fn finish(mut self) -> Result<(), RunError> {
        let old = self.aside.with_extension("replaced");
        let replaces = self.target.symlink_metadata().is_ok();
        if replaces {
            fs::rename(&self.target, &old).map_err(refused(&self.target))?;
        }
        if let Err(why) = fs::rename(&self.aside, &self.target) {
            if replaces {
                // Nothing better can be done if this fails too: the first error is the one to tell.
                let _ = fs::rename(&old, &self.target);
            }
            return Err(refused(&self.target)(why));
        }
        self.finished = true;
        if replaces {
            fs::remove_dir_all(&old).map_err(refused(&old))?;
        }
        Ok(())
    }
}

impl Drop for RunFolder {
    fn drop(&mut self) {
        if !self.finished {
            // The error that brought us here is the one to tell.
            let _ = fs::remove_dir_all(&self.aside);
        }
    }
}

/// Removes what runs that were killed left beside this place: their process is no more.
fn clear_abandoned(parent: &Path, prefix: &str) {
    if !Path::new("/proc/self").exists() {
        return;
    }
    for entry in fs::read_dir(parent).into_iter().flatten().flatten() {
        let name = entry.file_name();
        let process =
            name.to_str().and_then(|name| name.strip_prefix(prefix)).and_then(|id| id.parse::<u32>().ok());
        if process.is_some_and(has_ended) {
            // Only tidying up: a run must not fail because of it.
            let _ = fs::remove_dir_all(entry.path());
        }
    }
}

/// Whether a process is no more, or was killed and only waits to be noticed.
fn has_ended(process: u32) -> bool {
    match fs::read_to_string(format!("/proc/{process}/stat")) {
        // The state stands behind the name, which is in brackets and may hold anything.
        Ok(stat) => stat.rsplit_once(')').is_some_and(|(_, rest)| rest.trim_start().starts_with(['Z', 'X'])),
        Err(error) => error.kind() == io::ErrorKind::NotFound,
    }
}

/// What `run.json` holds: everything about a run but its tables. No time of day, no machine, no number of threads: equal
/// runs give equal files.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct RunRecord {
    /// The version of the tool.
    pub yarrup: String,
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
    /// The field that was the text, that which was the id, that which was the title: as chosen.
    pub fields: [Option<String>; 3],
    /// The counts of the whole run.
    pub totals: TotalsRecord,
    /// The effect of every step, as in `effects.csv`.
    pub steps: Vec<StepRecord>,
    /// What went wrong or deserves a look.
    pub warnings: Vec<String>,
}

/// A source as `run.json` names it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct SourceRecord {
    /// The name as given.
    pub name: String,
    /// How it was read.
    pub format: String,
    /// Its size.
    pub bytes: u64,
    /// The XXH3 hash (128 bits) of its bytes, in hexadecimal.
    pub hash: String,
}

/// The counts of a run.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[allow(missing_docs, reason = "the names say it, and docs/run-folder.md explains them")]
pub struct TotalsRecord {
    pub documents: u64,
    pub documents_empty_as_found: u64,
    pub documents_emptied: u64,
    pub records_skipped: u64,
    pub broken_bytes: u64,
    pub documents_with_broken_bytes: u64,
    pub characters: u64,
    pub tokens_found: u64,
    pub types_found: u64,
    pub tokens_kept: u64,
    pub terms: u64,
    pub forms: u64,
}

/// The effect of a step.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[allow(missing_docs, reason = "as in `Effect` of the core")]
pub struct StepRecord {
    pub step: usize,
    #[serde(rename = "do")]
    pub operation: String,
    pub label: Option<String>,
    pub put_in: bool,
    pub documents_touched: Option<u64>,
    pub tokens_in: Option<u64>,
    pub tokens_dropped: Option<u64>,
    pub tokens_added: Option<u64>,
    pub tokens_changed: Option<u64>,
    pub tokens_out: Option<u64>,
    pub types_in: Option<u64>,
    pub types_out: Option<u64>,
    pub matches: Option<u64>,
    pub characters_in: Option<u64>,
    pub characters_out: Option<u64>,
}

impl From<&Effect> for StepRecord {
    fn from(effect: &Effect) -> StepRecord {
        StepRecord {
            step: effect.step,
            operation: effect.operation.to_owned(),
            label: effect.label.clone(),
            put_in: effect.put_in,
            documents_touched: effect.documents_touched,
            tokens_in: effect.tokens_in,
            tokens_dropped: effect.tokens_dropped,
            tokens_added: effect.tokens_added,
            tokens_changed: effect.tokens_changed,
            tokens_out: effect.tokens_out,
            types_in: effect.types_in,
            types_out: effect.types_out,
            matches: effect.matches,
            characters_in: effect.characters_in,
            characters_out: effect.characters_out,
        }
    }
}

/// A row of `vocabulary.csv`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs, reason = "docs/run-folder.md explains the columns")]
pub struct TermEntry {
    pub rank: u64,
    pub term: String,
    pub count: u64,
    pub documents: u64,
    pub share: f64,
    pub cumulative_share: f64,
    pub kind: String,
    pub forms: u64,
    pub commonest_form: String,
}

/// A row of `forms.csv`.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[allow(missing_docs, reason = "docs/run-folder.md explains the columns")]
pub struct FormEntry {
    pub form: String,
    pub kind: String,
    pub tag: String,
    pub count: u64,
    pub documents: u64,
    pub fate: String,
    pub step: Option<usize>,
    pub reason: String,
    pub term: String,
}

/// The cells of a row as a spreadsheet may safely open them: one that would start a formula gets an apostrophe in front.
fn safe(cell: &str) -> Cow<'_, str> {
    if starts_formula(cell) { Cow::Owned(format!("'{cell}")) } else { Cow::Borrowed(cell) }
}

fn starts_formula(cell: &str) -> bool {
    match cell.as_bytes().first() {
        Some(b'=') => cell.contains(|c: char| c.is_alphanumeric() || matches!(c, '(' | '|' | '\'' | '"')),
        // A sign or a mention alone is harmless: only a call or a link to a program does something.
        Some(b'+' | b'-' | b'@') => cell.contains(['(', '|', '!']),
        _ => false,
    }
}

fn as_written(cell: String) -> String {
    match cell.strip_prefix('\'') {
        Some(rest) if starts_formula(rest) => rest.to_owned(),
        _ => cell,
    }
}

/// The share in millionths, rounded.
fn millionths(part: u64, whole: u64) -> u64 {
    if whole == 0 {
        return 0;
    }
    ((u128::from(part) * 1_000_000 + u128::from(whole) / 2) / u128::from(whole)) as u64
}

/// Writes `vocabulary.csv`.
///
/// # Errors
///
/// If the writer fails.
pub fn write_vocabulary(account: &Account<'_>, out: impl Write) -> Result<(), csv::Error> {
    let mut out = csv::Writer::from_writer(out);
    out.write_record(TERM_COLUMNS)?;
    let total = account.totals().tokens_kept;
    let mut so_far = 0;
    for (index, term) in account.vocabulary().enumerate() {
        so_far += term.count;
        let shares = [millionths(term.count, total), millionths(so_far, total)];
        let numbers = [index as u64 + 1, term.count, term.documents, term.forms];
        write_term(&mut out, term.text, term.commonest_form, term.kind().name(), numbers, shares)?;
    }
    Ok(out.flush()?)
}

const TERM_COLUMNS: [&str; 9] =
    ["rank", "term", "count", "documents", "share", "cumulative_share", "kind", "forms", "commonest_form"];

/// One row; `numbers` are rank, tokens, documents and forms, `millionths` the share of the
/// term and of all so far.
fn write_term(
    out: &mut csv::Writer<impl Write>,
    term: &str,
    commonest_form: &str,
    kind: &str,
    numbers: [u64; 4],
    millionths: [u64; 2],
) -> Result<(), csv::Error> {
    let mut digits: [itoa::Buffer; 4] = Default::default();
    let [rank, count, documents, forms] = &mut digits;
    let [rank, count, documents, forms] = [
        rank.format(numbers[0]),
        count.format(numbers[1]),
        documents.format(numbers[2]),
        forms.format(numbers[3]),
    ];
    let shares = millionths.map(decimal);
    let [share, cumulative] =
        [&shares[0], &shares[1]].map(|share| std::str::from_utf8(share).unwrap_or_default());
    let (term, form) = (safe(term), safe(commonest_form));
    out.write_record([rank, term.as_ref(), count, documents, share, cumulative, kind, forms, form.as_ref()])
}

/// Millionths as a decimal number with six digits behind the point.
fn decimal(millionths: u64) -> [u8; 8] {
    let mut digits = *b"0.000000";
    let mut rest = millionths;
    for at in (2..8).rev() {
        digits[at] = b'0' + (rest % 10) as u8;
        rest /= 10;
    }
    digits[0] = b'0' + (rest % 10) as u8;
    digits
}

/// Writes `forms.csv`.
///
/// # Errors
///
/// If the writer fails.
pub fn write_forms(account: &Account<'_>, out: impl Write) -> Result<(), csv::Error> {
    let mut out = csv::Writer::from_writer(out);
    out.write_record(["form", "kind", "tag", "count", "documents", "fate", "step", "reason", "term"])?;
    let mut reasons: HashMap<(usize, u16), String> = HashMap::new();
    for row in account.forms() {
        let (mut count, mut documents, mut digits) = <(itoa::Buffer, itoa::Buffer, itoa::Buffer)>::default();
        let (fate, step, reason, term) = match row.fate {
            FormFate::Kept { term } => ("kept", "", "", term),
            FormFate::Dropped { step, reason } => {
                // Many forms, few reasons.
                let known = reasons.entry((step, reason)).or_insert_with(|| account.reason(step, reason).1);
                ("dropped", digits.format(step), known.as_str(), "")
            }
        };
        out.write_record([
            safe(row.text).as_ref(),
            yarrup_core::split::Kind::of(row.text).name(),
            "",
            count.format(row.count),
            documents.format(row.documents),
            fate,
            step,
            reason,
            &safe(term),
        ])?;
    }
    Ok(out.flush()?)
}

/// Writes `effects.csv`.
///
/// # Errors
///
/// If the writer fails.
pub fn write_effects(effects: &[Effect], out: impl Write) -> Result<(), csv::Error> {
    let mut out = csv::Writer::from_writer(out);
    out.write_record([
        "step",
        "do",
        "label",
        "documents_touched",
        "tokens_in",
        "tokens_dropped",
        "tokens_added",
        "tokens_changed",
        "tokens_out",
        "types_in",
        "types_out",
        "matches",
        "characters_in",
        "characters_out",
    ])?;
    for effect in effects {
        let cell = |count: Option<u64>| count.map(|count| count.to_string()).unwrap_or_default();
        out.write_record([
            effect.step.to_string(),
            effect.operation.to_owned(),
            effect.label.clone().unwrap_or_default(),
            cell(effect.documents_touched),
            cell(effect.tokens_in),
            cell(effect.tokens_dropped),
            cell(effect.tokens_added),
            cell(effect.tokens_changed),
            cell(effect.tokens_out),
            cell(effect.types_in),
            cell(effect.types_out),
            cell(effect.matches),
            cell(effect.characters_in),
            cell(effect.characters_out),
        ])?;
    }
    Ok(out.flush()?)
}

/// Writes `skipped.csv`: the records that are no documents, each with its place and what is wrong with it.
///
/// # Errors
///
/// If the writer fails.
pub fn write_skipped(skipped: &[Malformed], out: impl Write) -> Result<(), csv::Error> {
    let mut out = csv::Writer::from_writer(out);
    out.write_record(["place", "why"])?;
    for record in skipped {
        out.write_record([safe(&record.place), safe(&record.why)].map(|cell| cell.into_owned()))?;
    }
    Ok(out.flush()?)
}

/// Writes terms as `vocabulary.csv` has them.
///
/// # Errors
///
/// If the writer fails.
pub fn write_term_entries(terms: &[TermEntry], out: impl Write) -> io::Result<()> {
    let mut out = csv::Writer::from_writer(out);
    out.write_record(TERM_COLUMNS).map_err(into_io)?;
    for term in terms {
        let numbers = [term.rank, term.count, term.documents, term.forms];
        let shares = [term.share, term.cumulative_share].map(|share| (share * 1e6).round() as u64);
        write_term(&mut out, &term.term, &term.commonest_form, &term.kind, numbers, shares)
            .map_err(into_io)?;
    }
    out.flush()
}

/// Writes forms as `forms.csv` has them.
///
/// # Errors
///
/// If the writer fails.
pub fn write_form_entries<'f>(forms: impl Iterator<Item = &'f FormEntry>, out: impl Write) -> io::Result<()> {
    let mut out = csv::Writer::from_writer(out);
    for entry in forms {
        let (form, term) = (safe(&entry.form).into_owned(), safe(&entry.term).into_owned());
        out.serialize(FormEntry { form, term, ..entry.clone() }).map_err(into_io)?;
    }
    out.flush()
}

/// The system's error behind one of the table writer.
pub(crate) fn into_io(error: csv::Error) -> io::Error {
    let told = error.to_string();
    match error.into_kind() {
        csv::ErrorKind::Io(error) => error,
        _ => io::Error::other(told),
    }
}

fn damaged(path: &Path, why: &impl ToString) -> RunError {
    RunError::Damaged { path: path.display().to_string(), why: why.to_string() }
}

/// Reads `run.json` of a run folder.
///
/// # Errors
///
/// If there is no run at this place, or its record is damaged.
pub fn read_run(folder: &Path) -> Result<RunRecord, RunError> {
    let path = folder.join("run.json");
    let bytes = fs::read(&path).map_err(|why| match why.kind() {
        io::ErrorKind::NotFound | io::ErrorKind::NotADirectory => {
            RunError::NoRun { path: folder.display().to_string() }
        }
        _ => refused(&path)(why),
    })?;
    serde_json::from_slice(&bytes).map_err(|error| damaged(&path, &error))
}

/// The recipe of a run, as it was given.
pub fn recipe_path(folder: &Path) -> PathBuf {
    folder.join("recipe.toml")
}

/// The vocabulary of a run, read row by row.
pub struct VocabularyFile {
    path: PathBuf,
    rows: csv::DeserializeRecordsIntoIter<File, TermEntry>,
}

impl Iterator for VocabularyFile {
    type Item = Result<TermEntry, RunError>;

    fn next(&mut self) -> Option<Self::Item> {
        let row = self.rows.next()?;
        Some(row.map_err(|error| damaged(&self.path, &error)).map(|entry| TermEntry {
            term: as_written(entry.term),
            commonest_form: as_written(entry.commonest_form),
            ..entry
        }))
    }
}

/// Opens `vocabulary.csv` of a run folder.
///
/// # Errors
///
/// If there is no run at this place, or the file cannot be opened.
pub fn read_vocabulary(folder: &Path) -> Result<VocabularyFile, RunError> {
    read_run(folder)?;
    let path = folder.join("vocabulary.csv");
    let file = File::open(&path).map_err(refused(&path))?;
    Ok(VocabularyFile { path, rows: csv::Reader::from_reader(file).into_deserialize() })
}

/// Gives every row of `forms.csv` of a run folder to `visit`.
///
/// # Errors
///
/// If there is no run at this place, or the file is damaged.
pub fn read_forms(folder: &Path, mut visit: impl FnMut(FormEntry)) -> Result<(), RunError> {
    read_run(folder)?;
    let path = folder.join("forms.csv");
    let file = File::open(&path).map_err(refused(&path))?;
    for row in csv::Reader::from_reader(file).into_deserialize::<FormEntry>() {
        let row = row.map_err(|error| damaged(&path, &error))?;
        visit(FormEntry { form: as_written(row.form), term: as_written(row.term), ..row });
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_folder_is_whole_or_not_there() {
        let home = tempfile::tempdir().expect("a folder");
        let target = home.path().join("run");
        let unfinished = RunFolder::create(&target, false).expect("room");
        unfinished.write("a.txt", b"x").expect("written");
        assert!(!target.exists());
        drop(unfinished);
        assert_eq!(fs::read_dir(home.path()).expect("readable").count(), 0);
        let run = RunFolder::create(&target, false).expect("room");
        run.write("run.json", b"{}").expect("written");
        run.finish().expect("renamed");
        assert!(matches!(RunFolder::create(&target, false), Err(RunError::Exists { .. })));
        let again = RunFolder::create(&target, true).expect("replaced");
        again.write("run.json", b"{1}").expect("written");
        again.finish().expect("renamed");
        assert_eq!(fs::read(target.join("run.json")).expect("there"), b"{1}");
        assert_eq!(fs::read_dir(home.path()).expect("readable").count(), 1);
    }

    #[test]
    fn other_folders_are_never_replaced() {
        let home = tempfile::tempdir().expect("a folder");
        fs::write(home.path().join("thesis.txt"), "x").expect("written");
        assert!(matches!(RunFolder::create(home.path(), true), Err(RunError::NotARun { .. })));
    }

    #[test]
    fn cells_start_no_formula() {
        for (cell, written) in [
            ("=HYPERLINK(\"x\")", "'=HYPERLINK(\"x\")"),
            ("=1+1", "'=1+1"),
            ("@SUM(A1)", "'@SUM(A1)"),
            ("+cmd|x!A0", "'+cmd|x!A0"),
            ("-3.5", "-3.5"),
            ("@warden", "@warden"),
            ("=", "="),
            ("tern", "tern"),
        ] {
            assert_eq!(safe(cell), written);
            assert_eq!(as_written(safe(cell).into_owned()), cell);
        }
    }
}
