//! Tables of separated values: CSV, TSV and their kin.

mod rows;

use std::borrow::Cow;
use std::collections::{HashMap, HashSet};
use std::convert::Infallible;
use std::io::Read;
use std::sync::Arc;

use crate::csv_table::{is_ours, restored};
use crate::documents::{
    BATCH_BYTES, Chunk, Format, FormatFacts, Header, Input, More, Out, ReadError, Reader, Start, Unit, Visit,
};
use crate::encoding::repaired;
use crate::names::ending;
use crate::record::{Carried, Column, FieldType, Selection, Why};
use rows::{RowBatch, RowReader, Suspect};

/// What may stand between cells, in the order of preference.
const SEPARATORS: [u8; 6] = [b',', b'\t', b';', b'|', b'^', 0x1f];
/// How many rows are looked at to tell how a table is written.
const LOOK_ROWS: usize = 60;

pub(crate) struct Table;

impl Reader for Table {
    fn format(&self) -> Format {
        Format::of(&FormatFacts {
            name: "csv",
            about: "a table of values separated by commas, tabs, semicolons or bars",
            endings: &["csv", "tsv", "tab", "psv"],
            units: &[Unit::Row],
            is_any_text: true,
        })
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        // Text has commas too: only what has no name is told by its rows, and only where they are strictly regular.
        let Some(text) = start.text.filter(|_| start.unnamed) else { return false };
        // Folders may hold tens of thousands of files of program code: few of them are regular beyond the first rows.
        let first_line = text.lines().find(|line| !line.trim().is_empty()).unwrap_or_default().as_bytes();
        let begins_regularly = |separator: &u8| {
            let rows = first_rows(text, *separator, 3);
            rows.len() == 3 && rows.iter().all(|row| row.len() == rows[0].len())
        };
        SEPARATORS.iter().filter(|separator| first_line.contains(separator)).any(|separator| {
            if !begins_regularly(separator) {
                return false;
            }
            let shape = Shape::of(text, *separator);
            shape.rows >= 3 && shape.ragged == 0 && shape.filled >= if *separator == b',' { 3 } else { 2 }
        })
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let asked = out.options().encoding;
        let start = input.opened.look()?;
        let encoding = asked.or_else(|| crate::encoding::of_start(start)).unwrap_or(encoding_rs::UTF_8);
        let start = encoding.decode(start).0.into_owned();
        let asked_row = out.options().header;
        let by_name = matches!(ending(&input.file_name).as_deref(), Some("tsv" | "tab")).then_some(b'\t');
        let separator = out.options().separator.or(by_name).unwrap_or_else(|| separator_of(&start));
        let (above, header) = match asked_row {
            Some(Header::None) => (0, false),
            Some(Header::First) => (0, true),
            Some(Header::Row(row)) => (row as usize - 1, true),
            None => match titles_of(&first_rows(&start, separator, LOOK_ROWS)) {
                0 => (0, has_header(&start, separator)),
                titles => {
                    out.note(told_above(titles))?;
                    (titles, true)
                }
            },
        };
        let reader = RowReader::new(input.text(asked)?, separator);
        read_rows(reader, (above, header), separator, out)
    }
}

fn read_rows<R: Read>(
    mut reader: RowReader<R>,
    (above, header): (usize, bool),
    separator: u8,
    out: &mut dyn Out,
) -> Result<(), ReadError> {
    let (mut suspects, mut told) = (Vec::new(), 0);
    let mut table: Option<TableFacts> = None;
    let mut has_names_alone = false;
    loop {
        let batch = reader.next(BATCH_BYTES, &mut suspects);
        for suspect in suspects.drain(..) {
            told += usize::from(matches!(suspect, Suspect::Long { .. }));
            if told <= TOLD || matches!(suspect, Suspect::Unclosed { .. }) {
                out.note(suspect.to_string())?;
            }
        }
        let Some(batch) = batch? else { break };
        let facts = match &table {
            Some(facts) => {
                has_names_alone = false;
                facts.clone()
            }
            None => {
                let Some((first, rows)) = TableFacts::of(&batch, (above, header), separator, out.selection())
                else {
                    continue;
                };
                has_names_alone = header && rows == above + 1;
                // What comes after has no header.
                table = Some(TableFacts { passed: 0, ..first.clone() });
                first
            }
        };
        out.give(Rows { facts, batch })?;
    }
    if table.is_none() && above > 0 {
        return Err(ReadError::sentence(format!("the table has no row {}", above + 1)));
    }
    if has_names_alone { out.passed_over(format!("{} ({ONLY_NAMES})", out.name())) } else { Ok(()) }
}

