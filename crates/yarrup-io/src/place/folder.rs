//! Folders of files.

use std::collections::{HashMap, HashSet};
use std::path::{Path, PathBuf};

use walkdir::WalkDir;

use crate::documents::ReadOptions;
use crate::names::is_hidden;
use crate::place::{Found, FoundFile, Place, SourceError};
use crate::run::is_run;
use crate::sidecar::SideFiles;

/// The files of a folder and its folders, in the order of their paths. Hidden ones and run folders are left out.
pub(crate) fn find(folder: &Path, place: &str, options: &ReadOptions) -> Result<Found, SourceError> {
    let hidden = |name: &std::ffi::OsStr| !options.hidden && is_hidden(&name.to_string_lossy());
    // What an earlier run left in the folder is no source of the next.
    // Links may lead to what is read anyway, or to a folder above: each folder is read once.
    let mut seen = HashSet::new();
    let mut again = Vec::new();
    let walk =
        WalkDir::new(folder).follow_links(true).sort_by_file_name().into_iter().filter_entry(|entry| {
            let leave_out = entry.depth() > 0 && (hidden(entry.file_name()) || is_run(entry.path()));
            if leave_out || !entry.file_type().is_dir() {
                return !leave_out;
            }
            let first = entry.path().canonicalize().is_ok_and(|path| seen.insert(path));
            if !first {
                again.push(format!(
                    "{} (a link to a folder that is read already)",
                    name_within(folder, entry.path())
                ));
            }
            first
        });
    let mut found = Found { bytes: Some(0), ..Found::default() };
    let mut files = Vec::new();
    for entry in walk {
        let entry = match entry {
            Ok(entry) => entry,
            // A link back to a folder above is followed once, and no more.
            Err(error) if error.loop_ancestor().is_some() => {
                let at = error.path().map_or_else(String::new, |path| name_within(folder, path));
                found.passed_over.push(format!("{at} (a link back to a folder that it lies in)"));
                continue;
            }
            Err(error) if error.depth() > 0 => {
                let at = error.path().map_or_else(String::new, |path| name_within(folder, path));
                let why = error.io_error().map_or_else(|| "cannot be read".to_owned(), ToString::to_string);
                found.passed_over.push(format!("{at} ({why})"));
                continue;
            }
            Err(error) => {
                let told = error.to_string();
                let why = error.into_io_error().unwrap_or_else(|| std::io::Error::other(told));
                return Err(SourceError::Unreadable { place: place.to_owned(), why });
            }
        };
        if entry.file_type().is_file() {
            let bytes = entry.metadata().map_or(0, |meta| meta.len());
            files.push((name_within(folder, entry.path()), entry.into_path(), bytes));
        }
    }
    found.passed_over.append(&mut again);
    let any = !files.is_empty();
    let sides = SideFiles::among(files.iter().map(|(name, ..)| name.as_str()));
    let paths: HashMap<&str, &PathBuf> = files.iter().map(|(name, path, _)| (name.as_str(), path)).collect();
    for (name, path, bytes) in &files {
        if sides.is_side(name) || !options.takes(name) {
            continue;
        }
        let side = sides.of(name).and_then(|side| paths.get(side).map(|path| (*path).clone()));
        found.add_size(name, *bytes);
        found.places.push(Place::File(FoundFile {
            name: name.clone(),
            path: path.clone(),
            side,
            asked_for: options.asks_for(name),
            expected: None,
        }));
    }
    if found.places.is_empty() {
        let because = if any { ": the patterns take none of them" } else { ": it is empty" };
        return Err(SourceError::EmptyFolder { place: place.to_owned(), because: because.to_owned() });
    }
    Ok(found)
}

fn name_within(folder: &Path, path: &Path) -> String {
    let inside = path.strip_prefix(folder).unwrap_or(path);
    let parts: Vec<_> = inside.iter().map(|part| part.to_string_lossy()).collect();
    parts.join("/")
}
