//! Whole rows of a table of separated values, a batch at a time.
//!
//! Where a row ends is found by quotes and line breaks alone. Whoever works on the rows takes their cells apart, so that one reader keeps many workers
//! busy.

use std::borrow::Cow;
use std::fmt;
use std::io::{self, Read};

use csv::ByteRecord;
use memchr::{memchr, memchr_iter, memrchr2};

/// Whole rows of a table, and the line on which the first begins.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct RowBatch {
    pub(super) first_line: u64,
    pub(super) bytes: Vec<u8>,
}

/// The byte-order mark, which the reader of cells takes off what it is given.
const MARK: &[u8] = "\u{feff}".as_bytes();

impl RowBatch {
    /// Takes the cells apart, and gives every row with the line on which it begins.
    ///
    /// # Errors
    ///
    /// What `visit` answers.
    pub(super) fn rows<E>(
        &self,
        separator: u8,
        mut visit: impl FnMut(u64, &ByteRecord) -> Result<(), E>,
    ) -> Result<(), E> {
        // The mark of the table is gone already: another is part of its cell.
        let is_marked = self.bytes.starts_with(MARK);
        let bytes =
            if is_marked { Cow::Owned([MARK, &self.bytes].concat()) } else { Cow::Borrowed(&self.bytes) };
        let mut reader = csv::ReaderBuilder::new()
            .delimiter(separator)
            // Rows of another length than the header are ours to report, each by its line.
            .flexible(true)
            .has_headers(false)
            .from_reader(bytes.as_slice());
        let (mut line, mut counted, mut row) = (self.first_line, 0, ByteRecord::new());
        // What is in memory can be read.
        while reader.read_byte_record(&mut row).unwrap_or_default() {
            let ended = row.position().map_or(0, |position| position.byte() as usize);
            // Behind what ends the row before, and blank lines.
            let blank = bytes[ended..].iter().take_while(|byte| matches!(byte, b'\r' | b'\n')).count();
            line += memchr_iter(b'\n', &bytes[counted..ended + blank]).count() as u64;
            counted = ended + blank;
            visit(line, &row)?;
        }
        Ok(())
    }
}

/// A quoted cell that its reader should know of.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Suspect {
    /// It is long, begins on this line, and has this many bytes and lines.
    Long { line: u64, bytes: usize, lines: u64 },
    /// It begins on this line, and goes on to the end over several lines.
    Unclosed { line: u64 },
}

impl fmt::Display for Suspect {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Suspect::Long { line, bytes, lines } => write!(
                f,
                "line {line}: a cell of {} MB over {lines} lines begins here; if its quote is not closed, it contains the rows after it",
                bytes >> 20
            ),
            Suspect::Unclosed { line } => {
                write!(
                    f,
                    "line {line}: a quote is opened here and never closed: all that follows it is one cell"
                )
            }
        }
    }
}

/// Cuts a table into batches of whole rows.
pub(super) struct RowReader<R> {
    reader: R,
    rest: Vec<u8>,
    line: u64,
    /// Whether nothing was read yet.
    begins: bool,
    ended: bool,
    borders: Borders,
    /// The most bytes that a row may have.
    longest: usize,
}

/// The longest cell over several lines that nobody is told of.
const LONG_CELL: usize = 1 << 20;

impl<R: Read> RowReader<R> {
    pub(super) fn new(reader: R, separator: u8) -> RowReader<R> {
        let longest = yarrup_core::LONGEST_DOCUMENT;
        RowReader {
            reader,
            rest: Vec::new(),
            line: 1,
            begins: true,
            ended: false,
            borders: Borders::of(separator),
            longest,
        }
    }

