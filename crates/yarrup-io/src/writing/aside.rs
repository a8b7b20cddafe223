//! A place beside the one that is written to, locked as long as it is.

use std::ffi::OsString;
use std::fs::{self, File, OpenOptions, TryLockError};
use std::hash::{BuildHasher, RandomState};
use std::io;
use std::path::{Path, PathBuf};
use std::thread;
use std::time::Duration;

use super::unfinished::Finishing;

/// How long the folder of the place may be locked by another process before we go on without its lock.
const PATIENCE: Duration = Duration::from_secs(5);
const NAP: Duration = Duration::from_millis(5);
/// How many random names are tried.
const ATTEMPTS: u32 = 100;

/// The right to begin writing to a place: processes get it one after the other, so that of two that want the same place the second sees the first.
#[derive(Debug)]
pub(crate) struct Claim {
    folder: PathBuf,
    name: OsString,
    /// The folder, locked. None where folders cannot be locked.
    _lock: Option<File>,
}

/// Something that was left beside a place.
#[derive(Debug)]
pub(crate) struct Left {
    pub(crate) path: PathBuf,
    /// Whether it was moved out of its place, to be replaced.
    pub(crate) was_moved: bool,
    /// Holds off others while it is dealt with.
    _lock: File,
}

/// What stands beside a place, and is not its own.
#[derive(Debug, Default)]
pub(crate) struct Beside {
    /// What processes left that were killed.
    pub(crate) left: Vec<Left>,
    /// Whether a process is writing to the place.
    pub(crate) is_busy: bool,
}

const UNFINISHED: &str = "unfinished-";
const MOVED: &str = "replaced-";

impl Claim {
    /// Waits for the right to begin. The folder of the place is made if it is not there.
    pub(crate) fn of(target: &Path) -> io::Result<Claim> {
        let Some(name) = target.file_name() else {
            return Err(io::Error::new(io::ErrorKind::InvalidInput, "names no place that can be written to"));
        };
        let folder = match target.parent() {
            Some(folder) if !folder.as_os_str().is_empty() => folder.to_owned(),
            _ => PathBuf::from("."),
        };
        fs::create_dir_all(&folder)?;
        Ok(Claim { _lock: locked_in_time(&folder), folder, name: name.to_owned() })
    }

    fn prefix(&self, what: &str) -> OsString {
        let mut prefix = OsString::from(".");
        prefix.push(&self.name);
        prefix.push(".");
        prefix.push(what);
        prefix
    }

    /// Looks at what else stands beside the place.
    pub(crate) fn beside(&self) -> Beside {
        let mut beside = Beside::default();
        let prefixes = [(self.prefix(UNFINISHED), false), (self.prefix(MOVED), true)];
        for entry in fs::read_dir(&self.folder).into_iter().flatten().flatten() {
            let name = entry.file_name();
            let of_ours = prefixes.iter().find(|(prefix, _)| {
                let rest = name.as_encoded_bytes().strip_prefix(prefix.as_encoded_bytes());
                rest.is_some_and(is_random)
            });
            let Some(&(_, was_moved)) = of_ours else { continue };
            let Ok(opened) = File::open(entry.path()) else { continue };
            match opened.try_lock() {
                Ok(()) => beside.left.push(Left { path: entry.path(), was_moved, _lock: opened }),
                Err(TryLockError::WouldBlock) => beside.is_busy = true,
                // Where nothing can be locked, nobody can tell whether it is still written.
                Err(TryLockError::Error(_)) => {}
            }
        }
        beside.left.sort_by(|one, other| one.path.cmp(&other.path));
        beside
    }

    fn fresh(&self, what: &str) -> PathBuf {
        let mut name = self.prefix(what);
        name.push(format!("{:016x}", RandomState::new().hash_one(0)));
        self.folder.join(name)
    }

    /// A place to which what stands at the target can be moved.
    pub(crate) fn moved(&self) -> PathBuf {
        self.fresh(MOVED)
    }

    /// Makes a folder beside the place.
    pub(crate) fn new_folder(&self) -> io::Result<Aside> {
        self.made(|path| {
            fs::create_dir(path)?;
            // Folders cannot be opened, and so not be locked, on every system.
            Ok(File::open(path).ok())
        })
    }

    /// Makes a file beside the place.
    pub(crate) fn new_file(&self) -> io::Result<(Aside, File)> {
        let mut file = None;
        let aside = self.made(|path| {
            let made = OpenOptions::new().write(true).create_new(true).open(path)?;
            let lock = made.try_clone()?;
            file = Some(made);
            Ok(Some(lock))
        })?;
        match file {
            Some(file) => Ok((aside, file)),
            None => Err(io::Error::other("no file was made")),
        }
    }

