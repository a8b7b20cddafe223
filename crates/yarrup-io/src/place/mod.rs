//! Where sources are: files, folders, standard input, addresses on the network.

mod folder;
mod web;

use std::fs::File;
use std::io;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use thiserror::Error;

use crate::bounded::read_bounded;
use crate::collection::{Login, SourceSpec};
use crate::documents::{Format, Input, Out, ReadError};
use crate::names::ending;
use crate::record::Why;
use crate::registry::FORMATS;
use crate::run::{DOCUMENTS_FILE, is_run, read_run};
use crate::sidecar::side_fields;

pub(crate) use web::is_address;

/// Why a source cannot be read at all.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum SourceError {
    /// The file or folder is not there or not readable.
    #[error("{place}: {why}")]
    Unreadable {
        /// What was asked for.
        place: String,
        /// The system's answer.
        why: io::Error,
    },
    /// A folder without a file that could be read.
    #[error("{place}: no file in this folder is read{because}")]
    EmptyFolder {
        /// The folder.
        place: String,
        /// What kept its files from being read.
        because: String,
    },
    /// A run folder whose documents cannot be read.
    #[error("{why}")]
    Run {
        /// What is wrong with it, with its place.
        why: String,
    },
    /// The address is none.
    #[error("{place}: {why}")]
    Address {
        /// What was asked for.
        place: String,
        /// What is wrong with it.
        why: String,
    },
    /// The network gave no answer that could be used.
    #[error("{place}: {why}")]
    Network {
        /// The address.
        place: String,
        /// What went wrong, and how often it was tried.
        why: String,
    },
}

impl SourceError {
    pub(crate) fn unreadable(place: &str) -> impl FnOnce(io::Error) -> SourceError + '_ {
        |why| SourceError::Unreadable { place: place.to_owned(), why }
    }
}

/// Something to be opened and read.
pub(crate) enum Place {
    StandardInput,
    File(FoundFile),
    /// An address of a file, an archive or a listing.
    Address(String, Option<Login>),
}

/// A file that was found.
pub(crate) struct FoundFile {
    /// The path as given, or within the folder that was given, with `/` on every system.
    pub(crate) name: String,
    pub(crate) path: PathBuf,
    /// Its side file.
    pub(crate) side: Option<PathBuf>,
    /// Whether it was named by the user.
    pub(crate) asked_for: bool,
    /// The hash that it must have, if that is known.
    pub(crate) expected: Option<String>,
}

/// What a source comes to.
#[derive(Default)]
pub(crate) struct Found {
    pub(crate) places: Vec<Place>,
    pub(crate) passed_over: Vec<String>,
    /// The size of all of them; none if something must be fetched or unpacked for it.
    pub(crate) bytes: Option<u64>,
    /// The size that they may have, what is compressed unpacked.
    pub(crate) likely_bytes: u64,
    /// Whether they are the documents of a run.
    pub(crate) of_run: bool,
}

impl Found {
    /// Adds a file of this name and size.
    fn add_size(&mut self, name: &str, size: u64) {
        let packed =
            ending(name).and_then(|ending| FORMATS.of_ending(&ending)).is_some_and(Format::is_wrapping);
        self.bytes = self.bytes.filter(|_| !packed).map(|bytes| bytes + size);
        // Text packs to a quarter or less.
        self.likely_bytes += if packed { size * 4 } else { size };
    }
}