    /// The next rows, some `batch_bytes` of them. What is suspect in them is told.
    ///
    /// # Errors
    ///
    /// If the source cannot be read on, or a row is too long.
    pub(super) fn next(
        &mut self,
        batch_bytes: usize,
        suspects: &mut Vec<Suspect>,
    ) -> io::Result<Option<RowBatch>> {
        let mut bytes = std::mem::take(&mut self.rest);
        self.borders.begin();
        let mut full = bytes.len() + batch_bytes;
        let end = loop {
            let filled = bytes.len();
            bytes.resize(full, 0);
            let count = self.reader.read(&mut bytes[filled..]);
            bytes.truncate(filled + *count.as_ref().unwrap_or(&0));
            let is_damaged = count.is_err();
            if let Ok(count) = count {
                self.ended = count == 0;
            }
            // How much is read depends on what is there to read, but not where a batch ends.
            if bytes.len() < full && !self.ended && !is_damaged {
                continue;
            }
            if self.begins {
                if bytes.len() < MARK.len() && !self.ended && !is_damaged {
                    full += MARK.len();
                    continue;
                }
                self.begins = false;
                bytes.drain(..if bytes.starts_with(MARK) { MARK.len() } else { 0 });
            }
            let border = self.borders.scan(&bytes, self.ended, |cell| {
                let lines = memchr_iter(b'\n', &bytes[cell.clone()]).count() as u64;
                if lines > 0 && cell.len() > LONG_CELL {
                    let line = self.line + memchr_iter(b'\n', &bytes[..cell.start]).count() as u64;
                    suspects.push(Suspect::Long { line, bytes: cell.len(), lines: lines + 1 });
                }
            });
            match (border, count) {
                _ if self.ended => break bytes.len(),
                (Some(border), _) => break border,
                (None, Err(error)) => return Err(error),
                (None, Ok(_)) if bytes.len() > self.longest => return Err(self.too_long(&bytes)),
                (None, Ok(_)) => full += batch_bytes,
            }
        };
        if self.ended
            && let Some(start) = self.borders.opened
            && memchr(b'\n', &bytes[start..]).is_some()
        {
            let line = self.line + memchr_iter(b'\n', &bytes[..start]).count() as u64;
            suspects.push(Suspect::Unclosed { line });
        }
        self.rest = bytes.split_off(end);
        let first_line = self.line;
        self.line += memchr_iter(b'\n', &bytes).count() as u64;
        Ok((!bytes.is_empty()).then_some(RowBatch { first_line, bytes }))
    }

    fn too_long(&self, bytes: &[u8]) -> io::Error {
        let start = self.borders.opened.unwrap_or_default();
        let line = self.line + memchr_iter(b'\n', &bytes[..start]).count() as u64;
        io::Error::other(match self.borders.opened {
            Some(_) => format!("line {line}: a quote is opened here and not closed within one GiB"),
            None => format!("line {line}: the row is longer than one GiB"),
        })
    }
}

/// Finds the ends of rows in bytes that begin with a row.
///
/// A quote opens a quoted cell where a cell begins, and is a sign like any other elsewhere. In a quoted cell two quotes stand for one, and a single one ends it
/// (RFC 4180, section 2).
struct Borders {
    separator: u8,
    /// Up to where was looked.
    at: usize,
    /// The last end of a row before that.
    last: Option<usize>,
    /// The quote that opened the cell in which `at` lies, if it is quoted.
    opened: Option<usize>,
}

impl Borders {
    fn of(separator: u8) -> Borders {
        Borders { separator, at: 0, last: None, opened: None }
    }

    /// Begins with other bytes.
    fn begin(&mut self) {
        (self.at, self.last, self.opened) = (0, None, None);
    }

    /// Looks at what has come since, and returns the last end of a row; quoted cells are given to `cell`.
    fn scan(
        &mut self,
        bytes: &[u8],
        is_end: bool,
        mut cell: impl FnMut(std::ops::Range<usize>),
    ) -> Option<usize> {
        while self.at < bytes.len() {
            let quote = memchr(b'"', &bytes[self.at..]).map(|length| self.at + length);
            match (self.opened, quote) {
                (None, quote) => {
                    let plain = self.at..quote.unwrap_or(bytes.len());
                    if let Some(end) = last_end(&bytes[plain.clone()], quote.is_some()) {
                        self.last = Some(plain.start + end);
                    }
                    self.at = plain.end;
                    if let Some(quote) = quote {
                        let begins_cell = quote == 0
                            || matches!(bytes[quote - 1], b'\n' | b'\r')
                            || bytes[quote - 1] == self.separator;
                        self.opened = begins_cell.then_some(quote);
                        self.at = quote + 1;
                    }
                }
                (Some(_), None) => self.at = bytes.len(),
                (Some(start), Some(quote)) => match bytes.get(quote + 1) {
                    Some(b'"') => self.at = quote + 2,
                    // What comes next tells whether it is one of two.
                    None if !is_end => {
                        self.at = quote;
                        break;
                    }
                    _ => {
                        cell(start + 1..quote);
                        self.opened = None;
                        self.at = quote + 1;
                    }
                },
            }
        }
        self.last
    }
}

