//! SQLite files as they are written, in a build without databases.

use std::convert::Infallible;
use std::io;
use std::path::Path;

use crate::left_out::told;
use crate::rows::{RowTable, Rows};

/// Tables of a file, of which there is none here.
pub(crate) struct SqliteTables(Infallible);

impl SqliteTables {
    pub(crate) fn in_new(_path: &Path, _table: &RowTable) -> io::Result<SqliteTables> {
        Err(io::Error::other(told("databases", "database")))
    }

    pub(crate) fn rows(&mut self, _rows: &Rows) -> io::Result<()> {
        match self.0 {}
    }

    pub(crate) fn finish(self) -> io::Result<()> {
        match self.0 {}
    }
}
