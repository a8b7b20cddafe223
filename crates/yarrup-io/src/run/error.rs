//! Why a run folder cannot be written or read.

use std::io;
use std::path::Path;

use thiserror::Error;

use crate::documents::Part;
use crate::writing::WriteError;

/// Why a run folder cannot be written or read.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum RunError {
    /// The place is taken.
    #[error(
        "{path}: is there already; add --replace to put the new run in its place, or choose another with --out"
    )]
    Exists {
        /// The folder.
        path: String,
    },
    /// The place is taken by something that is no run folder, which is never replaced.
    #[error("{path}: is not a run folder and will not be replaced; choose another place with --out")]
    NotARun {
        /// The folder.
        path: String,
    },
    /// The run folder holds what no run wrote, and so is not replaced.
    #[error(
        "{path}: holds {named}, which no run wrote, and will not be replaced; move that elsewhere, or choose another place with --out"
    )]
    HoldsMore {
        /// The folder.
        path: String,
        /// The first of those files.
        named: String,
    },
    /// Another file system is mounted at the place, which nothing can be put in the place of.
    #[error(
        "{path}: is a mount point, whose place nothing can take; choose a folder in it, such as --out {path}/run"
    )]
    MountPoint {
        /// The place.
        path: String,
    },
    /// Something appeared at the place while the run worked.
    #[error("{path}: appeared while the run worked, and is left as it is; the run stands whole at {stands}")]
    Appeared {
        /// The place.
        path: String,
        /// Where the run is.
        stands: String,
    },
    /// Another process is writing a run to this place.
    #[error(
        "{path}: another yarrup is writing a run to this place; wait for it to end, or choose another with --out"
    )]
    Busy {
        /// The place.
        path: String,
    },
    /// No run folder at this place.
    #[error(
        "{path}: no run folder here (it has no run.json); make one with `yarrup run RECIPE SOURCE --out {path}`"
    )]
    NoRun {
        /// The folder.
        path: String,
    },
    /// A file at this place, where the folder of a run was meant.
    #[error(
        "{path}: is a file; name the folder of a run, such as `yarrup run RECIPE SOURCE --out FOLDER` makes"
    )]
    FileForRun {
        /// The file.
        path: String,
    },
    /// The run is one of several parts.
    #[error("{path}: is part {part} of a run; put all parts together by `yarrup merge`")]
    Part {
        /// The folder.
        path: String,
        /// Which part.
        part: Part,
    },
    /// The run was made without its documents.
    #[error("{path}: the run holds no documents: run it again without --without-documents")]
    NoDocuments {
        /// The folder.
        path: String,
    },
    /// The run folder is of another version.
    #[error("{path}: was made by {made} version of yarrup; make the run again with this one")]
    OtherVersion {
        /// The folder.
        path: String,
        /// `an older` or `a newer`.
        made: &'static str,
    },
    /// The system refused.
    #[error("{path}: {why}")]
    Refused {
        /// The file or folder.
        path: String,
        /// The system's answer.
        why: io::Error,
    },
    /// A file of the run folder does not read as it was written.
    #[error("{path}: damaged: {why}")]
    Damaged {
        /// The file.
        path: String,
        /// What is wrong with it.
        why: String,
    },
    /// A file cannot be written.
    #[error(transparent)]
    Write(#[from] WriteError),
}

pub(crate) fn damaged(path: &Path, why: &impl ToString) -> RunError {
    RunError::Damaged { path: path.display().to_string(), why: why.to_string() }
}

pub(crate) fn refused(path: &Path) -> impl FnOnce(io::Error) -> RunError + '_ {
    |why| RunError::Refused { path: path.display().to_string(), why }
}
