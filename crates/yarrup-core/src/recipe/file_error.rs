//! Why a file that a recipe names cannot be had.

use thiserror::Error;

/// Why a file that a recipe names (a list, a table, a dictionary, a recipe) cannot be had.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum FileError {
    /// Whoever asked reads no such files.
    #[error("{what} cannot be read here, and `{name}` is one")]
    Unsupported {
        /// What is not read: "tables", "dictionaries".
        what: &'static str,
        /// The file, as written.
        name: String,
    },
    /// The system refused.
    #[error("cannot read {path}: {why}")]
    Refused {
        /// The file.
        path: String,
        /// The system's answer.
        why: String,
    },
    /// It is not in UTF-8.
    #[error("{path} is not UTF-8 from byte {valid} on")]
    NotUtf8 {
        /// The file.
        path: String,
        /// How many bytes at its start are.
        valid: usize,
    },
    /// It is not of the format that its name or its use calls for.
    #[error("{name} {what}: {why}")]
    Malformed {
        /// The file, as written.
        name: String,
        /// What it should be and is not: "cannot be read as a table".
        what: &'static str,
        /// What is wrong.
        why: String,
    },
    /// A row of a table of pairs holds no pair.
    #[error("{name}: row {row} holds no pair")]
    NoPair {
        /// The table, as written.
        name: String,
        /// The row, from 1.
        row: usize,
    },
    /// A table has no column of this name.
    #[error("no column `{wanted}`; there are {}", quoted(there))]
    NoColumn {
        /// The name that was asked for.
        wanted: String,
        /// The names that there are.
        there: Vec<String>,
    },
    /// A table has several columns, and nobody said which holds the words.
    #[error(
        "the table has {} columns: say which, as `{{ file = \"{name}\", column = \"…\" }}`; there are {}",
        there.len(), quoted(there)
    )]
    WhichColumn {
        /// The table, as written.
        name: String,
        /// The names of its columns.
        there: Vec<String>,
    },
    /// A table does not have two columns, and nobody said which two to take.
    #[error(
        "the table has {columns} columns: say which, as `{{ file = \"{name}\", from = \"…\", to = \"…\" }}`"
    )]
    WhichColumns {
        /// The table, as written.
        name: String,
        /// How many it has.
        columns: usize,
    },
    /// Only one of the two columns of a table of pairs is named.
    #[error("both columns must be named, `from` and `to`")]
    OneColumn,
    /// No dictionary of this name is installed.
    #[error("none is installed: looked for `{file}` in {}", folders.join(", "))]
    NotInstalled {
        /// What it would be called.
        file: String,
        /// Where dictionaries are looked for.
        folders: Vec<&'static str>,
    },
}

fn quoted(names: &[String]) -> String {
    names.iter().map(|name| format!("`{name}`")).collect::<Vec<_>>().join(", ")
}
