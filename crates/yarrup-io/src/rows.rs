//! Tables of typed rows for other programs: CSV, JSON Lines, Parquet, SQLite.

use std::io::{self, Write};
use std::path::Path;
use std::sync::Arc;

use parquet::basic::{Compression, ZstdLevel};
use parquet::data_type::{BoolType, ByteArray, ByteArrayType, DoubleType, Int64Type};
use parquet::errors::ParquetError;
use parquet::file::properties::WriterProperties;
use parquet::file::writer::{SerializedFileWriter, SerializedRowGroupWriter};
use parquet::schema::parser::parse_message_type;
use rusqlite::types::{ToSqlOutput, ValueRef};
use rusqlite::{Connection, ToSql};

use crate::csv_error::into_io;
use crate::csv_table::{Cells, TableWriter};
use crate::record::FieldType;
use crate::record::members::write_text;

/// A column of a table of typed rows.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RowColumn {
    /// Its name.
    pub name: String,
    /// The type of its cells: text, whole numbers, numbers or truths. Dates are texts.
    pub kind: FieldType,
}

/// A cell of a typed row.
#[derive(Clone, Debug, PartialEq)]
pub enum RowCell {
    /// A text.
    Text(String),
    /// A whole number.
    Whole(i64),
    /// A number.
    Number(f64),
    /// True or false.
    Truth(bool),
    /// Nothing.
    Nothing,
}

impl RowCell {
    /// A written value as a cell of a column of this type; nothing if it does not fit.
    pub fn of(written: &str, kind: FieldType) -> RowCell {
        let trimmed = written.trim();
        let cell = match kind {
            FieldType::Whole => trimmed.parse().ok().map(RowCell::Whole),
            FieldType::Number => {
                trimmed.parse().ok().filter(|number: &f64| number.is_finite()).map(RowCell::Number)
            }
            FieldType::Truth => match trimmed.to_ascii_lowercase().as_str() {
                "true" => Some(RowCell::Truth(true)),
                "false" => Some(RowCell::Truth(false)),
                _ => None,
            },
            FieldType::Text | FieldType::Date => Some(RowCell::Text(written.to_owned())),
        };
        cell.unwrap_or(RowCell::Nothing)
    }
}

/// A table of typed rows that is being written.
pub enum RowWriter<W: Write + Send> {
    /// Comma-separated values (RFC 4180), with a header.
    Csv(Box<TableWriter<W>>),
    /// A JSON object a line.
    JsonLines(W, Vec<RowColumn>),
    /// A Parquet file.
    Parquet(Box<ParquetRows<W>>),
}

impl<W: Write + Send> RowWriter<W> {
    /// Begins a CSV table.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn csv(out: W, columns: &[RowColumn], cells: Cells) -> io::Result<RowWriter<W>> {
        let names = columns.iter().map(|column| &column.name);
        Ok(RowWriter::Csv(Box::new(TableWriter::with(cells, out, names).map_err(into_io)?)))
    }

    /// Begins a Parquet file.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn parquet(out: W, columns: &[RowColumn]) -> io::Result<RowWriter<W>> {
        Ok(RowWriter::Parquet(Box::new(ParquetRows::new(out, columns)?)))
    }

    /// Adds a row, with a cell for each column.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn row(&mut self, cells: &[RowCell]) -> io::Result<()> {
        match self {
            RowWriter::Csv(table) => table.row(cells.iter().map(csv_cell)).map_err(into_io),
            RowWriter::JsonLines(out, columns) => {
                let mut line = Vec::with_capacity(64);
                line.push(b'{');
                for (number, (column, cell)) in columns.iter().zip(cells).enumerate() {
                    if number > 0 {
                        line.push(b',');
                    }
                    write_text(&column.name, &mut line);
                    line.push(b':');
                    match cell {
                        RowCell::Text(text) => write_text(text, &mut line),
                        RowCell::Nothing => line.extend_from_slice(b"null"),
                        other => line.extend_from_slice(csv_cell(other).as_bytes()),
                    }
                }
                line.extend_from_slice(b"}\n");
                out.write_all(&line)
            }
            RowWriter::Parquet(rows) => rows.row(cells),
        }
    }

    /// Ends the table, and gives back what it was written to.
    ///
    /// # Errors
    ///
    /// If the writer fails.
    pub fn finish(self) -> io::Result<W> {
        match self {
            RowWriter::Csv(table) => table.into_inner(),
            RowWriter::JsonLines(out, _) => Ok(out),
            RowWriter::Parquet(rows) => rows.finish(),
        }
    }
}

