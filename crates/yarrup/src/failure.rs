//! How a command can end.

use std::io;
use std::path::Path;

use thiserror::Error;
use yarrup_core::Account;
use yarrup_core::recipe::{Fault, nearest};
use yarrup_io::{Malformed, RunError, SourceError, Why, WriteError, read_bounded};
use yarrup_report::{visible, visible_name};

/// What the shell is told.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(u8)]
pub(crate) enum Exit {
    /// Done. Also when the reader of the output had enough.
    Done = 0,
    /// The work found a problem that it was asked to look for.
    Found = 1,
    /// Wrong usage, a recipe with mistakes, input that cannot be read, output that cannot be written.
    Unusable = 2,
}

/// Why a command did not do its work.
#[derive(Debug, Error)]
pub(crate) enum Failure {
    /// The recipe has mistakes.
    #[error("{path} has mistakes")]
    Recipe { path: String, text: String, faults: Vec<Fault> },
    /// A source cannot be read.
    #[error(transparent)]
    Source(#[from] SourceError),
    /// A run folder cannot be written or read.
    #[error(transparent)]
    Run(#[from] RunError),
    /// A file cannot be written.
    #[error(transparent)]
    Write(#[from] WriteError),
    /// A file of the run cannot be written.
    #[error("{path}: {why}")]
    File { path: String, why: String },
    /// The run holds no original texts.
    #[error("{run}: the run was written with --without-originals, so there is no text to show{instead}")]
    NoOriginals { run: String, instead: &'static str },
    /// Nothing is left to write to.
    #[error("standard output: {0}")]
    Output(#[from] io::Error),
    /// One sentence.
    #[error("{0}")]
    Sentence(String),
}

impl Failure {
    /// Whether the program that read our output has ended, which is no failure.
    pub(crate) fn is_closed_pipe(&self) -> bool {
        matches!(self, Failure::Output(error) if error.kind() == io::ErrorKind::BrokenPipe)
    }
}

/// Why something is no document, with its place and what to do about it.
pub(crate) fn sentence(malformed: &Malformed) -> String {
    let advice = match &malformed.why {
        Why::NoField { path, fields } if is_list_of(path, fields) => {
            "; to join several fields, give --text once for each"
        }
        // A missing field is most often a field of another name.
        Why::NoField { .. } => "; choose one with --text (and --id), or let `yarrup look` propose one",
        _ => "",
    };
    format!("{}: {}{advice}", malformed.place, malformed.why)
}

/// Whether a path is a list of fields that there are, with commas between them.
fn is_list_of(path: &str, fields: &[String]) -> bool {
    path.contains(',') && path.split(',').all(|name| fields.iter().any(|field| field == name.trim()))
}

/// What the system said of a file, in words.
pub(crate) fn told_of_file(why: &io::Error) -> String {
    match why.kind() {
        io::ErrorKind::NotFound => "there is no such file".to_owned(),
        io::ErrorKind::PermissionDenied => "you are not allowed to do this".to_owned(),
        io::ErrorKind::IsADirectory => "is a folder, not a file".to_owned(),
        _ => why.to_string(),
    }
}

pub(crate) fn option(name: &str, why: &str) -> Failure {
    Failure::Sentence(format!("--{name}: {why}"))
}

/// What may be meant by a name that is not known: the one that is near, or any of them.
pub(crate) fn meant<'k>(found: &str, known: impl IntoIterator<Item = &'k str>) -> String {
    let known: Vec<&str> = known.into_iter().collect();
    meant_or(found, known.iter().copied(), || format!("there are {}", visible(&known.join(", "))))
}

/// How many words are named that are spelled much like one that is not there.
const SPELLED_LIKE: usize = 6;

/// The words of a run that are spelled much like one that is not there, in a sentence.
pub(crate) fn spelled_like(account: &Account, word: &str) -> Option<String> {
    let words = account.spelled_like(word, SPELLED_LIKE);
    let words: Vec<String> = words.into_iter().map(|word| format!("`{}`", visible_name(word))).collect();
    (!words.is_empty()).then(|| format!("spelled like it: {}", words.join(", ")))
}

/// As [`meant`], with something else to say where no name is near.
pub(crate) fn meant_or<'k>(
    found: &str,
    known: impl IntoIterator<Item = &'k str>,
    otherwise: impl FnOnce() -> String,
) -> String {
    nearest(found, known).map_or_else(otherwise, |near| format!("did you mean `{}`?", visible(near)))
}

/// The text of a file.
pub(crate) fn text_of(path: &Path) -> Result<String, Failure> {
    let failed = |why: String| Failure::File { path: path.display().to_string(), why };
    let bytes = read_bounded(path).map_err(|why| failed(told_of_file(&why)))?;
    String::from_utf8(bytes)
        .map_err(|why| failed(format!("is not UTF-8 from byte {} on", why.utf8_error().valid_up_to())))
}
