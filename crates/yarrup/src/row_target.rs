//! Where tables of rows go: a file, standard output, a database.

use std::path::PathBuf;

use yarrup_io::{DatabaseError, EncodedRows, IntoDatabase, RowColumn, RowEncoder, RowFile, Rows};

use crate::failure::Failure;

impl From<DatabaseError> for Failure {
    fn from(why: DatabaseError) -> Failure {
        Failure::Sentence(why.to_string())
    }
}

/// Where rows go.
pub(crate) enum RowTarget<'t> {
    /// A file, or standard output.
    File(Box<RowFile<'t>>, Option<PathBuf>),
    /// A table of a database.
    Database(&'t mut IntoDatabase),
}

impl RowTarget<'_> {
    /// Adds rows.
    pub(crate) fn add(&mut self, rows: EncodedRows) -> Result<(), Failure> {
        match self {
            RowTarget::Database(database) => Ok(database.add(rows)?),
            RowTarget::File(file, path) => file.add(rows).map_err(|why| match path {
                Some(path) => Failure::File { path: path.display().to_string(), why: why.to_string() },
                None => Failure::Output(why),
            }),
        }
    }

    /// Ends the file; a database is ended once all its tables are written.
    pub(crate) fn finish(self) -> Result<(), Failure> {
        match self {
            RowTarget::Database(_) => Ok(()),
            RowTarget::File(file, path) => {
                let path = path.unwrap_or_else(|| PathBuf::from("standard output"));
                Ok(file.finish(&path)?)
            }
        }
    }
}

/// How many rows are encoded at once, however long a document is.
const MOST_ROWS: usize = 250_000;

/// Rows that workers gather.
#[derive(Default)]
pub(crate) struct Gathered {
    rows: Option<Rows>,
    /// What is ready to be written.
    lots: Vec<EncodedRows>,
    /// What has failed.
    fault: Option<Failure>,
}

impl Gathered {
    /// The rows, to add more to them.
    pub(crate) fn rows(&mut self, columns: &[RowColumn]) -> &mut Rows {
        self.rows.get_or_insert_with(|| Rows::of(columns))
    }

    /// Notes what has failed.
    pub(crate) fn fail(&mut self, fault: Failure) {
        self.fault.get_or_insert(fault);
    }

    /// Encodes the rows if there are many.
    pub(crate) fn encode_many(&mut self, encoder: &RowEncoder) {
        if self.rows.as_ref().is_some_and(|rows| rows.len() >= MOST_ROWS) {
            self.encode(encoder);
        }
    }

    /// Encodes the rows.
    pub(crate) fn encode(&mut self, encoder: &RowEncoder) {
        match self.rows.take().map(|rows| encoder.encode(rows)) {
            Some(Ok(rows)) => self.lots.push(rows),
            Some(Err(why)) => self.fail(Failure::Sentence(why.to_string())),
            None => {}
        }
    }

    /// How many bytes are ready to be written as lines.
    pub(crate) fn bytes(&self) -> u64 {
        self.lots.iter().map(EncodedRows::bytes).sum()
    }

    /// Takes lines that were encoded before.
    pub(crate) fn take_lines(&mut self, lines: Vec<u8>) {
        self.lots.push(EncodedRows::of_lines(lines));
    }

    /// Writes what is ready. Returns how many rows there were.
    pub(crate) fn write(self, target: &mut RowTarget<'_>) -> Result<u64, Failure> {
        if let Some(fault) = self.fault {
            return Err(fault);
        }
        let mut count = 0;
        for rows in self.lots {
            count += rows.rows;
            target.add(rows)?;
        }
        Ok(count)
    }
}
