//! Tables as CSV that a spreadsheet may safely open, and the way back.
//!
//! A spreadsheet takes a cell for a formula that begins with `=`, `+`, `-` or `@`, also behind white space, and a formula can call programs and send
//! what it finds elsewhere. Such a cell gets an apostrophe in front, and so does one that has such an apostrophe already, so that every cell can be
//! had back as it was.

use std::borrow::Cow;
use std::io::{self, Write};

use csv::{Error, Writer};

/// Why a table could not be written, as the system told it: a reader that has gone is known by that.
pub fn table_failure(why: Error) -> io::Error {
    match why.into_kind() {
        csv::ErrorKind::Io(why) => why,
        other => io::Error::other(format!("{other:?}")),
    }
}

/// Writes a table as CSV. No cell of it starts a formula, unless cells are wanted as they are.
pub struct TableWriter<W: Write> {
    writer: Writer<W>,
    cells: Cells,
}

/// How cells are written that a spreadsheet would take for formulas.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Cells {
    /// With an apostrophe in front.
    Safe,
    /// As they are, for programs that are no spreadsheets.
    AsIs,
}

impl<W: Write> TableWriter<W> {
    /// Begins a table with these columns.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn new<C: AsRef<str>>(out: W, columns: impl IntoIterator<Item = C>) -> Result<TableWriter<W>, Error> {
        TableWriter::with(Cells::Safe, out, columns)
    }

    /// Begins a table whose cells are written in this way.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn with<C: AsRef<str>>(
        cells: Cells,
        out: W,
        columns: impl IntoIterator<Item = C>,
    ) -> Result<TableWriter<W>, Error> {
        let mut table = TableWriter::rows_only(cells, out);
        table.row(columns)?;
        Ok(table)
    }

    /// Begins a table with this sign between its cells, which are written as they are.
    pub(crate) fn separated<C: AsRef<str>>(
        separator: u8,
        out: W,
        columns: impl IntoIterator<Item = C>,
    ) -> Result<TableWriter<W>, Error> {
        let writer = csv::WriterBuilder::new().delimiter(separator).flexible(true).from_writer(out);
        let mut table = TableWriter { writer, cells: Cells::AsIs };
        table.row(columns)?;
        Ok(table)
    }

    /// Goes on with a table of which the columns stand elsewhere.
    pub(crate) fn rows_only(cells: Cells, out: W) -> TableWriter<W> {
        TableWriter { writer: Writer::from_writer(out), cells }
    }

    /// Adds a row.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn row<C: AsRef<str>>(&mut self, cells: impl IntoIterator<Item = C>) -> Result<(), Error> {
        for cell in cells {
            self.cell(cell.as_ref())?;
        }
        self.end_row()
    }

    /// Adds a cell to the row.
    pub(crate) fn cell(&mut self, cell: &str) -> Result<(), Error> {
        // Most cells are numbers and words: one look at the first byte.
        if self.cells == Cells::Safe && may_start_formula(cell) {
            self.writer.write_field(safe(cell).as_bytes())
        } else {
            self.writer.write_field(cell)
        }
    }

    /// Ends the row.
    pub(crate) fn end_row(&mut self) -> Result<(), Error> {
        self.writer.write_record(None::<&[u8]>)
    }

    /// What the table was written to, with all of it written.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn into_inner(self) -> io::Result<W> {
        self.writer
            .into_inner()
            .map_err(|error| io::Error::new(error.error().kind(), error.error().to_string()))
    }

    /// Ends the table.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn finish(mut self) -> io::Result<()> {
        self.writer.flush()
    }
}

/// Whether the first byte leaves it open that a cell starts a formula.
fn may_start_formula(cell: &str) -> bool {
    matches!(cell.as_bytes().first(), Some(b'=' | b'+' | b'-' | b'@' | b'\'' | 0..=b' ' | 0x80..))
}

/// A cell as a spreadsheet may open it.
pub(crate) fn safe(cell: &str) -> Cow<'_, str> {
    if starts_formula(cell.trim_start_matches('\'')) {
        Cow::Owned(format!("'{cell}"))
    } else {
        Cow::Borrowed(cell)
    }
}

/// A cell of a table that was written here, as it was before a sign was put in front that keeps it from starting a formula.
pub fn restored_cell(cell: &str) -> &str {
    restored(cell)
}

