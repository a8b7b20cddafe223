//! A file that is written aside and moved into its place when it is whole.

use std::fs::{self, File};
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};

use super::WriteError;
use super::aside::{Aside, Claim, sync_folder};
use super::moves::move_new;
use super::unfinished::Finishing;

/// A file that is being written. Dropped before it was finished, it leaves nothing behind, and what stood at its place stands there still.
#[derive(Debug)]
pub struct NewFile {
    /// As the user named it.
    named: PathBuf,
    writer: BufWriter<File>,
    place: Place,
}

#[derive(Debug)]
enum Place {
    /// A file of the disk, behind all links that lead to it.
    Beside { target: PathBuf, aside: Aside, replace: bool },
    /// A pipe, a terminal or the like, which is written to as it is.
    Direct,
}

impl NewFile {
    /// Begins a file that is to stand at `path`, where nothing may be unless `replace`.
    ///
    /// # Errors
    ///
    /// If the place is taken, or the system refuses.
    pub fn create(path: &Path, replace: bool) -> Result<NewFile, WriteError> {
        let refused = || WriteError::refused(path);
        let named = path.to_owned();
        let meta = fs::metadata(path).ok();
        if meta.as_ref().is_some_and(|meta| !meta.is_file() && !meta.is_dir()) {
            let file = File::options().write(true).open(path).map_err(refused())?;
            return Ok(NewFile { named, writer: BufWriter::new(file), place: Place::Direct });
        }
        refuse_taken(path, replace)?;
        // A link stays one: what it leads to is written.
        let target = path.canonicalize().unwrap_or_else(|_| path.to_owned());
        let claim = Claim::of(&target).map_err(refused())?;
        let beside = claim.beside();
        if beside.is_busy {
            return Err(WriteError::Busy { path: path.display().to_string() });
        }
        for left in beside.left {
            // Only tidying up: nothing must fail because of it.
            let _ = fs::remove_file(left.path);
        }
        let (aside, file) = claim.new_file().map_err(refused())?;
        if let Some(meta) = meta {
            file.set_permissions(meta.permissions()).map_err(refused())?;
        }
        Ok(NewFile { named, writer: BufWriter::new(file), place: Place::Beside { target, aside, replace } })
    }

    /// Moves the file into its place, now that all is written.
    ///
    /// # Errors
    ///
    /// If something has appeared there that was not to be replaced, or the system refuses.
    pub fn finish(mut self) -> Result<(), WriteError> {
        let named = self.named;
        self.writer.flush().map_err(WriteError::refused(&named))?;
        let Place::Beside { target, aside, replace } = self.place else { return Ok(()) };
        self.writer.get_ref().sync_all().map_err(WriteError::refused(&named))?;
        let mut finishing = Finishing::begin();
        let moved = if replace { fs::rename(aside.path(), &target) } else { move_new(aside.path(), &target) };
        moved.map_err(|why| match why.kind() {
            io::ErrorKind::AlreadyExists => WriteError::Exists { path: named.display().to_string() },
            _ => WriteError::refused(&named)(why),
        })?;
        finishing.forget(aside.path());
        drop(finishing);
        sync_folder(
            target.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new(".")),
        );
        Ok(())
    }
}

impl Write for NewFile {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.writer.write(bytes)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.writer.flush()
    }
}

/// Writes a whole file.
///
/// # Errors
///
/// If the place is taken and not to be replaced, or the system refuses.
pub fn write_file(path: &Path, content: &[u8], replace: bool) -> Result<(), WriteError> {
    let mut file = NewFile::create(path, replace)?;
    file.write_all(content).map_err(WriteError::refused(path))?;
    file.finish()
}

/// Refuses a place that is taken, before any work is done for it.
///
/// # Errors
///
/// If something is there that is not to be replaced, or that is a folder.
pub fn refuse_taken(path: &Path, replace: bool) -> Result<(), WriteError> {
    let shown = || path.display().to_string();
    match fs::metadata(path) {
        Ok(meta) if meta.is_dir() => Err(WriteError::IsFolder { path: shown() }),
        Ok(meta) if meta.is_file() && !replace => Err(WriteError::Exists { path: shown() }),
        // A link that leads nowhere is something that the user made.
        Err(_) if path.symlink_metadata().is_ok() => Err(WriteError::Exists { path: shown() }),
        _ => Ok(()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_file_is_whole_or_as_it_was() {
        let home = tempfile::tempdir().expect("a folder");
        let path = home.path().join("recipe.toml");
        fs::write(&path, "old").expect("written");
        assert!(matches!(write_file(&path, b"new", false), Err(WriteError::Exists { .. })));
        let mut unfinished = NewFile::create(&path, true).expect("begun");
        unfinished.write_all(b"ne").expect("written");
        assert!(matches!(NewFile::create(&path, true), Err(WriteError::Busy { .. })));
        drop(unfinished);
        assert_eq!(fs::read_to_string(&path).expect("there"), "old");
        write_file(&path, b"new", true).expect("replaced");
        assert_eq!(fs::read_to_string(&path).expect("there"), "new");
        assert_eq!(fs::read_dir(home.path()).expect("readable").count(), 1);
        assert!(matches!(write_file(home.path(), b"", true), Err(WriteError::IsFolder { .. })));
    }

    #[test]
    fn a_file_that_appears_meanwhile_is_not_replaced() {
        let home = tempfile::tempdir().expect("a folder");
        let path = home.path().join("words.model");
        let mut begun = NewFile::create(&path, false).expect("begun");
        begun.write_all(b"new").expect("written");
        fs::write(&path, "somebody's").expect("written");
        assert!(matches!(begun.finish(), Err(WriteError::Exists { .. })));
        assert_eq!(fs::read_to_string(&path).expect("there"), "somebody's");
        assert_eq!(fs::read_dir(home.path()).expect("readable").count(), 1);
    }

    #[cfg(unix)]
    #[test]
    fn links_and_permissions_stay() {
        use std::os::unix::fs::{PermissionsExt, symlink};
        let home = tempfile::tempdir().expect("a folder");
        let (path, link) = (home.path().join("recipe.toml"), home.path().join("link.toml"));
        fs::write(&path, "old").expect("written");
        fs::set_permissions(&path, fs::Permissions::from_mode(0o640)).expect("set");
        symlink("recipe.toml", &link).expect("linked");
        write_file(&link, b"new", true).expect("replaced");
        assert_eq!(fs::read_to_string(&path).expect("there"), "new");
        assert!(link.symlink_metadata().expect("there").is_symlink());
        assert_eq!(fs::metadata(&path).expect("there").permissions().mode() & 0o777, 0o640);
        write_file(Path::new("/dev/null"), b"gone", false).expect("written");
    }
}
