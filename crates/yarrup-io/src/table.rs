//! Rows of a table with a header.

use std::io;
use std::sync::Arc;

use crate::format::Format;
use crate::input::{Opened, SourceError, repaired};
use crate::record::{Malformed, Record, Selection, finished};
use crate::run_tables::into_io;

pub(crate) struct RowReader {
    reader: csv::Reader<Opened>,
    header: Arc<[String]>,
    format: Format,
}

/// Rows as they were read, not yet taken apart.
#[derive(Debug)]
pub(crate) struct RowBatch {
    header: Arc<[String]>,
    /// Each with the line on which it begins.
    rows: Vec<(u64, csv::ByteRecord)>,
}

impl RowReader {
    pub(crate) fn new(
        opened: Opened,
        format: Format,
        separator: u8,
        place: &str,
    ) -> Result<RowReader, SourceError> {
        // Rows of another length than the header are ours to report, each by its line.
        let mut reader = csv::ReaderBuilder::new().delimiter(separator).flexible(true).from_reader(opened);
        let header = reader
            .byte_headers()
            .map_err(|error| SourceError::unreadable(place)(into_io(error)))?
            .iter()
            .map(|name| repaired(name).0.into_owned());
        let mut names: Vec<String> = Vec::new();
        for name in header {
            // A second column of one name would hide the first.
            let taken = names.iter().filter(|known| **known == name).count();
            names.push(if taken == 0 { name } else { format!("{name}_{}", taken + 1) });
        }
        Ok(RowReader { reader, header: names.into(), format })
    }

    pub(crate) fn format(&self) -> Format {
        self.format
    }

    pub(crate) fn into_opened(self) -> Opened {
        self.reader.into_inner()
    }

    pub(crate) fn next(&mut self, most_bytes: usize) -> io::Result<Option<RowBatch>> {
        let mut rows = Vec::new();
        let mut bytes = 0;
        let mut row = csv::ByteRecord::new();
        while bytes < most_bytes && self.reader.read_byte_record(&mut row).map_err(into_io)? {
            bytes += row.as_slice().len();
            let line = row.position().map_or(0, csv::Position::line);
            rows.push((line, row.clone()));
        }
        Ok((!rows.is_empty()).then(|| RowBatch { header: self.header.clone(), rows }))
    }
}

impl RowBatch {
    pub(crate) fn bytes(&self) -> u64 {
        self.rows.iter().map(|(_, row)| row.as_slice().len() as u64).sum()
    }

    pub(crate) fn records<E>(
        &self,
        selection: &Selection,
        name: &str,
        mut visit: impl FnMut(Result<Record<'_>, Malformed>) -> Result<(), E>,
    ) -> Result<(), E> {
        for (line, row) in &self.rows {
            let place = || format!("{name}:{line}");
            if row.len() != self.header.len() {
                let cells = |n: usize| {
                    if n == 1 { "1 cell".to_owned() } else { format!("{n} cells") }
                };
                let why =
                    format!("the row has {}, the header has {}", cells(row.len()), cells(self.header.len()));
                visit(Err(Malformed { place: place(), why }))?;
                continue;
            }
            let mut broken_bytes = 0;
            let cells = row
                .iter()
                .map(|cell| {
                    let (text, broken) = repaired(cell);
                    broken_bytes += broken;
                    text
                })
                .collect();
            let record = Record::of_cells(&self.header, cells, selection, place);
            visit(finished(record, broken_bytes, place))?;
        }
        Ok(())
    }
}

/// The separator of a table: that which the header has most of.
pub(crate) fn table_separator(format: Format, start: &[u8]) -> u8 {
    if format == Format::Tsv {
        return b'\t';
    }
    let header = start.split(|&byte| byte == b'\n').next().unwrap_or_default();
    let count = |separator: u8| header.iter().filter(|&&byte| byte == separator).count();
    [b'|', b'\t', b';', b','].into_iter().max_by_key(|&separator| count(separator)).unwrap_or(b',')
}
