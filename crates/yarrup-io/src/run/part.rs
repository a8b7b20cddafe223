//! A run that is put together with others: a run folder, or the files of one in a tar archive, as `yarrup pipe --account` writes it.

use std::fs::{self, File};
use std::io::{self, BufReader, Read, Write};
use std::path::{Component, Path, PathBuf};

use tempfile::{Builder, TempDir};
use xxhash_rust::xxh3::Xxh3;
use yarrup_core::Account;

use crate::run::COURSE_FILE;
use crate::run::account_file::account_of;
use crate::run::course::CourseReader;
use crate::run::error::{RunError, damaged, refused};
use crate::run::record::{PACKED_DOCUMENTS_FILE, RECORD_FILE, RunRecord, read_part};
use crate::writing::Finishing;

/// A run that is to be put together with others.
#[derive(Debug)]
pub struct RunPart {
    named: PathBuf,
    /// Its folder; where it came as an archive, as it was unpacked.
    folder: PathBuf,
    _unpacked: Option<Unpacked>,
    /// Its record.
    pub record: RunRecord,
}

/// A folder with the files of an archive, which goes with this.
#[derive(Debug)]
struct Unpacked(TempDir);

impl Drop for Unpacked {
    fn drop(&mut self) {
        Finishing::begin().forget(self.0.path());
    }
}

impl RunPart {
    /// Opens what stands at a place.
    ///
    /// # Errors
    ///
    /// If there is no run there, it cannot be read, or it was made by a version that wrote no course.
    pub fn open(named: &Path) -> Result<RunPart, RunError> {
        let (folder, unpacked) = if named.is_file() {
            let unpacked = unpack(named)?;
            (unpacked.0.path().to_owned(), Some(unpacked))
        } else {
            (named.to_owned(), None)
        };
        let record = read_part(&folder).map_err(|why| match why {
            RunError::NoRun { .. } => RunError::NoRun { path: named.display().to_string() },
            other => other,
        })?;
        if !record.files.contains_key(COURSE_FILE) {
            return Err(RunError::OtherVersion { path: named.display().to_string(), made: "an older" });
        }
        Ok(RunPart { named: named.to_owned(), folder, _unpacked: unpacked, record })
    }

    /// As it was named.
    pub fn named(&self) -> &Path {
        &self.named
    }

    /// The folder in which its files are.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// Its course, from the first batch on.
    ///
    /// # Errors
    ///
    /// If it cannot be read.
    pub fn course(&self) -> Result<CourseReader<FileOfRun>, RunError> {
        let file = self.file(COURSE_FILE)?;
        CourseReader::new(file).map_err(|why| damaged(&self.named.join(COURSE_FILE), &why))
    }

    /// What it counted.
    ///
    /// # Errors
    ///
    /// If it cannot be read.
    pub fn account(&self) -> Result<Account, RunError> {
        account_of(&self.folder, &self.record)
    }

    /// A file of it, from the front to the back.
    ///
    /// # Errors
    ///
    /// If it cannot be read.
    pub fn file(&self, name: &str) -> Result<FileOfRun, RunError> {
        let path = self.folder.join(name);
        let file = File::open(&path).map_err(refused(&self.named.join(name)))?;
        let size = file.metadata().map_err(refused(&path))?.len();
        if self.record.files.get(name).is_some_and(|written| written.bytes != size) {
            self.record.confirm(&self.named, name, size, "")?;
        }
        let written = self.record.files.get(name).map(|written| written.hash.clone());
        let file = BufReader::with_capacity(1 << 16, file);
        Ok(FileOfRun { name: name.to_owned(), file, hash: Xxh3::new(), written })
    }

    /// The lines of its documents, unpacked; none if it has none.
    ///
    /// # Errors
    ///
    /// If they cannot be read.
    pub fn documents(&self) -> Result<Option<Box<dyn Read + Send>>, RunError> {
        let Some(name) = self.record.documents_file() else { return Ok(None) };
        let file = self.file(name)?;
        // A part of few documents may have none, and then there is nothing to unpack.
        let is_empty = self.record.files.get(name).is_some_and(|written| written.bytes == 0);
        if name != PACKED_DOCUMENTS_FILE || is_empty {
            return Ok(Some(Box::new(file)));
        }
        let unpacking = zstd::Decoder::new(file).map_err(refused(&self.named.join(name)))?;
        Ok(Some(Box::new(unpacking)))
    }
}

/// A file of a run, which at its end must be as the run wrote it.
pub struct FileOfRun {
    name: String,
    file: BufReader<File>,
    hash: Xxh3,
    written: Option<String>,
}

impl Read for FileOfRun {
    fn read(&mut self, bytes: &mut [u8]) -> io::Result<usize> {
        let count = self.file.read(bytes)?;
        self.hash.update(&bytes[..count]);
        let is_end = count == 0 && !bytes.is_empty();
        if is_end
            && let Some(written) = self.written.take()
            && written != format!("{:032x}", self.hash.digest128())
        {
            let name = &self.name;
            return Err(io::Error::other(format!(
                "{name} was changed since the run wrote it; make the run again"
            )));
        }
        Ok(count)
    }
}

/// Packs all files of a run folder into one, which is a part as the folder is.
///
/// # Errors
///
/// If the folder cannot be read, or `out` fails.
pub fn pack_part(folder: &Path, out: &mut impl Write) -> io::Result<()> {
    let record = read_part(folder).map_err(io::Error::other)?;
    let mut archive = tar::Builder::new(out);
    // Equal parts are equal files: nothing of the time and the user.
    archive.mode(tar::HeaderMode::Deterministic);
    for name in std::iter::once(RECORD_FILE).chain(record.files.keys().map(String::as_str)) {
        archive.append_path_with_name(folder.join(name), name)?;
    }
    archive.finish()
}

fn unpack(named: &Path) -> Result<Unpacked, RunError> {
    let no_part =
        |why: &dyn std::fmt::Display| damaged(named, &format!("this is not a part of a run: {why}"));
    let mut finishing = Finishing::begin();
    let folder = Builder::new().prefix("yarrup-part-").tempdir().map_err(refused(named))?;
    finishing.add(folder.path());
    drop(finishing);
    let unpacked = Unpacked(folder);
    let mut archive = tar::Archive::new(BufReader::new(File::open(named).map_err(refused(named))?));
    for entry in archive.entries().map_err(|why| no_part(&why))? {
        let mut entry = entry.map_err(|why| no_part(&why))?;
        let name = entry.path().map_err(|why| no_part(&why))?.into_owned();
        // An archive may come from anybody: what it holds lies in the folder, and is a file.
        let is_plain = name.components().all(|part| matches!(part, Component::Normal(_)));
        if !is_plain || !entry.header().entry_type().is_file() {
            return Err(no_part(&format!("it holds {}", name.display())));
        }
        let path = unpacked.0.path().join(&name);
        let written = fs::create_dir_all(path.parent().unwrap_or(unpacked.0.path()))
            .and_then(|()| File::create(&path))
            .and_then(|mut file| io::copy(&mut entry, &mut file));
        written.map_err(refused(named))?;
    }
    Ok(unpacked)
}