/// Finds what there is to read at a source. Nothing is read yet.
pub(crate) fn find(source: &SourceSpec) -> Result<Found, SourceError> {
    let place = source.place.as_str();
    if let (true, Some(path)) = (source.is_standard_input(), &source.spool) {
        let name = "standard input".to_owned();
        let file =
            FoundFile { name, path: path.path().to_owned(), side: None, asked_for: true, expected: None };
        return Ok(Found { places: vec![Place::File(file)], ..Found::default() });
    }
    if source.is_standard_input() {
        return Ok(Found { places: vec![Place::StandardInput], ..Found::default() });
    }
    if is_address(place) {
        web::check(place)?;
        return Ok(Found {
            places: vec![Place::Address(place.to_owned(), source.login.clone())],
            ..Found::default()
        });
    }
    let path = source.path();
    let meta = std::fs::metadata(&path).map_err(SourceError::unreadable(place))?;
    if meta.is_dir() && is_run(&path) {
        return run_documents(&path, place);
    }
    if meta.is_dir() {
        return folder::find(&path, place, &source.options);
    }
    // Told before anything is done, and not behind an hour of work.
    if meta.is_file() {
        File::open(&path).map_err(SourceError::unreadable(place))?;
    }
    let side = crate::sidecar::of_file(&path);
    let file = FoundFile { name: place.to_owned(), path, side, asked_for: true, expected: None };
    let mut found = Found { bytes: Some(0), ..Found::default() };
    found.add_size(place, meta.len());
    found.places.push(Place::File(file));
    Ok(found)
}

/// The documents of a run folder: the originals, and nothing of what the run made of them.
fn run_documents(run: &Path, place: &str) -> Result<Found, SourceError> {
    let unreadable = |why: String| SourceError::unreadable(place)(io::Error::other(why));
    let record = read_run(run).map_err(|why| SourceError::Run { why: why.to_string() })?;
    let Some(written) = record.files.get(DOCUMENTS_FILE) else {
        return Err(unreadable(
            "the run holds no documents: run it again without --without-documents".to_owned(),
        ));
    };
    let name = format!("{}/{DOCUMENTS_FILE}", place.trim_end_matches('/'));
    let file = FoundFile {
        name: name.clone(),
        path: run.join(DOCUMENTS_FILE),
        side: None,
        asked_for: true,
        expected: Some(written.hash.clone()),
    };
    let mut found = Found { bytes: Some(0), of_run: true, ..Found::default() };
    found.add_size(&name, written.bytes);
    found.places.push(Place::File(file));
    Ok(found)
}

impl Place {
    pub(crate) fn name(&self) -> &str {
        match self {
            Place::StandardInput => "standard input",
            Place::File(file) => &file.name,
            Place::Address(address, _) => address,
        }
    }

    /// Opens it to be read; none if it was read already, or cannot be read, which is noted.
    pub(crate) fn open(self, out: &mut dyn Out) -> Result<Option<Input<'static>>, ReadError> {
        match self {
            Place::StandardInput => {
                let mut input = Input::new("standard input".into(), io::stdin());
                input.opened.live = true;
                input.asked_for = true;
                Ok(Some(input))
            }
            Place::File(file) => open_file(file, out),
            Place::Address(address, login) => web::read(&address, login.as_ref(), out).map(|()| None),
        }
    }
}

/// Opens a file of the disk; none if that cannot be, which is noted.
pub(crate) fn open_file(file: FoundFile, out: &mut dyn Out) -> Result<Option<Input<'static>>, ReadError> {
    let opened = match File::open(&file.path) {
        Ok(opened) => opened,
        Err(why) => {
            out.no_document(Why::File(why.to_string()))?;
            return Ok(None);
        }
    };
    let is_file = opened.metadata().is_ok_and(|meta| meta.is_file());
    let mut input = Input::new(file.name, opened);
    input.asked_for = file.asked_for;
    input.expected = file.expected;
    // What is no file, such as a named pipe, can be read only once.
    input.disk = is_file.then_some(file.path);
    input.opened.live = !is_file;
    input.side = match file.side.map(|side| read_side(&side)) {
        Some(Ok(fields)) => Some(fields),
        Some(Err((side, why))) => {
            out.malformed(side, Why::File(why))?;
            None
        }
        None => None,
    };
    Ok(Some(input))
}

fn read_side(path: &Path) -> Result<Arc<str>, (String, String)> {
    let name = path.display().to_string();
    let bytes = read_bounded(path).map_err(|why| (name.clone(), why.to_string()))?;
    side_fields(&name, &bytes).map(Into::into).map_err(|why| (name, why))
}
