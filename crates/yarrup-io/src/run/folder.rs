//! The folder that a run leaves behind: written aside, and named when it is whole.

use std::fs::{self, File};
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};

use thiserror::Error;

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
    /// No run folder at this place.
    #[error(
        "{path}: no run folder here (it has no run.json); make one with `yarrup run RECIPE SOURCE --out {path}`"
    )]
    NoRun {
        /// The folder.
        path: String,
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
}

pub(crate) fn damaged(path: &Path, why: &impl ToString) -> RunError {
    RunError::Damaged { path: path.display().to_string(), why: why.to_string() }
}

pub(crate) fn refused(path: &Path) -> impl FnOnce(io::Error) -> RunError + '_ {
    |why| RunError::Refused { path: path.display().to_string(), why }
}

/// A run folder that is being written. Dropped before it was finished, it leaves nothing behind.
#[derive(Debug)]
pub struct RunFolder {
    target: PathBuf,
    aside: PathBuf,
    finished: bool,
}

impl RunFolder {
    /// Makes room for a run at `target`, which must not exist unless `replace`.
    ///
    /// # Errors
    ///
    /// If the place is taken, or the system refuses.
    pub fn create(target: &Path, replace: bool) -> Result<RunFolder, RunError> {
        let path = || target.display().to_string();
        if target.symlink_metadata().is_ok() {
            let is_run = target.join("run.json").is_file();
            let is_empty = fs::read_dir(target).is_ok_and(|mut entries| entries.next().is_none());
            match (is_run || is_empty, replace || is_empty) {
                (false, _) => return Err(RunError::NotARun { path: path() }),
                (true, false) => return Err(RunError::Exists { path: path() }),
                (true, true) => {}
            }
        }
        let Some(name) = target.file_name() else {
            return Err(RunError::NotARun { path: path() });
        };
        let parent =
            target.parent().filter(|parent| !parent.as_os_str().is_empty()).unwrap_or(Path::new("."));
        fs::create_dir_all(parent).map_err(refused(parent))?;
        let prefix = format!(".{}.unfinished-", name.to_string_lossy());
        clear_abandoned(parent, &prefix);
        let aside = parent.join(format!("{prefix}{}", std::process::id()));
        fs::create_dir(&aside).map_err(refused(target))?;
        Ok(RunFolder { target: target.to_owned(), aside, finished: false })
    }

    /// Where the run will stand.
    pub fn target(&self) -> &Path {
        &self.target
    }

    /// Opens a file of the run for writing.
    ///
    /// # Errors
    ///
    /// If the system refuses.
    pub fn file(&self, name: &str) -> Result<BufWriter<File>, RunError> {
        let path = self.aside.join(name);
        if let Some(parent) = path.parent() {
            fs::create_dir_all(parent).map_err(refused(parent))?;
        }
        Ok(BufWriter::with_capacity(1 << 16, File::create(&path).map_err(refused(&path))?))
    }

    /// Writes a whole file of the run.
    ///
    /// # Errors
    ///
    /// If the system refuses.
    pub fn write(&self, name: &str, content: &[u8]) -> Result<(), RunError> {
        let mut file = self.file(name)?;
        file.write_all(content).and_then(|()| file.flush()).map_err(refused(Path::new(name)))
    }

    /// Gives the folder its name, now that all is written.
    ///
    /// # Errors
    ///
    /// If the system refuses; what stood at the place before is there again then.
    pub fn finish(mut self) -> Result<(), RunError> {
        let old = self.aside.with_extension("replaced");
        let replaces = self.target.symlink_metadata().is_ok();
        if replaces {
            fs::rename(&self.target, &old).map_err(refused(&self.target))?;
        }
        if let Err(why) = fs::rename(&self.aside, &self.target) {
            if replaces {
                // Nothing better can be done if this fails too: the first error is the one to tell.
                let _ = fs::rename(&old, &self.target);
            }
            return Err(refused(&self.target)(why));
        }
        self.finished = true;
        if replaces {
            fs::remove_dir_all(&old).map_err(refused(&old))?;
        }
        Ok(())
    }
}

/// Puts a file into a run folder that stands, in the place of one of this name: whole or not at all.
///
/// # Errors
///
/// If the system refuses; what stood there before is there still then.
pub fn replace_in_run(run: &Path, name: &str, content: &[u8]) -> Result<(), RunError> {
    let path = run.join(name);
    let aside = path.with_added_extension(format!("unfinished-{}", std::process::id()));
    let put = || {
        path.parent().map_or(Ok(()), fs::create_dir_all)?;
        fs::write(&aside, content)?;
        fs::rename(&aside, &path)
    };
    put().map_err(|why| {
        // The first error is the one to tell.
        let _ = fs::remove_file(&aside);
        refused(&path)(why)
    })
}

impl Drop for RunFolder {
    fn drop(&mut self) {
        if !self.finished {
            // The error that brought us here is the one to tell.
            let _ = fs::remove_dir_all(&self.aside);
        }
    }
}

/// Removes what runs that were killed left beside this place: their process is no more.
fn clear_abandoned(parent: &Path, prefix: &str) {
    if !Path::new("/proc/self").exists() {
        return;
    }
    for entry in fs::read_dir(parent).into_iter().flatten().flatten() {
        let name = entry.file_name();
        let process =
            name.to_str().and_then(|name| name.strip_prefix(prefix)).and_then(|id| id.parse::<u32>().ok());
        if process.is_some_and(has_ended) {
            // Only tidying up: a run must not fail because of it.
            let _ = fs::remove_dir_all(entry.path());
        }
    }
}

/// Whether a process is no more, or was killed and only waits to be noticed.
fn has_ended(process: u32) -> bool {
    match fs::read_to_string(format!("/proc/{process}/stat")) {
        // The state stands behind the name, which is in brackets and may hold anything.
        Ok(stat) => stat.rsplit_once(')').is_some_and(|(_, rest)| rest.trim_start().starts_with(['Z', 'X'])),
        Err(error) => error.kind() == io::ErrorKind::NotFound,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_folder_is_whole_or_not_there() {
        let home = tempfile::tempdir().expect("a folder");
        let target = home.path().join("run");
        let unfinished = RunFolder::create(&target, false).expect("room");
        unfinished.write("a.txt", b"x").expect("written");
        assert!(!target.exists());
        drop(unfinished);
        assert_eq!(fs::read_dir(home.path()).expect("readable").count(), 0);
        let run = RunFolder::create(&target, false).expect("room");
        run.write("run.json", b"{}").expect("written");
        run.finish().expect("renamed");
        assert!(matches!(RunFolder::create(&target, false), Err(RunError::Exists { .. })));
        let again = RunFolder::create(&target, true).expect("replaced");
        again.write("run.json", b"{1}").expect("written");
        again.finish().expect("renamed");
        assert_eq!(fs::read(target.join("run.json")).expect("there"), b"{1}");
        assert_eq!(fs::read_dir(home.path()).expect("readable").count(), 1);
    }

    #[test]
    fn other_folders_are_never_replaced() {
        let home = tempfile::tempdir().expect("a folder");
        fs::write(home.path().join("thesis.txt"), "x").expect("written");
        assert!(matches!(RunFolder::create(home.path(), true), Err(RunError::NotARun { .. })));
    }
}