/// What is said of a table that is no document for want of a second row.
pub(super) const ONLY_NAMES: &str = "its only row names the columns; `--header false` reads it as a document";

/// How many long cells are told of.
const TOLD: usize = 3;

/// What is known of a table once its first rows were read.
#[derive(Clone)]
struct TableFacts {
    separator: u8,
    /// How many rows at the start are no records: what stands above the names of the columns, and these.
    passed: usize,
    columns: Arc<[Column]>,
    /// Whether the table was written here, so that its cells are to be had as they were before that.
    is_ours: bool,
}

impl TableFacts {
    /// What the first rows show, and how many these are; none if there are none. The types are those of the first rows; a later value that does not fit stays a text.
    fn of(
        batch: &RowBatch,
        (above, header): (usize, bool),
        separator: u8,
        selection: &Selection,
    ) -> Option<(TableFacts, usize)> {
        let mut rows = Vec::new();
        let Ok(()) = batch.rows::<Infallible>(separator, |_, row| {
            rows.push(row.clone());
            Ok(())
        });
        let first = rows.get(above)?;
        let names = first.iter().enumerate().map(|(index, name)| match header {
            true => repaired(name).0.trim().to_owned(),
            false => format!("column_{}", index + 1),
        });
        let names = unique_names(names);
        let passed = above + usize::from(header);
        let columns = typed(&names, &rows[passed..], selection);
        Some((TableFacts { separator, passed, is_ours: header && is_ours(&names), columns }, rows.len()))
    }

    /// Gives a row as a record.
    fn record(&self, line: u64, row: &csv::ByteRecord, visit: &mut Visit<'_>) -> More {
        let name = visit.name;
        let place = || format!("{name}:{line}");
        if row.len() != self.columns.len() {
            let cells = |n: usize| {
                if n == 1 { "1 cell".to_owned() } else { format!("{n} cells") }
            };
            let why =
                format!("the row has {}, the header has {}", cells(row.len()), cells(self.columns.len()));
            return visit.malformed(place(), Why::Record(why));
        }
        let mut broken_bytes = 0;
        let cells = row
            .iter()
            .map(|cell| {
                let (text, broken) = repaired(cell);
                broken_bytes += broken;
                match text {
                    Cow::Borrowed(text) if self.is_ours => Cow::Borrowed(restored(text)),
                    text => text,
                }
            })
            .collect();
        visit.record(Carried::Cells(&self.columns, cells), broken_bytes, place)
    }
}

/// Names, each of its own: a second column of one name would hide the first.
pub(super) fn unique_names(names: impl Iterator<Item = String>) -> Vec<String> {
    let mut taken = HashSet::new();
    // The number that was given last to each name, so that a million columns of one name are counted once.
    let mut numbers: HashMap<String, usize> = HashMap::new();
    let mut unique: Vec<String> = Vec::new();
    for (index, name) in names.enumerate() {
        let name = if name.is_empty() { format!("column_{}", index + 1) } else { name };
        let mut candidate = name.clone();
        if taken.contains(&candidate) {
            let number = numbers.entry(name.clone()).or_insert(1);
            while taken.contains(&candidate) {
                *number += 1;
                candidate = format!("{name}_{number}");
            }
        }
        taken.insert(candidate.clone());
        unique.push(candidate);
    }
    unique
}

fn typed(names: &[String], rows: &[csv::ByteRecord], selection: &Selection) -> Arc<[Column]> {
    let kind = |index: usize, name: &String| {
        if let Some((_, kind)) = selection.types.iter().find(|(named, _)| named == name) {
            return *kind;
        }
        let cells = rows
            .iter()
            .filter(|row| row.len() == names.len())
            .filter_map(|row| row.get(index))
            .filter_map(|cell| std::str::from_utf8(cell).ok())
            .map(str::trim)
            .filter(|cell| !cell.is_empty());
        let mut kind = None;
        for cell in cells {
            let this = FieldType::of(cell);
            kind = Some(kind.map_or(this, |kind: FieldType| kind.and(this)));
            if kind == Some(FieldType::Text) {
                break;
            }
        }
        kind.unwrap_or(FieldType::Text)
    };
    names
        .iter()
        .enumerate()
        .map(|(index, name)| Column { name: name.clone(), kind: kind(index, name) })
        .collect()
}