/// A cell as it was before [`safe`].
pub(crate) fn restored(cell: &str) -> &str {
    match cell.strip_prefix('\'') {
        Some(rest) if starts_formula(rest.trim_start_matches('\'')) => rest,
        _ => cell,
    }
}

fn starts_formula(cell: &str) -> bool {
    let cell = cell.trim_start_matches(|c: char| c.is_whitespace() || c.is_control() || c == '\u{feff}');
    // The wide forms are signs as well where the system's language writes them.
    if !cell.starts_with(['=', '+', '-', '@', '＝', '＋', '－', '＠']) {
        return false;
    }
    // A number is one, and a row of signs alone, such as a dash or a face, names nothing that could be called.
    cell.parse::<f64>().is_err()
        && cell.contains(|c: char| c.is_alphanumeric() || matches!(c, '(' | '|' | '!' | '\'' | '"' | '['))
}

/// How the tables of a run, and those that commands print, begin.
const OURS: [&[&str]; 8] = [
    &["rank", "term", "count", "documents"],
    &["form", "kind", "tag", "count", "documents", "fate"],
    &["step", "do", "label"],
    &["step", "do", "learned", "to"],
    &["id", "step", "reason", "original"],
    &["place", "why"],
    &["word", "tag"],
    &["name", "what", "language", "about"],
];

/// Whether a table with these columns is one that was written here.
pub(crate) fn is_ours(columns: &[String]) -> bool {
    OURS.iter()
        .any(|ours| columns.len() >= ours.len() && columns.iter().zip(*ours).all(|(one, other)| one == other))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn cells_start_no_formula_and_come_back() {
        for (cell, written) in [
            ("=HYPERLINK(\"x\")", "'=HYPERLINK(\"x\")"),
            ("=1+1", "'=1+1"),
            ("'=1", "''=1"),
            ("''=1", "'''=1"),
            (" =1+1", "' =1+1"),
            ("\t=1", "'\t=1"),
            ("\r\n=1", "'\r\n=1"),
            ("\u{a0}@SUM(A1)", "'\u{a0}@SUM(A1)"),
            ("\u{feff}=1", "'\u{feff}=1"),
            ("@SUM(A1)", "'@SUM(A1)"),
            ("@warden", "'@warden"),
            ("+cmd|x!A0", "'+cmd|x!A0"),
            ("-2+3", "'-2+3"),
            ("＝1", "'＝1"),
            ("-3.5", "-3.5"),
            ("+7", "+7"),
            ("=", "="),
            ("-_-", "-_-"),
            ("--", "--"),
            ("'tis", "'tis"),
            ("tern", "tern"),
            ("", ""),
        ] {
            assert_eq!(safe(cell), written);
            assert_eq!(restored(written), cell);
            assert!(may_start_formula(cell) || safe(cell) == cell, "{cell}");
        }
    }

    proptest! {
        #[test]
        fn any_cells_come_back_and_none_starts_a_formula(
            rows in proptest::collection::vec(
                proptest::collection::vec("[=+@'\"a1(,;\\-\n\t ＝\u{feff}é]{0,6}", 3),
                0..8,
            ),
        ) {
            let mut table = TableWriter::new(Vec::new(), ["a", "b", "c"]).expect("memory");
            for row in &rows {
                table.row(row).expect("memory");
            }
            let bytes = table.into_inner().expect("memory");
            let mut read = csv::Reader::from_reader(&bytes[..]);
            let read: Vec<csv::StringRecord> = read.records().map(|row| row.expect("a row")).collect();
            let cells: Vec<Vec<&str>> = read.iter().map(|row| row.iter().map(restored).collect()).collect();
            prop_assert_eq!(&cells, &rows);
            for cell in read.iter().flatten() {
                let starts = cell.trim_start().starts_with(['=', '@', '＝']);
                prop_assert!(!starts || !cell.contains(['a', '1', '(']), "{:?}", cell);
            }
        }
    }

    #[test]
    fn a_table_is_written_row_by_row() {
        let mut bytes = Vec::new();
        let mut table = TableWriter::new(&mut bytes, ["term", "count"]).expect("written");
        table.row(["=1", "2"]).expect("written");
        table.row(["a,b", ""]).expect("written");
        table.finish().expect("written");
        assert_eq!(String::from_utf8(bytes).expect("text"), "term,count\n'=1,2\n\"a,b\",\n");
    }
}