/// The last end of a row in bytes outside of quotes: behind a line feed, or behind a carriage return that none follows, as far as one sees.
fn last_end(plain: &[u8], goes_on: bool) -> Option<usize> {
    let end = memrchr2(b'\n', b'\r', plain)?;
    if plain[end] == b'\r' && end + 1 == plain.len() && !goes_on {
        return last_end(&plain[..end], true).filter(|_| end > 0);
    }
    Some(end + 1)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Cells and lines of a table, by the package that takes cells apart, read in one go.
    fn in_one_go(text: &str) -> Vec<Vec<String>> {
        let mut reader =
            csv::ReaderBuilder::new().flexible(true).has_headers(false).from_reader(text.as_bytes());
        reader.records().map(|row| row.expect("text").iter().map(str::to_owned).collect()).collect()
    }

    type Rows = Vec<(u64, Vec<String>)>;

    fn in_batches(text: &str, batch_bytes: usize) -> (Rows, Vec<Suspect>) {
        let mut reader = RowReader::new(text.as_bytes(), b',');
        let (mut rows, mut suspects) = (Vec::new(), Vec::new());
        while let Some(batch) = reader.next(batch_bytes, &mut suspects).expect("readable") {
            batch
                .rows::<()>(b',', |line, row| {
                    let cells = row.iter().map(|cell| String::from_utf8_lossy(cell).into_owned());
                    rows.push((line, cells.collect()));
                    Ok(())
                })
                .expect("no error");
        }
        (rows, suspects)
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(4000))]
        #[test]
        fn rows_are_those_of_the_whole_table_wherever_it_is_cut(
            text in r#"[ab,\r\n"\u{feff}]{0,40}"#,
            batch_bytes in 1usize..30,
        ) {
            let (rows, _) = in_batches(&text, batch_bytes);
            let cells: Vec<_> = rows.iter().map(|(_, cells)| cells.clone()).collect();
            prop_assert_eq!(cells, in_one_go(&text));
            let (whole, _) = in_batches(&text, 500);
            prop_assert_eq!(rows, whole);
        }
    }

    #[test]
    fn a_row_has_the_line_on_which_it_begins() {
        for end in ["\n", "\r\n"] {
            let text = ["name,text", "a,tern", "", "b,\"x", "", "y\"", "c,z", ""].join(end);
            for batch_bytes in [1, 5, 100] {
                let lines: Vec<_> =
                    in_batches(&text, batch_bytes).0.into_iter().map(|(line, _)| line).collect();
                assert_eq!(lines, [1, 2, 4, 7], "{end:?} {batch_bytes}");
            }
        }
    }

    #[test]
    fn what_is_suspect_is_told_with_its_line() {
        let long = "x\n".repeat(LONG_CELL);
        let text = format!("id,text\n1,\"{long}\"\n2,\"open\n3,tern\n");
        let (rows, suspects) = in_batches(&text, 1 << 16);
        assert_eq!(rows.len(), 3);
        let lines = LONG_CELL as u64 + 1;
        assert_eq!(
            suspects,
            [Suspect::Long { line: 2, bytes: long.len(), lines }, Suspect::Unclosed { line: 2 + lines }]
        );
        assert_eq!(in_batches("1,\"closed\nhere\"", 4).1, []);
    }

    #[test]
    fn a_row_without_end_is_an_error_with_its_line() {
        let text = format!("id,text\n1,tern\n2,\"{}", "x\n".repeat(100));
        let mut reader = RowReader { longest: 64, ..RowReader::new(text.as_bytes(), b',') };
        let mut suspects = Vec::new();
        assert!(reader.next(16, &mut suspects).expect("rows").is_some());
        let error = reader.next(16, &mut suspects).expect_err("too long");
        assert!(error.to_string().starts_with("line 3: a quote is opened here"), "{error}");
    }
}