fn csv_cell(cell: &RowCell) -> String {
    match cell {
        RowCell::Text(text) => text.clone(),
        RowCell::Whole(number) => number.to_string(),
        RowCell::Number(number) => number.to_string(),
        RowCell::Truth(truth) => truth.to_string(),
        RowCell::Nothing => String::new(),
    }
}

/// Rows on their way into a Parquet file, a group at a time.
pub struct ParquetRows<W: Write + Send> {
    writer: SerializedFileWriter<W>,
    kinds: Vec<FieldType>,
    /// By column: the cells of the group.
    columns: Vec<Vec<RowCell>>,
    /// The bytes of texts in the group.
    bytes: usize,
}

/// The most rows of a group, and the most bytes of texts.
const GROUP: (usize, usize) = (100_000, 64 << 20);

fn parquet_failed(why: ParquetError) -> io::Error {
    match why {
        ParquetError::External(why) => match why.downcast::<io::Error>() {
            Ok(why) => *why,
            Err(why) => io::Error::other(why.to_string()),
        },
        why => io::Error::other(why.to_string()),
    }
}

impl<W: Write + Send> ParquetRows<W> {
    fn new(out: W, columns: &[RowColumn]) -> io::Result<ParquetRows<W>> {
        let mut message = "message rows {\n".to_owned();
        for (number, column) in columns.iter().enumerate() {
            let kind = match column.kind {
                FieldType::Whole => "INT64 column{}",
                FieldType::Number => "DOUBLE column{}",
                FieldType::Truth => "BOOLEAN column{}",
                FieldType::Text | FieldType::Date => "BYTE_ARRAY column{} (UTF8)",
            };
            message.push_str(&format!("OPTIONAL {};\n", kind.replace("{}", &number.to_string())));
        }
        message.push('}');
        let schema = parse_message_type(&message).map_err(parquet_failed)?;
        // The parser takes plain names alone; ours may be any.
        let fields = schema.get_fields().iter().zip(columns).map(|(field, column)| {
            let info = field.get_basic_info();
            let built =
                parquet::schema::types::Type::primitive_type_builder(&column.name, field.get_physical_type())
                    .with_repetition(info.repetition())
                    .with_converted_type(info.converted_type())
                    .with_logical_type(info.logical_type_ref().cloned())
                    .build();
            built.map(Arc::new)
        });
        let fields = fields.collect::<Result<Vec<_>, _>>().map_err(parquet_failed)?;
        let schema = parquet::schema::types::Type::group_type_builder("rows").with_fields(fields).build();
        let schema = Arc::new(schema.map_err(parquet_failed)?);
        let level = ZstdLevel::try_new(3).map_err(parquet_failed)?;
        let properties = WriterProperties::builder().set_compression(Compression::ZSTD(level)).build();
        let writer = SerializedFileWriter::new(out, schema, Arc::new(properties)).map_err(parquet_failed)?;
        let kinds = columns.iter().map(|column| column.kind).collect();
        Ok(ParquetRows { writer, kinds, columns: vec![Vec::new(); columns.len()], bytes: 0 })
    }

    fn row(&mut self, cells: &[RowCell]) -> io::Result<()> {
        for (column, cell) in self.columns.iter_mut().zip(cells) {
            if let RowCell::Text(text) = cell {
                self.bytes += text.len();
            }
            column.push(cell.clone());
        }
        let rows = self.columns.first().map_or(0, Vec::len);
        if rows >= GROUP.0 || self.bytes >= GROUP.1 { self.write_group() } else { Ok(()) }
    }

    fn write_group(&mut self) -> io::Result<()> {
        self.bytes = 0;
        let mut group = self.writer.next_row_group().map_err(parquet_failed)?;
        for (column, kind) in self.columns.iter_mut().zip(&self.kinds) {
            let cells = std::mem::take(column);
            let levels: Vec<i16> = cells.iter().map(|cell| i16::from(*cell != RowCell::Nothing)).collect();
            write_column(&mut group, *kind, &cells, &levels).map_err(parquet_failed)?;
        }
        group.close().map(|_| ()).map_err(parquet_failed)
    }

    fn finish(mut self) -> io::Result<W> {
        if self.columns.first().is_some_and(|column| !column.is_empty()) {
            self.write_group()?;
        }
        self.writer.into_inner().map_err(parquet_failed)
    }
}

