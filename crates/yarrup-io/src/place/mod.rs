//! Where sources are: files, folders, standard input, addresses on the network.

mod folder;
mod pattern;
#[cfg(feature = "web")]
mod web;
#[cfg(not(feature = "web"))]
#[path = "web/left_out.rs"]
mod web;

use std::fs::File;
use std::io::{self, Read};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use thiserror::Error;
use xxhash_rust::xxh3::Xxh3;
use yarrup_core::recipe::nearest;

use crate::bounded::read_bounded;
use crate::collection::{Login, SourceSpec};
use crate::database::{Address, rows_of};
use crate::documents::{Format, Holding, Input, Out, ReadError};
use crate::names::{ending, is_address, is_database};
use crate::record::Why;
use crate::registry::FORMATS;
use crate::run::{OriginalsRecord, PACKED_DOCUMENTS_FILE, is_run, read_originals, read_run};
use crate::sidecar::side_fields;

pub use pattern::matching_files;

/// Why a source cannot be read at all.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum SourceError {
    /// The file or folder is not there.
    #[error("{place}: there is no such file or folder; {hint}")]
    Missing {
        /// What was asked for.
        place: String,
        /// What may be meant.
        hint: String,
    },
    /// The file or folder is not readable.
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

    /// Why nothing can be said of the file or folder at `path`.
    fn of_path(place: &str, path: &Path, why: io::Error) -> SourceError {
        if why.kind() != io::ErrorKind::NotFound {
            return SourceError::Unreadable { place: place.to_owned(), why };
        }
        let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
        let beside = std::fs::read_dir(folder).into_iter().flatten().flatten();
        let mut names: Vec<String> =
            beside.filter_map(|entry| entry.file_name().into_string().ok()).collect();
        names.sort();
        let name = path.file_name().and_then(|name| name.to_str()).unwrap_or_default();
        let hint = match nearest(name, names.iter().map(String::as_str)) {
            Some(near) => format!("did you mean `{}`?", path.with_file_name(near).display()),
            None if folder.is_dir() => "check how it is spelled".to_owned(),
            None => format!("the folder `{}` is not there either", folder.display()),
        };
        SourceError::Missing { place: place.to_owned(), hint }
    }
}

/// Something to be opened and read.
pub(crate) enum Place {
    StandardInput(String),
    File(FoundFile),
    /// An address of a file, an archive or a listing.
    Address(String, Option<Login>),
    /// The address of a database.
    Database(String, Option<Login>),
    /// The documents of a run whose original texts are elsewhere.
    WithoutOriginals(Box<Referring>),
    /// What is read already.
    Stream(String, Box<dyn Read + Send>),
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
    /// The format, where the place tells it.
    pub(crate) format: Option<Format>,
    /// Whether it is one file that stays where it is and can quickly be read again.
    pub(crate) stays: bool,
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
    let name = || source.called.clone().unwrap_or_else(|| "standard input".to_owned());
    if let (true, Some(path)) = (source.is_standard_input(), &source.spool) {
        let file = FoundFile {
            name: name(),
            path: path.path().to_owned(),
            side: None,
            asked_for: true,
            expected: None,
        };
        return Ok(Found { places: vec![Place::File(file)], ..Found::default() });
    }
    if source.is_standard_input() {
        return Ok(Found { places: vec![Place::StandardInput(name())], ..Found::default() });
    }
    if is_address(place) {
        web::check(place)?;
        return Ok(Found {
            places: vec![Place::Address(place.to_owned(), source.login.clone())],
            ..Found::default()
        });
    }
    if is_database(place) {
        return Ok(Found {
            places: vec![Place::Database(place.to_owned(), source.login.clone())],
            format: FORMATS.named("postgresql"),
            ..Found::default()
        });
    }
    let path = source.path();
    let meta = std::fs::metadata(&path).map_err(|why| SourceError::of_path(place, &path, why))?;
    if meta.is_dir() && is_run(&path) {
        return run_documents(&path, place, source);
    }
    if meta.is_dir() {
        return folder::find(&path, place, &source.options);
    }
    // Told before anything is done, and not behind an hour of work.
    if meta.is_file() {
        File::open(&path).map_err(SourceError::unreadable(place))?;
    }
    let side = crate::sidecar::of_file(&path);
    let format = source.options.format.or_else(|| FORMATS.of_ending(&ending(place)?));
    let is_quick = format.is_some_and(|format| FORMATS.reads_lines(format));
    let stays = meta.is_file() && side.is_none() && is_quick;
    let name = source.called.clone().unwrap_or_else(|| place.to_owned());
    let file = FoundFile { name, path, side, asked_for: true, expected: None };
    let mut found = Found { bytes: Some(0), stays, ..Found::default() };
    found.add_size(place, meta.len());
    found.places.push(Place::File(file));
    Ok(found)
}

