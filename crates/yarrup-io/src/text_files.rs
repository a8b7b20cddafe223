//! Folders of files.

use std::path::{Path, PathBuf};

use walkdir::WalkDir;

use crate::format::Format;
use crate::input::SourceError;

/// A text file, read whole.
#[derive(Debug)]
pub(crate) struct TextFile {
    pub(crate) name: String,
    pub(crate) bytes: Vec<u8>,
}

pub(crate) struct FoundFile {
    /// The path within the folder, with `/` on every system.
    pub(crate) name: String,
    pub(crate) path: PathBuf,
    pub(crate) bytes: u64,
}

pub(crate) struct FoundFiles {
    pub(crate) files: Vec<FoundFile>,
    pub(crate) passed_over: Vec<String>,
}

/// The files of a folder and its folders, in the order of their paths. Hidden ones and run folders are left out.
pub(crate) fn in_folder(folder: &Path, place: &str) -> Result<FoundFiles, SourceError> {
    let mut found = FoundFiles { files: Vec::new(), passed_over: Vec::new() };
    let hidden = |name: &std::ffi::OsStr| name.to_string_lossy().starts_with('.');
    // What an earlier run left in the folder is no source of the next.
    let is_run = |path: &Path| path.join("run.json").is_file() && path.join("effects.csv").is_file();
    let walk = WalkDir::new(folder)
        .follow_links(true)
        .sort_by_file_name()
        .into_iter()
        .filter_entry(|entry| entry.depth() == 0 || !(hidden(entry.file_name()) || is_run(entry.path())));
    for entry in walk {
        let entry = entry.map_err(|error| {
            let at = error.path().map_or_else(|| place.to_owned(), |path| path.display().to_string());
            let told = error.to_string();
            let why = error.into_io_error().unwrap_or_else(|| std::io::Error::other(told));
            SourceError::Unreadable { place: at, why }
        })?;
        if !entry.file_type().is_file() {
            continue;
        }
        let inside = entry.path().strip_prefix(folder).unwrap_or(entry.path());
        let parts: Vec<_> = inside.iter().map(|part| part.to_string_lossy()).collect();
        let name = parts.join("/");
        if Format::of_ending(entry.path()).is_none() {
            found.passed_over.push(name);
            continue;
        }
        let bytes = entry.metadata().map_or(0, |meta| meta.len());
        found.files.push(FoundFile { name, path: entry.into_path(), bytes });
    }
    if found.files.is_empty() {
        return Err(SourceError::EmptyFolder { place: place.to_owned() });
    }
    Ok(found)
}
