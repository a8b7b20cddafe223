//! Files of typed rows, written aside and moved into their place when they are whole.

use std::fs::File;
use std::io::{self, Write};
use std::path::Path;

use flate2::Compression;
use flate2::write::GzEncoder;

use crate::csv_error::into_io;
use crate::csv_table::TableWriter;
use crate::rows::encode::Lot;
use crate::rows::parquet::ParquetFile;
use crate::rows::sqlite::SqliteTables;
use crate::rows::{EncodedRows, RowEncoder, RowFormat, RowTable};
use crate::writing::{NewFile, Temporary, WriteError};

/// A file of rows that is being written. Dropped before it was finished, it leaves nothing behind.
pub struct RowFile<'w>(To<'w>);

enum To<'w> {
    /// Lines in a file or a stream.
    Lines(Packing<'w>),
    /// A Parquet file.
    Parquet(Box<ParquetFile<Packing<'w>>>),
    /// An SQLite file, made apart.
    Sqlite(SqliteTables, Temporary, Box<NewFile>),
}

/// Where rows go: a file as it is or packed, or a stream.
enum Packing<'w> {
    /// A file.
    Plain(NewFile),
    /// A file packed by gzip.
    Gzip(Box<GzEncoder<NewFile>>),
    /// A file packed by Zstandard.
    Zstd(Box<zstd::Encoder<'static, NewFile>>),
    /// A stream.
    Stream(Box<dyn Write + Send + 'w>),
}

impl Write for Packing<'_> {
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

impl<'w> RowFile<'w> {
    /// Begins a file at `path`, where nothing may be unless `replace`. Where its name ends in `.gz` or `.zst`, CSV and JSON Lines are packed.
    ///
    /// # Errors
    ///
    /// If the place is taken, or the system refuses.
    pub fn create(
        path: &Path,
        replace: bool,
        encoder: &RowEncoder,
        table: &RowTable,
    ) -> Result<RowFile<'w>, WriteError> {
        let failed = WriteError::refused(path);
        let file = NewFile::create(path, replace)?;
        let format = encoder.format();
        if format == RowFormat::Sqlite {
            let made = || {
                let apart = Temporary::new()?;
                let rows = SqliteTables::in_new(apart.path(), table)?;
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
        RowFile::begin(packing, encoder, table).map_err(failed)
    }

    /// Begins rows on a stream; SQLite needs a file.
    ///
    /// # Errors
    ///
    /// If the stream cannot be written.
    pub fn stream(
        out: Box<dyn Write + Send + 'w>,
        encoder: &RowEncoder,
        table: &RowTable,
    ) -> io::Result<RowFile<'w>> {
        RowFile::begin(Packing::Stream(out), encoder, table)
    }

    fn begin(mut out: Packing<'w>, encoder: &RowEncoder, table: &RowTable) -> io::Result<RowFile<'w>> {
        if let Some(groups) = encoder.groups() {
            return Ok(RowFile(To::Parquet(Box::new(ParquetFile::new(out, groups)?))));
        }
        match encoder.format() {
            RowFormat::Csv(cells) => {
                let names = table.columns.iter().map(|column| &column.name);
                TableWriter::with(cells, &mut out, names).map_err(into_io)?.finish()?;
            }
            RowFormat::Sqlite => return Err(io::Error::other("SQLite needs a file; name one with --out")),
            RowFormat::JsonLines | RowFormat::Parquet | RowFormat::Copy => {}
        }
        Ok(RowFile(To::Lines(out)))
    }

    /// Adds rows that the same encoder made.
    ///
    /// # Errors
    ///
    /// If they cannot be written.
    pub fn add(&mut self, rows: EncodedRows) -> io::Result<()> {
        match (&mut self.0, rows.lot) {
            (To::Lines(out), Lot::Bytes(bytes)) => out.write_all(&bytes),
            (To::Parquet(file), Lot::Group(group)) if rows.rows > 0 => file.group(group),
            (To::Sqlite(tables, ..), Lot::Rows(rows)) => tables.rows(&rows),
            _ => Ok(()),
        }
    }

    /// Moves the file into its place, now that all is written.
    ///
    /// # Errors
    ///
    /// If it cannot be written, or something has appeared at the place.
    pub fn finish(self, path: &Path) -> Result<(), WriteError> {
        let failed = || WriteError::refused(path);
        let out = match self.0 {
            To::Lines(out) => out,
            To::Parquet(file) => file.finish().map_err(failed())?,
            To::Sqlite(rows, apart, mut file) => {
                rows.finish().map_err(failed())?;
                let mut made = File::open(apart.path()).map_err(failed())?;
                io::copy(&mut made, &mut file).map_err(failed())?;
                return file.finish();
            }
        };
        match out {
            Packing::Plain(file) => file.finish(),
            Packing::Gzip(packing) => packing.finish().map_err(failed())?.finish(),
            Packing::Zstd(packing) => packing.finish().map_err(failed())?.finish(),
            Packing::Stream(mut out) => out.flush().map_err(failed()),
        }
    }
}
