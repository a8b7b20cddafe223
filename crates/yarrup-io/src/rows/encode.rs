//! Rows as bytes, made by whoever gathered them, so that only writing is left to do in turn.

use std::convert::Infallible;
use std::io::Write as _;

use crate::csv_table::{Cells, TableWriter};
use crate::record::members::write_text;
use crate::rows::parquet::{EncodedGroup, GroupEncoder};
use crate::rows::{Cell, RowTable, Rows, TextList};

/// How rows are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RowFormat {
    /// Comma-separated values (RFC 4180), with cells like this.
    Csv(Cells),
    /// A JSON object a line.
    JsonLines,
    /// Parquet.
    Parquet,
    /// A table of an SQLite file.
    Sqlite,
    /// What PostgreSQL's `COPY … FROM STDIN` takes in its text format.
    Copy,
}

impl RowFormat {
    /// How many bytes of documents are best encoded at once: the rows of one lot are a group of Parquet.
    pub fn lot(self) -> usize {
        match self {
            RowFormat::Parquet => 2 << 20,
            _ => 0,
        }
    }
}

/// Makes rows of a table into what is written.
#[derive(Clone)]
pub struct RowEncoder {
    format: RowFormat,
    /// What stands before each value in a line of JSON.
    names: Vec<Vec<u8>>,
    /// The groups of Parquet.
    groups: Option<GroupEncoder>,
}

/// Rows as they are written.
pub struct EncodedRows {
    /// How many there are.
    pub rows: u64,
    /// How many characters the format cannot hold.
    pub(crate) left_out: u64,
    pub(crate) lot: Lot,
}

pub(crate) enum Lot {
    Bytes(Vec<u8>),
    Group(EncodedGroup),
    Rows(Rows),
}

impl EncodedRows {
    /// Lines that were encoded before. How many rows they are is not known.
    pub fn of_lines(lines: Vec<u8>) -> EncodedRows {
        EncodedRows { rows: 0, left_out: 0, lot: Lot::Bytes(lines) }
    }

    /// How many bytes they have as lines; 0 in a format without.
    pub fn bytes(&self) -> u64 {
        match &self.lot {
            Lot::Bytes(bytes) => bytes.len() as u64,
            Lot::Group(_) | Lot::Rows(_) => 0,
        }
    }
}

impl RowEncoder {
    /// An encoder for the rows of this table.
    ///
    /// # Errors
    ///
    /// If the format cannot hold such a table.
    pub fn new(format: RowFormat, table: &RowTable) -> std::io::Result<RowEncoder> {
        let names = table.columns.iter().enumerate().map(|(number, column)| {
            let mut name = vec![if number == 0 { b'{' } else { b',' }];
            write_text(&column.name, &mut name);
            name.push(b':');
            name
        });
        let groups = match format {
            RowFormat::Parquet => Some(GroupEncoder::new(&table.columns)?),
            _ => None,
        };
        Ok(RowEncoder { format, names: names.collect(), groups })
    }

    /// The format.
    pub fn format(&self) -> RowFormat {
        self.format
    }

    pub(crate) fn groups(&self) -> Option<&GroupEncoder> {
        self.groups.as_ref()
    }

    /// What is written of these rows.
    ///
    /// # Errors
    ///
    /// If they cannot be packed.
    pub fn encode(&self, rows: Rows) -> std::io::Result<EncodedRows> {
        let count = rows.len() as u64;
        let left_out = if self.format == RowFormat::Copy { rows.zeros() } else { 0 };
        let lot = match (self.format, &self.groups) {
            (RowFormat::Csv(cells), _) => Lot::Bytes(csv_lines(&rows, cells)?),
            (RowFormat::JsonLines, _) => Lot::Bytes(self.json_lines(&rows)),
            (RowFormat::Copy, _) => Lot::Bytes(copy_lines(&rows)),
            (RowFormat::Parquet, Some(groups)) => Lot::Group(groups.encode(rows)?),
            (RowFormat::Parquet | RowFormat::Sqlite, _) => Lot::Rows(rows),
        };
        Ok(EncodedRows { rows: count, left_out, lot })
    }

    fn json_lines(&self, rows: &Rows) -> Vec<u8> {
        let mut out = Vec::new();
        let Ok(()) = rows.each(|cells| {
            for (name, cell) in self.names.iter().zip(cells) {
                out.extend_from_slice(name);
                match cell {
                    Cell::Text(text) => write_text(text, &mut out),
                    Cell::Texts(texts) => write_json_list(*texts, &mut out),
                    Cell::Nothing => out.extend_from_slice(b"null"),
                    plain => write_plain(plain, &mut out),
                }
            }
            out.extend_from_slice(b"}\n");
            Ok::<(), Infallible>(())
        });
        out
    }
}

/// A list as an array of JSON.
pub(crate) fn write_json_list(texts: TextList<'_>, out: &mut Vec<u8>) {
    out.push(b'[');
    for (number, text) in texts.iter().enumerate() {
        if number > 0 {
            out.push(b',');
        }
        write_text(text, out);
    }
    out.push(b']');
}

