//! Everything that is written to the disk: aside first, under a random name and a lock, and in its place when it is whole.
//!
//! What is being written has a name of its own beside its place, so that it can be moved there in one step, and is locked as long as it is written.
//! The lock tells a living writer from one that was killed: the system takes it away with the process, whatever container it ran in. What is moved into
//! its place was flushed to the disk before, and nothing that stands there is replaced unless that was asked for.

mod aside;
mod file;
mod folder;
mod moves;
mod temporary;
mod unfinished;

use std::io;
use std::path::Path;

use thiserror::Error;

pub(crate) use aside::{Aside, Claim, is_unfinished, sync_folder, sync_tree};
pub use file::{NewFile, refuse_taken, write_file};
pub use folder::NewFolder;
pub(crate) use moves::{Exchanged, exchange, move_new};
pub(crate) use temporary::Temporary;
pub(crate) use unfinished::Finishing;
pub use unfinished::remove_unfinished;

/// Why a file cannot be written.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum WriteError {
    /// The place is taken.
    #[error("{path}: is there already, and is left as it is; choose another place, or --replace it")]
    Exists {
        /// The file.
        path: String,
    },
    /// The place is taken, and nothing takes its place.
    #[error("{path}: is there already, and is left as it is; choose another place")]
    FolderExists {
        /// The place.
        path: String,
    },
    /// The place is taken by a folder.
    #[error("{path}: is a folder; give the name of a file")]
    IsFolder {
        /// The folder.
        path: String,
    },
    /// Another process is writing to the same place.
    #[error("{path}: another yarrup is writing to this place; wait for it to end, or choose another place")]
    Busy {
        /// The place.
        path: String,
    },
    /// The system refused.
    #[error("{path}: {why}")]
    Refused {
        /// The file.
        path: String,
        /// The system's answer.
        why: io::Error,
    },
}

impl WriteError {
    pub(crate) fn refused(path: &Path) -> impl FnOnce(io::Error) -> WriteError + use<> {
        let path = path.display().to_string();
        |why| WriteError::Refused { path, why }
    }
}
