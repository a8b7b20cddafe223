//! Matrices of documents and terms as files: Matrix Market, SVMlight, triplets, a dense table. Row by row, in memory that no matrix fills.

use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::Path;

use flate2::Compression;
use flate2::write::GzEncoder;

use crate::csv_error::into_io;
use crate::csv_table::{Cells, TableWriter};
use crate::rows::{RowColumn, RowEncoder, RowFile, RowFormat, RowTable, RowType, Rows};
use crate::writing::WriteError;

/// A file that is written as it is, or packed by gzip.
pub enum Packed {
    /// As it is.
    Plain(BufWriter<File>),
    /// By gzip.
    Gzip(Box<GzEncoder<BufWriter<File>>>),
}

impl Packed {
    /// Writes to this file.
    pub fn new(file: File, gzip: bool) -> Packed {
        let writer = BufWriter::with_capacity(1 << 16, file);
        match gzip {
            true => Packed::Gzip(Box::new(GzEncoder::new(writer, Compression::fast()))),
            false => Packed::Plain(writer),
        }
    }

    fn finish(self) -> io::Result<()> {
        match self {
            Packed::Plain(mut writer) => writer.flush(),
            Packed::Gzip(packing) => packing.finish()?.flush(),
        }
    }
}

impl Write for Packed {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        match self {
            Packed::Plain(writer) => writer.write(bytes),
            Packed::Gzip(packing) => packing.write(bytes),
        }
    }

    fn flush(&mut self) -> io::Result<()> {
        match self {
            Packed::Plain(writer) => writer.flush(),
            Packed::Gzip(packing) => packing.flush(),
        }
    }
}

/// The size of a matrix.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct MatrixSize {
    /// Documents.
    pub documents: u64,
    /// Terms.
    pub terms: u64,
    /// Cells that are not empty.
    pub entries: u64,
}

/// A row as it is written: the document's id, its label if it has one, and its cells by column.
#[derive(Clone, Copy, Debug)]
pub struct MatrixRow<'r> {
    /// The id of the document.
    pub id: &'r str,
    /// Its label, as a number.
    pub label: &'r str,
    /// Column from 0, count, weight.
    pub cells: &'r [(u32, u64, f64)],
}

/// A matrix that is being written.
pub enum MatrixFile {
    /// Matrix Market's coordinate format.
    Market {
        /// The file.
        out: Packed,
        /// Whether terms stand in rows, and documents in columns.
        terms_in_rows: bool,
    },
    /// SVMlight's format: a line a document, `label column:value …`.
    SvmLight(Packed),
    /// A line a cell: document, term, count, weight.
    Triplets {
        /// The table.
        table: TableWriter<Packed>,
        /// The terms, by column.
        terms: Vec<String>,
    },
    /// The same as Parquet.
    Parquet(Box<TripletRows>),
    /// A row a document, a column a term.
    Dense {
        /// The table.
        table: TableWriter<Packed>,
        /// How many terms there are.
        columns: usize,
    },
}

/// Triplets on their way into a Parquet file.
pub struct TripletRows {
    file: RowFile<'static>,
    encoder: RowEncoder,
    table: RowTable,
    rows: Rows,
    terms: Vec<String>,
}

/// How many triplets are a group of Parquet.
const GROUP: usize = 500_000;

impl TripletRows {
    fn new(out: File, terms: Vec<String>) -> io::Result<TripletRows> {
        let columns = vec![
            RowColumn::new("document", RowType::Text),
            RowColumn::new("term", RowType::Text),
            RowColumn::new("count", RowType::Whole),
            RowColumn::new("weight", RowType::Number),
        ];
        let rows = Rows::of(&columns);
        let table = RowTable { name: "triplets".to_owned(), columns, indexed: &[] };
        let encoder = RowEncoder::new(RowFormat::Parquet, &table)?;
        let file = RowFile::stream(Box::new(BufWriter::new(out)), &encoder, &table)?;
        Ok(TripletRows { file, encoder, table, rows, terms })
    }

    fn row(&mut self, row: &MatrixRow<'_>) -> io::Result<()> {
        for (column, count, weight) in row.cells {
            self.rows.text(row.id);
            self.rows.text(&self.terms[*column as usize]);
            self.rows.whole(*count);
            self.rows.number(*weight);
        }
        if self.rows.len() >= GROUP { self.write() } else { Ok(()) }
    }

    fn write(&mut self) -> io::Result<()> {
        let rows = std::mem::replace(&mut self.rows, Rows::of(&self.table.columns));
        self.file.add(self.encoder.encode(rows)?)
    }

