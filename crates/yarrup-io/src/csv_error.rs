//! Errors of the package that reads and writes separated values.

use std::io;

/// The system's error behind one of the table writer.
pub(crate) fn into_io(error: csv::Error) -> io::Error {
    let told = error.to_string();
    match error.into_kind() {
        csv::ErrorKind::Io(error) => error,
        _ => io::Error::other(told),
    }
}
