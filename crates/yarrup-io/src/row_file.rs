//! Files of typed rows, written aside and moved into their place when they are whole.

use std::fs::File;
use std::io::{self, Write};
use std::path::Path;

use flate2::Compression;
use flate2::write::GzEncoder;

use crate::csv_table::Cells;
use crate::rows::{RowCell, RowColumn, RowWriter, SqliteRows};
use crate::writing::{NewFile, Temporary, WriteError};

/// How a file of rows is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RowFormat {
    /// CSV, with cells like this.
    Csv(Cells),
    /// JSON Lines.
    JsonLines,
    /// Parquet.
    Parquet,
    /// SQLite.
    Sqlite,
}

/// A table: its name, its columns, and those that get an index where the format has any.
#[derive(Clone, Debug)]
pub struct RowTable {
    /// The name.
    pub name: &'static str,
    /// The columns.
    pub columns: Vec<RowColumn>,
    /// Names of columns.
    pub indexed: &'static [&'static str],
}

/// A file of rows that is being written. Dropped before it was finished, it leaves nothing behind.
pub struct RowFile(To);

enum To {
    /// A file, or a stream.
    Rows(Box<RowWriter<Packing>>),
    /// An SQLite file, made apart.
    Sqlite(SqliteRows, Temporary, Box<NewFile>),
}

/// Where rows go: a file as it is or packed, or a stream.
enum Packing {
    /// A file.
    Plain(NewFile),
    /// A file packed by gzip.
    Gzip(Box<GzEncoder<NewFile>>),
    /// A file packed by Zstandard.
    Zstd(Box<zstd::Encoder<'static, NewFile>>),
    /// A stream.
    Stream(Box<dyn Write + Send>),
}

impl Write for Packing {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        match self {
            Packing::Plain(out) => out.write(bytes),
            Packing::Gzip(out) => out.write(bytes),
            Packing::Zstd(out) => out.write(bytes),
            Packing::Stream(out) => out.write(bytes),
        }
    }

    fn flush(&mut self) -> io::Result<()> {
        match self {
            Packing::Plain(out) => out.flush(),
            Packing::Gzip(out) => out.flush(),
            Packing::Zstd(out) => out.flush(),
            Packing::Stream(out) => out.flush(),
        }
    }
}

impl RowFile {
    /// Begins a file at `path`, where nothing may be unless `replace`. Where its name ends in `.gz` or `.zst`, CSV and JSON Lines are packed.
    ///
    /// # Errors
    ///
    /// If the place is taken, or the system refuses.
    pub fn create(
        path: &Path,
        replace: bool,
        format: RowFormat,
        table: &RowTable,
    ) -> Result<RowFile, WriteError> {
        let failed = WriteError::refused(path);
        let file = NewFile::create(path, replace)?;
        if format == RowFormat::Sqlite {
            let made = || {
                let apart = Temporary::new()?;
                let rows = SqliteRows::new(apart.path(), table.name, &table.columns, table.indexed)?;
                Ok((rows, apart))
            };
            let (rows, apart) = made().map_err(failed)?;
            return Ok(RowFile(To::Sqlite(rows, apart, Box::new(file))));
        }
        let ending = path.extension().map(|ending| ending.to_string_lossy().to_lowercase());
        let packing = match ending.as_deref() {
            Some("gz") if format != RowFormat::Parquet => {
                Packing::Gzip(Box::new(GzEncoder::new(file, Compression::fast())))
            }
            Some("zst") if format != RowFormat::Parquet => {
                Packing::Zstd(Box::new(zstd::Encoder::new(file, 3).map_err(WriteError::refused(path))?))
            }
            _ => Packing::Plain(file),
        };
        RowFile::begin(packing, format, table).map_err(failed)
    }

    /// Begins rows on a stream; SQLite needs a file.
    ///
    /// # Errors
    ///
    /// If the stream cannot be written.
    pub fn stream(out: Box<dyn Write + Send>, format: RowFormat, table: &RowTable) -> io::Result<RowFile> {
        RowFile::begin(Packing::Stream(out), format, table)
    }

    fn begin(out: Packing, format: RowFormat, table: &RowTable) -> io::Result<RowFile> {
        let columns = &table.columns;
        Ok(RowFile(To::Rows(Box::new(match format {
            RowFormat::Csv(cells) => RowWriter::csv(out, columns, cells)?,
            RowFormat::JsonLines => RowWriter::JsonLines(out, columns.clone()),
            RowFormat::Parquet => RowWriter::parquet(out, columns)?,
            RowFormat::Sqlite => return Err(io::Error::other("SQLite needs a file; name one with --out")),
        }))))
    }

    /// Adds a row, with a cell for each column.
    ///
    /// # Errors
    ///
    /// If it cannot be written.
    pub fn row(&mut self, cells: &[RowCell]) -> io::Result<()> {
        match &mut self.0 {
            To::Rows(rows) => rows.row(cells),
            To::Sqlite(rows, ..) => rows.row(cells),
        }
    }

    /// Moves the file into its place, now that all is written.
    ///
    /// # Errors
    ///
    /// If it cannot be written, or something has appeared at the place.
    pub fn finish(self, path: &Path) -> Result<(), WriteError> {
        let failed = || WriteError::refused(path);
        match self.0 {
            To::Rows(rows) => match rows.finish().map_err(failed())? {
                Packing::Plain(file) => file.finish(),
                Packing::Gzip(packing) => packing.finish().map_err(failed())?.finish(),
                Packing::Zstd(packing) => packing.finish().map_err(failed())?.finish(),
                Packing::Stream(mut out) => out.flush().map_err(failed()),
            },
            To::Sqlite(rows, apart, mut file) => {
                rows.finish().map_err(failed())?;
                let mut made = File::open(apart.path()).map_err(failed())?;
                io::copy(&mut made, &mut file).map_err(failed())?;
                file.finish()
            }
        }
    }
}