    fn finish(mut self) -> io::Result<()> {
        self.write()?;
        self.file.finish(Path::new("triplets")).map_err(|why| match why {
            WriteError::Refused { why, .. } => why,
            why => io::Error::other(why.to_string()),
        })
    }
}

impl MatrixFile {
    /// Begins a file in Matrix Market's format (Boisvert, Pozo and Remington 1996). `is_whole` says whether all values are whole numbers; `about` is a comment.
    ///
    /// # Errors
    ///
    /// If the file cannot be written.
    pub fn market(
        mut out: Packed,
        size: MatrixSize,
        (is_whole, terms_in_rows): (bool, bool),
        about: &str,
    ) -> io::Result<MatrixFile> {
        let field = if is_whole { "integer" } else { "real" };
        writeln!(out, "%%MatrixMarket matrix coordinate {field} general")?;
        about.lines().try_for_each(|line| writeln!(out, "% {line}"))?;
        let (rows, columns) = match terms_in_rows {
            true => (size.terms, size.documents),
            false => (size.documents, size.terms),
        };
        writeln!(out, "{rows} {columns} {}", size.entries)?;
        Ok(MatrixFile::Market { out, terms_in_rows })
    }

    /// Begins a table of triplets.
    ///
    /// # Errors
    ///
    /// If the file cannot be written.
    pub fn triplets(out: Packed, terms: Vec<String>, cells: Cells) -> io::Result<MatrixFile> {
        let columns = ["document", "term", "count", "weight"];
        let table = TableWriter::with(cells, out, columns).map_err(into_io)?;
        Ok(MatrixFile::Triplets { table, terms })
    }

    /// Begins a Parquet file of triplets.
    ///
    /// # Errors
    ///
    /// If the file cannot be written.
    pub fn parquet(out: File, terms: Vec<String>) -> io::Result<MatrixFile> {
        Ok(MatrixFile::Parquet(Box::new(TripletRows::new(out, terms)?)))
    }

    /// Begins a dense table.
    ///
    /// # Errors
    ///
    /// If the file cannot be written.
    pub fn dense(out: Packed, terms: &[String], cells: Cells) -> io::Result<MatrixFile> {
        let columns = std::iter::once("id").chain(terms.iter().map(String::as_str));
        let table = TableWriter::with(cells, out, columns).map_err(into_io)?;
        Ok(MatrixFile::Dense { table, columns: terms.len() })
    }

    /// Adds the row of the document with this number, from 0.
    ///
    /// # Errors
    ///
    /// If the file cannot be written.
    pub fn row(&mut self, number: u64, row: &MatrixRow<'_>) -> io::Result<()> {
        match self {
            MatrixFile::Market { out, terms_in_rows } => {
                for (column, _, weight) in row.cells {
                    let (document, term) = (number + 1, u64::from(*column) + 1);
                    match terms_in_rows {
                        true => writeln!(out, "{term} {document} {weight}")?,
                        false => writeln!(out, "{document} {term} {weight}")?,
                    }
                }
                Ok(())
            }
            MatrixFile::SvmLight(out) => {
                out.write_all(row.label.as_bytes())?;
                for (column, _, weight) in row.cells {
                    write!(out, " {}:{weight}", column + 1)?;
                }
                out.write_all(b"\n")
            }
            MatrixFile::Triplets { table, terms } => {
                for (column, count, weight) in row.cells {
                    let (count, weight) = (count.to_string(), weight.to_string());
                    table.row([row.id, &terms[*column as usize], &count, &weight]).map_err(into_io)?;
                }
                Ok(())
            }
            MatrixFile::Parquet(rows) => rows.row(row),
            MatrixFile::Dense { table, columns } => {
                let mut cells = vec!["0".to_owned(); *columns];
                for (column, _, weight) in row.cells {
                    cells[*column as usize] = weight.to_string();
                }
                let cells = std::iter::once(row.id.to_owned()).chain(cells);
                table.row(cells).map_err(into_io)
            }
        }
    }

    /// Ends the file.
    ///
    /// # Errors
    ///
    /// If it cannot be written.
    pub fn finish(self) -> io::Result<()> {
        match self {
            MatrixFile::Market { out, .. } | MatrixFile::SvmLight(out) => out.finish(),
            MatrixFile::Parquet(rows) => rows.finish(),
            MatrixFile::Triplets { table, .. } | MatrixFile::Dense { table, .. } => {
                table.into_inner()?.finish()
            }
        }
    }
}
