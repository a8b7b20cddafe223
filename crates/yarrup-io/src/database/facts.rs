//! What is told of a database, in a build with databases and in one without.

use thiserror::Error;

/// A table or view of a database.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DatabaseTable {
    /// Its name, with its schema where that is not `public`.
    pub name: String,
    /// Whether it is a view.
    pub is_view: bool,
    /// How many rows it has.
    pub rows: u64,
    /// Whether they were counted, and not estimated by the server.
    pub counted: bool,
    /// The names of its columns, with their types.
    pub columns: Vec<(String, String)>,
}

/// Why a database cannot be written to. It is as it was.
#[derive(Debug, Error)]
#[error("{place}: {why}; nothing was written")]
pub struct DatabaseError {
    /// The database, without user and password.
    pub place: String,
    /// What is wrong.
    pub why: String,
}
