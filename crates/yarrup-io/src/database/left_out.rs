//! Databases, in a build without them.

mod facts;

use std::convert::Infallible;
use std::io::Read;
use std::path::Path;

use crate::SourceSpec;
use crate::collection::Login;
use crate::left_out::told;
use crate::rows::{EncodedRows, RowFormat, RowTable, TableMode};

pub use facts::{DatabaseError, DatabaseTable};

fn why() -> String {
    told("databases", "database")
}

/// Refuses.
///
/// # Errors
///
/// Always.
pub fn tables_of(_source: &SourceSpec) -> Result<Vec<DatabaseTable>, String> {
    Err(why())
}

/// The address of a database, of which there is none here.
pub(crate) struct Address(Infallible);

impl Address {
    pub(crate) fn read(
        _place: &str,
        _login: Option<&Login>,
        _certificates: Option<&Path>,
        _patience: Option<u64>,
    ) -> Result<Address, String> {
        Err(why())
    }
}

pub(crate) fn rows_of(
    address: &Address,
    _table: Option<&str>,
    _query: Option<&str>,
) -> Result<(String, Box<dyn Read + Send>), String> {
    match address.0 {}
}

/// A database into which rows are being written, of which there is none here.
pub struct IntoDatabase(Infallible);

impl IntoDatabase {
    /// Refuses.
    ///
    /// # Errors
    ///
    /// Always.
    pub fn open(place: &str, _certificates: Option<&Path>) -> Result<IntoDatabase, DatabaseError> {
        Err(DatabaseError { place: crate::without_login(place), why: why() })
    }

    /// Refuses.
    ///
    /// # Errors
    ///
    /// Always.
    pub fn check(
        place: &str,
        certificates: Option<&Path>,
        _tables: &[&str],
        _mode: TableMode,
    ) -> Result<(), DatabaseError> {
        IntoDatabase::open(place, certificates).map(drop)
    }

    /// How rows are encoded for it.
    pub fn format(&self) -> RowFormat {
        match self.0 {}
    }

    /// The database.
    pub fn place(&self) -> &str {
        match self.0 {}
    }

    /// Begins a table.
    ///
    /// # Errors
    ///
    /// None.
    pub fn table(&mut self, _table: &RowTable, _mode: TableMode) -> Result<(), DatabaseError> {
        match self.0 {}
    }

    /// Adds rows.
    ///
    /// # Errors
    ///
    /// None.
    pub fn add(&mut self, _rows: EncodedRows) -> Result<(), DatabaseError> {
        match self.0 {}
    }

    /// Ends all tables.
    ///
    /// # Errors
    ///
    /// None.
    pub fn finish(self) -> Result<Vec<String>, DatabaseError> {
        match self.0 {}
    }
}
