//! Temporary files: what came from the network or from standard input, to be read out of order or once more.

use std::fs::{self, File};
use std::io;
use std::path::{Path, PathBuf};
use std::sync::Once;

use tempfile::{Builder, NamedTempFile};

use super::unfinished::Finishing;

const PREFIX: &str = "yarrup-";
const SUFFIX: &str = ".tmp";

/// A temporary file that only the user can read. It goes when it is dropped, when the process is interrupted, and, if that was killed, when the next
/// one makes such a file.
#[derive(Debug)]
pub(crate) struct Temporary(NamedTempFile);

impl Temporary {
    pub(crate) fn new() -> io::Result<Temporary> {
        static TIDY: Once = Once::new();
        TIDY.call_once(|| clear_abandoned(&std::env::temp_dir()));
        let mut finishing = Finishing::begin();
        let file = Builder::new().prefix(PREFIX).suffix(SUFFIX).rand_bytes(16).tempfile()?;
        // Where files cannot be locked, nothing is cleared either.
        let _ = file.as_file().try_lock();
        finishing.add(file.path());
        Ok(Temporary(file))
    }

    pub(crate) fn path(&self) -> &Path {
        self.0.path()
    }

    pub(crate) fn file(&mut self) -> &mut File {
        self.0.as_file_mut()
    }
}

impl Drop for Temporary {
    fn drop(&mut self) {
        Finishing::begin().forget(self.0.path());
    }
}

/// Removes temporary files of processes that were killed.
fn clear_abandoned(folder: &Path) {
    let ours = |path: &PathBuf| {
        let name = path.file_name().and_then(|name| name.to_str());
        let random = name.and_then(|name| name.strip_prefix(PREFIX)?.strip_suffix(SUFFIX));
        random.is_some_and(|random| {
            random.len() == 16 && random.bytes().all(|byte| byte.is_ascii_alphanumeric())
        })
    };
    for path in fs::read_dir(folder).into_iter().flatten().flatten().map(|entry| entry.path()).filter(ours) {
        let is_file = path.symlink_metadata().is_ok_and(|meta| meta.is_file());
        // Those of other users cannot be opened, those in use not be locked.
        if is_file && File::open(&path).is_ok_and(|file| file.try_lock().is_ok()) {
            let _ = fs::remove_file(path);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_nobody_holds_is_cleared() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = |name: &str| folder.path().join(name);
        let names = ["yarrup-0123456789abcdEF.tmp", "yarrup-held56789abcdEFx.tmp", "yarrup-notes.tmp"];
        for name in names {
            fs::write(path(name), "x").expect("written");
        }
        let held = File::open(path(names[1])).expect("there");
        held.lock().expect("locked");
        clear_abandoned(folder.path());
        assert_eq!(names.map(|name| path(name).exists()), [false, true, true]);
    }
}
