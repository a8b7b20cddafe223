//! What an error of a zip archive is for people.

use crate::documents::ReadError;
use std::io;

/// What an error of a zip archive is for people.
pub(crate) fn zip_told(error: &zip::result::ZipError) -> ReadError {
    use zip::result::ZipError;
    match error {
        ZipError::Io(why) if why.kind() == io::ErrorKind::UnexpectedEof => {
            ReadError::Io(io::ErrorKind::UnexpectedEof.into())
        }
        ZipError::InvalidPassword => ReadError::sentence("encrypted: it needs a password; not read"),
        ZipError::UnsupportedArchive(why) if why.to_ascii_lowercase().contains("password") => {
            ReadError::sentence("encrypted: it needs a password; not read")
        }
        ZipError::CompressionMethodNotSupported(method) => ReadError::sentence(format!(
            "compressed in a way that is not read (zip method {method}); pack it with deflate"
        )),
        other => {
            ReadError::sentence(format!("damaged zip archive, cut off or not copied to its end: {other}"))
        }
    }
}
