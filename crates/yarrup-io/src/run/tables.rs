//! The tables of a run folder, for people and other tools: drawn from the views of the account.

use std::collections::BTreeMap;
use std::io::{self, Write};

use serde::Serialize;
use yarrup_core::step::Term;
use yarrup_core::{Account, Effect, FormFate, FormRow, Kind, LearnedStep, MatchRow, Tag};

use crate::csv_error::into_io;
use crate::csv_table::{TableWriter, restored};
use crate::record::Malformed;

/// A row of `vocabulary.csv`.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[allow(missing_docs, reason = "docs/run-folder.md explains the columns")]
pub struct TermEntry<'a> {
    pub rank: u64,
    pub term: &'a str,
    pub count: u64,
    pub documents: u64,
    pub share: f64,
    pub cumulative_share: f64,
    pub kind: &'static str,
    pub tag: &'static str,
    pub forms: u64,
    pub commonest_form: &'a str,
}

/// A row of `forms.csv`.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[allow(missing_docs, reason = "docs/run-folder.md explains the columns")]
pub struct FormEntry<'a> {
    /// Its row in the account.
    pub row: usize,
    pub form: &'a str,
    pub kind: &'static str,
    pub tag: &'static str,
    pub count: u64,
    pub documents: u64,
    pub fate: &'static str,
    pub step: Option<usize>,
    pub reason: &'a str,
    pub term: &'a str,
}

/// The share in millionths, rounded.
fn millionths(part: u64, whole: u64) -> u64 {
    if whole == 0 {
        return 0;
    }
    match part.checked_mul(1_000_000).and_then(|part| part.checked_add(whole / 2)) {
        Some(part) => part / whole,
        None => ((u128::from(part) * 1_000_000 + u128::from(whole) / 2) / u128::from(whole)) as u64,
    }
}

/// The vocabulary of an account as rows, each with its share of all tokens that were kept.
pub fn term_entries<'a>(
    account: &'a Account,
    vocabulary: &[Term<'a>],
) -> impl Iterator<Item = TermEntry<'a>> {
    let total = account.totals.tokens_kept;
    let mut so_far = 0;
    let entry = move |(term, rank): (&Term<'a>, u64)| {
        so_far += term.count;
        let share = |part| millionths(part, total) as f64 / 1e6;
        TermEntry {
            rank,
            term: term.text,
            count: term.count,
            documents: term.documents,
            share: share(term.count),
            cumulative_share: share(so_far),
            kind: term.kind().name(),
            tag: term.tag.map_or("", Tag::code),
            forms: term.forms,
            commonest_form: term.commonest_form,
        }
    };
    vocabulary.iter().zip(1..).map(entry)
}

