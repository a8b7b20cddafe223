//! What an error of a zip archive is for people.

use crate::documents::ReadError;
use std::io;

/// How many times its size something may unpack to, and how much it may in any case: text packs to a twentieth at best.
pub(crate) const BOMB_RATIO: u64 = 200;
pub(crate) const BOMB_BYTES: u64 = 100 << 20;
/// What is told of something that unpacks to more.
pub(crate) const BOMB: &str = "unpacks to more than 200 times its size, as files do that are made to fill a machine; --trust-archives reads it all the same";

/// Whether this unpacks to far more than any text does.
pub(crate) fn is_bomb(unpacked: u64, packed: u64) -> bool {
    unpacked > BOMB_BYTES && unpacked / BOMB_RATIO > packed
}

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