fn write_column<W: Write + Send>(
    group: &mut SerializedRowGroupWriter<'_, W>,
    kind: FieldType,
    cells: &[RowCell],
    levels: &[i16],
) -> Result<(), ParquetError> {
    let Some(mut column) = group.next_column()? else { return Ok(()) };
    match kind {
        FieldType::Whole => {
            let values: Vec<i64> = cells
                .iter()
                .filter_map(|cell| if let RowCell::Whole(value) = cell { Some(*value) } else { None })
                .collect();
            column.typed::<Int64Type>().write_batch(&values, Some(levels), None)?;
        }
        FieldType::Number => {
            let values: Vec<f64> = cells
                .iter()
                .filter_map(|cell| if let RowCell::Number(value) = cell { Some(*value) } else { None })
                .collect();
            column.typed::<DoubleType>().write_batch(&values, Some(levels), None)?;
        }
        FieldType::Truth => {
            let values: Vec<bool> = cells
                .iter()
                .filter_map(|cell| if let RowCell::Truth(value) = cell { Some(*value) } else { None })
                .collect();
            column.typed::<BoolType>().write_batch(&values, Some(levels), None)?;
        }
        FieldType::Text | FieldType::Date => {
            let values: Vec<ByteArray> = cells
                .iter()
                .filter_map(|cell| {
                    if let RowCell::Text(value) = cell { Some(ByteArray::from(value.as_str())) } else { None }
                })
                .collect();
            column.typed::<ByteArrayType>().write_batch(&values, Some(levels), None)?;
        }
    }
    column.close()
}

/// A table of an SQLite file that is being written, all rows in one transaction.
pub struct SqliteRows {
    connection: Connection,
    insert: String,
}

fn sqlite_failed(why: impl std::fmt::Display) -> io::Error {
    io::Error::other(why.to_string())
}

/// A name as SQL quotes it.
fn quoted(name: &str) -> String {
    format!("\"{}\"", name.replace('"', "\"\""))
}

impl SqliteRows {
    /// Begins a table of this name in the SQLite file at `path`, which is made if it is not there. `indexed` names the columns that get an index.
    ///
    /// # Errors
    ///
    /// If the file cannot be written, or holds such a table.
    pub fn new(path: &Path, table: &str, columns: &[RowColumn], indexed: &[&str]) -> io::Result<SqliteRows> {
        let connection = Connection::open(path).map_err(sqlite_failed)?;
        let kind = |column: &RowColumn| match column.kind {
            FieldType::Whole => "INTEGER",
            FieldType::Number => "REAL",
            FieldType::Truth => "BOOLEAN",
            FieldType::Text | FieldType::Date => "TEXT",
        };
        let listed: Vec<String> =
            columns.iter().map(|column| format!("{} {}", quoted(&column.name), kind(column))).collect();
        // Whoever reads it sees all of it or nothing.
        connection.execute_batch("BEGIN").map_err(sqlite_failed)?;
        let create = format!("CREATE TABLE {} ({})", quoted(table), listed.join(", "));
        connection.execute_batch(&create).map_err(sqlite_failed)?;
        for name in indexed {
            let index = quoted(&format!("{table}_{name}"));
            let create = format!("CREATE INDEX {index} ON {} ({})", quoted(table), quoted(name));
            connection.execute_batch(&create).map_err(sqlite_failed)?;
        }
        let places = vec!["?"; columns.len()].join(", ");
        Ok(SqliteRows { connection, insert: format!("INSERT INTO {} VALUES ({places})", quoted(table)) })
    }

    /// Adds a row.
    ///
    /// # Errors
    ///
    /// If it cannot be written.
    pub fn row(&mut self, cells: &[RowCell]) -> io::Result<()> {
        let mut insert = self.connection.prepare_cached(&self.insert).map_err(sqlite_failed)?;
        insert.execute(rusqlite::params_from_iter(cells)).map(|_| ()).map_err(sqlite_failed)
    }

    /// Ends the transaction and closes the file.
    ///
    /// # Errors
    ///
    /// If it cannot be written.
    pub fn finish(self) -> io::Result<()> {
        self.connection.execute_batch("COMMIT").map_err(sqlite_failed)?;
        self.connection.close().map_err(|(_, why)| sqlite_failed(why))
    }
}

impl ToSql for RowCell {
    fn to_sql(&self) -> rusqlite::Result<ToSqlOutput<'_>> {
        Ok(ToSqlOutput::Borrowed(match self {
            RowCell::Text(text) => ValueRef::Text(text.as_bytes()),
            RowCell::Whole(number) => ValueRef::Integer(*number),
            RowCell::Number(number) => ValueRef::Real(*number),
            RowCell::Truth(truth) => ValueRef::Integer(i64::from(*truth)),
            RowCell::Nothing => ValueRef::Null,
        }))
    }
}