/// A number or a truth, as all formats write it.
fn write_plain(cell: &Cell<'_>, out: &mut Vec<u8>) {
    match cell {
        Cell::Whole(number) => out.extend_from_slice(itoa::Buffer::new().format(*number).as_bytes()),
        // Writing to memory does not fail.
        Cell::Number(number) => drop(write!(out, "{number}")),
        Cell::Truth(truth) => out.extend_from_slice(if *truth { b"true" } else { b"false" }),
        Cell::Text(_) | Cell::Texts(_) | Cell::Nothing => {}
    }
}

fn csv_lines(rows: &Rows, kind: Cells) -> std::io::Result<Vec<u8>> {
    let mut table = TableWriter::rows_only(kind, Vec::new());
    let mut written = Vec::new();
    rows.each(|cells| {
        for cell in cells {
            match cell {
                Cell::Text(text) => table.cell(text)?,
                Cell::Nothing => table.cell("")?,
                Cell::Texts(texts) => {
                    written.clear();
                    write_json_list(*texts, &mut written);
                    table.cell(std::str::from_utf8(&written).unwrap_or_default())?;
                }
                plain => {
                    written.clear();
                    write_plain(plain, &mut written);
                    table.cell(std::str::from_utf8(&written).unwrap_or_default())?;
                }
            }
        }
        table.end_row()
    })
    .map_err(crate::csv_error::into_io)?;
    table.into_inner()
}

/// Rows in the text format of `COPY` (PostgreSQL's manual, page `COPY`, section "Text Format"). PostgreSQL's texts hold no U+0000, which is left out.
fn copy_lines(rows: &Rows) -> Vec<u8> {
    let mut out = Vec::new();
    let Ok(()) = rows.each(|cells| {
        for (number, cell) in cells.iter().enumerate() {
            if number > 0 {
                out.push(b'\t');
            }
            match cell {
                Cell::Nothing => out.extend_from_slice(b"\\N"),
                Cell::Text(text) => write_copied(text.as_bytes(), &mut out),
                Cell::Texts(texts) => {
                    let mut array = Vec::new();
                    write_array(*texts, &mut array);
                    write_copied(&array, &mut out);
                }
                plain => write_plain(plain, &mut out),
            }
        }
        out.push(b'\n');
        Ok::<(), Infallible>(())
    });
    out
}

fn write_copied(text: &[u8], out: &mut Vec<u8>) {
    for &byte in text {
        match byte {
            b'\\' => out.extend_from_slice(b"\\\\"),
            b'\t' => out.extend_from_slice(b"\\t"),
            b'\n' => out.extend_from_slice(b"\\n"),
            b'\r' => out.extend_from_slice(b"\\r"),
            0 => {}
            byte => out.push(byte),
        }
    }
}

/// A list as an array of PostgreSQL (manual, section "Array Input and Output Syntax").
fn write_array(texts: TextList<'_>, out: &mut Vec<u8>) {
    out.push(b'{');
    for (number, text) in texts.iter().enumerate() {
        out.extend_from_slice(if number > 0 { b",\"" } else { b"\"" });
        for byte in text.bytes() {
            if matches!(byte, b'"' | b'\\') {
                out.push(b'\\');
            }
            out.push(byte);
        }
        out.push(b'"');
    }
    out.push(b'}');
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rows::{RowColumn, RowType};

    fn lines(format: RowFormat) -> String {
        let columns = vec![
            RowColumn::new("te\"xt", RowType::Text),
            RowColumn::new("share", RowType::Number),
            RowColumn::new("words", RowType::Texts),
        ];
        let mut rows = Rows::of(&columns);
        for (text, share, words) in [
            ("a\tb\\\n", Some(0.5), Some(vec!["x", "y \"z\" \\"])),
            ("=1+1", None, Some(vec![])),
            ("", Some(2.0), None),
        ] {
            rows.text(text);
            match share {
                Some(share) => rows.number(share),
                None => rows.nothing(),
            }
            match words {
                Some(words) => rows.texts(words),
                None => rows.nothing(),
            }
        }
        let table = RowTable { name: "rows".to_owned(), columns, indexed: &[] };
        let encoder = RowEncoder::new(format, &table).expect("an encoder");
        match encoder.encode(rows).expect("encoded").lot {
            Lot::Bytes(bytes) => String::from_utf8(bytes).expect("text"),
            _ => String::new(),
        }
    }

    #[test]
    fn each_format_writes_by_its_rules() {
        assert_eq!(
            lines(RowFormat::JsonLines),
            "{\"te\\\"xt\":\"a\\tb\\\\\\n\",\"share\":0.5,\"words\":[\"x\",\"y \\\"z\\\" \\\\\"]}\n\
             {\"te\\\"xt\":\"=1+1\",\"share\":null,\"words\":[]}\n\
             {\"te\\\"xt\":\"\",\"share\":2,\"words\":null}\n"
        );
        assert_eq!(
            lines(RowFormat::Csv(Cells::Safe)),
            "\"a\tb\\\n\",0.5,\"[\"\"x\"\",\"\"y \\\"\"z\\\"\" \\\\\"\"]\"\n'=1+1,,[]\n,2,\n"
        );
        assert_eq!(
            lines(RowFormat::Copy),
            "a\\tb\\\\\\n\t0.5\t{\"x\",\"y \\\\\"z\\\\\" \\\\\\\\\"}\n=1+1\t\\N\t{}\n\t2\t\\N\n"
        );
    }
}