/// The documents of a run folder: the originals, and nothing of what the run made of them.
fn run_documents(run: &Path, place: &str, source: &SourceSpec) -> Result<Found, SourceError> {
    let broken = |why: &dyn std::fmt::Display| SourceError::Run { why: why.to_string() };
    let record = read_run(run).map_err(|why| broken(&why))?;
    let Some((file, written)) = record.documents_file().and_then(|name| record.files.get_key_value(name))
    else {
        return Err(SourceError::unreadable(place)(io::Error::other(
            "the run holds no documents: run it again without --without-documents",
        )));
    };
    let name = format!("{}/{file}", place.trim_end_matches('/'));
    let path = run.join(file);
    let format = FORMATS.named("jsonl");
    let mut found = Found { bytes: Some(0), of_run: true, format, ..Found::default() };
    found.add_size(&name, written.bytes);
    let originals =
        if source.cleaned_alone { None } else { read_originals(run, &record).map_err(|why| broken(&why))? };
    found.places.push(match originals {
        None => Place::File(FoundFile {
            name,
            path,
            side: None,
            asked_for: true,
            expected: Some(written.hash.clone()),
        }),
        Some(originals) => {
            let file = File::open(&path).map_err(SourceError::unreadable(&name))?;
            let file = Confirmed { file, hash: Xxh3::new(), expected: written.hash.clone() };
            let reader: Box<dyn Read + Send> = match record.documents_file() {
                Some(PACKED_DOCUMENTS_FILE) => {
                    Box::new(zstd::Decoder::new(file).map_err(SourceError::unreadable(&name))?)
                }
                _ => Box::new(file),
            };
            let run = run.to_owned();
            Place::WithoutOriginals(Box::new(Referring {
                name,
                run,
                reader,
                originals,
                holding: source.options.holding.clone(),
            }))
        }
    });
    Ok(found)
}

/// The documents of a run whose original texts stayed in their sources.
pub(crate) struct Referring {
    pub(crate) name: String,
    /// The run folder.
    pub(crate) run: PathBuf,
    /// Reads its documents.
    pub(crate) reader: Box<dyn Read + Send>,
    pub(crate) originals: OriginalsRecord,
    /// What their lines must hold.
    pub(crate) holding: Holding,
}

/// A file that must be as it was written, which shows at its end.
struct Confirmed {
    file: File,
    hash: Xxh3,
    expected: String,
}

impl Read for Confirmed {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let count = self.file.read(buffer)?;
        self.hash.update(&buffer[..count]);
        if count == 0 && !buffer.is_empty() && format!("{:032x}", self.hash.digest128()) != self.expected {
            return Err(io::Error::other("was cut or changed since the run wrote it; make the run again"));
        }
        Ok(count)
    }
}

impl Place {
    pub(crate) fn name(&self) -> &str {
        match self {
            Place::StandardInput(name) => name,
            Place::File(file) => &file.name,
            Place::Address(address, _) | Place::Database(address, _) => address,
            Place::WithoutOriginals(referring) => &referring.name,
            Place::Stream(name, _) => name,
        }
    }

    /// Opens it to be read; none if it was read already, or cannot be read, which is noted.
    pub(crate) fn open(self, out: &mut dyn Out) -> Result<Option<Input<'static>>, ReadError> {
        match self {
            Place::StandardInput(name) => {
                let mut input = Input::new(name, io::stdin());
                input.opened.live = true;
                input.asked_for = true;
                Ok(Some(input))
            }
            Place::File(file) => open_file(file, out),
            Place::Address(address, login) => web::read(&address, login.as_ref(), out).map(|()| None),
            Place::Database(address, login) => open_database(&address, login.as_ref(), out),
            Place::Stream(name, reader) => {
                let mut input = Input::new(name, reader);
                input.asked_for = true;
                Ok(Some(input))
            }
            Place::WithoutOriginals(referring) => {
                // Whoever opens sources has put them together.
                out.no_document(Why::File(format!("{}: no original texts", referring.name)))?;
                Ok(None)
            }
        }
    }
}

/// Opens a table or a query of a database; none if that cannot be, which is noted.
fn open_database(
    place: &str,
    login: Option<&Login>,
    out: &mut dyn Out,
) -> Result<Option<Input<'static>>, ReadError> {
    let options = out.options();
    let address = Address::read(place, login, options.certificates.as_deref(), options.patience);
    let rows =
        address.and_then(|address| rows_of(&address, options.table.as_deref(), options.query.as_deref()));
    match rows {
        Ok((table, rows)) => {
            let place = place.split('?').next().unwrap_or(place);
            let mut input = Input::new(format!("{place} {table}"), rows);
            input.asked_for = true;
            Ok(Some(input))
        }
        Err(why) => {
            out.no_document(Why::File(why))?;
            Ok(None)
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
