//! The rows of a piece of a row group, as JSON objects.

use std::fs::File;
use std::path::Path;

use parquet::column::reader::{ColumnReader, ColumnReaderImpl};
use parquet::data_type::DataType;
use parquet::errors::ParquetError;
use parquet::file::reader::{FileReader, RowGroupReader, SerializedFileReader};
use parquet::record::Field;
use parquet::record::reader::RowIter;
use parquet::schema::types::{ColumnDescPtr, SchemaDescriptor};

use super::damaged;
use super::values::{json_of, write_field};
use crate::documents::{BATCH_BYTES, Give, Piece, RawDocument, ReadError};
use crate::record::members::{separate, write_text};

/// How many rows are taken out of each column at once, at most: rows of one batch.
const ROWS: u64 = 1024;

/// Whether no row has a list or a group in it, so that each column has one value a row and rows can be passed over.
pub(super) fn is_flat(schema: &SchemaDescriptor) -> bool {
    schema.root_schema().get_fields().iter().all(|field| field.is_primitive())
        && schema.columns().iter().all(|column| column.max_rep_level() == 0)
}

/// Gives the rows of a piece to `give`, a batch at a time.
///
/// # Errors
///
/// If the file is damaged there, after the rows before that were given; and what `give` answers.
pub(super) fn read(path: &Path, name: &str, piece: &Piece, give: &mut Give<'_>) -> Result<(), ReadError> {
    let reader = SerializedFileReader::new(File::open(path)?).map_err(|why| damaged(&why))?;
    let group = reader.get_row_group(piece.group).map_err(|why| damaged(&why))?;
    let mut ready = Ready { name, number: piece.before + piece.rows.start, rows: Vec::new(), bytes: 0, give };
    let read = if is_flat(reader.metadata().file_metadata().schema_descr()) {
        flat_rows(&*group, piece, &mut ready)
    } else {
        nested_rows(&*group, &mut ready)
    };
    // What came before the damage was read.
    match read {
        Err(ReadError::Stopped) => Err(ReadError::Stopped),
        read => ready.end().and(read),
    }
}

/// Rows on their way.
struct Ready<'r, 'g> {
    name: &'r str,
    /// How many rows of the file came before.
    number: u64,
    rows: Vec<RawDocument>,
    bytes: usize,
    give: &'r mut Give<'g>,
}

impl Ready<'_, '_> {
    fn row(&mut self, fields: Vec<u8>) -> Result<(), ReadError> {
        self.number += 1;
        self.bytes += fields.len();
        self.rows.push(RawDocument {
            id: format!("{}:{}", self.name, self.number),
            // Put together from texts alone.
            fields: String::from_utf8(fields).unwrap_or_default(),
            text: None,
            broken_bytes: 0,
        });
        if self.bytes >= BATCH_BYTES { self.end() } else { Ok(()) }
    }

    fn end(&mut self) -> Result<(), ReadError> {
        self.bytes = 0;
        if self.rows.is_empty() { Ok(()) } else { (self.give)(std::mem::take(&mut self.rows)) }
    }
}

fn nested_rows(group: &dyn RowGroupReader, ready: &mut Ready<'_, '_>) -> Result<(), ReadError> {
    for row in RowIter::from_row_group(None, group).map_err(|why| damaged(&why))? {
        ready.row(json_of(&row.map_err(|why| damaged(&why))?))?;
    }
    Ok(())
}

fn flat_rows(group: &dyn RowGroupReader, piece: &Piece, ready: &mut Ready<'_, '_>) -> Result<(), ReadError> {
    let mut columns = Vec::new();
    for (index, descr) in group.metadata().schema_descr().columns().iter().enumerate() {
        let reader = group.get_column_reader(index).map_err(|why| damaged(&why))?;
        let mut column = Column::of(descr.clone(), reader);
        column.pass_over(piece.rows.start as usize).map_err(|why| damaged(&why))?;
        columns.push(column);
    }
    let mut left = piece.rows.end - piece.rows.start;
    let at_once = (left.saturating_mul(BATCH_BYTES as u64) / piece.bytes.max(1)).clamp(1, ROWS);
    while left > 0 {
        let count = left.min(at_once);
        let values: Result<Vec<_>, _> =
            columns.iter_mut().map(|column| column.values(count as usize)).collect();
        let mut values: Vec<_> =
            values.map_err(|why| damaged(&why))?.into_iter().map(Vec::into_iter).collect();
        for _ in 0..count {
            let (mut fields, mut first) = (vec![b'{'], true);
            for (column, values) in columns.iter().zip(&mut values) {
                separate(&mut first, &mut fields);
                fields.extend_from_slice(&column.name);
                write_field(&values.next().unwrap_or(Field::Null), &mut fields);
            }
            fields.push(b'}');
            ready.row(fields)?;
        }
        left -= count;
    }
    Ok(())
}