    fn made(&self, mut make: impl FnMut(&Path) -> io::Result<Option<File>>) -> io::Result<Aside> {
        for _ in 0..ATTEMPTS {
            let path = self.fresh(UNFINISHED);
            let mut finishing = Finishing::begin();
            let lock = match make(&path) {
                Err(why) if why.kind() == io::ErrorKind::AlreadyExists => continue,
                other => other?,
            };
            match lock.as_ref().map(File::try_lock) {
                // Somebody took it for abandoned between two of our steps, and removes it.
                Some(Err(TryLockError::WouldBlock)) => continue,
                _ if path.symlink_metadata().is_err() => continue,
                _ => {}
            }
            finishing.add(&path);
            return Ok(Aside { path, _lock: lock });
        }
        Err(io::Error::other("no free name beside it"))
    }
}

/// A file or folder beside the place that it is written for. Dropped before it was moved there, it is gone.
#[derive(Debug)]
pub(crate) struct Aside {
    path: PathBuf,
    _lock: Option<File>,
}

impl Aside {
    pub(crate) fn path(&self) -> &Path {
        &self.path
    }
}

impl Drop for Aside {
    fn drop(&mut self) {
        // What was moved into its place is not here any more. Else the error that brought us here is the one to tell.
        let _ = match self.path.symlink_metadata() {
            Ok(meta) if meta.is_dir() => fs::remove_dir_all(&self.path),
            Ok(_) => fs::remove_file(&self.path),
            Err(_) => Ok(()),
        };
        Finishing::begin().forget(&self.path);
    }
}

/// Whether this is the name of something that a process writes, or left when it was killed.
pub(crate) fn is_unfinished(name: &str) -> bool {
    let random = name.strip_prefix('.').and_then(|name| name.rsplit_once(".unfinished-"));
    random.is_some_and(|(_, random)| is_random(random.as_bytes()))
}

/// Whether this is the random part of a name.
fn is_random(part: &[u8]) -> bool {
    part.len() == 16 && part.iter().all(|byte| byte.is_ascii_digit() || (b'a'..=b'f').contains(byte))
}

/// The folder, locked; none where that cannot be, or somebody holds the lock for long.
fn locked_in_time(folder: &Path) -> Option<File> {
    let opened = File::open(folder).ok()?;
    let mut waited = Duration::ZERO;
    loop {
        match opened.try_lock() {
            Ok(()) => return Some(opened),
            Err(TryLockError::WouldBlock) if waited < PATIENCE => {
                thread::sleep(NAP);
                waited += NAP;
            }
            Err(_) => return None,
        }
    }
}

/// Flushes a folder to the disk, so that the names in it last. Systems that cannot do that have no need of it.
pub(crate) fn sync_folder(folder: &Path) {
    if let Ok(opened) = File::open(folder) {
        let _ = opened.sync_all();
    }
}

/// Flushes all that a folder holds to the disk.
pub(crate) fn sync_tree(folder: &Path) -> io::Result<()> {
    for entry in fs::read_dir(folder)? {
        let entry = entry?;
        if entry.file_type()?.is_dir() {
            sync_tree(&entry.path())?;
        } else {
            File::open(entry.path())?.sync_all()?;
        }
    }
    sync_folder(folder);
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_second_writer_sees_the_first_and_what_a_killed_one_left() {
        let home = tempfile::tempdir().expect("a folder");
        let target = home.path().join("run");
        let aside = Claim::of(&target).expect("a claim").new_folder().expect("a folder");
        let claim = Claim::of(&target).expect("a claim");
        assert!(claim.beside().is_busy);
        // A killed process leaves its folder, and no lock.
        let left = home.path().join(".run.unfinished-0123456789abcdef");
        fs::create_dir(&left).expect("a folder");
        // Names that are not quite ours are somebody's.
        for other in [
            ".run.unfinished-12345",
            ".run.unfinished-0123456789abcdeX",
            ".other.unfinished-0123456789abcdef",
        ] {
            fs::create_dir(home.path().join(other)).expect("a folder");
        }
        let beside = claim.beside();
        assert_eq!(beside.left.iter().map(|left| &left.path).collect::<Vec<_>>(), [&left]);
        drop((beside, aside));
        assert!(!claim.beside().is_busy);
        assert_eq!(fs::read_dir(home.path()).expect("readable").count(), 4);
    }
}