/// A form of an account as a row.
pub fn form_entry<'a>(account: &'a Account, row: &FormRow<'a>) -> FormEntry<'a> {
    let (fate, step, reason, term) = match row.fate {
        FormFate::Kept { term } => ("kept", None, "", term),
        FormFate::Dropped { step, reason } => ("dropped", Some(step), account.reason(step, reason), ""),
        FormFate::Joined { step, into } => {
            ("joined", Some(step), "part of another token", into.unwrap_or_default())
        }
    };
    FormEntry {
        row: row.row,
        form: row.text,
        kind: Kind::of(row.text).name(),
        tag: row.tag.map_or("", Tag::code),
        count: row.count,
        documents: row.documents,
        fate,
        step,
        reason,
        term,
    }
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

/// Writes terms as `vocabulary.csv` has them, with a column behind the others for each of these weights.
///
/// # Errors
///
/// If the writer fails.
pub fn write_terms<'a>(
    terms: impl IntoIterator<Item = (TermEntry<'a>, Vec<f64>)>,
    weights: &[&str],
    out: impl Write,
) -> io::Result<()> {
    let columns = TERM_COLUMNS.iter().chain(weights);
    let mut out = TableWriter::new(out, columns).map_err(into_io)?;
    for (term, weights) in terms {
        let mut digits: [itoa::Buffer; 4] = Default::default();
        let [rank, count, documents, forms] = &mut digits;
        let shares = [term.share, term.cumulative_share].map(|share| decimal((share * 1e6).round() as u64));
        let [share, cumulative] =
            [&shares[0], &shares[1]].map(|share| std::str::from_utf8(share).unwrap_or_default());
        let cells = [
            rank.format(term.rank),
            term.term,
            count.format(term.count),
            documents.format(term.documents),
            share,
            cumulative,
            term.kind,
            term.tag,
            forms.format(term.forms),
            term.commonest_form,
        ];
        if weights.is_empty() {
            out.row(cells).map_err(into_io)?;
        } else {
            let weights: Vec<String> = weights.iter().map(|weight| format!("{weight:.6}")).collect();
            out.row(cells.into_iter().chain(weights.iter().map(String::as_str))).map_err(into_io)?;
        }
    }
    out.finish()
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

/// Writes forms as `forms.csv` has them.
///
/// # Errors
///
/// If the writer fails.
pub fn write_forms<'a>(forms: impl Iterator<Item = FormEntry<'a>>, out: impl Write) -> io::Result<()> {
    let mut out = TableWriter::new(out, FORM_COLUMNS).map_err(into_io)?;
    for entry in forms {
        let (mut count, mut documents, mut step) = <(itoa::Buffer, itoa::Buffer, itoa::Buffer)>::default();
        out.row([
            entry.form,
            entry.kind,
            entry.tag,
            count.format(entry.count),
            documents.format(entry.documents),
            entry.fate,
            entry.step.map_or("", |number| step.format(number)),
            entry.reason,
            entry.term,
        ])
        .map_err(into_io)?;
    }
    out.finish()
}

const FORM_COLUMNS: [&str; 9] =
    ["form", "kind", "tag", "count", "documents", "fate", "step", "reason", "term"];

/// Writes `learned.csv`: what steps have learned from the collection, with the evidence.
///
/// # Errors
///
/// If the writer fails.
pub fn write_learned(steps: &[LearnedStep], out: impl Write) -> Result<(), csv::Error> {
    let mut out = TableWriter::new(out, ["step", "do", "learned", "to", "count", "documents", "score"])?;
    for step in steps {
        let number = step.step.to_string();
        for learned in &step.learned {
            out.row([
                number.as_str(),
                step.operation.as_str(),
                (&learned.text),
                learned.to.as_deref().unwrap_or_default(),
                &learned.count.to_string(),
                &learned.documents.to_string(),
                &learned.score.map_or(String::new(), |score| format!("{score:.4}")),
            ])?;
        }
    }
    Ok(out.finish()?)
}

/// Writes `growth.csv`: numbers of tokens, with the numbers of distinct terms among the first so many.
///
/// # Errors
///
/// If the writer fails.
pub fn write_growth(points: &[(u64, u64)], out: impl Write) -> Result<(), csv::Error> {
    let mut out = TableWriter::new(out, ["tokens", "terms"])?;
    for (tokens, terms) in points {
        out.row([tokens.to_string(), terms.to_string()])?;
    }
    Ok(out.finish()?)
}

/// Writes `lengths.csv`: how many documents have so many tokens, as found and in the end.
///
/// # Errors
///
/// If the writer fails.
pub fn write_lengths(lengths: &BTreeMap<u64, (u64, u64)>, out: impl Write) -> Result<(), csv::Error> {
    let mut out = TableWriter::new(out, ["tokens", "documents_before", "documents_after"])?;
    for (tokens, (before, after)) in lengths {
        out.row([tokens.to_string(), before.to_string(), after.to_string()])?;
    }
    Ok(out.finish()?)
}

/// The numbers of a table such as `growth.csv` or `lengths.csv`, row by row.
///
/// # Errors
///
/// If a cell is no number.
pub fn read_numbers(table: &[u8]) -> Result<Vec<Vec<u64>>, String> {
    let mut reader = csv::Reader::from_reader(table);
    let row = |record: csv::StringRecord| {
        record.iter().map(|cell| cell.parse().map_err(|_| format!("`{cell}` is not a number"))).collect()
    };
    reader.records().map(|record| record.map_err(|why| why.to_string()).and_then(row)).collect()
}

/// Writes `matches.csv`: what each text step matched, by sort, with examples.
///
/// # Errors
///
/// If the writer fails.
pub fn write_matches(rows: &[MatchRow], out: impl Write) -> Result<(), csv::Error> {
    let mut out = TableWriter::new(
        out,
        ["step", "do", "label", "sort", "count", "documents", "example_1", "example_2", "example_3"],
    )?;
    for row in rows {
        let (step, count, documents) =
            (row.step.to_string(), row.count.to_string(), row.documents.to_string());
        let example = |place: usize| row.examples.get(place).map_or("", String::as_str);
        out.row([
            step.as_str(),
            row.operation.as_str(),
            row.label.as_deref().unwrap_or_default(),
            (&row.sort),
            &count,
            &documents,
            example(0),
            example(1),
            example(2),
        ])?;
    }
    Ok(out.finish()?)
}

/// Writes `effects.csv`.
///
/// # Errors
///
/// If the writer fails.
pub fn write_effects(effects: &[Effect], out: impl Write) -> Result<(), csv::Error> {
    let mut out = TableWriter::new(
        out,
        [
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
            // Behind the columns that scripts know by their places.
            "tokens_joined",
            "tokens_marked",
        ],
    )?;
    for effect in effects {
        let cell = |count: Option<u64>| count.map(|count| count.to_string()).unwrap_or_default();
        out.row([
            effect.step.to_string(),
            effect.operation.clone(),
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
            cell(effect.tokens_joined),
            cell(effect.tokens_marked),
        ])?;
    }
    Ok(out.finish()?)
}

/// `dropped-documents.csv`: the documents that steps left out, each with the step, the reason, and for a copy the document that it repeats.
pub struct DroppedTable<W: Write>(TableWriter<W>);

impl<W: Write> DroppedTable<W> {
    /// Begins the table.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn new(out: W) -> Result<DroppedTable<W>, csv::Error> {
        let out = TableWriter::new(out, ["id", "step", "reason", "original"])?;
        Ok(DroppedTable(out))
    }

    /// Adds a row.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn write(&mut self, id: &str, step: usize, reason: &str, original: &str) -> Result<(), csv::Error> {
        self.0.row([id, step.to_string().as_str(), reason, original])
    }

    /// Ends the table.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn finish(self) -> io::Result<()> {
        self.0.finish()
    }
}

/// The documents of `dropped-documents.csv`: id, step and reason of each.
pub fn dropped_documents(table: &[u8]) -> impl Iterator<Item = Result<(String, usize, String), csv::Error>> {
    csv::Reader::from_reader(table).into_records().map(|row| {
        let row = row?;
        let cell = |place: usize| restored(row.get(place).unwrap_or_default());
        Ok((cell(0).to_owned(), cell(1).parse().unwrap_or_default(), cell(2).to_owned()))
    })
}

/// `skipped.csv`: what gave no document, each with its place and what is wrong with it.
pub struct SkippedTable<W: Write>(TableWriter<W>);

impl<W: Write> SkippedTable<W> {
    /// Begins the table.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn new(out: W) -> Result<SkippedTable<W>, csv::Error> {
        let out = TableWriter::new(out, ["place", "why"])?;
        Ok(SkippedTable(out))
    }

    /// Adds a row.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn write(&mut self, malformed: &Malformed) -> Result<(), csv::Error> {
        self.0.row([malformed.place.as_str(), &malformed.why.to_string()])
    }

    /// Ends the table.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn finish(self) -> io::Result<()> {
        self.0.finish()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

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