/// A column with one value a row.
struct Column {
    descr: ColumnDescPtr,
    /// The name as JSON, with its colon.
    name: Vec<u8>,
    reader: ColumnReader,
}

/// Does the same with the reader of a column, whatever its type.
macro_rules! of_any_type {
    ($reader:expr, $typed:ident => $work:expr) => {
        match $reader {
            ColumnReader::BoolColumnReader($typed) => $work,
            ColumnReader::Int32ColumnReader($typed) => $work,
            ColumnReader::Int64ColumnReader($typed) => $work,
            ColumnReader::Int96ColumnReader($typed) => $work,
            ColumnReader::FloatColumnReader($typed) => $work,
            ColumnReader::DoubleColumnReader($typed) => $work,
            ColumnReader::ByteArrayColumnReader($typed) => $work,
            ColumnReader::FixedLenByteArrayColumnReader($typed) => $work,
        }
    };
}

impl Column {
    fn of(descr: ColumnDescPtr, reader: ColumnReader) -> Column {
        let mut name = Vec::new();
        write_text(descr.name(), &mut name);
        name.push(b':');
        Column { descr, name, reader }
    }

    fn pass_over(&mut self, rows: usize) -> Result<(), ParquetError> {
        let passed = of_any_type!(&mut self.reader, typed => typed.skip_records(rows))?;
        if passed == rows { Ok(()) } else { Err(too_few(&self.descr)) }
    }

    /// The next values, one a row.
    fn values(&mut self, rows: usize) -> Result<Vec<Field>, ParquetError> {
        let descr = &self.descr;
        match &mut self.reader {
            ColumnReader::BoolColumnReader(reader) => {
                values_of(reader, rows, descr, |value| Ok(Field::convert_bool(descr, value)))
            }
            ColumnReader::Int32ColumnReader(reader) => {
                values_of(reader, rows, descr, |value| Ok(Field::convert_int32(descr, value)))
            }
            ColumnReader::Int64ColumnReader(reader) => {
                values_of(reader, rows, descr, |value| Ok(Field::convert_int64(descr, value)))
            }
            ColumnReader::Int96ColumnReader(reader) => {
                values_of(reader, rows, descr, |value| Ok(Field::convert_int96(descr, value)))
            }
            ColumnReader::FloatColumnReader(reader) => {
                values_of(reader, rows, descr, |value| Ok(Field::convert_float(descr, value)))
            }
            ColumnReader::DoubleColumnReader(reader) => {
                values_of(reader, rows, descr, |value| Ok(Field::convert_double(descr, value)))
            }
            ColumnReader::ByteArrayColumnReader(reader) => {
                values_of(reader, rows, descr, |value| Field::convert_byte_array(descr, value))
            }
            ColumnReader::FixedLenByteArrayColumnReader(reader) => {
                values_of(reader, rows, descr, |value| Field::convert_byte_array(descr, value.into()))
            }
        }
    }
}

fn values_of<T: DataType>(
    reader: &mut ColumnReaderImpl<T>,
    rows: usize,
    descr: &ColumnDescPtr,
    field: impl Fn(T::T) -> Result<Field, ParquetError>,
) -> Result<Vec<Field>, ParquetError> {
    let (mut levels, mut values) = (Vec::new(), Vec::new());
    let (read, ..) = reader.read_records(rows, Some(&mut levels), None, &mut values)?;
    if read != rows {
        return Err(too_few(descr));
    }
    let present = descr.max_def_level();
    let mut values = values.into_iter();
    (0..rows)
        .map(|row| match levels.get(row) {
            Some(level) if *level < present => Ok(Field::Null),
            _ => values.next().ok_or_else(|| too_few(descr)).and_then(&field),
        })
        .collect()
}

fn too_few(descr: &ColumnDescPtr) -> ParquetError {
    ParquetError::General(format!("column {} has too few values", descr.name()))
}
