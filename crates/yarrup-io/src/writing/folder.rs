//! A folder of files that is written aside and moved into its place when it is whole.

use std::fs::{self, File};
use std::io;
use std::path::{Path, PathBuf};

use super::WriteError;
use super::aside::{Aside, Claim, sync_folder, sync_tree};
use super::moves::move_new;
use super::unfinished::Finishing;

/// A folder that is being written. Dropped before it was finished, it leaves nothing behind.
#[derive(Debug)]
pub struct NewFolder {
    target: PathBuf,
    aside: Aside,
}

impl NewFolder {
    /// Begins a folder that is to stand at `target`, where nothing may be.
    ///
    /// # Errors
    ///
    /// If the place is taken, or the system refuses.
    pub fn create(target: &Path) -> Result<NewFolder, WriteError> {
        let shown = || target.display().to_string();
        if target.symlink_metadata().is_ok() {
            return Err(WriteError::FolderExists { path: shown() });
        }
        let claim = Claim::of(target).map_err(WriteError::refused(target))?;
        let beside = claim.beside();
        if beside.is_busy {
            return Err(WriteError::Busy { path: shown() });
        }
        for left in beside.left.iter().filter(|left| !left.was_moved) {
            // Only tidying up: nothing must fail because of it.
            let _ = fs::remove_dir_all(&left.path);
        }
        let aside = claim.new_folder().map_err(WriteError::refused(target))?;
        Ok(NewFolder { target: target.to_owned(), aside })
    }

    /// Writes a whole file of the folder.
    ///
    /// # Errors
    ///
    /// If the system refuses.
    pub fn write(&self, name: &str, content: &[u8]) -> Result<(), WriteError> {
        let path = self.aside.path().join(name);
        let folder = path.parent().unwrap_or(self.aside.path());
        fs::create_dir_all(folder)
            .and_then(|()| fs::write(&path, content))
            .map_err(WriteError::refused(&self.target.join(name)))
    }

    /// Where the folder will stand, as it was named.
    pub fn named(&self) -> &Path {
        &self.target
    }

    /// Opens a file of the folder for writing.
    ///
    /// # Errors
    ///
    /// If the system refuses.
    pub fn file(&self, name: &str) -> Result<File, WriteError> {
        File::create(self.aside.path().join(name)).map_err(WriteError::refused(&self.target.join(name)))
    }

    /// Gives the folder its name, now that all is written.
    ///
    /// # Errors
    ///
    /// If something has appeared there, or the system refuses.
    pub fn finish(self) -> Result<(), WriteError> {
        sync_tree(self.aside.path()).map_err(WriteError::refused(&self.target))?;
        let mut finishing = Finishing::begin();
        move_new(self.aside.path(), &self.target).map_err(|why| match why.kind() {
            io::ErrorKind::AlreadyExists => {
                WriteError::FolderExists { path: self.target.display().to_string() }
            }
            _ => WriteError::refused(&self.target)(why),
        })?;
        finishing.forget(self.aside.path());
        drop(finishing);
        sync_folder(
            self.target.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new(".")),
        );
        Ok(())
    }
}
