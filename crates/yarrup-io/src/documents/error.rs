//! Why an input is not read to its end.

use std::io;

/// Why an input is not read to its end.
#[derive(Debug)]
pub(crate) enum ReadError {
    /// It cannot be read.
    Io(io::Error),
    /// What is wrong with it, as a sentence.
    Told(String),
    /// It is of a kind that is not read, which is named.
    NotRead(String),
    /// Nobody wants more.
    Stopped,
}

impl From<io::Error> for ReadError {
    fn from(error: io::Error) -> ReadError {
        ReadError::Io(error)
    }
}

impl ReadError {
    /// What is wrong, for people.
    pub(crate) fn told(&self) -> String {
        match self {
            ReadError::Io(error) => io_told(error),
            ReadError::Told(why) => why.clone(),
            ReadError::NotRead(what) => format!("not read: it is {what}"),
            ReadError::Stopped => "nobody wants more".to_owned(),
        }
    }

    pub(crate) fn sentence(why: impl Into<String>) -> ReadError {
        ReadError::Told(why.into())
    }
}

/// What a system's error is for people.
pub(crate) fn io_told(error: &io::Error) -> String {
    match error.kind() {
        io::ErrorKind::UnexpectedEof => {
            "ends too early: it was cut off, or not copied to its end; what came before was read".to_owned()
        }
        _ => error.to_string(),
    }
}
