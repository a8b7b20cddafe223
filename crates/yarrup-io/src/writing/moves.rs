//! Moving what is whole into its place.

use std::fs;
use std::io;
use std::path::Path;

/// Whether two places changed what they hold.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Exchanged {
    Yes,
    /// The system, or this file system, cannot do that in one step. Nothing was done.
    Unsupported,
}

/// Moves a file or a folder to a place where nothing is.
///
/// # Errors
///
/// `AlreadyExists` if something is there; else what the system says.
pub(crate) fn move_new(from: &Path, to: &Path) -> io::Result<()> {
    match in_one_step::move_new(from, to) {
        Some(moved) => moved,
        // A link to a file refuses to take a place that is taken; a folder, to replace one that holds anything.
        None if from.is_file() => fs::hard_link(from, to).and_then(|()| fs::remove_file(from)),
        None if to.symlink_metadata().is_ok() => Err(io::ErrorKind::AlreadyExists.into()),
        None => fs::rename(from, to),
    }
}

/// Lets two places change what they hold, in one step.
///
/// # Errors
///
/// What the system says.
pub(crate) fn exchange(one: &Path, other: &Path) -> io::Result<Exchanged> {
    match in_one_step::exchange(one, other) {
        Some(done) => done.map(|()| Exchanged::Yes),
        None => Ok(Exchanged::Unsupported),
    }
}

#[cfg(any(target_os = "linux", target_os = "android", target_vendor = "apple"))]
mod in_one_step {
    use std::io;
    use std::path::Path;

    use rustix::fs::{CWD, RenameFlags, renameat_with};
    use rustix::io::Errno;

    /// None if the system or this file system has no such move.
    fn renamed(from: &Path, to: &Path, flags: RenameFlags) -> Option<io::Result<()>> {
        match renameat_with(CWD, from, CWD, to, flags) {
            Err(Errno::NOSYS | Errno::INVAL | Errno::NOTSUP) => None,
            other => Some(other.map_err(Into::into)),
        }
    }

    pub(super) fn move_new(from: &Path, to: &Path) -> Option<io::Result<()>> {
        renamed(from, to, RenameFlags::NOREPLACE)
    }

    pub(super) fn exchange(one: &Path, other: &Path) -> Option<io::Result<()>> {
        renamed(one, other, RenameFlags::EXCHANGE)
    }
}

#[cfg(not(any(target_os = "linux", target_os = "android", target_vendor = "apple")))]
mod in_one_step {
    use std::io;
    use std::path::Path;

    pub(super) fn move_new(_from: &Path, _to: &Path) -> Option<io::Result<()>> {
        None
    }

    pub(super) fn exchange(_one: &Path, _other: &Path) -> Option<io::Result<()>> {
        None
    }
}
