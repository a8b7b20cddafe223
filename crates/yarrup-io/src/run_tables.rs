//! The tables of a run folder, written and read again.

use std::borrow::Cow;
use std::collections::HashMap;
use std::fs::File;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use yarrup_core::step::Learned;
use yarrup_core::{Account, Effect, FormFate, MatchRow};

use crate::record::Malformed;
use crate::run_folder::{RunError, damaged, refused};
use crate::run_record::read_run;

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
    #[serde(default)]
    pub tag: String,
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
        let tag = term.tag.map_or("", yarrup_core::Tag::code);
        let texts = [term.text, term.commonest_form, term.kind().name(), tag];
        write_term(&mut out, texts, numbers, shares)?;
    }
    Ok(out.flush()?)
}

const TERM_COLUMNS: [&str; 10] = [
    "rank",
    "term",
    "count",
    "documents",
    "share",
    "cumulative_share",
    "kind",
    "tag",
    "forms",
    "commonest_form",
];

/// One row; `texts` are term, commonest form, kind and tag, `numbers` are rank, tokens, documents and forms, `millionths` the share of the
/// term and of all so far.
fn write_term(
    out: &mut csv::Writer<impl Write>,
    [term, commonest_form, kind, tag]: [&str; 4],
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
    out.write_record([
        rank,
        term.as_ref(),
        count,
        documents,
        share,
        cumulative,
        kind,
        tag,
        forms,
        form.as_ref(),
    ])
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
            FormFate::Joined { step, into } => {
                ("joined", digits.format(step), "part of another token", into.unwrap_or_default())
            }
        };
        out.write_record([
            safe(row.text).as_ref(),
            yarrup_core::Kind::of(row.text).name(),
            row.tag.map_or("", yarrup_core::Tag::code),
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

/// What a step has learned, for [`write_learned`].
#[derive(Clone, Debug, PartialEq)]
pub struct LearnedStep {
    /// The step's place in the recipe, from 1.
    pub step: usize,
    /// Its operation.
    pub operation: &'static str,
    /// What it learned.
    pub learned: Vec<Learned>,
}

/// Writes `learned.csv`: what steps have learned from the collection, with the evidence.
///
/// # Errors
///
/// If the writer fails.
pub fn write_learned(steps: &[LearnedStep], out: impl Write) -> Result<(), csv::Error> {
    let mut out = csv::Writer::from_writer(out);
    out.write_record(["step", "do", "learned", "to", "count", "documents", "score"])?;
    for step in steps {
        let number = step.step.to_string();
        for learned in &step.learned {
            out.write_record([
                number.as_str(),
                step.operation,
                &safe(&learned.text),
                &safe(learned.to.as_deref().unwrap_or_default()),
                &learned.count.to_string(),
                &learned.documents.to_string(),
                &learned.score.map_or(String::new(), |score| format!("{score:.4}")),
            ])?;
        }
    }
    Ok(out.flush()?)
}

/// Writes `matches.csv`: what each text step matched, by sort, with examples.
///
/// # Errors
///
/// If the writer fails.
pub fn write_matches(rows: &[MatchRow], out: impl Write) -> Result<(), csv::Error> {
    let mut out = csv::Writer::from_writer(out);
    out.write_record([
        "step",
        "do",
        "label",
        "sort",
        "count",
        "documents",
        "example_1",
        "example_2",
        "example_3",
    ])?;
    for row in rows {
        let (step, count, documents) =
            (row.step.to_string(), row.count.to_string(), row.documents.to_string());
        let example = |place: usize| row.examples.get(place).map_or("", String::as_str);
        out.write_record([
            step.as_str(),
            row.operation,
            &safe(row.label.as_deref().unwrap_or_default()),
            &safe(&row.sort),
            &count,
            &documents,
            &safe(example(0)),
            &safe(example(1)),
            &safe(example(2)),
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

/// `skipped.csv`: what gave no document, each with its place and what is wrong with it.
pub struct SkippedTable<W: Write>(csv::Writer<W>);

impl<W: Write> SkippedTable<W> {
    /// Begins the table.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn new(out: W) -> Result<SkippedTable<W>, csv::Error> {
        let mut out = csv::Writer::from_writer(out);
        out.write_record(["place", "why"])?;
        Ok(SkippedTable(out))
    }

    /// Adds a row.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn write(&mut self, malformed: &Malformed) -> Result<(), csv::Error> {
        self.0.write_record(
            [safe(&malformed.place), safe(&malformed.why.to_string())].map(|cell| cell.into_owned()),
        )
    }

    /// Ends the table.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn finish(mut self) -> io::Result<()> {
        self.0.flush()
    }
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
        let texts = [&term.term, &term.commonest_form, &term.kind, &term.tag].map(String::as_str);
        write_term(&mut out, texts, numbers, shares).map_err(into_io)?;
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

    #[test]
    fn shares_have_six_digits() {
        let shown = |part, whole| String::from_utf8_lossy(&decimal(millionths(part, whole))).into_owned();
        assert_eq!(shown(1, 3), "0.333333");
        assert_eq!(shown(2, 3), "0.666667");
        assert_eq!(shown(5, 5), "1.000000");
        assert_eq!(shown(0, 0), "0.000000");
        assert_eq!(shown(u64::MAX - 1, u64::MAX), "1.000000");
    }
}