/// Rows, not yet taken apart.
struct Rows {
    facts: TableFacts,
    batch: RowBatch,
}

impl Chunk for Rows {
    fn bytes(&self) -> u64 {
        self.batch.bytes.len() as u64
    }

    fn has_text(&self) -> bool {
        false
    }

    fn records(&self, visit: &mut Visit<'_>) -> More {
        let mut passed = self.facts.passed;
        let given = self.batch.rows(self.facts.separator, |line, row| {
            if passed > 0 {
                passed -= 1;
                return Ok(());
            }
            match self.facts.record(line, row, visit) {
                More::Continue(()) => Ok(()),
                More::Break(()) => Err(()),
            }
        });
        if given.is_err() { More::Break(()) } else { More::Continue(()) }
    }
}

/// How regular a text is as a table.
#[derive(Clone, Copy, Debug)]
struct Shape {
    rows: usize,
    cells: usize,
    /// Columns of the first row in which any row has a value: lines of code that end with a semicolon have but one.
    filled: usize,
    /// Rows of another length than the first.
    ragged: usize,
}

impl Shape {
    fn of(text: &str, separator: u8) -> Shape {
        let rows = first_rows(text, separator, LOOK_ROWS);
        let rows = &rows[titles_of(&rows)..];
        let cells = rows.first().map_or(0, csv::StringRecord::len);
        let has_value = |column: &usize| {
            rows.iter().any(|row| row.get(*column).is_some_and(|cell| !cell.trim().is_empty()))
        };
        let filled = (0..cells).filter(has_value).count();
        let ragged = rows.iter().filter(|row| row.len() != cells).count();
        Shape { rows: rows.len(), cells, filled, ragged }
    }
}

/// The first rows, so many at most, without the last, which the end of the look may have cut.
fn first_rows(text: &str, separator: u8, most: usize) -> Vec<csv::StringRecord> {
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(separator)
        .flexible(true)
        .has_headers(false)
        .from_reader(text.as_bytes());
    let mut rows: Vec<_> = reader.records().take(most).map_while(Result::ok).collect();
    if rows.len() > 2 && rows.len() < most && !text.ends_with('\n') {
        rows.pop();
    }
    rows
}

/// The separator that cuts most rows into as many cells as the first.
fn separator_of(text: &str) -> u8 {
    let score = |separator: u8| {
        let shape = Shape::of(text, separator);
        let regular = shape.rows.saturating_sub(shape.ragged);
        if shape.cells > 1 { (regular * 10 / shape.rows, shape.cells) } else { (0, 0) }
    };
    let mut best = b',';
    for separator in SEPARATORS {
        if score(separator) > score(best) {
            best = separator;
        }
    }
    best
}

/// How many rows of a title stand above the names of the columns, by how many cells are filled in each of the first rows. `may_name` says whether the
/// cells of a row may be names. A title has one cell, and nearly all rows behind it have several.
pub(super) fn titles(filled: &[usize], may_name: impl Fn(usize) -> bool) -> usize {
    const MOST: usize = 5;
    let Some(titles) = filled.iter().position(|cells| *cells > 1) else { return 0 };
    let (names, behind) = (filled[titles], &filled[titles + 1..]);
    let several = behind.iter().filter(|cells| **cells > 1).count();
    let widest = behind.iter().copied().max().unwrap_or(0);
    let is_table = behind.len() > 1 && several * 10 >= behind.len() * 8 && names * 2 > widest;
    if titles <= MOST && is_table && may_name(titles) { titles } else { 0 }
}

/// The longest name of a column, in letters, where it is not said which row has these.
pub(super) const LONGEST_NAME: usize = 60;

/// What is said of rows that stand above the names of the columns.
pub(super) fn told_above(titles: usize) -> String {
    let (rows, are) = match titles {
        1 => ("the first row stands".to_owned(), "is"),
        _ => (format!("the first {titles} rows stand"), "are"),
    };
    format!(
        "{rows} above the names of the columns and {are} not read; `--header true` takes the first row for the names"
    )
}

