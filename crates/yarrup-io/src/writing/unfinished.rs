//! What is being written just now, so that an interrupted process can take it away.

use std::fs;
use std::path::{Path, PathBuf};
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::thread;
use std::time::Duration;

/// The files and folders that this process is writing.
static UNFINISHED: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());

/// How often a folder is removed into which other threads still write.
const ATTEMPTS: u32 = 50;

/// Holds off an interruption while something is moved into its place, so that it falls before or behind that.
pub(crate) struct Finishing(MutexGuard<'static, Vec<PathBuf>>);

impl Finishing {
    pub(crate) fn begin() -> Finishing {
        Finishing(UNFINISHED.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Notes something that an interruption is to take away.
    pub(crate) fn add(&mut self, path: &Path) {
        self.0.push(path.to_owned());
    }

    /// Notes that an interruption is to leave it.
    pub(crate) fn forget(&mut self, path: &Path) {
        self.0.retain(|unfinished| unfinished != path);
    }
}

/// Takes away all that this process has not finished. Nothing can be finished afterwards: the process is to end.
pub fn remove_unfinished() {
    let finishing = Finishing::begin();
    for path in finishing.0.iter() {
        remove(path);
    }
    // Other threads must not bring anything to its place, nor begin anything, until the process has ended.
    std::mem::forget(finishing);
}

/// Removes a file or a folder, also one into which others still write.
fn remove(path: &Path) {
    for _ in 0..ATTEMPTS {
        // Nobody is there to be told of a failure.
        let _ = if path.is_dir() { fs::remove_dir_all(path) } else { fs::remove_file(path) };
        if path.symlink_metadata().is_err() {
            return;
        }
        thread::sleep(Duration::from_millis(5));
    }
}