/// The rows of a title in a text of separated values. All rows behind them are of one length.
fn titles_of(rows: &[csv::StringRecord]) -> usize {
    let filled: Vec<usize> =
        rows.iter().map(|row| row.iter().filter(|cell| !cell.trim().is_empty()).count()).collect();
    let may_name = |row: usize| {
        let mut names = HashSet::new();
        // A sentence with commas has spaces behind them.
        let mut is_name = |cell: &str| {
            cell.chars().count() <= LONGEST_NAME
                && !cell.starts_with(char::is_whitespace)
                && FieldType::of(cell) == FieldType::Text
                && (cell.is_empty() || names.insert(cell.to_owned()))
        };
        rows[row].iter().all(&mut is_name) && rows[row..].iter().all(|other| other.len() == rows[row].len())
    };
    titles(&filled, may_name)
}

/// Whether the first row names the columns: not if it looks like the rows below it, with numbers or dates in the same columns, or with cells
/// longer than any name.
fn has_header(text: &str, separator: u8) -> bool {
    let rows = first_rows(text, separator, LOOK_ROWS);
    let Some((first, below)) = rows.split_first() else { return true };
    let mut like_data = first.iter().any(|cell| cell.chars().count() > 80);
    for (index, cell) in first.iter().enumerate() {
        let kind = FieldType::of(cell.trim());
        let mut others =
            below.iter().filter_map(|row| row.get(index)).map(str::trim).filter(|cell| !cell.is_empty());
        let first_below = others.next().map(FieldType::of);
        let all_typed = first_below.is_some_and(|kind| kind != FieldType::Text)
            && others.all(|cell| FieldType::of(cell) != FieldType::Text);
        match (kind == FieldType::Text, all_typed) {
            // A word above numbers is a name.
            (true, true) if !cell.trim().is_empty() => return true,
            (false, true) => like_data = true,
            _ => {}
        }
    }
    !like_data
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn separators_are_told_by_regular_rows() {
        for (text, expected) in [
            ("id,text\n1,\"a; b; c\"\n2,x\n", b','),
            ("id;text\n1;a, b, c\n2;x, y\n", b';'),
            ("id\ttext\n1\ta,b\n", b'\t'),
            ("id|text|site\n1|a,b|c\n", b'|'),
            ("id^text\n1^a\n", b'^'),
            ("text\nonly, one column\n", b','),
        ] {
            assert_eq!(separator_of(text), expected, "{text}");
        }
    }

    #[test]
    fn what_has_no_name_is_a_table_where_its_rows_are_regular_and_have_values() {
        let is_table = |text: &str| {
            Table.recognises(&Start {
                bytes: text.as_bytes(),
                text: Some(text),
                unnamed: true,
                members: &[],
                media_type: "",
            })
        };
        for (text, expected) in [
            ("id;text\n1;a tern\n2;a gull\n", true),
            ("id\ttext\n1\ta tern\n2\t\n", true),
            ("id,text,site\n1,a,b\n2,c,d\n", true),
            ("One, two\nthree, four\nfive, six\n", false),
            ("@import \"a.css\";\n@import \"b.css\";\n@import \"c.css\";\n", false),
            ("int a;\nint b;\nint c;\n", false),
            ("a;b\nc;d;e\nf;g\n", false),
        ] {
            assert_eq!(is_table(text), expected, "{text}");
        }
    }

    #[test]
    fn a_header_is_told_from_data() {
        for (text, expected) in [
            ("id,text\n1,tern\n2,gull\n", true),
            ("1,tern\n2,gull\n", false),
            ("name,text\na,tern\nb,gull\n", true),
            ("2031-05-01,tern\n2031-05-02,gull\n", false),
            ("word,2019,2020\ntern,4,5\n", false),
            ("word,n,2020\ntern,4,5\n", true),
            ("id,text\n", true),
        ] {
            assert_eq!(has_header(text, b','), expected, "{text}");
        }
    }

    #[test]
    fn names_are_made_unique() {
        let names = ["a", "", "a", "a_2", "a"].map(str::to_owned);
        assert_eq!(unique_names(names.into_iter()), ["a", "column_2", "a_2", "a_2_2", "a_3"]);
    }
}
